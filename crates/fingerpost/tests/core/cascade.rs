//! The cascade by behavior: who wins, and on which criterion the others lose.

use crate::support::{Fixture, wide};

#[test]
fn two_selectors_of_one_weight_are_decided_by_their_order() {
    let fixture = Fixture::new(
        "<link rel=stylesheet href=a.css>¤<h2 class='title today'>
--- a.css
.today { color: red }
.title { color: blue }
",
    );
    assert_eq!(
        fixture.story("color"),
        [
            ".title {color: blue} wins",
            ".today {color: red} loses on order of appearance: declared earlier (line 1; the winner is on line 2)",
        ]
    );
}

#[test]
fn an_embedded_sheet_wins_only_where_it_stands_later() {
    let later = Fixture::new(
        "<link rel=stylesheet href=a.css><style>p { color: red }</style>¤<p>
--- a.css
p { color: blue }
",
    );
    assert_eq!(later.computed("color"), "rgb(255, 0, 0)");
    let earlier = Fixture::new(
        "<style>p { color: red }</style><link rel=stylesheet href=a.css>¤<p>
--- a.css
p { color: blue }
",
    );
    assert_eq!(
        earlier.story("color")[1],
        "p {color: red} loses on order of appearance: page.html comes before a.css on this page"
    );
}

#[test]
fn a_style_attribute_beats_every_rule_but_an_important_one() {
    let fixture = Fixture::new(
        "<style>#a { color: red } p { color: blue !important }</style>\
         ¤<p id=a style='color: green; margin: 1px'>",
    );
    assert_eq!(
        fixture.story("color"),
        [
            "p {color: blue} wins",
            "style attribute {color: green} loses on origin and importance: without !important against !important",
            "#a {color: red} loses on origin and importance: without !important against !important",
        ]
    );
    let plain = Fixture::new("<style>#a { color: red }</style>¤<p id=a style='color: green'>");
    assert_eq!(
        plain.story("color")[1],
        "#a {color: red} loses on element-attached styles: a rule against the style attribute"
    );
}

#[test]
fn layers_come_before_specificity() {
    let fixture = Fixture::new(
        "<style>@layer a, b; @layer b { p { color: blue } } @layer a { #x { color: red } }
         p { color: green }</style>¤<p id=x>",
    );
    assert_eq!(
        fixture.story("color"),
        [
            "p {color: green} wins",
            "p {color: blue} loses on layers: layer b against no layer",
            "#x {color: red} loses on layers: layer a against no layer",
        ]
    );
    let important = Fixture::new(
        "<style>@layer a { p { color: red !important } } #x { color: green !important }</style>¤<p id=x>",
    );
    assert_eq!(important.computed("color"), "rgb(255, 0, 0)");
}

#[test]
fn nested_layers_stand_before_what_is_directly_in_the_outer_one() {
    let fixture = Fixture::new(
        "<style>@layer a { p { color: red } @layer b { p { color: blue } } }</style>¤<p>",
    );
    assert_eq!(fixture.computed("color"), "rgb(255, 0, 0)");
}

#[test]
fn imports_stand_before_the_sheet_that_imports_them() {
    let fixture = Fixture::new(
        "<link rel=stylesheet href=a.css>¤<p>
--- a.css
@import 'b.css';
@import 'c.css' layer(low);
p { color: red }
--- b.css
p { color: blue }
--- c.css
p { color: green; margin: 3px }
",
    );
    assert_eq!(
        fixture.story("color"),
        [
            "p {color: red} wins",
            "p {color: blue} loses on order of appearance: b.css comes before a.css on this page",
            "p {color: green} loses on layers: layer low against no layer",
        ]
    );
    assert_eq!(fixture.computed("margin-top"), "3px");
}

#[test]
fn a_sheet_that_imports_itself_or_is_missing_is_said() {
    let fixture = Fixture::new(
        "<link rel=stylesheet href=a.css><link rel=stylesheet href=gone.css>¤<p>
--- a.css
@import 'b.css';
--- b.css
@import 'a.css';
p { color: red }
",
    );
    assert_eq!(fixture.computed("color"), "rgb(255, 0, 0)");
    let failures: Vec<String> = fixture
        .trace()
        .failures
        .iter()
        .map(|f| format!("{} {} {}", f.place, f.url, f.reason))
        .collect();
    assert_eq!(
        failures,
        [
            "b.css:1:9 a.css it imports itself",
            "page.html:1:59 gone.css no such file: gone.css"
        ]
    );
}

#[test]
fn media_queries_follow_the_viewport() {
    let text =
        "<style>p { color: red } @media (max-width: 600px) { p { color: blue } }</style>¤<p>";
    assert_eq!(
        Fixture::under(text, wide(500.0)).computed("color"),
        "rgb(0, 0, 255)"
    );
    assert_eq!(
        Fixture::under(text, wide(900.0)).story("color")[1],
        "p {color: blue} out: @media (max-width: 600px) is false: width is 900px, not at most 600px"
    );
}

#[test]
fn what_is_not_declared_is_inherited_or_initial() {
    let fixture = Fixture::new(
        "<style>body { color: red; border: 1px solid; font-size: 20px }</style><div>¤<p style='font-size: 1.5em'>",
    );
    let contest = fixture.contest("color");
    assert_eq!(contest.value.source.as_str(), "inherited");
    assert_eq!(contest.value.inherited_from.unwrap().tag, "body");
    assert_eq!(contest.value.computed, "rgb(255, 0, 0)");
    assert_eq!(fixture.computed("font-size"), "30px");
    assert_eq!(
        fixture.contest("border-top-style").value.source.as_str(),
        "initial"
    );
}

#[test]
fn the_browsers_own_sheet_is_named() {
    let fixture = Fixture::new("¤<h1>");
    let contest = fixture.contest("margin-top");
    assert_eq!(contest.value.computed, "21.44px");
    assert_eq!(
        contest.contenders[0].declaration.rule.arrival.as_str(),
        "user-agent"
    );
}

#[test]
fn shorthands_and_longhands_meet_in_one_contest() {
    let fixture = Fixture::new(
        "<style>p { background-size: cover; background: red; padding: 1px 2px; padding-left: 3px }</style>¤<p>",
    );
    assert_eq!(
        fixture.story("background-size")[1],
        "p {background-size: cover} loses on order of appearance: declared earlier on the same line (column 12; the winner is at column 36)"
    );
    assert_eq!(fixture.computed("padding-left"), "3px");
    assert_eq!(fixture.computed("padding-right"), "2px");
}

#[test]
fn variables_are_followed_and_named() {
    let fixture = Fixture::new(
        "<style>:root { --sea: #0b3d5c; --brand: var(--sea) } .x { --brand: var(--none, navy) }
         p { color: var(--brand) }</style><div class=x>¤<p>",
    );
    let value = fixture.contest("color").value;
    assert_eq!(value.computed, "rgb(0, 0, 128)");
    let names: Vec<&str> = value.variables.iter().map(|v| v.name.as_str()).collect();
    assert_eq!(names, ["--brand", "--none"]);
    assert_eq!(value.variables[0].element.tag, "div");
}

#[test]
fn cycles_and_missing_variables_are_invalid_at_computed_value_time() {
    let fixture = Fixture::new(
        "<style>:root { color: red; --a: var(--b); --b: var(--a) } p { color: blue; color: var(--a) }</style>¤<p>",
    );
    let contest = fixture.contest("color");
    assert_eq!(contest.value.computed, "rgb(255, 0, 0)");
    assert!(
        contest
            .value
            .fell_through
            .unwrap()
            .contains("--a has no value here")
    );
}

#[test]
fn doubling_variables_end() {
    let mut css = String::from("--v0: 1px 1px;");
    for at in 1..60 {
        css.push_str(&format!("--v{at}: var(--v{0}) var(--v{0});", at - 1));
    }
    let fixture = Fixture::new(&format!(
        "<style>:root {{ {css} }} p {{ margin: var(--v59) }}</style>¤<p>"
    ));
    assert_eq!(fixture.computed("margin-left"), "0px");
}

#[test]
fn revert_hands_over_to_the_browsers_sheet() {
    let fixture = Fixture::new("<style>h1 { margin: 0; margin: revert }</style>¤<h1>");
    assert_eq!(fixture.computed("margin-top"), "21.44px");
}

#[test]
fn invalid_and_unknown_declarations_stay_and_say_why() {
    let fixture = Fixture::new(
        "<style>p { color: #12345; backgorund: red; margin: 1px 2px 3px 4px 5px }</style>¤<p>",
    );
    let rules = fixture.trace().rules;
    let remarks: Vec<&str> = rules[0]
        .declarations
        .iter()
        .map(|d| d.remark.as_deref().unwrap())
        .collect();
    assert_eq!(
        remarks,
        [
            "invalid value: '#12345' does not fit color; expected <color>",
            "no property has this name; do you mean 'background'?",
            "invalid value: '5px' does not fit margin; expected nothing more",
        ]
    );
}

#[test]
fn pseudo_elements_have_their_own_contests() {
    let fixture = Fixture::new(
        "<style>p { color: red } p::before { content: 'x'; color: blue } p:after { top: 0 }</style>¤<p>",
    );
    let trace = fixture.trace();
    assert_eq!(trace.pseudo_elements, ["::before", "::after"]);
    assert_eq!(fixture.story("color").len(), 1);
}

#[test]
fn nested_rules_and_their_conditions() {
    let fixture = Fixture::new(
        "<style>.a { color: red; & > b { color: blue } @media screen { top: 1px; b & { left: 2px } } }</style>\
         <div class=a>¤<b>",
    );
    assert_eq!(fixture.computed("color"), "rgb(0, 0, 255)");
    let parent = Fixture::new(
        "<style>.a { color: red; @media screen { top: 1px } @media print { top: 2px } }</style>¤<div class=a>",
    );
    assert_eq!(parent.computed("top"), "1px");
}

#[test]
fn a_selector_that_is_not_matched_yet_says_so() {
    let fixture = Fixture::new(
        "<style>svg|a { top: 0 } p:muted { color: red } p:wings { top: 0 } p { left: 0 }</style>¤<p>",
    );
    let unread: Vec<String> = fixture
        .trace()
        .unread
        .iter()
        .map(|u| format!("{}: {}", u.selector, u.reason))
        .collect();
    assert_eq!(
        unread,
        [
            "svg|a: its selector is invalid: no @namespace rule declares the prefix 'svg'; the whole rule is dropped",
            "p:muted: :muted is not matched yet",
            "p:wings: its selector is invalid: no pseudo-class :wings exists; the whole rule is dropped",
        ]
    );
}

#[test]
fn a_custom_property_that_is_initial_lets_the_fallback_in() {
    let fixture = Fixture::new(
        "<style>:root { --a: red; --b: red } p { --a: initial; --b: inherit; color: var(--a, blue); \
         background: var(--b, blue) } b { color: var(--a, green) }</style>¤<p><b>",
    );
    assert_eq!(fixture.computed("color"), "rgb(0, 0, 255)");
    assert_eq!(fixture.computed("background-color"), "rgb(255, 0, 0)");
}
