//! Specified values: what a declaration's text says before it is known on which element.
//!
//! A text is read once, with what its grammar captured. What depends on nothing is computed there and
//! then; of the rest the value remembers what it [asks](Dependencies), so that only that is looked up.

use std::sync::Arc;

use smol_str::{SmolStr, ToSmolStr};

use super::asks::Dependencies;
use super::behavior::Behavior;
use super::color;
use super::computed::{ValueContext, computed};
use super::facts::PropertyId;
use super::grammar::{Label, Match};
use super::is_css_wide;
use super::math;
use super::part::{Open, Part, alone, is_of_font_size};
use super::serialise::{is_generic_family, is_plain_name, number};
use super::substitution::arguments;
use super::typed::{Component, Computed};
use super::units::{Scale, Unit};
use super::value_context::Measures;
use crate::sheet::{Token, TokenKind, component_length, cover};
use crate::text::{Cut, TextRange};

/// What a declared text says, read once.
#[derive(Debug)]
pub enum Specified {
    /// It computes to the same everywhere.
    Same(Computed),
    /// It depends on where it is.
    Open(Open),
}

impl Specified {
    /// Reads a value that fits its property's grammar. The base is the file that relative URLs refer to, by its name
    /// in the site; none leaves them as they are.
    pub fn read(
        property: PropertyId,
        source: &str,
        tokens: &[Token],
        matched: &Match,
        base: Option<&str>,
    ) -> Specified {
        let mut reader = Reader::new(Some(property), source, matched, base);
        let tokens = without_blanks(tokens);
        if let [first, ..] = tokens[..]
            && first.kind == TokenKind::Function
            && math::is_function(&first.name(source))
            && arguments(&tokens, 0).1 == tokens.len()
            && let Some(expression) = math::parse(source, &tokens)
        {
            reader.ask_expression(&tokens);
            let whole = vec![Part::WholeMath(Arc::new(expression))];
            return reader.finish(whole);
        }
        if let [only] = tokens[..]
            && let Some(parts) = alone(property, source, only)
        {
            for part in &parts {
                reader.asks |= match part {
                    Part::Length(_, unit) => Dependencies::of(unit),
                    Part::OfFontSize(_) => Dependencies::FONT,
                    Part::Weight(_) => Dependencies::PARENT_WEIGHT,
                    _ => Dependencies::empty(),
                };
            }
            return reader.finish(parts);
        }
        let parts = reader.parts(&tokens);
        reader.finish(parts)
    }

    /// Reads the value of a registered custom property, which has a type but no rules itself.
    pub fn read_registered(source: &str, tokens: &[Token], matched: &Match) -> Specified {
        let mut reader = Reader::new(None, source, matched, None);
        let parts = reader.parts(&without_blanks(tokens));
        reader.finish(parts)
    }

    /// What it depends on.
    pub fn asks(&self) -> Dependencies {
        match self {
            Specified::Same(_) => Dependencies::empty(),
            Specified::Open(open) => open.asks,
        }
    }

    /// What it computes to.
    pub fn computed(&self, context: &ValueContext<'_>) -> Computed {
        match self {
            Specified::Same(value) => value.clone(),
            Specified::Open(open) => computed(open, context),
        }
    }
}

fn without_blanks(tokens: &[Token]) -> Vec<Token> {
    let words = tokens.iter().copied();
    words.filter(|t| !t.kind.is_blank()).collect()
}

struct Reader<'a> {
    property: Option<PropertyId>,
    source: &'a str,
    matched: &'a Match,
    base: Option<&'a str>,
    /// Whether the strings are font families, which are written without quotes where they can be.
    families: bool,
    asks: Dependencies,
}

impl<'a> Reader<'a> {
    fn new(
        property: Option<PropertyId>,
        source: &'a str,
        matched: &'a Match,
        base: Option<&'a str>,
    ) -> Self {
        Reader {
            property,
            source,
            matched,
            base,
            families: property == Some(PropertyId::FONT_FAMILY),
            asks: Dependencies::empty(),
        }
    }

    fn finish(mut self, parts: Vec<Part>) -> Specified {
        let is_length =
            |part: &Part| !matches!(part, Part::Fixed(Component::Word(_) | Component::Color(_)));
        if self.property.is_some_and(|p| Behavior::of(p).snapped) && parts.iter().any(is_length) {
            self.asks |= Dependencies::RESOLUTION;
        }
        let open = Open {
            property: self.property,
            parts,
            asks: self.asks,
        };
        if open.asks.is_empty() {
            let measures = Measures::initial(0.0, 0.0);
            return Specified::Same(computed(&open, &ValueContext::of_nothing(&measures)));
        }
        Specified::Open(open)
    }

    fn parts(&mut self, tokens: &[Token]) -> Vec<Part> {
        let mut parts = Vec::new();
        let mut at = 0;
        while let Some(&token) = tokens.get(at) {
            let whole = tokens.cut(at..at + component_length(tokens.cut(at..)));
            let is_color = |label| label == Label::Type("color");
            if self.matched.has(cover(whole), is_color) {
                parts.push(self.color(cover(whole), whole));
                at += whole.len();
                continue;
            }
            match token.kind {
                TokenKind::Function if math::is_function(&token.name(self.source)) => {
                    let (_, after) = arguments(tokens, at);
                    parts.push(self.math(tokens.cut(at..after)));
                    at = after;
                }
                TokenKind::Function | TokenKind::OpenParenthesis => {
                    let (inner, after) = arguments(tokens, at);
                    parts.push(self.function(token, inner));
                    at = after;
                }
                TokenKind::OpenSquare => {
                    let (inner, after) = arguments(tokens, at);
                    let inside = self.parts(inner);
                    parts.push(match all_fixed(&inside) {
                        Some(fixed) => Part::Fixed(Component::SquareBlock(fixed)),
                        None => Part::SquareBlock(inside),
                    });
                    at = after;
                }
                TokenKind::Ident if self.families => {
                    let words = tokens.cut(at..).iter();
                    let words = words.take_while(|t| t.kind == TokenKind::Ident);
                    let names: Vec<_> = words.map(|t| t.name(self.source)).collect();
                    let family = match &names[..] {
                        [generic] if is_generic_family(generic) => {
                            Component::Word(generic.to_ascii_lowercase().into())
                        }
                        names => family(&names.join(" ")),
                    };
                    parts.push(Part::Fixed(family));
                    at += names.len();
                }
                _ => {
                    parts.push(self.part(token));
                    at += 1;
                }
            }
        }
        parts
    }

    fn color(&mut self, span: TextRange, tokens: &[Token]) -> Part {
        let text = self.source.cut(span);
        let mut asks = color::asks(self.source, tokens);
        // The keyword stays, but for the color itself, where it is the parent's: what inherits it takes the color of
        // the element that it results in.
        if self.property != Some(PropertyId::COLOR) {
            asks -= Dependencies::PARENT_COLOR;
        }
        self.asks |= asks;
        if asks.is_empty() {
            Part::Fixed(Component::Color(color::read(text)))
        } else {
            Part::Color(text.into())
        }
    }

    fn function(&mut self, token: Token, inner: &[Token]) -> Part {
        let name = match token.kind {
            TokenKind::Function => token.name(self.source).to_ascii_lowercase().to_smolstr(),
            _ => SmolStr::default(),
        };
        if let ("url", [only]) = (name.as_str(), inner)
            && only.kind == TokenKind::Text
        {
            return Part::Fixed(Component::Url(self.absolute_url(&only.string(self.source))));
        }
        let inside = self.parts(inner);
        match all_fixed(&inside) {
            Some(fixed) => Part::Fixed(Component::Function(name, fixed)),
            None => Part::Function(name, inside),
        }
    }

    fn part(&mut self, token: Token) -> Part {
        let raw = token.source(self.source);
        let value = || token.number(self.source).unwrap_or(0.0);
        Part::Fixed(match token.kind {
            TokenKind::Dimension => {
                let name = token.name(self.source);
                return match Unit::named(&name) {
                    Some(unit) => self.dimension(value(), unit),
                    // No property takes it; what a grammar lets through is kept.
                    None => {
                        let text = format!("{}{}", number(value()), name.to_ascii_lowercase());
                        Part::Fixed(Component::Mark(text.into()))
                    }
                };
            }
            TokenKind::Number if value() == 0.0 && self.is_length(token) => Component::pixels(0.0),
            TokenKind::Number => Component::Number(value()),
            TokenKind::Percentage => Component::Percentage(value()),
            TokenKind::Ident if self.is_keyword(token) => {
                Component::Word(raw.to_ascii_lowercase().into())
            }
            TokenKind::Ident => Component::Word(raw.into()),
            TokenKind::Text if self.families => family(&token.string(self.source)),
            TokenKind::Text => Component::Text((&*token.string(self.source)).into()),
            TokenKind::Url => Component::Url(self.absolute_url(&token.string(self.source))),
            TokenKind::Comma => Component::Comma,
            _ => Component::Mark(raw.into()),
        })
    }

    fn dimension(&mut self, value: f64, unit: &'static Unit) -> Part {
        let asks = Dependencies::of(unit);
        self.asks |= asks;
        match unit.scale {
            // CSSOM § 6.7.2: lengths in px, times in seconds, angles in degrees, resolutions in dppx.
            Scale::Fixed(size) => Part::Fixed(Component::Dimension(value * size, unit.canonical())),
            _ => Part::Length(value, unit),
        }
    }

    /// A math function; one that makes no sense stays as it is written.
    fn math(&mut self, tokens: &[Token]) -> Part {
        let Some(expression) = math::parse(self.source, tokens) else {
            let text = self.source.cut(cover(tokens));
            return Part::Fixed(Component::Written(text.into()));
        };
        self.ask_expression(tokens);
        // CSS Values 4 § 10.9.1: where an integer is asked for, a number is rounded.
        let integer = match (tokens.first(), tokens.last()) {
            (Some(first), Some(last)) => {
                let span = first.span().cover(last.span());
                let is_integer = |label| label == Label::Type("integer");
                self.matched.has(span, is_integer)
            }
            _ => false,
        };
        Part::Math {
            expression: Arc::new(expression),
            integer,
        }
    }

    fn ask_expression(&mut self, tokens: &[Token]) {
        for token in tokens {
            self.asks |= match token.kind {
                TokenKind::Dimension => Unit::named(&token.name(self.source))
                    .map_or(Dependencies::empty(), Dependencies::of),
                TokenKind::Percentage if self.property.is_some_and(is_of_font_size) => {
                    Dependencies::FONT
                }
                _ => Dependencies::empty(),
            };
        }
    }

    /// CSS Values 4 § 4.5.1: a URL's computed value is absolute; ours begin at the site's root.
    fn absolute_url(&self, url: &str) -> Arc<str> {
        // URL § 4.4: what follows a question mark is encoded, also of data; engines encode apostrophes too.
        if url.len() > 5
            && url.is_char_boundary(5)
            && url.cut(..5).eq_ignore_ascii_case("data:")
            && let Ok(data) = url::Url::parse(url)
            && let Some(query) = data.query()
        {
            let encoded = query.replace('\'', "%27");
            return data.as_str().replace(query, &encoded).into();
        }
        let joined = self.base.and_then(|base| {
            let root = url::Url::parse("http://site.invalid/").ok()?;
            let absolute = root.join(base).ok()?.join(url).ok()?;
            (absolute.host_str() == Some("site.invalid") && !url.starts_with('#'))
                .then(|| absolute[url::Position::BeforePath..].into())
        });
        joined.unwrap_or_else(|| url.into())
    }

    fn is_length(&self, token: Token) -> bool {
        self.matched.has(token.span(), |label| {
            matches!(
                label,
                Label::Type("length" | "length-percentage" | "line-width")
            )
        })
    }

    fn is_keyword(&self, token: Token) -> bool {
        self.matched
            .has(token.span(), |label| label == Label::Keyword)
    }
}

/// The components, where all parts are known.
fn all_fixed(parts: &[Part]) -> Option<Vec<Component>> {
    let fixed = parts.iter().map(|part| match part {
        Part::Fixed(component) => Some(component.clone()),
        _ => None,
    });
    fixed.collect()
}

/// CSSOM § 6.7.2: in quotes unless it is one identifier, and one that does not mean something else without them (Fonts 4
/// § 2.1.3).
fn family(name: &str) -> Component {
    if is_plain_name(name)
        && !is_generic_family(name)
        && !is_css_wide(name)
        && !name.eq_ignore_ascii_case("default")
    {
        Component::Word(name.into())
    } else {
        Component::Text(name.into())
    }
}
