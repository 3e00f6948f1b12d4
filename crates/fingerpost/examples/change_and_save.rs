//! Changes a color of a copy of the demo theme, reads the diff, and saves it.
//!
//! `cargo run --example change_and_save -p fingerpost`

use fingerpost::prelude::*;

#[path = "support/copy.rs"]
mod copy;

pub fn main() -> Result<(), Box<dyn std::error::Error>> {
    let copy = copy::demo()?;
    let (mut site, name) = Site::of_page(&copy.path().join("pages/notices.html"))?;
    let mut session = site.session()?;
    session.edit(
        &name,
        "#gale",
        Change::set("border-left-color", "var(--late)"),
    )?;
    for file in session.save_all()?.files {
        print!("{}", file.diff());
    }
    Ok(())
}
