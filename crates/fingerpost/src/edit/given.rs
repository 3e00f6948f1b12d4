//! What a person gives to an edit, read by itself before it goes anywhere: values, declarations,
//! selectors, rules. What is given must end where it ends.

use crate::edit::error::EditError;
use crate::edit::expected::Declared;
use crate::edit::plan::rule_at::{Sought, property, spot_at};
use crate::page::{Page, PropertyName};
use crate::selector::SelectorList;
use crate::sheet::{Item, RuleId, Sheet, Token, TokenKind};
use crate::text::{Cut, PlaceQuery, Text};
use crate::value::declared::{Meaning, meaning};
use crate::value::substitution::value_tokens;

/// What is left open in some tokens, in words; none where all is closed.
fn left_open(source: &str, tokens: &[Token]) -> Option<String> {
    let mut open: Vec<TokenKind> = Vec::new();
    for token in tokens {
        let text = token.source(source);
        match token.kind {
            TokenKind::BadText => return Some(format!("the string {text} is never closed")),
            TokenKind::BadUrl => return Some(format!("{text} can't be read as a url")),
            TokenKind::Comment if text.len() < 4 || !text.ends_with("*/") => {
                return Some("a comment is never closed".to_owned());
            }
            TokenKind::Text if !is_closed_string(text) => {
                return Some(format!("the string {text} is never closed"));
            }
            TokenKind::Url if !text.ends_with(')') => {
                return Some(format!("{text} is never closed"));
            }
            kind if kind.closer().is_some() => open.extend(kind.closer()),
            kind if open.last() == Some(&kind) => {
                open.pop();
            }
            TokenKind::CloseCurly | TokenKind::CloseParenthesis | TokenKind::CloseSquare => {
                return Some(format!("'{text}' closes nothing"));
            }
            _ => {}
        }
    }
    // A backslash at the very end would take the next character along.
    if source.len() - source.trim_end_matches('\\').len() == 1 {
        return Some("it ends with a backslash".to_owned());
    }
    open.last().map(|_| "a bracket is never closed".to_owned())
}

/// CSS Syntax 3 § 4.3.5: whether a string ends in its own quote, and not in an escaped one.
fn is_closed_string(text: &str) -> bool {
    let Some(quote) = text.chars().next() else {
        return false;
    };
    let inner = text.cut(1..);
    let Some(body) = inner.strip_suffix(quote) else {
        return false;
    };
    (body.len() - body.trim_end_matches('\\').len()) % 2 == 0
}

/// Whether a value is one: closed, and with nothing in it that would end its declaration.
pub(super) fn one_value(value: &str) -> Result<(), EditError> {
    let not_one = |found: String| EditError::NotAValue {
        value: value.to_owned(),
        found,
    };
    let tokens = value_tokens(value);
    if let Some(open) = left_open(value, &tokens) {
        return Err(not_one(open));
    }
    let mut at = 0;
    while let Some(token) = tokens.get(at) {
        if token.kind == TokenKind::Semicolon || token.is_delim(value, '!') {
            return Err(not_one(format!("'{}' ends it", token.source(value))));
        }
        at += crate::sheet::component_length(tokens.cut(at..));
    }
    Ok(())
}

/// Whether a value is one, and fits a property.
pub(super) fn value_of(property: &PropertyName, value: &str) -> Result<(), EditError> {
    one_value(value)?;
    let PropertyName::Known(id) = property else {
        return Ok(());
    };
    let tokens = value_tokens(value);
    let curly = tokens.iter().any(|t| t.kind == TokenKind::OpenCurly);
    let only = tokens.iter().filter(|t| !t.kind.is_blank()).count() > 0
        && tokens
            .first()
            .is_some_and(|t| t.kind == TokenKind::OpenCurly)
        && crate::sheet::component_length(&tokens) == tokens.len();
    if curly && !only {
        // CSS Syntax 3 § 5.5.6: with anything beside it, a block makes it no declaration.
        return Err(EditError::NotAValue {
            value: value.to_owned(),
            found: "a block in braces must be the whole value".to_owned(),
        });
    }
    if let Meaning::Misfit(mismatch) = meaning(*id, value, &tokens) {
        return Err(EditError::Invalid {
            property: id.name().to_owned(),
            value: value.to_owned(),
            problem: crate::question::misfit_text(id.name(), value, &mismatch),
        });
    }
    Ok(())
}

/// Declarations as they are given: `color: navy; top: 0`.
pub(super) fn declarations(given: &str) -> Result<Vec<Declared>, EditError> {
    let bad = |problem: String| EditError::InvalidDeclarations {
        given: given.to_owned(),
        problem,
    };
    if let Some(open) = left_open(given, &value_tokens(given)) {
        return Err(bad(open));
    }
    let text = Text::new("", given);
    let span = text.span();
    let sheet = Sheet::parse_attribute(text, span);
    if let Some(problem) = sheet.problems().first() {
        return Err(bad(problem.message.clone()));
    }
    let mut wanted = Vec::new();
    for item in sheet.items(sheet.rule(RuleId(0))) {
        let Item::Declaration(id) = item else {
            return Err(bad("expected declarations, such as color: navy".to_owned()));
        };
        let declaration = sheet.declaration(*id);
        let name = sheet.name_source(declaration);
        let value = sheet.value_source(declaration);
        value_of(&property(name)?, value)?;
        wanted.push(Declared {
            name: name.to_owned(),
            value: value.to_owned(),
            important: declaration.important.is_some(),
        });
    }
    if wanted.is_empty() {
        return Err(bad("expected declarations such as color: navy".to_owned()));
    }
    Ok(wanted)
}

/// The names and values of declarations as an intent gives them; none where they can't be read.
pub fn declared(given: &str) -> Vec<(String, String)> {
    let wanted = declarations(given).unwrap_or_default();
    wanted.into_iter().map(|w| (w.name, w.value)).collect()
}

/// The selector list of the rule at a place of a page's sheets, `FILE:LINE` or `FILE:LINE:COLUMN`.
pub fn selectors_at(page: &Page, place: &PlaceQuery) -> Option<String> {
    let styles = page.styles();
    let at = spot_at(&styles, place, Sought::Style, None).ok()?.rule;
    let sheet = at.sheet(&styles);
    Some(sheet.prelude_source(sheet.rule(at.rule)).to_owned())
}

/// Reads a selector list, as it may be in a sheet.
pub(super) fn selectors(given: &str) -> Result<SelectorList, EditError> {
    let bad = |problem: String| EditError::InvalidSelector {
        selector: given.to_owned(),
        problem,
    };
    if let Some(open) = left_open(given, &value_tokens(given)) {
        return Err(bad(open));
    }
    SelectorList::parse(given).map_err(|error| bad(error.to_string()))
}

/// The condition or the name after an at-rule's keyword.
pub(super) fn prelude(given: &str) -> Result<String, EditError> {
    let trimmed = given.trim();
    let bad = |problem: String| EditError::InvalidRule {
        given: given.to_owned(),
        problem,
    };
    let tokens = value_tokens(trimmed);
    if let Some(open) = left_open(trimmed, &tokens) {
        return Err(bad(open));
    }
    let mut at = 0;
    while let Some(token) = tokens.get(at) {
        if matches!(token.kind, TokenKind::Semicolon | TokenKind::OpenCurly) {
            let found = token.source(trimmed).chars().next().unwrap_or(';');
            return Err(bad(format!("'{found}' ends it")));
        }
        at += crate::sheet::component_length(tokens.cut(at..));
    }
    Ok(trimmed.to_owned())
}

/// One rule or at-rule as it is given, alone and closed.
pub(super) fn one_rule(given: &str) -> Result<Sheet, EditError> {
    let bad = |problem: String| EditError::InvalidRule {
        given: given.to_owned(),
        problem,
    };
    let trimmed = given.trim();
    if let Some(open) = left_open(trimmed, &value_tokens(trimmed)) {
        return Err(bad(open));
    }
    let text = Text::new("", trimmed);
    let span = text.span();
    let sheet = Sheet::parse(text, span);
    if let Some(problem) = sheet.problems().first() {
        return Err(bad(problem.message.clone()));
    }
    match sheet.top() {
        [Item::Rule(id)] if sheet.rule(*id).closed => Ok(sheet),
        [Item::Rule(_)] => Err(bad(
            "a ; or a block in braces is missing at its end".to_owned()
        )),
        [] => Err(bad(
            "expected a rule such as @keyframes fade { to { opacity: 0 } }".to_owned(),
        )),
        _ => Err(bad("expected one rule, found several".to_owned())),
    }
}

/// A sheet as it is given: everything in it closed.
pub(super) fn one_sheet(given: &str) -> Result<(), EditError> {
    match left_open(given, &value_tokens(given)) {
        Some(problem) => Err(EditError::InvalidRule {
            given: given.to_owned(),
            problem,
        }),
        None => Ok(()),
    }
}

/// A piece of markup as it is given: every comment, tag and raw text in it closed, so that it can't
/// take along what is after it.
pub(super) fn markup(given: &str) -> Result<(), EditError> {
    const BEHIND: &str = "fingerpost-behind";
    let tags = crate::edit::expected::Tag::all_in(&format!("{given}<{BEHIND}>"));
    match tags.last() {
        Some(tag) if tag.name == BEHIND => Ok(()),
        _ => Err(EditError::InvalidMarkup {
            given: given.to_owned(),
            problem:
                "a comment, a tag, or an element such as <script> or <textarea> is never closed, and would swallow what comes after it"
                    .to_owned(),
        }),
    }
}
