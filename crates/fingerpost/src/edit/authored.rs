//! From the served sheet to the file that its author wrote: where a source map says that what an edit
//! changes was written elsewhere, it is changed there too, if that place says the same.
//!
//! The served sheet is changed as well, so that the page shows at once what the next build will give,
//! and the map with it, so that it stays true until then.

use std::ops::Range;
use std::sync::Arc;

use super::declaration::with_its_line;
use super::habits::{indent_at, line_ending};
use super::place::property;
use super::{EditError, FileChange};
use crate::page::Page;
use crate::sheet::{Declaration, DeclarationId, Kind, Rule, RuleKind, Sheet};
use crate::text::{Authored, Patch, Replacement, Text, TextRange, TextSize, span};
use crate::value::substitution::value_tokens;

/// A declaration as its author wrote it.
pub(super) struct Original {
    pub text: Arc<Text>,
    pub name: Range<usize>,
    pub value: Range<usize>,
    /// `!important`, where it stands.
    pub important: Option<Range<usize>>,
    /// The name to the end of the value or its mark.
    pub whole: Range<usize>,
    pub semicolon: bool,
}

impl Original {
    pub fn value_source(&self) -> &str {
        &self.text.source()[self.value.clone()]
    }
}

/// Adds the changes of authored files to those of the served sheets that were made from them.
pub(super) fn follow(page: &Page, changes: Vec<FileChange>) -> Result<Vec<FileChange>, EditError> {
    let mut all: Vec<FileChange> = Vec::new();
    for change in changes {
        let mut sheets = page.sheets().iter().map(|s| s.styles.sheet());
        let sheet =
            sheets.find(|s| s.text().name() == change.file && s.text().authored().is_some());
        let Some((sheet, authored)) = sheet.and_then(|s| Some((s, s.text().authored()?))) else {
            all.push(change);
            continue;
        };
        let mut sources: Vec<(String, Vec<Replacement>)> = Vec::new();
        let mut new: Vec<(&Replacement, String, Replacement)> = Vec::new();
        for replacement in change.patch.replacements() {
            let (text, own) = translated(sheet, authored, replacement)?;
            let file = text.name().to_owned();
            if replacement.range.is_empty() && own.range.is_empty() {
                new.push((replacement, file.clone(), own.clone()));
            }
            match sources.iter_mut().find(|(name, _)| *name == file) {
                Some((_, known)) if known.contains(&own) => {}
                Some((_, known)) => known.push(own),
                None => sources.push((file, vec![own])),
            }
        }
        let mut patches = Vec::new();
        for (file, replacements) in sources {
            let patch = Patch::new(replacements).map_err(|_| EditError::NotThere {
                place: file.clone(),
                why: "two of the changes are one there; make them one after the other".to_owned(),
            })?;
            patches.push(FileChange { file, patch });
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
        all.extend(patches);
        all.push(change);
        all.extend(map.map(|(file, patch)| FileChange {
            file: file.name().to_owned(),
            patch,
        }));
    }
    Ok(all)
}

/// Where declarations begin in a text that is put in.
fn starts(text: &str) -> Vec<TextSize> {
    let parsed = Text::new("", text);
    let whole = parsed.span();
    let sheet = Sheet::parse_attribute(parsed, whole);
    sheet.declarations().map(|(_, d)| d.span.start()).collect()
}

fn refused(sheet: &Sheet, at: TextSize, why: &str) -> EditError {
    let served = sheet.text().place(at);
    let place = match &served.authored {
        Some(authored) => authored.to_string(),
        None => served.to_string(),
    };
    EditError::NotThere {
        place,
        why: format!(
            "{} is made from other files, and {why}; change it there by hand, or put the change into \
             the override sheet (--into custom)",
            served.file
        ),
    }
}

/// The change of the authored text that a change of the served one comes to.
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
        let rest = &text.source()[usize::from(*start)..];
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
    let source = sheet.text().source();
    let mut all = sheet.declarations();
    all.find(|(_, d)| {
        let whole = with_its_line(source, d);
        d.span.contains_range(range)
            || whole == range
            || whole.contains_range(range) && range.contains_range(d.span)
            || (range.is_empty()
                && range.start() >= d.span.end()
                && range.start() <= end_of(source, d))
    })
}

/// The end of a declaration with its semicolon.
fn end_of(source: &str, declaration: &Declaration) -> TextSize {
    let end = declaration.span.end();
    if !declaration.semicolon {
        return end;
    }
    let rest = &source[usize::from(end)..];
    end + TextSize::new(rest.find(';').map_or(0, |at| at + 1) as u32)
}

/// What stands at the place from which a served declaration comes, where it is one of the property.
pub(super) fn written(sheet: &Sheet, authored: &Authored, id: DeclarationId) -> Option<Original> {
    let declaration = sheet.declaration(id);
    let (text, start) = authored.find(sheet.text(), declaration.name.start())?;
    read(text, start.into(), sheet.name_source(declaration))
}

/// A served declaration as its author wrote it.
pub(super) fn original(
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
                format!("there is no declaration of {name} at that place; the map may be old")
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
                Some((place, was)) => format!(
                    "the value there is {own}: {variable} is {was}, defined at {place} (to change it: \
                     fingerpost edit variable PAGE '{variable}' VALUE)"
                ),
                None => format!("the value there is {own}, and nothing says what {variable} is"),
            }
        }
        None => format!("the value there is {own}, not {value}"),
    };
    Err(refused(sheet, at, &why))
}

/// Whether two values say the same, however a program writes numbers, colours and quotes.
fn same_value(a: &str, b: &str) -> bool {
    let parts = |text: &str| -> Vec<String> {
        let tokens = value_tokens(text);
        let solid = tokens.iter().filter(|t| !t.kind.is_blank());
        solid.map(|t| plain(t.kind, t.source(text))).collect()
    };
    fold(a) == fold(b) || parts(a) == parts(b)
}

/// A token in one of the ways to write it.
fn plain(kind: Kind, source: &str) -> String {
    match kind {
        Kind::Number | Kind::Dimension | Kind::Percentage => {
            let end = source
                .find(|c: char| !(c.is_ascii_digit() || matches!(c, '.' | '-' | '+')))
                .unwrap_or(source.len());
            match source[..end].parse::<f64>() {
                Ok(number) => format!("{number}{}", source[end..].to_ascii_lowercase()),
                Err(_) => source.to_owned(),
            }
        }
        Kind::Hash | Kind::IdHash => {
            let lower = source.to_ascii_lowercase();
            let digits = &lower[1..];
            match digits.len() {
                3 | 4 => digits.chars().flat_map(|c| [c, c]).collect(),
                _ => digits.to_owned(),
            }
        }
        Kind::Text => source.trim_matches(['"', '\'']).to_owned(),
        _ => source.to_owned(),
    }
}

fn fold(text: &str) -> String {
    text.split_whitespace().collect::<Vec<_>>().join(" ")
}

/// The first `$name` or `@name` of a value.
pub(super) fn variable_of(value: &str) -> Option<&str> {
    let start = value.find(['$', '@'])?;
    let rest = &value[start + 1..];
    let end = rest
        .find(|c: char| !(c.is_alphanumeric() || c == '-' || c == '_'))
        .unwrap_or(rest.len());
    (end > 0).then(|| &value[start..start + 1 + end])
}

/// Where a text defines a variable, and as what.
pub(super) fn definition(text: &Text, variable: &str) -> Option<(crate::text::Place, String)> {
    let range = definition_range(text, variable)?;
    let place = text.place(TextSize::new(range.start as u32));
    Some((place, text.source()[range].to_owned()))
}

/// The value of a variable's definition at the beginning of a line.
pub(super) fn definition_range(text: &Text, variable: &str) -> Option<Range<usize>> {
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
        let until = value_end(&source[from..]);
        let value = &source[from..from + until];
        let bare = value.split(" !default").next().unwrap_or(value);
        let lead = bare.len() - bare.trim_start().len();
        return Some(from + lead..from + lead + bare.trim().len());
    }
    None
}

/// Where a value ends: at the `;` or `}` that closes it.
fn value_end(source: &str) -> usize {
    let mut depth = 0usize;
    let mut quote = None;
    let mut escaped = false;
    for (at, c) in source.char_indices() {
        match (quote, c) {
            _ if escaped => escaped = false,
            (_, '\\') => escaped = true,
            (Some(q), c) if c == q => quote = None,
            (Some(_), _) => {}
            (None, '"' | '\'') => quote = Some(c),
            (None, '(' | '{') => depth += 1,
            (None, ')') => depth = depth.saturating_sub(1),
            (None, '}') if depth == 0 => return at,
            (None, '}') => depth -= 1,
            (None, ';') if depth == 0 => return at,
            _ => {}
        }
    }
    source.len()
}

/// Reads a declaration of a property at a place of an authored text.
fn read(text: &Arc<Text>, start: usize, property: &str) -> Option<Original> {
    let source = text.source();
    let rest = source.get(start..)?;
    let name = rest.get(..property.len())?;
    if !name.eq_ignore_ascii_case(property) {
        return None;
    }
    let after = &rest[property.len()..];
    let value = after.trim_start().strip_prefix(':')?;
    let from = source.len() - value.len();
    let until = value_end(value);
    let semicolon = value[until..].starts_with(';');
    let written = value[..until].trim_end();
    let lead = written.len() - written.trim_start().len();
    let mark = written
        .rfind('!')
        .filter(|at| fold(&written[at + 1..]).eq_ignore_ascii_case("important"));
    let bare = mark.map_or(written, |at| written[..at].trim_end());
    Some(Original {
        text: text.clone(),
        name: start..start + property.len(),
        value: from + lead..from + bare.len().max(lead),
        important: mark.map(|at| from + at..from + written.len()),
        whole: start..from + written.len(),
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
                with,
            });
        }
        if original.value_source() == &source[value] {
            let start = original.value.start + usize::from(range.start() - value.start());
            return Ok(Replacement {
                range: at(start..start + usize::from(range.len())),
                with,
            });
        }
        // It is written in another way there: the whole value is written anew.
        let (before, after) = (range.start() - value.start(), value.end() - range.end());
        let served = &source[value];
        let kept = served.len() - usize::from(after);
        return Ok(Replacement {
            range: at(original.value.clone()),
            with: format!(
                "{}{with}{}",
                &served[..usize::from(before)],
                &served[kept..]
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

/// The whole declaration taken out, or made a comment.
fn whole(source: &str, original: &Original, with: &str) -> Replacement {
    let end = original.whole.end
        + usize::from(original.semicolon) * {
            let rest = &source[original.whole.end..];
            rest.find(';').map_or(0, |at| at + 1)
        };
    let written = &source[original.whole.start..end];
    if with.starts_with("/*") {
        return Replacement {
            range: span(original.whole.start, end),
            with: format!("/* {written} */"),
        };
    }
    Replacement {
        range: super::habits::with_own_lines(source, span(original.whole.start, end)),
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
    let wanted = super::rule::declarations(given)
        .map_err(|_| refused(sheet, at, "what is put there is no declaration"))?;
    for declaration in &wanted {
        property(&declaration.name)?;
    }
    let start = original.whole.start;
    let colon = &source[original.name.end..original.value.start];
    let indent = indent_at(source, start);
    let line = super::habits::line_start(source, start);
    let between = if source[line..start].trim().is_empty() {
        format!("{}{indent}", line_ending(source))
    } else {
        " ".to_owned()
    };
    let mut text = String::new();
    for declaration in &wanted {
        if !original.semicolon {
            text.push(';');
        }
        text.push_str(&between);
        text.push_str(&declaration.written(colon));
        if original.semicolon {
            text.push(';');
        }
    }
    let rest = &source[original.whole.end..];
    let end = if original.semicolon {
        original.whole.end + rest.find(';').map_or(0, |at| at + 1)
    } else {
        original.whole.end
    };
    Ok(Replacement {
        range: span(end, end),
        with: text,
    })
}
