//! What selectors ask of names before anything is tried: whether any element of the page could match, the rarest name
//! that their subject must have, and the names that must be above it.

use std::cell::RefCell;

use rustc_hash::FxHashMap;

use super::symbols::{NameTest, Names, Symbol};
use crate::page::Page;
use crate::selector::{Combinator, Compound, PseudoClass, Selector, SelectorList, Simple};

/// How many names of ancestors are asked for before the steps are tried. Real selectors have one or two.
pub(super) const MOST_ANCESTORS: usize = 4;

/// Asks the selectors of a page.
pub(super) struct Asked<'p> {
    page: &'p Page,
    names: &'p Names,
    /// What came out for lists that are in selectors: nested rules hold those of the rules around them many times.
    lists: RefCell<FxHashMap<*const SelectorList, OfList>>,
}

/// What a list of selectors asks of the subject.
#[derive(Clone, Debug, Default)]
struct OfList {
    /// Whether no element of the page matches any of them.
    dead: Option<bool>,
    /// The names that the subject must have one of; none where it can be anything.
    keys: Option<Option<(Vec<Symbol>, u32)>>,
}

impl<'p> Asked<'p> {
    pub fn new(page: &'p Page, names: &'p Names) -> Self {
        Asked {
            page,
            names,
            lists: RefCell::default(),
        }
    }

    /// Whether no element of the page can match, whatever else is asked.
    pub fn is_dead(&self, selector: &Selector) -> bool {
        // What leads into a shadow tree leads nowhere on a page without one.
        selector.through.is_some()
            || selector.compounds.iter().any(|(_, compound)| {
                let mut simples = compound.simples.iter();
                simples.any(|(simple, _)| self.is_impossible(simple))
            })
    }

    fn is_impossible(&self, simple: &Simple) -> bool {
        if let NameTest::Names(symbols) = self.names.wanted(simple) {
            return symbols == [None, None];
        }
        let all_dead = |list: &SelectorList| {
            if let Some(dead) = self.known(list).dead {
                return dead;
            }
            let mut selectors = list.selectors.iter();
            let dead = selectors.all(|s| s.pseudo_element.is_some() || self.is_dead(s));
            self.keep(list, |of_list| of_list.dead = Some(dead));
            dead
        };
        match simple {
            Simple::PseudoClass(class) => match class {
                PseudoClass::Is(list)
                | PseudoClass::Where(list)
                | PseudoClass::Nesting(Some(list)) => all_dead(list),
                PseudoClass::Has(list) => list.selectors.iter().all(|s| self.is_dead(s)),
                PseudoClass::Action(_) => self.page.states().is_empty(),
                PseudoClass::Host(_) | PseudoClass::HostContext(_) | PseudoClass::NotYet(_) => true,
                _ => false,
            },
            _ => false,
        }
    }

    /// The rarest names that the subject must have one of.
    pub fn keys(&self, compound: &Compound) -> Keys {
        let mut best = Keys::Any;
        for (simple, _) in &compound.simples {
            let keys = match self.names.wanted(simple) {
                NameTest::Names(symbols) => {
                    let symbols: Vec<Symbol> = symbols.into_iter().flatten().collect();
                    let count = symbols.iter().map(|s| self.names.count(*s)).sum();
                    Keys::Names(symbols, count)
                }
                NameTest::Else => match simple {
                    Simple::PseudoClass(PseudoClass::Root) => Keys::Root,
                    Simple::PseudoClass(PseudoClass::Link { .. }) => {
                        let symbols: Vec<Symbol> = self.names.links().collect();
                        let count = symbols.iter().map(|s| self.names.count(*s)).sum();
                        Keys::Names(symbols, count)
                    }
                    Simple::PseudoClass(
                        PseudoClass::Is(list)
                        | PseudoClass::Where(list)
                        | PseudoClass::Nesting(Some(list)),
                    ) => self.keys_of_list(list),
                    _ => Keys::Any,
                },
            };
            if keys.cost() < best.cost() {
                best = keys;
            }
        }
        best
    }

    fn keys_of_list(&self, list: &SelectorList) -> Keys {
        let keys = self.known(list).keys.unwrap_or_else(|| {
            let keys = self.find_keys_of_list(list);
            self.keep(list, |of_list| of_list.keys = Some(keys.clone()));
            keys
        });
        keys.map_or(Keys::Any, |(symbols, count)| Keys::Names(symbols, count))
    }

    /// What is known of a list already.
    fn known(&self, list: &SelectorList) -> OfList {
        let lists = self.lists.borrow();
        lists
            .get(&std::ptr::from_ref(list))
            .cloned()
            .unwrap_or_default()
    }

    fn keep(&self, list: &SelectorList, note: impl FnOnce(&mut OfList)) {
        let mut lists = self.lists.borrow_mut();
        note(lists.entry(std::ptr::from_ref(list)).or_default());
    }

    fn find_keys_of_list(&self, list: &SelectorList) -> Option<(Vec<Symbol>, u32)> {
        let mut all = Vec::new();
        let mut count = 0;
        for selector in &list.selectors {
            if selector.pseudo_element.is_some() || self.is_dead(selector) {
                continue;
            }
            match self.keys(selector.subject()) {
                Keys::Names(symbols, more) => {
                    all.extend(symbols);
                    count += more;
                }
                Keys::Root | Keys::Any => return None,
            }
        }
        all.sort_unstable();
        all.dedup();
        Some((all, count))
    }

    /// Names that some ancestor of the subject must have, the rarest first.
    pub fn ancestors(&self, selector: &Selector) -> ([Symbol; MOST_ANCESTORS], u8) {
        let mut found: Vec<Symbol> = Vec::new();
        let rightwards = selector.compounds.iter().skip(1).rev();
        let leftwards = selector.compounds.iter().rev().skip(1);
        for ((combinator, _), (_, compound)) in rightwards.zip(leftwards) {
            // What is above a sibling of the subject is above the subject too.
            let sideways = matches!(
                combinator,
                Some(Combinator::NextSibling | Combinator::SubsequentSibling)
            );
            if sideways {
                continue;
            }
            let names =
                compound
                    .simples
                    .iter()
                    .filter_map(|(simple, _)| match self.names.wanted(simple) {
                        NameTest::Names([Some(one), None] | [None, Some(one)]) => Some(one),
                        _ => None,
                    });
            found.extend(names.min_by_key(|symbol| self.names.count(*symbol)));
        }
        found.sort_by_key(|symbol| self.names.count(*symbol));
        found.dedup();
        let mut ancestors = [0; MOST_ANCESTORS];
        let count = found.len().min(MOST_ANCESTORS);
        ancestors[..count].copy_from_slice(&found[..count]);
        (ancestors, count as u8)
    }
}

/// What the subject of a selector must be.
pub(super) enum Keys {
    /// Called one of these, which so many elements are.
    Names(Vec<Symbol>, u32),
    /// The root element.
    Root,
    /// Anything.
    Any,
}

impl Keys {
    fn cost(&self) -> u32 {
        match self {
            Keys::Names(_, count) => *count,
            Keys::Root => 1,
            Keys::Any => u32::MAX,
        }
    }
}
