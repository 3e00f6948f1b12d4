//! Where a change can go.

use fingerpost::advice::Advice;
use fingerpost::edit::Destination;
use fingerpost::impact::destinations::{DestinationAnswer, DestinationsAnswer};

use super::{BAD, FAINT, GOOD, HEAD, painted, place};
use crate::advised;

pub fn destinations(answer: &DestinationsAnswer, advice: &[Advice]) -> String {
    let element = &answer.element;
    let mut text = format!(
        "{}: {} for {}  {}\n",
        answer.property,
        answer.value,
        painted(HEAD, element.label()),
        place(&element.place)
    );
    if answer.destinations.is_empty() {
        text.push_str("\nIt can't go anywhere.\n");
    }
    for (at, one) in answer.destinations.iter().enumerate() {
        text.push_str(&format!("\n{:>3}. {}", at + 1, destination(one)));
    }
    if !answer.refused.is_empty() {
        text.push_str("\nNot there:\n");
    }
    for refused in &answer.refused {
        let into = called(&refused.into);
        text.push_str(&format!("  {}: {}\n", painted(HEAD, into), refused.why));
    }
    text.push_str(&advised::listed(advice));
    text
}

fn destination(one: &DestinationAnswer) -> String {
    let at = one.place.as_ref().map(place).unwrap_or_default();
    let selector = one.selector.as_deref().unwrap_or("no rule");
    let wins = match one.wins {
        true => format!("{} under {selector}, {at}", painted(GOOD, "wins")),
        false => format!("{} {selector}, {at}", painted(BAD, "loses to")),
    };
    let others = match &one.side_effects {
        Some(others) => format!("also changes {others}"),
        None => "changes nothing else".to_owned(),
    };
    let mut text = format!(
        "{}  {}\n     {wins}\n     {others}\n",
        painted(HEAD, called(&one.into)),
        painted(FAINT, &one.file),
    );
    if let Some(risk) = &one.risk {
        text.push_str(&format!("     {} {risk}\n", painted(BAD, "but")));
    }
    text
}

/// What a destination is called in a heading.
fn called(into: &Destination) -> String {
    match into {
        Destination::Sources => "where it is written now".to_owned(),
        Destination::Winning => "the built sheet that sets it".to_owned(),
        Destination::Overrides => "the override sheet".to_owned(),
        Destination::Page => "the page's embedded sheet".to_owned(),
        Destination::Inline => "the style attribute".to_owned(),
        other => other.to_string(),
    }
}
