//! What a `fingerpost.toml` of a folder could say, guessed from the pages and sheets in it.
//!
//! A guess comes with what it rests on, so that a person can judge it. Nothing is written here.
//!
//! ```
//! use fingerpost::survey::guess::guess;
//!
//! let folder = tempfile::tempdir()?;
//! for sheet in ["base.css", "own.css"] {
//!     std::fs::write(folder.path().join(sheet), "")?;
//! }
//! let html = "<link rel=stylesheet href=base.css><link rel=stylesheet href=own.css>";
//! std::fs::write(folder.path().join("a.html"), html)?;
//! let guess = guess(folder.path())?;
//! assert_eq!(guess.overrides.unwrap().file, "own.css");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use std::collections::BTreeMap;
use std::path::Path;

use serde::{Deserialize, Serialize};

use crate::environment::Environment;
use crate::page::{Arrival, Page};
use crate::site::{PAGE_ENDINGS, Site, SiteError, TEMPLATE_FOLDERS, template_endings};
use crate::text::DecodeHint;

/// How many pages are looked at: more say nothing new.
const MOST_PAGES: usize = 200;

/// What was guessed of a folder.
#[derive(Clone, Debug, Default, PartialEq, Eq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Guess {
    /// How many pages were looked at.
    pub pages: usize,
    /// The override sheet; none where no sheet is the last of most pages.
    pub overrides: Option<LastSheet>,
    /// Patterns of templates.
    pub templates: Vec<String>,
    /// Which folder serves which path.
    pub mounts: Vec<GuessedMount>,
    /// The sheets that name a source map.
    pub maps: Vec<String>,
}

/// The sheet that most pages link last, after another one.
#[derive(Clone, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct LastSheet {
    /// The sheet.
    pub file: String,
    /// How many pages link it last.
    pub pages: usize,
}

/// A path under which pages ask for files that lie in another folder.
#[derive(Clone, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct GuessedMount {
    /// The beginning of the path: `/assets/`.
    pub url: String,
    /// The folder: `theme/assets`.
    pub dir: String,
    /// How many different links begin so.
    pub links: usize,
    /// How many of them lead to a file in the folder.
    pub found: usize,
}

/// Guesses from what is in a folder.
///
/// # Errors
/// Where the folder can't be read.
pub fn guess(folder: &Path) -> Result<Guess, SiteError> {
    let site = Site::at(folder)?;
    let mut pages = site.pages();
    pages.truncate(MOST_PAGES);
    let mut last_sheets: BTreeMap<String, usize> = BTreeMap::new();
    let mut lost: Vec<String> = Vec::new();
    for name in &pages {
        let Ok(page) = site.page(name, Environment::default()) else {
            continue;
        };
        if let Some(sheet) = last_sheet(&page) {
            *last_sheets.entry(sheet).or_default() += 1;
        }
        let missing = page.failures().iter().map(|failure| failure.url.clone());
        lost.extend(missing.filter(|url| url.starts_with('/') && !url.starts_with("//")));
    }
    lost.sort_unstable();
    lost.dedup();
    let sheets = site.files(&["css"]);
    let overrides = last_sheets.into_iter().max_by_key(|(_, count)| *count);
    let overrides = overrides.filter(|(_, count)| count * 2 > pages.len());
    // One that something else writes keeps no changes.
    let overrides = overrides.filter(|(file, _)| !site.role(file).is_overwritten());
    let has_map = |name: &String| {
        let text = site.text(name, DecodeHint::utf8_sheet());
        text.is_ok_and(|text| text.source().contains("sourceMappingURL="))
    };
    Ok(Guess {
        pages: pages.len(),
        overrides: overrides.map(|(file, pages)| LastSheet { file, pages }),
        templates: templates(&site),
        mounts: mounts(&lost, &sheets),
        maps: sheets
            .iter()
            .filter(|name| has_map(name))
            .cloned()
            .collect(),
    })
}

/// The linked sheet that comes last on a page, where it comes after another one.
fn last_sheet(page: &Page) -> Option<String> {
    let linked = |sheet: &&crate::page::PageSheet| matches!(sheet.arrival, Arrival::Link(_));
    let mut linked = page.sheets().iter().filter(linked);
    linked.next()?;
    let last = linked.next_back()?;
    Some(last.styles.sheet().text().name().to_owned())
}

fn templates(site: &Site) -> Vec<String> {
    let mut endings: Vec<&str> = template_endings().collect();
    endings.extend(PAGE_ENDINGS);
    let files = site.files(&endings);
    let mut patterns: Vec<String> = Vec::new();
    for file in &files {
        let path = Path::new(file);
        let extension = path
            .extension()
            .and_then(|e| e.to_str())
            .unwrap_or_default();
        let folders: Vec<&str> = file.split('/').collect();
        let named = folders
            .iter()
            .position(|folder| TEMPLATE_FOLDERS.contains(folder));
        if let Some(at) = named.filter(|at| at + 1 < folders.len()) {
            patterns.push(format!("{}/**/*.{extension}", folders[..=at].join("/")));
        }
    }
    patterns.sort_unstable();
    patterns.dedup();
    patterns
}

/// The folders in which links that lead nowhere have their files: the ending of the link's path that a file of the site
/// has tells where the rest of it leads.
fn mounts(lost: &[String], sheets: &[String]) -> Vec<GuessedMount> {
    let mut found: BTreeMap<(String, String), usize> = BTreeMap::new();
    for url in lost {
        let path = url.split(['?', '#']).next().unwrap_or_default();
        let parts: Vec<&str> = path.trim_start_matches('/').split('/').collect();
        // The longest ending first.
        let fitting = (1..parts.len()).find_map(|at| {
            let ending = format!("/{}", parts[at..].join("/"));
            let mut files = sheets.iter().filter_map(|file| file.strip_suffix(&ending));
            let folder = files.next()?;
            // Two files of that ending tell nothing.
            files.next().is_none().then(|| {
                let url = format!("/{}/", parts[..at].join("/"));
                (url, folder.to_owned())
            })
        });
        if let Some(mount) = fitting {
            *found.entry(mount).or_default() += 1;
        }
    }
    let mounts = found.into_iter().map(|((url, dir), found)| GuessedMount {
        links: lost.iter().filter(|link| link.starts_with(&url)).count(),
        url,
        dir,
        found,
    });
    mounts.collect()
}
