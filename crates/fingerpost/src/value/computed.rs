//! Computed values: the relative parts of a specified value made absolute.
//!
//! Arithmetic only: the text was read before ([`specified`](super::specified)), and is written again when a person
//! asks for it ([`typed`](super::typed)). What only layout can know (percentages of a box, `auto`) stays as it is.

use std::sync::Arc;

use super::behavior::Behavior;
use super::calc::{Basis, Calc, LeafUnit, simplify};
use super::color::{self, Color, ColorContext};
use super::facts::PropertyId;
use super::grammar::match_property;
use super::math::Expression;
use super::order::in_canonical_order;
use super::part::{Open, Part, Step, alone, is_of_font_size};
use super::serialise::LARGEST;
use super::substitution::value_tokens;
use super::typed::{Component, Computed};
use super::units::{PX, Scale};
use super::value_context::{Measures, NORMAL_FONT_WEIGHT};

/// What a value is computed in.
#[derive(Clone, Debug)]
pub struct ValueContext<'a> {
    /// What relative units refer to.
    pub measures: &'a Measures,
    /// The parent's color: what `color: currentcolor` is.
    pub parent_color: Color,
    /// The parent's font weight.
    pub parent_weight: f64,
    /// Whether the element's used color scheme is dark.
    pub dark: bool,
}

impl<'a> ValueContext<'a> {
    /// Where nothing is known but what units refer to.
    pub fn of_nothing(measures: &'a Measures) -> Self {
        ValueContext {
            measures,
            parent_color: Color::Current,
            parent_weight: NORMAL_FONT_WEIGHT,
            dark: false,
        }
    }

    fn colors(&self) -> ColorContext<'_> {
        ColorContext {
            current: self.parent_color.absolute(),
            dark: self.dark,
            measures: self.measures,
        }
    }
}

/// What a specified value results in.
pub(super) fn computed(open: &Open, context: &ValueContext<'_>) -> Computed {
    let resolver = Resolver {
        property: open.property,
        context,
    };
    let components = resolver.all(&open.parts);
    let Some(property) = open.property else {
        return Computed::new(components);
    };
    let behavior = Behavior::of(property);
    let mut components = in_canonical_order(behavior.order, components);
    if behavior.snapped {
        for component in &mut components {
            snap(component, context.measures.resolution);
        }
    }
    Computed::new(components)
}

/// A length in px as whole device pixels: less than one becomes one, more is rounded down (Values 4
/// § 5.3, Snapping Lengths as Border Widths).
fn snap(component: &mut Component, resolution: f64) {
    if let Component::Dimension(length, unit) = component
        && **unit == PX
        && *length > 0.0
    {
        *length = (*length * resolution).floor().max(1.0) / resolution;
    }
}

struct Resolver<'a> {
    property: Option<PropertyId>,
    context: &'a ValueContext<'a>,
}

impl Resolver<'_> {
    fn all(&self, parts: &[Part]) -> Vec<Component> {
        let mut components = Vec::with_capacity(parts.len());
        for part in parts {
            self.resolve(part, &mut components);
        }
        components
    }

    fn resolve(&self, part: &Part, out: &mut Vec<Component>) {
        let measures = self.context.measures;
        out.push(match part {
            Part::Fixed(component) => component.clone(),
            Part::Length(value, unit) => match measures.pixels(*value, unit) {
                Some(pixels) => Component::pixels(pixels),
                None => Component::Dimension(*value, unit),
            },
            Part::OfFontSize(times) => Component::pixels(measures.font_size * times),
            Part::Weight(step) => Component::Number(self.weight(*step)),
            Part::Color(text) => {
                Component::Color(match color::read_in(text, &self.context.colors()) {
                    Color::Current => self.context.parent_color.clone(),
                    known => known,
                })
            }
            Part::Math {
                expression,
                integer,
            } => match self.simplified(expression) {
                Calc::Leaf(value, LeafUnit::Number) if *integer => {
                    Component::Number((value + 0.5).floor())
                }
                calc => Component::calculated(calc),
            },
            Part::WholeMath(expression) => {
                let calc = self.simplified(expression);
                let clamped = self.property.zip(calc.leaf());
                match clamped
                    .and_then(|(property, (value, unit))| self.clamped(property, value, unit))
                {
                    Some(parts) => {
                        for part in &parts {
                            self.resolve(part, out);
                        }
                        return;
                    }
                    None => Component::calculated(calc),
                }
            }
            Part::Function(name, arguments) => {
                Component::Function(name.clone(), self.all(arguments))
            }
            Part::SquareBlock(inside) => Component::SquareBlock(self.all(inside)),
        });
    }

    fn simplified(&self, expression: &Arc<Expression>) -> Calc {
        let measures = self.context.measures;
        let basis = Basis {
            measures,
            percentage: self
                .property
                .is_some_and(is_of_font_size)
                .then_some(measures.font_size),
            channels: &[],
        };
        match simplify(expression, &basis) {
            // Values 4 § 10.12: what is infinite is as large as a value can be, and what is no number is zero.
            Calc::Leaf(value, unit) if !value.is_finite() => {
                let largest = if value > 0.0 { LARGEST } else { -LARGEST };
                Calc::Leaf(if value.is_nan() { 0.0 } else { largest }, unit)
            }
            calc => calc,
        }
    }

    /// CSS Values 4 § 10.5: a math function that results in one number is read as if that had been written, and
    /// clamped to what the property takes.
    fn clamped(&self, property: PropertyId, value: f64, unit: LeafUnit) -> Option<Vec<Part>> {
        let text = |value: f64| Calc::Leaf(value, unit).text();
        let fits = |value: f64| {
            let text = text(value);
            match_property(property, &text, &value_tokens(&text)).is_ok()
        };
        // What is too large goes to the end of the range; every range ends at 0, 1 or 1000.
        let ends: &[f64] = if value > 1.0 {
            &[1000.0, 1.0, 0.0]
        } else {
            &[0.0, 1.0]
        };
        let wanted = [value, (value + 0.5).floor()]
            .into_iter()
            .chain(ends.iter().copied())
            .find(|value| fits(*value))?;
        let shown = text(wanted);
        let only = *value_tokens(&shown).first()?;
        let special = alone(property, &shown, only);
        Some(special.unwrap_or_else(|| vec![Part::Fixed(Component::leaf(wanted, unit))]))
    }

    /// Fonts 4 § 2.2.1: bolder and lighter than the parent's weight.
    fn weight(&self, step: Step) -> f64 {
        match (step, self.context.parent_weight) {
            (Step::Bolder, weight) if weight < 350.0 => 400.0,
            (Step::Bolder, weight) if weight < 550.0 => 700.0,
            (Step::Bolder, weight) if weight < 900.0 => 900.0,
            (Step::Lighter, weight) if weight < 100.0 => weight,
            (Step::Lighter, weight) if weight < 550.0 => 100.0,
            (Step::Lighter, weight) if weight < 750.0 => 400.0,
            (Step::Lighter, _) => 700.0,
            (Step::Bolder, weight) => weight,
        }
    }
}

/// What an expression results in, where that is one number: px for lengths.
pub fn evaluate(expression: &Expression, measures: &Measures) -> Option<f64> {
    let basis = Basis {
        measures,
        percentage: None,
        channels: &[],
    };
    match simplify(expression, &basis).leaf()? {
        (_, LeafUnit::Percentage) => None,
        (_, LeafUnit::Of(unit)) if matches!(unit.scale, Scale::Container(_)) => None,
        (value, _) => Some(value),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::value::specified::Specified;
    use crate::value::value_context::Container;

    const MEASURES: Measures = Measures {
        font_size: 20.0,
        root_font_size: 16.0,
        line_height: 24.0,
        root_line_height: 19.2,
        viewport_width: 1280.0,
        viewport_height: 800.0,
        resolution: 1.0,
        container: Container::Viewport,
    };

    fn value(property: &str, text: &str) -> String {
        let property = PropertyId::named(property).unwrap();
        let tokens = value_tokens(text);
        let matched = match_property(property, text, &tokens).unwrap();
        let context = ValueContext {
            parent_color: color::read("rgb(1, 2, 3)"),
            ..ValueContext::of_nothing(&MEASURES)
        };
        let specified = Specified::read(property, text, &tokens, &matched, Some("css/a.css"));
        specified.computed(&context).text().to_owned()
    }

    #[test]
    fn relative_parts_become_absolute() {
        assert_eq!(value("padding-left", "1.5em"), "30px");
        assert_eq!(value("margin-top", "0"), "0px");
        assert_eq!(value("width", "calc(10vw + 1rem)"), "144px");
        assert_eq!(value("width", "50%"), "50%");
        assert_eq!(value("font-size", "120%"), "24px");
        assert_eq!(value("line-height", "1.50"), "1.5");
        assert_eq!(value("border-top-width", "thick"), "5px");
        assert_eq!(value("border-top-width", "0.2px"), "1px");
        assert_eq!(value("outline-width", "calc(1px + 1.9px)"), "2px");
        assert_eq!(value("transition-duration", "200ms"), "0.2s");
    }

    #[test]
    fn colors_and_lists_are_serialised() {
        assert_eq!(value("color", "Navy"), "rgb(0, 0, 128)");
        assert_eq!(value("color", "currentcolor"), "rgb(1, 2, 3)");
        assert_eq!(value("border-top-color", "CurrentColor"), "currentcolor");
        assert_eq!(
            value("font-family", "Skerry Sans,'A  B',serif"),
            "\"Skerry Sans\", \"A  B\", serif"
        );
        assert_eq!(
            value("font-family", "\"serif\",'inherit',Georgia,SERIF"),
            "\"serif\", \"inherit\", Georgia, serif"
        );
        assert_eq!(
            value("grid-template-columns", "[a]  1fr repeat( 2 , 1em )"),
            "[a] 1fr repeat(2, 20px)"
        );
        assert_eq!(value("display", "BLOCK"), "block");
        assert_eq!(
            value("background-image", "url(../a.svg)"),
            "url(\"/a.svg\")"
        );
    }
}
