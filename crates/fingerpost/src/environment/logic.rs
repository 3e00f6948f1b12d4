//! `not`, `and`, `or` and parentheses, which all conditional rules share.

use super::Truth;
use crate::sheet::{Token, TokenKind};
use crate::value::substitution::arguments;

/// How deep conditions may be nested in parentheses.
const DEEPEST_CONDITION: usize = 64;

/// Evaluates a condition. `leaf` gets a parenthesised part that is not a condition itself, with its
/// function name (`selector`) or none, and the tokens inside. Gives nothing where the condition is
/// not written as it should be.
pub(super) fn evaluate(
    source: &str,
    tokens: &[Token],
    leaf: &mut dyn FnMut(Option<&str>, &[Token]) -> Truth,
) -> Option<Truth> {
    let tokens: Vec<Token> = tokens
        .iter()
        .copied()
        .filter(|t| t.kind != TokenKind::Comment)
        .collect();
    condition(source, &tokens, leaf, 0)
}

fn condition(
    source: &str,
    tokens: &[Token],
    leaf: &mut dyn FnMut(Option<&str>, &[Token]) -> Truth,
    depth: usize,
) -> Option<Truth> {
    if depth > DEEPEST_CONDITION {
        return Some(Truth::Unknown);
    }
    let is = |token: Option<&Token>, word: &str| {
        token.is_some_and(|t| t.kind == TokenKind::Ident && t.is_name(source, word))
    };
    let mut at = skip(tokens, 0);
    if is(tokens.get(at), "not") {
        at = skip(tokens, at + 1);
        let (truth, next) = part(source, tokens, at, leaf, depth)?;
        return (skip(tokens, next) == tokens.len()).then(|| truth.not());
    }
    let (mut truth, next) = part(source, tokens, at, leaf, depth)?;
    at = skip(tokens, next);
    let mut word: Option<&str> = None;
    while at < tokens.len() {
        let this = ["and", "or"].into_iter().find(|w| is(tokens.get(at), w))?;
        if word.is_some_and(|w| w != this) {
            return None;
        }
        word = Some(this);
        at = skip(tokens, at + 1);
        let (more, next) = part(source, tokens, at, leaf, depth)?;
        truth = if this == "and" {
            truth.and(more)
        } else {
            truth.or(more)
        };
        at = skip(tokens, next);
    }
    Some(truth)
}

fn part(
    source: &str,
    tokens: &[Token],
    at: usize,
    leaf: &mut dyn FnMut(Option<&str>, &[Token]) -> Truth,
    depth: usize,
) -> Option<(Truth, usize)> {
    let token = tokens.get(at)?;
    let (inside, next) = match token.kind {
        TokenKind::Function | TokenKind::OpenParenthesis => arguments(tokens, at),
        _ => return None,
    };
    if token.kind == TokenKind::Function {
        let name = token.name(source).to_ascii_lowercase();
        return Some((leaf(Some(&name), inside), next));
    }
    let first = inside.iter().find(|t| !t.kind.is_blank());
    let nested = first.is_some_and(|t| {
        matches!(t.kind, TokenKind::OpenParenthesis | TokenKind::Function)
            || (t.kind == TokenKind::Ident && t.is_name(source, "not"))
    });
    if nested && let Some(truth) = condition(source, inside, leaf, depth + 1) {
        return Some((truth, next));
    }
    Some((leaf(None, inside), next))
}

fn skip(tokens: &[Token], mut at: usize) -> usize {
    while tokens.get(at).is_some_and(|t| t.kind.is_blank()) {
        at += 1;
    }
    at
}
