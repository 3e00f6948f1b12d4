//! Edits: what a person wants changed, turned into a [`Patch`] of one source text.
//!
//! One file each kind of edit. An edit decides nothing about files on disk: it takes a page, and
//! gives the file's name and the patch. The [`Draft`] holds the edits that are tried and not yet
//! saved.

mod draft;
mod set;

pub(crate) use draft::unified_diff;
pub use draft::{Base, DRAFT_VERSION, Draft, DraftError};
pub use set::{SetError, set};

use serde::{Deserialize, Serialize};

use crate::text::Patch;

/// What was asked for, in its own terms.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub enum Intent {
    /// The value of a property's winning declaration.
    Set {
        /// The page it was asked on.
        page: String,
        /// The element, as named then.
        element: String,
        /// The property.
        property: String,
        /// The value before.
        from: String,
        /// The value after.
        to: String,
    },
}

impl std::fmt::Display for Intent {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Intent::Set {
                page,
                element,
                property,
                from,
                to,
            } => write!(f, "set {property} of {element} on {page}: {from} → {to}"),
        }
    }
}

/// One change of one file.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Edit {
    /// What was asked for.
    pub intent: Intent,
    /// The file that changes, relative to the site's root.
    pub file: String,
    /// The change, of the file's text after the edits before this one.
    pub patch: Patch,
}
