//! `set`: a new value for the declaration that wins a property, for one that is named by its place, or
//! for one of the style attribute. What nothing sets is added where it is about the element alone.

use serde::{Deserialize, Serialize};

use crate::edit::destination::Destination;
use crate::edit::error::EditError;
use crate::edit::expected::Declared;
use crate::edit::given::{one_value, value_of};
use crate::edit::kinds::add::{add_here, add_where_alone};
use crate::edit::kinds::info::{ANYWHERE, About, Example, Holds, KindInfo, PROPERTY, required};
use crate::edit::kinds::rule::new_rule_for;
use crate::edit::kinds::{Kind, RuleRequest, SummaryContext};
use crate::edit::make::{merged, of_each};
use crate::edit::plan::rule_at::{Sought, property, spot_at};
use crate::edit::plan::winner::{Found, declaration, winners_of};
use crate::edit::proposal::{At, Proposal};
use crate::edit::request::Asked;
use crate::edit::rewrite::longhand::set_longhand;
use crate::edit::rewrite::write;
use crate::page::{PropertyName, Target};

/// A property gets a value.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Set {
    /// The property.
    pub property: String,
    /// The value.
    pub value: String,
}

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "set",
    does: "Give a property a new value",
    more: "The winning declaration gets the value. A property that nothing sets is added to the strongest rule that matches this element alone, else in a new rule.",
    about: About::MaybeElement,
    destinations: ANYWHERE,
    fields: &[PROPERTY, required("value", "The new value", Holds::Value)],
    example: Example {
        before: "<style>h2 { color: teal }</style><h2>Boats</h2>",
        element: "h2",
        change: r#"{"property":"color","value":"navy"}"#,
        after: "<style>h2 { color: navy }</style><h2>Boats</h2>",
    },
    demo: r#"{"page":"pages/home.html","element":"h2.today","change":{"set":{"property":"color","value":"var(--rust)"}}}"#,
};

impl Kind for Set {
    fn info(&self) -> &'static KindInfo {
        &INFO
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let value = self.value.trim();
        let known = property(&self.property);
        match &known {
            Ok(known) => value_of(known, value)?,
            // An unknown property can be corrected where it is written.
            Err(_) => one_value(value)?,
        }
        let found = declaration(at, target, &self.property);
        let nothing = match found {
            Ok(found) => return set_found(at, found, &self.property, value),
            Err(error) => error,
        };
        let known = known?;
        let name = known.to_string();
        let new = Declared {
            name: name.clone(),
            value: value.to_owned(),
            important: false,
        };
        match (&at.intent.into, nothing) {
            (Destination::Rule(place), EditError::Nothing { .. }) => {
                let rule = spot_at(at.styles, place, Sought::Holder, target)?.rule;
                Ok(write::added_to(at.styles, rule, &[new]))
            }
            (Destination::Inline, EditError::Nothing { .. }) => {
                let element = target.ok_or(EditError::NoElement)?.element;
                add_here(at, element, &new)
            }
            (
                Destination::Sources | Destination::Winning,
                EditError::NothingToChange { whence, .. },
            ) => {
                let target = target.ok_or(EditError::NoElement)?;
                let mut made = add_where_alone(at, target, &new)?;
                made.warnings
                    .insert(0, format!("no declaration sets {name} here: {whence}"));
                Ok(made)
            }
            (Destination::Sources | Destination::Winning, EditError::Several { .. }) => {
                let target = target.ok_or(EditError::NoElement)?;
                set_over_several(at, target, &known, new)
            }
            (_, error) => Err(error),
        }
    }

    fn make_all(&self, at: &At<'_, '_>, targets: &[Target]) -> Option<Result<Proposal, EditError>> {
        if !matches!(at.intent.into, Destination::Sources | Destination::Winning) {
            return None;
        }
        let unset = |target: &&Target| {
            let found = declaration(at, Some(target), &self.property);
            matches!(found, Err(EditError::NothingToChange { .. }))
        };
        let unset: Vec<Target> = targets.iter().filter(unset).cloned().collect();
        match unset.is_empty() {
            true => None,
            false => Some(self.set_and_add(at, targets, &unset)),
        }
    }

    fn elsewhere(&self, _at: &At<'_, '_>, targets: &[Target]) -> Result<RuleRequest, EditError> {
        let value = self.value.trim();
        value_of(&property(&self.property)?, value)?;
        Ok(RuleRequest::one(targets, &self.property, value))
    }

    fn shown(&self) -> String {
        format!("{}: {}", self.property, self.value.trim())
    }

    fn summary(&self, told: &SummaryContext<'_>) -> String {
        let Set { property, value } = self;
        let (who, on, before) = (told.who, told.on, told.before());
        match who {
            "" => format!("set {property} on {on}: {before}{value}"),
            who => format!("set {property} of {who} on {on}: {before}{value}"),
        }
    }

    fn properties(&self) -> Vec<String> {
        vec![self.property.clone()]
    }
}

impl Set {
    /// Sets the property where something sets it, and adds one rule for all the other elements.
    fn set_and_add(
        &self,
        at: &At<'_, '_>,
        targets: &[Target],
        unset: &[Target],
    ) -> Result<Proposal, EditError> {
        let name = property(&self.property)?;
        let value = self.value.trim();
        value_of(&name, value)?;
        let new = Declared {
            name: name.to_string(),
            value: value.to_owned(),
            important: false,
        };
        // The elements were asked for as a whole, of which these are a part.
        let intent = Asked {
            each: at.intent.each && unset.len() == targets.len(),
            ..at.intent.clone()
        };
        let here = At {
            intent: &intent,
            ..*at
        };
        let added = new_rule_for(&here, unset, None, &[new])?;
        let set: Vec<Target> = targets
            .iter()
            .filter(|t| !unset.contains(t))
            .cloned()
            .collect();
        let mut whole = match &set[..] {
            [] => Proposal::default(),
            some => of_each(at, self, some)?,
        };
        let head = added.was.clone().unwrap_or_default();
        whole.warnings.push(format!(
            "{} of them had no declaration of {name}; the new rule {head} sets it",
            unset.len()
        ));
        whole.join(added);
        whole.changes = merged(at.page(), whole.changes)?;
        Ok(whole)
    }
}

/// A shorthand whose longhands are set by several declarations: one declaration of it that beats them all, for the element alone.
fn set_over_several(
    at: &At<'_, '_>,
    target: &Target,
    name: &PropertyName,
    new: Declared,
) -> Result<Proposal, EditError> {
    let winners = winners_of(at.styles, target, name);
    let important = winners.iter().any(|(_, rank)| rank.important);
    let new = Declared { important, ..new };
    let places = winners.iter().map(|(reference, _)| {
        let styles = at.styles.sheet(reference.sheet);
        let sheet = styles.sheet();
        let declaration = sheet.declaration(reference.id);
        format!(
            "{} ({})",
            sheet.name_source(declaration),
            sheet.place_of(declaration).brief()
        )
    });
    let places: Vec<String> = places.collect();
    let attached = winners.iter().rfind(|(_, rank)| rank.attached);
    let mut made = match attached {
        Some((reference, _)) => write::added_behind(at.styles, *reference, &[new]),
        None => add_where_alone(at, target, &new)?,
    };
    let sum = format!(
        "one declaration beats those that set its parts: {}",
        places.join(", ")
    );
    made.warnings.insert(0, sum);
    Ok(made)
}

/// A new value for a declaration, or for one longhand of it.
pub(in crate::edit) fn set_found(
    at: &At<'_, '_>,
    found: Found,
    name: &str,
    value: &str,
) -> Result<Proposal, EditError> {
    let style_sheet = at.styles.sheet(found.reference.sheet);
    let sheet = style_sheet.sheet();
    match PropertyName::named(name) {
        Some(PropertyName::Known(wanted)) if !found.is_own && wanted.longhands() == [wanted] => {
            set_longhand(at.styles, found.reference, wanted, value)
        }
        // A shorthand that another one sets gets a declaration of its own behind that.
        Some(PropertyName::Known(wanted)) if !found.is_own => {
            let declaration = sheet.declaration(found.reference.id);
            let new = Declared {
                name: wanted.name().to_owned(),
                value: value.to_owned(),
                important: declaration.important.is_some(),
            };
            Ok(write::added_behind(at.styles, found.reference, &[new]))
        }
        _ => write::value(at.styles, found.reference, value),
    }
}
