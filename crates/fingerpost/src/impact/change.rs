//! What one change did, from two states of a site: values, rules, reach, and whether it wins.

use serde::{Deserialize, Serialize};

use crate::advice::Advice;
use crate::edit::{Change, Destination, DestinationKind, Edit, Intent, Pages, declared, kinds};
use crate::impact::class_for::classes_for;
use crate::impact::page::pairs;
use crate::impact::site::{Effect, ImpactOptions, RuleEffect, effect};
use crate::markup::{ElementId, Pairs};
use crate::page::{Page, PropertyName, Target};
use crate::question::codes::ContenderStanding;
use crate::question::element_states::ElementStates;
use crate::question::find::elements;
use crate::question::why::{WhyAnswer, why};
use crate::question::whynot::class_of_winner;
use crate::question::{ElementSummary, RuleSummary};
use crate::site::{Site, SiteError};

/// How many of several elements are asked whether a new declaration wins.
const MOST_ASKED: usize = 200;

/// What an edit did.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct EditDetails {
    /// The elements that it is about, as they were.
    pub elements: Vec<ElementSummary>,
    /// The edit.
    pub edit: Edit,
    /// The properties that it is about, as they are now, for the first of the elements.
    pub why: Vec<WhyAnswer>,
    /// The rules that apply to one of the elements now and did not before.
    pub gained: Vec<RuleSummary>,
    /// Those that applied and don't now.
    pub lost: Vec<RuleSummary>,
    /// What was asked for and does not win, with what does.
    pub beaten: Vec<String>,
    /// How many elements of the page a changed rule matches, before and after.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub reach: Option<Reach>,
}

/// How many elements of a page a rule reaches.
#[derive(Debug, Deserialize, Serialize)]
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

/// Two states of a site, without a change and with it, and what the change was made from.
pub(crate) struct Made<'a> {
    pub before: &'a Site,
    pub after: &'a Site,
    /// The page that it was made on, with its elements in their assumed states.
    pub page: &'a Page,
    pub targets: &'a [Target],
    pub edit: &'a Edit,
    pub element_states: &'a ElementStates,
}

impl Made<'_> {
    /// Another class of looks for the element, where the change was made in the rule of one, and moved all that have it.
    fn swapped(&self, moved: &Effect) -> Option<Advice> {
        let Made {
            before,
            page,
            targets,
            edit,
            element_states,
            ..
        } = *self;
        let ([target], Change::Set(set)) = (targets, &edit.intent.change) else {
            return None;
        };
        if moved.is_nothing() || moved.side_effects().count() == 0 {
            return None;
        }
        let name = PropertyName::named(&set.property)?;
        class_of_winner(&page.styles(), target, &name)?;
        let set = (&*set.property, &*set.value);
        let mut found = classes_for(before, page, target, set, element_states, 1).into_iter();
        Some(found.next()?.advice)
    }

    /// What the change did, and what it changes over the site or on its page.
    pub fn told(&self, only_here: bool) -> Result<(EditDetails, Effect, Vec<Advice>), SiteError> {
        let Made {
            before,
            after: view,
            page,
            targets,
            edit,
            element_states,
        } = *self;
        let intent = &edit.intent;
        let asked: Vec<ElementId> = targets.iter().map(|t| t.element).collect();
        let plain = view.reparse_page(page)?;
        let name = page.document().text().name().to_owned();
        let (pairs, _) = pairs(page, &plain, edit.patch_of(&name));
        let now: Vec<ElementId> = asked.iter().filter_map(|id| pairs.after(*id)).collect();
        let resting = self.resting(&plain, &pairs)?;
        let after = element_states
            .on_what_is_left(&plain, &now)
            .unwrap_or(plain);

        let aimed = |other: &Page| match other.document().text().name() == name {
            true => other.document().carry_all(page.document(), &asked),
            false => aimed_elsewhere(other, intent),
        };
        let options = ImpactOptions {
            page: Some(&name),
            environment: page.environment(),
            element_states,
            only_here,
            aimed: &aimed,
        };
        let mut moved = effect(before, view, &options)?;
        moved.notes.extend(resting);
        let styles = after.styles();
        let aimed_now: Vec<Target> = targets
            .iter()
            .filter_map(|t| {
                Some(Target {
                    element: pairs.after(t.element)?,
                    pseudo: t.pseudo.clone(),
                })
            })
            .collect();
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
        let details = EditDetails {
            beaten: beaten(&styles, &aimed_now, &intent.change),
            elements: targets
                .iter()
                .map(|t| ElementSummary::of_target(page, t))
                .collect(),
            gained: of_asked(&|r| is_asked(&r.gained, &after, &now)),
            lost: of_asked(&|r| is_asked(&r.lost, page, &asked)),
            why,
            reach: reach(page, &after, edit, &pairs),
            edit: edit.clone(),
        };
        let mut advice: Vec<Advice> = self
            .only_in_the_state(&details, &moved)
            .into_iter()
            .collect();
        if !only_here {
            advice.extend(self.swapped(&moved));
        }
        advice.extend(narrower(before, page, intent, &options, &moved));
        Ok((details, moved, advice))
    }

    /// The states that the elements were assumed to be in, as selectors have them.
    fn states(&self) -> String {
        let states = self.element_states.asked.iter();
        states.map(ToString::to_string).collect()
    }

    /// That a change that was asked for in a state changes the element outside of it too. `after` is the page without the state.
    fn resting(&self, after: &Page, pairs: &Pairs) -> Result<Option<String>, SiteError> {
        let Some(target) = self
            .targets
            .first()
            .filter(|_| !self.element_states.asked.is_empty())
        else {
            return Ok(None);
        };
        let before = self.before.reparse_page(self.page)?;
        let (Some(was), Some(is)) = (before.carry(self.page, target), pairs.after(target.element))
        else {
            return Ok(None);
        };
        let is = Target {
            element: is,
            pseudo: target.pseudo.clone(),
        };
        let value = |page: &Page, target: &Target, name: &PropertyName| {
            page.styles().value(target, name).computed.text().to_owned()
        };
        let changes = |name: &PropertyName| value(&before, &was, name) != value(after, &is, name);
        let changed = properties(&self.edit.intent.change).iter().any(changes);
        Ok(changed.then(|| {
            let label = ElementSummary::of_target(self.page, target).label();
            format!(
                "{label} also changes where it is not in {}: {RESTING}",
                self.states()
            )
        }))
    }

    /// The same change in a rule of the state alone, where it changes more than that.
    fn only_in_the_state(&self, details: &EditDetails, moved: &Effect) -> Option<Advice> {
        let intent = &self.edit.intent;
        let Change::Set(kinds::Set { property, value }) = &intent.change else {
            return None;
        };
        moved.notes.iter().find(|note| note.ends_with(RESTING))?;
        let contest = details.why.first()?.contests.first()?;
        let selector = &contest.contenders.first()?.declaration.rule.selector;
        // A state stands before a pseudo-element, and behind each selector of a list.
        if selector.contains([',', ':', '&']) {
            return None;
        }
        let states = self.states();
        let rule = kinds::Rule {
            declarations: format!("{property}: {value}"),
            selector: Some(format!("{selector}{states}")),
        };
        let intent = Intent {
            change: rule.into(),
            ..intent.clone()
        };
        Some(Advice::edit(
            "state-rule",
            format!("change it in {states} alone, in a new rule"),
            intent,
        ))
    }
}

/// Why a change that was asked for in a state reaches beyond it.
const RESTING: &str = "the rule that sets it names no state";

/// The elements of another page than its own that an intent is about.
fn aimed_elsewhere(page: &Page, intent: &Intent) -> Vec<ElementId> {
    let name = page.document().text().name();
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
fn reach(before: &Page, after: &Page, edit: &Edit, pairs: &Pairs) -> Option<Reach> {
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

/// Whether the same change elsewhere has fewer side effects: tried before it is said.
fn narrower(
    before: &Site,
    page: &Page,
    intent: &Intent,
    options: &ImpactOptions<'_>,
    moved: &Effect,
) -> Option<Advice> {
    let count = moved.side_effects().count();
    if options.only_here || count == 0 || !intent.into.is_default() || intent.change.is_markup() {
        return None;
    }
    let takes = |kind: DestinationKind| intent.change.info().destinations.contains(&kind);
    let there = |into: Destination| Intent {
        into,
        ..intent.clone()
    };
    let mut ways: Vec<(&str, &str, Intent)> = Vec::new();
    if before.config().overrides.is_some() && takes(DestinationKind::Overrides) {
        let elsewhere = there(Destination::Overrides);
        ways.push(("override-sheet", "in the override sheet", elsewhere));
    }
    if let Change::Set(set) = &intent.change {
        let own = kinds::Rule {
            selector: None,
            declarations: format!("{}: {}", set.property, set.value),
        };
        let elsewhere = Intent {
            change: own.into(),
            ..intent.clone()
        };
        ways.push(("new-rule", "in a new rule", elsewhere));
    }
    if takes(DestinationKind::Inline) {
        let elsewhere = there(Destination::Inline);
        ways.push(("inline", "in the style attribute", elsewhere));
    }
    let mut best: Option<(usize, Advice)> = None;
    for (code, words, elsewhere) in ways {
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
        if does(&there) < does(moved) || rest >= best.as_ref().map_or(count, |(rest, _)| *rest) {
            continue;
        }
        let mut advice = Advice::edit(code, format!("make the change {words}"), elsewhere);
        advice.tried = true;
        advice.side_effects = there.side_effects_in_words();
        best = Some((rest, advice));
        if rest == 0 {
            break;
        }
    }
    best.map(|(_, advice)| advice)
}
