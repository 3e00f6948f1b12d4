//! A site as it would be: with only some edits of its draft, or with one more that is written nowhere.

use std::collections::BTreeMap;
use std::ops::Deref;
use std::sync::{Arc, Mutex, PoisonError};

use super::config::read_text;
use super::recent::RecentPages;
use super::root::Root;
use super::{CONFIG_FILE, ChangedFile, Config, Site, SiteError};
use crate::draft::{Draft, DraftEntry};
use crate::edit::Edit;
use crate::text::{Patch, SitePath, Text, is_url};

/// A site that questions can be asked of and that nothing is written through.
#[derive(Debug)]
pub struct View(Site);

impl Deref for View {
    type Target = Site;

    fn deref(&self) -> &Site {
        &self.0
    }
}

impl View {
    /// A site of texts, each with its name in the site as its name. Nothing is read from disk and nothing can be saved; a text
    /// called `fingerpost.toml` is its configuration.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    /// use fingerpost::site::View;
    ///
    /// let site = View::in_memory([
    ///     Text::new("css/a.css", "p { color: teal }"),
    ///     Text::new("a.html", "<link rel=stylesheet href=css/a.css><p>Boats"),
    ///     Text::new("b.html", "<link rel=stylesheet href=css/a.css><p>Fares"),
    /// ])?;
    /// assert_eq!(site.pages(), ["a.html", "b.html"]);
    ///
    /// let before = site.page("a.html", Environment::default())?;
    /// let edit = site.make(&before, &Intent::new("a.html", "p", Change::set("color", "navy")))?;
    /// let sheet = edit.changes[0].patch.apply("p { color: teal }")?;
    /// let after = site.with_buffers([Text::new("css/a.css", sheet)])?;
    /// let page = after.reparse_page(&before)?;
    /// assert_eq!(page.effect(&before).affected[0].changes[0].after, "rgb(0, 0, 128)");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where a name is not that of a file in a site, or the configuration can't be read.
    pub fn in_memory(texts: impl IntoIterator<Item = Arc<Text>>) -> Result<View, SiteError> {
        let mut site = Site::empty(Root::nowhere(), Config::default());
        let held = site.texts.get_mut().unwrap_or_else(PoisonError::into_inner);
        for text in texts {
            let name = SitePath::new(text.name())?;
            if name.as_str() == CONFIG_FILE {
                site.config = read_text(text.name().as_ref(), text.source())?;
                continue;
            }
            site.buffers.insert(name.as_str().to_owned());
            held.insert(name.as_str().to_owned(), text);
        }
        Ok(View(site))
    }

    /// Goes on to another draft.
    pub(crate) fn advance(&mut self, draft: Arc<Draft>) {
        self.0.draft = draft;
        self.0.forget_drafted();
    }
}

impl Site {
    /// The files in which another state of the draft differs from this one: as this one leaves them, and as the other.
    pub(crate) fn differences(&self, after: &Site) -> Vec<ChangedFile> {
        let mut names: Vec<&str> = self.draft.files().chain(after.draft.files()).collect();
        names.sort_unstable();
        names.dedup();
        let pairs = names.into_iter().filter_map(|name| {
            // A file that an edit makes is empty so far.
            let empty = || Text::new(name, "");
            Some(ChangedFile {
                before: self.file_text(name).unwrap_or_else(|_| empty()),
                after: after.file_text(name).ok()?,
            })
        });
        let differs =
            |c: &ChangedFile| c.before.source() != c.after.source() && !is_url(c.before.name());
        pairs.filter(differs).collect()
    }

    /// The site as it is with only those edits of its draft on that `counts` takes; what is off stays off.
    pub fn with_only(&self, counts: impl Fn(&DraftEntry) -> bool) -> View {
        let mut draft = Draft::clone(&self.draft);
        let off: Vec<u32> = draft.edits().filter(|t| !counts(t)).map(|t| t.id).collect();
        for id in off {
            draft.switch(id, false);
        }
        self.view(Arc::new(draft))
    }

    /// The site as its draft and one more edit leave it.
    ///
    /// # Errors
    /// Where the edit does not fit the draft.
    pub fn imagined(&self, edit: Edit) -> Result<View, SiteError> {
        let bases = self.bases_with(&edit)?;
        let with = self.draft.with(edit, &bases);
        let (draft, _) = with.map_err(|source| self.draft_error(source))?;
        Ok(self.view(Arc::new(draft)))
    }

    /// The site as an editor holds it: with these texts in the place of its files, saved or not. One that no file has the name of
    /// is a new file. The draft is carried over to them as to files that changed on disk. Nothing is written.
    ///
    /// A state after the next key press is made the same way; [`Site::reparse_page`] takes all that has not changed from the
    /// page before.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// # let folder = tempfile::tempdir()?;
    /// # let write = |name: &str, text: &str| std::fs::write(folder.path().join(name), text);
    /// # write("fingerpost.toml", "fingerpost = 2\n")?;
    /// # write("a.css", "p { color: teal }")?;
    /// # write("a.html", "<link rel=stylesheet href=a.css><p>Boats")?;
    /// // a.css: p { color: teal }
    /// // a.html: <link rel=stylesheet href=a.css><p>Boats
    /// let site = Site::of_folder(folder.path())?;
    /// let before = site.page("a.html", Environment::default())?;
    /// let editor = site.with_buffers([Text::new("a.css", "p { color: navy }")])?;
    /// let page = editor.reparse_page(&before)?;
    /// let p = page.ask().find_one("p")?;
    /// let why = page.ask().why(&p, &"color".parse()?);
    /// assert_eq!(why.contests[0].value.computed, "rgb(0, 0, 128)");
    /// assert_eq!(page.effect(&before).affected.len(), 1);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where a name is not that of a file of the site, or the draft can't be carried over.
    pub fn with_buffers(
        &self,
        buffers: impl IntoIterator<Item = Arc<Text>>,
    ) -> Result<View, SiteError> {
        let mut view = self.view(self.draft.clone());
        let site = &mut view.0;
        let held = site.texts.get_mut().unwrap_or_else(PoisonError::into_inner);
        for text in buffers {
            let name = SitePath::new(text.name())?;
            site.buffers.insert(name.as_str().to_owned());
            held.insert(name.as_str().to_owned(), text);
        }
        if self.draft.files().any(|file| site.buffers.contains(file)) {
            let (old, now) = (self.bases()?, site.bases()?);
            let carried = self.draft.carried(&old, &now, &BTreeMap::new());
            let (draft, _) = carried.map_err(|source| self.draft_error(source))?;
            site.draft = Arc::new(draft);
        }
        Ok(view)
    }

    /// The site as another draft leaves it.
    pub(crate) fn view(&self, draft: Arc<Draft>) -> View {
        let texts = self.texts.lock().unwrap_or_else(PoisonError::into_inner);
        View(Site {
            root: self.root.clone(),
            config: self.config.clone(),
            guessed: self.guessed,
            interrupted: None,
            draft,
            kept: self.kept.clone(),
            carried: self.carried.clone(),
            user_sheet: self.user_sheet.clone(),
            fetch: self.fetch.clone(),
            lock: None,
            texts: Mutex::new(texts.clone()),
            buffers: self.buffers.clone(),
            drafted: Mutex::default(),
            roles: self.roles.clone(),
            pages: RecentPages::default(),
            last: None,
        })
    }

    /// What leads from a file as another state of this site's draft leaves it to the file as this one
    /// does; `None` where neither draft is about the file, or they are not states of one draft.
    pub(crate) fn patch_from(&self, before: &Site, file: &str) -> Option<Patch> {
        let base = self.base_text(file, self.hint(file)).ok()?;
        let was = &before.drafted().ok()?.counts;
        let is = &self.drafted().ok()?.counts;
        self.draft.difference(&before.draft, file, &base, was, is)
    }
}
