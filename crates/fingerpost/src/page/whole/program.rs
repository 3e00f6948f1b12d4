//! The selectors of a page as they are tried on all of its elements: flat steps from right to left, found by
//! the rarest name that their subject must have. What names something that no element has is left out.

use std::ops::Range;

use super::name_needs::{Asked, Keys, MOST_ANCESTORS};
use super::symbols::{NameTest, Names, Position, Symbol};
use super::trails::{Questions, is_sideways};
use crate::page::{Page, StyleRule};
use crate::selector::{Combinator, Matcher, Selector, Simple};

/// All selectors of a page that some element could match.
#[derive(Debug)]
pub(super) struct Program<'p> {
    page: &'p Page,
    names: &'p Names,
    selectors: Vec<Compiled<'p>>,
    steps: Vec<Step>,
    tests: Vec<Test<'p>>,
    /// The selectors whose subject must have a name, by that name.
    by_symbol: Vec<Vec<u32>>,
    /// Those that only the root element can match.
    of_root: Vec<u32>,
    /// Those that any element can match.
    of_any: Vec<u32>,
    /// What all of them ask of the elements on a trail.
    pub questions: Questions,
}

/// One selector of a rule.
#[derive(Debug)]
pub(super) struct Compiled<'p> {
    /// The rule, by its index on the page.
    pub rule: u32,
    /// The selector, by its index in the rule's list.
    pub at: u32,
    rule_itself: &'p StyleRule,
    pub selector: &'p Selector,
    /// Its compounds, the subject first.
    steps: Range<u32>,
    ancestors: [Symbol; MOST_ANCESTORS],
    ancestor_count: u8,
    /// Whether elements with the same trail all match, or none of them.
    pub is_of_trail: bool,
}

/// One compound.
#[derive(Debug)]
struct Step {
    /// How it depends on the compound to its left.
    combinator: Combinator,
    tests: Range<u32>,
}

/// One simple selector.
#[derive(Debug)]
enum Test<'p> {
    /// One of two names; often both are the same.
    Name(Symbol, Symbol),
    /// Anything else.
    Simple {
        simple: &'p Simple,
        /// Whether the answer is the same for elements with the same trail.
        is_of_trail: bool,
    },
}

/// What is looked at.
#[derive(Clone, Copy, PartialEq)]
enum Look {
    /// All that a selector asks.
    Everywhere,
    /// What elements with the same trail have in common: what asks for more may match.
    AtTheTrail,
}

/// Whether a selector matches the elements with a trail.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) enum OfTrail {
    Matches,
    /// It depends on more than the trail.
    Open,
    Misses,
}

/// How a step to the left ended; see `selector::matching`.
#[derive(Clone, Copy, PartialEq)]
enum End {
    Matched,
    Never,
    TryEarlierSibling,
    TryHigherAncestor,
}

impl<'p> Program<'p> {
    /// Compiles the selectors of a page without shadow trees.
    pub fn of(page: &'p Page, names: &'p Names) -> Program<'p> {
        Program::of_rules(page, names, 0..page.rules.len() as u32)
    }

    /// Compiles the selectors of some rules, in order of appearance.
    pub fn of_rules(
        page: &'p Page,
        names: &'p Names,
        rules: impl IntoIterator<Item = u32>,
    ) -> Program<'p> {
        let mut program = Program {
            page,
            names,
            selectors: Vec::new(),
            steps: Vec::new(),
            tests: Vec::new(),
            by_symbol: vec![Vec::new(); names.len()],
            of_root: Vec::new(),
            of_any: Vec::new(),
            questions: Questions::new(names),
        };
        let asked = Asked::new(page, names);
        for rule in rules {
            let style_rule = page.rule(rule);
            let Ok(list) = &style_rule.selectors else {
                continue;
            };
            for (at, selector) in list.selectors.iter().enumerate() {
                let number = (rule, at as u32);
                program.add(&asked, number, style_rule, selector);
            }
        }
        program
    }

    fn add(
        &mut self,
        asked: &Asked<'p>,
        (rule, at): (u32, u32),
        rule_itself: &'p StyleRule,
        selector: &'p Selector,
    ) {
        if asked.is_dead(selector) {
            return;
        }
        // What scopes it is asked of each element.
        let mut of_trail = rule_itself.scope.is_none();
        let first_step = self.steps.len() as u32;
        for (combinator, compound) in selector.compounds.iter().rev() {
            let first_test = self.tests.len() as u32;
            for (simple, _) in &compound.simples {
                let is_of_trail = self.questions.note(self.names, simple);
                of_trail &= is_of_trail;
                self.tests.extend(self.test(simple, is_of_trail));
            }
            of_trail &= !combinator.is_some_and(is_sideways);
            self.steps.push(Step {
                combinator: combinator.unwrap_or(Combinator::Descendant),
                tests: first_test..self.tests.len() as u32,
            });
        }
        let (ancestors, ancestor_count) = asked.ancestors(selector);
        let number = self.selectors.len() as u32;
        self.selectors.push(Compiled {
            rule,
            at,
            rule_itself,
            selector,
            steps: first_step..self.steps.len() as u32,
            ancestors,
            ancestor_count,
            is_of_trail: of_trail,
        });
        match asked.keys(selector.subject()) {
            Keys::Root => self.of_root.push(number),
            Keys::Any => self.of_any.push(number),
            Keys::Names(symbols, _) => {
                for symbol in symbols {
                    self.by_symbol[symbol as usize].push(number);
                }
            }
        }
    }

    fn test(&self, simple: &'p Simple, is_of_trail: bool) -> Option<Test<'p>> {
        match (simple, self.names.wanted(simple)) {
            (Simple::Universal, _) => None,
            (Simple::Attribute(_), _) | (_, NameTest::Else) => Some(Test::Simple {
                simple,
                is_of_trail,
            }),
            (_, NameTest::Names([one, other])) => {
                let first = one.or(other)?;
                Some(Test::Name(first, other.unwrap_or(first)))
            }
        }
    }

    /// A selector by its number: they are numbered in order of appearance.
    pub fn selector(&self, number: u32) -> &Compiled<'p> {
        &self.selectors[number as usize]
    }

    /// The numbers of the selectors that an element could match, by what it is called and what is above it. Some come twice.
    pub fn candidates(&self, place: Position, above: &[u32], mut take: impl FnMut(u32)) {
        let of_root = match self.names.parent(place) {
            None => &self.of_root[..],
            Some(_) => &[],
        };
        let named = self.names.symbols(place).iter();
        let named = named.map(|symbol| &self.by_symbol[*symbol as usize][..]);
        for bucket in [of_root, &self.of_any].into_iter().chain(named) {
            for number in bucket {
                let compiled = &self.selectors[*number as usize];
                let wanted = &compiled.ancestors[..usize::from(compiled.ancestor_count)];
                if wanted.iter().all(|symbol| above[*symbol as usize] > 0) {
                    take(*number);
                }
            }
        }
    }

    /// The elements that some selector could match, in document order, by what they are called; none where all of
    /// them could.
    pub fn places(&self) -> Option<Vec<Position>> {
        if !self.of_any.is_empty() || !self.of_root.is_empty() {
            return None;
        }
        let asked = (0..).zip(&self.by_symbol);
        let asked = asked.filter(|(_, selectors)| !selectors.is_empty());
        let places = asked.flat_map(|(symbol, _)| self.names.places(symbol));
        let mut places: Vec<Position> = places.copied().collect();
        places.sort_unstable();
        places.dedup();
        Some(places)
    }

    /// Whether a selector matches an element, and how far up its scope's root is.
    pub fn proximity(&self, number: u32, place: Position, matcher: &Matcher<'_>) -> Option<u32> {
        let compiled = self.selector(number);
        if compiled.rule_itself.scope.is_some() {
            let element = self.page.document().elements()[place as usize];
            let rule = compiled.rule_itself;
            return crate::page::matching::of_target::proximity(
                matcher,
                rule,
                compiled.selector,
                element,
            );
        }
        (self.complex(self.steps(compiled), place, matcher, Look::Everywhere) == End::Matched)
            .then_some(u32::MAX)
    }

    /// Whether a selector matches the elements with the same trail as this one.
    pub fn of_trail(&self, number: u32, place: Position, matcher: &Matcher<'_>) -> OfTrail {
        let compiled = self.selector(number);
        if compiled.rule_itself.scope.is_some() {
            return OfTrail::Open;
        }
        match self.complex(self.steps(compiled), place, matcher, Look::AtTheTrail) {
            End::Matched if compiled.is_of_trail => OfTrail::Matches,
            End::Matched => OfTrail::Open,
            _ => OfTrail::Misses,
        }
    }

    fn steps(&self, compiled: &Compiled<'p>) -> &[Step] {
        &self.steps[compiled.steps.start as usize..compiled.steps.end as usize]
    }

    fn compound(&self, step: &Step, place: Position, matcher: &Matcher<'_>, look: Look) -> bool {
        let tests = &self.tests[step.tests.start as usize..step.tests.end as usize];
        tests.iter().all(|test| match test {
            Test::Name(one, other) => {
                self.names.has(place, *one) || (one != other && self.names.has(place, *other))
            }
            Test::Simple { is_of_trail, .. } if !is_of_trail && look == Look::AtTheTrail => true,
            Test::Simple { simple, .. } => {
                let element = self.page.document().elements()[place as usize];
                matcher.simple(simple, element)
            }
        })
    }

    /// The same search as `selector::matching` makes, over indices.
    fn complex(&self, steps: &[Step], place: Position, matcher: &Matcher<'_>, look: Look) -> End {
        let [step, left @ ..] = steps else {
            return End::Matched;
        };
        if !self.compound(step, place, matcher, look) {
            return End::TryEarlierSibling;
        }
        if left.is_empty() {
            return End::Matched;
        }
        let sideways = is_sideways(step.combinator);
        if sideways && look == Look::AtTheTrail {
            return End::Matched;
        }
        let mut next = place;
        loop {
            let candidate = match sideways {
                true => self.names.previous(next),
                false => self.names.parent(next),
            };
            let Some(candidate) = candidate else {
                return match sideways {
                    true => End::TryHigherAncestor,
                    false => End::Never,
                };
            };
            next = candidate;
            let end = self.complex(left, next, matcher, look);
            match (end, step.combinator) {
                (End::Matched | End::Never, _) => return end,
                (_, Combinator::NextSibling) => return end,
                (End::TryHigherAncestor, Combinator::SubsequentSibling) => return end,
                (End::TryEarlierSibling, Combinator::Child) => return End::TryHigherAncestor,
                (End::TryHigherAncestor, Combinator::Child) => return end,
                _ => {}
            }
        }
    }
}
