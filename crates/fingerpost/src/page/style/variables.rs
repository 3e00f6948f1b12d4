//! Substitution: `var()`, `env()` and `attr()` of an element, with every step remembered.

use std::sync::Arc;

use crate::page::style::styles::Styles;
use crate::page::style::substituted::{Steps, Substituted};
use crate::page::style::value::{Value, ValueSource, VariableStep};
use crate::page::target::{DeclarationRef, PropertyName, Target};
use crate::sheet::Token;
use crate::value::PropertyId;
use crate::value::declared::Meaning;
use crate::value::grammar::{Definition, match_definition};
use crate::value::longhand::Piece;
use crate::value::serialise::string;
use crate::value::substitution::{
    Ask, AttributeType, SubstitutionError, named_variables, substitute, value_tokens,
};

/// A value with its variables put in.
pub(in crate::page) struct PutIn {
    pub result: Result<String, SubstitutionError>,
    pub steps: Steps,
}

impl Styles<'_> {
    /// Whether a custom property has a value at all, so that `var()` takes it and no fallback.
    pub(in crate::page) fn has_value(&self, name: &str, value: &Value) -> bool {
        if value.guaranteed_invalid {
            return false;
        }
        value.source != ValueSource::Initial
            || self
                .page
                .registration(name)
                .is_some_and(|r| r.initial.is_some())
    }

    /// A declaration with variables: put in, then read as if it had been written so.
    pub(in crate::page) fn substituted(
        &self,
        target: &Target,
        property: &PropertyName,
        reference: DeclarationRef,
        declared: PropertyId,
        source: &str,
        tokens: &[Token],
    ) -> Value {
        let made = self.made_of_variables(target, reference, declared, source, tokens);
        let variables = made.variables.clone();
        let fallen = |why: String| {
            let mut value = self.default(target, property, Some(why));
            value.variables.clone_from(&variables);
            value
        };
        let (text, meaning) = match &made.result {
            Ok(result) => result,
            Err(error) => return fallen(explain(error)),
        };
        let PropertyName::Known(wanted) = property else {
            return fallen("a shorthand sets no custom property".to_owned());
        };
        match &**meaning {
            Meaning::Wide(word) => {
                let mut value = self.wide(word, target, property, reference);
                value.variables = variables;
                value
            }
            Meaning::Fits(pieces) => {
                let own = self.piece_of(target, *wanted, pieces);
                // A side of a border is not made of the variable that its color is.
                let variables = match own.filter(|_| declared.is_shorthand()) {
                    Some(Piece::Part(span)) => made.steps.in_part((*span).into()),
                    Some(Piece::Initial) => Arc::default(),
                    _ => variables,
                };
                let part = own.and_then(|piece| piece.text(text));
                Value {
                    variables,
                    ..self.declared(target, *wanted, reference, part)
                }
            }
            Meaning::Pending(_) => {
                // What `env()` or `attr()` give is not in the sources: kept as written.
                Value {
                    variables,
                    ..Value::written(text, ValueSource::Declared(reference))
                }
            }
            _ => fallen(format!(
                "after substitution it is '{}', which is not a value of {}, so it is \
                 invalid at computed-value time",
                text.trim(),
                declared.name()
            )),
        }
    }

    /// A declaration with its variables put in. A shorthand is asked for by each of its longhands: it is remembered.
    fn made_of_variables(
        &self,
        target: &Target,
        reference: DeclarationRef,
        declared: PropertyId,
        source: &str,
        tokens: &[Token],
    ) -> Arc<Substituted> {
        let key = (target.clone(), reference);
        if let Some(known) = self.known.substituted.borrow().get(&key) {
            return known.clone();
        }
        let PutIn { result, steps } = self.put_in_variables(target, source, tokens);
        let made = Arc::new(Substituted {
            result: result.map(|text| {
                let meaning = self.page.readings.meaning(declared, &text);
                (text, meaning)
            }),
            variables: steps.all(),
            steps,
        });
        // On the way round a cycle the answer is one of that way.
        if declared.is_shorthand() && self.known.open.borrow().is_empty() {
            let mut substituted = self.known.substituted.borrow_mut();
            substituted.insert(key, made.clone());
        }
        made
    }

    pub(in crate::page) fn put_in_variables(
        &self,
        target: &Target,
        source: &str,
        tokens: &[Token],
    ) -> PutIn {
        let mut asked: Vec<Vec<VariableStep>> = Vec::new();
        let result = substitute(source, tokens, &mut |ask| {
            let name = match ask {
                Ask::Variable(name) => name,
                Ask::Environment(name) => {
                    asked.push(Vec::new());
                    return environment(name).map(Arc::from);
                }
                Ask::Attribute(name, kind) => {
                    asked.push(Vec::new());
                    return self.attribute(target, name, kind).map(Arc::from);
                }
            };
            let name: Arc<str> = name.into();
            let property = PropertyName::Custom(name.clone());
            let value = self.value(target, &property);
            let mut above = None;
            let (declaration, element) = match &value.source {
                ValueSource::Declared(reference) => (Some(*reference), target.element),
                ValueSource::Inherited { from } => {
                    let there = above.insert(self.step(&Target::from(*from), &property));
                    match there.source {
                        ValueSource::Declared(reference) => (Some(reference), *from),
                        _ => (None, *from),
                    }
                }
                ValueSource::Initial => (None, target.element),
            };
            let text = self.has_value(&name, &value).then(|| {
                let text = value.computed.text();
                match *value.specified == *text {
                    true => value.specified.clone(),
                    false => text.into(),
                }
            });
            let inner = above.iter().flat_map(|above| above.variables.iter());
            let inner = value.variables.iter().chain(inner);
            let mut steps = Vec::with_capacity(1 + value.variables.len());
            steps.push(VariableStep {
                name,
                value: text.clone(),
                declaration,
                element,
            });
            steps.extend(inner.cloned());
            asked.push(steps);
            text
        });
        let (result, marks) = match result {
            Ok((text, marks)) => (Ok(text), marks),
            Err(error) => (Err(error), Vec::new()),
        };
        PutIn {
            result,
            steps: Steps { marks, asked },
        }
    }

    /// Values 5 § 7.7: an attribute's text as `attr()` reads it.
    fn attribute(&self, target: &Target, name: &str, kind: AttributeType<'_>) -> Option<String> {
        let element = self.page.document().element(target.element);
        let text = element.attribute(&name.to_ascii_lowercase())?;
        match kind {
            AttributeType::Text => Some(string(text)),
            AttributeType::Unit(unit) => {
                let number: f64 = text.trim().parse().ok()?;
                Some(format!("{number}{unit}"))
            }
            AttributeType::Syntax("*") => Some(text.to_owned()),
            AttributeType::Syntax(syntax) => {
                let fits = match_definition(&Definition::parse(syntax), text, &value_tokens(text));
                fits.is_ok().then(|| text.to_owned())
            }
        }
    }

    /// A value with the variables of a target put in.
    pub(in crate::page) fn with_variables(&self, target: &Target, value: &str) -> Option<String> {
        self.put_in_variables(target, value, &value_tokens(value))
            .result
            .ok()
    }

    /// The custom properties that a declaration's value names directly.
    pub fn variables_of(&self, reference: DeclarationRef) -> Vec<String> {
        let styles = self.sheet(reference.sheet);
        let sheet = styles.sheet();
        let tokens = sheet.value_tokens(sheet.declaration(reference.id));
        named_variables(sheet.text().source(), &tokens)
            .into_iter()
            .map(|(name, _)| name)
            .collect()
    }
}

/// Environment Variables 1 § 2: a screen without notches; nothing else is known.
fn environment(name: &str) -> Option<String> {
    name.starts_with("safe-area-inset-")
        .then(|| "0px".to_owned())
}

pub(in crate::page) fn explain(error: &SubstitutionError) -> String {
    match error {
        SubstitutionError::Missing(name) => format!(
            "{name} has no value here (not set, in a cycle, or invalid) and var() has no fallback, \
             so the declaration is invalid at computed-value time"
        ),
        SubstitutionError::Malformed => "var() is not written as it should be".to_owned(),
        SubstitutionError::TooLong => {
            "after substitution it is too long, so it is invalid at computed-value time".to_owned()
        }
    }
}
