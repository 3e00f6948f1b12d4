//! Elements by selector, by text and by place.

use super::element_query::ElementQuery;
use super::find_error::FindError;
use crate::markup::{Document, ElementId};
use crate::page::{Page, Target};
use crate::selector::{Matcher, SelectorList};
use crate::text::PlaceQuery;
use std::ops::Range;

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

pub(super) fn by_selector(page: &Page, list: &SelectorList) -> Vec<Target> {
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

pub(super) fn by_text(page: &Page, wanted: &str) -> Vec<Target> {
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
pub(super) struct Texts {
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

pub(super) fn by_place(page: &Page, place: &PlaceQuery) -> Result<Vec<Target>, FindError> {
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
