//! What a request is about: a page, an element of it, and the surroundings it is asked in.

use fingerpost::environment::Environment;
use fingerpost::question::element_states::ElementStates;
use fingerpost::selector::State;
use serde::Deserialize;

use crate::refusal::Refusal;

/// The part of a request that is the same for all questions.
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(default)]
pub(crate) struct Subject {
    /// The page, by its name in the site; the first one without it.
    pub page: Option<String>,
    /// The element, as the command names one: `@12`, a selector, a text in quotation marks.
    pub element: Option<String>,
    /// The surroundings, as the command prints them: `480x800; print; prefers-color-scheme=dark`.
    pub at: Option<String>,
    /// The states that the element is held in, such as `hover focus`.
    pub states: Option<String>,
}

impl Subject {
    /// The surroundings.
    pub fn environment(&self) -> Result<Environment, Refusal> {
        let at = self.at.as_deref().unwrap_or_default().trim();
        if at.is_empty() {
            return Ok(Environment::default());
        }
        at.parse().map_err(Refusal::bad)
    }

    /// The states.
    pub fn states(&self) -> Result<Vec<State>, Refusal> {
        let words = self
            .states
            .as_deref()
            .unwrap_or_default()
            .split_whitespace();
        words
            .map(|word| {
                State::named(word).ok_or_else(|| {
                    Refusal::bad(format!(
                        "'{word}' is not a state that can be held; expected one such as hover, focus or checked"
                    ))
                })
            })
            .collect()
    }

    pub fn element_states(&self) -> Result<ElementStates, Refusal> {
        Ok(ElementStates {
            asked: self.states()?,
            others: Vec::new(),
        })
    }
}
