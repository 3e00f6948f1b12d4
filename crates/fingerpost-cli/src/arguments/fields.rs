//! The arguments of questions and edits, made from the descriptions of their parts.

use std::path::PathBuf;

use clap::builder::PossibleValuesParser;
use clap::{Arg, ArgAction, ArgMatches};
use fingerpost::edit::Side;
use fingerpost::field::{Field, Given, Holds};
use fingerpost::text::{PlaceQuery, SitePath};

/// The page of a question or an edit.
pub fn page() -> Arg {
    Arg::new("page")
        .required(true)
        .value_name("PAGE")
        .value_parser(clap::value_parser!(PathBuf))
        .help("A page of the site: a file, or a URL; default: the page you used last")
}

/// An element, with what else may be said in its place.
pub fn element(more: &str) -> Arg {
    Arg::new("element").value_name("ELEMENT").help(format!(
        "An element: a selector, a text in its own quotation marks ('\"Sailings today\"'), a place such as \
         pages/home.html:38 or 38, a number such as @12, or @ for the element you used last{more}"
    ))
}

/// An option without a value.
pub fn switch(id: &'static str, long: &'static str, help: &'static str) -> Arg {
    Arg::new(id)
        .long(long)
        .action(ArgAction::SetTrue)
        .help(help)
}

/// A text that may be given.
pub fn given_text(given: &ArgMatches, id: &str) -> Option<String> {
    let found = given.try_get_one::<String>(id).ok().flatten();
    found.cloned()
}

/// Whether an option that may be there is given.
pub fn given_flag(given: &ArgMatches, id: &str) -> bool {
    let found = given.try_get_one::<bool>(id).ok().flatten();
    found.copied().unwrap_or_default()
}

/// The argument for a part.
pub fn argument_of(field: &'static Field) -> Arg {
    let argument = Arg::new(field.name).help(field.what);
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
                | Holds::Css
        ));
    match field.holds {
        Holds::Place => argument
            .value_parser(|text: &str| text.parse::<PlaceQuery>().map(|place| place.to_string())),
        Holds::Side => argument
            .value_parser(PossibleValuesParser::new(Side::NAMES))
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
