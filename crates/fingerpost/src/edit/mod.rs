//! Edits: what a person wants changed, turned into [`Patch`]es of source texts.
//!
//! An [`Intent`] says what is wanted; [`make`] turns it into an [`Edit`], a file or two with the
//! patch of each. One file each kind of edit. An edit decides nothing about files on disk: it takes
//! a page, and gives names and patches. The [`Draft`] holds the edits that are tried and not yet
//! saved.
//!
//! ```
//! use fingerpost::edit::{Change, Intent, make};
//! use fingerpost::prelude::*;
//!
//! let html = Text::new("a.html", "<style>h2{color:teal; top : 0}</style><h2>Hi</h2>");
//! let page = Page::build(html.clone(), Conditions::default(), &mut no_sheets);
//! let change = Change::Rename { property: "top".into(), to: "left".into() };
//! let edit = make(&page, &Intent::new("a.html", "h2", change))?;
//!
//! assert_eq!(
//!     edit.changes[0].patch.apply(html.source()),
//!     "<style>h2{color:teal; left : 0}</style><h2>Hi</h2>"
//! );
//! # Ok::<(), fingerpost::edit::EditError>(())
//! ```

mod attribute;
mod authored;
mod carry;
pub mod copy;
mod declaration;
mod destination;
mod draft;
mod element;
mod error;
mod habits;
mod intent;
mod make;
mod notation;
mod place;
mod rule;
mod script;
mod set;
mod stand;
mod step;
mod switch;
mod variable;
mod warnings;
mod weave;

pub use destination::Around;
pub use draft::{
    Anchor, Base, Bases, DRAFT_VERSION, Draft, DraftError, Drafted, EditState, Step, Tried,
};
pub(crate) use draft::{difference, numbered, unified_diff};
pub use error::EditError;
pub use intent::{Change, Destination, Intent, SelectorChange, Side};
pub use make::{make, make_in};
pub use notation::NOTATIONS;
pub use rule::{declared, selectors_at};
pub use script::{SCRIPT_VERSION, Script, ScriptError};

use serde::{Deserialize, Serialize};

use crate::text::Patch;

/// The change of one file.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct FileChange {
    /// The file, relative to the site's root.
    pub file: String,
    /// The change, of the file's text after the edits before this one.
    pub patch: Patch,
}

/// What an intent comes to.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Edit {
    /// What was asked for.
    pub intent: Intent,
    /// What was done, in a sentence.
    pub said: String,
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

/// What one kind of edit comes to for one element.
#[derive(Clone, Debug, Default)]
struct Made {
    changes: Vec<FileChange>,
    /// What stood there before, for the sentence.
    was: Option<String>,
    warnings: Vec<String>,
    /// Whether the sources of served sheets are among the changes already.
    followed: bool,
}

impl Made {
    fn of(file: &str, patch: Patch) -> Made {
        Made {
            changes: vec![FileChange {
                file: file.to_owned(),
                patch,
            }],
            ..Made::default()
        }
    }
}
