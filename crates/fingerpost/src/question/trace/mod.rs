//! `trace`: every rule that matches an element, strongest first, and what it inherits.
//!
//! ```
//! use fingerpost::prelude::*;
//!
//! let html = "<style>p { color: teal; top: 0 } .a { color: navy }</style><p class=a>Boats";
//! let page = Page::new(Text::new("a.html", html));
//! let ask = page.ask();
//! let answer = ask.trace(&ask.find_one("p")?);
//! assert_eq!(answer.rules[0].rule.selector, ".a");
//! let lost = &answer.rules[1].declarations[0];
//! assert_eq!(lost.standing.as_str(), "beaten");
//! assert_eq!(lost.beaten_by[0].sentence, "loses on specificity: (0,0,1) against (0,1,0)");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod answer;

pub use answer::{
    BeatenAnswer, FailureAnswer, IdleDeclaration, IdleGroup, InheritedAnswer, ProblemAnswer,
    RuleAnswer, TraceAnswer, TracedDeclaration, UnreadAnswer,
};
use std::collections::HashMap;

use crate::cascade::{Origin, Rank, Standing};
use crate::markup::ElementId;
use crate::page::{
    DeclarationRef, Page, PropertyContest, PropertyName, Row, SheetRef, Styles, Target, ValueSource,
};
use crate::question::codes::{DeclarationStanding, IdleReason};
use crate::question::contrast::contrast;
use crate::question::describe::{self, ElementSummary};
use crate::selector::{PseudoElement, Selector};
use crate::sheet::RuleId;
use crate::text::Place;
use crate::value::PropertyId;
use crate::value::declared::Name;

/// Every rule that reaches a target.
pub(crate) fn trace(styles: &Styles<'_>, target: &Target) -> TraceAnswer {
    let page = styles.page();
    let document = page.document();
    let mut trail = document.trail(target.element);
    trail.pop();
    let mut tracer = Tracer {
        styles,
        contests: HashMap::new(),
    };
    let rules = tracer.rules(target, |_| true);
    let inherited = tracer.inherited(target);
    let pseudo_elements = match target.pseudo {
        Some(_) => Vec::new(),
        None => of_authors(styles, target.element),
    };
    TraceAnswer {
        idle: idle(&rules),
        page: document.text().name().to_owned(),
        element: ElementSummary::of_target(page, target),
        trail: trail
            .into_iter()
            .map(|id| ElementSummary::new(page, id))
            .collect(),
        rules,
        inherited,
        pseudo_elements,
        contrast: contrast(styles, target),
        failures: failures(page),
        unread: unread(styles),
        problems: problems(styles),
    }
}

/// The pseudo-elements of an element that rules of the site or its reader speak of; the browser's own sheet
/// speaks of a dozen on any element.
fn of_authors(styles: &Styles<'_>, element: ElementId) -> Vec<String> {
    let rules = styles.page().rules();
    let mut found: Vec<PseudoElement> = styles
        .all_matched(element)
        .into_iter()
        .filter(|(_, matched)| rules[matched.rule as usize].origin > Origin::UserAgent)
        .filter_map(|(pseudo, _)| pseudo)
        .collect();
    let element = styles.page().document().element(element);
    found.retain(|pseudo| pseudo.can_be_of(element));
    found.sort();
    found.dedup();
    found.iter().map(ToString::to_string).collect()
}

/// What of the rules does nothing, under its reason.
fn idle(rules: &[RuleAnswer]) -> Vec<IdleGroup> {
    let mut groups: Vec<IdleGroup> = Vec::new();
    for rule in rules {
        for declaration in &rule.declarations {
            let (reason, condition) = match declaration.standing {
                DeclarationStanding::Blocked => (IdleReason::Condition, rule.blocked.clone()),
                DeclarationStanding::Beaten => (IdleReason::Beaten, None),
                DeclarationStanding::UnknownProperty => (IdleReason::UnknownProperty, None),
                DeclarationStanding::InvalidValue => (IdleReason::InvalidValue, None),
                DeclarationStanding::Wins | DeclarationStanding::WinsInPart => continue,
            };
            let known = groups
                .iter_mut()
                .find(|g| g.reason == reason && g.condition == condition);
            let idle = IdleDeclaration {
                selector: rule.rule.selector.clone(),
                declaration: declaration.clone(),
            };
            match known {
                Some(group) => group.declarations.push(idle),
                None => groups.push(IdleGroup {
                    reason,
                    condition,
                    declarations: vec![idle],
                }),
            }
        }
    }
    groups.sort_by_key(|group| group.reason);
    groups
}

/// The sheets of a page that did not load.
pub(super) fn failures(page: &Page) -> Vec<FailureAnswer> {
    let all = page.failures().iter();
    all.map(|f| FailureAnswer {
        url: f.url.clone(),
        place: f.text.place(f.span.start()),
        reason: f.error.to_string(),
    })
    .collect()
}

/// What could not be read in the page, its sheets, and the target's style attribute.
fn problems(styles: &Styles<'_>) -> Vec<ProblemAnswer> {
    let page = styles.page();
    let document = page.document();
    let markup = document.problems().iter().map(|p| ProblemAnswer {
        place: document.text().place(p.span.start()),
        message: p.message.clone(),
    });
    let sheets = page.sheets().iter().flat_map(|page_sheet| {
        let sheet = page_sheet.styles.sheet();
        sheet.problems().iter().map(|p| ProblemAnswer {
            place: sheet.place(p.span.start()),
            message: p.message.clone(),
        })
    });
    markup.chain(sheets).collect()
}

/// The rules of the site's sheets that no element can be matched against.
fn unread(styles: &Styles<'_>) -> Vec<UnreadAnswer> {
    let page = styles.page();
    let mut found = Vec::new();
    for style_rule in page.rules() {
        let reason = match &style_rule.selectors {
            Err(error) => format!("its selector is invalid: {}", error.message),
            Ok(list) => {
                let parts: Vec<&str> = list.selectors.iter().flat_map(Selector::not_yet).collect();
                if parts.is_empty() {
                    continue;
                }
                format!("{} is not matched yet", parts.join(", "))
            }
        };
        let sheet = page.sheets()[style_rule.sheet as usize].styles.sheet();
        let rule = sheet.rule(style_rule.rule);
        found.push(UnreadAnswer {
            selector: describe::fold(sheet.prelude_source(rule)),
            place: sheet.place(rule.span.start()),
            reason,
        });
    }
    found
}

struct Tracer<'a, 'p> {
    styles: &'a Styles<'p>,
    contests: HashMap<(Target, PropertyName), Decided>,
}

/// A contest, and where in it each declaration stands.
struct Decided {
    contest: PropertyContest,
    places: HashMap<DeclarationRef, usize>,
}

impl Tracer<'_, '_> {
    fn contest(&mut self, target: &Target, property: &PropertyName) -> &Decided {
        let styles = self.styles;
        let property = styles.physical(target, property);
        self.contests
            .entry((target.clone(), property.clone()))
            .or_insert_with(|| {
                let contest = styles.contest(target, &property);
                let all = contest.contest.contenders.iter().enumerate();
                let places = all.map(|(at, c)| (c.declaration, at)).collect();
                Decided { contest, places }
            })
    }

    /// The rules of a target, strongest first, with the declarations that `keep` wants.
    fn rules(
        &mut self,
        target: &Target,
        keep: impl Fn(&TracedDeclaration) -> bool,
    ) -> Vec<RuleAnswer> {
        let mut groups: Vec<((SheetRef, RuleId), Vec<Row>)> = Vec::new();
        for row in self.styles.declarations(target) {
            let sheet = self.styles.sheet(row.0.sheet);
            let key = (row.0.sheet, sheet.sheet().declaration(row.0.id).rule);
            match groups.last_mut() {
                Some((last, rows)) if *last == key => rows.push(row),
                _ => groups.push((key, vec![row])),
            }
        }
        // A rule as a whole stands where its normal declarations stand.
        groups.sort_by(|(_, a), (_, b)| {
            let plain = |rows: &[Row]| Rank {
                important: false,
                ..rows[0].1
            };
            plain(b).compare(&plain(a)).ordering
        });
        let mut answers = Vec::new();
        for (_, rows) in groups {
            let first = rows[0].0;
            let blocked = rows[0].2.clone();
            let declarations: Vec<TracedDeclaration> = rows
                .iter()
                .map(|row| self.declaration(target, row))
                .filter(|d| keep(d))
                .collect();
            if declarations.is_empty() {
                continue;
            }
            answers.push(RuleAnswer {
                rule: describe::rule_of(self.styles, target, first),
                blocked: blocked.map(|b| describe::blocked(self.styles.page(), &b)),
                declarations,
            });
        }
        answers
    }

    fn declaration(&mut self, target: &Target, row: &Row) -> TracedDeclaration {
        let (reference, rank, blocked) = row;
        let styles = self.styles;
        let style_sheet = styles.sheet(reference.sheet);
        let mut answer = TracedDeclaration {
            property: describe::name_of(styles, *reference),
            value: describe::value_of(styles, *reference),
            important: rank.important,
            place: describe::declaration_place(styles, *reference),
            standing: DeclarationStanding::Blocked,
            beaten_by: Vec::new(),
            remark: None,
        };
        let name = &style_sheet.reading(reference.id).name;
        if let Name::Unknown = name {
            let near = PropertyId::nearest(&answer.property);
            answer.standing = DeclarationStanding::UnknownProperty;
            answer.remark = Some(match near {
                Some(near) => format!("no property has this name; do you mean '{near}'?"),
                None => "no property has this name".to_owned(),
            });
            return answer;
        }
        if let Some(mismatch) = style_sheet.misfit(reference.id) {
            answer.standing = DeclarationStanding::InvalidValue;
            answer.remark = Some(describe::misfit(styles, *reference, &mismatch));
            return answer;
        }
        if blocked.is_some() {
            return answer;
        }
        let properties: Vec<PropertyName> = match name {
            Name::Property(property) => property
                .longhands()
                .iter()
                .copied()
                .map(PropertyName::Known)
                .collect(),
            _ => vec![PropertyName::Custom(answer.property.as_str().into())],
        };
        let mut won = 0;
        for property in &properties {
            let place = answer.place.clone();
            match self.lost(target, property, *reference, &place) {
                None => won += 1,
                Some(beaten) => {
                    let known = answer
                        .beaten_by
                        .iter_mut()
                        .find(|b| b.place == beaten.place && b.criterion == beaten.criterion);
                    match known {
                        Some(known) => known.properties.extend(beaten.properties),
                        None => answer.beaten_by.push(beaten),
                    }
                }
            }
        }
        answer.standing = match won {
            0 => DeclarationStanding::Beaten,
            _ if won == properties.len() => DeclarationStanding::Wins,
            _ => DeclarationStanding::WinsInPart,
        };
        answer
    }

    /// What beat a declaration on a property; none where it wins.
    fn lost(
        &mut self,
        target: &Target,
        property: &PropertyName,
        reference: DeclarationRef,
        place: &Place,
    ) -> Option<BeatenAnswer> {
        let styles = self.styles;
        let decided = self.contest(target, property);
        let contenders = &decided.contest.contest.contenders;
        let mine = &contenders[*decided.places.get(&reference)?];
        let Standing::Loses { on, to } = mine.standing else {
            return None;
        };
        let (mine, winner) = (mine.clone(), contenders[to].clone());
        let rule = describe::rule_of(styles, target, winner.declaration);
        let own_rule = describe::rule_of(styles, target, reference);
        let winner_place = describe::declaration_place(styles, winner.declaration);
        let sentence = describe::loss(
            on,
            (&mine.rank, place, own_rule.layer.as_deref()),
            (&winner.rank, &winner_place, rule.layer.as_deref()),
        );
        Some(BeatenAnswer {
            properties: vec![property.to_string()],
            place: winner_place,
            selector: rule.selector,
            criterion: on,
            sentence,
        })
    }

    /// The inherited properties that an ancestor's declarations give the target.
    fn inherited(&mut self, target: &Target) -> Vec<InheritedAnswer> {
        let page = self.styles.page();
        let document = page.document();
        let ancestors: Vec<Target> = document
            .ancestors_and_self(target.element)
            .skip(usize::from(target.pseudo.is_none()))
            .map(Target::from)
            .collect();
        let passed: Vec<Vec<PropertyName>> = ancestors.iter().map(|a| self.decided(a)).collect();
        let own = self.decided(target);
        let used = self.variables(target, own.iter().chain(passed.iter().flatten()));
        // Set by the target itself, or by an ancestor nearer than the one looked at.
        let mut taken = own;
        let mut answers = Vec::new();
        for (ancestor, decided) in ancestors.iter().zip(passed) {
            let mut unused = 0;
            let styles = self.styles;
            let gives = |declaration: &TracedDeclaration| {
                if !declaration.standing.wins() {
                    return false;
                }
                let Some(name) = PropertyName::named(&declaration.property) else {
                    return false;
                };
                longhands(&name).iter().any(|longhand| {
                    styles.inherits(longhand)
                        && decided.contains(longhand)
                        && !taken.contains(longhand)
                })
            };
            let mut rules = self.rules(ancestor, gives);
            for rule in &mut rules {
                let before = rule.declarations.len();
                rule.declarations
                    .retain(|d| !d.property.starts_with("--") || used.contains(&d.property));
                unused += before - rule.declarations.len();
            }
            rules.retain(|rule| !rule.declarations.is_empty());
            if !rules.is_empty() || unused > 0 {
                answers.push(InheritedAnswer {
                    from: ElementSummary::new(page, ancestor.element),
                    rules,
                    unused_custom_properties: unused,
                });
            }
            taken.extend(decided);
        }
        answers
    }

    /// The custom properties that the target's values go through.
    fn variables<'n>(
        &self,
        target: &Target,
        properties: impl Iterator<Item = &'n PropertyName>,
    ) -> Vec<String> {
        let mut names = Vec::new();
        for property in properties {
            if matches!(property, PropertyName::Custom(_)) {
                continue;
            }
            let value = self.styles.value(target, property);
            let above = match &value.source {
                ValueSource::Inherited { from } => {
                    Some(self.styles.value(&Target::from(*from), property))
                }
                _ => None,
            };
            let above = above.iter().flat_map(|v| v.variables.iter());
            for step in value.variables.iter().chain(above) {
                if !names.iter().any(|name: &String| **name == *step.name) {
                    names.push(step.name.to_string());
                }
            }
        }
        names
    }

    /// The properties for which some declaration of the target wins.
    fn decided(&mut self, target: &Target) -> Vec<PropertyName> {
        let mut found: Vec<PropertyName> = Vec::new();
        for (reference, _, blocked) in self.styles.declarations(target) {
            if blocked.is_some() {
                continue;
            }
            let name = describe::name_of(self.styles, reference);
            let Some(name) = PropertyName::named(&name) else {
                continue;
            };
            for longhand in longhands(&name) {
                if !found.contains(&longhand)
                    && self
                        .contest(target, &longhand)
                        .contest
                        .contest
                        .winner
                        .is_some()
                {
                    found.push(longhand);
                }
            }
        }
        found
    }
}

fn longhands(name: &PropertyName) -> Vec<PropertyName> {
    match name {
        PropertyName::Known(property) => property
            .longhands()
            .iter()
            .copied()
            .map(PropertyName::Known)
            .collect(),
        PropertyName::Custom(_) => vec![name.clone()],
    }
}
