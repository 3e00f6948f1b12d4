//! Styles of single elements, worked out on demand and remembered.
//!
//! The road of one value: the rules that match ([`Styles::matched`]), the contest of the property
//! ([`Styles::contest`]), the winner's value with its variables put in, inheritance or the initial
//! value where there is none, and the computed value ([`Styles::value`], in `values.rs`).

use std::cell::{Cell, RefCell};
use std::fmt;
use std::sync::Arc;

use rustc_hash::FxHashMap;

use super::declarations::Declarations;
use super::font_size::FontState;
use super::hints::{self, Hints};
use super::values::Value;
use super::{Blocked, Page, StyleRule, StyleSheet};
use crate::cascade::{Contest, Origin, Rank, Turn};
use crate::markup::NodeId;
use crate::selector::{Counted, Matcher, PseudoElement, Selector, Specificity};
use crate::sheet::{DeclarationId, RuleId, Sheet};
use crate::text::Text;
use crate::value::PropertyId;
use crate::value::declared::{self, Meaning};
use crate::value::grammar::Mismatch;
use crate::value::logical::{self, WritingMode};

/// An element, or a pseudo-element of it.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub struct Target {
    /// The element.
    pub element: NodeId,
    /// The pseudo-element.
    pub pseudo: Option<PseudoElement>,
}

impl From<NodeId> for Target {
    fn from(element: NodeId) -> Self {
        Target {
            element,
            pseudo: None,
        }
    }
}

/// The name of a property: one of the standards, or a custom one.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub enum PropertyName {
    /// A property of the standards.
    Known(PropertyId),
    /// A custom property, with its dashes.
    Custom(Arc<str>),
}

impl PropertyName {
    /// Reads a property's name; `None` for one that nobody knows.
    pub fn parse(name: &str) -> Option<PropertyName> {
        if name.starts_with("--") && name.len() > 2 {
            return Some(PropertyName::Custom(declared::unescaped(name).into()));
        }
        PropertyId::named(name).map(PropertyName::Known)
    }
}

impl fmt::Display for PropertyName {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            PropertyName::Known(property) => f.write_str(property.name()),
            PropertyName::Custom(name) => f.write_str(name),
        }
    }
}

/// Which sheet a declaration stands in.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum SheetRef {
    /// One of the page's sheets, by its place.
    Listed(u32),
    /// The style attribute of an element.
    Attribute(NodeId),
    /// The presentational attributes of an element.
    Hints(NodeId),
}

/// A declaration of a page.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct DeclarationRef {
    /// The sheet.
    pub sheet: SheetRef,
    /// The declaration in it.
    pub id: DeclarationId,
}

/// A rule that matches an element.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Matched {
    /// The rule, by its place in [`Page::rules`].
    pub rule: u32,
    /// The strongest of its selectors that match, by its place in the list.
    pub selector: u32,
    /// The specificity of that selector.
    pub specificity: Specificity,
    /// How many steps lie up to the root of the rule's scope; [`u32::MAX`] without a scope.
    pub proximity: u32,
}

impl Matched {
    /// Notes a selector that matches behind those found before, in order of appearance: of the selectors of a
    /// rule only the strongest counts, for each pseudo-element.
    pub(super) fn note(
        found: &mut Vec<(Option<PseudoElement>, Matched)>,
        rule: u32,
        at: u32,
        proximity: u32,
        selector: &Selector,
    ) {
        let matched = Matched {
            rule,
            selector: at,
            specificity: selector.specificity,
            proximity,
        };
        let known = found
            .iter_mut()
            .rev()
            .take_while(|(_, m)| m.rule == rule)
            .find(|(pseudo, _)| *pseudo == selector.pseudo_element);
        match known {
            Some((_, known)) if known.strength() < matched.strength() => *known = matched,
            Some(_) => {}
            None => found.push((selector.pseudo_element.clone(), matched)),
        }
    }

    /// Specificity, then proximity: the nearer root is the stronger.
    fn strength(&self) -> (Specificity, std::cmp::Reverse<u32>) {
        (self.specificity, std::cmp::Reverse(self.proximity))
    }
}

/// Why a declaration that matches takes no part in a contest.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum ExcludedBecause {
    /// A condition around it does not hold, or is not evaluated.
    Blocked(Arc<Blocked>),
    /// Its value does not fit the property.
    Misfit(Mismatch),
}

/// A declaration that would compete, but for a reason does not.
#[derive(Clone, Debug)]
pub struct Excluded {
    /// The declaration.
    pub declaration: DeclarationRef,
    /// The rank that it would have.
    pub rank: Rank,
    /// The reason.
    pub because: ExcludedBecause,
}

/// The contest for one property of one element, and who stayed out of it.
#[derive(Clone, Debug)]
pub struct PropertyContest {
    /// The contest.
    pub contest: Contest<DeclarationRef>,
    /// Those that take no part, in the order they would have had.
    pub excluded: Vec<Excluded>,
}

/// The rules that match an element, each with the pseudo-element that it is about, in order of appearance.
pub(super) type MatchedByPseudo = Arc<[(Option<PseudoElement>, Matched)]>;

/// Styles of a page's elements.
pub struct Styles<'p> {
    pub(super) page: &'p Page,
    matched: RefCell<FxHashMap<NodeId, MatchedByPseudo>>,
    attributes: RefCell<FxHashMap<NodeId, Option<Arc<StyleSheet>>>>,
    hints: RefCell<FxHashMap<NodeId, Option<Arc<Hints>>>>,
    pub(super) declared: RefCell<FxHashMap<Target, Arc<Declarations>>>,
    writing_modes: RefCell<FxHashMap<Target, WritingMode>>,
    pub(super) values: RefCell<FxHashMap<Target, FxHashMap<PropertyName, Arc<Value>>>>,
    /// What the element that a property is declared on hands down to those below it.
    pub(super) handed_down: RefCell<FxHashMap<(NodeId, PropertyName), Arc<Value>>>,
    /// How many values are being worked out for the sake of others.
    pub(super) depth: Cell<usize>,
    pub(super) font_states: RefCell<FxHashMap<Target, FontState>>,
    pub(super) initial_values: RefCell<FxHashMap<PropertyId, Arc<Value>>>,
    counted: Counted,
    /// The values being worked out that others may depend on, to find cycles.
    pub(super) open: RefCell<Vec<(Target, PropertyName)>>,
    /// Those of them that turned out to depend on themselves.
    pub(super) cyclic: RefCell<Vec<(Target, PropertyName)>>,
}

impl fmt::Debug for Styles<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.debug_struct("Styles").finish_non_exhaustive()
    }
}

impl<'p> Styles<'p> {
    pub(super) fn new(page: &'p Page) -> Self {
        Styles {
            page,
            matched: RefCell::default(),
            attributes: RefCell::default(),
            hints: RefCell::default(),
            declared: RefCell::default(),
            writing_modes: RefCell::default(),
            handed_down: RefCell::default(),
            depth: Cell::new(0),
            values: RefCell::default(),
            font_states: RefCell::default(),
            initial_values: RefCell::default(),
            counted: Counted::default(),
            open: RefCell::default(),
            cyclic: RefCell::default(),
        }
    }

    /// The page.
    pub fn page(&self) -> &'p Page {
        self.page
    }

    /// The rules that match a target, in order of appearance; those that a condition blocks too.
    pub fn matched(&self, target: &Target) -> Vec<Matched> {
        self.matched_by_pseudo(target.element)
            .iter()
            .filter(|(pseudo, _)| *pseudo == target.pseudo)
            .map(|(_, matched)| *matched)
            .collect()
    }

    /// How a rule of a sheet matches a target, with the rule itself.
    pub fn matched_rule(
        &self,
        target: &Target,
        sheet: u32,
        rule: RuleId,
    ) -> Option<(Matched, &'p StyleRule)> {
        // Both lists are in order of appearance.
        let rules = &self.page.rules;
        let at = rules
            .binary_search_by_key(&(sheet, rule), |r| (r.sheet, r.rule))
            .ok()?;
        let matched = self.matched_by_pseudo(target.element);
        let first = matched.partition_point(|(_, m)| (m.rule as usize) < at);
        matched[first..]
            .iter()
            .take_while(|(_, m)| m.rule as usize == at)
            .find(|(pseudo, _)| *pseudo == target.pseudo)
            .map(|(_, m)| (*m, &rules[at]))
    }

    /// How many elements of the page each of its rules matches, by the rule's place in
    /// [`Page::rules`]; an element counts once, whatever pseudo-elements of it a rule speaks of.
    pub fn reach_of_rules(&self) -> Vec<u32> {
        let mut counts = vec![0; self.page.rules.len()];
        let matches = self.page.all_matches();
        for (list, elements) in matches.lists() {
            let mut last = None;
            for (_, matched) in list.iter() {
                if last.replace(matched.rule) != Some(matched.rule) {
                    counts[matched.rule as usize] += elements;
                }
            }
        }
        counts
    }

    /// The pseudo-elements of an element that some rule speaks of.
    pub fn pseudo_elements(&self, element: NodeId) -> Vec<PseudoElement> {
        let matched = self.matched_by_pseudo(element);
        let mut found: Vec<PseudoElement> = matched.iter().filter_map(|(p, _)| p.clone()).collect();
        found.sort();
        found.dedup();
        found
    }

    pub(super) fn matched_by_pseudo(&self, element: NodeId) -> MatchedByPseudo {
        if let Some(known) = self.matched.borrow().get(&element) {
            return known.clone();
        }
        let document = self.page.document();
        if let Some(matches) = self.page.matches.get() {
            let place = document.expect_element(element).index;
            return matches.list(matches.list_of(place)).clone();
        }
        let shadowed = !document.shadow_roots().is_empty();
        let own_tree = document.shadow_tree_of(element);
        let own_host = own_tree.and_then(|root| document.host_of(root));
        let matcher = Matcher::new(document, self.page.states()).counting(&self.counted);
        let mut candidates: Vec<_> = self
            .page
            .index()
            .candidates(document.expect_element(element), shadowed)
            .collect();
        candidates.sort_unstable();
        candidates.dedup();
        let mut found: Vec<(Option<PseudoElement>, Matched)> = Vec::new();
        for (rule, at) in candidates {
            let style_rule = &self.page.rules[rule as usize];
            let Ok(list) = &style_rule.selectors else {
                continue;
            };
            let selector = &list.selectors[at as usize];
            let of_tree = !shadowed
                || style_rule.origin < Origin::Author
                || style_rule.host == own_host
                || selector.through.is_some()
                || (style_rule.host == Some(element) && selector.names_host);
            if !of_tree {
                continue;
            }
            let matcher = matcher.inside(style_rule.host);
            let Some(proximity) = proximity(&matcher, style_rule, selector, element) else {
                continue;
            };
            Matched::note(&mut found, rule, at, proximity, selector);
        }
        let found: MatchedByPseudo = found.into();
        self.matched.borrow_mut().insert(element, found.clone());
        found
    }

    /// The sheet that an element's style attribute is, when it has one.
    pub fn attribute_sheet(&self, element: NodeId) -> Option<Arc<StyleSheet>> {
        if let Some(known) = self.attributes.borrow().get(&element) {
            return known.clone();
        }
        let document = self.page.document();
        let attribute = document.expect_element(element).attribute_node("style");
        let sheet = attribute.map(|attribute| {
            let text = document.text();
            let sheet = if attribute.is_verbatim(text.source()) {
                Sheet::parse_attribute(text.clone(), attribute.value_span)
            } else {
                // The value has character references: its own text, placed by the attribute.
                let copy = Text::new(text.name(), &*attribute.value);
                let span = copy.span();
                Sheet::parse_attribute(copy, span)
            };
            StyleSheet::new(sheet, document.is_quirks())
        });
        self.attributes.borrow_mut().insert(element, sheet.clone());
        sheet
    }

    /// The presentational hints of an element, when it has some.
    pub fn hints(&self, element: NodeId) -> Option<Arc<Hints>> {
        if let Some(known) = self.hints.borrow().get(&element) {
            return known.clone();
        }
        let hints = hints::hints(self.page.document(), element).map(Arc::new);
        self.hints.borrow_mut().insert(element, hints.clone());
        hints
    }

    /// The sheet that a reference names.
    pub fn sheet(&self, sheet: SheetRef) -> Arc<StyleSheet> {
        match sheet {
            SheetRef::Listed(at) => self.page.sheets[at as usize].styles.clone(),
            SheetRef::Attribute(element) => self
                .attribute_sheet(element)
                .expect("only an element with a style attribute is referred to"),
            SheetRef::Hints(element) => self
                .hints(element)
                .expect("only an element with hints is referred to")
                .styles
                .clone(),
        }
    }

    /// Whether a property is inherited; for a custom one as it is registered.
    pub fn inherits(&self, property: &PropertyName) -> bool {
        match property {
            PropertyName::Known(property) => property.facts().inherited,
            PropertyName::Custom(name) => self
                .page
                .registration(name)
                .is_none_or(|found| found.inherits),
        }
    }

    /// The property as the cascade knows it: a logical one is the physical one that it stands for.
    pub fn physical(&self, target: &Target, property: &PropertyName) -> PropertyName {
        match property {
            PropertyName::Known(id) if !id.facts().logical_group.is_empty() => {
                PropertyName::Known(logical::physical(*id, self.writing_mode(target)))
            }
            other => other.clone(),
        }
    }

    /// Whether a selector of one of some rules, by their places in [`Page::rules`], finds an element or a
    /// pseudo-element of it, whatever the conditions around the rule.
    pub(crate) fn is_found_by(&self, element: NodeId, rules: &[u32]) -> bool {
        let document = self.page.document();
        let matcher = Matcher::new(document, self.page.states()).counting(&self.counted);
        rules.iter().any(|at| {
            let style_rule = &self.page.rules[*at as usize];
            let Ok(list) = &style_rule.selectors else {
                return false;
            };
            let matcher = matcher.inside(style_rule.host);
            let mut selectors = list.selectors.iter();
            selectors.any(|s| proximity(&matcher, style_rule, s, element).is_some())
        })
    }

    /// The rules that match an element, with the pseudo-element of it that each is about.
    pub(crate) fn all_matched(&self, element: NodeId) -> Vec<(Option<PseudoElement>, Matched)> {
        self.matched_by_pseudo(element).to_vec()
    }

    pub(super) fn writing_mode(&self, target: &Target) -> WritingMode {
        if let Some(known) = self.writing_modes.borrow().get(target) {
            return *known;
        }
        let mode = self.value(target, &known(PropertyId::WRITING_MODE));
        let direction = self.value(target, &known(PropertyId::DIRECTION));
        let mode = WritingMode::new(mode.computed.text(), direction.computed.text());
        let mut known = self.writing_modes.borrow_mut();
        known.insert(target.clone(), mode);
        mode
    }

    /// The declaration that wins the contest for a longhand or custom property: the same as the contest's head, found
    /// without the others.
    pub(super) fn winner(
        &self,
        target: &Target,
        property: &PropertyName,
    ) -> Option<DeclarationRef> {
        let mut best: Option<(DeclarationRef, Rank)> = None;
        let declarations = self.declarations_of(target);
        for (declaration, rank, blocked) in self.about(&declarations, target, property) {
            let (declaration, rank) = (*declaration, *rank);
            if blocked.is_some() || best.is_some_and(|(_, other)| rank.compare(&other).0.is_lt()) {
                continue;
            }
            let styles = self.sheet(declaration.sheet);
            match &styles.reading(declaration.id).meaning {
                Meaning::Misfit(_) => {}
                // What rolls back needs all the others.
                Meaning::Wide(word) if word.starts_with("revert") => {
                    let contest = self.contest(target, property).contest;
                    return contest.winning().map(|winner| winner.declaration);
                }
                _ => best = Some((declaration, rank)),
            }
        }
        best.map(|(declaration, _)| declaration)
    }

    /// The contest for one longhand or custom property.
    pub fn contest(&self, target: &Target, property: &PropertyName) -> PropertyContest {
        let mut competing = Vec::new();
        let mut excluded = Vec::new();
        for (declaration, rank, blocked) in self.about_in_order(target, property) {
            if let Some(blocked) = blocked {
                excluded.push(Excluded {
                    declaration,
                    rank,
                    because: ExcludedBecause::Blocked(blocked),
                });
                continue;
            }
            let styles = self.sheet(declaration.sheet);
            if let Some(mismatch) = styles.misfit(declaration.id) {
                excluded.push(Excluded {
                    declaration,
                    rank,
                    because: ExcludedBecause::Misfit(mismatch),
                });
                continue;
            }
            competing.push((declaration, rank));
        }
        excluded.sort_by(|a, b| b.rank.compare(&a.rank).0);
        let contest = Contest::decide(competing, |declaration| {
            let styles = self.sheet(declaration.sheet);
            match &styles.reading(declaration.id).meaning {
                Meaning::Wide(word) if &**word == "revert" => Turn::Reverts,
                Meaning::Wide(word) if &**word == "revert-layer" => Turn::RevertsLayer,
                _ => Turn::Gives,
            }
        });
        PropertyContest { contest, excluded }
    }
}

/// Whether a selector of a rule matches an element, and how far up its scope's root is.
pub(super) fn proximity(
    matcher: &Matcher<'_>,
    rule: &StyleRule,
    selector: &Selector,
    element: NodeId,
) -> Option<u32> {
    let Some(scope) = &rule.scope else {
        return matcher.matches(selector, element).then_some(u32::MAX);
    };
    let roots = matcher.scope_roots(scope, element);
    let mut nearest = roots.into_iter();
    nearest
        .find(|(root, _)| matcher.scoped(*root).matches(selector, element))
        .map(|(_, steps)| steps)
}

/// Whether a property is that one of the standards.
pub(super) fn is(property: &PropertyName, id: PropertyId) -> bool {
    *property == PropertyName::Known(id)
}

/// A property of the standards by its name.
pub(super) const fn known(id: PropertyId) -> PropertyName {
    PropertyName::Known(id)
}
