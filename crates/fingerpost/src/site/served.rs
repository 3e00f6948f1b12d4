//! Pages that a server makes: what a URL means, which folder serves which path, and where in the
//! templates a piece of markup is written.
//!
//! The core speaks no protocol: whoever opens a site of URLs says how they are fetched
//! ([`Site::set_fetch`]).

use std::path::Path;
use std::sync::Arc;

use percent_encoding::percent_decode_str;
use url::Url;

use super::urls::{NOWHERE, in_url};
use super::{Site, SiteError};
use crate::edit::{EditError, FileChange};
use crate::markup::ElementId;
use crate::page::{LoadError, Page, Request};
use crate::text::{
    DecodeHint, Patch, Replacement, SitePath, Text, TextRange, TextSize, is_url, span,
};

/// What a server answered.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct Fetched {
    /// The URL that answered, after redirections.
    pub url: String,
    /// The body.
    pub bytes: Vec<u8>,
    /// The charset that the answer's content type names.
    pub charset: Option<String>,
}

impl Fetched {
    /// What a server sent for a URL.
    pub fn new(url: &str, bytes: Vec<u8>, charset: Option<&str>) -> Fetched {
        Fetched {
            url: url.to_owned(),
            bytes,
            charset: charset.map(str::to_owned),
        }
    }
}

/// Asks a server for a URL; an error is a sentence for people.
pub struct Fetch(pub FetchFunction);

/// A function that asks a server.
pub type FetchFunction = Box<dyn Fn(&str) -> Result<Fetched, String> + Send + Sync>;

impl std::fmt::Debug for Fetch {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str("Fetch")
    }
}

/// How many places are named where markup may be written.
const MOST_PLACES: usize = 5;

impl Site {
    /// Says how URLs are fetched. Without it nothing is.
    pub fn set_fetch(&mut self, fetch: Fetch) {
        self.fetch = Some(Arc::new(fetch));
    }

    pub(super) fn fetched(&self, url: &str, hint: DecodeHint) -> Result<Arc<Text>, SiteError> {
        let unfetchable = |reason: String| SiteError::Unfetchable {
            url: url.to_owned(),
            reason,
        };
        // While an edit of the page is tried, the page is what it was then. It is never fetched because
        // a draft says so.
        if let Some(base) = self.draft.base(url) {
            return super::keep::kept_base(&self.root, url, base);
        }
        let fetch = self
            .fetch
            .as_ref()
            .ok_or_else(|| unfetchable("nothing is fetched from the network here".to_owned()))?;
        let answer = (fetch.0)(url).map_err(unfetchable)?;
        let known = answer.charset.as_deref();
        let charset = known.and_then(|c| encoding_rs::Encoding::for_label(c.as_bytes()));
        let hint = match (hint, charset) {
            (DecodeHint::Css(_), Some(charset)) => DecodeHint::Css(charset),
            (hint, _) => hint,
        };
        Text::decode(url, answer.bytes, hint).map_err(|error| unfetchable(error.to_string()))
    }

    /// The name in the site of what a URL in a page or sheet means, by the URL standard: of a page that is a file, as a
    /// browser would ask a server whose root is the site's root; else that of the file that a mount
    /// serves there, or the URL itself.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    /// use fingerpost::site::View;
    ///
    /// let site = View::in_memory([Text::new("fingerpost.toml", "fingerpost = 2\n")])?;
    /// let request = Request::new("../css/a.css?v=2", "pages/a.html");
    /// assert_eq!(site.resolve(&request)?, "css/a.css");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where the URL is none, or leads to a server that is not asked.
    pub fn resolve(&self, request: &Request<'_>) -> Result<String, LoadError> {
        let remote = |_| LoadError::Remote;
        let mut base = self.served_url(request.from)?;
        if let Some(href) = request.base {
            base = base.join(href).map_err(remote)?;
        }
        let url = base.join(request.url).map_err(remote)?;
        if let Some(file) = self.mounted(&url) {
            return Ok(file);
        }
        if url.origin() == Url::parse(NOWHERE).map_err(remote)?.origin() {
            let path = percent_decode_str(url.path()).decode_utf8_lossy();
            // Doubled slashes mean nothing to a server of files. What is not in the site keeps its name,
            // and is refused where it is opened.
            let path = path.trim_start_matches('/');
            return Ok(SitePath::new(path).map_or(path.to_owned(), String::from));
        }
        match (&self.fetch, is_url(request.from)) {
            (Some(_), true) => Ok(url.to_string()),
            _ => Err(LoadError::Remote),
        }
    }

    /// The names of several URLs of a file; those that are none of the site's are left out.
    pub(super) fn names_of(
        &self,
        urls: Vec<String>,
        from: &str,
        base: Option<&str>,
    ) -> Vec<String> {
        let names = urls.iter().filter_map(|url| {
            self.resolve(&Request {
                url,
                from,
                base,
                encoding: encoding_rs::UTF_8,
            })
            .ok()
        });
        names.collect()
    }

    /// The URL under which a file of the site is served.
    pub(super) fn served_url(&self, name: &str) -> Result<Url, LoadError> {
        let remote = |_| LoadError::Remote;
        if is_url(name) {
            return Url::parse(name).map_err(remote);
        }
        let mut url = Url::parse(NOWHERE).map_err(remote)?;
        for mount in &self.config.mount {
            if let Some(rest) = mount.dir.rest(name)
                && !is_url(&mount.url)
            {
                let path = mount.url.trim_matches('/');
                let path = match path {
                    "" => in_url(rest),
                    path => format!("{path}/{}", in_url(rest)),
                };
                url.set_path(&path);
                return Ok(url);
            }
        }
        url.set_path(&in_url(name));
        Ok(url)
    }

    /// The file that a mount serves under a URL.
    pub(super) fn mounted(&self, url: &Url) -> Option<String> {
        self.config.mount.iter().find_map(|mount| {
            let whole = url.as_str().split(['?', '#']).next()?;
            let rest = if is_url(&mount.url) {
                whole.strip_prefix(mount.url.trim_end_matches('/'))?
            } else {
                match mount.url.trim_matches('/') {
                    // The whole server.
                    "" => url.path(),
                    path => url.path().strip_prefix(&format!("/{path}"))?,
                }
            };
            let rest = percent_decode_str(rest.strip_prefix('/')?).decode_utf8_lossy();
            let file = mount.dir.file(&rest).ok()?;
            self.has_file(&file).then(|| file.to_string())
        })
    }

    /// Whether there is a file of that name: on disk, in an editor, or made by the draft.
    pub(super) fn has_file(&self, file: &SitePath) -> bool {
        let on_disk = || self.root.real(file).is_ok_and(|there| there.is_file());
        // A file is empty if the edit that made it was undone.
        let drafted = || {
            let is_drafted = self.draft.files().any(|name| name == file.as_str());
            let drafted = is_drafted.then(|| self.drafted().ok()).flatten();
            drafted.is_some_and(|drafted| {
                let text = drafted.texts.get(file.as_str());
                text.is_some_and(|text| !text.source().is_empty())
            })
        };
        self.buffers.contains(file.as_str()) || on_disk() || drafted()
    }

    /// The templates that `fingerpost.toml` names, with their texts as the draft leaves them.
    pub(crate) fn templates(&self) -> Vec<Arc<Text>> {
        if self.config.templates.is_empty() || self.root.is_nowhere() {
            return Vec::new();
        }
        let mut builder = ignore::overrides::OverrideBuilder::new(self.root.path());
        for pattern in &self.config.templates {
            // A pattern that is none names no file.
            let _ = builder.add(pattern);
        }
        let Ok(patterns) = builder.build() else {
            return Vec::new();
        };
        let walk = ignore::WalkBuilder::new(self.root.path())
            .require_git(false)
            .overrides(patterns)
            .build();
        let mut names: Vec<String> = walk
            .flatten()
            .filter(|entry| entry.file_type().is_some_and(|t| t.is_file()))
            .map(|entry| super::site_name(entry.path(), self.root.path()))
            .collect();
        names.sort();
        let texts = names.iter().map(|name| self.text(name, DecodeHint::Html));
        texts.filter_map(Result::ok).collect()
    }

    /// Adds to the changes of a page that a server makes those of the templates that it is made from.
    pub(super) fn follow_templates(
        &self,
        page: &Page,
        targets: &[ElementId],
        changes: Vec<FileChange>,
    ) -> Result<Vec<FileChange>, EditError> {
        let document = page.document();
        let url = document.text().name();
        let Some(change) = changes.iter().find(|c| c.file == url) else {
            return Ok(changes);
        };
        let templates = self.templates();
        let mut found: Vec<(String, Vec<Replacement>)> = Vec::new();
        for replacement in change.patch.replacements() {
            let (file, own) = in_template(page, targets, &templates, replacement)?;
            match found.iter_mut().find(|(name, _)| *name == file) {
                Some((_, known)) if known.contains(&own) => {}
                Some((_, known)) => known.push(own),
                None => found.push((file, vec![own])),
            }
        }
        let mut all = Vec::new();
        for (file, replacements) in found {
            let patch = Patch::new(replacements).map_err(|_| EditError::NotThere {
                place: file.clone(),
                why: "two of the changes are one in the template; make them one after the other"
                    .to_owned(),
            })?;
            all.push(FileChange::new(&file, patch));
        }
        all.extend(changes);
        Ok(all)
    }
}

/// The change of the one template in which the markup around a change is written exactly so.
fn in_template(
    page: &Page,
    targets: &[ElementId],
    templates: &[Arc<Text>],
    replacement: &Replacement,
) -> Result<(String, Replacement), EditError> {
    let document = page.document();
    let place = document.text().place(replacement.range.start());
    if templates.is_empty() {
        return Err(EditError::NotThere {
            place: place.to_string(),
            why: "the page comes from a server, and fingerpost.toml names no templates that it is \
                  made from; add such as templates = [\"templates/**/*.html\"]"
                .to_owned(),
        });
    }
    let mut several: Vec<String> = Vec::new();
    let contexts = contexts(page, targets, replacement.range);
    for context in &contexts {
        let wanted = page.document().text().slice(*context);
        let mut places = Vec::new();
        for text in templates {
            places.extend(occurrences(text.source(), wanted).map(|at| (text, at)));
        }
        match &places[..] {
            [] => {}
            [(text, at)] => {
                let offset = usize::from(replacement.range.start() - context.start());
                let start = at + offset;
                let range = span(start, start + usize::from(replacement.range.len()));
                return Ok((
                    text.name().to_owned(),
                    Replacement {
                        range,
                        with: replacement.with.clone(),
                    },
                ));
            }
            many => {
                let shown = many.iter().take(MOST_PLACES);
                several = shown
                    .map(|(text, at)| text.place(TextSize::new(*at as u32)).to_string())
                    .collect();
            }
        }
    }
    let tag = contexts.first().map_or("", |c| {
        page.document()
            .text()
            .slice(*c)
            .lines()
            .next()
            .unwrap_or("")
    });
    let why = if several.is_empty() {
        let near = nearest(page, targets, templates);
        let near = match &near[..] {
            [] => "none of the templates has its class, its id or its text".to_owned(),
            near => format!("it may be made at {}", near.join(" or ")),
        };
        format!("no template has {tag} written so; {near}. Change it there by hand")
    } else {
        format!(
            "the templates have {tag} in several places: {}. Change it there by hand",
            several.join(", ")
        )
    };
    Err(EditError::NotThere {
        place: place.to_string(),
        why,
    })
}

/// Where a text is in another one, also where two of them overlap.
fn occurrences<'a>(source: &'a str, wanted: &'a str) -> impl Iterator<Item = usize> + 'a {
    let step = wanted.chars().next().map_or(1, char::len_utf8);
    let find = move |from: usize| Some(from + source.get(from..)?.find(wanted)?);
    std::iter::successors(find(0), move |at| find(at + step))
}

/// The parts of a page around a change by which it is looked for, the smallest first.
fn contexts(page: &Page, targets: &[ElementId], range: TextRange) -> Vec<TextRange> {
    let document = page.document();
    let source = document.text().source();
    let mut found: Vec<TextRange> = Vec::new();
    for id in targets {
        let element = document.element(*id);
        let outer = document.element_span(*id);
        if element.start_tag.contains_range(range) {
            found.push(element.start_tag);
        }
        if outer.contains_range(range) {
            found.push(outer);
        }
    }
    let line = |offset: TextSize| {
        let at = usize::from(offset);
        let (before, after) = source.split_at_checked(at).unwrap_or((source, ""));
        let start = before.rfind('\n').map_or(0, |n| n + 1);
        let end = after.find('\n').map_or(source.len(), |n| at + n);
        (start, end)
    };
    let (start, _) = line(range.start());
    let (_, end) = line(range.end());
    found.push(span(start, end));
    // With the lines around, which may be what tells two places apart.
    let before = source
        .get(..start.saturating_sub(1))
        .and_then(|before| before.rfind('\n'));
    let before = before.map_or(0, |n| n + 1);
    let after = source.get(end + 1..).and_then(|after| after.find('\n'));
    let after = after.map_or(source.len(), |n| end + 1 + n);
    found.push(span(before.min(start), after.max(end)));
    found.retain(|context| !document.text().slice(*context).trim().is_empty());
    found
}

/// Where the templates have the class, the id or the text of the elements.
fn nearest(page: &Page, targets: &[ElementId], templates: &[Arc<Text>]) -> Vec<String> {
    let document = page.document();
    let mut needles: Vec<String> = Vec::new();
    for id in targets {
        let element = document.element(*id);
        needles.extend(element.attribute("class").map(str::to_owned));
        needles.extend(element.id().map(str::to_owned));
        needles.extend(element.classes().map(str::to_owned));
        let text = document.folded_text(*id, 60);
        needles.push(text.trim_end_matches('…').to_owned());
        needles.push(format!("<{}", element.name));
    }
    // What is found in the fewest places says most.
    let found = needles.iter().filter(|n| n.len() > 1).map(|needle| {
        let all = templates.iter().flat_map(|text| {
            let places = text.source().match_indices(needle.as_str());
            places.map(|(at, _)| text.place(TextSize::new(at as u32)).to_string())
        });
        let mut places: Vec<String> = all.collect();
        places.dedup();
        places
    });
    let mut best = found
        .filter(|places| !places.is_empty())
        .min_by_key(Vec::len)
        .unwrap_or_default();
    best.truncate(MOST_PLACES);
    best
}

impl Site {
    /// Opens the site of a folder for pages that are URLs.
    ///
    /// # Errors
    /// Where the configuration or the draft can't be read.
    pub fn of_url(folder: &Path, fetch: Fetch) -> Result<Site, SiteError> {
        let mut site = Site::open(super::root_of::of_folder_or_itself(folder)?)?;
        site.set_fetch(fetch);
        Ok(site)
    }
}
