//! `attribute`: an attribute is set, changed or removed.

use serde::{Deserialize, Serialize};

use crate::edit::check::warnings::REFERENCES;
use crate::edit::error::EditError;
use crate::edit::expected::{MarkupOp, Meant, Tag};
use crate::edit::file_change::FileChange;
use crate::edit::intent::is_false;
use crate::edit::kinds::info::{About, Example, Holds, KindInfo, MARKUP, flag, optional, required};
use crate::edit::kinds::{Kind, SummaryContext};
use crate::edit::proposal::{At, Proposal};
use crate::edit::rewrite::lines::{insertion, replacement};
use crate::edit::rewrite::source_layout::needs_tag;
use crate::markup::{Document, Element, ElementId};
use crate::page::{Page, Target};
use crate::text::{Cut, Patch, Replacement, TextRange, TextSize, difference};

/// An attribute is set, or removed.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Attribute {
    /// Its name.
    pub name: String,
    /// Its value.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub value: String,
    /// Whether it is removed.
    #[serde(default, skip_serializing_if = "is_false")]
    pub remove: bool,
}

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "attribute",
    does: "Set an attribute of an element, or remove it",
    more: "",
    about: About::Element,
    destinations: MARKUP,
    fields: &[
        required("name", "The attribute's name", Holds::Name),
        optional("value", "Its value; default: empty", Holds::Text),
        flag("remove", "Remove the attribute"),
    ],
    example: Example {
        before: "<h2>Boats</h2>",
        element: "h2",
        change: r#"{"name":"title","value":"All boats"}"#,
        after: r#"<h2 title="All boats">Boats</h2>"#,
    },
    demo: r#"{"page":"pages/home.html","element":".hero","change":{"attribute":{"name":"data-season","value":"winter"}}}"#,
};

impl Attribute {
    /// The value that it is to have; none where it is removed.
    fn wanted(&self) -> Option<&str> {
        (!self.remove).then_some(&self.value)
    }
}

impl Kind for Attribute {
    fn info(&self) -> &'static KindInfo {
        &INFO
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let element = target.ok_or(EditError::NoElement)?.element;
        let bad = |c: char| {
            c.is_whitespace() || c.is_control() || matches!(c, '"' | '\'' | '>' | '/' | '=' | '<')
        };
        if self.name.is_empty() || self.name.contains(bad) {
            return Err(EditError::InvalidName {
                what: "the name of an attribute",
                name: self.name.clone(),
            });
        }
        set_attribute(at.page(), element, &self.name, self.wanted())
    }

    fn summary(&self, told: &SummaryContext<'_>) -> String {
        let (name, who, on) = (&self.name, told.who, told.on);
        match self.wanted() {
            Some(value) => format!("set {name} of {who} on {on} to '{value}'"),
            None => format!("take {name} off {who} on {on}"),
        }
    }

    fn is_markup(&self) -> bool {
        let name = self.name.to_ascii_lowercase();
        name == "id" || name == "href" || REFERENCES.contains(&name.as_str())
    }
}

/// Sets an attribute of an element, or removes it where `value` is none.
pub(in crate::edit) fn set_attribute(
    page: &Page,
    id: ElementId,
    name: &str,
    value: Option<&str>,
) -> Result<Proposal, EditError> {
    let element = needs_tag(page, id)?;
    let document = page.document();
    // In foreign content names keep their case, and HTML has none.
    let known = element.attributes.iter();
    let written = known
        .map(|a| &*a.name)
        .find(|known| known.eq_ignore_ascii_case(name))
        .map_or_else(|| name.to_ascii_lowercase(), str::to_owned);
    let was = element.attribute(&written).map(str::to_owned);
    let changes = changes(document, id, element, &written, value);
    if changes.is_empty() {
        return Err(EditError::Nothing {
            why: match &was {
                Some(value) => format!("{name} is '{value}' already"),
                None => format!("it has no attribute {name}"),
            },
        });
    }
    let tag = Tag::of(element).with(&written, value);
    let patch = Patch::new(changes).expect("attributes don't overlap");
    Ok(Proposal {
        was,
        changes: vec![FileChange::new(document.text().name(), patch)],
        meant: Meant::markup(MarkupOp {
            gone: vec![id],
            new: vec![tag],
            ..MarkupOp::default()
        }),
        ..Proposal::default()
    })
}

/// The changes of one tag, if any.
fn changes(
    document: &Document,
    id: ElementId,
    element: &Element,
    name: &str,
    wanted: Option<&str>,
) -> Vec<Replacement> {
    let source = document.text().source();
    let present = element.attribute_node(name);
    match (present, wanted) {
        (None, None) => Vec::new(),
        (Some(attribute), Some(value)) if *attribute.value == *value => Vec::new(),
        // A name alone gets a value.
        (Some(attribute), Some(value)) if attribute.is_bare() => {
            vec![insertion(
                attribute.name_span.end(),
                format!("=\"{}\"", escaped(value, '"')),
            )]
        }
        (Some(attribute), Some(value)) => match attribute.quote {
            Some(quote) => {
                // Only what differs, so that edits of different parts of it are different edits.
                let span = attribute.value_span;
                let patch = difference(source.cut(span), &escaped(value, quote));
                let all = patch.replacements().iter();
                all.map(|r| replacement(r.range + span.start(), r.with.clone()))
                    .collect()
            }
            None => vec![replacement(
                attribute.value_span,
                format!("\"{}\"", escaped(value, '"')),
            )],
        },
        (Some(attribute), None) => {
            let mut gone = vec![without(source, attribute.span())];
            // What was hidden after it would count otherwise.
            let same = document.duplicates_of(id).filter(|d| &*d.name == name);
            gone.extend(same.map(|d| without(source, d.span)));
            gone.sort_by_key(|r| r.range.start());
            gone
        }
        (None, Some(value)) => {
            // Behind the attributes there are, in the quotes that they have.
            let last = element.attributes.last();
            let quote = last.and_then(|a| a.quote).unwrap_or('"');
            let own = last.map(|a| a.span().end());
            let hidden = document.duplicates_of(id).map(|d| d.span.end());
            let name_end =
                element.start_tag.start() + TextSize::of('<') + TextSize::of(&*element.name);
            let at = own.into_iter().chain(hidden).max().unwrap_or(name_end);
            // A value without quotes would take the next character along.
            vec![insertion(
                at,
                format!(" {name}={quote}{}{quote}", escaped(value, quote)),
            )]
        }
    }
}

/// An attribute removed with the white space before it.
fn without(source: &str, span: TextRange) -> Replacement {
    let before = source.cut(..usize::from(span.start()));
    let gap = before.len() - before.trim_end().len();
    let start = span.start() - TextSize::new(gap as u32);
    replacement(TextRange::new(start, span.end()), "")
}

/// HTML § 13.1.2.3: what a quoted value can't hold as it is.
fn escaped(value: &str, quote: char) -> String {
    let value = value.replace('&', "&amp;");
    match quote {
        '\'' => value.replace('\'', "&#39;"),
        _ => value.replace('"', "&quot;"),
    }
}
