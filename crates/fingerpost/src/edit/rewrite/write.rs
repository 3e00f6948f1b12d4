//! Writing declarations: every change of one as a patch of its file, together with what it means.
//!
//! No text is searched here: where a declaration ends, what is after it on its line and where its
//! semicolon is, the parse knows.

use std::sync::Arc;

use crate::edit::error::EditError;
use crate::edit::expected::{Declared, InSheet, Meant, StyleOp};
use crate::edit::file_change::FileChange;
use crate::edit::placement::{Placed, Placement, Placements};
use crate::edit::plan::rule_at::{RuleAt, fold};
use crate::edit::proposal::Proposal;
use crate::edit::rewrite::lines::{indent_at, indent_step, line_ending, line_start, replacement};
use crate::page::{DeclarationRef, SheetRef, Styles};
use crate::sheet::{Declaration, DeclarationId, RuleId, Sheet, TokenKind};
use crate::text::{Cut, Patch, Replacement, Text, TextRange, TextSize};

/// The change of a sheet's file: in a style attribute the value is written as its quotes ask for.
pub(in crate::edit) fn in_sheet(
    styles: &Styles<'_>,
    sheet: SheetRef,
    placed: Vec<Placed>,
    ops: impl IntoIterator<Item = StyleOp>,
) -> Proposal {
    let text = styles.sheet(sheet).sheet().text().clone();
    let key = InSheet::from(sheet);
    let placements = Placements::of(&key, &placed);
    let replacements = placed.into_iter().map(|one| one.replacement).collect();
    let change = match sheet {
        SheetRef::Attribute(element) => in_attribute(styles, element, &text, replacements),
        _ => FileChange::new(text.name(), joined(replacements)),
    };
    Proposal {
        changes: vec![change],
        meant: Meant::styles(key, ops),
        placements,
        ..Proposal::default()
    }
}

fn joined(replacements: Vec<Replacement>) -> Patch {
    Patch::new(replacements).expect("one declaration's parts don't overlap")
}

fn in_attribute(
    styles: &Styles<'_>,
    element: crate::markup::ElementId,
    text: &Arc<Text>,
    replacements: Vec<Replacement>,
) -> FileChange {
    let document = styles.page().document();
    let page = document.text();
    let attribute = document
        .element(element)
        .attribute_node("style")
        .expect("the declaration is in it");
    let quote = attribute.quote;
    let escape = |value: &str| {
        let value = value.replace('&', "&amp;");
        match quote {
            Some('\'') => value.replace('\'', "&#39;"),
            Some(_) => value.replace('"', "&quot;"),
            None => value
                .replace('"', "&quot;")
                .replace('\'', "&#39;")
                .replace(' ', "&#32;")
                .replace('>', "&gt;"),
        }
    };
    if Arc::ptr_eq(text, page) {
        let escaped = replacements
            .into_iter()
            .map(|r| replacement(r.range, escape(&r.with)));
        return FileChange::new(page.name(), joined(escaped.collect()));
    }
    // The value has character references: what differs of it is written.
    let changed = joined(replacements).put_into(text.source());
    let span = attribute.value_span;
    let old = page.slice(span);
    let patch = crate::text::difference(old, &escape(&changed));
    let moved = patch.replacements().iter();
    let moved = moved.map(|r| replacement(r.range + span.start(), r.with.clone()));
    FileChange {
        copies: vec![span],
        ..FileChange::new(page.name(), joined(moved.collect()))
    }
}

/// What is between name and value, as a file writes it: its white space, never its comments.
pub(in crate::edit) fn colon(sheet: &Sheet, declaration: &Declaration) -> String {
    let source = sheet.text().source();
    let blank = |range: TextRange| {
        let text = source.cut(range);
        let plain = text.chars().all(|c| c == ' ' || c == '\t');
        if plain { text } else { "" }
    };
    let before = blank(TextRange::new(
        declaration.name.end(),
        declaration.colon.start(),
    ));
    let value = declaration.value.start().max(declaration.colon.end());
    let after = source.cut(TextRange::new(declaration.colon.end(), value));
    let after = match after.chars().all(|c| c == ' ' || c == '\t') {
        true => after,
        false if after.starts_with(char::is_whitespace) => " ",
        false => "",
    };
    let after = if declaration.value.is_empty() {
        " "
    } else {
        after
    };
    format!("{before}:{after}")
}

/// Another value for a declaration.
pub(in crate::edit) fn value(
    styles: &Styles<'_>,
    reference: DeclarationRef,
    value: &str,
) -> Result<Proposal, EditError> {
    let style_sheet = styles.sheet(reference.sheet);
    let sheet = style_sheet.sheet();
    let declaration = sheet.declaration(reference.id);
    let was = sheet.value_source(declaration).to_owned();
    if was == value {
        return Err(EditError::Same {
            property: sheet.name_source(declaration).to_owned(),
            value: was,
            place: sheet.place_of(declaration),
        });
    }
    let change = match declaration.value.is_empty() {
        // An empty value stands right after its colon.
        true => Placement::Value(reference.id).at(declaration.value.start(), format!(" {value}")),
        false => Placement::Value(reference.id).replacing(declaration.value, value),
    };
    let op = StyleOp::Value(reference.id, value.to_owned());
    Ok(Proposal {
        was: Some(was),
        ..in_sheet(styles, reference.sheet, vec![change], [op])
    })
}

/// Another text for a part of a declaration's value.
pub(in crate::edit) fn part(
    styles: &Styles<'_>,
    reference: DeclarationRef,
    part: TextRange,
    with: &str,
) -> Result<Proposal, EditError> {
    let style_sheet = styles.sheet(reference.sheet);
    let sheet = style_sheet.sheet();
    let declaration = sheet.declaration(reference.id);
    let was = sheet.text().slice(part).to_owned();
    if was == with {
        return Err(EditError::Same {
            property: sheet.name_source(declaration).to_owned(),
            value: was,
            place: sheet.place(part.start()),
        });
    }
    let inside = part - declaration.value.start();
    let whole = Patch::single(inside, with).put_into(sheet.value_source(declaration));
    let op = StyleOp::Value(reference.id, whole);
    let change = Placement::PartOfValue(reference.id).replacing(part, with);
    Ok(Proposal {
        was: Some(was),
        ..in_sheet(styles, reference.sheet, vec![change], [op])
    })
}

/// A declaration removed, with its line where it is there alone.
pub(in crate::edit) fn without(styles: &Styles<'_>, reference: DeclarationRef) -> Proposal {
    let style_sheet = styles.sheet(reference.sheet);
    let sheet = style_sheet.sheet();
    let declaration = sheet.declaration(reference.id);
    let gone = with_its_line(sheet, declaration);
    let change = Placement::Removed(reference.id).replacing(gone, "");
    let op = StyleOp::Gone(reference.id);
    Proposal {
        was: Some(sheet.text().slice(declaration.span).to_owned()),
        ..in_sheet(styles, reference.sheet, vec![change], [op])
    }
}

/// A declaration made a comment.
pub(in crate::edit) fn commented_out(
    styles: &Styles<'_>,
    reference: DeclarationRef,
) -> Result<Proposal, EditError> {
    let style_sheet = styles.sheet(reference.sheet);
    let sheet = style_sheet.sheet();
    let declaration = sheet.declaration(reference.id);
    let written = sheet.text().slice(declaration.span);
    // Comments end at the first `*/`, whatever that is in.
    if written.contains("*/") {
        return Err(EditError::NotThere {
            place: sheet.place_of(declaration).to_string(),
            why: "the declaration contains a comment, and comments can't be nested; remove \
                  the declaration instead"
                .to_owned(),
        });
    }
    let whole = declaration.whole();
    let plain = !sheet
        .tokens_in(TextRange::new(declaration.span.end(), whole.end()))
        .iter()
        .any(|t| t.kind == TokenKind::Comment);
    // Its semicolon goes with it, so that nothing is left behind that ends nothing.
    let (range, text) = match (declaration.semicolon, plain) {
        (Some(_), true) => (whole, sheet.text().slice(whole).to_owned()),
        (Some(_), false) => (declaration.span, format!("{written};")),
        (None, _) => (declaration.span, written.to_owned()),
    };
    let change = Placement::CommentedOut(reference.id).replacing(range, format!("/* {text} */"));
    let op = StyleOp::Gone(reference.id);
    Ok(Proposal {
        was: Some(written.to_owned()),
        ..in_sheet(styles, reference.sheet, vec![change], [op])
    })
}

/// A comment before a declaration, with its marks.
pub(in crate::edit) fn commented(
    styles: &Styles<'_>,
    reference: DeclarationRef,
    comment: &str,
) -> Proposal {
    let style_sheet = styles.sheet(reference.sheet);
    let sheet = style_sheet.sheet();
    let change = before(sheet, reference.id, comment);
    Proposal {
        was: Some(
            sheet
                .text()
                .slice(sheet.declaration(reference.id).span)
                .to_owned(),
        ),
        ..in_sheet(styles, reference.sheet, vec![change], [])
    }
}

/// A declaration marked `!important`, or no longer.
pub(in crate::edit) fn important(
    styles: &Styles<'_>,
    reference: DeclarationRef,
    on: bool,
) -> Result<Proposal, EditError> {
    let style_sheet = styles.sheet(reference.sheet);
    let sheet = style_sheet.sheet();
    let declaration = sheet.declaration(reference.id);
    let change = match (declaration.important, on) {
        (None, true) => {
            Placement::Important(reference.id).at(declaration.value.end(), " !important")
        }
        (Some(mark), false) => {
            let before = sheet.tokens_in(TextRange::new(declaration.value.end(), mark.start()));
            let before = before.last();
            let start = match before {
                Some(blank) if blank.kind == TokenKind::Space => blank.span().start(),
                _ => mark.start(),
            };
            Placement::Important(reference.id).replacing(TextRange::new(start, mark.end()), "")
        }
        (marked, _) => {
            let word = if marked.is_some() {
                "!important"
            } else {
                "not !important"
            };
            return Err(EditError::Same {
                property: sheet.name_source(declaration).to_owned(),
                value: word.to_owned(),
                place: sheet.place_of(declaration),
            });
        }
    };
    let op = StyleOp::Important(reference.id, on);
    Ok(in_sheet(styles, reference.sheet, vec![change], [op]))
}

/// A declaration made one of another property.
pub(in crate::edit) fn renamed(
    styles: &Styles<'_>,
    reference: DeclarationRef,
    name: &str,
) -> Proposal {
    let style_sheet = styles.sheet(reference.sheet);
    let sheet = style_sheet.sheet();
    let declaration = sheet.declaration(reference.id);
    let change = Placement::Name(reference.id).replacing(declaration.name, name);
    let op = StyleOp::Name(reference.id, name.to_owned());
    Proposal {
        was: Some(sheet.name_source(declaration).to_owned()),
        ..in_sheet(styles, reference.sheet, vec![change], [op])
    }
}

/// Declarations put right after another one, as the file writes it.
pub(in crate::edit) fn added_behind(
    styles: &Styles<'_>,
    reference: DeclarationRef,
    declared: &[Declared],
) -> Proposal {
    let style_sheet = styles.sheet(reference.sheet);
    let sheet = style_sheet.sheet();
    let rule = sheet.declaration(reference.id).rule;
    let changes = vec![after(sheet, reference.id, declared)];
    let ops = declared.iter().map(|d| StyleOp::New(rule, d.clone()));
    in_sheet(styles, reference.sheet, changes, ops)
}

/// Declarations put into a rule, after those that it has.
pub(in crate::edit) fn added_to(
    styles: &Styles<'_>,
    at: RuleAt,
    declared: &[Declared],
) -> Proposal {
    let sheet = at.sheet(styles);
    let changes = vec![in_rule(sheet, at.rule, declared)];
    let ops = declared.iter().map(|d| StyleOp::New(at.rule, d.clone()));
    Proposal {
        was: Some(fold(sheet.prelude_source(sheet.rule(at.rule)))),
        ..in_sheet(styles, SheetRef::Listed(at.sheet), changes, ops)
    }
}

/// The change that puts declarations into a rule.
pub(in crate::edit) fn in_rule(sheet: &Sheet, rule: RuleId, declared: &[Declared]) -> Placed {
    match sheet.declarations_of(rule).last() {
        Some((last, _)) => after(sheet, last, declared),
        None => first(sheet, rule, declared),
    }
}

/// `name: value !important`, with what is between name and value in the file.
pub(in crate::edit) fn written(declared: &Declared, colon: &str) -> String {
    let mark = if declared.important {
        " !important"
    } else {
        ""
    };
    format!("{}{colon}{}{mark}", declared.name, declared.value)
}

/// The beginning of the next line, where nothing but white space and comments stands before it.
pub(in crate::edit) fn next_line(sheet: &Sheet, from: TextSize) -> Option<TextSize> {
    let source = sheet.text().source();
    for token in sheet.tokens_from(from) {
        let text = token.source(source);
        match token.kind {
            TokenKind::Space => {
                if let Some(at) = text.find('\n') {
                    return Some(TextSize::new(token.start + at as u32 + 1));
                }
            }
            TokenKind::Comment if !text.contains('\n') => {}
            _ => break,
        }
    }
    None
}

/// Whether a declaration is the first on its line.
fn begins_line(sheet: &Sheet, offset: TextSize) -> bool {
    let source = sheet.text().source();
    let start = line_start(source, offset.into());
    start >= usize::from(sheet.span().start())
        && source.cut(start..offset.into()).trim().is_empty()
        && start > 0
}

/// Declarations right after another one: on lines of their own where it begins its line.
pub(in crate::edit) fn after(sheet: &Sheet, other: DeclarationId, declared: &[Declared]) -> Placed {
    let declaration = sheet.declaration(other);
    let source = sheet.text().source();
    let colon = colon(sheet, declaration);
    let placement = Placement::After(other, declared.to_vec());
    let each = |before: &str, after: &str| -> String {
        let all = declared
            .iter()
            .map(|d| format!("{before}{}{after}", written(d, &colon)));
        all.collect()
    };
    let on_lines = begins_line(sheet, declaration.span.start());
    let indent = indent_at(source, declaration.span.start().into());
    let ending = line_ending(source);
    // The next line, so that what is after the declaration on its own stays with it.
    if on_lines
        && declaration.semicolon.is_some()
        && let Some(next) = next_line(sheet, declaration.end())
    {
        return placement.at(next, each(indent, &format!(";{ending}")));
    }
    let before = match on_lines {
        true => format!("{ending}{indent}"),
        false => gap_before(sheet, declaration),
    };
    match declaration.semicolon {
        Some(_) => placement.at(declaration.end(), each(&before, ";")),
        None => placement.at(declaration.span.end(), each(&format!(";{before}"), "")),
    }
}

/// A text before a declaration: on its own line where the declaration begins its line.
pub(in crate::edit) fn before(sheet: &Sheet, id: DeclarationId, text: &str) -> Placed {
    let source = sheet.text().source();
    let start = sheet.declaration(id).span.start();
    let placement = Placement::BeforeLine(id, text.to_owned());
    match begins_line(sheet, start) {
        true => {
            let indent = indent_at(source, start.into());
            placement.at(start, format!("{text}{}{indent}", line_ending(source)))
        }
        false => {
            let gap = gap_before(sheet, sheet.declaration(id));
            placement.at(start, format!("{text}{gap}"))
        }
    }
}

/// What keeps a declaration apart from the one before it on the same line.
fn gap_before(sheet: &Sheet, declaration: &Declaration) -> String {
    let mut own = sheet.declarations_of(declaration.rule);
    let before = own
        .by_ref()
        .map(|(_, d)| d)
        .take_while(|d| d.span.start() < declaration.span.start())
        .last();
    let source = sheet.text().source();
    match before {
        Some(before) if before.end() <= declaration.span.start() => {
            let between = source.cut(TextRange::new(before.end(), declaration.span.start()));
            let spaces = between.len() - between.trim_start_matches(' ').len();
            " ".repeat(spaces.min(1))
        }
        _ if colon(sheet, declaration).ends_with(' ') => " ".to_owned(),
        _ => String::new(),
    }
}

/// The first declarations of a rule without any, on lines of their own where the block has lines.
fn first(sheet: &Sheet, rule: RuleId, declared: &[Declared]) -> Placed {
    let source = sheet.text().source();
    let rule = sheet.rule(rule);
    let inside = source.cut(rule.inside);
    let at = rule.inside.start();
    let one_by_one = |before: &str| -> String {
        let all = declared
            .iter()
            .map(|d| format!("{before}{};", written(d, ": ")));
        all.collect()
    };
    if !inside.contains('\n') || !rule.closed {
        let gap = if inside.is_empty() && rule.closed {
            " "
        } else {
            ""
        };
        return Placement::Elsewhere.at(at, format!("{}{gap}", one_by_one(" ")));
    }
    let indent = indent_at(source, rule.span.start().into());
    let step = indent_step(source.cut(sheet.span()));
    let ending = line_ending(source);
    Placement::Elsewhere.at(at, one_by_one(&format!("{ending}{indent}{step}")))
}

/// A declaration with its semicolon, and with its line where it is there alone.
pub(in crate::edit) fn with_its_line(sheet: &Sheet, declaration: &Declaration) -> TextRange {
    let source = sheet.text().source();
    let whole = declaration.whole();
    let alone = begins_line(sheet, whole.start());
    let blank = sheet.tokens_from(whole.end()).next();
    let Some(token) = blank.filter(|t| t.kind == TokenKind::Space) else {
        return whole;
    };
    let text = token.source(source);
    if let Some(at) = text.find('\n')
        && alone
    {
        let start = line_start(source, whole.start().into());
        let next = token.start + at as u32 + 1;
        return TextRange::new(TextSize::new(start as u32), TextSize::new(next));
    }
    let spaces = text.len() - text.trim_start_matches(' ').len();
    let end = TextSize::new(token.start + spaces as u32);
    TextRange::new(whole.start(), end)
}
