//! Fingerpost.
pub mod cascade;
pub mod condition;
pub mod edit;
pub mod markup;
pub mod page;
pub mod question;
pub mod selector;
pub mod sheet;
pub mod site;
pub mod text;
pub mod value;
