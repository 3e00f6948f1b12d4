//! `step`: a number of the winning declaration, so much more or less in its own unit.

use super::Edit;
use super::set::{SetError, set, winner};
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
pub fn step(
    styles: &Styles<'_>,
    target: &Target,
    property: &PropertyName,
    by: &str,
) -> Result<Edit, SetError> {
    let element = ElementSummary::of_target(styles.page(), target).label();
    winner(styles, target, property, &element)?;
    let longhand = match property {
        PropertyName::Known(id) => PropertyName::Known(id.longhands()[0]),
        PropertyName::Custom(_) => property.clone(),
    };
    let value = styles.value(target, &longhand).specified.trim().to_owned();
    let no_number = || SetError::NoNumber {
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
    let bare = by.strip_prefix('+').unwrap_or(by);
    let (Ok(from), Ok(more)) = (number.parse::<f64>(), bare.parse::<f64>()) else {
        return Err(no_number());
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
    set(styles, target, property, &format!("{text}{unit}"))
}

/// Whether a plain number other than 0 is no value of a property.
fn property_needs_unit(property: &PropertyName) -> bool {
    let PropertyName::Known(id) = property else {
        return false;
    };
    crate::value::grammar::match_property(*id, "1", &value_tokens("1")).is_err()
}
