//! What can be copied out of a page: a rule, the changed declarations, an element's source.

use super::Draft;
use super::habits::{Habits, Wanted, indent_at, line_ending};
use super::place::rule_at;
use super::rule::reindented;
use super::stand::Stand;
use super::{Change, EditError, EditState};
use crate::page::{Page, Target};
use crate::text::TextRange;

/// A rule of the page by its place, `FILE:LINE`, with its first line not indented.
///
/// # Errors
/// Where there is no such rule.
pub fn rule(page: &Page, place: &str) -> Result<String, EditError> {
    let styles = page.styles();
    let found = rule_at(&styles, place)?;
    let sheet = found.sheet(&styles);
    let span = sheet.rule(found.rule).span;
    Ok(block(sheet.text().source(), span))
}

/// The rules of the site that match an element and hold declarations, as they are written.
///
/// # Errors
/// Where no rule of the site matches it.
pub fn rules_of(page: &Page, target: &Target) -> Result<String, EditError> {
    let styles = page.styles();
    let mut found: Vec<String> = Vec::new();
    for matched in styles.matched(target) {
        let rule = &page.rules()[matched.rule as usize];
        let sheet = page.sheets()[rule.sheet as usize].styles.sheet();
        let own = rule.origin == crate::cascade::Origin::Author && rule.blocked.is_none();
        if own && sheet.declarations_of(rule.rule).next().is_some() {
            found.push(block(sheet.text().source(), sheet.rule(rule.rule).span));
        }
    }
    if found.is_empty() {
        return Err(EditError::NoRule {
            place: crate::question::ElementSummary::of_target(page, target).label(),
        });
    }
    Ok(found.join("\n\n"))
}

/// The declarations that the draft's edits of styles set, each under its rule's selector, as a sheet
/// of their own: only what changed. `page` is any page as the draft leaves it, for the selectors.
pub fn changes(draft: &Draft, pages: &dyn Fn(&str) -> Option<Page>) -> String {
    let mut rules: Vec<(String, Vec<Wanted>)> = Vec::new();
    for tried in draft.edits().filter(|t| t.state == EditState::On) {
        let intent = &tried.edit.intent;
        let Some(page) = pages(&intent.page) else {
            continue;
        };
        let styles = page.styles();
        let names: Vec<&str> = match &intent.change {
            Change::Set { property, .. }
            | Change::Step { property, .. }
            | Change::Add { property, .. }
            | Change::Important { property, .. }
            | Change::Notation { property, .. } => vec![property],
            Change::Rename { to, .. } => vec![to],
            Change::Variable { name, .. } => vec![name],
            Change::Rule { declarations, .. } => {
                let Ok(wanted) = super::rule::declarations(declarations) else {
                    continue;
                };
                // As it was written: under the selector that the edit used.
                let selector = match &intent.change {
                    Change::Rule {
                        selector: Some(selector),
                        ..
                    } => selector.clone(),
                    _ => tried.edit.said.clone(),
                };
                let selector = selector
                    .strip_prefix("a new rule ")
                    .and_then(|rest| rest.split_once(" {"))
                    .map_or(selector.clone(), |(s, _)| s.to_owned());
                rules.push((selector, wanted));
                continue;
            }
            _ => continue,
        };
        let element = intent.element.as_deref().unwrap_or(":root");
        let what = crate::question::find::What::parse(element);
        let Ok(found) = crate::question::find::elements(&page, &what) else {
            continue;
        };
        for (id, name) in found
            .iter()
            .flat_map(|id| names.iter().map(move |n| (id, n)))
        {
            let Ok(property) = super::place::property(name) else {
                continue;
            };
            let target = Target::from(*id);
            let Ok(reference) = super::place::winner(&styles, &target, &property, element) else {
                continue;
            };
            let declared = styles.sheet(reference.sheet);
            let sheet = declared.sheet();
            let declaration = sheet.declaration(reference.id);
            let selector = match reference.sheet {
                crate::page::SheetRef::Listed(_) => {
                    let head = sheet.prelude_source(sheet.rule(declaration.rule));
                    head.split_whitespace().collect::<Vec<_>>().join(" ")
                }
                // A style attribute has no selector; the element's shortest one stands for it.
                _ => match super::destination::chosen(&page, &[target], None) {
                    Ok(chosen) => chosen.selector,
                    Err(_) => continue,
                },
            };
            let wanted = Wanted {
                name: sheet.name_source(declaration).to_owned(),
                value: sheet.value_source(declaration).to_owned(),
                important: declaration.important.is_some(),
            };
            match rules.iter_mut().find(|(known, _)| *known == selector) {
                Some((_, known)) if known.contains(&wanted) => {}
                Some((_, known)) => {
                    known.retain(|w| w.name != wanted.name);
                    known.push(wanted);
                }
                None => rules.push((selector, vec![wanted])),
            }
        }
    }
    let plain = crate::sheet::Sheet::parse(crate::text::Text::new("", ""), TextRange::default());
    let habits = Habits::of(&plain, None);
    let written = rules
        .iter()
        .map(|(selector, wanted)| habits.rule("", selector, wanted));
    written.collect::<Vec<_>>().join("\n\n")
}

/// An element's source, or only that of what it holds, its first line not indented.
///
/// # Errors
/// Where its source is no one piece.
pub fn markup(page: &Page, target: &Target, inner: bool) -> Result<String, EditError> {
    let stand = Stand::whole(page, target.element)?;
    if !inner {
        return Ok(block(stand.source, stand.outer));
    }
    let held = &stand.source[stand.inner];
    if super::stand::keeps_spaces(held) || !held.contains('\n') {
        return Ok(held.to_owned());
    }
    let start = usize::from(stand.inner.start()) + held.len() - held.trim_start().len();
    let indent = indent_at(stand.source, start);
    Ok(reindented(
        held.trim(),
        indent,
        "",
        line_ending(stand.source),
    ))
}

/// A span with its lines moved out as far as its first one.
fn block(source: &str, span: TextRange) -> String {
    let text = &source[span];
    if super::stand::keeps_spaces(text) {
        return text.to_owned();
    }
    reindented(
        text,
        indent_at(source, span.start().into()),
        "",
        line_ending(source),
    )
}
