//! Scopes: Cascade 6 § 2.5.

use std::sync::Arc;

use super::{Matcher, SelectorList};
use crate::markup::ElementId;

/// The elements that an `@scope` rule is about.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct Scope {
    /// The scope that it is in.
    pub outer: Option<Arc<Scope>>,
    /// What its roots match.
    pub roots: ScopeRoots,
    /// Where it ends: what matches is not in it.
    pub limits: Option<Arc<SelectorList>>,
}

/// The roots of a scope.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum ScopeRoots {
    /// The elements that match.
    Matching(Arc<SelectorList>),
    /// Without a selector: the parent of the element that brings the sheet.
    Element(ElementId),
}

impl Matcher<'_> {
    /// The roots whose scope holds an element, the nearest first, each with the steps up to it.
    pub fn scope_roots(&self, scope: &Scope, element: ElementId) -> Vec<(ElementId, u32)> {
        let trail: Vec<ElementId> =
            std::iter::successors(Some(element), |at| self.parent(*at)).collect();
        let roots = self.roots_on(scope, &trail);
        let uncut = roots
            .into_iter()
            .filter(|at| !self.is_cut(scope, &trail, *at, 0));
        uncut
            .filter_map(|at| Some((*trail.get(at)?, at as u32)))
            .collect()
    }

    /// Which elements of a way up are roots of a scope, by their place on it. Outer scopes are
    /// asked once for the whole way, so that nesting costs no more than its depth.
    fn roots_on(&self, scope: &Scope, trail: &[ElementId]) -> Vec<usize> {
        let Some(outer) = &scope.outer else {
            let all = trail.iter().enumerate();
            return all
                .filter(|(_, element)| self.is_root(scope, **element))
                .map(|(at, _)| at)
                .collect();
        };
        let outer_roots = self.roots_on(outer, trail);
        let places = trail.iter().enumerate();
        places
            .filter(|(at, element)| {
                let above = outer_roots.iter().filter(|root| *root >= at);
                let mut above = above.filter_map(|root| Some((*root, *trail.get(*root)?)));
                above.any(|(place, root)| {
                    self.scoped(root).is_root(scope, **element)
                        && !self.is_cut(outer, trail, place, *at)
                })
            })
            .map(|(at, _)| at)
            .collect()
    }

    fn is_root(&self, scope: &Scope, element: ElementId) -> bool {
        match &scope.roots {
            ScopeRoots::Element(wanted) => element == *wanted,
            ScopeRoots::Matching(list) => self.matches_list(list, element),
        }
    }

    /// Whether a limit stands between a root and an element, or is the element; both by their
    /// places on the way up.
    fn is_cut(&self, scope: &Scope, trail: &[ElementId], root: usize, element: usize) -> bool {
        let Some(limits) = &scope.limits else {
            return false;
        };
        let between = trail.get(element..=root).unwrap_or_default();
        let scoped = between.last().map(|root| self.scoped(*root));
        scoped.is_some_and(|scoped| between.iter().any(|e| scoped.matches_list(limits, *e)))
    }
}
