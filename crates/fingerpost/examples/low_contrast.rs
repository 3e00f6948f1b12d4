//! The texts of the demo whose contrast is too low for level AA of the accessibility guidelines.
//!
//! `cargo run --example low_contrast -p fingerpost`

use std::path::Path;

use fingerpost::prelude::*;
use fingerpost::question::ElementSummary;

pub fn main() -> Result<(), Box<dyn std::error::Error>> {
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/skerry-line");
    let site = Site::of_folder(&demo)?;
    for name in site.pages() {
        let page = site.page(&name, Environment::default())?;
        let ask = page.ask();
        for id in page.document().elements() {
            let Some(contrast) = ask.contrast(Target::from(*id)) else {
                continue;
            };
            if !contrast.passes_aa() {
                let element = ElementSummary::new(&page, *id);
                println!(
                    "{}  {}  {}:1, {} is needed: {} on {}",
                    element.place,
                    element.label(),
                    contrast.ratio,
                    contrast.needed_aa,
                    contrast.color,
                    contrast.background
                );
            }
        }
    }
    Ok(())
}
