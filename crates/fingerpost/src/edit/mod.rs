//! Edits: what a person wants changed, turned into a [`Patch`] of one source text.
//!
//! One file each kind of edit. An edit decides nothing about files on disk: it takes a page, and
//! gives the file's name and the patch. The [`Draft`] holds the edits that are tried and not yet
//! saved.

mod attribute;
mod declaration;
mod draft;
mod set;
mod step;
mod weave;

pub use attribute::{AttributeError, attribute, class};
pub use declaration::{add, add_here, important, remove};
pub(crate) use draft::unified_diff;
pub use draft::{Base, DRAFT_VERSION, Draft, DraftError, Drafted, EditState, Step, Tried};
pub use set::{SetError, set};
pub use step::step;

use serde::{Deserialize, Serialize};

use crate::text::Patch;

/// What was asked for, in its own terms.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub enum Intent {
    /// The value of a property's winning declaration.
    Set {
        /// The page it was asked on.
        page: String,
        /// The element, as named then.
        element: String,
        /// The property.
        property: String,
        /// The value before.
        from: String,
        /// The value after.
        to: String,
    },
    /// A declaration more in a rule.
    Add {
        /// The page it was asked on.
        page: String,
        /// The rule's selectors.
        rule: String,
        /// The property.
        property: String,
        /// Its value.
        value: String,
    },
    /// A declaration more in an element's style attribute.
    AddHere {
        /// The page.
        page: String,
        /// The element, as named then.
        element: String,
        /// The property.
        property: String,
        /// Its value.
        value: String,
    },
    /// A property's winning declaration marked `!important`, or no longer.
    Important {
        /// The page it was asked on.
        page: String,
        /// The element, as named then.
        element: String,
        /// The property.
        property: String,
        /// Whether it is marked now.
        on: bool,
    },
    /// A property's winning declaration taken out.
    Remove {
        /// The page it was asked on.
        page: String,
        /// The element, as named then.
        element: String,
        /// The declaration as it was written.
        declaration: String,
    },
    /// An attribute set, or taken out.
    Attribute {
        /// The page.
        page: String,
        /// The elements, as named then.
        elements: Vec<String>,
        /// The attribute.
        name: String,
        /// Its value; none where it was taken out.
        value: Option<String>,
    },
    /// Classes added and taken out.
    Class {
        /// The page.
        page: String,
        /// The elements, as named then.
        elements: Vec<String>,
        /// `+name` and `-name`.
        changes: Vec<String>,
    },
}

/// One element by its name, several by their number.
fn counted(elements: &[String]) -> String {
    match elements {
        [one] => one.clone(),
        many => format!("{} elements", many.len()),
    }
}

impl std::fmt::Display for Intent {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Intent::Set {
                page,
                element,
                property,
                from,
                to,
            } => write!(f, "set {property} of {element} on {page}: {from} → {to}"),
            Intent::Add {
                rule,
                property,
                value,
                ..
            } => write!(f, "add {property}: {value} to {rule}"),
            Intent::AddHere {
                page,
                element,
                property,
                value,
            } => write!(f, "add {property}: {value} to {element} itself on {page}"),
            Intent::Important {
                page,
                element,
                property,
                on,
            } => {
                let what = if *on { "mark" } else { "take !important off" };
                write!(f, "{what} {property} of {element} on {page}")?;
                f.write_str(if *on { " !important" } else { "" })
            }
            Intent::Remove {
                page,
                element,
                declaration,
            } => write!(f, "remove {declaration} of {element} on {page}"),
            Intent::Attribute {
                page,
                elements,
                name,
                value: Some(value),
            } => write!(
                f,
                "set {name} of {} on {page} to '{value}'",
                counted(elements)
            ),
            Intent::Attribute {
                page,
                elements,
                name,
                value: None,
            } => write!(f, "take {name} off {} on {page}", counted(elements)),
            Intent::Class {
                page,
                elements,
                changes,
            } => write!(
                f,
                "class {} of {} on {page}",
                changes.join(" "),
                counted(elements)
            ),
        }
    }
}

/// One change of one file.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Edit {
    /// What was asked for.
    pub intent: Intent,
    /// The file that changes, relative to the site's root.
    pub file: String,
    /// The change, of the file's text after the edits before this one.
    pub patch: Patch,
}
