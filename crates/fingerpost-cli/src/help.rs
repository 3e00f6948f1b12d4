//! The help: what there is, in the order of the work, with a line to type for each.

use clap::{Command, CommandFactory};
use clap_complete::Shell;
use clap_complete::env::Shells;
use fingerpost::asking::{QuestionKind, Step};

use crate::arguments::{Arguments, question_line, usage};
use crate::completing::with_offers;
use crate::render::{FAINT, HEAD, painted};

/// A heading, the step of the questions under it, and its other commands with a line for each.
type Section = (
    &'static str,
    Option<Step>,
    &'static [(&'static str, &'static str)],
);

/// The commands that are not questions, by the steps of the work, each with a line that works on the demo theme.
const STEPS: [Section; 6] = [
    ("Find", Some(Step::Find), &[]),
    ("Why", Some(Step::Why), &[]),
    (
        "Try",
        Some(Step::Try),
        &[
            (
                "edit",
                "fingerpost edit set pages/home.html h2.today color teal",
            ),
            ("draft", "fingerpost draft"),
            (
                "extract",
                "fingerpost extract element pages/home.html .hero",
            ),
        ],
    ),
    (
        "Save",
        None,
        &[
            ("save", "fingerpost save"),
            ("unsave", "fingerpost unsave"),
            ("recover", "fingerpost recover"),
        ],
    ),
    (
        "All four, in a browser",
        None,
        &[("desk", "fingerpost desk pages/home.html")],
    ),
    (
        "To begin",
        None,
        &[
            ("demo", "fingerpost demo"),
            ("init", "fingerpost init"),
            ("completions", "fingerpost completions bash"),
            ("man", "fingerpost man"),
            ("schema", "fingerpost schema why"),
        ],
    ),
];

/// The commands of a step, each with its example: the questions first where the step is one of asking.
fn of_step(step: Option<Step>, others: &[(&str, &str)]) -> Vec<(String, String)> {
    let mut all: Vec<(String, String)> = Vec::new();
    for kind in QuestionKind::all()
        .iter()
        .filter(|kind| Some(kind.step) == step)
    {
        let name = kind.group().unwrap_or(kind.name).to_owned();
        if all.iter().all(|(known, _)| *known != name) {
            all.extend(
                kind.examples
                    .first()
                    .map(|sample| (name, question_line(kind, sample))),
            );
        }
    }
    let others = others
        .iter()
        .map(|(name, line)| ((*name).to_owned(), (*line).to_owned()));
    // A change is tried before more is asked.
    match step {
        Some(Step::Try) => others.chain(all).collect(),
        _ => all.into_iter().chain(others).collect(),
    }
}

/// The variable of the environment by which a shell asks for what fits, with its own name in it.
pub const COMPLETE: &str = "FINGERPOST_COMPLETE";

/// How the help of one command is laid out: what it does, how it is written, an example, then the rest.
const TEMPLATE: &str = "{about-with-newline}\n  {usage}{after-help}\n\n{all-args}";

/// The description of all commands, with our own help.
pub fn command() -> Command {
    let mut root = Arguments::command();
    root.build();
    with_offers(laid_out(root))
}

fn laid_out(command: Command) -> Command {
    let line = usage(&command);
    let inner: Vec<String> = command
        .get_subcommands()
        .map(|inner| inner.get_name().to_owned())
        .collect();
    let plain = |argument: clap::Arg| argument.hide_possible_values(true).hide_default_value(true);
    let command = command.mut_args(plain);
    let mut command = command.override_usage(line).help_template(TEMPLATE);
    for name in inner {
        command = command.mut_subcommand(name, laid_out);
    }
    command
}

/// The completions of a shell.
///
/// The shell asks the command for what fits, so that pages, elements and classes are those of the theme.
pub fn completions(shell: Shell) -> String {
    let mut out = Vec::new();
    let shells = Shells::builtins();
    if let Some(writer) = shells.completer(&shell.to_string()) {
        let name = "fingerpost";
        // Nothing fails to be written to memory.
        let _ = writer.write_registration(COMPLETE, name, name, name, &mut out);
    }
    String::from_utf8_lossy(&out).into_owned()
}

/// All commands by the steps of the work; with `long`, each with its example.
pub fn overview(root: &Command, long: bool) -> String {
    let width = terminal_size::terminal_size().map_or(WIDEST, |(width, _)| width.0.into());
    let mut text = wrapped(
        "Why does this element look like this? Fingerpost answers from a site theme's own sources, tries changes, and \
         saves the smallest possible edit.",
        "",
        width,
    );
    for (title, step, others) in STEPS {
        text.push_str(&format!("\n{}\n", painted(HEAD, title)));
        let commands = of_step(step, others);
        for (name, example) in &commands {
            let about = root.find_subcommand(name).and_then(Command::get_about);
            let about = about.map(ToString::to_string).unwrap_or_default();
            text.push_str(&wrapped(&format!("  {name:<13}{about}"), TABLE, width));
            if long {
                text.push_str(&format!("  {:<13}{}\n", "", painted(FAINT, example)));
            }
        }
        if let (false, Some((_, example))) = (long, commands.first()) {
            text.push_str(&format!("  {:<13}{}\n", "", painted(FAINT, example)));
        }
    }
    text.push('\n');
    text.push_str(&wrapped(
        "New here? `fingerpost demo` is a guided tour of a made-up theme. In a theme of your own, begin with \
         `fingerpost init`. `fingerpost COMMAND -h` is short, `--help` has everything; `--json` and `--site FOLDER` \
         work with every command.",
        "",
        width,
    ));
    text
}

/// How wide a help text is where the terminal would have room for more.
const WIDEST: usize = 100;

/// Where the second column of the list begins.
const TABLE: &str = "               ";

/// A paragraph in lines that fit, those after the first with an indent.
fn wrapped(text: &str, indent: &str, width: usize) -> String {
    let options = textwrap::Options::new(width.clamp(40, WIDEST)).subsequent_indent(indent);
    textwrap::fill(text, options) + "\n"
}
