//! Random edits, and what an answer announces about each. Tests compare that with what really changed.

use std::collections::{BTreeMap, BTreeSet, HashMap};

use fingerpost::edit::{Change, Destination, Edit, Intent, Side, kinds, subjects};
use fingerpost::environment::{Environment, Viewport};
use fingerpost::impact::site::{Effect, ImpactOptions, effect};
use fingerpost::markup::{ElementId, Written};
use fingerpost::page::{Page, PropertyName};
use fingerpost::question::element_states::ElementStates;
use fingerpost::selector::State;
use fingerpost::site::Site;
use fingerpost::text::Patch;

use crate::numbers::Numbers;

/// An edit that the site takes, with what it announces.
pub struct Announced {
    /// The page that it was asked for on.
    pub own: String,
    pub edit: Edit,
    pub answer: Effect,
}

/// A random edit of the demo, every third one a rule of states; none where it is refused.
pub fn announced(site: &Site, round: usize, numbers: &mut Numbers) -> Option<Announced> {
    let pages = site.pages();
    let own = pages[numbers.below(pages.len())].clone();
    let page = site.page(&own, Environment::default()).unwrap();
    let index = numbers.below(page.document().elements().len());
    let tried = match round % 3 {
        1 => {
            let class = numbers.one(&["panel", "site-nav", "today", "fare"]);
            rule_of_states(numbers, class, "color: navy; top: 3px".to_owned())
        }
        _ => change(numbers, &page),
    };
    let mut intent = Intent::new(&own, &format!("@{index}"), tried);
    if matches!(intent.change, Change::Set(_)) {
        intent.into = match numbers.below(5) {
            0 => Destination::Overrides,
            1 => Destination::Inline,
            _ => Destination::Sources,
        };
    }
    let edit = site.make(&page, &intent).ok()?;
    let asked = subjects(&page, &intent).unwrap();
    let asked: Vec<ElementId> = asked.iter().map(|target| target.element).collect();
    let aimed = |other: &Page| match other.document().text().name() == own {
        true => other.document().carry_all(page.document(), &asked),
        false => Vec::new(),
    };
    let options = ImpactOptions {
        page: Some(&own),
        environment: &Environment::default(),
        element_states: &ElementStates::default(),
        only_here: false,
        aimed: &aimed,
    };
    let view = site.imagined(edit.clone()).unwrap();
    let answer = effect(site, &view, &options).unwrap();
    Some(Announced { own, edit, answer })
}

/// A change as a person would ask for it.
fn change(numbers: &mut Numbers, page: &Page) -> Change {
    const VALUES: [(&str, &str); 16] = [
        ("color", "navy"),
        ("color", "var(--brass)"),
        ("padding", "4px 1em"),
        ("padding-left", "9px"),
        ("background-color", "rgb(1 2 3 / .5)"),
        ("font-size", "1.1em"),
        ("font-size", "2rem"),
        ("font-family", "monospace"),
        ("display", "grid"),
        ("display", "flex"),
        ("position", "absolute"),
        ("border-color", "teal"),
        ("writing-mode", "vertical-rl"),
        ("container-type", "inline-size"),
        ("color-scheme", "dark"),
        ("--gap", "3px"),
    ];
    let (property, value) = VALUES[numbers.below(VALUES.len())];
    let property = property.to_owned();
    let side = [Side::Before, Side::After, Side::First, Side::Last][numbers.below(4)];
    let class = {
        let all: BTreeSet<&str> = page
            .document()
            .elements()
            .iter()
            .flat_map(|id| page.document().element(*id).classes())
            .collect();
        let all: Vec<&str> = all.into_iter().collect();
        match all.len() {
            0 => "none".to_owned(),
            many => all[numbers.below(many)].to_owned(),
        }
    };
    match numbers.below(20) {
        0..=5 => Change::set(&property, value),
        6 | 7 => Change::add(&property, value),
        8 => Change::RemoveDeclaration(kinds::RemoveDeclaration { property }),
        9 => Change::Disable(kinds::Disable { property }),
        10 => Change::Important(kinds::Important {
            property,
            remove: false,
        }),
        11 => rule_of_states(
            numbers,
            &class,
            format!("{property}: {value}; line-height: 2"),
        ),
        12..=14 => Change::Class(kinds::Class {
            changes: vec![numbers.one(&["+", "-"]).to_owned() + &class],
        }),
        15 => Change::Insert(kinds::Insert {
            source: format!("<p class=\"{class}\">new</p>"),
            side,
        }),
        16 => Change::RemoveElement(kinds::RemoveElement {}),
        17 => Change::Wrap(kinds::Wrap {
            tag: format!("<div class=\"{class}\">"),
        }),
        18 => Change::Unwrap(kinds::Unwrap {}),
        _ => Change::Tag(kinds::Tag {
            name: numbers.one(&["p", "div", "section"]).to_owned(),
        }),
    }
}

/// A rule that names states, one or several at once.
fn rule_of_states(numbers: &mut Numbers, class: &str, declarations: String) -> Change {
    let selector = match numbers.below(4) {
        0 => format!(".{class} a:focus:hover"),
        1 => format!(".{class}:focus-within, a:focus-visible + *"),
        2 => "input:not(:placeholder-shown), input:disabled ~ *".to_owned(),
        _ => format!(".{class}:is(:hover, :not(p))"),
    };
    Change::Rule(kinds::Rule {
        selector: Some(selector),
        declarations,
    })
}

/// The environment that words of an answer speak of, with what every element is assumed to be in.
pub fn of_words(words: &str) -> Option<Environment> {
    let mut environment = Environment::default();
    if let Some(width) = words.strip_prefix("at ") {
        let width = width.strip_suffix("px")?.parse().ok()?;
        let height = match width {
            800.0 => 1280.0,
            _ => environment.viewport.height,
        };
        environment.viewport = Viewport { width, height };
    } else if words == "in print" {
        environment.media = "print".to_owned();
    } else {
        let (name, value) = words.strip_prefix("with ")?.split_once(": ")?;
        environment
            .features
            .insert(name.to_owned(), value.to_owned());
    }
    Some(environment)
}

/// The states that words of an answer speak of: `on :focus:hover`.
pub fn states_of_words(words: &str) -> Option<Vec<State>> {
    let all = words.strip_prefix("on :")?.split(':');
    Some(all.map(|name| name.parse().unwrap()).collect())
}

/// The elements of a page whose tag an edit of its text left alone: before, and after.
pub fn kept(before: &Page, after: &Page, patch: Option<&Patch>) -> Vec<(ElementId, ElementId)> {
    // Where each byte of the text after the patch was before it.
    let mut origins: HashMap<usize, usize> = HashMap::new();
    let (mut at, mut now) = (0usize, 0usize);
    let mut copy = |until: usize, at: &mut usize, now: &mut usize| {
        while *at < until {
            origins.insert(*at, *now);
            (*at, *now) = (*at + 1, *now + 1);
        }
    };
    for replacement in patch.map(Patch::replacements).unwrap_or_default() {
        copy(replacement.range.start().into(), &mut at, &mut now);
        at = replacement.range.end().into();
        now += replacement.with.len();
    }
    copy(before.document().text().source().len(), &mut at, &mut now);
    let start = |page: &Page, id: ElementId| -> usize {
        page.document().element(id).start_tag.start().into()
    };
    let written = |page: &Page| -> Vec<ElementId> {
        let all = page.document().elements().iter().copied();
        all.filter(|id| page.document().element(*id).written == Written::Tag)
            .collect()
    };
    let there: HashMap<usize, ElementId> = written(after)
        .iter()
        .map(|id| (start(after, *id), *id))
        .collect();
    let pairs = written(before).into_iter().filter_map(|id| {
        let now = origins.get(&start(before, id))?;
        Some((id, *there.get(now)?))
    });
    pairs.collect()
}

/// What an answer says of one element in some environment: the longhands with their values.
pub fn told(
    effect: &Effect,
    page: &str,
    index: u32,
    words: Option<&str>,
) -> BTreeMap<String, (String, String)> {
    let mut found = BTreeMap::new();
    let groups = effect.groups.iter().filter(|g| match words {
        None => g.now,
        Some(words) => g.also.iter().any(|also| also == words),
    });
    for group in groups {
        let here = group
            .elements
            .iter()
            .any(|e| e.place.file == page && e.index == index && e.pseudo.is_none());
        for change in group.changes.iter().filter(|_| here) {
            let longhands: Vec<String> = match PropertyName::named(&change.property) {
                Some(PropertyName::Known(id)) => {
                    id.longhands().iter().map(|l| l.name().to_owned()).collect()
                }
                _ => vec![change.property.clone()],
            };
            for longhand in longhands {
                found.insert(longhand, (change.before.clone(), change.after.clone()));
            }
        }
    }
    found
}
