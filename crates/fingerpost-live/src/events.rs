//! The one stream on which the desk learns what changed.

use serde::Serialize;
use tokio::sync::broadcast;

use crate::quick::Way;

/// How many events a desk may lag behind before it is told to read everything again.
const MOST_WAITING: usize = 64;

/// Something that changed.
#[derive(Clone, Debug, Serialize)]
#[serde(rename_all = "camelCase", tag = "event")]
pub(crate) enum Event {
    /// Texts of the site are other ones now.
    Changed {
        /// The number of the state.
        version: u64,
        /// The files, by the paths of their URLs.
        files: Vec<ChangedFile>,
        /// Whether another program changed them on disk.
        from_disk: bool,
    },
    /// Something is wrong that no request asked about.
    Trouble {
        /// What, in a sentence.
        message: String,
    },
}

/// A file whose text changed.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub(crate) struct ChangedFile {
    /// Its name in the site.
    pub file: String,
    /// The path of its URL.
    pub path: String,
    /// What it is.
    pub kind: FileKind,
    /// The one declaration that changed in it, where the rest is as it was.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub quick: Option<Way>,
}

/// What a file is to a page.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "lowercase")]
pub(crate) enum FileKind {
    /// A sheet that browsers read.
    Sheet,
    /// A page.
    Page,
    /// A source of sheets, an image, a script.
    Other,
}

impl FileKind {
    pub fn of(file: &str) -> FileKind {
        let path = file.split(['?', '#']).next().unwrap_or(file);
        let extension = path
            .rsplit('/')
            .next()
            .and_then(|name| name.rsplit_once('.'));
        match extension
            .map(|(_, extension)| extension.to_ascii_lowercase())
            .as_deref()
        {
            Some("css") => FileKind::Sheet,
            Some("html" | "htm" | "xhtml") | None => FileKind::Page,
            Some(_) => FileKind::Other,
        }
    }
}

/// Those who listen.
#[derive(Debug)]
pub(crate) struct Events(broadcast::Sender<Event>);

impl Default for Events {
    fn default() -> Self {
        Events(broadcast::channel(MOST_WAITING).0)
    }
}

impl Events {
    pub fn send(&self, event: Event) {
        // It does not matter whether a desk is open.
        let _ = self.0.send(event);
    }

    pub fn listen(&self) -> broadcast::Receiver<Event> {
        self.0.subscribe()
    }
}
