//! Carrying a draft over: to files that were saved in part, and to files that changed on disk.
//!
//! Both make some text of the weave ([`crate::draft::piece_table`]) the file's own: that of the edits that were
//! saved, or that of another hand. An edit that does not fit it is a conflict, with its reason,
//! and can be made again.

use std::collections::{BTreeMap, BTreeSet};

use crate::draft::ids::{EditId, Ids};
use crate::draft::piece_table::PieceTable;
use crate::draft::{Base, Bases, Conflict, Draft, DraftError, numbered};
use crate::text::{Cut, Hunk, Patch, Replacement, Text, changed_bytes, hunks, unified_diff};

/// The number that stands for what changed on disk; edits count from 1.
const ON_DISK: EditId = 0;

impl Draft {
    /// Takes edits that have just been saved out of the draft; `bases` and `after` are the files
    /// before and now. The others stay, carried over to the saved texts. Gives the numbers of those
    /// that conflict: what they change is gone with what was saved.
    ///
    /// # Errors
    /// Where a file is not what the draft was based on.
    pub fn saved(
        &mut self,
        bases: &Bases,
        after: &Bases,
        ids: &BTreeSet<u32>,
    ) -> Result<Vec<u32>, DraftError> {
        let saved: Ids = ids.iter().copied().collect();
        let kept: Ids = self
            .edits
            .iter()
            .map(|t| t.id)
            .filter(|id| !saved.contains(*id))
            .collect();
        let mut overs = self.overs();
        let clashes = self.clashes();
        let held = self.held();
        let mut next = self.clone();
        for (file, file_pieces) in &mut next.files {
            let (Some(before), Some(now)) = (bases.get(file), after.get(file)) else {
                return Err(DraftError::NoBase { file: file.clone() });
            };
            let text = file_pieces.pieces.settle(before.source(), &saved, &kept);
            if text != now.source() {
                return Err(DraftError::Misfit { file: file.clone() });
            }
            file_pieces.base = Base::of(now);
        }
        next.edits.retain(|t| kept.contains(t.id));
        for entry in &mut next.edits {
            entry.needs.retain(|id| !saved.contains(*id));
        }
        let still = next.held();
        let mut conflict = Vec::new();
        for id in kept.iter() {
            let others = clashes.get(&id).into_iter().flatten();
            let clashing: Vec<u32> = others.copied().filter(|o| saved.contains(*o)).collect();
            let gone = held.contains(id) && !still.contains(id);
            let why = match &clashing[..] {
                [] if gone => "what it changed is gone with what was saved".to_owned(),
                [] => continue,
                some => format!(
                    "it changes the same text as {}, which was saved",
                    numbered(some)
                ),
            };
            if next.set_aside(id, why, String::new(), String::new()) {
                conflict.push(id);
            }
        }
        for over in overs.values_mut() {
            *over = over.intersection(&kept);
        }
        next.set_overs(&overs);
        next.forget_steps(&saved);
        next.tidy();
        *self = next;
        Ok(conflict)
    }

    /// The edits that change something somewhere.
    fn held(&self) -> Ids {
        let ids = self.edits.iter().map(|t| t.id);
        ids.filter(|id| self.files.values().any(|w| w.pieces.holds(*id)))
            .collect()
    }

    /// Sets an edit aside; says whether it was not before, and not discarded.
    fn set_aside(&mut self, id: EditId, why: String, draft: String, disk: String) -> bool {
        let Some(entry) = self.edits.iter_mut().find(|t| t.id == id) else {
            return false;
        };
        if entry.conflict.is_some() {
            return false;
        }
        entry.conflict = Some(Conflict {
            file: entry.files.first().cloned().unwrap_or_default(),
            why,
            draft,
            disk,
        });
        let is_live = entry.state != crate::draft::EditState::Discarded;
        for file_pieces in self.files.values_mut() {
            file_pieces.pieces.forget(id);
        }
        is_live
    }

    /// What was done to edits that are saved is not undone step by step; a save is, as a whole.
    fn forget_steps(&mut self, saved: &Ids) {
        let stays = |step: &crate::draft::Step| !step.ids().iter().any(|id| saved.contains(*id));
        self.done.retain(stays);
        self.undone.retain(stays);
        // Those that were discarded stay only while that can be undone.
        let mut needed: BTreeSet<u32> = self.edits().map(|t| t.id).collect();
        needed.extend(
            self.done
                .iter()
                .chain(&self.undone)
                .flat_map(crate::draft::Step::ids),
        );
        let gone: Vec<u32> = self.edits.iter().map(|t| t.id).collect();
        let overs = self.overs();
        for id in gone.into_iter().filter(|id| !needed.contains(id)) {
            for file_pieces in self.files.values_mut() {
                file_pieces.pieces.forget(id);
            }
            self.edits.retain(|t| t.id != id);
        }
        self.set_overs(&overs);
    }

    /// Forgets files that no edit changes.
    fn tidy(&mut self) {
        let ids: Vec<EditId> = self.edits.iter().map(|t| t.id).collect();
        self.files
            .retain(|_, file_pieces| ids.iter().any(|id| file_pieces.pieces.holds(*id)));
    }

    /// The draft over files that changed on disk since it was made: a three-way merge of what the
    /// draft was based on, what is there now, and the edits. `old` holds the changed files as they
    /// were, `now` all files of the draft as they are; one that is missing there is gone. `known` holds
    /// the changes of files that are known, and need not be found. Edits that change what was changed
    /// by the other hand too conflict, and so do those of a file whose old text is missing.
    ///
    /// Gives the draft and the files that had changed.
    ///
    /// # Errors
    /// Where an old file is missing or is not what the draft was based on.
    pub fn carried(
        &self,
        old: &Bases,
        now: &Bases,
        known: &BTreeMap<String, Patch>,
    ) -> Result<(Draft, Vec<String>), DraftError> {
        let mut next = self.clone();
        let mut moved = Vec::new();
        let all: Ids = self.edits.iter().map(|t| t.id).collect();
        let mut settled: Vec<(String, String)> = Vec::new();
        for (file, file_pieces) in &self.files {
            let (present, before) = (now.get(file), old.get(file));
            let why = match (present, before) {
                (Some(present), _) if file_pieces.base == Base::of(present) => continue,
                (Some(_), Some(_)) => None,
                (None, _) => Some(format!("{file} is gone, or can't be read any more")),
                (Some(_), None) => Some(format!(
                    "{file} changed on disk, and what it was before is not kept"
                )),
            };
            moved.push(file.clone());
            if let Some(why) = why {
                for id in all.iter().filter(|id| file_pieces.pieces.holds(*id)) {
                    next.set_aside(id, why.clone(), String::new(), String::new());
                }
                next.files.remove(file);
                continue;
            }
            let (Some(present), Some(before)) = (present, before) else {
                continue;
            };
            if file_pieces.base != Base::of(before) {
                return Err(DraftError::Changed { file: file.clone() });
            }
            let misfit = || DraftError::Misfit { file: file.clone() };
            if !file_pieces.pieces.fits(before.source(), &all) {
                return Err(misfit());
            }
            let found = || change_on_disk(before.source(), present.source());
            let patch = known.get(file).cloned().unwrap_or_else(found);
            let mut pieces = file_pieces.pieces.clone();
            pieces
                .record(before.source(), ON_DISK, &patch, &[], &Ids::default())
                .ok_or_else(misfit)?;
            self.set_clashes_aside(&mut next, file, before, present, &pieces);
            settled.push((file.clone(), pieces_text(&pieces, before)));
            if let Some(file_pieces) = next.files.get_mut(file) {
                let conflict = next.edits.iter().filter(|t| t.conflict.is_some());
                for entry in conflict {
                    pieces.forget(entry.id);
                }
                file_pieces.pieces = pieces;
            }
        }
        for (file, text) in settled {
            let (Some(file_pieces), Some(before), Some(present)) =
                (next.files.get_mut(&file), old.get(&file), now.get(&file))
            else {
                continue;
            };
            let disk: Ids = std::iter::once(ON_DISK).collect();
            let after = file_pieces.pieces.settle(before.source(), &disk, &all);
            if after != present.source() || text != after {
                return Err(DraftError::Misfit { file });
            }
            file_pieces.base = Base::of(present);
        }
        next.forget_conflicts();
        next.tidy();
        Ok((next, moved))
    }

    /// What conflicts has no part in any file.
    fn forget_conflicts(&mut self) {
        for entry in self.edits.iter().filter(|t| t.conflict.is_some()) {
            for file_pieces in self.files.values_mut() {
                file_pieces.pieces.forget(entry.id);
            }
        }
    }

    /// The changes at places that changed on disk are conflicts, each with what it and the disk say there.
    fn set_clashes_aside(
        &self,
        next: &mut Draft,
        file: &str,
        before: &Text,
        present: &Text,
        pieces: &PieceTable,
    ) {
        let overs = self.overs();
        let nothing = Ids::default();
        let knew =
            |one: EditId, two: EditId| overs.get(&one).is_some_and(|over| over.contains(two));
        let clashes = pieces.clashes(&knew).into_iter();
        for (_, id) in clashes.filter(|(one, _)| *one == ON_DISK) {
            let over = self.placed(overs.get(&id).unwrap_or(&nothing));
            let text = |on: &Ids| pieces.text(before.source(), on);
            let own = unified_diff(file, &text(&over), &text(&over.with(id)));
            let disk = near(before, present, pieces, id);
            let why = format!("{file} changed on disk at this place");
            next.set_aside(id, why, own, disk);
        }
    }
}

/// The text as it is on disk now.
fn pieces_text(pieces: &PieceTable, before: &Text) -> String {
    pieces.text(before.source(), &std::iter::once(ON_DISK).collect())
}

/// The change on disk that an edit clashes with, as a unified diff of the lines around it.
fn near(before: &Text, now: &Text, pieces: &PieceTable, id: EditId) -> String {
    let Some(at) = pieces.first_clash(ON_DISK, id) else {
        return String::new();
    };
    let line = before
        .source()
        .cut(..at.min(before.source().len()))
        .matches('\n')
        .count();
    let lines = |text| -> Vec<&str> { str::split_inclusive(text, '\n').collect() };
    let (old, new) = (lines(before.source()), lines(now.source()));
    let all = hunks(&old, &new, 1);
    let is_here = |hunk: &&Hunk<'_>| hunk.before.contains(&line) || hunk.before.end == line;
    let here = all.iter().find(is_here);
    let mut text = String::new();
    for (mark, line) in here.into_iter().flat_map(|hunk| &hunk.lines) {
        text.push(*mark);
        text.push_str(line);
        if !line.ends_with('\n') {
            text.push('\n');
        }
    }
    text
}

/// How long a part of changed lines may be to be compared piece by piece.
const LONGEST_COMPARED: usize = 200_000;

/// What changed between two texts: by lines, and in changed lines by the pieces that a semicolon, a
/// brace, a comma, a tag or white space ends, so that changes in different places of one line are
/// different changes.
fn change_on_disk(from: &str, to: &str) -> Patch {
    let old: Vec<&str> = from.split_inclusive('\n').collect();
    let new: Vec<&str> = to.split_inclusive('\n').collect();
    let mut replacements = Vec::new();
    for change in changed_bytes(&old, &new) {
        let range = change.before;
        let (before, after) = (from.cut(range.clone()), to.cut(change.after));
        if before.is_empty() || after.is_empty() || before.len() + after.len() > LONGEST_COMPARED {
            replacements.push(replacement(range.start, range.end, after));
            continue;
        }
        let (old, new) = (parts(before), parts(after));
        for inner in changed_bytes(&old, &new) {
            let (start, end) = (
                range.start + inner.before.start,
                range.start + inner.before.end,
            );
            replacements.push(replacement(start, end, after.cut(inner.after)));
        }
    }
    Patch::new(replacements).expect("changed parts don't overlap")
}

fn replacement(start: usize, end: usize, with: &str) -> Replacement {
    Replacement {
        range: crate::text::span(start, end),
        with: with.to_owned(),
    }
}

/// The pieces of a line, and white space for itself.
fn parts(text: &str) -> Vec<&str> {
    let mut parts = Vec::new();
    let mut start = 0;
    for (at, c) in text.char_indices() {
        let before = text.cut(start..at).chars().next_back();
        if before.is_some_and(|b| b.is_whitespace() != c.is_whitespace()) {
            parts.push(text.cut(start..at));
            start = at;
        }
        if matches!(c, ';' | '{' | '}' | ',' | '>' | ':') {
            parts.push(text.cut(start..at + 1));
            start = at + 1;
        }
    }
    if start < text.len() {
        parts.push(text.cut(start..));
    }
    parts
}

/// Two changes of one text, each made without the other: that of a save that is undone, and what
/// was done since. Gives the text with both; none where they change the same.
pub(crate) fn both(base: &Text, back: &Patch, now: &Text) -> Option<Patch> {
    let nothing = Ids::default();
    let mut pieces = PieceTable::new(base.source());
    let disk = change_on_disk(base.source(), now.source());
    pieces.record(base.source(), ON_DISK, &disk, &[], &nothing)?;
    pieces.record(base.source(), 1, back, &[], &nothing)?;
    if !pieces.clashes(&|_, _| false).is_empty() {
        return None;
    }
    let disk: Ids = std::iter::once(ON_DISK).collect();
    Some(pieces.difference(base.source(), &disk, &disk.with(1)))
}
