//! Values: what the standards say of each property, and what a value comes to.

pub mod facts;
#[rustfmt::skip]
mod facts_table;
pub mod grammar;
mod grid;
mod layers;
pub mod math;
pub mod nearest;
pub mod shorthand;
pub mod substitution;
pub mod units;

pub use facts::{Property, PropertyId};
