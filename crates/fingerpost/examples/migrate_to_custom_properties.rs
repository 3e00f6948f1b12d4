//! Puts the distances that the demo's sheet writes again and again into custom properties: one draft, one undo, no change of any
//! element. It is saved, and then the save is undone.
//!
//! `cargo run --example migrate_to_custom_properties -p fingerpost`

use std::collections::BTreeMap;

use fingerpost::edit::rewritten;
use fingerpost::prelude::*;
use fingerpost::value::parts::{PartKind, ValuePart};

#[path = "support/copy.rs"]
mod copy;

/// How often a distance is written before it gets a name.
const OFTEN: usize = 3;

/// The distance that a part of a property's value is.
fn distance(property: &str, part: &ValuePart) -> Option<String> {
    let mut distances = ["margin", "padding", "gap"].iter();
    match &part.kind {
        PartKind::Number { value, unit } if unit == "rem" => distances
            .any(|word| property.starts_with(word))
            .then(|| format!("{value}{unit}")),
        _ => None,
    }
}

pub fn main() -> Result<(), Box<dyn std::error::Error>> {
    let copy = copy::demo()?;
    let mut site = Site::of_folder(copy.path())?;
    let inventory = site.inventory();
    let listed = inventory.named("css/skerry.css").ok_or("no such sheet")?;
    let mut times = BTreeMap::new();
    rewritten(&listed.sheet, |property, part| {
        *times.entry(distance(property, part)?).or_insert(0) += 1;
        None
    });
    times.retain(|_, times| *times >= OFTEN);
    let named = times.into_keys().zip(1..);
    let names: BTreeMap<_, _> = named.map(|(d, at)| (d, format!("--space-{at}"))).collect();
    let mut script = rewritten(&listed.sheet, |property, part| {
        let name = names.get(&distance(property, part)?)?;
        Some(format!("var({name})"))
    });
    let page = site.page("pages/home.html", Environment::default())?;
    let root = page.ask().find_one("html")?;
    let known = page.ask().why(&root, &"--foam".parse()?);
    let place = &known.contests[0].contenders[0].declaration.place;
    let added = names.iter();
    script.extend(added.map(|(distance, name)| Intent::at(place, Change::add(name, distance))));

    let outcome = site.session()?.script("Use custom properties", &script)?;
    let effect = outcome
        .effect
        .map_or(0, |effect| effect.side_effects().count());
    println!("{}; {effect} elements changed", outcome.summary);
    for file in site.session()?.save_all()?.files {
        print!("{}", file.diff());
    }
    println!("{}", site.session()?.unsave()?.summary);
    Ok(())
}
