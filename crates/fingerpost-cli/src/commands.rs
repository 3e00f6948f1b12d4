//! Each command: open the site, ask the core, render the answer.

use std::path::{Path, PathBuf};

use fingerpost::condition::{Conditions, Viewport};
use fingerpost::edit::{
    AttributeError, Edit, EditState, SetError, add, add_here, attribute, class, important, remove,
    set, step,
};
use fingerpost::markup::NodeId;
use fingerpost::page::{Page, PropertyName, Styles, Target};
use fingerpost::question::complete::{property_names, values_of};
use fingerpost::question::facts::facts;
use fingerpost::question::find::{FindError, What, elements, find, one};
use fingerpost::question::sheets::sheets;
use fingerpost::question::trace::trace;
use fingerpost::question::tree::tree;
use fingerpost::question::values::{self, each};
use fingerpost::question::why::{WhyAnswer, why};
use fingerpost::question::whynot::{Asked, whynot};
use fingerpost::question::{Answer, ElementSummary, RuleSummary};
use fingerpost::selector::State;
use fingerpost::site::{Change, Site, SiteError};
use fingerpost::value::PropertyId;
use serde::Serialize;

use crate::arguments::{Arguments, Command, DraftCommand, EditCommand, Subject, Surroundings};
use crate::{demo, render};

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
            SiteError::Draft { .. } => {
                format!("{error}\nTo throw it away: fingerpost draft drop")
            }
            _ => error.to_string(),
        };
        Problem::bad_use(message)
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

impl From<SetError> for Problem {
    fn from(error: SetError) -> Problem {
        let status = match error {
            SetError::NothingToChange { .. } | SetError::Same { .. } => 1,
            _ => 2,
        };
        Problem {
            message: error.to_string(),
            status,
        }
    }
}

impl From<AttributeError> for Problem {
    fn from(error: AttributeError) -> Problem {
        let status = match error {
            AttributeError::Same { .. } => 1,
            _ => 2,
        };
        Problem {
            message: error.to_string(),
            status,
        }
    }
}

type Result<T> = std::result::Result<T, Problem>;

pub fn run(arguments: &Arguments) -> Result<Outcome> {
    let json = arguments.json;
    let surroundings = &arguments.surroundings;
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
                opened.noting_draft(render::trace::trace(&answer))
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
                opened.noting_draft(render::why::why(&answer))
            };
            Ok(Outcome { text, found: true })
        }
        Command::Whynot { subject, what } => {
            let mut opened = Opened::new(&subject.page, surroundings)?;
            let target = opened.element(&subject.element)?;
            let asked = Asked::parse(what);
            let elsewhere = opened.site.elsewhere();
            let answer = whynot(&opened.page.styles(), &target, &asked, what, &elsewhere)
                .map_err(|error| Problem::bad_use(error.to_string()))?;
            let text = if json {
                to_json("whynot", &answer)
            } else {
                opened.noting_draft(render::whynot::whynot(&answer))
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
                opened.noting_draft(render::sheets::sheets(&answer))
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
                    opened.noting_draft(render::values::opened(&answer))
                };
                return Ok(Outcome { text, found: true });
            }
            opened.values(&subject.element, filter.as_deref(), *all, *each, json)
        }
        Command::Edit { edit } => self::edit(edit, surroundings, json),
        Command::Draft { draft, site } => {
            let folder = site.clone().unwrap_or_else(|| PathBuf::from("."));
            match draft {
                None => draft_show(&folder, json),
                Some(DraftCommand::Drop { number: None }) => draft_drop(&folder, json),
                Some(change) => draft_change(&folder, change, json),
            }
        }
        Command::Save { site } => {
            let folder = site.clone().unwrap_or_else(|| PathBuf::from("."));
            save(&folder, json)
        }
        Command::Demo { into } => demo::demo(into.as_deref()),
    }
}

/// A page of a site, in its surroundings.
struct Opened {
    site: Site,
    name: String,
    page: Page,
    conditions: Conditions,
    /// What the asked element is pretended to be in.
    states: Vec<State>,
    /// What other elements are: selectors and states in turn.
    at: Vec<String>,
}

/// Puts elements into the states of `--at`.
fn pretend_at(page: &mut Page, at: &[String]) -> Result<()> {
    for pair in at.chunks(2) {
        let [selector, state] = pair else { continue };
        let state = State::named(state).ok_or_else(|| {
            Problem::bad_use(format!(
                "--at {selector} {state}: '{state}' is no state that can be pretended; \
                 expected one such as :hover, :checked or :open"
            ))
        })?;
        for element in elements(page, &What::parse(selector))? {
            page.pretend(element, state);
        }
    }
    Ok(())
}

impl Opened {
    fn new(path: &Path, surroundings: &Surroundings) -> Result<Opened> {
        let (mut site, name) = Site::of_page(path)?;
        if let Some(sheet) = &surroundings.user_sheet {
            site.set_user_sheet(sheet)?;
        }
        let conditions = conditions(surroundings);
        let mut page = site.page(&name, conditions.clone())?;
        pretend_at(&mut page, &surroundings.at)?;
        Ok(Opened {
            site,
            name,
            page,
            conditions,
            states: surroundings.states.clone(),
            at: surroundings.at.clone(),
        })
    }

    /// The page as the draft leaves it now, the element of that number in the same states.
    fn again(&self, index: usize) -> Result<(Page, NodeId)> {
        let mut page = self.site.page(&self.name, self.conditions.clone())?;
        // What an edit took away can't be pretended to be in a state any more.
        let _ = pretend_at(&mut page, &self.at);
        let element = page.document().elements()[index];
        for state in &self.states {
            page.pretend(element, *state);
        }
        Ok((page, element))
    }

    /// The asked element, in the states it is pretended to be in.
    fn element(&mut self, what: &str) -> Result<Target> {
        let target = one(&self.page, &What::parse(what))?;
        for state in &self.states {
            self.page.pretend(target.element, *state);
        }
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
                self.noting_draft(render::values::values(&answer))
            };
            let found = !answer.values.is_empty();
            return Ok(Outcome { text, found });
        }
        let elements = elements(&self.page, &What::parse(what))?;
        for (id, state) in elements
            .iter()
            .flat_map(|id| self.states.iter().map(move |s| (id, s)))
        {
            self.page.pretend(*id, *state);
        }
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
            text = self.noting_draft(text);
        }
        Ok(Outcome {
            text,
            found: !elements.is_empty(),
        })
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

fn property_named(name: &str) -> Result<PropertyName> {
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

fn to_json(command: &str, body: impl Serialize) -> String {
    let answer = Answer::new(command, body);
    let mut text = serde_json::to_string_pretty(&answer).expect("answers are plain data");
    text.push('\n');
    text
}

#[derive(Serialize)]
struct SetAnswer<'a> {
    element: ElementSummary,
    property: String,
    edit: &'a Edit,
    diff: String,
    /// What the property comes to now.
    why: WhyAnswer,
}

fn edit(command: &EditCommand, surroundings: &Surroundings, json: bool) -> Result<Outcome> {
    match command {
        EditCommand::Set {
            subject,
            property,
            value,
        } => {
            let name = property_named(property)?;
            declare(
                "edit set",
                subject,
                &name,
                surroundings,
                json,
                |styles, target| set(styles, target, &name, value),
            )
        }
        EditCommand::Add {
            subject,
            property,
            value,
            rule,
            here,
        } => {
            let name = property_named(property)?;
            let rule = rule.as_deref().map(rule_place).transpose()?;
            declare(
                "edit add",
                subject,
                &name,
                surroundings,
                json,
                |styles, target| {
                    if *here {
                        add_here(styles, target.element, &name, value)
                    } else {
                        add(styles, target, &name, value, rule)
                    }
                },
            )
        }
        EditCommand::Step {
            subject,
            property,
            by,
        } => {
            let name = property_named(property)?;
            declare(
                "edit step",
                subject,
                &name,
                surroundings,
                json,
                |styles, target| step(styles, target, &name, by),
            )
        }
        EditCommand::Important {
            subject,
            property,
            off,
        } => {
            let name = property_named(property)?;
            declare(
                "edit important",
                subject,
                &name,
                surroundings,
                json,
                |styles, target| important(styles, target, &name, !off),
            )
        }
        EditCommand::Remove { subject, property } => {
            let name = property_named(property)?;
            declare(
                "edit remove",
                subject,
                &name,
                surroundings,
                json,
                |styles, target| remove(styles, target, &name),
            )
        }
        EditCommand::Class {
            subject,
            changes,
            all,
        } => {
            // Behind the changes, which may begin with a hyphen, options look like changes.
            let (options, changes): (Vec<String>, Vec<String>) = changes
                .iter()
                .cloned()
                .partition(|c| c == "--all" || c == "--json");
            let has = |name: &str| options.iter().any(|o| o == name);
            let (all, json) = (*all || has("--all"), json || has("--json"));
            mark(
                "edit class",
                subject,
                all,
                surroundings,
                json,
                |page, elements| class(page, elements, &changes),
            )
        }
        EditCommand::Attribute {
            subject,
            name,
            value,
            off,
            all,
        } => {
            let value = (!off).then(|| value.clone().unwrap_or_default());
            mark(
                "edit attribute",
                subject,
                *all,
                surroundings,
                json,
                |page, elements| attribute(page, elements, name, value.as_deref()),
            )
        }
    }
}

/// `css/custom.css:4`
fn rule_place(text: &str) -> Result<(&str, u32)> {
    let parsed = text
        .rsplit_once(':')
        .and_then(|(file, line)| Some((file, line.parse().ok()?)));
    parsed.ok_or_else(|| {
        Problem::bad_use(format!(
            "--in {text}: expected the place of a rule, such as css/custom.css:4"
        ))
    })
}

/// Tries an edit of a declaration, and says what the property comes to then.
fn declare(
    command: &str,
    subject: &Subject,
    property: &PropertyName,
    surroundings: &Surroundings,
    json: bool,
    make: impl FnOnce(&Styles<'_>, &Target) -> std::result::Result<Edit, SetError>,
) -> Result<Outcome> {
    let mut opened = Opened::new(&subject.page, surroundings)?;
    let target = opened.element(&subject.element)?;
    let edit = make(&opened.page.styles(), &target)?;
    let element = ElementSummary::of_target(&opened.page, &target);
    let index = element.index as usize;
    opened.site.try_edit(edit.clone())?;

    // Asked again, on the page as it is now.
    let (page, element_now) = opened.again(index)?;
    let same = Target {
        element: element_now,
        pseudo: target.pseudo.clone(),
    };
    let answer = SetAnswer {
        element,
        property: property.to_string(),
        edit: &edit,
        diff: diff_of(&opened.site, &edit.file)?,
        why: why(&page.styles(), &same, property),
    };
    let text = if json {
        to_json(command, &answer)
    } else {
        let hint = site_hint(opened.site.root());
        render::draft::tried(&answer.edit.intent, &answer.diff, &answer.why, &hint)
    };
    Ok(Outcome { text, found: true })
}

#[derive(Serialize)]
struct MarkAnswer<'a> {
    elements: Vec<ElementSummary>,
    edit: &'a Edit,
    diff: String,
    /// The rules that match one of the elements now and did not before, and the other way round.
    gained: Vec<RuleSummary>,
    lost: Vec<RuleSummary>,
}

/// Tries an edit of tags, and says which rules that wins and loses.
fn mark(
    command: &str,
    subject: &Subject,
    all: bool,
    surroundings: &Surroundings,
    json: bool,
    make: impl FnOnce(&Page, &[NodeId]) -> std::result::Result<Edit, AttributeError>,
) -> Result<Outcome> {
    let mut opened = Opened::new(&subject.page, surroundings)?;
    let found = if all {
        elements(&opened.page, &What::parse(&subject.element))?
    } else {
        vec![opened.element(&subject.element)?.element]
    };
    let edit = make(&opened.page, &found)?;
    let indices: Vec<usize> = found
        .iter()
        .map(|id| opened.page.document().expect_element(*id).index as usize)
        .collect();
    let before = rules_of(&opened.page, &indices);
    opened.site.try_edit(edit.clone())?;
    let page = opened.site.page(&opened.name, opened.conditions.clone())?;
    let after = rules_of(&page, &indices);
    let missing = |rules: &[RuleSummary], others: &[RuleSummary]| -> Vec<RuleSummary> {
        let new = rules.iter().filter(|rule| !others.contains(rule));
        new.cloned().collect()
    };
    let answer = MarkAnswer {
        elements: found
            .iter()
            .map(|id| ElementSummary::new(&opened.page, *id))
            .collect(),
        edit: &edit,
        diff: diff_of(&opened.site, &edit.file)?,
        gained: missing(&after, &before),
        lost: missing(&before, &after),
    };
    let text = if json {
        to_json(command, &answer)
    } else {
        let hint = site_hint(opened.site.root());
        render::draft::marked(
            &edit.intent,
            &answer.diff,
            &answer.gained,
            &answer.lost,
            &hint,
        )
    };
    Ok(Outcome { text, found: true })
}

/// The rules of the site that match any of some elements.
fn rules_of(page: &Page, indices: &[usize]) -> Vec<RuleSummary> {
    let styles = page.styles();
    let mut found: Vec<RuleSummary> = Vec::new();
    for index in indices {
        let target = Target::from(page.document().elements()[*index]);
        for rule in trace(&styles, &target).rules {
            if rule.rule.arrival != "user-agent" && !found.contains(&rule.rule) {
                found.push(rule.rule);
            }
        }
    }
    found
}

fn diff_of(site: &Site, file: &str) -> Result<String> {
    let changes = site.changes()?;
    let change = changes.iter().find(|c| c.before.name() == file);
    Ok(change.map(Change::diff).unwrap_or_default())
}

/// What to add to a command so that it finds the site from the present folder.
fn site_hint(root: &Path) -> String {
    let here = std::env::current_dir().and_then(|d| d.canonicalize());
    match here {
        Ok(here) if here.starts_with(root) => String::new(),
        Ok(here) => match root.strip_prefix(&here) {
            Ok(below) => format!(" --site {}", below.display()),
            Err(_) => format!(" --site {}", root.display()),
        },
        Err(_) => format!(" --site {}", root.display()),
    }
}

#[derive(Serialize)]
struct DraftAnswer<'a> {
    edits: Vec<TriedAnswer<'a>>,
    files: Vec<FileAnswer>,
}

/// An edit of the draft.
#[derive(Serialize)]
pub struct TriedAnswer<'a> {
    pub id: u32,
    /// `on`, `off`, or `adrift`: on, but what it changes is not there.
    pub state: &'static str,
    #[serde(flatten)]
    pub edit: &'a Edit,
}

fn tried_answers(site: &Site) -> Result<Vec<TriedAnswer<'_>>> {
    let adrift = site.adrift()?;
    let edits = site.draft().edits();
    let answers = edits.map(|tried| TriedAnswer {
        id: tried.id,
        state: match tried.state {
            EditState::On if adrift.contains(&tried.id) => "adrift",
            EditState::On => "on",
            _ => "off",
        },
        edit: &tried.edit,
    });
    Ok(answers.collect())
}

/// Switches a change, throws one away, or takes the last step back.
fn draft_change(folder: &Path, change: &DraftCommand, json: bool) -> Result<Outcome> {
    let mut site = Site::of_folder(folder)?;
    let missing = |number: u32| Problem {
        message: format!("the draft has no change {number}; `fingerpost draft` lists them"),
        status: 1,
    };
    let said = match change {
        DraftCommand::Off { number } | DraftCommand::On { number } => {
            let on = matches!(change, DraftCommand::On { .. });
            let changed = site.change_draft(|draft| draft.switch(*number, on))?;
            let word = if on { "on" } else { "off" };
            match changed.ok_or_else(|| missing(*number))? {
                true => format!("Change {number} is {word}."),
                false => format!("Change {number} was {word} already."),
            }
        }
        DraftCommand::Drop { number } => {
            let number = number.unwrap_or_default();
            let done = site.change_draft(|draft| draft.discard(number))?;
            done.ok_or_else(|| missing(number))?;
            format!("Dropped change {number}.")
        }
        DraftCommand::Undo | DraftCommand::Redo => {
            let undo = matches!(change, DraftCommand::Undo);
            let step = site.change_draft(|draft| if undo { draft.undo() } else { draft.redo() })?;
            let word = if undo { "take back" } else { "do again" };
            let step = step.ok_or_else(|| Problem {
                message: format!("there is nothing to {word}"),
                status: 1,
            })?;
            render::draft::stepped(&step, undo, site.draft().edit_of(step))
        }
    };
    let files = file_answers(&site.changes()?);
    let edits = tried_answers(&site)?;
    let text = if json {
        to_json("draft", DraftAnswer { edits, files })
    } else {
        let diffs: Vec<&str> = files.iter().map(|f| f.diff.as_str()).collect();
        format!("{said}\n\n{}", render::draft::draft(&edits, &diffs))
    };
    Ok(Outcome { text, found: true })
}

#[derive(Serialize)]
struct FileAnswer {
    file: String,
    diff: String,
}

fn file_answers(changes: &[Change]) -> Vec<FileAnswer> {
    changes
        .iter()
        .map(|change| FileAnswer {
            file: change.before.name().to_owned(),
            diff: change.diff(),
        })
        .collect()
}

fn draft_show(folder: &Path, json: bool) -> Result<Outcome> {
    let site = Site::of_folder(folder)?;
    let files = file_answers(&site.changes()?);
    let edits = tried_answers(&site)?;
    let found = !edits.is_empty();
    let text = if json {
        to_json("draft", DraftAnswer { edits, files })
    } else {
        let diffs: Vec<&str> = files.iter().map(|f| f.diff.as_str()).collect();
        render::draft::draft(&edits, &diffs)
    };
    Ok(Outcome { text, found })
}

#[derive(Serialize)]
struct DropAnswer {
    /// How many edits were thrown away; none where the draft could not be read.
    dropped: Option<usize>,
}

fn draft_drop(folder: &Path, json: bool) -> Result<Outcome> {
    let dropped = match Site::of_folder(folder) {
        Ok(mut site) => Some(site.drop_draft()?),
        Err(SiteError::Draft { .. }) => {
            Site::drop_draft_of(folder)?;
            None
        }
        Err(error) => return Err(error.into()),
    };
    let text = if json {
        to_json("draft drop", DropAnswer { dropped })
    } else {
        render::draft::dropped(dropped)
    };
    Ok(Outcome {
        text,
        found: dropped != Some(0),
    })
}

#[derive(Serialize)]
struct SaveAnswer {
    files: Vec<FileAnswer>,
}

fn save(folder: &Path, json: bool) -> Result<Outcome> {
    let mut site = Site::of_folder(folder)?;
    let changes = site.save()?;
    let text = if json {
        let files = file_answers(&changes);
        to_json("save", SaveAnswer { files })
    } else {
        render::draft::saved(&changes)
    };
    Ok(Outcome {
        text,
        found: !changes.is_empty(),
    })
}
