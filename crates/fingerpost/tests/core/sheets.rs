//! The sheets of a page: order, arrival, conditions, failures, and bundles unmasked.

use crate::support::Fixture;
use fingerpost::question::inventory::{Inventory, SiteSheet};
use fingerpost::question::sheets::{SheetAnswer, SheetsAnswer};
use fingerpost::sheet::Sheet;
use fingerpost::site::Site;
use fingerpost::text::Text;

fn ask(fixture: &Fixture, others: &[(&str, &str)]) -> SheetsAnswer {
    let elsewhere = Inventory {
        sheets: others
            .iter()
            .map(|(name, css)| {
                let text = Text::new(*name, *css);
                let span = text.span();
                SiteSheet {
                    sheet: Sheet::parse(text.clone(), span),
                    text,
                    pages: Vec::new(),
                }
            })
            .collect(),
        ..Inventory::default()
    };
    fixture.page.ask().beside(&elsewhere).sheets()
}

fn authors(answer: &SheetsAnswer) -> Vec<&SheetAnswer> {
    answer
        .sheets
        .iter()
        .filter(|s| s.arrival.as_str() != "user-agent")
        .collect()
}

#[test]
fn every_sheet_in_order_with_how_it_came() {
    let fixture = Fixture::new(
        "<!doctype html>\n<link rel=stylesheet href=a.css media=print>\n<style>p { top: 0 } b { top: 0 }</style>\n<p>
--- a.css
@import 'b.css' layer(base);
@font-face { font-family: x }
p { color: red }
--- b.css
p { color: blue } i { left: 0 }
",
    );
    let answer = ask(&fixture, &[]);
    let sheets = authors(&answer);
    let shown: Vec<_> = sheets
        .iter()
        .map(|s| {
            (
                s.file.as_str(),
                s.arrival.as_str(),
                s.rules,
                s.rules_matching,
            )
        })
        .collect();
    assert_eq!(
        shown,
        [
            ("b.css", "import", 2, 1),
            ("a.css", "link", 1, 1),
            ("page.html", "style", 2, 1),
        ]
    );
    assert_eq!(sheets[0].layer.as_deref(), Some("base"));
    assert_eq!(
        sheets[0].named_at.as_ref().unwrap().to_string(),
        "a.css:1:1"
    );
    assert!(!sheets[1].conditions[0].holds);
    assert_eq!(sheets[1].at_rules["@font-face"], 1);
    assert_eq!(sheets[2].named_at.as_ref().unwrap().line, 3);
}

#[test]
fn what_failed_is_listed() {
    let fixture = Fixture::new(
        "<link rel=stylesheet href=gone.css><link rel=stylesheet href=a.css>
--- a.css
@import 'a.css';
",
    );
    let answer = ask(&fixture, &[]);
    let reasons: Vec<&str> = answer.failures.iter().map(|f| f.reason.as_str()).collect();
    assert_eq!(reasons, ["no such file: gone.css", "it imports itself"]);
}

#[test]
fn a_bundle_is_told_by_what_it_holds() {
    let parts = ".a { color: #aabbcc; margin: 0.5em }\n.b { top: 0 }\n.c { left: 1px }\n.d { right: 2px }\n";
    let bundle = "<!doctype html><link rel=stylesheet href=all.css><p>
--- all.css
.z{top:9px}.a{color:#abc;margin:.5em}.b{top:0}.c{left:3px}.q{top:1px}
/*# sourceMappingURL=all.css.map */
";
    let answer = ask(
        &Fixture::new(bundle),
        &[
            ("src/parts.css", parts),
            ("src/other.css", "i{top:0}b{left:0}u{right:0}"),
        ],
    );
    let found = authors(&answer)[0].bundle.as_ref().unwrap();
    assert!(
        found
            .signs
            .contains(&"it names a source map, which can't be read".to_owned())
    );
    let [part] = &found.parts[..] else {
        panic!("{:?}", found.parts)
    };
    assert_eq!(
        (part.file.as_str(), part.rules, part.same, part.missing),
        ("src/parts.css", 4, 2, 1)
    );
    assert_eq!(part.changed[0].line, 3);
}

#[test]
fn a_sheet_of_its_own_is_no_bundle() {
    let fixture = Fixture::new(
        "<link rel=stylesheet href=a.css>
--- a.css
.a { color: red }
.b { color: blue }
.c { color: teal }
",
    );
    let answer = ask(
        &fixture,
        &[(
            "other.css",
            ".x { top: 0 }\n.y { left: 0 }\n.z { right: 0 }\n",
        )],
    );
    assert!(authors(&answer)[0].bundle.is_none());
}

#[test]
fn the_rest_of_a_site_is_found_with_the_pages_that_have_it() {
    let folder = tempfile::tempdir().unwrap();
    let write = |name: &str, text: &str| {
        let path = folder.path().join(name);
        std::fs::create_dir_all(path.parent().unwrap()).unwrap();
        std::fs::write(path, text).unwrap();
    };
    write("fingerpost.toml", "fingerpost = 2\n");
    write("a.html", "<link rel=stylesheet href=css/a.css>");
    write(
        "sub/b.html",
        "<base href=/><link rel=stylesheet href=css/b.css>",
    );
    write("c.html", "<style>@import '/css/b.css';</style>");
    write("css/a.css", "@import 'b.css';");
    write("css/b.css", "p { top: 0 }");
    write("css/unused.css", "p { top: 0 }");
    write("node_modules/x/x.css", "p { top: 0 }");
    let site = Site::of_folder(folder.path()).unwrap();
    let elsewhere = site.inventory();
    let pages = |name: &str| elsewhere.named(name).map(|s| s.pages.join(" "));
    assert_eq!(pages("css/a.css").as_deref(), Some("a.html"));
    assert_eq!(
        pages("css/b.css").as_deref(),
        Some("a.html c.html sub/b.html")
    );
    assert_eq!(pages("css/unused.css").as_deref(), Some(""));
    assert_eq!(pages("node_modules/x/x.css"), None);
}
