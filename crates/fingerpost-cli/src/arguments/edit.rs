//! `fingerpost edit`: one command for each kind of change, made from the kind's own description.
//!
//! A kind that is added to the core has its command, its help and its completions with that.

use std::path::{Path, PathBuf};

use clap::builder::PossibleValuesParser;
use clap::error::ErrorKind;
use clap::{Arg, ArgAction, ArgGroup, ArgMatches, Command, Error, FromArgMatches, Subcommand};
use fingerpost::edit::kinds::{About, Field, Given, Holds, KindInfo};
use fingerpost::edit::{Change, Destination, DestinationKind, Intent, Pages};
use fingerpost::question::find::ElementQuery;
use fingerpost::text::{PlaceQuery, SitePath};
use serde_json::{Map, Value};

use super::line::edit_line;

/// The heading over the options that say where a change is written.
const WHERE: &str = "Where it is written";

/// The sides of an element.
const SIDES: [&str; 4] = ["before", "after", "first", "last"];

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
        let text = |id: &str| optional(given, id);
        let element = match kind.about {
            About::ElementOrRoot => text("of"),
            _ => text("element").filter(|element| element != "-"),
        };
        let as_text = optional_flag(given, "text-only");
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
                each: optional_flag(given, "each"),
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

fn optional(given: &ArgMatches, id: &str) -> Option<String> {
    let found = given.try_get_one::<String>(id).ok().flatten();
    found.cloned()
}

fn optional_flag(given: &ArgMatches, id: &str) -> bool {
    let found = given.try_get_one::<bool>(id).ok().flatten();
    found.copied().unwrap_or_default()
}

/// The parts of a change, as JSON has them.
fn parts(kind: &KindInfo, given: &ArgMatches) -> Value {
    let mut all = Map::new();
    for field in kind.fields {
        let id = id_of(field);
        let value = match field.given {
            Given::Flag => optional_flag(given, id).then_some(Value::Bool(true)),
            Given::Several => {
                let words = given.try_get_many::<String>(id).ok().flatten();
                words.map(|words| words.cloned().map(Value::String).collect())
            }
            _ => optional(given, id).map(Value::String),
        };
        all.extend(value.map(|value| (field.name.to_owned(), value)));
    }
    Value::Object(all)
}

fn pages(given: &ArgMatches) -> Pages {
    let also = given.try_get_many::<String>("also-on").ok().flatten();
    let also: Vec<String> = also.into_iter().flatten().cloned().collect();
    match (optional_flag(given, "every-page"), &also[..]) {
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
    Ok(match (rule, optional_flag(given, "inline"), into) {
        (Some(rule), _, _) => Destination::Rule(rule.clone()),
        (None, true, _) => Destination::Inline,
        (None, false, into) => into.cloned().unwrap_or_default(),
    })
}

/// The name of a part among the command's arguments. A rule that the change itself names is a word of the line, and
/// `--rule` is the destination.
fn id_of(field: &Field) -> &'static str {
    field.name
}

fn command_of(kind: &'static KindInfo) -> Command {
    let mut command = Command::new(kind.name).about(kind.does);
    if !kind.more.is_empty() {
        command = command.long_about(format!("{}\n\n{}", kind.does, kind.more));
    }
    command = command.arg(
        Arg::new("page")
            .required(true)
            .value_name("PAGE")
            .value_parser(clap::value_parser!(PathBuf))
            .help("A page of the site: a file, or a URL; default: the page you used last"),
    );
    if matches!(kind.about, About::Element | About::MaybeElement) {
        command = command.arg(
            Arg::new("element").required(true).value_name("ELEMENT").help(
                "An element: a selector, a text in its own quotation marks ('\"Sailings today\"'), a place such as \
                 pages/home.html:38 or 38, a number such as @12, or @ for the element you used last; - for none where \
                 --rule names a rule",
            ),
        );
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
    if matches!(kind.about, About::Element | About::MaybeElement) {
        command = command
            .arg(switch(
                "text-only",
                "text",
                "Treat ELEMENT as text, not as a selector",
            ))
            .arg(switch("each", "each", "Change every element that matches"));
    }
    if matches!(kind.about, About::Element | About::MaybeElement) || kind.name == "new-sheet" {
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

fn switch(id: &'static str, long: &'static str, help: &'static str) -> Arg {
    Arg::new(id)
        .long(long)
        .action(ArgAction::SetTrue)
        .help(help)
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

fn argument_of(field: &'static Field) -> Arg {
    let argument = Arg::new(id_of(field)).help(field.what);
    let argument = match field.given {
        Given::Required => argument.required(true),
        Given::Several => argument
            .required(true)
            .action(ArgAction::Append)
            .num_args(1..),
        Given::Named | Given::OneOf => argument.long(field.name),
        Given::RequiredNamed => argument.long(field.name).required(true),
        Given::Flag => return argument.long(field.name).action(ArgAction::SetTrue),
        _ => argument,
    };
    let argument = argument
        .value_name(placeholder(field))
        .allow_hyphen_values(matches!(
            field.holds,
            Holds::Property
                | Holds::Value
                | Holds::Step
                | Holds::ClassChange
                | Holds::Name
                | Holds::Text
        ));
    match field.holds {
        Holds::Place => argument
            .value_parser(|text: &str| text.parse::<PlaceQuery>().map(|place| place.to_string())),
        Holds::Side => argument
            .value_parser(PossibleValuesParser::new(SIDES))
            .hide_possible_values(true),
        Holds::Choice(words) => argument
            .value_parser(PossibleValuesParser::new(words))
            .hide_possible_values(true),
        Holds::ClassChange => argument.value_parser(class_change),
        Holds::Sheet => {
            argument.value_parser(|text: &str| SitePath::new(text).map(|path| path.to_string()))
        }
        _ => argument,
    }
}

/// What represents a part in the command's line.
fn placeholder(field: &Field) -> String {
    match field.holds {
        Holds::Place => "FILE:LINE".to_owned(),
        Holds::Sheet => "FILE.css".to_owned(),
        Holds::ClassChange => "+NAME|-NAME".to_owned(),
        _ => field.name.to_uppercase(),
    }
}

fn class_change(text: &str) -> Result<String, String> {
    match text.strip_prefix(['+', '-']) {
        Some(name) if !name.starts_with('-') => Ok(text.to_owned()),
        _ => Err("expected +NAME to add a class or -NAME to remove one".to_owned()),
    }
}
