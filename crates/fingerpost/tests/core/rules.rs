//! Edits of rules: new ones, other selectors, other places, declarations off and on, renamed, in
//! another notation; each written as the file writes its others.

use crate::support::Fixture;
use fingerpost::edit::{Change, Destination, Intent, kinds, make};
use fingerpost::question::find::ElementQuery;
use fingerpost::text::PlaceQuery;

/// The sheet of a page after a change for its marked `p`.
#[track_caller]
fn sheet(css: &str, change: Change) -> Result<String, String> {
    sheet_at(css, change, Destination::Sources)
}

/// The same, of a change in a place.
#[track_caller]
fn sheet_at(css: &str, change: Change, into: Destination) -> Result<String, String> {
    let fixture = Fixture::new(&format!(
        "<link rel=stylesheet href=a.css><div class=b>¤<p class=a>x</p></div>\n--- a.css\n{css}"
    ));
    let made = fixture.make_at(change, into).map_err(|e| e.to_string())?;
    Ok(fixture.after(&made))
}

fn rule(selector: &str, declarations: &str) -> Change {
    Change::Rule(kinds::Rule {
        selector: Some(selector.to_owned()),
        declarations: declarations.to_owned(),
    })
}

fn selector(place: &str, how: kinds::SelectorChange) -> Change {
    Change::Selector(kinds::Selector {
        rule: place.parse().unwrap(),
        how,
    })
}

#[test]
fn a_new_rule_looks_like_its_neighbors() {
    let new = || rule(".n", "top: 0; left: 1px !important");
    for (before, wanted) in [
        (
            ".a {\n  color: red;\n}\n",
            ".a {\n  color: red;\n}\n\n.n {\n  top: 0;\n  left: 1px !important;\n}\n",
        ),
        (
            ".a { color: red; }\n.z { color: red; }\n",
            ".a { color: red; }\n.n { top: 0; left: 1px !important; }\n.z { color: red; }\n",
        ),
        (
            ".a{color:red}.z{color:red}",
            ".a{color:red}.n{top:0;left:1px !important}.z{color:red}",
        ),
        (
            ".a\r\n{\r\n\tcolor : red\r\n}\r\n",
            ".a\r\n{\r\n\tcolor : red\r\n}\r\n\r\n.n\r\n{\r\n\ttop : 0;\r\n\tleft : 1px !important\r\n}\r\n",
        ),
        // Behind the whole of a nested rule.
        (
            "@media screen {\n    .a { color: red }\n}\n",
            "@media screen {\n    .a { color: red }\n}\n\n.n { top: 0; left: 1px !important }\n",
        ),
        // Nothing matches: at the end of the last sheet.
        (
            ".z { top: 0 }\n\n.y { top: 0 }\n/* end */\n",
            ".z { top: 0 }\n\n.y { top: 0 }\n/* end */\n\n.n { top: 0; left: 1px !important }\n",
        ),
        ("", ".n {\n  top: 0;\n  left: 1px !important;\n}\n"),
    ] {
        assert_eq!(sheet(before, new()).as_deref(), Ok(wanted), "{before:?}");
    }
}

#[test]
fn a_rule_that_can_not_be_read_is_refused() {
    let css = ".a { color: red }\n";
    for (selector, declarations, why) in [
        ("..a", "top: 0", "'..a' is not a valid selector"),
        (".a", "top", "'top'"),
        (".a", "", "expected declarations"),
        (".a", "top: red", "top: red is not valid"),
        (
            ".a",
            "topp: 1px",
            "no property is called 'topp'. Do you mean 'top'?",
        ),
        (".a", "top: 0 } b { left: 0", "'top: 0 } b { left: 0'"),
    ] {
        let error = sheet(css, rule(selector, declarations)).unwrap_err();
        assert!(error.contains(why), "{selector} {declarations}: {error}");
    }
}

#[test]
fn selectors_are_changed_added_and_dropped() {
    let css = "h1,\nh2 {\n  top: 0;\n}\n.a, .c { color: red }\n.a { left: 0 }\n";
    let after = |place: &str, how| sheet(css, selector(place, how));
    assert_eq!(
        after("a.css:2", kinds::SelectorChange::Add("h3".to_owned())).unwrap(),
        css.replace("h2 {", "h2,\nh3 {")
    );
    assert_eq!(
        after("a.css:5", kinds::SelectorChange::Remove(".a".to_owned())).unwrap(),
        css.replace(".a, .c", ".c")
    );
    assert_eq!(
        after("a.css:5", kinds::SelectorChange::Remove(".c".to_owned())).unwrap(),
        css.replace(".a, .c", ".a")
    );
    assert_eq!(
        after("a.css:6", kinds::SelectorChange::To("p.a".to_owned())).unwrap(),
        css.replace(".a { left", "p.a { left")
    );
    assert_eq!(
        after("a.css:6:2", kinds::SelectorChange::Add(".d".to_owned())).unwrap(),
        css.replace(".a { left", ".a, .d { left")
    );
    let refused = |place: &str, how| after(place, how).unwrap_err();
    assert!(
        refused("a.css:6", kinds::SelectorChange::Remove(".a".to_owned()))
            .contains("only selector")
    );
    assert!(refused("a.css:5", kinds::SelectorChange::Add(".c".to_owned())).contains("already"));
    assert!(refused("a.css:5", kinds::SelectorChange::Remove(".x".to_owned())).contains("none of"));
    assert!(refused("a.css:99", kinds::SelectorChange::Add(".x".to_owned())).contains("no rule"));
    assert!(
        refused("a.css:5", kinds::SelectorChange::To("a >".to_owned()))
            .contains("not a valid selector")
    );
}

#[test]
fn a_minified_sheet_is_reached_by_column() {
    let css = ".a{top:0}.b{top:0}.c{top:0}";
    assert_eq!(
        sheet(
            css,
            selector("a.css:1:12", kinds::SelectorChange::Add(".d".to_owned()))
        )
        .unwrap(),
        ".a{top:0}.b, .d{top:0}.c{top:0}"
    );
}

#[test]
fn a_rule_is_moved() {
    let css = ".x { top: 0 }\n\n.y { top: 1px }\n\n@media screen {\n  .z { top: 2px }\n}\n";
    let moved = |from: &str, side: fn(PlaceQuery) -> kinds::Beside, to: &str| {
        sheet(
            css,
            Change::MoveRule(kinds::MoveRule {
                rule: from.parse().unwrap(),
                beside: side(to.parse().unwrap()),
            }),
        )
    };
    assert_eq!(
        moved("a.css:1", kinds::Beside::After, "a.css:3").unwrap(),
        ".y { top: 1px }\n\n.x { top: 0 }\n\n@media screen {\n  .z { top: 2px }\n}\n"
    );
    assert_eq!(
        moved("a.css:3", kinds::Beside::Before, "a.css:1").unwrap(),
        ".y { top: 1px }\n\n.x { top: 0 }\n\n@media screen {\n  .z { top: 2px }\n}\n"
    );
    assert_eq!(
        moved("a.css:6", kinds::Beside::Before, "a.css:1").unwrap(),
        ".z { top: 2px }\n\n.x { top: 0 }\n\n.y { top: 1px }\n\n@media screen {\n}\n"
    );
    assert!(
        moved("a.css:1", kinds::Beside::After, "a.css:1")
            .unwrap_err()
            .contains("next to itself")
    );
    assert!(
        moved("a.css:1", kinds::Beside::Before, "a.css:3")
            .unwrap_err()
            .contains("already")
    );
}

#[test]
fn a_rule_is_moved_to_another_sheet() {
    let fixture = Fixture::new(
        "<link rel=stylesheet href=a.css><link rel=stylesheet href=b.css>¤<p>
--- a.css
p { top: 0 }
q { top: 0 }
--- b.css
p { left: 0 }
",
    );
    let edit = fixture
        .make(Change::MoveRule(kinds::MoveRule {
            rule: "a.css:1".parse().unwrap(),
            beside: kinds::Beside::After("b.css:1".parse().unwrap()),
        }))
        .unwrap();
    assert_eq!(edit.files().collect::<Vec<_>>(), ["a.css", "b.css"]);
    assert_eq!(
        edit.patch_of("a.css")
            .unwrap()
            .apply("p { top: 0 }\nq { top: 0 }\n")
            .unwrap(),
        "q { top: 0 }\n"
    );
    assert_eq!(
        edit.patch_of("b.css")
            .unwrap()
            .apply("p { left: 0 }\n")
            .unwrap(),
        "p { left: 0 }\n\np { top: 0 }\n"
    );
}

#[test]
fn a_declaration_is_switched_off_and_on() {
    for (css, off) in [
        (
            ".a { color: red; top: 0 }\n",
            ".a { /* color: red; */ top: 0 }\n",
        ),
        (
            ".a { top: 0; color: red }\n",
            ".a { top: 0; /* color: red */ }\n",
        ),
        (".a{color:red}\n", ".a{/* color:red */}\n"),
        (
            ".a {\r\n  color: red !important;\r\n  top: 0;\r\n}\r\n",
            ".a {\r\n  /* color: red !important; */\r\n  top: 0;\r\n}\r\n",
        ),
    ] {
        let property = || "color".to_owned();
        let gone = sheet(
            css,
            Change::Disable(kinds::Disable {
                property: property(),
            }),
        )
        .unwrap();
        assert_eq!(gone, off);
        assert_eq!(
            sheet(
                &gone,
                Change::Enable(kinds::Enable {
                    property: property()
                })
            )
            .as_deref(),
            Ok(css)
        );
    }
    let error = sheet(
        ".a { color: /* why */ red }",
        Change::Disable(kinds::Disable {
            property: "color".to_owned(),
        }),
    );
    assert!(error.unwrap_err().contains("contains a comment"));
    let error = sheet(
        ".a { /* top: 0 */ }",
        Change::Enable(kinds::Enable {
            property: "color".to_owned(),
        }),
    );
    assert!(
        error
            .unwrap_err()
            .contains("no rule that matches p.a contains a commented-out")
    );
}

#[test]
fn a_declaration_of_a_style_attribute_is_switched_off_and_on() {
    let page = Fixture::new("¤<p style='color: red; top: 0'>x</p>");
    let off = page
        .make(Change::Disable(kinds::Disable {
            property: "color".to_owned(),
        }))
        .unwrap();
    let text = page.after(&off);
    assert_eq!(text, "<p style='/* color: red; */ top: 0'>x</p>");
    let page = Fixture::new(&format!("¤{text}"));
    assert_eq!(page.computed("color"), "rgb(0, 0, 0)");
    let on = page
        .make(Change::Enable(kinds::Enable {
            property: "color".to_owned(),
        }))
        .unwrap();
    assert_eq!(page.after(&on), "<p style='color: red; top: 0'>x</p>");
}

#[test]
fn a_property_is_renamed() {
    let renamed = |css: &str, from: &str, to: &str| {
        sheet(
            css,
            Change::ChangeProperty(kinds::ChangeProperty {
                property: from.to_owned(),
                to: to.to_owned(),
            }),
        )
    };
    assert_eq!(
        renamed(
            ".a { margin-left : 2px; }\n",
            "margin-left",
            "margin-inline-start"
        )
        .unwrap(),
        ".a { margin-inline-start : 2px; }\n"
    );
    assert!(
        renamed(".a { color: red }", "color", "top")
            .unwrap_err()
            .contains("top: red is not")
    );
    assert!(
        renamed(".a { top: 0 }", "top", "top")
            .unwrap_err()
            .contains("already")
    );
    assert!(
        renamed(".a { top: 0 }", "top", "tpo")
            .unwrap_err()
            .contains("no property")
    );
}

#[test]
fn colors_are_written_in_other_notations() {
    let noted = |value: &str, property: &str, to: &str, alpha: Option<&str>| {
        let css = format!(".a {{ {property}: {value} }}");
        let change = Change::ConvertColor(kinds::ConvertColor {
            property: property.to_owned(),
            to: to.to_owned(),
            alpha: alpha.map(str::to_owned),
        });
        sheet(&css, change).map(|s| {
            let (_, rest) = s.split_once(": ").unwrap();
            rest.strip_suffix(" }").unwrap().to_owned()
        })
    };
    for (value, property, to, alpha, wanted) in [
        ("#c0902f", "color", "rgb", None, "rgb(192 144 47)"),
        ("#c0902f", "color", "hsl", None, "hsl(40.1 60.7% 46.9%)"),
        ("hsl(40.1 60.7% 46.9%)", "color", "hex", None, "#c0902f"),
        ("teal", "color", "hex", Some(".5"), "#00808080"),
        (
            "rgb(0 128 128 / 50%)",
            "color",
            "hsl",
            None,
            "hsl(180 100% 25.1% / 0.5)",
        ),
        ("#008080", "color", "name", None, "teal"),
        ("red", "color", "oklch", None, "oklch(0.628 0.2577 29.2)"),
        ("1px solid red", "border", "hex", None, "1px solid #ff0000"),
        (
            "0 0 2px red, inset 0 0 1px #00f",
            "box-shadow",
            "rgb",
            None,
            "0 0 2px rgb(255 0 0), inset 0 0 1px rgb(0 0 255)",
        ),
        (
            "linear-gradient(red, blue 20%)",
            "background-image",
            "hex",
            None,
            "linear-gradient(#ff0000, #0000ff 20%)",
        ),
    ] {
        assert_eq!(
            noted(value, property, to, alpha).as_deref(),
            Ok(wanted),
            "{value} {to}"
        );
    }
    assert!(
        noted("#c0902f", "color", "name", None)
            .unwrap_err()
            .contains("no color has that name")
    );
    assert!(
        noted("2px", "top", "hex", None)
            .unwrap_err()
            .contains("no color")
    );
    assert!(
        noted("red", "color", "hex", Some("3"))
            .unwrap_err()
            .contains("is not an alpha, such as .5 or 50%")
    );
}

#[test]
fn a_variable_is_set_where_it_is_defined() {
    let css = ":root { --brand: teal }\n.b { --own: 1px }\n.a { color: var(--brand) }\n";
    let set = |name: &str, value: &str| {
        sheet(
            css,
            Change::CustomProperty(kinds::CustomProperty {
                name: name.to_owned(),
                value: value.to_owned(),
            }),
        )
    };
    assert_eq!(set("--brand", "navy").unwrap(), css.replace("teal", "navy"));
    assert_eq!(set("--own", "2px").unwrap(), css.replace("1px", "2px"));
    // What nothing defines is defined on the root element.
    assert_eq!(
        set("--none", "2px").unwrap(),
        css.replace("teal", "teal; --none: 2px")
    );
    assert!(
        set("color", "red")
            .unwrap_err()
            .contains("not the name of a custom property")
    );
}

#[test]
fn a_value_is_set_in_a_named_rule() {
    let css = ".a { top: 0 }\np { top: 1px; left: 0 }\n";
    let set = |place: &str, property: &str| {
        sheet_at(
            css,
            Change::set(property, "9px"),
            Destination::Rule(place.parse().unwrap()),
        )
        .unwrap()
    };
    assert_eq!(set("a.css:2", "top"), css.replace("1px", "9px"));
    assert_eq!(
        set("a.css:2", "right"),
        css.replace("left: 0", "left: 0; right: 9px")
    );
}

#[test]
fn steps_fit_their_unit() {
    let stepped = |value: &str, property: &str, by: &str| {
        let css = format!(".a {{ {property}: {value} }}");
        let change = Change::Step(kinds::Step {
            property: property.to_owned(),
            by: by.to_owned(),
        });
        let after = sheet(&css, change).unwrap();
        after
            .split_once(": ")
            .unwrap()
            .1
            .strip_suffix(" }")
            .unwrap()
            .to_owned()
    };
    for (value, property, by, wanted) in [
        ("10px", "top", "+", "11px"),
        ("10px", "top", "++", "20px"),
        ("1em", "font-size", "+", "1.1em"),
        ("1em", "font-size", "--", "0.5em"),
        ("50%", "width", "-", "49%"),
        ("1.5", "line-height", "+", "1.55"),
        ("400", "font-weight", "++", "700"),
        ("0.5", "opacity", "-", "0.45"),
        ("200ms", "transition-duration", "+", "210ms"),
        ("2", "z-index", "+", "3"),
    ] {
        assert_eq!(
            stepped(value, property, by),
            wanted,
            "{property}: {value} {by}"
        );
    }
}

#[test]
fn like_elements_are_edited_at_once() {
    let fixture = Fixture::new(
        "<style>.a { top: 0 } .b { top: 1px }</style><p class=a>1<p class=b>2<p class=a>3<p>4",
    );
    let intent = Intent {
        each: true,
        ..Intent::new("page.html", "p", Change::set("top", "5px"))
    };
    let edit = make(&fixture.page, &intent).unwrap();
    assert!(
        fixture.after(&edit).starts_with(
            "<style>.a { top: 5px } .b { top: 5px } p:last-child { top: 5px }</style>"
        )
    );
    assert_eq!(edit.summary, "set top of 4 elements on page.html: 5px");
    let [unset, position] = &edit.warnings[..] else {
        panic!("{:?}", edit.warnings);
    };
    let begins = "1 of them had no declaration of top; the new rule p:last-child sets it";
    assert!(unset.starts_with(begins), "{unset}");
    assert!(
        position.starts_with("p:last-child finds its element by its place"),
        "{position}"
    );
    assert_eq!(intent.into, Destination::Sources);
}

#[test]
fn an_at_rule_in_a_style_rule_is_named_by_the_selectors_of_that_one() {
    let fixture = Fixture::new(
        "<style>.alpha, .beta { @media screen { color: red } @layer x { top: 1px } }</style>¤<p class=beta>x</p>",
    );
    for property in ["color", "top"] {
        let answer = fixture.why(property);
        let winner = &answer.contests[0].contenders[0];
        assert_eq!(winner.declaration.rule.selector, ".beta");
    }
}

#[test]
fn siblings_are_counted_alike_whether_the_count_is_remembered_or_not() {
    let list =
        "<ul><li class=a>1<li>2<li class=a>3<p class=a>4</p><li class='a b'>5</ul>".repeat(3);
    for selector in [
        ":nth-child(2 of .a)",
        ":nth-last-child(2 of .a)",
        "li:nth-child(odd of .a, .b)",
        ":nth-child(-n + 1 of li:not(.a))",
        "ul:has(:nth-child(3 of p))",
        ":nth-child(1 of :nth-child(2 of .a))",
    ] {
        let fixture = Fixture::new(&format!(
            "<style>{selector} {{ top: 1px }}</style>{list}¤<i>x</i>"
        ));
        let page = &fixture.page;
        let found = page
            .ask()
            .elements(ElementQuery::Selector(selector.to_owned()))
            .unwrap();
        let styles = page.styles();
        let own = page.rules().len() as u32 - 1;
        let matched: Vec<_> = page
            .document()
            .elements()
            .iter()
            .copied()
            .filter(|id| styles.matched(&(*id).into()).iter().any(|m| m.rule == own))
            .collect();
        assert_eq!(found, matched, "{selector}");
    }
}
