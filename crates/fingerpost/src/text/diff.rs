//! How one text differs from another: as a patch, as a unified diff, and that diff for people's eyes.

use std::ops::Range;

use text_size::{TextRange, TextSize};

use super::{Cut, Patch, changed_bytes, changes, hunks, unchanged};

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
    let (rest, other) = (from.cut(start..), to.cut(start..));
    let backwards = rest.bytes().rev().zip(other.bytes().rev());
    let mut end = backwards.take_while(|(a, b)| a == b).count();
    while !rest.is_char_boundary(rest.len() - end) || !other.is_char_boundary(other.len() - end) {
        end -= 1;
    }
    let range = TextRange::new(
        TextSize::of(from.cut(..start)),
        TextSize::of(from.cut(..from.len() - end)),
    );
    Patch::single(range, other.cut(..other.len() - end))
}

/// A unified diff of two texts, with the file's name in the heads; empty where nothing differs.
pub(crate) fn unified_diff(name: &str, before: &str, after: &str) -> String {
    if before == after {
        return String::new();
    }
    let lines = |text| -> Vec<&str> { str::split_inclusive(text, '\n').collect() };
    let (old, new) = (lines(before), lines(after));
    let mut text = format!("--- a/{name}\n+++ b/{name}\n");
    for hunk in hunks(&old, &new, CONTEXT) {
        let (from, to) = (in_head(&hunk.before), in_head(&hunk.after));
        text.push_str(&format!("@@ -{from} +{to} @@\n"));
        for (mark, line) in hunk.lines {
            text.push(mark);
            text.push_str(line);
            if !line.ends_with('\n') {
                text.push_str("\n\\ No newline at end of file\n");
            }
        }
    }
    text
}

/// How many unchanged lines a unified diff shows around a change.
const CONTEXT: usize = 3;

/// Lines as the head of a hunk has them: from 1, with their count where it is not one; no lines are after the one before.
fn in_head(lines: &Range<usize>) -> String {
    match lines.len() {
        0 => format!("{},0", lines.start),
        1 => format!("{}", lines.start + 1),
        count => format!("{},{count}", lines.start + 1),
    }
}

/// Lines of a diff longer than this many bytes are cut: a minified sheet is one line, and no person reads
/// all of it to see one value change.
const LONGEST_LINE: usize = 400;

/// How many characters of an unchanged text are left beside a change in a line that is cut.
const AROUND: usize = 60;

/// A unified diff in which lines too long to read show only what changes in them, with `…` for the
/// rest. It is for reading; it can't be applied.
pub fn brief_diff(unified: &str) -> String {
    let mut text = String::new();
    let lines: Vec<&str> = unified.lines().collect();
    let mut at = 0;
    while let Some(line) = lines.get(at) {
        if let [from, to, ..] = lines.cut(at..)
            && from.starts_with("--- ")
            && to.starts_with("+++ ")
        {
            text.push_str(&format!("{from}\n{to}\n"));
            at += 2;
            continue;
        }
        let (old, old_end) = run(lines.cut(at..), '-');
        let (new, new_end) = run(lines.cut(at + old.len() + old_end.len()..), '+');
        if old.is_empty() && new.is_empty() {
            text.push_str(&cut(line));
            text.push('\n');
            at += 1;
            continue;
        }
        at += old.len() + old_end.len() + new.len() + new_end.len();
        let (mut minus, mut plus) = (String::new(), String::new());
        for index in 0..old.len().max(new.len()) {
            let (before, after) = match (old.get(index), new.get(index)) {
                (Some(before), Some(after)) if before.len().max(after.len()) > LONGEST_LINE => {
                    changed_parts(before.cut(1..), after.cut(1..))
                }
                (before, after) => {
                    let own =
                        |line: Option<&&str>| line.map_or_else(String::new, |l| cut(l.cut(1..)));
                    (own(before), own(after))
                }
            };
            if old.get(index).is_some() {
                minus.push_str(&format!("-{before}\n"));
            }
            if new.get(index).is_some() {
                plus.push_str(&format!("+{after}\n"));
            }
        }
        for (lines, end) in [(&mut minus, old_end), (&mut plus, new_end)] {
            lines.extend(end.iter().flat_map(|line| [line, "\n"]));
            text.push_str(lines);
        }
    }
    text
}

/// The lines at the beginning that have a mark, and the line after them that says that the file ends
/// without a line break.
fn run<'a>(lines: &'a [&'a str], mark: char) -> (&'a [&'a str], &'a [&'a str]) {
    let count = lines
        .iter()
        .take_while(|line| line.starts_with(mark))
        .count();
    let (marked, rest) = lines.split_at(count);
    let ends = count > 0 && rest.first().is_some_and(|line| line.starts_with('\\'));
    (marked, rest.cut(..usize::from(ends)))
}

/// The beginning of a line that is too long, else the line.
fn cut(line: &str) -> String {
    if line.len() <= LONGEST_LINE {
        return line.to_owned();
    }
    let shown: String = line.chars().take(2 * AROUND).collect();
    format!("{shown}… ({} more bytes)", line.len() - shown.len())
}

/// What differs between two lines, each part with a little of what is around it.
fn changed_parts(before: &str, after: &str) -> (String, String) {
    let parts = |line| -> Vec<&str> { str::split_inclusive(line, [';', '{', '}', '>']).collect() };
    let (old, new) = (parts(before), parts(after));
    let (mut minus, mut plus) = (String::new(), String::new());
    let mut at = 0;
    for change in changed_bytes(&old, &new) {
        let between = shortened(before.cut(at..change.before.start), at > 0, true);
        minus.push_str(&between);
        plus.push_str(&between);
        at = change.before.end;
        minus.push_str(before.cut(change.before));
        plus.push_str(after.cut(change.after));
    }
    let rest = shortened(before.cut(at..), at > 0, false);
    (minus + &rest, plus + &rest)
}

/// An unchanged text with its middle left out, or the side on which no change stands.
fn shortened(same: &str, change_before: bool, change_after: bool) -> String {
    let count = same.chars().count();
    let kept = AROUND * (usize::from(change_before) + usize::from(change_after));
    if count <= kept + 1 {
        return same.to_owned();
    }
    let mut text = String::new();
    if change_before {
        text.extend(same.chars().take(AROUND));
    }
    text.push('…');
    if change_after {
        text.extend(same.chars().skip(count - AROUND));
    }
    text
}

/// For each line of a text after a change, the line that it was before, from 1; none for one that is new.
pub(crate) fn lines_before(before: &str, after: &str) -> Vec<Option<u32>> {
    let (old, new): (Vec<&str>, Vec<&str>) = (before.lines().collect(), after.lines().collect());
    let mut lines = vec![None; new.len()];
    for (from, to, count) in unchanged(&changes(&old, &new), old.len()) {
        for at in 0..count {
            if let Some(line) = lines.get_mut(to + at) {
                *line = Some((from + at) as u32 + 1);
            }
        }
    }
    lines
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_long_line_shows_what_changes_in_it() {
        let rules = |word: &str| -> String {
            let rule = |n| {
                format!(
                    ".fare-{n}{{color:{}}}",
                    if n % 400 == 200 { word } else { "red" }
                )
            };
            (0..1000).map(rule).collect()
        };
        let (before, after) = (rules("blue"), rules("navy"));
        let whole = unified_diff("a.css", &before, &after);
        let brief = brief_diff(&whole);
        assert!(brief.len() < 1200, "{}", brief.len());
        let lines: Vec<&str> = brief.lines().collect();
        let minus = lines
            .iter()
            .find(|l| l.starts_with("-…"))
            .expect("the old line");
        let plus = lines
            .iter()
            .find(|l| l.starts_with("+…"))
            .expect("the new line");
        assert!(minus.contains(".fare-200{color:blue}") && minus.contains(".fare-600{color:blue}"));
        assert_eq!(minus.replace("-…", "+…").replace("blue", "navy"), **plus);
        assert!(!minus.contains(".fare-400{"));
    }

    #[test]
    fn short_lines_stay_as_they_are() {
        let whole = unified_diff("a.css", "a\n-- b\nc\n", "a\n++ b\nd\nc\ne");
        assert_eq!(brief_diff(&whole), whole.trim_end().to_owned() + "\n");
    }
}
