//! `fingerpost.toml`: what a site says of itself. The format is documented in `docs/config.md`.

use std::path::Path;

use serde::Deserialize;

use super::SiteError;

/// The configuration file in the site's root.
pub const CONFIG_FILE: &str = "fingerpost.toml";

/// The version of the configuration file.
pub const CONFIG_VERSION: u32 = 1;

/// What `fingerpost.toml` says.
#[derive(Clone, Debug, Default, PartialEq, Eq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Config {
    /// The version of the file's format: 1.
    pub fingerpost: u32,
    /// What the site is called, for headings.
    pub name: Option<String>,
    /// The override sheet: the one that is loaded last and keeps one's own changes together.
    pub custom: Option<String>,
    /// Which folder serves which path.
    #[serde(default)]
    pub mount: Vec<Mount>,
    /// The templates that pages are made from, as patterns such as `templates/**/*.html`.
    #[serde(default)]
    pub templates: Vec<String>,
}

/// A path of the served site, and the folder that its files come from.
#[derive(Clone, Debug, PartialEq, Eq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Mount {
    /// The beginning of the URL's path, such as `/assets/`; a whole URL mounts only that server's.
    pub url: String,
    /// The folder, relative to the site's root.
    pub dir: String,
}

pub(super) fn read_config(path: &Path) -> Result<Config, SiteError> {
    let text = match std::fs::read_to_string(path) {
        Ok(text) => text,
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => {
            return Ok(Config {
                fingerpost: CONFIG_VERSION,
                ..Config::default()
            });
        }
        Err(source) => {
            return Err(SiteError::Unreadable {
                path: path.to_owned(),
                source,
            });
        }
    };
    let config: Config = toml::from_str(&text).map_err(|error| SiteError::Config {
        path: path.to_owned(),
        line: error.span().map_or(1, |span| {
            text[..span.start.min(text.len())].matches('\n').count() + 1
        }),
        message: error.message().to_owned(),
    })?;
    if config.fingerpost != CONFIG_VERSION {
        return Err(SiteError::Config {
            path: path.to_owned(),
            line: 1,
            message: format!(
                "it is of version {}, and this program reads version {CONFIG_VERSION}; expected \
                 fingerpost = {CONFIG_VERSION}",
                config.fingerpost
            ),
        });
    }
    Ok(config)
}
