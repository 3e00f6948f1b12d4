//! Fingerpost.
pub mod markup;
pub mod sheet;
pub mod text;
