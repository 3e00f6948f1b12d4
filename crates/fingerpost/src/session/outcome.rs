//! What a step of a session did, and why one was refused.

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::advice::Advice;
use crate::draft::Conflict;
use crate::edit::{EditError, Intent};
use crate::impact::change::EditDetails;
use crate::impact::site::Effect;
use crate::site::{ChangedFile, SiteError};
use crate::text::{PlaceError, SitePath};

/// What a step of a session did. All steps give one, with what they have to say filled in. Its JSON has of each file the
/// difference alone, and is read as an `Outcome<FileAnswer>`.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Outcome<F = ChangedFile> {
    /// What was done, in a sentence.
    pub summary: String,
    /// The number of the change that was added to the draft, or that the step is about; none where there is none.
    pub change: Option<u32>,
    /// The changes that were added, in order, each with what it did.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub edits: Vec<Added>,
    /// The files that differ from what they were before: of the draft, or on disk after a save.
    pub files: Vec<F>,
    /// What else changed on the site; none where that was not asked for.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub effect: Option<Effect>,
    /// The changes that stay in the draft and no longer fit their files.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub conflicts: Vec<ConflictAnswer>,
    /// What a person should know before going on.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub warnings: Vec<String>,
    /// What is good to know: what of the files could not be kept, what was carried over.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub notes: Vec<String>,
    /// What to do next.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub advice: Vec<Advice>,
}

/// A change that was added to the draft.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Added {
    /// Its number.
    pub change: u32,
    /// What it does, in a sentence.
    pub summary: String,
    /// What a person should know about it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub warnings: Vec<String>,
    /// What it did; none where that was not asked for.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub details: Option<EditDetails>,
}

/// A change that stays in the draft and no longer fits.
#[derive(Clone, Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct ConflictAnswer {
    /// Its number.
    pub change: u32,
    /// Why it does not fit, and both sides.
    #[serde(flatten)]
    pub conflict: Conflict,
}

impl Outcome {
    pub(super) fn saying(summary: impl Into<String>) -> Outcome {
        Outcome {
            summary: summary.into(),
            change: None,
            edits: Vec::new(),
            files: Vec::new(),
            effect: None,
            conflicts: Vec::new(),
            warnings: Vec::new(),
            notes: Vec::new(),
            advice: Vec::new(),
        }
    }
}

/// Why a step of a session was refused. The draft and the files are as they were.
#[derive(Debug, Error)]
#[non_exhaustive]
pub enum ChangeError {
    /// The edit can't be made.
    #[error("{error}")]
    Edit {
        /// Why.
        error: EditError,
        /// What was asked for.
        intent: Box<Intent>,
    },
    /// An edit of a script can't be made.
    #[error("edit {number}: {error}; nothing of the script was tried")]
    Script {
        /// Which, from 1.
        number: usize,
        /// Why.
        error: Box<ChangeError>,
    },
    /// The draft has no such change.
    #[error("the draft has no change {change}")]
    NoSuchChange {
        /// The number given.
        change: u32,
    },
    /// There is nothing to undo, or to redo.
    #[error("there is nothing to {word}")]
    NoStep {
        /// `undo` or `redo`.
        word: &'static str,
    },
    /// A change of a rule was to be made for something that is not a place.
    #[error(transparent)]
    Place(#[from] PlaceError),
    /// The site or its draft can't be read or written.
    #[error(transparent)]
    Site(#[from] SiteError),
}

impl ChangeError {
    /// The override sheet that could be made, where there is none.
    pub(super) fn missing_overrides(&self) -> Option<&SitePath> {
        match self {
            ChangeError::Edit {
                error: EditError::NoOverrideSheet { sheet, .. },
                ..
            } => Some(sheet),
            _ => None,
        }
    }

    /// The kind of error, in a word that stays the same.
    pub fn code(&self) -> &'static str {
        match self {
            ChangeError::Edit { error, .. } => error.code(),
            ChangeError::Script { error, .. } => error.code(),
            ChangeError::NoSuchChange { .. } => "no-such-change",
            ChangeError::NoStep { .. } => "nothing-to-undo",
            ChangeError::Place(_) => "invalid-place",
            ChangeError::Site(error) => error.code(),
        }
    }

    /// What a person could do instead.
    pub fn advice(&self) -> Vec<Advice> {
        match self {
            ChangeError::Edit { error, intent } => error.advice(intent),
            // The edits before it are not made, so that its own advice may not fit.
            ChangeError::Script { .. } | ChangeError::NoStep { .. } | ChangeError::Place(_) => {
                Vec::new()
            }
            ChangeError::NoSuchChange { .. } => vec![Advice::new(
                "show-draft",
                "list the changes of the draft",
                crate::advice::Action::ShowDraft,
            )],
            ChangeError::Site(error) => error.advice(),
        }
    }

    /// Whether the question was answered, and the answer is that there is nothing to do.
    pub fn is_an_answer(&self) -> bool {
        match self {
            ChangeError::Edit { error, .. } => error.is_an_answer(),
            ChangeError::Script { error, .. } => error.is_an_answer(),
            ChangeError::NoSuchChange { .. } | ChangeError::NoStep { .. } => true,
            ChangeError::Place(_) => false,
            ChangeError::Site(error) => matches!(error, SiteError::NothingSaved),
        }
    }
}
