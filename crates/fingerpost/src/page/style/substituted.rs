//! A value with its custom properties put in, and the way that it went.

use std::ops::Range;
use std::sync::Arc;

use crate::page::style::value::VariableStep;
use crate::value::declared::Meaning;
use crate::value::substitution::{Mark, SubstitutionError};

/// The variables that a value went through.
#[derive(Default)]
pub(in crate::page) struct Steps {
    /// Which part of the value each function made.
    pub marks: Vec<Mark>,
    /// The variables after each question that was asked.
    pub asked: Vec<Vec<VariableStep>>,
}

/// A declaration with its variables put in, as all longhands that it sets find it.
pub(in crate::page) struct Substituted {
    /// Its text, and what that says.
    pub result: Result<(String, Arc<Meaning>), SubstitutionError>,
    pub steps: Steps,
    /// All variables that it went through.
    pub variables: Arc<[VariableStep]>,
}

impl Steps {
    /// All of them.
    pub fn all(&self) -> Arc<[VariableStep]> {
        once(self.asked.iter().flatten())
    }

    /// Those that a part of the value went through.
    pub fn in_part(&self, part: Range<usize>) -> Arc<[VariableStep]> {
        let marks = self.marks.iter();
        let inside = marks.filter(|m| m.range.start < part.end && part.start < m.range.end);
        once(inside.flat_map(|mark| self.asked[mark.asks.clone()].iter().flatten()))
    }
}

/// Each step once, in order.
pub(in crate::page) fn once<'a>(
    all: impl Iterator<Item = &'a VariableStep>,
) -> Arc<[VariableStep]> {
    let mut steps: Vec<VariableStep> = Vec::new();
    for step in all {
        let known = |s: &VariableStep| s.name == step.name && s.element == step.element;
        if !steps.iter().any(known) {
            steps.push(step.clone());
        }
    }
    match steps.is_empty() {
        true => Arc::default(),
        false => steps.into(),
    }
}
