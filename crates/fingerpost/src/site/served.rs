//! Pages that a server makes: what a URL means, and which folder serves which path.
//!
//! The core speaks no protocol: whoever opens a site of URLs says how they are fetched
//! ([`Site::set_fetch`]).

use std::path::{Path, PathBuf};
use std::sync::{Arc, PoisonError};

use percent_encoding::percent_decode_str;
use url::Url;

use super::urls::{NOWHERE, in_url};
use super::{Site, SiteError};
use crate::page::{LoadError, Request};
use crate::text::{DecodeHint, SitePath, Text, is_url};

/// What a server answered.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct Fetched {
    /// The URL that answered, after redirections.
    pub url: String,
    /// The body.
    pub bytes: Vec<u8>,
    /// The charset that the answer's content type names.
    pub charset: Option<String>,
}

impl Fetched {
    /// What a server sent for a URL.
    pub fn new(url: &str, bytes: Vec<u8>, charset: Option<&str>) -> Fetched {
        Fetched {
            url: url.to_owned(),
            bytes,
            charset: charset.map(str::to_owned),
        }
    }
}

/// Asks a server for a URL; an error is a sentence for people.
pub struct Fetch(pub FetchFunction);

/// A function that asks a server.
pub type FetchFunction = Box<dyn Fn(&str) -> Result<Fetched, String> + Send + Sync>;

impl std::fmt::Debug for Fetch {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str("Fetch")
    }
}

/// What a server answered, as text. A sheet that was redirected is named by where it was found, which its own URLs start from;
/// a page has the name that it was asked for by.
fn decoded(url: &str, answer: Fetched, hint: DecodeHint) -> Result<Arc<Text>, SiteError> {
    let known = answer.charset.as_deref();
    let charset = known.and_then(|c| encoding_rs::Encoding::for_label(c.as_bytes()));
    let (name, hint) = match (hint, charset) {
        (DecodeHint::Css(_), Some(charset)) => (&*answer.url, DecodeHint::Css(charset)),
        (DecodeHint::Css(_), None) => (&*answer.url, hint),
        _ => (url, hint),
    };
    Text::decode(name, answer.bytes, hint).map_err(|error| SiteError::Unfetchable {
        url: url.to_owned(),
        reason: error.to_string(),
    })
}

impl Site {
    /// Says how URLs are fetched. Without it nothing is.
    pub fn set_fetch(&mut self, fetch: Fetch) {
        self.fetch = Some(Arc::new(fetch));
    }

    pub(super) fn fetched(&self, url: &str, hint: DecodeHint) -> Result<Arc<Text>, SiteError> {
        let unfetchable = |reason: String| SiteError::Unfetchable {
            url: url.to_owned(),
            reason,
        };
        // While an edit of the page is tried, the page is what it was then. It is never fetched because
        // a draft says so.
        if let Some(base) = self.draft.base(url) {
            return super::keep::kept_base(&self.root, url, base);
        }
        let fetch = self
            .fetch
            .as_ref()
            .ok_or_else(|| unfetchable("nothing is fetched from the network here".to_owned()))?;
        let answer = (fetch.0)(url).map_err(unfetchable)?;
        decoded(url, answer, hint)
    }

    /// The URL of the page that a server answers a URL with, after redirects: the name under which the site knows the
    /// page from then on. What the answer holds is kept, so that the page is not asked for again.
    ///
    /// # Errors
    /// Where the server does not answer.
    pub fn page_url(&self, url: &str) -> Result<String, SiteError> {
        // While a change of the page is in the draft, the page is what it was when that was tried.
        if self.draft.base(url).is_some() {
            return Ok(url.to_owned());
        }
        let answer = self.fetch(url).map_err(|reason| SiteError::Unfetchable {
            url: url.to_owned(),
            reason,
        })?;
        let page = answer.url.clone();
        self.take_answer(&page, answer)?;
        Ok(page)
    }

    /// Takes what a server answers a URL with now in the place of what it answered before, as a browser does when it loads
    /// a page again. Whether that differs. A page that the draft changes stays what it was when the change was tried.
    ///
    /// # Errors
    /// Where the answer is not text.
    pub fn take_answer(&self, url: &str, answer: Fetched) -> Result<bool, SiteError> {
        if self.draft.base(url).is_some() {
            return Ok(false);
        }
        let text = decoded(url, answer, self.hint(url))?;
        let mut texts = self.texts.lock().unwrap_or_else(PoisonError::into_inner);
        if (texts.get(url)).is_some_and(|known| known.source() == text.source()) {
            return Ok(false);
        }
        texts.insert(url.to_owned(), text);
        drop(texts);
        self.pages.outdate();
        Ok(true)
    }

    /// The name in the site of what a URL in a page or sheet means, by the URL standard: of a page that is a file, as a
    /// browser would ask a server whose root is the site's root; else that of the file that a mount
    /// serves there, or the URL itself.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    /// use fingerpost::site::View;
    ///
    /// let site = View::in_memory([Text::new("fingerpost.toml", "fingerpost = 2\n")])?;
    /// let request = Request::new("../css/a.css?v=2", "pages/a.html");
    /// assert_eq!(site.resolve(&request)?, "css/a.css");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where the URL is none, or leads to a server that is not asked.
    pub fn resolve(&self, request: &Request<'_>) -> Result<String, LoadError> {
        let remote = |_| LoadError::Remote;
        let mut base = self.served_url(request.from)?;
        if let Some(href) = request.base {
            base = base.join(href).map_err(remote)?;
        }
        let url = base.join(request.url).map_err(remote)?;
        if let Some(file) = self.mounted(&url) {
            return Ok(file);
        }
        if url.origin() == Url::parse(NOWHERE).map_err(remote)?.origin() {
            let path = percent_decode_str(url.path()).decode_utf8_lossy();
            // Doubled slashes mean nothing to a server of files. What is not in the site keeps its name,
            // and is refused where it is opened.
            let path = path.trim_start_matches('/');
            return Ok(SitePath::new(path).map_or(path.to_owned(), String::from));
        }
        match (&self.fetch, is_url(request.from)) {
            (Some(_), true) => Ok(url.to_string()),
            _ => Err(LoadError::Remote),
        }
    }

    /// The names of several URLs of a file; those that are none of the site's are left out.
    pub(super) fn names_of(
        &self,
        urls: Vec<String>,
        from: &str,
        base: Option<&str>,
    ) -> Vec<String> {
        let names = urls.iter().filter_map(|url| {
            self.resolve(&Request {
                url,
                from,
                base,
                encoding: encoding_rs::UTF_8,
            })
            .ok()
        });
        names.collect()
    }

    /// The URL under which a file of the site is served.
    pub(super) fn served_url(&self, name: &str) -> Result<Url, LoadError> {
        let remote = |_| LoadError::Remote;
        if is_url(name) {
            return Url::parse(name).map_err(remote);
        }
        let mut url = Url::parse(NOWHERE).map_err(remote)?;
        for mount in &self.config.mount {
            if let Some(rest) = mount.dir.rest(name)
                && !is_url(&mount.url)
            {
                let path = mount.url.trim_matches('/');
                let path = match path {
                    "" => in_url(rest),
                    path => format!("{path}/{}", in_url(rest)),
                };
                url.set_path(&path);
                return Ok(url);
            }
        }
        url.set_path(&in_url(name));
        Ok(url)
    }

    /// The file that a mount serves under a URL.
    pub(super) fn mounted(&self, url: &Url) -> Option<String> {
        self.config.mount.iter().find_map(|mount| {
            let whole = url.as_str().split(['?', '#']).next()?;
            let rest = if is_url(&mount.url) {
                whole.strip_prefix(mount.url.trim_end_matches('/'))?
            } else {
                match mount.url.trim_matches('/') {
                    // The whole server.
                    "" => url.path(),
                    path => url.path().strip_prefix(&format!("/{path}"))?,
                }
            };
            let rest = percent_decode_str(rest.strip_prefix('/')?).decode_utf8_lossy();
            let file = mount.dir.file(&rest).ok()?;
            self.has_file(&file).then(|| file.to_string())
        })
    }

    /// Whether there is a file of that name: on disk, in an editor, or made by the draft.
    pub(super) fn has_file(&self, file: &SitePath) -> bool {
        let on_disk = || self.root.real(file).is_ok_and(|there| there.is_file());
        // A file is empty if the edit that made it was undone.
        let drafted = || {
            let is_drafted = self.draft.files().any(|name| name == file.as_str());
            let drafted = is_drafted.then(|| self.drafted().ok()).flatten();
            drafted.is_some_and(|drafted| {
                let text = drafted.texts.get(file.as_str());
                text.is_some_and(|text| !text.source().is_empty())
            })
        };
        self.buffers.contains(file.as_str()) || on_disk() || drafted()
    }
}

impl Site {
    /// Opens the site of a folder for pages that are URLs. [`Site::set_fetch`] says how they are fetched.
    ///
    /// # Errors
    /// Where the configuration or the draft can't be read.
    pub fn of_url(folder: &Path) -> Result<Site, SiteError> {
        Site::open(super::root_of::of_folder_or_itself(folder)?)
    }

    /// Where a file of the site is that only its own programs read, such as one with headers for a preview: a hidden one may be
    /// named, one outside the root may not.
    ///
    /// # Errors
    /// Where it is not there, or lies outside.
    pub fn private_file(&self, name: &str) -> Result<PathBuf, SiteError> {
        let real = |path: PathBuf| {
            let found = path.canonicalize();
            found.map_err(|source| SiteError::Unreadable { path, source })
        };
        let path = self.root().join(name);
        let to = real(path.clone())?;
        match to.starts_with(real(self.root().to_owned())?) {
            true => Ok(to),
            false => Err(SiteError::Outside { path, to }),
        }
    }
}
