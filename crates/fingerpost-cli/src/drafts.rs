//! The draft: shown, changed, thrown away, saved.

use std::io::{ErrorKind, Write};
use std::path::Path;

use fingerpost::impact::draft::{FileAnswer, draft, effect_of};
use fingerpost::impact::site::Effect;
use fingerpost::site::{ChangedFile, Selection, Site, SiteError, Unsaved};
use schemars::JsonSchema;
use serde::Serialize;

use crate::arguments::DraftCommand;
use crate::commands::{Asking, Outcome, Problem, Result, opened_site};
use crate::render;

/// What to add to a command so that it finds the site from the present folder.
pub fn site_hint(root: &Path) -> String {
    let here = std::env::current_dir().and_then(|d| d.canonicalize());
    match here {
        Ok(here) if here.starts_with(root) => String::new(),
        Ok(here) => match root.strip_prefix(&here) {
            Ok(below) => format!(" --site {}", below.display()),
            Err(_) => format!(" --site {}", root.display()),
        },
        Err(_) => format!(" --site {}", root.display()),
    }
}

/// Switches a change, throws one away, or takes the last step back.
pub fn change(command: &DraftCommand, asking: &Asking<'_>) -> Result<Outcome> {
    let mut site = opened_site(&asking.folder)?;
    let missing = |number: u32| Problem {
        message: format!("the draft has no change {number}; `fingerpost draft` lists them"),
        status: 1,
    };
    let summary = match command {
        DraftCommand::Off { number } | DraftCommand::On { number } => {
            let on = matches!(command, DraftCommand::On { .. });
            let changed = site.change_draft(|draft| draft.switch(*number, on))?;
            let word = if on { "on" } else { "off" };
            match changed.ok_or_else(|| missing(*number))? {
                true => format!("Change {number} is {word}."),
                false => format!("Change {number} was {word} already."),
            }
        }
        DraftCommand::Discard {
            number: Some(number),
            ..
        } => {
            let number = *number;
            let done = site.change_draft(|draft| draft.discard(number))?;
            done.ok_or_else(|| missing(number))?;
            format!("Discarded change {number}.")
        }
        // The others are no steps of the draft.
        _ => {
            let undo = matches!(command, DraftCommand::Undo);
            let step = site.change_draft(|draft| if undo { draft.undo() } else { draft.redo() })?;
            let word = if undo { "undo" } else { "redo" };
            let step = step.ok_or_else(|| Problem {
                message: format!("there is nothing to {word}"),
                status: 1,
            })?;
            let draft = site.draft();
            render::draft::stepped(&step, undo, &|id| draft.summary_of(id))
        }
    };
    listed(&site, &summary, asking)
}

/// A sentence, and the draft as it is now.
pub fn listed(site: &Site, summary: &str, asking: &Asking<'_>) -> Result<Outcome> {
    let render = |answer: &_| format!("{summary}\n\n{}", render::draft::draft(answer));
    Ok(asking.reply("draft", true, &draft(site)?, render))
}

/// Carries the draft over to files that changed on disk.
pub fn reapply(asking: &Asking<'_>) -> Result<Outcome> {
    let mut site = opened_site(&asking.folder)?;
    let files = site.merge()?;
    let summary = match &files[..] {
        [] => "No file of the draft has changed on disk.".to_owned(),
        files => format!(
            "Carried the draft over to what changed in {}.",
            files.join(" and ")
        ),
    };
    listed(&site, &summary, asking)
}

/// Takes the last save back.
pub fn unsave(asking: &Asking<'_>) -> Result<Outcome> {
    let mut site = opened_site(&asking.folder)?;
    let Unsaved { changes, summaries } = site.unsave()?;
    let answer = UnsaveAnswer {
        summaries,
        files: file_answers(&changes),
    };
    let render = |answer: &UnsaveAnswer| render::draft::unsaved(&changes, &answer.summaries);
    Ok(asking.reply("unsave", true, &answer, render))
}

#[derive(JsonSchema, Serialize)]
pub struct UnsaveAnswer {
    /// What had been saved.
    summaries: Vec<String>,
    files: Vec<FileAnswer>,
}

/// Writes what would be saved as a patch.
pub fn patch(which: &Selection, path: &Path, asking: &Asking<'_>) -> Result<Outcome> {
    let site = opened_site(&asking.folder)?;
    let changes = site.changes_of(which)?;
    let effect = effect_of(&site, which)?;
    let patch: String = changes.iter().map(ChangedFile::patch).collect();
    if path == Path::new("-") {
        // The patch itself goes where answers go.
        return Ok(Outcome {
            found: !patch.is_empty(),
            text: patch,
            verbatim: true,
        });
    }
    write_new(path, &patch)?;
    let answer = SaveAnswer {
        files: file_answers(&changes),
        conflicts: Vec::new(),
        notes: Vec::new(),
        effect,
    };
    let count = changes.len();
    let render = |answer: &SaveAnswer| render::draft::patched(count, path, &answer.effect);
    Ok(asking.reply("save", count > 0, &answer, render))
}

/// Writes a new file; one that is there may be a source.
fn write_new(path: &Path, text: &str) -> Result<()> {
    let file = std::fs::OpenOptions::new()
        .write(true)
        .create_new(true)
        .open(path);
    let written = file.and_then(|mut file| file.write_all(text.as_bytes()));
    written.map_err(|error| {
        let shown = path.display();
        Problem::bad_use(match error.kind() {
            ErrorKind::AlreadyExists => format!(
                "{shown}: there is something under this name already, and it was left as it is; name \
                 another file"
            ),
            _ => format!("{shown}: can't be written: {error}"),
        })
    })
}

#[derive(JsonSchema, Serialize)]
pub struct MendAnswer {
    /// Whether there was a save that had been cut off.
    found: bool,
}

/// Finishes a save that was cut off, or gives it up.
pub fn mend(leave: bool, asking: &Asking<'_>) -> Result<Outcome> {
    let found = Site::mend(&asking.folder, leave)?;
    let render = |answer: &MendAnswer| render::draft::mended(answer.found, leave);
    Ok(asking.reply("mend", found, &MendAnswer { found }, render))
}

fn file_answers(changes: &[ChangedFile]) -> Vec<FileAnswer> {
    changes.iter().map(FileAnswer::from).collect()
}

/// What is tried, and its diff.
pub fn show(asking: &Asking<'_>) -> Result<Outcome> {
    let site = opened_site(&asking.folder)?;
    let answer = draft(&site)?;
    let found = !answer.edits.is_empty();
    let render = |answer: &_| {
        let carried = render::draft::carried(site.changed_files());
        format!("{carried}{}", render::draft::draft(answer))
    };
    Ok(asking.reply("draft", found, &answer, render))
}

#[derive(JsonSchema, Serialize)]
pub struct DiscardAnswer {
    /// How many edits were thrown away; none where the draft could not be read.
    discarded: Option<usize>,
}

/// Throws the whole draft away.
pub fn discard(asking: &Asking<'_>) -> Result<Outcome> {
    let folder = &asking.folder;
    let discarded = match Site::of_folder(folder) {
        Ok(mut site) => Some(site.drop_draft()?),
        Err(SiteError::Draft { .. }) => {
            Site::drop_draft_of(folder)?;
            None
        }
        Err(error) => return Err(error.into()),
    };
    let answer = DiscardAnswer { discarded };
    let render = |answer: &DiscardAnswer| render::draft::discarded(answer.discarded);
    Ok(asking.reply("draft discard", discarded != Some(0), &answer, render))
}

#[derive(JsonSchema, Serialize)]
pub struct SaveAnswer {
    files: Vec<FileAnswer>,
    /// The changes that stay in the draft, for they no longer fit.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    conflicts: Vec<AsideAnswer>,
    /// What of the files could not be kept, in sentences.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    notes: Vec<String>,
    /// What was saved changes, over the site, in usual surroundings.
    effect: Effect,
}

#[derive(JsonSchema, Serialize)]
pub struct AsideAnswer {
    id: u32,
    why: String,
    draft_side: String,
    disk_side: String,
}

/// Writes the draft, or some of it, into the sources.
pub fn save(which: &Selection, asking: &Asking<'_>) -> Result<Outcome> {
    let mut site = opened_site(&asking.folder)?;
    let effect = effect_of(&site, which)?;
    let outcome = site.save(which)?;
    let found = !outcome.changes.is_empty() && outcome.conflicts.is_empty();
    let conflicts = outcome
        .conflicts
        .iter()
        .map(|(tried, conflicts)| AsideAnswer {
            id: tried.id,
            why: conflicts.why.clone(),
            draft_side: conflicts.draft.clone(),
            disk_side: conflicts.disk.clone(),
        });
    let answer = SaveAnswer {
        files: file_answers(&outcome.changes),
        conflicts: conflicts.collect(),
        notes: outcome.notes.clone(),
        effect,
    };
    let render = |answer: &SaveAnswer| render::draft::saved(&outcome, &answer.effect);
    Ok(asking.reply("save", found, &answer, render))
}
