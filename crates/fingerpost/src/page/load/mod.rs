//! Loading: the sheets that a page names, in cascade order, each with what its selectors and declarations say.

pub(in crate::page) mod builder;
mod import;
pub(in crate::page) mod loading;
pub(in crate::page) mod memo;
pub(in crate::page) mod readings;
pub(in crate::page) mod style_sheet;
