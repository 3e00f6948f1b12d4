//! Which rules match which element, for all elements of a page at once. Few elements are unlike: the lists are
//! interned.

use std::sync::Arc;

use rustc_hash::FxHashMap;

use super::program::{OfTrail, Program};
use super::symbols::{Names, Position};
use super::trails::{TrailId, Trails};
use crate::page::matching::matched::{Matched, MatchedByPseudo};
use crate::page::{Page, Styles};
use crate::parallel;
use crate::selector::{Counted, Matcher};

/// How many elements one thread takes at a time: neighbors have nearly the same ancestors.
const ELEMENTS_AT_ONCE: usize = 512;

/// A list of matched rules, by its number.
pub(crate) type ListId = u32;

/// The rules that match each element of a page.
#[derive(Debug)]
pub(crate) struct Matches {
    lists: Vec<MatchedByPseudo>,
    of_element: Vec<ListId>,
}

/// A selector that matches, by its number in the program, and the steps to the root of its scope.
type Hit = (u32, u32);

impl Matches {
    /// Matches all rules of a page against all of its elements, those too whose conditions don't hold.
    pub fn of(page: &Page) -> Matches {
        if !page.document().shadow_roots().is_empty() {
            return Matches::one_by_one(page);
        }
        let names = page.names();
        let program = Program::of(page, names);
        let count = page.document().elements().len();
        let chunks: Vec<(usize, usize)> = (0..count)
            .step_by(ELEMENTS_AT_ONCE)
            .map(|start| (start, (start + ELEMENTS_AT_ONCE).min(count)))
            .collect();
        let trails = Trails::of(page.document(), names, &program.questions);
        let outcomes: Vec<Vec<Outcome>> = parallel::map(chunks.clone(), |(start, end)| {
            let matcher = Matcher::new(page.document(), page.states());
            let places = start as Position..end as Position;
            Outcome::of_trails(&matcher, names, &program, &trails, places)
        });
        let outcomes: Vec<Outcome> = outcomes.into_iter().flatten().collect();
        let parts = parallel::map_with(chunks, Counted::default, |counted, (start, end)| {
            let matcher = Matcher::new(page.document(), page.states()).counting(counted);
            let places = start as Position..end as Position;
            Part::of(&matcher, &program, (&trails, &outcomes), places)
        });
        let mut of_found: FxHashMap<Found, ListId> = FxHashMap::default();
        let mut of_hits: FxHashMap<Vec<Hit>, ListId> = FxHashMap::default();
        let mut lists: Vec<MatchedByPseudo> = Vec::new();
        let mut of_element = Vec::with_capacity(count);
        for part in parts {
            let number = |found: Found| {
                *of_found.entry(found).or_insert_with_key(|(trail, found)| {
                    let mut hits = [&outcomes[*trail as usize].hits[..], found].concat();
                    hits.sort_unstable();
                    *of_hits.entry(hits).or_insert_with_key(|hits| {
                        lists.push(strongest(&program, hits));
                        lists.len() as ListId - 1
                    })
                })
            };
            let numbers: Vec<ListId> = part.found.into_iter().map(number).collect();
            of_element.extend(part.of_element.iter().map(|at| numbers[*at as usize]));
        }
        Matches { lists, of_element }
    }

    /// The matches of a page of which only some rules have selectors other than those in `before`.
    pub fn with_other_selectors(before: &Matches, page: &Page, rules: &[u32]) -> Matches {
        let names = page.names();
        let program = Program::of_rules(page, names, rules.iter().copied());
        let counted = Counted::default();
        let matcher = Matcher::new(page.document(), page.states()).counting(&counted);
        // A few selectors are tried without knowing what is above an element.
        let anything = vec![1; names.len()];
        let is_changed = |rule: u32| rules.binary_search(&rule).is_ok();
        let lost: Vec<bool> = before
            .lists
            .iter()
            .map(|list| list.iter().any(|(_, matched)| is_changed(matched.rule)))
            .collect();
        let mut lists = before.lists.clone();
        let mut of_element = before.of_element.clone();
        let mut known: FxHashMap<(ListId, Vec<Hit>), ListId> = FxHashMap::default();
        let mut hits: Vec<Hit> = Vec::new();
        let named = program.places();
        let mut places = named.iter().flatten().peekable();
        for (place, list) in of_element.iter_mut().enumerate() {
            hits.clear();
            if named.is_none() || places.next_if_eq(&&(place as Position)).is_some() {
                program.candidates(place as Position, &anything, |number| {
                    if let Some(proximity) = program.proximity(number, place as Position, &matcher)
                    {
                        hits.push((number, proximity));
                    }
                });
            }
            if hits.is_empty() && !lost[*list as usize] {
                continue;
            }
            hits.sort_unstable();
            hits.dedup();
            *list = *known.entry((*list, hits.clone())).or_insert_with(|| {
                let kept = before.lists[*list as usize].iter();
                let kept = kept.filter(|(_, matched)| !is_changed(matched.rule));
                let mut all: Vec<_> = kept.cloned().collect();
                all.extend(strongest(&program, &hits).iter().cloned());
                // What matches of one rule stays in the order in which it was found.
                all.sort_by_key(|(_, matched)| matched.rule);
                let same = lists.iter().position(|list| **list == *all);
                same.unwrap_or_else(|| {
                    lists.push(all.into());
                    lists.len() - 1
                }) as ListId
            });
        }
        Matches { lists, of_element }
    }

    /// A page with shadow trees, whose rules reach from one tree into another.
    fn one_by_one(page: &Page) -> Matches {
        let styles = Styles::new(page);
        let mut matches = Matches {
            lists: Vec::new(),
            of_element: Vec::new(),
        };
        let mut known: FxHashMap<Vec<(u32, u32, u32)>, ListId> = FxHashMap::default();
        for element in page.document().elements() {
            let list = styles.matched_by_pseudo(*element);
            let key = list.iter().map(|(_, m)| (m.rule, m.selector, m.proximity));
            let number = *known.entry(key.collect()).or_insert_with(|| {
                matches.lists.push(list);
                matches.lists.len() as ListId - 1
            });
            matches.of_element.push(number);
        }
        matches
    }

    /// Which list an element has.
    pub fn list_of(&self, place: Position) -> ListId {
        self.of_element[place as usize]
    }

    /// A list, in order of appearance.
    pub fn list(&self, id: ListId) -> &MatchedByPseudo {
        &self.lists[id as usize]
    }

    /// All lists, each with how many elements have it.
    pub fn lists(&self) -> impl Iterator<Item = (&MatchedByPseudo, u32)> {
        let mut counts = vec![0; self.lists.len()];
        for list in &self.of_element {
            counts[*list as usize] += 1;
        }
        self.lists.iter().zip(counts)
    }
}

/// The selectors that match the elements with a trail.
struct Outcome {
    /// Those that match, in order.
    hits: Vec<Hit>,
    /// Those that each element is asked for.
    open: Vec<u32>,
}

impl Outcome {
    /// The outcomes of the trails whose first elements are among some that follow each other.
    fn of_trails(
        matcher: &Matcher<'_>,
        names: &Names,
        program: &Program<'_>,
        trails: &Trails,
        places: std::ops::Range<Position>,
    ) -> Vec<Outcome> {
        let mut above = Above::new(names);
        let mut outcomes = Vec::new();
        for place in places {
            above.go_to(place);
            if !trails.is_first(place) {
                continue;
            }
            let mut outcome = Outcome {
                hits: Vec::new(),
                open: Vec::new(),
            };
            program.candidates(place, &above.counts, |number| {
                match program.of_trail(number, place, matcher) {
                    OfTrail::Matches => outcome.hits.push((number, u32::MAX)),
                    OfTrail::Open => outcome.open.push(number),
                    OfTrail::Misses => {}
                }
            });
            outcome.hits.sort_unstable();
            outcome.hits.dedup();
            outcome.open.sort_unstable();
            outcome.open.dedup();
            outcomes.push(outcome);
        }
        outcomes
    }
}

/// All that tells the list of an element: its trail, and what the trail leaves open and matches.
type Found = (TrailId, Vec<Hit>);

/// What is found of some elements that follow each other.
struct Part {
    found: Vec<Found>,
    /// For each element its index in `found`.
    of_element: Vec<u32>,
}

impl Part {
    fn of(
        matcher: &Matcher<'_>,
        program: &Program<'_>,
        (trails, outcomes): (&Trails, &[Outcome]),
        places: std::ops::Range<Position>,
    ) -> Part {
        let mut known: FxHashMap<Found, u32> = FxHashMap::default();
        let mut of_element = Vec::with_capacity(places.len());
        for place in places {
            let trail = trails.of_element(place);
            let open = outcomes[trail as usize].open.iter();
            let found = open.filter_map(|number| {
                let proximity = program.proximity(*number, place, matcher)?;
                Some((*number, proximity))
            });
            let next = known.len() as u32;
            of_element.push(*known.entry((trail, found.collect())).or_insert(next));
        }
        let mut found: Vec<(Found, u32)> = known.into_iter().collect();
        found.sort_unstable_by_key(|(_, at)| *at);
        let found = found.into_iter().map(|(found, _)| found).collect();
        Part { found, of_element }
    }
}

/// The ancestors of the element that the walk has result in, and how many of them are called what: exactly.
struct Above<'n> {
    names: &'n Names,
    trail: Vec<Position>,
    counts: Vec<u32>,
}

impl<'n> Above<'n> {
    fn new(names: &'n Names) -> Above<'n> {
        Above {
            names,
            trail: Vec::new(),
            counts: vec![0; names.len()],
        }
    }

    /// Goes on to the next element in document order; to any element where it is the first.
    fn go_to(&mut self, place: Position) {
        let parent = self.names.parent(place);
        let known = |trail: &[Position]| trail.last().copied();
        if self.trail.is_empty() {
            let mut missing: Vec<Position> =
                std::iter::successors(parent, |at| self.names.parent(*at)).collect();
            missing.reverse();
            missing.into_iter().for_each(|at| self.push(at));
            return;
        }
        // The parent is the element before, or one of its ancestors.
        if parent.is_some() && parent == place.checked_sub(1) {
            parent.into_iter().for_each(|at| self.push(at));
            return;
        }
        while known(&self.trail) != parent
            && let Some(last) = self.trail.pop()
        {
            for symbol in self.names.symbols(last) {
                self.counts[*symbol as usize] -= 1;
            }
        }
    }

    fn push(&mut self, place: Position) {
        for symbol in self.names.symbols(place) {
            self.counts[*symbol as usize] += 1;
        }
        self.trail.push(place);
    }
}

/// A list as the cascade needs it: of the selectors of a rule that match, the strongest for each pseudo-element. The
/// program has them in order of appearance.
fn strongest(program: &Program<'_>, hits: &[Hit]) -> MatchedByPseudo {
    let mut found = Vec::new();
    for (number, proximity) in hits {
        let compiled = program.selector(*number);
        Matched::note(
            &mut found,
            compiled.rule,
            compiled.at,
            *proximity,
            compiled.selector,
        );
    }
    Arc::from(found)
}
