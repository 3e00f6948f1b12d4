//! What the rest of the site has, for questions whose answer lies beside the page.
//!
//! ```
//! use fingerpost::prelude::*;
//! use fingerpost::question::whynot::Asked;
//!
//! # let folder = tempfile::tempdir()?;
//! # std::fs::write(folder.path().join("fingerpost.toml"), "fingerpost = 2\n")?;
//! # std::fs::write(folder.path().join("a.css"), "p { color: teal } .today p { color: navy }")?;
//! # for page in ["a.html", "b.html"] {
//! #     let html = "<link rel=stylesheet href=a.css><p>Boats<div class=today><p>Fares</div>";
//! #     std::fs::write(folder.path().join(page), html)?;
//! # }
//! # std::fs::write(folder.path().join("winter.css"), ".snow p { color: white }")?;
//! // `winter.css` is on no page.
//! let site = Site::of_folder(folder.path())?;
//! let inventory = site.inventory();
//! assert_eq!(inventory.named("a.css").unwrap().pages, ["a.html", "b.html"]);
//!
//! let page = site.page("a.html", Environment::default())?;
//! let ask = page.ask().beside(&inventory);
//! let p = ask.find_one("body > p")?;
//! let answer = ask.whynot(&p, &Asked::parse(".snow p"), ".snow p")?;
//! assert!(answer.findings[0].obstacles[0].sentence.contains("winter.css"));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use std::sync::Arc;

use crate::markup::Document;
use crate::sheet::Sheet;
use crate::text::Text;

/// The sheets of a site, whether the page has them or not.
#[derive(Debug, Default)]
pub struct Inventory {
    /// The sheets, by name.
    pub sheets: Vec<SiteSheet>,
    /// The pages, by name.
    pub documents: Vec<Document>,
}

/// A sheet of the site, or a source that sheets are built from.
#[derive(Debug)]
pub struct SiteSheet {
    /// Its text.
    pub text: Arc<Text>,
    /// The text read as CSS.
    pub sheet: Sheet,
    /// The pages that have it, by name.
    pub pages: Vec<String>,
}

impl Inventory {
    /// The sheet of that name.
    pub fn named(&self, name: &str) -> Option<&SiteSheet> {
        self.sheets.iter().find(|s| s.text.name() == name)
    }
}
