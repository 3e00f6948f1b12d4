//! The values of math functions: simplification (CSS Values 4 § 10.10) and serialization (§ 10.12).

use std::f64::consts::PI;

use super::math::{Expression, Operator};
use super::serialise::number;
use super::units::{DEG, PX, Scale, Unit};
use super::value_context::Measures;

/// A simplified calculation.
#[derive(Clone, Debug, PartialEq)]
pub enum Calc {
    /// A number with its unit.
    Leaf(f64, LeafUnit),
    /// Terms that can't be added up.
    Sum(Vec<Calc>),
    /// Factors that can't be multiplied out.
    Product(Vec<Calc>),
    /// One divided by it.
    Invert(Box<Calc>),
    /// A function of what can't be worked out.
    Function(Box<str>, Vec<Calc>),
    /// A word: the strategy of `round()`, an open end of `clamp()`.
    Word(Box<str>),
}

/// What a leaf is a number of.
#[derive(Clone, Copy, Debug, PartialEq)]
#[allow(missing_docs)]
pub enum LeafUnit {
    Number,
    Percentage,
    /// A canonical unit, or one of a container whose size only layout knows.
    Of(&'static Unit),
}

impl LeafUnit {
    fn text(self) -> &'static str {
        match self {
            LeafUnit::Number => "",
            LeafUnit::Percentage => "%",
            LeafUnit::Of(unit) => unit.name,
        }
    }
}

/// What the leaves of an expression stand for.
pub struct Basis<'a> {
    /// What relative units refer to.
    pub measures: &'a Measures,
    /// What 100 % is in px, where the property says so at computed-value time.
    pub percentage: Option<f64>,
    /// The channels of a relative color.
    pub channels: &'a [(&'static str, f64)],
}

/// Works an expression out as far as can be.
pub fn simplify(expression: &Expression, basis: &Basis<'_>) -> Calc {
    match expression {
        Expression::Number(value) => Calc::Leaf(*value, LeafUnit::Number),
        Expression::Percentage(value) => match basis.percentage {
            Some(whole) => Calc::Leaf(whole * value / 100.0, LeafUnit::Of(&PX)),
            None => Calc::Leaf(*value, LeafUnit::Percentage),
        },
        Expression::Dimension(value, unit) => dimension(*value, unit, basis.measures),
        Expression::Name(name) => {
            let channel = basis.channels.iter().find(|(n, _)| *n == &**name);
            match channel {
                Some((_, value)) => Calc::Leaf(*value, LeafUnit::Number),
                None => Calc::Word(name.clone()),
            }
        }
        Expression::Sum(terms) => sum(terms.iter().map(|(operator, term)| {
            let term = simplify(term, basis);
            if *operator == Operator::Minus {
                product(vec![Calc::Leaf(-1.0, LeafUnit::Number), term])
            } else {
                term
            }
        })),
        Expression::Product(factors) => product(
            factors
                .iter()
                .map(|(operator, factor)| {
                    let factor = simplify(factor, basis);
                    if *operator == Operator::Divide {
                        invert(factor)
                    } else {
                        factor
                    }
                })
                .collect(),
        ),
        Expression::Function(name, arguments) => {
            let arguments: Vec<Calc> = arguments.iter().map(|a| simplify(a, basis)).collect();
            function(name, &arguments).unwrap_or_else(|| Calc::Function(name.clone(), arguments))
        }
    }
}

fn dimension(value: f64, unit: &'static Unit, measures: &Measures) -> Calc {
    if let Some(pixels) = measures.pixels(value, unit) {
        return Calc::Leaf(pixels, LeafUnit::Of(&PX));
    }
    match unit.scale {
        Scale::Fixed(scale) => Calc::Leaf(value * scale, LeafUnit::Of(unit.canonical())),
        _ => Calc::Leaf(value, LeafUnit::Of(unit)),
    }
}

/// Adds up what is alike.
fn sum(terms: impl Iterator<Item = Calc>) -> Calc {
    let mut leaves: Vec<(f64, LeafUnit)> = Vec::new();
    let mut others = Vec::new();
    let mut open: Vec<Calc> = terms.collect();
    open.reverse();
    while let Some(term) = open.pop() {
        match term {
            Calc::Sum(inner) => open.extend(inner.into_iter().rev()),
            Calc::Leaf(value, unit) => match leaves.iter_mut().find(|(_, u)| *u == unit) {
                Some((known, _)) => *known += value,
                None => leaves.push((value, unit)),
            },
            other => others.push(other),
        }
    }
    let mut all: Vec<Calc> = leaves.into_iter().map(|(v, u)| Calc::Leaf(v, u)).collect();
    all.extend(others);
    match all.len() {
        1 => all.remove(0),
        _ => Calc::Sum(all),
    }
}

fn invert(calc: Calc) -> Calc {
    match calc {
        Calc::Leaf(value, LeafUnit::Number) => Calc::Leaf(1.0 / value, LeafUnit::Number),
        Calc::Invert(inner) => *inner,
        other => Calc::Invert(Box::new(other)),
    }
}

/// Multiplies numbers, takes units of one kind away from each other, and spreads a number over a
/// sum of leaves.
fn product(factors: Vec<Calc>) -> Calc {
    let mut scale = 1.0;
    let mut measured: Vec<(f64, LeafUnit)> = Vec::new();
    let mut divisors: Vec<(f64, LeafUnit)> = Vec::new();
    let mut others = Vec::new();
    let mut open = factors;
    open.reverse();
    while let Some(factor) = open.pop() {
        match factor {
            Calc::Product(inner) => open.extend(inner.into_iter().rev()),
            Calc::Leaf(value, LeafUnit::Number) => scale *= value,
            Calc::Leaf(value, unit) => measured.push((value, unit)),
            Calc::Invert(inner) => match *inner {
                Calc::Leaf(value, unit) => divisors.push((value, unit)),
                inner => others.push(Calc::Invert(Box::new(inner))),
            },
            other => others.push(other),
        }
    }
    measured.retain(
        |(value, unit)| match divisors.iter().position(|(_, other)| other == unit) {
            Some(at) => {
                scale *= value / divisors.remove(at).0;
                false
            }
            None => true,
        },
    );
    for (value, unit) in divisors {
        others.push(Calc::Invert(Box::new(Calc::Leaf(value, unit))));
    }
    match (&measured[..], &others[..]) {
        ([], []) => return Calc::Leaf(scale, LeafUnit::Number),
        ([(value, unit)], []) => return Calc::Leaf(value * scale, *unit),
        ([], [Calc::Sum(terms)]) if terms.iter().all(|t| matches!(t, Calc::Leaf(..))) => {
            let scaled = terms.iter().map(|term| match term {
                Calc::Leaf(value, unit) => Calc::Leaf(value * scale, *unit),
                other => other.clone(),
            });
            return Calc::Sum(scaled.collect());
        }
        ([], [_]) if scale == 1.0 => return others.remove(0),
        _ => {}
    }
    let mut all: Vec<Calc> = Vec::new();
    if scale != 1.0 {
        all.push(Calc::Leaf(scale, LeafUnit::Number));
    }
    all.extend(measured.into_iter().map(|(v, u)| Calc::Leaf(v, u)));
    all.extend(others);
    Calc::Product(all)
}

/// A function of leaves of one unit.
fn function(name: &str, arguments: &[Calc]) -> Option<Calc> {
    if name == "clamp" {
        return clamp(arguments);
    }
    let mut arguments = arguments;
    let mut strategy = "nearest";
    if name == "round"
        && let [Calc::Word(word), rest @ ..] = arguments
    {
        strategy = word;
        arguments = rest;
    }
    let mut values = Vec::new();
    let mut unit = None;
    for argument in arguments {
        let Calc::Leaf(value, its) = argument else {
            return None;
        };
        if unit.is_some_and(|u| u != *its) {
            return None;
        }
        unit = Some(*its);
        values.push(*value);
    }
    let unit = unit?;
    let number = |value| Some(Calc::Leaf(value, LeafUnit::Number));
    let same = |value| Some(Calc::Leaf(value, unit));
    let angle = |radians: f64| Some(Calc::Leaf(radians.to_degrees(), LeafUnit::Of(&DEG)));
    let radians = |value: f64| match unit {
        LeafUnit::Of(unit) if *unit == DEG => value * PI / 180.0,
        _ => value,
    };
    match (name, &values[..]) {
        ("min", _) => same(values.iter().copied().fold(f64::INFINITY, f64::min)),
        ("max", _) => same(values.iter().copied().fold(f64::NEG_INFINITY, f64::max)),
        ("hypot", _) => same(values.iter().map(|v| v * v).sum::<f64>().sqrt()),
        ("abs", [value]) => same(value.abs()),
        ("sign", [value]) => number(if *value == 0.0 { 0.0 } else { value.signum() }),
        ("sqrt", [value]) => number(value.sqrt()),
        ("exp", [value]) => number(value.exp()),
        ("pow", [base, exponent]) => number(base.powf(*exponent)),
        ("log", [value]) => number(value.ln()),
        ("log", [value, base]) => number(value.ln() / base.ln()),
        ("sin", [value]) => number(radians(*value).sin()),
        ("cos", [value]) => number(radians(*value).cos()),
        ("tan", [value]) => number(radians(*value).tan()),
        ("asin", [value]) => angle(value.asin()),
        ("acos", [value]) => angle(value.acos()),
        ("atan", [value]) => angle(value.atan()),
        ("atan2", [y, x]) => angle(y.atan2(*x)),
        // § 10.3: the result of mod has the sign of the divisor, that of rem the other's.
        ("mod", [a, b]) => same(a - b * (a / b).floor()),
        ("rem", [a, b]) => same(a % b),
        ("round", [value]) => same(rounded(strategy, *value, 1.0)),
        ("round", [value, step]) => same(rounded(strategy, *value, *step)),
        _ => None,
    }
}

fn clamp(arguments: &[Calc]) -> Option<Calc> {
    let [low, value, high] = arguments else {
        return None;
    };
    let Calc::Leaf(mut value, unit) = *value else {
        return None;
    };
    for (end, is_low) in [(high, false), (low, true)] {
        match end {
            Calc::Word(_) => {}
            Calc::Leaf(end, its) if *its == unit => {
                value = if is_low {
                    value.max(*end)
                } else {
                    value.min(*end)
                };
            }
            _ => return None,
        }
    }
    Some(Calc::Leaf(value, unit))
}

/// § 10.2: rounding to a multiple of a step.
fn rounded(strategy: &str, value: f64, step: f64) -> f64 {
    let times = value / step;
    step * match strategy {
        "up" => times.ceil(),
        "down" => times.floor(),
        "to-zero" => times.trunc(),
        // Halves go up.
        _ => (times + 0.5).floor(),
    }
}

impl Calc {
    /// The value, where one number with one unit is left.
    pub fn leaf(&self) -> Option<(f64, LeafUnit)> {
        match self {
            Calc::Leaf(value, unit) => Some((*value, *unit)),
            _ => None,
        }
    }

    /// Subtracts another calculation.
    pub fn without(self, other: Calc) -> Calc {
        let negative = product(vec![Calc::Leaf(-1.0, LeafUnit::Number), other]);
        sum([self, negative].into_iter())
    }

    /// As CSSOM writes it.
    pub fn text(&self) -> String {
        match self {
            Calc::Leaf(value, unit) if value.is_finite() => leaf(*value, *unit),
            Calc::Function(..) => self.inner(),
            // Engines keep a percentage and a length in one: no length is none.
            Calc::Sum(terms) => match in_order(terms)[..] {
                [
                    Calc::Leaf(percent, LeafUnit::Percentage),
                    Calc::Leaf(0.0, LeafUnit::Of(unit)),
                ] if **unit == PX => leaf(*percent, LeafUnit::Percentage),
                _ => format!("calc({})", self.inner()),
            },
            _ => format!("calc({})", self.inner()),
        }
    }

    /// What is in `calc()`, or in an argument.
    fn inner(&self) -> String {
        match self {
            Calc::Leaf(value, unit) if value.is_finite() => leaf(*value, *unit),
            Calc::Leaf(value, unit) => {
                let word = if value.is_nan() {
                    "NaN"
                } else if *value > 0.0 {
                    "infinity"
                } else {
                    "-infinity"
                };
                match unit {
                    LeafUnit::Number => word.to_owned(),
                    unit => format!("{word} * 1{}", unit.text()),
                }
            }
            Calc::Word(word) => word.to_string(),
            Calc::Function(name, arguments) => {
                let arguments: Vec<String> = arguments.iter().map(Calc::inner).collect();
                format!("{name}({})", arguments.join(", "))
            }
            Calc::Invert(inner) => format!("1 / {}", inner.nested()),
            Calc::Sum(terms) => {
                let mut out = String::new();
                for term in in_order(terms) {
                    match (out.is_empty(), term.negated()) {
                        (true, _) => out.push_str(&term.nested()),
                        (false, Some(positive)) => {
                            out.push_str(" - ");
                            out.push_str(&positive.nested());
                        }
                        (false, None) => {
                            out.push_str(" + ");
                            out.push_str(&term.nested());
                        }
                    }
                }
                out
            }
            Calc::Product(factors) => {
                let mut out = String::new();
                for factor in in_order(factors) {
                    match factor {
                        Calc::Invert(inner) if !out.is_empty() => {
                            out.push_str(" / ");
                            out.push_str(&inner.nested());
                        }
                        _ => {
                            if !out.is_empty() {
                                out.push_str(" * ");
                            }
                            out.push_str(&factor.nested());
                        }
                    }
                }
                out
            }
        }
    }

    fn nested(&self) -> String {
        match self {
            Calc::Sum(_) | Calc::Product(_) | Calc::Invert(_) => format!("({})", self.inner()),
            _ => self.inner(),
        }
    }

    /// The same with the other sign, for what is written after a minus.
    fn negated(&self) -> Option<Calc> {
        match self {
            Calc::Leaf(value, unit) if *value < 0.0 => Some(Calc::Leaf(-value, *unit)),
            Calc::Product(factors) => {
                let [Calc::Leaf(value, LeafUnit::Number), rest @ ..] = &factors[..] else {
                    return None;
                };
                if *value >= 0.0 {
                    return None;
                }
                let mut all = rest.to_vec();
                if *value != -1.0 {
                    all.insert(0, Calc::Leaf(-value, LeafUnit::Number));
                }
                Some(match all.len() {
                    1 => all.remove(0),
                    _ => Calc::Product(all),
                })
            }
            _ => None,
        }
    }
}

fn leaf(value: f64, unit: LeafUnit) -> String {
    format!("{}{}", number(value), unit.text())
}

/// § 10.12: numbers, percentages and dimensions by unit first, the rest as it stood.
fn in_order(parts: &[Calc]) -> Vec<&Calc> {
    let mut sorted: Vec<&Calc> = parts.iter().collect();
    sorted.sort_by_key(|part| match part {
        Calc::Leaf(_, LeafUnit::Number) => (0, ""),
        Calc::Leaf(_, LeafUnit::Percentage) => (1, ""),
        Calc::Leaf(_, unit) => (2, unit.text()),
        _ => (3, ""),
    });
    sorted
}
