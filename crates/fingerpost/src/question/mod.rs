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
pub(crate) mod bundle;
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
mod handle;
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
pub use handle::PageHandle;
pub(crate) use meaning::{Meaning, Utilities};

use std::borrow::Cow;

use serde::{Deserialize, Serialize};

/// The version of the JSON answers. It rises when a field changes its meaning or goes away.
pub const ANSWER_VERSION: u32 = 2;

/// An answer as JSON: the format's version, the command's name, and the answer's own fields.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Answer<'a, T> {
    /// [`ANSWER_VERSION`].
    pub fingerpost: u32,
    /// The command that was asked.
    pub command: Cow<'a, str>,
    /// The answer.
    #[serde(flatten)]
    pub body: T,
}

impl<'a, T: Serialize> Answer<'a, T> {
    /// Puts the version and the command's name on an answer.
    pub fn new(command: impl Into<Cow<'a, str>>, body: T) -> Self {
        Answer {
            fingerpost: ANSWER_VERSION,
            command: command.into(),
            body,
        }
    }
}

impl<T: serde::de::DeserializeOwned> Answer<'static, T> {
    /// Reads what the command prints with `--json`, or the HTTP API answers.
    ///
    /// ```
    /// use fingerpost::question::Answer;
    /// use fingerpost::question::facts::FactsAnswer;
    ///
    /// let json = r#"{"fingerpost": 1, "command": "describe"}"#;
    /// let error = Answer::<FactsAnswer>::from_json(json).unwrap_err();
    /// assert_eq!(error.to_string(), "an answer of version 1; this program reads version 2");
    /// ```
    ///
    /// # Errors
    /// Where it is of another version, or not such an answer.
    pub fn from_json(json: &str) -> Result<Self, AnswerError> {
        #[derive(Deserialize)]
        struct Version {
            fingerpost: u32,
        }
        let Version { fingerpost } = serde_json::from_str(json)?;
        if fingerpost != ANSWER_VERSION {
            return Err(AnswerError::OtherVersion(fingerpost));
        }
        Ok(serde_json::from_str(json)?)
    }
}

/// Why a text is not an answer.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum AnswerError {
    /// Of another version than [`ANSWER_VERSION`].
    #[error("an answer of version {0}; this program reads version {ANSWER_VERSION}")]
    OtherVersion(u32),
    /// No JSON, or not what such an answer has.
    #[error("not such an answer: {0}")]
    NotSuch(#[from] serde_json::Error),
}
