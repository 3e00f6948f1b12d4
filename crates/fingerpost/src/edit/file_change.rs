//! The change of one file: a patch, and what it builds on.

use serde::{Deserialize, Serialize};

use crate::text::{Patch, TextRange};

/// The change of one file.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
#[non_exhaustive]
pub struct FileChange {
    /// The file, relative to the site's root.
    pub file: String,
    /// The change, of the file's text after the edits before this one.
    pub patch: Patch,
    /// Ranges of that text which the patch repeats: what earlier edits changed there goes along, so
    /// that this edit needs them.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[cfg_attr(feature = "schemas", schemars(with = "Vec<[u32; 2]>"))]
    pub copies: Vec<TextRange>,
    /// Ranges of that text which the patch is put around: it needs the edits that put all of it there.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[cfg_attr(feature = "schemas", schemars(with = "Vec<[u32; 2]>"))]
    pub around: Vec<TextRange>,
}

impl FileChange {
    /// The change of a file that repeats nothing of it.
    pub fn new(file: &str, patch: Patch) -> FileChange {
        FileChange {
            file: file.to_owned(),
            patch,
            copies: Vec::new(),
            around: Vec::new(),
        }
    }
}
