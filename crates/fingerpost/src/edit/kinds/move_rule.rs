//! `move-rule`: a rule stands elsewhere, before or after another one of the page's sheets.

use serde::{Deserialize, Serialize};

use crate::edit::error::EditError;
use crate::edit::expected::{InSheet, Meant, StyleOp};
use crate::edit::file_change::FileChange;
use crate::edit::intent::Side;
use crate::edit::kinds::info::{About, Example, Holds, KindInfo, OWN_RULE, RULE, one_of};
use crate::edit::kinds::{Kind, SummaryContext};
use crate::edit::plan::rule_at::{Sought, spot_at};
use crate::edit::proposal::{At, Proposal};
use crate::edit::rewrite::formatting::{beside_rule, moved_block, with_its_gap};
use crate::edit::rewrite::lines::{insertion, replacement};
use crate::page::Target;
use crate::sheet::{AtRule, Rule, RuleKind, Sheet};
use crate::text::{Patch, PlaceQuery};

/// A rule stands elsewhere.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
pub struct MoveRule {
    /// The rule, by its place.
    pub rule: PlaceQuery,
    /// Where to.
    #[serde(flatten)]
    pub beside: Beside,
}

/// Where a rule goes: exactly one of these is given.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
#[non_exhaustive]
pub enum Beside {
    /// Before the rule at this place.
    Before(PlaceQuery),
    /// After the rule at this place.
    After(PlaceQuery),
}

impl Beside {
    fn side(&self) -> Side {
        match self {
            Beside::Before(_) => Side::Before,
            Beside::After(_) => Side::After,
        }
    }

    fn other(&self) -> &PlaceQuery {
        match self {
            Beside::Before(other) | Beside::After(other) => other,
        }
    }
}

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "move-rule",
    does: "Move a rule before or after another one",
    more: "",
    about: About::Rule,
    destinations: OWN_RULE,
    fields: &[
        RULE,
        one_of("before", "Before this rule", Holds::Place),
        one_of("after", "After this rule", Holds::Place),
    ],
    example: Example {
        before: "<style>\nh2 { color: teal }\nh3 { top: 0 }\n</style><h2>Boats</h2>",
        element: "",
        change: r#"{"rule":"a.html:2","after":"a.html:3"}"#,
        after: "<style>\nh3 { top: 0 }\nh2 { color: teal }\n</style><h2>Boats</h2>",
    },
    demo: r#"{"page":"pages/home.html","change":{"move-rule":{"rule":"css/skerry.css:255","after":"css/skerry.css:140"}}}"#,
};

impl Kind for MoveRule {
    fn info(&self) -> &'static KindInfo {
        &INFO
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let rule = spot_at(at.styles, &self.rule, Sought::Any, target)?.rule;
        let other = spot_at(at.styles, self.beside.other(), Sought::Any, None)?.rule;
        let (sheet, there) = (rule.sheet(at.styles), other.sheet(at.styles));
        let (own, beside) = (rule.get(at.styles), other.get(at.styles));
        let same_file = sheet.text().name() == there.text().name();
        if same_file
            && (own.span.contains_range(beside.span) || beside.span.contains_range(own.span))
        {
            return Err(EditError::NotThere {
                place: other.place(at.styles),
                why: "a rule can't be moved next to itself, nor out of or into a rule that contains it"
                    .to_owned(),
            });
        }
        for (rule, place) in [
            (own, rule.place(at.styles)),
            (beside, other.place(at.styles)),
        ] {
            if !rule.closed {
                return Err(EditError::NotThere {
                    place,
                    why: "the rule is never closed; close it first".to_owned(),
                });
            }
        }
        if leads(own) || is_before_those_that_lead(there, beside, self.beside.side()) {
            return Err(EditError::NotThere {
                place: other.place(at.styles),
                why: "@charset, @import and @namespace count only before all other rules, so no rule can be before them and they can't be after one"
                    .to_owned(),
            });
        }
        let moved = moved_block(sheet, own.span, there, beside.span);
        let (place, text) = beside_rule(there, other.rule, self.beside.side(), &moved);
        let gone = with_its_gap(sheet, rule.rule);
        let was = rule.head(at.styles);
        let nothing = || EditError::Nothing {
            why: "the rule is already there".to_owned(),
        };
        let mut meant = Meant::style(InSheet::Listed(rule.sheet), StyleOp::RuleGone(rule.rule));
        meant.join(Meant::style(
            InSheet::Listed(other.sheet),
            StyleOp::Rules(beside.parent, moved),
        ));
        let out = replacement(gone, "");
        let changes = if same_file {
            // Where it is put at the edge of what is removed, it has not moved.
            if gone.contains_inclusive(place) {
                return Err(nothing());
            }
            let patch = Patch::new(vec![out, insertion(place, text)]).map_err(|_| nothing())?;
            vec![FileChange {
                copies: vec![own.span],
                ..FileChange::new(sheet.text().name(), patch)
            }]
        } else {
            let out = Patch::single(out.range, out.with);
            let into = Patch::single(crate::text::TextRange::empty(place), text);
            vec![
                FileChange {
                    copies: vec![own.span],
                    ..FileChange::new(sheet.text().name(), out)
                },
                FileChange::new(there.text().name(), into),
            ]
        };
        Ok(Proposal {
            was: Some(was),
            changes,
            meant,
            ..Proposal::default()
        })
    }

    fn summary(&self, told: &SummaryContext<'_>) -> String {
        let side = self.beside.side().words();
        format!(
            "move the rule {} {side} the one at {}",
            told.was,
            self.beside.other()
        )
    }
}

/// Whether a rule counts only before all others (Cascading 5 § 2).
fn leads(rule: &Rule) -> bool {
    matches!(
        rule.kind,
        RuleKind::At(AtRule::Charset | AtRule::Import | AtRule::Namespace)
    )
}

/// Whether a place beside a rule is before a rule that has to be before all others.
fn is_before_those_that_lead(sheet: &Sheet, beside: &Rule, side: Side) -> bool {
    let leading = sheet
        .rules()
        .filter(|(_, rule)| rule.parent.is_none() && leads(rule));
    leading.last().is_some_and(|(_, last)| match side {
        Side::Before | Side::First => beside.span.start() <= last.span.start(),
        Side::After | Side::Last => beside.span.start() < last.span.start(),
    })
}
