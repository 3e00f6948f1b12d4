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

use std::collections::{BTreeMap, BTreeSet, HashMap, HashSet};
use std::sync::Arc;

use serde::{Deserialize, Serialize};

use crate::cascade::Origin;
use crate::markup::Document;
use crate::page::Page;
use crate::selector::{Mention, ParseContext, SelectorList};
use crate::sheet::{AtRule, Rule, RuleKind, Sheet, TokenKind};
use crate::text::Place;
use crate::value::substitution::arguments;

/// A class that sheets of the page speak of, or elements have.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize)]
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
    /// What a rule that is about it alone sets, where that is little: the class says how something looks.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sets: Option<String>,
}

/// The classes of a page and its sheets that begin with a prefix.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize)]
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
        sets: None,
    };
    let mentions = ClassMentions::of(page);
    for name in mentions.names().filter(|name| name.starts_with(prefix)) {
        found.insert(name.to_owned(), blank(name));
    }
    count(page.document(), prefix, |name| {
        found
            .entry(name.to_owned())
            .or_insert_with(|| blank(name))
            .elements += 1;
    });
    for (name, class) in &mut found {
        let mut rules = mentions.rules_about(name).peekable();
        class.place = rules.peek().map(|place| (*place).clone());
        class.rules = rules.count();
    }
    for (name, sets) in little_rules(page) {
        if let Some(class) = found.get_mut(&name)
            && class.rules == 1
        {
            class.sets = Some(sets);
        }
    }
    ClassesAnswer {
        page: page.document().text().name().to_owned(),
        prefix: prefix.to_owned(),
        classes: found.into_values().collect(),
    }
}

/// A class of looks sets this many declarations at most.
pub(crate) const MOST_OF_UTILITY: usize = 2;

/// The rules that are about one class and set little: the class, and what it sets.
fn little_rules(page: &Page) -> Vec<(String, String)> {
    let mut found = Vec::new();
    for rule in page.rules().iter().filter(|r| r.origin == Origin::Author) {
        let sheet = page.sheet(rule.sheet).styles.sheet();
        let declared: Vec<_> = sheet.declarations_of(rule.rule).map(|(_, d)| d).collect();
        let Ok(list) = &rule.selectors else { continue };
        if declared.is_empty() || declared.len() > MOST_OF_UTILITY {
            continue;
        }
        let sets: Vec<&str> = declared
            .iter()
            .map(|d| sheet.text().slice(d.span))
            .collect();
        for selector in &list.selectors {
            if let Some(class) = selector.only_class()
                && selector.pseudo_element.is_none()
            {
                found.push((class.to_owned(), sets.join("; ")));
            }
        }
    }
    found
}

fn count(document: &Document, prefix: &str, mut see: impl FnMut(&str)) {
    for id in document.elements() {
        let element = document.element(*id);
        for name in element.classes().filter(|n| n.starts_with(prefix)) {
            see(name);
        }
    }
}

/// The classes that the rules of a page's own sheets are about: in their selectors, in those of the scope that begins with a rule,
/// and in the condition of `@supports`.
pub(crate) struct ClassMentions {
    rules: Vec<OfRule>,
    /// Which of them name a class in full.
    named_by: HashMap<String, Vec<usize>>,
    /// Those that name a part of one.
    with_parts: Vec<usize>,
}

/// What a rule says of classes.
struct OfRule {
    place: Place,
    names: BTreeSet<String>,
    /// Values of attribute selectors that ask for a part of the attribute, such as `[class^="icon-"]`.
    parts: BTreeSet<String>,
}

impl OfRule {
    fn at(place: Place) -> OfRule {
        OfRule {
            place,
            names: BTreeSet::new(),
            parts: BTreeSet::new(),
        }
    }

    fn see(&mut self, mention: Mention<'_>) {
        match mention.class() {
            Some(names) => {
                let names = names.split_ascii_whitespace().map(str::to_owned);
                self.names.extend(names);
            }
            None => self
                .parts
                .extend(mention.part_of_class().map(str::to_owned)),
        }
    }

    /// Whether it asks for a part of a class's name.
    fn names_part_of(&self, class: &str) -> bool {
        self.parts.iter().any(|part| {
            let mut words = part.split_ascii_whitespace();
            words.any(|word| class.contains(word))
        })
    }
}

impl ClassMentions {
    pub fn of(page: &Page) -> ClassMentions {
        let mut rules = Vec::new();
        let mut scopes = HashSet::new();
        for rule in page.rules().iter().filter(|r| r.origin == Origin::Author) {
            let sheet = page.sheets()[rule.sheet as usize].styles.sheet();
            let mut found = OfRule::at(sheet.place(sheet.rule(rule.rule).span.start()));
            if let Ok(list) = &rule.selectors {
                list.mentions(&mut |mention| found.see(mention));
            }
            // A scope is said once, by its first rule.
            if let Some(scope) = &rule.scope
                && scopes.insert(Arc::as_ptr(scope))
            {
                scope.mentions(&mut |mention| found.see(mention));
            }
            rules.push(found);
        }
        for listed in page.sheets().iter().filter(|s| s.origin == Origin::Author) {
            let sheet = listed.styles.sheet();
            for (_, rule) in sheet.rules() {
                if rule.kind == RuleKind::At(AtRule::Supports) {
                    rules.push(in_supports(sheet, rule));
                }
            }
        }
        let mut named_by: HashMap<String, Vec<usize>> = HashMap::new();
        let mut with_parts = Vec::new();
        for (at, rule) in rules.iter().enumerate() {
            for name in &rule.names {
                named_by.entry(name.clone()).or_default().push(at);
            }
            if !rule.parts.is_empty() {
                with_parts.push(at);
            }
        }
        ClassMentions {
            rules,
            named_by,
            with_parts,
        }
    }

    /// The classes that are named in full.
    pub fn names(&self) -> impl Iterator<Item = &str> {
        self.rules
            .iter()
            .flat_map(|rule| &rule.names)
            .map(String::as_str)
    }

    /// The places of the rules that are about a class.
    pub fn rules_about(&self, class: &str) -> impl Iterator<Item = &Place> {
        let named = self.named_by.get(class).into_iter().flatten().copied();
        let of_parts = self.with_parts.iter().copied();
        let mut about: Vec<usize> = of_parts
            .filter(|at| self.rules[*at].names_part_of(class))
            .chain(named)
            .collect();
        about.sort_unstable();
        about.dedup();
        about.into_iter().map(|at| &self.rules[at].place)
    }
}

/// The classes in `selector(…)` of an `@supports` rule.
fn in_supports(sheet: &Sheet, rule: &Rule) -> OfRule {
    let source = sheet.text().source();
    let tokens = sheet.prelude_tokens(rule);
    let mut found = OfRule::at(sheet.place(rule.span.start()));
    for (at, token) in tokens.iter().enumerate() {
        if token.kind != TokenKind::Function || !token.is_name(source, "selector") {
            continue;
        }
        let (inside, _) = arguments(&tokens, at);
        if let Ok(list) = SelectorList::parse_tokens(source, inside, ParseContext::default()) {
            list.mentions(&mut |mention| found.see(mention));
        }
    }
    found
}
