//! Holds Fingerpost against what does not depends on it: a browser engine, other parsers, saving in between,
//! and arbitrary input.
//!
//! The tests are in `tests/`; here is what a fuzzer calls with bytes, one function a target. The same
//! functions are called with the inputs in `fuzz/seeds` by a test, so that every finding stays found.

pub mod fuzzed;
