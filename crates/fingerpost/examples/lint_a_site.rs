//! A linter over the whole demo: sheets that don't load, values that don't fit, rules that match nothing, classes without rules.
//!
//! `cargo run --example lint_a_site -p fingerpost`

use std::collections::BTreeSet;
use std::path::Path;
use std::time::Instant;

use fingerpost::cascade::Origin;
use fingerpost::prelude::*;

pub fn main() -> Result<(), Box<dyn std::error::Error>> {
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/skerry-line");
    let site = Site::of_folder(&demo)?;
    let start = Instant::now();
    let mut findings = BTreeSet::new();
    let pages = site.pages();
    for name in &pages {
        let page = site.page(name, Environment::default())?;
        findings.extend(page.failures().iter().map(ToString::to_string));
        for sheet in page.sheets().iter().filter(|s| s.origin == Origin::Author) {
            for (declaration, why) in sheet.styles.dropped() {
                let place = sheet.styles.sheet().place_of(declaration);
                let name = sheet.styles.sheet().name_source(declaration);
                findings.insert(format!("{place}: {name} is dropped: {why}"));
            }
        }
    }
    findings.extend(site.idle().rules.iter().map(ToString::to_string));
    findings.extend(site.classes_without_rules().iter().map(ToString::to_string));
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
