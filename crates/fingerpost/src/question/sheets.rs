//! `sheets`: every sheet of a page in cascade order, how it came, and what failed.
//!
//! ```
//! use fingerpost::prelude::*;
//!
//! let html = "<link rel=stylesheet href=gone.css><style media=print>p { color: teal }</style><p>Boats";
//! let page = Page::new(Text::new("a.html", html));
//! let answer = page.ask().sheets();
//! assert_eq!(answer.failures[0].url, "gone.css");
//! let own = answer.sheets.last().unwrap();
//! assert_eq!((own.arrival.as_str(), own.conditions[0].holds), ("style", false));
//! ```

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use super::bundle::{BundleAnswer, bundle};
use super::codes::{ArrivalKind, RoleKind};
use super::inventory::Inventory;
use super::trace::FailureAnswer;
use crate::cascade::Origin;
use crate::page::{Arrival, Page, PageSheet, Styles};
use crate::sheet::{AtRule, RuleKind, Sheet};
use crate::text::Place;

pub use super::bundle::BundlePart;

/// The sheets of a page.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct SheetsAnswer {
    /// The page.
    pub page: String,
    /// The sheets in cascade order, the weakest first.
    pub sheets: Vec<SheetAnswer>,
    /// Those that did not load.
    pub failures: Vec<FailureAnswer>,
}

/// A sheet of a page.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct SheetAnswer {
    /// The file it is in.
    pub file: String,
    /// The line at which it begins in it: 1 but for embedded sheets.
    pub line: u32,
    /// Whose it is.
    pub origin: Origin,
    /// How it came.
    pub arrival: ArrivalKind,
    /// Where the page or another sheet names it.
    pub named_at: Option<Place>,
    /// Its size in bytes.
    pub bytes: usize,
    /// How many style rules it has.
    pub rules: usize,
    /// How many of them match some element of this page.
    pub rules_matching: usize,
    /// How many declarations it has.
    pub declarations: usize,
    /// Its other rules by name, with their number: `@font-face`, `@keyframes` …
    pub at_rules: BTreeMap<String, usize>,
    /// Its conditions, outermost first.
    pub conditions: Vec<GateAnswer>,
    /// The cascade layer that it is imported into; empty for an anonymous one.
    pub layer: Option<String>,
    /// How many things in it could not be read.
    pub problems: usize,
    /// Why it looks like one that a program built from other files.
    pub bundle: Option<BundleAnswer>,
    /// What the file is on its site; none where the page is of no site, or the sheet is part of a page.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub role: Option<RoleAnswer>,
}

/// What a file is on its site, and how that is known.
#[derive(Clone, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct RoleAnswer {
    /// What it is.
    pub kind: RoleKind,
    /// How that is known, each a phrase.
    pub evidence: Vec<String>,
    /// The files that it is built from, where they are known.
    pub from: Vec<String>,
}

/// A condition of a sheet.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct GateAnswer {
    /// As written.
    pub condition: String,
    /// Whether it holds.
    pub holds: bool,
    /// The comparisons, in words.
    pub because: Vec<String>,
}

/// The sheets of a page. `elsewhere` is what the site has besides.
pub(crate) fn sheets(styles: &Styles<'_>, elsewhere: &Inventory) -> SheetsAnswer {
    let page = styles.page();
    let reach = styles.reach_of_rules();
    let answers = page
        .sheets()
        .iter()
        .enumerate()
        .map(|(at, page_sheet)| {
            let rules = || {
                let all = page.rules().iter().zip(&reach);
                all.filter(|(rule, _)| rule.sheet as usize == at)
            };
            let sheet = page_sheet.styles.sheet();
            let own = page_sheet.origin != Origin::UserAgent;
            SheetAnswer {
                file: sheet.text().name().to_owned(),
                line: sheet.text().place(sheet.span().start()).line,
                origin: page_sheet.origin,
                arrival: super::describe::arrival(&page_sheet.arrival),
                named_at: named_at(page, page_sheet),
                bytes: sheet.span().len().into(),
                rules: rules().count(),
                rules_matching: rules().filter(|(_, count)| **count > 0).count(),
                declarations: sheet.declaration_count(),
                at_rules: at_rules(sheet),
                conditions: page_sheet
                    .gates
                    .iter()
                    .map(|gate| GateAnswer {
                        condition: gate.condition.clone(),
                        holds: gate.verdict.holds(),
                        because: gate.verdict.because.clone(),
                    })
                    .collect(),
                layer: page_sheet.layer.clone(),
                problems: sheet.problems().len(),
                bundle: own.then(|| bundle(sheet, elsewhere)).flatten(),
                role: None,
            }
        })
        .collect();
    SheetsAnswer {
        page: page.document().text().name().to_owned(),
        sheets: answers,
        failures: super::trace::failures(page),
    }
}

fn named_at(page: &Page, sheet: &PageSheet) -> Option<Place> {
    let document = page.document();
    match &sheet.arrival {
        Arrival::Link(id) | Arrival::Style(id) => {
            let element = document.element(*id);
            Some(document.text().place(element.start_tag.start()))
        }
        Arrival::Import { from, span } => {
            let all = page.sheets().iter().map(|s| s.styles.sheet().text());
            let text = all.chain([document.text()]).find(|t| t.name() == from)?;
            Some(text.place(span.start()))
        }
        Arrival::UserAgent | Arrival::User => None,
    }
}

fn at_rules(sheet: &Sheet) -> BTreeMap<String, usize> {
    let mut found = BTreeMap::new();
    for (_, rule) in sheet.rules() {
        let RuleKind::At(at_rule) = &rule.kind else {
            continue;
        };
        let name = match at_rule {
            AtRule::Other(name) => format!("@{name}"),
            known => known.name().to_owned(),
        };
        *found.entry(name).or_insert(0) += 1;
    }
    found
}
