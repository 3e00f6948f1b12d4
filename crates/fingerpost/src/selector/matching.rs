//! Whether an element matches: Selectors 4 § 18, right to left.

use std::cell::RefCell;
use std::collections::HashMap;
use std::sync::Arc;

use super::anchors::Anchors;
use super::form;
use super::{
    Action, AttributeOperator, AttributeSelector, CaseRule, Combinator, Compound, Nth, PseudoClass,
    Selector, SelectorList, Simple, State, States, TreeCrossing,
};
use crate::markup::{Document, Element, ElementId, Namespace, NodeId, NodeKind};

/// Matches selectors against the elements of one document.
#[derive(Clone, Copy, Debug)]
pub struct Matcher<'a> {
    pub(super) document: &'a Document,
    states: &'a States,
    /// What `:scope` is; the root element without it.
    pub(super) scope: Option<ElementId>,
    /// The host of the shadow tree that the selectors' sheet belongs to.
    pub(super) host: Option<ElementId>,
    /// What was counted before among siblings.
    pub(super) counted: Option<&'a Counted>,
}

/// What was found out on the way: where elements stand among those of their siblings that a list matches, for
/// `:nth-child(… of …)`, and how form controls hang together. Good for one document in one state.
#[derive(Debug, Default)]
pub(crate) struct Counted {
    places: RefCell<HashMap<CountedKey, Arc<HashMap<ElementId, i64>>>>,
    controls: form::Controls,
    pub(super) anchors: Anchors,
}

/// The list, by where it is kept, the parent, the direction, and what `:scope` and `:host` are.
type CountedKey = (usize, NodeId, bool, Option<ElementId>, Option<ElementId>);

/// What came out for the selectors of the rules around, while one of them is being decided.
#[derive(Default)]
struct Parents {
    open: usize,
    known: HashMap<(usize, ElementId, Option<ElementId>, Option<ElementId>), bool>,
}

thread_local! {
    static PARENTS: RefCell<Parents> = RefCell::default();
}

/// One more list of the rules around that is being decided. With the outermost, also where it ends in a
/// panic, all that came out is forgotten.
struct Open;

impl Open {
    fn new() -> Open {
        PARENTS.with_borrow_mut(|parents| parents.open += 1);
        Open
    }
}

impl Drop for Open {
    fn drop(&mut self) {
        PARENTS.with_borrow_mut(|parents| {
            parents.open -= 1;
            if parents.open == 0 {
                parents.known.clear();
            }
        });
    }
}

/// How a step to the left ended. The two restarts keep a failed search from being tried again at
/// places that must fail too, so that no selector takes more than quadratic time.
#[derive(Clone, Copy, PartialEq)]
pub(super) enum Step {
    Matched,
    /// No element further up or before can match.
    Never,
    /// A sibling further back might match.
    TryEarlierSibling,
    /// An ancestor further up might match.
    TryHigherAncestor,
}

impl<'a> Matcher<'a> {
    /// A matcher over a document.
    ///
    /// ```
    /// use fingerpost::markup::Document;
    /// use fingerpost::selector::{Matcher, SelectorList, States};
    /// use fingerpost::text::Text;
    ///
    /// let document = Document::parse(Text::new("a.html", "<ul><li>Boats<li>Fares</ul>"));
    /// let states = States::default();
    /// let matcher = Matcher::new(&document, &states);
    /// let list = SelectorList::parse("li:last-child")?;
    /// let found = document.elements().iter().filter(|e| matcher.matches_list(&list, **e));
    /// assert_eq!(found.count(), 1);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn new(document: &'a Document, states: &'a States) -> Self {
        Matcher {
            document,
            states,
            counted: None,
            scope: None,
            host: None,
        }
    }

    /// The same with an element that `:scope` stands for.
    #[must_use]
    pub fn scoped(self, scope: ElementId) -> Self {
        Matcher {
            scope: Some(scope),
            ..self
        }
    }

    /// The same for selectors of a sheet in the shadow tree of a host.
    #[must_use]
    pub fn inside(self, host: Option<ElementId>) -> Self {
        Matcher { host, ..self }
    }

    /// The element above, for selectors: out of the sheet's shadow tree up to its host.
    pub(super) fn parent(&self, id: ElementId) -> Option<ElementId> {
        let parent = self.document.node(id).parent?;
        self.document.as_element(parent).or_else(|| {
            self.host
                .filter(|host| self.document.host_of(parent) == Some(*host))
        })
    }

    /// The document matched against.
    pub fn document(&self) -> &'a Document {
        self.document
    }

    /// Whether `&`, the selectors of the rule around, matches. A rule may say `&` several times, and so may
    /// the rules around it: what came out for a list and an element holds until the outermost is decided.
    fn matches_parent(&self, list: &Arc<SelectorList>, element: ElementId) -> bool {
        let key = (Arc::as_ptr(list) as usize, element, self.scope, self.host);
        if let Some(known) = PARENTS.with_borrow(|parents| parents.known.get(&key).copied()) {
            return known;
        }
        let _open = Open::new();
        let matches = self.matches_list(list, element);
        PARENTS.with_borrow_mut(|parents| parents.known.insert(key, matches));
        matches
    }

    /// Whether a selector of the list matches the element itself (no pseudo-element of it).
    pub fn matches_list(&self, list: &SelectorList, element: ElementId) -> bool {
        list.selectors
            .iter()
            .any(|s| s.pseudo_element.is_none() && self.matches(s, element))
    }

    /// Whether a selector with `::slotted()` or `::part()` leads to the element: `inside` it is
    /// the sheet's tree.
    pub(crate) fn matches_through(
        &self,
        selector: &Selector,
        through: &TreeCrossing,
        element: ElementId,
    ) -> bool {
        let document = self.document;
        match through {
            TreeCrossing::Slotted(list) => {
                // A slot may be in a slot of the next tree: the element goes through both.
                let own = Matcher {
                    host: None,
                    ..*self
                };
                let mut slots = std::iter::successors(document.assigned_slot(element), |slot| {
                    document.assigned_slot(*slot)
                });
                own.matches_list(list, element)
                    && slots.any(|slot| {
                        let tree = document.shadow_tree_of(slot);
                        tree.and_then(|root| document.host_of(root)) == self.host
                            && self.ends_at(selector, slot)
                    })
            }
            TreeCrossing::Part { names, states } => {
                let has = |name: &str| {
                    let parts = document.element(element).attribute("part");
                    parts.is_some_and(|p| p.split_ascii_whitespace().any(|word| word == name))
                };
                let host = document
                    .shadow_tree_of(element)
                    .and_then(|root| document.host_of(root));
                names.iter().all(|name| has(name))
                    && states.iter().all(|state| self.simple(state, element))
                    && host.is_some_and(|host| {
                        let tree = document.shadow_tree_of(host);
                        tree.and_then(|root| document.host_of(root)) == self.host
                            && self.ends_at(selector, host)
                    })
            }
        }
    }

    /// Whether the selector matches the element; for a selector that ends in a pseudo-element,
    /// whether the element is the one that pseudo-element belongs to.
    pub fn matches(&self, selector: &Selector, element: ElementId) -> bool {
        match &selector.through {
            Some(through) => self.matches_through(selector, through, element),
            None => self.ends_at(selector, element),
        }
    }

    fn ends_at(&self, selector: &Selector, element: ElementId) -> bool {
        self.complex(selector, selector.compounds.len() - 1, element, None) == Step::Matched
    }

    pub(super) fn complex(
        &self,
        selector: &Selector,
        at: usize,
        element: ElementId,
        anchor: Option<ElementId>,
    ) -> Step {
        let Some((combinator, compound)) = selector.compounds.get(at) else {
            return Step::Never;
        };
        if !self.compound(compound, element) {
            return Step::TryEarlierSibling;
        }
        if at == 0 {
            let related = match (combinator, anchor) {
                (Some(combinator), Some(anchor)) => self.related(anchor, *combinator, element),
                _ => true,
            };
            return if related {
                Step::Matched
            } else {
                Step::TryEarlierSibling
            };
        }
        let combinator = combinator.unwrap_or(Combinator::Descendant);
        let sideways = matches!(
            combinator,
            Combinator::NextSibling | Combinator::SubsequentSibling
        );
        let on_failure = if sideways {
            Step::TryHigherAncestor
        } else {
            Step::Never
        };
        let mut next = element;
        loop {
            let step = if sideways {
                self.document.previous_element(next)
            } else {
                self.parent(next)
            };
            let Some(candidate) = step else {
                return on_failure;
            };
            next = candidate;
            let result = self.complex(selector, at - 1, next, anchor);
            match (result, combinator) {
                (Step::Matched | Step::Never, _) => return result,
                (_, Combinator::NextSibling) => return result,
                (Step::TryHigherAncestor, Combinator::SubsequentSibling) => return result,
                (Step::TryEarlierSibling, Combinator::Child) => return Step::TryHigherAncestor,
                (Step::TryHigherAncestor, Combinator::Child) => return result,
                _ => {}
            }
        }
    }

    /// Whether the element matches every simple selector of the compound.
    pub fn compound(&self, compound: &Compound, element: ElementId) -> bool {
        compound
            .simples
            .iter()
            .all(|(simple, _)| self.simple(simple, element))
    }

    /// Whether the element matches a simple selector.
    pub fn simple(&self, simple: &Simple, id: ElementId) -> bool {
        let element = self.document.element(id);
        if self.host == Some(id) && !speaks_of_host(simple) {
            return false;
        }
        match simple {
            Simple::Universal => true,
            Simple::Type { name, lower } => {
                let wanted = match element.namespace {
                    Namespace::Html => lower,
                    _ => name,
                };
                *element.name == **wanted
            }
            Simple::Id(wanted) => element
                .id()
                .is_some_and(|found| self.same_name(found, wanted)),
            Simple::Class(wanted) => element.classes().any(|c| self.same_name(c, wanted)),
            Simple::Attribute(selector) => matches_attribute(selector, element),
            Simple::Namespace(test) => test.takes(element.namespace),
            Simple::PseudoClass(class) => self.pseudo_class(class, id, element),
        }
    }

    /// Selectors 4 § 6.1 and § 6.2: in quirks mode classes and IDs match in any letter case.
    fn same_name(&self, found: &str, wanted: &str) -> bool {
        found == wanted || (self.document.is_quirks() && found.eq_ignore_ascii_case(wanted))
    }

    fn pseudo_class(&self, class: &PseudoClass, id: ElementId, element: &Element) -> bool {
        let document = self.document;
        match class {
            PseudoClass::Root => id == document.root_element(),
            PseudoClass::Scope | PseudoClass::Nesting(None) => {
                id == self.scope.unwrap_or(document.root_element())
            }
            PseudoClass::Host(list) => {
                self.host == Some(id)
                    && list.as_ref().is_none_or(|list| {
                        Matcher {
                            host: None,
                            ..*self
                        }
                        .matches_list(list, id)
                    })
            }
            PseudoClass::HostContext(list) => {
                let plain = Matcher {
                    host: None,
                    ..*self
                };
                self.host == Some(id)
                    && document
                        .ancestors_and_self(id)
                        .any(|above| plain.matches_list(list, above))
            }
            PseudoClass::Empty => {
                document
                    .children(id)
                    .all(|child| match &document.node(child).kind {
                        NodeKind::Element(_) => false,
                        NodeKind::Text(_) => document.text_of(child) == Some(""),
                        _ => true,
                    })
            }
            PseudoClass::Link { any } => {
                form::is_link(element) && (*any || !self.states.acts(id, Action::Visited))
            }
            PseudoClass::Defined => {
                element.namespace != Namespace::Html || !element.name.contains('-')
            }
            PseudoClass::Nth(nth) => self.nth(nth, id),
            PseudoClass::Is(list) | PseudoClass::Where(list) => self.matches_list(list, id),
            PseudoClass::Nesting(Some(list)) => self.matches_parent(list, id),
            PseudoClass::Not(list) => !self.matches_list(list, id),
            PseudoClass::Has(list) => list.selectors.iter().any(|s| self.has(s, id)),
            PseudoClass::Lang(ranges) => match form::language(document, id) {
                Some(language) => ranges.iter().any(|r| form::language_matches(r, &language)),
                None => false,
            },
            PseudoClass::Dir { rtl } => form::is_rtl(document, id) == *rtl,
            PseudoClass::Action(Action::Visited) => {
                form::is_link(element) && self.states.acts(id, Action::Visited)
            }
            PseudoClass::Action(action) => self.states.acts(id, *action),
            PseudoClass::Form(state) => {
                self.states.has(id, State::Form(*state))
                    || (!self.states.contradicts(id, *state)
                        && match self.counted {
                            Some(counted) => {
                                form::has_state(document, id, *state, &counted.controls)
                            }
                            None => {
                                form::has_state(document, id, *state, &form::Controls::default())
                            }
                        })
            }
            PseudoClass::NotYet(_) => false,
        }
    }

    /// The same matcher, which remembers what it counts among siblings.
    pub(crate) fn counting(self, counted: &'a Counted) -> Self {
        Matcher {
            counted: Some(counted),
            ..self
        }
    }

    /// Where all elements below a parent stand among those that a list matches.
    fn places(
        &self,
        of: &Arc<SelectorList>,
        parent: NodeId,
        from_end: bool,
    ) -> Arc<HashMap<ElementId, i64>> {
        let key = (
            Arc::as_ptr(of) as usize,
            parent,
            from_end,
            self.scope,
            self.host,
        );
        let known = self
            .counted
            .and_then(|counted| counted.places.borrow().get(&key).cloned());
        if let Some(known) = known {
            return known;
        }
        let mut matching: Vec<ElementId> = self
            .document
            .child_elements(parent)
            .filter(|child| self.matches_list(of, *child))
            .collect();
        if from_end {
            matching.reverse();
        }
        let places: HashMap<ElementId, i64> = matching.into_iter().zip(1..).collect();
        let places = Arc::new(places);
        if let Some(counted) = self.counted {
            counted.places.borrow_mut().insert(key, places.clone());
        }
        places
    }

    fn nth(&self, nth: &Nth, id: ElementId) -> bool {
        let document = self.document;
        let position = match &nth.of {
            None => i64::from(document.rank(id, nth.of_type, nth.from_end)),
            Some(of) if self.counted.is_some() => {
                let parent = document.node(id).parent;
                let place = parent.and_then(|p| self.places(of, p, nth.from_end).get(&id).copied());
                let Some(place) = place else {
                    return false;
                };
                place
            }
            Some(of) => {
                if !self.matches_list(of, id) {
                    return false;
                }
                let step = |at: &ElementId| match nth.from_end {
                    true => document.next_element(*at),
                    false => document.previous_element(*at),
                };
                let before = std::iter::successors(step(&id), step);
                1 + before.filter(|at| self.matches_list(of, *at)).count() as i64
            }
        };
        let distance = position - i64::from(nth.offset);
        match i64::from(nth.step) {
            0 => distance == 0,
            step => distance % step == 0 && distance / step >= 0,
        }
    }
}

/// Selectors 4 § 3.2.1: a host is featureless to the sheets of its shadow tree. Only what is about
/// hosts matches it.
fn speaks_of_host(simple: &Simple) -> bool {
    match simple {
        Simple::PseudoClass(class) => match class {
            PseudoClass::Host(_)
            | PseudoClass::HostContext(_)
            | PseudoClass::Scope
            | PseudoClass::Nesting(None) => true,
            PseudoClass::Is(list)
            | PseudoClass::Where(list)
            | PseudoClass::Nesting(Some(list))
            | PseudoClass::Not(list) => list.selectors.iter().any(|s| s.names_host),
            PseudoClass::Has(_) => true,
            _ => false,
        },
        _ => false,
    }
}

fn matches_attribute(selector: &AttributeSelector, element: &Element) -> bool {
    let html = element.namespace == Namespace::Html;
    let wanted = if html {
        &selector.lower
    } else {
        &selector.name
    };
    element
        .attributes
        .iter()
        .filter(|a| *a.name == **wanted && selector.namespace.takes(a.namespace))
        .any(|attribute| {
            let folded = match selector.case {
                CaseRule::Insensitive => true,
                CaseRule::Sensitive => false,
                CaseRule::ByLanguage => html && matches_in_any_case(&selector.lower),
            };
            if folded {
                let value = attribute.value.to_ascii_lowercase();
                compare(
                    selector.operator,
                    &value,
                    &selector.value.to_ascii_lowercase(),
                )
            } else {
                compare(selector.operator, &attribute.value, &selector.value)
            }
        })
}

fn compare(operator: AttributeOperator, value: &str, wanted: &str) -> bool {
    match operator {
        AttributeOperator::Present => true,
        AttributeOperator::Equals => value == wanted,
        AttributeOperator::Includes => {
            !wanted.is_empty() && value.split_ascii_whitespace().any(|word| word == wanted)
        }
        AttributeOperator::DashMatch => value
            .strip_prefix(wanted)
            .is_some_and(|rest| rest.is_empty() || rest.starts_with('-')),
        AttributeOperator::Prefix => !wanted.is_empty() && value.starts_with(wanted),
        AttributeOperator::Suffix => !wanted.is_empty() && value.ends_with(wanted),
        AttributeOperator::Substring => !wanted.is_empty() && value.contains(wanted),
    }
}

/// HTML § 4.16.2: the attributes whose values selectors compare in any letter case.
fn matches_in_any_case(name: &str) -> bool {
    const NAMES: [&str; 46] = [
        "accept",
        "accept-charset",
        "align",
        "alink",
        "axis",
        "bgcolor",
        "charset",
        "checked",
        "clear",
        "codetype",
        "color",
        "compact",
        "declare",
        "defer",
        "dir",
        "direction",
        "disabled",
        "enctype",
        "face",
        "frame",
        "hreflang",
        "http-equiv",
        "lang",
        "language",
        "link",
        "media",
        "method",
        "multiple",
        "nohref",
        "noresize",
        "noshade",
        "nowrap",
        "readonly",
        "rel",
        "rev",
        "rules",
        "scope",
        "scrolling",
        "selected",
        "shape",
        "target",
        "text",
        "type",
        "valign",
        "valuetype",
        "vlink",
    ];
    NAMES.binary_search(&name).is_ok()
}
