//! Each command: open the site, ask the core, render the answer.

use std::path::PathBuf;

use fingerpost::edit::extract;
use fingerpost::impact::remedies::tried;
use fingerpost::page::{PropertyName, Target, UnknownProperty};
use fingerpost::question::complete::{property_names, values_of};
use fingerpost::question::facts::facts;
use fingerpost::question::find::ElementQuery;
use fingerpost::question::whynot::Asked;
use fingerpost::site::Selection;
use fingerpost::value::PropertyId;

use crate::advised::Advised;
use crate::arguments::{
    Arguments, Command, DraftCommand, ExtractCommand, Subject, SuggestCommand, quoted,
};
use crate::opened::{Asking, Opened, environment_of, opened_site};
use crate::problem::{Problem, Result};
use crate::reply::Reply;
use crate::{demo, drafts, edits, help, init, pager, render, schemas};

pub fn run(arguments: &Arguments, notes: &[String]) -> Result<Reply> {
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
            if let Asked::Selector(name) = &asked
                && let Some(PropertyName::Known(property)) = PropertyName::named(name)
                && opened
                    .page
                    .ask()
                    .elements(&ElementQuery::parse(name))
                    .is_ok_and(|all| all.is_empty())
            {
                let element = quoted(&subject.element);
                return Err(Problem::bad_use(format!(
                    "{name} is a property; expected a rule's place, a selector, or a declaration with its value, such as \
                     \"{name}: {}\". To see why it has its value: fingerpost why {element} {name}",
                    property.facts().initial
                )));
            }
            let Opened {
                site,
                page,
                element_states,
                ..
            } = &opened;
            let report = tried(site, page, &target, &asked, what, element_states)
                .map_err(|error| Problem::bad_use(error.to_string()))?;
            // Nothing is in the way: the answer to the question is no.
            let found = !report.answer.holds;
            let answer = Advised::of(report.answer, &report.advice);
            let render = |answer: &Advised<_>| {
                opened.noting_all(render::whynot::whynot(&answer.body, &report.advice))
            };
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
            Some(DraftCommand::Discard { all: true, .. }) => drafts::discard_all(asking),
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
        Command::Recover { leave } => drafts::recover(*leave, asking),
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

fn suggestions(suggest: &SuggestCommand, asking: &Asking<'_>) -> Result<Reply> {
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
) -> Result<Reply> {
    let mut opened = Opened::new(&subject.on.page, asking)?;
    let what = opened.meant(&subject.element, subject.as_text);
    opened.remember(None);
    let elements = opened.page.ask().elements(&what)?;
    opened.put_in_states(&elements)?;
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
    Ok(Reply {
        text,
        found: !elements.is_empty(),
        verbatim: asking.json,
    })
}

fn extracted(what: &ExtractCommand, asking: &Asking<'_>) -> Result<Reply> {
    let source = match what {
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
    let found = !source.is_empty();
    if !found && !asking.json {
        pager::note("There is nothing to extract.");
    }
    let answer = extract::ExtractAnswer { source };
    let render = |answer: &extract::ExtractAnswer| match found {
        true => format!("{}\n", answer.source),
        false => String::new(),
    };
    Ok(asking.reply("extract", found, &answer, render).verbatim())
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
