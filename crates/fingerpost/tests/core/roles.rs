//! What files are, and that a change is written where it lasts.

use fingerpost::advice::Action;
use fingerpost::edit::{Change, Destination, Edit, EditError, Intent, Pages, Side, kinds};
use fingerpost::environment::Environment;
use fingerpost::question::codes::RoleKind;
use fingerpost::site::{Site, View};
use fingerpost::survey::guess::guess;
use fingerpost::text::Text;

fn site(texts: &[(&str, &str)]) -> View {
    View::in_memory(texts.iter().map(|(name, text)| Text::new(*name, *text))).unwrap()
}

fn page(sheets: &[&str]) -> String {
    let links = sheets.iter();
    let links = links.map(|sheet| format!("<link rel=stylesheet href={sheet}>"));
    format!(
        "<!doctype html><head>{}</head><p class=a>Boats",
        links.collect::<String>()
    )
}

fn set(site: &View, into: Option<Destination>) -> Result<Edit, EditError> {
    let page = site.page("a.html", Environment::default()).unwrap();
    let mut intent = Intent::new("a.html", "p", Change::set("color", "navy"));
    intent.into = into.unwrap_or_default();
    site.make(&page, &intent)
}

const RULE: &str = ".a { color: teal }\n";

#[test]
fn every_sign_of_a_role() {
    let long = ".x{top:0}".repeat(200);
    let parts = "p{top:0}\nb{top:0}\ni{top:0}\n";
    let more = "a{left:0}\nu{left:0}\ns{left:0}\n";
    let site = site(&[
        ("a.html", "<p>"),
        ("own.css", RULE),
        ("long.css", &long),
        ("made.css", RULE),
        ("src/made.scss", RULE),
        ("named.min.css", RULE),
        ("lost.css", ".a{}/*# sourceMappingURL=gone.map */"),
        ("one.css", parts),
        ("two.css", more),
        ("all.css", &format!("{parts}{more}")),
        ("js/grid/package.json", "{}"),
        ("js/grid/dist/grid.css", RULE),
        ("node_modules/x/x.css", RULE),
        ("icons/icons.css", RULE),
        (
            "fingerpost.toml",
            "[[role]]\nfiles = \"icons/*.css\"\nis = \"vendor\"\n",
        ),
    ]);
    for (file, kind, evidence) in [
        ("a.html", RoleKind::Page, ""),
        ("own.css", RoleKind::Authored, ""),
        ("one.css", RoleKind::Authored, ""),
        ("src/made.scss", RoleKind::Authored, ""),
        ("long.css", RoleKind::Built, "minified"),
        ("made.css", RoleKind::Built, "src/made.scss has its name"),
        ("named.min.css", RoleKind::Built, "its name says"),
        ("lost.css", RoleKind::Built, "gone.map is not in the site"),
        (
            "all.css",
            RoleKind::Built,
            "the rules of one.css and two.css",
        ),
        (
            "js/grid/dist/grid.css",
            RoleKind::Vendor,
            "js/grid/package.json",
        ),
        (
            "node_modules/x/x.css",
            RoleKind::Vendor,
            "the folder node_modules",
        ),
        (
            "icons/icons.css",
            RoleKind::Vendor,
            "the configuration says so",
        ),
        ("https://boats.example/a.css", RoleKind::Remote, ""),
        ("../a.css", RoleKind::Outside, ""),
    ] {
        let role = site.role(file);
        assert_eq!(role.kind, kind, "{file}: {role:?}");
        assert!(
            role.evidence.join("; ").contains(evidence),
            "{file}: {role:?}"
        );
    }
}

#[test]
fn what_a_role_is_called_must_be_known() {
    let text = Text::new(
        "fingerpost.toml",
        "[[role]]\nfiles = \"a.css\"\nis = \"vendr\"\n",
    );
    let error = View::in_memory([text]).unwrap_err().to_string();
    assert!(error.contains(":3") && error.contains("vendor"), "{error}");
}

/// A change goes into the sheet that it is in now only where that is the theme's own.
#[test]
fn a_change_goes_where_it_lasts() {
    let (links, built) = (page(&["own.css", "a.min.css", "last.css"]), "a.min.css");
    let own = site(&[("a.html", &page(&["own.css"])), ("own.css", RULE)]);
    let edit = set(&own, None).unwrap();
    assert_eq!(
        (edit.files().collect::<Vec<_>>(), &edit.warnings[..]),
        (vec!["own.css"], &[][..])
    );

    // The last sheet is the theme's own, and nothing names another one.
    let texts = [
        ("a.html", &*links),
        ("own.css", ""),
        (built, RULE),
        ("last.css", ""),
    ];
    let edit = set(&site(&texts), None).unwrap();
    assert_eq!(edit.files().collect::<Vec<_>>(), ["last.css"]);
    assert!(edit.warnings[0].starts_with("it goes into last.css, because a.min.css is built"));
    // What the configuration names comes before it.
    let config = ("fingerpost.toml", "override-sheet = \"own.css\"\n");
    let edit = set(&site(&[&texts[..], &[config]].concat()), None).unwrap();
    assert_eq!(edit.files().collect::<Vec<_>>(), ["own.css"]);
    // By its name it stays where it is, and says what will happen.
    let edit = set(&site(&texts), Some(Destination::Winning)).unwrap();
    assert_eq!(edit.files().collect::<Vec<_>>(), [built]);
    assert!(
        edit.warnings[0].ends_with("its next build overwrites this change"),
        "{edit:?}"
    );
}

/// Where no sheet is the theme's own, the way out is a command, and it works.
#[test]
fn where_no_sheet_lasts_one_can_be_made() {
    let folder = tempfile::tempdir().unwrap();
    let write = |name: &str, text: &str| std::fs::write(folder.path().join(name), text).unwrap();
    std::fs::create_dir_all(folder.path().join("vendor")).unwrap();
    write("fingerpost.toml", "fingerpost = 2\n");
    write("vendor/kit.css", RULE);
    write("a.html", &page(&["vendor/kit.css"]));
    write("b.html", &page(&["vendor/kit.css"]));
    let mut site = Site::of_folder(folder.path()).unwrap();
    for into in [Destination::default(), Destination::Overrides] {
        let mut intent = Intent::new("a.html", "p", Change::set("color", "navy"));
        intent.into = into;
        let page = site.page("a.html", Environment::default()).unwrap();
        let refused = site.make(&page, &intent).unwrap_err();
        let advice = refused.advice(&intent).remove(0);
        assert_eq!(advice.code, "new-override-sheet", "{refused}");
        let Action::Edit { edits } = &advice.action else {
            panic!("{advice:?}");
        };
        let mut session = site.session().unwrap();
        let outcome = session.script("", edits).unwrap();
        let effect = outcome.effect.unwrap();
        assert_eq!(
            effect.side_effects().count(),
            1,
            "the other page has the paragraph too"
        );
        session.undo().unwrap();
        assert_eq!(
            session.site().changes().unwrap().len(),
            0,
            "one step takes all of it back"
        );
    }
}

#[test]
fn a_sheet_on_a_server_that_no_mount_knows_is_refused() {
    let site = site(&[("a.html", "<p>")]);
    let url = "https://boats.example/a.html";
    let css = Text::new("https://boats.example/a.css", RULE);
    let html = "<link rel=stylesheet href=/a.css><p class=a>Boats";
    let page = fingerpost::page::Page::builder(Text::new(url, html))
        .loader(|_: &fingerpost::page::Request<'_>| Ok(css.clone()))
        .build();
    let refused = site.make(&page, &Intent::new(url, "p", Change::set("color", "navy")));
    let refused = refused.unwrap_err();
    assert_eq!(refused.code(), "no-file");
    assert!(refused.to_string().contains("[[mount]]"), "{refused}");
}

/// The numbers of a script are those of the page before it, whatever its own edits move.
#[test]
fn a_script_counts_elements_as_it_found_them() {
    let folder = tempfile::tempdir().unwrap();
    let write = |name: &str, text: &str| std::fs::write(folder.path().join(name), text).unwrap();
    write("fingerpost.toml", "");
    write("a.css", ".a { left: 0 }\n.b { left: 0 }\n");
    write("a.html", &format!("{}<p class=b>Fares", page(&["a.css"])));
    let mut site = Site::of_folder(folder.path()).unwrap();
    let before = site.page("a.html", Environment::default()).unwrap();
    let fares = before.ask().find_one(".b").unwrap();
    let number = before.document().element(fares.element).index;
    let insert = kinds::Insert {
        source: "<b>New</b>".to_owned(),
        side: Side::First,
    };
    let edits = [
        Intent::new("a.html", ".a", insert),
        Intent::new("a.html", &format!("@{number}"), Change::add("top", "1px")),
    ];
    let mut session = site.session().unwrap();
    session.script("", &edits).unwrap();
    let after = session
        .site()
        .page("a.html", Environment::default())
        .unwrap();
    let top = |element: &str| {
        let target = after.ask().find_one(element).unwrap();
        after
            .styles()
            .value(&target, &"top".parse().unwrap())
            .computed
            .text()
            .to_owned()
    };
    assert_eq!(
        (top(".b"), top(".a")),
        ("1px".to_owned(), "auto".to_owned())
    );
}

/// What is guessed to be the override sheet is one that keeps changes.
#[test]
fn no_bundle_is_guessed_to_be_the_override_sheet() {
    let folder = tempfile::tempdir().unwrap();
    let write = |name: &str, text: &str| {
        let path = folder.path().join(name);
        std::fs::create_dir_all(path.parent().unwrap()).unwrap();
        std::fs::write(path, text).unwrap();
    };
    write("own.css", RULE);
    for (last, taken) in [
        ("theme.min.css", false),
        ("vendor/kit.css", false),
        ("changes.css", true),
    ] {
        write(last, RULE);
        write("a.html", &page(&["own.css", last]));
        let found = guess(folder.path())
            .unwrap()
            .overrides
            .map(|sheet| sheet.file);
        assert_eq!(found.as_deref(), Some(last).filter(|_| taken), "{last}");
    }
}

/// The same change on other pages does not go into a vendor sheet that only they have.
#[test]
fn a_change_on_every_page_leaves_vendor_sheets_alone() {
    let site = site(&[
        ("a.html", &page(&["own.css"])),
        ("b.html", &page(&["vendor/kit.css"])),
        ("own.css", RULE),
        ("vendor/kit.css", RULE),
    ]);
    let own = site.page("a.html", Environment::default()).unwrap();
    let mut intent = Intent::new("a.html", "p", Change::set("color", "navy"));
    intent.pages = Pages::Every;
    let edit = site.make(&own, &intent).unwrap();
    assert_eq!(edit.files().collect::<Vec<_>>(), ["own.css"]);
    let left = "left alone: b.html: vendor/kit.css is a vendor sheet";
    assert!(
        edit.warnings
            .iter()
            .any(|warning| warning.starts_with(left)),
        "{edit:?}"
    );
    intent.pages = Pages::Also(vec!["b.html".to_owned()]);
    assert_eq!(site.make(&own, &intent).unwrap_err().code(), "not-there");
}
