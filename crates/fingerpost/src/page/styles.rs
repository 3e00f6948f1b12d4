//! Styles of single elements, worked out on demand and remembered.
//!
//! The road of one value: the rules that match ([`Styles::matched`]), the contest of the property
//! ([`Styles::contest`]), the winner's value with its variables put in, inheritance or the initial
//! value where there is none, and the computed value ([`Styles::value`]).

use std::cell::RefCell;
use std::collections::HashMap;
use std::fmt;
use std::rc::Rc;
use std::sync::Arc;

use super::{Blocked, Page, StyleSheet};
use crate::cascade::{Contest, LayerOrder, Origin, Rank, Turn};
use crate::markup::NodeId;
use crate::selector::{Matcher, PseudoElement, Specificity};
use crate::sheet::{DeclarationId, RuleId, Sheet};
use crate::text::Text;
use crate::value::PropertyId;
use crate::value::computed::{
    MEDIUM_FONT_SIZE, Measures, NORMAL_LINE_HEIGHT, computed,
};
use crate::value::declared::{self, Meaning, Name};
use crate::value::grammar::{Mismatch, match_property};
use crate::value::logical::{self, WritingMode};
use crate::value::shorthand::Piece;
use crate::value::substitution::{SubstitutionError, named_variables, substitute, value_tokens};

/// How far a custom property may refer to others through others. Real themes go a handful deep.
const DEEPEST_VARIABLES: usize = 100;

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
    Custom(Box<str>),
}

impl PropertyName {
    /// Reads a property's name; `None` for one that nobody knows.
    pub fn parse(name: &str) -> Option<PropertyName> {
        if name.starts_with("--") && name.len() > 2 {
            return Some(PropertyName::Custom(name.into()));
        }
        PropertyId::named(name).map(PropertyName::Known)
    }

    /// Whether it is inherited.
    pub fn is_inherited(&self) -> bool {
        match self {
            PropertyName::Known(property) => property.facts().inherited,
            PropertyName::Custom(_) => true,
        }
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

/// Where a value comes from.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum ValueSource {
    /// The contest's winner.
    Declared(DeclarationRef),
    /// The parent; the element whose own declaration it is, or the root for an initial value.
    Inherited {
        /// The element next up whose value is not inherited itself.
        from: NodeId,
    },
    /// Nobody: it is the property's initial value.
    Initial,
}

/// A custom property that a value went through.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct VariableStep {
    /// Its name, with the dashes.
    pub name: String,
    /// Its value, with its own variables put in; none where it has no value and a fallback was
    /// taken.
    pub value: Option<String>,
    /// The declaration that gives it.
    pub declaration: Option<DeclarationRef>,
    /// The element that the declaration is on.
    pub element: NodeId,
}

/// What a property of an element comes to.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Value {
    /// The value that was declared, with variables put in; for a longhand set by a shorthand its
    /// part. The initial value where there is none.
    pub specified: String,
    /// The computed value.
    pub computed: String,
    /// Where it comes from.
    pub source: ValueSource,
    /// The custom properties it went through, in order.
    pub variables: Vec<VariableStep>,
    /// Why the declared value was not taken after all (invalid at computed-value time).
    pub fell_through: Option<String>,
}

/// What a contest is about.
enum Subject<'n> {
    /// A property under its physical and its logical name.
    Known(Vec<PropertyId>),
    Custom(&'n str),
}

type MatchedByPseudo = Rc<Vec<(Option<PseudoElement>, Matched)>>;

/// Styles of a page's elements.
pub struct Styles<'p> {
    page: &'p Page,
    matched: RefCell<HashMap<NodeId, MatchedByPseudo>>,
    attributes: RefCell<HashMap<NodeId, Option<Arc<StyleSheet>>>>,
    values: RefCell<HashMap<(Target, PropertyName), Rc<Value>>>,
    /// The custom properties being worked out, to find cycles.
    open: RefCell<Vec<(Target, Box<str>)>>,
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
            values: RefCell::default(),
            open: RefCell::default(),
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

    /// The pseudo-elements of an element that some rule speaks of.
    pub fn pseudo_elements(&self, element: NodeId) -> Vec<PseudoElement> {
        let matched = self.matched_by_pseudo(element);
        let mut found: Vec<PseudoElement> =
            matched.iter().filter_map(|(p, _)| p.clone()).collect();
        found.sort();
        found.dedup();
        found
    }

    fn matched_by_pseudo(&self, element: NodeId) -> MatchedByPseudo {
        if let Some(known) = self.matched.borrow().get(&element) {
            return known.clone();
        }
        let document = self.page.document();
        let matcher = Matcher::new(document, self.page.states());
        let mut candidates: Vec<_> = self
            .page
            .index
            .candidates(document.expect_element(element))
            .collect();
        candidates.sort_unstable();
        candidates.dedup();
        let mut found: Vec<(Option<PseudoElement>, Matched)> = Vec::new();
        for (rule, at) in candidates {
            let Ok(list) = &self.page.rules[rule as usize].selectors else {
                continue;
            };
            let selector = &list.selectors[at as usize];
            if !matcher.matches(selector, element) {
                continue;
            }
            let matched = Matched {
                rule,
                selector: at,
                specificity: selector.specificity,
            };
            let known = found
                .iter_mut()
                .rev()
                .take_while(|(_, m)| m.rule == rule)
                .find(|(pseudo, _)| *pseudo == selector.pseudo_element);
            match known {
                Some((_, known)) if known.specificity < matched.specificity => *known = matched,
                Some(_) => {}
                None => found.push((selector.pseudo_element.clone(), matched)),
            }
        }
        let found = Rc::new(found);
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
            StyleSheet::new(sheet)
        });
        self.attributes.borrow_mut().insert(element, sheet.clone());
        sheet
    }

    /// The sheet that a reference names.
    pub fn sheet(&self, sheet: SheetRef) -> Arc<StyleSheet> {
        match sheet {
            SheetRef::Listed(at) => self.page.sheets[at as usize].styles.clone(),
            SheetRef::Attribute(element) => self
                .attribute_sheet(element)
                .expect("only an element with a style attribute is referred to"),
        }
    }

    /// Every declaration that matches a target, with the rank it has and what blocks it, in order
    /// of appearance; the style attribute's come last.
    pub fn declarations(
        &self,
        target: &Target,
    ) -> Vec<(DeclarationRef, Rank, Option<Arc<Blocked>>)> {
        let mut found = Vec::new();
        for matched in self.matched(target) {
            let rule = &self.page.rules[matched.rule as usize];
            let styles = &self.page.sheets[rule.sheet as usize].styles;
            for (id, declaration) in styles.sheet().declarations_of(rule.rule) {
                let rank = Rank {
                    origin: rule.origin,
                    important: declaration.important.is_some(),
                    attached: false,
                    layer: rule.layer_order,
                    specificity: matched.specificity,
                    proximity: u32::MAX,
                    order: (rule.sheet, id.index() as u32),
                };
                let reference = DeclarationRef {
                    sheet: SheetRef::Listed(rule.sheet),
                    id,
                };
                found.push((reference, rank, rule.blocked.clone()));
            }
        }
        if target.pseudo.is_none()
            && let Some(styles) = self.attribute_sheet(target.element)
        {
            for (id, declaration) in styles.sheet().declarations_of(RuleId(0)) {
                let rank = Rank {
                    origin: Origin::Author,
                    important: declaration.important.is_some(),
                    attached: true,
                    layer: LayerOrder::UNLAYERED,
                    specificity: Specificity::default(),
                    proximity: u32::MAX,
                    order: (u32::MAX, id.index() as u32),
                };
                let reference = DeclarationRef {
                    sheet: SheetRef::Attribute(target.element),
                    id,
                };
                found.push((reference, rank, None));
            }
        }
        found
    }

    /// Whether a declaration is about a property: it names it, or is a shorthand of it.
    fn is_about(&self, reference: DeclarationRef, subject: &Subject<'_>) -> bool {
        let styles = self.sheet(reference.sheet);
        match (&styles.meaning(reference.id).0, subject) {
            (Name::Property(declared), Subject::Known(wanted)) => {
                wanted.iter().any(|w| declared.sets(*w))
            }
            (Name::Custom, Subject::Custom(wanted)) => {
                let declaration = styles.sheet().declaration(reference.id);
                styles.sheet().name_source(declaration) == *wanted
            }
            _ => false,
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

    fn subject<'n>(&self, target: &Target, property: &'n PropertyName) -> Subject<'n> {
        match property {
            PropertyName::Custom(name) => Subject::Custom(name),
            PropertyName::Known(id) if id.facts().logical_group.is_empty() => {
                Subject::Known(vec![*id])
            }
            PropertyName::Known(id) => {
                let mode = self.writing_mode(target);
                let physical = logical::physical(*id, mode);
                let mut names = vec![physical];
                names.extend(logical::logical(physical, mode));
                Subject::Known(names)
            }
        }
    }

    fn writing_mode(&self, target: &Target) -> WritingMode {
        let mode = self.value(target, &known("writing-mode"));
        let direction = self.value(target, &known("direction"));
        WritingMode::new(&mode.computed, &direction.computed)
    }

    /// The contest for one longhand or custom property.
    pub fn contest(&self, target: &Target, property: &PropertyName) -> PropertyContest {
        let mut competing = Vec::new();
        let mut excluded = Vec::new();
        let subject = self.subject(target, property);
        for (declaration, rank, blocked) in self.declarations(target) {
            if !self.is_about(declaration, &subject) {
                continue;
            }
            if let Some(blocked) = blocked {
                excluded.push(Excluded {
                    declaration,
                    rank,
                    because: ExcludedBecause::Blocked(blocked),
                });
                continue;
            }
            let styles = self.sheet(declaration.sheet);
            if let (_, Meaning::Misfit(mismatch)) = styles.meaning(declaration.id) {
                excluded.push(Excluded {
                    declaration,
                    rank,
                    because: ExcludedBecause::Misfit(mismatch.clone()),
                });
                continue;
            }
            competing.push((declaration, rank));
        }
        excluded.sort_by(|a, b| b.rank.compare(&a.rank).0);
        let contest = Contest::decide(competing, |declaration| {
            let styles = self.sheet(declaration.sheet);
            match styles.meaning(declaration.id) {
                (_, Meaning::Wide(word)) if &**word == "revert" => Turn::Reverts,
                (_, Meaning::Wide(word)) if &**word == "revert-layer" => Turn::RevertsLayer,
                _ => Turn::Gives,
            }
        });
        PropertyContest { contest, excluded }
    }

    /// What a target inherits from: the parent element, or the element of a pseudo-element.
    pub fn parent(&self, target: &Target) -> Option<Target> {
        match target.pseudo {
            Some(_) => Some(target.element.into()),
            None => self
                .page
                .document()
                .parent_element(target.element)
                .map(Target::from),
        }
    }

    /// What a property of a target comes to.
    ///
    /// A shorthand has no value of its own; ask for its longhands.
    pub fn value(&self, target: &Target, property: &PropertyName) -> Rc<Value> {
        let property = &self.physical(target, property);
        // From the root down, so that no step has to go up more than one element: a tree may be
        // deep, the stack is not.
        if property.is_inherited() || is_font_size(property) {
            for above in self.page.document().trail(target.element) {
                let above = Target::from(above);
                if above != *target {
                    self.step(&above, property);
                }
            }
        }
        self.step(target, property)
    }

    fn step(&self, target: &Target, property: &PropertyName) -> Rc<Value> {
        let key = (target.clone(), property.clone());
        if let Some(known) = self.values.borrow().get(&key) {
            return known.clone();
        }
        let value = Rc::new(self.work_out(target, property));
        self.values.borrow_mut().insert(key, value.clone());
        value
    }

    fn work_out(&self, target: &Target, property: &PropertyName) -> Value {
        let contest = self.contest(target, property);
        let Some(winner) = contest.contest.winning() else {
            return self.default(target, property, None);
        };
        let reference = winner.declaration;
        let styles = self.sheet(reference.sheet);
        let sheet = styles.sheet();
        let declaration = sheet.declaration(reference.id);
        let source = sheet.text().source();
        match styles.meaning(reference.id) {
            (_, Meaning::Wide(word)) => self.wide(word, target, property, reference),
            (Name::Property(declared), Meaning::Pending(_)) => {
                let tokens = sheet.value_tokens(declaration);
                self.substituted(target, property, reference, *declared, source, tokens)
            }
            (_, Meaning::Fits(pieces)) => {
                let PropertyName::Known(wanted) = property else {
                    return self.default(target, property, None);
                };
                let text = self.piece(target, *wanted, pieces, source);
                self.declared(target, *wanted, reference, text, Vec::new())
            }
            (Name::Custom, Meaning::Free) => {
                let tokens = sheet.value_tokens(declaration);
                let (result, variables) = self.put_in_variables(target, source, tokens);
                match result {
                    Ok(text) => Value {
                        computed: text.clone(),
                        specified: text,
                        source: ValueSource::Declared(reference),
                        variables,
                        fell_through: None,
                    },
                    Err(error) => {
                        let mut value = self.default(target, property, Some(explain(&error)));
                        value.variables = variables;
                        value
                    }
                }
            }
            _ => self.default(target, property, None),
        }
    }

    /// What a declaration says of a property, under its own name or its logical one.
    fn piece(
        &self,
        target: &Target,
        wanted: PropertyId,
        pieces: &[(PropertyId, Piece)],
        source: &str,
    ) -> Option<String> {
        let piece = pieces.iter().find(|(p, _)| *p == wanted).or_else(|| {
            let other = logical::logical(wanted, self.writing_mode(target))?;
            pieces.iter().find(|(p, _)| *p == other)
        });
        piece.and_then(|(_, piece)| piece_text(piece, source))
    }

    /// Cascade 5 § 7.3.
    fn wide(
        &self,
        word: &str,
        target: &Target,
        property: &PropertyName,
        reference: DeclarationRef,
    ) -> Value {
        let inherits = match word {
            "inherit" => true,
            "initial" => false,
            _ => property.is_inherited(),
        };
        let mut value = if inherits {
            self.inherited(target, property)
        } else {
            self.initial(target, property)
        };
        word.clone_into(&mut value.specified);
        value.source = ValueSource::Declared(reference);
        value
    }

    fn default(
        &self,
        target: &Target,
        property: &PropertyName,
        fell_through: Option<String>,
    ) -> Value {
        let mut value = if property.is_inherited() {
            self.inherited(target, property)
        } else {
            self.initial(target, property)
        };
        value.fell_through = fell_through;
        value
    }

    fn inherited(&self, target: &Target, property: &PropertyName) -> Value {
        let Some(parent) = self.parent(target) else {
            return self.initial(target, property);
        };
        let above = self.step(&parent, property);
        let source = match &above.source {
            ValueSource::Inherited { from } => ValueSource::Inherited { from: *from },
            ValueSource::Declared(_) => ValueSource::Inherited {
                from: parent.element,
            },
            ValueSource::Initial => ValueSource::Initial,
        };
        Value {
            specified: above.specified.clone(),
            computed: above.computed.clone(),
            source,
            variables: Vec::new(),
            fell_through: None,
        }
    }

    fn initial(&self, target: &Target, property: &PropertyName) -> Value {
        let specified = match property {
            PropertyName::Known(property) => property.facts().initial.to_owned(),
            PropertyName::Custom(_) => String::new(),
        };
        let computed = match property {
            PropertyName::Known(property) => {
                let tokens = value_tokens(&specified);
                match match_property(*property, &specified, &tokens) {
                    Ok(_) => self.compute(target, *property, &specified),
                    Err(_) => specified.clone(),
                }
            }
            PropertyName::Custom(_) => String::new(),
        };
        Value {
            specified,
            computed,
            source: ValueSource::Initial,
            variables: Vec::new(),
            fell_through: None,
        }
    }

    fn declared(
        &self,
        target: &Target,
        property: PropertyId,
        reference: DeclarationRef,
        text: Option<String>,
        variables: Vec<VariableStep>,
    ) -> Value {
        let specified = text.unwrap_or_else(|| property.facts().initial.to_owned());
        let computed = self.compute(target, property, &specified);
        Value {
            specified,
            computed,
            source: ValueSource::Declared(reference),
            variables,
            fell_through: None,
        }
    }

    /// A declaration with variables: put in, then read as if it had been written so.
    fn substituted(
        &self,
        target: &Target,
        property: &PropertyName,
        reference: DeclarationRef,
        declared: PropertyId,
        source: &str,
        tokens: &[crate::sheet::Token],
    ) -> Value {
        let (result, variables) = self.put_in_variables(target, source, tokens);
        let fallen = |why: String| {
            let mut value = self.default(target, property, Some(why));
            value.variables.clone_from(&variables);
            value
        };
        let text = match result {
            Ok(text) => text,
            Err(error) => return fallen(explain(&error)),
        };
        let PropertyName::Known(wanted) = property else {
            return fallen("a shorthand sets no custom property".to_owned());
        };
        let tokens = value_tokens(&text);
        match declared::meaning(declared, &text, &tokens) {
            Meaning::Wide(word) => {
                let mut value = self.wide(&word, target, property, reference);
                value.variables = variables;
                value
            }
            Meaning::Fits(pieces) => {
                let part = self.piece(target, *wanted, &pieces, &text);
                self.declared(target, *wanted, reference, part, variables)
            }
            Meaning::Pending(_) => {
                // What `env()` or `attr()` give is not in the sources: kept as written.
                Value {
                    specified: text.clone(),
                    computed: text,
                    source: ValueSource::Declared(reference),
                    variables,
                    fell_through: None,
                }
            }
            _ => fallen(format!(
                "with its variables put in it reads '{}', which {} does not take, so it is \
                 invalid at computed-value time",
                text.trim(),
                declared.name()
            )),
        }
    }

    fn put_in_variables(
        &self,
        target: &Target,
        source: &str,
        tokens: &[crate::sheet::Token],
    ) -> (Result<String, SubstitutionError>, Vec<VariableStep>) {
        let mut steps: Vec<VariableStep> = Vec::new();
        let result = substitute(source, tokens, &mut |name| {
            let value = self.variable(target, name);
            let mut inner = Vec::new();
            if let Some(value) = &value {
                inner.extend(value.variables.iter().cloned());
            }
            let (declaration, element) = match value.as_ref().map(|v| &v.source) {
                Some(ValueSource::Declared(reference)) => (Some(*reference), target.element),
                Some(ValueSource::Inherited { from }) => {
                    let above = self.step(&Target::from(*from), &PropertyName::Custom(name.into()));
                    inner.extend(above.variables.iter().cloned());
                    match above.source {
                        ValueSource::Declared(reference) => (Some(reference), *from),
                        _ => (None, *from),
                    }
                }
                _ => (None, target.element),
            };
            let text = value
                .filter(|_| declaration.is_some())
                .map(|v| v.computed.clone());
            if steps.iter().any(|s| s.name == name) {
                return text;
            }
            steps.push(VariableStep {
                name: name.to_owned(),
                value: text.clone(),
                declaration,
                element,
            });
            for step in inner {
                let known = steps.iter().any(|s| s.name == step.name && s.element == step.element);
                if !known {
                    steps.push(step);
                }
            }
            text
        });
        (result, steps)
    }

    /// A custom property's value; `None` in a cycle or beyond the depth limit.
    fn variable(&self, target: &Target, name: &str) -> Option<Rc<Value>> {
        let key = (target.clone(), Box::from(name));
        if self.open.borrow().contains(&key) || self.open.borrow().len() > DEEPEST_VARIABLES {
            return None;
        }
        self.open.borrow_mut().push(key);
        let value = self.value(target, &PropertyName::Custom(name.into()));
        self.open.borrow_mut().pop();
        Some(value)
    }

    fn compute(&self, target: &Target, property: PropertyId, text: &str) -> String {
        let tokens = value_tokens(text);
        let Ok(matched) = match_property(property, text, &tokens) else {
            return text.to_owned();
        };
        let measures = self.measures(target, property);
        let color = if text.to_ascii_lowercase().contains("currentcolor") {
            self.current_color(target, property)
        } else {
            String::new()
        };
        computed(property, text, &tokens, &matched, &measures, &color)
    }

    fn current_color(&self, target: &Target, property: PropertyId) -> String {
        let color = known("color");
        if PropertyName::Known(property) == color {
            return match self.parent(target) {
                Some(parent) => self.value(&parent, &color).computed.clone(),
                None => self.initial(target, &color).computed,
            };
        }
        self.value(target, &color).computed.clone()
    }

    /// What relative units of a property refer to.
    fn measures(&self, target: &Target, property: PropertyId) -> Measures {
        let viewport = self.page.conditions().viewport;
        let mut measures = Measures {
            font_size: MEDIUM_FONT_SIZE,
            root_font_size: MEDIUM_FONT_SIZE,
            line_height: MEDIUM_FONT_SIZE * NORMAL_LINE_HEIGHT,
            root_line_height: MEDIUM_FONT_SIZE * NORMAL_LINE_HEIGHT,
            viewport_width: viewport.width,
            viewport_height: viewport.height,
        };
        let size_of = |target: &Target| pixels(&self.value(target, &known("font-size")).computed);
        let height_of = |target: &Target, size: f64| {
            let height = self.value(target, &known("line-height"));
            match height.computed.parse::<f64>() {
                Ok(times) => times * size,
                Err(_) => pixels(&height.computed).unwrap_or(size * NORMAL_LINE_HEIGHT),
            }
        };
        let of_font = property.name() == "font-size";
        let of_line = property.name() == "line-height";
        let basis = if of_font {
            self.parent(target)
        } else {
            Some(target.clone())
        };
        let root = Target::from(self.page.document().root_element());
        if let Some(basis) = basis {
            measures.font_size = size_of(&basis).unwrap_or(MEDIUM_FONT_SIZE);
            if !of_line && !of_font {
                measures.line_height = height_of(&basis, measures.font_size);
            }
        }
        if !(of_font && *target == root) {
            measures.root_font_size = size_of(&root).unwrap_or(MEDIUM_FONT_SIZE);
            if !(of_line && *target == root) && !of_font {
                measures.root_line_height = height_of(&root, measures.root_font_size);
            }
        }
        measures
    }

    /// The custom properties that a declaration's value names directly.
    pub fn variables_of(&self, reference: DeclarationRef) -> Vec<String> {
        let styles = self.sheet(reference.sheet);
        let sheet = styles.sheet();
        let tokens = sheet.value_tokens(sheet.declaration(reference.id));
        named_variables(sheet.text().source(), tokens)
            .into_iter()
            .map(|(name, _)| name)
            .collect()
    }
}

fn known(name: &str) -> PropertyName {
    PropertyName::parse(name).expect("the table has it")
}

fn is_font_size(property: &PropertyName) -> bool {
    *property == known("font-size")
}

fn pixels(text: &str) -> Option<f64> {
    text.strip_suffix("px")?.parse().ok()
}

fn piece_text(piece: &Piece, source: &str) -> Option<String> {
    match piece {
        Piece::Part(span) => Some(source[*span].to_owned()),
        Piece::Composed(text) => Some(text.clone()),
        Piece::Initial => None,
    }
}

fn explain(error: &SubstitutionError) -> String {
    match error {
        SubstitutionError::Missing(name) => format!(
            "{name} has no value here (not set, in a cycle, or invalid) and var() has no fallback, \
             so the declaration is invalid at computed-value time"
        ),
        SubstitutionError::Malformed => "var() is not written as it should be".to_owned(),
        SubstitutionError::TooLong => {
            "its variables grow beyond what is read, so it is invalid at computed-value time"
                .to_owned()
        }
    }
}
