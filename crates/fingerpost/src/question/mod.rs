//! Questions: one file each, a function from a page to plain data.
//!
//! An answer says everything that a face needs to show it: places, names, numbers, sentences. It
//! serialises to the documented JSON (`docs/json.md`); [`Answer`] puts the format's version on it.
//!
//! [`Page::ask`](crate::page::Page::ask) has them all.
//!
//! ```
//! use fingerpost::prelude::*;
//! use fingerpost::question::whynot::Asked;
//!
//! let html = "<style>.panel p { color: teal } p { color: navy }</style><div class=panle><p>Boats";
//! let page = Page::new(Text::new("a.html", html));
//! let ask = page.ask();
//! let p = ask.find_one("p")?;
//! let answer = ask.whynot(&p, &Asked::parse(".panel p"), ".panel p")?;
//! let obstacle = &answer.findings[0].obstacles[0];
//! assert_eq!(obstacle.kind.as_str(), "not-matched");
//! assert!(obstacle.sentence.contains("no ancestor is .panel"), "{}", obstacle.sentence);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod ask;
mod bundle;
pub mod classes;
pub mod codes;
pub mod complete;
pub mod contrast;
pub(crate) mod describe;
mod element_query;
pub mod element_states;
pub mod facts;
pub mod find;
mod find_error;
pub mod fonts;
mod hashed_name;
pub mod inventory;
mod meaning;
mod meant;
mod near_miss;
mod search;
pub mod selectors;
pub mod sheets;
pub mod state_needed;
pub mod trace;
pub mod tree;
pub mod values;
pub mod why;
pub mod whynot;

pub use ask::Questions;
pub use codes::UnknownCode;
pub(crate) use describe::misfit_text;
pub use describe::{ElementSummary, RuleSummary, site_rules};
pub(crate) use meaning::{Meaning, Utilities};

use serde::Serialize;

/// The version of the JSON answers. It rises when a field changes its meaning or goes away.
pub const ANSWER_VERSION: u32 = 2;

/// An answer as JSON: the format's version, the command's name, and the answer's own fields.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
pub struct Answer<'a, T> {
    /// [`ANSWER_VERSION`].
    pub fingerpost: u32,
    /// The command that was asked.
    pub command: &'a str,
    /// The answer.
    #[serde(flatten)]
    pub body: T,
}

impl<'a, T: Serialize> Answer<'a, T> {
    /// Puts the version and the command's name on an answer.
    pub fn new(command: &'a str, body: T) -> Self {
        Answer {
            fingerpost: ANSWER_VERSION,
            command,
            body,
        }
    }
}
