//! The names of a site's files.

use std::fmt;
use std::path::{Component, Path};

use serde::{Deserialize, Serialize};
use thiserror::Error;

/// The folder in a site's root in which the program keeps its own state.
pub const STATE_FOLDER: &str = ".fingerpost";

/// Whether a file is named by a URL: it is a page that a server makes, and no file of the site.
pub fn is_url(name: &str) -> bool {
    name.starts_with("http://") || name.starts_with("https://")
}

/// Where version control keeps what it runs and believes.
const VERSION_CONTROL: [&str; 3] = [".git", ".hg", ".svn"];

/// The name of a file of a site: relative to the site's root, with `/` between its parts.
///
/// It can only be made by [`SitePath::new`], also when it is read from a draft, a script or a journal:
/// it never is absolute, never climbs, and never names the program's own state or that of version
/// control. Whether a link leads out of the root is a question about the disk; whoever opens the file
/// asks it each time.
///
/// ```
/// use fingerpost::text::SitePath;
/// assert_eq!(SitePath::new("css//./a.css")?.as_str(), "css/a.css");
/// assert!(SitePath::new("../a.css").is_err());
/// assert!(SitePath::new("/etc/hosts").is_err());
/// # Ok::<(), fingerpost::text::SitePathError>(())
/// ```
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(try_from = "String", into = "String")]
pub struct SitePath(String);

/// Why a name is not that of a file of the site.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[non_exhaustive]
pub enum SitePathError {
    /// It names nothing.
    #[error("'{0}' names no file; expected one such as css/overrides.css")]
    Empty(String),
    /// It does not begin at the site's root.
    #[error("'{0}' is not relative to the site's root; expected a file such as css/overrides.css")]
    Absolute(String),
    /// It climbs out of the root, or could.
    #[error("'{0}' leads upwards; expected a file inside of the site, such as css/overrides.css")]
    Climbs(String),
    /// It holds a zero byte, or a part that this system does not take for a name.
    #[error("'{0}' can't be the name of a file here")]
    Odd(String),
    /// It is in a folder that is not the theme's.
    #[error("'{0}' is in a folder that does not belong to the theme: {1}")]
    NotTheThemes(String, &'static str),
}

impl SitePath {
    /// The name of a file; doubled slashes and `.` are left out.
    ///
    /// # Errors
    /// [`SitePathError`] where it is not the name of a file inside of the site.
    pub fn new(given: &str) -> Result<SitePath, SitePathError> {
        let name = || given.to_owned();
        if given.starts_with('/') || Path::new(given).is_absolute() {
            return Err(SitePathError::Absolute(name()));
        }
        let mut path = String::with_capacity(given.len());
        for part in given.split('/').filter(|part| !matches!(*part, "" | ".")) {
            if part == ".." {
                return Err(SitePathError::Climbs(name()));
            }
            // On some systems a part may hold a separator or a drive.
            let mut components = Path::new(part).components();
            let is_name = matches!(
                (components.next(), components.next()),
                (Some(Component::Normal(whole)), None) if whole == part
            );
            if !is_name || part.contains('\0') {
                return Err(SitePathError::Odd(name()));
            }
            let theirs = VERSION_CONTROL
                .into_iter()
                .find(|v| part.eq_ignore_ascii_case(v));
            if let Some(folder) = theirs {
                return Err(SitePathError::NotTheThemes(name(), folder));
            }
            if path.is_empty() && part.eq_ignore_ascii_case(STATE_FOLDER) {
                return Err(SitePathError::NotTheThemes(name(), STATE_FOLDER));
            }
            if !path.is_empty() {
                path.push('/');
            }
            path.push_str(part);
        }
        match path.is_empty() {
            true => Err(SitePathError::Empty(name())),
            false => Ok(SitePath(path)),
        }
    }

    /// The name.
    pub fn as_str(&self) -> &str {
        &self.0
    }
}

impl fmt::Display for SitePath {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.0)
    }
}

impl std::ops::Deref for SitePath {
    type Target = str;

    fn deref(&self) -> &str {
        &self.0
    }
}

impl AsRef<Path> for SitePath {
    fn as_ref(&self) -> &Path {
        Path::new(&self.0)
    }
}

impl std::str::FromStr for SitePath {
    type Err = SitePathError;

    fn from_str(given: &str) -> Result<SitePath, SitePathError> {
        SitePath::new(given)
    }
}

impl TryFrom<String> for SitePath {
    type Error = SitePathError;

    fn try_from(given: String) -> Result<SitePath, SitePathError> {
        SitePath::new(&given)
    }
}

impl From<SitePath> for String {
    fn from(path: SitePath) -> String {
        path.0
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_inside_of_the_site_are_taken_as_they_are() {
        for name in [
            "a.css",
            "css/a.css",
            "a b#c?d:e%20.css",
            "x\ty\\z.css",
            " a.css",
            "é/…",
        ] {
            assert_eq!(SitePath::new(name).unwrap().as_str(), name);
        }
        assert_eq!(
            SitePath::new("./css///a.css").unwrap().as_str(),
            "css/a.css"
        );
    }

    #[test]
    fn nothing_else_is() {
        let bad = [
            "",
            ".",
            "/",
            "/a.css",
            "..",
            "a/../../b.css",
            "../a.css",
            "css/..",
            "a\0b",
        ];
        for name in bad
            .into_iter()
            .chain([".git/hooks/x", "a/.GIT/config", ".fingerpost/lock"])
        {
            assert!(SitePath::new(name).is_err(), "{name:?}");
            let json = serde_json::to_string(name).unwrap();
            assert!(serde_json::from_str::<SitePath>(&json).is_err(), "{name:?}");
        }
    }
}
