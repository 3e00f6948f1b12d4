//! Each command: open the site, ask the core, render the answer.

use std::path::PathBuf;

use fingerpost::asking::{About, Asked};
use fingerpost::edit::extract;
use fingerpost::question::find::ElementQuery;
use fingerpost::site::Selection;

use crate::arguments::{Arguments, AskCommand, Command, DraftCommand, ExtractCommand};
use crate::opened::{Asking, Opened, environment_of, opened_site};
use crate::problem::Result;
use crate::reply::Reply;
use crate::{demo, drafts, edits, help, init, manual, pager, render, schemas};

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
        Command::Ask(question) => ask(question, asking),
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
        Command::Man {
            folder: Some(folder),
            ..
        } => manual::write(folder, asking),
        Command::Man { command, .. } => manual::page(command, asking),
        Command::Schema { answer } => schemas::schema(answer, asking),
    }
}

/// Asks a question, and lays its answer out.
fn ask(question: &AskCommand, asking: &Asking<'_>) -> Result<Reply> {
    let kind = question.kind;
    if !kind.about.has_page() {
        let answered = kind.ask_standards(&question.parts)?;
        let text = render::asked::answer(&answered, None)?;
        return Ok(asking.answered(kind, &answered, text));
    }
    let opened = Opened::new(question.page(), asking)?;
    let elements: Vec<ElementQuery> = question
        .elements
        .iter()
        .map(|word| match kind.about {
            About::Several => ElementQuery::parse(word),
            _ => opened.meant(word, question.as_text),
        })
        .collect();
    let asked = Asked {
        site: &opened.site,
        page: opened.page.clone(),
        elements,
        states: opened.element_states.clone(),
        parts: question.parts.clone(),
    };
    let answered = kind.ask(&asked)?;
    opened.remember(match &asked.elements[..] {
        [only] if answered.is_about_one() => Some(only.to_string()),
        _ => None,
    });
    let text = match asking.json {
        true => String::new(),
        false => {
            let text = render::asked::answer(&answered, Some(&asked))?;
            match kind.rests_on_sheets {
                true => opened.noting_all(text),
                false => opened.noting_draft(text),
            }
        }
    };
    Ok(asking.answered(kind, &answered, text))
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
    let answer = extract::ExtractAnswer::from(source);
    let render = |answer: &extract::ExtractAnswer| match found {
        true => format!("{}\n", answer.source),
        false => String::new(),
    };
    Ok(asking.reply("extract", found, &answer, render).verbatim())
}
