//! Each command: open the site, ask the core, render the answer.

use std::path::{Path, PathBuf};

use anstream::eprintln;
use fingerpost::condition::{Conditions, Viewport};
use fingerpost::edit::{DraftError, EditError, EditState, copy};
use fingerpost::markup::NodeId;
use fingerpost::page::{Page, PropertyName, Target};
use fingerpost::question::Answer;
use fingerpost::question::classes::classes;
use fingerpost::question::complete::{property_names, values_of};
use fingerpost::question::facts::facts;
use fingerpost::question::find::{FindError, What, elements, find, one};
use fingerpost::question::selectors::selectors;
use fingerpost::question::sheets::sheets;
use fingerpost::question::trace::trace;
use fingerpost::question::tree::tree;
use fingerpost::question::values::{self, each};
use fingerpost::question::why::why;
use fingerpost::question::whynot::Asked;
use fingerpost::selector::State;
use fingerpost::site::{Site, SiteError, Which, is_url};
use fingerpost::survey::Pretended;
use fingerpost::survey::edit::TryError;
use fingerpost::survey::whynot::tried;
use fingerpost::value::PropertyId;
use serde::Serialize;

use crate::arguments::{Arguments, Command, CopyCommand, DraftCommand, Surroundings};
use crate::{demo, drafts, edits, fetch, render};

/// What a command has to say, and whether it found what it was asked for.
pub struct Outcome {
    pub text: String,
    pub found: bool,
}

/// Why a command could not answer.
pub struct Problem {
    pub message: String,
    pub status: u8,
}

impl Problem {
    pub fn bad_use(message: impl Into<String>) -> Problem {
        Problem {
            message: message.into(),
            status: 2,
        }
    }
}

impl From<SiteError> for Problem {
    fn from(error: SiteError) -> Problem {
        let message = match &error {
            SiteError::Draft {
                source: DraftError::Changed { .. },
                ..
            } => format!(
                "{error}\nTo carry the draft over: fingerpost draft merge\nTo throw it away: \
                 fingerpost draft drop --all"
            ),
            SiteError::Draft {
                source: DraftError::Apart { .. },
                ..
            } => error.to_string(),
            SiteError::Draft { .. } => {
                format!("{error}\nTo throw it away: fingerpost draft drop --all")
            }
            _ => error.to_string(),
        };
        let status = match &error {
            SiteError::NothingSaved => 1,
            _ => 2,
        };
        Problem { message, status }
    }
}

impl From<TryError> for Problem {
    fn from(error: TryError) -> Problem {
        match error {
            TryError::Edit(error) => error.into(),
            TryError::Site(error) => error.into(),
        }
    }
}

impl From<FindError> for Problem {
    fn from(error: FindError) -> Problem {
        let status = match error {
            FindError::NotFound { .. } => 1,
            _ => 2,
        };
        Problem {
            message: error.to_string(),
            status,
        }
    }
}

impl From<EditError> for Problem {
    fn from(error: EditError) -> Problem {
        let status = if error.is_an_answer() { 1 } else { 2 };
        let message = error.to_string();
        Problem { message, status }
    }
}

pub type Result<T> = std::result::Result<T, Problem>;

pub fn run(arguments: &Arguments) -> Result<Outcome> {
    let json = arguments.json;
    let surroundings = &arguments.surroundings;
    let folder = folder(surroundings);
    match &arguments.command {
        Command::Tree {
            page,
            element,
            depth,
        } => {
            let mut opened = Opened::new(page, surroundings)?;
            let from = match element {
                Some(element) => opened.element(element)?.element,
                None => opened.page.document().root_element(),
            };
            let answer = tree(&opened.page, from, *depth);
            let text = if json {
                to_json("tree", &answer)
            } else {
                opened.noting_draft(render::tree::tree(&answer))
            };
            Ok(Outcome { text, found: true })
        }
        Command::Find { page, what } => {
            let opened = Opened::new(page, surroundings)?;
            let answer = find(&opened.page, &What::parse(what))?;
            let found = !answer.elements.is_empty();
            let text = if json {
                to_json("find", &answer)
            } else {
                opened.noting_draft(render::find::find(&answer, what))
            };
            Ok(Outcome { text, found })
        }
        Command::Trace { subject } => {
            let mut opened = Opened::new(&subject.page, surroundings)?;
            let target = opened.element(&subject.element)?;
            let answer = trace(&opened.page.styles(), &target);
            let text = if json {
                to_json("trace", &answer)
            } else {
                opened.noting_all(render::trace::trace(&answer))
            };
            Ok(Outcome { text, found: true })
        }
        Command::Why { subject, property } => {
            let mut opened = Opened::new(&subject.page, surroundings)?;
            let target = opened.element(&subject.element)?;
            let property = property_named(property)?;
            let answer = why(&opened.page.styles(), &target, &property);
            let text = if json {
                to_json("why", &answer)
            } else {
                opened.noting_all(render::why::why(&answer))
            };
            Ok(Outcome { text, found: true })
        }
        Command::Whynot { subject, what } => {
            let mut opened = Opened::new(&subject.page, surroundings)?;
            let target = opened.element(&subject.element)?;
            let asked = Asked::parse(what);
            let Opened {
                site,
                page,
                pretended,
                ..
            } = &opened;
            let answer = tried(site, page, &target, &asked, what, pretended)
                .map_err(|error| Problem::bad_use(error.to_string()))?;
            let text = if json {
                to_json("whynot", &answer)
            } else {
                opened.noting_all(render::whynot::whynot(&answer))
            };
            Ok(Outcome { text, found: true })
        }
        Command::Sheets { page } => {
            let opened = Opened::new(page, surroundings)?;
            let elsewhere = opened.site.elsewhere();
            let answer = sheets(&opened.page.styles(), &elsewhere);
            let text = if json {
                to_json("sheets", &answer)
            } else {
                opened.noting_draft(render::sheets::sheets(&answer, &opened.unsaved()?))
            };
            Ok(Outcome { text, found: true })
        }
        Command::Complete { property, value } => {
            let answer = match value {
                None => property_names(property),
                Some(value) => values_of(known_property(property)?, value),
            };
            let found = !answer.offers.is_empty() || answer.complete;
            let text = if json {
                to_json("complete", &answer)
            } else {
                render::facts::complete(&answer)
            };
            Ok(Outcome { text, found })
        }
        Command::Classes { page, prefix } => {
            let opened = Opened::new(page, surroundings)?;
            let answer = classes(&opened.page, prefix);
            let found = !answer.classes.is_empty();
            let text = if json {
                to_json("classes", &answer)
            } else {
                opened.noting_all(render::selectors::classes(&answer))
            };
            Ok(Outcome { text, found })
        }
        Command::Facts { property } => {
            let answer = facts(known_property(property)?);
            let text = if json {
                to_json("facts", &answer)
            } else {
                render::facts::facts(&answer)
            };
            Ok(Outcome { text, found: true })
        }
        Command::Values {
            subject,
            property,
            filter,
            all,
            each,
        } => {
            let mut opened = Opened::new(&subject.page, surroundings)?;
            if let Some(property) = property {
                let target = opened.element(&subject.element)?;
                let property = property_named(property)?;
                let answer = values::opened(&opened.page.styles(), &target, &property);
                let text = if json {
                    to_json("values", &answer)
                } else {
                    opened.noting_all(render::values::opened(&answer))
                };
                return Ok(Outcome { text, found: true });
            }
            opened.values(&subject.element, filter.as_deref(), *all, *each, json)
        }
        Command::Selectors {
            page,
            elements,
            like,
        } => {
            let opened = Opened::new(page, surroundings)?;
            let elsewhere = opened.site.elsewhere();
            let answer = selectors(&opened.page, elements, *like, &elsewhere)?;
            let found = !answer.candidates.is_empty();
            let text = if json {
                to_json("selectors", &answer)
            } else {
                opened.noting_all(render::selectors::selectors(&answer))
            };
            Ok(Outcome { text, found })
        }
        Command::Edit {
            edit: Some(edit), ..
        } => edits::edit(edit, surroundings, json),
        Command::Edit { script, .. } => {
            let script = script.clone().unwrap_or_default();
            edits::script(&folder, &script, surroundings, json)
        }
        Command::Copy { copy } => copy_out(copy, surroundings, json),
        Command::Draft { draft } => match draft {
            None => drafts::show(&folder, json),
            Some(DraftCommand::Drop { all: true, .. }) => drafts::drop(&folder, json),
            Some(DraftCommand::Merge) => drafts::merge(&folder, json),
            Some(DraftCommand::Aim { number, what }) => {
                edits::aim(&folder, *number, what.as_deref(), surroundings, json)
            }
            Some(change) => drafts::change(&folder, change, json),
        },
        Command::Save {
            numbers,
            file,
            patch,
        } => {
            let which = match (&numbers[..], &file[..]) {
                ([], []) => Which::All,
                (numbers, []) => Which::Edits(numbers.iter().copied().collect()),
                (_, files) => Which::Files(files.iter().cloned().collect()),
            };
            match patch {
                Some(patch) => drafts::patch(&folder, &which, patch, json),
                None => drafts::save(&folder, &which, json),
            }
        }
        Command::Unsave => drafts::unsave(&folder, json),
        Command::Mend { leave } => drafts::mend(&folder, *leave, json),
        Command::Demo { into } => demo::demo(into.as_deref()),
    }
}

fn copy_out(what: &CopyCommand, surroundings: &Surroundings, json: bool) -> Result<Outcome> {
    let copied = match what {
        CopyCommand::Rule { page, what } => {
            let mut opened = Opened::new(page, surroundings)?;
            let is_place = what.rsplit_once(':').is_some_and(|(file, line)| {
                line.parse::<u32>().is_ok() && !file.is_empty() && !file.contains(' ')
            });
            if is_place {
                copy::rule(&opened.page, what)?
            } else {
                let target = opened.element(what)?;
                copy::rules_of(&opened.page, &target)?
            }
        }
        CopyCommand::Changes => {
            let site = opened_site(&folder(surroundings))?;
            let conditions = conditions(surroundings);
            copy::changes(site.draft(), &|name| {
                site.page(name, conditions.clone()).ok()
            })
        }
        CopyCommand::Markup { subject } | CopyCommand::Inner { subject } => {
            let mut opened = Opened::new(&subject.page, surroundings)?;
            let target = opened.element(&subject.element)?;
            let inner = matches!(what, CopyCommand::Inner { .. });
            copy::markup(&opened.page, &target, inner)?
        }
    };
    let found = !copied.is_empty();
    let text = match (json, found) {
        (true, _) => to_json("copy", copy::CopyAnswer { copied }),
        (false, true) => format!("{copied}\n"),
        (false, false) => String::new(),
    };
    Ok(Outcome { text, found })
}

/// The folder of the site that a command without a page is about.
fn folder(surroundings: &Surroundings) -> PathBuf {
    surroundings
        .site
        .clone()
        .unwrap_or_else(|| PathBuf::from("."))
}

/// The site of a folder, able to fetch pages.
pub fn opened_site(folder: &Path) -> Result<Site> {
    let mut site = Site::of_folder(folder)?;
    site.set_fetch(fetch::fetch());
    Ok(noted(site))
}

/// Says what people should know of the site before an answer.
fn noted(site: Site) -> Site {
    if site.is_guessed() {
        let root = site.root().display();
        eprintln!(
            "{}Note:{:#} found no fingerpost.toml; using {root} as the site's root",
            render::BAD,
            render::BAD
        );
    }
    if let Some(error) = site.interrupted() {
        eprintln!("{}Note:{:#} {error}", render::BAD, render::BAD);
    }
    site
}

/// The site of a page that is a file or a URL, and the page's name in it.
fn site_of(page: &Path, surroundings: &Surroundings) -> Result<(Site, String)> {
    match page.to_str().filter(|name| is_url(name)) {
        Some(url) => {
            let site = Site::of_url(&folder(surroundings), fetch::fetch())?;
            Ok((noted(site), url.to_owned()))
        }
        None => {
            let (site, name) = Site::of_page(page)?;
            Ok((noted(site), name))
        }
    }
}

/// A page of a site, in its surroundings.
pub struct Opened {
    pub site: Site,
    pub name: String,
    pub page: Page,
    /// What the asked elements and others are pretended to be in.
    pub pretended: Pretended,
}

/// The states of `--as` and `--at`.
fn pretended(surroundings: &Surroundings) -> Result<Pretended> {
    let pairs = surroundings.at.chunks(2);
    let others = pairs.filter_map(|pair| {
        let [selector, state] = pair else { return None };
        Some(match State::named(state) {
            Some(state) => Ok((What::parse(selector), state)),
            None => Err(Problem::bad_use(format!(
                "--at {selector} {state}: '{state}' is no state that can be pretended; \
                 expected one such as :hover, :checked or :open"
            ))),
        })
    });
    Ok(Pretended {
        asked: surroundings.states.clone(),
        others: others.collect::<Result<_>>()?,
    })
}

impl Opened {
    pub fn new(path: &Path, surroundings: &Surroundings) -> Result<Opened> {
        let (site, name) = site_of(path, surroundings)?;
        Opened::of_site(site, name, surroundings)
    }

    /// The same, with the draft for ourselves: for what changes it.
    pub fn to_edit(path: &Path, surroundings: &Surroundings) -> Result<Opened> {
        let (mut site, name) = site_of(path, surroundings)?;
        site.hold()?;
        Opened::of_site(site, name, surroundings)
    }

    pub fn of_site(mut site: Site, name: String, surroundings: &Surroundings) -> Result<Opened> {
        if let Some(sheet) = &surroundings.user_sheet {
            site.set_user_sheet(sheet)?;
        }
        let conditions = conditions(surroundings);
        let mut page = site.page(&name, conditions)?;
        let pretended = pretended(surroundings)?;
        pretended.of_others(&mut page)?;
        Ok(Opened {
            site,
            name,
            page,
            pretended,
        })
    }

    /// Puts elements into the states that the asked ones are pretended to be in.
    pub fn pretend(&mut self, elements: &[NodeId]) {
        self.pretended.of_asked(&mut self.page, elements);
    }

    /// The asked element, in the states it is pretended to be in.
    pub fn element(&mut self, what: &str) -> Result<Target> {
        let target = one(&self.page, &What::parse(what))?;
        self.pretend(&[target.element]);
        Ok(target)
    }

    fn values(
        &mut self,
        what: &str,
        filter: Option<&str>,
        all: bool,
        many: bool,
        json: bool,
    ) -> Result<Outcome> {
        if !many {
            let target = self.element(what)?;
            let styles = self.page.styles();
            let answer = values::values(&styles, &target, filter, all);
            let text = if json {
                to_json("values", &answer)
            } else {
                self.noting_all(render::values::values(&answer))
            };
            let found = !answer.values.is_empty();
            return Ok(Outcome { text, found });
        }
        let elements = elements(&self.page, &What::parse(what))?;
        self.pretend(&elements);
        let styles = self.page.styles();
        let mut text = String::new();
        if json {
            each(&self.page, &elements, all, |line| {
                text.push_str(&serde_json::to_string(&line).expect("answers are plain data"));
                text.push('\n');
            });
        } else {
            for id in &elements {
                let answer = values::values(&styles, &Target::from(*id), filter, all);
                text.push_str(&render::values::values(&answer));
                text.push('\n');
            }
            text = self.noting_all(text);
        }
        Ok(Outcome {
            text,
            found: !elements.is_empty(),
        })
    }

    /// The files that the draft changes.
    fn unsaved(&self) -> Result<Vec<String>> {
        let changes = self.site.changes()?;
        Ok(changes.iter().map(|c| c.before.name().to_owned()).collect())
    }

    /// An answer that hangs on the sheets: what did not load comes first.
    fn noting_all(&self, text: String) -> String {
        let failures = render::not_loaded(self.page.failures());
        self.noting_draft(format!("{failures}{text}"))
    }

    /// The answer, with a line that says so when it counts unsaved changes.
    fn noting_draft(&self, mut text: String) -> String {
        let count = self
            .site
            .draft()
            .edits()
            .filter(|t| t.state == EditState::On)
            .count();
        if count > 0 {
            text.push_str(&render::unsaved(count));
        }
        text
    }
}

fn conditions(surroundings: &Surroundings) -> Conditions {
    let (width, height) = surroundings.viewport;
    Conditions {
        viewport: Viewport { width, height },
        media: surroundings.media.clone(),
        resolution: surroundings.resolution,
        features: surroundings.prefers.iter().cloned().collect(),
        container_sizes: surroundings
            .size
            .iter()
            .map(|(selector, (width, height))| {
                let (width, height) = (*width, *height);
                (selector.clone(), Viewport { width, height })
            })
            .collect(),
    }
}

pub fn property_named(name: &str) -> Result<PropertyName> {
    PropertyName::parse(name).ok_or_else(|| {
        let near = match PropertyId::nearest(name) {
            Some(near) => format!("is '{near}' meant?"),
            None => "expected one of the standards, or a custom one such as --brand".to_owned(),
        };
        Problem::bad_use(format!("no property is called '{name}'; {near}"))
    })
}

fn known_property(name: &str) -> Result<PropertyId> {
    match property_named(name)? {
        PropertyName::Known(property) => Ok(property),
        PropertyName::Custom(_) => Err(Problem::bad_use(format!(
            "{name} is a custom property: no standard says what it takes"
        ))),
    }
}

pub fn to_json(command: &str, body: impl Serialize) -> String {
    let answer = Answer::new(command, body);
    let mut text = serde_json::to_string_pretty(&answer).expect("answers are plain data");
    text.push('\n');
    text
}
