//! `fingerpost.toml`: what a site says of itself. The format is documented in `docs/config.md`.

use serde::Deserialize;

use std::path::Path;

use super::SiteError;
use super::root::Root;
use crate::question::codes::RoleKind;
use crate::text::{SitePath, SitePathError, plain_data};

/// The configuration file in the site's root.
pub const CONFIG_FILE: &str = "fingerpost.toml";

/// The version of the configuration file.
pub const CONFIG_VERSION: u32 = 2;

/// What `fingerpost.toml` says.
#[derive(Clone, Debug, Default, PartialEq, Eq, Deserialize)]
#[serde(deny_unknown_fields)]
#[non_exhaustive]
pub struct Config {
    /// The version of the file's format: 2, which it also is where the file does not say.
    #[serde(default = "this_version")]
    pub fingerpost: u32,
    /// What the site is called, for headings.
    pub name: Option<String>,
    /// The override sheet: the one that is loaded last and keeps one's own changes together.
    #[serde(rename = "override-sheet")]
    pub overrides: Option<SitePath>,
    /// Which folder serves which path.
    #[serde(default)]
    pub mount: Vec<Mount>,
    /// What files are, where that can't be told by looking at them.
    #[serde(default)]
    pub role: Vec<Role>,
    /// The templates that pages are made from, as patterns such as `templates/**/*.html`.
    #[serde(default)]
    pub templates: Vec<String>,
    /// A file of the site with headers for the server that makes the pages, one a line, such as those that a preview behind
    /// a login asks for.
    pub headers: Option<String>,
    /// The sizes of viewports at which one looks at the site, by name.
    #[serde(default)]
    pub size: Vec<NamedSize>,
}

/// What some files are.
#[derive(Clone, Debug, PartialEq, Eq, Deserialize)]
#[serde(deny_unknown_fields)]
#[non_exhaustive]
pub struct Role {
    /// Which files: a pattern as in `.gitignore`, such as `css/icons/*.css`.
    pub files: String,
    /// `authored`, `built`, `vendor` or another [`RoleKind`](crate::question::codes::RoleKind).
    pub is: String,
}

/// A size of the viewport, such as that of a ticket machine's screen.
#[derive(Clone, Debug, PartialEq, Eq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct NamedSize {
    /// What it is called.
    pub name: String,
    /// Its width in CSS px.
    pub width: u32,
    /// Its height in CSS px; that of the window without it.
    pub height: Option<u32>,
}

/// A path of the served site, and the folder that its files come from.
#[derive(Clone, Debug, PartialEq, Eq, Deserialize)]
#[serde(deny_unknown_fields)]
#[non_exhaustive]
pub struct Mount {
    /// The beginning of the URL's path, such as `/assets/`; a whole URL mounts only that server's.
    pub url: String,
    /// The folder.
    pub dir: Folder,
}

/// A folder of the site: its root, or one in it.
#[derive(Clone, Debug, Default, PartialEq, Eq, Deserialize)]
#[serde(try_from = "String")]
#[non_exhaustive]
pub struct Folder(Option<SitePath>);

impl Folder {
    /// The name of a file in it, by its path from there.
    ///
    /// # Errors
    /// Where that leads out of the site.
    pub fn file(&self, rest: &str) -> Result<SitePath, SitePathError> {
        match &self.0 {
            None => SitePath::new(rest),
            Some(folder) => SitePath::new(&format!("{folder}/{rest}")),
        }
    }

    /// The path from here of a file that is in it.
    pub fn rest<'a>(&self, file: &'a str) -> Option<&'a str> {
        match &self.0 {
            None => Some(file),
            Some(folder) => file.strip_prefix(folder.as_str())?.strip_prefix('/'),
        }
    }
}

impl TryFrom<String> for Folder {
    type Error = SitePathError;

    fn try_from(given: String) -> Result<Folder, SitePathError> {
        match given.trim_end_matches('/') {
            "" | "." => Ok(Folder(None)),
            folder => SitePath::new(folder).map(|path| Folder(Some(path))),
        }
    }
}

fn this_version() -> u32 {
    CONFIG_VERSION
}

pub(super) fn read_config(root: &Root) -> Result<Config, SiteError> {
    let path = &root.path().join(CONFIG_FILE);
    let text = match super::root::read_file(path, path) {
        Ok(bytes) => String::from_utf8(bytes).map_err(|_| SiteError::Config {
            path: path.clone(),
            line: 1,
            message: "it is not UTF-8 text; expected TOML".to_owned(),
        })?,
        Err(SiteError::Unreadable { source, .. })
            if source.kind() == std::io::ErrorKind::NotFound =>
        {
            return Ok(Config {
                fingerpost: CONFIG_VERSION,
                ..Config::default()
            });
        }
        Err(error) => return Err(error),
    };
    read_text(path, &text)
}

/// What the text of a configuration says; `path` is what it is called in errors.
pub(super) fn read_text(path: &Path, text: &str) -> Result<Config, SiteError> {
    let config: Config = toml::from_str(text).map_err(|error| SiteError::Config {
        path: path.to_owned(),
        line: error.span().map_or(1, |span| {
            let before = text.get(..span.start).unwrap_or(text);
            before.matches('\n').count() + 1
        }),
        message: plain_data(error.message()),
    })?;
    for role in &config.role {
        if let Err(unknown) = role.is.parse::<RoleKind>() {
            return Err(SiteError::Config {
                path: path.to_owned(),
                line: line_with(text, &role.is),
                message: format!("what a [[role]] is: {unknown}"),
            });
        }
    }
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

/// The first line that has a text in quotation marks.
fn line_with(text: &str, word: &str) -> usize {
    let is_there =
        |line: &str| line.contains(&format!("\"{word}\"")) || line.contains(&format!("'{word}'"));
    text.lines().position(is_there).map_or(1, |at| at + 1)
}
