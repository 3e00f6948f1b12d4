//! `condition`: another condition or name for an at-rule.

use serde::{Deserialize, Serialize};

use crate::edit::error::EditError;
use crate::edit::expected::StyleOp;
use crate::edit::given::prelude;
use crate::edit::kinds::info::{About, Example, Holds, KindInfo, OWN_RULE, required};
use crate::edit::kinds::{Kind, SummaryContext};
use crate::edit::placement::Placement;
use crate::edit::plan::rule_at::{Sought, fold, spot_at};
use crate::edit::proposal::{At, Proposal};
use crate::edit::rewrite::write::in_sheet;
use crate::page::{SheetRef, Target};
use crate::text::PlaceQuery;

/// The condition or the name of an at-rule changes.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Condition {
    /// The at-rule, by its place.
    pub rule: PlaceQuery,
    /// What is behind its keyword: `(width >= 40em)`.
    pub to: String,
}

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "condition",
    does: "Change the condition or the name of an at-rule",
    more: "",
    about: About::Rule,
    destinations: OWN_RULE,
    fields: &[
        required("rule", "The at-rule, by its place", Holds::Place),
        required("to", "The new prelude", Holds::Css),
    ],
    example: Example {
        before: "<style>\n@media print { h2 { top: 0 } }\n</style><h2>Boats</h2>",
        element: "",
        change: r#"{"rule":"a.html:2:1","to":"(width < 40em)"}"#,
        after: "<style>\n@media (width < 40em) { h2 { top: 0 } }\n</style><h2>Boats</h2>",
    },
    demo: r#"{"page":"pages/home.html","change":{"condition":{"rule":"css/skerry.css:533","to":"(max-width: 45rem)"}}}"#,
};

impl Kind for Condition {
    fn info(&self) -> &'static KindInfo {
        &INFO
    }

    fn make(&self, at: &At<'_, '_>, _target: Option<&Target>) -> Result<Proposal, EditError> {
        let wanted = prelude(&self.to)?;
        let rule = spot_at(at.styles, &self.rule, Sought::AtRule, None)?.rule;
        let sheet = rule.sheet(at.styles);
        let own = rule.get(at.styles);
        let was = sheet.prelude_source(own);
        let name = sheet.text().slice(own.name);
        if fold(was) == fold(&wanted) {
            return Err(EditError::Nothing {
                why: format!("it is {name} {was} already"),
            });
        }
        let change = match own.prelude.is_empty() {
            true => Placement::Elsewhere.at(own.name.end(), format!(" {wanted}")),
            false => Placement::Prelude(rule.rule).replacing(own.prelude, wanted.clone()),
        };
        let op = StyleOp::Prelude(rule.rule, wanted);
        Ok(Proposal {
            was: Some(format!("{name} {}", fold(was))),
            ..in_sheet(at.styles, SheetRef::Listed(rule.sheet), vec![change], [op])
        })
    }

    fn summary(&self, told: &SummaryContext<'_>) -> String {
        format!("{} → {}, at {}", told.was, fold(&self.to), self.rule)
    }
}
