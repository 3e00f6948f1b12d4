//! Why a command could not answer, with what to do about it.

use fingerpost::advice::Advice;
use fingerpost::asking::AskError;
use fingerpost::edit::EditError;
use fingerpost::question::find::FindError;
use fingerpost::session::ChangeError;
use fingerpost::site::SiteError;
use schemars::JsonSchema;
use serde::Serialize;

use crate::advised::{AdviceWithLine, with_lines};
use crate::reply::to_json;

/// Why a command could not answer.
pub struct Problem {
    pub message: String,
    pub status: u8,
    /// What kind of problem, in a word that stays the same.
    pub code: &'static str,
    pub advice: Vec<Advice>,
}

pub type Result<T> = std::result::Result<T, Problem>;

impl Problem {
    pub fn bad_use(message: impl Into<String>) -> Problem {
        Problem {
            message: message.into(),
            status: 2,
            code: "bad-use",
            advice: Vec::new(),
        }
    }

    fn with(message: String, status: u8, code: &'static str, advice: Vec<Advice>) -> Problem {
        Problem {
            message,
            status,
            code,
            advice,
        }
    }
}

/// 1 where the answer is no, 2 where the question could not be answered.
fn status(is_answer: bool) -> u8 {
    match is_answer {
        true => 1,
        false => 2,
    }
}

impl From<SiteError> for Problem {
    fn from(error: SiteError) -> Problem {
        let no = matches!(error, SiteError::NothingSaved);
        Problem::with(error.to_string(), status(no), error.code(), error.advice())
    }
}

impl From<ChangeError> for Problem {
    fn from(error: ChangeError) -> Problem {
        let no = error.is_an_answer();
        Problem::with(error.to_string(), status(no), error.code(), error.advice())
    }
}

impl From<FindError> for Problem {
    fn from(error: FindError) -> Problem {
        let no = matches!(error, FindError::NotFound { .. });
        Problem::with(error.to_string(), status(no), error.code(), error.advice())
    }
}

impl From<AskError> for Problem {
    fn from(error: AskError) -> Problem {
        let (no, code) = (error.is_an_answer(), error.code());
        match error {
            AskError::Find(error) => error.into(),
            error => Problem::with(error.to_string(), status(no), code, Vec::new()),
        }
    }
}

impl From<EditError> for Problem {
    fn from(error: EditError) -> Problem {
        let no = error.is_an_answer();
        Problem::with(error.to_string(), status(no), error.code(), Vec::new())
    }
}

/// A problem as an answer.
#[derive(JsonSchema, Serialize)]
pub struct Body {
    error: ErrorBody,
}

#[derive(JsonSchema, Serialize)]
struct ErrorBody {
    /// What kind of problem, in a word that stays the same.
    code: String,
    /// What is wrong, as standard error has it too.
    message: String,
    /// The exit status.
    status: u8,
    /// What to do.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    advice: Vec<AdviceWithLine>,
}

/// A problem as JSON.
pub fn problem_json(problem: &Problem) -> String {
    let error = ErrorBody {
        code: problem.code.to_owned(),
        message: problem.message.clone(),
        status: problem.status,
        advice: with_lines(&problem.advice),
    };
    to_json("error", Body { error })
}
