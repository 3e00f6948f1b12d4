//! Changes that go into another sheet than the one that wins now: the smallest rule that wins there,
//! merged with what is there, in the same conditions.

use crate::support::{Fixture, wide};
use fingerpost::cascade::Origin;
use fingerpost::edit::{Change, Destination, Edit, EditError, Intent, kinds, make};
use fingerpost::page::{Page, Target};
use fingerpost::site::View;
use fingerpost::text::Text;

const THEME: &str = ".card .title { color: teal }\n.b { top: 0 !important }\n\
                     @media (max-width: 500px) {\n  .title { left: 1px }\n}\n#x p { right: 0 }\n";

/// Makes an edit on a site of the page's texts, which has an override sheet.
fn make_beside(page: &Page, intent: &Intent) -> Result<Edit, EditError> {
    let config = "fingerpost = 2\noverride-sheet = \"overrides.css\"\n";
    let mut texts = vec![
        Text::new("fingerpost.toml", config),
        page.document().text().clone(),
    ];
    let sheets = page.sheets().iter();
    let own = sheets.filter(|sheet| sheet.origin == Origin::Author);
    texts.extend(own.map(|sheet| sheet.styles.sheet().text().clone()));
    View::in_memory(texts).unwrap().make(page, intent)
}

fn fixture(overrides: &str, width: f64) -> Fixture {
    let page = format!(
        "<link rel=stylesheet href=theme.css><link rel=stylesheet href=overrides.css>\
         <div class=card id=x><h2 class=title>One</h2><p class=b>Two</p></div>\
         <p class=c style='left: 0'>Three</p>\n--- theme.css\n{THEME}--- overrides.css\n{overrides}"
    );
    Fixture::under(&page, wide(width))
}

fn intent(element: &str, change: Change) -> Intent {
    Intent {
        into: Destination::Overrides,
        ..Intent::new("page.html", element, change)
    }
}

fn put(
    overrides: &str,
    width: f64,
    element: &str,
    change: Change,
) -> Result<(String, Edit), EditError> {
    let fixture = fixture(overrides, width);
    let edit = make_beside(&fixture.page, &intent(element, change))?;
    Ok((fixture.after(&edit), edit))
}

/// What goes into an empty sheet, and the value that comes of it.
#[track_caller]
fn wins(width: f64, element: &str, property: &str, value: &str) -> (String, Vec<String>) {
    let (sheet, edit) = put("", width, element, Change::set(property, value)).unwrap();
    let after = fixture(&sheet, width);
    let found = after.page.ask().find_one(element);
    let again = Fixture {
        target: found.unwrap(),
        page: after.page,
    };
    let contest = again.contest(property);
    assert_eq!(contest.contenders[0].declaration.value, value, "{sheet}");
    (sheet, edit.warnings)
}

#[test]
fn the_shortest_selector_that_is_strong_enough_is_written() {
    let (sheet, warnings) = wins(1000.0, "h2", "top", "1px");
    assert_eq!(sheet, ".title {\n  top: 1px;\n}\n");
    assert!(warnings.is_empty(), "{warnings:?}");
    let (sheet, warnings) = wins(1000.0, "h2", "color", "navy");
    assert_eq!(sheet, ".card .title {\n  color: navy;\n}\n");
    assert_eq!(
        warnings,
        [
            "the selector is .card .title and not .title, to be as strong as the rule at theme.css:1:1"
        ]
    );
    let (sheet, _) = wins(1000.0, "p.b", "right", "4px");
    assert_eq!(sheet, "#x p {\n  right: 4px;\n}\n");
}

#[test]
fn importance_is_only_for_what_has_it() {
    let (sheet, warnings) = wins(1000.0, "p.b", "top", "2px");
    assert_eq!(sheet, ".b {\n  top: 2px !important;\n}\n");
    assert!(
        warnings
            .contains(&"top is marked !important, because what it has to beat is too".to_owned())
    );
    let refused = put("", 1000.0, "p.c", Change::set("left", "3px"))
        .unwrap_err()
        .to_string();
    assert!(
        refused.contains("its style attribute sets left"),
        "{refused}"
    );
}

#[test]
fn what_stands_in_a_layer_asks_for_no_strength() {
    let page = Fixture::new(
        "<link rel=stylesheet href=theme.css><link rel=stylesheet href=overrides.css><p class=a id=b>x
--- theme.css
@layer base { #b.a { top: 1px; left: 1px !important } }
--- overrides.css
",
    );
    let put = |property: &str| {
        let intent = intent("p", Change::set(property, "2px"));
        make_beside(&page.page, &intent).unwrap()
    };
    let edit = put("top");
    assert_eq!(page.after(&edit), ".a {\n  top: 2px;\n}\n");
    assert!(edit.warnings.is_empty(), "{edit:?}");
    let edit = put("left");
    assert!(
        edit.warnings[1].contains("left is !important in a layer at theme.css:1"),
        "{edit:?}"
    );
}

#[test]
fn a_selector_is_raised_by_no_more_than_it_takes() {
    let page = Fixture::new(
        "<link rel=stylesheet href=theme.css><link rel=stylesheet href=overrides.css><p class=a>x
--- theme.css
.a.a.a { top: 1px }
--- overrides.css
",
    );
    let edit = make_beside(&page.page, &intent("p", Change::set("top", "2px"))).unwrap();
    assert_eq!(page.after(&edit), ".a.a.a {\n  top: 2px;\n}\n");
}

#[test]
fn the_conditions_of_what_is_beaten_are_kept() {
    let (sheet, _) = wins(400.0, "h2", "left", "9px");
    assert_eq!(
        sheet,
        "@media (max-width: 500px) {\n  .title {\n    left: 9px;\n  }\n}\n"
    );
    let there = "@media (max-width: 500px) {\n  .z { top: 0; }\n}\n.a { top: 0 }\n";
    let (sheet, _) = put(there, 400.0, "h2", Change::set("left", "9px")).unwrap();
    assert_eq!(
        sheet,
        there.replace("top: 0; }\n", "top: 0; }\n  .title { left: 9px; }\n")
    );
}

#[test]
fn it_is_merged_with_a_rule_of_the_same_selector() {
    let there = ".title { top: 5px; left: 0 }\n.z { top: 0 }\n";
    let (sheet, _) = put(there, 1000.0, "h2", Change::set("top", "1px")).unwrap();
    assert_eq!(sheet, there.replace("5px", "1px"));
    let (sheet, _) = put(there, 1000.0, "h2", Change::set("bottom", "1px")).unwrap();
    assert_eq!(sheet, there.replace("left: 0", "left: 0; bottom: 1px"));
    let error = put(there, 1000.0, "h2", Change::set("top", "5px")).unwrap_err();
    assert!(error.to_string().contains("says so already"), "{error}");
}

#[test]
fn rules_of_different_elements_stay_apart() {
    let there = ".z { bottom: 1px; }\n";
    let (sheet, _) = put(there, 1000.0, "h2", Change::set("bottom", "1px")).unwrap();
    assert_eq!(sheet, ".z { bottom: 1px; }\n\n.title { bottom: 1px; }\n");
}

#[test]
fn a_rule_that_comes_too_early_is_not_used() {
    let there = ".title { color: red }\n.card .title { color: blue }\n";
    let (sheet, _) = put(there, 1000.0, "h2", Change::set("color", "navy")).unwrap();
    assert_eq!(sheet, there.replace("blue", "navy"));
}

#[test]
fn other_changes_go_there_too() {
    let rule = Change::Rule(kinds::Rule {
        selector: Some(".own".to_owned()),
        declarations: "top: 0; left: 0".to_owned(),
    });
    let (sheet, _) = put(".z{top:1px}", 1000.0, "h2", rule).unwrap();
    assert_eq!(sheet, ".z{top:1px}\n\n.own{top:0;left:0}");
    let error = put(
        "",
        1000.0,
        "h2",
        Change::RemoveElement(kinds::RemoveElement {}),
    )
    .unwrap_err();
    assert!(error.to_string().contains("can't be written to"));
    let several = Intent {
        each: true,
        ..intent(".title, .b", Change::set("bottom", "7px"))
    };
    let fixture = fixture("", 1000.0);
    let edit = make_beside(&fixture.page, &several).unwrap();
    assert_eq!(fixture.after(&edit), ".title, .b {\n  bottom: 7px;\n}\n");
}

#[test]
fn a_sheet_that_is_not_last_or_not_there_is_said() {
    let page = Fixture::new(
        "<link rel=stylesheet href=overrides.css><style>p { top: 0 }</style><p>x
--- overrides.css
",
    );
    let edit = make_beside(&page.page, &intent("p", Change::set("left", "1px"))).unwrap();
    assert_eq!(
        edit.warnings,
        ["overrides.css is not the last sheet: the embedded sheet of page.html comes after it"]
    );
    let edit = make_beside(&page.page, &intent("p", Change::set("top", "1px"))).unwrap();
    assert!(
        page.after(&edit).starts_with("html p {") || page.after(&edit).starts_with("body p {"),
        "{edit:?}"
    );
    let none = make(&page.page, &intent("p", Change::set("top", "1px")));
    assert!(
        none.unwrap_err()
            .to_string()
            .contains("this site has no override sheet")
    );
    let unlinked = View::in_memory([
        Text::new("fingerpost.toml", "override-sheet = \"other.css\"\n"),
        Text::new("other.css", ".y { top: 0 }\n"),
    ]);
    let intent = intent("p", Change::set("left", "1px"));
    let edit = unlinked.unwrap().make(&page.page, &intent).unwrap();
    assert!(
        edit.warnings[0].contains("other.css is not on this page"),
        "{edit:?}"
    );
    assert_eq!(
        edit.changes[0].patch.apply(".y { top: 0 }\n").unwrap(),
        ".y { top: 0 }\n\np { left: 1px }\n"
    );
}

#[test]
fn the_embedded_sheet_takes_it_with_its_own_indent() {
    let page = "<!doctype html>\n<style>\n    p { color: red; }\n</style>\n¤<p>x";
    let fixture = Fixture::new(page);
    let intent = Intent {
        into: Destination::Page,
        ..fixture.intent(Change::set("color", "navy"))
    };
    let edit = make(&fixture.page, &intent).unwrap();
    assert_eq!(
        fixture.after(&edit),
        page.replace('¤', "").replace("red", "navy")
    );
    let rule = Intent {
        change: Change::set("top", "0"),
        element: Some("p:last-child".parse().unwrap()),
        ..intent
    };
    let edit = make(&fixture.page, &rule).unwrap();
    assert_eq!(
        fixture.after(&edit),
        page.replace('¤', "").replace("red; }", "red; top: 0; }")
    );
}

#[test]
fn what_is_copied_is_what_was_meant() {
    use fingerpost::edit::extract;
    let fixture = Fixture::new(
        "<style>\n  @media screen {\n    .a {\n      top: 0;\n    }\n  }\n</style>\n\
         <div>\n  ¤<p class=a>\n    x <b>y</b>\n  </p>\n</div>",
    );
    let target = Target::from(fixture.target.element);
    assert_eq!(
        extract::rule(&fixture.page, &"page.html:3".parse().unwrap()).unwrap(),
        ".a {\n  top: 0;\n}"
    );
    assert_eq!(
        extract::rules_of(&fixture.page, &target).unwrap(),
        ".a {\n  top: 0;\n}"
    );
    assert_eq!(
        extract::markup(&fixture.page, &target, false).unwrap(),
        "<p class=a>\n  x <b>y</b>\n</p>"
    );
    assert_eq!(
        extract::markup(&fixture.page, &target, true).unwrap(),
        "x <b>y</b>"
    );
    assert!(extract::rule(&fixture.page, &"page.html:99".parse().unwrap()).is_err());
}
