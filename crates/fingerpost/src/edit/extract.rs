//! What can be copied out of a page: a rule, the changed declarations, an element's source.
//!
//! ```
//! use fingerpost::prelude::*;
//!
//! use fingerpost::edit::extract;
//!
//! let html = "<style>p { color: teal }</style><p>Boats</p>";
//! let page = Page::new(Text::new("a.html", html));
//! let p = page.ask().find_one("p")?;
//! assert_eq!(extract::markup(&page, &p, false)?, "<p>Boats</p>");
//! assert_eq!(extract::rule(&page, &"a.html:1".parse()?)?, "p { color: teal }");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use serde::{Deserialize, Serialize};

use crate::edit::error::EditError;
use crate::edit::expected::Declared;
use crate::edit::given::declarations;
use crate::edit::intent::Intent;
use crate::edit::kinds::{Change, Rule};
use crate::edit::plan::choose::chosen_on;
use crate::edit::plan::rule_at::{Sought, property, spot_at};
use crate::edit::plan::sheet_rule::{conditions_of, in_conditions};
use crate::edit::plan::winner::winner;
use crate::edit::rewrite::formatting::Formatting;
use crate::edit::rewrite::lines::{indent_at, line_ending};
use crate::edit::rewrite::source_layout::{SourceLayout, reindented};
use crate::markup::ElementId;
use crate::page::{Page, SheetRef, Styles, Target};
use crate::question::find::{ElementQuery, elements};
use crate::sheet::Sheet;
use crate::text::{Cut, PlaceQuery, Text, TextRange};

/// What was extracted.
#[derive(Clone, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct ExtractAnswer {
    /// The text; empty where there is nothing to extract.
    pub source: String,
}

impl From<String> for ExtractAnswer {
    fn from(source: String) -> ExtractAnswer {
        ExtractAnswer { source }
    }
}

/// A rule of the page by its place, `FILE:LINE`, with its first line not indented.
///
/// # Errors
/// Where there is no such rule.
pub fn rule(page: &Page, place: &PlaceQuery) -> Result<String, EditError> {
    let styles = page.styles();
    let found = spot_at(&styles, place, Sought::Any, None)?.rule;
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
        let rule = page.rule(matched.rule);
        let sheet = page.sheet(rule.sheet).styles.sheet();
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

/// The declarations that changes of styles set, each under its rule's selector and conditions, as a sheet with nothing
/// else in it. `pages` gives a page with the changes made.
pub fn changes<'a>(
    intents: impl Iterator<Item = &'a Intent>,
    pages: &dyn Fn(&str) -> Option<Page>,
) -> String {
    let mut rules: Vec<Copied> = Vec::new();
    for intent in intents {
        let Some(page) = pages(&intent.page) else {
            continue;
        };
        if let Change::Rule(Rule {
            selector: Some(selector),
            declarations: given,
        }) = &intent.change
        {
            // As it was asked for, whether it wins or not.
            for declared in declarations(given).unwrap_or_default() {
                put(&mut rules, Vec::new(), selector.clone(), declared);
            }
            continue;
        }
        let names: Vec<String> = match &intent.change {
            Change::RemoveDeclaration(_) | Change::Disable(_) => continue,
            Change::ChangeProperty(rename) => vec![rename.to.clone()],
            change => change.properties(),
        };
        let root = ElementQuery::Selector(":root".to_owned());
        let Ok(found) = elements(&page, intent.element.as_ref().unwrap_or(&root)) else {
            continue;
        };
        let styles = page.styles();
        for (id, name) in found
            .iter()
            .flat_map(|id| names.iter().map(move |n| (id, n)))
        {
            if let Some((conditions, selector, wanted)) = winning(&styles, *id, name) {
                put(&mut rules, conditions, selector, wanted);
            }
        }
    }
    let plain = Sheet::parse(Text::new("", ""), TextRange::default());
    let formatting = Formatting::of(&plain, None);
    let written = rules.iter().map(|rule| {
        in_conditions(
            &formatting,
            &rule.conditions,
            &rule.selector,
            &rule.declarations,
        )
    });
    written.collect::<Vec<_>>().join("\n\n")
}

/// A rule of what is copied.
struct Copied {
    conditions: Vec<String>,
    selector: String,
    declarations: Vec<Declared>,
}

fn put(rules: &mut Vec<Copied>, conditions: Vec<String>, selector: String, wanted: Declared) {
    let same = |r: &&mut Copied| r.selector == selector && r.conditions == conditions;
    match rules.iter_mut().find(same) {
        Some(rule) => {
            // The later edit says what is meant.
            rule.declarations.retain(|w| w.name != wanted.name);
            rule.declarations.push(wanted);
        }
        None => rules.push(Copied {
            conditions,
            selector,
            declarations: vec![wanted],
        }),
    }
}

/// The declaration that wins a property of an element, with its rule's conditions and selector.
fn winning(
    styles: &Styles<'_>,
    element: ElementId,
    name: &str,
) -> Option<(Vec<String>, String, Declared)> {
    let property = property(name).ok()?;
    let target = Target::from(element);
    let reference = winner(styles, &target, &property, name).ok()?;
    let declared = styles.sheet(reference.sheet);
    let sheet = declared.sheet();
    let declaration = sheet.declaration(reference.id);
    let (conditions, selector) = match reference.sheet {
        SheetRef::Listed(_) => {
            let head = sheet.prelude_source(sheet.rule(declaration.rule));
            let selector = head.split_whitespace().collect::<Vec<_>>().join(" ");
            (conditions_of(sheet, declaration.rule), selector)
        }
        // A style attribute has no selector; the element's shortest one stands for it.
        _ => {
            let found = chosen_on(styles.page(), &[target], None, None, &[]).ok()?;
            (Vec::new(), found.selector)
        }
    };
    let wanted = Declared {
        name: sheet.name_source(declaration).to_owned(),
        value: sheet.value_source(declaration).to_owned(),
        important: declaration.important.is_some(),
    };
    Some((conditions, selector, wanted))
}

/// An element's source, or only that of its content, its first line not indented.
///
/// # Errors
/// Where its source is not one piece.
pub fn markup(page: &Page, target: &Target, inner: bool) -> Result<String, EditError> {
    let stand = SourceLayout::whole(page, target.element)?;
    if !inner {
        return Ok(block(stand.source, stand.outer));
    }
    let held = stand.source.cut(stand.inner);
    if crate::edit::rewrite::source_layout::keeps_spaces(held) || !held.contains('\n') {
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
    let text = source.cut(span);
    if crate::edit::rewrite::source_layout::keeps_spaces(text) {
        return text.to_owned();
    }
    reindented(
        text,
        indent_at(source, span.start().into()),
        "",
        line_ending(source),
    )
}
