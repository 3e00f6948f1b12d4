//! What changes the draft and the files: the API's `POST` requests.

use std::collections::BTreeSet;
use std::sync::Arc;

use axum::extract::State;
use axum::response::Response;
use axum::routing::post;
use axum::{Json, Router};
use fingerpost::draft::{Draft, Step};
use fingerpost::edit::Intent;
use fingerpost::site::{SaveOutcome, Selection, Site};
use serde::{Deserialize, Serialize};

use crate::desk::Shared;
use crate::events::{ChangedFile, Event};
use crate::refusal::{Refusal, apart, json};
use crate::subject::Subject;

pub(crate) fn routes() -> Router<Arc<Shared>> {
    Router::new()
        .route("/api/edit", post(edit))
        .route("/api/draft", post(change_draft))
        .route("/api/save", post(save))
        .route("/api/unsave", post(unsave))
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
    states: Option<String>,
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
            element: asked.intent.element.as_ref().map(ToString::to_string),
            at: asked.at,
            states: asked.states,
        };
        let mut workspace = shared.workspace();
        let made = workspace.edit(&asked.intent, &subject, asked.replaces)?;
        let version = workspace.version();
        drop(workspace);
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
    /// Throws an edit away; the whole draft without a number.
    Discard {
        #[serde(default)]
        id: Option<u32>,
    },
    /// Makes an edit again over the files as they are now, for another element or rule where one is named.
    Retarget {
        id: u32,
        #[serde(default)]
        to: Option<String>,
    },
}

impl DraftRequest {
    /// The edit that it is about.
    fn id(&self) -> Option<u32> {
        match self {
            DraftRequest::Undo | DraftRequest::Redo => None,
            DraftRequest::Switch { id, .. } | DraftRequest::Retarget { id, .. } => Some(*id),
            DraftRequest::Discard { id } => *id,
        }
    }
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
        let mut workspace = shared.workspace();
        if let Some(id) = asked.id()
            && workspace.site.draft().edit(id).is_none()
        {
            return Err(Refusal::not_found(format!("the draft has no change {id}")));
        }
        let (summary, files) = match asked {
            DraftRequest::Undo => workspace.change(|site| {
                let done = site.change_draft(Draft::undo)?;
                Ok(stepped(site, done, "nothing to undo", "undone"))
            })?,
            DraftRequest::Redo => workspace.change(|site| {
                let done = site.change_draft(Draft::redo)?;
                Ok(stepped(site, done, "nothing to redo", "made again"))
            })?,
            DraftRequest::Switch { id, on } => workspace.change(|site| {
                site.change_draft(|draft| draft.switch(id, on))?;
                let word = if on { "on" } else { "off" };
                Ok(format!("change {id} is {word}"))
            })?,
            DraftRequest::Discard { id: Some(id) } => workspace.change(|site| {
                site.change_draft(|draft| draft.discard(id))?;
                Ok(format!("change {id} discarded"))
            })?,
            DraftRequest::Discard { id: None } => workspace.change(|site| {
                let count = site.drop_draft()?;
                Ok(format!("{count} changes discarded"))
            })?,
            DraftRequest::Retarget { id, to } => {
                let (new, files) = workspace.retarget(id, to.as_deref())?;
                let summary = workspace.site.draft().summary_of(new).unwrap_or_default();
                (format!("change {id} is now change {new}: {summary}"), files)
            }
        };
        let version = workspace.version();
        drop(workspace);
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
        Some(Step::Added { id }) => {
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
            SaveRequest::All => Selection::All,
            SaveRequest::Edits(numbers) => Selection::Edits(numbers),
            SaveRequest::Files(files) => Selection::Files(files),
        };
        let mut workspace = shared.workspace();
        let (saved, files) = workspace.change(|site| site.save(&which))?;
        let version = workspace.version();
        drop(workspace);
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
        let mut workspace = shared.workspace();
        let (back, files) = workspace.change(Site::unsave)?;
        let version = workspace.version();
        drop(workspace);
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
