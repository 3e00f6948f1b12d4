//! What an edit did that has just been put into the draft.

use std::path::Path;

use fingerpost::advice::Advice;
use fingerpost::impact::change::EditDetails;
use fingerpost::impact::site::Effect;
use fingerpost::question::RuleSummary;
use fingerpost::question::codes::ContenderStanding;
use fingerpost::question::why::ContestAnswer;
use fingerpost::session::Outcome;
use fingerpost::site::ChangedFile;
use fingerpost::text::is_url;

use super::draft;
use super::{BAD, GOOD, HEAD, counted, effect, painted, place, selector};
use crate::advised;

/// How many properties of an answer are shown one by one.
const MOST_PROPERTIES: usize = 6;

/// One edit.
pub fn tried(outcome: &Outcome, advice: &[Advice], page: &str, site: &str) -> String {
    let mut text = String::new();
    // Where a sheet was made for it, that came first.
    let added = outcome.edits.last();
    let details = added.and_then(|added| added.details.as_ref());
    let elements = details.map_or(&[][..], |details| &details.elements);
    if elements.len() > 1 {
        text.push_str(&format!("{} elements:\n", elements.len()));
        for element in elements.iter().take(MOST_PROPERTIES) {
            text.push_str(&format!(
                "  {}  {}\n",
                painted(HEAD, element.label()),
                place(&element.place)
            ));
        }
        if let Some(more) = elements.len().checked_sub(MOST_PROPERTIES)
            && more > 0
        {
            text.push_str(&format!("  and {more} more\n"));
        }
        text.push('\n');
    }
    text.push_str(&format!(
        "Change {} in the draft (not saved): {}\n\n",
        outcome.change.unwrap_or_default(),
        outcome.summary
    ));
    text.push_str(&diffs(&outcome.files));
    for warning in &outcome.warnings {
        text.push_str(&format!("{} {warning}\n", painted(BAD, "Note:")));
    }
    if let (Some(details), Some(moved)) = (details, &outcome.effect) {
        text.push_str(&told(details, moved));
    }
    text.push_str(&advised::listed(advice));
    if !text.ends_with("\n\n") {
        text.push('\n');
    }
    let live = live(page, site);
    text.push_str(&format!(
        "To see it live: {live}\nTo save it: fingerpost save{site}\nTo undo it: fingerpost draft undo{site}\n"
    ));
    text
}

/// The command that shows a page on the desk, from where one is.
fn live(page: &str, site: &str) -> String {
    let is_here = site.is_empty() && !page.contains(' ') && Path::new(page).is_file();
    match is_here || is_url(page) {
        true => format!("fingerpost desk {page}{site}"),
        false => format!("fingerpost desk{site}"),
    }
}

fn diffs(files: &[ChangedFile]) -> String {
    let blocks = draft::diffs(files.iter().map(ChangedFile::diff));
    blocks.into_iter().map(|block| block + "\n").collect()
}

/// A property's value, and where it is set.
fn value_and_place(contest: &ContestAnswer) -> String {
    let mut contenders = contest.contenders.iter();
    let winner = contenders.find(|c| c.standing == ContenderStanding::Wins);
    let from = winner.map(|winner| format!("  {}", place(&winner.declaration.place)));
    format!(
        "{}{}",
        painted(GOOD, &contest.value.computed),
        from.unwrap_or_default()
    )
}

fn told(answer: &EditDetails, moved: &Effect) -> String {
    let mut text = String::new();
    let mut said: Vec<&str> = Vec::new();
    if answer.elements.len() < 2 {
        for why in &answer.why {
            let all = why.contests.iter();
            let all: Vec<(&str, String)> = all
                .map(|contest| (&*contest.property, value_and_place(contest)))
                .collect();
            let changes = |(property, _): &&(&str, String)| effect::changes_aimed(moved, property);
            let is_changed = all.iter().any(|line| changes(&line));
            let is_one = (2..=MOST_PROPERTIES).contains(&all.len())
                && all.iter().all(|(_, value)| *value == all[0].1);
            // A shorthand that gives all its longhands one value is one line; otherwise only the longhands that changed are shown.
            let lines: Vec<(&str, &String)> = match is_one {
                true => vec![(&why.property, &all[0].1)],
                false => {
                    let shown = all.iter().filter(|line| !is_changed || changes(line));
                    let shown = shown.take(MOST_PROPERTIES);
                    shown.map(|(property, value)| (*property, value)).collect()
                }
            };
            let told = why.contests.iter().map(|contest| &*contest.property);
            said.extend(told.filter(|name| is_one || lines.iter().any(|(shown, _)| shown == name)));
            let label = why.element.label();
            for (property, value) in lines {
                let is = if is_changed { "is now" } else { "stays" };
                text.push_str(&format!("{property} of {label} {is} {value}\n"));
            }
        }
    }
    text.push_str(&effect::aimed(moved, &said));
    if let Some(reach) = &answer.reach {
        let same = match reach.same {
            0 if reach.before + reach.after == 0 => String::new(),
            same if same == reach.after && same == reach.before => ", the same".to_owned(),
            0 => ", none of them the same".to_owned(),
            same => format!(", {same} of them the same"),
        };
        text.push_str(&format!(
            "The rule matches {} of this page; before the edit, {}{same}.\n",
            counted(reach.after, "element"),
            counted(reach.before, "element")
        ));
    } else {
        text.push_str(&list("Rules that apply now:", &answer.gained));
        text.push_str(&list("Rules that no longer apply:", &answer.lost));
    }
    text.push_str(&effect::effect(moved));
    text
}

fn list(head: &str, rules: &[RuleSummary]) -> String {
    if rules.is_empty() {
        return String::new();
    }
    let mut text = format!("{head}\n");
    for rule in rules {
        text.push_str(&format!("  {}  {}\n", selector(rule), place(&rule.place)));
    }
    text
}

/// A script of edits.
pub fn scripted(outcome: &Outcome, page: &str, site: &str) -> String {
    let mut text = format!(
        "{} in the draft (not saved)\n\n",
        counted(outcome.edits.len(), "change")
    );
    for added in &outcome.edits {
        text.push_str(&format!("{:>3}  {}\n", added.change, added.summary));
        for warning in &added.warnings {
            text.push_str(&format!("     {} {warning}\n", painted(BAD, "note:")));
        }
    }
    text.push('\n');
    text.push_str(&diffs(&outcome.files));
    if let Some(moved) = &outcome.effect {
        text.push_str(&effect::effect(moved));
    }
    text.push('\n');
    let live = live(page, site);
    text.push_str(&format!(
        "To see them live: {live}\nTo save them: fingerpost save{site}\nTo undo all of them: fingerpost draft undo{site}\n"
    ));
    text
}
