//! The draft: what was tried, its diff, and what was saved.

use std::path::Path;

use fingerpost::advice::{Advice, of_conflict};
use fingerpost::impact::draft::ChangeState;
use fingerpost::impact::draft::DraftAnswer;
use fingerpost::impact::site::Effect;
use fingerpost::session::{ConflictAnswer, Outcome};
use fingerpost::site::ChangedFile;
use fingerpost::text::brief_diff;

use crate::advised;

use super::{BAD, FAINT, HEAD, counted, effect, painted};

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
    let mut group = None;
    for tried in &answer.edits {
        if tried.group != group {
            group = tried.group.clone();
            if let Some(group) = &group {
                let parts = answer
                    .edits
                    .iter()
                    .filter(|e| e.group.as_ref() == Some(group));
                let count = painted(FAINT, format!("  {}", counted(parts.count(), "change")));
                text.push_str(&format!("     {}{count}\n", painted(HEAD, &group.name)));
            }
        }
        let state = match tried.state {
            ChangeState::Off => painted(FAINT, "  off"),
            ChangeState::NotApplied => painted(BAD, "  does not apply"),
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
            text.push_str(&format!("     {} {why}\n", painted(BAD, "why:")));
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
            let ways = advised::listed(&of_conflict(tried.id));
            for line in ways.lines() {
                text.push_str(&format!("     {line}\n"));
            }
        }
    }
    for block in diffs(answer.files.iter().map(|file| file.diff.clone())) {
        text.push_str(&format!("\n{block}"));
    }
    match answer.files.is_empty() {
        true => text.push_str("\nTogether the changes change nothing.\n"),
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
            let undo = advised::typed("draft undo");
            format!("Discarded 1 change. No source file was changed.\nTo undo that: {undo}\n")
        }
        Some(count) => {
            let undo = advised::typed("draft undo");
            format!(
                "Discarded {count} changes. No source file was changed.\nTo undo that: {undo}\n"
            )
        }
    }
}

pub fn saved(outcome: &Outcome, advice: &[Advice]) -> String {
    let mut text = String::new();
    let blocks = diffs(outcome.files.iter().map(ChangedFile::diff));
    if blocks.len() < outcome.files.len() {
        text.push_str(&format!("Saved {} files\n", outcome.files.len()));
        for block in blocks {
            text.push_str(&format!("\n{block}"));
        }
    } else {
        for (change, block) in outcome.files.iter().zip(blocks) {
            let gap = if text.is_empty() { "" } else { "\n" };
            let name = painted(HEAD, change.before.name());
            text.push_str(&format!("{gap}Saved {name}\n\n{block}"));
        }
    }
    match &outcome.effect {
        _ if outcome.files.is_empty() => text.push_str("There is nothing to save.\n"),
        Some(effect) => text.push_str(&format!("\n{}", effect::effect(effect))),
        None => {}
    }
    for ConflictAnswer {
        change, conflict, ..
    } in &outcome.conflicts
    {
        text.push_str(&format!(
            "\n{} change {change} stays in the draft: {}\n",
            painted(BAD, "Not saved:"),
            conflict.why,
        ));
        for (head, side) in [("It changes", &conflict.draft), ("On disk", &conflict.disk)] {
            if !side.is_empty() {
                text.push_str(&format!("{head}:\n{}", diff(side)));
            }
        }
    }
    text.push_str(&advised::listed(advice));
    for note in &outcome.notes {
        text.push_str(&format!("\n{} {note}\n", painted(BAD, "Note:")));
    }
    if !outcome.files.is_empty() {
        let undo = advised::typed("unsave");
        text.push_str(&format!("\nTo undo the save: {undo}\n"));
    }
    text
}

/// What was done about an interrupted save.
pub fn recovered(found: bool, leave: bool) -> String {
    match (found, leave) {
        (false, _) => "No save was interrupted.\n".to_owned(),
        (true, false) => "Finished the interrupted save.\n".to_owned(),
        (true, true) => "Left every file as it is, and forgot the interrupted save.\n".to_owned(),
    }
}

/// A save that was undone.
pub fn unsaved(outcome: &Outcome) -> String {
    let mut text = "Undid the last save:\n".to_owned();
    for sentence in &outcome.notes {
        text.push_str(&format!("  {sentence}\n"));
    }
    for block in diffs(outcome.files.iter().map(ChangedFile::diff)) {
        text.push_str(&format!("\n{block}"));
    }
    if !outcome.edits.is_empty() {
        let (show, discard) = (
            advised::typed("draft"),
            advised::typed("draft discard --all"),
        );
        text.push_str(&format!(
            "\nThe draft has {} again.\nTo see the draft: {show}\nTo discard it: {discard}\n",
            counted(outcome.edits.len(), "change")
        ));
    }
    text
}

/// A patch that was written.
pub fn patched(files: usize, path: &Path, moved: &Effect) -> String {
    let files = match files {
        0 => return format!("There is nothing to save; {} is empty.\n", path.display()),
        files => counted(files, "file"),
    };
    format!(
        "Wrote the changes of {files} to {}. The draft is as it was.\n{}To apply it: git apply {}\n",
        path.display(),
        effect::effect(moved),
        path.display()
    )
}

/// How many places of files that change alike are listed.
const MOST_ALIKE: usize = 4;

/// What unified diffs change, for people: one text for each file, and one for all that change alike, such as pages that get a link.
pub fn diffs(unified: impl Iterator<Item = String>) -> Vec<String> {
    let mut blocks: Vec<(String, Vec<String>)> = Vec::new();
    for text in unified.map(|unified| diff(&unified)) {
        let split = text.split_once('\n');
        let alike = split.and_then(|(place, body)| {
            let same = |known: &&mut (String, Vec<String>)| {
                known
                    .0
                    .split_once('\n')
                    .is_some_and(|(_, known)| known == body)
            };
            // A text of one line is a sentence.
            let known = blocks.iter_mut().filter(|_| !body.is_empty()).find(same)?;
            known.1.push(place.to_owned());
            Some(())
        });
        if alike.is_none() {
            blocks.push((text, Vec::new()));
        }
    }
    let told = blocks.into_iter().map(|(mut text, alike)| {
        if !alike.is_empty() {
            let shown = alike.iter().take(MOST_ALIKE).map(String::as_str);
            let shown: Vec<&str> = shown.collect();
            let more = match alike.len() - shown.len() {
                0 => String::new(),
                more => format!(" and {}", counted(more, "more file")),
            };
            text.push_str(&format!("  the same in {}{more}\n", shown.join(", ")));
        }
        text
    });
    told.collect()
}

/// What a unified diff changes, for people: for each run of lines its place, what was there and what is there now.
pub fn diff(unified: &str) -> String {
    let mut heads = unified
        .lines()
        .filter_map(|line| line.strip_prefix("+++ b/"));
    // No person reads a source map.
    if let Some(name) = heads.next().filter(|name| name.ends_with(".map")) {
        return format!("{name} is updated to match.\n");
    }
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
        // A new rule stands after an empty line, which says nothing.
        let blank = now.iter().take_while(|line| line.trim().is_empty()).count();
        let skipped = match was.is_empty() && blank < now.len() {
            true => blank,
            false => 0,
        };
        new += skipped as u32;
        let place = match (was.is_empty(), old == new || new == 0) {
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
