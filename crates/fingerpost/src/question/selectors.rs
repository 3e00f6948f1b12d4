//! Which selector is a good one for some elements: short, with no needless tag or ancestor, and with
//! nothing reached that was not meant.
//!
//! Candidates are made of what the elements have in common (id, classes, attributes, tag, place among
//! siblings) and of the ancestors that they share, and then matched: what a candidate reaches is
//! counted, never guessed.
//!
//! ```
//! use fingerpost::prelude::*;
//!
//! let html = "<div class=panel><h2>Boats</h2></div><h2 class=title>Fares</h2>";
//! let page = Page::new(Text::new("a.html", html));
//! let answer = page.ask().selectors(&["'Fares'".into()], false)?;
//! let best = &answer.candidates[0];
//! assert_eq!((best.selector.as_str(), best.reach, best.unwanted), (".title", 1, 0));
//! # Ok::<(), fingerpost::question::find::FindError>(())
//! ```

use std::collections::{HashMap, HashSet};

use serde::{Deserialize, Serialize};

use super::ElementSummary;
use super::find::{ElementQuery, FindError, elements};
use super::hashed_name::{is_hashed, is_hashed_selector};
use super::inventory::Inventory;
use super::meaning::{Meaning, Utilities};
use crate::markup::{Document, Element, ElementId};
use crate::page::Page;
use crate::selector::{Matcher, SelectorList, Specificity, States, escaped};

/// How many unwanted elements of a candidate are listed.
const MOST_LISTED: usize = 5;

/// How many candidates are offered.
const MOST_OFFERED: usize = 12;

/// How far up ancestors are looked at: one further away says little about the elements.
const FARTHEST_ANCESTOR: usize = 6;

/// How many elements are offered a list with a selector for each.
const LONGEST_LIST: usize = 6;

/// How many classes in common are tried in pairs.
const MOST_CLASSES: usize = 6;

/// A selector for the elements.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Candidate {
    /// The selector.
    pub selector: String,
    /// Its specificity.
    pub specificity: Specificity,
    /// How many elements of the page it reaches.
    pub reach: usize,
    /// How many of them were not meant.
    pub unwanted: usize,
    /// The first few of those.
    pub unwanted_elements: Vec<ElementSummary>,
    /// How many elements of the site's pages it reaches, this page included.
    pub site_reach: usize,
    /// On how many pages.
    pub site_pages: usize,
    /// Whether it is made of a name that looks made up by a program, and may change with it.
    pub hashed: bool,
}

/// The selectors for some elements.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct SelectorsAnswer {
    /// The page.
    pub page: String,
    /// The elements.
    pub elements: Vec<ElementSummary>,
    /// The selectors, the best first.
    pub candidates: Vec<Candidate>,
}

/// Candidate selectors for elements, the best first. With `like`, the elements are first widened to
/// all that are alike.
///
/// # Errors
/// Where an element is not found.
pub(crate) fn selectors(
    page: &Page,
    whats: &[ElementQuery],
    like: bool,
    elsewhere: &Inventory,
) -> Result<SelectorsAnswer, FindError> {
    let mut wanted: Vec<ElementId> = Vec::new();
    for what in whats {
        let found = elements(page, what)?;
        if found.is_empty() {
            // Says what nearly matches.
            super::find::find_one(page, what)?;
        }
        wanted.extend(found);
    }
    if like {
        wanted = wanted
            .iter()
            .flat_map(|id| alike(page.document(), *id))
            .collect();
    }
    wanted.sort();
    wanted.dedup();
    let mut best = minimal(page, candidates(page, &wanted, None), elsewhere);
    best.truncate(MOST_OFFERED);
    Ok(SelectorsAnswer {
        page: page.document().text().name().to_owned(),
        elements: wanted
            .iter()
            .map(|id| ElementSummary::new(page, *id))
            .collect(),
        candidates: best
            .into_iter()
            .map(|(made, counts)| described(page, made, &counts))
            .collect(),
    })
}

/// The elements that are like one: the same tag and classes, in the same place of a list.
pub fn alike(document: &Document, id: ElementId) -> Vec<ElementId> {
    let shape = |id: ElementId| {
        let element = document.element(id);
        let mut classes: Vec<&str> = element.classes().collect();
        classes.sort_unstable();
        (element.name.to_string(), classes.join(" "))
    };
    let parent = |id: ElementId| document.parent_element(id);
    let own = shape(id);
    let around = parent(id);
    let around_shape = around.map(shape);
    let all = document.elements().iter().copied();
    all.filter(|other| {
        shape(*other) == own
            && (parent(*other) == around
                || parent(*other).map(shape) == around_shape && !own.1.is_empty()
                || parent(*other).map(shape) == around_shape
                    && parent(*other).and_then(parent).map(shape)
                        == around.and_then(parent).map(shape))
    })
    .collect()
}

/// A selector and what it reaches.
#[derive(Clone, Debug)]
pub(crate) struct Made {
    pub selector: String,
    pub list: SelectorList,
    pub specificity: Specificity,
    pub reached: Vec<ElementId>,
    pub unwanted: Vec<ElementId>,
    pub hashed: bool,
    /// How many compounds it has.
    parts: usize,
    /// Whether it counts siblings: such a selector breaks when one is added.
    pub counts: bool,
    /// How well its parts describe the elements.
    pub meaning: Meaning,
}

impl Made {
    /// The better the smaller: what reaches too much last, then what is likely to break, then the
    /// longer.
    fn key(&self) -> impl Ord + use<> {
        // A tag that stands alone serves; one beside a class is mostly needless.
        let tag = match (
            self.is_bare(),
            self.selector.starts_with(char::is_alphabetic),
        ) {
            (false, false) => 0,
            (true, _) => 1,
            (false, true) => 2,
        };
        (
            (!self.unwanted.is_empty(), self.unwanted.len()),
            // A short tag serves as well as a class.
            (self.hashed, self.counts, self.meaning.max(Meaning::Tag)),
            (self.parts, tag, self.selector.len()),
            self.specificity,
        )
    }

    /// Whether it is made of tags only, which say nothing of what an element is for and are
    /// everywhere on other pages.
    pub fn is_bare(&self) -> bool {
        !self.selector.contains(['.', '#', '[', ':'])
    }
}

/// How many selectors that reach the same of a page are counted on the others.
const MOST_COUNTED: usize = 8;

/// Of those that reach the same on all pages, only the shortest; with what each reaches on each of the other pages.
fn minimal(page: &Page, mut all: Vec<Made>, elsewhere: &Inventory) -> Vec<(Made, Vec<usize>)> {
    all.sort_by_key(Made::key);
    let here = page.document().text().name();
    let others: Vec<&Document> = elsewhere
        .documents
        .iter()
        .filter(|d| d.text().name() != here)
        .collect();
    let mut counted: HashMap<Vec<ElementId>, usize> = HashMap::new();
    let mut seen: HashSet<(Vec<ElementId>, Vec<usize>)> = HashSet::new();
    let mut kept = Vec::new();
    for made in all {
        let count = counted.entry(made.reached.clone()).or_default();
        *count += 1;
        let is_known = *count > 1 && (others.is_empty() || !made.unwanted.is_empty());
        if *count > MOST_COUNTED || is_known {
            continue;
        }
        let counts = reached_on(&made.list, others.iter().copied());
        if seen.insert((made.reached.clone(), counts.clone())) {
            kept.push((made, counts));
        }
    }
    // What finds others on other pages comes behind what does not.
    kept.sort_by_key(|(made, counts)| {
        let is_wide = !made.counts && counts.iter().any(|count| *count > 0);
        (
            !made.unwanted.is_empty(),
            made.unwanted.len(),
            made.hashed,
            made.counts,
            is_wide,
        )
    });
    kept
}

/// How many elements a selector finds on each of some pages.
pub(crate) fn reached_on<'d>(
    list: &SelectorList,
    pages: impl Iterator<Item = &'d Document>,
) -> Vec<usize> {
    let states = States::default();
    let of_page = |document: &Document| {
        let matcher = Matcher::new(document, &states);
        let all = document.elements().iter();
        all.filter(|id| matcher.matches_list(list, **id)).count()
    };
    pages.map(of_page).collect()
}

/// Every candidate that matches all wanted elements, the best first; `asked` is one of them.
pub(crate) fn candidates(page: &Page, wanted: &[ElementId], asked: Option<&str>) -> Vec<Made> {
    let document = page.document();
    if wanted.is_empty() {
        return Vec::new();
    }
    let subjects = compounds(document, wanted);
    let mut texts: Vec<(String, usize, bool)> = Vec::new();
    for subject in &subjects {
        texts.push((subject.text.clone(), 1, subject.counts));
    }
    let asked = asked.and_then(|text| Some((text, SelectorList::parse(text).ok()?)));
    if let Some((text, list)) = asked
        && list.selectors.iter().all(|s| s.pseudo_element.is_none())
        && !texts.iter().any(|(known, ..)| known == text)
    {
        let parts = list.selectors.iter().map(|s| s.compounds.len()).sum();
        let counts = [":nth-", "-child", "-of-type"]
            .iter()
            .any(|part| text.contains(part));
        texts.push((text.to_owned(), parts, counts));
    }
    for (distance, level) in around(document, wanted) {
        // Counting siblings far above says little about the elements.
        let near = distance < 2;
        for above in compounds(document, &level)
            .iter()
            .filter(|c| (near || !c.counts) && c.text != ":root")
        {
            for subject in &subjects {
                let counts = subject.counts || above.counts;
                let descendant = format!("{} {}", above.text, subject.text);
                texts.push((descendant, 2, counts));
                if distance == 0 {
                    texts.push((format!("{} > {}", above.text, subject.text), 2, counts));
                }
            }
        }
    }
    if (2..=LONGEST_LIST).contains(&wanted.len()) {
        // One for each: what they result in when they have nothing of their own in common.
        let mut each: Vec<String> = Vec::new();
        for id in wanted {
            let best = candidates(page, &[*id], None)
                .into_iter()
                .find(|m| m.unwanted.is_empty());
            each.extend(best.map(|m| m.selector).filter(|s| !each.contains(s)));
        }
        texts.push((each.join(", "), each.len() + 1, true));
    }
    let states = States::default();
    let matcher = Matcher::new(document, &states);
    let utilities = Utilities::of(document);
    let meant: HashSet<ElementId> = wanted.iter().copied().collect();
    let mut all: Vec<Made> = texts
        .into_iter()
        .filter_map(|(text, parts, counts)| {
            let list = SelectorList::parse(&text).ok()?;
            let elements = document.elements().iter().copied();
            let reached: Vec<ElementId> = elements
                .filter(|id| matcher.matches_list(&list, *id))
                .collect();
            let all: HashSet<ElementId> = reached.iter().copied().collect();
            wanted.iter().all(|id| all.contains(id)).then(|| Made {
                specificity: list.specificity(),
                unwanted: reached
                    .iter()
                    .copied()
                    .filter(|id| !meant.contains(id))
                    .collect(),
                hashed: is_hashed_selector(&text),
                meaning: utilities.meaning(&list),
                reached,
                list,
                selector: text,
                parts,
                counts,
            })
        })
        .collect();
    all.sort_by_key(Made::key);
    all
}

/// How many ancestors' names are put before a selector, and how many such selectors are matched
/// against the whole page.
const MOST_NAMES: usize = 16;
const MOST_STRONGER: usize = 60;

/// The lightest selector that is `enough`, reaches some elements and no others, and is made of what they
/// and those around them have anyway: ids and classes of one ancestor or two before their own.
pub(crate) fn stronger(
    page: &Page,
    wanted: &[ElementId],
    enough: &dyn Fn(&SelectorList) -> bool,
) -> Option<SelectorList> {
    let document = page.document();
    let first = wanted.first()?;
    let mut names: Vec<String> = Vec::new();
    for above in document.ancestors_and_self(*first).skip(1) {
        let above = document.element(above);
        names.extend(above.id().map(|id| format!("#{}", escaped(id))));
        names.extend(above.classes().map(|class| format!(".{}", escaped(class))));
    }
    names.truncate(MOST_NAMES);
    let subjects: Vec<Compound> = compounds(document, wanted)
        .into_iter()
        .filter(|c| !c.counts && c.text != ":root")
        .collect();
    let states = States::default();
    let matcher = Matcher::new(document, &states);
    let utilities = Utilities::of(document);
    let mut found: Vec<(Meaning, Specificity, usize, SelectorList)> = Vec::new();
    let mut add = |text: String| {
        let Ok(list) = SelectorList::parse(&text) else {
            return;
        };
        if enough(&list) && wanted.iter().all(|id| matcher.matches_list(&list, *id)) {
            found.push((
                utilities.meaning(&list),
                list.specificity(),
                text.len(),
                list,
            ));
        }
    };
    for subject in &subjects {
        for (at, inner) in names.iter().enumerate() {
            add(format!("{inner} {}", subject.text));
            for outer in &names[at + 1..] {
                add(format!("{outer} {inner} {}", subject.text));
            }
        }
    }
    found.sort_by_key(|(meaning, specificity, length, _)| (*meaning, *specificity, *length));
    let meant: HashSet<ElementId> = wanted.iter().copied().collect();
    let exact = |list: &SelectorList| {
        let mut elements = document.elements().iter();
        elements.all(|id| meant.contains(id) || !matcher.matches_list(list, *id))
    };
    let lists = found.into_iter().take(MOST_STRONGER).map(|(.., list)| list);
    lists.into_iter().find(exact)
}

fn described(page: &Page, made: Made, elsewhere: &[usize]) -> Candidate {
    let site_reach = made.reached.len() + elsewhere.iter().sum::<usize>();
    let site_pages = usize::from(!made.reached.is_empty())
        + elsewhere.iter().filter(|count| **count > 0).count();
    Candidate {
        reach: made.reached.len(),
        unwanted: made.unwanted.len(),
        unwanted_elements: made
            .unwanted
            .iter()
            .take(MOST_LISTED)
            .map(|id| ElementSummary::new(page, *id))
            .collect(),
        selector: made.selector,
        specificity: made.specificity,
        site_reach,
        site_pages,
        hashed: made.hashed,
    }
}

/// The elements around some elements, level by level from their parents up, and how far up; then
/// those above all of them, which may be on another level for each.
fn around(document: &Document, wanted: &[ElementId]) -> Vec<(usize, Vec<ElementId>)> {
    let above = |id: ElementId| -> Vec<ElementId> {
        std::iter::successors(document.parent_element(id), |at| {
            document.parent_element(*at)
        })
        .collect()
    };
    let trails: Vec<Vec<ElementId>> = wanted.iter().map(|id| above(*id)).collect();
    let mut levels: Vec<(usize, Vec<ElementId>)> = Vec::new();
    for distance in 0..FARTHEST_ANCESTOR {
        let level: Option<Vec<ElementId>> =
            trails.iter().map(|t| t.get(distance).copied()).collect();
        let Some(mut level) = level else { break };
        level.sort();
        level.dedup();
        levels.push((distance, level));
    }
    let shared = trails[0]
        .iter()
        .filter(|a| trails.iter().all(|t| t.contains(a)));
    for ancestor in shared.take(FARTHEST_ANCESTOR) {
        let one = vec![*ancestor];
        if !levels.iter().any(|(_, level)| *level == one) {
            levels.push((FARTHEST_ANCESTOR, one));
        }
    }
    levels
}

struct Compound {
    text: String,
    counts: bool,
}

/// What elements have in common, as compound selectors.
fn compounds(document: &Document, wanted: &[ElementId]) -> Vec<Compound> {
    let elements: Vec<&Element> = wanted.iter().map(|id| document.element(*id)).collect();
    let first = elements[0];
    let all = |test: &dyn Fn(&Element) -> bool| elements.iter().all(|e| test(e));
    let mut found: Vec<String> = Vec::new();
    if let ([only], Some(id)) = (&elements[..], first.id())
        && only.id() == Some(id)
    {
        found.push(format!("#{}", escaped(id)));
    }
    let classes: Vec<String> = first
        .classes()
        .filter(|class| all(&|e| e.classes().any(|c| c == *class)))
        .map(|class| format!(".{}", escaped(class)))
        .take(MOST_CLASSES)
        .collect();
    found.extend(classes.iter().cloned());
    for (at, one) in classes.iter().enumerate() {
        for two in &classes[at + 1..] {
            found.push(format!("{one}{two}"));
        }
    }
    let tag = escaped(&first.name);
    let same_tag = all(&|e| e.name == first.name);
    let attributes: Vec<String> = first
        .attributes
        .iter()
        .filter(|a| all(&|e| e.attribute(&a.name) == Some(&a.value)))
        .filter_map(|a| attribute_selector(&a.name, &a.value))
        .collect();
    found.extend(attributes.iter().cloned());
    for attribute in &attributes {
        found.extend(classes.iter().map(|class| format!("{class}{attribute}")));
    }
    if wanted == [document.root_element()] {
        found.push(":root".to_owned());
    }
    if same_tag {
        let bare = found.clone();
        found.push(tag.clone());
        found.extend(
            bare.iter()
                .filter(|c| !c.starts_with(['#', ':']))
                .map(|c| format!("{tag}{c}")),
        );
    }
    let mut compounds: Vec<Compound> = found
        .into_iter()
        .map(|text| Compound {
            text,
            counts: false,
        })
        .collect();
    if let [only] = wanted
        && let Some(place) = place_among_siblings(document, *only)
    {
        compounds.push(Compound {
            text: format!("{tag}{place}"),
            counts: true,
        });
        compounds.extend(classes.iter().map(|class| Compound {
            text: format!("{class}{place}"),
            counts: true,
        }));
    }
    compounds
}

/// `:nth-child(3)`, where an element has siblings.
fn place_among_siblings(document: &Document, id: ElementId) -> Option<String> {
    let parent = document.parent_element(id)?;
    let siblings: Vec<ElementId> = document.child_elements(parent).collect();
    let at = siblings.iter().position(|s| *s == id)?;
    match (at, siblings.len()) {
        (_, 1) => None,
        (0, _) => Some(":first-child".to_owned()),
        (at, count) if at + 1 == count => Some(":last-child".to_owned()),
        (at, _) => Some(format!(":nth-child({})", at + 1)),
    }
}

/// A selector of an attribute that says what an element is for.
fn attribute_selector(name: &str, value: &str) -> Option<String> {
    let telling = matches!(
        name,
        "type"
            | "name"
            | "role"
            | "rel"
            | "lang"
            | "for"
            | "scope"
            | "aria-label"
            | "aria-current"
            | "aria-labelledby"
            | "href"
            | "hidden"
            | "open"
            | "disabled"
            | "required"
    ) || name.starts_with("data-");
    if !telling || value.chars().count() > 40 || is_hashed(value) {
        return None;
    }
    if value.is_empty() {
        return Some(format!("[{name}]"));
    }
    let plain = value
        .chars()
        .all(|c| c.is_ascii_alphanumeric() || c == '-' || c == '_')
        && !value.starts_with(|c: char| c.is_ascii_digit() || c == '-');
    if plain {
        return Some(format!("[{name}={value}]"));
    }
    let value = value
        .replace('\\', "\\\\")
        .replace('"', "\\\"")
        .replace('\n', "\\a ");
    Some(format!("[{name}=\"{value}\"]"))
}
