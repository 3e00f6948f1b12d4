//! Tokens from `html5gum`, with their spans, into `html5ever`'s tree construction.

use std::borrow::Cow;
use std::cell::RefCell;
use std::convert::Infallible;
use std::sync::{Arc, OnceLock};

use html5ever::interface::{Tracer, TreeSink};
use html5ever::tendril::StrTendril;
use html5ever::tokenizer::states::RawKind;
use html5ever::tokenizer::{Doctype, Tag, TagKind, Token, TokenSink, TokenSinkResult};
use html5ever::tree_builder::{TreeBuilder, TreeBuilderOpts};
use html5ever::{Attribute, LocalName, QualName, ns};
use html5gum::emitters::callback::{Callback, CallbackEmitter, CallbackEvent};
use html5gum::{Emitter, ForwardingEmitter, Span, State, Tokenizer};

use super::sink::{AttributeSpans, Handle, Origin, Sink, Tree};
use super::{Document, Duplicate, ElementId, MarkupProblem, NodeId, NodeKind, ShadowRoot};
use crate::text::{Cut, Text, TextRange, TextSize, span};
use rustc_hash::FxHashSet;

/// How deep the tree gets. HTML leaves such limits to the parser (§ 13.2, "implementation
/// limits"), and engines stop here: what is nested deeper becomes a sibling instead of a child.
pub const DEEPEST_TREE: usize = 512;

pub(super) fn parse(text: Arc<Text>, scripting: bool) -> Document {
    let (tree, feed) = {
        let source = text.source();
        // HTML § 13.2.6.4.7: with scripts, what is in <noscript> is text.
        let options = TreeBuilderOpts {
            scripting_enabled: scripting,
            ..TreeBuilderOpts::default()
        };
        let feed = Feed {
            source,
            builder: TreeBuilder::new(Sink::new(source), options),
            tag: None,
            state: None,
            depths: Vec::new(),
            flattened: 0,
            problems: Vec::new(),
            ignored: Vec::new(),
            duplicates: Vec::new(),
            end_tags: Vec::new(),
            before: Vec::new(),
            after: Vec::new(),
        };
        let mut emitter = Bridge {
            inner: CallbackEmitter::new(feed),
        };
        let Ok(()) = Tokenizer::new_with_emitter(source, &mut emitter).finish();
        let feed = std::mem::replace(emitter.inner.callback_mut(), Feed::empty());
        let noted = Noted {
            problems: feed.problems,
            ignored: feed.ignored,
            duplicates: feed.duplicates,
            end_tags: feed.end_tags,
        };
        (feed.builder.sink.finish(), noted)
    };
    number(text, tree, feed, scripting)
}

/// What was met besides the tree.
struct Noted {
    problems: Vec<MarkupProblem>,
    ignored: Vec<TextRange>,
    duplicates: Vec<Duplicate>,
    end_tags: Vec<TextSize>,
}

fn number(text: Arc<Text>, tree: Tree, noted: Noted, scripting: bool) -> Document {
    let mut document = Document {
        number: tree.number,
        text,
        nodes: tree.nodes,
        elements: Vec::new(),
        shadow_roots: Vec::new(),
        quirks: tree.quirks,
        problems: noted.problems,
        ignored: noted.ignored,
        duplicates: noted.duplicates,
        end_tags: noted.end_tags,
        scripting,
        ranks: OnceLock::new(),
        naming_sheets: OnceLock::new(),
    };
    let (elements, shadow_roots) = in_order(&document);
    document.shadow_roots = shadow_roots;
    for (index, id) in elements.iter().enumerate() {
        let node = document.nodes.get_mut(id.index());
        if let Some(NodeKind::Element(element)) = node.map(|node| &mut node.kind) {
            element.index = index as u32;
        }
    }
    document.elements = elements;
    document
}

/// All elements in shadow-including tree order (DOM § 4.8), and the shadow trees.
fn in_order(document: &Document) -> (Vec<ElementId>, Vec<ShadowRoot>) {
    let mut elements = Vec::new();
    let mut shadow_roots = Vec::new();
    // An explicit stack: shadow trees may be nested deeper than the stack is high.
    let mut open = vec![(document.root(), document.root())];
    while let Some((top, at)) = open.pop() {
        let Some(next) = document.following(at, top) else {
            continue;
        };
        open.push((top, next));
        let Some(id) = document.as_element(next) else {
            continue;
        };
        elements.push(id);
        if let Some(root) = document.element(id).shadow_root {
            shadow_roots.push(ShadowRoot { root, host: id });
            open.push((root, root));
        }
    }
    (elements, shadow_roots)
}

struct OpenTag {
    tag: Tag,
    start: usize,
    attributes: Vec<AttributeSpans>,
}

struct Feed<'a> {
    source: &'a str,
    builder: TreeBuilder<Handle, Sink<'a>>,
    tag: Option<OpenTag>,
    state: Option<State>,
    /// The depth of each node that got one, by node index; 0 means not known yet.
    depths: Vec<u16>,
    /// Elements open at the depth limit that were made siblings.
    flattened: usize,
    problems: Vec<MarkupProblem>,
    /// The tags that made and closed nothing.
    ignored: Vec<TextRange>,
    duplicates: Vec<Duplicate>,
    end_tags: Vec<TextSize>,
    /// The open elements before and after an end tag.
    before: Vec<NodeId>,
    after: Vec<NodeId>,
}

impl<'a> Feed<'a> {
    fn empty() -> Self {
        Feed {
            source: "",
            builder: TreeBuilder::new(Sink::new(""), TreeBuilderOpts::default()),
            tag: None,
            state: None,
            depths: Vec::new(),
            flattened: 0,
            problems: Vec::new(),
            ignored: Vec::new(),
            duplicates: Vec::new(),
            end_tags: Vec::new(),
            before: Vec::new(),
            after: Vec::new(),
        }
    }

    fn process(&mut self, token: Token, origin: Origin) {
        self.builder.sink.begin(origin);
        match self.builder.process_token(token, 1) {
            TokenSinkResult::Continue | TokenSinkResult::EncodingIndicator(_) => {}
            TokenSinkResult::Script(_) => self.state = Some(State::Data),
            TokenSinkResult::Plaintext => self.state = Some(State::PlainText),
            TokenSinkResult::RawData(RawKind::Rcdata) => self.state = Some(State::RcData),
            TokenSinkResult::RawData(RawKind::Rawtext) => self.state = Some(State::RawText),
            TokenSinkResult::RawData(RawKind::ScriptData | RawKind::ScriptDataEscaped(_)) => {
                self.state = Some(State::ScriptData);
            }
        }
    }

    fn start_tag(&mut self, open: OpenTag, end: usize) {
        let OpenTag {
            tag,
            start,
            attributes,
        } = open;
        let name = tag.name.clone();
        let stays_open = !tag.self_closing && !is_void(&name);
        let here = span(start, end);
        let origin = Origin::StartTag {
            name: name.clone(),
            span: here,
            attributes,
            self_closing: tag.self_closing,
        };
        self.process(Token::TagToken(tag), origin);
        let Some(newest) = self.builder.sink.newest() else {
            self.ignored.push(here);
            return;
        };
        if self.depth(newest) <= DEEPEST_TREE || !stays_open {
            return;
        }
        // Close it at once: the next element becomes its sibling, and its own end tag is swallowed
        // when it comes.
        if self.flattened == 0 {
            self.problems.push(MarkupProblem {
                span: here,
                message: format!(
                    "elements are nested deeper than {DEEPEST_TREE}; from here on they are \
                     siblings, as in browsers"
                ),
            });
        }
        self.flattened += 1;
        let state = self.state.take();
        let end_tag = Tag {
            kind: TagKind::EndTag,
            name,
            self_closing: false,
            attrs: Vec::new(),
            had_duplicate_attributes: false,
        };
        if state.is_none() {
            self.process(Token::TagToken(end_tag), Origin::Other(here));
        } else {
            self.flattened -= 1;
            self.state = state;
        }
    }

    /// The tree builder's handles, the stack of open elements first. It tells of few of the
    /// elements that it removes the stack, so an end tag's are found by comparing.
    /// They go into a list that is used again and again.
    fn open_elements(&self, mut list: Vec<NodeId>) -> Vec<NodeId> {
        list.clear();
        let stack = Stack {
            // The document comes first and is not an element.
            document: self.builder.sink.get_document().id,
            found: RefCell::new(list),
        };
        self.builder.trace_handles(&stack);
        stack.found.into_inner()
    }

    /// How many ancestors a node has, through a table: a new node's parent is almost always known.
    #[expect(clippy::indexing_slicing, reason = "the table is as long as the tree")]
    fn depth(&mut self, id: NodeId) -> usize {
        let tree = self.builder.sink.tree.borrow();
        self.depths.resize(tree.nodes.len(), 0);
        let mut depth = 0;
        let mut at = tree.nodes[id.index()].parent;
        while let Some(parent) = at {
            let known = usize::from(self.depths[parent.index()]);
            if known > 0 {
                depth += known + 1;
                break;
            }
            depth += 1;
            at = tree.nodes[parent.index()].parent;
        }
        self.depths[id.index()] = depth.min(usize::from(u16::MAX)) as u16;
        depth
    }

    /// HTML § 13.2.5.33: of attributes with the same name only the first counts.
    fn drop_duplicates(&mut self, open: &mut OpenTag) {
        if open.tag.attrs.len() < 2 {
            return;
        }
        let mut seen = FxHashSet::default();
        let mut spans = open.attributes.iter();
        let mut kept = Vec::with_capacity(open.attributes.len());
        open.tag.attrs.retain(|attribute| {
            let Some(span) = spans.next() else {
                return true;
            };
            let is_new = seen.insert(attribute.name.local.clone());
            if is_new {
                kept.push(*span);
            } else {
                self.duplicates.push(Duplicate {
                    tag: TextSize::new(open.start as u32),
                    name: attribute.name.local.clone(),
                    span: span.whole(self.source),
                });
            }
            is_new
        });
        open.tag.had_duplicate_attributes = kept.len() < open.attributes.len();
        open.attributes = kept;
    }

    fn end_tag(&mut self, name: &[u8], at: Span<usize>) {
        self.end_tags.push(TextSize::new(at.start as u32));
        if self.flattened > 0 {
            self.flattened -= 1;
            return;
        }
        let name = local_name(name);
        let tag = Tag {
            kind: TagKind::EndTag,
            name: name.clone(),
            self_closing: false,
            attrs: Vec::new(),
            had_duplicate_attributes: false,
        };
        let span = span(at.start, at.end);
        let list = std::mem::take(&mut self.before);
        let before = self.open_elements(list);
        self.process(Token::TagToken(tag), Origin::Other(span));
        let list = std::mem::take(&mut self.after);
        let after = self.open_elements(list);
        let kept = before
            .iter()
            .zip(&after)
            .take_while(|(a, b)| a == b)
            .count();
        self.builder.sink.end(&name, span, before.cut(kept..));
        let stays = matches!(&*name, "body" | "html" | "head");
        if before == after && !stays && self.builder.sink.newest().is_none() {
            self.ignored.push(span);
        }
        (self.before, self.after) = (before, after);
    }

    fn text(&mut self, value: &[u8], at: Span<usize>) {
        let run = span(at.start.min(at.end), at.end);
        let value = utf8(value);
        if !value.as_bytes().contains(&0) {
            let text = StrTendril::from_slice(&value);
            self.process(Token::CharacterTokens(text), Origin::Text(run));
            return;
        }
        let mut first = true;
        for part in value.split('\0') {
            if !std::mem::take(&mut first) {
                self.process(Token::NullCharacterToken, Origin::Other(run));
            }
            if !part.is_empty() {
                let part = StrTendril::from_slice(part);
                self.process(Token::CharacterTokens(part), Origin::Text(run));
            }
        }
    }
}

struct Stack {
    document: NodeId,
    found: RefCell<Vec<NodeId>>,
}

impl Tracer for Stack {
    type Handle = Handle;

    fn trace_handle(&self, node: &Handle) {
        if node.id != self.document {
            self.found.borrow_mut().push(node.id);
        }
    }
}

impl Callback<Infallible, usize> for Feed<'_> {
    fn handle_event(&mut self, event: CallbackEvent<'_>, at: Span<usize>) -> Option<Infallible> {
        match event {
            CallbackEvent::OpenStartTag { name } => {
                self.tag = Some(OpenTag {
                    tag: Tag {
                        kind: TagKind::StartTag,
                        name: local_name(name),
                        self_closing: false,
                        attrs: Vec::new(),
                        had_duplicate_attributes: false,
                    },
                    start: at.start,
                    attributes: Vec::with_capacity(4),
                });
            }
            CallbackEvent::AttributeName { name } => {
                if let Some(open) = &mut self.tag {
                    let name_span = span(at.start, at.end);
                    open.tag.attrs.push(Attribute {
                        name: QualName::new(None, ns!(), local_name(name)),
                        value: StrTendril::new(),
                    });
                    open.attributes.push(AttributeSpans {
                        name: name_span,
                        value: empty_value(self.source, name_span),
                    });
                }
            }
            CallbackEvent::AttributeValue { value } => {
                if let Some(open) = &mut self.tag
                    && let (Some(attribute), Some(spans)) =
                        (open.tag.attrs.last_mut(), open.attributes.last_mut())
                {
                    attribute.value.push_slice(&utf8(value));
                    spans.value = span(at.start, at.end);
                }
            }
            CallbackEvent::CloseStartTag { self_closing } => {
                if let Some(mut open) = self.tag.take() {
                    open.tag.self_closing = self_closing;
                    self.drop_duplicates(&mut open);
                    self.start_tag(open, at.end);
                }
            }
            CallbackEvent::EndTag { name } => self.end_tag(name, at),
            CallbackEvent::String { value } => self.text(value, at),
            CallbackEvent::Comment { value } => {
                let text = StrTendril::from_slice(&utf8(value));
                let origin = Origin::Other(span(at.start, at.end));
                self.process(Token::CommentToken(text), origin);
            }
            CallbackEvent::Doctype {
                name,
                public_identifier,
                system_identifier,
                force_quirks,
            } => {
                let tendril = |bytes: &[u8]| StrTendril::from_slice(&utf8(bytes));
                let doctype = Doctype {
                    name: Some(name).filter(|n| !n.is_empty()).map(tendril),
                    public_id: public_identifier.map(tendril),
                    system_id: system_identifier.map(tendril),
                    force_quirks,
                };
                let origin = Origin::Other(span(at.start, at.end));
                self.process(Token::DoctypeToken(doctype), origin);
            }
            CallbackEvent::Error(_) => {}
        }
        None
    }
}

fn local_name(bytes: &[u8]) -> LocalName {
    LocalName::from(&*utf8(bytes))
}

/// The tokenizer gives bytes of a UTF-8 text: nearly always this is a look and no copy.
fn utf8(bytes: &[u8]) -> Cow<'_, str> {
    match std::str::from_utf8(bytes) {
        Ok(text) => Cow::Borrowed(text),
        Err(_) => String::from_utf8_lossy(bytes),
    }
}

/// The start tags of a piece of markup as they are written, whatever tree they would make: the name
/// of each, and its attributes.
pub(crate) fn start_tags(markup: &str) -> Vec<(String, Vec<(String, String)>)> {
    use html5gum::{StringReader, Token, Tokenizer};
    let mut emitter = html5gum::DefaultEmitter::<usize>::new_with_span();
    // Raw text begins where its start tag says so.
    emitter.naively_switch_states(true);
    let tokens = Tokenizer::<StringReader<'_>, _>::new_with_emitter(markup, emitter);
    let mut found = Vec::new();
    for token in tokens {
        let Ok(Token::StartTag(tag)) = token else {
            continue;
        };
        let mut attributes: Vec<(usize, String, String)> = tag
            .attributes
            .iter()
            .map(|(name, value)| {
                let name = utf8(name).into_owned();
                (value.span.start, name, utf8(value).into_owned())
            })
            .collect();
        // As they are written, not as a map has them.
        attributes.sort();
        let attributes = attributes.into_iter().map(|(_, name, value)| (name, value));
        found.push((utf8(&tag.name).into_owned(), attributes.collect()));
    }
    found
}

/// HTML § 13.1.2: elements that have no end tag.
pub(crate) fn is_void(name: &LocalName) -> bool {
    matches!(
        &**name,
        "area"
            | "base"
            | "basefont"
            | "bgsound"
            | "br"
            | "col"
            | "embed"
            | "frame"
            | "hr"
            | "img"
            | "input"
            | "link"
            | "meta"
            | "param"
            | "source"
            | "track"
            | "wbr"
    )
}

/// The span of a value that the tokenizer has nothing to say about: between the quotes of `a=""`,
/// or at the name's end where there is no value at all.
fn empty_value(source: &str, name: TextRange) -> TextRange {
    let rest = source.cut(usize::from(name.end())..);
    let after = rest.trim_start_matches([' ', '\t', '\n', '\r', '\x0C']);
    let Some(value) = after.strip_prefix('=') else {
        return TextRange::empty(name.end());
    };
    let value = value.trim_start_matches([' ', '\t', '\n', '\r', '\x0C']);
    let quote = usize::from(value.starts_with(['"', '\'']));
    let offset = rest.len() - value.len() + quote;
    TextRange::empty(name.end() + TextSize::new(offset as u32))
}

/// Lets the tree builder steer the tokenizer (raw text, script, foreign content).
struct Bridge<'a> {
    inner: CallbackEmitter<Feed<'a>, Infallible, usize>,
}

impl ForwardingEmitter for &mut Bridge<'_> {
    type Token = Infallible;

    fn inner(&mut self) -> &mut impl Emitter<Token = Infallible> {
        &mut self.inner
    }

    fn emit_eof(&mut self) {
        self.inner.emit_eof();
        let feed = self.inner.callback_mut();
        let end = span(feed.source.len(), feed.source.len());
        feed.process(Token::EOFToken, Origin::Other(end));
        feed.builder.end();
    }

    fn emit_current_tag(&mut self) -> Option<State> {
        let naive = self.inner.emit_current_tag();
        debug_assert!(naive.is_none(), "the tree builder switches states");
        let state = self.inner.callback_mut().state.take();
        if state.is_some() {
            self.inner.init_string();
        }
        state
    }

    fn adjusted_current_node_present_but_not_in_html_namespace(&mut self) -> bool {
        let feed = self.inner.callback_mut();
        feed.builder
            .adjusted_current_node_present_but_not_in_html_namespace()
    }
}
