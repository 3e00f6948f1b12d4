//! The tree that `html5ever`'s tree construction builds, and where each of its nodes came from.
//!
//! Convention: before a token is handed to the tree builder, [`Sink::begin`] says which source it
//! came from. Whatever the builder creates until the next token is then either the token's own
//! element (same name, first come), a repeated formatting element (same name and attributes as an
//! earlier tag), or implied.

#![expect(
    clippy::indexing_slicing,
    reason = "nodes are found by the ids that the tree gave out, attributes by places in their own list"
)]

use std::borrow::Cow;
use std::cell::{Cell, RefCell};
use std::rc::Rc;

use html5ever::interface::{ElementFlags, NodeOrText, QuirksMode, TreeSink};
use html5ever::tendril::StrTendril;
use html5ever::{LocalName, QualName, local_name, ns};

use super::{
    Attribute, Content, DocumentNumber, Element, Namespace, Node, NodeId, NodeKind, Written,
};
use crate::text::{Cut, TextRange, TextSize};

/// Where an attribute of a start tag stands: its name and its value.
#[derive(Clone, Copy, Debug)]
pub(super) struct AttributeSpans {
    pub name: TextRange,
    pub value: TextRange,
}

impl AttributeSpans {
    /// The quote before the value: what is there without quotes can't begin with one.
    pub fn quote(&self, source: &str) -> Option<char> {
        if self.value.start() <= self.name.end() {
            return None;
        }
        let before = source
            .cut(..usize::from(self.value.start()))
            .chars()
            .next_back();
        before.filter(|c| matches!(c, '"' | '\''))
    }

    /// From the name to the end of the value, with the quotes.
    pub fn whole(&self, source: &str) -> TextRange {
        let end = self.value.end().max(self.name.end());
        let closing = u32::from(self.quote(source).is_some());
        TextRange::new(self.name.start(), end + TextSize::new(closing))
    }
}

/// The source of the token that the tree builder works on.
#[derive(Debug)]
pub(super) enum Origin {
    StartTag {
        name: LocalName,
        span: TextRange,
        attributes: Vec<AttributeSpans>,
        self_closing: bool,
    },
    Text(TextRange),
    Other(TextRange),
}

impl Origin {
    fn span(&self) -> TextRange {
        match self {
            Origin::StartTag { span, .. } => *span,
            Origin::Text(span) | Origin::Other(span) => *span,
        }
    }
}

/// What the tree builder holds of a node. The name travels along because the builder asks for it
/// at every step.
#[derive(Clone)]
pub(super) struct Handle {
    pub id: NodeId,
    name: Rc<QualName>,
}

/// The tree under construction.
pub(super) struct Tree {
    pub number: DocumentNumber,
    pub nodes: Vec<Node>,
    pub quirks: bool,
}

pub(super) struct Sink<'a> {
    source: &'a str,
    pub tree: RefCell<Tree>,
    no_name: Rc<QualName>,
    origin: RefCell<Origin>,
    /// The element that is taken for the token's own. Before a formatting element of the same name
    /// is inserted, the parser may repeat earlier ones (`<a><p><a>`), so the last one created is it.
    claimed: Cell<Option<NodeId>>,
    /// What is left of the last text token.
    run: Cell<TextRange>,
    /// Formatting elements with their own tag, in order: what the parser may repeat.
    formatting: RefCell<Vec<NodeId>>,
    /// The element that was created last, for the depth limit.
    newest: Cell<Option<NodeId>>,
}

impl<'a> Sink<'a> {
    pub fn new(source: &'a str) -> Self {
        Sink {
            source,
            tree: RefCell::new(Tree {
                number: DocumentNumber::next(),
                nodes: vec![blank(NodeKind::Root)],
                quirks: false,
            }),
            no_name: Rc::new(QualName::new(None, ns!(), local_name!(""))),
            origin: RefCell::new(Origin::Other(TextRange::default())),
            claimed: Cell::new(None),
            run: Cell::default(),
            formatting: RefCell::default(),
            newest: Cell::new(None),
        }
    }

    /// Says which source the next token comes from.
    pub fn begin(&self, origin: Origin) {
        if let Origin::Text(run) = origin {
            self.run.set(run);
        }
        self.newest.set(None);
        self.claimed.set(None);
        *self.origin.borrow_mut() = origin;
    }

    /// The element that the token just handled created, if any.
    pub fn newest(&self) -> Option<NodeId> {
        self.newest.get()
    }

    /// Gives an end tag to the element that it closed. `closed` are the elements that it took off
    /// the stack of open elements, the outermost first; `body` and `html` stay on it to the end,
    /// and `head` is remembered beside it.
    pub fn end(&self, name: &LocalName, span: TextRange, closed: &[NodeId]) {
        let mut tree = self.tree.borrow_mut();
        let is_named = |tree: &Tree, id: NodeId| tree.element(id).name.eq_ignore_ascii_case(name);
        let once = [
            local_name!("body"),
            local_name!("head"),
            local_name!("html"),
        ];
        let found = if once.contains(name) {
            let nodes = 0..tree.nodes.len();
            let number = tree.number;
            nodes.map(|at| NodeId::new(number, at)).find(|id| {
                matches!(&tree.nodes[id.index()].kind, NodeKind::Element(e) if e.name == *name)
            })
        } else {
            closed.iter().copied().find(|id| is_named(&tree, *id))
        };
        if let Some(id) = found {
            tree.element_mut(id).end_tag.get_or_insert(span);
        }
    }

    fn handle(&self, id: NodeId) -> Handle {
        Handle {
            id,
            name: self.no_name.clone(),
        }
    }

    /// The earlier written element that a repeated formatting element copies.
    fn repeated(&self, name: &LocalName, attributes: &[html5ever::Attribute]) -> Option<NodeId> {
        let same = |at: usize, mine: &Attribute| {
            let theirs = &attributes[at];
            mine.name == theirs.name.local && *mine.value == *theirs.value
        };
        self.original(&self.tree.borrow(), name, attributes.len(), same)
    }

    /// The latest formatting element of that name with as many attributes, all of them the same.
    fn original(
        &self,
        tree: &Tree,
        name: &LocalName,
        count: usize,
        same: impl Fn(usize, &Attribute) -> bool,
    ) -> Option<NodeId> {
        let formatting = self.formatting.borrow();
        formatting.iter().rev().copied().find(|id| {
            let element = tree.element(*id);
            let mut attributes = element.attributes.iter().enumerate();
            element.name == *name
                && element.attributes.len() == count
                && attributes.all(|(at, attribute)| same(at, attribute))
        })
    }

    /// Takes the token's tag from an element that turned out to be a repeated one.
    fn disown(&self, id: NodeId) {
        self.formatting.borrow_mut().retain(|f| *f != id);
        let nowhere = TextRange::empty(self.origin.borrow().span().start());
        let mut tree = self.tree.borrow_mut();
        let copy = tree.element(id);
        let same = |at: usize, mine: &Attribute| {
            let theirs = &copy.attributes[at];
            mine.name == theirs.name && mine.value == theirs.value
        };
        let repeated = self.original(&tree, &copy.name, copy.attributes.len(), same);
        let (written, start_tag, attributes) = match repeated {
            Some(original) => {
                let original = tree.element(original);
                (
                    Written::Repeated,
                    original.start_tag,
                    original.attributes.clone(),
                )
            }
            None => (Written::Implied, nowhere, Vec::new()),
        };
        let element = tree.element_mut(id);
        element.written = written;
        element.start_tag = start_tag;
        if written == Written::Repeated {
            element.attributes = attributes;
        } else {
            for attribute in &mut element.attributes {
                (attribute.name_span, attribute.value_span) = (nowhere, nowhere);
                attribute.quote = None;
            }
        }
    }

    fn attributes(
        &self,
        attributes: Vec<html5ever::Attribute>,
        spans: &[AttributeSpans],
    ) -> Vec<Attribute> {
        let nowhere = TextRange::empty(self.origin.borrow().span().start());
        attributes
            .into_iter()
            .enumerate()
            .map(|(at, attribute)| Attribute {
                namespace: namespace(&attribute.name),
                name: attribute.name.local,
                value: (*attribute.value).into(),
                name_span: spans.get(at).map_or(nowhere, |s| s.name),
                value_span: spans.get(at).map_or(nowhere, |s| s.value),
                quote: spans.get(at).and_then(|s| s.quote(self.source)),
            })
            .collect()
    }

    fn insert(&self, parent: NodeId, before: Option<NodeId>, child: NodeOrText<Handle>) {
        let mut tree = self.tree.borrow_mut();
        let child = match child {
            NodeOrText::AppendNode(handle) => handle.id,
            NodeOrText::AppendText(text) => {
                let mut run = self.run.get();
                let content = Content::placed(&text, &mut run, self.source);
                self.run.set(run);
                let neighbor = match before {
                    Some(before) => tree.nodes[before.index()].previous,
                    None => tree.nodes[parent.index()].last_child,
                };
                if let Some(neighbor) = neighbor
                    && let NodeKind::Text(mine) = &mut tree.nodes[neighbor.index()].kind
                {
                    mine.append(content, self.source);
                    return;
                }
                tree.push(NodeKind::Text(content))
            }
        };
        tree.detach(child);
        tree.link(parent, before, child);
    }
}

impl Tree {
    fn push(&mut self, kind: NodeKind) -> NodeId {
        self.nodes.push(blank(kind));
        NodeId::new(self.number, self.nodes.len() - 1)
    }

    fn element(&self, id: NodeId) -> &Element {
        match &self.nodes[id.index()].kind {
            NodeKind::Element(element) => element,
            _ => unreachable!("the tree builder asks only for elements here"),
        }
    }

    fn element_mut(&mut self, id: NodeId) -> &mut Element {
        match &mut self.nodes[id.index()].kind {
            NodeKind::Element(element) => element,
            _ => unreachable!("the tree builder asks only for elements here"),
        }
    }

    fn detach(&mut self, id: NodeId) {
        let node = &mut self.nodes[id.index()];
        let (parent, previous, next) = (node.parent.take(), node.previous.take(), node.next.take());
        let Some(parent) = parent else { return };
        match previous {
            Some(previous) => self.nodes[previous.index()].next = next,
            None => self.nodes[parent.index()].first_child = next,
        }
        match next {
            Some(next) => self.nodes[next.index()].previous = previous,
            None => self.nodes[parent.index()].last_child = previous,
        }
    }

    fn link(&mut self, parent: NodeId, before: Option<NodeId>, child: NodeId) {
        let previous = match before {
            Some(before) => self.nodes[before.index()].previous.replace(child),
            None => self.nodes[parent.index()].last_child.replace(child),
        };
        match previous {
            Some(previous) => self.nodes[previous.index()].next = Some(child),
            None => self.nodes[parent.index()].first_child = Some(child),
        }
        let node = &mut self.nodes[child.index()];
        node.parent = Some(parent);
        node.previous = previous;
        node.next = before;
    }
}

fn blank(kind: NodeKind) -> Node {
    Node {
        kind,
        parent: None,
        previous: None,
        next: None,
        first_child: None,
        last_child: None,
    }
}

fn namespace(name: &QualName) -> Namespace {
    match name.ns {
        ns!() => Namespace::None,
        ns!(html) => Namespace::Html,
        ns!(svg) => Namespace::Svg,
        ns!(mathml) => Namespace::MathMl,
        _ => Namespace::Foreign,
    }
}

/// HTML § 13.2.4.3: the elements that end up in the list of active formatting elements.
fn is_formatting(name: &LocalName) -> bool {
    matches!(
        &**name,
        "a" | "b"
            | "big"
            | "code"
            | "em"
            | "font"
            | "i"
            | "nobr"
            | "s"
            | "small"
            | "strike"
            | "strong"
            | "tt"
            | "u"
    )
}

/// DOM § 4.8.1: the elements that a shadow root can be attached to.
fn can_be_host(element: &Element) -> bool {
    let name = &*element.name;
    element.namespace == Namespace::Html
        && (name.contains('-')
            || matches!(
                name,
                "article"
                    | "aside"
                    | "blockquote"
                    | "body"
                    | "div"
                    | "footer"
                    | "h1"
                    | "h2"
                    | "h3"
                    | "h4"
                    | "h5"
                    | "h6"
                    | "header"
                    | "main"
                    | "nav"
                    | "p"
                    | "section"
                    | "span"
            ))
}

impl TreeSink for Sink<'_> {
    type Handle = Handle;
    type Output = Tree;
    type ElemName<'n>
        = &'n QualName
    where
        Self: 'n;

    fn finish(self) -> Tree {
        self.tree.into_inner()
    }

    fn parse_error(&self, _message: Cow<'static, str>) {}

    fn get_document(&self) -> Handle {
        let root = NodeId::new(self.tree.borrow().number, 0);
        self.handle(root)
    }

    fn elem_name<'n>(&'n self, target: &'n Handle) -> &'n QualName {
        &target.name
    }

    fn create_element(
        &self,
        name: QualName,
        attributes: Vec<html5ever::Attribute>,
        flags: ElementFlags,
    ) -> Handle {
        let own = match &*self.origin.borrow() {
            Origin::StartTag { name: tag, .. } => {
                name.local == *tag
                    || name.local.eq_ignore_ascii_case(tag)
                    || (&**tag == "image" && name.local == local_name!("img"))
            }
            _ => false,
        };
        if own && let Some(earlier) = self.claimed.take() {
            self.disown(earlier);
        }
        let mut slash = None;
        let (written, start_tag, attributes) = if own {
            let origin = self.origin.borrow();
            let Origin::StartTag {
                span,
                attributes: spans,
                self_closing,
                ..
            } = &*origin
            else {
                unreachable!("only a start tag has an own element");
            };
            // It stands right before the `>`: HTML § 13.2.5.40.
            let two = TextSize::new(2);
            slash = (*self_closing && span.len() > two)
                .then(|| TextRange::at(span.end() - two, TextSize::new(1)));
            (Written::Tag, *span, self.attributes(attributes, spans))
        } else if let Some(original) = is_formatting(&name.local)
            .then(|| self.repeated(&name.local, &attributes))
            .flatten()
        {
            let tree = self.tree.borrow();
            let original = tree.element(original);
            let copied = original.attributes.clone();
            (Written::Repeated, original.start_tag, copied)
        } else {
            let here = TextRange::empty(self.origin.borrow().span().start());
            (Written::Implied, here, self.attributes(attributes, &[]))
        };
        let mut tree = self.tree.borrow_mut();
        let template_contents = flags.template.then(|| tree.push(NodeKind::Root));
        let id = tree.push(NodeKind::Element(Box::new(Element {
            namespace: namespace(&name),
            name: name.local.clone(),
            attributes,
            written,
            start_tag,
            end_tag: None,
            slash,
            index: u32::MAX,
            template_contents,
            shadow_root: None,
        })));
        if written == Written::Tag && is_formatting(&name.local) {
            self.formatting.borrow_mut().push(id);
        }
        if own {
            self.claimed.set(Some(id));
        }
        self.newest.set(Some(id));
        Handle {
            id,
            name: Rc::new(name),
        }
    }

    fn create_comment(&self, _text: StrTendril) -> Handle {
        let span = self.origin.borrow().span();
        let id = self.tree.borrow_mut().push(NodeKind::Comment(span));
        self.handle(id)
    }

    fn create_pi(&self, _target: StrTendril, data: StrTendril) -> Handle {
        self.create_comment(data)
    }

    fn append(&self, parent: &Handle, child: NodeOrText<Handle>) {
        self.insert(parent.id, None, child);
    }

    fn append_based_on_parent_node(
        &self,
        element: &Handle,
        previous: &Handle,
        child: NodeOrText<Handle>,
    ) {
        let parent = self.tree.borrow().nodes[element.id.index()].parent;
        match parent {
            Some(parent) => self.insert(parent, Some(element.id), child),
            None => self.insert(previous.id, None, child),
        }
    }

    fn append_doctype_to_document(&self, _: StrTendril, _: StrTendril, _: StrTendril) {
        let id = self.tree.borrow_mut().push(NodeKind::Doctype);
        let (root, doctype) = (self.get_document(), self.handle(id));
        self.insert(root.id, None, NodeOrText::AppendNode(doctype));
    }

    fn get_template_contents(&self, target: &Handle) -> Handle {
        let contents = self.tree.borrow().element(target.id).template_contents;
        self.handle(contents.expect("only a template is asked for its contents"))
    }

    fn same_node(&self, x: &Handle, y: &Handle) -> bool {
        x.id == y.id
    }

    fn set_quirks_mode(&self, mode: QuirksMode) {
        self.tree.borrow_mut().quirks = mode == QuirksMode::Quirks;
    }

    fn append_before_sibling(&self, sibling: &Handle, child: NodeOrText<Handle>) {
        let parent = self.tree.borrow().nodes[sibling.id.index()].parent;
        if let Some(parent) = parent {
            self.insert(parent, Some(sibling.id), child);
        }
    }

    fn add_attrs_if_missing(&self, target: &Handle, attributes: Vec<html5ever::Attribute>) {
        let origin = self.origin.borrow();
        let spans: &[AttributeSpans] = match &*origin {
            Origin::StartTag { attributes, .. } => attributes,
            _ => &[],
        };
        let more = self.attributes(attributes, spans);
        let mut tree = self.tree.borrow_mut();
        let element = tree.element_mut(target.id);
        for attribute in more {
            if !element.attributes.iter().any(|a| a.name == attribute.name) {
                element.attributes.push(attribute);
            }
        }
    }

    fn remove_from_parent(&self, target: &Handle) {
        self.tree.borrow_mut().detach(target.id);
    }

    fn reparent_children(&self, node: &Handle, new_parent: &Handle) {
        let mut tree = self.tree.borrow_mut();
        while let Some(child) = tree.nodes[node.id.index()].first_child {
            tree.detach(child);
            tree.link(new_parent.id, None, child);
        }
    }

    fn is_mathml_annotation_xml_integration_point(&self, handle: &Handle) -> bool {
        let tree = self.tree.borrow();
        let encoding = tree.element(handle.id).attribute("encoding").unwrap_or("");
        encoding.eq_ignore_ascii_case("text/html")
            || encoding.eq_ignore_ascii_case("application/xhtml+xml")
    }

    fn allow_declarative_shadow_roots(&self, _parent: &Handle) -> bool {
        true
    }

    fn attach_declarative_shadow(
        &self,
        location: &Handle,
        template: &Handle,
        _attributes: &[html5ever::Attribute],
    ) -> bool {
        let mut tree = self.tree.borrow_mut();
        let contents = tree.element(template.id).template_contents;
        let host = tree.element_mut(location.id);
        let free = can_be_host(host) && host.shadow_root.is_none();
        if free {
            host.shadow_root = contents;
        }
        free
    }
}
