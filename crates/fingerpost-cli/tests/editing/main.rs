//! Every kind of edit through the real command, on the demo theme: its summary, the lines that change and
//! the notes below them. Each edit is then saved, and taken back to the same bytes.

mod declarations;
mod markup;
mod refused;
mod rules;
#[path = "../site/mod.rs"]
mod site;

use std::collections::BTreeMap;
use std::fs;
use std::path::Path;

use site::Site;

/// The bytes of every file of a site, by name.
fn files(site: &Site) -> BTreeMap<String, Vec<u8>> {
    fn collect(root: &Path, folder: &Path, found: &mut BTreeMap<String, Vec<u8>>) {
        for entry in fs::read_dir(folder).unwrap() {
            let path = entry.unwrap().path();
            let name = path.strip_prefix(root).unwrap().display().to_string();
            if path.is_dir() && name != ".fingerpost" {
                collect(root, &path, found);
            } else if path.is_file() {
                found.insert(name, fs::read(&path).unwrap());
            }
        }
    }
    let root = site.path("");
    let mut found = BTreeMap::new();
    collect(&root, &root, &mut found);
    found
}

/// An answer to an edit, taken apart.
struct Answer {
    summary: String,
    /// The name of each file that changes, and the lines that go and come.
    changes: Vec<String>,
    /// What is said below the differences.
    notes: Vec<String>,
}

impl Answer {
    fn of(answer: &str) -> Answer {
        let mut lines = answer.lines();
        let summary = lines.find_map(|l| l.strip_prefix("Tried, not saved: "));
        let mut found = Answer {
            summary: summary
                .expect("an edit begins with what was tried")
                .to_owned(),
            changes: Vec::new(),
            notes: Vec::new(),
        };
        // A hunk's head says how many lines of the old and the new text follow.
        let mut left = (0, 0);
        for line in lines.take_while(|l| !l.starts_with("To keep it")) {
            if let Some(head) = line.strip_prefix("@@ ") {
                let mut sides = head.split(' ').map(|side| match side.split_once(',') {
                    Some((_, count)) => count.parse().unwrap(),
                    None => 1,
                });
                left = (sides.next().unwrap(), sides.next().unwrap());
            } else if left != (0, 0) {
                match line.chars().next() {
                    Some('-') => left.0 -= 1,
                    Some('+') => left.1 -= 1,
                    _ => left = (left.0 - 1, left.1 - 1),
                }
                if line.starts_with(['-', '+']) {
                    found.changes.push(line.to_owned());
                }
            } else if let Some(file) = line.strip_prefix("+++ b/") {
                found.changes.push(file.to_owned());
            } else if !line.is_empty() && !line.starts_with("--- a/") {
                found.notes.push(line.to_owned());
            }
        }
        found
    }
}

/// Tries an edit, reads what it says, saves it and takes it back.
#[track_caller]
fn tried(words: &[&str], summary: &str, changes: &[&str], notes: &[&str]) {
    let site = Site::new();
    let before = files(&site);
    let said = site.good(&[&["edit"], words].concat());
    let answer = Answer::of(&said);
    assert_eq!(answer.summary, summary);
    assert_eq!(answer.changes, changes, "{said}");
    assert_eq!(answer.notes, notes, "{said}");
    assert_eq!(files(&site), before, "trying writes no source");

    site.good(&["save"]);
    let after = files(&site);
    let named = changes.iter().filter(|c| !c.starts_with(['-', '+']));
    let mut named: Vec<&str> = named.copied().collect();
    named.sort_unstable();
    let differing = after
        .iter()
        .filter(|(file, bytes)| before.get(*file) != Some(bytes));
    let differing: Vec<&str> = differing.map(|(file, _)| file.as_str()).collect();
    assert_eq!(
        differing, named,
        "the files that were named change, and no others"
    );

    site.good(&["unsave"]);
    assert_eq!(files(&site), before, "taken back to the byte");
}
