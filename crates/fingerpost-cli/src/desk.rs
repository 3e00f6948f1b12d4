//! The desk: the live page in a browser.

use fingerpost::text::plain_io;
use std::io::Write;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use fingerpost::site::{Site, SiteError};
use fingerpost::text::is_url;
use fingerpost_live::{Desk, Settings, SiteServer};
use schemars::JsonSchema;
use serde::Serialize;

use crate::arguments::DeskArguments;
use crate::demo;
use crate::opened::{served_site, site_of};
use crate::problem::{Problem, Result};
use crate::reply::{Reply, to_json};

/// Where a desk is.
#[derive(JsonSchema, Serialize)]
pub struct DeskAnswer {
    /// The desk, for a browser.
    address: String,
    /// Where the site's pages are shown.
    pages: String,
    /// What a write through the API must bring as `Fingerpost-Token`.
    token: String,
}

/// Opens a desk, and serves it until the process is stopped.
pub fn desk(asked: &DeskArguments, folder: &Option<PathBuf>, json: bool) -> Result<Reply> {
    let (site, page, server) = opened(asked, folder.as_deref())?;
    let root = site.root().to_owned();
    let settings = Settings {
        page,
        read_only: asked.read_only,
        server,
        port: asked.port,
    };
    let desk = Desk::start(site, settings).map_err(|error| Problem::bad_use(error.to_string()))?;
    let text = match json {
        true => to_json(
            "desk",
            DeskAnswer {
                address: desk.address(),
                pages: desk.page_address(),
                token: desk.token().to_owned(),
            },
        ),
        false => format!(
            "The desk for {} is at\n{}\nStop it with Control+C. What you try is kept in the draft.\n",
            root.display(),
            desk.address()
        ),
    };
    // Whoever waits for the address waits for it now, and this command does not end by itself.
    let mut out = anstream::stdout();
    let written = out.write_all(text.as_bytes()).and_then(|()| out.flush());
    written.map_err(|error| {
        Problem::bad_use(format!(
            "the address can't be written: {}",
            plain_io(&error)
        ))
    })?;
    if !asked.no_open && open::that_detached(desk.address()).is_err() {
        crate::pager::note("no browser can be opened from here; open the address in one");
    }
    desk.wait();
    Ok(Reply::of(String::new()))
}

type Opened = (Site, Option<String>, Option<Arc<SiteServer>>);

fn opened(asked: &DeskArguments, folder: Option<&Path>) -> Result<Opened> {
    let here = folder.unwrap_or(Path::new("."));
    if asked.demo {
        let copy = demo::copy(None)?;
        return Ok((Site::of_folder(&copy)?, None, None));
    }
    let Some(place) = &asked.place else {
        return Ok((of_folder(here)?, None, None));
    };
    if let Some(url) = place.to_str().filter(|name| is_url(name)) {
        let (site, name, server) = served_site(url, here).map_err(|problem| {
            let message = match problem.code {
                "unfetchable" => format!("{}. Start the server first", problem.message),
                _ => problem.message,
            };
            Problem { message, ..problem }
        })?;
        return Ok((site, Some(name), Some(server)));
    }
    if place.is_dir() {
        return Ok((of_folder(place)?, None, None));
    }
    let (site, page) = site_of(place, here)?;
    Ok((site, Some(page), None))
}

/// The site of a folder; the folder itself where nothing says that it is one.
fn of_folder(folder: &Path) -> Result<Site> {
    match Site::of_folder(folder) {
        Err(SiteError::NoSite { .. }) => Ok(Site::at(folder)?),
        site => Ok(site?),
    }
}
