//! What an answer of the API is: JSON in the command's envelope, or a refusal with its reason.

use axum::Json;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Response};
use fingerpost::question::Answer;
use serde::Serialize;

/// Why a request is not answered.
#[derive(Debug)]
pub(crate) struct Refusal {
    pub status: StatusCode,
    pub message: String,
}

impl Refusal {
    pub fn bad(why: impl std::fmt::Display) -> Refusal {
        Refusal {
            status: StatusCode::BAD_REQUEST,
            message: why.to_string(),
        }
    }

    pub fn not_found(why: impl std::fmt::Display) -> Refusal {
        Refusal {
            status: StatusCode::NOT_FOUND,
            message: why.to_string(),
        }
    }

    pub fn read_only() -> Refusal {
        Refusal {
            status: StatusCode::FORBIDDEN,
            message: "this desk only reads; start it without --read-only to change something"
                .to_owned(),
        }
    }
}

#[derive(Serialize)]
struct Problem {
    error: ProblemBody,
}

#[derive(Serialize)]
struct ProblemBody {
    message: String,
    status: u16,
}

impl IntoResponse for Refusal {
    fn into_response(self) -> Response {
        let error = ProblemBody {
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
        })
    })
}

pub(crate) fn json(command: &str, body: impl Serialize) -> Response {
    Json(Answer::new(command, body)).into_response()
}
