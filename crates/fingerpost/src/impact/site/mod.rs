//! `effect`: what a change moves, over the whole site, in the environment asked for and in
//! those that the theme itself speaks of.
//!
//! Two states of a site, its draft with and without a change, are compared page by page. What an edit was
//! aimed at stands apart from the rest, and elements that changed alike are one group.
//!
//! ```
//! use fingerpost::prelude::*;
//! use fingerpost::question::element_states::ElementStates;
//! use fingerpost::impact::site::{ImpactOptions, effect};
//!
//! # let folder = tempfile::tempdir()?;
//! # std::fs::write(folder.path().join("fingerpost.toml"), "fingerpost = 2\n")?;
//! # std::fs::write(folder.path().join("a.css"), "p { color: teal } .today p { color: navy }")?;
//! # for page in ["a.html", "b.html"] {
//! #     let html = "<link rel=stylesheet href=a.css><p>Boats<div class=today><p>Fares</div>";
//! #     std::fs::write(folder.path().join(page), html)?;
//! # }
//! // `a.css` has `p { color: teal }`; both `a.html` and `b.html` link it.
//! let before = Site::of_folder(folder.path())?;
//! let page = before.page("a.html", Environment::default())?;
//! let intent = Intent::new("a.html", "body > p", Change::set("color", "maroon"));
//! let after = before.imagined(before.make(&page, &intent)?)?;
//! let options = ImpactOptions {
//!     page: Some("a.html"),
//!     environment: &Environment::default(),
//!     element_states: &ElementStates::default(),
//!     only_here: false,
//!     aimed: &|_| Vec::new(),
//! };
//! let moved = effect(&before, &after, &options)?;
//! let words = moved.side_effects_in_words();
//! assert_eq!(words.as_deref(), Some("1 element here and 1 on 1 other page"));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod group;
mod situations;

use std::collections::{BTreeSet, HashSet};

use serde::{Deserialize, Serialize};

use crate::environment::{Asked, Environment};
use crate::impact::page::{
    Affected, ChangedRules, NamedStates, States, Touched, named_states, pairs, states_of_markup,
};
use crate::markup::{ElementId, Pairs};
use crate::page::Page;
use crate::parallel;
use crate::question::element_states::ElementStates;
pub use situations::{theme_variants, unasked};

pub use crate::impact::page::{RuleEffect, ValueChange};
use crate::site::{Site, SiteError, is_url};
pub use group::Group;
use group::{Seen, grouped};
use situations::{Situation, asks_of, situations};

/// How a change is looked at.
pub struct ImpactOptions<'a> {
    /// The page that was asked about: it is looked at first, and what is on it is "here".
    pub page: Option<&'a str>,
    /// The environment that were asked for.
    pub environment: &'a Environment,
    /// The states that elements of that page are assumed to be in.
    pub element_states: &'a ElementStates,
    /// Whether only that page is looked at, in the environment asked for only.
    pub only_here: bool,
    /// The elements of a page, as it was before, that the change is aimed at.
    pub aimed: &'a (dyn Fn(&Page) -> Vec<ElementId> + Sync),
}

impl std::fmt::Debug for ImpactOptions<'_> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("ImpactOptions")
            .field("page", &self.page)
            .finish_non_exhaustive()
    }
}

/// What a change moves.
#[derive(Clone, Debug, Default, PartialEq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Effect {
    /// The page that was asked about.
    pub page: Option<String>,
    /// Whether the environment asked for is the usual one: a wide screen.
    pub usual: bool,
    /// How many pages were looked at.
    pub pages: usize,
    /// The pages that could not be read, each with why.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub unread: Vec<String>,
    /// The environments of the theme that were looked at besides the one asked for, in words.
    pub situations: Vec<String>,
    /// Those of them in which what the change was aimed at stays as it is.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub untouched: Vec<String>,
    /// The elements whose own values changed, those that changed alike together; what the change was
    /// aimed at first.
    pub groups: Vec<Group>,
    /// The rules that apply to elements of the asked page again or no longer, in the environment asked for.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub rules: Vec<RuleEffect>,
    /// What changed rules hold now that should be known, in sentences.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub notes: Vec<String>,
    /// How many elements a changed rule finds for whom only layout knows whether it applies.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub undecided: usize,
}

fn is_zero(count: &usize) -> bool {
    *count == 0
}

/// How many elements a change moves that it was not aimed at.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
pub struct SideEffects {
    /// On the page that was asked about.
    pub here: usize,
    /// On other pages.
    pub elsewhere: usize,
    /// On how many other pages.
    pub pages: usize,
}

impl SideEffects {
    /// How many there are in all.
    pub fn count(self) -> usize {
        self.here + self.elsewhere
    }
}

impl Effect {
    /// Whether no value of any element changed.
    pub fn is_nothing(&self) -> bool {
        self.groups.is_empty()
    }

    /// The elements that changed and were not aimed at, each counted once. Those of which only custom
    /// properties changed, which nothing makes use of, don't count.
    pub fn side_effects(&self) -> SideEffects {
        let mut seen = HashSet::new();
        let mut pages = HashSet::new();
        let mut others = SideEffects::default();
        let all = self.groups.iter().filter(|g| !g.aimed && !g.is_custom());
        for element in all.flat_map(|g| &g.elements) {
            let page = element.place.file.as_str();
            if !seen.insert((page, element.index)) {
                continue;
            }
            if self.page.as_deref() == Some(page) {
                others.here += 1;
            } else {
                others.elsewhere += 1;
                pages.insert(page);
            }
        }
        others.pages = pages.len();
        others
    }

    /// What else changes, in half a sentence: `2 other elements here and 5 on 3 pages`; none where
    /// nothing does.
    pub fn side_effects_in_words(&self) -> Option<String> {
        let others = self.side_effects();
        let aimed = self.groups.iter().any(|g| g.aimed);
        let counted = |count: usize, other: &str| match count {
            1 => format!("1 {other}element"),
            many => format!("{many} {other}elements"),
        };
        let pages = |count: usize| match count {
            1 => "1 other page".to_owned(),
            many => format!("{many} other pages"),
        };
        if self.page.is_none() && others.elsewhere > 0 {
            let pages = match others.pages {
                1 => "1 page".to_owned(),
                many => format!("{many} pages"),
            };
            return Some(format!("{} on {pages}", counted(others.elsewhere, "")));
        }
        let other = if aimed { "other " } else { "" };
        match (others.here, others.elsewhere) {
            (0, 0) => None,
            (here, 0) => Some(format!("{} here", counted(here, other))),
            (0, elsewhere) => Some(format!(
                "{} on {}",
                counted(elsewhere, ""),
                pages(others.pages)
            )),
            (here, elsewhere) => Some(format!(
                "{} here and {elsewhere} on {}",
                counted(here, other),
                pages(others.pages)
            )),
        }
    }
}

/// What a change did to one page.
#[derive(Default)]
struct OfPage {
    seen: Vec<Seen>,
    rules: Vec<RuleEffect>,
    notes: Vec<String>,
    undecided: usize,
    /// What its sheets ask of the environment, and the states that the change has to do with; none where nothing on it can change.
    asks: Option<(Vec<Asked>, Vec<NamedStates>)>,
    /// The states that the change names, each with whether it changes anything on the page.
    states: Vec<(NamedStates, bool)>,
}

/// Compares two states of a site: every page of it that has anything of what changed. Both are states of
/// one site's draft (see [`Site::imagined`]); what files on disk say is the same in both.
///
/// # Errors
/// Where the draft of either does not fit its files. Pages that can't be read are named in the answer.
pub fn effect(
    before: &Site,
    after: &Site,
    options: &ImpactOptions<'_>,
) -> Result<Effect, SiteError> {
    let mut names: Vec<String> = options.page.map(str::to_owned).into_iter().collect();
    if !options.only_here {
        let others = after.pages().into_iter().chain(of_server(before, after));
        names.extend(others.filter(|name| Some(name.as_str()) != options.page));
        // Templates are no pages beside those that a server makes of them.
        if names.iter().any(|name| is_url(name)) {
            let templates = after.templates();
            names.retain(|name| !templates.iter().any(|template| template.name() == name));
        }
    }
    let mut answer = Effect {
        page: options.page.map(str::to_owned),
        usual: *options.environment == Environment::default(),
        ..Effect::default()
    };
    if !differ(before, after)? {
        answer.pages = names.len();
        return Ok(answer);
    }
    // The first page's sheets are read once for all.
    let first = names.first().and_then(|name| {
        let was = before.page(name, options.environment.clone()).ok()?;
        let is = after.page_after(Some(&was), name, options.environment.clone());
        Some((was, is.ok()?))
    });
    let known = first.as_ref().map(|(before, after)| (before, after));
    let found: Vec<(String, Result<OfPage, SiteError>)> = parallel::map(names, |name| {
        let done = of_page(before, after, &name, known, options);
        (name, done)
    });
    // All pages are looked at in the same environment.
    let mut asked: Vec<Asked> = Vec::new();
    let mut named: Vec<NamedStates> = Vec::new();
    let mut touched: Vec<String> = Vec::new();
    let mut seen: Vec<Seen> = Vec::new();
    let mut states: Vec<(NamedStates, bool)> = Vec::new();
    for (name, of_page) in found {
        match of_page {
            Ok(of_page) => {
                answer.pages += 1;
                states.extend(of_page.states);
                seen.extend(of_page.seen);
                answer.rules.extend(of_page.rules);
                for note in of_page.notes {
                    if !answer.notes.contains(&note) {
                        answer.notes.push(note);
                    }
                }
                answer.undecided += of_page.undecided;
                if let Some((asks, states)) = of_page.asks {
                    asked.extend(asks);
                    named.extend(states);
                    touched.push(name);
                }
            }
            Err(error) => answer.unread.push(format!("{name}: {error}")),
        }
    }
    answer.notes.extend(in_vain(&states, answer.pages));
    if !options.only_here {
        let other = situations(&asked, &named, options.environment);
        let found: Vec<(String, Result<Vec<Seen>, SiteError>)> = parallel::map(touched, |name| {
            let seen = elsewhere(before, after, &name, known, options, &other);
            (name, seen)
        });
        for (name, found) in found {
            match found {
                Ok(found) => seen.extend(found),
                Err(error) => answer.unread.push(format!("{name}: {error}")),
            }
        }
        answer.situations = other.into_iter().map(|s| s.words).collect();
    }
    answer.untouched = untouched(&seen, &answer.situations);
    answer.groups = grouped(seen, answer.situations.len() + 1);
    Ok(answer)
}

/// A note on each state that the change names and in which nothing matches, on any page.
fn in_vain(states: &[(NamedStates, bool)], pages: usize) -> Vec<String> {
    let mut named: Vec<&NamedStates> = Vec::new();
    for (state, _) in states {
        let reaches = |other: &(NamedStates, bool)| other.1 && other.0 == *state;
        if !named.contains(&state) && !states.iter().any(reaches) {
            named.push(state);
        }
    }
    let place = match pages {
        0 | 1 => "on this page".to_owned(),
        pages => format!("on the site's {pages} pages"),
    };
    let notes = named.into_iter();
    notes
        .map(|state| format!("no element {place} matches on {state}"))
        .collect()
}

/// The pages that a server makes and that the drafts are about.
fn of_server(before: &Site, after: &Site) -> BTreeSet<String> {
    let all = before.draft().intents().chain(after.draft().intents());
    all.map(|intent| &intent.page)
        .filter(|page| is_url(page))
        .cloned()
        .collect()
}

/// The situations in which nothing that the edit is about changes.
fn untouched(seen: &[Seen], situations: &[String]) -> Vec<String> {
    let aimed: Vec<&Seen> = seen.iter().filter(|one| one.aimed).collect();
    if aimed.is_empty() {
        return Vec::new();
    }
    let reached: HashSet<&str> = aimed.iter().filter_map(|one| one.at.as_deref()).collect();
    let all = situations.iter();
    all.filter(|words| !reached.contains(words.as_str()))
        .cloned()
        .collect()
}

/// Whether any file is another one.
fn differ(before: &Site, after: &Site) -> Result<bool, SiteError> {
    let (was, is) = (before.drafted()?, after.drafted()?);
    let names: HashSet<&String> = was.texts.keys().chain(is.texts.keys()).collect();
    let source = |texts: &crate::draft::Bases, name: &str| {
        texts.get(name).map(|text| text.source().to_owned())
    };
    Ok(names
        .into_iter()
        .any(|name| source(&was.texts, name) != source(&is.texts, name)))
}

fn of_page(
    before: &Site,
    after: &Site,
    name: &str,
    known: Option<(&Page, &Page)>,
    options: &ImpactOptions<'_>,
) -> Result<OfPage, SiteError> {
    let (known_before, known_after) = known.unzip();
    let own = options.page == Some(name);
    let patch = after.patch_from(before, name);
    let mut of_page = OfPage::default();
    let mut was = before.page_after(known_before, name, options.environment.clone())?;
    let mut is = after.page_after(known_after, name, options.environment.clone())?;
    let (pairs, same_markup) = pairs(&was, &is, patch.as_ref());
    let rules = ChangedRules::new(&was, &is);
    if same_markup && rules.is_empty() {
        return Ok(of_page);
    }
    let aimed = (options.aimed)(&was);
    if own {
        (was, is) = in_states(options, was, is, &aimed, &pairs);
    }
    let states = States {
        before: &was,
        after: &is,
        pairs: &pairs,
        rules: &rules,
        same_markup,
        touched: &Touched::default(),
    };
    of_page.notes = states.notes();
    let mut named = named_states(&was, &rules.before);
    named.extend(named_states(&is, &rules.after));
    if !same_markup {
        named.extend(states_of_markup(&was, &is, &pairs, &rules));
    }
    // What nothing matches now may match in a state that it names.
    let in_a_state = |named: &NamedStates| {
        let in_them = |page: &Page| page.with_states_everywhere(&named.on, &named.off);
        let (was, is) = (in_them(&was), in_them(&is));
        let (before, after) = (&was, &is);
        States {
            before,
            after,
            ..states
        }
        .touch_anything()
    };
    if !states.touch_anything() {
        let each = named.iter();
        of_page.states = each
            .map(|named| (named.clone(), in_a_state(named)))
            .collect();
        if !of_page.states.iter().any(|(_, reaches)| *reaches) {
            return Ok(of_page);
        }
    } else {
        of_page.states = named.iter().map(|named| (named.clone(), true)).collect();
    }
    let mut add = |at: Option<String>, affected: Vec<Affected>| {
        of_page
            .seen
            .extend(affected.into_iter().map(|affected| Seen {
                at: at.clone(),
                aimed: aimed.contains(&affected.before),
                affected,
            }));
    };
    let asked = states.effect(own);
    add(None, asked.affected);
    of_page.rules = asked.rules;
    of_page.undecided = asked.undecided;

    of_page.asks = Some((
        asks_of(&was).into_iter().chain(asks_of(&is)).collect(),
        named,
    ));
    Ok(of_page)
}

/// What changed of a page in another environment.
fn elsewhere(
    before: &Site,
    after: &Site,
    name: &str,
    known: Option<(&Page, &Page)>,
    options: &ImpactOptions<'_>,
    situations: &[Situation],
) -> Result<Vec<Seen>, SiteError> {
    let (known_before, known_after) = known.unzip();
    let patch = after.patch_from(before, name);
    let asked_before = before.page_after(known_before, name, options.environment.clone())?;
    let asked_after = after.page_after(known_after, name, options.environment.clone())?;
    let (pairs, same_markup) = pairs(&asked_before, &asked_after, patch.as_ref());
    let aimed = (options.aimed)(&asked_before);
    let touched = Touched::default();
    let mut seen = Vec::new();
    for Situation {
        words,
        environment,
        states: named,
    } in situations
    {
        let mut was = before.page_after(Some(&asked_before), name, environment.clone())?;
        let mut is = after.page_after(Some(&asked_after), name, environment.clone())?;
        if options.page == Some(name) {
            (was, is) = in_states(options, was, is, &aimed, &pairs);
        }
        if let Some(named) = named {
            was = was.with_states_everywhere(&named.on, &named.off);
            is = is.with_states_everywhere(&named.on, &named.off);
        }
        let rules = ChangedRules::new(&was, &is);
        let assuming = Touched::default();
        let states = States {
            before: &was,
            after: &is,
            pairs: &pairs,
            rules: &rules,
            same_markup,
            // A state of all elements makes other selectors match.
            touched: if named.is_some() { &assuming } else { &touched },
        };
        let found = states.effect(false).affected.into_iter();
        seen.extend(found.map(|affected| Seen {
            at: Some(words.clone()),
            aimed: aimed.contains(&affected.before),
            affected,
        }));
    }
    Ok(seen)
}

/// Both pages with the elements of the asked page in their assumed states.
fn in_states(
    options: &ImpactOptions<'_>,
    was: Page,
    is: Page,
    aimed: &[ElementId],
    pairs: &Pairs,
) -> (Page, Page) {
    let states = options.element_states;
    let now: Vec<ElementId> = aimed.iter().filter_map(|id| pairs.after(*id)).collect();
    let before = states.on_what_is_left(&was, aimed).unwrap_or(was);
    let after = states.on_what_is_left(&is, &now).unwrap_or(is);
    (before, after)
}
