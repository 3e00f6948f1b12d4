//! The way to one declaration in the browser's own sheet, so that a step of a value is there at once.
//!
//! Where a change is of one declaration's value alone, the page need not read the whole sheet again: the
//! agent finds the rule by this way, holds it against what the browser has there, and sets the value. Where
//! anything is not as it should be it takes the sheet as a whole, and it does that anyway when it has time.

use fingerpost::page::{Arrival, Page, PropertyName};
use fingerpost::sheet::{AtRule, Declaration, Item, Rule, RuleId, RuleKind, Sheet};
use fingerpost::text::{Place, TextSize};
use serde::Serialize;

/// A declaration in a sheet of the browser.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub(crate) struct Way {
    /// The rules around it, the outermost first.
    rules: Vec<Step>,
    /// The property.
    property: String,
    /// Its value before.
    was: String,
    /// Its value now.
    value: String,
    important: bool,
}

/// A rule among its siblings.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
struct Step {
    /// The selector as written; none for an at-rule.
    #[serde(skip_serializing_if = "Option::is_none")]
    selector: Option<String>,
    /// The at-rule's name, such as `media`.
    #[serde(skip_serializing_if = "Option::is_none")]
    at: Option<&'static str>,
    /// How many siblings before it are alike.
    number: usize,
}

/// The way to the one declaration by whose value a sheet of a page differs from an earlier text of it.
pub(crate) fn way(page: &Page, file: &str, before: &str) -> Option<Way> {
    let is_file = |arrival: &Arrival| matches!(arrival, Arrival::Link(_) | Arrival::Import { .. });
    let mut sheets = page
        .sheets()
        .iter()
        .filter(|s| is_file(&s.arrival) && s.styles.sheet().text().name() == file);
    let sheet = sheets.next()?.styles.sheet();
    let source = sheet.text().source();
    let same = |(a, b): &(u8, u8)| a == b;
    let (old, new) = (before.as_bytes(), source.as_bytes());
    let start = old
        .iter()
        .copied()
        .zip(new.iter().copied())
        .take_while(same)
        .count();
    let room = old.len().min(new.len()) - start;
    let ends = old.iter().rev().copied().zip(new.iter().rev().copied());
    let end = ends.take_while(same).take(room).count();

    let at = TextSize::new(start as u32);
    let (_, declaration) = sheet
        .declarations()
        .find(|(_, d)| d.value.start() <= at && at <= d.value.end())?;
    // All that differs is inside of the value.
    let value_end = usize::from(declaration.value.end());
    let value_start = usize::from(declaration.value.start());
    if new.len() - end > value_end || start < value_start {
        return None;
    }
    let was = before.get(value_start..old.len() - (new.len() - value_end))?;
    way_to(sheet, declaration, was)
}

/// The way to the declaration that is at a place of a page's sheets, with its value as it is.
pub(crate) fn way_at(page: &Page, place: &Place) -> Option<Way> {
    let is_file = |arrival: &Arrival| matches!(arrival, Arrival::Link(_) | Arrival::Import { .. });
    let sheet = page
        .sheets()
        .iter()
        .find(|s| is_file(&s.arrival) && s.styles.sheet().text().name() == place.file)?;
    let sheet = sheet.styles.sheet();
    let offset = sheet.text().offset(place.line, place.column)?;
    let mut all = sheet.declarations();
    let (_, declaration) = all.find(|(_, d)| d.span.start() == offset)?;
    way_to(sheet, declaration, sheet.value_source(declaration))
}

fn way_to(sheet: &Sheet, declaration: &Declaration, was: &str) -> Option<Way> {
    let rule = sheet.rule(declaration.rule);
    if rule.kind != RuleKind::Style || overlaps(sheet, rule, declaration) {
        return None;
    }
    let mut rules = Vec::new();
    let mut next = Some(declaration.rule);
    while let Some(id) = next {
        rules.push(step(sheet, id)?);
        next = sheet.rule(id).parent;
    }
    rules.reverse();
    Some(Way {
        rules,
        property: sheet.name_source(declaration).to_owned(),
        was: was.to_owned(),
        value: sheet.value_source(declaration).to_owned(),
        important: declaration.important.is_some(),
    })
}

/// Whether another declaration of the rule sets something of the same: then their order counts.
fn overlaps(sheet: &Sheet, rule: &Rule, own: &Declaration) -> bool {
    let parts = |declaration: &Declaration| -> Option<Vec<String>> {
        Some(match sheet.name_source(declaration).parse().ok()? {
            PropertyName::Known(id) => {
                let all = id.longhands().iter().copied().chain(id.parts());
                all.map(|part| part.name().to_owned()).collect()
            }
            PropertyName::Custom(name) => vec![name.to_string()],
        })
    };
    let Some(mine) = parts(own) else { return true };
    sheet.items(rule).iter().any(|item| match item {
        Item::Declaration(id) => {
            let other = sheet.declaration(*id);
            let theirs = parts(other).unwrap_or_default();
            other.span != own.span && theirs.iter().any(|part| mine.contains(part))
        }
        _ => false,
    })
}

fn step(sheet: &Sheet, id: RuleId) -> Option<Step> {
    let rule = sheet.rule(id);
    let siblings = match rule.parent {
        Some(parent) => sheet.items(sheet.rule(parent)),
        None => sheet.top(),
    };
    let alike = |other: &Rule| match rule.kind {
        RuleKind::Style => {
            other.kind == rule.kind && sheet.prelude_source(other) == sheet.prelude_source(rule)
        }
        _ => other.kind == rule.kind && other.block.is_some(),
    };
    let before = siblings.iter().map_while(|item| match item {
        Item::Rule(other) if *other == id => None,
        item => Some(item),
    });
    let number = before
        .filter(|item| matches!(item, Item::Rule(other) if alike(sheet.rule(*other))))
        .count();
    let (selector, at) = match rule.kind {
        RuleKind::Style => (Some(sheet.prelude_source(rule).to_owned()), None),
        RuleKind::At(AtRule::Media) => (None, Some("media")),
        RuleKind::At(AtRule::Supports) => (None, Some("supports")),
        RuleKind::At(AtRule::Layer) => (None, Some("layer")),
        RuleKind::At(AtRule::Container) => (None, Some("container")),
        _ => return None,
    };
    Some(Step {
        selector,
        at,
        number,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use fingerpost::text::Text;
    use std::collections::HashMap;

    fn way_of(before: &str, after: &str) -> Option<String> {
        let sheets = HashMap::from([("a.css".to_owned(), Text::new("a.css", after))]);
        let html = Text::new("a.html", "<link rel=stylesheet href=a.css><p>");
        let page = Page::builder(html).sheets(sheets).build();
        let found = way(&page, "a.css", before)?;
        Some(format!(
            "{} {} -> {}",
            found.property, found.was, found.value
        ))
    }

    #[test]
    fn a_changed_value_has_a_way() {
        let css = "a{top:0} @media print { a{top:0} p, b { left: 10px; color: red } }";
        assert_eq!(
            way_of(css, &css.replace("10px", "11px")).as_deref(),
            Some("left 10px -> 11px")
        );
        assert_eq!(
            way_of(css, &css.replace("10px", "1px")).as_deref(),
            Some("left 10px -> 1px")
        );
    }

    #[test]
    fn what_is_more_than_a_value_has_none() {
        let css = "a { top: 0; left: 1px }";
        assert_eq!(way_of(css, "a { top: 0; right: 1px }"), None);
        assert_eq!(way_of(css, "b { top: 0; left: 1px }"), None);
        assert_eq!(way_of(css, "a { top: 0; left: 1px; right: 0 }"), None);
        // The order of these counts.
        assert_eq!(
            way_of(
                "a { margin: 0; margin-top: 1px }",
                "a { margin: 0; margin-top: 2px }"
            ),
            None
        );
    }
}
