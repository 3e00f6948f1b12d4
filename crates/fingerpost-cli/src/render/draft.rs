//! The draft: what was tried, its diff, and what was saved.

use std::path::Path;

use anstyle::AnsiColor;
use fingerpost::edit::{Edit, Step};
use fingerpost::site::{Change, Outcome};

use super::{BAD, FAINT, HEAD, painted};
use crate::drafts::TriedAnswer;

/// What was taken back, or done again.
pub fn stepped(step: &Step, undo: bool, edit: Option<&Edit>) -> String {
    let what = edit.map_or_else(String::new, |e| format!(": {}", e.said));
    let id = step.id();
    let done = match step {
        Step::Tried { .. } => "trying",
        Step::Switched { .. } => "switching",
        Step::Dropped { .. } => "dropping",
        Step::Aimed { .. } => "aiming",
    };
    if undo {
        format!("Taken back: {done} change {id}{what}")
    } else {
        format!("Done again: {done} change {id}{what}")
    }
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
            tried.edit.said,
            painted(FAINT, tried.edit.files().collect::<Vec<_>>().join(", "))
        ));
        for warning in &tried.edit.warnings {
            text.push_str(&format!("     {} {warning}\n", painted(BAD, "mind:")));
        }
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

pub fn saved(outcome: &Outcome) -> String {
    let mut text = String::new();
    for change in &outcome.changes {
        text.push_str(&format!(
            "Saved {}\n\n{}",
            painted(HEAD, change.before.name()),
            diff(&change.diff())
        ));
    }
    if outcome.changes.is_empty() {
        text.push_str("There was nothing to save.\n");
    }
    for tried in &outcome.lost {
        text.push_str(&format!(
            "Dropped change {}, which was off and has lost its place: {}\n",
            tried.id, tried.edit.said
        ));
    }
    text
}

/// A save that was taken back.
pub fn unsaved(changes: &[Change], said: &[String]) -> String {
    let mut text = "Took the last save back:\n".to_owned();
    for sentence in said {
        text.push_str(&format!("  {sentence}\n"));
    }
    for change in changes {
        text.push_str(&format!("\n{}", diff(&change.diff())));
    }
    text
}

/// A patch that was written.
pub fn patched(files: usize, path: &Path) -> String {
    let files = match files {
        0 => return format!("There was nothing to save; {} is empty.\n", path.display()),
        1 => "1 file".to_owned(),
        many => format!("{many} files"),
    };
    format!(
        "Wrote the changes of {files} to {}. The draft is as it was.\nTo apply it: git apply {}\n",
        path.display(),
        path.display()
    )
}

/// A unified diff with its lines coloured by what they do.
pub fn diff(unified: &str) -> String {
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
