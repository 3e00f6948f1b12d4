//! Where a change goes that is not made in its place: the site's override sheet, another sheet, or
//! the page's embedded one.
//!
//! The smallest rule that wins is written: only the changed declarations, under the shortest selector
//! that is strong enough, in the same conditions as what it beats; into a rule of the same selector
//! where there is one. Rules of different elements stay apart, even where they say the same: the next change of one element is not
//! to move the others.

use std::sync::Arc;

use crate::cascade::{LayerOrder, Origin};
use crate::edit::destination::Destination;
use crate::edit::error::EditError;
use crate::edit::expected::{Declared, InSheet, Meant, StyleOp};
use crate::edit::file_change::FileChange;
use crate::edit::given::selectors;
use crate::edit::kinds::RuleRequest;
use crate::edit::plan::choose::{chosen, on_other_pages};
use crate::edit::plan::opponent::{Opponent, opponent};
use crate::edit::plan::rule_at::{fold, is_placed, property};
use crate::edit::proposal::{At, Proposal};
use crate::edit::rewrite::formatting::{Formatting, end_of_sheet, new_rule};
use crate::edit::rewrite::lines::{insertion, replacement};
use crate::edit::rewrite::write::in_rule;
use crate::edit::site_context::SiteContext;
use crate::page::{Arrival, Page, SheetRef, StyleSheet, Styles, Target};
use crate::question::ElementSummary;
use crate::selector::Specificity;
use crate::sheet::{AtRule, RuleId, RuleKind, Sheet};
use crate::text::{Patch, Replacement, SitePath};

/// The sheet that a change goes into.
pub(in crate::edit) struct Goal {
    /// Its text as CSS; a part of the page where it is embedded.
    sheet: GoalSheet,
    /// Where it stands among the page's sheets.
    pub at: Option<u32>,
    pub warnings: Vec<String>,
}

enum GoalSheet {
    Listed(Arc<StyleSheet>),
    Other(Sheet),
}

impl Goal {
    /// One of the page's sheets.
    pub fn listed(at: u32, styles: Arc<StyleSheet>) -> Goal {
        Goal {
            sheet: GoalSheet::Listed(styles),
            at: Some(at),
            warnings: Vec::new(),
        }
    }

    /// How its changes are known.
    fn key(&self) -> InSheet {
        match self.at {
            Some(at) => InSheet::Listed(at),
            None => InSheet::Other(self.sheet().text().name().to_owned()),
        }
    }

    pub fn sheet(&self) -> &Sheet {
        match &self.sheet {
            GoalSheet::Listed(styles) => styles.sheet(),
            GoalSheet::Other(sheet) => sheet,
        }
    }
}

/// The sheet that is meant.
pub(in crate::edit) fn sheet_for(
    page: &Page,
    into: &Destination,
    around: &SiteContext<'_>,
) -> Result<Goal, EditError> {
    let refused = |place: &str, why: &str| EditError::NotThere {
        place: place.to_owned(),
        why: why.to_owned(),
    };
    let name: &str = match into {
        Destination::Overrides => {
            around
                .overrides
                .as_deref()
                .ok_or_else(|| EditError::NoOverrideSheet {
                    config: "fingerpost.toml".to_owned(),
                    sheet: SitePath::new("overrides.css").expect("a plain name"),
                })?
        }
        Destination::File(name) => name,
        _ => {
            let own = listed(page).rfind(|(_, s)| {
                matches!(s.arrival, Arrival::Style(_)) && s.closed_gate().is_none()
            });
            let (at, found) = own.ok_or_else(|| {
                refused(
                    page.document().text().name(),
                    "the page has no embedded sheet that could take it; insert a <style> first",
                )
            })?;
            if !is_placed(&page.styles(), SheetRef::Listed(at)) {
                return Err(refused(
                    page.document().text().name(),
                    "its embedded sheet has characters that the parser changed, so it can't be \
                     patched in the page",
                ));
            }
            return Ok(Goal {
                sheet: GoalSheet::Listed(found.styles.clone()),
                at: Some(at),
                warnings: not_last(page, at, "the embedded sheet"),
            });
        }
    };
    let here = listed(page).rfind(|(_, s)| s.styles.sheet().text().name() == name);
    if let Some((at, found)) = here {
        let mut warnings = not_last(page, at, name);
        if let Some(gate) = found.closed_gate() {
            let condition = &gate.condition;
            warnings.push(format!(
                "{name} does not apply on this page: {condition} is false"
            ));
        }
        return Ok(Goal {
            sheet: GoalSheet::Listed(found.styles.clone()),
            at: Some(at),
            warnings,
        });
    }
    let other = around.sheets.iter().find(|text| text.name() == name);
    let text = other.ok_or_else(|| {
        let path = SitePath::new(name);
        path.map_or_else(
            |_| refused(name, "the site has no such sheet"),
            |file| EditError::NoSuchSheet { file },
        )
    })?;
    Ok(Goal {
        sheet: GoalSheet::Other(Sheet::parse(text.clone(), text.span())),
        at: None,
        warnings: vec![format!(
            "{name} is not on this page, so that nothing changes here; link it"
        )],
    })
}

/// The site's own sheets of a page, outside of shadow trees.
fn listed(page: &Page) -> impl DoubleEndedIterator<Item = (u32, &crate::page::PageSheet)> {
    let all = page.sheets().iter().enumerate();
    all.filter(|(_, s)| s.origin == Origin::Author && s.host.is_none())
        .map(|(at, s)| (at as u32, s))
}

fn not_last(page: &Page, at: u32, name: &str) -> Vec<String> {
    let later: Vec<String> = listed(page)
        .filter(|(other, s)| *other > at && s.closed_gate().is_none())
        .map(|(_, s)| {
            let name = s.styles.sheet().text().name();
            match s.arrival {
                Arrival::Style(_) => format!("the embedded sheet of {name}"),
                _ => name.to_owned(),
            }
        })
        .collect();
    match &later[..] {
        [] => Vec::new(),
        [one] => vec![format!(
            "{name} is not the last sheet: {one} comes after it"
        )],
        many => vec![format!(
            "{name} is not the last sheet: {} come after it",
            many.join(" and ")
        )],
    }
}

/// What declarations need to win.
#[derive(Default)]
struct Demand {
    /// The least specificity of their selector.
    least: Option<Specificity>,
    /// The conditions of what they beat.
    conditions: Vec<String>,
    /// Where the strongest of that stands.
    from: String,
    /// The rule of the same sheet behind which they must stand.
    behind: Option<RuleId>,
    warnings: Vec<String>,
}

/// What declarations in the sheet at `goal` need to win, and `!important` for those that need it.
fn demand(
    styles: &Styles<'_>,
    targets: &[Target],
    wanted: &mut [Declared],
    goal: Option<u32>,
) -> Result<Demand, EditError> {
    let page = styles.page();
    let mut demand = Demand::default();
    for declaration in wanted {
        let name = property(&declaration.name)?;
        for target in targets {
            let Some(opponent) = opponent(styles, target, &name) else {
                continue;
            };
            let rank = opponent.rank;
            if rank.origin != Origin::Author {
                continue;
            }
            if rank.attached {
                return Err(EditError::NotThere {
                    place: ElementSummary::of_target(page, target).place.to_string(),
                    why: format!(
                        "its style attribute sets {name}, which no sheet beats without \
                         !important; change it in its place"
                    ),
                });
            }
            if rank.important && !declaration.important {
                declaration.important = true;
                demand.warnings.push(format!(
                    "{name} is marked !important, because what it has to beat is too"
                ));
            }
            demand.meet(page, &opponent, goal);
            if rank.important && rank.layer != LayerOrder::UNLAYERED {
                demand.warnings.push(format!(
                    "{name} is !important in a layer at {}, which nothing outside of layers beats",
                    demand.from
                ));
            }
        }
    }
    Ok(demand)
}

impl Demand {
    fn meet(&mut self, page: &Page, opponent: &Opponent, goal: Option<u32>) {
        let rank = opponent.rank;
        // What is in a layer is weaker whatever its selector; one that stands later in the order
        // needs no more than the same specificity.
        if rank.layer == LayerOrder::UNLAYERED {
            let after = goal.is_none_or(|at| at >= rank.order.sheet);
            let needed = match after {
                true => rank.specificity,
                false => above(rank.specificity),
            };
            self.least = Some(self.least.map_or(needed, |known| known.max(needed)));
        }
        let SheetRef::Listed(at) = opponent.reference.sheet else {
            return;
        };
        let sheet = page.sheet(at).styles.sheet();
        let rule = sheet.declaration(opponent.reference.id).rule;
        let around = conditions_of(sheet, rule);
        if around.len() > self.conditions.len() {
            self.conditions = around;
        }
        if Some(at) == goal && self.behind.is_none_or(|known| known < rule) {
            self.behind = Some(rule);
        }
        let start = sheet.rule(rule).span.start();
        self.from = sheet.place(start).to_string();
    }
}

/// Puts declarations for some elements into a sheet, so that they win there.
pub(in crate::edit) fn put_into(at: &At<'_, '_>, what: RuleRequest) -> Result<Proposal, EditError> {
    let (styles, page) = (at.styles, at.page());
    let goal = sheet_for(page, &at.intent.into, at.around)?;
    let sheet = goal.sheet();
    let mut warnings = goal.warnings.clone();
    let mut wanted = what.declared;
    let targets = &what.targets;
    let demand = demand(styles, targets, &mut wanted, goal.at)?;
    warnings.extend(demand.warnings.iter().cloned());
    let selector = match what.selector.as_deref() {
        Some(given) => {
            selectors(given)?;
            given.trim().to_owned()
        }
        None => {
            let chosen = chosen(at, targets, demand.least)?;
            if chosen.raised {
                warnings.push(format!(
                    "the selector is {} and not {}, to be as strong as the rule at {}",
                    chosen.selector, chosen.shortest, demand.from
                ));
            }
            warnings.extend(chosen.warnings());
            chosen.selector
        }
    };
    if sheet.text().authored().is_some() {
        warnings.push(format!(
            "{} is made from other files; the next build will overwrite the change",
            sheet.text().name()
        ));
    }
    warnings.extend(on_other_pages(at, &selector));
    let (changes, ops) = written(sheet, &demand, &selector, &wanted)?;
    warnings.dedup();
    let patch = Patch::new(changes).map_err(|_| EditError::Nothing {
        why: "the same property is given twice".to_owned(),
    })?;
    Ok(Proposal {
        changes: vec![FileChange::new(sheet.text().name(), patch)],
        meant: Meant::styles(goal.key(), ops),
        was: Some(selector),
        warnings,
        // It goes where it was asked to go.
        followed: true,
        ..Proposal::default()
    })
}

fn above(specificity: Specificity) -> Specificity {
    Specificity {
        types: specificity.types + 1,
        ..specificity
    }
}

/// The at-rules around a rule that say when it applies, the outermost first.
pub(in crate::edit) fn conditions_of(sheet: &Sheet, rule: RuleId) -> Vec<String> {
    let above = std::iter::successors(sheet.rule(rule).parent, |id| sheet.rule(*id).parent);
    let mut found: Vec<String> = above
        .filter(|id| is_condition(&sheet.rule(*id).kind))
        .map(|id| head(sheet, id))
        .collect();
    found.reverse();
    found
}

fn is_condition(kind: &RuleKind) -> bool {
    matches!(
        kind,
        RuleKind::At(AtRule::Media | AtRule::Supports | AtRule::Container)
    )
}

/// `@media (max-width: 600px)`, white space folded.
fn head(sheet: &Sheet, id: RuleId) -> String {
    let rule = sheet.rule(id);
    let name = sheet.text().slice(rule.name);
    let prelude = fold(sheet.prelude_source(rule));
    format!("{name} {prelude}").trim().to_owned()
}

type Written = (Vec<Replacement>, Vec<StyleOp>);

/// The change of the sheet that gives a selector some declarations, and what it means.
fn written(
    sheet: &Sheet,
    demand: &Demand,
    selector: &str,
    wanted: &[Declared],
) -> Result<Written, EditError> {
    let conditions = &demand.conditions[..];
    let rules = rules_under(sheet, conditions);
    let late = |id: &&RuleId| demand.behind.is_none_or(|other| **id >= other);
    let named = |id: &RuleId| fold(sheet.prelude_source(sheet.rule(*id)));
    let same = rules
        .iter()
        .rev()
        .filter(late)
        .find(|id| named(id) == fold(selector));
    if let Some(rule) = same {
        return merged(sheet, *rule, wanted);
    }
    let (at, text, parent, source) = match (rules.last(), conditions) {
        (_, []) => {
            let new = new_rule(sheet, None, selector, wanted)?;
            (new.at, new.text, None, new.source)
        }
        (Some(last), _) => {
            let new = new_rule(sheet, Some(*last), selector, wanted)?;
            (new.at, new.text, sheet.rule(*last).parent, new.source)
        }
        (None, conditions) => {
            let formatting = Formatting::of(sheet, None);
            let source = in_conditions(&formatting, conditions, selector, wanted);
            let (at, text) = end_of_sheet(sheet, &source)?;
            (at, text, None, source)
        }
    };
    Ok((
        vec![insertion(at, text)],
        vec![StyleOp::Rules(parent, source)],
    ))
}

/// The style rules that stand directly under some conditions.
fn rules_under(sheet: &Sheet, conditions: &[String]) -> Vec<RuleId> {
    let all = sheet
        .rules()
        .filter(|(_, rule)| rule.kind == RuleKind::Style);
    all.filter(|(id, rule)| {
        let plain = std::iter::successors(rule.parent, |id| sheet.rule(*id).parent)
            .all(|id| is_condition(&sheet.rule(id).kind));
        plain && conditions_of(sheet, *id) == conditions
    })
    .map(|(id, _)| id)
    .collect()
}

/// Declarations put into a rule: into those of the same property that it has, else behind its last.
fn merged(sheet: &Sheet, rule: RuleId, wanted: &[Declared]) -> Result<Written, EditError> {
    let mut replacements = Vec::new();
    let mut ops = Vec::new();
    let mut more: Vec<Declared> = Vec::new();
    for declared in wanted {
        let Some(id) = crate::edit::plan::winner::last_named(sheet, rule, &declared.name) else {
            more.push(declared.clone());
            continue;
        };
        let own = sheet.declaration(id);
        if fold(sheet.value_source(own)) != declared.value {
            replacements.push(replacement(own.value, declared.value.clone()));
            ops.push(StyleOp::Value(id, declared.value.clone()));
        }
        if declared.important && own.important.is_none() {
            replacements.push(insertion(own.value.end(), " !important"));
            ops.push(StyleOp::Important(id, true));
        }
    }
    if !more.is_empty() {
        replacements.push(in_rule(sheet, rule, &more).replacement);
        ops.extend(more.into_iter().map(|d| StyleOp::New(rule, d)));
    }
    if replacements.is_empty() {
        return Err(EditError::Nothing {
            why: format!(
                "the rule at {} says so already",
                sheet.place(sheet.rule(rule).span.start())
            ),
        });
    }
    Ok((replacements, ops))
}

/// A rule in the at-rules that say when it applies, the outermost first.
pub(in crate::edit) fn in_conditions(
    formatting: &Formatting,
    conditions: &[String],
    selector: &str,
    wanted: &[Declared],
) -> String {
    let depth = conditions.len();
    let indent = |levels: usize| formatting.step.repeat(levels);
    let mut text = String::new();
    for (level, condition) in conditions.iter().enumerate() {
        text.push_str(&format!(
            "{}{condition} {{{}",
            indent(level),
            formatting.ending
        ));
    }
    text.push_str(&indent(depth));
    text.push_str(&formatting.rule(&indent(depth), selector, wanted));
    for level in (0..depth).rev() {
        text.push_str(&format!("{}{}}}", formatting.ending, indent(level)));
    }
    text
}
