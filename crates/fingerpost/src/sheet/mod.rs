//! CSS to a [`Sheet`]: every rule, at-rule, declaration, comment and error of a source, in arenas,
//! each with its span.
//!
//! Follows CSS Syntax 3 § 5 with nested rules. A sheet keeps what a style engine throws away: a
//! declaration of an unknown property, a rule with a selector nobody understands, an at-rule of the
//! future stay in the model, and the floors above say what they make of them. What can't be read at
//! all is a [`Problem`] in its place. Declarations are numbered in source order, which is the order
//! of appearance of the cascade.

mod again;
mod parse;
mod token;

pub(crate) use again::again;
pub use parse::DEEPEST_NESTING;
pub use token::{Kind, Token, tokenize};
pub(crate) use token::{component_length, split_commas, trim};

use std::ops::Range;
use std::sync::Arc;

use crate::text::{Text, TextRange, TextSize};

/// A rule of a [`Sheet`].
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct RuleId(pub(crate) u32);

/// A declaration of a [`Sheet`]; ids ascend in source order.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct DeclarationId(pub(crate) u32);

impl RuleId {
    /// The rule's place in the arena.
    pub fn index(self) -> usize {
        self.0 as usize
    }
}

impl DeclarationId {
    /// The declaration's place in the arena.
    pub fn index(self) -> usize {
        self.0 as usize
    }
}

/// Which at-rule a rule is.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum AtRule {
    /// `@charset`, which only the decoder reads.
    Charset,
    /// `@container`
    Container,
    /// `@counter-style`
    CounterStyle,
    /// `@font-face`
    FontFace,
    /// `@import`
    Import,
    /// `@keyframes` and its prefixed forms.
    Keyframes,
    /// `@layer`, as a statement or with a block.
    Layer,
    /// `@media`
    Media,
    /// `@namespace`
    Namespace,
    /// `@page`
    Page,
    /// `@property`
    Property,
    /// `@scope`
    Scope,
    /// `@starting-style`
    StartingStyle,
    /// `@supports`
    Supports,
    /// Any other, with its name in lower case.
    Other(Box<str>),
}

impl AtRule {
    /// Its name with the `@`; of one that is not known only that.
    pub fn name(&self) -> &'static str {
        match self {
            AtRule::Charset => "@charset",
            AtRule::Container => "@container",
            AtRule::CounterStyle => "@counter-style",
            AtRule::FontFace => "@font-face",
            AtRule::Import => "@import",
            AtRule::Keyframes => "@keyframes",
            AtRule::Layer => "@layer",
            AtRule::Media => "@media",
            AtRule::Namespace => "@namespace",
            AtRule::Page => "@page",
            AtRule::Property => "@property",
            AtRule::Scope => "@scope",
            AtRule::StartingStyle => "@starting-style",
            AtRule::Supports => "@supports",
            AtRule::Other(_) => "@",
        }
    }

    fn named(name: &str) -> AtRule {
        let lower = name.to_ascii_lowercase();
        match lower.as_str() {
            "charset" => AtRule::Charset,
            "container" => AtRule::Container,
            "counter-style" => AtRule::CounterStyle,
            "font-face" => AtRule::FontFace,
            "import" => AtRule::Import,
            "keyframes" | "-webkit-keyframes" => AtRule::Keyframes,
            "layer" => AtRule::Layer,
            "media" => AtRule::Media,
            "namespace" => AtRule::Namespace,
            "page" => AtRule::Page,
            "property" => AtRule::Property,
            "scope" => AtRule::Scope,
            "starting-style" => AtRule::StartingStyle,
            "supports" => AtRule::Supports,
            _ => AtRule::Other(lower.into()),
        }
    }
}

/// What a rule is.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum RuleKind {
    /// A style rule; its prelude is a selector list.
    Style,
    /// An at-rule.
    At(AtRule),
    /// The declarations of a `style` attribute.
    Attribute,
}

/// What stands in a block, or at the top of a sheet.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Item {
    /// A rule.
    Rule(RuleId),
    /// A declaration.
    Declaration(DeclarationId),
}

/// A rule with its block.
#[derive(Debug)]
pub struct Rule {
    /// What it is.
    pub kind: RuleKind,
    /// The rule it stands in.
    pub parent: Option<RuleId>,
    /// The whole rule.
    pub span: TextRange,
    /// What stands before the block, without the white space around it.
    pub prelude: TextRange,
    prelude_tokens: Range<u32>,
    /// From `{` to `}`; none for a statement such as `@import`.
    pub block: Option<TextRange>,
    /// What stands in the block, in order.
    pub items: Vec<Item>,
}

/// A declaration as written; whether a property of that name exists is asked later.
#[derive(Debug)]
pub struct Declaration {
    /// The rule it stands in.
    pub rule: RuleId,
    /// From the name to the end of the value or its `!important`, without the semicolon.
    pub span: TextRange,
    /// The property's name.
    pub name: TextRange,
    /// The value, without the white space around it and without `!important`; empty where the
    /// declaration has none.
    pub value: TextRange,
    value_tokens: Range<u32>,
    /// Where `!important` stands.
    pub important: Option<TextRange>,
    /// Whether a semicolon follows.
    pub semicolon: bool,
}

/// Something that could not be read.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Problem {
    /// Where.
    pub span: TextRange,
    /// The rule it stands in, if any.
    pub rule: Option<RuleId>,
    /// What is wrong and what was expected, in a sentence.
    pub message: String,
}

/// A parsed style sheet, embedded sheet or style attribute.
#[derive(Debug)]
pub struct Sheet {
    text: Arc<Text>,
    span: TextRange,
    tokens: Vec<Token>,
    rules: Vec<Rule>,
    declarations: Vec<Declaration>,
    top: Vec<Item>,
    problems: Vec<Problem>,
}

impl Sheet {
    /// Parses a style sheet: a whole text, or the part of a page that an embedded sheet is.
    /// There are no errors, only [`Sheet::problems`].
    pub fn parse(text: Arc<Text>, span: TextRange) -> Self {
        parse::sheet(text, span)
    }

    /// Parses the value of a `style` attribute into one rule of the kind [`RuleKind::Attribute`].
    pub fn parse_attribute(text: Arc<Text>, span: TextRange) -> Self {
        parse::attribute(text, span)
    }

    /// The text that the sheet stands in; all spans are spans of it.
    pub fn text(&self) -> &Arc<Text> {
        &self.text
    }

    /// Which part of the text the sheet is.
    pub fn span(&self) -> TextRange {
        self.span
    }

    /// All rules, outer ones before those inside.
    pub fn rules(&self) -> impl Iterator<Item = (RuleId, &Rule)> {
        self.rules
            .iter()
            .enumerate()
            .map(|(at, rule)| (RuleId(at as u32), rule))
    }

    /// A rule.
    pub fn rule(&self, id: RuleId) -> &Rule {
        &self.rules[id.index()]
    }

    /// How many rules there are, the inner ones too.
    pub fn rule_count(&self) -> usize {
        self.rules.len()
    }

    /// All declarations in source order.
    pub fn declarations(&self) -> impl Iterator<Item = (DeclarationId, &Declaration)> {
        self.declarations
            .iter()
            .enumerate()
            .map(|(at, declaration)| (DeclarationId(at as u32), declaration))
    }

    /// A declaration.
    pub fn declaration(&self, id: DeclarationId) -> &Declaration {
        &self.declarations[id.index()]
    }

    /// How many declarations there are.
    pub fn declaration_count(&self) -> usize {
        self.declarations.len()
    }

    /// What stands at the top of the sheet, in order.
    pub fn top(&self) -> &[Item] {
        &self.top
    }

    /// The declarations that stand directly in a rule.
    pub fn declarations_of(
        &self,
        rule: RuleId,
    ) -> impl Iterator<Item = (DeclarationId, &Declaration)> {
        self.rule(rule).items.iter().filter_map(|item| match item {
            Item::Declaration(id) => Some((*id, self.declaration(*id))),
            Item::Rule(_) => None,
        })
    }

    /// The innermost rule at a line that elements can be matched against, and the declaration of it
    /// that stands in the line, unless that is the line of its head.
    pub fn rule_at(&self, line: u32) -> Option<(RuleId, Option<DeclarationId>)> {
        let on = |span: TextRange| {
            let one = TextSize::from(1);
            let last = span.end().max(span.start() + one) - one;
            (self.text.place(span.start()).line..=self.text.place(last).line).contains(&line)
        };
        let candidates = self.rules().filter(|(id, rule)| {
            let holds = rule.kind == RuleKind::Style || self.declarations_of(*id).next().is_some();
            holds && rule.kind != RuleKind::Attribute && on(rule.span)
        });
        let (id, rule) =
            candidates.min_by_key(|(id, rule)| (rule.span.len(), std::cmp::Reverse(*id)))?;
        let head = self.text.place(rule.span.start()).line == line;
        let mut declarations = self.declarations_of(id).filter(|(_, d)| on(d.span));
        Some((id, declarations.next().map(|(id, _)| id).filter(|_| !head)))
    }

    /// What could not be read, in order.
    pub fn problems(&self) -> &[Problem] {
        &self.problems
    }

    /// The comments, in order.
    pub fn comments(&self) -> impl Iterator<Item = TextRange> {
        self.tokens
            .iter()
            .filter(|t| t.kind == Kind::Comment)
            .map(|t| t.span())
    }

    /// The tokens of a rule's prelude.
    pub fn prelude_tokens(&self, rule: &Rule) -> &[Token] {
        &self.tokens[rule.prelude_tokens.start as usize..rule.prelude_tokens.end as usize]
    }

    /// The tokens of a declaration's value.
    pub fn value_tokens(&self, declaration: &Declaration) -> &[Token] {
        let range = &declaration.value_tokens;
        &self.tokens[range.start as usize..range.end as usize]
    }

    /// The characters of a span that counts from the beginning of a rule, as the spans of its
    /// selectors do.
    pub fn slice_in(&self, rule: RuleId, span: TextRange) -> &str {
        self.text.slice(span + self.rule(rule).span.start())
    }

    /// A rule's prelude: the selector list of a style rule.
    pub fn prelude_source(&self, rule: &Rule) -> &str {
        self.text.slice(rule.prelude)
    }

    /// A declaration's name as written.
    pub fn name_source(&self, declaration: &Declaration) -> &str {
        self.text.slice(declaration.name)
    }

    /// A declaration's value as written.
    pub fn value_source(&self, declaration: &Declaration) -> &str {
        self.text.slice(declaration.value)
    }
}
