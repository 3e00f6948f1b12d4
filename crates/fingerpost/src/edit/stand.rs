//! How an element stands in the source of its page: its span, what it holds, its lines and indent.

use super::EditError;
use super::attribute::needs_tag;
use super::habits::{has_own_lines, indent_at, indent_step, line_ending};
use super::intent::Side;
use super::rule::reindented;
use crate::markup::{Namespace, NodeId, Written};
use crate::page::Page;
use crate::text::{Replacement, TextRange, TextSize};

/// An element with a tag of its own, all of whose parts stand between its tags.
pub(super) struct Stand<'a> {
    pub source: &'a str,
    /// Start tag to end tag.
    pub outer: TextRange,
    /// What stands between the tags.
    pub inner: TextRange,
    /// Whether it has its lines for itself.
    pub own_lines: bool,
    pub indent: &'a str,
    pub step: String,
    pub ending: &'static str,
    is_void: bool,
    label: String,
}

impl<'a> Stand<'a> {
    pub fn of(page: &'a Page, id: NodeId) -> Result<Stand<'a>, EditError> {
        let document = page.document();
        let element = needs_tag(page, id)?;
        let source = document.text().source();
        let outer = document.element_span(id);
        for below in document.descendant_elements(id) {
            let part = document.expect_element(below);
            if part.written == Written::Tag && !outer.contains_range(part.start_tag) {
                return Err(EditError::NotThere {
                    place: document.text().place(part.start_tag.start()).to_string(),
                    why: format!(
                        "this <{}> belongs to the <{}> but stands outside of it in the source, so \
                         that they can't be changed as one; put it in its place first",
                        part.name, element.name
                    ),
                });
            }
        }
        let inner_end = element.end_tag.map_or(outer.end(), TextRange::start);
        let inner = TextRange::new(
            element.start_tag.end(),
            inner_end.max(element.start_tag.end()),
        );
        Ok(Stand {
            source,
            outer,
            inner,
            own_lines: has_own_lines(source, outer),
            indent: indent_at(source, outer.start().into()),
            step: indent_step(source),
            ending: line_ending(source),
            is_void: element.end_tag.is_none()
                && (is_void(&element.name)
                    || element.namespace != Namespace::Html
                        && source[element.start_tag].ends_with("/>")),
            label: element.name.to_string(),
        })
    }

    /// The same, of an element between whose tags nothing stands that does not belong to it: its
    /// source can be taken as one piece.
    pub fn whole(page: &'a Page, id: NodeId) -> Result<Stand<'a>, EditError> {
        let stand = Stand::of(page, id)?;
        let document = page.document();
        for other in document.elements() {
            let element = document.expect_element(*other);
            let inside = element.written == Written::Tag
                && stand.outer.contains_range(element.start_tag)
                && !document.ancestors_and_self(*other).any(|above| above == id);
            if inside {
                return Err(EditError::NotThere {
                    place: document.text().place(element.start_tag.start()).to_string(),
                    why: format!(
                        "this <{}> stands between the tags of the <{}> but does not belong to it, \
                         so that they can't be changed as one; put it in its place first",
                        element.name, stand.label
                    ),
                });
            }
        }
        Ok(stand)
    }

    /// Where markup goes on a side of the element, and its text with what keeps it on its own line
    /// where its neighbours are.
    pub fn beside(&self, side: Side, markup: &str) -> Result<(TextSize, String), EditError> {
        let markup = markup.trim_matches(['\n', '\r']);
        let lines = |indent: &str| self.indented(markup, indent);
        Ok(match side {
            Side::Before if self.own_lines => (
                self.outer.start(),
                format!("{}{}{}", lines(self.indent), self.ending, self.indent),
            ),
            Side::After if self.own_lines => (
                self.outer.end(),
                format!("{}{}{}", self.ending, self.indent, lines(self.indent)),
            ),
            Side::Before => (self.outer.start(), markup.to_owned()),
            Side::After => (self.outer.end(), markup.to_owned()),
            Side::First | Side::Last if self.is_void => {
                return Err(EditError::NotThere {
                    place: format!("<{}>", self.label),
                    why: "the element can't hold anything".to_owned(),
                });
            }
            Side::First => {
                let at = self.inner.start();
                match self.inner_indent() {
                    Some(indent) => (at, format!("{}{indent}{}", self.ending, lines(&indent))),
                    None => (at, markup.to_owned()),
                }
            }
            Side::Last => match self.inner_indent() {
                Some(indent) => {
                    let held = self.source[self.inner].trim_end();
                    let at = self.inner.start() + TextSize::of(held);
                    (at, format!("{}{indent}{}", self.ending, lines(&indent)))
                }
                None => (self.inner.end(), markup.to_owned()),
            },
        })
    }

    /// The indent of what the element holds, where that begins on a line of its own.
    fn inner_indent(&self) -> Option<String> {
        let held = &self.source[self.inner];
        let first = held.len() - held.trim_start().len();
        if !held[..first].contains('\n') {
            return None;
        }
        if held.trim().is_empty() {
            return Some(format!("{}{}", self.indent, self.step));
        }
        let at = usize::from(self.inner.start()) + first;
        Some(indent_at(self.source, at).to_owned())
    }

    /// The changes that put the lines of a span, but for the first, as far in as `to` where they were
    /// as far in as `from`; none where spaces at the beginning of its lines mean something.
    pub fn reindented(&self, span: TextRange, from: &str, to: &str) -> Vec<Replacement> {
        let text = &self.source[span];
        if keeps_spaces(text) || from == to {
            return Vec::new();
        }
        let mut changes = Vec::new();
        let mut at = usize::from(span.start());
        for (number, line) in text.split_inclusive('\n').enumerate() {
            let here = at;
            at += line.len();
            if number == 0 || line.trim().is_empty() || !line.starts_with(from) {
                continue;
            }
            let here = here as u32;
            let (range, with) = match (to.strip_prefix(from), from.strip_prefix(to)) {
                (Some(more), _) => (TextRange::empty(here.into()), more),
                (None, Some(less)) => (TextRange::at(here.into(), TextSize::of(less)), ""),
                (None, None) => (TextRange::at(here.into(), TextSize::of(from)), to),
            };
            changes.push(Replacement {
                range,
                with: with.to_owned(),
            });
        }
        changes
    }

    /// Markup with its lines as far in as `indent`, the first line as it is.
    pub fn indented(&self, markup: &str, indent: &str) -> String {
        if keeps_spaces(markup) {
            return markup.trim_start_matches([' ', '\t']).to_owned();
        }
        let trimmed = markup.trim_start_matches([' ', '\t']);
        let first = &markup[..markup.len() - trimmed.len()];
        // Pasted markup often has its first line cut short: its last line says how far it was in.
        let last = trimmed.lines().next_back().unwrap_or("");
        let from = match (first, trimmed.contains('\n')) {
            ("", true) => indent_at(last, 0),
            _ => first,
        };
        reindented(trimmed, from, indent, self.ending)
    }
}

/// Whether spaces at the beginning of lines mean something.
pub(super) fn keeps_spaces(markup: &str) -> bool {
    let lower = markup.to_ascii_lowercase();
    let holds = |tag: &str| lower.contains(tag);
    lower.contains('\n')
        && ["<pre", "<textarea", "<script", "<style"]
            .into_iter()
            .any(holds)
}

/// HTML § 13.1.2: elements that have no end tag.
pub(super) fn is_void(name: &str) -> bool {
    crate::markup::is_void(&name.into())
}
