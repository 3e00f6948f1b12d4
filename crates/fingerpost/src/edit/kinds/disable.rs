//! `off`: a declaration is made a comment.

use serde::{Deserialize, Serialize};

use super::remove_declaration::whole;
use super::{About, Kind, Told};
use crate::edit::find::declaration;
use crate::edit::intent::Where;
use crate::edit::{At, EditError, Proposal, write};
use crate::page::Target;

/// A declaration is made a comment.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Disable {
    /// The property.
    pub property: String,
}

impl Kind for Disable {
    fn about(&self) -> About {
        About::MaybeElement
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let found = declaration(at, target, &self.property)?;
        whole(at, found, &self.property)?;
        write::commented_out(at.styles, found.reference)
    }

    fn takes(&self, into: &Where) -> bool {
        !into.is_sheet()
    }

    fn summary(&self, told: &Told<'_>) -> String {
        match told.who {
            "" => format!("switch off {} on {}", told.was, told.on),
            who => format!("switch off {} of {who} on {}", told.was, told.on),
        }
    }

    fn properties(&self) -> Vec<String> {
        vec![self.property.clone()]
    }
}
