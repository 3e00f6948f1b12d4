//! Where a site is: the folder that is its root.
//!
//! A folder with a `fingerpost.toml`, or with a draft or a save in the program's own folder, is the root of what is below.
//! Without either, the root is worked out from what the page links: it is the nearest folder upwards under
//! which the page's own links lead to files.

use std::fs;
use std::path::{Component, Path, PathBuf};

use percent_encoding::percent_decode_str;
use url::Url;

use super::history::ASKED_FILE;
use super::lock::LOCK_FILE;
use super::root::{Root, read_file, unreadable};
use super::state::IGNORE_FILE;
use super::urls::{NOWHERE, in_url};
use super::{CONFIG_FILE, STATE_FOLDER, SiteError};
use crate::markup::Document;
use crate::page::asked_for;
use crate::text::{DecodeHint, SitePath, Text};

/// How many folders are looked through for sites, and how deep, when there is none where one was expected.
const MOST_FOLDERS: usize = 2_000;
const DEEPEST_FOLDER: usize = 3;

/// A page, and the site that it belongs to.
pub(super) struct Located {
    pub root: Root,
    /// The page's name there.
    pub name: SitePath,
    /// Whether nothing says that this is the root.
    pub guessed: bool,
}

/// The site that a page belongs to, and its name there. The page is looked for along the path that was
/// given: a link in a site does not make what it leads to the site.
pub(super) fn of_page(page: &Path) -> Result<Located, SiteError> {
    let unreadable = unreadable(page);
    let no_page = || SiteError::NoSuchPage {
        path: page.to_owned(),
    };
    let mut path = std::path::absolute(page).map_err(&unreadable)?;
    // A way upwards is gone by the links before it, as the system goes it.
    let parts: Vec<Component> = path.components().collect();
    if let Some(last) = parts.iter().rposition(|part| *part == Component::ParentDir) {
        let (above, below) = parts.split_at(last + 1);
        let above: PathBuf = above.iter().collect();
        let above = above.canonicalize().map_err(|error| match error.kind() {
            std::io::ErrorKind::NotFound => no_page(),
            _ => unreadable(error),
        })?;
        path = above.join(below.iter().collect::<PathBuf>());
    }
    let folder = path.parent().unwrap_or(Path::new("/"));
    if !folder.exists() {
        return Err(no_page());
    }
    let said = root_above(folder);
    let root = said.unwrap_or_else(|| worked_out(&path, folder));
    let name = path.strip_prefix(root).unwrap_or(&path).to_str();
    let Some(name) = name else {
        return Err(SiteError::State {
            path,
            message: "its name is not UTF-8, and can't be written in a page or a draft; rename it"
                .to_owned(),
        });
    };
    Ok(Located {
        root: Root::new(root)?,
        name: SitePath::new(name)?,
        guessed: said.is_none(),
    })
}

/// The site that a folder belongs to, or the only one in it; and whether nothing there says that it is the root.
///
/// # Errors
/// [`SiteError::NoSite`] where there is none, or several are below.
pub(super) fn of_folder(folder: &Path) -> Result<(Root, bool), SiteError> {
    let here = Root::new(folder)?;
    if let Some(root) = root_above(here.path()) {
        return Ok((Root::new(root)?, false));
    }
    let below = below(here.path());
    if let [only] = &below[..] {
        return Ok((Root::new(&here.path().join(only))?, true));
    }
    // Where a question was asked, there is a site too, if nothing else says so.
    let asked = here.path().ancestors().find(|above| was_asked(above));
    match asked {
        Some(root) if below.is_empty() => Ok((Root::new(root)?, true)),
        _ => Err(SiteError::NoSite {
            folder: here.path().to_owned(),
            below,
        }),
    }
}

/// The site that a folder belongs to, or the folder itself.
pub(super) fn of_folder_or_itself(folder: &Path) -> Result<Root, SiteError> {
    let here = Root::new(folder)?;
    match root_above(here.path()) {
        Some(root) => Root::new(root),
        None => Ok(here),
    }
}

fn root_above(folder: &Path) -> Option<&Path> {
    folder.ancestors().find(|folder| is_root(folder))
}

/// What the program's own folder may hold without being that of a site: a question about a page in any folder leaves it.
const LEFT_BY_QUESTIONS: [&str; 3] = [ASKED_FILE, IGNORE_FILE, LOCK_FILE];

fn is_root(folder: &Path) -> bool {
    if folder.join(CONFIG_FILE).is_file() {
        return true;
    }
    let state = folder.join(STATE_FOLDER);
    let is_folder = fs::symlink_metadata(&state).is_ok_and(|found| found.is_dir());
    let mut held = fs::read_dir(&state).into_iter().flatten().flatten();
    is_folder
        && held.any(|entry| {
            !LEFT_BY_QUESTIONS
                .iter()
                .any(|name| entry.file_name() == **name)
        })
}

/// Whether a page of the folder was asked about.
fn was_asked(folder: &Path) -> bool {
    folder.join(STATE_FOLDER).join(ASKED_FILE).is_file()
}

/// The nearest folder upwards under which the page's own links lead to files: within the repository, if
/// there is one, else within the present folder; the page's own folder where there is none.
fn worked_out<'a>(page: &Path, folder: &'a Path) -> &'a Path {
    let present = std::env::current_dir().ok();
    let repository = folder.ancestors().find(|above| above.join(".git").exists());
    let last = repository.or_else(|| {
        let present = present.as_deref()?;
        folder.ancestors().find(|above| *above == present)
    });
    let Some(last) = last else { return folder };
    let Ok(bytes) = read_file(page, page) else {
        return folder;
    };
    let Ok(text) = Text::decode("", bytes, DecodeHint::Html) else {
        return folder;
    };
    let document = Document::parse(text);
    let (urls, base) = asked_for(&document);
    let mut best = (folder, 0);
    for root in folder
        .ancestors()
        .take_while(|above| above.starts_with(last))
    {
        let found = urls
            .iter()
            .filter(|url| leads_to_file(root, page, base, url))
            .count();
        if found > best.1 {
            best = (root, found);
        }
    }
    best.0
}

/// Whether a URL of a page leads to a file, if the server's root were this folder.
fn leads_to_file(root: &Path, page: &Path, base: Option<&str>, url: &str) -> bool {
    let lead = || {
        let name = page.strip_prefix(root).ok()?.to_str()?;
        let nowhere = Url::parse(NOWHERE).ok()?;
        let mut here = nowhere.clone();
        here.set_path(&in_url(name));
        if let Some(base) = base {
            here = here.join(base).ok()?;
        }
        let url = here.join(url).ok()?;
        if url.origin() != nowhere.origin() {
            return None;
        }
        let path = percent_decode_str(url.path()).decode_utf8().ok()?;
        let path = SitePath::new(path.trim_start_matches('/')).ok()?;
        root.join(path.as_str()).is_file().then_some(())
    };
    lead().is_some()
}

/// The sites in a folder, by their paths from there.
fn below(folder: &Path) -> Vec<String> {
    let mut found = Vec::new();
    let mut open = vec![(folder.to_owned(), 0)];
    let mut seen = 0;
    while let Some((next, depth)) = open.pop() {
        if is_root(&next) {
            let path = next.strip_prefix(folder).unwrap_or(&next);
            found.push(path.display().to_string());
            continue;
        }
        if depth == DEEPEST_FOLDER {
            continue;
        }
        for entry in fs::read_dir(&next).into_iter().flatten().flatten() {
            seen += 1;
            if seen > MOST_FOLDERS {
                return found;
            }
            if entry.file_type().is_ok_and(|kind| kind.is_dir()) {
                open.push((entry.path(), depth + 1));
            }
        }
    }
    found.sort();
    found
}
