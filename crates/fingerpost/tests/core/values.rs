//! What values result in, by behavior: the cases that a browser engine agrees with are in the crate
//! `fingerpost-proof`; these say why.

use crate::support::{Fixture, wide};
use fingerpost::environment::Environment;
use fingerpost::page::PropertyName;

#[track_caller]
fn comes_to(html: &str, lines: &str) {
    let fixture = Fixture::new(html);
    for line in lines.lines().filter(|l| !l.trim().is_empty()) {
        let (property, wanted) = line.trim().split_once(": ").unwrap();
        assert_eq!(fixture.computed(property), wanted, "{property} in {html}");
    }
}

#[test]
fn relative_lengths() {
    comes_to(
        "<style>html { font-size: 10px } div { font-size: 2em } p { font-size: 1.5em; margin: 2em 3rem; \
         line-height: 1.5; top: 10vw; left: 5vmin; padding: 1lh; text-indent: 50% }</style><div>¤<p>",
        "font-size: 30px
         margin-top: 60px
         margin-left: 30px
         line-height: 45px
         top: 128px
         left: 40px
         padding-top: 45px
         text-indent: 50%",
    );
}

#[test]
fn math() {
    comes_to(
        "<style>p { width: calc(100% - 2em * 3); height: max(1px, 2em, 10vh); margin-left: clamp(1px, 5px, 3px); \
         padding-left: min(10%, 20px); opacity: calc(1 / 4); top: calc(50% + 25%); left: round(7px, 5px); \
         z-index: calc(2 * 3) }</style>¤<p>",
        "width: calc(100% - 96px)
         height: 80px
         margin-left: 3px
         padding-left: min(10%, 20px)
         opacity: 0.25
         top: 75%
         left: 5px
         z-index: 6",
    );
}

#[test]
fn colors() {
    comes_to(
        "<style>p { color: #0B3D5C; background: currentcolor; border: 1px solid rgb(0 0 0 / 20%); \
         outline: 1px solid; text-shadow: 1px 2px; caret-color: hsl(120deg 100% 25%) }</style>¤<p>",
        "color: rgb(11, 61, 92)
         background-color: rgb(11, 61, 92)
         border-top-color: rgba(0, 0, 0, 0.2)
         outline-color: rgb(11, 61, 92)
         text-shadow: rgb(11, 61, 92) 1px 2px 0px
         caret-color: rgb(0, 128, 0)",
    );
}

#[test]
fn currentcolor_is_inherited_as_a_keyword() {
    comes_to(
        "<style>div { color: red; text-emphasis-color: currentcolor } p { color: blue }</style><div>¤<p>",
        "text-emphasis-color: rgb(0, 0, 255)",
    );
}

#[test]
fn line_heights_are_inherited_as_numbers_and_shown_in_px() {
    comes_to(
        "<style>div { line-height: 1.5; font-size: 10px } p { font-size: 20px }</style><div>¤<p>",
        "line-height: 30px",
    );
    comes_to(
        "<style>div { line-height: 150%; font-size: 10px } p { font-size: 20px }</style><div>¤<p>",
        "line-height: 15px",
    );
}

#[test]
fn boxes_are_adjusted_to_what_they_stand_in() {
    comes_to("<div style='display: flex'>¤<span>", "display: block");
    comes_to(
        "¤<span style='float: left; display: inline-flex'>",
        "display: flex",
    );
    comes_to(
        "¤<span style='position: absolute; float: right'>",
        "display: block
         float: none",
    );
    comes_to(
        "<div style='display: grid'><div style='display: contents'>¤<i>",
        "display: block",
    );
    comes_to("¤<p style='overflow-x: hidden'>", "overflow-y: auto");
    comes_to(
        "¤<p style='border-top-width: 9px; border-left: 2px solid'>",
        "border-top-width: 0px
         border-left-width: 2px",
    );
}

#[test]
fn fonts() {
    comes_to(
        "<style>div { font: 300 10px A } p { font-weight: bolder; font-size: larger; font-family: 'Two Words', \"One\", SERIF; \
         font-stretch: condensed }</style><div>¤<p>",
        "font-weight: 400
         font-size: 12px
         font-family: \"Two Words\", One, serif
         font-stretch: 75%",
    );
    comes_to("<b>¤<b>", "font-weight: 900");
}

#[test]
fn urls_begin_at_the_sites_root() {
    comes_to(
        "<link rel=stylesheet href=css/a.css>¤<p style='list-style-image: url(b.svg)'>
--- css/a.css
p { background: url(../images/a.svg), url(#c); mask-image: url(//else.example/d.svg) }
",
        "background-image: url(\"/images/a.svg\"), url(\"#c\")
         list-style-image: url(\"/b.svg\")
         mask-image: url(\"//else.example/d.svg\")",
    );
}

#[test]
fn attributes_of_the_markup_are_weaker_than_any_sheet() {
    comes_to(
        "¤<img width=60 height=30>",
        "width: 60px
         height: 30px
         aspect-ratio: auto 60 / 30",
    );
    let fixture = Fixture::new("<style>@layer a { * { width: 10% } }</style>¤<img width=60>");
    assert_eq!(
        fixture.story("width"),
        [
            "* {width: 10%} wins",
            "presentational attribute {width: 60px} loses on origin and importance: presentational attribute against author",
        ]
    );
    comes_to(
        "<table cellpadding=3 border=2><tr>¤<td bgcolor=#ffeecc nowrap>",
        "padding-left: 3px
         border-top-style: inset
         background-color: rgb(255, 238, 204)
         text-wrap-mode: nowrap",
    );
    comes_to(
        "<svg>¤<circle cx=5 r=2 fill=#123 stroke-width=3>",
        "cx: 5px
         r: 2px
         fill: rgb(17, 34, 51)
         stroke-width: 3px",
    );
    comes_to(
        "<style>img { width: revert }</style>¤<img width=60>",
        "width: auto",
    );
}

#[test]
fn logical_and_physical_sides_are_one() {
    comes_to(
        "<style>p { direction: rtl; margin-left: 1px; margin-inline-start: 2px; margin-right: 3px }</style>¤<p>",
        "margin-right: 3px
         margin-inline-start: 3px
         margin-left: 1px",
    );
}

#[test]
fn the_environment_changes_the_answer() {
    let html = "<style>@media print { p { color: red } } @media (prefers-color-scheme: dark) { p { color: blue } } \
                @media (min-resolution: 2dppx) { p { color: green } }</style>¤<p>";
    let under = |change: &dyn Fn(&mut Environment)| {
        let mut environment = Environment::default();
        change(&mut environment);
        Fixture::under(html, environment).computed("color")
    };
    assert_eq!(under(&|_| {}), "rgb(0, 0, 0)");
    assert_eq!(under(&|c| c.media = "print".into()), "rgb(255, 0, 0)");
    let dark = ("prefers-color-scheme".to_owned(), "dark".to_owned());
    assert_eq!(
        under(&|c| c.features.extend([dark.clone()])),
        "rgb(0, 0, 255)"
    );
    assert_eq!(under(&|c| c.resolution = 2.0), "rgb(0, 128, 0)");
    let vw = Fixture::under("¤<p style='width: 10vw'>", wide(640.0));
    assert_eq!(vw.computed("width"), "64px");
}

#[test]
fn values_lists_what_is_set_and_filters_it() {
    let fixture = Fixture::new(
        "<style>body { color: red; --gap: 1px } p { margin: 2px var(--gap); padding: bad }</style>¤<p>",
    );
    let ask = fixture.page.ask();
    let all = ask.values(&fixture.target, None, false);
    let names: Vec<&str> = all.values.iter().map(|v| v.property.as_str()).collect();
    assert_eq!(
        names,
        [
            "color",
            "display",
            "margin-bottom",
            "margin-left",
            "margin-right",
            "margin-top",
            "unicode-bidi",
            "--gap"
        ]
    );
    let color = &all.values[0];
    assert_eq!(
        (color.source.as_str(), color.place.as_ref().unwrap().line),
        ("inherited", 1)
    );
    let some = ask.values(&fixture.target, Some("LEFT"), false);
    assert_eq!(some.values.len(), 1);
    let everything = ask.values(&fixture.target, None, true);
    assert!(everything.values.len() > 500);
}

#[test]
fn each_element_gives_a_line() {
    let fixture = Fixture::new("<p style='top: 1px'>a<b>b</b>");
    let elements = fixture.page.document().elements();
    let mut lines = Vec::new();
    fixture
        .page
        .ask()
        .values_of_each(&elements[3..], false, |line| {
            lines.push(line);
        });
    assert_eq!(lines.len(), 2);
    assert_eq!((lines[0].index, lines[0].tag.as_str()), (3, "p"));
    assert_eq!(lines[0].values["top"], "1px");
    assert_eq!(lines[1].values["font-weight"], "700");
}

#[test]
fn unknown_names_are_no_properties() {
    assert!(PropertyName::named("colour").is_none());
    assert!(PropertyName::named("--").is_none());
    assert_eq!(PropertyName::named("--X").unwrap().to_string(), "--X");
    assert_eq!(
        PropertyName::named("WORD-WRAP").unwrap().to_string(),
        "overflow-wrap"
    );
}
