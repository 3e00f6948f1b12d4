//! `find`: elements by selector, by text, by place in the source, or by number.
//!
//! ```
//! use fingerpost::prelude::*;
//!
//! let page = Page::new(Text::new("a.html", "<h2>Sailings</h2>\n<h2>Boats</h2>"));
//! let ask = page.ask();
//! assert_eq!(ask.find("h2")?.elements.len(), 2);
//! let by_text = ask.find_one("'Boats'")?;
//! let by_place = ask.find_one("a.html:2")?;
//! assert_eq!(by_text, by_place);
//! let error = ask.find_one("h3").unwrap_err();
//! assert!(error.to_string().starts_with("no element of a.html matches 'h3'."));
//! # Ok::<(), fingerpost::question::find::FindError>(())
//! ```

use serde::{Deserialize, Serialize};

use super::ElementSummary;
pub use super::element_query::{ElementQuery, ReadAs};
pub use super::find_error::FindError;
use super::find_error::MOST_LISTED;
use super::near_miss::{Near, nearest_selector, nearest_text};
pub(crate) use super::search::in_templates;
use super::search::{by_place, by_selector, by_text};
use crate::markup::ElementId;
use crate::page::{Page, Target};
use crate::selector::{Selector, SelectorError, SelectorList};
use crate::text::PlaceQuery;

/// Elements that were found.
#[derive(Debug, Deserialize, Serialize)]
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
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub nearest: Option<String>,
}

/// An element that was found.
#[derive(Debug, Deserialize, Serialize)]
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

impl ElementQuery {
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
