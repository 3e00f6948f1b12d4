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
use fingerpost::impact::site::theme_variants;
use fingerpost::impact::{draft, remedies};
use fingerpost::page::PropertyName;
use fingerpost::question::complete::{CompleteAnswer, property_names, values_of};
use fingerpost::question::find::ElementQuery;
use fingerpost::question::whynot::Asked;
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

/// A question.
#[derive(Deserialize)]
struct Question {
    /// The command that asks it.
    question: String,
    /// The property, the rule, the text: whatever the question takes.
    #[serde(default)]
    text: String,
    #[serde(flatten)]
    subject: Subject,
}

async fn ask(
    State(shared): State<Arc<Shared>>,
    Query(asked): Query<Question>,
) -> Result<Response, Refusal> {
    apart(move || {
        let (page, target) = shared.workspace().asked(&asked.subject, &shared.first)?;
        let ask = page.ask();
        let property = || -> Result<PropertyName, Refusal> { asked.text.parse().map_err(Refusal::bad) };
        Ok(match asked.question.as_str() {
            "find" => {
                let what = ElementQuery::parse(&asked.text).on(&page);
                json("find", ask.find(&what).map_err(Refusal::bad)?)
            }
            "trace" => json("trace", ask.trace(&target)),
            "why" => json("why", ask.why(&target, &property()?)),
            "values" => {
                let filter = Some(asked.text.as_str()).filter(|text| !text.is_empty());
                json("values", ask.values(&target, filter, true))
            }
            "whynot" => {
                let view = shared.workspace().site.with_only(|_| true);
                let text = &asked.text;
                let element_states = asked.subject.element_states()?;
                let answer = remedies::tried(&view, &page, &target, &Asked::parse(text), text, &element_states);
                json("whynot", answer.map_err(Refusal::bad)?)
            }
            "sheets" => {
                let inventory = shared.workspace().site.with_only(|_| true).inventory();
                json("sheets", page.ask().beside(&inventory).sheets())
            }
            "tree" => json("tree", ask.tree(target.element, None)),
            "classes" => json("classes", ask.classes(&asked.text)),
            "complete" => json("complete", completions(&asked.text)?),
            other => {
                return Err(Refusal::bad(format!(
                    "'{other}' is not a question; expected find, trace, why, values, whynot, sheets, tree, \
                     classes or complete"
                )));
            }
        })
    })
    .await
}

/// What can stand at the end of `property: val`, or of a property's name.
fn completions(text: &str) -> Result<CompleteAnswer, Refusal> {
    let Some((property, value)) = text.split_once(':') else {
        return Ok(property_names(text.trim()));
    };
    match property.trim().parse().map_err(Refusal::bad)? {
        PropertyName::Known(property) => Ok(values_of(property, value.trim_start())),
        PropertyName::Custom(name) => Err(Refusal::bad(format!(
            "{name} is a custom property: no standard says what it takes"
        ))),
    }
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
