//! Carrying a draft over: to files that were saved in part, and to files that changed on disk.
//!
//! Both read the patches anew off the weave ([`super::weave`]): an edit's patch over other edits than
//! those that it was made over.

use std::collections::BTreeSet;

use similar::TextDiff;

use super::Edit;
use super::draft::{Base, Bases, Draft, DraftError, Tried, Weaves, placed};
use super::weave::Weave;
use crate::text::{Patch, Replacement};

/// The number that stands for what changed on disk while a draft is merged; edits count from 1.
const ON_DISK: u32 = 0;

impl Draft {
    /// The files after only some of the edits, all of which must be on: what a save of them writes.
    ///
    /// # Errors
    /// [`DraftError::Apart`] where one of them was made over another that is not among them.
    pub fn partly(&self, bases: &Bases, ids: &BTreeSet<u32>) -> Result<Bases, DraftError> {
        let weaves = self.weaves(bases)?;
        let alone = placed(&weaves, ids);
        let apart: Vec<u32> = ids.difference(&alone).copied().collect();
        if !apart.is_empty() {
            return Err(DraftError::Apart { ids: apart });
        }
        self.texts(&weaves, bases, ids)
    }

    /// Takes edits that have just been saved out of the draft; `after` are the files as they are now.
    /// The others stay, carried over to the saved texts. Gives those that could not be carried over:
    /// they were off, and what they change is gone.
    ///
    /// # Errors
    /// Where a file is not what the draft was based on.
    pub fn saved(
        &mut self,
        bases: &Bases,
        after: &Bases,
        ids: &BTreeSet<u32>,
    ) -> Result<Vec<Tried>, DraftError> {
        let weaves = self.weaves(bases)?;
        let stay: BTreeSet<u32> = self
            .edits()
            .map(|t| t.id)
            .filter(|id| !ids.contains(id))
            .collect();
        let mut kept: Vec<Tried> = Vec::new();
        let mut lost: Vec<Tried> = Vec::new();
        for tried in self.edits.iter().filter(|t| stay.contains(&t.id)) {
            let over: BTreeSet<u32> = tried.over.intersection(&stay).copied().collect();
            let around: BTreeSet<u32> = over.union(ids).copied().collect();
            match carried(&weaves, tried, &around) {
                Some(edit) => kept.push(Tried {
                    edit,
                    over,
                    ..tried.clone()
                }),
                None => lost.push(tried.clone()),
            }
        }
        drop(weaves);
        self.edits = kept;
        self.bases.clear();
        let files: BTreeSet<String> = self
            .edits
            .iter()
            .flat_map(|t| t.edit.files().map(str::to_owned))
            .collect();
        for file in files {
            if let Some(text) = after.get(&file) {
                self.bases.insert(file, Base::of(text));
            }
        }
        // What was done before a save is not taken back step by step.
        self.done.clear();
        self.undone.clear();
        Ok(lost)
    }

    /// Carries the draft over to files that changed on disk: a three-way merge, line by line, of
    /// what the draft was based on, what is there now, and the edits. `old` and `new` hold the files
    /// before and now.
    ///
    /// # Errors
    /// [`DraftError::Conflict`] where an edit stands in lines that changed; the draft is then as it
    /// was.
    pub fn merge(&mut self, old: &Bases, new: &Bases) -> Result<Vec<String>, DraftError> {
        let mut moved: Vec<(String, Patch)> = Vec::new();
        for (file, base) in &self.bases {
            let (Some(before), Some(after)) = (old.get(file), new.get(file)) else {
                return Err(DraftError::NoBase { file: file.clone() });
            };
            if *base != Base::of(after) {
                moved.push((
                    file.clone(),
                    line_difference(before.source(), after.source()),
                ));
            }
        }
        let nothing = BTreeSet::new();
        let mut weaves = Weaves::new();
        for file in self.bases.keys() {
            let mut weave = Weave::new(old[file].source());
            if let Some((_, patch)) = moved.iter().find(|(name, _)| name == file)
                && !weave.record(ON_DISK, patch, &nothing)
            {
                return Err(DraftError::Misfit { file: file.clone() });
            }
            weaves.insert(file, weave);
        }
        let live: BTreeSet<u32> = self.edits().map(|t| t.id).collect();
        for tried in &self.edits {
            for change in &tried.edit.changes {
                let weave = weaves.get_mut(change.file.as_str());
                if weave.is_some_and(|w| !w.record(tried.id, &change.patch, &tried.over)) {
                    return Err(DraftError::Misfit {
                        file: change.file.clone(),
                    });
                }
            }
        }
        for (file, _) in &moved {
            let weave = &weaves[file.as_str()];
            let all = self.edits().filter(|t| t.edit.patch_of(file).is_some());
            let stuck: Vec<u32> = all
                .filter(|t| {
                    let mut around = t.over.clone();
                    around.insert(t.id);
                    let before = weave.is_adrift(t.id, &around);
                    around.insert(ON_DISK);
                    !before && weave.is_adrift(t.id, &around)
                })
                .map(|t| t.id)
                .collect();
            if !stuck.is_empty() {
                return Err(DraftError::Conflict {
                    file: file.clone(),
                    ids: stuck,
                });
            }
        }
        let mut edits = Vec::new();
        for tried in self.edits.iter().filter(|t| live.contains(&t.id)) {
            let over: BTreeSet<u32> = tried.over.intersection(&live).copied().collect();
            let mut around = over.clone();
            around.insert(ON_DISK);
            if let Some(edit) = carried(&weaves, tried, &around) {
                edits.push(Tried {
                    edit,
                    over,
                    ..tried.clone()
                });
            }
        }
        drop(weaves);
        self.edits = edits;
        for (file, base) in &mut self.bases {
            *base = Base::of(&new[file]);
        }
        self.done.clear();
        self.undone.clear();
        Ok(moved.into_iter().map(|(file, _)| file).collect())
    }
}

/// An edit with its patches as they are over other edits; none where it has no place there.
fn carried(weaves: &Weaves<'_>, tried: &Tried, over: &BTreeSet<u32>) -> Option<Edit> {
    let mut with = over.clone();
    with.insert(tried.id);
    let mut changes = Vec::new();
    for change in &tried.edit.changes {
        let weave = weaves.get(change.file.as_str())?;
        if weave.is_adrift(tried.id, &with) {
            return None;
        }
        changes.push(super::FileChange {
            file: change.file.clone(),
            patch: weave.patch(tried.id, over),
        });
    }
    Some(Edit {
        changes,
        ..tried.edit.clone()
    })
}

/// The changed lines between two texts.
fn line_difference(from: &str, to: &str) -> Patch {
    let diff = TextDiff::from_lines(from, to);
    let offsets = |text: &str| -> Vec<usize> {
        let mut at = 0;
        let mut starts = vec![0];
        for line in text.split_inclusive('\n') {
            at += line.len();
            starts.push(at);
        }
        starts
    };
    let (old, new) = (offsets(from), offsets(to));
    let changed = diff
        .ops()
        .iter()
        .filter(|op| op.tag() != similar::DiffTag::Equal);
    let replacements = changed.map(|op| {
        let (before, after) = (op.old_range(), op.new_range());
        Replacement {
            range: crate::text::span(old[before.start], old[before.end]),
            with: to[new[after.start]..new[after.end]].to_owned(),
        }
    });
    Patch::new(replacements.collect()).expect("changed lines don't overlap")
}
