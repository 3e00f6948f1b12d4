//! `step`: a number of the winning declaration, so much more or less in its own unit.

use super::place::winner;
use super::set::set;
use super::{EditError, Made};
use crate::page::{PropertyName, Styles, Target};
use crate::question::ElementSummary;
use crate::sheet::Kind;
use crate::value::substitution::value_tokens;

/// Adds to the number that the winning declaration of a property is, and keeps its unit: `1em` and
/// `+0.1` give `1.1em`.
///
/// # Errors
/// Where the value is no single number with or without a unit, the new one does not fit, or there is
/// no declaration to change.
pub(super) fn step(
    styles: &Styles<'_>,
    target: &Target,
    property: &PropertyName,
    by: &str,
) -> Result<Made, EditError> {
    let (value, was) = stepped(styles, target, property, by)?;
    let made = set(styles, target, property, &value)?;
    Ok(Made {
        was: Some(was),
        ..made
    })
}

/// The value after a step, and before.
pub(super) fn stepped(
    styles: &Styles<'_>,
    target: &Target,
    property: &PropertyName,
    by: &str,
) -> Result<(String, String), EditError> {
    let element = ElementSummary::of_target(styles.page(), target).label();
    winner(styles, target, property, &element)?;
    let longhand = match property {
        PropertyName::Known(id) => PropertyName::Known(id.longhands()[0]),
        PropertyName::Custom(_) => property.clone(),
    };
    let value = styles.value(target, &longhand).specified.trim().to_owned();
    let no_number = || EditError::NoNumber {
        property: property.to_string(),
        value: value.clone(),
    };
    let tokens = value_tokens(&value);
    let [only] = tokens[..] else {
        return Err(no_number());
    };
    if !matches!(only.kind, Kind::Number | Kind::Dimension | Kind::Percentage) {
        return Err(no_number());
    }
    let digits = value.len()
        - value
            .trim_start_matches(|c: char| c.is_ascii_digit() || matches!(c, '.' | '-' | '+'))
            .len();
    let (number, unit) = value.split_at(digits);
    let by = &match by {
        "+" | "-" | "++" | "--" => {
            let (fine, coarse) = fitting(property, unit);
            let size = if by.len() == 1 { fine } else { coarse };
            format!("{}{size}", &by[..1])
        }
        given => given.to_owned(),
    };
    let bare = by.strip_prefix('+').unwrap_or(by);
    let Ok(from) = number.parse::<f64>() else {
        return Err(no_number());
    };
    let Some(more) = bare.parse::<f64>().ok().filter(|n| n.is_finite()) else {
        return Err(EditError::NoStep { by: by.clone() });
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
    let name = property.to_string();
    match unit.to_ascii_lowercase().as_str() {
        "" if name == "font-weight" => ("100", "300"),
        "" if name.contains("opacity") || name == "line-height" || name == "zoom" => {
            ("0.05", "0.25")
        }
        "" if name.starts_with("flex-") || name == "scale" => ("0.1", "0.5"),
        "em" | "rem" | "ex" | "rex" | "ch" | "rch" | "cap" | "rcap" | "ic" | "ric" | "lh"
        | "rlh" | "fr" | "s" | "in" | "pc" | "turn" | "rad" | "dppx" | "x" => ("0.1", "0.5"),
        "cm" => ("0.1", "1"),
        "ms" => ("10", "100"),
        _ => ("1", "10"),
    }
}

/// Whether a plain number other than 0 is no value of a property.
fn property_needs_unit(property: &PropertyName) -> bool {
    let PropertyName::Known(id) = property else {
        return false;
    };
    crate::value::grammar::match_property(*id, "1", &value_tokens("1")).is_err()
}
