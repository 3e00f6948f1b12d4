//! Tokens to rules and declarations: CSS Syntax 3 § 5.4, error recovery included.
//!
//! Convention: a `consume_…` function starts at `self.at`, leaves it behind what it consumed, and
//! never goes past `end`, the token that closes the block it reads in (or the end of the tokens).
//! What closes each block is found once at the start, so that skipping a block is one step and
//! nesting costs no stack.

use std::ops::Range;
use std::sync::{Arc, OnceLock};

use super::line_comments::{line_comments, without_line_comments};
use super::{
    AtRule, Declaration, DeclarationId, Item, Problem, Rule, RuleId, RuleKind, Sheet, Token,
    TokenKind, tokenize,
};
use crate::text::{Cut, Text, TextRange, TextSize};

/// How deep rules may be nested. Real sheets nest a few levels; what is deeper is skipped and
/// reported, so that no sheet can exhaust the stack.
pub const DEEPEST_NESTING: usize = 128;

pub(super) fn sheet(text: Arc<Text>, span: TextRange) -> Sheet {
    let mut parser = Reader::new(&text, span);
    parser.consume_sheet();
    let items = parser.items().into();
    let Reader {
        css,
        rules,
        declarations,
        top,
        problems,
        ..
    } = parser;
    Sheet {
        css,
        text,
        span,
        rules,
        declarations,
        top: top.into(),
        items,
        problems,
        crowded: OnceLock::new(),
    }
}

pub(super) fn attribute(text: Arc<Text>, span: TextRange) -> Sheet {
    let mut parser = Reader::new(&text, span);
    let end = parser.tokens.len();
    let rule = parser.push_rule(RuleKind::Attribute, None, 0);
    let this = parser.rule(rule);
    this.block = Some(span);
    this.inside = span;
    this.closed = true;
    this.span = span;
    parser.consume_block_contents(rule, end, 1);
    let items = parser.items().into();
    let Reader {
        css,
        rules,
        declarations,
        problems,
        ..
    } = parser;
    Sheet {
        css,
        text,
        span,
        rules,
        declarations,
        top: [Item::Rule(rule)].into(),
        items,
        problems,
        crowded: OnceLock::new(),
    }
}

struct Reader<'a> {
    source: &'a str,
    /// See [`Sheet::css`].
    css: Option<Box<str>>,
    tokens: Vec<Token>,
    /// For each token that opens a block, the token that closes it, or the number of tokens.
    closers: Vec<u32>,
    at: usize,
    end_offset: TextSize,
    rules: Vec<Rule>,
    declarations: Vec<Declaration>,
    top: Vec<Item>,
    /// What is in rules, as it is met.
    placed: Vec<(RuleId, Item)>,
    problems: Vec<Problem>,
}

impl<'a> Reader<'a> {
    fn new(text: &'a Text, span: TextRange) -> Self {
        let source = text.source();
        let css = line_comments(text.name()).then(|| without_line_comments(source).into());
        let tokens = tokenize(css.as_deref().unwrap_or(source), span);
        let closers = pair_blocks(&tokens);
        Reader {
            source,
            css,
            tokens,
            closers,
            at: 0,
            end_offset: span.end(),
            rules: Vec::new(),
            declarations: Vec::new(),
            top: Vec::new(),
            placed: Vec::new(),
            problems: Vec::new(),
        }
    }

    /// A token; after the last one, where the standard has the end of the file, nothing but space.
    fn token(&self, at: usize) -> Token {
        let end = u32::from(self.end_offset);
        let behind = Token {
            kind: TokenKind::Space,
            start: end,
            end,
        };
        self.tokens.get(at).copied().unwrap_or(behind)
    }

    fn kind(&self, at: usize) -> TokenKind {
        self.token(at).kind
    }

    /// The token that closes the block which `at` opens, or the number of tokens.
    fn closer(&self, at: usize) -> usize {
        self.closers
            .get(at)
            .map_or(self.tokens.len(), |at| *at as usize)
    }

    #[expect(
        clippy::indexing_slicing,
        reason = "the ids are those of the rules that were pushed"
    )]
    fn rule(&mut self, id: RuleId) -> &mut Rule {
        &mut self.rules[id.index()]
    }

    /// Where a token starts; the end of the sheet for the token after the last.
    fn start(&self, at: usize) -> TextSize {
        self.tokens
            .get(at)
            .map_or(self.end_offset, |t| t.span().start())
    }

    /// The token after the component value at `at` (§ 5.4.8).
    fn after_component(&self, at: usize, end: usize) -> usize {
        match self.kind(at).closer() {
            Some(_) => (self.closer(at) + 1).min(end),
            None => at + 1,
        }
    }

    fn skip_blanks(&mut self, end: usize) {
        while self.at < end && self.kind(self.at).is_blank() {
            self.at += 1;
        }
    }

    /// The tokens from `start` to `end` without the blank ones at either side.
    fn trimmed(&self, mut start: usize, mut end: usize) -> Range<u32> {
        while start < end && self.kind(start).is_blank() {
            start += 1;
        }
        while end > start && self.kind(end - 1).is_blank() {
            end -= 1;
        }
        start as u32..end as u32
    }

    fn span_of(&self, tokens: &Range<u32>) -> TextRange {
        let start = self.start(tokens.start as usize);
        match tokens.end.checked_sub(1) {
            Some(last) if tokens.end > tokens.start => {
                TextRange::new(start, self.token(last as usize).span().end())
            }
            _ => TextRange::empty(start),
        }
    }

    fn problem(&mut self, rule: Option<RuleId>, span: TextRange, message: impl Into<String>) {
        self.problems.push(Problem {
            span,
            rule,
            message: message.into(),
        });
    }

    fn push_rule(&mut self, kind: RuleKind, parent: Option<RuleId>, start: usize) -> RuleId {
        let here = TextRange::empty(self.start(start));
        self.rules.push(Rule {
            kind,
            parent,
            span: here,
            prelude: here,
            block: None,
            inside: here,
            closed: false,
            name: here,
            items: 0..0,
        });
        RuleId(self.rules.len() as u32 - 1)
    }

    /// The items of all rules, those of each together; the rules are told which are theirs.
    fn items(&mut self) -> Vec<Item> {
        // In order of the rules; of one rule, in order of appearance.
        self.placed.sort_by_key(|(rule, _)| *rule);
        let mut at = 0;
        for of_rule in self.placed.chunk_by(|(rule, _), (other, _)| rule == other) {
            let end = at + of_rule.len() as u32;
            if let Some((rule, _)) = of_rule.first()
                && let Some(rule) = self.rules.get_mut(rule.index())
            {
                rule.items = at..end;
            }
            at = end;
        }
        self.placed.drain(..).map(|(_, item)| item).collect()
    }

    fn place(&mut self, parent: Option<RuleId>, item: Item) {
        match parent {
            Some(rule) => self.placed.push((rule, item)),
            None => self.top.push(item),
        }
    }

    /// § 5.4.1: consume a stylesheet's contents.
    fn consume_sheet(&mut self) {
        let end = self.tokens.len();
        while self.at < end {
            match self.kind(self.at) {
                TokenKind::Space | TokenKind::Comment | TokenKind::CommentDelimiter => self.at += 1,
                TokenKind::AtKeyword => self.consume_at_rule(None, end, 1),
                _ => self.consume_qualified_rule(None, end, 1),
            }
        }
        if let Some(last) = self.tokens.last()
            && last.kind == TokenKind::Comment
            && !last.source(self.source).cut(2..).ends_with("*/")
        {
            let span = last.span();
            self.problem(
                None,
                span,
                "the comment is never closed: everything from here to the end of the file is a \
                 comment; expected */",
            );
        }
    }

    /// § 5.4.2: consume an at-rule.
    fn consume_at_rule(&mut self, parent: Option<RuleId>, end: usize, depth: usize) {
        let start = self.at;
        let name = AtRule::named(&self.token(start).name(self.source));
        self.at += 1;
        let prelude_start = self.at;
        while self.at < end
            && !matches!(
                self.kind(self.at),
                TokenKind::Semicolon | TokenKind::OpenCurly
            )
        {
            self.at = self.after_component(self.at, end);
        }
        let prelude = self.trimmed(prelude_start, self.at);
        let rule = self.push_rule(RuleKind::At(name), parent, start);
        self.place(parent, Item::Rule(rule));
        self.rule(rule).name = self.token(start).span();
        let has_block = self.at < end && self.kind(self.at) == TokenKind::OpenCurly;
        self.finish_rule(rule, start, prelude, end, depth);
        if !has_block && self.at < end && self.kind(self.at) == TokenKind::Semicolon {
            self.at += 1;
            let close = self.token(self.at - 1).span().end();
            let this = self.rule(rule);
            this.closed = true;
            this.span = TextRange::new(this.span.start(), close);
            this.inside = TextRange::empty(close);
        }
    }

    /// § 5.4.3: consume a qualified rule. In a block it ends at a semicolon, as a bad declaration.
    fn consume_qualified_rule(&mut self, parent: Option<RuleId>, end: usize, depth: usize) {
        let start = self.at;
        while self.at < end {
            match self.kind(self.at) {
                TokenKind::OpenCurly => break,
                TokenKind::Semicolon if parent.is_some() => break,
                _ => self.at = self.after_component(self.at, end),
            }
        }
        let prelude = self.trimmed(start, self.at);
        let span = self.span_of(&prelude);
        if self.at >= end || self.kind(self.at) != TokenKind::OpenCurly {
            self.at = (self.at + 1).min(end);
            let message = if parent.is_some() {
                "neither a declaration nor a rule; expected name: value;"
            } else {
                "the sheet ends inside a rule; expected { after the selector"
            };
            if !span.is_empty() {
                self.problem(parent, span, message);
            }
            return;
        }
        // `--name: …{` is a custom property gone wrong, never a selector.
        let first: Vec<_> = self
            .tokens
            .cut(prelude.start as usize..prelude.end as usize)
            .iter()
            .filter(|t| !t.kind.is_blank())
            .take(2)
            .collect();
        if let [name, colon] = first[..]
            && name.kind == TokenKind::Ident
            && name.source(self.source).starts_with("--")
            && colon.kind == TokenKind::Colon
        {
            self.at = self.after_component(self.at, end);
            self.problem(parent, span, "a custom property must be in a rule");
            return;
        }
        let rule = self.push_rule(RuleKind::Style, parent, start);
        self.place(parent, Item::Rule(rule));
        self.finish_rule(rule, start, prelude, end, depth);
    }

    /// Gives a rule its prelude and, when the reader is at `{`, its block.
    fn finish_rule(
        &mut self,
        rule: RuleId,
        start: usize,
        prelude: Range<u32>,
        end: usize,
        depth: usize,
    ) {
        let prelude_span = self.span_of(&prelude);
        let mut close = self.start(self.at);
        let mut block = None;
        let mut inside = TextRange::empty(close);
        let mut closed = false;
        if self.at < end && self.kind(self.at) == TokenKind::OpenCurly {
            let open = self.at;
            let closer = self.closer(open).min(end);
            self.at = open + 1;
            if depth >= DEEPEST_NESTING {
                let span = TextRange::new(self.start(open), self.start(closer));
                self.problem(
                    Some(rule),
                    span,
                    format!(
                        "rules are nested deeper than {DEEPEST_NESTING}; this block is skipped"
                    ),
                );
            } else {
                self.consume_block_contents(rule, closer, depth + 1);
            }
            self.at = (closer + 1).min(end);
            close = match self.tokens.get(closer) {
                Some(token) if closer < end => token.span().end(),
                _ => self.end_offset.min(self.start(end)),
            };
            if self.tokens.get(closer).is_none() {
                self.problem(
                    Some(rule),
                    TextRange::empty(self.start(open)),
                    "the block is never closed; expected }",
                );
            }
            block = Some(TextRange::new(self.start(open), close));
            closed = closer < end && self.tokens.get(closer).is_some();
            let last = if closed { self.start(closer) } else { close };
            let first = self.token(open).span().end();
            inside = TextRange::new(first, last.max(first));
        }
        let span = TextRange::new(self.start(start), close.max(self.start(start)));
        let this = self.rule(rule);
        this.span = span;
        this.prelude = prelude_span;
        this.block = block;
        this.inside = inside;
        this.closed = closed;
    }

    /// § 5.4.5: consume a block's contents.
    fn consume_block_contents(&mut self, rule: RuleId, end: usize, depth: usize) {
        while self.at < end {
            match self.kind(self.at) {
                TokenKind::Space | TokenKind::Comment | TokenKind::Semicolon => self.at += 1,
                TokenKind::AtKeyword => self.consume_at_rule(Some(rule), end, depth),
                _ => {
                    if !self.consume_declaration(rule, end) {
                        self.consume_qualified_rule(Some(rule), end, depth);
                    }
                }
            }
        }
    }

    /// § 5.4.6: consume a declaration. Gives `false`, and stands where it stood, when it is none.
    fn consume_declaration(&mut self, rule: RuleId, end: usize) -> bool {
        let start = self.at;
        if self.kind(start) != TokenKind::Ident {
            return false;
        }
        self.at += 1;
        self.skip_blanks(end);
        if self.at >= end || self.kind(self.at) != TokenKind::Colon {
            self.at = start;
            return false;
        }
        self.at += 1;
        let value_start = self.at;
        let mut curly = false;
        let mut others = false;
        while self.at < end && self.kind(self.at) != TokenKind::Semicolon {
            match self.kind(self.at) {
                TokenKind::OpenCurly => curly = true,
                kind if kind.is_blank() => {}
                _ => others = true,
            }
            self.at = self.after_component(self.at, end);
        }
        let name = self.token(start).span();
        let custom = self.token(start).source(self.source).starts_with("--");
        if curly && others && !custom {
            self.at = start;
            return false;
        }
        let value = self.trimmed(value_start, self.at);
        let (value_tokens, important) = self.split_important(value);
        let value = self.span_of(&value_tokens);
        let last = important.map_or(value.end(), TextRange::end);
        let colon_end = self.token(value_start - 1).span().end();
        let colon = self.token(value_start - 1).span();
        let semicolon = (self.at < end).then(|| self.token(self.at).span());
        self.at = (self.at + 1).min(end);
        self.declarations.push(Declaration {
            rule,
            span: TextRange::new(name.start(), last.max(colon_end)),
            name,
            value: if value_tokens.is_empty() {
                TextRange::empty(colon_end)
            } else {
                value
            },
            important,
            colon,
            semicolon,
        });
        let id = DeclarationId(self.declarations.len() as u32 - 1);
        self.place(Some(rule), Item::Declaration(id));
        true
    }

    /// Takes `! important` off the end of a value.
    fn split_important(&self, value: Range<u32>) -> (Range<u32>, Option<TextRange>) {
        let (start, end) = (value.start as usize, value.end as usize);
        let back = |mut at: usize| {
            while at > start && self.kind(at - 1).is_blank() {
                at -= 1;
            }
            at
        };
        if end == start
            || self.kind(end - 1) != TokenKind::Ident
            || !self.token(end - 1).is_name(self.source, "important")
        {
            return (value, None);
        }
        let mark = back(end - 1);
        if mark == start || !self.token(mark - 1).is_delim(self.source, '!') {
            return (value, None);
        }
        let span = TextRange::new(
            self.token(mark - 1).span().start(),
            self.token(end - 1).span().end(),
        );
        (start as u32..back(mark - 1) as u32, Some(span))
    }
}

/// For each opening token the token that closes it. A closing token that does not close the
/// innermost open block is an ordinary token, as § 5.4.9 has it.
fn pair_blocks(tokens: &[Token]) -> Vec<u32> {
    let mut closers = vec![tokens.len() as u32; tokens.len()];
    let mut open: Vec<(usize, TokenKind)> = Vec::new();
    for (at, token) in tokens.iter().enumerate() {
        if let Some(closer) = token.kind.closer() {
            open.push((at, closer));
        } else if open.last().is_some_and(|(_, closer)| *closer == token.kind) {
            let opener = open.pop().and_then(|(opener, _)| closers.get_mut(opener));
            if let Some(closer) = opener {
                *closer = at as u32;
            }
        }
    }
    closers
}

#[cfg(test)]
mod tests {
    use super::*;

    fn outline(source: &str) -> String {
        let text = Text::new("t.css", source);
        let span = text.span();
        let sheet = Sheet::parse(text, span);
        let mut out = String::new();
        fn walk(sheet: &Sheet, items: &[Item], out: &mut String) {
            for item in items {
                match item {
                    Item::Rule(id) => {
                        let rule = sheet.rule(*id);
                        out.push_str(&format!("[{}|", sheet.prelude_source(rule)));
                        walk(sheet, sheet.items(rule), out);
                        out.push(']');
                    }
                    Item::Declaration(id) => {
                        let declaration = sheet.declaration(*id);
                        let mark = if declaration.important.is_some() {
                            "!"
                        } else {
                            ""
                        };
                        out.push_str(&format!(
                            "{}={}{mark};",
                            sheet.name_source(declaration),
                            sheet.value_source(declaration)
                        ));
                    }
                }
            }
        }
        walk(&sheet, sheet.top(), &mut out);
        for problem in sheet.problems() {
            out.push_str(&format!(" ? {}", problem.message));
        }
        out
    }

    #[test]
    fn rules_declarations_and_importance() {
        assert_eq!(
            outline("a , b{color:red;margin:0 auto!important ; x: }"),
            "[a , b|color=red;margin=0 auto!;x=;]"
        );
    }

    #[test]
    fn nesting_reads_rules_and_declarations_in_order() {
        assert_eq!(
            outline(".a{color:red;&:hover{top:0} b:hover{left:0} @media print{right:0} bottom:0}"),
            "[.a|color=red;[&:hover|top=0;][b:hover|left=0;][print|right=0;]bottom=0;]"
        );
    }

    #[test]
    fn errors_end_where_the_standard_ends_them() {
        assert_eq!(
            outline("a{color red; top:0} } b{left:0}"),
            "[a|top=0;][} b|left=0;] ? neither a declaration nor a rule; expected name: value;"
        );
        assert_eq!(outline("a{b:(};c:d);e:f}"), "[a|b=(};c:d);e=f;]");
        assert_eq!(
            outline("a{b:c"),
            "[a|b=c;] ? the block is never closed; expected }"
        );
    }

    #[test]
    fn custom_properties_keep_any_value() {
        assert_eq!(
            outline(":root{--a:{b:c};--d:;--e: x !important}"),
            "[:root|--a={b:c};--d=;--e=x!;]"
        );
    }

    #[test]
    fn deep_nesting_is_skipped_and_said() {
        let source = "a{".repeat(10_000);
        let out = outline(&source);
        assert!(out.contains("nested deeper than 128"));
    }
}
