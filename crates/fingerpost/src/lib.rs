//! Fingerpost.
pub mod condition;
pub mod markup;
pub mod selector;
pub mod sheet;
pub mod text;
pub mod value;
