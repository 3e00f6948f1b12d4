//! What a command's own description says of how it is called.

use clap::Command;

/// The command's line: `fingerpost why [PAGE] ELEMENT PROPERTY`.
pub fn usage(command: &Command) -> String {
    let mut line = command
        .get_bin_name()
        .unwrap_or(command.get_name())
        .to_owned();
    for argument in command.get_positionals() {
        let names = argument.get_value_names().unwrap_or_default();
        let name = names.first().map_or_else(
            || argument.get_id().as_str().to_uppercase(),
            ToString::to_string,
        );
        let needed = argument.is_required_set() && argument.get_id() != "page";
        let many = match argument.get_action() {
            clap::ArgAction::Append => "...",
            _ => "",
        };
        line.push_str(&match needed {
            true => format!(" {name}{many}"),
            false => format!(" [{name}{many}]"),
        });
    }
    let is_required =
        |argument: &&clap::Arg| !argument.is_positional() && argument.is_required_set();
    let of = |argument: &clap::Arg| {
        let names = argument.get_value_names().unwrap_or_default();
        let name = names.first().map(ToString::to_string).unwrap_or_default();
        format!("--{} {name}", argument.get_long().unwrap_or_default())
    };
    for argument in command.get_arguments().filter(is_required) {
        line.push_str(&format!(" {}", of(argument)));
    }
    for group in command.get_groups().filter(|group| group.is_required_set()) {
        let named = group.get_args().filter_map(|id| {
            let mut all = command.get_arguments();
            all.find(|argument| argument.get_id() == id)
        });
        let choices: Vec<String> = named.map(of).collect();
        line.push_str(&format!(" {}", choices.join("|")));
    }
    if command.has_subcommands() {
        line.push_str(match command.is_subcommand_required_set() {
            true => " COMMAND",
            false => " [COMMAND]",
        });
    }
    line
}

/// How many words a command needs besides the page.
pub fn needed(command: &Command) -> usize {
    let all = command.get_positionals();
    all.filter(|argument| argument.is_required_set() && argument.get_id() != "page")
        .count()
}

/// The first example of a command's help: a whole line that works.
pub fn example(command: &Command) -> Option<String> {
    let after = command.get_after_help()?.to_string();
    let line = after
        .lines()
        .find(|line| line.trim_start().starts_with("fingerpost "))?;
    Some(line.trim().to_owned())
}

/// The command that a misspelt one may mean, or the one inside another that it names: `edit set` for `sets`.
pub fn nearest_command(typed: &str, command: &Command) -> Option<String> {
    const FARTHEST: usize = 2;
    let own = command
        .get_subcommands()
        .map(|inner| (inner.get_name(), ""));
    let inner = command.get_subcommands().flat_map(|outer| {
        let names = outer.get_subcommands().map(Command::get_name);
        names.map(move |name| (name, outer.get_name()))
    });
    let near = own
        .chain(inner)
        .map(|(name, outer)| (strsim::damerau_levenshtein(name, typed), outer, name));
    let (distance, outer, name) = near.min()?;
    let whole = format!("{outer} {name}");
    (distance <= FARTHEST && distance < typed.len()).then(|| whole.trim_start().to_owned())
}
