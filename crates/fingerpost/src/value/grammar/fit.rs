//! What matching a value results in: the parts that components took, or where it stops to fit.

use crate::text::{Cut, TextRange, TextSize};
use crate::value::facts::PropertyId;

/// Which component a part of a value was taken by.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Label {
    /// `<'property'>`
    Property(PropertyId),
    /// `<type>`, by name.
    Type(&'static str),
    /// A keyword written out in the grammar.
    Keyword,
    /// A punctuation mark.
    Mark(char),
}

/// A part of a value and the component that took it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Captured {
    /// The component.
    pub label: Label,
    /// Where the part is in the source.
    pub span: TextRange,
    /// How many named components it is in.
    pub depth: u32,
}

/// A value that fits its grammar.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
pub struct Match {
    /// The parts, in source order; a part inside another comes before it.
    pub captured: Vec<Captured>,
}

impl Match {
    /// Whether a part with exactly this span has such a label. The parts are in the order of their ends, so that those
    /// that can be meant stand together.
    pub(crate) fn has(&self, span: TextRange, wanted: impl Fn(Label) -> bool) -> bool {
        let first = self
            .captured
            .partition_point(|part| part.span.end() < span.end());
        let ending = self.captured.cut(first..).iter();
        let mut ending = ending.take_while(|part| part.span.end() == span.end());
        ending.any(|part| part.span == span && wanted(part.label))
    }
}

/// A value that does not fit.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Mismatch {
    /// What no alternative could take; empty at the end of the value, where more was expected.
    pub span: TextRange,
    /// What was expected there, each as a person reads it.
    pub expected: Vec<String>,
}

impl Mismatch {
    /// The same, where the span counts from the start of a value instead of from that of the text that holds it.
    pub(crate) fn within(&self, value: TextRange) -> Mismatch {
        let inside = |at: TextSize| at.clamp(value.start(), value.end()) - value.start();
        Mismatch {
            span: TextRange::new(inside(self.span.start()), inside(self.span.end())),
            expected: self.expected.clone(),
        }
    }
}
