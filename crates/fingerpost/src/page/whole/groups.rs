//! Which elements are alike: whatever the surroundings, elements with the same list of rules, below elements that
//! are alike, have the same style.

use std::sync::Arc;

use html5ever::LocalName;
use rustc_hash::{FxHashMap, FxHashSet};

use super::lists::ListId;
use super::names::{NOBODY, Place};
use crate::markup::{Document, Element, Namespace, NodeId};
use crate::page::hints;
use crate::page::{Page, PageSheet};
use crate::value::substitution::{substitutions, value_tokens};

/// A style, by its number.
pub(super) type StyleId = u32;

/// The elements of a page in groups that share a style.
#[derive(Debug)]
pub(crate) struct Groups {
    /// The first element of each group.
    pub representatives: Vec<NodeId>,
    /// The group of each element.
    pub of_element: Vec<StyleId>,
}

/// What of the style of each element hangs on the document alone, whatever the sheets say.
#[derive(Debug)]
pub(crate) struct Bearings {
    /// Elements with the same tag and the same attributes that count have the same number.
    alike: Vec<u32>,
    /// The element above in the flat tree.
    above: Vec<Place>,
    /// Those whose style attribute asks the element itself.
    singular: FxHashSet<Place>,
}

/// All of an element that counts besides the rules that match it.
#[derive(PartialEq, Eq, Hash)]
struct Look {
    tag: (bool, LocalName),
    /// The style attribute and the presentational hints, as texts.
    attached: Option<(Box<str>, Box<str>)>,
    /// What the user-agent sheet's prose asks of a form control.
    control: Option<Box<str>>,
}

impl Bearings {
    pub fn of(document: &Document) -> Bearings {
        let mut known: FxHashMap<Look, u32> = FxHashMap::default();
        let count = document.elements().len();
        let mut bearings = Bearings {
            alike: Vec::with_capacity(count),
            above: Vec::with_capacity(count),
            singular: FxHashSet::default(),
        };
        for (place, id) in document.elements().iter().enumerate() {
            let element = document.expect_element(*id);
            let above = document.flat_parent(*id);
            let above = above.map_or(NOBODY, |parent| document.expect_element(parent).index);
            let attached = attached(document, *id, element);
            if let Some((style, _)) = &attached
                && substitutions(style, &value_tokens(style)).others
            {
                bearings.singular.insert(place as Place);
            }
            let look = Look {
                tag: (element.namespace == Namespace::Html, element.name.clone()),
                attached,
                control: control(element),
            };
            let next = known.len() as u32;
            bearings.alike.push(*known.entry(look).or_insert(next));
            bearings.above.push(above);
        }
        bearings
    }

    /// The element above another in the flat tree.
    pub fn above(&self, place: Place) -> Option<Place> {
        Some(self.above[place as usize]).filter(|above| *above != NOBODY)
    }
}

/// All that the style of an element depends on.
#[derive(Debug, PartialEq, Eq, Hash)]
struct Key {
    list: ListId,
    above: Option<StyleId>,
    alike: u32,
    /// Set where the element is like no other.
    alone: Option<Place>,
}

impl Groups {
    /// Puts the elements of a page into groups.
    pub fn of(page: &Page) -> Groups {
        let matches = page.all_matches();
        let bearings = page.bearings();
        let document = page.document();
        let singular = Singular::of(page);
        let mut known: FxHashMap<Key, StyleId> = FxHashMap::default();
        let mut representatives: Vec<NodeId> = Vec::new();
        let mut of_element: Vec<StyleId> = Vec::with_capacity(document.elements().len());
        for (place, id) in document.elements().iter().enumerate() {
            let list = matches.list_of(place as Place);
            let above = bearings.above(place as Place);
            let alone = singular.is_alone(list) || bearings.singular.contains(&(place as Place));
            let key = Key {
                list,
                above: above.and_then(|above| of_element.get(above as usize).copied()),
                alike: bearings.alike[place],
                alone: alone.then_some(place as Place),
            };
            let style = *known.entry(key).or_insert_with(|| {
                representatives.push(*id);
                representatives.len() as StyleId - 1
            });
            of_element.push(style);
        }
        Groups {
            representatives,
            of_element,
        }
    }

    /// The group of an element.
    pub fn style_of(&self, place: Place) -> StyleId {
        self.of_element[place as usize]
    }
}

/// Whether the groups of a page are those of another with the same elements and the same matches: no declaration
/// that differs asks the element itself.
pub(in crate::page) fn same_groups(before: &Page, after: &Page) -> bool {
    before.conditions.container_sizes == after.conditions.container_sizes
        && before.sheets.len() == after.sheets.len()
        && before.sheets.iter().zip(&after.sheets).all(|(a, b)| {
            let asks = |page_sheet: &PageSheet| page_sheet.styles.asks_element();
            Arc::ptr_eq(&a.styles, &b.styles) || !(asks(a) || asks(b))
        })
}

/// The style attribute and the hints of an element, as texts; where it has neither, none.
fn attached(document: &Document, id: NodeId, element: &Element) -> Option<(Box<str>, Box<str>)> {
    let style = element.attribute("style").unwrap_or("");
    let hints = hints::hints(document, id);
    let hints = hints.as_ref();
    let hints = hints.map_or("", |hints| hints.styles.sheet().text().source());
    (!style.is_empty() || !hints.is_empty()).then(|| (style.into(), hints.into()))
}

/// The attributes of a form control that what engines say in prose depends on.
fn control(element: &Element) -> Option<Box<str>> {
    let is_control = ["input", "select"].iter().any(|name| element.is_html(name));
    is_control.then(|| {
        let of = |name: &str| element.attribute(name).unwrap_or("-");
        [of("type"), of("size"), of("multiple")].join(" ").into()
    })
}

/// Which lists have declarations whose value depends on the element itself.
struct Singular {
    lists: Vec<bool>,
    /// Whether sizes of containers are given, which are of single elements.
    all: bool,
}

impl Singular {
    fn of(page: &Page) -> Singular {
        let matches = page.all_matches();
        let of_rule = |rule: u32| {
            let rule = page.rule(rule);
            let styles = &page.sheet(rule.sheet).styles;
            let mut declarations = styles.sheet().declarations_of(rule.rule);
            styles.asks_element() && declarations.any(|(id, _)| styles.does_ask_element(id))
        };
        let mut rules: FxHashMap<u32, bool> = FxHashMap::default();
        let mut asks = |rule: u32| *rules.entry(rule).or_insert_with(|| of_rule(rule));
        let lists = matches.lists();
        Singular {
            lists: lists
                .map(|(list, _)| list.iter().any(|(_, m)| asks(m.rule)))
                .collect(),
            all: !page.container_sizes.is_empty(),
        }
    }

    fn is_alone(&self, list: ListId) -> bool {
        self.all || self.lists[list as usize]
    }
}
