//! One change of many elements on every page: each heading of an article goes down a level and gets
//! a class. What comes of it is read as a diff, and the script that repeats it on another theme is
//! written out.
//!
//! `cargo run --example bulk_change -p fingerpost`

use fingerpost::edit::{Script, Side, kinds};
use fingerpost::prelude::*;

#[path = "support/copy.rs"]
mod copy;

pub fn main() -> Result<(), Box<dyn std::error::Error>> {
    let copy = copy::demo()?;
    let mut site = Site::of_folder(copy.path())?;
    let mut script = Vec::new();
    for name in site.pages() {
        let page = site.page(&name, Environment::default())?;
        for level in (2..6).rev() {
            let headings = format!("article h{level}");
            let found = page
                .ask()
                .elements(ElementQuery::Selector(headings.clone()))?
                .len();
            if found == 0 {
                continue;
            }
            let lower = format!("h{}", level + 1);
            let on_all = |element: &str, change| Intent {
                each: true,
                ..Intent::new(&name, element, change)
            };
            let changes = [
                on_all(
                    &headings,
                    Change::Tag(kinds::Tag {
                        name: lower.clone(),
                    }),
                ),
                on_all(
                    &format!("article {lower}"),
                    Change::Class(kinds::Class {
                        changes: vec!["+article-title".to_owned()],
                    }),
                ),
            ];
            script.extend(changes);
        }
    }
    // A line above each list of notices says so.
    let note = Change::Insert(kinds::Insert {
        source: "<p class=\"note\">Newest first.</p>".to_owned(),
        side: Side::Before,
    });
    script.push(Intent::new("pages/notices.html", ".notice-list", note));

    // All of them, or none.
    let outcome = site.session()?.script("Headings of one size", &script)?;
    for added in &outcome.edits {
        println!("{}", added.summary);
        for warning in &added.warnings {
            println!("  note: {warning}");
        }
    }
    for file in &outcome.files {
        print!("{}", file.diff());
    }
    print!("{}", Script::new(script).to_json());
    Ok(())
}
