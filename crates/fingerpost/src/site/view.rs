//! A site as it would be: with only some edits of its draft, or with one more that is written nowhere.

use std::ops::Deref;
use std::sync::{Mutex, PoisonError};

use super::{Site, SiteError};
use crate::draft::DraftEntry;
use crate::edit::Edit;
use crate::text::Patch;

/// A site that questions can be asked of and that nothing is written through.
#[derive(Debug)]
pub struct View(Site);

impl Deref for View {
    type Target = Site;

    fn deref(&self) -> &Site {
        &self.0
    }
}

impl Site {
    /// The site as it is with only those edits of its draft on that `counts` takes; what is off stays off.
    pub fn with_only(&self, counts: impl Fn(&DraftEntry) -> bool) -> View {
        let mut draft = self.draft.clone();
        let off: Vec<u32> = draft.edits().filter(|t| !counts(t)).map(|t| t.id).collect();
        for id in off {
            draft.switch(id, false);
        }
        self.view(draft)
    }

    /// The site as its draft and one more edit leave it.
    ///
    /// # Errors
    /// Where the edit does not fit the draft.
    pub fn imagined(&self, edit: Edit) -> Result<View, SiteError> {
        let bases = self.bases_with(&edit)?;
        let mut draft = self.draft.clone();
        let pushed = draft.push(edit, &bases);
        pushed.map_err(|source| self.draft_error(source))?;
        Ok(self.view(draft))
    }

    fn view(&self, draft: crate::draft::Draft) -> View {
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
            drafted: Mutex::default(),
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
