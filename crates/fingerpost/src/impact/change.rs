//! `edit`: what one edit did that has been put into the draft.
//!
//! ```
//! use fingerpost::prelude::*;
//! use fingerpost::question::element_states::ElementStates;
//! use fingerpost::impact::change::{Scope, attempt};
//!
//! # let folder = tempfile::tempdir()?;
//! # std::fs::write(folder.path().join("fingerpost.toml"), "fingerpost = 1\n")?;
//! # std::fs::write(folder.path().join("a.css"), "p { color: teal } .today p { color: navy }")?;
//! # for page in ["a.html", "b.html"] {
//! #     let html = "<link rel=stylesheet href=a.css><p>Boats<div class=today><p>Fares</div>";
//! #     std::fs::write(folder.path().join(page), html)?;
//! # }
//! // `a.css` has `p { color: teal }`; both `a.html` and `b.html` link it.
//! let mut site = Site::of_folder(folder.path())?;
//! let mut page = site.page("a.html", Environment::default())?;
//! let intent = Intent::new("a.html", "body > p", Change::set("color", "maroon"));
//! let answer = attempt(&mut site, &mut page, &intent, &ElementStates::default(), Scope::Site)?;
//!
//! assert_eq!(answer.files[0].file, "a.css");
//! assert_eq!(answer.why[0].contests[0].value.computed, "rgb(128, 0, 0)");
//! assert!(answer.beaten.is_empty(), "the new value wins");
//! // The paragraph of the other page has the same rule.
//! assert_eq!(answer.effect.side_effects().count(), 1);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use serde::Serialize;

use crate::edit::{Change, Destination, Edit, EditError, Intent, Pages, declared, kinds, subjects};
use crate::impact::page::pairs;
use crate::impact::site::{Effect, ImpactOptions, RuleEffect, effect};
use crate::markup::ElementId;
use crate::page::{Page, PropertyName, Target};
use crate::question::codes::{ContenderStanding, codes};
use crate::question::element_states::ElementStates;
use crate::question::find::elements;
use crate::question::why::{WhyAnswer, why};
use crate::question::{ElementSummary, RuleSummary};
use crate::site::{Site, SiteError};

/// How many of several elements are asked whether a new declaration wins.
const MOST_ASKED: usize = 200;

/// What a tried edit did.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct EditAnswer {
    /// Its number in the draft.
    pub id: u32,
    /// The elements that it is about, as they were.
    pub elements: Vec<ElementSummary>,
    /// The edit.
    pub edit: Edit,
    /// The files that it changes, each with what it changes there.
    pub files: Vec<crate::impact::draft::FileAnswer>,
    /// What the properties that it is about come to now, for the first of the elements.
    pub why: Vec<WhyAnswer>,
    /// The rules that apply to one of the elements now and did not before, and the other way round.
    pub gained: Vec<RuleSummary>,
    /// Those that applied and don't now.
    pub lost: Vec<RuleSummary>,
    /// What was asked for and does not win, with what does.
    pub beaten: Vec<String>,
    /// How many elements of the page a changed rule reached, and reaches.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub reach: Option<Reach>,
    /// What it changes, over the site.
    pub effect: Effect,
    /// A way to change less, where there is one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub narrower: Option<Narrower>,
}

/// How many elements of a page a rule reaches.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Reach {
    /// Before the edit.
    pub before: usize,
    /// After it.
    pub after: usize,
    /// How many of them are the same.
    pub same: usize,
}

codes! {
    /// Where a change can go so that it moves less of the rest.
    NarrowerPlace {
        /// The theme's override sheet.
        Custom = "custom",
        /// A rule for this element alone.
        Here = "here",
    }
}

/// Where the same change moves less of the rest.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Narrower {
    /// Where it goes.
    pub into: NarrowerPlace,
    /// What it changes besides even so; nothing where it changes only what it is aimed at.
    pub others: Option<String>,
}

/// Why an edit can't be tried.
#[derive(Debug, thiserror::Error)]
pub enum TryError {
    /// It can't be made.
    #[error(transparent)]
    Edit(#[from] EditError),
    /// The site or its draft does not take it.
    #[error(transparent)]
    Site(#[from] SiteError),
}

/// Over what the effect of an edit is asked.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Scope {
    /// The whole site, in all surroundings that the theme speaks of.
    Site,
    /// The edit's page, in the surroundings asked for.
    Page,
}

/// Makes an intent an edit, puts it into the draft, and says what it did. `page` is the intent's page as
/// the draft leaves it; it is read again afterwards.
///
/// # Errors
/// Where the edit can't be made or the draft does not take it; nothing is changed then.
pub fn attempt(
    site: &mut Site,
    page: &mut Page,
    intent: &Intent,
    element_states: &ElementStates,
    over: Scope,
) -> Result<EditAnswer, TryError> {
    let targets = subjects(page, intent)?;
    let asked: Vec<ElementId> = targets.iter().map(|t| t.element).collect();
    element_states.of_asked(page, &asked);
    let edit = site.make(page, intent)?;
    // Everything is asked before the draft is touched: an answer that fails has changed nothing.
    let view = site.imagined(edit.clone())?;
    let texts = crate::impact::draft::texts_of(site, &edit)?;
    let files =
        crate::impact::draft::differences(texts, crate::impact::draft::texts_of(&view, &edit)?);

    let mut after = view.reparse_page(page)?;
    let _ = element_states.of_others(&mut after);
    let name = page.document().text().name().to_owned();
    let patch = edit.patch_of(&name);
    let (pairs, _) = pairs(page, &after, patch);
    let now: Vec<ElementId> = asked.iter().filter_map(|id| pairs.after(*id)).collect();
    element_states.of_asked(&mut after, &now);

    let aimed = |other: &Page| aimed(other, &name, &asked, intent);
    let environment = page.environment().clone();
    let options = ImpactOptions {
        page: Some(&name),
        environment: &environment,
        element_states,
        only_here: over == Scope::Page,
        aimed: &aimed,
    };
    let moved = effect(site, &view, &options)?;
    let styles = after.styles();
    let first = targets.first().and_then(|target| {
        Some(Target {
            element: pairs.after(target.element)?,
            pseudo: target.pseudo.clone(),
        })
    });
    let asked_for = properties(&intent.change);
    let why: Vec<WhyAnswer> = first
        .iter()
        .flat_map(|target| asked_for.iter().map(|p| why(&styles, target, p)))
        .collect();
    let aimed_now: Vec<Target> = targets
        .iter()
        .filter_map(|t| {
            Some(Target {
                element: pairs.after(t.element)?,
                pseudo: t.pseudo.clone(),
            })
        })
        .collect();
    let summaries = targets
        .iter()
        .map(|t| ElementSummary::of_target(page, t))
        .collect();
    let is_asked = |elements: &[ElementSummary], page: &Page, ids: &[ElementId]| {
        let indices: Vec<u32> = ids
            .iter()
            .map(|id| page.document().element(*id).index)
            .collect();
        elements.iter().any(|e| indices.contains(&e.index))
    };
    let of_asked = |takes: &dyn Fn(&RuleEffect) -> bool| -> Vec<RuleSummary> {
        let rules = moved.rules.iter().filter(|r| takes(r));
        rules.map(|r| r.rule.clone()).collect()
    };
    let mut answer = EditAnswer {
        id: 0,
        beaten: beaten(&styles, &aimed_now, &intent.change),
        elements: summaries,
        files,
        gained: of_asked(&|r| is_asked(&r.gained, &after, &now)),
        lost: of_asked(&|r| is_asked(&r.lost, page, &asked)),
        why,
        reach: reach(page, &after, &edit, &pairs),
        narrower: narrower(site, page, intent, &options, &moved),
        effect: moved,
        edit,
    };
    drop(styles);
    answer.id = site.try_edit(answer.edit.clone())?;
    *page = after;
    Ok(answer)
}

/// The elements of a page that an intent is about.
fn aimed(page: &Page, own: &str, asked: &[ElementId], intent: &Intent) -> Vec<ElementId> {
    let name = page.document().text().name();
    if name == own {
        return asked.to_vec();
    }
    let also = match &intent.pages {
        Pages::This => false,
        Pages::Every => true,
        Pages::Also(names) => names.iter().any(|n| n == name),
    };
    match (&intent.element, also) {
        (Some(element), true) => elements(page, element).unwrap_or_default(),
        _ => Vec::new(),
    }
}

/// The properties that a change is about, each once.
fn properties(change: &Change) -> Vec<PropertyName> {
    let mut found: Vec<PropertyName> = Vec::new();
    let names = change.properties();
    for name in names.iter().filter_map(|n| PropertyName::named(n)) {
        if !found.contains(&name) {
            found.push(name);
        }
    }
    found
}

/// What was asked for and does not win, in sentences: for how many of the elements, where they are several.
fn beaten(styles: &crate::page::Styles<'_>, targets: &[Target], change: &Change) -> Vec<String> {
    let fold = |text: &str| text.split_whitespace().collect::<Vec<_>>().join(" ");
    let wanted: Vec<(String, String)> = match change {
        Change::Set(kinds::Set { property, value })
        | Change::Add(kinds::Add { property, value }) => {
            vec![(property.clone(), fold(value))]
        }
        Change::Rule(rule) => {
            let all = declared(&rule.declarations).into_iter();
            all.map(|(name, value)| (name, fold(&value))).collect()
        }
        _ => return Vec::new(),
    };
    let mut sentences: Vec<(String, usize)> = Vec::new();
    for target in targets.iter().take(MOST_ASKED) {
        for (property, value) in &wanted {
            let Some(name) = PropertyName::named(property) else {
                continue;
            };
            let answer = why(styles, target, &name);
            let lost = answer.contests.iter().find_map(|contest| {
                let winner = contest
                    .contenders
                    .iter()
                    .find(|c| c.standing == ContenderStanding::Wins)?;
                let own = contest.contenders.iter().find(|c| {
                    c.declaration.property.eq_ignore_ascii_case(property)
                        && c.declaration.value == *value
                })?;
                (winner.declaration.value != *value).then(|| {
                    format!(
                        "{property}: {value} does not win; it {}. {} wins, at {}",
                        own.sentence, winner.declaration.rule.selector, winner.declaration.place
                    )
                })
            });
            let Some(sentence) = lost else { continue };
            match sentences.iter_mut().find(|(known, _)| *known == sentence) {
                Some((_, count)) => *count += 1,
                None => sentences.push((sentence, 1)),
            }
        }
    }
    let all = targets.len().min(MOST_ASKED);
    sentences
        .into_iter()
        .map(|(sentence, count)| match all {
            1 => sentence,
            _ => format!("on {count} of the {all} elements, {sentence}"),
        })
        .collect()
}

/// How many elements of the page a rule reaches that the edit changes, before and after: for edits of
/// selectors, and of a rule by its place.
fn reach(
    before: &Page,
    after: &Page,
    edit: &Edit,
    pairs: &crate::impact::page::Pairs,
) -> Option<Reach> {
    if !matches!(edit.intent.change, Change::Selector(_)) {
        return None;
    }
    let rules = crate::impact::page::ChangedRules::new(before, after);
    let (old, new) = rules.twins().next()?;
    let found = |page: &Page, rule: u32| -> Vec<ElementId> {
        let styles = page.styles();
        let all = page.document().elements().iter().copied();
        all.filter(|id| styles.is_found_by(*id, &[rule])).collect()
    };
    let (was, is) = (found(before, old), found(after, new));
    let same = was
        .iter()
        .filter(|id| pairs.after(**id).is_some_and(|id| is.contains(&id)))
        .count();
    Some(Reach {
        before: was.len(),
        after: is.len(),
        same,
    })
}

/// Whether the same change elsewhere moves less: tried before it is said.
fn narrower(
    before: &Site,
    page: &Page,
    intent: &Intent,
    options: &ImpactOptions<'_>,
    moved: &Effect,
) -> Option<Narrower> {
    let others = moved.side_effects().count();
    if options.only_here
        || others == 0
        || intent.into != Destination::Sources
        || intent.change.is_markup()
    {
        return None;
    }
    let mut places: Vec<(NarrowerPlace, Destination)> = Vec::new();
    if before.config().custom.is_some() {
        places.push((NarrowerPlace::Custom, Destination::Overrides));
    }
    places.push((NarrowerPlace::Here, Destination::Inline));
    let mut best: Option<(usize, Narrower)> = None;
    for (into, place) in places {
        let elsewhere = Intent {
            into: place,
            ..intent.clone()
        };
        let tried = before.make(page, &elsewhere).ok();
        let imagined = tried.and_then(|edit| before.imagined(edit).ok());
        let Some(there) = imagined.and_then(|site| effect(before, &site, options).ok()) else {
            continue;
        };
        let does = |effect: &Effect| {
            let aimed = effect.groups.iter().filter(|g| g.aimed && g.now);
            aimed.map(|g| g.elements.len()).sum::<usize>()
        };
        let rest = there.side_effects().count();
        if does(&there) < does(moved) || rest >= best.as_ref().map_or(others, |(rest, _)| *rest) {
            continue;
        }
        best = Some((
            rest,
            Narrower {
                into,
                others: there.side_effects_in_words(),
            },
        ));
        if rest == 0 {
            break;
        }
    }
    best.map(|(_, narrower)| narrower)
}
