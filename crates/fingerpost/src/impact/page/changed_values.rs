//! Which values of which elements a change moved.
//!
//! Only what can have moved is worked out: an element that a changed rule finds, and what depends on an
//! element that has moved (what it inherits, and its own declarations, which may be relative to it). The
//! rest has the same declarations under the same parent, and so the same values.

use std::cell::RefCell;
use std::collections::{HashMap, HashSet};

use crate::impact::page::changed_rules::ChangedRules;
use crate::markup::{ElementId, Pairs};
use crate::page::{Page, PropertyName, Styles, Target};
use crate::selector::PseudoElement;
use crate::value::PropertyId;
use crate::value::typed::Computed;

/// Changed rules up to so many are tried on each element; with more, everything is matched.
const MOST_TRIED: usize = 40;

/// One property of one element that has another value now.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct ChangedValue {
    pub property: PropertyName,
    pub before: Computed,
    pub after: Computed,
    /// Whether it only came down from the element around it.
    pub inherited: bool,
    /// Whether it looks different. The width of a border that is not drawn does not, nor do the edges of a checkbox.
    is_shown: bool,
}

/// An element whose values changed, on the page after.
#[derive(Clone, Debug)]
pub(crate) struct ChangedElement {
    pub target: Target,
    pub values: Vec<ChangedValue>,
}

/// What changed of an element, as those below it need to know.
#[derive(Clone, Default, PartialEq, Eq, Hash)]
struct Moved {
    properties: Vec<PropertyName>,
    /// Whether what is below it may ask another container, or count from another root.
    deep: bool,
}

/// All that the changes of an element depend on.
#[derive(PartialEq, Eq, Hash)]
struct Likeness {
    before: u32,
    after: u32,
    same_parent: bool,
    above: Moved,
}

/// What changed of an element and its pseudo-elements, and what those below it need to know.
#[derive(Default)]
struct Outcome {
    values: Vec<ChangedValue>,
    of_pseudo: Vec<(PseudoElement, Vec<ChangedValue>)>,
    moved: Moved,
}

/// The number that an element has in common with those that are alike on a page.
fn group_of(page: &Page, id: ElementId) -> u32 {
    page.groups().style_of(page.document().element(id).index)
}

pub(crate) struct Comparison<'a> {
    pub before: &'a Styles<'a>,
    pub after: &'a Styles<'a>,
    pub pairs: &'a Pairs,
    pub rules: &'a ChangedRules,
    /// Whether the markup is the same.
    pub same_markup: bool,
    /// What was found out before about the same two documents in another environment.
    pub touched: &'a Touched,
}

/// Whether each element's declarations may be others, where only markup changed: that is the same in all
/// environment, for matching does not ask for any.
#[derive(Debug, Default)]
pub(crate) struct Touched(RefCell<HashMap<ElementId, bool>>);

impl Comparison<'_> {
    /// The elements that are on both pages and whose values differ, in document order.
    pub fn changed(&self) -> Vec<ChangedElement> {
        let mut found = Vec::new();
        let mut moved: HashMap<ElementId, Moved> = HashMap::new();
        let document = self.after.page().document();
        let counts = !self.same_markup && counts_siblings(self.after.page());
        let mut everything = self.rules.everything;
        // Elements that are alike on both pages changed alike.
        let mut known: HashMap<Likeness, Outcome> = HashMap::new();
        for id in document.elements().iter().copied() {
            let Some(old) = self.pairs.before(id) else {
                continue;
            };
            let parent = self.after.parent(&id.into()).map(|p| p.element);
            let old_parent = self.before.parent(&old.into()).map(|p| p.element);
            let same_parent = match (parent, old_parent) {
                (Some(new), Some(old)) => self.pairs.before(new) == Some(old),
                (None, None) => true,
                _ => false,
            };
            let above = parent.and_then(|p| moved.get(&p)).cloned();
            let above = above.unwrap_or_default();
            let likeness = Likeness {
                before: group_of(self.before.page(), old),
                after: group_of(self.after.page(), id),
                same_parent,
                above: above.clone(),
            };
            let outcome = known.entry(likeness).or_insert_with(|| {
                let is_own =
                    everything || counts || above.deep || !same_parent || self.is_touched(old, id);
                match is_own || !above.properties.is_empty() {
                    true => self.outcome(old, id, &above, same_parent),
                    false => Outcome::default(),
                }
            });
            let of_pseudo = outcome.of_pseudo.iter();
            found.extend(of_pseudo.map(|(pseudo, values)| ChangedElement {
                target: with(id, pseudo),
                values: values.clone(),
            }));
            // Relative to the root are rem, and its kin.
            everything |=
                parent.is_none() && outcome.values.iter().any(|v| is_of_fonts(&v.property));
            if !outcome.moved.properties.is_empty() || outcome.moved.deep {
                moved.insert(id, outcome.moved.clone());
            }
            if !outcome.values.is_empty() {
                found.push(ChangedElement {
                    target: id.into(),
                    values: outcome.values.clone(),
                });
            }
        }
        found.sort_by_key(|c| {
            let element = document.element(c.target.element);
            (element.index, c.target.pseudo.clone())
        });
        found
    }

    /// What became of an element that may have changed.
    fn outcome(&self, old: ElementId, id: ElementId, above: &Moved, same_parent: bool) -> Outcome {
        let mut values = self.compared(&old.into(), &id.into(), above, !same_parent);
        let mut moved = Moved {
            properties: values.iter().map(|v| v.property.clone()).collect(),
            deep: above.deep || values.iter().any(|v| is_of_containers(&v.property)),
        };
        // Items of a box that is not there are those of the box around it.
        if moved.properties.is_empty()
            && !above.properties.is_empty()
            && self.after.resolved(&id.into(), &DISPLAY) == "contents"
        {
            moved.properties.push(DISPLAY);
        }
        values.retain(|value| value.is_shown);
        let of_pseudo = self.pseudo_elements(old, id).into_iter().map(|pseudo| {
            let (old, new) = (with(old, &pseudo), with(id, &pseudo));
            let mut values = self.compared(&old, &new, &moved, false);
            values.retain(|value| value.is_shown);
            (pseudo, values)
        });
        let of_pseudo = of_pseudo.filter(|(_, values)| !values.is_empty()).collect();
        Outcome {
            values,
            of_pseudo,
            moved,
        }
    }

    /// Whether the declarations of an element may be others: a changed rule finds it, or its markup
    /// changed.
    fn is_touched(&self, old: ElementId, new: ElementId) -> bool {
        if !self.rules.is_empty() {
            return self.is_touched_here(old, new);
        }
        if let Some(known) = self.touched.0.borrow().get(&new) {
            return *known;
        }
        let touched = self.is_touched_here(old, new);
        self.touched.0.borrow_mut().insert(new, touched);
        touched
    }

    fn is_touched_here(&self, old: ElementId, new: ElementId) -> bool {
        if self.same_markup && self.rules.before.len() + self.rules.after.len() <= MOST_TRIED {
            return self.before.is_found_by(old, &self.rules.before)
                || self.after.is_found_by(new, &self.rules.after);
        }
        let attributes = |page: &Page, id: ElementId| -> Vec<(String, String)> {
            let all = page.document().element(id).attributes.iter();
            all.map(|a| (a.name.to_string(), a.value.to_string()))
                .collect()
        };
        let (before, after) = (self.before.page(), self.after.page());
        if !self.same_markup
            && (attributes(before, old) != attributes(after, new)
                || before.document().element(old).name != after.document().element(new).name)
        {
            return true;
        }
        let (was, is) = (self.before.all_matched(old), self.after.all_matched(new));
        let changed = |at: u32, rules: &[u32]| rules.binary_search(&at).is_ok();
        was.len() != is.len()
            || was.iter().zip(&is).any(|((pseudo, was), (other, is))| {
                pseudo != other
                    || changed(was.rule, &self.rules.before)
                    || changed(is.rule, &self.rules.after)
                    || self.rules.before(is.rule) != Some(was.rule)
                    || was.specificity != is.specificity
                    || was.proximity != is.proximity
            })
    }

    fn pseudo_elements(&self, old: ElementId, new: ElementId) -> Vec<PseudoElement> {
        let mut found = self.before.pseudo_elements(old);
        found.extend(self.after.pseudo_elements(new));
        found.sort();
        found.dedup();
        found
    }

    /// The values that differ between two states of a target.
    fn compared(
        &self,
        old: &Target,
        new: &Target,
        above: &Moved,
        other_parent: bool,
    ) -> Vec<ChangedValue> {
        let mut names: Vec<PropertyName> = self.before.declared_properties(old);
        names.extend(self.after.declared_properties(new));
        names.extend(above.properties.iter().cloned());
        names.push(DISPLAY);
        // A size may follow the family: monospace has one of its own.
        names.push(FONT_SIZE);
        if above.deep || other_parent || self.rules.everything {
            names.extend(everything_inherited());
            names.extend(self.custom_above(old, new));
        }
        let mut seen = HashSet::new();
        names.retain(|name| seen.insert(name.clone()));
        let mut spoken: HashSet<PropertyName> =
            self.before.declared_properties(old).into_iter().collect();
        spoken.extend(self.after.declared_properties(new));
        let mut found = Vec::new();
        for property in names {
            let before = effective(self.before, old, &property);
            let after = effective(self.after, new, &property);
            if before != after {
                let is_shown =
                    self.before.resolved(old, &property) != self.after.resolved(new, &property);
                // It is only inherited where the parent has the same values. The size of monospace text differs from its parent's.
                let inherited = !other_parent
                    && self.after.inherits(&property)
                    && !spoken.contains(&property)
                    && is_above(self.before, old, &property, &before)
                    && is_above(self.after, new, &property, &after);
                found.push(ChangedValue {
                    inherited,
                    is_shown,
                    property,
                    before,
                    after,
                });
            }
        }
        found.sort_by_cached_key(|v| {
            (
                matches!(v.property, PropertyName::Custom(_)),
                v.property.to_string(),
            )
        });
        found
    }

    /// The custom properties that something around either target sets.
    fn custom_above(&self, old: &Target, new: &Target) -> Vec<PropertyName> {
        let mut found = Vec::new();
        for (styles, target) in [(self.before, old), (self.after, new)] {
            let mut at = styles.parent(target);
            while let Some(above) = at {
                let names = styles.declared_properties(&above).into_iter();
                found.extend(names.filter(|n| matches!(n, PropertyName::Custom(_))));
                at = styles.parent(&above);
            }
        }
        found
    }
}

fn with(element: ElementId, pseudo: &PseudoElement) -> Target {
    Target {
        element,
        pseudo: Some(pseudo.clone()),
    }
}

/// Whether what a target inherits from has this value too.
fn is_above(
    styles: &Styles<'_>,
    target: &Target,
    property: &PropertyName,
    value: &Computed,
) -> bool {
    let above = styles.parent(target);
    above.is_some_and(|above| effective(styles, &above, property) == *value)
}

/// The computed value of a property, with what the standard computes from other properties of the
/// element worked in. What only [`Styles::resolved`] shows (the color that `currentcolor` is, a width
/// where no line is drawn) stays out: it changes with the other property, which is told.
pub(crate) fn effective(styles: &Styles<'_>, target: &Target, property: &PropertyName) -> Computed {
    match FIXED_UP.contains(property) {
        true => styles.resolved(target, property),
        false => styles.value(target, property).computed.clone(),
    }
}

/// Display 3 § 2.7, CSS 2 § 9.7, Overflow 3 § 3.1, Text 4 § 6.1: their computed values depend on others.
const FIXED_UP: [PropertyName; 5] = [
    PropertyName::Known(PropertyId::DISPLAY),
    PropertyName::Known(PropertyId::FLOAT),
    PropertyName::Known(PropertyId::OVERFLOW_X),
    PropertyName::Known(PropertyId::OVERFLOW_Y),
    PropertyName::Known(PropertyId::TEXT_ALIGN),
];

const FONT_SIZE: PropertyName = PropertyName::Known(PropertyId::FONT_SIZE);

const DISPLAY: PropertyName = PropertyName::Known(PropertyId::DISPLAY);

fn everything_inherited() -> impl Iterator<Item = PropertyName> {
    let all = PropertyId::all().filter(|id| !id.is_shorthand() && id.facts().inherited);
    all.map(PropertyName::Known)
}

/// Whether a property decides which container answers for what is below.
fn is_of_containers(property: &PropertyName) -> bool {
    let PropertyName::Known(id) = property else {
        return false;
    };
    matches!(
        *id,
        PropertyId::CONTAINER_TYPE
            | PropertyId::CONTAINER_NAME
            | PropertyId::WRITING_MODE
            | PropertyId::DIRECTION
    )
}

/// Whether lengths relative to the root's font may follow it.
fn is_of_fonts(property: &PropertyName) -> bool {
    property.to_string().starts_with("font")
        || *property == PropertyName::Known(PropertyId::LINE_HEIGHT)
}

/// Whether some sheet of a page counts an element's siblings (Values 5 § 9).
fn counts_siblings(page: &Page) -> bool {
    let mut sheets = page.sheets().iter();
    sheets.any(|s| s.styles.sheet().text().source().contains("sibling-"))
}
