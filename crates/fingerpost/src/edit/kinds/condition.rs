//! `condition`: another condition or name for an at-rule.

use serde::{Deserialize, Serialize};

use super::{About, Kind, Told};
use crate::edit::given::prelude;
use crate::edit::meant::StyleOp;
use crate::edit::place::{Sought, fold, spot_at};
use crate::edit::write::{in_sheet, insertion, replacement};
use crate::edit::intent::Where;
use crate::edit::{At, EditError, Proposal};
use crate::page::{SheetRef, Target};

/// The condition or the name of an at-rule changes.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Condition {
    /// The at-rule, by its place.
    pub rule: String,
    /// What stands behind its keyword: `(width >= 40em)`.
    pub to: String,
}

impl Kind for Condition {
    fn about(&self) -> About {
        About::Rule
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
            true => insertion(own.name.end(), format!(" {wanted}")),
            false => replacement(own.prelude, wanted.clone()),
        };
        let op = StyleOp::Prelude(rule.rule, wanted);
        Ok(Proposal {
            was: Some(format!("{name} {}", fold(was))),
            ..in_sheet(at.styles, SheetRef::Listed(rule.sheet), vec![change], [op])
        })
    }

    fn takes(&self, into: &Where) -> bool {
        matches!(into, Where::Place | Where::Served)
    }

    fn summary(&self, told: &Told<'_>) -> String {
        format!("{} → {}, at {}", told.was, fold(&self.to), self.rule)
    }
}
