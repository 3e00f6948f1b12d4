//! A sheet with what its selectors and declarations say, read when a person first asks.
//!
//! Readings count offsets from where their rule or declaration begins, so that they stay true when the text
//! before them changes: the next state of an edited sheet takes them over.

use std::ops::Range;
use std::sync::{Arc, OnceLock};

use crate::page::load::memo::Memo;
use crate::page::style::value::Value;
use crate::page::target::DeclarationRef;
use crate::page::whole::RuleAsks;
use crate::selector::{Namespaces, ParseContext, SelectorError, SelectorList};
use crate::sheet::{
    AtRule, Declaration, DeclarationId, Kept, RuleId, RuleKind, Sheet, Token, reparse,
};
use crate::text::{Cut, Text, TextRange, TextSize};
use crate::value::PropertyId;
use crate::value::declared::{self, Meaning, Name};
use crate::value::grammar::{Match, Mismatch, match_property};
use crate::value::longhand::Piece;
use crate::value::specified::Specified;
use crate::value::substitution::{substitutions, value_tokens};

pub(in crate::page) type Selectors = Result<Arc<SelectorList>, SelectorError>;

/// A sheet with what its selectors and declarations mean, worked out when first asked for, once
/// for all pages that have the sheet.
#[derive(Debug)]
pub struct StyleSheet {
    sheet: Sheet,
    pub(in crate::page) namespaces: Namespaces,
    /// Whether it is read with the quirks of a page in quirks mode.
    pub(in crate::page) quirks: bool,
    selectors: Memo<Selectors>,
    readings: Memo<Arc<Reading>>,
    asking: Memo<RuleAsks>,
    /// The same in all states of a sheet whose rules have the same heads.
    heads: Arc<()>,
    /// This state of the sheet and no other.
    state: Arc<()>,
    /// The state that this one was made from, where all rules and declarations kept their numbers.
    since: Option<Since>,
}

/// What was read again since the state before.
#[derive(Debug)]
struct Since {
    state: Arc<()>,
    rules: Range<usize>,
    declarations: Range<usize>,
}

/// What a declaration says. Places in it count from where the declaration begins.
#[derive(Debug)]
#[non_exhaustive]
pub struct Reading {
    /// The property that it names.
    pub name: Name,
    /// What its value says.
    pub meaning: Meaning,
    /// The values of longhands, in step with the pieces of a meaning that fits.
    longhands: Box<[OnceLock<Arc<Longhand>>]>,
    /// Whether functions in its value are replaced by what an element says.
    pub(in crate::page) substitutes: bool,
    /// Of a custom property without substitutions: its value wherever the property is not registered.
    pub(in crate::page) constant: Constant,
}

/// A value that is the same on every element, as the page has it that asked first: a sheet nearly always has the same
/// place on all of its pages.
#[derive(Debug, Default)]
pub(in crate::page) struct Constant(OnceLock<(DeclarationRef, Arc<Value>)>);

impl Constant {
    /// The value of a declaration, made on first use.
    pub fn of(&self, reference: DeclarationRef, make: impl FnOnce() -> Value) -> Arc<Value> {
        if let Some((known, value)) = self.0.get() {
            return match *known == reference {
                true => value.clone(),
                false => Arc::new(make()),
            };
        }
        let value = Arc::new(make());
        // A person else may have been sooner.
        let _ = self.0.set((reference, value.clone()));
        value
    }
}

/// What a declaration gives a longhand.
#[derive(Debug)]
pub(in crate::page) struct Longhand {
    /// The value's text.
    pub text: Arc<str>,
    /// The same, read; none where the text does not fit the longhand's grammar.
    pub specified: Option<Specified>,
    /// What it results in, where that is the same on every element.
    pub constant: Constant,
}

impl Longhand {
    /// Whether it results in the same on every element.
    pub fn is_constant(&self) -> bool {
        matches!(self.specified, None | Some(Specified::Same(_)))
    }

    fn read(property: PropertyId, text: &str, file: &str) -> Longhand {
        let tokens = value_tokens(text);
        let matched = match_property(property, text, &tokens).ok();
        let read = |matched| Specified::read(property, text, &tokens, &matched, Some(file));
        Longhand {
            text: text.into(),
            specified: matched.map(read),
            constant: Constant::default(),
        }
    }
}

impl StyleSheet {
    /// A sheet whose declarations have not been read yet; `quirks` where its page is in quirks
    /// mode, in which some values may be written without their units.
    pub fn new(sheet: Sheet, quirks: bool) -> Arc<Self> {
        Arc::new(StyleSheet {
            namespaces: Namespaces::of(&sheet),
            quirks,
            selectors: Memo::new(sheet.rule_count()),
            readings: Memo::new(sheet.declaration_count()),
            asking: Memo::new(sheet.rule_count()),
            sheet,
            heads: Arc::new(()),
            state: Arc::new(()),
            since: None,
        })
    }

    /// The sheet.
    pub fn sheet(&self) -> &Sheet {
        &self.sheet
    }

    /// The selectors of a style rule; `parent` are those of the rule that it is nested in.
    pub(in crate::page) fn selectors(
        &self,
        id: RuleId,
        parent: Option<&Arc<SelectorList>>,
        scoped: bool,
    ) -> &Selectors {
        self.selectors.get_or_init(id.index(), || {
            let rule = self.sheet.rule(id);
            let tokens = counted_from(rule.span.start(), self.sheet.prelude_tokens(rule));
            let source = self.source_from(rule.span.start());
            self.read_in(source, &tokens, parent, scoped)
        })
    }

    /// The sheet with another text; what the change does not touch is not worked out again.
    pub(in crate::page) fn renewed(&self, text: &Arc<Text>) -> Option<Arc<StyleSheet>> {
        let (sheet, kept) = reparse(&self.sheet, text)?;
        let namespaces = Namespaces::of(&sheet);
        let same_namespaces = namespaces == self.namespaces;
        let rule_before = |at| kept.rule_before(at);
        let count = sheet.rule_count();
        let selectors = match same_namespaces {
            true => self.selectors.renewed(count, &kept.new, rule_before),
            false => Memo::new(count),
        };
        let asking = self.asking.renewed(count, &kept.new, rule_before);
        let readings =
            self.readings
                .renewed(sheet.declaration_count(), &kept.new_declarations, |at| {
                    kept.declaration_before(at)
                });
        let same_numbers = kept.old == kept.new && kept.old_declarations == kept.new_declarations;
        let mut renewed = StyleSheet {
            selectors,
            readings,
            asking,
            state: Arc::new(()),
            since: same_numbers.then(|| Since {
                state: self.state.clone(),
                rules: kept.new.clone(),
                declarations: kept.new_declarations.clone(),
            }),
            namespaces,
            quirks: self.quirks,
            sheet,
            heads: Arc::new(()),
        };
        if same_namespaces && renewed.has_heads_of(self, &kept) {
            renewed.heads = self.heads.clone();
        }
        Some(Arc::new(renewed))
    }

    /// Whether the rules that a change touched have the heads that they had.
    fn has_heads_of(&self, before: &StyleSheet, kept: &Kept) -> bool {
        let head = |sheet: &StyleSheet, at: usize| {
            let rule = sheet.sheet.rule(RuleId(at as u32));
            (
                rule.kind.clone(),
                sheet.sheet.prelude_source(rule).to_owned(),
            )
        };
        let pairs = kept.old.clone().zip(kept.new.clone());
        // Rules are in the same rules where as many of them are in each other.
        let parent = |sheet: &StyleSheet, at: usize| sheet.sheet.rule(RuleId(at as u32)).parent;
        kept.old == kept.new
            && pairs.into_iter().all(|(old, new)| {
                head(before, old) == head(self, new) && parent(before, old) == parent(self, new)
            })
    }

    /// Whether its rules are known to have the same heads as those of another.
    pub(in crate::page) fn has_same_heads(&self, other: &StyleSheet) -> bool {
        Arc::ptr_eq(&self.heads, &other.heads)
    }

    /// What the declarations of a rule ask and hand down.
    pub(in crate::page) fn rule_asks(&self, rule: RuleId) -> RuleAsks {
        *self
            .asking
            .get_or_init(rule.index(), || RuleAsks::of(self, rule))
    }

    /// Whether the value of a declaration depends on the element itself, or on what no source says: `attr()`, `env()`
    /// and their kin.
    pub(in crate::page) fn does_ask_element(&self, id: DeclarationId) -> bool {
        let tokens = self.sheet.value_tokens(self.sheet.declaration(id));
        substitutions(self.sheet.text().source(), &tokens).others
    }

    pub(in crate::page) fn read_selectors(
        &self,
        tokens: &[Token],
        parent: Option<&Arc<SelectorList>>,
        scoped: bool,
    ) -> Selectors {
        self.read_in(self.sheet.text().source(), tokens, parent, scoped)
    }

    fn read_in(
        &self,
        source: &str,
        tokens: &[Token],
        parent: Option<&Arc<SelectorList>>,
        scoped: bool,
    ) -> Selectors {
        let setting = ParseContext {
            parent,
            namespaces: Some(&self.namespaces),
            scoped,
            unforgiving: false,
        };
        SelectorList::parse_tokens(source, tokens, setting).map(Arc::new)
    }

    /// The property that a declaration names, and what its value says.
    pub fn reading(&self, id: DeclarationId) -> &Reading {
        self.readings.get_or_init(id.index(), || {
            let declaration = self.sheet.declaration(id);
            let start = declaration.span.start();
            let tokens = counted_from(start, self.sheet.value_tokens(declaration));
            let source = self.source_from(start);
            let name = Name::of(&self.sheet, declaration);
            let (meaning, matched) = self.meaning_of(&name, source, &tokens);
            let count = match &meaning {
                Meaning::Fits(pieces) => pieces.len(),
                _ => 0,
            };
            let longhands: Box<[OnceLock<Arc<Longhand>>]> =
                (0..count).map(|_| OnceLock::new()).collect();
            // A longhand is its own piece: it is held against its grammar once.
            if let (Name::Property(property), Some(matched), [only]) = (&name, matched, &*longhands)
                && !property.is_shorthand()
                && let Meaning::Fits(pieces) = &meaning
                && let [(_, Piece::Part(span))] = pieces[..]
            {
                let file = self.sheet.text().name();
                let _ = only.set(Arc::new(Longhand {
                    text: source.cut(span).into(),
                    specified: Some(Specified::read(
                        *property,
                        source,
                        &tokens,
                        &matched,
                        Some(file),
                    )),
                    constant: Constant::default(),
                }));
            }
            let found = substitutions(source, &tokens);
            Arc::new(Reading {
                substitutes: found.variables || found.others,
                name,
                meaning,
                longhands,
                constant: Constant::default(),
            })
        })
    }

    fn meaning_of(&self, name: &Name, source: &str, tokens: &[Token]) -> (Meaning, Option<Match>) {
        match name {
            Name::Property(property) => {
                let (meaning, matched) = declared::read(*property, source, tokens);
                let quirky = (self.quirks && matches!(meaning, Meaning::Misfit(_)))
                    .then(|| declared::quirky(*property, source, tokens));
                match quirky.flatten() {
                    Some(quirky) => (quirky, None),
                    None => (meaning, matched),
                }
            }
            Name::Custom(_) => (declared::custom_meaning(source, tokens), None),
            Name::Unknown => (Meaning::Free, None),
        }
    }

    /// What a declaration gives a longhand, by the place of its piece.
    pub(in crate::page) fn longhand(&self, id: DeclarationId, at: usize) -> Option<&Arc<Longhand>> {
        let reading = self.reading(id);
        let Meaning::Fits(pieces) = &reading.meaning else {
            return None;
        };
        let (property, piece) = pieces.get(at)?;
        let known = reading.longhands.get(at)?;
        Some(known.get_or_init(|| {
            let source = self.source_from(self.sheet.declaration(id).span.start());
            let text = piece.text(source).unwrap_or(property.facts().initial);
            Arc::new(Longhand::read(*property, text, self.sheet.text().name()))
        }))
    }

    /// What does not fit in the value of a declaration, with its place in the text.
    pub fn misfit(&self, id: DeclarationId) -> Option<Mismatch> {
        match &self.reading(id).meaning {
            Meaning::Misfit(mismatch) => Some(Mismatch {
                span: mismatch.span + self.sheet.declaration(id).span.start(),
                expected: mismatch.expected.clone(),
            }),
            _ => None,
        }
    }

    /// The declarations that browsers drop, each with why.
    pub fn dropped(&self) -> impl Iterator<Item = (&Declaration, Dropped)> {
        let all = self.sheet.declarations();
        all.filter_map(|(id, declaration)| {
            let why = match Name::of(&self.sheet, declaration) {
                Name::Unknown => Dropped::UnknownProperty,
                _ => Dropped::Misfit(self.misfit(id)?),
            };
            Some((declaration, why))
        })
    }

    /// The part of the text that a piece of a declaration's value is.
    pub fn part(&self, id: DeclarationId, piece: &Piece) -> Option<TextRange> {
        match piece {
            Piece::Part(span) => Some(*span + self.sheet.declaration(id).span.start()),
            _ => None,
        }
    }

    fn source_from(&self, start: TextSize) -> &str {
        self.sheet.text().source().cut(usize::from(start)..)
    }

    /// What was read again when this state was made from an earlier one.
    fn since(&self, before: &StyleSheet) -> Option<&Since> {
        let since = self.since.as_ref();
        since.filter(|since| Arc::ptr_eq(&since.state, &before.state))
    }

    /// The style rules whose selectors differ between two states of a sheet; none where anything else does about the
    /// heads of its rules.
    pub(in crate::page) fn other_selectors(&self, other: &StyleSheet) -> Option<Vec<RuleId>> {
        if self.has_same_heads(other) {
            return Some(Vec::new());
        }
        let count = self.sheet.rule_count();
        if self.namespaces != other.namespaces || count != other.sheet.rule_count() {
            return None;
        }
        let read_again = match other.since(self) {
            Some(since) => since.rules.clone(),
            None => 0..count,
        };
        let mut changed = Vec::new();
        for id in read_again.map(|at| RuleId(at as u32)) {
            let (a, b) = (self.sheet.rule(id), other.sheet.rule(id));
            if a.kind != b.kind || a.parent != b.parent {
                return None;
            }
            if self.sheet.prelude_source(a) != other.sheet.prelude_source(b) {
                if a.kind != RuleKind::Style {
                    return None;
                }
                changed.push(id);
            }
        }
        Some(changed)
    }

    /// The declarations that differ between two states of a sheet with as many rules, where every declaration has
    /// kept its number; none where they haven't.
    pub(in crate::page) fn changed_declarations(
        &self,
        other: &StyleSheet,
    ) -> Option<Vec<DeclarationId>> {
        if other.sheet.declaration_count() != self.sheet.declaration_count() {
            return None;
        }
        let read_again = match other.since(self) {
            Some(since) => since.declarations.clone(),
            None => 0..self.sheet.declaration_count(),
        };
        let mut changed = Vec::new();
        for id in read_again.map(|at| DeclarationId(at as u32)) {
            let (a, b) = (self.sheet.declaration(id), other.sheet.declaration(id));
            if a.rule != b.rule {
                return None;
            }
            if self.sheet.text().slice(a.span) != other.sheet.text().slice(b.span) {
                changed.push(id);
            }
        }
        Some(changed)
    }

    /// Whether some rule of it may register a custom property.
    pub(in crate::page) fn registers(&self) -> bool {
        let mut rules = self.sheet.rules();
        rules.any(|(_, rule)| rule.kind == RuleKind::At(AtRule::Property))
    }
}

/// Tokens whose offsets count from a given one.
fn counted_from(start: TextSize, mut tokens: Vec<Token>) -> Vec<Token> {
    let base = u32::from(start);
    for token in &mut tokens {
        token.start -= base;
        token.end -= base;
    }
    tokens
}

/// Why browsers drop a declaration.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Dropped {
    /// No property has its name.
    UnknownProperty,
    /// The property can't have its value.
    Misfit(Mismatch),
}

impl std::fmt::Display for Dropped {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Dropped::UnknownProperty => f.write_str("no property has its name"),
            Dropped::Misfit(mismatch) => write!(f, "expected {}", mismatch.expected.join(", ")),
        }
    }
}
