//! What an edit did that has just been put into the draft.

use std::path::Path;

use fingerpost::impact::change::EditAnswer;
use fingerpost::impact::change::NarrowerPlace;
use fingerpost::impact::draft::FileAnswer;
use fingerpost::impact::site::Effect;
use fingerpost::question::RuleSummary;
use fingerpost::question::codes::ContenderStanding;
use fingerpost::question::why::ContestAnswer;
use fingerpost::text::is_url;

use super::draft::diff;
use super::effect::counted;
use super::{BAD, GOOD, HEAD, effect, painted, place, selector};

/// How many properties of an answer are shown one by one.
const MOST_PROPERTIES: usize = 6;

/// One edit.
pub fn tried(answer: &EditAnswer, site: &str) -> String {
    let mut text = String::new();
    if answer.elements.len() > 1 {
        text.push_str(&format!("{} elements:\n", answer.elements.len()));
        for element in answer.elements.iter().take(MOST_PROPERTIES) {
            text.push_str(&format!(
                "  {}  {}\n",
                painted(HEAD, element.label()),
                place(&element.place)
            ));
        }
        if let Some(more) = answer.elements.len().checked_sub(MOST_PROPERTIES)
            && more > 0
        {
            text.push_str(&format!("  and {more} more\n"));
        }
        text.push('\n');
    }
    text.push_str(&format!(
        "Tried as change {}, not saved: {}\n\n",
        answer.id, answer.edit.summary
    ));
    text.push_str(&diffs(&answer.files));
    for warning in &answer.edit.warnings {
        text.push_str(&format!("{} {warning}\n", painted(BAD, "Note:")));
    }
    for sentence in &answer.beaten {
        text.push_str(&format!("{} {sentence}\n", painted(BAD, "Note:")));
    }
    text.push_str(&outcome(answer));
    if !text.ends_with("\n\n") {
        text.push('\n');
    }
    let live = live(&answer.edit.intent.page, site);
    text.push_str(&format!(
        "To see it live: {live}\nTo keep it: fingerpost save{site}\nTo take it back: fingerpost draft undo{site}\n"
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

fn diffs(files: &[FileAnswer]) -> String {
    let mut text = String::new();
    for file in files {
        // A source map is no reading matter.
        if file.file.ends_with(".map") {
            text.push_str(&format!("{} is kept true to them.\n\n", file.file));
            continue;
        }
        text.push_str(&diff(&file.diff));
        text.push('\n');
    }
    text
}

/// What a property comes to, and where that is set.
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

fn outcome(answer: &EditAnswer) -> String {
    let mut text = String::new();
    let mut told: Vec<&str> = Vec::new();
    if answer.elements.len() < 2 {
        for why in &answer.why {
            let shown = &why.contests[..why.contests.len().min(MOST_PROPERTIES)];
            told.extend(shown.iter().map(|contest| &*contest.property));
            let values: Vec<String> = shown.iter().map(value_and_place).collect();
            let label = why.element.label();
            // Where all sides of a shorthand come to the same, it says so for all.
            let is_one = values.len() > 1 && values.iter().all(|value| *value == values[0]);
            let names = shown.iter().map(|contest| &contest.property);
            let lines = match is_one && shown.len() == why.contests.len() {
                true => vec![(&why.property, &values[0])],
                false => names.zip(&values).collect(),
            };
            for (property, value) in lines {
                text.push_str(&format!("{property} of {label} is now {value}\n"));
            }
        }
    }
    text.push_str(&effect::aimed(&answer.effect, &told));
    if let Some(reach) = &answer.reach {
        let same = match reach.same {
            0 if reach.before + reach.after == 0 => String::new(),
            same if same == reach.after && same == reach.before => ", the same".to_owned(),
            0 => ", none of them the same".to_owned(),
            same => format!(", {same} of them the same"),
        };
        text.push_str(&format!(
            "The rule reaches {} of this page; before, {}{same}.\n",
            counted(reach.after),
            counted(reach.before)
        ));
    } else {
        text.push_str(&list("Rules that apply now:", &answer.gained));
        text.push_str(&list("Rules that no longer apply:", &answer.lost));
    }
    text.push_str(&effect::effect(&answer.effect));
    if let Some(narrower) = &answer.narrower {
        let into = match narrower.into {
            NarrowerPlace::Here => "--here".to_owned(),
            into => format!("--into {into}"),
        };
        let only = match &narrower.others {
            None => "changes only what was asked for".to_owned(),
            Some(others) => format!("changes only {others} besides"),
        };
        text.push_str(&format!("The same with {} {only}.\n", painted(HEAD, into)));
    }
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
pub fn scripted(
    answers: &[EditAnswer],
    files: &[FileAnswer],
    moved: &Effect,
    site: &str,
) -> String {
    let mut text = format!("Tried, not saved: {} changes\n\n", answers.len());
    for answer in answers {
        text.push_str(&format!("{:>3}  {}\n", answer.id, answer.edit.summary));
        for warning in &answer.edit.warnings {
            text.push_str(&format!("     {} {warning}\n", painted(BAD, "note:")));
        }
    }
    text.push('\n');
    text.push_str(&diffs(files));
    text.push_str(&effect::effect(moved));
    text.push('\n');
    let page = answers
        .first()
        .map_or("", |answer| &answer.edit.intent.page);
    let live = live(page, site);
    text.push_str(&format!(
        "To see them live: {live}\nTo keep them: fingerpost save{site}\nTo take the last one back: fingerpost draft undo{site}\n"
    ));
    text
}
