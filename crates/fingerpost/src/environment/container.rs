//! `@container`: Conditional Rules 5 § 5.
//!
//! Style queries are answered exactly. Sizes are layout's: a size query is answered where the size
//! of the container was given, and is [`Truth::Undecided`] where it was not.

use super::media::size_feature;
use super::{Truth, Verdict, Viewport, logic};
use crate::sheet::{Token, TokenKind, cover, split_commas};
use crate::text::Cut;
use crate::value::value_context::Measures;

/// One query of an `@container` rule's list.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct ContainerQuery {
    /// The name that the container must have.
    pub name: Option<Box<str>>,
    /// The condition; empty where only the name is asked for.
    pub condition: Vec<Token>,
}

/// Which sizes a query asks for, and so which containers can answer it.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
pub struct Axes {
    /// `width`, of the page.
    pub width: bool,
    /// `height`, of the page.
    pub height: bool,
    /// `inline-size`, of the text.
    pub inline: bool,
    /// `block-size`, of the text.
    pub block: bool,
}

impl Axes {
    /// Whether any size is asked for.
    pub fn any(self) -> bool {
        self.width || self.height || self.inline || self.block
    }
}

/// What is known of a container's size.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub enum Size {
    /// It was given.
    Given(Viewport),
    /// Only layout knows.
    OfLayout,
}

/// What a query asks of its container.
pub trait Containers {
    /// The container's size.
    fn size(&self) -> Size;
    /// Whether its lines are vertical.
    fn is_vertical(&self) -> bool;
    /// What units refer to on the container.
    fn measures(&self) -> Measures;
    /// Whether a property of the container has a value, or any but the initial one; with the value
    /// that it has. `None` where there is no such property.
    fn style(&self, property: &str, value: Option<&str>) -> Option<(bool, String)>;
}

/// Reads the prelude of an `@container` rule.
pub fn container_queries(source: &str, tokens: &[Token]) -> Vec<ContainerQuery> {
    split_commas(tokens)
        .into_iter()
        .map(|query| {
            let mut words = query.iter().enumerate().filter(|(_, t)| !t.kind.is_blank());
            let name = words
                .next()
                .filter(|(_, t)| t.kind == TokenKind::Ident && !t.is_name(source, "not"));
            let from = name.map_or(0, |(at, _)| at + 1);
            ContainerQuery {
                name: name.map(|(_, token)| token.name(source).into()),
                condition: query.cut(from..).to_vec(),
            }
        })
        .collect()
}

impl ContainerQuery {
    fn is_bare(&self) -> bool {
        self.condition.iter().all(|t| t.kind.is_blank())
    }

    /// Which sizes it asks for.
    pub fn axes(&self, source: &str) -> Axes {
        let mut axes = Axes::default();
        logic::evaluate(source, &self.condition, &mut |function, inside| {
            if function.is_none() {
                for token in inside.iter().filter(|t| t.kind == TokenKind::Ident) {
                    let lower = token.name(source).to_ascii_lowercase();
                    let feature = lower.strip_prefix("min-").or(lower.strip_prefix("max-"));
                    match feature.unwrap_or(&lower) {
                        "width" => axes.width = true,
                        "height" => axes.height = true,
                        "inline-size" => axes.inline = true,
                        "block-size" => axes.block = true,
                        "aspect-ratio" | "orientation" => {
                            axes.inline = true;
                            axes.block = true;
                        }
                        _ => {}
                    }
                }
            }
            Truth::Unknown
        });
        axes
    }

    /// Answers the query of the container that it is about.
    pub fn evaluate(&self, source: &str, container: &dyn Containers) -> Verdict {
        let mut because = Vec::new();
        if self.is_bare() {
            let truth = Truth::True;
            return Verdict { truth, because };
        }
        let truth = logic::evaluate(
            source,
            &self.condition,
            &mut |function, inside| match function {
                None => match container.size() {
                    Size::Given(size) => {
                        let vertical = container.is_vertical();
                        let measures = container.measures();
                        size_feature(source, inside, (size, vertical), &measures, &mut because)
                    }
                    Size::OfLayout => Truth::Undecided,
                },
                Some("style") => style(source, inside, container, &mut because),
                Some(other) => {
                    because.push(format!("{other}() is known only while the page is used"));
                    Truth::Unknown
                }
            },
        );
        let truth = truth.unwrap_or_else(|| {
            because.push("this is not a valid condition, so it is always false".to_owned());
            Truth::False
        });
        Verdict { truth, because }
    }
}

/// § 5.2: a style feature, or a condition of them.
fn style(
    source: &str,
    inside: &[Token],
    container: &dyn Containers,
    because: &mut Vec<String>,
) -> Truth {
    let first = inside.iter().find(|t| !t.kind.is_blank());
    let nested = first.is_some_and(|t| {
        t.kind == TokenKind::OpenParenthesis
            || (t.kind == TokenKind::Ident && t.is_name(source, "not"))
    });
    if nested {
        let truth = logic::evaluate(source, inside, &mut |_, feature| {
            style_feature(source, feature, container, because)
        });
        return truth.unwrap_or(Truth::Unknown);
    }
    style_feature(source, inside, container, because)
}

fn style_feature(
    source: &str,
    inside: &[Token],
    container: &dyn Containers,
    because: &mut Vec<String>,
) -> Truth {
    let mut words = inside.iter().filter(|t| !t.kind.is_blank());
    let Some(name) = words.next().filter(|t| t.kind == TokenKind::Ident) else {
        return Truth::Unknown;
    };
    let colon = inside.iter().position(|t| t.kind == TokenKind::Colon);
    let value = match (words.next(), colon) {
        (None, _) => None,
        (Some(mark), Some(at)) if mark.kind == TokenKind::Colon => {
            Some(source.cut(cover(inside.cut(at + 1..))).trim())
        }
        _ => return Truth::Unknown,
    };
    let name = name.name(source);
    match container.style(&name, value) {
        None => Truth::Unknown,
        Some((holds, present)) => {
            let present = if present.is_empty() {
                "not set"
            } else {
                &present
            };
            because.push(match (holds, value) {
                (true, _) => format!("{name} is {present}"),
                (false, Some(value)) => format!("{name} is {present}, not {value}"),
                (false, None) => format!("{name} is {present}"),
            });
            Truth::of(holds)
        }
    }
}
