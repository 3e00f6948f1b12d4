//! `whynot`: why a rule, a selector or a declaration does nothing for an element, every obstacle in
//! the order in which a person would look for them, and what would win.
//!
//! ```
//! use fingerpost::prelude::*;
//!
//! use fingerpost::question::whynot::Asked;
//!
//! let html = "<style>#a { color: teal } p { color: navy }</style><p id=a>Boats";
//! let page = Page::new(Text::new("a.html", html));
//! let ask = page.ask();
//! let p = ask.find_one("p")?;
//! let answer = ask.whynot(&p, &Asked::parse("color: navy"), "color: navy")?;
//! assert!(!answer.holds);
//! assert_eq!(answer.findings[0].obstacles[0].kind.as_str(), "beaten");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod answer;
mod idle_value;
mod miss;
mod normal;
mod of_declarations;
mod remedy;

pub use answer::{Asked, Finding, Obstacle, OtherFinding, WhyNotAnswer, WhyNotError};
pub use remedy::{Remedy, Trial};
pub(crate) use remedy::{Step, class_of_winner};

use normal::{normal, normal_selector};
use of_declarations::longhands;
use remedy::{DeclarationSite, Loser, Winner, remedies};

use super::ElementSummary;
use super::bundle::bundle;
use super::codes::{ObstacleKind, RemedyKind};
use super::describe::{self, fold};
use super::inventory::Inventory;
use crate::cascade::{Appearance, LayerOrder, Origin, Rank};
use crate::page::{Blocked, DeclarationRef, Page, PropertyName, SheetRef, Styles, Target};
use crate::selector::SelectorList;
use crate::sheet::{DeclarationId, RuleId, RuleKind, Sheet};
use crate::text::PlaceQuery;
use crate::value::PropertyId;
use crate::value::declared::{self, Meaning};
use crate::value::substitution::value_tokens;

/// How many rules are looked at one by one.
const MOST_FINDINGS: usize = 5;

/// Up to this many rules with the declaration that don't match are shown in full: the question may be about one of them.
const FEW_MISSES: usize = 2;

/// How many others are told in a line each.
const MOST_OTHERS: usize = 6;

/// Why something does nothing for a target.
///
/// # Errors
/// Where the place that is asked about is none.
pub(crate) fn whynot(
    styles: &Styles<'_>,
    target: &Target,
    asked: &Asked,
    text: &str,
    elsewhere: &Inventory,
) -> Result<WhyNotAnswer, WhyNotError> {
    let question = Question {
        styles,
        page: styles.page(),
        target,
        elsewhere,
    };
    let mut findings = match asked {
        Asked::Place(place) => question.of_place(place)?,
        Asked::Selector(selector) => question.of_selector(selector),
        Asked::Declaration { property, value } => question.of_declaration(property, value),
    };
    for finding in &mut findings {
        finding.obstacles.sort_by_key(Obstacle::step);
    }
    // Of several rules with a selector the one is meant that does less than it says; of several
    // declarations the one that comes furthest: on a rule that matches, with the fewest obstacles.
    let of_rules = matches!(asked, Asked::Selector(_));
    findings.sort_by_key(|finding| {
        let first = finding.obstacles.first().map_or(usize::MAX, Obstacle::step);
        let whole = of_rules && finding.obstacles.is_empty();
        (
            !finding.matches,
            whole,
            std::cmp::Reverse(first),
            finding.obstacles.len(),
        )
    });
    let mut most = MOST_FINDINGS;
    if let Asked::Declaration { property, value } = asked
        && let Some(unwritten) = question.unwritten_here(property, value, &findings)
    {
        // A framework has many rules with the declaration that don't match. The question is not about them.
        findings.insert(0, unwritten);
        most = 1;
    }
    let others = findings.split_off(findings.len().min(most));
    let more = others.len().saturating_sub(MOST_OTHERS);
    let others = others.iter().take(MOST_OTHERS).map(OtherFinding::new);
    let others: Vec<OtherFinding> = others.collect();
    let holds = findings.first().is_some_and(|f| f.obstacles.is_empty());
    let verdict = findings.first().map_or_else(
        || "There is nothing to look at".to_owned(),
        Finding::verdict,
    );
    Ok(WhyNotAnswer {
        page: question.page.document().text().name().to_owned(),
        element: ElementSummary::of_target(question.page, target),
        asked: text.to_owned(),
        verdict,
        holds,
        findings,
        others,
        more,
    })
}

/// Whether a rule is one that elements can match, or holds declarations.
fn holds(sheet: &Sheet, id: RuleId) -> bool {
    let rule = sheet.rule(id);
    let style = rule.kind == RuleKind::Style;
    (style || sheet.declarations_of(id).next().is_some()) && rule.kind != RuleKind::Attribute
}

struct Question<'a, 'p> {
    styles: &'a Styles<'p>,
    page: &'p Page,
    target: &'a Target,
    elsewhere: &'a Inventory,
}

impl Question<'_, '_> {
    fn label(&self) -> String {
        ElementSummary::of_target(self.page, self.target).label()
    }

    /// The rule or declaration at a place.
    fn of_place(&self, place: &PlaceQuery) -> Result<Vec<Finding>, WhyNotError> {
        let PlaceQuery { file, line, column } = place;
        let (line, column) = (*line, *column);
        let file = &self.file_called(file);
        let mut findings = Vec::new();
        let mut seen = false;
        for (at, page_sheet) in self.page.sheets().iter().enumerate() {
            let sheet = page_sheet.styles.sheet();
            let holds = |id: RuleId| holds(sheet, id);
            let found = if sheet.text().name() == file {
                sheet.rules_at(line, column, &holds)
            } else if sheet.text().authored().is_some() {
                sheet.rules_written_at(file, line, column, &holds)
            } else {
                continue;
            };
            seen |= sheet.text().name() == file || !found.is_empty();
            for (rule, declaration) in found {
                findings.push(self.of_rule(at as u32, rule, declaration.as_slice()));
            }
        }
        if !findings.is_empty() {
            return Ok(findings);
        }
        let nothing = |lines: u32| WhyNotError::NoRule {
            file: file.to_owned(),
            line,
            lines,
        };
        let lines_of = |text: &crate::text::Text| text.source().lines().count() as u32;
        if seen {
            let all = self.page.sheets().iter().map(|s| s.styles.sheet().text());
            let lines = all.filter(|t| t.name() == file).map(|t| lines_of(t)).max();
            return Err(nothing(lines.unwrap_or(0)));
        }
        let Some(other) = self.elsewhere.named(file) else {
            return match self.not_loaded(file) {
                Some(obstacle) => Ok(vec![bare(obstacle)]),
                None => Err(WhyNotError::NoSuchSheet {
                    file: file.to_owned(),
                    example: self
                        .elsewhere
                        .sheets
                        .first()
                        .map_or_else(|| "css/site.css".to_owned(), |s| s.text.name().to_owned()),
                }),
            };
        };
        let holds = |id: RuleId| holds(&other.sheet, id);
        let found = other.sheet.rules_at(line, column, &holds);
        if found.is_empty() {
            return Err(nothing(lines_of(&other.text)));
        }
        let all = found.into_iter();
        Ok(all
            .map(|(rule, _)| self.beside(&other.sheet, rule))
            .collect())
    }

    /// The name of a file in the site: as given, or the only one that ends in it.
    fn file_called(&self, given: &str) -> String {
        let given = given.trim_start_matches("./");
        let own = self.page.sheets().iter().map(|s| s.styles.sheet().text());
        let mapped = own.clone().filter_map(|text| text.authored());
        let mut names: Vec<&str> = own.map(|text| text.name()).collect();
        names.extend(mapped.flat_map(|map| map.sources().map(|(name, _)| name)));
        names.extend(self.elsewhere.sheets.iter().map(|s| s.text.name()));
        names.sort_unstable();
        names.dedup();
        let ends = |name: &&str| {
            let rest = name.strip_suffix(given);
            rest.is_some_and(|rest| rest.is_empty() || rest.ends_with('/'))
        };
        match &names.iter().filter(|name| ends(name)).collect::<Vec<_>>()[..] {
            [only] if !names.contains(&given) => (**only).to_owned(),
            _ => given.to_owned(),
        }
    }

    /// A rule of a sheet that the page does not have.
    fn beside(&self, sheet: &Sheet, rule: RuleId) -> Finding {
        let file = sheet.text().name();
        let mut obstacles = Vec::new();
        obstacles.push(self.not_loaded(file).unwrap_or_else(|| {
            let mut obstacle = Obstacle::new(
                ObstacleKind::NotOnPage,
                format!("{file} is not on this page"),
            );
            let pages = self.elsewhere.named(file).map(|s| s.pages.as_slice());
            obstacle.hints.push(match pages {
                Some([]) | None => "no page of the site has it".to_owned(),
                Some(pages) => format!("pages that have it: {}", pages.join(", ")),
            });
            obstacle
        }));
        obstacles.extend(self.bundled(sheet, rule));
        let head = sheet.rule(rule);
        let selector = fold(sheet.prelude_source(head));
        if head.kind == RuleKind::Style
            && let Ok(list) = SelectorList::parse(&selector)
        {
            obstacles.extend(self.misses(&list, &selector, None));
        }
        Finding {
            obstacles,
            ..Finding::new(Some(selector), Some(sheet.place(head.span.start())))
        }
    }

    /// Whether the page asks for a file that did not load.
    fn not_loaded(&self, file: &str) -> Option<Obstacle> {
        let last = file.rsplit('/').next().unwrap_or(file);
        let failure = self.page.failures().iter().find(|f| {
            let path = f.url.split(['?', '#']).next().unwrap_or("");
            path.rsplit('/').next() == Some(last)
        })?;
        let sentence = format!("{} did not load: {}", failure.url, failure.error);
        Some(
            Obstacle::new(ObstacleKind::NotLoaded, sentence)
                .at(failure.text.place(failure.span.start())),
        )
    }

    /// A sheet of the page that was built from the one asked about.
    fn bundled(&self, source: &Sheet, rule: RuleId) -> Option<Obstacle> {
        let file = source.text().name();
        self.page.sheets().iter().find_map(|page_sheet| {
            if page_sheet.origin != Origin::Author {
                return None;
            }
            let sheet = page_sheet.styles.sheet();
            let answer = bundle(sheet, self.elsewhere)?;
            let part = answer.parts.into_iter().find(|p| p.file == file)?;
            let here = source.place(source.rule(rule).span.start());
            let stale = part.changed.contains(&here);
            let mut obstacle = Obstacle::new(
                ObstacleKind::Bundle,
                format!(
                    "the page has {} instead, which was built from {file} ({} of {} rules are the \
                     same)",
                    sheet.text().name(),
                    part.same,
                    part.rules
                ),
            );
            obstacle.hints.push(if stale {
                "this rule has other values there: build it again".to_owned()
            } else {
                format!(
                    "a change in {file} shows once {} is built again",
                    sheet.text().name()
                )
            });
            Some(obstacle)
        })
    }

    fn of_selector(&self, selector: &str) -> Vec<Finding> {
        let wanted = normal_selector(selector);
        let mut findings = Vec::new();
        for (at, rule) in self.rules_with(&wanted) {
            findings.push(self.of_rule(at, rule, &[]));
        }
        if !findings.is_empty() {
            return findings;
        }
        let list = match SelectorList::parse(selector) {
            Ok(list) => list,
            Err(error) => {
                let sentence = format!("'{selector}' is not a valid selector: {}", error.message);
                return vec![bare(Obstacle::new(ObstacleKind::InvalidSelector, sentence))];
            }
        };
        for other in self.beside_sheets() {
            for (id, rule) in other.rules() {
                if rule.kind == RuleKind::Style
                    && normal_selector(other.prelude_source(rule)) == wanted
                {
                    findings.push(self.beside(other, id));
                }
            }
        }
        if findings.is_empty() {
            let mut obstacles = vec![Obstacle::new(
                ObstacleKind::NotWritten,
                format!("no sheet of the site has a rule for {selector}"),
            )];
            match self.misses(&list, selector, None) {
                Some(miss) => obstacles.push(miss),
                None => obstacles[0]
                    .hints
                    .push(format!("it would match {}", self.label())),
            }
            findings.push(Finding {
                obstacles,
                ..Finding::new(Some(selector.to_owned()), None)
            });
        }
        findings
    }

    /// The sheets of the site that the page does not have.
    fn beside_sheets(&self) -> impl Iterator<Item = &Sheet> {
        self.elsewhere.sheets.iter().filter_map(|other| {
            let name = other.text.name();
            let mut mine = self.page.sheets().iter().map(|s| s.styles.sheet().text());
            (!mine.any(|t| t.name() == name)).then_some(&other.sheet)
        })
    }

    /// The author's rules with a selector, on its own or in a list.
    fn rules_with(&self, wanted: &str) -> Vec<(u32, RuleId)> {
        let mut found = Vec::new();
        for rule in self.page.rules() {
            let page_sheet = &self.page.sheets()[rule.sheet as usize];
            if page_sheet.origin != Origin::Author {
                continue;
            }
            let sheet = page_sheet.styles.sheet();
            let whole = normal_selector(sheet.prelude_source(sheet.rule(rule.rule))) == wanted;
            let one = rule.selectors.as_ref().is_ok_and(|list| {
                let texts = list
                    .selectors
                    .iter()
                    .map(|s| sheet.slice_in(rule.rule, s.span));
                texts
                    .into_iter()
                    .any(|text| normal_selector(text) == wanted)
            });
            if whole || one {
                found.push((rule.sheet, rule.rule));
            }
        }
        found
    }

    fn of_declaration(&self, property: &str, value: &str) -> Vec<Finding> {
        let Some(name) = PropertyName::named(property) else {
            let mut obstacle = Obstacle::new(
                ObstacleKind::UnknownProperty,
                format!("no property is called '{property}'"),
            );
            let near = PropertyId::nearest(property);
            obstacle
                .hints
                .extend(near.map(|near| format!("do you mean '{near}'?")));
            return vec![bare(obstacle)];
        };
        // Letter case counts in what a custom property holds.
        let custom = matches!(name, PropertyName::Custom(_));
        let bare = value
            .rsplit_once('!')
            .filter(|(_, mark)| mark.trim().eq_ignore_ascii_case("important"));
        let wanted = normal(bare.map_or(value, |(bare, _)| bare), !custom);
        let same = |sheet: &Sheet, id: DeclarationId| {
            let declaration = sheet.declaration(id);
            PropertyName::named(sheet.name_source(declaration)).as_ref() == Some(&name)
                && normal(sheet.value_source(declaration), !custom) == wanted
                && (bare.is_none() || declaration.important.is_some())
        };
        let mut findings = Vec::new();
        if let Some(attribute) = self.styles.attribute_sheet(self.target.element) {
            let sheet = attribute.sheet();
            let ids = sheet.declarations_of(RuleId(0)).map(|(id, _)| id);
            let ids: Vec<DeclarationId> = ids.filter(|id| same(sheet, *id)).collect();
            if !ids.is_empty() && self.target.pseudo.is_none() {
                findings.push(self.of_attribute(&ids));
            }
        }
        for rule in self.page.rules() {
            let page_sheet = &self.page.sheets()[rule.sheet as usize];
            if page_sheet.origin != Origin::Author {
                continue;
            }
            let sheet = page_sheet.styles.sheet();
            let ids = sheet.declarations_of(rule.rule).map(|(id, _)| id);
            let ids: Vec<DeclarationId> = ids.filter(|id| same(sheet, *id)).collect();
            if !ids.is_empty() {
                findings.push(self.of_rule(rule.sheet, rule.rule, &ids));
            }
        }
        if !findings.is_empty() {
            return findings;
        }
        for other in self.beside_sheets() {
            let rules = other.declarations().filter(|(id, _)| same(other, *id));
            for (_, declaration) in rules {
                findings.push(self.beside(other, declaration.rule));
            }
        }
        if findings.is_empty() {
            findings.push(self.unwritten(&name, property, value));
        }
        findings
    }

    /// That no rule which matches says a declaration, where rules that don't match do.
    fn unwritten_here(&self, property: &str, value: &str, findings: &[Finding]) -> Option<Finding> {
        let name = PropertyName::named(property)?;
        let misses = |finding: &Finding| {
            let first = finding.obstacles.first().map(|obstacle| obstacle.kind);
            !finding.matches
                && matches!(
                    first,
                    Some(ObstacleKind::NotMatched | ObstacleKind::Condition)
                )
        };
        if findings.len() <= FEW_MISSES || !findings.iter().all(misses) {
            return None;
        }
        let mut finding = self.unwritten(&name, property, value);
        if let Some(first) = finding.obstacles.first_mut() {
            first.sentence = format!(
                "no rule that matches {} says {property}: {value}",
                self.label()
            );
        }
        Some(finding)
    }

    /// A declaration that is not written anywhere: whether it would be valid, what it would meet, and how a
    /// rule would have to look.
    fn unwritten(&self, name: &PropertyName, property: &str, value: &str) -> Finding {
        let mut obstacles = vec![Obstacle::new(
            ObstacleKind::NotWritten,
            format!("no sheet of this page says {property}: {value}"),
        )];
        let mut remedies = Vec::new();
        let mut important = false;
        let mut bare_value = value;
        if let Some((before, mark)) = value.rsplit_once('!')
            && mark.trim().eq_ignore_ascii_case("important")
        {
            important = true;
            bare_value = before.trim();
        }
        if let PropertyName::Known(id) = name
            && let Meaning::Misfit(mismatch) =
                declared::meaning(*id, bare_value, &value_tokens(bare_value))
        {
            let sentence = describe::misfit_text(property, bare_value, &mismatch);
            obstacles.push(Obstacle::new(ObstacleKind::InvalidValue, sentence));
        } else {
            for longhand in longhands(name) {
                let contest = self.styles.contest(self.target, &longhand).contest;
                let hypothetical = Rank {
                    origin: Origin::Author,
                    important,
                    context: 0,
                    attached: false,
                    layer: LayerOrder::UNLAYERED,
                    specificity: crate::selector::Specificity::default(),
                    proximity: u32::MAX,
                    order: Appearance::new(u32::MAX, 0),
                };
                if let Some(winner) = contest.winning() {
                    let rule = describe::rule_of(self.styles, self.target, winner.declaration);
                    if winner.rank.origin == Origin::Author {
                        let declaration = format!(
                            "{}: {}{}",
                            describe::name_of(self.styles, winner.declaration),
                            describe::value_of(self.styles, winner.declaration),
                            if winner.rank.important {
                                " !important"
                            } else {
                                ""
                            }
                        );
                        let place = describe::declaration_place(self.styles, winner.declaration);
                        obstacles[0].hints.push(format!(
                            "what sets it now is {declaration} of {}, {}",
                            rule.selector,
                            place.brief()
                        ));
                    }
                    let stand = DeclarationSite::of(self.styles, winner.declaration);
                    let loser = Loser {
                        rank: hypothetical,
                        selector: None,
                        stand: None,
                    };
                    let beaten = Winner {
                        rank: winner.rank,
                        stand: &stand,
                        place: &stand.at,
                        rule: &rule.selector,
                        layer: rule.layer.as_deref(),
                        sheet: winner.declaration.sheet,
                        class: None,
                    };
                    let found = self::remedies(self.styles, self.target, &loser, &beaten);
                    let wanted = (property.to_owned(), bare_value.to_owned());
                    let found = found.into_iter().filter(|r| r.kind != RemedyKind::Move);
                    remedies.extend(found.map(|mut remedy| {
                        remedy.wants.push(wanted.clone());
                        remedy
                    }));
                    break;
                }
            }
            obstacles.extend(self.effectless(name, bare_value));
        }
        Finding {
            obstacles,
            remedies,
            ..Finding::new(None, None)
        }
    }

    /// Declarations of the target's style attribute.
    fn of_attribute(&self, ids: &[DeclarationId]) -> Finding {
        let sheet = SheetRef::Attribute(self.target.element);
        let place = ids
            .first()
            .map(|id| describe::declaration_place(self.styles, DeclarationRef { sheet, id: *id }));
        let mut finding = Finding {
            matches: true,
            ..Finding::new(Some("style attribute".to_owned()), place)
        };
        self.declarations(sheet, ids, None, &mut finding);
        finding
    }

    /// A rule of a sheet of the page; `only` limits it to some of its declarations.
    fn of_rule(&self, sheet_at: u32, rule: RuleId, only: &[DeclarationId]) -> Finding {
        let page_sheet = &self.page.sheets()[sheet_at as usize];
        let sheet = page_sheet.styles.sheet();
        let head = sheet.rule(rule);
        let rule_text = fold(sheet.prelude_source(head));
        let mut finding = Finding::new(Some(rule_text), Some(sheet.place(head.span.start())));
        let all: Vec<DeclarationId> = sheet.declarations_of(rule).map(|(id, _)| id).collect();
        let ids = if only.is_empty() { &all } else { only };
        let at = self
            .page
            .rules()
            .iter()
            .position(|r| (r.sheet, r.rule) == (sheet_at, rule));
        let Some(at) = at else {
            finding.obstacles.push(Obstacle::new(
                ObstacleKind::NotEvaluated,
                format!(
                    "{}is not a style rule of the page: it has no selector",
                    fold(sheet.prelude_source(head))
                ),
            ));
            return finding;
        };
        let style_rule = &self.page.rules()[at];
        if let Some(blocked) = &style_rule.blocked {
            finding.obstacles.push(self.closed(blocked));
        }
        let list = match &style_rule.selectors {
            Ok(list) => list,
            Err(error) => {
                let sentence = format!("its selector is invalid: {}", error.message);
                let start = sheet.rule(rule).span.start() + error.span.start();
                let place = sheet.place(start);
                finding
                    .obstacles
                    .push(Obstacle::new(ObstacleKind::InvalidSelector, sentence).at(place));
                return finding;
            }
        };
        let sheet_ref = SheetRef::Listed(sheet_at);
        if let Some((matched, _)) = self.styles.matched_rule(self.target, sheet_at, rule) {
            finding.matches = true;
            let rows = self.styles.declarations(self.target);
            let own = |r: &DeclarationRef| r.sheet == sheet_ref && ids.contains(&r.id);
            let blocked = rows
                .iter()
                .find(|(r, ..)| own(r))
                .and_then(|row| row.2.clone());
            if style_rule.blocked.is_none()
                && let Some(blocked) = blocked
            {
                finding.obstacles.push(self.closed(&blocked));
            }
            let selector = list.selectors.get(matched.selector as usize);
            let text = selector.map(|s| sheet.slice_in(rule, s.span).to_owned());
            self.declarations(sheet_ref, ids, text.as_deref(), &mut finding);
            return finding;
        }
        finding
            .obstacles
            .extend(self.missed(style_rule, list, sheet));
        // What would be in the way even if it matched.
        let strongest = list.selectors.iter().max_by_key(|s| s.specificity);
        self.even_so(sheet_ref, ids, style_rule, strongest, &mut finding);
        finding
    }

    fn closed(&self, blocked: &Blocked) -> Obstacle {
        let kind = match blocked {
            Blocked::Sheet { .. } => ObstacleKind::SheetOff,
            Blocked::Condition { .. } => ObstacleKind::Condition,
            Blocked::Undecided { .. } => ObstacleKind::DependsOnLayout,
            Blocked::NotYet { .. } => ObstacleKind::NotEvaluated,
        };
        Obstacle::new(kind, describe::blocked(self.page, blocked))
    }
}

fn bare(obstacle: Obstacle) -> Finding {
    Finding {
        obstacles: vec![obstacle.clone()],
        ..Finding::new(None, obstacle.place)
    }
}
