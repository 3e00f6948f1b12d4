//! Changes of an element as a whole: its text, its name, its source; another beside it; another
//! place; none.

use super::attribute::needs_tag;
use super::habits::with_own_lines;
use super::intent::Side;
use super::stand::{Stand, is_void};
use super::{EditError, Made};
use crate::markup::{NodeId, NodeKind};
use crate::page::Page;
use crate::question::ElementSummary;
use crate::text::{Patch, Replacement, TextRange, TextSize};

fn of_page(page: &Page, range: TextRange, with: impl Into<String>) -> Made {
    Made::of(page.document().text().name(), Patch::single(range, with))
}

fn not_there(page: &Page, id: NodeId, why: impl Into<String>) -> EditError {
    EditError::NotThere {
        place: ElementSummary::new(page, id).place.to_string(),
        why: why.into(),
    }
}

/// Another text for an element. Where it holds elements too, `from` says which of its texts.
pub(super) fn text(
    page: &Page,
    id: NodeId,
    wanted: &str,
    from: Option<&str>,
) -> Result<Made, EditError> {
    let document = page.document();
    let element = needs_tag(page, id)?;
    let source = document.text().source();
    let raw = [
        "script", "style", "iframe", "noembed", "noframes", "noscript", "xmp",
    ];
    let is_raw = raw.iter().any(|name| element.is_html(name));
    if is_raw
        && wanted
            .to_ascii_lowercase()
            .contains(&format!("</{}", element.name))
    {
        return Err(not_there(page, id, "the text would end the element early"));
    }
    let with = if is_raw {
        wanted.to_owned()
    } else {
        escaped(wanted)
    };
    let texts: Vec<NodeId> = document
        .children(id)
        .filter(|node| {
            document
                .text_of(*node)
                .is_some_and(|t| !t.trim().is_empty())
        })
        .collect();
    let chosen = match (from, &texts[..]) {
        (Some(from), _) => {
            let folded = |text: &str| text.split_whitespace().collect::<Vec<_>>().join(" ");
            let wanted = folded(from);
            let mut all = document
                .descendants(id)
                .filter(|node| document.text_of(*node).is_some_and(|t| folded(t) == wanted));
            let one = all.next();
            match (one, all.next()) {
                (Some(one), None) => one,
                (None, _) => {
                    return Err(EditError::Nothing {
                        why: format!("the element holds no text '{from}'"),
                    });
                }
                (Some(_), Some(_)) => {
                    return Err(not_there(
                        page,
                        id,
                        format!("'{from}' stands in it more than once; name the inner element"),
                    ));
                }
            }
        }
        (None, [only]) if document.child_elements(id).next().is_none() => *only,
        (None, []) if document.child_elements(id).next().is_none() => {
            let inner = Stand::of(page, id)?.inner;
            if is_void(&element.name) {
                return Err(not_there(page, id, "the element can't hold anything"));
            }
            return Ok(of_page(page, inner, with));
        }
        _ => {
            return Err(not_there(
                page,
                id,
                "the element holds other elements; say which of its texts is to change (--from)",
            ));
        }
    };
    let NodeKind::Text(content) = &document.node(chosen).kind else {
        return Err(not_there(page, id, "there is no text"));
    };
    let span = content.span().ok_or_else(|| {
        not_there(
            page,
            id,
            "its text stands in several places of the source; replace its markup instead",
        )
    })?;
    let written = &source[span];
    if !is_raw && written.contains('<') {
        return Err(not_there(
            page,
            id,
            "its text stands in several places of the source; replace its markup instead",
        ));
    }
    let blank = written.len() - written.trim_start().len();
    let range = TextRange::at(
        span.start() + TextSize::new(blank as u32),
        TextSize::of(written.trim()),
    );
    if source[range] == with {
        return Err(EditError::Nothing {
            why: format!("the text is '{wanted}' already"),
        });
    }
    let was = document.text_of(chosen).unwrap_or("").split_whitespace();
    Ok(Made {
        was: Some(was.collect::<Vec<_>>().join(" ")),
        ..of_page(page, range, with)
    })
}

/// HTML § 13.1.2.4 and § 13.1.4: what text can't hold as it is.
fn escaped(text: &str) -> String {
    text.replace('&', "&amp;")
        .replace('<', "&lt;")
        .replace('>', "&gt;")
}

/// Another name for an element, in both its tags.
pub(super) fn tag(page: &Page, id: NodeId, name: &str) -> Result<Made, EditError> {
    let element = needs_tag(page, id)?;
    let letter = |c: char| c.is_ascii_alphabetic();
    let other = |c: char| c.is_whitespace() || matches!(c, '/' | '>' | '<' | '"' | '\'' | '=');
    if !name.starts_with(letter) || name.contains(other) {
        return Err(EditError::NoName {
            what: "an element",
            name: name.to_owned(),
        });
    }
    let was = element.name.to_string();
    if was.eq_ignore_ascii_case(name) {
        return Err(EditError::Nothing {
            why: format!("the element is a {was} already"),
        });
    }
    let stand = Stand::of(page, id)?;
    let (old, new) = (is_void(&was), is_void(&name.to_ascii_lowercase()));
    if new && !old && !stand.source[stand.inner].trim().is_empty() {
        return Err(not_there(
            page,
            id,
            format!("a {name} can't hold anything, and this {was} does"),
        ));
    }
    let tag_name = TextRange::at(
        element.start_tag.start() + TextSize::of('<'),
        TextSize::of(was.as_str()),
    );
    let mut replacements = vec![Replacement {
        range: tag_name,
        with: name.to_owned(),
    }];
    match element.end_tag {
        Some(_) if new => replacements.push(Replacement {
            range: TextRange::new(element.start_tag.end(), stand.outer.end()),
            with: String::new(),
        }),
        Some(end) => replacements.push(Replacement {
            range: TextRange::at(end.start() + TextSize::of("</"), TextSize::of(was.as_str())),
            with: name.to_owned(),
        }),
        // An end tag that the old name could do without, the new one may need.
        None if !new => {
            let held = stand.source[stand.outer].trim_end();
            replacements.push(Replacement {
                range: TextRange::empty(stand.outer.start() + TextSize::of(held)),
                with: format!("</{name}>"),
            });
        }
        None => {}
    }
    let patch = Patch::new(replacements).expect("tags don't overlap");
    Ok(Made {
        was: Some(was),
        ..Made::of(page.document().text().name(), patch)
    })
}

/// Another source for an element, or only for what it holds.
pub(super) fn markup(
    page: &Page,
    id: NodeId,
    source: &str,
    inner: bool,
) -> Result<Made, EditError> {
    let stand = Stand::whole(page, id)?;
    let range = if inner { stand.inner } else { stand.outer };
    if inner && is_void(&page.document().expect_element(id).name) {
        return Err(not_there(page, id, "the element can't hold anything"));
    }
    if stand.source[range] == *source {
        return Err(EditError::Nothing {
            why: "the source is so already".to_owned(),
        });
    }
    Ok(Made {
        was: Some(stand.source[range].to_owned()),
        ..of_page(page, range, source)
    })
}

/// Markup beside an element, or in it.
pub(super) fn insert(page: &Page, id: NodeId, source: &str, side: Side) -> Result<Made, EditError> {
    if source.trim().is_empty() {
        return Err(EditError::Nothing {
            why: "there is no markup to put there".to_owned(),
        });
    }
    let (at, with) = Stand::of(page, id)?.beside(side, source)?;
    Ok(of_page(page, TextRange::empty(at), with))
}

/// The element once more, right behind itself.
pub(super) fn duplicate(page: &Page, id: NodeId) -> Result<Made, EditError> {
    let stand = Stand::whole(page, id)?;
    let copy = &stand.source[stand.outer];
    let between = if stand.own_lines {
        format!("{}{}", stand.ending, stand.indent)
    } else {
        // As it is kept apart from the element in front of it.
        let before = &stand.source[..usize::from(stand.outer.start())];
        let blank = &before[before.trim_end_matches(' ').len()..];
        blank.to_owned()
    };
    let end = TextRange::empty(stand.outer.end());
    Ok(of_page(page, end, format!("{between}{copy}")))
}

/// Takes an element out.
pub(super) fn remove(page: &Page, id: NodeId) -> Result<Made, EditError> {
    let stand = Stand::whole(page, id)?;
    let range = with_own_lines(stand.source, stand.outer);
    Ok(of_page(page, range, ""))
}

/// Another place for an element: beside or in another one.
pub(super) fn move_to(page: &Page, id: NodeId, to: NodeId, side: Side) -> Result<Made, EditError> {
    let document = page.document();
    if document.ancestors_and_self(to).any(|above| above == id) {
        return Err(not_there(
            page,
            to,
            "an element can't be moved beside or into itself",
        ));
    }
    let stand = Stand::whole(page, id)?;
    let target = Stand::of(page, to)?;
    let moved = &stand.source[stand.outer];
    // Its other lines are as far in as its own line is.
    let moved = super::rule::reindented(moved, stand.indent, "", stand.ending);
    let (at, with) = target.beside(side, &moved)?;
    let gone = with_own_lines(stand.source, stand.outer);
    let nothing = || EditError::Nothing {
        why: "the element stands there already".to_owned(),
    };
    let between = |a: TextSize, b: TextSize| {
        stand.source[TextRange::new(a.min(b), a.max(b))]
            .trim()
            .is_empty()
    };
    if between(at, stand.outer.start()) || between(at, stand.outer.end()) {
        return Err(nothing());
    }
    let patch = Patch::new(vec![
        Replacement {
            range: gone,
            with: String::new(),
        },
        Replacement {
            range: TextRange::empty(at),
            with,
        },
    ]);
    Ok(Made::of(
        document.text().name(),
        patch.map_err(|_| nothing())?,
    ))
}

/// A new element around one. `tag` is its start tag, or only its name.
pub(super) fn wrap(page: &Page, id: NodeId, tag: &str) -> Result<Made, EditError> {
    let stand = Stand::whole(page, id)?;
    let bare = tag.trim().trim_start_matches('<').trim_end_matches('>');
    let name: String = bare
        .chars()
        .take_while(|c| !c.is_whitespace() && *c != '/')
        .collect();
    if !name.starts_with(|c: char| c.is_ascii_alphabetic()) || bare.contains(['<', '>']) {
        return Err(EditError::NoName {
            what: "an element; expected a start tag such as <div class=\"wide\">, or a name",
            name: tag.to_owned(),
        });
    }
    if is_void(&name.to_ascii_lowercase()) {
        return Err(not_there(page, id, format!("a {name} can't hold anything")));
    }
    let at = |offset: TextSize, with: String| Replacement {
        range: TextRange::empty(offset),
        with,
    };
    let (start, end) = (stand.outer.start(), stand.outer.end());
    let replacements = if stand.own_lines {
        let deeper = format!("{}{}", stand.indent, stand.step);
        let (ending, indent) = (stand.ending, stand.indent);
        let mut all = stand.reindented(stand.outer, indent, &deeper);
        all.push(at(start, format!("<{bare}>{ending}{deeper}")));
        all.push(at(end, format!("{ending}{indent}</{name}>")));
        all
    } else {
        vec![
            at(start, format!("<{bare}>")),
            at(end, format!("</{name}>")),
        ]
    };
    let patch = Patch::new(replacements).expect("lines don't overlap");
    Ok(Made::of(page.document().text().name(), patch))
}

/// Takes an element's tags out; what it holds stays.
pub(super) fn unwrap(page: &Page, id: NodeId) -> Result<Made, EditError> {
    let stand = Stand::whole(page, id)?;
    let held = &stand.source[stand.inner];
    if is_void(&page.document().expect_element(id).name) {
        return Err(not_there(
            page,
            id,
            "the element holds nothing; remove it instead",
        ));
    }
    let was = page.document().expect_element(id).name.to_string();
    let gone = |range: TextRange| Replacement {
        range,
        with: String::new(),
    };
    let on_lines = stand.own_lines && held.starts_with(['\n', '\r']);
    let replacements = if on_lines && held.trim().is_empty() {
        vec![gone(with_own_lines(stand.source, stand.outer))]
    } else if on_lines {
        // The tags go with their lines, and what they held comes out by one step.
        let first =
            stand.inner.start() + TextSize::new((held.len() - held.trim_start().len()) as u32);
        let last = stand.inner.start() + TextSize::of(held.trim_end());
        let from = super::habits::indent_at(stand.source, first.into());
        let mut all = stand.reindented(TextRange::new(first, last), from, stand.indent);
        all.push(gone(TextRange::new(stand.outer.start(), first)));
        all.push(gone(TextRange::new(last, stand.outer.end())));
        all
    } else {
        vec![
            gone(TextRange::new(stand.outer.start(), stand.inner.start())),
            gone(TextRange::new(stand.inner.end(), stand.outer.end())),
        ]
    };
    let replacements = replacements
        .into_iter()
        .filter(|r| !r.range.is_empty() || !r.with.is_empty());
    let patch = Patch::new(replacements.collect()).expect("lines don't overlap");
    let made = Made::of(page.document().text().name(), patch);
    Ok(Made {
        was: Some(was),
        ..made
    })
}
