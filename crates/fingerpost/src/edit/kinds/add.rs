//! `add`: one more declaration, in the strongest rule that matches, in one that is named, or in the
//! style attribute.

use serde::{Deserialize, Serialize};

use crate::edit::destination::Destination;
use crate::edit::error::EditError;
use crate::edit::expected::Declared;
use crate::edit::given::value_of;
use crate::edit::kinds::attribute::set_attribute;
use crate::edit::kinds::info::{ADD, About, Example, Holds, KindInfo, PROPERTY, required};
use crate::edit::kinds::rule::new_rule_for;
use crate::edit::kinds::{Kind, RuleRequest, SummaryContext};
use crate::edit::plan::rule_at::{RuleAt, Sought, property, spot_at, strongest, strongest_of};
use crate::edit::plan::winner;
use crate::edit::proposal::{At, Proposal};
use crate::edit::rewrite::write;
use crate::markup::ElementId;
use crate::page::{DeclarationRef, SheetRef, Target};
use crate::question::ElementSummary;
use crate::sheet::RuleId;

/// One more declaration in a rule.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Add {
    /// The property.
    pub property: String,
    /// Its value.
    pub value: String,
}

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "add",
    does: "Add a declaration to the strongest rule that matches",
    more: "",
    about: About::MaybeElement,
    destinations: ADD,
    fields: &[PROPERTY, required("value", "Its value", Holds::Value)],
    example: Example {
        before: "<style>h2 { color: teal }</style><h2>Boats</h2>",
        element: "h2",
        change: r#"{"property":"top","value":"0"}"#,
        after: "<style>h2 { color: teal; top: 0 }</style><h2>Boats</h2>",
    },
    demo: r#"{"page":"pages/home.html","element":"h2.today","change":{"add":{"property":"letter-spacing","value":".02em"}}}"#,
};

impl Kind for Add {
    fn info(&self) -> &'static KindInfo {
        &INFO
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let name = property(&self.property)?;
        let value = self.value.trim();
        value_of(&name, value)?;
        let new = Declared {
            name: name.to_string(),
            value: value.to_owned(),
            important: false,
        };
        match &at.intent.into {
            Destination::Rule(place) => {
                let rule = spot_at(at.styles, place, Sought::Holder, target)?.rule;
                Ok(write::added_to(at.styles, rule, &[new]))
            }
            Destination::Inline => add_here(at, target.ok_or(EditError::NoElement)?.element, &new),
            _ => {
                let target = target.ok_or(EditError::NoElement)?;
                let rule = strongest(at.styles, target).ok_or_else(|| EditError::NoRule {
                    place: ElementSummary::of_target(at.page(), target).label(),
                })?;
                Ok(write::added_to(at.styles, rule, &[new]))
            }
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
        let Add { property, value } = self;
        match (told.was, told.who) {
            ("", who) => format!("add {property}: {value} for {who} on {}", told.on),
            (rule, _) => format!("add {property}: {value} to {rule}"),
        }
    }

    fn properties(&self) -> Vec<String> {
        vec![self.property.clone()]
    }
}

/// Adds a declaration to an element's own style attribute, which it gets if it has none. A
/// declaration of the property that stands there gets the value.
pub(super) fn add_here(
    at: &At<'_, '_>,
    element: ElementId,
    new: &Declared,
) -> Result<Proposal, EditError> {
    let own = at.styles.attribute_sheet(element);
    let sheet = SheetRef::Attribute(element);
    let was = Some("its style attribute".to_owned());
    let made = match &own {
        Some(styles) => {
            let last = styles.sheet().declarations_of(RuleId(0)).last();
            match (
                winner::last_named(styles.sheet(), RuleId(0), &new.name),
                last,
            ) {
                (Some(id), _) => write::value(at.styles, DeclarationRef { sheet, id }, &new.value)?,
                (None, Some((id, _))) => {
                    let last = DeclarationRef { sheet, id };
                    write::added_behind(at.styles, last, std::slice::from_ref(new))
                }
                (None, None) => whole_attribute(at, element, new)?,
            }
        }
        None => whole_attribute(at, element, new)?,
    };
    Ok(Proposal { was, ..made })
}

fn whole_attribute(
    at: &At<'_, '_>,
    element: ElementId,
    new: &Declared,
) -> Result<Proposal, EditError> {
    let text = write::written(new, ": ");
    set_attribute(at.page(), element, "style", Some(&text))
}

/// Adds a declaration where it is about one element alone: to the strongest rule that matches no
/// other element of the page, else in a new rule.
pub(super) fn add_where_alone(
    at: &At<'_, '_>,
    target: &Target,
    new: &Declared,
) -> Result<Proposal, EditError> {
    let reach = at.styles.reach_of_rules();
    let alone = |rule: RuleAt| {
        let sheet = rule.sheet(at.styles);
        let all = at.page().rules().iter().zip(&reach);
        let reaches = all
            .filter(|(r, _)| (r.sheet, r.rule) == (rule.sheet, rule.rule))
            .map(|(_, reach)| *reach)
            .max();
        let conditional =
            std::iter::successors(sheet.rule(rule.rule).parent, |id| sheet.rule(*id).parent)
                .next()
                .is_some();
        reaches.is_some_and(|n| n <= 1) && !conditional
    };
    match strongest_of(at.styles, target, &alone) {
        Some(rule) => {
            let made = write::added_to(at.styles, rule, std::slice::from_ref(new));
            let head = made.was.clone().unwrap_or_default();
            Ok(Proposal {
                summary: Some(format!("add {}: {} to {head}", new.name, new.value)),
                ..made
            })
        }
        None => {
            let made = new_rule_for(
                at,
                std::slice::from_ref(target),
                None,
                std::slice::from_ref(new),
            )?;
            let head = made.was.clone().unwrap_or_default();
            Ok(Proposal {
                summary: Some(format!(
                    "a new rule {head} {{ {}: {} }}",
                    new.name, new.value
                )),
                ..made
            })
        }
    }
}
