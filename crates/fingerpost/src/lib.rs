//! Why does this element look like this? Fingerpost answers from a site theme's own sources: which
//! rules match an element, which declaration wins each property, and on which criterion of the
//! cascade the others lose. It tries edits in a draft, and saves the smallest one to the source file.
//!
//! # Ask
//!
//! A [`Site`][site::Site] is a theme on disk; a [`Page`](page::Page) of it is a document with its
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
//! # A whole page
//!
//! [`Page::ask`](page::Page::ask) works out one element at a time. [`Page::whole`](page::Page::whole) works out every element at
//! once and shares what is alike, and [`Page::reach`](page::Page::reach) says what each rule matches, now and in some state.
//!
//! ```
//! use fingerpost::prelude::*;
//!
//! let html = "<style>a:hover { color: navy } .gone { top: 0 }</style><a href=/>Boats</a><p>Fares";
//! let page = Page::new(Text::new("a.html", html));
//! let color: PropertyName = "color".parse()?;
//! let whole = page.whole();
//! let colors = whole.elements().filter(|element| element.value(&color).is_some());
//! assert!(colors.count() > 0);
//!
//! let reach = page.reach();
//! let rules = page.rules().len();
//! assert!(!reach.is_idle(rules - 2));
//! assert!(reach.is_idle(rules - 1));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```
//!
//! # A site, and what a change moves
//!
//! A [`Site`][site::Site] reads a theme on disk. A [`Session`][session::Session] puts edits into its draft and saves them: it is the
//! only writer. Each step answers with one [`Outcome`][session::Outcome]: the files, and what else the change moves.
//!
//! ```
//! use fingerpost::prelude::*;
//!
//! # let folder = tempfile::tempdir()?;
//! # let write = |name: &str, text: &str| std::fs::write(folder.path().join(name), text);
//! # write("fingerpost.toml", "fingerpost = 2\n")?;
//! # write("a.css", "p { color: teal }")?;
//! # write("a.html", "<link rel=stylesheet href=a.css><p>Boats<p>Fares")?;
//! // a.css: p { color: teal }
//! // a.html: <link rel=stylesheet href=a.css><p>Boats<p>Fares
//! let mut site = Site::of_folder(folder.path())?;
//! let mut session = site.session()?;
//! let outcome = session.edit("a.html", "p:first-of-type", Change::set("color", "navy"))?;
//! // The other paragraph has the same rule.
//! assert_eq!(outcome.effect.expect("a session works it out").side_effects().here, 1);
//! session.undo()?;
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```
//!
//! # Texts that are not saved
//!
//! An editor has its own texts of some files. [`Site::with_buffers`][site::Site::with_buffers] is the site with them, and
//! [`Page::effect`](page::Page::effect) compares a page with its state before; neither writes anything.
//!
//! ```
//! use fingerpost::prelude::*;
//!
//! # let folder = tempfile::tempdir()?;
//! # let write = |name: &str, text: &str| std::fs::write(folder.path().join(name), text);
//! # write("fingerpost.toml", "fingerpost = 2\n")?;
//! # write("a.css", "p { color: teal }")?;
//! # write("a.html", "<link rel=stylesheet href=a.css><p>Boats")?;
//! // a.css: p { color: teal }
//! // a.html: <link rel=stylesheet href=a.css><p>Boats
//! let site = Site::of_folder(folder.path())?;
//! let saved = site.page("a.html", Environment::default())?;
//! let editor = site.with_buffers([Text::new("a.css", "p { color: navy }")])?;
//! let typed = editor.reparse_page(&saved)?;
//! let effect = typed.effect(&saved);
//! assert_eq!(effect.affected[0].changes[0].property, "color");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```
//!
//! # From a question to a call
//!
//! | what you want to know | call |
//! |---|---|
//! | which elements a selector, a text or a place means | [`Questions::find`](question::Questions::find) |
//! | why a property of an element is as it is | [`Questions::why`](question::Questions::why) |
//! | why a rule or a declaration does nothing | [`Questions::whynot`](question::Questions::whynot) |
//! | every rule that matches an element | [`Questions::trace`](question::Questions::trace) |
//! | all values of an element; of every element | [`Questions::values`](question::Questions::values); [`Page::whole`](page::Page::whole) |
//! | what every rule matches | [`Page::reach`](page::Page::reach) |
//! | what changed between two states of a page | [`Page::effect`](page::Page::effect) |
//! | which rules match nothing on any page | [`Site::idle`][site::Site::idle] |
//! | what an edit would write | [`make`](edit::make), [`Site::make`][site::Site::make] |
//! | the colors, numbers and names in a value | [`value::parts`] |
//!
//! # Features and versions
//!
//! On by default: `files` (a theme on disk: `site`, `session`, `survey`, `asking`) and `parallel` (all cores). `schemas` adds the
//! JSON Schema of each answer. Without features nothing is read and no thread is started. It builds for WebAssembly with any of
//! them; there a site is one of texts ([`View::in_memory`][site::View::in_memory]). The least Rust version is 1.90.
//!
//! # Layers
//!
//! From the lowest: [`text`]; [`markup`] and [`sheet`]; [`selector`], [`value`] and [`environment`]; [`cascade`]; [`page`];
//! [`question`] and [`edit`]; [`draft`]; [site]; [`impact`] and [survey]; [asking] and [session]. A module uses only those before it. The behavior is that of the open standards, which each module names.
//!
// Where the module is left out, what is said of it leads to this page.
#![cfg_attr(not(feature = "files"), doc = "[asking]: crate")]
#![cfg_attr(not(feature = "files"), doc = "[session]: crate")]
#![cfg_attr(not(feature = "files"), doc = "[session::Outcome]: crate")]
#![cfg_attr(not(feature = "files"), doc = "[session::Session]: crate")]
#![cfg_attr(not(feature = "files"), doc = "[site]: crate")]
#![cfg_attr(not(feature = "files"), doc = "[site::Site]: crate")]
#![cfg_attr(not(feature = "files"), doc = "[site::Site::idle]: crate")]
#![cfg_attr(not(feature = "files"), doc = "[site::Site::make]: crate")]
#![cfg_attr(not(feature = "files"), doc = "[site::Site::with_buffers]: crate")]
#![cfg_attr(not(feature = "files"), doc = "[site::View::in_memory]: crate")]
#![cfg_attr(not(feature = "files"), doc = "[survey]: crate")]
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
