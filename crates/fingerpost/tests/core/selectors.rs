//! What selectors match, on one small page: each line a selector and the ids it matches.

use crate::support::Fixture;
use fingerpost::page::Page;
use fingerpost::selector::{Matcher, SelectorList, Specificity};
use fingerpost::text::Text;

const PAGE: &str = "<!doctype html>
<main id=m class='Wide page'>
  <h1 id=h lang=en-GB>Title</h1>
  <p id=p1 class=lead data-kind='a b c'>One <a id=l1 href=/x>link</a></p>
  <p id=p2 title='Sea-Wall'><a id=l2>no link</a><!-- c --></p>
  <ul id=u><li id=i1>1</li><li id=i2 class=x>2</li><li id=i3>3</li><li id=i4 class=x>4</li><li id=i5>5</li></ul>
  <form id=f><input id=n1 type=CHECKBOX checked required><input id=n2 type=text placeholder=x disabled>
    <fieldset id=fs disabled><legend id=lg><input id=n3></legend><input id=n4></fieldset>
    <select id=s><option id=o1>a<option id=o2 selected>b</select><button id=bt>ok</button></form>
  <div id=e1></div><div id=e2><!-- only a comment --></div><div id=e3> </div>
  <x-boat id=xb></x-boat><p id=p3 dir=rtl><bdi id=bd>abc</bdi></p>
</main>";

#[track_caller]
fn matches(selector: &str, wanted: &str) {
    let fixture = Fixture::new(PAGE);
    let list = SelectorList::parse(selector).unwrap();
    let document = fixture.page.document();
    let matcher = Matcher::new(document, fixture.page.states());
    let found: Vec<&str> = document
        .elements()
        .iter()
        .filter(|e| matcher.matches_list(&list, **e))
        .filter_map(|e| document.element(*e).id())
        .collect();
    assert_eq!(found.join(" "), wanted, "{selector}");
}

#[test]
fn types_classes_ids_and_attributes() {
    matches("H1", "h");
    matches(".page", "m");
    matches(".wide", "");
    matches("#u", "u");
    matches("[data-kind~=b]", "p1");
    matches("[lang|=en]", "h");
    matches("[title^=Sea]", "p2");
    matches("[title$=Wall]", "p2");
    matches("[title*=a-W]", "p2");
    matches("[title='sea-wall']", "");
    matches("[title='sea-wall' i]", "p2");
    matches("[type=checkbox]", "n1");
    matches("[type=checkbox s]", "");
    matches("*|h1", "h");
    matches("|h1", "");
    matches("[title*='']", "");
}

#[test]
fn combinators() {
    matches("main a", "l1 l2");
    matches("main > a", "");
    matches("h1 + p", "p1");
    matches("h1 ~ p", "p1 p2 p3");
    matches("main > p > a", "l1 l2");
    matches("ul li + li ~ li", "i3 i4 i5");
    matches("html body main ul > li:first-child", "i1");
}

#[test]
fn structure() {
    matches("li:nth-child(2n+1)", "i1 i3 i5");
    matches("li:nth-child(-n+2)", "i1 i2");
    matches("li:nth-last-child(2)", "i4");
    matches("li:nth-child(even of .x)", "i4");
    matches("p:nth-of-type(2)", "p2");
    matches("p:last-of-type", "p3");
    matches("a:only-child", "l1 l2");
    matches("h1:only-of-type", "h");
    matches("div:empty", "e1 e2");
    matches(":root > body > :first-child", "m");
    matches("li:nth-child(n+2):nth-child(-n+3)", "i2 i3");
}

#[test]
fn functions() {
    matches(":is(h1, p.lead, :unknown)", "h p1");
    matches("li:not(.x, :first-child)", "i3 i5");
    matches(":where(ul) .x", "i2 i4");
    matches("p:has(> a[href])", "p1");
    matches("h1:has(+ p)", "h");
    matches("li:has(~ .x)", "i1 i2 i3");
    matches("main:has(.lead a)", "m");
}

#[test]
fn states_from_the_markup() {
    matches(":link", "l1");
    matches("a:any-link", "l1");
    matches("input:checked, option:checked", "n1 o2");
    matches(":disabled", "n2 fs n4");
    matches("input:enabled", "n1 n3");
    matches(":required", "n1");
    matches(":placeholder-shown", "n2");
    matches(":default", "n1 o2 bt");
    matches("p:lang(en)", "");
    matches("h1:lang('*-gb')", "h");
    matches("p:dir(rtl)", "p3");
    matches("bdi:dir(ltr)", "bd");
    matches(":not(:defined)", "xb");
    matches("a:hover", "");
}

#[test]
fn specificity_counts_the_heaviest_argument() {
    let weight = |text: &str| SelectorList::parse(text).unwrap().selectors[0].specificity;
    assert_eq!(weight("*"), Specificity::new(0, 0, 0));
    assert_eq!(weight("ul li::before"), Specificity::new(0, 0, 3));
    assert_eq!(weight("#a:not(.b, #c d)"), Specificity::new(2, 0, 1));
    assert_eq!(weight(":where(#a) p"), Specificity::new(0, 0, 1));
    assert_eq!(
        weight("li:nth-child(2 of .a, #b)"),
        Specificity::new(1, 1, 1)
    );
    assert_eq!(weight("a:hover:not([href])"), Specificity::new(0, 2, 1));
}

#[test]
fn what_is_no_selector_says_where() {
    let error = |text: &str| {
        let error = SelectorList::parse(text).unwrap_err();
        format!("{}: {}", u32::from(error.span.start()), error.message)
    };
    assert_eq!(error("a >"), "2: expected a selector after the combinator");
    assert_eq!(error("a,,b"), "2: expected a selector here, found none");
    assert_eq!(error("a."), "1: expected a class name after .");
    assert_eq!(
        error("a:wings"),
        "1: no pseudo-class :wings exists; the whole rule is dropped"
    );
    assert_eq!(
        error("li:nth-child(x)"),
        "2: 'x' is not An+B; expected something like 2n+1, odd or 3"
    );
    assert!(error("a{}").contains("'{' is not expected"));
    assert!(error("").contains("expected a selector"));
}

#[test]
fn what_is_open_at_the_end_of_the_input_is_closed_there() {
    matches("[title='Sea-Wall'", "p2");
    matches("[title=\"Sea-Wall\"", "p2");
}

/// Every way in which a rule can mention a class is a use of it.
#[test]
fn classes_are_found_wherever_a_selector_mentions_them() {
    let ways = [
        ".a { top: 0 }",
        ":is(p, .a) { top: 0 }",
        ":where(.a) { top: 0 }",
        "p:not(.a) { top: 0 }",
        "p:has(> .a) { top: 0 }",
        "p:nth-child(1 of .a) { top: 0 }",
        "p:nth-last-child(2n + 1 of b, .a) { top: 0 }",
        "[class~=a] { top: 0 }",
        "[class=a] { top: 0 }",
        ".a { &:hover { top: 0 } }",
        "p { .a & { top: 0 } }",
        "@scope (.a) { p { top: 0 } }",
        "@scope (p) to (.a) { b { top: 0 } }",
        "@supports selector(.a) { p { top: 0 } }",
        "@supports (not selector(p > .a)) { p { top: 0 } }",
        ":host(.a) { top: 0 }",
        ":host-context(.a) { top: 0 }",
        "::slotted(.a) { top: 0 }",
        "@media print { .a { top: 0 } }",
        "@layer x { .a::before { top: 0 } }",
    ];
    for css in ways {
        let html = format!("<style>{css}</style><p>Boats");
        let page = Page::new(Text::new("a.html", html));
        let answer = page.ask().classes("");
        let found = answer.classes.iter().find(|class| class.name == "a");
        let found = found.unwrap_or_else(|| panic!("{css}"));
        assert!(found.rules > 0 && found.place.is_some(), "{css}");
    }
    // What is not a class of that name is none.
    for css in [
        "#a { top: 0 }",
        "a { top: 0 }",
        "[id~=a] { top: 0 }",
        "[class^=a] { top: 0 }",
    ] {
        let page = Page::new(Text::new("a.html", format!("<style>{css}</style><p>Boats")));
        assert!(page.ask().classes("").classes.is_empty(), "{css}");
    }
}
