//! Starting and stopping: two listeners, the watcher, and what all requests share.

use std::net::Ipv4Addr;
use std::sync::{Arc, Mutex};

use fingerpost::site::Site;
use thiserror::Error;
use tokio::net::TcpListener;
use tokio::runtime::Runtime;

use crate::events::Events;
use crate::shared::{Origin, Settings, Shared};
use crate::workspace::Workspace;
use crate::{api, assets, guard, pages, parts, watch, writes};

/// How many questions are worked on at a time; more would only wait for each other, and each thread keeps memory.
const MOST_AT_WORK: usize = 4;

/// Why a desk can't be started.
#[derive(Debug, Error)]
#[non_exhaustive]
pub enum StartError {
    /// No port is free, or the runtime can't be made.
    #[error("the desk can't listen on the loopback address: {}", fingerpost::text::plain_io(.0))]
    Listen(#[from] std::io::Error),
    /// No random number for the token.
    #[error("the system gives no random numbers for the desk's token")]
    Random,
    /// The site has no page.
    #[error("the site in {0} has no page to show; expected a file ending in .html in it")]
    NoPage(String),
}

/// A running desk. It stops when it is dropped.
#[derive(Debug)]
pub struct Desk {
    shared: Arc<Shared>,
    runtime: Option<Runtime>,
    _watcher: Option<notify::RecommendedWatcher>,
}

impl Desk {
    /// Starts a desk for a site.
    ///
    /// # Errors
    /// Where no port can be had, or the site has no page.
    pub fn start(site: Site, settings: Settings) -> Result<Desk, StartError> {
        let first = match &settings.page {
            Some(page) => page.clone(),
            None => first_page(&site)
                .ok_or_else(|| StartError::NoPage(site.root().display().to_string()))?,
        };
        let runtime = tokio::runtime::Builder::new_multi_thread()
            .worker_threads(2)
            .max_blocking_threads(MOST_AT_WORK)
            .enable_all()
            .build()?;
        let entered = runtime.enter();
        let (desk, page) = listeners(settings.port)?;
        drop(entered);
        let shared = Arc::new(Shared {
            desk: Origin::by_number(desk.local_addr()?),
            // Another name for the same address makes it another site to the browser, which gives it a
            // process of its own: what the page does takes no time from the desk.
            page: Origin::by_name(page.local_addr()?),
            token: token()?,
            events: Events::default(),
            first,
            settings,
            workspace: Mutex::new(Workspace::new(site)),
        });
        let watcher = watch::watch(&shared);
        let own = axum::Router::new()
            .merge(assets::routes())
            .merge(parts::routes())
            .merge(api::routes())
            .merge(writes::routes());
        let own = guard::around_desk(own.with_state(shared.clone()), &shared);
        let site = guard::around_pages(pages::routes().with_state(shared.clone()), &shared);
        runtime.spawn(async move { axum::serve(desk, own).await });
        runtime.spawn(async move { axum::serve(page, site).await });
        Ok(Desk {
            shared,
            runtime: Some(runtime),
            _watcher: watcher,
        })
    }

    /// The desk's address, for a browser.
    pub fn address(&self) -> String {
        format!("{}/", self.shared.desk)
    }

    /// The address under which the site's pages are shown.
    pub fn page_address(&self) -> String {
        format!("{}/", self.shared.page)
    }

    /// What a program must send as `Fingerpost-Token` with each write.
    pub fn token(&self) -> &str {
        &self.shared.token
    }

    /// Serves until the process is stopped.
    pub fn wait(&self) {
        loop {
            std::thread::park();
        }
    }
}

impl Drop for Desk {
    fn drop(&mut self) {
        if let Some(runtime) = self.runtime.take() {
            runtime.shutdown_background();
        }
    }
}

/// The page that a visitor of the site would see first, or the first there is.
fn first_page(site: &Site) -> Option<String> {
    let pages = site.pages();
    let stem = |page: &String, word: &str| {
        let name = page.rsplit('/').next().unwrap_or(page);
        name.strip_suffix(".html") == Some(word)
    };
    let named = |word: &str| pages.iter().find(|page| stem(page, word)).cloned();
    named("index")
        .or_else(|| named("home"))
        .or_else(|| pages.first().cloned())
}

/// Both listeners, for the runtime that is entered. Nothing waits here, so that a desk can be started from
/// within another runtime.
fn listeners(port: Option<u16>) -> std::io::Result<(TcpListener, TcpListener)> {
    let at = |port: u16| {
        let listener = std::net::TcpListener::bind((Ipv4Addr::LOCALHOST, port))?;
        listener.set_nonblocking(true)?;
        TcpListener::from_std(listener)
    };
    let desk = at(port.unwrap_or(0))?;
    let page = at(port.map_or(0, |port| port.saturating_add(1)))?;
    Ok((desk, page))
}

/// 256 random bits, in hexadecimal digits.
fn token() -> Result<String, StartError> {
    let mut bytes = [0u8; 32];
    getrandom::fill(&mut bytes).map_err(|_| StartError::Random)?;
    Ok(bytes.iter().map(|byte| format!("{byte:02x}")).collect())
}
