//! The draft: what was tried, its diff, and what was saved.

use anstyle::AnsiColor;
use fingerpost::edit::{Edit, Intent, Step};
use fingerpost::question::RuleSummary;
use fingerpost::question::why::WhyAnswer;
use fingerpost::site::Change;

use super::{BAD, FAINT, GOOD, HEAD, painted, place, selector};
use crate::drafts::TriedAnswer;

/// A change that has just been put into the draft.
pub fn tried(intent: &Intent, difference: &str, why: &WhyAnswer, site: &str) -> String {
    let mut text = format!("Tried, not saved: {intent}\n\n{}\n", diff(difference));
    for contest in &why.contests {
        let winner = contest.contenders.iter().find(|c| c.standing == "wins");
        let from = winner.map_or_else(String::new, |w| {
            format!("  {}", place(&w.declaration.place))
        });
        text.push_str(&format!(
            "{} of {} is now {}{from}\n",
            contest.property,
            why.element.label(),
            painted(GOOD, &contest.value.computed),
        ));
    }
    text.push_str(&format!(
        "\nTo keep it: fingerpost save{site}\nTo take it back: fingerpost draft undo{site}\n"
    ));
    text
}

/// What was taken back, or done again.
pub fn stepped(step: &Step, undo: bool, edit: Option<&Edit>) -> String {
    let what = edit.map_or_else(String::new, |e| format!(": {}", e.intent));
    let (id, done) = match step {
        Step::Tried { id } => (id, "trying"),
        Step::Switched { id } => (id, "switching"),
        Step::Dropped { id, .. } => (id, "dropping"),
    };
    if undo {
        format!("Taken back: {done} change {id}{what}")
    } else {
        format!("Done again: {done} change {id}{what}")
    }
}

/// A change of tags that has just been put into the draft.
pub fn marked(
    intent: &Intent,
    difference: &str,
    gained: &[RuleSummary],
    lost: &[RuleSummary],
    site: &str,
) -> String {
    let mut text = format!("Tried, not saved: {intent}\n\n{}\n", diff(difference));
    let mut list = |head: &str, rules: &[RuleSummary]| {
        if rules.is_empty() {
            return;
        }
        text.push_str(&format!("{head}\n"));
        for rule in rules {
            text.push_str(&format!("  {}  {}\n", selector(rule), place(&rule.place)));
        }
    };
    list("Rules that match now:", gained);
    list("Rules that match no more:", lost);
    if gained.is_empty() && lost.is_empty() {
        text.push_str("The same rules match as before.\n");
    }
    text.push_str(&format!(
        "\nTo keep it: fingerpost save{site}\nTo take it back: fingerpost draft undo{site}\n"
    ));
    text
}

pub fn draft(edits: &[TriedAnswer<'_>], diffs: &[&str]) -> String {
    if edits.is_empty() {
        return "The draft is empty: nothing is tried that is not saved.\n".to_owned();
    }
    let mut text = String::new();
    for tried in edits {
        let state = match tried.state {
            "off" => painted(FAINT, "  off"),
            "adrift" => painted(BAD, "  adrift: what it changes is not there"),
            _ => String::new(),
        };
        text.push_str(&format!(
            "{:>3}  {}  {}{state}\n",
            tried.id,
            tried.edit.intent,
            painted(FAINT, &tried.edit.file)
        ));
    }
    for difference in diffs {
        text.push_str(&format!("\n{}", diff(difference)));
    }
    if diffs.is_empty() {
        text.push_str("\nTogether they change nothing.\n");
    }
    text
}

pub fn dropped(count: Option<usize>) -> String {
    match count {
        None => "Dropped a draft that could not be read. No source file was changed.\n".to_owned(),
        Some(0) => "There was no draft.\n".to_owned(),
        Some(1) => "Dropped 1 change. No source file was changed.\n".to_owned(),
        Some(count) => format!("Dropped {count} changes. No source file was changed.\n"),
    }
}

pub fn saved(changes: &[Change]) -> String {
    if changes.is_empty() {
        return "There was nothing to save.\n".to_owned();
    }
    let mut text = String::new();
    for change in changes {
        text.push_str(&format!(
            "Saved {}\n\n{}",
            painted(HEAD, change.before.name()),
            diff(&change.diff())
        ));
    }
    text
}

/// A unified diff with its lines coloured by what they do.
fn diff(unified: &str) -> String {
    let added = AnsiColor::Green.on_default();
    let removed = AnsiColor::Red.on_default();
    let mut text = String::new();
    for line in unified.lines() {
        let style = match line.as_bytes().first() {
            Some(b'+') if !line.starts_with("+++") => added,
            Some(b'-') if !line.starts_with("---") => removed,
            Some(b'@') => FAINT,
            _ => HEAD,
        };
        if line.starts_with(' ') {
            text.push_str(line);
        } else {
            text.push_str(&painted(style, line));
        }
        text.push('\n');
    }
    text
}
