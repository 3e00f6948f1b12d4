//! Scopes: Cascade 6 § 2.5.

use std::sync::Arc;

use super::{Matcher, SelectorList};
use crate::markup::NodeId;

/// The elements that an `@scope` rule is about.
#[derive(Clone, Debug)]
pub struct Scope {
    /// The scope that it stands in.
    pub outer: Option<Arc<Scope>>,
    /// What its roots match.
    pub roots: ScopeRoots,
    /// Where it ends: what matches is not in it.
    pub limits: Option<Arc<SelectorList>>,
}

/// The roots of a scope.
#[derive(Clone, Debug)]
pub enum ScopeRoots {
    /// The elements that match.
    Matching(Arc<SelectorList>),
    /// Without a selector: the parent of the element that brings the sheet.
    Element(NodeId),
}

impl Matcher<'_> {
    /// The roots whose scope holds an element, the nearest first, each with the steps up to it.
    pub fn scope_roots(&self, scope: &Scope, element: NodeId) -> Vec<(NodeId, u32)> {
        let above = std::iter::successors(Some(element), |at| self.parent(*at));
        above
            .zip(0..)
            .filter(|(root, _)| self.is_root(scope, *root) && !self.is_cut(scope, *root, element))
            .collect()
    }

    fn is_root(&self, scope: &Scope, root: NodeId) -> bool {
        match &scope.roots {
            ScopeRoots::Element(wanted) => root == *wanted && self.is_in_outer(scope, root),
            ScopeRoots::Matching(list) => match &scope.outer {
                None => self.matches_list(list, root),
                Some(outer) => self
                    .scope_roots(outer, root)
                    .iter()
                    .any(|(at, _)| self.scoped(*at).matches_list(list, root)),
            },
        }
    }

    fn is_in_outer(&self, scope: &Scope, root: NodeId) -> bool {
        let outer = scope.outer.as_ref();
        outer.is_none_or(|outer| !self.scope_roots(outer, root).is_empty())
    }

    /// Whether a limit stands between a root and an element, or is the element.
    fn is_cut(&self, scope: &Scope, root: NodeId, element: NodeId) -> bool {
        let Some(limits) = &scope.limits else {
            return false;
        };
        let scoped = self.scoped(root);
        let mut at = Some(element);
        while let Some(here) = at {
            if scoped.matches_list(limits, here) {
                return true;
            }
            if here == root {
                return false;
            }
            at = self.parent(here);
        }
        false
    }
}
