//! The desk: a local server that shows a site's page live, with the questions and edits of
//! [`fingerpost`] beside it.
//!
//! Two origins, both on the loopback address, keep the site's own scripts away from the desk:
//!
//! - the *page origin* serves the site as its draft leaves it, with a small agent in each page;
//! - the *desk origin* serves the desk itself and its API, which alone can write, and only with the
//!   token that the desk holds.
//!
//! The two talk by `postMessage`; `docs/api.md` has the messages and the API.
//!
//! ```no_run
//! # fn main() -> Result<(), Box<dyn std::error::Error>> {
//! use fingerpost::site::Site;
//! use fingerpost_live::{Desk, Settings};
//!
//! let site = Site::of_folder("demo/skerry-line".as_ref())?;
//! let desk = Desk::start(site, Settings::default())?;
//! println!("{}", desk.address());
//! desk.wait();
//! # Ok(())
//! # }
//! ```

#![deny(missing_docs)]

mod api;
mod assets;
mod assume;
mod desk;
mod events;
mod guard;
mod handles;
mod pages;
mod parts;
mod passing;
mod quick;
mod refusal;
mod shared;
mod site_server;
mod subject;
mod view;
mod watch;
mod workspace;
mod writes;

pub use desk::{Desk, StartError};
pub use shared::Settings;
pub use site_server::{AccessError, ServerAccess, SiteServer};
