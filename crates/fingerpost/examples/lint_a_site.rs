//! A linter over the whole demo: sheets that don't load, values that don't fit, rules that match nothing, classes without rules.
//!
//! `cargo run --example lint_a_site -p fingerpost`

use std::collections::BTreeSet;
use std::path::Path;
use std::time::Instant;

use fingerpost::cascade::Origin;
use fingerpost::prelude::*;
use fingerpost::sheet::Sheet;
use fingerpost::value::declared::{self, Meaning, Name};

/// The declarations of a sheet that browsers drop, each with its place.
fn dropped(sheet: &Sheet) -> impl Iterator<Item = String> {
    sheet.declarations().filter_map(|(_, declaration)| {
        let (name, value) = (
            sheet.name_source(declaration),
            sheet.value_source(declaration),
        );
        let place = sheet.place_of(declaration);
        match declared::name(sheet, declaration) {
            Name::Custom(_) => None,
            Name::Unknown => Some(format!("{place}: no property is called {name}")),
            Name::Property(property) => {
                let tokens = sheet.value_tokens(declaration);
                let meaning = declared::meaning(property, sheet.text().source(), &tokens);
                let misfits = matches!(meaning, Meaning::Misfit(_));
                misfits.then(|| format!("{place}: {name} can't be {value}"))
            }
        }
    })
}

pub fn main() -> Result<(), Box<dyn std::error::Error>> {
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/skerry-line");
    let site = Site::of_folder(&demo)?;
    let start = Instant::now();
    let mut findings = BTreeSet::new();
    let pages = site.pages();
    for name in &pages {
        let page = site.page(name, Environment::default())?;
        for failure in page.failures() {
            let place = failure.text.place(failure.span.start());
            findings.insert(format!(
                "{place}: {} does not load: {}",
                failure.url, failure.error
            ));
        }
        for sheet in page.sheets().iter().filter(|s| s.origin == Origin::Author) {
            findings.extend(dropped(sheet.styles.sheet()));
        }
    }
    for rule in site.idle().rules {
        findings.insert(format!(
            "{}: {} matches nothing on any page",
            rule.place,
            rule.idle.join(", ")
        ));
    }
    for class in site.classes_without_rules() {
        findings.insert(format!(
            "{}: no rule is about the class {}",
            class.place, class.name
        ));
    }
    for finding in &findings {
        println!("{finding}");
    }
    let speed = pages.len() as f64 / start.elapsed().as_secs_f64();
    println!(
        "{} findings on {} pages, {speed:.0} pages in a second",
        findings.len(),
        pages.len()
    );
    Ok(())
}
