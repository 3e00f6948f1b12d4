//! `rule`, `selector`, `move-rule`: a rule more, other selectors for one, or another place.

use super::habits::{Habits, Wanted, has_own_lines, indent_at, line_ending, with_own_lines};
use super::intent::{SelectorChange, Side};
use super::place::{RuleAt, is_placed, property, strongest};
use super::set::check;
use super::{EditError, FileChange, Made};
use crate::cascade::Origin;
use crate::page::{Page, SheetRef, Styles, Target};
use crate::selector::SelectorList;
use crate::sheet::{RuleId, Sheet, split_commas, trim};
use crate::text::{Patch, Replacement, Text, TextRange, TextSize};

/// Declarations as they are given: `color: navy; top: 0`.
pub(super) fn declarations(given: &str) -> Result<Vec<Wanted>, EditError> {
    let bad = |problem: String| EditError::NoDeclarations {
        given: given.to_owned(),
        problem,
    };
    let text = Text::new("", given);
    let span = text.span();
    let sheet = Sheet::parse_attribute(text, span);
    if let Some(problem) = sheet.problems().first() {
        return Err(bad(problem.message.clone()));
    }
    let mut wanted = Vec::new();
    for (_, declaration) in sheet.declarations() {
        let name = sheet.name_source(declaration);
        let value = sheet.value_source(declaration);
        check(&property(name)?, value)?;
        wanted.push(Wanted {
            name: name.to_owned(),
            value: value.to_owned(),
            important: declaration.important.is_some(),
        });
    }
    if wanted.is_empty() {
        return Err(bad("expected declarations such as color: navy".to_owned()));
    }
    Ok(wanted)
}

/// The names and values of declarations as an intent gives them; none where they can't be read.
pub fn declared(given: &str) -> Vec<(String, String)> {
    let wanted = declarations(given).unwrap_or_default();
    wanted.into_iter().map(|w| (w.name, w.value)).collect()
}

/// The selector list of the rule at a place of a page's sheets, `FILE:LINE` or `FILE:LINE:COLUMN`.
pub fn selectors_at(page: &Page, place: &str) -> Option<String> {
    let styles = page.styles();
    let at = super::place::rule_at(&styles, place).ok()?;
    let sheet = at.sheet(&styles);
    Some(sheet.prelude_source(sheet.rule(at.rule)).to_owned())
}

/// Reads a selector list, as it may stand in a sheet.
pub(super) fn selectors(given: &str) -> Result<SelectorList, EditError> {
    SelectorList::parse(given).map_err(|error| EditError::NoSelector {
        selector: given.to_owned(),
        problem: error.to_string(),
    })
}

/// Where a new rule goes.
#[derive(Clone, Copy, Debug)]
pub(super) enum Spot {
    /// Behind a rule, on its level.
    Behind(RuleAt),
    /// At the end of a sheet of the page.
    End(u32),
}

/// Where a rule for a target goes: behind the strongest of the site's rules that match it, so that
/// it comes later; at the end of the site's last sheet where none does.
pub(super) fn spot(styles: &Styles<'_>, target: Option<&Target>) -> Option<Spot> {
    if let Some(found) = target.and_then(|t| strongest(styles, t)) {
        return Some(Spot::Behind(top(styles, found)));
    }
    let sheets = styles.page().sheets().iter().enumerate();
    let usable = sheets.filter(|(at, s)| {
        s.origin == Origin::Author
            && s.closed_gate().is_none()
            && s.host.is_none()
            && is_placed(styles, SheetRef::Listed(*at as u32))
    });
    usable.map(|(at, _)| Spot::End(at as u32)).last()
}

/// The rule at the top of the sheet that a rule is, or stands in.
fn top(styles: &Styles<'_>, at: RuleAt) -> RuleAt {
    let sheet = at.sheet(styles);
    let above = std::iter::successors(Some(at.rule), |id| sheet.rule(*id).parent);
    RuleAt {
        rule: above.last().unwrap_or(at.rule),
        ..at
    }
}

/// A rule more, at a spot of one of the page's sheets.
pub(super) fn rule(
    styles: &Styles<'_>,
    spot: Spot,
    selector: &str,
    declarations: &[Wanted],
) -> Made {
    let (at, near) = match spot {
        Spot::Behind(rule) => (rule.sheet, Some(rule.rule)),
        Spot::End(sheet) => (sheet, None),
    };
    let sheet = styles.page().sheets()[at as usize].styles.sheet();
    let (place, with) = new_rule(sheet, near, selector, declarations);
    Made {
        was: None,
        ..Made::of(
            sheet.text().name(),
            Patch::single(TextRange::empty(place), with),
        )
    }
}

/// Where a new rule goes, behind another or at the end, and its text with what keeps it apart.
pub(super) fn new_rule(
    sheet: &Sheet,
    near: Option<RuleId>,
    selector: &str,
    declarations: &[Wanted],
) -> (TextSize, String) {
    let source = sheet.text().source();
    let habits = Habits::of(sheet, near);
    let own = &source[sheet.span()];
    let after = match near {
        Some(near) => sheet.rule(near).span.end(),
        None => sheet.span().start() + TextSize::of(own.trim_end()),
    };
    if near.is_none() && own.trim().is_empty() {
        let text = habits.rule("", selector, declarations);
        return (sheet.span().start(), format!("{text}{}", habits.ending));
    }
    let sample = near.or_else(|| {
        sheet
            .rules()
            .filter(|(_, r)| r.parent.is_none())
            .last()
            .map(|(id, _)| id)
    });
    let indent = sample.map_or("", |id| {
        let span = sheet.rule(id).span;
        match has_own_lines(source, span) || habits.gap.contains('\n') {
            true => indent_at(source, span.start().into()),
            false => "",
        }
    });
    let text = habits.rule(indent, selector, declarations);
    (after, format!("{}{indent}{text}", habits.gap))
}

/// Other selectors for a rule.
pub(super) fn selector(
    styles: &Styles<'_>,
    at: RuleAt,
    how: &SelectorChange,
) -> Result<Made, EditError> {
    let sheet = at.sheet(styles);
    let rule = sheet.rule(at.rule);
    let was = sheet.prelude_source(rule).to_owned();
    let fold = |text: &str| text.split_whitespace().collect::<Vec<_>>().join(" ");
    let tokens = sheet.prelude_tokens(rule);
    let parts: Vec<TextRange> = split_commas(tokens)
        .into_iter()
        .filter_map(|part| {
            let part = trim(part);
            Some(TextRange::new(
                part.first()?.span().start(),
                part.last()?.span().end(),
            ))
        })
        .collect();
    let source = sheet.text().source();
    let of = |wanted: &str| parts.iter().position(|p| fold(&source[*p]) == fold(wanted));
    let nothing = |why: String| Err(EditError::Nothing { why });
    let (range, with) = match how {
        SelectorChange::To(wanted) => {
            selectors(wanted)?;
            if fold(wanted) == fold(&was) {
                return nothing(format!("the rule's selector is {was} already"));
            }
            (rule.prelude, wanted.trim().to_owned())
        }
        SelectorChange::Add(wanted) => {
            selectors(wanted)?;
            if of(wanted).is_some() {
                return nothing(format!("{wanted} is one of the rule's selectors already"));
            }
            let between = match parts[..] {
                [.., one, two] => source[TextRange::new(one.end(), two.start())].to_owned(),
                _ => aligned(&Habits::of(sheet, Some(at.rule)).comma, source, rule.span),
            };
            (
                TextRange::empty(rule.prelude.end()),
                format!("{between}{}", wanted.trim()),
            )
        }
        SelectorChange::Drop(wanted) => {
            let Some(found) = of(wanted) else {
                return nothing(format!("{wanted} is none of the rule's selectors: {was}"));
            };
            match (found.checked_sub(1), parts.get(found + 1)) {
                (Some(before), _) => (
                    TextRange::new(parts[before].end(), parts[found].end()),
                    String::new(),
                ),
                (None, Some(next)) => (
                    TextRange::new(parts[found].start(), next.start()),
                    String::new(),
                ),
                (None, None) => {
                    return Err(EditError::NotThere {
                        place: sheet.text().place(rule.span.start()).to_string(),
                        why: format!(
                            "{was} is the rule's only selector; remove its declarations instead"
                        ),
                    });
                }
            }
        }
    };
    Ok(Made {
        was: Some(fold(&was)),
        ..at.change(styles, Patch::single(range, with))
    })
}

/// What keeps selectors apart, its new lines as far in as the rule.
fn aligned(comma: &str, source: &str, rule: TextRange) -> String {
    if !comma.contains('\n') {
        return comma.to_owned();
    }
    let indent = indent_at(source, rule.start().into());
    format!(",{}{indent}", line_ending(source))
}

/// Another place for a rule, before or after another one of the page's sheets.
pub(super) fn move_rule(
    styles: &Styles<'_>,
    at: RuleAt,
    side: Side,
    other: RuleAt,
) -> Result<Made, EditError> {
    let (sheet, target) = (at.sheet(styles), other.sheet(styles));
    let span = sheet.rule(at.rule).span;
    let there = target.rule(other.rule).span;
    let same_file = sheet.text().name() == target.text().name();
    if same_file && (span.contains_range(there) || there.contains_range(span)) {
        return Err(EditError::NotThere {
            place: target.text().place(there.start()).to_string(),
            why: "a rule can't be moved beside itself, or out of or into one that it stands in"
                .to_owned(),
        });
    }
    let source = sheet.text().source();
    let target_source = target.text().source();
    let indent = indent_at(target_source, there.start().into());
    let moved = reindented(
        &source[span],
        indent_at(source, span.start().into()),
        indent,
        line_ending(target_source),
    );
    let habits = Habits::of(target, Some(other.rule));
    let (place, with) = match side {
        Side::Before | Side::First => (
            there.start(),
            format!(
                "{moved}{}{}",
                habits.gap,
                if habits.gap.contains('\n') {
                    indent
                } else {
                    ""
                }
            ),
        ),
        Side::After | Side::Last => (
            there.end(),
            format!(
                "{}{}{moved}",
                habits.gap,
                if habits.gap.contains('\n') {
                    indent
                } else {
                    ""
                }
            ),
        ),
    };
    let gone = Replacement {
        range: without_gap(source, with_own_lines(source, span)),
        with: String::new(),
    };
    let put = Replacement {
        range: TextRange::empty(place),
        with,
    };
    let name = |text: &Text| text.name().to_owned();
    let was = sheet.prelude_source(sheet.rule(at.rule)).to_owned();
    if !same_file {
        let change = |file: String, replacement: Replacement| FileChange {
            file,
            patch: Patch::single(replacement.range, replacement.with),
        };
        return Ok(Made {
            was: Some(was),
            changes: vec![
                change(name(sheet.text()), gone),
                change(name(target.text()), put),
            ],
            ..Made::default()
        });
    }
    // Where it is put at the edge of what is taken out, it has not moved.
    if gone.range.contains_inclusive(place) {
        return Err(EditError::Nothing {
            why: "the rule stands there already".to_owned(),
        });
    }
    let patch = Patch::new(vec![gone, put]).map_err(|_| EditError::Nothing {
        why: "the rule stands there already".to_owned(),
    })?;
    Ok(Made {
        was: Some(was),
        ..Made::of(&name(sheet.text()), patch)
    })
}

/// Of the blank lines on both sides of what is taken out, those behind go with it.
fn without_gap(source: &str, range: TextRange) -> TextRange {
    let blank_before = source[..usize::from(range.start())].ends_with("\n\n")
        || source[..usize::from(range.start())].ends_with("\r\n\r\n")
        || range.start() == TextSize::new(0);
    if !blank_before {
        return range;
    }
    let mut end = usize::from(range.end());
    while let Some(line) = source[end..].split_inclusive('\n').next()
        && line.ends_with('\n')
        && line.trim().is_empty()
    {
        end += line.len();
    }
    TextRange::new(range.start(), TextSize::new(end as u32))
}

/// Lines that were as far in as `from`, now as far in as `to`; the first line as it is.
pub(super) fn reindented(text: &str, from: &str, to: &str, ending: &str) -> String {
    let mut lines = text.lines();
    let mut out = lines.next().unwrap_or("").to_owned();
    for line in lines {
        out.push_str(ending);
        match line.strip_prefix(from) {
            Some(rest) if !rest.is_empty() => {
                out.push_str(to);
                out.push_str(rest);
            }
            Some(_) => {}
            None => out.push_str(line),
        }
    }
    out
}
