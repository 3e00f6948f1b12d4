//! Every line that an answer tells a person to type works. Each run of the command in these tests comes here with what it
//! printed: the lines in it are typed in a copy of the same folder, in the same state, and none may be refused.

use std::collections::BTreeSet;
use std::fs;
use std::path::Path;
use std::process::Command;
use std::sync::Mutex;

use tempfile::TempDir;

/// The lines that were typed already: the same line is tried once.
static TYPED: Mutex<BTreeSet<String>> = Mutex::new(BTreeSet::new());

/// The lines to type in a text: what follows `: ` or begins a line. Those of a usage, or with a word in capitals in place of
/// what a person would write, are patterns.
fn lines_to_type(printed: &str) -> Vec<String> {
    let is_pattern = |line: &str| {
        line.contains('…')
            || line.split([' ', '|', '[', ']']).any(|word| {
                let word = word.trim_matches(['.', '<', '>']);
                word.len() > 1 && word.chars().all(|c| c.is_ascii_uppercase())
            })
    };
    let mut found = Vec::new();
    for line in printed.lines() {
        let line = line.trim();
        let at = match line.strip_prefix("fingerpost ") {
            Some(_) => Some(0),
            None => line.find(": fingerpost ").map(|at| at + 2),
        };
        let Some(at) = at else { continue };
        if line.starts_with("Usage") {
            continue;
        }
        // Two ways: `…, or fingerpost …`. What is said after the line comes behind two spaces.
        for way in line[at..].split(", or ") {
            let way = way.split("  ").next().unwrap_or_default().trim();
            if way.starts_with("fingerpost ") && !is_pattern(way) {
                found.push(way.to_owned());
            }
        }
    }
    found
}

/// Types each line of advice in a copy of what is around `folder`. Texts that are no answers (help, the manual, scripts for
/// shells, a new configuration) have examples, which other tests run.
#[track_caller]
pub fn all_work(folder: &Path, words: &[impl AsRef<str>], printed: &str) {
    const TEXTS: [&str; 7] = ["help", "--help", "-h", "man", "completions", "init", "demo"];
    if words.is_empty() || words.iter().any(|word| TEXTS.contains(&word.as_ref())) {
        return;
    }
    let lines = lines_to_type(printed);
    if lines.is_empty() {
        return;
    }
    let temporary = fs::canonicalize(std::env::temp_dir()).unwrap();
    let folder = fs::canonicalize(folder).unwrap();
    // The command ran outside the temporary folder, so no site can be copied.
    let Some(root) = folder
        .ancestors()
        .find(|above| above.parent() == Some(&*temporary))
    else {
        return;
    };
    // A line that works in the site's own folder may not work beside it.
    let is_site = folder.join("fingerpost.toml").exists();
    let new: Vec<String> = {
        let mut typed = TYPED.lock().unwrap();
        let is_new = |line: &String| typed.insert(format!("{is_site} {line}"));
        lines.into_iter().filter(is_new).collect()
    };
    let program = assert_cmd::cargo::cargo_bin("fingerpost");
    let path = std::env::var("PATH").unwrap_or_default();
    let path = format!("{}:{path}", program.parent().unwrap().display());
    for line in new {
        // A server that does not end; that its line is read is enough.
        let ends = match line.starts_with("fingerpost desk") {
            true => format!("{line} --help"),
            false => line.clone(),
        };
        let copy = TempDir::new().unwrap();
        crate::site::copy(root, copy.path());
        let here = copy.path().join(folder.strip_prefix(root).unwrap());
        let ends = ends.replace(&*root.to_string_lossy(), &copy.path().to_string_lossy());
        let output = Command::new("sh")
            .args(["-c", &ends])
            .current_dir(here)
            .env("PATH", &path)
            .output()
            .unwrap();
        let errors = String::from_utf8_lossy(&output.stderr).into_owned();
        // What the person who was advised left out stays left out.
        if errors.contains("no page is named") || errors.contains("means an element asked about") {
            continue;
        }
        let answered = matches!(output.status.code(), Some(0 | 1));
        assert!(
            answered,
            "advised and refused: {line}\n{errors}\nprinted by:\n{printed}"
        );
    }
}

#[test]
fn the_lines_to_type_are_found() {
    let printed = "Usage: fingerpost why [PAGE] ELEMENT\nTo undo it: fingerpost draft undo\n  fingerpost edit set @ color red  tried\n\
                   For edit 3 alone: fingerpost draft discard 3, or fingerpost draft off 3\nExample: fingerpost why ELEMENT";
    assert_eq!(
        lines_to_type(printed),
        [
            "fingerpost draft undo",
            "fingerpost edit set @ color red",
            "fingerpost draft discard 3",
            "fingerpost draft off 3",
        ]
    );
}

/// The answers that are kept word for word are printed by other means: their commands are run here.
#[test]
fn what_the_kept_answers_advise_works() {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/cmd");
    let program = assert_cmd::cargo::cargo_bin("fingerpost");
    let path = std::env::var("PATH").unwrap_or_default();
    let path = format!("{}:{path}", program.parent().unwrap().display());
    let mut files: Vec<_> = fs::read_dir(folder)
        .unwrap()
        .map(|entry| entry.unwrap().path())
        .collect();
    files.retain(|file| file.extension().is_some_and(|end| end == "trycmd"));
    let run = |file: &Path| {
        let site = crate::site::Site::new();
        let kept = fs::read_to_string(file).unwrap();
        let commands: Vec<&str> = kept
            .lines()
            .filter_map(|line| line.strip_prefix("$ "))
            .collect();
        for command in &commands {
            let output = Command::new("sh")
                .args(["-c", &format!("{command} 2>&1")])
                .current_dir(site.path(""))
                .env("PATH", &path)
                .env("FINGERPOST_REMEMBER", "no")
                .output()
                .unwrap();
            let words: Vec<&str> = command.split(' ').skip(1).collect();
            all_work(
                &site.path(""),
                &words,
                &String::from_utf8(output.stdout).unwrap(),
            );
        }
        commands.len()
    };
    let ran: usize = std::thread::scope(|scope| {
        let all: Vec<_> = files.iter().map(|file| scope.spawn(|| run(file))).collect();
        all.into_iter().map(|one| one.join().unwrap()).sum()
    });
    assert!(ran > 80, "only {ran} commands were run");
}
