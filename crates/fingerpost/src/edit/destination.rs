//! Where a change goes that is not made in its place: the site's override sheet, another sheet, or
//! the page's embedded one.
//!
//! The smallest rule that wins is written: only the changed declarations, under the shortest selector
//! that is strong enough, in the same conditions as what it beats; into a rule of the same selector
//! where there is one, or beside the selector of one with the same declarations.

use std::sync::Arc;

use super::declaration::first;
use super::habits::{Habits, Wanted, indent_at};
use super::intent::Destination;
use super::place::{is_placed, property};
use super::rule::new_rule;
use super::set::behind as behind_of;
use super::{EditError, Made};
use crate::cascade::{LayerOrder, Origin, Rank};
use crate::markup::{Document, NodeId};
use crate::page::{Arrival, DeclarationRef, Page, PropertyName, SheetRef, Styles, Target};
use crate::question::ElementSummary;
use crate::question::selectors::candidates;
use crate::selector::{Matcher, SelectorList, Specificity, State, States};
use crate::sheet::{AtRule, Item, RuleId, RuleKind, Sheet, split_commas, trim};
use crate::text::{Patch, Text, TextRange};

/// What an edit may need to know besides its page.
#[derive(Debug, Default)]
pub struct Around {
    /// The site's override sheet, by name.
    pub custom: Option<String>,
    /// Sheets of the site that the page may not have.
    pub sheets: Vec<Arc<Text>>,
    /// The site's pages, to say what a rule reaches on others.
    pub documents: Vec<Document>,
}

/// The sheet that a change goes into.
struct Goal {
    /// Its text as CSS; a part of the page where it is embedded.
    sheet: GoalSheet,
    /// Where it stands among the page's sheets.
    at: Option<u32>,
    warnings: Vec<String>,
}

enum GoalSheet {
    Listed(Arc<crate::page::StyleSheet>),
    Other(Sheet),
}

impl Goal {
    fn sheet(&self) -> &Sheet {
        match &self.sheet {
            GoalSheet::Listed(styles) => styles.sheet(),
            GoalSheet::Other(sheet) => sheet,
        }
    }
}

fn goal(page: &Page, into: &Destination, around: &Around) -> Result<Goal, EditError> {
    let refused = |place: &str, why: &str| EditError::NotThere {
        place: place.to_owned(),
        why: why.to_owned(),
    };
    let name = match into {
        Destination::Custom => around.custom.as_deref().ok_or_else(|| {
            refused(
                "fingerpost.toml",
                "it names no override sheet; add one, such as custom = \"css/custom.css\"",
            )
        })?,
        Destination::Sheet(name) => name,
        Destination::Embedded | Destination::Place => {
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
        if let Some((condition, _)) = found.closed_gate() {
            warnings.push(format!(
                "{name} is off on this page: {condition} does not hold"
            ));
        }
        return Ok(Goal {
            sheet: GoalSheet::Listed(found.styles.clone()),
            at: Some(at),
            warnings,
        });
    }
    let other = around.sheets.iter().find(|text| text.name() == name);
    let text = other.ok_or_else(|| refused(name, "there is no such sheet in the site"))?;
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

/// The least specificity with which declarations of a rule behind all others win.
pub(super) fn needed(
    styles: &Styles<'_>,
    targets: &[Target],
    declarations: &[Wanted],
) -> Option<Specificity> {
    let names = declarations.iter().filter_map(|d| property(&d.name).ok());
    let all = names.flat_map(|name| {
        let opponents = targets.iter().filter_map(|t| opponent(styles, t, &name));
        opponents.collect::<Vec<_>>()
    });
    all.filter(|o| o.rank.origin == Origin::Author && !o.rank.attached)
        .filter(|o| o.rank.layer == LayerOrder::UNLAYERED)
        .map(|o| o.rank.specificity)
        .max()
}

/// What must be beaten for a property of one target.
struct Opponent {
    rank: Rank,
    reference: DeclarationRef,
}

fn opponent(styles: &Styles<'_>, target: &Target, property: &PropertyName) -> Option<Opponent> {
    let longhands: Vec<PropertyName> = match property {
        PropertyName::Known(id) => id
            .longhands()
            .iter()
            .copied()
            .map(PropertyName::Known)
            .collect(),
        PropertyName::Custom(_) => vec![property.clone()],
    };
    let all = longhands.iter().filter_map(|longhand| {
        let contest = styles.contest(target, longhand).contest;
        let winner = contest.winning()?;
        Some(Opponent {
            rank: winner.rank,
            reference: winner.declaration,
        })
    });
    all.max_by(|a, b| a.rank.compare(&b.rank).0)
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
    wanted: &mut [Wanted],
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
                    "{name} is marked !important, for what it has to beat is"
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
        // What stands in a layer is weaker whatever its selector; one that stands later in the order
        // needs no more than the same specificity.
        if rank.layer == LayerOrder::UNLAYERED {
            let after = goal.is_none_or(|at| at >= rank.order.0);
            let needed = match after {
                true => rank.specificity,
                false => above(rank.specificity),
            };
            self.least = Some(self.least.map_or(needed, |known| known.max(needed)));
        }
        let SheetRef::Listed(at) = opponent.reference.sheet else {
            return;
        };
        let sheet = page.sheets()[at as usize].styles.sheet();
        let rule = sheet.declaration(opponent.reference.id).rule;
        let around = conditions_of(sheet, rule);
        if around.len() > self.conditions.len() {
            self.conditions = around;
        }
        if Some(at) == goal && self.behind.is_none_or(|known| known < rule) {
            self.behind = Some(rule);
        }
        let start = sheet.rule(rule).span.start();
        self.from = sheet.text().place(start).to_string();
    }
}

/// Puts declarations for some elements into a sheet, so that they win there.
pub(super) fn put_into(
    styles: &Styles<'_>,
    targets: &[Target],
    declarations: &[Wanted],
    selector: Option<&str>,
    into: &Destination,
    around: &Around,
) -> Result<Made, EditError> {
    let page = styles.page();
    let goal = goal(page, into, around)?;
    let sheet = goal.sheet();
    let mut warnings = goal.warnings.clone();
    let mut wanted = declarations.to_vec();
    let demand = demand(styles, targets, &mut wanted, goal.at)?;
    warnings.extend(demand.warnings);
    let selector = match selector {
        Some(given) => {
            super::rule::selectors(given)?;
            given.trim().to_owned()
        }
        None => {
            let chosen = chosen(page, targets, demand.least)?;
            if chosen.raised {
                warnings.push(format!(
                    "the selector is {} and not {}, to be as strong as the rule at {}",
                    chosen.selector, chosen.shortest, demand.from
                ));
            }
            if chosen.unwanted > 0 {
                warnings.push(format!(
                    "{} reaches {} elements that were not meant",
                    chosen.selector, chosen.unwanted
                ));
            }
            if chosen.hashed {
                warnings.push(format!(
                    "{} is made of a name that a program made up; it may change",
                    chosen.selector
                ));
            }
            chosen.selector
        }
    };
    warnings.extend(on_other_pages(page, &selector, around));
    let place = Placing {
        styles,
        sheet,
        at: goal.at,
        targets,
        behind: demand.behind,
    };
    let patch = place.written(&demand.conditions, &selector, &wanted)?;
    warnings.dedup();
    Ok(Made {
        was: Some(selector),
        warnings,
        ..Made::of(sheet.text().name(), patch)
    })
}

/// What a selector reaches on other pages of the site.
fn on_other_pages(page: &Page, selector: &str, around: &Around) -> Option<String> {
    let list = SelectorList::parse(selector).ok()?;
    let states = States::default();
    let here = page.document().text().name();
    let others = around.documents.iter().filter(|d| d.text().name() != here);
    let counts = others.map(|document| {
        let matcher = Matcher::new(document, &states);
        let all = document.elements().iter();
        all.filter(|id| matcher.matches_list(&list, **id)).count()
    });
    let reached: Vec<usize> = counts.filter(|count| *count > 0).collect();
    let total: usize = reached.iter().sum();
    let elements = if total == 1 { "element" } else { "elements" };
    let pages = if reached.len() == 1 { "page" } else { "pages" };
    (total > 0).then(|| {
        format!(
            "{selector} reaches {total} {elements} of {} other {pages} too",
            reached.len()
        )
    })
}

fn above(specificity: Specificity) -> Specificity {
    Specificity {
        types: specificity.types + 1,
        ..specificity
    }
}

/// The at-rules around a rule that say when it applies, the outermost first.
pub(super) fn conditions_of(sheet: &Sheet, rule: RuleId) -> Vec<String> {
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
    let name = match &rule.kind {
        RuleKind::At(at) => at.name(),
        _ => "",
    };
    let prelude = fold(sheet.prelude_source(rule));
    format!("{name} {prelude}").trim().to_owned()
}

fn fold(text: &str) -> String {
    text.split_whitespace().collect::<Vec<_>>().join(" ")
}

/// The selector of a new rule.
pub(super) struct Chosen {
    pub selector: String,
    /// The shortest one, whatever its strength.
    pub shortest: String,
    pub raised: bool,
    pub unwanted: usize,
    pub hashed: bool,
}

/// The shortest selector for some targets that is strong enough.
pub(super) fn chosen(
    page: &Page,
    targets: &[Target],
    least: Option<Specificity>,
) -> Result<Chosen, EditError> {
    let mut wanted: Vec<NodeId> = targets.iter().map(|t| t.element).collect();
    wanted.sort();
    wanted.dedup();
    let ending = targets.first().map(|t| ending(page, t)).unwrap_or_default();
    let mut all = candidates(page, &wanted);
    // Such a rule is there for the whole site: tags alone come last.
    all.sort_by_key(|m| (!m.unwanted.is_empty(), m.hashed, m.counts, m.is_bare()));
    let shortest = all.first().ok_or(EditError::NoElement)?;
    let strength = |text: &str| {
        let list = SelectorList::parse(&format!("{text}{ending}")).ok()?;
        list.selectors.iter().map(|s| s.specificity).min()
    };
    let enough = |text: &str| least.is_none_or(|least| strength(text).is_some_and(|s| s >= least));
    let found = if enough(&shortest.selector) {
        Some(shortest)
    } else {
        // Just enough: of those that are, the least specific.
        all.iter()
            .filter(|m| m.unwanted.is_empty() == shortest.unwanted.is_empty())
            .filter(|m| enough(&m.selector))
            .min_by_key(|m| m.specificity)
    };
    let (selector, made) = match found {
        Some(made) => (made.selector.clone(), made),
        None => (raised(&shortest.selector, &enough), shortest),
    };
    let with_ending = |text: &str| {
        let parts = text.split(", ").map(|part| format!("{part}{ending}"));
        parts.collect::<Vec<_>>().join(", ")
    };
    Ok(Chosen {
        raised: selector != shortest.selector,
        shortest: with_ending(&shortest.selector),
        selector: with_ending(&selector),
        unwanted: made.unwanted.len(),
        hashed: made.hashed,
    })
}

/// How often a class is repeated at most to raise a selector; what needs more is left as it is.
const MOST_REPEATS: usize = 8;

/// A selector made stronger, which changes nothing of what it reaches: by repeating its last class, or
/// where it has none, by what every element without a certain id matches.
fn raised(selector: &str, enough: &dyn Fn(&str) -> bool) -> String {
    let last = selector.rsplit([' ', '>', ',']).next().unwrap_or(selector);
    let class = last.rfind('.').map(|at| {
        let rest = &last[at + 1..];
        let end = rest.find(['.', ':', '[', '#']).unwrap_or(rest.len());
        format!(".{}", &rest[..end])
    });
    for more in class.into_iter().chain([":not(#no-such-id)".to_owned()]) {
        let mut tried = selector.to_owned();
        for _ in 0..MOST_REPEATS {
            tried.push_str(&more);
            if enough(&tried) {
                return tried;
            }
        }
    }
    selector.to_owned()
}

/// The states that a target is pretended to be in, and its pseudo-element.
fn ending(page: &Page, target: &Target) -> String {
    let has = |name: &str| {
        State::named(name).is_some_and(|state| page.states().has(target.element, state))
    };
    let mut text = String::new();
    for name in [
        ":hover",
        ":active",
        ":focus-visible",
        ":focus",
        ":target",
        ":visited",
        ":checked",
    ] {
        let implied = name == ":focus" && has(":focus-visible");
        if has(name) && !implied {
            text.push_str(name);
        }
    }
    if let Some(pseudo) = &target.pseudo {
        text.push_str(&pseudo.to_string());
    }
    text
}

/// Where in a sheet declarations for some targets go.
struct Placing<'a> {
    styles: &'a Styles<'a>,
    sheet: &'a Sheet,
    /// Where the sheet stands among the page's.
    at: Option<u32>,
    targets: &'a [Target],
    /// The rule of the sheet that is to be beaten.
    behind: Option<RuleId>,
}

impl Placing<'_> {
    /// The patch of the sheet that gives a selector some declarations.
    fn written(
        &self,
        conditions: &[String],
        selector: &str,
        wanted: &[Wanted],
    ) -> Result<Patch, EditError> {
        let sheet = self.sheet;
        let rules = rules_under(sheet, conditions);
        let late = |id: &&RuleId| self.behind.is_none_or(|other| **id >= other);
        let named = |id: &RuleId| fold(sheet.prelude_source(sheet.rule(*id)));
        let same = rules
            .iter()
            .rev()
            .filter(late)
            .find(|id| named(id) == fold(selector));
        if let Some(rule) = same {
            return merged(sheet, *rule, wanted);
        }
        let mut alike = rules.iter().rev().filter(late);
        if let Some(rule) = alike.find(|id| says_just(sheet, **id, wanted))
            && !rules.iter().any(|id| id > rule && self.reaches(*id))
        {
            let comma = comma_of(sheet, *rule);
            let end = sheet.rule(*rule).prelude.end();
            return Ok(Patch::single(
                TextRange::empty(end),
                format!("{comma}{selector}"),
            ));
        }
        let (place, text) = match (rules.last(), conditions) {
            (_, []) => new_rule(sheet, None, selector, wanted),
            (Some(last), _) => new_rule(sheet, Some(*last), selector, wanted),
            (None, conditions) => in_new_conditions(sheet, conditions, selector, wanted),
        };
        Ok(Patch::single(TextRange::empty(place), text))
    }

    /// Whether a rule matches one of the targets.
    fn reaches(&self, rule: RuleId) -> bool {
        let Some(at) = self.at else { return false };
        let mut targets = self.targets.iter();
        targets.any(|target| self.styles.matched_rule(target, at, rule).is_some())
    }
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

/// Whether a rule holds just these declarations.
fn says_just(sheet: &Sheet, rule: RuleId, wanted: &[Wanted]) -> bool {
    let plain = sheet
        .rule(rule)
        .items
        .iter()
        .all(|i| matches!(i, Item::Declaration(_)));
    let own: Vec<_> = sheet.declarations_of(rule).map(|(_, d)| d).collect();
    plain
        && own.len() == wanted.len()
        && own.iter().zip(wanted).all(|(d, w)| {
            sheet.name_source(d).eq_ignore_ascii_case(&w.name)
                && fold(sheet.value_source(d)) == fold(&w.value)
                && d.important.is_some() == w.important
        })
}

fn comma_of(sheet: &Sheet, rule: RuleId) -> String {
    let head = sheet.rule(rule);
    let parts = split_commas(sheet.prelude_tokens(head));
    if let [.., one, two] = &parts[..]
        && let (Some(one), Some(two)) = (trim(one).last(), trim(two).first())
    {
        let between = TextRange::new(one.span().end(), two.span().start());
        return sheet.text().slice(between).to_owned();
    }
    let comma = Habits::of(sheet, Some(rule)).comma;
    if comma.contains('\n') {
        let indent = indent_at(sheet.text().source(), head.span.start().into());
        return format!(
            ",{}{indent}",
            super::habits::line_ending(sheet.text().source())
        );
    }
    comma
}

/// Declarations put into a rule: into those of the same property that it has, else behind its last.
fn merged(sheet: &Sheet, rule: RuleId, wanted: &[Wanted]) -> Result<Patch, EditError> {
    let mut replacements = Vec::new();
    let mut more = String::new();
    let mut end = None;
    for declaration in wanted {
        let own = sheet
            .declarations_of(rule)
            .filter(|(_, d)| sheet.name_source(d).eq_ignore_ascii_case(&declaration.name));
        let mark = if declaration.important {
            " !important"
        } else {
            ""
        };
        if let Some((_, d)) = own.last() {
            let range = TextRange::new(d.value.start(), d.span.end());
            let with = format!("{}{mark}", declaration.value);
            if sheet.text().slice(range) != with {
                replacements.push(crate::text::Replacement { range, with });
            }
            continue;
        }
        let value = format!("{}{mark}", declaration.value);
        let (range, text) = match sheet.declarations_of(rule).last() {
            Some((last, _)) => behind_of(sheet, last, &declaration.name, &value, false),
            None => first(sheet, rule, &declaration.name, &value),
        };
        end = Some(range);
        // Behind one without a semicolon each brings the one before it.
        more.push_str(&text);
    }
    if let Some(range) = end {
        replacements.push(crate::text::Replacement { range, with: more });
    }
    if replacements.is_empty() {
        return Err(EditError::Nothing {
            why: format!(
                "the rule at {} says so already",
                sheet.text().place(sheet.rule(rule).span.start())
            ),
        });
    }
    Patch::new(replacements).map_err(|_| EditError::Nothing {
        why: "the same property is given twice".to_owned(),
    })
}

/// A new rule in new conditions, at the end of a sheet.
fn in_new_conditions(
    sheet: &Sheet,
    conditions: &[String],
    selector: &str,
    wanted: &[Wanted],
) -> (crate::text::TextSize, String) {
    let habits = Habits::of(sheet, None);
    let text = in_conditions(&habits, conditions, selector, wanted);
    let source = sheet.text().source();
    let own = &source[sheet.span()];
    let at = sheet.span().start() + crate::text::TextSize::of(own.trim_end());
    if own.trim().is_empty() {
        return (sheet.span().start(), format!("{text}{}", habits.ending));
    }
    (at, format!("{}{text}", habits.ending.repeat(2)))
}

/// A rule in the at-rules that say when it applies, the outermost first.
pub(super) fn in_conditions(
    habits: &Habits,
    conditions: &[String],
    selector: &str,
    wanted: &[Wanted],
) -> String {
    let depth = conditions.len();
    let indent = |levels: usize| habits.step.repeat(levels);
    let mut text = String::new();
    for (level, condition) in conditions.iter().enumerate() {
        text.push_str(&format!("{}{condition} {{{}", indent(level), habits.ending));
    }
    text.push_str(&indent(depth));
    text.push_str(&habits.rule(&indent(depth), selector, wanted));
    for level in (0..depth).rev() {
        text.push_str(&format!("{}{}}}", habits.ending, indent(level)));
    }
    text
}
