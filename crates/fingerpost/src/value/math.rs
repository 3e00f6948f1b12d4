//! Math functions: CSS Values 4 § 10. Parsing to an expression, and the type of its result.

use crate::sheet::{Token, TokenKind};
use crate::text::Cut;
use crate::value::units::{Dimension, Unit};

/// How deep expressions may be nested.
const DEEPEST_EXPRESSION: usize = 128;

/// What an expression results in.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum MathKind {
    /// A number.
    Number,
    /// A percentage.
    Percentage,
    /// A dimension.
    Of(Dimension),
    /// A dimension and a percentage together, such as `calc(1px + 2%)`.
    Mixed(Dimension),
}

/// An operator between the terms of a sum or a product.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Operator {
    Plus,
    Minus,
    Times,
    Divide,
}

/// A math expression.
#[derive(Clone, Debug, PartialEq)]
pub enum Expression {
    /// A number, or a constant such as `pi`.
    Number(f64),
    /// A percentage: 50 for `50%`.
    Percentage(f64),
    /// A number and its unit.
    Dimension(f64, &'static Unit),
    /// A name: a color channel in a relative color, or an argument such as `nearest`.
    Name(Box<str>),
    /// Terms with the operator before each; the first has `Plus` or `Times`.
    Sum(Vec<(Operator, Expression)>),
    /// Factors with the operator before each.
    Product(Vec<(Operator, Expression)>),
    /// A function and its arguments; `calc()` and parentheses are not kept.
    Function(Box<str>, Vec<Expression>),
}

/// Whether a name is one of a math function.
pub fn is_function(name: &str) -> bool {
    matches!(
        name.to_ascii_lowercase().as_str(),
        "calc"
            | "-webkit-calc"
            | "min"
            | "max"
            | "clamp"
            | "round"
            | "mod"
            | "rem"
            | "sin"
            | "cos"
            | "tan"
            | "asin"
            | "acos"
            | "atan"
            | "atan2"
            | "pow"
            | "sqrt"
            | "hypot"
            | "log"
            | "exp"
            | "abs"
            | "sign"
    )
}

/// The type of a math function, given its tokens from its name to its `)`; `None` where it is not
/// valid (a sum of unlike things, a missing space around `+`).
pub fn kind(source: &str, tokens: &[Token]) -> Option<MathKind> {
    let expression = parse(source, tokens)?;
    expression.measure()?.kind()
}

/// Reads a math function, given its tokens from its name to its `)`.
pub fn parse(source: &str, tokens: &[Token]) -> Option<Expression> {
    let tokens: Vec<Token> = tokens
        .iter()
        .copied()
        .filter(|t| t.kind != TokenKind::Comment)
        .collect();
    let mut reader = Reader {
        source,
        tokens: &tokens,
        at: 0,
    };
    let expression = reader.value(0)?;
    (reader.at == reader.tokens.len()).then_some(expression)
}

struct Reader<'a> {
    source: &'a str,
    tokens: &'a [Token],
    at: usize,
}

impl Reader<'_> {
    fn peek(&self) -> Option<Token> {
        self.tokens.get(self.at).copied()
    }

    /// Skips white space; says whether there was any, in the tokens or between them.
    fn space(&mut self) -> bool {
        let start = self.at;
        while self.peek().is_some_and(|t| t.kind.is_blank()) {
            self.at += 1;
        }
        let before = start.checked_sub(1).and_then(|at| self.tokens.get(at));
        let gap = before.is_some_and(|before| self.peek().is_some_and(|t| t.start > before.end));
        self.at > start || gap
    }

    fn sum(&mut self, depth: usize) -> Option<Expression> {
        if depth > DEEPEST_EXPRESSION {
            return None;
        }
        self.space();
        let mut terms = vec![(Operator::Plus, self.product(depth)?)];
        loop {
            let spaced = self.space();
            let Some(operator) = self.peek().and_then(|t| t.delim(self.source)) else {
                break;
            };
            let operator = match operator {
                '+' => Operator::Plus,
                '-' => Operator::Minus,
                _ => break,
            };
            self.at += 1;
            // § 10.1: + and - need white space on both sides.
            if !spaced || !self.space() {
                return None;
            }
            terms.push((operator, self.product(depth)?));
        }
        Some(if terms.len() == 1 {
            terms.remove(0).1
        } else {
            Expression::Sum(terms)
        })
    }

    fn product(&mut self, depth: usize) -> Option<Expression> {
        let mut factors = vec![(Operator::Times, self.value(depth)?)];
        loop {
            let before = self.at;
            self.space();
            let operator = match self.peek().and_then(|t| t.delim(self.source)) {
                Some('*') => Operator::Times,
                Some('/') => Operator::Divide,
                _ => {
                    self.at = before;
                    break;
                }
            };
            self.at += 1;
            self.space();
            factors.push((operator, self.value(depth)?));
        }
        Some(if factors.len() == 1 {
            factors.remove(0).1
        } else {
            Expression::Product(factors)
        })
    }

    fn value(&mut self, depth: usize) -> Option<Expression> {
        let token = self.peek()?;
        self.at += 1;
        Some(match token.kind {
            TokenKind::Number => Expression::Number(token.number(self.source)?),
            TokenKind::Percentage => Expression::Percentage(token.number(self.source)?),
            TokenKind::Dimension => {
                let unit = Unit::named(&token.name(self.source))?;
                Expression::Dimension(token.number(self.source)?, unit)
            }
            TokenKind::Ident => {
                let name = token.name(self.source).to_ascii_lowercase();
                match name.as_str() {
                    "e" => Expression::Number(std::f64::consts::E),
                    "pi" => Expression::Number(std::f64::consts::PI),
                    "infinity" => Expression::Number(f64::INFINITY),
                    "-infinity" => Expression::Number(f64::NEG_INFINITY),
                    "nan" => Expression::Number(f64::NAN),
                    _ => Expression::Name(name.into()),
                }
            }
            TokenKind::OpenParenthesis => {
                let inner = self.sum(depth + 1)?;
                self.close()?;
                inner
            }
            TokenKind::Function => {
                let name = token.name(self.source).to_ascii_lowercase();
                if !is_function(&name) {
                    return None;
                }
                let mut arguments = vec![self.sum(depth + 1)?];
                loop {
                    self.space();
                    if self.peek().is_some_and(|t| t.kind == TokenKind::Comma) {
                        self.at += 1;
                        arguments.push(self.sum(depth + 1)?);
                    } else {
                        break;
                    }
                }
                self.close()?;
                if matches!(name.as_str(), "calc" | "-webkit-calc") {
                    if arguments.len() != 1 {
                        return None;
                    }
                    arguments.remove(0)
                } else {
                    Expression::Function(name.into(), arguments)
                }
            }
            _ => return None,
        })
    }

    /// A closing parenthesis, or the end of the value, where the standard closes for us.
    fn close(&mut self) -> Option<()> {
        self.space();
        match self.peek() {
            None => Some(()),
            Some(token) if token.kind == TokenKind::CloseParenthesis => {
                self.at += 1;
                Some(())
            }
            Some(_) => None,
        }
    }
}

/// § 10.2: a type as powers of what it measures.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
struct Measure {
    powers: [i8; 7],
    /// Whether a percentage stands for part of it.
    with_percentage: bool,
}

const PERCENTAGE: usize = 6;

const DIMENSIONS: [Dimension; 6] = [
    Dimension::Angle,
    Dimension::Flex,
    Dimension::Frequency,
    Dimension::Length,
    Dimension::Resolution,
    Dimension::Time,
];

impl Measure {
    fn of(at: usize) -> Measure {
        let mut measure = Measure::default();
        if let Some(power) = measure.powers.get_mut(at) {
            *power = 1;
        }
        measure
    }

    fn kind(self) -> Option<MathKind> {
        let mut found = None;
        for (at, power) in self.powers.iter().enumerate() {
            match (power, found) {
                (0, _) => {}
                (1, None) => found = Some(at),
                _ => return None,
            }
        }
        Some(match found {
            None => MathKind::Number,
            Some(PERCENTAGE) => MathKind::Percentage,
            Some(at) if self.with_percentage => MathKind::Mixed(*DIMENSIONS.get(at)?),
            Some(at) => MathKind::Of(*DIMENSIONS.get(at)?),
        })
    }

    /// The type of a sum of two.
    fn add(self, other: Measure) -> Option<Measure> {
        if self.powers == other.powers {
            return Some(Measure {
                with_percentage: self.with_percentage || other.with_percentage,
                ..self
            });
        }
        let percentage = Measure::of(PERCENTAGE).powers;
        let (plain, percent) = if self.powers == percentage {
            (other, self)
        } else {
            (self, other)
        };
        let one_dimension = matches!(plain.kind(), Some(MathKind::Of(_) | MathKind::Mixed(_)));
        (percent.powers == percentage && one_dimension).then_some(Measure {
            with_percentage: true,
            ..plain
        })
    }

    fn multiply(self, other: Measure, sign: i8) -> Measure {
        let mut powers = self.powers;
        for (power, more) in powers.iter_mut().zip(other.powers) {
            *power = power.saturating_add(more.saturating_mul(sign));
        }
        Measure {
            powers,
            with_percentage: self.with_percentage || other.with_percentage,
        }
    }
}

impl Expression {
    fn measure(&self) -> Option<Measure> {
        match self {
            Expression::Number(_) => Some(Measure::default()),
            Expression::Name(name) => is_channel(name).then(Measure::default),
            Expression::Percentage(_) => Some(Measure::of(PERCENTAGE)),
            Expression::Dimension(_, unit) => {
                let at = DIMENSIONS.iter().position(|d| *d == unit.dimension)?;
                Some(Measure::of(at))
            }
            Expression::Sum(terms) => same(terms.iter().map(|(_, term)| term)),
            Expression::Product(factors) => {
                let mut result = Measure::default();
                for (operator, factor) in factors {
                    let sign = if *operator == Operator::Divide { -1 } else { 1 };
                    result = result.multiply(factor.measure()?, sign);
                }
                Some(result)
            }
            Expression::Function(name, arguments) => function_measure(name, arguments),
        }
    }
}

/// Color 5 § 4.1: the channels of a relative color, which stand where numbers do.
fn is_channel(name: &str) -> bool {
    matches!(
        name,
        "r" | "g" | "b" | "h" | "s" | "l" | "w" | "a" | "c" | "x" | "y" | "z" | "alpha"
    )
}

fn same<'a>(mut parts: impl Iterator<Item = &'a Expression>) -> Option<Measure> {
    let first = parts.next()?.measure()?;
    parts.try_fold(first, |measure, part| measure.add(part.measure()?))
}

fn function_measure(name: &str, arguments: &[Expression]) -> Option<Measure> {
    let number = Measure::default();
    let all_numbers = || arguments.iter().all(|a| a.measure() == Some(number));
    let count = arguments.len();
    match name {
        "min" | "max" | "hypot" => same(arguments.iter()),
        "clamp" if count == 3 => same(
            // § 10.2: only the bounds can be none.
            arguments
                .iter()
                .enumerate()
                .filter(|(at, a)| *at == 1 || !matches!(a, Expression::Name(n) if &**n == "none"))
                .map(|(_, a)| a),
        ),
        "round" => {
            let strategy = usize::from(matches!(
                arguments.first(),
                Some(Expression::Name(n))
                    if matches!(&**n, "nearest" | "up" | "down" | "to-zero" | "line-width")
            ));
            let rest = arguments.cut(strategy..);
            match rest {
                [only] if only.measure()? != number => None,
                [_] | [_, _] => same(rest.iter()),
                _ => None,
            }
        }
        "mod" | "rem" if count == 2 => same(arguments.iter()),
        "sin" | "cos" | "tan" if count == 1 => match arguments.first()?.measure()?.kind()? {
            MathKind::Number | MathKind::Of(Dimension::Angle) => Some(number),
            _ => None,
        },
        "asin" | "acos" | "atan" if count == 1 && all_numbers() => Some(Measure::of(0)),
        "atan2" if count == 2 => same(arguments.iter()).map(|_| Measure::of(0)),
        "pow" if count == 2 && all_numbers() => Some(number),
        "sqrt" | "exp" if count == 1 && all_numbers() => Some(number),
        "log" if (1..=2).contains(&count) && all_numbers() => Some(number),
        "abs" if count == 1 => arguments.first()?.measure(),
        "sign" if count == 1 => arguments.first()?.measure().map(|_| number),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::sheet::tokenize;
    use crate::text::span;

    fn kind_of(source: &str) -> Option<MathKind> {
        kind(source, &tokenize(source, span(0, source.len())))
    }

    #[test]
    fn types_follow_the_arithmetic() {
        let length = Some(MathKind::Of(Dimension::Length));
        assert_eq!(kind_of("calc(1px + 2em * 3)"), length);
        assert_eq!(
            kind_of("calc(1px + 2%)"),
            Some(MathKind::Mixed(Dimension::Length))
        );
        assert_eq!(kind_of("calc(100% / 3)"), Some(MathKind::Percentage));
        assert_eq!(kind_of("calc(10px / 2px)"), Some(MathKind::Number));
        assert_eq!(kind_of("clamp(1rem, 2vw, (3rem))"), length);
        assert_eq!(
            kind_of("atan2(1px, 2px)"),
            Some(MathKind::Of(Dimension::Angle))
        );
        assert_eq!(kind_of("round(up, 3px, 2px)"), length);
    }

    #[test]
    fn what_is_not_arithmetic_has_no_type() {
        assert_eq!(kind_of("calc(1px+2px)"), None);
        assert_eq!(kind_of("calc(1px * 2px)"), None);
        assert_eq!(kind_of("calc(1px + 1s)"), None);
        assert_eq!(kind_of("min(1px, 2)"), None);
        assert_eq!(kind_of("calc()"), None);
    }
}
