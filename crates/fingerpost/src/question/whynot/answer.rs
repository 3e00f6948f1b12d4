//! What `whynot` is asked, and what it answers.

use serde::{Deserialize, Serialize};
use thiserror::Error;

use super::Remedy;
use crate::page::PropertyName;
use crate::question::ElementSummary;
use crate::question::codes::ObstacleKind;
use crate::question::state_needed::StateNeeded;
use crate::selector::SelectorList;
use crate::text::Place;
use crate::text::PlaceQuery;
use crate::value::PropertyId;
use crate::value::declared::{self, Meaning};
use crate::value::substitution::value_tokens;

/// What is asked about.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Asked {
    /// A rule or a declaration by its place: `css/skerry.css:120`.
    Place(PlaceQuery),
    /// A selector.
    Selector(String),
    /// A declaration: `color: navy`.
    Declaration {
        /// The property as given.
        property: String,
        /// The value as given.
        value: String,
    },
}

impl Asked {
    /// Reads what is asked about. What begins with the name of a property and a colon is a
    /// declaration, what ends in a number after a colon a place, anything else a selector.
    pub fn parse(text: &str) -> Asked {
        let text = text.trim().trim_end_matches(';');
        if let Some((property, value)) = text.split_once(':') {
            let property = property.trim();
            let known = PropertyName::named(property).is_some()
                || (PropertyId::nearest(property).is_some() && value.starts_with(' '));
            if known && !value.trim().is_empty() && !value.starts_with(':') {
                return Asked::Declaration {
                    property: property.to_owned(),
                    value: value.trim().to_owned(),
                };
            }
        }
        // The colon is easily left out: `width 50%`. A name that is a tag too begins a selector.
        if let Some((property, value)) = text.split_once(|c: char| c.is_ascii_whitespace())
            && let Some(PropertyName::Known(id)) = PropertyName::named(property)
            && !is_tag_too(id)
            && !value.trim().is_empty()
        {
            let value = value.trim();
            let fits = matches!(
                declared::meaning(id, value, &value_tokens(value)),
                Meaning::Fits(_) | Meaning::Wide(_) | Meaning::Pending(_)
            );
            if fits || SelectorList::parse(text).is_err() {
                return Asked::Declaration {
                    property: property.to_owned(),
                    value: value.to_owned(),
                };
            }
        }
        if let Ok(place) = text.parse() {
            return Asked::Place(place);
        }
        Asked::Selector(text.to_owned())
    }
}

/// Whether a property has the name of an element of HTML or SVG.
fn is_tag_too(id: PropertyId) -> bool {
    const BOTH: [&str; 6] = ["content", "cursor", "filter", "font", "marker", "mask"];
    BOTH.contains(&id.name())
}

/// Why the question can't be answered.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[non_exhaustive]
pub enum WhyNotError {
    /// There is no such sheet in the site.
    #[error("no sheet of the site is called {file}; expected one such as {example}")]
    NoSuchSheet {
        /// As given.
        file: String,
        /// One that there is.
        example: String,
    },
    /// Nothing stands there.
    #[error("{file}:{line}: no rule is there; the file has {lines} lines")]
    NoRule {
        /// The file.
        file: String,
        /// The line.
        line: u32,
        /// How many lines it has.
        lines: u32,
    },
}

/// Why something does nothing for an element.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct WhyNotAnswer {
    /// The page.
    pub page: String,
    /// The element.
    pub element: ElementSummary,
    /// What was asked about, as given.
    pub asked: String,
    /// The answer in a sentence: the first obstacle, or that there is none.
    pub verdict: String,
    /// Whether it has its effect.
    pub holds: bool,
    /// The rules or declarations that the question is about, those with the fewest obstacles first.
    pub findings: Vec<Finding>,
    /// The others, each in a line.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub others: Vec<OtherFinding>,
    /// How many more there are.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub more: usize,
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "serde calls it so")]
fn is_zero(count: &usize) -> bool {
    *count == 0
}

/// A rule that the question is about as well, in short.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct OtherFinding {
    /// Its selector list.
    pub rule: Option<String>,
    /// Where it stands.
    pub place: Option<Place>,
    /// What is in the way first, or that nothing is.
    pub verdict: String,
}

impl OtherFinding {
    pub(super) fn new(finding: &Finding) -> OtherFinding {
        OtherFinding {
            rule: finding.rule.clone(),
            place: finding.place.clone(),
            verdict: finding.verdict(),
        }
    }
}

/// A rule or declaration that the question is about.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Finding {
    /// Its selector list, or `style attribute`; none where no rule says so.
    pub rule: Option<String>,
    /// Where it stands.
    pub place: Option<Place>,
    /// The obstacles, in the order in which to look for them.
    pub obstacles: Vec<Obstacle>,
    /// The declarations of it that have their effect.
    pub effective: Vec<String>,
    /// What would win, the best first.
    pub remedies: Vec<Remedy>,
    /// Whether its selector matches the element.
    #[serde(skip)]
    pub matches: bool,
}

impl Finding {
    pub(super) fn new(rule: Option<String>, place: Option<Place>) -> Finding {
        Finding {
            rule,
            place,
            obstacles: Vec::new(),
            effective: Vec::new(),
            remedies: Vec::new(),
            matches: false,
        }
    }

    /// What is in the way first, or that nothing is.
    pub(super) fn verdict(&self) -> String {
        match (self.obstacles.first(), &self.place) {
            (Some(obstacle), _) if self.effective.is_empty() => obstacle.sentence.clone(),
            (Some(obstacle), _) => {
                let not: Vec<&str> = self
                    .obstacles
                    .iter()
                    .filter_map(|o| o.declaration.as_deref())
                    .collect();
                let all = self.effective.len() + not.len();
                let works = match self.effective.len() {
                    1 => format!("1 of its {all} declarations has its effect"),
                    many => format!("{many} of its {all} declarations have their effect"),
                };
                format!("{works}; {}", obstacle.sentence)
            }
            (None, Some(place)) => format!("Nothing is in the way: it applies, from {place}"),
            (None, None) => "Nothing is in the way".to_owned(),
        }
    }
}

/// Something in the way.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Obstacle {
    /// What kind of thing.
    pub kind: ObstacleKind,
    /// The declaration it is about, where it is about one of several.
    pub declaration: Option<String>,
    /// What is in the way, in a sentence.
    pub sentence: String,
    /// Where it stands.
    pub place: Option<Place>,
    /// What helps against it, in short: the nearest selector that would match, what is allowed.
    pub hints: Vec<String>,
    /// The states in which it would not be in the way.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub states: Vec<StateNeeded>,
}

impl Obstacle {
    pub(super) fn new(kind: ObstacleKind, sentence: impl Into<String>) -> Obstacle {
        Obstacle {
            kind,
            declaration: None,
            sentence: sentence.into(),
            place: None,
            hints: Vec::new(),
            states: Vec::new(),
        }
    }

    pub(super) fn at(self, place: Place) -> Obstacle {
        Obstacle {
            place: Some(place),
            ..self
        }
    }

    /// Where the obstacle is in the list of things to look for.
    pub(super) fn step(&self) -> usize {
        self.kind as usize
    }
}
