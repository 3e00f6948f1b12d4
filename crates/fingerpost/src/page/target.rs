//! What is asked about: an element or a pseudo-element of it, a property, a declaration.

use std::fmt;
use std::sync::Arc;

use crate::markup::NodeId;
use crate::selector::PseudoElement;
use crate::sheet::DeclarationId;
use crate::value::PropertyId;
use crate::value::declared;

/// An element, or a pseudo-element of it.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub struct Target {
    /// The element.
    pub element: NodeId,
    /// The pseudo-element.
    pub pseudo: Option<PseudoElement>,
}

impl From<NodeId> for Target {
    fn from(element: NodeId) -> Self {
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
    /// Reads a property's name; `None` for an unknown one.
    pub fn parse(name: &str) -> Option<PropertyName> {
        if name.starts_with("--") && name.len() > 2 {
            return Some(PropertyName::Custom(declared::unescaped(name).into()));
        }
        PropertyId::named(name).map(PropertyName::Known)
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

/// Which sheet a declaration stands in.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum SheetRef {
    /// One of the page's sheets, by its place.
    Listed(u32),
    /// The style attribute of an element.
    Attribute(NodeId),
    /// The presentational attributes of an element.
    Hints(NodeId),
}

/// A declaration of a page.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct DeclarationRef {
    /// The sheet.
    pub sheet: SheetRef,
    /// The declaration in it.
    pub id: DeclarationId,
}

/// Whether a property is that one of the standards.
pub(super) fn is(property: &PropertyName, id: PropertyId) -> bool {
    *property == PropertyName::Known(id)
}

/// A property of the standards by its name.
pub(super) const fn known(id: PropertyId) -> PropertyName {
    PropertyName::Known(id)
}
