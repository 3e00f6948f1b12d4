//! Value grammars: the value definition syntax of CSS Values 4 § 2, and an engine that matches
//! values against it.
//!
//! [`Definition`] is a parsed grammar; [`Match`] is what came of matching a value: it fits, with
//! the part of the value that each named component took, or it does not, with the place that no
//! alternative got beyond and what was expected there.

mod completion;
mod definition;
mod first;
mod matching;
mod terminal;

pub use completion::{Offer, Offers, offers};
pub use definition::{Definition, Multiplier};
pub use matching::{Captured, Label, Match, Mismatch, match_definition, match_property};
pub(crate) use terminal::Terminal;
