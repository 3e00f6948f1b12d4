//! Which elements are alike: whatever the environment, elements with the same list of rules have the same style, below
//! elements that hand down the same.
//!
//! An element hands down what it inherits and what its own rules set of the inherited properties; how wide it is makes no
//! difference to those below it. What such an element takes all the same, by `inherit`, makes its key exact.

use html5ever::LocalName;
use rustc_hash::{FxHashMap, FxHashSet};

use super::lists::{ListId, Matches};
use super::symbols::{NOBODY, Position};
use crate::markup::{Document, Element, ElementId, Namespace};
use crate::page::matching::matched::Matched;
use crate::page::style::hints;
use crate::page::{Page, StyleSheet};
use crate::sheet::{DeclarationId, RuleId};
use crate::value::PropertyId;
use crate::value::declared::Name;
use crate::value::substitution::{substitutions, value_tokens};

/// What is not inherited, but looked for on the elements above.
pub(super) const ASKED_FROM_BELOW: [PropertyId; 2] =
    [PropertyId::CONTAINER_TYPE, PropertyId::CONTAINER_NAME];

/// A style, by its number.
pub(super) type StyleId = u32;

/// The elements of a page in groups that share a style.
#[derive(Debug)]
pub(crate) struct Groups {
    /// The first element of each group.
    pub representatives: Vec<ElementId>,
    /// The group of each element.
    pub of_element: Vec<StyleId>,
}

/// What of the style of each element depends on the document alone, whatever the sheets say.
#[derive(Debug)]
pub(crate) struct InheritanceFacts {
    /// Elements with the same tag and the same attributes that count have the same number.
    alike: Vec<u32>,
    /// The element above in the flat tree.
    above: Vec<Position>,
    /// Those whose style attribute asks the element itself.
    singular: FxHashSet<Position>,
    /// Those whose style attribute may take from above what is not inherited.
    taking: FxHashSet<Position>,
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

impl InheritanceFacts {
    pub fn of(document: &Document) -> InheritanceFacts {
        let mut known: FxHashMap<Look, u32> = FxHashMap::default();
        let count = document.elements().len();
        let mut bearings = InheritanceFacts {
            alike: Vec::with_capacity(count),
            above: Vec::with_capacity(count),
            singular: FxHashSet::default(),
            taking: FxHashSet::default(),
        };
        for (place, id) in document.elements().iter().enumerate() {
            let element = document.element(*id);
            let above = document.flat_parent(*id);
            let above = above.map_or(NOBODY, |parent| document.element(parent).index);
            let attached = attached(document, *id, element);
            if let Some((style, _)) = &attached {
                if substitutions(style, &value_tokens(style)).others {
                    bearings.singular.insert(place as Position);
                }
                if may_inherit(style) {
                    bearings.taking.insert(place as Position);
                }
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

    /// Whether the style attribute of an element asks the element itself.
    fn is_singular(&self, place: Position) -> bool {
        !self.singular.is_empty() && self.singular.contains(&place)
    }

    /// Whether the style attribute of an element may take from above what is not inherited.
    fn takes(&self, place: Position) -> bool {
        !self.taking.is_empty() && self.taking.contains(&place)
    }

    /// The element above another in the flat tree.
    pub fn above(&self, place: Position) -> Option<Position> {
        Some(self.above[place as usize]).filter(|above| *above != NOBODY)
    }
}

/// What an element hands down, by its number.
type HandedDownId = u32;

/// What the style of an element depends on above it.
#[derive(Debug, PartialEq, Eq, Hash)]
enum AboveIt {
    Nothing,
    /// What is handed down to it.
    HandedDown(HandedDownId),
    /// All of the style above: it may take any property from there.
    Style(StyleId),
}

/// The style above an element and what that hands down, and the style that the element has then.
type Last = ((Option<StyleId>, Option<HandedDownId>), StyleId);

/// All that the style of an element depends on.
#[derive(Debug, PartialEq, Eq, Hash)]
struct Key {
    list: ListId,
    above: AboveIt,
    alike: u32,
    /// Set where the element is like no other.
    alone: Option<Position>,
}

impl Groups {
    /// Puts the elements of a page into groups; `before` are those of the state before, where lists have kept their
    /// numbers.
    pub fn of(page: &Page, before: Option<(&Groups, &Matches)>) -> Groups {
        let matches = page.all_matches();
        let bearings = page.bearings();
        let document = page.document();
        let lists = Lists::of(page);
        let mut known: FxHashMap<Key, StyleId> = FxHashMap::default();
        let mut representatives: Vec<ElementId> = Vec::new();
        let mut of_element: Vec<StyleId> = Vec::with_capacity(document.elements().len());
        // What each style hands down: by what is handed down to it, what its list adds, and what its element is.
        type Handing = (Option<HandedDownId>, u32, u32);
        let mut handing: FxHashMap<Handing, HandedDownId> = FxHashMap::default();
        let mut handed_down: Vec<HandedDownId> = Vec::new();
        // Elements that were in one group, and have kept their list, are in one group where what is above them is the
        // same: the last that was found for each group.
        let count = before.map_or(0, |(groups, _)| groups.representatives.len());
        let mut last: Vec<Option<Last>> = vec![None; count];
        for (place, id) in document.elements().iter().enumerate() {
            let list = matches.list_of(place as Position);
            let above = bearings.above(place as Position);
            let above = above.and_then(|above| of_element.get(above as usize).copied());
            let from = above.and_then(|above| handed_down.get(above as usize).copied());
            let group = before
                .filter(|(_, matches)| matches.list_of(place as Position) == list)
                .and_then(|(groups, _)| last.get_mut(groups.style_of(place as Position) as usize));
            if let Some(Some((known, style))) = &group
                && *known == (above, from)
            {
                of_element.push(*style);
                continue;
            }
            let takes = lists.takes(list) || bearings.takes(place as Position);
            let alone = lists.is_alone(list) || bearings.is_singular(place as Position);
            let alike = bearings.alike[place];
            let key = Key {
                list,
                above: match (from, above) {
                    (_, Some(above)) if takes => AboveIt::Style(above),
                    (Some(from), _) => AboveIt::HandedDown(from),
                    _ => AboveIt::Nothing,
                },
                alike,
                alone: alone.then_some(place as Position),
            };
            let style = *known.entry(key).or_insert_with(|| {
                representatives.push(*id);
                let style = representatives.len() as StyleId - 1;
                let next = handing.len() as HandedDownId;
                // What takes more than is handed down to it may hand that on.
                let key = match takes || alone {
                    false => (from, lists.handing(list), alike),
                    true => (None, u32::MAX, style),
                };
                handed_down.push(*handing.entry(key).or_insert(next));
                style
            });
            if let Some(group) = group
                && !alone
            {
                *group = Some(((above, from), style));
            }
            of_element.push(style);
        }
        Groups {
            representatives,
            of_element,
        }
    }

    /// The group of an element.
    pub fn style_of(&self, place: Position) -> StyleId {
        self.of_element[place as usize]
    }
}

/// Whether the groups of elements stay as they are when one declaration takes the place of another.
pub(super) fn same_for_groups(
    (before, was): (&StyleSheet, DeclarationId),
    (after, is): (&StyleSheet, DeclarationId),
) -> bool {
    before.does_ask_element(was) == after.does_ask_element(is)
        && may_take(before, was) == may_take(after, is)
        && hands_down(before, was) == hands_down(after, is)
}

/// Whether a declaration may take from above what is not inherited. Whoever is asked in vain only has a key
/// that is more exact than needed.
fn may_take(styles: &StyleSheet, id: DeclarationId) -> bool {
    let sheet = styles.sheet();
    may_inherit(sheet.value_source(sheet.declaration(id)))
}

fn may_inherit(text: &str) -> bool {
    const WORD: &[u8] = b"inherit";
    let mut windows = text.as_bytes().windows(WORD.len());
    // An escape can hide it.
    text.contains('\\') || windows.any(|window| window.eq_ignore_ascii_case(WORD))
}

/// Whether a declaration says something of a property that those below its element can ask for without `inherit`.
fn hands_down(styles: &StyleSheet, id: DeclarationId) -> bool {
    let sheet = styles.sheet();
    match Name::of(sheet, sheet.declaration(id)) {
        Name::Custom(_) => true,
        Name::Property(property) => property
            .longhands()
            .iter()
            .any(|longhand| longhand.facts().inherited || ASKED_FROM_BELOW.contains(longhand)),
        Name::Unknown => false,
    }
}

/// The style attribute and the hints of an element, as texts; where it has neither, none.
fn attached(document: &Document, id: ElementId, element: &Element) -> Option<(Box<str>, Box<str>)> {
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

/// What the declarations of the rules of each list ask and hand down.
struct Lists {
    all: Vec<OfList>,
    /// Whether sizes of containers are given, which are of single elements.
    sizes: bool,
    /// Whether rules may ask for any property of what is above.
    queries: bool,
}

struct OfList {
    /// Whether a value depends on the element itself.
    asks_element: bool,
    /// Whether a value may take from above what is not inherited.
    takes: bool,
    /// What it hands down, by the number of the first list that hands down the same.
    handing: u32,
}

/// The same of one rule.
#[derive(Clone, Copy, Debug, Default)]
pub(in crate::page) struct RuleAsks {
    asks_element: bool,
    takes: bool,
    hands_down: bool,
}

impl RuleAsks {
    pub fn of(styles: &StyleSheet, rule: RuleId) -> RuleAsks {
        let mut all = RuleAsks::default();
        for (id, _) in styles.sheet().declarations_of(rule) {
            all.asks_element |= styles.does_ask_element(id);
            all.takes |= may_take(styles, id);
            all.hands_down |= hands_down(styles, id);
        }
        all
    }
}

impl Lists {
    fn of(page: &Page) -> Lists {
        let mut handing: FxHashMap<Vec<Matched>, u32> = FxHashMap::default();
        let lists = page.all_matches().lists().zip(0..);
        let all = lists.map(|((list, _), number)| {
            let mut of_list = OfList {
                asks_element: false,
                takes: false,
                handing: number,
            };
            let mut handed_down = Vec::new();
            // What is about a pseudo-element is not about the element, nor about what is below it.
            for (_, matched) in list.iter().filter(|(pseudo, _)| pseudo.is_none()) {
                let rule = page.rule(matched.rule);
                let of_rule = page.sheet(rule.sheet).styles.rule_asks(rule.rule);
                of_list.asks_element |= of_rule.asks_element;
                of_list.takes |= of_rule.takes;
                if of_rule.hands_down {
                    handed_down.push(*matched);
                }
            }
            of_list.handing = *handing.entry(handed_down).or_insert(number);
            of_list
        });
        Lists {
            all: all.collect(),
            sizes: !page.container_sizes.is_empty(),
            queries: has_container_queries(page),
        }
    }

    /// Whether elements with a list are like no other.
    fn is_alone(&self, list: ListId) -> bool {
        self.sizes || self.all[list as usize].asks_element
    }

    /// Whether elements with a list may take from above what is not inherited.
    fn takes(&self, list: ListId) -> bool {
        self.queries || self.all[list as usize].takes
    }

    fn handing(&self, list: ListId) -> u32 {
        self.all[list as usize].handing
    }
}

/// Whether rules of a page depend on a container above an element.
pub(super) fn has_container_queries(page: &Page) -> bool {
    page.rules.iter().any(|rule| rule.containers.is_some())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::text::Text;

    /// How many groups the `<b>`s of a page make whose parents are a `.x` and a `.y`.
    fn groups(css: &str) -> usize {
        let html = "<!doctype html><link rel=stylesheet href=a.css><p class=x><b>x</b></p><p class=y><b>y</b></p>";
        let page = Page::builder(Text::new("p.html", html))
            .loader(|_: &crate::page::Request<'_>| Ok(Text::new("a.css", css)))
            .build();
        let groups = page.groups();
        let document = page.document();
        let all = document.elements().iter();
        let all = all.filter(|id| document.element(**id).is_html("b"));
        let all = all.map(|id| groups.style_of(document.element(*id).index));
        all.collect::<FxHashSet<StyleId>>().len()
    }

    #[test]
    fn elements_share_a_style_where_they_are_handed_down_the_same() {
        for (css, count) in [
            ("", 1),
            (".x { width: 1px } .y { margin: 2px }", 1),
            (".x { width: 1px } .y { color: red }", 2),
            (".x { font: 1em serif }", 2),
            (".x { --a: 1 }", 2),
            (".x { all: initial }", 2),
            (".x { container-type: size }", 2),
            (".x { width: 1px } b { width: inherit }", 2),
            (".x { width: 1px } b { width: var(--a, INHERIT) }", 2),
            (".x { width: 1px } b { width: \\69nherit }", 2),
            (
                ".x { width: 1px } @container (width > 1px) { b { color: red } }",
                2,
            ),
            (".x::before { color: red }", 1),
            (".x { width: 1px } ::before { width: inherit }", 1),
            ("p { color: red } .x { width: 1px }", 1),
        ] {
            assert_eq!(groups(css), count, "{css}");
        }
    }
}
