//! What a person gives for each kind of change, as data: its parts, where it can be written, and a worked example.
//!
//! Help, the command's arguments, completions, `docs/edits.md`, and the samples of tests are made from it. Nothing here
//! is the syntax of a command.

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
#[non_exhaustive]
pub enum About {
    /// An element; it must be named.
    Element,
    /// An element, and the root element where none is named.
    ElementOrRoot,
    /// An element where one is named; a rule may be named instead.
    MaybeElement,
    /// A rule that the change itself names.
    Rule,
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

/// A part of a change.
#[derive(Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Field {
    /// Its name, as JSON has it.
    pub name: &'static str,
    /// What it is, in a line.
    pub what: &'static str,
    /// How it is given.
    pub given: Given,
    /// Its content.
    pub holds: Holds,
}

/// How a part of a change is given.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Given {
    /// It must be given.
    Required,
    /// It may be left out; it comes in its order.
    Optional,
    /// One or more of it, as a list.
    Several,
    /// It may be given by its name.
    Named,
    /// It must be given by its name.
    RequiredNamed,
    /// Exactly one of all parts that are given so, by its name.
    OneOf,
    /// It is there or not.
    Flag,
}

/// What a part of a change holds.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Holds {
    /// The name of a property.
    Property,
    /// A value of the property.
    Value,
    /// How much more or less.
    Step,
    /// Any text.
    Text,
    /// A name.
    Name,
    /// Markup.
    Markup,
    /// CSS.
    Css,
    /// A selector.
    Selector,
    /// A place, `FILE:LINE` or `FILE:LINE:COLUMN`.
    Place,
    /// An element.
    Element,
    /// `+name` or `-name`.
    ClassChange,
    /// A sheet of the site.
    Sheet,
    /// A side of an element.
    Side,
    /// One of these words.
    Choice(&'static [&'static str]),
    /// Nothing: it is a flag.
    Nothing,
}

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

const fn field(name: &'static str, what: &'static str, given: Given, holds: Holds) -> Field {
    Field {
        name,
        what,
        given,
        holds,
    }
}

/// A part that must be given.
pub(super) const fn required(name: &'static str, what: &'static str, holds: Holds) -> Field {
    field(name, what, Given::Required, holds)
}

/// A part that may be left out.
pub(super) const fn optional(name: &'static str, what: &'static str, holds: Holds) -> Field {
    field(name, what, Given::Optional, holds)
}

/// One part or more.
pub(super) const fn several(name: &'static str, what: &'static str, holds: Holds) -> Field {
    field(name, what, Given::Several, holds)
}

/// A part that may be given by its name.
pub(super) const fn named(name: &'static str, what: &'static str, holds: Holds) -> Field {
    field(name, what, Given::Named, holds)
}

/// A part that must be given by its name.
pub(super) const fn must_name(name: &'static str, what: &'static str, holds: Holds) -> Field {
    field(name, what, Given::RequiredNamed, holds)
}

/// One of several parts, by its name.
pub(super) const fn one_of(name: &'static str, what: &'static str, holds: Holds) -> Field {
    field(name, what, Given::OneOf, holds)
}

/// A part that is there or not.
pub(super) const fn flag(name: &'static str, what: &'static str) -> Field {
    field(name, what, Given::Flag, Holds::Nothing)
}

/// The property of a declaration.
pub(super) const PROPERTY: Field = required("property", "The property", Holds::Property);

/// A rule by its place.
pub(super) const RULE: Field = required("rule", "The rule, by its place", Holds::Place);

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
