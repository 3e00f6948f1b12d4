//! Every line of the command in a help text or a document works on the demo as it stands there.

use std::path::{Path, PathBuf};
use std::process::Command;

use crate::site::{Site, copy};
use tempfile::TempDir;

/// A copy of the demo with something saved, and five changes tried, none of which moves a line.
fn prepared() -> Site {
    let site = Site::new();
    let page = "pages/home.html";
    site.good(&["edit", "set", page, ".site-footer", "margin-top", "1rem"]);
    site.good(&["save"]);
    let tried: [&[&str]; 5] = [
        &["set", page, ".masthead", "gap", "1rem"],
        &["set", page, "h2.today", "color", "teal"],
        &["set", page, ".hero", "border-radius", "2px"],
        &["set", page, ".note", "color", "navy"],
        &["set", page, ".brand", "gap", "1rem"],
    ];
    for words in tried {
        site.good(&[&["edit"], words].concat());
    }
    site
}

/// Runs a line as a shell does, in a copy of a site; what went wrong, if anything.
fn failure(line: &str, prepared: &Site) -> Option<String> {
    let folder = TempDir::new().unwrap();
    copy(&prepared.path(""), folder.path());
    let program = assert_cmd::cargo::cargo_bin("fingerpost");
    let path = std::env::var("PATH").unwrap_or_default();
    let output = Command::new("sh")
        .args(["-c", line])
        .current_dir(folder.path())
        .env("FINGERPOST_REMEMBER", "yes")
        .env("HOME", folder.path())
        .env(
            "PATH",
            format!("{}:{path}", program.parent().unwrap().display()),
        )
        .output()
        .unwrap();
    let errors = String::from_utf8_lossy(&output.stderr).into_owned();
    match output.status.code() {
        Some(0) => None,
        // Nothing was interrupted that could be mended.
        Some(1) if line.starts_with("fingerpost recover") => None,
        // What it asks for is said just before in the text: something disabled, undone or asked about.
        Some(1)
            if line.starts_with("fingerpost edit enable") || line == "fingerpost draft redo" =>
        {
            None
        }
        Some(2) if line.contains(" @ ") && errors.contains("no page is named") => None,
        // A trouble of the demo: the value is made by a variable of the source.
        Some(2) if errors.contains("css/fares.css is made from other files") => None,
        // The demo has its configuration.
        // The demo shows an edit that is refused with the ways on.
        Some(2) if errors.contains("\nTo ") && errors.contains("built from other files") => None,
        Some(2) if line == "fingerpost init" && errors.contains("it was not changed") => None,
        status => Some(format!("{line}\n    {status:?} {errors}")),
    }
}

#[track_caller]
fn all_work(lines: &[String], least: usize) {
    // The desk does not end by itself: `--test desk` opens it.
    let lines: Vec<&String> = lines
        .iter()
        .filter(|line| !line.starts_with("fingerpost desk"))
        .collect();
    assert!(
        lines.len() >= least,
        "only {} lines were found",
        lines.len()
    );
    let prepared = prepared();
    let failures: Vec<String> = lines
        .iter()
        .filter_map(|line| failure(line, &prepared))
        .collect();
    assert!(failures.is_empty(), "{}", failures.join("\n"));
}

/// The lines of a help text that are to be typed.
fn examples(help: &str) -> Vec<String> {
    let behind = help.lines().skip_while(|line| !line.starts_with("Example"));
    let lines = behind.skip(1).take_while(|line| !line.is_empty());
    let mut typed: Vec<String> = Vec::new();
    for line in lines {
        match (line.strip_prefix("  fingerpost "), typed.last_mut()) {
            (Some(_), _) | (None, None) => typed.push(line.trim().to_owned()),
            // A long line goes on in the next one.
            (None, Some(last)) => last.push_str(&format!(" {}", line.trim())),
        }
    }
    typed
}

/// The names of the commands in a help text.
fn commands(help: &str) -> Vec<String> {
    let list = help.split("Commands:\n").nth(1).unwrap_or_default();
    let lines = list.lines().take_while(|line| !line.is_empty());
    lines
        .filter_map(|line| line.strip_prefix("  ")?.split(' ').next())
        .filter(|name| !name.is_empty())
        .map(str::to_owned)
        .collect()
}

#[test]
fn the_examples_of_every_help_text_work() {
    let site = Site::new();
    let mut lines = Vec::new();
    let overview = site.good(&["--help"]);
    let names = overview.lines().filter_map(|line| {
        let name = line.strip_prefix("  ")?.split(' ').next()?;
        (!name.is_empty()).then(|| name.to_owned())
    });
    for name in names {
        let help = site.good(&[&name, "--help"]);
        lines.extend(examples(&help));
        for inner in commands(&help) {
            let help = site.good(&[&name, &inner, "--help"]);
            let own = examples(&help);
            assert!(
                !own.is_empty() || name == "extract" || name == "draft",
                "{name} {inner}: no example"
            );
            lines.extend(own);
        }
    }
    lines.retain(|line| !line.contains("demo"));
    lines.sort();
    lines.dedup();
    all_work(&lines, 60);
}

#[test]
fn the_lines_in_documents_work() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let mut lines = Vec::new();
    // `docs/edits.md` shows an edit that is refused, with the ways on.
    for name in [
        "README.md",
        "docs/config.md",
        "docs/edits.md",
        "demo/README.md",
    ] {
        let text = std::fs::read_to_string(root.join(name)).unwrap();
        let spans = text.split('`').skip(1).step_by(2);
        let typed =
            spans.filter(|span| span.starts_with("fingerpost ") && span.split(' ').count() > 2);
        // A word in capitals stands for what one wants.
        let concrete = typed.filter(|span| {
            let mut words = span.split(' ');
            !words.any(|word| word.len() > 3 && word.chars().all(|c| c.is_ascii_uppercase()))
        });
        lines.extend(concrete.map(|span| span.replace("\\|", "|")));
    }
    lines.sort();
    lines.dedup();
    all_work(&lines, 20);
}

/// The documents with answers in them.
fn with_answers() -> Vec<PathBuf> {
    let docs = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs");
    let files = |folder: PathBuf| {
        let entries = std::fs::read_dir(folder).unwrap().flatten();
        entries.map(|entry| entry.path())
    };
    let mut found: Vec<PathBuf> = files(docs.clone())
        .chain(files(docs.join("answers")))
        .collect();
    found.retain(|file| {
        let text = std::fs::read_to_string(file);
        file.extension().is_some_and(|e| e == "md") && text.is_ok_and(|t| t.contains("```console"))
    });
    found.sort();
    found
}

/// The commands of each document run one after the other in one copy of the demo, and print what is there.
///
/// `DOCUMENTS=overwrite cargo test --workspace --test command` writes what they print; read the difference.
#[test]
fn documents_say_what_their_commands_print() {
    let files = with_answers();
    assert!(files.len() >= 9, "{files:?}");
    std::thread::scope(|scope| {
        let done: Vec<_> = files
            .iter()
            .map(|file| scope.spawn(|| says_what_its_commands_print(file)))
            .collect();
        for file in done {
            file.join().unwrap();
        }
    });
}

fn says_what_its_commands_print(file: &Path) {
    let document = std::fs::read_to_string(file).unwrap();
    let site = Site::new();
    let program = assert_cmd::cargo::cargo_bin("fingerpost");
    let path = std::env::var("PATH").unwrap_or_default();
    let path = format!("{}:{path}", program.parent().unwrap().display());
    let run = |line: &str| {
        let output = Command::new("sh")
            .args(["-c", &format!("{line} 2>&1")])
            .current_dir(site.path(""))
            .env("PATH", &path)
            .output()
            .unwrap();
        // The answer may be no.
        let answered = matches!(output.status.code(), Some(0 | 1));
        assert!(answered, "{}: {line}: {output:?}", file.display());
        let printed = String::from_utf8(output.stdout).unwrap();
        let words: Vec<&str> = line.split(' ').skip(1).collect();
        crate::advised::all_work(&site.path(""), &words, &printed);
        printed
    };
    let mut written = String::new();
    let mut inside = false;
    for line in document.lines() {
        match (line, inside) {
            ("```console", false) => inside = true,
            ("```", true) => inside = false,
            (line, true) => {
                // What was printed is printed afresh.
                if let Some(command) = line.strip_prefix("$ ") {
                    let answer = format!("$ {command}\n{}", run(command));
                    written.push_str(answer.trim_end());
                    written.push('\n');
                }
                continue;
            }
            _ => {}
        }
        written.push_str(line);
        written.push('\n');
    }
    if std::env::var("DOCUMENTS").is_ok_and(|word| word == "overwrite") {
        std::fs::write(file, &written).unwrap();
    }
    let stands = std::fs::read_to_string(file).unwrap();
    for (at, (stands, printed)) in stands.lines().zip(written.lines()).enumerate() {
        assert_eq!(stands, printed, "{}:{}", file.display(), at + 1);
    }
    assert_eq!(stands.lines().count(), written.lines().count());
}
