//! `off`: a declaration is made a comment.

use serde::{Deserialize, Serialize};

use crate::edit::error::EditError;
use crate::edit::kinds::info::{About, DECLARATION, Example, KindInfo, PROPERTY};
use crate::edit::kinds::remove_declaration::whole;
use crate::edit::kinds::{Kind, SummaryContext};
use crate::edit::plan::winner::declaration;
use crate::edit::proposal::{At, Proposal};
use crate::edit::rewrite::write;
use crate::page::Target;

/// A declaration is made a comment.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Disable {
    /// The property.
    pub property: String,
}

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "disable",
    does: "Comment out the winning declaration of a property",
    more: "",
    about: About::MaybeElement,
    destinations: DECLARATION,
    fields: &[PROPERTY],
    example: Example {
        before: "<style>h2 { color: teal; top: 0 }</style><h2>Boats</h2>",
        element: "h2",
        change: r#"{"property":"top"}"#,
        after: "<style>h2 { color: teal; /* top: 0 */ }</style><h2>Boats</h2>",
    },
    demo: r#"{"page":"pages/home.html","element":"h2.today","change":{"disable":{"property":"color"}}}"#,
};

impl Kind for Disable {
    fn info(&self) -> &'static KindInfo {
        &INFO
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let found = declaration(at, target, &self.property)?;
        whole(at, found, &self.property)?;
        write::commented_out(at.styles, found.reference)
    }

    fn summary(&self, told: &SummaryContext<'_>) -> String {
        match told.who {
            "" => format!("switch off {} on {}", told.was, told.on),
            who => format!("switch off {} of {who} on {}", told.was, told.on),
        }
    }

    fn properties(&self) -> Vec<String> {
        vec![self.property.clone()]
    }
}
