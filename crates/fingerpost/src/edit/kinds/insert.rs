//! `insert`: markup beside an element, or in it.

use serde::{Deserialize, Serialize};

use crate::edit::error::EditError;
use crate::edit::expected::{MarkupOp, Meant, Tag};
use crate::edit::given::markup;
use crate::edit::intent::Side;
use crate::edit::kinds::info::{About, Example, Holds, KindInfo, MARKUP, must_name, required};
use crate::edit::kinds::{Kind, SummaryContext};
use crate::edit::proposal::{At, Proposal};
use crate::edit::rewrite::source_layout::{SourceLayout, of_page};
use crate::page::Target;
use crate::text::TextRange;

/// Markup is put beside an element or into it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Insert {
    /// The source.
    pub source: String,
    /// Where.
    pub side: Side,
}

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "insert",
    does: "Insert markup beside an element or into it",
    more: "",
    about: About::Element,
    destinations: MARKUP,
    fields: &[
        required("source", "The markup", Holds::Markup),
        must_name(
            "side",
            "before or after the element; first or last in it",
            Holds::Side,
        ),
    ],
    example: Example {
        before: "<h2>Boats</h2>",
        element: "h2",
        change: r#"{"source":"<p>Three a day</p>","side":"after"}"#,
        after: "<h2>Boats</h2>\n<p>Three a day</p>",
    },
    demo: r#"{"page":"pages/home.html","element":"h2.today","change":{"insert":{"source":"<p>Mind the swell.</p>","side":"after"}}}"#,
};

impl Kind for Insert {
    fn info(&self) -> &'static KindInfo {
        &INFO
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let id = target.ok_or(EditError::NoElement)?.element;
        if self.source.trim().is_empty() {
            return Err(EditError::Nothing {
                why: "expected markup".to_owned(),
            });
        }
        markup(&self.source)?;
        let (place, with) = SourceLayout::of(at.page(), id)?.beside(self.side, &self.source)?;
        Ok(Proposal {
            meant: Meant::markup(MarkupOp {
                new: Tag::all_in(&self.source),
                reshapes: true,
                ..MarkupOp::default()
            }),
            ..of_page(at.page(), TextRange::empty(place), with)
        })
    }

    fn summary(&self, told: &SummaryContext<'_>) -> String {
        format!(
            "insert markup {} {} on {}",
            self.side.words(),
            told.who,
            told.on
        )
    }

    fn is_markup(&self) -> bool {
        true
    }
}
