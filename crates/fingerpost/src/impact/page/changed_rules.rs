//! Which rules of a page a change touched.
//!
//! The rules of both pages are compared in order, each by all that makes it what it is: its file, its
//! selectors and those around it, its layer, its condition and its declarations. What is the same on both
//! sides, in the same order, decides the same about an element, whatever is between.

use std::collections::{HashMap, HashSet};
use std::hash::{DefaultHasher, Hash, Hasher};
use std::sync::Arc;

use crate::page::{Blocked, Page, StyleRule, StyleSheet};
use crate::sheet::{AtRule, Item, RuleKind};
use crate::text::{changes, unchanged};

/// The rules that are not on both pages as they are, by their places in [`Page::rules`], and which
/// of them are one rule before and after.
#[derive(Debug, Default)]
pub(crate) struct ChangedRules {
    /// Those of the page before.
    pub before: Vec<u32>,
    /// Those of the page after.
    pub after: Vec<u32>,
    /// From each rule after to the same one before, where it was changed and not put in.
    twins: HashMap<u32, u32>,
    /// From each unchanged rule after to itself before.
    same: HashMap<u32, u32>,
    /// Whether something else changed that may speak of any element: a registered custom property, or
    /// quirks mode.
    pub everything: bool,
}

impl ChangedRules {
    /// Compares the rules of two states of a page.
    pub fn new(before: &Page, after: &Page) -> ChangedRules {
        let (old, new) = (keys(before, after), keys(after, before));
        let mut changed = ChangedRules {
            everything: before.document().is_quirks() != after.document().is_quirks()
                || registered(before) != registered(after),
            ..ChangedRules::default()
        };
        let all = changes(&old, &new);
        for (from, to, count) in unchanged(&all, old.len()) {
            let pairs = (0..count).map(|at| ((to + at) as u32, (from + at) as u32));
            changed.same.extend(pairs);
        }
        for change in all {
            changed.before.extend(change.before.map(|at| at as u32));
            changed.after.extend(change.after.map(|at| at as u32));
        }
        changed.pair(before, after);
        changed
    }

    /// Whether no rule changed.
    pub fn is_empty(&self) -> bool {
        self.before.is_empty() && self.after.is_empty() && !self.everything
    }

    /// The rule before that a rule after is.
    pub fn before(&self, after: u32) -> Option<u32> {
        let found = self.same.get(&after).or_else(|| self.twins.get(&after));
        found.copied()
    }

    /// The rule after that a rule before is.
    pub fn after(&self, before: u32) -> Option<u32> {
        let mut all = self.same.iter().chain(&self.twins);
        all.find_map(|(after, at)| (*at == before).then_some(*after))
    }

    /// The changed rules that are one before and after, by both places.
    pub fn twins(&self) -> impl Iterator<Item = (u32, u32)> {
        let mut all: Vec<(u32, u32)> = self.twins.iter().map(|(a, b)| (*b, *a)).collect();
        all.sort_unstable();
        all.into_iter()
    }

    /// Rules with the same selectors in the same file are one, in order; then those that are left in a
    /// file, where as many went as came.
    fn pair(&mut self, before: &Page, after: &Page) {
        let of = |page: &Page, at: u32| {
            let style_rule = &page.rules()[at as usize];
            let sheet = page.sheets()[style_rule.sheet as usize].styles.sheet();
            let rule = sheet.rule(style_rule.rule);
            (
                sheet.text().name().to_owned(),
                sheet.prelude_source(rule).to_owned(),
            )
        };
        let mut free: HashMap<(String, String), Vec<u32>> = HashMap::new();
        for at in self.before.iter().rev() {
            free.entry(of(before, *at)).or_default().push(*at);
        }
        let mut left: HashMap<String, Vec<u32>> = HashMap::new();
        for at in &self.after {
            let key = of(after, *at);
            match free.get_mut(&key).and_then(Vec::pop) {
                Some(twin) => {
                    self.twins.insert(*at, twin);
                }
                None => left.entry(key.0).or_default().push(*at),
            }
        }
        for (file, came) in left {
            let mut gone: Vec<u32> = free
                .iter()
                .filter(|((name, _), _)| *name == file)
                .flat_map(|(_, at)| at.iter().copied())
                .collect();
            gone.sort_unstable();
            if gone.len() == came.len() {
                self.twins.extend(came.into_iter().zip(gone));
            }
        }
    }
}

/// The registered custom properties, as far as they matter.
fn registered(page: &Page) -> Vec<String> {
    let mut found: Vec<String> = Vec::new();
    for page_sheet in page.sheets() {
        let sheet = page_sheet.styles.sheet();
        let rules = sheet.rules().filter(|(_, rule)| {
            matches!(
                rule.kind,
                RuleKind::At(AtRule::Property | AtRule::Namespace)
            )
        });
        found.extend(rules.map(|(_, rule)| sheet.text().slice(rule.span).to_owned()));
    }
    found
}

/// What makes each rule of a page what it is. A sheet that the other page shares says the same of its
/// rules there, and is not read for it.
fn keys(page: &Page, other: &Page) -> Vec<u64> {
    let shared: HashSet<*const StyleSheet> = other
        .sheets()
        .iter()
        .map(|sheet| Arc::as_ptr(&sheet.styles))
        .collect();
    let rules = page.rules().iter();
    rules
        .map(|rule| {
            let mut hasher = DefaultHasher::new();
            let styles = &page.sheets()[rule.sheet as usize].styles;
            let pointer = Arc::as_ptr(styles);
            if shared.contains(&pointer) {
                (pointer as usize, rule.rule).hash(&mut hasher);
            } else {
                own(styles, rule, &mut hasher);
            }
            around(rule, &mut hasher);
            hasher.finish()
        })
        .collect()
}

/// What a rule is by the text of its sheet.
fn own(styles: &StyleSheet, rule: &StyleRule, hasher: &mut DefaultHasher) {
    let sheet = styles.sheet();
    sheet.text().name().hash(hasher);
    let mut at = Some(rule.rule);
    while let Some(id) = at {
        let around = sheet.rule(id);
        sheet.text().slice(around.name).hash(hasher);
        sheet.prelude_source(around).hash(hasher);
        at = around.parent;
    }
    for item in sheet.items(sheet.rule(rule.rule)) {
        if let Item::Declaration(id) = item {
            let declaration = sheet.declaration(*id);
            sheet.name_source(declaration).hash(hasher);
            sheet.value_source(declaration).hash(hasher);
            declaration.important.is_some().hash(hasher);
        }
    }
}

/// What a rule is by its index on the page: its layer, its origin, its conditions.
fn around(rule: &StyleRule, hasher: &mut DefaultHasher) {
    rule.origin.hash(hasher);
    rule.layer_order.hash(hasher);
    rule.depth.hash(hasher);
    let blocked = rule.blocked.as_deref().map(|blocked| match blocked {
        Blocked::Sheet { condition, .. }
        | Blocked::Condition { condition, .. }
        | Blocked::Undecided { condition, .. } => condition.as_str(),
        Blocked::NotYet { head, .. } => head.as_str(),
    });
    blocked.hash(hasher);
}
