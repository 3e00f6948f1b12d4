//! The draft: what was tried, its diff, and what was saved.

use std::path::Path;

use anstyle::AnsiColor;
use fingerpost::edit::Step;
use fingerpost::site::{Change, Outcome, ways_out};
use fingerpost::survey::draft::DraftAnswer;
use fingerpost::survey::effect::Effect;
use fingerpost::text::brief_diff;

use super::{BAD, FAINT, HEAD, effect, painted};

/// What was taken back, or done again.
pub fn stepped<'a>(step: &Step, undo: bool, summary: &dyn Fn(u32) -> Option<&'a str>) -> String {
    let done = match step {
        Step::Tried { .. } => "trying",
        Step::Switched { .. } => "switching",
        Step::Dropped { .. } => "dropping",
        Step::Emptied { .. } => "dropping",
        Step::Aimed { .. } => "aiming",
    };
    let what = match step {
        Step::Emptied { was } => format!("all {} changes", was.len()),
        step => {
            let id = step.ids()[0];
            let what = summary(id).map_or_else(String::new, |s| format!(": {s}"));
            format!("change {id}{what}")
        }
    };
    if undo {
        format!("Taken back: {done} {what}")
    } else {
        format!("Done again: {done} {what}")
    }
}

/// The files that changed on disk since the draft was made.
pub fn carried(files: &[String]) -> String {
    match files {
        [] => String::new(),
        files => format!(
            "{} changed on disk since the draft was made; the draft is shown over what is there \
             now.\n\n",
            files.join(" and ")
        ),
    }
}

pub fn draft(answer: &DraftAnswer) -> String {
    if answer.edits.is_empty() {
        return "The draft is empty: nothing is tried that is not saved.\n".to_owned();
    }
    let mut text = String::new();
    for tried in &answer.edits {
        let state = match tried.state {
            "off" => painted(FAINT, "  off"),
            "adrift" => painted(BAD, "  adrift: it does not count"),
            _ => String::new(),
        };
        text.push_str(&format!(
            "{:>3}  {}  {}{state}\n",
            tried.id,
            tried.summary,
            painted(FAINT, tried.files.join(", "))
        ));
        for warning in &tried.warnings {
            text.push_str(&format!("     {} {warning}\n", painted(BAD, "note:")));
        }
        if let Some(why) = &tried.why {
            text.push_str(&format!("     {} {why}\n", painted(BAD, "adrift:")));
        }
        let sides = [
            ("it changes", &tried.draft_side),
            ("on disk", &tried.disk_side),
        ];
        for (head, side) in sides {
            if let Some(side) = side {
                text.push_str(&format!("     {}\n", painted(HEAD, format!("{head}:"))));
                for line in diff(side).lines() {
                    text.push_str(&format!("       {line}\n"));
                }
            }
        }
        if tried.draft_side.is_some() || tried.disk_side.is_some() {
            text.push_str(&format!("     {}\n", ways_out(tried.id)));
        }
    }
    for file in &answer.files {
        text.push_str(&format!("\n{}", diff(&file.diff)));
    }
    match answer.files.is_empty() {
        true => text.push_str("\nTogether they change nothing.\n"),
        false => text.push_str(&format!("\n{}", effect::effect(&answer.effect))),
    }
    text
}

pub fn dropped(count: Option<usize>) -> String {
    match count {
        None => "Dropped a draft that could not be read. No source file was changed.\n".to_owned(),
        Some(0) => "There was no draft.\n".to_owned(),
        Some(1) => {
            "Dropped 1 change. No source file was changed.\nTo take that back: fingerpost draft \
                    undo\n"
                .to_owned()
        }
        Some(count) => format!(
            "Dropped {count} changes. No source file was changed.\nTo take that back: fingerpost draft \
             undo\n"
        ),
    }
}

pub fn saved(outcome: &Outcome, moved: &Effect) -> String {
    let mut text = String::new();
    for change in &outcome.changes {
        text.push_str(&format!(
            "Saved {}\n\n{}",
            painted(HEAD, change.before.name()),
            diff(&change.diff())
        ));
    }
    match outcome.changes.is_empty() {
        true => text.push_str("There was nothing to save.\n"),
        false => text.push_str(&format!("\n{}", effect::effect(moved))),
    }
    for (tried, aside) in &outcome.aside {
        text.push_str(&format!(
            "\n{} change {} stays in the draft: {}. {}\n",
            painted(BAD, "Not saved:"),
            tried.id,
            aside.why,
            tried.summary
        ));
        for (head, side) in [("It changes", &aside.draft), ("On disk", &aside.disk)] {
            if !side.is_empty() {
                text.push_str(&format!("{head}:\n{}", diff(side)));
            }
        }
        text.push_str(&format!("{}\n", ways_out(tried.id)));
    }
    for note in &outcome.notes {
        text.push_str(&format!("\n{} {note}\n", painted(BAD, "Note:")));
    }
    text
}

/// What was done about a save that had been cut off.
pub fn mended(found: bool, leave: bool) -> String {
    match (found, leave) {
        (false, _) => "No save was cut off; there is nothing to mend.\n".to_owned(),
        (true, false) => "The save that was cut off is finished.\n".to_owned(),
        (true, true) => {
            "Every source is as it was on disk; the save that was cut off is forgotten.\n"
                .to_owned()
        }
    }
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
pub fn patched(files: usize, path: &Path, moved: &Effect) -> String {
    let files = match files {
        0 => return format!("There was nothing to save; {} is empty.\n", path.display()),
        1 => "1 file".to_owned(),
        many => format!("{many} files"),
    };
    format!(
        "Wrote the changes of {files} to {}. The draft is as it was.\n{}To apply it: git apply {}\n",
        path.display(),
        effect::effect(moved),
        path.display()
    )
}

/// A unified diff with its lines coloured by what they do, and long ones cut around what changes.
pub fn diff(unified: &str) -> String {
    let added = AnsiColor::Green.on_default();
    let removed = AnsiColor::Red.on_default();
    let mut text = String::new();
    for line in brief_diff(unified).lines() {
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
