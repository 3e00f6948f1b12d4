//! Presentational hints: the style that attributes such as `width` and `bgcolor` give (HTML § 15.2 to
//! § 15.5), and SVG's presentation attributes (SVG 2 § 6.6).
//!
//! Each hint becomes a declaration of a small sheet of the element's own, and remembers the attribute
//! that it came from. Cascade 5 § 6.2 puts them between the reader's sheet and the author's.

use std::sync::Arc;

use crate::markup::{Attribute, Document, Element, ElementId, Namespace};
use crate::page::StyleSheet;
use crate::sheet::Sheet;
use crate::text::{Text, TextRange};
use crate::value::PropertyId;

/// The hints of an element.
#[derive(Debug)]
#[non_exhaustive]
pub struct Hints {
    /// Their declarations.
    pub styles: Arc<StyleSheet>,
    /// The attribute that each declaration comes from, by its name's span.
    pub attributes: Vec<TextRange>,
}

pub(in crate::page) fn hints(document: &Document, id: ElementId) -> Option<Hints> {
    let element = document.element(id);
    let is_cell = element.is_html("td") || element.is_html("th");
    if element.attributes.is_empty() && !is_cell {
        return None;
    }
    let mut collected = Collected {
        css: String::new(),
        attributes: Vec::new(),
    };
    match element.namespace {
        Namespace::Html => collected.html(document, id, element),
        Namespace::Svg => collected.svg(element),
        _ => {}
    }
    if collected.attributes.is_empty() {
        return None;
    }
    let text = Text::new(document.text().name(), collected.css);
    let span = text.span();
    let sheet = Sheet::parse_attribute(text, span);
    debug_assert_eq!(sheet.declaration_count(), collected.attributes.len());
    Some(Hints {
        styles: StyleSheet::new(sheet, false),
        attributes: collected.attributes,
    })
}

struct Collected {
    css: String,
    attributes: Vec<TextRange>,
}

impl Collected {
    fn say(&mut self, attribute: &Attribute, property: &str, value: &str) {
        self.css.push_str(&format!("{property}: {value};"));
        self.attributes.push(attribute.name_span);
    }

    fn html(&mut self, document: &Document, id: ElementId, element: &Element) {
        let name = &*element.name;
        let table_part = matches!(name, "td" | "th" | "tr" | "thead" | "tbody" | "tfoot");
        let image = element
            .attribute("type")
            .is_some_and(|t| t.eq_ignore_ascii_case("image"));
        if name == "a" && element.attribute("href").is_some() {
            self.of_body(document);
        }
        for attribute in &element.attributes {
            // Most attributes are these.
            if matches!(
                &*attribute.name,
                "class" | "id" | "href" | "src" | "alt" | "style" | "title" | "type" | "name"
            ) {
                continue;
            }
            let value = attribute.value.trim();
            let lower = value.to_ascii_lowercase();
            match (&*attribute.name, name) {
                (
                    side @ ("width" | "height"),
                    "img" | "iframe" | "video" | "embed" | "object" | "input" | "marquee",
                ) if (name != "input" || image) => {
                    self.dimension(attribute, side, value, false);
                }
                (side @ "width", "table" | "td" | "th" | "col" | "hr")
                | (side @ "height", "table" | "td" | "th" | "tr" | "thead" | "tbody" | "tfoot") => {
                    self.dimension(attribute, side, value, name != "hr");
                }
                ("bgcolor", "body" | "table" | "marquee") => {
                    self.color(attribute, "background-color", value);
                }
                ("bgcolor", _) if table_part => self.color(attribute, "background-color", value),
                ("text", "body") => self.color(attribute, "color", value),
                ("color", "font") => self.color(attribute, "color", value),
                ("color", "hr") => {
                    self.say(attribute, "border-style", "solid");
                    self.color(attribute, "border-color", value);
                    self.color(attribute, "background-color", value);
                }
                ("face", "font") if !value.is_empty() => {
                    let families: Vec<String> = value.split(',').map(family).collect();
                    self.say(attribute, "font-family", &families.join(", "));
                }
                ("size", "font") => {
                    if let Some(size) = font_size(value) {
                        self.say(attribute, "font-size", size);
                    }
                }
                ("size", "hr") => {
                    if let Some(size) = leading_number(value) {
                        self.say(attribute, "height", &format!("{}px", (size - 2.0).max(0.0)));
                    }
                }
                ("align", _) => self.align(attribute, name, &lower, image),
                ("valign", _) if table_part => {
                    if matches!(lower.as_str(), "top" | "middle" | "bottom" | "baseline") {
                        self.say(attribute, "vertical-align", &lower);
                    }
                }
                ("nowrap", "td" | "th") => self.say(attribute, "text-wrap-mode", "nowrap"),
                ("frameborder", "iframe") if matches!(lower.as_str(), "0" | "no") => {
                    self.say(attribute, "border-width", "0");
                }
                ("border", "table") => {
                    let width = leading_number(value).unwrap_or(1.0);
                    self.say(attribute, "border", &format!("{width}px outset"));
                }
                ("border", "img" | "object" | "input") => {
                    if let Some(width) = leading_number(value) {
                        self.say(attribute, "border", &format!("{width}px solid"));
                    }
                }
                ("cellspacing", "table") => {
                    if let Some(gap) = leading_number(value) {
                        self.say(attribute, "border-spacing", &format!("{gap}px"));
                    }
                }
                ("hspace", "img" | "object" | "embed" | "iframe") => {
                    self.dimension(attribute, "margin-inline", value, false);
                }
                ("vspace", "img" | "object" | "embed" | "iframe") => {
                    self.dimension(attribute, "margin-block", value, false);
                }
                ("clear", "br") => match lower.as_str() {
                    "left" | "right" => self.say(attribute, "clear", &lower),
                    "all" | "both" => self.say(attribute, "clear", "both"),
                    _ => {}
                },
                _ => {}
            }
        }
        self.aspect_ratio(element);
        if matches!(name, "td" | "th") {
            self.of_table(document, id);
        }
    }

    /// `align`, which means another property on each kind of element.
    fn align(&mut self, attribute: &Attribute, name: &str, side: &str, is_image: bool) {
        let is_line = matches!(side, "top" | "middle" | "bottom");
        match name {
            "p" | "div" | "h1" | "h2" | "h3" | "h4" | "h5" | "h6" | "caption" | "td" | "th"
            | "tr" | "thead" | "tbody" | "tfoot" => {
                if matches!(side, "left" | "right" | "center" | "justify") {
                    self.say(attribute, "text-align", side);
                }
            }
            "input" if is_image && is_line => self.say(attribute, "vertical-align", side),
            "img" | "iframe" | "object" | "embed" | "table" => match side {
                "left" | "right" => {
                    self.say(attribute, "float", side);
                    if name != "table" {
                        self.say(attribute, "vertical-align", "top");
                    }
                }
                "center" if name == "table" => self.say(attribute, "margin-inline", "auto"),
                _ if is_line && name != "table" => self.say(attribute, "vertical-align", side),
                _ => {}
            },
            _ => {}
        }
    }

    /// § 15.3.2: the color that the body gives all links.
    fn of_body(&mut self, document: &Document) {
        let body = document
            .child_elements(document.root_element())
            .map(|id| document.element(id))
            .find(|element| element.is_html("body"));
        if let Some(attribute) = body.and_then(|body| body.attribute_node("link")) {
            self.color(attribute, "color", attribute.value.trim());
        }
    }

    /// § 15.4.3: width and height together give an image its ratio before it has loaded.
    fn aspect_ratio(&mut self, element: &Element) {
        if !matches!(&*element.name, "img" | "video" | "canvas" | "input") {
            return;
        }
        let of = |name| {
            let attribute = element.attribute_node(name)?;
            let size = attribute.value.trim();
            // A canvas counts pixels, whatever is after the number.
            let canvas = &*element.name == "canvas";
            let number = leading_number(size).filter(|_| canvas || !size.ends_with('%'))?;
            Some((attribute, number))
        };
        if let (Some((attribute, width)), Some((_, height))) = (of("width"), of("height")) {
            self.say(
                attribute,
                "aspect-ratio",
                &format!("auto {width} / {height}"),
            );
        }
    }

    /// The style that a table's attributes give its cells.
    fn of_table(&mut self, document: &Document, id: ElementId) {
        let table = document
            .ancestors_and_self(id)
            .find(|a| document.element(*a).is_html("table"));
        let Some(table) = table.map(|t| document.element(t)) else {
            return;
        };
        if let Some(attribute) = table.attribute_node("cellpadding")
            && let Some(gap) = leading_number(attribute.value.trim())
        {
            self.say(attribute, "padding", &format!("{gap}px"));
        }
        if let Some(attribute) = table.attribute_node("border")
            && leading_number(attribute.value.trim()).unwrap_or(1.0) > 0.0
        {
            self.say(attribute, "border", "1px inset");
        }
    }

    /// HTML § 2.3.4.4: a dimension, in px or per cent.
    fn dimension(&mut self, attribute: &Attribute, property: &str, value: &str, not_zero: bool) {
        let Some(size) = leading_number(value).filter(|n| !not_zero || *n > 0.0) else {
            return;
        };
        let digits = value.trim_start_matches(|c: char| c.is_ascii_digit() || c == '.');
        let unit = if digits.starts_with('%') { "%" } else { "px" };
        self.say(attribute, property, &format!("{size}{unit}"));
    }

    /// HTML § 2.3.6: a legacy color, where it is one that CSS reads too.
    fn color(&mut self, attribute: &Attribute, property: &str, value: &str) {
        let bare = value.len() == 6 && value.bytes().all(|b| b.is_ascii_hexdigit());
        let color = if bare {
            format!("#{value}")
        } else {
            value.to_owned()
        };
        if crate::value::color::read(&color).absolute().is_some() {
            self.say(attribute, property, &color);
        }
    }

    fn svg(&mut self, element: &Element) {
        for attribute in &element.attributes {
            let name = &*attribute.name;
            if attribute.namespace != Namespace::None || !is_presentation(&element.name, name) {
                continue;
            }
            let Some(property) = PropertyId::named(name).filter(|p| !p.is_shorthand()) else {
                continue;
            };
            let value = attribute.value.trim();
            if value.is_empty() || value.contains([';', '}', '{', '!']) {
                continue;
            }
            // SVG 2 § 6.6: lengths need no unit.
            let is_number = value.parse::<f64>().is_ok();
            let lengthy = matches!(
                name,
                "x" | "y"
                    | "cx"
                    | "cy"
                    | "r"
                    | "rx"
                    | "ry"
                    | "width"
                    | "height"
                    | "font-size"
                    | "letter-spacing"
                    | "word-spacing"
                    | "stroke-dashoffset"
                    | "stroke-width"
            );
            let value = if is_number && lengthy {
                format!("{value}px")
            } else {
                value.to_owned()
            };
            self.say(attribute, property.name(), &value);
        }
    }
}

/// SVG 2 § 6.6 and § 7: which attributes are properties too. Geometry only on the shapes that have it.
fn is_presentation(element: &str, name: &str) -> bool {
    match name {
        "cx" | "cy" => matches!(element, "circle" | "ellipse"),
        "r" => element == "circle",
        "rx" | "ry" => matches!(element, "ellipse" | "rect"),
        "x" | "y" | "width" | "height" => {
            matches!(element, "svg" | "rect" | "image" | "foreignObject")
        }
        "alignment-baseline"
        | "baseline-shift"
        | "clip-path"
        | "clip-rule"
        | "color"
        | "color-interpolation"
        | "color-interpolation-filters"
        | "cursor"
        | "direction"
        | "display"
        | "dominant-baseline"
        | "fill"
        | "fill-opacity"
        | "fill-rule"
        | "filter"
        | "flood-color"
        | "flood-opacity"
        | "font-family"
        | "font-size"
        | "font-size-adjust"
        | "font-stretch"
        | "font-style"
        | "font-variant"
        | "font-weight"
        | "image-rendering"
        | "letter-spacing"
        | "lighting-color"
        | "marker-end"
        | "marker-mid"
        | "marker-start"
        | "mask"
        | "mask-type"
        | "opacity"
        | "overflow"
        | "paint-order"
        | "pointer-events"
        | "shape-rendering"
        | "stop-color"
        | "stop-opacity"
        | "stroke"
        | "stroke-dasharray"
        | "stroke-dashoffset"
        | "stroke-linecap"
        | "stroke-linejoin"
        | "stroke-miterlimit"
        | "stroke-opacity"
        | "stroke-width"
        | "text-anchor"
        | "text-decoration"
        | "text-overflow"
        | "text-rendering"
        | "transform-origin"
        | "unicode-bidi"
        | "vector-effect"
        | "visibility"
        | "white-space"
        | "word-spacing"
        | "writing-mode" => true,
        _ => false,
    }
}

fn leading_number(text: &str) -> Option<f64> {
    let text = text.trim_start_matches('+');
    let end = text
        .find(|c: char| !c.is_ascii_digit() && c != '.')
        .unwrap_or(text.len());
    text[..end].parse().ok()
}

/// A font family as `face` has it: names as they are, so that a generic family stays one, and anything else as a string.
fn family(written: &str) -> String {
    let name = written.trim();
    let is_plain = |word: &str| {
        let mut letters = word.chars();
        letters
            .next()
            .is_some_and(|c| c.is_ascii_alphabetic() || c == '_')
            && letters.all(|c| c.is_ascii_alphanumeric() || matches!(c, '-' | '_'))
    };
    match !name.is_empty() && name.split_ascii_whitespace().all(is_plain) {
        true => name.to_owned(),
        false => crate::value::serialise::string(name.trim_matches(['"', '\'', ' '])),
    }
}

/// HTML § 15.3.4: the legacy font sizes.
fn font_size(value: &str) -> Option<&'static str> {
    let relative = match value.chars().next()? {
        '+' => 1,
        '-' => -1,
        _ => 0,
    };
    let digits = value.trim_start_matches(['+', '-']);
    let number = leading_number(digits)? as i32;
    let size = match relative {
        0 => number,
        sign => 3 + sign * number,
    };
    Some(match size.clamp(1, 7) {
        1 => "x-small",
        2 => "small",
        3 => "medium",
        4 => "large",
        5 => "x-large",
        6 => "xx-large",
        _ => "xxx-large",
    })
}
