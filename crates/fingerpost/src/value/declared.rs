//! What a declaration means: which property it names, and whether its value fits.
//!
//! ```
//! use fingerpost::value::{Meaning, PropertyId, meaning, value_tokens};
//!
//! let gap = PropertyId::named("gap").expect("it is one");
//! let fits = |value: &str| matches!(meaning(gap, value, &value_tokens(value)), Meaning::Fits(_));
//! assert!(fits("1rem 2rem"));
//! assert!(!fits("1rem 2rem 3rem"));
//! ```

use std::borrow::Cow;
use std::sync::Arc;

use super::facts::PropertyId;
use super::grammar::{Match, Mismatch};
use super::is_css_wide;
use super::longhand::Piece;
use super::shorthand::{expand, expand_matched};
use super::substitution::{Substitutions, malformed, substitutions};
use crate::sheet::{Declaration, Sheet, Token, TokenKind};
use crate::text::Cut;

/// The property that a declaration names.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Name {
    /// A property of the standards.
    Property(PropertyId),
    /// A custom property, by its name with the dashes, escapes resolved.
    Custom(Arc<str>),
    /// A name that no standard knows.
    Unknown,
}

/// What a declaration's value is.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Meaning {
    /// `inherit`, `initial` and their kin, in lower case.
    Wide(Box<str>),
    /// A value with `var()` or another substitution function: valid until it is substituted.
    Pending(Substitutions),
    /// A value that fits, with the longhands it sets.
    Fits(Vec<(PropertyId, Piece)>),
    /// A value that does not fit; the declaration is dropped.
    Misfit(Mismatch),
    /// Anything: the value of a custom property, or of an unknown one.
    Free,
}

impl Name {
    /// Which property a declaration names.
    pub fn of(sheet: &Sheet, declaration: &Declaration) -> Name {
        let name = sheet.name_source(declaration);
        if name.starts_with("--") && name.len() > 2 {
            return Name::Custom(unescaped(name).into());
        }
        let resolved = PropertyId::named(&unescaped(name));
        resolved.map_or(Name::Unknown, Name::Property)
    }
}

/// A name with its escapes resolved.
pub fn unescaped(name: &str) -> Cow<'_, str> {
    if !name.contains('\\') {
        return Cow::Borrowed(name);
    }
    let tokens = super::substitution::value_tokens(name);
    match tokens.first() {
        Some(token) => Cow::Owned(token.name(name).into_owned()),
        None => Cow::Borrowed(name),
    }
}

/// What a declaration of a known property says.
pub fn meaning(property: PropertyId, source: &str, tokens: &[Token]) -> Meaning {
    read(property, source, tokens).0
}

/// The same, with how the value fits the grammar where it does.
pub(crate) fn read(
    property: PropertyId,
    source: &str,
    tokens: &[Token],
) -> (Meaning, Option<Match>) {
    match before_grammar(source, tokens) {
        Some(meaning) => (meaning, None),
        None => match expand_matched(property, source, tokens) {
            Ok((pieces, matched)) => (Meaning::Fits(pieces), Some(matched)),
            Err(mismatch) => (Meaning::Misfit(mismatch), None),
        },
    }
}

/// What a value says without being held against a grammar.
fn before_grammar(source: &str, tokens: &[Token]) -> Option<Meaning> {
    if let Some(word) = wide_keyword(source, tokens) {
        return Some(Meaning::Wide(word));
    }
    let found = substitutions(source, tokens);
    (found.variables || found.others).then(|| match malformed(source, tokens) {
        None => Meaning::Pending(found),
        Some((span, expected)) => Meaning::Misfit(Mismatch {
            span,
            expected: vec![expected.to_owned()],
        }),
    })
}

/// What a declaration of a custom property says: Custom Properties 1 § 2 takes nearly anything.
pub fn custom_meaning(source: &str, tokens: &[Token]) -> Meaning {
    if let Some(word) = wide_keyword(source, tokens) {
        return Meaning::Wide(word);
    }
    match malformed(source, tokens) {
        None => Meaning::Free,
        Some((span, expected)) => Meaning::Misfit(Mismatch {
            span,
            expected: vec![expected.to_owned()],
        }),
    }
}

/// Quirks Mode § 3.1 and § 3.2: colors without their `#` and lengths without their unit, which some
/// properties take on a page in quirks mode.
pub fn quirky(property: PropertyId, source: &str, tokens: &[Token]) -> Option<Meaning> {
    let colored = is_colored(property);
    if !colored && !is_measured(property) {
        return None;
    }
    let mut text = String::new();
    let mut depth = 0;
    for token in tokens {
        let raw = token.source(source);
        if token.kind.closer().is_some() {
            depth += 1;
        } else if token.kind == TokenKind::CloseParenthesis {
            depth -= 1;
        }
        let hexadecimal = raw.bytes().all(|b| b.is_ascii_hexdigit());
        match token.kind {
            TokenKind::Number if !colored && depth == 0 => {
                text.push_str(raw);
                text.push_str("px");
            }
            TokenKind::Ident if colored && hexadecimal && matches!(raw.len(), 3 | 6) => {
                text.push('#');
                text.push_str(raw);
            }
            // A number loses its leading zeros and gets them back up to six digits.
            TokenKind::Number | TokenKind::Dimension if colored && hexadecimal => {
                let digits = raw.bytes().take_while(u8::is_ascii_digit).count();
                let bare = raw.cut(..digits).trim_start_matches('0');
                let bare = if bare.is_empty() { "0" } else { bare };
                text.push_str(&format!("#{:0>6}", format!("{bare}{}", raw.cut(digits..))));
            }
            _ => text.push_str(raw),
        }
    }
    let pieces = expand(property, &text, &super::substitution::value_tokens(&text)).ok()?;
    // The text is not the sheet's, so no piece can point into it.
    let pieces = pieces.into_iter().map(|(longhand, piece)| match piece {
        Piece::Part(span) => (longhand, Piece::Composed(text.cut(span).to_owned())),
        other => (longhand, other),
    });
    Some(Meaning::Fits(pieces.collect()))
}

fn is_colored(property: PropertyId) -> bool {
    matches!(
        property,
        PropertyId::BACKGROUND_COLOR
            | PropertyId::BORDER_COLOR
            | PropertyId::BORDER_TOP_COLOR
            | PropertyId::BORDER_RIGHT_COLOR
            | PropertyId::BORDER_BOTTOM_COLOR
            | PropertyId::BORDER_LEFT_COLOR
            | PropertyId::COLOR
    )
}

fn is_measured(property: PropertyId) -> bool {
    matches!(
        property,
        PropertyId::BACKGROUND_POSITION
            | PropertyId::BORDER_BOTTOM_WIDTH
            | PropertyId::BORDER_LEFT_WIDTH
            | PropertyId::BORDER_RIGHT_WIDTH
            | PropertyId::BORDER_SPACING
            | PropertyId::BORDER_TOP_WIDTH
            | PropertyId::BORDER_WIDTH
            | PropertyId::BOTTOM
            | PropertyId::CLIP
            | PropertyId::FONT_SIZE
            | PropertyId::HEIGHT
            | PropertyId::LEFT
            | PropertyId::LETTER_SPACING
            | PropertyId::MARGIN
            | PropertyId::MARGIN_BOTTOM
            | PropertyId::MARGIN_LEFT
            | PropertyId::MARGIN_RIGHT
            | PropertyId::MARGIN_TOP
            | PropertyId::MAX_HEIGHT
            | PropertyId::MAX_WIDTH
            | PropertyId::MIN_HEIGHT
            | PropertyId::MIN_WIDTH
            | PropertyId::PADDING
            | PropertyId::PADDING_BOTTOM
            | PropertyId::PADDING_LEFT
            | PropertyId::PADDING_RIGHT
            | PropertyId::PADDING_TOP
            | PropertyId::RIGHT
            | PropertyId::TEXT_INDENT
            | PropertyId::TOP
            | PropertyId::VERTICAL_ALIGN
            | PropertyId::WIDTH
            | PropertyId::WORD_SPACING
    )
}

/// The CSS-wide keyword that a value is, in lower case.
pub fn wide_keyword(source: &str, tokens: &[Token]) -> Option<Box<str>> {
    let mut words = tokens.iter().filter(|t| !t.kind.is_blank());
    let only = words.next().filter(|t| t.kind == TokenKind::Ident)?;
    let word = only.name(source);
    (words.next().is_none() && is_css_wide(&word)).then(|| word.to_ascii_lowercase().into())
}
