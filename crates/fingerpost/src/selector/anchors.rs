//! What is remembered of `:has()`: the elements that its selectors hold for, where they were asked of many.

use std::cell::RefCell;
use std::collections::{HashMap, HashSet};
use std::sync::Arc;

use crate::markup::ElementId;

/// The selector, by where it is kept, and what `:scope` and `:host` are.
pub(super) type Key = (usize, Option<ElementId>, Option<ElementId>);

/// What is known of a selector.
#[derive(Clone, Debug)]
pub(super) enum Known {
    /// It was looked for from so many single anchors.
    Tried(u32),
    /// All its anchors.
    All(Arc<HashSet<ElementId>>),
}

/// The elements that selectors in `:has()` hold for.
#[derive(Debug, Default)]
pub(super) struct Anchors(RefCell<HashMap<Key, Known>>);

impl Anchors {
    pub fn get(&self, key: &Key) -> Option<Known> {
        self.0.borrow().get(key).cloned()
    }

    pub fn put(&self, key: Key, known: Known) {
        self.0.borrow_mut().insert(key, known);
    }

    /// Forgets everything: the selectors may be kept elsewhere.
    #[cfg(test)]
    pub fn forget(&self) {
        self.0.borrow_mut().clear();
    }
}
