//! The kinds of edit on the command line, each turned into an intent.

use std::path::{Path, PathBuf};

use clap::{Args, Subcommand};
use fingerpost::edit::kinds::{self, Named, SelectorChange};
use fingerpost::edit::{Change, Intent, Pages, Side, Where};
use fingerpost::question::find::ElementQuery;
use fingerpost::text::SitePath;

/// One element of a page, or all that are found.
#[derive(Clone, Debug, Args)]
pub struct Aim {
    /// A page of the site: a file, or a URL; the one asked about last without it
    pub page: PathBuf,
    /// An element: a selector, a text in quotation marks of its own ('"Sailings today"'), a place such as
    /// pages/home.html:38 or 38, a number such as @12, or @ for the element asked about last; - for none where --in
    /// names a rule
    pub element: String,
    /// Take the element's word for a text, whatever it looks like
    #[arg(long = "text")]
    pub as_text: bool,
    /// Change each element that is found
    #[arg(long)]
    pub each: bool,
    #[command(flatten)]
    pub on: OtherPages,
}

/// On which pages besides the one that is named.
#[derive(Clone, Debug, Default, Args)]
pub struct OtherPages {
    /// On every page of the site that has such an element
    #[arg(long, conflicts_with = "on")]
    pub every_page: bool,
    /// On this page as well; may be given several times
    #[arg(long, value_name = "PAGE")]
    pub on: Vec<String>,
}

impl OtherPages {
    fn pages(&self) -> Pages {
        match (self.every_page, &self.on[..]) {
            (true, _) => Pages::Every,
            (false, []) => Pages::This,
            (false, on) => Pages::Also(on.to_vec()),
        }
    }
}

/// Which rule, or the style attribute.
#[derive(Clone, Debug, Args)]
pub struct Holder {
    /// The rule, by its place: FILE:LINE, or FILE:LINE:COLUMN
    #[arg(long = "in", value_name = "FILE:LINE", conflicts_with_all = ["here", "into"])]
    pub rule: Option<String>,
    /// In the element's own style attribute
    #[arg(long, conflicts_with = "into")]
    pub here: bool,
    /// Where the change goes: place, served, embedded, custom, or a sheet of the site
    #[arg(long, value_name = "WHERE", value_parser = destination)]
    pub into: Option<Where>,
}

impl Holder {
    fn place(&self) -> Where {
        match (&self.rule, self.here, &self.into) {
            (Some(rule), _, _) => Where::At(rule.clone()),
            (None, true, _) => Where::Here,
            (None, false, into) => into.clone().unwrap_or_default(),
        }
    }
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
        #[command(flatten)]
        holder: Holder,
    },

    /// Add a declaration to a rule, as its others are written
    #[command(
        after_help = "Examples:\n  fingerpost edit add pages/home.html h2.today letter-spacing .02em\n  fingerpost edit add pages/home.html h2.today letter-spacing .02em --in css/skerry.css:255"
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
    #[command(
        after_help = "Example:\n  fingerpost edit remove-declaration pages/home.html h2.today color"
    )]
    RemoveDeclaration {
        #[command(flatten)]
        aim: Aim,
        /// The property
        #[arg(allow_hyphen_values = true)]
        property: String,
        #[command(flatten)]
        holder: Holder,
    },

    /// Make the winning declaration of a property a comment
    #[command(after_help = "Example:\n  fingerpost edit disable pages/home.html h2.today color")]
    Disable {
        #[command(flatten)]
        aim: Aim,
        /// The property
        #[arg(allow_hyphen_values = true)]
        property: String,
        #[command(flatten)]
        holder: Holder,
    },

    /// Make a comment that is a declaration one again
    #[command(after_help = "Example:\n  fingerpost edit enable pages/home.html h2.today color")]
    Enable {
        #[command(flatten)]
        aim: Aim,
        /// The property
        #[arg(allow_hyphen_values = true)]
        property: String,
        #[command(flatten)]
        holder: Holder,
    },

    /// Make the winning declaration one of another property
    #[command(
        after_help = "Example:\n  fingerpost edit change-property pages/home.html .hero margin-bottom margin-block-end"
    )]
    ChangeProperty {
        #[command(flatten)]
        aim: Aim,
        /// The property
        #[arg(allow_hyphen_values = true)]
        property: String,
        /// The other one
        to: String,
        #[command(flatten)]
        holder: Holder,
    },

    /// Mark the winning declaration of a property !important, or take the mark off
    #[command(
        after_help = "Example:\n  fingerpost edit important pages/home.html .button-quiet background-color --remove"
    )]
    Important {
        #[command(flatten)]
        aim: Aim,
        /// The property
        #[arg(allow_hyphen_values = true)]
        property: String,
        /// Take the mark off
        #[arg(long)]
        remove: bool,
        #[command(flatten)]
        holder: Holder,
    },

    /// Write the colors of a value in another notation
    #[command(
        after_help = "Examples:\n  fingerpost edit convert-color pages/home.html :root --brass hsl\n  fingerpost edit convert-color pages/home.html .note color rgb --alpha .8"
    )]
    ConvertColor {
        #[command(flatten)]
        aim: Aim,
        /// The property
        #[arg(allow_hyphen_values = true)]
        property: String,
        /// hex, rgb, hsl, hwb, lab, lch, oklab, oklch or name
        #[arg(value_parser = kinds::NOTATIONS)]
        to: String,
        /// Another alpha, such as .5 or 50%
        #[arg(long, value_name = "ALPHA")]
        alpha: Option<String>,
        #[command(flatten)]
        holder: Holder,
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
        /// Its selector; the shortest that wins without it (see `fingerpost suggest selector`)
        #[arg(long, value_name = "SELECTOR")]
        selector: Option<String>,
        /// Where the rule goes: place, embedded, custom, or a sheet of the page
        #[arg(long, value_name = "WHERE", value_parser = destination)]
        into: Option<Where>,
    },

    /// Change the selectors of a rule
    #[command(
        after_help = "Examples:\n  fingerpost edit selector pages/home.html css/skerry.css:255 --to \".panel .today\"\n  fingerpost edit selector pages/home.html css/skerry.css:255 --add .tomorrow"
    )]
    Selector {
        /// A page of the site: a file, or a URL; the one asked about last without it
        page: PathBuf,
        /// The rule, by its place
        #[arg(value_name = "FILE:LINE")]
        rule: String,
        #[command(flatten)]
        how: How,
    },

    /// Move a rule before or after another one
    #[command(
        after_help = "Example:\n  fingerpost edit move-rule pages/home.html css/skerry.css:255 --after css/skerry.css:140"
    )]
    MoveRule {
        /// A page of the site: a file, or a URL; the one asked about last without it
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

    /// Give one selector of a list a rule of its own
    #[command(
        after_help = "Example:\n  fingerpost edit split pages/timetable.html css/skerry.css:351 \".timetable th\""
    )]
    Split {
        /// A page of the site: a file, or a URL; the one asked about last without it
        page: PathBuf,
        /// The rule, by its place
        #[arg(value_name = "FILE:LINE")]
        rule: String,
        /// The selector, as the list has it
        selector: String,
    },

    /// Take a rule out, with all that it holds
    #[command(
        after_help = "Example:\n  fingerpost edit remove-rule pages/home.html css/custom.css:14"
    )]
    RemoveRule {
        /// A page of the site: a file, or a URL; the one asked about last without it
        page: PathBuf,
        /// The rule, by its place
        #[arg(value_name = "FILE:LINE")]
        rule: String,
    },

    /// Give an at-rule another condition or name
    #[command(
        after_help = "Example:\n  fingerpost edit condition pages/home.html css/skerry.css:533 \"(max-width: 45rem)\""
    )]
    Condition {
        /// A page of the site: a file, or a URL; the one asked about last without it
        page: PathBuf,
        /// The at-rule, by its place
        #[arg(value_name = "FILE:LINE")]
        rule: String,
        /// What is to stand behind its keyword
        to: String,
    },

    /// Put a rule into a new @media, @supports, @container, @layer or @scope
    #[command(
        after_help = "Example:\n  fingerpost edit enclose pages/home.html css/skerry.css:255 \"@media (width >= 40em)\""
    )]
    Enclose {
        /// A page of the site: a file, or a URL; the one asked about last without it
        page: PathBuf,
        /// The rule, by its place
        #[arg(value_name = "FILE:LINE")]
        rule: String,
        /// The head of the new at-rule
        within: String,
    },

    /// Add an at-rule, such as @keyframes or @font-face
    #[command(
        after_help = "Example:\n  fingerpost edit at-rule pages/home.html \"@keyframes fade { to { opacity: 0 } }\" --into custom"
    )]
    AtRule {
        /// A page of the site: a file, or a URL; the one asked about last without it
        page: PathBuf,
        /// Its source
        source: String,
        /// Where it goes: embedded, custom, or a sheet of the site; the page's last sheet without it
        #[arg(long, value_name = "WHERE", value_parser = destination)]
        into: Option<Where>,
    },

    /// Make a sheet and link it on the page, as the last or behind another one
    #[command(
        after_help = "Examples:\n  fingerpost edit new-sheet pages/home.html css/winter.css --every-page\n  fingerpost edit new-sheet pages/home.html css/winter.css --after css/base.css"
    )]
    NewSheet {
        /// A page of the site: a file; the one asked about last without it
        page: PathBuf,
        /// The new sheet's file, relative to the site's root; one that is there is only linked
        #[arg(value_name = "FILE.css", value_parser = in_site)]
        file: SitePath,
        /// What is in it
        #[arg(long, value_name = "CSS", default_value = "")]
        source: String,
        /// The sheet behind whose link it is linked
        #[arg(long, value_name = "FILE.css")]
        after: Option<String>,
        #[command(flatten)]
        on: OtherPages,
    },

    /// Give a class, an id or a custom property another name, everywhere in the site
    #[command(
        after_help = "Examples:\n  fingerpost edit rename pages/home.html class fare-best fare-cheapest\n  fingerpost edit rename pages/home.html property -- --brass --gold"
    )]
    Rename {
        /// A page of the site: a file; the one asked about last without it
        page: PathBuf,
        /// class, id or property
        #[arg(value_parser = named)]
        what: Named,
        /// Its name
        #[arg(allow_hyphen_values = true)]
        from: String,
        /// The other name
        #[arg(allow_hyphen_values = true)]
        to: String,
    },

    /// Give a custom property a new value where it is defined
    #[command(
        after_help = "Example:\n  fingerpost edit variable pages/home.html --brass \"#c0902f\""
    )]
    Variable {
        /// A page of the site: a file, or a URL; the one asked about last without it
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
        /// Where the change goes: place, served, embedded, custom, or a sheet of the site
        #[arg(long, value_name = "WHERE", value_parser = destination)]
        into: Option<Where>,
    },

    /// Set an attribute of an element, or take it off
    #[command(
        after_help = "Examples:\n  fingerpost edit attribute pages/home.html .hero data-season winter\n  fingerpost edit attribute pages/home.html .map-frame title --remove"
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
        remove: bool,
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
            value_name = "+NAME|-NAME",
            value_parser = class_change
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

    /// Put a copy of an element right behind it
    #[command(
        after_help = "Example:\n  fingerpost edit duplicate pages/home.html \".sailings li\" --each"
    )]
    Duplicate {
        #[command(flatten)]
        aim: Aim,
    },

    /// Move an element beside another one or into it
    #[command(
        after_help = "Example:\n  fingerpost edit move-element pages/home.html h2.today .hero --side last"
    )]
    MoveElement {
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
    /// One more selector
    #[arg(long, value_name = "SELECTOR")]
    add: Option<String>,
    /// One selector less
    #[arg(long, value_name = "SELECTOR")]
    remove: Option<String>,
}

fn class_change(text: &str) -> Result<String, String> {
    match text.strip_prefix(['+', '-']) {
        Some(name) if !name.starts_with('-') => Ok(text.to_owned()),
        _ => Err("expected +name to add a class or -name to take one off".to_owned()),
    }
}

fn destination(text: &str) -> Result<Where, String> {
    Ok(match text {
        "place" => Where::Place,
        "served" => Where::Served,
        "embedded" => Where::Embedded,
        "custom" => Where::Custom,
        sheet if sheet.ends_with(".css") => Where::Sheet(in_site(sheet)?),
        _ => {
            return Err(
                "expected place, served, embedded, custom, or a sheet such as css/custom.css"
                    .to_owned(),
            );
        }
    })
}

fn in_site(text: &str) -> Result<SitePath, String> {
    SitePath::new(text).map_err(|error| error.to_string())
}

fn named(text: &str) -> Result<Named, String> {
    Ok(match text {
        "class" => Named::Class,
        "id" => Named::Id,
        "property" => Named::Property,
        _ => return Err("expected class, id or property".to_owned()),
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
            | EditCommand::Split { page, .. }
            | EditCommand::RemoveRule { page, .. }
            | EditCommand::Condition { page, .. }
            | EditCommand::Enclose { page, .. }
            | EditCommand::AtRule { page, .. }
            | EditCommand::NewSheet { page, .. }
            | EditCommand::Rename { page, .. }
            | EditCommand::Variable { page, .. } => page,
            other => &other.aim().expect("all others are about an element").page,
        }
    }

    fn aim(&self) -> Option<&Aim> {
        match self {
            EditCommand::Set { aim, .. }
            | EditCommand::Step { aim, .. }
            | EditCommand::Add { aim, .. }
            | EditCommand::RemoveDeclaration { aim, .. }
            | EditCommand::Disable { aim, .. }
            | EditCommand::Enable { aim, .. }
            | EditCommand::ChangeProperty { aim, .. }
            | EditCommand::Important { aim, .. }
            | EditCommand::ConvertColor { aim, .. }
            | EditCommand::Rule { aim, .. }
            | EditCommand::Attribute { aim, .. }
            | EditCommand::Class { aim, .. }
            | EditCommand::Text { aim, .. }
            | EditCommand::Tag { aim, .. }
            | EditCommand::Markup { aim, .. }
            | EditCommand::Insert { aim, .. }
            | EditCommand::Duplicate { aim }
            | EditCommand::MoveElement { aim, .. }
            | EditCommand::RemoveElement { aim }
            | EditCommand::Wrap { aim, .. }
            | EditCommand::Unwrap { aim } => Some(aim),
            _ => None,
        }
    }

    fn place(&self) -> Where {
        match self {
            EditCommand::Set { holder, .. }
            | EditCommand::Step { holder, .. }
            | EditCommand::Add { holder, .. }
            | EditCommand::RemoveDeclaration { holder, .. }
            | EditCommand::Disable { holder, .. }
            | EditCommand::Enable { holder, .. }
            | EditCommand::ChangeProperty { holder, .. }
            | EditCommand::Important { holder, .. }
            | EditCommand::ConvertColor { holder, .. } => holder.place(),
            EditCommand::Rule { into, .. }
            | EditCommand::Variable { into, .. }
            | EditCommand::AtRule { into, .. } => into.clone().unwrap_or_default(),
            _ => Where::Place,
        }
    }

    /// What it asks for, on the page of that name.
    pub fn intent(&self, page: &str) -> Intent {
        let aim = self.aim();
        let named = |aim: &Aim| match aim.as_text {
            true => ElementQuery::Text(aim.element.clone()).to_string(),
            false => aim.element.clone(),
        };
        let element = match self {
            EditCommand::Variable { of, .. } => of.clone(),
            _ => aim.map(named).filter(|element| element != "-"),
        };
        let pages = match self {
            EditCommand::NewSheet { on, .. } => on.pages(),
            _ => aim.map_or(Pages::This, |a| a.on.pages()),
        };
        Intent {
            page: page.to_owned(),
            element,
            each: aim.is_some_and(|a| a.each),
            pages,
            into: self.place(),
            change: self.change(),
        }
    }

    fn change(&self) -> Change {
        match self {
            EditCommand::Set {
                property, value, ..
            } => Change::set(property, value),
            EditCommand::Add {
                property, value, ..
            } => Change::add(property, value),
            EditCommand::Step { property, by, .. } => kinds::Step {
                property: property.clone(),
                by: by.clone(),
            }
            .into(),
            EditCommand::RemoveDeclaration { property, .. } => kinds::RemoveDeclaration {
                property: property.clone(),
            }
            .into(),
            EditCommand::Disable { property, .. } => kinds::Disable {
                property: property.clone(),
            }
            .into(),
            EditCommand::Enable { property, .. } => kinds::Enable {
                property: property.clone(),
            }
            .into(),
            EditCommand::ChangeProperty { property, to, .. } => kinds::ChangeProperty {
                property: property.clone(),
                to: to.clone(),
            }
            .into(),
            EditCommand::Important {
                property, remove, ..
            } => kinds::Important {
                property: property.clone(),
                on: !remove,
            }
            .into(),
            EditCommand::ConvertColor {
                property,
                to,
                alpha,
                ..
            } => kinds::ConvertColor {
                property: property.clone(),
                to: to.clone(),
                alpha: alpha.clone(),
            }
            .into(),
            EditCommand::Rule {
                declarations,
                selector,
                ..
            } => kinds::Rule {
                selector: selector.clone(),
                declarations: declarations.clone(),
            }
            .into(),
            EditCommand::Variable { name, value, .. } => kinds::Variable {
                name: name.clone(),
                value: value.clone(),
            }
            .into(),
            EditCommand::Selector { .. }
            | EditCommand::MoveRule { .. }
            | EditCommand::Split { .. }
            | EditCommand::RemoveRule { .. }
            | EditCommand::Condition { .. }
            | EditCommand::Enclose { .. }
            | EditCommand::AtRule { .. }
            | EditCommand::NewSheet { .. }
            | EditCommand::Rename { .. } => self.change_of_rules(),
            _ => self.change_of_markup(),
        }
    }

    fn change_of_rules(&self) -> Change {
        match self {
            EditCommand::Selector { rule, how, .. } => kinds::Selector {
                rule: rule.clone(),
                how: match how {
                    How { to: Some(to), .. } => SelectorChange::To(to.clone()),
                    How { add: Some(add), .. } => SelectorChange::Add(add.clone()),
                    How { remove, .. } => {
                        SelectorChange::Remove(remove.clone().unwrap_or_default())
                    }
                },
            }
            .into(),
            EditCommand::MoveRule {
                rule,
                before,
                after,
                ..
            } => kinds::MoveRule {
                rule: rule.clone(),
                side: if before.is_some() {
                    Side::Before
                } else {
                    Side::After
                },
                other: before.clone().or(after.clone()).unwrap_or_default(),
            }
            .into(),
            EditCommand::Split { rule, selector, .. } => kinds::Split {
                rule: rule.clone(),
                selector: selector.clone(),
            }
            .into(),
            EditCommand::RemoveRule { rule, .. } => kinds::RemoveRule { rule: rule.clone() }.into(),
            EditCommand::Condition { rule, to, .. } => kinds::Condition {
                rule: rule.clone(),
                to: to.clone(),
            }
            .into(),
            EditCommand::Enclose { rule, within, .. } => kinds::Enclose {
                rule: rule.clone(),
                within: within.clone(),
            }
            .into(),
            EditCommand::AtRule { source, .. } => kinds::AtRule {
                source: source.clone(),
            }
            .into(),
            EditCommand::NewSheet {
                file,
                source,
                after,
                ..
            } => kinds::NewSheet {
                file: file.clone(),
                source: source.clone(),
                after: after.clone(),
            }
            .into(),
            EditCommand::Rename { what, from, to, .. } => kinds::Rename {
                what: *what,
                from: from.clone(),
                to: to.clone(),
            }
            .into(),
            _ => unreachable!("the others are changes of declarations or of markup"),
        }
    }

    fn change_of_markup(&self) -> Change {
        match self {
            EditCommand::Attribute {
                name,
                value,
                remove,
                ..
            } => kinds::Attribute {
                name: name.clone(),
                value: (!remove).then(|| value.clone().unwrap_or_default()),
            }
            .into(),
            EditCommand::Class { changes, .. } => kinds::Class {
                changes: changes.clone(),
            }
            .into(),
            EditCommand::Text { text, from, .. } => kinds::Text {
                text: text.clone(),
                from: from.clone(),
            }
            .into(),
            EditCommand::Tag { name, .. } => kinds::Tag { name: name.clone() }.into(),
            EditCommand::Markup { source, inner, .. } => kinds::Markup {
                source: source.clone(),
                inner: *inner,
            }
            .into(),
            EditCommand::Insert { source, side, .. } => kinds::Insert {
                source: source.clone(),
                side: *side,
            }
            .into(),
            EditCommand::Duplicate { .. } => kinds::Duplicate {}.into(),
            EditCommand::MoveElement { to, side, .. } => kinds::MoveElement {
                to: to.clone(),
                side: *side,
            }
            .into(),
            EditCommand::RemoveElement { .. } => kinds::RemoveElement {}.into(),
            EditCommand::Wrap { tag, .. } => kinds::Wrap { tag: tag.clone() }.into(),
            EditCommand::Unwrap { .. } => kinds::Unwrap {}.into(),
            _ => unreachable!("the others are changes of styles"),
        }
    }
}
