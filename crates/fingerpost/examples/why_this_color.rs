//! Why does the heading of the demo's home page have its color?
//!
//! `cargo run --example why_this_color -p fingerpost`

use std::path::Path;

use fingerpost::prelude::*;

pub fn main() -> Result<(), Box<dyn std::error::Error>> {
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/skerry-line");
    let (site, name) = Site::of_page(&demo.join("pages/home.html"))?;
    let page = site.page(&name, Environment::default())?;

    let heading = page.ask().find_one("'Sailings today'")?;
    let answer = page.ask().why(&heading, &"color".parse()?);

    let contest = &answer.contests[0];
    println!("{} is {}", answer.element.label(), contest.value.computed);
    for contender in &contest.contenders {
        let declaration = &contender.declaration;
        println!(
            "  {}  {}  {}",
            declaration.place, declaration.rule.selector, contender.sentence
        );
    }
    Ok(())
}
