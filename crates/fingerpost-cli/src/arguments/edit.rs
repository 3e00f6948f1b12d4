//! The kinds of edit on the command line, each turned into an intent.

use std::path::{Path, PathBuf};

use clap::{Args, Subcommand};
use fingerpost::edit::{Change, Destination, Intent, SelectorChange, Side};

/// One element of a page, or all that are found.
#[derive(Clone, Debug, Args)]
pub struct Aim {
    /// A page of the site: a file, or a URL
    pub page: PathBuf,
    /// An element: a selector, "text=…", a place such as pages/home.html:38, or index=12
    pub element: String,
    /// Every element that is found
    #[arg(long)]
    pub all: bool,
}

/// Which rule, or the style attribute.
#[derive(Clone, Debug, Args)]
pub struct Holder {
    /// The rule, by its place
    #[arg(long = "in", value_name = "FILE:LINE", conflicts_with_all = ["here", "into"])]
    pub rule: Option<String>,
    /// In the element's own style attribute
    #[arg(long, conflicts_with = "into")]
    pub here: bool,
    /// Where the change goes: place, embedded, custom, or a sheet of the page
    #[arg(long, value_name = "WHERE", value_parser = destination)]
    pub into: Option<Destination>,
}

#[derive(Debug, Subcommand)]
pub enum EditCommand {
    /// Give a property a new value: in its winning declaration, a rule, or elsewhere
    #[command(
        after_help = "Examples:\n  fingerpost edit set pages/home.html h2.today color \"var(--rust)\"\n  fingerpost edit set pages/home.html h2.today color navy --into custom"
    )]
    Set {
        #[command(flatten)]
        aim: Aim,
        /// The property
        #[arg(allow_hyphen_values = true)]
        property: String,
        /// The new value
        #[arg(allow_hyphen_values = true)]
        value: String,
        #[command(flatten)]
        holder: Holder,
    },

    /// Make a value larger or smaller in its own unit
    #[command(
        after_help = "Examples:\n  fingerpost edit step pages/home.html h2.today font-size +.1\n  fingerpost edit step pages/home.html .sailings padding -4"
    )]
    Step {
        #[command(flatten)]
        aim: Aim,
        /// The property
        #[arg(allow_hyphen_values = true)]
        property: String,
        /// How much more or less, such as +1 or -0.1; + and - alone take a step that fits the unit,
        /// ++ and -- a large one
        #[arg(allow_hyphen_values = true)]
        by: String,
    },

    /// Add a declaration to a rule, as its others are written
    #[command(
        after_help = "Examples:\n  fingerpost edit add pages/home.html h2.today letter-spacing .02em\n  fingerpost edit add pages/home.html h2.today letter-spacing .02em --in css/custom.css:4"
    )]
    Add {
        #[command(flatten)]
        aim: Aim,
        /// The property
        #[arg(allow_hyphen_values = true)]
        property: String,
        /// Its value
        #[arg(allow_hyphen_values = true)]
        value: String,
        #[command(flatten)]
        holder: Holder,
    },

    /// Take the winning declaration of a property out
    #[command(after_help = "Example:\n  fingerpost edit remove pages/home.html h2.today color")]
    Remove {
        #[command(flatten)]
        aim: Aim,
        /// The property
        #[arg(allow_hyphen_values = true)]
        property: String,
    },

    /// Make the winning declaration of a property a comment
    #[command(after_help = "Example:\n  fingerpost edit off pages/home.html h2.today color")]
    Off {
        #[command(flatten)]
        aim: Aim,
        /// The property
        #[arg(allow_hyphen_values = true)]
        property: String,
    },

    /// Make a declaration that is a comment one again
    #[command(after_help = "Example:\n  fingerpost edit on pages/home.html h2.today color")]
    On {
        #[command(flatten)]
        aim: Aim,
        /// The property
        #[arg(allow_hyphen_values = true)]
        property: String,
    },

    /// Make the winning declaration one of another property
    #[command(
        after_help = "Example:\n  fingerpost edit rename pages/home.html .sailings padding-left padding-inline-start"
    )]
    Rename {
        #[command(flatten)]
        aim: Aim,
        /// The property
        #[arg(allow_hyphen_values = true)]
        property: String,
        /// The other one
        to: String,
    },

    /// Mark the winning declaration of a property !important, or take the mark off
    #[command(
        after_help = "Example:\n  fingerpost edit important pages/home.html .button background-color --off"
    )]
    Important {
        #[command(flatten)]
        aim: Aim,
        /// The property
        #[arg(allow_hyphen_values = true)]
        property: String,
        /// Take the mark off
        #[arg(long)]
        off: bool,
    },

    /// Write the colours of a value in another notation
    #[command(
        after_help = "Examples:\n  fingerpost edit notation pages/home.html :root --brass hsl\n  fingerpost edit notation pages/home.html .button background-color rgb --alpha .8"
    )]
    Notation {
        #[command(flatten)]
        aim: Aim,
        /// The property
        #[arg(allow_hyphen_values = true)]
        property: String,
        /// hex, rgb, hsl, hwb, lab, lch, oklab, oklch or name
        #[arg(value_parser = fingerpost::edit::NOTATIONS)]
        to: String,
        /// Another alpha, such as .5 or 50%
        #[arg(long, value_name = "ALPHA")]
        alpha: Option<String>,
    },

    /// Write a new rule for an element
    #[command(
        after_help = "Examples:\n  fingerpost edit rule pages/home.html h2.today \"color: navy; top: 0\"\n  fingerpost edit rule pages/home.html h2.today \"color: navy\" --selector \".panel .today\" --into custom"
    )]
    Rule {
        #[command(flatten)]
        aim: Aim,
        /// Its declarations
        declarations: String,
        /// Its selector; the shortest that wins without it (see `fingerpost selectors`)
        #[arg(long, value_name = "SELECTOR")]
        selector: Option<String>,
        /// Where the rule goes: place, embedded, custom, or a sheet of the page
        #[arg(long, value_name = "WHERE", value_parser = destination)]
        into: Option<Destination>,
    },

    /// Change the selectors of a rule
    #[command(
        after_help = "Examples:\n  fingerpost edit selector pages/home.html css/skerry.css:120 --to .today\n  fingerpost edit selector pages/home.html css/skerry.css:120 --add .tomorrow"
    )]
    Selector {
        /// A page of the site: a file, or a URL
        page: PathBuf,
        /// The rule, by its place
        #[arg(value_name = "FILE:LINE")]
        rule: String,
        #[command(flatten)]
        how: How,
    },

    /// Move a rule before or after another one
    #[command(
        after_help = "Example:\n  fingerpost edit move-rule pages/home.html css/skerry.css:120 --after css/skerry.css:140"
    )]
    MoveRule {
        /// A page of the site: a file, or a URL
        page: PathBuf,
        /// The rule, by its place
        #[arg(value_name = "FILE:LINE")]
        rule: String,
        /// Before this rule
        #[arg(
            long,
            value_name = "FILE:LINE",
            required_unless_present = "after",
            conflicts_with = "after"
        )]
        before: Option<String>,
        /// After this rule
        #[arg(long, value_name = "FILE:LINE")]
        after: Option<String>,
    },

    /// Give a custom property a new value where it is defined
    #[command(
        after_help = "Example:\n  fingerpost edit variable pages/home.html --brass \"#c0902f\""
    )]
    Variable {
        /// A page of the site: a file, or a URL
        page: PathBuf,
        /// The custom property
        #[arg(allow_hyphen_values = true)]
        name: String,
        /// The new value
        #[arg(allow_hyphen_values = true)]
        value: String,
        /// The element for which it is looked up; the root element without it
        #[arg(long, value_name = "ELEMENT")]
        of: Option<String>,
    },

    /// Set an attribute of an element, or take it off
    #[command(
        after_help = "Examples:\n  fingerpost edit attribute pages/home.html .hero data-season winter\n  fingerpost edit attribute pages/home.html .hero hidden --off"
    )]
    Attribute {
        #[command(flatten)]
        aim: Aim,
        /// The attribute's name
        name: String,
        /// Its value; an empty one without it
        #[arg(allow_hyphen_values = true)]
        value: Option<String>,
        /// Take the attribute off
        #[arg(long, conflicts_with = "value")]
        off: bool,
    },

    /// Add classes to an element, or take some off
    #[command(
        after_help = "Example:\n  fingerpost edit class pages/home.html h2.today +wide -today"
    )]
    Class {
        #[command(flatten)]
        aim: Aim,
        /// +name to add one, -name to take one off
        #[arg(
            required = true,
            allow_hyphen_values = true,
            value_name = "+NAME|-NAME"
        )]
        changes: Vec<String>,
    },

    /// Give an element another text
    #[command(
        after_help = "Example:\n  fingerpost edit text pages/home.html h2.today \"Sailing today\""
    )]
    Text {
        #[command(flatten)]
        aim: Aim,
        /// The text
        text: String,
        /// Which of its texts, where the element holds others too
        #[arg(long, value_name = "TEXT")]
        from: Option<String>,
    },

    /// Give an element another name, in both its tags
    #[command(after_help = "Example:\n  fingerpost edit tag pages/home.html h2.today p")]
    Tag {
        #[command(flatten)]
        aim: Aim,
        /// The name
        name: String,
    },

    /// Rewrite the source of an element
    #[command(
        after_help = "Example:\n  fingerpost edit markup pages/home.html h2.today \"Sailing <em>today</em>\" --inner"
    )]
    Markup {
        #[command(flatten)]
        aim: Aim,
        /// The source; - reads it from standard input
        source: String,
        /// Only what it holds, not its own tags
        #[arg(long)]
        inner: bool,
    },

    /// Put markup beside an element or into it
    #[command(
        after_help = "Example:\n  fingerpost edit insert pages/home.html h2.today \"<p>Mind the swell.</p>\" --side after"
    )]
    Insert {
        #[command(flatten)]
        aim: Aim,
        /// The markup; - reads it from standard input
        source: String,
        /// before or after the element; first or last in it
        #[arg(long, value_parser = side, value_name = "SIDE")]
        side: Side,
    },

    /// Put an element there once more, right behind itself
    #[command(
        after_help = "Example:\n  fingerpost edit duplicate pages/home.html \".sailings li\" --all"
    )]
    Duplicate {
        #[command(flatten)]
        aim: Aim,
    },

    /// Move an element beside another one or into it
    #[command(
        after_help = "Example:\n  fingerpost edit move pages/home.html h2.today .hero --side last"
    )]
    Move {
        #[command(flatten)]
        aim: Aim,
        /// The other element
        to: String,
        /// before or after the other element; first or last in it
        #[arg(long, value_parser = side, value_name = "SIDE")]
        side: Side,
    },

    /// Take an element out, with all that it holds
    #[command(after_help = "Example:\n  fingerpost edit remove-element pages/home.html h2.today")]
    RemoveElement {
        #[command(flatten)]
        aim: Aim,
    },

    /// Put an element into a new one
    #[command(
        after_help = "Example:\n  fingerpost edit wrap pages/home.html h2.today '<div class=\"wide\">'"
    )]
    Wrap {
        #[command(flatten)]
        aim: Aim,
        /// The new element's start tag, or only its name
        tag: String,
    },

    /// Take an element's own tags out, and leave what it holds
    #[command(after_help = "Example:\n  fingerpost edit unwrap pages/home.html .hero")]
    Unwrap {
        #[command(flatten)]
        aim: Aim,
    },
}

/// How a rule's selectors change.
#[derive(Clone, Debug, Args)]
#[group(required = true, multiple = false)]
pub struct How {
    /// Other selectors
    #[arg(long, value_name = "SELECTORS")]
    to: Option<String>,
    /// One more
    #[arg(long, value_name = "SELECTOR")]
    add: Option<String>,
    /// One less
    #[arg(long, value_name = "SELECTOR")]
    drop: Option<String>,
}

/// Whether a change of classes is an option that stands behind them.
fn is_option(change: &str) -> bool {
    change == "--all" || change == "--json"
}

fn destination(text: &str) -> Result<Destination, String> {
    Ok(match text {
        "place" => Destination::Place,
        "embedded" => Destination::Embedded,
        "custom" => Destination::Custom,
        sheet if sheet.ends_with(".css") => Destination::Sheet(sheet.to_owned()),
        _ => {
            return Err(
                "expected place, embedded, custom, or a sheet such as css/custom.css".to_owned(),
            );
        }
    })
}

fn side(text: &str) -> Result<Side, String> {
    Ok(match text {
        "before" => Side::Before,
        "after" => Side::After,
        "first" => Side::First,
        "last" => Side::Last,
        _ => return Err("expected before, after, first or last".to_owned()),
    })
}

impl EditCommand {
    /// The page that it is about.
    pub fn page(&self) -> &Path {
        match self {
            EditCommand::Selector { page, .. }
            | EditCommand::MoveRule { page, .. }
            | EditCommand::Variable { page, .. } => page,
            other => &other.aim().expect("all others are about an element").page,
        }
    }

    fn aim(&self) -> Option<&Aim> {
        match self {
            EditCommand::Set { aim, .. }
            | EditCommand::Step { aim, .. }
            | EditCommand::Add { aim, .. }
            | EditCommand::Remove { aim, .. }
            | EditCommand::Off { aim, .. }
            | EditCommand::On { aim, .. }
            | EditCommand::Rename { aim, .. }
            | EditCommand::Important { aim, .. }
            | EditCommand::Notation { aim, .. }
            | EditCommand::Rule { aim, .. }
            | EditCommand::Attribute { aim, .. }
            | EditCommand::Class { aim, .. }
            | EditCommand::Text { aim, .. }
            | EditCommand::Tag { aim, .. }
            | EditCommand::Markup { aim, .. }
            | EditCommand::Insert { aim, .. }
            | EditCommand::Duplicate { aim }
            | EditCommand::Move { aim, .. }
            | EditCommand::RemoveElement { aim }
            | EditCommand::Wrap { aim, .. }
            | EditCommand::Unwrap { aim } => Some(aim),
            EditCommand::Selector { .. }
            | EditCommand::MoveRule { .. }
            | EditCommand::Variable { .. } => None,
        }
    }

    fn holder(&self) -> Option<&Holder> {
        match self {
            EditCommand::Set { holder, .. } | EditCommand::Add { holder, .. } => Some(holder),
            _ => None,
        }
    }

    /// What it asks for, on the page of that name.
    pub fn intent(&self, page: &str) -> Intent {
        let aim = self.aim();
        let element = match self {
            EditCommand::Variable { of, .. } => of.clone(),
            _ => aim.map(|a| a.element.clone()),
        };
        let into = match self {
            EditCommand::Rule { into, .. } => into.clone(),
            _ => self.holder().and_then(|h| h.into.clone()),
        };
        Intent {
            page: page.to_owned(),
            element,
            all: aim.is_some_and(|a| a.all) || self.has_late_option("--all"),
            into: into.unwrap_or_default(),
            change: self.change(),
        }
    }

    /// Whether an option stands behind the changes of classes, where it looks like a change.
    pub fn has_late_option(&self, option: &str) -> bool {
        match self {
            EditCommand::Class { changes, .. } => changes.iter().any(|c| c == option),
            _ => false,
        }
    }

    fn change(&self) -> Change {
        match self {
            EditCommand::Set {
                property,
                value,
                holder,
                ..
            } => Change::Set {
                property: property.clone(),
                value: value.clone(),
                rule: holder.rule.clone(),
                here: holder.here,
            },
            EditCommand::Step { property, by, .. } => Change::Step {
                property: property.clone(),
                by: by.clone(),
            },
            EditCommand::Add {
                property,
                value,
                holder,
                ..
            } => Change::Add {
                property: property.clone(),
                value: value.clone(),
                rule: holder.rule.clone(),
                here: holder.here,
            },
            EditCommand::Remove { property, .. } => Change::Remove {
                property: property.clone(),
            },
            EditCommand::Off { property, .. } => Change::Off {
                property: property.clone(),
            },
            EditCommand::On { property, .. } => Change::On {
                property: property.clone(),
            },
            EditCommand::Rename { property, to, .. } => Change::Rename {
                property: property.clone(),
                to: to.clone(),
            },
            EditCommand::Important { property, off, .. } => Change::Important {
                property: property.clone(),
                on: !off,
            },
            EditCommand::Notation {
                property,
                to,
                alpha,
                ..
            } => Change::Notation {
                property: property.clone(),
                to: to.clone(),
                alpha: alpha.clone(),
            },
            EditCommand::Rule {
                declarations,
                selector,
                ..
            } => Change::Rule {
                selector: selector.clone(),
                declarations: declarations.clone(),
            },
            EditCommand::Selector { rule, how, .. } => Change::Selector {
                rule: rule.clone(),
                how: match how {
                    How { to: Some(to), .. } => SelectorChange::To(to.clone()),
                    How { add: Some(add), .. } => SelectorChange::Add(add.clone()),
                    How { drop, .. } => SelectorChange::Drop(drop.clone().unwrap_or_default()),
                },
            },
            EditCommand::MoveRule {
                rule,
                before,
                after,
                ..
            } => Change::MoveRule {
                rule: rule.clone(),
                side: if before.is_some() {
                    Side::Before
                } else {
                    Side::After
                },
                other: before.clone().or(after.clone()).unwrap_or_default(),
            },
            EditCommand::Variable { name, value, .. } => Change::Variable {
                name: name.clone(),
                value: value.clone(),
            },
            EditCommand::Attribute {
                name, value, off, ..
            } => Change::Attribute {
                name: name.clone(),
                value: (!off).then(|| value.clone().unwrap_or_default()),
            },
            EditCommand::Class { changes, .. } => Change::Class {
                changes: changes.iter().filter(|c| !is_option(c)).cloned().collect(),
            },
            EditCommand::Text { text, from, .. } => Change::Text {
                text: text.clone(),
                from: from.clone(),
            },
            EditCommand::Tag { name, .. } => Change::Tag { name: name.clone() },
            EditCommand::Markup { source, inner, .. } => Change::Markup {
                source: source.clone(),
                inner: *inner,
            },
            EditCommand::Insert { source, side, .. } => Change::Insert {
                source: source.clone(),
                side: *side,
            },
            EditCommand::Duplicate { .. } => Change::Duplicate,
            EditCommand::Move { to, side, .. } => Change::Move {
                to: to.clone(),
                side: *side,
            },
            EditCommand::RemoveElement { .. } => Change::RemoveElement,
            EditCommand::Wrap { tag, .. } => Change::Wrap { tag: tag.clone() },
            EditCommand::Unwrap { .. } => Change::Unwrap,
        }
    }
}
