//! The at-rules of a page that define something by a name: `@keyframes`, `@font-face`, `@property`, `@counter-style` and their
//! kin. Which of them count, and in what order, follows the conditions and layers around them (Cascade 5 § 6.4.5).

use std::sync::Arc;

use crate::cascade::{LayerOrder, Origin};
use crate::markup::ElementId;
use crate::page::{Blocked, Page, PageSheet};
use crate::sheet::{AtRule, Declaration, RuleId, RuleKind, Sheet};
use crate::text::Place;

/// An at-rule that is not about elements, as the page's sheets have it.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct PageAtRule<'p> {
    sheet: &'p PageSheet,
    /// The sheet, by its index in the page's list.
    pub sheet_at: u32,
    /// The rule.
    pub rule: RuleId,
    /// Why it does not count; none where it does.
    pub blocked: Option<Arc<Blocked>>,
    /// Whose it is.
    pub origin: Origin,
    /// Its layer's order.
    pub layer_order: LayerOrder,
    /// The host of the shadow tree that it is in.
    pub host: Option<ElementId>,
}

impl<'p> PageAtRule<'p> {
    fn sheet(&self) -> &'p Sheet {
        self.sheet.styles.sheet()
    }

    /// What kind of rule; none for a rule that is not an at-rule, of which there are none here.
    pub fn kind(&self) -> Option<&'p AtRule> {
        match &self.sheet().rule(self.rule).kind {
            RuleKind::At(kind) => Some(kind),
            RuleKind::Style | RuleKind::Attribute => None,
        }
    }

    /// The name that it defines, without the quotation marks that it may be in; empty where the kind takes none in its head, as
    /// `@font-face` does.
    pub fn name(&self) -> &'p str {
        let sheet = self.sheet();
        let head = sheet.prelude_source(sheet.rule(self.rule)).trim();
        head.trim_matches(['"', '\''])
    }

    /// Where it begins.
    pub fn place(&self) -> Place {
        let sheet = self.sheet();
        sheet.place(sheet.rule(self.rule).span.start())
    }

    /// The value of a descriptor as written; the last one where several have that name.
    pub fn descriptor(&self, name: &str) -> Option<&'p str> {
        let sheet = self.sheet();
        let all = sheet.declarations_of(self.rule);
        let named = all.filter(|(_, d)| sheet.name_source(d).eq_ignore_ascii_case(name));
        named.last().map(|(_, d)| sheet.value_source(d))
    }

    /// Every declaration in it and in the rules inside it, with its name and its place.
    pub fn declarations(&self) -> impl Iterator<Item = (&'p str, Place)> + '_ {
        let sheet = self.sheet();
        let is_inside = move |d: &Declaration| {
            std::iter::successors(Some(d.rule), |at| sheet.rule(*at).parent)
                .any(|at| at == self.rule)
        };
        let found = sheet.declarations().filter(move |(_, d)| is_inside(d));
        found.map(move |(_, d)| (sheet.name_source(d), sheet.place(d.span.start())))
    }
}

impl Page {
    /// Its at-rules that define something: every one but groups of rules, `@import`, `@namespace` and `@charset`. The weakest
    /// first: by origin, then by layer, then by order. Of those with the same name, the last one that is not blocked counts.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>@media print { @keyframes blink { to { opacity: 0 } } }</style>"));
    /// let rules = page.at_rules();
    /// assert_eq!(rules[0].name(), "blink");
    /// assert!(rules[0].blocked.is_some());
    /// ```
    pub fn at_rules(&self) -> Vec<PageAtRule<'_>> {
        let flat =
            crate::page::matching::rules::flatten(&self.document, &self.sheets, &self.environment);
        let mut found = flat.at_rules;
        found.sort_by_key(|at_rule| (at_rule.origin, at_rule.layer_order));
        let found = found.into_iter().filter_map(|found| {
            Some(PageAtRule {
                sheet: self.sheets.get(usize::try_from(found.sheet).ok()?)?,
                sheet_at: found.sheet,
                rule: found.rule,
                blocked: found.blocked,
                origin: found.origin,
                layer_order: found.layer_order,
                host: found.host,
            })
        });
        found.collect()
    }

    /// The `@keyframes` rule of that name that counts.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>@keyframes blink { to { opacity: 0 } }</style>"));
    /// assert_eq!(page.keyframes("blink").map(|k| k.place().line), Some(1));
    /// assert!(page.keyframes("wave").is_none());
    /// ```
    pub fn keyframes(&self, name: &str) -> Option<PageAtRule<'_>> {
        let wanted = name.trim_matches(['"', '\'']);
        let mut strongest_first = self.at_rules().into_iter().rev();
        strongest_first.find(|at_rule| {
            at_rule.blocked.is_none()
                && at_rule.kind() == Some(&AtRule::Keyframes)
                && at_rule.name() == wanted
        })
    }
}
