//! HTML to a [`Document`]: an arena tree in which each node knows where it is in the source.
//!
//! The tree is the one the HTML standard's parsing algorithm gives, tag soup included: tokens come
//! from `html5gum` with byte spans, and `html5ever`'s tree construction decides what they build.
//! Our part is to remember, for each element, which start tag, attributes and end tag it came from,
//! or that the parser implied it or repeated it (see [`Written`]).
//!
//! A document is never changed. An edit patches the source text and parses again.
//!
//! ```
//! use fingerpost::markup::{Document, Written};
//! use fingerpost::text::Text;
//!
//! let document = Document::parse(Text::new("a.html", "<table><tr><td>Pier"));
//! let names: Vec<String> = document
//!     .elements()
//!     .iter()
//!     .map(|id| document.element(*id))
//!     .map(|element| match element.written {
//!         Written::Tag => element.name.to_string(),
//!         _ => format!("({})", element.name),
//!     })
//!     .collect();
//! assert_eq!(names.join(" "), "(html) (head) (body) table (tbody) tr td");
//! ```

mod content;
mod element;
mod pairs;
mod parse;
pub(crate) use parse::{is_void, start_tags};
mod sink;
mod walk;

pub use content::Content;
pub use element::{Attribute, Element, Written};
pub use pairs::Pairs;
pub use parse::DEEPEST_TREE;

use std::num::NonZeroU32;
use std::sync::atomic::{AtomicU32, Ordering};
use std::sync::{Arc, OnceLock};

use html5ever::{LocalName, local_name};
use rustc_hash::FxHashMap;

use crate::text::{Text, TextRange, TextSize};

/// A node of a [`Document`].
///
/// It knows its document: no other answers about it. [`Document::holds`] says whether one does, and
/// [`Document::carry`] follows an element into the next state of its page.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct NodeId {
    place: NonZeroU32,
    document: DocumentNumber,
}

/// Which of all documents of this program one is. Two states of a page are two documents.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
struct DocumentNumber(u32);

impl DocumentNumber {
    fn next() -> Self {
        static NEXT: AtomicU32 = AtomicU32::new(0);
        DocumentNumber(NEXT.fetch_add(1, Ordering::Relaxed))
    }
}

impl NodeId {
    fn new(document: DocumentNumber, index: usize) -> Self {
        let place = NonZeroU32::new(index as u32 + 1).expect("an index plus one is not zero");
        NodeId { place, document }
    }

    /// The node's index in the arena, from 0: a key for tables beside the tree.
    pub fn index(self) -> usize {
        self.place.get() as usize - 1
    }
}

/// A node of a [`Document`] that is an element.
///
/// Only a document makes these, of its own nodes, so that what it asks of one is always answered.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct ElementId(NodeId);

impl ElementId {
    /// The node's index in the arena, from 0: a key for tables beside the tree.
    pub fn index(self) -> usize {
        self.0.index()
    }
}

impl From<ElementId> for NodeId {
    fn from(id: ElementId) -> NodeId {
        id.0
    }
}

/// The namespace of an element or attribute.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Namespace {
    /// No namespace: where most attributes are.
    None,
    /// HTML.
    Html,
    /// SVG.
    Svg,
    /// MathML.
    MathMl,
    /// XLink, XML or XMLNS, of attributes in foreign content.
    Foreign,
}

/// What a node is.
#[derive(Debug)]
#[non_exhaustive]
pub enum NodeKind {
    /// The document itself, or the contents of a template.
    Root,
    /// `<!doctype …>`.
    Doctype,
    /// An element.
    Element(Box<Element>),
    /// Text.
    Text(Content),
    /// A comment, with its span from `<!--` to `-->`.
    Comment(TextRange),
}

/// A node and its neighbors.
#[derive(Debug)]
#[non_exhaustive]
pub struct Node {
    /// What it is.
    pub kind: NodeKind,
    /// Its parent; none for the document and for template contents.
    pub parent: Option<NodeId>,
    /// The sibling before it.
    pub previous: Option<NodeId>,
    /// The sibling after it.
    pub next: Option<NodeId>,
    /// Its first child.
    pub first_child: Option<NodeId>,
    /// Its last child.
    pub last_child: Option<NodeId>,
}

/// Something the parser met that a person should know.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct MarkupProblem {
    /// Where.
    pub span: TextRange,
    /// What, in a sentence.
    pub message: String,
}

/// A parsed page.
#[derive(Debug)]
pub struct Document {
    number: DocumentNumber,
    text: Arc<Text>,
    nodes: Vec<Node>,
    elements: Vec<ElementId>,
    shadow_roots: Vec<ShadowRoot>,
    quirks: bool,
    problems: Vec<MarkupProblem>,
    ignored: Vec<TextRange>,
    duplicates: Vec<Duplicate>,
    /// Where end tags begin, in order.
    end_tags: Vec<TextSize>,
    /// Whether scripts count as enabled: then what is in `<noscript>` is text.
    scripting: bool,
    /// Where elements stand among their siblings, by node; counted when it is asked for first.
    ranks: OnceLock<Vec<Ranks>>,
    /// The elements that bring sheets or say where they are; looked for when a person first asks.
    naming_sheets: OnceLock<Vec<ElementId>>,
}

/// Where an element stands among its siblings, from 1: among all, among those of its name, and both from
/// the end.
#[derive(Clone, Copy, Debug, Default)]
struct Ranks {
    child: u32,
    last_child: u32,
    of_type: u32,
    last_of_type: u32,
}

/// An attribute that its tag has already: it counts for nothing (HTML § 13.2.5.33).
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Duplicate {
    /// The start of the tag that it is in.
    pub tag: TextSize,
    /// Its name.
    pub name: LocalName,
    /// Where it stands, from its name to its value, with the quotes.
    pub span: TextRange,
}

/// A shadow tree that the markup declares: DOM § 4.8, HTML § 4.12.3.
#[derive(Clone, Copy, Debug)]
#[non_exhaustive]
pub struct ShadowRoot {
    /// Its root.
    pub root: NodeId,
    /// The element that it belongs to.
    pub host: ElementId,
}

impl Document {
    /// Parses a page. Every text is a page: there are no errors, only [`Document::problems`].
    ///
    /// ```
    /// use fingerpost::markup::Document;
    /// use fingerpost::text::Text;
    ///
    /// let document = Document::parse(Text::new("a.html", "<title>Skerry Line</title><p>Boats"));
    /// // What the tags leave out is there: html, head, title, body, p.
    /// assert_eq!(document.elements().len(), 5);
    /// ```
    pub fn parse(text: Arc<Text>) -> Self {
        parse::parse(text, true)
    }

    /// The same as a browser without scripts parses it: what is in `<noscript>` is markup.
    pub fn parse_without_scripts(text: Arc<Text>) -> Self {
        parse::parse(text, false)
    }

    /// Parses another text as this one was parsed.
    ///
    /// ```
    /// use fingerpost::markup::Document;
    /// use fingerpost::text::Text;
    ///
    /// let before = Document::parse(Text::new("a.html", "<p>Boats"));
    /// let after = before.reparse(Text::new("a.html", "<p>Ferries"));
    /// let p = *after.elements().last().unwrap();
    /// assert_eq!(after.folded_text(p, 20), "Ferries");
    /// ```
    pub fn reparse(&self, text: Arc<Text>) -> Self {
        parse::parse(text, self.scripting)
    }

    /// The source text.
    pub fn text(&self) -> &Arc<Text> {
        &self.text
    }

    /// The document node.
    pub fn root(&self) -> NodeId {
        NodeId::new(self.number, 0)
    }

    /// The `html` element. The parser always makes one.
    ///
    /// ```
    /// use fingerpost::markup::Document;
    /// use fingerpost::text::Text;
    ///
    /// let document = Document::parse(Text::new("a.html", "<html lang=en><p>Boats"));
    /// let root = document.element(document.root_element());
    /// assert_eq!(root.attribute("lang"), Some("en"));
    /// ```
    #[expect(clippy::indexing_slicing, reason = "the parser always makes one")]
    pub fn root_element(&self) -> ElementId {
        self.elements[0]
    }

    /// Whether a node is one of this document. Those of another state of the page are not.
    pub fn holds(&self, id: impl Into<NodeId>) -> bool {
        id.into().document == self.number
    }

    /// A node.
    ///
    /// # Panics
    /// Where the node is one of another document, as whatever is asked about a node does.
    #[expect(clippy::indexing_slicing, reason = "the ids are this tree's own")]
    pub fn node(&self, id: impl Into<NodeId>) -> &Node {
        let id = id.into();
        assert!(
            self.holds(id),
            "a node of another document, or of another state of this one; follow it with Document::carry"
        );
        &self.nodes[id.index()]
    }

    /// How many nodes the arena holds: the size of a table beside the tree.
    pub fn node_count(&self) -> usize {
        self.nodes.len()
    }

    /// All elements in document order, those of a shadow tree between their host and its own
    /// children; template contents are not among them.
    ///
    /// ```
    /// use fingerpost::markup::Document;
    /// use fingerpost::text::Text;
    ///
    /// let document = Document::parse(Text::new("a.html", "<p>Boats<p>Fares"));
    /// let paragraphs = document.elements().iter().filter(|e| document.element(**e).is_html("p"));
    /// assert_eq!(paragraphs.count(), 2);
    /// ```
    pub fn elements(&self) -> &[ElementId] {
        &self.elements
    }

    /// What an element is made of.
    ///
    /// ```
    /// use fingerpost::markup::Document;
    /// use fingerpost::text::Text;
    ///
    /// let document = Document::parse(Text::new("a.html", "<p class='late notice'>Boats"));
    /// let p = document.element(*document.elements().last().unwrap());
    /// assert_eq!(p.classes().collect::<Vec<_>>(), ["late", "notice"]);
    /// ```
    ///
    /// # Panics
    /// Where the element is one of another document.
    pub fn element(&self, id: ElementId) -> &Element {
        match &self.node(id).kind {
            NodeKind::Element(element) => element,
            _ => unreachable!("only nodes that are elements have such an id"),
        }
    }

    /// A node as an element, where it is one.
    pub fn as_element(&self, id: NodeId) -> Option<ElementId> {
        matches!(self.node(id).kind, NodeKind::Element(_)).then_some(ElementId(id))
    }

    /// Whether the page is in quirks mode (no doctype, or an old one).
    pub fn is_quirks(&self) -> bool {
        self.quirks
    }

    /// What the parser had to give up on.
    pub fn problems(&self) -> &[MarkupProblem] {
        &self.problems
    }

    /// The tags that made and closed nothing: a `<tr>` outside of a table, an end tag too many.
    ///
    /// ```
    /// use fingerpost::markup::Document;
    /// use fingerpost::text::Text;
    ///
    /// let document = Document::parse(Text::new("a.html", "<!doctype html><p>Boats</div>"));
    /// let ignored = document.ignored();
    /// assert_eq!(document.text().slice(ignored[0]), "</div>");
    /// ```
    pub fn ignored(&self) -> &[TextRange] {
        &self.ignored
    }

    /// Where end tags begin, in order, those that close nothing too.
    pub(crate) fn end_tags(&self) -> &[TextSize] {
        &self.end_tags
    }

    /// Whether an end tag begins at an offset, whatever it closes.
    pub fn is_end_tag(&self, offset: TextSize) -> bool {
        self.end_tags.binary_search(&offset).is_ok()
    }

    /// The comments, by their spans, in no particular order.
    ///
    /// ```
    /// use fingerpost::markup::Document;
    /// use fingerpost::text::Text;
    ///
    /// let document = Document::parse(Text::new("a.html", "<p>Boats<!-- daily -->"));
    /// let comments: Vec<_> = document.comments().map(|c| document.text().slice(c)).collect();
    /// assert_eq!(comments, ["<!-- daily -->"]);
    /// ```
    pub fn comments(&self) -> impl Iterator<Item = TextRange> {
        self.nodes.iter().filter_map(|node| match &node.kind {
            NodeKind::Comment(span) => Some(*span),
            _ => None,
        })
    }

    /// The attributes of an element's tag that are there already.
    pub fn duplicates_of(&self, id: ElementId) -> impl Iterator<Item = &Duplicate> {
        let start = self.element(id).start_tag.start();
        self.duplicates.iter().filter(move |d| d.tag == start)
    }

    /// The elements in the contents of templates, in document order: they are no part of the page's
    /// tree until a script puts them there.
    pub fn template_elements(&self) -> Vec<ElementId> {
        let mut found = Vec::new();
        let contents = |id: &ElementId| self.element(*id).template_contents;
        let mut open: Vec<NodeId> = self.elements.iter().filter_map(contents).collect();
        while let Some(root) = open.pop() {
            for id in self.descendant_elements(root) {
                found.push(id);
                open.extend(contents(&id));
            }
        }
        found.sort_by_key(|id| self.element(*id).start_tag.start());
        found
    }

    /// Whether tags or comments are in a span: the text there is not in one piece.
    pub fn holds_markup(&self, span: TextRange) -> bool {
        let inside = |other: TextRange| !other.is_empty() && span.contains_range(other);
        self.ignored.iter().any(|tag| inside(*tag))
            || self.nodes.iter().any(|node| match &node.kind {
                NodeKind::Element(element) => {
                    element.written == Written::Tag && inside(element.start_tag)
                        || element.end_tag.is_some_and(inside)
                }
                NodeKind::Comment(comment) => inside(*comment),
                _ => false,
            })
    }

    /// Whether an element is in the contents of a template.
    pub fn is_in_template(&self, id: impl Into<NodeId>) -> bool {
        let top = std::iter::successors(Some(id.into()), |at| self.node(*at).parent).last();
        top.is_some_and(|top| top != self.root() && self.host_of(top).is_none())
    }

    /// The elements that bring sheets or say where they are: links, embedded sheets and bases.
    pub(crate) fn naming_sheets(&self) -> &[ElementId] {
        self.naming_sheets.get_or_init(|| {
            let names = |id: &&ElementId| {
                let name = &self.element(**id).name;
                [
                    local_name!("link"),
                    local_name!("style"),
                    local_name!("base"),
                ]
                .contains(name)
            };
            self.elements().iter().filter(names).copied().collect()
        })
    }

    /// Where an element stands among its siblings, from 1: among all, or among those of its name; from the
    /// first on, or from the last.
    pub(crate) fn rank(&self, id: ElementId, of_type: bool, from_end: bool) -> u32 {
        let ranks = self.ranks.get_or_init(|| self.count_ranks());
        let ranks = ranks.get(id.index()).copied().unwrap_or_default();
        match (of_type, from_end) {
            (false, false) => ranks.child,
            (false, true) => ranks.last_child,
            (true, false) => ranks.of_type,
            (true, true) => ranks.last_of_type,
        }
    }

    fn count_ranks(&self) -> Vec<Ranks> {
        let mut all = vec![Ranks::default(); self.nodes.len()];
        // The children of one node: each with its name's index in `types`, and its rank among those of that name.
        let mut siblings: Vec<(NodeId, usize, u32)> = Vec::new();
        let mut types: FxHashMap<(&LocalName, Namespace), usize> = FxHashMap::default();
        let mut counts: Vec<u32> = Vec::new();
        for node in &self.nodes {
            let Some(first) = node.first_child else {
                continue;
            };
            siblings.clear();
            types.clear();
            counts.clear();
            for id in std::iter::successors(Some(first), |at| self.node(*at).next) {
                let NodeKind::Element(element) = &self.node(id).kind else {
                    continue;
                };
                let name = (&element.name, element.namespace);
                let of_name = *types.entry(name).or_insert(counts.len());
                let of_type = match counts.get_mut(of_name) {
                    Some(count) => {
                        *count += 1;
                        *count
                    }
                    None => {
                        counts.push(1);
                        1
                    }
                };
                siblings.push((id, of_name, of_type));
            }
            let count = siblings.len() as u32;
            for (child, (id, of_name, of_type)) in (1..).zip(&siblings) {
                if let (Some(ranks), Some(of_name)) =
                    (all.get_mut(id.index()), counts.get(*of_name))
                {
                    *ranks = Ranks {
                        child,
                        last_child: count + 1 - child,
                        of_type: *of_type,
                        last_of_type: of_name + 1 - of_type,
                    };
                }
            }
        }
        all
    }

    /// The text of a text node.
    pub fn text_of(&self, id: impl Into<NodeId>) -> Option<&str> {
        match &self.node(id).kind {
            NodeKind::Text(content) => Some(content.as_str(self.text.source())),
            _ => None,
        }
    }

    /// The text below a node, white space folded, cut after about `most` characters.
    /// What `<style>`, `<script>` and `<template>` hold is not text of the page.
    ///
    /// ```
    /// use fingerpost::markup::Document;
    /// use fingerpost::text::Text;
    ///
    /// let document = Document::parse(Text::new("a.html", "<p>Boats   to\n  Skerry</p>"));
    /// let p = *document.elements().last().unwrap();
    /// assert_eq!(document.folded_text(p, 80), "Boats to Skerry");
    /// ```
    pub fn folded_text(&self, id: impl Into<NodeId>, most: usize) -> String {
        let id = id.into();
        let mut out = String::new();
        let mut count = 0;
        let mut gap = false;
        for node in self.descendants(id) {
            let Some(text) = self.text_of(node) else {
                continue;
            };
            let hidden = self.parent_element(node).is_some_and(|p| {
                let parent = self.element(p);
                NodeId::from(p) != id && (parent.is_html("style") || parent.is_html("script"))
            });
            if hidden {
                continue;
            }
            for character in text.chars() {
                if character.is_ascii_whitespace() {
                    gap = !out.is_empty();
                    continue;
                }
                if count >= most {
                    out.push('…');
                    return out;
                }
                if std::mem::take(&mut gap) {
                    out.push(' ');
                    count += 1;
                }
                out.push(character);
                count += 1;
            }
        }
        out
    }

    /// The span of an element's source: start tag to end tag, or to the end of its content.
    ///
    /// ```
    /// use fingerpost::markup::Document;
    /// use fingerpost::text::Text;
    ///
    /// let document = Document::parse(Text::new("a.html", "<p>Boats</p> <p>Fares</p>"));
    /// let p = *document.elements().last().unwrap();
    /// assert_eq!(document.text().slice(document.element_span(p)), "<p>Fares</p>");
    /// ```
    pub fn element_span(&self, id: ElementId) -> TextRange {
        let element = self.element(id);
        let start = element.start_tag.start();
        let end = match element.end_tag {
            Some(end_tag) => end_tag.end(),
            None => self
                .descendants(id)
                .filter_map(|n| self.node_end(n))
                .fold(element.start_tag.end(), TextSize::max),
        };
        TextRange::new(start, end.max(start))
    }

    fn node_end(&self, id: NodeId) -> Option<TextSize> {
        match &self.node(id).kind {
            NodeKind::Element(element) => {
                let end = element.end_tag.unwrap_or(element.start_tag).end();
                (element.written == Written::Tag).then_some(end)
            }
            NodeKind::Text(content) => content.span().map(TextRange::end),
            NodeKind::Comment(span) => Some(span.end()),
            NodeKind::Root | NodeKind::Doctype => None,
        }
    }

    /// The innermost written element whose source holds an offset.
    ///
    /// ```
    /// use fingerpost::markup::Document;
    /// use fingerpost::text::Text;
    ///
    /// let document = Document::parse(Text::new("a.html", "<p>Boats</p><p>Fares</p>"));
    /// let offset = document.text().offset(1, 14).unwrap();
    /// let p = document.element_at(offset).unwrap();
    /// assert_eq!(document.folded_text(p, 20), "Fares");
    /// ```
    pub fn element_at(&self, offset: TextSize) -> Option<ElementId> {
        let mut best: Option<(TextSize, ElementId)> = None;
        for id in &self.elements {
            if self.element(*id).written != Written::Tag {
                continue;
            }
            let span = self.element_span(*id);
            if span.contains(offset) && best.is_none_or(|(length, _)| span.len() <= length) {
                best = Some((span.len(), *id));
            }
        }
        best.map(|(_, id)| id)
    }
}
