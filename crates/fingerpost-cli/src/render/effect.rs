//! The side effects of a change.

use std::collections::BTreeSet;

use fingerpost::impact::site::{Effect, Group, RuleEffect, ValueChange};
use fingerpost::question::ElementSummary;
use fingerpost::value::PropertyId;

use super::{BAD, FAINT, HEAD, counted, painted, place, selector};

/// How many groups of elements are shown, and how many properties of each.
const MOST_GROUPS: usize = 5;
const MOST_CHANGES: usize = 4;

/// Whether a property of what an edit was aimed at has changed.
pub fn changes_aimed(effect: &Effect, property: &str) -> bool {
    let groups = effect.groups.iter().filter(|g| g.aimed && g.now);
    let mut changes = groups.flat_map(|group| &group.changes);
    changes.any(|change| longhands(&change.property).contains(&property))
}

fn longhands(property: &str) -> Vec<&str> {
    match PropertyId::named(property) {
        Some(id) => id.longhands().iter().map(|id| id.name()).collect(),
        None => vec![property],
    }
}

/// What changed of the elements that an edit was aimed at, but for the properties of which something was
/// said already.
pub fn aimed(effect: &Effect, told: &[&str]) -> String {
    let is_told = |change: &&ValueChange| {
        let longhands = longhands(&change.property);
        longhands.iter().all(|name| told.contains(name))
    };
    let mut text = String::new();
    for group in effect.groups.iter().filter(|g| g.aimed && g.now) {
        let new = group.changes.iter().filter(|c| !is_told(c));
        let new: Vec<ValueChange> = new.cloned().collect();
        let who = match &group.elements[..] {
            [only] => only.label(),
            many => counted(many.len(), "element"),
        };
        if !new.is_empty() {
            text.push_str(&format!("{}: {}\n", painted(HEAD, who), changes(&new)));
        }
    }
    text
}

/// Everything else.
pub fn effect(effect: &Effect) -> String {
    let mut text = String::new();
    text.push_str(&other_environments(effect));
    text.push_str(&rules(effect));
    let aimed = effect.groups.iter().any(|g| g.aimed);
    match effect.side_effects_in_words() {
        Some(words) => {
            let head = if aimed { "Also changes" } else { "Changes" };
            text.push_str(&format!("{head} {}:\n", painted(HEAD, words)));
            let others = effect.groups.iter().filter(|g| !g.aimed && !g.is_custom());
            let others: Vec<&Group> = others.collect();
            for other in others.iter().take(MOST_GROUPS) {
                text.push_str(&group(other, &effect.situations));
            }
            if others.len() > MOST_GROUPS {
                let more: usize = others[MOST_GROUPS..].iter().map(|g| g.elements.len()).sum();
                text.push_str(&format!(
                    "  and {} in other ways; --json lists them all\n",
                    counted(more, "element")
                ));
            }
        }
        None => text.push_str(&nothing_else(effect, aimed)),
    }
    let custom = effect.groups.iter().filter(|g| !g.aimed && g.is_custom());
    let custom: Vec<&Group> = custom.collect();
    let defined: usize = custom.iter().map(|g| g.elements.len()).sum();
    if let Some(first) = custom.first() {
        let names: Vec<&str> = first.changes.iter().map(|c| c.property.as_str()).collect();
        text.push_str(&painted(
            FAINT,
            format!(
                "{} also changes on {}.\n",
                names.join(", "),
                counted(defined, "element")
            ),
        ));
    }
    if effect.undecided > 0 {
        text.push_str(&format!(
            "{} Whether it changes {} depends on the size of their container, which --size gives.\n",
            painted(BAD, "Note:"),
            counted(effect.undecided, "element")
        ));
    }
    for note in &effect.notes {
        text.push_str(&format!("{} {note}\n", painted(BAD, "Note:")));
    }
    for unread in &effect.unread {
        text.push_str(&format!("{} {unread}\n", painted(BAD, "Not looked at:")));
    }
    text
}

/// How much was looked at where nothing else changes.
fn nothing_else(effect: &Effect, aimed: bool) -> String {
    let what = match aimed {
        true => "Nothing else changes",
        false => "No style of any element changes",
    };
    let pages = match effect.pages {
        0 | 1 => "on this page".to_owned(),
        pages => format!("on the site's {pages} pages"),
    };
    let of_states = |words: &&String| words.starts_with("on :");
    let states = effect.situations.iter().filter(of_states).count();
    let looked = match (states, effect.situations.len() - states) {
        (0, 0) => "",
        (0, _) => ", at any width or in any medium that the theme asks for",
        (_, 0) => ", in any state that the change names",
        _ => {
            ", in any state that the change names, at any width or in any medium that the theme asks for"
        }
    };
    painted(FAINT, format!("{what} {pages}{looked}.")) + "\n"
}

/// How the elements that were aimed at change where it is not as asked.
fn other_environments(effect: &Effect) -> String {
    let mut text = String::new();
    let aimed: Vec<&Group> = effect.groups.iter().filter(|g| g.aimed).collect();
    if aimed.is_empty() {
        return text;
    }
    let elsewhere = aimed.iter().filter(|g| !g.now);
    let differing = elsewhere.filter_map(|group| {
        let new = beyond(group, &aimed);
        (!new.is_empty()).then_some((group, new))
    });
    for (group, new) in differing.take(MOST_GROUPS) {
        text.push_str(&format!(
            "{}: {}\n",
            upper(&group.also.join(", ")),
            changes(&new)
        ));
    }
    // Who asked at another width may have meant that width only.
    let alike: BTreeSet<&str> = aimed
        .iter()
        .filter(|g| g.now && !effect.usual)
        .flat_map(|g| g.also.iter().map(String::as_str))
        .collect();
    if !alike.is_empty() {
        let alike: Vec<&str> = alike.into_iter().collect();
        text.push_str(&format!("It changes the same {}.\n", alike.join(", ")));
    }
    if !effect.untouched.is_empty() {
        text.push_str(&format!("Unchanged {}.\n", effect.untouched.join(", ")));
    }
    text
}

/// What changes of a group in other environments only: what its elements show in the environment asked for was said already.
fn beyond(group: &Group, aimed: &[&Group]) -> Vec<ValueChange> {
    let same = |one: &ElementSummary, other: &ElementSummary| {
        (&one.place.file, one.index, &one.pseudo) == (&other.place.file, other.index, &other.pseudo)
    };
    let first = group.elements.first();
    let now = aimed.iter().filter(|known| {
        let mut elements = known.elements.iter();
        known.now && first.is_some_and(|first| elements.any(|one| same(one, first)))
    });
    let known: Vec<&ValueChange> = now.flat_map(|known| &known.changes).collect();
    let is_known = |change: &&ValueChange| {
        known.iter().any(|known| {
            (&known.property, &known.before, &known.after)
                == (&change.property, &change.before, &change.after)
        })
    };
    let new = group.changes.iter().filter(|change| !is_known(change));
    new.cloned().collect()
}

fn upper(words: &str) -> String {
    let mut characters = words.chars();
    let first = characters.next().map(|c| c.to_uppercase().to_string());
    first.unwrap_or_default() + characters.as_str()
}

/// Rules that began or stopped to apply to elements that were not aimed at.
fn rules(effect: &Effect) -> String {
    let aimed: BTreeSet<u32> = effect
        .groups
        .iter()
        .filter(|g| g.aimed)
        .flat_map(|g| g.elements.iter().map(|e| e.index))
        .collect();
    let mut text = String::new();
    for RuleEffect {
        rule, gained, lost, ..
    } in effect.rules.iter().take(MOST_GROUPS)
    {
        let others = |elements: &[ElementSummary]| -> Vec<String> {
            let others = elements.iter().filter(|e| !aimed.contains(&e.index));
            others.map(ElementSummary::label).collect()
        };
        let (gained, lost) = (others(gained), others(lost));
        let mut parts = Vec::new();
        if !gained.is_empty() {
            parts.push(format!("now applies to {}", listed(&gained)));
        }
        if !lost.is_empty() {
            parts.push(format!("no longer applies to {}", listed(&lost)));
        }
        if !parts.is_empty() {
            text.push_str(&format!(
                "{}  {} {}\n",
                selector(rule),
                place(&rule.place),
                parts.join(", and ")
            ));
        }
    }
    text
}

/// The first few names, and how many more there are.
fn listed(names: &[String]) -> String {
    match names {
        [one] => one.clone(),
        [one, two] => format!("{one} and {two}"),
        [one, two, rest @ ..] => format!("{one}, {two} and {} more", rest.len()),
        [] => String::new(),
    }
}

fn group(group: &Group, environment: &[String]) -> String {
    let mut text = String::new();
    let Some(first) = group.elements.first() else {
        return text;
    };
    let more = match group.elements.len() - 1 {
        0 => String::new(),
        more => {
            let pages: BTreeSet<&str> = group
                .elements
                .iter()
                .map(|e| e.place.file.as_str())
                .collect();
            let pages = match pages.len() {
                1 => String::new(),
                pages => format!(", on {pages} pages"),
            };
            format!(" and {more} more{pages}")
        }
    };
    text.push_str(&format!(
        "  {}  {}{more}\n",
        painted(HEAD, first.label()),
        place(&first.place)
    ));
    text.push_str(&format!("      {}", changes(&group.changes)));
    if let Some(when) = when(group, environment) {
        text.push_str(&format!("  {}", painted(FAINT, when)));
    }
    match group.inside {
        0 => {}
        1 => text.push_str("; 1 element inside inherits it"),
        inside => text.push_str(&format!("; {inside} elements inside inherit it")),
    }
    text.push('\n');
    text
}

/// In which environment a group changes so, where that is not in all: those in which it does, or those in
/// which it does not, whichever are fewer.
fn when(group: &Group, environment: &[String]) -> Option<String> {
    if group.always {
        return None;
    }
    let not = environment.iter().filter(|s| !group.also.contains(s));
    let not: Vec<&str> = not.map(String::as_str).collect();
    let also: Vec<&str> = group.also.iter().map(String::as_str).collect();
    Some(match (group.now, &also[..]) {
        (true, []) => "in this environment only".to_owned(),
        (true, also) if not.len() > also.len() => {
            format!("in this environment and {} only", also.join(", "))
        }
        (true, _) => format!("not {}", not.join(", ")),
        (false, also) => format!("only {}", also.join(", ")),
    })
}

fn changes(changes: &[ValueChange]) -> String {
    let mut parts: Vec<String> = changes
        .iter()
        .take(MOST_CHANGES)
        .map(|c| format!("{}: {} → {}", c.property, shown(&c.before), shown(&c.after)))
        .collect();
    if changes.len() > MOST_CHANGES {
        parts.push(format!("and {} more", changes.len() - MOST_CHANGES));
    }
    parts.join(", ")
}

/// A value in one short line; an empty one is that of a custom property that is not set.
fn shown(value: &str) -> String {
    const LONGEST: usize = 48;
    let folded = value.split_whitespace().collect::<Vec<_>>().join(" ");
    match folded.chars().count() {
        0 => "nothing".to_owned(),
        count if count > LONGEST => folded.chars().take(LONGEST).chain(['…']).collect(),
        _ => folded,
    }
}
