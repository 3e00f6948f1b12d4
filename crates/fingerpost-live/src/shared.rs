//! What every part of the desk shares.

use std::net::SocketAddr;
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

use crate::events::Events;
use crate::site_server::SiteServer;
use crate::workspace::Workspace;

/// How a desk is started.
#[derive(Clone, Debug, Default)]
pub struct Settings {
    /// The page that is shown first; default: the site's first page.
    pub page: Option<String>,
    /// Refuse everything that would change the draft or a file.
    pub read_only: bool,
    /// The server of the site, where pages are URLs.
    pub server: Option<Arc<SiteServer>>,
    /// The port of the desk, and of the page after it; default: any free ones.
    pub port: Option<u16>,
}

/// What all requests share.
#[derive(Debug)]
pub(crate) struct Shared {
    pub workspace: Mutex<Workspace>,
    pub events: Events,
    pub settings: Settings,
    /// What a write must bring, so that only the desk writes.
    pub token: String,
    /// Where the desk is.
    pub desk: Origin,
    /// Where the site's pages are.
    pub page: Origin,
    /// The page that is shown first.
    pub first: String,
}

/// An address on the loopback interface.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Origin {
    host: &'static str,
    port: u16,
}

impl Origin {
    pub fn by_number(address: SocketAddr) -> Origin {
        Origin {
            host: "127.0.0.1",
            port: address.port(),
        }
    }

    pub fn by_name(address: SocketAddr) -> Origin {
        Origin {
            host: "localhost",
            port: address.port(),
        }
    }

    pub fn port(self) -> u16 {
        self.port
    }

    /// Whether the `Origin` of a request names it; this machine has two names.
    pub fn is_named_by(self, origin: &[u8]) -> bool {
        let port = self.port;
        [
            format!("http://127.0.0.1:{port}"),
            format!("http://localhost:{port}"),
        ]
        .iter()
        .any(|known| known.as_bytes() == origin)
    }
}

impl std::fmt::Display for Origin {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "http://{}:{}", self.host, self.port)
    }
}

impl Shared {
    /// The site and its pages. Questions take what they need and let go; edits hold it to their end.
    pub fn workspace(&self) -> MutexGuard<'_, Workspace> {
        self.workspace
            .lock()
            .unwrap_or_else(PoisonError::into_inner)
    }
}
