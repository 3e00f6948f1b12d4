//! Lines, indents and single replacements of a source text.

use crate::text::{Cut, Replacement, TextRange, TextSize};

/// The line ending of a text: that of its first line.
pub(in crate::edit) fn line_ending(source: &str) -> &'static str {
    match source.find('\n') {
        Some(at) if source.cut(..at).ends_with('\r') => "\r\n",
        _ => "\n",
    }
}

/// Where the line of an offset begins.
pub(in crate::edit) fn line_start(source: &str, offset: usize) -> usize {
    source.cut(..offset).rfind('\n').map_or(0, |at| at + 1)
}

/// The white space that the line of an offset begins with.
pub(in crate::edit) fn indent_at(source: &str, offset: usize) -> &str {
    let start = line_start(source, offset);
    let line = source.cut(start..);
    let length = line.len() - line.trim_start_matches([' ', '\t']).len();
    line.cut(..length)
}

/// Whether a range has its lines for itself, but for white space.
pub(in crate::edit) fn has_own_lines(source: &str, range: TextRange) -> bool {
    let (start, end) = (usize::from(range.start()), usize::from(range.end()));
    let before = source.cut(line_start(source, start)..start);
    let after = source.cut(end..).split('\n').next().unwrap_or("");
    before.trim().is_empty() && after.trim().is_empty()
}

/// A range with the lines that it has for itself, their last line ending included.
pub(in crate::edit) fn with_own_lines(source: &str, range: TextRange) -> TextRange {
    if !has_own_lines(source, range) {
        return range;
    }
    let start = line_start(source, range.start().into());
    let end = usize::from(range.end());
    let next = source.cut(end..).find('\n').map(|at| end + at + 1);
    match next {
        Some(next) => crate::text::span(start, next),
        // The last line of a file takes the ending before it along.
        None => crate::text::span(
            source.cut(..start).trim_end_matches(['\r', '\n']).len(),
            source.len(),
        ),
    }
}

/// The step by which a text indents: a tab, or the smallest number of spaces that it uses.
pub(in crate::edit) fn indent_step(source: &str) -> String {
    let mut least: Option<usize> = None;
    for line in source.lines() {
        if line.starts_with('\t') {
            return "\t".to_owned();
        }
        let width = line.len() - line.trim_start_matches(' ').len();
        // A line that begins with `*` goes on with a comment.
        if width > 1 && !line.trim_start().starts_with('*') && !line.trim().is_empty() {
            least = Some(least.map_or(width, |known| known.min(width)));
        }
    }
    " ".repeat(least.unwrap_or(2).min(8))
}

/// A replacement.
pub(in crate::edit) fn replacement(range: TextRange, with: impl Into<String>) -> Replacement {
    Replacement {
        range,
        with: with.into(),
    }
}

/// Text put in at an offset.
pub(in crate::edit) fn insertion(at: TextSize, with: impl Into<String>) -> Replacement {
    replacement(TextRange::empty(at), with)
}
