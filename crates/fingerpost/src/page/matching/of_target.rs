//! Which rules match an element, worked out on demand and remembered; for a page whose matches are all known, looked
//! up.

use crate::cascade::Origin;
use crate::markup::ElementId;
use crate::page::StyleRule;
use crate::page::matching::matched::{Matched, MatchedByPseudo};
use crate::page::style::styles::Styles;
use crate::page::target::Target;
use crate::selector::{Matcher, PseudoElement, Selector, Specificity};
use crate::sheet::RuleId;

impl Matched {
    /// Notes a selector that matches behind those found before, in order of appearance: of the selectors of a
    /// rule only the strongest counts, for each pseudo-element.
    pub(in crate::page) fn note(
        found: &mut Vec<(Option<PseudoElement>, Matched)>,
        rule: u32,
        at: u32,
        proximity: u32,
        selector: &Selector,
    ) {
        let matched = Matched {
            rule,
            selector: at,
            specificity: selector.specificity,
            proximity,
        };
        let known = found
            .iter_mut()
            .rev()
            .take_while(|(_, m)| m.rule == rule)
            .find(|(pseudo, _)| *pseudo == selector.pseudo_element);
        match known {
            Some((_, known)) if known.strength() < matched.strength() => *known = matched,
            Some(_) => {}
            None => found.push((selector.pseudo_element.clone(), matched)),
        }
    }

    /// Specificity, then proximity: the nearer root is the stronger.
    fn strength(&self) -> (Specificity, std::cmp::Reverse<u32>) {
        (self.specificity, std::cmp::Reverse(self.proximity))
    }
}

impl<'p> Styles<'p> {
    /// The rules that match a target, in order of appearance; those that a condition blocks too.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>p { color: teal } .late { color: maroon }</style><p class=late>Boats<p>Fares"));
    /// let late = page.ask().find_one(".late")?;
    /// let matched = page.styles().matched(&late);
    /// // In order of appearance; those of the browser come first.
    /// assert_eq!(matched.last().unwrap().specificity.classes, 1);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn matched(&self, target: &Target) -> Vec<Matched> {
        self.matched_by_pseudo(target.element)
            .iter()
            .filter(|(pseudo, _)| *pseudo == target.pseudo)
            .map(|(_, matched)| *matched)
            .collect()
    }

    /// How a rule of a sheet matches a target, with the rule itself.
    pub fn matched_rule(
        &self,
        target: &Target,
        sheet: u32,
        rule: RuleId,
    ) -> Option<(Matched, &'p StyleRule)> {
        // Both lists are in order of appearance.
        let rules = &self.page.rules;
        let at = rules
            .binary_search_by_key(&(sheet, rule), |r| (r.sheet, r.rule))
            .ok()?;
        let matched = self.matched_by_pseudo(target.element);
        let first = matched.partition_point(|(_, m)| (m.rule as usize) < at);
        matched[first..]
            .iter()
            .take_while(|(_, m)| m.rule as usize == at)
            .find(|(pseudo, _)| *pseudo == target.pseudo)
            .map(|(_, m)| (*m, &rules[at]))
    }

    /// How many elements of the page each of its rules matches, by the rule's index in
    /// [`Page::rules`](crate::page::Page::rules); an element counts once, whatever pseudo-elements of it a rule speaks of.
    pub fn reach_of_rules(&self) -> Vec<u32> {
        let mut counts = vec![0; self.page.rules.len()];
        let matches = self.page.all_matches();
        for (list, elements) in matches.lists() {
            let mut last = None;
            for (_, matched) in list.iter() {
                if last.replace(matched.rule) != Some(matched.rule) {
                    counts[matched.rule as usize] += elements;
                }
            }
        }
        counts
    }

    /// The pseudo-elements of an element that some rule speaks of, and that it can have.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>p::before { content: '''' }</style><p>Boats"));
    /// let p = page.ask().find_one("p")?;
    /// assert_eq!(page.styles().pseudo_elements(p.element).len(), 1);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn pseudo_elements(&self, element: ElementId) -> Vec<PseudoElement> {
        let matched = self.matched_by_pseudo(element);
        let mut found: Vec<PseudoElement> = matched.iter().filter_map(|(p, _)| p.clone()).collect();
        let element = self.page.document().element(element);
        found.retain(|pseudo| pseudo.can_be_of(element));
        found.sort();
        found.dedup();
        found
    }

    pub(in crate::page) fn matched_by_pseudo(&self, element: ElementId) -> MatchedByPseudo {
        if let Some(known) = self.known.matched.borrow().get(&element) {
            return known.clone();
        }
        let document = self.page.document();
        if let Some(matches) = self.page.matches.get() {
            let place = document.element(element).index;
            return matches.list(matches.list_of(place)).clone();
        }
        let shadowed = !document.shadow_roots().is_empty();
        let own_tree = document.shadow_tree_of(element);
        let own_host = own_tree.and_then(|root| document.host_of(root));
        let matcher = Matcher::new(document, self.page.states()).counting(&self.known.counted);
        let mut candidates: Vec<_> = self
            .page
            .index()
            .candidates(document.element(element), shadowed)
            .collect();
        candidates.sort_unstable();
        candidates.dedup();
        let mut found: Vec<(Option<PseudoElement>, Matched)> = Vec::new();
        for (rule, at) in candidates {
            let style_rule = &self.page.rules[rule as usize];
            let Ok(list) = &style_rule.selectors else {
                continue;
            };
            let selector = &list.selectors[at as usize];
            let of_tree = !shadowed
                || style_rule.origin < Origin::Author
                || style_rule.host == own_host
                || selector.through.is_some()
                || (style_rule.host == Some(element) && selector.names_host);
            if !of_tree {
                continue;
            }
            let matcher = matcher.inside(style_rule.host);
            let Some(proximity) = proximity(&matcher, style_rule, selector, element) else {
                continue;
            };
            Matched::note(&mut found, rule, at, proximity, selector);
        }
        let found: MatchedByPseudo = found.into();
        self.known
            .matched
            .borrow_mut()
            .insert(element, found.clone());
        found
    }

    /// Whether a selector of one of some rules, by their indices in [`Page::rules`](crate::page::Page::rules), finds an element or a
    /// pseudo-element of it, whatever the conditions around the rule.
    pub(crate) fn is_found_by(&self, element: ElementId, rules: &[u32]) -> bool {
        let document = self.page.document();
        let matcher = Matcher::new(document, self.page.states()).counting(&self.known.counted);
        rules.iter().any(|at| {
            let style_rule = &self.page.rules[*at as usize];
            let Ok(list) = &style_rule.selectors else {
                return false;
            };
            let matcher = matcher.inside(style_rule.host);
            let mut selectors = list.selectors.iter();
            selectors.any(|s| proximity(&matcher, style_rule, s, element).is_some())
        })
    }

    /// The rules that match an element, with the pseudo-element of it that each is about.
    pub(crate) fn all_matched(&self, element: ElementId) -> Vec<(Option<PseudoElement>, Matched)> {
        self.matched_by_pseudo(element).to_vec()
    }
}

/// Whether a selector of a rule matches an element, and how far up its scope's root is.
pub(in crate::page) fn proximity(
    matcher: &Matcher<'_>,
    rule: &StyleRule,
    selector: &Selector,
    element: ElementId,
) -> Option<u32> {
    let Some(scope) = &rule.scope else {
        return matcher.matches(selector, element).then_some(u32::MAX);
    };
    let roots = matcher.scope_roots(scope, element);
    let mut nearest = roots.into_iter();
    nearest
        .find(|(root, _)| matcher.scoped(*root).matches(selector, element))
        .map(|(_, steps)| steps)
}
