//! Whether an element matches: Selectors 4 § 18, right to left.

use super::form;
use super::{
    Action, AttributeOperator, AttributeSelector, CaseRule, Combinator, Compound, Nth, PseudoClass,
    Selector, SelectorList, Simple,
};
use crate::markup::{Document, Element, Namespace, NodeId, NodeKind};

/// The states that elements are pretended to be in, such as hovered.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct States {
    pretended: Vec<(NodeId, Action)>,
}

impl States {
    /// Pretends that an element is in a state.
    pub fn pretend(&mut self, element: NodeId, action: Action) {
        if !self.has(element, action) {
            self.pretended.push((element, action));
        }
    }

    /// Whether it is pretended to be.
    pub fn has(&self, element: NodeId, action: Action) -> bool {
        self.pretended.contains(&(element, action))
    }
}

/// Matches selectors against the elements of one document.
#[derive(Clone, Copy, Debug)]
pub struct Matcher<'a> {
    document: &'a Document,
    states: &'a States,
}

/// How a step to the left ended. The two restarts keep a failed search from being tried again at
/// places that must fail too, so that no selector takes more than quadratic time.
#[derive(Clone, Copy, PartialEq)]
enum Step {
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
    pub fn new(document: &'a Document, states: &'a States) -> Self {
        Matcher { document, states }
    }

    /// The document matched against.
    pub fn document(&self) -> &'a Document {
        self.document
    }

    /// Whether a selector of the list matches the element itself (no pseudo-element of it).
    pub fn matches_list(&self, list: &SelectorList, element: NodeId) -> bool {
        list.selectors
            .iter()
            .any(|s| s.pseudo_element.is_none() && self.matches(s, element))
    }

    /// Whether the selector matches the element; for a selector that ends in a pseudo-element,
    /// whether the element is the one that pseudo-element belongs to.
    pub fn matches(&self, selector: &Selector, element: NodeId) -> bool {
        self.complex(selector, selector.compounds.len() - 1, element, None) == Step::Matched
    }

    fn complex(
        &self,
        selector: &Selector,
        at: usize,
        element: NodeId,
        anchor: Option<NodeId>,
    ) -> Step {
        let (combinator, compound) = &selector.compounds[at];
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
                self.document.parent_element(next)
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

    fn related(&self, anchor: NodeId, combinator: Combinator, element: NodeId) -> bool {
        let document = self.document;
        match combinator {
            Combinator::Child => document.parent_element(element) == Some(anchor),
            Combinator::Descendant => document
                .ancestors_and_self(element)
                .skip(1)
                .any(|a| a == anchor),
            Combinator::NextSibling => document.previous_element(element) == Some(anchor),
            Combinator::SubsequentSibling => {
                std::iter::successors(document.previous_element(element), |e| {
                    document.previous_element(*e)
                })
                .any(|e| e == anchor)
            }
        }
    }

    /// Whether the element matches every simple selector of the compound.
    pub fn compound(&self, compound: &Compound, element: NodeId) -> bool {
        compound
            .simples
            .iter()
            .all(|(simple, _)| self.simple(simple, element))
    }

    /// Whether the element matches a simple selector.
    pub fn simple(&self, simple: &Simple, id: NodeId) -> bool {
        let element = self.document.expect_element(id);
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
            Simple::PseudoClass(class) => self.pseudo_class(class, id, element),
            // Elements of a parsed page are always in a namespace.
            Simple::Namespace { none } => !none,
        }
    }

    /// Selectors 4 § 6.1 and § 6.2: in quirks mode classes and IDs match in any letter case.
    fn same_name(&self, found: &str, wanted: &str) -> bool {
        found == wanted || (self.document.is_quirks() && found.eq_ignore_ascii_case(wanted))
    }

    fn pseudo_class(&self, class: &PseudoClass, id: NodeId, element: &Element) -> bool {
        let document = self.document;
        match class {
            PseudoClass::Root | PseudoClass::Scope => id == document.root_element(),
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
                form::is_link(element) && (*any || !self.states.has(id, Action::Visited))
            }
            PseudoClass::Defined => {
                element.namespace != Namespace::Html || !element.name.contains('-')
            }
            PseudoClass::Nth(nth) => self.nth(nth, id, element),
            PseudoClass::Is(list) | PseudoClass::Where(list) | PseudoClass::Nesting(list) => {
                self.matches_list(list, id)
            }
            PseudoClass::Not(list) => !self.matches_list(list, id),
            PseudoClass::Has(list) => list.selectors.iter().any(|s| self.has(s, id)),
            PseudoClass::Lang(ranges) => match form::language(document, id) {
                Some(language) => ranges.iter().any(|r| form::language_matches(r, &language)),
                None => false,
            },
            PseudoClass::Dir { rtl } => form::is_rtl(document, id) == *rtl,
            PseudoClass::Action(Action::Visited) => {
                form::is_link(element) && self.states.has(id, Action::Visited)
            }
            PseudoClass::Action(action) => self.states.has(id, *action),
            PseudoClass::Form(state) => form::has_state(document, id, *state),
            PseudoClass::NotYet(_) => false,
        }
    }

    fn has(&self, selector: &Selector, anchor: NodeId) -> bool {
        let document = self.document;
        let last = selector.compounds.len() - 1;
        let found = |candidate: NodeId| {
            self.complex(selector, last, candidate, Some(anchor)) == Step::Matched
        };
        let sideways = matches!(
            selector.compounds[0].0,
            Some(Combinator::NextSibling | Combinator::SubsequentSibling)
        );
        if !sideways {
            return document.descendant_elements(anchor).any(found);
        }
        std::iter::successors(document.next_element(anchor), |e| document.next_element(*e))
            .any(|sibling| found(sibling) || document.descendant_elements(sibling).any(found))
    }

    fn nth(&self, nth: &Nth, id: NodeId, element: &Element) -> bool {
        let counts = |other: NodeId| {
            let candidate = self.document.expect_element(other);
            let same_type = !nth.of_type
                || (candidate.name == element.name && candidate.namespace == element.namespace);
            same_type
                && nth
                    .of
                    .as_ref()
                    .is_none_or(|of| self.matches_list(of, other))
        };
        if !counts(id) {
            return false;
        }
        let step = |at: NodeId| {
            if nth.from_end {
                self.document.next_element(at)
            } else {
                self.document.previous_element(at)
            }
        };
        let before = std::iter::successors(step(id), |at| step(*at)).filter(|at| counts(*at));
        // `:first-child` and its kin need no counting.
        if nth.step == 0 && nth.offset == 1 {
            return before.into_iter().next().is_none();
        }
        let position = 1 + before.count() as i64;
        let distance = position - i64::from(nth.offset);
        match i64::from(nth.step) {
            0 => distance == 0,
            step => distance % step == 0 && distance / step >= 0,
        }
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
        .filter(|a| *a.name == **wanted)
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
