//! Changes a color of a copy of the demo theme, reads the diff, and saves it.
//!
//! `cargo run --example change_and_save -p fingerpost`

use std::path::Path;

use fingerpost::prelude::*;
use fingerpost::site::Selection;

pub fn main() -> Result<(), Box<dyn std::error::Error>> {
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/skerry-line");
    let copy = tempfile::tempdir()?;
    for file in ["pages/notices.html", "css/skerry.css", "fingerpost.toml"] {
        let to = copy.path().join(file);
        std::fs::create_dir_all(to.parent().ok_or("a file has a folder")?)?;
        std::fs::copy(demo.join(file), to)?;
    }

    let (mut site, name) = Site::of_page(&copy.path().join("pages/notices.html"))?;
    let page = site.page(&name, Environment::default())?;
    let intent = Intent::new(&name, "#gale", Change::set("border-color", "var(--late)"));
    let edit = site.make(&page, &intent)?;

    site.try_edit(edit)?;
    for change in site.save(&Selection::All)?.changes {
        print!("{}", change.diff());
    }
    Ok(())
}
