//! `important`: a declaration is marked `!important`, or no longer.

use serde::{Deserialize, Serialize};

use super::remove_declaration::whole;
use super::{About, Kind, Told};
use crate::edit::find::declaration;
use crate::edit::intent::Where;
use crate::edit::{At, EditError, Proposal, write};
use crate::page::Target;

/// A declaration is marked `!important`, or no longer.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Important {
    /// The property.
    pub property: String,
    /// Whether it is to be marked.
    pub on: bool,
}

impl Kind for Important {
    fn about(&self) -> About {
        About::MaybeElement
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let found = declaration(at, target, &self.property)?;
        whole(at, found, &self.property)?;
        write::important(at.styles, found.reference, self.on)
    }

    fn takes(&self, into: &Where) -> bool {
        !into.is_sheet()
    }

    fn summary(&self, told: &Told<'_>) -> String {
        let of = match told.who {
            "" => String::new(),
            who => format!(" of {who}"),
        };
        let (property, on) = (&self.property, told.on);
        match self.on {
            true => format!("mark {property}{of} on {on} !important"),
            false => format!("take !important off {property}{of} on {on}"),
        }
    }

    fn properties(&self) -> Vec<String> {
        vec![self.property.clone()]
    }
}
