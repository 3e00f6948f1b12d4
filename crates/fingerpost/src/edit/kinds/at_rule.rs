//! `at-rule`: a new at-rule, such as `@keyframes` or `@font-face`, at the end of a sheet.

use serde::{Deserialize, Serialize};

use crate::cascade::Origin;
use crate::edit::destination::Destination;
use crate::edit::error::EditError;
use crate::edit::expected::{InSheet, Meant, StyleOp};
use crate::edit::file_change::FileChange;
use crate::edit::given::one_rule;
use crate::edit::kinds::info::{About, Example, Holds, KindInfo, SHEET, required};
use crate::edit::kinds::{Kind, SummaryContext};
use crate::edit::plan::rule_at::{fold, is_placed};
use crate::edit::plan::sheet_rule::sheet_for;
use crate::edit::proposal::{At, Proposal};
use crate::edit::rewrite::formatting::end_of_sheet;
use crate::edit::rewrite::lines::insertion;
use crate::page::{SheetRef, Target};
use crate::sheet::{AtRule as Name, RuleKind};
use crate::text::{Patch, nearest};

/// A new at-rule.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct AtRule {
    /// Its source: `@keyframes fade { to { opacity: 0 } }`.
    pub source: String,
}

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "at-rule",
    does: "Add an at-rule, such as @keyframes or @font-face",
    more: "",
    about: About::Rule,
    destinations: SHEET,
    fields: &[required("source", "Its source", Holds::Css)],
    example: Example {
        before: "<style>h2 { color: teal }</style><h2>Boats</h2>",
        element: "",
        change: r#"{"source":"@keyframes fade { to { opacity: 0 } }"}"#,
        after: "<style>h2 { color: teal }\n\n@keyframes fade { to { opacity: 0 } }</style><h2>Boats</h2>",
    },
    demo: r#"{"page":"pages/home.html","into":"overrides","change":{"at-rule":{"source":"@keyframes fade { to { opacity: 0 } }"}}}"#,
};

impl Kind for AtRule {
    fn info(&self) -> &'static KindInfo {
        &INFO
    }

    fn make(&self, at: &At<'_, '_>, _target: Option<&Target>) -> Result<Proposal, EditError> {
        let given = one_rule(&self.source)?;
        let (_, rule) = given.rules().next().expect("one rule is given");
        let bad = |problem: &str| EditError::InvalidRule {
            given: self.source.clone(),
            problem: problem.to_owned(),
        };
        match &rule.kind {
            RuleKind::At(Name::Import | Name::Namespace | Name::Charset) => {
                return Err(bad(
                    "it counts only before all other rules, and an edit puts it after them",
                ));
            }
            RuleKind::At(Name::Other(name)) if !name.starts_with('-') && !Name::is_known(name) => {
                let near = nearest(name, Name::all()).map(|near| format!(". Do you mean @{near}?"));
                let near = near.unwrap_or_default();
                return Err(bad(&format!("no at-rule is called @{name}{near}")));
            }
            RuleKind::At(_) => {}
            _ => {
                return Err(bad(
                    "expected an at-rule; a style rule is added with `edit rule`",
                ));
            }
        }
        let head = format!(
            "{} {}",
            given.text().slice(rule.name),
            fold(given.prelude_source(rule))
        );
        let found = match &at.intent.into {
            into if into.is_sheet() => sheet_for(at.page(), into, at.around)?,
            Destination::Sources => last_sheet(at)?,
            _ => return Err(INFO.refuses(&at.intent.into)),
        };
        let sheet = found.sheet();
        let text = given.text().source();
        let (place, with) = end_of_sheet(sheet, text)?;
        let key = match found.at {
            Some(at) => InSheet::Listed(at),
            None => InSheet::Other(sheet.text().name().to_owned()),
        };
        let op = insertion(place, with);
        Ok(Proposal {
            was: Some(head.trim().to_owned()),
            changes: vec![FileChange::new(
                sheet.text().name(),
                Patch::single(op.range, op.with),
            )],
            meant: Meant::style(key, StyleOp::Rules(None, text.to_owned())),
            warnings: found.warnings.clone(),
            ..Proposal::default()
        })
    }

    fn writes_there(&self) -> bool {
        true
    }

    fn summary(&self, told: &SummaryContext<'_>) -> String {
        format!("a new {}", told.was)
    }
}

/// The last of the site's sheets on the page that applies.
fn last_sheet(at: &At<'_, '_>) -> Result<crate::edit::plan::sheet_rule::Goal, EditError> {
    let sheets = at.page().sheets().iter().enumerate();
    let usable = sheets.filter(|(number, s)| {
        s.origin == Origin::Author
            && s.host.is_none()
            && s.closed_gate().is_none()
            && is_placed(at.styles, SheetRef::Listed(*number as u32))
    });
    let (number, found) = usable.last().ok_or_else(|| EditError::NoRule {
        place: at.page().document().text().name().to_owned(),
    })?;
    Ok(crate::edit::plan::sheet_rule::Goal::listed(
        number as u32,
        found.styles.clone(),
    ))
}
