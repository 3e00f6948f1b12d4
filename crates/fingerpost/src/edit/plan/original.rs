//! A declaration of a built sheet as its author wrote it: found through the source map, and read.
//!
//! A source may be in another language than CSS, of which only declarations are read.

use std::ops::Range;
use std::sync::Arc;

use crate::edit::error::EditError;
use crate::edit::plan::rule_at::fold;
use crate::edit::rewrite::lines::line_start;
use crate::sheet::{DeclarationId, Sheet, TokenKind};
use crate::text::{Authored, Cut, Text, TextSize};
use crate::value::substitution::value_tokens;

/// A declaration as its author wrote it.
pub(in crate::edit) struct Original {
    pub text: Arc<Text>,
    pub name: Range<usize>,
    pub value: Range<usize>,
    /// `!important`, where it is.
    pub important: Option<Range<usize>>,
    /// The name to the end of the value or its mark.
    pub whole: Range<usize>,
    /// The end of the semicolon that ends it, where there is one.
    pub semicolon: Option<usize>,
}

impl Original {
    /// The name to the end of its semicolon.
    pub fn with_semicolon(&self) -> Range<usize> {
        self.whole.start..self.semicolon.unwrap_or(self.whole.end)
    }

    /// Whether it is the first on its line.
    pub fn begins_line(&self) -> bool {
        let source = self.text.source();
        let start = self.whole.start;
        source
            .cut(line_start(source, start)..start)
            .trim()
            .is_empty()
    }

    /// A value in the notation of this one: what both have is written as it is here.
    pub fn in_its_words(&self, value: &str) -> String {
        let own = self.value_source();
        let known = value_tokens(own);
        let mut text = String::with_capacity(value.len());
        for token in value_tokens(value) {
            let source = token.source(value);
            let same = known.iter().find(|other| {
                other.kind == token.kind
                    && plain(other.kind, other.source(own)) == plain(token.kind, source)
            });
            text.push_str(same.map_or(source, |other| other.source(own)));
        }
        text
    }

    pub fn value_source(&self) -> &str {
        self.text.source().cut(self.value.clone())
    }
}

/// What is at the place from which a served declaration comes, where it is one of the property. A
/// map that is a few columns off is helped where only one declaration of the line says the same.
pub(in crate::edit) fn written(
    sheet: &Sheet,
    authored: &Authored,
    id: DeclarationId,
) -> Option<Original> {
    let declaration = sheet.declaration(id);
    let name = sheet.name_source(declaration);
    let (text, start) = authored.find(sheet.text(), declaration.name.start())?;
    if let Some(found) = read(text, start.into(), name) {
        return Some(found);
    }
    let line = text.line_span(text.line_of(start))?;
    let here = text.slice(line);
    let value = sheet.value_source(declaration);
    let mut same = here
        .match_indices(name)
        .filter(|(at, _)| {
            let before = here.cut(..*at).chars().next_back();
            before.is_none_or(|c| !(c.is_alphanumeric() || c == '-' || c == '_' || c == '$'))
        })
        .filter_map(|(at, _)| read(text, usize::from(line.start()) + at, name))
        .filter(|found| same_value(found.value_source(), value));
    let only = same.next()?;
    same.next().is_none().then_some(only)
}

/// A served declaration as its author wrote it.
pub(in crate::edit) fn original(
    sheet: &Sheet,
    authored: &Authored,
    id: DeclarationId,
) -> Result<Original, EditError> {
    let declaration = sheet.declaration(id);
    let at = declaration.span.start();
    let name = sheet.name_source(declaration);
    let original = written(sheet, authored, id).ok_or_else(|| {
        let why = match authored.find(sheet.text(), declaration.name.start()) {
            Some(_) => {
                format!("no declaration of {name} is at that place; the map may be old")
            }
            None => "its source map does not say from where this comes".to_owned(),
        };
        refused(sheet, at, &why)
    })?;
    let value = sheet.value_source(declaration);
    let own = original.value_source();
    if same_value(own, value) {
        return Ok(original);
    }
    let why = match variable_of(own) {
        Some(variable) => {
            let defined = authored
                .sources()
                .filter_map(|(_, text)| definition(text?, variable))
                .next();
            match defined {
                Some((place, was)) => {
                    let why = format!(
                        "the value there is {own}, and {variable} is {was}, defined at {place}"
                    );
                    return Err(not_followed(sheet, at, &why, Some(variable)));
                }
                None => format!("the value there is {own}, and nothing says what {variable} is"),
            }
        }
        None => format!("the value there is {own}, not {value}"),
    };
    Err(refused(sheet, at, &why))
}

/// Whether two values say the same, however a program writes numbers, colors and quotes.
pub(in crate::edit) fn same_value(a: &str, b: &str) -> bool {
    let parts = |text: &str| -> Vec<String> {
        let tokens = value_tokens(text);
        let solid = tokens.iter().filter(|t| !t.kind.is_blank());
        solid.map(|t| plain(t.kind, t.source(text))).collect()
    };
    fold(a) == fold(b) || parts(a) == parts(b)
}

/// A token in one of the ways to write it.
fn plain(kind: TokenKind, source: &str) -> String {
    match kind {
        TokenKind::Number | TokenKind::Dimension | TokenKind::Percentage => {
            let end = source
                .find(|c: char| !(c.is_ascii_digit() || matches!(c, '.' | '-' | '+')))
                .unwrap_or(source.len());
            match source.cut(..end).parse::<f64>() {
                Ok(number) => format!("{number}{}", source.cut(end..).to_ascii_lowercase()),
                Err(_) => source.to_owned(),
            }
        }
        TokenKind::Hash | TokenKind::IdHash => {
            let lower = source.to_ascii_lowercase();
            let digits = lower.cut(1..);
            match digits.len() {
                3 | 4 => digits.chars().flat_map(|c| [c, c]).collect(),
                _ => digits.to_owned(),
            }
        }
        TokenKind::Text => source.trim_matches(['"', '\'']).to_owned(),
        _ => source.to_owned(),
    }
}

/// The first `$name` or `@name` of a value.
pub(in crate::edit) fn variable_of(value: &str) -> Option<&str> {
    let start = value.find(['$', '@'])?;
    let rest = value.cut(start + 1..);
    let end = rest
        .find(|c: char| !(c.is_alphanumeric() || c == '-' || c == '_'))
        .unwrap_or(rest.len());
    (end > 0).then(|| value.cut(start..start + 1 + end))
}

/// Where a text defines a variable, and as what.
pub(in crate::edit) fn definition(
    text: &Text,
    variable: &str,
) -> Option<(crate::text::Place, String)> {
    let range = definition_range(text, variable)?;
    let place = text.place(TextSize::new(range.start as u32));
    Some((place, text.source().cut(range).to_owned()))
}

/// The value of a variable's definition at the beginning of a line.
pub(in crate::edit) fn definition_range(text: &Text, variable: &str) -> Option<Range<usize>> {
    let source = text.source();
    let mut at = 0;
    for line in source.split_inclusive('\n') {
        let start = at;
        at += line.len();
        let trimmed = line.trim_start();
        let Some(rest) = trimmed.strip_prefix(variable) else {
            continue;
        };
        let Some(value) = rest.trim_start().strip_prefix(':') else {
            continue;
        };
        let from = start + line.len() - value.len();
        let (_, until) = value_end(source.cut(from..));
        let value = source.cut(from..from + until);
        let bare = value.split(" !default").next().unwrap_or(value);
        let lead = bare.len() - bare.trim_start().len();
        return Some(from + lead..from + lead + bare.trim().len());
    }
    None
}

/// Where a value ends: at the `;` or `}` that closes it; and where it ends without the comments behind
/// it.
fn value_end(source: &str) -> (usize, usize) {
    let bytes = source.as_bytes();
    let mut depth = 0usize;
    let mut quote = None;
    let mut at = 0;
    // The end of what is neither white space nor a comment.
    let mut solid = 0;
    while let Some(&byte) = bytes.get(at) {
        let next = bytes.get(at + 1).copied();
        match (quote, byte) {
            (_, b'\\') => {
                at += 2;
                solid = at;
                continue;
            }
            (Some(q), _) if byte == q => quote = None,
            (Some(_), _) => {}
            (None, b'"' | b'\'') => quote = Some(byte),
            (None, b'/') if next == Some(b'*') => {
                let end = source.get(at + 2..).and_then(|rest| rest.find("*/"));
                at = end.map_or(source.len(), |end| at + 2 + end + 2);
                continue;
            }
            // A comment up to the end of the line; in parentheses it is a part of a URL.
            (None, b'/') if next == Some(b'/') && depth == 0 => {
                let end = source.get(at..).and_then(|rest| rest.find('\n'));
                at = end.map_or(source.len(), |end| at + end);
                continue;
            }
            (None, b'(' | b'{' | b'[') => depth += 1,
            (None, b')' | b']') => depth = depth.saturating_sub(1),
            (None, b'}') if depth == 0 => break,
            (None, b'}') => depth -= 1,
            (None, b';') if depth == 0 => break,
            _ => {}
        }
        at += 1;
        if !byte.is_ascii_whitespace() {
            solid = at;
        }
    }
    (at.min(source.len()), solid.min(source.len()))
}

/// Reads a declaration of a property at a place of an authored text.
fn read(text: &Arc<Text>, start: usize, property: &str) -> Option<Original> {
    let source = text.source();
    let rest = source.get(start..)?;
    let name = rest.get(..property.len())?;
    if !name.eq_ignore_ascii_case(property) {
        return None;
    }
    let after = rest.cut(property.len()..);
    let value = after.trim_start().strip_prefix(':')?;
    let from = source.len() - value.len();
    let (until, solid) = value_end(value);
    let semicolon = value
        .cut(until..)
        .starts_with(';')
        .then_some(from + until + 1);
    let written = value.cut(..solid);
    let lead = written.len() - written.trim_start().len();
    let mark = written
        .rfind('!')
        .filter(|at| fold(written.cut(at + 1..)).eq_ignore_ascii_case("important"));
    let bare = mark.map_or(written, |at| written.cut(..at).trim_end());
    Some(Original {
        text: text.clone(),
        name: start..start + property.len(),
        value: from + lead..from + bare.len().max(lead),
        important: mark.map(|at| from + at..from + written.len()),
        whole: start..from + written.len().max(lead),
        semicolon,
    })
}

/// That a change can't be made in the source of what is there.
pub(in crate::edit) fn refused(sheet: &Sheet, at: TextSize, why: &str) -> EditError {
    not_followed(sheet, at, why, None)
}

fn not_followed(sheet: &Sheet, at: TextSize, why: &str, variable: Option<&str>) -> EditError {
    let built = sheet.place(at);
    let place = match &built.authored {
        Some(authored) => authored.to_string(),
        None => built.to_string(),
    };
    EditError::NotFollowed {
        place,
        file: built.file,
        why: why.to_owned(),
        variable: variable.map(str::to_owned),
    }
}
