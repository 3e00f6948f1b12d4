//! The draft: shown, changed, thrown away, saved.

use std::io::{ErrorKind, Write};
use std::path::Path;

use fingerpost::site::{Change, Site, SiteError, Which};
use fingerpost::survey::draft::{FileAnswer, draft, effect_of};
use fingerpost::survey::effect::Effect;
use serde::Serialize;

use crate::arguments::DraftCommand;
use crate::commands::{Outcome, Problem, Result, opened_site, to_json};
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
pub fn change(folder: &Path, command: &DraftCommand, json: bool) -> Result<Outcome> {
    let mut site = opened_site(folder)?;
    let missing = |number: u32| Problem {
        message: format!("the draft has no change {number}; `fingerpost draft` lists them"),
        status: 1,
    };
    let said = match command {
        DraftCommand::Off { number } | DraftCommand::On { number } => {
            let on = matches!(command, DraftCommand::On { .. });
            let changed = site.change_draft(|draft| draft.switch(*number, on))?;
            let word = if on { "on" } else { "off" };
            match changed.ok_or_else(|| missing(*number))? {
                true => format!("Change {number} is {word}."),
                false => format!("Change {number} was {word} already."),
            }
        }
        DraftCommand::Drop {
            number: Some(number),
            ..
        } => {
            let number = *number;
            let done = site.change_draft(|draft| draft.discard(number))?;
            done.ok_or_else(|| missing(number))?;
            format!("Dropped change {number}.")
        }
        // The others are no steps of the draft.
        _ => {
            let undo = matches!(command, DraftCommand::Undo);
            let step = site.change_draft(|draft| if undo { draft.undo() } else { draft.redo() })?;
            let word = if undo { "take back" } else { "do again" };
            let step = step.ok_or_else(|| Problem {
                message: format!("there is nothing to {word}"),
                status: 1,
            })?;
            let draft = site.draft();
            render::draft::stepped(&step, undo, &|id| draft.summary_of(id))
        }
    };
    listed(&site, &said, json)
}

/// A sentence, and the draft as it is now.
pub fn listed(site: &Site, said: &str, json: bool) -> Result<Outcome> {
    let answer = draft(site)?;
    let text = match json {
        true => to_json("draft", answer),
        false => format!("{said}\n\n{}", render::draft::draft(&answer)),
    };
    Ok(Outcome { text, found: true })
}

/// Carries the draft over to files that changed on disk.
pub fn merge(folder: &Path, json: bool) -> Result<Outcome> {
    let mut site = opened_site(folder)?;
    let files = site.merge()?;
    let said = match &files[..] {
        [] => "No file of the draft has changed on disk.".to_owned(),
        files => format!(
            "Carried the draft over to what changed in {}.",
            files.join(" and ")
        ),
    };
    listed(&site, &said, json)
}

/// Takes the last save back.
pub fn unsave(folder: &Path, json: bool) -> Result<Outcome> {
    let mut site = opened_site(folder)?;
    let (changes, summaries) = site.unsave()?;
    let text = if json {
        let files = file_answers(&changes);
        to_json("unsave", UnsaveAnswer { summaries, files })
    } else {
        render::draft::unsaved(&changes, &summaries)
    };
    Ok(Outcome { text, found: true })
}

#[derive(Serialize)]
struct UnsaveAnswer {
    /// What had been saved.
    summaries: Vec<String>,
    files: Vec<FileAnswer>,
}

/// Writes what would be saved as a patch.
pub fn patch(folder: &Path, which: &Which, path: &Path, json: bool) -> Result<Outcome> {
    let site = opened_site(folder)?;
    let changes = site.changes_of(which)?;
    let effect = effect_of(&site, which)?;
    let patch: String = changes.iter().map(Change::patch).collect();
    write_new(path, &patch)?;
    let text = if json {
        let files = file_answers(&changes);
        to_json(
            "save",
            SaveAnswer {
                files,
                aside: Vec::new(),
                notes: Vec::new(),
                effect,
            },
        )
    } else {
        render::draft::patched(changes.len(), path, &effect)
    };
    Ok(Outcome {
        text,
        found: !changes.is_empty(),
    })
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

#[derive(Serialize)]
struct MendAnswer {
    /// Whether there was a save that had been cut off.
    found: bool,
}

/// Finishes a save that was cut off, or gives it up.
pub fn mend(folder: &Path, leave: bool, json: bool) -> Result<Outcome> {
    let found = Site::mend(folder, leave)?;
    let text = match json {
        true => to_json("mend", MendAnswer { found }),
        false => render::draft::mended(found, leave),
    };
    Ok(Outcome { text, found })
}

fn file_answers(changes: &[Change]) -> Vec<FileAnswer> {
    changes.iter().map(FileAnswer::from).collect()
}

/// What is tried, and its diff.
pub fn show(folder: &Path, json: bool) -> Result<Outcome> {
    let site = opened_site(folder)?;
    let answer = draft(&site)?;
    let found = !answer.edits.is_empty();
    let text = if json {
        to_json("draft", answer)
    } else {
        let carried = render::draft::carried(site.changed_files());
        format!("{carried}{}", render::draft::draft(&answer))
    };
    Ok(Outcome { text, found })
}

#[derive(Serialize)]
struct DropAnswer {
    /// How many edits were thrown away; none where the draft could not be read.
    dropped: Option<usize>,
}

/// Throws the whole draft away.
pub fn drop(folder: &Path, json: bool) -> Result<Outcome> {
    let dropped = match Site::of_folder(folder) {
        Ok(mut site) => Some(site.drop_draft()?),
        Err(SiteError::Draft { .. }) => {
            Site::drop_draft_of(folder)?;
            None
        }
        Err(error) => return Err(error.into()),
    };
    let text = if json {
        to_json("draft drop", DropAnswer { dropped })
    } else {
        render::draft::dropped(dropped)
    };
    Ok(Outcome {
        text,
        found: dropped != Some(0),
    })
}

#[derive(Serialize)]
struct SaveAnswer {
    files: Vec<FileAnswer>,
    /// The changes that stay in the draft, for they have no place any more.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    aside: Vec<AsideAnswer>,
    /// What of the files could not be kept, in sentences.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    notes: Vec<String>,
    /// What was saved changes, over the site, in usual surroundings.
    effect: Effect,
}

#[derive(Serialize)]
struct AsideAnswer {
    id: u32,
    why: String,
    draft_side: String,
    disk_side: String,
}

/// Writes the draft, or some of it, into the sources.
pub fn save(folder: &Path, which: &Which, json: bool) -> Result<Outcome> {
    let mut site = opened_site(folder)?;
    let effect = effect_of(&site, which)?;
    let outcome = site.save(which)?;
    let found = !outcome.changes.is_empty() && outcome.aside.is_empty();
    let text = if json {
        let files = file_answers(&outcome.changes);
        let aside = outcome.aside.iter().map(|(tried, aside)| AsideAnswer {
            id: tried.id,
            why: aside.why.clone(),
            draft_side: aside.draft.clone(),
            disk_side: aside.disk.clone(),
        });
        let answer = SaveAnswer {
            files,
            aside: aside.collect(),
            notes: outcome.notes,
            effect,
        };
        to_json("save", answer)
    } else {
        render::draft::saved(&outcome, &effect)
    };
    Ok(Outcome { text, found })
}
