//! The draft between people and programs, and the ways to keep it: in parts, as a patch, merged with
//! what changed on disk, undone; with the real command on copies of the demo theme.

use std::fs;
use std::process::Command as Process;

use crate::site::Site;

const HOME: &str = "pages/home.html";

/// Two changes of one sheet and one of the page.
fn tried() -> Site {
    let site = Site::new();
    site.good("edit set pages/home.html h2.today color navy");
    site.good("edit set pages/home.html .sailing-list margin-top 9px");
    site.good("edit text pages/home.html h2.today 'Boats today'");
    site
}

#[test]
fn only_some_changes_are_saved_and_the_others_stay() {
    let site = tried();
    let css = site.read("css/skerry.css");
    let html = site.read(HOME);
    site.good("save 3");
    assert_eq!(site.read("css/skerry.css"), css);
    assert_eq!(
        site.read(HOME),
        html.replace("Sailings today", "Boats today")
    );
    site.good("save 1");
    assert!(
        site.read("css/skerry.css")
            .contains(".today {\n  color: navy;")
    );
    let draft = site.good(&["draft"]);
    assert!(
        draft.contains("  2  ") && !draft.contains("  1  ") && draft.contains("  now "),
        "{draft}"
    );
    let (status, _, errors) = site.run("save 1");
    assert_eq!(status, 2);
    assert!(
        errors.contains("the draft has no change 1 that is on"),
        "{errors}"
    );
    site.good("save --file css/skerry.css");
    assert_eq!(site.run(&["draft"]).0, 1);
}

#[test]
fn a_change_that_stands_in_another_is_not_saved_without_it() {
    let site = Site::new();
    site.good("edit rule pages/home.html h2.today 'top: 0' --selector '.panel .today'");
    site.good("edit set pages/home.html h2.today top 5px");
    let (status, _, errors) = site.run("save 2");
    assert_eq!(status, 2);
    assert!(
        errors.contains("change 2 was made over change 1; save change 1 too"),
        "{errors}"
    );
    site.good("save 1 2");
    assert!(
        site.read("css/skerry.css")
            .contains(".panel .today {\n  top: 5px;\n}")
    );
}

#[test]
fn a_patch_is_one_that_git_takes() {
    let site = tried();
    // A file without an end of line, and one with CRLF.
    let custom = site.read("css/overrides.css").replace('\n', "\r\n");
    fs::write(site.path("css/overrides.css"), custom.trim_end()).unwrap();
    site.good("edit set pages/home.html .site-footer margin-top 1rem");
    let root = site.path("");
    let git = |words: &[&str]| {
        let done = Process::new("git")
            .args(words)
            .current_dir(&root)
            .output()
            .unwrap();
        assert!(
            done.status.success(),
            "{words:?}: {}",
            String::from_utf8_lossy(&done.stderr)
        );
        String::from_utf8(done.stdout).unwrap()
    };
    git(&["init", "-q"]);
    git(&["config", "core.autocrlf", "false"]);
    git(&["add", "."]);
    let answer = site.good("save --patch change.patch");
    assert!(answer.contains("git apply change.patch"), "{answer}");
    assert!(
        site.read("css/skerry.css").contains("color: var(--brass);"),
        "nothing is written"
    );
    git(&["apply", "--check", "change.patch"]);
    git(&["apply", "change.patch"]);
    let by_git: Vec<String> = ["css/overrides.css", "css/skerry.css", HOME]
        .map(|f| site.read(f))
        .into();
    git(&["checkout", "-q", "--", "."]);
    site.good(&["save"]);
    let by_us: Vec<String> = ["css/overrides.css", "css/skerry.css", HOME]
        .map(|f| site.read(f))
        .into();
    assert_eq!(by_us, by_git);
    let stat = git(&["diff", "--stat"]);
    assert!(
        stat.contains("3 files changed, 4 insertions(+), 4 deletions(-)")
            || stat.contains("5 insertions"),
        "{stat}"
    );
}

#[test]
fn a_save_is_taken_back() {
    let site = tried();
    let before = [site.read("css/skerry.css"), site.read(HOME)];
    site.good(&["save"]);
    site.good("edit set pages/home.html '.words h2' letter-spacing 2px --inline");
    let answer = site.good(&["unsave"]);
    assert!(
        answer.contains("set color of h2.panel-title.today"),
        "{answer}"
    );
    assert_eq!([site.read("css/skerry.css"), site.read(HOME)], before);
    // What is tried goes on.
    let draft = site.good(&["draft"]);
    assert!(
        draft.contains("letter-spacing: 2px") && site.read(HOME).contains("Sailings today"),
        "{draft}"
    );
    let (status, _, errors) = site.run(&["unsave"]);
    assert_eq!(status, 1);
    assert!(errors.contains("no save to undo"), "{errors}");

    let site = tried();
    site.good(&["save"]);
    fs::write(site.path(HOME), format!("{}\n", site.read(HOME))).unwrap();
    // What was changed since, elsewhere in the file, stays.
    site.good(&["unsave"]);
    assert_eq!(
        [site.read("css/skerry.css"), site.read(HOME)],
        [before[0].clone(), format!("{}\n", before[1])]
    );

    let site = tried();
    site.good(&["save"]);
    let css = site.read("css/skerry.css");
    fs::write(
        site.path("css/skerry.css"),
        css.replace("color: navy", "color: olive"),
    )
    .unwrap();
    let (status, _, errors) = site.run(&["unsave"]);
    assert_eq!(status, 2);
    assert!(
        errors.contains("css/skerry.css was changed since it was saved, in the same text")
            && errors.contains("+  color: navy;")
            && errors.contains("+  color: olive;"),
        "{errors}"
    );
    assert!(site.read(HOME) != before[1], "nothing is written then");
}

/// A save is undone though a change that is not saved stands on the same line.
#[test]
fn a_save_is_taken_back_beside_what_is_still_tried() {
    let site = Site::new();
    let before = site.read("css/skerry.css");
    site.good("edit set pages/home.html h2.today color navy");
    site.good("edit important pages/home.html h2.today color");
    site.good("save 1");
    assert!(site.read("css/skerry.css").contains("color: navy;"));
    site.good(&["unsave"]);
    assert_eq!(site.read("css/skerry.css"), before);
    // The change that was saved is in the draft again, with its number.
    let draft = site.good(&["draft"]);
    assert!(draft.contains("now    color: navy !important;"), "{draft}");
    site.good("draft discard 1");
    let draft = site.good(&["draft"]);
    assert!(
        draft.contains("now    color: var(--brass) !important;"),
        "{draft}"
    );
    site.good(&["save"]);
    assert_eq!(
        site.read("css/skerry.css"),
        before.replace(
            ".today {\n  color: var(--brass);",
            ".today {\n  color: var(--brass) !important;"
        )
    );
}

/// Where the draft went on since, the save is undone and the draft stays.
#[test]
fn a_draft_that_went_on_is_not_put_back() {
    let site = Site::new();
    site.good("edit set pages/home.html h2.today color navy");
    site.good("save");
    site.good("edit set pages/home.html .hero padding 3px");
    let undone = site.good("unsave");
    assert!(!undone.contains("again"), "{undone}");
    let draft = site.good("draft");
    assert!(
        draft.contains("padding") && !draft.contains("navy"),
        "{draft}"
    );
}

#[test]
fn what_changed_on_disk_meanwhile_is_merged_where_no_line_is_both() {
    let site = tried();
    let css = site.read("css/skerry.css");
    let theirs = css.replace("--rust: #c8553d;", "--rust: #aa3311;\n  --kelp: #334422;");
    fs::write(site.path("css/skerry.css"), &theirs).unwrap();
    // Saving in one's own editor while a draft is open is the normal day.
    let why = site.good("why pages/home.html h2.today color");
    assert!(why.contains("rgb(0, 0, 128)"), "{why}");
    let draft = site.good(&["draft"]);
    assert!(
        draft.contains("css/skerry.css changed on disk since the draft was made"),
        "{draft}"
    );
    for step in [["off", "1"], ["on", "1"]] {
        site.good(&["draft", step[0], step[1]]);
    }
    assert!(site.good(&["draft"]).contains("now    color: navy;"));
    site.good(&["save"]);
    let both = site.read("css/skerry.css");
    assert!(
        both.contains("--kelp: #334422;") && both.contains(".today {\n  color: navy;"),
        "{both}"
    );

    let site = tried();
    let theirs = css.replace("color: var(--brass);", "color: var(--sound);");
    fs::write(site.path("css/skerry.css"), &theirs).unwrap();
    // What fits still counts, and what does not is named with both sides.
    let draft = site.good(&["draft"]);
    for part in [
        "  1  set color of h2.panel-title.today",
        "why: css/skerry.css changed on disk at this place",
        "now    color: navy;",
        "now    color: var(--sound);",
        "fingerpost draft reapply 1",
        "pages/home.html:",
    ] {
        assert!(draft.contains(part), "{part}: {draft}");
    }
    let why = site.good("why pages/home.html h2.today color");
    assert!(why.contains("var(--sound)"), "{why}");
    let (status, _, errors) = site.run("save 1");
    assert_eq!(status, 2);
    assert!(
        errors.contains("change 1 conflicts: css/skerry.css changed on disk"),
        "{errors}"
    );
    let (status, saved, _) = site.run(&["save"]);
    assert_eq!(status, 1);
    assert!(saved.contains("Not saved: change 1"), "{saved}");
    assert!(
        site.read("css/skerry.css")
            .contains(".today {\n  color: var(--sound);")
    );
    assert!(!site.read(HOME).contains("Sailings today"));
    // It is made again on what is there now.
    site.good("draft reapply 1");
    site.good(&["save"]);
    assert!(
        site.read("css/skerry.css")
            .contains(".today {\n  color: navy;")
    );
}

#[test]
fn a_change_is_aimed_elsewhere() {
    let site = tried();
    let answer = site.good("draft retarget 1 '.words h2'");
    assert!(
        answer.contains("Change 1 is now change 4: set color of h2.panel-title on"),
        "{answer}"
    );
    let why = site.good("why pages/home.html '.words h2' color");
    assert!(why.contains("rgb(0, 0, 128)"), "{why}");
    site.good("draft undo");
    let draft = site.good(&["draft"]);
    assert!(
        draft.contains("  1  set color of h2.panel-title.today"),
        "{draft}"
    );
    assert_eq!(site.run("draft retarget 9 h1").0, 1);
}

#[test]
fn a_script_is_tried_whole_or_not_at_all() {
    let site = Site::new();
    let script = |edits: &str| {
        let text = format!("{{\"fingerpost\": 4, \"edits\": [{edits}]}}");
        fs::write(site.path("change.json"), text).unwrap();
    };
    let good = "{\"page\": \"pages/home.html\", \"element\": \".sailing\", \"each\": true, \
                \"change\": {\"class\": {\"changes\": [\"+row\"]}}}";
    let second = "{\"page\": \"pages/notices.html\", \"element\": \"#gale\", \"change\": {\"duplicate\": {}}}";
    script(&format!("{good}, {second}"));
    let answer = site.good("edit --script change.json");
    assert!(
        answer.contains("2 changes in the draft (not saved)"),
        "{answer}"
    );
    assert!(answer.contains("the id 'gale' is there twice"), "{answer}");
    assert!(
        answer.contains("class +row of 4 elements on pages/home.html"),
        "{answer}"
    );
    site.good("draft discard --all");

    script(&format!("{good}, {}", second.replace("#gale", "#storm")));
    let (status, _, errors) = site.run("edit --script change.json");
    assert_eq!(status, 1);
    assert!(
        errors.contains("change.json: edit 2: no element"),
        "{errors}"
    );
    assert!(
        errors.contains("nothing of the script was tried"),
        "{errors}"
    );
    assert_eq!(site.run(&["draft"]).0, 1, "the draft is empty");

    script("{\"page\": \"a.html\", \"chnage\": \"duplicate\"}");
    let (status, _, errors) = site.run("edit --script change.json");
    assert_eq!(status, 2);
    assert!(
        errors.contains("line 1, column") && errors.contains("chnage"),
        "{errors}"
    );
}

#[test]
fn read_only_files_and_folders_say_so_and_lose_nothing() {
    let site = tried();
    let css = site.read("css/skerry.css");
    let path = site.path("css/skerry.css");
    let mut permissions = fs::metadata(&path).unwrap().permissions();
    permissions.set_readonly(true);
    fs::set_permissions(&path, permissions.clone()).unwrap();
    let (status, _, errors) = site.run(&["save"]);
    assert_eq!(status, 2);
    assert!(
        errors.contains("css/skerry.css: can't be written: the file is read-only"),
        "{errors}"
    );
    assert_eq!(site.read("css/skerry.css"), css);
    assert!(
        site.read(HOME).contains("Sailings today"),
        "no file is written when one can't be"
    );
    assert!(site.good(&["draft"]).contains("  3  "));
    fs::remove_file(&path).unwrap();
    let (status, saved, _) = site.run(&["save"]);
    assert_eq!(status, 1);
    assert!(
        saved.contains("css/skerry.css is gone, or can't be read any more"),
        "{saved}"
    );
    // Bringing the file back brings the changes back.
    fs::write(&path, &css).unwrap();
    assert!(site.good(&["draft"]).contains("does not apply"));
}

#[cfg(unix)]
#[test]
fn links_and_permissions_are_kept() {
    use std::os::unix::fs::PermissionsExt;
    let site = Site::new();
    let real = site.path("shared.css");
    fs::rename(site.path("css/skerry.css"), &real).unwrap();
    std::os::unix::fs::symlink("../shared.css", site.path("css/skerry.css")).unwrap();
    fs::set_permissions(&real, fs::Permissions::from_mode(0o640)).unwrap();
    site.good("edit set pages/home.html h2.today color navy");
    site.good(&["save"]);
    assert!(
        fs::symlink_metadata(site.path("css/skerry.css"))
            .unwrap()
            .is_symlink()
    );
    assert_eq!(
        fs::metadata(&real).unwrap().permissions().mode() & 0o777,
        0o640
    );
    assert!(fs::read_to_string(real).unwrap().contains("color: navy;"));
}

#[test]
fn only_what_changed_is_copied_with_its_conditions() {
    let site = tried();
    site.good("edit set pages/home.html .panel.map padding-top 5px --viewport 480x800");
    site.good("edit rule pages/home.html .words 'top: 0; left: 1px' --selector .own");
    site.good("edit set pages/home.html '#welcome' color teal --inline");
    let copied = site.good("extract changes --viewport 480x800");
    for part in [
        ".today {\n  color: navy;\n}\n",
        ".own {\n  top: 0;\n  left: 1px;\n}\n",
        "#welcome {\n  color: teal;\n}\n",
    ] {
        assert!(copied.contains(part), "{part} in {copied}");
    }
    assert!(!copied.contains("Boats"), "{copied}");
}

#[test]
fn commas_and_semicolons_inside_of_values_and_selectors_end_nothing() {
    let site = Site::new();
    let rule = "background-image: url(\"a;b:c.svg\"); top: 0";
    let answer = site.good(&[
        "edit",
        "rule",
        HOME,
        "h2.today",
        rule,
        "--selector",
        ":is(.today, .words)",
    ]);
    assert!(
        answer.contains("url(\"") && answer.contains("top of h2.panel-title.today is now 0px"),
        "{answer}"
    );
    assert!(!answer.contains("Note:"), "{answer}");
    let css = site.good(&["draft"]);
    assert!(css.contains(":is(.today, .words) {"), "{css}");
    let place = "css/skerry.css:259";
    let more = site.good(&["edit", "selector", HOME, place, "--add", ".map"]);
    assert!(
        more.contains(
            "The rule matches 3 elements of this page; before the edit, 2 elements, 2 of them the same."
        ),
        "{more}"
    );
    let less = site.good(&["edit", "selector", HOME, place, "--remove", ".map"]);
    assert!(
        less.contains(
            "The rule matches 2 elements of this page; before the edit, 3 elements, 2 of them the same."
        ),
        "{less}"
    );
}

/// When the answer can't be written, the command says so, and that its work is done.
#[cfg(unix)]
#[test]
fn an_answer_that_can_not_be_written_is_said() {
    let site = Site::new();
    site.good("edit set pages/home.html h2.today color navy");
    let full = fs::File::options().write(true).open("/dev/full").unwrap();
    let output = std::process::Command::new(assert_cmd::cargo::cargo_bin("fingerpost"))
        .arg("save")
        .current_dir(site.path(""))
        .stdout(full)
        .output()
        .unwrap();
    let errors = String::from_utf8(output.stderr).unwrap();
    assert_eq!(output.status.code(), Some(2), "{errors}");
    assert!(
        errors.contains("the command did what it was asked to"),
        "{errors}"
    );
    assert!(site.read("css/skerry.css").contains("color: navy;"));
}

/// A file with other names keeps none of them through a save, and that is said.
#[cfg(unix)]
#[test]
fn hard_links_are_said() {
    let site = Site::new();
    fs::hard_link(site.path("css/skerry.css"), site.path("css/copy.css")).unwrap();
    let before = site.read("css/copy.css");
    site.good("edit set pages/home.html h2.today color navy");
    let saved = site.good(&["save"]);
    assert!(
        saved.contains(
            "css/skerry.css had 1 other name (hard links), under which the old text stays"
        ),
        "{saved}"
    );
    assert_eq!(site.read("css/copy.css"), before);
}

/// Bytes that don't decode are in no patch, and come back all the same.
#[test]
fn a_save_of_bytes_that_do_not_decode_is_taken_back() {
    let site = Site::new();
    let old = b"<!doctype html>\n<meta charset=utf-8>\n<p class=a>caf\xE9</p>\n<p>\xE9 two</p>\n";
    fs::write(site.path("pages/old.html"), old).unwrap();
    site.good("edit text pages/old.html .a new");
    site.good("edit attribute pages/old.html p:last-child title x");
    site.good(&["save"]);
    let saved = fs::read(site.path("pages/old.html")).unwrap();
    let expected =
        b"<!doctype html>\n<meta charset=utf-8>\n<p class=a>new</p>\n<p title=\"x\">\xE9 two</p>\n";
    assert_eq!(
        String::from_utf8_lossy(&saved),
        String::from_utf8_lossy(expected)
    );
    assert_eq!(saved, expected);
    site.good(&["unsave"]);
    assert_eq!(fs::read(site.path("pages/old.html")).unwrap(), old);
}
