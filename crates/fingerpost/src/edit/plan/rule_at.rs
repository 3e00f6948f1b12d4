//! Places that people and programs give: which rule or declaration of the page's sheets is at
//! `FILE:LINE` or `FILE:LINE:COLUMN`.
//!
//! Whatever place an answer prints can be given back: one of a built sheet, or one of a file that a
//! sheet was made from. A place that could mean several rules is refused with a list of them.

use std::sync::Arc;

use crate::cascade::{Origin, Rank};
use crate::edit::error::EditError;
use crate::page::{Arrival, PropertyName, SheetRef, Styles, Target};
use crate::question::ElementSummary;
use crate::sheet::{AtRule, DeclarationId, Rule, RuleId, RuleKind, Sheet};
use crate::text::PlaceQuery;
use crate::value::PropertyId;

/// The property of a name.
pub(in crate::edit) fn property(name: &str) -> Result<PropertyName, EditError> {
    PropertyName::named(name).ok_or_else(|| EditError::UnknownProperty {
        name: name.to_owned(),
        nearest: PropertyId::nearest(name).map(str::to_owned),
    })
}

/// A rule of a listed sheet.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(in crate::edit) struct RuleAt {
    /// Which of the page's sheets.
    pub sheet: u32,
    pub rule: RuleId,
}

impl RuleAt {
    pub fn sheet<'a>(&self, styles: &Styles<'a>) -> &'a Sheet {
        styles.page().sheet(self.sheet).styles.sheet()
    }

    /// The rule with its spans.
    pub fn get<'a>(&self, styles: &Styles<'a>) -> &'a Rule {
        self.sheet(styles).rule(self.rule)
    }

    /// Its selectors or condition, white space folded.
    pub fn head(&self, styles: &Styles<'_>) -> String {
        fold(self.sheet(styles).prelude_source(self.get(styles)))
    }

    pub fn place(&self, styles: &Styles<'_>) -> String {
        let sheet = self.sheet(styles);
        sheet.place(sheet.rule(self.rule).span.start()).to_string()
    }
}

pub(in crate::edit) fn fold(text: &str) -> String {
    text.split_whitespace().collect::<Vec<_>>().join(" ")
}

/// Which rules may be meant by a place.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(in crate::edit) enum Sought {
    /// Rules that elements can match.
    Style,
    /// Rules that hold declarations, `@font-face` and `@page` too.
    Holder,
    /// At-rules with a condition or a name.
    AtRule,
    /// Any rule.
    Any,
}

impl Sought {
    fn takes(self, sheet: &Sheet, id: RuleId) -> bool {
        let rule = sheet.rule(id);
        match self {
            Sought::Style => rule.kind == RuleKind::Style && !in_keyframes(sheet, id),
            Sought::Holder => {
                rule.kind == RuleKind::Style || sheet.declarations_of(id).next().is_some()
            }
            Sought::AtRule => matches!(rule.kind, RuleKind::At(_)),
            Sought::Any => rule.kind != RuleKind::Attribute,
        }
    }
}

/// Whether a rule is a step of `@keyframes`, whose prelude is not a selector.
pub(in crate::edit) fn in_keyframes(sheet: &Sheet, id: RuleId) -> bool {
    let parent = sheet.rule(id).parent;
    parent.is_some_and(|p| sheet.rule(p).kind == RuleKind::At(AtRule::Keyframes))
}

/// A rule at a place, and the declaration of it that the place names, if it names one.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(in crate::edit) struct Spot {
    pub rule: RuleAt,
    pub declaration: Option<DeclarationId>,
}

/// The rule at a place of the page's sheets. Where several may be meant and a target is given, the
/// one that matches it; a rule that does not match the target is refused.
pub(in crate::edit) fn spot_at(
    styles: &Styles<'_>,
    place: &PlaceQuery,
    sought: Sought,
    target: Option<&Target>,
) -> Result<Spot, EditError> {
    let mut spots = spots(styles, place, sought);
    let matching = |spot: &Spot| {
        target.is_none_or(|t| {
            styles
                .matched_rule(t, spot.rule.sheet, spot.rule.rule)
                .is_some()
        })
    };
    if spots.is_empty() {
        return Err(EditError::NotThere {
            place: place.to_string(),
            why: match not_of_page(styles, &place.file) {
                true => format!("{} is not a sheet of this page", place.file),
                false => match sought {
                    Sought::AtRule => "no at-rule starts there".to_owned(),
                    _ => "no rule starts there".to_owned(),
                },
            },
        });
    }
    if let Some(target) = target {
        let all = spots.clone();
        spots.retain(matching);
        if spots.is_empty() {
            let who = ElementSummary::of_target(styles.page(), target).label();
            let heads: Vec<String> = all.iter().map(|s| s.rule.head(styles)).collect();
            return Err(EditError::NotThere {
                place: place.to_string(),
                why: format!(
                    "the rule there, {}, does not match {who}",
                    heads.join(" or ")
                ),
            });
        }
    }
    match spots[..] {
        [only] => Ok(only),
        _ => {
            let mut places: Vec<String> = spots
                .iter()
                .map(|spot| {
                    let sheet = spot.rule.sheet(styles);
                    let start = sheet.rule(spot.rule.rule).span.start();
                    let at = sheet.place(start);
                    let head = spot.rule.head(styles);
                    format!("\n  {}:{}:{}  {head}", at.file, at.line, at.column)
                })
                .collect();
            places.dedup();
            Err(EditError::NotThere {
                place: place.to_string(),
                why: format!(
                    "several rules are there; say which by its column:{}",
                    places.concat()
                ),
            })
        }
    }
}

fn not_of_page(styles: &Styles<'_>, file: &str) -> bool {
    let sheets = styles.page().sheets().iter().map(|s| s.styles.sheet());
    let of_map = |sheet: &Sheet| {
        let map = sheet.text().authored();
        map.is_some_and(|map| map.sources().any(|(name, _)| name == file))
    };
    !sheets
        .into_iter()
        .any(|s| s.text().name() == file || of_map(s))
}

fn spots(styles: &Styles<'_>, given: &PlaceQuery, sought: Sought) -> Vec<Spot> {
    let mut found: Vec<Spot> = Vec::new();
    let mut seen: Vec<*const Sheet> = Vec::new();
    for (at, listed) in styles.page().sheets().iter().enumerate() {
        let sheet = listed.styles.sheet();
        let usable = matches!(listed.origin, Origin::Author)
            && is_placed(styles, SheetRef::Listed(at as u32))
            && !seen.contains(&std::ptr::from_ref(sheet));
        if !usable {
            continue;
        }
        seen.push(std::ptr::from_ref(sheet));
        let own = if sheet.text().name() == given.file {
            let takes = |id: RuleId| sought.takes(sheet, id);
            sheet.rules_at(given.line, given.column, &takes)
        } else if sheet.text().authored().is_some() {
            let takes = |id: RuleId| sought.takes(sheet, id);
            sheet.rules_written_at(&given.file, given.line, given.column, &takes)
        } else {
            Vec::new()
        };
        found.extend(own.into_iter().map(|(rule, declaration)| Spot {
            rule: RuleAt {
                sheet: at as u32,
                rule,
            },
            declaration,
        }));
    }
    found
}

/// The strongest rule of the site's sheets that matches and applies; none where none does.
pub(in crate::edit) fn strongest(styles: &Styles<'_>, target: &Target) -> Option<RuleAt> {
    strongest_of(styles, target, &|_| true)
}

/// The strongest of those that a test lets through.
pub(in crate::edit) fn strongest_of(
    styles: &Styles<'_>,
    target: &Target,
    test: &dyn Fn(RuleAt) -> bool,
) -> Option<RuleAt> {
    let rows = styles.declarations(target);
    let plain = |rank: &Rank| Rank {
        important: false,
        ..*rank
    };
    let own = rows.iter().filter_map(|(reference, rank, blocked)| {
        let SheetRef::Listed(sheet) = reference.sheet else {
            return None;
        };
        let usable = rank.origin == Origin::Author
            && blocked.is_none()
            && is_placed(styles, reference.sheet);
        let declared = styles.page().sheet(sheet).styles.sheet();
        let rule = declared.declaration(reference.id).rule;
        let at = RuleAt { sheet, rule };
        (usable && test(at)).then_some((at, *rank))
    });
    let best = own.max_by(|(_, a), (_, b)| plain(a).compare(&plain(b)).ordering)?;
    Some(best.0)
}

/// Whether a sheet's spans are spans of the file that it is named after.
pub(in crate::edit) fn is_placed(styles: &Styles<'_>, sheet: SheetRef) -> bool {
    let SheetRef::Listed(at) = sheet else {
        return true;
    };
    let page_sheet = styles.page().sheet(at);
    let text = page_sheet.styles.sheet().text();
    !matches!(page_sheet.arrival, Arrival::Style(_))
        || Arc::ptr_eq(text, styles.page().document().text())
}
