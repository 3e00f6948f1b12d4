//! How a page is made: [`Page::builder`], and the [`Loader`] that it gets its sheets from.

use std::collections::HashMap;
use std::sync::Arc;

use crate::environment::Environment;
use crate::markup::Document;
use crate::page::{LoadError, Page, Request};
use crate::text::Text;

/// What gives a page the sheets that its markup and their imports name.
///
/// A map from URLs, as they are written, to texts is one. For a function of a [`Request`] there is
/// [`PageBuilder::loader`].
///
/// ```
/// use std::collections::HashMap;
/// use fingerpost::prelude::*;
///
/// let css = Text::new("css/a.css", "p { color: navy }");
/// let html = Text::new("a.html", "<link rel=stylesheet href=a.css><p>Boats");
/// let sheets = HashMap::from([("a.css".to_owned(), css)]);
/// let page = Page::builder(html).sheets(sheets).build();
/// assert!(page.failures().is_empty());
/// ```
pub trait Loader {
    /// The text of a sheet.
    ///
    /// # Errors
    /// Why there is none; the page says it where it names its sheets.
    fn load(&mut self, request: &Request<'_>) -> Result<Arc<Text>, LoadError>;
}

impl<F> Loader for F
where
    F: FnMut(&Request<'_>) -> Result<Arc<Text>, LoadError>,
{
    fn load(&mut self, request: &Request<'_>) -> Result<Arc<Text>, LoadError> {
        self(request)
    }
}

impl Loader for HashMap<String, Arc<Text>> {
    fn load(&mut self, request: &Request<'_>) -> Result<Arc<Text>, LoadError> {
        let known = self.get(request.url).cloned();
        known.ok_or_else(|| LoadError::Missing {
            file: request.url.to_owned(),
        })
    }
}

/// A page in the making: see [`Page::builder`].
#[must_use = "a page comes with `build`"]
pub struct PageBuilder<'a> {
    text: Arc<Text>,
    environment: Option<Environment>,
    user_sheet: Option<Arc<Text>>,
    loader: Box<dyn Loader + 'a>,
    before: Option<&'a Page>,
}

impl std::fmt::Debug for PageBuilder<'_> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("PageBuilder")
            .field("text", &self.text.name())
            .field("conditions", &self.environment)
            .finish_non_exhaustive()
    }
}

impl Page {
    /// A page without sheets besides those in its own markup, in the default environment.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<p>Boats"));
    /// assert_eq!(page.document().elements().len(), 4); // html, head, body, p
    /// ```
    pub fn new(text: Arc<Text>) -> Page {
        Page::builder(text).build()
    }

    /// A page to be, of this markup. Without more, it is in the default environment, and each sheet that it links is
    /// missing.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let text = Text::new("a.html", "<p>Boats");
    /// let environment = Environment { media: "print".into(), ..Environment::default() };
    /// let page = Page::builder(text).environment(environment).build();
    /// assert_eq!(page.environment().media, "print");
    /// ```
    pub fn builder<'a>(text: Arc<Text>) -> PageBuilder<'a> {
        PageBuilder {
            text,
            environment: None,
            user_sheet: None,
            loader: Box::new(HashMap::new()),
            before: None,
        }
    }
}

impl<'a> PageBuilder<'a> {
    /// The environment: the viewport, the medium, the reader's preferences.
    pub fn environment(mut self, environment: Environment) -> Self {
        self.environment = Some(environment);
        self
    }

    /// A sheet that the reader brings: the user origin (Cascade 5 § 6.2).
    pub fn user_sheet(mut self, sheet: impl Into<Option<Arc<Text>>>) -> Self {
        self.user_sheet = sheet.into();
        self
    }

    /// The function that gives the page its sheets.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let html = Text::new("a.html", "<link rel=stylesheet href=a.css><p>Boats");
    /// let page = Page::builder(html)
    ///     .loader(|request| Ok(Text::new(request.url, "p { color: navy }")))
    ///     .build();
    /// assert!(page.failures().is_empty());
    /// ```
    pub fn loader(
        self,
        loader: impl FnMut(&Request<'_>) -> Result<Arc<Text>, LoadError> + 'a,
    ) -> Self {
        self.sheets(loader)
    }

    /// What gives the page its sheets: a [`Loader`], such as a map from URLs to texts.
    pub fn sheets(mut self, loader: impl Loader + 'a) -> Self {
        self.loader = Box::new(loader);
        self
    }

    /// The state before an edit. What is as it was there is taken from it, so that a question about a small change is
    /// answered much sooner. Its environment is kept where no other is given.
    pub fn after(mut self, before: impl Into<Option<&'a Page>>) -> Self {
        self.before = before.into();
        self
    }

    /// Parses the page and loads its sheets.
    pub fn build(mut self) -> Page {
        let before = self.before;
        let environment = self.environment.unwrap_or_else(|| {
            before.map_or_else(Environment::default, |before| before.environment().clone())
        });
        let text = self.text;
        let scripts = environment.has_scripts();
        let known = before.filter(|before| {
            let known = before.document().text();
            let same = Arc::ptr_eq(known, &text)
                || known.name() == text.name() && known.source() == text.source();
            same && before.environment().has_scripts() == scripts
        });
        let document = match (known, scripts) {
            (Some(before), _) => before.document.clone(),
            (None, true) => Arc::new(Document::parse(text)),
            (None, false) => Arc::new(Document::parse_without_scripts(text)),
        };
        let loader = &mut *self.loader;
        Page::of_document(document, self.user_sheet, environment, loader, before)
    }
}
