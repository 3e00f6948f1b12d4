//! The value of a property from a narrow to a wide viewport, and from which rule.
//!
//! `cargo run --example at_every_width -p fingerpost`

use std::path::Path;

use fingerpost::environment::Viewport;
use fingerpost::prelude::*;

pub fn main() -> Result<(), Box<dyn std::error::Error>> {
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/skerry-line");
    let site = Site::of_folder(&demo)?;
    let page = site.page("pages/home.html", Environment::default())?;
    let padding = "padding-left".parse()?;
    let mut last = String::new();
    for width in (320..=1600).step_by(10) {
        // Nothing is parsed or matched again for another width.
        let page = page.under(&Environment {
            viewport: Viewport {
                width: f64::from(width),
                height: 800.0,
            },
            ..Environment::default()
        });
        let ask = page.ask();
        let panel = ask.find_one(".words")?;
        let answer = ask.why(&panel, &padding);
        let contest = &answer.contests[0];
        let from = match contest.contenders.first() {
            Some(winner) => winner.declaration.place.to_string(),
            None => "nothing".to_owned(),
        };
        let line = format!("{} from {from}", contest.value.computed);
        if line != last {
            println!("from {width}px on: {line}");
            last = line;
        }
    }
    Ok(())
}
