//! How an element is in the source of its page: its span, its content, its lines and indent.

use crate::edit::error::EditError;
use crate::edit::expected::Tag;
use crate::edit::intent::Side;
use crate::edit::proposal::Proposal;
use crate::edit::rewrite::lines::{has_own_lines, indent_at, indent_step, line_ending, line_start};
use crate::markup::{Document, Element, ElementId, Namespace, Written};
use crate::page::Page;
use crate::question::ElementSummary;
use crate::text::{Cut, Patch, Replacement, TextRange, TextSize};

/// A change of the page at one place.
pub(in crate::edit) fn of_page(page: &Page, range: TextRange, with: impl Into<String>) -> Proposal {
    Proposal::of(page.document().text().name(), Patch::single(range, with))
}

/// Why a change can't be made of an element.
pub(in crate::edit) fn not_there(page: &Page, id: ElementId, why: impl Into<String>) -> EditError {
    EditError::NotThere {
        place: ElementSummary::new(page, id).place.to_string(),
        why: why.into(),
    }
}

/// An element with its own tag.
pub(in crate::edit) fn needs_tag(page: &Page, id: ElementId) -> Result<&Element, EditError> {
    let element = page.document().element(id);
    if element.written == Written::Tag {
        return Ok(element);
    }
    let summary = ElementSummary::new(page, id);
    Err(EditError::NoTag {
        element: summary.label(),
        place: summary.place.to_string(),
    })
}

/// An element and those in it that have tags of their own, in source order.
pub(in crate::edit) fn written_in(page: &Page, id: ElementId) -> Vec<ElementId> {
    let document = page.document();
    let outer = document.element_span(id);
    let all = document.elements().iter().copied();
    let all = all.chain(document.template_elements());
    let mut found: Vec<ElementId> = all
        .filter(|other| {
            let element = document.element(*other);
            element.written == Written::Tag && outer.contains_range(element.start_tag)
        })
        .collect();
    found.sort_by_key(|id| document.element(*id).start_tag.start());
    found
}

/// An element with its own tag, all of whose parts are between its tags.
pub(in crate::edit) struct SourceLayout<'a> {
    document: &'a Document,
    pub source: &'a str,
    /// Start tag to end tag.
    pub outer: TextRange,
    /// What is between the tags.
    pub inner: TextRange,
    /// Whether it has its lines for itself.
    pub own_lines: bool,
    pub indent: &'a str,
    pub step: String,
    pub ending: &'static str,
    /// Whether the element can't have content: it has no end tag, or closes itself.
    pub is_void: bool,
    label: String,
}

impl<'a> SourceLayout<'a> {
    pub fn of(page: &'a Page, id: ElementId) -> Result<SourceLayout<'a>, EditError> {
        let document = page.document();
        let element = needs_tag(page, id)?;
        let source = document.text().source();
        let outer = document.element_span(id);
        for below in document.descendant_elements(id) {
            let part = document.element(below);
            if part.written == Written::Tag && !outer.contains_range(part.start_tag) {
                return Err(EditError::NotThere {
                    place: document.text().place(part.start_tag.start()).to_string(),
                    why: format!(
                        "this <{}> belongs to the <{}> but is outside of it in the source, so they can't be changed together; move it into place first",
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
        Ok(SourceLayout {
            document,
            source,
            outer,
            inner,
            own_lines: has_own_lines(source, outer),
            indent: indent_at(source, outer.start().into()),
            step: indent_step(source),
            ending: line_ending(source),
            is_void: element.end_tag.is_none()
                && (is_void(&element.name)
                    || element.namespace != Namespace::Html && element.slash.is_some()),
            label: element.name.to_string(),
        })
    }

    /// The same, of an element between whose tags nothing stands that does not belong to it: its
    /// source can be taken as one piece.
    pub fn whole(page: &'a Page, id: ElementId) -> Result<SourceLayout<'a>, EditError> {
        let stand = SourceLayout::of(page, id)?;
        let document = page.document();
        for other in document.elements() {
            let element = document.element(*other);
            let inside = element.written == Written::Tag
                && stand.outer.contains_range(element.start_tag)
                && !document.ancestors_and_self(*other).any(|above| above == id);
            if inside {
                return Err(EditError::NotThere {
                    place: document.text().place(element.start_tag.start()).to_string(),
                    why: format!(
                        "this <{}> is between the tags of the <{}> but does not belong to it, so they can't be changed together; move it into place first",
                        element.name, stand.label
                    ),
                });
            }
        }
        Ok(stand)
    }

    /// Where markup goes on a side of the element, and its text with what keeps it on its own line
    /// where its neighbors are.
    pub fn beside(&self, side: Side, markup: &str) -> Result<(TextSize, String), EditError> {
        let markup = markup.trim_matches(['\n', '\r']);
        let lines = |indent: &str| self.indented(markup, indent);
        Ok(match side {
            Side::Before if self.own_lines => {
                let start = line_start(self.source, self.outer.start().into());
                let text = format!("{}{}{}", self.indent, lines(self.indent), self.ending);
                (TextSize::new(start as u32), text)
            }
            Side::After if self.own_lines => self.lines_after(&lines(self.indent)),
            Side::Before => (self.outer.start(), markup.to_owned()),
            Side::After => (self.outer.end(), markup.to_owned()),
            Side::First | Side::Last if self.is_void => {
                return Err(EditError::NotThere {
                    place: format!("<{}>", self.label),
                    why: "the element can't have content".to_owned(),
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
                    let held = self.source.cut(self.inner).trim_end();
                    let at = self.inner.start() + TextSize::of(held);
                    let rest = self.source.cut(usize::from(at)..self.inner.end().into());
                    match rest.find('\n') {
                        // A line of its own before the end tag's.
                        Some(line) if !held.is_empty() => (
                            at + TextSize::new(line as u32 + 1),
                            format!("{indent}{}{}", lines(&indent), self.ending),
                        ),
                        _ => (at, format!("{}{indent}{}", self.ending, lines(&indent))),
                    }
                }
                None => (self.inner.end(), markup.to_owned()),
            },
        })
    }

    /// Where whole lines go after the element's own, and their text.
    pub fn lines_after(&self, markup: &str) -> (TextSize, String) {
        let end = usize::from(self.outer.end());
        match self.source.cut(end..).find('\n') {
            Some(at) => {
                let next = TextSize::new((end + at) as u32 + 1);
                (next, format!("{}{markup}{}", self.indent, self.ending))
            }
            // The last line of a file without an end of its own.
            None => (
                self.outer.end(),
                format!("{}{}{markup}", self.ending, self.indent),
            ),
        }
    }

    /// The indent of what the element holds, where that begins on its own line.
    fn inner_indent(&self) -> Option<String> {
        let held = self.source.cut(self.inner);
        let first = held.len() - held.trim_start().len();
        if !held.cut(..first).contains('\n') {
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
        let text = self.source.cut(span);
        if from == to || keeps_spaces(text) {
            return Vec::new();
        }
        let values = self.values_in(span);
        let mut changes = Vec::new();
        let mut at = usize::from(span.start());
        for (number, line) in text.split_inclusive('\n').enumerate() {
            let here = at as u32;
            at += line.len();
            let in_value = values.iter().any(|v| v.contains_inclusive(here.into()));
            if number == 0 || line.trim().is_empty() || !line.starts_with(from) || in_value {
                continue;
            }
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

    /// The values of attributes in a span that go over several lines: what is in them is theirs.
    fn values_in(&self, span: TextRange) -> Vec<TextRange> {
        let elements = self.document.elements().iter();
        let inside = elements
            .map(|id| self.document.element(*id))
            .filter(|e| e.written == Written::Tag && span.contains_range(e.start_tag));
        let values = inside.flat_map(|e| e.attributes.iter().map(|a| a.value_span));
        values
            .filter(|value| self.source.cut(*value).contains('\n'))
            .collect()
    }

    /// Markup with its lines as far in as `indent`, the first line as it is.
    pub fn indented(&self, markup: &str, indent: &str) -> String {
        if keeps_spaces(markup) {
            return markup.trim_start_matches([' ', '\t']).to_owned();
        }
        let trimmed = markup.trim_start_matches([' ', '\t']);
        let first = markup.cut(..markup.len() - trimmed.len());
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
pub(in crate::edit) fn keeps_spaces(markup: &str) -> bool {
    let holds = |tag: &Tag| {
        matches!(
            tag.name.as_str(),
            "pre" | "textarea" | "script" | "style" | "listing" | "plaintext" | "xmp"
        ) || tag.attributes.iter().any(|(_, value)| value.contains('\n'))
    };
    markup.contains('\n') && Tag::all_in(markup).iter().any(holds)
}

/// Lines that were as far in as `from`, now as far in as `to`; the first line as it is, and all of them
/// where spaces at the beginning of lines mean something.
pub(in crate::edit) fn reindented(text: &str, from: &str, to: &str, ending: &str) -> String {
    if keeps_spaces(text) {
        return text.to_owned();
    }
    let mut lines = text.lines();
    let mut out = lines.next().unwrap_or("").to_owned();
    for line in lines {
        out.push_str(ending);
        match line.strip_prefix(from) {
            Some(rest) if !rest.is_empty() => {
                out.push_str(to);
                out.push_str(rest);
            }
            Some(_) => {}
            None => out.push_str(line),
        }
    }
    out
}

/// HTML § 13.1.2: elements that have no end tag.
pub(in crate::edit) fn is_void(name: &str) -> bool {
    crate::markup::is_void(&name.into())
}
