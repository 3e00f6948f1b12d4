//! What was asked about last, so that the next question can point back at it.
//!
//! It is a convenience: a file that is missing, cannot be read or is of another version counts as empty.

use serde::{Deserialize, Serialize};

use super::keep::check_version;
use super::{Site, SiteError, state};

/// Where it is kept, in the folder of the program's own.
pub(super) const ASKED_FILE: &str = "asked.json";

/// The version of the file.
const ASKED_VERSION: u32 = 1;

/// How many questions are remembered.
const MOST_ASKED: usize = 20;

/// A page that was asked about, and the element on it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct AskedBefore {
    /// The page: a file relative to the site's root, or a URL.
    pub page: String,
    /// The element, as questions name one; none where the question was about the whole page.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub element: Option<String>,
}

#[derive(Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    fingerpost: u32,
    asked: Vec<AskedBefore>,
}

impl Site {
    /// What was asked about, the newest first.
    pub fn asked(&self) -> Vec<AskedBefore> {
        let json = state::read(&self.root, ASKED_FILE).ok().flatten();
        let known = json.filter(|json| check_version(json, ASKED_VERSION).is_ok());
        let file = known.and_then(|json| serde_json::from_str::<File>(&json).ok());
        file.map(|file| file.asked).unwrap_or_default()
    }

    /// Remembers what was asked about.
    ///
    /// # Errors
    /// Where the file can't be written.
    pub fn remember(&self, asked: AskedBefore) -> Result<(), SiteError> {
        let mut all = self.asked();
        if all.first() == Some(&asked) {
            return Ok(());
        }
        all.retain(|other| *other != asked);
        all.insert(0, asked);
        all.truncate(MOST_ASKED);
        let file = File {
            fingerpost: ASKED_VERSION,
            asked: all,
        };
        let json = serde_json::to_string_pretty(&file).expect("plain data serialises");
        state::write_unsynced(&self.root, ASKED_FILE, json.as_bytes())
    }
}
