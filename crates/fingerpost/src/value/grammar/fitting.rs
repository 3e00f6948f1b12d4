//! Matching a value against a grammar.

use super::definition::Definition;
use super::engine::{Engine, State};
use super::fit::{Match, Mismatch};
use crate::sheet::Token;
use crate::text::{TextRange, TextSize};
use crate::value::facts::PropertyId;
use crate::value::substitution::{NOT_SO_DEEP, too_deep};

/// Matches a value against the grammar of a property. CSS-wide keywords and values with
/// substitution functions are none of the grammar's business.
///
/// # Errors
/// Where the value stops to fit, and what was expected.
pub fn match_property(
    property: PropertyId,
    source: &str,
    tokens: &[Token],
) -> Result<Match, Mismatch> {
    let found = match_definition(Definition::of_property(property), source, tokens)?;
    match crate::value::prose::mismatch(property, source, &without_blanks(tokens), &found.captured)
    {
        Some(mismatch) => Err(mismatch),
        None => Ok(found),
    }
}

/// Matches a value against a grammar.
///
/// # Errors
/// Where the value stops to fit, and what was expected.
pub fn match_definition(
    definition: &Definition,
    source: &str,
    tokens: &[Token],
) -> Result<Match, Mismatch> {
    let tokens = without_blanks(tokens);
    if let Some(token) = too_deep(&tokens) {
        return Err(Mismatch {
            span: token.span(),
            expected: vec![NOT_SO_DEEP.to_owned()],
        });
    }
    let mut engine = Engine::new(source, &tokens);
    let start = State { at: 0, chain: None };
    let ends = engine.ends(definition, start, tokens.len(), 0);
    if let Some(farthest) = ends.iter().map(|end| end.at).max()
        && farthest >= engine.farthest
    {
        if farthest > engine.farthest {
            engine.expected.clear();
        }
        engine.farthest = farthest;
        engine.expected.push("nothing more".to_owned());
    }
    match ends.into_iter().find(|end| end.at == tokens.len()) {
        Some(end) => Ok(Match {
            captured: engine.captured(end.chain),
        }),
        None => {
            engine.expected.sort();
            engine.expected.dedup();
            let span = match tokens.get(engine.farthest) {
                Some(token) => token.span(),
                None => TextRange::empty(
                    tokens
                        .last()
                        .map_or(TextSize::default(), |t| t.span().end()),
                ),
            };
            Err(Mismatch {
                span,
                expected: engine.expected,
            })
        }
    }
}

/// What could stand next, after the tokens of a value that is being written: the components that
/// the grammar tries there, and whether the value could also end there.
pub(super) fn tried_at_end(
    definition: &Definition,
    source: &str,
    tokens: &[Token],
) -> (Vec<Definition>, bool) {
    let tokens = without_blanks(tokens);
    if too_deep(&tokens).is_some() {
        return (Vec::new(), false);
    }
    let mut engine = Engine::new(source, &tokens);
    engine.tried = Some(Vec::new());
    let start = State { at: 0, chain: None };
    let ends = engine.ends(definition, start, tokens.len(), 0);
    let complete = !tokens.is_empty() && ends.iter().any(|end| end.at == tokens.len());
    (engine.tried.unwrap_or_default(), complete)
}

fn without_blanks(tokens: &[Token]) -> Vec<Token> {
    let words = tokens.iter().copied();
    words.filter(|t| !t.kind.is_blank()).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::sheet::tokenize;
    use crate::text::span;
    use crate::value::grammar::fit::Label;

    fn check(property: &str, value: &str) -> Result<Match, (String, Vec<String>)> {
        let tokens = tokenize(value, span(0, value.len()));
        match_property(PropertyId::named(property).unwrap(), value, &tokens)
            .map_err(|m| (value[m.span].to_owned(), m.expected))
    }

    #[test]
    fn values_that_fit() {
        for (property, value) in [
            ("color", "#0b3d5c"),
            ("color", "rgb(1 2 3 / 50%)"),
            ("color", "rgba(1, 2, 3, .5)"),
            ("color", "hsl(200deg 50% 40%)"),
            ("color", "color-mix(in oklab, red 20%, blue)"),
            ("margin", "0 auto"),
            ("padding-left", "calc(100% - 2rem)"),
            ("border", "1px solid var(--x)".trim_end_matches(" var(--x)")),
            ("background", "url(a.svg) no-repeat center / cover, #fff"),
            ("background", "linear-gradient(to right, red, blue 20%)"),
            ("font", "italic 700 1.2em/1.5 \"Skerry Sans\", serif"),
            (
                "grid-template-columns",
                "[a] 1fr [b] repeat(2, minmax(0, 1fr)) auto",
            ),
            (
                "grid-template-columns",
                "repeat(auto-fill, minmax(10rem, 1fr))",
            ),
            (
                "transition",
                "color .2s ease-in-out, transform 1s cubic-bezier(0,0,1,1) 10ms",
            ),
            ("animation", "boat 4s ease-in-out infinite alternate"),
            ("transform", "translate(10px, 50%) rotate(3deg)"),
            ("box-shadow", "0 1px 2px rgb(0 0 0 / .2), inset 0 0 4px red"),
            ("display", "inline-block"),
            ("display", "grid"),
            ("flex", "1 1 0%"),
            ("content", "\"→ \" attr(data-x)"),
            ("cursor", "pointer"),
            ("font-family", "Skerry Sans, sans-serif"),
            ("clip-path", "polygon(0 0, 100% 0, 50% 100%)"),
            ("filter", "drop-shadow(0 0 2px #000) blur(2px)"),
            ("aspect-ratio", "16 / 9"),
            ("grid-area", "1 / span 2 / auto / foo"),
            ("will-change", "transform, opacity"),
            ("mask", "url(a.svg) center / contain no-repeat"),
        ] {
            let result = check(property, value);
            assert!(result.is_ok(), "{property}: {value}: {result:?}");
        }
    }

    #[test]
    fn values_that_do_not_fit_say_where_and_what() {
        let (at, expected) = check("color", "#12345").unwrap_err();
        assert_eq!(at, "#12345");
        assert_eq!(expected, ["<color>"]);
        let (at, _) = check("margin", "1px 2px 3px 4px 5px").unwrap_err();
        assert_eq!(at, "5px");
        let (at, expected) = check("padding-left", "-2px").unwrap_err();
        assert_eq!(at, "-2px");
        assert!(
            expected.iter().any(|e| e.contains("at least 0")),
            "{expected:?}"
        );
        let (at, expected) = check("border", "1px slid red").unwrap_err();
        assert_eq!(at, "slid");
        assert!(
            expected.contains(&"<line-style>".to_owned()),
            "{expected:?}"
        );
        assert!(check("width", "10").is_err());
        assert!(check("width", "calc(1px + 2)").is_err());
        assert!(check("color", "").is_err());
    }

    #[test]
    fn captures_name_the_parts() {
        let found = check("border", "1px solid red").unwrap();
        let labels: Vec<_> = found
            .captured
            .iter()
            .filter(|c| c.depth == 0)
            .map(|c| (c.label, u32::from(c.span.start())))
            .collect();
        assert_eq!(
            labels,
            [
                (Label::Type("line-width"), 0),
                (Label::Type("line-style"), 4),
                (Label::Type("color"), 10)
            ]
        );
    }

    #[test]
    fn long_lists_take_no_stack() {
        let value = vec!["0 0 red"; 10_000].join(",");
        assert!(check("box-shadow", &value).is_ok());
    }
}
