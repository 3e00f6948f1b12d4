//! First calls in folders without any preparation: the answer is right, or begins with what is missing.

use std::fs;
use std::path::Path;

use assert_cmd::Command;
use tempfile::TempDir;

/// A folder of files; a page's name is followed by the URL of its sheet.
struct Folder(TempDir);

const RED: &str = "h2 { color: red }\n";

impl Folder {
    fn new(pages: &[(&str, &str)], sheets: &[&str]) -> Folder {
        let folder = Folder(TempDir::new().unwrap());
        for (name, url) in pages {
            let html = format!("<!doctype html><link rel=stylesheet href=\"{url}\"><h2>x</h2>\n");
            folder.write(name, &html);
        }
        for name in sheets {
            folder.write(name, RED);
        }
        folder
    }

    fn write(&self, name: &str, text: &str) {
        let path = self.0.path().join(name);
        fs::create_dir_all(path.parent().unwrap()).unwrap();
        fs::write(path, text).unwrap();
    }

    fn run(&self, inside: &str, words: &[&str]) -> (i32, String, String) {
        run(&self.0.path().join(inside), words)
    }

    /// Asks for the color of the heading of a page, from a folder.
    #[track_caller]
    fn is_red(&self, inside: &str, page: &str, sheet: &str) {
        let (status, answer, errors) = self.run(inside, &["why", page, "h2", "color"]);
        assert_eq!(status, 0, "{errors}");
        assert!(answer.starts_with("color of h2"), "{answer}");
        assert!(answer.contains("rgb(255, 0, 0)"), "{errors}{answer}");
        assert!(answer.contains(&format!("  {sheet}:1  author")), "{answer}");
    }

    /// The same, where the sheet can't be found: that comes first, with what to do.
    #[track_caller]
    fn is_missing(&self, inside: &str, page: &str, said: &str) {
        let (status, answer, _) = self.run(inside, &["why", page, "h2", "color"]);
        assert_eq!(status, 0);
        assert!(answer.starts_with("Not loaded: "), "{answer}");
        assert!(answer.contains(said), "{answer}");
    }
}

fn run(folder: &Path, words: &[&str]) -> (i32, String, String) {
    let output = Command::cargo_bin("fingerpost")
        .unwrap()
        .current_dir(folder)
        .args(words)
        .output()
        .unwrap();
    let answer = String::from_utf8(output.stdout).unwrap();
    let errors = String::from_utf8(output.stderr).unwrap();
    crate::advised::all_work(folder, words, &format!("{errors}\n{answer}"));
    (output.status.code().unwrap(), answer, errors)
}

#[test]
fn sheets_beside_below_and_above_the_page() {
    let pages = [
        ("a.html", "a.css"),
        ("b.html", "css/x.css"),
        ("pages/c.html", "../css/x.css"),
        ("pages/deep/d.html", "../../css/x.css"),
        ("pages/e.html", "/css/x.css"),
        ("pages/f.html", "./../css//x.css?v=3#top"),
    ];
    let folder = Folder::new(&pages, &["a.css", "css/x.css"]);
    folder.is_red("", "a.html", "a.css");
    for (page, _) in &pages[1..] {
        folder.is_red("", page, "css/x.css");
    }
    // From the side, with the way down given.
    let folder = Folder::new(
        &[("site/pages/c.html", "../css/x.css")],
        &["site/css/x.css"],
    );
    folder.is_red("", "site/pages/c.html", "css/x.css");
}

#[test]
fn a_built_site_in_a_folder_of_the_project() {
    let folder = Folder::new(
        &[
            ("dist/index.html", "/assets/x.css"),
            ("src/page.html", "../dist/assets/x.css"),
        ],
        &["dist/assets/x.css"],
    );
    folder.is_red("", "dist/index.html", "assets/x.css");
    folder.is_red("", "src/page.html", "dist/assets/x.css");
}

#[test]
fn a_repository_is_the_limit() {
    let folder = Folder::new(
        &[("site/pages/a.html", "../css/x.css")],
        &["site/css/x.css"],
    );
    folder.write("site/.git/HEAD", "");
    // From the page's own folder the repository is still around it.
    folder.is_red("site/pages", "a.html", "css/x.css");
    let folder = Folder::new(&[("site/pages/a.html", "../../css/x.css")], &["css/x.css"]);
    folder.write("site/.git/HEAD", "");
    folder.is_missing("", "site/pages/a.html", "lies outside the site's folder");
}

#[test]
fn what_does_not_load_comes_first() {
    let folder = Folder::new(&[("pages/a.html", "../css/x.css")], &["css/x.css"]);
    folder.is_missing(
        "pages",
        "a.html",
        "../css/x.css lies outside the site's folder. Put a fingerpost.toml",
    );
    let folder = Folder::new(&[("a.html", "none.css")], &[]);
    folder.is_missing("", "a.html", "no such file: none.css. Mend the link");
    let folder = Folder::new(&[("a.html", "https://sheets.example/x.css")], &[]);
    folder.is_missing(
        "",
        "a.html",
        "nothing is fetched from the network. To count it",
    );
    for words in [
        &["trace", "a.html", "h2"][..],
        &["values", "a.html", "h2"],
        &["whynot", "a.html", "h2", "color: red"],
        &["suggest", "selector", "a.html", "h2"],
    ] {
        let (_, answer, errors) = folder.run("", words);
        assert!(
            answer.starts_with("Not loaded: https://"),
            "{words:?}: {answer}{errors}"
        );
    }
}

#[test]
fn the_root_is_said_in_one_line() {
    let folder = Folder::new(&[("pages/a.html", "../css/x.css")], &["css/x.css"]);
    let (_, _, errors) = folder.run("", &["why", "pages/a.html", "h2", "color"]);
    let root = folder.0.path().canonicalize().unwrap();
    let expected = format!(
        "Note: found no fingerpost.toml; using {} as the site's root\n",
        root.display()
    );
    assert_eq!(errors, expected);
    folder.write("fingerpost.toml", "");
    let (_, _, errors) = folder.run("", &["why", "pages/a.html", "h2", "color"]);
    assert_eq!(errors, "");
}

#[test]
fn a_configuration_may_be_empty_or_partial() {
    for configuration in [
        "",
        "# nothing\n",
        "name = \"x\"\n",
        "override-sheet = \"css/x.css\"\n",
    ] {
        let folder = Folder::new(&[("pages/a.html", "/css/x.css")], &["css/x.css"]);
        folder.write("fingerpost.toml", configuration);
        folder.is_red("pages", "a.html", "css/x.css");
        let (status, _, _) =
            folder.run("", &["edit", "set", "pages/a.html", "h2", "color", "navy"]);
        assert_eq!(status, 0, "{configuration:?}");
    }
}

/// What was tried in a site without a configuration is found again from anywhere in it.
#[test]
fn a_draft_marks_its_site() {
    let folder = Folder::new(
        &[("site/pages/a.html", "../css/x.css")],
        &["site/css/x.css"],
    );
    let edit = ["edit", "set", "site/pages/a.html", "h2", "color", "navy"];
    assert_eq!(folder.run("", &edit).0, 0);
    for inside in ["site", "site/pages", "site/css"] {
        let (status, answer, errors) = folder.run(inside, &["draft"]);
        assert_eq!(status, 0, "{errors}");
        assert!(answer.contains("red → navy"), "{answer}");
    }
    // The only site below a folder is the one that is meant there.
    let (status, answer, errors) = folder.run("", &["draft"]);
    assert_eq!(status, 0, "{errors}");
    assert!(errors.contains("as the site's root"), "{errors}");
    assert!(answer.contains("red → navy"), "{answer}");
    // Its pages are found as answers name them.
    let (status, answer, errors) = folder.run("", &["why", "pages/a.html", "@", "color"]);
    assert_eq!(status, 0, "{errors}");
    assert!(answer.contains("navy"), "{answer}");
    let (status, answer, _) = folder.run("", &["save", "--site", "site"]);
    assert_eq!(status, 0);
    assert!(
        answer.ends_with("To undo the save: fingerpost unsave --site site\n"),
        "{answer}"
    );
    let sheet = fs::read_to_string(folder.0.path().join("site/css/x.css")).unwrap();
    assert_eq!(sheet, "h2 { color: navy }\n");
}

#[test]
fn where_there_is_no_site_that_is_said() {
    let folder = Folder::new(&[], &["x.css"]);
    for words in [
        &["draft"][..],
        &["save"],
        &["unsave"],
        &["recover"],
        &["extract", "changes"],
    ] {
        let (status, answer, errors) = folder.run("", words);
        assert_eq!((status, &*answer), (2, ""), "{words:?}: {errors}");
        assert!(errors.contains("no site here"), "{words:?}: {errors}");
        assert!(!folder.0.path().join(".fingerpost").exists());
    }
    // There may be a site below the root, such as one of another test.
    let (status, _, errors) = run(Path::new("/"), &["draft"]);
    assert!(matches!(status, 1 | 2), "{errors}");
}
