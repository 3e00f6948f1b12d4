//! Trying: edits are made and put into the draft, under its lock.

use std::collections::BTreeMap;

use super::keep;
use super::lock::Lock;
use super::{DRAFT_FILE, Site, SiteError, is_url};
use crate::draft::{Anchor, Base, Bases, Draft};
use crate::edit::{self, Destination, Edit, EditError, Intent, Pages, SiteContext, make_in};
use crate::page::Page;
use crate::question::find::elements;
use crate::text::{DecodeHint, SitePath, Text, TextSize};

impl Site {
    /// Takes the lock on the draft, and reads the draft anew: until the site is dropped no other
    /// program changes it.
    ///
    /// # Errors
    /// Where another program holds the lock for long, or the draft can't be read.
    pub fn lock_draft(&mut self) -> Result<(), SiteError> {
        if self.lock.is_none() {
            self.finished()?;
            let lock = Lock::take(&self.root)?;
            self.forget();
            self.rebase(keep::read_draft(&self.root)?)?;
            self.lock = Some(lock);
        }
        Ok(())
    }

    /// Nothing is written while a save that was cut off is not finished.
    fn finished(&mut self) -> Result<(), SiteError> {
        match self.interrupted.take() {
            Some(error) => Err(error),
            None => Ok(()),
        }
    }

    /// Does something under the lock, where the draft is still what was read.
    pub(super) fn locked<T>(
        &mut self,
        work: impl FnOnce(&mut Site) -> Result<T, SiteError>,
    ) -> Result<T, SiteError> {
        if self.lock.is_some() {
            return work(self);
        }
        self.finished()?;
        let lock = Lock::take(&self.root)?;
        if keep::read_draft(&self.root)? != self.kept {
            return Err(SiteError::Overtaken {
                path: self.root.path().join(DRAFT_FILE),
            });
        }
        let done = work(self);
        drop(lock);
        done
    }

    /// The files of the draft and of an edit as they are on disk.
    pub(super) fn bases_with(&self, edit: &Edit) -> Result<Bases, SiteError> {
        let mut bases = self.bases()?;
        for file in edit.files() {
            if bases.contains_key(file) {
                continue;
            }
            self.one_name(file, bases.keys())?;
            let text = match self.base_text(file, self.hint(file)) {
                // A file that the edit makes is empty so far.
                Err(SiteError::Unreadable { source, .. })
                    if source.kind() == std::io::ErrorKind::NotFound =>
                {
                    Text::new(file, "")
                }
                found => found?,
            };
            bases.insert(file.to_owned(), text);
        }
        Ok(bases)
    }

    /// A file that the draft changes already under another name, by a link, is not changed under this one
    /// as well: the two would not know of each other.
    fn one_name<'a>(
        &self,
        file: &str,
        others: impl Iterator<Item = &'a String>,
    ) -> Result<(), SiteError> {
        if is_url(file) {
            return Ok(());
        }
        let real = self.root.real(&SitePath::new(file)?)?;
        for other in others.filter(|other| !is_url(other)) {
            if self.root.real(&SitePath::new(other)?)? == real {
                return Err(SiteError::SameFile {
                    file: file.to_owned(),
                    other: other.clone(),
                });
            }
        }
        Ok(())
    }

    /// The override sheet may be named by its file name alone.
    fn aimed(&self, intent: &Intent) -> Intent {
        let mut aimed = intent.clone();
        if let (Destination::File(name), Some(custom)) = (&intent.into, &self.config.custom)
            && custom.as_str().rsplit('/').next() == Some(name.as_str())
            && !self.root.has(name)
        {
            aimed.into = Destination::Overrides;
        }
        aimed
    }

    /// Turns an intent into an edit of the site's files, over a page as the draft leaves it.
    ///
    /// # Errors
    /// Where the edit can't be made; see [`EditError`].
    pub fn make(&self, page: &Page, intent: &Intent) -> Result<Edit, EditError> {
        let intent = &self.aimed(intent);
        let around = self.around(intent);
        let mut edit = make_in(page, intent, &around)?;
        if is_url(page.document().text().name()) {
            let targets = match &intent.element {
                Some(what) => elements(page, what)?,
                None => Vec::new(),
            };
            edit.changes = self.follow_templates(page, &targets, edit.changes)?;
        }
        self.on_other_pages(page, intent, &around, &mut edit)?;
        Ok(edit)
    }

    /// What an edit may need to know besides its page.
    fn around(&self, intent: &Intent) -> SiteContext {
        let mut around = SiteContext {
            custom: self.config.custom.as_ref().map(ToString::to_string),
            ..SiteContext::default()
        };
        let everywhere = matches!(intent.change, edit::Change::Rename(_));
        if matches!(
            intent.into,
            Destination::Page | Destination::Overrides | Destination::File(_)
        ) || everywhere
        {
            around.documents = self.documents();
        }
        if matches!(intent.change, edit::Change::NewSheet(_)) {
            around.files = self.files(&["css"]);
        }
        let css = DecodeHint::Css(encoding_rs::UTF_8);
        if everywhere {
            let names = self.files(&["css", "scss", "less"]);
            let texts = names.iter().filter_map(|name| self.text(name, css).ok());
            around.sheets = texts.collect();
            around.templates = self.templates();
            let pages: Vec<&str> = around.documents.iter().map(|d| d.text().name()).collect();
            around.templates.retain(|t| !pages.contains(&t.name()));
            return around;
        }
        let named = match &intent.into {
            Destination::Overrides => self.config.custom.as_ref().map(SitePath::as_str),
            Destination::File(name) => Some(name.as_str()),
            _ => None,
        };
        // One that can't be read is one that is not there.
        around
            .sheets
            .extend(named.and_then(|name| self.text(name, css).ok()));
        around
    }

    /// Makes the same change on other pages, where the intent asks for that, as a part of the edit.
    fn on_other_pages(
        &self,
        page: &Page,
        intent: &Intent,
        around: &SiteContext,
        edit: &mut Edit,
    ) -> Result<(), EditError> {
        let own = page.document().text().name();
        let (names, must) = match &intent.pages {
            Pages::This => return Ok(()),
            Pages::Every => (self.pages(), false),
            Pages::Also(names) => (names.clone(), true),
        };
        let mut count = 0;
        for name in names.iter().filter(|name| *name != own) {
            let other = match self.page(name, page.environment().clone()) {
                Ok(other) => other,
                Err(error) => {
                    return Err(EditError::NotThere {
                        place: name.clone(),
                        why: error.to_string(),
                    });
                }
            };
            let there = Intent {
                page: name.clone(),
                ..intent.clone()
            };
            match make_in(&other, &there, around) {
                Ok(made) => {
                    count += 1;
                    for change in made.changes {
                        let known = edit.changes.iter().find(|c| c.file == change.file);
                        match known {
                            Some(known) if known.patch == change.patch => {}
                            Some(_) => {
                                return Err(EditError::NotThere {
                                    place: name.clone(),
                                    why: format!(
                                        "{} would be changed once for each page; ask for that change \
                                         by itself",
                                        change.file
                                    ),
                                });
                            }
                            None => edit.changes.push(change),
                        }
                    }
                    for warning in made.warnings {
                        if !edit.warnings.contains(&warning) {
                            edit.warnings.push(warning);
                        }
                    }
                }
                Err(error) if error.is_an_answer() && !must => {}
                Err(EditError::NotThere { place, why }) if !must => {
                    edit.warnings.push(format!("left alone: {place}: {why}"));
                }
                Err(error) => return Err(error),
            }
        }
        match count {
            0 => edit
                .warnings
                .push("no other page of the site has it".to_owned()),
            1 => edit.summary.push_str(", and on 1 other page"),
            count => edit
                .summary
                .push_str(&format!(", and on {count} other pages")),
        }
        Ok(())
    }

    /// Puts an edit into the draft, and the draft into its file. Gives the edit's number.
    ///
    /// # Errors
    /// Where the edit does not fit, or the draft file can't be written; the draft is then as it was.
    pub fn try_edit(&mut self, edit: Edit) -> Result<u32, SiteError> {
        self.locked(|site| {
            let bases = site.bases_with(&edit)?;
            let mut draft = site.draft.clone();
            let id = draft
                .push(edit, &bases)
                .map_err(|source| site.draft_error(source))?;
            keep::keep_bases(&site.root, &draft, &bases)?;
            site.write_draft(draft)?;
            Ok(id)
        })
    }

    /// Puts an edit in the place of another one of the draft; `None` where there is none of that
    /// number. The edit must have been made without the old one: see [`Site::leave_out`].
    ///
    /// # Errors
    /// As [`Site::try_edit`].
    pub fn aim(&mut self, old: u32, edit: Edit) -> Result<Option<u32>, SiteError> {
        self.locked(|site| {
            let bases = site.bases_with(&edit)?;
            let mut draft = site.draft.clone();
            let id = draft
                .aim(old, edit, &bases)
                .map_err(|source| site.draft_error(source))?;
            keep::keep_bases(&site.root, &draft, &bases)?;
            site.write_draft(draft)?;
            Ok(id)
        })
    }

    /// Leaves one edit of the draft out of all answers of this site, without writing that down.
    pub fn leave_out(&mut self, id: u32) {
        self.draft.switch(id, false);
        self.forget();
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
        self.locked(|site| {
            let mut draft = site.draft.clone();
            let done = change(&mut draft);
            site.write_draft(draft)?;
            Ok(done)
        })
    }

    pub(super) fn write_draft(&mut self, draft: Draft) -> Result<(), SiteError> {
        keep::write_draft(&self.root, &draft)?;
        // The files that the draft is about are as they were.
        self.kept = draft.clone();
        self.draft = draft;
        self.forget_drafted();
        Ok(())
    }

    /// Says what the draft's file holds now.
    pub(super) fn now_kept(&mut self, draft: Draft) {
        self.kept = draft.clone();
        self.draft = draft;
        self.forget();
    }

    /// Takes a draft that was read up: carried over to files that changed on disk since it was made.
    /// What has no place there any more is set aside, and said.
    pub(super) fn rebase(&mut self, draft: Draft) -> Result<(), SiteError> {
        self.kept = draft.clone();
        self.draft = draft;
        let mut now = Bases::new();
        let mut old = Bases::new();
        let files: Vec<(String, Base)> = self
            .draft
            .bases()
            .map(|(file, base)| (file.to_owned(), base.clone()))
            .collect();
        for (file, base) in files {
            // What can't be read now is set aside, and stops no question.
            if let Ok(text) = self.base_text(&file, self.hint(&file)) {
                if Base::of(&text) != base {
                    // Without it nothing can be carried over.
                    let kept = keep::kept_base(&self.root, &file, &base);
                    old.extend(kept.ok().map(|text| (file.clone(), text)));
                }
                now.insert(file, text);
            }
        }
        let (draft, moved) = self
            .draft
            .carried(&old, &now, &BTreeMap::new())
            .map_err(|source| self.draft_error(source))?;
        self.draft = draft;
        self.carried = moved;
        Ok(())
    }

    /// The files that changed on disk since the draft was made.
    pub fn changed_files(&self) -> &[String] {
        &self.carried
    }

    /// A place in a file as the draft leaves it, which stays the same whatever is tried, switched or
    /// dropped later.
    pub fn anchor(&self, file: &str, offset: TextSize) -> Option<Anchor> {
        let counts = &self.drafted().ok()?.counts;
        self.draft.anchor_over(counts, file, offset)
    }

    /// The offset of an anchor in its file as the draft leaves it now; none where its text is gone.
    pub fn offset(&self, anchor: &Anchor) -> Option<TextSize> {
        let counts = &self.drafted().ok()?.counts;
        self.draft.offset_over(counts, anchor)
    }
}
