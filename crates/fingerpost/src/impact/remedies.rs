//! `whynot` over a site: what would win is tried on the site before it is offered, and says what else it
//! changes. The remedies that the page alone gives are right by their ranks only.
//!
//! ```
//! use fingerpost::prelude::*;
//! use fingerpost::question::whynot::Asked;
//! use fingerpost::question::element_states::ElementStates;
//! use fingerpost::impact::remedies::tried;
//!
//! # let folder = tempfile::tempdir()?;
//! # std::fs::write(folder.path().join("fingerpost.toml"), "fingerpost = 2\n")?;
//! # std::fs::write(folder.path().join("a.css"), "p { color: teal } .today p { color: navy }")?;
//! # for page in ["a.html", "b.html"] {
//! #     let html = "<link rel=stylesheet href=a.css><p>Boats<div class=today><p>Fares</div>";
//! #     std::fs::write(folder.path().join(page), html)?;
//! # }
//! // `a.css` has `p { color: teal }` and `.today p { color: navy }`.
//! let site = Site::of_folder(folder.path())?;
//! let page = site.page("a.html", Environment::default())?;
//! let target = page.ask().find_one(".today p")?;
//! let text = "p";
//! let answer = tried(&site, &page, &target, &Asked::parse(text), text, &ElementStates::default())?;
//!
//! let finding = &answer.answer.findings[0];
//! assert_eq!(finding.obstacles[0].kind.as_str(), "beaten");
//! // Each remedy was applied to the site, and won there.
//! assert!(answer.advice.iter().all(|advice| advice.tried));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use serde::{Deserialize, Serialize};

use crate::advice::{Action, Advice};
use crate::edit::{Change, Destination, Intent, kinds, selectors_at};
use crate::impact::class_for::classes_for;
use crate::impact::site::{ImpactOptions, effect};
use crate::markup::ElementId;
use crate::page::{Page, PropertyName, Target};
use crate::question::codes::ContenderStanding;
use crate::question::element_states::ElementStates;
use crate::question::find::ElementQuery;
use crate::question::why::why;
use crate::question::whynot::{self, Asked, Remedy, Step, Trial, WhyNotAnswer, WhyNotError};
use crate::selector::SelectorList;
use crate::site::{Site, View};

/// For so many rules what would win is tried.
const MOST_HELPED: usize = 2;

/// So many classes that would do it are offered.
const MOST_CLASSES: usize = 2;

/// So many remedies of each are tried.
const MOST_TRIED: usize = 8;

/// Why something does nothing for a target, with what would win, tried: the best is what changes the least
/// of the rest.
///
/// # Errors
/// Where the place that is asked about is none.
pub fn tried(
    site: &Site,
    page: &Page,
    target: &Target,
    asked: &Asked,
    text: &str,
    element_states: &ElementStates,
) -> Result<WhyNotReport, WhyNotError> {
    let elsewhere = site.inventory();
    let mut answer = whynot::whynot(&page.styles(), target, asked, text, &elsewhere)?;
    let trials = Trials {
        site,
        page,
        target,
        element_states,
    };
    let mut helped = 0;
    let mut advice = in_states(&answer, page, target);
    for finding in &mut answer.findings {
        let mut remedies = std::mem::take(&mut finding.remedies);
        helped += usize::from(!remedies.is_empty());
        if helped > MOST_HELPED {
            continue;
        }
        remedies.truncate(MOST_TRIED);
        let kept = remedies
            .into_iter()
            .filter_map(|remedy| trials.tried(remedy));
        let mut kept: Vec<Trialed> = kept.collect();
        kept.sort_by_key(|(others, remedy, _)| {
            let untouched = remedy.trial.as_ref().map_or(0, |t| t.untouched.len());
            (remedy.test_only, remedy.trial.is_none(), *others, untouched)
        });
        let helps = kept.iter().filter(|(.., edits)| !edits.is_empty());
        advice.extend(helps.map(|(_, remedy, edits)| advice_of(remedy, edits)));
        finding.remedies = kept.into_iter().map(|(_, remedy, _)| remedy).collect();
    }
    if let Asked::Declaration { property, value } = asked
        && !answer.holds
    {
        let set = (&**property, &**value);
        let classes = classes_for(site, page, target, set, element_states, MOST_CLASSES);
        advice.extend(classes.into_iter().map(|one| one.advice));
    }
    Ok(WhyNotReport { answer, advice })
}

/// An answer with what to do about it.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct WhyNotReport {
    /// The answer.
    #[serde(flatten)]
    pub answer: WhyNotAnswer,
    /// What to do, the best first: each was tried.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub advice: Vec<Advice>,
}

/// A remedy that was tried: how many other elements it changes, and the edits that it is made of.
type Trialed = (usize, Remedy, Vec<Intent>);

fn advice_of(remedy: &Remedy, edits: &[Intent]) -> Advice {
    let action = Action::Edit {
        edits: edits.to_vec(),
    };
    let mut advice = Advice::new(remedy.kind.as_str(), &remedy.sentence, action);
    advice.test_only = remedy.test_only;
    if let Some(trial) = &remedy.trial {
        advice.tried = true;
        advice.side_effects.clone_from(&trial.others);
        advice.unchanged.clone_from(&trial.untouched);
    }
    advice
}

/// To ask again in the states that selectors need.
fn in_states(answer: &WhyNotAnswer, page: &Page, target: &Target) -> Vec<Advice> {
    let obstacles = answer
        .findings
        .iter()
        .flat_map(|finding| &finding.obstacles);
    let asked = ElementQuery::naming(page.document(), target).to_string();
    let mut advice: Vec<Advice> = Vec::new();
    for obstacle in obstacles.filter(|obstacle| !obstacle.states.is_empty()) {
        let states: Vec<&str> = obstacle.states.iter().map(|s| &*s.state).collect();
        let known = Advice::new(
            "in-state",
            format!("ask again in the state {}", states.join(" ")),
            Action::AskInState {
                asked: asked.clone(),
                element: asked.clone(),
                states: obstacle.states.clone(),
            },
        );
        if !advice.contains(&known) {
            advice.push(known);
        }
    }
    advice
}

/// What changes are tried for.
#[derive(Clone, Copy)]
pub(super) struct Trials<'a> {
    pub site: &'a Site,
    /// The page, with elements in the states that are assumed.
    pub page: &'a Page,
    pub target: &'a Target,
    pub element_states: &'a ElementStates,
}

impl Trials<'_> {
    /// The remedy with what trying it showed, and how many other elements it changes; none where it does not
    /// help. One that no edit does stays as it is.
    fn tried(&self, remedy: Remedy) -> Option<Trialed> {
        if remedy.steps.is_empty() {
            return Some((0, remedy, Vec::new()));
        }
        let more = one_selector_more(&remedy);
        let changed = self.trial(remedy);
        // A selector that takes the place of another one leaves what only that one found.
        match (changed, more) {
            (Some(changed @ (0, ..)), _) => Some(changed),
            (changed, Some(more)) => {
                let added = self.trial(more);
                let both = [changed, added].into_iter().flatten();
                both.min_by_key(|(others, ..)| *others)
            }
            (changed, None) => changed,
        }
    }

    fn trial(&self, mut remedy: Remedy) -> Option<Trialed> {
        let (view, page, edits) = self.after(&remedy)?;
        if !self.wins(&page, &remedy.wants) {
            return None;
        }
        let options = ImpactOptions {
            page: Some(self.page.document().text().name()),
            environment: self.page.environment(),
            element_states: self.element_states,
            only_here: false,
            aimed: &|page: &Page| self.aimed(page),
        };
        let effect = effect(self.site, &view, &options).ok()?;
        remedy.trial = Some(Trial {
            others: effect.side_effects_in_words(),
            untouched: effect.untouched.clone(),
        });
        Some((effect.side_effects().count(), remedy, edits))
    }

    /// The asked element, on its own page only.
    pub fn aimed(&self, page: &Page) -> Vec<ElementId> {
        let own = self.page.document();
        match page.document().text().name() == own.text().name() {
            true => page.document().carry_all(own, &[self.target.element]),
            false => Vec::new(),
        }
    }

    /// A page after a change, with elements in the states that are assumed; none where the asked element is gone.
    pub fn in_states(&self, plain: Page) -> Option<Page> {
        let element = self.element_on(&plain)?;
        let states = self.element_states;
        Some(states.on_what_is_left(&plain, &[element]).unwrap_or(plain))
    }

    /// The site and the page after all steps of a remedy.
    fn after(&self, remedy: &Remedy) -> Option<(View, Page, Vec<Intent>)> {
        let mut now: Option<(View, Page)> = None;
        let mut intents = Vec::new();
        for step in &remedy.steps {
            let (site, page) = match &now {
                Some((view, page)) => (&**view, page),
                None => (self.site, self.page),
            };
            let intent = self.intent(page, step, remedy)?;
            let edit = site.make(page, &intent).ok()?;
            let view = site.imagined(edit).ok()?;
            let after = self.in_states(view.reparse_page(page).ok()?)?;
            now = Some((view, after));
            intents.push(intent);
        }
        now.map(|(view, page)| (view, page, intents))
    }

    /// The asked element on the page after a change.
    pub fn element_on(&self, page: &Page) -> Option<ElementId> {
        page.document()
            .carry(self.page.document(), self.target.element)
    }

    fn intent(&self, page: &Page, step: &Step, remedy: &Remedy) -> Option<Intent> {
        let (property, value) = remedy.wants.first()?;
        let property = property.clone();
        let mut into = Destination::Sources;
        let change: Change = match step {
            Step::MoveAfter { rule, other } => kinds::MoveRule {
                rule: rule.into(),
                beside: kinds::Beside::After(other.into()),
            }
            .into(),
            Step::Selector { rule, from, to } => kinds::Selector {
                rule: rule.into(),
                how: kinds::SelectorChange::To(with_other(
                    &selectors_at(page, &rule.into())?,
                    from,
                    to,
                )),
            }
            .into(),
            Step::AddSelector { rule, selector } => kinds::Selector {
                rule: rule.into(),
                how: kinds::SelectorChange::Add(selector.clone()),
            }
            .into(),
            Step::NewRule { selector } => kinds::Rule {
                selector: Some(selector.clone()),
                declarations: format!("{property}: {value}"),
            }
            .into(),
            Step::RemoveImportant { at } | Step::Mark { at } => {
                into = at.into();
                let remove = !matches!(step, Step::Mark { .. });
                kinds::Important { property, remove }.into()
            }
            Step::RemoveAt { at } => {
                into = at.into();
                kinds::RemoveDeclaration { property }.into()
            }
            Step::Put { rule } => {
                into = rule.into();
                Change::add(&property, value)
            }
            Step::RemoveClass { class } => kinds::Class {
                changes: vec![format!("-{class}")],
            }
            .into(),
            Step::RemoveInline => {
                into = Destination::Inline;
                kinds::RemoveDeclaration { property }.into()
            }
        };
        let index = self.page.document().element(self.target.element).index;
        let name = page.document().text().name();
        let mut intent = Intent::new(name, &format!("@{index}"), change);
        // A place says which declaration is meant, also one of a pseudo-element.
        if self.target.pseudo.is_some() && matches!(into, Destination::Rule(_)) {
            intent.element = None;
        }
        Some(Intent { into, ..intent })
    }

    /// Whether the declarations win now; of several at least one that did not before.
    pub fn wins(&self, page: &Page, wants: &[(String, String)]) -> bool {
        let styles = page.styles();
        let Some(element) = self.element_on(page) else {
            return false;
        };
        let target = Target {
            element,
            pseudo: self.target.pseudo.clone(),
        };
        let fold = |text: &str| text.split_whitespace().collect::<Vec<_>>().join(" ");
        wants.iter().any(|(property, value)| {
            let Some(name) = PropertyName::named(property) else {
                return false;
            };
            let answer = why(&styles, &target, &name);
            answer.contests.iter().all(|contest| {
                let winner = contest
                    .contenders
                    .iter()
                    .find(|c| c.standing == ContenderStanding::Wins);
                winner.is_some_and(|winner| {
                    winner.declaration.property.eq_ignore_ascii_case(property)
                        && fold(&winner.declaration.value) == fold(value)
                })
            })
        })
    }
}

/// The same remedy with its selector beside the one that it would take the place of.
fn one_selector_more(remedy: &Remedy) -> Option<Remedy> {
    let mut more = remedy.clone();
    let [Step::Selector { rule, to, .. }, ..] = &remedy.steps[..] else {
        return None;
    };
    more.steps[0] = Step::AddSelector {
        rule: rule.clone(),
        selector: to.clone(),
    };
    let rest = remedy.sentence.strip_prefix("raise its selector to ")?;
    more.sentence = format!("give it one more selector, {rest}");
    Some(more)
}

/// A selector list with one of its selectors replaced.
fn with_other(list: &str, from: &str, to: &str) -> String {
    let printed = |text: &str| SelectorList::parse(text).map(|list| list.to_string());
    let (Ok(all), Ok(from)) = (SelectorList::parse(list), printed(from)) else {
        return to.to_owned();
    };
    let members = all.selectors.iter().map(|selector| {
        let one = SelectorList {
            selectors: vec![selector.clone()],
        };
        match one.to_string() {
            text if text == from => to.to_owned(),
            text => text,
        }
    });
    members.collect::<Vec<_>>().join(", ")
}
