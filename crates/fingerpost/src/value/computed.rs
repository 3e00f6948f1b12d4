//! Computed values: relative parts of a value made absolute, and the whole serialised as CSSOM
//! asks for it.
//!
//! The grammar's captures say which parts are lengths, colours and keywords, so one walk over the
//! value serves every property. What only layout can know (percentages of a box, `auto`) stays as
//! it is.

use super::arranged::arranged;
use super::calc::{Basis, Calc, Unit, simplify};
use super::color::{self, Colour, Light};
use super::facts::PropertyId;
use super::grammar::{Label, Match, match_property};
use super::math::{self, Expression};
use super::substitution::{arguments, value_tokens};
use super::units::{self, Dimension, FontMeasure, Scale, Side};
use crate::sheet::{Kind, Token, cover};
use crate::text::{Cut, TextRange};

/// What relative units refer to, in px.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Measures {
    /// The element's own font size (its parent's, while the font size itself is computed).
    pub font_size: f64,
    /// The root element's font size.
    pub root_font_size: f64,
    /// The element's line height.
    pub line_height: f64,
    /// The root element's line height.
    pub root_line_height: f64,
    /// The viewport's width.
    pub viewport_width: f64,
    /// The viewport's height.
    pub viewport_height: f64,
    /// Device pixels for each px.
    pub resolution: f64,
    /// What container units refer to.
    pub container: Container,
}

impl Measures {
    /// What units refer to where there is no element: initial values.
    pub fn initial(viewport_width: f64, viewport_height: f64) -> Measures {
        Measures {
            font_size: MEDIUM_FONT_SIZE,
            root_font_size: MEDIUM_FONT_SIZE,
            line_height: MEDIUM_FONT_SIZE * NORMAL_LINE_HEIGHT,
            root_line_height: MEDIUM_FONT_SIZE * NORMAL_LINE_HEIGHT,
            viewport_width,
            viewport_height,
            resolution: 1.0,
            container: Container::Viewport,
        }
    }
}

/// What container units refer to.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Container {
    /// No container is around: the viewport (Conditional Rules 5 § 6).
    Viewport,
    /// One of a known size: its width and height.
    Known(f64, f64),
    /// One whose size only layout knows.
    OfLayout,
}

/// The initial font size: `medium`, which every engine takes for 16px.
pub const MEDIUM_FONT_SIZE: f64 = 16.0;

/// What `line-height: normal` is taken for where a unit needs it, since only a font can say:
/// the middle of the range that CSS 2 § 10.8 recommends.
pub const NORMAL_LINE_HEIGHT: f64 = 1.2;

/// CSS Values 4 § 6.1.1: without a font, `ex` and `ch` are half an em, `ic` and `cap` one.
const HALF_AN_EM: f64 = 0.5;

impl Measures {
    /// How many px a length in a unit is; `None` where only layout knows (container units).
    pub fn pixels(&self, number: f64, unit: &str) -> Option<f64> {
        let (dimension, scale) = units::unit(unit)?;
        if dimension != Dimension::Length {
            return None;
        }
        let size = match scale {
            Scale::Fixed(size) => size,
            Scale::Font(measure) => match measure {
                FontMeasure::Em | FontMeasure::Ic | FontMeasure::Cap => self.font_size,
                FontMeasure::Rem | FontMeasure::Ric | FontMeasure::Rcap => self.root_font_size,
                FontMeasure::Ex | FontMeasure::Ch => self.font_size * HALF_AN_EM,
                FontMeasure::Rex | FontMeasure::Rch => self.root_font_size * HALF_AN_EM,
                FontMeasure::Lh => self.line_height,
                FontMeasure::Rlh => self.root_line_height,
            },
            Scale::Viewport(side) => of_side(side, self.viewport_width, self.viewport_height),
            Scale::Container(side) => match self.container {
                Container::Viewport => of_side(side, self.viewport_width, self.viewport_height),
                Container::Known(width, height) => of_side(side, width, height),
                Container::OfLayout => return None,
            },
        };
        Some(number * size)
    }
}

/// A hundredth of a side.
fn of_side(side: Side, width: f64, height: f64) -> f64 {
    let side = match side {
        Side::Width | Side::Inline => width,
        Side::Height | Side::Block => height,
        Side::Smallest => width.min(height),
        Side::Largest => width.max(height),
    };
    side / 100.0
}

/// How many significant digits engines write of a number.
const SIGNIFICANT_DIGITS: i32 = 6;

/// A number as CSSOM writes it and engines cut it: six significant digits, no zeros at the end.
pub fn number(value: f64) -> String {
    if value == 0.0 || !value.is_finite() {
        return match value {
            // Values 4 § 10.12: what is infinite is as large as a computed value can be; engines' lengths
            // go so far.
            f64::INFINITY => "33554400".to_owned(),
            f64::NEG_INFINITY => "-33554400".to_owned(),
            _ => "0".to_owned(),
        };
    }
    let magnitude = value.abs().log10().floor() as i32 + 1;
    let decimals = (SIGNIFICANT_DIGITS - magnitude).clamp(0, 12) as usize;
    let text = format!("{value:.decimals$}");
    let text = match text.contains('.') {
        true => text.trim_end_matches('0').trim_end_matches('.'),
        false => &text,
    };
    match text {
        "-0" | "" => "0".to_owned(),
        text => text.to_owned(),
    }
}

/// What a value is computed in.
#[derive(Clone, Copy, Debug)]
pub struct Surroundings<'a> {
    /// What relative units refer to.
    pub measures: &'a Measures,
    /// What `currentcolor` becomes.
    pub current_color: &'a str,
    /// Whether the element's used colour scheme is dark.
    pub dark: bool,
    /// The file that relative URLs refer to, by its name in the site; none leaves them as they are.
    pub base: Option<&'a str>,
}

impl Surroundings<'_> {
    fn light(&self) -> Light<'_> {
        let known = self.current_color != "currentcolor";
        Light {
            current: known.then_some(self.current_color),
            dark: self.dark,
            measures: self.measures,
        }
    }
}

/// The computed value of a declared value that fits its grammar.
pub fn computed(
    property: PropertyId,
    source: &str,
    tokens: &[Token],
    matched: &Match,
    surroundings: &Surroundings<'_>,
) -> String {
    let text = unsnapped(property, source, tokens, matched, surroundings);
    let facts = property.facts();
    if !facts.computed.ends_with("snapped as a border width") {
        return text;
    }
    let resolution = surroundings.measures.resolution;
    let words = text.split(' ').map(|word| snapped(word, resolution));
    words.collect::<Vec<_>>().join(" ")
}

/// A length in px as whole device pixels: less than one becomes one, more is rounded down (Values 4
/// § 5.3, Snapping Lengths as Border Widths).
fn snapped(length: &str, resolution: f64) -> String {
    match length
        .strip_suffix("px")
        .and_then(|n| n.parse::<f64>().ok())
    {
        Some(pixels) if pixels > 0.0 => {
            let device = (pixels * resolution).floor().max(1.0);
            format!("{}px", number(device / resolution))
        }
        _ => length.to_owned(),
    }
}

fn unsnapped(
    property: PropertyId,
    source: &str,
    tokens: &[Token],
    matched: &Match,
    surroundings: &Surroundings<'_>,
) -> String {
    let measures = surroundings.measures;
    let tokens = without_blanks(tokens);
    // These percentages are of the font size, which is known.
    let percentage = matches!(property, PropertyId::FONT_SIZE | PropertyId::LINE_HEIGHT)
        .then_some(surroundings.measures.font_size);
    if let [first, ..] = tokens[..]
        && first.kind == Kind::Function
        && math::is_function(&first.name(source))
        && arguments(&tokens, 0).1 == tokens.len()
        && let Some(text) = whole_math(property, source, &tokens, measures, percentage)
    {
        return text;
    }
    if let [only] = tokens[..]
        && let Some(special) = single(property, source, only, measures)
    {
        return arranged(property, special);
    }
    let mut walk = Walk {
        source,
        matched,
        surroundings,
        percentage,
        families: property == PropertyId::FONT_FAMILY,
        out: String::new(),
    };
    walk.run(&tokens);
    arranged(property, walk.out)
}

/// The computed value of a registered custom property, which has a type but no rules of its own.
pub fn computed_free(
    source: &str,
    tokens: &[Token],
    matched: &Match,
    surroundings: &Surroundings<'_>,
) -> String {
    let mut walk = Walk {
        source,
        matched,
        surroundings,
        percentage: None,
        families: false,
        out: String::new(),
    };
    walk.run(&without_blanks(tokens));
    walk.out
}

fn without_blanks(tokens: &[Token]) -> Vec<Token> {
    let words = tokens.iter().copied();
    words.filter(|t| !t.kind.is_blank()).collect()
}

/// A value that is one math function. Where it comes to one number, that is read as if it had been
/// written, and clamped to what the property takes (CSS Values 4 § 10.5).
fn whole_math(
    property: PropertyId,
    source: &str,
    tokens: &[Token],
    measures: &Measures,
    percentage: Option<f64>,
) -> Option<String> {
    let basis = Basis {
        measures,
        percentage,
        channels: &[],
    };
    let (value, unit) = simplify(&math::parse(source, tokens)?, &basis).leaf()?;
    let text = |value: f64| Calc::Leaf(value, unit).text();
    let fits = |text: &str| match_property(property, text, &value_tokens(text)).is_ok();
    // What is too large goes to the end of the range; every range ends at 0, 1 or 1000.
    let ends: &[f64] = if value > 1.0 {
        &[1000.0, 1.0, 0.0]
    } else {
        &[0.0, 1.0]
    };
    let wanted = [value, (value + 0.5).floor()]
        .into_iter()
        .chain(ends.iter().copied())
        .find(|value| fits(&text(*value)))?;
    let exact = property == PropertyId::FONT_SIZE && unit == Unit::Of("px");
    let shown = if exact {
        format!("{}px", wanted.max(0.0))
    } else {
        text(wanted)
    };
    let only = *value_tokens(&shown).first()?;
    let special = single(property, &shown, only, measures);
    Some(arranged(property, special.unwrap_or(shown)))
}

/// Values of one word or number with a rule of their own.
fn single(property: PropertyId, source: &str, token: Token, measures: &Measures) -> Option<String> {
    let word = token.name(source).to_ascii_lowercase();
    // A font size is what other lengths are made of: it is cut to six digits only when shown.
    let exact = property == PropertyId::FONT_SIZE;
    let pixels = |size: f64| {
        Some(if exact {
            format!("{size}px")
        } else {
            format!("{}px", number(size))
        })
    };
    match property {
        // Fonts 4 § 2.5; percentages and em are of the parent's size, which `measures` has here.
        PropertyId::FONT_SIZE => match (token.kind, word.as_str()) {
            (Kind::Dimension, unit) => pixels(measures.pixels(token.number(source)?, unit)?),
            (Kind::Percentage, _) => pixels(measures.font_size * token.number(source)? / 100.0),
            (_, "larger") => pixels(measures.font_size * 1.2),
            (_, "smaller") => pixels(measures.font_size / 1.2),
            (_, word) => pixels(match word {
                "xx-small" => 9.0,
                "x-small" => 10.0,
                "small" => 13.0,
                "medium" => MEDIUM_FONT_SIZE,
                "large" => 18.0,
                "x-large" => 24.0,
                "xx-large" => 32.0,
                "xxx-large" => 48.0,
                _ => return None,
            }),
        },
        PropertyId::FONT_WEIGHT => match word.as_str() {
            "normal" => Some("400".to_owned()),
            "bold" => Some("700".to_owned()),
            _ => None,
        },
        PropertyId::LINE_HEIGHT if token.kind == Kind::Percentage => {
            pixels(measures.font_size * token.number(source)? / 100.0)
        }
        PropertyId::BORDER_TOP_WIDTH
        | PropertyId::BORDER_RIGHT_WIDTH
        | PropertyId::BORDER_BOTTOM_WIDTH
        | PropertyId::BORDER_LEFT_WIDTH
        | PropertyId::BORDER_BLOCK_START_WIDTH
        | PropertyId::BORDER_BLOCK_END_WIDTH
        | PropertyId::BORDER_INLINE_START_WIDTH
        | PropertyId::BORDER_INLINE_END_WIDTH
        | PropertyId::OUTLINE_WIDTH
        | PropertyId::COLUMN_RULE_WIDTH
        | PropertyId::ROW_RULE_WIDTH
        | PropertyId::WEBKIT_TEXT_STROKE_WIDTH => match word.as_str() {
            "thin" => pixels(1.0),
            "medium" => pixels(3.0),
            "thick" => pixels(5.0),
            _ => None,
        },
        // Fonts 4 § 2.3: a width's computed value is a percentage.
        PropertyId::FONT_WIDTH => Some(
            match word.as_str() {
                "ultra-condensed" => "50%",
                "extra-condensed" => "62.5%",
                "condensed" => "75%",
                "semi-condensed" => "87.5%",
                "normal" => "100%",
                "semi-expanded" => "112.5%",
                "expanded" => "125%",
                "extra-expanded" => "150%",
                "ultra-expanded" => "200%",
                _ => return None,
            }
            .to_owned(),
        ),
        // Fragmentation 3 § 3.4: the old names' `always` is a page.
        PropertyId::BREAK_BEFORE | PropertyId::BREAK_AFTER if word == "always" => {
            Some("page".to_owned())
        }
        // Text 4 § 9.1: normal is zero.
        PropertyId::WORD_SPACING if word == "normal" => Some("0px".to_owned()),
        // Motion Path 1 § 4.5: the angle is always written.
        PropertyId::OFFSET_ROTATE if word == "auto" || word == "reverse" => {
            Some(format!("{word} 0deg"))
        }
        // Borders 4 § 3.3: the keywords are superellipses.
        PropertyId::CORNER_TOP_LEFT_SHAPE
        | PropertyId::CORNER_TOP_RIGHT_SHAPE
        | PropertyId::CORNER_BOTTOM_LEFT_SHAPE
        | PropertyId::CORNER_BOTTOM_RIGHT_SHAPE
        | PropertyId::CORNER_START_START_SHAPE
        | PropertyId::CORNER_START_END_SHAPE
        | PropertyId::CORNER_END_START_SHAPE
        | PropertyId::CORNER_END_END_SHAPE => {
            let exponent = match word.as_str() {
                "round" => "1",
                "squircle" => "2",
                "square" => "infinity",
                "bevel" => "0",
                "scoop" => "-1",
                "notch" => "-infinity",
                _ => return None,
            };
            Some(format!("superellipse({exponent})"))
        }
        // Color 4 § 3.3: what is out of range is clamped.
        PropertyId::OPACITY
        | PropertyId::FILL_OPACITY
        | PropertyId::STROKE_OPACITY
        | PropertyId::STOP_OPACITY
        | PropertyId::FLOOD_OPACITY => {
            let scale = match token.kind {
                Kind::Percentage => 0.01,
                Kind::Number => 1.0,
                _ => return None,
            };
            Some(number((token.number(source)? * scale).clamp(0.0, 1.0)))
        }
        _ => None,
    }
}

struct Walk<'a> {
    source: &'a str,
    matched: &'a Match,
    surroundings: &'a Surroundings<'a>,
    /// What 100 % is in px, where that is known.
    percentage: Option<f64>,
    /// Whether the strings are font families, which are written without quotes where they can be.
    families: bool,
    out: String,
}

impl Walk<'_> {
    fn run(&mut self, tokens: &[Token]) {
        let mut at = 0;
        while let Some(&token) = tokens.get(at) {
            if let Some(span) = self.color_at(token) {
                let light = self.surroundings.light();
                let text = match color::read_in(self.source.cut(span), &light) {
                    Colour::Known(text) => text,
                    Colour::Current => self.surroundings.current_color.to_owned(),
                    Colour::AsWritten => self.source.cut(span).to_ascii_lowercase(),
                };
                self.push(&text, false);
                let inside = tokens.cut(at..).iter();
                at += inside
                    .take_while(|t| t.end <= u32::from(span.end()))
                    .count()
                    .max(1);
                continue;
            }
            if token.kind == Kind::Function && math::is_function(&token.name(self.source)) {
                let (_, after) = arguments(tokens, at);
                let span = cover(tokens.cut(at..after));
                let text = self.math(tokens.cut(at..after));
                self.push(text.as_deref().unwrap_or(self.source.cut(span)), false);
                at = after;
                continue;
            }
            if token.kind == Kind::Function || token.kind == Kind::OpenParenthesis {
                let (inner, after) = arguments(tokens, at);
                let name = token.name(self.source).to_ascii_lowercase();
                let open = if token.kind == Kind::Function {
                    format!("{name}(")
                } else {
                    "(".to_owned()
                };
                self.push(&open, false);
                if let ("url", [only]) = (name.as_str(), inner)
                    && only.kind == Kind::Text
                {
                    let url = self.absolute_url(&only.string(self.source));
                    self.push(&string(&url), false);
                } else {
                    self.run(inner);
                }
                self.out.push(')');
                at = after;
                continue;
            }
            if self.families && token.kind == Kind::Ident {
                let words = tokens
                    .cut(at..)
                    .iter()
                    .take_while(|t| t.kind == Kind::Ident);
                let names: Vec<_> = words.map(|t| t.name(self.source)).collect();
                let family = match &names[..] {
                    [generic] if is_generic_family(generic) => generic.to_ascii_lowercase(),
                    names => family_name(&names.join(" ")),
                };
                self.push(&family, false);
                at += names.len();
                continue;
            }
            self.token(token);
            at += 1;
        }
    }

    fn color_at(&self, token: Token) -> Option<TextRange> {
        let found =
            self.matched.captured.iter().filter(|c| {
                c.label == Label::Type("color") && c.span.start() == token.span().start()
            });
        found.map(|c| c.span).max_by_key(|span| span.len())
    }

    fn token(&mut self, token: Token) {
        let raw = token.source(self.source);
        let text = match token.kind {
            Kind::Dimension => {
                let value = token.number(self.source).unwrap_or(0.0);
                let unit = token.name(self.source).to_ascii_lowercase();
                match self.surroundings.measures.pixels(value, &unit) {
                    Some(pixels) => format!("{}px", number(pixels)),
                    None => absolute(value, &unit),
                }
            }
            Kind::Number => {
                let value = token.number(self.source).unwrap_or(0.0);
                let length = value == 0.0 && self.is_length(token);
                format!("{}{}", number(value), if length { "px" } else { "" })
            }
            Kind::Percentage => format!("{}%", number(token.number(self.source).unwrap_or(0.0))),
            Kind::Ident if self.is_keyword(token) => raw.to_ascii_lowercase(),
            Kind::Text if self.families => family_name(&token.string(self.source)),
            Kind::Text => string(&token.string(self.source)),
            Kind::Url => format!(
                "url({})",
                string(&self.absolute_url(&token.string(self.source)))
            ),
            _ => raw.to_owned(),
        };
        let tight = matches!(
            token.kind,
            Kind::Comma | Kind::CloseParenthesis | Kind::CloseSquare
        );
        self.push(&text, tight);
    }

    /// CSS Values 4 § 4.5.1: a URL's computed value is absolute; ours begin at the site's root.
    fn absolute_url(&self, url: &str) -> String {
        // URL § 4.4: what follows a question mark is encoded, also of data; engines encode apostrophes too.
        if url.len() > 5
            && url.is_char_boundary(5)
            && url.cut(..5).eq_ignore_ascii_case("data:")
            && let Ok(data) = url::Url::parse(url)
            && let Some(query) = data.query()
        {
            return data.as_str().replace(query, &query.replace('\'', "%27"));
        }
        let joined = self.surroundings.base.and_then(|base| {
            let root = url::Url::parse("http://site.invalid/").ok()?;
            let absolute = root.join(base).ok()?.join(url).ok()?;
            (absolute.host_str() == Some("site.invalid") && !url.starts_with('#'))
                .then(|| absolute[url::Position::BeforePath..].to_owned())
        });
        joined.unwrap_or_else(|| url.to_owned())
    }

    fn is_length(&self, token: Token) -> bool {
        self.captured(token, |label| {
            matches!(
                label,
                Label::Type("length" | "length-percentage" | "line-width")
            )
        })
    }

    fn is_keyword(&self, token: Token) -> bool {
        self.captured(token, |label| label == Label::Keyword)
    }

    fn captured(&self, token: Token, wanted: impl Fn(Label) -> bool) -> bool {
        self.matched
            .captured
            .iter()
            .any(|c| c.span == token.span() && wanted(c.label))
    }

    fn push(&mut self, text: &str, tight: bool) {
        let opened = self.out.is_empty() || self.out.ends_with(['(', '[']);
        if !opened && !tight {
            self.out.push(' ');
        }
        self.out.push_str(text);
    }

    /// A math function as far as it can be worked out.
    fn math(&self, tokens: &[Token]) -> Option<String> {
        let basis = Basis {
            measures: self.surroundings.measures,
            percentage: self.percentage,
            channels: &[],
        };
        let calc = simplify(&math::parse(self.source, tokens)?, &basis);
        // CSS Values 4 § 10.9.1: where an integer is asked for, a number is rounded.
        let integer = self.captured_from(tokens, "integer");
        Some(match calc.leaf() {
            Some((value, Unit::Number)) if integer => number((value + 0.5).floor()),
            _ => calc.text(),
        })
    }

    fn captured_from(&self, tokens: &[Token], name: &'static str) -> bool {
        let (Some(first), Some(last)) = (tokens.first(), tokens.last()) else {
            return false;
        };
        let span = first.span().cover(last.span());
        let mut all = self.matched.captured.iter();
        all.any(|c| c.span == span && c.label == Label::Type(name))
    }
}

/// CSSOM § 6.7.2: times in seconds, angles in degrees, resolutions in dppx.
fn absolute(value: f64, unit: &str) -> String {
    let canonical = match units::unit(unit) {
        Some((Dimension::Time, Scale::Fixed(scale))) => (value * scale, "s"),
        Some((Dimension::Angle, Scale::Fixed(scale))) => (value * scale, "deg"),
        Some((Dimension::Resolution, Scale::Fixed(scale))) => (value * scale, "dppx"),
        _ => (value, unit),
    };
    format!("{}{}", number(canonical.0), canonical.1)
}

fn is_generic_family(name: &str) -> bool {
    let generic = [
        "serif",
        "sans-serif",
        "cursive",
        "fantasy",
        "monospace",
        "system-ui",
        "math",
        "ui-serif",
        "ui-sans-serif",
        "ui-monospace",
        "ui-rounded",
    ];
    generic.iter().any(|g| name.eq_ignore_ascii_case(g))
}

/// CSSOM § 6.7.2: in quotes unless it is one identifier.
fn family_name(name: &str) -> String {
    if is_plain_name(name) {
        name.to_owned()
    } else {
        string(name)
    }
}

/// Whether a font family's name is one identifier.
fn is_plain_name(text: &str) -> bool {
    let start = text.strip_prefix('-').unwrap_or(text);
    !start.is_empty()
        && !start.starts_with(|c: char| c.is_ascii_digit())
        && text
            .chars()
            .all(|c| c.is_alphanumeric() || matches!(c, '-' | '_'))
}

/// CSSOM § 2.1: serialise a string.
pub fn string(text: &str) -> String {
    let mut out = String::from("\"");
    for character in text.chars() {
        match character {
            '"' | '\\' => {
                out.push('\\');
                out.push(character);
            }
            '\0'..='\x1f' | '\x7f' => out.push_str(&format!("\\{:x} ", u32::from(character))),
            _ => out.push(character),
        }
    }
    out.push('"');
    out
}

/// What an expression comes to, where that is one number: px for lengths.
pub fn evaluate(expression: &Expression, measures: &Measures) -> Option<f64> {
    let basis = Basis {
        measures,
        percentage: None,
        channels: &[],
    };
    match simplify(expression, &basis).leaf()? {
        (_, Unit::Percentage | Unit::Container(_)) => None,
        (value, _) => Some(value),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::value::grammar::match_property;
    use crate::value::substitution::value_tokens;

    const MEASURES: Measures = Measures {
        font_size: 20.0,
        root_font_size: 16.0,
        line_height: 24.0,
        root_line_height: 19.2,
        viewport_width: 1280.0,
        viewport_height: 800.0,
        resolution: 1.0,
        container: Container::Viewport,
    };

    fn value(property: &str, text: &str) -> String {
        let property = PropertyId::named(property).unwrap();
        let tokens = value_tokens(text);
        let matched = match_property(property, text, &tokens).unwrap();
        let surroundings = Surroundings {
            measures: &MEASURES,
            current_color: "rgb(1, 2, 3)",
            dark: false,
            base: Some("css/a.css"),
        };
        computed(property, text, &tokens, &matched, &surroundings)
    }

    #[test]
    fn relative_parts_become_absolute() {
        assert_eq!(value("padding-left", "1.5em"), "30px");
        assert_eq!(value("margin-top", "0"), "0px");
        assert_eq!(value("width", "calc(10vw + 1rem)"), "144px");
        assert_eq!(value("width", "50%"), "50%");
        assert_eq!(value("font-size", "120%"), "24px");
        assert_eq!(value("line-height", "1.50"), "1.5");
        assert_eq!(value("border-top-width", "thick"), "5px");
        assert_eq!(value("border-top-width", "0.2px"), "1px");
        assert_eq!(value("outline-width", "calc(1px + 1.9px)"), "2px");
        assert_eq!(value("transition-duration", "200ms"), "0.2s");
    }

    #[test]
    fn colours_and_lists_are_serialised() {
        assert_eq!(value("color", "Navy"), "rgb(0, 0, 128)");
        assert_eq!(value("border-top-color", "currentcolor"), "rgb(1, 2, 3)");
        assert_eq!(
            value("font-family", "Skerry Sans,'A  B',serif"),
            "\"Skerry Sans\", \"A  B\", serif"
        );
        assert_eq!(
            value("grid-template-columns", "[a]  1fr repeat( 2 , 1em )"),
            "[a] 1fr repeat(2, 20px)"
        );
        assert_eq!(value("display", "BLOCK"), "block");
        assert_eq!(
            value("background-image", "url(../a.svg)"),
            "url(\"/a.svg\")"
        );
    }
}
