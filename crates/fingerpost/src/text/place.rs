//! Places in files: [`Place`], as an answer names one, and [`PlaceQuery`], as a person or a program gives one.
//!
//! This is the only reader of `FILE:LINE` and `FILE:LINE:COLUMN`.

use std::cmp::Ordering;
use std::fmt;
use std::hash::{Hash, Hasher};
use std::str::FromStr;

use serde::{Deserialize, Deserializer, Serialize, Serializer};
use thiserror::Error;

/// A place in a file, for people and for editors.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Place {
    /// The file, relative to the site's root, with `/` between the parts.
    pub file: String,
    /// The line, from 1.
    pub line: u32,
    /// The column in Unicode code points, from 1.
    pub column: u32,
    /// Where its author wrote it, when a source map says that the file was made from others.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub authored: Option<Box<Place>>,
    #[serde(default, skip)]
    pub(crate) crowded: Crowded,
}

/// Whether several rules begin on the line of a place. It is for [`Place::brief`] alone: places are equal without it.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Crowded(pub bool);

impl PartialEq for Crowded {
    fn eq(&self, _: &Crowded) -> bool {
        true
    }
}

impl Eq for Crowded {}

impl PartialOrd for Crowded {
    fn partial_cmp(&self, other: &Crowded) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

impl Ord for Crowded {
    fn cmp(&self, _: &Crowded) -> Ordering {
        Ordering::Equal
    }
}

impl Hash for Crowded {
    fn hash<H: Hasher>(&self, _: &mut H) {}
}

impl Place {
    /// A place of a file: its line and its column in code points, both from 1.
    ///
    /// ```
    /// use fingerpost::text::Place;
    ///
    /// let place = Place::new("css/skerry.css", 242, 3);
    /// assert_eq!(place.to_string(), "css/skerry.css:242:3");
    /// assert_eq!("css/skerry.css:242:3".parse(), Ok(place));
    /// ```
    pub fn new(file: impl Into<String>, line: u32, column: u32) -> Place {
        Place {
            file: file.into(),
            line,
            column,
            authored: None,
            crowded: Crowded::default(),
        }
    }

    /// The place for a person: without its column, but where several rules begin on its line.
    ///
    /// ```
    /// use fingerpost::sheet::Sheet;
    /// use fingerpost::text::Text;
    ///
    /// let place = |css: &str| {
    ///     let text = Text::new("a.css", css);
    ///     let sheet = Sheet::parse(text.clone(), text.span());
    ///     sheet.place(0.into()).brief().to_string()
    /// };
    /// assert_eq!(place("p { top: 0 }"), "a.css:1");
    /// assert_eq!(place("p { top: 0 } a { top: 0 }"), "a.css:1:1");
    /// ```
    pub fn brief(&self) -> PlaceQuery {
        PlaceQuery {
            file: self.file.clone(),
            line: self.line,
            column: self.crowded.0.then_some(self.column),
        }
    }
}

impl fmt::Display for Place {
    /// Writes `FILE:LINE:COLUMN`.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}:{}:{}", self.file, self.line, self.column)
    }
}

impl FromStr for Place {
    type Err = PlaceError;

    /// Reads `FILE:LINE:COLUMN`; without a column it is the beginning of the line.
    fn from_str(text: &str) -> Result<Place, PlaceError> {
        let query: PlaceQuery = text.parse()?;
        Ok(Place::new(
            query.file,
            query.line,
            query.column.unwrap_or(1),
        ))
    }
}

/// A place as it is given: a line of a file, or a column of a line.
///
/// ```
/// use fingerpost::text::PlaceQuery;
///
/// let place: PlaceQuery = "css/skerry.css:242:3".parse()?;
/// assert_eq!((place.file.as_str(), place.line, place.column), ("css/skerry.css", 242, Some(3)));
/// assert_eq!(place.to_string(), "css/skerry.css:242:3");
/// assert!("css/skerry.css".parse::<PlaceQuery>().is_err());
/// # Ok::<(), fingerpost::text::PlaceError>(())
/// ```
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct PlaceQuery {
    /// The file, relative to the site's root.
    pub file: String,
    /// The line, from 1.
    pub line: u32,
    /// The column in Unicode code points, from 1; none where any place of the line is meant.
    pub column: Option<u32>,
}

/// The text names no place.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[error(
    "'{given}' is not a place; expected FILE:LINE or FILE:LINE:COLUMN, such as css/base.css:12"
)]
#[non_exhaustive]
pub struct PlaceError {
    /// As given.
    pub given: String,
}

impl FromStr for PlaceQuery {
    type Err = PlaceError;

    fn from_str(text: &str) -> Result<PlaceQuery, PlaceError> {
        let number = |text: &str| text.parse().ok().filter(|number: &u32| *number > 0);
        let read = || {
            let (head, last) = text.rsplit_once(':')?;
            let last = number(last)?;
            let inner = head.rsplit_once(':');
            let inner = inner.and_then(|(file, line)| Some((file, number(line)?)));
            let (file, line, column) = match inner {
                Some((file, line)) => (file, line, Some(last)),
                None => (head, last, None),
            };
            (!file.is_empty()).then(|| PlaceQuery {
                file: file.to_owned(),
                line,
                column,
            })
        };
        read().ok_or_else(|| PlaceError {
            given: text.to_owned(),
        })
    }
}

impl fmt::Display for PlaceQuery {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}:{}", self.file, self.line)?;
        match self.column {
            Some(column) => write!(f, ":{column}"),
            None => Ok(()),
        }
    }
}

impl From<&Place> for PlaceQuery {
    fn from(place: &Place) -> PlaceQuery {
        PlaceQuery {
            file: place.file.clone(),
            line: place.line,
            column: Some(place.column),
        }
    }
}

impl From<Place> for PlaceQuery {
    fn from(place: Place) -> PlaceQuery {
        PlaceQuery::from(&place)
    }
}

impl Serialize for PlaceQuery {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.collect_str(self)
    }
}

impl<'de> Deserialize<'de> for PlaceQuery {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<PlaceQuery, D::Error> {
        let text = String::deserialize(deserializer)?;
        text.parse().map_err(serde::de::Error::custom)
    }
}

#[cfg(feature = "schemas")]
impl schemars::JsonSchema for PlaceQuery {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        "PlaceQuery".into()
    }

    fn json_schema(_: &mut schemars::SchemaGenerator) -> schemars::Schema {
        schemars::json_schema!({
            "type": "string",
            "description": "FILE:LINE or FILE:LINE:COLUMN"
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn what_is_written_is_read(file in "[a-z./:@ -]{1,12}", line in 1u32.., column in prop::option::of(1u32..)) {
            // A file whose name ends as a line number does can only be named with a column.
            let ends_in_number = file.rsplit_once(':').is_some_and(|(_, end)| end.parse::<u32>().is_ok());
            prop_assume!(!ends_in_number);
            let place = PlaceQuery { file, line, column };
            prop_assert_eq!(place.to_string().parse(), Ok(place));
        }
    }

    proptest! {
        #[test]
        fn a_place_is_what_is_read_of_it(file in "[a-z./:@ -]{1,12}", line in 1u32.., column in 1u32..) {
            let place = Place::new(file, line, column);
            prop_assert_eq!(place.to_string().parse(), Ok(place));
        }
    }

    #[test]
    fn what_is_no_place_is_refused() {
        for text in ["", "a.css", ":4", "a.css:", "a.css:0", "a.css:x", "4"] {
            assert!(text.parse::<PlaceQuery>().is_err(), "{text}");
        }
    }
}
