//! What can be written next in a declaration, the theme's own colors and variables first.

use std::collections::BTreeMap;

use fingerpost::page::{Page, PropertyName, Target};
use fingerpost::question::codes::OfferKind;
use fingerpost::question::complete::{property_names, values_of};
use fingerpost::value::PropertyId;
use fingerpost::value::parts::{PartKind, parts};
use maud::{Markup, html};

use super::{as_hex, declarations, swatch};

/// How many offers of each kind.
const MOST_OFFERS: usize = 60;
const MOST_COLORS: usize = 24;

/// The offers for `property: val` that is being written, as options, and the palette where it is a color.
pub(crate) fn offers(page: &Page, target: &Target, text: &str) -> Markup {
    let Some((property, value)) = text.split_once(':') else {
        let names = property_names(text.trim());
        return html! { @for offer in names.offers.iter().take(MOST_OFFERS) {
            option value=(format!("{}: ", offer.text)) { (offer.meaning) }
        } };
    };
    let property = property.trim();
    let value = value.trim_start();
    let offers = match property.parse() {
        Ok(PropertyName::Known(id)) => values_of(id, value).offers,
        _ => Vec::new(),
    };
    let takes_color =
        offers.iter().any(|offer| offer.meaning.contains("color")) || property.ends_with("color");
    let variables = variables(page, target);
    html! {
        @for (name, value) in variables.iter().filter(|(_, value)| !takes_color || as_hex(value).is_some()) {
            option value=(format!("{property}: var({name})")) { (value) }
        }
        @for offer in offers.iter().filter(|offer| offer.kind != OfferKind::Type).take(MOST_OFFERS) {
            option value=(format!("{property}: {}", offer.text)) { (offer.meaning) }
        }
    }
}

/// The theme's own colors: its variables first, then what its sheets write.
pub(crate) fn palette(page: &Page, target: &Target) -> Markup {
    let named = variables(page, target)
        .into_iter()
        .filter_map(|(name, value)| {
            let fill = as_hex(&value)?;
            Some((format!("var({name})"), name, fill))
        });
    let written = colors(page)
        .into_iter()
        .take(MOST_COLORS)
        .filter_map(|(value, _)| {
            let fill = as_hex(&value)?;
            Some((value.clone(), value, fill))
        });
    html! {
        div.palette role="group" aria-label="Colors of the theme" {
            @for (value, name, fill) in named.chain(written) {
                button type="button" data-value=(value) title=(fill) { (swatch(&fill)) (name) }
            }
        }
    }
}

/// The custom properties that an element has, with their values.
fn variables(page: &Page, target: &Target) -> Vec<(String, String)> {
    let answer = page.ask().values(target, Some("--"), false);
    let rows = answer
        .values
        .into_iter()
        .filter(|row| row.property.starts_with("--"));
    rows.map(|row| (row.property, row.value)).collect()
}

/// The colors that the site's sheets write, the most frequent first.
fn colors(page: &Page) -> Vec<(String, usize)> {
    let mut found: BTreeMap<String, usize> = BTreeMap::new();
    for (sheet, declaration) in declarations(page) {
        let property = PropertyId::named(sheet.name_source(declaration));
        for color in colors_in(property, sheet.value_source(declaration)) {
            *found.entry(color.to_owned()).or_default() += 1;
        }
    }
    let mut found: Vec<(String, usize)> = found.into_iter().collect();
    found.sort_by_key(|(_, count)| std::cmp::Reverse(*count));
    found
}

/// The colors in a value: those that no other color is around.
fn colors_in(property: Option<PropertyId>, value: &str) -> Vec<&str> {
    let mut end = 0;
    let mut found = Vec::new();
    for part in parts(property, value) {
        let range = part.bytes();
        if matches!(part.kind, PartKind::Color(_)) && range.start >= end {
            end = range.end;
            found.extend(value.get(range));
        }
    }
    found
}

#[cfg(test)]
mod tests {
    use super::*;
    use fingerpost::question::find::ElementQuery;
    use fingerpost::text::Text;

    #[test]
    fn colors_are_found_inside_of_values() {
        let of = |property, value| colors_in(PropertyId::named(property), value);
        let value = "0 1px #abc, inset 0 0 rgba(1, 2, 3, 50%) red";
        assert_eq!(
            of("box-shadow", value),
            ["#abc", "rgba(1, 2, 3, 50%)", "red"]
        );
        assert_eq!(
            of("background", "linear-gradient(#123, hsl(1 2% 3%))"),
            ["#123", "hsl(1 2% 3%)"]
        );
        assert_eq!(of("--ink", "navy"), ["navy"]);
        assert!(of("width", "calc(var(--ink) + (2px))").is_empty());
        assert!(of("animation-name", "navy").is_empty());
        let mixed = "color-mix(in srgb, red, #123)";
        assert_eq!(of("color", mixed), [mixed]);
    }

    fn page() -> (Page, Target) {
        let css =
            ":root { --sea: teal; --gap: 4px } p { color: #123456 } a { color: #123456; top: 0 }";
        let page = Page::new(Text::new("a.html", format!("<style>{css}</style><p>Boats")));
        let target = page.ask().find_one(ElementQuery::parse("p")).unwrap();
        (page, target)
    }

    #[test]
    fn the_palette_has_the_themes_variables_before_its_colors() {
        let (page, target) = page();
        let html = palette(&page, &target).into_string();
        let at = |text: &str| {
            html.find(text)
                .unwrap_or_else(|| panic!("no {text} in {html}"))
        };
        assert!(at("var(--sea)") < at("#123456"));
        assert!(!html.contains("--gap"), "a length is in no palette: {html}");
        assert_eq!(html.matches("data-value=\"#123456\"").count(), 1);
    }

    #[test]
    fn a_color_is_offered_the_themes_own_first() {
        let (page, target) = page();
        let html = offers(&page, &target, "color: ").into_string();
        assert!(
            html.contains("color: var(--sea)") && !html.contains("--gap"),
            "{html}"
        );
        let names = offers(&page, &target, "text-dec").into_string();
        assert!(names.contains("text-decoration: "), "{names}");
    }
}
