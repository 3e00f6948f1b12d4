//! The edits: each is put into the draft, and the page is asked again.

use std::io::Read;
use std::path::Path;

use fingerpost::edit::{Change, Intent, kinds, subjects};
use fingerpost::impact::change;
use fingerpost::impact::change::{EditAnswer, Scope};
use fingerpost::impact::draft::{FileAnswer, effect_over_others};
use fingerpost::impact::site::Effect;
use fingerpost::markup::ElementId;
use fingerpost::text::LARGEST_FILE;
use schemars::JsonSchema;
use serde::Serialize;

use crate::arguments::EditCommand;
use crate::commands::{Asking, Opened, Outcome, Problem, Result, opened_site};
use crate::{drafts, render};

/// One edit: try it, and say what it did.
pub fn edit(command: &EditCommand, asking: &Asking<'_>) -> Result<Outcome> {
    let mut opened = Opened::to_edit(command.page(), asking)?;
    let mut intent = command.intent(&opened.name);
    if let Some(element) = &mut intent.element {
        *element = opened.meant(&element.to_string(), false);
    }
    from_standard_input(&mut intent.change)?;
    let answer = attempt(&mut opened, &intent, Scope::Site)?;
    let element = intent.element.as_ref().filter(|_| !intent.each);
    opened.remember(element.map(ToString::to_string));
    let render = |answer: &_| {
        let hint = drafts::site_hint(opened.site.root());
        format!("{}{}", opened.notes(), render::edit::tried(answer, &hint))
    };
    Ok(asking.reply("edit", true, &answer, render))
}

/// Markup given as `-` is read from standard input.
fn from_standard_input(change: &mut Change) -> Result<()> {
    let (Change::Markup(kinds::Markup { source, .. })
    | Change::Insert(kinds::Insert { source, .. })) = change
    else {
        return Ok(());
    };
    if source == "-" {
        *source = standard_input()?;
    }
    Ok(())
}

/// What is given on standard input, up to the size of a source text.
pub fn standard_input() -> Result<String> {
    let mut text = String::new();
    let limited = std::io::stdin().lock().take(LARGEST_FILE as u64 + 1);
    let read = std::io::BufReader::new(limited).read_to_string(&mut text);
    read.map_err(|error| Problem::bad_use(format!("standard input can't be read: {error}")))?;
    match text.len() > LARGEST_FILE {
        true => Err(Problem::bad_use(format!(
            "standard input has more than {LARGEST_FILE} bytes, which is too large for a source text"
        ))),
        false => Ok(text),
    }
}

/// Tries an intent on an opened page, and asks the page again.
fn attempt(opened: &mut Opened, intent: &Intent, over: Scope) -> Result<EditAnswer> {
    let Opened {
        site,
        page,
        element_states,
        ..
    } = opened;
    Ok(change::attempt(site, page, intent, element_states, over)?)
}

/// Makes a change of the draft again, for something else.
pub fn retarget(number: u32, what: Option<&str>, asking: &Asking<'_>) -> Result<Outcome> {
    let folder = &asking.folder;
    let mut site = opened_site(folder)?;
    site.lock_draft()?;
    let tried = site.draft().edit(number).ok_or_else(|| Problem {
        message: format!("the draft has no change {number}; `fingerpost draft` lists them"),
        status: 1,
    })?;
    let mut intent = tried.intent.clone();
    if let Some(what) = what {
        intent
            .retarget(what)
            .map_err(|error| Problem::bad_use(error.to_string()))?;
    }
    // Made over what there is without the old one.
    let mut bare = opened_site(folder)?;
    bare.leave_out(number);
    let mut opened = Opened::of_site(bare, intent.page.clone(), asking)?;
    let found: Vec<ElementId> = subjects(&opened.page, &intent)?
        .iter()
        .map(|t| t.element)
        .collect();
    opened.pretend(&found);
    let edit = opened.site.make(&opened.page, &intent)?;
    let summary = edit.summary.clone();
    let id = site.aim(number, edit)?.unwrap_or(number);
    drafts::listed(
        &site,
        &format!("Change {number} is now change {id}: {summary}"),
        asking,
    )
}

/// Tries every edit of a script, in order; none where one of them can't be made.
pub fn script(script: &Path, asking: &Asking<'_>) -> Result<Outcome> {
    let folder = &asking.folder;
    let text = match script.to_str() {
        Some("-") => standard_input()?,
        _ => {
            let bytes = fingerpost::site::read_file(script)?;
            String::from_utf8(bytes).map_err(|_| {
                Problem::bad_use(format!("{}: it is not UTF-8 text", script.display()))
            })?
        }
    };
    let script_of = fingerpost::edit::Script::from_json(&text)
        .map_err(|error| Problem::bad_use(format!("{}: {error}", script.display())))?;
    let mut site = opened_site(folder)?;
    site.lock_draft()?;
    let before = site.draft().clone();
    let mut opened: Option<Opened> = None;
    let mut answers = Vec::new();
    let mut waiting = Some(site);
    for (at, intent) in script_of.edits.iter().enumerate() {
        let site = match opened.take() {
            Some(opened) => opened.site,
            None => waiting.take().expect("the site is in one of two hands"),
        };
        let next = Opened::of_site(site, intent.page.clone(), asking);
        let tried = next.and_then(|mut next| {
            let done = attempt(&mut next, intent, Scope::Page);
            opened = Some(next);
            done
        });
        match tried {
            Ok(answer) => answers.push(answer),
            Err(problem) => {
                // All or nothing: half a script is a state that was never asked for.
                if let Some(opened) = &mut opened {
                    opened.site.change_draft(|draft| *draft = before)?;
                } else {
                    let mut site = opened_site(folder)?;
                    site.change_draft(|draft| *draft = before)?;
                }
                return Err(Problem {
                    message: format!(
                        "{}: edit {}: {}; nothing of the script was tried",
                        script.display(),
                        at + 1,
                        problem.message
                    ),
                    status: problem.status,
                });
            }
        }
    }
    let site = opened
        .map(|o| o.site)
        .or(waiting)
        .expect("the site is in one of two hands");
    let ids = answers.iter().map(|answer| answer.id).collect();
    let effect = effect_over_others(&site, &ids)?;
    let found = !answers.is_empty();
    let answer = Scripted {
        edits: answers,
        effect,
    };
    let hint = drafts::site_hint(site.root());
    let files: Vec<FileAnswer> = site.changes()?.iter().map(FileAnswer::from).collect();
    let render =
        |answer: &Scripted| render::edit::scripted(&answer.edits, &files, &answer.effect, &hint);
    Ok(asking.reply("edit --script", found, &answer, render))
}

#[derive(JsonSchema, Serialize)]
pub struct Scripted {
    edits: Vec<EditAnswer>,
    /// What they change together, over the site.
    effect: Effect,
}
