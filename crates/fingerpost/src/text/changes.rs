//! Where two lists of parts differ: lines of texts, pieces of lines, rules of sheets.

use std::hash::Hash;
use std::ops::Range;

use imara_diff::{Algorithm, Diff, InternedInput, TokenSource};

use super::Cut;

/// Parts of a list that are others in the next: what went, and what is there in its place.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Change {
    pub before: Range<usize>,
    pub after: Range<usize>,
}

/// Where two lists differ, in order.
pub(crate) fn changes<T: Eq + Hash>(before: &[T], after: &[T]) -> Vec<Change> {
    let input = InternedInput::new(Parts(before), Parts(after));
    let mut diff = Diff::compute(Algorithm::Myers, &input);
    diff.postprocess_no_heuristic(&input);
    let usizes = |range: Range<u32>| range.start as usize..range.end as usize;
    diff.hunks()
        .map(|hunk| Change {
            before: usizes(hunk.before),
            after: usizes(hunk.after),
        })
        .collect()
}

struct Parts<'a, T>(&'a [T]);

impl<'a, T: Eq + Hash> TokenSource for Parts<'a, T> {
    type Token = &'a T;
    type Tokenizer = std::slice::Iter<'a, T>;

    fn tokenize(&self) -> Self::Tokenizer {
        self.0.iter()
    }

    fn estimate_tokens(&self) -> u32 {
        self.0.len() as u32
    }
}

/// What is the same in two lists between their changes: where it begins in each, and how long it is.
pub(crate) fn unchanged(
    changes: &[Change],
    length: usize,
) -> impl Iterator<Item = (usize, usize, usize)> {
    let ends = changes.iter().map(|change| change.before.start);
    let starts = changes.iter().map(|c| (c.before.end, c.after.end));
    std::iter::once((0, 0))
        .chain(starts)
        .zip(ends.chain(std::iter::once(length)))
        .map(|((before, after), end)| (before, after, end - before))
        .filter(|(_, _, count)| *count > 0)
}

/// Where two texts differ, in bytes, by the parts that they consist of.
pub(crate) fn changed_bytes(before: &[&str], after: &[&str]) -> Vec<Change> {
    let (old, new) = (offsets(before), offsets(after));
    changes(before, after)
        .into_iter()
        .map(|change| Change {
            before: within(&old, change.before),
            after: within(&new, change.after),
        })
        .collect()
}

/// Where each part begins, and where the last one ends.
pub(crate) fn offsets(parts: &[&str]) -> Vec<usize> {
    let mut at = 0;
    let mut all = vec![0];
    for part in parts {
        at += part.len();
        all.push(at);
    }
    all
}

/// A range of parts in bytes, by their [`offsets`].
pub(crate) fn within(offsets: &[usize], range: Range<usize>) -> Range<usize> {
    let place = |part: usize| offsets.get(part).copied().unwrap_or_default();
    place(range.start)..place(range.end)
}

/// Changes that are shown together, with the lines around them.
#[derive(Debug)]
pub(crate) struct Hunk<'a> {
    pub before: Range<usize>,
    pub after: Range<usize>,
    /// The lines, each with its mark: ` `, `-` or `+`.
    pub lines: Vec<(char, &'a str)>,
}

/// The changes of lines, with `context` lines around them; those whose lines would meet are one.
pub(crate) fn hunks<'a>(before: &[&'a str], after: &[&'a str], context: usize) -> Vec<Hunk<'a>> {
    let mut groups: Vec<Vec<Change>> = Vec::new();
    for change in changes(before, after) {
        match groups.last_mut() {
            Some(group)
                if group
                    .last()
                    .is_some_and(|last| change.before.start <= last.before.end + 2 * context) =>
            {
                group.push(change);
            }
            _ => groups.push(vec![change]),
        }
    }
    let hunk = |group: Vec<Change>| {
        let (first, last) = (group.first()?, group.last()?);
        let lead = first.before.start.min(context);
        let tail = (before.len() - last.before.end).min(context);
        let mut hunk = Hunk {
            before: first.before.start - lead..last.before.end + tail,
            after: first.after.start - lead..last.after.end + tail,
            lines: Vec::new(),
        };
        let mut at = hunk.before.start;
        let end = hunk.before.end;
        let mut show = |mark: char, lines: &[&'a str]| {
            hunk.lines.extend(lines.iter().map(|line| (mark, *line)));
        };
        for change in &group {
            show(' ', before.cut(at..change.before.start));
            show('-', before.cut(change.before.clone()));
            show('+', after.cut(change.after.clone()));
            at = change.before.end;
        }
        show(' ', before.cut(at..end));
        Some(hunk)
    };
    groups.into_iter().filter_map(hunk).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// What is the same and what is there in the place of what went are the list after.
        #[test]
        fn changes_lead_from_one_list_to_the_other(
            before in prop::collection::vec(0u8..4, 0..12),
            after in prop::collection::vec(0u8..4, 0..12),
        ) {
            let all = changes(&before, &after);
            let mut made = before.clone();
            for change in all.iter().rev() {
                made.splice(change.before.clone(), after[change.after.clone()].iter().copied());
            }
            prop_assert_eq!(&made, &after);
            for (old, new, count) in unchanged(&all, before.len()) {
                prop_assert_eq!(&before[old..old + count], &after[new..new + count]);
            }
        }
    }
}
