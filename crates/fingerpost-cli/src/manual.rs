//! Manual pages, one for each command, in roff.

use std::path::Path;

use clap::Command;
use clap_mangen::Man;
use schemars::JsonSchema;
use serde::Serialize;

use crate::arguments::nearest_command;
use crate::help;
use crate::opened::Asking;
use crate::problem::{Problem, Result};
use crate::render::counted;
use crate::reply::Reply;

/// The manual pages that were written.
#[derive(JsonSchema, Serialize)]
pub struct ManualAnswer {
    /// The folder.
    folder: String,
    /// The pages, by their file names.
    pages: Vec<String>,
}

/// The manual page of a command; of the whole program without one.
pub fn page(command: &[String], asking: &Asking<'_>) -> Result<Reply> {
    let root = with_all_options(help::command());
    let mut found = &root;
    for name in command {
        found = found.find_subcommand(name).ok_or_else(|| {
            let near = nearest_command(name, found);
            let near = near.map(|near| format!("; do you mean {near}?"));
            Problem::bad_use(format!(
                "'{}' is not a command{}",
                command.join(" "),
                near.unwrap_or_default()
            ))
        })?;
    }
    Ok(asking.reply_text("man", text_of(found)?).verbatim())
}

/// Writes the pages of all commands into a folder.
pub fn write(folder: &Path, asking: &Asking<'_>) -> Result<Reply> {
    let problem = |path: &Path, error: &std::io::Error| {
        Problem::bad_use(format!("{} can't be written: {error}", path.display()))
    };
    std::fs::create_dir_all(folder).map_err(|error| problem(folder, &error))?;
    let mut pages = Vec::new();
    for (name, text) in all(&with_all_options(help::command()))? {
        let path = folder.join(&name);
        std::fs::write(&path, text).map_err(|error| problem(&path, &error))?;
        pages.push(name);
    }
    let answer = ManualAnswer {
        folder: folder.display().to_string(),
        pages,
    };
    Ok(asking.reply("man --folder", true, &answer, |answer| {
        let pages = counted(answer.pages.len(), "manual page");
        format!("Wrote {pages} to {}.\n", answer.folder)
    }))
}

/// A page has the options that a short help leaves out.
fn with_all_options(command: Command) -> Command {
    let command = command.mut_args(|argument| argument.hide_short_help(false));
    command.mut_subcommands(with_all_options)
}

/// The page of a command and of those below it, each with the name of its file.
fn all(command: &Command) -> Result<Vec<(String, String)>> {
    let mut pages = vec![(Man::new(command.clone()).get_filename(), text_of(command)?)];
    for inner in command.get_subcommands() {
        pages.extend(all(inner)?);
    }
    Ok(pages)
}

fn text_of(command: &Command) -> Result<String> {
    let mut out = Vec::new();
    Man::new(command.clone())
        .render(&mut out)
        .map_err(|error| Problem::bad_use(format!("the manual page can't be written: {error}")))?;
    Ok(String::from_utf8_lossy(&out).into_owned())
}
