//! `enclose`: a rule is put into a new at-rule, such as `@media`, `@supports` or `@layer`.

use serde::{Deserialize, Serialize};

use crate::edit::error::EditError;
use crate::edit::expected::StyleOp;
use crate::edit::given::{one_rule, prelude};
use crate::edit::kinds::info::{About, Example, Holds, KindInfo, OWN_RULE, RULE, required};
use crate::edit::kinds::{Kind, SummaryContext};
use crate::edit::placement::Placement;
use crate::edit::plan::rule_at::{Sought, fold, spot_at};
use crate::edit::proposal::{At, Proposal};
use crate::edit::rewrite::formatting::lines_further_in;
use crate::edit::rewrite::lines::insertion;
use crate::edit::rewrite::lines::{indent_at, indent_step, line_ending};
use crate::edit::rewrite::write::in_sheet;
use crate::page::{SheetRef, Target};
use crate::sheet::{AtRule, Rule, RuleKind};
use crate::text::{Cut, PlaceQuery};

/// A rule is put into a new at-rule.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Enclose {
    /// The rule, by its place.
    pub rule: PlaceQuery,
    /// The head of the at-rule: `@media (width >= 40em)`.
    pub within: String,
}

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "enclose",
    does: "Put a rule into a new @media, @supports, @container, @layer or @scope",
    more: "",
    about: About::Rule,
    destinations: OWN_RULE,
    fields: &[
        RULE,
        required(
            "within",
            "The start of the new at-rule, such as \"@media (width >= 40em)\"",
            Holds::Css,
        ),
    ],
    example: Example {
        before: "<style>\nh2 { color: teal }\n</style><h2>Boats</h2>",
        element: "",
        change: r#"{"rule":"a.html:2","within":"@media print"}"#,
        after: "<style>\n@media print {\n  h2 { color: teal }\n}\n</style><h2>Boats</h2>",
    },
    demo: r#"{"page":"pages/home.html","change":{"enclose":{"rule":"css/skerry.css:255","within":"@media (width >= 40em)"}}}"#,
};

impl Kind for Enclose {
    fn info(&self) -> &'static KindInfo {
        &INFO
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let head = fold(&prelude(&self.within)?);
        let outer = one_rule(&format!("{head} {{}}"))?;
        if !outer
            .rules()
            .next()
            .is_some_and(|(_, rule)| can_hold_rules(rule))
        {
            return Err(EditError::InvalidRule {
                given: self.within.clone(),
                problem:
                    "expected @media, @supports, @container, @layer, @scope or @starting-style \
                          with what belongs to it"
                        .to_owned(),
            });
        }
        let rule = spot_at(at.styles, &self.rule, Sought::Any, target)?.rule;
        let sheet = rule.sheet(at.styles);
        let own = rule.get(at.styles);
        if own.block.is_none() {
            return Err(EditError::NotThere {
                place: rule.place(at.styles),
                why: "this at-rule contains nothing and counts only where it is".to_owned(),
            });
        }
        if !own.closed {
            return Err(EditError::NotThere {
                place: rule.place(at.styles),
                why: "the rule is never closed; close it first".to_owned(),
            });
        }
        let source = sheet.text().source();
        let (start, end) = (own.span.start(), own.span.end());
        let written = source.cut(own.span);
        let indent = indent_at(source, start.into());
        let begins_line = source
            .cut(..usize::from(start))
            .rsplit('\n')
            .next()
            .is_some_and(|line| line.trim().is_empty());
        let on_lines = begins_line
            && source
                .cut(usize::from(sheet.span().start())..)
                .contains('\n');
        let changes = if on_lines {
            let step = indent_step(source.cut(sheet.span()));
            let ending = line_ending(source);
            let mut changes = lines_further_in(sheet, own.span, &step);
            changes.push(insertion(start, format!("{head} {{{ending}{indent}{step}")));
            changes.push(insertion(end, format!("{ending}{indent}}}")));
            changes
        } else {
            vec![
                insertion(start, format!("{head}{{")),
                insertion(end, "}".to_owned()),
            ]
        };
        let ops = [
            StyleOp::RuleGone(rule.rule),
            StyleOp::Rules(own.parent, format!("{head} {{ {written} }}")),
        ];
        let changes = changes
            .into_iter()
            .map(|change| Placement::Elsewhere.replacing(change.range, change.with));
        let mut made = in_sheet(
            at.styles,
            SheetRef::Listed(rule.sheet),
            changes.collect(),
            ops,
        );
        for change in &mut made.changes {
            change.around = vec![own.span];
        }
        made.was = Some(rule.head(at.styles));
        Ok(made)
    }

    fn summary(&self, told: &SummaryContext<'_>) -> String {
        format!("put the rule {} into {}", told.was, fold(&self.within))
    }
}

fn can_hold_rules(rule: &Rule) -> bool {
    matches!(
        rule.kind,
        RuleKind::At(
            AtRule::Media
                | AtRule::Supports
                | AtRule::Container
                | AtRule::Layer
                | AtRule::Scope
                | AtRule::StartingStyle
        )
    )
}
