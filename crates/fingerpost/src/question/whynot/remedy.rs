//! What would win: the smallest honest changes with which a beaten declaration beats the winner.
//! Each is tried on the ranks before it is said.

use serde::{Deserialize, Serialize};

use crate::cascade::{Appearance, Comparison, Criterion, LayerOrder, Origin, Rank};
use crate::markup::ElementId;
use crate::page::{DeclarationRef, Page, PropertyName, SheetRef, Styles, Target};
use crate::question::classes::{ClassMentions, MOST_OF_UTILITY};
use crate::question::codes::RemedyKind;
use crate::question::{Meaning, Utilities};
use crate::selector::{Matcher, SelectorList, Specificity, escaped};
use crate::text::Place;

/// How many selectors are offered.
const MOST_SELECTORS: usize = 3;

/// A change that would make a declaration win.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Remedy {
    /// What kind of change.
    pub kind: RemedyKind,
    /// What to do, in a sentence.
    pub sentence: String,
    /// Where.
    pub place: Option<Place>,
    /// The selector to write.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub selector: Option<String>,
    /// Its specificity.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub specificity: Option<Specificity>,
    /// Whether it is good for a test only, to be undone.
    pub test_only: bool,
    /// What trying it showed; none where it was not tried, or can't be.
    #[serde(flatten)]
    pub trial: Option<Trial>,
    /// What it results in, one change after the other; none where no edit does it.
    #[serde(skip)]
    pub(crate) steps: Vec<Step>,
    /// The declarations that it is to help, each a property and a value.
    #[serde(skip)]
    pub(crate) wants: Vec<(String, String)>,
}

/// What trying a remedy on the site showed.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Trial {
    /// What else it changes, in half a sentence; none where nothing else changes.
    pub others: Option<String>,
    /// The theme's other environments in which the element stays as it is, in words.
    pub untouched: Vec<String>,
}

/// One change that a remedy is made of.
#[derive(Clone, Debug, PartialEq)]
pub(crate) enum Step {
    /// A rule goes after another one.
    MoveAfter { rule: Place, other: Place },
    /// One selector of a rule becomes another one.
    Selector {
        rule: Place,
        from: String,
        to: String,
    },
    /// A rule gets one selector more.
    AddSelector { rule: Place, selector: String },
    /// A new rule with the declaration.
    NewRule { selector: String },
    /// A declaration is no longer `!important`.
    RemoveImportant { at: Place },
    /// The declaration of the style attribute is removed.
    RemoveInline,
    /// The element loses a class.
    RemoveClass { class: String },
    /// A declaration of a rule is removed.
    RemoveAt { at: Place },
    /// The declaration is put at the end of a rule.
    Put { rule: Place },
    /// The declaration is marked `!important`.
    Mark { at: Place },
}

impl Remedy {
    fn new(kind: RemedyKind, sentence: String, place: Option<&Place>) -> Remedy {
        Remedy {
            kind,
            sentence,
            place: place.cloned(),
            selector: None,
            specificity: None,
            test_only: false,
            trial: None,
            steps: Vec::new(),
            wants: Vec::new(),
        }
    }

    fn with(self, step: Option<Step>) -> Remedy {
        Remedy {
            steps: step.into_iter().collect(),
            ..self
        }
    }
}

/// A declaration that wants to win.
pub(super) struct Loser<'a> {
    /// Where it stands among the others.
    pub rank: Rank,
    /// The selector of its rule, where it can be rewritten.
    pub selector: Option<&'a str>,
    /// Where it stands; none where no one wrote it yet.
    pub stand: Option<&'a DeclarationSite>,
}

/// Where a declaration stands.
pub(super) struct DeclarationSite {
    /// The declaration.
    pub at: Place,
    /// Its rule; none in a style attribute.
    pub rule: Option<Place>,
    /// The outermost rule around it, and the place where that ends.
    pub outermost: Option<(Place, Place)>,
}

impl DeclarationSite {
    /// Where a declaration of a page stands.
    pub fn of(styles: &Styles<'_>, reference: DeclarationRef) -> DeclarationSite {
        let at = super::describe::declaration_place(styles, reference);
        let SheetRef::Listed(_) = reference.sheet else {
            return DeclarationSite {
                at,
                rule: None,
                outermost: None,
            };
        };
        let style_sheet = styles.sheet(reference.sheet);
        let sheet = style_sheet.sheet();
        let own = sheet.declaration(reference.id).rule;
        let parents = std::iter::successors(Some(own), |id| sheet.rule(*id).parent);
        let outermost = sheet.rule(parents.last().unwrap_or(own)).span;
        DeclarationSite {
            at,
            rule: Some(sheet.place(sheet.rule(own).span.start())),
            outermost: Some((sheet.place(outermost.start()), sheet.place(outermost.end()))),
        }
    }

    /// Whether some at-rule is around its rule.
    fn is_enclosed(&self) -> bool {
        let outermost = self.outermost.as_ref().map(|(start, _)| start);
        outermost != self.rule.as_ref()
    }
}

/// The one that it must beat.
#[derive(Clone, Copy)]
pub(super) struct Winner<'a> {
    pub rank: Rank,
    pub place: &'a Place,
    /// Its rule, as it is named.
    pub rule: &'a str,
    pub layer: Option<&'a str>,
    pub sheet: SheetRef,
    pub stand: &'a DeclarationSite,
    /// The class without which its rule would not match, where that is a class of looks.
    pub class: Option<&'a str>,
}

/// The class that a declaration's rule is about and nothing else, where it is one of looks: its name says so, or its only rule sets
/// little.
pub(super) fn class_alone(
    styles: &Styles<'_>,
    target: &Target,
    reference: DeclarationRef,
) -> Option<String> {
    let SheetRef::Listed(at) = reference.sheet else {
        return None;
    };
    let page = styles.page();
    let sheet = page.sheet(at).styles.sheet();
    let rule = sheet.declaration(reference.id).rule;
    let (matched, style_rule) = styles.matched_rule(target, at, rule)?;
    let list = style_rule.selectors.as_ref().ok()?;
    let selector = list.selectors.get(matched.selector as usize)?;
    let class = selector.only_class()?;
    let is_small = || {
        sheet.declarations_of(rule).count() <= MOST_OF_UTILITY
            && ClassMentions::of(page).rules_about(class).count() == 1
    };
    (Utilities::of(page.document()).has(class) || is_small()).then(|| class.to_string())
}

/// The class of looks that gives a property its value.
pub(crate) fn class_of_winner(
    styles: &Styles<'_>,
    target: &Target,
    name: &PropertyName,
) -> Option<String> {
    let longhand = match name {
        PropertyName::Known(id) => PropertyName::Known(*id.longhands().first()?),
        custom @ PropertyName::Custom(_) => custom.clone(),
    };
    let contest = styles.contest(target, &longhand).contest;
    class_alone(styles, target, contest.winning()?.declaration)
}

pub(super) fn remedies(
    styles: &Styles<'_>,
    target: &Target,
    loser: &Loser<'_>,
    winner: &Winner<'_>,
) -> Vec<Remedy> {
    let mut found = Vec::new();
    let wins = |rank: Rank| rank.compare(&winner.rank).ordering.is_gt();
    let criterion = loser.rank.compare(&winner.rank).criterion;
    let late = Rank {
        order: Appearance::new(u32::MAX, u32::MAX),
        ..loser.rank
    };
    let own_rule = loser.stand.and_then(|stand| stand.rule.as_ref());
    let same_rule = own_rule.is_some() && own_rule == winner.stand.rule.as_ref();
    if wins(late) {
        found.push(match same_rule {
            true => moved_in_rule(loser, winner),
            false => moved_after(loser, winner),
        });
    }
    if criterion == Criterion::OriginAndImportance && winner.rank.important {
        found.extend(drop_important(styles, target, loser, winner));
    }
    if winner.rank.attached && winner.rank.important == loser.rank.important {
        let remedy = Remedy::new(
            RemedyKind::StyleAttribute,
            format!(
                "remove the declaration from the style attribute, {}",
                winner.place
            ),
            Some(winner.place),
        );
        found.push(remedy.with(Some(Step::RemoveInline)));
    }
    if let Some(class) = winner.class
        && loser.stand.is_some()
    {
        let sentence = format!("take the class {class} off the element");
        let class = class.to_owned();
        let remedy = Remedy::new(RemedyKind::Class, sentence, Some(winner.place));
        found.push(remedy.with(Some(Step::RemoveClass { class })));
    }
    found.extend(layer(loser, winner));
    if criterion == Criterion::Proximity {
        found.push(Remedy::new(
            RemedyKind::Scope,
            format!(
                "put it into a scope whose root is nearer to the element than that of {}",
                winner.rule
            ),
            Some(winner.place),
        ));
    }
    let by_selector = matches!(
        criterion,
        Criterion::Specificity | Criterion::Proximity | Criterion::Order
    );
    if by_selector && !loser.rank.attached && !same_rule {
        found.extend(raised(styles, target, loser, winner));
    }
    let marked = Rank {
        important: true,
        ..loser.rank
    };
    if !loser.rank.important && loser.rank.origin == Origin::Author && wins(marked) {
        found.push(marked_important(loser));
    }
    found
}

/// The declaration after the winner, in the same rule.
fn moved_in_rule(loser: &Loser<'_>, winner: &Winner<'_>) -> Remedy {
    let sentence = format!(
        "move the declaration after the one on line {}, in the same rule",
        winner.place.line
    );
    let stand = loser
        .stand
        .and_then(|stand| Some((stand.at.clone(), stand.rule.clone()?)));
    Remedy {
        steps: stand.map_or_else(Vec::new, |(at, rule)| {
            vec![Step::RemoveAt { at }, Step::Put { rule }]
        }),
        ..Remedy::new(RemedyKind::Move, sentence, Some(winner.place))
    }
}

/// The declaration's rule after the winner's.
fn moved_after(loser: &Loser<'_>, winner: &Winner<'_>) -> Remedy {
    let file = loser.stand.map(|stand| &stand.at.file);
    let outermost = winner.stand.outermost.as_ref();
    let line = outermost.map_or(winner.place.line, |(_, end)| end.line);
    let it = match loser.stand.is_some_and(DeclarationSite::is_enclosed) {
        true => "it, with the rule around it,",
        false => "it",
    };
    let sentence = match file {
        Some(file) if *file != winner.place.file => format!(
            "move {it} from {file} to {}, line {line}, after {}",
            winner.place.file, winner.rule
        ),
        _ => format!("move {it} after {}, line {line}", winner.rule),
    };
    Remedy::new(RemedyKind::Move, sentence, Some(winner.place)).with(behind(loser, winner))
}

fn marked_important(loser: &Loser<'_>) -> Remedy {
    let sentence = "mark it !important to see whether it helps, then undo it".to_owned();
    let at = loser.stand.map(|stand| stand.at.clone());
    Remedy {
        test_only: true,
        ..Remedy::new(RemedyKind::Important, sentence, None).with(at.map(|at| Step::Mark { at }))
    }
}

/// The loser's outermost rule after the winner's.
fn behind(loser: &Loser<'_>, winner: &Winner<'_>) -> Option<Step> {
    let (rule, _) = loser.stand?.outermost.clone()?;
    let (other, _) = winner.stand.outermost.clone()?;
    Some(Step::MoveAfter { rule, other })
}

fn drop_important(
    styles: &Styles<'_>,
    target: &Target,
    loser: &Loser<'_>,
    winner: &Winner<'_>,
) -> Option<Remedy> {
    if winner.rank.origin != Origin::Author {
        return None;
    }
    let plain = Rank {
        important: false,
        ..winner.rank
    };
    let Comparison {
        ordering,
        criterion,
    } = loser.rank.compare(&plain);
    let mut sentence = format!("take the !important off {}, {}", winner.rule, winner.place);
    let at = winner.place.clone();
    let mut steps = vec![Step::RemoveImportant { at }];
    if ordering.is_lt() {
        let more = Winner {
            rank: plain,
            ..*winner
        };
        let next = remedies(styles, target, loser, &more)
            .into_iter()
            .find(|remedy| !remedy.test_only);
        match next {
            Some(next) => {
                sentence.push_str(&format!(", and {}", next.sentence));
                steps.extend(next.steps);
            }
            None => sentence.push_str(&format!("; it would still lose on {criterion}")),
        }
    }
    Some(Remedy {
        steps,
        ..Remedy::new(RemedyKind::RemoveImportant, sentence, Some(winner.place))
    })
}

fn layer(loser: &Loser<'_>, winner: &Winner<'_>) -> Vec<Remedy> {
    let mut found = Vec::new();
    let criterion = loser.rank.compare(&winner.rank).criterion;
    if criterion != Criterion::Layers {
        return found;
    }
    let with = |layer| Rank {
        layer,
        order: Appearance::new(u32::MAX, u32::MAX),
        ..loser.rank
    };
    let wins = |rank: Rank| rank.compare(&winner.rank).ordering.is_gt();
    if wins(with(LayerOrder::UNLAYERED)) {
        let (at, other) = match &winner.stand.outermost {
            Some((start, end)) => (end, Some(start.clone())),
            None => (winner.place, None),
        };
        let remedy = Remedy::new(
            RemedyKind::Layer,
            format!(
                "move it out of its layer, after line {} of {}: what is in no layer is stronger",
                at.line, at.file
            ),
            None,
        );
        // A layer that an @import names is not around the rule.
        let out = loser
            .stand
            .filter(|stand| stand.is_enclosed())
            .and_then(|stand| {
                Some(Step::MoveAfter {
                    rule: stand.rule.clone()?,
                    other: other?,
                })
            });
        found.push(remedy.with(out));
    }
    if let Some(name) = winner.layer {
        let Comparison {
            ordering,
            criterion: then,
        } = with(winner.rank.layer).compare(&winner.rank);
        let sentence = if ordering.is_gt() {
            format!("put it into layer {name}, after {}", winner.place)
        } else {
            format!(
                "put it into layer {name}; there it would meet {} on {then}",
                winner.rule
            )
        };
        let remedy = Remedy::new(RemedyKind::Layer, sentence, Some(winner.place));
        let into = loser.stand.and_then(|stand| {
            Some(Step::MoveAfter {
                rule: stand.rule.clone()?,
                other: winner.stand.rule.clone()?,
            })
        });
        found.push(remedy.with(into.filter(|_| ordering.is_gt())));
    }
    found
}

/// The selector raised: one more class or ancestor that the element has anyway.
fn raised(
    styles: &Styles<'_>,
    target: &Target,
    loser: &Loser<'_>,
    winner: &Winner<'_>,
) -> Vec<Remedy> {
    let page = styles.page();
    let utilities = Utilities::of(page.document());
    let mut options: Vec<StrongSelector> = Vec::new();
    for (text, is_padding) in candidates(page, target, loser.selector) {
        let Some((list, specificity)) = matching(page, target, &text) else {
            continue;
        };
        let rank = Rank {
            specificity,
            ..loser.rank
        };
        let here = rank.compare(&winner.rank).ordering.is_gt();
        let late = Rank {
            order: Appearance::new(u32::MAX, u32::MAX),
            ..rank
        };
        if here || late.compare(&winner.rank).ordering.is_gt() {
            options.push(StrongSelector {
                must_move: !here,
                is_padding,
                // A rule that is there finds whom it finds; a new one is for this element.
                finds_others: loser.selector.is_none() && finds_others(page, target, &list),
                meaning: utilities.meaning(&list),
                specificity,
                length: text.len(),
                selector: text,
            });
        }
    }
    options.sort();
    options.dedup_by(|a, b| a.selector == b.selector);
    let any_here = options.iter().any(|o| !o.must_move);
    let any_honest = options
        .iter()
        .any(|o| !o.is_padding && (!o.must_move || !any_here));
    options
        .into_iter()
        .filter(|o| (!o.must_move || !any_here) && (!o.is_padding || !any_honest))
        .take(MOST_SELECTORS)
        .map(|o| with_selector(loser, winner, o.selector, o.specificity, !o.must_move))
        .collect()
}

/// A selector with which the declaration would win. Those that win where they are come first, then what finds no other element, then
/// the most telling and of those the lightest. A name said twice is for where nothing else helps.
#[derive(PartialEq, Eq, PartialOrd, Ord)]
struct StrongSelector {
    must_move: bool,
    is_padding: bool,
    finds_others: bool,
    meaning: Meaning,
    specificity: Specificity,
    length: usize,
    selector: String,
}

/// Whether a selector finds other elements of the page than the asked one.
fn finds_others(page: &Page, target: &Target, list: &SelectorList) -> bool {
    let mut bare = list.clone();
    for selector in &mut bare.selectors {
        selector.pseudo_element = None;
    }
    let matcher = Matcher::new(page.document(), page.states());
    let mut all = page.document().elements().iter();
    all.any(|id| *id != target.element && matcher.matches_list(&bare, *id))
}

/// The remedy of a stronger selector, which wins `here`, or only after the winner.
fn with_selector(
    loser: &Loser<'_>,
    winner: &Winner<'_>,
    selector: String,
    specificity: Specificity,
    here: bool,
) -> Remedy {
    let beside = winner.rank.specificity;
    let sentence = match (loser.selector, here) {
        (Some(_), true) if specificity == beside => format!(
            "raise its selector to {selector}  {specificity}, as specific as {}, and it is declared later",
            winner.rule
        ),
        (Some(_), true) => {
            format!("raise its selector to {selector}  {specificity} against {beside}")
        }
        (Some(_), false) => format!(
            "raise its selector to {selector}  {specificity}, as strong as {}, and move it after {}",
            winner.rule, winner.place
        ),
        (None, _) => format!(
            "write a rule {selector}  {specificity} after {}{}",
            winner.place,
            match winner.sheet {
                SheetRef::Listed(_) => "",
                _ => " has gone",
            }
        ),
    };
    let rule = loser.stand.and_then(|stand| stand.rule.clone());
    let mut steps = vec![match (loser.selector, rule) {
        (Some(from), Some(rule)) => Step::Selector {
            rule,
            from: from.to_owned(),
            to: selector.clone(),
        },
        _ => Step::NewRule {
            selector: selector.clone(),
        },
    }];
    if !here {
        steps.extend(behind(loser, winner));
    }
    Remedy {
        selector: Some(selector),
        specificity: Some(specificity),
        steps,
        ..Remedy::new(RemedyKind::Selector, sentence, Some(winner.place))
    }
}

/// A selector that matches the asked element, with its specificity.
fn matching(page: &Page, target: &Target, text: &str) -> Option<(SelectorList, Specificity)> {
    let list = SelectorList::parse(text).ok()?;
    let [selector] = &list.selectors[..] else {
        return None;
    };
    let matcher = Matcher::new(page.document(), page.states());
    let specificity = selector.specificity;
    let matches =
        selector.pseudo_element == target.pseudo && matcher.matches(selector, target.element);
    matches.then_some((list, specificity))
}

/// Selectors that the element has anyway, made from the one that it is matched by; each with whether it only
/// says a name twice.
fn candidates(page: &Page, target: &Target, selector: Option<&str>) -> Vec<(String, bool)> {
    let document = page.document();
    let element = document.element(target.element);
    let pseudo = target
        .pseudo
        .as_ref()
        .map(ToString::to_string)
        .unwrap_or_default();
    let mut bases: Vec<String> = Vec::new();
    match selector {
        Some(text) => bases.push(text.strip_suffix(&pseudo).unwrap_or(text).to_owned()),
        None => {
            bases.extend(element.classes().map(|c| format!(".{}", escaped(c))));
            bases.push(element.name.to_string());
        }
    }
    let above = names_above(page, target.element);
    let mut found = bases.clone();
    for base in &bases {
        let own = |name: &str| base.contains(name);
        let classes = element.classes().map(|c| format!(".{}", escaped(c)));
        let classes: Vec<String> = classes.filter(|c| !own(c)).collect();
        found.extend(classes.iter().map(|class| format!("{base}{class}")));
        for name in above.iter().filter(|name| !own(name)) {
            found.push(format!("{name} {base}"));
            found.extend(classes.iter().map(|class| format!("{name} {base}{class}")));
        }
        // Two ancestors, where one is not enough.
        for (at, outer) in above.iter().enumerate() {
            for inner in above[..at].iter().filter(|name| !own(name) && !own(outer)) {
                found.push(format!("{outer} {inner} {base}"));
            }
        }
        if let Some(id) = element.id() {
            found.push(format!("{base}#{}", escaped(id)));
        }
    }
    let mut found: Vec<(String, bool)> = found.into_iter().map(|text| (text, false)).collect();
    for base in &bases {
        // A class said twice: it weighs more and matches the same.
        let said = element.classes().map(|c| format!(".{}", escaped(c)));
        let twice = said.filter(|class| base.contains(class.as_str()));
        found.extend(twice.map(|class| (format!("{base}{class}"), true)));
    }
    for (text, _) in &mut found {
        text.push_str(&pseudo);
    }
    found
}

/// Classes and IDs of the elements around one, the nearest first.
fn names_above(page: &Page, element: ElementId) -> Vec<String> {
    let document = page.document();
    let mut names = Vec::new();
    for above in document.ancestors_and_self(element).skip(1) {
        let above = document.element(above);
        names.extend(above.classes().map(|c| format!(".{}", escaped(c))));
        names.extend(above.id().map(|id| format!("#{}", escaped(id))));
    }
    names.truncate(12);
    names
}
