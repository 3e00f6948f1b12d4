//! Fingerpost.
pub mod cascade;
pub mod condition;
pub mod markup;
pub mod page;
pub mod selector;
pub mod sheet;
pub mod text;
pub mod value;
