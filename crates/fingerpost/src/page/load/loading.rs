//! The sheets of a page: linked, embedded and imported, in the order in which they cascade.
//!
//! HTML § 4.2.4 and § 4.2.6 say which elements bring a sheet; Cascade 5 § 2 says that imported
//! rules stand where their `@import` stands, before the rules of the importing sheet.

use std::sync::{Arc, OnceLock};

use thiserror::Error;

use super::import::{Import, supports_gate};
use crate::cascade::Origin;
use crate::environment::{Environment, Verdict, media};
use crate::markup::{Content, Document, ElementId, NodeKind};
use crate::page::StyleSheet;
use crate::page::load::builder::Loader;
use crate::sheet::{AtRule, Item, RuleId, RuleKind, Sheet, cover};
use crate::text::{Text, TextRange};
use crate::value::substitution::value_tokens;

/// How deep `@import` may go.
const DEEPEST_IMPORT: usize = 16;

/// How many sheets a page may have. A few that import each other several times ask for any number.
const MOST_SHEETS: usize = 4_000;

/// What is asked for when a sheet is needed.
#[derive(Debug)]
#[non_exhaustive]
pub struct Request<'a> {
    /// The URL as written.
    pub url: &'a str,
    /// The file it is written in, relative to the site's root.
    pub from: &'a str,
    /// The page's `<base href>`, for URLs that the page itself names.
    pub base: Option<&'a str>,
    /// The encoding of the file that asks, the fallback for the sheet's own.
    pub encoding: &'static encoding_rs::Encoding,
}

impl<'a> Request<'a> {
    /// What a URL in a UTF-8 file asks for.
    pub fn new(url: &'a str, from: &'a str) -> Request<'a> {
        Request {
            url,
            from,
            base: None,
            encoding: encoding_rs::UTF_8,
        }
    }
}

/// Why a sheet did not load.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[non_exhaustive]
pub enum LoadError {
    /// There is no such file.
    #[error("no such file: {file}")]
    Missing {
        /// Where it was looked for.
        file: String,
    },
    /// It lies outside the site's folder.
    #[error("{file} lies outside the site's folder")]
    Outside {
        /// The path that was asked for.
        file: String,
    },
    /// It is on another server.
    #[error("it is not a file of this site, and nothing is fetched from the network")]
    Remote,
    /// It is there but can't be read.
    #[error("{file} can't be read: {reason}")]
    Unreadable {
        /// The file.
        file: String,
        /// Why.
        reason: String,
    },
    /// It imports itself, directly or through others.
    #[error("it imports itself")]
    Cycle,
    /// The imports go too deep.
    #[error("imports are nested deeper than {DEEPEST_IMPORT}")]
    TooDeep,
    /// The page has too many sheets.
    #[error(
        "the page has more than {MOST_SHEETS} sheets; this import and all others after it are left out"
    )]
    TooMany,
}

impl LoadError {
    /// What can be done about it, in a sentence.
    pub fn remedy(&self) -> &'static str {
        match self {
            LoadError::Missing { .. } => {
                "Mend the link; or, if a server serves that path from another folder, say so with \
                 [[mount]] in fingerpost.toml"
            }
            LoadError::Outside { .. } => {
                "Put a fingerpost.toml into a folder that contains both the page and the sheet"
            }
            LoadError::Remote => {
                "To count it, put a copy into the site and mount its URL with [[mount]] in \
                 fingerpost.toml"
            }
            LoadError::Unreadable { .. } => "Make it a file that can be read",
            LoadError::Cycle | LoadError::TooDeep | LoadError::TooMany => "Take an @import out",
        }
    }
}

/// How a sheet came to the page.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Arrival {
    /// The browser brings it.
    UserAgent,
    /// The reader brings it.
    User,
    /// `<link rel=stylesheet>`
    Link(ElementId),
    /// `<style>`
    Style(ElementId),
    /// `@import` in another sheet of the page.
    Import {
        /// The importing text.
        from: String,
        /// Where the rule is in it.
        span: TextRange,
    },
}

/// A condition of a sheet.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Gate {
    /// The condition as it is written.
    pub condition: String,
    /// Whether it holds, and why.
    pub verdict: Verdict,
}

/// A sheet of a page.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct PageSheet {
    /// The sheet.
    pub styles: Arc<StyleSheet>,
    /// Whose it is.
    pub origin: Origin,
    /// How it came.
    pub arrival: Arrival,
    /// Its media queries and import conditions, outermost first.
    pub gates: Vec<Gate>,
    /// The cascade layer that its import puts it into: `Some("")` is an anonymous one.
    pub layer: Option<String>,
    /// The host of the shadow tree that it belongs to; none for the page's own.
    pub host: Option<ElementId>,
}

impl PageSheet {
    /// Whether the page itself links it.
    pub fn is_linked(&self) -> bool {
        matches!(self.arrival, Arrival::Link(_))
    }

    /// The first of its conditions that does not hold.
    pub fn closed_gate(&self) -> Option<&Gate> {
        self.gates.iter().find(|gate| !gate.verdict.holds())
    }
}

/// A sheet that did not load.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct Failure {
    /// The URL as written.
    pub url: String,
    /// The text it is written in.
    pub text: Arc<Text>,
    /// Where it is written.
    pub span: TextRange,
    /// Why it did not load.
    pub error: LoadError,
}

impl std::fmt::Display for Failure {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let place = self.text.place(self.span.start());
        write!(f, "{place}: {} does not load: {}", self.url, self.error)
    }
}

/// The user-agent sheet: HTML § 15.3, in our own file.
fn user_agent_sheet() -> Arc<StyleSheet> {
    static SHEET: OnceLock<Arc<StyleSheet>> = OnceLock::new();
    let sheet = SHEET.get_or_init(|| built_in("user-agent.css", include_str!("user_agent.css")));
    sheet.clone()
}

/// What it adds in quirks mode.
fn quirks_sheet() -> Arc<StyleSheet> {
    static SHEET: OnceLock<Arc<StyleSheet>> = OnceLock::new();
    let sheet = SHEET.get_or_init(|| built_in("quirks.css", include_str!("quirks.css")));
    sheet.clone()
}

fn built_in(name: &str, source: &str) -> Arc<StyleSheet> {
    let text = Text::new(name, source);
    let span = text.span();
    StyleSheet::new(Sheet::parse(text, span), false)
}

struct Collector<'a, 'b> {
    environment: &'a Environment,
    loader: &'a mut (dyn Loader + 'b),
    /// The sheets of the page before.
    known: &'a [PageSheet],
    /// Whether the page is in quirks mode.
    quirks: bool,
    sheets: Vec<PageSheet>,
    /// Whose sheets are being collected.
    origin: Origin,
    /// The host of the shadow tree whose sheets are being collected.
    host: Option<ElementId>,
    failures: Vec<Failure>,
}

pub(in crate::page) fn load(
    document: &Document,
    user_sheet: Option<Arc<Text>>,
    environment: &Environment,
    loader: &mut dyn Loader,
    known: &[PageSheet],
) -> (Vec<PageSheet>, Vec<Failure>) {
    let of_browser = |styles| PageSheet {
        styles,
        origin: Origin::UserAgent,
        arrival: Arrival::UserAgent,
        gates: Vec::new(),
        layer: None,
        host: None,
    };
    let mut sheets = vec![of_browser(user_agent_sheet())];
    if document.is_quirks() {
        sheets.push(of_browser(quirks_sheet()));
    }
    let mut collector = Collector {
        environment,
        loader,
        known,
        quirks: document.is_quirks(),
        sheets,
        origin: Origin::User,
        host: None,
        failures: Vec::new(),
    };
    if let Some(text) = user_sheet {
        let span = text.span();
        let chain = vec![text.name().to_owned()];
        let sheet = collector.sheet(text, span);
        collector.add(sheet, Arrival::User, Vec::new(), None, &chain);
    }
    collector.origin = Origin::Author;
    for id in document.naming_sheets() {
        let element = document.element(*id);
        let tree = document.shadow_tree_of(*id);
        collector.host = tree.and_then(|root| document.host_of(root));
        if element.is_html("link") {
            collector.link(document, *id);
        } else if &*element.name == "style" {
            collector.embedded(document, *id);
        }
    }
    (collector.sheets, collector.failures)
}

impl Collector<'_, '_> {
    /// The sheet that a text is: that of the page before where it is the same, what has changed of it
    /// where it is another state of it.
    fn sheet(&self, text: Arc<Text>, span: TextRange) -> Arc<StyleSheet> {
        let whole = span == text.span();
        let usable = |s: &&PageSheet| {
            let sheet = s.styles.sheet();
            let as_whole = sheet.span() == sheet.text().span();
            s.styles.quirks == self.quirks
                && sheet.text().name() == text.name()
                && (whole && as_whole || Arc::ptr_eq(sheet.text(), &text) && sheet.span() == span)
                // What a map leads to may have changed besides.
                && sheet.text().authored().is_none()
                && text.authored().is_none()
        };
        if let Some(before) = self.known.iter().find(usable) {
            let known = before.styles.sheet().text();
            if Arc::ptr_eq(known, &text) || known.source() == text.source() {
                return before.styles.clone();
            }
            if let Some(renewed) = before.styles.renewed(&text) {
                return renewed;
            }
        }
        StyleSheet::new(Sheet::parse(text, span), self.quirks)
    }

    fn gate(&self, query: &str) -> Option<Gate> {
        let query = query.trim();
        if query.is_empty() {
            return None;
        }
        let verdict = media(query, &value_tokens(query), self.environment);
        let condition = format!("media {query}");
        Some(Gate { condition, verdict })
    }

    fn link(&mut self, document: &Document, id: ElementId) {
        let element = document.element(id);
        let words = element.attribute("rel").unwrap_or("").to_ascii_lowercase();
        let has = |word: &str| words.split_ascii_whitespace().any(|w| w == word);
        let css = element
            .attribute("type")
            .is_none_or(|kind| kind.trim().is_empty() || kind.eq_ignore_ascii_case("text/css"));
        let Some(href) = element.attribute_node("href") else {
            return;
        };
        let url = href.value.trim();
        if !has("stylesheet") || !css || url.is_empty() {
            return;
        }
        let mut gates: Vec<_> = self
            .gate(element.attribute("media").unwrap_or(""))
            .into_iter()
            .collect();
        for (off, said) in [
            (
                has("alternate"),
                "rel=alternate: an alternate sheet is off until chosen",
            ),
            (element.attribute("disabled").is_some(), "disabled"),
        ] {
            if off {
                gates.push(Gate {
                    condition: said.to_owned(),
                    verdict: Verdict {
                        truth: crate::environment::Truth::False,
                        because: vec!["the link says so".to_owned()],
                    },
                });
            }
        }
        let text = document.text();
        let request = Request {
            url,
            from: text.name(),
            base: base_href(document),
            encoding: text.encoding().as_fallback(),
        };
        match self.loader.load(&request) {
            Ok(loaded) => {
                let span = loaded.span();
                let chain = vec![loaded.name().to_owned()];
                let sheet = self.sheet(loaded, span);
                self.add(sheet, Arrival::Link(id), gates, None, &chain);
            }
            Err(error) => self.failures.push(Failure {
                url: url.to_owned(),
                text: text.clone(),
                span: href.value_span,
                error,
            }),
        }
    }

    fn embedded(&mut self, document: &Document, id: ElementId) {
        let element = document.element(id);
        let css = element
            .attribute("type")
            .is_none_or(|kind| kind.is_empty() || kind.eq_ignore_ascii_case("text/css"));
        let Some(child) = document.children(id).next().filter(|_| css) else {
            return;
        };
        let gates = self.gate(element.attribute("media").unwrap_or(""));
        let Some(content) = document.text_of(child) else {
            return;
        };
        let source = document.text();
        // The sheet's spans are spans of the page wherever the page has its text letter by letter,
        // or with line endings that only the HTML parser makes one (HTML § 13.2.3.5).
        let raw = element
            .end_tag
            .map(|end| TextRange::new(element.start_tag.end(), end.start()));
        let as_written = raw.filter(|raw| same_but_endings(&source.source()[*raw], content));
        let whole = match &document.node(child).kind {
            NodeKind::Text(Content::Source(span)) => Some(*span),
            _ => as_written,
        };
        let sheet = match whole {
            Some(span) => self.sheet(source.clone(), span),
            None => {
                let copy = Text::new(source.name(), content);
                let span = copy.span();
                self.sheet(copy, span)
            }
        };
        let chain = vec![source.name().to_owned()];
        self.add(
            sheet,
            Arrival::Style(id),
            gates.into_iter().collect(),
            None,
            &chain,
        );
    }

    /// Adds what a sheet imports, then the sheet.
    fn add(
        &mut self,
        styles: Arc<StyleSheet>,
        arrival: Arrival,
        gates: Vec<Gate>,
        layer: Option<String>,
        chain: &[String],
    ) {
        let sheet = styles.sheet();
        for item in sheet.top() {
            let Item::Rule(id) = item else { continue };
            match &sheet.rule(*id).kind {
                RuleKind::At(AtRule::Import) => {
                    self.import(sheet, *id, &gates, layer.as_deref(), chain);
                }
                // § 2.1: imports stand before all else but these.
                RuleKind::At(AtRule::Charset) => {}
                RuleKind::At(AtRule::Layer) if sheet.rule(*id).block.is_none() => {}
                _ => break,
            }
        }
        self.sheets.push(PageSheet {
            styles: styles.clone(),
            origin: self.origin,
            arrival,
            gates,
            layer,
            host: self.host,
        });
    }

    /// What an import has to pass by itself: `supports()` and its media.
    fn gates_of(&self, source: &str, import: &Import<'_>) -> Vec<Gate> {
        let mut gates = Vec::new();
        if let Some(condition) = import.supports {
            let text = &source[cover(condition)];
            gates.push(Gate {
                condition: format!("supports({text})"),
                verdict: supports_gate(source, condition),
            });
        }
        if !import.media.iter().all(|t| t.kind.is_blank()) {
            let text = source[cover(import.media)].trim().to_owned();
            gates.push(Gate {
                condition: format!("media {text}"),
                verdict: media(source, import.media, self.environment),
            });
        }
        gates
    }

    fn import(
        &mut self,
        sheet: &Sheet,
        rule: RuleId,
        gates: &[Gate],
        outer_layer: Option<&str>,
        chain: &[String],
    ) {
        let rule = sheet.rule(rule);
        let source = sheet.text().source();
        let tokens = sheet.prelude_tokens(rule);
        let Some(import) = Import::read(source, &tokens) else {
            return;
        };
        let mut gates = gates.to_vec();
        gates.extend(self.gates_of(source, &import));
        let layer = match (outer_layer, import.layer) {
            (outer, None) => outer.map(str::to_owned),
            (None, Some(inner)) => Some(inner),
            (Some(outer), Some(inner)) => Some(format!("{outer}.{inner}")),
        };
        let request = Request {
            url: &import.url,
            from: sheet.text().name(),
            base: None,
            encoding: sheet.text().encoding().as_fallback(),
        };
        let loaded = if chain.len() > DEEPEST_IMPORT {
            Err(LoadError::TooDeep)
        } else if self.sheets.len() >= MOST_SHEETS {
            if self
                .failures
                .last()
                .is_some_and(|f| f.error == LoadError::TooMany)
            {
                return;
            }
            Err(LoadError::TooMany)
        } else {
            self.loader.load(&request)
        };
        let loaded = loaded.and_then(|text| {
            if chain.iter().any(|name| name == text.name()) {
                Err(LoadError::Cycle)
            } else {
                Ok(text)
            }
        });
        match loaded {
            Ok(text) => {
                let mut chain = chain.to_vec();
                chain.push(text.name().to_owned());
                let span = text.span();
                let arrival = Arrival::Import {
                    from: sheet.text().name().to_owned(),
                    span: rule.span,
                };
                let styles = self.sheet(text, span);
                self.add(styles, arrival, gates, layer, &chain);
            }
            Err(error) => self.failures.push(Failure {
                url: import.url,
                text: sheet.text().clone(),
                span: rule.prelude,
                error,
            }),
        }
    }
}

/// Whether two texts differ only in how their lines end.
fn same_but_endings(raw: &str, content: &str) -> bool {
    raw == content
        || (raw.contains('\r') && raw.replace("\r\n", "\n").replace('\r', "\n") == content)
}

/// What a document asks for: the URLs that its links and its embedded sheets' imports name, each
/// with the page's base.
pub(crate) fn asked_for(document: &Document) -> (Vec<String>, Option<&str>) {
    let mut urls = Vec::new();
    for id in document.naming_sheets() {
        let element = document.element(*id);
        let rel = element.attribute("rel").unwrap_or("");
        let linked = rel
            .split_ascii_whitespace()
            .any(|word| word.eq_ignore_ascii_case("stylesheet"));
        if element.is_html("link") && linked {
            urls.extend(element.attribute("href").map(|href| href.trim().to_owned()));
        } else if &*element.name == "style" {
            let source = document
                .children(*id)
                .next()
                .and_then(|c| document.text_of(c));
            if let Some(source) = source.filter(|s| s.contains("@import")) {
                let text = Text::new("embedded.css", source);
                let span = text.span();
                urls.extend(imported(&Sheet::parse(text, span)));
            }
        }
    }
    (urls, base_href(document))
}

/// The URLs that a sheet imports.
pub(crate) fn imported(sheet: &Sheet) -> Vec<String> {
    let source = sheet.text().source();
    let rules = sheet.top().iter().filter_map(|item| match item {
        Item::Rule(id) => Some(sheet.rule(*id)),
        Item::Declaration(_) => None,
    });
    rules
        .filter(|rule| rule.kind == RuleKind::At(AtRule::Import))
        .filter_map(|rule| Some(Import::read(source, &sheet.prelude_tokens(rule))?.url))
        .collect()
}

/// HTML § 4.2.3: the first `<base>` with an `href` counts.
fn base_href(document: &Document) -> Option<&str> {
    document.naming_sheets().iter().find_map(|id| {
        let element = document.element(*id);
        element.is_html("base").then(|| element.attribute("href"))?
    })
}
