//! The parts of a specified value: what is known already, and what depends on the element.

use std::sync::Arc;

use smol_str::SmolStr;

use super::asks::Dependencies;
use super::behavior::{Alone, Behavior};
use super::facts::PropertyId;
use super::math::Expression;
use super::typed::Component;
use super::units::{DEG, Unit};
use super::value_context::MEDIUM_FONT_SIZE;
use crate::sheet::{Token, TokenKind};

/// A value that depends on where it is.
#[derive(Debug)]
pub struct Open {
    pub(super) property: Option<PropertyId>,
    pub(super) parts: Vec<Part>,
    pub(super) asks: Dependencies,
}

/// One part of a specified value.
#[derive(Clone, Debug)]
pub(super) enum Part {
    /// What is already what it computes to.
    Fixed(Component),
    /// A relative length.
    Length(f64, &'static Unit),
    /// So many times the font size.
    OfFontSize(f64),
    /// One step bolder or lighter than the parent's weight.
    Weight(Step),
    /// A color that asks something.
    Color(Box<str>),
    /// A math function; where an integer is asked for, its result is rounded.
    Math {
        expression: Arc<Expression>,
        integer: bool,
    },
    /// A math function that is the whole value, and is clamped to what the property takes.
    WholeMath(Arc<Expression>),
    Function(SmolStr, Vec<Part>),
    SquareBlock(Vec<Part>),
}

/// Fonts 4 § 2.2.1.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Step {
    Bolder,
    Lighter,
}

/// Fonts 4 § 2.5, CSS 2 § 10.8.1: these percentages are of the font size.
pub(super) fn is_of_font_size(property: PropertyId) -> bool {
    matches!(property, PropertyId::FONT_SIZE | PropertyId::LINE_HEIGHT)
}

/// The size of a word, in pixels (Fonts 4 § 2.5).
fn font_size(word: &str) -> Option<f64> {
    Some(match word {
        "xx-small" => 9.0,
        "x-small" => 10.0,
        "small" => 13.0,
        "medium" => MEDIUM_FONT_SIZE,
        "large" => 18.0,
        "x-large" => 24.0,
        "xx-large" => 32.0,
        "xxx-large" => 48.0,
        _ => return None,
    })
}

/// The width of a word, in percent (Fonts 4 § 2.3).
fn font_width(word: &str) -> Option<f64> {
    Some(match word {
        "ultra-condensed" => 50.0,
        "extra-condensed" => 62.5,
        "condensed" => 75.0,
        "semi-condensed" => 87.5,
        "normal" => 100.0,
        "semi-expanded" => 112.5,
        "expanded" => 125.0,
        "extra-expanded" => 150.0,
        "ultra-expanded" => 200.0,
        _ => return None,
    })
}

/// Values of one word or number with their own rule.
pub(super) fn alone(property: PropertyId, source: &str, token: Token) -> Option<Vec<Part>> {
    let rule = Behavior::of(property).alone?;
    let word = token.name(source).to_ascii_lowercase();
    let one = |component| Some(vec![Part::Fixed(component)]);
    let pixels = |size: f64| one(Component::pixels(size));
    match rule {
        // Fonts 4 § 2.5; percentages and em are of the parent's size.
        Alone::FontSize => match (token.kind, word.as_str()) {
            (TokenKind::Percentage, _) => {
                Some(vec![Part::OfFontSize(token.number(source)? / 100.0)])
            }
            (_, "larger") => Some(vec![Part::OfFontSize(1.2)]),
            (_, "smaller") => Some(vec![Part::OfFontSize(1.0 / 1.2)]),
            (_, word) => pixels(font_size(word)?),
        },
        Alone::FontWeight => match word.as_str() {
            "normal" => one(Component::Number(400.0)),
            "bold" => one(Component::Number(700.0)),
            "bolder" => Some(vec![Part::Weight(Step::Bolder)]),
            "lighter" => Some(vec![Part::Weight(Step::Lighter)]),
            _ => None,
        },
        Alone::LineHeight if token.kind == TokenKind::Percentage => {
            Some(vec![Part::OfFontSize(token.number(source)? / 100.0)])
        }
        Alone::LineHeight => None,
        Alone::LineWidth => match word.as_str() {
            "thin" => pixels(1.0),
            "medium" => pixels(3.0),
            "thick" => pixels(5.0),
            _ => None,
        },
        // Fonts 4 § 2.3: a width's computed value is a percentage.
        Alone::FontWidth => one(Component::Percentage(font_width(&word)?)),
        // Fragmentation 3 § 3.4: the old names' `always` is a page.
        Alone::Break if word == "always" => one(Component::keyword("page")),
        Alone::Break => None,
        // Text 4 § 9.1: normal is zero.
        Alone::WordSpacing if word == "normal" => pixels(0.0),
        Alone::WordSpacing => None,
        // Motion Path 1 § 4.5: the angle is always written.
        Alone::OffsetRotate if word == "auto" || word == "reverse" => Some(vec![
            Part::Fixed(Component::Word(word.into())),
            Part::Fixed(Component::Dimension(0.0, &DEG)),
        ]),
        Alone::OffsetRotate => None,
        // Borders 4 § 3.3: the keywords are superellipses.
        Alone::CornerShape => {
            let exponent = match word.as_str() {
                "round" => Component::Number(1.0),
                "squircle" => Component::Number(2.0),
                "square" => Component::keyword("infinity"),
                "bevel" => Component::Number(0.0),
                "scoop" => Component::Number(-1.0),
                "notch" => Component::keyword("-infinity"),
                _ => return None,
            };
            let name = SmolStr::new_static("superellipse");
            one(Component::Function(name, vec![exponent]))
        }
        // Color 4 § 3.3: what is out of range is clamped.
        Alone::Opacity => {
            let scale = match token.kind {
                TokenKind::Percentage => 0.01,
                TokenKind::Number => 1.0,
                _ => return None,
            };
            let opacity = (token.number(source)? * scale).clamp(0.0, 1.0);
            one(Component::Number(opacity))
        }
    }
}
