//! Values: what the standards say about each property, and what a value results in.
//!
//! ```
//! use fingerpost::value::{PropertyId, color};
//!
//! let gap = PropertyId::named("gap").expect("it is one");
//! assert!(gap.is_shorthand());
//! assert_eq!(gap.longhands().len(), 2);
//! assert_eq!(PropertyId::nearest("backgorund-color"), Some("background-color"));
//! assert_eq!(color::read("#0b3d5c").to_string(), "rgb(11, 61, 92)");
//! ```

mod asks;
pub(crate) mod behavior;
pub(crate) mod calc;
pub mod color;
mod color_text;
pub(crate) mod computed;
pub(crate) mod declared;
pub mod facts;
#[rustfmt::skip]
mod facts_table;
pub(crate) mod grammar;
mod grid;
mod layers;
pub(crate) mod logical;
pub(crate) mod longhand;
pub(crate) mod math;
mod order;
mod part;
pub mod parts;
mod path_data;
mod property;
mod prose;
pub(crate) mod serialise;
pub(crate) mod shorthand;
pub(crate) mod sides;
pub(crate) mod specified;
pub(crate) mod substitution;
pub(crate) mod typed;
pub(crate) mod units;
pub(crate) mod value_context;

pub use asks::Dependencies;
pub use declared::{Meaning, Name, meaning};
pub use facts::{Property, PropertyId};
pub use grammar::{
    Captured, Definition, Label, Match, Mismatch, Offer, Offers, match_property, offers,
};
pub use substitution::{Substitutions, value_tokens};
pub use typed::Computed;

/// CSS Cascade 5 § 7.3: the keywords that every property takes.
pub fn is_css_wide(word: &str) -> bool {
    ["initial", "inherit", "unset", "revert", "revert-layer"]
        .iter()
        .any(|wide| word.eq_ignore_ascii_case(wide))
}
