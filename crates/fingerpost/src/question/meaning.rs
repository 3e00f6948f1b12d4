//! What a selector says of the elements that it finds: what they are, or how they look.

use std::cell::RefCell;
use std::collections::{HashMap, HashSet};

use crate::markup::Document;
use crate::selector::{Selector, SelectorList, Simple};

/// What a selector is made of, the most telling first.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) enum Meaning {
    /// The elements' own id, or a class that says what they are.
    Own,
    /// Tags.
    Tag,
    /// A class that says what they are, beside one that says how they look.
    Mixed,
    /// A class that says how something looks: many unlike elements have it.
    Utility,
    /// Attributes, whose values are often the same by chance.
    Attribute,
}

/// The classes of a page that say how something looks, not what it is.
pub(crate) struct Utilities<'d> {
    document: &'d Document,
    known: RefCell<HashMap<String, bool>>,
}

/// So many unlike elements make a class one of looks.
const FEWEST_UNLIKE: usize = 4;

impl<'d> Utilities<'d> {
    pub fn of(document: &'d Document) -> Self {
        Utilities {
            document,
            known: RefCell::default(),
        }
    }

    /// By its name, such as `mb-2`, `d-flex` or `text-center`; or because elements of different tags and
    /// otherwise different classes have it.
    pub fn has(&self, class: &str) -> bool {
        if let Some(known) = self.known.borrow().get(class) {
            return *known;
        }
        let is = is_named_like_utility(class) || self.unlike(class) >= FEWEST_UNLIKE;
        self.known.borrow_mut().insert(class.to_owned(), is);
        is
    }

    /// How many unlike kinds of elements have a class: of other tags, without a class in common besides.
    fn unlike(&self, class: &str) -> usize {
        let mut kinds: Vec<(&str, HashSet<&str>)> = Vec::new();
        for id in self.document.elements() {
            let element = self.document.element(*id);
            if !element.classes().any(|c| c == class) {
                continue;
            }
            let others: HashSet<&str> = element.classes().filter(|c| *c != class).collect();
            let alike = kinds.iter().any(|(tag, known)| {
                *tag == &*element.name || known.intersection(&others).next().is_some()
            });
            if !alike {
                kinds.push((&element.name, others));
            }
            if kinds.len() >= FEWEST_UNLIKE {
                break;
            }
        }
        kinds.len()
    }

    /// What a selector's subject is made of: its best part, and with a utility class in it that.
    pub fn meaning(&self, list: &SelectorList) -> Meaning {
        let subjects = list.selectors.iter().map(Selector::subject);
        let of_subject = |compound: &crate::selector::Compound| {
            let parts = compound.simples.iter().map(|(simple, _)| match simple {
                Simple::Class(name) if self.has(name) => Meaning::Utility,
                Simple::Id(_) | Simple::Class(_) => Meaning::Own,
                Simple::Attribute(_) => Meaning::Attribute,
                _ => Meaning::Tag,
            });
            let parts: Vec<Meaning> = parts.collect();
            let worst = parts.iter().copied().max().unwrap_or(Meaning::Tag);
            match parts.contains(&Meaning::Own) {
                // A tag beside a class takes nothing from it.
                true if worst == Meaning::Tag => Meaning::Own,
                true if worst == Meaning::Utility => Meaning::Mixed,
                _ => worst,
            }
        };
        let own = subjects.map(of_subject).max().unwrap_or(Meaning::Tag);
        // An ancestor that is found by a class of looks says as little.
        let above = list.selectors.iter().flat_map(|s| {
            let count = s.compounds.len().saturating_sub(1);
            s.compounds[..count].iter().flat_map(|(_, c)| &c.simples)
        });
        let above = above.filter_map(|(simple, _)| match simple {
            Simple::Class(name) if self.has(name) => Some(Meaning::Utility),
            Simple::Attribute(_) => Some(Meaning::Attribute),
            _ => None,
        });
        above.max().map_or(own, |above| own.max(above))
    }
}

/// Names that libraries of utility classes are made of: a short word and a size or a side.
fn is_named_like_utility(class: &str) -> bool {
    let (first, rest) = match class.trim_start_matches('-').split_once(['-', ':']) {
        Some((first, rest)) if !rest.is_empty() => (first, rest),
        _ => return false,
    };
    let last = rest.rsplit(['-', ':']).next().unwrap_or(rest);
    let sized = last
        .bytes()
        .all(|b| b.is_ascii_digit() || matches!(b, b'/' | b'.'))
        || matches!(
            last,
            "auto"
                | "none"
                | "xs"
                | "sm"
                | "md"
                | "lg"
                | "xl"
                | "xxl"
                | "full"
                | "center"
                | "start"
                | "end"
                | "left"
                | "right"
                | "between"
                | "around"
        );
    match first.len() {
        1 | 2 => true,
        3..=6 => {
            sized
                && matches!(
                    first,
                    "text"
                        | "font"
                        | "float"
                        | "align"
                        | "gap"
                        | "row"
                        | "col"
                        | "order"
                        | "flex"
                        | "space"
                        | "justify"
                        | "top"
                        | "left"
                        | "right"
                        | "bottom"
                        | "inset"
                        | "size"
                        | "max"
                        | "min"
                        | "border"
                        | "bg"
                )
        }
        _ => false,
    }
}

#[cfg(test)]
mod tests {
    use super::is_named_like_utility;

    #[test]
    fn classes_of_looks_are_told_by_their_names() {
        for utility in [
            "mb-2",
            "d-flex",
            "px-4",
            "w-1/2",
            "text-center",
            "col-6",
            "-mt-1",
            "gap-3",
        ] {
            assert!(is_named_like_utility(utility), "{utility}");
        }
        for own in [
            "panel",
            "card-title",
            "nav-item",
            "page-2024",
            "fare-price",
            "site-nav",
            "text-muted",
        ] {
            assert!(!is_named_like_utility(own), "{own}");
        }
    }
}
