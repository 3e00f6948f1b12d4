//! Every name that a selector mentions, wherever it is nested: in `:is()`, in `:nth-child(1 of …)`, in `::slotted()`, in the
//! selectors that `&` stands for.
//!
//! ```
//! use fingerpost::selector::{Mention, SelectorList};
//!
//! let list = SelectorList::parse(".a:nth-child(1 of .b) > [class~=c]::slotted(#d)")?;
//! let mut names = Vec::new();
//! list.mentions(&mut |mention| match mention {
//!     Mention::Class(name) | Mention::Id(name) => names.push(name.to_owned()),
//!     Mention::Attribute(attribute) => names.push(attribute.to_string()),
//!     Mention::Type(_) => {}
//! });
//! assert_eq!(names, ["a", "b", "[class~=c]", "d"]);
//! # Ok::<(), fingerpost::selector::SelectorError>(())
//! ```

use std::collections::HashSet;

use super::{
    AttributeOperator, AttributeSelector, PseudoClass, Scope, ScopeRoots, Selector, SelectorList,
    Simple, TreeCrossing,
};

/// Something that a selector names.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Mention<'a> {
    /// A type, as written.
    Type(&'a str),
    /// An id.
    Id(&'a str),
    /// A class.
    Class(&'a str),
    /// An attribute.
    Attribute(&'a AttributeSelector),
}

impl<'a> Mention<'a> {
    /// The class, where it is one, written `.name` or `[class~=name]`.
    pub fn class(self) -> Option<&'a str> {
        match self {
            Mention::Class(name) => Some(name),
            Mention::Attribute(attribute)
                if &*attribute.lower == "class"
                    && matches!(
                        attribute.operator,
                        AttributeOperator::Includes | AttributeOperator::Equals
                    ) =>
            {
                Some(&attribute.value)
            }
            _ => None,
        }
    }

    /// What part of the class attribute it asks for: `icon-` of `[class^="icon-"]`.
    pub fn part_of_class(self) -> Option<&'a str> {
        match self {
            Mention::Attribute(attribute)
                if &*attribute.lower == "class"
                    && matches!(
                        attribute.operator,
                        AttributeOperator::Prefix
                            | AttributeOperator::Suffix
                            | AttributeOperator::Substring
                            | AttributeOperator::DashMatch
                    ) =>
            {
                Some(&attribute.value)
            }
            _ => None,
        }
    }
}

/// The lists that were looked at: `&` may be in a rule several times, and so on outwards.
type Seen = HashSet<*const SelectorList>;

impl SelectorList {
    /// Calls `see` with every name in it.
    ///
    /// ```
    /// use fingerpost::selector::SelectorList;
    ///
    /// let list = SelectorList::parse("p:not(.late) > [class~=boat]")?;
    /// let mut classes = Vec::new();
    /// list.mentions(&mut |mention| classes.extend(mention.class().map(str::to_owned)));
    /// assert_eq!(classes, ["late", "boat"]);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn mentions<'a>(&'a self, see: &mut dyn FnMut(Mention<'a>)) {
        in_list(self, &mut Seen::new(), see);
    }
}

impl Scope {
    /// Calls `see` with every name in its roots and limits, and in those of the scopes around it.
    pub fn mentions<'a>(&'a self, see: &mut dyn FnMut(Mention<'a>)) {
        let mut seen = Seen::new();
        for scope in std::iter::successors(Some(self), |scope| scope.outer.as_deref()) {
            if let ScopeRoots::Matching(list) = &scope.roots {
                in_list(list, &mut seen, see);
            }
            if let Some(list) = &scope.limits {
                in_list(list, &mut seen, see);
            }
        }
    }
}

fn in_list<'a>(list: &'a SelectorList, seen: &mut Seen, see: &mut dyn FnMut(Mention<'a>)) {
    if !seen.insert(std::ptr::from_ref(list)) {
        return;
    }
    for selector in &list.selectors {
        in_selector(selector, seen, see);
    }
}

fn in_selector<'a>(selector: &'a Selector, seen: &mut Seen, see: &mut dyn FnMut(Mention<'a>)) {
    for (simple, _) in selector.compounds.iter().flat_map(|(_, c)| &c.simples) {
        in_simple(simple, seen, see);
    }
    match &selector.through {
        Some(TreeCrossing::Slotted(list)) => in_list(list, seen, see),
        Some(TreeCrossing::Part { states, .. }) => {
            for simple in states {
                in_simple(simple, seen, see);
            }
        }
        None => {}
    }
}

fn in_simple<'a>(simple: &'a Simple, seen: &mut Seen, see: &mut dyn FnMut(Mention<'a>)) {
    match simple {
        Simple::Universal | Simple::Namespace(_) => {}
        Simple::Type { name, .. } => see(Mention::Type(name)),
        Simple::Id(name) => see(Mention::Id(name)),
        Simple::Class(name) => see(Mention::Class(name)),
        Simple::Attribute(attribute) => see(Mention::Attribute(attribute)),
        Simple::PseudoClass(class) => {
            if let Some(list) = inner(class) {
                in_list(list, seen, see);
            }
        }
    }
}

/// The selectors in a pseudo-class.
fn inner(class: &PseudoClass) -> Option<&SelectorList> {
    match class {
        PseudoClass::Is(list)
        | PseudoClass::Where(list)
        | PseudoClass::Not(list)
        | PseudoClass::Has(list)
        | PseudoClass::HostContext(list)
        | PseudoClass::Host(Some(list))
        | PseudoClass::Nesting(Some(list)) => Some(list),
        PseudoClass::Nth(nth) => nth.of.as_deref(),
        PseudoClass::Host(None)
        | PseudoClass::Nesting(None)
        | PseudoClass::Root
        | PseudoClass::Empty
        | PseudoClass::Link { .. }
        | PseudoClass::Scope
        | PseudoClass::Defined
        | PseudoClass::Lang(_)
        | PseudoClass::Dir { .. }
        | PseudoClass::Action(_)
        | PseudoClass::Form(_)
        | PseudoClass::NotYet(_) => None,
    }
}
