//! The environment that a page is looked at in, and the conditional rules that ask for them.
//!
//! Media queries follow Media Queries 4 and 5; `@supports` and `@container` follow Conditional
//! Rules 4 and 5. An answer is a [`Verdict`]: whether the condition holds, and the comparison that decided, in words.
//!
//! ```
//! use fingerpost::environment::{Environment, media};
//! use fingerpost::value::value_tokens;
//!
//! let narrow: Environment = "480x800; prefers-color-scheme=dark".parse()?;
//! let holds = |query: &str| media(query, &value_tokens(query), &narrow).holds();
//! assert!(!holds("(width > 600px)"));
//! assert!(holds("screen and (prefers-color-scheme: dark)"));
//! # Ok::<(), fingerpost::environment::EnvironmentError>(())
//! ```

mod container;
mod feature;
mod logic;
mod media;
mod supports;
mod theme;
mod written;

pub use container::{Axes, ContainerQuery, Containers, Size, container_queries};
pub use feature::{FeatureError, feature};
pub use media::media;
pub(crate) use media::{Asked, media_asks};
pub use supports::supports;
pub(crate) use theme::variants;
pub use theme::{MOST_WIDTHS, Variant};
pub use written::EnvironmentError;

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

/// The size of the viewport in CSS px.
#[derive(Clone, Copy, Debug, PartialEq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
pub struct Viewport {
    /// Its width.
    pub width: f64,
    /// Its height.
    pub height: f64,
}

/// The assumed environment.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
pub struct Environment {
    /// The viewport's size.
    pub viewport: Viewport,
    /// The media type: `screen` or `print`.
    pub media: String,
    /// Device pixels for each CSS px.
    pub resolution: f64,
    /// Values of discrete media features that differ from the usual ones, such as
    /// `prefers-color-scheme` → `dark`.
    pub features: BTreeMap<String, String>,
    /// The sizes of containers, each by a selector, in CSS px: what layout would know.
    pub container_sizes: Vec<(String, Viewport)>,
}

impl Default for Environment {
    /// A wide screen with a mouse, light, one device pixel for each CSS px.
    fn default() -> Self {
        Environment {
            viewport: Viewport {
                width: 1280.0,
                height: 800.0,
            },
            media: "screen".to_owned(),
            resolution: 1.0,
            features: BTreeMap::new(),
            container_sizes: Vec::new(),
        }
    }
}

impl Environment {
    /// What differs from the default environment, in words: `at 480x800`, `in print`.
    ///
    /// ```
    /// use fingerpost::environment::Environment;
    ///
    /// let print = Environment { media: "print".into(), ..Environment::default() };
    /// assert_eq!(print.differences().len(), 1);
    /// assert!(Environment::default().differences().is_empty());
    /// ```
    pub fn differences(&self) -> Vec<String> {
        let usual = Environment::default();
        let mut found = Vec::new();
        let Viewport { width, height } = self.viewport;
        if self.viewport != usual.viewport {
            found.push(format!("at {width}x{height}"));
        }
        if self.media != usual.media {
            found.push(format!("in {}", self.media));
        }
        let features = self.features.iter();
        found.extend(features.map(|(name, value)| format!("with {name}: {value}")));
        if self.resolution != usual.resolution {
            found.push(format!("at {} device pixels for each px", self.resolution));
        }
        let sizes = self.container_sizes.iter();
        found.extend(
            sizes.map(|(selector, size)| {
                format!("with {selector} at {}x{}", size.width, size.height)
            }),
        );
        found
    }

    /// Whether scripts run: the media feature `scripting` is not `none`.
    pub fn has_scripts(&self) -> bool {
        self.features
            .get("scripting")
            .is_none_or(|value| value != "none")
    }
}

/// Whether something holds. Media Queries 4 § 3.1: what no one understands is neither.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(rename_all = "lowercase")]
pub enum Truth {
    /// It holds.
    True,
    /// It does not.
    False,
    /// It can't be said; at the top of a condition that counts as false.
    Unknown,
    /// Only layout knows: a size of a container that no one gave.
    Undecided,
}

impl Truth {
    fn of(holds: bool) -> Truth {
        if holds { Truth::True } else { Truth::False }
    }

    fn not(self) -> Truth {
        match self {
            Truth::True => Truth::False,
            Truth::False => Truth::True,
            Truth::Unknown => Truth::Unknown,
            Truth::Undecided => Truth::Undecided,
        }
    }

    fn and(self, other: Truth) -> Truth {
        match (self, other) {
            (Truth::False, _) | (_, Truth::False) => Truth::False,
            (Truth::Undecided, _) | (_, Truth::Undecided) => Truth::Undecided,
            (Truth::Unknown, _) | (_, Truth::Unknown) => Truth::Unknown,
            _ => Truth::True,
        }
    }

    fn or(self, other: Truth) -> Truth {
        self.not().and(other.not()).not()
    }
}

/// Whether a condition holds, and why.
#[derive(Clone, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Verdict {
    /// Whether it holds.
    pub truth: Truth,
    /// The comparisons that were made, in words: `width is 1280px, not at most 600px`.
    pub because: Vec<String>,
}

impl Verdict {
    /// Whether it holds for sure.
    pub fn holds(&self) -> bool {
        self.truth == Truth::True
    }
}
