//! `var()`: CSS Custom Properties 1 § 3.

use std::ops::Range;
use std::sync::Arc;

use crate::sheet::{Token, TokenKind, tokenize};
use crate::text::{Cut, TextRange, TextSize};

/// How long a value may grow by substitution. A few custom properties that each hold two `var()`s
/// of the one before can reach any length; what is longer is invalid at computed-value time, as
/// the standard allows (§ 3.3).
pub const LONGEST_SUBSTITUTED: usize = 1 << 20;

/// How deep `var()` may be nested in fallbacks of `var()`.
const DEEPEST_FALLBACK: usize = 64;

/// How deep functions and parentheses of a value may nest. Nobody writes more than five or six levels; a
/// value that nests deeper than this is not read, and its answer says so.
pub const DEEPEST_VALUE: usize = 64;

/// What was expected of a value that nests deeper.
pub(crate) const NOT_SO_DEEP: &str = "at most 64 levels of nesting";

/// What opens one level of nesting too many.
pub(crate) fn too_deep(tokens: &[Token]) -> Option<Token> {
    depths(tokens).find_map(|(depth, token)| (depth > DEEPEST_VALUE).then_some(token))
}

/// How many levels of nesting there are.
pub(crate) fn deepest(tokens: &[Token]) -> usize {
    depths(tokens).map(|(depth, _)| depth).max().unwrap_or(0)
}

/// Each token that opens a level of nesting, with how many are open from there on.
fn depths(tokens: &[Token]) -> impl Iterator<Item = (usize, Token)> {
    let mut depth = 0usize;
    tokens.iter().filter_map(move |token| {
        if token.kind.closer().is_some() {
            depth += 1;
            return Some((depth, *token));
        }
        if matches!(
            token.kind,
            TokenKind::CloseParenthesis | TokenKind::CloseSquare | TokenKind::CloseCurly
        ) {
            depth = depth.saturating_sub(1);
        }
        None
    })
}

/// Whether a value holds `var()`, and whether it holds other substitution functions.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
pub struct Substitutions {
    /// `var()`
    pub variables: bool,
    /// `env()`, `attr()`, `if()` and other functions whose result is not known from the sources.
    pub others: bool,
}

/// Looks for substitution functions in a value. A declaration with one is valid at parse time
/// whatever its property (§ 3.2).
pub fn substitutions(source: &str, tokens: &[Token]) -> Substitutions {
    let mut found = Substitutions::default();
    for token in tokens.iter().filter(|t| t.kind == TokenKind::Function) {
        let name = token.name(source);
        if name.eq_ignore_ascii_case("var") {
            found.variables = true;
        } else if ["env", "attr", "if", "inherit", "random-item"]
            .iter()
            .any(|other| name.eq_ignore_ascii_case(other))
        {
            found.others = true;
        }
    }
    found
}

/// The substitution functions and their arguments are written as they should be; else what is wrong, and what
/// was expected. A declaration with a malformed one is invalid when it is parsed (Values 5 § 3.1).
pub(crate) fn malformed(source: &str, tokens: &[Token]) -> Option<(TextRange, &'static str)> {
    if let Some(token) = not_a_value(source, tokens) {
        return Some((token.span(), "a value"));
    }
    if let Some(token) = too_deep(tokens) {
        return Some((token.span(), NOT_SO_DEEP));
    }
    tokens.iter().enumerate().find_map(|(at, token)| {
        if token.kind != TokenKind::Function {
            return None;
        }
        let is = |name: &str| token.is_name(source, name);
        let expected = match () {
            () if is("var") => "var(--name) or var(--name, fallback)",
            () if is("env") => "env(name) or env(name, fallback)",
            () if is("attr") => "attr(name), attr(name type(<color>)) or attr(name, fallback)",
            () => return None,
        };
        let (inside, _) = arguments(tokens, at);
        let comma = top_comma(inside);
        let head = inside.get(..comma.unwrap_or(inside.len()))?;
        let head: Vec<&Token> = head.iter().filter(|t| !t.kind.is_blank()).collect();
        let well = match &head[..] {
            [name, rest @ ..] if name.kind == TokenKind::Ident => {
                let written = name.name(source);
                if is("var") {
                    rest.is_empty() && written.starts_with("--") && written.len() > 2
                } else if is("env") {
                    let index = |t: &&Token| {
                        t.is_integer(source) && t.number(source).is_some_and(|n| n >= 0.0)
                    };
                    rest.iter().all(index)
                } else {
                    attribute_syntax(source, rest).is_some()
                }
            }
            _ => false,
        };
        let fallback = comma
            .and_then(|at| inside.get(at + 1..))
            .unwrap_or_default();
        let well = well && not_a_value(source, fallback).is_none();
        (!well).then(|| (token.span(), expected))
    })
}

/// The first token that can't be in any value (Syntax 3 § 7.1, `<declaration-value>`).
pub(crate) fn not_a_value(source: &str, tokens: &[Token]) -> Option<Token> {
    let mut open: Vec<TokenKind> = Vec::new();
    for token in tokens {
        match token.kind {
            TokenKind::BadText | TokenKind::BadUrl => return Some(*token),
            TokenKind::Semicolon if open.is_empty() => return Some(*token),
            TokenKind::Delim if open.is_empty() && token.is_delim(source, '!') => {
                return Some(*token);
            }
            TokenKind::CloseParenthesis | TokenKind::CloseSquare | TokenKind::CloseCurly => {
                if open.pop() != Some(token.kind) {
                    return Some(*token);
                }
            }
            kind => open.extend(kind.closer()),
        }
    }
    None
}

/// Why a value has no substitution.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum SubstitutionError {
    /// A custom property has no value and there is no fallback.
    Missing(String),
    /// `var()` is not written as it should be.
    Malformed,
    /// The value grows beyond [`LONGEST_SUBSTITUTED`].
    TooLong,
}

/// What a substitution function asks for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Ask<'a> {
    /// `var()`: a custom property.
    Variable(&'a str),
    /// `env()`: what the device says.
    Environment(&'a str),
    /// `attr()`: an attribute, read as a type (Values 5 § 7.7).
    Attribute(&'a str, AttributeType<'a>),
}

/// What `attr()` reads an attribute as.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum AttributeType<'a> {
    /// A string.
    Text,
    /// A number with this unit; none for a plain number.
    Unit(&'a str),
    /// A value of a syntax: `type(<color>)`.
    Syntax(&'a str),
}

/// What a substitution function put into a value.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Mark {
    /// Where, in the value that came out.
    pub range: Range<usize>,
    /// Which of the questions were asked for it, by their number.
    pub asks: Range<usize>,
}

/// Replaces each substitution function by what `lookup` finds for it, or by its fallback, and marks each result.
///
/// # Errors
/// Where a custom property has no value and no fallback: the declaration is then invalid at
/// computed-value time.
pub(crate) fn substitute(
    source: &str,
    tokens: &[Token],
    lookup: &mut dyn FnMut(Ask<'_>) -> Option<Arc<str>>,
) -> Result<(String, Vec<Mark>), SubstitutionError> {
    let mut out = String::new();
    let mut notes = Notes::default();
    run(source, tokens, lookup, &mut out, 0, &mut notes)?;
    Ok((out, notes.marks))
}

/// What is noted on the way.
#[derive(Default)]
struct Notes {
    /// How many questions were asked.
    asks: usize,
    marks: Vec<Mark>,
}

fn run(
    source: &str,
    tokens: &[Token],
    lookup: &mut dyn FnMut(Ask<'_>) -> Option<Arc<str>>,
    out: &mut String,
    depth: usize,
    notes: &mut Notes,
) -> Result<(), SubstitutionError> {
    if depth > DEEPEST_FALLBACK {
        return Err(SubstitutionError::TooLong);
    }
    let mut at = 0;
    while let Some(token) = tokens.get(at) {
        if token.kind == TokenKind::Comment {
            at += 1;
            continue;
        }
        let is = |name: &str| token.kind == TokenKind::Function && token.is_name(source, name);
        let variable = is("var");
        if !(variable || is("env") || is("attr")) {
            append(out, token.source(source))?;
            at += 1;
            continue;
        }
        let (inside, after) = arguments(tokens, at);
        at = after;
        let comma = top_comma(inside);
        let head: Vec<&Token> = inside
            .cut(..comma.unwrap_or(inside.len()))
            .iter()
            .filter(|t| !t.kind.is_blank())
            .collect();
        let name = head
            .first()
            .filter(|t| t.kind == TokenKind::Ident)
            .filter(|t| !variable || t.source(source).starts_with("--"))
            .ok_or(SubstitutionError::Malformed)?;
        let name = name.name(source);
        let fallback = comma.map(|at| inside.cut(at + 1..));
        let syntax;
        let ask = if is("attr") {
            syntax = attribute_syntax(source, head.cut(1..)).ok_or(SubstitutionError::Malformed)?;
            let kind = match &syntax {
                AttributeSyntax::Text => AttributeType::Text,
                AttributeSyntax::Unit(unit) => AttributeType::Unit(unit),
                AttributeSyntax::Syntax(text) => AttributeType::Syntax(text),
            };
            Ask::Attribute(&name, kind)
        } else if variable && head.len() == 1 {
            Ask::Variable(&name)
        } else if variable {
            return Err(SubstitutionError::Malformed);
        } else {
            Ask::Environment(&name)
        };
        let (from, first) = (out.len(), notes.asks);
        notes.asks += 1;
        let found = match (lookup(ask), ask, fallback) {
            // § 7.7: an attribute that is not there is the empty string.
            (None, Ask::Attribute(_, AttributeType::Text), None) => Some("\"\"".into()),
            (found, ..) => found,
        };
        match (found, fallback) {
            (Some(value), _) => append(out, value.trim())?,
            (None, Some(fallback)) => {
                let mut inner = String::new();
                run(source, fallback, lookup, &mut inner, depth + 1, notes)?;
                append(out, inner.trim())?;
            }
            (None, None) => return Err(SubstitutionError::Missing(name.into_owned())),
        }
        if depth == 0 {
            notes.marks.push(Mark {
                range: from..out.len(),
                asks: first..notes.asks,
            });
        }
    }
    Ok(())
}

/// The first comma outside blocks.
fn top_comma(tokens: &[Token]) -> Option<usize> {
    let mut at = 0;
    while let Some(token) = tokens.get(at) {
        if token.kind == TokenKind::Comma {
            return Some(at);
        }
        at = match token.kind.closer() {
            Some(_) => arguments(tokens, at).1,
            None => at + 1,
        };
    }
    None
}

enum AttributeSyntax {
    Text,
    Unit(String),
    Syntax(String),
}

/// What is after the attribute's name.
fn attribute_syntax(source: &str, tokens: &[&Token]) -> Option<AttributeSyntax> {
    Some(match tokens {
        [] => AttributeSyntax::Text,
        [only] if only.kind == TokenKind::Ident => {
            match only.name(source).to_ascii_lowercase().as_str() {
                "raw-string" | "string" => AttributeSyntax::Text,
                "number" => AttributeSyntax::Unit(String::new()),
                unit => AttributeSyntax::Unit(unit.to_owned()),
            }
        }
        [only] if only.is_delim(source, '%') => AttributeSyntax::Unit("%".to_owned()),
        [open, inner @ .., close]
            if open.kind == TokenKind::Function
                && open.is_name(source, "type")
                && close.kind == TokenKind::CloseParenthesis =>
        {
            let text: Vec<&str> = inner.iter().map(|t| t.source(source)).collect();
            AttributeSyntax::Syntax(text.concat())
        }
        _ => return None,
    })
}

/// Appends a piece; two pieces never grow together into one token (§ 3.1).
fn append(out: &mut String, piece: &str) -> Result<(), SubstitutionError> {
    if out.len() + piece.len() > LONGEST_SUBSTITUTED {
        return Err(SubstitutionError::TooLong);
    }
    let glues = |c: char| c.is_alphanumeric() || matches!(c, '-' | '_' | '%' | '#' | '.' | '\\');
    if out.chars().next_back().is_some_and(glues) && piece.starts_with(glues) {
        out.push_str("/**/");
    }
    out.push_str(piece);
    Ok(())
}

/// The tokens in the parentheses of the function at `at`, and the token after them.
pub(crate) fn arguments(tokens: &[Token], at: usize) -> (&[Token], usize) {
    let mut open: Vec<TokenKind> = Vec::new();
    for (offset, token) in tokens.cut(at..).iter().enumerate() {
        if let Some(closer) = token.kind.closer() {
            open.push(closer);
        } else if open.last() == Some(&token.kind) {
            open.pop();
            if open.is_empty() {
                return (tokens.cut(at + 1..at + offset), at + offset + 1);
            }
        }
    }
    (tokens.cut(at + 1..), tokens.len())
}

/// The custom properties that a value names in `var()`, in order, each with its span.
pub fn named_variables(source: &str, tokens: &[Token]) -> Vec<(String, TextRange)> {
    let mut found = Vec::new();
    for (at, token) in tokens.iter().enumerate() {
        if token.kind == TokenKind::Function && token.is_name(source, "var") {
            let name = tokens.cut(at + 1..).iter().find(|t| !t.kind.is_blank());
            if let Some(name) = name.filter(|t| t.kind == TokenKind::Ident) {
                found.push((name.name(source).into_owned(), name.span()));
            }
        }
    }
    found
}

/// The tokens of a string that is a value by itself.
pub fn value_tokens(source: &str) -> Vec<Token> {
    tokenize(source, TextRange::up_to(TextSize::of(source)))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn variables_are_found_in_fallbacks_too() {
        let value = "1px solid var(--line, var(--ink))";
        let tokens = value_tokens(value);
        assert!(substitutions(value, &tokens).variables);
        let named = named_variables(value, &tokens).into_iter();
        assert_eq!(
            named.map(|(name, _)| name).collect::<Vec<_>>(),
            ["--line", "--ink"]
        );
    }

    fn with(source: &str, variables: &[(&str, &str)]) -> Result<String, SubstitutionError> {
        let result = substitute(source, &value_tokens(source), &mut |ask| {
            let Ask::Variable(name) = ask else {
                return None;
            };
            variables
                .iter()
                .find(|(n, _)| *n == name)
                .map(|(_, v)| (*v).into())
        });
        Ok(result?.0)
    }

    #[test]
    fn variables_and_fallbacks() {
        assert_eq!(
            with("1px solid var(--a)", &[("--a", " red ")]).unwrap(),
            "1px solid red"
        );
        assert_eq!(with("var(--b, var(--a, blue))", &[]).unwrap(), "blue");
        assert_eq!(with("var(--b,)", &[]).unwrap(), "");
        assert_eq!(with("1var(--u)", &[("--u", "px")]).unwrap(), "1var(--u)");
        assert_eq!(
            with("var(--n)var(--u)", &[("--n", "1"), ("--u", "px")]).unwrap(),
            "1/**/px"
        );
        assert_eq!(
            with("var(--b)", &[]),
            Err(SubstitutionError::Missing("--b".to_owned()))
        );
        assert_eq!(with("var(b)", &[]), Err(SubstitutionError::Malformed));
    }

    #[test]
    fn doubling_is_cut_off() {
        let long = "x".repeat(LONGEST_SUBSTITUTED / 2 + 1);
        assert_eq!(
            with("var(--a) var(--a)", &[("--a", &long)]),
            Err(SubstitutionError::TooLong)
        );
    }
}
