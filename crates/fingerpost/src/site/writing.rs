//! Saving the draft, and taking a save back.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

use serde::ser::{Serialize, SerializeStruct, Serializer};

use super::journal::{self, Writing};
use super::keep::{self, Saved, SavedDraft, SavedFile, Saves};
use super::{Site, SiteError, is_url};
use crate::draft::{Base, Bases, Draft, DraftEntry, EditState, NotApplied};
use crate::text::{Patch, SitePath, Text, difference, lines_before, unified_diff};

/// A file that changes: before and after.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct ChangedFile {
    /// As it is on disk.
    pub before: Arc<Text>,
    /// As it will be.
    pub after: Arc<Text>,
}

impl Serialize for ChangedFile {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let mut fields = serializer.serialize_struct("ChangedFile", 2)?;
        fields.serialize_field("file", self.before.name())?;
        fields.serialize_field("diff", &self.diff())?;
        fields.end()
    }
}

#[cfg(feature = "schemas")]
impl schemars::JsonSchema for ChangedFile {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        "ChangedFile".into()
    }

    fn json_schema(_: &mut schemars::SchemaGenerator) -> schemars::Schema {
        schemars::json_schema!({
            "type": "object",
            "description": "A file and what is changed in it",
            "properties": {
                "file": { "type": "string" },
                "diff": { "type": "string", "description": "The change as a unified diff" }
            },
            "required": ["file", "diff"],
            "additionalProperties": false
        })
    }
}

impl ChangedFile {
    /// The change as a unified diff.
    pub fn diff(&self) -> String {
        unified_diff(
            self.before.name(),
            self.before.source(),
            self.after.source(),
        )
    }

    /// For each line of the text as it will be, from the first: the line that it is on disk, from 1; none for a line
    /// that the change wrote.
    pub fn lines_before(&self) -> Vec<Option<u32>> {
        lines_before(self.before.source(), self.after.source())
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
#[non_exhaustive]
pub enum Selection {
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
pub(crate) struct SaveOutcome {
    /// The files that were written.
    pub changes: Vec<ChangedFile>,
    /// What of the files could not be kept, in sentences: their owner, other names of theirs.
    pub notes: Vec<String>,
}

/// What taking a save back did.
#[derive(Debug)]
pub(crate) struct Unsaved {
    /// The files that were written.
    pub changes: Vec<ChangedFile>,
    /// What the save had done that is undone, each edit in a sentence.
    pub summaries: Vec<String>,
    /// The edits that are in the draft again.
    pub again: BTreeSet<u32>,
}

impl Site {
    /// What a save of all edits would change.
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
    /// let changes = session.site().changes()?;
    /// assert!(changes[0].diff().contains("+p { color: navy }"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where a file can't be read, or is not what the draft was based on.
    pub fn changes(&self) -> Result<Vec<ChangedFile>, SiteError> {
        let drafted = self.drafted()?;
        Ok(changed(&self.bases()?, &drafted.texts))
    }

    /// What a save of some edits would change.
    ///
    /// # Errors
    /// As [`Site::changes`]; [`SiteError::NotApplied`] where an edit has lost its place,
    /// [`SiteError::NoSuchEdit`] where one is not there or off, and where one was made over others
    /// that are not saved with it.
    pub fn changes_of(&self, which: &Selection) -> Result<Vec<ChangedFile>, SiteError> {
        let bases = self.bases()?;
        let after = self.after(&bases, &self.chosen(which)?)?;
        Ok(changed(&bases, &after))
    }

    /// The numbers of some edits, each of which has its place.
    pub(crate) fn chosen(&self, which: &Selection) -> Result<BTreeSet<u32>, SiteError> {
        // What is set conflicts is left out unless it was asked for by its number.
        let on = |entry: &&DraftEntry| entry.state == EditState::On && entry.conflict.is_none();
        let ids: BTreeSet<u32> = match which {
            Selection::All => self.draft.edits().filter(on).map(|t| t.id).collect(),
            Selection::Edits(ids) => {
                for id in ids {
                    let found = self.draft.edit(*id);
                    if let Some(NotApplied::Conflict(conflict)) = self.draft.not_applied(*id) {
                        return Err(SiteError::Conflict {
                            id: *id,
                            conflict: Box::new(conflict),
                        });
                    }
                    found.filter(on).ok_or(SiteError::NoSuchEdit { id: *id })?;
                }
                ids.clone()
            }
            Selection::Files(files) => {
                for file in files {
                    if !self.draft.edits().any(|entry| entry.files.contains(file)) {
                        return Err(SiteError::NoChangeIn {
                            file: file.clone(),
                            files: self.draft.files().map(str::to_owned).collect(),
                        });
                    }
                }
                let here = |t: &&DraftEntry| t.files.iter().any(|file| files.contains(file));
                let edits = self.draft.edits().filter(on).filter(here);
                edits.map(|t| t.id).collect()
            }
        };
        let not_applied: Vec<u32> = self
            .not_applied()?
            .into_iter()
            .filter(|id| ids.contains(id))
            .collect();
        match not_applied.is_empty() {
            true => Ok(ids),
            false => Err(SiteError::NotApplied { ids: not_applied }),
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
    pub(crate) fn save(&mut self, which: &Selection) -> Result<SaveOutcome, SiteError> {
        self.forget();
        let site = self;
        {
            let ids = site.chosen(which)?;
            let bases = site.bases()?;
            let after = site.after(&bases, &ids)?;
            let changes = changed(&bases, &after);
            let mut draft = Draft::clone(&site.draft);
            let summaries: Vec<String> = draft
                .edits()
                .filter(|t| ids.contains(&t.id))
                .map(|t| t.summary.clone())
                .collect();
            let patches = draft.patches(&bases, &ids);
            draft
                .saved(&bases, &after, &ids)
                .map_err(|source| site.draft_error(source))?;
            keep::keep_bases(&site.root, &draft, &after)?;
            let mut saves = Saves::read(&site.root)?;
            if !changes.is_empty() {
                for change in &changes {
                    keep::keep_text(&site.root, &change.after)?;
                    if change.before.encoding().keeps_bytes() {
                        keep::keep_text(&site.root, &change.before)?;
                    }
                }
                let saved = changes.iter().map(|change| {
                    let name = change.before.name();
                    let file = SitePath::new(name)?;
                    let back = patches.get(name).map_or_else(
                        || difference(change.after.source(), change.before.source()),
                        |patch| patch.invert(change.before.source()),
                    );
                    Ok(SavedFile {
                        before: Base::of(&change.before),
                        after: Base::of(&change.after),
                        back,
                        created: !site.root.has(&file),
                        file,
                    })
                });
                let files = saved.collect::<Result<_, SiteError>>()?;
                for older in &mut saves.saves {
                    older.draft = None;
                }
                saves.saves.push(Saved {
                    summaries,
                    files,
                    draft: Some(SavedDraft::new(&site.draft, &draft)),
                });
            }
            let files = changes.iter().map(|change| {
                let file = SitePath::new(change.before.name())?;
                let created = !site.root.has(&file);
                Ok(writing(change, file, created, false))
            });
            let files = files.collect::<Result<Vec<Writing>, SiteError>>()?;
            let notes = journal::write(&site.root, &files, &draft, saves)?;
            site.now_kept(draft);
            Ok(SaveOutcome { changes, notes })
        }
    }

    /// Takes the last save back: what it changed in the files becomes again what it was. What was
    /// changed there since, by another hand or by the draft, stays. Gives what was done, and what had
    /// been saved in sentences.
    ///
    /// # Errors
    /// [`SiteError::NothingSaved`]; [`SiteError::ChangedSince`] where the same text was changed since,
    /// with both changes; or where a file can't be written. Nothing is changed then.
    pub(crate) fn unsave(&mut self) -> Result<Unsaved, SiteError> {
        self.forget();
        let site = self;
        {
            let mut saves = Saves::read(&site.root)?;
            let last = saves.saves.pop().ok_or(SiteError::NothingSaved)?;
            let mut changes = Vec::new();
            let mut files = Vec::new();
            let mut is_as_saved = true;
            let mut known: BTreeMap<String, Patch> = BTreeMap::new();
            for saved in &last.files {
                let name = saved.file.as_str();
                let path = site.root.shown(&saved.file);
                let bytes = site.root.read(&saved.file)?;
                let untouched = Base::digest(&bytes) == saved.after.sha256;
                is_as_saved &= untouched;
                let before = keep::decoded(name, bytes, &saved.after.encoding, &path)?;
                let patch = match untouched {
                    true if saved.back.fits(before.source()) => saved.back.clone(),
                    true => return Err(site.bad_saves(name)),
                    false => site.merged_back(saved, &before)?,
                };
                // Bytes that did not decode are in no patch; the file as it was has them.
                let after = match keep::kept_base(&site.root, name, &saved.before) {
                    Ok(kept) if untouched => kept,
                    _ => before
                        .patched(&patch)
                        .map_err(|source| SiteError::NotText { path, source })?,
                };
                if untouched && Base::of(&after).sha256 != saved.before.sha256 {
                    return Err(site.bad_saves(name));
                }
                known.insert(name.to_owned(), patch);
                let change = ChangedFile { before, after };
                let removed = saved.created && change.after.source().is_empty();
                files.push(writing(&change, saved.file.clone(), false, removed));
                changes.push(change);
            }
            // What is tried goes on from the old files.
            let bases = site.bases()?;
            let mut now = bases.clone();
            for change in &changes {
                now.insert(change.after.name().to_owned(), change.after.clone());
            }
            let (draft, _) = site
                .draft
                .carried(&bases, &now, &known)
                .map_err(|source| site.draft_error(source))?;
            let kept: BTreeSet<u32> = draft.edits().map(|entry| entry.id).collect();
            let back = last.draft.filter(|_| is_as_saved);
            let draft = back
                .and_then(|back| back.back(&site.draft))
                .unwrap_or(draft);
            let again = draft.edits().map(|entry| entry.id);
            let again = again.filter(|id| !kept.contains(id)).collect();
            keep::keep_bases(&site.root, &draft, &now)?;
            journal::write(&site.root, &files, &draft, saves)?;
            site.now_kept(draft);
            Ok(Unsaved {
                changes,
                summaries: last.summaries,
                again,
            })
        }
    }

    /// The list of saves does not lead back to what a file was.
    fn bad_saves(&self, file: &str) -> SiteError {
        SiteError::State {
            path: keep::shown(&self.root, keep::SAVES_FILE),
            message: format!("what it keeps does not lead back to the old {file}"),
        }
    }

    /// What leads back from a save, over what was changed since.
    fn merged_back(&self, saved: &SavedFile, now: &Arc<Text>) -> Result<Patch, SiteError> {
        let kept = keep::kept_base(&self.root, saved.file.as_str(), &saved.after);
        let then = kept.map_err(|_| SiteError::ChangedSince {
            file: saved.file.to_string(),
            save: String::new(),
            since: String::new(),
        })?;
        if !saved.back.fits(then.source()) {
            return Err(self.bad_saves(&saved.file));
        }
        crate::draft::both(&then, &saved.back, now).ok_or_else(|| {
            let old = saved.back.put_into(then.source());
            SiteError::ChangedSince {
                file: saved.file.to_string(),
                save: unified_diff(saved.file.as_str(), &old, then.source()),
                since: unified_diff(now.name(), then.source(), now.source()),
            }
        })
    }

    /// The draft carried over to the files as they are on disk now, and the files that changed.
    pub(crate) fn carry_over(&mut self) -> Result<Vec<String>, SiteError> {
        self.forget();
        self.rebase(self.kept.clone())?;
        let files = std::mem::take(&mut self.carried);
        let bases = self.bases()?;
        self.write_draft(self.draft.clone(), &bases)?;
        Ok(files)
    }
}

fn changed(before: &Bases, after: &Bases) -> Vec<ChangedFile> {
    let pairs = after.iter().map(|(file, after)| ChangedFile {
        before: before[file].clone(),
        after: after.clone(),
    });
    // What a server makes is not written: its templates are.
    let differs = |change: &ChangedFile| {
        change.before.source() != change.after.source() && !is_url(change.before.name())
    };
    pairs.filter(differs).collect()
}

fn writing(change: &ChangedFile, file: SitePath, created: bool, removed: bool) -> Writing {
    Writing {
        file,
        before: (!created).then(|| change.before.to_bytes()),
        after: (!removed).then(|| change.after.to_bytes()),
    }
}
