//! The draft: the edits tried and not yet saved, and the file that keeps them.
//!
//! The format is documented in `docs/draft-file.md`. Each file that the draft changes is known by
//! the digest of the bytes that it was based on, so that a draft is never applied to other bytes.

use std::collections::BTreeMap;
use std::sync::Arc;

use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use similar::TextDiff;
use thiserror::Error;

use super::Edit;
use crate::text::{EncodingError, Text};

/// The version of the draft file.
pub const DRAFT_VERSION: u32 = 1;

/// The bytes that a file had when the first edit of it was made.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Base {
    /// How many.
    pub bytes: u64,
    /// Their SHA-256, in hexadecimal.
    pub sha256: String,
    /// The encoding that the file was read in, by its name in the Encoding standard: the patches'
    /// ranges are of the characters so read.
    pub encoding: String,
}

impl Base {
    /// What a text's bytes are known by.
    pub fn of(text: &Text) -> Base {
        let bytes = text.to_bytes();
        Base {
            bytes: bytes.len() as u64,
            sha256: Base::digest(&bytes),
            encoding: text.encoding().name().to_owned(),
        }
    }

    /// The SHA-256 of bytes, in hexadecimal.
    pub fn digest(bytes: &[u8]) -> String {
        Sha256::digest(bytes)
            .iter()
            .map(|b| format!("{b:02x}"))
            .collect()
    }
}

/// Why a draft can't be read or applied.
#[derive(Debug, Error)]
pub enum DraftError {
    /// The draft file is not one.
    #[error("line {line}, column {column}: {message}")]
    Malformed {
        /// Where, from 1.
        line: usize,
        /// Where, from 1.
        column: usize,
        /// What is wrong.
        message: String,
    },
    /// The draft file is of another version.
    #[error("it is of version {found}, and this program reads version {DRAFT_VERSION}")]
    Version {
        /// The version it says.
        found: u32,
    },
    /// A file is not what the draft was based on.
    #[error(
        "{file} has changed on disk since the draft was made; drop the draft and make the change \
         again"
    )]
    Changed {
        /// The file.
        file: String,
    },
    /// A patch does not fit its text.
    #[error("the draft's change of {file} does not fit the file; drop the draft")]
    Misfit {
        /// The file.
        file: String,
    },
    /// The changed text can't be written in the file's encoding.
    #[error(transparent)]
    Encoding(#[from] EncodingError),
}

/// The edits tried and not yet saved.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Draft {
    /// [`DRAFT_VERSION`].
    fingerpost: u32,
    /// What each changed file was based on.
    pub bases: BTreeMap<String, Base>,
    /// The edits in the order in which they were made.
    pub edits: Vec<Edit>,
}

impl Default for Draft {
    fn default() -> Self {
        Draft {
            fingerpost: DRAFT_VERSION,
            bases: BTreeMap::new(),
            edits: Vec::new(),
        }
    }
}

impl Draft {
    /// Reads a draft file's text.
    ///
    /// # Errors
    /// Where it is no draft, is of another version, or says what this program does not understand.
    pub fn from_json(json: &str) -> Result<Draft, DraftError> {
        #[derive(Deserialize)]
        struct Version {
            fingerpost: u32,
        }
        let malformed = |error: serde_json::Error| DraftError::Malformed {
            line: error.line(),
            column: error.column(),
            message: error.to_string(),
        };
        // The version first: a later format may differ in everything else.
        let version: Version = serde_json::from_str(json).map_err(malformed)?;
        if version.fingerpost != DRAFT_VERSION {
            return Err(DraftError::Version {
                found: version.fingerpost,
            });
        }
        serde_json::from_str(json).map_err(malformed)
    }

    /// The draft file's text.
    pub fn to_json(&self) -> String {
        let mut json = serde_json::to_string_pretty(self).expect("plain data serialises");
        json.push('\n');
        json
    }

    /// Whether nothing has been tried.
    pub fn is_empty(&self) -> bool {
        self.edits.is_empty()
    }

    /// Adds an edit; `base` is the edited file as it is on disk.
    pub fn push(&mut self, edit: Edit, base: &Text) {
        self.bases
            .entry(edit.file.clone())
            .or_insert_with(|| Base::of(base));
        self.edits.push(edit);
    }

    /// The files that the draft changes.
    pub fn files(&self) -> impl Iterator<Item = &str> {
        self.bases.keys().map(String::as_str)
    }

    /// A file after the draft's edits of it.
    ///
    /// # Errors
    /// Where the file is not what the draft was based on, or an edit does not fit.
    pub fn apply(&self, base: &Arc<Text>) -> Result<Arc<Text>, DraftError> {
        let file = base.name();
        let Some(expected) = self.bases.get(file) else {
            return Ok(base.clone());
        };
        if *expected != Base::of(base) {
            return Err(DraftError::Changed {
                file: file.to_owned(),
            });
        }
        let mut text = base.clone();
        for edit in self.edits.iter().filter(|e| e.file == file) {
            if !edit.patch.fits(text.source()) {
                return Err(DraftError::Misfit {
                    file: file.to_owned(),
                });
            }
            text = text.patched(&edit.patch)?;
        }
        Ok(text)
    }
}

/// A unified diff of a file, with its name in the heads; empty where nothing differs.
pub(crate) fn unified_diff(before: &Text, after: &Text) -> String {
    if before.source() == after.source() {
        return String::new();
    }
    let name = before.name();
    TextDiff::from_lines(before.source(), after.source())
        .unified_diff()
        .context_radius(3)
        .header(&format!("a/{name}"), &format!("b/{name}"))
        .to_string()
}
