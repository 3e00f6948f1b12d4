//! The contest for a property.

use fingerpost::question::codes::{ContenderStanding, ValueFrom};
use fingerpost::question::why::{ContestAnswer, ValueAnswer, WhyAnswer};

use super::{BAD, FAINT, GOOD, HEAD, LOST, painted, place, provenance, selector};

pub fn why(answer: &WhyAnswer) -> String {
    let mut text = format!(
        "{} of {}  {}\n",
        painted(HEAD, &answer.property),
        painted(HEAD, answer.element.label()),
        place(&answer.element.place)
    );
    for group in group(&answer.contests) {
        text.push('\n');
        // Where each has its own value, the names stand beside the values.
        if answer.contests.len() > 1 && has_one_value(&group) {
            let names = group.iter().map(|contest| contest.property.as_str());
            let names = few(names.collect(), MOST_NAMES);
            text.push_str(&format!("{}\n", painted(HEAD, names.join(", "))));
        }
        values(&group, &mut text);
        contest(group[0], &mut text);
    }
    text
}

/// Longhands with the same contenders, faring the same, are told once.
fn group(contests: &[ContestAnswer]) -> Vec<Vec<&ContestAnswer>> {
    let key = |contest: &ContestAnswer| {
        let contenders = contest
            .contenders
            .iter()
            .map(|c| (c.declaration.place.clone(), c.standing, c.sentence.clone()));
        let excluded = contest.excluded.iter().map(|e| e.declaration.place.clone());
        (
            contenders.collect::<Vec<_>>(),
            excluded.collect::<Vec<_>>(),
            contest.value.source,
            contest.value.inherited_from.as_ref().map(|e| e.index),
        )
    };
    let mut groups: Vec<Vec<&ContestAnswer>> = Vec::new();
    for contest in contests {
        match groups.iter_mut().find(|g| key(g[0]) == key(contest)) {
            Some(group) => group.push(contest),
            None => groups.push(vec![contest]),
        }
    }
    groups
}

/// How many longhands are named for one contest.
const MOST_NAMES: usize = 12;

/// The first of several names, with how many more there are.
fn few(mut names: Vec<&str>, most: usize) -> Vec<String> {
    let more = names.len().saturating_sub(most);
    names.truncate(most);
    let mut shown: Vec<String> = names.into_iter().map(str::to_owned).collect();
    if more > 0 {
        shown.push(format!("and {more} more"));
    }
    shown
}

fn has_one_value(group: &[&ContestAnswer]) -> bool {
    let first = &group[0].value.computed;
    group.iter().all(|contest| contest.value.computed == *first)
}

fn values(group: &[&ContestAnswer], text: &mut String) {
    let first = &group[0].value;
    if has_one_value(group) {
        let swatch = super::swatch(&first.computed);
        let computed = painted(GOOD, shown(&first.computed));
        text.push_str(&format!("  {swatch}{computed}"));
        if first.specified != first.computed && first.source == ValueFrom::Declared {
            text.push_str(&painted(
                FAINT,
                format!("  specified as {}", first.specified),
            ));
        }
    } else {
        let lines = group.iter().map(|contest| {
            let value = shown(&contest.value.computed);
            let swatch = super::swatch(value);
            let name = painted(HEAD, &contest.property);
            format!("  {name}: {swatch}{}", painted(GOOD, value))
        });
        let lines: Vec<String> = lines.collect();
        let lines = few(lines.iter().map(String::as_str).collect(), MOST_NAMES);
        text.push_str(&lines.join("\n"));
    }
    match first.source {
        ValueFrom::Inherited => inherited(first, text),
        ValueFrom::Initial => text.push_str("  its initial value"),
        _ => {}
    }
    text.push('\n');
    variables(first, text);
    if let Some(fallen) = &first.fell_through {
        text.push_str(&format!("    {}\n", painted(BAD, fallen)));
    }
}

/// The custom properties that a value went through.
pub(super) fn variables(value: &ValueAnswer, text: &mut String) {
    for variable in &value.variables {
        let value = variable.value.as_deref().unwrap_or("has no value here");
        text.push_str(&format!("    through {}: {value}", variable.name));
        if let Some(declaration) = &variable.declaration {
            text.push_str(&format!(
                "  {}  on {}",
                place(&declaration.place),
                variable.element.label()
            ));
        }
        text.push('\n');
    }
}

fn shown(value: &str) -> &str {
    if value.is_empty() { "(nothing)" } else { value }
}

pub(super) fn inherited(value: &ValueAnswer, text: &mut String) {
    if let Some(from) = &value.inherited_from {
        text.push_str(&format!(
            "  inherited from {}  {}",
            painted(HEAD, from.label()),
            place(&from.place)
        ));
    }
    if let Some(declaration) = &value.inherited_declaration {
        text.push_str(&format!(
            "\n    set there by {}  {}  {}: {}",
            declaration.rule.selector,
            place(&declaration.place),
            declaration.property,
            declaration.value
        ));
    }
}

fn contest(contest: &ContestAnswer, text: &mut String) {
    if contest.contenders.is_empty() && contest.excluded.is_empty() {
        text.push_str("\n  No declaration sets it on this element.\n");
        return;
    }
    for contender in &contest.contenders {
        let (mark, style) = match contender.standing {
            ContenderStanding::Wins => ("●", GOOD),
            ContenderStanding::HandsOver => ("◌", FAINT),
            _ => ("○", LOST),
        };
        let declaration = &contender.declaration;
        let important = if declaration.important {
            " !important"
        } else {
            ""
        };
        text.push_str(&format!(
            "\n  {style}{mark}{style:#} {}: {}{important}\n      {}  {}  {}\n      {style}{}{style:#}\n",
            declaration.property,
            declaration.value,
            selector(&declaration.rule),
            place(&declaration.place),
            painted(FAINT, provenance(&declaration.rule)),
            contender.sentence,
        ));
    }
    if contest.more_contenders > 0 {
        let line = format!("and {} more that lose", contest.more_contenders);
        text.push_str(&format!("\n  {}\n", painted(FAINT, line)));
    }
    for note in &contest.passing {
        text.push_str(&format!("\n  {}\n", painted(FAINT, note)));
    }
    if contest.excluded.is_empty() {
        return;
    }
    text.push_str("\n  Match too, but take no part:\n");
    for excluded in &contest.excluded {
        let declaration = &excluded.declaration;
        text.push_str(&format!(
            "\n  {BAD}✗{BAD:#} {}: {}\n      {}  {}\n      {}\n",
            declaration.property,
            declaration.value,
            selector(&declaration.rule),
            place(&declaration.place),
            excluded.sentence,
        ));
        if let Some(outcomes) = &excluded.if_it_holds {
            text.push_str(&format!("      {}\n", painted(LOST, outcomes)));
        }
    }
}
