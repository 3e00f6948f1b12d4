//! What rules match in some state of the page.

use std::sync::Arc;

use crate::page::{Page, StyleRule};
use crate::selector::AnyState;

impl Page {
    /// How many elements of the page each rule matches in some state, by the rule's index in [`Page::rules`]; an element
    /// counts once, whatever pseudo-elements of it a rule is about.
    ///
    /// A rule of which this is 0 matches nothing on this page, whatever a visitor does. States that exclude each other are not
    /// told apart: a rule of which it is not may match nothing all the same.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let css = "a:hover { top: 0 } a::before { top: 0 } .gone:hover { top: 0 }";
    /// let page = Page::new(Text::new("a.html", format!("<style>{css}</style><a href=/>Boats</a>")));
    /// let reach = page.reach_in_any_state();
    /// assert_eq!(reach[reach.len() - 3..], [1, 1, 0]);
    /// ```
    pub fn reach_in_any_state(&self) -> Vec<u32> {
        let mut any_state = AnyState::default();
        let rules = self.rules().iter().map(|rule| StyleRule {
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
        });
        self.with_rules(rules.collect()).styles().reach_of_rules()
    }
}
