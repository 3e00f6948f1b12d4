//! Why a question has no element to be about.

use thiserror::Error;

use super::ElementSummary;
use super::state_needed::StateNeeded;

/// How many elements an error lists.
pub(super) const MOST_LISTED: usize = 12;

/// Why a question has no element to be about.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[non_exhaustive]
pub enum FindError {
    /// The selector is none.
    #[error("'{selector}' is not a valid selector: column {column}: {message}")]
    Selector {
        /// As given.
        selector: String,
        /// Where in it, from 1.
        column: usize,
        /// What is wrong.
        message: String,
    },
    /// The place is in another file than the page.
    #[error("{file} is not the page in question, {page}; expected an element of that page")]
    OtherFile {
        /// The file given.
        file: String,
        /// The page.
        page: String,
    },
    /// The page has no such line, or nothing stands there.
    #[error("{page} has {lines} lines; line {line} is not one of them")]
    NoSuchLine {
        /// The page.
        page: String,
        /// How many lines it has.
        lines: u32,
        /// The line given.
        line: u32,
    },
    /// Nothing matches.
    #[error("no element of {page} matches {what}.{}", .nearest.as_ref().map(|n| format!(" {n}")).unwrap_or_default())]
    NotFound {
        /// What was looked for.
        what: String,
        /// The page.
        page: String,
        /// What nearly matches.
        nearest: Option<String>,
        /// What it is without the state that it is not in, and that state.
        state: Option<Box<(String, StateNeeded)>>,
    },
    /// Several elements match where one is needed.
    #[error("{}", several(.what, .page, .elements, *.more))]
    Several {
        /// What was looked for.
        what: String,
        /// The page.
        page: String,
        /// The first of them.
        elements: Vec<ElementSummary>,
        /// How many there are besides.
        more: usize,
    },
}

impl FindError {
    /// The kind of error, in a word that stays the same.
    pub fn code(&self) -> &'static str {
        match self {
            FindError::Selector { .. } => "invalid-selector",
            FindError::OtherFile { .. } => "other-file",
            FindError::NoSuchLine { .. } => "no-such-line",
            FindError::NotFound { .. } => "not-found",
            FindError::Several { .. } => "several-elements",
        }
    }
}

fn several(what: &str, page: &str, elements: &[ElementSummary], more: usize) -> String {
    let count = elements.len() + more;
    let mut text = format!("{what} matches {count} elements of {page}; say which:");
    for element in elements {
        text.push_str(&format!(
            "\n  {}  {}  (or @{})",
            element.place,
            element.label(),
            element.index
        ));
    }
    if more > 0 {
        text.push_str(&format!("\n  and {more} more"));
    }
    if let Some(first) = elements.first() {
        text.push_str(&format!("\nA place names one: {}", first.place));
    }
    text
}
