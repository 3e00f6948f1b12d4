//! Why not: each obstacle in its order, the nearest selector that would match, and what would win.

use crate::support::Fixture;
use fingerpost::question::inventory::{Inventory, SiteSheet};
use fingerpost::question::whynot::{Asked, WhyNotAnswer};
use fingerpost::sheet::Sheet;
use fingerpost::text::PlaceQuery;
use fingerpost::text::Text;

#[track_caller]
fn ask_beside(fixture: &Fixture, what: &str, elsewhere: &Inventory) -> WhyNotAnswer {
    let ask = fixture.page.ask().beside(elsewhere);
    ask.whynot(&fixture.target, &Asked::parse(what), what)
        .unwrap()
}

#[track_caller]
fn ask(fixture: &Fixture, what: &str) -> WhyNotAnswer {
    ask_beside(fixture, what, &Inventory::default())
}

fn kinds(answer: &WhyNotAnswer) -> Vec<&'static str> {
    answer.findings[0]
        .obstacles
        .iter()
        .map(|o| o.kind.as_str())
        .collect()
}

fn remedies(answer: &WhyNotAnswer) -> Vec<String> {
    let all = answer.findings[0].remedies.iter();
    all.map(|r| r.sentence.clone()).collect()
}

fn site(name: &str, css: &str, pages: &[&str]) -> Inventory {
    let text = Text::new(name, css);
    let span = text.span();
    Inventory {
        sheets: vec![SiteSheet {
            sheet: Sheet::parse(text.clone(), span),
            text,
            pages: pages.iter().map(|p| (*p).to_owned()).collect(),
        }],
        ..Inventory::default()
    }
}

#[test]
fn what_is_asked_is_told_by_its_form() {
    let declaration = |property: &str, value: &str| Asked::Declaration {
        property: property.to_owned(),
        value: value.to_owned(),
    };
    // The colon is easily left out.
    assert_eq!(Asked::parse("width 50%"), declaration("width", "50%"));
    assert_eq!(Asked::parse("color red"), declaration("color", "red"));
    assert_eq!(Asked::parse("width 5qq"), declaration("width", "5qq"));
    assert_eq!(Asked::parse("font b"), Asked::Selector("font b".to_owned()));
    let place = |column| {
        Asked::Place(PlaceQuery {
            file: "css/a.css".to_owned(),
            line: 12,
            column,
        })
    };
    assert_eq!(Asked::parse("css/a.css:12"), place(None));
    assert_eq!(Asked::parse("css/a.css:12:3"), place(Some(3)));
    assert!(matches!(Asked::parse("a:hover"), Asked::Selector(_)));
    assert!(matches!(Asked::parse("p::before"), Asked::Selector(_)));
    assert!(matches!(
        Asked::parse("color: navy;"),
        Asked::Declaration { .. }
    ));
    assert!(matches!(
        Asked::parse("--gap: 1px"),
        Asked::Declaration { .. }
    ));
    assert!(matches!(
        Asked::parse("colr: navy"),
        Asked::Declaration { .. }
    ));
}

#[test]
fn a_sheet_that_the_page_does_not_have() {
    let fixture = Fixture::new("¤<p class=a>");
    let answer = ask_beside(
        &fixture,
        "css/late.css:1",
        &site("css/late.css", ".a { color: red }", &["b.html"]),
    );
    assert_eq!(answer.verdict, "css/late.css is not on this page");
    assert_eq!(
        answer.findings[0].obstacles[0].hints,
        ["pages that have it: b.html"]
    );
}

#[test]
fn a_sheet_that_did_not_load() {
    let fixture = Fixture::new("<link rel=stylesheet href=css/gone.css>¤<p class=a>");
    let answer = ask(&fixture, "css/gone.css:1");
    assert_eq!(kinds(&answer), ["not-loaded"]);
    assert!(
        answer.verdict.contains("css/gone.css did not load"),
        "{}",
        answer.verdict
    );
}

#[test]
fn a_bundle_stands_in_for_the_file() {
    let source = ".a { color: red; top: 0 }\n.b { left: 1px }\n.c { right: 2px }\n";
    let fixture = Fixture::new(
        "<link rel=stylesheet href=all.css>¤<p class=a>
--- all.css
.z{top:1px}.a{color:blue;top:0}.b{left:1px}.c{right:2px}
",
    );
    let answer = ask_beside(&fixture, "src/a.css:1", &site("src/a.css", source, &[]));
    assert_eq!(kinds(&answer)[..2], ["not-on-page", "bundle"]);
    let bundle = &answer.findings[0].obstacles[1];
    assert!(bundle.sentence.contains("all.css") && bundle.sentence.contains("2 of 3"));
    assert_eq!(
        bundle.hints,
        ["this rule has other values there: build it again"]
    );
}

#[test]
fn a_condition_with_the_values_compared() {
    let fixture = Fixture::new("<style>@media (max-width: 30em) { p { color: red } }</style>¤<p>");
    let answer = ask(&fixture, "color: red");
    assert_eq!(
        answer.verdict,
        "@media (max-width: 30em) is false: width is 1280px, not at most 30em"
    );
    assert_eq!(kinds(&answer), ["condition"]);
}

#[test]
fn a_container_whose_size_nobody_knows() {
    let text = "<style>div { container-type: inline-size } @container (width > 20em) { p { color: red } }</style><div>¤<p>";
    let answer = ask(&Fixture::new(text), "color: red");
    assert_eq!(kinds(&answer), ["depends-on-layout"]);
}

#[test]
fn a_selector_that_misses_says_where_and_what_would_match() {
    let fixture = Fixture::new(
        "<style>.panel > .today { color: red }</style><div class=panel><div>¤<h2 class=today>",
    );
    let answer = ask(&fixture, ".panel > .today");
    assert_eq!(
        answer.verdict,
        ".panel > .today does not match: the parent, div at page.html:1:63, is not .panel; div.panel at \
         page.html:1:46 is, further off"
    );
    assert_eq!(
        answer.findings[0].obstacles[0].hints[0],
        ".panel .today would match: a space instead of >"
    );
}

#[test]
fn a_rule_that_misses_is_told_what_it_would_meet() {
    let fixture =
        Fixture::new("<style>.b { color: red } #x { color: blue }</style>¤<p id=x class=a>");
    assert_eq!(kinds(&ask(&fixture, ".b")), ["not-matched", "beaten"]);
}

#[test]
fn unknown_names_and_invalid_values() {
    let fixture = Fixture::new("<style>p { colr: red; display: blok; top: 0 }</style>¤<p>");
    let answer = ask(&fixture, "page.html:1");
    assert_eq!(
        kinds(&answer),
        ["unknown-property", "invalid-value", "no-effect"]
    );
    let unwritten = ask(&fixture, "display: blok2");
    assert_eq!(kinds(&unwritten), ["not-written", "invalid-value"]);
}

#[test]
fn what_would_win_against_a_stronger_selector() {
    let fixture = Fixture::new(
        "<style>.a { color: red } #x .a { color: blue }</style><div id=x class=box>¤<p class=a>",
    );
    let answer = ask(&fixture, "color: red");
    assert_eq!(kinds(&answer), ["beaten"]);
    let first = &answer.findings[0].remedies[0];
    assert_eq!(first.kind.as_str(), "selector");
    // Every offered selector is one that matches and wins.
    for remedy in answer.findings[0]
        .remedies
        .iter()
        .filter(|r| r.kind.as_str() == "selector")
    {
        let selector = remedy.selector.as_deref().unwrap();
        let text = format!(
            "<style>#x .a {{ color: blue }} {selector} {{ color: red }}</style><div id=x class=box>¤<p class=a>"
        );
        assert_eq!(
            Fixture::new(&text).computed("color"),
            "rgb(255, 0, 0)",
            "{selector}"
        );
    }
    let last = answer.findings[0].remedies.last().unwrap();
    assert!(last.kind.as_str() == "important" && last.test_only);
}

#[test]
fn what_would_win_against_order_layers_importance_and_attributes() {
    let order = Fixture::new("<style>.a { color: red }\n.a { color: blue }</style>¤<p class=a>");
    assert_eq!(
        remedies(&ask(&order, "color: red"))[0],
        "move it after .a, line 2"
    );
    let layers = Fixture::new(
        "<style>@layer one, two; @layer one { .a { color: red } } @layer two { p { color: blue } }</style>¤<p class=a>",
    );
    let found = remedies(&ask(&layers, "color: red"));
    assert_eq!(
        found[0],
        "move it out of its layer, after line 1 of page.html: what is in no layer is stronger"
    );
    assert!(found[1].starts_with("put it into layer two"), "{found:?}");
    let important =
        Fixture::new("<style>p { color: blue !important } .a { color: red }</style>¤<p class=a>");
    assert_eq!(
        remedies(&ask(&important, "color: red"))[0],
        "take the !important off p, page.html:1:12"
    );
    let attached = Fixture::new("<style>.a { color: red }</style>¤<p class=a style='color: blue'>");
    assert_eq!(
        remedies(&ask(&attached, "color: red"))[0],
        "remove the declaration from the style attribute, page.html:1:51"
    );
}

#[test]
fn a_value_without_effect() {
    let says = |html: &str, what: &str| {
        let answer = ask(&Fixture::new(html), what);
        assert_eq!(
            *kinds(&answer).last().unwrap(),
            "no-effect",
            "{what}: {}",
            answer.verdict
        );
        answer.verdict
    };
    let css =
        |declaration: &str, body: &str| format!("<style>.a {{ {declaration} }}</style>{body}");
    for (declaration, body) in [
        ("width: 10px", "¤<span class=a>"),
        ("gap: 1em", "¤<div class=a>"),
        ("z-index: 3", "¤<div class=a>"),
        ("top: 3px", "¤<div class=a>"),
        ("flex-grow: 2", "<div>¤<p class=a></div>"),
        ("justify-content: center", "¤<div class=a>"),
        ("border-top-width: 3px", "¤<div class=a>"),
        ("object-fit: cover", "¤<div class=a>"),
        ("background-size: cover", "¤<div class=a>"),
        ("vertical-align: middle", "¤<div class=a>"),
        ("animation-name: boat", "¤<div class=a>"),
        ("color: red", "<div hidden>¤<p class=a></div>"),
        ("text-overflow: ellipsis", "¤<div class=a>"),
        ("content: 'x'", "¤<div class=a>"),
    ] {
        assert!(!says(&css(declaration, body), declaration).is_empty());
    }
    // And with what they need, they have one.
    for (declaration, body) in [
        ("width: 10px", "¤<div class=a>"),
        ("gap: 1em", "¤<div class=a style='display: flex'>"),
        ("z-index: 3", "¤<div class=a style='position: relative'>"),
        (
            "z-index: 3",
            "<div style='display: grid'>¤<p class=a></div>",
        ),
        (
            "flex-grow: 2",
            "<div style='display: flex'>¤<p class=a></div>",
        ),
        (
            "border-top-width: 3px",
            "¤<div class=a style='border-style: solid'>",
        ),
        ("object-fit: cover", "¤<img class=a>"),
        ("vertical-align: middle", "<table><tr>¤<td class=a>"),
    ] {
        let answer = ask(&Fixture::new(&css(declaration, body)), declaration);
        assert!(answer.holds, "{declaration}: {}", answer.verdict);
    }
}

#[test]
fn nothing_in_the_way_is_said_too() {
    let fixture = Fixture::new("<style>p { color: red }</style>¤<p>");
    let answer = ask(&fixture, "color: red");
    assert!(answer.holds);
    assert_eq!(
        answer.verdict,
        "Nothing is in the way: it applies, from page.html:1:8"
    );
}

#[test]
fn of_several_rules_with_a_selector_the_one_that_loses_is_meant() {
    let fixture = Fixture::new(
        "<style>h2 { margin: 1px } h2 { color: red; top: 1px } .a { color: teal }</style>¤<h2 class=a>x</h2>",
    );
    let answer = ask(&fixture, "h2");
    assert!(!answer.holds);
    assert!(
        answer
            .verdict
            .contains("color: red is beaten by color: teal of .a"),
        "{}",
        answer.verdict
    );
}

#[test]
fn a_rule_that_matches_and_is_off_comes_before_one_that_does_not_match() {
    let fixture = Fixture::new(
        "<style>.other { color: navy } @media print { h2 { color: navy } }</style>¤<h2>x</h2>",
    );
    let answer = ask(&fixture, "color: navy");
    assert_eq!(kinds(&answer), ["condition"]);
}

#[test]
fn letter_case_counts_in_classes_and_not_in_tags() {
    let fixture = Fixture::new(
        "<!doctype html><style>.Lead { color: red } P { color: red }</style>¤<p class=lead>x</p>",
    );
    assert_eq!(kinds(&ask(&fixture, ".Lead")), ["not-matched"]);
    assert_eq!(kinds(&ask(&fixture, ".lead")), ["not-written"]);
    assert!(ask(&fixture, "p").findings[0].place.is_some());
}

#[test]
fn a_pseudo_element_without_content_has_no_box() {
    let mut fixture = Fixture::new("<style>h1::after { color: red }</style>¤<h1>x</h1>");
    fixture.target.pseudo = Some(fingerpost::selector::PseudoElement::After);
    let answer = ask(&fixture, "color: red");
    assert!(
        answer
            .verdict
            .starts_with("::after has no box: its content is normal"),
        "{}",
        answer.verdict
    );
}

#[test]
fn a_winner_that_is_invalid_at_computed_value_time_has_no_effect() {
    let fixture = Fixture::new("<style>h1 { color: var(--none) }</style>¤<h1>x</h1>");
    let answer = ask(&fixture, "h1");
    assert_eq!(kinds(&answer), ["invalid-value"]);
    assert!(answer.findings[0].effective.is_empty());
}

#[test]
fn one_remedy_for_several_declarations_is_offered_once() {
    let fixture = Fixture::new(
        "<style>h2 { color: red; top: 1px; left: 1px } .a { color: teal; top: 2px; left: 2px }</style>\
         ¤<h2 class=a>x</h2>",
    );
    let sentences = remedies(&ask(&fixture, "h2"));
    let mut once = sentences.clone();
    once.sort();
    once.dedup();
    assert_eq!(once.len(), sentences.len(), "{sentences:?}");
}

#[test]
fn other_rules_say_what_is_in_their_way() {
    let media: String = (1..=7)
        .map(|n| format!("@media (max-width: {n}px) {{ h2 {{ color: navy }} }}"))
        .collect();
    let fixture = Fixture::new(&format!("<style>{media}</style>¤<h2>x</h2>"));
    let answer = ask(&fixture, "color: navy");
    assert_eq!((answer.findings.len(), answer.others.len()), (5, 2));
    assert!(
        answer.others[0]
            .verdict
            .starts_with("@media (max-width: 6px) is false")
    );
}

#[test]
fn a_file_is_found_by_the_end_of_its_name() {
    let fixture = Fixture::new(
        "<link rel=stylesheet href=css/deep/a.css>¤<h2>x</h2>\n--- css/deep/a.css\nh2 { top: 1px }\n",
    );
    assert!(ask(&fixture, "a.css:1").findings[0].place.is_some());
}

#[test]
fn an_animation_is_looked_for_by_the_name_in_its_shorthand() {
    let html = "<!doctype html><style>@keyframes drift { to { top: 1px } }</style><p>¤<b>x</b></p>";
    let fixture = Fixture::new(html);
    let known = ask(&fixture, "animation: drift 2s infinite");
    assert!(!kinds(&known).contains(&"no-effect"), "{:?}", kinds(&known));
    let missing = ask(&fixture, "animation-name: sail");
    let obstacles = &missing.findings[0].obstacles;
    let told = obstacles
        .iter()
        .any(|o| o.sentence == "no @keyframes rule of this page is called sail");
    assert!(told, "{obstacles:?}");
}
