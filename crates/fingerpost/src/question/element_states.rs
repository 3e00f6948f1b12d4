//! The states that elements are assumed to be in for a question: `:hover`, `:focus`, `:open` and their like.

use super::find::{ElementQuery, FindError, elements};
use crate::markup::ElementId;
use crate::page::Page;
use crate::selector::State;

/// The states that elements of the asked page are pretended to be in.
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
    /// Puts the other elements of a page into their states.
    ///
    /// # Errors
    /// Where what names them can't be read.
    pub fn of_others(&self, page: &mut Page) -> Result<(), FindError> {
        for other in &self.others {
            for element in elements(page, &other.elements)? {
                page.pretend(element, other.state);
            }
        }
        Ok(())
    }

    /// Puts the asked elements of a page into their states.
    pub fn of_asked(&self, page: &mut Page, asked: &[ElementId]) {
        for (element, state) in asked
            .iter()
            .flat_map(|id| self.asked.iter().map(move |s| (id, s)))
        {
            page.pretend(*element, *state);
        }
    }
}
