//! Space: what the browser measured, the declaration after each side, and a sentence for a size that
//! is not what was written.
//!
//! The figure is two rulers, one across and one down. Each has the element's margin, border, padding and
//! content in the order in which they lie there, with their numbers.

use fingerpost::page::{Page, PropertyName, Target};
use fingerpost::question::ElementSummary;
use fingerpost::question::codes::{ContenderStanding, ValueFrom};
use fingerpost::question::why::DeclarationAnswer;
use maud::{Markup, html};
use serde::Deserialize;

use super::place;
use crate::view::label::label;

/// What the agent measured, in CSS px. Sides go round from the top.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "camelCase")]
pub(crate) struct Measured {
    /// The border box.
    pub width: f64,
    pub height: f64,
    pub margin: [f64; 4],
    pub border: [f64; 4],
    pub padding: [f64; 4],
    pub box_sizing: String,
    pub display: String,
    /// The display of the parent, for what a flex or grid container does.
    #[serde(default)]
    pub parent_display: String,
    #[serde(default)]
    pub around: Vec<Neighbor>,
    /// The fonts asked for, and the first of them that the browser has.
    #[serde(default)]
    pub font_asked: String,
    #[serde(default)]
    pub font_used: String,
}

/// The space to a neighbor, and whose it is.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "camelCase")]
pub(crate) struct Neighbor {
    /// `above` or `below`.
    pub side: String,
    /// Its handle; none for an element that a script made.
    pub handle: Option<u32>,
    pub gap: f64,
    /// Its own margin on that side.
    pub margin: f64,
}

const SIDES: [&str; 4] = ["top", "right", "bottom", "left"];

pub(crate) fn space(page: &Page, target: &Target, measured: &Measured) -> Markup {
    let sentences = sentences(page, target, measured);
    html! {
        @for sentence in &sentences { p.note { (sentence) } }
        (ruler("Horizontal", measured, [3, 1], measured.width))
        (ruler("Vertical", measured, [0, 2], measured.height))
        table.sides {
            caption { "The declaration that sets each side" }
            thead { tr { th { "Side" } th { "px" } th { "Set by" } } }
            tbody {
                @for (kind, values) in kinds(measured) {
                    @for (side, value) in SIDES.iter().zip(values) {
                        @if value != 0.0 { (side_row(page, target, kind, side, value)) }
                    }
                }
                @for (property, value) in [("width", content(measured)[0]), ("height", content(measured)[1])] {
                    (row(page, target, property, value))
                }
            }
        }
        @if !measured.font_used.is_empty() {
            p.font { "Font: " strong { (measured.font_used) }
                @if measured.font_used != first_family(&measured.font_asked) {
                    span.quiet { " (asked for: " (measured.font_asked) ")" }
                }
            }
        }
        p #distance.note hidden {}
    }
}

fn kinds(measured: &Measured) -> [(&'static str, [f64; 4]); 3] {
    [
        ("margin", measured.margin),
        ("border", measured.border),
        ("padding", measured.padding),
    ]
}

fn first_family(families: &str) -> &str {
    let first = families.split(',').next().unwrap_or(families);
    first.trim().trim_matches(['"', '\''])
}

fn content(measured: &Measured) -> [f64; 2] {
    let inner = |whole: f64, sides: [usize; 2]| {
        sides.iter().fold(whole, |rest, side| {
            rest - measured.border[*side] - measured.padding[*side]
        })
    };
    [
        inner(measured.width, [3, 1]),
        inner(measured.height, [0, 2]),
    ]
}

/// `16`, `16.5`
fn px(number: f64) -> String {
    let rounded = (number * 100.0).round() / 100.0;
    format!("{rounded}")
}

/// The width of the drawn ruler, and what a segment has at least, so that its number fits.
const RULER: f64 = 400.0;
const LEAST: f64 = 26.0;

fn ruler(name: &str, measured: &Measured, sides: [usize; 2], whole: f64) -> Markup {
    let [from, to] = sides;
    let inner = content(measured)[usize::from(from == 0)];
    let segments: Vec<(&str, usize, f64)> = [
        ("margin", from, measured.margin[from]),
        ("border", from, measured.border[from]),
        ("padding", from, measured.padding[from]),
        ("content", from, inner),
        ("padding", to, measured.padding[to]),
        ("border", to, measured.border[to]),
        ("margin", to, measured.margin[to]),
    ]
    .into_iter()
    .filter(|(kind, _, size)| *kind == "content" || *size != 0.0)
    .collect();
    let total: f64 = segments
        .iter()
        .map(|(_, _, size)| size.abs())
        .sum::<f64>()
        .max(1.0);
    let free = (RULER - LEAST * segments.len() as f64).max(0.0);
    let mut at = 0.0;
    let drawn: Vec<(f64, f64, &(&str, usize, f64))> = segments
        .iter()
        .map(|segment| {
            let (from, width) = (at, LEAST + free * segment.2.abs() / total);
            at += width;
            (from, width, segment)
        })
        .collect();
    html! {
        figure.ruler {
            figcaption { (name) ": " strong { (px(whole)) } " px from border to border" }
            svg viewBox="0 0 400 46" role="img" aria-label=(spoken(name, &segments)) {
                @for (at, width, (kind, side, size)) in &drawn {
                    @let middle = *at + *width / 2.0;
                    g.segment data-kind=(kind) {
                        title { (spoken_segment(kind, *side, *size)) }
                        rect x=(px(*at)) y="14" width=(px(*width)) height="18" {}
                        text x=(px(middle)) y="27" text-anchor="middle" { (px(*size)) }
                        @if *kind == "content" || *width > 44.0 {
                            text.kind x=(px(middle)) y="43" text-anchor="middle" {
                                (kind) @if *kind != "content" { " " (SIDES[*side]) }
                            }
                        }
                        line x1=(px(*at)) x2=(px(*at)) y1="8" y2="36" {}
                    }
                }
            }
        }
    }
}

fn spoken(name: &str, segments: &[(&str, usize, f64)]) -> String {
    let parts = segments
        .iter()
        .map(|(kind, side, size)| spoken_segment(kind, *side, *size));
    format!("{name}: {}", parts.collect::<Vec<_>>().join(", "))
}

/// `padding left 24`
fn spoken_segment(kind: &str, side: usize, size: f64) -> String {
    match kind {
        "content" => format!("content {}", px(size)),
        kind => format!("{kind} {} {}", SIDES[side], px(size)),
    }
}

fn side_row(page: &Page, target: &Target, kind: &str, side: &str, value: f64) -> Markup {
    let property = match kind {
        "border" => format!("border-{side}-width"),
        kind => format!("{kind}-{side}"),
    };
    row(page, target, &property, value)
}

fn row(page: &Page, target: &Target, property: &str, value: f64) -> Markup {
    let winner = winner(page, target, property);
    html! {
        tr {
            th scope="row" { button.hit type="button" data-property=(property) { (property) } }
            td.number { (px(value)) }
            td {
                @match &winner {
                    Some(declaration) => {
                        code { (declaration.property) ": " (declaration.value) } " " (place(&declaration.place))
                    }
                    None => span.quiet { "nothing: it comes from layout" }
                }
            }
        }
    }
}

fn winner(page: &Page, target: &Target, property: &str) -> Option<DeclarationAnswer> {
    let property: PropertyName = property.parse().ok()?;
    let mut answer = page.ask().why(target, &property);
    let contest = answer.contests.pop()?;
    let wins =
        |c: &fingerpost::question::why::ContenderAnswer| c.standing == ContenderStanding::Wins;
    let winner = contest.contenders.into_iter().find(wins)?;
    (contest.value.source == ValueFrom::Declared).then_some(winner.declaration)
}

/// What may surprise about the size and the space around.
fn sentences(page: &Page, target: &Target, measured: &Measured) -> Vec<String> {
    let mut found = Vec::new();
    for (property, measured_size, sides) in [
        ("width", measured.width, [3, 1]),
        ("height", measured.height, [0, 2]),
    ] {
        found.extend(size(page, target, measured, property, measured_size, sides));
    }
    for neighbor in &measured.around {
        let own = match neighbor.side.as_str() {
            "above" => measured.margin[0],
            _ => measured.margin[2],
        };
        let id = neighbor
            .handle
            .and_then(|h| page.document().elements().get(h as usize));
        let who = match id {
            Some(id) => label(&ElementSummary::new(page, *id)),
            None => "an element that a script made".to_owned(),
        };
        if neighbor.margin > 0.0 && neighbor.margin > own {
            let (whose, side) = match neighbor.side.as_str() {
                "above" => ("above", "margin-bottom"),
                _ => ("below", "margin-top"),
            };
            let collapses = own > 0.0 && neighbor.gap < own + neighbor.margin - 0.5;
            let how = match collapses {
                true => format!("; its own {} collapses into it", px(own)),
                false => String::new(),
            };
            found.push(format!(
                "{} px {whose} is {side} of the neighbor {who}{how}.",
                px(neighbor.margin)
            ));
        }
    }
    found
}

fn size(
    page: &Page,
    target: &Target,
    measured: &Measured,
    property: &str,
    size: f64,
    sides: [usize; 2],
) -> Option<String> {
    let declaration = winner(page, target, property)?;
    let resolved = page.styles().resolved(target, &property.parse().ok()?);
    let set = resolved.pixels()?;
    let written = match declaration.value.strip_suffix("px") {
        Some(number) => number.trim().to_owned(),
        None => declaration.value.clone(),
    };
    if measured.display == "inline" {
        return Some(format!(
            "{property}: {} does nothing, because display is inline.",
            declaration.value
        ));
    }
    let sum = |values: [f64; 4]| values[sides[0]] + values[sides[1]];
    let (padding, border) = (sum(measured.padding), sum(measured.border));
    if (size - set).abs() < 0.5 {
        return None;
    }
    if measured.box_sizing == "content-box" && (size - set - padding - border).abs() < 0.5 {
        let two = |values: [f64; 4], name: &str| match sum(values) {
            0.0 => None,
            _ => Some(format!(
                "{name} {} + {}",
                px(values[sides[0]]),
                px(values[sides[1]])
            )),
        };
        let parts: Vec<String> = [
            two(measured.padding, "padding"),
            two(measured.border, "border"),
        ]
        .into_iter()
        .flatten()
        .collect();
        let is = if parts.len() == 1 { "is" } else { "are" };
        return Some(format!(
            "{property}: {written} set, {} measured: {} {is} added because box-sizing is content-box.",
            px(size),
            parts.join(" and ")
        ));
    }
    let limit = |name: &str, is: fn(f64, f64) -> bool| {
        let limit = winner(page, target, &format!("{name}-{property}"))?;
        is(size, set).then(|| {
            format!(
                "{property}: {written} set, {} measured: {} at {} limits it.",
                px(size),
                format_args!("{}: {}", limit.property, limit.value),
                limit.place
            )
        })
    };
    if let Some(sentence) =
        limit("max", |size, set| size < set).or_else(|| limit("min", |size, set| size > set))
    {
        return Some(sentence);
    }
    let by = match measured.parent_display.as_str() {
        "flex" | "inline-flex" if size < set => {
            ": the flex container has less room and shrinks it (flex-shrink)"
        }
        "flex" | "inline-flex" => ": the flex container has room left and lets it grow (flex-grow)",
        "grid" | "inline-grid" => ": its grid area gives another size",
        _ => "",
    };
    Some(format!(
        "{property}: {written} set, {} measured{by}.",
        px(size)
    ))
}

#[cfg(test)]
mod tests {
    use super::*;
    use fingerpost::question::find::ElementQuery;
    use fingerpost::text::Text;

    fn said(css: &str, change: impl FnOnce(&mut Measured)) -> Vec<String> {
        let html = format!("<!doctype html><style>{css}</style><h1>A</h1><p>Boats</p>");
        let page = Page::new(Text::new("a.html", html));
        let target = page.ask().find_one(ElementQuery::parse("p")).unwrap();
        let mut measured = Measured {
            width: 200.0,
            height: 20.0,
            margin: [0.0; 4],
            border: [0.0; 4],
            padding: [0.0; 4],
            box_sizing: "content-box".to_owned(),
            display: "block".to_owned(),
            parent_display: "block".to_owned(),
            around: Vec::new(),
            font_asked: String::new(),
            font_used: String::new(),
        };
        change(&mut measured);
        sentences(&page, &target, &measured)
    }

    #[test]
    fn a_size_that_is_what_was_written_needs_no_sentence() {
        assert_eq!(said("p { width: 200px }", |_| {}), Vec::<String>::new());
    }

    #[test]
    fn padding_and_border_that_are_added_are_named() {
        let said = said("p { width: 340px }", |m| {
            m.width = 376.0;
            m.padding = [0.0, 16.0, 0.0, 16.0];
            m.border = [0.0, 2.0, 0.0, 2.0];
        });
        assert_eq!(
            said,
            [
                "width: 340 set, 376 measured: padding 16 + 16 and border 2 + 2 are added because box-sizing is content-box."
            ]
        );
    }

    #[test]
    fn a_limit_a_flex_container_and_an_inline_box_are_named() {
        let limited = said("p { width: 300px; max-width: 200px }", |_| {});
        assert_eq!(
            limited,
            ["width: 300 set, 200 measured: max-width: 200px at a.html:1:41 limits it."]
        );
        let shrunk = said("p { width: 300px }", |m| {
            m.parent_display = "flex".to_owned();
        });
        assert!(shrunk[0].contains("less room and shrinks it"), "{shrunk:?}");
        let inline = said("p { width: 300px }", |m| {
            m.display = "inline".to_owned();
        });
        assert_eq!(
            inline,
            ["width: 300px does nothing, because display is inline."]
        );
    }

    #[test]
    fn space_that_a_neighbor_makes_is_its_margin() {
        let above = |gap: f64, own: f64| {
            move |m: &mut Measured| {
                m.margin[0] = own;
                m.around = vec![Neighbor {
                    side: "above".to_owned(),
                    handle: Some(4),
                    gap,
                    margin: 24.0,
                }];
            }
        };
        assert_eq!(
            said("", above(24.0, 0.0)),
            ["24 px above is margin-bottom of the neighbor h1."]
        );
        assert_eq!(
            said("", above(24.0, 10.0)),
            ["24 px above is margin-bottom of the neighbor h1; its own 10 collapses into it."]
        );
    }
}
