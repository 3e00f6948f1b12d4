//! `rename`: a declaration is made one of another property.

use serde::{Deserialize, Serialize};

use crate::edit::error::EditError;
use crate::edit::given::value_of;
use crate::edit::kinds::info::{About, DECLARATION, Example, Holds, KindInfo, PROPERTY, required};
use crate::edit::kinds::remove_declaration::whole;
use crate::edit::kinds::{Kind, SummaryContext};
use crate::edit::plan::rule_at::property;
use crate::edit::plan::winner::declaration;
use crate::edit::proposal::{At, Proposal};
use crate::edit::rewrite::write;
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

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "change-property",
    does: "Change the property of the winning declaration",
    more: "",
    about: About::MaybeElement,
    destinations: DECLARATION,
    fields: &[
        PROPERTY,
        required("to", "The new property", Holds::Property),
    ],
    example: Example {
        before: "<style>h2 { margin-top: 0 }</style><h2>Boats</h2>",
        element: "h2",
        change: r#"{"property":"margin-top","to":"margin-block-start"}"#,
        after: "<style>h2 { margin-block-start: 0 }</style><h2>Boats</h2>",
    },
    demo: r#"{"page":"pages/home.html","element":".hero","change":{"change-property":{"property":"margin-bottom","to":"margin-block-end"}}}"#,
};

impl Kind for ChangeProperty {
    fn info(&self) -> &'static KindInfo {
        &INFO
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

    fn summary(&self, told: &SummaryContext<'_>) -> String {
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
