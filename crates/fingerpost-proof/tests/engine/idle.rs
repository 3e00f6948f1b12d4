//! Rules that match nothing: the browser is asked for every selector of a site's sheets on all of its pages, with what only states decide left
//! out. What it finds is not called idle, and what it never finds is.

use std::collections::BTreeSet;
use std::path::Path;

use fingerpost::selector::SelectorList;
use fingerpost::sheet::RuleKind;
use fingerpost::site::Site;
use serde_json::json;
use test_browser::{Files, Scripts};

use crate::browser::Browser;
use crate::themes::pages;
use crate::{WIDE, repository, theme};

/// What an element can be or not be while it is on the page.
const STATES: [&str; 22] = [
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

/// The selectors of a site's sheets that have no pseudo-element, and whether they are called idle.
fn selectors(site: &Site, names: &[String]) -> (BTreeSet<String>, BTreeSet<String>) {
    let mut all = BTreeSet::new();
    for name in names {
        let page = site.page(name, Default::default()).unwrap();
        for sheet in page.sheets().iter().map(|sheet| sheet.styles.sheet()) {
            if !sheet.text().name().ends_with(".css") || sheet.text().name().contains("://") {
                continue;
            }
            let rules = sheet
                .rules()
                .filter(|(_, rule)| rule.kind == RuleKind::Style);
            for (_, rule) in rules {
                let Ok(list) = SelectorList::parse(sheet.prelude_source(rule)) else {
                    continue;
                };
                all.extend(list.selectors.iter().map(ToString::to_string));
            }
        }
    }
    let idle = site.idle().rules.into_iter().flat_map(|rule| rule.idle);
    let idle = idle.filter_map(|text| Some(SelectorList::parse(&text).ok()?.to_string()));
    (all, idle.collect())
}

async fn compare(root: &Path, names: &[String]) {
    let (site, _) = Site::of_page(&root.join(&names[0])).unwrap();
    let (all, idle) = selectors(&site, names);
    let asked: Vec<(&String, String)> = all
        .iter()
        .filter_map(|selector| Some((selector, without_states(selector)?)))
        .collect();
    let texts: Vec<&String> = asked.iter().map(|(_, text)| text).collect();
    let files = Files::of(root, Scripts::Forbidden);
    let browser = Browser::start(WIDE).await;
    let mut found = vec![false; asked.len()];
    let mut refused = vec![false; asked.len()];
    for name in names {
        let script = "return JSON.stringify(arguments[0].map((selector) => { try { return \
                      document.querySelector(selector) !== null; } catch { return null; } }));";
        let answer = browser
            .run(&files.url(name), script, vec![json!(texts)])
            .await;
        let answer: Vec<Option<bool>> = serde_json::from_str(&answer).unwrap();
        for (at, is_found) in answer.into_iter().enumerate() {
            found[at] |= is_found == Some(true);
            refused[at] |= is_found.is_none();
        }
    }
    browser.close().await;
    let mut wrong = Vec::new();
    let mut compared = 0;
    for (at, (selector, text)) in asked.iter().enumerate() {
        if refused[at] {
            continue;
        }
        compared += 1;
        if idle.contains(*selector) == found[at] {
            wrong.push(format!(
                "{selector} ({text}): the browser finds {}",
                found[at]
            ));
        }
    }
    println!(
        "{}: {compared} selectors, {} of them idle",
        root.display(),
        idle.len()
    );
    assert!(compared > 20, "only {compared} selectors were compared");
    assert!(
        wrong.is_empty(),
        "{} are wrong:\n{}",
        wrong.len(),
        wrong.join("\n")
    );
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
