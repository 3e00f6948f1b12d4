//! Trying, saving, taking a save back.

use std::collections::BTreeSet;
use std::sync::Arc;

use super::journal::{self, Writing};
use super::keep::{self, Saved, SavedFile, Saves};
use super::lock::Lock;
use super::{DRAFT_FILE, Site, SiteError, is_url};
use crate::edit::{
    Anchor, Around, Base, Bases, Destination, Draft, Edit, EditError, EditState, Intent, Tried,
    make_in,
};
use crate::page::Page;
use crate::question::find::{What, elements};
use crate::text::{DecodeHint, Patch, Text, TextSize};

/// A file that a save changes: before and after.
#[derive(Debug)]
pub struct Change {
    /// As it is on disk.
    pub before: Arc<Text>,
    /// As it will be.
    pub after: Arc<Text>,
}

impl Change {
    /// The change as a unified diff.
    pub fn diff(&self) -> String {
        crate::edit::unified_diff(&self.before, &self.after)
    }

    /// The change as a patch file has it, for `git apply`: the diff of the lines as the file has
    /// them, their endings included.
    pub fn patch(&self) -> String {
        let name = self.before.name();
        format!("diff --git a/{name} b/{name}\n{}", self.diff())
    }
}

/// Which edits of the draft are saved.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub enum Which {
    /// All that are on.
    #[default]
    All,
    /// Those of these numbers.
    Edits(BTreeSet<u32>),
    /// Those of these files.
    Files(BTreeSet<String>),
}

/// What a save did.
#[derive(Debug)]
pub struct Outcome {
    /// The files that were written.
    pub changes: Vec<Change>,
    /// Edits that were off and are gone from the draft, for what they change is gone.
    pub lost: Vec<Tried>,
}

impl Site {
    /// Takes the lock on the draft, and reads the draft anew: until the site is dropped no other
    /// program changes it.
    ///
    /// # Errors
    /// Where another program holds the lock for long, or the draft can't be read.
    pub fn hold(&mut self) -> Result<(), SiteError> {
        if self.lock.is_none() {
            let lock = Lock::take(&self.root)?;
            self.draft = keep::read_draft(&self.root)?;
            self.lock = Some(lock);
            self.forget();
        }
        Ok(())
    }

    /// Does something under the lock, where the draft is still what was read.
    fn locked<T>(
        &mut self,
        work: impl FnOnce(&mut Site) -> Result<T, SiteError>,
    ) -> Result<T, SiteError> {
        if self.lock.is_some() {
            return work(self);
        }
        let lock = Lock::take(&self.root)?;
        if keep::read_draft(&self.root)? != self.draft {
            return Err(SiteError::Overtaken {
                path: self.root.join(DRAFT_FILE),
            });
        }
        let done = work(self);
        drop(lock);
        done
    }

    /// The files of the draft and of an edit as they are on disk.
    fn bases_with(&self, edit: &Edit) -> Result<Bases, SiteError> {
        let mut bases = self.bases()?;
        for file in edit.files() {
            if !bases.contains_key(file) {
                bases.insert(file.to_owned(), self.base_text(file, self.hint(file))?);
            }
        }
        Ok(bases)
    }

    /// The override sheet may be named by its file name alone.
    fn aimed(&self, intent: &Intent) -> Intent {
        let mut aimed = intent.clone();
        if let (Destination::Sheet(name), Some(custom)) = (&intent.into, &self.config.custom)
            && custom.rsplit('/').next() == Some(name)
            && !self.root.join(name).exists()
        {
            aimed.into = Destination::Custom;
        }
        aimed
    }

    /// Turns an intent into an edit of the site's files, over a page as the draft leaves it.
    ///
    /// # Errors
    /// Where the edit can't be made; see [`EditError`].
    pub fn make(&self, page: &Page, intent: &Intent) -> Result<Edit, EditError> {
        let intent = &self.aimed(intent);
        let mut around = Around {
            custom: self.config.custom.clone(),
            ..Around::default()
        };
        if intent.into != Destination::Place {
            around.documents = self.documents();
        }
        let named = match &intent.into {
            Destination::Custom => self.config.custom.as_deref(),
            Destination::Sheet(name) => Some(name.as_str()),
            _ => None,
        };
        // One that can't be read is one that is not there.
        let hint = DecodeHint::Css(encoding_rs::UTF_8);
        around
            .sheets
            .extend(named.and_then(|name| self.text(name, hint).ok()));
        let mut edit = make_in(page, intent, &around)?;
        if is_url(page.document().text().name()) {
            let what = intent.element.as_deref().map(What::parse);
            let targets = match what {
                Some(what) => elements(page, &what)?,
                None => Vec::new(),
            };
            edit.changes = self.follow_templates(page, &targets, edit.changes)?;
        }
        Ok(edit)
    }

    /// Puts an edit into the draft, and the draft into its file. Gives the edit's number.
    ///
    /// # Errors
    /// Where the edit does not fit, or the draft file can't be written; the draft is then as it was.
    pub fn try_edit(&mut self, edit: Edit) -> Result<u32, SiteError> {
        self.locked(|site| {
            let bases = site.bases_with(&edit)?;
            let mut draft = site.draft.clone();
            let id = draft
                .push(edit, &bases)
                .map_err(|source| site.draft_error(source))?;
            keep::keep_bases(&site.root, &draft, &bases)?;
            site.keep(draft)?;
            Ok(id)
        })
    }

    /// Puts an edit in the place of another one of the draft; `None` where there is none of that
    /// number. The edit must have been made without the old one: see [`Site::without`].
    ///
    /// # Errors
    /// As [`Site::try_edit`].
    pub fn aim(&mut self, old: u32, edit: Edit) -> Result<Option<u32>, SiteError> {
        self.locked(|site| {
            let bases = site.bases_with(&edit)?;
            let mut draft = site.draft.clone();
            let id = draft
                .aim(old, edit, &bases)
                .map_err(|source| site.draft_error(source))?;
            keep::keep_bases(&site.root, &draft, &bases)?;
            site.keep(draft)?;
            Ok(id)
        })
    }

    /// Leaves one edit of the draft out of all answers of this site, without writing that down.
    pub fn without(&mut self, id: u32) {
        self.draft.switch(id, false);
        self.forget();
    }

    /// Changes the draft by something other than an edit, such as [`Draft::switch`] or
    /// [`Draft::undo`], and writes its file.
    ///
    /// # Errors
    /// Where the draft file can't be written; the draft is then as it was.
    pub fn change_draft<T>(
        &mut self,
        change: impl FnOnce(&mut Draft) -> T,
    ) -> Result<T, SiteError> {
        self.locked(|site| {
            let mut draft = site.draft.clone();
            let done = change(&mut draft);
            site.keep(draft)?;
            Ok(done)
        })
    }

    fn keep(&mut self, draft: Draft) -> Result<(), SiteError> {
        keep::write_draft(&self.root, &draft)?;
        self.draft = draft;
        self.forget();
        Ok(())
    }

    /// A place in a file as the draft leaves it, which stays the same whatever is tried, switched or
    /// dropped later.
    pub fn anchor(&self, file: &str, offset: TextSize) -> Option<Anchor> {
        self.draft.anchor(&self.bases().ok()?, file, offset)
    }

    /// The offset of an anchor in its file as the draft leaves it now; none where its text is gone.
    pub fn offset(&self, anchor: &Anchor) -> Option<TextSize> {
        self.draft.offset(&self.bases().ok()?, anchor)
    }

    /// What a save of all edits would change.
    ///
    /// # Errors
    /// Where a file can't be read, or is not what the draft was based on.
    pub fn changes(&self) -> Result<Vec<Change>, SiteError> {
        let drafted = self.drafted()?;
        Ok(changed(&self.bases()?, &drafted.texts))
    }

    /// What a save of some edits would change.
    ///
    /// # Errors
    /// As [`Site::changes`]; [`SiteError::Adrift`] where an edit has lost its place,
    /// [`SiteError::NoSuchEdit`] where one is not there or off, and where one was made over others
    /// that are not saved with it.
    pub fn changes_of(&self, which: &Which) -> Result<Vec<Change>, SiteError> {
        let bases = self.bases()?;
        let after = self.after(&bases, &self.chosen(which)?)?;
        Ok(changed(&bases, &after))
    }

    /// The numbers of some edits, none of which has lost its place.
    fn chosen(&self, which: &Which) -> Result<BTreeSet<u32>, SiteError> {
        let on = |tried: &&Tried| tried.state == EditState::On;
        let ids: BTreeSet<u32> = match which {
            Which::All => self.draft.edits().filter(on).map(|t| t.id).collect(),
            Which::Edits(ids) => {
                for id in ids {
                    let found = self.draft.edit(*id).filter(on);
                    found.ok_or(SiteError::NoSuchEdit { id: *id })?;
                }
                ids.clone()
            }
            Which::Files(files) => {
                let here = |t: &&Tried| t.edit.files().any(|file| files.contains(file));
                let edits = self.draft.edits().filter(on).filter(here);
                edits.map(|t| t.id).collect()
            }
        };
        let adrift: Vec<u32> = self
            .adrift()?
            .into_iter()
            .filter(|id| ids.contains(id))
            .collect();
        match adrift.is_empty() {
            true => Ok(ids),
            false => Err(SiteError::Adrift { ids: adrift }),
        }
    }

    fn after(&self, bases: &Bases, ids: &BTreeSet<u32>) -> Result<Bases, SiteError> {
        let after = self.draft.partly(bases, ids);
        after.map_err(|source| self.draft_error(source))
    }

    /// Writes the draft into the sources and takes what it wrote out of it. All files are checked
    /// before the first is written; they change together or not at all, and a save that is cut off
    /// is finished or rolled back at the next start.
    ///
    /// # Errors
    /// Where a file has changed since it was read, an edit has lost its place, or a file can't be
    /// written. Nothing is changed then.
    pub fn save(&mut self, which: &Which) -> Result<Outcome, SiteError> {
        self.forget();
        self.locked(|site| {
            let ids = site.chosen(which)?;
            let bases = site.bases()?;
            let after = site.after(&bases, &ids)?;
            let changes = changed(&bases, &after);
            let mut draft = site.draft.clone();
            let said: Vec<String> = draft
                .edits()
                .filter(|t| ids.contains(&t.id))
                .map(|t| t.edit.said.clone())
                .collect();
            let lost = draft
                .saved(&bases, &after, &ids)
                .map_err(|source| site.draft_error(source))?;
            keep::keep_bases(&site.root, &draft, &after)?;
            let mut saves = Saves::read(&site.root)?;
            if !changes.is_empty() {
                saves.saves.push(Saved {
                    said,
                    files: changes.iter().map(saved_file).collect(),
                });
            }
            let files: Vec<Writing> = changes.iter().map(writing).collect();
            journal::write(&site.root, &files, &draft, saves)?;
            site.draft = draft;
            site.forget();
            Ok(Outcome { changes, lost })
        })
    }

    /// Takes the last save back: the files become again what they were, but for what the draft
    /// changes. Gives what was done, and what had been saved in sentences.
    ///
    /// # Errors
    /// [`SiteError::NothingSaved`], or where a file has changed since it was saved or can't be
    /// written; nothing is changed then.
    pub fn unsave(&mut self) -> Result<(Vec<Change>, Vec<String>), SiteError> {
        self.forget();
        self.locked(|site| {
            let mut saves = Saves::read(&site.root)?;
            let last = saves.saves.pop().ok_or(SiteError::NothingSaved)?;
            let mut changes = Vec::new();
            for saved in &last.files {
                let path = site.root.join(&saved.file);
                let bytes = std::fs::read(&path).map_err(|source| SiteError::Unreadable {
                    path: path.clone(),
                    source,
                })?;
                let changed = SiteError::ChangedSince {
                    file: saved.file.clone(),
                };
                if Base::digest(&bytes) != saved.after.sha256 {
                    return Err(changed);
                }
                let before = keep::decoded(&saved.file, bytes, &saved.after.encoding, &path)?;
                let after = before
                    .patched(&saved.back)
                    .map_err(|source| SiteError::NotText { path, source })?;
                if Base::of(&after).sha256 != saved.before.sha256 {
                    return Err(changed);
                }
                changes.push(Change { before, after });
            }
            // What is tried goes on from the old files.
            let bases = site.bases()?;
            let mut now = bases.clone();
            for change in &changes {
                now.insert(change.after.name().to_owned(), change.after.clone());
            }
            let mut draft = site.draft.clone();
            draft
                .merge(&bases, &now)
                .map_err(|source| site.draft_error(source))?;
            keep::keep_bases(&site.root, &draft, &now)?;
            let files: Vec<Writing> = changes.iter().map(writing).collect();
            journal::write(&site.root, &files, &draft, saves)?;
            site.draft = draft;
            site.forget();
            Ok((changes, last.said))
        })
    }

    /// Carries the draft over to files that changed on disk since it was made, where no edit stands
    /// in lines that changed. Gives the files.
    ///
    /// # Errors
    /// Where an edit stands in lines that changed; the draft is then as it was.
    pub fn merge(&mut self) -> Result<Vec<String>, SiteError> {
        self.forget();
        self.locked(|site| {
            let old = keep::kept_bases(&site.root, &site.draft)?;
            let new = site.bases()?;
            let mut draft = site.draft.clone();
            let files = draft
                .merge(&old, &new)
                .map_err(|source| site.draft_error(source))?;
            keep::keep_bases(&site.root, &draft, &new)?;
            site.keep(draft)?;
            Ok(files)
        })
    }

    /// Throws the draft away; says how many edits it held.
    ///
    /// # Errors
    /// Where the draft file can't be removed.
    pub fn drop_draft(&mut self) -> Result<usize, SiteError> {
        self.locked(|site| {
            let count = site.draft.edits().count();
            site.keep(Draft::default())?;
            Ok(count)
        })
    }
}

fn changed(before: &Bases, after: &Bases) -> Vec<Change> {
    let pairs = after.iter().map(|(file, after)| Change {
        before: before[file].clone(),
        after: after.clone(),
    });
    // What a server makes is not written: its templates are.
    let differs = |change: &Change| {
        change.before.source() != change.after.source() && !is_url(change.before.name())
    };
    pairs.filter(differs).collect()
}

fn writing(change: &Change) -> Writing {
    Writing {
        file: change.before.name().to_owned(),
        before: change.before.to_bytes(),
        after: change.after.to_bytes(),
    }
}

fn saved_file(change: &Change) -> SavedFile {
    let back: Patch = crate::edit::difference(change.after.source(), change.before.source());
    SavedFile {
        file: change.before.name().to_owned(),
        before: Base::of(&change.before),
        after: Base::of(&change.after),
        back,
    }
}
