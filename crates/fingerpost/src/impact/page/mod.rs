//! What a change of a page's texts does to the page. Both states are asked, element by element:
//! which values changed, which rules began or stopped to apply, which elements came and went.
//!
//! `impact::site` asks it over a whole site and at the theme's own widths.

mod changed_rules;
mod changed_values;
mod named_states;

pub(crate) use changed_rules::ChangedRules;
pub(crate) use changed_values::{ChangedElement, ChangedValue, Comparison, Touched};
pub(crate) use named_states::{NamedStates, named_states, states_of_markup};

use std::collections::HashMap;

use serde::{Deserialize, Serialize};

use crate::cascade::Origin;
use crate::markup::{ElementId, Pairs};
use crate::page::{Blocked, Page, Styles, Target, ValueSource};
use crate::question::describe::{declaration_place, fold, matched_rule};
use crate::question::{ElementSummary, RuleSummary, misfit_text};
use crate::text::{Patch, Place};
use crate::value::PropertyId;
use crate::value::declared::Name;

/// A property that has another value.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct ValueChange {
    /// The longhand or custom property; a shorthand where all that it sets went from one value to another.
    pub property: String,
    /// Its computed value before.
    pub before: String,
    /// Its computed value after.
    pub after: String,
    /// Where the declaration stands that gives it now, where one does.
    pub place: Option<Place>,
}

/// A rule that began or stopped to apply to elements.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct RuleEffect {
    /// The rule, as it is now; as it was where it is gone.
    pub rule: RuleSummary,
    /// The elements that it applies to and did not before.
    pub gained: Vec<ElementSummary>,
    /// Those that it applied to and does not now.
    pub lost: Vec<ElementSummary>,
}

/// An element whose own values changed.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct Affected {
    /// Which one it is on the page before.
    pub before: ElementId,
    /// What it is now.
    pub element: ElementSummary,
    /// Its own values that changed, those that others inherit among them.
    pub changes: Vec<ValueChange>,
    /// How many elements inside it inherit a change.
    pub inside: usize,
}

/// What a change did to a page: [`Page::effect`].
#[derive(Debug, Default)]
#[non_exhaustive]
pub struct PageEffect {
    /// The elements whose own values changed, in document order. One that is new or gone is not among them.
    pub affected: Vec<Affected>,
    /// The rules that began or stopped to apply to elements.
    pub rules: Vec<RuleEffect>,
    /// Elements that a changed rule finds and whose container decides whether it applies, which only
    /// layout knows.
    pub undecided: usize,
}

/// Two states of a page with what is known of how they differ.
pub(crate) struct States<'p> {
    pub before: &'p Page,
    pub after: &'p Page,
    pub pairs: &'p Pairs,
    pub rules: &'p ChangedRules,
    pub same_markup: bool,
    pub touched: &'p Touched,
}

/// Which element of a page is which one after a change: by the patch of its text, or as both are alike.
pub(crate) fn pairs(before: &Page, after: &Page, patch: Option<&Patch>) -> (Pairs, bool) {
    let (before, after) = (before.document(), after.document());
    let same = before.text().source() == after.text().source();
    let pairs = match patch {
        Some(patch) if !same => Pairs::new(before, after, Some(patch)),
        _ => Pairs::between(before, after),
    };
    (pairs, same)
}

impl Page {
    /// What changed since another state of the page, in the environment and the states of both: which elements have other
    /// values, and which rules began or stopped to apply to elements. No file is needed, and no site.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = |css: &str| Page::new(Text::new("a.html", format!("<style>{css}</style><p>Boats <b>today</b>")));
    /// let before = page("p { color: teal }");
    /// let after = page("p { color: navy }");
    /// let effect = after.effect(&before);
    /// let [paragraph] = &effect.affected[..] else { panic!("one element should have changed") };
    /// assert_eq!(paragraph.element.label(), "p");
    /// assert_eq!(paragraph.changes[0].after, "rgb(0, 0, 128)");
    /// // What is inside it inherits that.
    /// assert_eq!(paragraph.inside, 1);
    /// ```
    pub fn effect(&self, before: &Page) -> PageEffect {
        let (pairs, same_markup) = pairs(before, self, None);
        let rules = ChangedRules::new(before, self);
        let states = States {
            before,
            after: self,
            pairs: &pairs,
            rules: &rules,
            same_markup,
            touched: &Touched::default(),
        };
        match (same_markup && rules.is_empty()) || !states.touch_anything() {
            true => PageEffect::default(),
            false => states.effect(true),
        }
    }
}

impl States<'_> {
    /// Whether a changed rule finds any element; else nothing differs, in whatever environment.
    pub fn touch_anything(&self) -> bool {
        if !self.same_markup || self.rules.everything {
            return true;
        }
        let finds = |page: &Page, rules: &[u32]| {
            let styles = page.styles();
            let mut elements = page.document().elements().iter();
            !rules.is_empty() && elements.any(|id| styles.is_found_by(*id, rules))
        };
        finds(self.before, &self.rules.before) || finds(self.after, &self.rules.after)
    }

    /// Asks both.
    pub fn effect(&self, with_rules: bool) -> PageEffect {
        let (before, after) = (self.before.styles(), self.after.styles());
        let comparison = Comparison {
            before: &before,
            after: &after,
            pairs: self.pairs,
            rules: self.rules,
            same_markup: self.same_markup,
            touched: self.touched,
        };
        let changed = comparison.changed();
        PageEffect {
            affected: self.affected(&after, changed),
            rules: match with_rules {
                true => self.rule_effects(&before, &after),
                false => Vec::new(),
            },
            undecided: undecided(&after, &self.rules.after),
        }
    }

    /// The elements whose own values changed; those that only inherit are counted at the element that
    /// they inherit from.
    fn affected(&self, after: &Styles<'_>, changed: Vec<ChangedElement>) -> Vec<Affected> {
        let mut found: Vec<Affected> = Vec::new();
        let mut places: HashMap<Target, usize> = HashMap::new();
        for ChangedElement { target, values } in changed {
            let own: Vec<&ChangedValue> = values.iter().filter(|v| !v.inherited).collect();
            if own.is_empty() {
                let mut above = after.parent(&target);
                while let Some(at) = above {
                    if let Some(place) = places.get(&at) {
                        found[*place].inside += usize::from(target.pseudo.is_none());
                        break;
                    }
                    above = after.parent(&at);
                }
                continue;
            }
            let Some(before) = self.pairs.before(target.element) else {
                continue;
            };
            places.insert(target.clone(), found.len());
            found.push(Affected {
                before,
                element: ElementSummary::of_target(self.after, &target),
                changes: condensed(after, &target, &own),
                inside: 0,
            });
        }
        found
    }

    /// The author's rules that apply to an element on one page only, for all elements that are on both.
    fn rule_effects(&self, before: &Styles<'_>, after: &Styles<'_>) -> Vec<RuleEffect> {
        let is_own = |page: &Page, rule: u32| {
            let style_rule = &page.rules()[rule as usize];
            matches!(style_rule.origin, Origin::Author | Origin::User)
                && style_rule.blocked.is_none()
        };
        let applying = |styles: &Styles<'_>, id: ElementId| -> Vec<u32> {
            let all = styles.all_matched(id).into_iter();
            let mut own: Vec<u32> = all
                .filter(|(pseudo, m)| pseudo.is_none() && is_own(styles.page(), m.rule))
                .map(|(_, m)| m.rule)
                .collect();
            own.dedup();
            own
        };
        let mut gained: Vec<(u32, ElementId)> = Vec::new();
        let mut lost: Vec<(u32, ElementId)> = Vec::new();
        let all_known: HashMap<u32, u32> = (0..self.after.rules().len() as u32)
            .filter_map(|rule| Some((self.rules.before(rule)?, rule)))
            .collect();
        let few = self.same_markup && !self.rules.everything;
        for id in self.after.document().elements().iter().copied() {
            let Some(old) = self.pairs.before(id) else {
                continue;
            };
            // With the same markup only changed rules can find others.
            if few
                && !before.is_found_by(old, &self.rules.before)
                && !after.is_found_by(id, &self.rules.after)
            {
                continue;
            }
            let (was, is) = (applying(before, old), applying(after, id));
            for rule in &is {
                let twin = self.rules.before(*rule);
                if twin.is_none_or(|twin| !was.contains(&twin)) {
                    gained.push((*rule, id));
                }
            }
            for rule in was {
                let twin = all_known.get(&rule);
                if twin.is_none_or(|twin| !is.contains(twin)) {
                    lost.push((rule, old));
                }
            }
        }
        let mut effects: Vec<RuleEffect> = Vec::new();
        let mut by_rule: HashMap<(bool, u32), usize> = HashMap::new();
        for (rule, id) in gained {
            let at = *by_rule.entry((true, rule)).or_insert_with(|| {
                effects.push(empty_effect(after, id, rule));
                effects.len() - 1
            });
            effects[at].gained.push(ElementSummary::new(self.after, id));
        }
        for (rule, id) in lost {
            let key = match all_known.get(&rule) {
                Some(twin) => (true, *twin),
                None => (false, rule),
            };
            let at = *by_rule.entry(key).or_insert_with(|| {
                effects.push(empty_effect(before, id, rule));
                effects.len() - 1
            });
            effects[at].lost.push(ElementSummary::new(self.before, id));
        }
        effects
    }

    /// What changed rules hold now that is worth a word: a value that does not fit, or nothing at all.
    pub fn notes(&self) -> Vec<String> {
        let mut notes = Vec::new();
        for at in &self.rules.after {
            let style_rule = &self.after.rules()[*at as usize];
            let styles = &self.after.sheets()[style_rule.sheet as usize].styles;
            let sheet = styles.sheet();
            let rule = sheet.rule(style_rule.rule);
            let twin = self.rules.before(*at).map(|twin| {
                let style_rule = &self.before.rules()[twin as usize];
                let sheet = self.before.sheets()[style_rule.sheet as usize]
                    .styles
                    .sheet();
                (sheet, style_rule.rule)
            });
            if sheet.items(rule).is_empty()
                && twin.is_some_and(|(sheet, rule)| !sheet.items(sheet.rule(rule)).is_empty())
            {
                notes.push(format!(
                    "the rule {} at {} is empty now; it still matches",
                    fold(sheet.prelude_source(rule)),
                    sheet.place(rule.span.start())
                ));
            }
            for (id, declaration) in sheet.declarations_of(style_rule.rule) {
                let source = sheet.text().slice(declaration.span);
                let was_there = twin.is_some_and(|(sheet, rule)| {
                    let mut all = sheet.declarations_of(rule);
                    all.any(|(_, d)| sheet.text().slice(d.span) == source)
                });
                if was_there {
                    continue;
                }
                let place = sheet.place_of(declaration);
                match (&styles.reading(id).name, styles.misfit(id)) {
                    (Name::Unknown, _) => notes.push(format!(
                        "no property is called {}, at {place}",
                        sheet.name_source(declaration)
                    )),
                    (Name::Property(property), Some(mismatch)) => {
                        let value = sheet.text().slice(declaration.value);
                        let problem = misfit_text(
                            property.name(),
                            value,
                            &mismatch.within(declaration.value),
                        );
                        notes.push(format!("{problem}, at {place}"));
                    }
                    _ => {}
                }
            }
        }
        notes
    }
}

fn empty_effect(styles: &Styles<'_>, id: ElementId, rule: u32) -> RuleEffect {
    let matched = styles.matched(&id.into());
    let matched = matched.iter().find(|m| m.rule == rule);
    let matched = matched.expect("the rule was found by matching");
    RuleEffect {
        rule: matched_rule(styles, matched, &styles.page().rules()[rule as usize]),
        gained: Vec::new(),
        lost: Vec::new(),
    }
}

/// How many elements changed rules find whose container only layout knows.
fn undecided(styles: &Styles<'_>, rules: &[u32]) -> usize {
    let page = styles.page();
    let asks: Vec<u32> = rules
        .iter()
        .copied()
        .filter(|at| page.rules()[*at as usize].containers.is_some())
        .collect();
    if asks.is_empty() {
        return 0;
    }
    let waits = |id: &&ElementId| {
        let target = Target::from(**id);
        styles
            .declarations(&target)
            .iter()
            .any(|(reference, _, blocked)| {
                let of_rule = |at: &u32| {
                    let style_rule = &page.rules()[*at as usize];
                    let sheet = page.sheets()[style_rule.sheet as usize].styles.sheet();
                    crate::page::SheetRef::Listed(style_rule.sheet) == reference.sheet
                        && sheet.declaration(reference.id).rule == style_rule.rule
                };
                matches!(blocked.as_deref(), Some(Blocked::Undecided { .. }))
                    && asks.iter().any(of_rule)
            })
    };
    page.document().elements().iter().filter(waits).count()
}

/// The changes with shorthands in the place of longhands that all went from one value to one other.
fn condensed(styles: &Styles<'_>, target: &Target, own: &[&ChangedValue]) -> Vec<ValueChange> {
    let mut changes: Vec<ValueChange> = own
        .iter()
        .map(|value| {
            let found = styles.value(target, &value.property);
            ValueChange {
                property: value.property.to_string(),
                before: value.before.to_string(),
                after: value.after.to_string(),
                place: match &found.source {
                    ValueSource::Declared(reference) => Some(declaration_place(styles, *reference)),
                    _ => None,
                },
            }
        })
        .collect();
    let mut shorthands: Vec<PropertyId> = PropertyId::all()
        .filter(|id| id.is_shorthand() && (2..=16).contains(&id.longhands().len()))
        .collect();
    shorthands.sort_by_key(|id| std::cmp::Reverse(id.longhands().len()));
    for shorthand in shorthands {
        let names: Vec<&str> = shorthand.longhands().iter().map(|id| id.name()).collect();
        let inside: Vec<&ValueChange> = changes
            .iter()
            .filter(|c| names.contains(&c.property.as_str()))
            .collect();
        let Some(first) = inside.first().map(|c| (*c).clone()) else {
            continue;
        };
        let alike = |c: &&ValueChange| c.before == first.before && c.after == first.after;
        if inside.len() == names.len() && inside.iter().all(alike) {
            let at = changes
                .iter()
                .position(|c| names.contains(&c.property.as_str()));
            changes.retain(|c| !names.contains(&c.property.as_str()));
            let whole = ValueChange {
                property: shorthand.name().to_owned(),
                ..first
            };
            changes.insert(at.unwrap_or_default().min(changes.len()), whole);
        }
    }
    changes
}
