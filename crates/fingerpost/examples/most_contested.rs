//! The ten properties of a page that most declarations compete for, over all of its elements.
//!
//! `cargo run --example most_contested -p fingerpost`

use std::collections::BTreeMap;
use std::error::Error;
use std::path::Path;

use fingerpost::prelude::*;

pub fn main() -> Result<(), Box<dyn Error>> {
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/skerry-line");
    let site = Site::of_folder(&demo)?;
    let name = "pages/home.html";
    let page = site.page(name, Environment::default())?;
    // Every element at once: matched, decided and computed, with whatever is alike shared.
    let whole = page.whole();
    let mut most: BTreeMap<String, (usize, String)> = BTreeMap::new();
    for element in whole.elements() {
        for (property, value) in element.own() {
            // The reasons are not stored; a contest is built from the list of rules when it is asked for.
            let count = element.contest(property).contest.contenders.len();
            let winner = element.winner(property).map(|winner| whole.place(winner));
            let place = winner.map_or_else(String::new, |place| format!(" from {place}"));
            let best = most.entry(property.to_string()).or_default();
            if count > best.0 {
                let tag = &page.document().element(element.id()).name;
                *best = (count, format!("{} on <{tag}>{place}", value.computed));
            }
        }
    }
    println!(
        "{} elements of {name} have {} different styles",
        whole.elements().count(),
        whole.style_count()
    );
    let mut most: Vec<_> = most.into_iter().collect();
    most.sort_by_key(|(name, (count, _))| (std::cmp::Reverse(*count), name.clone()));
    for (property, (count, winner)) in most.into_iter().take(10) {
        println!("{count:>4} declarations compete for {property}: {winner}");
    }
    Ok(())
}
