//! `duplicate`: an element is there twice, the copy right after it.

use serde::{Deserialize, Serialize};

use crate::edit::error::EditError;
use crate::edit::expected::{MarkupOp, Meant, Tag};
use crate::edit::kinds::info::{About, Example, KindInfo, MARKUP};
use crate::edit::kinds::{Kind, SummaryContext};
use crate::edit::proposal::{At, Proposal};
use crate::edit::rewrite::source_layout::{SourceLayout, of_page, written_in};
use crate::markup::Namespace;
use crate::page::Target;
use crate::text::{Cut, TextRange};

/// An element is there twice.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Duplicate {}

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "duplicate",
    does: "Put a copy of an element after it",
    more: "",
    about: About::Element,
    destinations: MARKUP,
    fields: &[],
    example: Example {
        before: "<ul><li>Boats</li></ul>",
        element: "li",
        change: "{}",
        after: "<ul><li>Boats</li><li>Boats</li></ul>",
    },
    demo: r#"{"page":"pages/home.html","element":".sailings li","each":true,"change":{"duplicate":{}}}"#,
};

impl Kind for Duplicate {
    fn info(&self) -> &'static KindInfo {
        &INFO
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let page = at.page();
        let id = target.ok_or(EditError::NoElement)?.element;
        let element = page.document().element(id);
        if matches!(&*element.name, "html" | "head" | "body")
            && element.namespace == Namespace::Html
        {
            return Err(EditError::NotThere {
                place: page
                    .document()
                    .text()
                    .place(element.start_tag.start())
                    .to_string(),
                why: format!("a page has only one <{}> element", element.name),
            });
        }
        let stand = SourceLayout::whole(page, id)?;
        let copy = stand.source.cut(stand.outer);
        let (place, with) = if stand.own_lines {
            stand.lines_after(copy)
        } else {
            // As it is kept apart from the element before it.
            let before = stand.source.cut(..usize::from(stand.outer.start()));
            let blank = before.cut(before.trim_end_matches(' ').len()..);
            (stand.outer.end(), format!("{blank}{copy}"))
        };
        let document = page.document();
        let all = written_in(page, id).into_iter();
        let mut made = of_page(page, TextRange::empty(place), with);
        made.meant = Meant::markup(MarkupOp {
            new: all.map(|id| Tag::of(document.element(id))).collect(),
            reshapes: true,
            ..MarkupOp::default()
        });
        for change in &mut made.changes {
            change.copies = vec![stand.outer];
        }
        Ok(made)
    }

    fn summary(&self, told: &SummaryContext<'_>) -> String {
        format!("duplicate {} on {}", told.who, told.on)
    }

    fn is_markup(&self) -> bool {
        true
    }
}
