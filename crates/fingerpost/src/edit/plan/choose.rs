//! The selector of a new rule: the shortest for some elements that is strong enough.
//!
//! Selectors are built as selectors and printed, and whatever is chosen is matched against its
//! elements before it is used.

use crate::cascade::{LayerOrder, Origin};
use crate::edit::error::EditError;
use crate::edit::expected::Declared;
use crate::edit::plan::opponent::opponent;
use crate::edit::plan::rule_at::property;
use crate::markup::ElementId;
use crate::page::{Page, Styles, Target};
use crate::question::selectors::{candidates, stronger};
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
    pub unwanted: usize,
    pub hashed: bool,
}

/// The shortest selector for some targets that is strong enough. `asked` is what the elements were
/// asked for with, all of them: it reaches just them, where nothing else does.
pub(in crate::edit) fn chosen(
    page: &Page,
    targets: &[Target],
    least: Option<Specificity>,
    asked: Option<&str>,
) -> Result<Chosen, EditError> {
    let mut wanted: Vec<ElementId> = targets.iter().map(|t| t.element).collect();
    wanted.sort();
    wanted.dedup();
    let ending = targets
        .first()
        .map_or_else(Ending::default, |t| Ending::of(page, t));
    let mut all = candidates(page, &wanted);
    // Such a rule is there for the whole site: tags alone come last.
    all.sort_by_key(|m| {
        (
            !m.unwanted.is_empty(),
            m.hashed,
            m.counts,
            m.meaning,
            m.is_bare(),
        )
    });
    let weakest = |list: &SelectorList| list.selectors.iter().map(|s| s.specificity).min();
    let enough = |list: &SelectorList| {
        least.is_none_or(|least| weakest(list).is_some_and(|weight| weight >= least))
    };
    let asked = asked.and_then(|text| SelectorList::parse(text).ok());
    let asked = asked.filter(|list| list.selectors.iter().all(|s| s.pseudo_element.is_none()));
    let exact = all.first().is_some_and(|m| m.unwanted.is_empty());
    let (list, shortest, unwanted, hashed) = match (asked, all.first()) {
        (Some(list), _) if !exact => {
            let ended = ending.put_on(&list)?;
            (raised(ended.clone(), &enough), ended, 0, false)
        }
        (_, None) => return Err(EditError::NoElement),
        (_, Some(first)) => {
            let ended = ending.put_on(&first.list)?;
            // Just enough: of those that are, the least specific.
            let mut strong = Vec::new();
            for made in all
                .iter()
                .filter(|m| m.unwanted.is_empty() == first.unwanted.is_empty())
            {
                let list = ending.put_on(&made.list)?;
                if enough(&list) {
                    strong.push((made, list));
                }
            }
            if enough(&ended) {
                (ended.clone(), ended, first.unwanted.len(), first.hashed)
            } else if let Some((made, list)) =
                strong.into_iter().min_by_key(|(made, _)| made.specificity)
            {
                (list, ended, made.unwanted.len(), made.hashed)
            } else if let Some(list) = stronger(page, &wanted, &|list| {
                ending.put_on(list).is_ok_and(|ended| enough(&ended))
            }) {
                (ending.put_on(&list)?, ended, 0, false)
            } else {
                let unwanted = first.unwanted.len();
                (
                    raised(ended.clone(), &enough),
                    ended,
                    unwanted,
                    first.hashed,
                )
            }
        }
    };
    let (selector, shortest) = (list.to_string(), shortest.to_string());
    matches_all(page, &wanted, &selector)?;
    Ok(Chosen {
        raised: selector != shortest,
        shortest,
        selector,
        unwanted,
        hashed,
    })
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
