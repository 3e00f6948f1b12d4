//! `insert`: markup beside an element, or in it.

use serde::{Deserialize, Serialize};

use super::{About, Kind, Told};
use crate::edit::given::markup;
use crate::edit::intent::Side;
use crate::edit::meant::{MarkupOp, Meant, Tag};
use crate::edit::source_layout::{SourceLayout, of_page};
use crate::edit::{At, EditError, Proposal};
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

impl Kind for Insert {
    fn about(&self) -> About {
        About::Element
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let id = target.ok_or(EditError::NoElement)?.element;
        if self.source.trim().is_empty() {
            return Err(EditError::Nothing {
                why: "there is no markup to put there".to_owned(),
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

    fn summary(&self, told: &Told<'_>) -> String {
        format!("insert markup {} {} on {}", self.side.words(), told.who, told.on)
    }

    fn is_markup(&self) -> bool {
        true
    }
}
