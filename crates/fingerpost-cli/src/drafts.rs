//! The draft: shown, changed, discarded, saved. Each change is a step of the site's session.

use fingerpost::text::plain_io;
use std::io::{ErrorKind, Write};
use std::path::Path;

use fingerpost::impact::draft::{DraftAnswer, draft, effect_of};
use fingerpost::impact::site::Effect;
use fingerpost::session::{Outcome, Scope, Session};
use fingerpost::site::{ChangedFile, Selection, Site, SiteError};
use schemars::JsonSchema;
use serde::Serialize;

use crate::advised::Advised;
use crate::arguments::DraftCommand;
use crate::opened::{Asking, environment_of, opened_site};
use crate::problem::{Problem, Result};
use crate::render;
use crate::reply::Reply;

/// A step of the draft, and the draft after it.
#[derive(JsonSchema, Serialize)]
pub struct StepAnswer {
    #[serde(flatten)]
    outcome: Outcome,
    /// The draft as it is now.
    draft: DraftAnswer,
}

/// Changes the draft by something that is not an edit.
pub fn change(command: &DraftCommand, asking: &Asking<'_>) -> Result<Reply> {
    let mut site = opened_site(&asking.folder)?;
    let mut session = site.session()?.with_effects(Scope::Nothing);
    let outcome = match command {
        DraftCommand::Off { number } => session.switch(*number, false)?,
        DraftCommand::On { number } => session.switch(*number, true)?,
        DraftCommand::Discard { number, .. } => session.discard(*number)?,
        DraftCommand::Undo => session.undo()?,
        DraftCommand::Redo => session.redo()?,
        DraftCommand::Reapply { number: None } => session.carry_over()?,
        DraftCommand::Reapply {
            number: Some(number),
        } => session.reapply(*number)?,
        DraftCommand::Retarget {
            number,
            to,
            environment,
        } => {
            session = session.in_environment(environment_of(environment));
            session.retarget(*number, to)?
        }
    };
    drop(session);
    stepped(&site, outcome, asking)
}

/// What a step did, and the draft as it is now.
fn stepped(site: &Site, mut outcome: Outcome, asking: &Asking<'_>) -> Result<Reply> {
    let advice = std::mem::take(&mut outcome.advice);
    let step = StepAnswer {
        outcome,
        draft: draft(site)?,
    };
    let answer = Advised::of(step, &advice);
    let render = |answer: &Advised<StepAnswer>| {
        let StepAnswer { outcome, draft } = &answer.body;
        let summary = render::sentence(&outcome.summary);
        format!("{summary}\n\n{}", render::draft::draft(draft))
    };
    Ok(asking.reply("draft", true, &answer, render))
}

/// Shows the draft and its diff.
pub fn show(asking: &Asking<'_>) -> Result<Reply> {
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
    /// How many changes were discarded; none where the draft could not be read.
    discarded: Option<usize>,
}

/// Discards the whole draft, whether or not it can be read.
pub fn discard_all(asking: &Asking<'_>) -> Result<Reply> {
    let folder = &asking.folder;
    let discarded = match Site::of_folder(folder) {
        Ok(mut site) => {
            let count = site.draft().edits().count();
            site.session()?.with_effects(Scope::Nothing).discard(None)?;
            Some(count)
        }
        Err(SiteError::Draft { .. }) => {
            Session::discard_unread(folder)?;
            None
        }
        Err(error) => return Err(error.into()),
    };
    let answer = DiscardAnswer { discarded };
    let render = |answer: &DiscardAnswer| render::draft::discarded(answer.discarded);
    Ok(asking.reply("draft discard", discarded != Some(0), &answer, render))
}

/// Undoes the last save.
pub fn unsave(asking: &Asking<'_>) -> Result<Reply> {
    let mut site = opened_site(&asking.folder)?;
    let outcome = site.session()?.unsave()?;
    Ok(asking.reply("unsave", true, &outcome, render::draft::unsaved))
}

/// Writes the draft, or some of it, into the sources.
pub fn save(selection: &Selection, asking: &Asking<'_>) -> Result<Reply> {
    let mut site = opened_site(&asking.folder)?;
    let mut outcome = site.session()?.save(selection)?;
    let found = !outcome.files.is_empty() && outcome.conflicts.is_empty();
    let advice = std::mem::take(&mut outcome.advice);
    let answer = Advised::of(outcome, &advice);
    let render = |answer: &Advised<_>| render::draft::saved(&answer.body, &advice);
    Ok(asking.reply("save", found, &answer, render))
}

#[derive(JsonSchema, Serialize)]
pub struct PatchAnswer {
    files: Vec<ChangedFile>,
    /// What the changes change, over the site, in the default environment.
    effect: Effect,
}

/// Writes what would be saved as a patch.
pub fn patch(selection: &Selection, path: &Path, asking: &Asking<'_>) -> Result<Reply> {
    let site = opened_site(&asking.folder)?;
    let changes = site.changes_of(selection)?;
    let effect = effect_of(&site, selection)?;
    let patch: String = changes.iter().map(ChangedFile::patch).collect();
    if path == Path::new("-") {
        // The patch itself goes where answers go.
        return Ok(Reply {
            found: !patch.is_empty(),
            text: patch,
            verbatim: true,
        });
    }
    write_new(path, &patch)?;
    let count = changes.len();
    let answer = PatchAnswer {
        files: changes,
        effect,
    };
    let render = |answer: &PatchAnswer| render::draft::patched(count, path, &answer.effect);
    Ok(asking.reply("save --patch", count > 0, &answer, render))
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
            ErrorKind::AlreadyExists => {
                format!("{shown}: there is a file of this name already; name another one")
            }
            _ => format!("{shown}: can't be written: {}", plain_io(&error)),
        })
    })
}

#[derive(JsonSchema, Serialize)]
pub struct RecoverAnswer {
    /// Whether a save had been interrupted.
    found: bool,
}

/// Finishes an interrupted save, or gives it up.
pub fn recover(leave: bool, asking: &Asking<'_>) -> Result<Reply> {
    let found = Session::recover(&asking.folder, leave)?;
    let render = |answer: &RecoverAnswer| render::draft::recovered(answer.found, leave);
    Ok(asking.reply("recover", found, &RecoverAnswer { found }, render))
}
