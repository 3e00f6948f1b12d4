//! Steps of the draft that are no edits: switching, discarding, undoing, carrying over.

use std::sync::Arc;

use super::{ChangeError, ConflictAnswer, Outcome, Scope, Session};
use crate::advice::of_conflict;
use crate::draft::{Draft, EditState, Step};
use crate::impact::draft::unasked;

impl Session<'_> {
    /// Switches a change of the draft on or off.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// # let folder = tempfile::tempdir()?;
    /// # let write = |name: &str, text: &str| std::fs::write(folder.path().join(name), text);
    /// # write("fingerpost.toml", "fingerpost = 2\n")?;
    /// # write("a.css", "p { color: teal }\n")?;
    /// # write("a.html", "<link rel=stylesheet href=a.css><p>Boats")?;
    /// // a.css: p { color: teal }
    /// // a.html: <link rel=stylesheet href=a.css><p>Boats
    /// let mut site = Site::of_folder(folder.path())?;
    /// let mut session = site.session()?;
    /// session.edit("a.html", "p", Change::set("color", "navy"))?;
    /// session.switch(1, false)?;
    /// assert!(session.site().changes()?.is_empty());
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// [`ChangeError::NoSuchChange`]; where the draft can't be written.
    pub fn switch(&mut self, change: u32, on: bool) -> Result<Outcome, ChangeError> {
        let word = if on { "on" } else { "off" };
        let (switched, mut outcome) = self.step(|draft| draft.switch(change, on))?;
        outcome.change = Some(change);
        outcome.summary = match switched {
            None => return Err(ChangeError::NoSuchChange { change }),
            Some(true) => format!("change {change} is {word}"),
            Some(false) => format!("change {change} was {word} already"),
        };
        Ok(outcome)
    }

    /// Discards a change of the draft, or all of them, which [`Session::undo`] undoes.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// # let folder = tempfile::tempdir()?;
    /// # let write = |name: &str, text: &str| std::fs::write(folder.path().join(name), text);
    /// # write("fingerpost.toml", "fingerpost = 2\n")?;
    /// # write("a.css", "p { color: teal }\n")?;
    /// # write("a.html", "<link rel=stylesheet href=a.css><p>Boats")?;
    /// // a.css: p { color: teal }
    /// // a.html: <link rel=stylesheet href=a.css><p>Boats
    /// let mut site = Site::of_folder(folder.path())?;
    /// let mut session = site.session()?;
    /// session.edit("a.html", "p", Change::set("color", "navy"))?;
    /// session.discard(Some(1))?;
    /// assert!(session.site().draft().is_empty());
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// [`ChangeError::NoSuchChange`]; where the draft can't be written.
    pub fn discard(&mut self, change: Option<u32>) -> Result<Outcome, ChangeError> {
        let Some(change) = change else {
            let (count, mut outcome) = self.step(Draft::empty)?;
            outcome.summary = match count {
                0 => "the draft is empty already".to_owned(),
                1 => "discarded 1 change".to_owned(),
                count => format!("discarded {count} changes"),
            };
            return Ok(outcome);
        };
        let (done, mut outcome) = self.step(|draft| draft.discard(change))?;
        done.ok_or(ChangeError::NoSuchChange { change })?;
        outcome.change = Some(change);
        outcome.summary = format!("discarded change {change}");
        Ok(outcome)
    }

    /// Undoes the last step of the draft.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// # let folder = tempfile::tempdir()?;
    /// # let write = |name: &str, text: &str| std::fs::write(folder.path().join(name), text);
    /// # write("fingerpost.toml", "fingerpost = 2\n")?;
    /// # write("a.css", "p { color: teal }\n")?;
    /// # write("a.html", "<link rel=stylesheet href=a.css><p>Boats")?;
    /// // a.css: p { color: teal }
    /// // a.html: <link rel=stylesheet href=a.css><p>Boats
    /// let mut site = Site::of_folder(folder.path())?;
    /// let mut session = site.session()?;
    /// session.edit("a.html", "p", Change::set("color", "navy"))?;
    /// session.undo()?;
    /// assert!(session.site().draft().is_empty());
    /// session.redo()?;
    /// assert_eq!(session.site().draft().edits().count(), 1);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// [`ChangeError::NoStep`]; where the draft can't be written.
    pub fn undo(&mut self) -> Result<Outcome, ChangeError> {
        let (step, mut outcome) = self.step(Draft::undo)?;
        let step = step.ok_or(ChangeError::NoStep { word: "undo" })?;
        outcome.summary = self.told(&step, true);
        Ok(outcome)
    }

    /// Does the last step again that was undone.
    ///
    /// # Errors
    /// [`ChangeError::NoStep`]; where the draft can't be written.
    pub fn redo(&mut self) -> Result<Outcome, ChangeError> {
        let (step, mut outcome) = self.step(Draft::redo)?;
        let step = step.ok_or(ChangeError::NoStep { word: "redo" })?;
        outcome.summary = self.told(&step, false);
        Ok(outcome)
    }

    /// Carries the draft over to files that changed on disk since it was made, and writes that down. Changes that no
    /// longer fit are named.
    ///
    /// # Errors
    /// Where a file can't be read, or the draft can't be written.
    pub fn carry_over(&mut self) -> Result<Outcome, ChangeError> {
        let files = self.site.carry_over()?;
        let mut outcome = Outcome::saying(match &files[..] {
            [] => "no file of the draft has changed on disk".to_owned(),
            files => format!("carried the draft over to {}", files.join(" and ")),
        });
        outcome.conflicts = conflicts(self.site.draft());
        let all = outcome.conflicts.iter();
        outcome.advice = all
            .flat_map(|conflict| of_conflict(conflict.change))
            .collect();
        Ok(outcome)
    }

    /// Makes another draft of this one; the outcome has the files that differ.
    fn step<T>(
        &mut self,
        change: impl FnOnce(&mut Draft) -> T,
    ) -> Result<(T, Outcome), ChangeError> {
        let mut draft = Draft::clone(self.site.draft());
        let done = change(&mut draft);
        let mut outcome = Outcome::saying("");
        if draft == *self.site.draft() {
            return Ok((done, outcome));
        }
        let draft = Arc::new(draft);
        let after = self.site.view(draft.clone());
        outcome.files = self.site.differences(&after);
        if self.scope == Scope::Site {
            outcome.effect = unasked(self.site, &after).ok();
        }
        // Their files are kept already: the draft is about no others.
        self.site
            .write_draft(draft, &std::collections::BTreeMap::new())?;
        self.site.last = None;
        Ok((done, outcome))
    }

    /// What an undo or a redo did, in a sentence.
    fn told(&self, step: &Step, undone: bool) -> String {
        let word = if undone { "undone" } else { "redone" };
        let draft = self.site.draft();
        let named = |id: u32| match draft.summary_of(id) {
            Some(summary) => format!("change {id} ({summary})"),
            None => format!("change {id}"),
        };
        match step {
            Step::Added { id } => format!("{word}: {}", named(*id)),
            Step::Grouped { ids, name } => format!("{word}: {name} ({} changes)", ids.len()),
            Step::Switched { id } => format!("{word}: switching {}", named(*id)),
            Step::Discarded { id, .. } => format!("{word}: discarding {}", named(*id)),
            Step::Emptied { was } => format!("{word}: discarding {} changes", was.len()),
            Step::Retargeted { id, instead_of, .. } => {
                format!("{word}: {} in the place of change {instead_of}", named(*id))
            }
        }
    }
}

/// The changes that are on and no longer fit.
pub(super) fn conflicts(draft: &Draft) -> Vec<ConflictAnswer> {
    let on = draft.edits().filter(|entry| entry.state == EditState::On);
    let conflicts = on.filter_map(|entry| {
        Some(ConflictAnswer {
            change: entry.id,
            conflict: entry.conflict.clone()?,
        })
    });
    conflicts.collect()
}
