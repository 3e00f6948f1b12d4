//! What `effect` says that an edit moves is what has moved: both states of the site are written to disk,
//! read from scratch, and every property of every element is compared.
//!
//! `FINGERPOST_CASES=4` tries four times as many edits on each site.

use std::collections::{BTreeMap, BTreeSet};
use std::path::Path;

use crate::announced_edits::{Announced, announced, kept, of_words, states_of_words, told};
use crate::cases::cases;
use crate::folders::copy_folder;
use crate::numbers::Numbers;
use fingerpost::environment::Environment;
use fingerpost::markup::{ElementId, Written};
use fingerpost::page::{Page, PropertyName, Styles, Target};
use fingerpost::selector::State;
use fingerpost::site::Site;
use fingerpost::value::PropertyId;

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

/// The values of an element that differ, each with whether it only comes from the element around it.
fn differing(
    (was, old): (&Styles<'_>, ElementId),
    (is, new): (&Styles<'_>, ElementId),
    names: &[PropertyName],
    pairs: &[(ElementId, ElementId)],
) -> BTreeMap<String, (String, String, bool)> {
    let same_parent = match (was.parent(&old.into()), is.parent(&new.into())) {
        (Some(was_in), Some(is_in)) => {
            let (was_in, is_in) = (was_in.element, is_in.element);
            let element = |styles: &Styles<'_>, id| {
                let element = styles.page().document().element(id);
                (element.written, element.name.clone())
            };
            let both = (element(was, was_in), element(is, is_in));
            pairs.contains(&(was_in, is_in)) || both.0 == both.1 && both.0.0 != Written::Tag
        }
        (None, None) => true,
        _ => false,
    };
    let (old, new) = (Target::from(old), Target::from(new));
    let mut found = BTreeMap::new();
    for name in names {
        let (before, after) = (computed(was, &old, name), computed(is, &new, name));
        // A value that looks the same does not count as changed, such as the width of a border that is not drawn.
        if before != after && was.resolved(&old, name) != is.resolved(&new, name) {
            let silent = |styles: &Styles<'_>, target: &Target| {
                let contest = styles.contest(target, name);
                contest.contest.winning().is_none() && contest.excluded.is_empty()
            };
            let above = |styles: &Styles<'_>, target: &Target| {
                let above = styles.parent(target);
                above.map(|above| computed(styles, &above, name))
            };
            let inherited = same_parent
                && is.inherits(name)
                && silent(was, &old)
                && silent(is, &new)
                && above(was, &old).as_ref() == Some(&before)
                && above(is, &new).as_ref() == Some(&after);
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
        let Some(Announced { own, edit, answer }) = announced(&site, round, &mut numbers) else {
            tally.refused += 1;
            continue;
        };
        let view = site.imagined(edit.clone()).unwrap();
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
                let pairs = kept(&was, &is, patch);
                for (before, now) in pairs.iter().copied() {
                    let all = differing((&old, before), (&new, now), &names, &pairs);
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
