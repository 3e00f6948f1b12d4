//! An edit: what an intent becomes.

use serde::{Deserialize, Serialize};

use crate::edit::file_change::FileChange;
use crate::edit::intent::Intent;
use crate::text::Patch;

/// An edit of some files, made from an intent.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Edit {
    /// What was asked for.
    pub intent: Intent,
    /// What was done, in a sentence.
    pub summary: String,
    /// The files that change, each once.
    pub changes: Vec<FileChange>,
    /// What its author should know about it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub warnings: Vec<String>,
}

impl Edit {
    /// The change of a file.
    pub fn patch_of(&self, file: &str) -> Option<&Patch> {
        let change = self.changes.iter().find(|change| change.file == file)?;
        Some(&change.patch)
    }

    /// The files that change.
    pub fn files(&self) -> impl Iterator<Item = &str> {
        self.changes.iter().map(|change| change.file.as_str())
    }
}
