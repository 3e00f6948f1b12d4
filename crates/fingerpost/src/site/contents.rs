//! What a site contains: its files, its pages, and what each page loads.

use crate::edit::{Destination, Intent};
use crate::markup::Document;
use crate::page::{asked_for, imported};
use crate::parallel;
use crate::question::inventory::{Inventory, SiteSheet};
use crate::sheet::Sheet;
use crate::text::DecodeHint;
use std::borrow::Cow;
use std::collections::HashMap;

use super::{PAGE_ENDINGS, Site, is_url, site_name};

impl Site {
    /// The names of the site's files with one of these extensions, sorted. What version control
    /// ignores, hidden files and installed packages are left out.
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
    /// assert_eq!(site.files(&["css"]), ["a.css"]);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn files(&self, extensions: &[&str]) -> Vec<String> {
        let of_these = |name: &str| {
            let extension = name.rsplit_once('.').map_or("", |(_, extension)| extension);
            extensions.iter().any(|x| extension.eq_ignore_ascii_case(x))
        };
        let mut names = self.names_on_disk();
        names.extend(self.buffers.iter().cloned());
        names.retain(|name| of_these(name));
        names.sort();
        names.dedup();
        names
    }

    /// The names of all files but those that [`Site::files`] leaves out.
    fn names_on_disk(&self) -> Vec<String> {
        // The whole disk is not a site, nor is a folder that is not there.
        if self.root.path().parent().is_none() {
            return Vec::new();
        }
        let installed = |name: &std::ffi::OsStr| name == "node_modules" || name == "vendor";
        let walk = ignore::WalkBuilder::new(self.root.path())
            .require_git(false)
            .filter_entry(move |entry| !installed(entry.file_name()))
            .build();
        walk.flatten()
            .filter(|entry| entry.file_type().is_some_and(|t| t.is_file()))
            .map(|entry| site_name(entry.path(), self.root.path()))
            .collect()
    }

    /// The names of the site's pages.
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
    /// for name in site.pages() {
    ///     let page = site.page(&name, Environment::default())?;
    ///     assert!(page.failures().is_empty());
    /// }
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn pages(&self) -> Vec<String> {
        self.files(&PAGE_ENDINGS)
    }

    /// The site's pages, parsed, as the draft leaves them. Those that can't be read are left out.
    pub fn documents(&self) -> Vec<Document> {
        let parsed = parallel::map(self.pages(), |page| {
            let text = self.text(&page, DecodeHint::Html).ok()?;
            Some(Document::parse(text))
        });
        parsed.into_iter().flatten().collect()
    }

    /// Every sheet of the site, and the sources that sheets are built from, with the pages that have
    /// each. Files that can't be read are left out.
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
    /// let inventory = site.inventory();
    /// let page = site.page("a.html", Environment::default())?;
    /// // How many elements of the whole site a selector reaches is known beside the inventory.
    /// let answer = page.ask().beside(&inventory).selectors(&["p".into()], false)?;
    /// assert_eq!(answer.candidates[0].site_pages, 1);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn inventory(&self) -> Inventory {
        let mut files = self.files(&["css", "scss", "less"]);
        // What version control leaves out, such as a built sheet, counts all the same where a page links it.
        let linked: Vec<Vec<String>> = parallel::map(self.documents(), |document| {
            let (urls, base) = asked_for(&document);
            self.names_of(urls, document.text().name(), base)
        });
        for name in linked.into_iter().flatten() {
            if !is_url(&name) && !files.contains(&name) {
                files.push(name);
            }
        }
        let sheets = parallel::map(files, |name| {
            let text = self.text(&name, DecodeHint::Css(encoding_rs::UTF_8)).ok()?;
            let span = text.span();
            Some(SiteSheet {
                sheet: Sheet::parse(text.clone(), span),
                text,
                pages: Vec::new(),
            })
        });
        let mut sheets: Vec<SiteSheet> = sheets.into_iter().flatten().collect();
        let imports: HashMap<&str, Vec<String>> = sheets
            .iter()
            .map(|s| {
                (
                    s.text.name(),
                    self.names_of(imported(&s.sheet), s.text.name(), None),
                )
            })
            .collect();
        let of_pages = parallel::map(self.pages(), |page| {
            let document = Document::parse(self.text(&page, DecodeHint::Html).ok()?);
            let (urls, base) = asked_for(&document);
            let mut names = self.names_of(urls, &page, base);
            let mut at = 0;
            while let Some(name) = names.get(at) {
                let inner = imports.get(name.as_str());
                for name in inner.into_iter().flatten() {
                    if !names.contains(name) {
                        names.push(name.clone());
                    }
                }
                at += 1;
            }
            Some((document, names))
        });
        let mut documents = Vec::new();
        for (document, names) in of_pages.into_iter().flatten() {
            for sheet in sheets
                .iter_mut()
                .filter(|s| names.iter().any(|n| n == s.text.name()))
            {
                sheet.pages.push(document.text().name().to_owned());
            }
            documents.push(document);
        }
        Inventory { sheets, documents }
    }

    /// An intent for a place in a sheet, with a page that has the sheet. `known` are the pages found so far, by sheet.
    pub(crate) fn with_page<'i>(
        &self,
        intent: &'i Intent,
        known: &mut HashMap<String, Option<String>>,
    ) -> Cow<'i, Intent> {
        let Destination::Rule(place) = &intent.into else {
            return Cow::Borrowed(intent);
        };
        if !intent.page.is_empty() {
            return Cow::Borrowed(intent);
        }
        let page = known
            .entry(place.file.clone())
            .or_insert_with(|| self.page_that_has(&place.file));
        let mut with_page = intent.clone();
        with_page.page = page.clone().unwrap_or_default();
        Cow::Owned(with_page)
    }

    /// A page that has a sheet, whether it links it or imports it; the first of the site where none does.
    fn page_that_has(&self, sheet: &str) -> Option<String> {
        let inventory = self.inventory();
        let having = inventory.named(sheet).and_then(|found| found.pages.first());
        having.cloned().or_else(|| self.pages().into_iter().next())
    }
}
