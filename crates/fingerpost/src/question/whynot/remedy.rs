//! What would win: the smallest honest changes with which a beaten declaration beats the winner.
//! Each is tried on the ranks before it is said.

use serde::Serialize;

use crate::cascade::{Criterion, LayerOrder, Origin, Rank};
use crate::markup::NodeId;
use crate::page::{Page, SheetRef, Styles, Target};
use crate::selector::{Matcher, SelectorList, Specificity};
use crate::text::Place;

/// How many selectors are offered.
const MOST_SELECTORS: usize = 3;

/// A change that would make a declaration win.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Remedy {
    /// `move`, `selector`, `layer`, `drop-important`, `style-attribute`, `scope` or `important`.
    pub kind: &'static str,
    /// What to do, in a sentence.
    pub sentence: String,
    /// Where.
    pub place: Option<Place>,
    /// The selector to write.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub selector: Option<String>,
    /// Its specificity.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub specificity: Option<Specificity>,
    /// Whether it is good for a test only, to be taken back.
    pub test_only: bool,
}

impl Remedy {
    fn new(kind: &'static str, sentence: String, place: Option<&Place>) -> Remedy {
        Remedy {
            kind,
            sentence,
            place: place.cloned(),
            selector: None,
            specificity: None,
            test_only: false,
        }
    }
}

/// A declaration that wants to win.
pub(super) struct Loser<'a> {
    /// Where it stands among the others.
    pub rank: Rank,
    /// The selector of its rule, where it can be written anew.
    pub selector: Option<&'a str>,
    /// The file it stands in.
    pub file: Option<&'a str>,
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
}

pub(super) fn remedies(
    styles: &Styles<'_>,
    target: &Target,
    loser: &Loser<'_>,
    winner: &Winner<'_>,
) -> Vec<Remedy> {
    let mut found = Vec::new();
    let wins = |rank: Rank| rank.compare(&winner.rank).0.is_gt();
    let (_, criterion) = loser.rank.compare(&winner.rank);
    let late = Rank {
        order: (u32::MAX, u32::MAX),
        ..loser.rank
    };
    if wins(late) {
        found.push(Remedy::new(
            "move",
            match loser.file {
                Some(file) if file != winner.place.file => format!(
                    "move it out of {file} into {}, after line {}, behind {}",
                    winner.place.file, winner.place.line, winner.rule
                ),
                _ => format!(
                    "move it after line {}, behind {}",
                    winner.place.line, winner.rule
                ),
            },
            Some(winner.place),
        ));
    }
    if criterion == Criterion::OriginAndImportance && winner.rank.important {
        found.extend(drop_important(styles, target, loser, winner));
    }
    if winner.rank.attached && winner.rank.important == loser.rank.important {
        found.push(Remedy::new(
            "style-attribute",
            format!(
                "take the declaration out of the style attribute, {}",
                winner.place
            ),
            Some(winner.place),
        ));
    }
    found.extend(layer(loser, winner));
    if criterion == Criterion::Proximity {
        found.push(Remedy::new(
            "scope",
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
    if by_selector && !loser.rank.attached {
        found.extend(raised(styles, target, loser, winner));
    }
    let marked = Rank {
        important: true,
        ..loser.rank
    };
    if !loser.rank.important && loser.rank.origin == Origin::Author && wins(marked) {
        found.push(Remedy {
            test_only: true,
            ..Remedy::new(
                "important",
                "mark it !important to see whether it helps, and take that back".to_owned(),
                None,
            )
        });
    }
    found
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
    let (ordering, criterion) = loser.rank.compare(&plain);
    let mut sentence = format!("take the !important off {}, {}", winner.rule, winner.place);
    if ordering.is_lt() {
        let more = Winner {
            rank: plain,
            ..*winner
        };
        let next = remedies(styles, target, loser, &more)
            .into_iter()
            .find(|remedy| !remedy.test_only);
        match next {
            Some(next) => sentence.push_str(&format!(", and {}", next.sentence)),
            None => sentence.push_str(&format!("; it would still lose on {criterion}")),
        }
    }
    Some(Remedy::new("drop-important", sentence, Some(winner.place)))
}

fn layer(loser: &Loser<'_>, winner: &Winner<'_>) -> Vec<Remedy> {
    let mut found = Vec::new();
    let (_, criterion) = loser.rank.compare(&winner.rank);
    if criterion != Criterion::Layers {
        return found;
    }
    let with = |layer| Rank {
        layer,
        order: (u32::MAX, u32::MAX),
        ..loser.rank
    };
    let wins = |rank: Rank| rank.compare(&winner.rank).0.is_gt();
    if wins(with(LayerOrder::UNLAYERED)) {
        found.push(Remedy::new(
            "layer",
            "take it out of its layer: what is in no layer is stronger".to_owned(),
            None,
        ));
    }
    if let Some(name) = winner.layer {
        let (ordering, then) = with(winner.rank.layer).compare(&winner.rank);
        let sentence = if ordering.is_gt() {
            format!("put it into layer {name}, behind {}", winner.place)
        } else {
            format!(
                "put it into layer {name}; there it would meet {} on {then}",
                winner.rule
            )
        };
        found.push(Remedy::new("layer", sentence, Some(winner.place)));
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
    let mut options: Vec<(String, Specificity, bool)> = Vec::new();
    for text in candidates(page, target, loser.selector) {
        let Some(specificity) = specificity(page, target, &text) else {
            continue;
        };
        let rank = Rank {
            specificity,
            ..loser.rank
        };
        let here = rank.compare(&winner.rank).0.is_gt();
        let late = Rank {
            order: (u32::MAX, u32::MAX),
            ..rank
        };
        if here || late.compare(&winner.rank).0.is_gt() {
            options.push((text, specificity, here));
        }
    }
    // The lightest that win where they are; then the lightest that must move too.
    options.sort_by_key(|(text, specificity, here)| (!here, *specificity, text.len()));
    options.dedup_by(|a, b| a.0 == b.0);
    let any_here = options.iter().any(|(_, _, here)| *here);
    options
        .into_iter()
        .filter(|(_, _, here)| *here || !any_here)
        .take(MOST_SELECTORS)
        .map(|(selector, specificity, here)| {
            let beside = winner.rank.specificity;
            let sentence = match (loser.selector, here) {
                (Some(_), true) if specificity == beside => format!(
                    "raise its selector to {selector}  {specificity}, as strong as {}, and it \
                     stands later",
                    winner.rule
                ),
                (Some(_), true) => {
                    format!("raise its selector to {selector}  {specificity} against {beside}")
                }
                (Some(_), false) => format!(
                    "raise its selector to {selector}  {specificity}, as strong as {}, and move it \
                     after {}",
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
            Remedy {
                selector: Some(selector),
                specificity: Some(specificity),
                ..Remedy::new("selector", sentence, Some(winner.place))
            }
        })
        .collect()
}

fn specificity(page: &Page, target: &Target, text: &str) -> Option<Specificity> {
    let list = SelectorList::parse(text).ok()?;
    let [selector] = &list.selectors[..] else {
        return None;
    };
    let matcher = Matcher::new(page.document(), page.states());
    (selector.pseudo_element == target.pseudo && matcher.matches(selector, target.element))
        .then_some(selector.specificity)
}

/// Selectors that the element has anyway, made from the one that it is matched by.
fn candidates(page: &Page, target: &Target, selector: Option<&str>) -> Vec<String> {
    let document = page.document();
    let element = document.expect_element(target.element);
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
        // A class said twice: it weighs more and matches the same.
        let said = element.classes().map(|c| format!(".{}", escaped(c)));
        found.extend(
            said.filter(|c| own(c))
                .map(|class| format!("{base}{class}")),
        );
        if let Some(id) = element.id() {
            found.push(format!("{base}#{}", escaped(id)));
        }
    }
    for text in &mut found {
        text.push_str(&pseudo);
    }
    found
}

/// Classes and IDs of the elements around one, the nearest first.
fn names_above(page: &Page, element: NodeId) -> Vec<String> {
    let document = page.document();
    let mut names = Vec::new();
    for above in document.ancestors_and_self(element).skip(1) {
        let above = document.expect_element(above);
        names.extend(above.classes().map(|c| format!(".{}", escaped(c))));
        names.extend(above.id().map(|id| format!("#{}", escaped(id))));
    }
    names.truncate(12);
    names
}

/// CSSOM § 2.1: serialise an identifier.
fn escaped(name: &str) -> String {
    let mut out = String::new();
    for (at, character) in name.chars().enumerate() {
        let plain = character.is_alphanumeric() || matches!(character, '-' | '_');
        let digit_first =
            character.is_ascii_digit() && (at == 0 || (at == 1 && name.starts_with('-')));
        if digit_first {
            out.push_str(&format!("\\{:x} ", u32::from(character)));
        } else if plain || !character.is_ascii() {
            out.push(character);
        } else {
            out.push('\\');
            out.push(character);
        }
    }
    out
}
