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

use std::collections::{BTreeMap, HashSet};
use std::sync::Arc;

use serde::Serialize;

use crate::cascade::Origin;
use crate::markup::Document;
use crate::page::Page;
use crate::selector::{PseudoClass, Selector, SelectorList, Simple};
use crate::text::Place;

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
    for rule in page.rules().iter().filter(|r| r.origin == Origin::Author) {
        let Ok(list) = &rule.selectors else { continue };
        let mut names = Vec::new();
        in_list(list, &mut names, &mut Parents::new());
        names.sort_unstable();
        names.dedup();
        let sheet = page.sheets()[rule.sheet as usize].styles.sheet();
        for name in names.into_iter().filter(|n| n.starts_with(prefix)) {
            let class = found.entry(name.to_owned()).or_insert_with(|| blank(name));
            class.rules += 1;
            if class.place.is_none() {
                let start = sheet.rule(rule.rule).span.start();
                class.place = Some(sheet.place(start));
            }
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

fn in_list<'a>(list: &'a SelectorList, names: &mut Vec<&'a str>, parents: &mut Parents) {
    for selector in &list.selectors {
        in_selector(selector, names, parents);
    }
}

/// The lists of the rules around that were looked at: `&` may are in a rule several times.
type Parents = HashSet<*const SelectorList>;

fn in_selector<'a>(selector: &'a Selector, names: &mut Vec<&'a str>, parents: &mut Parents) {
    let simples = selector.compounds.iter().flat_map(|(_, c)| &c.simples);
    for (simple, _) in simples {
        match simple {
            Simple::Class(name) => names.push(name),
            Simple::PseudoClass(
                PseudoClass::Is(list)
                | PseudoClass::Destination(list)
                | PseudoClass::Not(list)
                | PseudoClass::Has(list),
            ) => in_list(list, names, parents),
            Simple::PseudoClass(PseudoClass::Nesting(Some(list)))
                if parents.insert(Arc::as_ptr(list)) =>
            {
                in_list(list, names, parents);
            }
            _ => {}
        }
    }
}
