//! What is nearly what was looked for, where nothing is found.

use super::ElementSummary;
use super::state_needed::StateNeeded;
use crate::page::Page;
use crate::selector::{Matcher, Selector, SelectorList, Simple, State};
use crate::text::nearest;

/// What nearly matches.
#[derive(Default)]
pub(super) struct Near {
    pub sentence: String,
    /// The selector without the state that its element is not in, and that state.
    pub state: Option<(String, StateNeeded)>,
}

impl Near {
    pub fn saying(sentence: String) -> Near {
        Near {
            sentence,
            state: None,
        }
    }
}

pub(super) fn nearest_text(page: &Page, wanted: &str) -> Option<String> {
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

/// What nearly matches: the selector with one part left out, and the name that part may mean.
pub(super) fn nearest_selector(page: &Page, text: &str, list: &SelectorList) -> Option<Near> {
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
