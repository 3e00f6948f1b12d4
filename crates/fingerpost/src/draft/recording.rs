//! Going over the pieces of a text while a change is recorded in them.

use super::piece::{Mark, Piece};
use crate::draft::ids::Ids;
use crate::text::Replacement;
use std::collections::HashMap;

pub(super) fn put(by: Mark, text: &str) -> Piece {
    Piece::Put {
        by,
        text: text.to_owned(),
        gone: Vec::new(),
    }
}

/// What is there of a replacement while a patch is recorded.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Count {
    /// How many pieces it put in.
    pub all: usize,
    /// How many of those are shown.
    pub shown: usize,
    /// Whether it took something out.
    pub replaces: bool,
}

/// The pieces that are passed while a patch is recorded.
pub(super) struct Seen<'a> {
    pub counts: &'a HashMap<Mark, Count>,
    pub pieces: Vec<Piece>,
    /// The place after the last piece that is shown.
    behind: usize,
    /// Of each replacement, how many of its pieces are passed.
    passed: HashMap<Mark, usize>,
    /// The replacements some of whose pieces are passed, and some not.
    begun: Vec<Mark>,
    /// The same at the place after the last shown piece.
    around: Vec<Mark>,
}

impl<'a> Seen<'a> {
    pub(super) fn new(counts: &'a HashMap<Mark, Count>, capacity: usize) -> Seen<'a> {
        Seen {
            counts,
            pieces: Vec::with_capacity(capacity),
            behind: 0,
            passed: HashMap::new(),
            begun: Vec::new(),
            around: Vec::new(),
        }
    }

    pub(super) fn push(&mut self, piece: Piece, is_shown: bool) {
        if let Some(mark) = piece.by() {
            let passed = self.passed.entry(mark).or_default();
            *passed += 1;
            let all = self.counts.get(&mark).map_or(0, |count| count.all);
            if *passed >= all {
                self.begun.retain(|known| *known != mark);
            } else if *passed == 1 {
                self.begun.push(mark);
            }
        }
        self.pieces.push(piece);
        if is_shown {
            self.behind = self.pieces.len();
            self.around.clone_from(&self.begun);
        }
    }

    /// Puts text in after the last shown piece, and behind hidden text that takes its place; says
    /// in the middle of which edits' text that is.
    pub(super) fn insert(&mut self, mark: Mark, text: &str, needs: &mut Ids) {
        for (id, _) in &self.around {
            needs.insert(*id);
        }
        let mut place = self.behind;
        if let Some(last) = place.checked_sub(1).and_then(|last| self.pieces.get(last)) {
            let replaced = last.gone().to_vec();
            let takes_its_place =
                |piece: &Piece| piece.by().is_some_and(|by| replaced.contains(&by));
            while self.pieces.get(place).is_some_and(takes_its_place) {
                place += 1;
            }
        }
        self.pieces.insert(place, put(mark, text));
        self.behind = place + 1;
    }

    /// Puts text in after the piece that was passed last, whose place it takes.
    pub(super) fn replace(&mut self, mark: Mark, text: &str) {
        self.pieces.push(put(mark, text));
        self.behind = self.pieces.len();
    }
}

/// A replacement of some text while the pieces of that are passed.
pub(super) struct Removal<'a> {
    pub mark: Mark,
    pub end: usize,
    pub with: &'a str,
    /// How many shown pieces of each replacement it removes.
    taken: HashMap<Mark, usize>,
    /// Whether it removes text of the file itself that is not white space.
    takes_own: bool,
}

impl<'a> Removal<'a> {
    pub(super) fn new(mark: Mark, replacement: &'a Replacement) -> Removal<'a> {
        Removal {
            mark,
            end: replacement.range.end().into(),
            with: &replacement.with,
            taken: HashMap::new(),
            takes_own: false,
        }
    }

    pub(super) fn take(&mut self, piece: &Piece, base: &str) {
        match piece.by() {
            Some(mark) => *self.taken.entry(mark).or_default() += 1,
            None => self.takes_own |= !piece.text(base).trim().is_empty(),
        }
    }

    /// Says which edits it needs, and gives the replacements that it removes in full.
    pub(super) fn close(&self, counts: &HashMap<Mark, Count>, needs: &mut Ids) -> Vec<Mark> {
        let mut covered = Vec::new();
        let mut has_place = self.takes_own;
        for (other, taken) in &self.taken {
            match counts.get(other) {
                Some(count) if count.shown == *taken => {
                    has_place |= count.replaces;
                    covered.push(*other);
                }
                _ => needs.insert(other.0),
            }
        }
        // Without what these put in there is nothing that it changes.
        if !has_place {
            for (other, _) in &covered {
                needs.insert(*other);
            }
        }
        covered
    }
}
