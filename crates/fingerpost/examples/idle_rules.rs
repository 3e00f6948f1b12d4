//! The rules of the demo's sheets that match nothing on any page, whatever state its elements are in.
//!
//! `cargo run --example idle_rules -p fingerpost`

use std::collections::BTreeMap;
use std::path::Path;

use fingerpost::cascade::Origin;
use fingerpost::prelude::*;

pub fn main() -> Result<(), Box<dyn std::error::Error>> {
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/skerry-line");
    let site = Site::of_folder(&demo)?;
    // Each rule by its place, with its selectors and how many elements of all pages it can match.
    let mut rules: BTreeMap<(String, u32), (String, u32)> = BTreeMap::new();
    for name in site.pages() {
        let page = site.page(&name, Environment::default())?;
        for (rule, reach) in page.rules().iter().zip(page.reach_in_any_state()) {
            let sheet = &page.sheets()[rule.sheet as usize];
            let Ok(selectors) = &rule.selectors else {
                continue;
            };
            if sheet.origin != Origin::Author {
                continue;
            }
            let source = sheet.styles.sheet();
            let place = source.place(source.rule(rule.rule).span.start());
            let known = rules.entry((place.file, place.line));
            let (_, all) = known.or_insert_with(|| (selectors.to_string(), 0));
            *all += reach;
        }
    }
    for ((file, line), (selectors, reach)) in rules {
        if reach == 0 {
            println!("{file}:{line}  {selectors}");
        }
    }
    Ok(())
}
