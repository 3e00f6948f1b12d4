//! `whynot`: why a rule, a selector or a declaration does nothing for an element, every obstacle in
//! the order in which a person would look for them, and what would win.

mod effect;
mod remedy;

use serde::Serialize;
use thiserror::Error;

pub use remedy::Remedy;

use remedy::{Loser, Winner, remedies};

use super::ElementSummary;
use super::bundle::bundle;
use super::describe::{self, fold};
use super::elsewhere::Elsewhere;
use crate::cascade::{LayerOrder, Origin, Rank, Standing};
use crate::page::{
    Blocked, DeclarationRef, ExcludedBecause, Page, PropertyName, SheetRef, StyleRule, Styles,
    Target,
};
use crate::selector::{Matcher, Relation, Selector, SelectorList};
use crate::sheet::{DeclarationId, RuleId, RuleKind, Sheet};
use crate::text::{Place, TextRange, TextSize};
use crate::value::PropertyId;
use crate::value::declared::{self, Meaning, Name};
use crate::value::substitution::value_tokens;

/// How many rules are looked at one by one.
const MOST_FINDINGS: usize = 5;

/// What is asked about.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Asked {
    /// A rule or a declaration by its place: `css/skerry.css:120`.
    Place {
        /// The file.
        file: String,
        /// The line, from 1.
        line: u32,
    },
    /// A selector.
    Selector(String),
    /// A declaration: `color: navy`.
    Declaration {
        /// The property as given.
        property: String,
        /// The value as given.
        value: String,
    },
}

impl Asked {
    /// Reads what is asked about. What begins with the name of a property and a colon is a
    /// declaration, what ends in a number behind a colon a place, anything else a selector.
    pub fn parse(text: &str) -> Asked {
        let text = text.trim().trim_end_matches(';');
        if let Some((property, value)) = text.split_once(':') {
            let property = property.trim();
            let known = PropertyName::parse(property).is_some()
                || (PropertyId::nearest(property).is_some() && value.starts_with(' '));
            if known && !value.trim().is_empty() && !value.starts_with(':') {
                return Asked::Declaration {
                    property: property.to_owned(),
                    value: value.trim().to_owned(),
                };
            }
        }
        let mut parts = text.rsplitn(3, ':');
        let numbers: Vec<Option<u32>> = parts.by_ref().take(2).map(|p| p.parse().ok()).collect();
        if let [Some(last), before] = numbers[..] {
            let line = before.unwrap_or(last);
            let cut = if before.is_some() { 2 } else { 1 };
            let file = text.rsplitn(cut + 1, ':').last().unwrap_or("");
            return Asked::Place {
                file: file.to_owned(),
                line,
            };
        }
        Asked::Selector(text.to_owned())
    }
}

/// Why the question can't be answered.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum WhyNotError {
    /// There is no such sheet in the site.
    #[error("no sheet of the site is called {file}; expected one such as {example}")]
    NoSuchSheet {
        /// As given.
        file: String,
        /// One that there is.
        example: String,
    },
    /// Nothing stands there.
    #[error("{file}:{line}: no rule stands there; the file has {lines} lines")]
    NoRule {
        /// The file.
        file: String,
        /// The line.
        line: u32,
        /// How many lines it has.
        lines: u32,
    },
}

/// Why something does nothing for an element.
#[derive(Debug, Serialize)]
pub struct WhyNotAnswer {
    /// The page.
    pub page: String,
    /// The element.
    pub element: ElementSummary,
    /// What was asked about, as given.
    pub asked: String,
    /// The answer in a sentence: the first obstacle, or that there is none.
    pub verdict: String,
    /// Whether it has its effect.
    pub holds: bool,
    /// The rules or declarations that the question is about, those with the fewest obstacles first.
    pub findings: Vec<Finding>,
    /// How many more there are.
    pub more: usize,
}

/// A rule or declaration that the question is about.
#[derive(Debug, Serialize)]
pub struct Finding {
    /// Its selector list, or `style attribute`; none where no rule says so.
    pub rule: Option<String>,
    /// Where it stands.
    pub place: Option<Place>,
    /// The obstacles, in the order in which to look for them.
    pub obstacles: Vec<Obstacle>,
    /// The declarations of it that have their effect.
    pub effective: Vec<String>,
    /// What would win, the best first.
    pub remedies: Vec<Remedy>,
}

/// Something in the way.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Obstacle {
    /// `not-on-page`, `not-loaded`, `bundle`, `sheet-off`, `condition`, `depends-on-layout`,
    /// `not-evaluated`, `invalid-selector`, `not-matched`, `unknown-property`, `invalid-value`,
    /// `beaten`, `no-effect` or `not-written`.
    pub kind: &'static str,
    /// The declaration it is about, where it is about one of several.
    pub declaration: Option<String>,
    /// What is in the way, in a sentence.
    pub sentence: String,
    /// Where it stands.
    pub place: Option<Place>,
    /// What helps against it, in short: the nearest selector that would match, what is allowed.
    pub hints: Vec<String>,
}

impl Obstacle {
    fn new(kind: &'static str, sentence: impl Into<String>) -> Obstacle {
        Obstacle {
            kind,
            declaration: None,
            sentence: sentence.into(),
            place: None,
            hints: Vec::new(),
        }
    }

    fn at(self, place: Place) -> Obstacle {
        Obstacle {
            place: Some(place),
            ..self
        }
    }

    /// Where the obstacle stands in the list of things to look for.
    fn step(&self) -> usize {
        const ORDER: [&str; 14] = [
            "not-written",
            "not-on-page",
            "not-loaded",
            "bundle",
            "sheet-off",
            "condition",
            "depends-on-layout",
            "not-evaluated",
            "invalid-selector",
            "not-matched",
            "unknown-property",
            "invalid-value",
            "beaten",
            "no-effect",
        ];
        ORDER.iter().position(|k| *k == self.kind).unwrap_or(0)
    }
}

/// Why something does nothing for a target.
///
/// # Errors
/// Where the place that is asked about is none.
pub fn whynot(
    styles: &Styles<'_>,
    target: &Target,
    asked: &Asked,
    text: &str,
    elsewhere: &Elsewhere,
) -> Result<WhyNotAnswer, WhyNotError> {
    let question = Question {
        styles,
        page: styles.page(),
        target,
        elsewhere,
    };
    let mut findings = match asked {
        Asked::Place { file, line } => question.of_place(file, *line)?,
        Asked::Selector(selector) => question.of_selector(selector),
        Asked::Declaration { property, value } => question.of_declaration(property, value),
    };
    for finding in &mut findings {
        finding.obstacles.sort_by_key(Obstacle::step);
    }
    // The one that comes furthest is the one that is meant.
    findings.sort_by_key(|finding| {
        let first = finding.obstacles.first().map_or(usize::MAX, Obstacle::step);
        (std::cmp::Reverse(first), finding.obstacles.len())
    });
    let more = findings.len().saturating_sub(MOST_FINDINGS);
    findings.truncate(MOST_FINDINGS);
    let holds = findings.first().is_some_and(|f| f.obstacles.is_empty());
    let verdict = match findings.first().map(|f| (f, f.obstacles.first())) {
        Some((_, Some(obstacle))) => obstacle.sentence.clone(),
        Some((finding, None)) => match &finding.place {
            Some(place) => format!("Nothing is in the way: it applies, from {place}"),
            None => "Nothing is in the way".to_owned(),
        },
        None => "There is nothing to look at".to_owned(),
    };
    Ok(WhyNotAnswer {
        page: question.page.document().text().name().to_owned(),
        element: ElementSummary::of_target(question.page, target),
        asked: text.to_owned(),
        verdict,
        holds,
        findings,
        more,
    })
}

struct Question<'a, 'p> {
    styles: &'a Styles<'p>,
    page: &'p Page,
    target: &'a Target,
    elsewhere: &'a Elsewhere,
}

impl Question<'_, '_> {
    fn label(&self) -> String {
        ElementSummary::of_target(self.page, self.target).label()
    }

    /// The rule or declaration at a place.
    fn of_place(&self, file: &str, line: u32) -> Result<Vec<Finding>, WhyNotError> {
        let on_page = self.page.sheets().iter().enumerate();
        let named = on_page.filter(|(_, s)| s.styles.sheet().text().name() == file);
        let mut findings = Vec::new();
        let mut seen = false;
        for (at, page_sheet) in named {
            seen = true;
            let sheet = page_sheet.styles.sheet();
            if let Some((rule, declaration)) = rule_at(sheet, line) {
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
        let (rule, _) =
            rule_at(&other.sheet, line).ok_or_else(|| nothing(lines_of(&other.text)))?;
        Ok(vec![self.beside(&other.sheet, rule)])
    }

    /// A rule of a sheet that the page does not have.
    fn beside(&self, sheet: &Sheet, rule: RuleId) -> Finding {
        let file = sheet.text().name();
        let mut obstacles = Vec::new();
        obstacles.push(self.not_loaded(file).unwrap_or_else(|| {
            let mut obstacle = Obstacle::new("not-on-page", format!("{file} is not on this page"));
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
            rule: Some(selector),
            place: Some(sheet.text().place(head.span.start())),
            obstacles,
            effective: Vec::new(),
            remedies: Vec::new(),
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
        Some(Obstacle::new("not-loaded", sentence).at(failure.text.place(failure.span.start())))
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
            let here = source.text().place(source.rule(rule).span.start());
            let stale = part.changed.contains(&here);
            let mut obstacle = Obstacle::new(
                "bundle",
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
        let wanted = normal(selector);
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
                let sentence = format!("'{selector}' is no selector: {}", error.message);
                return vec![bare(Obstacle::new("invalid-selector", sentence))];
            }
        };
        for other in self.beside_sheets() {
            for (id, rule) in other.rules() {
                if rule.kind == RuleKind::Style && normal(other.prelude_source(rule)) == wanted {
                    findings.push(self.beside(other, id));
                }
            }
        }
        if findings.is_empty() {
            let mut obstacles = vec![Obstacle::new(
                "not-written",
                format!("no sheet of the site has a rule for {selector}"),
            )];
            match self.misses(&list, selector, None) {
                Some(miss) => obstacles.push(miss),
                None => obstacles[0]
                    .hints
                    .push(format!("it would match {}", self.label())),
            }
            findings.push(Finding {
                rule: Some(selector.to_owned()),
                place: None,
                obstacles,
                effective: Vec::new(),
                remedies: Vec::new(),
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
            let whole = normal(sheet.prelude_source(sheet.rule(rule.rule))) == wanted;
            let one = rule.selectors.as_ref().is_ok_and(|list| {
                let texts = list.selectors.iter().map(|s| sheet.text().slice(s.span));
                texts.into_iter().any(|text| normal(text) == wanted)
            });
            if whole || one {
                found.push((rule.sheet, rule.rule));
            }
        }
        found
    }

    fn of_declaration(&self, property: &str, value: &str) -> Vec<Finding> {
        let Some(name) = PropertyName::parse(property) else {
            let mut obstacle = Obstacle::new(
                "unknown-property",
                format!("no property is called '{property}'"),
            );
            let near = PropertyId::nearest(property);
            obstacle
                .hints
                .extend(near.map(|near| format!("is '{near}' meant?")));
            return vec![bare(obstacle)];
        };
        let wanted = normal(value);
        let same = |sheet: &Sheet, id: DeclarationId| {
            let declaration = sheet.declaration(id);
            PropertyName::parse(sheet.name_source(declaration)).as_ref() == Some(&name)
                && normal(sheet.value_source(declaration)) == wanted
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

    /// A declaration that nobody wrote: whether it would be valid, what it would meet, and how a
    /// rule would have to look.
    fn unwritten(&self, name: &PropertyName, property: &str, value: &str) -> Finding {
        let mut obstacles = vec![Obstacle::new(
            "not-written",
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
            let sentence =
                describe::misfit_text(property, &bare_value[mismatch.span], &mismatch.expected);
            obstacles.push(Obstacle::new("invalid-value", sentence));
        } else {
            for longhand in first_longhands(name) {
                let contest = self.styles.contest(self.target, &longhand).contest;
                let hypothetical = Rank {
                    origin: Origin::Author,
                    important,
                    context: 0,
                    attached: false,
                    layer: LayerOrder::UNLAYERED,
                    specificity: crate::selector::Specificity::default(),
                    proximity: u32::MAX,
                    order: (u32::MAX, 0),
                };
                if let Some(winner) = contest.winning() {
                    let rule = describe::rule_of(self.styles, self.target, winner.declaration);
                    let place = describe::declaration_place(self.styles, winner.declaration);
                    let loser = Loser {
                        rank: hypothetical,
                        selector: None,
                        file: None,
                    };
                    let beaten = Winner {
                        rank: winner.rank,
                        place: &place,
                        rule: &rule.selector,
                        layer: rule.layer.as_deref(),
                        sheet: winner.declaration.sheet,
                    };
                    let found = self::remedies(self.styles, self.target, &loser, &beaten);
                    remedies.extend(found.into_iter().filter(|r| r.kind != "move"));
                    break;
                }
            }
            obstacles.extend(self.effectless(name, bare_value));
        }
        Finding {
            rule: None,
            place: None,
            obstacles,
            effective: Vec::new(),
            remedies,
        }
    }

    /// Declarations of the target's style attribute.
    fn of_attribute(&self, ids: &[DeclarationId]) -> Finding {
        let sheet = SheetRef::Attribute(self.target.element);
        let mut finding = Finding {
            rule: Some("style attribute".to_owned()),
            place: ids.first().map(|id| {
                describe::declaration_place(self.styles, DeclarationRef { sheet, id: *id })
            }),
            obstacles: Vec::new(),
            effective: Vec::new(),
            remedies: Vec::new(),
        };
        self.declarations(sheet, ids, None, None, &mut finding);
        finding
    }

    /// A rule of a sheet of the page; `only` limits it to some of its declarations.
    fn of_rule(&self, sheet_at: u32, rule: RuleId, only: &[DeclarationId]) -> Finding {
        let page_sheet = &self.page.sheets()[sheet_at as usize];
        let sheet = page_sheet.styles.sheet();
        let head = sheet.rule(rule);
        let mut finding = Finding {
            rule: Some(fold(sheet.prelude_source(head))),
            place: Some(sheet.text().place(head.span.start())),
            obstacles: Vec::new(),
            effective: Vec::new(),
            remedies: Vec::new(),
        };
        let all: Vec<DeclarationId> = sheet.declarations_of(rule).map(|(id, _)| id).collect();
        let ids = if only.is_empty() { &all } else { only };
        let at = self
            .page
            .rules()
            .iter()
            .position(|r| (r.sheet, r.rule) == (sheet_at, rule));
        let Some(at) = at else {
            finding.obstacles.push(Obstacle::new(
                "not-evaluated",
                format!(
                    "{} is no style rule of the page: it holds nothing that elements are matched \
                     against",
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
                let place = sheet.text().place(error.span.start());
                finding
                    .obstacles
                    .push(Obstacle::new("invalid-selector", sentence).at(place));
                return finding;
            }
        };
        let sheet_ref = SheetRef::Listed(sheet_at);
        if let Some((matched, _)) = self.styles.matched_rule(self.target, sheet_at, rule) {
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
            let text = selector.map(|s| sheet.text().slice(s.span).to_owned());
            self.declarations(
                sheet_ref,
                ids,
                Some(style_rule),
                text.as_deref(),
                &mut finding,
            );
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
            Blocked::Sheet { .. } => "sheet-off",
            Blocked::Condition { .. } => "condition",
            Blocked::Undecided { .. } => "depends-on-layout",
            Blocked::NotYet { .. } => "not-evaluated",
        };
        Obstacle::new(kind, describe::blocked(self.page, blocked))
    }

    /// Why none of a rule's selectors match.
    fn missed(&self, rule: &StyleRule, list: &SelectorList, sheet: &Sheet) -> Option<Obstacle> {
        if let Some(scope) = &rule.scope {
            let matcher = Matcher::new(self.page.document(), self.page.states());
            let roots = matcher
                .inside(rule.host)
                .scope_roots(scope, self.target.element);
            if roots.is_empty() {
                return Some(Obstacle::new(
                    "not-matched",
                    format!(
                        "{} is not in the scope of the @scope rule around it",
                        self.label()
                    ),
                ));
            }
        }
        let texts = list.selectors.iter().map(|s| sheet.text().slice(s.span));
        let whole = texts.collect::<Vec<_>>().join(", ");
        self.misses(list, &fold(&whole), Some(sheet))
    }

    /// Why a selector list misses the target: of the selector that comes furthest. `sheet` has the
    /// text of its spans; without it they are of `source`.
    fn misses(&self, list: &SelectorList, source: &str, sheet: Option<&Sheet>) -> Option<Obstacle> {
        let matcher = Matcher::new(self.page.document(), self.page.states());
        let element = self.target.element;
        let slice = |span: TextRange| match sheet {
            Some(sheet) => fold(sheet.text().slice(span)),
            None => fold(&source[span]),
        };
        let mut best: Option<(usize, Obstacle)> = None;
        for selector in &list.selectors {
            let (progress, obstacle) = match matcher.explain(selector, element) {
                None if selector.pseudo_element == self.target.pseudo => return None,
                None => {
                    let wanted = selector.pseudo_element.as_ref();
                    let sentence = match (wanted, &self.target.pseudo) {
                        (Some(pseudo), _) => {
                            format!(
                                "{} is about {pseudo} of it, not about the element",
                                slice(selector.span)
                            )
                        }
                        (None, Some(pseudo)) => {
                            format!(
                                "{} is about the element, not about {pseudo} of it",
                                slice(selector.span)
                            )
                        }
                        (None, None) => continue,
                    };
                    (usize::MAX, Obstacle::new("not-matched", sentence))
                }
                Some(miss) => {
                    let text = slice(selector.span);
                    let mut obstacle = Obstacle::new(
                        "not-matched",
                        self.miss_sentence(selector, &miss, &text, &slice),
                    );
                    let states = miss.failing.iter().map(|span| slice(*span));
                    obstacle
                        .hints
                        .extend(states.filter_map(|state| pretend(&state, &miss)));
                    let near = matcher.near(&text, element);
                    obstacle.hints.extend(
                        near.into_iter()
                            .map(|n| format!("{} would match: {}", n.selector, n.change)),
                    );
                    let failing = miss.failing.len();
                    let progress = (selector.compounds.len() - miss.compound) * 100;
                    (progress.saturating_sub(failing), obstacle)
                }
            };
            if best.as_ref().is_none_or(|(known, _)| progress > *known) {
                best = Some((progress, obstacle));
            }
        }
        best.map(|(_, obstacle)| obstacle)
    }

    fn miss_sentence(
        &self,
        selector: &Selector,
        miss: &crate::selector::Miss,
        text: &str,
        slice: &dyn Fn(TextRange) -> String,
    ) -> String {
        let name = |id| {
            let summary = ElementSummary::new(self.page, id);
            format!("{} at {}", summary.label(), summary.place)
        };
        let compound = slice(selector.compounds[miss.compound].1.span);
        let failing: Vec<String> = miss.failing.iter().map(|span| slice(*span)).collect();
        let lacks = if failing.is_empty() || failing.concat() == compound {
            String::new()
        } else {
            format!(" (it is not {})", failing.join(" and not "))
        };
        let mut sentence = match (miss.relation, miss.at) {
            (Relation::Subject, Some(at)) => {
                format!(
                    "{text} does not match: {} is not {}",
                    name(at),
                    failing.join(" and not ")
                )
            }
            (Relation::Parent, Some(at)) => {
                format!(
                    "{text} does not match: the parent, {}, is not {compound}{lacks}",
                    name(at)
                )
            }
            (Relation::Ancestor, Some(at)) => format!(
                "{text} does not match: no ancestor is {compound}; the nearest to it is {}{lacks}",
                name(at)
            ),
            (Relation::PreviousSibling, Some(at)) => format!(
                "{text} does not match: the element before it, {}, is not {compound}{lacks}",
                name(at)
            ),
            (Relation::EarlierSibling, Some(at)) => format!(
                "{text} does not match: no element before it is {compound}; the nearest to it is \
                 {}{lacks}",
                name(at)
            ),
            (Relation::PreviousSibling | Relation::EarlierSibling, None) => {
                format!("{text} does not match: no element stands before it")
            }
            (_, None) => format!("{text} does not match: there is no element around it"),
        };
        if let Some(further) = miss.further {
            sentence.push_str(&format!("; {} is, further off", name(further)));
        }
        sentence
    }

    /// Each declaration of a rule that matches: whether it is valid, wins, and has an effect.
    fn declarations(
        &self,
        sheet_ref: SheetRef,
        ids: &[DeclarationId],
        rule: Option<&StyleRule>,
        selector: Option<&str>,
        finding: &mut Finding,
    ) {
        let style_sheet = self.styles.sheet(sheet_ref);
        let sheet = style_sheet.sheet();
        for id in ids {
            let declaration = sheet.declaration(*id);
            let reference = DeclarationRef {
                sheet: sheet_ref,
                id: *id,
            };
            let shown = format!(
                "{}: {}",
                sheet.name_source(declaration),
                fold(sheet.value_source(declaration))
            );
            let several = (ids.len() > 1).then(|| shown.clone());
            if let Some(mut obstacle) = self.unusable(reference) {
                obstacle.declaration = several;
                finding.obstacles.push(obstacle);
                continue;
            }
            let name = PropertyName::parse(sheet.name_source(declaration))
                .expect("a usable declaration names a property");
            let mut beaten: Vec<Obstacle> = Vec::new();
            let mut won = 0;
            for longhand in longhands(&name) {
                let property = self.styles.physical(self.target, &longhand);
                let contest = self.styles.contest(self.target, &property);
                let excluded = contest.excluded.iter().any(|e| {
                    e.declaration == reference && matches!(e.because, ExcludedBecause::Blocked(_))
                });
                let mine = contest
                    .contest
                    .contenders
                    .iter()
                    .find(|c| c.declaration == reference);
                let Some(mine) = mine.filter(|_| !excluded) else {
                    continue;
                };
                match mine.standing {
                    Standing::Loses { to, .. } => {
                        let winner = &contest.contest.contenders[to];
                        let obstacle =
                            self.lost(reference, mine.rank, winner, &shown, several.clone());
                        if !beaten.iter().any(|b| b.place == obstacle.place) {
                            beaten.push(obstacle);
                            self.help(reference, mine.rank, winner, selector, finding);
                        }
                    }
                    _ => {
                        won += 1;
                        let value = self.styles.value(self.target, &property);
                        if let Some(why) = &value.fell_through {
                            let mut obstacle = Obstacle::new("invalid-value", why.clone());
                            obstacle.declaration = several.clone();
                            beaten.push(obstacle);
                        }
                    }
                }
            }
            let blocked = rule.is_some() && won == 0 && beaten.is_empty();
            finding.obstacles.extend(beaten);
            if won > 0 && !blocked {
                match self.effectless(&name, sheet.value_source(declaration)) {
                    Some(mut obstacle) => {
                        obstacle.declaration = several;
                        finding.obstacles.push(obstacle);
                    }
                    None => finding.effective.push(shown),
                }
            }
        }
    }

    /// Unknown, or with a value that does not fit.
    fn unusable(&self, reference: DeclarationRef) -> Option<Obstacle> {
        let style_sheet = self.styles.sheet(reference.sheet);
        let place = describe::declaration_place(self.styles, reference);
        match style_sheet.meaning(reference.id) {
            (Name::Unknown, _) => {
                let name = describe::name_of(self.styles, reference);
                let mut obstacle = Obstacle::new(
                    "unknown-property",
                    format!("no property is called '{name}'"),
                );
                let near = PropertyId::nearest(&name);
                obstacle
                    .hints
                    .extend(near.map(|near| format!("is '{near}' meant?")));
                Some(obstacle.at(place))
            }
            (_, Meaning::Misfit(mismatch)) => {
                let sentence = describe::misfit(self.styles, reference, mismatch);
                Some(Obstacle::new("invalid-value", sentence).at(place))
            }
            _ => None,
        }
    }

    fn lost(
        &self,
        reference: DeclarationRef,
        rank: Rank,
        winner: &crate::cascade::Contender<DeclarationRef>,
        shown: &str,
        several: Option<String>,
    ) -> Obstacle {
        let own = describe::rule_of(self.styles, self.target, reference);
        let theirs = describe::rule_of(self.styles, self.target, winner.declaration);
        let place = describe::declaration_place(self.styles, winner.declaration);
        let mine = describe::declaration_place(self.styles, reference);
        let (_, criterion) = rank.compare(&winner.rank);
        let sentence = describe::loss(
            criterion,
            (&rank, &mine, own.layer.as_deref()),
            (&winner.rank, &place, theirs.layer.as_deref()),
        );
        let value = describe::value_of(self.styles, winner.declaration);
        let name = describe::name_of(self.styles, winner.declaration);
        let mut obstacle = Obstacle::new(
            "beaten",
            format!(
                "{shown} is beaten by {name}: {value} of {}, {place}: it {sentence}",
                match theirs.arrival {
                    "attribute" => "the style attribute",
                    _ => &theirs.selector,
                }
            ),
        );
        obstacle.declaration = several;
        obstacle.at(place)
    }

    fn help(
        &self,
        reference: DeclarationRef,
        rank: Rank,
        winner: &crate::cascade::Contender<DeclarationRef>,
        selector: Option<&str>,
        finding: &mut Finding,
    ) {
        let theirs = describe::rule_of(self.styles, self.target, winner.declaration);
        let place = describe::declaration_place(self.styles, winner.declaration);
        let mine = describe::declaration_place(self.styles, reference);
        let loser = Loser {
            rank,
            selector,
            file: Some(&mine.file),
        };
        let beaten = Winner {
            rank: winner.rank,
            place: &place,
            rule: &theirs.selector,
            layer: theirs.layer.as_deref(),
            sheet: winner.declaration.sheet,
        };
        for remedy in remedies(self.styles, self.target, &loser, &beaten) {
            let known = finding
                .remedies
                .iter()
                .any(|r| *r == remedy || (r.test_only && remedy.test_only));
            if !known {
                finding.remedies.push(remedy);
            }
        }
        finding.remedies.sort_by_key(|r| r.test_only);
    }

    /// A rule that does not match: what its declarations would meet if it did.
    fn even_so(
        &self,
        sheet_ref: SheetRef,
        ids: &[DeclarationId],
        rule: &StyleRule,
        selector: Option<&Selector>,
        finding: &mut Finding,
    ) {
        let style_sheet = self.styles.sheet(sheet_ref);
        let sheet = style_sheet.sheet();
        for id in ids {
            let reference = DeclarationRef {
                sheet: sheet_ref,
                id: *id,
            };
            let declaration = sheet.declaration(*id);
            let shown = format!(
                "{}: {}",
                sheet.name_source(declaration),
                fold(sheet.value_source(declaration))
            );
            let several = (ids.len() > 1).then(|| shown.clone());
            if let Some(mut obstacle) = self.unusable(reference) {
                obstacle.declaration = several;
                finding.obstacles.push(obstacle);
                continue;
            }
            let Some(name) = PropertyName::parse(sheet.name_source(declaration)) else {
                continue;
            };
            let rank = Rank {
                origin: rule.origin,
                important: declaration.important.is_some(),
                context: rule.depth,
                attached: false,
                layer: rule.layer_order,
                specificity: selector.map(|s| s.specificity).unwrap_or_default(),
                proximity: u32::MAX,
                order: (rule.sheet, id.index() as u32),
            };
            for longhand in longhands(&name) {
                let property = self.styles.physical(self.target, &longhand);
                let contest = self.styles.contest(self.target, &property).contest;
                let Some(winner) = contest.winning() else {
                    continue;
                };
                if rank.compare(&winner.rank).0.is_lt() {
                    let mut obstacle = self.lost(reference, rank, winner, &shown, several.clone());
                    obstacle.sentence = format!("even if it matched, {}", obstacle.sentence);
                    finding.obstacles.push(obstacle);
                    break;
                }
            }
        }
    }

    fn effectless(&self, name: &PropertyName, value: &str) -> Option<Obstacle> {
        let mut reasons = longhands(name).into_iter().map(|longhand| {
            let property = self.styles.physical(self.target, &longhand);
            effect::no_effect(self.styles, self.target, &property, value)
        });
        let first = reasons.next()??;
        // A shorthand has no effect where none of its longhands has.
        reasons
            .all(|reason| reason.is_some())
            .then(|| Obstacle::new("no-effect", first))
    }
}

/// How to ask as if an element were in the state that a selector wants.
fn pretend(state: &str, miss: &crate::selector::Miss) -> Option<String> {
    let name = state.strip_prefix(':')?;
    crate::selector::State::named(name)?;
    Some(match miss.relation {
        Relation::Subject => format!("it is a state: ask with --as :{name}"),
        _ => format!("it is a state: ask with --at SELECTOR :{name}"),
    })
}

fn bare(obstacle: Obstacle) -> Finding {
    Finding {
        rule: None,
        place: obstacle.place.clone(),
        obstacles: vec![obstacle],
        effective: Vec::new(),
        remedies: Vec::new(),
    }
}

fn longhands(name: &PropertyName) -> Vec<PropertyName> {
    match name {
        PropertyName::Known(id) => {
            let reset: Vec<PropertyId> = id
                .facts()
                .reset_only
                .iter()
                .filter_map(|name| PropertyId::named(name))
                .flat_map(|p| p.longhands().iter().copied())
                .collect();
            let all = id.longhands().iter().copied();
            all.filter(|p| !reset.contains(p))
                .map(PropertyName::Known)
                .collect()
        }
        PropertyName::Custom(_) => vec![name.clone()],
    }
}

fn first_longhands(name: &PropertyName) -> Vec<PropertyName> {
    longhands(name)
}

/// White space and letter case aside.
fn normal(text: &str) -> String {
    let tokens = value_tokens(text);
    let mut out = String::new();
    for token in &tokens {
        if token.kind.is_blank() {
            if !out.is_empty() && !out.ends_with(' ') {
                out.push(' ');
            }
        } else {
            let source = token.source(text);
            let tight = matches!(source, ">" | "+" | "~" | ",");
            if tight {
                out.truncate(out.trim_end().len());
            }
            let after = out.ends_with(['>', '+', '~', ',']);
            if after {
                out.truncate(out.trim_end().len());
            }
            out.push_str(&source.to_ascii_lowercase());
        }
    }
    let mut folded = String::new();
    for part in out.trim().split_inclusive(['>', '+', '~', ',']) {
        folded.push_str(part.trim_start());
    }
    folded
}

/// The innermost rule at a line that an element can be matched against, and the declaration that
/// stands in the line.
fn rule_at(sheet: &Sheet, line: u32) -> Option<(RuleId, Option<DeclarationId>)> {
    let text = sheet.text();
    let on = |span: TextRange| {
        let first = text.place(span.start()).line;
        let last = text
            .place(span.end().max(span.start() + TextSize::from(1)) - TextSize::from(1))
            .line;
        (first..=last).contains(&line)
    };
    let mut found: Option<(RuleId, TextRange)> = None;
    for (id, rule) in sheet.rules() {
        if !on(rule.span) || rule.kind == RuleKind::Attribute {
            continue;
        }
        let holds = rule.kind == RuleKind::Style || sheet.declarations_of(id).next().is_some();
        if holds && found.is_none_or(|(_, span)| rule.span.len() <= span.len()) {
            found = Some((id, rule.span));
        }
    }
    let (id, span) = found?;
    let mut declarations = sheet.declarations_of(id).filter(|(_, d)| on(d.span));
    let head = text.place(span.start()).line == line;
    let declaration = declarations.next().map(|(id, _)| id).filter(|_| !head);
    Some((id, declaration))
}
