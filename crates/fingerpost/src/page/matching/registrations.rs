//! `@property`: Properties and Values API 1 § 3.

use rustc_hash::FxHashMap;

use crate::page::StyleSheet;
use crate::sheet::{RuleId, Token, TokenKind};
use crate::value::grammar::{Definition, match_definition};
use crate::value::substitution::value_tokens;
use crate::value::units::Unit;

/// A custom property that has a type.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct Registration {
    /// What its values must be; none where they can be anything (`*`).
    pub syntax: Option<Definition>,
    /// The syntax as written.
    pub syntax_source: String,
    /// Whether it is inherited.
    pub inherits: bool,
    /// Its initial value.
    pub initial: Option<String>,
    /// The sheet that registers it, by its index in the page's list.
    pub sheet: u32,
    /// The rule that does.
    pub rule: RuleId,
}

/// The registered custom properties of a page, by name.
pub(in crate::page) type Registrations = FxHashMap<Box<str>, Registration>;

/// Whether two states of a page have the same custom properties registered in the same way.
pub(in crate::page) fn alike(one: &Registrations, other: &Registrations) -> bool {
    let told = |r: &Registration| (r.syntax_source.clone(), r.inherits, r.initial.clone());
    one.len() == other.len()
        && one
            .iter()
            .all(|(name, a)| other.get(name).is_some_and(|b| told(a) == told(b)))
}

/// Reads an `@property` rule. An incomplete one registers nothing (§ 3.1).
///
/// # Errors
/// What is missing or wrong.
pub(in crate::page) fn registration(
    styles: &StyleSheet,
    sheet_at: u32,
    rule: RuleId,
) -> Result<(Box<str>, Registration), &'static str> {
    let sheet = styles.sheet();
    let source = sheet.text().source();
    let mut head = sheet.prelude_tokens(sheet.rule(rule)).into_iter();
    let name = head
        .find(|t| !t.kind.is_blank())
        .filter(|t| t.kind == TokenKind::Ident && t.source(source).starts_with("--"))
        .ok_or("expected the name of a custom property")?;
    let descriptor = |wanted: &str| {
        let all = sheet.declarations_of(rule);
        let found = all.filter(|(_, d)| sheet.name_source(d).eq_ignore_ascii_case(wanted));
        found.last().map(|(_, d)| d)
    };
    let syntax = descriptor("syntax").ok_or("it has no syntax, so it registers nothing")?;
    let syntax = sheet.value_tokens(syntax).into_iter().next();
    let syntax_source = syntax
        .filter(|t| t.kind == TokenKind::Text)
        .map(|t| t.string(source).trim().to_owned())
        .ok_or("its syntax must be a string")?;
    let inherits = descriptor("inherits").ok_or("it does not say whether it inherits")?;
    let inherits = match sheet.value_source(inherits).to_ascii_lowercase().as_str() {
        "true" => true,
        "false" => false,
        _ => return Err("inherits must be true or false"),
    };
    let initial = descriptor("initial-value").map(|d| sheet.value_source(d).to_owned());
    let syntax = match syntax_source.as_str() {
        "*" => None,
        other if is_syntax(other) => Some(Definition::parse(other)),
        _ => return Err("its syntax is none"),
    };
    if let Some(syntax) = &syntax {
        let initial = initial.as_ref().ok_or("it has no initial-value")?;
        let tokens = value_tokens(initial);
        if match_definition(syntax, initial, &tokens).is_err() || is_relative(initial, &tokens) {
            return Err("its initial-value does not fit its syntax");
        }
    }
    let registration = Registration {
        syntax,
        syntax_source,
        inherits,
        initial,
        sheet: sheet_at,
        rule,
    };
    Ok((name.name(source).into(), registration))
}

/// § 5: the types that a syntax may name, `|`, and the two multipliers.
fn is_syntax(text: &str) -> bool {
    const TYPES: [&str; 16] = [
        "angle",
        "color",
        "custom-ident",
        "image",
        "integer",
        "length",
        "length-percentage",
        "number",
        "percentage",
        "resolution",
        "string",
        "time",
        "transform-function",
        "transform-list",
        "url",
        "dashed-ident",
    ];
    text.split('|').all(|part| {
        let part = part.trim();
        let bare = part.strip_suffix(['+', '#']).unwrap_or(part);
        match bare.strip_prefix('<').and_then(|b| b.strip_suffix('>')) {
            Some(name) => TYPES.contains(&name),
            None => {
                let tokens = value_tokens(bare);
                matches!(tokens[..], [only] if only.kind == TokenKind::Ident)
            }
        }
    })
}

/// Whether a value depends on an element's font: an initial value must not.
fn is_relative(source: &str, tokens: &[Token]) -> bool {
    tokens.iter().any(|t| {
        t.kind == TokenKind::Dimension && Unit::named(&t.name(source)).is_some_and(Unit::is_of_font)
    })
}
