//! Fingerpost's answers against a browser engine.
//!
//! A page is served over HTTP on the loopback address, with scripts forbidden by its
//! `Content-Security-Policy`, and opened in headless Chromium over WebDriver. For every element of the
//! page the engine's computed values are read, and whether the element matches each selector of the
//! page's sheets; both are compared with ours. The root element is hidden first, so that lengths come
//! back as computed and not as laid out.
//!
//! What may differ, and why, is listed in `differences.toml`.

mod announced;
#[path = "../exact/announced_edits.rs"]
mod announced_edits;
mod browser;
#[path = "../../../fingerpost/tests/core/cases.rs"]
mod cases;
mod compare;
mod differences;
mod edited;
#[path = "../exact/folders.rs"]
mod folders;
mod generated;
mod idle;
#[path = "../exact/numbers.rs"]
mod numbers;
mod recalculation;
mod themes;
mod validity;

use std::path::{Path, PathBuf};

use browser::{Browser, BrowserSettings};
use cases::{cases, times};
use compare::{Outcome, compare};
use differences::Differences;
use test_browser::{Files, Scripts};
use themes::{fetched, pages};

/// A browser that hangs is not an answer; a second one nearly always gives it.
const MOST_TRIES: usize = 4;

const WIDE: BrowserSettings = BrowserSettings {
    window: (1280, 800),
    dark: false,
    print: false,
};

#[test]
fn continuous_integration_has_a_browser() {
    let there = cfg!(browser) || std::env::var_os("CI").is_none();
    assert!(there, "install chromium and chromium-driver");
}

fn repository() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

async fn compare_all(
    root: &Path,
    pages: &[String],
    environment: &[(&str, BrowserSettings)],
) -> Outcome {
    let files = Files::of(root, Scripts::Forbidden);
    let differences = Differences::committed();
    let mut total = Outcome::default();
    for (name, settings) in environment {
        let mut browser = Browser::start(*settings).await;
        for page in pages {
            let mut tries = 0;
            let outcome = loop {
                tries += 1;
                let answer = compare(&browser, *settings, &files, root, page, &differences).await;
                match answer {
                    Ok(outcome) => break outcome,
                    Err(error) => {
                        assert!(tries < MOST_TRIES, "{error}");
                        println!("{error}; trying again with a fresh browser");
                        browser = Browser::start(*settings).await;
                    }
                }
            };
            println!("{name} {page}: {}", outcome.summary());
            total.add(outcome);
        }
        browser.close().await;
    }
    total
}

#[track_caller]
fn judge(total: &Outcome) {
    println!("all: {}", total.summary());
    let mut rows: Vec<_> = total.unknown.iter().collect();
    rows.sort_by_key(|(_, (count, _))| std::cmp::Reverse(*count));
    for ((property, ours, engine), (count, element)) in rows.iter().take(400) {
        println!("{count:>6} × {property}: ours '{ours}', engine '{engine}'  {element}");
    }
    assert!(
        total.unknown.is_empty(),
        "{} comparisons differ",
        total.differing()
    );
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test]
async fn the_demo_in_four_conditions() {
    let pages = ["home", "timetable", "fares", "notices", "harbour-map"]
        .map(|page| format!("pages/{page}.html"));
    let environment = [
        ("wide", WIDE),
        (
            "narrow",
            BrowserSettings {
                window: (520, 800),
                ..WIDE
            },
        ),
        ("dark", BrowserSettings { dark: true, ..WIDE }),
        (
            "print",
            BrowserSettings {
                print: true,
                ..WIDE
            },
        ),
    ];
    let root = repository()
        .join("demo/skerry-line")
        .canonicalize()
        .unwrap();
    judge(&compare_all(&root, &pages, &environment).await);
}

/// Small pages of our own, one idea each: of those every fourth, and with `FINGERPOST_CASES=4` all, as in continuous integration. With
/// `FINGERPOST_PAGE` those whose names have that in them.
#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test]
async fn small_pages_of_one_idea_each() {
    let root = repository()
        .join("crates/fingerpost-proof/pages")
        .canonicalize()
        .unwrap();
    let mut names: Vec<String> = std::fs::read_dir(&root)
        .unwrap()
        .map(|entry| entry.unwrap().file_name().into_string().unwrap())
        .filter(|name| name.ends_with(".html"))
        .collect();
    names.sort();
    match std::env::var("FINGERPOST_PAGE") {
        Ok(wanted) => names.retain(|name| name.contains(&wanted)),
        Err(_) => names = names.into_iter().step_by((4 / times()).max(1)).collect(),
    }
    assert!(!names.is_empty());
    judge(&compare_all(&root, &names, &[("wide", WIDE)]).await);
}

/// A theme of the registry, or a line that says why it is skipped.
fn theme(package: &str) -> Option<PathBuf> {
    fetched(package)
        .map_err(|why| println!("skipped: {package}: {why}"))
        .ok()
}

/// A copy of one of our pages beside the sheet of a package, which it links.
async fn compare_beside(page: &str, sheet: &Path, copied: &str) -> Outcome {
    let folder = tempfile::tempdir().unwrap();
    let root = folder.path().canonicalize().unwrap();
    let ours = repository()
        .join("crates/fingerpost-proof/themes")
        .join(page);
    std::fs::copy(ours, root.join(page)).unwrap();
    std::fs::copy(sheet, root.join(copied)).unwrap();
    compare_all(&root, &[page.to_owned()], &[("wide", WIDE)]).await
}

/// A framework that many themes are built on: a page of ours with its components.
#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test]
async fn theme_bootstrap() {
    let Some(package) = theme("bootstrap@5") else {
        return;
    };
    let sheet = package.join("dist/css/bootstrap.css");
    judge(&compare_beside("bootstrap.html", &sheet, "bootstrap.css").await);
}

/// The sheet that evens browsers out, on a page of every element that it speaks of.
#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test]
async fn theme_normalize() {
    let Some(package) = theme("normalize.css@8") else {
        return;
    };
    let sheet = package.join("normalize.css");
    judge(&compare_beside("normalize.html", &sheet, "normalize.css").await);
}

/// A template for sites to start from.
#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test]
async fn theme_html5_boilerplate() {
    let Some(package) = theme("html5-boilerplate@9") else {
        return;
    };
    let root = package.join("dist").canonicalize().unwrap();
    judge(&compare_all(&root, &pages(&root), &[("wide", WIDE)]).await);
}

/// A whole theme: eleven pages over one built sheet.
#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test]
async fn theme_sb_admin() {
    let Some(package) = theme("startbootstrap-sb-admin@7") else {
        return;
    };
    let root = package.join("dist").canonicalize().unwrap();
    judge(&compare_all(&root, &pages(&root), &[("wide", WIDE)]).await);
}

/// How many selectors of each published sheet get elements of their own.
const SELECTORS: usize = 30;

/// Published sheets of many kinds: utility classes, resets, old and new ones, for print, for right to left.
/// `FINGERPOST_PAGE` picks some, `FINGERPOST_CASES=4` takes four times as many selectors of each.
const SHEETS: [(&str, &str); 16] = [
    ("@picocss/pico@2", "css/pico.css"),
    ("tachyons@4", "css/tachyons.css"),
    ("purecss@3", "build/pure.css"),
    ("milligram@1", "dist/milligram.css"),
    ("water.css@2", "out/water.css"),
    ("sanitize.css@13", "sanitize.css"),
    ("foundation-sites@6", "dist/css/foundation-rtl.css"),
    ("tufte-css@1", "tufte.css"),
    ("spectre.css@0.5", "dist/spectre.css"),
    ("gutenberg-css@0.6", "dist/gutenberg.css"),
    ("hint.css@3", "hint.css"),
    ("the-new-css-reset@1", "css/reset.css"),
    ("nes.css@2", "css/nes.css"),
    ("simpledotcss@2", "simple.css"),
    ("mvp.css@1", "mvp.css"),
    ("materialize-css@1", "dist/css/materialize.css"),
];

/// A page made for each of some published sheets.
#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test]
async fn pages_made_for_published_sheets() {
    let wanted = std::env::var("FINGERPOST_PAGE").unwrap_or_default();
    let folder = tempfile::tempdir().unwrap();
    let root = folder.path().canonicalize().unwrap();
    let mut names = Vec::new();
    for (package, sheet) in SHEETS
        .iter()
        .filter(|(package, _)| package.contains(&wanted))
    {
        let Some(package) = theme(package) else {
            continue;
        };
        let css = std::fs::read_to_string(package.join(sheet)).unwrap();
        let name = sheet.rsplit('/').next().unwrap();
        std::fs::write(root.join(name), &css).unwrap();
        let page = name.replace(".css", ".html");
        std::fs::write(
            root.join(&page),
            generated::page(name, &css, cases(SELECTORS)),
        )
        .unwrap();
        names.push(page);
    }
    judge(&compare_all(&root, &names, &[("wide", WIDE)]).await);
}
