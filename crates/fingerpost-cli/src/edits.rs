//! The edits: each is made by the site's session, which says what it did.

use std::path::Path;

use fingerpost::edit::{Change, Script, kinds};

use crate::advised::{self, Advised};
use crate::arguments::EditCommand;
use crate::input::standard_input;
use crate::opened::{Asking, Opened, environment_of, opened_site, site_of};
use crate::problem::{Problem, Result};
use crate::render;
use crate::reply::Reply;

/// One edit: try it, and say what it did.
pub fn edit(command: &EditCommand, asking: &Asking<'_>) -> Result<Reply> {
    let mut opened = Opened::new(command.page(), asking)?;
    let mut intent = command.intent(&opened.name);
    if let Some(element) = &mut intent.element {
        *element = opened.meant(&element.to_string(), false);
    }
    from_standard_input(&mut intent.change)?;
    let states = opened.element_states.clone();
    let session = opened.site.session()?;
    let mut session = session
        .in_environment(environment_of(&asking.environment))
        .in_states(states);
    let mut outcome = session.try_edit(&intent)?;
    drop(session);
    let element = intent.element.as_ref().filter(|_| !intent.each);
    opened.remember(element.map(ToString::to_string));
    let advice = std::mem::take(&mut outcome.advice);
    let answer = Advised::of(outcome, &advice);
    let render = |answer: &Advised<_>| {
        let hint = advised::site_hint(opened.site.root());
        let text = render::edit::tried(&answer.body, &advice, &intent.page, &hint);
        format!("{}{text}", opened.notes())
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

/// Tries every edit of a script, in order; none where one of them can't be made.
pub fn script(script: &Path, asking: &Asking<'_>) -> Result<Reply> {
    let text = match script.to_str() {
        Some("-") => standard_input()?,
        _ => {
            let bytes = fingerpost::site::read_file(script)?;
            String::from_utf8(bytes).map_err(|_| {
                Problem::bad_use(format!("{}: it is not UTF-8 text", script.display()))
            })?
        }
    };
    let named = |problem: Problem| Problem {
        message: format!("{}: {}", script.display(), problem.message),
        ..problem
    };
    let read = Script::from_json(&text)
        .map_err(|error| Problem::bad_use(format!("{}: {error}", script.display())))?;
    let name = match (script.to_str(), script.file_name()) {
        (Some("-"), _) | (_, None) => "a script".to_owned(),
        (_, Some(name)) => name.to_string_lossy().into_owned(),
    };
    let mut site = opened_site(&asking.folder).or_else(|error| {
        // Without a configuration the site is where its first page is, as in `edit` with a page.
        let page = read.edits.first().map_or("", |intent| &intent.page);
        match site_of(&asking.folder.join(page), &asking.folder) {
            Ok((site, name)) if name == page => Ok(site),
            _ => Err(error),
        }
    })?;
    let mut session = site
        .session()?
        .in_environment(environment_of(&asking.environment));
    let outcome = session
        .script(&name, &read.edits)
        .map_err(|error| named(error.into()))?;
    drop(session);
    let found = !outcome.edits.is_empty();
    let page = read.edits.first().map_or("", |intent| &intent.page);
    let hint = advised::site_hint(site.root());
    let render = |outcome: &_| render::edit::scripted(outcome, page, &hint);
    Ok(asking.reply("edit --script", found, &outcome, render))
}
