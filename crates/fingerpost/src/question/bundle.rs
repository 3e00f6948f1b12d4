//! Whether a sheet was built from other files, told by what it looks like and by its content.

use std::collections::HashMap;

use serde::{Deserialize, Serialize};

use super::describe::fold;
use super::inventory::Inventory;
use crate::sheet::{Item, RuleId, RuleKind, Sheet};
use crate::text::Place;

/// Lines longer than this on average are no person's.
const LONG_LINES: usize = 400;

/// A sheet shorter than this tells nothing by its lines.
const SHORT_SHEET: usize = 800;

/// How many rules a file must have for a comparison to mean something.
const FEWEST_RULES: usize = 3;

/// How many sources of a map are named.
const MOST_SOURCES: usize = 3;

/// How many changed rules are named.
const MOST_CHANGED: usize = 5;

/// Why a sheet looks like one that a program built.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct BundleAnswer {
    /// What it looks like, each a sentence.
    pub signs: Vec<String>,
    /// The other files of the site whose rules it holds.
    pub parts: Vec<BundlePart>,
}

/// A file whose rules a sheet holds.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct BundlePart {
    /// The file.
    pub file: String,
    /// How many rules the file has.
    pub rules: usize,
    /// How many of them the sheet holds exactly so.
    pub same: usize,
    /// The rules of the file that the sheet holds with other values: it was built from an earlier
    /// state of the file, or the file from an earlier state of it.
    pub changed: Vec<Place>,
    /// How many rules of the file the sheet does not hold.
    pub missing: usize,
}

/// Looks at a sheet beside the other files of the site.
pub(super) fn bundle(sheet: &Sheet, elsewhere: &Inventory) -> Option<BundleAnswer> {
    let mut signs = Vec::new();
    let source = sheet.text().slice(sheet.span());
    let authored: Vec<&str> = match sheet.text().authored() {
        Some(map) => map.sources().map(|(name, _)| name).collect(),
        None => Vec::new(),
    };
    if !authored.is_empty() {
        let shown = authored
            .get(..MOST_SOURCES)
            .unwrap_or(&authored)
            .join(" and ");
        let more = match authored.len().saturating_sub(MOST_SOURCES) {
            0 => String::new(),
            more => format!(" and {more} more"),
        };
        signs.push(format!("its source map leads to {shown}{more}"));
    } else if source.contains("sourceMappingURL=") {
        signs.push("it names a source map, which can't be read".to_owned());
    }
    signs.extend(minified(source));
    let held = signatures(sheet);
    let parts: Vec<BundlePart> = elsewhere
        .sheets
        .iter()
        // What a map leads to is known, and in a language of its own it can't be compared.
        .filter(|other| {
            let name = other.text.name();
            name != sheet.text().name() && !authored.contains(&name)
        })
        .filter_map(|other| part(&held, sheet, &other.sheet))
        .collect();
    if !parts.is_empty() {
        signs.push("it contains the rules of other files of the site".to_owned());
    }
    (!signs.is_empty()).then_some(BundleAnswer { signs, parts })
}

/// That a sheet is minified, where its lines are no person's.
pub(crate) fn minified(source: &str) -> Option<String> {
    let lines = source.lines().count().max(1);
    let is_long = source.len() >= SHORT_SHEET && source.len() / lines > LONG_LINES;
    is_long.then(|| format!("it is minified: {} bytes in {lines} lines", source.len()))
}

/// The other files whose rules a sheet holds.
#[cfg(feature = "files")]
pub(crate) fn parts_of(sheet: &Sheet, elsewhere: &Inventory) -> Vec<String> {
    let held = signatures(sheet);
    let others = elsewhere.sheets.iter();
    let others = others.filter(|other| other.text.name() != sheet.text().name());
    let parts = others.filter_map(|other| part(&held, sheet, &other.sheet));
    parts.map(|part| part.file).collect()
}

fn part(held: &HashMap<String, Vec<RuleId>>, sheet: &Sheet, other: &Sheet) -> Option<BundlePart> {
    // A part is smaller than the whole; of two that are alike neither is known to be the source.
    if other.span().len() > sheet.span().len() && other.rule_count() > sheet.rule_count() {
        return None;
    }
    let rules = style_rules(other);
    if rules.len() < FEWEST_RULES {
        return None;
    }
    let mut answer = BundlePart {
        file: other.text().name().to_owned(),
        rules: rules.len(),
        same: 0,
        changed: Vec::new(),
        missing: 0,
    };
    let mut changed = 0;
    for (id, selector) in &rules {
        match held.get(&signature(other, *id, selector)) {
            None => answer.missing += 1,
            Some(places) => {
                let mine = values(other, *id);
                if places.iter().any(|place| values(sheet, *place) == mine) {
                    answer.same += 1;
                } else {
                    changed += 1;
                    if answer.changed.len() < MOST_CHANGED {
                        answer
                            .changed
                            .push(other.place(other.rule(*id).span.start()));
                    }
                }
            }
        }
    }
    (answer.same + changed >= rules.len().div_ceil(2)).then_some(answer)
}

/// How long a nested rule's selector may become when its parents are written into it.
const LONGEST_SELECTOR: usize = 10_000;

/// The style rules that declare something, each with its whole selector.
fn style_rules(sheet: &Sheet) -> Vec<(RuleId, String)> {
    let mut found = Vec::new();
    let mut open: Vec<(RuleId, String)> = top_rules(sheet, sheet.top(), "");
    open.reverse();
    while let Some((id, outer)) = open.pop() {
        let rule = sheet.rule(id);
        let selector = match rule.kind {
            RuleKind::Style => joined(&outer, &fold(sheet.prelude_source(rule))),
            _ => outer.clone(),
        };
        if rule.kind == RuleKind::Style && sheet.declarations_of(id).next().is_some() {
            found.push((id, selector.clone()));
        }
        let mut inner = top_rules(sheet, sheet.items(rule), &selector);
        inner.reverse();
        open.extend(inner);
    }
    found
}

fn top_rules(_: &Sheet, items: &[Item], outer: &str) -> Vec<(RuleId, String)> {
    let rules = items.iter().filter_map(|item| match item {
        Item::Rule(id) => Some((*id, outer.to_owned())),
        Item::Declaration(_) => None,
    });
    rules.collect()
}

fn joined(outer: &str, inner: &str) -> String {
    let repeats = inner.matches('&').count();
    match repeats {
        _ if outer.is_empty() => inner.to_owned(),
        0 => format!("{outer} {inner}"),
        // Each level may repeat all the levels around it; no build writes that out.
        _ if repeats * outer.len() > LONGEST_SELECTOR => inner.to_owned(),
        _ => inner.replace('&', outer),
    }
}

/// A selector and the names of the properties: what a build keeps as it is.
fn signature(sheet: &Sheet, rule: RuleId, selector: &str) -> String {
    let mut text: String = selector.chars().filter(|c| !c.is_whitespace()).collect();
    for (_, declaration) in sheet.declarations_of(rule) {
        let name = sheet.name_source(declaration);
        if !name.starts_with('$') && !name.starts_with('@') {
            text.push(';');
            text.push_str(&name.to_ascii_lowercase());
        }
    }
    text
}

fn signatures(sheet: &Sheet) -> HashMap<String, Vec<RuleId>> {
    let mut all: HashMap<String, Vec<RuleId>> = HashMap::new();
    for (id, selector) in style_rules(sheet) {
        all.entry(signature(sheet, id, &selector))
            .or_default()
            .push(id);
    }
    all
}

/// The values as a build may write them: without white space, quotes and zeros that say nothing.
fn values(sheet: &Sheet, rule: RuleId) -> Vec<String> {
    sheet
        .declarations_of(rule)
        .map(|(_, declaration)| {
            let mut text: String = sheet
                .value_source(declaration)
                .to_ascii_lowercase()
                .chars()
                .filter(|c| !c.is_whitespace() && !matches!(c, '"' | '\''))
                .collect();
            for (long, short) in [("0.", "."), ("0px", "0"), ("0em", "0"), ("0rem", "0")] {
                if let Some(rest) = text.strip_prefix(long) {
                    text = format!("{short}{rest}");
                }
            }
            short_color(&text)
        })
        .collect()
}

/// `#aabbcc` as `#abc`.
fn short_color(text: &str) -> String {
    match text.as_bytes() {
        [b'#', a, b, c, d, e, f] if a == b && c == d && e == f => {
            format!("#{}{}{}", char::from(*a), char::from(*c), char::from(*e))
        }
        _ => text.to_owned(),
    }
}
