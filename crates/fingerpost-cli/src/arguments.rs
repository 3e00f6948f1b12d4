//! What can be asked on the command line.

mod asking;
mod edit;
mod fields;
mod lead;
mod line;
mod usage;
mod word_kinds;
mod words;

use std::path::PathBuf;

use clap::{Args, ColorChoice, Parser, Subcommand};
use fingerpost::environment::{Environment, Viewport};
use fingerpost::selector::{SelectorList, State, UnknownState};

pub use asking::AskCommand;
pub use edit::EditCommand;
pub use line::{edit_line, question_line, quoted};
pub use usage::{example, nearest_command, usage};
pub use words::understood;

/// Why does this element look like this? Fingerpost answers from a site theme's own sources, tries changes, and saves
/// the smallest possible edit.
#[derive(Debug, Parser)]
#[command(
    name = "fingerpost",
    version,
    max_term_width = 100,
    disable_help_subcommand = true
)]
pub struct Arguments {
    #[command(subcommand)]
    pub command: Command,

    /// Answer as JSON (docs/json.md)
    #[arg(long, global = true)]
    pub json: bool,

    /// Colors: auto (on a terminal that has them), always or never
    #[arg(
        long,
        global = true,
        value_name = "WHEN",
        default_value = "auto",
        hide_short_help = true
    )]
    pub color: ColorChoice,

    /// Print the answer alone, without notes
    #[arg(
        long,
        short,
        global = true,
        hide_short_help = true,
        conflicts_with = "verbose"
    )]
    pub quiet: bool,

    /// Say first which site, page and sheets the answer comes from
    #[arg(long, short, global = true, hide_short_help = true)]
    pub verbose: bool,

    /// Print a long answer at once, without a pager
    #[arg(long, global = true, hide_short_help = true)]
    pub no_pager: bool,

    /// A folder of the site, for commands without a page and for pages given by URL; default: the
    /// current folder
    #[arg(long, global = true, value_name = "FOLDER")]
    pub site: Option<PathBuf>,

    #[command(flatten)]
    pub server: ServerOptions,
}

/// The heading over the options for the server of a page by URL.
const SERVER: &str = "Server of a page by URL";

/// What the server of a page by URL needs to answer.
#[derive(Clone, Debug, Args)]
pub struct ServerOptions {
    /// A header to send, such as "Authorization: Bearer …"; only the server of the page gets it
    #[arg(long = "header", global = true, hide_short_help = true, help_heading = SERVER, value_name = "NAME: VALUE")]
    pub headers: Vec<String>,

    /// A PEM file with a certificate to trust for https
    #[arg(long = "ca", global = true, hide_short_help = true, help_heading = SERVER, value_name = "FILE")]
    pub authority: Option<PathBuf>,
}

/// The heading over the options of the environment.
const ENVIRONMENT: &str = "Environment";

/// The environment that is assumed for a page.
#[derive(Clone, Debug, Args)]
pub struct EnvironmentOptions {
    /// The viewport's size in CSS px, such as 480x800
    #[arg(long, global = true, hide_short_help = true, help_heading = ENVIRONMENT, value_name = "WIDTHxHEIGHT", default_value = "1280x800", value_parser = viewport)]
    pub viewport: (f64, f64),

    /// The medium
    #[arg(long, global = true, hide_short_help = true, help_heading = ENVIRONMENT, value_name = "MEDIUM", default_value = "screen", value_parser = ["screen", "print"])]
    pub media: String,

    /// A user preference, such as color-scheme=dark or reduced-motion=reduce
    #[arg(long, global = true, hide_short_help = true, help_heading = ENVIRONMENT, value_name = "FEATURE=VALUE", value_parser = preference)]
    pub prefers: Vec<(String, String)>,

    /// Device pixels for each CSS px
    #[arg(long, global = true, hide_short_help = true, help_heading = ENVIRONMENT, value_name = "NUMBER", default_value_t = 1.0)]
    pub resolution: f64,

    /// The size of a container in CSS px, for @container, such as ".fares=420x300"
    #[arg(long, global = true, hide_short_help = true, help_heading = ENVIRONMENT, value_name = "SELECTOR=WIDTHxHEIGHT", value_parser = container_size)]
    pub container_size: Vec<(String, (f64, f64))>,

    /// States of the element you ask about, such as :hover,:focus-within
    #[arg(long = "state", global = true, hide_short_help = true, help_heading = ENVIRONMENT, value_name = "STATES", value_delimiter = ',', value_parser = state)]
    pub states: Vec<State>,

    /// A state of other elements, such as details=:open
    #[arg(long, global = true, hide_short_help = true, help_heading = ENVIRONMENT, value_name = "SELECTOR=STATE", value_parser = state_of_others)]
    pub state_of: Vec<(String, State)>,

    /// A user style sheet (the user origin); - reads it from standard input
    #[arg(long, global = true, hide_short_help = true, help_heading = ENVIRONMENT, value_name = "FILE")]
    pub user_sheet: Option<PathBuf>,
}

/// A page, and the environment that is assumed for it.
#[derive(Clone, Debug, Args)]
pub struct OnPage {
    /// A page of the site: a file, or a URL; default: the page you used last
    pub page: PathBuf,
    #[command(flatten)]
    pub environment: EnvironmentOptions,
}

/// An element of a page.
#[derive(Clone, Debug, Args)]
pub struct Subject {
    #[command(flatten)]
    pub on: OnPage,
    /// An element: a selector, a text in its own quotation marks ('"Sailings today"'), a place such as
    /// pages/home.html:38 or 38, a number such as @12, or @ for the element you used last
    pub element: String,
    /// Treat ELEMENT as text, not as a selector
    #[arg(long = "text")]
    pub as_text: bool,
}

/// What the desk is opened with.
#[derive(Clone, Debug, Args)]
pub struct DeskArguments {
    /// A site's folder, one of its pages, or a page's URL on a running server; default: the current folder
    #[arg(value_name = "SITE|PAGE|URL")]
    pub place: Option<PathBuf>,

    /// Open it on a fresh copy of the demo theme
    #[arg(long, conflicts_with = "place")]
    pub demo: bool,

    /// Print the address without opening a browser
    #[arg(long)]
    pub no_open: bool,

    /// Refuse everything that would change the draft or a file
    #[arg(long)]
    pub read_only: bool,

    /// The desk's port; the next port serves the page. Default: any free ports
    #[arg(long, value_name = "NUMBER")]
    pub port: Option<u16>,
}

#[derive(Debug, Subcommand)]
pub enum Command {
    /// A question
    #[command(flatten)]
    Ask(AskCommand),

    /// Try a change: it is added to the draft, and no file is written
    #[command(
        after_help = "Example:\n  fingerpost edit set pages/home.html h2.today color \"var(--rust)\""
    )]
    #[command(args_conflicts_with_subcommands = true, arg_required_else_help = true)]
    Edit {
        #[command(subcommand)]
        edit: Option<EditCommand>,
        /// Try every edit of a script (docs/edits.md), all or none; - reads it from standard input
        #[arg(long, value_name = "FILE")]
        script: Option<PathBuf>,
        #[command(flatten)]
        environment: EnvironmentOptions,
    },

    /// Show the draft: the changes tried and not yet saved; or change it
    #[command(after_help = "Examples:\n  fingerpost draft\n  fingerpost draft off 2")]
    Draft {
        #[command(subcommand)]
        draft: Option<DraftCommand>,
    },

    /// Write a rule, the changed declarations, or an element's source to standard output
    #[command(
        after_help = "Examples:\n  fingerpost extract rule pages/home.html css/skerry.css:255\n  fingerpost extract changes >> css/overrides.css\n  fingerpost extract element pages/home.html .hero"
    )]
    Extract {
        #[command(subcommand)]
        extract: ExtractCommand,
    },

    /// Write the draft into the source files
    #[command(
        after_help = "Examples:\n  fingerpost save\n  fingerpost save 2 5\n  fingerpost save --file css/skerry.css\n  fingerpost save --patch change.patch"
    )]
    Save {
        /// Save only these changes, by number
        numbers: Vec<u32>,
        /// Save only the changes of this file
        #[arg(long, value_name = "FILE", conflicts_with = "numbers")]
        file: Vec<String>,
        /// Write a patch for `git apply` to a new file (- for standard output); the sources stay as they are
        #[arg(long, value_name = "FILE")]
        patch: Option<PathBuf>,
    },

    /// Undo the last save
    #[command(after_help = "Example:\n  fingerpost unsave")]
    Unsave,

    /// Finish an interrupted save, or forget it
    #[command(after_help = "Examples:\n  fingerpost recover\n  fingerpost recover --leave")]
    Recover {
        /// Leave every file as it is on disk, and forget the interrupted save
        #[arg(long)]
        leave: bool,
    },

    /// Open the desk: the live page in your browser, with find, why, try and save
    #[command(after_help = "Example:\n  fingerpost desk pages/home.html")]
    Desk(DeskArguments),

    /// A guided tour on a copy of the demo theme
    #[command(after_help = "Example:\n  fingerpost demo --folder /tmp/skerry")]
    Demo {
        /// An empty or new folder for the copy; default: a temporary one
        #[arg(long, value_name = "FOLDER")]
        folder: Option<PathBuf>,
    },

    /// Write a fingerpost.toml from what a theme's folder contains
    #[command(after_help = "Example:\n  fingerpost init")]
    Init {
        /// The theme's folder; default: the current one
        folder: Option<PathBuf>,
    },

    /// Print completions for a shell
    #[command(after_help = "Example:\n  fingerpost completions bash > fingerpost.bash")]
    Completions {
        /// The shell
        shell: clap_complete::Shell,
    },

    /// Print the JSON Schema of an answer
    #[command(
        after_help = "Examples:\n  fingerpost schema\n  fingerpost schema why\n  fingerpost schema suggest class"
    )]
    Schema {
        /// The answer's name; default: list all names
        answer: Vec<String>,
    },

    /// Print the manual page of a command, or write all of them
    #[command(
        after_help = "Examples:\n  fingerpost man why\n  fingerpost man --folder ~/.local/share/man/man1"
    )]
    Man {
        /// The command; default: the program
        #[arg(conflicts_with = "folder")]
        command: Vec<String>,
        /// Write the pages of all commands into this folder
        #[arg(long, value_name = "FOLDER")]
        folder: Option<PathBuf>,
    },
}

#[derive(Debug, Subcommand)]
pub enum ExtractCommand {
    /// Print a rule by its place, or every rule of the site that matches an element
    Rule {
        #[command(flatten)]
        on: OnPage,
        /// The place of a rule (FILE:LINE), or an element
        what: String,
    },

    /// Print the declarations that the draft changes, each under its rule's selector
    Changes {
        #[command(flatten)]
        environment: EnvironmentOptions,
    },

    /// Print an element's source
    Element {
        #[command(flatten)]
        subject: Subject,
    },

    /// Print the source of an element's contents
    Contents {
        #[command(flatten)]
        subject: Subject,
    },
}

#[derive(Debug, Subcommand)]
pub enum DraftCommand {
    /// Discard a change, or the whole draft
    #[command(
        after_help = "Examples:\n  fingerpost draft discard 2\n  fingerpost draft discard --all"
    )]
    Discard {
        /// The change's number
        #[arg(
            value_name = "NUMBER",
            required_unless_present = "all",
            conflicts_with = "all"
        )]
        number: Option<u32>,
        /// Discard all changes; `draft undo` restores them
        #[arg(long)]
        all: bool,
    },

    /// Switch a change off: it stays in the draft and counts for nothing
    #[command(after_help = "Example:\n  fingerpost draft off 2")]
    Off {
        /// The change's number, as `draft` shows it
        number: u32,
    },

    /// Switch a change on
    #[command(after_help = "Example:\n  fingerpost draft on 2")]
    On {
        /// The change's number, as `draft` shows it
        number: u32,
    },

    /// Make a change again for another element or rule
    #[command(after_help = "Example:\n  fingerpost draft retarget 2 \".panel .today\"")]
    Retarget {
        /// The change's number
        number: u32,
        /// The element, or the place of the rule
        to: String,
        #[command(flatten)]
        environment: EnvironmentOptions,
    },

    /// Make a conflicting change again on the file as it is now; without a number, carry the whole draft over
    #[command(after_help = "Examples:\n  fingerpost draft reapply\n  fingerpost draft reapply 2")]
    Reapply {
        /// The change's number
        number: Option<u32>,
    },

    /// Undo the last step of the draft
    Undo,

    /// Redo the last step that was undone
    Redo,
}

impl Command {
    /// The environment that it asks in; none where it asks no page.
    pub fn environment(&self) -> Option<&EnvironmentOptions> {
        Some(match self {
            Command::Ask(ask) => &ask.environment,
            Command::Edit { environment, .. } => environment,
            Command::Draft {
                draft: Some(DraftCommand::Retarget { environment, .. }),
            } => environment,
            Command::Extract { extract } => match extract {
                ExtractCommand::Rule { on, .. } => &on.environment,
                ExtractCommand::Changes { environment } => environment,
                ExtractCommand::Element { subject } | ExtractCommand::Contents { subject } => {
                    &subject.on.environment
                }
            },
            _ => return None,
        })
    }
}

fn viewport(text: &str) -> Result<(f64, f64), String> {
    // A width alone leaves the height as it usually is.
    let with_height = format!("{text}x{}", Environment::default().viewport.height);
    let size = text
        .parse::<Viewport>()
        .or_else(|_| with_height.parse::<Viewport>());
    size.map(|size| (size.width, size.height))
        .map_err(|_| "expected a width and a height in px, such as 480x800".to_owned())
}

fn container_size(text: &str) -> Result<(String, (f64, f64)), String> {
    let (selector, size) = text
        .rsplit_once('=')
        .ok_or_else(|| "expected a selector and a size, such as .fares=420x300".to_owned())?;
    SelectorList::parse(selector).map_err(|error| format!("'{selector}': {error}"))?;
    Ok((selector.to_owned(), viewport(size)?))
}

fn state(text: &str) -> Result<State, String> {
    text.parse()
        .map_err(|error: UnknownState| error.to_string())
}

fn state_of_others(text: &str) -> Result<(String, State), String> {
    let pair = text.rsplit_once('=');
    let (selector, named) =
        pair.ok_or_else(|| "expected a selector and a state, such as details=:open".to_owned())?;
    Ok((selector.to_owned(), state(named)?))
}

fn preference(text: &str) -> Result<(String, String), String> {
    let known = fingerpost::environment::feature(text).map_err(|error| error.to_string());
    known.map(|(name, value)| (name.to_owned(), value.to_owned()))
}

impl Default for EnvironmentOptions {
    fn default() -> EnvironmentOptions {
        let usual = Environment::default();
        EnvironmentOptions {
            viewport: (usual.viewport.width, usual.viewport.height),
            media: usual.media,
            prefers: Vec::new(),
            resolution: usual.resolution,
            container_size: Vec::new(),
            states: Vec::new(),
            state_of: Vec::new(),
            user_sheet: None,
        }
    }
}

#[cfg(test)]
mod tests {
    use clap::CommandFactory;

    /// The parser of arguments checks its own description of every command; without this it does so
    /// only when the command is used.
    #[test]
    fn every_command_is_described_without_contradiction() {
        super::Arguments::command().debug_assert();
    }
}
