//! What a question is asked with.

use std::sync::Arc;

use thiserror::Error;

use crate::markup::ElementId;
use crate::page::{Page, PropertyName, Target, UnknownProperty};
use crate::question::element_states::ElementStates;
use crate::question::find::{ElementQuery, FindError};
use crate::question::whynot::WhyNotError;
use crate::site::Site;
use crate::value::PropertyId;

/// The parts of a question by their names, as texts; a flag has an empty one.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Parts(Vec<(String, String)>);

impl Parts {
    /// Gives a part.
    pub fn give(&mut self, name: &str, text: impl Into<String>) {
        self.0.push((name.to_owned(), text.into()));
    }

    /// The names of the parts that are given.
    pub fn names(&self) -> impl Iterator<Item = &str> {
        self.0.iter().map(|(name, _)| name.as_str())
    }

    /// A part's text.
    pub fn text(&self, name: &str) -> Option<&str> {
        let found = self.0.iter().find(|(given, _)| given == name);
        found.map(|(_, text)| text.as_str())
    }

    /// Whether a flag is given.
    pub fn has(&self, name: &str) -> bool {
        self.text(name).is_some_and(|text| text != "false")
    }

    /// The property that is asked about.
    pub(super) fn property(&self) -> Result<PropertyName, AskError> {
        Ok(self.text("property").unwrap_or_default().parse()?)
    }

    /// The property that is asked about, which must be one of the standards.
    pub(super) fn known_property(&self) -> Result<PropertyId, AskError> {
        match self.property()? {
            PropertyName::Known(property) => Ok(property),
            PropertyName::Custom(name) => Err(AskError::NotOfTheStandards {
                name: name.to_string(),
            }),
        }
    }

    /// A part that is a number.
    pub(super) fn number(&self, name: &'static str) -> Result<Option<usize>, AskError> {
        let read = |text: &str| {
            text.parse().map_err(|_| AskError::NotANumber {
                part: name,
                text: text.to_owned(),
            })
        };
        self.text(name).map(read).transpose()
    }
}

impl<N: AsRef<str>, T: Into<String>> FromIterator<(N, T)> for Parts {
    fn from_iter<I: IntoIterator<Item = (N, T)>>(all: I) -> Parts {
        let mut parts = Parts::default();
        for (name, text) in all {
            parts.give(name.as_ref(), text);
        }
        parts
    }
}

/// A question about a page: which page, which elements of it, in which states, and the other parts.
#[derive(Debug)]
pub struct Asked<'a> {
    /// The site that the page is of.
    pub site: &'a Site,
    /// The page.
    pub page: Arc<Page>,
    /// What names the elements.
    pub elements: Vec<ElementQuery>,
    /// The states that elements are assumed to be in.
    pub states: ElementStates,
    /// The other parts.
    pub parts: Parts,
}

impl<'a> Asked<'a> {
    /// A question about an element of a page.
    pub fn new(site: &'a Site, page: Arc<Page>, element: impl Into<ElementQuery>) -> Asked<'a> {
        Asked {
            site,
            page,
            elements: vec![element.into()],
            states: ElementStates::default(),
            parts: Parts::default(),
        }
    }

    /// The same with another part.
    pub fn with(mut self, name: &str, text: impl Into<String>) -> Asked<'a> {
        self.parts.give(name, text);
        self
    }

    /// What names the elements, where one name is needed.
    pub(super) fn query(&self) -> Result<&ElementQuery, AskError> {
        self.elements.first().ok_or(AskError::NeedsElement)
    }

    /// The one element that is meant, and the page with it in the states that are assumed.
    pub(super) fn target(&self) -> Result<(Arc<Page>, Target), AskError> {
        let target = self.page.ask().find_one(self.query()?)?;
        Ok((self.in_states(&[target.element])?, target))
    }

    /// All elements that are meant, and the page with them in the states that are assumed.
    ///
    /// # Errors
    /// Where what names them can't be read.
    pub fn targets(&self) -> Result<(Arc<Page>, Vec<ElementId>), AskError> {
        let elements = self.page.ask().elements(self.query()?)?;
        Ok((self.in_states(&elements)?, elements))
    }

    fn in_states(&self, elements: &[ElementId]) -> Result<Arc<Page>, AskError> {
        let page = self.states.on(&self.page, elements)?;
        Ok(page.map_or_else(|| Arc::clone(&self.page), Arc::new))
    }
}

/// Why a question is not answered.
#[derive(Clone, Debug, PartialEq, Error)]
#[non_exhaustive]
pub enum AskError {
    /// An element is not found, or not one.
    #[error(transparent)]
    Find(#[from] FindError),
    /// No property has that name.
    #[error(transparent)]
    Property(#[from] UnknownProperty),
    /// There is nothing at the place that is asked about.
    #[error(transparent)]
    WhyNot(#[from] WhyNotError),
    /// A custom property where the standards are asked.
    #[error("{name} is a custom property, and the standards only describe their own properties")]
    NotOfTheStandards {
        /// Its name.
        name: String,
    },
    /// A property in the place of a rule or a declaration.
    #[error(
        "{name} is a property; expected a rule's place, a selector, or a declaration with its value, such as \
         \"{name}: {initial}\""
    )]
    NotARule {
        /// The property.
        name: String,
        /// Its initial value.
        initial: String,
    },
    /// A part that is not a number.
    #[error("{part}: '{text}' is not a number; expected one such as 3")]
    NotANumber {
        /// The part.
        part: &'static str,
        /// What was given.
        text: String,
    },
    /// A part that the question does not have.
    #[error("'{question}' has no '{part}'{}", one_of(.expected))]
    UnknownPart {
        /// The question.
        question: &'static str,
        /// What was given.
        part: String,
        /// The parts that it has.
        expected: Vec<&'static str>,
    },
    /// A part that must be given.
    #[error("'{question}' needs '{part}': {}", lowercase(.what))]
    MissingPart {
        /// The question.
        question: &'static str,
        /// The part.
        part: &'static str,
        /// What it is.
        what: &'static str,
    },
    /// Two parts that don't go together.
    #[error("'{part}' and '{other}' don't go together; give one of them")]
    Conflict {
        /// One of them.
        part: &'static str,
        /// The other.
        other: &'static str,
    },
    /// An element must be named.
    #[error(
        "no element is named; expected a selector, a text in quotation marks, a place, or a number such as @12"
    )]
    NeedsElement,
    /// A page must be named.
    #[error("'{question}' is about a page; name one")]
    NeedsPage {
        /// The question.
        question: &'static str,
    },
}

impl AskError {
    /// What kind of error, in a word that stays the same.
    pub fn code(&self) -> &'static str {
        match self {
            AskError::Find(error) => error.code(),
            AskError::Property(_) => "unknown-property",
            AskError::WhyNot(_) => "no-such-place",
            AskError::NotOfTheStandards { .. } => "custom-property",
            AskError::NotARule { .. } => "not-a-rule",
            AskError::NotANumber { .. } => "not-a-number",
            AskError::UnknownPart { .. } => "unknown-part",
            AskError::MissingPart { .. } => "missing-part",
            AskError::Conflict { .. } => "conflicting-parts",
            AskError::NeedsElement => "needs-element",
            AskError::NeedsPage { .. } => "needs-page",
        }
    }

    /// Whether it is an answer, namely no: no such element.
    pub fn is_an_answer(&self) -> bool {
        matches!(self, AskError::Find(FindError::NotFound { .. }))
    }
}

fn one_of(expected: &[&str]) -> String {
    match expected {
        [] => String::new(),
        all => format!("; expected {}", all.join(", ")),
    }
}

fn lowercase(what: &str) -> String {
    let mut letters = what.chars();
    let first = letters.next().map(|c| c.to_ascii_lowercase());
    first.into_iter().chain(letters).collect()
}
