//! Value grammars: the value definition syntax of CSS Values 4 § 2, and an engine that matches
//! values against it.
//!
//! [`Definition`] is a parsed grammar; [`Match`] is the result of matching a value: it fits, with
//! the part of the value that each named component took, or it does not, with the place that no
//! alternative got beyond and what was expected there.
//!
//! ```
//! use fingerpost::value::{PropertyId, match_property, offers, value_tokens};
//!
//! let inset = PropertyId::named("margin-top").unwrap();
//! let fits = |value: &str| match_property(inset, value, &value_tokens(value));
//! assert!(fits("calc(1em + 4px)").is_ok());
//! assert_eq!(fits("4px 2px").unwrap_err().expected, ["nothing more"]);
//!
//! // What can be written next.
//! let position = PropertyId::named("position").unwrap();
//! assert_eq!(offers(position, "st").word, "st");
//! ```

mod combine;
mod completion;
mod definition;
mod engine;
mod first;
mod fit;
mod fitting;
mod terminal;

pub use completion::{Offer, Offers, offers};
pub use definition::Definition;
pub use fit::{Captured, Label, Match, Mismatch};
pub use fitting::{match_definition, match_property};
pub(crate) use terminal::Terminal;
