//! The draft: the edits tried and not yet saved, and the file that keeps them.
//!
//! The format is documented in `docs/draft-file.md`. Each file that the draft changes is known by
//! the digest of the bytes that it was based on; what changed on disk since is carried in by
//! [`Draft::carried`], so that a draft is never applied to other bytes.

mod carry;
mod entry;
mod history;
mod ids;
mod piece;
mod piece_table;
mod recording;
mod texts;

pub(crate) use carry::both;
pub(crate) use entry::numbered;
pub use entry::{
    Anchor, Base, Bases, Conflict, DraftEntry, DraftError, Drafted, EditState, Group, NotApplied,
    Step,
};

use std::collections::BTreeMap;
use std::sync::Arc;

use serde::{Deserialize, Serialize};

use crate::draft::ids::{EditId, Ids};
use crate::draft::piece_table::PieceTable;
use crate::edit::Intent;
use crate::edit::{Edit, FileChange};
use crate::text::{SitePath, Text, is_url, plain_data};

/// The version of the draft file.
pub const DRAFT_VERSION: u32 = 7;

/// The highest number that an edit gets: sets of edits have a bit for each.
const MOST_EDITS: u32 = 1_000_000;

/// A file that the draft changes.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct DraftFile {
    /// What it was based on.
    pub base: Base,
    /// Its text with all edits.
    pieces: PieceTable,
}

/// The edits tried and not yet saved.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[non_exhaustive]
pub struct Draft {
    /// [`DRAFT_VERSION`].
    fingerpost: u32,
    files: BTreeMap<String, DraftFile>,
    /// The number that the next edit gets.
    next: u32,
    edits: Vec<DraftEntry>,
    /// What was done, the newest last.
    done: Vec<Step>,
    /// What was undone, the newest last.
    undone: Vec<Step>,
}

impl Default for Draft {
    fn default() -> Self {
        Draft {
            fingerpost: DRAFT_VERSION,
            files: BTreeMap::new(),
            next: 1,
            edits: Vec::new(),
            done: Vec::new(),
            undone: Vec::new(),
        }
    }
}

impl Draft {
    /// Reads a draft file's text.
    ///
    /// ```
    /// use fingerpost::draft::Draft;
    ///
    /// let draft = Draft::default();
    /// let again = Draft::from_json(&draft.to_json())?;
    /// assert!(again.is_empty());
    /// assert!(Draft::from_json("{}").is_err());
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where the text is not a draft, has another version, or says what this program does not understand.
    pub fn from_json(json: &str) -> Result<Draft, DraftError> {
        #[derive(Deserialize)]
        struct Version {
            fingerpost: u32,
        }
        let malformed = |error: serde_json::Error| DraftError::Malformed {
            line: error.line(),
            column: error.column(),
            message: plain_data(&error.to_string()),
        };
        // The version first: a later format may differ in everything else.
        let version: Version = serde_json::from_str(json).map_err(malformed)?;
        if version.fingerpost != DRAFT_VERSION {
            return Err(DraftError::Version {
                found: version.fingerpost,
            });
        }
        let draft: Draft = serde_json::from_str(json).map_err(malformed)?;
        draft.check()?;
        Ok(draft)
    }

    /// Whether what the file says makes sense together: it may have been written by anybody.
    fn check(&self) -> Result<(), DraftError> {
        let malformed = |message: String| DraftError::Malformed {
            line: 1,
            column: 1,
            message,
        };
        let mut last = 0;
        let in_order = self.edits.iter().all(|entry| {
            let follows = entry.id > last && entry.id < self.next;
            last = entry.id;
            let before = |id: &i64| id.unsigned_abs() < u64::from(entry.id) && *id != 0;
            follows && entry.flips.iter().all(before) && entry.needs.iter().all(|id| *id < entry.id)
        });
        let known: Vec<u32> = self.edits.iter().map(|entry| entry.id).collect();
        let mut pieces = self
            .files
            .values()
            .flat_map(|file_pieces| file_pieces.pieces.ids());
        let of_edits = pieces.all(|id| known.binary_search(&id).is_ok());
        if !in_order || !of_edits || self.next > MOST_EDITS {
            return Err(malformed(
                "the numbers of its edits don't fit together".to_owned(),
            ));
        }
        let named = self.edits.iter().flat_map(|entry| {
            let conflict = entry.conflict.iter().map(|conflict| &conflict.file);
            entry.files.iter().chain(conflict)
        });
        for name in self.files.keys().chain(named) {
            if !is_url(name) {
                SitePath::new(name).map_err(|error| malformed(error.to_string()))?;
            }
        }
        Ok(())
    }

    /// The draft file's text.
    pub fn to_json(&self) -> String {
        let mut json = serde_json::to_string_pretty(self).expect("plain data serialises");
        json.push('\n');
        json
    }

    /// The edits in the order in which they were made, those discarded left out.
    pub fn edits(&self) -> impl Iterator<Item = &DraftEntry> {
        let all = self.edits.iter();
        all.filter(|entry| entry.state != EditState::Discarded)
    }

    /// What was asked for, of the changes that count.
    pub fn intents(&self) -> impl Iterator<Item = &Intent> {
        let counting = self.counting();
        let all = self
            .edits()
            .filter(move |entry| counting.contains(entry.id));
        all.map(|entry| &entry.intent)
    }

    /// Whether nothing is tried, on or off.
    pub fn is_empty(&self) -> bool {
        self.edits().next().is_none()
    }

    /// Whether there is nothing that a file of it would keep.
    pub(crate) fn is_blank(&self) -> bool {
        self.edits.is_empty() && self.done.is_empty() && self.undone.is_empty()
    }

    /// The edits that are on and fit.
    fn on(&self) -> Ids {
        let all = self.edits.iter();
        all.filter(|t| t.state == EditState::On && t.conflict.is_none())
            .map(|t| t.id)
            .collect()
    }

    /// For each edit, those that counted when it was made.
    pub(super) fn overs(&self) -> BTreeMap<EditId, Ids> {
        let mut over = Ids::default();
        let mut all = BTreeMap::new();
        for entry in &self.edits {
            for flip in &entry.flips {
                let id = flip.unsigned_abs() as EditId;
                match *flip > 0 {
                    true => over.insert(id),
                    false => over.remove(id),
                }
            }
            all.insert(entry.id, over.clone());
            over.insert(entry.id);
        }
        all
    }

    /// Says of each edit which others counted when it was made.
    pub(super) fn set_overs(&mut self, overs: &BTreeMap<EditId, Ids>) {
        let known: Ids = self.edits.iter().map(|t| t.id).collect();
        let mut last = Ids::default();
        for entry in &mut self.edits {
            let over = overs.get(&entry.id).cloned().unwrap_or_default();
            let over = over.intersection(&known);
            entry.flips = flips(&last, &over);
            last = over.with(entry.id);
        }
    }

    /// Those of some edits that fit when only these are on, and clash with none of the
    /// earlier ones.
    pub(super) fn placed(&self, on: &Ids) -> Ids {
        let clashes = self.clashes();
        let mut counts = Ids::default();
        for entry in self.edits.iter().filter(|t| on.contains(t.id)) {
            let has_place = entry.needs.iter().all(|id| counts.contains(*id));
            let free = clashes.get(&entry.id).into_iter().flatten();
            if has_place && !free.into_iter().any(|other| counts.contains(*other)) {
                counts.insert(entry.id);
            }
        }
        counts
    }

    /// For each edit, those with which it can't stand together.
    pub(super) fn clashes(&self) -> BTreeMap<EditId, Vec<EditId>> {
        let overs = self.overs();
        let knew = |one: EditId, two: EditId| overs.get(&one).is_some_and(|o| o.contains(two));
        let mut all: BTreeMap<EditId, Vec<EditId>> = BTreeMap::new();
        for file_pieces in self.files.values() {
            for (one, two) in file_pieces.pieces.clashes(&knew) {
                all.entry(one).or_default().push(two);
                all.entry(two).or_default().push(one);
            }
        }
        all
    }

    /// The edits that the texts show: those that are on and fit.
    pub(crate) fn counting(&self) -> Ids {
        self.placed(&self.on())
    }

    /// Whether an edit counts.
    pub fn counts(&self, id: u32) -> bool {
        self.counting().contains(id)
    }

    /// Why an edit does not count; none where it does, or is not on.
    pub fn not_applied(&self, id: u32) -> Option<NotApplied> {
        let entry = self.edit(id).filter(|t| t.state == EditState::On)?;
        if let Some(conflict) = &entry.conflict {
            return Some(NotApplied::Conflict(conflict.clone()));
        }
        let counts = self.counting();
        if counts.contains(id) {
            return None;
        }
        let missing = |id: &&u32| !counts.contains(**id);
        let needs: Vec<u32> = entry.needs.iter().filter(missing).copied().collect();
        if !needs.is_empty() {
            return Some(NotApplied::Needs(needs));
        }
        let clashes = self.clashes();
        let others = clashes.get(&id).into_iter().flatten();
        Some(NotApplied::Clashes(
            others.copied().filter(|id| counts.contains(*id)).collect(),
        ))
    }

    /// The draft with one more edit, made over what the draft shows now, and the edit's number; `bases` are the files
    /// of the draft and of the edit as they are on disk.
    ///
    /// # Errors
    /// Where a file is not what the draft was based on, the edit does not fit, or its text can't be written in the
    /// file's encoding.
    pub fn with(&self, edit: Edit, bases: &Bases) -> Result<(Draft, u32), DraftError> {
        let mut next = self.clone();
        let id = next.insert(edit, bases)?;
        next.did(Step::Added { id });
        Ok((next, id))
    }

    /// Adds an edit; gives its number. The draft stays as it was where that fails.
    ///
    /// # Errors
    /// As [`Draft::with`].
    pub fn push(&mut self, edit: Edit, bases: &Bases) -> Result<u32, DraftError> {
        let (next, id) = self.with(edit, bases)?;
        *self = next;
        Ok(id)
    }

    /// The draft with an edit, made over what the draft shows without `old`, in the place of that one, and the new
    /// edit's number; none where the draft has no `old`.
    ///
    /// # Errors
    /// As [`Draft::with`].
    pub fn with_in_place_of(
        &self,
        old: u32,
        edit: Edit,
        bases: &Bases,
    ) -> Result<Option<(Draft, u32)>, DraftError> {
        let Some(was) = self.edit(old).map(|entry| entry.state) else {
            return Ok(None);
        };
        let mut next = self.clone();
        if let Some(entry) = next.entry_mut(old) {
            entry.state = EditState::Discarded;
        }
        let id = next.insert(edit, bases)?;
        next.did(Step::Retargeted {
            id,
            instead_of: old,
            was,
        });
        Ok(Some((next, id)))
    }

    fn insert(&mut self, edit: Edit, bases: &Bases) -> Result<u32, DraftError> {
        let id = self.next;
        let over = self.counting();
        let mut needs = Ids::default();
        let files: Vec<String> = edit.files().map(str::to_owned).collect();
        for change in &edit.changes {
            let FileChange {
                file,
                patch,
                copies,
                around,
            } = change;
            let base = self.base_of(bases, file)?.clone();
            let file_pieces = self.files.entry(file.clone()).or_insert_with(|| DraftFile {
                base: Base::of(&base),
                pieces: PieceTable::new(base.source()),
            });
            let pieces = &mut file_pieces.pieces;
            let standing = pieces.makers(base.source(), around, &over);
            let needed = pieces.record(base.source(), id, patch, copies, &over);
            let needed = needed.map(|needed| needed.union(&standing));
            let needed = needed.ok_or_else(|| DraftError::Misfit { file: file.clone() })?;
            needs = needs.union(&needed);
        }
        let last = self.edits.last().map(|entry| entry.id);
        let before = match last {
            Some(last) => self.overs().remove(&last).unwrap_or_default().with(last),
            None => Ids::default(),
        };
        self.next += 1;
        self.edits.push(DraftEntry {
            id,
            state: EditState::On,
            flips: flips(&before, &over),
            needs: needs.iter().collect(),
            intent: edit.intent,
            summary: edit.summary,
            files,
            warnings: edit.warnings,
            conflict: None,
            group: None,
        });
        // A draft never holds what can't be written.
        self.texts(bases, &over.with(id))?;
        Ok(id)
    }

    /// The base of a file that the draft is about, or may be.
    fn base_of<'a>(&self, bases: &'a Bases, file: &str) -> Result<&'a Arc<Text>, DraftError> {
        let base = bases.get(file).ok_or_else(|| DraftError::NoBase {
            file: file.to_owned(),
        })?;
        let Some(file_pieces) = self.files.get(file) else {
            return Ok(base);
        };
        if file_pieces.base != Base::of(base) {
            return Err(DraftError::Changed {
                file: file.to_owned(),
            });
        }
        let known: Ids = self.edits.iter().map(|t| t.id).collect();
        // What an insertion has recorded meanwhile has the next number.
        match file_pieces
            .pieces
            .fits(base.source(), &known.with(self.next))
        {
            true => Ok(base),
            false => Err(DraftError::Misfit {
                file: file.to_owned(),
            }),
        }
    }

    fn entry_mut(&mut self, id: u32) -> Option<&mut DraftEntry> {
        self.edits.iter_mut().find(|entry| entry.id == id)
    }

    /// An edit by its number, unless it was discarded.
    pub fn edit(&self, id: u32) -> Option<&DraftEntry> {
        self.edits().find(|entry| entry.id == id)
    }

    /// What an edit does in a sentence, discarded or not.
    pub fn summary_of(&self, id: u32) -> Option<&str> {
        let found = self.edits.iter().find(|entry| entry.id == id)?;
        Some(&found.summary)
    }

    /// The files that the draft is about.
    pub fn files(&self) -> impl Iterator<Item = &str> {
        self.files.keys().map(String::as_str)
    }

    /// What the draft's files were based on.
    pub fn bases(&self) -> impl Iterator<Item = (&str, &Base)> {
        let all = self.files.iter();
        all.map(|(file, file_pieces)| (file.as_str(), &file_pieces.base))
    }

    /// What one of the draft's files was based on.
    pub(crate) fn base(&self, file: &str) -> Option<&Base> {
        self.files.get(file).map(|file_pieces| &file_pieces.base)
    }
}

/// How a set of edits differs from another one.
fn flips(before: &Ids, after: &Ids) -> Vec<i64> {
    let on = after.iter().filter(|id| !before.contains(*id));
    let off = before.iter().filter(|id| !after.contains(*id));
    let all = on.map(i64::from).chain(off.map(|id| -i64::from(id)));
    all.collect()
}
