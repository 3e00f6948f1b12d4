//! What a value can begin with: most alternatives of a grammar fall at the first token, and this
//! says so without trying them.

use std::collections::HashSet;
use std::sync::OnceLock;

use super::{Definition, Terminal};
use crate::sheet::{Token, TokenKind};
use crate::value::facts::{PropertyId, property_count, type_count};
use crate::value::math;

/// The tokens that a grammar can begin with.
#[derive(Debug, Default)]
pub(super) struct First {
    /// Kinds of tokens of which any one will do, as bits.
    kinds: u64,
    keywords: HashSet<Box<str>>,
    functions: HashSet<Box<str>>,
    math: bool,
    /// Whether anything can follow at once: the grammar can take nothing, or is not known.
    anything: bool,
}

const fn bit(kind: TokenKind) -> u64 {
    1 << kind as u32
}

impl First {
    /// Whether a grammar can begin with this token; no token is the end of the value.
    pub fn admits(&self, source: &str, token: Option<Token>) -> bool {
        if self.anything {
            return true;
        }
        let Some(token) = token else { return false };
        if self.kinds & bit(token.kind) != 0 {
            return true;
        }
        match token.kind {
            TokenKind::Ident => {
                let name = token.name(source);
                self.keywords.contains(&*name)
                    || (name.bytes().any(|b| b.is_ascii_uppercase())
                        && self.keywords.contains(&*name.to_ascii_lowercase()))
            }
            TokenKind::Function => {
                let name = token.name(source).to_ascii_lowercase();
                self.functions.contains(&*name) || (self.math && math::is_function(&name))
            }
            _ => false,
        }
    }

    #[expect(
        clippy::indexing_slicing,
        reason = "a type is known by its place in the table"
    )]
    pub fn of_type(index: usize) -> &'static First {
        static CACHE: OnceLock<Vec<OnceLock<First>>> = OnceLock::new();
        let cache = CACHE.get_or_init(|| (0..type_count()).map(|_| OnceLock::new()).collect());
        cache[index].get_or_init(|| First::of(Definition::of_type(index)))
    }

    #[expect(clippy::indexing_slicing, reason = "an id is a place in the table")]
    pub fn of_property(property: PropertyId) -> &'static First {
        static CACHE: OnceLock<Vec<OnceLock<First>>> = OnceLock::new();
        let cache = CACHE.get_or_init(|| (0..property_count()).map(|_| OnceLock::new()).collect());
        cache[property.index()].get_or_init(|| First::of(Definition::of_property(property)))
    }

    fn of(definition: &Definition) -> First {
        let mut first = First::default();
        if first.gather(definition, 0) {
            first.anything = true;
        }
        first
    }

    /// Adds what `definition` can begin with; says whether it can take nothing.
    fn gather(&mut self, definition: &Definition, depth: usize) -> bool {
        // Deeper than any grammar of the table goes before its first token: a cycle.
        if depth > 40 {
            self.anything = true;
            return true;
        }
        let depth = depth + 1;
        match definition {
            Definition::Keywords(words) => {
                self.keywords.extend(words.iter().cloned());
                if words
                    .iter()
                    .any(|w| w.starts_with(|c: char| c.is_ascii_digit()))
                {
                    self.kinds |= bit(TokenKind::Number) | bit(TokenKind::Dimension);
                }
                false
            }
            Definition::Mark(mark) => {
                self.kinds |= match mark {
                    ',' => bit(TokenKind::Comma),
                    ':' => bit(TokenKind::Colon),
                    ';' => bit(TokenKind::Semicolon),
                    ')' => bit(TokenKind::CloseParenthesis),
                    _ => bit(TokenKind::Delim),
                };
                *mark == ','
            }
            Definition::Terminal(terminal, _) => {
                self.terminal(*terminal);
                false
            }
            Definition::Name(_) => {
                self.terminal(Terminal::CustomIdent);
                false
            }
            Definition::Type(index) => self.gather(Definition::of_type(*index), depth),
            Definition::Property(property) => {
                self.gather(Definition::of_property(*property), depth)
            }
            Definition::Function(name, _) => {
                self.functions.insert(name.clone());
                false
            }
            Definition::Block(open, _) => {
                self.kinds |= match open {
                    '[' => bit(TokenKind::OpenSquare),
                    '{' => bit(TokenKind::OpenCurly),
                    _ => bit(TokenKind::OpenParenthesis),
                };
                false
            }
            Definition::Sequence(parts) => parts.iter().all(|part| self.gather(part, depth)),
            Definition::AllOf(parts) => {
                let empty: Vec<bool> = parts.iter().map(|p| self.gather(p, depth)).collect();
                empty.into_iter().all(|e| e)
            }
            Definition::SomeOf(parts) | Definition::OneOf(parts) => {
                let empty: Vec<bool> = parts.iter().map(|p| self.gather(p, depth)).collect();
                empty.into_iter().any(|e| e)
            }
            Definition::Repeated(part, multiplier) => {
                self.gather(part, depth) || multiplier.least == 0
            }
            Definition::NotEmpty(part) => {
                self.gather(part, depth);
                false
            }
            Definition::Unknown(_) => true,
        }
    }

    fn terminal(&mut self, terminal: Terminal) {
        let number = bit(TokenKind::Number);
        let dimension = bit(TokenKind::Dimension);
        let percentage = bit(TokenKind::Percentage);
        let hash = bit(TokenKind::Hash) | bit(TokenKind::IdHash);
        let (kinds, math) = match terminal {
            Terminal::Number | Terminal::Integer => (number, true),
            Terminal::NumberToken | Terminal::Zero => (number, false),
            Terminal::Percentage => (percentage, true),
            Terminal::Length => (number | dimension, true),
            Terminal::Angle
            | Terminal::Flex
            | Terminal::Frequency
            | Terminal::Resolution
            | Terminal::Time => (dimension, true),
            Terminal::AnglePercentage
            | Terminal::FrequencyPercentage
            | Terminal::LengthPercentage
            | Terminal::TimePercentage => (number | dimension | percentage, true),
            Terminal::Decibel | Terminal::DimensionToken | Terminal::Semitones => {
                (dimension, false)
            }
            Terminal::CustomIdent
            | Terminal::CustomPropertyName
            | Terminal::DashedIdent
            | Terminal::Ident => (bit(TokenKind::Ident), false),
            Terminal::Text => (bit(TokenKind::Text), false),
            Terminal::HashToken | Terminal::HexColor => (hash, false),
            Terminal::UrlToken => (bit(TokenKind::Url), false),
            Terminal::FunctionToken => (bit(TokenKind::Function), false),
            Terminal::AnyValue => {
                self.anything = true;
                return;
            }
        };
        self.kinds |= kinds;
        self.math |= math;
    }
}
