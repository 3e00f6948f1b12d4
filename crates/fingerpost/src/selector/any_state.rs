//! A selector without the states in it: what it matches in some state.
//!
//! `.a:hover` becomes `.a`, and `.a:not(:hover)` too, for an element may be in a state or not. What results matches every
//! element that the selector matches in some states of the page; states that exclude each other (`:enabled:disabled`) are not told
//! apart, so that it may match more.

use std::collections::HashMap;
use std::sync::Arc;

use super::{
    Compound, Nth, PseudoClass, Scope, ScopeRoots, Selector, SelectorList, Simple, TreeCrossing,
};

impl SelectorList {
    /// The list without the states in it: it matches what this one matches in some state.
    ///
    /// ```
    /// use fingerpost::selector::SelectorList;
    ///
    /// let in_any_state = |list: &str| Ok::<_, fingerpost::selector::SelectorError>(
    ///     SelectorList::parse(list)?.in_any_state().to_string(),
    /// );
    /// assert_eq!(in_any_state("a:hover > b")?, "a > b");
    /// assert_eq!(in_any_state("a:not(:hover, .b)")?, "a:not(.b)");
    /// assert_eq!(in_any_state("a:not(.b:hover)")?, "a");
    /// assert_eq!(in_any_state("a:is(:focus, .b)")?, "a:is(*, .b)");
    /// # Ok::<(), fingerpost::selector::SelectorError>(())
    /// ```
    #[must_use]
    pub fn in_any_state(&self) -> SelectorList {
        AnyState::default().list(self)
    }
}

/// Takes the states out of selectors. What `&` stands for is in many of them, and is looked at once.
#[derive(Default)]
pub(crate) struct AnyState {
    lists: HashMap<*const SelectorList, Arc<SelectorList>>,
    has_states: HashMap<*const SelectorList, bool>,
}

impl AnyState {
    /// A list of a rule.
    pub fn list(&mut self, list: &SelectorList) -> SelectorList {
        let selectors = list.selectors.iter().map(|one| self.selector(one));
        SelectorList {
            selectors: selectors.collect(),
        }
    }

    /// The scope without the states in its roots, and without limits that depend on one.
    pub fn scope(&mut self, scope: &Scope) -> Scope {
        Scope {
            outer: scope
                .outer
                .as_ref()
                .map(|outer| Arc::new(self.scope(outer))),
            roots: match &scope.roots {
                ScopeRoots::Matching(list) => ScopeRoots::Matching(self.shared(list)),
                ScopeRoots::Element(element) => ScopeRoots::Element(*element),
            },
            limits: scope.limits.as_ref().and_then(|list| self.without(list)),
        }
    }

    fn shared(&mut self, list: &Arc<SelectorList>) -> Arc<SelectorList> {
        if !self.in_list(list) {
            return list.clone();
        }
        if let Some(known) = self.lists.get(&Arc::as_ptr(list)) {
            return known.clone();
        }
        let made = Arc::new(self.list(list));
        self.lists.insert(Arc::as_ptr(list), made.clone());
        made
    }

    /// The list without the selectors that depend on a state: in `:not()` those may be false. None where it is empty then.
    fn without(&mut self, list: &Arc<SelectorList>) -> Option<Arc<SelectorList>> {
        if !self.in_list(list) {
            return Some(list.clone());
        }
        let kept = list.selectors.iter().filter(|one| !self.in_selector(one));
        let selectors: Vec<Selector> = kept.cloned().collect();
        (!selectors.is_empty()).then(|| Arc::new(SelectorList { selectors }))
    }

    fn selector(&mut self, selector: &Selector) -> Selector {
        let compounds = selector.compounds.iter().map(|(combinator, compound)| {
            let simples = compound.simples.iter();
            let mut simples: Vec<_> = simples
                .filter_map(|(simple, span)| Some((self.simple(simple)?, *span)))
                .collect();
            if simples.is_empty() {
                simples.push((Simple::Universal, compound.span));
            }
            let compound = Compound {
                simples,
                span: compound.span,
            };
            (*combinator, compound)
        });
        let compounds = compounds.collect();
        let through = selector.through.as_ref().map(|through| match through {
            TreeCrossing::Slotted(list) => TreeCrossing::Slotted(self.shared(list)),
            TreeCrossing::Part { names, states } => TreeCrossing::Part {
                names: names.clone(),
                states: states.iter().filter_map(|one| self.simple(one)).collect(),
            },
        });
        Selector {
            compounds,
            through,
            ..selector.clone()
        }
    }

    /// The same without states; none where nothing is left.
    fn simple(&mut self, simple: &Simple) -> Option<Simple> {
        let Simple::PseudoClass(class) = simple else {
            return Some(simple.clone());
        };
        Some(Simple::PseudoClass(match class {
            // A state of a running page that is not matched yet is one, too.
            PseudoClass::Action(_) | PseudoClass::Form(_) | PseudoClass::NotYet(_) => return None,
            PseudoClass::Not(list) => PseudoClass::Not(self.without(list)?),
            PseudoClass::Is(list) => PseudoClass::Is(self.shared(list)),
            PseudoClass::Where(list) => PseudoClass::Where(self.shared(list)),
            PseudoClass::Has(list) => PseudoClass::Has(self.shared(list)),
            PseudoClass::HostContext(list) => PseudoClass::HostContext(self.shared(list)),
            PseudoClass::Host(Some(list)) => PseudoClass::Host(Some(self.shared(list))),
            PseudoClass::Nesting(Some(list)) => PseudoClass::Nesting(Some(self.shared(list))),
            // Which sibling is the second of those in a state depends on all of them.
            PseudoClass::Nth(Nth { of: Some(list), .. }) if self.in_list(list) => {
                PseudoClass::Is(self.shared(list))
            }
            other => other.clone(),
        }))
    }

    /// Whether a list depends on states.
    fn in_list(&mut self, list: &Arc<SelectorList>) -> bool {
        if let Some(known) = self.has_states.get(&Arc::as_ptr(list)) {
            return *known;
        }
        let found = list.selectors.iter().any(|one| self.in_selector(one));
        self.has_states.insert(Arc::as_ptr(list), found);
        found
    }

    fn in_selector(&mut self, selector: &Selector) -> bool {
        let of_parts = match &selector.through {
            Some(TreeCrossing::Slotted(list)) if self.in_list(list) => return true,
            Some(TreeCrossing::Part { states, .. }) => &states[..],
            _ => &[],
        };
        let own = selector.compounds.iter().flat_map(|(_, c)| &c.simples);
        let mut all = own.map(|(simple, _)| simple).chain(of_parts);
        all.any(|simple| match simple {
            Simple::PseudoClass(class) => self.in_class(class),
            _ => false,
        })
    }

    fn in_class(&mut self, class: &PseudoClass) -> bool {
        match class {
            PseudoClass::Action(_) | PseudoClass::Form(_) | PseudoClass::NotYet(_) => true,
            PseudoClass::Is(list)
            | PseudoClass::Where(list)
            | PseudoClass::Not(list)
            | PseudoClass::Has(list)
            | PseudoClass::HostContext(list)
            | PseudoClass::Host(Some(list))
            | PseudoClass::Nesting(Some(list)) => self.in_list(list),
            PseudoClass::Nth(nth) => nth.of.as_ref().is_some_and(|list| self.in_list(list)),
            PseudoClass::Host(None)
            | PseudoClass::Nesting(None)
            | PseudoClass::Root
            | PseudoClass::Empty
            | PseudoClass::Link { .. }
            | PseudoClass::Scope
            | PseudoClass::Defined
            | PseudoClass::Lang(_)
            | PseudoClass::Dir { .. } => false,
        }
    }
}
