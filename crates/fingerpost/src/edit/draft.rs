//! The draft: the edits tried and not yet saved, and the file that keeps them.
//!
//! The format is documented in `docs/draft-file.md`. Each file that the draft changes is known by
//! the digest of the bytes that it was based on, so that a draft is never applied to other bytes.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

use serde::{Deserialize, Serialize};
use similar::TextDiff;
use thiserror::Error;

use super::Edit;
use super::weave::{PieceAnchor, Weave};
use crate::text::{EncodingError, Patch, Text, TextRange, TextSize};

/// The version of the draft file.
pub const DRAFT_VERSION: u32 = 3;

/// The bytes that a file had when the first edit of it was made.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Base {
    /// How many.
    pub bytes: u64,
    /// Their SHA-256, in hexadecimal.
    pub sha256: String,
    /// The encoding that the file was read in, by its name in the Encoding standard: the patches'
    /// ranges are of the characters so read.
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
    #[error("it is of version {found}, and this program reads version {DRAFT_VERSION}")]
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
    /// Edits stand in lines that changed on disk too.
    #[error("{} in lines of {file} that changed on disk too; drop them and make them again", standing(.ids))]
    Conflict {
        /// The file.
        file: String,
        /// The numbers of the edits.
        ids: Vec<u32>,
    },
    /// A patch does not fit its text.
    #[error("the draft's change of {file} does not fit the file; drop the draft")]
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
    /// Edits were made over others that are not to be saved with them.
    #[error("{} made over others that are not among them; save those too", made(.ids))]
    Apart {
        /// The numbers of the edits.
        ids: Vec<u32>,
    },
    /// The changed text can't be written in the file's encoding.
    #[error(transparent)]
    Encoding(#[from] EncodingError),
}

/// `change 3 stands`, `changes 3 and 4 stand`.
fn standing(ids: &[u32]) -> String {
    let verb = if ids.len() == 1 { "stands" } else { "stand" };
    format!("{} {verb}", numbered(ids))
}

/// `change 3 was`, `changes 3 and 4 were`.
fn made(ids: &[u32]) -> String {
    let verb = if ids.len() == 1 { "was" } else { "were" };
    format!("{} {verb}", numbered(ids))
}

/// `change 3`, `changes 3 and 4`.
pub(crate) fn numbered(ids: &[u32]) -> String {
    let shown: Vec<String> = ids.iter().map(u32::to_string).collect();
    match shown.len() {
        1 => format!("change {}", shown[0]),
        _ => format!("changes {}", shown.join(" and ")),
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
    /// It was thrown away; it stays in the file while edits made over it need it to find their
    /// place, and while it can be taken back.
    Dropped,
}

/// An edit of the draft.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Tried {
    /// Its number, which it keeps.
    pub id: u32,
    /// Whether it counts.
    pub state: EditState,
    /// The edits that counted when it was made: its patches are of the texts so.
    pub(super) over: BTreeSet<u32>,
    /// The edit.
    pub edit: Edit,
}

/// Something done to the draft, which can be taken back.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub enum Step {
    /// An edit was tried.
    Tried {
        /// Its number.
        id: u32,
    },
    /// An edit was switched off, or on again.
    Switched {
        /// Its number.
        id: u32,
    },
    /// An edit was thrown away.
    Dropped {
        /// Its number.
        id: u32,
        /// What it was before.
        was: EditState,
    },
    /// An edit was made anew, for another element.
    Aimed {
        /// The number of the new one.
        id: u32,
        /// The number of the old one, which was thrown away.
        instead_of: u32,
        /// What that was before.
        was: EditState,
    },
}

impl Step {
    /// The edit that the step is about.
    pub fn id(self) -> u32 {
        let (Step::Tried { id }
        | Step::Switched { id }
        | Step::Dropped { id, .. }
        | Step::Aimed { id, .. }) = self;
        id
    }
}

/// The files as the draft leaves them.
#[derive(Debug, Default)]
pub struct Drafted {
    /// Their texts, by name.
    pub texts: Bases,
    /// The edits that are on and have lost their place: what they change is not there.
    pub adrift: Vec<u32>,
}

/// A place in a file that stays the same whatever is switched, dropped or tried later.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Anchor {
    file: String,
    piece: PieceAnchor,
}

/// The edits tried and not yet saved.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Draft {
    /// [`DRAFT_VERSION`].
    fingerpost: u32,
    /// What each changed file was based on.
    pub(crate) bases: BTreeMap<String, Base>,
    /// The number that the next edit gets.
    next: u32,
    pub(super) edits: Vec<Tried>,
    /// What was done, the newest last.
    pub(super) done: Vec<Step>,
    /// What was taken back, the newest last.
    pub(super) undone: Vec<Step>,
}

impl Default for Draft {
    fn default() -> Self {
        Draft {
            fingerpost: DRAFT_VERSION,
            bases: BTreeMap::new(),
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
    /// Where it is no draft, is of another version, or says what this program does not understand.
    pub fn from_json(json: &str) -> Result<Draft, DraftError> {
        #[derive(Deserialize)]
        struct Version {
            fingerpost: u32,
        }
        let malformed = |error: serde_json::Error| DraftError::Malformed {
            line: error.line(),
            column: error.column(),
            message: error.to_string(),
        };
        // The version first: a later format may differ in everything else.
        let version: Version = serde_json::from_str(json).map_err(malformed)?;
        if version.fingerpost != DRAFT_VERSION {
            return Err(DraftError::Version {
                found: version.fingerpost,
            });
        }
        serde_json::from_str(json).map_err(malformed)
    }

    /// The draft file's text.
    pub fn to_json(&self) -> String {
        let mut json = serde_json::to_string_pretty(self).expect("plain data serialises");
        json.push('\n');
        json
    }

    /// The edits in the order in which they were made, those thrown away left out.
    pub fn edits(&self) -> impl Iterator<Item = &Tried> {
        let all = self.edits.iter();
        all.filter(|tried| tried.state != EditState::Dropped)
    }

    /// Whether nothing is tried, on or off.
    pub fn is_empty(&self) -> bool {
        self.edits().next().is_none()
    }

    /// Whether there is nothing that a file of it would keep.
    pub(crate) fn is_blank(&self) -> bool {
        self.is_empty() && self.done.is_empty() && self.undone.is_empty()
    }

    fn on(&self) -> BTreeSet<u32> {
        let all = self.edits.iter();
        all.filter(|t| t.state == EditState::On)
            .map(|t| t.id)
            .collect()
    }

    /// Adds an edit, made over what the draft shows now; `bases` are the files of the draft and of
    /// the edit as they are on disk. Gives the edit's number.
    ///
    /// # Errors
    /// Where a file is not what the draft was based on, or the edit does not fit; the draft is then
    /// as it was.
    pub fn push(&mut self, edit: Edit, bases: &Bases) -> Result<u32, DraftError> {
        let id = self.insert(edit, bases)?;
        self.did(Step::Tried { id });
        Ok(id)
    }

    /// Puts an edit, made over what the draft shows without `old`, in that one's place. Gives its
    /// number; `None` where there is none of the old number.
    ///
    /// # Errors
    /// As [`Draft::push`].
    pub fn aim(&mut self, old: u32, edit: Edit, bases: &Bases) -> Result<Option<u32>, DraftError> {
        let Some(was) = self.edit(old).map(|t| t.state) else {
            return Ok(None);
        };
        let before = self.clone();
        if let Some(tried) = self.tried_mut(old) {
            tried.state = EditState::Dropped;
        }
        match self.insert(edit, bases) {
            Ok(id) => {
                self.did(Step::Aimed {
                    id,
                    instead_of: old,
                    was,
                });
                Ok(Some(id))
            }
            Err(error) => {
                *self = before;
                Err(error)
            }
        }
    }

    fn insert(&mut self, edit: Edit, bases: &Bases) -> Result<u32, DraftError> {
        let mut weaves = self.weaves(bases)?;
        let over = self.counting(&weaves);
        for change in &edit.changes {
            let base = bases.get(&change.file).ok_or_else(|| DraftError::NoBase {
                file: change.file.clone(),
            })?;
            let weave = weaves
                .entry(&change.file)
                .or_insert_with(|| Weave::new(base.source()));
            if !weave.record(self.next, &change.patch, &over) {
                return Err(DraftError::Misfit {
                    file: change.file.clone(),
                });
            }
        }
        drop(weaves);
        for file in edit.files() {
            self.bases
                .entry(file.to_owned())
                .or_insert_with(|| Base::of(&bases[file]));
        }
        let id = self.next;
        self.next += 1;
        self.edits.push(Tried {
            id,
            state: EditState::On,
            over,
            edit,
        });
        Ok(id)
    }

    /// The edits that the texts show: those that are on and have not lost their place.
    fn counting(&self, weaves: &Weaves<'_>) -> BTreeSet<u32> {
        placed(weaves, &self.on())
    }

    fn did(&mut self, step: Step) {
        self.done.push(step);
        self.undone.clear();
    }

    fn tried_mut(&mut self, id: u32) -> Option<&mut Tried> {
        self.edits.iter_mut().find(|tried| tried.id == id)
    }

    /// An edit by its number, unless it was thrown away.
    pub fn edit(&self, id: u32) -> Option<&Tried> {
        self.edits().find(|tried| tried.id == id)
    }

    /// Switches an edit on or off; says whether that changed anything. `None` where there is none of
    /// that number.
    pub fn switch(&mut self, id: u32, on: bool) -> Option<bool> {
        let state = self.edit(id)?.state;
        let wanted = if on { EditState::On } else { EditState::Off };
        if state == wanted {
            return Some(false);
        }
        self.tried_mut(id)?.state = wanted;
        self.did(Step::Switched { id });
        Some(true)
    }

    /// Throws an edit away. `None` where there is none of that number.
    pub fn discard(&mut self, id: u32) -> Option<()> {
        let was = self.edit(id)?.state;
        self.tried_mut(id)?.state = EditState::Dropped;
        self.did(Step::Dropped { id, was });
        Some(())
    }

    /// Takes back what was done last.
    pub fn undo(&mut self) -> Option<Step> {
        let step = self.done.pop()?;
        self.turn(step, true);
        self.undone.push(step);
        Some(step)
    }

    /// Does again what was taken back last.
    pub fn redo(&mut self) -> Option<Step> {
        let step = self.undone.pop()?;
        self.turn(step, false);
        self.done.push(step);
        Some(step)
    }

    fn turn(&mut self, step: Step, back: bool) {
        if let Step::Aimed {
            instead_of, was, ..
        } = step
            && let Some(old) = self.tried_mut(instead_of)
        {
            old.state = if back { was } else { EditState::Dropped };
        }
        let Some(tried) = self.tried_mut(step.id()) else {
            return;
        };
        tried.state = match (step, back) {
            (Step::Tried { .. } | Step::Aimed { .. }, true) | (Step::Dropped { .. }, false) => {
                EditState::Dropped
            }
            (Step::Tried { .. } | Step::Aimed { .. }, false) => EditState::On,
            (Step::Dropped { was, .. }, true) => was,
            (Step::Switched { .. }, _) => match tried.state {
                EditState::On => EditState::Off,
                _ => EditState::On,
            },
        };
    }

    /// The edit that a step is about, thrown away or not.
    pub fn edit_of(&self, step: Step) -> Option<&Edit> {
        let mut all = self.edits.iter();
        all.find(|tried| tried.id == step.id()).map(|t| &t.edit)
    }

    /// The files that the draft is about.
    pub fn files(&self) -> impl Iterator<Item = &str> {
        self.bases.keys().map(String::as_str)
    }

    /// The files after those edits that are on, of those files that are given.
    ///
    /// # Errors
    /// Where a file is not what the draft was based on, or an edit does not fit.
    pub fn replay(&self, bases: &Bases) -> Result<Drafted, DraftError> {
        let weaves = self.weaves(bases)?;
        let on = self.on();
        // What has lost its place is never put into a wrong one.
        let counts = placed(&weaves, &on);
        self.texts(&weaves, bases, &counts).map(|texts| Drafted {
            texts,
            adrift: on.difference(&counts).copied().collect(),
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

    pub(super) fn texts(
        &self,
        weaves: &Weaves<'_>,
        bases: &Bases,
        on: &BTreeSet<u32>,
    ) -> Result<Bases, DraftError> {
        let texts = weaves.iter().map(|(file, weave)| {
            let base = &bases[*file];
            Ok(((*file).to_owned(), replaced(base, &weave.text(on))?))
        });
        texts.collect()
    }

    /// Where an offset of a file, as the draft leaves it, is in any later state of the draft.
    pub fn anchor(&self, bases: &Bases, file: &str, offset: TextSize) -> Option<Anchor> {
        let weaves = self.weaves(bases).ok()?;
        let piece = match weaves.get(file) {
            Some(weave) => weave.anchor(offset.into(), &self.counting(&weaves))?,
            // A file that the draft is not about has its own text only.
            None => PieceAnchor::of_base(offset.into()),
        };
        Some(Anchor {
            file: file.to_owned(),
            piece,
        })
    }

    /// The offset of an anchor in its file as the draft leaves it now; none where its text is gone.
    pub fn offset(&self, bases: &Bases, anchor: &Anchor) -> Option<TextSize> {
        let weaves = self.weaves(bases).ok()?;
        let offset = match weaves.get(anchor.file.as_str()) {
            Some(weave) => weave.offset(&anchor.piece, &self.counting(&weaves))?,
            None => anchor.piece.in_base()?,
        };
        Some(TextSize::new(offset as u32))
    }

    pub(super) fn weaves<'a>(&'a self, bases: &'a Bases) -> Result<Weaves<'a>, DraftError> {
        let mut weaves = Weaves::new();
        for (file, expected) in &self.bases {
            let Some(base) = bases.get(file) else {
                continue;
            };
            if *expected != Base::of(base) {
                return Err(DraftError::Changed { file: file.clone() });
            }
            weaves.insert(file, Weave::new(base.source()));
        }
        for tried in &self.edits {
            for change in &tried.edit.changes {
                let Some(weave) = weaves.get_mut(change.file.as_str()) else {
                    continue;
                };
                if !weave.record(tried.id, &change.patch, &tried.over) {
                    return Err(DraftError::Misfit {
                        file: change.file.clone(),
                    });
                }
            }
        }
        Ok(weaves)
    }
}

pub(super) type Weaves<'a> = BTreeMap<&'a str, Weave<'a>>;

/// Those of some edits that have their place when only these count.
pub(super) fn placed(weaves: &Weaves<'_>, on: &BTreeSet<u32>) -> BTreeSet<u32> {
    let mut counts = on.clone();
    loop {
        let lost: Vec<u32> = counts
            .iter()
            .copied()
            .filter(|id| {
                weaves
                    .values()
                    .any(|weave| weave.holds(*id) && weave.is_adrift(*id, &counts))
            })
            .collect();
        if lost.is_empty() {
            return counts;
        }
        // What stood in what is lost now is lost too.
        counts.retain(|id| !lost.contains(id));
    }
}

/// A text with other characters, in its own encoding.
fn replaced(base: &Arc<Text>, source: &str) -> Result<Arc<Text>, DraftError> {
    let patch = difference(base.source(), source);
    if patch.is_empty() {
        return Ok(base.clone());
    }
    Ok(base.patched(&patch)?)
}

/// The one replacement that leads from one text to another.
pub(crate) fn difference(from: &str, to: &str) -> Patch {
    if from == to {
        return Patch::default();
    }
    let mut start = from
        .bytes()
        .zip(to.bytes())
        .take_while(|(a, b)| a == b)
        .count();
    while !from.is_char_boundary(start) || !to.is_char_boundary(start) {
        start -= 1;
    }
    let (rest, other) = (&from[start..], &to[start..]);
    let backwards = rest.bytes().rev().zip(other.bytes().rev());
    let mut end = backwards.take_while(|(a, b)| a == b).count();
    while !rest.is_char_boundary(rest.len() - end) || !other.is_char_boundary(other.len() - end) {
        end -= 1;
    }
    let range = TextRange::new(
        TextSize::of(&from[..start]),
        TextSize::of(&from[..from.len() - end]),
    );
    Patch::single(range, &other[..other.len() - end])
}

/// A unified diff of a file, with its name in the heads; empty where nothing differs.
pub(crate) fn unified_diff(before: &Text, after: &Text) -> String {
    if before.source() == after.source() {
        return String::new();
    }
    let name = before.name();
    TextDiff::from_lines(before.source(), after.source())
        .unified_diff()
        .context_radius(3)
        .header(&format!("a/{name}"), &format!("b/{name}"))
        .to_string()
}
