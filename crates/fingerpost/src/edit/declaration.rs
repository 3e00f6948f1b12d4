//! `add`, `remove`, `rename`, `important`: a declaration more, one less, or one that says otherwise.

use super::attribute::attribute;
use super::habits::{indent_at, indent_step, line_ending};
use super::place::{RuleAt, place, strongest, winner};
use super::set::{behind, check};
use super::{EditError, Made};
use crate::markup::NodeId;
use crate::page::{PropertyName, Styles, Target};
use crate::question::ElementSummary;
use crate::sheet::{Declaration, RuleId, Sheet};
use crate::text::{Patch, TextRange, TextSize};

/// A declaration more in a rule, or in the strongest that matches.
pub(super) fn add(
    styles: &Styles<'_>,
    target: &Target,
    property: &PropertyName,
    value: &str,
) -> Result<Made, EditError> {
    check(property, value.trim())?;
    let rule = strongest(styles, target).ok_or_else(|| EditError::NoRule {
        place: ElementSummary::of_target(styles.page(), target).label(),
    })?;
    add_to(styles, rule, property, value)
}

/// A declaration more in a rule, behind those that it has, as they are written.
pub(super) fn add_to(
    styles: &Styles<'_>,
    rule: RuleAt,
    property: &PropertyName,
    value: &str,
) -> Result<Made, EditError> {
    let value = value.trim();
    check(property, value)?;
    let sheet = rule.sheet(styles);
    let name = property.to_string();
    let (range, with) = match sheet.declarations_of(rule.rule).last() {
        Some((last, _)) => {
            let (range, text) = behind(sheet, last, &name, value, false);
            (range, text)
        }
        None => first(sheet, rule.rule, &name, value),
    };
    let head = sheet.prelude_source(sheet.rule(rule.rule));
    Ok(Made {
        was: Some(head.split_whitespace().collect::<Vec<_>>().join(" ")),
        ..rule.change(styles, Patch::single(range, with))
    })
}

/// Takes the winning declaration of a property out.
pub(super) fn remove(
    styles: &Styles<'_>,
    target: &Target,
    property: &PropertyName,
) -> Result<Made, EditError> {
    let element = ElementSummary::of_target(styles.page(), target).label();
    let reference = winner(styles, target, property, &element)?;
    let style_sheet = styles.sheet(reference.sheet);
    let sheet = style_sheet.sheet();
    let declaration = sheet.declaration(reference.id);
    let source = sheet.text().source();
    let range = with_its_line(source, declaration);
    Ok(Made {
        was: Some(source[declaration.span].to_owned()),
        ..place(styles, reference, range, "")
    })
}

/// Makes the winning declaration one of another property.
pub(super) fn rename(
    styles: &Styles<'_>,
    target: &Target,
    property: &PropertyName,
    to: &PropertyName,
) -> Result<Made, EditError> {
    let element = ElementSummary::of_target(styles.page(), target).label();
    let reference = winner(styles, target, property, &element)?;
    let style_sheet = styles.sheet(reference.sheet);
    let sheet = style_sheet.sheet();
    let declaration = sheet.declaration(reference.id);
    let written = sheet.name_source(declaration).to_owned();
    if PropertyName::parse(&written).as_ref() == Some(to) {
        return Err(EditError::Nothing {
            why: format!("the declaration that wins {property} is one of {to} already"),
        });
    }
    check(to, sheet.value_source(declaration))?;
    Ok(Made {
        was: Some(written),
        ..place(styles, reference, declaration.name, &to.to_string())
    })
}

/// Adds a declaration to an element's own style attribute, which it gets if it has none. A
/// declaration of the property that stands there gets the value.
pub(super) fn add_here(
    styles: &Styles<'_>,
    element: NodeId,
    property: &PropertyName,
    value: &str,
) -> Result<Made, EditError> {
    let value = value.trim();
    check(property, value)?;
    let page = styles.page();
    let name = property.to_string();
    let written = page
        .document()
        .expect_element(element)
        .attribute("style")
        .unwrap_or("");
    let own = styles.attribute_sheet(element).and_then(|styles| {
        let sheet = styles.sheet();
        let same =
            |d: &&Declaration| PropertyName::parse(sheet.name_source(d)).as_ref() == Some(property);
        let all: Vec<&Declaration> = sheet.declarations_of(RuleId(0)).map(|(_, d)| d).collect();
        // In the attribute's own text, whichever text the sheet is read from.
        let start = sheet.span().start();
        all.into_iter().rev().find(same).map(|d| d.value - start)
    });
    let text = match own {
        Some(range) => Patch::single(range, value).apply(written),
        None => {
            let before = written.trim_end();
            let gap = match before {
                "" => "",
                ended if ended.ends_with(';') => " ",
                _ => "; ",
            };
            format!("{before}{gap}{name}: {value}")
        }
    };
    let made = attribute(page, element, "style", Some(&text)).map_err(|error| match error {
        EditError::Nothing { .. } => EditError::Same {
            property: name.clone(),
            value: value.to_owned(),
            place: ElementSummary::new(page, element).place,
        },
        other => other,
    })?;
    Ok(Made {
        was: Some("its own style attribute".to_owned()),
        ..made
    })
}

/// Marks the winning declaration of a property `!important`, or takes the mark off.
pub(super) fn important(
    styles: &Styles<'_>,
    target: &Target,
    property: &PropertyName,
    on: bool,
) -> Result<Made, EditError> {
    let element = ElementSummary::of_target(styles.page(), target).label();
    let reference = winner(styles, target, property, &element)?;
    let style_sheet = styles.sheet(reference.sheet);
    let sheet = style_sheet.sheet();
    let declaration = sheet.declaration(reference.id);
    let (range, with) = match (declaration.important, on) {
        (None, true) => (TextRange::empty(declaration.value.end()), " !important"),
        (Some(mark), false) => (TextRange::new(declaration.value.end(), mark.end()), ""),
        (marked, _) => {
            let word = if marked.is_some() {
                "!important"
            } else {
                "not !important"
            };
            return Err(EditError::Same {
                property: property.to_string(),
                value: word.to_owned(),
                place: sheet.text().place(declaration.span.start()),
            });
        }
    };
    Ok(place(styles, reference, range, with))
}

/// The first declaration of an empty rule, on a line of its own where the block has lines.
pub(super) fn first(sheet: &Sheet, rule: RuleId, name: &str, value: &str) -> (TextRange, String) {
    let source = sheet.text().source();
    let rule = sheet.rule(rule);
    let block = rule.block.unwrap_or(TextRange::empty(rule.span.end()));
    let inside = block.start() + TextSize::of('{');
    let text = &source[block];
    if !text.contains('\n') {
        let gap = if text == "{}" { " " } else { "" };
        return (TextRange::empty(inside), format!(" {name}: {value};{gap}"));
    }
    let indent = indent_at(source, rule.span.start().into());
    let step = indent_step(&source[sheet.span()]);
    let ending = line_ending(source);
    (
        TextRange::empty(inside),
        format!("{ending}{indent}{step}{name}: {value};"),
    )
}

/// A declaration with its semicolon, and with its line where it stands there alone.
pub(super) fn with_its_line(source: &str, declaration: &Declaration) -> TextRange {
    let start = usize::from(declaration.span.start());
    let mut end = usize::from(declaration.span.end());
    if declaration.semicolon {
        end += source[end..].find(';').map_or(0, |at| at + 1);
    }
    let line = source[..start].rfind('\n').map_or(0, |at| at + 1);
    let rest = source[end..].find('\n').map(|at| end + at + 1);
    let alone = source[line..start].chars().all(char::is_whitespace);
    match rest {
        Some(next) if alone && source[end..next].trim().is_empty() => {
            TextRange::new((line as u32).into(), (next as u32).into())
        }
        _ => {
            let gap = source[end..].chars().take_while(|c| *c == ' ').count();
            TextRange::new((start as u32).into(), ((end + gap) as u32).into())
        }
    }
}
