//! `remove-rule`: a rule is removed, with everything in it.

use serde::{Deserialize, Serialize};

use crate::edit::error::EditError;
use crate::edit::expected::StyleOp;
use crate::edit::kinds::info::{About, Example, KindInfo, OWN_RULE, RULE};
use crate::edit::kinds::{Kind, SummaryContext};
use crate::edit::placement::Placement;
use crate::edit::plan::rule_at::{Sought, spot_at};
use crate::edit::proposal::{At, Proposal};
use crate::edit::rewrite::formatting::with_its_gap;
use crate::edit::rewrite::write::in_sheet;
use crate::page::{SheetRef, Target};
use crate::text::PlaceQuery;

/// A rule is removed.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct RemoveRule {
    /// The rule, by its place.
    pub rule: PlaceQuery,
}

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "remove-rule",
    does: "Remove a rule and everything in it",
    more: "",
    about: About::Rule,
    destinations: OWN_RULE,
    fields: &[RULE],
    example: Example {
        before: "<style>\nh2 { color: teal }\nh3 { top: 0 }\n</style><h2>Boats</h2>",
        element: "",
        change: r#"{"rule":"a.html:3"}"#,
        after: "<style>\nh2 { color: teal }\n</style><h2>Boats</h2>",
    },
    demo: r#"{"page":"pages/home.html","change":{"remove-rule":{"rule":"css/overrides.css:14"}}}"#,
};

impl Kind for RemoveRule {
    fn info(&self) -> &'static KindInfo {
        &INFO
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let rule = spot_at(at.styles, &self.rule, Sought::Any, target)?.rule;
        let sheet = rule.sheet(at.styles);
        let own = rule.get(at.styles);
        let name = sheet.text().slice(own.name);
        let was = format!("{name} {}", rule.head(at.styles)).trim().to_owned();
        let change = Placement::Elsewhere.replacing(with_its_gap(sheet, rule.rule), "");
        let op = StyleOp::RuleGone(rule.rule);
        Ok(Proposal {
            was: Some(was),
            ..in_sheet(at.styles, SheetRef::Listed(rule.sheet), vec![change], [op])
        })
    }

    fn summary(&self, told: &SummaryContext<'_>) -> String {
        format!("remove the rule {} at {}", told.was, self.rule)
    }
}
