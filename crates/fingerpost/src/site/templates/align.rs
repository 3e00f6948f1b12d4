//! Where a template writes a piece of a page: the piece is followed through the template, text by text, with anything in the
//! place of what the server prints.

use super::language::{Kind, Language, Part, parts};
use crate::text::{Cut, Text, TextRange, span};
use std::collections::{HashMap, HashSet};
use std::sync::Arc;

/// How many states of a search are kept for a piece at one place of a template. A piece that needs more may be written there, and nothing
/// more is known.
const MOST_STATES: usize = 200_000;

/// In place of a part: beside any tag that prints nothing. What is between two of those may be left out, or be there again.
const ANYWHERE: usize = usize::MAX;

/// A template, taken apart.
#[derive(Debug)]
pub(super) struct Template {
    pub text: Arc<Text>,
    pub language: Language,
    parts: Vec<Part>,
}

/// A piece of a page as a template writes it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Written {
    piece: String,
    /// Where the template has each byte of the piece; none where a tag of the template prints it.
    pub bytes: Vec<Option<usize>>,
    /// The tag that prints each of those bytes, by the start of the tag.
    pub tags: Vec<Option<usize>>,
}

impl Written {
    /// A piece that a template has as it is, from an offset on.
    pub fn so(piece: &str, at: usize) -> Written {
        Written {
            piece: piece.to_owned(),
            bytes: (at..at + piece.len()).map(Some).collect(),
            tags: vec![None; piece.len()],
        }
    }

    /// The tag that prints a part of a range.
    pub fn tag(&self, start: usize, end: usize) -> Option<usize> {
        let near = self
            .tags
            .get(start.saturating_sub(1)..(end + 1).min(self.tags.len()))?;
        near.iter().copied().flatten().next()
    }
}

/// Where the search is: in a part of the template, so far in the piece.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
struct State {
    part: usize,
    /// The offset in the template; the start of a tag.
    at: usize,
    piece: usize,
}

impl Template {
    pub fn new(text: Arc<Text>) -> Template {
        let language = Language::of(text.name());
        Template {
            parts: parts(text.source(), language),
            language,
            text,
        }
    }

    /// The tag that starts at an offset.
    pub fn tag(&self, at: usize) -> &str {
        let part = self.parts.iter().find(|part| part.range.start == at);
        part.map_or("", |part| self.text.source().cut(part.range.clone()))
    }

    /// The range of the template in which a range of the piece is written, if all of it is, and in one.
    pub fn range(&self, written: &Written, start: usize, end: usize) -> Option<(usize, usize)> {
        if start == end {
            return self.between(written, start).map(|at| (at, at));
        }
        let own = written.bytes.get(start..end)?;
        let first = own.first().copied().flatten()?;
        let in_one = |(at, byte): (usize, &Option<usize>)| *byte == Some(first + at);
        own.iter()
            .enumerate()
            .all(in_one)
            .then_some((first, first + own.len()))
    }

    /// The range of the template that writes a range of the piece together with the server: its ends are written, and what is between has no
    /// condition or loop.
    pub fn around(&self, written: &Written, start: usize, end: usize) -> Option<(usize, usize)> {
        let own = written.bytes.get(start..end)?;
        let first = own.first().copied().flatten()?;
        let last = own.last().copied().flatten()?;
        let inside =
            (self.parts.iter()).filter(|part| part.range.start < last && part.range.end > first);
        let is_plain = inside.into_iter().all(|part| part.kind != Kind::Control);
        (first <= last && is_plain).then_some((first, last + 1))
    }

    /// Where the template has the point between two bytes of the piece. Next to a tag that prints nothing, such as the end of a loop, it
    /// could be on either side, of which one is repeated or left out: there it is known only at the end of what is around it.
    fn between(&self, written: &Written, at: usize) -> Option<usize> {
        let byte = |at: usize| written.bytes.get(at).copied().flatten();
        let before = at.checked_sub(1).and_then(byte).map(|before| before + 1);
        let rest = written.piece.get(at..)?;
        let closes = ["\"", "'", ">", "</"]
            .iter()
            .any(|end| rest.starts_with(end));
        let opened = written.piece.get(..at)?;
        let is_start_tag = |tag: &str| !tag.starts_with("</") && tag.ends_with('>');
        let opens = (opened.rfind('<')).is_some_and(|from| is_start_tag(opened.cut(from..)));
        match (before, byte(at)) {
            (Some(before), Some(after)) if before == after => Some(after),
            // Tags are between them, and what one of those left out.
            (Some(before), Some(after)) if before < after => match (opens, closes) {
                (_, true) => Some(after),
                (true, false) => Some(before),
                (false, false) => None,
            },
            (Some(_), Some(_)) => None,
            // At an end of the piece, or beside what the server prints.
            (Some(before), None) => (opens || !self.touches_control(before)).then_some(before),
            (None, Some(after)) => (closes || !self.touches_control(after)).then_some(after),
            (None, None) => None,
        }
    }

    /// Whether a tag that prints nothing begins or ends at an offset.
    fn touches_control(&self, at: usize) -> bool {
        let controls = self.parts.iter().filter(|part| part.kind == Kind::Control);
        controls
            .into_iter()
            .any(|part| part.range.start == at || part.range.end == at)
    }

    /// The ranges of a piece that a range of the template writes.
    pub fn places_of(&self, written: &Written, own: TextRange) -> Vec<TextRange> {
        let (from, to) = (usize::from(own.start()), usize::from(own.end()));
        let length = to - from;
        let last = written.bytes.len().saturating_sub(length);
        let is_there = |at: &usize| self.range(written, *at, at + length) == Some((from, to));
        let all = (0..=last).filter(is_there);
        all.map(|at| span(at, at + length)).collect()
    }

    /// Each place where the template may write a piece of a page that begins with a tag of markup.
    pub fn find(&self, piece: &str) -> Vec<Written> {
        let source = self.text.source();
        let name = piece
            .find(|c: char| c.is_whitespace() || c == '>')
            .unwrap_or(piece.len());
        let Some(begin) = piece.get(..name).filter(|begin| begin.len() > 1) else {
            return Vec::new();
        };
        let mut found: Vec<Written> = Vec::new();
        for (at, _) in source.match_indices(begin) {
            let part = self.parts.partition_point(|part| part.range.end <= at);
            let is_text = (self.parts.get(part)).is_some_and(|part| part.kind == Kind::Text);
            let whole = source
                .cut(at + begin.len()..)
                .starts_with(|c: char| !c.is_alphanumeric() && c != '-');
            if !is_text || !whole {
                continue;
            }
            found.extend(self.follow(piece, part, at));
        }
        found
    }

    /// Follows a piece from a place of the template, in every way that there is.
    fn follow(&self, piece: &str, part: usize, at: usize) -> Option<Written> {
        let begin = State { part, at, piece: 0 };
        let mut before: HashMap<State, Vec<State>> = HashMap::from([(begin, Vec::new())]);
        let mut open = vec![begin];
        let mut ends = Vec::new();
        while let Some(state) = open.pop() {
            if state.piece == piece.len() {
                ends.push(state);
                continue;
            }
            for next in self.steps(state, piece.as_bytes()) {
                let known = before.entry(next).or_insert_with(|| {
                    open.push(next);
                    Vec::new()
                });
                known.push(state);
            }
            // It may be written here or not: then no other place is the only one.
            if before.len() > MOST_STATES {
                return Some(Written {
                    piece: piece.to_owned(),
                    bytes: vec![None; piece.len()],
                    tags: vec![None; piece.len()],
                });
            }
        }
        (!ends.is_empty()).then(|| self.traced(piece, ends, &before))
    }

    /// Where the search can go on.
    fn steps(&self, state: State, piece: &[u8]) -> Vec<State> {
        let enter = |part: usize, piece: usize| State {
            part,
            at: self
                .parts
                .get(part)
                .map_or(usize::MAX, |part| part.range.start),
            piece,
        };
        if state.part == ANYWHERE {
            let controls = self.parts.iter().enumerate();
            let controls = controls.filter(|(_, part)| part.kind == Kind::Control);
            return controls.map(|(at, _)| enter(at + 1, state.piece)).collect();
        }
        let Some(part) = self.parts.get(state.part) else {
            return Vec::new();
        };
        let mut next = Vec::new();
        match part.kind {
            Kind::Text => {
                let source = self.text.source().as_bytes();
                let after = |piece: usize| match state.at + 1 == part.range.end {
                    true => enter(state.part + 1, piece),
                    false => State {
                        part: state.part,
                        at: state.at + 1,
                        piece,
                    },
                };
                let byte = source.get(state.at);
                // Tags take the white space beside them away, in some languages always.
                if byte.is_some_and(u8::is_ascii_whitespace) && self.is_beside_tag(part, state.at) {
                    next.push(after(state.piece));
                }
                if byte == piece.get(state.piece) {
                    next.push(after(state.piece + 1));
                }
            }
            Kind::Output => {
                // The end of the piece is the end of a tag of markup, which the template has itself.
                if state.piece + 1 < piece.len() {
                    next.push(State {
                        piece: state.piece + 1,
                        ..state
                    });
                }
                next.push(enter(state.part + 1, state.piece));
            }
            // A loop begins again; a part is left out; a tag may end what another one began.
            Kind::Control => {
                next.push(enter(state.part + 1, state.piece));
                next.push(State {
                    part: ANYWHERE,
                    at: 0,
                    piece: state.piece,
                });
            }
        }
        next
    }

    /// Whether only white space is between an offset in a part of text and a tag beside it.
    fn is_beside_tag(&self, part: &Part, at: usize) -> bool {
        let source = self.text.source();
        let before = source.cut(part.range.start..at);
        let after = source.get(at..part.range.end).unwrap_or_default();
        (part.range.start > 0 && before.trim().is_empty())
            || (part.range.end < source.len() && after.trim().is_empty())
    }

    /// Where each byte of a piece is written, by the ways that led to its end. A byte that two of them have in two places is known in none.
    fn traced(
        &self,
        piece: &str,
        ends: Vec<State>,
        before: &HashMap<State, Vec<State>>,
    ) -> Written {
        let mut sources: Vec<Vec<(Kind, usize)>> = vec![Vec::new(); piece.len()];
        let mut seen: HashSet<State> = ends.iter().copied().collect();
        let mut open = ends;
        while let Some(state) = open.pop() {
            for from in before.get(&state).into_iter().flatten() {
                // Only in a part is a byte of the piece taken.
                let part = self.parts.get(from.part);
                if let (Some(part), Some(known)) = (part, sources.get_mut(from.piece))
                    && state.piece > from.piece
                {
                    let source = match part.kind {
                        Kind::Text => (Kind::Text, from.at),
                        kind => (kind, part.range.start),
                    };
                    if !known.contains(&source) {
                        known.push(source);
                    }
                }
                if seen.insert(*from) {
                    open.push(*from);
                }
            }
        }
        let only = |kind: bool| {
            let all = sources.iter().map(|sources| match sources[..] {
                [(own, at)] if (own == Kind::Text) == kind => Some(at),
                _ => None,
            });
            all.collect::<Vec<_>>()
        };
        let bytes = only(true);
        Written {
            piece: piece.to_owned(),
            tags: only(false),
            bytes,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn template(source: &str) -> Template {
        Template::new(Text::new("a.njk", source))
    }

    fn found(source: &str, piece: &str) -> Vec<Written> {
        template(source).find(piece)
    }

    #[test]
    fn a_piece_is_followed_through_tags() {
        let source = "<p><li class=\"a {{ state }}{% if late %} late{% endif %}\" id={{ n }}>";
        for piece in [
            "<li class=\"a open\" id=4>",
            "<li class=\"a open late\" id=4>",
            "<li class=\"a \" id=>",
        ] {
            let [written] = &found(source, piece)[..] else {
                panic!("{piece}")
            };
            // The class after all tags is written before the quotation mark.
            let quote = piece.rfind('"').unwrap();
            assert_eq!(
                template(source).range(written, quote, quote),
                source.rfind('"').map(|at| (at, at)),
                "{piece}"
            );
            assert_eq!(template(source).range(written, 1, 3), Some((4, 6)));
        }
        assert!(found(source, "<li class=\"b open\" id=4>").is_empty());
        assert!(found(source, "<link class=\"a open\" id=4>").is_empty());
    }

    #[test]
    fn loops_repeat_and_conditions_leave_out() {
        let template =
            "<ul>\n{% for x in all %}\n<li>{{ x }}</li>\n{% else %}<li>none\n{% endfor %}\n</ul>";
        for piece in [
            "<ul>\n\n<li>a</li>\n\n<li>b</li>\n\n</ul>",
            "<ul>\n<li>a</li>\n</ul>",
            "<ul></ul>",
        ] {
            assert_eq!(found(template, piece).len(), 1, "{piece}");
        }
        assert!(found(template, "<ul><b></b></ul>").is_empty());
    }

    #[test]
    fn a_piece_that_is_too_long_may_be_written_there() {
        let source = "<ul>{% for x in all %}<li>{{ x }}</li>{% endfor %}</ul>";
        let piece = format!("<ul>{}</ul>", "<li>boat</li>".repeat(MOST_STATES / 13));
        let [written] = &found(source, &piece)[..] else {
            panic!("it counts as a place")
        };
        assert_eq!(template(source).range(written, 1, 3), None);
    }

    #[test]
    fn what_a_tag_prints_is_no_text_of_the_template() {
        let piece = "<b title=\"quay 4\">";
        let template = template("<b title=\"quay {{ n }}\">");
        let [written] = &template.find(piece)[..] else {
            panic!()
        };
        let four = piece.find('4').unwrap();
        assert_eq!(template.range(written, four, four + 1), None);
        assert_eq!(written.tag(four, four + 1), Some(15));
        assert_eq!(template.range(written, 10, 14), Some((10, 14)));
    }
}
