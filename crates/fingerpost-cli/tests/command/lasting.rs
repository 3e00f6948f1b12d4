//! A theme with neither its own sheet nor a configuration: each refusal offers a command, and that command works.

use std::fs;
use std::process::{Command, Output};

use tempfile::TempDir;

const PAGE: &str = "<!doctype html><title>Boats</title>\n<link rel=\"stylesheet\" href=\"vendor/kit.css\">\n<h1 class=head>Boats</h1>\n<h2 class=head>Fares</h2>\n";
const KIT: &str = ".head { letter-spacing: 1px }\n";

fn theme() -> TempDir {
    let folder = TempDir::new().unwrap();
    fs::create_dir(folder.path().join("vendor")).unwrap();
    for (name, text) in [
        ("index.html", PAGE),
        ("fares.html", PAGE),
        ("vendor/kit.css", KIT),
    ] {
        fs::write(folder.path().join(name), text).unwrap();
    }
    folder
}

/// Runs a line as a shell does.
fn run(theme: &TempDir, line: &str) -> Output {
    let program = assert_cmd::cargo::cargo_bin("fingerpost");
    let line = line.replace("fingerpost ", &format!("{} ", program.display()));
    let mut shell = Command::new("sh");
    shell.args(["-c", &line]).current_dir(theme.path());
    shell.output().unwrap()
}

fn said(output: &Output) -> String {
    let all = [&output.stdout[..], &output.stderr[..]].concat();
    String::from_utf8_lossy(&all).into_owned()
}

/// The first line that is advised.
fn advised(said: &str) -> String {
    let line = said.lines().find_map(|line| line.strip_prefix("To make "));
    let line = line.unwrap_or_else(|| panic!("no way out in {said}"));
    line.split_once(": ").unwrap().1.to_owned()
}

#[test]
fn a_theme_without_a_sheet_of_its_own_gets_one() {
    for element in ["h2", "@6", "'Fares'"] {
        let theme = theme();
        let read = |name: &str| fs::read_to_string(theme.path().join(name)).unwrap();
        let refused = run(
            &theme,
            &format!("fingerpost edit set index.html {element} letter-spacing 5px"),
        );
        assert_eq!(refused.status.code(), Some(2), "{}", said(&refused));
        assert!(
            said(&refused).contains("vendor/kit.css is a vendor sheet"),
            "{}",
            said(&refused)
        );
        let done = run(&theme, &advised(&said(&refused)));
        assert!(done.status.success(), "{element}: {}", said(&done));
        let saved = run(&theme, "fingerpost save");
        assert!(saved.status.success(), "{}", said(&saved));
        let own = read("overrides.css");
        assert!(
            own.contains("letter-spacing: 5px") && !own.contains("body"),
            "{element}: {own}"
        );
        assert!(
            read("index.html").contains("overrides.css")
                && read("fares.html").contains("overrides.css")
        );
        assert_eq!(read("vendor/kit.css"), KIT);
        // From now on there is a sheet that lasts.
        let next = run(
            &theme,
            "fingerpost edit set index.html h2 letter-spacing 6px",
        );
        assert!(
            next.status.success() && said(&next).contains("overrides.css"),
            "{}",
            said(&next)
        );
        let undone = run(&theme, "fingerpost draft discard --all; fingerpost unsave");
        assert!(undone.status.success(), "{}", said(&undone));
        assert_eq!(
            (read("index.html"), read("fares.html")),
            (PAGE.to_owned(), PAGE.to_owned())
        );
    }
}

/// What is asked for by name is done, and says what will happen to it.
#[test]
fn a_sheet_that_is_named_takes_the_change_with_a_warning() {
    let theme = theme();
    let set = "fingerpost edit set index.html h1 letter-spacing 5px";
    for into in [
        "--into winning",
        "--into vendor/kit.css",
        "--rule vendor/kit.css:1",
    ] {
        let done = run(&theme, &format!("{set} {into}"));
        assert!(done.status.success(), "{into}: {}", said(&done));
        assert!(
            said(&done).contains("the next update of its package overwrites this change"),
            "{into}: {}",
            said(&done)
        );
        let undone = run(&theme, "fingerpost draft undo");
        assert!(undone.status.success());
    }
}
