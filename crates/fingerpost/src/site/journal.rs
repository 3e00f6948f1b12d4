//! The journal of a save: what makes several files change together.
//!
//! 1. The journal says which new files will stand beside which old ones (`preparing`).
//! 2. The new files are written and flushed.
//! 3. The journal says that they are all there (`ready`).
//! 4. Each takes the old one's place; then the draft and the list of saves are written.
//! 5. The journal goes.
//!
//! A save that is cut off before step 3 is rolled back at the next start: the new files are removed.
//! One that is cut off later is finished.

use std::fs;
use std::path::Path;

use serde::{Deserialize, Serialize};

use super::keep::{self, Saves};
use super::lock::Lock;
use super::store::{Prepared, StoreError, beside, real_path};
use super::{SiteError, keep::remove};
use crate::edit::{Base, Draft};

const JOURNAL_FILE: &str = ".fingerpost/journal.json";

/// The version of the journal.
const JOURNAL_VERSION: u32 = 2;

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
enum Stage {
    Preparing,
    Ready,
}

/// A file of a save.
#[derive(Debug, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct Entry {
    /// Relative to the site's root.
    file: String,
    /// The digests of its bytes before and after; none where there is no such file.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    before: Option<String>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    after: Option<String>,
}

#[derive(Debug, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct Journal {
    fingerpost: u32,
    stage: Stage,
    files: Vec<Entry>,
    /// The draft and the saves as they are to be afterwards.
    draft: Draft,
    saves: Saves,
}

/// A file that is to be written.
pub(super) struct Writing {
    pub file: String,
    /// What it holds; none where it is new.
    pub before: Option<Vec<u8>>,
    /// What it is to hold; none where it goes.
    pub after: Option<Vec<u8>>,
}

/// Writes files, all or none, and then the draft and the list of saves. The lock must be held.
pub(super) fn write(
    root: &Path,
    files: &[Writing],
    draft: &Draft,
    saves: Saves,
) -> Result<(), SiteError> {
    // All are checked before anything is written.
    let mut prepared = Vec::new();
    for file in files {
        let path = root.join(&file.file);
        prepared.push(Prepared::check(&path, file.before.as_deref())?);
    }
    let entries = files.iter().map(|file| Entry {
        file: file.file.clone(),
        before: file.before.as_deref().map(Base::digest),
        after: file.after.as_deref().map(Base::digest),
    });
    let mut journal = Journal {
        fingerpost: JOURNAL_VERSION,
        stage: Stage::Preparing,
        files: entries.collect(),
        draft: draft.clone(),
        saves,
    };
    journal.keep(root)?;
    for (file, new) in files.iter().zip(&prepared) {
        if let Err(error) = new.write(file.after.as_deref()) {
            journal.roll_back(root)?;
            return Err(StoreError::unwritable(&root.join(&file.file))(error).into());
        }
    }
    journal.stage = Stage::Ready;
    if let Err(error) = journal.keep(root) {
        journal.roll_back(root)?;
        return Err(error);
    }
    for (at, (file, new)) in files.iter().zip(&prepared).enumerate() {
        let Err(error) = new.commit(file.after.is_some()) else {
            continue;
        };
        // Those that have changed become again what they were. Where that fails too, the journal
        // stays and the next start finishes the save.
        for (done, old) in files.iter().zip(&prepared).take(at) {
            old.write(done.before.as_deref())
                .and_then(|()| old.commit(done.before.is_some()))
                .map_err(StoreError::unwritable(&old.real))?;
        }
        journal.roll_back(root)?;
        return Err(StoreError::unwritable(&root.join(&file.file))(error).into());
    }
    journal.complete(root)
}

/// Finishes or rolls back a save that was cut off.
pub(super) fn finish(root: &Path) -> Result<(), SiteError> {
    if !root.join(JOURNAL_FILE).exists() {
        return Ok(());
    }
    let _lock = Lock::take(root)?;
    let path = root.join(JOURNAL_FILE);
    let json = match fs::read_to_string(&path) {
        Ok(json) => json,
        // A save that was at work has ended meanwhile.
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => return Ok(()),
        Err(source) => return Err(SiteError::Unreadable { path, source }),
    };
    let journal: Journal = serde_json::from_str(&json).map_err(|error| SiteError::State {
        path: path.clone(),
        message: error.to_string(),
    })?;
    match journal.stage {
        Stage::Preparing => journal.roll_back(root),
        Stage::Ready => journal.roll_forward(root),
    }
}

impl Journal {
    fn keep(&self, root: &Path) -> Result<(), SiteError> {
        let json = serde_json::to_string_pretty(self).expect("plain data serialises");
        keep::write(root, JOURNAL_FILE, json.as_bytes())
    }

    /// Removes what was prepared.
    fn roll_back(&self, root: &Path) -> Result<(), SiteError> {
        for entry in &self.files {
            let new = beside(&real_path(&root.join(&entry.file)));
            match fs::remove_file(&new) {
                Err(error) if error.kind() != std::io::ErrorKind::NotFound => {
                    return Err(StoreError::unwritable(&new)(error).into());
                }
                _ => {}
            }
        }
        remove(root, JOURNAL_FILE)
    }

    fn roll_forward(&self, root: &Path) -> Result<(), SiteError> {
        for entry in &self.files {
            let path = root.join(&entry.file);
            let real = real_path(&path);
            let present = match fs::read(&real) {
                Ok(bytes) => Some(Base::digest(&bytes)),
                Err(error) if error.kind() == std::io::ErrorKind::NotFound => None,
                Err(source) => return Err(SiteError::Unreadable { path, source }),
            };
            let new = beside(&real);
            if present == entry.after {
                continue;
            }
            if present != entry.before {
                return Err(SiteError::Interrupted {
                    root: root.to_owned(),
                    file: entry.file.clone(),
                    new,
                    journal: root.join(JOURNAL_FILE),
                });
            }
            Prepared { real, new }
                .commit(entry.after.is_some())
                .map_err(StoreError::unwritable(&path))?;
        }
        self.complete(root)
    }

    /// The files are written; the rest follows.
    fn complete(&self, root: &Path) -> Result<(), SiteError> {
        self.saves.clone().write(root)?;
        keep::write_draft(root, &self.draft)?;
        remove(root, JOURNAL_FILE)?;
        Ok(())
    }
}
