//! What matching gives: the rules that match an element.

use std::sync::Arc;

use crate::selector::{PseudoElement, Specificity};

/// A rule that matches an element.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub struct Matched {
    /// The rule, by its index in [`Page::rules`](crate::page::Page::rules).
    pub rule: u32,
    /// The strongest of its selectors that match, by its index in the list.
    pub selector: u32,
    /// The specificity of that selector.
    pub specificity: Specificity,
    /// How many steps lie up to the root of the rule's scope; [`u32::MAX`] without a scope.
    pub proximity: u32,
}

/// The rules that match an element, each with the pseudo-element that it is about, in order of appearance.
pub(in crate::page) type MatchedByPseudo = Arc<[(Option<PseudoElement>, Matched)]>;
