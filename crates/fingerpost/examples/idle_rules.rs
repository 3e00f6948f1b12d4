//! The rules of the demo that match nothing on any page, whatever state its elements are in, and the classes that no rule is
//! about.
//!
//! `cargo run --example idle_rules -p fingerpost`

use std::path::Path;

use fingerpost::prelude::*;

pub fn main() -> Result<(), Box<dyn std::error::Error>> {
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/skerry-line");
    let site = Site::of_folder(&demo)?;
    let answer = site.idle();
    println!("On {} pages these match nothing:", answer.pages);
    for rule in &answer.rules {
        let rest = if rule.whole {
            ""
        } else {
            "  (the rest of its rule does)"
        };
        println!("{}  {}{rest}", rule.place.brief(), rule.idle.join(", "));
    }
    for sheet in &answer.not_loaded {
        println!("{sheet} is on no page");
    }
    println!("\nNo rule is about these classes:");
    for class in site.classes_without_rules() {
        println!(
            "{}  at {}, {} in all",
            class.name, class.place, class.elements
        );
    }
    Ok(())
}
