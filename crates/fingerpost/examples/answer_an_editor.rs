//! The back end of an editor: a sheet is typed into, is not saved, and after every key press the value under the cursor is
//! explained and the elements that changed are counted.
//!
//! `cargo run --example answer_an_editor -p fingerpost`

use std::path::Path;
use std::time::Instant;

use fingerpost::prelude::*;

const SHEET: &str = "css/skerry.css";

pub fn main() -> Result<(), Box<dyn std::error::Error>> {
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/skerry-line");
    let site = Site::of_folder(&demo)?;
    let mut page = site.page("pages/home.html", Environment::default())?;
    let heading = page.ask().find_one("h2.today")?;

    // An editor counts lines and columns from 0, the columns in UTF-16 code units.
    let color = "color".parse()?;
    let why = page.ask().why(&heading, &color);
    let place = &why.contests[0].contenders[0].declaration.place;
    let mut text = site.file_text(SHEET)?;
    let start = text
        .offset(place.line, place.column)
        .ok_or("the place is in the text")?;
    let (line, column) = text.utf16(start);
    println!("{SHEET}: the cursor is on line {line}, column {column}");

    let declaration = text.source()[usize::from(start)..]
        .split(';')
        .next()
        .unwrap_or_default();
    let end = usize::from(start) + declaration.len();
    let mut typed = String::new();
    for key in "color: navy".chars() {
        typed.push(key);
        let now = Instant::now();
        let mut source = text.source().to_owned();
        source.replace_range(usize::from(start)..end, &typed);
        let editor = site.with_buffers([Text::new(SHEET, source)])?;
        let after = editor.reparse_page(&page)?;
        // A change of a sheet leaves the elements of the page as they are.
        let target = after
            .carry(&page, &heading)
            .ok_or("the heading is still there")?;
        let value = after.styles().value(&target, &color).computed.to_string();
        let changed = after.effect(&page).affected.len();
        let took = now.elapsed().as_secs_f64() * 1000.0;
        println!("{typed:12} {value:18} {changed} changed, {took:.1} ms");
        page = after;
    }
    text = Text::new(SHEET, typed);
    println!(
        "nothing was written: the buffer ends in {:?}",
        text.source()
    );
    Ok(())
}
