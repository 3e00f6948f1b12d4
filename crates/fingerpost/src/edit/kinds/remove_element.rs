//! `remove-element`: an element is taken out, with all that it holds.

use serde::{Deserialize, Serialize};

use super::{About, Kind, Told};
use crate::edit::habits::with_own_lines;
use crate::edit::meant::{MarkupOp, Meant};
use crate::edit::stand::{Stand, of_page, written_in};
use crate::edit::{At, EditError, Made};
use crate::page::Target;

/// An element is taken out.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct RemoveElement {}

impl Kind for RemoveElement {
    fn about(&self) -> About {
        About::Element
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Made, EditError> {
        let page = at.page();
        let id = target.ok_or(EditError::NoElement)?.element;
        let stand = Stand::whole(page, id)?;
        let range = with_own_lines(stand.source, stand.outer);
        Ok(Made {
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
