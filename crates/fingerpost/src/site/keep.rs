//! What the program keeps in a site: the draft, the files that it was based on, what was saved last.
//!
//! All of it lies in one folder in the site's root, which version control leaves out by a file of
//! its own, and which goes when nothing is left to keep.

use std::path::{Path, PathBuf};
use std::sync::Arc;

use serde::{Deserialize, Serialize};

use super::root::Root;
use super::{Site, SiteError, state};
use crate::draft::{Base, Bases, Draft};
use crate::text::{DecodeHint, Patch, SitePath, Text};

pub use crate::text::STATE_FOLDER;

/// Where the draft is kept, relative to the site's root.
pub const DRAFT_FILE: &str = ".fingerpost/draft.json";

/// The draft's name in the folder.
const DRAFT_NAME: &str = "draft.json";

/// Where the last saves are kept.
pub(super) const SAVES_FILE: &str = "saves.json";

/// Where the files are kept that the draft was based on, each under the digest of its bytes.
const BASES_FOLDER: &str = "bases";

/// How many saves can be undone, one after the other.
const MOST_SAVES: usize = 20;

/// The version of the file of saves.
const SAVES_VERSION: u32 = 4;

/// The path of one of these files, for messages.
pub(super) fn shown(root: &Root, name: &str) -> PathBuf {
    root.path().join(STATE_FOLDER).join(name)
}

/// Whether a file of the program's own has the version that is read; else what to say of it. The version
/// comes first: a later format may differ in everything else.
pub(super) fn check_version(json: &str, expected: u32) -> Result<(), String> {
    #[derive(Deserialize)]
    struct Version {
        fingerpost: u32,
    }
    let found: Version = serde_json::from_str(json).map_err(|error| error.to_string())?;
    match found.fingerpost == expected {
        true => Ok(()),
        false => Err(format!(
            "it has version {}, and this program reads version {expected}",
            found.fingerpost
        )),
    }
}

pub(super) fn read_draft(root: &Root) -> Result<Draft, SiteError> {
    match draft_json(root)? {
        Some(json) => Draft::from_json(&json).map_err(|source| SiteError::Draft {
            path: shown(root, DRAFT_NAME),
            source,
        }),
        None => Ok(Draft::default()),
    }
}

/// The draft's file as it is.
pub(super) fn draft_json(root: &Root) -> Result<Option<String>, SiteError> {
    state::read(root, DRAFT_NAME)
}

/// Writes the draft's file, or removes it where there is nothing to keep.
pub(super) fn write_draft(root: &Root, draft: &Draft) -> Result<(), SiteError> {
    if draft.is_blank() {
        remove_draft(root)?;
    } else {
        state::write(root, DRAFT_NAME, draft.to_json().as_bytes())?;
    }
    forget_bases(root, draft);
    Ok(())
}

pub(super) fn remove_draft(root: &Root) -> Result<(), SiteError> {
    state::remove(root, DRAFT_NAME)
}

/// Keeps the files that a draft is based on, so that it can be merged with what comes later.
pub(super) fn keep_bases(root: &Root, draft: &Draft, bases: &Bases) -> Result<(), SiteError> {
    for (file, _) in draft.bases() {
        if let Some(text) = bases.get(file) {
            keep_text(root, text)?;
        }
    }
    Ok(())
}

/// Keeps one file as it is.
pub(super) fn keep_text(root: &Root, text: &Text) -> Result<(), SiteError> {
    state::write_once(root, BASES_FOLDER, text.digest().1, &text.to_bytes())
}

/// A file that a draft was based on, or that a save wrote, as it was then.
pub(super) fn kept_base(root: &Root, file: &str, base: &Base) -> Result<Arc<Text>, SiteError> {
    let path = shown(root, BASES_FOLDER).join(&base.sha256);
    let gone = || SiteError::State {
        path: path.clone(),
        message: format!("{file} as it was is not kept there"),
    };
    // What a file of ours names is not believed: it could be a path, or other bytes.
    if !state::is_digest(&base.sha256) {
        return Err(gone());
    }
    let bytes = state::read_bytes(root, Some(BASES_FOLDER), &base.sha256)?;
    let bytes = bytes.filter(|bytes| Base::digest(bytes) == base.sha256);
    decoded(file, bytes.ok_or_else(gone)?, &base.encoding, &path)
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

fn forget_bases(root: &Root, draft: &Draft) {
    // What can't be read is not discarded for that.
    let Ok(saves) = Saves::read(root) else {
        return;
    };
    let saved = saves.saves.iter().flat_map(|save| &save.files);
    let mut needed: Vec<&str> = saved
        .flat_map(|file| [file.before.sha256.as_str(), file.after.sha256.as_str()])
        .collect();
    needed.extend(draft.bases().map(|(_, base)| base.sha256.as_str()));
    state::prune(root, BASES_FOLDER, |name| needed.contains(&name));
}

/// A file that was saved.
#[derive(Clone, Debug, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct SavedFile {
    pub file: SitePath,
    /// What it was before, and after.
    pub before: Base,
    pub after: Base,
    /// What leads back.
    pub back: Patch,
    /// Whether the save made the file.
    #[serde(default)]
    pub created: bool,
}

/// A save that can be undone.
#[derive(Clone, Debug, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct Saved {
    /// What was saved, in sentences.
    pub summaries: Vec<String>,
    pub files: Vec<SavedFile>,
    /// The draft before it, of the last save only.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub draft: Option<SavedDraft>,
}

/// The draft before a save, which goes back to it with the files as long as the draft is as the save left it.
#[derive(Clone, Debug, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct SavedDraft {
    pub before: Draft,
    /// The digest of the draft after the save.
    pub after: String,
}

impl SavedDraft {
    pub fn new(before: &Draft, after: &Draft) -> SavedDraft {
        SavedDraft {
            before: before.clone(),
            after: digest(after),
        }
    }

    /// The draft before, where the draft is as the save left it.
    pub fn back(self, now: &Draft) -> Option<Draft> {
        (digest(now) == self.after).then_some(self.before)
    }
}

/// The digest of a draft as it is kept: one with nothing in it is not.
fn digest(draft: &Draft) -> String {
    let json = match draft.is_blank() {
        true => Draft::default().to_json(),
        false => draft.to_json(),
    };
    Base::digest(json.as_bytes())
}

/// The last saves, the newest last.
#[derive(Clone, Debug, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct Saves {
    fingerpost: u32,
    pub saves: Vec<Saved>,
}

impl Saves {
    pub fn read(root: &Root) -> Result<Saves, SiteError> {
        let Some(json) = state::read(root, SAVES_FILE)? else {
            return Ok(Saves {
                fingerpost: SAVES_VERSION,
                saves: Vec::new(),
            });
        };
        let bad = |message: String| SiteError::State {
            path: shown(root, SAVES_FILE),
            message: format!("{message}. Without it, the saves so far can't be undone"),
        };
        check_version(&json, SAVES_VERSION).map_err(bad)?;
        serde_json::from_str(&json).map_err(|error| bad(error.to_string()))
    }

    pub fn write(mut self, root: &Root) -> Result<(), SiteError> {
        let more = self.saves.len().saturating_sub(MOST_SAVES);
        self.saves.drain(..more);
        if self.saves.is_empty() {
            return state::remove(root, SAVES_FILE);
        }
        let json = serde_json::to_string_pretty(&self).expect("plain data serialises");
        state::write(root, SAVES_FILE, json.as_bytes())
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
