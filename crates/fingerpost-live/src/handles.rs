//! The markup that is served: each tag with a handle, and the agent before everything else.
//!
//! A handle is an attribute with the element's number in document order. The agent removes it and
//! remembers it before any script of the page runs, so that the page and its source speak of the same
//! elements even where scripts move things. Elements without their own tag (an implied `<tbody>`)
//! are told by their parent and their number among its children.

use fingerpost::markup::{Document, Element, Written};
use fingerpost::text::TextSize;
use serde::Serialize;

/// The attribute that brings a handle. It is in no page for longer than its parsing.
pub(crate) const HANDLE: &str = "data-fingerpost-handle";

/// Where the page origin serves the agent.
pub(crate) const AGENT: &str = "/.fingerpost/agent.js";

/// What the agent is told in the page.
#[derive(Serialize)]
struct SummaryContext<'a> {
    /// The protocol's version.
    fingerpost: u32,
    /// The page, by its name in the site.
    page: &'a str,
    /// The origin of the desk, to which alone the agent speaks.
    desk: String,
    /// The number of the state that is shown.
    version: u64,
    /// The elements without a tag: parent, tag, handle, in document order.
    implied: Vec<(u32, String, u32)>,
}

/// The version of the messages between the desk and the agent: `docs/api.md`.
pub(crate) const PROTOCOL: u32 = 1;

/// A page as it is served.
pub(crate) fn served(document: &Document, desk: String, version: u64) -> String {
    let source = document.text().source();
    let implied = document.elements().iter().filter_map(|id| {
        let element = document.element(*id);
        let parent = document.parent_element(*id)?;
        let is = element.written != Written::Tag;
        is.then(|| {
            (
                document.element(parent).index,
                element.name.to_string(),
                element.index,
            )
        })
    });
    let told = SummaryContext {
        fingerpost: PROTOCOL,
        page: document.text().name(),
        desk,
        version,
        implied: implied.collect(),
    };
    // `<` in a script ends it where `/script` follows.
    let told = serde_json::to_string(&told)
        .expect("plain data serialises")
        .replace('<', "\\u003c");
    let agent = format!(
        "<script src=\"{AGENT}\" data-told=\"{}\"></script>",
        in_attribute(&told)
    );

    let mut tags: Vec<(TextSize, &Element)> = document
        .elements()
        .iter()
        .map(|id| document.element(*id))
        .filter(|element| element.written == Written::Tag)
        .map(|element| (name_end(source, element), element))
        .collect();
    tags.sort_by_key(|(at, _)| *at);
    let agent_at = agent_place(document);
    let mut out = String::with_capacity(source.len() + tags.len() * 32 + agent.len());
    let mut done = 0;
    let mut waiting = Some(&agent);
    for (at, element) in tags {
        let at = usize::from(at);
        if let Some(agent) = waiting.filter(|_| agent_at <= at) {
            out.push_str(source.get(done..agent_at).unwrap_or_default());
            out.push_str(agent);
            done = agent_at.max(done);
            waiting = None;
        }
        out.push_str(source.get(done..at).unwrap_or_default());
        out.push_str(&format!(" {HANDLE}=\"{}\"", element.index));
        done = at;
    }
    if let Some(agent) = waiting {
        out.push_str(source.get(done..agent_at).unwrap_or_default());
        out.push_str(agent);
        done = agent_at.max(done);
    }
    out.push_str(source.get(done..).unwrap_or_default());
    out
}

/// Where the name of an element's start tag ends.
fn name_end(source: &str, element: &Element) -> TextSize {
    let tag = source
        .get(std::ops::Range::from(element.start_tag))
        .unwrap_or_default();
    let length = tag
        .char_indices()
        .skip(1)
        .find(|(_, c)| c.is_ascii_whitespace() || matches!(c, '/' | '>'))
        .map_or(tag.len(), |(at, _)| at);
    element.start_tag.start() + TextSize::new(length as u32)
}

/// Where the agent goes: at the beginning of the head, or before everything that makes one implied.
fn agent_place(document: &Document) -> usize {
    let root = document.root_element();
    let head = document
        .child_elements(root)
        .find(|id| document.element(*id).is_html("head"));
    let head = head.map(|id| document.element(id));
    match head {
        Some(head) if head.written == Written::Tag => head.start_tag.end().into(),
        Some(head) => {
            let html = document.element(root);
            let behind_html = match html.written {
                Written::Tag => html.start_tag.end(),
                _ => html.start_tag.start(),
            };
            usize::from(head.start_tag.start().max(behind_html))
        }
        None => 0,
    }
}

fn in_attribute(text: &str) -> String {
    text.replace('&', "&amp;").replace('"', "&quot;")
}

#[cfg(test)]
mod tests {
    use super::*;
    use fingerpost::text::Text;

    fn served_body(html: &str) -> String {
        let document = Document::parse(Text::new("a.html", html));
        let text = served(&document, "http://127.0.0.1:1".into(), 1);
        let start = text.find("<script").unwrap();
        let end = text.find("</script>").unwrap() + "</script>".len();
        format!("{}|{}", &text[..start], &text[end..]).replace("data-fingerpost-handle", "h")
    }

    #[test]
    fn each_tag_has_its_number_and_the_agent_comes_first() {
        assert_eq!(
            served_body("<!doctype html><html><head><title>A</title></head><body><p/>B"),
            "<!doctype html><html h=\"0\"><head h=\"1\">|<title h=\"2\">A</title></head><body h=\"3\"><p h=\"4\"/>B"
        );
    }

    #[test]
    fn a_page_without_a_head_gets_the_agent_before_its_first_element() {
        assert_eq!(
            served_body("<!doctype html><p class=a>B"),
            "<!doctype html>|<p h=\"3\" class=a>B"
        );
        assert_eq!(
            served_body("<title>A</title><p>B"),
            "|<title h=\"2\">A</title><p h=\"4\">B"
        );
    }

    #[test]
    fn the_agent_is_told_of_implied_elements() {
        let document = Document::parse(Text::new("a.html", "<table><tr><td>1"));
        let text = served(&document, "x".into(), 1);
        assert!(text.contains("[3,&quot;tbody&quot;,4]"), "{text}");
    }
}
