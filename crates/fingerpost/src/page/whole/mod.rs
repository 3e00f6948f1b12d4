//! A whole page at once: what [`Styles`](super::Styles) works out for one element when asked, for every element,
//! sharing whatever is alike.
//!
//! ```text
//! texts → names → selectors → trails → matching → lists → groups → styles → answer
//!         names.rs program.rs trails.rs   lists.rs        groups.rs shared.rs
//! ```
//!
//! The names on a finished page are a closed set ([`names`]); the selectors are compiled over it ([`program`]) and
//! tried once for each trail that they can tell apart ([`trails`]) and where they look further once for each element
//! ([`lists`]), which finds a few hundred distinct lists of rules for ten thousand elements.
//! Elements with the same list below elements that are alike are alike ([`groups`]): their style is worked out
//! once ([`shared`]). Up to there nothing depends on the environment; a page at another width shares it all.
//! The reasons are not stored: the list is the reason, and a contest is built from it when a person asks.

mod carried;
mod group_styles;
mod groups;
mod lists;
mod name_needs;
mod program;
mod symbols;
mod trails;

pub(in crate::page) use carried::{AllStyles, Before, Changes, all_styles};
pub(crate) use group_styles::Style;
pub use group_styles::{ElementStyle, WholePage};
pub(in crate::page) use groups::RuleAsks;
pub(crate) use groups::{Groups, InheritanceFacts};
pub(in crate::page) use lists::ListId;
pub(crate) use lists::Matches;
pub(in crate::page) use symbols::Names;
