//! A folder of files over HTTP, for the browser.

use std::path::{Path, PathBuf};
use std::sync::Arc;

use tiny_http::{Header, Response, Server};

/// Whether the pages of a folder may run scripts.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Scripts {
    /// They run.
    Run,
    /// None runs, and nothing comes from other servers: the sources on disk are the page.
    Forbidden,
}

/// Serves a folder until it is dropped.
pub struct Files {
    server: Arc<Server>,
    port: u16,
}

impl std::fmt::Debug for Files {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{}", self.url(""))
    }
}

impl Drop for Files {
    fn drop(&mut self) {
        self.server.unblock();
    }
}

impl Files {
    /// Begins to serve a folder on a free port of the loopback address.
    ///
    /// # Panics
    /// Where no port is free.
    pub fn of(root: &Path, scripts: Scripts) -> Files {
        let server = Arc::new(Server::http("127.0.0.1:0").expect("a free port"));
        let port = server.server_addr().to_ip().expect("an IP address").port();
        let root = root.to_owned();
        let listener = server.clone();
        std::thread::spawn(move || {
            for request in listener.incoming_requests() {
                let url = request.url().to_owned();
                let path = url.split(['?', '#']).next().unwrap_or("/");
                let _ = match read(&root, path) {
                    Some((bytes, kind)) => {
                        let mut response =
                            Response::from_data(bytes).with_header(header("Content-Type", kind));
                        if scripts == Scripts::Forbidden {
                            response.add_header(header("Content-Security-Policy", POLICY));
                        }
                        request.respond(response)
                    }
                    None => request.respond(Response::empty(404)),
                };
            }
        });
        Files { server, port }
    }

    /// The URL of a file.
    pub fn url(&self, name: &str) -> String {
        format!("http://127.0.0.1:{}/{name}", self.port)
    }
}

const POLICY: &str = "default-src 'self'; script-src 'none'; style-src 'self' 'unsafe-inline'; \
                      img-src 'self' data:";

fn header(name: &str, value: &str) -> Header {
    Header::from_bytes(name, value).expect("a header in ASCII")
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
