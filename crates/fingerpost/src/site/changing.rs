//! The lock on the draft, and writing the draft down. Only a session calls what changes anything.

use std::collections::BTreeMap;
use std::sync::Arc;

use super::keep;
use super::lock::Lock;
use super::{Site, SiteError};
use crate::draft::{Anchor, Base, Bases, Draft};
use crate::text::TextSize;

impl Site {
    /// Takes the lock on the draft. Nothing is read again where the draft is as it was read: a save compares the files
    /// anyway, and who keeps a site open hears of their changes.
    pub(crate) fn hold(&mut self) -> Result<(), SiteError> {
        if self.lock.is_some() {
            return Ok(());
        }
        if let Some(error) = self.interrupted.take() {
            // Nothing is written while an interrupted save is not finished.
            return Err(error);
        }
        let lock = Lock::take(&self.root)?;
        let draft = keep::read_draft(&self.root)?;
        if draft != *self.kept {
            self.forget();
            self.rebase(Arc::new(draft))?;
        }
        self.lock = Some(lock);
        Ok(())
    }

    /// Gives the lock on the draft back.
    pub(crate) fn release(&mut self) {
        self.lock = None;
    }

    /// Writes a draft down, over these files, and makes it the one that counts.
    pub(crate) fn write_draft(
        &mut self,
        draft: Arc<Draft>,
        bases: &Bases,
    ) -> Result<(), SiteError> {
        keep::keep_bases(&self.root, &draft, bases)?;
        keep::write_draft(&self.root, &draft)?;
        // The files that the draft is about are as they were.
        self.kept = draft.clone();
        self.draft = draft;
        self.forget_drafted();
        Ok(())
    }

    /// Makes another state of the draft the one that counts.
    pub(crate) fn redrafted(&mut self, draft: Arc<Draft>) -> Result<(), SiteError> {
        let bases = self.view(draft.clone()).bases()?;
        self.write_draft(draft, &bases)
    }

    /// Says what the draft's file holds now.
    pub(super) fn now_kept(&mut self, draft: Draft) {
        self.kept = Arc::new(draft);
        self.draft = self.kept.clone();
        self.forget();
    }

    /// Takes a draft that was read up: carried over to files that changed on disk since it was made.
    /// What has no place there any more is a conflict, and said.
    pub(super) fn rebase(&mut self, draft: Arc<Draft>) -> Result<(), SiteError> {
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
            // What can't be read now is a conflict, and stops no question.
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
        self.draft = Arc::new(draft);
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
