//! Fetching pages that are URLs.

use fingerpost::text::plain_io;
use std::io::Read;
use std::time::Duration;

use fingerpost::site::{Fetch, Fetched};
use fingerpost::text::LARGEST_FILE;

/// How long a server may take for an answer.
const PATIENCE: Duration = Duration::from_secs(20);

/// Asks servers over HTTP.
pub fn fetch() -> Fetch {
    let agent: ureq::Agent = ureq::Agent::config_builder()
        .timeout_global(Some(PATIENCE))
        .user_agent("fingerpost")
        .build()
        .into();
    Fetch(Box::new(move |url| {
        let mut answer = agent.get(url).call().map_err(|error| match error {
            ureq::Error::StatusCode(status) => format!("the server answers with status {status}"),
            ureq::Error::Io(error) => plain_io(&error),
            other => other.to_string(),
        })?;
        let charset = answer.body().charset().map(str::to_owned);
        let mut bytes = Vec::new();
        let read = answer
            .body_mut()
            .as_reader()
            .take(LARGEST_FILE as u64 + 1)
            .read_to_end(&mut bytes);
        read.map_err(|error| error.to_string())?;
        Ok(Fetched::new(url, bytes, charset.as_deref()))
    }))
}
