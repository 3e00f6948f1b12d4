//! Every question by its name: what it is about, what it is given, and how it is asked.
//!
//! A face needs no code for a question but what lays out its answer: the command's arguments, help,
//! completions and schemas, the HTTP API and the list in `docs/answers` are made from [`QuestionKind::all`].
//!
//! ```
//! use fingerpost::asking::{AnyAnswer, Asked, QuestionKind};
//! use fingerpost::prelude::*;
//!
//! # let folder = tempfile::tempdir()?;
//! # std::fs::write(folder.path().join("fingerpost.toml"), "fingerpost = 2\n")?;
//! # std::fs::write(folder.path().join("a.html"), "<style>p { color: teal }</style><p>Boats")?;
//! let site = Site::of_folder(folder.path())?;
//! let page = site.shared_page("a.html", &Environment::default())?;
//! let why = QuestionKind::named("why").expect("a question");
//! let asked = Asked::new(&site, page, "p").with("property", "color");
//! let AnyAnswer::Why(answer) = why.ask(&asked)?.answer else { panic!() };
//! assert_eq!(answer.contests[0].value.computed, "rgb(0, 128, 128)");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod any_answer;
mod asked;
mod kinds;

pub use any_answer::{AnswerType, Answered, AnyAnswer, EachAnswer};
pub use asked::{AskError, Asked, Parts};

use crate::field::{Field, Given};

/// A question, as a person meets it.
#[derive(Debug)]
#[non_exhaustive]
pub struct QuestionKind {
    /// Its name: `why`, `suggest class`.
    pub name: &'static str,
    /// What it answers, in a line that begins with a verb.
    pub does: &'static str,
    /// The step of the work that it belongs to.
    pub step: Step,
    /// What it is about.
    pub about: About,
    /// Its parts besides, in the order in which they are given.
    pub fields: &'static [Field],
    /// Worked examples on the demo theme, the best first.
    pub examples: &'static [Sample],
    /// Whether the answer could be another one if a sheet that failed had loaded.
    pub rests_on_sheets: bool,
    /// The answer's type.
    pub answer: AnswerType,
    ask: Ask,
}

/// Several questions under one name.
#[derive(Debug)]
#[non_exhaustive]
pub struct QuestionGroup {
    /// The first word of their names.
    pub name: &'static str,
    /// What they answer, in a line that begins with a verb.
    pub does: &'static str,
}

/// The steps of the work to which questions belong.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Step {
    /// Find an element.
    Find,
    /// Find out why it looks as it does.
    Why,
    /// Try a change.
    Try,
}

/// What a question is about.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum About {
    /// Nothing of a site.
    Nothing,
    /// A page.
    Page,
    /// An element of a page, or the root element where none is named.
    ElementOrRoot,
    /// An element of a page.
    Element,
    /// All elements of a page that are meant, which may be none.
    Elements,
    /// Several elements of a page, each named.
    Several,
}

impl About {
    /// Whether a page must be named.
    pub fn has_page(self) -> bool {
        self != About::Nothing
    }
}

/// A worked example on the demo theme.
#[derive(Clone, Copy, Debug)]
pub struct Sample {
    /// The page.
    pub page: &'static str,
    /// What names the element; empty where none is named.
    pub element: &'static str,
    /// Whether `element` is a text, whatever it looks like.
    pub is_text: bool,
    /// The other parts by their names; a flag is empty.
    pub parts: &'static [(&'static str, &'static str)],
}

/// How a question is asked.
#[derive(Clone, Copy)]
enum Ask {
    /// Of the standards alone.
    Standards(fn(&Parts) -> Result<Answered, AskError>),
    /// Of a page of a site.
    Page(fn(&Asked<'_>) -> Result<Answered, AskError>),
}

impl std::fmt::Debug for Ask {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(match self {
            Ask::Standards(_) => "Standards",
            Ask::Page(_) => "Page",
        })
    }
}

impl QuestionKind {
    /// Every question, in the order of the work.
    pub fn all() -> &'static [QuestionKind] {
        &kinds::ALL
    }

    /// The names that several questions share.
    pub fn groups() -> &'static [QuestionGroup] {
        &kinds::GROUPS
    }

    /// The question of that name.
    pub fn named(name: &str) -> Option<&'static QuestionKind> {
        QuestionKind::all().iter().find(|kind| kind.name == name)
    }

    /// The name of its group, where it is in one.
    pub fn group(&self) -> Option<&'static str> {
        self.name.split_once(' ').map(|(group, _)| group)
    }

    /// Asks it about a page.
    ///
    /// # Errors
    /// Where a part is missing, unknown or can't be read, or an element is not found.
    pub fn ask(&self, asked: &Asked<'_>) -> Result<Answered, AskError> {
        self.check(&asked.parts)?;
        match self.ask {
            Ask::Standards(ask) => ask(&asked.parts),
            Ask::Page(ask) => ask(asked),
        }
    }

    /// Asks a question that is about nothing of a site.
    ///
    /// # Errors
    /// Where a part is missing, unknown or can't be read, or the question is about a page.
    pub fn ask_standards(&self, parts: &Parts) -> Result<Answered, AskError> {
        self.check(parts)?;
        match self.ask {
            Ask::Standards(ask) => ask(parts),
            Ask::Page(_) => Err(AskError::NeedsPage {
                question: self.name,
            }),
        }
    }

    fn check(&self, parts: &Parts) -> Result<(), AskError> {
        for name in parts.names() {
            if !self.fields.iter().any(|field| field.name == name) {
                return Err(AskError::UnknownPart {
                    question: self.name,
                    part: name.to_owned(),
                    expected: self.fields.iter().map(|field| field.name).collect(),
                });
            }
        }
        for field in self
            .fields
            .iter()
            .filter(|field| field.given == Given::Required)
        {
            if parts.text(field.name).is_none() {
                return Err(AskError::MissingPart {
                    question: self.name,
                    part: field.name,
                    what: field.what,
                });
            }
        }
        Ok(())
    }
}
