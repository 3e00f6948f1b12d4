//! Which classes the theme has, by prefix: what can be tried on an element.
//!
//! ```
//! use fingerpost::prelude::*;
//!
//! let html = "<style>.panel { top: 0 } .panel-title { left: 0 }</style><p class=panel>Boats";
//! let page = Page::new(Text::new("a.html", html));
//! let answer = page.ask().classes("pan");
//! let names: Vec<&str> = answer.classes.iter().map(|class| class.name.as_str()).collect();
//! assert_eq!(names, ["panel", "panel-title"]);
//! ```

use std::collections::{BTreeMap, BTreeSet, HashSet};
use std::sync::Arc;

use serde::Serialize;

use crate::cascade::Origin;
use crate::markup::Document;
use crate::page::Page;
use crate::selector::{Mention, ParseContext, SelectorList};
use crate::sheet::{AtRule, Rule, RuleKind, Sheet, TokenKind};
use crate::text::Place;
use crate::value::substitution::arguments;

/// A class that sheets of the page speak of, or elements have.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct ClassAnswer {
    /// Its name.
    pub name: String,
    /// How many rules of the page's own sheets use it.
    pub rules: usize,
    /// Where the first of them stands.
    pub place: Option<Place>,
    /// How many elements of the page have it.
    pub elements: usize,
}

/// The classes of a page and its sheets that begin with a prefix.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct ClassesAnswer {
    /// The page.
    pub page: String,
    /// The prefix.
    pub prefix: String,
    /// The classes, by name.
    pub classes: Vec<ClassAnswer>,
}

/// The classes that begin with `prefix`: of the rules of the page's own sheets, and of its elements.
pub(crate) fn classes(page: &Page, prefix: &str) -> ClassesAnswer {
    let prefix = prefix.trim_start_matches(['.', '+', '-']);
    let mut found: BTreeMap<String, ClassAnswer> = BTreeMap::new();
    let blank = |name: &str| ClassAnswer {
        name: name.to_owned(),
        rules: 0,
        place: None,
        elements: 0,
    };
    for (names, place) in mentioned(page) {
        for name in names.into_iter().filter(|name| name.starts_with(prefix)) {
            let class = found.entry(name.clone()).or_insert_with(|| blank(&name));
            class.rules += 1;
            class.place.get_or_insert_with(|| place.clone());
        }
    }
    count(page.document(), prefix, |name| {
        found
            .entry(name.to_owned())
            .or_insert_with(|| blank(name))
            .elements += 1;
    });
    ClassesAnswer {
        page: page.document().text().name().to_owned(),
        prefix: prefix.to_owned(),
        classes: found.into_values().collect(),
    }
}

fn count(document: &Document, prefix: &str, mut see: impl FnMut(&str)) {
    for id in document.elements() {
        let element = document.element(*id);
        for name in element.classes().filter(|n| n.starts_with(prefix)) {
            see(name);
        }
    }
}

/// The classes that each rule of the page's own sheets mentions, in its selectors, in those of the scope that begins with it,
/// or in the condition of `@supports`; with the rule's place.
fn mentioned(page: &Page) -> Vec<(BTreeSet<String>, Place)> {
    let mut all = Vec::new();
    let mut scopes = HashSet::new();
    for rule in page.rules().iter().filter(|r| r.origin == Origin::Author) {
        let sheet = page.sheets()[rule.sheet as usize].styles.sheet();
        let place = sheet.place(sheet.rule(rule.rule).span.start());
        let mut names = BTreeSet::new();
        let mut see = |mention: Mention<'_>| names.extend(mention.class().map(str::to_owned));
        if let Ok(list) = &rule.selectors {
            list.mentions(&mut see);
        }
        // A scope is said once, by its first rule.
        if let Some(scope) = &rule.scope
            && scopes.insert(Arc::as_ptr(scope))
        {
            scope.mentions(&mut see);
        }
        all.push((names, place));
    }
    for listed in page.sheets().iter().filter(|s| s.origin == Origin::Author) {
        let sheet = listed.styles.sheet();
        for (_, rule) in sheet.rules() {
            if rule.kind == RuleKind::At(AtRule::Supports) {
                let names = in_supports(sheet, rule);
                all.push((names, sheet.place(rule.span.start())));
            }
        }
    }
    all
}

/// The classes in `selector(…)` of an `@supports` rule.
fn in_supports(sheet: &Sheet, rule: &Rule) -> BTreeSet<String> {
    let source = sheet.text().source();
    let tokens = sheet.prelude_tokens(rule);
    let mut names = BTreeSet::new();
    for (at, token) in tokens.iter().enumerate() {
        if token.kind != TokenKind::Function || !token.is_name(source, "selector") {
            continue;
        }
        let (inside, _) = arguments(&tokens, at);
        if let Ok(list) = SelectorList::parse_tokens(source, inside, ParseContext::default()) {
            list.mentions(&mut |mention| names.extend(mention.class().map(str::to_owned)));
        }
    }
    names
}
