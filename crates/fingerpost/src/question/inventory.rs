//! What the rest of the site has, for questions whose answer lies beside the page.

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
