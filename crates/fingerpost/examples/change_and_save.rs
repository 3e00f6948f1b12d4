//! Changes a color of a copy of the demo theme, reads the diff, and saves it.
//!
//! `cargo run --example change_and_save -p fingerpost`

use std::path::Path;

use fingerpost::prelude::*;

pub fn main() -> Result<(), Box<dyn std::error::Error>> {
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/skerry-line");
    let copy = tempfile::tempdir()?;
    for file in ["pages/notices.html", "css/skerry.css", "fingerpost.toml"] {
        let to = copy.path().join(file);
        std::fs::create_dir_all(to.parent().ok_or("a file has a folder")?)?;
        std::fs::copy(demo.join(file), to)?;
    }

    let (mut site, name) = Site::of_page(&copy.path().join("pages/notices.html"))?;
    let mut session = site.session()?;
    session.edit(&name, "#gale", Change::set("border-color", "var(--late)"))?;
    for file in session.save_all()?.files {
        print!("{}", file.diff());
    }
    Ok(())
}
