//! `attribute` and `class`: an attribute set, changed or taken out, of one element or of many.

use thiserror::Error;

use super::{Edit, Intent};
use crate::markup::{Document, Element, NodeId, Written};
use crate::page::Page;
use crate::question::ElementSummary;
use crate::text::{Patch, Replacement, TextRange, TextSize};

/// Why an attribute can't be changed.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum AttributeError {
    /// The element has no tag of its own.
    #[error("{element} has no tag of its own in the source ({place}); the parser put it there")]
    NoTag {
        /// The element.
        element: String,
        /// Where the parser put it.
        place: String,
    },
    /// The name is none.
    #[error("'{name}' is no name of an attribute")]
    NoName {
        /// As given.
        name: String,
    },
    /// A class is none.
    #[error("'{class}' is no class; write +name to add one and -name to take one out")]
    NoClass {
        /// As given.
        class: String,
    },
    /// Nothing would change.
    #[error("nothing would change: {why}")]
    Same {
        /// Why.
        why: String,
    },
}

/// Sets an attribute of some elements, or takes it out where `value` is none.
///
/// # Errors
/// Where an element has no tag in the source, the name is none, or nothing would change.
pub fn attribute(
    page: &Page,
    elements: &[NodeId],
    name: &str,
    value: Option<&str>,
) -> Result<Edit, AttributeError> {
    let bad =
        |c: char| c.is_whitespace() || c.is_control() || matches!(c, '"' | '\'' | '>' | '/' | '=');
    if name.is_empty() || name.contains(bad) {
        return Err(AttributeError::NoName {
            name: name.to_owned(),
        });
    }
    let intent = Intent::Attribute {
        page: page.document().text().name().to_owned(),
        elements: labels(page, elements),
        name: name.to_owned(),
        value: value.map(str::to_owned),
    };
    let lower = name.to_ascii_lowercase();
    edit(page, elements, intent, &lower, |_| value.map(str::to_owned))
}

/// Adds and takes out classes of some elements: each of `changes` is `+name` or `-name`.
///
/// # Errors
/// Where an element has no tag in the source, a change is none, or nothing would change.
pub fn class(page: &Page, elements: &[NodeId], changes: &[String]) -> Result<Edit, AttributeError> {
    let mut parsed: Vec<(bool, &str)> = Vec::new();
    for change in changes {
        let (adds, name) = match change.split_at_checked(1) {
            Some(("+", name)) => (true, name),
            Some(("-", name)) => (false, name),
            _ => (true, change.as_str()),
        };
        let name = name.trim_start_matches('.');
        if name.is_empty() || name.contains(char::is_whitespace) {
            return Err(AttributeError::NoClass {
                class: change.clone(),
            });
        }
        parsed.push((adds, name));
    }
    let intent = Intent::Class {
        page: page.document().text().name().to_owned(),
        elements: labels(page, elements),
        changes: changes.to_vec(),
    };
    edit(page, elements, intent, "class", |element| {
        let mut classes: Vec<&str> = element.classes().collect();
        for (adds, name) in &parsed {
            classes.retain(|class| *adds || class != name);
            if *adds && !classes.contains(name) {
                classes.push(name);
            }
        }
        let same = classes.iter().copied().eq(element.classes());
        if same {
            return element.attribute("class").map(str::to_owned);
        }
        (!classes.is_empty()).then(|| classes.join(" "))
    })
}

fn labels(page: &Page, elements: &[NodeId]) -> Vec<String> {
    elements
        .iter()
        .map(|id| ElementSummary::new(page, *id).label())
        .collect()
}

fn edit(
    page: &Page,
    elements: &[NodeId],
    intent: Intent,
    name: &str,
    wanted: impl Fn(&Element) -> Option<String>,
) -> Result<Edit, AttributeError> {
    let document = page.document();
    let mut replacements = Vec::new();
    for id in elements {
        let element = document.expect_element(*id);
        if element.written != Written::Tag {
            let summary = ElementSummary::new(page, *id);
            return Err(AttributeError::NoTag {
                element: summary.label(),
                place: summary.place.to_string(),
            });
        }
        replacements.extend(change(document, element, name, wanted(element)));
    }
    if replacements.is_empty() {
        return Err(AttributeError::Same {
            why: format!("{name} is so already"),
        });
    }
    Ok(Edit {
        intent,
        file: document.text().name().to_owned(),
        patch: Patch::new(replacements).expect("tags don't overlap"),
    })
}

/// The change of one tag, if any.
fn change(
    document: &Document,
    element: &Element,
    name: &str,
    wanted: Option<String>,
) -> Option<Replacement> {
    let source = document.text().source();
    let present = element.attribute_node(name);
    match (present, wanted) {
        (None, None) => None,
        (Some(attribute), Some(value)) if *attribute.value == *value => None,
        (Some(attribute), Some(value))
            if attribute.value_span.is_empty()
                && attribute.value_span.start() == attribute.name_span.end() =>
        {
            // A name alone gets a value.
            Some(Replacement {
                range: TextRange::empty(attribute.name_span.end()),
                with: format!("=\"{}\"", escaped(&value, '"')),
            })
        }
        (Some(attribute), Some(value)) => {
            let before = usize::from(attribute.value_span.start()).checked_sub(1);
            let quote = before.and_then(|at| source[at..].chars().next());
            Some(match quote {
                Some(quote @ ('"' | '\'')) => Replacement {
                    range: attribute.value_span,
                    with: escaped(&value, quote),
                },
                _ => Replacement {
                    range: attribute.value_span,
                    with: format!("\"{}\"", escaped(&value, '"')),
                },
            })
        }
        (Some(attribute), None) => {
            let end = attribute.value_span.end().max(attribute.name_span.end());
            let closes = source[usize::from(end)..].starts_with(['"', '\''])
                && source[..usize::from(attribute.value_span.start())].ends_with(['"', '\'']);
            let end = if closes { end + TextSize::of('"') } else { end };
            let start = usize::from(attribute.name_span.start());
            let gap = source[..start].len() - source[..start].trim_end().len();
            Some(Replacement {
                range: TextRange::new(((start - gap) as u32).into(), end),
                with: String::new(),
            })
        }
        (None, Some(value)) => {
            // Behind the attributes there are, in the quotes that they have.
            let last = element.attributes.last();
            let quote = last
                .and_then(|a| {
                    source[..usize::from(a.value_span.start())]
                        .chars()
                        .next_back()
                })
                .filter(|c| matches!(c, '"' | '\''))
                .unwrap_or('"');
            let at = match last {
                Some(attribute) => {
                    let end = attribute.value_span.end().max(attribute.name_span.end());
                    let quoted = source[usize::from(end)..].starts_with(quote)
                        && attribute.value_span.start() > attribute.name_span.end();
                    if quoted {
                        end + TextSize::of(quote)
                    } else {
                        end
                    }
                }
                None => {
                    let tag = &source[element.start_tag];
                    let name = tag[1..].find(|c: char| c.is_whitespace() || matches!(c, '/' | '>'));
                    let length = name.map_or(tag.len(), |at| at + 1) as u32;
                    element.start_tag.start() + TextSize::from(length)
                }
            };
            Some(Replacement {
                range: TextRange::empty(at),
                with: format!(" {name}={quote}{}{quote}", escaped(&value, quote)),
            })
        }
    }
}

/// HTML § 13.1.2.3: what a quoted value can't hold as it is.
fn escaped(value: &str, quote: char) -> String {
    let value = value.replace('&', "&amp;");
    match quote {
        '\'' => value.replace('\'', "&#39;"),
        _ => value.replace('"', "&quot;"),
    }
}
