//! `comment`: a comment before a declaration.

use serde::{Deserialize, Serialize};

use crate::edit::error::EditError;
use crate::edit::kinds::info::{About, DECLARATION, Example, Holds, KindInfo, PROPERTY, required};
use crate::edit::kinds::{Kind, SummaryContext};
use crate::edit::plan::winner::declaration;
use crate::edit::proposal::{At, Proposal};
use crate::edit::rewrite::write;
use crate::page::Target;

/// A comment before a declaration, on its own line where the declaration begins one.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Comment {
    /// The property.
    pub property: String,
    /// The comment's text.
    pub text: String,
}

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "comment",
    does: "Write a comment before the winning declaration of a property",
    more: "On its own line where the declaration begins one.",
    about: About::MaybeElement,
    destinations: DECLARATION,
    fields: &[
        PROPERTY,
        required("text", "The comment, without its marks", Holds::Text),
    ],
    example: Example {
        before: "<style>\nh2 {\n  top: 0;\n}\n</style><h2>Boats</h2>",
        element: "h2",
        change: r#"{"property":"top","text":"under the header"}"#,
        after: "<style>\nh2 {\n  /* under the header */\n  top: 0;\n}\n</style><h2>Boats</h2>",
    },
    demo: r#"{"page":"pages/home.html","element":"h2.today","change":{"comment":{"property":"color","text":"rust in the dark scheme"}}}"#,
};

impl Kind for Comment {
    fn info(&self) -> &'static KindInfo {
        &INFO
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let text = self.text.trim();
        if text.is_empty() || text.contains("*/") {
            return Err(EditError::Nothing {
                why: "a comment needs a text, and ends at the first */; give a text without it"
                    .to_owned(),
            });
        }
        let found = declaration(at, target, &self.property)?;
        Ok(write::commented(
            at.styles,
            found.reference,
            &format!("/* {text} */"),
        ))
    }

    fn summary(&self, told: &SummaryContext<'_>) -> String {
        match told.who {
            "" => format!("comment on {} on {}", told.was, told.on),
            who => format!("comment on {} of {who} on {}", told.was, told.on),
        }
    }

    fn properties(&self) -> Vec<String> {
        vec![self.property.clone()]
    }
}
