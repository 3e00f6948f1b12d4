//! The environment that a theme itself speaks of: one width between each two of its breakpoints, and
//! each medium and preference that its media queries ask for.

use serde::{Deserialize, Serialize};

use super::{Asked, Environment, Viewport};

/// More widths than these are not looked at: a theme has a handful.
pub const MOST_WIDTHS: usize = 12;

/// Widths of common screens, tried first where one lies between two breakpoints, in CSS px.
const COMMON_WIDTHS: [f64; 9] = [
    360.0, 480.0, 600.0, 700.0, 800.0, 1024.0, 1280.0, 1600.0, 1920.0,
];

/// Environment that a theme speaks of, with what makes them different from others.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Variant {
    /// In words: `at 480px`, `in print`, `with prefers-color-scheme: dark`.
    pub words: String,
    /// The environment.
    pub environment: Environment,
}

/// The environment that media queries ask for, besides `own`: each differs from it in one thing.
pub(crate) fn variants(asked: &[Asked], own: &Environment) -> Vec<Variant> {
    let mut found = Vec::new();
    let add = |words: String, environment: Environment, found: &mut Vec<Variant>| {
        if environment != *own && found.iter().all(|v: &Variant| v.environment != environment) {
            found.push(Variant { words, environment });
        }
    };
    for width in widths(asked, own.viewport.width) {
        let viewport = Viewport {
            width,
            ..own.viewport
        };
        let environment = Environment {
            viewport,
            ..own.clone()
        };
        add(format!("at {width}px"), environment, &mut found);
    }
    for ask in asked {
        match ask {
            Asked::Type(medium) if medium == "print" || medium == "screen" => {
                let environment = Environment {
                    media: medium.clone(),
                    ..own.clone()
                };
                let words = match medium.as_str() {
                    "print" => "in print",
                    _ => "on a screen",
                };
                add(words.to_owned(), environment, &mut found);
            }
            Asked::Keyword(name, value) => {
                let Some(value) = value.as_deref().or(usual(name)) else {
                    continue;
                };
                let mut environment = own.clone();
                if name == "orientation" {
                    let Viewport { width, height } = own.viewport;
                    environment.viewport = Viewport {
                        width: height,
                        height: width,
                    };
                    add(format!("at {height}px"), environment, &mut found);
                    continue;
                }
                environment.features.insert(name.clone(), value.to_owned());
                add(format!("with {name}: {value}"), environment, &mut found);
            }
            _ => {}
        }
    }
    found
}

/// What a preference is when it is asked for without a value.
fn usual(name: &str) -> Option<&'static str> {
    match name {
        "prefers-reduced-motion" | "prefers-reduced-transparency" | "prefers-reduced-data" => {
            Some("reduce")
        }
        "prefers-contrast" => Some("more"),
        "forced-colors" => Some("active"),
        "hover" | "any-hover" | "pointer" | "any-pointer" => Some("none"),
        _ => None,
    }
}

/// One width between each two breakpoints, but for those where `own` is; narrow ones first.
fn widths(asked: &[Asked], own: f64) -> Vec<f64> {
    let mut points: Vec<f64> = asked
        .iter()
        .filter_map(|ask| match ask {
            Asked::Amount(name, amount) if name == "width" || name == "device-width" => {
                Some(*amount)
            }
            _ => None,
        })
        .filter(|amount| amount.is_finite() && *amount > 0.0)
        .collect();
    points.sort_by(f64::total_cmp);
    points.dedup();
    let Some(widest) = points.last().copied() else {
        return Vec::new();
    };
    let mut from = 0.0;
    let mut found = Vec::new();
    for to in points.into_iter().chain([widest + 2000.0]) {
        // Between `max-width: 599px` and `min-width: 600px` there is nothing to see.
        let holds_own = from < own && own < to;
        if to - from > 1.5 && !holds_own {
            let common = COMMON_WIDTHS.iter().find(|w| from < **w && **w < to);
            found.push(common.copied().unwrap_or(((from + to) / 2.0).round()));
        }
        from = to;
    }
    found.truncate(MOST_WIDTHS);
    found
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::environment::media_asks;
    use crate::value::substitution::value_tokens;

    fn words(queries: &[&str]) -> Vec<String> {
        let all = queries.iter().flat_map(|q| media_asks(q, &value_tokens(q)));
        let asked: Vec<Asked> = all.collect();
        let found = variants(&asked, &Environment::default()).into_iter();
        found.map(|variant| variant.words).collect()
    }

    #[test]
    fn one_width_between_each_two_breakpoints() {
        assert_eq!(
            words(&[
                "(max-width: 599px)",
                "(min-width: 600px)",
                "(40em <= width < 60em)"
            ]),
            ["at 360px", "at 620px", "at 700px"]
        );
    }

    #[test]
    fn media_and_preferences() {
        assert_eq!(
            words(&[
                "print",
                "screen and (prefers-color-scheme: dark)",
                "(prefers-reduced-motion)"
            ]),
            [
                "in print",
                "with prefers-color-scheme: dark",
                "with prefers-reduced-motion: reduce"
            ]
        );
    }

    #[test]
    fn a_width_at_a_breakpoint_stands_for_neither_side_of_it() {
        assert_eq!(words(&["(min-width: 1280px)"]), ["at 360px", "at 1600px"]);
    }
}
