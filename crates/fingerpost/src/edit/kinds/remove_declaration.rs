//! `remove`: a declaration is taken out.

use serde::{Deserialize, Serialize};

use super::{About, Kind, Told};
use crate::edit::find::{Found, declaration};
use crate::edit::intent::Where;
use crate::edit::{At, EditError, Proposal, write};
use crate::page::Target;

/// A declaration is taken out.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct RemoveDeclaration {
    /// The property.
    pub property: String,
}

impl Kind for RemoveDeclaration {
    fn about(&self) -> About {
        About::MaybeElement
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let found = declaration(at, target, &self.property)?;
        whole(at, found, &self.property)?;
        Ok(write::without(at.styles, found.reference))
    }

    fn takes(&self, into: &Where) -> bool {
        !into.is_sheet()
    }

    fn summary(&self, told: &Told<'_>) -> String {
        match told.who {
            "" => format!("remove {} on {}", told.was, told.on),
            who => format!("remove {} of {who} on {}", told.was, told.on),
        }
    }

    fn properties(&self) -> Vec<String> {
        vec![self.property.clone()]
    }
}

/// Refuses a change of a whole declaration where only a longhand of it was asked for.
pub(super) fn whole(at: &At<'_, '_>, found: Found, name: &str) -> Result<(), EditError> {
    if found.is_own {
        return Ok(());
    }
    let style_sheet = at.styles.sheet(found.reference.sheet);
    let sheet = style_sheet.sheet();
    let declaration = sheet.declaration(found.reference.id);
    let shorthand = sheet.name_source(declaration);
    Err(EditError::NotThere {
        place: sheet.place(declaration.span.start()).to_string(),
        why: format!(
            "{name} is set by {}, which sets more than that; name {shorthand} to change all of it, or \
             set {name} to another value",
            sheet.text().slice(declaration.span)
        ),
    })
}
