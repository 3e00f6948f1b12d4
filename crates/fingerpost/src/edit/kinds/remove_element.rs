//! `remove-element`: an element is taken out, with all that it holds.

use serde::{Deserialize, Serialize};

use super::{About, Kind, Told};
use crate::edit::formatting::with_own_lines;
use crate::edit::meant::{MarkupOp, Meant};
use crate::edit::source_layout::{SourceLayout, of_page, written_in};
use crate::edit::{At, EditError, Proposal};
use crate::page::Target;

/// An element is taken out.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct RemoveElement {}

impl Kind for RemoveElement {
    fn about(&self) -> About {
        About::Element
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

    fn summary(&self, told: &Told<'_>) -> String {
        format!("remove {} from {}", told.who, told.on)
    }

    fn is_markup(&self) -> bool {
        true
    }
}
