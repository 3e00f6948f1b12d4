//! `remove-element`: an element is removed, with everything in it.

use serde::{Deserialize, Serialize};

use crate::edit::error::EditError;
use crate::edit::expected::{MarkupOp, Meant};
use crate::edit::kinds::info::{About, Example, KindInfo, MARKUP};
use crate::edit::kinds::{Kind, SummaryContext};
use crate::edit::proposal::{At, Proposal};
use crate::edit::rewrite::lines::with_own_lines;
use crate::edit::rewrite::source_layout::{SourceLayout, of_page, written_in};
use crate::page::Target;

/// An element is removed.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct RemoveElement {}

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "remove-element",
    does: "Remove an element and everything in it",
    more: "",
    about: About::Element,
    destinations: MARKUP,
    fields: &[],
    example: Example {
        before: "<h2>Boats</h2><p>Three a day</p>",
        element: "p",
        change: "{}",
        after: "<h2>Boats</h2>",
    },
    demo: r#"{"page":"pages/home.html","element":"h2.today","change":{"remove-element":{}}}"#,
};

impl Kind for RemoveElement {
    fn info(&self) -> &'static KindInfo {
        &INFO
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let page = at.page();
        let id = target.ok_or(EditError::NoElement)?.element;
        let stand = SourceLayout::whole(page, id)?;
        let range = with_own_lines(stand.source, stand.outer);
        Ok(Proposal {
            meant: Meant::markup(MarkupOp {
                gone: written_in(page, id),
                reshapes: true,
                ..MarkupOp::default()
            }),
            ..of_page(page, range, "")
        })
    }

    fn summary(&self, told: &SummaryContext<'_>) -> String {
        format!("remove {} from {}", told.who, told.on)
    }

    fn is_markup(&self) -> bool {
        true
    }
}
