//! Trying, reading, saving and dropping, with the real command on copies of the demo theme.

use std::fs;

use crate::site::{Site, demo};
use assert_cmd::Command;
use tempfile::TempDir;

const SET: [&str; 6] = [
    "edit",
    "set",
    "pages/home.html",
    "h2.today",
    "color",
    "var(--rust)",
];
const WHY: [&str; 4] = ["why", "pages/home.html", "h2.today", "color"];

#[test]
fn a_change_is_tried_seen_saved_and_changes_only_its_bytes() {
    let site = Site::new();
    let before = site.read("css/skerry.css");
    let tried = site.good(&SET);
    assert!(
        tried.contains("color of h2.panel-title.today is now rgb(200, 85, 61)"),
        "{tried}"
    );
    assert_eq!(
        site.read("css/skerry.css"),
        before,
        "trying writes no source"
    );

    let asked = site.good(&WHY);
    assert!(asked.contains("color: var(--rust)"));
    assert!(asked.contains("This answer counts 1 unsaved change: fingerpost draft"));
    let draft = site.good(&["draft"]);
    assert!(
        draft.contains("  was    color: var(--brass);\n  now    color: var(--rust);"),
        "{draft}"
    );

    site.good(&["save"]);
    let after = site.read("css/skerry.css");
    let rule = ".today {\n  color: var(--brass);";
    assert_eq!(
        after,
        before.replace(rule, ".today {\n  color: var(--rust);")
    );
    assert!(!site.path(".fingerpost/draft.json").exists());
    assert_eq!(site.read(".fingerpost/.gitignore"), "*\n");
    assert_eq!(
        site.good(&WHY),
        asked
            .split("\nThis answer counts")
            .next()
            .unwrap()
            .replace("css/skerry.css:256 (unsaved)", "css/skerry.css:256")
    );
}

#[test]
fn a_draft_is_dropped_and_comes_back() {
    let site = Site::new();
    site.good(&SET);
    site.good("edit set pages/home.html '#welcome' letter-spacing 0");
    assert!(
        site.run("draft discard")
            .2
            .contains("say which change to discard")
    );
    assert_eq!(
        site.good("draft discard --all"),
        "Discarded 2 changes. No source file was changed.\nTo undo that: fingerpost draft undo\n"
    );
    assert_eq!(site.run(&["draft"]).0, 1);
    site.good("draft undo");
    assert!(site.good(&["draft"]).contains("  2  "));
    for _ in 0..2 {
        site.good("draft undo");
    }
    assert_eq!(site.run(&["draft"]).0, 1);
}

#[test]
fn edits_of_one_file_build_on_each_other() {
    let site = Site::new();
    site.good("edit set pages/home.html .sailings padding-left 40px");
    site.good("edit set pages/home.html .sailings padding-left 4rem");
    site.good("edit set pages/home.html .sailings padding-top 1em");
    site.good(&["save"]);
    assert!(
        site.read("css/overrides.css")
            .contains(".panel { padding: 1em 24px 24px 4rem; }")
    );
}

#[test]
fn a_file_that_changed_since_is_not_overwritten() {
    let site = Site::new();
    site.good(&SET);
    let mut css = site.read("css/skerry.css");
    css.push_str("/* somebody else */\n");
    fs::write(site.path("css/skerry.css"), &css).unwrap();
    // Both are kept: what someone else wrote, and what was tried.
    assert!(site.good(&WHY).contains("rgb(200, 85, 61)"));
    site.good(&["save"]);
    assert!(
        site.read("css/skerry.css")
            .ends_with("/* somebody else */\n")
    );
    assert!(site.read("css/skerry.css").contains("color: var(--rust);"));
}

#[test]
fn a_draft_that_is_none_is_refused_and_can_be_dropped() {
    let site = Site::new();
    fs::create_dir(site.path(".fingerpost")).unwrap();
    fs::write(site.path(".fingerpost/draft.json"), "{\"fingerpost\": 8}").unwrap();
    let (status, _, errors) = site.run(&WHY);
    assert_eq!(status, 2);
    assert!(errors.contains("draft.json: it has version 8"), "{errors}");
    site.good("draft discard --all");
    site.good(&WHY);
}

#[test]
fn line_endings_marks_and_encodings_are_kept() {
    let site = Site::new();
    let css: &[u8] = b"\xEF\xBB\xBF.today{color:red}\r\n/* caf\xC3\xA9 */\r\n";
    fs::write(site.path("css/overrides.css"), css).unwrap();
    site.good("edit set pages/home.html h2.today color navy");
    site.good(&["save"]);
    assert_eq!(
        fs::read(site.path("css/overrides.css")).unwrap(),
        b"\xEF\xBB\xBF.today{color:navy}\r\n/* caf\xC3\xA9 */\r\n"
    );
    let latin: &[u8] = b"@charset \"iso-8859-1\";\n/* \xE9 */ .today{color:red}\n";
    fs::write(site.path("css/overrides.css"), latin).unwrap();
    site.good("edit set pages/home.html h2.today color navy");
    site.good(&["save"]);
    assert_eq!(
        fs::read(site.path("css/overrides.css")).unwrap(),
        b"@charset \"iso-8859-1\";\n/* \xE9 */ .today{color:navy}\n"
    );
}

#[cfg(unix)]
#[test]
fn links_and_permissions_are_kept_and_read_only_files_refused() {
    use std::os::unix::fs::{PermissionsExt, symlink};
    let site = Site::new();
    fs::rename(site.path("css/skerry.css"), site.path("css/real.css")).unwrap();
    symlink("real.css", site.path("css/skerry.css")).unwrap();
    fs::set_permissions(site.path("css/real.css"), fs::Permissions::from_mode(0o640)).unwrap();
    site.good(&SET);
    site.good(&["save"]);
    assert!(site.path("css/skerry.css").is_symlink());
    assert!(site.read("css/real.css").contains("color: var(--rust);\n}"));
    let mode = fs::metadata(site.path("css/real.css"))
        .unwrap()
        .permissions()
        .mode();
    assert_eq!(mode & 0o777, 0o640);

    fs::set_permissions(site.path("css/real.css"), fs::Permissions::from_mode(0o440)).unwrap();
    site.good("edit set pages/home.html h2.today color navy");
    let (status, _, errors) = site.run(&["save"]);
    assert_eq!(status, 2);
    assert!(errors.contains("the file is read-only"), "{errors}");
    assert!(
        site.good(&["draft"]).contains("navy"),
        "the change is still in the draft"
    );
}

#[test]
fn the_site_is_found_from_elsewhere() {
    let site = Site::new();
    let outside = TempDir::new().unwrap();
    let run = |words: &[&str]| {
        let mut command = Command::cargo_bin("fingerpost").unwrap();
        command.current_dir(outside.path()).args(words).assert()
    };
    let page = site.path("pages/home.html");
    let page = page.to_str().unwrap();
    let tried = run(&["edit", "set", page, "h2.today", "color", "navy"]).success();
    let tried = String::from_utf8(tried.get_output().stdout.clone()).unwrap();
    let hint = tried
        .lines()
        .find(|l| l.starts_with("To save it: "))
        .unwrap();
    let folder = hint.split("--site ").nth(1).unwrap();
    run(&["save", "--site", folder]).success();
    assert!(site.read("css/skerry.css").contains("color: navy;"));
}

#[test]
fn a_configuration_of_another_make_is_refused() {
    let site = Site::new();
    for (config, wanted) in [
        ("fingerpost = 1\n", "it is of version 1"),
        (
            "fingerpost = 2\n\nsheets = []\n",
            "fingerpost.toml:3: unknown key 'sheets'",
        ),
        (
            "name = 3\n",
            "fingerpost.toml:1: invalid type: integer '3', expected a string",
        ),
    ] {
        fs::write(site.path("fingerpost.toml"), config).unwrap();
        let (status, _, errors) = site.run(&WHY);
        assert_eq!(status, 2);
        assert!(errors.contains(wanted), "{errors}");
    }
}

#[test]
fn files_outside_the_site_are_not_read() {
    let site = Site::new();
    let outside = TempDir::new().unwrap();
    fs::write(outside.path().join("x.css"), "h2 { color: red }").unwrap();
    #[cfg(unix)]
    std::os::unix::fs::symlink(outside.path().join("x.css"), site.path("css/out.css")).unwrap();
    let page =
        "<link rel=stylesheet href=css/out.css><link rel=stylesheet href=//cdn.example/a.css><h2>x";
    fs::write(site.path("page.html"), page).unwrap();
    let answer = site.good("trace page.html h2");
    assert!(
        answer.contains("css/out.css lies outside the site's folder"),
        "{answer}"
    );
    assert!(answer.contains("not a file of this site"), "{answer}");
}

#[test]
fn no_color_when_piped_and_color_when_asked() {
    let site = Site::new();
    assert!(!site.good(&WHY).contains('\u{1b}'));
    let colored = Command::cargo_bin("fingerpost")
        .unwrap()
        .current_dir(site.path(""))
        .env("CLICOLOR_FORCE", "1")
        .args(WHY)
        .output()
        .unwrap();
    assert!(
        String::from_utf8(colored.stdout)
            .unwrap()
            .contains('\u{1b}')
    );
}

#[test]
fn the_demo_tells_the_whole_story() {
    let folder = TempDir::new().unwrap();
    let into = folder.path().join("copy");
    let output = Command::cargo_bin("fingerpost")
        .unwrap()
        .args(["demo", "--folder"])
        .arg(&into)
        .output()
        .unwrap();
    let told = String::from_utf8(output.stdout).unwrap();
    assert!(output.status.success(), "{told}");
    for part in [
        "$ fingerpost find pages/home.html '\"Sailings today\"'",
        "loses on order of appearance",
        "Change",
        "now    color: var(--rust);",
        "Saved css/skerry.css",
        "  256    color: var(--rust);",
    ] {
        assert!(told.contains(part), "{part:?} in\n{told}");
    }
    let saved = fs::read_to_string(into.join("css/skerry.css")).unwrap();
    let original = fs::read_to_string(demo().join("css/skerry.css")).unwrap();
    let differing = saved
        .lines()
        .zip(original.lines())
        .filter(|(a, b)| a != b)
        .count();
    assert_eq!(differing, 1);
    let again = Command::cargo_bin("fingerpost")
        .unwrap()
        .args(["demo", "--folder"])
        .arg(&into)
        .output();
    assert_eq!(
        again.unwrap().status.code(),
        Some(2),
        "a folder in use is refused"
    );
}

#[test]
fn the_answers_as_json_have_the_version_and_the_command() {
    let site = Site::new();
    for (words, command) in [
        (vec!["tree", "pages/home.html"], "tree"),
        (vec!["find", "pages/home.html", "h2"], "find"),
        (vec!["trace", "pages/home.html", "h2.today"], "trace"),
        (vec!["why", "pages/home.html", "h2.today", "margin"], "why"),
        (SET.to_vec(), "edit"),
        (vec!["draft"], "draft"),
        (vec!["save"], "save"),
    ] {
        let words: Vec<&str> = words.into_iter().chain(["--json"]).collect();
        let answer: serde_json::Value = serde_json::from_str(&site.good(&words)).unwrap();
        assert_eq!(answer["fingerpost"], 2, "{words:?}");
        assert_eq!(answer["command"], command);
    }
    let found: serde_json::Value =
        serde_json::from_str(&site.good("find pages/home.html h2 --json")).unwrap();
    for key in [
        "index", "tag", "id", "classes", "file", "line", "column", "trail",
    ] {
        assert!(!found["elements"][0][key].is_null() || key == "id", "{key}");
    }
}

#[test]
fn changes_of_the_draft_are_left_out_and_taken_back() {
    let site = Site::new();
    let before = site.read("css/skerry.css");
    site.good(&SET);
    let added = site.good("edit add pages/home.html h2.today letter-spacing .02em");
    assert!(added.contains("  new    letter-spacing: .02em;"), "{added}");
    let off = site.good("draft off 1");
    assert!(off.starts_with("Change 1 is off."), "{off}");
    assert!(site.good(&WHY).contains("color: var(--brass)"));
    assert!(
        site.good("draft undo")
            .starts_with("Undone: switching change 1")
    );
    assert!(site.good(&WHY).contains("color: var(--rust)"));
    assert!(
        site.good("draft redo")
            .starts_with("Redone: switching change 1")
    );
    site.good("draft discard 2");
    let (status, _, errors) = site.run("draft on 2");
    assert_eq!(status, 1);
    assert!(errors.contains("the draft has no change 2"), "{errors}");

    // What is off is not saved, and stays.
    site.run(&["save"]);
    assert_eq!(site.read("css/skerry.css"), before);
    assert!(site.good(&["draft"]).contains("off"));
}

#[test]
fn classes_and_attributes_are_tried_with_the_rules_they_win_and_lose() {
    let site = Site::new();
    let class = site.good("edit class pages/home.html h2.today -today +note");
    assert!(
        class.contains("Rules that no longer apply:\n  .today"),
        "{class}"
    );
    assert!(class.contains("Rules that apply now:\n  .note"), "{class}");
    let all = site.good("edit class pages/home.html .sailing +busy --each");
    assert!(all.contains("class +busy of 4 elements"), "{all}");
    let hidden = site.good("edit attribute pages/home.html .hero hidden");
    assert!(hidden.contains("hidden=\"\""), "{hidden}");
    let (status, _, errors) = site.run("edit class pages/home.html .hero +hero");
    assert_eq!(status, 1);
    assert!(errors.contains("nothing would change"), "{errors}");
    let removed = site.good("edit remove-declaration pages/fares.html .page-title color");
    assert!(
        removed.contains("gone .page-title { color: #7a1f0f; }")
            || removed.contains("color: #7a1f0f"),
        "{removed}"
    );
    site.good(&["save"]);
    assert_eq!(
        site.read("pages/home.html").matches("sailing busy").count(),
        4
    );
}

#[test]
fn an_edit_in_an_assumed_state_is_asked_again_in_that_state() {
    let site = Site::new();
    let tried = site.good("edit set pages/home.html @16 border-bottom-color teal --state :hover");
    assert!(tried.contains("is now rgb(0, 128, 128)"), "{tried}");
}
