//! Edits: what a person wants changed, turned into [`Patch`]es of source texts.
//!
//! An [`Intent`] says what is wanted; [`make`] turns it into an [`Edit`], a file or two with the
//! patch of each. One file each kind of edit ([`kinds`]). An edit decides nothing about files on
//! disk: it takes a page, and gives names and patches. The [`Draft`] holds the edits that are tried
//! and not yet saved.
//!
//! Every edit is checked before it is accepted: the patched texts are parsed, and what was not meant
//! to change is the same.
//!
//! ```
//! use fingerpost::edit::kinds::ChangeProperty;
//! use fingerpost::edit::{Intent, make};
//! use fingerpost::prelude::*;
//!
//! let html = Text::new("a.html", "<style>h2{color:teal; top : 0}</style><h2>Hi</h2>");
//! let page = Page::new(html.clone());
//! let change = ChangeProperty { property: "top".into(), to: "left".into() };
//! let edit = make(&page, &Intent::new("a.html", "h2", change))?;
//!
//! assert_eq!(
//!     edit.changes[0].patch.apply(html.source()),
//!     "<style>h2{color:teal; left : 0}</style><h2>Hi</h2>"
//! );
//! # Ok::<(), fingerpost::edit::EditError>(())
//! ```

mod authored;
mod carry;
mod check;
mod choose;
pub mod copy;
mod destination;
mod draft;
mod error;
mod find;
mod formatting;
mod given;
mod ids;
mod intent;
pub mod kinds;
mod make;
mod meant;
mod place;
mod script;
mod shorthand;
mod source_layout;
mod warnings;
mod weave;
mod write;

pub(crate) use carry::both;
pub use destination::SiteContext;
pub(crate) use draft::numbered;
pub use draft::{
    Adrift, Anchor, Aside, Base, Bases, DRAFT_VERSION, Draft, DraftError, Drafted, EditState, Step,
    Tried,
};
pub use error::EditError;
pub use given::{declared, selectors_at};
pub use intent::{Intent, Pages, Side, Where};
pub use kinds::Change;
pub use make::{make, make_in, subjects};
pub use script::{SCRIPT_VERSION, Script, ScriptError};

use serde::{Deserialize, Serialize};

use crate::page::{Page, Styles};
use crate::text::{Patch, TextRange};
use meant::Meant;

/// The change of one file.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
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

/// What an intent comes to.
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

/// What an edit is made from: the page, what was asked for, and what the site knows besides.
struct At<'a, 'p> {
    styles: &'a Styles<'p>,
    intent: &'a Intent,
    around: &'a SiteContext,
}

impl<'p> At<'_, 'p> {
    fn page(&self) -> &'p Page {
        self.styles.page()
    }
}

/// What one kind of edit comes to for one element.
#[derive(Clone, Debug, Default)]
struct Proposal {
    changes: Vec<FileChange>,
    /// What the change means, for the last look at it.
    meant: Meant,
    /// What stood there before, for the summary.
    was: Option<String>,
    warnings: Vec<String>,
    /// Whether the sources of served sheets are among the changes already.
    followed: bool,
    /// Whether each file was looked at already.
    checked: bool,
    /// A summary where the kind's own would not be true.
    summary: Option<String>,
}

impl Proposal {
    fn of(file: &str, patch: Patch) -> Proposal {
        Proposal {
            changes: vec![FileChange::new(file, patch)],
            ..Proposal::default()
        }
    }

    /// Says that what is put in was worked out from what it takes the place of.
    fn derived(mut self) -> Proposal {
        for change in &mut self.changes {
            let all = change.patch.replacements().iter();
            change.copies = all.map(|r| r.range).filter(|r| !r.is_empty()).collect();
        }
        self
    }
}
