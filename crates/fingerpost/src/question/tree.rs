//! `tree`: the element tree with the line of each element.
//!
//! ```
//! use fingerpost::prelude::*;
//!
//! let page = Page::new(Text::new("a.html", "<ul><li>Pier<li>Quay</ul>"));
//! let ask = page.ask();
//! let list = ask.find_one("ul")?;
//! let answer = ask.tree(list.element, None);
//! let texts: Vec<&str> = answer.tree.children.iter().map(|item| item.text.as_str()).collect();
//! assert_eq!(texts, ["Pier", "Quay"]);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use serde::{Deserialize, Serialize};

use super::ElementSummary;
use crate::markup::ElementId;
use crate::page::Page;

/// How much of an element's own text is shown.
const TEXT_LENGTH: usize = 40;

/// What represents an element within a text.
const ELSEWHERE: &str = "…";

/// A part of the element tree.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct TreeAnswer {
    /// The page.
    pub page: String,
    /// Whether the page is in quirks mode.
    pub quirks: bool,
    /// The element asked for, with what is below it.
    pub tree: Branch,
    /// What the parser had to give up on.
    pub problems: Vec<String>,
}

/// An element with its children.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Branch {
    /// The element.
    #[serde(flatten)]
    pub element: ElementSummary,
    /// The beginning of the text directly in it.
    pub text: String,
    /// Its children, as deep as was asked.
    pub children: Vec<Branch>,
    /// How many elements below it are not shown.
    pub more: usize,
}

/// The tree below an element, `depth` levels deep; all of it without one.
pub(crate) fn tree(page: &Page, from: ElementId, depth: Option<usize>) -> TreeAnswer {
    let document = page.document();
    TreeAnswer {
        page: document.text().name().to_owned(),
        quirks: document.is_quirks(),
        tree: branch(page, from, depth.unwrap_or(usize::MAX)),
        problems: document
            .problems()
            .iter()
            .map(|p| format!("{}: {}", document.text().place(p.span.start()), p.message))
            .collect(),
    }
}

// The tree is never deeper than `markup::DEEPEST_TREE`, so this can recurse.
fn branch(page: &Page, id: ElementId, depth: usize) -> Branch {
    let document = page.document();
    let children = if depth == 0 {
        Vec::new()
    } else {
        document
            .child_elements(id)
            .map(|child| branch(page, child, depth - 1))
            .collect()
    };
    let more = if depth == 0 {
        document.descendant_elements(id).count()
    } else {
        0
    };
    Branch {
        element: ElementSummary::new(page, id),
        text: own_text(page, id),
        children,
        more,
    }
}

fn own_text(page: &Page, id: ElementId) -> String {
    let document = page.document();
    let element = document.element(id);
    if element.is_html("style") || element.is_html("script") {
        return String::new();
    }
    let mut words: Vec<&str> = Vec::new();
    for child in document.children(id) {
        match document.text_of(child) {
            Some(text) => words.extend(text.split_ascii_whitespace().take(TEXT_LENGTH)),
            // An element between two texts leaves a gap, so that they don't read as one.
            None if document.as_element(child).is_some() && !words.is_empty() => {
                words.push(ELSEWHERE);
            }
            None => {}
        }
    }
    while words.last() == Some(&ELSEWHERE) {
        words.pop();
    }
    words.dedup_by(|a, b| *a == ELSEWHERE && a == b);
    let text = words.join(" ");
    match text.char_indices().nth(TEXT_LENGTH) {
        Some((cut, _)) => format!("{}…", &text[..cut]),
        None => text,
    }
}
