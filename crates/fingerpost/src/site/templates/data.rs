//! The data that a server fills templates with: which file has a text.

use super::super::Site;
use crate::text::{DecodeHint, TextSize};

/// The endings of files that hold data.
const DATA_ENDINGS: [&str; 8] = ["json", "yml", "yaml", "toml", "csv", "tsv", "md", "xml"];

/// How many places are named.
const MOST_PLACES: usize = 3;

/// The shortest text that is looked for: less is everywhere.
const SHORTEST: usize = 3;

/// Where the site's data has a text, if in few places.
pub(super) fn places(site: &Site, wanted: &str) -> Vec<String> {
    let wanted = wanted.trim();
    if wanted.len() < SHORTEST {
        return Vec::new();
    }
    let mut found = Vec::new();
    for file in site.files(&DATA_ENDINGS) {
        if file == super::super::CONFIG_FILE {
            continue;
        }
        let Ok(text) = site.text(&file, DecodeHint::Html) else {
            continue;
        };
        let starts = text.source().match_indices(wanted).map(|(at, _)| at);
        let places = starts.map(|at| text.place(TextSize::new(at as u32)).to_string());
        found.extend(places.take(MOST_PLACES + 1));
    }
    match found.len() > MOST_PLACES {
        true => Vec::new(),
        false => found,
    }
}
