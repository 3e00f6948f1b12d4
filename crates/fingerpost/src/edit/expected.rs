//! What an edit means to do, in terms of what the texts say: the declarations, rules and elements
//! that go, come or change. [`crate::edit::check`] holds the patched texts against it.

use std::collections::HashSet;

use crate::markup::{Element, ElementId, start_tags};
use crate::page::SheetRef;
use crate::sheet::{DeclarationId, RuleId};

/// Which sheet a change of a style is made in.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub(super) enum InSheet {
    /// One of the page's, by its index among them.
    Listed(u32),
    /// The style attribute of an element.
    Attribute(ElementId),
    /// A sheet of the site that the page does not have, by its name.
    Other(String),
}

impl From<SheetRef> for InSheet {
    fn from(sheet: SheetRef) -> InSheet {
        match sheet {
            SheetRef::Listed(at) => InSheet::Listed(at),
            SheetRef::Attribute(element) | SheetRef::Hints(element) => InSheet::Attribute(element),
        }
    }
}

/// A change of a sheet.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub(super) enum StyleOp {
    /// A declaration has another value.
    Value(DeclarationId, String),
    /// A declaration is one of another property.
    Name(DeclarationId, String),
    /// A declaration is marked `!important`, or no longer.
    Important(DeclarationId, bool),
    /// A declaration is gone.
    Gone(DeclarationId),
    /// A declaration is new in a rule.
    New(RuleId, Declared),
    /// The selectors of a rule, or the condition of an at-rule, are others.
    Prelude(RuleId, String),
    /// A rule is gone, with all in it.
    RuleGone(RuleId),
    /// Rules are new in another one, or at the top: their source.
    Rules(Option<RuleId>, String),
}

/// A declaration that is to be there.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub(super) struct Declared {
    pub name: String,
    pub value: String,
    pub important: bool,
}

/// A start tag that is to be there.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Tag {
    pub name: String,
    /// By name.
    pub attributes: Vec<(String, String)>,
}

impl Tag {
    pub fn new(name: &str, mut attributes: Vec<(String, String)>) -> Tag {
        attributes.sort();
        Tag {
            name: name.to_owned(),
            attributes,
        }
    }

    /// The tag of an element.
    pub fn of(element: &Element) -> Tag {
        let attributes = element.attributes.iter();
        let attributes = attributes.map(|a| (a.name.to_string(), a.value.to_string()));
        Tag::new(&element.name, attributes.collect())
    }

    /// The start tags of a piece of markup, as they are written.
    pub fn all_in(markup: &str) -> Vec<Tag> {
        let tags = start_tags(markup).into_iter();
        tags.map(|(name, attributes)| Tag::new(&name, attributes))
            .collect()
    }

    /// The same tag with another value for an attribute, or without it.
    pub fn with(mut self, name: &str, value: Option<&str>) -> Tag {
        self.attributes.retain(|(known, _)| known != name);
        let new = value.map(|value| (name.to_owned(), value.to_owned()));
        self.attributes.extend(new);
        self.attributes.sort();
        self
    }
}

/// A change of a page's markup.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(super) struct MarkupOp {
    /// The elements whose tags change or go.
    pub gone: Vec<ElementId>,
    /// The tags that come, in source order.
    pub new: Vec<Tag>,
    /// The elements whose text becomes another.
    pub texts: Vec<(ElementId, String)>,
    /// Whether elements may stand elsewhere in the tree than before.
    pub reshapes: bool,
}

/// All that an edit means to do.
#[derive(Clone, Debug, Default)]
pub(super) struct Meant {
    pub styles: Vec<(InSheet, StyleOp)>,
    pub markup: MarkupOp,
}

impl Meant {
    pub fn style(sheet: impl Into<InSheet>, op: StyleOp) -> Meant {
        Meant {
            styles: vec![(sheet.into(), op)],
            ..Meant::default()
        }
    }

    pub fn styles(sheet: impl Into<InSheet>, ops: impl IntoIterator<Item = StyleOp>) -> Meant {
        let sheet = sheet.into();
        Meant {
            styles: ops.into_iter().map(|op| (sheet.clone(), op)).collect(),
            ..Meant::default()
        }
    }

    pub fn markup(markup: MarkupOp) -> Meant {
        Meant {
            markup,
            ..Meant::default()
        }
    }

    /// Each change of a style once: several elements may ask for the same change of one rule.
    pub fn once(&mut self) {
        let mut seen = HashSet::new();
        self.styles.retain(|change| seen.insert(change.clone()));
    }

    /// Both.
    pub fn join(&mut self, other: Meant) {
        self.styles.extend(other.styles);
        self.markup.gone.extend(other.markup.gone);
        self.markup.new.extend(other.markup.new);
        self.markup.texts.extend(other.markup.texts);
        self.markup.reshapes |= other.markup.reshapes;
    }
}
