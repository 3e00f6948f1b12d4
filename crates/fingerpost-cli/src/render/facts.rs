//! What the standards say, and what can be written.

use fingerpost::question::complete::CompleteAnswer;
use fingerpost::question::facts::FactsAnswer;

use super::{FAINT, GOOD, HEAD, PLACE, painted};

/// How many offers are listed before the rest is counted.
const MOST_OFFERS: usize = 60;

pub fn complete(answer: &CompleteAnswer) -> String {
    let mut text = match &answer.property {
        Some(property) => format!("{}: {}", painted(HEAD, property), answer.written),
        None => painted(HEAD, &answer.written),
    };
    text.push('\n');
    if answer.complete && answer.property.is_some() {
        text.push_str(&format!("  {}\n", painted(GOOD, "whole")));
    }
    if answer.offers.is_empty() {
        text.push_str("  Nothing can be added.\n");
    }
    let shown = &answer.offers[..answer.offers.len().min(MOST_OFFERS)];
    let width = shown
        .iter()
        .map(|o| o.text.chars().count())
        .max()
        .unwrap_or(0)
        .min(32);
    for offer in shown {
        text.push_str(&format!(
            "  {:<width$}  {}\n",
            offer.text,
            painted(FAINT, &offer.meaning)
        ));
    }
    if answer.offers.len() > shown.len() {
        let rest = answer.offers.len() - shown.len();
        text.push_str(&format!(
            "  {}\n",
            painted(FAINT, format!("and {rest} more"))
        ));
    }
    let links = answer.offers.iter().filter_map(|o| o.link.as_ref());
    if answer.property.is_some()
        && let Some(link) = links.into_iter().next()
    {
        text.push_str(&format!("{}\n", painted(PLACE, link)));
    }
    text
}

pub fn facts(answer: &FactsAnswer) -> String {
    let mut text = format!("{}\n\n", painted(HEAD, &answer.property));
    let mut row = |name: &str, value: &str| {
        if !value.is_empty() {
            text.push_str(&format!(
                "  {}  {value}\n",
                painted(FAINT, format!("{name:<12}"))
            ));
        }
    };
    row("value", &answer.syntax);
    for part in &answer.types {
        row("", &format!("<{}> = {}", part.name, part.syntax));
    }
    row("initial", &answer.initial);
    row("inherited", if answer.inherited { "yes" } else { "no" });
    row("applies to", &answer.applies_to);
    row("percentages", &answer.percentages);
    row("computed", &answer.computed);
    row("sets", &answer.longhands.join(", "));
    row("resets", &answer.reset_only.join(", "));
    row("set by", &answer.shorthands.join(", "));
    row("group", answer.logical_group.as_deref().unwrap_or(""));
    row("other names", &answer.aliases.join(", "));
    text.push_str(&format!("  {}\n", painted(PLACE, &answer.link)));
    text
}
