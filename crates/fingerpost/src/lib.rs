//! Why does this element look like this? Fingerpost answers from a site theme's own sources: which
//! rules match an element, which declaration wins each property, and on which criterion of the
//! cascade the others lose. It tries edits in a draft, and saves the smallest one to the source file.
//!
//! # Ask
//!
//! A [`Site`](site::Site) is a theme on disk; a [`Page`](page::Page) of it is a document with its
//! sheets. [`Page::ask`](page::Page::ask) has all questions about it; answers are plain data.
//!
//! ```
//! use fingerpost::prelude::*;
//!
//! let html = Text::new("a.html", "<style>h2 { color: teal } .a { color: navy }</style><h2 class=a>Hi");
//! let page = Page::new(html);
//! let ask = page.ask();
//! let target = ask.find_one("h2")?;
//! let answer = ask.why(&target, &"color".parse()?);
//!
//! let contest = &answer.contests[0];
//! assert_eq!(contest.value.computed, "rgb(0, 0, 128)");
//! assert_eq!(contest.contenders[0].declaration.rule.selector, ".a");
//! assert_eq!(
//!     contest.contenders[1].sentence,
//!     "loses on specificity: (0,0,1) against (0,1,0)"
//! );
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```
//!
//! # Change
//!
//! An [`Intent`](edit::Intent) says what is wanted; an [`Edit`](edit::Edit) is its result: a
//! [`Patch`](text::Patch) of a file or two. Nothing is ever changed in a tree and written out again:
//! the patch is all that a save writes.
//!
//! ```
//! use fingerpost::prelude::*;
//!
//! let css = "h2{color:teal; top : 0}";
//! let html = Text::new("a.html", format!("<style>{css}</style><h2>Hi"));
//! let page = Page::new(html.clone());
//! let change = Change::set("color", "navy");
//! let edit = make(&page, &Intent::new("a.html", "h2", change))?;
//!
//! assert_eq!(
//!     edit.changes[0].patch.apply(html.source())?,
//!     "<style>h2{color:navy; top : 0}</style><h2>Hi"
//! );
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```
//!
//! On disk, a [`Session`](session::Session) puts edits into the draft and saves it. It is the only writer:
//! a [`Site`](site::Site) only reads. The crate's examples show both in full.
//!
//! # Layers
//!
//! From the lowest: [`text`]; [`markup`] and [`sheet`]; [`selector`], [`value`] and [`environment`]; [`cascade`]; [`page`];
//! [`question`] and [`edit`]; [`draft`]; [`site`]; [`impact`] and [`survey`]; [`asking`] and [`session`]. A module uses only those
//! before it.
//! The behavior is that of the open standards, which each module names.

#![cfg_attr(docsrs, feature(doc_cfg))]
#![deny(missing_docs)]
// Without `site` and `survey` some of what stands below them has no user inside of the crate.
#![cfg_attr(not(feature = "files"), allow(dead_code, unused_imports))]

#[cfg_attr(not(test), deny(clippy::indexing_slicing, clippy::string_slice))]
pub mod advice;
#[cfg(feature = "files")]
pub mod asking;
pub mod cascade;
#[cfg_attr(not(test), deny(clippy::indexing_slicing, clippy::string_slice))]
pub mod draft;
#[cfg_attr(not(test), deny(clippy::indexing_slicing, clippy::string_slice))]
pub mod edit;
#[cfg_attr(not(test), deny(clippy::indexing_slicing, clippy::string_slice))]
pub mod environment;
pub mod field;
pub mod impact;
#[cfg_attr(not(test), deny(clippy::indexing_slicing, clippy::string_slice))]
pub mod markup;
pub mod page;
mod parallel;
pub mod question;
#[cfg_attr(not(test), deny(clippy::indexing_slicing, clippy::string_slice))]
pub mod selector;
#[cfg(feature = "files")]
pub mod session;
#[cfg_attr(not(test), deny(clippy::indexing_slicing, clippy::string_slice))]
pub mod sheet;
#[cfg(feature = "files")]
pub mod site;
#[cfg(feature = "files")]
pub mod survey;
#[cfg_attr(not(test), deny(clippy::indexing_slicing, clippy::string_slice))]
pub mod text;
#[cfg_attr(not(test), deny(clippy::indexing_slicing, clippy::string_slice))]
pub mod value;

/// What a program that asks and changes needs.
pub mod prelude {
    pub use crate::draft::Draft;
    pub use crate::edit::{Change, Destination, Intent, make};
    pub use crate::environment::Environment;
    pub use crate::page::{LoadError, Loader, Page, PropertyName, Request, Target};
    pub use crate::question::Questions;
    pub use crate::question::element_states::ElementStates;
    pub use crate::question::find::ElementQuery;
    #[cfg(feature = "files")]
    pub use crate::session::{Outcome, Scope, Session};
    #[cfg(feature = "files")]
    pub use crate::site::Site;
    pub use crate::text::{PlaceQuery, Text};
}
