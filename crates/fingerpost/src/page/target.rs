//! What is asked about: an element or a pseudo-element of it, a property, a declaration.

use std::fmt;
use std::str::FromStr;
use std::sync::Arc;

use thiserror::Error;

use crate::markup::ElementId;
use crate::selector::PseudoElement;
use crate::sheet::DeclarationId;
use crate::value::PropertyId;
use crate::value::declared;

/// An element, or a pseudo-element of it.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub struct Target {
    /// The element.
    pub element: ElementId,
    /// The pseudo-element.
    pub pseudo: Option<PseudoElement>,
}

impl From<&Target> for Target {
    fn from(target: &Target) -> Self {
        target.clone()
    }
}

impl From<ElementId> for Target {
    fn from(element: ElementId) -> Self {
        Target {
            element,
            pseudo: None,
        }
    }
}

/// The name of a property: one of the standards, or a custom one.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub enum PropertyName {
    /// A property of the standards.
    Known(PropertyId),
    /// A custom property, with its dashes.
    Custom(Arc<str>),
}

impl PropertyName {
    /// The property of that name; none where no standard has it.
    pub fn named(name: &str) -> Option<PropertyName> {
        if name.starts_with("--") && name.len() > 2 {
            return Some(PropertyName::Custom(declared::unescaped(name).into()));
        }
        PropertyId::named(name).map(PropertyName::Known)
    }
}

impl From<PropertyId> for PropertyName {
    fn from(property: PropertyId) -> Self {
        PropertyName::Known(property)
    }
}

/// A name that no property has.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[error("no property is called '{name}'; {}", match .nearest {
    Some(near) => format!("do you mean '{near}'?"),
    None => "expected one of the standards, or a custom one such as --brand".to_owned(),
})]
#[non_exhaustive]
pub struct UnknownProperty {
    /// The name as it was given.
    pub name: String,
    /// The property with nearly that name.
    pub nearest: Option<&'static str>,
}

impl FromStr for PropertyName {
    type Err = UnknownProperty;

    /// As [`PropertyName::named`], with what may be meant where there is none.
    fn from_str(name: &str) -> Result<Self, UnknownProperty> {
        PropertyName::named(name).ok_or_else(|| UnknownProperty {
            name: name.to_owned(),
            nearest: PropertyId::nearest(name),
        })
    }
}

impl fmt::Display for PropertyName {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            PropertyName::Known(property) => f.write_str(property.name()),
            PropertyName::Custom(name) => f.write_str(name),
        }
    }
}

/// Which sheet a declaration is in.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum SheetRef {
    /// One of the page's sheets, by its index.
    Listed(u32),
    /// The style attribute of an element.
    Attribute(ElementId),
    /// The presentational attributes of an element.
    Hints(ElementId),
}

/// A declaration of a page.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct DeclarationRef {
    /// The sheet.
    pub sheet: SheetRef,
    /// The declaration in it.
    pub id: DeclarationId,
}

/// Whether a property is this one of the standards.
pub(super) fn is(property: &PropertyName, id: PropertyId) -> bool {
    *property == PropertyName::Known(id)
}

/// A property of the standards by its name.
pub(super) const fn known(id: PropertyId) -> PropertyName {
    PropertyName::Known(id)
}
