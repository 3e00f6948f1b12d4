//! A page of a site, opened for a question, and what an answer is put together from.

use std::cell::RefCell;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use fingerpost::asking::{Answered, AnyAnswer, QuestionKind};
use fingerpost::draft::EditState;
use fingerpost::environment::{Environment, Viewport};
use fingerpost::impact::site::unasked;
use fingerpost::markup::ElementId;
use fingerpost::page::{Arrival, Page, Target};
use fingerpost::question::element_states::{ElementStates, InState};
use fingerpost::question::find::ElementQuery;
use fingerpost::site::{AskedBefore, Site, SiteError, is_url};
use serde::Serialize;

use crate::advised::Advised;
use crate::arguments::{EnvironmentOptions, Subject};
use crate::foreign;
use crate::problem::{Problem, Result};
use crate::render::painted;
use crate::reply::{Reply, TextAnswer, to_json};
use fingerpost_live::SiteServer;

use crate::{advised, input, pager, render, server};

/// How many slips the name of a file may have to be taken for another.
const FARTHEST_NAME: usize = 3;

/// Set to `no`, the environment's variable of this name keeps questions from being remembered for `@`.
const REMEMBER: &str = "FINGERPOST_REMEMBER";

/// What a command is asked with, besides its own words.
pub struct Asking<'a> {
    pub json: bool,
    /// A folder of the site.
    pub folder: PathBuf,
    pub environment: EnvironmentOptions,
    /// What was filled in, in sentences; they come before the answer.
    pub notes: &'a [String],
    /// Whether notes are left out.
    pub quiet: bool,
    /// Whether to say what the answer is made from.
    pub verbose: bool,
}

impl Asking<'_> {
    /// An answer, as JSON or laid out for people.
    pub fn reply<T: Serialize>(
        &self,
        command: &str,
        found: bool,
        answer: &T,
        render: impl FnOnce(&T) -> String,
    ) -> Reply {
        let text = match self.json {
            true => to_json(command, answer),
            false => render(answer),
        };
        Reply {
            text,
            found,
            verbatim: self.json,
        }
    }
}

impl Asking<'_> {
    /// The answer of a question, as JSON or as the text that it was laid out in.
    pub fn answered(&self, kind: &QuestionKind, answered: &Answered, text: String) -> Reply {
        let text = match (&answered.answer, self.json) {
            (_, false) => text,
            (AnyAnswer::ValuesOfEach(each), true) => {
                let line = |line| {
                    let json = serde_json::to_string(line).expect("answers are plain data");
                    foreign::visible_json(&json)
                };
                each.elements.iter().map(|one| line(one) + "\n").collect()
            }
            (answer, true) => to_json(kind.name, Advised::of(answer, &answered.advice)),
        };
        Reply {
            text,
            found: answered.found,
            verbatim: self.json,
        }
    }

    /// An answer that is a text.
    pub fn reply_text(&self, command: &str, text: String) -> Reply {
        let answer = TextAnswer { text };
        self.reply(command, true, &answer, |answer| answer.text.clone())
    }
}

/// The site of a folder, able to ask servers on this machine for the pages of its draft.
pub fn opened_site(folder: &Path) -> Result<Site> {
    let mut site = Site::of_folder(folder)?;
    let access = server::access(&site)?;
    site.set_fetch(Arc::new(SiteServer::on_this_machine(&access)).fetch());
    Ok(noted(site))
}

/// The site of a folder for a page that is a URL, the page's name in it, and its server.
pub fn served_site(url: &str, folder: &Path) -> Result<(Site, String, Arc<SiteServer>)> {
    let parsed = url::Url::parse(url)
        .map_err(|error| Problem::bad_use(format!("{url}: not a valid URL: {error}")))?;
    let mut site = Site::of_url(folder)?;
    let server = Arc::new(SiteServer::of(parsed, server::access(&site)?));
    site.set_fetch(server.fetch());
    let name = site.page_url(url)?;
    Ok((noted(site), name, server))
}

/// Says what people should know of the site before an answer.
fn noted(site: Site) -> Site {
    advised::remember_root(site.root());
    if site.is_guessed() && !advised::is_quiet() {
        let root = site.root().display();
        let head = painted(render::BAD, "Note:");
        pager::note(&format!(
            "{head} found no fingerpost.toml; using {root} as the site's root"
        ));
    }
    if let Some(error) = site.interrupted() {
        let head = painted(render::BAD, "Note:");
        let advice = advised::listed(&error.advice());
        pager::note(&format!("{head} {error}\n{advice}"));
    }
    site
}

/// The site of a page that is a file or a URL, and the page's name in it.
pub fn site_of(page: &Path, folder: &Path) -> Result<(Site, String)> {
    match page.to_str().filter(|name| is_url(name)) {
        Some(url) => {
            let (site, name, _) = served_site(url, folder)?;
            Ok((site, name))
        }
        None => {
            let found = match Site::of_page(page) {
                Err(SiteError::NoSuchPage { .. }) => match named_as_printed(page, folder) {
                    Some(real) => Site::of_page(&real),
                    None => Site::of_page(page),
                },
                found => found,
            };
            let (site, name) = found.map_err(|error| match &error {
                SiteError::NoSuchPage { path } => no_such_page(path, error.to_string(), folder),
                _ => error.into(),
            })?;
            Ok((noted(site), name))
        }
    }
}

/// A page by its name in the site, as answers print it, seen from a folder in or above the site.
fn named_as_printed(page: &Path, folder: &Path) -> Option<PathBuf> {
    let site = Site::of_folder(folder).ok()?;
    let real = site.root().join(page);
    (page.is_relative() && real.is_file()).then_some(real)
}

/// A page that is not there, with the page of the site that has nearly that name.
fn no_such_page(path: &Path, message: String, folder: &Path) -> Problem {
    let pages = Site::of_folder(folder).map(|site| site.pages());
    let pages = pages.unwrap_or_default();
    let name = path.to_string_lossy();
    let near = pages
        .iter()
        .map(|page| (strsim::damerau_levenshtein(page, &name), page))
        .filter(|(distance, _)| *distance <= FARTHEST_NAME)
        .min();
    Problem::bad_use(match near {
        Some((_, page)) => format!("{name}: no such file; do you mean {page}?"),
        None => message,
    })
}

/// A page of a site, in its environment.
pub struct Opened {
    pub site: Site,
    pub name: String,
    /// The page, with the asked elements and others in their assumed states.
    pub page: Arc<Page>,
    /// The states of the asked elements and of others.
    pub element_states: ElementStates,
    /// What was filled in or read in another way.
    notes: RefCell<Vec<String>>,
    /// Whether the answer stands alone.
    quiet: bool,
}

/// What an answer is made from, a line each.
fn made_from(site: &Site, page: &Page) -> Vec<String> {
    let sheets = page.sheets().iter();
    let own = sheets.filter(|sheet| sheet.arrival != Arrival::UserAgent);
    let names: Vec<&str> = own.map(|s| s.styles.sheet().text().name()).collect();
    vec![
        format!("Site: {}", site.root().display()),
        format!(
            "Page: {}, {} elements, {} style rules",
            page.document().text().name(),
            page.document().elements().len(),
            page.rules().len()
        ),
        format!("Sheets: {}", names.join(", ")),
        format!("Draft: {} changes", site.draft().edits().count()),
    ]
}

/// The states of `--state` and `--state-of`.
fn element_states(environment: &EnvironmentOptions) -> ElementStates {
    let others = environment.state_of.iter();
    let others = others.map(|(selector, state)| InState {
        elements: ElementQuery::parse(selector),
        state: *state,
    });
    ElementStates {
        asked: environment.states.clone(),
        others: others.collect(),
    }
}

/// What differs from the default environment, in a sentence; none where nothing does.
fn differing_environment(
    options: &EnvironmentOptions,
    environment: &Environment,
) -> Option<String> {
    let mut parts = environment.differences();
    if let [_, ..] = &options.states[..] {
        let states: Vec<String> = options.states.iter().map(ToString::to_string).collect();
        parts.push(format!("with the element in {}", states.join(" and ")));
    }
    for (selector, state) in &options.state_of {
        parts.push(format!("with {selector} in {state}"));
    }
    if let Some(sheet) = &options.user_sheet {
        parts.push(format!("with the user style sheet {}", sheet.display()));
    }
    (!parts.is_empty()).then(|| format!("Environment: {}.", parts.join(", ")))
}

impl Opened {
    pub fn new(path: &Path, asking: &Asking<'_>) -> Result<Opened> {
        let (site, name) = site_of(path, &asking.folder)?;
        Opened::of_site(site, name, asking)
    }

    pub fn of_site(mut site: Site, name: String, asking: &Asking<'_>) -> Result<Opened> {
        let options = &asking.environment;
        if let Some(sheet) = &options.user_sheet {
            match sheet.to_str() {
                Some("-") => {
                    site.set_user_sheet_bytes(sheet, input::standard_input()?.into_bytes())?;
                }
                _ => site.set_user_sheet(sheet)?,
            }
        }
        let page = site.shared_page(&name, &environment_of(options))?;
        let element_states = element_states(options);
        let mut notes = asking.notes.to_vec();
        if asking.verbose {
            notes.extend(made_from(&site, &page));
        }
        notes.extend(differing_environment(options, page.environment()));
        notes.extend(
            unasked(&page)
                .iter()
                .map(|feature| format!("No media query of this page's sheets asks for {feature}.")),
        );
        if asking.quiet {
            notes.clear();
        }
        Ok(Opened {
            site,
            name,
            page,
            element_states,
            notes: RefCell::new(notes),
            quiet: asking.quiet,
        })
    }

    /// A page with the element that a question is about.
    pub fn with_element(subject: &Subject, asking: &Asking<'_>) -> Result<(Opened, Target)> {
        let mut opened = Opened::new(&subject.on.page, asking)?;
        let target = opened.element(&subject.element, subject.as_text)?;
        Ok((opened, target))
    }

    /// Puts the asked elements, and the others, into their assumed states.
    pub fn put_in_states(&mut self, elements: &[ElementId]) -> Result<()> {
        if let Some(page) = self.element_states.on(&self.page, elements)? {
            self.page = Arc::new(page);
        }
        Ok(())
    }

    /// The name in the site of a file that is named as seen from here.
    fn in_site(&self, file: &str) -> String {
        let root = self.site.root();
        let here = (!root.join(file).exists())
            .then(|| std::path::absolute(file).ok())
            .flatten();
        let name = here
            .as_deref()
            .and_then(|path| path.strip_prefix(root).ok());
        let name = name.and_then(Path::to_str);
        name.map_or_else(|| file.to_owned(), str::to_owned)
    }

    /// What a word for an element means on this page; says so where it is read as a text.
    pub fn meant(&self, word: &str, text: bool) -> ElementQuery {
        if text {
            return ElementQuery::Text(word.to_owned());
        }
        let mut written = ElementQuery::parse(word);
        if let ElementQuery::Place(place) = &mut written {
            place.file = self.in_site(&place.file);
        }
        let meant = written.clone().on(&self.page);
        if meant != written {
            let note =
                format!("No element matches {word} as a selector; looked for the text {meant}.");
            self.notes.borrow_mut().push(note);
        }
        meant
    }

    /// The asked element, in the states it is assumed to be in.
    pub fn element(&mut self, word: &str, text: bool) -> Result<Target> {
        let what = self.meant(word, text);
        let target = self.page.ask().find_one(&what)?;
        self.remember(Some(what.to_string()));
        self.put_in_states(&[target.element])?;
        Ok(target)
    }

    /// Remembers the page and the element for `@`. Answers do not depend on it.
    pub fn remember(&self, element: Option<String>) {
        let wanted = std::env::var(REMEMBER).map_or(true, |word| word != "no");
        if wanted {
            let page = self.name.clone();
            let _ = self.site.remember(AskedBefore { page, element });
        }
    }

    /// An answer that depends on the sheets: what did not load comes first.
    pub fn noting_all(&self, text: String) -> String {
        let failures = render::not_loaded(self.page.failures());
        self.noting_draft(format!("{failures}{text}"))
    }

    /// The answer, behind what was filled in, with a line that says so when it counts unsaved changes.
    pub fn noting_draft(&self, answer: String) -> String {
        let mut text = self.notes();
        let changes = self.site.changes().unwrap_or_default();
        text.push_str(&render::places::with_draft(&answer, &changes));
        let count = self
            .site
            .draft()
            .edits()
            .filter(|t| t.state == EditState::On)
            .count();
        if count > 0 && !self.quiet {
            text.push_str(&render::unsaved(count));
        }
        text
    }
}

impl Opened {
    /// What was filled in or read in another way, a line each.
    pub fn notes(&self) -> String {
        let notes = self.notes.borrow();
        let lines = notes
            .iter()
            .map(|note| format!("{}\n", painted(render::FAINT, note)));
        lines.collect()
    }
}

pub fn environment_of(environment: &EnvironmentOptions) -> Environment {
    let (width, height) = environment.viewport;
    Environment {
        viewport: Viewport { width, height },
        media: environment.media.clone(),
        resolution: environment.resolution,
        features: environment.prefers.iter().cloned().collect(),
        container_sizes: environment
            .container_size
            .iter()
            .map(|(selector, (width, height))| {
                let (width, height) = (*width, *height);
                (selector.clone(), Viewport { width, height })
            })
            .collect(),
    }
}
