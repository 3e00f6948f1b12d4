//! What is said of the places in an answer besides their names: which lines the draft has moved or written, and
//! where a terminal's link to them leads.

use std::collections::HashMap;
use std::path::Path;

use fingerpost::site::ChangedFile;
use fingerpost::text::PlaceQuery;

use super::{FAINT, PLACE, painted};

/// The answer with a word after each place where the draft makes a difference: `(unsaved)` where a change that is
/// not saved wrote the line, `(42 on disk)` where the line stands elsewhere in the file as it is.
pub fn with_draft(text: &str, changes: &[ChangedFile]) -> String {
    let lines: HashMap<&str, Vec<Option<u32>>> = changes
        .iter()
        .map(|change| (change.before.name(), change.lines_before()))
        .collect();
    each(text, |place, file, line| {
        let Some(known) = lines.get(file) else {
            return painted(PLACE, place);
        };
        let before = known.get(line as usize - 1).copied().flatten();
        match before {
            Some(before) if before == line => painted(PLACE, place),
            Some(before) => {
                let beside = painted(FAINT, format!(" ({before} on disk)"));
                painted(PLACE, place) + &beside
            }
            None => painted(PLACE, place) + &painted(FAINT, " (unsaved)"),
        }
    })
}

/// The answer with links behind its places (the terminals' OSC 8), for files that are there.
pub fn with_links(text: &str, root: &Path) -> String {
    each(text, |place, file, line| {
        let path = root.join(file);
        let shown = painted(PLACE, place);
        match path.is_file() {
            true => format!(
                "\u{1b}]8;;file://{}#{line}\u{1b}\\{shown}\u{1b}]8;;\u{1b}\\",
                encoded(&path.to_string_lossy())
            ),
            false => shown,
        }
    })
}

/// A path as a URL has it.
fn encoded(path: &str) -> String {
    let mut out = String::with_capacity(path.len());
    for byte in path.bytes() {
        match byte {
            b'/' | b'.' | b'-' | b'_' | b'~' => out.push(char::from(byte)),
            byte if byte.is_ascii_alphanumeric() => out.push(char::from(byte)),
            byte => out.push_str(&format!("%{byte:02X}")),
        }
    }
    out
}

/// Puts something in the place of each place of an answer: of the text shown, the file and the line.
fn each(text: &str, mut shown: impl FnMut(&str, &str, u32) -> String) -> String {
    let (start, end) = (format!("{PLACE}"), format!("{PLACE:#}"));
    let mut out = String::with_capacity(text.len());
    let mut file = "";
    let mut rest = text;
    while let Some((before, after)) = rest.split_once(&*start)
        && let Some((place, behind)) = after.split_once(&*end)
    {
        out.push_str(before);
        rest = behind;
        match read(place) {
            // Beside the file that was named last.
            Some(("", line)) if !file.is_empty() => out.push_str(&shown(place, file, line)),
            Some((named, line)) if !named.is_empty() => {
                file = named;
                out.push_str(&shown(place, file, line));
            }
            _ => out.push_str(&painted(PLACE, place)),
        }
    }
    out.push_str(rest);
    out
}

/// The file and the line of a place as answers print it; `:LINE` has no file.
fn read(place: &str) -> Option<(&str, u32)> {
    match place.strip_prefix(':') {
        Some(line) => Some(("", line.parse().ok().filter(|line| *line > 0)?)),
        None => {
            let known: PlaceQuery = place.parse().ok()?;
            Some((place.get(..known.file.len())?, known.line))
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_place_leads_to_its_file() {
        let folder = tempfile::tempdir().unwrap();
        std::fs::write(folder.path().join("a b.css"), "").unwrap();
        let text = format!(
            "x {} and {}, {}, {}",
            painted(PLACE, "a b.css:3:1"),
            painted(PLACE, ":4"),
            painted(PLACE, "gone.css:3"),
            painted(PLACE, "https://site.example/"),
        );
        let linked = with_links(&text, folder.path());
        let link = |line: u32| {
            format!(
                "]8;;file://{}/a%20b.css#{line}\u{1b}",
                folder.path().display()
            )
        };
        assert!(
            linked.contains(&link(3)) && linked.contains(&link(4)),
            "{linked}"
        );
        assert_eq!(linked.matches("]8;;file").count(), 2, "{linked}");
        // And what is seen is the same.
        let seen = anstream::adapter::strip_str(&linked).to_string();
        assert_eq!(seen, anstream::adapter::strip_str(&text).to_string());
    }
}
