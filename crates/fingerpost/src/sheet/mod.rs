//! CSS to a [`Sheet`]: every rule, at-rule, declaration, comment and error of a source, in arenas,
//! each with its span.
//!
//! Follows CSS Syntax 3 § 5 with nested rules. A sheet keeps what a style engine discards: a
//! declaration of an unknown property, a rule with a selector that is not understood, an at-rule of the
//! future stay in the model, and the floors above say what they make of them. What can't be read at
//! all is a [`Problem`] in its place. Declarations are numbered in source order, which is the order
//! of appearance of the cascade.
//!
//! ```
//! use fingerpost::sheet::Sheet;
//! use fingerpost::text::Text;
//!
//! let text = Text::new("a.css", "p { color: teal; nonsense }");
//! let sheet = Sheet::parse(text.clone(), text.span());
//! let (_, color) = sheet.declarations().next().unwrap();
//! assert_eq!(&text.source()[color.value], "teal");
//! assert_eq!(&text.source()[color.semicolon.unwrap()], ";");
//! assert_eq!(sheet.problems().len(), 1);
//! ```

mod at;
mod line_comments;
mod parse;
mod reparse;
mod token;

pub use parse::DEEPEST_NESTING;
pub(crate) use reparse::{Kept, reparse};
pub use token::{Token, TokenKind, tokenize};
pub(crate) use token::{Tokens, component_length, cover, split_commas, trim, trim_end};

use std::ops::Range;
use std::sync::{Arc, OnceLock};

use crate::text::{Crowded, Place, Text, TextRange, TextSize};

/// A rule of a [`Sheet`].
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct RuleId(pub(crate) u32);

/// A declaration of a [`Sheet`]; ids ascend in source order.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct DeclarationId(pub(crate) u32);

impl RuleId {
    /// The rule's index in the arena.
    pub fn index(self) -> usize {
        self.0 as usize
    }
}

impl DeclarationId {
    /// The declaration's index in the arena.
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

    /// The names of all at-rules of the standards, without the `@`.
    pub(crate) fn all() -> impl Iterator<Item = &'static str> {
        [
            "charset",
            "color-profile",
            "container",
            "counter-style",
            "custom-media",
            "font-face",
            "font-feature-values",
            "font-palette-values",
            "function",
            "import",
            "keyframes",
            "layer",
            "media",
            "namespace",
            "page",
            "position-try",
            "property",
            "scope",
            "starting-style",
            "supports",
            "view-transition",
            "when",
        ]
        .into_iter()
    }

    /// Whether a standard has an at-rule of that name.
    pub(crate) fn is_known(name: &str) -> bool {
        AtRule::all().any(|known| known == name)
    }

    /// Whether it defines something for the whole page, other than rules that match elements.
    pub(crate) fn defines(&self) -> bool {
        match self {
            AtRule::CounterStyle
            | AtRule::FontFace
            | AtRule::Keyframes
            | AtRule::Page
            | AtRule::Property
            | AtRule::Other(_) => true,
            AtRule::Charset
            | AtRule::Container
            | AtRule::Import
            | AtRule::Layer
            | AtRule::Media
            | AtRule::Namespace
            | AtRule::Scope
            | AtRule::StartingStyle
            | AtRule::Supports => false,
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
#[non_exhaustive]
pub enum RuleKind {
    /// A style rule; its prelude is a selector list.
    Style,
    /// An at-rule.
    At(AtRule),
    /// The declarations of a `style` attribute.
    Attribute,
}

/// What is in a block, or at the top of a sheet.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Item {
    /// A rule.
    ///
    /// # Panics
    /// Where the id is of another sheet and this one has fewer rules: an id belongs to the sheet that gave it.
    Rule(RuleId),
    /// A declaration.
    Declaration(DeclarationId),
}

/// A rule with its block.
#[derive(Clone, Debug)]
pub struct Rule {
    /// What it is.
    pub kind: RuleKind,
    /// The rule it is in.
    pub parent: Option<RuleId>,
    /// The whole rule.
    pub span: TextRange,
    /// What is before the block, without the white space around it.
    pub prelude: TextRange,
    /// From `{` to `}`; none for a statement such as `@import`.
    pub block: Option<TextRange>,
    /// What is between the braces; empty at the end for a statement.
    pub inside: TextRange,
    /// Whether the block has its `}`, or the statement its `;`. Without it the rule ends where the
    /// block around it or the sheet does.
    pub closed: bool,
    /// The name of an at-rule with its `@`; empty at the start for any other rule.
    pub name: TextRange,
    /// What is in the block, in order: see [`Sheet::items`].
    items: Range<u32>,
}

/// A declaration as written; whether a property of that name exists is asked later.
#[derive(Clone, Copy, Debug)]
#[non_exhaustive]
pub struct Declaration {
    /// The rule it is in.
    pub rule: RuleId,
    /// From the name to the end of the value or its `!important`, without the semicolon.
    pub span: TextRange,
    /// The property's name.
    pub name: TextRange,
    /// The value, without the white space around it and without `!important`; empty where the
    /// declaration has none.
    pub value: TextRange,
    /// Where `!important` stands.
    pub important: Option<TextRange>,
    /// The colon between name and value.
    pub colon: TextRange,
    /// The semicolon that ends it, where there is one. Comments may stand before it.
    pub semicolon: Option<TextRange>,
}

impl Declaration {
    /// The declaration with its semicolon, and with the comments before that.
    pub fn whole(&self) -> TextRange {
        match self.semicolon {
            Some(semicolon) => TextRange::new(self.span.start(), semicolon.end()),
            None => self.span,
        }
    }

    /// Where something goes that is to stand after it.
    pub fn end(&self) -> TextSize {
        self.whole().end()
    }
}

/// Something that could not be read.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Problem {
    /// Where.
    pub span: TextRange,
    /// The rule it is in, if any.
    pub rule: Option<RuleId>,
    /// What is wrong and what was expected, in a sentence.
    pub message: String,
}

/// A parsed style sheet, embedded sheet or style attribute.
#[derive(Debug)]
#[non_exhaustive]
pub struct Sheet {
    text: Arc<Text>,
    span: TextRange,
    /// The source with spaces for what its language takes for a comment and CSS does not.
    css: Option<Box<str>>,
    rules: Vec<Rule>,
    declarations: Vec<Declaration>,
    /// Shared with the sheet of the next state where an edit leaves the structure alone.
    top: Arc<[Item]>,
    /// What is in the blocks of rules, the items of each rule together.
    items: Arc<[Item]>,
    problems: Vec<Problem>,
    /// The lines on which several rules begin, worked out when a place is asked for.
    crowded: OnceLock<Box<[u32]>>,
}

impl Sheet {
    /// Parses a style sheet: a whole text, or the part of a page that an embedded sheet is.
    /// There are no errors, only [`Sheet::problems`].
    ///
    /// ```
    /// use fingerpost::sheet::Sheet;
    /// use fingerpost::text::Text;
    ///
    /// let text = Text::new("a.css", "@media print { p { color: black } }");
    /// let sheet = Sheet::parse(text.clone(), text.span());
    /// assert_eq!((sheet.rule_count(), sheet.declaration_count()), (2, 1));
    /// ```
    pub fn parse(text: Arc<Text>, span: TextRange) -> Self {
        parse::sheet(text, span)
    }

    /// Parses the value of a `style` attribute into one rule of the kind [`RuleKind::Attribute`].
    pub fn parse_attribute(text: Arc<Text>, span: TextRange) -> Self {
        parse::attribute(text, span)
    }

    /// The text that the sheet is in; all spans are spans of it.
    pub fn text(&self) -> &Arc<Text> {
        &self.text
    }

    /// The place of an offset; it shows its column where its line holds several rules.
    pub fn place(&self, offset: TextSize) -> Place {
        let mut place = self.text.place(offset);
        let crowded = self.crowded.get_or_init(|| {
            let starts = self.rules.iter().filter(|r| !r.span.is_empty());
            let mut lines: Vec<u32> = starts.map(|r| self.text.line_of(r.span.start())).collect();
            lines.sort_unstable();
            let pairs = lines.iter().zip(lines.iter().skip(1));
            let twice = pairs.filter(|(line, next)| line == next);
            let mut twice: Vec<u32> = twice.map(|(line, _)| *line).collect();
            twice.dedup();
            twice.into()
        });
        place.crowded = Crowded(crowded.binary_search(&place.line).is_ok());
        place
    }

    /// Which part of the text the sheet is.
    pub fn span(&self) -> TextRange {
        self.span
    }

    /// All rules, outer ones before those inside.
    ///
    /// ```
    /// use fingerpost::sheet::Sheet;
    /// use fingerpost::text::Text;
    ///
    /// let text = Text::new("a.css", "p { color: teal } .late { color: maroon }");
    /// let sheet = Sheet::parse(text.clone(), text.span());
    /// let preludes: Vec<_> = sheet.rules().map(|(_, rule)| sheet.prelude_source(rule)).collect();
    /// assert_eq!(preludes, ["p", ".late"]);
    /// ```
    pub fn rules(&self) -> impl Iterator<Item = (RuleId, &Rule)> {
        self.rules
            .iter()
            .enumerate()
            .map(|(at, rule)| (RuleId(at as u32), rule))
    }

    /// A rule.
    #[expect(clippy::indexing_slicing, reason = "the ids are this sheet's own")]
    pub fn rule(&self, id: RuleId) -> &Rule {
        &self.rules[id.index()]
    }

    /// How many rules there are, the inner ones too.
    pub fn rule_count(&self) -> usize {
        self.rules.len()
    }

    /// All declarations in source order.
    ///
    /// ```
    /// use fingerpost::sheet::Sheet;
    /// use fingerpost::text::Text;
    ///
    /// let text = Text::new("a.css", "p { color: teal; margin: 0 !important }");
    /// let sheet = Sheet::parse(text.clone(), text.span());
    /// let important = sheet.declarations().filter(|(_, d)| d.important.is_some());
    /// let names: Vec<_> = important.map(|(_, d)| sheet.name_source(d)).collect();
    /// assert_eq!(names, ["margin"]);
    /// ```
    pub fn declarations(&self) -> impl Iterator<Item = (DeclarationId, &Declaration)> {
        self.declarations
            .iter()
            .enumerate()
            .map(|(at, declaration)| (DeclarationId(at as u32), declaration))
    }

    /// A declaration.
    ///
    /// # Panics
    /// Where the id is of another sheet and this one has fewer declarations: an id belongs to the sheet that gave it.
    #[expect(clippy::indexing_slicing, reason = "the ids are this sheet's own")]
    pub fn declaration(&self, id: DeclarationId) -> &Declaration {
        &self.declarations[id.index()]
    }

    /// How many declarations there are.
    pub fn declaration_count(&self) -> usize {
        self.declarations.len()
    }

    /// What is in the block of one of its rules, in order.
    pub fn items(&self, rule: &Rule) -> &[Item] {
        let range = rule.items.start as usize..rule.items.end as usize;
        self.items.get(range).unwrap_or_default()
    }

    /// What is at the top of the sheet, in order.
    pub fn top(&self) -> &[Item] {
        &self.top
    }

    /// The declarations that stand directly in a rule.
    ///
    /// ```
    /// use fingerpost::sheet::Sheet;
    /// use fingerpost::text::Text;
    ///
    /// let text = Text::new("a.css", "p { color: teal; margin: 0 }");
    /// let sheet = Sheet::parse(text.clone(), text.span());
    /// let (rule, _) = sheet.rules().next().unwrap();
    /// let (_, last) = sheet.declarations_of(rule).last().unwrap();
    /// assert_eq!(sheet.value_source(last), "0");
    /// ```
    pub fn declarations_of(
        &self,
        rule: RuleId,
    ) -> impl Iterator<Item = (DeclarationId, &Declaration)> {
        let items = self.items(self.rule(rule)).iter();
        items.filter_map(|item| match item {
            Item::Declaration(id) => Some((*id, self.declaration(*id))),
            Item::Rule(_) => None,
        })
    }

    /// The members of a rule's prelude that are kept apart by commas, without the white space and
    /// comments around each: the selectors of a style rule.
    pub fn members(&self, rule: RuleId) -> Vec<TextRange> {
        let tokens = self.prelude_tokens(self.rule(rule));
        let parts = split_commas(&tokens).into_iter().map(trim);
        parts
            .filter_map(|part| {
                let (first, last) = (part.first()?, part.last()?);
                Some(TextRange::new(first.span().start(), last.span().end()))
            })
            .collect()
    }

    /// The tokens of a span that begins and ends between tokens. They are read when they are asked for: for most of
    /// a sheet that is never asked.
    pub fn tokens_in(&self, span: TextRange) -> Vec<Token> {
        let end = u32::from(span.end());
        let tokens = self.tokens_from(span.start());
        tokens.take_while(|token| token.end <= end).collect()
    }

    /// The tokens after an offset that stands between tokens.
    pub fn tokens_from(&self, offset: TextSize) -> impl Iterator<Item = Token> + '_ {
        // What is after the end of a span may say what its last token is.
        let rest = TextRange::new(offset, self.span.end().max(offset));
        let source = self.css.as_deref().unwrap_or(self.text.source());
        Tokens::new(source, rest)
    }

    /// What could not be read, in order.
    ///
    /// ```
    /// use fingerpost::sheet::Sheet;
    /// use fingerpost::text::Text;
    ///
    /// let text = Text::new("a.css", "p { color teal; margin: 0 }");
    /// let sheet = Sheet::parse(text.clone(), text.span());
    /// let problem = &sheet.problems()[0];
    /// assert_eq!(sheet.place(problem.span.start()).to_string(), "a.css:1:5");
    /// // What follows is read.
    /// assert_eq!(sheet.declaration_count(), 1);
    /// ```
    pub fn problems(&self) -> &[Problem] {
        &self.problems
    }

    /// The comments, in order.
    pub fn comments(&self) -> impl Iterator<Item = TextRange> {
        self.tokens_from(self.span.start())
            .filter(|t| t.kind == TokenKind::Comment)
            .map(Token::span)
    }

    /// The tokens of a rule's prelude.
    pub fn prelude_tokens(&self, rule: &Rule) -> Vec<Token> {
        self.tokens_in(rule.prelude)
    }

    /// The tokens of a declaration's value.
    pub fn value_tokens(&self, declaration: &Declaration) -> Vec<Token> {
        self.tokens_in(declaration.value)
    }

    /// The span in the text of what counts from the beginning of a rule, as the spans of its selectors and of their parts
    /// do, so that the rule can move without them. An at-rule in a style rule has that rule's selectors.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let css = "p { top: 0 } @media screen { .a, .b { top: 0 } }";
    /// let page = Page::new(Text::new("a.html", format!("<style>{css}</style>")));
    /// let rule = page.rules().last().expect("it is there");
    /// let sheet = page.sheets()[rule.sheet as usize].styles.sheet();
    /// let list = rule.selectors.as_ref().expect("it is valid");
    /// let second = sheet.span_in(rule.rule, list.selectors[1].span);
    /// assert_eq!(sheet.text().slice(second), ".b");
    /// assert_eq!(sheet.place(second.start()).to_string(), "a.html:1:41");
    /// ```
    pub fn span_in(&self, rule: RuleId, span: TextRange) -> TextRange {
        let mut around = std::iter::successors(Some(rule), |id| self.rule(*id).parent);
        let styled = around.find(|id| self.rule(*id).kind == RuleKind::Style);
        let start = self.rule(styled.unwrap_or(rule)).span.start();
        span.checked_add(start).unwrap_or_default()
    }

    /// The characters of such a span.
    pub fn slice_in(&self, rule: RuleId, span: TextRange) -> &str {
        let span = self.span_in(rule, span);
        let range = usize::from(span.start())..usize::from(span.end());
        self.text.source().get(range).unwrap_or_default()
    }

    /// Where a declaration begins: at its name.
    ///
    /// ```
    /// use fingerpost::sheet::Sheet;
    /// use fingerpost::text::Text;
    ///
    /// let text = Text::new("a.css", "p {\n  color: teal }");
    /// let sheet = Sheet::parse(text.clone(), text.span());
    /// let (_, color) = sheet.declarations().next().unwrap();
    /// assert_eq!(sheet.place_of(color).to_string(), "a.css:2:3");
    /// ```
    pub fn place_of(&self, declaration: &Declaration) -> Place {
        self.place(declaration.span.start())
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

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// The tokens of all that is in a span, from those of the whole source.
    fn cut_out(all: &[Token], span: TextRange) -> Vec<Token> {
        let inside = all.iter().filter(|token| span.contains_range(token.span()));
        inside.copied().collect()
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(2000))]

        /// A span read alone gives what it gives in the whole source.
        #[test]
        fn a_span_has_the_tokens_that_it_has_in_the_source(
            source in "(a|b|1|\\.|-|--|#|@|\\+|e|url\\(|x\\(|[(){};:,!\"'\\\\/* \n]|/\\*|\\*/|!important|\\{x:){0,40}"
        ) {
            let text = Text::new("t.css", source.as_str());
            let all = tokenize(&source, text.span());
            let sheet = Sheet::parse(text.clone(), text.span());
            for (_, declaration) in sheet.declarations() {
                let tokens = sheet.value_tokens(declaration);
                prop_assert_eq!(tokens, cut_out(&all, declaration.value));
            }
            for (_, rule) in sheet.rules() {
                prop_assert_eq!(sheet.prelude_tokens(rule), cut_out(&all, rule.prelude));
                let inside: Vec<Token> = sheet.tokens_in(rule.inside);
                prop_assert_eq!(inside, cut_out(&all, rule.inside));
            }
        }
    }
}
