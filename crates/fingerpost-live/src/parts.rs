//! The desk's page and its parts: what the answers look like there. Everything is rendered here, from the
//! same answers that the command prints; the modules in the browser only ask for parts and put them in.

use std::sync::Arc;

use axum::Router;
use axum::extract::{Query, State};
use axum::response::{Html, IntoResponse, Response};
use axum::routing::{get, post};
use fingerpost::impact::{draft, remedies};
use fingerpost::page::PropertyName;
use fingerpost::question::contrast::Painted;
use fingerpost::question::find::ElementQuery;
use fingerpost::question::whynot::Asked;
use fingerpost::text::Text;
use maud::Markup;
use serde::Deserialize;

use crate::refusal::{Refusal, apart};
use crate::shared::Shared;
use crate::subject::Subject;
use crate::view;

pub(crate) fn routes() -> Router<Arc<Shared>> {
    Router::new()
        .route("/", get(desk))
        .route("/part/search", get(search))
        .route("/part/outline", get(outline))
        .route("/part/element", get(element))
        .route("/part/why", get(why))
        .route("/part/made", post(made))
        .route("/part/contest", get(contest))
        .route("/part/contrast", get(contrast))
        .route("/part/whynot", get(why_not))
        .route("/part/space", get(space))
        .route("/part/sheets", get(sheets))
        .route("/part/try", get(trying))
        .route("/part/offers", get(offers))
        .route("/part/palette", get(palette))
        .route("/part/effect", get(effect))
        .route("/part/save", get(save))
}

/// A part of the page; a refusal is a sentence in its place.
type Part = Result<Html<String>, Response>;

async fn part(work: impl FnOnce() -> Result<Markup, Refusal> + Send + 'static) -> Part {
    match apart(move || work().map(Markup::into_string)).await {
        Ok(html) => Ok(Html(html)),
        Err(refusal) => {
            let shown = view::problem(&refusal.message).into_string();
            Err((refusal.status, Html(shown)).into_response())
        }
    }
}

async fn desk(State(shared): State<Arc<Shared>>, Query(subject): Query<Subject>) -> Part {
    part(move || {
        let workspace = shared.workspace();
        let site = &workspace.site;
        let shell = view::shell::Shell {
            name: site.config().name.clone(),
            pages: site.pages(),
            page: subject.page.clone().unwrap_or_else(|| shared.first.clone()),
            path: String::new(),
            page_origin: shared.page.to_string(),
            token: &shared.token,
            read_only: shared.settings.read_only,
        };
        let path = match &shared.settings.server {
            Some(_) => url::Url::parse(&shell.page).map_or(String::new(), |url| {
                url[url::Position::BeforePath..url::Position::AfterQuery].to_owned()
            }),
            None => site.url_path(&shell.page),
        };
        Ok(view::shell::shell(&view::shell::Shell { path, ..shell }))
    })
    .await
}

/// What is in the search box.
#[derive(Deserialize)]
struct Search {
    #[serde(default)]
    text: String,
    #[serde(flatten)]
    subject: Subject,
}

async fn search(State(shared): State<Arc<Shared>>, Query(asked): Query<Search>) -> Part {
    part(move || {
        let (page, _) = shared.workspace().asked(&asked.subject, &shared.first)?;
        Ok(view::find::results(&page, asked.text.trim()))
    })
    .await
}

async fn outline(State(shared): State<Arc<Shared>>, Query(subject): Query<Subject>) -> Part {
    part(move || {
        let (page, target) = shared.workspace().asked(&subject, &shared.first)?;
        Ok(view::find::outline(&page, target.element))
    })
    .await
}

/// The head of the column: the trail, and what the element is.
async fn element(State(shared): State<Arc<Shared>>, Query(subject): Query<Subject>) -> Part {
    part(move || {
        let (page, target) = shared.workspace().asked(&subject, &shared.first)?;
        Ok(view::find::trail(&page, &target))
    })
    .await
}

/// Which properties are shown.
#[derive(Deserialize)]
struct Properties {
    /// What is in their names or values.
    #[serde(default)]
    text: String,
    /// Whether those with their initial values are shown, too.
    all: Option<String>,
    /// Whether all variables are.
    variables: Option<String>,
    #[serde(flatten)]
    subject: Subject,
}

async fn why(State(shared): State<Arc<Shared>>, Query(asked): Query<Properties>) -> Part {
    part(move || {
        let (page, target) = shared.workspace().asked(&asked.subject, &shared.first)?;
        let filter = Some(asked.text.trim()).filter(|text| !text.is_empty());
        let shown = view::why::Shown {
            filter,
            initial: asked.all.is_some(),
            variables: asked.variables.is_some(),
        };
        Ok(view::why::properties(&page, &target, shown))
    })
    .await
}

/// The markup that the browser shows, for an element that a script made.
#[derive(Deserialize)]
struct MadePage {
    #[serde(flatten)]
    subject: Subject,
    /// The document's markup, with `data-fingerpost-asked` on the element.
    markup: String,
}

async fn made(State(shared): State<Arc<Shared>>, axum::Json(asked): axum::Json<MadePage>) -> Part {
    part(move || {
        let name = asked
            .subject
            .page
            .clone()
            .unwrap_or_else(|| shared.first.clone());
        let environment = asked.subject.environment()?;
        let shown = shared
            .workspace()
            .site
            .page_showing(Text::new(&name, asked.markup), environment)?;
        let what = ElementQuery::parse("[data-fingerpost-asked]");
        let target = shown.ask().find_one(&what).map_err(Refusal::not_found)?;
        Ok(view::why::of_script(&shown, &target))
    })
    .await
}

async fn contest(State(shared): State<Arc<Shared>>, Query(asked): Query<Search>) -> Part {
    part(move || {
        let property: PropertyName = asked.text.parse().map_err(Refusal::bad)?;
        let (page, target) = shared.workspace().asked(&asked.subject, &shared.first)?;
        let answer = page.ask().why(&target, &property);
        let workspace = shared.workspace();
        let controls = view::contest::Controls {
            page: &page,
            site: &workspace.site,
        };
        Ok(view::contest::contest(&answer, &controls))
    })
    .await
}

/// What the browser painted of a text.
#[derive(Deserialize)]
struct Seen {
    #[serde(flatten)]
    subject: Subject,
    /// [`PaintedText`] as JSON.
    painted: String,
}

#[derive(Deserialize)]
struct PaintedText {
    pairs: Vec<Painted>,
    /// What is after the text as well and has no color that could be read, by name.
    notes: Vec<String>,
}

async fn contrast(State(shared): State<Arc<Shared>>, Query(asked): Query<Seen>) -> Part {
    part(move || {
        let seen: PaintedText = serde_json::from_str(&asked.painted).map_err(Refusal::bad)?;
        let (page, target) = shared.workspace().asked(&asked.subject, &shared.first)?;
        let answer = page.ask().contrast(&target);
        let answer = answer.and_then(|answer| answer.as_painted(&seen.pairs));
        Ok(answer.map_or_else(Markup::default, |mut answer| {
            answer.not_counted = seen.notes;
            view::why::contrast_line(&answer)
        }))
    })
    .await
}

async fn why_not(State(shared): State<Arc<Shared>>, Query(asked): Query<Search>) -> Part {
    part(move || {
        let workspace = shared.workspace();
        let (page, target) = workspace.asked(&asked.subject, &shared.first)?;
        let site = workspace.site.with_only(|_| true);
        drop(workspace);
        let text = asked.text.trim();
        let element_states = asked.subject.element_states()?;
        let answer = remedies::tried(
            &site,
            &page,
            &target,
            &Asked::parse(text),
            text,
            &element_states,
        );
        Ok(view::whynot::answer(&answer.map_err(Refusal::bad)?))
    })
    .await
}

/// What the browser measured.
#[derive(Deserialize)]
struct Space {
    #[serde(flatten)]
    subject: Subject,
    /// [`view::space::Measured`] as JSON.
    measured: String,
}

async fn space(State(shared): State<Arc<Shared>>, Query(asked): Query<Space>) -> Part {
    part(move || {
        let measured: view::space::Measured =
            serde_json::from_str(&asked.measured).map_err(Refusal::bad)?;
        let (page, target) = shared.workspace().asked(&asked.subject, &shared.first)?;
        Ok(view::space::space(&page, &target, &measured))
    })
    .await
}

async fn sheets(State(shared): State<Arc<Shared>>, Query(subject): Query<Subject>) -> Part {
    part(move || {
        let workspace = shared.workspace();
        let (page, _) = workspace.asked(&subject, &shared.first)?;
        let site = workspace.site.with_only(|_| true);
        drop(workspace);
        let inventory = site.inventory();
        Ok(view::sheets::sheets(
            &page.ask().beside(&inventory).sheets(),
        ))
    })
    .await
}

async fn trying(State(shared): State<Arc<Shared>>, Query(subject): Query<Subject>) -> Part {
    part(move || {
        let workspace = shared.workspace();
        let (page, target) = workspace.asked(&subject, &shared.first)?;
        let overrides = workspace.site.override_sheet(&page);
        drop(workspace);
        Ok(view::trying::trying(
            &page,
            target.element,
            overrides.as_deref(),
        ))
    })
    .await
}

async fn offers(State(shared): State<Arc<Shared>>, Query(asked): Query<Search>) -> Part {
    part(move || {
        let (page, target) = shared.workspace().asked(&asked.subject, &shared.first)?;
        Ok(view::offers::offers(&page, &target, &asked.text))
    })
    .await
}

async fn palette(State(shared): State<Arc<Shared>>, Query(subject): Query<Subject>) -> Part {
    part(move || {
        let (page, target) = shared.workspace().asked(&subject, &shared.first)?;
        Ok(view::offers::palette(&page, &target))
    })
    .await
}

/// The edit whose effect is shown.
#[derive(Deserialize)]
struct EffectOf {
    edit: u32,
    #[serde(flatten)]
    subject: Subject,
}

async fn effect(State(shared): State<Arc<Shared>>, Query(asked): Query<EffectOf>) -> Part {
    part(move || {
        let site = shared.workspace().site.with_only(|_| true);
        let page = asked
            .subject
            .page
            .clone()
            .unwrap_or_else(|| shared.first.clone());
        let environment = asked.subject.environment()?;
        let effect = draft::effect_of_edit(&site, asked.edit, &page, &environment)?;
        Ok(effect.map_or_else(Markup::default, |effect| {
            view::effect::effect(&effect, &page)
        }))
    })
    .await
}

async fn save(State(shared): State<Arc<Shared>>) -> Part {
    part(move || {
        let site = shared.workspace().site.with_only(|_| true);
        let read_only = shared.settings.read_only;
        let carried = site.changed_files().to_vec();
        Ok(view::save::save(
            &draft::listed(&site)?,
            &carried,
            read_only,
        ))
    })
    .await
}
