//! The `fingerpost` command: arguments in, rendered answers out.
//!
//! Exit status 0: answered. 1: answered, and the answer is "no". 2: bad use or unreadable input.

mod advised;
mod arguments;
mod colors;
mod commands;
mod completing;
mod demo;
mod desk;
mod drafts;
mod edits;
mod foreign;
mod help;
mod init;
mod input;
mod manual;
mod opened;
mod pager;
mod problem;
mod render;
mod reply;
mod schemas;
mod server;
mod wrong;

use std::collections::HashMap;
use std::ffi::OsString;
use std::io::IsTerminal;
use std::panic;
use std::path::Path;
use std::process::ExitCode;

use clap::FromArgMatches;

use arguments::{Arguments, understood};
use problem::Problem;
use reply::{Reply, TextAnswer};

/// What is said when the program itself is wrong: which command, and where to tell.
const DEFECT: &str = "this is a defect in fingerpost, not in your site. Please report it with the command \
                      and, if you can, the page (SECURITY.md says where, if the page should stay private)";

fn main() -> ExitCode {
    panic::set_hook(Box::new(|defect| {
        problem(&format!("{DEFECT}.\n{defect}"));
    }));
    clap_complete::CompleteEnv::with_factory(help::command)
        .var(help::COMPLETE)
        .complete();
    let words: Vec<OsString> = std::env::args_os().collect();
    let shown = words.iter().map(|word| word.to_string_lossy().into_owned());
    advised::remember_words(&server::without_secrets(shown.collect()));
    let has = |option: &str| words.iter().any(|word| word == option);
    let json = has("--json");
    let paged = !json && !has("--no-pager");
    match panic::catch_unwind(|| answer(words)) {
        Ok(Ok(outcome)) => match pager::write(&outcome, paged) {
            Ok(()) => ExitCode::from(u8::from(!outcome.found)),
            Err(error) => {
                problem(&format!(
                    "the command did what it was asked to, but its answer can't be written: {error}"
                ));
                ExitCode::from(2)
            }
        },
        Ok(Err(found)) => {
            if json {
                // Whoever reads answers as JSON reads errors so too.
                let answer = Reply::of(problem::problem_json(&found)).verbatim();
                let _ = pager::write(&answer, false);
            }
            let advice = advised::listed(&found.advice);
            problem(format!("{}\n{advice}", found.message).trim_end());
            ExitCode::from(found.status)
        }
        // The hook has said so.
        Err(_) => ExitCode::from(2),
    }
}

/// Reads the command line, and answers it.
fn answer(words: Vec<OsString>) -> problem::Result<Reply> {
    let root = help::command();
    // The name of a file may be anything; what is not UTF-8 is put back once the order is known.
    let shown = |word: &OsString| word.to_string_lossy().into_owned();
    let odd = words.iter().filter(|word| word.to_str().is_none());
    let odd: HashMap<String, OsString> = odd.map(|word| (shown(word), word.clone())).collect();
    let asked = understood(words.iter().map(shown).collect(), &root)?;
    let given = asked.words.get(1..).unwrap_or_default();
    let is = |long: &str, short: &str| given.iter().any(|word| word == long || word == short);
    if given.iter().all(|word| word.starts_with('-')) && !is("--version", "-V") {
        let text = help::overview(&root, is("--help", "--help"));
        return Ok(Reply::of(match is("--json", "--json") {
            true => reply::to_json("overview", TextAnswer { text }),
            false => text,
        }));
    }
    let own = |word: &String| odd.get(word).cloned().unwrap_or_else(|| word.into());
    let matches = match root
        .clone()
        .try_get_matches_from(asked.words.iter().map(own))
    {
        Ok(matches) => matches,
        Err(error) if error.use_stderr() => {
            say_notes(&asked.notes);
            let sentence = wrong::sentence(&error, &asked.words, &root);
            return Err(Problem::bad_use(sentence));
        }
        Err(shown) => return Ok(Reply::of(shown.render().ansi().to_string())),
    };
    let arguments = Arguments::from_arg_matches(&matches)
        .map_err(|error| Problem::bad_use(error.to_string()))?;
    // `auto` leaves it to the environment.
    let choice = match arguments.color {
        clap::ColorChoice::Auto => None,
        clap::ColorChoice::Always => Some(anstream::ColorChoice::Always),
        clap::ColorChoice::Never => Some(anstream::ColorChoice::Never),
    };
    if let Some(choice) = choice {
        choice.write_global();
    }
    server::remember(&arguments.server);
    if colors::has_all() {
        render::show_swatches();
    }
    let mut outcome =
        commands::run(&arguments, &asked.notes).inspect_err(|_| say_notes(&asked.notes))?;
    if !arguments.json && (!outcome.verbatim || std::io::stdout().is_terminal()) {
        outcome.text = foreign::visible(&outcome.text);
    }
    if !arguments.json && supports_hyperlinks::on(supports_hyperlinks::Stream::Stdout) {
        let folder = arguments.site.as_deref().unwrap_or(Path::new("."));
        if let Ok(site) = fingerpost::site::Site::of_folder(folder) {
            outcome.text = render::places::with_links(&outcome.text, site.root());
        }
    }
    Ok(outcome)
}

/// What was filled in or read in another way, before an error that may come from that.
fn say_notes(notes: &[String]) {
    for note in notes.iter().filter(|_| !advised::is_quiet()) {
        pager::note(note);
    }
}

fn problem(message: &str) {
    let name = render::painted(render::BAD, "fingerpost:");
    pager::note(&format!("{name} {message}"));
}
