//! A folder of files over HTTP, for the browser.

use std::net::{Ipv4Addr, TcpListener};
use std::path::{Path, PathBuf};

use axum::Router;
use axum::http::{StatusCode, Uri, header};
use axum::response::{IntoResponse, Response};
use tokio::sync::oneshot;

/// Whether the pages of a folder may run scripts.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Scripts {
    /// They run.
    Run,
    /// None runs, and nothing comes from other servers: the sources on disk are the page.
    Forbidden,
}

/// Serves a folder until it is dropped.
#[derive(Debug)]
pub struct Files {
    port: u16,
    /// The server ends with this.
    _stop: oneshot::Sender<()>,
}

impl Files {
    /// Begins to serve a folder on a free port of the loopback address.
    ///
    /// # Panics
    /// Where no port is free.
    pub fn of(root: &Path, scripts: Scripts) -> Files {
        let listener = TcpListener::bind((Ipv4Addr::LOCALHOST, 0)).expect("a free port");
        let port = listener.local_addr().expect("it is bound").port();
        let root = root.to_owned();
        let pages = Router::new().fallback(move |uri: Uri| {
            let answer = answer(&root, uri.path(), scripts);
            async move { answer }
        });
        let (stop, stopped) = oneshot::channel::<()>();
        // It brings its own runtime, so that a test that waits for something else does not keep the browser waiting.
        std::thread::spawn(move || {
            let runtime = tokio::runtime::Builder::new_current_thread()
                .enable_all()
                .build()
                .expect("a runtime");
            runtime.block_on(async {
                listener.set_nonblocking(true).expect("a socket");
                let listener = tokio::net::TcpListener::from_std(listener).expect("a socket");
                tokio::select! {
                    _ = axum::serve(listener, pages) => {}
                    _ = stopped => {}
                }
            });
        });
        Files { port, _stop: stop }
    }

    /// The URL of a file.
    pub fn url(&self, name: &str) -> String {
        format!("http://127.0.0.1:{}/{name}", self.port)
    }
}

const POLICY: &str = "default-src 'self'; script-src 'none'; style-src 'self' 'unsafe-inline'; \
                      img-src 'self' data:";

fn answer(root: &Path, path: &str, scripts: Scripts) -> Response {
    let Some((bytes, kind)) = read(root, path) else {
        return StatusCode::NOT_FOUND.into_response();
    };
    let kind = [(header::CONTENT_TYPE, kind)];
    match scripts {
        Scripts::Run => (kind, bytes).into_response(),
        Scripts::Forbidden => {
            (kind, [(header::CONTENT_SECURITY_POLICY, POLICY)], bytes).into_response()
        }
    }
}

fn read(root: &Path, path: &str) -> Option<(Vec<u8>, &'static str)> {
    let file: PathBuf = root.join(path.trim_start_matches('/'));
    let kind = match file.extension()?.to_str()? {
        "html" => "text/html",
        "css" => "text/css",
        "js" => "text/javascript",
        "svg" => "image/svg+xml",
        _ => "application/octet-stream",
    };
    Some((std::fs::read(file).ok()?, kind))
}
