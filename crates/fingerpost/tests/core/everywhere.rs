//! Edits of more than one file: a new sheet and its links, a name everywhere, the same element on every
//! page; what is in templates and in `<noscript>`.

use std::fs;

use fingerpost::edit::{Intent, Pages, kinds};
use fingerpost::prelude::*;
use tempfile::TempDir;

struct Desk(TempDir);

const HEAD: &str = "<!doctype html>\n<link rel=\"stylesheet\" href=\"../css/a.css\">\n";
const ASIDE: &str = "<aside class=\"side fare\">\n  <b>x</b>\n</aside>\n";

impl Desk {
    fn new() -> Desk {
        let desk = Desk(TempDir::new().unwrap());
        desk.write(
            "fingerpost.toml",
            "fingerpost = 2\ntemplates = [\"templates/*.html\"]\n",
        );
        desk.write(
            "css/a.css",
            ".fare, p.fare:not(.x.fare) { color: var(--fare) }\n:root { --fare: red }\n",
        );
        desk.write(
            "scss/a.scss",
            "// .fare of old\n.fare { &:hover { top: 0 } }\n",
        );
        desk.write("templates/t.html", "<i class=fare>{{ x }}</i>\n");
        for page in ["one", "two"] {
            let text = format!(
                "{HEAD}<p id=fare class=\"fare big\">x</p>\n<a href=\"#fare\">y</a>\n{ASIDE}"
            );
            desk.write(&format!("pages/{page}.html"), &text);
        }
        desk.write("pages/three.html", HEAD);
        desk
    }

    fn write(&self, file: &str, text: &str) {
        let path = self.0.path().join(file);
        fs::create_dir_all(path.parent().unwrap()).unwrap();
        fs::write(path, text).unwrap();
    }

    fn read(&self, file: &str) -> String {
        fs::read_to_string(self.0.path().join(file)).unwrap()
    }

    fn site(&self) -> Site {
        Site::of_folder(self.0.path()).unwrap()
    }

    /// Tries an intent on the first page and saves it; gives its summary.
    #[track_caller]
    fn saved(&self, intent: &Intent) -> String {
        let mut site = self.site();
        let page = site.page(&intent.page, Environment::default()).unwrap();
        let edit = site.make(&page, intent).unwrap();
        let summary = edit.summary.clone();
        site.session().unwrap().add(edit).unwrap();
        site.session().unwrap().save_all().unwrap();
        summary
    }
}

fn of_site(change: impl Into<Change>) -> Intent {
    Intent {
        element: None,
        ..Intent::new("pages/one.html", "", change)
    }
}

#[test]
fn a_class_is_renamed_everywhere() {
    let desk = Desk::new();
    let change = kinds::Rename {
        what: kinds::Named::Class,
        from: "fare".to_owned(),
        to: "price".to_owned(),
    };
    let summary = desk.saved(&of_site(change));
    assert_eq!(
        summary,
        "rename .fare to .price everywhere: 5 places in the markup of 3 files, 4 places in the styles of \
         2 files"
    );
    assert_eq!(
        desk.read("css/a.css"),
        ".price, p.price:not(.x.price) { color: var(--fare) }\n:root { --fare: red }\n"
    );
    assert_eq!(
        desk.read("scss/a.scss"),
        "// .fare of old\n.price { &:hover { top: 0 } }\n"
    );
    assert_eq!(
        desk.read("templates/t.html"),
        "<i class=price>{{ x }}</i>\n"
    );
    let page = desk.read("pages/two.html");
    assert!(page.contains("<p id=fare class=\"price big\">") && page.contains("\"side price\""));
    // And back, with what it was.
    desk.site().session().unwrap().unsave().unwrap();
    assert!(
        desk.read("css/a.css")
            .starts_with(".fare, p.fare:not(.x.fare)")
    );
}

#[test]
fn an_id_is_renamed_with_what_refers_to_it_and_a_custom_property_where_it_is_used() {
    let desk = Desk::new();
    desk.saved(&of_site(kinds::Rename {
        what: kinds::Named::Id,
        from: "fare".to_owned(),
        to: "to".to_owned(),
    }));
    let page = desk.read("pages/one.html");
    assert!(
        page.contains("<p id=to class") && page.contains("href=\"#to\""),
        "{page}"
    );
    desk.saved(&of_site(kinds::Rename {
        what: kinds::Named::CustomProperty,
        from: "--fare".to_owned(),
        to: "--ink".to_owned(),
    }));
    let css = desk.read("css/a.css");
    assert!(
        css.contains("var(--ink)") && css.contains("{ --ink: red }"),
        "{css}"
    );
    let missing = kinds::Rename {
        what: kinds::Named::Class,
        from: "nowhere".to_owned(),
        to: "x".to_owned(),
    };
    let site = desk.site();
    let page = site.page("pages/one.html", Environment::default()).unwrap();
    let error = site.make(&page, &of_site(missing)).unwrap_err();
    assert!(error.is_an_answer(), "{error}");
}

#[test]
fn a_sheet_is_made_and_linked_and_gone_when_that_is_taken_back() {
    let desk = Desk::new();
    let change = kinds::NewSheet {
        file: "css/new/winter.css".parse().unwrap(),
        source: ":root p.fare.big { color: navy }".to_owned(),
        after: None,
        overrides: false,
    };
    let before = desk.read("pages/two.html");
    let intent = Intent {
        pages: Pages::Also(vec!["pages/two.html".to_owned()]),
        ..of_site(change.clone())
    };
    let summary = desk.saved(&intent);
    assert!(summary.ends_with("and on 1 other page"), "{summary}");
    assert_eq!(
        desk.read("css/new/winter.css"),
        ":root p.fare.big { color: navy }\n"
    );
    let link = "<link rel=\"stylesheet\" href=\"../css/new/winter.css\">\n";
    assert!(
        desk.read("pages/two.html")
            .contains(&format!("{HEAD}{link}"))
    );
    assert_eq!(desk.read("pages/three.html"), HEAD);
    let site = desk.site();
    let page = site.page("pages/two.html", Environment::default()).unwrap();
    let target = page.ask().find_one("p").unwrap();
    let answer = page
        .ask()
        .why(&target, &PropertyName::named("color").unwrap());
    assert_eq!(answer.contests[0].value.computed, "rgb(0, 0, 128)");
    // Linked on a page more, the sheet itself is there.
    desk.saved(&Intent {
        page: "pages/three.html".to_owned(),
        pages: Pages::Every,
        ..of_site(kinds::NewSheet {
            source: String::new(),
            after: Some("css/a.css".to_owned()),
            ..change
        })
    });
    assert_eq!(desk.read("pages/three.html"), format!("{HEAD}{link}"));
    for _ in 0..2 {
        desk.site().session().unwrap().unsave().unwrap();
    }
    assert_eq!(desk.read("pages/two.html"), before);
    assert!(!desk.0.path().join("css/new/winter.css").exists());
}

#[test]
fn a_shared_element_is_edited_on_every_page() {
    let desk = Desk::new();
    let change = kinds::Text {
        text: "z".to_owned(),
        from: None,
    };
    let summary = desk.saved(&Intent {
        pages: Pages::Every,
        ..Intent::new("pages/one.html", "aside b", change)
    });
    assert!(summary.ends_with("and on 1 other page"), "{summary}");
    for page in ["pages/one.html", "pages/two.html"] {
        assert!(desk.read(page).contains("<b>z</b>"), "{page}");
    }
}

#[test]
fn what_stands_in_a_template_or_without_scripts_is_found_and_edited() {
    let desk = Desk::new();
    let html = "<template><p class=in>a</p></template><noscript><p class=off>b</p></noscript>";
    desk.write("pages/one.html", html);
    let class = kinds::Class {
        changes: vec!["+x".to_owned()],
    };
    desk.saved(&Intent::new("pages/one.html", ".in", class.clone()));
    assert_eq!(
        desk.read("pages/one.html"),
        html.replace("class=in", "class=\"in x\"")
    );
    let mut environment = Environment::default();
    environment
        .features
        .insert("scripting".to_owned(), "none".to_owned());
    let mut site = desk.site();
    let page = site.page("pages/one.html", environment).unwrap();
    let edit = site
        .make(&page, &Intent::new("pages/one.html", ".off", class))
        .unwrap();
    site.session().unwrap().add(edit).unwrap();
    site.session().unwrap().save_all().unwrap();
    assert!(desk.read("pages/one.html").contains("class=\"off x\""));
}

#[test]
fn the_whole_server_can_be_mounted() {
    let desk = Desk::new();
    desk.write(
        "fingerpost.toml",
        "fingerpost = 2\n[[mount]]\nurl = \"/\"\ndir = \"dist\"\n",
    );
    desk.write("dist/css/b.css", "p { color: teal }");
    desk.write("dist/x.html", "<link rel=stylesheet href=/css/b.css><p>x");
    let site = desk.site();
    let page = site.page("dist/x.html", Environment::default()).unwrap();
    assert!(page.failures().is_empty(), "{:?}", page.failures());
}
