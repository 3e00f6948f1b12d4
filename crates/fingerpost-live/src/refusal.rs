//! What an answer of the API is: JSON in the command's envelope, or a refusal with its reason.

use axum::Json;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Response};
use fingerpost::advice::Advice;
use fingerpost::asking::AskError;
use fingerpost::question::Answer;
use fingerpost::question::find::FindError;
use fingerpost::session::ChangeError;
use fingerpost::site::SiteError;
use serde::Serialize;

/// Why a request is not answered.
#[derive(Debug)]
pub(crate) struct Refusal {
    pub status: StatusCode,
    pub message: String,
    /// What kind of refusal, in a word that stays the same.
    pub code: &'static str,
    pub advice: Vec<Advice>,
}

impl Refusal {
    pub fn bad(why: impl std::fmt::Display) -> Refusal {
        Refusal {
            status: StatusCode::BAD_REQUEST,
            message: why.to_string(),
            code: "bad-request",
            advice: Vec::new(),
        }
    }

    pub fn not_found(why: impl std::fmt::Display) -> Refusal {
        Refusal {
            status: StatusCode::NOT_FOUND,
            message: why.to_string(),
            code: "not-found",
            advice: Vec::new(),
        }
    }

    pub fn read_only() -> Refusal {
        Refusal {
            status: StatusCode::FORBIDDEN,
            message: "this desk only reads; start it without --read-only to change something"
                .to_owned(),
            code: "read-only",
            advice: Vec::new(),
        }
    }
}

impl From<ChangeError> for Refusal {
    fn from(error: ChangeError) -> Refusal {
        let status = match error {
            ChangeError::NoSuchChange { .. } => StatusCode::NOT_FOUND,
            _ => StatusCode::BAD_REQUEST,
        };
        Refusal {
            status,
            message: error.to_string(),
            code: error.code(),
            advice: error.advice(),
        }
    }
}

impl From<SiteError> for Refusal {
    fn from(error: SiteError) -> Refusal {
        ChangeError::from(error).into()
    }
}

impl From<AskError> for Refusal {
    fn from(error: AskError) -> Refusal {
        match error {
            AskError::Find(error) => error.into(),
            error => Refusal {
                code: error.code(),
                ..Refusal::bad(error)
            },
        }
    }
}

impl From<FindError> for Refusal {
    fn from(error: FindError) -> Refusal {
        Refusal {
            status: StatusCode::NOT_FOUND,
            message: error.to_string(),
            code: error.code(),
            advice: error.advice(),
        }
    }
}

#[derive(Serialize)]
struct Problem {
    error: ProblemBody,
}

#[derive(Serialize)]
struct ProblemBody {
    code: &'static str,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    advice: Vec<Advice>,
    message: String,
    status: u16,
}

impl IntoResponse for Refusal {
    fn into_response(self) -> Response {
        let error = ProblemBody {
            code: self.code,
            advice: self.advice,
            message: self.message,
            status: self.status.as_u16(),
        };
        (self.status, Json(Answer::new("error", Problem { error }))).into_response()
    }
}

/// Runs what asks and edits apart from what serves.
pub(crate) async fn apart<T: Send + 'static>(
    work: impl FnOnce() -> Result<T, Refusal> + Send + 'static,
) -> Result<T, Refusal> {
    tokio::task::spawn_blocking(work).await.unwrap_or_else(|_| {
        Err(Refusal {
            status: StatusCode::INTERNAL_SERVER_ERROR,
            message: "this is a defect in fingerpost, not in your site; its log says more"
                .to_owned(),
            code: "defect",
            advice: Vec::new(),
        })
    })
}

pub(crate) fn json(command: &str, body: impl Serialize) -> Response {
    Json(Answer::new(command, body)).into_response()
}
