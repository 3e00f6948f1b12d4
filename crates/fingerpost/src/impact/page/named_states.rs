//! The states that selectors name, as sets: in each of them some selector matches that does not match at rest.

use std::collections::HashMap;
use std::fmt;
use std::sync::Arc;

use super::ChangedRules;
use crate::cascade::Origin;
use crate::markup::Pairs;
use crate::page::Page;
use crate::selector::{PseudoClass, Selector, SelectorList, Simple, State, TreeCrossing};

/// Of alternatives inside one selector so many are told apart.
const MOST_OF_ONE: usize = 12;

/// States that a selector asks for at once.
#[derive(Clone, Debug, Default, PartialEq, Eq, Hash)]
pub(crate) struct NamedStates {
    /// What elements are in.
    pub on: Vec<State>,
    /// What none is in, whatever its markup says.
    pub off: Vec<State>,
}

impl NamedStates {
    fn is_empty(&self) -> bool {
        self.on.is_empty() && self.off.is_empty()
    }

    fn and(&self, other: &NamedStates) -> NamedStates {
        let mut both = self.clone();
        both.on.extend(&other.on);
        both.off.extend(&other.off);
        both.sorted()
    }

    /// Without the actions that it rules out: no element is hovered at rest. Form states stay, for a control may be checked.
    fn beside_rest(mut self) -> NamedStates {
        self.off.retain(|state| matches!(state, State::Form(_)));
        self
    }

    fn sorted(mut self) -> NamedStates {
        self.on.sort_by_cached_key(ToString::to_string);
        self.on.dedup();
        self.off.sort_by_cached_key(ToString::to_string);
        self.off.dedup();
        self
    }
}

/// As a selector has them: `:focus:hover`, `:not(:checked)`.
impl fmt::Display for NamedStates {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        for state in &self.on {
            write!(f, "{state}")?;
        }
        for state in &self.off {
            write!(f, ":not({state})")?;
        }
        Ok(())
    }
}

/// The sets that the selectors of rules name, each once.
pub(crate) fn named_states(page: &Page, rules: &[u32]) -> Vec<NamedStates> {
    let mut reader = Reader::default();
    let mut found: Vec<NamedStates> = Vec::new();
    for at in rules {
        if let Ok(list) = &page.rules()[*at as usize].selectors {
            for set in reader.list(list) {
                let set = set.beside_rest();
                if !set.is_empty() && !found.contains(&set) {
                    found.push(set);
                }
            }
        }
    }
    found
}

/// The sets of the rules that a change of the markup makes apply, or stops from applying, in some state: `.button:hover`
/// where an element became a `.button`.
pub(crate) fn states_of_markup(
    before: &Page,
    after: &Page,
    pairs: &Pairs,
    rules: &ChangedRules,
) -> Vec<NamedStates> {
    let mut reader = Reader::default();
    let mut with_states = |page: &Page| -> Vec<u32> {
        let all = page.rules().iter().enumerate();
        all.filter(|(_, rule)| matches!(rule.origin, Origin::Author | Origin::User))
            .filter(|(_, rule)| {
                let list = rule.selectors.as_ref();
                list.is_ok_and(|list| reader.list(list).iter().any(|set| !set.is_empty()))
            })
            .map(|(at, _)| at as u32)
            .collect()
    };
    let (old, new) = (with_states(before), with_states(after));
    if old.is_empty() && new.is_empty() {
        return Vec::new();
    }
    let (was, is) = (before.in_any_state(&old), after.in_any_state(&new));
    let (was, is) = (was.styles(), is.styles());
    let mut found: Vec<u32> = Vec::new();
    for id in after.document().elements() {
        let Some(old_id) = pairs.before(*id) else {
            continue;
        };
        let now: Vec<u32> = is
            .all_matched(*id)
            .iter()
            .map(|(_, m)| new[m.rule as usize])
            .collect();
        let then: Vec<u32> = was
            .all_matched(old_id)
            .iter()
            .map(|(_, m)| old[m.rule as usize])
            .collect();
        let came = now
            .iter()
            .filter(|at| rules.before(**at).is_none_or(|twin| !then.contains(&twin)));
        found.extend(came);
        let twins: Vec<Option<u32>> = now.iter().map(|at| rules.before(*at)).collect();
        let went = then.iter().filter(|at| !twins.contains(&Some(**at)));
        // A rule that is on both pages has the same selectors there.
        found.extend(went.filter_map(|at| rules.after(*at)));
    }
    found.sort_unstable();
    found.dedup();
    named_states(after, &found)
}

/// Reads selectors; what `&` stands for is in many of them, and is read once.
#[derive(Default)]
struct Reader {
    lists: HashMap<*const SelectorList, Vec<NamedStates>>,
}

impl Reader {
    fn list(&mut self, list: &Arc<SelectorList>) -> Vec<NamedStates> {
        if let Some(known) = self.lists.get(&Arc::as_ptr(list)) {
            return known.clone();
        }
        let mut found: Vec<NamedStates> = Vec::new();
        for set in list.selectors.iter().flat_map(|one| self.selector(one)) {
            if !found.contains(&set) {
                found.push(set);
            }
        }
        self.lists.insert(Arc::as_ptr(list), found.clone());
        found
    }

    fn selector(&mut self, selector: &Selector) -> Vec<NamedStates> {
        let mut sets = vec![NamedStates::default()];
        let own = selector.compounds.iter().flat_map(|(_, c)| &c.simples);
        let of_part: &[Simple] = match &selector.through {
            Some(TreeCrossing::Part { states, .. }) => states,
            _ => &[],
        };
        for simple in own.map(|(simple, _)| simple).chain(of_part) {
            let Simple::PseudoClass(class) = simple else {
                continue;
            };
            let alternatives = match class {
                PseudoClass::Action(action) => vec![NamedStates {
                    on: vec![State::Action(*action)],
                    ..NamedStates::default()
                }],
                PseudoClass::Form(state) => vec![NamedStates {
                    on: vec![State::Form(*state)],
                    ..NamedStates::default()
                }],
                PseudoClass::Is(list)
                | PseudoClass::Where(list)
                | PseudoClass::Has(list)
                | PseudoClass::HostContext(list)
                | PseudoClass::Host(Some(list))
                | PseudoClass::Nesting(Some(list)) => self.list(list),
                PseudoClass::Not(list) => {
                    let mut none = NamedStates::default();
                    for set in self.list(list) {
                        none.on.extend(set.off);
                        none.off.extend(set.on);
                    }
                    vec![none.sorted()]
                }
                _ => continue,
            };
            let mut crossed: Vec<NamedStates> = Vec::new();
            for set in &sets {
                for other in &alternatives {
                    let both = set.and(other);
                    if !crossed.contains(&both) && crossed.len() < MOST_OF_ONE {
                        crossed.push(both);
                    }
                }
            }
            sets = crossed;
        }
        sets
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn sets(selectors: &str) -> Vec<String> {
        let list = Arc::new(SelectorList::parse(selectors).unwrap());
        let sets = Reader::default().list(&list).into_iter();
        sets.map(|set| set.beside_rest().to_string()).collect()
    }

    #[test]
    fn what_is_asked_for_at_once_is_one_set() {
        assert_eq!(sets("a:hover, a:focus"), [":hover", ":focus"]);
        assert_eq!(sets(".a:hover > b:focus:hover"), [":focus:hover"]);
        assert_eq!(sets("a:is(:hover, :focus) b"), [":hover", ":focus"]);
        assert_eq!(sets("a:is(:hover, .on)"), [":hover", ""]);
        assert_eq!(sets("input:not(:checked) + p"), [":not(:checked)"]);
        assert_eq!(sets("a:not(:hover):active"), [":active"]);
        assert_eq!(sets("a:not(:not(:active))"), [":active"]);
        assert_eq!(sets("p"), [""]);
    }
}
