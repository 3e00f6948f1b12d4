//! The theme on disk: its root and configuration, its pages, the draft over them, and saving.
//!
//! The root of a site is the nearest folder upwards that holds `fingerpost.toml`, else the page's
//! own folder. Nothing outside it is read or written. Every answer is given over the sources as the
//! draft leaves them: what was tried is seen at once, and saving changes no answer.

mod store;

use std::collections::HashMap;
use std::path::{Component, Path, PathBuf};
use std::sync::{Arc, Mutex, PoisonError};

use percent_encoding::percent_decode_str;
use rayon::prelude::*;
use serde::Deserialize;
use thiserror::Error;
use url::Url;

use crate::condition::Conditions;
use crate::edit::{Draft, DraftError, Drafted, Edit};
use crate::markup::Document;
use crate::page::{LoadError, Page, Request, asked_for, imported};
use crate::question::elsewhere::{Elsewhere, SiteSheet};
use crate::sheet::Sheet;
use crate::text::{DecodeHint, EncodingError, Text};

pub use store::StoreError;

/// The configuration file in the site's root.
pub const CONFIG_FILE: &str = "fingerpost.toml";

/// Where the draft is kept, relative to the site's root.
pub const DRAFT_FILE: &str = ".fingerpost/draft.json";

/// The version of the configuration file.
pub const CONFIG_VERSION: u32 = 1;

/// What `fingerpost.toml` says.
#[derive(Clone, Debug, Default, PartialEq, Eq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Config {
    /// The version of the file's format: 1.
    pub fingerpost: u32,
    /// What the site is called, for headings.
    pub name: Option<String>,
}

/// Why a site or a page of it can't be read, or a draft can't be saved.
#[derive(Debug, Error)]
pub enum SiteError {
    /// There is no such file.
    #[error("{}: there is no such file; expected a page of the site", .path.display())]
    NoSuchPage {
        /// The path given.
        path: PathBuf,
    },
    /// The path is one of a folder.
    #[error("{}: this is a folder; expected a page in it, such as {}", .path.display(), .path.join("index.html").display())]
    Folder {
        /// The path given.
        path: PathBuf,
    },
    /// A file can't be read.
    #[error("{}: can't be read: {source}", .path.display())]
    Unreadable {
        /// The file.
        path: PathBuf,
        /// Why.
        source: std::io::Error,
    },
    /// A file is no text.
    #[error("{}: {source}", .path.display())]
    NotText {
        /// The file.
        path: PathBuf,
        /// Why.
        source: EncodingError,
    },
    /// The configuration is not one.
    #[error("{}:{line}: {message}", .path.display())]
    Config {
        /// The file.
        path: PathBuf,
        /// The line, from 1.
        line: usize,
        /// What is wrong and what was expected.
        message: String,
    },
    /// The draft can't be read or applied.
    #[error("{}: {source}", .path.display())]
    Draft {
        /// The draft file.
        path: PathBuf,
        /// Why.
        source: DraftError,
    },
    /// Edits of the draft have lost their place.
    #[error("nothing was saved: {} of the draft lost its place, for what it changes is not there; drop it, or switch on what it was made over", numbered(.ids))]
    Adrift {
        /// Their numbers.
        ids: Vec<u32>,
    },
    /// A file can't be written.
    #[error(transparent)]
    Store(#[from] StoreError),
}

/// A file that a save would change: before and after.
#[derive(Debug)]
pub struct Change {
    /// As it is on disk.
    pub before: Arc<Text>,
    /// As the draft leaves it.
    pub after: Arc<Text>,
}

impl Change {
    /// The change as a unified diff.
    pub fn diff(&self) -> String {
        crate::edit::unified_diff(&self.before, &self.after)
    }
}

/// A theme on disk.
#[derive(Debug)]
pub struct Site {
    root: PathBuf,
    config: Config,
    draft: Draft,
    user_sheet: Option<Arc<Text>>,
    /// Files as they are on disk, by name.
    texts: Mutex<HashMap<String, Arc<Text>>>,
}

impl Site {
    /// Opens the site that a page belongs to, and gives the page's name in it.
    ///
    /// # Errors
    /// Where the page, the configuration or the draft can't be read.
    pub fn of_page(page: &Path) -> Result<(Site, String), SiteError> {
        let real = page.canonicalize().map_err(|source| match source.kind() {
            std::io::ErrorKind::NotFound => SiteError::NoSuchPage {
                path: page.to_owned(),
            },
            _ => SiteError::Unreadable {
                path: page.to_owned(),
                source,
            },
        })?;
        if real.is_dir() {
            return Err(SiteError::Folder {
                path: page.to_owned(),
            });
        }
        let folder = real.parent().unwrap_or(Path::new("/"));
        let root = root_above(folder).unwrap_or(folder);
        let site = Site::open(root)?;
        let name = site_name(&real, root);
        Ok((site, name))
    }

    /// Opens the site that a folder belongs to.
    ///
    /// # Errors
    /// Where the configuration or the draft can't be read.
    pub fn of_folder(folder: &Path) -> Result<Site, SiteError> {
        let real = folder
            .canonicalize()
            .map_err(|source| SiteError::Unreadable {
                path: folder.to_owned(),
                source,
            })?;
        Site::open(root_above(&real).unwrap_or(&real))
    }

    fn open(root: &Path) -> Result<Site, SiteError> {
        Ok(Site {
            root: root.to_owned(),
            config: read_config(&root.join(CONFIG_FILE))?,
            draft: read_draft(&root.join(DRAFT_FILE))?,
            user_sheet: None,
            texts: Mutex::default(),
        })
    }

    /// The site's root folder.
    pub fn root(&self) -> &Path {
        &self.root
    }

    /// What `fingerpost.toml` says.
    pub fn config(&self) -> &Config {
        &self.config
    }

    /// What is tried and not yet saved.
    pub fn draft(&self) -> &Draft {
        &self.draft
    }

    /// Adds a reader's own sheet, of the user origin, to every page. It may lie anywhere.
    ///
    /// # Errors
    /// Where it can't be read.
    pub fn set_user_sheet(&mut self, path: &Path) -> Result<(), SiteError> {
        let bytes = std::fs::read(path).map_err(|source| SiteError::Unreadable {
            path: path.to_owned(),
            source,
        })?;
        let name = path.display().to_string();
        let text = Text::decode(&name, bytes, DecodeHint::Css(encoding_rs::UTF_8));
        self.user_sheet = Some(text.map_err(|source| SiteError::NotText {
            path: path.to_owned(),
            source,
        })?);
        Ok(())
    }

    /// A page of the site with its sheets, as the draft leaves them.
    ///
    /// # Errors
    /// Where the page can't be read, or the draft was based on other bytes. Sheets that don't load
    /// are no error: [`Page::failures`] lists them.
    pub fn page(&self, name: &str, conditions: Conditions) -> Result<Page, SiteError> {
        let text = self.text(name, DecodeHint::Html)?;
        let mut failed = None;
        let reader = self.user_sheet.clone();
        let page = Page::build_for_reader(text, reader, conditions, &mut |request| {
            self.load(request).map_err(|error| match error {
                LoadOrDraft::Load(error) => error,
                LoadOrDraft::Draft(error) => {
                    let reason = error.to_string();
                    failed.get_or_insert(error);
                    LoadError::Unreadable {
                        file: request.url.to_owned(),
                        reason,
                    }
                }
            })
        });
        match failed {
            Some(error) => Err(error),
            None => Ok(page),
        }
    }

    /// A file of the site as the draft leaves it.
    ///
    /// # Errors
    /// Where it can't be read, is no text, or the draft was based on other bytes.
    pub fn text(&self, name: &str, hint: DecodeHint) -> Result<Arc<Text>, SiteError> {
        let base = self.base_text(name, hint)?;
        Ok(self.drafted(&base)?.text)
    }

    fn drafted(&self, base: &Arc<Text>) -> Result<Drafted, SiteError> {
        let drafted = self.draft.apply(base);
        drafted.map_err(|source| self.draft_error(source))
    }

    fn draft_error(&self, source: DraftError) -> SiteError {
        SiteError::Draft {
            path: self.root.join(DRAFT_FILE),
            source,
        }
    }

    /// The edits that are on and have lost their place, by their numbers.
    ///
    /// # Errors
    /// Where a file can't be read, or is not what the draft was based on.
    pub fn adrift(&self) -> Result<Vec<u32>, SiteError> {
        let mut found = Vec::new();
        for file in self.draft.files() {
            let base = self.base_text(file, self.hint(file))?;
            found.extend(self.drafted(&base)?.adrift);
        }
        found.sort_unstable();
        Ok(found)
    }

    /// A file of the site as it is on disk.
    fn base_text(&self, name: &str, hint: DecodeHint) -> Result<Arc<Text>, SiteError> {
        let mut texts = self.texts.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(text) = texts.get(name) {
            return Ok(text.clone());
        }
        let path = self.root.join(name);
        let bytes = std::fs::read(&path).map_err(|source| SiteError::Unreadable {
            path: path.clone(),
            source,
        })?;
        let text = Text::decode(name, bytes, hint)
            .map_err(|source| SiteError::NotText { path, source })?;
        texts.insert(name.to_owned(), text.clone());
        Ok(text)
    }

    /// How a file that the draft is about is decoded: in the encoding that the draft read it in.
    fn hint(&self, file: &str) -> DecodeHint {
        let extension = Path::new(file).extension().and_then(|e| e.to_str());
        if extension.is_none_or(|e| !e.eq_ignore_ascii_case("css")) {
            return DecodeHint::Html;
        }
        let label = self
            .draft
            .bases
            .get(file)
            .map(|base| base.encoding.as_bytes());
        let known = label.and_then(encoding_rs::Encoding::for_label);
        DecodeHint::Css(known.unwrap_or(encoding_rs::UTF_8))
    }

    fn load(&self, request: &Request<'_>) -> Result<Arc<Text>, LoadOrDraft> {
        let name = resolve(request)?;
        let path = self.root.join(&name);
        let missing = || LoadError::Missing { file: name.clone() };
        let real = path.canonicalize().map_err(|_| missing())?;
        if !real.starts_with(&self.root) {
            return Err(LoadError::Outside { file: name }.into());
        }
        if real.is_dir() {
            return Err(LoadError::Unreadable {
                file: name,
                reason: "it is a folder".to_owned(),
            }
            .into());
        }
        match self.text(&name, DecodeHint::Css(request.encoding)) {
            Ok(text) => Ok(text),
            Err(error @ SiteError::Draft { .. }) => Err(LoadOrDraft::Draft(error)),
            Err(SiteError::Unreadable { source, .. }) => Err(LoadError::Unreadable {
                file: name,
                reason: source.to_string(),
            }
            .into()),
            Err(error) => Err(LoadError::Unreadable {
                file: name,
                reason: error.to_string(),
            }
            .into()),
        }
    }

    /// The names of the site's files with one of these extensions, sorted. What version control
    /// ignores, hidden files and installed packages are left out.
    pub fn files(&self, extensions: &[&str]) -> Vec<String> {
        let installed = |name: &std::ffi::OsStr| name == "node_modules" || name == "vendor";
        let walk = ignore::WalkBuilder::new(&self.root)
            .require_git(false)
            .filter_entry(move |entry| !installed(entry.file_name()))
            .build();
        let mut names: Vec<String> = walk
            .flatten()
            .filter(|entry| entry.file_type().is_some_and(|t| t.is_file()))
            .filter(|entry| {
                let extension = entry.path().extension().and_then(|e| e.to_str());
                extension.is_some_and(|e| extensions.iter().any(|x| e.eq_ignore_ascii_case(x)))
            })
            .map(|entry| site_name(entry.path(), &self.root))
            .collect();
        names.sort();
        names
    }

    /// The names of the site's pages.
    pub fn pages(&self) -> Vec<String> {
        self.files(&["html", "htm", "xhtml"])
    }

    /// Every sheet of the site, and the sources that sheets are built from, with the pages that have
    /// each. Files that can't be read are left out.
    pub fn elsewhere(&self) -> Elsewhere {
        let files = self.files(&["css", "scss", "less"]);
        let mut sheets: Vec<SiteSheet> = files
            .into_par_iter()
            .filter_map(|name| {
                let text = self.text(&name, DecodeHint::Css(encoding_rs::UTF_8)).ok()?;
                let span = text.span();
                Some(SiteSheet {
                    sheet: Sheet::parse(text.clone(), span),
                    text,
                    pages: Vec::new(),
                })
            })
            .collect();
        let imports: HashMap<&str, Vec<String>> = sheets
            .iter()
            .map(|s| {
                (
                    s.text.name(),
                    resolved(imported(&s.sheet), s.text.name(), None),
                )
            })
            .collect();
        let of_pages: Vec<(String, Vec<String>)> = self
            .pages()
            .into_par_iter()
            .filter_map(|page| {
                let document = Document::parse(self.text(&page, DecodeHint::Html).ok()?);
                let (urls, base) = asked_for(&document);
                let mut names = resolved(urls, &page, base);
                let mut at = 0;
                while at < names.len() {
                    let inner = imports.get(names[at].as_str());
                    for name in inner.into_iter().flatten() {
                        if !names.contains(name) {
                            names.push(name.clone());
                        }
                    }
                    at += 1;
                }
                Some((page, names))
            })
            .collect();
        for (page, names) in of_pages {
            for sheet in sheets
                .iter_mut()
                .filter(|s| names.iter().any(|n| n == s.text.name()))
            {
                sheet.pages.push(page.clone());
            }
        }
        Elsewhere { sheets }
    }

    /// Puts an edit into the draft, and the draft into its file.
    ///
    /// # Errors
    /// Where the edit does not fit, or the draft file can't be written; the draft is then as it was.
    pub fn try_edit(&mut self, edit: Edit) -> Result<(), SiteError> {
        let base = self.base_text(&edit.file, self.hint(&edit.file))?;
        let mut draft = self.draft.clone();
        draft.push(edit, &base);
        draft
            .apply(&base)
            .map_err(|source| self.draft_error(source))?;
        self.keep(draft)
    }

    /// Changes the draft by something other than an edit, such as [`Draft::switch`] or
    /// [`Draft::undo`], and writes its file.
    ///
    /// # Errors
    /// Where the draft file can't be written; the draft is then as it was.
    pub fn change_draft<T>(
        &mut self,
        change: impl FnOnce(&mut Draft) -> T,
    ) -> Result<T, SiteError> {
        let mut draft = self.draft.clone();
        let done = change(&mut draft);
        self.keep(draft)?;
        Ok(done)
    }

    fn keep(&mut self, draft: Draft) -> Result<(), SiteError> {
        if draft.is_blank() {
            store::remove_draft(&self.root)?;
        } else {
            store::write_draft(&self.root, &draft)?;
        }
        self.draft = draft;
        Ok(())
    }

    /// What a save would change.
    ///
    /// # Errors
    /// Where a file can't be read, or is not what the draft was based on.
    pub fn changes(&self) -> Result<Vec<Change>, SiteError> {
        let mut changes = Vec::new();
        for file in self.draft.files() {
            let hint = self.hint(file);
            let before = self.base_text(file, hint)?;
            let after = self.text(file, hint)?;
            if before.source() != after.source() {
                changes.push(Change { before, after });
            }
        }
        Ok(changes)
    }

    /// Writes the draft into the sources and empties it. Every file is checked before the first is
    /// written; each is replaced whole.
    ///
    /// # Errors
    /// Where a file has changed since it was read, or can't be written. Files written before the
    /// one that failed stay written, the rest stays in the draft.
    pub fn save(&mut self) -> Result<Vec<Change>, SiteError> {
        // What is on disk now is what counts, not what was read before.
        self.texts
            .lock()
            .unwrap_or_else(PoisonError::into_inner)
            .clear();
        let adrift = self.adrift()?;
        if !adrift.is_empty() {
            return Err(SiteError::Adrift { ids: adrift });
        }
        let changes = self.changes()?;
        for change in &changes {
            let path = self.root.join(change.before.name());
            store::replace(&path, &change.before.to_bytes(), &change.after.to_bytes())?;
            let mut draft = self.draft.clone();
            draft
                .saved(&change.before, &change.after)
                .map_err(|source| self.draft_error(source))?;
            self.keep(draft)?;
        }
        // Edits that changed nothing together are done with too.
        let rest: Vec<String> = self.draft.files().map(str::to_owned).collect();
        for file in rest {
            self.texts
                .lock()
                .unwrap_or_else(PoisonError::into_inner)
                .clear();
            let base = self.base_text(&file, self.hint(&file))?;
            let mut draft = self.draft.clone();
            draft
                .saved(&base, &base)
                .map_err(|source| self.draft_error(source))?;
            self.keep(draft)?;
        }
        Ok(changes)
    }

    /// Throws the draft away; says how many edits it held.
    ///
    /// # Errors
    /// Where the draft file can't be removed.
    pub fn drop_draft(&mut self) -> Result<usize, SiteError> {
        let count = self.draft.edits().count();
        store::remove_draft(&self.root)?;
        self.draft = Draft::default();
        self.texts
            .lock()
            .unwrap_or_else(PoisonError::into_inner)
            .clear();
        Ok(count)
    }

    /// Throws away the draft of a folder's site without reading it: the way out when a draft can't
    /// be read.
    ///
    /// # Errors
    /// Where the draft file can't be removed.
    pub fn drop_draft_of(folder: &Path) -> Result<(), SiteError> {
        let real = folder.canonicalize().unwrap_or_else(|_| folder.to_owned());
        store::remove_draft(root_above(&real).unwrap_or(&real))?;
        Ok(())
    }
}

/// `change 3`, `changes 3 and 4`.
fn numbered(ids: &[u32]) -> String {
    let shown: Vec<String> = ids.iter().map(u32::to_string).collect();
    match shown.len() {
        1 => format!("change {}", shown[0]),
        _ => format!("changes {}", shown.join(" and ")),
    }
}

enum LoadOrDraft {
    Load(LoadError),
    Draft(SiteError),
}

impl From<LoadError> for LoadOrDraft {
    fn from(error: LoadError) -> Self {
        LoadOrDraft::Load(error)
    }
}

fn root_above(folder: &Path) -> Option<&Path> {
    folder.ancestors().find(|f| f.join(CONFIG_FILE).is_file())
}

fn site_name(path: &Path, root: &Path) -> String {
    let relative = path.strip_prefix(root).unwrap_or(path);
    let parts = relative.components().filter_map(|c| match c {
        Component::Normal(part) => Some(part.to_string_lossy()),
        _ => None,
    });
    parts.collect::<Vec<_>>().join("/")
}

/// The names in the site of URLs that a file names; those of other servers are left out.
fn resolved(urls: Vec<String>, from: &str, base: Option<&str>) -> Vec<String> {
    let names = urls.iter().filter_map(|url| {
        resolve(&Request {
            url,
            from,
            base,
            encoding: encoding_rs::UTF_8,
        })
        .ok()
    });
    names.collect()
}

/// The name of the file that a URL means, by the URL standard: as a browser would ask a server
/// whose root is the site's root.
fn resolve(request: &Request<'_>) -> Result<String, LoadError> {
    let here = Url::parse("http://site.invalid/").map_err(|_| LoadError::Remote)?;
    let mut base = here.join(request.from).map_err(|_| LoadError::Remote)?;
    if let Some(href) = request.base {
        base = base.join(href).map_err(|_| LoadError::Remote)?;
    }
    let url = base.join(request.url).map_err(|_| LoadError::Remote)?;
    if url.origin() != here.origin() {
        return Err(LoadError::Remote);
    }
    let path = percent_decode_str(url.path()).decode_utf8_lossy();
    Ok(path.trim_start_matches('/').to_owned())
}

fn read_config(path: &Path) -> Result<Config, SiteError> {
    let text = match std::fs::read_to_string(path) {
        Ok(text) => text,
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => {
            return Ok(Config {
                fingerpost: CONFIG_VERSION,
                name: None,
            });
        }
        Err(source) => {
            return Err(SiteError::Unreadable {
                path: path.to_owned(),
                source,
            });
        }
    };
    let config: Config = toml::from_str(&text).map_err(|error| SiteError::Config {
        path: path.to_owned(),
        line: error.span().map_or(1, |span| {
            text[..span.start.min(text.len())].matches('\n').count() + 1
        }),
        message: error.message().to_owned(),
    })?;
    if config.fingerpost != CONFIG_VERSION {
        return Err(SiteError::Config {
            path: path.to_owned(),
            line: 1,
            message: format!(
                "it is of version {}, and this program reads version {CONFIG_VERSION}; expected \
                 fingerpost = {CONFIG_VERSION}",
                config.fingerpost
            ),
        });
    }
    Ok(config)
}

fn read_draft(path: &Path) -> Result<Draft, SiteError> {
    match std::fs::read_to_string(path) {
        Ok(json) => Draft::from_json(&json).map_err(|source| SiteError::Draft {
            path: path.to_owned(),
            source,
        }),
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => Ok(Draft::default()),
        Err(source) => Err(SiteError::Unreadable {
            path: path.to_owned(),
            source,
        }),
    }
}
