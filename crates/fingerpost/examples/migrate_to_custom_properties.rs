//! Puts the distances that the demo's sheet writes again and again into custom properties: one draft, one undo, no change of any
//! element. It is saved, and then the save is undone.
//!
//! `cargo run --example migrate_to_custom_properties -p fingerpost`

use std::collections::{BTreeMap, BTreeSet};

use fingerpost::prelude::*;
use fingerpost::text::Place;
use fingerpost::value::PropertyId;
use fingerpost::value::parts::{PartKind, ValuePart, parts};

#[path = "support/copy.rs"]
mod copy;

/// A declaration with distances in it: where it is, its property and its value.
type Use = (Place, PropertyId, String);

/// How often a distance is written before it gets a name.
const OFTEN: usize = 3;

/// The distance that a part of a value is, as the property's name will have it.
fn distance(part: &ValuePart) -> Option<String> {
    match &part.kind {
        PartKind::Number { value, unit } if unit == "rem" => Some(format!("{value}{unit}")),
        _ => None,
    }
}

fn is_spacing(property: &str) -> bool {
    ["margin", "padding", "gap"]
        .iter()
        .any(|word| property.starts_with(word))
}

/// Where the sheet's own custom properties are.
fn own_properties(site: &Site) -> Result<Place, Box<dyn std::error::Error>> {
    let page = site.page("pages/home.html", Environment::default())?;
    let root = page.ask().find_one("html")?;
    let why = page.ask().why(&root, &"--foam".parse()?);
    Ok(why.contests[0].contenders[0].declaration.place.clone())
}

pub fn main() -> Result<(), Box<dyn std::error::Error>> {
    let copy = copy::demo()?;
    let mut site = Site::of_folder(copy.path())?;
    let mut distances: BTreeMap<String, Vec<Use>> = BTreeMap::new();
    for listed in site
        .inventory()
        .sheets
        .iter()
        .filter(|s| s.text.name() == "css/skerry.css")
    {
        let sheet = &listed.sheet;
        for (_, declaration) in sheet.declarations() {
            let (name, value) = (
                sheet.name_source(declaration),
                sheet.value_source(declaration),
            );
            let Some(property) = PropertyId::named(name).filter(|_| is_spacing(name)) else {
                continue;
            };
            let own: BTreeSet<String> = parts(Some(property), value)
                .iter()
                .filter_map(distance)
                .collect();
            for one in own {
                let uses = distances.entry(one).or_default();
                uses.push((sheet.place_of(declaration), property, value.to_owned()));
            }
        }
    }
    distances.retain(|_, uses| uses.len() >= OFTEN);

    // A declaration with several of them is changed once.
    let names: Vec<&String> = distances.keys().collect();
    let name = |one: &String| Some(format!("--space-{}", names.binary_search(&one).ok()? + 1));
    let root = own_properties(&site)?;
    let mut script: Vec<Intent> = Vec::new();
    let uses: BTreeSet<&Use> = distances.values().flatten().collect();
    // From the back to the front: a place counts in the text as the edits before it leave it.
    for (place, property, value) in uses.into_iter().rev() {
        let mut with = value.clone();
        for part in parts(Some(*property), value).into_iter().rev() {
            if let Some(name) = distance(&part).as_ref().and_then(name) {
                with.replace_range(part.bytes(), &format!("var({name})"));
            }
        }
        script.push(Intent::at(place, Change::set(property.name(), &with)));
    }
    for one in distances.keys() {
        let name = name(one).unwrap_or_default();
        script.push(Intent::at(&root, Change::add(&name, one)));
    }

    let start = std::time::Instant::now();
    let outcome = site.session()?.script("Use custom properties", &script)?;
    let each = start.elapsed().as_secs_f64() * 1000.0 / script.len().max(1) as f64;
    println!("{}: {each:.1} ms each", outcome.summary);
    println!(
        "{} elements changed",
        outcome
            .effect
            .map_or(0, |effect| effect.side_effects().count())
    );
    for file in site.session()?.save_all()?.files {
        print!("{}", file.diff());
    }
    println!("{}", site.session()?.unsave()?.summary);
    Ok(())
}
