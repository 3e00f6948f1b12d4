//! The draft: the edits tried and not yet saved, and the file that keeps them.
//!
//! The format is documented in `docs/draft-file.md`. Each file that the draft changes is known by
//! the digest of the bytes that it was based on; what changed on disk since is carried in by
//! [`Draft::carried`], so that a draft is never applied to other bytes.

mod carry;
mod ids;
mod piece_table;

pub(crate) use carry::both;

use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::draft::ids::{EditId, Ids};
use crate::draft::piece_table::{PieceAnchor, PieceTable};
use crate::edit::Intent;
use crate::edit::{Edit, FileChange};
use crate::text::{EncodingError, Patch, SitePath, Text, TextSize, is_url, plain_data};

/// The version of the draft file.
pub const DRAFT_VERSION: u32 = 6;

/// The highest number that an edit gets: sets of edits have a bit for each.
const MOST_EDITS: u32 = 1_000_000;

/// The bytes that a file has.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Base {
    /// How many.
    pub bytes: u64,
    /// Their SHA-256, in hexadecimal.
    pub sha256: String,
    /// The encoding that the file was read in, by its name in the Encoding standard: offsets are
    /// those of the characters so read.
    pub encoding: String,
}

impl Base {
    /// What a text's bytes are known by.
    pub fn of(text: &Text) -> Base {
        let (bytes, sha256) = text.digest();
        Base {
            bytes,
            sha256: sha256.to_owned(),
            encoding: text.encoding().name().to_owned(),
        }
    }

    /// The SHA-256 of bytes, in hexadecimal.
    pub fn digest(bytes: &[u8]) -> String {
        crate::text::sha256(bytes)
    }
}

/// Why a draft can't be read or applied.
#[derive(Debug, Error)]
#[non_exhaustive]
pub enum DraftError {
    /// The draft file is not one.
    #[error("line {line}, column {column}: {message}")]
    Malformed {
        /// Where, from 1.
        line: usize,
        /// Where, from 1.
        column: usize,
        /// What is wrong.
        message: String,
    },
    /// The draft file is of another version.
    #[error(
        "it has version {found}, and this program reads version {DRAFT_VERSION}; save with the program that wrote it, or discard it"
    )]
    Version {
        /// The version it says.
        found: u32,
    },
    /// A file is not what the draft was based on.
    #[error("{file} has changed on disk since the draft was made")]
    Changed {
        /// The file.
        file: String,
    },
    /// A patch does not fit its text.
    #[error("the draft's change of {file} does not fit the file; drop the change")]
    Misfit {
        /// The file.
        file: String,
    },
    /// A file that the draft is about was not given.
    #[error("{file} can't be read")]
    NoBase {
        /// The file.
        file: String,
    },
    /// Edits need others that are not to be saved with them.
    #[error("{}", apart(.ids, .needs))]
    Apart {
        /// The numbers of the edits.
        ids: Vec<u32>,
        /// The numbers of those that they need.
        needs: Vec<u32>,
    },
    /// The changed text can't be written in the file's encoding.
    #[error(transparent)]
    Encoding(#[from] EncodingError),
}

/// `change 3 was made over change 2; save change 2 too`
fn apart(ids: &[u32], needs: &[u32]) -> String {
    let verb = if ids.len() == 1 { "was" } else { "were" };
    let needs = numbered(needs);
    format!(
        "{} {verb} made over {needs}; save {needs} too",
        numbered(ids)
    )
}

/// `change 3`, `changes 3 and 4`.
pub(crate) fn numbered(ids: &[u32]) -> String {
    let shown: Vec<String> = ids.iter().map(u32::to_string).collect();
    match &shown[..] {
        [one] => format!("change {one}"),
        [rest @ .., last] => format!("changes {} and {last}", rest.join(", ")),
        [] => "no change".to_owned(),
    }
}

/// Files as they are on disk, by name.
pub type Bases = BTreeMap<String, Arc<Text>>;

/// Whether an edit of the draft counts.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum EditState {
    /// It does.
    On,
    /// It is kept, but left out of every answer and of a save.
    Off,
    /// It was discarded; it stays in the file while that can be undone.
    Discarded,
}

/// An edit that no longer fits: what it changes was changed by another hand, or is gone. It
/// stays in the draft, counts for nothing, and can be made again from its intent.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Conflict {
    /// The file that it does not fit.
    pub file: String,
    /// Why, in a sentence.
    pub why: String,
    /// What the edit changed there, as a unified diff; empty where that is not known.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub draft: String,
    /// What changed there on disk, as a unified diff; empty where nothing did.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub disk: String,
}

/// An edit of the draft.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct DraftEntry {
    /// Its number, which it keeps.
    pub id: u32,
    /// Whether it counts.
    pub state: EditState,
    /// How the edits that counted when it was made differ from those that counted for the edit
    /// before it, and that one: `3` counted as well, `-3` did not count.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    flips: Vec<i64>,
    /// The edits without which it does not fit.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub(super) needs: Vec<u32>,
    /// What was asked for.
    pub intent: Intent,
    /// What was done, in a sentence.
    pub summary: String,
    /// The files that it changes.
    pub files: Vec<String>,
    /// What its author should know.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub warnings: Vec<String>,
    /// Set where it no longer fits.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub conflict: Option<Conflict>,
}

/// Something done to the draft, which can be undone.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub enum Step {
    /// A change was added.
    Added {
        /// Its number.
        id: u32,
    },
    /// An edit was switched off, or on again.
    Switched {
        /// Its number.
        id: u32,
    },
    /// An edit was discarded.
    Discarded {
        /// Its number.
        id: u32,
        /// What it was before.
        was: EditState,
    },
    /// All edits were discarded.
    Emptied {
        /// Their numbers, and what each was before.
        was: Vec<(u32, EditState)>,
    },
    /// An edit was made again, for another element.
    Retargeted {
        /// The number of the new one.
        id: u32,
        /// The number of the old one, which was discarded.
        instead_of: u32,
        /// What that was before.
        was: EditState,
    },
}

impl Step {
    /// The edits that the step is about.
    pub fn ids(&self) -> Vec<u32> {
        match self {
            Step::Added { id } | Step::Switched { id } | Step::Discarded { id, .. } => vec![*id],
            Step::Emptied { was } => was.iter().map(|(id, _)| *id).collect(),
            Step::Retargeted { id, instead_of, .. } => vec![*id, *instead_of],
        }
    }
}

/// The files as the draft leaves them.
#[derive(Debug, Default)]
pub struct Drafted {
    /// Their texts, by name.
    pub texts: Bases,
    /// The edits that are on and don't count, for what they change is not there.
    pub not_applied: Vec<u32>,
    pub(crate) counts: Ids,
}

/// Why an edit that is on does not count.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum NotApplied {
    /// It is in what these edits made, and they don't count.
    Needs(Vec<u32>),
    /// These edits change the same text, and each was made without the other.
    Clashes(Vec<u32>),
    /// It no longer fits.
    Conflict(Conflict),
}

/// A place in a file that stays the same whatever is switched, discarded or tried later.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Anchor {
    file: String,
    piece: PieceAnchor,
}

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

    fn did(&mut self, step: Step) {
        self.done.push(step);
        self.undone.clear();
    }

    fn entry_mut(&mut self, id: u32) -> Option<&mut DraftEntry> {
        self.edits.iter_mut().find(|entry| entry.id == id)
    }

    /// An edit by its number, unless it was discarded.
    pub fn edit(&self, id: u32) -> Option<&DraftEntry> {
        self.edits().find(|entry| entry.id == id)
    }

    /// Switches an edit on or off; says whether that changed anything. `None` where there is none of
    /// that number.
    pub fn switch(&mut self, id: u32, on: bool) -> Option<bool> {
        let state = self.edit(id)?.state;
        let wanted = if on { EditState::On } else { EditState::Off };
        if state == wanted {
            return Some(false);
        }
        self.entry_mut(id)?.state = wanted;
        self.did(Step::Switched { id });
        Some(true)
    }

    /// Throws an edit away. `None` where there is none of that number.
    pub fn discard(&mut self, id: u32) -> Option<()> {
        let was = self.edit(id)?.state;
        self.entry_mut(id)?.state = EditState::Discarded;
        self.did(Step::Discarded { id, was });
        Some(())
    }

    /// Throws all edits away, which can be undone in one step; says how many there were.
    pub fn empty(&mut self) -> usize {
        let was: Vec<(u32, EditState)> = self.edits().map(|t| (t.id, t.state)).collect();
        for (id, _) in &was {
            if let Some(entry) = self.entry_mut(*id) {
                entry.state = EditState::Discarded;
            }
        }
        let count = was.len();
        if count > 0 {
            self.did(Step::Emptied { was });
        }
        count
    }

    /// Undoes what was done last.
    pub fn undo(&mut self) -> Option<Step> {
        let step = self.done.pop()?;
        self.turn(&step, true);
        self.undone.push(step.clone());
        Some(step)
    }

    /// Does again what was undone last.
    pub fn redo(&mut self) -> Option<Step> {
        let step = self.undone.pop()?;
        self.turn(&step, false);
        self.done.push(step.clone());
        Some(step)
    }

    fn turn(&mut self, step: &Step, back: bool) {
        let mut set = |id: u32, state: EditState| {
            if let Some(entry) = self.edits.iter_mut().find(|t| t.id == id) {
                entry.state = state;
            }
        };
        let discarded = EditState::Discarded;
        match step {
            Step::Added { id } => set(*id, if back { discarded } else { EditState::On }),
            Step::Discarded { id, was } => set(*id, if back { *was } else { discarded }),
            Step::Emptied { was } => {
                for (id, was) in was {
                    set(*id, if back { *was } else { discarded });
                }
            }
            Step::Retargeted {
                id,
                instead_of,
                was,
            } => {
                set(*id, if back { discarded } else { EditState::On });
                set(*instead_of, if back { *was } else { discarded });
            }
            Step::Switched { id } => {
                if let Some(entry) = self.entry_mut(*id) {
                    entry.state = match entry.state {
                        EditState::On => EditState::Off,
                        _ => EditState::On,
                    };
                }
            }
        }
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

/// How a set of edits differs from another one.
fn flips(before: &Ids, after: &Ids) -> Vec<i64> {
    let on = after.iter().filter(|id| !before.contains(*id));
    let off = before.iter().filter(|id| !after.contains(*id));
    let all = on.map(i64::from).chain(off.map(|id| -i64::from(id)));
    all.collect()
}
