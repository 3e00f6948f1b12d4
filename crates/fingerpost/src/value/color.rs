//! Colors: from the tokens of a `<color>` to its computed value as CSSOM serialises it.
//!
//! Converting between color spaces and mixing are the `color` package's; reading follows Color 4
//! and 5, and which form the result takes Color 4 § 15 and Color 5 § 9.
//!
//! ```
//! use fingerpost::value::color::{Color, read};
//!
//! assert_eq!(read("hsl(0 100% 50%)").to_string(), "rgb(255, 0, 0)");
//! assert_eq!(read("currentcolor"), Color::Current);
//! assert!(read("#12345").absolute().is_none());
//! ```

use std::fmt;
use std::sync::Arc;

use ::color::{ColorSpaceTag, DynamicColor, Flags, HueDirection, Missing, parse_color};

use super::asks::Dependencies;
use super::calc::{Basis, LeafUnit, simplify};
use super::math;
use super::substitution::{arguments, value_tokens};
use super::units::{DEG, Unit};
use super::value_context::Measures;
use crate::sheet::{Token, TokenKind, split_commas, trim};
use crate::text::Cut;

/// How deep colors may be nested.
const DEEPEST_COLOR: usize = 64;

/// A `<color>`.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum Color {
    /// A color with all its components known (Color 4 § 4.4: an absolute color).
    Absolute(AbsoluteColor),
    /// `currentcolor`
    Current,
    /// One that depends on `currentcolor`, or on something that the sources don't say; in lower case.
    AsWritten(Arc<str>),
}

/// A color with all its components known, and whether it was written in a form that is serialised as `rgb()`.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct AbsoluteColor {
    pub(super) color: DynamicColor,
    pub(super) legacy: bool,
}

impl AbsoluteColor {
    /// Red, green, blue and alpha in sRGB, each from 0 to 255; what lies outside of sRGB is clipped.
    pub fn srgb(self) -> [u8; 4] {
        let rgba = self.color.to_alpha_color::<color::Srgb>().to_rgba8();
        [rgba.r, rgba.g, rgba.b, rgba.a]
    }

    /// The color in its own space.
    pub(crate) fn color(self) -> DynamicColor {
        self.color
    }
}

impl Color {
    /// The color, where it is absolute.
    pub fn absolute(&self) -> Option<AbsoluteColor> {
        match self {
            Color::Absolute(color) => Some(*color),
            _ => None,
        }
    }
}

impl fmt::Display for Color {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Color::Absolute(color) => color.fmt(f),
            Color::Current => f.write_str("currentcolor"),
            Color::AsWritten(text) => f.write_str(text),
        }
    }
}

/// What colors are read in.
#[derive(Clone, Copy, Debug)]
#[non_exhaustive]
pub struct ColorContext<'a> {
    /// What `currentcolor` is, where that is known.
    pub current: Option<AbsoluteColor>,
    /// Whether the element's used color scheme is dark.
    pub dark: bool,
    /// What relative units in math functions refer to.
    pub measures: &'a Measures,
}

/// Reads a `<color>` on its own.
///
/// ```
/// use fingerpost::value::color::read;
///
/// let color = read("rebeccapurple").absolute().unwrap();
/// assert_eq!(color.srgb(), [0x66, 0x33, 0x99, 0xff]);
/// // It depends on the element.
/// assert!(read("currentcolor").absolute().is_none());
/// ```
pub fn read(text: &str) -> Color {
    let measures = Measures::initial(0.0, 0.0);
    let context = ColorContext {
        current: None,
        dark: false,
        measures: &measures,
    };
    read_in(text, &context)
}

/// Reads a `<color>`.
pub fn read_in(text: &str, context: &ColorContext<'_>) -> Color {
    let text = text.trim();
    if text.eq_ignore_ascii_case("currentcolor") {
        return Color::Current;
    }
    let tokens = value_tokens(text);
    let reader = Reader {
        source: text,
        context,
    };
    match reader.color(&tokens, 0) {
        Some(color) => Color::Absolute(color),
        None => Color::AsWritten(text.to_ascii_lowercase().into()),
    }
}

/// The keywords of opaque colors (Color 4 § 6.1).
pub fn names() -> impl Iterator<Item = &'static str> {
    let list =
        super::facts::type_index("named-color").map_or("", |at| super::facts::type_entry(at).1);
    list.split(" | ").filter(|name| *name != "transparent")
}

/// What the color that some tokens are depends on, besides themselves.
pub(super) fn asks(source: &str, tokens: &[Token]) -> Dependencies {
    let mut asks = Dependencies::empty();
    for token in tokens {
        let named = |name: &str| token.is_name(source, name);
        asks |= match token.kind {
            TokenKind::Ident if named("currentcolor") => Dependencies::PARENT_COLOR,
            TokenKind::Ident
                if system(&token.name(source).to_ascii_lowercase(), false).is_some() =>
            {
                Dependencies::SCHEME
            }
            TokenKind::Function if named("light-dark") => Dependencies::SCHEME,
            TokenKind::Dimension => {
                Unit::named(&token.name(source)).map_or(Dependencies::empty(), Dependencies::of)
            }
            _ => Dependencies::empty(),
        };
    }
    asks
}

struct Reader<'a> {
    source: &'a str,
    context: &'a ColorContext<'a>,
}

impl Reader<'_> {
    fn color(&self, tokens: &[Token], depth: usize) -> Option<AbsoluteColor> {
        if depth > DEEPEST_COLOR {
            return None;
        }
        let tokens = trim(tokens);
        let first = *tokens.first()?;
        let source = first.source(self.source);
        match first.kind {
            TokenKind::Hash | TokenKind::IdHash => legacy(source),
            TokenKind::Ident => {
                let name = source.to_ascii_lowercase();
                if name == "currentcolor" {
                    return self.context.current;
                }
                legacy(&name).or_else(|| legacy(system(&name, self.context.dark)?))
            }
            TokenKind::Function => {
                let (inside, _) = arguments(tokens, 0);
                let name = first.name(self.source).to_ascii_lowercase();
                match name.as_str() {
                    "color-mix" => self.mix(inside, depth),
                    "light-dark" => {
                        let parts = split_commas(inside);
                        let [light, dark] = parts[..] else {
                            return None;
                        };
                        let chosen = if self.context.dark { dark } else { light };
                        self.color(chosen, depth + 1)
                    }
                    _ => self.function(&name, inside, depth),
                }
            }
            _ => None,
        }
    }

    /// `rgb()` and its kin, absolute or relative.
    fn function(&self, name: &str, inside: &[Token], depth: usize) -> Option<AbsoluteColor> {
        let mut parts = components(inside);
        let mut origin = None;
        if let [from, of, ..] = parts[..]
            && from.first()?.is_name(self.source, "from")
        {
            origin = Some(self.color(of, depth + 1)?);
            parts.drain(..2);
        }
        let mut form = Form::named(name)?;
        if name == "color" {
            let space = parts.first()?.first()?.name(self.source);
            form = Form::of_space(&space.to_ascii_lowercase())?;
            parts.remove(0);
        }
        let mut alpha = 1.0;
        let mut channels = Vec::new();
        if let Some(origin) = origin {
            // A missing component is zero before it is converted.
            let whole = DynamicColor {
                flags: Flags::default(),
                ..origin.color
            };
            let converted = whole.convert(form.space);
            let named = form.names.iter().zip(form.scales);
            for ((name, scale), component) in named.zip(converted.components) {
                channels.push((*name, f64::from(component) * scale));
            }
            alpha = f64::from(converted.components[3]);
            channels.push(("alpha", alpha));
        }
        let mut values = [0.0f32; 4];
        let mut missing = Missing::default();
        for (at, place) in values.iter_mut().enumerate().take(3) {
            let value = self.component(parts.get(at)?, &form, at, &channels)?;
            match value {
                Some(value) => *place = value as f32,
                None => missing.insert(at),
            }
        }
        if let Some(part) = parts.get(3) {
            match self.component(part, &form, 3, &channels)? {
                Some(value) => alpha = value,
                None => {
                    alpha = 0.0;
                    missing.insert(3);
                }
            }
        }
        values[3] = alpha.clamp(0.0, 1.0) as f32;
        let color = DynamicColor {
            cs: form.space,
            flags: Flags::from_missing(missing),
            components: form.within(values, origin.is_some()),
        };
        let srgb = matches!(
            form.space,
            ColorSpaceTag::Srgb | ColorSpaceTag::Hsl | ColorSpaceTag::Hwb
        );
        // Color 5 § 9.2: a relative one in a form of sRGB results in color(srgb …).
        Some(match (srgb && name != "color", origin.is_some()) {
            (true, true) => AbsoluteColor {
                color: color.convert(ColorSpaceTag::Srgb),
                legacy: false,
            },
            (legacy, _) => AbsoluteColor { color, legacy },
        })
    }

    /// One component, or alpha, in the space's own unit; `None` inside for `none`.
    fn component(
        &self,
        part: &[Token],
        form: &Form,
        at: usize,
        channels: &[(&'static str, f64)],
    ) -> Option<Option<f64>> {
        let alpha = (1.0, 1.0);
        let mut of_channels = form.scales.into_iter().zip(form.whole);
        let (scale, whole) = of_channels.nth(at).unwrap_or(alpha);
        let token = part.first()?;
        let (value, unit) = match token.kind {
            TokenKind::Number => (token.number(self.source)?, LeafUnit::Number),
            TokenKind::Percentage => (token.number(self.source)?, LeafUnit::Percentage),
            TokenKind::Dimension | TokenKind::Function => {
                let expression = math::parse(self.source, part)?;
                let basis = Basis {
                    measures: self.context.measures,
                    percentage: None,
                    channels,
                };
                simplify(&expression, &basis).leaf()?
            }
            TokenKind::Ident => {
                let name = token.name(self.source).to_ascii_lowercase();
                if name == "none" {
                    return Some(None);
                }
                let (_, value) = channels.iter().find(|(known, _)| *known == name)?;
                (*value, LeafUnit::Number)
            }
            _ => return None,
        };
        Some(Some(match unit {
            LeafUnit::Number => value / scale,
            LeafUnit::Of(unit) if *unit == DEG => value / scale,
            LeafUnit::Percentage => value / 100.0 * whole,
            _ => return None,
        }))
    }

    /// Color 5 § 3: `color-mix()`.
    fn mix(&self, inside: &[Token], depth: usize) -> Option<AbsoluteColor> {
        let parts: Vec<&[Token]> = split_commas(inside).into_iter().map(trim).collect();
        let mut space = ColorSpaceTag::Oklab;
        let mut direction = HueDirection::Shorter;
        let mut colors = &parts[..];
        let words: Vec<&Token> = parts
            .first()?
            .iter()
            .filter(|t| !t.kind.is_blank())
            .collect();
        if words.first()?.is_name(self.source, "in") {
            colors = parts.cut(1..);
            let word = |at: usize| {
                words
                    .get(at)
                    .map(|t| t.name(self.source).to_ascii_lowercase())
            };
            space = space_named(&word(1)?)?;
            direction = match word(2).as_deref() {
                Some("longer") => HueDirection::Longer,
                Some("increasing") => HueDirection::Increasing,
                Some("decreasing") => HueDirection::Decreasing,
                _ => HueDirection::Shorter,
            };
        }
        let [first, second] = colors else {
            return None;
        };
        let (first, first_share) = self.share(first, depth)?;
        let (second, second_share) = self.share(second, depth)?;
        let (a, b) = match (first_share, second_share) {
            (None, None) => (50.0, 50.0),
            (Some(a), None) => (a, 100.0 - a),
            (None, Some(b)) => (100.0 - b, b),
            (Some(a), Some(b)) => (a, b),
        };
        let sum: f64 = a + b;
        if sum <= 0.0 {
            return None;
        }
        let mixed = first
            .color
            .interpolate(second.color, space, direction)
            .eval((b / sum) as f32);
        let mixed = mixed.multiply_alpha((sum / 100.0).min(1.0) as f32);
        let color = match space {
            ColorSpaceTag::Hsl | ColorSpaceTag::Hwb => mixed.convert(ColorSpaceTag::Srgb),
            _ => mixed,
        };
        Some(AbsoluteColor {
            color,
            legacy: false,
        })
    }

    /// A color of a mix and its percentage.
    fn share(&self, part: &[Token], depth: usize) -> Option<(AbsoluteColor, Option<f64>)> {
        let parts = components(part);
        let percentage = |tokens: &[Token]| match tokens.first()? {
            only if only.kind == TokenKind::Percentage => only.number(self.source),
            first
                if first.kind == TokenKind::Function
                    && math::is_function(&first.name(self.source)) =>
            {
                let basis = Basis {
                    measures: self.context.measures,
                    percentage: None,
                    channels: &[],
                };
                let (value, unit) = simplify(&math::parse(self.source, tokens)?, &basis).leaf()?;
                (unit == LeafUnit::Percentage).then_some(value)
            }
            _ => None,
        };
        let at = parts.iter().position(|p| percentage(p).is_some());
        let share = at.and_then(|at| percentage(parts.get(at)?));
        let color = parts
            .iter()
            .enumerate()
            .find(|(other, _)| Some(*other) != at)?;
        let shade = self.color(color.1, depth + 1)?;
        Some((shade, share.map(|s| s.clamp(0.0, 100.0))))
    }
}

/// The component values of a function, commas, slashes and white space left out.
fn components(tokens: &[Token]) -> Vec<&[Token]> {
    let mut found = Vec::new();
    let mut at = 0;
    while let Some(token) = tokens.get(at) {
        let mut end = at + 1;
        if token.kind == TokenKind::Function || token.kind == TokenKind::OpenParenthesis {
            end = arguments(tokens, at).1;
        }
        let separates = token.kind.is_blank()
            || token.kind == TokenKind::Comma
            || (token.kind == TokenKind::Delim && end == at + 1);
        if !separates {
            found.push(tokens.cut(at..end));
        }
        at = end;
    }
    found
}

/// How a color function's components are written: how many of the written unit make one of the
/// space's, what 100 % is, and the names of its channels.
struct Form {
    space: ColorSpaceTag,
    scales: [f64; 3],
    whole: [f64; 3],
    names: [&'static str; 3],
}

impl Form {
    fn named(name: &str) -> Option<Form> {
        let form = |space, scales, whole, names| Form {
            space,
            scales,
            whole,
            names,
        };
        let one = [1.0; 3];
        Some(match name {
            "rgb" | "rgba" => form(ColorSpaceTag::Srgb, [255.0; 3], one, ["r", "g", "b"]),
            "hsl" | "hsla" => form(
                ColorSpaceTag::Hsl,
                one,
                [360.0, 100.0, 100.0],
                ["h", "s", "l"],
            ),
            "hwb" => form(
                ColorSpaceTag::Hwb,
                one,
                [360.0, 100.0, 100.0],
                ["h", "w", "b"],
            ),
            "lab" => form(
                ColorSpaceTag::Lab,
                one,
                [100.0, 125.0, 125.0],
                ["l", "a", "b"],
            ),
            "lch" => form(
                ColorSpaceTag::Lch,
                one,
                [100.0, 150.0, 360.0],
                ["l", "c", "h"],
            ),
            "oklab" => form(ColorSpaceTag::Oklab, one, [1.0, 0.4, 0.4], ["l", "a", "b"]),
            "oklch" => form(
                ColorSpaceTag::Oklch,
                one,
                [1.0, 0.4, 360.0],
                ["l", "c", "h"],
            ),
            "color" => form(ColorSpaceTag::Srgb, one, one, ["r", "g", "b"]),
            _ => return None,
        })
    }

    /// The form of `color(space …)`.
    fn of_space(name: &str) -> Option<Form> {
        let space = match name {
            "srgb" | "srgb-linear" | "display-p3" | "a98-rgb" | "prophoto-rgb" | "rec2020"
            | "xyz" | "xyz-d50" | "xyz-d65" => space_named(name)?,
            _ => return None,
        };
        let names = if name.starts_with("xyz") {
            ["x", "y", "z"]
        } else {
            ["r", "g", "b"]
        };
        let one = [1.0; 3];
        Some(Form {
            space,
            scales: one,
            whole: one,
            names,
        })
    }

    /// Color 4 § 4: lightness and chroma are clamped at parse time; a hue goes round.
    fn within(&self, mut values: [f32; 4], relative: bool) -> [f32; 4] {
        let turn = |hue: f32| hue.rem_euclid(360.0);
        match self.space {
            ColorSpaceTag::Lab | ColorSpaceTag::Lch => values[0] = values[0].clamp(0.0, 100.0),
            ColorSpaceTag::Oklab | ColorSpaceTag::Oklch => values[0] = values[0].clamp(0.0, 1.0),
            ColorSpaceTag::Hsl if !relative => {
                values[1] = values[1].clamp(0.0, 100.0);
                values[2] = values[2].clamp(0.0, 100.0);
            }
            _ => {}
        }
        match self.space {
            ColorSpaceTag::Lch | ColorSpaceTag::Oklch => {
                values[1] = values[1].max(0.0);
                values[2] = turn(values[2]);
            }
            ColorSpaceTag::Hsl | ColorSpaceTag::Hwb => values[0] = turn(values[0]),
            _ => {}
        }
        values
    }
}

fn space_named(name: &str) -> Option<ColorSpaceTag> {
    Some(match name {
        "srgb" => ColorSpaceTag::Srgb,
        "srgb-linear" => ColorSpaceTag::LinearSrgb,
        "display-p3" => ColorSpaceTag::DisplayP3,
        "a98-rgb" => ColorSpaceTag::A98Rgb,
        "prophoto-rgb" => ColorSpaceTag::ProphotoRgb,
        "rec2020" => ColorSpaceTag::Rec2020,
        "lab" => ColorSpaceTag::Lab,
        "lch" => ColorSpaceTag::Lch,
        "oklab" => ColorSpaceTag::Oklab,
        "oklch" => ColorSpaceTag::Oklch,
        "hsl" => ColorSpaceTag::Hsl,
        "hwb" => ColorSpaceTag::Hwb,
        "xyz" | "xyz-d65" => ColorSpaceTag::XyzD65,
        "xyz-d50" => ColorSpaceTag::XyzD50,
        _ => return None,
    })
}

/// A name or a hexadecimal notation.
fn legacy(text: &str) -> Option<AbsoluteColor> {
    // Some names are written with an e as well.
    let is_name = text.bytes().all(|b| b.is_ascii_alphabetic());
    let color = match is_name.then(|| text.to_ascii_lowercase().replace("grey", "gray")) {
        Some(name) => parse_color(&name).ok()?,
        None => parse_color(text).ok()?,
    };
    let legacy = true;
    Some(AbsoluteColor { color, legacy })
}

/// CSS Color 4 § 6.2 and § 10: the system colors as engines commonly give them.
fn system(name: &str, dark: bool) -> Option<&'static str> {
    let pick = |light, other| if dark { other } else { light };
    Some(match name {
        "canvas" | "window" => pick("#ffffff", "#121212"),
        "field" => pick("#ffffff", "#3b3b3b"),
        "canvastext" | "fieldtext" | "buttontext" | "windowtext" | "infotext" | "menutext"
        | "captiontext" => pick("#000000", "#ffffff"),
        "buttonborder" => pick("#000000", "#ffffff"),
        "highlighttext" | "marktext" | "selecteditemtext" | "accentcolortext" => "#000000",
        "linktext" => pick("#0000ee", "#9e9eff"),
        "visitedtext" => pick("#551a8b", "#d0adf0"),
        "activetext" => pick("#ff0000", "#ff9e9e"),
        "buttonface" | "threedface" | "buttonhighlight" | "buttonshadow" => {
            pick("#efefef", "#6b6b6b")
        }
        "mark" => "#ffff00",
        "graytext" => "#808080",
        _ => return None,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn legacy_colors_serialise_as_rgb() {
        let known = |text: &str| match read(text) {
            Color::Absolute(color) => color.to_string(),
            other => format!("{other:?}"),
        };
        assert_eq!(known("#0b3d5c"), "rgb(11, 61, 92)");
        assert_eq!(known("#0B3D5C80"), "rgba(11, 61, 92, 0.5)");
        assert_eq!(known("Navy"), "rgb(0, 0, 128)");
        assert_eq!(known("transparent"), "rgba(0, 0, 0, 0)");
        assert_eq!(known("hsl(120deg 100% 25%)"), "rgb(0, 128, 0)");
        assert_eq!(known("rgb(1 2 3 / 20%)"), "rgba(1, 2, 3, 0.2)");
        assert_eq!(known("rgb(255 200 0 / .9)"), "rgba(255, 200, 0, 0.9)");
        assert_eq!(known("rgba(0, 0, 0, .175)"), "rgba(0, 0, 0, 0.176)");
        assert_eq!(read("currentColor"), Color::Current);
    }
}
