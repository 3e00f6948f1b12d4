//! What a change changes: two states of a page or of a site are compared, in every environment and state that the theme
//! speaks of.
//!
//! ```
//! use fingerpost::prelude::*;
//!
//! let folder = tempfile::tempdir()?;
//! std::fs::write(folder.path().join("fingerpost.toml"), "fingerpost = 2\n")?;
//! std::fs::write(folder.path().join("a.css"), "p { color: teal }")?;
//! for page in ["a.html", "b.html"] {
//!     let html = "<link rel=stylesheet href=a.css><p>Boats<p>Fares";
//!     std::fs::write(folder.path().join(page), html)?;
//! }
//! let mut site = Site::of_folder(folder.path())?;
//! let change = Change::set("color", "navy");
//! let intent = Intent::new("a.html", "p:first-of-type", change);
//! let outcome = site.session()?.try_edit(&intent)?;
//! // One was meant; another here and two on the other page follow the same rule.
//! let effect = outcome.effect.expect("a session works it out");
//! assert_eq!(effect.side_effects().count(), 3);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

#[cfg(feature = "files")]
pub mod change;
#[cfg(feature = "files")]
pub(crate) mod class_for;
#[cfg(feature = "files")]
pub mod destinations;
#[cfg(feature = "files")]
pub mod draft;
pub mod page;
#[cfg(feature = "files")]
pub mod remedies;
#[cfg(feature = "files")]
pub mod site;
