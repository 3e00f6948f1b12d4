//! What `effect` says that an edit moves is what has moved: both states of the site are written to disk,
//! read from scratch, and every property of every element is compared.
//!
//! `FINGERPOST_CASES=4` tries four times as many edits on each site.

use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::path::Path;

use crate::cases::cases;
use crate::folders::copy_folder;
use crate::numbers::Numbers;
use fingerpost::edit::{Change, Destination, Intent, Side, kinds, subjects};
use fingerpost::environment::{Environment, Viewport};
use fingerpost::impact::site::{Effect, ImpactOptions, effect};
use fingerpost::markup::{ElementId, Written};
use fingerpost::page::{Page, PropertyName, Styles, Target};
use fingerpost::question::element_states::ElementStates;
use fingerpost::selector::State;
use fingerpost::site::Site;
use fingerpost::text::Patch;
use fingerpost::value::PropertyId;

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
fn of_words(words: &str) -> Option<Environment> {
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
fn states_of_words(words: &str) -> Option<Vec<State>> {
    let all = words.strip_prefix("on :")?.split(':');
    Some(all.map(|name| name.parse().unwrap()).collect())
}

/// Whether an element can come into a state, as far as the pages of the demo have any that can.
fn can_be_in(page: &Page, id: ElementId, state: State) -> bool {
    use fingerpost::selector::{Action, FormState};
    let element = page.document().element(id);
    let is_one_of = |names: &[&str]| names.contains(&&*element.name);
    let has = |name: &str| element.attribute(name).is_some();
    match state {
        State::Action(Action::Hover | Action::Active) => true,
        State::Action(Action::Focus | Action::FocusVisible | Action::FocusWithin) => {
            has("tabindex")
                || (is_one_of(&["a"]) && has("href"))
                || (is_one_of(&["button", "input", "select", "textarea"]) && !has("disabled"))
                || is_one_of(&["summary", "iframe"])
        }
        State::Form(FormState::Disabled) => is_one_of(&[
            "button", "input", "select", "textarea", "option", "optgroup", "fieldset",
        ]),
        State::Form(FormState::Required) => is_one_of(&["input", "select", "textarea"]),
        State::Form(FormState::PlaceholderShown) => has("placeholder"),
        other => panic!("say which elements can be in {other}"),
    }
}

/// A page with all elements in states, as far as they can be.
fn in_all(page: &Page, states: &[State]) -> Page {
    let all = page.document().elements();
    let each = states.iter().flat_map(|state| {
        let can = all.iter().filter(|id| can_be_in(page, **id, *state));
        can.map(|id| (*id, *state))
    });
    page.with_states(each.collect::<Vec<_>>())
}

/// The computed value, with what the standard computes from other properties of the element.
fn computed(styles: &Styles<'_>, target: &Target, property: &PropertyName) -> String {
    const FROM_OTHERS: [&str; 5] = ["display", "float", "overflow-x", "overflow-y", "text-align"];
    match FROM_OTHERS.contains(&property.to_string().as_str()) {
        true => styles.resolved(target, property).to_string(),
        false => styles.value(target, property).computed.to_string(),
    }
}

/// The elements of a page whose tag an edit of its text left alone: before, and after.
fn kept(before: &Page, after: &Page, patch: Option<&Patch>) -> Vec<(ElementId, ElementId)> {
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

/// The values of an element that differ, each with whether it only comes from the element around it.
fn differing(
    (was, old): (&Styles<'_>, ElementId),
    (is, new): (&Styles<'_>, ElementId),
    names: &[PropertyName],
) -> BTreeMap<String, (String, String, bool)> {
    let (old, new) = (Target::from(old), Target::from(new));
    let mut found = BTreeMap::new();
    for name in names {
        let (before, after) = (computed(was, &old, name), computed(is, &new, name));
        if before != after {
            let silent = |styles: &Styles<'_>, target: &Target| {
                let contest = styles.contest(target, name);
                contest.contest.winning().is_none() && contest.excluded.is_empty()
            };
            let inherited = is.inherits(name) && silent(was, &old) && silent(is, &new);
            found.insert(name.to_string(), (before, after, inherited));
        }
    }
    found
}

fn all_names(pages: [&Page; 2]) -> Vec<PropertyName> {
    // A logical property is told under its physical name.
    let is_logical = |id: &PropertyId| {
        let flows = id.name().contains("-inline") || id.name().contains("-block");
        let name = id.name();
        (flows || name == "inline-size" || name == "block-size")
            && !id.facts().logical_group.is_empty()
            || name.contains("-start-") && name.ends_with("-radius")
            || name.contains("-end-") && name.ends_with("-radius")
    };
    let known = PropertyId::all().filter(|id| !id.is_shorthand() && !is_logical(id));
    let mut names: Vec<PropertyName> = known.map(PropertyName::Known).collect();
    let mut add = |sheet: &fingerpost::sheet::Sheet| {
        for (_, declaration) in sheet.declarations() {
            let name = PropertyName::named(sheet.name_source(declaration));
            if let Some(name @ PropertyName::Custom(_)) = name
                && !names.contains(&name)
            {
                names.push(name);
            }
        }
    };
    for page in pages {
        page.sheets().iter().for_each(|s| add(s.styles.sheet()));
        let styles = page.styles();
        let elements = page.document().elements().iter();
        let attributes = elements.filter_map(|id| styles.attribute_sheet(*id));
        attributes.for_each(|s| add(s.sheet()));
    }
    names
}

/// What an answer says of one element in some environment: the longhands with their values.
fn told(
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

#[derive(Default, Debug)]
struct Tally {
    edits: usize,
    refused: usize,
    pages: usize,
    elements: usize,
    moved: usize,
    in_states: usize,
}

fn run(root: &Path, seed: u64, edits: usize) -> Tally {
    let mut numbers = Numbers(seed);
    let mut tally = Tally::default();
    let folder = tempfile::tempdir().unwrap();
    copy_folder(root, folder.path());
    let site = Site::of_folder(folder.path()).unwrap();
    let pages = site.pages();
    let scratch = tempfile::tempdir().unwrap();
    copy_folder(root, scratch.path());
    for round in 0..edits {
        let own = pages[numbers.below(pages.len())].clone();
        let page = site.page(&own, Environment::default()).unwrap();
        let index = numbers.below(page.document().elements().len());
        // Every third is a rule of states.
        let tried = match round % 3 {
            1 => {
                let class = numbers.one(&["panel", "site-nav", "today", "fare"]);
                rule_of_states(&mut numbers, class, "color: navy; top: 3px".to_owned())
            }
            _ => change(&mut numbers, &page),
        };
        let mut intent = Intent::new(&own, &format!("@{index}"), tried);
        if matches!(intent.change, Change::Set(_)) {
            intent.into = match numbers.below(5) {
                0 => Destination::Overrides,
                1 => Destination::Inline,
                _ => Destination::Sources,
            };
        }
        let Ok(edit) = site.make(&page, &intent) else {
            tally.refused += 1;
            continue;
        };
        let asked: Vec<ElementId> = subjects(&page, &intent)
            .unwrap()
            .iter()
            .map(|t| t.element)
            .collect();
        let view = site.imagined(edit.clone()).unwrap();
        let environment = Environment::default();
        let aimed = |other: &Page| match other.document().text().name() == own {
            true => other.document().carry_all(page.document(), &asked),
            false => Vec::new(),
        };
        let element_states = ElementStates::default();
        let look = ImpactOptions {
            page: Some(&own),
            environment: &environment,
            element_states: &element_states,
            only_here: false,
            aimed: &aimed,
        };
        let answer = effect(&site, &view, &look).unwrap();
        assert_eq!((answer.pages, &answer.unread), (pages.len(), &Vec::new()));
        tally.edits += 1;
        // The site as the edit leaves it, on disk.
        for file in edit.files() {
            let text = view
                .text(file, fingerpost::text::DecodeHint::utf8_sheet())
                .unwrap();
            std::fs::write(scratch.path().join(file), text.to_bytes()).unwrap();
        }
        let after = Site::of_folder(scratch.path()).unwrap();
        let mut looks: Vec<Option<String>> = vec![None];
        // One state and one other environment. `:not(:checked)` is left out: no page can be put into that from here.
        let all = answer.situations.iter();
        let (states, others): (Vec<&String>, Vec<&String>) = all
            .filter(|words| !words.contains(":not("))
            .partition(|words| words.starts_with("on "));
        for of_kind in [states, others] {
            if !of_kind.is_empty() {
                looks.push(Some(of_kind[numbers.below(of_kind.len())].clone()));
            }
        }
        let other = pages[numbers.below(pages.len())].clone();
        for name in BTreeSet::from([own.clone(), other]) {
            for words in &looks {
                let states = words.as_deref().and_then(states_of_words);
                let environment = match words.as_deref().filter(|_| states.is_none()) {
                    None => Environment::default(),
                    Some(words) => of_words(words).unwrap_or_else(|| panic!("{words}")),
                };
                let mut was = site.page(&name, environment.clone()).unwrap();
                let mut is = after.page(&name, environment).unwrap();
                if let Some(states) = states {
                    was = in_all(&was, &states);
                    is = in_all(&is, &states);
                    tally.in_states += 1;
                }
                tally.pages += 1;
                let patch = edit.patch_of(&name);
                let (old, new) = (was.styles(), is.styles());
                let names = all_names([&was, &is]);
                for (before, now) in kept(&was, &is, patch) {
                    let all = differing((&old, before), (&new, now), &names);
                    let mut own: BTreeMap<String, (String, String)> = BTreeMap::new();
                    for (name, (before, after, inherited)) in all {
                        if !inherited {
                            own.insert(name, (before, after));
                        }
                    }
                    let index = is.document().element(now).index;
                    let told = told(&answer, &name, index, words.as_deref());
                    assert_eq!(
                        told,
                        own,
                        "{}\n{name}, element {index} ({}), {words:?}",
                        edit.summary,
                        is.document().element(now).name
                    );
                    tally.elements += 1;
                    tally.moved += usize::from(!own.is_empty());
                }
            }
        }
        for file in edit.files() {
            std::fs::copy(folder.path().join(file), scratch.path().join(file)).unwrap();
        }
    }
    tally
}

#[test]
fn the_effect_of_an_edit_is_what_has_changed() {
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/skerry-line");
    let tally = run(&demo, 0x5ca1_ab1e, cases(8));
    println!("demo: {tally:?}");
    assert!(
        tally.edits > tally.refused / 2 && tally.moved > tally.edits && tally.in_states > 0,
        "{tally:?}"
    );
}
