//! Files that are not what they seem: pipes, devices, names that are not text, one file under two names.

#![cfg(unix)]

use crate::hostile::{HOME, Trap};
use assert_cmd::Command;
use std::fs;
use std::os::unix::fs::symlink;
use std::path::Path;

fn pipe(path: &Path) {
    let _ = fs::remove_file(path);
    let made = std::process::Command::new("mkfifo").arg(path).status();
    assert!(made.unwrap().success());
}

/// A pipe would be waited for, and a device read, for ever.
#[test]
fn what_is_not_a_file_is_said_to_be_that_at_once() {
    let places = [
        "css/skerry.css",
        "css/parts/panel.css",
        "pages/fares.html",
        "fingerpost.toml",
        ".fingerpost/draft.json",
        ".fingerpost/saves.json",
        ".fingerpost/journal.json",
        ".fingerpost/lock",
        "css/fares.css.map",
    ];
    for place in places {
        let trap = Trap::new();
        fs::create_dir(trap.site(".fingerpost")).unwrap();
        pipe(&trap.site(place));
        trap.spring();
        let trap = Trap::new();
        let _ = fs::remove_file(trap.site(place));
        fs::create_dir_all(trap.site(place)).unwrap();
        trap.spring();
    }
    let trap = Trap::new();
    pipe(&trap.site("pages/pipe.html"));
    let (status, said) = trap.run(&["tree", "pages/pipe.html"]);
    assert_eq!(status, 2);
    assert!(
        said.contains("pages/pipe.html: this is a pipe; expected a file"),
        "{said}"
    );
    for (sheet, kind) in [
        ("/dev/zero", "a device"),
        ("/dev/null", "a device"),
        ("css", "a folder"),
    ] {
        let (status, said) = trap.run(&["sheets", HOME, "--user-sheet", sheet]);
        assert_eq!(status, 2);
        assert!(
            said.contains(&format!("this is {kind}; expected a file")),
            "{said}"
        );
    }
    let (status, said) = trap.run(&["edit", "--script", "/dev/zero"]);
    assert_eq!(status, 2, "{said}");
}

/// A file that is larger than any source is not read to find that out.
#[test]
fn a_size_limit_comes_before_the_read() {
    let trap = Trap::new();
    let huge = fs::File::create(trap.site("css/skerry.css")).unwrap();
    huge.set_len(40 << 30).unwrap();
    let (status, said) = trap.run(&["sheets", HOME]);
    assert_eq!(status, 0, "{said}");
    assert!(said.contains("more than"), "{said}");
}

/// Names that mean something to a URL, to a shell or to a person's eye.
#[test]
fn files_of_odd_names_are_asked_and_edited() {
    for name in [
        "a#b.html",
        "a?b.html",
        "a:b.html",
        "a%20b.html",
        "a\\b.html",
        "a\tb.html",
        "a\nb.html",
        " a.html",
        "é 🚢.html",
        "a;b=c.html",
        "a&b.html",
        "'a'.html",
        "a..b.html",
    ] {
        let trap = Trap::new();
        let page = "<!doctype html>\n<link rel=stylesheet href=x.css>\n<h2 class=today>x</h2>\n";
        let folder = trap.site("odd");
        fs::create_dir(&folder).unwrap();
        fs::write(folder.join(name), page).unwrap();
        fs::write(folder.join("x.css"), ".today { color: red }\n").unwrap();
        let path = format!("odd/{name}");
        let (status, said) = trap.run(&["why", &path, "h2", "color"]);
        assert_eq!(status, 0, "{name:?}: {said}");
        assert!(said.contains("rgb(255, 0, 0)"), "{name:?}: {said}");
        let (status, said) = trap.run(&["edit", "attribute", &path, "h2", "title", "x"]);
        assert_eq!(status, 0, "{name:?}: {said}");
        let (status, said) = trap.run(&["edit", "set", &path, "h2", "color", "navy"]);
        assert_eq!(status, 0, "{name:?}: {said}");
        assert_eq!(trap.run(&["save"]).0, 0, "{name:?}");
        let saved = fs::read_to_string(folder.join(name)).unwrap();
        assert!(
            saved.contains("title=x") || saved.contains("title=\"x\""),
            "{name:?}: {saved}"
        );
        assert_eq!(
            fs::read_to_string(folder.join("x.css")).unwrap(),
            ".today { color: navy }\n"
        );
        assert_eq!(trap.run(&["unsave"]).0, 0, "{name:?}");
        assert_eq!(fs::read_to_string(folder.join(name)).unwrap(), page);
    }
}

#[test]
fn a_name_that_is_not_text_is_said() {
    use std::ffi::OsStr;
    use std::os::unix::ffi::OsStrExt;
    let trap = Trap::new();
    let name = OsStr::from_bytes(b"pages/caf\xE9.html");
    fs::copy(trap.site(HOME), trap.site("").join(name)).unwrap();
    let output = Command::cargo_bin("fingerpost")
        .unwrap()
        .current_dir(trap.site(""))
        .arg("tree")
        .arg(name)
        .output()
        .unwrap();
    assert_eq!(output.status.code(), Some(2));
    assert!(String::from_utf8_lossy(&output.stderr).contains("its name is not UTF-8"));
    trap.spring();
}

/// One file under two names is changed under one of them.
#[test]
fn one_file_under_two_names_is_changed_under_one() {
    let trap = Trap::new();
    symlink("skerry.css", trap.site("css/same.css")).unwrap();
    let page = fs::read_to_string(trap.site(HOME)).unwrap();
    let linked = "<link rel=\"stylesheet\" href=\"/css/same.css\">\n\
                  <link rel=\"stylesheet\" href=\"/css//overrides.css\">\n</head>";
    fs::write(trap.site(HOME), page.replace("</head>", linked)).unwrap();
    let set = |value| ["edit", "set", HOME, "h2.today", "color", value];
    let (status, said) = trap.run(&set("navy"));
    assert_eq!(status, 0, "{said}");
    assert!(said.contains("css/same.css"), "{said}");
    let other = [
        "edit",
        "set",
        HOME,
        "h2.today",
        "color",
        "red",
        "--rule",
        "css/skerry.css:255",
    ];
    let (status, said) = trap.run(&other);
    assert_eq!(status, 2, "{said}");
    assert!(said.contains("are the same file"), "{said}");
    // Doubled slashes are one.
    let (_, said) = trap.run(&["edit", "set", HOME, ".site-footer", "margin-top", "1rem"]);
    assert!(said.contains("css/overrides.css:25\n"), "{said}");
    assert_eq!(trap.run(&["save"]).0, 0);
    assert!(trap.site("css/same.css").is_symlink());
    assert!(
        fs::read_to_string(trap.site("css/skerry.css"))
            .unwrap()
            .contains("color: navy")
    );
}
