//! `remove`: a declaration is removed.

use serde::{Deserialize, Serialize};

use crate::edit::error::EditError;
use crate::edit::kinds::info::{About, DECLARATION, Example, KindInfo, PROPERTY};
use crate::edit::kinds::{Kind, SummaryContext};
use crate::edit::plan::winner::{Found, declaration};
use crate::edit::proposal::{At, Proposal};
use crate::edit::rewrite::write;
use crate::page::Target;

/// A declaration is removed.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct RemoveDeclaration {
    /// The property.
    pub property: String,
}

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "remove-declaration",
    does: "Remove the winning declaration of a property",
    more: "",
    about: About::MaybeElement,
    destinations: DECLARATION,
    fields: &[PROPERTY],
    example: Example {
        before: "<style>h2 { color: teal; top: 0 }</style><h2>Boats</h2>",
        element: "h2",
        change: r#"{"property":"top"}"#,
        after: "<style>h2 { color: teal; }</style><h2>Boats</h2>",
    },
    demo: r#"{"page":"pages/home.html","element":"h2.today","change":{"remove-declaration":{"property":"color"}}}"#,
};

impl Kind for RemoveDeclaration {
    fn info(&self) -> &'static KindInfo {
        &INFO
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let found = declaration(at, target, &self.property)?;
        whole(at, found, &self.property)?;
        Ok(write::without(at.styles, found.reference))
    }

    fn summary(&self, told: &SummaryContext<'_>) -> String {
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
        place: sheet.place_of(declaration).to_string(),
        why: format!(
            "{name} is set by {}, which sets more than that; name {shorthand} to change all of it, or \
             set {name} to another value",
            sheet.text().slice(declaration.span)
        ),
    })
}
