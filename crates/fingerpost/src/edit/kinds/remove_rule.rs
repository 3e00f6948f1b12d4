//! `remove-rule`: a rule is taken out, with all that it holds.

use serde::{Deserialize, Serialize};

use super::{About, Kind, Told};
use crate::edit::formatting::with_its_gap;
use crate::edit::meant::StyleOp;
use crate::edit::place::{Sought, spot_at};
use crate::edit::write::{in_sheet, replacement};
use crate::edit::intent::Where;
use crate::edit::{At, EditError, Proposal};
use crate::page::{SheetRef, Target};

/// A rule is taken out.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct RemoveRule {
    /// The rule, by its place.
    pub rule: String,
}

impl Kind for RemoveRule {
    fn about(&self) -> About {
        About::Rule
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let rule = spot_at(at.styles, &self.rule, Sought::Any, target)?.rule;
        let sheet = rule.sheet(at.styles);
        let own = rule.get(at.styles);
        let name = sheet.text().slice(own.name);
        let was = format!("{name} {}", rule.head(at.styles)).trim().to_owned();
        let change = replacement(with_its_gap(sheet, rule.rule), "");
        let op = StyleOp::RuleGone(rule.rule);
        Ok(Proposal {
            was: Some(was),
            ..in_sheet(at.styles, SheetRef::Listed(rule.sheet), vec![change], [op])
        })
    }

    fn takes(&self, into: &Where) -> bool {
        matches!(into, Where::Place | Where::Served)
    }

    fn summary(&self, told: &Told<'_>) -> String {
        format!("remove the rule {} at {}", told.was, self.rule)
    }
}
