//! Rules that match nothing: the browser is asked for every selector of a site's sheets on all of its pages, with what only states decide left
//! out. What it finds is not called idle, and what it never finds is.

use std::collections::{BTreeMap, BTreeSet};
use std::path::Path;

use fingerpost::cascade::Origin;
use fingerpost::environment::Environment;
use fingerpost::selector::SelectorList;
use fingerpost::sheet::RuleKind;
use fingerpost::site::Site;
use serde_json::json;
use test_browser::{Files, Scripts};

use crate::browser::Browser;
use crate::themes::pages;
use crate::{WIDE, repository, theme};

/// What an element can be or not be while it is on the page.
const STATES: [&str; 24] = [
    ":autofill",
    ":-webkit-autofill",
    ":hover",
    ":active",
    ":focus-visible",
    ":focus-within",
    ":focus",
    ":visited",
    ":checked",
    ":disabled",
    ":enabled",
    ":indeterminate",
    ":placeholder-shown",
    ":valid",
    ":invalid",
    ":user-valid",
    ":user-invalid",
    ":in-range",
    ":out-of-range",
    ":read-only",
    ":read-write",
    ":target",
    ":open",
    ":modal",
];

/// A selector without its states; none where a function is about one, or where it has a pseudo-element.
fn without_states(selector: &str) -> Option<String> {
    let mut text = selector.to_owned();
    for state in STATES {
        while let Some(at) = text.find(state) {
            let after = text[at + state.len()..].chars().next();
            // In a function it is not only left out.
            let open = text[..at].matches('(').count() > text[..at].matches(')').count();
            if open || after.is_some_and(|c| c.is_ascii_alphanumeric() || c == '-' || c == '(') {
                return None;
            }
            // What is left of a compound that is nothing else is any element.
            let before = text[..at].chars().next_back();
            let alone = before.is_none_or(|c| c.is_whitespace() || matches!(c, '>' | '+' | '~'));
            text.replace_range(at..at + state.len(), if alone { "*" } else { "" });
        }
    }
    let old = [":before", ":after", ":first-line", ":first-letter"];
    let has_pseudo = text.contains("::") || old.iter().any(|old| text.contains(old));
    (!has_pseudo).then_some(text)
}

/// A selector of a sheet: two sheets may have the same one, each on other pages.
type OfSheet = (String, String);

/// The selectors of the sheets that a page has.
fn selectors(site: &Site, name: &str) -> BTreeSet<OfSheet> {
    let page = site.page(name, Environment::default()).unwrap();
    let mut all = BTreeSet::new();
    for rule in page
        .rules()
        .iter()
        .filter(|rule| rule.origin == Origin::Author)
    {
        let sheet = page.sheets()[rule.sheet as usize].styles.sheet();
        let parent = sheet.rule(rule.rule).parent;
        let is_nested = parent.is_some_and(|parent| sheet.rule(parent).kind == RuleKind::Style);
        if let (Ok(list), false) = (&rule.selectors, is_nested) {
            let file = sheet.text().name();
            let selectors = list.selectors.iter();
            all.extend(selectors.map(|selector| (file.to_owned(), selector.to_string())));
        }
    }
    all
}

async fn compare(root: &Path, names: &[String]) {
    let (site, _) = Site::of_page(&root.join(&names[0])).unwrap();
    let mut idle: BTreeSet<OfSheet> = BTreeSet::new();
    for rule in site.idle().rules {
        let parsed = rule
            .idle
            .iter()
            .filter_map(|text| SelectorList::parse(text).ok());
        idle.extend(parsed.map(|list| (rule.place.file.clone(), list.to_string())));
    }
    let files = Files::of(root, Scripts::Forbidden);
    let browser = Browser::start(WIDE).await;
    // Whether the browser finds a selector on a page that has it; none where it does not take it.
    let mut found: BTreeMap<OfSheet, Option<bool>> = BTreeMap::new();
    for name in names {
        let all = selectors(&site, name).into_iter();
        let all = all.filter_map(|selector| Some((without_states(&selector.1)?, selector)));
        let (texts, asked): (Vec<String>, Vec<OfSheet>) = all.unzip();
        let script = "return JSON.stringify(arguments[0].map((selector) => { try { return \
                      document.querySelector(selector) !== null; } catch { return null; } }));";
        let answer = browser
            .run(&files.url(name), script, vec![json!(texts)])
            .await;
        let answer: Vec<Option<bool>> = serde_json::from_str(&answer).unwrap();
        for (selector, is_found) in asked.into_iter().zip(answer) {
            let known = found.entry(selector).or_insert(Some(false));
            *known = is_found
                .zip(*known)
                .map(|(here, elsewhere)| here || elsewhere);
        }
    }
    browser.close().await;
    let compared = found.values().flatten().count();
    let wrong: Vec<&OfSheet> = (found.iter())
        .filter(|(selector, found)| found.is_some_and(|found| found == idle.contains(*selector)))
        .map(|(selector, _)| selector)
        .collect();
    println!(
        "{}: {compared} selectors, {} of them idle",
        root.display(),
        idle.len()
    );
    assert!(compared > 20, "only {compared} selectors were compared");
    assert!(wrong.is_empty(), "wrong of {wrong:#?}");
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test]
async fn what_is_called_idle_the_browser_never_finds() {
    let demo = repository()
        .join("demo/skerry-line")
        .canonicalize()
        .unwrap();
    compare(&demo, &pages(&demo)).await;
    for (package, folder) in [
        ("startbootstrap-sb-admin@7", "dist"),
        ("startbootstrap-clean-blog@6", "dist"),
    ] {
        if let Some(package) = theme(package) {
            let root = package.join(folder).canonicalize().unwrap();
            compare(&root, &pages(&root)).await;
        }
    }
}
