//! How a file is written, so that what an edit puts in looks like its neighbours.

use crate::sheet::{Item, RuleId, RuleKind, Sheet};
use crate::text::TextRange;

/// The line ending of a text: that of its first line.
pub(super) fn line_ending(source: &str) -> &'static str {
    match source.find('\n') {
        Some(at) if source[..at].ends_with('\r') => "\r\n",
        _ => "\n",
    }
}

/// Where the line of an offset begins.
pub(super) fn line_start(source: &str, offset: usize) -> usize {
    source[..offset].rfind('\n').map_or(0, |at| at + 1)
}

/// The white space that the line of an offset begins with.
pub(super) fn indent_at(source: &str, offset: usize) -> &str {
    let start = line_start(source, offset);
    let line = &source[start..];
    let length = line.len() - line.trim_start_matches([' ', '\t']).len();
    &line[..length]
}

/// Whether a range has its lines for itself, but for white space.
pub(super) fn has_own_lines(source: &str, range: TextRange) -> bool {
    let (start, end) = (usize::from(range.start()), usize::from(range.end()));
    let before = &source[line_start(source, start)..start];
    let after = source[end..].split('\n').next().unwrap_or("");
    before.trim().is_empty() && after.trim().is_empty()
}

/// A range with the lines that it has for itself, their last line ending included.
pub(super) fn with_own_lines(source: &str, range: TextRange) -> TextRange {
    if !has_own_lines(source, range) {
        return range;
    }
    let start = line_start(source, range.start().into());
    let end = usize::from(range.end());
    let next = source[end..].find('\n').map(|at| end + at + 1);
    match next {
        Some(next) => crate::text::span(start, next),
        // The last line of a file takes the ending before it along.
        None => crate::text::span(
            source[..start].trim_end_matches(['\r', '\n']).len(),
            source.len(),
        ),
    }
}

/// The step by which a text indents: a tab, or the smallest number of spaces that it uses.
pub(super) fn indent_step(source: &str) -> String {
    let mut least: Option<usize> = None;
    for line in source.lines() {
        if line.starts_with('\t') {
            return "\t".to_owned();
        }
        let width = line.len() - line.trim_start_matches(' ').len();
        // A line that begins with `*` goes on with a comment.
        if width > 1 && !line.trim_start().starts_with('*') && !line.trim().is_empty() {
            least = Some(least.map_or(width, |known| known.min(width)));
        }
    }
    " ".repeat(least.unwrap_or(2).min(8))
}

/// A declaration that is to be written.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Wanted {
    pub name: String,
    pub value: String,
    pub important: bool,
}

impl Wanted {
    /// `name: value`, with what stands between them in the file.
    pub fn written(&self, colon: &str) -> String {
        let mark = if self.important { " !important" } else { "" };
        format!("{}{colon}{}{mark}", self.name, self.value)
    }
}

/// How the rules of a sheet are written.
#[derive(Clone, Debug)]
pub(super) struct Habits {
    pub ending: &'static str,
    pub step: String,
    /// Between a property's name and its value.
    pub colon: String,
    /// Between the selectors and the brace.
    before_block: String,
    /// Between the selectors of a list.
    pub comma: String,
    /// A rule on one line: behind `{`, behind each semicolon, and before `}`.
    one_line: Option<(String, String, String)>,
    /// Whether the last declaration has a semicolon.
    last_semicolon: bool,
    /// Between two rules.
    pub gap: String,
}

impl Habits {
    /// The habits of a sheet, from the rule that stands nearest to where something is to go, or
    /// from the last one with declarations.
    pub fn of(sheet: &Sheet, near: Option<RuleId>) -> Habits {
        let source = sheet.text().source();
        let has_declarations = |id: &RuleId| {
            sheet.rule(*id).kind == RuleKind::Style && sheet.declarations_of(*id).next().is_some()
        };
        let all = sheet.rules().map(|(id, _)| id);
        let sample = near
            .filter(has_declarations)
            .or_else(|| all.filter(has_declarations).last());
        let own = &source[sheet.span()];
        let mut habits = Habits {
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
            habits.learn(sheet, rule);
        }
        habits.comma = comma(sheet).unwrap_or(habits.comma);
        habits.gap = gap(sheet, sample).unwrap_or(habits.gap);
        habits
    }

    fn learn(&mut self, sheet: &Sheet, id: RuleId) {
        let source = sheet.text().source();
        let rule = sheet.rule(id);
        let Some(block) = rule.block else { return };
        self.before_block = source[TextRange::new(rule.prelude.end(), block.start())].to_owned();
        let declarations: Vec<_> = sheet.declarations_of(id).map(|(_, d)| d).collect();
        let (first, last) = (declarations[0], declarations[declarations.len() - 1]);
        let with_value = declarations.iter().find(|d| !d.value.is_empty());
        if let Some(d) = with_value {
            self.colon = source[TextRange::new(d.name.end(), d.value.start())].to_owned();
        }
        self.last_semicolon = last.semicolon;
        let text = &source[block];
        if text.contains('\n') {
            return;
        }
        let inside = usize::from(block.start()) + 1;
        let open = blank_of(&source[inside..first.span.start().into()]);
        let close = blank_of(&source[usize::from(last.span.end())..usize::from(block.end()) - 1]);
        let between = match declarations[..] {
            [one, two, ..] => {
                blank_of(&source[usize::from(one.span.end())..two.span.start().into()])
            }
            _ if self.colon.ends_with(' ') => " ".to_owned(),
            _ => String::new(),
        };
        self.one_line = Some((open, between, close));
    }

    /// A whole rule, its first line not indented.
    pub fn rule(&self, indent: &str, selector: &str, declarations: &[Wanted]) -> String {
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
            text.push_str(&declaration.written(&self.colon));
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

/// Only the white space of a text: what stands there besides is a comment or a semicolon.
fn blank_of(text: &str) -> String {
    text.chars().filter(|c| *c == ' ').take(1).collect()
}

/// What stands between the selectors of the last list of a sheet.
fn comma(sheet: &Sheet) -> Option<String> {
    let source = sheet.text().source();
    let lists = sheet
        .rules()
        .filter(|(_, rule)| rule.kind == RuleKind::Style);
    let found = lists.filter_map(|(_, rule)| {
        let parts = crate::sheet::split_commas(sheet.prelude_tokens(rule));
        let [.., one, two] = &parts[..] else {
            return None;
        };
        let (one, two) = (
            crate::sheet::trim(one).last()?,
            crate::sheet::trim(two).first()?,
        );
        Some(source[usize::from(one.span().end())..two.span().start().into()].to_owned())
    });
    found.filter(|text| text.trim() == ",").last()
}

/// The white space between two neighbouring rules.
fn gap(sheet: &Sheet, near: Option<RuleId>) -> Option<String> {
    let parent = near.and_then(|id| sheet.rule(id).parent);
    let own = parent.and_then(|_| gap_in(sheet, parent, near));
    own.or_else(|| gap_in(sheet, None, near))
}

fn gap_in(sheet: &Sheet, parent: Option<RuleId>, near: Option<RuleId>) -> Option<String> {
    let source = sheet.text().source();
    let items = match parent {
        Some(parent) => &sheet.rule(parent).items,
        None => sheet.top(),
    };
    let rules: Vec<RuleId> = items
        .iter()
        .filter_map(|item| match item {
            Item::Rule(id) => Some(*id),
            Item::Declaration(_) => None,
        })
        .collect();
    let gaps = rules.windows(2).map(|pair| {
        let (start, end) = (
            sheet.rule(pair[0]).span.end(),
            sheet.rule(pair[1]).span.start(),
        );
        (pair[0], pair[1], &source[TextRange::new(start, end)])
    });
    let blank: Vec<_> = gaps.filter(|(_, _, gap)| gap.trim().is_empty()).collect();
    let beside = blank
        .iter()
        .rev()
        .find(|(a, b, _)| Some(*a) == near || Some(*b) == near);
    let found = beside.or(blank.last())?.2;
    // The indent belongs to the rule that follows.
    let end = found.rfind('\n').map_or(found.len(), |at| at + 1);
    Some(found[..end].to_owned())
}
