//! A page as `html5ever` alone reads it: a flat list of its elements, texts and comments.

use html5ever::tendril::TendrilSink;
use html5ever::{ParseOpts, parse_document};
use markup5ever_rcdom::{Handle, NodeData, RcDom};

/// A node, with how deep it stands.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Node {
    Element(String, Vec<(String, String)>),
    Text(String),
    Comment(String),
}

/// Everything in a page in document order, white space of texts folded and empty texts left out.
pub fn nodes(html: &str) -> Vec<(usize, Node)> {
    let dom = parse_document(RcDom::default(), ParseOpts::default()).one(html);
    let mut found = Vec::new();
    walk(&dom.document, 0, &mut found);
    found
}

fn walk(handle: &Handle, depth: usize, found: &mut Vec<(usize, Node)>) {
    match &handle.data {
        NodeData::Text { contents } => {
            let text = contents.borrow();
            let text = text.split_whitespace().collect::<Vec<_>>().join(" ");
            if !text.is_empty() {
                found.push((depth, Node::Text(text)));
            }
        }
        NodeData::Comment { contents } => found.push((depth, Node::Comment(contents.to_string()))),
        NodeData::Element {
            name,
            attrs,
            template_contents,
            ..
        } => {
            let attributes = attrs.borrow();
            let mut attributes: Vec<(String, String)> = attributes
                .iter()
                .map(|a| (a.name.local.to_string(), a.value.to_string()))
                .collect();
            attributes.sort();
            found.push((depth, Node::Element(name.local.to_string(), attributes)));
            if let Some(contents) = &*template_contents.borrow() {
                walk(contents, depth + 1, found);
            }
        }
        _ => {}
    }
    for child in handle.children.borrow().iter() {
        walk(child, depth + 1, found);
    }
}

/// All texts of a page, joined.
pub fn text(nodes: &[(usize, Node)]) -> String {
    let texts = nodes.iter().filter_map(|(_, node)| match node {
        Node::Text(text) => Some(text.as_str()),
        _ => None,
    });
    texts.collect::<Vec<_>>().join(" ").replace(' ', "")
}
