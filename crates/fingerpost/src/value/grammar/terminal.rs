//! The types that the grammar engine knows by itself: what CSS Values defines in prose.

use crate::sheet::{Token, TokenKind};
use crate::text::Cut;
use crate::value::math;
use crate::value::units::Dimension;

/// A type defined in prose.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Terminal {
    Angle,
    AnglePercentage,
    AnyValue,
    CustomIdent,
    CustomPropertyName,
    DashedIdent,
    Decibel,
    DimensionToken,
    Flex,
    Frequency,
    FrequencyPercentage,
    FunctionToken,
    HashToken,
    HexColor,
    Ident,
    Integer,
    Length,
    LengthPercentage,
    Number,
    NumberToken,
    Percentage,
    Resolution,
    Semitones,
    Text,
    Time,
    TimePercentage,
    UrlToken,
    Zero,
}

/// The words that no custom identifier can be (Values 4 § 4.2).
const NOT_CUSTOM: [&str; 6] = [
    "default",
    "inherit",
    "initial",
    "revert",
    "revert-layer",
    "unset",
];

impl Terminal {
    const ALL: [(&'static str, Terminal); 33] = [
        ("angle", Terminal::Angle),
        ("angle-percentage", Terminal::AnglePercentage),
        ("any-value", Terminal::AnyValue),
        ("custom-ident", Terminal::CustomIdent),
        ("custom-property-name", Terminal::CustomPropertyName),
        ("dashed-ident", Terminal::DashedIdent),
        ("decibel", Terminal::Decibel),
        ("declaration-value", Terminal::AnyValue),
        ("dimension", Terminal::DimensionToken),
        ("dimension-token", Terminal::DimensionToken),
        ("flex", Terminal::Flex),
        ("frequency", Terminal::Frequency),
        ("frequency-percentage", Terminal::FrequencyPercentage),
        ("function-token", Terminal::FunctionToken),
        ("hash-token", Terminal::HashToken),
        ("hex-color", Terminal::HexColor),
        ("ident", Terminal::Ident),
        ("ident-token", Terminal::Ident),
        ("integer", Terminal::Integer),
        ("length", Terminal::Length),
        ("length-percentage", Terminal::LengthPercentage),
        ("number", Terminal::Number),
        ("number-token", Terminal::NumberToken),
        ("percentage", Terminal::Percentage),
        ("percentage-token", Terminal::Percentage),
        ("resolution", Terminal::Resolution),
        ("semitones", Terminal::Semitones),
        ("string", Terminal::Text),
        ("string-token", Terminal::Text),
        ("time", Terminal::Time),
        ("time-percentage", Terminal::TimePercentage),
        ("url-token", Terminal::UrlToken),
        ("zero", Terminal::Zero),
    ];

    pub(super) fn named(name: &str) -> Option<Terminal> {
        Terminal::ALL
            .iter()
            .find(|(known, _)| *known == name)
            .map(|(_, terminal)| *terminal)
    }

    pub(super) fn name(self) -> &'static str {
        Terminal::ALL
            .iter()
            .find(|(_, terminal)| *terminal == self)
            .map_or("", |(name, _)| name)
    }

    fn dimension(self) -> Option<Dimension> {
        Some(match self {
            Terminal::Angle => Dimension::Angle,
            Terminal::Flex => Dimension::Flex,
            Terminal::Frequency => Dimension::Frequency,
            Terminal::Length => Dimension::Length,
            Terminal::Resolution => Dimension::Resolution,
            Terminal::Time => Dimension::Time,
            _ => return None,
        })
    }

    /// How many tokens at `at` this type takes; `end` is the end of the block.
    pub(super) fn take(
        self,
        source: &str,
        tokens: &[Token],
        at: usize,
        end: usize,
        closer: usize,
        range: Option<(f64, f64)>,
    ) -> Option<usize> {
        if self == Terminal::AnyValue {
            return (at < end).then_some(end - at);
        }
        let token = *tokens.get(at).filter(|_| at < end)?;
        let within = |number: f64| range.is_none_or(|(low, high)| number >= low && number <= high);
        let dimensioned = |wanted: Dimension| {
            let dimension = crate::value::units::Unit::named(&token.name(source))?.dimension;
            (dimension == wanted && within(token.number(source)?)).then_some(1)
        };
        let math = |wanted: math::MathKind| {
            let is_math =
                token.kind == TokenKind::Function && math::is_function(&token.name(source));
            let inside = tokens.cut(at..(closer + 1).min(tokens.len()));
            (is_math && math::kind(source, inside) == Some(wanted)).then_some(closer + 1 - at)
        };
        // A dimension, a percentage, or a sum of both.
        let mixed = |plain: Terminal| {
            plain
                .take(source, tokens, at, end, closer, range)
                .or_else(|| Terminal::Percentage.take(source, tokens, at, end, closer, range))
                .or_else(|| math(math::MathKind::Mixed(plain.dimension()?)))
        };
        match self {
            Terminal::Number => match token.kind {
                TokenKind::Number => within(token.number(source)?).then_some(1),
                _ => math(math::MathKind::Number),
            },
            Terminal::Integer => match token.kind {
                TokenKind::Number if token.is_integer(source) => {
                    within(token.number(source)?).then_some(1)
                }
                TokenKind::Number => None,
                _ => math(math::MathKind::Number),
            },
            Terminal::Percentage => match token.kind {
                TokenKind::Percentage => within(token.number(source)?).then_some(1),
                _ => math(math::MathKind::Percentage),
            },
            Terminal::Length => match token.kind {
                TokenKind::Number => (token.number(source)? == 0.0).then_some(1),
                TokenKind::Dimension => dimensioned(Dimension::Length),
                _ => math(math::MathKind::Of(Dimension::Length)),
            },
            Terminal::Angle
            | Terminal::Flex
            | Terminal::Frequency
            | Terminal::Resolution
            | Terminal::Time => {
                let dimension = self.dimension()?;
                match token.kind {
                    TokenKind::Dimension => dimensioned(dimension),
                    _ => math(math::MathKind::Of(dimension)),
                }
            }
            Terminal::AnglePercentage => mixed(Terminal::Angle),
            Terminal::FrequencyPercentage => mixed(Terminal::Frequency),
            Terminal::LengthPercentage => mixed(Terminal::Length),
            Terminal::TimePercentage => mixed(Terminal::Time),
            _ => self.is(source, token).then_some(1),
        }
    }

    /// Whether one token is of this type, where the type is told by the token alone.
    fn is(self, source: &str, token: Token) -> bool {
        let kind = token.kind;
        match self {
            Terminal::NumberToken => kind == TokenKind::Number,
            Terminal::Zero => kind == TokenKind::Number && token.number(source) == Some(0.0),
            Terminal::Decibel => kind == TokenKind::Dimension && token.is_name(source, "db"),
            Terminal::Semitones => kind == TokenKind::Dimension && token.is_name(source, "st"),
            Terminal::DimensionToken => kind == TokenKind::Dimension,
            Terminal::CustomIdent => {
                let name = token.name(source);
                kind == TokenKind::Ident && !NOT_CUSTOM.iter().any(|r| name.eq_ignore_ascii_case(r))
            }
            Terminal::Ident => kind == TokenKind::Ident,
            Terminal::DashedIdent | Terminal::CustomPropertyName => {
                kind == TokenKind::Ident && token.source(source).starts_with("--")
            }
            Terminal::Text => kind == TokenKind::Text,
            Terminal::HashToken => matches!(kind, TokenKind::Hash | TokenKind::IdHash),
            Terminal::HexColor => {
                let digits = token.source(source).get(1..).unwrap_or_default();
                matches!(kind, TokenKind::Hash | TokenKind::IdHash)
                    && matches!(digits.len(), 3 | 4 | 6 | 8)
                    && digits.bytes().all(|b| b.is_ascii_hexdigit())
            }
            Terminal::UrlToken => kind == TokenKind::Url,
            Terminal::FunctionToken => kind == TokenKind::Function,
            Terminal::Number
            | Terminal::Integer
            | Terminal::Percentage
            | Terminal::Length
            | Terminal::Angle
            | Terminal::Flex
            | Terminal::Frequency
            | Terminal::Resolution
            | Terminal::Time
            | Terminal::AnglePercentage
            | Terminal::FrequencyPercentage
            | Terminal::LengthPercentage
            | Terminal::TimePercentage
            | Terminal::AnyValue => false,
        }
    }
}
