//! Sheets that are made from other files: answers show where they were written, and edits go there,
//! if the place says the same; source maps stay true.

use std::fs;

use fingerpost::edit::{Change, Destination, EditError, Intent, kinds};
use fingerpost::prelude::*;
use fingerpost::text::Place;
use tempfile::TempDir;

use crate::support::demo_copy;

const PAGE: &str = "pages/fares.html";

struct Desk(TempDir);

impl Desk {
    fn new() -> Desk {
        Desk(demo_copy())
    }

    fn site(&self) -> Site {
        Site::of_folder(self.0.path()).unwrap()
    }

    fn read(&self, file: &str) -> String {
        fs::read_to_string(self.0.path().join(file)).unwrap()
    }

    fn write(&self, file: &str, text: &str) {
        fs::write(self.0.path().join(file), text).unwrap();
    }

    /// Tries an intent and gives the files that change.
    fn attempt(&self, intent: &Intent) -> Result<Vec<String>, EditError> {
        let mut site = self.site();
        let page = site.page(&intent.page, Environment::default()).unwrap();
        let edit = site.make(&page, intent)?;
        let files = edit.files().map(str::to_owned).collect();
        site.session().unwrap().add(edit).unwrap();
        Ok(files)
    }

    #[track_caller]
    fn change(&self, element: &str, change: Change) -> Vec<String> {
        self.attempt(&Intent::new(PAGE, element, change)).unwrap()
    }

    #[track_caller]
    fn refused(&self, element: &str, change: Change) -> String {
        self.attempt(&Intent::new(PAGE, element, change))
            .unwrap_err()
            .to_string()
    }

    fn value(&self, page: &str, element: &str, property: &str) -> (String, Option<Place>) {
        let site = self.site();
        let page = site.page(page, Environment::default()).unwrap();
        let target = page.ask().find_one(element).unwrap();
        let answer = page
            .ask()
            .why(&target, &PropertyName::named(property).unwrap());
        let contest = &answer.contests[0];
        let winner = contest.contenders.first();
        let place = winner.and_then(|w| w.declaration.place.authored.as_deref().cloned());
        (contest.value.computed.clone(), place)
    }

    /// How many declarations of a sheet are found where the map says that they were written.
    fn true_places(&self, page: &str, sheet: &str) -> usize {
        let site = self.site();
        let page = site.page(page, Environment::default()).unwrap();
        let mut sheets = page.sheets().iter().map(|s| s.styles.sheet());
        let sheet = sheets.find(|s| s.text().name() == sheet).unwrap();
        let map = sheet.text().authored().expect("it has a map");
        let declarations = sheet.declarations().filter(|(_, d)| {
            let (source, at) = map.find(sheet.text(), d.name.start()).unwrap();
            source.source()[usize::from(at)..].starts_with(sheet.name_source(d))
        });
        declarations.count()
    }
}

#[test]
fn answers_show_where_it_was_written() {
    let desk = Desk::new();
    let (value, place) = desk.value(PAGE, ".booking", "max-width");
    assert_eq!(value, "544px");
    let place = place.unwrap();
    assert_eq!(
        (place.file.as_str(), place.line, place.column),
        ("scss/fares.scss", 5, 3)
    );
    // One written in a mixin, and one in a minified sheet.
    let (_, mixin) = desk.value(PAGE, "#pier", "border-top-left-radius");
    assert_eq!(mixin.unwrap().to_string(), "scss/_harbour.scss:8:3");
    let (_, minified) = desk.value("pages/notices.html", "#gale h2", "font-style");
    assert_eq!(minified.unwrap().to_string(), "scss/notices.scss:15:5");
}

#[test]
fn an_edit_changes_the_authored_file_and_the_served_one() {
    let desk = Desk::new();
    let scss = desk.read("scss/fares.scss");
    let set = Change::set("max-width", "30rem");
    assert_eq!(
        desk.change(".booking", set),
        ["scss/fares.scss", "css/fares.css"]
    );
    assert_eq!(desk.value(PAGE, ".booking", "max-width").0, "480px");
    desk.site().session().unwrap().save_all().unwrap();
    let wanted = scss.replacen("34rem", "30rem", 1);
    assert_eq!(desk.read("scss/fares.scss"), wanted);
    assert_eq!(desk.value(PAGE, ".booking", "max-width").0, "480px");
    desk.site().session().unwrap().unsave().unwrap();
    assert_eq!(desk.read("scss/fares.scss"), scss);
}

#[test]
fn what_a_program_writes_otherwise_is_the_same_value() {
    let desk = Desk::new();
    // `.02em` there, `0.02em` here.
    desk.change("legend", Change::set("letter-spacing", "0.05em"));
    desk.change("#pier", Change::set("padding-left", "1em"));
    desk.site().session().unwrap().save_all().unwrap();
    let scss = desk.read("scss/fares.scss");
    assert!(scss.contains("letter-spacing: 0.05em;"), "{scss}");
    assert!(scss.contains("padding: .4em .6em .4em 1em;\n"), "{scss}");
}

#[test]
fn every_kind_of_change_of_a_declaration_goes_there() {
    let desk = Desk::new();
    let before = desk.true_places(PAGE, "css/fares.css");
    let on = |name: &str| name.to_owned();
    desk.change("legend", Change::add("min-width", "10rem"));
    desk.change(
        ".booking",
        Change::Important(kinds::Important {
            property: on("max-width"),
            remove: false,
        }),
    );
    desk.change(
        "legend",
        Change::Disable(kinds::Disable {
            property: on("letter-spacing"),
        }),
    );
    desk.change(
        "label[for=name]",
        Change::RemoveDeclaration(kinds::RemoveDeclaration {
            property: on("font-weight"),
        }),
    );
    desk.change(
        "label[for=name]",
        Change::ChangeProperty(kinds::ChangeProperty {
            property: on("color"),
            to: on("background-color"),
        }),
    );
    desk.attempt(&Intent {
        element: None,
        ..Intent::new(
            PAGE,
            "",
            Change::Selector(kinds::Selector {
                rule: "css/fares.css:33".parse().unwrap(),
                how: kinds::SelectorChange::Add(".choosing".to_owned()),
            }),
        )
    })
    .unwrap();
    desk.site().session().unwrap().save_all().unwrap();
    let scss = desk.read("scss/fares.scss");
    for wanted in [
        "  border-color: $tide;\n",
        "  max-width: 34rem !important;\n",
        "\n.choices,\n.choosing {\n",
        "    /* letter-spacing: .02em; */\n",
        "  label {\n    background-color: #1d2b33;\n  }\n",
    ] {
        assert!(scss.contains(wanted), "{wanted} in {scss}");
    }
    // Added after the strongest rule's last declaration.
    assert!(scss.contains("\n    min-width: 10rem;\n"), "{scss}");
    // One more, two less: the map leads to all others as before.
    assert_eq!(desk.true_places(PAGE, "css/fares.css"), before + 1 - 2);
}

#[test]
fn a_map_of_one_line_stays_true() {
    let desk = Desk::new();
    let page = "pages/notices.html";
    let sheet = "css/notices.min.css";
    let before = desk.true_places(page, sheet);
    let intent = |element: &str, change| Intent::new(page, element, change);
    let set = intent("#gale h2", Change::set("letter-spacing", "0.125rem"));
    assert_eq!(
        desk.attempt(&set).unwrap(),
        ["scss/notices.scss", sheet, "css/notices.min.css.map"]
    );
    desk.attempt(&intent(
        "#gale",
        Change::set("padding-bottom", "calc(1rem + 2px)"),
    ))
    .unwrap();
    desk.attempt(&intent("#gale h2", Change::add("top", "0")))
        .unwrap();
    assert_eq!(desk.true_places(page, sheet), before + 1);
    // Any of them off: still true.
    for id in [1, 2, 3] {
        let mut site = desk.site();
        site.session().unwrap().switch(id, false).unwrap();
        drop(site);
        let added = usize::from(id != 3);
        assert_eq!(
            desk.true_places(page, sheet),
            before + added,
            "without {id}"
        );
        let mut site = desk.site();
        site.session().unwrap().switch(id, true).unwrap();
    }
    desk.site().session().unwrap().save_all().unwrap();
    assert_eq!(desk.true_places(page, sheet), before + 1);
    assert_eq!(desk.value(page, "#gale h2", "letter-spacing").0, "2px");
}

#[test]
fn what_is_not_written_so_is_refused_with_the_place_and_the_reason() {
    let desk = Desk::new();
    let error = desk.refused(".booking", Change::set("border-color", "teal"));
    assert!(
        error.starts_with("scss/fares.scss:6:3: css/fares.css is built from other files"),
        "{error}"
    );
    assert!(
        error.contains("$tide is #2a6f8f, defined at scss/_harbour.scss:2"),
        "{error}"
    );
    let sum = desk.refused("fieldset", Change::set("margin-left", "2rem"));
    assert!(sum.contains("the value there is 0 0 ($step * 2)"), "{sum}");
    let mixin = desk.refused("#pier", Change::set("border-left-color", "teal"));
    assert!(
        mixin.contains("1px solid $edge, and nothing says what $edge is"),
        "{mixin}"
    );
    let rule = desk.refused(
        "legend",
        Change::Rule(kinds::Rule {
            selector: Some(".new".to_owned()),
            declarations: "top: 0".to_owned(),
        }),
    );
    assert!(
        rule.contains("nothing says where a new rule belongs"),
        "{rule}"
    );
    // The override sheet takes it.
    let custom = Intent {
        into: Destination::Overrides,
        ..Intent::new(PAGE, ".booking", Change::set("border-color", "teal"))
    };
    assert_eq!(desk.attempt(&custom).unwrap(), ["css/overrides.css"]);
    assert_eq!(
        desk.value(PAGE, ".booking", "border-top-color").0,
        "rgb(0, 128, 128)"
    );
}

#[test]
fn a_map_that_is_too_old_is_found_out() {
    let desk = Desk::new();
    let scss = desk.read("scss/fares.scss");
    desk.write("scss/fares.scss", &format!("// One line more.\n{scss}"));
    let error = desk.refused(".booking", Change::set("max-width", "30rem"));
    assert!(
        error.contains("no declaration of max-width is at that place; the map may be old"),
        "{error}"
    );
    desk.write("scss/fares.scss", &scss.replacen("34rem", "35rem", 1));
    let error = desk.refused(".booking", Change::set("max-width", "30rem"));
    assert!(
        error.contains("the value there is 35rem, not 34rem"),
        "{error}"
    );
    desk.write("css/fares.css.map", "{ \"version\": 3, nonsense");
    assert_eq!(
        desk.value(PAGE, ".booking", "max-width"),
        ("544px".to_owned(), None)
    );
}

#[test]
fn a_variable_of_the_sources_is_changed_where_it_is_defined() {
    let desk = Desk::new();
    let variable = |name: &str, value: &str| {
        desk.attempt(&Intent {
            element: None,
            ..Intent::new(
                PAGE,
                "",
                Change::CustomProperty(kinds::CustomProperty {
                    name: name.to_owned(),
                    value: value.to_owned(),
                }),
            )
        })
    };
    variable("$tide", "teal").unwrap();
    assert_eq!(
        desk.value(PAGE, ".booking", "border-top-color").0,
        "rgb(0, 128, 128)"
    );
    desk.site().session().unwrap().save_all().unwrap();
    assert!(desk.read("scss/_harbour.scss").contains("$tide: teal;\n"));
    assert!(
        variable("$tide", "teal")
            .unwrap_err()
            .to_string()
            .contains("$tide is already teal")
    );
    assert!(
        variable("$none", "teal")
            .unwrap_err()
            .to_string()
            .contains("no source")
    );
    assert!(
        variable("$step", "1; }")
            .unwrap_err()
            .to_string()
            .contains("'}' closes nothing")
    );
}

/// The same for the other language of sources, whose variables begin with `@`.
#[test]
fn less_is_followed_as_scss_is() {
    let desk = Desk::new();
    let less = "@sea: #2a6f8f;\n\n.booking {\n  max-width: 20rem;\n  border-color: @sea;\n}\n";
    desk.write("scss/fares.less", less);
    desk.write("css/fares.css", ".booking {\n  max-width: 20rem;\n  border-color: #2a6f8f;\n}\n/*# sourceMappingURL=fares.css.map */\n");
    desk.write(
        "css/fares.css.map",
        "{\"version\":3,\"sources\":[\"../scss/fares.less\"],\"names\":[],\"mappings\":\"AAEA;EACE;EACA\"}",
    );
    desk.change(".booking", Change::set("max-width", "21rem"));
    let error = desk.refused(".booking", Change::set("border-color", "teal"));
    assert!(
        error.contains("@sea is #2a6f8f, defined at scss/fares.less:1"),
        "{error}"
    );
    desk.attempt(&Intent {
        element: None,
        ..Intent::new(
            PAGE,
            "",
            Change::CustomProperty(kinds::CustomProperty {
                name: "@sea".to_owned(),
                value: "teal".to_owned(),
            }),
        )
    })
    .unwrap();
    desk.site().session().unwrap().save_all().unwrap();
    let wanted = less.replace("#2a6f8f", "teal").replace("20rem", "21rem");
    assert_eq!(desk.read("scss/fares.less"), wanted);
    assert_eq!(
        desk.value(PAGE, ".booking", "border-top-color").0,
        "rgb(0, 128, 128)"
    );
}

/// The map of the fares page in another form leads to the same places.
#[test]
fn index_maps_and_maps_in_the_sheet_are_read() {
    let desk = Desk::new();
    let map = desk.read("css/fares.css.map");
    let section = format!(
        "{{\"version\":3,\"sections\":[{{\"offset\":{{\"line\":0,\"column\":0}},\"map\":{map}}}]}}"
    );
    let wanted = desk.value(PAGE, "legend", "letter-spacing");
    assert!(wanted.1.is_some());
    desk.write("css/fares.css.map", &section);
    assert_eq!(desk.value(PAGE, "legend", "letter-spacing"), wanted);
    let css = desk.read("css/fares.css");
    let inline = format!(
        "sourceMappingURL=data:application/json;base64,{} */",
        base64(map.as_bytes())
    );
    fs::remove_file(desk.0.path().join("css/fares.css.map")).unwrap();
    desk.write(
        "css/fares.css",
        &css.replace("sourceMappingURL=fares.css.map */", &inline),
    );
    assert_eq!(desk.value(PAGE, "legend", "letter-spacing"), wanted);
    desk.change(".booking", Change::set("max-width", "30rem"));
    assert!(
        desk.site()
            .changes()
            .unwrap()
            .iter()
            .any(|c| c.after.name() == "scss/fares.scss")
    );
    // The map in the sheet is changed with it, and an index map becomes a plain one.
    desk.site().session().unwrap().save_all().unwrap();
    let place = desk.value(PAGE, "legend", "letter-spacing").1;
    assert_eq!(place, wanted.1);
    let files = desk.change("legend", Change::add("min-width", "10rem"));
    assert_eq!(files, ["scss/fares.scss", "css/fares.css"]);
    desk.site().session().unwrap().save_all().unwrap();
    let added = desk.value(PAGE, "legend", "min-width").1.unwrap();
    let line = desk.read("scss/fares.scss");
    let line = line.lines().nth(added.line as usize - 1);
    assert!(line.unwrap().contains("min-width: 10rem"));

    desk.write("css/fares.css", &css);
    desk.write("css/fares.css.map", &section);
    let files = desk.change("legend", Change::add("max-width", "9rem"));
    assert_eq!(
        files,
        ["scss/fares.scss", "css/fares.css", "css/fares.css.map"]
    );
    desk.site().session().unwrap().save_all().unwrap();
    let map = desk.read("css/fares.css.map");
    assert!(
        !map.contains("sections") && map.contains("mappings"),
        "{map}"
    );
    assert_eq!(desk.value(PAGE, "legend", "max-width").0, "144px");
}

/// A page with a sheet, its map, and the file that both were made from.
fn made(css: &str, sources: &str, mappings: &str, scss: Option<&str>) -> Desk {
    let folder = TempDir::new().unwrap();
    let desk = Desk(folder);
    desk.write("fingerpost.toml", "fingerpost = 2\n");
    desk.write(
        "a.html",
        "<link rel=stylesheet href=a.css><p class=a>x<p class=b>y",
    );
    desk.write(
        "a.css",
        &format!("{css}\n/*# sourceMappingURL=a.css.map */\n"),
    );
    desk.write(
        "a.css.map",
        &format!(
            "{{\"version\":3,\"sources\":[\"{sources}\"],\"names\":[],\"mappings\":\"{mappings}\"}}"
        ),
    );
    if let Some(scss) = scss {
        desk.write("a.scss", scss);
    }
    desk
}

fn on(
    desk: &Desk,
    element: &str,
    change: Change,
    into: Destination,
) -> Result<Vec<String>, EditError> {
    desk.attempt(&Intent {
        into,
        ..Intent::new("a.html", element, change)
    })
}

#[test]
fn a_map_that_names_its_own_sheet_is_no_map() {
    let desk = made(".a{top:1px}", "a.css", "AAAA,GAAG", None);
    let (value, place) = desk.value("a.html", ".a", "top");
    assert_eq!((value.as_str(), place), ("1px", None));
    let files = on(&desk, ".a", Change::set("top", "2px"), Destination::Sources).unwrap();
    assert_eq!(files, ["a.css"]);
}

#[test]
fn without_its_source_the_served_sheet_is_edited_only_when_it_is_named() {
    let desk = made(".a{top:1px}", "gone.scss", "AAAA,GAAG", None);
    let mut site = desk.site();
    let page = site.page("a.html", Environment::default()).unwrap();
    let mut intent = Intent::new("a.html", ".a", Change::set("top", "2px"));
    let refused = site.make(&page, &intent).unwrap_err();
    assert_eq!(refused.code(), "overwritten");
    let labels: Vec<String> = refused
        .advice(&intent)
        .into_iter()
        .map(|a| a.code)
        .collect();
    assert_eq!(labels, ["new-override-sheet", "winning"]);
    intent.into = Destination::Winning;
    let edit = site.make(&page, &intent).unwrap();
    assert!(
        edit.warnings[0].contains("its next build overwrites"),
        "{edit:?}"
    );
    site.session().unwrap().add(edit).unwrap();
    site.session().unwrap().save_all().unwrap();
    assert!(desk.read("a.css").starts_with(".a{top:2px}"));
    // Into the sheet itself goes what is asked to go there.
    let into = Destination::File("a.css".parse().unwrap());
    on(&desk, ".b", Change::set("left", "1px"), into).unwrap();
}

#[test]
fn the_served_sheet_is_edited_on_purpose() {
    let desk = made(
        ".a{top:1px}",
        "a.scss",
        "AAAA,GAAG",
        Some("$t: 1px;\n.a{top: $t}"),
    );
    let refused = on(&desk, ".a", Change::set("top", "2px"), Destination::Sources).unwrap_err();
    assert_eq!(refused.code(), "not-followed", "{refused}");
    let files = on(&desk, ".a", Change::set("top", "2px"), Destination::Winning).unwrap();
    assert_eq!(files, ["a.css"]);
}

#[test]
fn a_map_that_is_a_few_columns_off_is_helped_where_only_one_place_says_the_same() {
    // The map says column 0, the declaration is in column 5.
    let scss = ".a{  top:1px}";
    let desk = made(".a{top:1px}", "a.scss", "AAAA,GAAA", Some(scss));
    on(&desk, ".a", Change::set("top", "2px"), Destination::Sources).unwrap();
    desk.site().session().unwrap().save_all().unwrap();
    assert_eq!(desk.read("a.scss"), scss.replace("1px", "2px"));
}

#[test]
fn a_declaration_that_makes_several_changes_all_of_them() {
    // `@include m` in two rules: the map leads both to one declaration.
    let scss = "@mixin m { top: 1px; }\n.a{@include m}\n.b{@include m}";
    let css = ".a{top:1px}.b{top:1px}";
    let desk = made(css, "a.scss", "AACA,GADW,QAEX,GAFW", Some(scss));
    let mut site = desk.site();
    let page = site.page("a.html", Environment::default()).unwrap();
    let intent = Intent::new("a.html", ".a", Change::set("top", "2px"));
    let edit = site.make(&page, &intent).unwrap();
    assert!(edit.warnings[0].contains("is also part of .b"), "{edit:?}");
    site.session().unwrap().add(edit).unwrap();
    site.session().unwrap().save_all().unwrap();
    assert_eq!(desk.read("a.scss"), scss.replace("1px", "2px"));
    assert!(desk.read("a.css").starts_with(&css.replace("1px", "2px")));
}

#[test]
fn comments_to_the_end_of_the_line_are_no_part_of_a_value() {
    let scss = ".a{\n  top: 1px; // not 2px; but\n  left: 0\n}";
    let desk = made(".a{top:1px;left:0}", "a.scss", "AAAA,GACE,QACA", Some(scss));
    on(&desk, ".a", Change::set("top", "3px"), Destination::Sources).unwrap();
    on(
        &desk,
        ".a",
        Change::set("left", "4px"),
        Destination::Sources,
    )
    .unwrap();
    desk.site().session().unwrap().save_all().unwrap();
    let wanted = scss
        .replacen("1px", "3px", 1)
        .replace("left: 0", "left: 4px");
    assert_eq!(desk.read("a.scss"), wanted);
}

/// A place that an answer prints can be given back, one of an authored file too.
#[test]
fn a_place_of_an_authored_file_names_the_rule() {
    let scss = "\n.a{\n  top: 1px;\n}";
    let desk = made(".a{top:1px}", "a.scss", "AACA,GACE", Some(scss));
    for place in ["a.scss:2", "a.scss:3", "a.scss:3:3"] {
        let into = Destination::Rule(place.parse().unwrap());
        let files = on(&desk, ".a", Change::set("top", "2px"), into).unwrap();
        assert_eq!(files[0], "a.scss", "{place}");
        desk.site().session().unwrap().discard(None).unwrap();
    }
    let into = Destination::Rule("a.scss:1".parse().unwrap());
    assert!(on(&desk, ".a", Change::set("top", "2px"), into).is_err());
}

fn base64(bytes: &[u8]) -> String {
    let digits = b"ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    let mut text = String::new();
    for chunk in bytes.chunks(3) {
        let mut group = 0u32;
        for at in 0..3 {
            group = group << 8 | u32::from(*chunk.get(at).unwrap_or(&0));
        }
        for at in 0..4 {
            let digit = digits[(group >> (18 - 6 * at) & 63) as usize];
            text.push(if at > chunk.len() { '=' } else { digit as char });
        }
    }
    text
}
