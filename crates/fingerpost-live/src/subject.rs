//! What a request is about: a page, an element of it, and the environment it is asked in.

use fingerpost::environment::Environment;
use fingerpost::question::element_states::ElementStates;
use fingerpost::selector::{State, UnknownState};
use serde::Deserialize;

use crate::refusal::Refusal;

/// The part of a request that is the same for all questions.
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(default)]
pub(crate) struct Subject {
    /// The page, by its name in the site; default: the first one.
    pub page: Option<String>,
    /// The element, as the command names one: `@12`, a selector, a text in quotation marks.
    pub element: Option<String>,
    /// The environment, as the command prints it: `480x800; print; prefers-color-scheme=dark`.
    pub environment: Option<String>,
    /// The states of the element, such as `hover focus`.
    pub states: Option<String>,
}

impl Subject {
    /// The environment.
    pub fn environment(&self) -> Result<Environment, Refusal> {
        let given = self.environment.as_deref().unwrap_or_default().trim();
        if given.is_empty() {
            return Ok(Environment::default());
        }
        given.parse().map_err(Refusal::bad)
    }

    /// The states.
    fn asked_states(&self) -> Result<Vec<State>, Refusal> {
        let words = self
            .states
            .as_deref()
            .unwrap_or_default()
            .split_whitespace();
        words
            .map(|word| {
                word.parse()
                    .map_err(|error: UnknownState| Refusal::bad(error))
            })
            .collect()
    }

    pub fn element_states(&self) -> Result<ElementStates, Refusal> {
        Ok(ElementStates {
            asked: self.asked_states()?,
            others: Vec::new(),
        })
    }
}
