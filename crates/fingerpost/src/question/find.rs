//! `find`: elements by selector, by text, by place in the source, or by number.
//!
//! ```
//! use fingerpost::prelude::*;
//!
//! let page = Page::new(Text::new("a.html", "<h2>Sailings</h2>\n<h2>Boats</h2>"));
//! let ask = page.ask();
//! assert_eq!(ask.find(&"h2".into())?.elements.len(), 2);
//! let by_text = ask.find_one(&"'Boats'".into())?;
//! let by_place = ask.find_one(&"a.html:2".into())?;
//! assert_eq!(by_text, by_place);
//! let error = ask.find_one(&"h3".into()).unwrap_err();
//! assert!(error.to_string().starts_with("no element of a.html matches 'h3'."));
//! # Ok::<(), fingerpost::question::find::FindError>(())
//! ```

use std::ops::Range;

use serde::Serialize;
use thiserror::Error;

use super::ElementSummary;
use super::state_needed::StateNeeded;
use crate::markup::{Document, ElementId};
use crate::page::{Page, Target};
use crate::selector::{
    Matcher, PseudoElement, Selector, SelectorError, SelectorList, Simple, State,
};
use crate::text::PlaceQuery;
use crate::text::nearest;

/// How many elements an error lists.
const MOST_LISTED: usize = 12;

/// What to look for.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum ElementQuery {
    /// A selector list.
    Selector(String),
    /// `"…"`, in quotation marks: the innermost elements with that text in them.
    Text(String),
    /// `file:line` or `file:line:column`.
    Place(PlaceQuery),
    /// `38`: what begins on that line of the page.
    Line(u32),
    /// `@32`: the element of that number, as answers show it.
    Number(u32),
    /// `@32::before`: a pseudo-element of what is named in another way than by a selector, which has it itself.
    PseudoElement {
        /// The element.
        of: Box<ElementQuery>,
        /// Its pseudo-element.
        pseudo: PseudoElement,
    },
}

impl ElementQuery {
    /// How it was read; a pseudo-element as its element was.
    pub fn read_as(&self) -> ReadAs {
        match self {
            ElementQuery::Selector(_) => ReadAs::Selector,
            ElementQuery::Text(_) => ReadAs::Text,
            ElementQuery::Place(_) => ReadAs::Place,
            ElementQuery::Line(_) => ReadAs::Line,
            ElementQuery::Number(_) => ReadAs::Number,
            ElementQuery::PseudoElement { of, .. } => of.read_as(),
        }
    }

    /// Reads what to look for. What is nothing else is a selector.
    pub fn parse(text: &str) -> ElementQuery {
        for mark in ['"', '\''] {
            let inner = text.strip_prefix(mark).and_then(|t| t.strip_suffix(mark));
            if let Some(inner) = inner {
                return ElementQuery::Text(inner.to_owned());
            }
        }
        if let Some(query) = pseudo_element_of(text) {
            return query;
        }
        if let Some(number) = text.strip_prefix('@').and_then(|n| n.parse().ok()) {
            return ElementQuery::Number(number);
        }
        if let Ok(line) = text.parse() {
            return ElementQuery::Line(line);
        }
        if let Ok(place) = text.parse() {
            return ElementQuery::Place(place);
        }
        ElementQuery::Selector(text.to_owned())
    }

    /// What names an element, or a pseudo-element, of a document: `@32`, `@32::before`. It finds that one again as
    /// long as the document is the same.
    pub fn naming(document: &Document, target: &Target) -> ElementQuery {
        let number = ElementQuery::Number(document.element(target.element).index);
        match &target.pseudo {
            None => number,
            Some(pseudo) => ElementQuery::PseudoElement {
                of: Box::new(number),
                pseudo: pseudo.clone(),
            },
        }
    }

    /// What it is in a sentence: `'h2.today'`, `the text "Sailings today"`, `line 38`.
    pub fn in_words(&self) -> String {
        match self {
            ElementQuery::Selector(text) => format!("'{text}'"),
            ElementQuery::Text(_) => format!("the text {self}"),
            ElementQuery::Line(line) => format!("line {line}"),
            ElementQuery::Place(_) | ElementQuery::Number(_) => self.to_string(),
            ElementQuery::PseudoElement { of, pseudo } => format!("{pseudo} of {}", of.in_words()),
        }
    }

    /// What is meant on a page: words that no selector makes of them, but that stand on the page, are a text.
    pub fn on(self, page: &Page) -> ElementQuery {
        let ElementQuery::Selector(words) = &self else {
            return self;
        };
        let is_text = |words: &String| {
            let is_selector = targets(page, &self).is_ok_and(|(found, _)| !found.is_empty());
            !is_selector && !by_text(page, words).is_empty()
        };
        match is_text(words) {
            true => ElementQuery::Text(words.clone()),
            false => self,
        }
    }
}

/// Reads a pseudo-element of something that is not a selector.
fn pseudo_element_of(text: &str) -> Option<ElementQuery> {
    let (of, name) = text.rsplit_once("::")?;
    let of = ElementQuery::parse(of);
    if matches!(of, ElementQuery::Selector(_)) {
        return None;
    }
    let list = SelectorList::parse(&format!("*::{name}")).ok()?;
    let [selector] = &list.selectors[..] else {
        return None;
    };
    Some(ElementQuery::PseudoElement {
        of: Box::new(of),
        pseudo: selector.pseudo_element.clone()?,
    })
}

impl From<&str> for ElementQuery {
    fn from(text: &str) -> Self {
        ElementQuery::parse(text)
    }
}

impl std::str::FromStr for ElementQuery {
    type Err = std::convert::Infallible;

    fn from_str(text: &str) -> Result<Self, Self::Err> {
        Ok(ElementQuery::parse(text))
    }
}

impl Serialize for ElementQuery {
    fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.collect_str(self)
    }
}

impl<'de> serde::Deserialize<'de> for ElementQuery {
    fn deserialize<D: serde::Deserializer<'de>>(deserializer: D) -> Result<ElementQuery, D::Error> {
        Ok(ElementQuery::parse(&String::deserialize(deserializer)?))
    }
}

#[cfg(feature = "schemas")]
impl schemars::JsonSchema for ElementQuery {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        "ElementQuery".into()
    }

    fn json_schema(_: &mut schemars::SchemaGenerator) -> schemars::Schema {
        schemars::json_schema!({
            "type": "string",
            "description": "A selector, a text in quotation marks, a place, a line of the page, or an element's number such as @12"
        })
    }
}

impl std::fmt::Display for ElementQuery {
    /// As [`ElementQuery::parse`] reads it.
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            ElementQuery::Selector(text) => f.write_str(text),
            ElementQuery::Text(text) => write!(f, "\"{text}\""),
            ElementQuery::Place(place) => place.fmt(f),
            ElementQuery::Line(line) => write!(f, "{line}"),
            ElementQuery::Number(number) => write!(f, "@{number}"),
            ElementQuery::PseudoElement { of, pseudo } => write!(f, "{of}{pseudo}"),
        }
    }
}

/// Elements that were found.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct FindAnswer {
    /// The page.
    pub page: String,
    /// How the query was read.
    pub read_as: ReadAs,
    /// The elements in document order.
    pub elements: Vec<Found>,
    /// When there is none: what nearly is.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub nearest: Option<String>,
}

/// How a query for elements was read.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
#[non_exhaustive]
pub enum ReadAs {
    /// A selector list.
    Selector,
    /// A text of the page.
    Text,
    /// A place, `FILE:LINE` or `FILE:LINE:COLUMN`.
    Place,
    /// A line of the page.
    Line,
    /// An element's number, `@32`.
    Number,
}

/// An element that was found.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Found {
    /// The element.
    #[serde(flatten)]
    pub element: ElementSummary,
    /// The beginning of its text.
    pub text: String,
    /// The way from the root element down to it, itself left out.
    pub trail: Vec<ElementSummary>,
}

/// Why a question has no element to be about.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[non_exhaustive]
pub enum FindError {
    /// The selector is none.
    #[error("'{selector}' is not a valid selector: column {column}: {message}")]
    Selector {
        /// As given.
        selector: String,
        /// Where in it, from 1.
        column: usize,
        /// What is wrong.
        message: String,
    },
    /// The place is in another file than the page.
    #[error("{file} is not the page in question, {page}; expected an element of that page")]
    OtherFile {
        /// The file given.
        file: String,
        /// The page.
        page: String,
    },
    /// The page has no such line, or nothing stands there.
    #[error("{page} has {lines} lines; line {line} is not one of them")]
    NoSuchLine {
        /// The page.
        page: String,
        /// How many lines it has.
        lines: u32,
        /// The line given.
        line: u32,
    },
    /// Nothing matches.
    #[error("no element of {page} matches {what}.{}", .nearest.as_ref().map(|n| format!(" {n}")).unwrap_or_default())]
    NotFound {
        /// What was looked for.
        what: String,
        /// The page.
        page: String,
        /// What nearly matches.
        nearest: Option<String>,
        /// What it is without the state that it is not in, and that state.
        state: Option<Box<(String, StateNeeded)>>,
    },
    /// Several elements match where one is needed.
    #[error("{}", several(.what, .page, .elements, *.more))]
    Several {
        /// What was looked for.
        what: String,
        /// The page.
        page: String,
        /// The first of them.
        elements: Vec<ElementSummary>,
        /// How many there are besides.
        more: usize,
    },
}

impl FindError {
    /// The kind of error, in a word that stays the same.
    pub fn code(&self) -> &'static str {
        match self {
            FindError::Selector { .. } => "invalid-selector",
            FindError::OtherFile { .. } => "other-file",
            FindError::NoSuchLine { .. } => "no-such-line",
            FindError::NotFound { .. } => "not-found",
            FindError::Several { .. } => "several-elements",
        }
    }
}

fn several(what: &str, page: &str, elements: &[ElementSummary], more: usize) -> String {
    let count = elements.len() + more;
    let mut text = format!("{what} matches {count} elements of {page}; say which:");
    for element in elements {
        text.push_str(&format!(
            "\n  {}:{}  {}  (or @{})",
            element.place,
            element.place.column,
            element.label(),
            element.index
        ));
    }
    if more > 0 {
        text.push_str(&format!("\n  and {more} more"));
    }
    if let Some(first) = elements.first() {
        text.push_str(&format!(
            "\nA place names one: {}:{}",
            first.place, first.place.column
        ));
    }
    text
}

/// The elements that `what` names, in document order.
///
/// # Errors
/// Where the selector is none, or the place is not one of the page. Finding nothing is an answer.
pub(crate) fn find(page: &Page, what: &ElementQuery) -> Result<FindAnswer, FindError> {
    let (targets, nearest) = targets(page, what)?;
    let document = page.document();
    let elements = distinct(targets)
        .into_iter()
        .map(|id| {
            let mut trail = document.trail(id);
            trail.pop();
            Found {
                element: ElementSummary::new(page, id),
                text: document.folded_text(id, 60),
                trail: trail
                    .into_iter()
                    .map(|a| ElementSummary::new(page, a))
                    .collect(),
            }
        })
        .collect();
    Ok(FindAnswer {
        page: document.text().name().to_owned(),
        read_as: what.read_as(),
        elements,
        nearest: nearest.map(|near| near.sentence),
    })
}

/// The elements that `what` names, in document order, without saying more of them.
///
/// # Errors
/// Where the selector is none, or the place is not one of the page.
pub(crate) fn elements(page: &Page, what: &ElementQuery) -> Result<Vec<ElementId>, FindError> {
    Ok(distinct(targets(page, what)?.0))
}

/// The elements in the contents of templates that a selector or a place names. They are no part of
/// the page's tree, so that they have no styles; but their markup is there.
pub(crate) fn in_templates(page: &Page, what: &ElementQuery) -> Vec<ElementId> {
    let document = page.document();
    let all = document.template_elements();
    match what {
        ElementQuery::Selector(text) => {
            let Ok(list) = SelectorList::parse(text) else {
                return Vec::new();
            };
            let matcher = Matcher::new(document, page.states());
            let all = all.into_iter();
            all.filter(|id| matcher.matches_list(&list, *id)).collect()
        }
        ElementQuery::Text(wanted) => {
            let has = |id: &ElementId| {
                document
                    .folded_text(*id, usize::MAX)
                    .contains(wanted.as_str())
            };
            let inner = |id: &ElementId| !document.child_elements(*id).any(|child| has(&child));
            all.into_iter().filter(|id| has(id) && inner(id)).collect()
        }
        ElementQuery::Place(given) if given.file == document.text().name() => all
            .into_iter()
            .filter(|id| {
                let start = document.element(*id).start_tag.start();
                let place = document.text().place(start);
                place.line == given.line && given.column.is_none_or(|c| c == place.column)
            })
            .collect(),
        ElementQuery::Line(line) => {
            let place = PlaceQuery {
                file: document.text().name().to_owned(),
                line: *line,
                column: None,
            };
            in_templates(page, &ElementQuery::Place(place))
        }
        ElementQuery::Place(_) | ElementQuery::Number(_) | ElementQuery::PseudoElement { .. } => {
            Vec::new()
        }
    }
}

fn distinct(targets: Vec<Target>) -> Vec<ElementId> {
    let mut elements: Vec<ElementId> = targets.into_iter().map(|t| t.element).collect();
    elements.dedup();
    elements
}

/// The one element, or pseudo-element, that `what` names.
///
/// # Errors
/// Where it names none (with the nearest that it nearly names) or several (with their places).
pub(crate) fn find_one(page: &Page, what: &ElementQuery) -> Result<Target, FindError> {
    let (mut found, near) = targets(page, what)?;
    let shown = what.in_words();
    let name = page.document().text().name().to_owned();
    match found.len() {
        0 => Err(FindError::NotFound {
            what: shown,
            page: name,
            nearest: near.as_ref().map(|near| near.sentence.clone()),
            state: near.and_then(|near| near.state).map(Box::new),
        }),
        1 => Ok(found.remove(0)),
        count => Err(FindError::Several {
            what: shown,
            page: name,
            elements: found
                .iter()
                .take(MOST_LISTED)
                .map(|t| ElementSummary::of_target(page, t))
                .collect(),
            more: count.saturating_sub(MOST_LISTED),
        }),
    }
}

fn targets(page: &Page, what: &ElementQuery) -> Result<(Vec<Target>, Option<Near>), FindError> {
    let document = page.document();
    Ok(match what {
        ElementQuery::Selector(text) => {
            let list = SelectorList::parse(text).map_err(|e| selector_error(text, &e))?;
            let found = by_selector(page, &list);
            let nearest = if found.is_empty() {
                not_yet(&list)
                    .map(Near::saying)
                    .or_else(|| nearest_selector(page, text, &list))
            } else {
                None
            };
            (found, nearest)
        }
        ElementQuery::Text(wanted) => {
            let found = by_text(page, wanted);
            let nearest = if found.is_empty() {
                nearest_text(page, wanted).map(Near::saying)
            } else {
                None
            };
            (found, nearest)
        }
        ElementQuery::Place(place) => (by_place(page, place)?, None),
        ElementQuery::Line(line) => {
            let place = PlaceQuery {
                file: document.text().name().to_owned(),
                line: *line,
                column: None,
            };
            (by_place(page, &place)?, None)
        }
        ElementQuery::PseudoElement { of, pseudo } => {
            let (mut found, nearest) = targets(page, of)?;
            for target in &mut found {
                target.pseudo = Some(pseudo.clone());
            }
            (found, nearest)
        }
        ElementQuery::Number(number) => {
            let found = document.elements().get(*number as usize);
            let count = document.elements().len();
            (
                found.map(|id| Target::from(*id)).into_iter().collect(),
                Some(Near::saying(format!(
                    "The page has elements 0 to {}.",
                    count - 1
                ))),
            )
        }
    })
}

/// What an empty answer is worth when part of the selector is not matched yet.
fn not_yet(list: &SelectorList) -> Option<String> {
    let parts: Vec<&str> = list.selectors.iter().flat_map(Selector::not_yet).collect();
    let kept = parts
        .iter()
        .any(|part| part.starts_with(':') || part.contains('|'));
    kept.then(|| {
        let parts = parts.join(", ");
        format!("{parts} is not matched yet, so this says nothing of it.")
    })
}

fn selector_error(selector: &str, error: &SelectorError) -> FindError {
    let before = selector.get(..error.span.start().into()).unwrap_or("");
    FindError::Selector {
        selector: selector.to_owned(),
        column: before.chars().count() + 1,
        message: error.message.clone(),
    }
}

fn by_selector(page: &Page, list: &SelectorList) -> Vec<Target> {
    let document = page.document();
    let matcher = Matcher::new(document, page.states());
    let mut found = Vec::new();
    for element in document.elements() {
        for selector in &list.selectors {
            let target = Target {
                element: *element,
                pseudo: selector.pseudo_element.clone(),
            };
            let mut same = found
                .iter()
                .rev()
                .take_while(|t: &&Target| t.element == *element);
            if !same.any(|t| *t == target) && matcher.matches(selector, *element) {
                found.push(target);
            }
        }
    }
    found
}

fn by_text(page: &Page, wanted: &str) -> Vec<Target> {
    let document = page.document();
    let wanted = super::describe::fold(wanted);
    if wanted.is_empty() {
        return Vec::new();
    }
    let texts = Texts::of(document);
    let holds: Vec<ElementId> = texts.holding(document, &wanted);
    let innermost = holds.iter().copied().filter(|id| {
        !document.child_elements(*id).any(|child| {
            holds
                .binary_search_by_key(&document.element(child).index, |h| {
                    document.element(*h).index
                })
                .is_ok()
        })
    });
    innermost.map(Target::from).collect()
}

/// The page's text as a whole, white space folded, and the part of it that each element holds.
struct Texts {
    all: String,
    /// By the elements' places in the document.
    parts: Vec<Range<usize>>,
}

impl Texts {
    fn of(document: &Document) -> Texts {
        let mut all = String::new();
        let mut gap = false;
        let mut parts = vec![0..0; document.elements().len()];
        let mut open: Vec<ElementId> = Vec::new();
        let mut close = |open: &mut Vec<ElementId>, end: usize, parent: Option<ElementId>| {
            while open.last().copied() != parent
                && let Some(id) = open.pop()
            {
                parts[document.element(id).index as usize].end = end;
            }
        };
        let mut starts = vec![0; document.elements().len()];
        for node in document.descendants(document.root()) {
            let parent = document.parent_element(node);
            close(&mut open, all.len(), parent);
            let hidden = |id: &ElementId| {
                let element = document.element(*id);
                element.is_html("style") || element.is_html("script")
            };
            if let Some(id) = document.as_element(node) {
                starts[document.element(id).index as usize] = all.len();
                open.push(id);
            } else if let Some(text) = document.text_of(node)
                && !open.last().is_some_and(hidden)
            {
                for character in text.chars() {
                    if character.is_ascii_whitespace() {
                        gap = !all.is_empty();
                        continue;
                    }
                    if std::mem::take(&mut gap) {
                        all.push(' ');
                    }
                    all.push(character);
                }
            }
        }
        close(&mut open, all.len(), None);
        for (part, start) in parts.iter_mut().zip(starts) {
            part.start = start;
        }
        Texts { all, parts }
    }

    /// The elements that hold a text, in document order.
    fn holding(&self, document: &Document, wanted: &str) -> Vec<ElementId> {
        let mut found = Vec::new();
        let mut at = 0;
        while let Some(next) = self.all[at..].find(wanted) {
            found.push(at + next);
            let first = self.all[at + next..].chars().next();
            at += next + first.map_or(1, char::len_utf8);
        }
        let elements = document.elements().iter().copied();
        elements
            .filter(|id| {
                let element = document.element(*id);
                let part = &self.parts[element.index as usize];
                let first = found.partition_point(|start| *start < part.start);
                let inside = found
                    .get(first)
                    .is_some_and(|start| start + wanted.len() <= part.end);
                inside && !element.is_html("style") && !element.is_html("script")
            })
            .collect()
    }
}

fn nearest_text(page: &Page, wanted: &str) -> Option<String> {
    let document = page.document();
    let folded = super::describe::fold(wanted).to_lowercase();
    let words: Vec<&str> = folded.split(' ').filter(|w| w.len() > 2).collect();
    let best = document
        .elements()
        .iter()
        .filter(|id| {
            let own = document
                .children(**id)
                .any(|c| document.text_of(c).is_some_and(|t| !t.trim().is_empty()));
            let element = document.element(**id);
            own && !element.is_html("style") && !element.is_html("script")
        })
        .map(|id| {
            let text = document.folded_text(*id, 200).to_lowercase();
            let shared = words.iter().filter(|w| text.contains(**w)).count();
            (shared, *id)
        })
        .filter(|(shared, _)| *shared > 0)
        .max_by_key(|(shared, id)| (*shared, std::cmp::Reverse(*id)))?;
    let summary = ElementSummary::new(page, best.1);
    Some(format!(
        "Nearest: {} at {} says '{}'.",
        summary.label(),
        summary.place,
        document.folded_text(best.1, 60)
    ))
}

fn by_place(page: &Page, place: &PlaceQuery) -> Result<Vec<Target>, FindError> {
    let PlaceQuery { file, line, column } = place;
    let (line, column) = (*line, *column);
    let document = page.document();
    let text = document.text();
    let same = text.name() == *file
        || file.ends_with(&format!("/{}", text.name()))
        || text.name().ends_with(&format!("/{file}"));
    if !same {
        return Err(FindError::OtherFile {
            file: file.to_owned(),
            page: text.name().to_owned(),
        });
    }
    let Some(span) = text.line_span(line) else {
        return Err(FindError::NoSuchLine {
            page: text.name().to_owned(),
            lines: text.source().lines().count() as u32,
            line,
        });
    };
    if let Some(column) = column {
        let offset = text.offset(line, column).unwrap_or(span.end());
        return Ok(document
            .element_at(offset)
            .into_iter()
            .map(Target::from)
            .collect());
    }
    // The elements that begin on the line; else the innermost one that the line is in.
    let begin: Vec<Target> = document
        .elements()
        .iter()
        .filter(|id| {
            let element = document.element(**id);
            element.written == crate::markup::Written::Tag
                && span.contains_inclusive(element.start_tag.start())
        })
        .map(|id| Target::from(*id))
        .collect();
    if !begin.is_empty() {
        return Ok(begin);
    }
    let blank = text.slice(span).len() - text.slice(span).trim_start().len();
    let first = span.start() + crate::text::TextSize::new(blank as u32);
    Ok(document
        .element_at(first)
        .into_iter()
        .map(Target::from)
        .collect())
}

/// What nearly matches.
#[derive(Default)]
struct Near {
    sentence: String,
    /// The selector without the state that its element is not in, and that state.
    state: Option<(String, StateNeeded)>,
}

impl Near {
    fn saying(sentence: String) -> Near {
        Near {
            sentence,
            state: None,
        }
    }
}

/// What nearly matches: the selector with one part left out, and the name that part may mean.
fn nearest_selector(page: &Page, text: &str, list: &SelectorList) -> Option<Near> {
    let matcher = Matcher::new(page.document(), page.states());
    let mut best: Option<(usize, Near)> = None;
    for selector in &list.selectors {
        for (at, (_, compound)) in selector.compounds.iter().enumerate() {
            for (part, (simple, span)) in compound.simples.iter().enumerate() {
                let mut looser = selector.clone();
                looser.compounds[at].1.simples.remove(part);
                // What is left of a single name matches everything, which is near nothing.
                let says_nothing = looser.compounds.iter().all(|(_, c)| c.simples.is_empty());
                let count = count(page, &matcher, &looser);
                if count == 0 || says_nothing && meant(page, simple).is_none() {
                    continue;
                }
                let written = &text[*span];
                let subject = at + 1 == selector.compounds.len();
                let mut state = None;
                let meant = match meant(page, simple) {
                    Some(name) => format!(" Do you mean '{name}'?"),
                    None if subject && State::named(written).is_some() => {
                        let (start, end) = (span.start().into(), span.end().into());
                        // Where several match without it, the first is asked about.
                        let bare = match count {
                            1 => format!("{}{}", &text[..start], &text[end..]),
                            _ => first_index(page, &matcher, &looser),
                        };
                        let needed = StateNeeded {
                            of: None,
                            state: written.to_owned(),
                        };
                        state = Some((bare, needed));
                        String::new()
                    }
                    None => String::new(),
                };
                let first = first(page, &matcher, &looser);
                let elements = if count == 1 { "element" } else { "elements" };
                let sentence = format!(
                    "Nearest: without '{written}' it matches {count} {elements}, first {first}.{meant}"
                );
                let better = best.as_ref().is_none_or(|(c, _)| count < *c);
                if better {
                    best = Some((count, Near { sentence, state }));
                }
            }
        }
    }
    best.map(|(_, near)| near)
}

fn count(page: &Page, matcher: &Matcher<'_>, selector: &Selector) -> usize {
    let elements = page.document().elements();
    elements
        .iter()
        .filter(|e| matcher.matches(selector, **e))
        .count()
}

/// The number of the first element that a selector matches, as a query.
fn first_index(page: &Page, matcher: &Matcher<'_>, selector: &Selector) -> String {
    let document = page.document();
    let found = document
        .elements()
        .iter()
        .find(|e| matcher.matches(selector, **e));
    found.map_or_else(String::new, |id| {
        format!("@{}", document.element(*id).index)
    })
}

fn first(page: &Page, matcher: &Matcher<'_>, selector: &Selector) -> String {
    let elements = page.document().elements();
    let found = elements.iter().find(|e| matcher.matches(selector, **e));
    found.map_or_else(String::new, |id| {
        let summary = ElementSummary::new(page, *id);
        format!("{} at {}", summary.label(), summary.place)
    })
}

/// The name on the page that a part of a selector may have meant.
fn meant(page: &Page, simple: &Simple) -> Option<String> {
    let document = page.document();
    let elements = || document.elements().iter().map(|e| document.element(*e));
    match simple {
        Simple::Class(name) => nearest(name, elements().flat_map(crate::markup::Element::classes))
            .map(|n| format!(".{n}")),
        Simple::Id(name) => {
            nearest(name, elements().filter_map(|e| e.id())).map(|n| format!("#{n}"))
        }
        Simple::Type { lower, .. } => {
            nearest(lower, elements().map(|e| &*e.name)).map(str::to_owned)
        }
        _ => None,
    }
}
