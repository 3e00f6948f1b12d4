//! Which declaration a change is about: the one that wins a property, one of a rule that is named by
//! its place, or one of the element's style attribute.
//!
//! What can't win is found too: an unknown property, a value that does not fit. It is found
//! by its name in the rules that match, so that it can be mended.

use crate::cascade::{Origin, Rank};
use crate::edit::destination::Destination;
use crate::edit::error::EditError;
use crate::edit::plan::rule_at::{Sought, fold, is_placed, property, spot_at};
use crate::edit::proposal::At;
use crate::page::{DeclarationRef, PropertyName, SheetRef, Styles, Target, ValueSource};
use crate::question::ElementSummary;
use crate::sheet::{Declaration, DeclarationId, RuleId, Sheet};
use crate::text::Place;

/// A declaration that a change is about.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(in crate::edit) struct Found {
    pub reference: DeclarationRef,
    /// Whether it is one of the property that was asked for, and not of a shorthand of that.
    pub is_own: bool,
}

/// Whether a declaration is one of a property of that name.
fn is_named(sheet: &Sheet, declaration: &Declaration, name: &str) -> bool {
    let written = sheet.name_source(declaration);
    match (PropertyName::named(written), PropertyName::named(name)) {
        (Some(one), Some(two)) => one == two,
        _ => written.eq_ignore_ascii_case(name),
    }
}

/// The last declaration of a name that stands directly in a rule.
pub(in crate::edit) fn last_named(
    sheet: &Sheet,
    rule: RuleId,
    name: &str,
) -> Option<DeclarationId> {
    let named = |(_, d): &(DeclarationId, &Declaration)| is_named(sheet, d, name);
    sheet
        .declarations_of(rule)
        .filter(named)
        .last()
        .map(|(id, _)| id)
}

/// The declaration that a change of a property is about.
pub(in crate::edit) fn declaration(
    at: &At<'_, '_>,
    target: Option<&Target>,
    name: &str,
) -> Result<Found, EditError> {
    let styles = at.styles;
    let own = |sheet: SheetRef, id| Found {
        reference: DeclarationRef { sheet, id },
        is_own: true,
    };
    match &at.intent.into {
        Destination::Rule(place) => {
            let spot = spot_at(styles, place, Sought::Holder, target)?;
            let sheet = spot.rule.sheet(styles);
            let on_place = spot
                .declaration
                .filter(|id| is_named(sheet, sheet.declaration(*id), name));
            let found = on_place.or_else(|| last_named(sheet, spot.rule.rule, name));
            let id = found.ok_or_else(|| EditError::Nothing {
                why: format!(
                    "the rule {} at {} has no declaration of {name}",
                    spot.rule.head(styles),
                    spot.rule.place(styles)
                ),
            })?;
            Ok(own(SheetRef::Listed(spot.rule.sheet), id))
        }
        Destination::Inline => {
            let element = target.ok_or(EditError::NoElement)?.element;
            let sheet = styles.attribute_sheet(element);
            let found = sheet.and_then(|s| last_named(s.sheet(), RuleId(0), name));
            let id = found.ok_or_else(|| EditError::Nothing {
                why: format!("the style attribute has no declaration of {name}"),
            })?;
            Ok(own(SheetRef::Attribute(element), id))
        }
        _ => in_place(styles, target.ok_or(EditError::NoElement)?, name),
    }
}

fn in_place(styles: &Styles<'_>, target: &Target, name: &str) -> Result<Found, EditError> {
    let label = ElementSummary::of_target(styles.page(), target).label();
    let known = property(name);
    let nothing = match &known {
        Ok(known) => match winner(styles, target, known, &label) {
            Ok(reference) => {
                let sheet = styles.sheet(reference.sheet);
                let sheet = sheet.sheet();
                let is_own = is_named(sheet, sheet.declaration(reference.id), name);
                return Ok(Found { reference, is_own });
            }
            Err(error @ EditError::NothingToChange { .. }) => error,
            Err(error) => return Err(error),
        },
        Err(error) => error.clone(),
    };
    let all = named(styles, target, name);
    match all[..] {
        [] => Err(nothing),
        [reference] => Ok(Found {
            reference,
            is_own: true,
        }),
        _ => Err(EditError::SeveralRules {
            property: name.to_owned(),
            element: label,
            places: all.iter().map(|one| place_of(styles, *one)).collect(),
            heads: all.iter().map(|one| head_of(styles, *one)).collect(),
        }),
    }
}

fn place_of(styles: &Styles<'_>, reference: DeclarationRef) -> Place {
    let sheet = styles.sheet(reference.sheet);
    let sheet = sheet.sheet();
    sheet.place(sheet.declaration(reference.id).span.start())
}

/// A declaration's place with its rule's selectors.
fn head_of(styles: &Styles<'_>, reference: DeclarationRef) -> String {
    let sheet = styles.sheet(reference.sheet);
    let sheet = sheet.sheet();
    let rule = sheet.declaration(reference.id).rule;
    let head = fold(sheet.prelude_source(sheet.rule(rule)));
    format!("{}  {head}", place_of(styles, reference))
}

/// The declarations of a name in the site's rules that match a target, and in its style attribute.
fn named(styles: &Styles<'_>, target: &Target, name: &str) -> Vec<DeclarationRef> {
    let mut found: Vec<DeclarationRef> = Vec::new();
    if target.pseudo.is_none()
        && let Some(own) = styles.attribute_sheet(target.element)
        && let Some(id) = last_named(own.sheet(), RuleId(0), name)
    {
        found.push(DeclarationRef {
            sheet: SheetRef::Attribute(target.element),
            id,
        });
    }
    for matched in styles.matched(target) {
        let rule = styles.page().rule(matched.rule);
        let sheet_ref = SheetRef::Listed(rule.sheet);
        if rule.origin != Origin::Author || !is_placed(styles, sheet_ref) {
            continue;
        }
        let sheet = styles.page().sheet(rule.sheet).styles.sheet();
        let reference = last_named(sheet, rule.rule, name).map(|id| DeclarationRef {
            sheet: sheet_ref,
            id,
        });
        found.extend(reference.filter(|r| !found.contains(r)));
    }
    found
}

/// The longhands of a property; a custom one is its own.
pub(in crate::edit) fn longhands(property: &PropertyName) -> Vec<PropertyName> {
    match property {
        PropertyName::Known(id) => id
            .longhands()
            .iter()
            .copied()
            .map(PropertyName::Known)
            .collect(),
        PropertyName::Custom(_) => vec![property.clone()],
    }
}

/// The declarations of the site's sources that give the longhands of a property their values, each once, with their ranks.
pub(in crate::edit) fn winners_of(
    styles: &Styles<'_>,
    target: &Target,
    property: &PropertyName,
) -> Vec<(DeclarationRef, Rank)> {
    let mut found: Vec<(DeclarationRef, Rank)> = Vec::new();
    for longhand in longhands(property) {
        let contest = styles.contest(target, &longhand).contest;
        let Some(winner) = contest.winning() else {
            continue;
        };
        let is_own = matches!(
            winner.declaration.sheet,
            SheetRef::Listed(_) | SheetRef::Attribute(_)
        );
        let known = found.iter().any(|(known, _)| *known == winner.declaration);
        if winner.rank.origin == Origin::Author && is_own && !known {
            found.push((winner.declaration, winner.rank));
        }
    }
    found
}

/// The one declaration of the site's sources that gives the property its value.
pub(in crate::edit) fn winner(
    styles: &Styles<'_>,
    target: &Target,
    property: &PropertyName,
    element: &str,
) -> Result<DeclarationRef, EditError> {
    let mut winners: Vec<(PropertyName, Option<DeclarationRef>)> = Vec::new();
    for longhand in longhands(property) {
        let contest = styles.contest(target, &longhand).contest;
        let found = contest.winning().map(|w| w.declaration);
        winners.push((longhand, found));
    }
    let first = winners.first().and_then(|(_, reference)| *reference);
    if winners.iter().any(|(_, reference)| *reference != first) {
        let mut parts = String::new();
        for (longhand, reference) in &winners {
            if let Some(reference) = reference {
                let style_sheet = styles.sheet(reference.sheet);
                let sheet = style_sheet.sheet();
                let span = sheet.declaration(reference.id).span;
                parts.push_str(&format!("\n  {longhand}  ({})", sheet.place(span.start())));
            }
        }
        return Err(EditError::Several {
            property: property.to_string(),
            element: element.to_owned(),
            parts,
        });
    }
    let nothing = |whence: String| EditError::NothingToChange {
        property: property.to_string(),
        element: element.to_owned(),
        whence,
    };
    let Some(reference) = first else {
        let longhand = winners.first().map_or(property, |(longhand, _)| longhand);
        return Err(nothing(match &styles.value(target, longhand).source {
            ValueSource::Inherited { from } => {
                let above = ElementSummary::new(styles.page(), *from);
                format!(
                    "it inherits from {} at {}, where it can be set",
                    above.label(),
                    above.place
                )
            }
            _ => "it has its initial value".to_owned(),
        }));
    };
    if let SheetRef::Hints(_) = reference.sheet {
        return Err(nothing(
            "its value comes from an attribute of the markup, not from a declaration".to_owned(),
        ));
    }
    if !is_placed(styles, reference.sheet) {
        return Err(EditError::NotThere {
            place: styles.page().document().text().name().to_owned(),
            why: format!(
                "{property} is set in an embedded sheet with characters that the parser changed, so \
                 that it can't be patched in the page"
            ),
        });
    }
    if let SheetRef::Listed(at) = reference.sheet
        && styles.page().sheet(at).origin != Origin::Author
    {
        return Err(nothing(
            "its value comes from the browser's own sheet, which is not a file of the site"
                .to_owned(),
        ));
    }
    Ok(reference)
}
