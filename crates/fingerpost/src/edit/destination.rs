//! Where a change of a style is written. In text, as the command, scripts and the HTTP API have it: `winning`,
//! `sources`, `overrides`, `page`, `inline`, a sheet of the site, or a rule by its place.
//!
//! ```
//! use fingerpost::edit::Destination;
//!
//! for text in ["sources", "winning", "overrides", "page", "inline", "css/base.css", "css/base.css:12", "a.html:3:7"] {
//!     let destination: Destination = text.parse()?;
//!     assert_eq!(destination.to_string(), text);
//! }
//! assert!("somewhere".parse::<Destination>().is_err());
//! # Ok::<(), fingerpost::edit::DestinationError>(())
//! ```

use std::fmt;
use std::str::FromStr;

use serde::{Deserialize, Deserializer, Serialize, Serializer};
use thiserror::Error;

use crate::text::{Place, PlaceQuery, SitePath};

/// Where a change of a style is written: one destination, and no other.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
pub enum Destination {
    /// The declaration that wins now. Where its sheet is built, the source that its source map names, and the built
    /// sheet with it.
    #[default]
    Sources,
    /// The declaration that wins now, in the sheet that the page loads, even where that is built from other files.
    Winning,
    /// The site's override sheet, which `fingerpost.toml` names.
    Overrides,
    /// The page's last `<style>` element.
    Page,
    /// The element's `style` attribute.
    Inline,
    /// A rule or a declaration by its place.
    Rule(PlaceQuery),
    /// A sheet of the site.
    File(SitePath),
}

/// A destination without its names.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum DestinationKind {
    /// [`Destination::Sources`].
    Sources,
    /// [`Destination::Winning`].
    Winning,
    /// [`Destination::Overrides`].
    Overrides,
    /// [`Destination::Page`].
    Page,
    /// [`Destination::Inline`].
    Inline,
    /// [`Destination::Rule`].
    Rule,
    /// [`Destination::File`].
    File,
}

impl fmt::Display for DestinationKind {
    /// As help and errors name it.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            DestinationKind::Sources => "sources",
            DestinationKind::Winning => "winning",
            DestinationKind::Overrides => "overrides",
            DestinationKind::Page => "page",
            DestinationKind::Inline => "inline",
            DestinationKind::Rule => "a rule by its place",
            DestinationKind::File => "a sheet of the site",
        })
    }
}

impl Destination {
    /// The destination without its names.
    pub fn kind(&self) -> DestinationKind {
        match self {
            Destination::Sources => DestinationKind::Sources,
            Destination::Winning => DestinationKind::Winning,
            Destination::Overrides => DestinationKind::Overrides,
            Destination::Page => DestinationKind::Page,
            Destination::Inline => DestinationKind::Inline,
            Destination::Rule(_) => DestinationKind::Rule,
            Destination::File(_) => DestinationKind::File,
        }
    }
}

/// The text names no destination.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[error(
    "'{given}' is not a destination; expected winning, sources, overrides, page, inline, a sheet such as css/base.css, or \
     a rule's place such as css/base.css:12"
)]
#[non_exhaustive]
pub struct DestinationError {
    /// As given.
    pub given: String,
}

/// The destinations that are words.
const WORDS: [(&str, Destination); 5] = [
    ("sources", Destination::Sources),
    ("winning", Destination::Winning),
    ("overrides", Destination::Overrides),
    ("page", Destination::Page),
    ("inline", Destination::Inline),
];

impl From<PlaceQuery> for Destination {
    fn from(place: PlaceQuery) -> Self {
        Destination::Rule(place)
    }
}

impl From<Place> for Destination {
    fn from(place: Place) -> Self {
        Destination::Rule(place.into())
    }
}

impl From<&Place> for Destination {
    fn from(place: &Place) -> Self {
        Destination::Rule(place.into())
    }
}

impl FromStr for Destination {
    type Err = DestinationError;

    fn from_str(text: &str) -> Result<Destination, DestinationError> {
        if let Some((_, known)) = WORDS.iter().find(|(word, _)| *word == text) {
            return Ok(known.clone());
        }
        if let Ok(place) = text.parse() {
            return Ok(Destination::Rule(place));
        }
        let is_sheet = text.to_ascii_lowercase().ends_with(".css");
        match SitePath::new(text) {
            Ok(file) if is_sheet => Ok(Destination::File(file)),
            _ => Err(DestinationError {
                given: text.to_owned(),
            }),
        }
    }
}

impl fmt::Display for Destination {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Destination::Rule(place) => place.fmt(f),
            Destination::File(file) => f.write_str(file),
            word => {
                let known = WORDS.iter().find(|(_, known)| known == word);
                f.write_str(known.map_or("", |(text, _)| text))
            }
        }
    }
}

impl Serialize for Destination {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.collect_str(self)
    }
}

impl<'de> Deserialize<'de> for Destination {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Destination, D::Error> {
        let text = String::deserialize(deserializer)?;
        text.parse().map_err(serde::de::Error::custom)
    }
}

#[cfg(feature = "schemas")]
impl schemars::JsonSchema for Destination {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        "Destination".into()
    }

    fn json_schema(_: &mut schemars::SchemaGenerator) -> schemars::Schema {
        schemars::json_schema!({
            "type": "string",
            "description": "winning, sources, overrides, page, inline, a sheet of the site, or a rule's place: FILE:LINE or FILE:LINE:COLUMN"
        })
    }
}

impl Destination {
    /// Whether it is the one that is taken where none is named.
    pub(crate) fn is_default(&self) -> bool {
        *self == Destination::default()
    }

    /// Whether a rule of a sheet is written, rather than what is there changed.
    pub(super) fn is_sheet(&self) -> bool {
        matches!(
            self,
            Destination::Page | Destination::Overrides | Destination::File(_)
        )
    }

    /// What it is called in a sentence, where it is a sheet.
    pub(super) fn sheet_name(&self) -> Option<&str> {
        match self {
            Destination::Page => Some("the page's <style>"),
            Destination::Overrides => Some("the override sheet"),
            Destination::File(name) => Some(name),
            Destination::Sources
            | Destination::Winning
            | Destination::Rule(_)
            | Destination::Inline => None,
        }
    }
}
