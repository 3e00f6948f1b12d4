//! Edits: what a person wants changed, turned into [`Patch`](crate::text::Patch)es of source texts.
//!
//! An [`Intent`] says what is wanted; [`make`] turns it into an [`Edit`], a file or two with the
//! patch of each. One file each kind of edit ([`kinds`]). An edit decides nothing about files on
//! disk: it takes a page, and gives names and patches. The [`Draft`](crate::draft::Draft) holds the edits that are tried
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
//!     edit.changes[0].patch.apply(html.source())?,
//!     "<style>h2{color:teal; left : 0}</style><h2>Hi</h2>"
//! );
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod check;
mod destination;
mod error;
mod expected;
pub mod extract;
mod file_change;
mod given;
mod intent;
pub mod kinds;
mod made;
mod make;
mod placement;
mod plan;
mod proposal;
mod request;
mod rewrite;
mod rewriting;
mod script;
mod site_context;

pub use destination::{Destination, DestinationError, DestinationKind};
pub use error::EditError;
pub use file_change::FileChange;
pub use given::{declared, selectors_at};
pub(crate) use intent::is_false;
pub use intent::{Intent, Pages, Side};
pub use kinds::Change;
pub use made::Edit;
pub use make::{make, subjects};
pub(crate) use make::{make_in, make_of};
pub use rewriting::rewritten;
pub use script::{SCRIPT_VERSION, Script, ScriptError};
pub(crate) use site_context::{SiteContext, SitePages};
