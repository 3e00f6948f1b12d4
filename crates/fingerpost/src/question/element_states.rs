//! The states that elements are assumed to be in for a question: `:hover`, `:focus`, `:open` and their like.

use super::find::{ElementQuery, FindError, elements};
use crate::markup::ElementId;
use crate::page::Page;
use crate::selector::State;

/// The states that elements of the asked page are assumed to be in.
#[derive(Clone, Debug, Default)]
pub struct ElementStates {
    /// Those of the elements that are asked about.
    pub asked: Vec<State>,
    /// Those of other elements.
    pub others: Vec<InState>,
}

/// Elements in a state.
#[derive(Clone, Debug)]
pub struct InState {
    /// The elements.
    pub elements: ElementQuery,
    /// The state.
    pub state: State,
}

impl ElementStates {
    /// Whether no state is assumed.
    pub fn is_empty(&self) -> bool {
        self.asked.is_empty() && self.others.is_empty()
    }

    /// The page with the asked elements and the others in their states; none where no state is assumed.
    ///
    /// # Errors
    /// Where what names the others can't be read.
    pub fn on(&self, page: &Page, asked: &[ElementId]) -> Result<Option<Page>, FindError> {
        let mut all = Vec::new();
        for other in &self.others {
            let found = elements(page, &other.elements)?;
            all.extend(found.into_iter().map(|element| (element, other.state)));
        }
        for state in &self.asked {
            all.extend(asked.iter().map(|element| (*element, *state)));
        }
        Ok((!all.is_empty()).then(|| page.with_states(all)))
    }

    /// The same, where what can't be named any more is left out: an edit may have removed it.
    pub fn on_what_is_left(&self, page: &Page, asked: &[ElementId]) -> Option<Page> {
        self.on(page, asked).unwrap_or_else(|_| {
            let own = ElementStates {
                asked: self.asked.clone(),
                others: Vec::new(),
            };
            own.on(page, asked).ok().flatten()
        })
    }
}
