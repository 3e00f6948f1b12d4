//! The last look at an edit before it is accepted: the patched texts are parsed, and hold what was
//! meant and nothing else that is new. What was there before is there still.
//!
//! Whatever a kind of edit gets wrong, an unclosed string that swallows the next rule or a tag that
//! swallows its neighbors, it is refused here, with the place.

pub(in crate::edit) mod warnings;

use std::collections::{HashMap, HashSet};
use std::sync::Arc;

use crate::edit::error::EditError;
use crate::edit::expected::{Declared, InSheet, MarkupOp, Meant, StyleOp, Tag};
use crate::edit::file_change::FileChange;
use crate::edit::site_context::SiteContext;
use crate::markup::{Document, ElementId, Written};
use crate::page::{Arrival, Page};
use crate::sheet::{DeclarationId, Item, RuleId, RuleKind, Sheet, Token, TokenKind, reparse};
use crate::text::{Cut, Patch, Text, TextRange, TextSize};
use crate::value::substitution::value_tokens;

/// How many elements are named that stand elsewhere.
const MOST_MOVED: usize = 3;

/// What is said where an edit would do something else than it was meant to.
fn refused(place: String, why: String) -> EditError {
    EditError::Unintended { place, why }
}

/// Checks the changes of the served files; gives the changes of the tree that were not asked for, in
/// sentences.
pub(in crate::edit) fn check(
    page: &Page,
    around: &SiteContext,
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

/// A part of a sheet as it is compared: names and values, without comments and white space.
#[derive(Clone, Debug)]
struct Part {
    /// By which changes are meant for it.
    key: Key,
    head: Head,
    inner: Vec<Part>,
    /// Where it stands, for messages.
    at: TextSize,
}

#[derive(Clone, Debug, PartialEq, Eq)]
enum Head {
    Declaration {
        name: String,
        value: String,
        important: bool,
    },
    Rule {
        name: String,
        prelude: String,
        /// Whether it has a block; a statement has none.
        block: bool,
    },
}

/// A rule or a declaration as a key.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
enum Key {
    Rule(RuleId),
    Declaration(DeclarationId),
    Top,
}

/// The characters of some tokens, comments left out and white space folded.
fn plain(source: &str, tokens: &[Token]) -> String {
    let mut text = String::new();
    let mut gap = false;
    for token in tokens {
        match token.kind {
            TokenKind::Space => gap = true,
            TokenKind::Comment => {}
            _ => {
                if std::mem::take(&mut gap) && !text.is_empty() {
                    text.push(' ');
                }
                text.push_str(token.source(source));
            }
        }
    }
    text
}

/// The same of a text that is given.
fn plain_text(text: &str) -> String {
    plain(text, &value_tokens(text))
}

struct Changes<'a> {
    value: HashMap<DeclarationId, &'a str>,
    name: HashMap<DeclarationId, &'a str>,
    important: HashMap<DeclarationId, bool>,
    prelude: HashMap<RuleId, &'a str>,
    gone: HashSet<Key>,
    new: HashMap<Key, Vec<Part>>,
}

impl<'a> Changes<'a> {
    fn new(ops: &[&'a StyleOp]) -> Changes<'a> {
        let mut changes = Changes {
            value: HashMap::new(),
            name: HashMap::new(),
            important: HashMap::new(),
            prelude: HashMap::new(),
            gone: HashSet::new(),
            new: HashMap::new(),
        };
        for op in ops {
            match op {
                StyleOp::Value(id, value) => {
                    changes.value.insert(*id, value);
                }
                StyleOp::Name(id, name) => {
                    changes.name.insert(*id, name);
                }
                StyleOp::Important(id, on) => {
                    changes.important.insert(*id, *on);
                }
                StyleOp::Prelude(id, prelude) => {
                    changes.prelude.insert(*id, prelude);
                }
                StyleOp::Gone(id) => {
                    changes.gone.insert(Key::Declaration(*id));
                }
                StyleOp::RuleGone(id) => {
                    changes.gone.insert(Key::Rule(*id));
                }
                StyleOp::New(rule, declared) => {
                    let parts = changes.new.entry(Key::Rule(*rule)).or_default();
                    parts.push(declared_part(declared));
                }
                StyleOp::Rules(parent, source) => {
                    let text = Text::new("", source.as_str());
                    let span = text.span();
                    let sheet = match parent {
                        // Read as what is in a block, which a nested rule is.
                        Some(_) => Sheet::parse_attribute(text, span),
                        None => Sheet::parse(text, span),
                    };
                    let nothing = Changes::new(&[]);
                    let items = match parent {
                        Some(_) => sheet.items(sheet.rule(RuleId(0))),
                        None => sheet.top(),
                    };
                    let parts = parts(&sheet, items, &nothing);
                    let key = parent.map_or(Key::Top, Key::Rule);
                    changes.new.entry(key).or_default().extend(parts);
                }
            }
        }
        changes
    }
}

fn declared_part(declared: &Declared) -> Part {
    Part {
        key: Key::Top,
        head: Head::Declaration {
            name: declared.name.to_ascii_lowercase(),
            value: plain_text(&declared.value),
            important: declared.important,
        },
        inner: Vec::new(),
        at: TextSize::default(),
    }
}

/// The parts of a block, as they are after some changes; what is new is not among them.
fn parts(sheet: &Sheet, items: &[Item], changes: &Changes<'_>) -> Vec<Part> {
    let part = |item: &Item| match item {
        Item::Declaration(id) => declaration_part(sheet, *id, changes),
        Item::Rule(id) => rule_part(sheet, *id, changes),
    };
    items.iter().filter_map(part).collect()
}

fn declaration_part(sheet: &Sheet, id: DeclarationId, changes: &Changes<'_>) -> Option<Part> {
    let key = Key::Declaration(id);
    if changes.gone.contains(&key) {
        return None;
    }
    let declaration = sheet.declaration(id);
    let name = changes.name.get(&id).copied();
    let own_value = || plain(sheet.text().source(), &sheet.value_tokens(declaration));
    let value = changes.value.get(&id).copied();
    let important = changes.important.get(&id).copied();
    Some(Part {
        key,
        head: Head::Declaration {
            name: name
                .unwrap_or(sheet.name_source(declaration))
                .to_ascii_lowercase(),
            value: value.map_or_else(own_value, plain_text),
            important: important.unwrap_or(declaration.important.is_some()),
        },
        inner: Vec::new(),
        at: declaration.span.start(),
    })
}

fn rule_part(sheet: &Sheet, id: RuleId, changes: &Changes<'_>) -> Option<Part> {
    let key = Key::Rule(id);
    if changes.gone.contains(&key) {
        return None;
    }
    let rule = sheet.rule(id);
    let own_prelude = || plain(sheet.text().source(), &sheet.prelude_tokens(rule));
    let prelude = changes.prelude.get(&id).copied();
    Some(Part {
        key,
        head: Head::Rule {
            name: sheet.text().slice(rule.name).to_ascii_lowercase(),
            prelude: prelude.map_or_else(own_prelude, plain_text),
            block: rule.block.is_some(),
        },
        inner: parts(sheet, sheet.items(rule), changes),
        at: rule.span.start(),
    })
}

/// Whether a patched sheet holds what was there before, but for what was meant.
fn sheet_changed(before: &Sheet, after: &Sheet, ops: &[&StyleOp]) -> Result<(), EditError> {
    let changes = Changes::new(ops);
    let items = |sheet: &Sheet| match sheet.top() {
        // A style attribute is one rule, on either side.
        [Item::Rule(id)] if sheet.rule(*id).kind == RuleKind::Attribute => {
            (Key::Rule(*id), sheet.items(sheet.rule(*id)).to_vec())
        }
        top => (Key::Top, top.to_vec()),
    };
    let ((key, old), (_, new)) = (items(before), items(after));
    let was = parts(before, &old, &changes);
    let now = parts(after, &new, &Changes::new(&[]));
    changes
        .compare(key, &was, &now)
        .map_err(|stray| astray(before, after, stray))?;
    // Whatever could not be read before, nothing more is.
    let (old, new) = (before.problems(), after.problems());
    if new.len() > old.len() {
        let known: Vec<&str> = old.iter().map(|p| p.message.as_str()).collect();
        let more = new.iter().find(|p| !known.contains(&p.message.as_str()));
        let Some(more) = more.or(new.last()) else {
            return Ok(());
        };
        let at = after.text().place(more.span.start()).to_string();
        // What was gone and was a problem may have hidden it.
        let same_place = old.iter().any(|p| p.message == more.message);
        if !same_place || ops.is_empty() {
            return Err(refused(at, more.message.clone()));
        }
    }
    Ok(())
}

fn astray(before: &Sheet, after: &Sheet, at: Stray) -> EditError {
    match at {
        Stray::Lost(at, what) => refused(
            before.text().place(at).to_string(),
            format!("{what} would be lost or become something else"),
        ),
        Stray::Extra(at, what) => refused(
            after.text().place(at).to_string(),
            format!("{what} would be there, which was not asked for"),
        ),
    }
}

enum Stray {
    Lost(TextSize, String),
    Extra(TextSize, String),
}

impl Changes<'_> {
    /// Whether the parts now are the old ones in order, with those that come between them.
    fn compare(&self, key: Key, old: &[Part], now: &[Part]) -> Result<(), Stray> {
        let mut awaited = self.new.get(&key).cloned().unwrap_or_default();
        let mut old = old.iter().peekable();
        for part in now {
            let stray = match old.peek() {
                Some(next) if next.head == part.head => {
                    match self.compare(next.key, &next.inner, &part.inner) {
                        Ok(()) => {
                            old.next();
                            continue;
                        }
                        Err(stray) => stray,
                    }
                }
                Some(next) => Stray::Lost(next.at, words(next)),
                None => Stray::Extra(part.at, words(part)),
            };
            if !take(&mut awaited, part) {
                return Err(stray);
            }
        }
        match old.next().or(awaited.first()) {
            Some(lost) => Err(Stray::Lost(lost.at, words(lost))),
            None => Ok(()),
        }
    }
}

fn same(one: &Part, two: &Part) -> bool {
    one.head == two.head
        && one.inner.len() == two.inner.len()
        && one.inner.iter().zip(&two.inner).all(|(a, b)| same(a, b))
}

/// Takes a part off those that are awaited, where it is one of them.
fn take(awaited: &mut Vec<Part>, part: &Part) -> bool {
    let found = awaited.iter().position(|wanted| same(wanted, part));
    found.map(|at| awaited.remove(at)).is_some()
}

fn words(part: &Part) -> String {
    match &part.head {
        Head::Declaration { name, value, .. } => format!("the declaration {name}: {value}"),
        Head::Rule { name, prelude, .. } if name.is_empty() => format!("the rule {prelude}"),
        Head::Rule { name, prelude, .. } => format!("the rule {name} {prelude}"),
    }
}

// Markup

/// The tags of a page before and after a patch.
struct Tags<'a> {
    before: &'a Document,
    after: &'a Document,
    /// Where each replacement begins and ends, and how far all after it moves.
    moves: Vec<(u32, u32, i64)>,
    /// The elements after it, by where their tags begin.
    starts: HashMap<u32, ElementId>,
}

impl<'a> Tags<'a> {
    fn new(before: &'a Document, after: &'a Document, patch: &Patch) -> Tags<'a> {
        let mut delta = 0;
        let moves = patch.replacements().iter().map(|r| {
            let (start, end) = (u32::from(r.range.start()), u32::from(r.range.end()));
            delta += r.with.len() as i64 - i64::from(end - start);
            (start, end, delta)
        });
        let moves = moves.collect();
        let written = after.elements().iter().copied();
        let templates = after.template_elements();
        let starts = written
            .chain(templates)
            .filter(|id| after.element(*id).written == Written::Tag)
            .map(|id| (u32::from(after.element(id).start_tag.start()), id))
            .collect();
        Tags {
            before,
            after,
            moves,
            starts,
        }
    }

    /// The written elements before the patch, those in templates too.
    fn old(&self) -> impl Iterator<Item = ElementId> {
        let all = self.before.elements().iter().copied();
        let all = all.chain(self.before.template_elements());
        all.filter(|id| self.before.element(*id).written == Written::Tag)
    }

    /// Where an offset is now; what is put in there comes before it.
    fn moved(&self, offset: TextSize) -> u32 {
        let at = u32::from(offset);
        let passed = self.moves.partition_point(|(_, end, _)| *end <= at);
        let delta = passed
            .checked_sub(1)
            .and_then(|last| self.moves.get(last))
            .map_or(0, |(_, _, delta)| *delta);
        (i64::from(at) + delta) as u32
    }

    /// Whether the patch changes something inside of a span.
    fn touches(&self, span: TextRange) -> bool {
        let (start, end) = (u32::from(span.start()), u32::from(span.end()));
        let next = self.moves.partition_point(|(_, last, _)| *last <= start);
        self.moves.get(next).is_some_and(|(from, _, _)| *from < end)
    }

    /// The element that a tag is now, where the tag is there.
    fn image_of(&self, id: ElementId) -> Option<ElementId> {
        let start = self.before.element(id).start_tag.start();
        self.starts.get(&self.moved(start)).copied()
    }

    fn place(&self, id: ElementId) -> String {
        let start = self.before.element(id).start_tag.start();
        self.before.text().place(start).to_string()
    }
}

fn markup_changed(
    tags: &Tags<'_>,
    markup: &MarkupOp,
    meant: &Meant,
) -> Result<Vec<String>, EditError> {
    let meant_gone: HashSet<ElementId> = markup.gone.iter().copied().collect();
    let styled: HashSet<ElementId> = meant
        .styles
        .iter()
        .filter_map(|(sheet, _)| match sheet {
            InSheet::Attribute(element) => Some(*element),
            _ => None,
        })
        .collect();
    let mut kept: HashMap<ElementId, ElementId> = HashMap::new();
    for id in tags.old() {
        let element = tags.before.element(id);
        let lost = |what: &str| {
            refused(
                tags.place(id),
                format!(
                    "what is put in does not end where it should: the {what} of this <{}> would be \
                     lost",
                    element.name
                ),
            )
        };
        if meant_gone.contains(&id) {
            continue;
        }
        if tags.touches(element.start_tag) {
            return Err(refused(
                tags.place(id),
                format!(
                    "this <{}> would change too, which was not asked for",
                    element.name
                ),
            ));
        }
        let Some(image) = tags.image_of(id) else {
            return Err(lost("start tag"));
        };
        let now = tags.after.element(image);
        if Tag::of(now) != Tag::of(element) {
            return Err(lost("start tag"));
        }
        if let Some(end) = element.end_tag
            && !tags.touches(end)
        {
            let moved = TextSize::new(tags.moved(end.start()));
            // In a tree that is another one it may close something else, but it is there.
            let closes = now.end_tag.is_some_and(|e| e.start() == moved);
            let is_there = markup.reshapes && tags.after.is_end_tag(moved);
            if !(closes || is_there) {
                return Err(lost("end tag"));
            }
        }
        kept.insert(image, id);
    }
    let comments: HashSet<u32> = tags
        .after
        .comments()
        .map(|c| u32::from(c.start()))
        .collect();
    for comment in tags.before.comments().filter(|c| !tags.touches(*c)) {
        if !comments.contains(&tags.moved(comment.start())) {
            return Err(refused(
                tags.before.text().place(comment.start()).to_string(),
                "what is put in does not end where it should: this comment would be lost"
                    .to_owned(),
            ));
        }
    }
    // Tags that come, each of them asked for.
    let mut awaited = markup.new.clone();
    let mut new: Vec<ElementId> = tags.starts.values().copied().collect();
    new.retain(|id| !kept.contains_key(id));
    new.sort_by_key(|id| tags.after.element(*id).start_tag.start());
    for id in new {
        let element = tags.after.element(id);
        let tag = Tag::of(element);
        let known = awaited.iter().position(|wanted| {
            let is_styled = !styled.is_empty() && same_but_style(wanted, &tag);
            *wanted == tag || is_styled || same_name_in_svg(wanted, &tag)
        });
        match known {
            Some(at) => {
                awaited.remove(at);
            }
            None => {
                let place = tags.after.text().place(element.start_tag.start());
                return Err(refused(
                    place.to_string(),
                    format!(
                        "a <{}> would be there, which was not asked for",
                        element.name
                    ),
                ));
            }
        }
    }
    // What browsers drop is said by the warnings; what is nowhere at all was swallowed.
    let source = tags.after.text().source();
    for tag in &awaited {
        let dropped = tags.after.ignored().iter().any(|span| {
            let written = source.cut(*span).trim_start_matches('<');
            written.len() >= tag.name.len()
                && written.is_char_boundary(tag.name.len())
                && written
                    .cut(..tag.name.len())
                    .eq_ignore_ascii_case(&tag.name)
        });
        if !dropped {
            return Err(refused(
                tags.after.text().name().to_owned(),
                format!("the <{}> would not be there", tag.name),
            ));
        }
    }
    for (id, wanted) in &markup.texts {
        let found = tags.image_of(*id).map(|id| {
            let all = tags.after.children(id);
            all.filter_map(|n| tags.after.text_of(n))
                .any(|t| fold(t) == fold(wanted))
        });
        if found != Some(true) && !wanted.trim().is_empty() {
            return Err(refused(
                tags.place(*id),
                "the changed text would differ from what was asked for".to_owned(),
            ));
        }
    }
    elsewhere(tags, &kept, markup)
}

fn fold(text: &str) -> String {
    text.split_whitespace().collect::<Vec<_>>().join(" ")
}

fn same_but_style(one: &Tag, two: &Tag) -> bool {
    let rest = |tag: &Tag| -> Vec<(String, String)> {
        let all = tag.attributes.iter().filter(|(name, _)| name != "style");
        all.cloned().collect()
    };
    one.name == two.name && rest(one) == rest(two)
}

/// In foreign content the parser adjusts the case of names (HTML § 13.2.6.5).
fn same_name_in_svg(one: &Tag, two: &Tag) -> bool {
    let same = |a: &str, b: &str| a.eq_ignore_ascii_case(b);
    same(&one.name, &two.name)
        && one.attributes.len() == two.attributes.len()
        && one
            .attributes
            .iter()
            .zip(&two.attributes)
            .all(|(a, b)| same(&a.0, &b.0) && a.1 == b.1)
}

/// The elements that are in another one than before: an error where the tree was to stay, else said.
fn elsewhere(
    tags: &Tags<'_>,
    kept: &HashMap<ElementId, ElementId>,
    markup: &MarkupOp,
) -> Result<Vec<String>, EditError> {
    let images: HashMap<ElementId, ElementId> =
        kept.iter().map(|(now, was)| (*was, *now)).collect();
    let mut moved: Vec<(TextSize, String)> = Vec::new();
    for (now, was) in kept {
        let above_now = tags.after.ancestors_and_self(*now).skip(1);
        let mut above_now = above_now.filter(|id| kept.contains_key(id));
        let above_was = tags.before.ancestors_and_self(*was).skip(1);
        let mut above_was = above_was.filter_map(|id| images.get(&id).copied());
        let (one, two) = (above_was.next(), above_now.next());
        if one == two {
            continue;
        }
        let element = tags.after.element(*now);
        let at = element.start_tag.start();
        let name = |id: Option<ElementId>| match id {
            Some(id) => format!("<{}>", tags.after.element(id).name),
            None => "the page".to_owned(),
        };
        moved.push((
            at,
            format!(
                "the <{}> at {} is in {} now, not in {}",
                element.name,
                tags.after.text().place(at),
                name(two),
                name(one)
            ),
        ));
    }
    moved.sort();
    if let Some((_, first)) = moved.first()
        && !markup.reshapes
    {
        let text = tags.after.text().name().to_owned();
        return Err(refused(
            text,
            format!("the tree would be another one: {first}"),
        ));
    }
    let more = moved.len().saturating_sub(MOST_MOVED);
    let mut said: Vec<String> = moved
        .into_iter()
        .take(MOST_MOVED)
        .map(|(_, sentence)| sentence)
        .collect();
    if more > 0 {
        said.push(format!(
            "{more} more elements are in another one than before"
        ));
    }
    Ok(said)
}
