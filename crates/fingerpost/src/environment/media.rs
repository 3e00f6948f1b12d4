//! Media queries: Media Queries 4 § 2 to § 5, and the user preferences of level 5.

use std::cmp::Ordering;

use super::{Environment, Truth, Verdict, Viewport, logic};
use crate::sheet::{Token, TokenKind, cover, split_commas};
use crate::text::Cut;
use crate::value::computed::evaluate;
use crate::value::math;
use crate::value::serialise::number;
use crate::value::units::{Dimension, Scale, Unit};
use crate::value::value_context::Measures;

/// Evaluates a media query list; an empty list holds.
pub fn media(source: &str, tokens: &[Token], environment: &Environment) -> Verdict {
    let tokens: Vec<Token> = tokens
        .iter()
        .copied()
        .filter(|t| t.kind != TokenKind::Comment)
        .collect();
    let mut because = Vec::new();
    if tokens.iter().all(|t| t.kind.is_blank()) {
        return Verdict {
            truth: Truth::True,
            because,
        };
    }
    let truth = media_asking(source, &tokens, environment, &mut because, &mut Vec::new());
    Verdict { truth, because }
}

/// Something that a media query asks of the environment.
#[derive(Clone, Debug, PartialEq)]
pub(crate) enum Asked {
    /// A media type such as `print`.
    Type(String),
    /// A feature that is compared with an amount: its name, and the amount in px, dppx or as it is.
    Amount(String, f64),
    /// A feature that is compared with a keyword, or asked for without a value.
    Keyword(String, Option<String>),
}

/// Everything that a media query list asks, whether it matters now or not.
pub(crate) fn media_asks(source: &str, tokens: &[Token]) -> Vec<Asked> {
    let tokens: Vec<Token> = tokens
        .iter()
        .copied()
        .filter(|t| t.kind != TokenKind::Comment)
        .collect();
    let mut asked = Vec::new();
    let environment = Environment::default();
    media_asking(source, &tokens, &environment, &mut Vec::new(), &mut asked);
    asked
}

fn media_asking(
    source: &str,
    tokens: &[Token],
    environment: &Environment,
    because: &mut Vec<String>,
    asked: &mut Vec<Asked>,
) -> Truth {
    let mut reader = Reader {
        source,
        environment,
        // § 1.3: relative units refer to initial values.
        measures: &Measures::initial(environment.viewport.width, environment.viewport.height),
        of_container: None,
        because,
        asked,
    };
    let mut truth = Truth::False;
    for query in split_commas(tokens) {
        truth = truth.or(reader.query(query));
    }
    truth
}

/// A size feature of a container query (Conditional Rules 5 § 5.1), which reads as a media feature
/// does. `size` is the container's, with whether its lines are vertical; `measures` is what units
/// refer to there.
pub(super) fn size_feature(
    source: &str,
    inside: &[Token],
    (size, vertical): (Viewport, bool),
    measures: &Measures,
    because: &mut Vec<String>,
) -> Truth {
    let environment = Environment {
        viewport: size,
        ..Environment::default()
    };
    let mut reader = Reader {
        source,
        environment: &environment,
        measures,
        of_container: Some(vertical),
        because,
        asked: &mut Vec::new(),
    };
    reader.feature(inside)
}

/// § 2.4.3: whether a feature's values have no order among them, so that it takes no `min-` and no range.
fn is_discrete(name: &str) -> bool {
    name == "grid"
}

/// A feature's present value.
enum Present {
    /// A length in px.
    Length(f64),
    Ratio(f64),
    Resolution(f64),
    Integer(f64),
    Keyword(String),
}

struct Reader<'a> {
    source: &'a str,
    environment: &'a Environment,
    measures: &'a Measures,
    /// In a container query, whether the container's lines are vertical.
    of_container: Option<bool>,
    because: &'a mut Vec<String>,
    asked: &'a mut Vec<Asked>,
}

impl Reader<'_> {
    fn query(&mut self, tokens: &[Token]) -> Truth {
        let words: Vec<Token> = tokens
            .iter()
            .copied()
            .filter(|t| !t.kind.is_blank())
            .collect();
        let word = |at: usize, name: &str| {
            words
                .get(at)
                .is_some_and(|t| t.kind == TokenKind::Ident && t.is_name(self.source, name))
        };
        let modifier = usize::from(word(0, "only") || word(0, "not"));
        let negated = word(0, "not");
        let type_token = words
            .get(modifier)
            .copied()
            .filter(|t| t.kind == TokenKind::Ident);
        let Some(type_token) = type_token else {
            return self
                .condition(tokens)
                .unwrap_or_else(|| self.malformed(tokens));
        };
        let name = type_token.name(self.source).to_ascii_lowercase();
        if matches!(name.as_str(), "and" | "or" | "not" | "only" | "layer") {
            return self.malformed(tokens);
        }
        let mut truth = Truth::of(name == "all" || name == self.environment.media);
        if name != "all" {
            self.asked.push(Asked::Type(name.clone()));
            let media = &self.environment.media;
            self.because.push(if name == *media {
                format!("the medium is {media}")
            } else {
                format!("the medium is {media}, not {name}")
            });
        }
        if let Some(and) = words.get(modifier + 1) {
            if !(and.kind == TokenKind::Ident && and.is_name(self.source, "and")) {
                return self.malformed(tokens);
            }
            let from = tokens.iter().position(|t| t == and).map_or(0, |at| at + 1);
            // § 3: `or` stands after a media type only in parentheses.
            if self.holds_or(tokens.cut(from..)) {
                return self.malformed(tokens);
            }
            let Some(rest) = self.condition(tokens.cut(from..)) else {
                return self.malformed(tokens);
            };
            truth = truth.and(rest);
        }
        if negated { truth.not() } else { truth }
    }

    /// Whether `or` stands outside of parentheses.
    fn holds_or(&self, tokens: &[Token]) -> bool {
        let mut depth = 0usize;
        tokens.iter().any(|token| {
            if token.kind.closer().is_some() {
                depth += 1;
            } else if token.kind == TokenKind::CloseParenthesis {
                depth = depth.saturating_sub(1);
            }
            depth == 0 && token.kind == TokenKind::Ident && token.is_name(self.source, "or")
        })
    }

    /// § 3.2: a query that is not written as it should be is `not all`.
    fn malformed(&mut self, tokens: &[Token]) -> Truth {
        let text = self.source.cut(cover(tokens));
        self.because.push(format!(
            "'{}' is not a valid media query, so it never matches",
            text.trim()
        ));
        Truth::False
    }

    fn condition(&mut self, tokens: &[Token]) -> Option<Truth> {
        let source = self.source;
        logic::evaluate(source, tokens, &mut |function, inside| {
            if function.is_some() {
                return Truth::Unknown;
            }
            self.feature(inside)
        })
    }

    fn feature(&mut self, inside: &[Token]) -> Truth {
        let tokens: Vec<Token> = inside
            .iter()
            .copied()
            .filter(|t| !t.kind.is_blank())
            .collect();
        let Some(first) = tokens.first() else {
            return Truth::Unknown;
        };
        let comparison = tokens
            .iter()
            .any(|t| matches!(t.delim(self.source), Some('<' | '>' | '=')));
        if comparison {
            return self.range(&tokens).unwrap_or(Truth::Unknown);
        }
        if first.kind != TokenKind::Ident {
            return Truth::Unknown;
        }
        let name = first.name(self.source).to_ascii_lowercase();
        match tokens.get(1) {
            None => self.boolean(&name),
            Some(colon) if colon.kind == TokenKind::Colon => self.plain(&name, tokens.cut(2..)),
            Some(_) => Truth::Unknown,
        }
    }

    fn unknown(&mut self, name: &str) -> Truth {
        self.because.push(format!(
            "'{name}' is not a known {} feature, so it can't be true",
            if self.of_container.is_some() {
                "size"
            } else {
                "media"
            }
        ));
        Truth::Unknown
    }

    /// `(hover)`: anything but zero and `none`.
    fn boolean(&mut self, name: &str) -> Truth {
        let Some(present) = self.present(name) else {
            return self.unknown(name);
        };
        self.asked.push(Asked::Keyword(name.to_owned(), None));
        let (holds, text) = match &present {
            Present::Keyword(word) => (
                !matches!(word.as_str(), "none" | "no-preference"),
                word.clone(),
            ),
            other => (amount(other) != 0.0, shown(other)),
        };
        self.because.push(format!("{name} is {text}"));
        Truth::of(holds)
    }

    fn plain(&mut self, name: &str, value: &[Token]) -> Truth {
        let (bare, ordering) = match name {
            _ if name.starts_with("min-") => (name.cut(4..), Some(Ordering::Greater)),
            _ if name.starts_with("max-") => (name.cut(4..), Some(Ordering::Less)),
            "-webkit-min-device-pixel-ratio" => {
                ("-webkit-device-pixel-ratio", Some(Ordering::Greater))
            }
            "-webkit-max-device-pixel-ratio" => {
                ("-webkit-device-pixel-ratio", Some(Ordering::Less))
            }
            _ => (name, None),
        };
        let Some(present) = self.present(bare) else {
            return self.unknown(name);
        };
        let prefixed = bare.len() < name.len() && name.starts_with('m');
        if prefixed && (is_discrete(bare) || bare.starts_with('-')) {
            return self.unknown(name);
        }
        if let Present::Keyword(word) = &present {
            if ordering.is_some() {
                return self.unknown(name);
            }
            let [wanted] = value else {
                return Truth::Unknown;
            };
            let wanted = wanted.name(self.source).to_ascii_lowercase();
            self.asked
                .push(Asked::Keyword(name.to_owned(), Some(wanted.clone())));
            let holds = *word == wanted;
            self.because.push(if holds {
                format!("{name} is {word}")
            } else {
                format!("{name} is {word}, not {wanted}")
            });
            return Truth::of(holds);
        }
        let Some(wanted) = self.amount_of(&present, value) else {
            return Truth::Unknown;
        };
        self.asked.push(Asked::Amount(bare.to_owned(), wanted));
        let is = amount(&present);
        let (holds, words) = match ordering {
            Some(Ordering::Greater) => (is >= wanted, "at least "),
            Some(_) => (is <= wanted, "at most "),
            None => ((is - wanted).abs() < 1e-9, ""),
        };
        let text = self.text(value);
        self.compared(bare, &present, holds, words, &text);
        Truth::of(holds)
    }

    fn compared(&mut self, name: &str, present: &Present, holds: bool, words: &str, wanted: &str) {
        let joint = if holds { ", " } else { ", not " };
        self.because.push(format!(
            "{name} is {}{joint}{words}{wanted}",
            shown(present)
        ));
    }

    /// `(width >= 600px)`, `(400px <= width < 700px)`.
    fn range(&mut self, tokens: &[Token]) -> Option<Truth> {
        let mut parts: Vec<Vec<Token>> = vec![Vec::new()];
        let mut operators: Vec<String> = Vec::new();
        let mut at = 0;
        while let Some(token) = tokens.get(at) {
            match token.delim(self.source) {
                Some(mark @ ('<' | '>' | '=')) => {
                    let equal = mark != '='
                        && tokens
                            .get(at + 1)
                            .is_some_and(|t| t.is_delim(self.source, '=') && t.start == token.end);
                    operators.push(format!("{mark}{}", if equal { "=" } else { "" }));
                    parts.push(Vec::new());
                    at += 1 + usize::from(equal);
                }
                _ => {
                    parts.last_mut()?.push(*token);
                    at += 1;
                }
            }
        }
        let mut places = parts.iter().enumerate();
        let (name_at, name) = places.find_map(|(at, part)| match &part[..] {
            [only] if only.kind == TokenKind::Ident && !only.is_name(self.source, "infinite") => {
                Some((at, only.name(self.source).to_ascii_lowercase()))
            }
            _ => None,
        })?;
        let Some(present) = self.present(&name) else {
            return Some(self.unknown(&name));
        };
        if matches!(present, Present::Keyword(_)) || is_discrete(&name) {
            return None;
        }
        // § 3: two comparisons have the feature between them and the same direction.
        let direction = |operator: &String| operator.chars().next();
        let written = match &operators[..] {
            [_] => true,
            [first, second] => {
                name_at == 1 && direction(first) == direction(second) && !first.starts_with('=')
            }
            _ => false,
        };
        if !written {
            return None;
        }
        let flip = |operator: &str| match operator {
            "<" => ">",
            "<=" => ">=",
            ">" => "<",
            ">=" => "<=",
            _ => "=",
        };
        let mut truth = Truth::True;
        for (at, part) in parts.iter().enumerate() {
            if at == name_at {
                continue;
            }
            // Seen from the feature: the operator to its right, or the one to its left turned over.
            let operator = if at > name_at {
                operators.get(name_at)?
            } else {
                flip(operators.get(at)?)
            };
            let wanted = self.amount_of(&present, part)?;
            self.asked.push(Asked::Amount(name.clone(), wanted));
            let is = amount(&present);
            let (holds, words) = match operator {
                "<" => (is < wanted, "below "),
                "<=" => (is <= wanted, "at most "),
                ">" => (is > wanted, "above "),
                ">=" => (is >= wanted, "at least "),
                _ => ((is - wanted).abs() < 1e-9, ""),
            };
            let text = self.text(part);
            self.compared(&name, &present, holds, words, &text);
            truth = truth.and(Truth::of(holds));
        }
        Some(truth)
    }

    fn text(&self, tokens: &[Token]) -> String {
        self.source.cut(cover(tokens)).to_owned()
    }

    /// The value compared with, in the unit of the present one.
    fn amount_of(&self, present: &Present, tokens: &[Token]) -> Option<f64> {
        let measures = self.measures;
        let first = tokens.first()?;
        if first.kind == TokenKind::Function {
            return evaluate(&math::parse(self.source, tokens)?, measures);
        }
        match (present, tokens) {
            (Present::Ratio(_), [a, slash, b]) if slash.is_delim(self.source, '/') => {
                Some(a.number(self.source)? / b.number(self.source)?)
            }
            (Present::Ratio(_) | Present::Integer(_), [only]) if only.kind == TokenKind::Number => {
                only.number(self.source)
            }
            (Present::Resolution(_), [only]) => match only.kind {
                TokenKind::Dimension => {
                    let unit = Unit::named(&only.name(self.source))?;
                    let Scale::Fixed(scale) = unit.scale else {
                        return None;
                    };
                    // Values 4 § 7.4: it can't be negative.
                    let number = only.number(self.source)?;
                    (unit.dimension == Dimension::Resolution && number >= 0.0)
                        .then_some(number * scale)
                }
                TokenKind::Ident if only.is_name(self.source, "infinite") => Some(f64::INFINITY),
                _ => None,
            },
            (Present::Length(_), [only]) => match only.kind {
                TokenKind::Dimension => {
                    let unit = Unit::named(&only.name(self.source))?;
                    measures.pixels(only.number(self.source)?, unit)
                }
                TokenKind::Number if only.number(self.source)? == 0.0 => Some(0.0),
                _ => None,
            },
            _ => None,
        }
    }

    fn present(&self, name: &str) -> Option<Present> {
        if let Some(vertical) = self.of_container {
            let Viewport { width, height } = self.environment.viewport;
            let name = match (name, vertical) {
                ("inline-size", false) | ("block-size", true) => "width",
                ("block-size", false) | ("inline-size", true) => "height",
                _ => name,
            };
            return match name {
                "width" => Some(Present::Length(width)),
                "height" => Some(Present::Length(height)),
                "aspect-ratio" => Some(Present::Ratio(width / height)),
                "orientation" => Some(Present::Keyword(
                    if height >= width {
                        "portrait"
                    } else {
                        "landscape"
                    }
                    .to_owned(),
                )),
                _ => None,
            };
        }
        if let Some(word) = self.environment.features.get(name) {
            return Some(match word.parse::<f64>() {
                Ok(value) => Present::Integer(value),
                Err(_) => Present::Keyword(word.clone()),
            });
        }
        let viewport = self.environment.viewport;
        let keyword = |word: &str| Some(Present::Keyword(word.to_owned()));
        match name {
            "width" | "device-width" => Some(Present::Length(viewport.width)),
            "height" | "device-height" => Some(Present::Length(viewport.height)),
            "aspect-ratio" | "device-aspect-ratio" => {
                Some(Present::Ratio(viewport.width / viewport.height))
            }
            "resolution" => Some(Present::Resolution(self.environment.resolution)),
            "-webkit-device-pixel-ratio" => Some(Present::Integer(self.environment.resolution)),
            "color" => Some(Present::Integer(8.0)),
            "color-index" | "monochrome" | "grid" => Some(Present::Integer(0.0)),
            "horizontal-viewport-segments" | "vertical-viewport-segments" => {
                Some(Present::Integer(1.0))
            }
            "orientation" => keyword(if viewport.height >= viewport.width {
                "portrait"
            } else {
                "landscape"
            }),
            "scan" => keyword("progressive"),
            "update" => keyword(if self.environment.media == "print" {
                "none"
            } else {
                "fast"
            }),
            "overflow-block" => keyword("scroll"),
            "overflow-inline" => keyword("scroll"),
            "pointer" | "any-pointer" => keyword("fine"),
            "hover" | "any-hover" => keyword("hover"),
            "color-gamut" => keyword("srgb"),
            "display-mode" => keyword("browser"),
            "dynamic-range" | "video-dynamic-range" => keyword("standard"),
            "inverted-colors" | "forced-colors" | "nav-controls" => keyword("none"),
            "prefers-color-scheme" => keyword("light"),
            "prefers-reduced-motion"
            | "prefers-reduced-transparency"
            | "prefers-reduced-data"
            | "prefers-contrast" => keyword("no-preference"),
            "scripting" => keyword("enabled"),
            _ => None,
        }
    }
}

fn amount(present: &Present) -> f64 {
    match present {
        Present::Length(value)
        | Present::Ratio(value)
        | Present::Resolution(value)
        | Present::Integer(value) => *value,
        Present::Keyword(_) => 0.0,
    }
}

fn shown(present: &Present) -> String {
    match present {
        Present::Length(value) => format!("{}px", number(*value)),
        Present::Resolution(value) => format!("{}dppx", number(*value)),
        Present::Ratio(value) | Present::Integer(value) => number(*value),
        Present::Keyword(word) => word.clone(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::value::substitution::value_tokens;

    fn verdict(query: &str) -> Verdict {
        media(query, &value_tokens(query), &Environment::default())
    }

    #[test]
    fn queries_hold_or_say_why_not() {
        for query in [
            "",
            "screen",
            "all and (min-width: 40em)",
            "print, (max-width: 2000px)",
            "(400px < width <= 1280px)",
            "not print",
            "not (prefers-color-scheme: dark)",
            "(hover) and (pointer: fine)",
            "(orientation: landscape) or (width < 10px)",
            "(min-aspect-ratio: 16/10)",
            "(min-resolution: 96dpi)",
            "((width > 1px) and (not (height: 1px)))",
        ] {
            assert!(verdict(query).holds(), "{query}: {:?}", verdict(query));
        }
        let narrow = verdict("(max-width: 40rem)");
        assert_eq!(narrow.truth, Truth::False);
        assert_eq!(narrow.because, ["width is 1280px, not at most 40rem"]);
        assert_eq!(verdict("(min-width: 3parsecs)").truth, Truth::Unknown);
        assert_eq!(verdict("(wings: 2)").truth, Truth::Unknown);
        assert_eq!(verdict("screen and").truth, Truth::False);
        assert_eq!(verdict("not (wings)").truth, Truth::Unknown);
    }
}
