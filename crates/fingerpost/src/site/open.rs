//! A site that stays open while other programs work on it: for servers, which answer many questions and
//! make an edit now and then.
//!
//! The command opens a site for each question. A server keeps one, opens a session for each change, and reads what
//! others changed with [`Site::refresh`].

use std::sync::Arc;

use url::Url;

use super::served::Fetched;
use super::urls::NOWHERE;
use super::{Site, SiteError};
use crate::environment::Environment;
use crate::page::{Page, Request};
use crate::text::{SitePath, Text, is_url};

impl Site {
    /// Reads the configuration, the draft and the files again. The draft is carried over to files that
    /// changed; what no longer fits is a conflict, with its reason.
    ///
    /// # Errors
    /// Where the configuration or the draft can't be read; the site is then as it was.
    pub fn refresh(&mut self) -> Result<(), SiteError> {
        let config = super::read_config(&self.root)?;
        self.reload()?;
        self.config = config;
        Ok(())
    }

    /// A page that was read before, in another environment.
    ///
    /// # Errors
    /// As [`Site::page`].
    pub fn page_under(&self, before: &Page, environment: Environment) -> Result<Page, SiteError> {
        let name = before.document().text().name();
        self.page_after(Some(before), name, environment)
    }

    /// A page of this markup, which need not be on disk, with the site's sheets: what a browser shows
    /// after its scripts ran, for example. URLs count from the text's name.
    ///
    /// # Errors
    /// Where the draft was based on other bytes.
    pub fn page_showing(
        &self,
        text: Arc<Text>,
        environment: Environment,
    ) -> Result<Page, SiteError> {
        self.page_of_text(None, text, environment)
    }

    /// A file of the site as the draft leaves it, read as what its name says it is.
    ///
    /// # Errors
    /// As [`Site::text`].
    pub fn file_text(&self, file: &str) -> Result<Arc<Text>, SiteError> {
        self.text(file, self.hint(file))
    }

    /// A file of the site as it is on disk.
    ///
    /// # Errors
    /// Where it can't be read, or is not text.
    pub fn base(&self, file: &str) -> Result<Arc<Text>, SiteError> {
        self.base_text(file, self.hint(file))
    }

    /// The bytes of a file of the site as it is on disk.
    ///
    /// # Errors
    /// Where it can't be read, or lies outside of the root, through a link too.
    pub fn bytes(&self, file: &SitePath) -> Result<Vec<u8>, SiteError> {
        self.root.read(file)
    }

    /// What the site's server answers a URL with, where pages are URLs. It is not remembered.
    ///
    /// # Errors
    /// A sentence, where nothing is fetched or the server does not answer.
    pub fn fetch(&self, url: &str) -> Result<Fetched, String> {
        match &self.fetch {
            Some(fetch) => (fetch.0)(url),
            None => Err("nothing is fetched from the network here".to_owned()),
        }
    }

    /// The path of the URL under which a file of the site is served, such as `/pages/home.html`; of a
    /// page that is a URL, its own path.
    pub fn url_path(&self, file: &str) -> String {
        match self.served_url(file) {
            Ok(url) => match url.query() {
                Some(query) => format!("{}?{query}", url.path()),
                None => url.path().to_owned(),
            },
            Err(_) => format!("/{file}"),
        }
    }

    /// The file of the site that a server would answer the path of a URL with: that of a mount, or the
    /// one that lies there; for a folder its `index.html`. None where no file lies there.
    pub fn file_of_url_path(&self, path: &str) -> Option<SitePath> {
        let mut url = Url::parse(NOWHERE).ok()?;
        url.set_path(path);
        if let Some(file) = self.mounted(&url) {
            return SitePath::new(&file).ok();
        }
        let request = Request {
            url: url.path(),
            from: "index.html",
            base: None,
            encoding: encoding_rs::UTF_8,
        };
        let name = match url.path() {
            "/" => "index.html".to_owned(),
            _ => self.resolve(&request).ok().filter(|name| !is_url(name))?,
        };
        let file = SitePath::new(name.trim_end_matches('/')).ok()?;
        let real = self.root.real(&file).ok()?;
        if real.is_dir() {
            let index = SitePath::new(&format!("{file}/index.html")).ok()?;
            return self.has_file(&index).then_some(index);
        }
        self.has_file(&file).then_some(file)
    }
}
