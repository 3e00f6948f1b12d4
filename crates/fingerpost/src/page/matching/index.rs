//! Which rules can match an element at all: by the last compound of each selector.

use rustc_hash::FxHashMap;

use crate::markup::Element;
use crate::page::StyleRule;
use crate::selector::{Compound, Simple};

/// A selector of a rule: the rule's index in the page's list, and the selector's in its list.
pub(in crate::page) type Entry = (u32, u32);

/// Selectors by what their subject must have.
#[derive(Debug, Default)]
pub(in crate::page) struct RuleIndex {
    ids: FxHashMap<Box<str>, Vec<Entry>>,
    classes: FxHashMap<Box<str>, Vec<Entry>>,
    types: FxHashMap<Box<str>, Vec<Entry>>,
    any: Vec<Entry>,
    /// Those that lead from one tree into another: `::slotted()` and `::part()`.
    through: Vec<Entry>,
    fold_case: bool,
}

impl RuleIndex {
    /// Indexes all rules. In quirks mode IDs and classes are found in any letter case.
    pub fn new(rules: &[StyleRule], quirks: bool) -> Self {
        let mut index = RuleIndex {
            fold_case: quirks,
            ..RuleIndex::default()
        };
        for (rule, style_rule) in rules.iter().enumerate() {
            let Ok(list) = &style_rule.selectors else {
                continue;
            };
            for (at, selector) in list.selectors.iter().enumerate() {
                let entry = (rule as u32, at as u32);
                match selector.through {
                    Some(_) => index.through.push(entry),
                    None => index.add(selector.subject(), entry),
                }
            }
        }
        index
    }

    fn add(&mut self, compound: &Compound, entry: Entry) {
        let fold = |name: &str| -> Box<str> {
            if self.fold_case {
                name.to_ascii_lowercase().into()
            } else {
                name.into()
            }
        };
        let mut class = None;
        let mut kind = None;
        for (simple, _) in &compound.simples {
            match simple {
                Simple::Id(id) => {
                    self.ids.entry(fold(id)).or_default().push(entry);
                    return;
                }
                Simple::Class(name) => class = Some(name),
                Simple::Type { lower, .. } => kind = Some(lower),
                _ => {}
            }
        }
        match (class, kind) {
            (Some(class), _) => self.classes.entry(fold(class)).or_default().push(entry),
            (None, Some(kind)) => self.types.entry(kind.clone()).or_default().push(entry),
            (None, None) => self.any.push(entry),
        }
    }

    /// The selectors that can match an element, in no order; `shadowed` where the page has shadow
    /// trees.
    pub fn candidates(&self, element: &Element, shadowed: bool) -> impl Iterator<Item = Entry> {
        let fold = |name: &str| {
            if self.fold_case {
                name.to_ascii_lowercase()
            } else {
                name.to_owned()
            }
        };
        let mut found: Vec<&[Entry]> = vec![&self.any];
        if shadowed {
            found.push(&self.through);
        }
        if let Some(id) = element.id() {
            found.extend(self.ids.get(&*fold(id)).map(Vec::as_slice));
        }
        for class in element.classes() {
            found.extend(self.classes.get(&*fold(class)).map(Vec::as_slice));
        }
        let lower = element.name.to_ascii_lowercase();
        found.extend(self.types.get(&*lower).map(Vec::as_slice));
        found.into_iter().flatten().copied()
    }
}
