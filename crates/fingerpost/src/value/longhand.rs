//! What a shorthand's value gives each of its longhands.

use crate::sheet::{Token, TokenKind, cover};
use crate::text::{Cut, TextRange};

/// What a shorthand's value gives a longhand.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Piece {
    /// A part of the value.
    Part(TextRange),
    /// Something that no single part of the value says, such as one layer of several.
    Composed(String),
    /// The initial value: the longhand was left out, or is only reset.
    Initial,
}

impl Piece {
    /// Its text, given the source of the declaration's value; none for the initial value.
    pub fn text<'a>(&'a self, source: &'a str) -> Option<&'a str> {
        match self {
            Piece::Part(span) => Some(source.cut(*span)),
            Piece::Composed(text) => Some(text),
            Piece::Initial => None,
        }
    }
}

/// The spans of the values side by side, functions whole.
pub(super) fn split_values(tokens: &[Token]) -> Vec<TextRange> {
    let mut spans = Vec::new();
    let mut at = 0;
    while let Some(start) = tokens.get(at) {
        if start.kind.closer().is_some() {
            let (_, after) = super::substitution::arguments(tokens, at);
            spans.push(cover(tokens.cut(at..after)));
            at = after;
        } else {
            if start.kind != TokenKind::Comma {
                spans.push(start.span());
            }
            at += 1;
        }
    }
    spans
}
