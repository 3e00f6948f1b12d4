//! Parsing a changed sheet again: only the rules at the top that a change touches.
//!
//! A rule at the top of a sheet ends where it ends whatever follows (CSS Syntax 3 § 5.4.1), so what
//! stands before and after a change is as it was, provided that what was parsed fresh ends cleanly
//! too. Where it does not, the whole sheet is parsed.

use std::ops::Range;
use std::sync::{Arc, OnceLock};

use super::{Declaration, DeclarationId, Item, Problem, Rule, RuleId, Sheet, TokenKind};
use crate::text::{Cut, Text, TextRange, TextSize};

/// What is the same in a sheet and the one before it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Kept {
    /// The rules before were these, and were removed…
    pub old: Range<usize>,
    /// … and these came in their place. All others are the same, the later ones moved.
    pub new: Range<usize>,
    /// The same of the declarations: those before…
    pub old_declarations: Range<usize>,
    /// … and those that came in their place.
    pub new_declarations: Range<usize>,
}

impl Kept {
    /// The index that a rule had in the sheet before; none for a rule that was parsed again.
    pub fn rule_before(&self, at: usize) -> Option<usize> {
        before(at, &self.old, &self.new)
    }

    /// The index that a declaration had in the sheet before; none for one that was parsed again.
    pub fn declaration_before(&self, at: usize) -> Option<usize> {
        before(at, &self.old_declarations, &self.new_declarations)
    }
}

fn before(at: usize, old: &Range<usize>, new: &Range<usize>) -> Option<usize> {
    match at {
        at if at < new.start => Some(at),
        at if at < new.end => None,
        at => Some(at - new.end + old.end),
    }
}

/// A sheet parsed from a text that differs from that of `before`; `None` where the change can't be
/// told apart from the rest.
pub(crate) fn reparse(before: &Sheet, text: &Arc<Text>) -> Option<(Sheet, Kept)> {
    let (old, new) = (before.text.source(), text.source());
    if before.span != before.text.span() {
        return None;
    }
    let (start, old_end, new_end) = changed(old, new);
    let delta = i64::try_from(new.len()).ok()? - i64::try_from(old.len()).ok()?;
    let tops: Vec<RuleId> = before
        .top
        .iter()
        .map(|item| match item {
            Item::Rule(id) => Some(*id),
            Item::Declaration(_) => None,
        })
        .collect::<Option<_>>()?;
    // What a change may touch: the rules that it meets, and those at its edges.
    let first = tops.partition_point(|id| usize::from(before.rule(*id).span.end()) < start);
    let last = tops.partition_point(|id| usize::from(before.rule(*id).span.start()) <= old_end);
    let last = last.max(first);
    let region_start = match first.checked_sub(1).and_then(|at| tops.get(at)) {
        Some(id) => usize::from(before.rule(*id).span.end()),
        None => 0,
    };
    let region_end = match tops.get(last) {
        Some(id) => usize::from(before.rule(*id).span.start()),
        None => old.len(),
    };
    let moved_end = usize::try_from(i64::try_from(region_end).ok()? + delta).ok()?;
    if region_start > start || region_end < old_end || moved_end < new_end {
        return None;
    }
    if region_start > 0 && !old.cut(..region_start).ends_with(['}', ';']) {
        return None;
    }
    let region = crate::text::span(region_start, moved_end);
    let part = Sheet::parse(text.clone(), region);
    if !ends_cleanly(&part) {
        return None;
    }
    Some(spliced(
        before,
        part,
        first..last,
        &tops,
        region_start..region_end,
        delta,
    ))
}

/// Where two texts differ: the start, and the end in each.
fn changed(old: &str, new: &str) -> (usize, usize, usize) {
    /// Large parts are compared at once.
    const BLOCK: usize = 4096;
    let (old, new) = (old.as_bytes(), new.as_bytes());
    let blocks = old.chunks_exact(BLOCK).zip(new.chunks_exact(BLOCK));
    let same = BLOCK * blocks.take_while(|(a, b)| a == b).count();
    let bytes = old.cut(same..).iter().zip(new.cut(same..));
    let same = same + bytes.take_while(|(a, b)| a == b).count();
    let (rest, other) = (old.cut(same..), new.cut(same..));
    let blocks = rest.rchunks_exact(BLOCK).zip(other.rchunks_exact(BLOCK));
    let back = BLOCK * blocks.take_while(|(a, b)| a == b).count();
    let (open, other) = (
        rest.cut(..rest.len() - back).iter(),
        other.cut(..other.len() - back).iter(),
    );
    let back = back
        + open
            .rev()
            .zip(other.rev())
            .take_while(|(a, b)| a == b)
            .count();
    (same, old.len() - back, new.len() - back)
}

/// Whether every bracket, string and comment of a part is closed in it, and no rule goes on after it.
fn ends_cleanly(part: &Sheet) -> bool {
    let source = part.text.source();
    let mut open: Vec<TokenKind> = Vec::new();
    let tokens = part.tokens_in(part.span);
    for token in &tokens {
        let closes = matches!(
            token.kind,
            TokenKind::CloseCurly | TokenKind::CloseParenthesis | TokenKind::CloseSquare
        );
        if let Some(closer) = token.kind.closer() {
            open.push(closer);
        } else if open.last() == Some(&token.kind) {
            open.pop();
        } else if closes {
            return false;
        }
        let text = token.source(source);
        let whole = match token.kind {
            TokenKind::BadText | TokenKind::BadUrl => false,
            TokenKind::Comment => text.len() >= 4 && text.ends_with("*/"),
            TokenKind::Text => {
                text.len() >= 2
                    && text.ends_with(['"', '\''])
                    && text.starts_with(text.cut(text.len() - 1..))
            }
            TokenKind::Url => text.ends_with(')'),
            _ => true,
        };
        if !whole {
            return false;
        }
    }
    let solid = tokens.iter().rev().find(|t| !t.kind.is_blank());
    let last = part.top.iter().rev().find_map(|item| match item {
        Item::Rule(id) => Some(part.rule(*id)),
        Item::Declaration(_) => None,
    });
    let statement = last.is_some_and(|rule| rule.block.is_none());
    let ended = solid.is_none_or(|t| {
        t.kind == TokenKind::Semicolon || t.kind == TokenKind::CloseCurly && !statement
    });
    open.is_empty() && ended && part.problems.is_empty()
}

/// `all` with those at `old` replaced by `new`; `later` moves those behind.
fn replaced<T: Clone>(
    all: &[T],
    old: Range<usize>,
    new: impl ExactSizeIterator<Item = T>,
    later: impl Fn(&T) -> T,
) -> Vec<T> {
    let mut made = Vec::with_capacity(all.len() - old.len() + new.len());
    made.extend_from_slice(all.cut(..old.start));
    made.extend(new);
    made.extend(all.cut(old.end..).iter().map(later));
    made
}

/// The problems outside `region`; those after it are moved.
fn problems_outside(before: &Sheet, region: &Range<usize>, shift: &Shift) -> Vec<Problem> {
    let outside = |p: &&Problem| !region.contains(&usize::from(p.span.start()));
    let moved = |p: &Problem| {
        let later = usize::from(p.span.start()) >= region.end;
        let by = if later { shift } else { &Shift::NONE };
        Problem {
            span: by.span(p.span),
            rule: p.rule.map(|id| by.rule_id(id)),
            message: p.message.clone(),
        }
    };
    before.problems.iter().filter(outside).map(moved).collect()
}

fn spliced(
    before: &Sheet,
    part: Sheet,
    touched: Range<usize>,
    tops: &[RuleId],
    region: Range<usize>,
    delta: i64,
) -> (Sheet, Kept) {
    let rule_at = |at: usize| tops.get(at).map_or(before.rules.len(), |id| id.index());
    let rules = rule_at(touched.start)..rule_at(touched.end);
    let at = |offset: usize| TextSize::new(offset as u32);
    let declarations = {
        let all = &before.declarations;
        let first = all.partition_point(|d| d.span.start() < at(region.start));
        first..all.partition_point(|d| d.span.start() < at(region.end))
    };
    // The items of rules are in the order of the rules.
    let items = {
        let first = |at: usize| {
            let of_rules = before.rules.cut(..at).iter().rev();
            let with_items = of_rules.map(|rule| rule.items.end).find(|end| *end > 0);
            with_items.unwrap_or(0) as usize
        };
        first(rules.start)..first(rules.end)
    };
    let shift = Shift {
        text: delta,
        rules: part.rules.len() as i64 - rules.len() as i64,
        declarations: part.declarations.len() as i64 - declarations.len() as i64,
        items: part.items.len() as i64 - items.len() as i64,
    };
    // The part counts from 0; its rules and declarations stand behind those before it.
    let inner = Shift {
        text: 0,
        rules: rules.start as i64,
        declarations: declarations.start as i64,
        items: items.start as i64,
    };
    let new_rules = rules.start..rules.start + part.rules.len();
    let all_rules = replaced(
        &before.rules,
        rules.clone(),
        part.rules.iter().map(|rule| inner.rule(rule)),
        |rule| shift.rule(rule),
    );
    let all_declarations = replaced(
        &before.declarations,
        declarations.clone(),
        part.declarations.iter().map(|d| inner.declaration(d)),
        |d| shift.declaration(d),
    );
    let with_items = |all: &Arc<[Item]>, old: Range<usize>, new: &[Item]| -> Arc<[Item]> {
        let new = new.iter().map(|item| inner.item(*item));
        if shift.is_of_text_only() && all.cut(old.clone()).iter().copied().eq(new.clone()) {
            return all.clone();
        }
        replaced(all, old, new, |item| shift.item(*item)).into()
    };
    let top = with_items(&before.top, touched, &part.top);
    let all_items = with_items(&before.items, items, &part.items);
    let sheet = Sheet {
        span: part.text.span(),
        css: part.css,
        rules: all_rules,
        declarations: all_declarations,
        top,
        items: all_items,
        problems: problems_outside(before, &region, &shift),
        text: part.text,
        crowded: OnceLock::new(),
    };
    let kept = Kept {
        old: rules,
        new: new_rules,
        new_declarations: declarations.start..declarations.start + part.declarations.len(),
        old_declarations: declarations,
    };
    (sheet, kept)
}

/// How far numbers move.
struct Shift {
    text: i64,
    rules: i64,
    declarations: i64,
    items: i64,
}

impl Shift {
    const NONE: Shift = Shift {
        text: 0,
        rules: 0,
        declarations: 0,
        items: 0,
    };

    /// Whether all rules, declarations and items keep their numbers.
    fn is_of_text_only(&self) -> bool {
        (self.rules, self.declarations, self.items) == (0, 0, 0)
    }

    fn span(&self, span: TextRange) -> TextRange {
        let start = (i64::from(u32::from(span.start())) + self.text) as u32;
        TextRange::at(start.into(), span.len())
    }

    /// No items stand at the start.
    fn items(&self, range: &Range<u32>) -> Range<u32> {
        let by = |at: u32| (i64::from(at) + self.items) as u32;
        match range.is_empty() {
            true => 0..0,
            false => by(range.start)..by(range.end),
        }
    }

    fn rule_id(&self, id: RuleId) -> RuleId {
        RuleId((i64::from(id.0) + self.rules) as u32)
    }

    fn item(&self, item: Item) -> Item {
        match item {
            Item::Rule(id) => Item::Rule(self.rule_id(id)),
            Item::Declaration(id) => {
                Item::Declaration(DeclarationId((i64::from(id.0) + self.declarations) as u32))
            }
        }
    }

    fn rule(&self, rule: &Rule) -> Rule {
        Rule {
            kind: rule.kind.clone(),
            parent: rule.parent.map(|id| self.rule_id(id)),
            span: self.span(rule.span),
            prelude: self.span(rule.prelude),
            block: rule.block.map(|b| self.span(b)),
            inside: self.span(rule.inside),
            closed: rule.closed,
            name: self.span(rule.name),
            items: self.items(&rule.items),
        }
    }

    fn declaration(&self, declaration: &Declaration) -> Declaration {
        Declaration {
            rule: self.rule_id(declaration.rule),
            span: self.span(declaration.span),
            name: self.span(declaration.name),
            value: self.span(declaration.value),
            important: declaration.important.map(|i| self.span(i)),
            colon: self.span(declaration.colon),
            semicolon: declaration.semicolon.map(|s| self.span(s)),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    const SHEET: &str = "@charset \"utf-8\";\n@import \"a.css\";\n/* one */\n.a, .b > c { color: red; top: 0 }\n\
        @media (width > 1px) {\n  .d { left: 0 !important }\n  .e { & f { top: 1px } }\n}\n\
        .g{background:url(x.png);content:\"}\"}\n@layer x;\n.h { nonsense; a b: c }\n\
        @font-face { font-family: x }\n:root { --x: { a: b }; --y: ; }\n.i { } .j { top: 0 }\n";

    fn parse(source: &str) -> Sheet {
        let text = Text::new("a.css", source);
        let span = text.span();
        Sheet::parse(text, span)
    }

    /// All that a sheet is made of.
    fn told(sheet: &Sheet) -> String {
        format!(
            "{:?}\n{:?}\n{:?}\n{:?}\n{:?}\n{:?}\n{:?}",
            sheet.tokens_in(sheet.span),
            sheet.rules,
            sheet.declarations,
            sheet.top,
            sheet.items,
            sheet.problems,
            sheet.span
        )
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(3000))]

        /// Whatever is changed, what is parsed again is what parsing the whole gives.
        #[test]
        fn reparsing_equals_parsing(
            changes in proptest::collection::vec((0usize..460, 0usize..30, "[a-d.{};:@()\"'/* \\n]{0,9}|[ ]|top: 1px;|}|\\{|/\\*|\\*/"), 1..5)
        ) {
            let mut source = SHEET.to_owned();
            let mut sheet = parse(&source);
            for (start, length, with) in changes {
                let start = start.min(source.len());
                let end = (start + length).min(source.len());
                source.replace_range(start..end, &with);
                let text = Text::new("a.css", source.as_str());
                let fresh = parse(&source);
                if let Some((reparsed, kept)) = reparse(&sheet, &text) {
                    prop_assert_eq!(told(&reparsed), told(&fresh));
                    prop_assert_eq!(reparsed.rules.len() + kept.old.len(), sheet.rules.len() + kept.new.len());
                }
                sheet = fresh;
            }
        }
    }

    #[test]
    fn a_value_is_parsed_again_with_its_rule_only() {
        let sheet = parse(SHEET);
        let text = Text::new("a.css", SHEET.replace("left: 0", "left: 10px"));
        let (_, kept) = reparse(&sheet, &text).unwrap();
        assert_eq!(kept.old.len(), 4);
        assert_eq!(kept.old, kept.new);
    }
}
