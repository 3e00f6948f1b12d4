//! `why`: the contest for one property of one element.

use serde::Serialize;

use super::describe::{self, ElementSummary, RuleSummary};
use crate::cascade::{Criterion, Standing};
use crate::page::{
    DeclarationRef, ExcludedBecause, PropertyName, Styles, Target, ValueSource, VariableStep,
};
use crate::text::Place;

/// The contests of a property: one for a longhand or custom property, one for each longhand of a
/// shorthand.
#[derive(Debug, Serialize)]
pub struct WhyAnswer {
    /// The page.
    pub page: String,
    /// The element.
    pub element: ElementSummary,
    /// The property asked for.
    pub property: String,
    /// Its contests.
    pub contests: Vec<ContestAnswer>,
}

/// The contest for one longhand or custom property.
#[derive(Debug, Serialize)]
pub struct ContestAnswer {
    /// The property.
    pub property: String,
    /// The value that results.
    pub value: ValueAnswer,
    /// The declarations that compete, strongest first.
    pub contenders: Vec<ContenderAnswer>,
    /// The declarations that match but take no part.
    pub excluded: Vec<ExcludedAnswer>,
}

/// A value and where it comes from.
#[derive(Debug, Serialize)]
pub struct ValueAnswer {
    /// As declared, with variables put in.
    pub specified: String,
    /// As computed.
    pub computed: String,
    /// `declared`, `inherited` or `initial`.
    pub source: &'static str,
    /// For an inherited value: the element that it comes from.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub inherited_from: Option<ElementSummary>,
    /// For an inherited value: the declaration there.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub inherited_declaration: Option<DeclarationAnswer>,
    /// The custom properties that it went through, in order.
    pub variables: Vec<VariableAnswer>,
    /// Why the winner's value was not taken after all.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub fell_through: Option<String>,
}

/// A custom property on the way to a value.
#[derive(Debug, Serialize)]
pub struct VariableAnswer {
    /// Its name.
    pub name: String,
    /// Its value; none where the fallback was taken.
    pub value: Option<String>,
    /// The declaration that gives it.
    pub declaration: Option<DeclarationAnswer>,
    /// The element that the declaration is on.
    pub element: ElementSummary,
}

/// A declaration and its rule.
#[derive(Clone, Debug, Serialize)]
pub struct DeclarationAnswer {
    /// The property as written; a shorthand for some longhands.
    pub property: String,
    /// The value as written.
    pub value: String,
    /// Whether it is `!important`.
    pub important: bool,
    /// Where it stands.
    pub place: Place,
    /// Its rule.
    pub rule: RuleSummary,
}

/// A declaration that competes.
#[derive(Debug, Serialize)]
pub struct ContenderAnswer {
    /// The declaration.
    #[serde(flatten)]
    pub declaration: DeclarationAnswer,
    /// `wins`, `loses` or `hands-over`.
    pub standing: &'static str,
    /// The criterion on which it lost.
    pub criterion: Option<Criterion>,
    /// How it fared, in a sentence.
    pub sentence: String,
}

/// A declaration that takes no part.
#[derive(Debug, Serialize)]
pub struct ExcludedAnswer {
    /// The declaration.
    #[serde(flatten)]
    pub declaration: DeclarationAnswer,
    /// `condition` or `invalid-value`.
    pub because: &'static str,
    /// The reason, in a sentence.
    pub sentence: String,
}

/// Why a property of a target is as it is.
pub fn why(styles: &Styles<'_>, target: &Target, property: &PropertyName) -> WhyAnswer {
    let page = styles.page();
    let longhands: Vec<PropertyName> = match property {
        PropertyName::Known(id) => id
            .longhands()
            .iter()
            .copied()
            .map(PropertyName::Known)
            .collect(),
        PropertyName::Custom(_) => vec![property.clone()],
    };
    WhyAnswer {
        page: page.document().text().name().to_owned(),
        element: ElementSummary::of_target(page, target),
        property: property.to_string(),
        contests: longhands
            .iter()
            .map(|longhand| contest(styles, target, longhand))
            .collect(),
    }
}

fn contest(styles: &Styles<'_>, target: &Target, property: &PropertyName) -> ContestAnswer {
    let outcome = styles.contest(target, property);
    let contenders = &outcome.contest.contenders;
    let answers: Vec<DeclarationAnswer> = contenders
        .iter()
        .map(|c| declaration(styles, target, c.declaration))
        .collect();
    let value = value(styles, target, property);
    let fell = value.fell_through.as_deref();
    let listed = contenders
        .iter()
        .enumerate()
        .map(|(at, contender)| {
            let (standing, criterion, sentence) = match &contender.standing {
                Standing::Wins => ("wins", None, wins(contenders.len(), fell)),
                Standing::HandsOver => (
                    "hands-over",
                    None,
                    format!("{}: hands over to what is below it", answers[at].value),
                ),
                Standing::Loses { on, to } => {
                    let (mine, theirs) = (&answers[at], &answers[*to]);
                    let sentence = describe::loss(
                        *on,
                        (&contender.rank, &mine.place, mine.rule.layer.as_deref()),
                        (
                            &contenders[*to].rank,
                            &theirs.place,
                            theirs.rule.layer.as_deref(),
                        ),
                    );
                    ("loses", Some(*on), sentence)
                }
            };
            ContenderAnswer {
                declaration: answers[at].clone(),
                standing,
                criterion,
                sentence,
            }
        })
        .collect();
    let excluded = outcome
        .excluded
        .iter()
        .map(|excluded| ExcludedAnswer {
            declaration: declaration(styles, target, excluded.declaration),
            because: match excluded.because {
                ExcludedBecause::Blocked(_) => "condition",
                ExcludedBecause::Misfit(_) => "invalid-value",
            },
            sentence: describe::excluded(styles, excluded),
        })
        .collect();
    ContestAnswer {
        property: property.to_string(),
        value,
        contenders: listed,
        excluded,
    }
}

fn wins(count: usize, fell_through: Option<&str>) -> String {
    match (fell_through, count) {
        (Some(why), _) => format!("wins, but {why}"),
        (None, 1) => "wins: nothing else sets it".to_owned(),
        (None, _) => "wins".to_owned(),
    }
}

pub(super) fn declaration(
    styles: &Styles<'_>,
    target: &Target,
    reference: DeclarationRef,
) -> DeclarationAnswer {
    let style_sheet = styles.sheet(reference.sheet);
    let important = style_sheet
        .sheet()
        .declaration(reference.id)
        .important
        .is_some();
    DeclarationAnswer {
        property: describe::name_of(styles, reference),
        value: describe::value_of(styles, reference),
        important,
        place: describe::declaration_place(styles, reference),
        rule: describe::rule_of(styles, target, reference),
    }
}

fn value(styles: &Styles<'_>, target: &Target, property: &PropertyName) -> ValueAnswer {
    let value = styles.value(target, property);
    let mut variables = value.variables.clone();
    let (source, from, inherited) = match &value.source {
        ValueSource::Declared(_) => ("declared", None, None),
        ValueSource::Initial => ("initial", None, None),
        ValueSource::Inherited { from } => {
            let above = Target::from(*from);
            let there = styles.value(&above, property);
            variables.extend(there.variables.iter().cloned());
            let given = match &there.source {
                ValueSource::Declared(reference) => Some(declaration(styles, &above, *reference)),
                _ => None,
            };
            let summary = ElementSummary::new(styles.page(), *from);
            ("inherited", Some(summary), given)
        }
    };
    ValueAnswer {
        specified: value.specified.trim().to_owned(),
        computed: styles.resolved(target, property),
        source,
        inherited_from: from,
        inherited_declaration: inherited,
        variables: variables.iter().map(|v| variable(styles, v)).collect(),
        fell_through: value.fell_through.clone(),
    }
}

fn variable(styles: &Styles<'_>, step: &VariableStep) -> VariableAnswer {
    let element = Target::from(step.element);
    VariableAnswer {
        name: step.name.clone(),
        value: step.value.as_ref().map(|v| v.trim().to_owned()),
        declaration: step.declaration.map(|d| declaration(styles, &element, d)),
        element: ElementSummary::new(styles.page(), step.element),
    }
}
