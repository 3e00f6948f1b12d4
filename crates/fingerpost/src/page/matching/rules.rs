//! All style rules of a page's sheets, flat and in order of appearance: nested rules with what `&`
//! stands for, group rules with whether their condition holds, layers with their order.

use std::sync::Arc;

use super::layers::Layers;
use crate::cascade::{LayerOrder, Origin};
use crate::environment::{
    ContainerQuery, Environment, Verdict, container_queries, media, supports,
};
use crate::markup::{Document, ElementId};
use crate::page::matching::registrations::{Registrations, registration};
use crate::page::{Arrival, PageSheet, StyleSheet};
use crate::selector::{Scope, ScopeRoots, SelectorError, SelectorList};
use crate::sheet::{AtRule, Item, Rule, RuleId, RuleKind, Sheet, Token, TokenKind};
use crate::text::TextRange;
use crate::value::substitution::{arguments, value_tokens};

/// Why a rule does not take part although its selector may match.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Blocked {
    /// The sheet's own condition does not hold.
    Sheet {
        /// The condition as written: `media print`.
        condition: String,
        /// What was compared.
        verdict: Verdict,
    },
    /// The condition of a rule around it does not hold.
    Condition {
        /// The at-rule around it.
        rule: RuleId,
        /// The condition as written: `@media print`.
        condition: String,
        /// What was compared.
        verdict: Verdict,
    },
    /// Only layout knows whether the condition of a rule around it holds.
    Undecided {
        /// The at-rule around it.
        rule: RuleId,
        /// The condition as written: `@container (width > 30em)`.
        condition: String,
        /// The container whose size it asks for.
        container: ElementId,
    },
    /// A rule around it is not evaluated.
    NotYet {
        /// The at-rule around it.
        rule: RuleId,
        /// The rule's head as written.
        head: String,
        /// Why it is not.
        reason: &'static str,
    },
}

/// A style rule of a page.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct StyleRule {
    /// The sheet, by its index in the page's list.
    pub sheet: u32,
    /// The rule that holds the declarations: a style rule, or a group rule nested in one.
    pub rule: RuleId,
    /// Its selectors, or why they are none.
    pub selectors: Result<Arc<SelectorList>, SelectorError>,
    /// The full name of its layer.
    pub layer: Option<Arc<str>>,
    /// Its layer's order.
    pub layer_order: LayerOrder,
    /// Why it does not take part.
    pub blocked: Option<Arc<Blocked>>,
    /// Whose it is.
    pub origin: Origin,
    /// The scope that its elements must be in.
    pub scope: Option<Arc<Scope>>,
    /// The `@container` rules around it, the innermost first.
    pub containers: Option<Arc<ContainerGate>>,
    /// The host of the shadow tree whose sheet it is in.
    pub host: Option<ElementId>,
    /// How many shadow trees the sheet is in.
    pub depth: u32,
}

/// An `@container` rule around style rules: whether it holds is asked for each element.
#[derive(Debug)]
#[non_exhaustive]
pub struct ContainerGate {
    /// The one around it.
    pub outer: Option<Arc<ContainerGate>>,
    /// The rule.
    pub rule: RuleId,
    /// The rule's head as written.
    pub head: String,
    /// What is behind `@container`: its own text, since that of the sheet may be another in the next state.
    pub prelude: Box<str>,
    /// The queries in it; one that holds is enough.
    pub queries: Vec<ContainerQuery>,
}

/// Whether the rules of two lists of sheets ask the same of elements, whatever their conditions and declarations. It
/// is told from the heads as they are written: selectors that are in each other are too much to compare.
pub(in crate::page) fn ask_alike(before: &[PageSheet], after: &[PageSheet]) -> bool {
    let same_rules = |a: &StyleSheet, b: &StyleSheet| {
        let (one, other) = (a.sheet(), b.sheet());
        a.namespaces == b.namespaces
            && one.rule_count() == other.rule_count()
            && one.rules().zip(other.rules()).all(|((_, a), (_, b))| {
                a.kind == b.kind
                    && a.parent == b.parent
                    && one.prelude_source(a) == other.prelude_source(b)
            })
    };
    before.len() == after.len()
        && before.iter().zip(after).all(|(a, b)| {
            a.origin == b.origin
                && a.host == b.host
                && a.layer == b.layer
                && (a.styles.has_same_heads(&b.styles) || same_rules(&a.styles, &b.styles))
        })
}

/// Whether the rules of two lists of sheets are the same, whatever their declarations: in the same environment, on
/// the same document. None of them registers a custom property.
pub(in crate::page) fn stand_alike(before: &[PageSheet], after: &[PageSheet]) -> bool {
    before.len() == after.len()
        && before
            .iter()
            .zip(after)
            .all(|(a, b)| comes_alike(a, b) && a.styles.has_same_heads(&b.styles))
}

/// Whether a sheet takes part as its state before did, whatever its rules are; none of them registers a custom property
/// that may be another now.
fn comes_alike(a: &PageSheet, b: &PageSheet) -> bool {
    a.origin == b.origin
        && a.host == b.host
        && a.layer == b.layer
        && a.gates == b.gates
        && (Arc::ptr_eq(&a.styles, &b.styles) || !b.styles.registers())
}

/// The rules of a page of which only some rules at the top of their sheets, or in group rules there, have other
/// selectors than `known` has; none where more differs.
pub(in crate::page) fn with_other_selectors(
    known: &[StyleRule],
    before: &[PageSheet],
    after: &[PageSheet],
) -> Option<Vec<StyleRule>> {
    if before.len() != after.len() {
        return None;
    }
    let mut rules: Option<Vec<StyleRule>> = None;
    for (at, (a, b)) in before.iter().zip(after).enumerate() {
        if !comes_alike(a, b) {
            return None;
        }
        let sheet = b.styles.sheet();
        for id in a.styles.other_selectors(&b.styles)? {
            let rule = sheet.rule(id);
            let around = std::iter::successors(rule.parent, |id| sheet.rule(*id).parent);
            let mut around = around.map(|id| &sheet.rule(id).kind);
            let mut inner = sheet.items(rule).iter();
            // Selectors that are in others, or in a scope, depend on those.
            if around.any(|kind| *kind == RuleKind::Style)
                || inner.any(|item| matches!(item, Item::Rule(_)))
            {
                return None;
            }
            let rules = rules.get_or_insert_with(|| known.to_vec());
            let place = rules.binary_search_by_key(&(at as u32, id), |r| (r.sheet, r.rule));
            let rule = rules.get_mut(place.ok()?)?;
            if rule.scope.is_some() {
                return None;
            }
            rule.selectors = b.styles.selectors(id, None, false).clone();
        }
    }
    Some(rules.unwrap_or_else(|| known.to_vec()))
}

/// An at-rule that defines something.
pub(in crate::page) struct FoundAtRule {
    pub sheet: u32,
    pub rule: RuleId,
    pub blocked: Option<Arc<Blocked>>,
    pub origin: Origin,
    pub layer_order: LayerOrder,
    pub host: Option<ElementId>,
}

/// What the sheets of a page say, one rule after the other.
pub(in crate::page) struct Flat {
    pub rules: Vec<StyleRule>,
    pub registrations: Registrations,
    /// What defines something.
    pub at_rules: Vec<FoundAtRule>,
}

pub(in crate::page) fn flatten(
    document: &Document,
    sheets: &[PageSheet],
    environment: &Environment,
) -> Flat {
    let mut flattener = Flattener {
        environment,
        rules: Vec::new(),
        registrations: Registrations::default(),
        layers: Layers::default(),
        places: Vec::new(),
        at_rules: Vec::new(),
        sheet: 0,
        origin: Origin::UserAgent,
        host: None,
        depth: 0,
        implicit_root: document.root_element(),
    };
    for (at, page_sheet) in sheets.iter().enumerate() {
        flattener.sheet = at as u32;
        flattener.origin = page_sheet.origin;
        flattener.host = page_sheet.host;
        flattener.depth = page_sheet.host.map_or(0, |h| document.shadow_depth(h) + 1);
        flattener.implicit_root = implicit_root(document, page_sheet);
        let blocked = page_sheet.closed_gate().map(|gate| {
            Arc::new(Blocked::Sheet {
                condition: gate.condition.clone(),
                verdict: gate.verdict.clone(),
            })
        });
        let layer = match (&page_sheet.layer, &blocked) {
            (Some(name), None) => Some(flattener.enter(None, name)),
            _ => None,
        };
        let context = Context {
            layer,
            parent: None,
            blocked,
            scope: None,
            containers: None,
        };
        let styles = &page_sheet.styles;
        flattener.items(styles, styles.sheet().top(), &context);
    }
    let orders = flattener.layers.orders();
    for (rule, place) in flattener.rules.iter_mut().zip(flattener.places) {
        if let Some(place) = place {
            rule.layer_order = orders[place];
            rule.layer = Some(flattener.layers.name(place).clone());
        }
    }
    let at_rules = flattener.at_rules.into_iter().map(|(mut found, place)| {
        if let Some(place) = place {
            found.layer_order = orders[place];
        }
        found
    });
    Flat {
        at_rules: at_rules.collect(),
        rules: flattener.rules,
        registrations: flattener.registrations,
    }
}

#[derive(Clone)]
struct Context {
    layer: Option<usize>,
    parent: Option<Arc<SelectorList>>,
    blocked: Option<Arc<Blocked>>,
    scope: Option<Arc<Scope>>,
    containers: Option<Arc<ContainerGate>>,
}

/// Cascade 6 § 2.5.1: the root of a scope that names none is the parent of the element that brings
/// the sheet, or the root of its tree.
fn implicit_root(document: &Document, sheet: &PageSheet) -> ElementId {
    let owner = match &sheet.arrival {
        Arrival::Link(id) | Arrival::Style(id) => Some(*id),
        Arrival::UserAgent | Arrival::User | Arrival::Import { .. } => None,
    };
    let parent = owner.and_then(|id| document.parent_or_host(id));
    parent.or(sheet.host).unwrap_or(document.root_element())
}

struct Flattener<'a> {
    environment: &'a Environment,
    rules: Vec<StyleRule>,
    registrations: Registrations,
    layers: Layers,
    /// The layer of each rule, in step with `rules`.
    places: Vec<Option<usize>>,
    /// What defines something, each with its layer.
    at_rules: Vec<(FoundAtRule, Option<usize>)>,
    sheet: u32,
    origin: Origin,
    host: Option<ElementId>,
    depth: u32,
    implicit_root: ElementId,
}

impl Flattener<'_> {
    /// § 6.4.3: each origin and each tree has its own layers.
    fn enter(&mut self, outer: Option<usize>, name: &str) -> usize {
        self.layers.enter((self.origin, self.host), outer, name)
    }

    fn items(&mut self, styles: &StyleSheet, items: &[Item], context: &Context) {
        for item in items {
            if let Item::Rule(id) = item {
                self.rule(styles, *id, context);
            }
        }
    }

    fn push(
        &mut self,
        rule: RuleId,
        selectors: Result<Arc<SelectorList>, SelectorError>,
        context: &Context,
    ) {
        self.rules.push(StyleRule {
            sheet: self.sheet,
            rule,
            selectors,
            layer: None,
            layer_order: LayerOrder::UNLAYERED,
            blocked: context.blocked.clone(),
            origin: self.origin,
            scope: context.scope.clone(),
            containers: context.containers.clone(),
            host: self.host,
            depth: self.depth,
        });
        self.places.push(context.layer);
    }

    fn rule(&mut self, styles: &StyleSheet, id: RuleId, context: &Context) {
        let sheet = styles.sheet();
        let rule = sheet.rule(id);
        let at_rule = match &rule.kind {
            RuleKind::Style => {
                self.style_rule(styles, id, rule, context);
                return;
            }
            RuleKind::Attribute => return,
            RuleKind::At(at_rule) => at_rule,
        };
        let source = sheet.text().source();
        let tokens = sheet.prelude_tokens(rule);
        // Nesting 1 § 2: only groups of rules can be in style rules.
        if context.parent.is_none() && at_rule.defines() {
            let found = FoundAtRule {
                sheet: self.sheet,
                rule: id,
                blocked: context.blocked.clone(),
                origin: self.origin,
                layer_order: LayerOrder::UNLAYERED,
                host: self.host,
            };
            self.at_rules.push((found, context.layer));
        }
        match at_rule {
            AtRule::Media => {
                let verdict = media(source, &tokens, self.environment);
                self.group(styles, id, rule, context, verdict);
            }
            AtRule::Supports => {
                let verdict = supports(source, &tokens);
                self.group(styles, id, rule, context, verdict);
            }
            AtRule::Layer => self.layer(styles, id, rule, context),
            AtRule::Container => {
                let prelude = sheet.prelude_source(rule);
                let gate = ContainerGate {
                    outer: context.containers.clone(),
                    rule: id,
                    head: head(sheet, rule),
                    prelude: prelude.into(),
                    queries: container_queries(prelude, &value_tokens(prelude)),
                };
                let inner = Context {
                    containers: Some(Arc::new(gate)),
                    ..context.clone()
                };
                self.contents(styles, id, rule, &inner);
            }
            AtRule::Scope => self.scope(styles, id, rule, context),
            AtRule::StartingStyle => {
                let reason = "it applies only to the first frame of a transition";
                self.not_yet(styles, id, rule, context, reason);
            }
            AtRule::Property if context.blocked.is_none() => {
                if let Ok((name, found)) = registration(styles, self.sheet, id) {
                    self.registrations.insert(name, found);
                }
            }
            // Their blocks hold no style rules of the page.
            _ => {}
        }
    }

    fn style_rule(&mut self, styles: &StyleSheet, id: RuleId, rule: &Rule, context: &Context) {
        let parent = context.parent.as_ref();
        let scoped = context.scope.is_some();
        let selectors = styles.selectors(id, parent, scoped).clone();
        let inner = Context {
            parent: selectors.as_ref().ok().cloned(),
            ..context.clone()
        };
        let valid = selectors.is_ok();
        self.push(id, selectors, context);
        if valid {
            self.items(styles, styles.sheet().items(rule), &inner);
        }
    }

    /// A conditional group rule: its rules, and in a nested one its own declarations.
    fn group(
        &mut self,
        styles: &StyleSheet,
        id: RuleId,
        rule: &Rule,
        context: &Context,
        verdict: Verdict,
    ) {
        let mut inner = context.clone();
        if !verdict.holds() && inner.blocked.is_none() {
            inner.blocked = Some(Arc::new(Blocked::Condition {
                rule: id,
                condition: head(styles.sheet(), rule),
                verdict,
            }));
        }
        self.contents(styles, id, rule, &inner);
    }

    fn not_yet(
        &mut self,
        styles: &StyleSheet,
        id: RuleId,
        rule: &Rule,
        context: &Context,
        reason: &'static str,
    ) {
        let mut inner = context.clone();
        inner.blocked.get_or_insert_with(|| {
            Arc::new(Blocked::NotYet {
                rule: id,
                head: head(styles.sheet(), rule),
                reason,
            })
        });
        self.contents(styles, id, rule, &inner);
    }

    /// Cascade 6 § 2.5: its selectors are relative to its roots.
    fn scope(&mut self, styles: &StyleSheet, id: RuleId, rule: &Rule, context: &Context) {
        let sheet = styles.sheet();
        let source = sheet.text().source();
        let tokens = sheet.prelude_tokens(rule);
        let (roots, limits) = scope_ends(source, &tokens);
        let parent = context.parent.as_ref();
        let read = |tokens: &[Token], scoped| styles.read_selectors(tokens, parent, scoped);
        let roots = roots.map(|tokens| read(tokens, context.scope.is_some()));
        let limits = limits.map(|tokens| styles.read_selectors(tokens, None, true));
        let (roots, limits) = match (roots.transpose(), limits.transpose()) {
            (Ok(roots), Ok(limits)) => (roots, limits),
            (Err(mut error), _) | (_, Err(mut error)) => {
                // As the spans of selectors count.
                let own = error.span.checked_sub(rule.span.start());
                // What is empty has no place of its own.
                error.span = own.unwrap_or(rule.prelude - rule.span.start());
                self.push(id, Err(error), context);
                return;
            }
        };
        let scope = Scope {
            outer: context.scope.clone(),
            roots: match roots {
                Some(list) => ScopeRoots::Matching(list),
                None => ScopeRoots::Element(self.implicit_root),
            },
            limits,
        };
        let inner = Context {
            scope: Some(Arc::new(scope)),
            parent: None,
            ..context.clone()
        };
        if sheet.declarations_of(id).next().is_some() {
            // What stands directly in it is about the roots: `:where(:scope)`.
            self.push(id, Ok(Arc::new(SelectorList::scope())), &inner);
        }
        self.items(styles, styles.sheet().items(rule), &inner);
    }

    fn contents(&mut self, styles: &StyleSheet, id: RuleId, rule: &Rule, context: &Context) {
        let scope = || {
            context
                .scope
                .is_some()
                .then(|| Arc::new(SelectorList::scope()))
        };
        if let Some(about) = context.parent.clone().or_else(scope)
            && styles.sheet().declarations_of(id).next().is_some()
        {
            self.push(id, Ok(about), context);
        }
        self.items(styles, styles.sheet().items(rule), context);
    }

    fn layer(&mut self, styles: &StyleSheet, id: RuleId, rule: &Rule, context: &Context) {
        let sheet = styles.sheet();
        // § 6.4.3: what stands under a false condition does not order layers.
        let counts = context.blocked.is_none();
        let source = sheet.prelude_source(rule);
        if rule.block.is_none() {
            if counts {
                let text = sheet.text().source();
                for name in sheet
                    .prelude_tokens(rule)
                    .split(|t| t.kind == TokenKind::Comma)
                {
                    let name: String = name
                        .iter()
                        .filter(|t| !t.kind.is_blank())
                        .map(|t| t.source(text))
                        .collect();
                    self.enter(context.layer, &name);
                }
            }
            return;
        }
        let mut inner = context.clone();
        if counts {
            inner.layer = Some(self.enter(context.layer, source));
        }
        self.contents(styles, id, rule, &inner);
    }
}

/// The two selector lists of `@scope (…) to (…)`.
fn scope_ends<'t>(source: &str, tokens: &'t [Token]) -> (Option<&'t [Token]>, Option<&'t [Token]>) {
    let first = tokens.iter().position(|t| !t.kind.is_blank());
    let Some(first) = first else {
        return (None, None);
    };
    let (roots, next) = match tokens[first].kind {
        TokenKind::OpenParenthesis => {
            let (inside, next) = arguments(tokens, first);
            (Some(inside), next)
        }
        _ => (None, first),
    };
    let mut rest = (next..tokens.len()).filter(|at| !tokens[*at].kind.is_blank());
    let is_to = |at: usize| tokens[at].kind == TokenKind::Ident && tokens[at].is_name(source, "to");
    let limits = match (rest.next(), rest.next()) {
        (Some(to), Some(open)) if is_to(to) && tokens[open].kind == TokenKind::OpenParenthesis => {
            Some(arguments(tokens, open).0)
        }
        _ => None,
    };
    (roots, limits)
}

/// The head of an at-rule as written, white space folded.
fn head(sheet: &Sheet, rule: &Rule) -> String {
    let end = rule.block.map_or(rule.span.end(), TextRange::start);
    let text = sheet.text().slice(TextRange::new(rule.span.start(), end));
    text.split_ascii_whitespace().collect::<Vec<_>>().join(" ")
}
