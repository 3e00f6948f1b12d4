//! What names an element, as a person writes it.

use crate::markup::Document;
use crate::page::Target;
use crate::selector::{PseudoElement, SelectorList};
use crate::text::{Place, PlaceQuery};
use serde::{Deserialize, Serialize};

/// What to look for.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum ElementQuery {
    /// A selector list.
    Selector(String),
    /// `"…"`, in quotation marks: the innermost elements with that text in them.
    Text(String),
    /// `file:line` or `file:line:column`.
    Place(PlaceQuery),
    /// `38`: what begins on that line of the page.
    Line(u32),
    /// `@32`: the element of that number, as answers show it.
    Number(u32),
    /// `@32::before`: a pseudo-element of what is named in another way than by a selector, which has it itself.
    PseudoElement {
        /// The element.
        of: Box<ElementQuery>,
        /// Its pseudo-element.
        pseudo: PseudoElement,
    },
}

impl ElementQuery {
    /// The number that it names an element by.
    #[cfg(feature = "files")]
    pub(crate) fn number(&self) -> Option<u32> {
        match self {
            ElementQuery::Number(number) => Some(*number),
            ElementQuery::PseudoElement { of, .. } => of.number(),
            _ => None,
        }
    }

    /// The same with another number, where it has one.
    #[cfg(feature = "files")]
    pub(crate) fn with_number(self, number: u32) -> ElementQuery {
        match self {
            ElementQuery::Number(_) => ElementQuery::Number(number),
            ElementQuery::PseudoElement { of, pseudo } => ElementQuery::PseudoElement {
                of: Box::new(of.with_number(number)),
                pseudo,
            },
            other => other,
        }
    }

    /// How it was read; a pseudo-element as its element was.
    pub fn read_as(&self) -> ReadAs {
        match self {
            ElementQuery::Selector(_) => ReadAs::Selector,
            ElementQuery::Text(_) => ReadAs::Text,
            ElementQuery::Place(_) => ReadAs::Place,
            ElementQuery::Line(_) => ReadAs::Line,
            ElementQuery::Number(_) => ReadAs::Number,
            ElementQuery::PseudoElement { of, .. } => of.read_as(),
        }
    }

    /// Reads what to look for. What is nothing else is a selector.
    pub fn parse(text: &str) -> ElementQuery {
        for mark in ['"', '\''] {
            let inner = text.strip_prefix(mark).and_then(|t| t.strip_suffix(mark));
            if let Some(inner) = inner {
                return ElementQuery::Text(inner.to_owned());
            }
        }
        if let Some(query) = pseudo_element_of(text) {
            return query;
        }
        if let Some(number) = text.strip_prefix('@').and_then(|n| n.parse().ok()) {
            return ElementQuery::Number(number);
        }
        if let Ok(line) = text.parse() {
            return ElementQuery::Line(line);
        }
        if let Ok(place) = text.parse() {
            return ElementQuery::Place(place);
        }
        ElementQuery::Selector(text.to_owned())
    }

    /// What names an element, or a pseudo-element, of a document: `@32`, `@32::before`. It finds that one again as
    /// long as the document is the same.
    pub fn naming(document: &Document, target: &Target) -> ElementQuery {
        let number = ElementQuery::Number(document.element(target.element).index);
        match &target.pseudo {
            None => number,
            Some(pseudo) => ElementQuery::PseudoElement {
                of: Box::new(number),
                pseudo: pseudo.clone(),
            },
        }
    }

    /// What it is in a sentence: `'h2.today'`, `the text "Sailings today"`, `line 38`.
    pub fn in_words(&self) -> String {
        match self {
            ElementQuery::Selector(text) => format!("'{text}'"),
            ElementQuery::Text(_) => format!("the text {self}"),
            ElementQuery::Line(line) => format!("line {line}"),
            ElementQuery::Place(_) | ElementQuery::Number(_) => self.to_string(),
            ElementQuery::PseudoElement { of, pseudo } => format!("{pseudo} of {}", of.in_words()),
        }
    }
}

/// Reads a pseudo-element of something that is not a selector.
fn pseudo_element_of(text: &str) -> Option<ElementQuery> {
    let (of, name) = text.rsplit_once("::")?;
    let of = ElementQuery::parse(of);
    if matches!(of, ElementQuery::Selector(_)) {
        return None;
    }
    let list = SelectorList::parse(&format!("*::{name}")).ok()?;
    let [selector] = &list.selectors[..] else {
        return None;
    };
    Some(ElementQuery::PseudoElement {
        of: Box::new(of),
        pseudo: selector.pseudo_element.clone()?,
    })
}

impl From<&ElementQuery> for ElementQuery {
    fn from(query: &ElementQuery) -> Self {
        query.clone()
    }
}

impl From<PlaceQuery> for ElementQuery {
    fn from(place: PlaceQuery) -> Self {
        ElementQuery::Place(place)
    }
}

impl From<Place> for ElementQuery {
    fn from(place: Place) -> Self {
        ElementQuery::Place(place.into())
    }
}

impl From<&Place> for ElementQuery {
    fn from(place: &Place) -> Self {
        ElementQuery::Place(place.into())
    }
}

impl From<&str> for ElementQuery {
    fn from(text: &str) -> Self {
        ElementQuery::parse(text)
    }
}

impl std::str::FromStr for ElementQuery {
    type Err = std::convert::Infallible;

    fn from_str(text: &str) -> Result<Self, Self::Err> {
        Ok(ElementQuery::parse(text))
    }
}

impl Serialize for ElementQuery {
    fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.collect_str(self)
    }
}

impl<'de> Deserialize<'de> for ElementQuery {
    fn deserialize<D: serde::Deserializer<'de>>(deserializer: D) -> Result<ElementQuery, D::Error> {
        Ok(ElementQuery::parse(&String::deserialize(deserializer)?))
    }
}

#[cfg(feature = "schemas")]
impl schemars::JsonSchema for ElementQuery {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        "ElementQuery".into()
    }

    fn json_schema(_: &mut schemars::SchemaGenerator) -> schemars::Schema {
        schemars::json_schema!({
            "type": "string",
            "description": "A selector, a text in quotation marks, a place, a line of the page, or an element's number such as @12"
        })
    }
}

impl std::fmt::Display for ElementQuery {
    /// As [`ElementQuery::parse`] reads it.
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            ElementQuery::Selector(text) => f.write_str(text),
            ElementQuery::Text(text) => write!(f, "\"{text}\""),
            ElementQuery::Place(place) => place.fmt(f),
            ElementQuery::Line(line) => write!(f, "{line}"),
            ElementQuery::Number(number) => write!(f, "@{number}"),
            ElementQuery::PseudoElement { of, pseudo } => write!(f, "{of}{pseudo}"),
        }
    }
}

/// How a query for elements was read.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
#[non_exhaustive]
pub enum ReadAs {
    /// A selector list.
    Selector,
    /// A text of the page.
    Text,
    /// A place, `FILE:LINE` or `FILE:LINE:COLUMN`.
    Place,
    /// A line of the page.
    Line,
    /// An element's number, `@32`.
    Number,
}
