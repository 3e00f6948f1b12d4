//! The rules of the demo's sheets that match no element of any page.
//!
//! `cargo run --example idle_rules -p fingerpost`

use std::collections::BTreeMap;
use std::path::Path;

use fingerpost::cascade::Origin;
use fingerpost::prelude::*;
use fingerpost::selector::Matcher;

pub fn main() -> Result<(), Box<dyn std::error::Error>> {
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/skerry-line");
    let site = Site::of_folder(&demo)?;
    // Each rule by its place, and on how many pages something matches it.
    let mut rules: BTreeMap<(String, u32), (String, usize)> = BTreeMap::new();
    for name in site.pages() {
        let page = site.page(&name, Environment::default())?;
        let matcher = Matcher::new(page.document(), page.states());
        for rule in page.rules() {
            let sheet = &page.sheets()[rule.sheet as usize];
            let Ok(selectors) = &rule.selectors else {
                continue;
            };
            if sheet.origin != Origin::Author {
                continue;
            }
            let source = sheet.styles.sheet();
            let place = source.place(source.rule(rule.rule).span.start());
            let mut elements = page.document().elements().iter();
            let matches = elements.any(|id| matcher.matches_list(selectors, *id));
            let known = rules.entry((place.file, place.line));
            let (_, pages) = known.or_insert_with(|| (selectors.to_string(), 0));
            *pages += usize::from(matches);
        }
    }
    for ((file, line), (selector, pages)) in rules {
        if pages == 0 {
            println!("{file}:{line}  {selector}");
        }
    }
    Ok(())
}
