//! `split`: a selector of a list gets its own rule, right after, with the same declarations.

use serde::{Deserialize, Serialize};

use crate::edit::error::EditError;
use crate::edit::expected::StyleOp;
use crate::edit::intent::Side;
use crate::edit::kinds::info::{About, Example, Holds, KindInfo, OWN_RULE, RULE, required};
use crate::edit::kinds::selector::without;
use crate::edit::kinds::{Kind, SummaryContext};
use crate::edit::placement::Placement;
use crate::edit::plan::rule_at::{Sought, fold, spot_at};
use crate::edit::proposal::{At, Proposal};
use crate::edit::rewrite::formatting::{beside_rule, reindented_block};
use crate::edit::rewrite::write::in_sheet;
use crate::page::{SheetRef, Target};
use crate::text::{Cut, Patch, PlaceQuery, TextRange};

/// A selector of a list gets its own rule.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Split {
    /// The rule, by its place.
    pub rule: PlaceQuery,
    /// The selector, as the list has it.
    pub selector: String,
}

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "split",
    does: "Give one selector of a list its own rule",
    more: "",
    about: About::Rule,
    destinations: OWN_RULE,
    fields: &[
        RULE,
        required(
            "selector",
            "The selector, as the list has it",
            Holds::Selector,
        ),
    ],
    example: Example {
        before: "<style>\nh2, h3 { color: teal }\n</style><h2>Boats</h2>",
        element: "",
        change: r#"{"rule":"a.html:2","selector":"h3"}"#,
        after: "<style>\nh2 { color: teal }\n\nh3 { color: teal }\n</style><h2>Boats</h2>",
    },
    demo: r#"{"page":"pages/timetable.html","change":{"split":{"rule":"css/skerry.css:351","selector":".timetable th"}}}"#,
};

impl Kind for Split {
    fn info(&self) -> &'static KindInfo {
        &INFO
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let rule = spot_at(at.styles, &self.rule, Sought::Style, target)?.rule;
        let sheet = rule.sheet(at.styles);
        let own = rule.get(at.styles);
        let source = sheet.text().source();
        let parts = sheet.members(rule.rule);
        let was = rule.head(at.styles);
        let wanted = fold(&self.selector);
        let mut parts_at = parts.iter().enumerate();
        let found = parts_at.find(|(_, part)| fold(source.cut(**part)) == wanted);
        let Some((found, part)) = found else {
            return Err(EditError::Nothing {
                why: format!("{wanted} is none of the rule's selectors: {was}"),
            });
        };
        let taken = without(&parts, found).ok_or_else(|| EditError::Nothing {
            why: format!("{wanted} is the rule's only selector already"),
        })?;
        let Some(block) = own.block.filter(|_| own.closed) else {
            return Err(EditError::NotThere {
                place: rule.place(at.styles),
                why: "the rule is never closed; close it first".to_owned(),
            });
        };
        let after_prelude = TextRange::new(own.prelude.end(), block.start());
        let selector = source.cut(*part).to_owned();
        let head = Patch::single(taken.range - own.prelude.start(), "")
            .put_into(sheet.prelude_source(own));
        let copy = format!(
            "{selector}{}{}",
            source.cut(after_prelude),
            source.cut(block)
        );
        let copy = reindented_block(sheet, own.span, &copy);
        let (place, text) = beside_rule(sheet, rule.rule, Side::After, &copy);
        let ops = [
            StyleOp::Prelude(rule.rule, head),
            StyleOp::Rules(own.parent, copy),
        ];
        let taken = Placement::Prelude(rule.rule).replacing(taken.range, taken.with);
        let changes = vec![taken, Placement::Elsewhere.at(place, text)];
        let mut made = in_sheet(at.styles, SheetRef::Listed(rule.sheet), changes, ops);
        made.was = Some(was);
        // The copy holds what earlier edits changed in the rule.
        for change in &mut made.changes {
            change.copies = vec![block];
        }
        Ok(made)
    }

    fn summary(&self, told: &SummaryContext<'_>) -> String {
        format!(
            "split {} off into its own rule, from {}",
            fold(&self.selector),
            told.was
        )
    }
}
