//! Sheets as they are served while environment or states are assumed that the browser does not have.
//!
//! - A state in a selector also matches a mark that the agent sets: `:hover` becomes
//!   `:is(:hover,[data-fingerpost-held~=hover])`, which has the same specificity.
//! - A feature in a media query whose answer is assumed is answered: `(prefers-color-scheme: dark)`
//!   becomes `(min-width:0)`, or `(max-width:-1px)`, which is never so.
//! - `color-scheme: light dark` becomes the one that is assumed, so that `light-dark()`, system colors and the
//!   browser's own controls follow.
//! - For print, the medium `print` becomes `all`, and `screen` a medium that never is.
//!
//! This is what one browser is shown. It is in no file and in no draft.

use std::sync::Arc;

use fingerpost::environment::{Environment, media};
use fingerpost::selector::State;
use fingerpost::sheet::{AtRule, Rule, RuleKind, Sheet, Token, TokenKind};
use fingerpost::text::{Text, TextRange, TextSize};

/// The attribute that holds an element in states.
pub(crate) const HELD: &str = "data-fingerpost-held";

/// The features whose answers are assumed; the browser itself knows the rest.
const ASSUMED: &[&str] = &[
    "prefers-color-scheme",
    "prefers-reduced-motion",
    "prefers-contrast",
    "prefers-reduced-transparency",
    "prefers-reduced-data",
    "forced-colors",
    "inverted-colors",
    "hover",
    "any-hover",
    "pointer",
    "any-pointer",
    "resolution",
    "min-resolution",
    "max-resolution",
    "-webkit-device-pixel-ratio",
    "-webkit-min-device-pixel-ratio",
    "-webkit-max-device-pixel-ratio",
];

const TRUE: &str = "(min-width:0)";
const FALSE: &str = "(max-width:-1px)";

/// A medium that no device has (Media Queries 4 § 2.3).
const NO_MEDIUM: &str = "tty";

/// A sheet's source, as a browser is shown it in these environment.
pub(crate) fn as_assumed(text: &Arc<Text>, environment: &Environment, held: bool) -> String {
    let end = TextSize::of(text.source());
    let sheet = Sheet::parse(text.clone(), TextRange::up_to(end));
    let mut changes: Vec<(TextRange, String)> = Vec::new();
    for (_, rule) in sheet.rules() {
        match rule.kind {
            RuleKind::Style if held => states(&sheet, rule, &mut changes),
            RuleKind::At(AtRule::Media) => {
                let tokens = sheet.prelude_tokens(rule);
                media_query(text.source(), &tokens, environment, &mut changes);
            }
            RuleKind::At(AtRule::Import) => {
                // Behind the URL.
                let tokens = sheet.prelude_tokens(rule);
                let rest = tokens.get(1..).unwrap_or_default();
                media_query(text.source(), rest, environment, &mut changes);
            }
            _ => {}
        }
    }
    color_schemes(&sheet, environment, &mut changes);
    changes.sort_by_key(|(range, _)| range.start());
    changes.dedup_by(|later, earlier| later.0.start() < earlier.0.end());
    let mut out = String::with_capacity(text.source().len());
    let mut done = TextSize::new(0);
    for (range, with) in changes {
        out.push_str(slice(text.source(), TextRange::new(done, range.start())));
        out.push_str(&with);
        done = range.end();
    }
    out.push_str(slice(text.source(), TextRange::new(done, end)));
    out
}

/// A media query list by itself, such as that of `<link media>`.
pub(crate) fn assumed_query(query: &str, environment: &Environment) -> String {
    let rule = format!("@media {query}{{}}");
    let shown = as_assumed(&Text::new("query.css", rule), environment, false);
    shown
        .trim_start_matches("@media ")
        .trim_end_matches("{}")
        .to_owned()
}

fn slice(source: &str, range: TextRange) -> &str {
    source.get(std::ops::Range::from(range)).unwrap_or_default()
}

fn states(sheet: &Sheet, rule: &Rule, changes: &mut Vec<(TextRange, String)>) {
    let source = sheet.text().source();
    let tokens = sheet.prelude_tokens(rule);
    for (at, token) in tokens.iter().enumerate() {
        let colon = at.checked_sub(1).and_then(|before| tokens.get(before));
        let doubled = at.checked_sub(2).and_then(|before| tokens.get(before));
        let is_colon = |token: Option<&Token>| token.is_some_and(|t| t.kind == TokenKind::Colon);
        if token.kind != TokenKind::Ident || !is_colon(colon) || is_colon(doubled) {
            continue;
        }
        // A state of a pseudo-element can't be in `:is()`.
        let compound = tokens.get(..at.saturating_sub(1)).unwrap_or_default();
        let of_pseudo = compound
            .iter()
            .rev()
            .take_while(|t| !t.kind.is_blank() && t.kind != TokenKind::Comma)
            .zip(compound.iter().rev().skip(1))
            .any(|(second, first)| {
                second.kind == TokenKind::Colon && first.kind == TokenKind::Colon
            });
        let name = slice(source, token.span()).to_ascii_lowercase();
        let Some(state) = State::named(&name).filter(|_| !of_pseudo) else {
            continue;
        };
        let colon = colon.map_or(token.span().start(), |c| c.span().start());
        let range = TextRange::new(colon, token.span().end());
        let word = state.to_string();
        let word = word.trim_start_matches(':');
        changes.push((
            range,
            format!(":is({},[{HELD}~={word}])", slice(source, range)),
        ));
    }
}

/// Of an element with both schemes a browser shows the one that the user prefers (Color Adjustment 1 § 2.1).
fn color_schemes(sheet: &Sheet, environment: &Environment, changes: &mut Vec<(TextRange, String)>) {
    let source = sheet.text().source();
    let preferred = environment.features.get("prefers-color-scheme");
    let other = match preferred.is_some_and(|scheme| scheme == "dark") {
        true => "light",
        false => "dark",
    };
    for (_, declaration) in sheet.declarations() {
        if !sheet
            .name_source(declaration)
            .eq_ignore_ascii_case("color-scheme")
        {
            continue;
        }
        let tokens = sheet.value_tokens(declaration);
        let named = |word: &str| {
            let mut idents = tokens.iter().filter(|t| t.kind == TokenKind::Ident);
            idents.find(|t| slice(source, t.span()).eq_ignore_ascii_case(word))
        };
        if let (Some(_), Some(_), Some(left_out)) = (named("light"), named("dark"), named(other)) {
            changes.push((left_out.span(), String::new()));
        }
    }
}

fn media_query(
    source: &str,
    tokens: &[Token],
    environment: &Environment,
    changes: &mut Vec<(TextRange, String)>,
) {
    let mut depth = 0usize;
    for (at, token) in tokens.iter().enumerate() {
        match token.kind {
            TokenKind::OpenParenthesis => {
                depth += 1;
                if let Some((range, answer)) = feature(source, tokens, at, environment) {
                    changes.push((range, answer.to_owned()));
                }
            }
            TokenKind::Function => depth += 1,
            TokenKind::CloseParenthesis => depth = depth.saturating_sub(1),
            TokenKind::Ident if depth == 0 && environment.media == "print" => {
                let word = slice(source, token.span());
                if word.eq_ignore_ascii_case("print") {
                    changes.push((token.span(), "all".to_owned()));
                } else if word.eq_ignore_ascii_case("screen") {
                    changes.push((token.span(), NO_MEDIUM.to_owned()));
                }
            }
            _ => {}
        }
    }
}

/// The answer for a feature in parentheses that opens at a token, where it is one of those that are
/// assumed.
fn feature(
    source: &str,
    tokens: &[Token],
    open: usize,
    environment: &Environment,
) -> Option<(TextRange, &'static str)> {
    let inside = tokens.get(open + 1..)?;
    let length = inside.iter().position(|t| {
        matches!(
            t.kind,
            TokenKind::CloseParenthesis | TokenKind::OpenParenthesis
        )
    })?;
    let close = inside
        .get(length)
        .filter(|t| t.kind == TokenKind::CloseParenthesis)?;
    let named = |token: &Token| {
        let word = slice(source, token.span());
        token.kind == TokenKind::Ident && ASSUMED.iter().any(|f| word.eq_ignore_ascii_case(f))
    };
    inside.get(..length)?.iter().any(named).then_some(())?;
    let all = tokens.get(open..=open + 1 + length)?;
    let range = TextRange::new(tokens.get(open)?.span().start(), close.span().end());
    let holds = media(source, all, environment).holds();
    Some((range, if holds { TRUE } else { FALSE }))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn shown(css: &str, at: &str, held: bool) -> String {
        let environment = match at {
            "" => Environment::default(),
            at => at.parse().unwrap(),
        };
        as_assumed(&Text::new("a.css", css), &environment, held)
    }

    #[test]
    fn a_state_also_matches_the_mark() {
        assert_eq!(
            shown(
                "a:hover, b:not(:FOCUS) > c::before, li:first-child { top: 0 }",
                "",
                true
            ),
            "a:is(:hover,[data-fingerpost-held~=hover]), \
             b:not(:is(:FOCUS,[data-fingerpost-held~=focus])) > c::before, li:first-child { top: 0 }"
        );
        assert_eq!(shown("p::before:hover{}", "", true), "p::before:hover{}");
        assert_eq!(
            shown("a { b:hover { top: 0 } }", "", false),
            "a { b:hover { top: 0 } }"
        );
        assert_eq!(
            shown("a { &:hover { top: 0 } }", "", true),
            "a { &:is(:hover,[data-fingerpost-held~=hover]) { top: 0 } }"
        );
    }

    #[test]
    fn an_assumed_feature_is_answered_and_the_rest_is_left_to_the_browser() {
        let css = "@media (prefers-color-scheme: dark) and (width > 600px) { a { top: 0 } }";
        assert_eq!(
            shown(css, "prefers-color-scheme=dark", false),
            "@media (min-width:0) and (width > 600px) { a { top: 0 } }"
        );
        assert_eq!(
            shown(css, "", false),
            "@media (max-width:-1px) and (width > 600px) { a { top: 0 } }"
        );
        assert_eq!(
            shown("@media (min-resolution: 2dppx) {}", "2x", false),
            "@media (min-width:0) {}"
        );
    }

    #[test]
    fn an_element_with_both_color_schemes_has_the_assumed_one() {
        let css = ":root { color-scheme: light DARK; } p { color-scheme: dark only }";
        assert_eq!(
            shown(css, "prefers-color-scheme=dark", false),
            ":root { color-scheme:  DARK; } p { color-scheme: dark only }"
        );
        assert_eq!(
            shown(css, "prefers-color-scheme=light", false),
            ":root { color-scheme: light ; } p { color-scheme: dark only }"
        );
    }

    #[test]
    fn print_takes_the_place_of_the_screen() {
        assert_eq!(
            shown(
                "@media print { a { top: 0 } } @media only screen and (color) {}",
                "print",
                false
            ),
            "@media all { a { top: 0 } } @media only tty and (color) {}"
        );
        assert_eq!(assumed_query("print", &"print".parse().unwrap()), "all");
    }
}
