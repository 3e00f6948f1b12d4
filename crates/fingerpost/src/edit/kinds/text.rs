//! `text`: another text for an element.

use serde::{Deserialize, Serialize};

use crate::edit::error::EditError;
use crate::edit::expected::{MarkupOp, Meant};
use crate::edit::kinds::info::{About, Example, Holds, KindInfo, MARKUP, named, required};
use crate::edit::kinds::{Kind, SummaryContext};
use crate::edit::proposal::{At, Proposal};
use crate::edit::rewrite::source_layout::{SourceLayout, needs_tag, not_there, of_page};
use crate::markup::{ElementId, NodeId, NodeKind};
use crate::page::{Page, Target};
use crate::text::{Cut, TextRange, TextSize};

/// An element's text becomes another.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Text {
    /// The text.
    pub text: String,
    /// Which of its texts, where it holds elements too.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub from: Option<String>,
}

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "text",
    does: "Change the text of an element",
    more: "",
    about: About::Element,
    destinations: MARKUP,
    fields: &[
        required("text", "The new text", Holds::Text),
        named(
            "from",
            "Which of its texts, where the element contains elements too",
            Holds::Text,
        ),
    ],
    example: Example {
        before: "<h2>Boats</h2>",
        element: "h2",
        change: r#"{"text":"Ferries"}"#,
        after: "<h2>Ferries</h2>",
    },
    demo: r#"{"page":"pages/home.html","element":"h2.today","change":{"text":{"text":"Sailing today"}}}"#,
};

impl Kind for Text {
    fn info(&self) -> &'static KindInfo {
        &INFO
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let page = at.page();
        let id = target.ok_or(EditError::NoElement)?.element;
        let document = page.document();
        let element = needs_tag(page, id)?;
        let source = document.text().source();
        let raw = [
            "script", "style", "iframe", "noembed", "noframes", "noscript", "xmp",
        ];
        let is_raw = raw.iter().any(|name| element.is_html(name));
        let ends = format!("</{}", element.name);
        if is_raw && self.text.to_ascii_lowercase().contains(&ends) {
            return Err(not_there(page, id, "the text would end the element early"));
        }
        let with = if is_raw {
            self.text.clone()
        } else {
            escaped(&self.text)
        };
        let nothing_else = document.child_elements(id).next().is_none();
        let texts: Vec<NodeId> = document
            .children(id)
            .filter(|node| {
                document
                    .text_of(*node)
                    .is_some_and(|t| !t.trim().is_empty())
            })
            .collect();
        let meant = |node: NodeId| {
            let holder = document.parent_element(node).unwrap_or(id);
            Meant::markup(MarkupOp {
                texts: vec![(holder, self.text.clone())],
                ..MarkupOp::default()
            })
        };
        let chosen = match (self.from.as_deref(), &texts[..]) {
            (Some(from), _) => self.named(at, id, from)?,
            (None, [only]) if nothing_else => *only,
            (None, []) if nothing_else => {
                let stand = SourceLayout::of(page, id)?;
                if stand.is_void {
                    return Err(not_there(page, id, "the element can't have content"));
                }
                return Ok(Proposal {
                    meant: Meant::markup(MarkupOp {
                        texts: vec![(id, self.text.clone())],
                        ..MarkupOp::default()
                    }),
                    ..of_page(page, stand.inner, with)
                });
            }
            _ => {
                return Err(match self.texts_in(at, id) {
                    texts if texts.is_empty() => {
                        not_there(page, id, "the element contains other elements, and no text")
                    }
                    texts => EditError::SeveralTexts {
                        place: document.text().place(element.start_tag.start()),
                        texts,
                    },
                });
            }
        };
        let range = written_in_one_place(page, id, chosen, is_raw)?;
        if source.cut(range) == with {
            return Err(EditError::Nothing {
                why: format!("the text is '{}' already", self.text),
            });
        }
        let was = document.text_of(chosen).unwrap_or("").split_whitespace();
        Ok(Proposal {
            was: Some(was.collect::<Vec<_>>().join(" ")),
            meant: meant(chosen),
            ..of_page(page, range, with)
        })
    }

    fn summary(&self, told: &SummaryContext<'_>) -> String {
        format!(
            "text of {} on {}: {}{}",
            told.who,
            told.on,
            told.before(),
            self.text
        )
    }
}

/// Where a text of an element stands, without the blanks around it.
fn written_in_one_place(
    page: &Page,
    id: ElementId,
    node: NodeId,
    is_raw: bool,
) -> Result<TextRange, EditError> {
    let document = page.document();
    let several = || {
        not_there(
            page,
            id,
            "its text is in several places of the source; change its markup instead",
        )
    };
    let NodeKind::Text(content) = &document.node(node).kind else {
        return Err(not_there(page, id, "expected a text"));
    };
    let span = content.span().ok_or_else(several)?;
    // Between the parts of one text there are tags or comments that are not part of it.
    if !is_raw && document.holds_markup(span) {
        return Err(several());
    }
    let written = document.text().source().cut(span);
    let blank = written.len() - written.trim_start().len();
    Ok(TextRange::at(
        span.start() + TextSize::new(blank as u32),
        TextSize::of(written.trim()),
    ))
}

/// How many texts of an element are named.
const MOST_TEXTS: usize = 5;

impl Text {
    /// The texts in an element, the first ones.
    fn texts_in(&self, at: &At<'_, '_>, id: ElementId) -> Vec<String> {
        let document = at.page().document();
        let all = document.descendants(id).filter_map(|node| {
            let text = document.text_of(node)?;
            let folded = text.split_whitespace().collect::<Vec<_>>().join(" ");
            (!folded.is_empty()).then_some(folded)
        });
        all.take(MOST_TEXTS).collect()
    }

    /// The one text in an element that reads so.
    fn named(&self, at: &At<'_, '_>, id: ElementId, from: &str) -> Result<NodeId, EditError> {
        let document = at.page().document();
        let folded = |text: &str| text.split_whitespace().collect::<Vec<_>>().join(" ");
        let wanted = folded(from);
        let mut all = document
            .descendants(id)
            .filter(|node| document.text_of(*node).is_some_and(|t| folded(t) == wanted));
        match (all.next(), all.next()) {
            (Some(one), None) => Ok(one),
            (None, _) => Err(EditError::Nothing {
                why: format!("the element does not contain the text '{from}'"),
            }),
            (Some(_), Some(_)) => Err(not_there(
                at.page(),
                id,
                format!("'{from}' occurs in it more than once; name the inner element"),
            )),
        }
    }
}

/// HTML § 13.1.2.4 and § 13.1.4: what text can't hold as it is.
fn escaped(text: &str) -> String {
    text.replace('&', "&amp;")
        .replace('<', "&lt;")
        .replace('>', "&gt;")
}
