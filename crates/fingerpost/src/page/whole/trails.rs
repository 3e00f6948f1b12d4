//! Elements that most selectors can't tell apart. Names, attributes, descendants and children look only at an
//! element and at what is above it; ten thousand elements have a few hundred such trails, as far as the selectors of
//! the page ask. So those selectors are tried once for each trail, and only what looks elsewhere (siblings, positions,
//! contents, states) once for each element.

use html5ever::LocalName;
use rustc_hash::{FxHashMap, FxHashSet};

use super::symbols::{NOBODY, NameTest, Names, Position, Symbol};
use crate::markup::{Document, Namespace};
use crate::selector::{AttributeOperator, Combinator, PseudoClass, SelectorList, Simple};

/// A trail, by its number: in document order of the first elements that have it.
pub(super) type TrailId = u32;

/// What the selectors of a page ask of the elements on a trail.
#[derive(Debug, Default)]
pub(super) struct Questions {
    /// The names that some selector asks for, by symbol.
    names: Vec<bool>,
    /// The attributes whose values are asked for.
    values: FxHashSet<LocalName>,
    /// What came out for lists that are in selectors, by where they are: nested rules hold those of the rules around
    /// them many times.
    lists: FxHashMap<usize, bool>,
}

/// The trail of each element.
#[derive(Debug)]
pub(super) struct Trails {
    of_element: Vec<TrailId>,
    /// How many elements come before the first of each trail.
    first: Vec<Position>,
}

/// Whether a combinator leads to a sibling.
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
            lists: FxHashMap::default(),
        }
    }

    /// Notes what a simple selector asks; whether the answer depends on nothing but the element and what is above it.
    pub fn note(&mut self, names: &Names, simple: &Simple) -> bool {
        if let NameTest::Names(symbols) = names.wanted(simple) {
            for symbol in symbols.into_iter().flatten() {
                self.names[symbol as usize] = true;
            }
        }
        match simple {
            Simple::Universal | Simple::Type { .. } | Simple::Id(_) | Simple::Class(_) => true,
            Simple::Attribute(attribute) => {
                if attribute.operator != AttributeOperator::Present {
                    self.values.insert(LocalName::from(&*attribute.name));
                    self.values.insert(LocalName::from(&*attribute.lower));
                }
                true
            }
            Simple::PseudoClass(class) => match class {
                PseudoClass::Root => true,
                PseudoClass::Is(list)
                | PseudoClass::Where(list)
                | PseudoClass::Not(list)
                | PseudoClass::Nesting(Some(list)) => self.note_list(names, list),
                _ => false,
            },
            Simple::Namespace(_) => false,
        }
    }

    fn note_list(&mut self, names: &Names, list: &SelectorList) -> bool {
        if let Some(known) = self.lists.get(&std::ptr::from_ref(list).addr()) {
            return *known;
        }
        let mut of_trail = true;
        for selector in &list.selectors {
            of_trail &= selector.through.is_none();
            for (combinator, compound) in &selector.compounds {
                of_trail &= !combinator.is_some_and(is_sideways);
                for (simple, _) in &compound.simples {
                    of_trail &= self.note(names, simple);
                }
            }
        }
        self.lists.insert(std::ptr::from_ref(list).addr(), of_trail);
        of_trail
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
            let place = place as Position;
            look.clear();
            let symbols = names.symbols(place);
            look.extend(symbols.iter().filter(|s| questions.names[**s as usize]));
            let element = document.element(*id);
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

    pub fn of_element(&self, place: Position) -> TrailId {
        self.of_element[place as usize]
    }

    /// Whether an element is the first one with its trail.
    pub fn is_first(&self, place: Position) -> bool {
        self.first[self.of_element(place) as usize] == place
    }
}
