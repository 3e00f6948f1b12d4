//! Intents: what a person asked for, in its own terms, so that it can be kept, repeated elsewhere
//! and aimed anew. [`super::make`] turns one into an [`Edit`](super::Edit).
//!
//! The JSON of an intent is documented in `docs/edits.md`: it stands in the draft file, and scripts
//! of edits are lists of them.

use serde::{Deserialize, Serialize};

/// What was asked for.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Intent {
    /// The page that it was asked on.
    pub page: String,
    /// The element, as a question names one: a selector, `text=…`, a place, `index=…`. Changes of
    /// rules need none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub element: Option<String>,
    /// Every element that is found, not just one.
    #[serde(default, skip_serializing_if = "is_false")]
    pub all: bool,
    /// Where a change of a style goes.
    #[serde(default, skip_serializing_if = "Destination::is_place")]
    pub into: Destination,
    /// What changes.
    pub change: Change,
}

fn is_false(value: &bool) -> bool {
    !value
}

/// Where a change of a style goes.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Destination {
    /// Where the declaration stands.
    #[default]
    Place,
    /// The page's last embedded sheet.
    Embedded,
    /// The site's override sheet, which `fingerpost.toml` names.
    Custom,
    /// A sheet of the page.
    Sheet(String),
}

impl Destination {
    fn is_place(&self) -> bool {
        *self == Destination::Place
    }
}

/// Where among a rule's or an element's neighbours something goes.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Side {
    /// Right before it.
    Before,
    /// Right after it.
    After,
    /// Inside, in front of what it holds.
    First,
    /// Inside, behind what it holds.
    Last,
}

/// What changes.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub enum Change {
    /// A property gets a value: in its winning declaration, in a rule, or in the style attribute.
    Set {
        /// The property.
        property: String,
        /// The value.
        value: String,
        /// A rule by its place, `FILE:LINE` or `FILE:LINE:COLUMN`.
        #[serde(default, rename = "in", skip_serializing_if = "Option::is_none")]
        rule: Option<String>,
        /// In the element's own style attribute.
        #[serde(default, skip_serializing_if = "is_false")]
        here: bool,
    },
    /// The number that a property is grows or shrinks, in its own unit.
    Step {
        /// The property.
        property: String,
        /// How much, such as `+1` or `-0.1`; `+`, `-`, `++` and `--` are steps that fit the unit.
        by: String,
    },
    /// A declaration more, behind those of a rule or of the style attribute.
    Add {
        /// The property.
        property: String,
        /// Its value.
        value: String,
        /// A rule by its place; the strongest that matches without it.
        #[serde(default, rename = "in", skip_serializing_if = "Option::is_none")]
        rule: Option<String>,
        /// In the element's own style attribute.
        #[serde(default, skip_serializing_if = "is_false")]
        here: bool,
    },
    /// The winning declaration is taken out.
    Remove {
        /// The property.
        property: String,
    },
    /// The winning declaration is made a comment.
    Off {
        /// The property.
        property: String,
    },
    /// A declaration that is a comment becomes one again.
    On {
        /// The property.
        property: String,
    },
    /// The winning declaration is one of another property.
    Rename {
        /// The property.
        property: String,
        /// The other one.
        to: String,
    },
    /// The winning declaration is marked `!important`, or no longer.
    Important {
        /// The property.
        property: String,
        /// Whether it is to be marked.
        on: bool,
    },
    /// The colours of the winning declaration are written in another notation.
    Notation {
        /// The property.
        property: String,
        /// `hex`, `rgb`, `hsl`, `hwb`, `lab`, `lch`, `oklab`, `oklch` or `name`.
        to: String,
        /// Another alpha, from 0 to 1.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        alpha: Option<String>,
    },
    /// A rule more.
    Rule {
        /// Its selectors; chosen for the element without them.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        selector: Option<String>,
        /// Its declarations, as in a sheet: `color: navy; top: 0`.
        declarations: String,
    },
    /// The selectors of a rule change.
    Selector {
        /// The rule, by its place.
        rule: String,
        /// How.
        #[serde(flatten)]
        how: SelectorChange,
    },
    /// A rule stands elsewhere.
    MoveRule {
        /// The rule, by its place.
        rule: String,
        /// Before or after.
        side: Side,
        /// The other rule, by its place.
        other: String,
    },
    /// A custom property gets a value where it is defined for the element.
    Variable {
        /// Its name, `--…`.
        name: String,
        /// The value.
        value: String,
    },
    /// An attribute is set, or taken off.
    Attribute {
        /// Its name.
        name: String,
        /// Its value; none to take it off.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        value: Option<String>,
    },
    /// Classes are added and taken off.
    Class {
        /// `+name` and `-name`.
        changes: Vec<String>,
    },
    /// The element's text is another.
    Text {
        /// The text.
        text: String,
        /// Which of its texts, where it holds elements too.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        from: Option<String>,
    },
    /// The element has another name.
    Tag {
        /// The name.
        name: String,
    },
    /// The element's source is another.
    Markup {
        /// The source.
        source: String,
        /// Only of what it holds, not of its own tags.
        #[serde(default, skip_serializing_if = "is_false")]
        inner: bool,
    },
    /// Markup is put beside or into the element.
    Insert {
        /// The source.
        source: String,
        /// Where.
        side: Side,
    },
    /// The element stands there twice.
    Duplicate,
    /// The element stands elsewhere.
    Move {
        /// Beside or in this element.
        to: String,
        /// Where.
        side: Side,
    },
    /// The element is taken out, with all that it holds.
    RemoveElement,
    /// The element is put into a new one.
    Wrap {
        /// The new one's start tag, or only its name.
        tag: String,
    },
    /// The element's tags are taken out; what it holds stays.
    Unwrap,
}

/// How a rule's selectors change.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum SelectorChange {
    /// Other ones.
    To(String),
    /// One more.
    Add(String),
    /// One less.
    Drop(String),
}

impl Intent {
    /// An intent for one element, in place.
    pub fn new(page: &str, element: &str, change: Change) -> Intent {
        Intent {
            page: page.to_owned(),
            element: Some(element.to_owned()),
            all: false,
            into: Destination::Place,
            change,
        }
    }
}

impl Change {
    /// A property gets a value in its winning declaration.
    pub fn set(property: &str, value: &str) -> Change {
        Change::Set {
            property: property.to_owned(),
            value: value.to_owned(),
            rule: None,
            here: false,
        }
    }

    /// A declaration more in the strongest rule that matches.
    pub fn add(property: &str, value: &str) -> Change {
        Change::Add {
            property: property.to_owned(),
            value: value.to_owned(),
            rule: None,
            here: false,
        }
    }
}
