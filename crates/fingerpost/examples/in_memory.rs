//! A page and its sheets from memory: no files at all, as in a browser or after an editor.
//!
//! `cargo run --example in_memory -p fingerpost`

use std::collections::HashMap;

use fingerpost::prelude::*;

pub fn main() -> Result<(), Box<dyn std::error::Error>> {
    let html = Text::new(
        "index.html",
        "<link rel=stylesheet href=theme.css><link rel=stylesheet href=gone.css>\
         <h1 class=title>Skerry Line</h1>",
    );
    let theme = Text::new("theme.css", ".title { color: teal }\nh1 { color: navy }\n");
    let sheets = HashMap::from([("theme.css".to_owned(), theme)]);
    let page = Page::builder(html).sheets(sheets).build();

    for failure in page.failures() {
        println!("{} did not load: {}", failure.url, failure.error);
    }
    let ask = page.ask();
    let title = ask.find_one("h1")?;
    let answer = ask.why(&title, &"color".parse()?);
    for contender in &answer.contests[0].contenders {
        let declaration = &contender.declaration;
        println!(
            "{}: {} at {} {}",
            declaration.property, declaration.value, declaration.place, contender.sentence
        );
    }
    Ok(())
}
