//! Edits: each keeps the formatting of its file, changes only what was meant, and gives the value that
//! was asked for when the page is read again.

use std::sync::Arc;

use crate::support::Fixture;
use fingerpost::edit::{Change, Destination, Edit, Intent, kinds, make};
use fingerpost::page::{LoadError, Page, Target};
use fingerpost::prelude::*;

/// What is between two marks of a text.
fn between(text: &str, start: &str, end: &str) -> String {
    let (_, rest) = text.split_once(start).unwrap();
    rest.split_once(end).unwrap().0.to_owned()
}

/// The page's text after an edit of it.
#[track_caller]
fn after(fixture: &Fixture, edit: &Edit) -> String {
    assert_eq!(edit.changes[0].file, "page.html");
    fixture.after(edit)
}

/// Adds `top: 1px` to the rule that matches the marked element, and gives the sheet.
#[track_caller]
fn added(css: &str) -> String {
    let fixture = Fixture::new(&format!("<style>{css}</style>¤<p class=a>"));
    let edit = fixture.make(Change::add("top", "1px")).unwrap();
    let text = after(&fixture, &edit);
    let again = Fixture::new(&text.replace("<p", "¤<p"));
    assert_eq!(again.computed("top"), "1px", "{text}");
    between(&text, "<style>", "</style>")
}

#[test]
fn a_declaration_is_added_as_its_neighbors_are_written() {
    assert_eq!(added(".a { color: red; }"), ".a { color: red; top: 1px; }");
    assert_eq!(added(".a{color:red}"), ".a{color:red;top:1px}");
    assert_eq!(
        added(".a {\n  color: red;\n}"),
        ".a {\n  color: red;\n  top: 1px;\n}"
    );
    assert_eq!(
        added(".a {\n\tcolor : red\n}"),
        ".a {\n\tcolor : red;\n\ttop : 1px\n}"
    );
    assert_eq!(
        added(".a {\r\n  color: red;\r\n}"),
        ".a {\r\n  color: red;\r\n  top: 1px;\r\n}"
    );
    assert_eq!(
        added(".a { color: red !important }"),
        ".a { color: red !important; top: 1px }"
    );
    // The strongest rule takes it.
    assert_eq!(
        added("p { color: red } .a { left: 0 } p { right: 0 }"),
        "p { color: red } .a { left: 0; top: 1px } p { right: 0 }"
    );
}

#[test]
fn an_empty_rule_takes_its_first_declaration() {
    for (before, wanted) in [
        (".a {}", ".a { top: 1px; }"),
        (".a {\n}", ".a {\n  top: 1px;\n}"),
        (
            "@media screen {\n\t.a {\n\t}\n}",
            "@media screen {\n\t.a {\n\t\ttop: 1px;\n\t}\n}",
        ),
    ] {
        let text = format!("<style>\n{before}</style>¤<p class=a>");
        let fixture = Fixture::new(&text);
        let line = 2 + before.lines().position(|l| l.contains(".a")).unwrap() as u32;
        let place = Destination::Rule(format!("page.html:{line}").parse().unwrap());
        let edit = fixture.make_at(Change::add("top", "1px"), place);
        assert!(after(&fixture, &edit.unwrap()).contains(wanted), "{before}");
    }
}

#[test]
fn what_can_t_be_added_is_refused() {
    let fixture = Fixture::new("<style>.b { color: red }</style>¤<p class=a>");
    let ask = |value: &str, rule: Option<&str>| {
        let place = rule.map_or(Destination::Sources, |rule| {
            Destination::Rule(rule.parse().unwrap())
        });
        let change = Change::add("top", value);
        fixture.make_at(change, place).unwrap_err().to_string()
    };
    assert!(ask("red", None).contains("top: red is not valid"));
    assert!(ask("1px; color: red", None).contains("is not one value"));
    assert_eq!(
        ask("1px", None),
        "p.a: no rule of this page is there; name a rule that the page uses"
    );
    assert!(ask("1px", Some("a.css:3")).starts_with("a.css:3: a.css is not a sheet of this page"));
}

#[test]
fn a_declaration_is_taken_out_with_its_line() {
    let removed = |css: &str| {
        let fixture = Fixture::new(&format!("<style>{css}</style>¤<p>"));
        let edit = fixture
            .make(Change::RemoveDeclaration(kinds::RemoveDeclaration {
                property: "color".to_owned(),
            }))
            .unwrap();
        let text = after(&fixture, &edit);
        between(&text, "<style>", "</style>")
    };
    assert_eq!(
        removed("p {\n  top: 0;\n  color: red;\n}"),
        "p {\n  top: 0;\n}"
    );
    assert_eq!(removed("p { color: red; top: 0 }"), "p { top: 0 }");
    assert_eq!(removed("p { top: 0; color: red }"), "p { top: 0; }");
    assert_eq!(removed("p{color:red}"), "p{}");
    assert_eq!(removed("p {\r\n  color: red;\r\n}"), "p {\r\n}");
    let inherited = Fixture::new("<style>div { color: red }</style><div>¤<p>");
    let refused = inherited.make(Change::RemoveDeclaration(kinds::RemoveDeclaration {
        property: "color".to_owned(),
    }));
    assert!(
        refused
            .unwrap_err()
            .to_string()
            .contains("it inherits from div")
    );
}

/// One change of the classes of the marked element.
#[track_caller]
fn classes(tag: &str, changes: &[&str]) -> String {
    let fixture = Fixture::new(&format!("¤{tag}"));
    let changes: Vec<String> = changes.iter().map(|c| (*c).to_owned()).collect();
    let edit = fixture
        .make(Change::Class(kinds::Class { changes }))
        .unwrap();
    after(&fixture, &edit)
}

#[test]
fn classes_are_added_and_taken_off() {
    assert_eq!(classes("<p class='a b'>", &["+c", "-a"]), "<p class='b c'>");
    assert_eq!(classes("<p class=a>", &["+b"]), "<p class=\"a b\">");
    assert_eq!(classes("<p>", &["+b"]), "<p class=\"b\">");
    assert_eq!(
        classes("<p id='x' hidden>", &[".b"]),
        "<p id='x' hidden class=\"b\">"
    );
    assert_eq!(classes("<p id='x'>", &["+b"]), "<p id='x' class='b'>");
    assert_eq!(
        classes("<p id=x class=\"a\" lang=en>", &["-a"]),
        "<p id=x lang=en>"
    );
    assert_eq!(classes("<br/>", &["+b"]), "<br class=\"b\"/>");
    assert_eq!(classes("<p class>", &["+b"]), "<p class=\"b\">");
}

#[test]
fn attributes_are_set_and_taken_off() {
    let set = |tag: &str, name: &str, value: Option<&str>| {
        let fixture = Fixture::new(&format!("¤{tag}"));
        let edit = fixture.make(Change::Attribute(kinds::Attribute {
            name: name.to_owned(),
            value: value.unwrap_or_default().to_owned(),
            remove: value.is_none(),
        }));
        edit.map(|e| after(&fixture, &e)).map_err(|e| e.to_string())
    };
    assert_eq!(
        set("<p>", "title", Some("a \"b\" & c")).unwrap(),
        "<p title=\"a &quot;b&quot; &amp; c\">"
    );
    assert_eq!(
        set("<p title='x'>", "title", Some("it's")).unwrap(),
        "<p title='it&#39;s'>"
    );
    assert_eq!(
        set("<p TITLE=x>", "title", Some("y")).unwrap(),
        "<p TITLE=\"y\">"
    );
    assert_eq!(set("<p hidden>", "hidden", None).unwrap(), "<p>");
    assert_eq!(
        set("<p a=1 hidden b=2>", "hidden", None).unwrap(),
        "<p a=1 b=2>"
    );
    assert!(
        set("<p>", "hidden", None)
            .unwrap_err()
            .contains("nothing would change")
    );
    assert!(
        set("<p a=1>", "a", Some("1"))
            .unwrap_err()
            .contains("nothing would change")
    );
    assert!(
        set("<p>", "a b", Some("1"))
            .unwrap_err()
            .contains("is not the name of an attribute")
    );
}

#[test]
fn many_elements_are_changed_at_once() {
    let fixture = Fixture::new("<ul><li>1<li class=x>2<li>3</ul>");
    let changes = vec!["+x".to_owned()];
    let intent = Intent {
        each: true,
        ..Intent::new("page.html", "li", Change::Class(kinds::Class { changes }))
    };
    let edit = make(&fixture.page, &intent).unwrap();
    assert_eq!(
        after(&fixture, &edit),
        "<ul><li class=\"x\">1<li class=x>2<li class=\"x\">3</ul>"
    );
    assert_eq!(edit.summary, "class +x of 3 elements on page.html");
    assert_eq!(
        edit.warnings,
        ["1 of the 3 elements stays as it is: nothing would change: class is 'x' already"]
    );
}

#[test]
fn an_element_without_a_tag_is_refused() {
    let fixture = Fixture::new("<p>x");
    let changes = vec!["+x".to_owned()];
    let intent = Intent::new("page.html", "body", Change::Class(kinds::Class { changes }));
    let error = make(&fixture.page, &intent).unwrap_err();
    assert!(error.to_string().starts_with("body has no tag"));
}

/// Whatever an attribute is set to, reading the page again gives it back.
#[test]
fn any_value_comes_back() {
    for value in [
        "",
        " ",
        "a b",
        "it's \"so\"",
        "<p>",
        "&amp;",
        "&",
        "é🚢",
        "a\nb",
        "{{ x }}",
        "/>",
    ] {
        for tag in [
            "<p>",
            "<p id='x'>",
            "<p title=y>",
            "<p title='y'>",
            "<p title>",
            "<p a=b/>",
        ] {
            let fixture = Fixture::new(&format!("¤{tag}text"));
            let edit = fixture.make(Change::Attribute(kinds::Attribute {
                name: "title".to_owned(),
                value: value.to_owned(),
                remove: false,
            }));
            let Ok(edit) = edit else { continue };
            let text: Arc<Text> = Text::new("page.html", after(&fixture, &edit));
            let page = Page::builder(text)
                .loader(|_: &Request<'_>| Err(LoadError::Remote))
                .build();
            let p = Target::from(*page.document().elements().last().unwrap());
            let element = page.document().element(p.element);
            assert_eq!(element.attribute("title"), Some(value), "{tag} {value:?}");
            assert_eq!(page.document().folded_text(p.element, 9), "text");
        }
    }
}

#[test]
fn steps_keep_the_unit_and_the_way_it_is_written() {
    let stepped = |css: &str, name: &str, by: &str| {
        let fixture = Fixture::new(&format!("<!doctype html><style>p {{ {css} }}</style>¤<p>"));
        let edit = fixture.make(Change::Step(kinds::Step {
            property: name.to_owned(),
            by: by.to_owned(),
        }));
        edit.map(|e| between(&after(&fixture, &e), "{ ", " }"))
            .map_err(|e| e.to_string())
    };
    for (css, name, by, wanted) in [
        ("font-size: 1em", "font-size", "+0.1", "font-size: 1.1em"),
        ("top: .5rem", "top", "+.25", "top: .75rem"),
        ("top: 12px", "top", "-1", "top: 11px"),
        ("top: 0.1em", "top", "0.2", "top: 0.3em"),
        ("top: 0", "top", "+4", "top: 4px"),
        ("top: 2px", "top", "-5", "top: -3px"),
        ("opacity: 0.5", "opacity", "+.5", "opacity: 1"),
        ("padding: 4px", "padding", "+4", "padding: 8px"),
        ("width: 50%", "width", "-10", "width: 40%"),
    ] {
        assert_eq!(stepped(css, name, by).as_deref(), Ok(wanted), "{css} {by}");
    }
    assert!(
        stepped("width: auto", "width", "+1")
            .unwrap_err()
            .contains("not a single number")
    );
    assert!(
        stepped("padding-top: 2px", "padding-top", "-5")
            .unwrap_err()
            .contains("not valid")
    );
    assert!(
        stepped("top: 1px", "top", "more")
            .unwrap_err()
            .contains("'more' is not a step")
    );
}

#[test]
fn a_declaration_for_one_element_goes_into_its_style_attribute() {
    let here = |tag: &str, name: &str, value: &str| {
        let fixture = Fixture::new(&format!("¤{tag}"));
        let edit = fixture
            .make_at(Change::add(name, value), Destination::Inline)
            .unwrap();
        let text = after(&fixture, &edit);
        let again = Fixture::new(&format!("¤{text}"));
        assert!(
            again.contest(name).contenders[0]
                .sentence
                .starts_with("wins"),
            "{text}"
        );
        text
    };
    assert_eq!(here("<p>", "top", "1px"), "<p style=\"top: 1px\">");
    assert_eq!(
        here("<p style='left: 0'>", "top", "1px"),
        "<p style='left: 0; top: 1px'>"
    );
    assert_eq!(
        here("<p style='left: 0;'>", "top", "1px"),
        "<p style='left: 0; top: 1px;'>"
    );
    assert_eq!(
        here("<p style='top: 0; left: 0'>", "top", "1px"),
        "<p style='top: 1px; left: 0'>"
    );
    assert_eq!(
        here("<p style=\"content: &quot;&quot;; top: 0\">", "top", "1px"),
        "<p style=\"content: &quot;&quot;; top: 1px\">"
    );
    assert_eq!(
        here("<p>", "font-family", "\"A B\""),
        "<p style=\"font-family: &quot;A B&quot;\">"
    );
}

#[test]
fn importance_is_marked_and_taken_off() {
    let marked = |css: &str, on: bool| {
        let fixture = Fixture::new(&format!("<style>p {{ {css} }}</style>¤<p>"));
        let edit = fixture.make(Change::Important(kinds::Important {
            property: "top".to_owned(),
            remove: !on,
        }));
        edit.map(|e| between(&after(&fixture, &e), "{ ", " }"))
            .map_err(|e| e.to_string())
    };
    assert_eq!(
        marked("top: 1px; left: 0", true).unwrap(),
        "top: 1px !important; left: 0"
    );
    assert_eq!(marked("top: 1px ! important", false).unwrap(), "top: 1px");
    assert!(
        marked("top: 1px", false)
            .unwrap_err()
            .contains("is already not !important")
    );
}

/// A slip in a name is said before it makes something new.
#[test]
fn slips_in_names_are_said() {
    let page = "<style>:root { --brass: teal }</style>¤<p>x";
    let fixture = Fixture::new(page);
    let define = |name: &str| {
        let change = kinds::CustomProperty {
            name: name.to_owned(),
            value: "navy".to_owned(),
        };
        fixture.make(change.into()).unwrap().warnings
    };
    assert!(define("--bras")[0].contains("Do you mean --brass"));
    assert_eq!(define("--ink"), [""; 0]);
    let at_rule = |source: &str| {
        let change = kinds::AtRule {
            source: source.to_owned(),
        };
        fixture
            .make(change.into())
            .map(|_| ())
            .map_err(|error| error.to_string())
    };
    let refused = at_rule("@keyframe fade { to { opacity: 0 } }").unwrap_err();
    assert!(refused.contains("Do you mean @keyframes?"), "{refused}");
    at_rule("@keyframes fade { to { opacity: 0 } }").unwrap();
    at_rule("@-webkit-keyframes fade { to { opacity: 0 } }").unwrap();
    at_rule("@view-transition { navigation: auto }").unwrap();
}

#[test]
fn what_a_page_has_once_is_not_doubled() {
    for element in ["html", "head", "body"] {
        let page = Page::new(Text::new(
            "page.html",
            "<!doctype html><html><head></head><body><p>x</body></html>",
        ));
        let intent = Intent::new("page.html", element, kinds::Duplicate {});
        let refused = make(&page, &intent).unwrap_err().to_string();
        assert!(
            refused.contains(&format!("only one <{element}>")),
            "{refused}"
        );
    }
}
