//! From the built sheet to the file that its author wrote: where a source map says that what an edit
//! changes was written elsewhere, it is changed there too, if that place says the same.
//!
//! The built sheet is changed as well, so that the page shows at once what the next build will give,
//! and the map with it, so that it stays true until then.

use std::ops::Range;
use std::sync::Arc;

use crate::edit::error::EditError;
use crate::edit::expected::{Declared, InSheet, StyleOp};
use crate::edit::file_change::FileChange;
use crate::edit::placement::Placement;
use crate::edit::plan::original::{Original, original, refused, same_value, written};
use crate::edit::plan::rule_at::fold;
use crate::edit::proposal::Proposal;
use crate::edit::rewrite::lines::{indent_at, line_ending, replacement, with_own_lines};
use crate::edit::rewrite::write::{self, with_its_line, written as declared_text};
use crate::page::Page;
use crate::sheet::{Declaration, DeclarationId, Rule, RuleKind, Sheet};
use crate::text::{Authored, Cut, Patch, Place, Replacement, Text, TextRange, TextSize, span};

/// Adds the changes of authored files to those of the served sheets that were made from them, and
/// those of the other served declarations that are written in the same place.
pub(in crate::edit) fn follow(page: &Page, made: &mut Proposal) -> Result<(), EditError> {
    let mut all: Vec<FileChange> = Vec::new();
    for change in std::mem::take(&mut made.changes) {
        let mut sheets = page.sheets().iter().enumerate();
        let found = sheets.find_map(|(at, s)| {
            let sheet = s.styles.sheet();
            let authored = sheet.text().authored()?;
            (sheet.text().name() == change.file).then_some((at, sheet, authored))
        });
        match found {
            Some((at, sheet, authored)) => {
                let key = InSheet::Listed(at as u32);
                all.extend(followed(key, sheet, authored, change, made)?);
            }
            None => all.push(change),
        }
    }
    made.changes = all;
    Ok(())
}

fn followed(
    key: InSheet,
    sheet: &Sheet,
    authored: &Authored,
    mut change: FileChange,
    made: &mut Proposal,
) -> Result<Vec<FileChange>, EditError> {
    let mut sources: Vec<(String, Vec<Replacement>)> = Vec::new();
    let mut new: Vec<(Replacement, String, Replacement)> = Vec::new();
    let mut more: Vec<Replacement> = Vec::new();
    let mut missing: Vec<String> = Vec::new();
    for replacement in change.patch.replacements() {
        let placement = made.placements.get(&key, replacement.range);
        // Where a declaration ends, the map may have nothing, or what is after it.
        let subject = placement.declaration();
        let subject = subject.map(|id| sheet.declaration(id).name.start());
        let subject = subject.unwrap_or(replacement.range.start());
        match authored.missing(sheet.text(), subject) {
            // A map may list the sheet itself, for what a later step of the build put in.
            Some(name) if name == sheet.text().name() => {
                let why = "its source map does not say from where this comes";
                return Err(refused(sheet, subject, why));
            }
            Some(name) => {
                missing.push(name.to_owned());
                continue;
            }
            None => {}
        }
        let (text, own) = translated(sheet, authored, &placement, replacement)?;
        more.extend(alike(&key, sheet, authored, &placement, replacement, made)?);
        let file = text.name().to_owned();
        if replacement.range.is_empty() && own.range.is_empty() {
            new.push((replacement.clone(), file.clone(), own.clone()));
        }
        match sources.iter_mut().find(|(name, _)| *name == file) {
            Some((_, known)) if known.contains(&own) => {}
            Some((_, known)) => known.push(own),
            None => sources.push((file, vec![own])),
        }
    }
    missing.dedup();
    for name in &missing {
        made.warnings.push(format!(
            "{} was made from {name}, which is not in the site: the served sheet is changed, and the \
             next build will overwrite that",
            sheet.text().name()
        ));
    }
    let one_place = |place: &str| EditError::NotThere {
        place: place.to_owned(),
        why: "two of the changes are one there; make them one after the other".to_owned(),
    };
    if !more.is_empty() {
        let all = change.patch.replacements().iter().cloned().chain(more);
        let mut all: Vec<Replacement> = all.collect();
        all.sort_by_key(|r| (r.range.start(), r.range.end()));
        all.dedup();
        change.patch = Patch::new(all).map_err(|_| one_place(sheet.text().name()))?;
    }
    let mut patches = Vec::new();
    for (file, replacements) in sources {
        let patch = Patch::new(replacements).map_err(|_| one_place(&file))?;
        patches.push(FileChange::new(&file, patch));
    }
    let of = |name: &str| {
        let found = patches.iter().find(|p| p.file == name);
        found.map(|p| p.patch.clone())
    };
    let added: Vec<_> = new
        .iter()
        .flat_map(|(served, file, own)| {
            let start = change.patch.map(served.range.start());
            let own_start = of(file).and_then(|p| p.map(own.range.start()));
            let pairs = starts(&served.with).into_iter().zip(starts(&own.with));
            pairs
                .filter_map(|(a, b)| Some((start? + a, file.clone(), own_start? + b)))
                .collect::<Vec<_>>()
        })
        .collect();
    let map = authored.follow(sheet.text(), &change.patch, &of, &added);
    with_map(patches, change, map)
}

/// The patches of the sources, of the served sheet and of its map, which can be in the sheet itself.
fn with_map(
    mut all: Vec<FileChange>,
    mut change: FileChange,
    map: Option<(String, Patch)>,
) -> Result<Vec<FileChange>, EditError> {
    match map {
        Some((file, patch)) if file == change.file => {
            let both = change.patch.replacements().iter().cloned();
            let both = both.chain(patch.replacements().iter().cloned()).collect();
            change.patch = Patch::new(both).map_err(|_| EditError::NotThere {
                place: change.file.clone(),
                why: "the edit is in the sheet's source map".to_owned(),
            })?;
            all.push(change);
        }
        Some((file, patch)) => {
            all.push(change);
            all.push(FileChange::new(&file, patch));
        }
        None => all.push(change),
    }
    Ok(all)
}

/// How many rules are named that hold the same declaration.
const MOST_NAMED: usize = 5;

/// The same change of the other served declarations that are written in the same place: those of a
/// mixin, or of a rule that others extend. Each is added to what is meant, and all of them are said.
fn alike(
    key: &InSheet,
    sheet: &Sheet,
    authored: &Authored,
    placement: &Placement,
    replacement: &Replacement,
    made: &mut Proposal,
) -> Result<Vec<Replacement>, EditError> {
    let Some(id) = placement.declaration() else {
        return Ok(Vec::new());
    };
    let declaration = sheet.declaration(id);
    let Some(original) = written(sheet, authored, id) else {
        return Ok(Vec::new());
    };
    let name = sheet.name_source(declaration);
    let value = sheet.value_source(declaration);
    let mut changes = Vec::new();
    let mut heads = Vec::new();
    let head = |d: &Declaration| fold(sheet.prelude_source(sheet.rule(d.rule)));
    for (other_id, other) in sheet.declarations() {
        if other_id == id || !sheet.name_source(other).eq_ignore_ascii_case(name) {
            continue;
        }
        let same_place = written(sheet, authored, other_id)
            .is_some_and(|o| o.text.name() == original.text.name() && o.whole == original.whole);
        if !same_place {
            continue;
        }
        if !same_value(sheet.value_source(other), value) {
            return Err(refused(
                sheet,
                other.span.start(),
                "one declaration there makes several with different values",
            ));
        }
        heads.push(head(other));
        let moved = moved_to(
            sheet,
            declaration,
            (other_id, other),
            placement,
            replacement,
        )
        .ok_or_else(|| {
            refused(
                sheet,
                other.span.start(),
                "one declaration there makes several that are written in different ways",
            )
        })?;
        changes.push(moved);
        let own: Vec<StyleOp> = made
            .meant
            .styles
            .iter()
            .filter(|(known, _)| known == key)
            .filter_map(|(_, op)| for_other(op, (id, declaration), (other_id, other)))
            .collect();
        for op in own {
            if !made.meant.styles.contains(&(key.clone(), op.clone())) {
                made.meant.styles.push((key.clone(), op));
            }
        }
    }
    if !heads.is_empty() {
        let start = TextSize::new(original.whole.start as u32);
        let sentence = also_part_of(&original.text.place(start), heads);
        if !made.warnings.contains(&sentence) {
            made.warnings.push(sentence);
        }
    }
    Ok(changes)
}

/// What else has the declaration that is written at `place`.
fn also_part_of(place: &Place, mut heads: Vec<String>) -> String {
    let more = heads.len().saturating_sub(MOST_NAMED);
    heads.truncate(MOST_NAMED);
    let rest = match more {
        0 => String::new(),
        more => format!(" and {more} more"),
    };
    format!(
        "the declaration at {place} is also part of {}{rest}, which change with it",
        heads.join(", ")
    )
}

/// A change of one declaration as that of another one that says the same.
fn moved_to(
    sheet: &Sheet,
    from: &Declaration,
    (to_id, to): (DeclarationId, &Declaration),
    placement: &Placement,
    change: &Replacement,
) -> Option<Replacement> {
    let with = change.with.clone();
    match placement {
        Placement::Value(_) => Some(replacement(to.value, with)),
        Placement::Name(_) => Some(replacement(to.name, with)),
        Placement::Removed(_) => Some(replacement(with_its_line(sheet, to), with)),
        Placement::After(_, declared) => Some(write::after(sheet, to_id, declared).replacement),
        Placement::BeforeLine(_, text) => Some(write::before(sheet, to_id, text).replacement),
        Placement::PartOfValue(_) | Placement::Important(_) | Placement::CommentedOut(_) => {
            // What is at the same distance from the beginning, where both are written alike.
            let is_alike = sheet.text().slice(from.whole()) == sheet.text().slice(to.whole());
            let at = to.span.start() + (change.range.start() - from.span.start());
            is_alike.then(|| replacement(TextRange::at(at, change.range.len()), with))
        }
        Placement::Prelude(_) | Placement::Elsewhere => None,
    }
}

/// What is meant for one declaration, for another one.
fn for_other(
    op: &StyleOp,
    one: (DeclarationId, &Declaration),
    other: (DeclarationId, &Declaration),
) -> Option<StyleOp> {
    let (id, declaration) = one;
    match op {
        StyleOp::Value(known, value) if *known == id => {
            Some(StyleOp::Value(other.0, value.clone()))
        }
        StyleOp::Name(known, name) if *known == id => Some(StyleOp::Name(other.0, name.clone())),
        StyleOp::Important(known, on) if *known == id => Some(StyleOp::Important(other.0, *on)),
        StyleOp::Gone(known) if *known == id => Some(StyleOp::Gone(other.0)),
        StyleOp::New(rule, declared) if *rule == declaration.rule => {
            Some(StyleOp::New(other.1.rule, declared.clone()))
        }
        _ => None,
    }
}

/// Where declarations begin in a text that is put in.
fn starts(text: &str) -> Vec<TextSize> {
    let parsed = Text::new("", text);
    let whole = parsed.span();
    let sheet = Sheet::parse_attribute(parsed, whole);
    sheet.declarations().map(|(_, d)| d.span.start()).collect()
}

/// The change of the authored text that a change of the served one results in.
fn translated(
    sheet: &Sheet,
    authored: &Authored,
    placement: &Placement,
    change: &Replacement,
) -> Result<(Arc<Text>, Replacement), EditError> {
    let start = change.range.start();
    let elsewhere = || refused(sheet, start, "nothing says where a new rule belongs there");
    let (id, with) = match placement {
        Placement::Prelude(rule) if sheet.rule(*rule).kind == RuleKind::Style => {
            return in_prelude(sheet, authored, sheet.rule(*rule), change);
        }
        other => (other.declaration().ok_or_else(elsewhere)?, &change.with),
    };
    let own = original(sheet, authored, id)?;
    let declaration = sheet.declaration(id);
    let made = match placement {
        Placement::Name(_) => in_range(&own.name, with),
        Placement::Value(_) if own.value.is_empty() => in_range(&own.value, with),
        Placement::Value(_) => in_range(&own.value, &own.in_its_words(with.trim())),
        Placement::PartOfValue(_) => part_of_value(sheet, declaration, &own, change),
        Placement::Important(_) => match (&own.important, change.range.is_empty()) {
            (_, true) => in_range(&(own.value.end..own.value.end), with),
            (Some(mark), false) => in_range(&(own.value.end..mark.end), with),
            (None, false) => {
                return Err(refused(sheet, start, "there it is not marked !important"));
            }
        },
        Placement::Removed(_) => {
            let whole = own.with_semicolon();
            let gone = with_own_lines(own.text.source(), span(whole.start, whole.end));
            replacement(gone, "")
        }
        Placement::CommentedOut(_) => {
            let whole = own.with_semicolon();
            let written = own.text.source().cut(whole.clone());
            in_range(&whole, &format!("/* {written} */"))
        }
        Placement::After(_, declared) => after(&own, declared),
        Placement::BeforeLine(_, text) => before(&own, text),
        Placement::Prelude(_) | Placement::Elsewhere => return Err(elsewhere()),
    };
    Ok((own.text, made))
}

fn in_range(range: &Range<usize>, with: &str) -> Replacement {
    replacement(span(range.start, range.end), with)
}

/// A change of selectors, where they are written alike.
fn in_prelude(
    sheet: &Sheet,
    authored: &Authored,
    rule: &Rule,
    change: &Replacement,
) -> Result<(Arc<Text>, Replacement), EditError> {
    let served = sheet.prelude_source(rule);
    let found = authored.find(sheet.text(), rule.prelude.start());
    let found = found.filter(|(text, start)| {
        let rest = text.source().cut(usize::from(*start)..);
        rest.strip_prefix(served)
            .is_some_and(|rest| rest.trim_start().starts_with('{'))
    });
    let Some((text, start)) = found else {
        let why = format!("the selector {served} is not written so there");
        return Err(refused(sheet, rule.prelude.start(), &why));
    };
    let offset = change.range.start() - rule.prelude.start();
    let range = TextRange::at(start + offset, change.range.len());
    Ok((text.clone(), replacement(range, change.with.clone())))
}

/// A change of a part of a value: of that part where the source has the same value, else of the whole.
fn part_of_value(
    sheet: &Sheet,
    declaration: &Declaration,
    own: &Original,
    change: &Replacement,
) -> Replacement {
    let served = sheet.value_source(declaration);
    let offset = usize::from(change.range.start() - declaration.value.start());
    let length = usize::from(change.range.len());
    if own.value_source() == served {
        let start = own.value.start + offset;
        return in_range(&(start..start + length), &change.with);
    }
    let (before, after) = (served.cut(..offset), served.cut(offset + length..));
    in_range(&own.value, &format!("{before}{}{after}", change.with))
}

/// Declarations after one, as the author writes them.
fn after(own: &Original, declared: &[Declared]) -> Replacement {
    let source = own.text.source();
    let colon = source.cut(own.name.end..own.value.start);
    let colon = if colon.trim() == ":" { colon } else { ": " };
    let indent = indent_at(source, own.whole.start);
    let ending = line_ending(source);
    let end = own.with_semicolon().end;
    // What is after it on its line stays with it.
    let rest = source.cut(end..).split('\n').next().unwrap_or("");
    let comment = rest.trim_start();
    if own.begins_line()
        && own.semicolon.is_some()
        && source.cut(end..).contains('\n')
        && (comment.is_empty() || comment.starts_with("//"))
    {
        let next = end + rest.len() + 1;
        let lines = declared.iter().map(|one| {
            let text = declared_text(one, colon);
            format!("{indent}{text};{ending}")
        });
        return in_range(&(next..next), &lines.collect::<String>());
    }
    let between = match own.begins_line() {
        true => format!("{ending}{indent}"),
        false => " ".to_owned(),
    };
    let all = declared.iter().map(|one| {
        let text = declared_text(one, colon);
        match own.semicolon {
            Some(_) => format!("{between}{text};"),
            None => format!(";{between}{text}"),
        }
    });
    in_range(&(end..end), &all.collect::<String>())
}

/// A text before a declaration, on its own line where that begins its line.
fn before(own: &Original, text: &str) -> Replacement {
    let source = own.text.source();
    let start = own.whole.start;
    let between = match own.begins_line() {
        true => format!("{}{}", line_ending(source), indent_at(source, start)),
        false => " ".to_owned(),
    };
    in_range(&(start..start), &format!("{text}{between}"))
}
