//! The page origin: the site as its draft leaves it.

use std::sync::Arc;

use axum::Router;
use axum::body::Bytes;
use axum::extract::{DefaultBodyLimit, Query, State};
use axum::http::{HeaderMap, HeaderValue, Method, StatusCode, Uri, header};
use axum::response::{IntoResponse, Response};
use axum::routing::{any, get};
use fingerpost::environment::Environment;
use fingerpost::markup::Document;
use fingerpost::text::{SitePath, is_url};
use percent_encoding::percent_decode_str;
use serde::Deserialize;

use crate::events::FileKind;
use crate::shared::Shared;
use crate::{assets, assume, handles, passing};

pub(crate) fn routes() -> Router<Arc<Shared>> {
    Router::new()
        .route(
            handles::AGENT,
            get(|| async { assets::file("text/javascript", assets::AGENT) }),
        )
        .route("/.fingerpost/embedded", get(embedded))
        .route("/.fingerpost/media", get(query))
        .fallback(any(file))
        .layer(DefaultBodyLimit::max(LARGEST_BODY))
}

/// How a sheet is asked for while something is assumed.
#[derive(Deserialize)]
#[serde(rename_all = "kebab-case")]
pub(crate) struct Pretence {
    /// The environment.
    fingerpost_at: Option<String>,
    /// Whether elements are held in states.
    fingerpost_held: Option<String>,
    /// Whether the file is wanted as it is on disk, without the draft.
    pub fingerpost_before: Option<String>,
    /// Whether the last answer is wanted, without asking the server again.
    pub fingerpost_again: Option<String>,
}

impl Pretence {
    fn environment(&self) -> Option<Environment> {
        match self.fingerpost_at.as_deref() {
            Some("") => Some(Environment::default()),
            at => at?.parse().ok(),
        }
    }

    fn is_held(&self) -> bool {
        self.fingerpost_held.is_some()
    }
}

pub(crate) type Answer = Result<Response, (StatusCode, String)>;

pub(crate) fn missing(what: impl std::fmt::Display) -> (StatusCode, String) {
    (StatusCode::NOT_FOUND, format!("{what}\n"))
}

/// Runs what reads files apart from what serves.
async fn apart(work: impl FnOnce() -> Answer + Send + 'static) -> Answer {
    let done = tokio::task::spawn_blocking(work).await;
    done.unwrap_or_else(|_| {
        Err((
            StatusCode::INTERNAL_SERVER_ERROR,
            "the answer failed\n".into(),
        ))
    })
}

/// How large what a page sends to its server may be: a form with pictures in it.
const LARGEST_BODY: usize = 64 << 20;

async fn file(
    State(shared): State<Arc<Shared>>,
    Query(pretence): Query<Pretence>,
    method: Method,
    uri: Uri,
    headers: HeaderMap,
    body: Bytes,
) -> Answer {
    apart(move || {
        let asked = passing::Asked {
            method,
            uri: uri.clone(),
            headers,
            body: body.into(),
        };
        if !matches!(asked.method, Method::GET | Method::HEAD) {
            let sent = passing::sent(&shared, asked, &pretence);
            return sent.unwrap_or_else(|| {
                Err((
                    StatusCode::METHOD_NOT_ALLOWED,
                    "the site is a folder of files, which take nothing\n".to_owned(),
                ))
            });
        }
        let path = percent_decode_str(uri.path())
            .decode_utf8_lossy()
            .into_owned();
        // What begins with a dot is a program's own business, this one's too.
        if path.split('/').any(|part| part.starts_with('.')) || path.contains('\\') {
            return Err(missing(format!("{path} is not served")));
        }
        let workspace = shared.workspace();
        let found = workspace.site.file_of_url_path(uri.path());
        drop(workspace);
        match found {
            Some(file) => of_file(&shared, &file, &pretence),
            None => passing::got(&shared, asked, &pretence)
                .unwrap_or_else(|| Err(missing(format!("the site has no file for {path}")))),
        }
    })
    .await
}

fn of_file(shared: &Shared, file: &SitePath, pretence: &Pretence) -> Answer {
    let name = file.as_str();
    match FileKind::of(name) {
        FileKind::Page if name.contains('.') => page(shared, name, pretence),
        FileKind::Sheet => sheet(shared, name, pretence),
        _ => {
            let bytes = shared.workspace().site.bytes(file).map_err(missing)?;
            let kind = mime_guess::from_path(name).first_or_octet_stream();
            Ok(with_kind(kind.as_ref(), bytes))
        }
    }
}

pub(crate) fn page(shared: &Shared, name: &str, pretence: &Pretence) -> Answer {
    let workspace = shared.workspace();
    if pretence.fingerpost_before.is_some() {
        let saved = workspace.site.with_only(|_| false);
        let version = workspace.version();
        drop(workspace);
        let text = saved.file_text(name).map_err(missing)?;
        let html = handles::served(&Document::parse(text), shared.desk.to_string(), version);
        return Ok(with_kind("text/html; charset=utf-8", html.into_bytes()));
    }
    let page = workspace
        .page(name, &Environment::default())
        .map_err(missing)?;
    let version = workspace.version();
    drop(workspace);
    let html = handles::served(page.document(), shared.desk.to_string(), version);
    Ok(with_kind("text/html; charset=utf-8", html.into_bytes()))
}

pub(crate) fn sheet(shared: &Shared, name: &str, pretence: &Pretence) -> Answer {
    let workspace = shared.workspace();
    let text = match pretence.fingerpost_before {
        Some(_) => workspace.site.with_only(|_| false).file_text(name),
        None => workspace.site.file_text(name),
    };
    drop(workspace);
    let text = text.map_err(missing)?;
    let source = match pretence.environment() {
        Some(environment) => assume::as_assumed(&text, &environment, pretence.is_held()),
        None => text.source().to_owned(),
    };
    Ok(with_kind("text/css; charset=utf-8", source.into_bytes()))
}

/// An embedded sheet, by the handle of its element.
#[derive(Deserialize)]
struct Embedded {
    page: String,
    handle: u32,
    #[serde(default)]
    at: String,
    held: Option<String>,
}

async fn embedded(State(shared): State<Arc<Shared>>, Query(asked): Query<Embedded>) -> Answer {
    apart(move || {
        if is_url(&asked.page) && shared.settings.server.is_none() {
            return Err(missing("that page is not one of the site"));
        }
        let workspace = shared.workspace();
        let page = workspace
            .page(&asked.page, &Environment::default())
            .map_err(missing)?;
        drop(workspace);
        let document = page.document();
        let id = document.elements().get(asked.handle as usize);
        let text = id
            .filter(|id| document.element(**id).is_html("style"))
            .and_then(|id| document.text_of(document.children(*id).next()?))
            .ok_or_else(|| missing("no embedded sheet has that handle"))?;
        let environment = Pretence {
            fingerpost_at: Some(asked.at.clone()),
            fingerpost_held: asked.held.clone(),
            fingerpost_before: None,
            fingerpost_again: None,
        };
        let Some(assumed) = environment.environment() else {
            return Err(missing("this environment can't be read"));
        };
        let text = fingerpost::text::Text::new("embedded.css", text);
        let shown = assume::as_assumed(&text, &assumed, environment.is_held());
        Ok(with_kind("text/css; charset=utf-8", shown.into_bytes()))
    })
    .await
}

/// A media query, answered as assumed.
#[derive(Deserialize)]
struct MediaQuery {
    query: String,
    #[serde(default)]
    at: String,
}

async fn query(Query(asked): Query<MediaQuery>) -> Answer {
    let pretence = Pretence {
        fingerpost_at: Some(asked.at),
        fingerpost_held: None,
        fingerpost_before: None,
        fingerpost_again: None,
    };
    let Some(environment) = pretence.environment() else {
        return Err(missing("this environment can't be read"));
    };
    let shown = assume::assumed_query(&asked.query, &environment);
    Ok(with_kind("text/plain; charset=utf-8", shown.into_bytes()))
}

pub(crate) fn with_kind(kind: &str, body: Vec<u8>) -> Response {
    let kind =
        HeaderValue::from_str(kind).unwrap_or(HeaderValue::from_static("application/octet-stream"));
    ([(header::CONTENT_TYPE, kind)], body).into_response()
}
