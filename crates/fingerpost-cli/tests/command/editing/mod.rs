//! Every kind of edit through the real command, on the demo theme: its summary, the lines that change and
//! the notes below them. Each edit is then saved, and undone to the same bytes.

mod declarations;
mod impossible;
mod markup;
mod refused;
mod rules;
use std::collections::BTreeMap;
use std::fs;
use std::path::Path;

use crate::site::Site;

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
        let summary = lines.find_map(|l| l.strip_prefix("Change 1 in the draft (not saved): "));
        let mut found = Answer {
            summary: summary
                .expect("an edit begins with what was tried")
                .to_owned(),
            changes: Vec::new(),
            notes: Vec::new(),
        };
        // A run of lines begins with its place; then come the lines that were there, and those that are now.
        let mut mark = '-';
        let mut inside = false;
        for line in lines.take_while(|l| !l.starts_with("To see it live")) {
            let labelled = [("was ", '-'), ("gone", '-'), ("now ", '+'), ("new ", '+')];
            let body = line.strip_prefix("  ").filter(|_| inside);
            if let Some(places) = body.and_then(|body| body.strip_prefix("the same in ")) {
                let is_file = |change: &String| !change.starts_with(['-', '+']);
                let start = found.changes.iter().rposition(is_file).unwrap();
                let run = found.changes[start + 1..].to_vec();
                for file in places.split(", ") {
                    found.changes.push(place(file).expect("a place").to_owned());
                    found.changes.extend(run.iter().cloned());
                }
            } else if let Some(body) = body {
                let label = labelled
                    .iter()
                    .find(|(label, _)| format!("{body} ").starts_with(label));
                mark = label.map_or(mark, |(_, mark)| *mark);
                let text = body.get(5..).unwrap_or_default();
                found.changes.push(format!("{mark}{text}"));
            } else if let Some(file) = place(line) {
                inside = true;
                let named = found.changes.iter().rfind(|c| !c.starts_with(['-', '+']));
                if named.map(String::as_str) != Some(file) {
                    found.changes.push(file.to_owned());
                }
            } else {
                inside = false;
                if !line.is_empty() {
                    found.notes.push(line.to_owned());
                }
            }
        }
        found
    }
}

/// The file of a line that is the place of a run: `css/skerry.css:256`.
fn place(line: &str) -> Option<&str> {
    let place = line.split(" (line ").next()?;
    let (file, number) = place.rsplit_once(':')?;
    (number.parse::<u32>().is_ok() && !file.contains(' ')).then_some(file)
}

/// Tries an edit, reads what it says, saves it and undoes it.
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

/// Edits that are refused: each with its status and the first line of its error. Nothing is kept.
#[track_caller]
fn refused(cases: &[(&str, i32, &str)]) {
    let site = Site::new();
    let before = files(&site);
    for (words, status, error) in cases {
        let (found, answer, errors) = site.run(format!("edit {words}").as_str());
        assert_eq!(found, *status, "{words:?}: {answer}{errors}");
        assert_eq!(answer, "", "{words:?}");
        let first = errors.lines().next().unwrap_or_default();
        let first = first.strip_prefix("fingerpost: ").unwrap_or(first);
        let first = first.strip_prefix("error: ").unwrap_or(first);
        assert_eq!(first, *error, "{words:?}");
        assert_eq!(files(&site), before, "{words:?}");
        assert!(
            !site.path(".fingerpost").exists(),
            "{words:?}: something is kept"
        );
    }
}
