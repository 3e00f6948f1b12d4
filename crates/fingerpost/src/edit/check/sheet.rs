//! That a patched sheet differs only in what was meant: its declarations and rules as parts, compared in order.

use super::refused;
use crate::edit::error::EditError;
use crate::edit::expected::{Declared, StyleOp};
use crate::sheet::{DeclarationId, Item, RuleId, RuleKind, Sheet, Token, TokenKind};
use crate::text::{Text, TextSize};
use crate::value::substitution::value_tokens;
use std::collections::{HashMap, HashSet};

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
pub(super) fn sheet_changed(
    before: &Sheet,
    after: &Sheet,
    ops: &[&StyleOp],
) -> Result<(), EditError> {
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
