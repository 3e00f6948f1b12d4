//! The parts of a value, each with its range and what it is: for whoever rewrites values.
//!
//! ```
//! use fingerpost::value::parts::{PartKind, parts};
//! use fingerpost::value::PropertyId;
//!
//! let value = "2px solid rgb(11 61 92 / var(--alpha))";
//! let found = parts(PropertyId::named("border"), value);
//! let texts: Vec<&str> = found.iter().map(|part| &value[part.bytes()]).collect();
//! assert_eq!(texts, ["2px", "solid", "11", "61", "92", "--alpha"]);
//! assert_eq!(found[0].kind, PartKind::Number { value: 2.0, unit: "px".to_owned() });
//! assert_eq!(found[5].kind, PartKind::CustomProperty("--alpha".to_owned()));
//!
//! // A word is what its property takes it for.
//! let kind = |property, value| parts(PropertyId::named(property), value).remove(0).kind;
//! assert!(matches!(kind("color", "teal"), PartKind::Color(_)));
//! assert_eq!(kind("animation-name", "teal"), PartKind::Name("teal".to_owned()));
//! assert_eq!(kind("display", "grid"), PartKind::Keyword("grid".to_owned()));
//! ```

use std::ops::Range;

use super::PropertyId;
use super::color::{self, Color};
use super::grammar::{Label, Match, match_property};
use super::substitution::value_tokens;
use crate::sheet::{Token, TokenKind, component_length};
use crate::text::{Cut, TextRange};

/// A part of a value.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct ValuePart {
    /// Where it is in the value, in bytes.
    pub range: TextRange,
    /// What it is.
    pub kind: PartKind,
}

/// What a part of a value is.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum PartKind {
    /// A color with all its components known, from its first character to its last (CSS Color 4 § 4). Its own parts follow it.
    Color(Color),
    /// A number with its unit: a length, an angle, a time and so on. The unit is in lower case, `%` for a percentage, and empty
    /// for a plain number (CSS Values 4 § 5 to § 7).
    Number {
        /// The number.
        value: f64,
        /// The unit.
        unit: String,
    },
    /// A URL, without its quotes and escapes; the range is all of `url(…)` (CSS Values 4 § 4.5).
    Url(String),
    /// A custom property in `var()`, with its dashes; the range is that of its name (Custom Properties 1 § 3).
    CustomProperty(String),
    /// A name of the author's: of an animation, a counter, a grid area, a font family without quotes (CSS Values 4 § 4.2).
    Name(String),
    /// A word of the standards, in lower case.
    Keyword(String),
    /// A string, without its quotes and escapes.
    Text(String),
}

impl ValuePart {
    /// The range as an index into the value.
    pub fn bytes(&self) -> Range<usize> {
        self.range.into()
    }
}

/// The parts of a value in source order; a part in another follows it. `property` is the one that the value is of, none for a
/// custom property: it says what a word is. Where the value does not fit the property, or has variables, words that can be
/// colors of it are.
pub fn parts(property: Option<PropertyId>, value: &str) -> Vec<ValuePart> {
    let tokens = value_tokens(value);
    let words = Words {
        fit: property.and_then(|property| match_property(property, value, &tokens).ok()),
        takes_color: property.is_none_or(takes_color),
        alone: tokens.iter().filter(|t| !t.kind.is_blank()).count() == 1,
        is_custom: property.is_none(),
    };
    let mut found = Vec::new();
    for (at, token) in tokens.iter().enumerate() {
        let rest = tokens.cut(at..);
        let Some((range, kind)) = part_at(value, rest, &words) else {
            continue;
        };
        // The string of a URL and the name of a variable were seen with their functions.
        let was_seen = |part: &ValuePart| {
            let is_whole = matches!(part.kind, PartKind::Url(_) | PartKind::CustomProperty(_));
            is_whole && part.range.contains_range(token.span())
        };
        if !found.last().is_some_and(was_seen) {
            found.push(ValuePart { range, kind });
        }
    }
    found
}

fn part_at(value: &str, rest: &[Token], words: &Words) -> Option<(TextRange, PartKind)> {
    let token = *rest.first()?;
    let span = token.span();
    let kind = match token.kind {
        TokenKind::Number | TokenKind::Percentage | TokenKind::Dimension => PartKind::Number {
            value: token.number(value)?,
            unit: match token.kind {
                TokenKind::Percentage => "%".to_owned(),
                TokenKind::Dimension => token.name(value).to_ascii_lowercase(),
                _ => String::new(),
            },
        },
        TokenKind::Text => PartKind::Text(token.string(value).into_owned()),
        TokenKind::Url => PartKind::Url(token.string(value).into_owned()),
        TokenKind::Hash | TokenKind::IdHash => PartKind::Color(absolute(value.cut(span))?),
        TokenKind::Function => return function_at(value, rest),
        TokenKind::Ident => words.word(value, token),
        _ => return None,
    };
    Some((span, kind))
}

/// A function that is a part by itself; of any other, only what is in it are parts.
fn function_at(value: &str, rest: &[Token]) -> Option<(TextRange, PartKind)> {
    let token = *rest.first()?;
    let whole = rest.cut(..component_length(rest));
    let span = whole
        .last()
        .map_or(token.span(), |last| token.span().cover(last.span()));
    let mut inside = whole.iter().skip(1).filter(|t| !t.kind.is_blank());
    let name = token.name(value).to_ascii_lowercase();
    match (name.as_str(), inside.next()) {
        ("var", Some(name)) if name.kind == TokenKind::Ident => {
            let kind = PartKind::CustomProperty(name.name(value).into_owned());
            Some((name.span(), kind))
        }
        ("url" | "src", Some(text)) if text.kind == TokenKind::Text => {
            Some((span, PartKind::Url(text.string(value).into_owned())))
        }
        _ => Some((span, PartKind::Color(absolute(value.cut(span))?))),
    }
}

/// A color that the text says in full.
fn absolute(text: &str) -> Option<Color> {
    let color = color::read(text);
    color.absolute().is_some().then_some(color)
}

/// What words of a value are.
struct Words {
    fit: Option<Match>,
    takes_color: bool,
    /// Whether the value is one word.
    alone: bool,
    is_custom: bool,
}

impl Words {
    fn word(&self, value: &str, token: Token) -> PartKind {
        let name = token.name(value);
        let color = || absolute(&name).map(PartKind::Color);
        let keyword = || PartKind::Keyword(name.to_ascii_lowercase());
        let Some(fit) = &self.fit else {
            let is_color = self.takes_color && (self.alone || !self.is_custom);
            return color().filter(|_| is_color).unwrap_or_else(keyword);
        };
        let span = token.span();
        if fit.has(span, |label| label == Label::Type("color"))
            && let Some(color) = color()
        {
            return color;
        }
        match fit.has(span, |label| label == Label::Keyword) {
            true => keyword(),
            false => PartKind::Name(name.into_owned()),
        }
    }
}

/// Whether some value of a property has a color in it.
fn takes_color(property: PropertyId) -> bool {
    ["red", "0 0 red", "drop-shadow(0 0 red)"]
        .iter()
        .any(|value| {
            let fit = match_property(property, value, &value_tokens(value));
            fit.is_ok_and(|fit| {
                let is_color = |label| label == Label::Type("color");
                fit.captured.iter().any(|part| is_color(part.label))
            })
        })
}
