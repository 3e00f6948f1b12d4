//! What changes the draft and the files: the API's `POST` requests.

use std::collections::BTreeSet;
use std::sync::Arc;

use axum::extract::State;
use axum::response::Response;
use axum::routing::post;
use axum::{Json, Router};
use fingerpost::advice::Advice;
use fingerpost::edit::Intent;
use fingerpost::session::{ConflictAnswer, Outcome};
use fingerpost::site::Selection;
use serde::{Deserialize, Serialize};

use crate::events::{ChangedFile, Event};
use crate::refusal::{Refusal, apart, json};
use crate::shared::Shared;
use crate::subject::Subject;
use crate::workspace::Workspace;

pub(crate) fn routes() -> Router<Arc<Shared>> {
    Router::new()
        .route("/api/edit", post(edit))
        .route("/api/script", post(script))
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
    /// The environment and states it is made in.
    #[serde(default)]
    environment: Option<String>,
    #[serde(default)]
    states: Option<String>,
}

/// What a write did, and the state of the site after it.
#[derive(Serialize)]
struct WriteReply {
    version: u64,
    /// The files that are served otherwise now.
    files: Vec<ChangedFile>,
    #[serde(flatten)]
    outcome: OutcomeReply,
}

/// What of an outcome a reply has.
#[derive(Serialize)]
struct OutcomeReply {
    summary: String,
    /// None where an edit only took back the one that it replaces.
    change: Option<u32>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    changes: Vec<u32>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    warnings: Vec<String>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    notes: Vec<String>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    conflicts: Vec<ConflictAnswer>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    advice: Vec<Advice>,
}

impl From<Outcome> for OutcomeReply {
    fn from(outcome: Outcome) -> OutcomeReply {
        OutcomeReply {
            summary: outcome.summary,
            change: outcome.change,
            changes: outcome.edits.iter().map(|added| added.change).collect(),
            warnings: outcome.warnings,
            notes: outcome.notes,
            conflicts: outcome.conflicts,
            advice: outcome.advice,
        }
    }
}

/// A step of the site's session: refused on a desk that only reads, told to all who listen.
async fn write(
    shared: Arc<Shared>,
    command: &'static str,
    work: impl FnOnce(&mut Workspace) -> Result<(Outcome, Vec<ChangedFile>), Refusal> + Send + 'static,
) -> Result<Response, Refusal> {
    apart(move || {
        if shared.settings.read_only {
            return Err(Refusal::read_only());
        }
        let mut workspace = shared.workspace();
        let (outcome, files) = work(&mut workspace)?;
        let version = workspace.version();
        drop(workspace);
        shared.events.send(Event::Changed {
            version,
            files: files.clone(),
            from_disk: false,
        });
        Ok(json(
            command,
            WriteReply {
                version,
                files,
                outcome: outcome.into(),
            },
        ))
    })
    .await
}

async fn edit(
    State(shared): State<Arc<Shared>>,
    Json(asked): Json<EditRequest>,
) -> Result<Response, Refusal> {
    write(shared, "edit", move |workspace| {
        let subject = Subject {
            page: Some(asked.intent.page.clone()),
            element: asked.intent.element.as_ref().map(ToString::to_string),
            environment: asked.environment,
            states: asked.states,
        };
        workspace.edit(&asked.intent, &subject, asked.replaces)
    })
    .await
}

/// Edits that are made together, or none of them.
#[derive(Deserialize)]
#[serde(rename_all = "camelCase")]
struct ScriptRequest {
    edits: Vec<Intent>,
    #[serde(default)]
    name: Option<String>,
    #[serde(default)]
    environment: Option<String>,
}

async fn script(
    State(shared): State<Arc<Shared>>,
    Json(asked): Json<ScriptRequest>,
) -> Result<Response, Refusal> {
    write(shared, "script", move |workspace| {
        let subject = Subject {
            environment: asked.environment,
            ..Subject::default()
        };
        let environment = subject.environment()?;
        let name = asked.name.unwrap_or_else(|| "several edits".to_owned());
        workspace.change(|session| {
            session
                .in_environment(environment)
                .script(&name, &asked.edits)
        })
    })
    .await
}

/// A step of the draft that is not an edit.
#[derive(Deserialize)]
#[serde(rename_all = "kebab-case", tag = "do")]
enum DraftRequest {
    /// Undoes the last step.
    Undo,
    /// Does the last step again that was undone.
    Redo,
    /// Switches a change on or off.
    Switch { change: u32, on: bool },
    /// Discards a change; the whole draft where none is named.
    Discard {
        #[serde(default)]
        change: Option<u32>,
    },
    /// Makes a change again over the files as they are now; carries the whole draft over where none is named.
    Reapply {
        #[serde(default)]
        change: Option<u32>,
    },
    /// Makes a change again for another element or rule.
    Retarget { change: u32, to: String },
}

async fn change_draft(
    State(shared): State<Arc<Shared>>,
    Json(asked): Json<DraftRequest>,
) -> Result<Response, Refusal> {
    write(shared, "draft", move |workspace| {
        workspace.change(|mut session| match asked {
            DraftRequest::Undo => session.undo(),
            DraftRequest::Redo => session.redo(),
            DraftRequest::Switch { change, on } => session.switch(change, on),
            DraftRequest::Discard { change } => session.discard(change),
            DraftRequest::Reapply { change: None } => session.carry_over(),
            DraftRequest::Reapply {
                change: Some(change),
            } => session.reapply(change),
            DraftRequest::Retarget { change, to } => session.retarget(change, &to),
        })
    })
    .await
}

/// What is saved.
#[derive(Deserialize)]
#[serde(rename_all = "kebab-case")]
enum SaveRequest {
    /// Every change that is on.
    All,
    /// These changes.
    Changes(BTreeSet<u32>),
    /// The changes of these files.
    Files(BTreeSet<String>),
}

async fn save(
    State(shared): State<Arc<Shared>>,
    Json(asked): Json<SaveRequest>,
) -> Result<Response, Refusal> {
    let selection = match asked {
        SaveRequest::All => Selection::All,
        SaveRequest::Changes(numbers) => Selection::Edits(numbers),
        SaveRequest::Files(files) => Selection::Files(files),
    };
    write(shared, "save", move |workspace| {
        workspace.change(|mut session| session.save(&selection))
    })
    .await
}

async fn unsave(State(shared): State<Arc<Shared>>) -> Result<Response, Refusal> {
    write(shared, "unsave", |workspace| {
        workspace.change(|mut session| session.unsave())
    })
    .await
}
