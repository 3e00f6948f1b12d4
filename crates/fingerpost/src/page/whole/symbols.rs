//! The names on a page as numbers: a document is finished, so its tags, ids, classes and attribute names are a
//! closed set. Letter case is dealt with here and nowhere later (Selectors 4 § 6; quirks mode § 3.3).

use std::borrow::Cow;
use std::sync::OnceLock;

use html5ever::LocalName;
use rustc_hash::FxHashMap;

use crate::markup::{Document, Element, Namespace};
use crate::selector::Simple;

/// A name that some element of the page has.
pub(super) type Symbol = u32;

/// An element by its number in document order.
pub(super) type Position = u32;

/// No element: the parent of the root, the sibling before a first child.
pub(super) const NOBODY: Position = Position::MAX;

/// What every element of a page is called, and who stands above and before it.
#[derive(Debug, Default)]
pub(in crate::page) struct Names {
    /// By whether it is the name of an HTML element.
    tags: [FxHashMap<LocalName, Symbol>; 2],
    /// By whether it is on an HTML element.
    attributes: [FxHashMap<LocalName, Symbol>; 2],
    ids: FxHashMap<Box<str>, Symbol>,
    classes: FxHashMap<Box<str>, Symbol>,
    /// How many elements have a name.
    counts: Vec<u32>,
    /// The symbols of all elements, one after another: the tag first, then classes, id, attribute names.
    symbols: Vec<Symbol>,
    /// Where the symbols of an element begin; one more at the end.
    starts: Vec<u32>,
    parents: Vec<Position>,
    previous: Vec<Position>,
    quirks: bool,
    /// The elements of each name, worked out when a person first asks.
    places: OnceLock<Places>,
}

/// The elements of each name.
#[derive(Debug)]
struct Places {
    /// Those of all names, one name after another.
    all: Vec<Position>,
    /// Where those of a name begin; one more at the end.
    starts: Vec<u32>,
}

/// What a selector asks of a name: the symbols that satisfy it. None where no element of the page has it.
pub(super) enum NameTest {
    /// One of these; a type selector names an HTML element and a foreign one.
    Names([Option<Symbol>; 2]),
    /// Not a question about a name.
    Else,
}

impl Names {
    pub fn of(document: &Document) -> Names {
        let elements = document.elements();
        let mut names = Names {
            quirks: document.is_quirks(),
            starts: Vec::with_capacity(elements.len() + 1),
            parents: Vec::with_capacity(elements.len()),
            previous: Vec::with_capacity(elements.len()),
            symbols: Vec::with_capacity(elements.len() * 5),
            ..Names::default()
        };
        // The last child that each element has so far.
        let mut last_child: Vec<Position> = vec![NOBODY; elements.len()];
        for (place, id) in elements.iter().enumerate() {
            let element = document.element(*id);
            names.starts.push(names.symbols.len() as u32);
            names.add(element);
            let parent = document.parent_element(*id);
            let parent = parent.map_or(NOBODY, |p| document.element(p).index);
            names.parents.push(parent);
            let before = last_child.get_mut(parent as usize);
            let before = before.map_or(NOBODY, |last| std::mem::replace(last, place as Position));
            names.previous.push(before);
        }
        names.starts.push(names.symbols.len() as u32);
        names
    }

    fn add(&mut self, element: &Element) {
        let html = element.namespace == Namespace::Html;
        let Names {
            tags,
            attributes,
            ids,
            classes,
            counts,
            symbols,
            quirks,
            ..
        } = self;
        let begun = symbols.len();
        let named = |known: &mut [FxHashMap<LocalName, Symbol>; 2],
                     counts: &mut Vec<u32>,
                     name: &LocalName| {
            let known = &mut known[usize::from(html)];
            if let Some(symbol) = known.get(name) {
                return *symbol;
            }
            let symbol = counts.len() as Symbol;
            counts.push(0);
            known.insert(name.clone(), symbol);
            symbol
        };
        // A class may be written twice.
        let push = |symbols: &mut Vec<Symbol>, counts: &mut Vec<u32>, symbol: Symbol| {
            if !symbols[begun..].contains(&symbol) {
                symbols.push(symbol);
                counts[symbol as usize] += 1;
            }
        };
        let tag = named(tags, counts, &element.name);
        push(symbols, counts, tag);
        for attribute in &element.attributes {
            let plain = attribute.namespace == Namespace::None;
            let name: &str = &attribute.name;
            let value = &*attribute.value;
            match name {
                "class" if plain => {
                    for class in value.split_ascii_whitespace() {
                        let symbol = text_symbol(classes, class, *quirks, counts);
                        push(symbols, counts, symbol);
                    }
                }
                "id" if plain && !value.is_empty() => {
                    let symbol = text_symbol(ids, value, *quirks, counts);
                    push(symbols, counts, symbol);
                }
                _ => {}
            }
            let symbol = named(attributes, counts, &attribute.name);
            push(symbols, counts, symbol);
        }
    }

    /// What a simple selector asks of names.
    pub(super) fn wanted(&self, simple: &Simple) -> NameTest {
        let fold = |name: &'_ str| fold(name, self.quirks).into_owned();
        NameTest::Names(match simple {
            Simple::Type { name, lower } => [
                self.tags[1].get(&LocalName::from(&**lower)).copied(),
                self.tags[0].get(&LocalName::from(&**name)).copied(),
            ],
            Simple::Id(id) => [self.ids.get(&*fold(id)).copied(), None],
            Simple::Class(class) => [self.classes.get(&*fold(class)).copied(), None],
            Simple::Attribute(attribute) => {
                let (name, lower) = (&*attribute.name, &*attribute.lower);
                [
                    self.attributes[1].get(&LocalName::from(lower)).copied(),
                    self.attributes[0].get(&LocalName::from(name)).copied(),
                ]
            }
            _ => return NameTest::Else,
        })
    }

    /// The tags that hyperlinks have (HTML § 4.6.1; SVG 2 § 16.2).
    pub fn links(&self) -> impl Iterator<Item = Symbol> {
        let tag = |html: bool, name| {
            self.tags[usize::from(html)]
                .get(&LocalName::from(name))
                .copied()
        };
        let found = [tag(true, "a"), tag(true, "area"), tag(false, "a")];
        found.into_iter().flatten()
    }

    /// The symbols of an attribute's name: on HTML elements, and on others.
    pub fn attribute(&self, name: &LocalName) -> impl Iterator<Item = Symbol> {
        let of = |known: &FxHashMap<LocalName, Symbol>| known.get(name).copied();
        self.attributes.each_ref().map(of).into_iter().flatten()
    }

    /// How many symbols there are.
    pub fn len(&self) -> usize {
        self.counts.len()
    }

    /// How many elements have a name.
    pub fn count(&self, symbol: Symbol) -> u32 {
        self.counts[symbol as usize]
    }

    /// The elements that have a name, in document order.
    pub fn places(&self, symbol: Symbol) -> &[Position] {
        let places = self.places.get_or_init(|| {
            let mut starts: Vec<u32> = Vec::with_capacity(self.counts.len() + 1);
            let mut next = 0;
            for count in &self.counts {
                starts.push(next);
                next += count;
            }
            starts.push(next);
            let mut ends = starts.clone();
            let mut all = vec![0; next as usize];
            for place in 0..self.parents.len() as Position {
                for symbol in self.symbols(place) {
                    let end = &mut ends[*symbol as usize];
                    all[*end as usize] = place;
                    *end += 1;
                }
            }
            Places { all, starts }
        });
        let at = symbol as usize;
        &places.all[places.starts[at] as usize..places.starts[at + 1] as usize]
    }

    /// What an element is called; its tag first.
    pub fn symbols(&self, place: Position) -> &[Symbol] {
        let at = place as usize;
        &self.symbols[self.starts[at] as usize..self.starts[at + 1] as usize]
    }

    pub fn has(&self, place: Position, symbol: Symbol) -> bool {
        self.symbols(place).contains(&symbol)
    }

    /// The element above, in the same tree.
    pub fn parent(&self, place: Position) -> Option<Position> {
        Some(self.parents[place as usize]).filter(|parent| *parent != NOBODY)
    }

    /// The sibling before.
    pub fn previous(&self, place: Position) -> Option<Position> {
        Some(self.previous[place as usize]).filter(|previous| *previous != NOBODY)
    }
}

fn fold(name: &str, quirks: bool) -> Cow<'_, str> {
    if quirks && name.bytes().any(|b| b.is_ascii_uppercase()) {
        Cow::Owned(name.to_ascii_lowercase())
    } else {
        Cow::Borrowed(name)
    }
}

fn text_symbol(
    known: &mut FxHashMap<Box<str>, Symbol>,
    name: &str,
    quirks: bool,
    counts: &mut Vec<u32>,
) -> Symbol {
    let name = fold(name, quirks);
    if let Some(symbol) = known.get(&*name) {
        return *symbol;
    }
    let symbol = counts.len() as Symbol;
    counts.push(0);
    known.insert(name.into(), symbol);
    symbol
}
