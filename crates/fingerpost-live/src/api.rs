//! The HTTP API behind the desk: `docs/api.md`. Answers are the command's JSON.

use std::collections::BTreeSet;
use std::convert::Infallible;
use std::sync::Arc;

use axum::extract::{Query, State};
use axum::http::{StatusCode, header};
use axum::response::sse::{KeepAlive, Sse};
use axum::response::{IntoResponse, Response};
use axum::routing::{get, post};
use axum::{Json, Router};
use fingerpost::edit::{Draft, Intent, Step};
use fingerpost::page::PropertyName;
use fingerpost::question::Answer;
use fingerpost::question::complete::{CompleteAnswer, property_names, values_of};
use fingerpost::question::find::ElementQuery;
use fingerpost::question::whynot::Asked;
use fingerpost::site::{ChangedFile as ChangedTexts, SaveOutcome, Site, Which};
use fingerpost::survey::effect::theme_variants;
use fingerpost::survey::{draft, whynot};
use serde::{Deserialize, Serialize};
use tokio_stream::StreamExt;
use tokio_stream::wrappers::BroadcastStream;
use tokio_stream::wrappers::errors::BroadcastStreamRecvError;

use crate::desk::Shared;
use crate::events::{ChangedFile, Event};
use crate::subject::Subject;

pub(crate) fn routes() -> Router<Arc<Shared>> {
    Router::new()
        .route("/api/events", get(events))
        .route("/api/ask", get(ask))
        .route("/api/draft", get(show_draft).post(change_draft))
        .route("/api/edit", post(edit))
        .route("/api/effect", get(effect))
        .route("/api/save", post(save))
        .route("/api/unsave", post(unsave))
        .route("/api/patch", get(patch))
        .route("/api/widths", get(widths))
}

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

    fn read_only() -> Refusal {
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

fn json(command: &str, body: impl Serialize) -> Response {
    Json(Answer::new(command, body)).into_response()
}

/// What changes, as it happens.
async fn events(
    State(shared): State<Arc<Shared>>,
) -> Sse<impl tokio_stream::Stream<Item = Result<axum::response::sse::Event, Infallible>>> {
    let stream = BroadcastStream::new(shared.events.listen()).map(|event| {
        let event = event.unwrap_or_else(|BroadcastStreamRecvError::Lagged(_)| Event::Trouble {
            message: "the desk fell behind; reload it".to_owned(),
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
        let (page, target) = shared.bench().asked(&asked.subject, &shared.first)?;
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
                let view = shared.bench().site.with_only(|_| true);
                let text = &asked.text;
                let pretended = asked.subject.pretended()?;
                let answer = whynot::tried(&view, &page, &target, &Asked::parse(text), text, &pretended);
                json("whynot", answer.map_err(Refusal::bad)?)
            }
            "sheets" => {
                let inventory = shared.bench().site.with_only(|_| true).inventory();
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

/// An edit.
#[derive(Deserialize)]
#[serde(rename_all = "camelCase")]
struct EditRequest {
    /// What is wanted, as scripts of edits have it.
    intent: Intent,
    /// An edit that this one replaces, where that is the draft's last one: the steps of one key press
    /// after the other are one edit.
    #[serde(default)]
    replaces: Option<u32>,
    /// The surroundings and states it is asked in.
    #[serde(default)]
    at: Option<String>,
    #[serde(default)]
    hold: Option<String>,
}

#[derive(Serialize)]
struct EditReply {
    /// None where the edit only took back the one that it replaces.
    id: Option<u32>,
    version: u64,
    summary: String,
    warnings: Vec<String>,
    files: Vec<ChangedFile>,
}

async fn edit(
    State(shared): State<Arc<Shared>>,
    Json(asked): Json<EditRequest>,
) -> Result<Response, Refusal> {
    apart(move || {
        if shared.settings.read_only {
            return Err(Refusal::read_only());
        }
        let subject = Subject {
            page: Some(asked.intent.page.clone()),
            element: asked.intent.element.clone(),
            at: asked.at,
            hold: asked.hold,
        };
        let mut bench = shared.bench();
        let made = bench.edit(&asked.intent, &subject, asked.replaces)?;
        let version = bench.version();
        drop(bench);
        changed(&shared, version, made.files.clone());
        Ok(json(
            "edit",
            EditReply {
                id: made.id,
                version,
                summary: made.summary,
                warnings: made.warnings,
                files: made.files,
            },
        ))
    })
    .await
}

fn changed(shared: &Shared, version: u64, files: Vec<ChangedFile>) {
    shared.events.send(Event::Changed {
        version,
        files,
        from_disk: false,
    });
}

async fn show_draft(State(shared): State<Arc<Shared>>) -> Result<Response, Refusal> {
    apart(move || {
        let view = shared.bench().site.with_only(|_| true);
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

    fn which(&self) -> Result<Which, Refusal> {
        let numbers = self.numbers()?;
        Ok(match numbers.is_empty() {
            true => Which::All,
            false => Which::Edits(numbers),
        })
    }
}

async fn effect(
    State(shared): State<Arc<Shared>>,
    Query(asked): Query<Edits>,
) -> Result<Response, Refusal> {
    apart(move || {
        let view = shared.bench().site.with_only(|_| true);
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
        let mut bench = shared.bench();
        let (page, _) = bench.asked(
            &Subject {
                page: subject.page,
                ..Subject::default()
            },
            &shared.first,
        )?;
        let named = bench.site.config().size.clone();
        drop(bench);
        let own = page.conditions().viewport.width;
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
            .map(|v| v.conditions.viewport.width);
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

/// A change of the draft that is not an edit.
#[derive(Deserialize)]
#[serde(rename_all = "kebab-case", tag = "do")]
enum DraftRequest {
    /// Takes the last change back.
    Undo,
    /// Makes the last change that was taken back again.
    Redo,
    /// Switches an edit on or off.
    Switch { id: u32, on: bool },
    /// Throws the whole draft away.
    Discard,
}

#[derive(Serialize)]
struct DraftReply {
    version: u64,
    summary: String,
    files: Vec<ChangedFile>,
}

async fn change_draft(
    State(shared): State<Arc<Shared>>,
    Json(asked): Json<DraftRequest>,
) -> Result<Response, Refusal> {
    apart(move || {
        if shared.settings.read_only {
            return Err(Refusal::read_only());
        }
        let mut bench = shared.bench();
        let (summary, files) = bench.change(|site| match asked {
            DraftRequest::Undo => {
                let done = site.change_draft(Draft::undo)?;
                Ok(stepped(site, done, "nothing to undo", "undone"))
            }
            DraftRequest::Redo => {
                let done = site.change_draft(Draft::redo)?;
                Ok(stepped(site, done, "nothing to redo", "made again"))
            }
            DraftRequest::Switch { id, on } => {
                site.change_draft(|draft| draft.switch(id, on))?;
                let word = if on { "on" } else { "off" };
                Ok(format!("change {id} is {word}"))
            }
            DraftRequest::Discard => {
                let count = site.drop_draft()?;
                Ok(format!("{count} changes discarded"))
            }
        })?;
        let version = bench.version();
        drop(bench);
        changed(&shared, version, files.clone());
        Ok(json(
            "draft",
            DraftReply {
                version,
                summary,
                files,
            },
        ))
    })
    .await
}

/// What an undo or a redo did, in a sentence.
fn stepped(site: &Site, step: Option<Step>, nothing: &str, done: &str) -> String {
    match step {
        None => nothing.to_owned(),
        Some(Step::Tried { id }) => {
            let summary = site.draft().summary_of(id);
            format!(
                "{done}: {}",
                summary.map_or(format!("change {id}"), str::to_owned)
            )
        }
        Some(_) => done.to_owned(),
    }
}

/// What is saved.
#[derive(Deserialize)]
#[serde(rename_all = "kebab-case")]
enum SaveRequest {
    /// All that is on.
    All,
    /// These edits.
    Edits(BTreeSet<u32>),
    /// The edits of these files.
    Files(BTreeSet<String>),
}

#[derive(Serialize)]
struct SaveReply {
    version: u64,
    files: Vec<String>,
}

async fn save(
    State(shared): State<Arc<Shared>>,
    Json(asked): Json<SaveRequest>,
) -> Result<Response, Refusal> {
    apart(move || {
        if shared.settings.read_only {
            return Err(Refusal::read_only());
        }
        let which = match asked {
            SaveRequest::All => Which::All,
            SaveRequest::Edits(numbers) => Which::Edits(numbers),
            SaveRequest::Files(files) => Which::Files(files),
        };
        let mut bench = shared.bench();
        let (saved, files) = bench.change(|site| site.save(&which))?;
        let version = bench.version();
        drop(bench);
        let SaveOutcome { changes, .. } = saved;
        changed(&shared, version, files);
        let files = changes
            .iter()
            .map(|file| file.before.name().to_owned())
            .collect();
        Ok(json("save", SaveReply { version, files }))
    })
    .await
}

async fn unsave(State(shared): State<Arc<Shared>>) -> Result<Response, Refusal> {
    apart(move || {
        if shared.settings.read_only {
            return Err(Refusal::read_only());
        }
        let mut bench = shared.bench();
        let (back, files) = bench.change(Site::unsave)?;
        let version = bench.version();
        drop(bench);
        let names = back
            .changes
            .iter()
            .map(|file| file.before.name().to_owned())
            .collect();
        changed(&shared, version, files);
        Ok(json(
            "unsave",
            SaveReply {
                version,
                files: names,
            },
        ))
    })
    .await
}

/// The draft as a patch, for other tools.
async fn patch(
    State(shared): State<Arc<Shared>>,
    Query(asked): Query<Edits>,
) -> Result<Response, Refusal> {
    apart(move || {
        let changes = shared.bench().site.changes_of(&asked.which()?)?;
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
