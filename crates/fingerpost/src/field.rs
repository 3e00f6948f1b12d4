//! What a person gives for a question or a change, part by part, as data.
//!
//! The command's arguments, help and completions, the HTTP API and documents are made from it. Nothing here is the
//! syntax of a command.

/// A part of a question or a change.
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

/// How a part is given.
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

/// What a part holds.
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
    /// A whole number.
    Number,
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

const fn field(name: &'static str, what: &'static str, given: Given, holds: Holds) -> Field {
    Field {
        name,
        what,
        given,
        holds,
    }
}

/// A part that must be given.
pub(crate) const fn required(name: &'static str, what: &'static str, holds: Holds) -> Field {
    field(name, what, Given::Required, holds)
}

/// A part that may be left out.
pub(crate) const fn optional(name: &'static str, what: &'static str, holds: Holds) -> Field {
    field(name, what, Given::Optional, holds)
}

/// One part or more.
pub(crate) const fn several(name: &'static str, what: &'static str, holds: Holds) -> Field {
    field(name, what, Given::Several, holds)
}

/// A part that may be given by its name.
pub(crate) const fn named(name: &'static str, what: &'static str, holds: Holds) -> Field {
    field(name, what, Given::Named, holds)
}

/// A part that must be given by its name.
pub(crate) const fn must_name(name: &'static str, what: &'static str, holds: Holds) -> Field {
    field(name, what, Given::RequiredNamed, holds)
}

/// One of several parts, by its name.
pub(crate) const fn one_of(name: &'static str, what: &'static str, holds: Holds) -> Field {
    field(name, what, Given::OneOf, holds)
}

/// A part that is there or not.
pub(crate) const fn flag(name: &'static str, what: &'static str) -> Field {
    field(name, what, Given::Flag, Holds::Nothing)
}
