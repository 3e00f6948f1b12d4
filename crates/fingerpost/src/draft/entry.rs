//! What a draft is made of: its changes with their states, the files that they are based on, and the steps that can be undone.

use std::collections::BTreeMap;
use std::sync::Arc;

use serde::{Deserialize, Serialize};
use thiserror::Error;

use super::DRAFT_VERSION;
use crate::draft::ids::Ids;
use crate::draft::piece_table::PieceAnchor;
use crate::edit::Intent;
use crate::text::{EncodingError, Text};

/// The bytes that a file has.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[non_exhaustive]
pub struct Base {
    /// How many.
    pub bytes: u64,
    /// Their SHA-256, in hexadecimal.
    pub sha256: String,
    /// The encoding that the file was read in, by its name in the Encoding standard: offsets are
    /// those of the characters so read.
    pub encoding: String,
}

impl Base {
    /// What a text's bytes are known by.
    pub fn of(text: &Text) -> Base {
        let (bytes, sha256) = text.digest();
        Base {
            bytes,
            sha256: sha256.to_owned(),
            encoding: text.encoding().name().to_owned(),
        }
    }

    /// The SHA-256 of bytes, in hexadecimal.
    pub fn digest(bytes: &[u8]) -> String {
        crate::text::sha256(bytes)
    }
}

/// Why a draft can't be read or applied.
#[derive(Debug, Error)]
#[non_exhaustive]
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
    #[error(
        "it has version {found}, and this program reads version {DRAFT_VERSION}; save with the program that wrote it, or discard it"
    )]
    Version {
        /// The version it says.
        found: u32,
    },
    /// A file is not what the draft was based on.
    #[error("{file} has changed on disk since the draft was made")]
    Changed {
        /// The file.
        file: String,
    },
    /// A patch does not fit its text.
    #[error("the draft's change of {file} does not fit the file; drop the change")]
    Misfit {
        /// The file.
        file: String,
    },
    /// A file that the draft is about was not given.
    #[error("{file} can't be read")]
    NoBase {
        /// The file.
        file: String,
    },
    /// Edits need others that are not to be saved with them.
    #[error("{}", apart(.ids, .needs))]
    Apart {
        /// The numbers of the edits.
        ids: Vec<u32>,
        /// The numbers of those that they need.
        needs: Vec<u32>,
    },
    /// The changed text can't be written in the file's encoding.
    #[error(transparent)]
    Encoding(#[from] EncodingError),
}

/// `change 3 was made over change 2; save change 2 too`
fn apart(ids: &[u32], needs: &[u32]) -> String {
    let verb = if ids.len() == 1 { "was" } else { "were" };
    let needs = numbered(needs);
    format!(
        "{} {verb} made over {needs}; save {needs} too",
        numbered(ids)
    )
}

/// `change 3`, `changes 3 and 4`.
pub(crate) fn numbered(ids: &[u32]) -> String {
    let shown: Vec<String> = ids.iter().map(u32::to_string).collect();
    match &shown[..] {
        [one] => format!("change {one}"),
        [rest @ .., last] => format!("changes {} and {last}", rest.join(", ")),
        [] => "no change".to_owned(),
    }
}

/// Files as they are on disk, by name.
pub type Bases = BTreeMap<String, Arc<Text>>;

/// Whether an edit of the draft counts.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
#[non_exhaustive]
pub enum EditState {
    /// It does.
    On,
    /// It is kept, but left out of every answer and of a save.
    Off,
    /// It was discarded; it stays in the file while that can be undone.
    Discarded,
}

/// An edit that no longer fits: what it changes was changed by another hand, or is gone. It
/// stays in the draft, counts for nothing, and can be made again from its intent.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
#[non_exhaustive]
pub struct Conflict {
    /// The file that it does not fit.
    pub file: String,
    /// Why, in a sentence.
    pub why: String,
    /// What the edit changed there, as a unified diff; empty where that is not known.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub draft: String,
    /// What changed there on disk, as a unified diff; empty where nothing did.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub disk: String,
}

/// An edit of the draft.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[non_exhaustive]
pub struct DraftEntry {
    /// Its number, which it keeps.
    pub id: u32,
    /// Whether it counts.
    pub state: EditState,
    /// How the edits that counted when it was made differ from those that counted for the edit
    /// before it, and that one: `3` counted as well, `-3` did not count.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub(super) flips: Vec<i64>,
    /// The edits without which it does not fit.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub(super) needs: Vec<u32>,
    /// What was asked for.
    pub intent: Intent,
    /// What was done, in a sentence.
    pub summary: String,
    /// The files that it changes.
    pub files: Vec<String>,
    /// What its author should know.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub warnings: Vec<String>,
    /// Set where it no longer fits.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub conflict: Option<Conflict>,
    /// The changes that it came with.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub group: Option<Group>,
}

/// Changes that were added together; one undo removes all of them.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
#[non_exhaustive]
pub struct Group {
    /// The number of the first of them, which no other group has.
    pub first: u32,
    /// What they are for, such as "Use custom properties".
    pub name: String,
}

/// Something done to the draft, which can be undone.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub enum Step {
    /// A change was added.
    Added {
        /// Its number.
        id: u32,
    },
    /// Changes were added together.
    Grouped {
        /// Their numbers.
        ids: Vec<u32>,
        /// What they are for.
        name: String,
    },
    /// An edit was switched off, or on again.
    Switched {
        /// Its number.
        id: u32,
    },
    /// An edit was discarded.
    Discarded {
        /// Its number.
        id: u32,
        /// What it was before.
        was: EditState,
    },
    /// All edits were discarded.
    Emptied {
        /// Their numbers, and what each was before.
        was: Vec<(u32, EditState)>,
    },
    /// An edit was made again, for another element.
    Retargeted {
        /// The number of the new one.
        id: u32,
        /// The number of the old one, which was discarded.
        instead_of: u32,
        /// What that was before.
        was: EditState,
    },
}

impl Step {
    /// The edits that the step is about.
    pub fn ids(&self) -> Vec<u32> {
        match self {
            Step::Added { id } | Step::Switched { id } | Step::Discarded { id, .. } => vec![*id],
            Step::Grouped { ids, .. } => ids.clone(),
            Step::Emptied { was } => was.iter().map(|(id, _)| *id).collect(),
            Step::Retargeted { id, instead_of, .. } => vec![*id, *instead_of],
        }
    }
}

/// The files as the draft leaves them.
#[derive(Debug, Default)]
#[non_exhaustive]
pub struct Drafted {
    /// Their texts, by name.
    pub texts: Bases,
    /// The edits that are on and don't count, for what they change is not there.
    pub not_applied: Vec<u32>,
    pub(crate) counts: Ids,
}

/// Why an edit that is on does not count.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum NotApplied {
    /// It is in what these edits made, and they don't count.
    Needs(Vec<u32>),
    /// These edits change the same text, and each was made without the other.
    Clashes(Vec<u32>),
    /// It no longer fits.
    Conflict(Conflict),
}

/// A place in a file that stays the same whatever is switched, discarded or tried later.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Anchor {
    pub(super) file: String,
    pub(super) piece: PieceAnchor,
}
