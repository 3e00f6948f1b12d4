//! Elements that most selectors can't tell apart. Names, attributes, descendants and children look only at an
//! element and at what is above it; ten thousand elements have a few hundred such trails, as far as the selectors of
//! the page ask. So those selectors are tried once for each trail, and only what looks elsewhere (siblings, positions,
//! contents, states) once for each element.

use html5ever::LocalName;
use rustc_hash::{FxHashMap, FxHashSet};

use super::names::{NOBODY, Names, Place, Symbol, Wanted};
use crate::markup::{Document, Namespace};
use crate::selector::{AttributeOperator, Combinator, PseudoClass, Selector, SelectorList, Simple};

/// A trail, by its number: in document order of the first elements that have it.
pub(super) type TrailId = u32;

/// What the selectors of a page ask of the elements on a trail.
#[derive(Debug, Default)]
pub(super) struct Questions {
    /// The names that some selector asks for, by symbol.
    names: Vec<bool>,
    /// The attributes whose values are asked for.
    values: FxHashSet<LocalName>,
}

/// The trail of each element.
#[derive(Debug)]
pub(super) struct Trails {
    of_element: Vec<TrailId>,
    /// How many elements come before the first of each trail.
    first: Vec<Place>,
}

/// Whether an answer hangs on nothing but the element and what is above it.
pub(super) fn is_of_trail(simple: &Simple) -> bool {
    match simple {
        Simple::Universal
        | Simple::Type { .. }
        | Simple::Id(_)
        | Simple::Class(_)
        | Simple::Attribute(_) => true,
        Simple::PseudoClass(class) => match class {
            PseudoClass::Root => true,
            PseudoClass::Is(list)
            | PseudoClass::Where(list)
            | PseudoClass::Not(list)
            | PseudoClass::Nesting(Some(list)) => list.selectors.iter().all(is_selector_of_trail),
            _ => false,
        },
        Simple::Namespace(_) => false,
    }
}

/// The same of a whole selector.
pub(super) fn is_selector_of_trail(selector: &Selector) -> bool {
    selector.through.is_none()
        && selector.compounds.iter().all(|(combinator, compound)| {
            !is_sideways(combinator.unwrap_or(Combinator::Descendant))
                && compound.simples.iter().all(|(s, _)| is_of_trail(s))
        })
}

pub(super) fn is_sideways(combinator: Combinator) -> bool {
    matches!(
        combinator,
        Combinator::NextSibling | Combinator::SubsequentSibling
    )
}

impl Questions {
    pub fn new(names: &Names) -> Questions {
        Questions {
            names: vec![false; names.len()],
            values: FxHashSet::default(),
        }
    }

    /// Notes what a selector asks.
    pub fn note(&mut self, names: &Names, selector: &Selector) {
        for (_, compound) in &selector.compounds {
            for (simple, _) in &compound.simples {
                self.note_simple(names, simple);
            }
        }
    }

    fn note_simple(&mut self, names: &Names, simple: &Simple) {
        if let Wanted::Names(symbols) = names.wanted(simple) {
            for symbol in symbols.into_iter().flatten() {
                self.names[symbol as usize] = true;
            }
        }
        match simple {
            Simple::Attribute(attribute) if attribute.operator != AttributeOperator::Present => {
                self.values.insert(LocalName::from(&*attribute.name));
                self.values.insert(LocalName::from(&*attribute.lower));
            }
            Simple::PseudoClass(
                PseudoClass::Is(list)
                | PseudoClass::Where(list)
                | PseudoClass::Not(list)
                | PseudoClass::Nesting(Some(list)),
            ) => self.note_list(names, list),
            _ => {}
        }
    }

    fn note_list(&mut self, names: &Names, list: &SelectorList) {
        for selector in &list.selectors {
            self.note(names, selector);
        }
    }
}

impl Trails {
    pub fn of(document: &Document, names: &Names, questions: &Questions) -> Trails {
        let count = document.elements().len();
        let mut trails = Trails {
            of_element: Vec::with_capacity(count),
            first: Vec::new(),
        };
        let valued = questions
            .values
            .iter()
            .flat_map(|name| names.attribute(name));
        let valued: FxHashSet<Symbol> = valued.collect();
        let mut looks: FxHashMap<Box<[u32]>, u32> = FxHashMap::default();
        let mut values: FxHashMap<&str, u32> = FxHashMap::default();
        let mut known: FxHashMap<(TrailId, u32), TrailId> = FxHashMap::default();
        let mut look: Vec<u32> = Vec::new();
        for (place, id) in document.elements().iter().enumerate() {
            let place = place as Place;
            look.clear();
            let symbols = names.symbols(place);
            look.extend(symbols.iter().filter(|s| questions.names[**s as usize]));
            let element = document.expect_element(*id);
            // Only what is not HTML has attributes in namespaces.
            if element.namespace != Namespace::Html
                || look.iter().any(|symbol| valued.contains(symbol))
            {
                look.push(NOBODY);
                for attribute in &element.attributes {
                    if questions.values.contains(&attribute.name) {
                        let next = values.len() as u32;
                        look.push(*values.entry(&attribute.value).or_insert(next));
                    }
                    look.push(attribute.namespace as u32);
                }
            }
            let at = match looks.get(&look[..]) {
                Some(at) => *at,
                None => {
                    let next = looks.len() as u32;
                    looks.insert(look[..].into(), next);
                    next
                }
            };
            let next = trails.first.len() as TrailId;
            let trail = match names.parent(place) {
                // What has nothing above it is alone: it may be the root.
                None => next,
                Some(parent) => {
                    let above = trails.of_element[parent as usize];
                    *known.entry((above, at)).or_insert(next)
                }
            };
            if trail == next {
                trails.first.push(place);
            }
            trails.of_element.push(trail);
        }
        trails
    }

    pub fn of_element(&self, place: Place) -> TrailId {
        self.of_element[place as usize]
    }

    /// Whether an element is the first one with its trail.
    pub fn is_first(&self, place: Place) -> bool {
        self.first[self.of_element(place) as usize] == place
    }
}
