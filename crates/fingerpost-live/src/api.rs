//! The questions of the HTTP API after the desk: `docs/api.md`. Answers are the command's JSON.

use std::collections::BTreeSet;
use std::convert::Infallible;
use std::sync::Arc;

use axum::Router;
use axum::extract::{Query, State};
use axum::http::header;
use axum::response::sse::{KeepAlive, Sse};
use axum::response::{IntoResponse, Response};
use axum::routing::get;
use fingerpost::asking::{Asked, Parts, QuestionKind};
use fingerpost::impact::draft;
use fingerpost::impact::site::theme_variants;
use fingerpost::question::find::ElementQuery;
use fingerpost::site::{ChangedFile as ChangedTexts, Selection};
use serde::{Deserialize, Serialize};
use tokio_stream::StreamExt;
use tokio_stream::wrappers::BroadcastStream;
use tokio_stream::wrappers::errors::BroadcastStreamRecvError;

use crate::events::Event;
use crate::refusal::{Refusal, apart, json};
use crate::shared::Shared;
use crate::subject::Subject;

pub(crate) fn routes() -> Router<Arc<Shared>> {
    Router::new()
        .route("/api/events", get(events))
        .route("/api/ask", get(ask))
        .route("/api/draft", get(show_draft))
        .route("/api/effect", get(effect))
        .route("/api/patch", get(patch))
        .route("/api/widths", get(widths))
}

/// What changes, as it happens.
async fn events(
    State(shared): State<Arc<Shared>>,
) -> Sse<impl tokio_stream::Stream<Item = Result<axum::response::sse::Event, Infallible>>> {
    let stream = BroadcastStream::new(shared.events.listen()).map(|event| {
        let event = event.unwrap_or_else(|BroadcastStreamRecvError::Lagged(_)| Event::Trouble {
            message: "the desk missed some messages; reload it".to_owned(),
        });
        let data = axum::response::sse::Event::default().json_data(event);
        Ok(data.unwrap_or_default())
    });
    Sse::new(stream).keep_alive(KeepAlive::default())
}

/// The names in the query of a question that say what it is about; all others are its parts.
const ABOUT: [&str; 4] = ["page", "element", "environment", "states"];

/// Any question of the core, by its name.
async fn ask(
    State(shared): State<Arc<Shared>>,
    Query(given): Query<Vec<(String, String)>>,
) -> Result<Response, Refusal> {
    apart(move || {
        let value = |name: &str| given.iter().find(|(given, _)| given == name);
        let name = value("question").map(|(_, text)| text.as_str());
        let kind = name
            .and_then(QuestionKind::named)
            .ok_or_else(|| unknown_question(name.unwrap_or_default()))?;
        let others = given.iter().filter(|(name, _)| name != "question");
        let (about, parts): (Vec<_>, Vec<_>) =
            others.partition(|(name, _)| ABOUT.contains(&name.as_str()));
        let parts: Parts = parts.into_iter().cloned().collect();
        if !kind.about.has_page() {
            return Ok(json(kind.name, kind.ask_standards(&parts)?));
        }
        let text = |name: &str| {
            about
                .iter()
                .find(|(given, _)| given == name)
                .map(|(_, text)| text.clone())
        };
        let subject = Subject {
            page: text("page"),
            element: text("element"),
            environment: text("environment"),
            states: text("states"),
        };
        let workspace = shared.workspace();
        let page_name = subject.page.as_deref().unwrap_or(&shared.first);
        let page = workspace.page(page_name, &subject.environment()?)?;
        let view = workspace.site.with_only(|_| true);
        drop(workspace);
        let elements = about.iter().filter(|(name, _)| name == "element");
        let elements = elements.map(|(_, text)| ElementQuery::parse(text).on(&page));
        let asked = Asked {
            site: &view,
            elements: elements.collect(),
            page,
            states: subject.element_states()?,
            parts,
        };
        Ok(json(kind.name, kind.ask(&asked)?))
    })
    .await
}

fn unknown_question(name: &str) -> Refusal {
    let all: Vec<&str> = QuestionKind::all().iter().map(|kind| kind.name).collect();
    Refusal::bad(format!(
        "'{name}' is not a question; expected one of {}",
        all.join(", ")
    ))
}

async fn show_draft(State(shared): State<Arc<Shared>>) -> Result<Response, Refusal> {
    apart(move || {
        let view = shared.workspace().site.with_only(|_| true);
        Ok(json("draft", draft::draft(&view)?))
    })
    .await
}

/// The edits whose effect is asked.
#[derive(Deserialize)]
struct Edits {
    /// Their numbers, with commas; all without them.
    #[serde(default)]
    edits: String,
}

impl Edits {
    fn numbers(&self) -> Result<BTreeSet<u32>, Refusal> {
        let words = self
            .edits
            .split(',')
            .map(str::trim)
            .filter(|w| !w.is_empty());
        words
            .map(|word| {
                word.parse().map_err(|_| {
                    Refusal::bad(format!(
                        "'{word}' is not the number of an edit; expected one such as 3"
                    ))
                })
            })
            .collect()
    }

    fn which(&self) -> Result<Selection, Refusal> {
        let numbers = self.numbers()?;
        Ok(match numbers.is_empty() {
            true => Selection::All,
            false => Selection::Edits(numbers),
        })
    }
}

async fn effect(
    State(shared): State<Arc<Shared>>,
    Query(asked): Query<Edits>,
) -> Result<Response, Refusal> {
    apart(move || {
        let view = shared.workspace().site.with_only(|_| true);
        let numbers = asked.numbers()?;
        Ok(json("effect", draft::effect_over_others(&view, &numbers)?))
    })
    .await
}

/// A width at which to look at a page.
#[derive(Serialize)]
struct Width {
    /// What the site's configuration calls it, where it does.
    #[serde(skip_serializing_if = "Option::is_none")]
    name: Option<String>,
    /// In CSS px.
    width: f64,
    #[serde(skip_serializing_if = "Option::is_none")]
    height: Option<u32>,
}

#[derive(Serialize)]
struct Widths {
    widths: Vec<Width>,
}

async fn widths(
    State(shared): State<Arc<Shared>>,
    Query(subject): Query<Subject>,
) -> Result<Response, Refusal> {
    apart(move || {
        let workspace = shared.workspace();
        let (page, _) = workspace.asked(
            &Subject {
                page: subject.page,
                ..Subject::default()
            },
            &shared.first,
        )?;
        let named = workspace.site.config().size.clone();
        drop(workspace);
        let own = page.environment().viewport.width;
        let mut widths: Vec<Width> = named
            .into_iter()
            .map(|size| Width {
                name: Some(size.name),
                width: f64::from(size.width),
                height: size.height,
            })
            .collect();
        let of_theme = theme_variants(&page)
            .into_iter()
            .map(|v| v.environment.viewport.width);
        widths.extend(of_theme.filter(|width| *width != own).map(|width| Width {
            name: None,
            width,
            height: None,
        }));
        widths.sort_by(|a, b| {
            a.width
                .total_cmp(&b.width)
                .then(a.name.is_none().cmp(&b.name.is_none()))
        });
        widths.dedup_by(|later, earlier| later.width == earlier.width);
        Ok(json("widths", Widths { widths }))
    })
    .await
}

/// The draft as a patch, for other tools.
async fn patch(
    State(shared): State<Arc<Shared>>,
    Query(asked): Query<Edits>,
) -> Result<Response, Refusal> {
    apart(move || {
        let changes = shared.workspace().site.changes_of(&asked.which()?)?;
        let text: String = changes.iter().map(ChangedTexts::patch).collect();
        let headers = [
            (header::CONTENT_TYPE, "text/x-diff; charset=utf-8"),
            (
                header::CONTENT_DISPOSITION,
                "attachment; filename=\"draft.patch\"",
            ),
        ];
        Ok((headers, text).into_response())
    })
    .await
}
