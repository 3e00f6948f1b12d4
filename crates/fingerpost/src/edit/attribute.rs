//! `attribute` and `class`: an attribute set, changed or taken out, of one element or of many.

use super::{EditError, Made};
use crate::markup::{Document, Element, NodeId, Written};
use crate::page::Page;
use crate::question::ElementSummary;
use crate::text::{Patch, Replacement, TextRange, TextSize};

/// Sets an attribute of an element, or takes it off where `value` is none.
pub(super) fn attribute(
    page: &Page,
    element: NodeId,
    name: &str,
    value: Option<&str>,
) -> Result<Made, EditError> {
    let bad =
        |c: char| c.is_whitespace() || c.is_control() || matches!(c, '"' | '\'' | '>' | '/' | '=');
    if name.is_empty() || name.contains(bad) {
        return Err(EditError::NoName {
            what: "an attribute",
            name: name.to_owned(),
        });
    }
    edit(
        page,
        element,
        &name.to_ascii_lowercase(),
        value.map(str::to_owned),
    )
}

/// Adds classes to an element and takes some off: each of `changes` is `+name` or `-name`.
pub(super) fn class(page: &Page, id: NodeId, changes: &[String]) -> Result<Made, EditError> {
    let mut parsed: Vec<(bool, &str)> = Vec::new();
    for change in changes {
        let (adds, name) = match change.split_at_checked(1) {
            Some(("+", name)) => (true, name),
            Some(("-", name)) => (false, name),
            _ => (true, change.as_str()),
        };
        let name = name.trim_start_matches('.');
        if name.is_empty() || name.contains(char::is_whitespace) {
            return Err(EditError::NoClass {
                class: change.clone(),
            });
        }
        parsed.push((adds, name));
    }
    let element = page.document().expect_element(id);
    let mut classes: Vec<&str> = element.classes().collect();
    for (adds, name) in &parsed {
        classes.retain(|class| *adds || class != name);
        if *adds && !classes.contains(name) {
            classes.push(name);
        }
    }
    let value = if classes.iter().copied().eq(element.classes()) {
        element.attribute("class").map(str::to_owned)
    } else {
        (!classes.is_empty()).then(|| classes.join(" "))
    };
    edit(page, id, "class", value)
}

/// The error of an element that has no tag of its own.
pub(super) fn needs_tag(page: &Page, id: NodeId) -> Result<&Element, EditError> {
    let element = page.document().expect_element(id);
    if element.written == Written::Tag {
        return Ok(element);
    }
    let summary = ElementSummary::new(page, id);
    Err(EditError::NoTag {
        element: summary.label(),
        place: summary.place.to_string(),
    })
}

fn edit(page: &Page, id: NodeId, name: &str, wanted: Option<String>) -> Result<Made, EditError> {
    let element = needs_tag(page, id)?;
    let document = page.document();
    let was = element.attribute(name).map(str::to_owned);
    let change = change(document, element, name, wanted).ok_or_else(|| EditError::Nothing {
        why: match &was {
            Some(value) => format!("{name} is '{value}' already"),
            None => format!("it has no {name}"),
        },
    })?;
    let patch = Patch::single(change.range, change.with);
    Ok(Made {
        was,
        ..Made::of(document.text().name(), patch)
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
