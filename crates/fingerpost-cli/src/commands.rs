//! Each command: open the site, ask the core, render the answer.

use std::cell::RefCell;
use std::path::{Path, PathBuf};

use fingerpost::draft::{DraftError, EditState};
use fingerpost::edit::EditError;
use fingerpost::edit::extract;
use fingerpost::environment::{Environment, Viewport};
use fingerpost::impact::change::TryError;
use fingerpost::impact::remedies::tried;
use fingerpost::impact::site::unasked;
use fingerpost::markup::ElementId;
use fingerpost::page::{Arrival, Page, PropertyName, Target, UnknownProperty};
use fingerpost::question::Answer;
use fingerpost::question::complete::{property_names, values_of};
use fingerpost::question::element_states::{ElementStates, InState};
use fingerpost::question::facts::facts;
use fingerpost::question::find::{ElementQuery, FindError};
use fingerpost::question::whynot::Asked;
use fingerpost::site::{AskedBefore, Selection, Site, SiteError, is_url};
use fingerpost::value::PropertyId;
use schemars::JsonSchema;
use serde::Serialize;

use crate::arguments::{
    Arguments, Command, DraftCommand, EnvironmentOptions, ExtractCommand, Subject, SuggestCommand,
};
use crate::render::painted;
use crate::{demo, drafts, edits, fetch, help, init, pager, render, schemas};

/// How many slips the name of a file may have to be taken for another.
const FARTHEST_NAME: usize = 3;

/// Set to `no`, the environment's variable of this name keeps questions from being remembered for `@`.
const REMEMBER: &str = "FINGERPOST_REMEMBER";

/// What a command has to say, and whether it found what it was asked for.
pub struct Outcome {
    pub text: String,
    pub found: bool,
    /// Whether the text is a source, a program or data: no line of it is broken.
    pub verbatim: bool,
}

impl Outcome {
    /// A text that answers.
    pub fn of(text: String) -> Outcome {
        Outcome {
            text,
            found: true,
            verbatim: false,
        }
    }

    pub fn verbatim(self) -> Outcome {
        Outcome {
            verbatim: true,
            ..self
        }
    }
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
                "{error}\nTo carry the draft over: fingerpost draft reapply\nTo throw it away: \
                 fingerpost draft discard --all"
            ),
            SiteError::Draft {
                source: DraftError::Apart { .. },
                ..
            } => error.to_string(),
            SiteError::Draft { .. } => {
                format!("{error}\nTo throw it away: fingerpost draft discard --all")
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
    ) -> Outcome {
        let text = match self.json {
            true => to_json(command, answer),
            false => render(answer),
        };
        Outcome {
            text,
            found,
            verbatim: self.json,
        }
    }
}

impl Asking<'_> {
    /// An answer that is a text.
    fn reply_text(&self, command: &str, text: String) -> Outcome {
        let answer = TextAnswer { text };
        self.reply(command, true, &answer, |answer| answer.text.clone())
    }
}

pub fn run(arguments: &Arguments, notes: &[String]) -> Result<Outcome> {
    let asking = Asking {
        json: arguments.json,
        folder: arguments.site.clone().unwrap_or_else(|| PathBuf::from(".")),
        environment: arguments.command.environment().cloned().unwrap_or_default(),
        notes,
        quiet: arguments.quiet,
        verbose: arguments.verbose,
    };
    let asking = &asking;
    match &arguments.command {
        Command::Find { on, what, as_text } => {
            let opened = Opened::new(&on.page, asking)?;
            let what = opened.meant(what, *as_text);
            let answer = opened.page.ask().find(&what)?;
            let found = !answer.elements.is_empty();
            opened.remember(match &answer.elements[..] {
                [_] => Some(what.to_string()),
                _ => None,
            });
            let shown = what.in_words();
            let render = |answer: &_| opened.noting_draft(render::find::find(answer, &shown));
            Ok(asking.reply("find", found, &answer, render))
        }
        Command::Tree {
            on, element, depth, ..
        } => {
            let mut opened = Opened::new(&on.page, asking)?;
            let from = match element {
                Some(element) => opened.element(element, false)?.element,
                None => {
                    opened.remember(None);
                    opened.page.document().root_element()
                }
            };
            let answer = opened.page.ask().tree(from, *depth);
            let render = |answer: &_| opened.noting_draft(render::tree::tree(answer));
            Ok(asking.reply("tree", true, &answer, render))
        }
        Command::Trace { subject } => {
            let (opened, target) = Opened::with_element(subject, asking)?;
            let answer = opened.page.ask().trace(&target);
            let render = |answer: &_| opened.noting_all(render::trace::trace(answer));
            Ok(asking.reply("trace", true, &answer, render))
        }
        Command::Why { subject, property } => {
            let (opened, target) = Opened::with_element(subject, asking)?;
            let property = property_named(property)?;
            let answer = opened.page.ask().why(&target, &property);
            let render = |answer: &_| opened.noting_all(render::why::why(answer));
            Ok(asking.reply("why", true, &answer, render))
        }
        Command::Whynot { subject, what } => {
            let (opened, target) = Opened::with_element(subject, asking)?;
            let asked = Asked::parse(what);
            let Opened {
                site,
                page,
                element_states,
                ..
            } = &opened;
            let answer = tried(site, page, &target, &asked, what, element_states)
                .map_err(|error| Problem::bad_use(error.to_string()))?;
            let render = |answer: &_| opened.noting_all(render::whynot::whynot(answer));
            // Nothing is in the way: the answer to the question is no.
            let found = !answer.holds;
            Ok(asking.reply("whynot", found, &answer, render))
        }
        Command::Sheets { on } => {
            let opened = Opened::new(&on.page, asking)?;
            opened.remember(None);
            let elsewhere = opened.site.inventory();
            let answer = opened.page.ask().beside(&elsewhere).sheets();
            let unsaved = opened.unsaved()?;
            let render = |answer: &_| opened.noting_draft(render::sheets::sheets(answer, &unsaved));
            Ok(asking.reply("sheets", true, &answer, render))
        }
        Command::Describe { property } => {
            let answer = facts(known_property(property)?);
            Ok(asking.reply("describe", true, &answer, render::facts::facts))
        }
        Command::Values {
            subject,
            property,
            filter,
            initial,
            each,
        } => match property {
            Some(property) => {
                let (opened, target) = Opened::with_element(subject, asking)?;
                let property = property_named(property)?;
                let answer = opened.page.ask().opened(&target, &property);
                let render = |answer: &_| opened.noting_all(render::values::opened(answer));
                Ok(asking.reply("values", true, &answer, render))
            }
            None if *each => values_of_each(subject, filter.as_deref(), *initial, asking),
            None => {
                let (opened, target) = Opened::with_element(subject, asking)?;
                let answer = opened
                    .page
                    .ask()
                    .values(&target, filter.as_deref(), *initial);
                let found = !answer.values.is_empty();
                let render = |answer: &_| opened.noting_all(render::values::values(answer));
                Ok(asking.reply("values", found, &answer, render))
            }
        },
        Command::Suggest { suggest } => suggestions(suggest, asking),
        Command::Edit {
            edit: Some(edit), ..
        } => edits::edit(edit, asking),
        Command::Edit { script, .. } => {
            let script = script.clone().unwrap_or_default();
            edits::script(&script, asking)
        }
        Command::Extract { extract } => extracted(extract, asking),
        Command::Draft { draft } => match draft {
            None => drafts::show(asking),
            Some(DraftCommand::Discard { all: true, .. }) => drafts::discard(asking),
            Some(DraftCommand::Reapply) => drafts::reapply(asking),
            Some(DraftCommand::Retarget { number, what, .. }) => {
                edits::retarget(*number, what.as_deref(), asking)
            }
            Some(change) => drafts::change(change, asking),
        },
        Command::Save {
            numbers,
            file,
            patch,
        } => {
            let which = match (&numbers[..], &file[..]) {
                ([], []) => Selection::All,
                (numbers, []) => Selection::Edits(numbers.iter().copied().collect()),
                (_, files) => Selection::Files(files.iter().cloned().collect()),
            };
            match patch {
                Some(patch) => drafts::patch(&which, patch, asking),
                None => drafts::save(&which, asking),
            }
        }
        Command::Unsave => drafts::unsave(asking),
        Command::Recover { leave } => drafts::mend(*leave, asking),
        Command::Desk(desk) => crate::desk::desk(desk, &arguments.site, arguments.json),
        Command::Demo { folder } => {
            let outcome = demo::demo(folder.as_deref())?;
            Ok(asking.reply_text("demo", outcome.text))
        }
        Command::Init { folder } => init::init(folder.as_deref().unwrap_or(&asking.folder), asking),
        Command::Completions { shell } => {
            let text = help::completions(*shell);
            Ok(asking.reply_text("completions", text).verbatim())
        }
        Command::Man => Ok(asking.reply_text("man", help::manual()?).verbatim()),
        Command::Schema { answer } => schemas::schema(answer, asking),
    }
}

fn suggestions(suggest: &SuggestCommand, asking: &Asking<'_>) -> Result<Outcome> {
    match suggest {
        SuggestCommand::Property { beginning } => {
            let answer = property_names(beginning);
            let found = !answer.offers.is_empty();
            Ok(asking.reply("suggest property", found, &answer, render::facts::complete))
        }
        SuggestCommand::Value {
            property,
            beginning,
        } => {
            let answer = values_of(known_property(property)?, beginning);
            let found = !answer.offers.is_empty() || answer.complete;
            Ok(asking.reply("suggest value", found, &answer, render::facts::complete))
        }
        SuggestCommand::Class { on, beginning } => {
            let opened = Opened::new(&on.page, asking)?;
            opened.remember(None);
            let answer = opened.page.ask().classes(beginning);
            let found = !answer.classes.is_empty();
            let render = |answer: &_| opened.noting_all(render::selectors::classes(answer));
            Ok(asking.reply("suggest class", found, &answer, render))
        }
        SuggestCommand::Selector { on, elements, like } => {
            let opened = Opened::new(&on.page, asking)?;
            opened.remember(match &elements[..] {
                [only] => Some(only.clone()),
                _ => None,
            });
            let elsewhere = opened.site.inventory();
            let wanted: Vec<ElementQuery> = elements.iter().map(|e| e.as_str().into()).collect();
            let ask = opened.page.ask().beside(&elsewhere);
            let answer = ask.selectors(&wanted, *like)?;
            let found = !answer.candidates.is_empty();
            let render = |answer: &_| opened.noting_all(render::selectors::selectors(answer));
            Ok(asking.reply("suggest selector", found, &answer, render))
        }
    }
}

/// The values of every element that is found.
fn values_of_each(
    subject: &Subject,
    filter: Option<&str>,
    initial: bool,
    asking: &Asking<'_>,
) -> Result<Outcome> {
    let mut opened = Opened::new(&subject.on.page, asking)?;
    let what = opened.meant(&subject.element, subject.as_text);
    opened.remember(None);
    let elements = opened.page.ask().elements(&what)?;
    opened.pretend(&elements);
    let ask = opened.page.ask();
    let mut text = String::new();
    if asking.json {
        ask.values_of_each(&elements, initial, |line| {
            text.push_str(&serde_json::to_string(&line).expect("answers are plain data"));
            text.push('\n');
        });
    } else {
        for id in &elements {
            let answer = ask.values(&Target::from(*id), filter, initial);
            text.push_str(&render::values::values(&answer));
            text.push('\n');
        }
        text = opened.noting_all(text);
    }
    Ok(Outcome {
        text,
        found: !elements.is_empty(),
        verbatim: asking.json,
    })
}

fn extracted(what: &ExtractCommand, asking: &Asking<'_>) -> Result<Outcome> {
    let copied = match what {
        ExtractCommand::Rule { on, what } => {
            let mut opened = Opened::new(&on.page, asking)?;
            match what.parse() {
                Ok(place) => extract::rule(&opened.page, &place)?,
                Err(_) => {
                    let target = opened.element(what, false)?;
                    extract::rules_of(&opened.page, &target)?
                }
            }
        }
        ExtractCommand::Changes { environment } => {
            let site = opened_site(&asking.folder)?;
            let environment = environment_of(environment);
            extract::changes(site.draft().intents(), &|name| {
                site.page(name, environment.clone()).ok()
            })
        }
        ExtractCommand::Element { subject } | ExtractCommand::Contents { subject } => {
            let (opened, target) = Opened::with_element(subject, asking)?;
            let inner = matches!(what, ExtractCommand::Contents { .. });
            extract::markup(&opened.page, &target, inner)?
        }
    };
    // What goes to standard output may go into a file: notes stand beside it.
    for note in asking.notes {
        pager::note(note);
    }
    let found = !copied.is_empty();
    if !found && !asking.json {
        pager::note("There is nothing to extract.");
    }
    let answer = extract::CopyAnswer { copied };
    let render = |answer: &extract::CopyAnswer| match found {
        true => format!("{}\n", answer.copied),
        false => String::new(),
    };
    Ok(asking.reply("extract", found, &answer, render).verbatim())
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
        let head = painted(render::BAD, "Note:");
        pager::note(&format!(
            "{head} found no fingerpost.toml; using {root} as the site's root"
        ));
    }
    if let Some(error) = site.interrupted() {
        let head = painted(render::BAD, "Note:");
        pager::note(&format!("{head} {error}"));
    }
    site
}

/// The site of a page that is a file or a URL, and the page's name in it.
pub fn site_of(page: &Path, folder: &Path) -> Result<(Site, String)> {
    match page.to_str().filter(|name| is_url(name)) {
        Some(url) => {
            let site = Site::of_url(folder, fetch::fetch())?;
            Ok((noted(site), url.to_owned()))
        }
        None => {
            let (site, name) = Site::of_page(page).map_err(|error| match &error {
                SiteError::NoSuchPage { path } => no_such_page(path, error.to_string(), folder),
                _ => error.into(),
            })?;
            Ok((noted(site), name))
        }
    }
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
        Some((_, page)) => format!("{name}: there is no such file; do you mean {page}?"),
        None => message,
    })
}

/// A page of a site, in its surroundings.
pub struct Opened {
    pub site: Site,
    pub name: String,
    pub page: Page,
    /// What the asked elements and others are pretended to be in.
    pub element_states: ElementStates,
    /// What was filled in or read in another way.
    notes: RefCell<Vec<String>>,
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

/// The states of `--as` and `--at`.
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

    /// The same, with the draft for ourselves: for what changes it.
    pub fn to_edit(path: &Path, asking: &Asking<'_>) -> Result<Opened> {
        let (mut site, name) = site_of(path, &asking.folder)?;
        site.lock_draft()?;
        Opened::of_site(site, name, asking)
    }

    pub fn of_site(mut site: Site, name: String, asking: &Asking<'_>) -> Result<Opened> {
        let options = &asking.environment;
        if let Some(sheet) = &options.user_sheet {
            match sheet.to_str() {
                Some("-") => {
                    site.set_user_sheet_bytes(sheet, edits::standard_input()?.into_bytes())?;
                }
                _ => site.set_user_sheet(sheet)?,
            }
        }
        let mut page = site.page(&name, environment_of(options))?;
        let element_states = element_states(options);
        element_states.of_others(&mut page)?;
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
        })
    }

    /// A page with the element that a question is about.
    fn with_element(subject: &Subject, asking: &Asking<'_>) -> Result<(Opened, Target)> {
        let mut opened = Opened::new(&subject.on.page, asking)?;
        let target = opened.element(&subject.element, subject.as_text)?;
        Ok((opened, target))
    }

    /// Puts elements into the states that the asked ones are pretended to be in.
    pub fn pretend(&mut self, elements: &[ElementId]) {
        self.element_states.of_asked(&mut self.page, elements);
    }

    /// What a word for an element means on this page; says so where it is read as a text.
    pub fn meant(&self, word: &str, text: bool) -> ElementQuery {
        if text {
            return ElementQuery::Text(word.to_owned());
        }
        let written = ElementQuery::parse(word);
        let meant = written.clone().on(&self.page);
        if meant != written {
            let note =
                format!("No element matches {word} as a selector; looked for the text {meant}.");
            self.notes.borrow_mut().push(note);
        }
        meant
    }

    /// The asked element, in the states it is pretended to be in.
    pub fn element(&mut self, word: &str, text: bool) -> Result<Target> {
        let what = self.meant(word, text);
        let target = self.page.ask().find_one(&what)?;
        self.remember(Some(what.to_string()));
        self.pretend(&[target.element]);
        Ok(target)
    }

    /// Remembers what was asked about, where the folder is known to be a site. No answer depends on it.
    pub fn remember(&self, element: Option<String>) {
        let wanted = std::env::var(REMEMBER).map_or(true, |word| word != "no");
        if wanted && !self.site.is_guessed() {
            let page = self.name.clone();
            let _ = self.site.remember(AskedBefore { page, element });
        }
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

    /// The answer, behind what was filled in, with a line that says so when it counts unsaved changes.
    fn noting_draft(&self, answer: String) -> String {
        let mut text = self.notes();
        let changes = self.site.changes().unwrap_or_default();
        text.push_str(&render::places::with_draft(&answer, &changes));
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

fn environment_of(environment: &EnvironmentOptions) -> Environment {
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

pub fn property_named(name: &str) -> Result<PropertyName> {
    let named = name.parse();
    named.map_err(|error: UnknownProperty| Problem::bad_use(error.to_string()))
}

fn known_property(name: &str) -> Result<PropertyId> {
    match property_named(name)? {
        PropertyName::Known(property) => Ok(property),
        PropertyName::Custom(_) => Err(Problem::bad_use(format!(
            "{name} is a custom property: no standard says what it takes"
        ))),
    }
}

/// A problem as an answer.
#[derive(JsonSchema, Serialize)]
pub struct Body {
    error: ErrorBody,
}

#[derive(JsonSchema, Serialize)]
struct ErrorBody {
    /// What is wrong, as it stands on standard error too.
    message: String,
    /// The exit status.
    status: u8,
}

/// A problem as JSON.
pub fn problem_json(problem: &Problem) -> String {
    let error = ErrorBody {
        message: problem.message.clone(),
        status: problem.status,
    };
    to_json("error", Body { error })
}

/// An answer that is a text: a help, a manual page.
#[derive(JsonSchema, Serialize)]
pub struct TextAnswer {
    /// The text.
    pub text: String,
}

pub fn to_json(command: &str, body: impl Serialize) -> String {
    let answer = Answer::new(command, body);
    let mut text = serde_json::to_string_pretty(&answer).expect("answers are plain data");
    text.push('\n');
    text
}
