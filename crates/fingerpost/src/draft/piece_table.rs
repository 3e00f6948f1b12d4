//! All edits of one text joined into one sequence of pieces, so that any of them can be left out.
//!
//! A piece is text of the file as it is on disk, or text that an edit put in; it remembers which
//! edits took it out. What a text looks like with some edits on is read off the pieces: those whose
//! edit is on, and which no edit that is on removed. Recording a patch only ever cuts pieces, marks
//! them, and puts new ones in, so that
//!
//! - the text with the edits that counted when an edit was made, and that edit, is exactly the text
//!   that its maker saw with the patch applied: a draft of many edits is the same edits saved one by
//!   one;
//! - any edit can be off, and the others stay where they belong.
//!
//! At shared edges:
//!
//! - Text put in at a boundary belongs to what comes before it.
//! - Text that takes the place of other text stands behind what it replaced.
//! - A removal takes all between its first and its last character, also what is hidden there, and
//!   nothing else. Where it takes all that an earlier replacement put in, it takes what that one
//!   replaced, too: it fits without the earlier edit.
//! - An edit *needs* another one where it is inside of what that one put in, changes a part of it,
//!   removes nothing but it, or repeats text that it changed ([`Draft`](crate::draft::Draft) says of such
//!   an edit that it is not applied while the other is off).
//! - Two edits that were made without each other *clash* where both remove the same text, or one
//!   puts something into what the other removes.

use super::piece::{Mark, Piece};
use super::recording::{Count, Removal, Seen};
use std::collections::HashMap;
use std::ops::Range;

use serde::{Deserialize, Serialize};

use crate::draft::ids::{EditId, Ids};
use crate::text::{Cut, Patch, Replacement, TextRange};

/// A place in what one piece comes from, whatever is shown.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct PieceAnchor {
    by: Option<Mark>,
    offset: usize,
}

impl PieceAnchor {
    /// A place in a text without edits.
    pub fn of_base(offset: usize) -> PieceAnchor {
        PieceAnchor { by: None, offset }
    }

    /// The place, where it is one of the text without edits.
    pub fn in_base(&self) -> Option<usize> {
        self.by.is_none().then_some(self.offset)
    }
}

/// The pieces of one text.
#[derive(Clone, Debug, PartialEq, Eq, Deserialize)]
#[serde(try_from = "Vec<Piece>")]
pub(super) struct PieceTable {
    pieces: Vec<Piece>,
}

impl TryFrom<Vec<Piece>> for PieceTable {
    type Error = &'static str;

    /// Pieces as a file has them, which may say anything.
    fn try_from(pieces: Vec<Piece>) -> Result<PieceTable, Self::Error> {
        let mut at = 0;
        let in_order = pieces.iter().all(|piece| match piece {
            Piece::Put { .. } => true,
            Piece::Own {
                base: (start, end), ..
            } => {
                let follows = *start == at && end >= start;
                at = *end;
                follows
            }
        });
        match in_order {
            true => Ok(PieceTable { pieces }),
            false => Err("its pieces are not those of a text, each part of it once and in order"),
        }
    }
}

impl Serialize for PieceTable {
    fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        self.pieces.serialize(serializer)
    }
}

impl PieceTable {
    /// A text without edits.
    pub fn new(base: &str) -> PieceTable {
        PieceTable {
            pieces: vec![Piece::Own {
                base: (0, base.len() as u32),
                gone: Vec::new(),
            }],
        }
    }

    /// Whether the pieces are those of this text, and of edits of these numbers: what was read from a
    /// file is checked before it is used.
    pub fn fits(&self, base: &str, known: &Ids) -> bool {
        let mut at = 0;
        let of_text = self.pieces.iter().all(|piece| match piece {
            Piece::Put { .. } => true,
            Piece::Own { base: (_, end), .. } => {
                at = *end as usize;
                base.is_char_boundary(at)
            }
        });
        of_text && at == base.len() && self.ids().all(|id| known.contains(id))
    }

    /// The edits that have pieces here or took some out.
    pub fn ids(&self) -> impl Iterator<Item = EditId> {
        self.pieces.iter().flat_map(|piece| {
            let gone = piece.gone().iter().map(|(id, _)| *id);
            gone.chain(piece.by().map(|(id, _)| id))
        })
    }

    /// The text with some edits on.
    pub fn text(&self, base: &str, on: &Ids) -> String {
        let shown = self.pieces.iter().filter(|p| p.is_shown(on));
        shown.map(|p| p.text(base)).collect()
    }

    /// Records a patch that was made over the text with the edits `over` on, and gives the edits that
    /// it needs. `copies` are ranges of that text that the patch repeats elsewhere.
    ///
    /// Gives none, and records nothing, where the patch does not fit that text.
    #[must_use]
    pub fn record(
        &mut self,
        base: &str,
        id: EditId,
        patch: &Patch,
        copies: &[TextRange],
        over: &Ids,
    ) -> Option<Ids> {
        if !patch.fits(&self.text(base, over)) {
            return None;
        }
        let replacements = patch.replacements();
        let ranges = || replacements.iter().map(|r| offsets(r.range));
        self.cut(ranges().chain(copies.iter().map(|r| offsets(*r))), over);
        // Parts of one edit are told apart also where its text is patched more than once.
        let first_part = self.next_part(id);
        let mut needs = self.needs_of_copies(copies, over);
        let counts = self.counts(over);
        let old = std::mem::take(&mut self.pieces);
        let mut seen = Seen::new(&counts, old.len() + replacements.len() * 2);
        let mut at = 0;
        let mut waiting = replacements
            .iter()
            .zip(first_part..)
            .map(|(replacement, part)| ((id, part), replacement))
            .peekable();
        let mut open: Option<Removal> = None;
        let mut hidden: Vec<usize> = Vec::new();
        // What earlier replacements put in and this edit removes in full.
        let mut covered: HashMap<Mark, Mark> = HashMap::new();
        for mut piece in old {
            let is_shown = piece.is_shown(over) && piece.length() > 0;
            while is_shown
                && open.is_none()
                && let Some((mark, replacement)) =
                    waiting.next_if(|(_, r)| usize::from(r.range.start()) == at)
            {
                if replacement.range.is_empty() {
                    seen.insert(mark, &replacement.with, &mut needs);
                } else {
                    open = Some(Removal::new(mark, replacement));
                    hidden.clear();
                }
            }
            if let Some(removal) = &mut open {
                if is_shown {
                    // What is hidden in between is removed with what is around it.
                    for place in hidden.drain(..) {
                        if let Some(piece) = seen.pieces.get_mut(place) {
                            piece.gone_mut().push(removal.mark);
                        }
                    }
                    removal.take(&piece, base);
                    piece.gone_mut().push(removal.mark);
                } else {
                    hidden.push(seen.pieces.len());
                }
            }
            at += if is_shown { piece.length() } else { 0 };
            seen.push(piece, is_shown);
            if let Some(removal) = open.take_if(|r| is_shown && r.end <= at) {
                let all = removal.close(&counts, &mut needs);
                covered.extend(all.into_iter().map(|other| (other, removal.mark)));
                if !removal.with.is_empty() {
                    seen.replace(removal.mark, removal.with);
                }
            }
        }
        for (mark, replacement) in waiting {
            seen.insert(mark, &replacement.with, &mut needs);
        }
        self.pieces = seen.pieces;
        if !covered.is_empty() {
            self.remove_covered(id, &covered);
        }
        Some(needs.intersection(over))
    }

    /// How many pieces each part of each edit has, and how many of them are shown.
    fn counts(&self, over: &Ids) -> HashMap<Mark, Count> {
        let mut counts: HashMap<Mark, Count> = HashMap::new();
        for piece in &self.pieces {
            if let Some(mark) = piece.by() {
                let count = counts.entry(mark).or_default();
                count.all += 1;
                count.shown += usize::from(piece.is_shown(over));
            }
            for mark in piece.gone() {
                counts.entry(*mark).or_default().replaces = true;
            }
        }
        counts
    }

    /// What a removed replacement had replaced is removed by its remover too.
    fn remove_covered(&mut self, id: EditId, covered: &HashMap<Mark, Mark>) {
        for piece in &mut self.pieces {
            let gone = piece.gone_mut();
            let more = gone.iter().find_map(|mark| covered.get(mark).copied());
            if let Some(mark) = more
                && !gone.iter().any(|(by, _)| *by == id)
            {
                gone.push(mark);
            }
        }
    }

    /// The edits that put all the text of some ranges there; none where some of it is the file's own.
    pub fn makers(&self, base: &str, ranges: &[TextRange], on: &Ids) -> Ids {
        let mut makers = Ids::default();
        for range in ranges {
            let range = offsets(*range);
            let mut own = false;
            let mut here = Ids::default();
            let mut at = 0;
            for piece in self.pieces.iter().filter(|p| p.is_shown(on)) {
                let (start, end) = (at.max(range.start), (at + piece.length()).min(range.end));
                if start < end {
                    match piece.by() {
                        Some((id, _)) => here.insert(id),
                        None => {
                            let text = piece.text(base).as_bytes();
                            let part = text.cut(start - at..end - at);
                            own |= !part.trim_ascii().is_empty();
                        }
                    }
                }
                at += piece.length();
            }
            if !own {
                makers = makers.union(&here);
            }
        }
        makers
    }

    fn next_part(&self, id: EditId) -> u32 {
        let marks = self
            .pieces
            .iter()
            .flat_map(|p| p.gone().iter().copied().chain(p.by()));
        let own = marks.filter(|(by, _)| *by == id).map(|(_, part)| part + 1);
        own.max().unwrap_or(0)
    }

    /// Cuts the pieces at the edges of ranges of the text with `on` on.
    fn cut(&mut self, ranges: impl Iterator<Item = Range<usize>>, on: &Ids) {
        let mut edges: Vec<usize> = ranges.flat_map(|r| [r.start, r.end]).collect();
        edges.sort_unstable();
        edges.dedup();
        let mut edges = edges.into_iter().peekable();
        let mut pieces = Vec::with_capacity(self.pieces.len() + edges.len());
        let mut at = 0;
        for mut piece in std::mem::take(&mut self.pieces) {
            if piece.is_shown(on) {
                while let Some(edge) = edges.peek().copied() {
                    if edge <= at {
                        edges.next();
                        continue;
                    }
                    if edge >= at + piece.length() {
                        break;
                    }
                    let rest = piece.split_off(edge - at);
                    at += piece.length();
                    pieces.push(std::mem::replace(&mut piece, rest));
                }
                at += piece.length();
            }
            pieces.push(piece);
        }
        self.pieces = pieces;
    }

    /// The edits that changed ranges of the text with `on` on, at whose edges the pieces are cut.
    fn needs_of_copies(&self, copies: &[TextRange], on: &Ids) -> Ids {
        let mut needs = Ids::default();
        for copy in copies {
            let range = offsets(*copy);
            let mut at = 0;
            for piece in &self.pieces {
                let inside = at >= range.start && at < range.end;
                if piece.is_shown(on) {
                    if inside && let Some((id, _)) = piece.by() {
                        needs.insert(id);
                    }
                    at += piece.length();
                } else if at > range.start && at < range.end {
                    // Taken out of the middle of what is repeated.
                    let by = piece.gone().iter().map(|(id, _)| *id);
                    for id in by.filter(|id| on.contains(*id)) {
                        needs.insert(id);
                    }
                }
            }
        }
        needs
    }

    /// Pairs of edits that can't both count: each was made without the other, and they change the
    /// same text. `knew` says whether the first was made over the second.
    pub fn clashes(&self, knew: &dyn Fn(EditId, EditId) -> bool) -> Vec<(EditId, EditId)> {
        let apart = |a: EditId, b: EditId| a != b && !knew(a, b) && !knew(b, a);
        let mut last: HashMap<Mark, usize> = HashMap::new();
        for (at, piece) in self.pieces.iter().enumerate() {
            for mark in piece.gone() {
                last.insert(*mark, at);
            }
        }
        let mut found: Vec<(EditId, EditId)> = Vec::new();
        let mut open: Vec<(Mark, usize)> = Vec::new();
        for (at, piece) in self.pieces.iter().enumerate() {
            open.retain(|(_, end)| *end > at);
            let gone = piece.gone();
            if piece.length() == 0 {
                continue;
            }
            for (number, (one, _)) in gone.iter().enumerate() {
                for (two, _) in gone.cut(number + 1..) {
                    found.extend(apart(*one, *two).then_some((*one, *two)));
                }
            }
            if let Some((by, _)) = piece.by() {
                let taken = gone.iter().map(|(id, _)| *id);
                let around = open.iter().map(|((id, _), _)| *id);
                for id in taken.chain(around) {
                    found.extend(apart(by, id).then_some((by, id)));
                }
            }
            for mark in gone {
                let end = last.get(mark).copied().unwrap_or(at);
                if end > at && !open.iter().any(|(known, _)| known == mark) {
                    open.push((*mark, end));
                }
            }
        }
        for pair in &mut found {
            *pair = (pair.0.min(pair.1), pair.0.max(pair.1));
        }
        found.sort_unstable();
        found.dedup();
        found
    }

    /// The offset, in the file's own text, of the first place where two edits clash.
    pub fn first_clash(&self, one: EditId, two: EditId) -> Option<usize> {
        let mut at = 0;
        for piece in &self.pieces {
            let involves = |id: EditId| {
                let gone = piece.gone().iter().any(|(by, _)| *by == id);
                gone || piece.by().is_some_and(|(by, _)| by == id)
            };
            if involves(one) && involves(two) {
                return Some(at);
            }
            if let Piece::Own { base, .. } = piece {
                at = base.1 as usize;
            }
        }
        // One of them puts something into what the other removes.
        let mut at = 0;
        for piece in &self.pieces {
            if piece.by().is_some_and(|(by, _)| by == one || by == two) {
                return Some(at);
            }
            if let Piece::Own { base, .. } = piece {
                at = base.1 as usize;
            }
        }
        None
    }

    /// What leads from the text with some edits on to the one with others on.
    pub fn difference(&self, base: &str, before: &Ids, after: &Ids) -> Patch {
        let mut replacements = Vec::new();
        let mut open: Option<(usize, usize, String)> = None;
        let mut at = 0;
        for piece in &self.pieces {
            let length = piece.length();
            match (piece.is_shown(before), piece.is_shown(after)) {
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
                    text.push_str(piece.text(base));
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

    /// Makes the text with some edits on the file's own text, forgets those that are neither among
    /// them nor `kept`, and keeps the places of the kept ones. Gives the new text.
    pub fn settle(&mut self, base: &str, saved: &Ids, kept: &Ids) -> String {
        let mut text = String::new();
        let mut pieces: Vec<Piece> = Vec::new();
        for piece in std::mem::take(&mut self.pieces) {
            let gone: Vec<Mark> = piece.gone().to_vec();
            let kept_gone = || {
                let all = gone.iter().copied();
                all.filter(|(id, _)| kept.contains(*id)).collect::<Vec<_>>()
            };
            if piece.is_shown(saved) {
                if piece.length() == 0 {
                    continue;
                }
                let start = text.len() as u32;
                text.push_str(piece.text(base));
                let end = text.len() as u32;
                match pieces.last_mut() {
                    Some(Piece::Own { base, gone }) if *gone == kept_gone() => base.1 = end,
                    _ => pieces.push(Piece::Own {
                        base: (start, end),
                        gone: kept_gone(),
                    }),
                }
            } else if let Piece::Put { by, text, .. } = piece
                && kept.contains(by.0)
                && !gone.iter().any(|(id, _)| saved.contains(*id))
            {
                pieces.push(Piece::Put {
                    by,
                    text,
                    gone: kept_gone(),
                });
            }
        }
        self.pieces = pieces;
        if self.pieces.is_empty() {
            *self = PieceTable::new("");
        }
        text
    }

    /// Takes an edit out as if it had never been made.
    pub fn forget(&mut self, id: EditId) {
        self.pieces
            .retain(|p| p.by().is_none_or(|(by, _)| by != id));
        for piece in &mut self.pieces {
            piece.gone_mut().retain(|(by, _)| *by != id);
        }
    }

    /// Whether an edit changes anything here.
    pub fn holds(&self, id: EditId) -> bool {
        self.ids().any(|known| known == id)
    }

    /// The place of an offset of the text with `on` on, in whatever it comes from.
    pub fn anchor(&self, offset: usize, on: &Ids) -> Option<PieceAnchor> {
        let mut before = 0;
        let mut own: HashMap<Mark, usize> = HashMap::new();
        for piece in &self.pieces {
            let start = match piece {
                Piece::Own { base, .. } => base.0 as usize,
                Piece::Put { by, text, .. } => {
                    let known = own.entry(*by).or_default();
                    let start = *known;
                    *known += text.len();
                    start
                }
            };
            if !piece.is_shown(on) {
                continue;
            }
            if offset < before + piece.length() {
                return Some(PieceAnchor {
                    by: piece.by(),
                    offset: start + offset - before,
                });
            }
            before += piece.length();
        }
        None
    }

    /// The offset of a place in the text with `on` on; none where it is not shown.
    pub fn offset(&self, anchor: &PieceAnchor, on: &Ids) -> Option<usize> {
        let mut before = 0;
        let mut own = 0;
        for piece in &self.pieces {
            let start = match piece {
                Piece::Own { base, .. } => base.0 as usize,
                Piece::Put { by, text, .. } if Some(*by) == anchor.by => {
                    own += text.len();
                    own - text.len()
                }
                Piece::Put { .. } => 0,
            };
            let is_shown = piece.is_shown(on);
            let inside = (start..start + piece.length()).contains(&anchor.offset);
            if is_shown && piece.by() == anchor.by && inside {
                return Some(before + anchor.offset - start);
            }
            if is_shown {
                before += piece.length();
            }
        }
        None
    }
}

fn offsets(range: TextRange) -> Range<usize> {
    usize::from(range.start())..usize::from(range.end())
}
