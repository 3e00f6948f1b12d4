//! The texts that a draft makes of the files, and places in them.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

use super::{Anchor, Base, Bases, Draft, DraftError, Drafted, EditState};
use crate::draft::ids::Ids;
use crate::draft::piece_table::PieceAnchor;
use crate::edit::FileChange;
use crate::text::{Patch, Text, TextSize};

impl Draft {
    /// The files after those edits that are on, of those files that are given.
    ///
    /// # Errors
    /// Where a file is not what the draft was based on, or an edit does not fit.
    pub fn replay(&self, bases: &Bases) -> Result<Drafted, DraftError> {
        // What no longer fits is never put in anywhere else.
        let counts = self.counting();
        let all_on = self.edits().filter(|t| t.state == EditState::On);
        Ok(Drafted {
            texts: self.texts(bases, &counts)?,
            not_applied: all_on
                .map(|t| t.id)
                .filter(|id| !counts.contains(*id))
                .collect(),
            counts,
        })
    }

    /// One file after those edits that are on, of a draft that is about no other.
    ///
    /// # Errors
    /// As [`Draft::replay`].
    pub fn apply(&self, base: &Arc<Text>) -> Result<Arc<Text>, DraftError> {
        let bases = Bases::from([(base.name().to_owned(), base.clone())]);
        let mut drafted = self.replay(&bases)?;
        Ok(drafted.texts.remove(base.name()).unwrap_or(base.clone()))
    }

    /// The files after some edits, of those files that are given.
    pub(super) fn texts(&self, bases: &Bases, on: &Ids) -> Result<Bases, DraftError> {
        let mut texts = Bases::new();
        for (file, file_pieces) in &self.files {
            if !bases.contains_key(file) {
                continue;
            }
            let base = self.base_of(bases, file)?;
            let nothing = Ids::default();
            let patch = file_pieces.pieces.difference(base.source(), &nothing, on);
            let text = match patch.is_empty() {
                true => base.clone(),
                false => base.patched(&patch)?,
            };
            texts.insert(file.clone(), text);
        }
        Ok(texts)
    }

    /// What an edit changes of each of its files, over the edits that counted when it was made.
    pub fn changes_of(&self, bases: &Bases, id: u32) -> Vec<FileChange> {
        let over = self.overs().remove(&id).unwrap_or_default();
        let files = self.files.iter().filter(|(_, w)| w.pieces.holds(id));
        files
            .filter_map(|(file, file_pieces)| {
                let base = bases.get(file)?;
                let with = over.with(id);
                let patch = file_pieces.pieces.difference(base.source(), &over, &with);
                Some(FileChange::new(file, patch))
            })
            .collect()
    }

    /// The files after only some of the edits: what a save of them writes.
    ///
    /// # Errors
    /// [`DraftError::Apart`] where one of them needs another that is not among them.
    pub fn partly(&self, bases: &Bases, ids: &BTreeSet<u32>) -> Result<Bases, DraftError> {
        let wanted: Ids = ids.iter().copied().collect();
        let placed = self.placed(&wanted);
        let apart: Vec<u32> = wanted.iter().filter(|id| !placed.contains(*id)).collect();
        if !apart.is_empty() {
            let all = self.edits.iter().filter(|t| apart.contains(&t.id));
            let needs: BTreeSet<u32> = all.flat_map(|t| t.needs.iter().copied()).collect();
            return Err(DraftError::Apart {
                needs: needs.difference(ids).copied().collect(),
                ids: apart,
            });
        }
        self.texts(bases, &wanted)
    }

    /// What only some of the edits change of each file.
    pub(crate) fn patches(&self, bases: &Bases, ids: &BTreeSet<u32>) -> BTreeMap<String, Patch> {
        let wanted: Ids = ids.iter().copied().collect();
        let nothing = Ids::default();
        let files = self.files.iter();
        files
            .filter_map(|(file, file_pieces)| {
                let base = bases.get(file)?;
                let patch = file_pieces
                    .pieces
                    .difference(base.source(), &nothing, &wanted);
                Some((file.clone(), patch))
            })
            .collect()
    }

    /// What leads from a file with some edits on, of an earlier state of this draft, to the file with
    /// others on; `None` where the draft is not about the file, or the other one is not a state of it.
    pub(crate) fn difference(
        &self,
        earlier: &Draft,
        file: &str,
        base: &Text,
        was: &Ids,
        is: &Ids,
    ) -> Option<Patch> {
        let file_pieces = self.files.get(file)?;
        let of_one_draft = earlier
            .files
            .get(file)
            .is_none_or(|other| other.base == file_pieces.base && self.holds_all(was, file));
        (of_one_draft && Base::of(base) == file_pieces.base)
            .then(|| file_pieces.pieces.difference(base.source(), was, is))
    }

    /// Whether the edits of an earlier state of the draft, as far as they are about a file, are in this
    /// one too.
    fn holds_all(&self, ids: &Ids, file: &str) -> bool {
        ids.iter().all(|id| {
            let known = self.edits.iter().find(|entry| entry.id == id);
            known.is_some_and(|entry| {
                let about = entry.files.iter().any(|f| f == file);
                let holds = self.files.get(file).is_some_and(|w| w.pieces.holds(id));
                !about || holds
            })
        })
    }

    /// Where an offset of a file, as the draft leaves it, is in any later state of the draft.
    pub fn anchor(&self, file: &str, offset: TextSize) -> Option<Anchor> {
        self.anchor_over(&self.counting(), file, offset)
    }

    pub(crate) fn anchor_over(&self, counts: &Ids, file: &str, offset: TextSize) -> Option<Anchor> {
        let piece = match self.files.get(file) {
            Some(file_pieces) => file_pieces.pieces.anchor(offset.into(), counts)?,
            // A file that the draft is not about has its own text only.
            None => PieceAnchor::of_base(offset.into()),
        };
        Some(Anchor {
            file: file.to_owned(),
            piece,
        })
    }

    /// The offset of an anchor in its file as the draft leaves it now; none where its text is gone.
    pub fn offset(&self, anchor: &Anchor) -> Option<TextSize> {
        self.offset_over(&self.counting(), anchor)
    }

    pub(crate) fn offset_over(&self, counts: &Ids, anchor: &Anchor) -> Option<TextSize> {
        let offset = match self.files.get(&anchor.file) {
            Some(file_pieces) => file_pieces.pieces.offset(&anchor.piece, counts)?,
            None => anchor.piece.in_base()?,
        };
        Some(TextSize::new(offset as u32))
    }
}
