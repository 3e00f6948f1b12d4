//! Saving, undoing a save, and finishing one that was interrupted.

use std::path::Path;

use super::steps::conflicts;
use super::{Added, ChangeError, Outcome, Scope, Session};
use crate::advice::of_conflict;
use crate::impact::draft::effect_of;
use crate::site::{Selection, Site, SiteError};

impl Session<'_> {
    /// Writes every change of the draft that is on into the sources.
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
    /// assert_eq!(session.save_all()?.files.len(), 1);
    /// assert!(session.site().draft().is_empty());
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// As [`Session::save`].
    pub fn save_all(&mut self) -> Result<Outcome, ChangeError> {
        self.save(&Selection::All)
    }

    /// Writes changes of the draft into the sources, and takes them out of the draft. All files are checked before the
    /// first is written; they change together or not at all. The effect is worked out under the same lock.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    /// use fingerpost::site::Selection;
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
    /// session.edit("a.html", "p", Change::add("margin", "0"))?;
    /// session.save(&Selection::Edits([1].into()))?;
    /// assert_eq!(session.site().draft().edits().count(), 1);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where a file has changed since it was read, a change does not apply, or a file can't be written.
    pub fn save(&mut self, selection: &Selection) -> Result<Outcome, ChangeError> {
        let effect = match self.scope {
            Scope::Site => Some(effect_of(self.site, selection)?),
            _ => None,
        };
        let saved = self.site.save(selection)?;
        self.site.last = None;
        let names: Vec<&str> = saved.changes.iter().map(|c| c.before.name()).collect();
        let mut outcome = Outcome::saying(match &names[..] {
            [] => "nothing to save".to_owned(),
            names => format!("saved {}", names.join(" and ")),
        });
        outcome.files = saved.changes;
        outcome.effect = effect;
        outcome.notes = saved.notes;
        outcome.conflicts = conflicts(self.site.draft());
        let all = outcome.conflicts.iter();
        outcome.advice = all
            .flat_map(|conflict| of_conflict(conflict.change))
            .collect();
        Ok(outcome)
    }

    /// Undoes the last save: what it changed in the files becomes what it was, and its changes are in the draft again, if
    /// neither the files nor the draft changed since. What was changed in the files since stays.
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
    /// session.save_all()?;
    /// session.unsave()?;
    /// assert_eq!(std::fs::read_to_string(folder.path().join("a.css"))?, "p { color: teal }\n");
    /// assert_eq!(session.site().draft().edits().count(), 1);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where there is no save, the same text was changed since, or a file can't be written.
    pub fn unsave(&mut self) -> Result<Outcome, ChangeError> {
        let undone = self.site.unsave()?;
        self.site.last = None;
        let mut outcome = Outcome::saying("undid the last save");
        let again = self.site.draft().edits();
        let again = again.filter(|entry| undone.again.contains(&entry.id));
        outcome.edits = again
            .map(|entry| Added {
                change: entry.id,
                summary: entry.summary.clone(),
                warnings: entry.warnings.clone(),
                details: None,
            })
            .collect();
        outcome.files = undone.changes;
        outcome.notes = undone.summaries;
        Ok(outcome)
    }

    /// Finishes an interrupted save in the site of a folder; with `leave`, every source stays as it is on disk and what was
    /// to be saved is forgotten. Says whether there was anything to do.
    ///
    /// # Errors
    /// Where the save can't be finished, or a file of the program's own can't be removed.
    pub fn recover(folder: &Path, leave: bool) -> Result<bool, SiteError> {
        Site::recover(folder, leave)
    }

    /// Discards the draft of a folder's site without reading it: the way out where it can't be read.
    ///
    /// # Errors
    /// Where the draft file can't be removed.
    pub fn discard_unread(folder: &Path) -> Result<(), SiteError> {
        Site::discard_unread_draft(folder)
    }
}
