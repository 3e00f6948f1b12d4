//! The flat token stream of a style sheet, a selector or a value.
//!
//! `cssparser` does the tokenizing (CSS Syntax 3 § 4); what is kept of each token is its kind and
//! its span. Identifiers, numbers and strings are read again from the source
//! when they are asked for, which most declarations of a sheet never are.

use std::borrow::Cow;

use cssparser::{Parser, Token as SourceToken};

use crate::text::{Cut, TextRange, TextSize};

/// What a token is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum TokenKind {
    /// An identifier.
    Ident,
    /// `@` and a name.
    AtKeyword,
    /// `#` and a name that is not a valid identifier, such as `#123`.
    Hash,
    /// `#` and a name that is one.
    IdHash,
    /// A quoted string.
    Text,
    /// A string that a line break cut off.
    BadText,
    /// `url(…)` without quotes.
    Url,
    /// A `url(` gone wrong.
    BadUrl,
    /// Any other single character.
    Delim,
    /// A number.
    Number,
    /// A number and `%`.
    Percentage,
    /// A number and a unit.
    Dimension,
    /// White space.
    Space,
    /// A comment.
    Comment,
    /// `:`
    Colon,
    /// `;`
    Semicolon,
    /// `,`
    Comma,
    /// `~=`
    Includes,
    /// `|=`
    DashMatch,
    /// `^=`
    PrefixMatch,
    /// `$=`
    SuffixMatch,
    /// `*=`
    SubstringMatch,
    /// `<!--` or `-->`
    CommentDelimiter,
    /// A name and `(`.
    Function,
    /// `(`
    OpenParenthesis,
    /// `[`
    OpenSquare,
    /// `{`
    OpenCurly,
    /// `)`
    CloseParenthesis,
    /// `]`
    CloseSquare,
    /// `}`
    CloseCurly,
}

impl TokenKind {
    /// The kind that closes what this one opens.
    pub fn closer(self) -> Option<TokenKind> {
        match self {
            TokenKind::Function | TokenKind::OpenParenthesis => Some(TokenKind::CloseParenthesis),
            TokenKind::OpenSquare => Some(TokenKind::CloseSquare),
            TokenKind::OpenCurly => Some(TokenKind::CloseCurly),
            _ => None,
        }
    }

    /// Whether it is white space or a comment.
    pub fn is_blank(self) -> bool {
        matches!(self, TokenKind::Space | TokenKind::Comment)
    }

    fn of(token: &SourceToken<'_>) -> TokenKind {
        match token {
            SourceToken::Ident(_) => TokenKind::Ident,
            SourceToken::AtKeyword(_) => TokenKind::AtKeyword,
            SourceToken::Hash(_) => TokenKind::Hash,
            SourceToken::IDHash(_) => TokenKind::IdHash,
            SourceToken::QuotedString(_) => TokenKind::Text,
            SourceToken::UnquotedUrl(_) => TokenKind::Url,
            SourceToken::Delim(_) => TokenKind::Delim,
            SourceToken::Number { .. } => TokenKind::Number,
            SourceToken::Percentage { .. } => TokenKind::Percentage,
            SourceToken::Dimension { .. } => TokenKind::Dimension,
            SourceToken::WhiteSpace(_) => TokenKind::Space,
            SourceToken::Comment(_) => TokenKind::Comment,
            SourceToken::Colon => TokenKind::Colon,
            SourceToken::Semicolon => TokenKind::Semicolon,
            SourceToken::Comma => TokenKind::Comma,
            SourceToken::IncludeMatch => TokenKind::Includes,
            SourceToken::DashMatch => TokenKind::DashMatch,
            SourceToken::PrefixMatch => TokenKind::PrefixMatch,
            SourceToken::SuffixMatch => TokenKind::SuffixMatch,
            SourceToken::SubstringMatch => TokenKind::SubstringMatch,
            SourceToken::CDO | SourceToken::CDC => TokenKind::CommentDelimiter,
            SourceToken::Function(_) => TokenKind::Function,
            SourceToken::ParenthesisBlock => TokenKind::OpenParenthesis,
            SourceToken::SquareBracketBlock => TokenKind::OpenSquare,
            SourceToken::CurlyBracketBlock => TokenKind::OpenCurly,
            SourceToken::BadUrl(_) => TokenKind::BadUrl,
            SourceToken::BadString(_) => TokenKind::BadText,
            SourceToken::CloseParenthesis => TokenKind::CloseParenthesis,
            SourceToken::CloseSquareBracket => TokenKind::CloseSquare,
            SourceToken::CloseCurlyBracket => TokenKind::CloseCurly,
        }
    }
}

/// A token: its kind and where it is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Token {
    /// What it is.
    pub kind: TokenKind,
    /// Where it starts in the source.
    pub start: u32,
    /// Where it ends.
    pub end: u32,
}

impl Token {
    /// Its span.
    pub fn span(self) -> TextRange {
        TextRange::new(TextSize::new(self.start), TextSize::new(self.end))
    }

    /// Its source text.
    pub fn source(self, source: &str) -> &str {
        source.cut(self.start as usize..self.end as usize)
    }

    /// The name in it, escapes resolved: of an identifier, at-keyword, hash or function; the unit
    /// of a dimension.
    pub fn name(self, source: &str) -> Cow<'_, str> {
        let raw = self.source(source);
        let raw = match self.kind {
            TokenKind::AtKeyword | TokenKind::Hash | TokenKind::IdHash => raw.cut(1..),
            TokenKind::Function => raw.strip_suffix('(').unwrap_or(raw),
            TokenKind::Dimension => raw.cut(number_length(raw)..),
            _ => raw,
        };
        if raw.contains(['\\', '\0']) {
            Cow::Owned(resolve_name(raw))
        } else {
            Cow::Borrowed(raw)
        }
    }

    /// Whether it is the identifier (or function, at-keyword) of that name, letter case aside.
    pub fn is_name(self, source: &str, name: &str) -> bool {
        self.name(source).eq_ignore_ascii_case(name)
    }

    /// The number in it: of a number, a percentage (50 for `50%`) or a dimension.
    pub fn number(self, source: &str) -> Option<f64> {
        if !matches!(
            self.kind,
            TokenKind::Number | TokenKind::Percentage | TokenKind::Dimension
        ) {
            return None;
        }
        let raw = self.source(source);
        raw.cut(..number_length(raw)).parse().ok()
    }

    /// How many bytes the number at its front takes, without the unit.
    pub fn number_length(self, source: &str) -> usize {
        number_length(self.source(source))
    }

    /// Whether it is a number written without a fraction or exponent.
    pub fn is_integer(self, source: &str) -> bool {
        let raw = self.source(source);
        self.kind == TokenKind::Number && !raw.contains(['.', 'e', 'E'])
    }

    /// The string in it: of a string or a `url()` without quotes.
    pub fn string(self, source: &str) -> Cow<'_, str> {
        let raw = self.source(source);
        match self.kind {
            TokenKind::Text | TokenKind::BadText => {
                let inner = raw.cut(1..);
                let inner = match inner.chars().next_back() {
                    Some(last) if raw.starts_with(last) && !ends_in_escape(inner) => {
                        inner.cut(..inner.len() - 1)
                    }
                    _ => inner,
                };
                resolve(inner)
            }
            TokenKind::Url => {
                let inner = raw.get(4..).unwrap_or("");
                let inner = inner.strip_suffix(')').unwrap_or(inner);
                resolve(inner.trim_matches([' ', '\t', '\n', '\r', '\x0C']))
            }
            _ => self.name(source),
        }
    }

    /// The character of a [`TokenKind::Delim`].
    pub fn delim(self, source: &str) -> Option<char> {
        (self.kind == TokenKind::Delim)
            .then(|| self.source(source).chars().next())
            .flatten()
    }

    /// Whether it is that delimiter.
    pub fn is_delim(self, source: &str, character: char) -> bool {
        self.delim(source) == Some(character)
    }
}

fn ends_in_escape(text: &str) -> bool {
    let body = text.cut(..text.len() - 1);
    body.len().wrapping_sub(body.trim_end_matches('\\').len()) % 2 == 1
}

/// CSS Syntax 3 § 4.3.12: how far the number at the start of a token reaches.
fn number_length(raw: &str) -> usize {
    let bytes = raw.as_bytes();
    let digits = |mut at: usize| {
        while bytes.get(at).is_some_and(u8::is_ascii_digit) {
            at += 1;
        }
        at
    };
    let mut at = usize::from(matches!(bytes.first(), Some(b'+' | b'-')));
    at = digits(at);
    if bytes.get(at) == Some(&b'.') && bytes.get(at + 1).is_some_and(u8::is_ascii_digit) {
        at = digits(at + 1);
    }
    if matches!(bytes.get(at), Some(b'e' | b'E')) {
        let sign = usize::from(matches!(bytes.get(at + 1), Some(b'+' | b'-')));
        if bytes.get(at + 1 + sign).is_some_and(u8::is_ascii_digit) {
            at = digits(at + 1 + sign);
        }
    }
    at
}

/// Resolves the escapes of a name.
fn resolve_name(raw: &str) -> String {
    let mut parser = Parser::new(raw);
    match parser.next_including_whitespace() {
        Ok(SourceToken::Ident(name)) => name.to_string(),
        // What follows `#` need not be an identifier.
        _ => match Parser::new(&format!("#{raw}")).next() {
            Ok(SourceToken::Hash(name) | SourceToken::IDHash(name)) => name.to_string(),
            _ => raw.to_owned(),
        },
    }
}

/// Resolves the escapes of a string's inside.
fn resolve(inner: &str) -> Cow<'_, str> {
    if !inner.contains(['\\', '\0']) {
        return Cow::Borrowed(inner);
    }
    for quote in ['"', '\''] {
        if inner.contains(quote) {
            continue;
        }
        let quoted = format!("{quote}{inner}{quote}");
        if let Ok(SourceToken::QuotedString(value)) = Parser::new(&quoted).next() {
            return Cow::Owned(value.to_string());
        }
    }
    let quoted = format!("\"{}\"", inner.replace("\\\"", "\"").replace('"', "\\\""));
    match Parser::new(&quoted).next() {
        Ok(SourceToken::QuotedString(value)) => Cow::Owned(value.to_string()),
        _ => Cow::Borrowed(inner),
    }
}

/// How many tokens the component value at the front takes, closing bracket included.
pub(crate) fn component_length(tokens: &[Token]) -> usize {
    let mut open: Vec<TokenKind> = Vec::new();
    for (at, token) in tokens.iter().enumerate() {
        if let Some(closer) = token.kind.closer() {
            open.push(closer);
        } else if open.last() == Some(&token.kind) {
            open.pop();
        }
        if open.is_empty() {
            return at + 1;
        }
    }
    tokens.len()
}

/// The span of tokens, from the first to the last.
pub(crate) fn cover(tokens: &[Token]) -> TextRange {
    match (tokens.first(), tokens.last()) {
        (Some(first), Some(last)) => first.span().cover(last.span()),
        _ => TextRange::default(),
    }
}

/// The tokens without the blank ones at either side.
pub(crate) fn trim(mut tokens: &[Token]) -> &[Token] {
    while let [first, rest @ ..] = tokens
        && first.kind.is_blank()
    {
        tokens = rest;
    }
    trim_end(tokens)
}

/// The tokens without the blank ones at the end.
pub(crate) fn trim_end(mut tokens: &[Token]) -> &[Token] {
    while let [rest @ .., last] = tokens
        && last.kind.is_blank()
    {
        tokens = rest;
    }
    tokens
}

/// The parts of a list between its commas; commas inside blocks and functions don't count.
pub(crate) fn split_commas(tokens: &[Token]) -> Vec<&[Token]> {
    let mut parts = Vec::new();
    let (mut start, mut at) = (0, 0);
    while let Some(token) = tokens.get(at) {
        if token.kind == TokenKind::Comma {
            parts.push(tokens.cut(start..at));
            start = at + 1;
        }
        at += component_length(tokens.cut(at..));
    }
    parts.push(tokens.cut(start..));
    parts
}

/// The tokens of a span of the source, white space and comments included.
pub fn tokenize(source: &str, span: TextRange) -> Vec<Token> {
    // Style sheets have a token every four bytes or so.
    let mut tokens = Vec::with_capacity(usize::from(span.len()) / 4 + 1);
    tokens.extend(Tokens::new(source, span));
    tokens
}

/// The tokens of a span, each read when it is asked for.
pub(crate) struct Tokens<'a> {
    source: &'a str,
    parser: Parser<'a>,
    /// Where the parser began.
    base: usize,
    at: usize,
    end: usize,
}

impl<'a> Tokens<'a> {
    /// The tokens of a span of a source that begins between tokens.
    pub fn new(source: &'a str, span: TextRange) -> Self {
        let (start, end) = (usize::from(span.start()), usize::from(span.end()));
        Tokens {
            source,
            parser: Parser::new(source.cut(start..end)),
            base: start,
            at: start,
            end,
        }
    }
}

impl Iterator for Tokens<'_> {
    type Item = Token;

    fn next(&mut self) -> Option<Token> {
        let token = self.parser.next_including_whitespace_and_comments().ok()?;
        let kind = TokenKind::of(token);
        let start = self.at;
        self.at = self.base + self.parser.position().byte_index();
        // `cssparser` would skip the block at the next call; a fresh parser reads on inside it.
        if kind.closer().is_some() {
            self.base = self.at;
            self.parser = Parser::new(self.source.cut(self.at..self.end));
        }
        Some(Token {
            kind,
            start: start as u32,
            end: self.at as u32,
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::text::span;

    fn tokens(source: &str) -> Vec<(TokenKind, &str)> {
        tokenize(source, span(0, source.len()))
            .into_iter()
            .map(|t| (t.kind, t.source(source)))
            .collect()
    }

    #[test]
    fn blocks_are_read_inside_and_every_byte_is_in_a_token() {
        let source = "a[b='c']{d:calc(1px + (2%))} /* e */ @f \"g";
        let found = tokens(source);
        let joined: String = found.iter().map(|t| t.1).collect();
        assert_eq!(joined, source);
        assert!(found.contains(&(TokenKind::Function, "calc(")));
        assert!(found.contains(&(TokenKind::Percentage, "2%")));
        assert_eq!(found.last(), Some(&(TokenKind::Text, "\"g")));
    }

    #[test]
    fn names_and_strings_resolve_their_escapes() {
        let read = |source: &str| {
            let token = tokenize(source, span(0, source.len()))[0];
            match token.kind {
                TokenKind::Text | TokenKind::Url => token.string(source).into_owned(),
                _ => token.name(source).into_owned(),
            }
        };
        assert_eq!(read(r"w-1\/2"), "w-1/2");
        assert_eq!(read(r"#\31 0a"), "10a");
        assert_eq!(read(r#""a\"b\26""#), "a\"b&");
        assert_eq!(read(r"'it\'s'"), "it's");
        assert_eq!(read("url( a/b.css )"), "a/b.css");
        assert_eq!(read("12.5e1px"), "px");
        assert_eq!(read("1e3em"), "em");
    }

    #[test]
    fn numbers_keep_their_precision() {
        let source = "0.1";
        let token = tokenize(source, span(0, 3))[0];
        assert_eq!(token.number(source), Some(0.1));
    }
}
