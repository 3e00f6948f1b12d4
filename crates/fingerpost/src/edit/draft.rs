//! The draft: the edits tried and not yet saved, and the file that keeps them.
//!
//! The format is documented in `docs/draft-file.md`. Each file that the draft changes is known by
//! the digest of the bytes that it was based on, so that a draft is never applied to other bytes.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use similar::TextDiff;
use thiserror::Error;

use super::Edit;
use super::weave::Weave;
use crate::text::{EncodingError, Patch, Text, TextRange, TextSize};

/// The version of the draft file.
pub const DRAFT_VERSION: u32 = 2;

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
        let bytes = text.to_bytes();
        Base {
            bytes: bytes.len() as u64,
            sha256: Base::digest(&bytes),
            encoding: text.encoding().name().to_owned(),
        }
    }

    /// The SHA-256 of bytes, in hexadecimal.
    pub fn digest(bytes: &[u8]) -> String {
        Sha256::digest(bytes)
            .iter()
            .map(|b| format!("{b:02x}"))
            .collect()
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
    #[error(
        "{file} has changed on disk since the draft was made; drop the draft and make the change \
         again"
    )]
    Changed {
        /// The file.
        file: String,
    },
    /// A patch does not fit its text.
    #[error("the draft's change of {file} does not fit the file; drop the draft")]
    Misfit {
        /// The file.
        file: String,
    },
    /// The changed text can't be written in the file's encoding.
    #[error(transparent)]
    Encoding(#[from] EncodingError),
}

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
    /// The edits of the same file that were on when it was made: its patch is of the text so.
    over: BTreeSet<u32>,
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
}

/// A file as the draft leaves it.
#[derive(Debug)]
pub struct Drafted {
    /// Its text.
    pub text: Arc<Text>,
    /// The edits of it that are on and have lost their place: what they change is not there.
    pub adrift: Vec<u32>,
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
    edits: Vec<Tried>,
    /// What was done, the newest last.
    done: Vec<Step>,
    /// What was taken back, the newest last.
    undone: Vec<Step>,
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

    fn on(&self, file: &str) -> BTreeSet<u32> {
        let all = self.edits.iter();
        all.filter(|t| t.edit.file == file && t.state == EditState::On)
            .map(|t| t.id)
            .collect()
    }

    /// Adds an edit, made over what the draft shows now; `base` is the edited file as it is on disk.
    /// Gives the edit's number.
    pub fn push(&mut self, edit: Edit, base: &Arc<Text>) -> u32 {
        let over = self.counting(base);
        self.bases
            .entry(edit.file.clone())
            .or_insert_with(|| Base::of(base));
        let id = self.next;
        self.next += 1;
        self.edits.push(Tried {
            id,
            state: EditState::On,
            over,
            edit,
        });
        self.did(Step::Tried { id });
        id
    }

    /// The edits of a file that its text shows: those that are on and have not lost their place.
    fn counting(&self, base: &Arc<Text>) -> BTreeSet<u32> {
        let on = self.on(base.name());
        match self.weave(base) {
            Ok(Some(weave)) => {
                let placed = on.iter().copied();
                placed.filter(|id| !weave.is_adrift(*id, &on)).collect()
            }
            _ => on,
        }
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
        let (Step::Tried { id } | Step::Switched { id } | Step::Dropped { id, .. }) = step;
        let Some(tried) = self.tried_mut(id) else {
            return;
        };
        tried.state = match (step, back) {
            (Step::Tried { .. }, true) | (Step::Dropped { .. }, false) => EditState::Dropped,
            (Step::Tried { .. }, false) => EditState::On,
            (Step::Dropped { was, .. }, true) => was,
            (Step::Switched { .. }, _) => match tried.state {
                EditState::On => EditState::Off,
                _ => EditState::On,
            },
        };
    }

    /// The edit that a step is about, thrown away or not.
    pub fn edit_of(&self, step: Step) -> Option<&Edit> {
        let (Step::Tried { id } | Step::Switched { id } | Step::Dropped { id, .. }) = step;
        let all = self.edits.iter();
        all.filter(|tried| tried.id == id).map(|t| &t.edit).next()
    }

    /// The files that the draft is about.
    pub fn files(&self) -> impl Iterator<Item = &str> {
        self.bases.keys().map(String::as_str)
    }

    /// A file after those edits of it that are on.
    ///
    /// # Errors
    /// Where the file is not what the draft was based on, or an edit does not fit.
    pub fn apply(&self, base: &Arc<Text>) -> Result<Drafted, DraftError> {
        let Some(weave) = self.weave(base)? else {
            return Ok(Drafted {
                text: base.clone(),
                adrift: Vec::new(),
            });
        };
        let on = self.on(base.name());
        let adrift: Vec<u32> = on
            .iter()
            .copied()
            .filter(|id| weave.is_adrift(*id, &on))
            .collect();
        // What has lost its place is never put into a wrong one.
        let counts: BTreeSet<u32> = on.into_iter().filter(|id| !adrift.contains(id)).collect();
        Ok(Drafted {
            text: replaced(base, &weave.text(&counts))?,
            adrift,
        })
    }

    fn weave<'a>(&'a self, base: &'a Arc<Text>) -> Result<Option<Weave<'a>>, DraftError> {
        let file = base.name();
        let Some(expected) = self.bases.get(file) else {
            return Ok(None);
        };
        if *expected != Base::of(base) {
            return Err(DraftError::Changed {
                file: file.to_owned(),
            });
        }
        let mut weave = Weave::new(base.source());
        for tried in self.edits.iter().filter(|t| t.edit.file == file) {
            if !weave.record(tried.id, &tried.edit.patch, &tried.over) {
                return Err(DraftError::Misfit {
                    file: file.to_owned(),
                });
            }
        }
        Ok(Some(weave))
    }

    /// Takes a file that has just been saved out of the draft. Edits of it that are off stay, carried
    /// over to the saved text.
    pub(crate) fn saved(
        &mut self,
        before: &Arc<Text>,
        after: &Arc<Text>,
    ) -> Result<(), DraftError> {
        let file = before.name().to_owned();
        let on = self.on(&file);
        let mut kept: Vec<(u32, Patch)> = Vec::new();
        if let Some(weave) = self.weave(before)? {
            let off = self.edits.iter().filter(|t| t.edit.file == file);
            for tried in off.filter(|t| t.state == EditState::Off) {
                let mut with = on.clone();
                with.insert(tried.id);
                if !weave.is_adrift(tried.id, &with) {
                    kept.push((tried.id, difference(after.source(), &weave.text(&with))));
                }
            }
        }
        self.bases.remove(&file);
        if !kept.is_empty() {
            self.bases.insert(file.clone(), Base::of(after));
        }
        self.edits.retain_mut(|tried| {
            if tried.edit.file != file {
                return true;
            }
            let Some((_, patch)) = kept.iter().find(|(id, _)| *id == tried.id) else {
                return false;
            };
            tried.edit.patch = patch.clone();
            tried.over = BTreeSet::new();
            true
        });
        // What was done before a save is not taken back step by step.
        self.done.clear();
        self.undone.clear();
        Ok(())
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
fn difference(from: &str, to: &str) -> Patch {
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
