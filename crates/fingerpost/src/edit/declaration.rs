//! `add` and `remove`: a declaration more, or one less.

use super::set::{SetError, behind, check, is_placed, place, winner};
use super::{AttributeError, Edit, Intent, attribute};
use crate::cascade::Origin;
use crate::markup::NodeId;
use crate::page::{DeclarationRef, PropertyName, SheetRef, Styles, Target};
use crate::question::ElementSummary;
use crate::sheet::{Declaration, RuleId, RuleKind, Sheet};
use crate::text::{Patch, TextRange, TextSize};

/// Adds a declaration to a rule, behind those that it has, as they are written.
///
/// `rule` is a place of the rule, a file and a line; without it the declaration goes into the
/// strongest of the site's rules that match the target.
///
/// # Errors
/// Where the value does not fit, or there is no such rule.
pub fn add(
    styles: &Styles<'_>,
    target: &Target,
    property: &PropertyName,
    value: &str,
    rule: Option<(&str, u32)>,
) -> Result<Edit, SetError> {
    let value = value.trim();
    check(property, value)?;
    let (sheet_at, rule) = match rule {
        Some((file, line)) => rule_named(styles, file, line)?,
        None => strongest(styles, target)?,
    };
    let page = styles.page();
    let sheet = page.sheets()[sheet_at as usize].styles.sheet();
    if !is_placed(styles, SheetRef::Listed(sheet_at)) {
        return Err(SetError::NoRule {
            place: sheet
                .text()
                .place(sheet.rule(rule).span.start())
                .to_string(),
        });
    }
    let name = property.to_string();
    let (range, with) = match sheet.declarations_of(rule).last() {
        Some((last, _)) => {
            let (range, text) = behind(sheet, last, &name, value);
            // What the last one is marked with is not the new one's.
            (range, text.replace("!important", "").trim_end().to_owned())
        }
        None => first(sheet, rule, &name, value),
    };
    let head = sheet.rule(rule);
    Ok(Edit {
        intent: Intent::Add {
            page: page.document().text().name().to_owned(),
            rule: sheet
                .prelude_source(head)
                .split_whitespace()
                .collect::<Vec<_>>()
                .join(" "),
            property: name,
            value: value.to_owned(),
        },
        file: sheet.text().name().to_owned(),
        patch: Patch::single(range, with),
    })
}

/// Takes the winning declaration of a property out.
///
/// # Errors
/// Where nothing of the site sets the property, or several declarations do.
pub fn remove(
    styles: &Styles<'_>,
    target: &Target,
    property: &PropertyName,
) -> Result<Edit, SetError> {
    let element = ElementSummary::of_target(styles.page(), target).label();
    let reference = winner(styles, target, property, &element)?;
    let style_sheet = styles.sheet(reference.sheet);
    let sheet = style_sheet.sheet();
    let declaration = sheet.declaration(reference.id);
    let source = sheet.text().source();
    let written = source[declaration.span].to_owned();
    let range = with_its_line(source, declaration);
    Ok(Edit {
        intent: Intent::Remove {
            page: styles.page().document().text().name().to_owned(),
            element,
            declaration: written,
        },
        file: sheet.text().name().to_owned(),
        patch: place(styles, reference, sheet.text(), range, ""),
    })
}

/// Adds a declaration to an element's own style attribute, which it gets if it has none. A
/// declaration of the property that stands there gets the value.
///
/// # Errors
/// Where the value does not fit, or the element has no tag of its own.
pub fn add_here(
    styles: &Styles<'_>,
    element: NodeId,
    property: &PropertyName,
    value: &str,
) -> Result<Edit, SetError> {
    let value = value.trim();
    check(property, value)?;
    let page = styles.page();
    let label = ElementSummary::new(page, element).label();
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
    let edit = attribute(page, &[element], "style", Some(&text)).map_err(|error| match error {
        AttributeError::Same { .. } => SetError::Same {
            property: name.clone(),
            value: value.to_owned(),
            place: ElementSummary::new(page, element).place,
        },
        other => SetError::NoRule {
            place: other.to_string(),
        },
    })?;
    Ok(Edit {
        intent: Intent::AddHere {
            page: page.document().text().name().to_owned(),
            element: label,
            property: name,
            value: value.to_owned(),
        },
        ..edit
    })
}

/// Marks the winning declaration of a property `!important`, or takes the mark off.
///
/// # Errors
/// Where nothing of the site sets the property, several declarations do, or it is so already.
pub fn important(
    styles: &Styles<'_>,
    target: &Target,
    property: &PropertyName,
    on: bool,
) -> Result<Edit, SetError> {
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
            return Err(SetError::Same {
                property: property.to_string(),
                value: word.to_owned(),
                place: sheet.text().place(declaration.span.start()),
            });
        }
    };
    Ok(Edit {
        intent: Intent::Important {
            page: styles.page().document().text().name().to_owned(),
            element,
            property: property.to_string(),
            on,
        },
        file: sheet.text().name().to_owned(),
        patch: place(styles, reference, sheet.text(), range, with),
    })
}

fn rule_named(styles: &Styles<'_>, file: &str, line: u32) -> Result<(u32, RuleId), SetError> {
    let sheets = styles.page().sheets().iter().enumerate();
    let mut named = sheets.filter(|(_, s)| s.styles.sheet().text().name() == file);
    let found = named.find_map(|(at, page_sheet)| {
        let sheet = page_sheet.styles.sheet();
        let (rule, _) = sheet.rule_at(line)?;
        (sheet.rule(rule).kind == RuleKind::Style).then_some((at as u32, rule))
    });
    found.ok_or_else(|| SetError::NoRule {
        place: format!("{file}:{line}"),
    })
}

/// The strongest rule of the site's sheets that matches and applies.
fn strongest(styles: &Styles<'_>, target: &Target) -> Result<(u32, RuleId), SetError> {
    let rows = styles.declarations(target);
    let own = rows.iter().filter(|(reference, rank, blocked)| {
        rank.origin == Origin::Author
            && blocked.is_none()
            && matches!(reference.sheet, SheetRef::Listed(_))
    });
    let best = own.max_by(|(_, a, _), (_, b, _)| {
        let plain = |rank: &crate::cascade::Rank| crate::cascade::Rank {
            important: false,
            ..*rank
        };
        plain(a).compare(&plain(b)).0
    });
    match best {
        Some((
            DeclarationRef {
                sheet: SheetRef::Listed(at),
                id,
            },
            ..,
        )) => {
            let sheet = styles.page().sheets()[*at as usize].styles.sheet();
            Ok((*at, sheet.declaration(*id).rule))
        }
        _ => Err(SetError::NoRule {
            place: ElementSummary::of_target(styles.page(), target).label(),
        }),
    }
}

/// The first declaration of an empty rule, on a line of its own where the block has lines.
fn first(sheet: &Sheet, rule: RuleId, name: &str, value: &str) -> (TextRange, String) {
    let source = sheet.text().source();
    let rule = sheet.rule(rule);
    let block = rule.block.unwrap_or(TextRange::empty(rule.span.end()));
    let inside = block.start() + TextSize::of('{');
    let text = &source[block];
    if !text.contains('\n') {
        let gap = if text == "{}" { " " } else { "" };
        return (TextRange::empty(inside), format!(" {name}: {value};{gap}"));
    }
    let start = usize::from(rule.span.start());
    let line = source[..start].rfind('\n').map_or(0, |at| at + 1);
    let indent: String = source[line..start]
        .chars()
        .take_while(|c| c.is_whitespace())
        .collect();
    let step = if source.contains("\n\t") { "\t" } else { "  " };
    let ending = if text.contains("\r\n") { "\r\n" } else { "\n" };
    (
        TextRange::empty(inside),
        format!("{ending}{indent}{step}{name}: {value};"),
    )
}

/// A declaration with its semicolon, and with its line where it stands there alone.
fn with_its_line(source: &str, declaration: &Declaration) -> TextRange {
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
