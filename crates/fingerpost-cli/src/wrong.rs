//! What the parser of arguments found wrong, in our own words.

use clap::error::{ContextKind, ContextValue, ErrorKind};
use clap::{Command, Error};
use fingerpost::selector::State;

use crate::arguments::{example, nearest_command, usage};

/// A sentence for a mistake in the command line, with the line to type.
pub fn sentence(error: &Error, words: &[String], root: &Command) -> String {
    let command = asked(words, root);
    let what = what(error, command, command.get_name() == root.get_name());
    let what = what.trim_end_matches('.');
    let example = example(command).map(|line| format!("\nExample: {line}"));
    let example = example.unwrap_or_else(|| format!("\nMore: {} --help", named(command)));
    match command.has_subcommands() {
        true => format!("{what}{example}"),
        false => format!("{what}\nExpected: {}{example}", usage(command)),
    }
}

/// A part of what the parser says, as text.
fn part(error: &Error, kind: ContextKind) -> String {
    match error.get(kind) {
        Some(ContextValue::String(text)) => text.clone(),
        Some(ContextValue::Strings(texts)) => texts.join(", "),
        Some(ContextValue::StyledStr(text)) => text.to_string(),
        Some(ContextValue::StyledStrs(texts)) => {
            let texts: Vec<String> = texts.iter().map(ToString::to_string).collect();
            texts.join(", ")
        }
        _ => String::new(),
    }
}

/// What may be meant: ` Do you mean …?`, or nothing.
fn near(error: &Error, command: &Command) -> String {
    let suggested = [
        ContextKind::SuggestedArg,
        ContextKind::SuggestedValue,
        ContextKind::SuggestedSubcommand,
    ];
    let typed = part(error, ContextKind::InvalidSubcommand);
    // The parser's own measure likes long names that share a few letters.
    let near = match typed.is_empty() {
        true => suggested
            .into_iter()
            .map(|kind| part(error, kind))
            .find(|near| !near.is_empty()),
        false => nearest_command(&typed, command),
    };
    near.map(|near| format!(" Do you mean {}?", near.replace(", ", " or ")))
        .unwrap_or_default()
}

/// What is wrong.
fn what(error: &Error, command: &Command, is_root: bool) -> String {
    let of = |kind| part(error, kind);
    let whole = of(ContextKind::InvalidArg);
    let argument = plain(&whole);
    let value = of(ContextKind::InvalidValue);
    let near = near(error, command);
    match error.kind() {
        ErrorKind::MissingRequiredArgument if command.get_name() == "discard" => {
            "say which change to discard: its number, or --all".to_owned()
        }
        ErrorKind::MissingRequiredArgument => missing(&whole),
        ErrorKind::UnknownArgument if is_state(&whole) => format!(
            "{whole} is not an option. To assume a state: --state {}",
            whole.trim_start_matches('-')
        ),
        ErrorKind::UnknownArgument
            if matches!(command.get_name(), "undo" | "redo") && whole.parse::<u32>().is_ok() =>
        {
            format!(
                "{} takes one step at a time, the last one first. For change {whole} alone: fingerpost draft discard \
                 {whole}, or fingerpost draft off {whole}",
                command.get_name()
            )
        }
        ErrorKind::UnknownArgument if whole.starts_with('-') => {
            format!("{whole} is not an option here.{near}")
        }
        ErrorKind::UnknownArgument => format!(
            "one word too many: '{whole}'. A selector, a text or a value with spaces is written in quotation marks"
        ),
        ErrorKind::InvalidSubcommand => {
            let names: Vec<&str> = command.get_subcommands().map(Command::get_name).collect();
            // Inside of a command there are few enough to name them all.
            let near = match near.is_empty() && !is_root {
                true => format!(" Expected one of {}", names.join(", ")),
                false => near,
            };
            format!(
                "'{}' is not a command.{near}",
                of(ContextKind::InvalidSubcommand)
            )
        }
        ErrorKind::MissingSubcommand | ErrorKind::DisplayHelpOnMissingArgumentOrSubcommand => {
            let names: Vec<&str> = command.get_subcommands().map(Command::get_name).collect();
            format!("say what; one of {}", names.join(", "))
        }
        ErrorKind::InvalidValue if value.is_empty() => format!("{argument} takes a value"),
        ErrorKind::InvalidValue => {
            let valid = of(ContextKind::ValidValue);
            format!("{argument}: '{value}' is not one of {valid}.{near}")
        }
        ErrorKind::ValueValidation => {
            let why = std::error::Error::source(error).map(ToString::to_string);
            let why = why.map(|why| in_our_words(&why)).unwrap_or_default();
            format!("{argument} '{value}': {why}")
        }
        ErrorKind::ArgumentConflict => {
            format!(
                "{argument} and {} can't be given together",
                plain(&of(ContextKind::PriorArg))
            )
        }
        ErrorKind::TooManyValues | ErrorKind::TooFewValues | ErrorKind::WrongNumberOfValues => {
            format!("{argument} has the wrong number of values")
        }
        ErrorKind::NoEquals => format!("{argument} needs = and a value"),
        ErrorKind::InvalidUtf8 => "a word is not UTF-8 text".to_owned(),
        _ => error.to_string(),
    }
}

/// Whether an option has the name of a state: `--hover`.
fn is_state(option: &str) -> bool {
    let name = option.strip_prefix("--");
    name.is_some_and(|name| State::named(name).is_some())
}

/// The command that the words name, as far as they name one.
fn asked<'c>(words: &[String], root: &'c Command) -> &'c Command {
    let mut command = root;
    for word in words.iter().skip(1) {
        match command.find_subcommand(word) {
            Some(inner) => command = inner,
            None => break,
        }
    }
    command
}

fn named(command: &Command) -> &str {
    command.get_bin_name().unwrap_or(command.get_name())
}

fn missing(arguments: &str) -> String {
    let names = plain(arguments);
    let verb = if names.contains(" and ") { "are" } else { "is" };
    format!("{names} {verb} missing")
}

/// The names of arguments as the command's line has them: `ELEMENT and PROPERTY`, `--to or --add`.
fn plain(arguments: &str) -> String {
    let name = |argument: &str| {
        let bare = argument.trim_matches(['<', '>', '[', ']', '.', ' ']);
        match bare.starts_with("--") {
            true => bare.split(' ').next().unwrap_or(bare).to_owned(),
            false => bare.to_owned(),
        }
    };
    let choices = |argument: &str| {
        let all: Vec<String> = argument.split('|').map(name).collect();
        match argument.starts_with("<--") || argument.starts_with("--") {
            true => all.join(" or "),
            false => name(argument),
        }
    };
    let names = arguments.split(", ").map(choices);
    // The page may be left out.
    let names: Vec<String> = names.filter(|name| name != "PAGE").collect();
    names.join(" and ")
}

/// The standard library's messages about numbers, in plain words.
fn in_our_words(message: &str) -> String {
    match message {
        "invalid digit found in string" | "invalid float literal" => "expected a number".to_owned(),
        "cannot parse integer from empty string" | "cannot parse float from empty string" => {
            "expected a number, and there is nothing".to_owned()
        }
        "number too large to fit in target type" => "the number is too large".to_owned(),
        "number too small to fit in target type" => "expected a number from 0 on".to_owned(),
        other => other.to_owned(),
    }
}
