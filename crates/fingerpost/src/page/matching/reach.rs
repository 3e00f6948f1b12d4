//! What the rules of a page match: all of it at once, from the rule and from the element.

use std::sync::Arc;

use rustc_hash::FxHashMap;

use crate::page::matching::matched::MatchedByPseudo;
use crate::page::whole::ListId;
use crate::page::{Page, StyleRule, Target};
use crate::selector::{AnyState, PseudoElement, Selector, SelectorList};

/// What every rule of a page matches, and each of its selectors: [`Page::reach`].
///
/// Conditions are left out: a rule in `@media print` matches what its selectors match.
#[derive(Debug)]
#[non_exhaustive]
pub struct Reach {
    /// By rule, and then by selector.
    rules: Vec<Vec<Reached>>,
    /// By element, in document order.
    elements: Vec<Vec<ReachedBy>>,
}

/// What a selector matches, in document order.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
pub struct Reached {
    /// The elements and pseudo-elements that it matches now.
    pub now: Vec<Target>,
    /// Those that it matches in some state of the page, those that it matches now among them. States that exclude each other
    /// are not told apart: it may match less.
    pub in_some_state: Vec<Target>,
}

/// A selector that matches an element, or a pseudo-element of it.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct ReachedBy {
    /// The rule, by its index in [`Page::rules`].
    pub rule: u32,
    /// The selector, by its index in the rule's list.
    pub selector: u32,
    /// The pseudo-element that it is about.
    pub pseudo: Option<PseudoElement>,
    /// Whether it matches now, and not only in another state.
    pub now: bool,
}

impl Reach {
    /// What each selector of a rule matches, by its index in the rule's list. A rule is named by its index in
    /// [`Page::rules`]; one whose selectors could not be read has none.
    pub fn selectors(&self, rule: usize) -> &[Reached] {
        self.rules.get(rule).map_or(&[], Vec::as_slice)
    }

    /// What a rule matches, by its index in [`Page::rules`], in document order.
    pub fn rule(&self, rule: usize) -> Reached {
        let merged = |take: fn(&Reached) -> &Vec<Target>| {
            let mut all: Vec<Target> = self
                .selectors(rule)
                .iter()
                .flat_map(take)
                .cloned()
                .collect();
            all.sort_by(|a, b| (a.element, &a.pseudo).cmp(&(b.element, &b.pseudo)));
            all.dedup();
            all
        };
        Reached {
            now: merged(|one| &one.now),
            in_some_state: merged(|one| &one.in_some_state),
        }
    }

    /// Whether a rule matches nothing on the page, whatever state its elements are in. A rule whose selectors could not be
    /// read is not idle: nothing is known of it.
    pub fn is_idle(&self, rule: usize) -> bool {
        let selectors = self.selectors(rule);
        !selectors.is_empty() && selectors.iter().all(|one| one.in_some_state.is_empty())
    }

    /// The selectors that match a target in some state, in order of appearance.
    pub fn of(&self, page: &Page, target: &Target) -> impl Iterator<Item = &ReachedBy> {
        let place = page.document().element(target.element).index as usize;
        let all = self.elements.get(place).into_iter().flatten();
        all.filter(|by| by.pseudo == target.pseudo)
    }
}

impl Page {
    /// What every rule and every selector of the page matches, now and in some state: elements, and the pseudo-elements that
    /// they can have. All is matched at once.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let css = "a:hover, a { top: 0 } a::before { top: 0 } .gone:hover { top: 0 } a::placeholder { top: 0 }";
    /// let page = Page::new(Text::new("a.html", format!("<style>{css}</style><a href=/>Boats</a>")));
    /// let reach = page.reach();
    ///
    /// let own = page.rules().len() - 4;
    /// let hover = &reach.selectors(own)[0];
    /// assert_eq!((hover.now.len(), hover.in_some_state.len()), (0, 1));
    /// assert_eq!(reach.rule(own).now.len(), 1);
    /// // A link has no placeholder.
    /// let idle = [0, 1, 2, 3].map(|at| reach.is_idle(own + at));
    /// assert_eq!(idle, [false, false, true, true]);
    ///
    /// let before = page.ask().find_one("a::before")?;
    /// let by = reach.of(&page, &before).last().expect("a rule is about it");
    /// assert_eq!((by.rule as usize, by.now), (own + 1, true));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn reach(&self) -> Reach {
        let single = Single::of(self.rules());
        let now = self.with_rules(single.rules.clone());
        let in_some_state = self.with_rules(without_states(&single.rules));
        let (now, in_some_state) = (now.all_matches(), in_some_state.all_matches());
        let mut rules: Vec<Vec<Reached>> = self
            .rules()
            .iter()
            .map(|rule| vec![Reached::default(); selectors_of(rule).len()])
            .collect();
        let mut elements = Vec::with_capacity(self.document().elements().len());
        // Elements that are alike have the same lists.
        let mut alike: FxHashMap<(ListId, ListId), Vec<ReachedBy>> = FxHashMap::default();
        for (place, id) in self.document().elements().iter().enumerate() {
            let element = self.document().element(*id);
            let lists = (
                now.list_of(place as u32),
                in_some_state.list_of(place as u32),
            );
            let by = alike.entry(lists).or_insert_with(|| {
                let both = (now.list(lists.0), in_some_state.list(lists.1));
                single.reached_by(both.0, both.1)
            });
            let by = by
                .iter()
                .filter(|by| by.pseudo.as_ref().is_none_or(|p| p.can_be_of(element)));
            let by: Vec<ReachedBy> = by.cloned().collect();
            for one in &by {
                let reached = &mut rules[one.rule as usize][one.selector as usize];
                let target = Target {
                    element: *id,
                    pseudo: one.pseudo.clone(),
                };
                if one.now {
                    reached.now.push(target.clone());
                }
                reached.in_some_state.push(target);
            }
            elements.push(by);
        }
        Reach { rules, elements }
    }
}

impl Page {
    /// The page with some of its rules alone, without the states in them: what they match in some state.
    pub(crate) fn in_any_state(&self, rules: &[u32]) -> Page {
        let all = self.rules();
        let some: Vec<StyleRule> = rules.iter().map(|at| all[*at as usize].clone()).collect();
        self.with_rules(without_states(&some))
    }
}

/// Rules with one selector each, and which selector of which rule each has.
struct Single {
    rules: Vec<StyleRule>,
    of: Vec<(u32, u32)>,
}

impl Single {
    fn of(all: &[StyleRule]) -> Single {
        let mut single = Single {
            rules: Vec::new(),
            of: Vec::new(),
        };
        for (at, rule) in all.iter().enumerate() {
            for (selector, one) in selectors_of(rule).iter().enumerate() {
                let list = SelectorList {
                    selectors: vec![one.clone()],
                };
                single.of.push((at as u32, selector as u32));
                single.rules.push(StyleRule {
                    selectors: Ok(Arc::new(list)),
                    ..rule.clone()
                });
            }
        }
        single
    }

    /// The selectors that match an element, in order of appearance.
    fn reached_by(&self, now: &MatchedByPseudo, in_some_state: &MatchedByPseudo) -> Vec<ReachedBy> {
        let mut all: Vec<ReachedBy> = Vec::new();
        for (now, list) in [(true, now), (false, in_some_state)] {
            for (pseudo, matched) in list.iter() {
                let (rule, selector) = self.of[matched.rule as usize];
                all.push(ReachedBy {
                    rule,
                    selector,
                    pseudo: pseudo.clone(),
                    now,
                });
            }
        }
        let key = |by: &ReachedBy| (by.rule, by.selector, by.pseudo.clone());
        // What matches now is the first of two that are one.
        all.sort_by_key(key);
        all.dedup_by_key(|by| key(by));
        all
    }
}

fn selectors_of(rule: &StyleRule) -> &[Selector] {
    rule.selectors.as_ref().map_or(&[], |list| &list.selectors)
}

/// The rules without the states in their selectors and scopes.
fn without_states(rules: &[StyleRule]) -> Vec<StyleRule> {
    let mut any_state = AnyState::default();
    let mut taken_out = |rule: &StyleRule| StyleRule {
        selectors: rule
            .selectors
            .as_ref()
            .map(|list| Arc::new(any_state.list(list)))
            .map_err(Clone::clone),
        scope: rule
            .scope
            .as_ref()
            .map(|scope| Arc::new(any_state.scope(scope))),
        ..rule.clone()
    };
    rules.iter().map(&mut taken_out).collect()
}
