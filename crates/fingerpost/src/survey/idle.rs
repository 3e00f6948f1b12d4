//! Rules of a site that match nothing, and classes that no rule is about.
//!
//! Both are said of the pages as they are written. What a script or a template adds is not seen: a rule that matches nothing here
//! may match what comes later.

use std::collections::{BTreeMap, BTreeSet};

use serde::{Deserialize, Serialize};

use crate::cascade::Origin;
use crate::environment::Environment;
use crate::page::Page;
use crate::parallel;
use crate::question::classes::ClassMentions;
use crate::site::Site;
use crate::text::Place;

/// A rule of which a selector matches nothing on any page, whatever state its elements are in.
#[derive(Clone, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct IdleRule {
    /// Where the rule begins.
    pub place: Place,
    /// Its selectors, as they are written.
    pub selector: String,
    /// Those that match nothing; all of them where the rule does nothing at all.
    pub idle: Vec<String>,
    /// Whether none of its selectors matches anything.
    pub whole: bool,
    /// How many pages have it.
    pub pages: usize,
}

/// The rules of a site that match nothing: [`Site::idle`].
#[derive(Clone, Debug, Default, PartialEq, Eq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct IdleRules {
    /// The rules, by file and place.
    pub rules: Vec<IdleRule>,
    /// How many pages were looked at.
    pub pages: usize,
    /// Pages and rules that could not be looked at, each with the reason.
    pub unread: Vec<String>,
    /// The sheets of the site that no page has. Nothing is said of their rules.
    pub not_loaded: Vec<String>,
}

/// A class that elements have and no rule of their pages is about.
#[derive(Clone, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct ClassWithoutRules {
    /// Its name.
    pub name: String,
    /// How many elements have it.
    pub elements: usize,
    /// The first of them.
    pub place: Place,
    /// The pages that have it.
    pub pages: Vec<String>,
}

impl std::fmt::Display for IdleRule {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let idle = self.idle.join(", ");
        write!(f, "{}: {idle} matches nothing on any page", self.place)
    }
}

impl std::fmt::Display for ClassWithoutRules {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(
            f,
            "{}: no rule is about the class {}",
            self.place, self.name
        )
    }
}

/// What is known of a rule after some pages.
struct Known {
    selector: String,
    selectors: Vec<(String, bool)>,
    pages: usize,
}

type KnownRules = BTreeMap<Place, Known>;

impl Site {
    /// The rules of the site's own sheets of which a selector matches nothing on any page, whatever state its elements are in, and
    /// whatever the conditions around it.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// # let folder = tempfile::tempdir()?;
    /// # let write = |name: &str, text: &str| std::fs::write(folder.path().join(name), text);
    /// # write("fingerpost.toml", "fingerpost = 2\n")?;
    /// # write("a.css", "a:hover { top: 0 } .gone, p { top: 0 } .gone:hover { top: 0 } @media print { p { top: 0 } }")?;
    /// # write("a.html", "<link rel=stylesheet href=a.css><p><a href=/>Boats</a>")?;
    /// // a.css: a:hover { top: 0 } .gone, p { top: 0 } .gone:hover { top: 0 } @media print { p { top: 0 } }
    /// // a.html: <link rel=stylesheet href=a.css><p><a href=/>Boats</a>
    /// let site = Site::of_folder(folder.path())?;
    /// let idle = site.idle();
    /// let idle: Vec<_> = idle.rules.iter().map(|rule| (rule.idle.join(", "), rule.whole)).collect();
    /// assert_eq!(idle, [(".gone".to_owned(), false), (".gone:hover".to_owned(), true)]);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn idle(&self) -> IdleRules {
        let mut answer = IdleRules::default();
        let mut rules = KnownRules::new();
        let mut loaded: BTreeSet<String> = BTreeSet::new();
        for (name, page) in self.each_page() {
            let (of_page, sheets, unread) = match page {
                Ok(found) => found,
                Err(error) => {
                    answer.unread.push(format!("{name}: {error}"));
                    continue;
                }
            };
            answer.pages += 1;
            loaded.extend(sheets);
            for problem in unread {
                if !answer.unread.contains(&problem) {
                    answer.unread.push(problem);
                }
            }
            for (place, found) in of_page {
                match rules.get_mut(&place) {
                    Some(known) => known.join(found),
                    None => {
                        rules.insert(place, found);
                    }
                }
            }
        }
        answer.not_loaded = self.files(&["css"]);
        answer.not_loaded.retain(|file| !loaded.contains(file));
        answer.rules = rules
            .into_iter()
            .filter_map(|(place, known)| known.into_idle(place))
            .collect();
        answer
    }

    fn each_page(&self) -> Vec<(String, Result<OfPage, String>)> {
        parallel::map(self.pages(), |name| {
            let page = self.page(&name, Environment::default());
            let found = page.map(|page| of_page(&page)).map_err(|e| e.to_string());
            (name, found)
        })
    }

    /// The classes that elements of the site's pages have and that no rule of a page with them is about, by name. A rule is about
    /// a class wherever a selector or the condition of `@supports` names it, an attribute selector such as
    /// `[class^="icon-"]` among them. A page that can't be read is left out.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// # let folder = tempfile::tempdir()?;
    /// # let write = |name: &str, text: &str| std::fs::write(folder.path().join(name), text);
    /// # write("fingerpost.toml", "fingerpost = 2\n")?;
    /// # write("a.html", "<style>p:not(.b) { top: 0 } [class^=icon-] { top: 0 }</style><p class='a b'><i class=icon-up></i>")?;
    /// // a.html: <style>p:not(.b) { top: 0 } [class^=icon-] { top: 0 }</style><p class='a b'><i class=icon-up></i>
    /// let site = Site::of_folder(folder.path())?;
    /// let names: Vec<String> = site.classes_without_rules().into_iter().map(|class| class.name).collect();
    /// assert_eq!(names, ["a"]);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn classes_without_rules(&self) -> Vec<ClassWithoutRules> {
        let of_pages = parallel::map(self.pages(), |name| {
            let page = self.page(&name, Environment::default()).ok()?;
            Some(classes_of_page(&page))
        });
        let mut without: BTreeMap<String, ClassWithoutRules> = BTreeMap::new();
        let mut with_rules: BTreeSet<String> = BTreeSet::new();
        for of_page in of_pages.into_iter().flatten() {
            for (class, has_rule) in of_page {
                if has_rule {
                    with_rules.insert(class.name);
                    continue;
                }
                match without.get_mut(&class.name) {
                    Some(known) => {
                        known.elements += class.elements;
                        known.pages.extend(class.pages);
                    }
                    None => {
                        without.insert(class.name.clone(), class);
                    }
                }
            }
        }
        without.retain(|name, _| !with_rules.contains(name));
        without.into_values().collect()
    }
}

/// The rules of a page, the sheets that it has, and what could not be read.
type OfPage = (KnownRules, Vec<String>, Vec<String>);

fn of_page(page: &Page) -> OfPage {
    let reach = page.reach();
    let (mut rules, mut unread) = (KnownRules::new(), Vec::new());
    for (at, rule) in page.rules().iter().enumerate() {
        if rule.origin != Origin::Author {
            continue;
        }
        let sheet = page.sheets()[rule.sheet as usize].styles.sheet();
        let written = sheet.rule(rule.rule);
        let place = sheet.place(written.span.start());
        let list = match &rule.selectors {
            Ok(list) => list,
            Err(error) => {
                unread.push(format!("{place}: {}", error.message));
                continue;
            }
        };
        let texts = list.selectors.iter().map(ToString::to_string);
        let reached = reach.selectors(at).iter();
        let found = Known {
            selector: sheet.prelude_source(written).trim().to_owned(),
            selectors: texts
                .zip(reached.map(|one| !one.in_some_state.is_empty()))
                .collect(),
            pages: 1,
        };
        match rules.get_mut(&place) {
            // A sheet can be on a page twice.
            Some(known) => known.reached(&found),
            None => {
                rules.insert(place, found);
            }
        }
    }
    let sheets = page.sheets().iter();
    let sheets = sheets.map(|sheet| sheet.styles.sheet().text().name().to_owned());
    (rules, sheets.collect(), unread)
}

impl Known {
    fn reached(&mut self, other: &Known) {
        for ((_, own), (_, others)) in self.selectors.iter_mut().zip(&other.selectors) {
            *own |= others;
        }
    }

    fn join(&mut self, other: Known) {
        self.reached(&other);
        self.pages += other.pages;
    }

    fn into_idle(self, place: Place) -> Option<IdleRule> {
        let count = self.selectors.len();
        let idle = self.selectors.into_iter().filter(|(_, reached)| !reached);
        let idle: Vec<String> = idle.map(|(text, _)| text).collect();
        (!idle.is_empty()).then_some(IdleRule {
            place,
            selector: self.selector,
            whole: idle.len() == count,
            idle,
            pages: self.pages,
        })
    }
}

/// The classes of a page's elements, and whether a rule is about each.
fn classes_of_page(page: &Page) -> Vec<(ClassWithoutRules, bool)> {
    let document = page.document();
    let mentions = ClassMentions::of(page);
    let mut found: BTreeMap<&str, ClassWithoutRules> = BTreeMap::new();
    for id in document.elements() {
        let element = document.element(*id);
        for name in element.classes() {
            let class = found.entry(name).or_insert_with(|| ClassWithoutRules {
                name: name.to_owned(),
                elements: 0,
                place: document.text().place(element.start_tag.start()),
                pages: vec![document.text().name().to_owned()],
            });
            class.elements += 1;
        }
    }
    let classes = found.into_values();
    classes
        .map(|class| {
            let has_rule = mentions.rules_about(&class.name).next().is_some();
            (class, has_rule)
        })
        .collect()
}
