//! The draft: what was tried, its diff, and what was saved.

use std::path::Path;

use fingerpost::draft::Step;
use fingerpost::impact::draft::DraftAnswer;
use fingerpost::impact::draft::TriedState;
use fingerpost::impact::site::Effect;
use fingerpost::site::{ChangedFile, SaveOutcome, ways_out};
use fingerpost::text::brief_diff;

use super::{BAD, FAINT, HEAD, effect, painted};

/// What was undone, or redone.
pub fn stepped<'a>(step: &Step, undo: bool, summary: &dyn Fn(u32) -> Option<&'a str>) -> String {
    let head = if undo { "Undone" } else { "Redone" };
    if let Step::Emptied { was } = step {
        let state = if undo {
            "back in the draft"
        } else {
            "discarded again"
        };
        return format!("{head}: all {} changes are {state}", was.len());
    }
    let id = step.ids()[0];
    let state = match (step, undo) {
        (Step::Added { .. }, true) => "is out of the draft",
        (Step::Added { .. }, false) => "is in the draft again",
        (Step::Switched { .. }, true) => "is as it was before the switch",
        (Step::Switched { .. }, false) => "is switched again",
        (Step::Discarded { .. } | Step::Emptied { .. }, true) => "is back in the draft",
        (Step::Discarded { .. } | Step::Emptied { .. }, false) => "is discarded again",
        (Step::Retargeted { .. }, true) => "has its old target again",
        (Step::Retargeted { .. }, false) => "has its new target again",
    };
    let what = summary(id).map_or_else(String::new, |summary| format!(": {summary}"));
    format!("{head}: change {id} {state}{what}")
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
        return "The draft is empty: there is nothing to save.\n".to_owned();
    }
    let mut text = String::new();
    for tried in &answer.edits {
        let state = match tried.state {
            TriedState::Off => painted(FAINT, "  off"),
            TriedState::NotApplied => painted(BAD, "  adrift: it does not count"),
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

pub fn discarded(count: Option<usize>) -> String {
    match count {
        None => {
            "Discarded a draft that could not be read. No source file was changed.\n".to_owned()
        }
        Some(0) => "There was no draft.\n".to_owned(),
        Some(1) => {
            "Discarded 1 change. No source file was changed.\nTo undo that: fingerpost draft \
                    undo\n"
                .to_owned()
        }
        Some(count) => format!(
            "Discarded {count} changes. No source file was changed.\nTo undo that: fingerpost draft \
             undo\n"
        ),
    }
}

pub fn saved(outcome: &SaveOutcome, moved: &Effect) -> String {
    let mut text = String::new();
    for change in &outcome.changes {
        let gap = if text.is_empty() { "" } else { "\n" };
        text.push_str(&format!(
            "{gap}Saved {}\n\n{}",
            painted(HEAD, change.before.name()),
            diff(&change.diff())
        ));
    }
    match outcome.changes.is_empty() {
        true => text.push_str("There was nothing to save.\n"),
        false => text.push_str(&format!("\n{}", effect::effect(moved))),
    }
    for (tried, conflicts) in &outcome.conflicts {
        text.push_str(&format!(
            "\n{} change {} stays in the draft: {}. {}\n",
            painted(BAD, "Not saved:"),
            tried.id,
            conflicts.why,
            tried.summary
        ));
        for (head, side) in [
            ("It changes", &conflicts.draft),
            ("On disk", &conflicts.disk),
        ] {
            if !side.is_empty() {
                text.push_str(&format!("{head}:\n{}", diff(side)));
            }
        }
        text.push_str(&format!("{}\n", ways_out(tried.id)));
    }
    for note in &outcome.notes {
        text.push_str(&format!("\n{} {note}\n", painted(BAD, "Note:")));
    }
    if !outcome.changes.is_empty() {
        text.push_str("\nTo take it back: fingerpost unsave\n");
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
pub fn unsaved(changes: &[ChangedFile], said: &[String]) -> String {
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

/// What a unified diff changes, for people: for each run of lines its place, what was there and what is there now.
pub fn diff(unified: &str) -> String {
    let mut blocks = Blocks::default();
    for line in brief_diff(unified).lines() {
        blocks.take(line);
    }
    blocks.close();
    blocks.text
}

/// The runs of changed lines, as they are met.
#[derive(Default)]
struct Blocks {
    text: String,
    file: String,
    /// The next line of the old text, and of the new.
    at: (u32, u32),
    was: Vec<String>,
    now: Vec<String>,
}

impl Blocks {
    fn take(&mut self, line: &str) {
        if let Some(name) = line.strip_prefix("+++ ").or(line.strip_prefix("--- ")) {
            self.close();
            let name = name.strip_prefix("a/").or(name.strip_prefix("b/"));
            if let Some(name) = name {
                name.clone_into(&mut self.file);
            }
        } else if let Some(head) = line.strip_prefix("@@ -") {
            self.close();
            let mut starts = head.split(' ').map(|side| {
                let start = side.trim_start_matches('+').split(',').next();
                start.and_then(|start| start.parse().ok()).unwrap_or(1)
            });
            self.at = (starts.next().unwrap_or(1), starts.next().unwrap_or(1));
        } else if let Some(old) = line.strip_prefix('-') {
            self.was.push(old.to_owned());
        } else if let Some(new) = line.strip_prefix('+') {
            self.now.push(new.to_owned());
        } else if line.starts_with('\\') {
            let last = self.now.last_mut().or(self.was.last_mut());
            if let Some(last) = last {
                last.push_str("  (the file ends here, without a line break)");
            }
        } else {
            self.close();
            self.at = (self.at.0 + 1, self.at.1 + 1);
        }
    }

    /// Writes the lines so far as one run.
    fn close(&mut self) {
        let (was, now) = (std::mem::take(&mut self.was), std::mem::take(&mut self.now));
        if was.is_empty() && now.is_empty() {
            return;
        }
        let (old, mut new) = self.at;
        // A new rule stands behind an empty line, which says nothing.
        let blank = now.iter().take_while(|line| line.trim().is_empty()).count();
        let skipped = match was.is_empty() && blank < now.len() {
            true => blank,
            false => 0,
        };
        new += skipped as u32;
        let place = match (was.is_empty(), old == new) {
            (false, false) => format!("{}:{old} (line {new} with the draft)", self.file),
            (false, true) => format!("{}:{old}", self.file),
            (true, _) => format!("{}:{new}", self.file),
        };
        self.text.push_str(&format!("{}\n", painted(HEAD, place)));
        let (gone, fresh) = match (was.is_empty(), now.is_empty()) {
            (false, true) => ("gone", ""),
            (true, false) => ("", "new"),
            _ => ("was", "now"),
        };
        let mut shown = now.get(skipped..).unwrap_or_default();
        // And before one.
        while was.is_empty()
            && let [rest @ .., last] = shown
            && last.trim().is_empty()
            && !rest.is_empty()
        {
            shown = rest;
        }
        for (label, lines, style) in [(gone, &was[..], super::LOST), (fresh, shown, super::GOOD)] {
            for (nth, line) in lines.iter().enumerate() {
                let label = if nth == 0 { label } else { "" };
                let line = format!("  {} {line}", painted(style, format!("{label:<4}")));
                self.text.push_str(&format!("{}\n", line.trim_end()));
            }
        }
        self.at = (old + was.len() as u32, self.at.1 + now.len() as u32);
    }
}
