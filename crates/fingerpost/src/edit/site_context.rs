//! What an edit may need to know of the site besides its page.

use std::sync::Arc;

use crate::markup::Document;
use crate::text::Text;

/// What an edit may need to know besides its page.
#[derive(Debug, Default)]
#[non_exhaustive]
pub struct SiteContext {
    /// The site's override sheet, by name.
    pub overrides: Option<String>,
    /// Sheets of the site that the page may not have.
    pub sheets: Vec<Arc<Text>>,
    /// The site's pages, to say what a rule reaches on others.
    pub documents: Vec<Document>,
    /// The names of the site's sheets.
    pub files: Vec<String>,
    /// The templates that pages are made from.
    pub templates: Vec<Arc<Text>>,
}
