//! The journal of a save: what makes several files change together.
//!
//! 1. The journal says which new files will stand beside which old ones (`preparing`).
//! 2. The new files are written and flushed.
//! 3. The journal says that they are all there (`ready`).
//! 4. Each changes places with the old one, if that is still what was read; else all go back.
//! 5. The draft and the list of saves are written; the old files and the journal go.
//!
//! A save that is cut off before step 3 is rolled back at the next start: the new files are removed.
//! One that is cut off later is finished. Where a file can't take its place in step 4, the old texts are
//! prepared in the same way (`returning`) and put back; that too goes on after it was interrupted.
//!
//! A file takes another one's place only if it holds what the journal says, and the old one still does.

use std::path::Path;

use serde::{Deserialize, Serialize};

use super::SiteError;
use super::keep::{self, Saves};
use super::lock::Lock;
use super::root::{Root, read_file};
use super::state;
use super::store::Prepared;
use super::store_error::StoreError;
use crate::draft::{Base, Draft};
use crate::text::SitePath;

pub(super) const JOURNAL_FILE: &str = "journal.json";

/// Why an interrupted save can't go on.
const CHANGED_SINCE: &str = "the file has changed since";

/// The version of the journal.
const JOURNAL_VERSION: u32 = 5;

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
enum Stage {
    Preparing,
    Ready,
    Returning,
}

/// A file of a save.
#[derive(Clone, Debug, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct Entry {
    file: SitePath,
    /// The digests of its bytes before and after; none where there is no such file.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    before: Option<String>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    after: Option<String>,
}

#[derive(Clone, Debug, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct Journal {
    fingerpost: u32,
    stage: Stage,
    /// What the new files are called after, so that they have names that nothing else has.
    token: String,
    files: Vec<Entry>,
    /// Those of them, by their places in the list, that another program saved meanwhile: they stay as they are.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    left: Vec<usize>,
    /// The draft and the saves as they are to be afterwards.
    draft: Draft,
    saves: Saves,
}

/// A file that is to be written.
pub(super) struct Writing {
    pub file: SitePath,
    /// Its content; none where it is new.
    pub before: Option<Vec<u8>>,
    /// What it is to hold; none where it goes.
    pub after: Option<Vec<u8>>,
}

/// Writes files, all or none, and then the draft and the list of saves. The lock must be held. Gives
/// what people should know of the files, in sentences.
pub(super) fn write(
    root: &Root,
    files: &[Writing],
    draft: &Draft,
    saves: Saves,
) -> Result<Vec<String>, SiteError> {
    let entries = files.iter().map(|file| Entry {
        file: file.file.clone(),
        before: file.before.as_deref().map(Base::digest),
        after: file.after.as_deref().map(Base::digest),
    });
    let mut journal = Journal {
        fingerpost: JOURNAL_VERSION,
        stage: Stage::Preparing,
        token: token(),
        files: entries.collect(),
        left: Vec::new(),
        draft: draft.clone(),
        saves,
    };
    // All are checked before anything is written.
    let mut prepared = Vec::new();
    for (at, file) in files.iter().enumerate() {
        let new = journal.prepared(root, at, Of::New)?;
        new.check(&root.shown(&file.file), file.before.as_deref())?;
        prepared.push(new);
    }
    journal.keep(root)?;
    let mut notes = Vec::new();
    for (file, new) in files.iter().zip(&prepared) {
        match new.write(root, file.after.as_deref()) {
            Ok(lost) => notes.extend(lost.iter().map(|lost| format!("{} {lost}", file.file))),
            Err(error) => {
                journal.roll_back(root)?;
                return Err(StoreError::unwritable(&root.shown(&file.file))(error).into());
            }
        }
    }
    journal.stage = Stage::Ready;
    if let Err(error) = journal.keep(root) {
        journal.roll_back(root)?;
        return Err(error);
    }
    for (at, (file, new)) in files.iter().zip(&prepared).enumerate() {
        let before = file.before.as_deref().map(Base::digest);
        let error = match new.commit(root, before.as_deref(), file.after.is_some()) {
            Ok(true) => continue,
            Ok(false) => {
                journal.left.push(at);
                changed_meanwhile(&root.shown(&file.file))
            }
            Err(error) => StoreError::unwritable(&root.shown(&file.file))(error).into(),
        };
        let written = files.get(..at).unwrap_or(files);
        return Err(journal.put_back(root, written, error));
    }
    // Who had a file open may have written to it after it was replaced.
    for (at, (file, new)) in files.iter().zip(&prepared).enumerate() {
        let before = file.before.as_deref().map(Base::digest);
        if new.is_unchanged(before.as_deref()).unwrap_or(true) {
            continue;
        }
        let path = root.shown(&file.file);
        let error = match new.give_back(file.after.is_some()) {
            Ok(()) => changed_meanwhile(&path),
            Err(error) => StoreError::unwritable(&path)(error).into(),
        };
        journal.left.push(at);
        return Err(journal.put_back(root, files, error));
    }
    journal
        .complete(root)
        .map_err(|source| SiteError::Unlisted {
            source: Box::new(source),
        })?;
    Ok(notes)
}

/// Another program saved a file during the save.
fn changed_meanwhile(path: &Path) -> SiteError {
    let path = path.to_owned();
    StoreError::ChangedMeanwhile { path }.into()
}

/// A word that no other save has.
fn token() -> String {
    use std::hash::{BuildHasher, Hasher, RandomState};
    format!("{:016x}", RandomState::new().build_hasher().finish())
}

/// Finishes an interrupted save, or rolls it back.
pub(super) fn finish(root: &Root) -> Result<(), SiteError> {
    if !state::has(root, JOURNAL_FILE)? {
        return Ok(());
    }
    let _lock = Lock::take(root)?;
    // A save that was at work may have ended meanwhile.
    match Journal::read(root)? {
        Some(journal) => journal.go_on(root),
        None => Ok(()),
    }
}

/// Ends a save that was interrupted and can't be finished: every file stays as it is on disk.
pub(super) fn leave(root: &Root) -> Result<(), SiteError> {
    let _lock = Lock::take(root)?;
    if let Ok(Some(journal)) = Journal::read(root) {
        for (at, entry) in journal.files.iter().enumerate() {
            for of in [Of::New, Of::Old] {
                let Ok(prepared) = journal.prepared(root, at, of) else {
                    continue;
                };
                // What another program saved in the last moment stays, under that name.
                if journal.stage == Stage::Preparing || journal.is_of_save(entry, &prepared) {
                    // What can't be removed is a file beside another one, and does no harm.
                    let _ = prepared.discard(root);
                }
            }
        }
    }
    state::remove(root, JOURNAL_FILE)
}

/// Which text of a file is prepared.
#[derive(Clone, Copy)]
enum Of {
    New,
    Old,
}

impl Journal {
    fn read(root: &Root) -> Result<Option<Journal>, SiteError> {
        let Some(json) = state::read(root, JOURNAL_FILE)? else {
            return Ok(None);
        };
        let bad = |message: String| SiteError::State {
            path: keep::shown(root, JOURNAL_FILE),
            message: format!("{message}. The file says how to finish an interrupted save"),
        };
        keep::check_version(&json, JOURNAL_VERSION).map_err(bad)?;
        let journal: Journal =
            serde_json::from_str(&json).map_err(|error| bad(error.to_string()))?;
        match journal.is_ours() {
            true => Ok(Some(journal)),
            false => Err(bad("fingerpost did not write it".to_owned())),
        }
    }

    /// Whether everything in it that could become a path is what the program writes.
    fn is_ours(&self) -> bool {
        let token = self.token.as_bytes();
        let entries = self.files.iter();
        let mut digests = entries
            .flat_map(|entry| [&entry.before, &entry.after])
            .flatten();
        token.len() == 16
            && token.iter().all(u8::is_ascii_hexdigit)
            && digests.all(|digest| state::is_digest(digest))
    }

    fn keep(&self, root: &Root) -> Result<(), SiteError> {
        let json = serde_json::to_string_pretty(self).expect("plain data serialises");
        state::write(root, JOURNAL_FILE, json.as_bytes())
    }

    /// Where a text of a file is prepared.
    fn prepared(&self, root: &Root, at: usize, of: Of) -> Result<Prepared, SiteError> {
        let file = self
            .files
            .get(at)
            .expect("a file of the journal is asked for by its place in it");
        let real = root.real(&file.file)?;
        let side = match of {
            Of::New => "new",
            Of::Old => "old",
        };
        let new = real.with_file_name(format!(".fingerpost-{}-{at}-{side}", self.token));
        Ok(Prepared { real, new })
    }

    /// Removes what was prepared.
    fn roll_back(&self, root: &Root) -> Result<(), SiteError> {
        self.discard(root, Of::New)?;
        state::remove(root, JOURNAL_FILE)
    }

    fn discard(&self, root: &Root, of: Of) -> Result<(), SiteError> {
        for at in 0..self.files.len() {
            let prepared = self.prepared(root, at, of)?;
            prepared
                .discard(root)
                .map_err(StoreError::unwritable(&prepared.new))?;
        }
        Ok(())
    }

    /// Puts the first files back after `error` has stopped the save, and gives the error to report.
    fn put_back(&mut self, root: &Root, done: &[Writing], error: SiteError) -> SiteError {
        let put = || -> Result<(), SiteError> {
            for (at, file) in done.iter().enumerate() {
                if self.left.contains(&at) {
                    continue;
                }
                let old = self.prepared(root, at, Of::Old)?;
                let written = old.write(root, file.before.as_deref());
                written.map_err(StoreError::unwritable(&old.new))?;
            }
            let mut returning = self.clone();
            returning.stage = Stage::Returning;
            returning.keep(root)?;
            returning.put_all_back(root)
        };
        match put() {
            Ok(()) => error,
            Err(second) => SiteError::HalfSaved {
                written: done.iter().map(|file| file.file.to_string()).collect(),
                first: Box::new(error),
                second: Box::new(second),
            },
        }
    }

    /// Gives every file its old text again, where it has the new one.
    fn put_all_back(&self, root: &Root) -> Result<(), SiteError> {
        for (at, entry) in self.files.iter().enumerate() {
            let old = self.prepared(root, at, Of::Old)?;
            let present = present(&old.real, &root.shown(&entry.file))?;
            if present == entry.before || self.left.contains(&at) {
                continue;
            }
            let new = self.prepared(root, at, Of::New)?;
            if present == entry.after && !self.is_of_save(entry, &new) {
                let unwritable = StoreError::unwritable(&new.real);
                new.give_back(entry.after.is_some()).map_err(unwritable)?;
                continue;
            }
            self.take_place(root, entry, &old, &present, &entry.after, &entry.before)?;
        }
        self.discard(root, Of::New)?;
        self.discard(root, Of::Old)?;
        state::remove(root, JOURNAL_FILE)
    }

    fn go_on(&self, root: &Root) -> Result<(), SiteError> {
        match self.stage {
            Stage::Preparing => self.roll_back(root),
            Stage::Returning => self.put_all_back(root),
            Stage::Ready => {
                for (at, entry) in self.files.iter().enumerate() {
                    let new = self.prepared(root, at, Of::New)?;
                    let path = root.shown(&entry.file);
                    let present = present(&new.real, &path)?;
                    if present != entry.after {
                        self.take_place(root, entry, &new, &present, &entry.before, &entry.after)?;
                    } else if !self.is_of_save(entry, &new) {
                        return Err(SiteError::Interrupted {
                            path,
                            why: "what another program saved meanwhile is beside it, in a file .fingerpost-…-new",
                        });
                    }
                }
                self.discard(root, Of::Old)?;
                self.complete(root)
            }
        }
    }

    /// Puts a prepared file in its place, if what is there and what was prepared are what they should be.
    fn take_place(
        &self,
        root: &Root,
        entry: &Entry,
        prepared: &Prepared,
        present: &Option<String>,
        from: &Option<String>,
        to: &Option<String>,
    ) -> Result<(), SiteError> {
        let path = root.shown(&entry.file);
        let whole = to.as_ref().is_none_or(|digest| prepared.holds(digest));
        if present != from || !whole {
            let why = match whole {
                true => CHANGED_SINCE,
                false => "its prepared text is gone or was changed",
            };
            return Err(SiteError::Interrupted { path, why });
        }
        let committed = prepared.commit(root, from.as_deref(), to.is_some());
        match committed.map_err(StoreError::unwritable(&path))? {
            true => Ok(()),
            false => Err(SiteError::Interrupted {
                path,
                why: CHANGED_SINCE,
            }),
        }
    }

    /// Whether what has a prepared file's name is of this save: the new text, the old one, or nothing.
    fn is_of_save(&self, entry: &Entry, prepared: &Prepared) -> bool {
        let mut digests = [&entry.before, &entry.after].into_iter().flatten();
        prepared.is_empty() || digests.any(|digest| prepared.holds(digest))
    }

    /// The files are written; the rest follows.
    fn complete(&self, root: &Root) -> Result<(), SiteError> {
        self.saves.clone().write(root)?;
        keep::write_draft(root, &self.draft)?;
        self.discard(root, Of::New)?;
        state::remove(root, JOURNAL_FILE)
    }
}

/// The digest of a file; none where it is not there.
fn present(real: &Path, shown: &Path) -> Result<Option<String>, SiteError> {
    match read_file(real, shown) {
        Ok(bytes) => Ok(Some(Base::digest(&bytes))),
        Err(SiteError::Unreadable { source, .. })
            if source.kind() == std::io::ErrorKind::NotFound =>
        {
            Ok(None)
        }
        Err(error) => Err(error),
    }
}
