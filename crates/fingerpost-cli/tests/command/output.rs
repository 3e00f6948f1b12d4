//! How answers are shown: notes and their absence, places that the draft moves, links, swatches, and what goes
//! through standard input and output.

use crate::site::Site;
use assert_cmd::Command;

const HOME: &str = "pages/home.html";

/// What the command prints with these variables of the environment.
fn with(site: &Site, variables: &[(&str, &str)], words: &[&str]) -> String {
    let mut command = Command::cargo_bin("fingerpost").unwrap();
    command.current_dir(site.path("")).args(words);
    command.env("FINGERPOST_REMEMBER", "no");
    command.envs(variables.iter().copied());
    let output = command.output().unwrap();
    String::from_utf8(output.stdout).unwrap()
}

#[test]
fn quiet_leaves_out_notes_and_verbose_says_more() {
    let site = Site::new();
    let why = ["why", HOME, "h2.today", "color", "--viewport", "480x800"];
    assert!(site.good(&why).starts_with("Environment: at 480x800.\n"));
    for quiet in ["-q", "--quiet"] {
        let answer = site.good(&[&why[..], &[quiet]].concat());
        assert!(
            answer.starts_with("color of h2.panel-title.today"),
            "{answer}"
        );
    }
    for verbose in ["-v", "--verbose"] {
        let answer = site.good(&[&why[..], &[verbose]].concat());
        assert!(answer.starts_with("Site: /"), "{answer}");
        assert!(
            answer.contains("\nPage: pages/home.html, 67 elements"),
            "{answer}"
        );
        assert!(
            answer.contains("css/overrides.css, pages/home.html\n"),
            "{answer}"
        );
    }
    let (status, _, errors) = site.run(&[&why[..], &["-q", "-v"]].concat());
    assert_eq!(status, 2);
    assert!(errors.contains("can't be given together"), "{errors}");
}

#[test]
fn places_say_what_the_draft_does_to_them() {
    let site = Site::new();
    site.good("edit rule pages/home.html body 'top: 0; left: 0' --selector body");
    site.good("edit set pages/home.html .panel-title.today color navy");
    let trace = site.good("trace pages/home.html body");
    assert!(trace.contains(" (unsaved)  author"), "{trace}");
    let why = site.good("why pages/home.html h2.today color");
    // Lines further down than on disk, and one of them another.
    assert!(why.contains(" (unsaved)  author"), "{why}");
    assert!(why.contains(" (242 on disk)  author"), "{why}");
    assert!(
        why.contains("h2  (0,0,1)  css/base.css:12  author"),
        "{why}"
    );
    site.good(&["save"]);
    let saved = site.good("why pages/home.html h2.today color");
    assert!(
        !saved.contains("unsaved") && !saved.contains("on disk"),
        "{saved}"
    );
}

#[test]
fn places_are_links_where_the_terminal_has_them() {
    let site = Site::new();
    let words = ["why", HOME, "h2.today", "color", "--color", "always"];
    let linked = with(&site, &[("FORCE_HYPERLINK", "1")], &words);
    let file = site.path("css/skerry.css").canonicalize().unwrap();
    let link = format!("\u{1b}]8;;file://{}#256\u{1b}\\", file.display());
    assert!(linked.contains(&link), "{linked:?}");
    let plain = with(&site, &[("FORCE_HYPERLINK", "0")], &words);
    assert!(!plain.contains("]8;;"), "{plain:?}");
    // JSON never has any.
    let words = ["why", HOME, "h2.today", "color", "--json"];
    assert!(!with(&site, &[("FORCE_HYPERLINK", "1")], &words).contains("]8;;"));
}

#[test]
fn colors_have_swatches_in_terminals_of_24_bits() {
    let site = Site::new();
    let words = ["why", HOME, "h2.today", "color", "--color", "always"];
    let brass = "\u{1b}[48;2;138;90;0m";
    let shown = with(&site, &[("COLORTERM", "truecolor")], &words);
    assert!(shown.contains(brass), "{shown:?}");
    assert!(!with(&site, &[("COLORTERM", "")], &words).contains(brass));
    let never = ["why", HOME, "h2.today", "color", "--color", "never"];
    let bare = with(&site, &[("COLORTERM", "truecolor")], &never);
    assert!(
        !bare.contains('\u{1b}') && !bare.contains('\u{a0}'),
        "{bare:?}"
    );
}

#[test]
fn a_file_named_minus_is_standard_input_or_output() {
    let site = Site::new();
    let mut command = Command::cargo_bin("fingerpost").unwrap();
    let output = command
        .current_dir(site.path(""))
        .env("FINGERPOST_REMEMBER", "no")
        .args(["why", HOME, ".lead", "color", "--user-sheet", "-"])
        .write_stdin(".lead { color: teal !important }")
        .output()
        .unwrap();
    let answer = String::from_utf8(output.stdout).unwrap();
    assert!(answer.contains("rgb(0, 128, 128)"), "{answer}");

    site.good("edit set pages/home.html h2.today color navy");
    let patch = site.good("save --patch -");
    assert!(
        patch.starts_with("diff --git a/css/skerry.css b/css/skerry.css\n"),
        "{patch}"
    );
    assert!(patch.contains("\n+  color: navy;\n"), "{patch}");
    assert!(!site.read("css/skerry.css").contains("color: navy;"));
}

#[test]
fn nothing_in_the_way_is_a_no() {
    let site = Site::new();
    let (status, answer, _) = site.run("whynot pages/home.html h2.today 'color: var(--brass)'");
    assert_eq!(status, 1, "{answer}");
    let (status, answer, _) = site.run("whynot pages/home.html h2.today 'color: navy'");
    assert_eq!(status, 0, "{answer}");
}

#[test]
fn a_command_inside_of_another_is_named() {
    let site = Site::new();
    let (status, _, errors) = site.run("draft drop 1");
    assert_eq!(status, 2);
    assert!(
        errors.contains("'drop' is not a command. Expected one of"),
        "{errors}"
    );
    assert!(errors.contains("discard"), "{errors}");
}

/// What the command shows on a terminal of this many columns; none where `script`, which makes one, is missing.
fn on_terminal(site: &Site, columns: usize, words: &str) -> Option<String> {
    let program = assert_cmd::cargo::cargo_bin("fingerpost");
    let line = format!("stty cols {columns} rows 50; {} {words}", program.display());
    let mut terminal = std::process::Command::new("script");
    terminal.args(["-qec", &line, "/dev/null"]);
    terminal
        .current_dir(site.path(""))
        .stdin(std::process::Stdio::null());
    terminal
        .env("FINGERPOST_REMEMBER", "no")
        .env("LC_ALL", "C.UTF-8");
    // A pager would wait for a person to read.
    terminal.env("TERM", "xterm").env("PAGER", "cat");
    let Ok(output) = terminal.output() else {
        assert!(std::env::var_os("CI").is_none(), "script is not installed");
        println!("skipped: script is not installed");
        return None;
    };
    let shown = anstream::adapter::strip_bytes(&output.stdout).into_vec();
    Some(String::from_utf8(shown).unwrap().replace('\r', ""))
}

#[test]
fn answers_and_problems_fit_the_terminal() {
    let site = Site::new();
    let lines = [
        "--no-pager edit set pages/home.html .sailings padding COLUMNSpx",
        "--no-pager draft",
        "--no-pager whynot pages/fares.html '.fare-best .fare-price' css/overrides.css:8",
        "--no-pager why pages/home.html h2.today color",
        "--no-pager trace pages/home.html .note",
        "--no-pager sheets pages/fares.html",
        "--no-pager why pages/home.html h2.tody color",
        "--no-pager save",
        "why",
        "--help",
    ];
    for words in lines {
        for columns in [60, 80] {
            let Some(shown) = on_terminal(
                &site,
                columns,
                &words.replace("COLUMNS", &columns.to_string()),
            ) else {
                return;
            };
            assert!(!shown.trim().is_empty(), "{words}");
            for line in shown.lines() {
                // What has no space to break it at may be longer.
                let fits = line.chars().count() <= columns || line.split_whitespace().count() == 1;
                assert!(fits, "{words} at {columns}: {line}");
            }
        }
    }
    // A source text is never broken.
    let Some(shown) = on_terminal(&site, 60, "extract element pages/home.html .site-footer") else {
        return;
    };
    let page = site.read("pages/home.html");
    for line in shown.lines() {
        assert!(page.contains(line.trim_end()), "{line}");
    }
    assert!(shown.lines().any(|line| line.len() > 60), "{shown}");
}

#[test]
fn find_says_how_what_was_read() {
    let site = Site::new();
    for (what, read_as) in [
        ("h2.today", "selector"),
        ("\"Sailings today\"", "text"),
        ("Sailings", "text"),
        ("pages/home.html:38:9", "place"),
        ("38", "line"),
        ("@32", "number"),
    ] {
        let answer = site.good(&["find", "pages/home.html", what, "--json"]);
        let answer: serde_json::Value = serde_json::from_str(&answer).unwrap();
        assert_eq!(answer["read_as"], read_as, "{what}");
        assert!(!answer["elements"].as_array().unwrap().is_empty(), "{what}");
    }
}
