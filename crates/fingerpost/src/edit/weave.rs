//! All edits of one text woven into one sequence of pieces, so that any of them can be left out.
//!
//! A piece is text of the file as it was, or text that an edit put in; it remembers which edits took
//! it out. What a text looks like with some edits on and others off is read off the pieces: those
//! whose edit is on, and which no edit that is on took out. A patch is recorded in the text that
//! its maker saw, and stays where it belongs whatever is switched later.

use std::collections::BTreeSet;
use std::ops::Range;

use crate::text::{Patch, Replacement};

/// An edit of the text, by its number in the draft.
pub(super) type EditId = u32;

/// A piece of text that is never cut again but by a later patch.
#[derive(Clone, Debug)]
struct Piece {
    /// Who put it in; none for the file's own text.
    by: Option<EditId>,
    /// Which of the edit's replacements it belongs to.
    replacement: usize,
    /// Where it stands in the text that it comes from.
    range: Range<usize>,
    /// Who took it out.
    gone: BTreeSet<EditId>,
}

/// A place in the text of one piece's origin, whatever is shown.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct PieceAnchor {
    by: Option<EditId>,
    replacement: usize,
    offset: usize,
}

impl PieceAnchor {
    /// A place in a text without edits.
    pub fn of_base(offset: usize) -> PieceAnchor {
        PieceAnchor {
            by: None,
            replacement: 0,
            offset,
        }
    }

    /// The place, where it is one of the text without edits.
    pub fn in_base(&self) -> Option<usize> {
        self.by.is_none().then_some(self.offset)
    }
}

/// A patch, and the edits that were on when it was made.
#[derive(Clone, Debug)]
struct Recorded<'a> {
    id: EditId,
    patch: &'a Patch,
    over: &'a BTreeSet<EditId>,
}

/// The pieces of one text.
#[derive(Clone, Debug)]
pub(super) struct Weave<'a> {
    base: &'a str,
    recorded: Vec<Recorded<'a>>,
    pieces: Vec<Piece>,
}

impl<'a> Weave<'a> {
    pub fn new(base: &'a str) -> Self {
        let whole = Piece {
            by: None,
            replacement: 0,
            range: 0..base.len(),
            gone: BTreeSet::new(),
        };
        Weave {
            base,
            recorded: Vec::new(),
            pieces: vec![whole],
        }
    }

    fn text_of(&self, piece: &Piece) -> &'a str {
        let source = match piece.by {
            None => self.base,
            Some(id) => {
                let found = self.recorded.iter().find(|r| r.id == id);
                let recorded = found.expect("a piece is put in by a recorded edit");
                &recorded.patch.replacements()[piece.replacement].with
            }
        };
        &source[piece.range.clone()]
    }

    fn is_shown(piece: &Piece, on: &BTreeSet<EditId>) -> bool {
        piece.by.is_none_or(|id| on.contains(&id)) && piece.gone.is_disjoint(on)
    }

    /// Records an edit that was made over the text with the edits `over` on.
    ///
    /// Gives `false`, and records nothing, where the patch does not fit that text.
    #[must_use]
    pub fn record(&mut self, id: EditId, patch: &'a Patch, over: &'a BTreeSet<EditId>) -> bool {
        if !patch.fits(&self.text(over)) {
            return false;
        }
        self.recorded.push(Recorded { id, patch, over });
        // From the back, so that the places in front stay where they are.
        for (number, replacement) in patch.replacements().iter().enumerate().rev() {
            let range =
                usize::from(replacement.range.start())..usize::from(replacement.range.end());
            let first = self.cut(range.start, over);
            let last = self.cut(range.end, over).max(first);
            let mut replaced: BTreeSet<(EditId, usize)> = BTreeSet::new();
            for at in first..last {
                if Weave::is_shown(&self.pieces[at], over) {
                    self.pieces[at].gone.insert(id);
                    let piece = &self.pieces[at];
                    replaced.extend(piece.by.map(|by| (by, piece.replacement)));
                }
            }
            self.take_over(id, &replaced);
            self.pieces.insert(
                first,
                Piece {
                    by: Some(id),
                    replacement: number,
                    range: 0..replacement.with.len(),
                    gone: BTreeSet::new(),
                },
            );
        }
        true
    }

    /// Where an edit replaces all that another one put somewhere, it replaces what that one replaced
    /// there too: so it still has its place when the other is off.
    fn take_over(&mut self, id: EditId, replaced: &BTreeSet<(EditId, usize)>) {
        for (other, number) in replaced {
            let of_other = |p: &Piece| p.by == Some(*other) && p.replacement == *number;
            if !self
                .pieces
                .iter()
                .filter(|p| of_other(p))
                .all(|p| p.gone.contains(&id))
            {
                continue;
            }
            let Some(place) = self.pieces.iter().position(of_other) else {
                continue;
            };
            // What the other took out stands right behind what it put in.
            for piece in &mut self.pieces[place..] {
                if piece.gone.contains(other) || piece.by == Some(*other) {
                    piece.gone.insert(id);
                } else if piece.gone.is_empty() {
                    break;
                }
            }
        }
    }

    /// Cuts the pieces at an offset of the text with `on` on; gives the piece that begins there.
    fn cut(&mut self, offset: usize, on: &BTreeSet<EditId>) -> usize {
        let mut before = 0;
        for at in 0..self.pieces.len() {
            let piece = &self.pieces[at];
            if !Weave::is_shown(piece, on) {
                continue;
            }
            let length = piece.range.len();
            if before + length > offset {
                let inside = offset - before;
                if inside == 0 {
                    return at;
                }
                let mut rest = piece.clone();
                rest.range.start += inside;
                self.pieces[at].range.end = rest.range.start;
                self.pieces.insert(at + 1, rest);
                return at + 1;
            }
            before += length;
        }
        self.pieces.len()
    }

    /// The text with some edits on.
    pub fn text(&self, on: &BTreeSet<EditId>) -> String {
        let shown = self.pieces.iter().filter(|p| Weave::is_shown(p, on));
        shown.map(|p| self.text_of(p)).collect()
    }

    /// Whether an edit is one of this text.
    pub fn holds(&self, id: EditId) -> bool {
        self.recorded.iter().any(|r| r.id == id)
    }

    /// What an edit changes of the text with `over` on.
    pub fn patch(&self, id: EditId, over: &BTreeSet<EditId>) -> Patch {
        let mut with = over.clone();
        with.insert(id);
        let mut replacements = Vec::new();
        let mut open: Option<(usize, usize, String)> = None;
        let mut at = 0;
        for piece in &self.pieces {
            let (before, after) = (Weave::is_shown(piece, over), Weave::is_shown(piece, &with));
            let length = piece.range.len();
            match (before, after) {
                (true, true) => {
                    if length > 0 {
                        replacements.extend(open.take());
                    }
                    at += length;
                }
                (true, false) => {
                    open.get_or_insert((at, at, String::new())).1 += length;
                    at += length;
                }
                (false, true) => {
                    let (_, _, text) = open.get_or_insert((at, at, String::new()));
                    text.push_str(self.text_of(piece));
                }
                (false, false) => {}
            }
        }
        replacements.extend(open);
        let replacements = replacements
            .into_iter()
            .map(|(start, end, with)| Replacement {
                range: crate::text::span(start, end),
                with,
            });
        Patch::new(replacements.collect()).expect("pieces follow each other")
    }

    /// The place of an offset of the text with `on` on, in whatever it comes from.
    pub fn anchor(&self, offset: usize, on: &BTreeSet<EditId>) -> Option<PieceAnchor> {
        let mut before = 0;
        for piece in self.pieces.iter().filter(|p| Weave::is_shown(p, on)) {
            if offset < before + piece.range.len() {
                return Some(PieceAnchor {
                    by: piece.by,
                    replacement: piece.replacement,
                    offset: piece.range.start + offset - before,
                });
            }
            before += piece.range.len();
        }
        None
    }

    /// The offset of a place in the text with `on` on; none where it is not shown.
    pub fn offset(&self, anchor: &PieceAnchor, on: &BTreeSet<EditId>) -> Option<usize> {
        let mut before = 0;
        for piece in self.pieces.iter().filter(|p| Weave::is_shown(p, on)) {
            let same = piece.by == anchor.by && piece.replacement == anchor.replacement;
            if same && piece.range.contains(&anchor.offset) {
                return Some(before + anchor.offset - piece.range.start);
            }
            before += piece.range.len();
        }
        None
    }

    /// Whether an edit has lost its place while some edits are on: all that it changes was put in by
    /// an edit that is off, or is taken out by another.
    pub fn is_adrift(&self, id: EditId, on: &BTreeSet<EditId>) -> bool {
        let Some(recorded) = self.recorded.iter().find(|r| r.id == id) else {
            return true;
        };
        let count = recorded.patch.replacements().len();
        (0..count).any(|number| self.is_lost(recorded, number, on))
    }

    fn is_lost(&self, recorded: &Recorded<'_>, number: usize, on: &BTreeSet<EditId>) -> bool {
        let id = recorded.id;
        let own = |p: &Piece| p.by == Some(id) && p.replacement == number;
        let Some(place) = self.pieces.iter().position(own) else {
            return true;
        };
        let mine = &self.pieces[place];
        // There without this edit: its edit is on, and no other took it out that left ours.
        let there = |piece: &Piece| {
            piece.by.is_none_or(|by| on.contains(&by))
                && piece
                    .gone
                    .iter()
                    .all(|by| *by == id || !on.contains(by) || mine.gone.contains(by))
        };
        let targets: Vec<&Piece> = self.pieces[place..]
            .iter()
            .filter(|p| !own(p) && p.gone.contains(&id) && !p.range.is_empty())
            .collect();
        if !targets.is_empty() {
            return !targets.iter().any(|p| there(p));
        }
        // Something put in: it is lost where neither neighbour that it was put between is there.
        let solid = |p: &&Piece| {
            !p.range.is_empty() && Weave::is_shown(p, recorded.over) && p.by != Some(id)
        };
        let before = self.pieces[..place].iter().rev().find(solid);
        let after = self.pieces[place + 1..].iter().find(solid);
        let lost = |neighbour: Option<&Piece>| neighbour.is_some_and(|p| !there(p));
        lost(before) && (after.is_none() || lost(after)) || (before.is_none() && lost(after))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::text::TextRange;

    fn patch(start: u32, end: u32, with: &str) -> Patch {
        Patch::new(vec![Replacement {
            range: TextRange::new(start.into(), end.into()),
            with: with.to_owned(),
        }])
        .unwrap()
    }

    fn on(ids: &[EditId]) -> BTreeSet<EditId> {
        ids.iter().copied().collect()
    }

    #[test]
    fn any_edit_can_be_left_out() {
        let first = patch(6, 9, "navy");
        let second = patch(11, 11, " top: 0");
        let (none, one) = (on(&[]), on(&[1]));
        let mut weave = Weave::new("color:red; b");
        assert!(weave.record(1, &first, &none));
        assert_eq!(weave.text(&on(&[1])), "color:navy; b");
        assert!(weave.record(2, &second, &one));
        assert_eq!(weave.text(&on(&[1, 2])), "color:navy; top: 0 b");
        assert_eq!(weave.text(&on(&[2])), "color:red; top: 0 b");
        assert_eq!(weave.text(&on(&[])), "color:red; b");
        assert!(!weave.is_adrift(2, &on(&[2])));
    }

    #[test]
    fn a_value_set_twice_keeps_its_place_without_the_first() {
        let first = patch(6, 9, "navy");
        let second = patch(6, 10, "teal");
        let (none, one) = (on(&[]), on(&[1]));
        let mut weave = Weave::new("color:red; b");
        assert!(weave.record(1, &first, &none) && weave.record(2, &second, &one));
        assert_eq!(weave.text(&on(&[1, 2])), "color:teal; b");
        assert_eq!(weave.text(&on(&[2])), "color:teal; b");
        assert_eq!(weave.text(&on(&[1])), "color:navy; b");
        assert!(!weave.is_adrift(2, &on(&[2])));
    }

    #[test]
    fn what_stands_in_what_is_off_is_adrift() {
        let rule = patch(1, 1, " b{top:0}");
        let inside = patch(8, 9, "1px");
        let (none, one) = (on(&[]), on(&[1]));
        let mut weave = Weave::new("a ");
        assert!(weave.record(1, &rule, &none));
        assert!(weave.record(2, &inside, &one));
        assert_eq!(weave.text(&on(&[1, 2])), "a b{top:1px} ");
        assert!(weave.is_adrift(2, &on(&[2])));
        assert!(!weave.is_adrift(2, &on(&[1, 2])));
    }

    #[test]
    fn what_stands_in_what_is_taken_out_is_adrift() {
        let gone = patch(0, 10, "");
        let inside = patch(6, 9, "2px");
        let none = on(&[]);
        let mut weave = Weave::new("a{top:1px} b");
        assert!(weave.record(1, &gone, &none));
        assert!(weave.record(2, &inside, &none));
        assert_eq!(weave.text(&on(&[2])), "a{top:2px} b");
        assert!(weave.is_adrift(2, &on(&[1, 2])));
        assert!(!weave.is_adrift(1, &on(&[1, 2])));
    }

    #[test]
    fn a_patch_of_another_text_is_refused() {
        let far = patch(40, 41, "");
        let none = on(&[]);
        assert!(!Weave::new("short").record(1, &far, &none));
    }
}
