//! What a server of pages needs to answer: the options `--header` and `--ca`, and the file that the configuration names.

use std::sync::OnceLock;

use fingerpost::site::Site;
use fingerpost_live::ServerAccess;

use crate::arguments::ServerOptions;
use crate::pager;
use crate::problem::{Problem, Result};
use crate::render::{self, painted};

static GIVEN: OnceLock<ServerOptions> = OnceLock::new();

/// The option whose value may be secret.
const HEADER: &str = "--header";

/// Keeps the options for whoever opens a site.
pub fn remember(options: &ServerOptions) {
    let _ = GIVEN.set(options.clone());
}

/// What servers of a site's pages need to answer.
pub fn access(site: &Site) -> Result<ServerAccess> {
    let mut access = ServerAccess::default();
    access.tell(|note| {
        pager::note(&format!("{} {note}", painted(render::BAD, "Note:")));
    });
    let refused = |error: fingerpost_live::AccessError| Problem::bad_use(error.to_string());
    if let Some(file) = &site.config().headers {
        access
            .add_headers_of(&site.private_file(file)?)
            .map_err(refused)?;
    }
    let Some(options) = GIVEN.get() else {
        return Ok(access);
    };
    for header in &options.headers {
        access.add_header(header).map_err(refused)?;
    }
    if let Some(file) = &options.authority {
        access.trust(file).map_err(refused)?;
    }
    Ok(access)
}

/// The words of a command line without what may be secret in them.
pub fn without_secrets(words: Vec<String>) -> Vec<String> {
    let mut kept = Vec::new();
    let mut words = words.into_iter();
    while let Some(word) = words.next() {
        if word == HEADER {
            words.next();
        } else if !word.starts_with(&format!("{HEADER}=")) {
            kept.push(word);
        }
    }
    kept
}
