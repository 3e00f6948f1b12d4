//! Fingerpost's answers against a browser engine.
//!
//! A page is served over HTTP on the loopback address, with scripts forbidden by its
//! `Content-Security-Policy`, and opened in headless Chromium over WebDriver. For every element of the
//! page the engine's computed values are read, and whether the element matches each selector of the
//! page's sheets; both are compared with ours. The root element is hidden first, so that lengths come
//! back as computed and not as laid out.
//!
//! What may differ, and why, is listed in `differences.toml`.

pub mod browser;
pub mod compare;
pub mod differences;
pub mod serve;
