//! `why`: the contest for one property of one element.
//!
//! ```
//! use fingerpost::prelude::*;
//!
//! let html = "<style>p { margin: 0 } p { margin-top: 1em !important }</style><p>Boats";
//! let page = Page::new(Text::new("a.html", html));
//! let ask = page.ask();
//! let p = ask.find_one("p")?;
//! // A shorthand is asked about with all of its longhands.
//! let answer = ask.why(&p, &"margin".parse()?);
//! assert_eq!(answer.contests.len(), 4);
//! let top = answer.contests.iter().find(|contest| contest.property == "margin-top").unwrap();
//! assert_eq!(top.value.computed, "16px");
//! assert!(top.contenders[0].declaration.important);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use serde::{Deserialize, Serialize};

use super::codes::{ContenderStanding, ExclusionReason, ValueFrom};
use super::describe::{self, ElementSummary, RuleSummary};
use crate::cascade::{Comparison, Contender, Criterion, Standing};
use crate::page::{
    Blocked, DeclarationRef, Excluded, ExcludedBecause, PropertyName, Styles, Target, ValueSource,
    VariableStep,
};
use crate::text::Place;
use crate::value::PropertyId;

/// How many contenders are described one by one.
const MOST_CONTENDERS: usize = 1000;

fn is_zero(count: &usize) -> bool {
    *count == 0
}

/// The contests of a property: one for a longhand or custom property, one for each longhand of a
/// shorthand.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
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
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct ContestAnswer {
    /// The property.
    pub property: String,
    /// The value that results.
    pub value: ValueAnswer,
    /// The declarations that compete, strongest first; of very many the strongest thousand.
    pub contenders: Vec<ContenderAnswer>,
    /// How many more compete, and lose.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub more_contenders: usize,
    /// The declarations that match but take no part.
    pub excluded: Vec<ExcludedAnswer>,
    /// What sets the property for a while: animations and transitions, whose origins stand above
    /// those of the contest (Cascade 5 § 6.2).
    pub passing: Vec<String>,
}

/// A value and where it comes from.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct ValueAnswer {
    /// As declared, with variables put in.
    pub specified: String,
    /// As computed.
    pub computed: String,
    /// Where it comes from.
    pub source: ValueFrom,
    /// For an inherited value: the element that it comes from.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub inherited_from: Option<ElementSummary>,
    /// For an inherited value: the declaration there.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub inherited_declaration: Option<DeclarationAnswer>,
    /// The custom properties that it went through, in order.
    pub variables: Vec<VariableAnswer>,
    /// Why the winner's value was not taken after all.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub fell_through: Option<String>,
}

/// A custom property on the way to a value.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
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
#[derive(Clone, Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
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
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct ContenderAnswer {
    /// The declaration.
    #[serde(flatten)]
    pub declaration: DeclarationAnswer,
    /// Whether it wins, and if not, why.
    pub standing: ContenderStanding,
    /// The criterion on which it lost.
    pub criterion: Option<Criterion>,
    /// How it fared, in a sentence.
    pub sentence: String,
}

/// A declaration that takes no part.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct ExcludedAnswer {
    /// The declaration.
    #[serde(flatten)]
    pub declaration: DeclarationAnswer,
    /// Why.
    pub because: ExclusionReason,
    /// The reason, in a sentence.
    pub sentence: String,
    /// For one that depends on layout: what it would result in if its condition held.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub if_it_holds: Option<String>,
}

/// Why a property of a target is as it is.
pub(crate) fn why(styles: &Styles<'_>, target: &Target, property: &PropertyName) -> WhyAnswer {
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
    let all = &outcome.contest.contenders;
    let shown = MOST_CONTENDERS.max(outcome.contest.winner.map_or(0, |at| at + 1));
    let contenders = &all[..all.len().min(shown)];
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
                Standing::Wins => (ContenderStanding::Wins, None, wins(contenders.len(), fell)),
                Standing::HandsOver => (
                    ContenderStanding::HandsOver,
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
                    (ContenderStanding::Loses, Some(*on), sentence)
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
        .take(MOST_CONTENDERS)
        .map(|excluded| ExcludedAnswer {
            declaration: declaration(styles, target, excluded.declaration),
            because: match excluded.because {
                ExcludedBecause::Blocked(ref blocked) => match **blocked {
                    Blocked::Undecided { .. } => ExclusionReason::DependsOnLayout,
                    _ => ExclusionReason::Condition,
                },
                ExcludedBecause::Misfit(_) => ExclusionReason::InvalidValue,
            },
            sentence: describe::excluded(styles, excluded),
            if_it_holds: if_it_holds(styles, excluded, outcome.contest.winning()),
        })
        .collect();
    ContestAnswer {
        property: property.to_string(),
        value,
        contenders: listed,
        more_contenders: all.len() - contenders.len(),
        excluded,
        passing: passing(styles, target, property),
    }
}

/// What a declaration whose condition only layout knows would result in.
fn if_it_holds(
    styles: &Styles<'_>,
    excluded: &Excluded,
    winner: Option<&Contender<DeclarationRef>>,
) -> Option<String> {
    let ExcludedBecause::Blocked(blocked) = &excluded.because else {
        return None;
    };
    if !matches!(**blocked, Blocked::Undecided { .. }) {
        return None;
    }
    let value = describe::value_of(styles, excluded.declaration);
    Some(match winner {
        None => format!("if it is true, {value} wins: nothing else sets it"),
        Some(winner) => {
            let now = describe::value_of(styles, winner.declaration);
            let Comparison {
                ordering,
                criterion,
            } = excluded.rank.compare(&winner.rank);
            if ordering.is_gt() {
                format!("if it is true, {value} wins on {criterion}; if not, {now} wins")
            } else {
                format!("if it is true, it still loses on {criterion} to {now}")
            }
        }
    })
}

/// Animations of the target whose keyframes set a property, and transitions of it.
fn passing(styles: &Styles<'_>, target: &Target, property: &PropertyName) -> Vec<String> {
    let PropertyName::Known(id) = property else {
        return Vec::new();
    };
    let items = |property: PropertyId| -> Vec<String> {
        let value = styles
            .value(target, &PropertyName::Known(property))
            .computed
            .clone();
        let items = value.text().split(',').map(|item| item.trim().to_owned());
        items.collect()
    };
    let mut notes = Vec::new();
    for name in items(PropertyId::ANIMATION_NAME) {
        let Some(place) = keyframes_setting(styles, &name, *id) else {
            continue;
        };
        notes.push(format!(
            "while the animation {name} runs, its keyframes set it, {place}; only !important \
             declarations are stronger"
        ));
    }
    let durations = items(PropertyId::TRANSITION_DURATION);
    let transitioned = items(PropertyId::TRANSITION_PROPERTY);
    for (name, duration) in transitioned.iter().zip(durations.iter().cycle()) {
        let meant = PropertyId::named(name).is_some_and(|property| property.sets(*id));
        if meant && duration != "0s" {
            notes.push(format!(
                "when it changes, a transition of {duration} leads there"
            ));
        }
    }
    notes
}

/// Where the `@keyframes` rule of that name sets a property.
fn keyframes_setting(styles: &Styles<'_>, name: &str, property: PropertyId) -> Option<Place> {
    if name == "none" {
        return None;
    }
    let keyframes = styles.page().keyframes(name)?;
    let sets = |written: &str| PropertyId::named(written).is_some_and(|p| p.sets(property));
    let mut declarations = keyframes.declarations();
    declarations.find_map(|(written, place)| sets(written).then_some(place))
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

pub(super) fn value(styles: &Styles<'_>, target: &Target, property: &PropertyName) -> ValueAnswer {
    let value = styles.value(target, property);
    let mut variables = value.variables.to_vec();
    let (source, from, inherited) = match &value.source {
        ValueSource::Declared(_) => (ValueFrom::Declared, None, None),
        ValueSource::Initial => (ValueFrom::Initial, None, None),
        ValueSource::Inherited { from } => {
            let above = Target::from(*from);
            let there = styles.value(&above, property);
            variables.extend(there.variables.iter().cloned());
            let given = match &there.source {
                ValueSource::Declared(reference) => Some(declaration(styles, &above, *reference)),
                _ => None,
            };
            let summary = ElementSummary::new(styles.page(), *from);
            (ValueFrom::Inherited, Some(summary), given)
        }
    };
    ValueAnswer {
        specified: value.specified.trim().to_owned(),
        computed: styles.resolved(target, property).to_string(),
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
        name: step.name.to_string(),
        value: step.value.as_ref().map(|v| v.trim().to_owned()),
        declaration: step.declaration.map(|d| declaration(styles, &element, d)),
        element: ElementSummary::new(styles.page(), step.element),
    }
}
