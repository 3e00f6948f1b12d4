//! How a file is written, so that what an edit puts in looks like its neighbors.

use crate::edit::error::EditError;
use crate::edit::expected::Declared;
use crate::edit::intent::Side;
use crate::edit::plan::rule_at::fold;
use crate::edit::rewrite::lines::{
    has_own_lines, indent_at, indent_step, insertion, line_ending, line_start, with_own_lines,
};
use crate::edit::rewrite::write::{next_line, written};
use crate::sheet::{Item, RuleId, RuleKind, Sheet, TokenKind, tokenize};
use crate::text::{Cut, Replacement, TextRange, TextSize};

/// How the rules of a sheet are written.
#[derive(Clone, Debug)]
pub(in crate::edit) struct Formatting {
    pub ending: &'static str,
    pub step: String,
    /// Between a property's name and its value.
    pub colon: String,
    /// Between the selectors and the brace.
    before_block: String,
    /// Between the selectors of a list.
    pub comma: String,
    /// A rule on one line: behind `{`, after each semicolon, and before `}`.
    one_line: Option<(String, String, String)>,
    /// Whether the last declaration has a semicolon.
    last_semicolon: bool,
    /// Between two rules.
    pub gap: String,
}

impl Formatting {
    /// How a sheet is written, from the rule that stands nearest to where something is to go, or
    /// from the last one with declarations.
    pub fn of(sheet: &Sheet, near: Option<RuleId>) -> Formatting {
        let source = sheet.text().source();
        let has_declarations = |id: &RuleId| {
            sheet.rule(*id).kind == RuleKind::Style && sheet.declarations_of(*id).next().is_some()
        };
        let all = sheet.rules().map(|(id, _)| id);
        let sample = near
            .filter(has_declarations)
            .or_else(|| all.filter(has_declarations).last());
        let own = source.cut(sheet.span());
        let mut formatting = Formatting {
            ending: line_ending(source),
            step: indent_step(own),
            colon: ": ".to_owned(),
            before_block: " ".to_owned(),
            comma: ", ".to_owned(),
            one_line: None,
            last_semicolon: true,
            gap: line_ending(source).repeat(2),
        };
        if let Some(rule) = sample {
            formatting.learn(sheet, rule);
        }
        formatting.comma = comma(sheet).unwrap_or(formatting.comma);
        formatting.gap = gap(sheet, sample).unwrap_or(formatting.gap);
        formatting
    }

    fn learn(&mut self, sheet: &Sheet, id: RuleId) {
        let source = sheet.text().source();
        let rule = sheet.rule(id);
        let Some(block) = rule.block else { return };
        self.before_block =
            blank_only(source.cut(TextRange::new(rule.prelude.end(), block.start())));
        let declarations: Vec<_> = sheet.declarations_of(id).map(|(_, d)| d).collect();
        let (Some(first), Some(last)) = (declarations.first(), declarations.last()) else {
            return;
        };
        let with_value = declarations.iter().find(|d| !d.value.is_empty());
        if let Some(d) = with_value {
            self.colon = crate::edit::rewrite::write::colon(sheet, d);
        }
        // A block that is never closed needs all its semicolons.
        self.last_semicolon = last.semicolon.is_some() || !rule.closed;
        let text = source.cut(block);
        if text.contains('\n') {
            return;
        }
        let open = blank_of(source.cut(TextRange::new(rule.inside.start(), first.span.start())));
        let close = blank_of(source.cut(TextRange::new(last.end(), rule.inside.end())));
        let between = match declarations[..] {
            [one, two, ..] if one.end() <= two.span.start() => {
                blank_of(source.cut(TextRange::new(one.end(), two.span.start())))
            }
            _ if self.colon.ends_with(' ') => " ".to_owned(),
            _ => String::new(),
        };
        self.one_line = Some((open, between, close));
    }

    /// A whole rule, its first line not indented.
    pub fn rule(&self, indent: &str, selector: &str, declarations: &[Declared]) -> String {
        let mut text = format!("{selector}{}{{", self.before_block);
        let last = declarations.len().saturating_sub(1);
        for (at, declaration) in declarations.iter().enumerate() {
            match &self.one_line {
                Some((open, between, _)) => text.push_str(if at == 0 { open } else { between }),
                None => {
                    text.push_str(self.ending);
                    text.push_str(indent);
                    text.push_str(&self.step);
                }
            }
            text.push_str(&written(declaration, &self.colon));
            if at < last || self.last_semicolon {
                text.push(';');
            }
        }
        match &self.one_line {
            Some((_, _, close)) => text.push_str(close),
            None => {
                text.push_str(self.ending);
                text.push_str(indent);
            }
        }
        text.push('}');
        text
    }
}

/// The white space of a text that is nothing else; a space where it is more.
fn blank_only(text: &str) -> String {
    match text.trim().is_empty() {
        true => text.to_owned(),
        false => " ".to_owned(),
    }
}

/// Only the white space of a text: what is there besides is a comment or a semicolon.
fn blank_of(text: &str) -> String {
    text.chars().filter(|c| *c == ' ').take(1).collect()
}

/// What is between the selectors of the last list of a sheet.
fn comma(sheet: &Sheet) -> Option<String> {
    let lists = sheet
        .rules()
        .filter(|(_, rule)| rule.kind == RuleKind::Style);
    let found = lists.filter_map(|(id, _)| {
        let [.., one, two] = sheet.members(id)[..] else {
            return None;
        };
        let between = TextRange::new(one.end(), two.start());
        Some(sheet.text().slice(between).to_owned())
    });
    found.filter(|text| text.trim() == ",").last()
}

/// The white space between two neighboring rules.
fn gap(sheet: &Sheet, near: Option<RuleId>) -> Option<String> {
    let parent = near.and_then(|id| sheet.rule(id).parent);
    let own = parent.and_then(|_| gap_in(sheet, parent, near));
    own.or_else(|| gap_in(sheet, None, near))
}

fn gap_in(sheet: &Sheet, parent: Option<RuleId>, near: Option<RuleId>) -> Option<String> {
    let source = sheet.text().source();
    let items = match parent {
        Some(parent) => sheet.items(sheet.rule(parent)),
        None => sheet.top(),
    };
    let rules: Vec<RuleId> = items
        .iter()
        .filter_map(|item| match item {
            Item::Rule(id) => Some(*id),
            Item::Declaration(_) => None,
        })
        .collect();
    let pairs = rules.iter().zip(rules.iter().skip(1));
    let gaps = pairs.map(|(one, next)| {
        let between = TextRange::new(sheet.rule(*one).span.end(), sheet.rule(*next).span.start());
        (*one, *next, source.cut(between))
    });
    let blank: Vec<_> = gaps.filter(|(_, _, gap)| gap.trim().is_empty()).collect();
    let beside = blank
        .iter()
        .rev()
        .find(|(a, b, _)| Some(*a) == near || Some(*b) == near);
    let found = beside.or(blank.last())?.2;
    // The indent belongs to the rule that follows.
    let end = found.rfind('\n').map_or(found.len(), |at| at + 1);
    Some(found.cut(..end).to_owned())
}

/// What keeps selectors apart, its new lines as far in as the rule.
pub(in crate::edit) fn aligned(comma: &str, sheet: &Sheet, rule: RuleId) -> String {
    if !comma.contains('\n') {
        return comma.to_owned();
    }
    let source = sheet.text().source();
    let indent = indent_at(source, sheet.rule(rule).span.start().into());
    format!(",{}{indent}", line_ending(source))
}

/// A new rule: where it goes, its text with what keeps it apart, and its own source.
pub(in crate::edit) struct NewRule {
    pub at: TextSize,
    pub text: String,
    pub source: String,
}

/// A new rule after another one, or at the end of a sheet.
pub(in crate::edit) fn new_rule(
    sheet: &Sheet,
    near: Option<RuleId>,
    selector: &str,
    declarations: &[Declared],
) -> Result<NewRule, EditError> {
    let formatting = Formatting::of(sheet, near);
    let Some(near) = near else {
        let last = last_rule(sheet);
        let indent = last.map_or("", |id| rule_indent(sheet, id, &formatting));
        let source = formatting.rule(indent, selector, declarations);
        let (at, text) = end_of_sheet(sheet, &source)?;
        return Ok(NewRule { at, text, source });
    };
    if !sheet.rule(near).closed {
        let start = sheet.rule(near).span.start();
        return Err(EditError::NotThere {
            place: sheet.place(start).to_string(),
            why: format!(
                "the rule {} is never closed, so nothing can come after it; close it first",
                fold(sheet.prelude_source(sheet.rule(near)))
            ),
        });
    }
    let source = formatting.rule(
        rule_indent(sheet, near, &formatting),
        selector,
        declarations,
    );
    let (at, text) = beside_rule(sheet, near, Side::After, &source);
    Ok(NewRule { at, text, source })
}

fn last_rule(sheet: &Sheet) -> Option<RuleId> {
    let top = sheet.top().iter().rev();
    top.into_iter().find_map(|item| match item {
        Item::Rule(id) => Some(*id),
        Item::Declaration(_) => None,
    })
}

fn rule_indent<'a>(sheet: &'a Sheet, rule: RuleId, formatting: &Formatting) -> &'a str {
    let source = sheet.text().source();
    let span = sheet.rule(rule).span;
    match has_own_lines(source, span) || formatting.gap.contains('\n') {
        true => indent_at(source, span.start().into()),
        false => "",
    }
}

/// Where a rule goes at the end of a sheet, and its text with what keeps it apart.
///
/// # Errors
/// Where the sheet ends in a rule or a comment that is never closed.
pub(in crate::edit) fn end_of_sheet(
    sheet: &Sheet,
    rule: &str,
) -> Result<(TextSize, String), EditError> {
    let open = last_rule(sheet).filter(|id| !sheet.rule(*id).closed);
    let open = open.map(|id| sheet.rule(id).span.start());
    let last = sheet.tokens_from(sheet.span().start()).last();
    let comment = last.filter(|t| {
        t.kind == TokenKind::Comment && !t.source(sheet.text().source()).ends_with("*/")
    });
    if let Some(at) = open.or(comment.map(|t| t.span().start())) {
        return Err(EditError::NotThere {
            place: sheet.place(at).to_string(),
            why: "what starts here is never closed, so nothing can come after it; close it first"
                .to_owned(),
        });
    }
    let source = sheet.text().source();
    let own = source.cut(sheet.span());
    let ending = line_ending(source);
    if own.trim().is_empty() {
        return Ok((sheet.span().start(), format!("{rule}{ending}")));
    }
    let formatting = Formatting::of(sheet, None);
    let indent = last_rule(sheet).map_or("", |id| rule_indent(sheet, id, &formatting));
    let end = sheet.span().start() + TextSize::of(own.trim_end());
    let rest = own.cut(own.trim_end().len()..);
    // Whole lines, where the sheet ends in one.
    if let Some(first) = rest.find('\n')
        && formatting.gap.contains('\n')
    {
        let blank = blank_lines(&formatting, ending);
        let at = end + TextSize::new(first as u32 + 1);
        return Ok((at, format!("{blank}{indent}{rule}{ending}")));
    }
    let indent = if formatting.gap.contains('\n') {
        indent
    } else {
        ""
    };
    Ok((end, format!("{}{indent}{rule}", formatting.gap)))
}

/// The blank lines that stand between two rules.
fn blank_lines(formatting: &Formatting, ending: &str) -> String {
    ending.repeat(formatting.gap.matches('\n').count().saturating_sub(1))
}

/// Where a rule goes before or after another one, and its text with what keeps them apart: whole
/// lines where the other is on its own lines.
pub(in crate::edit) fn beside_rule(
    sheet: &Sheet,
    rule: RuleId,
    side: Side,
    text: &str,
) -> (TextSize, String) {
    let source = sheet.text().source();
    let span = sheet.rule(rule).span;
    let formatting = Formatting::of(sheet, Some(rule));
    let ending = line_ending(source);
    let start = line_start(source, span.start().into());
    let begins = usize::from(sheet.span().start()) <= start
        && source.cut(start..span.start().into()).trim().is_empty();
    let after = matches!(side, Side::After | Side::Last);
    if formatting.gap.contains('\n') {
        let indent = indent_at(source, span.start().into());
        let blank = blank_lines(&formatting, ending);
        let next = next_line(sheet, span.end()).filter(|_| begins);
        return match (after, next) {
            (true, Some(next)) => (next, format!("{blank}{indent}{text}{ending}")),
            (true, None) => (span.end(), format!("{}{indent}{text}", formatting.gap)),
            (false, _) if begins => (
                TextSize::new(start as u32),
                format!("{indent}{text}{ending}{blank}"),
            ),
            (false, _) => (span.start(), format!("{text}{}{indent}", formatting.gap)),
        };
    }
    match after {
        true => (span.end(), format!("{}{text}", formatting.gap)),
        false => (span.start(), format!("{text}{}", formatting.gap)),
    }
}

/// The lines of a rule's text, but for the first, as far in as `to` where they were as far in as
/// `from`. What is in strings is left alone.
fn shifted(text: &str, from: &str, to: &str, ending: &str) -> String {
    let whole = TextRange::up_to(TextSize::of(text));
    let mut out = String::with_capacity(text.len());
    for token in tokenize(text, whole) {
        let part = token.source(text);
        if !matches!(token.kind, TokenKind::Space | TokenKind::Comment) || !part.contains('\n') {
            out.push_str(part);
            continue;
        }
        let mut lines = part.split('\n');
        out.push_str(lines.next().unwrap_or("").trim_end_matches('\r'));
        for line in lines {
            let line = line.trim_end_matches('\r');
            out.push_str(ending);
            match line.strip_prefix(from) {
                Some(rest) => {
                    out.push_str(to);
                    out.push_str(rest);
                }
                None => out.push_str(line),
            }
        }
    }
    out
}

/// A copy of a rule as it stands beside the rule.
pub(in crate::edit) fn reindented_block(sheet: &Sheet, span: TextRange, copy: &str) -> String {
    let source = sheet.text().source();
    let indent = indent_at(source, span.start().into());
    shifted(copy, indent, indent, line_ending(source))
}

/// A rule's source as it stands beside another rule.
pub(in crate::edit) fn moved_block(
    sheet: &Sheet,
    span: TextRange,
    there: &Sheet,
    beside: TextRange,
) -> String {
    let (source, target) = (sheet.text().source(), there.text().source());
    let from = indent_at(source, span.start().into());
    let to = indent_at(target, beside.start().into());
    shifted(source.cut(span), from, to, line_ending(target))
}

/// The changes that put the lines of a span of a sheet, but for the first, one step further in.
pub(in crate::edit) fn lines_further_in(
    sheet: &Sheet,
    span: TextRange,
    step: &str,
) -> Vec<Replacement> {
    let source = sheet.text().source();
    let mut changes = Vec::new();
    for token in sheet.tokens_in(span) {
        if !matches!(token.kind, TokenKind::Space | TokenKind::Comment) {
            continue;
        }
        let text = token.source(source);
        for (at, _) in text.match_indices('\n') {
            let start = token.start as usize + at + 1;
            let line = source.cut(start..).lines().next().unwrap_or("");
            if !line.trim().is_empty() {
                changes.push(insertion(TextSize::new(start as u32), step));
            }
        }
    }
    changes
}

/// A rule with the lines that it has for itself. Of the blank lines on both sides those after it go
/// with it.
pub(in crate::edit) fn with_its_gap(sheet: &Sheet, rule: RuleId) -> TextRange {
    let source = sheet.text().source();
    let span = sheet.rule(rule).span;
    let range = with_own_lines(source, span);
    // The lines of an embedded sheet end where it does.
    let range = range.intersect(sheet.span()).unwrap_or(span);
    let before = source.cut(..usize::from(range.start()));
    let blank_before = before.ends_with("\n\n")
        || before.ends_with("\r\n\r\n")
        || range.start() == TextSize::new(0);
    if !blank_before || range == span {
        return range;
    }
    let mut end = usize::from(range.end());
    while let Some(line) = source.cut(end..).split_inclusive('\n').next()
        && line.ends_with('\n')
        && line.trim().is_empty()
    {
        end += line.len();
    }
    let whole = TextRange::new(range.start(), TextSize::new(end as u32));
    whole.intersect(sheet.span()).unwrap_or(range)
}
