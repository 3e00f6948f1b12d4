//! What an `@import` says (Cascading 5 § 2.1).

use crate::environment::{Verdict, supports};
use crate::sheet::{Token, TokenKind, cover};
use crate::value::substitution::{arguments, value_tokens};

/// `supports(display: grid)` is a declaration without its own parentheses, or a condition.
pub(super) fn supports_gate(source: &str, tokens: &[Token]) -> Verdict {
    let declaration = tokens.iter().find(|t| !t.kind.is_blank());
    if declaration.is_some_and(|t| t.kind == TokenKind::Ident && !t.is_name(source, "not")) {
        let text = format!("({})", &source[cover(tokens)]);
        return supports(&text, &value_tokens(&text));
    }
    supports(source, tokens)
}

/// The parts of an `@import`'s prelude: Cascade 5 § 2.1.
pub(super) struct Import<'a> {
    pub(super) url: String,
    pub(super) layer: Option<String>,
    pub(super) supports: Option<&'a [Token]>,
    pub(super) media: &'a [Token],
}

impl<'a> Import<'a> {
    pub(super) fn read(source: &str, tokens: &'a [Token]) -> Option<Import<'a>> {
        let skip = |mut at: usize| {
            while tokens.get(at).is_some_and(|t| t.kind.is_blank()) {
                at += 1;
            }
            at
        };
        let mut at = skip(0);
        let first = tokens.get(at)?;
        let url = match first.kind {
            TokenKind::Text | TokenKind::Url => {
                at += 1;
                first.string(source).into_owned()
            }
            TokenKind::Function if first.is_name(source, "url") => {
                let (inside, next) = arguments(tokens, at);
                at = next;
                inside
                    .iter()
                    .find(|t| t.kind == TokenKind::Text)?
                    .string(source)
                    .into_owned()
            }
            _ => return None,
        };
        at = skip(at);
        let mut layer = None;
        if let Some(token) = tokens.get(at) {
            if token.kind == TokenKind::Ident && token.is_name(source, "layer") {
                layer = Some(String::new());
                at = skip(at + 1);
            } else if token.kind == TokenKind::Function && token.is_name(source, "layer") {
                let (inside, next) = arguments(tokens, at);
                layer = Some(source[cover(inside)].trim().to_owned());
                at = skip(next);
            }
        }
        let mut condition = None;
        if let Some(token) = tokens.get(at)
            && token.kind == TokenKind::Function
            && token.is_name(source, "supports")
        {
            let (inside, next) = arguments(tokens, at);
            condition = Some(inside);
            at = skip(next);
        }
        Some(Import {
            url,
            layer,
            supports: condition,
            media: &tokens[at..],
        })
    }
}
