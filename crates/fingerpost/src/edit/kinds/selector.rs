//! `selector`: other selectors for a rule, one more, one less.

use serde::{Deserialize, Serialize};

use crate::edit::error::EditError;
use crate::edit::expected::StyleOp;
use crate::edit::given::selectors;
use crate::edit::kinds::info::{About, Example, Holds, KindInfo, OWN_RULE, RULE, one_of};
use crate::edit::kinds::{Kind, SummaryContext};
use crate::edit::placement::Placement;
use crate::edit::plan::rule_at::{RuleAt, Sought, fold, spot_at};
use crate::edit::proposal::{At, Proposal};
use crate::edit::rewrite::formatting::{Formatting, aligned};
use crate::edit::rewrite::lines::{insertion, replacement};
use crate::edit::rewrite::write::in_sheet;
use crate::page::{SheetRef, Target};
use crate::text::{Cut, Patch, PlaceQuery, Replacement, TextRange};

/// The selectors of a rule change.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Selector {
    /// The rule, by its place.
    pub rule: PlaceQuery,
    /// How: just one of these is given.
    #[serde(flatten)]
    pub how: SelectorChange,
}

/// How a rule's selectors change.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
#[non_exhaustive]
pub enum SelectorChange {
    /// Other ones.
    To(String),
    /// One more.
    Add(String),
    /// One less.
    Remove(String),
}

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "selector",
    does: "Change the selectors of a rule",
    more: "",
    about: About::Rule,
    destinations: OWN_RULE,
    fields: &[
        RULE,
        one_of("to", "Other selectors", Holds::Selector),
        one_of("add", "One more selector", Holds::Selector),
        one_of("remove", "One selector less", Holds::Selector),
    ],
    example: Example {
        before: "<style>h2 { color: teal }</style><h2>Boats</h2>",
        element: "",
        change: r#"{"rule":"a.html:1","add":"h3"}"#,
        after: "<style>h2, h3 { color: teal }</style><h2>Boats</h2>",
    },
    demo: r#"{"page":"pages/home.html","change":{"selector":{"rule":"css/skerry.css:255","to":".panel .today"}}}"#,
};

impl Kind for Selector {
    fn info(&self) -> &'static KindInfo {
        &INFO
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let rule = spot_at(at.styles, &self.rule, Sought::Style, target)?.rule;
        let sheet = rule.sheet(at.styles);
        let was = sheet.prelude_source(rule.get(at.styles));
        let change = self.change(at, rule)?;
        let start = rule.get(at.styles).prelude.start();
        let after = Patch::single(change.range - start, change.with.clone()).put_into(was);
        let op = StyleOp::Prelude(rule.rule, after);
        Ok(Proposal {
            was: Some(fold(was)),
            ..in_sheet(
                at.styles,
                SheetRef::Listed(rule.sheet),
                vec![Placement::Prelude(rule.rule).replacing(change.range, change.with)],
                [op],
            )
        })
    }

    fn summary(&self, told: &SummaryContext<'_>) -> String {
        match &self.how {
            SelectorChange::To(to) => format!("select {to} instead of {}", told.was),
            SelectorChange::Add(more) => format!("select {more} as well as {}", told.was),
            SelectorChange::Remove(less) => format!("stop selecting {less}, of {}", told.was),
        }
    }
}

impl Selector {
    fn change(&self, at: &At<'_, '_>, rule: RuleAt) -> Result<Replacement, EditError> {
        let sheet = rule.sheet(at.styles);
        let source = sheet.text().source();
        let prelude = sheet.rule(rule.rule).prelude;
        let parts = sheet.members(rule.rule);
        let of = |wanted: &str| {
            parts
                .iter()
                .position(|p| fold(source.cut(*p)) == fold(wanted))
        };
        let nothing = |why: String| Err(EditError::Nothing { why });
        let was = fold(source.cut(prelude));
        match &self.how {
            SelectorChange::To(wanted) => {
                selectors(wanted)?;
                if fold(wanted) == was {
                    return nothing(format!("the rule's selector is {was} already"));
                }
                Ok(replacement(prelude, wanted.trim()))
            }
            SelectorChange::Add(wanted) => {
                selectors(wanted)?;
                if of(wanted).is_some() {
                    return nothing(format!("{wanted} is one of the rule's selectors already"));
                }
                let between = between(sheet, rule.rule).unwrap_or_else(|| {
                    aligned(
                        &Formatting::of(sheet, Some(rule.rule)).comma,
                        sheet,
                        rule.rule,
                    )
                });
                let last = parts.last().map_or(prelude.end(), |p| p.end());
                Ok(insertion(last, format!("{between}{}", wanted.trim())))
            }
            SelectorChange::Remove(wanted) => {
                let Some(found) = of(wanted) else {
                    return nothing(format!("{wanted} is none of the rule's selectors: {was}"));
                };
                without(&parts, found).ok_or_else(|| EditError::NotThere {
                    place: rule.place(at.styles),
                    why: format!("{was} is the rule's only selector; remove the rule instead"),
                })
            }
        }
    }
}

/// The change that takes one selector out of a list, with its comma; none where it is the only one.
pub(super) fn without(parts: &[TextRange], found: usize) -> Option<Replacement> {
    let part = parts.get(found)?;
    let before = found.checked_sub(1).and_then(|before| parts.get(before));
    let range = match (before, parts.get(found + 1)) {
        (Some(before), _) => TextRange::new(before.end(), part.end()),
        (None, Some(next)) => TextRange::new(part.start(), next.start()),
        (None, None) => return None,
    };
    Some(replacement(range, ""))
}

/// What is between the last two selectors of a rule: a comma and white space, never a comment.
fn between(sheet: &crate::sheet::Sheet, rule: crate::sheet::RuleId) -> Option<String> {
    let parts = sheet.members(rule);
    let [.., one, two] = parts[..] else {
        return None;
    };
    let text = sheet.text().slice(TextRange::new(one.end(), two.start()));
    (text.trim() == ",").then(|| text.to_owned())
}
