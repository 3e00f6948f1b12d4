//! Why a selector misses an element: how far it gets from the right, where it stops, and the
//! smallest changes with which it would match.

use super::{Combinator, Compound, Matcher, Selector, SelectorList, Simple};
use crate::markup::{Element, ElementId};
use crate::text::nearest;
use crate::text::{Cut, TextRange};

/// How many changed selectors are offered.
const MOST_NEAR: usize = 3;

/// How many changes are tried together.
const MOST_CHANGES: usize = 2;

/// Where a compound was looked for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Relation {
    /// The element itself.
    Subject,
    /// Any ancestor.
    Ancestor,
    /// The parent.
    Parent,
    /// The sibling right before.
    PreviousSibling,
    /// Any sibling before.
    EarlierSibling,
}

/// Where a selector stops on its way from right to left.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct Miss {
    /// The compound that nothing matches, by its index in the selector.
    pub compound: usize,
    /// Where it was looked for.
    pub relation: Relation,
    /// The element that comes nearest to it there; none where there is no element at all.
    pub at: Option<ElementId>,
    /// The simple selectors that fail on that element.
    pub failing: Vec<TextRange>,
    /// An element further off that the compound matches: the combinator is too strict.
    pub further: Option<ElementId>,
}

/// A selector that would match, and how it differs.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct NearSelector {
    /// The selector.
    pub selector: String,
    /// What was changed, in words.
    pub change: String,
}

impl Matcher<'_> {
    /// Why a selector does not match an element; `None` where it does.
    pub fn explain(&self, selector: &Selector, element: ElementId) -> Option<Miss> {
        if self.matches(selector, element) {
            return None;
        }
        let mut search = Search {
            matcher: self,
            selector,
            best: None,
            seen: Vec::new(),
        };
        search.from(
            selector.compounds.len() - 1,
            element,
            Relation::Subject,
            &[element],
        );
        search.best
    }

    fn failing(&self, compound: &Compound, element: ElementId) -> Vec<TextRange> {
        compound
            .simples
            .iter()
            .filter(|(simple, _)| !self.simple(simple, element))
            .map(|(_, span)| *span)
            .collect()
    }

    fn candidates(&self, combinator: Combinator, element: ElementId) -> (Relation, Vec<ElementId>) {
        let document = self.document();
        let above = || {
            std::iter::successors(self.parent(element), |at| self.parent(*at)).collect::<Vec<_>>()
        };
        let before = || {
            std::iter::successors(document.previous_element(element), |at| {
                document.previous_element(*at)
            })
            .collect::<Vec<_>>()
        };
        match combinator {
            Combinator::Descendant => (Relation::Ancestor, above()),
            Combinator::Child => (Relation::Parent, self.parent(element).into_iter().collect()),
            Combinator::NextSibling => (
                Relation::PreviousSibling,
                document.previous_element(element).into_iter().collect(),
            ),
            Combinator::SubsequentSibling => (Relation::EarlierSibling, before()),
        }
    }

    /// The selectors nearest to one that misses that would match, the smallest change first.
    /// `source` is the selector's own text.
    pub fn near(&self, source: &str, element: ElementId) -> Vec<NearSelector> {
        self.near_within(source, element, MOST_CHANGES)
    }

    fn near_within(&self, source: &str, element: ElementId, most: usize) -> Vec<NearSelector> {
        let Ok(list) = SelectorList::parse(source) else {
            return Vec::new();
        };
        let [selector] = &list.selectors[..] else {
            return Vec::new();
        };
        let Some(miss) = self.explain(selector, element) else {
            return Vec::new();
        };
        let mut found: Vec<NearSelector> = Vec::new();
        let all = changes(self, source, selector, &miss);
        for near in &all {
            let matches = SelectorList::parse(&near.selector).is_ok_and(|list| {
                list.selectors
                    .iter()
                    .all(|s| s.pseudo_element == selector.pseudo_element)
                    && list.selectors.iter().any(|s| self.matches(s, element))
            });
            if matches && !found.iter().any(|f| f.selector == near.selector) {
                found.push(near.clone());
            }
        }
        // One change was not enough: two may be.
        if found.is_empty() && most > 1 {
            for first in &all {
                let more = self.near_within(&first.selector, element, most - 1);
                found.extend(more.into_iter().map(|second| NearSelector {
                    change: format!("{}, and {}", first.change, second.change),
                    selector: second.selector,
                }));
            }
        }
        found.truncate(MOST_NEAR);
        found
    }
}

struct Search<'a, 'd> {
    matcher: &'a Matcher<'d>,
    selector: &'a Selector,
    best: Option<Miss>,
    seen: Vec<(usize, ElementId)>,
}

impl Search<'_, '_> {
    /// Looks for compound `at` among `candidates`, and then for those to its left.
    fn from(&mut self, at: usize, below: ElementId, relation: Relation, candidates: &[ElementId]) {
        let Some((combinator, compound)) = self.selector.compounds.get(at) else {
            return;
        };
        let mut matched = false;
        for candidate in candidates {
            if !self.matcher.compound(compound, *candidate) {
                continue;
            }
            matched = true;
            if at == 0 || self.seen.contains(&(at, *candidate)) {
                continue;
            }
            self.seen.push((at, *candidate));
            let combinator = combinator.unwrap_or(Combinator::Descendant);
            let (relation, next) = self.matcher.candidates(combinator, *candidate);
            self.from(at - 1, *candidate, relation, &next);
        }
        let further_on = self.best.as_ref().is_some_and(|best| best.compound <= at);
        if matched || further_on {
            return;
        }
        let nearest = candidates
            .iter()
            .map(|candidate| (*candidate, self.matcher.failing(compound, *candidate)))
            .min_by_key(|(_, failing)| failing.len());
        let wider = match relation {
            Relation::Parent => Some(Combinator::Descendant),
            Relation::PreviousSibling => Some(Combinator::SubsequentSibling),
            _ => None,
        };
        let further = wider.and_then(|wider| {
            let (_, all) = self.matcher.candidates(wider, below);
            all.into_iter()
                .find(|c| self.matcher.compound(compound, *c))
        });
        self.best = Some(Miss {
            compound: at,
            relation,
            at: nearest.as_ref().map(|(candidate, _)| *candidate),
            failing: nearest.map(|(_, failing)| failing).unwrap_or_default(),
            further,
        });
    }
}

/// Small changes of a selector that misses, the smallest first; whether they help is not said yet.
fn changes(
    matcher: &Matcher<'_>,
    source: &str,
    selector: &Selector,
    miss: &Miss,
) -> Vec<NearSelector> {
    let mut found = Vec::new();
    let Some((_, compound)) = selector.compounds.get(miss.compound) else {
        return found;
    };
    let replaced = |span: TextRange, text: &str| {
        let (start, end) = (usize::from(span.start()), usize::from(span.end()));
        format!("{}{text}{}", source.cut(..start), source.cut(end..))
    };
    let mut push = |selector: String, change: String| {
        let selector = selector
            .split_ascii_whitespace()
            .collect::<Vec<_>>()
            .join(" ");
        found.push(NearSelector { selector, change });
    };
    let failing = |span: &TextRange| miss.failing.contains(span);
    if let Some(at) = miss.at {
        let element = matcher.document().element(at);
        for (simple, span) in compound.simples.iter().filter(|(_, span)| failing(span)) {
            if let Some(meant) = meant(simple, element) {
                push(
                    replaced(*span, &meant),
                    format!("{meant} instead of {}", source.cut(*span)),
                );
            }
        }
    }
    let next = selector.compounds.get(miss.compound + 1);
    if miss.further.is_some()
        && let Some((combinator, next)) = next
    {
        let gap = TextRange::new(compound.span.end(), next.span.start());
        match combinator {
            Some(Combinator::Child) => {
                push(replaced(gap, " "), "a space instead of >".to_owned());
            }
            Some(Combinator::NextSibling) => {
                push(replaced(gap, " ~ "), "~ instead of +".to_owned());
            }
            _ => {}
        }
    }
    if compound.simples.len() > miss.failing.len() {
        let mut text = source.to_owned();
        for (_, span) in compound
            .simples
            .iter()
            .rev()
            .filter(|(_, span)| failing(span))
        {
            text.replace_range(usize::from(span.start())..usize::from(span.end()), "");
        }
        let dropped: Vec<&str> = miss.failing.iter().map(|span| source.cut(*span)).collect();
        push(text, format!("without {}", dropped.join(" and ")));
    }
    if let Some((_, next)) = next {
        let until = TextRange::new(compound.span.start(), next.span.start());
        push(
            replaced(until, ""),
            format!("without {}", source.cut(compound.span)),
        );
    }
    found
}

/// The name of an element that was probably meant by one that it does not have.
fn meant(simple: &Simple, element: &Element) -> Option<String> {
    match simple {
        Simple::Class(name) => nearest(name, element.classes()).map(|n| format!(".{n}")),
        Simple::Id(name) => nearest(name, element.id().into_iter()).map(|n| format!("#{n}")),
        Simple::Type { .. } => Some(element.name.to_string()),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::markup::Document;
    use crate::selector::States;
    use crate::text::Text;

    fn near(html: &str, selector: &str) -> (Miss, Vec<String>) {
        let document = Document::parse(Text::new("a.html", html));
        let states = States::default();
        let matcher = Matcher::new(&document, &states);
        let element = *document.elements().last().unwrap();
        let list = SelectorList::parse(selector).unwrap();
        let miss = matcher.explain(&list.selectors[0], element).unwrap();
        let near = matcher.near(selector, element);
        let shown = near
            .into_iter()
            .map(|n| format!("{} ({})", n.selector, n.change));
        (miss, shown.collect())
    }

    #[test]
    fn a_letter_off() {
        let (miss, near) = near("<div class=panel><h2 class=today>", ".panel .todya");
        assert_eq!((miss.compound, miss.relation), (1, Relation::Subject));
        assert_eq!(near[0], ".panel .today (.today instead of .todya)");
    }

    #[test]
    fn a_combinator_too_strict() {
        let (miss, near) = near("<div class=panel><p><b class=x>", ".panel > .x");
        assert_eq!((miss.compound, miss.relation), (0, Relation::Parent));
        assert!(miss.further.is_some());
        assert_eq!(near[0], ".panel .x (a space instead of >)");
    }

    #[test]
    fn a_missing_ancestor() {
        let (miss, near) = near("<div><b class=x>", "main.wide .x");
        assert_eq!((miss.compound, miss.relation), (0, Relation::Ancestor));
        assert_eq!(near, [".x (without main.wide)"]);
    }

    #[test]
    fn two_slips_at_once() {
        let (_, near) = near("<div class=panel><p><b class=today>", ".panel > .todya");
        assert_eq!(
            near[0],
            ".panel .today (.today instead of .todya, and a space instead of >)"
        );
    }

    #[test]
    fn one_simple_selector_too_many() {
        let (_, near) = near("<b class=x>", "i.x");
        assert_eq!(near, ["b.x (b instead of i)", ".x (without i)"]);
    }
}
