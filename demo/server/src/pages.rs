//! The pages and files of the site.

use std::path::{Path, PathBuf};

use axum::Router;
use axum::extract::{Path as UrlPath, State};
use axum::http::{StatusCode, header};
use axum::response::{Html, IntoResponse, Redirect, Response};
use axum::routing::get;
use minijinja::{Environment, path_loader};
use tower_http::compression::CompressionLayer;

pub(crate) fn router(root: PathBuf) -> Router {
    Router::new()
        .route("/", get(|state| page(state, UrlPath("home".to_owned()))))
        .route("/start", get(|| async { Redirect::permanent("/") }))
        .route(
            "/away",
            get(|| async { Redirect::permanent("http://elsewhere.example/") }),
        )
        .route("/{page}", get(page))
        .route("/assets/{*file}", get(asset))
        .with_state(root)
        .layer(CompressionLayer::new())
}

async fn page(State(root): State<PathBuf>, UrlPath(name): UrlPath<String>) -> Response {
    let template = format!("pages/{name}.html");
    let is_name = name.chars().all(|c| c.is_ascii_alphanumeric() || c == '-');
    if !is_name || !root.join("templates").join(&template).is_file() {
        return (StatusCode::NOT_FOUND, "There is no such page.").into_response();
    }
    match made(&root, &template, &name) {
        Ok(html) => Html(html).into_response(),
        Err(error) => (StatusCode::INTERNAL_SERVER_ERROR, error).into_response(),
    }
}

fn made(root: &Path, template: &str, name: &str) -> Result<String, String> {
    let mut environment = Environment::new();
    environment.set_loader(path_loader(root.join("templates")));
    environment.set_keep_trailing_newline(true);
    let data = root.join("data").join(format!("{name}.json"));
    let json = std::fs::read_to_string(data).unwrap_or_else(|_| "{}".to_owned());
    let values: serde_json::Value = serde_json::from_str(&json).map_err(|e| e.to_string())?;
    let template = environment
        .get_template(template)
        .map_err(|e| e.to_string())?;
    template.render(values).map_err(|e| e.to_string())
}

async fn asset(State(root): State<PathBuf>, UrlPath(file): UrlPath<String>) -> Response {
    let folder = root.join("theme/assets");
    let found = folder.join(&file).canonicalize().ok();
    let inside = folder.canonicalize().ok();
    let (Some(path), Some(folder)) = (found, inside) else {
        return StatusCode::NOT_FOUND.into_response();
    };
    if !path.starts_with(folder) {
        return StatusCode::NOT_FOUND.into_response();
    }
    let kind = match path.extension().and_then(|e| e.to_str()) {
        Some("css") => "text/css; charset=utf-8",
        Some("svg") => "image/svg+xml",
        _ => "application/octet-stream",
    };
    match std::fs::read(path) {
        Ok(bytes) => ([(header::CONTENT_TYPE, kind)], bytes).into_response(),
        Err(_) => StatusCode::NOT_FOUND.into_response(),
    }
}
