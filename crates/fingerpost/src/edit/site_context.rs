//! What an edit may need to know of the site besides its page.

use std::cell::OnceCell;
use std::sync::Arc;

use crate::markup::Document;
use crate::text::Text;

/// What an edit may need to know besides its page.
#[derive(Default)]
pub struct SiteContext<'s> {
    /// The site's override sheet, by name.
    pub overrides: Option<String>,
    /// Sheets of the site that the page may not have.
    pub sheets: Vec<Arc<Text>>,
    /// The names of the site's sheets.
    pub files: Vec<String>,
    /// The path under which the server has the sheet that is made, where the page comes from a server.
    pub sheet_url: Option<String>,
    /// The templates that pages are made from.
    pub templates: Vec<Arc<Text>>,
    /// The site's pages.
    pub pages: SitePages<'s>,
}

/// The site's pages, parsed when they are first asked for: most edits need none but their own.
#[derive(Default)]
pub struct SitePages<'s> {
    parse: Option<Box<dyn Fn() -> Vec<Document> + 's>>,
    parsed: OnceCell<Vec<Document>>,
}

impl<'s> SitePages<'s> {
    pub fn new(parse: impl Fn() -> Vec<Document> + 's) -> SitePages<'s> {
        SitePages {
            parse: Some(Box::new(parse)),
            parsed: OnceCell::new(),
        }
    }

    /// All pages.
    pub fn all(&self) -> &[Document] {
        let parse = || self.parse.as_ref().map(|parse| parse());
        self.parsed.get_or_init(|| parse().unwrap_or_default())
    }

    /// Those but one.
    pub fn others<'p>(&'p self, page: &'p str) -> impl Iterator<Item = &'p Document> {
        self.all().iter().filter(move |d| d.text().name() != page)
    }
}
