//! `:has()`: Selectors 4 § 4.5. Whoever asks it of many elements of a document has the anchors looked up at once.

use std::collections::HashSet;
use std::sync::Arc;

use super::anchors::Known;
use super::matching::{Matcher, Step};
use super::{Combinator, Selector};
use crate::markup::ElementId;

/// How often a selector is looked for from single anchors before all anchors are found in one pass.
const TRIES: u32 = 16;

impl Matcher<'_> {
    /// Whether an element is an anchor of a relative selector.
    pub(super) fn has(&self, selector: &Selector, anchor: ElementId) -> bool {
        match self.all_anchors(selector) {
            Some(anchors) => anchors.contains(&anchor),
            None => self.looks_for(selector, anchor),
        }
    }

    /// All anchors of a selector of one compound; none where it is not worth while.
    fn all_anchors(&self, selector: &Selector) -> Option<Arc<HashSet<ElementId>>> {
        let counted = self.counted?;
        let [(Some(combinator), _)] = &selector.compounds[..] else {
            return None;
        };
        if !self.document.shadow_roots().is_empty() {
            return None;
        }
        let key = (std::ptr::from_ref(selector) as usize, self.scope, self.host);
        let known = counted.anchors.get(&key);
        let tries = match known {
            Some(Known::All(anchors)) => return Some(anchors),
            Some(Known::Tried(tries)) => tries,
            None => 0,
        };
        let (answer, known) = if tries < TRIES {
            (None, Known::Tried(tries + 1))
        } else {
            let anchors = Arc::new(self.anchors(selector, *combinator));
            (Some(anchors.clone()), Known::All(anchors))
        };
        counted.anchors.put(key, known);
        answer
    }

    /// From every element that the compound matches back to its anchors, as far as none is known.
    fn anchors(&self, selector: &Selector, combinator: Combinator) -> HashSet<ElementId> {
        let document = self.document;
        let mut anchors = HashSet::new();
        for element in document.elements() {
            if self.complex(selector, 0, *element, None) != Step::Matched {
                continue;
            }
            let back = |at: ElementId| match combinator {
                Combinator::Descendant | Combinator::Child => document.parent_element(at),
                Combinator::NextSibling | Combinator::SubsequentSibling => {
                    document.previous_element(at)
                }
            };
            let only_one = matches!(combinator, Combinator::Child | Combinator::NextSibling);
            let mut at = back(*element);
            while let Some(anchor) = at {
                if !anchors.insert(anchor) || only_one {
                    break;
                }
                at = back(anchor);
            }
        }
        anchors
    }

    fn looks_for(&self, selector: &Selector, anchor: ElementId) -> bool {
        let document = self.document;
        let last = selector.compounds.len() - 1;
        let found = |candidate: ElementId| {
            self.complex(selector, last, candidate, Some(anchor)) == Step::Matched
        };
        let sideways = matches!(
            selector.compounds.first(),
            Some((
                Some(Combinator::NextSibling | Combinator::SubsequentSibling),
                _
            ))
        );
        if !sideways {
            return document.descendant_elements(anchor).any(found);
        }
        std::iter::successors(document.next_element(anchor), |e| document.next_element(*e))
            .any(|sibling| found(sibling) || document.descendant_elements(sibling).any(found))
    }

    pub(super) fn related(
        &self,
        anchor: ElementId,
        combinator: Combinator,
        element: ElementId,
    ) -> bool {
        let document = self.document;
        match combinator {
            Combinator::Child => self.parent(element) == Some(anchor),
            Combinator::Descendant => {
                std::iter::successors(self.parent(element), |at| self.parent(*at))
                    .any(|above| above == anchor)
            }
            Combinator::NextSibling => document.previous_element(element) == Some(anchor),
            Combinator::SubsequentSibling => {
                std::iter::successors(document.previous_element(element), |e| {
                    document.previous_element(*e)
                })
                .any(|e| e == anchor)
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::markup::Document;
    use crate::selector::matching::Counted;
    use crate::selector::{SelectorList, States};
    use crate::text::Text;

    #[test]
    fn anchors_found_at_once_are_those_found_one_by_one() {
        let inside = "<p class=a><b>x</b></p><i></i><p><u class=a></u><b class=c></b></p>";
        let html = format!(
            "<!doctype html><main>{}</main>",
            format!("<div>{inside}</div>").repeat(8)
        );
        let document = Document::parse(Text::new("p.html", html.as_str()));
        let states = States::default();
        let counted = Counted::default();
        for selector in [
            ":has(.a)",
            ":has(> .a)",
            "div:has(+ div)",
            ":has(~ .c)",
            "p:has(~ p)",
            ":has(b, > i)",
            ":has(:first-child)",
            ":has(.missing)",
            "p:not(:has(.a))",
            ":has(p b)",
        ] {
            let list = SelectorList::parse(selector).unwrap();
            let single = Matcher::new(&document, &states);
            let many = single.counting(&counted);
            for element in document.elements() {
                let expected = single.matches_list(&list, *element);
                assert_eq!(many.matches_list(&list, *element), expected, "{selector}");
            }
            // The next list may be kept where this one was.
            counted.anchors.forget();
        }
    }
}
