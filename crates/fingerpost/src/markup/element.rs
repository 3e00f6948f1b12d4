//! An element as the source has it.

use super::{Namespace, NodeId};
use crate::text::{Cut, TextRange, TextSize};
use html5ever::LocalName;
use serde::{Deserialize, Serialize};

/// Whether an element has its own start tag in the source.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(rename_all = "lowercase")]
pub enum Written {
    /// It has.
    Tag,
    /// The parser put it there because the standard asks for it: `html`, `head`, `body`, `tbody`,
    /// `tr`, `colgroup`, a lone `</p>`.
    Implied,
    /// The parser repeated a formatting element (`<b><p>…</b>`); its tag belongs to an earlier one.
    Repeated,
}

/// An attribute of an element.
#[derive(Clone, Debug)]
pub struct Attribute {
    /// The name as the tree has it (lower case in HTML).
    pub name: LocalName,
    /// Its namespace: none, but for a few names in foreign content.
    pub namespace: Namespace,
    /// The value, with character references resolved.
    pub value: Box<str>,
    /// Where the name stands.
    pub name_span: TextRange,
    /// Where the value stands, without its quotes; empty at the name's end where there is none.
    pub value_span: TextRange,
    /// The quote on both sides of the value, where it has quotes.
    pub quote: Option<char>,
}

impl Attribute {
    /// Whether the source has the value letter by letter, so that offsets in the value are offsets
    /// in the source.
    pub fn is_verbatim(&self, source: &str) -> bool {
        *source.cut(self.value_span) == *self.value
    }

    /// The whole attribute: from its name to its value, with the quotes.
    pub fn span(&self) -> TextRange {
        let end = self.value_span.end().max(self.name_span.end());
        let closing = TextSize::new(u32::from(self.quote.is_some()));
        TextRange::new(self.name_span.start(), end + closing)
    }

    /// Whether the name stands alone, without a value.
    pub fn is_bare(&self) -> bool {
        self.quote.is_none() && self.value_span == TextRange::empty(self.name_span.end())
    }
}

/// What an element is made of.
#[derive(Debug)]
#[non_exhaustive]
pub struct Element {
    /// The name as the tree has it (lower case in HTML, as adjusted in SVG).
    pub name: LocalName,
    /// Its namespace.
    pub namespace: Namespace,
    /// Its attributes in source order.
    pub attributes: Vec<Attribute>,
    /// Whether the source has its tag.
    pub written: Written,
    /// The start tag from `<` to `>`; for an implied element the empty span where the parser
    /// implied it; for a repeated one the tag it repeats.
    pub start_tag: TextRange,
    /// The end tag, where there is one.
    pub end_tag: Option<TextRange>,
    /// The `/` at the end of the start tag, where it has one.
    pub slash: Option<TextRange>,
    /// The number of the element in document order, from 0.
    pub index: u32,
    /// The contents of a `<template>`, which are no children of it.
    pub template_contents: Option<NodeId>,
    /// The shadow root that a `<template shadowrootmode>` attached to it.
    pub shadow_root: Option<NodeId>,
}

impl Element {
    /// The value of an attribute without a namespace.
    pub fn attribute(&self, name: &str) -> Option<&str> {
        self.attribute_node(name).map(|a| &*a.value)
    }

    /// An attribute without a namespace, with its spans.
    pub fn attribute_node(&self, name: &str) -> Option<&Attribute> {
        self.attributes
            .iter()
            .find(|a| a.namespace == Namespace::None && &*a.name == name)
    }

    /// The `id`, when it is not empty.
    pub fn id(&self) -> Option<&str> {
        self.attribute("id").filter(|id| !id.is_empty())
    }

    /// The classes in the order written.
    pub fn classes(&self) -> impl Iterator<Item = &str> {
        self.attribute("class")
            .unwrap_or("")
            .split_ascii_whitespace()
    }

    /// Whether this is an HTML element of that name.
    pub fn is_html(&self, name: &str) -> bool {
        self.namespace == Namespace::Html && &*self.name == name
    }
}
