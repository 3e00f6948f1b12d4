//! After edits are saved, the browser shows what they said: random batches of edits on the demo and on
//! packages of the registry, each batch saved into a copy and the whole page compared again.
//!
//! The last edit of a batch sets a value that every engine writes the same way, and the engine itself is
//! asked for it, so that this does not depends on our own answer.

use std::collections::BTreeMap;
use std::fmt::Write;
use std::path::Path;

use fingerpost::edit::{Change, Destination, EditError, Intent, Side, kinds};
use fingerpost::prelude::*;

use crate::browser::Browser;
use crate::cases::{cases, times};
use crate::compare::Outcome;
use crate::numbers::Numbers;
use crate::{WIDE, compare_all, judge, repository, theme};
use test_browser::{Files, Scripts};

/// How many values are tried on a page until one is taken. Nearly every one is.
const MOST_TRIES: usize = 200;

/// Values with what CSSOM writes for them, of properties that no layout changes.
const SET: [(&str, &str, &str); 9] = [
    ("color", "navy", "rgb(0, 0, 128)"),
    ("padding-left", "9px", "9px"),
    ("padding-top", "calc(2px + 1px)", "3px"),
    ("margin-top", "-1px", "-1px"),
    ("z-index", "7", "7"),
    ("text-align", "right", "right"),
    ("letter-spacing", "2px", "2px"),
    ("background-color", "#0f0", "rgb(0, 255, 0)"),
    ("visibility", "hidden", "hidden"),
];

/// A change as a person would ask for it.
fn change(numbers: &mut Numbers) -> Change {
    let (property, value, _) = SET[numbers.below(SET.len())];
    let property = property.to_owned();
    match numbers.below(16) {
        0..=2 => Change::set(&property, value),
        3 => Change::add(&property, value),
        4 => kinds::RemoveDeclaration { property }.into(),
        5 => kinds::Disable { property }.into(),
        6 => kinds::Step {
            property,
            by: numbers.one(&["+", "-", "++", "+.5"]).to_owned(),
        }
        .into(),
        7 => kinds::Rule {
            selector: None,
            declarations: format!("{property}: {value}; top: 0"),
        }
        .into(),
        8 => kinds::Important {
            property,
            remove: false,
        }
        .into(),
        9 => kinds::Class {
            changes: vec!["+tried".to_owned()],
        }
        .into(),
        10 => kinds::Attribute {
            name: "title".to_owned(),
            value: "a \"b\" & c".to_owned(),
            remove: false,
        }
        .into(),
        11 => kinds::Insert {
            source: "<b class=tried>x</b>".to_owned(),
            side: [Side::Before, Side::After, Side::First, Side::Last][numbers.below(4)],
        }
        .into(),
        12 => kinds::Duplicate {}.into(),
        13 => kinds::RemoveElement {}.into(),
        14 => kinds::Wrap {
            tag: "<div class=wrapped>".to_owned(),
        }
        .into(),
        _ => kinds::Unwrap {}.into(),
    }
}

/// The results of the batches of a theme.
#[derive(Debug, Default)]
struct Tally {
    edits: usize,
    asked: usize,
    /// Those that went into the sheet that is served instead of its source.
    not_in_source: usize,
    refused: BTreeMap<String, usize>,
}

/// Tries an intent and keeps it in the draft, or counts why it was refused.
fn attempt(site: &mut Site, page: &str, intent: &Intent, tally: &mut Tally) -> bool {
    let page = site.page(page, Environment::default()).unwrap();
    let made = match site.make(&page, intent) {
        // A source that says it in another way, such as with a variable, can't be changed; nor a sheet that is built from none.
        Err(EditError::NotThere { .. } | EditError::Overwritten { .. })
            if intent.into == Destination::Sources =>
        {
            tally.not_in_source += 1;
            site.make(
                &page,
                &Intent {
                    into: Destination::Winning,
                    ..intent.clone()
                },
            )
        }
        // A page whose sheets were removed has no rules; an element has its style attribute still.
        Err(EditError::NoRule { .. }) => site.make(
            &page,
            &Intent {
                into: Destination::Inline,
                ..intent.clone()
            },
        ),
        made => made,
    };
    match made {
        Ok(edit) => {
            site.session().unwrap().add(edit).unwrap();
            tally.edits += 1;
            true
        }
        Err(error) => {
            let debug = format!("{error:?}");
            let kind = debug
                .split([' ', '('])
                .next()
                .unwrap_or_default()
                .to_owned();
            *tally.refused.entry(kind).or_default() += 1;
            false
        }
    }
}

/// Saves random batches of edits into a folder, and compares after each.
async fn edited(root: &Path, pages: &[&str], count: usize, seed: u64) -> Outcome {
    let mut numbers = Numbers(seed);
    let mut tally = Tally::default();
    let mut total = Outcome::default();
    for _ in 0..count {
        let page = numbers.one(pages);
        let mut site = Site::of_folder(root).unwrap();
        let elements = |site: &Site| {
            let page = site.page(page, Environment::default()).unwrap();
            page.document().elements().len()
        };
        for _ in 0..1 + numbers.below(6) {
            let index = numbers.below(elements(&site));
            let intent = Intent::new(page, &format!("@{index}"), change(&mut numbers));
            attempt(&mut site, page, &intent, &mut tally);
        }
        let mut wanted = None;
        let mut tries = 0;
        while wanted.is_none() {
            tries += 1;
            assert!(
                tries <= MOST_TRIES,
                "every edit of {page} is refused: {tally:?}"
            );
            let (property, value, shown) = SET[numbers.below(SET.len())];
            let index = numbers.below(elements(&site));
            let change = Change::set(property, value);
            let intent = Intent::new(page, &format!("@{index}"), change);
            if attempt(&mut site, page, &intent, &mut tally) {
                wanted = Some((index, property, shown));
            }
        }
        site.session().unwrap().save_all().unwrap();
        let (index, property, shown) = wanted.expect("the loop ends with one");
        let files = Files::of(root, Scripts::Forbidden);
        let browser = Browser::start(WIDE).await;
        if let Ok(engine) = browser.ask(&files.url(page), &[]).await {
            let at = engine.properties.iter().position(|p| p == property);
            let value = &engine.elements[index].values[at.expect("a longhand")];
            assert_eq!(value, shown, "{property} of element {index} of {page}");
            tally.asked += 1;
        }
        browser.close().await;
        total.add(compare_all(root, &[page.to_owned()], &[("edited", WIDE)]).await);
    }
    println!(
        "{} edits, {} of them asked of the engine itself, {} not in the source, refused: {:?}",
        tally.edits, tally.asked, tally.not_in_source, tally.refused
    );
    assert!(tally.asked > 0, "the engine never answered");
    total
}

/// Copies a theme without its scripts and fonts; an image that is missing has another style.
fn copy(from: &Path, to: &Path) {
    for entry in std::fs::read_dir(from).unwrap().flatten() {
        let (path, target) = (entry.path(), to.join(entry.file_name()));
        let extension = path
            .extension()
            .and_then(|e| e.to_str())
            .unwrap_or_default();
        if path.is_dir() {
            copy(&path, &target);
        } else if !["js", "ts", "woff", "woff2", "ttf"].contains(&extension) {
            std::fs::create_dir_all(to).unwrap();
            std::fs::copy(&path, &target).unwrap();
        }
    }
}

/// A page with elements of the classes that a sheet speaks of, some in each other.
fn page_for(sheet: &str, css: &str) -> String {
    let mut classes: Vec<&str> = Vec::new();
    for after in css.split('.').skip(1) {
        let is_name = |c: char| c.is_ascii_alphanumeric() || c == '-' || c == '_';
        let name = &after[..after.find(|c| !is_name(c)).unwrap_or(after.len())];
        if name.starts_with(|c: char| c.is_ascii_alphabetic()) && !classes.contains(&name) {
            classes.push(name);
        }
    }
    let step = (classes.len() / 60).max(1);
    let mut page = format!("<!doctype html>\n<link rel=\"stylesheet\" href=\"{sheet}\">\n<main>\n");
    let tags = ["div", "p", "a", "button", "section", "h2", "ul", "span"];
    for (at, class) in classes.iter().step_by(step).enumerate() {
        let tag = tags[at % tags.len()];
        let inner = classes[(at * step + step / 2) % classes.len()];
        let _ = writeln!(
            page,
            "  <{tag} class=\"{class}\" id=n{at}>x <b class={inner}>y</b></{tag}>"
        );
    }
    page.push_str("  <table>\n    <tr><th>1<td>2\n    <tr><td><input disabled><td>4\n  </table>\n");
    page.push_str("  <form><label>a <input type=checkbox checked></label></form>\n");
    page.push_str("  <ul>\n    <li>1\n    <li>2\n  </ul>\n</main>\n");
    page
}

/// A sheet of a package with a page made for it.
async fn edited_beside(package: &str, sheet: &str, seed: u64) -> Outcome {
    let Some(folder) = theme(package) else {
        return Outcome::default();
    };
    let work = tempfile::tempdir().unwrap();
    let root = work.path().canonicalize().unwrap();
    copy(&folder, &root);
    std::fs::write(root.join("fingerpost.toml"), "fingerpost = 2\n").unwrap();
    let css = std::fs::read_to_string(root.join(sheet)).unwrap();
    std::fs::write(root.join("made.html"), page_for(sheet, &css)).unwrap();
    println!("{package}:");
    edited(&root, &["made.html"], 1, seed).await
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test]
async fn the_demo_after_edits() {
    let work = tempfile::tempdir().unwrap();
    let root = work.path().canonicalize().unwrap();
    copy(&repository().join("demo/skerry-line"), &root);
    let pages = ["pages/home.html", "pages/fares.html", "pages/notices.html"];
    judge(&edited(&root, &pages, cases(2), 0x1234_5678_9abc).await);
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test]
async fn whole_themes_after_edits() {
    let themes = [
        ("startbootstrap-sb-admin@7", "dist", "index.html"),
        ("startbootstrap-clean-blog@6", "dist", "post.html"),
    ];
    let mut total = Outcome::default();
    for (at, (package, folder, page)) in themes.into_iter().enumerate() {
        let Some(package) = theme(package) else {
            continue;
        };
        let work = tempfile::tempdir().unwrap();
        let root = work.path().canonicalize().unwrap();
        copy(&package.join(folder), &root);
        std::fs::write(root.join("fingerpost.toml"), "fingerpost = 2\n").unwrap();
        total.add(edited(&root, &[page], 1, 0xabad_cafe + at as u64).await);
    }
    judge(&total);
}

/// Minified sheets, sheets with source maps and their sources, and sheets of every size: every fourth, and all with
/// `FINGERPOST_CASES=4`.
#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test]
async fn sheets_of_packages_after_edits() {
    let sheets = [
        ("bootstrap@5", "dist/css/bootstrap.min.css"),
        ("bulma@1", "css/bulma.css"),
        ("@picocss/pico@2", "css/pico.min.css"),
        ("purecss@3", "build/pure-min.css"),
        ("foundation-sites@6", "dist/css/foundation.min.css"),
        ("tachyons@4", "css/tachyons.min.css"),
        ("materialize-css@1", "dist/css/materialize.min.css"),
        ("milligram@1", "dist/milligram.min.css"),
        ("spectre.css@0.5", "dist/spectre.min.css"),
        ("sanitize.css@13", "sanitize.css"),
        ("water.css@2", "out/water.min.css"),
    ];
    let mut total = Outcome::default();
    for (at, (package, sheet)) in sheets.into_iter().enumerate().step_by((4 / times()).max(1)) {
        total.add(edited_beside(package, sheet, 0xfeed_beef + 7 * at as u64).await);
    }
    judge(&total);
}
