//! `rename`: a declaration is made one of another property.

use serde::{Deserialize, Serialize};

use super::remove_declaration::whole;
use super::{About, Kind, Told};
use crate::edit::find::declaration;
use crate::edit::given::value_of;
use crate::edit::place::property;
use crate::edit::intent::Where;
use crate::edit::{At, EditError, Proposal, write};
use crate::page::Target;

/// A declaration is one of another property.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct ChangeProperty {
    /// The property; a misspelt name is found as it is written.
    pub property: String,
    /// The other one.
    pub to: String,
}

impl Kind for ChangeProperty {
    fn about(&self) -> About {
        About::MaybeElement
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let to = property(&self.to)?;
        let found = declaration(at, target, &self.property)?;
        whole(at, found, &self.property)?;
        let style_sheet = at.styles.sheet(found.reference.sheet);
        let sheet = style_sheet.sheet();
        let declaration = sheet.declaration(found.reference.id);
        if sheet.name_source(declaration) == to.to_string() {
            return Err(EditError::Nothing {
                why: format!("the declaration is one of {to} already"),
            });
        }
        value_of(&to, sheet.value_source(declaration))?;
        Ok(write::renamed(at.styles, found.reference, &to.to_string()))
    }

    fn takes(&self, into: &Where) -> bool {
        !into.is_sheet()
    }

    fn summary(&self, told: &Told<'_>) -> String {
        let ChangeProperty { property, to } = self;
        match told.who {
            "" => format!("rename {property} on {} to {to}", told.on),
            who => format!("rename {property} of {who} on {} to {to}", told.on),
        }
    }

    fn properties(&self) -> Vec<String> {
        vec![self.property.clone(), self.to.clone()]
    }
}
