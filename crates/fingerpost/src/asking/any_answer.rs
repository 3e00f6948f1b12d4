//! What comes back from any question.

use serde::{Deserialize, Serialize};

use crate::advice::Advice;
use crate::impact::destinations::DestinationsAnswer;
use crate::question::classes::ClassesAnswer;
use crate::question::complete::CompleteAnswer;
use crate::question::facts::FactsAnswer;
use crate::question::find::FindAnswer;
use crate::question::fonts::FontsAnswer;
use crate::question::selectors::SelectorsAnswer;
use crate::question::sheets::SheetsAnswer;
use crate::question::trace::TraceAnswer;
use crate::question::tree::TreeAnswer;
use crate::question::values::{ElementValues, OpenedAnswer, ValuesAnswer};
use crate::question::why::WhyAnswer;
use crate::question::whynot::WhyNotAnswer;

/// An answer, with what goes with every answer.
#[derive(Debug, Serialize)]
#[non_exhaustive]
pub struct Answered {
    /// The answer.
    #[serde(flatten)]
    pub answer: AnyAnswer,
    /// What to do about it, the best first.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub advice: Vec<Advice>,
    /// Whether the answer is yes: false where no element matches, nothing can be suggested, or nothing is in the way.
    #[serde(skip)]
    pub found: bool,
}

impl Answered {
    /// Whether it is about one element.
    pub fn is_about_one(&self) -> bool {
        match &self.answer {
            AnyAnswer::Find(answer) => answer.elements.len() == 1,
            AnyAnswer::ValuesOfEach(_) => false,
            _ => true,
        }
    }

    pub(super) fn new(answer: impl Into<AnyAnswer>, found: bool) -> Answered {
        Answered {
            answer: answer.into(),
            advice: Vec::new(),
            found,
        }
    }
}

macro_rules! answers {
    ($($(#[$doc:meta])* $name:ident($type:ty),)*) => {
        /// The answer to any question.
        ///
        /// It may grow, and is exhaustive nevertheless: a face that lacks an answer should not compile.
        #[derive(Debug, Serialize)]
        #[serde(untagged)]
        pub enum AnyAnswer {
            $($(#[$doc])* $name($type),)*
        }

        $(impl From<$type> for AnyAnswer {
            fn from(answer: $type) -> AnyAnswer {
                AnyAnswer::$name(answer)
            }
        })*
    };
}

answers! {
    /// The elements that are meant.
    Find(FindAnswer),
    /// A part of the element tree.
    Tree(TreeAnswer),
    /// The contests of a property.
    Why(WhyAnswer),
    /// What is in the way of a rule or a declaration.
    WhyNot(WhyNotAnswer),
    /// The rules that match.
    Trace(TraceAnswer),
    /// Computed values.
    Values(ValuesAnswer),
    /// How one value is put together.
    Opened(OpenedAnswer),
    /// The computed values of many elements.
    ValuesOfEach(EachAnswer),
    /// The sheets of a page.
    Sheets(SheetsAnswer),
    /// The font families of a page.
    Fonts(FontsAnswer),
    /// What the standards say.
    Facts(FactsAnswer),
    /// Names and values that could be written.
    Complete(CompleteAnswer),
    /// Classes.
    Classes(ClassesAnswer),
    /// Selectors.
    Selectors(SelectorsAnswer),
    /// Where a change can go.
    Destinations(DestinationsAnswer),
}

/// The computed values of many elements.
#[derive(Debug, Deserialize, Serialize)]
#[non_exhaustive]
pub struct EachAnswer {
    /// Each with its values, in document order.
    pub elements: Vec<ElementValues>,
}

/// The type of an answer, for its schema.
#[derive(Clone, Copy, Debug)]
pub struct AnswerType {
    #[cfg(feature = "schemas")]
    schema: fn() -> schemars::Schema,
}

#[cfg(feature = "schemas")]
impl AnswerType {
    pub(super) const fn of<T: schemars::JsonSchema>() -> AnswerType {
        AnswerType {
            schema: schema_of::<T>,
        }
    }

    /// The JSON Schema (2020-12) of the answer in its envelope.
    pub fn schema(&self) -> schemars::Schema {
        (self.schema)()
    }
}

#[cfg(not(feature = "schemas"))]
impl AnswerType {
    pub(super) const fn of<T>() -> AnswerType {
        AnswerType {}
    }
}

/// The JSON Schema (2020-12) of an answer in its envelope.
#[cfg(feature = "schemas")]
fn schema_of<T: schemars::JsonSchema>() -> schemars::Schema {
    schemars::generate::SchemaSettings::draft2020_12()
        .for_serialize()
        .into_generator()
        .into_root_schema_for::<crate::question::Answer<'static, T>>()
}

/// `values` says what all properties result in, or how one does.
#[derive(Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(untagged)]
#[expect(dead_code, reason = "only its schema is asked for")]
pub(super) enum AnyValues {
    All(ValuesAnswer),
    One(OpenedAnswer),
}
