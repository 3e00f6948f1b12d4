//! `fingerpost edit`: one command for each kind of change, made from the kind's own description.
//!
//! A kind that is added to the core has its command, its help and its completions with that.

use std::path::{Path, PathBuf};

use clap::error::ErrorKind;
use clap::{Arg, ArgAction, ArgGroup, ArgMatches, Command, Error, FromArgMatches, Subcommand};
use fingerpost::edit::kinds::{About, Given, KindInfo};
use fingerpost::edit::{Change, Destination, DestinationKind, Intent, Pages};
use fingerpost::question::find::ElementQuery;
use fingerpost::text::PlaceQuery;
use serde_json::{Map, Value};

use super::fields::{argument_of, element, given_flag, given_text, page, switch};
use super::line::edit_line;

/// The heading over the options that say where a change is written.
const WHERE: &str = "Where it is written";

/// One edit as it was typed.
#[derive(Clone, Debug)]
pub struct EditCommand {
    page: PathBuf,
    intent: Intent,
}

impl EditCommand {
    /// The page that it is about.
    pub fn page(&self) -> &Path {
        &self.page
    }

    /// What it asks for, on the page of that name.
    pub fn intent(&self, page: &str) -> Intent {
        let mut intent = self.intent.clone();
        page.clone_into(&mut intent.page);
        intent
    }
}

impl Subcommand for EditCommand {
    fn augment_subcommands(command: Command) -> Command {
        command.subcommands(Change::kinds().iter().map(|kind| command_of(kind)))
    }

    fn augment_subcommands_for_update(command: Command) -> Command {
        Self::augment_subcommands(command)
    }

    fn has_subcommand(name: &str) -> bool {
        Change::kind_named(name).is_some()
    }
}

impl FromArgMatches for EditCommand {
    fn from_arg_matches(matches: &ArgMatches) -> Result<EditCommand, Error> {
        let unknown = || Error::raw(ErrorKind::InvalidSubcommand, "expected a kind of change");
        let (name, given) = matches.subcommand().ok_or_else(unknown)?;
        let kind = Change::kind_named(name).ok_or_else(unknown)?;
        let text = |id: &str| given_text(given, id);
        let element = match kind.about {
            About::ElementOrRoot => text("of"),
            _ => text("element").filter(|element| element != "-"),
        };
        let as_text = given_flag(given, "text-only");
        let element = element.map(|element| match as_text {
            true => ElementQuery::Text(element),
            false => ElementQuery::parse(&element),
        });
        let change = kind
            .change(parts(kind, given))
            .map_err(|error| Error::raw(ErrorKind::ValueValidation, error.to_string()))?;
        Ok(EditCommand {
            page: given
                .get_one::<PathBuf>("page")
                .cloned()
                .unwrap_or_default(),
            intent: Intent {
                page: String::new(),
                element,
                each: given_flag(given, "each"),
                pages: pages(given),
                into: destination(given)?,
                change,
            },
        })
    }

    fn update_from_arg_matches(&mut self, matches: &ArgMatches) -> Result<(), Error> {
        *self = EditCommand::from_arg_matches(matches)?;
        Ok(())
    }
}

/// The parts of a change, as JSON has them.
fn parts(kind: &KindInfo, given: &ArgMatches) -> Value {
    let mut all = Map::new();
    for field in kind.fields {
        let id = field.name;
        let value = match field.given {
            Given::Flag => given_flag(given, id).then_some(Value::Bool(true)),
            Given::Several => {
                let words = given.try_get_many::<String>(id).ok().flatten();
                words.map(|words| words.cloned().map(Value::String).collect())
            }
            _ => given_text(given, id).map(Value::String),
        };
        all.extend(value.map(|value| (field.name.to_owned(), value)));
    }
    Value::Object(all)
}

fn pages(given: &ArgMatches) -> Pages {
    let also = given.try_get_many::<String>("also-on").ok().flatten();
    let also: Vec<String> = also.into_iter().flatten().cloned().collect();
    match (given_flag(given, "every-page"), &also[..]) {
        (true, _) => Pages::Every,
        (false, []) => Pages::This,
        (false, _) => Pages::Also(also),
    }
}

fn destination(given: &ArgMatches) -> Result<Destination, Error> {
    let rule = given
        .try_get_one::<PlaceQuery>("at-rule-place")
        .ok()
        .flatten();
    let into = given.try_get_one::<Destination>("into").ok().flatten();
    Ok(match (rule, given_flag(given, "inline"), into) {
        (Some(rule), _, _) => Destination::Rule(rule.clone()),
        (None, true, _) => Destination::Inline,
        (None, false, into) => into.cloned().unwrap_or_default(),
    })
}

fn command_of(kind: &'static KindInfo) -> Command {
    let mut command = Command::new(kind.name).about(kind.does);
    if !kind.more.is_empty() {
        command = command.long_about(format!("{}\n\n{}", kind.does, kind.more));
    }
    command = command.arg(page());
    if kind.about.names_element() {
        command = command.arg(element("; - for none where --rule names a rule").required(true));
    }
    let mut choices = Vec::new();
    for field in kind.fields {
        if field.given == Given::OneOf {
            choices.push(field.name);
        }
        command = command.arg(argument_of(field));
    }
    if !choices.is_empty() {
        let group = ArgGroup::new("one-of").args(choices).required(true);
        command = command.group(group);
    }
    if kind.about == About::ElementOrRoot {
        command = command.arg(
            Arg::new("of")
                .long("of")
                .value_name("ELEMENT")
                .help("The element for which it is looked up; default: the root element"),
        );
    }
    if kind.about.names_element() {
        command = command
            .arg(switch(
                "text-only",
                "text",
                "Treat ELEMENT as text, not as a selector",
            ))
            .arg(switch("each", "each", "Change every element that matches"));
    }
    if kind.about.takes_pages() {
        command = command
            .arg(
                switch(
                    "every-page",
                    "every-page",
                    "Change every page of the site where it applies",
                )
                .conflicts_with("also-on"),
            )
            .arg(
                Arg::new("also-on")
                    .long("also-on")
                    .value_name("PAGE")
                    .action(ArgAction::Append)
                    .help("Change this page too; may be given several times"),
            );
    }
    with_destination(command, kind)
        .after_help(format!("Example:\n  {}", edit_line(&kind.on_demo())))
}

/// The options that say where a change is written: only those that the kind takes.
fn with_destination(mut command: Command, kind: &KindInfo) -> Command {
    let takes = |wanted: DestinationKind| kind.destinations.contains(&wanted);
    if takes(DestinationKind::Rule) {
        command = command.arg(
            Arg::new("at-rule-place")
                .long("rule")
                .value_name("FILE:LINE")
                .help_heading(WHERE)
                .value_parser(|text: &str| text.parse::<PlaceQuery>())
                .help("In this rule"),
        );
    }
    if takes(DestinationKind::Inline) {
        command = command.arg(
            switch("inline", "inline", "In the element's style attribute").help_heading(WHERE),
        );
    }
    let words: Vec<String> = kind
        .destinations
        .iter()
        .filter(|kind| !matches!(kind, DestinationKind::Inline | DestinationKind::Rule))
        .map(|kind| match kind {
            DestinationKind::File => "a sheet such as css/base.css".to_owned(),
            word => word.to_string(),
        })
        .collect();
    if let [_, _, ..] = &words[..] {
        let into = Arg::new("into")
            .long("into")
            .value_name("DESTINATION")
            .help_heading(WHERE)
            .value_parser(into)
            .help(format!("{}; default: sources", listed(&words)));
        command = command.arg(into);
    }
    let ways: Vec<&str> = ["at-rule-place", "inline", "into"]
        .into_iter()
        .filter(|id| {
            command
                .get_arguments()
                .any(|argument| argument.get_id() == id)
        })
        .collect();
    command.group(ArgGroup::new("destination").args(ways))
}

/// `winning, sources or overrides`
fn listed(words: &[String]) -> String {
    match words {
        [rest @ .., last] if !rest.is_empty() => format!("{} or {last}", rest.join(", ")),
        words => words.concat(),
    }
}

fn into(text: &str) -> Result<Destination, String> {
    match text.parse() {
        Ok(Destination::Rule(place)) => Err(format!("a rule is named by --rule {place}")),
        Ok(Destination::Inline) => Err("the style attribute is named by --inline".to_owned()),
        Ok(destination) => Ok(destination),
        Err(_) => Err(
            "expected winning, sources, overrides, page, or a sheet such as css/base.css"
                .to_owned(),
        ),
    }
}
