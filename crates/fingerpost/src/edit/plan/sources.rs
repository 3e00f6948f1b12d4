//! From the built sheet to the file that its author wrote: where a source map says that what an edit
//! changes was written elsewhere, it is changed there too, if that place says the same.
//!
//! The built sheet is changed as well, so that the page shows at once what the next build will give,
//! and the map with it, so that it stays true until then.

use std::ops::Range;
use std::sync::Arc;

use crate::edit::error::EditError;
use crate::edit::expected::{InSheet, StyleOp};
use crate::edit::file_change::FileChange;
use crate::edit::given::declarations;
use crate::edit::plan::rule_at::fold;
use crate::edit::proposal::Proposal;
use crate::edit::rewrite::lines::replacement;
use crate::edit::rewrite::lines::{indent_at, line_ending, line_start, with_own_lines};
use crate::edit::rewrite::write::{with_its_line, written as declared_text};
use crate::page::Page;
use crate::sheet::{Declaration, DeclarationId, Rule, RuleKind, Sheet, TokenKind};
use crate::text::{Authored, Cut, Patch, Replacement, Text, TextRange, TextSize, span};
use crate::value::substitution::value_tokens;

/// A declaration as its author wrote it.
pub(in crate::edit) struct Original {
    pub text: Arc<Text>,
    pub name: Range<usize>,
    pub value: Range<usize>,
    /// `!important`, where it is.
    pub important: Option<Range<usize>>,
    /// The name to the end of the value or its mark.
    pub whole: Range<usize>,
    /// The end of the semicolon that ends it, where there is one.
    pub semicolon: Option<usize>,
}

impl Original {
    pub fn value_source(&self) -> &str {
        self.text.source().cut(self.value.clone())
    }
}

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
        if let Some(name) = authored.missing(sheet.text(), replacement.range.start()) {
            missing.push(name.to_owned());
            continue;
        }
        let (text, own) = translated(sheet, authored, replacement)?;
        more.extend(alike(&key, sheet, authored, replacement, made)?);
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
    if !more.is_empty() {
        let all = change.patch.replacements().iter().cloned().chain(more);
        let mut all: Vec<Replacement> = all.collect();
        all.sort_by_key(|r| (r.range.start(), r.range.end()));
        all.dedup();
        change.patch = Patch::new(all).map_err(|_| EditError::NotThere {
            place: sheet.text().name().to_owned(),
            why: "two of the changes are one in the source; make them one after the other"
                .to_owned(),
        })?;
    }
    let mut patches = Vec::new();
    for (file, replacements) in sources {
        let patch = Patch::new(replacements).map_err(|_| EditError::NotThere {
            place: file.clone(),
            why: "two of the changes are one there; make them one after the other".to_owned(),
        })?;
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
    let mut all = patches;
    match map {
        Some((file, patch)) if file == change.file => {
            // The map is in the sheet itself.
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
    replacement: &Replacement,
    made: &mut Proposal,
) -> Result<Vec<Replacement>, EditError> {
    let Some((id, declaration)) = declaration_at(sheet, replacement.range) else {
        return Ok(Vec::new());
    };
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
        let moved = moved_to(sheet, declaration, other, replacement).ok_or_else(|| {
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
        let more = heads.len().saturating_sub(MOST_NAMED);
        heads.truncate(MOST_NAMED);
        let rest = if more > 0 {
            format!(" and {more} more")
        } else {
            String::new()
        };
        let place = original
            .text
            .place(TextSize::new(original.whole.start as u32));
        let sentence = format!(
            "the declaration at {place} is also part of {}{rest}, which change with it",
            heads.join(", ")
        );
        if !made.warnings.contains(&sentence) {
            made.warnings.push(sentence);
        }
    }
    Ok(changes)
}

/// A change of one declaration as that of another one that says the same.
fn moved_to(
    sheet: &Sheet,
    from: &Declaration,
    to: &Declaration,
    change: &Replacement,
) -> Option<Replacement> {
    let (range, with) = (change.range, change.with.clone());
    if range == from.value {
        return Some(replacement(to.value, with));
    }
    if range == from.name {
        return Some(replacement(to.name, with));
    }
    if range == from.whole() {
        return Some(replacement(to.whole(), with));
    }
    if range == with_its_line(sheet, from) {
        return Some(replacement(with_its_line(sheet, to), with));
    }
    let same = sheet.text().slice(from.whole()) == sheet.text().slice(to.whole());
    if !same {
        return None;
    }
    // What is at the same distance from the beginning.
    let whole = TextRange::new(from.span.start(), from.end());
    if whole.contains_range(range) {
        let offset = range.start() - from.span.start();
        return Some(replacement(
            TextRange::at(to.span.start() + offset, range.len()),
            with,
        ));
    }
    if range.is_empty() && range.start() >= from.end() {
        let (own, other) = (with_its_line(sheet, from), with_its_line(sheet, to));
        let behind = (range.start() == own.end()).then_some(other.end())?;
        return Some(replacement(TextRange::empty(behind), with));
    }
    None
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

fn refused(sheet: &Sheet, at: TextSize, why: &str) -> EditError {
    not_followed(sheet, at, why, None)
}

fn not_followed(sheet: &Sheet, at: TextSize, why: &str, variable: Option<&str>) -> EditError {
    let built = sheet.place(at);
    let place = match &built.authored {
        Some(authored) => authored.to_string(),
        None => built.to_string(),
    };
    EditError::NotFollowed {
        place,
        file: built.file,
        why: why.to_owned(),
        variable: variable.map(str::to_owned),
    }
}

/// The change of the authored text that a change of the served one results in.
fn translated(
    sheet: &Sheet,
    authored: &Authored,
    replacement: &Replacement,
) -> Result<(Arc<Text>, Replacement), EditError> {
    if let Some((id, declaration)) = declaration_at(sheet, replacement.range) {
        let original = original(sheet, authored, id)?;
        let own = in_declaration(sheet, declaration, &original, replacement)?;
        return Ok((original.text, own));
    }
    let inside = |rule: &&Rule| {
        rule.kind == RuleKind::Style && rule.prelude.contains_range(replacement.range)
    };
    let rule = sheet.rules().map(|(_, rule)| rule).find(inside);
    let at = replacement.range.start();
    let Some(rule) = rule else {
        return Err(refused(
            sheet,
            at,
            "nothing says where a new rule belongs there",
        ));
    };
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
    let offset = replacement.range.start() - rule.prelude.start();
    let own = Replacement {
        range: TextRange::at(start + offset, replacement.range.len()),
        with: replacement.with.clone(),
    };
    Ok((text.clone(), own))
}

/// The declaration that a change is about: the one that holds it, or behind which it puts something.
fn declaration_at(sheet: &Sheet, range: TextRange) -> Option<(DeclarationId, &Declaration)> {
    let mut all = sheet.declarations();
    let found = all.find(|(_, d)| {
        let whole = with_its_line(sheet, d);
        d.span.contains_range(range)
            || whole == range
            || whole.contains_range(range) && range.contains_range(d.span)
            || (range.is_empty() && range.start() >= d.span.end() && range.start() <= d.end())
    });
    // A line of its own goes after the line of the declaration before it.
    found.or_else(|| {
        let before = sheet
            .declarations()
            .filter(|(_, d)| d.end() <= range.start());
        let last = before.last().filter(|_| range.is_empty())?;
        let rule = sheet.rule(last.1.rule);
        let between = sheet.tokens_in(TextRange::new(last.1.end(), range.start()));
        let blank = between.iter().all(|t| t.kind.is_blank());
        (blank && rule.inside.contains_inclusive(range.start())).then_some(last)
    })
}

/// What is at the place from which a served declaration comes, where it is one of the property. A
/// map that is a few columns off is helped where only one declaration of the line says the same.
pub(in crate::edit) fn written(
    sheet: &Sheet,
    authored: &Authored,
    id: DeclarationId,
) -> Option<Original> {
    let declaration = sheet.declaration(id);
    let name = sheet.name_source(declaration);
    let (text, start) = authored.find(sheet.text(), declaration.name.start())?;
    if let Some(found) = read(text, start.into(), name) {
        return Some(found);
    }
    let line = text.line_span(text.line_of(start))?;
    let here = text.slice(line);
    let value = sheet.value_source(declaration);
    let mut same = here
        .match_indices(name)
        .filter(|(at, _)| {
            let before = here.cut(..*at).chars().next_back();
            before.is_none_or(|c| !(c.is_alphanumeric() || c == '-' || c == '_' || c == '$'))
        })
        .filter_map(|(at, _)| read(text, usize::from(line.start()) + at, name))
        .filter(|found| same_value(found.value_source(), value));
    let only = same.next()?;
    same.next().is_none().then_some(only)
}

/// A served declaration as its author wrote it.
pub(in crate::edit) fn original(
    sheet: &Sheet,
    authored: &Authored,
    id: DeclarationId,
) -> Result<Original, EditError> {
    let declaration = sheet.declaration(id);
    let at = declaration.span.start();
    let name = sheet.name_source(declaration);
    let original = written(sheet, authored, id).ok_or_else(|| {
        let why = match authored.find(sheet.text(), declaration.name.start()) {
            Some(_) => {
                format!("no declaration of {name} is at that place; the map may be old")
            }
            None => "its source map does not say from where this comes".to_owned(),
        };
        refused(sheet, at, &why)
    })?;
    let value = sheet.value_source(declaration);
    let own = original.value_source();
    if same_value(own, value) {
        return Ok(original);
    }
    let why = match variable_of(own) {
        Some(variable) => {
            let defined = authored
                .sources()
                .filter_map(|(_, text)| definition(text?, variable))
                .next();
            match defined {
                Some((place, was)) => {
                    let why = format!(
                        "the value there is {own}, and {variable} is {was}, defined at {place}"
                    );
                    return Err(not_followed(sheet, at, &why, Some(variable)));
                }
                None => format!("the value there is {own}, and nothing says what {variable} is"),
            }
        }
        None => format!("the value there is {own}, not {value}"),
    };
    Err(refused(sheet, at, &why))
}

/// Whether two values say the same, however a program writes numbers, colors and quotes.
fn same_value(a: &str, b: &str) -> bool {
    let parts = |text: &str| -> Vec<String> {
        let tokens = value_tokens(text);
        let solid = tokens.iter().filter(|t| !t.kind.is_blank());
        solid.map(|t| plain(t.kind, t.source(text))).collect()
    };
    fold(a) == fold(b) || parts(a) == parts(b)
}

/// A value in the notation of another: what both have is written as the other writes it.
fn in_its_words(own: &str, value: &str) -> String {
    let known = value_tokens(own);
    let mut text = String::with_capacity(value.len());
    for token in value_tokens(value) {
        let source = token.source(value);
        let same = known.iter().find(|other| {
            other.kind == token.kind
                && plain(other.kind, other.source(own)) == plain(token.kind, source)
        });
        text.push_str(same.map_or(source, |other| other.source(own)));
    }
    text
}

/// A token in one of the ways to write it.
fn plain(kind: TokenKind, source: &str) -> String {
    match kind {
        TokenKind::Number | TokenKind::Dimension | TokenKind::Percentage => {
            let end = source
                .find(|c: char| !(c.is_ascii_digit() || matches!(c, '.' | '-' | '+')))
                .unwrap_or(source.len());
            match source.cut(..end).parse::<f64>() {
                Ok(number) => format!("{number}{}", source.cut(end..).to_ascii_lowercase()),
                Err(_) => source.to_owned(),
            }
        }
        TokenKind::Hash | TokenKind::IdHash => {
            let lower = source.to_ascii_lowercase();
            let digits = lower.cut(1..);
            match digits.len() {
                3 | 4 => digits.chars().flat_map(|c| [c, c]).collect(),
                _ => digits.to_owned(),
            }
        }
        TokenKind::Text => source.trim_matches(['"', '\'']).to_owned(),
        _ => source.to_owned(),
    }
}

/// The first `$name` or `@name` of a value.
pub(in crate::edit) fn variable_of(value: &str) -> Option<&str> {
    let start = value.find(['$', '@'])?;
    let rest = value.cut(start + 1..);
    let end = rest
        .find(|c: char| !(c.is_alphanumeric() || c == '-' || c == '_'))
        .unwrap_or(rest.len());
    (end > 0).then(|| value.cut(start..start + 1 + end))
}

/// Where a text defines a variable, and as what.
pub(in crate::edit) fn definition(
    text: &Text,
    variable: &str,
) -> Option<(crate::text::Place, String)> {
    let range = definition_range(text, variable)?;
    let place = text.place(TextSize::new(range.start as u32));
    Some((place, text.source().cut(range).to_owned()))
}

/// The value of a variable's definition at the beginning of a line.
pub(in crate::edit) fn definition_range(text: &Text, variable: &str) -> Option<Range<usize>> {
    let source = text.source();
    let mut at = 0;
    for line in source.split_inclusive('\n') {
        let start = at;
        at += line.len();
        let trimmed = line.trim_start();
        let Some(rest) = trimmed.strip_prefix(variable) else {
            continue;
        };
        let Some(value) = rest.trim_start().strip_prefix(':') else {
            continue;
        };
        let from = start + line.len() - value.len();
        let (_, until) = value_end(source.cut(from..));
        let value = source.cut(from..from + until);
        let bare = value.split(" !default").next().unwrap_or(value);
        let lead = bare.len() - bare.trim_start().len();
        return Some(from + lead..from + lead + bare.trim().len());
    }
    None
}

/// Where a value ends: at the `;` or `}` that closes it; and where it ends without the comments behind
/// it.
fn value_end(source: &str) -> (usize, usize) {
    let bytes = source.as_bytes();
    let mut depth = 0usize;
    let mut quote = None;
    let mut at = 0;
    // The end of what is neither white space nor a comment.
    let mut solid = 0;
    while let Some(&byte) = bytes.get(at) {
        let next = bytes.get(at + 1).copied();
        match (quote, byte) {
            (_, b'\\') => {
                at += 2;
                solid = at;
                continue;
            }
            (Some(q), _) if byte == q => quote = None,
            (Some(_), _) => {}
            (None, b'"' | b'\'') => quote = Some(byte),
            (None, b'/') if next == Some(b'*') => {
                let end = source.get(at + 2..).and_then(|rest| rest.find("*/"));
                at = end.map_or(source.len(), |end| at + 2 + end + 2);
                continue;
            }
            // A comment up to the end of the line; in parentheses it is a part of a URL.
            (None, b'/') if next == Some(b'/') && depth == 0 => {
                let end = source.get(at..).and_then(|rest| rest.find('\n'));
                at = end.map_or(source.len(), |end| at + end);
                continue;
            }
            (None, b'(' | b'{' | b'[') => depth += 1,
            (None, b')' | b']') => depth = depth.saturating_sub(1),
            (None, b'}') if depth == 0 => break,
            (None, b'}') => depth -= 1,
            (None, b';') if depth == 0 => break,
            _ => {}
        }
        at += 1;
        if !byte.is_ascii_whitespace() {
            solid = at;
        }
    }
    (at.min(source.len()), solid.min(source.len()))
}

/// Reads a declaration of a property at a place of an authored text.
fn read(text: &Arc<Text>, start: usize, property: &str) -> Option<Original> {
    let source = text.source();
    let rest = source.get(start..)?;
    let name = rest.get(..property.len())?;
    if !name.eq_ignore_ascii_case(property) {
        return None;
    }
    let after = rest.cut(property.len()..);
    let value = after.trim_start().strip_prefix(':')?;
    let from = source.len() - value.len();
    let (until, solid) = value_end(value);
    let semicolon = value
        .cut(until..)
        .starts_with(';')
        .then_some(from + until + 1);
    let written = value.cut(..solid);
    let lead = written.len() - written.trim_start().len();
    let mark = written
        .rfind('!')
        .filter(|at| fold(written.cut(at + 1..)).eq_ignore_ascii_case("important"));
    let bare = mark.map_or(written, |at| written.cut(..at).trim_end());
    Some(Original {
        text: text.clone(),
        name: start..start + property.len(),
        value: from + lead..from + bare.len().max(lead),
        important: mark.map(|at| from + at..from + written.len()),
        whole: start..from + written.len().max(lead),
        semicolon,
    })
}

/// A change of a served declaration, made in the original.
fn in_declaration(
    sheet: &Sheet,
    declaration: &Declaration,
    original: &Original,
    replacement: &Replacement,
) -> Result<Replacement, EditError> {
    let source = sheet.text().source();
    let own = original.text.source();
    let range = replacement.range;
    let with = replacement.with.clone();
    let at = |range: Range<usize>| span(range.start, range.end);
    let value = declaration.value;
    if declaration.name.contains_range(range) && !range.is_empty() {
        return Ok(Replacement {
            range: at(original.name.clone()),
            with,
        });
    }
    if value.contains_range(range) && !(range.is_empty() && range.start() == value.end()) {
        if range == value {
            return Ok(Replacement {
                range: at(original.value.clone()),
                with: in_its_words(original.value_source(), &with),
            });
        }
        if original.value_source() == source.cut(value) {
            let start = original.value.start + usize::from(range.start() - value.start());
            return Ok(Replacement {
                range: at(start..start + usize::from(range.len())),
                with,
            });
        }
        // It is written in another way there: the whole value is replaced.
        let (before, after) = (range.start() - value.start(), value.end() - range.end());
        let served = source.cut(value);
        let kept = served.len() - usize::from(after);
        return Ok(Replacement {
            range: at(original.value.clone()),
            with: format!(
                "{}{with}{}",
                served.cut(..usize::from(before)),
                served.cut(kept..)
            ),
        });
    }
    // Marked `!important`, or no longer.
    if range.start() == value.end() && with.trim_start().starts_with('!') {
        let end = original.value.end;
        return Ok(Replacement {
            range: at(end..end),
            with,
        });
    }
    if let (Some(mark), Some(own_mark)) = (declaration.important, &original.important)
        && range == TextRange::new(value.end(), mark.end())
    {
        return Ok(Replacement {
            range: at(original.value.end..own_mark.end),
            with,
        });
    }
    if range.contains_range(declaration.span) {
        return Ok(whole(own, original, &with));
    }
    if range.is_empty() && range.start() >= declaration.span.end() {
        return behind(own, original, &with, sheet, range.start());
    }
    Err(refused(
        sheet,
        declaration.span.start(),
        "that part of the declaration is not written so there",
    ))
}

/// The whole declaration removed, or made a comment.
fn whole(source: &str, original: &Original, with: &str) -> Replacement {
    let end = original.semicolon.unwrap_or(original.whole.end);
    let written = source.cut(original.whole.start..end);
    if with.starts_with("/*") {
        return Replacement {
            range: span(original.whole.start, end),
            with: format!("/* {written} */"),
        };
    }
    Replacement {
        range: with_own_lines(source, span(original.whole.start, end)),
        with: String::new(),
    }
}

/// Declarations put behind one, as the author writes them.
fn behind(
    source: &str,
    original: &Original,
    with: &str,
    sheet: &Sheet,
    at: TextSize,
) -> Result<Replacement, EditError> {
    let given = with.trim_matches([';', ' ', '\n', '\r', '\t']);
    let wanted = declarations(given)
        .map_err(|_| refused(sheet, at, "what is put there is not a declaration"))?;
    let start = original.whole.start;
    let colon = source.cut(original.name.end..original.value.start);
    let colon = if colon.trim() == ":" { colon } else { ": " };
    let indent = indent_at(source, start);
    let ending = line_ending(source);
    let line = line_start(source, start);
    let own_line = source.cut(line..start).trim().is_empty();
    let between = if own_line {
        format!("{ending}{indent}")
    } else {
        " ".to_owned()
    };
    let mut text = String::new();
    for declaration in &wanted {
        if original.semicolon.is_none() {
            text.push(';');
        }
        text.push_str(&between);
        text.push_str(&declared_text(declaration, colon));
        if original.semicolon.is_some() {
            text.push(';');
        }
    }
    let end = original.semicolon.unwrap_or(original.whole.end);
    // What is after it on its line stays with it.
    let rest = source.cut(end..).split('\n').next().unwrap_or("");
    let comment = rest.trim_start();
    if own_line
        && original.semicolon.is_some()
        && source.cut(end..).contains('\n')
        && (comment.is_empty() || comment.starts_with("//"))
    {
        let next = end + rest.len() + 1;
        let lines = wanted.iter().map(|d| {
            let declared = declared_text(d, colon);
            format!("{indent}{declared};{ending}")
        });
        return Ok(Replacement {
            range: span(next, next),
            with: lines.collect(),
        });
    }
    Ok(Replacement {
        range: span(end, end),
        with: text,
    })
}
