//! What the program keeps in a site: the draft, the files that it was based on, what was saved last.
//!
//! All of it lies in one folder in the site's root, which version control leaves out by a file of
//! its own, and which goes when nothing is left to keep.

use std::fs;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use serde::{Deserialize, Serialize};

use super::store::{StoreError, write_beside};
use super::{Site, SiteError};
use crate::edit::{Base, Bases, Draft};
use crate::text::{DecodeHint, Patch, Text};

/// The folder of what the program keeps, in the site's root.
pub const STATE_FOLDER: &str = ".fingerpost";

/// Where the draft is kept, relative to the site's root.
pub const DRAFT_FILE: &str = ".fingerpost/draft.json";

/// Where the last saves are kept.
pub(super) const SAVES_FILE: &str = ".fingerpost/saves.json";

/// Where the files are kept that the draft was based on, each under the digest of its bytes.
const BASES_FOLDER: &str = ".fingerpost/bases";

/// How many saves can be taken back, one after the other.
const MOST_SAVES: usize = 20;

/// The version of the file of saves.
const SAVES_VERSION: u32 = 2;

/// The folder, made where it is not there.
pub(super) fn state_folder(root: &Path) -> Result<PathBuf, SiteError> {
    let folder = root.join(STATE_FOLDER);
    let unwritable = |source| StoreError::Unwritable {
        path: folder.clone(),
        source,
    };
    fs::create_dir_all(&folder).map_err(unwritable)?;
    let ignore = folder.join(".gitignore");
    if !ignore.exists() {
        // Another one may have just removed the folder; the next step finds that out.
        let _ = fs::write(ignore, "*\n");
    }
    Ok(folder)
}

/// Removes the folder where nothing is kept in it but the file that is named.
pub(super) fn tidy(root: &Path, last: &str) {
    let folder = root.join(STATE_FOLDER);
    let Ok(entries) = fs::read_dir(&folder) else {
        return;
    };
    let kept = entries.flatten().any(|entry| {
        let name = entry.file_name();
        name != *last && name != ".gitignore"
    });
    if !kept {
        // What can't be removed does no harm.
        let _ = fs::remove_file(folder.join(".gitignore"));
        let _ = fs::remove_file(folder.join(last));
        let _ = fs::remove_dir(folder);
    }
}

fn read(path: &Path) -> Result<Option<String>, SiteError> {
    match fs::read_to_string(path) {
        Ok(json) => Ok(Some(json)),
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => Ok(None),
        Err(source) => Err(SiteError::Unreadable {
            path: path.to_owned(),
            source,
        }),
    }
}

/// Writes a file of the folder, whole or not at all.
pub(super) fn write(root: &Path, name: &str, bytes: &[u8]) -> Result<(), SiteError> {
    state_folder(root)?;
    let path = root.join(name);
    write_beside(&path, bytes, None)
        .map_err(|source| StoreError::Unwritable { path, source }.into())
}

pub(super) fn remove(root: &Path, name: &str) -> Result<(), SiteError> {
    let path = root.join(name);
    match fs::remove_file(&path) {
        Err(source) if source.kind() != std::io::ErrorKind::NotFound => {
            Err(StoreError::Unwritable { path, source }.into())
        }
        _ => Ok(()),
    }
}

pub(super) fn read_draft(root: &Path) -> Result<Draft, SiteError> {
    let path = root.join(DRAFT_FILE);
    match read(&path)? {
        Some(json) => Draft::from_json(&json).map_err(|source| SiteError::Draft { path, source }),
        None => Ok(Draft::default()),
    }
}

/// Writes the draft's file, or removes it where there is nothing to keep.
pub(super) fn write_draft(root: &Path, draft: &Draft) -> Result<(), SiteError> {
    if draft.is_blank() {
        remove(root, DRAFT_FILE)?;
    } else {
        write(root, DRAFT_FILE, draft.to_json().as_bytes())?;
    }
    forget_bases(root, draft);
    Ok(())
}

/// Keeps the files that a draft is based on, so that it can be merged with what comes later.
pub(super) fn keep_bases(root: &Path, draft: &Draft, bases: &Bases) -> Result<(), SiteError> {
    for (file, _) in draft.bases() {
        if let Some(text) = bases.get(file) {
            keep_text(root, text)?;
        }
    }
    Ok(())
}

/// Keeps one file as it is.
pub(super) fn keep_text(root: &Path, text: &Text) -> Result<(), SiteError> {
    let path = root.join(BASES_FOLDER).join(text.digest().1);
    if path.exists() {
        return Ok(());
    }
    state_folder(root)?;
    let folder = root.join(BASES_FOLDER);
    let written =
        fs::create_dir_all(folder).and_then(|()| write_beside(&path, &text.to_bytes(), None));
    written.map_err(|source| StoreError::Unwritable { path, source }.into())
}

/// A file that a draft was based on, or that a save wrote, as it was then.
pub(super) fn kept_base(root: &Path, file: &str, base: &Base) -> Result<Arc<Text>, SiteError> {
    let path = root.join(BASES_FOLDER).join(&base.sha256);
    let bytes = fs::read(&path).map_err(|source| SiteError::Unreadable {
        path: path.clone(),
        source,
    })?;
    decoded(file, bytes, &base.encoding, &path)
}

/// A file's bytes in the encoding that they were read in before.
pub(super) fn decoded(
    file: &str,
    bytes: Vec<u8>,
    encoding: &str,
    path: &Path,
) -> Result<Arc<Text>, SiteError> {
    let known = encoding_rs::Encoding::for_label(encoding.as_bytes());
    let hint = super::hint_of(file, known.unwrap_or(encoding_rs::UTF_8));
    Text::decode(file, bytes, hint).map_err(|source| SiteError::NotText {
        path: path.to_owned(),
        source,
    })
}

fn forget_bases(root: &Path, draft: &Draft) {
    let folder = root.join(BASES_FOLDER);
    let Ok(entries) = fs::read_dir(&folder) else {
        return;
    };
    // What can't be read is not thrown away for that.
    let Ok(saves) = Saves::read(root) else {
        return;
    };
    let saved = saves.saves.iter().flat_map(|save| &save.files);
    let mut needed: Vec<&str> = saved.map(|file| file.after.sha256.as_str()).collect();
    needed.extend(draft.bases().map(|(_, base)| base.sha256.as_str()));
    for entry in entries.flatten() {
        let name = entry.file_name();
        if !needed.iter().any(|digest| *name == **digest) {
            // What can't be removed does no harm.
            let _ = fs::remove_file(entry.path());
        }
    }
    let _ = fs::remove_dir(folder);
}

/// A file that was saved.
#[derive(Clone, Debug, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct SavedFile {
    pub file: String,
    /// What it was before, and after.
    pub before: Base,
    pub after: Base,
    /// What leads back.
    pub back: Patch,
    /// Whether the save made the file.
    #[serde(default)]
    pub created: bool,
}

/// A save that can be taken back.
#[derive(Clone, Debug, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct Saved {
    /// What was saved, in sentences.
    pub summaries: Vec<String>,
    pub files: Vec<SavedFile>,
}

/// The last saves, the newest last.
#[derive(Clone, Debug, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct Saves {
    fingerpost: u32,
    pub saves: Vec<Saved>,
}

impl Saves {
    pub fn read(root: &Path) -> Result<Saves, SiteError> {
        let path = root.join(SAVES_FILE);
        let Some(json) = read(&path)? else {
            return Ok(Saves {
                fingerpost: SAVES_VERSION,
                saves: Vec::new(),
            });
        };
        let state = |message: String| SiteError::State {
            path: path.clone(),
            message,
        };
        let saves: Saves = serde_json::from_str(&json).map_err(|error| state(error.to_string()))?;
        if saves.fingerpost != SAVES_VERSION {
            return Err(state(format!(
                "it has version {}, and this program reads version {SAVES_VERSION}",
                saves.fingerpost
            )));
        }
        Ok(saves)
    }

    pub fn write(mut self, root: &Path) -> Result<(), SiteError> {
        let more = self.saves.len().saturating_sub(MOST_SAVES);
        self.saves.drain(..more);
        if self.saves.is_empty() {
            return remove(root, SAVES_FILE);
        }
        let json = serde_json::to_string_pretty(&self).expect("plain data serialises");
        write(root, SAVES_FILE, json.as_bytes())
    }
}

impl Site {
    /// Throws away the draft of a folder's site without reading it: the way out when a draft can't
    /// be read.
    ///
    /// # Errors
    /// Where the draft file can't be removed.
    pub fn drop_draft_of(folder: &Path) -> Result<(), SiteError> {
        let real = folder.canonicalize().unwrap_or_else(|_| folder.to_owned());
        let root = super::root_above(&real).unwrap_or(&real);
        let _lock = super::Lock::take(root)?;
        write_draft(root, &Draft::default())
    }
}

/// How a file that the draft is about is decoded.
impl Site {
    pub(super) fn hint(&self, file: &str) -> DecodeHint {
        let base = self.draft.base(file);
        let known = base.and_then(|b| encoding_rs::Encoding::for_label(b.encoding.as_bytes()));
        super::hint_of(file, known.unwrap_or(encoding_rs::UTF_8))
    }
}
