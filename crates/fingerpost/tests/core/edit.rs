//! Setting values: the patch changes only the value, wherever it stands and however it is written.

use crate::support::Fixture;
use fingerpost::draft::{Bases, Draft};
use fingerpost::edit::{Change, Edit, EditError, FileChange, Intent};
use fingerpost::text::{Patch, Text, TextRange};

fn try_set(text: &str, property: &str, value: &str) -> Result<String, EditError> {
    let fixture = Fixture::new(text);
    let edit = fixture.make(Change::set(property, value))?;
    Ok(fixture.after(&edit))
}

#[track_caller]
fn sets(text: &str, property: &str, value: &str, wanted: &str) {
    assert_eq!(try_set(text, property, value).unwrap(), wanted);
}

#[test]
fn only_the_value_changes() {
    sets(
        "<link rel=stylesheet href=a.css>¤<p>
--- a.css
/* a */ p{COLOR :  red/* why */ !important;top:0}\r
",
        "color",
        "navy",
        "/* a */ p{COLOR :  navy/* why */ !important;top:0}\r\n",
    );
    sets(
        "<style>p{color:}p{color:red}</style>¤<p>",
        "color",
        "navy",
        "<style>p{color:}p{color:navy}</style><p>",
    );
}

#[test]
fn a_part_of_a_shorthand_that_the_longhand_has_for_itself() {
    sets(
        "<style>p { margin: 1px 2px 3px 4px }</style>¤<p>",
        "margin-left",
        "9px",
        "<style>p { margin: 1px 2px 3px 9px }</style><p>",
    );
    sets(
        "<style>p { border: 1px solid red; }</style>¤<p>",
        "border-color",
        "blue",
        "<style>p { border: 1px solid red; border-color: blue; }</style><p>",
    );
}

#[test]
fn a_part_that_several_longhands_share_is_split_in_the_shorthand() {
    for (before, property, value, after) in [
        (
            "padding:4px !important",
            "padding-left",
            "9px",
            "padding:4px 4px 4px 9px !important",
        ),
        (
            "margin: 1.5rem auto",
            "margin-top",
            "1.6rem",
            "margin: 1.6rem auto 1.5rem",
        ),
        (
            "margin: 1px 2px 3px",
            "margin-bottom",
            "1px",
            "margin: 1px 2px 1px",
        ),
        (
            "margin: 1px 2px",
            "margin-right",
            "1px",
            "margin: 1px 1px 1px 2px",
        ),
        (
            "border-color: red",
            "border-top-color",
            "blue",
            "border-color: blue red red",
        ),
        ("gap: 1rem", "row-gap", "2rem", "gap: 2rem 1rem"),
        (
            "overflow: hidden",
            "overflow-y",
            "auto",
            "overflow: hidden auto",
        ),
        (
            "margin-inline: 1px",
            "margin-inline-end",
            "2px",
            "margin-inline: 1px 2px",
        ),
        // What is not a list of sides gets a declaration after it.
        (
            "font: 12px serif",
            "font-weight",
            "bold",
            "font: 12px serif; font-weight: bold",
        ),
    ] {
        let page = format!("<style>p {{ {before} }}</style>¤<p>");
        let wanted = format!("<style>p {{ {after} }}</style><p>");
        sets(&page, property, value, &wanted);
    }
}

#[test]
fn a_whole_shorthand() {
    sets(
        "<style>p { padding: 1px 2px }</style>¤<p>",
        "padding",
        "0 auto 3px".trim_end_matches(" auto 3px"),
        "<style>p { padding: 0 }</style><p>",
    );
    // Where several declarations set its parts, one beats them all: in a rule of this element alone, else in a new one.
    sets(
        "<style>p { padding: 1px } p { padding-top: 2px }</style>¤<p>",
        "padding",
        "0",
        "<style>p { padding: 1px } p { padding-top: 2px; padding: 0 }</style><p>",
    );
    sets(
        "<style>p { padding: 1px } .a { padding-top: 2px }</style><p class=a>¤<p class='a b'>",
        "padding",
        "0",
        "<style>p { padding: 1px } .a { padding-top: 2px } .b { padding: 0 }</style><p class=a><p class='a b'>",
    );
}

#[test]
fn style_attributes_keep_their_quotes_and_references() {
    sets(
        "¤<p style='color: red; top: 0'>",
        "color",
        "navy",
        "<p style='color: navy; top: 0'>",
    );
    sets(
        "¤<p style=color:red>",
        "color",
        "navy",
        "<p style=color:navy>",
    );
    sets(
        "¤<p style=\"font-family: serif\">",
        "font-family",
        "\"A & B\"",
        "<p style=\"font-family: &quot;A &amp; B&quot;\">",
    );
    sets(
        "¤<p style=\"font-family: &quot;A&quot;; color: red\">",
        "color",
        "navy",
        "<p style=\"font-family: &quot;A&quot;; color: navy\">",
    );
}

#[test]
fn custom_properties_take_anything() {
    sets(
        "¤<html><style>:root { --sea: #012 }</style>",
        "--sea",
        "{ a: b }",
        "<html><style>:root { --sea: { a: b } }</style>",
    );
}

#[test]
fn what_can_not_be_set_says_why() {
    let error = |text: &str, property: &str, value: &str| {
        try_set(text, property, value).unwrap_err().to_string()
    };
    let page = "<style>p { color: red }</style>¤<p>";
    assert_eq!(
        error(page, "color", "#12345"),
        "color: #12345 is not valid: '#12345' does not fit color; expected <color>"
    );
    assert!(error(page, "color", "red; top: 0").contains("is not one value: ';' ends it"));
    assert!(error(page, "color", "red !important").contains("'!' ends it"));
    assert!(error(page, "color", "rgb(1").contains("a bracket is never closed"));
    assert!(error(page, "color", "red").contains("is already red, at page.html:1"));
}

#[test]
fn what_nothing_sets_is_added_where_it_is_about_the_element_alone() {
    let page = "<style>\nbody { color: red }\n.a { left: 0 }\n.b { left: 1px }\n</style>¤<p class='a b'>x<p class=a>y";
    let try_set = |page: &str, property: &str, value: &str| {
        let fixture = Fixture::new(page);
        let edit = fixture.make(Change::set(property, value))?;
        let after = fixture.after(&edit);
        Ok::<_, EditError>((edit, after))
    };
    let made = try_set(page, "color", "navy").unwrap();
    // `.b` reaches only this one.
    assert!(
        made.1.contains(".b { left: 1px; color: navy }"),
        "{}",
        made.1
    );
    assert_eq!(made.0.summary, "add color: navy to .b");
    assert!(made.0.warnings[0].contains("it inherits from body"));
    let made = try_set(&page.replace(".b {", ".c {"), "top", "1px").unwrap();
    assert!(made.1.contains("\n.b { top: 1px }\n"), "{}", made.1);
    assert_eq!(made.0.summary, "a new rule .b { top: 1px }");
}

#[test]
fn a_draft_replays_over_its_base_and_refuses_another() {
    let base = Text::new("a.css", "p { color: red; top: 0 }");
    let bases = Bases::from([("a.css".to_owned(), base.clone())]);
    let mut draft = Draft::default();
    for (from, to, with) in [(11, 14, "navy"), (22, 23, "1px")] {
        let edit = Edit {
            intent: Intent::new("p.html", "p", Change::set("x", with)),
            summary: String::new(),
            changes: vec![FileChange::new(
                "a.css",
                Patch::single(TextRange::new(from.into(), to.into()), with),
            )],
            warnings: Vec::new(),
        };
        draft.push(edit, &bases).unwrap();
    }
    assert_eq!(
        draft.apply(&base).unwrap().source(),
        "p { color: navy; top: 1px }"
    );
    let read = Draft::from_json(&draft.to_json()).unwrap();
    assert_eq!(read, draft);
    let changed = Text::new("a.css", "p { color: red; top: 0 } ");
    assert!(
        draft
            .apply(&changed)
            .unwrap_err()
            .to_string()
            .contains("has changed on disk")
    );
}

#[test]
fn a_draft_file_of_another_make_is_refused() {
    let error = |json: &str| Draft::from_json(json).unwrap_err().to_string();
    assert!(error("{\"fingerpost\": 9, \"new\": []}").contains("version 9"));
    assert!(
        error("{\"fingerpost\": 7, \"files\": {}, \"edits\": [], \"more\": 1}").contains("more")
    );
    assert!(error("nonsense").contains("line 1"));
}
