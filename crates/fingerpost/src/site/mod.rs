//! The theme on disk: its root and configuration, its pages, the draft over them, and saving.
//!
//! The root of a site is the nearest folder upwards that holds `fingerpost.toml`, else the page's
//! own folder. Nothing outside it is read or written: a file has a [`SitePath`], and is
//! opened only where no link leads out (`root.rs`). Every answer is given over the sources as the draft leaves them:
//! what was tried is seen at once, and saving changes no answer.
//!
//! ```
//! use fingerpost::prelude::*;
//!
//! let folder = tempfile::tempdir()?;
//! std::fs::write(folder.path().join("fingerpost.toml"), "fingerpost = 2\n")?;
//! std::fs::write(folder.path().join("a.html"), "<style>p { color: teal }</style><p>Boats")?;
//! let mut site = Site::of_folder(folder.path())?;
//!
//! let mut session = site.session()?;
//! session.edit("a.html", "p", Change::set("color", "navy"))?;
//! assert_eq!(session.site().changes()?.len(), 1);
//! session.save_all()?;
//! let saved = std::fs::read_to_string(folder.path().join("a.html"))?;
//! assert_eq!(saved, "<style>p { color: navy }</style><p>Boats");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

// What is read here was written by anybody: nothing is cut or indexed without a look.
#![cfg_attr(not(test), deny(clippy::indexing_slicing, clippy::string_slice))]

mod changing;
mod config;
mod contents;
mod error;
#[cfg(test)]
mod faults;
mod history;
mod journal;
mod keep;
mod lock;
mod making;
mod maps;
mod open;
mod recent;
mod recovery;
mod roles;
mod root;
mod root_of;
mod served;
mod state;
mod store;
mod store_error;
mod templates;
mod urls;
mod view;
mod writing;

use std::collections::{BTreeSet, HashMap};
use std::path::{Component, Path, PathBuf};
use std::sync::{Arc, Mutex, PoisonError};

use crate::draft::{Bases, Draft, DraftError, Drafted};
use crate::environment::Environment;
use crate::markup::Document;
use crate::page::{LoadError, Page, Request, asked_for};
use crate::text::{DecodeHint, SitePath, Text};
use config::read_config;
use lock::Lock;
pub(crate) use recent::LastChange;
use recent::RecentPages;
use root::Root;

pub use crate::text::is_url;
pub use config::{CONFIG_FILE, CONFIG_VERSION, Config, Folder, Mount, Role};
pub use error::SiteError;
pub use history::AskedBefore;
pub use keep::{DRAFT_FILE, STATE_FOLDER};
pub use served::{Fetch, FetchFunction, Fetched};
pub use store_error::StoreError;
pub(crate) use templates::{TEMPLATE_FOLDERS, template_endings};
pub use view::View;
pub use writing::{ChangedFile, Selection};

/// What a file is by its ending, where that is never a page: anything else may be a template of one.
fn never_a_page(file: &str) -> Option<&'static str> {
    let path = file.split(['?', '#']).next()?;
    let ending = path.rsplit_once('.')?.1.to_ascii_lowercase();
    Some(match &*ending {
        "css" => "a stylesheet",
        "scss" | "sass" | "less" | "styl" => "a source of stylesheets",
        "js" | "mjs" | "cjs" | "ts" => "a script",
        "json" | "toml" | "yaml" | "yml" | "map" => "data",
        "png" | "jpg" | "jpeg" | "gif" | "webp" | "avif" | "svg" | "ico" => "an image",
        "woff" | "woff2" | "ttf" | "otf" => "a font",
        "md" | "txt" => "a text",
        _ => return None,
    })
}

/// What the names of pages end in.
pub(crate) const PAGE_ENDINGS: [&str; 3] = ["html", "htm", "xhtml"];

/// The first page that lies in a folder itself, by name.
fn first_page_in(folder: &Path) -> Option<PathBuf> {
    let entries = std::fs::read_dir(folder).ok()?;
    let paths = entries.filter_map(|entry| Some(entry.ok()?.path()));
    let pages = paths.filter(|path| {
        let ending = path.extension().and_then(|ending| ending.to_str());
        ending.is_some_and(|ending| PAGE_ENDINGS.contains(&ending)) && path.is_file()
    });
    pages.min()
}

/// How often the draft is read again when a save writes it meanwhile.
const MOST_READS: usize = 100;

/// A theme on disk.
#[derive(Debug)]
pub struct Site {
    root: Root,
    config: Config,
    /// Whether nothing says that the root is one.
    guessed: bool,
    /// Why an interrupted save can't be finished. Questions are answered all the same.
    interrupted: Option<SiteError>,
    /// The draft over the files as they are on disk now.
    draft: Arc<Draft>,
    /// The draft as its file has it.
    kept: Arc<Draft>,
    /// The files that changed on disk since the draft was made.
    carried: Vec<String>,
    user_sheet: Option<Arc<Text>>,
    /// What asks servers for pages, where pages may be URLs.
    fetch: Option<Arc<Fetch>>,
    /// The lock on the draft, while it is held.
    lock: Option<Lock>,
    /// Files as they are on disk, by name.
    texts: Mutex<HashMap<String, Arc<Text>>>,
    /// The files of which an editor holds other texts, which are among `texts`.
    buffers: BTreeSet<String>,
    /// The files of the draft as it leaves them.
    drafted: Mutex<Option<Arc<Drafted>>>,
    /// What is known of what the files are.
    roles: roles::KnownRoles,
    /// The pages that were read last.
    pages: RecentPages,
    /// The last change, while nothing else has happened to the draft.
    pub(crate) last: Option<LastChange>,
}

impl Site {
    /// Opens the site that a page belongs to, and gives the page's name in it.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// # let folder = tempfile::tempdir()?;
    /// # let write = |name: &str, text: &str| std::fs::write(folder.path().join(name), text);
    /// # write("fingerpost.toml", "fingerpost = 2\n")?;
    /// # write("a.css", "p { color: teal }\n")?;
    /// # write("a.html", "<link rel=stylesheet href=a.css><p>Boats")?;
    /// // a.css: p { color: teal }
    /// // a.html: <link rel=stylesheet href=a.css><p>Boats
    /// let (site, page) = Site::of_page(&folder.path().join("a.html"))?;
    /// assert_eq!(page, "a.html");
    /// assert!(!site.is_guessed());
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where the page, the configuration or the draft can't be read.
    pub fn of_page(page: &Path) -> Result<(Site, String), SiteError> {
        let root_of::Located {
            root,
            name,
            guessed,
        } = root_of::of_page(page)?;
        let real = root.real(&name)?;
        match std::fs::metadata(&real) {
            Ok(found) if found.is_dir() => {
                return Err(SiteError::Folder {
                    path: page.to_owned(),
                    first_page: first_page_in(page),
                });
            }
            Ok(_) => {}
            Err(error) if error.kind() == std::io::ErrorKind::NotFound => {
                return Err(SiteError::NoSuchPage {
                    path: page.to_owned(),
                });
            }
            Err(error) => return Err(root::unreadable(page)(error)),
        }
        let mut site = Site::open(root)?;
        site.guessed = guessed;
        Ok((site, name.to_string()))
    }

    /// Opens the site that a folder belongs to.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// # let folder = tempfile::tempdir()?;
    /// # let write = |name: &str, text: &str| std::fs::write(folder.path().join(name), text);
    /// # write("fingerpost.toml", "fingerpost = 2\n")?;
    /// # write("a.css", "p { color: teal }\n")?;
    /// # write("a.html", "<link rel=stylesheet href=a.css><p>Boats")?;
    /// // a.css: p { color: teal }
    /// // a.html: <link rel=stylesheet href=a.css><p>Boats
    /// let site = Site::of_folder(folder.path())?;
    /// assert_eq!(site.pages(), ["a.html"]);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where the configuration or the draft can't be read.
    pub fn of_folder(folder: &Path) -> Result<Site, SiteError> {
        let (root, guessed) = root_of::of_folder(folder)?;
        let mut site = Site::open(root)?;
        site.guessed = guessed;
        Ok(site)
    }

    /// Opens a folder as a site's root, though nothing may say that it is one.
    ///
    /// # Errors
    /// Where the folder, its configuration or its draft can't be read.
    pub fn at(folder: &Path) -> Result<Site, SiteError> {
        Site::open(Root::new(folder)?)
    }

    fn open(root: Root) -> Result<Site, SiteError> {
        let config = read_config(&root)?;
        let mut site = Site::empty(root, config);
        site.reload()?;
        Ok(site)
    }

    /// A site of which nothing is read yet.
    fn empty(root: Root, config: Config) -> Site {
        Site {
            config,
            root,
            guessed: false,
            interrupted: None,
            draft: Arc::default(),
            kept: Arc::default(),
            carried: Vec::new(),
            user_sheet: None,
            fetch: None,
            lock: None,
            texts: Mutex::default(),
            buffers: BTreeSet::new(),
            drafted: Mutex::default(),
            roles: roles::KnownRoles::default(),
            pages: RecentPages::default(),
            last: None,
        }
    }

    /// Reads the draft and the files that it is about, as they were at one moment: what a save writes
    /// meanwhile is waited for and read again.
    fn reload(&mut self) -> Result<(), SiteError> {
        for _ in 0..MOST_READS {
            self.interrupted = journal::finish(&self.root).err();
            self.forget();
            let json = keep::draft_json(&self.root);
            let read = keep::read_draft(&self.root).and_then(|draft| self.rebase(Arc::new(draft)));
            let read = match read {
                // The folder is not the program's own: asking goes on without it.
                Err(error @ SiteError::State { .. }) => {
                    self.interrupted.get_or_insert(error);
                    self.rebase(Arc::default())
                }
                read => read,
            };
            let at_work = self.interrupted.is_none()
                && state::has(&self.root, journal::JOURNAL_FILE).unwrap_or(false);
            let unchanged = match (json, keep::draft_json(&self.root)) {
                (Ok(before), Ok(after)) => before == after,
                _ => true,
            };
            if unchanged && !at_work {
                return read;
            }
        }
        Err(SiteError::Overtaken {
            path: self.root.path().join(DRAFT_FILE),
        })
    }

    /// Whether nothing says where the site's root is, and it was worked out from what the page links.
    pub fn is_guessed(&self) -> bool {
        self.guessed
    }

    /// Why an interrupted save can't be finished, where there is one: what is on disk may be half
    /// of it.
    pub fn interrupted(&self) -> Option<&SiteError> {
        self.interrupted.as_ref()
    }

    /// The site's root folder.
    pub fn root(&self) -> &Path {
        self.root.path()
    }

    /// What `fingerpost.toml` says.
    pub fn config(&self) -> &Config {
        &self.config
    }

    /// What is tried and not yet saved.
    pub fn draft(&self) -> &Draft {
        &self.draft
    }

    /// The draft, to be kept or changed apart.
    pub(crate) fn shared_draft(&self) -> Arc<Draft> {
        self.draft.clone()
    }

    /// Adds a user style sheet, of the user origin, to every page. It may lie anywhere.
    ///
    /// # Errors
    /// Where it can't be read.
    pub fn set_user_sheet(&mut self, path: &Path) -> Result<(), SiteError> {
        let bytes = root::read_file(path, path)?;
        self.set_user_sheet_bytes(path, bytes)
    }

    /// The same with what was read from elsewhere; `path` is what answers call it.
    ///
    /// # Errors
    /// Where it is not text.
    pub fn set_user_sheet_bytes(&mut self, path: &Path, bytes: Vec<u8>) -> Result<(), SiteError> {
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
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// # let folder = tempfile::tempdir()?;
    /// # let write = |name: &str, text: &str| std::fs::write(folder.path().join(name), text);
    /// # write("fingerpost.toml", "fingerpost = 2\n")?;
    /// # write("a.css", "p { color: teal }\n")?;
    /// # write("a.html", "<link rel=stylesheet href=a.css><p>Boats")?;
    /// // a.css: p { color: teal }
    /// // a.html: <link rel=stylesheet href=a.css><p>Boats
    /// let site = Site::of_folder(folder.path())?;
    /// let page = site.page("a.html", Environment::default())?;
    /// assert!(page.sheets().last().unwrap().is_linked());
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where the page can't be read, or the draft was based on other bytes. Sheets that don't load
    /// are no error: [`Page::failures`] lists them.
    pub fn page(&self, name: &str, environment: Environment) -> Result<Page, SiteError> {
        self.page_after(None, name, environment)
    }

    /// A page that was read before, as the draft leaves it now: what has not changed is taken from
    /// the page before, so that the answer after a small edit comes much sooner.
    ///
    /// # Errors
    /// As [`Site::page`].
    pub fn reparse_page(&self, before: &Page) -> Result<Page, SiteError> {
        let name = before.document().text().name();
        self.page_after(Some(before), name, before.environment().clone())
    }

    pub(crate) fn page_after(
        &self,
        before: Option<&Page>,
        name: &str,
        environment: Environment,
    ) -> Result<Page, SiteError> {
        if let Some(kind) = never_a_page(name) {
            return Err(SiteError::NotAPage {
                file: name.to_owned(),
                kind,
                page: self.page_that_links(name),
            });
        }
        let text = self.text(name, DecodeHint::Html)?;
        self.page_of_text(before, text, environment)
    }

    /// A page that links a file; the first of the site where none does.
    fn page_that_links(&self, file: &str) -> Option<String> {
        let links = |document: &Document| {
            let (urls, base) = asked_for(document);
            self.names_of(urls, document.text().name(), base)
                .iter()
                .any(|name| name == file)
        };
        let found = self.documents().into_iter().find(links);
        let name = found.map(|document| document.text().name().to_owned());
        name.or_else(|| self.pages().into_iter().next())
    }

    fn page_of_text(
        &self,
        before: Option<&Page>,
        text: Arc<Text>,
        environment: Environment,
    ) -> Result<Page, SiteError> {
        let mut failed = None;
        let reader = self.user_sheet.clone();
        let mut load = |request: &Request<'_>| {
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
        };
        let page = match before {
            Some(before) => Page::builder(text)
                .after(before)
                .user_sheet(reader)
                .environment(environment)
                .loader(&mut load)
                .build(),
            None => Page::builder(text)
                .user_sheet(reader)
                .environment(environment)
                .loader(&mut load)
                .build(),
        };
        match failed {
            Some(error) => Err(error),
            None => Ok(page),
        }
    }

    /// A file of the site as the draft leaves it.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    /// use fingerpost::text::DecodeHint;
    ///
    /// # let folder = tempfile::tempdir()?;
    /// # let write = |name: &str, text: &str| std::fs::write(folder.path().join(name), text);
    /// # write("fingerpost.toml", "fingerpost = 2\n")?;
    /// # write("a.css", "p { color: teal }\n")?;
    /// # write("a.html", "<link rel=stylesheet href=a.css><p>Boats")?;
    /// // a.css: p { color: teal }
    /// // a.html: <link rel=stylesheet href=a.css><p>Boats
    /// let site = Site::of_folder(folder.path())?;
    /// let sheet = site.text("a.css", DecodeHint::utf8_sheet())?;
    /// assert_eq!(sheet.source(), "p { color: teal }\n");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where it can't be read, is not text, or the draft was based on other bytes.
    pub fn text(&self, name: &str, hint: DecodeHint) -> Result<Arc<Text>, SiteError> {
        if self.draft.files().any(|file| file == name)
            && let Some(text) = self.drafted()?.texts.get(name)
        {
            return Ok(text.clone());
        }
        self.base_text(name, hint)
    }

    /// The files of the draft as they are on disk.
    pub(crate) fn bases(&self) -> Result<Bases, SiteError> {
        let files = self.draft.files();
        let texts = files.map(|file| Ok((file.to_owned(), self.base_text(file, self.hint(file))?)));
        texts.collect()
    }

    pub(crate) fn drafted(&self) -> Result<Arc<Drafted>, SiteError> {
        let mut known = self.drafted.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(drafted) = &*known {
            return Ok(drafted.clone());
        }
        let drafted = self.draft.replay(&self.bases()?);
        let drafted = Arc::new(drafted.map_err(|source| self.draft_error(source))?);
        *known = Some(drafted.clone());
        Ok(drafted)
    }

    /// Forgets what was read and worked out: what is on disk now is what counts.
    fn forget(&self) {
        let poisoned = PoisonError::into_inner;
        self.texts.lock().unwrap_or_else(poisoned).clear();
        self.forget_drafted();
    }

    fn forget_drafted(&self) {
        self.pages.outdate();
        *self.drafted.lock().unwrap_or_else(PoisonError::into_inner) = None;
    }

    pub(crate) fn draft_error(&self, source: DraftError) -> SiteError {
        SiteError::Draft {
            path: self.root.path().join(DRAFT_FILE),
            source,
        }
    }

    /// The edits that are on and have lost their place, by their numbers.
    ///
    /// # Errors
    /// Where a file can't be read, or is not what the draft was based on.
    pub fn not_applied(&self) -> Result<Vec<u32>, SiteError> {
        Ok(self.drafted()?.not_applied.clone())
    }

    /// A file of the site as it is on disk.
    fn base_text(&self, name: &str, hint: DecodeHint) -> Result<Arc<Text>, SiteError> {
        let mut texts = self.texts.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(text) = texts.get(name) {
            return Ok(text.clone());
        }
        if is_url(name) {
            let text = self.fetched(name, hint)?;
            texts.insert(name.to_owned(), text.clone());
            return Ok(text);
        }
        let name = SitePath::new(name)?;
        let bytes = match self.root.read(&name) {
            Ok(bytes) => bytes,
            // A file that the draft makes is empty until it is saved.
            Err(SiteError::Unreadable { source, .. })
                if source.kind() == std::io::ErrorKind::NotFound
                    && self
                        .draft
                        .base(name.as_str())
                        .is_some_and(|base| base.bytes == 0) =>
            {
                Vec::new()
            }
            Err(error) => return Err(error),
        };
        let text =
            Text::decode(name.as_str(), bytes, hint).map_err(|source| SiteError::NotText {
                path: self.root.shown(&name),
                source,
            })?;
        texts.insert(name.into(), text.clone());
        Ok(text)
    }

    fn load(&self, request: &Request<'_>) -> Result<Arc<Text>, LoadOrDraft> {
        let name = self.resolve(request)?;
        if is_url(&name) {
            return match self.text(&name, DecodeHint::Css(request.encoding)) {
                Ok(text) => Ok(text),
                Err(error @ SiteError::Draft { .. }) => Err(LoadOrDraft::Draft(error)),
                Err(error) => Err(LoadError::Unreadable {
                    file: name,
                    reason: error.to_string(),
                }
                .into()),
            };
        }
        let outside = || LoadError::Outside { file: name.clone() };
        let path = SitePath::new(&name).map_err(|_| outside())?;
        let hint = DecodeHint::Css(request.encoding);
        let unreadable = |reason: String| LoadError::Unreadable {
            file: name.clone(),
            reason,
        };
        match self.text(path.as_str(), hint) {
            Ok(text) => {
                self.read_map(&text);
                Ok(text)
            }
            Err(error @ SiteError::Draft { .. }) => Err(LoadOrDraft::Draft(error)),
            Err(SiteError::Outside { .. }) => Err(outside().into()),
            Err(SiteError::NotAFile { kind, .. }) => {
                Err(unreadable(format!("it is {kind}")).into())
            }
            Err(SiteError::Unreadable { source, .. }) => match source.kind() {
                std::io::ErrorKind::NotFound if self.is_above(request) => Err(LoadError::Outside {
                    file: request.url.to_owned(),
                }
                .into()),
                std::io::ErrorKind::NotFound => Err(LoadError::Missing { file: name }.into()),
                _ => Err(unreadable(source.to_string()).into()),
            },
            Err(error) => Err(unreadable(error.to_string()).into()),
        }
    }

    /// Whether a URL leads upwards out of the root, to where a file is: a server would not go there, but
    /// whoever wrote the link meant that file. Only that it is there is looked at.
    fn is_above(&self, request: &Request<'_>) -> bool {
        let path = request.url.split(['?', '#']).next().unwrap_or_default();
        let from = SitePath::new(request.from).map(|from| self.root.shown(&from));
        let above = from.ok().and_then(|from| Some(from.parent()?.join(path)));
        !self.root.is_nowhere()
            && path.starts_with("..")
            && request.base.is_none()
            && above.is_some_and(|file| file.is_file())
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

fn site_name(path: &Path, root: &Path) -> String {
    let relative = path.strip_prefix(root).unwrap_or(path);
    let parts = relative.components().filter_map(|c| match c {
        Component::Normal(part) => Some(part.to_string_lossy()),
        _ => None,
    });
    parts.collect::<Vec<_>>().join("/")
}

/// The bytes of a file that a person names, which may lie anywhere.
///
/// # Errors
/// Where it can't be read, is not a file, or is too large for a source text.
pub fn read_file(path: &Path) -> Result<Vec<u8>, SiteError> {
    root::read_file(path, path)
}

/// How a file is decoded that was read in an encoding before: a sheet in that one, a page as its own
/// declarations say.
fn hint_of(file: &str, encoding: &'static encoding_rs::Encoding) -> DecodeHint {
    let extension = Path::new(file).extension().and_then(|e| e.to_str());
    let is_sheet = ["css", "scss", "less", "map"];
    match extension {
        Some(e) if is_sheet.iter().any(|s| e.eq_ignore_ascii_case(s)) => DecodeHint::Css(encoding),
        _ => DecodeHint::Html,
    }
}
