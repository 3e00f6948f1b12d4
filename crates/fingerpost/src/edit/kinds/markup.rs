//! `markup`: another source for an element, or only for its content.

use serde::{Deserialize, Serialize};

use crate::edit::error::EditError;
use crate::edit::expected::{MarkupOp, Meant, Tag};
use crate::edit::given::markup;
use crate::edit::intent::is_false;
use crate::edit::kinds::info::{About, Example, Holds, KindInfo, MARKUP, flag, required};
use crate::edit::kinds::{Kind, SummaryContext};
use crate::edit::proposal::{At, Proposal};
use crate::edit::rewrite::source_layout::{SourceLayout, not_there, of_page, written_in};
use crate::page::Target;
use crate::text::Cut;

/// An element's source becomes another.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Markup {
    /// The source.
    pub source: String,
    /// Only of its content, not of its own tags.
    #[serde(default, skip_serializing_if = "is_false")]
    pub inner: bool,
}

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "markup",
    does: "Rewrite the source of an element",
    more: "",
    about: About::Element,
    destinations: MARKUP,
    fields: &[
        required("source", "The source", Holds::Markup),
        flag("inner", "Only its contents, not its own tags"),
    ],
    example: Example {
        before: "<h2>Boats</h2>",
        element: "h2",
        change: r#"{"source":"All <em>boats</em>","inner":true}"#,
        after: "<h2>All <em>boats</em></h2>",
    },
    demo: r#"{"page":"pages/home.html","element":"h2.today","change":{"markup":{"source":"Sailing <em>today</em>","inner":true}}}"#,
};

impl Kind for Markup {
    fn info(&self) -> &'static KindInfo {
        &INFO
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let page = at.page();
        let id = target.ok_or(EditError::NoElement)?.element;
        markup(&self.source)?;
        let stand = SourceLayout::whole(page, id)?;
        let range = if self.inner { stand.inner } else { stand.outer };
        if self.inner && stand.is_void {
            return Err(not_there(page, id, "the element can't have content"));
        }
        if *stand.source.cut(range) == *self.source {
            return Err(EditError::Nothing {
                why: "its source is the same already".to_owned(),
            });
        }
        let mut gone = written_in(page, id);
        if self.inner {
            gone.retain(|inside| *inside != id);
        }
        Ok(Proposal {
            was: Some(stand.source.cut(range).to_owned()),
            meant: Meant::markup(MarkupOp {
                gone,
                new: Tag::all_in(&self.source),
                reshapes: true,
                ..MarkupOp::default()
            }),
            ..of_page(page, range, self.source.clone())
        })
    }

    fn summary(&self, told: &SummaryContext<'_>) -> String {
        match self.inner {
            true => format!("rewrite the content of {} on {}", told.who, told.on),
            false => format!("rewrite {} on {}", told.who, told.on),
        }
    }

    fn is_markup(&self) -> bool {
        true
    }
}
