//! What a declaration means: which property it names, and whether its value fits.

use std::borrow::Cow;

use super::facts::PropertyId;
use super::grammar::Mismatch;
use super::is_css_wide;
use super::shorthand::{Piece, expand};
use super::substitution::{Substitutions, substitutions};
use crate::sheet::{Declaration, Kind, Sheet, Token};

/// The property that a declaration names.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Name {
    /// A property of the standards.
    Property(PropertyId),
    /// A custom property.
    Custom,
    /// A name that no standard knows.
    Unknown,
}

/// What a declaration's value is.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Meaning {
    /// `inherit`, `initial` and their kin, in lower case.
    Wide(Box<str>),
    /// A value with `var()` or another substitution function: valid until it is substituted.
    Pending(Substitutions),
    /// A value that fits, with the longhands it sets.
    Fits(Vec<(PropertyId, Piece)>),
    /// A value that does not fit; the declaration is dropped.
    Misfit(Mismatch),
    /// Anything: the value of a custom property, or of one that nobody knows.
    Free,
}

/// Which property a declaration names.
pub fn name(sheet: &Sheet, declaration: &Declaration) -> Name {
    let name = sheet.name_source(declaration);
    if name.starts_with("--") && name.len() > 2 {
        return Name::Custom;
    }
    let resolved = PropertyId::named(&unescaped(name));
    resolved.map_or(Name::Unknown, Name::Property)
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
    if let Some(word) = wide_keyword(source, tokens) {
        return Meaning::Wide(word);
    }
    let found = substitutions(source, tokens);
    if found.variables || found.others {
        return Meaning::Pending(found);
    }
    match expand(property, source, tokens) {
        Ok(pieces) => Meaning::Fits(pieces),
        Err(mismatch) => Meaning::Misfit(mismatch),
    }
}

/// The CSS-wide keyword that a value is, in lower case.
pub fn wide_keyword(source: &str, tokens: &[Token]) -> Option<Box<str>> {
    let mut words = tokens.iter().filter(|t| !t.kind.is_blank());
    let only = words.next().filter(|t| t.kind == Kind::Ident)?;
    let word = only.name(source);
    (words.next().is_none() && is_css_wide(&word)).then(|| word.to_ascii_lowercase().into())
}
