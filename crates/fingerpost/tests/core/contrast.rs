//! Contrast of texts: the guidelines' formula, what lies after a text, and what is not counted.

use crate::support::Fixture;
use fingerpost::question::contrast::ContrastAnswer;
use fingerpost::selector::PseudoElement;

#[track_caller]
fn contrast(text: &str) -> ContrastAnswer {
    asked(text).expect("it has text")
}

fn asked(text: &str) -> Option<ContrastAnswer> {
    let fixture = Fixture::new(text);
    fixture.page.ask().contrast(&fixture.target)
}

/// Ratios that are known from the guidelines' own formula (WCAG 2.2, "contrast ratio").
#[test]
fn known_ratios() {
    for (color, background, ratio) in [
        ("black", "white", 21.0),
        ("white", "white", 1.0),
        ("#777777", "white", 4.47),
        ("#767676", "white", 4.54),
        ("#595959", "white", 7.0),
        ("red", "white", 3.99),
        ("white", "blue", 8.59),
        ("rgb(0 128 0)", "#fff", 5.13),
    ] {
        let html =
            format!("<style>p {{ color: {color}; background: {background} }}</style>¤<p>Boats");
        let found = contrast(&html).ratio;
        assert!(
            (found - ratio).abs() < 0.011,
            "{color} on {background}: {found}"
        );
    }
}

#[test]
fn large_text_needs_less() {
    for (font, large) in [
        ("font-size: 16px", false),
        ("font-size: 23.9px", false),
        ("font-size: 24px", true),
        ("font: bold 18px serif", false),
        ("font: bold 18.7px serif", true),
        ("font: 600 20px serif", false),
    ] {
        let html = format!("<style>p {{ {font}; color: #8a8a8a }}</style>¤<p>Boats");
        let answer = contrast(&html);
        assert_eq!(answer.large, large, "{font}");
        assert_eq!(answer.needed_aa, if large { 3.0 } else { 4.5 }, "{font}");
        assert_eq!(answer.passes_aa(), large, "{font}: {}", answer.ratio);
        assert!(!answer.passes_aaa());
    }
}

#[test]
fn what_lies_behind_is_put_together() {
    let over = contrast(
        "<style>main { background: black } div { background: rgb(255 255 255 / .5) } p { color: white }</style>\
         <main><div>¤<p>Boats",
    );
    assert_eq!(over.background, "rgb(128, 128, 128)");
    assert_eq!(over.color, "rgb(255, 255, 255)");
    assert!(over.not_counted.is_empty());
    // A color that lets the background through is its result over it.
    let through =
        contrast("<style>p { color: rgb(0 0 0 / .5); background: white }</style>¤<p>Boats");
    assert_eq!(through.color, "rgb(128, 128, 128)");
}

#[test]
fn what_is_not_counted_is_said() {
    let image = contrast(
        "<style>.a { background: url(a.png) white } p { opacity: .5 }</style><div class=a>¤<p>Boats",
    );
    assert_eq!(
        image.not_counted,
        ["the opacity of p", "the background image of div.a"]
    );
    let bare = contrast("¤<p>Boats");
    assert_eq!(bare.ratio, 21.0);
    assert_eq!(
        bare.not_counted,
        ["the browser's own color under the page, taken as white"]
    );
    // Under an opaque color nothing matters.
    let hidden = contrast(
        "<style>div { background: url(a.png) } p { background: white }</style><div>¤<p>Boats",
    );
    assert!(hidden.not_counted.is_empty(), "{:?}", hidden.not_counted);
}

#[test]
fn only_text_has_contrast() {
    assert_eq!(asked("¤<div><p>Boats"), None);
    assert_eq!(asked("¤<p> \n "), None);
    assert!(asked("¤<p>Boats <em>and</em>").is_some());
}

#[test]
fn a_pseudo_element_has_contrast_where_it_has_text() {
    let html = "<style>p::before { content: \"!\"; color: white; background: black } p::after { content: \"\" }\
                </style>¤<p>Boats";
    let mut fixture = Fixture::new(html);
    fixture.target.pseudo = Some(PseudoElement::Before);
    let before = fixture.page.ask().contrast(&fixture.target).unwrap();
    assert_eq!(
        (before.ratio, before.color.as_str()),
        (21.0, "rgb(255, 255, 255)")
    );
    fixture.target.pseudo = Some(PseudoElement::After);
    assert_eq!(fixture.page.ask().contrast(&fixture.target), None);
}
