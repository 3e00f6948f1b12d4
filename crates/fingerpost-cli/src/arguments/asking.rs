//! One command for each question, made from the question's own description.
//!
//! A question that is added to the core has its command, its help and its completions with that.

use std::path::{Path, PathBuf};

use clap::error::ErrorKind;
use clap::{Arg, ArgAction, ArgMatches, Args, Command, Error, FromArgMatches, Subcommand};
use fingerpost::asking::{About, Parts, QuestionKind};
use fingerpost::field::Given;

use super::EnvironmentOptions;
use super::fields::{argument_of, element, given_flag, given_text, page, switch};
use super::line::question_line;

/// One question as it was typed.
#[derive(Clone, Debug)]
pub struct AskCommand {
    pub kind: &'static QuestionKind,
    pub page: PathBuf,
    /// What names the elements.
    pub elements: Vec<String>,
    /// Whether the elements are named by their texts.
    pub as_text: bool,
    pub parts: Parts,
    pub environment: EnvironmentOptions,
}

impl AskCommand {
    /// The page that it is about.
    pub fn page(&self) -> &Path {
        &self.page
    }
}

impl Subcommand for AskCommand {
    fn augment_subcommands(command: Command) -> Command {
        let alone = QuestionKind::all()
            .iter()
            .filter(|kind| kind.group().is_none());
        let groups = QuestionKind::groups().iter().map(|group| {
            let all = QuestionKind::all().iter();
            let members = all
                .filter(|kind| kind.group() == Some(group.name))
                .map(command_of);
            let members: Vec<Command> = members.collect();
            let lines = members.iter().filter_map(|member| member.get_after_help());
            let lines: String = lines.map(|lines| first_line(&lines.to_string())).collect();
            Command::new(group.name)
                .about(group.does)
                .subcommand_required(true)
                .arg_required_else_help(true)
                .after_help(format!("Examples:\n{}", lines.trim_end()))
                .subcommands(members)
        });
        command
            .subcommands(alone.map(command_of))
            .subcommands(groups)
    }

    fn augment_subcommands_for_update(command: Command) -> Command {
        Self::augment_subcommands(command)
    }

    fn has_subcommand(name: &str) -> bool {
        let mut groups = QuestionKind::groups().iter();
        QuestionKind::named(name).is_some() || groups.any(|group| group.name == name)
    }
}

/// The first example of a help text, in its own line.
fn first_line(examples: &str) -> String {
    let line = examples.lines().nth(1).unwrap_or_default();
    format!("{line}\n")
}

impl FromArgMatches for AskCommand {
    fn from_arg_matches(matches: &ArgMatches) -> Result<AskCommand, Error> {
        let unknown = || Error::raw(ErrorKind::InvalidSubcommand, "expected a question");
        let (first, inner) = matches.subcommand().ok_or_else(unknown)?;
        let (name, given) = match inner.subcommand() {
            Some((second, inner)) => (format!("{first} {second}"), inner),
            None => (first.to_owned(), inner),
        };
        let kind = QuestionKind::named(&name).ok_or_else(unknown)?;
        let elements = given
            .try_get_many::<String>(element_id(kind.about))
            .ok()
            .flatten();
        Ok(AskCommand {
            kind,
            page: given
                .try_get_one::<PathBuf>("page")
                .ok()
                .flatten()
                .cloned()
                .unwrap_or_default(),
            elements: elements.into_iter().flatten().cloned().collect(),
            as_text: given_flag(given, "as_text"),
            parts: parts(kind, given),
            environment: match kind.about.has_page() {
                true => EnvironmentOptions::from_arg_matches(given)?,
                false => EnvironmentOptions::default(),
            },
        })
    }

    fn update_from_arg_matches(&mut self, matches: &ArgMatches) -> Result<(), Error> {
        *self = AskCommand::from_arg_matches(matches)?;
        Ok(())
    }
}

fn parts(kind: &QuestionKind, given: &ArgMatches) -> Parts {
    let mut parts = Parts::default();
    for field in kind.fields {
        let text = match field.given {
            Given::Flag => given_flag(given, field.name).then(String::new),
            _ => given_text(given, field.name),
        };
        if let Some(text) = text {
            parts.give(field.name, text);
        }
    }
    parts
}

/// What the words for the elements are called.
fn element_id(about: About) -> &'static str {
    match about {
        About::Elements => "what",
        About::Several => "elements",
        About::Nothing | About::Page | About::ElementOrRoot | About::Element => "element",
    }
}

fn command_of(kind: &'static QuestionKind) -> Command {
    let name = kind
        .name
        .split_once(' ')
        .map_or(kind.name, |(_, name)| name);
    let mut command = Command::new(name);
    if kind.about.has_page() {
        command = EnvironmentOptions::augment_args(command.arg(page()));
    }
    // The options bring a description of their own.
    command = command.about(kind.does).long_about(None);
    command = match kind.about {
        About::Nothing | About::Page => command,
        About::ElementOrRoot => command.arg(
            Arg::new("element")
                .value_name("ELEMENT")
                .help("Where to start; default: the root element"),
        ),
        About::Element => command.arg(element("").required(true)).arg(switch(
            "as_text",
            "text",
            "Treat ELEMENT as text, not as a selector",
        )),
        About::Elements => command
            .arg(
                Arg::new("what")
                    .required(true)
                    .value_name("WHAT")
                    .help("A selector, a text, a place (FILE:LINE, FILE:LINE:COLUMN or LINE), or a number such as @12"),
            )
            .arg(switch("as_text", "text", "Treat WHAT as text, not as a selector")),
        About::Several => command.arg(
            Arg::new("elements")
                .required(true)
                .value_name("ELEMENT")
                .action(ArgAction::Append)
                .num_args(1..)
                .help("The elements: selectors, texts in quotation marks, places, or numbers such as @12"),
        ),
    };
    for field in kind.fields {
        command = command.arg(argument_of(field));
    }
    let lines: Vec<String> = kind
        .examples
        .iter()
        .map(|sample| question_line(kind, sample))
        .collect();
    let head = match lines.len() {
        1 => "Example",
        _ => "Examples",
    };
    command.after_help(format!("{head}:\n  {}", lines.join("\n  ")))
}
