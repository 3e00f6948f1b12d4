//! Which elements are alike: whatever the surroundings, elements with the same list of rules, below elements that
//! are alike, have the same style.

use std::sync::Arc;

use html5ever::LocalName;
use rustc_hash::FxHashMap;

use super::lists::ListId;
use super::names::Place;
use crate::markup::{Element, Namespace, NodeId};
use crate::page::hints;
use crate::page::{Page, PageSheet};
use crate::sheet::{Declaration, Sheet};
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

/// All that the style of an element depends on.
#[derive(Debug, PartialEq, Eq, Hash)]
struct Key {
    list: ListId,
    above: Option<StyleId>,
    tag: (bool, LocalName),
    /// The style attribute and the presentational hints, as texts.
    attached: Option<(Box<str>, Box<str>)>,
    /// What the user-agent sheet's prose asks of a form control.
    control: Option<Box<str>>,
    /// Set where the element is like no other.
    alone: Option<Place>,
}

impl Groups {
    /// Puts the elements of a page into groups.
    pub fn of(page: &Page) -> Groups {
        let matches = page.all_matches();
        let document = page.document();
        let singular = Singular::of(page);
        let mut known: FxHashMap<Key, StyleId> = FxHashMap::default();
        let mut representatives: Vec<NodeId> = Vec::new();
        let mut of_element: Vec<StyleId> = Vec::with_capacity(document.elements().len());
        for (place, id) in document.elements().iter().enumerate() {
            let element = document.expect_element(*id);
            let above = document.flat_parent(*id).and_then(|parent| {
                let place = document.expect_element(parent).index;
                of_element.get(place as usize).copied()
            });
            let list = matches.list_of(place as Place);
            let attached = attached(page, *id, element);
            let alone = singular.is_alone(list, attached.as_ref());
            let key = Key {
                list,
                above,
                tag: (element.namespace == Namespace::Html, element.name.clone()),
                attached,
                control: control(element),
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
            let asks = |page_sheet: &PageSheet| {
                let sheet = page_sheet.styles.sheet();
                sheet
                    .declarations()
                    .any(|(_, declaration)| asks_element(sheet, declaration))
            };
            Arc::ptr_eq(&a.styles, &b.styles) || !(asks(a) || asks(b))
        })
}

/// The style attribute and the hints of an element, as texts; where it has neither, none.
fn attached(page: &Page, id: NodeId, element: &Element) -> Option<(Box<str>, Box<str>)> {
    let style = element.attribute("style").unwrap_or("");
    let hints = hints::hints(page.document(), id);
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

/// Whether the value of a declaration depends on the element, or on what no source says: `attr()`, `env()` and
/// their kin.
fn asks_element(sheet: &Sheet, declaration: &Declaration) -> bool {
    substitutions(sheet.text().source(), sheet.value_tokens(declaration)).others
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
            let rule = &page.rules[rule as usize];
            let sheet = page.sheets[rule.sheet as usize].styles.sheet();
            let mut declarations = sheet.declarations_of(rule.rule);
            declarations.any(|(_, declaration)| asks_element(sheet, declaration))
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

    fn is_alone(&self, list: ListId, attached: Option<&(Box<str>, Box<str>)>) -> bool {
        let style = attached.map_or("", |(style, _)| style);
        self.all || self.lists[list as usize] || substitutions(style, &value_tokens(style)).others
    }
}
