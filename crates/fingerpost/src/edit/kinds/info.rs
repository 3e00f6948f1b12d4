//! What a person gives for each kind of change, as data: its parts, where it can be written, and a worked example.
//!
//! Help, the command's arguments, completions, `docs/edits.md`, and the samples of tests are made from it. Nothing here
//! is the syntax of a command.

pub use crate::field::{Field, Given, Holds};
pub(super) use crate::field::{flag, must_name, named, one_of, optional, required, several};

use super::Change;
use crate::edit::destination::{Destination, DestinationKind};
use crate::edit::error::EditError;
use crate::edit::intent::Intent;

/// A kind of change, as a person meets it.
#[derive(Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct KindInfo {
    /// Its name, as JSON has it: `change-property`.
    pub name: &'static str,
    /// What it does, in a line that begins with a verb.
    pub does: &'static str,
    /// What more there is to know; may be empty.
    pub more: &'static str,
    /// What it is about.
    pub about: About,
    /// Where it can be written.
    pub destinations: &'static [DestinationKind],
    /// Its parts, in the order in which they are given.
    pub fields: &'static [Field],
    /// A small text before and after it.
    pub example: Example,
    /// An intent on the demo theme, as JSON.
    pub demo: &'static str,
}

/// What a kind of change is about.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum About {
    /// An element; it must be named.
    Element,
    /// An element, and the root element where none is named.
    ElementOrRoot,
    /// An element where one is named; a rule may be named instead.
    MaybeElement,
    /// A rule that the change itself names.
    Rule,
    /// Pages: the one that is named, and others.
    Pages,
    /// The whole site.
    Site,
}

/// Every destination.
pub(super) const ANYWHERE: &[DestinationKind] = &[
    DestinationKind::Sources,
    DestinationKind::Winning,
    DestinationKind::Overrides,
    DestinationKind::Page,
    DestinationKind::Inline,
    DestinationKind::Rule,
    DestinationKind::File,
];

/// A declaration that is there.
pub(super) const DECLARATION: &[DestinationKind] = &[
    DestinationKind::Sources,
    DestinationKind::Winning,
    DestinationKind::Inline,
    DestinationKind::Rule,
];

/// A rule that the change itself names, in its source or in the sheet as the page loads it.
pub(super) const OWN_RULE: &[DestinationKind] =
    &[DestinationKind::Sources, DestinationKind::Winning];

/// A new rule.
pub(super) const NEW_RULE: &[DestinationKind] = &[
    DestinationKind::Sources,
    DestinationKind::Winning,
    DestinationKind::Overrides,
    DestinationKind::Page,
    DestinationKind::File,
];

/// A sheet.
pub(super) const SHEET: &[DestinationKind] = &[
    DestinationKind::Sources,
    DestinationKind::Overrides,
    DestinationKind::Page,
    DestinationKind::File,
];

/// A rule that may be new.
pub(super) const ADD: &[DestinationKind] = &[
    DestinationKind::Sources,
    DestinationKind::Overrides,
    DestinationKind::Page,
    DestinationKind::Inline,
    DestinationKind::Rule,
    DestinationKind::File,
];

/// Markup, which has one place.
pub(super) const MARKUP: &[DestinationKind] = &[DestinationKind::Sources];

/// A page before and after a change.
#[derive(Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Example {
    /// The page's source before, as `a.html`.
    pub before: &'static str,
    /// The element, where there is one.
    pub element: &'static str,
    /// The parts of the change, as JSON.
    pub change: &'static str,
    /// The page's source after.
    pub after: &'static str,
}

/// The property of a declaration.
pub(super) const PROPERTY: Field = required("property", "The property", Holds::Property);

/// A rule by its place.
pub(super) const RULE: Field = required("rule", "The rule, by its place", Holds::Place);

impl About {
    /// Whether an element is named in its place among the parts.
    pub fn names_element(self) -> bool {
        match self {
            About::Element | About::MaybeElement => true,
            About::ElementOrRoot | About::Rule | About::Pages | About::Site => false,
        }
    }

    /// Whether the change may be made on more pages than one.
    pub fn takes_pages(self) -> bool {
        match self {
            About::Element | About::MaybeElement | About::Pages => true,
            About::ElementOrRoot | About::Rule | About::Site => false,
        }
    }
}

impl KindInfo {
    /// Whether it can be written there.
    pub fn takes(&self, destination: &Destination) -> bool {
        self.destinations.contains(&destination.kind())
    }

    /// That it can't be written there, and where it can.
    pub(in crate::edit) fn refuses(&self, given: &Destination) -> EditError {
        EditError::DestinationNotTaken {
            kind: self.name,
            given: given.clone(),
            takes: self.destinations,
        }
    }

    /// A change of this kind from its parts.
    ///
    /// # Errors
    /// Where a part is missing, unknown or can't be read.
    pub fn change(&self, parts: serde_json::Value) -> Result<Change, serde_json::Error> {
        let mut all = serde_json::Map::new();
        all.insert(self.name.to_owned(), parts);
        serde_json::from_value(serde_json::Value::Object(all))
    }

    /// The example's intent, on the page `a.html`.
    ///
    /// # Panics
    /// Where the example's JSON is not a change of this kind, which a test excludes.
    pub fn sample(&self) -> Intent {
        let parts = serde_json::from_str(self.example.change).expect("an example is JSON");
        let change = self
            .change(parts)
            .expect("an example is a change of its kind");
        let mut intent = Intent::new("a.html", self.example.element, change);
        if self.example.element.is_empty() {
            intent.element = None;
        }
        intent
    }

    /// The intent on the demo theme.
    ///
    /// # Panics
    /// Where its JSON is not an intent, which a test excludes.
    pub fn on_demo(&self) -> Intent {
        serde_json::from_str(self.demo).expect("an example is an intent")
    }
}

impl Change {
    /// The kind of a change by its name.
    pub fn kind_named(name: &str) -> Option<&'static KindInfo> {
        Change::kinds()
            .iter()
            .copied()
            .find(|kind| kind.name == name)
    }

    /// One change of every kind, each with the page that it is made on, `a.html`.
    pub fn samples() -> impl Iterator<Item = (&'static str, Intent)> {
        Change::kinds()
            .iter()
            .map(|kind| (kind.example.before, kind.sample()))
    }
}
