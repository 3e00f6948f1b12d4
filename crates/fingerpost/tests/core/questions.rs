//! `tree` and `find` through the public API: what is found, and what is said when nothing is.

use crate::support::Fixture;
use fingerpost::question::ElementSummary;
use fingerpost::question::find::FindError;

const PAGE: &str = "<!doctype html>
<main id=m>
  <h2 class=title>Sailings   today</h2>
  <ul class=list><li class=port>Outer <b>Holm</b></li>
  <li class=port>Tern Rock</li></ul>
  <p>All boats <em>leave</em> from
  the pier.</p>
  <table><tr><td>1</table>
</main>";

fn found(what: &str) -> Vec<String> {
    let fixture = Fixture::new(PAGE);
    fixture
        .page
        .ask()
        .find(what)
        .unwrap()
        .elements
        .iter()
        .map(|f| format!("{}@{}", f.element.label(), f.element.place.line))
        .collect()
}

#[test]
fn by_selector_text_place_and_number() {
    assert_eq!(found(".port"), ["li.port@4", "li.port@5"]);
    assert_eq!(found("\"Sailings today\""), ["h2.title@3"]);
    assert_eq!(found("\"Outer Holm\""), ["li.port@4"]);
    assert_eq!(found("\"leave from the pier\""), ["p@6"]);
    assert_eq!(found("page.html:3"), ["h2.title@3"]);
    assert_eq!(found("page.html:4"), ["ul.list@4", "li.port@4", "b@4"]);
    assert_eq!(found("page.html:4:40"), ["b@4"]);
    assert_eq!(found("page.html:7"), ["p@6"]);
    assert_eq!(found("@0"), ["html@2"]);
    assert_eq!(found("@999"), Vec::<String>::new());
}

#[test]
fn a_found_element_has_its_trail_and_text() {
    let fixture = Fixture::new(PAGE);
    let answer = fixture.page.ask().find("em").unwrap();
    let trail: Vec<String> = answer.elements[0]
        .trail
        .iter()
        .map(ElementSummary::label)
        .collect();
    assert_eq!(trail, ["html", "body", "main#m", "p"]);
    assert_eq!(answer.elements[0].text, "leave");
}

fn error(what: &str) -> FindError {
    let fixture = Fixture::new(PAGE);
    fixture.page.ask().find_one(what).unwrap_err()
}

#[test]
fn nothing_found_says_what_nearly_is() {
    assert_eq!(
        error("ul .prot").to_string(),
        "no element of page.html matches 'ul .prot'. Nearest: without '.prot' it matches 3 elements, \
         first li.port at page.html:4:18. Do you mean '.port'?"
    );
    assert_eq!(
        error("\"Sailing tomorrow\"").to_string(),
        "no element of page.html matches the text \"Sailing tomorrow\". Nearest: h2.title at page.html:3:3 says \
         'Sailings today'."
    );
    assert_eq!(
        error("@99").to_string(),
        "no element of page.html matches @99. The page has elements 0 to 14."
    );
}

#[test]
fn a_selector_that_is_not_matched_yet_is_no_answer() {
    assert_eq!(
        error("p:muted").to_string(),
        "no element of page.html matches 'p:muted'. :muted is not matched yet, so this says nothing of it."
    );
}

#[test]
fn several_are_listed_with_their_places() {
    let error = error("li").to_string();
    assert!(
        error.starts_with("'li' matches 2 elements of page.html; say which:"),
        "{error}"
    );
    assert!(error.contains("page.html:4:18  li.port  (or @"), "{error}");
    assert!(
        error.ends_with("A place names one: page.html:4:18"),
        "{error}"
    );
}

#[test]
fn bad_questions_are_refused() {
    assert!(matches!(
        error("a >"),
        FindError::Selector { column: 3, .. }
    ));
    assert!(matches!(error("other.html:1"), FindError::OtherFile { .. }));
    assert!(matches!(
        error("page.html:99"),
        FindError::NoSuchLine { lines: 9, .. }
    ));
}

#[test]
fn a_pseudo_element_can_be_asked_for() {
    let fixture = Fixture::new(PAGE);
    let target = fixture.page.ask().find_one("h2::before").unwrap();
    assert_eq!(target.pseudo.unwrap().to_string(), "::before");
    assert_eq!(fixture.page.ask().elements("li, li.port").unwrap().len(), 2);
}

#[test]
fn the_tree_has_lines_text_and_what_is_implied() {
    let fixture = Fixture::new(PAGE);
    let answer = fixture
        .page
        .ask()
        .tree(fixture.page.document().root_element(), None);
    let main = &answer.tree.children[1].children[0];
    assert_eq!(main.element.label(), "main#m");
    assert_eq!(main.children[0].text, "Sailings today");
    let body = &main.children[3].children[0];
    assert_eq!(body.element.tag, "tbody");
    assert_eq!(body.element.written, fingerpost::markup::Written::Implied);
    let root = fixture.page.document().root_element();
    let short = fixture.page.ask().tree(root, Some(1));
    assert_eq!(short.tree.children[1].more, 12);
    assert!(!answer.quirks);
}

#[test]
fn trace_says_what_could_not_be_read() {
    let fixture = Fixture::new("<style>p { color: red; nonsense } p { top: 0 /* open</style>¤<p>");
    let problems: Vec<String> = fixture
        .trace()
        .problems
        .iter()
        .map(|p| format!("{}:{} {}", p.place.line, p.place.column, p.message))
        .collect();
    assert_eq!(
        problems,
        [
            "1:24 neither a declaration nor a rule; expected name: value;",
            "1:37 the block is never closed; expected }",
            "1:46 the comment is never closed: everything from here to the end of the file is a comment; expected */",
        ]
    );
}

#[test]
fn trace_groups_rules_strongest_first_and_what_is_inherited() {
    let fixture = Fixture::new(
        "<style>body { color: red; top: 1px } main { font: 10px A; --x: 1px; --y: 2px } p { margin: var(--x); padding: 0 }
         .a { padding-left: 3px }</style><main>¤<p class=a style='margin-top: 4px'>",
    );
    let trace = fixture.trace();
    let rules: Vec<&str> = trace
        .rules
        .iter()
        .map(|r| r.rule.selector.as_str())
        .collect();
    assert_eq!(&rules[..3], ["style attribute", ".a", "p"]);
    let margin = &trace.rules[2].declarations[0];
    assert_eq!(margin.standing.as_str(), "wins-in-part");
    assert_eq!(margin.beaten_by[0].properties, ["margin-top"]);
    assert_eq!(margin.beaten_by[0].selector, "style attribute");
    let from: Vec<(&str, usize)> = trace
        .inherited
        .iter()
        .map(|i| (i.from.tag.as_str(), i.unused_custom_properties))
        .collect();
    assert_eq!(from, [("main", 1), ("body", 0)]);
    let body = &trace.inherited[1].rules[0].declarations;
    assert_eq!(body.len(), 1, "top is not inherited");
}
