//! Elements, rules and declarations as answers show them.

use std::collections::HashSet;

use serde::{Deserialize, Serialize};

use super::codes::ArrivalKind;
use super::meant::meant;
use crate::cascade::{Criterion, Origin, Rank};
use crate::environment::Verdict;
use crate::markup::{ElementId, Written};
use crate::page::{
    Arrival, Blocked, DeclarationRef, Excluded, ExcludedBecause, Page, SheetRef, Styles, Target,
};
use crate::page::{Matched, StyleRule};
use crate::selector::Specificity;
use crate::text::{Cut as _, Place};
use crate::value::PropertyId;
use crate::value::grammar::Mismatch;

/// An element as answers show it.
#[derive(Clone, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct ElementSummary {
    /// Its number in document order among the page's elements, from 0.
    pub index: u32,
    /// Its name.
    pub tag: String,
    /// Its id, if it has one.
    pub id: Option<String>,
    /// Its classes in the order written.
    pub classes: Vec<String>,
    /// Where its start tag stands; for an implied element, where the parser implied it.
    #[serde(flatten)]
    pub place: Place,
    /// Whether the source has its tag.
    pub written: Written,
    /// The pseudo-element, when the answer is about one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pseudo: Option<String>,
}

impl ElementSummary {
    /// Describes an element of a page.
    pub fn new(page: &Page, id: ElementId) -> Self {
        let document = page.document();
        let element = document.element(id);
        ElementSummary {
            index: element.index,
            tag: element.name.to_string(),
            id: element.id().map(str::to_owned),
            classes: element.classes().map(str::to_owned).collect(),
            place: document.text().place(element.start_tag.start()),
            written: element.written,
            pseudo: None,
        }
    }

    /// Describes an element, or a pseudo-element of it.
    pub fn of_target(page: &Page, target: &Target) -> Self {
        ElementSummary {
            pseudo: target.pseudo.as_ref().map(ToString::to_string),
            ..ElementSummary::new(page, target.element)
        }
    }

    /// `h2#today.notice`: how the element is named in one line.
    pub fn label(&self) -> String {
        let mut label = self.tag.clone();
        if let Some(id) = &self.id {
            label.push('#');
            label.push_str(id);
        }
        for class in &self.classes {
            label.push('.');
            label.push_str(class);
        }
        label.push_str(self.pseudo.as_deref().unwrap_or(""));
        label
    }
}

/// A rule as answers show it.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct RuleSummary {
    /// The selector that matched, or `style attribute`.
    pub selector: String,
    /// Where the rule stands; for a style attribute, where its value stands.
    pub place: Place,
    /// Whose it is.
    pub origin: Origin,
    /// How its sheet came to the page: `link`, `style`, `import`, `attribute`, `hint`, `user`,
    /// `user-agent`.
    pub arrival: ArrivalKind,
    /// The specificity of the selector that matched; none for a style attribute.
    pub specificity: Option<Specificity>,
    /// The full name of its cascade layer.
    pub layer: Option<String>,
}

/// Describes the rule around a declaration, as it matched a target.
pub(crate) fn rule_of(
    styles: &Styles<'_>,
    target: &Target,
    reference: DeclarationRef,
) -> RuleSummary {
    let sheet_ref = reference.sheet;
    let style_sheet = styles.sheet(sheet_ref);
    let sheet = style_sheet.sheet();
    match sheet_ref {
        SheetRef::Attribute(element) => RuleSummary {
            selector: "style attribute".to_owned(),
            place: attribute_place(styles, element),
            origin: Origin::Author,
            arrival: ArrivalKind::Attribute,
            specificity: None,
            layer: None,
        },
        SheetRef::Hints(_) => RuleSummary {
            selector: "presentational attribute".to_owned(),
            place: declaration_place(styles, reference),
            origin: Origin::Hint,
            arrival: ArrivalKind::Hint,
            specificity: None,
            layer: None,
        },
        SheetRef::Listed(at) => {
            let rule = sheet.declaration(reference.id).rule;
            let page = styles.page();
            let matched = styles.matched_rule(target, at, rule);
            let selector = matched.and_then(|(m, style_rule)| {
                let list = style_rule.selectors.as_ref().ok()?;
                let span = list.selectors[m.selector as usize].span;
                Some(fold(sheet.slice_in(rule, span)))
            });
            RuleSummary {
                selector: selector.unwrap_or_else(|| fold(sheet.prelude_source(sheet.rule(rule)))),
                place: sheet.place(sheet.rule(rule).span.start()),
                origin: page.sheets()[at as usize].origin,
                arrival: arrival(&page.sheets()[at as usize].arrival),
                specificity: matched.map(|(m, _)| m.specificity),
                layer: matched.and_then(|(_, r)| r.layer.as_deref().map(str::to_owned)),
            }
        }
    }
}

/// The site's rules that match any of some elements, each once; style attributes are one.
pub fn site_rules(styles: &Styles<'_>, elements: &[ElementId]) -> Vec<RuleSummary> {
    let page = styles.page();
    let mut seen = HashSet::new();
    let mut found = Vec::new();
    let mut attribute = None;
    for element in elements {
        for matched in styles.matched(&Target::from(*element)) {
            let style_rule = &page.rules()[matched.rule as usize];
            let own = matches!(style_rule.origin, Origin::Author | Origin::User);
            if own && seen.insert((matched.rule, matched.selector)) {
                found.push(matched_rule(styles, &matched, style_rule));
            }
        }
        if attribute.is_none() && styles.attribute_sheet(*element).is_some() {
            attribute = Some(RuleSummary {
                selector: "style attribute".to_owned(),
                place: attribute_place(styles, *element),
                origin: Origin::Author,
                arrival: ArrivalKind::Attribute,
                specificity: None,
                layer: None,
            });
        }
    }
    found.extend(attribute);
    found
}

pub(crate) fn matched_rule(
    styles: &Styles<'_>,
    matched: &Matched,
    style_rule: &StyleRule,
) -> RuleSummary {
    let listed = &styles.page().sheets()[style_rule.sheet as usize];
    let sheet = listed.styles.sheet();
    let rule = sheet.rule(style_rule.rule);
    let list = style_rule.selectors.as_ref().ok();
    let selector = list.and_then(|list| list.selectors.get(matched.selector as usize));
    let selector = selector.map(|s| fold(sheet.slice_in(style_rule.rule, s.span)));
    RuleSummary {
        selector: selector.unwrap_or_else(|| fold(sheet.prelude_source(rule))),
        place: sheet.place(rule.span.start()),
        origin: listed.origin,
        arrival: arrival(&listed.arrival),
        specificity: Some(matched.specificity),
        layer: style_rule.layer.as_deref().map(str::to_owned),
    }
}

pub(crate) fn arrival(arrival: &Arrival) -> ArrivalKind {
    match arrival {
        Arrival::UserAgent => ArrivalKind::UserAgent,
        Arrival::User => ArrivalKind::User,
        Arrival::Link(_) => ArrivalKind::Link,
        Arrival::Style(_) => ArrivalKind::Style,
        Arrival::Import { .. } => ArrivalKind::Import,
    }
}

fn attribute_place(styles: &Styles<'_>, element: ElementId) -> Place {
    let document = styles.page().document();
    let attribute = document.element(element).attribute_node("style");
    let start = attribute.map_or_else(Default::default, |a| a.name_span.start());
    document.text().place(start)
}

/// Where a declaration stands. In a style attribute with character references it is the
/// attribute's place.
pub(crate) fn declaration_place(styles: &Styles<'_>, reference: DeclarationRef) -> Place {
    if let SheetRef::Hints(element) = reference.sheet
        && let Some(hints) = styles.hints(element)
    {
        let attribute = hints.attributes[reference.id.index()];
        return styles.page().document().text().place(attribute.start());
    }
    let style_sheet = styles.sheet(reference.sheet);
    let sheet = style_sheet.sheet();
    if let SheetRef::Attribute(element) = reference.sheet
        && !std::sync::Arc::ptr_eq(sheet.text(), styles.page().document().text())
    {
        return attribute_place(styles, element);
    }
    sheet.place(sheet.declaration(reference.id).span.start())
}

/// A declaration's name as written.
pub(crate) fn name_of(styles: &Styles<'_>, reference: DeclarationRef) -> String {
    let style_sheet = styles.sheet(reference.sheet);
    let sheet = style_sheet.sheet();
    sheet
        .name_source(sheet.declaration(reference.id))
        .to_owned()
}

/// A declaration's value as written, white space folded.
pub(crate) fn value_of(styles: &Styles<'_>, reference: DeclarationRef) -> String {
    let style_sheet = styles.sheet(reference.sheet);
    let sheet = style_sheet.sheet();
    fold(sheet.value_source(sheet.declaration(reference.id)))
}

/// White space folded to single spaces.
pub(crate) fn fold(text: &str) -> String {
    text.split_ascii_whitespace().collect::<Vec<_>>().join(" ")
}

/// Why one declaration lost to another, in a sentence with the numbers.
pub(crate) fn loss(
    on: Criterion,
    loser: (&Rank, &Place, Option<&str>),
    winner: (&Rank, &Place, Option<&str>),
) -> String {
    let (lost, lost_at, lost_layer) = loser;
    let (won, won_at, won_layer) = winner;
    let level = |rank: &Rank| {
        format!(
            "{}{}",
            rank.origin,
            if rank.important { " !important" } else { "" }
        )
    };
    let layer = |name: Option<&str>| match name {
        Some(name) => format!("layer {name}"),
        None => "no layer".to_owned(),
    };
    match on {
        Criterion::OriginAndImportance if lost.origin == won.origin => {
            format!("loses on {on}: without !important against !important")
        }
        Criterion::OriginAndImportance => {
            format!("loses on {on}: {} against {}", level(lost), level(won))
        }
        Criterion::ElementAttached => format!("loses on {on}: a rule against the style attribute"),
        Criterion::Layers => {
            format!(
                "loses on {on}: {} against {}",
                layer(lost_layer),
                layer(won_layer)
            )
        }
        Criterion::Specificity => {
            format!(
                "loses on {on}: {} against {}",
                lost.specificity, won.specificity
            )
        }
        Criterion::Order if lost_at.file == won_at.file => {
            if lost_at.line == won_at.line {
                format!(
                    "loses on {on}: declared earlier on the same line (column {}; the winner is at column {})",
                    lost_at.column, won_at.column
                )
            } else {
                format!(
                    "loses on {on}: declared earlier (line {}; the winner is on line {})",
                    lost_at.line, won_at.line
                )
            }
        }
        Criterion::Order => {
            format!(
                "loses on {on}: {} comes before {} on this page",
                lost_at.file, won_at.file
            )
        }
        Criterion::Context => {
            let (mine, theirs) = match lost.context > won.context {
                true => ("inside a shadow tree", "outside it"),
                false => ("outside a shadow tree", "inside it"),
            };
            let important = if lost.important {
                " with !important"
            } else {
                ""
            };
            format!("loses on {on}: {mine} against {theirs}{important}")
        }
        Criterion::Proximity => format!(
            "loses on {on}, counted from the scope's root: {} against {}",
            steps_below(lost),
            steps_below(won)
        ),
    }
}

/// How far below the root of its scope a rank's element is.
fn steps_below(rank: &Rank) -> String {
    match rank.proximity {
        u32::MAX => "no scope".to_owned(),
        0 => "the root itself".to_owned(),
        1 => "1 step below it".to_owned(),
        steps => format!("{steps} steps below it"),
    }
}

/// The comparisons of a verdict in one clause.
fn compared(verdict: &Verdict) -> String {
    if verdict.because.is_empty() {
        "it is false".to_owned()
    } else {
        verdict.because.join("; ")
    }
}

/// Why a rule is blocked, in a sentence.
pub(crate) fn blocked(page: &Page, blocked: &Blocked) -> String {
    match blocked {
        Blocked::Sheet { condition, verdict } => {
            format!("its sheet is off: {condition}: {}", compared(verdict))
        }
        Blocked::Condition {
            condition, verdict, ..
        } => format!("{condition} is false: {}", compared(verdict)),
        Blocked::Undecided {
            condition,
            container,
            ..
        } => {
            let container = ElementSummary::new(page, *container);
            format!(
                "{condition} depends on layout: the size of {}, {}",
                container.label(),
                container.place
            )
        }
        Blocked::NotYet { head, reason, .. } => format!("{head} is not evaluated: {reason}"),
    }
}

/// Why a declaration takes no part, in a sentence.
pub(crate) fn excluded(styles: &Styles<'_>, excluded: &Excluded) -> String {
    match &excluded.because {
        ExcludedBecause::Blocked(reason) => blocked(styles.page(), reason),
        ExcludedBecause::Misfit(mismatch) => misfit(styles, excluded.declaration, mismatch),
    }
}

/// Where a value stops to fit and what was expected.
pub(crate) fn misfit(
    styles: &Styles<'_>,
    reference: DeclarationRef,
    mismatch: &Mismatch,
) -> String {
    let style_sheet = styles.sheet(reference.sheet);
    let sheet = style_sheet.sheet();
    let name = sheet.name_source(sheet.declaration(reference.id));
    let value = sheet.declaration(reference.id).value;
    format!(
        "invalid value: {}",
        misfit_text(name, sheet.text().slice(value), &mismatch.within(value))
    )
}

/// How many of the expected things are named before the rest is left out.
const MOST_EXPECTED: usize = 5;

/// `'300' does not fit width; expected <length>, auto. Do you mean 300px?`, for a value and what of it does not fit.
pub(crate) fn misfit_text(property: &str, value: &str, mismatch: &Mismatch) -> String {
    let found = value.cut(mismatch.span);
    let mut names: Vec<&str> = mismatch.expected.iter().map(String::as_str).collect();
    let more = names.len() > MOST_EXPECTED;
    names.truncate(MOST_EXPECTED);
    let mut expected = names.join(", ");
    if more {
        expected.push_str(" and more");
    }
    if found.is_empty() {
        format!("the value of {property} ends too early; expected {expected}")
    } else {
        let meant = PropertyId::named(property).and_then(|id| meant(id, value, mismatch.span));
        let meant = meant.map(|meant| format!(". Do you mean {meant}?"));
        format!(
            "'{found}' does not fit {property}; expected {expected}{}",
            meant.unwrap_or_default()
        )
    }
}
