//! What a change of markup does besides: a tree that is not the one asked for, a heading level
//! skipped, an id that is there twice, a reference to an element that is gone.
//!
//! Each is looked for in the page before and after; what was there before is left out.

use std::collections::{HashMap, HashSet};

use crate::markup::{Document, ElementId, Written, is_void};
use crate::text::{Cut, Patch, TextSize};

/// Something about a page that its author should know.
struct Finding {
    /// What it is, without its place.
    key: String,
    at: TextSize,
    message: String,
}

/// What is wrong after a patch of a page, and was not before.
pub(in crate::edit) fn warnings(before: &Document, after: &Document, patch: &Patch) -> Vec<String> {
    let old = findings(before);
    let mut count: HashMap<&str, usize> = HashMap::new();
    for finding in &old {
        *count.entry(&finding.key).or_default() += 1;
    }
    let known: HashSet<(&str, TextSize)> = old
        .iter()
        .filter_map(|f| Some((f.key.as_str(), patch.map(f.at)?)))
        .collect();
    let new = findings(after);
    let mut now: HashMap<&str, usize> = HashMap::new();
    for finding in &new {
        *now.entry(&finding.key).or_default() += 1;
    }
    let is_news = |f: &&Finding| {
        let more = now.get(f.key.as_str()) > Some(&count.get(f.key.as_str()).copied().unwrap_or(0));
        more && !known.contains(&(f.key.as_str(), f.at))
    };
    new.iter()
        .filter(is_news)
        .map(|f| f.message.clone())
        .collect()
}

fn findings(document: &Document) -> Vec<Finding> {
    let mut all = outside(document);
    all.extend(ignored(document));
    all.extend(repeated(document));
    all.extend(put_around(document));
    all.extend(made_up(document));
    all.extend(headings(document));
    all.extend(ids(document));
    all
}

/// Where an offset is, for a message.
fn place(document: &Document, at: TextSize) -> String {
    document.text().place(at).to_string()
}

/// Elements that stand between the tags of another in the source, and not in it in the tree:
/// HTML § 13.2.6.1 (foster parenting), § 13.2.6.4.7 (what closes a `p`).
fn outside(document: &Document) -> Vec<Finding> {
    let ends = paired_ends(document);
    let mut open: Vec<(ElementId, TextSize)> = Vec::new();
    let mut found = Vec::new();
    for id in written(document) {
        let element = document.element(id);
        let at = element.start_tag.start();
        open.retain(|(_, end)| *end > at);
        if let Some((outer, _)) = open.last() {
            let inside = document.ancestors_and_self(id).any(|above| above == *outer);
            let around = document.element(*outer);
            if !inside && !document.is_in_template(id) {
                found.push(Finding {
                    key: format!("outside {} {}", element.name, around.name),
                    at,
                    message: format!(
                        "the <{}> at {} is inside the <{}> at {}, but browsers move it out",
                        element.name,
                        place(document, at),
                        around.name,
                        place(document, around.start_tag.start()),
                    ),
                });
            }
        }
        if let Some(end) = ends.get(&id) {
            open.push((id, *end));
        }
    }
    found
}

/// The elements that have a tag, those in templates too, in the order of the source.
fn written(document: &Document) -> Vec<ElementId> {
    let all = document.elements().iter().copied();
    let mut written: Vec<ElementId> = all
        .chain(document.template_elements())
        .filter(|id| document.element(*id).written == Written::Tag)
        .collect();
    written.sort_by_key(|id| document.element(*id).start_tag.start());
    written.dedup();
    written
}

/// The end tag that an element seems to have, for a person who reads the source: the nearest one of its
/// name that belongs to nothing inside. A parser may have closed the element before.
fn paired_ends(document: &Document) -> HashMap<ElementId, TextSize> {
    let source = document.text().source();
    let mut tags: Vec<(TextSize, Option<ElementId>)> = written(document)
        .into_iter()
        .filter(|id| {
            let element = document.element(*id);
            element.slash.is_none() && !is_void(&element.name)
        })
        .map(|id| (document.element(id).start_tag.start(), Some(id)))
        .collect();
    tags.extend(document.end_tags().iter().map(|at| (*at, None)));
    tags.sort_by_key(|(at, _)| *at);
    let mut open: Vec<ElementId> = Vec::new();
    let mut ends = HashMap::new();
    for (at, start) in tags {
        if let Some(id) = start {
            open.push(id);
            continue;
        }
        let name = source.cut(usize::from(at)..).trim_start_matches("</");
        let length = name
            .find(|c: char| c.is_ascii_whitespace() || matches!(c, '/' | '>'))
            .unwrap_or(name.len());
        let name = name.cut(..length);
        let of_name = |id: &ElementId| (*document.element(*id).name).eq_ignore_ascii_case(name);
        if let Some(place) = open.iter().rposition(of_name) {
            ends.extend(open.get(place).map(|id| (*id, at)));
            open.truncate(place);
        }
    }
    ends
}

/// Formatting elements that are not closed where what they are in is: HTML § 13.2.4.3.
fn repeated(document: &Document) -> Vec<Finding> {
    let mut seen = HashSet::new();
    let all = document.elements().iter();
    let repeated = all.filter_map(|id| {
        let element = document.element(*id);
        let at = element.start_tag.start();
        (element.written == Written::Repeated && seen.insert(at)).then_some((element, at))
    });
    repeated
        .map(|(element, at)| Finding {
            key: format!("repeated {}", element.name),
            at,
            message: format!(
                "the <{}> at {} is not closed where the element around it ends, and browsers repeat it \
                 around what follows",
                element.name,
                place(document, at)
            ),
        })
        .collect()
}

/// Rows that browsers put around cells: HTML § 13.2.6.4.13.
fn put_around(document: &Document) -> Vec<Finding> {
    let all = document.elements().iter().copied();
    let implied = all.filter(|id| {
        let element = document.element(*id);
        element.is_html("tr") && element.written == Written::Implied
    });
    implied
        .map(|id| {
            let at = document.element(id).start_tag.start();
            let child = document.child_elements(id).next();
            let what = child.map_or_else(
                || "what is there".to_owned(),
                |child| format!("the <{}>", document.element(child).name),
            );
            Finding {
                key: "implied tr".to_owned(),
                at,
                message: format!(
                    "browsers put a <tr> of their own around {what} at {}",
                    place(document, at)
                ),
            }
        })
        .collect()
}

/// Tags that browsers drop.
fn ignored(document: &Document) -> Vec<Finding> {
    let source = document.text().source();
    let tags = document.ignored().iter();
    tags.map(|span| Finding {
        key: format!("ignored {}", source.cut(*span)),
        at: span.start(),
        message: format!(
            "browsers drop the tag {} at {}: it is not allowed there",
            source.cut(*span),
            place(document, span.start())
        ),
    })
    .collect()
}

/// A lone `</p>`, which makes an empty paragraph.
fn made_up(document: &Document) -> Vec<Finding> {
    let all = document.elements().iter().copied();
    let lone = all.filter(|id| {
        let element = document.element(*id);
        element.is_html("p") && element.written == Written::Implied
    });
    lone.map(|id| {
        let at = document.element(id).start_tag.start();
        // The paragraph that was meant ends where something begins that no paragraph can hold.
        let meant = document
            .elements()
            .iter()
            .map(|id| document.element(*id))
            .rfind(|e| e.is_html("p") && e.written == Written::Tag && e.start_tag.start() < at);
        let meant = match meant.filter(|e| e.end_tag.is_none()) {
            Some(p) => format!(
                ": the <p> at {} ends before an element that it can't contain",
                place(document, p.start_tag.start())
            ),
            None => String::new(),
        };
        Finding {
            key: "lone </p>".to_owned(),
            at,
            message: format!(
                "the </p> at {} closes nothing, and browsers make an empty <p> of it{meant}",
                place(document, at)
            ),
        }
    })
    .collect()
}

/// Headings more than one level below the one before them.
fn headings(document: &Document) -> Vec<Finding> {
    let mut last = 0;
    let mut found = Vec::new();
    for id in document.elements() {
        let element = document.element(*id);
        let Some(level) = element
            .name
            .strip_prefix('h')
            .and_then(|n| n.parse::<u8>().ok())
        else {
            continue;
        };
        if !(1..=6).contains(&level) {
            continue;
        }
        if last > 0 && level > last + 1 {
            let at = element.start_tag.start();
            found.push(Finding {
                key: format!("heading h{last} h{level}"),
                at,
                message: format!(
                    "the h{level} at {} follows an h{last}: a heading level is skipped",
                    place(document, at)
                ),
            });
        }
        last = level;
    }
    found
}

/// Attributes whose value is an id, or several, of the same page.
pub(in crate::edit) const REFERENCES: [&str; 10] = [
    "for",
    "list",
    "form",
    "headers",
    "popovertarget",
    "aria-labelledby",
    "aria-describedby",
    "aria-controls",
    "aria-owns",
    "aria-details",
];

/// Ids that are there twice, and references to none.
fn ids(document: &Document) -> Vec<Finding> {
    let mut first: HashMap<&str, TextSize> = HashMap::new();
    let mut found = Vec::new();
    for id in document.elements() {
        let element = document.element(*id);
        let Some(name) = element.id() else { continue };
        let at = element.start_tag.start();
        match first.get(name) {
            Some(earlier) => found.push(Finding {
                key: format!("twice #{name}"),
                at,
                message: format!(
                    "the id '{name}' is there twice: at {} and at {}",
                    place(document, *earlier),
                    place(document, at)
                ),
            }),
            None => {
                first.insert(name, at);
            }
        }
    }
    for id in document.elements() {
        let element = document.element(*id);
        for attribute in &element.attributes {
            let name = &*attribute.name;
            let fragment = attribute
                .value
                .strip_prefix('#')
                .filter(|rest| !rest.is_empty());
            let wanted: Vec<&str> = match fragment {
                Some(fragment) if name == "href" => vec![fragment],
                _ if REFERENCES.contains(&name) => attribute.value.split_whitespace().collect(),
                _ => continue,
            };
            for wanted in wanted
                .into_iter()
                .filter(|w| !first.contains_key(w) && *w != "top")
            {
                let at = element.start_tag.start();
                found.push(Finding {
                    key: format!("lost {name} {wanted}"),
                    at,
                    message: format!(
                        "the {name} of the <{}> at {} names '{wanted}', and no element has that id",
                        element.name,
                        place(document, at)
                    ),
                });
            }
        }
    }
    found
}
