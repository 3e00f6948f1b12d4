//! Why: a line for each property, what the theme sets first.

use fingerpost::page::{Page, PropertyName, Target};
use fingerpost::question::codes::ValueFrom;
use fingerpost::question::contrast::ContrastAnswer;
use fingerpost::question::values::ValueRow;
use fingerpost::question::{ElementSummary, Questions};
use maud::{Markup, html};

use super::contest;
use super::{place, short_place, swatch};
use crate::view::label::label;

/// What properties are about, and the beginnings of their names. A name goes to the first group that has
/// its beginning.
const GROUPS: &[(&str, &[&str])] = &[
    (
        "Type",
        &[
            "font",
            "line-height",
            "letter-spacing",
            "word-",
            "text-",
            "white-space",
            "hyphens",
            "tab-size",
            "quotes",
            "list-style",
            "overflow-wrap",
            "line-break",
            "hanging-",
            "initial-letter",
            "vertical-align",
        ],
    ),
    (
        "Color",
        &[
            "color",
            "background",
            "opacity",
            "accent-color",
            "caret-color",
            "fill",
            "stroke",
            "filter",
            "backdrop-filter",
            "mix-blend-mode",
            "box-shadow",
            "outline",
            "border-image",
            "mask",
            "clip-path",
        ],
    ),
    (
        "Space",
        &[
            "margin",
            "padding",
            "border",
            "width",
            "height",
            "min-",
            "max-",
            "inline-size",
            "block-size",
            "box-sizing",
            "aspect-ratio",
            "gap",
            "row-gap",
            "column-gap",
            "scroll-margin",
            "scroll-padding",
        ],
    ),
    (
        "Position",
        &[
            "position",
            "top",
            "right",
            "bottom",
            "left",
            "inset",
            "z-index",
            "float",
            "clear",
            "anchor",
            "transform",
            "translate",
            "rotate",
            "scale",
            "perspective",
        ],
    ),
    (
        "Layout",
        &[
            "display",
            "flex",
            "grid",
            "align",
            "justify",
            "place-",
            "order",
            "column",
            "overflow",
            "visibility",
            "contain",
            "object-",
            "table-",
            "caption-side",
            "empty-cells",
            "break-",
            "page",
            "writing-mode",
            "direction",
        ],
    ),
    (
        "Motion",
        &[
            "transition",
            "animation",
            "will-change",
            "scroll-behavior",
            "offset",
        ],
    ),
];

/// The group of all others, and of custom properties.
const OTHER: &str = "Other";
const VARIABLES: &str = "Custom properties";

fn group_of(property: &str) -> &'static str {
    if property.starts_with("--") {
        return VARIABLES;
    }
    // `border-color` is a color and `border-width` a space: the end says more than the beginning.
    if property.ends_with("-color") {
        return "Color";
    }
    let begins = |names: &[&str]| names.iter().any(|name| property.starts_with(name));
    let found = GROUPS.iter().find(|(_, names)| begins(names));
    found.map_or(OTHER, |(group, _)| group)
}

/// How many variables are shown without being asked for: a framework has hundreds.
const FEW_VARIABLES: usize = 10;

/// Which properties of an element are shown.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Shown<'a> {
    /// Those with this in their name or value.
    pub filter: Option<&'a str>,
    /// Those with their initial values, too.
    pub initial: bool,
    /// The variables, however many there are.
    pub variables: bool,
}

/// The properties of an element, by what they are about.
pub(crate) fn properties(page: &Page, target: &Target, shown: Shown<'_>) -> Markup {
    let ask = page.ask();
    let filter = shown.filter;
    let answer = ask.values(target, filter, shown.initial);
    let trace_pseudo = match target.pseudo {
        Some(_) => Vec::new(),
        None => ask.styles().pseudo_elements(target.element),
    };
    let order = GROUPS
        .iter()
        .map(|(group, _)| *group)
        .chain([OTHER, VARIABLES]);
    html! {
        @if let Some(contrast) = &answer.contrast { (contrast_line(contrast)) }
        @for group in order {
            @let rows = rows_of(&answer.values, group);
            @if group == VARIABLES && rows.len() > FEW_VARIABLES && filter.is_none() {
                details #variables.group open[shown.variables] {
                    summary { h3 { (group) " " span.quiet { (rows.len()) } } }
                    @if shown.variables { @for row in rows { (line(&ask, target, row)) } }
                }
            } @else if !rows.is_empty() {
                section.group aria-label=(group) {
                    h3 { (group) }
                    @for row in rows { (line(&ask, target, row)) }
                }
            }
        }
        @if answer.values.is_empty() {
            p.quiet {
                @if filter.is_some() { "Nothing sets a property with that in its name or value." }
                @else { "Nothing sets a property of this element." }
            }
        }
        @if !trace_pseudo.is_empty() {
            section.group aria-label="Pseudo-elements" {
                h3 { "Pseudo-elements" }
                @for pseudo in &trace_pseudo {
                    @let part = Target { element: target.element, pseudo: Some(pseudo.clone()) };
                    @let values = ask.values(&part, None, false);
                    @let own: Vec<&ValueRow> = values.values.iter().filter(|r| r.source == ValueFrom::Declared).collect();
                    details.line {
                        summary { code { (pseudo.to_string()) } span.from { (super::count(own.len(), "property")) " set here" } }
                        ul.plain { @for row in own {
                            li { code { (row.property) ": " } (swatch(&row.value)) (row.value) " "
                                @if let Some(at) = &row.place { (place(at)) } }
                        } }
                        button type="button" data-handle=(page.document().element(target.element).index)
                            data-pseudo=(pseudo.to_string()) { "Work on " (pseudo.to_string()) }
                    }
                }
            }
        }
    }
}

/// The rows of a group: what the element's own rules set first, then what it inherits.
fn rows_of<'a>(rows: &'a [ValueRow], group: &str) -> Vec<&'a ValueRow> {
    let mut own: Vec<&ValueRow> = rows
        .iter()
        .filter(|row| group_of(&row.property) == group)
        .collect();
    let standing = |row: &&ValueRow| match row.source {
        ValueFrom::Declared if row.place.as_ref().is_some_and(is_of_site) => 0,
        ValueFrom::Inherited if row.place.as_ref().is_some_and(is_of_site) => 1,
        _ => 2,
    };
    own.sort_by_key(standing);
    own
}

fn is_of_site(place: &fingerpost::text::Place) -> bool {
    !place.file.contains("user-agent") && !place.file.starts_with('(')
}

fn line(ask: &Questions<'_>, target: &Target, row: &ValueRow) -> Markup {
    let beaten = match row.property.parse::<PropertyName>() {
        Ok(property) => {
            let contest = ask.styles().contest(target, &property).contest;
            contest.contenders.len().saturating_sub(1)
        }
        Err(_) => 0,
    };
    html! {
        details.line data-property=(row.property) {
            summary {
                code.name { (row.property) }
                span.value title=(row.value) { (swatch(&row.value)) (row.value) }
                span.from {
                    @match &row.inherited_from {
                        Some(from) => span title=(format!("inherited from {}", label(from))) { "from " code { (from.tag) } }
                        None => @if let Some(at) = &row.place { (short_place(at)) }
                    }
                    @if beaten > 0 { span.beat title="declarations that lose against it" { "beats " (beaten) } }
                }
            }
            div.ladder-place {}
        }
    }
}

/// The contrast of an element's text, with both levels of the guideline (WCAG 2 § 1.4.3 and § 1.4.6).
pub(crate) fn contrast_line(contrast: &ContrastAnswer) -> Markup {
    let passes = |needed: f64| contrast.ratio >= needed;
    let level = |name: &str, needed: f64| {
        let word = if passes(needed) { "passes" } else { "fails" };
        html! { span.level data-met[passes(needed)] { (word) " " (name) " (" (needed) ")" } }
    };
    html! {
        p.contrast #contrast data-ratio=(format!("{:.2}", contrast.ratio)) {
            "Contrast " span { (swatch(&contrast.color)) (swatch(&contrast.background)) }
            strong { (format!("{:.2}", contrast.ratio)) ":1" }
            (level("AA", contrast.needed_aa)) (level("AAA", contrast.needed_aaa))
            @if let Some(strongest) = contrast.strongest {
                span.quiet { "at its lowest; at its highest " (format!("{strongest:.2}")) }
            }
            @if !contrast.not_counted.is_empty() {
                span.quiet { "not counted: " (contrast.not_counted.join(", ")) }
            }
        }
    }
}

/// An element that a script made: what the browser shows of it is asked instead of the source.
pub(crate) fn of_script(page: &Page, target: &Target) -> Markup {
    let summary = ElementSummary::new(page, target.element);
    let ask = page.ask();
    html! {
        div.chosen data-made {
            h2 { code { (summary.label()) } }
            span.badge { "made by a script" }
        }
        p.quiet {
            "The page's source does not have this element, so its markup can't be edited here. The rules below are \
             those of the theme, traced from what the browser shows."
        }
        @for row in ask.values(target, None, false).values.iter().filter(|row| row.source == ValueFrom::Declared) {
            @if let Ok(property) = row.property.parse::<PropertyName>() {
                details.line {
                    summary {
                        code.name { (row.property) }
                        span.value { (swatch(&row.value)) (row.value) }
                        span.from { @if let Some(at) = &row.place { (place(at)) } }
                    }
                    (contest::read_only(&ask.why(target, &property)))
                }
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn each_property_has_the_group_that_one_would_look_in() {
        let groups = [
            ("font-size", "Type"),
            ("color", "Color"),
            ("border-top-color", "Color"),
            ("border-top-width", "Space"),
            ("margin-left", "Space"),
            ("top", "Position"),
            ("display", "Layout"),
            ("transition-property", "Motion"),
            ("--ink", VARIABLES),
            ("cursor", OTHER),
        ];
        for (property, group) in groups {
            assert_eq!(group_of(property), group, "{property}");
        }
    }
}
