//! Elements that changed alike, together.

use std::collections::HashMap;

use serde::{Deserialize, Serialize};

use crate::impact::page::{Affected, ValueChange};
use crate::question::ElementSummary;

/// Elements that changed alike.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Group {
    /// Whether the change was aimed at them.
    pub aimed: bool,
    /// Whether they change so in every environment that were looked at.
    pub always: bool,
    /// Whether they change so in the environment asked for.
    pub now: bool,
    /// The theme's other environments in which they change so, in words: `at 480px`, `in print`.
    pub also: Vec<String>,
    /// What changed of each of them.
    pub changes: Vec<ValueChange>,
    /// The elements, with their pages.
    pub elements: Vec<ElementSummary>,
    /// How many elements inside them inherit it.
    pub inside: usize,
}

impl Group {
    /// Whether nothing but custom properties changed.
    pub fn is_custom(&self) -> bool {
        self.changes.iter().all(|c| c.property.starts_with("--"))
    }
}

/// An element that changed in one of the environments looked at.
pub(super) struct Seen {
    /// The environment, in words; none for those asked for.
    pub at: Option<String>,
    pub aimed: bool,
    pub affected: Affected,
}

/// Elements that changed alike in the same environment, together; `looks` says in how many environment
/// they were looked at.
pub(super) fn grouped(seen: Vec<Seen>, looks: usize) -> Vec<Group> {
    type Key = (String, u32, Option<String>, Vec<ValueChange>);
    type Alike = (bool, Vec<Option<String>>, Vec<ValueChange>);
    // First the environment in which each element changes so.
    let mut order: Vec<Key> = Vec::new();
    let mut whens: HashMap<Key, (Seen, Vec<Option<String>>)> = HashMap::new();
    for one in seen {
        let element = &one.affected.element;
        let page = element.place.file.clone();
        let mut changes = one.affected.changes.clone();
        for change in &mut changes {
            change.place = None;
        }
        let key = (page, element.index, element.pseudo.clone(), changes);
        let at = one.at.clone();
        match whens.get_mut(&key) {
            Some((known, all)) => {
                all.push(at);
                known.affected.inside = known.affected.inside.max(one.affected.inside);
            }
            None => {
                order.push(key.clone());
                whens.insert(key, (one, vec![at]));
            }
        }
    }
    let mut groups: Vec<Group> = Vec::new();
    let mut places: HashMap<Alike, usize> = HashMap::new();
    for key in order {
        let Some((seen, at)) = whens.remove(&key) else {
            continue;
        };
        let always = at.len() == looks;
        let of_group = (seen.aimed, at.clone(), key.3);
        let place = *places.entry(of_group).or_insert_with(|| {
            groups.push(Group {
                aimed: seen.aimed,
                always,
                now: at.contains(&None),
                also: at.iter().flatten().cloned().collect(),
                changes: seen.affected.changes.clone(),
                elements: Vec::new(),
                inside: 0,
            });
            groups.len() - 1
        });
        groups[place].elements.push(seen.affected.element);
        groups[place].inside += seen.affected.inside;
    }
    groups.sort_by_key(|group| (!group.aimed, !group.now));
    groups
}
