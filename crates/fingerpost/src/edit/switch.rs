//! `off` and `on`: a declaration made a comment, and back.

use super::place::{is_placed, place, strongest, winner};
use super::{EditError, Made};
use crate::page::{Arrival, DeclarationRef, PropertyName, SheetRef, Styles, Target};
use crate::question::ElementSummary;
use crate::sheet::{RuleId, Sheet};
use crate::text::{Patch, Text, TextRange, TextSize};

/// Makes the winning declaration a comment.
pub(super) fn off(
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
    let written = &source[declaration.span];
    if written.contains("*/") {
        return Err(EditError::NotThere {
            place: sheet.text().place(declaration.span.start()).to_string(),
            why: "the declaration holds a comment, and comments can't stand one in the other; \
                  remove it instead"
                .to_owned(),
        });
    }
    // Its semicolon goes with it, so that nothing is left behind that ends nothing.
    let whole = with_semicolon(source, declaration.span, declaration.semicolon);
    let with = format!("/* {} */", &source[whole]);
    Ok(Made {
        was: Some(written.to_owned()),
        ..place(styles, reference, whole, &with)
    })
}

fn with_semicolon(source: &str, span: TextRange, semicolon: bool) -> TextRange {
    if !semicolon {
        return span;
    }
    let rest = &source[usize::from(span.end())..];
    let length = rest.find(';').map_or(0, |at| at + 1) as u32;
    TextRange::new(span.start(), span.end() + TextSize::new(length))
}

/// Makes a comment that is a declaration of a property one again: the last in the style attribute,
/// else the last in the rules that match the target.
pub(super) fn on(
    styles: &Styles<'_>,
    target: &Target,
    property: &PropertyName,
) -> Result<Made, EditError> {
    let own = attribute_comment(styles, target, property);
    let found = own.or_else(|| rule_comment(styles, target, property));
    found.ok_or_else(|| EditError::Nothing {
        why: format!(
            "no rule that matches {} holds a comment that is a declaration of {property}",
            ElementSummary::of_target(styles.page(), target).label()
        ),
    })
}

fn attribute_comment(
    styles: &Styles<'_>,
    target: &Target,
    property: &PropertyName,
) -> Option<Made> {
    if target.pseudo.is_some() {
        return None;
    }
    let declared = styles.attribute_sheet(target.element)?;
    let sheet = declared.sheet();
    let (comment, inside) = commented(sheet, sheet.span(), property).last()?;
    // Any declaration's reference says which attribute it is.
    let reference = DeclarationRef {
        sheet: SheetRef::Attribute(target.element),
        id: crate::sheet::DeclarationId(0),
    };
    let with = rejoined(sheet, comment, &inside);
    Some(Made {
        was: Some(inside.trim_end_matches(';').to_owned()),
        ..place(styles, reference, comment, &with)
    })
}

fn rule_comment(styles: &Styles<'_>, target: &Target, property: &PropertyName) -> Option<Made> {
    let best = strongest(styles, target);
    let mut rules: Vec<(u32, RuleId)> = styles
        .matched(target)
        .iter()
        .map(|m| &styles.page().rules()[m.rule as usize])
        .map(|rule| (rule.sheet, rule.rule))
        .collect();
    // The strongest last; those without declarations have no place in that order.
    rules.sort_by_key(|(sheet, rule)| best.is_some_and(|b| (b.sheet, b.rule) == (*sheet, *rule)));
    let sheets = styles.page().sheets();
    let found = rules.iter().filter_map(|(at, rule)| {
        let page_sheet = &sheets[*at as usize];
        let sheet = page_sheet.styles.sheet();
        let usable = page_sheet.arrival != Arrival::UserAgent
            && page_sheet.arrival != Arrival::User
            && is_placed(styles, SheetRef::Listed(*at));
        let block = sheet.rule(*rule).block.filter(|_| usable)?;
        let (comment, inside) = commented(sheet, block, property).last()?;
        let with = rejoined(sheet, comment, &inside);
        let patch = Patch::single(comment, with);
        Some(Made {
            was: Some(inside.trim_end_matches(';').to_owned()),
            ..Made::of(sheet.text().name(), patch)
        })
    });
    found.last()
}

/// The comments in a span that are one declaration of a property, with what they hold.
fn commented(
    sheet: &Sheet,
    within: TextRange,
    property: &PropertyName,
) -> impl Iterator<Item = (TextRange, String)> {
    let source = sheet.text().source();
    let here = sheet
        .comments()
        .filter(move |span| within.contains_range(*span));
    here.filter_map(move |span| {
        let inside = source[span].strip_prefix("/*")?.strip_suffix("*/")?.trim();
        let text = Text::new("", inside);
        let whole = text.span();
        let parsed = Sheet::parse_attribute(text, whole);
        let mut declarations = parsed.declarations();
        let (_, only) = declarations
            .next()
            .filter(|_| parsed.problems().is_empty())?;
        let named = PropertyName::parse(parsed.name_source(only)).as_ref() == Some(property);
        (named && declarations.next().is_none()).then(|| (span, inside.to_owned()))
    })
}

/// What a comment held, with the semicolons that it needs where it stands.
fn rejoined(sheet: &Sheet, comment: TextRange, inside: &str) -> String {
    let source = sheet.text().source();
    let before = source[..usize::from(comment.start())].trim_end();
    let after = source[usize::from(comment.end())..].trim_start();
    let begins = sheet.span().start() == comment.start()
        || before.is_empty()
        || before.ends_with([';', '{', '}'])
        || before.ends_with("*/");
    let ends =
        after.is_empty() || after.starts_with(['}', ';', '"', '\'']) || inside.ends_with(';');
    let first = if begins { "" } else { ";" };
    let last = if ends { "" } else { ";" };
    format!("{first}{inside}{last}")
}
