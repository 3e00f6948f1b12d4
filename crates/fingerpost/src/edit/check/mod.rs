//! The last look at an edit before it is accepted: the patched texts are parsed, and hold what was
//! meant and nothing else that is new. What was there before is there still.
//!
//! Whatever a kind of edit gets wrong, an unclosed string that swallows the next rule or a tag that
//! swallows its neighbors, it is refused here, with the place.

mod sheet;
mod tags;
pub(in crate::edit) mod warnings;

use self::sheet::sheet_changed;
use self::tags::{Tags, markup_changed};
use std::collections::HashSet;
use std::sync::Arc;

use crate::edit::error::EditError;
use crate::edit::expected::{InSheet, MarkupOp, Meant, StyleOp, Tag};
use crate::edit::file_change::FileChange;
use crate::edit::site_context::SiteContext;
use crate::markup::{Document, ElementId};
use crate::page::{Arrival, Page};
use crate::sheet::{Sheet, reparse};
use crate::text::{Patch, Text, TextRange};

/// What is said where an edit would do something else than it was meant to.
fn refused(place: String, why: String) -> EditError {
    EditError::Unintended { place, why }
}

/// Checks the changes of the served files; gives the changes of the tree that were not asked for, in
/// sentences.
pub(in crate::edit) fn check(
    page: &Page,
    around: &SiteContext<'_>,
    changes: &[FileChange],
    meant: &Meant,
) -> Result<Vec<String>, EditError> {
    let mut warnings = Vec::new();
    let document = page.document();
    for FileChange { file, patch, .. } in changes {
        if file == document.text().name() {
            warnings.extend(page_changed(page, patch, meant)?);
            continue;
        }
        let mut listed = page.sheets().iter().enumerate();
        let found = listed.find(|(_, s)| s.styles.sheet().text().name() == file);
        if let Some((_, first)) = found {
            let sheet = first.styles.sheet();
            let text = patched(sheet.text(), patch)?;
            let ops = ops_of_file(page, meant, file);
            let after = match reparse(sheet, &text) {
                Some((after, _)) => after,
                None => Sheet::parse(text.clone(), text.span()),
            };
            sheet_changed(sheet, &after, &ops)?;
            continue;
        }
        if let Some(other) = around.sheets.iter().find(|t| t.name() == file) {
            let before = Sheet::parse(other.clone(), other.span());
            let text = patched(other, patch)?;
            let after = Sheet::parse(text.clone(), text.span());
            let own = meant.styles.iter();
            let ops: Vec<&StyleOp> = own
                .filter(|(sheet, _)| *sheet == InSheet::Other(file.clone()))
                .map(|(_, op)| op)
                .collect();
            sheet_changed(&before, &after, &ops)?;
        }
    }
    Ok(warnings)
}

/// Checks the change of a page other than the one asked about: its tags, and its embedded
/// sheets by their elements.
pub(in crate::edit) fn document_changed(
    document: &Document,
    patch: &Patch,
    markup: &MarkupOp,
    sheets: &[(ElementId, Vec<StyleOp>)],
) -> Result<(), EditError> {
    let text = patched(document.text(), patch)?;
    let after = document.reparse(text);
    let tags = Tags::new(document, &after, patch);
    markup_changed(&tags, markup, &Meant::default())?;
    for (element, ops) in sheets {
        let span = |document: &Document, id: ElementId| {
            let element = document.element(id);
            let end = element
                .end_tag
                .map_or(document.text().span().end(), TextRange::start);
            TextRange::new(element.start_tag.end(), end)
        };
        let Some(now) = tags.image_of(*element) else {
            continue;
        };
        let old = Sheet::parse(document.text().clone(), span(document, *element));
        let new = Sheet::parse(after.text().clone(), span(&after, now));
        let ops: Vec<&StyleOp> = ops.iter().collect();
        sheet_changed(&old, &new, &ops)?;
    }
    Ok(())
}

/// Checks the change of a sheet that the page may not have.
pub(in crate::edit) fn sheets_changed(
    before: &Sheet,
    patch: &Patch,
    ops: &[StyleOp],
) -> Result<(), EditError> {
    let text = patched(before.text(), patch)?;
    let span = text.span();
    let ops: Vec<&StyleOp> = ops.iter().collect();
    sheet_changed(before, &Sheet::parse(text, span), &ops)
}

fn patched(text: &Arc<Text>, patch: &Patch) -> Result<Arc<Text>, EditError> {
    text.patched(patch).map_err(EditError::Encoding)
}

/// What is meant for a file, under whichever of the page's sheets it is.
fn ops_of_file<'a>(page: &Page, meant: &'a Meant, file: &str) -> Vec<&'a StyleOp> {
    let of_file = |sheet: &InSheet| match sheet {
        InSheet::Listed(at) => {
            let listed = page.sheet(*at);
            listed.styles.sheet().text().name() == file
        }
        InSheet::Other(name) => name == file,
        InSheet::Attribute(_) => false,
    };
    let all = meant.styles.iter();
    let mut ops: Vec<&StyleOp> = Vec::new();
    for (_, op) in all.filter(|(sheet, _)| of_file(sheet)) {
        if !ops.contains(&op) {
            ops.push(op);
        }
    }
    ops
}

fn page_changed(page: &Page, patch: &Patch, meant: &Meant) -> Result<Vec<String>, EditError> {
    let document = page.document();
    let text = patched(document.text(), patch)?;
    let after = document.reparse(text);
    let tags = Tags::new(document, &after, patch);
    let mut markup = meant.markup.clone();
    for (sheet, _) in &meant.styles {
        // A style attribute changes in its own tag only.
        if let InSheet::Attribute(element) = sheet
            && !markup.gone.contains(element)
        {
            markup.gone.push(*element);
            markup.new.push(Tag::of(document.element(*element)));
        }
    }
    let warnings = markup_changed(&tags, &markup, meant)?;
    let styles = page.styles();
    let mut attributes: HashSet<ElementId> = HashSet::new();
    for (sheet, _) in &meant.styles {
        if let InSheet::Attribute(element) = sheet
            && attributes.insert(*element)
        {
            let Some(before) = styles.attribute_sheet(*element) else {
                continue;
            };
            let value = tags
                .image_of(*element)
                .and_then(|id| after.element(id).attribute("style"))
                .unwrap_or("");
            let text = Text::new(document.text().name(), value);
            let span = text.span();
            let now = Sheet::parse_attribute(text, span);
            let all = meant.styles.iter();
            let ops: Vec<&StyleOp> = all
                .filter(|(sheet, _)| *sheet == InSheet::Attribute(*element))
                .map(|(_, op)| op)
                .collect();
            sheet_changed(before.sheet(), &now, &ops)?;
        }
    }
    for (at, listed) in page.sheets().iter().enumerate() {
        let Arrival::Style(element) = listed.arrival else {
            continue;
        };
        let sheet = listed.styles.sheet();
        let all = meant.styles.iter();
        let ops: Vec<&StyleOp> = all
            .filter(|(sheet, _)| *sheet == InSheet::Listed(at as u32))
            .map(|(_, op)| op)
            .collect();
        let own = Arc::ptr_eq(sheet.text(), document.text());
        let touched = own
            && patch
                .replacements()
                .iter()
                .any(|r| sheet.span().contains_range(r.range));
        let is_text = meant.markup.texts.iter().any(|(id, _)| *id == element);
        let is_gone = meant.markup.gone.contains(&element);
        if !touched && ops.is_empty() || is_text || is_gone {
            continue;
        }
        let now = tags.image_of(element).map(|id| {
            let element = after.element(id);
            let end = element
                .end_tag
                .map_or(after.text().span().end(), TextRange::start);
            TextRange::new(element.start_tag.end(), end)
        });
        let Some(span) = now else {
            return Err(refused(
                sheet.text().name().to_owned(),
                "the embedded sheet would be lost".to_owned(),
            ));
        };
        let now = Sheet::parse(after.text().clone(), span);
        sheet_changed(sheet, &now, &ops)?;
    }
    Ok(warnings)
}

// Sheets

// Markup

fn fold(text: &str) -> String {
    text.split_whitespace().collect::<Vec<_>>().join(" ")
}
