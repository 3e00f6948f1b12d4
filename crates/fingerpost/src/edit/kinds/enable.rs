//! `on`: a comment that is a declaration is made one again.

use serde::{Deserialize, Serialize};

use crate::cascade::Origin;
use crate::edit::destination::Destination;
use crate::edit::error::EditError;
use crate::edit::expected::{Declared, StyleOp};
use crate::edit::kinds::info::{About, DECLARATION, Example, KindInfo, PROPERTY};
use crate::edit::kinds::{Kind, SummaryContext};
use crate::edit::placement::Placement;
use crate::edit::plan::rule_at::{RuleAt, Sought, is_placed, spot_at, strongest};
use crate::edit::proposal::{At, Proposal};
use crate::edit::rewrite::write::in_sheet;
use crate::page::{PropertyName, SheetRef, Target};
use crate::question::ElementSummary;
use crate::sheet::{Item, RuleId, Sheet, Token, TokenKind};
use crate::text::{Cut, Text, TextRange};

/// A comment that is a declaration is made one again.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Enable {
    /// The property.
    pub property: String,
}

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "enable",
    does: "Make a commented-out declaration count again",
    more: "",
    about: About::MaybeElement,
    destinations: DECLARATION,
    fields: &[PROPERTY],
    example: Example {
        before: "<style>h2 { color: teal; /* top: 0 */ }</style><h2>Boats</h2>",
        element: "h2",
        change: r#"{"property":"top"}"#,
        after: "<style>h2 { color: teal; top: 0 }</style><h2>Boats</h2>",
    },
    demo: r#"{"page":"pages/home.html","element":"h2.today","change":{"enable":{"property":"color"}}}"#,
};

impl Kind for Enable {
    fn info(&self) -> &'static KindInfo {
        &INFO
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let found = match &at.intent.into {
            Destination::Rule(place) => {
                let rule = spot_at(at.styles, place, Sought::Holder, target)?.rule;
                in_rule(at, rule, &self.property)
            }
            Destination::Inline => {
                in_attribute(at, target.ok_or(EditError::NoElement)?, &self.property)
            }
            _ => {
                let target = target.ok_or(EditError::NoElement)?;
                let own = in_attribute(at, target, &self.property);
                own.or_else(|| in_rules(at, target, &self.property))
            }
        };
        found.ok_or_else(|| EditError::Nothing {
            why: match target {
                Some(target) => format!(
                    "no rule that matches {} contains a commented-out declaration of {}",
                    ElementSummary::of_target(at.page(), target).label(),
                    self.property
                ),
                None => format!("no comment there is a declaration of {}", self.property),
            },
        })
    }

    fn summary(&self, told: &SummaryContext<'_>) -> String {
        match told.who {
            "" => format!("switch {} back on, on {}", told.was, told.on),
            who => format!("switch {} of {who} back on, on {}", told.was, told.on),
        }
    }

    fn properties(&self) -> Vec<String> {
        vec![self.property.clone()]
    }
}

fn in_attribute(at: &At<'_, '_>, target: &Target, property: &str) -> Option<Proposal> {
    if target.pseudo.is_some() {
        return None;
    }
    let declared = at.styles.attribute_sheet(target.element)?;
    let sheet = SheetRef::Attribute(target.element);
    rejoined(at, sheet, declared.sheet(), RuleId(0), property)
}

fn in_rule(at: &At<'_, '_>, rule: RuleAt, property: &str) -> Option<Proposal> {
    let sheet = SheetRef::Listed(rule.sheet);
    rejoined(at, sheet, rule.sheet(at.styles), rule.rule, property)
}

/// The last such comment in the rules that match; the strongest rule comes first.
fn in_rules(at: &At<'_, '_>, target: &Target, property: &str) -> Option<Proposal> {
    let best = strongest(at.styles, target);
    let mut rules: Vec<RuleAt> = Vec::new();
    for matched in at.styles.matched(target).iter().rev() {
        let rule = at.page().rule(matched.rule);
        let own = rule.origin == Origin::Author;
        if own && is_placed(at.styles, SheetRef::Listed(rule.sheet)) {
            rules.push(RuleAt {
                sheet: rule.sheet,
                rule: rule.rule,
            });
        }
    }
    rules.sort_by_key(|rule| Some(*rule) != best);
    rules
        .into_iter()
        .find_map(|rule| in_rule(at, rule, property))
}

/// The change that makes the last comment of a rule which is a declaration of a property one again.
fn rejoined(
    at: &At<'_, '_>,
    sheet_ref: SheetRef,
    sheet: &Sheet,
    rule: RuleId,
    property: &str,
) -> Option<Proposal> {
    let (comment, inside, declared) = commented(sheet, rule, property).pop()?;
    let inside_rule = sheet.rule(rule).inside;
    let before = sheet.tokens_in(TextRange::new(inside_rule.start(), comment.start()));
    let before = before.iter().rev().find(|t| !t.kind.is_blank());
    // Behind a declaration without a semicolon it would go on with that.
    let begins = before.is_none_or(|t| {
        matches!(
            t.kind,
            TokenKind::Semicolon | TokenKind::OpenCurly | TokenKind::CloseCurly
        )
    });
    let end = u32::from(inside_rule.end());
    let mut after = sheet
        .tokens_from(comment.end())
        .take_while(|t| t.end <= end);
    let after = after.find(|t| !t.kind.is_blank());
    let ends = after.is_none_or(|t| t.kind == TokenKind::Semicolon) || inside.ends_with(';');
    let first = if begins { "" } else { ";" };
    let last = if ends { "" } else { ";" };
    let change = Placement::Elsewhere.replacing(comment, format!("{first}{inside}{last}"));
    let was = format!("{}: {}", declared.name, declared.value);
    let op = StyleOp::New(rule, declared);
    Some(Proposal {
        was: Some(was),
        ..in_sheet(at.styles, sheet_ref, vec![change], [op])
    })
}

/// The comments that stand directly in a rule and are one declaration of a property.
fn commented(sheet: &Sheet, rule: RuleId, property: &str) -> Vec<(TextRange, String, Declared)> {
    let source = sheet.text().source();
    let block = sheet.rule(rule);
    let inner: Vec<TextRange> = sheet
        .items(block)
        .iter()
        .map(|item| match item {
            Item::Rule(id) => sheet.rule(*id).span,
            Item::Declaration(id) => sheet.declaration(*id).span,
        })
        .collect();
    let tokens = sheet.tokens_in(block.inside).into_iter();
    let comments = tokens
        .filter(|t| t.kind == TokenKind::Comment)
        .map(Token::span);
    let direct = comments.filter(|span| !inner.iter().any(|i| i.contains_range(*span)));
    direct
        .filter_map(|span| {
            let inside = source
                .cut(span)
                .strip_prefix("/*")?
                .strip_suffix("*/")?
                .trim();
            let text = Text::new("", inside);
            let whole = text.span();
            let parsed = Sheet::parse_attribute(text, whole);
            let mut declarations = parsed.declarations();
            let (_, only) = declarations
                .next()
                .filter(|_| parsed.problems().is_empty() && parsed.rule_count() == 1)?;
            let name = parsed.name_source(only);
            let named = match (PropertyName::named(name), PropertyName::named(property)) {
                (Some(one), Some(two)) => one == two,
                _ => name.eq_ignore_ascii_case(property),
            };
            let declared = Declared {
                name: name.to_owned(),
                value: parsed.value_source(only).to_owned(),
                important: only.important.is_some(),
            };
            (named && declarations.next().is_none()).then(|| (span, inside.to_owned(), declared))
        })
        .collect()
}
