//! A stand-in for the server of a site whose pages are made from templates.
//!
//! It serves the pages that `templates/pages/` has, each made from its template and from the data of
//! the same name in `data/`, and the files of `theme/assets/` under `/assets/`. Nothing is kept in
//! memory: what is saved is what the next request gets. It listens on the loopback address only.
//!
//! For previews that are not open to all it can ask for a login, and speak TLS with a certificate that
//! nobody signed.

mod login;
mod pages;

use std::net::{Ipv4Addr, SocketAddr};
use std::path::Path;

use axum_server::Handle;
use axum_server::tls_rustls::RustlsConfig;

pub use login::{PASSWORD, PREVIEW_HEADER};

/// How a server is started.
#[derive(Clone, Copy, Debug, Default)]
pub struct Options {
    /// The port; 0 takes any that is free.
    pub port: u16,
    /// Pages are shown only after a login, or with the header [`PREVIEW_HEADER`].
    pub login: bool,
    /// It speaks TLS.
    pub tls: bool,
}

/// The site's server; it stops when this is dropped.
#[derive(Debug)]
pub struct Server {
    /// Where it listens.
    pub address: SocketAddr,
    certificate: Option<String>,
    handle: Handle<SocketAddr>,
    thread: Option<std::thread::JoinHandle<()>>,
}

impl Server {
    /// Starts to serve the site in a folder.
    ///
    /// # Errors
    /// Where the port is taken.
    pub fn start(root: &Path, options: Options) -> std::io::Result<Server> {
        let address = SocketAddr::from((Ipv4Addr::LOCALHOST, options.port));
        let listener = std::net::TcpListener::bind(address)?;
        listener.set_nonblocking(true)?;
        let address = listener.local_addr()?;
        let runtime = tokio::runtime::Builder::new_current_thread()
            .enable_all()
            .build()?;
        let handle = Handle::new();
        let mut pages = pages::router(root.to_owned());
        if options.login {
            pages = login::asked_for(pages);
        }
        let service = pages.into_make_service();
        let (certificate, thread) = if options.tls {
            let (certificate, key) = self_signed()?;
            let pem = certificate.clone();
            let handle = handle.clone();
            let thread = std::thread::spawn(move || {
                let served = runtime.block_on(async {
                    let config = RustlsConfig::from_pem(pem.into_bytes(), key.into_bytes()).await?;
                    let server = axum_server::from_tcp_rustls(listener, config)?;
                    server.handle(handle).serve(service).await
                });
                told(served);
            });
            (Some(certificate), thread)
        } else {
            let handle = handle.clone();
            let thread = std::thread::spawn(move || {
                let served = runtime.block_on(async {
                    let server = axum_server::from_tcp(listener)?;
                    server.handle(handle).serve(service).await
                });
                told(served);
            });
            (None, thread)
        };
        Ok(Server {
            address,
            certificate,
            handle,
            thread: Some(thread),
        })
    }

    /// The URL of a path.
    #[must_use]
    pub fn url(&self, path: &str) -> String {
        let scheme = match self.certificate {
            Some(_) => "https",
            None => "http",
        };
        format!("{scheme}://{}{path}", self.address)
    }

    /// The certificate that it shows, as PEM.
    #[must_use]
    pub fn certificate(&self) -> Option<&str> {
        self.certificate.as_deref()
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
        self.handle.shutdown();
        if let Some(thread) = self.thread.take() {
            let _ = thread.join();
        }
    }
}

fn told(served: std::io::Result<()>) {
    if let Err(error) = served {
        eprintln!("skerry-server: {error}");
    }
}

/// A certificate for this machine and its key, as PEM.
fn self_signed() -> std::io::Result<(String, String)> {
    // Another one may have been chosen before.
    let _ = rustls::crypto::ring::default_provider().install_default();
    let names = ["localhost".to_owned(), "127.0.0.1".to_owned()];
    let made = rcgen::generate_simple_self_signed(names).map_err(std::io::Error::other)?;
    Ok((made.cert.pem(), made.signing_key.serialize_pem()))
}
