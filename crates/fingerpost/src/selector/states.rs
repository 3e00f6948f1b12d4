//! The states that elements are assumed to be in.

use rustc_hash::FxHashSet;

use super::{Action, FormState, State};
use crate::markup::ElementId;

/// The states that elements are assumed to be in, such as hovered.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct States {
    element_states: FxHashSet<(ElementId, State)>,
    /// What no element is assumed to be in, whatever its markup says.
    nowhere: Vec<FormState>,
}

impl States {
    /// Puts an element into a state.
    pub fn add(&mut self, element: ElementId, state: State) {
        self.element_states.insert((element, state));
    }

    /// Takes every element out of a state that its markup may say.
    pub fn nowhere(&mut self, state: FormState) {
        if !self.nowhere.contains(&state) {
            self.nowhere.push(state);
        }
    }

    /// Whether no state is assumed.
    pub fn is_empty(&self) -> bool {
        self.element_states.is_empty() && self.nowhere.is_empty()
    }

    /// Whether it is assumed to be.
    pub fn has(&self, element: ElementId, state: State) -> bool {
        self.element_states.contains(&(element, state))
    }

    pub(super) fn acts(&self, element: ElementId, action: Action) -> bool {
        self.has(element, State::Action(action))
    }

    /// Whether a state is assumed that rules a state of the markup out.
    pub(super) fn contradicts(&self, element: ElementId, state: FormState) -> bool {
        use FormState::{
            Disabled, Enabled, InRange, Invalid, Optional, OutOfRange, ReadOnly, ReadWrite,
            Required, Valid,
        };
        let opposite = match state {
            Disabled => Enabled,
            Enabled => Disabled,
            InRange => OutOfRange,
            OutOfRange => InRange,
            Invalid => Valid,
            Valid => Invalid,
            Optional => Required,
            Required => Optional,
            ReadOnly => ReadWrite,
            ReadWrite => ReadOnly,
            _ => return self.nowhere.contains(&state),
        };
        self.nowhere.contains(&state) || self.has(element, State::Form(opposite))
    }
}
