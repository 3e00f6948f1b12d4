//! What an edit announces is what the browser sees: both states of the site are opened there, at the widths and in the
//! states that the answer speaks of, and every value of every element is compared.
//!
//! No browser can be asked to be over all elements at once, so its copy of a page has an attribute in the place of each
//! state: `:hover` is `[data-in-hover]`, which is as specific.

use std::collections::{BTreeMap, BTreeSet};
use std::path::Path;

use fingerpost::environment::Environment;
use fingerpost::impact::site::Effect;
use fingerpost::markup::ElementId;
use fingerpost::page::Page;
use fingerpost::site::Site;
use fingerpost::text::DecodeHint;
use fingerpost::value::PropertyId;
use serde::Deserialize;
use serde_json::json;
use test_browser::{Files, Scripts};

use crate::announced_edits::{Announced, announced, kept, of_words, states_of_words, told};
use crate::browser::Browser;
use crate::cases::cases;
use crate::differences::Differences;
use crate::folders::copy_folder;
use crate::numbers::Numbers;
use crate::{WIDE, repository};

/// The states that the script puts elements in.
const STATES: [&str; 5] = ["hover", "active", "focus", "focus-visible", "focus-within"];

/// A page from which the script opens all others.
const FROM: &str = "compared.html";

/// The values of an element that differ: before, and after.
type Differing = BTreeMap<String, (String, String)>;

/// What the browser reports about a page.
#[derive(Deserialize)]
struct Seen {
    /// The longhands that it knows.
    names: BTreeSet<String>,
    /// The elements of which a value differs, by their numbers after the edit.
    found: BTreeMap<u32, Differing>,
}

#[derive(Debug, Default)]
struct Tally {
    edits: usize,
    refused: usize,
    looks: usize,
    in_states: usize,
    at_widths: usize,
    elements: usize,
    moved: usize,
}

/// A way to look at a page that an answer speaks of, and that the browser can be put in.
struct Look<'w> {
    words: Option<&'w str>,
    environment: Environment,
    states: Vec<String>,
}

impl Look<'_> {
    fn of(words: Option<&str>) -> Option<Look<'_>> {
        let mut look = Look {
            words,
            environment: Environment::default(),
            states: Vec::new(),
        };
        let Some(text) = words else { return Some(look) };
        if text.starts_with("on ") {
            if text.contains(":not(") {
                return None;
            }
            let states = states_of_words(text)?;
            look.states = states
                .iter()
                .map(|state| state.to_string().trim_start_matches(':').to_owned())
                .collect();
            let known = |state: &String| STATES.contains(&state.as_str());
            return look.states.iter().all(known).then_some(look);
        }
        if !text.starts_with("at ") {
            return None;
        }
        look.environment = of_words(text)?;
        Some(look)
    }

    async fn ask(&self, browser: &Browser, page: &str, pairs: Option<&[[u32; 2]]>) -> String {
        let size = self.environment.viewport;
        let arguments = vec![
            json!(format!("/{page}")),
            json!(pairs.is_none()),
            json!([size.width, size.height]),
            json!(self.states),
            json!(pairs.unwrap_or_default()),
        ];
        browser
            .run_here(include_str!("announced.js"), arguments)
            .await
    }
}

/// A browser in which pages are compared with what was announced about them.
struct Compared<'s> {
    browser: Browser,
    site: &'s Site,
    differences: Differences,
    tally: Tally,
}

impl Compared<'_> {
    /// Compares a page in a situation with what is announced of it.
    async fn compare(
        &mut self,
        page: (&str, &Page, &Page),
        pairs: &[(ElementId, ElementId)],
        look: &Look<'_>,
        answer: &Effect,
        summary: &str,
    ) {
        let (name, before, after) = page;
        let index = |page: &Page, id: ElementId| page.document().element(id).index;
        let numbers: Vec<[u32; 2]> = pairs
            .iter()
            .map(|(old, new)| [index(before, *old), index(after, *new)])
            .collect();
        let found = look.ask(&self.browser, name, Some(&numbers)).await;
        let Seen { names, found } =
            serde_json::from_str(&found).unwrap_or_else(|_| panic!("{name}: {found}"));
        self.tally.looks += 1;
        self.tally.in_states += usize::from(!look.states.is_empty());
        self.tally.at_widths += usize::from(look.states.is_empty() && look.words.is_some());
        let none = Differing::new();
        let known: BTreeSet<u32> = numbers.iter().map(|[_, new]| *new).collect();
        for (old, new) in pairs {
            let at = index(after, *new);
            let seen = found.get(&at).unwrap_or(&none);
            let said = told(answer, name, at, look.words);
            let whose = format!(
                "{summary}\n{name}, element {at} ({}), {:?}",
                after.document().element(*new).name,
                look.words
            );
            self.tally.elements += 1;
            self.tally.moved += usize::from(!seen.is_empty());
            let is_known_to_differ = |property: &str, was: &str, is: &str| {
                let of = |page: &Page, id, value| {
                    let tag = &page.document().element(id).name;
                    self.differences.know(tag, property, value)
                };
                of(before, *old, was) || of(after, *new, is)
            };
            for (property, values) in &said {
                // The script hides the root.
                let is_hidden = at == 0 && property == "display";
                let is_shown = !is_hidden
                    && names.contains(property)
                    && PropertyId::named(property).is_some_and(is_compared);
                assert!(
                    !is_shown
                        || seen.contains_key(property)
                        || is_known_to_differ(property, &values.0, &values.0),
                    "{whose}: {property} is announced to change ({values:?}) and does not; what does: {seen:?}"
                );
            }
            for (property, values) in seen {
                let Some(id) = PropertyId::named(property).filter(|id| is_compared(*id)) else {
                    continue;
                };
                let comes_from_above = || {
                    let above = after.document().parent_element(*new);
                    let above = above.map(|parent| index(after, parent));
                    // What the parser implied has no tag, and is not among the pairs.
                    let is_other = |at: u32| {
                        !known.contains(&at)
                            || found.get(&at).is_some_and(|all| all.contains_key(property))
                    };
                    id.facts().inherited && above.is_some_and(is_other)
                };
                // The browser resolves `currentcolor`, so these change along with `color`.
                let is_current_color = || {
                    seen.get("color").is_some_and(|(was, is)| {
                        values.0.contains(was) && values.0.replace(was, is) == values.1
                    })
                };
                // It also resolves a number to pixels.
                let is_height_of_line =
                    || property == "line-height" && seen.contains_key("font-size");
                assert!(
                    said.contains_key(property)
                        || comes_from_above()
                        || is_current_color()
                        || is_known_to_differ(property, &values.0, &values.1)
                        || is_height_of_line(),
                    "{whose}: {property} changes ({values:?}) and is not announced"
                );
            }
        }
    }
}

/// Whether a property counts: not a shorthand, and not a logical name of what counts by its physical one.
fn is_compared(id: PropertyId) -> bool {
    let flows = id.name().contains("-inline")
        || id.name().contains("-block")
        || ["inline-size", "block-size"].contains(&id.name())
        || id.name().ends_with("-radius")
            && (id.name().contains("-start-") || id.name().contains("-end-"));
    let is_logical = flows && !id.facts().logical_group.is_empty();
    !id.is_shorthand() && !is_logical
}

async fn run(root: &Path, seed: u64, edits: usize) -> Tally {
    let mut numbers = Numbers(seed);
    let (folder, served) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    copy_folder(root, folder.path());
    copy_folder(root, served.path());
    std::fs::write(
        served.path().join(FROM),
        "<!doctype html><title>Compared</title>",
    )
    .unwrap();
    let files = Files::of(served.path(), Scripts::Forbidden);
    let site = Site::of_folder(folder.path()).unwrap();
    let pages = site.pages();
    let browser = Browser::start(WIDE).await;
    browser.open(&files.url(FROM)).await;
    let mut compared = Compared {
        browser,
        site: &site,
        differences: Differences::committed(),
        tally: Tally::default(),
    };
    for round in 0..edits {
        let Some(Announced { own, edit, answer }) = announced(&site, round, &mut numbers) else {
            compared.tally.refused += 1;
            continue;
        };
        compared.tally.edits += 1;
        let view = site.imagined(edit.clone()).unwrap();
        let all = answer.situations.iter().map(|words| Some(words.as_str()));
        let others: Vec<Look<'_>> = all.filter_map(Look::of).collect();
        let (states, widths): (Vec<_>, Vec<_>) =
            others.into_iter().partition(|look| !look.states.is_empty());
        let mut looks: Vec<Look<'_>> = Look::of(None).into_iter().collect();
        for mut of_kind in [states, widths] {
            if !of_kind.is_empty() {
                looks.push(of_kind.swap_remove(numbers.below(of_kind.len())));
            }
        }
        let other = pages[numbers.below(pages.len())].clone();
        let names = BTreeSet::from([own.clone(), other]);
        for (name, look) in names
            .iter()
            .flat_map(|name| looks.iter().map(move |look| (name, look)))
        {
            look.ask(&compared.browser, name, None).await;
        }
        for file in edit.files() {
            let text = view.text(file, DecodeHint::utf8_sheet()).unwrap();
            std::fs::write(served.path().join(file), text.to_bytes()).unwrap();
        }
        for name in &names {
            let was = compared.site.page(name, Environment::default()).unwrap();
            let is = view.page(name, Environment::default()).unwrap();
            let pairs = kept(&was, &is, edit.patch_of(name));
            for look in &looks {
                let page = (name.as_str(), &was, &is);
                compared
                    .compare(page, &pairs, look, &answer, &edit.summary)
                    .await;
            }
        }
        for file in edit.files() {
            std::fs::copy(folder.path().join(file), served.path().join(file)).unwrap();
        }
    }
    compared.browser.close().await;
    compared.tally
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test]
async fn what_an_edit_announces_is_what_the_browser_sees() {
    let demo = repository().join("demo/skerry-line");
    let tally = run(&demo, 0x0dd_ba11, cases(20)).await;
    println!("demo: {tally:?}");
    assert!(
        tally.edits > tally.refused / 2
            && tally.in_states > 0
            && tally.at_widths > 0
            && tally.moved > tally.edits,
        "{tally:?}"
    );
}
