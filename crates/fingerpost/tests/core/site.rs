//! A site on disk through the public API: what a URL means, what is read, what a save writes.

use std::fs;
use std::path::Path;

use fingerpost::prelude::*;
use fingerpost::site::SiteError;
use tempfile::TempDir;

fn site(files: &[(&str, &str)]) -> TempDir {
    let folder = TempDir::new().unwrap();
    for (name, text) in files {
        let path = folder.path().join(name);
        fs::create_dir_all(path.parent().unwrap()).unwrap();
        fs::write(path, text).unwrap();
    }
    folder
}

fn color(folder: &Path, page: &str) -> String {
    let (site, name) = Site::of_page(&folder.join(page)).unwrap();
    let page = site.page(&name, Environment::default()).unwrap();
    let target = page.ask().find_one("p").unwrap();
    let answer = page
        .ask()
        .why(&target, &PropertyName::named("color").unwrap());
    answer.contests[0].value.computed.clone()
}

const RED: &str = "p { color: red }";

#[test]
fn urls_are_looked_up_as_a_browser_would() {
    for (href, file) in [
        ("/css/a.css", "css/a.css"),
        ("a.css", "pages/a.css"),
        ("../css/a.css?v=3#x", "css/a.css"),
        ("../../../css/a.css", "css/a.css"),
        ("a%20b.css", "pages/a b.css"),
        ("./x/../a.css", "pages/a.css"),
    ] {
        let page = format!("<link rel='stylesheet' href='{href}'><p>");
        let folder = site(&[
            ("fingerpost.toml", "fingerpost = 2"),
            ("pages/p.html", &page),
            (file, RED),
        ]);
        assert_eq!(
            color(folder.path(), "pages/p.html"),
            "rgb(255, 0, 0)",
            "{href}"
        );
    }
}

#[test]
fn a_base_element_moves_the_pages_urls() {
    let page = "<base href='/other/'><link rel=stylesheet href=a.css><p>";
    let folder = site(&[
        ("fingerpost.toml", "fingerpost = 2"),
        ("p.html", page),
        ("other/a.css", RED),
    ]);
    assert_eq!(color(folder.path(), "p.html"), "rgb(255, 0, 0)");
}

#[test]
fn links_that_are_no_sheets_or_are_off_do_not_style() {
    for link in [
        "<link rel=icon href=a.css>",
        "<link rel=stylesheet type=text/less href=a.css>",
        "<link rel='alternate stylesheet' href=a.css>",
        "<link rel=stylesheet disabled href=a.css>",
        "<link rel=stylesheet media=print href=a.css>",
        "<link rel=stylesheet href=''>",
    ] {
        let folder = site(&[("p.html", &format!("{link}<p>")), ("a.css", RED)]);
        assert_eq!(color(folder.path(), "p.html"), "rgb(0, 0, 0)", "{link}");
    }
}

#[test]
fn the_root_is_the_nearest_folder_with_a_configuration() {
    let folder = site(&[
        ("fingerpost.toml", "fingerpost = 2"),
        ("inner/fingerpost.toml", "fingerpost = 2\nname = 'Inner'"),
        ("inner/pages/p.html", "<link rel=stylesheet href=/a.css><p>"),
        ("inner/a.css", RED),
    ]);
    let (site, name) = Site::of_page(&folder.path().join("inner/pages/p.html")).unwrap();
    assert_eq!(name, "pages/p.html");
    assert_eq!(site.config().name.as_deref(), Some("Inner"));
    assert_eq!(color(folder.path(), "inner/pages/p.html"), "rgb(255, 0, 0)");
}

#[test]
fn the_draft_outlives_the_program_and_a_save_empties_it() {
    let folder = site(&[
        ("p.html", "<link rel=stylesheet href=a.css><p>"),
        ("a.css", RED),
    ]);
    let page = folder.path().join("p.html");
    let (mut first, name) = Site::of_page(&page).unwrap();
    let built = first.page(&name, Environment::default()).unwrap();
    let intent = Intent::new(&name, "p", Change::set("color", "navy"));
    let edit = first.make(&built, &intent).unwrap();
    first.session().unwrap().add(edit).unwrap();
    drop(first);

    assert_eq!(color(folder.path(), "p.html"), "rgb(0, 0, 128)");
    assert_eq!(
        fs::read_to_string(folder.path().join("a.css")).unwrap(),
        RED
    );
    let mut again = Site::of_folder(folder.path()).unwrap();
    assert_eq!(again.draft().edits().count(), 1);
    let changes = again.session().unwrap().save_all().unwrap().files;
    assert_eq!(changes.len(), 1);
    assert_eq!(
        fs::read_to_string(folder.path().join("a.css")).unwrap(),
        "p { color: navy }"
    );
    assert_eq!(color(folder.path(), "p.html"), "rgb(0, 0, 128)");
    assert!(Site::of_folder(folder.path()).unwrap().draft().is_empty());
}

#[test]
fn nothing_is_written_when_one_of_two_files_changed() {
    let folder = site(&[
        (
            "p.html",
            "<link rel=stylesheet href=a.css><link rel=stylesheet href=b.css><p>",
        ),
        ("a.css", "p { color: red }"),
        ("b.css", "p { top: 1px }"),
    ]);
    let (mut site, name) = Site::of_page(&folder.path().join("p.html")).unwrap();
    for (property, value) in [("color", "navy"), ("top", "2px")] {
        let page = site.page(&name, Environment::default()).unwrap();
        let intent = Intent::new(&name, "p", Change::set(property, value));
        let edit = site.make(&page, &intent).unwrap();
        site.session().unwrap().add(edit).unwrap();
    }
    fs::write(folder.path().join("b.css"), "p { top: 9px }").unwrap();
    let error = site.session().unwrap().save_all().unwrap_err();
    assert!(
        error.to_string().contains("b.css has changed on disk"),
        "{error}"
    );
    assert_eq!(
        fs::read_to_string(folder.path().join("a.css")).unwrap(),
        "p { color: red }"
    );
}

#[test]
fn pages_that_can_not_be_read_say_so() {
    let folder = site(&[("p.html", "x"), ("b.html", "\0\0")]);
    let open = |name: &str| {
        Site::of_page(&folder.path().join(name))
            .and_then(|(site, name)| site.page(&name, Environment::default()).map(|_| ()))
    };
    assert!(matches!(
        open("none.html"),
        Err(SiteError::NoSuchPage { .. })
    ));
    // A page of the folder is named, where it has one.
    fs::create_dir(folder.path().join("empty")).unwrap();
    let said = |name: &str| open(name).unwrap_err().to_string();
    assert!(said(".").ends_with("b.html"), "{}", said("."));
    assert!(said("empty").ends_with("expected a page, and none lies in it"));
    assert!(matches!(open("b.html"), Err(SiteError::NotText { .. })));
    assert!(open("p.html").is_ok());
}
