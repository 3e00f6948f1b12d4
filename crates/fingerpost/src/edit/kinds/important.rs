//! `important`: a declaration is marked `!important`, or no longer.

use serde::{Deserialize, Serialize};

use crate::edit::error::EditError;
use crate::edit::intent::is_false;
use crate::edit::kinds::info::{About, DECLARATION, Example, KindInfo, PROPERTY, flag};
use crate::edit::kinds::remove_declaration::whole;
use crate::edit::kinds::{Kind, SummaryContext};
use crate::edit::plan::winner::declaration;
use crate::edit::proposal::{At, Proposal};
use crate::edit::rewrite::write;
use crate::page::Target;

/// A declaration is marked `!important`, or no longer.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Important {
    /// The property.
    pub property: String,
    /// Whether the mark is removed.
    #[serde(default, skip_serializing_if = "is_false")]
    pub remove: bool,
}

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "important",
    does: "Mark the winning declaration of a property !important, or remove the mark",
    more: "",
    about: About::MaybeElement,
    destinations: DECLARATION,
    fields: &[PROPERTY, flag("remove", "Remove the mark")],
    example: Example {
        before: "<style>h2 { color: teal }</style><h2>Boats</h2>",
        element: "h2",
        change: r#"{"property":"color"}"#,
        after: "<style>h2 { color: teal !important }</style><h2>Boats</h2>",
    },
    demo: r#"{"page":"pages/home.html","element":".button-quiet","change":{"important":{"property":"background-color","remove":true}}}"#,
};

impl Kind for Important {
    fn info(&self) -> &'static KindInfo {
        &INFO
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let found = declaration(at, target, &self.property)?;
        whole(at, found, &self.property)?;
        write::important(at.styles, found.reference, !self.remove)
    }

    fn summary(&self, told: &SummaryContext<'_>) -> String {
        let of = match told.who {
            "" => String::new(),
            who => format!(" of {who}"),
        };
        let (property, on) = (&self.property, told.on);
        match !self.remove {
            true => format!("mark {property}{of} on {on} !important"),
            false => format!("take !important off {property}{of} on {on}"),
        }
    }

    fn properties(&self) -> Vec<String> {
        vec![self.property.clone()]
    }
}
