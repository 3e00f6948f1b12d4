//! The selector of a new rule: the best for some elements that is strong enough. What finds elements on other pages comes behind what
//! does not, then classes of looks, then places among siblings.
//!
//! Selectors are built as selectors and printed, and whatever is chosen is matched against its
//! elements before it is used.

use crate::cascade::{LayerOrder, Origin};
use crate::edit::error::EditError;
use crate::edit::expected::Declared;
use crate::edit::plan::opponent::opponent;
use crate::edit::plan::rule_at::property;
use crate::edit::proposal::At;
use crate::markup::{Document, ElementId};
use crate::page::{Page, Styles, Target};
use crate::question::Meaning;
use crate::question::selectors::{Made, candidates, reached_on, stronger};
use crate::selector::{
    Action, FormState, Matcher, PseudoClass, PseudoElement, SelectorList, Simple, Specificity,
    State,
};
use crate::text::TextRange;

/// The least specificity with which declarations of a rule behind all others win.
pub(in crate::edit) fn needed(
    styles: &Styles<'_>,
    targets: &[Target],
    declarations: &[Declared],
) -> Option<Specificity> {
    let names = declarations.iter().filter_map(|d| property(&d.name).ok());
    let all = names.flat_map(|name| {
        let opponents = targets.iter().filter_map(|t| opponent(styles, t, &name));
        opponents.collect::<Vec<_>>()
    });
    all.filter(|o| o.rank.origin == Origin::Author && !o.rank.attached)
        .filter(|o| o.rank.layer == LayerOrder::UNLAYERED)
        .map(|o| o.rank.specificity)
        .max()
}

/// The selector of a new rule.
pub(in crate::edit) struct Chosen {
    pub selector: String,
    /// The shortest one, whatever its strength.
    pub shortest: String,
    pub raised: bool,
    unwanted: usize,
    hashed: bool,
    /// Whether it counts siblings.
    counts: bool,
}

impl Chosen {
    fn new(made: &Made, list: &SelectorList, shortest: &SelectorList) -> Chosen {
        let (selector, shortest) = (list.to_string(), shortest.to_string());
        Chosen {
            raised: selector != shortest,
            selector,
            shortest,
            unwanted: made.unwanted.len(),
            hashed: made.hashed,
            counts: made.counts,
        }
    }

    /// What a person should know about it.
    pub fn warnings(&self) -> Vec<String> {
        let selector = &self.selector;
        let unwanted = (self.unwanted > 0).then(|| {
            let elements = counted(self.unwanted, "element");
            format!("{selector} also matches {elements} that were not named")
        });
        let hashed = self
            .hashed
            .then(|| format!("{selector} is made of a name that a program made up; it may change"));
        let counts = self.counts.then(|| {
            format!(
                "{selector} finds its element by its place among others; it finds another one when \
                 they change. A new class would last"
            )
        });
        unwanted.into_iter().chain(hashed).chain(counts).collect()
    }
}

/// `1 element`, `3 elements`.
fn counted(count: usize, what: &str) -> String {
    let ending = if count == 1 { "" } else { "s" };
    format!("{count} {what}{ending}")
}

/// What a selector reaches on other pages of the site.
pub(in crate::edit) fn on_other_pages(at: &At<'_, '_>, selector: &str) -> Option<String> {
    let list = SelectorList::parse(selector).ok()?;
    let here = at.page().document().text().name();
    let reached = reached_on(&list, at.around.pages.others(here));
    let reached: Vec<usize> = reached.into_iter().filter(|count| *count > 0).collect();
    let total: usize = reached.iter().sum();
    (total > 0).then(|| {
        format!(
            "{selector} also matches {} on {}",
            counted(total, "element"),
            counted(reached.len(), "other page")
        )
    })
}

/// The best selector for some targets that is strong enough.
pub(in crate::edit) fn chosen(
    at: &At<'_, '_>,
    targets: &[Target],
    least: Option<Specificity>,
) -> Result<Chosen, EditError> {
    let here = at.page().document().text().name();
    let others: Vec<&Document> = at.around.pages.others(here).collect();
    chosen_on(at.page(), targets, least, at.selector_asked_for(), &others)
}

/// The same, over other pages of the site. `asked` is what the elements were asked for with: it comes first where it finds just
/// them on all pages.
pub(in crate::edit) fn chosen_on(
    page: &Page,
    targets: &[Target],
    least: Option<Specificity>,
    asked: Option<&str>,
    others: &[&Document],
) -> Result<Chosen, EditError> {
    let mut wanted: Vec<ElementId> = targets.iter().map(|t| t.element).collect();
    wanted.sort();
    wanted.dedup();
    let ending = targets
        .first()
        .map_or_else(Ending::default, |t| Ending::of(page, t));
    let all = ranked(candidates(page, &wanted, asked), asked, others);
    let weakest = |list: &SelectorList| list.selectors.iter().map(|s| s.specificity).min();
    let enough = |list: &SelectorList| {
        least.is_none_or(|least| weakest(list).is_some_and(|weight| weight >= least))
    };
    let (first_rank, first) = all.first().ok_or(EditError::NoElement)?;
    let shortest = ending.put_on(&first.list)?;
    let known = |made: &Made, list: &SelectorList| Chosen::new(made, list, &shortest);
    let found = if enough(&shortest) {
        known(first, &shortest)
    } else {
        // Just enough: of those that are as good otherwise, the least specific.
        let mut strong = Vec::new();
        let exact = first.unwanted.is_empty();
        for (rank, made) in all.iter().filter(|(_, m)| m.unwanted.is_empty() == exact) {
            let list = ending.put_on(&made.list)?;
            if enough(&list) {
                strong.push(((rank.fault, made.specificity), made, list));
            }
        }
        let strong = strong.into_iter().min_by_key(|(key, ..)| *key);
        match strong {
            Some(((fault, _), made, list)) if fault <= first_rank.fault => known(made, &list),
            strong => match stronger(page, &wanted, &|list| {
                ending.put_on(list).is_ok_and(|ended| enough(&ended))
            }) {
                Some(list) => Chosen {
                    unwanted: 0,
                    hashed: false,
                    counts: false,
                    ..known(first, &ending.put_on(&list)?)
                },
                None => match strong {
                    Some((_, made, list)) if !made.counts => known(made, &list),
                    _ => known(first, &raised(shortest.clone(), &enough)),
                },
            },
        }
    };
    matches_all(page, &wanted, &found.selector)?;
    Ok(found)
}

/// How many selectors are counted on the other pages: the best ones.
const MOST_COUNTED: usize = 24;

/// How good a selector is for a rule that is there for the whole site, the better the smaller.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
struct SelectorRank {
    fault: Fault,
    was_not_asked: bool,
    meaning: Meaning,
    /// Tags alone say little.
    is_bare: bool,
}

/// What speaks against a selector, the worst last.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
enum Fault {
    None,
    /// It finds elements on other pages.
    ReachesOthers,
    /// It is made of a class that says how something looks, and that unlike elements get.
    Utility,
    Counts,
    Hashed,
    Unwanted,
}

/// Whether a selector ends in a tag beside a name, such as `h2.today`.
fn has_needless_tag(made: &Made) -> bool {
    made.list.selectors.iter().any(|selector| {
        let simples = &selector.subject().simples;
        let has = |test: fn(&Simple) -> bool| simples.iter().any(|(simple, _)| test(simple));
        has(|s| matches!(s, Simple::Type { .. }))
            && has(|s| matches!(s, Simple::Class(_) | Simple::Id(_)))
    })
}

/// The candidates with their ranks, the best first.
fn ranked(
    mut all: Vec<Made>,
    asked: Option<&str>,
    others: &[&Document],
) -> Vec<(SelectorRank, Made)> {
    let of_page = |made: &Made| {
        if !made.unwanted.is_empty() {
            Fault::Unwanted
        } else if made.hashed {
            Fault::Hashed
        } else if made.counts {
            Fault::Counts
        } else if made.meaning >= Meaning::Utility {
            Fault::Utility
        } else {
            Fault::None
        }
    };
    let rank = |made: &Made, fault| SelectorRank {
        fault,
        was_not_asked: asked != Some(&*made.selector) || made.is_bare() || has_needless_tag(made),
        meaning: made.meaning,
        is_bare: made.is_bare(),
    };
    all.sort_by_key(|made| rank(made, of_page(made)));
    let of_site = |(at, made): (usize, Made)| {
        let mut fault = of_page(&made);
        let is_counted = fault == Fault::None && at < MOST_COUNTED;
        if is_counted
            && reached_on(&made.list, others.iter().copied())
                .iter()
                .any(|n| *n > 0)
        {
            fault = Fault::ReachesOthers;
        }
        (rank(&made, fault), made)
    };
    let mut all: Vec<(SelectorRank, Made)> = all.into_iter().enumerate().map(of_site).collect();
    all.sort_by_key(|(rank, _)| *rank);
    all
}

/// That a selector, read again as it will be written, matches all elements that it was made for.
fn matches_all(page: &Page, wanted: &[ElementId], selector: &str) -> Result<(), EditError> {
    let mut again = SelectorList::parse(selector).map_err(|error| EditError::InvalidSelector {
        selector: selector.to_owned(),
        problem: error.to_string(),
    })?;
    // A pseudo-element is one of the element that the rest matches.
    for part in &mut again.selectors {
        part.pseudo_element = None;
    }
    let matcher = Matcher::new(page.document(), page.states());
    let Some(missed) = wanted.iter().find(|id| !matcher.matches_list(&again, **id)) else {
        return Ok(());
    };
    let start = page.document().element(*missed).start_tag.start();
    Err(EditError::Unintended {
        place: page.document().text().place(start).to_string(),
        why: format!("the selector {selector} would not match it"),
    })
}

/// How often a simple selector is repeated at most to raise a selector; what needs more is left as
/// it is.
const MOST_REPEATS: usize = 8;

/// A selector made stronger, which changes nothing of what it reaches: by repeating its last class, or
/// where it has none, by what every element without a certain id matches.
fn raised(list: SelectorList, enough: &dyn Fn(&SelectorList) -> bool) -> SelectorList {
    let padding = SelectorList::parse(":not(#no-such-id)").ok();
    let padding = padding.as_ref().and_then(|list| list.selectors.first());
    let padding = padding.and_then(|selector| selector.subject().simples.first());
    let Some((padding, _)) = padding else {
        return list;
    };
    for with_class in [true, false] {
        let mut tried = list.clone();
        for _ in 0..MOST_REPEATS {
            for selector in &mut tried.selectors {
                let Some((_, subject)) = selector.compounds.last_mut() else {
                    continue;
                };
                let class = subject
                    .simples
                    .iter()
                    .rev()
                    .find_map(|(simple, _)| match simple {
                        Simple::Class(_) if with_class => Some(simple.clone()),
                        _ => None,
                    });
                let more = match class {
                    Some(class) => class,
                    None if with_class => continue,
                    None => padding.clone(),
                };
                // Before the states, which stand at the end.
                let at = subject
                    .simples
                    .iter()
                    .position(|(simple, _)| matches!(simple, Simple::PseudoClass(_)))
                    .unwrap_or(subject.simples.len());
                subject.simples.insert(at, (more, TextRange::default()));
            }
            let Ok(weighed) = SelectorList::parse(&tried.to_string()) else {
                break;
            };
            if enough(&weighed) {
                return weighed;
            }
            tried = weighed;
        }
    }
    list
}

/// The states that a target is assumed to be in, and its pseudo-element: what a selector for it
/// ends in.
#[derive(Default)]
struct Ending {
    states: Vec<Simple>,
    pseudo: Option<PseudoElement>,
}

impl Ending {
    fn of(page: &Page, target: &Target) -> Ending {
        let has = |state: State| page.states().has(target.element, state);
        let focus = if has(State::Action(Action::FocusVisible)) {
            Action::FocusVisible
        } else {
            Action::Focus
        };
        let actions = [
            Action::Hover,
            Action::Active,
            focus,
            Action::Target,
            Action::Visited,
        ];
        let mut states: Vec<Simple> = actions
            .into_iter()
            .filter(|action| has(State::Action(*action)))
            .map(|action| Simple::PseudoClass(PseudoClass::Action(action)))
            .collect();
        if has(State::Form(FormState::Checked)) {
            states.push(Simple::PseudoClass(PseudoClass::Form(FormState::Checked)));
        }
        Ending {
            states,
            pseudo: target.pseudo.clone(),
        }
    }

    /// Every selector of a list with the ending.
    fn put_on(&self, list: &SelectorList) -> Result<SelectorList, EditError> {
        let mut ended = list.clone();
        for selector in &mut ended.selectors {
            if let Some((_, subject)) = selector.compounds.last_mut() {
                let states = self.states.iter().cloned();
                subject
                    .simples
                    .extend(states.map(|simple| (simple, TextRange::default())));
            }
            selector.pseudo_element.clone_from(&self.pseudo);
        }
        // Its specificity is worked out again.
        let text = ended.to_string();
        SelectorList::parse(&text).map_err(|error| EditError::InvalidSelector {
            selector: text,
            problem: error.to_string(),
        })
    }
}
