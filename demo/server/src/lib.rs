//! A stand-in for the server of a site whose pages are made from templates.
//!
//! It serves the pages that `templates/pages/` has, each made from its template and from the data of
//! the same name in `data/`, and the files of `theme/assets/` under `/assets/`. Nothing is kept in
//! memory: what is saved is what the next request gets. It listens on the loopback address only.

use std::net::{Ipv4Addr, SocketAddr};
use std::path::{Path, PathBuf};

use axum::Router;
use axum::extract::{Path as UrlPath, State};
use axum::http::{StatusCode, header};
use axum::response::{Html, IntoResponse, Response};
use axum::routing::get;
use minijinja::{Environment, path_loader};

/// The site's server; it stops when this is dropped.
#[derive(Debug)]
pub struct Server {
    /// Where it listens.
    pub address: SocketAddr,
    stop: Option<tokio::sync::oneshot::Sender<()>>,
    thread: Option<std::thread::JoinHandle<()>>,
}

impl Server {
    /// Starts to serve the site in a folder; port 0 takes any that is free.
    ///
    /// # Errors
    /// Where the port is taken.
    pub fn start(root: &Path, port: u16) -> std::io::Result<Server> {
        let runtime = tokio::runtime::Builder::new_current_thread()
            .enable_all()
            .build()?;
        let address = SocketAddr::from((Ipv4Addr::LOCALHOST, port));
        let listener = runtime.block_on(tokio::net::TcpListener::bind(address))?;
        let address = listener.local_addr()?;
        let (stop, stopped) = tokio::sync::oneshot::channel();
        let pages = router(root.to_owned());
        let thread = std::thread::spawn(move || {
            let served = runtime.block_on(async {
                axum::serve(listener, pages)
                    .with_graceful_shutdown(async {
                        let _ = stopped.await;
                    })
                    .await
            });
            if let Err(error) = served {
                eprintln!("skerry-server: {error}");
            }
        });
        Ok(Server {
            address,
            stop: Some(stop),
            thread: Some(thread),
        })
    }

    /// The URL of a path.
    pub fn url(&self, path: &str) -> String {
        format!("http://{}{path}", self.address)
    }

    /// Serves until the process ends.
    pub fn wait(mut self) {
        if let Some(thread) = self.thread.take() {
            let _ = thread.join();
        }
    }
}

impl Drop for Server {
    fn drop(&mut self) {
        if let Some(stop) = self.stop.take() {
            let _ = stop.send(());
        }
        if let Some(thread) = self.thread.take() {
            let _ = thread.join();
        }
    }
}

fn router(root: PathBuf) -> Router {
    Router::new()
        .route("/", get(|state| page(state, UrlPath("home".to_owned()))))
        .route("/{page}", get(page))
        .route("/assets/{*file}", get(asset))
        .with_state(root)
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
