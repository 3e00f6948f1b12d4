//! `step`: the number that a property is, larger or smaller in its own unit.

use serde::{Deserialize, Serialize};

use crate::edit::expected::Declared;
use crate::edit::given::value_of;
use crate::edit::kinds::info::{ANYWHERE, About, Example, Holds, KindInfo, PROPERTY, required};
use crate::edit::kinds::set::set_found;
use crate::edit::kinds::{Kind, RuleRequest, SummaryContext};
use crate::edit::plan::rule_at::property;
use crate::edit::plan::winner::{Found, declaration};
use crate::text::Cut;

use crate::edit::error::EditError;
use crate::edit::proposal::{At, Proposal};
use crate::page::{PropertyName, Target};
use crate::sheet::TokenKind;
use crate::value::PropertyId;
use crate::value::sides::sides;
use crate::value::substitution::value_tokens;

/// The number that a property is grows or shrinks, in its own unit.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Step {
    /// The property.
    pub property: String,
    /// How much, such as `+1` or `-0.1`; `+`, `-`, `++` and `--` are steps that fit the unit.
    pub by: String,
}

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "step",
    does: "Make a number larger or smaller in its own unit",
    more: "",
    about: About::MaybeElement,
    destinations: ANYWHERE,
    fields: &[
        PROPERTY,
        required(
            "by",
            "How much more or less, such as +1 or -0.1; + and - take a step that fits the unit, ++ and -- a large one",
            Holds::Step,
        ),
    ],
    example: Example {
        before: "<style>h2 { margin: 1.5rem }</style><h2>Boats</h2>",
        element: "h2",
        change: r#"{"property":"margin","by":"+0.5"}"#,
        after: "<style>h2 { margin: 2rem }</style><h2>Boats</h2>",
    },
    demo: r#"{"page":"pages/home.html","element":"h2.today","change":{"step":{"property":"font-size","by":"+.1"}}}"#,
};

impl Kind for Step {
    fn info(&self) -> &'static KindInfo {
        &INFO
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let name = property(&self.property)?;
        let found = declaration(at, target, &self.property)?;
        let (value, was) = stepped(at, target, found, &name, &self.by)?;
        value_of(&name, &value)?;
        let made = set_found(at, found, &self.property, &value)?;
        Ok(Proposal {
            was: Some(was),
            ..made.derived()
        })
    }

    fn elsewhere(&self, at: &At<'_, '_>, targets: &[Target]) -> Result<RuleRequest, EditError> {
        let target = targets.first().ok_or(EditError::NoElement)?;
        let name = property(&self.property)?;
        let found = declaration(at, Some(target), &self.property)?;
        let (value, _) = stepped(at, Some(target), found, &name, &self.by)?;
        Ok(RuleRequest {
            targets: targets.to_vec(),
            declared: vec![Declared {
                name: self.property.clone(),
                value,
                important: false,
            }],
            selector: None,
        })
    }

    fn shown(&self) -> String {
        format!("{}, by {}", self.property, self.by)
    }

    fn summary(&self, told: &SummaryContext<'_>) -> String {
        let Step { property, by } = self;
        let of = match told.who {
            "" => String::new(),
            who => format!(" of {who}"),
        };
        format!(
            "step {property}{of} on {} by {by}, from {}",
            told.on, told.was
        )
    }

    fn properties(&self) -> Vec<String> {
        vec![self.property.clone()]
    }
}

/// The value after a step, and before: `1em` and `+0.1` give `1.1em`.
fn stepped(
    at: &At<'_, '_>,
    target: Option<&Target>,
    found: Found,
    property: &PropertyName,
    by: &str,
) -> Result<(String, String), EditError> {
    let value = match (found.is_own, target, property) {
        // One side of a shorthand: its part of the value.
        (false, Some(target), PropertyName::Known(id)) if id.longhands() == [*id] => {
            let value = at.styles.value(target, property);
            value.specified.trim().to_owned()
        }
        _ => {
            let style_sheet = at.styles.sheet(found.reference.sheet);
            let sheet = style_sheet.sheet();
            let declaration = sheet.declaration(found.reference.id);
            sheet.value_source(declaration).to_owned()
        }
    };
    let no_number = || EditError::NotANumber {
        property: property.to_string(),
        value: value.clone(),
        part: match property {
            PropertyName::Known(id) if id.longhands().len() > 1 => {
                let first = sides(*id).and_then(|sides| sides.first().copied());
                let first = first.or_else(|| id.longhands().first().copied());
                first.map(|part| part.name().to_owned())
            }
            _ => None,
        },
    };
    let tokens = value_tokens(&value);
    let [only] = tokens[..] else {
        return Err(no_number());
    };
    if !matches!(
        only.kind,
        TokenKind::Number | TokenKind::Dimension | TokenKind::Percentage
    ) {
        return Err(no_number());
    }
    let (number, unit) = value.split_at(only.number_length(&value));
    let by = &match by {
        "+" | "-" | "++" | "--" => {
            let (fine, coarse) = fitting(property, unit);
            let size = if by.len() == 1 { fine } else { coarse };
            format!("{}{size}", by.cut(..1))
        }
        given => given.to_owned(),
    };
    let bare = by.strip_prefix('+').unwrap_or(by);
    let Ok(from) = number.parse::<f64>() else {
        return Err(no_number());
    };
    let Some(more) = bare.parse::<f64>().ok().filter(|n| n.is_finite()) else {
        return Err(EditError::InvalidStep { by: by.clone() });
    };
    // As many decimals as either has, so that 0.1 and 0.2 make 0.3.
    let decimals = |text: &str| text.split_once('.').map_or(0, |(_, rest)| rest.len());
    let places = decimals(number).max(decimals(bare));
    let mut text = format!("{:.places$}", from + more);
    if text.contains('.') {
        text.truncate(text.trim_end_matches('0').trim_end_matches('.').len());
    }
    // A file that writes `.5` goes on to.
    if number.trim_start_matches(['-', '+']).starts_with('.') {
        text = text.replacen(
            "0.",
            ".",
            usize::from(text.trim_start_matches('-').starts_with("0.")),
        );
    }
    let unit = if unit.is_empty() && number == "0" && from == 0.0 && property_needs_unit(property) {
        "px"
    } else {
        unit
    };
    Ok((format!("{text}{unit}"), value))
}

/// A fine and a coarse step for a unit. What is a coarse step for pixels is far too large for an
/// em: a step changes a usual value by about a tenth, a coarse one by about a half.
fn fitting(property: &PropertyName, unit: &str) -> (&'static str, &'static str) {
    if unit.is_empty()
        && let PropertyName::Known(property) = property
    {
        return match *property {
            PropertyId::FONT_WEIGHT => ("100", "300"),
            PropertyId::OPACITY
            | PropertyId::FILL_OPACITY
            | PropertyId::FLOOD_OPACITY
            | PropertyId::STOP_OPACITY
            | PropertyId::STROKE_OPACITY
            | PropertyId::SHAPE_IMAGE_THRESHOLD
            | PropertyId::LINE_HEIGHT
            | PropertyId::ZOOM => ("0.05", "0.25"),
            PropertyId::FLEX_GROW | PropertyId::FLEX_SHRINK | PropertyId::SCALE => ("0.1", "0.5"),
            _ => ("1", "10"),
        };
    }
    match unit.to_ascii_lowercase().as_str() {
        "em" | "rem" | "ex" | "rex" | "ch" | "rch" | "cap" | "rcap" | "ic" | "ric" | "lh"
        | "rlh" | "fr" | "s" | "in" | "pc" | "turn" | "rad" | "dppx" | "x" => ("0.1", "0.5"),
        "cm" => ("0.1", "1"),
        "ms" => ("10", "100"),
        _ => ("1", "10"),
    }
}

/// Whether a plain number other than 0 is not a value of a property.
fn property_needs_unit(property: &PropertyName) -> bool {
    let PropertyName::Known(id) = property else {
        return false;
    };
    crate::value::grammar::match_property(*id, "1", &value_tokens("1")).is_err()
}
