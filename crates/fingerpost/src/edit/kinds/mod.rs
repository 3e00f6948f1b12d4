//! The kinds of edit, one file each: what it is asked with, which elements or rules it is about, the
//! change of the texts that it makes together with what that means, and its summary.
//!
//! To add a kind, write its file and name it in the list below; ARCHITECTURE.md has the rest.
//!
//! ```
//! use fingerpost::prelude::*;
//!
//! use fingerpost::edit::kinds::Class;
//!
//! let change = Class {
//!     changes: vec!["+wide".into()],
//! };
//! let html = Text::new("a.html", "<p class=panel>Boats");
//! let page = Page::new(html.clone());
//! let edit = make(&page, &Intent::new("a.html", "p", change))?;
//! assert_eq!(edit.changes[0].patch.apply(html.source())?, "<p class=\"panel wide\">Boats");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod add;
mod at_rule;
mod attribute;
mod change_property;
mod class;
mod comment;
mod condition;
mod convert_color;
mod custom_property;
mod disable;
mod duplicate;
mod enable;
mod enclose;
mod important;
mod info;
mod insert;
mod markup;
mod move_element;
mod move_rule;
mod new_sheet;
mod remove_declaration;
mod remove_element;
mod remove_rule;
mod rename;
mod rule;
mod selector;
mod set;
mod split;
mod step;
mod tag;
mod text;
mod unwrap;
mod wrap;

pub use add::Add;
pub use at_rule::AtRule;
pub use attribute::Attribute;
pub use change_property::ChangeProperty;
pub use class::Class;
pub use comment::Comment;
pub use condition::Condition;
pub use convert_color::ConvertColor;
pub use custom_property::CustomProperty;
pub use disable::Disable;
pub use duplicate::Duplicate;
pub use enable::Enable;
pub use enclose::Enclose;
pub use important::Important;
pub use insert::Insert;
pub use markup::Markup;
pub use move_element::MoveElement;
pub use move_rule::MoveRule;
pub use new_sheet::NewSheet;
pub use remove_declaration::RemoveDeclaration;
pub use remove_element::RemoveElement;
pub use remove_rule::RemoveRule;
pub use rename::Rename;
pub use rule::Rule;
pub use selector::Selector;
use serde::{Deserialize, Serialize};
pub use set::Set;
pub use split::Split;
pub use step::Step;
pub use tag::Tag;
pub use text::Text;
pub use unwrap::Unwrap;
pub use wrap::Wrap;

use crate::edit::error::EditError;
use crate::edit::expected::Declared;
use crate::edit::proposal::{At, Proposal};
use crate::page::Target;

/// Names and words for a summary.
pub(in crate::edit) struct SummaryContext<'a> {
    /// The element or elements.
    pub who: &'a str,
    /// The page.
    pub on: &'a str,
    /// What stood there before.
    pub was: &'a str,
}

impl SummaryContext<'_> {
    /// `teal → `
    fn before(&self) -> String {
        match self.was {
            "" => String::new(),
            was => format!("{was} → "),
        }
    }
}

/// A kind of edit.
pub(in crate::edit) trait Kind {
    /// What a person gives for it.
    fn info(&self) -> &'static KindInfo;

    /// The change that it makes for one element, or for none.
    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError>;

    /// The change that it makes for several elements at once, where that is not the same change for
    /// each of them.
    fn make_all(
        &self,
        _at: &At<'_, '_>,
        _targets: &[Target],
    ) -> Option<Result<Proposal, EditError>> {
        None
    }

    /// The declarations that it results in where it goes into another sheet, for whom, and the selector
    /// that is asked for.
    fn elsewhere(&self, at: &At<'_, '_>, _targets: &[Target]) -> Result<RuleRequest, EditError> {
        Err(self.info().refuses(&at.intent.into))
    }

    /// Whether it writes into another sheet itself, and not as a rule of declarations.
    fn writes_there(&self) -> bool {
        false
    }

    /// The declarations that it results in, for a summary.
    fn shown(&self) -> String {
        String::new()
    }

    /// What it did, in a sentence.
    fn summary(&self, told: &SummaryContext<'_>) -> String;

    /// Whether it changes markup, and so may make another tree than the one asked for.
    fn is_markup(&self) -> bool {
        false
    }

    /// The properties that it is about.
    fn properties(&self) -> Vec<String> {
        Vec::new()
    }
}

/// What goes into another sheet.
pub(in crate::edit) struct RuleRequest {
    pub targets: Vec<Target>,
    pub declared: Vec<Declared>,
    pub selector: Option<String>,
}

impl RuleRequest {
    /// One declaration, under whatever selector matches the targets.
    fn one(targets: &[Target], property: &str, value: &str) -> RuleRequest {
        RuleRequest {
            targets: targets.to_vec(),
            declared: vec![Declared {
                name: property.to_owned(),
                value: value.to_owned(),
                important: false,
            }],
            selector: None,
        }
    }
}

macro_rules! changes {
    ($($(#[$doc:meta])* $kind:ident in $module:ident,)*) => {
        /// What changes.
        #[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
        #[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
        #[serde(rename_all = "kebab-case", deny_unknown_fields)]
        #[non_exhaustive]
        pub enum Change {
            $($(#[$doc])* $kind($kind),)*
        }

        impl Change {
            pub(in crate::edit) fn kind(&self) -> &dyn Kind {
                match self {
                    $(Change::$kind(kind) => kind,)*
                }
            }

            /// Every kind of change, in the order of the work: styles, rules, markup, the site.
            ///
            /// ```
            /// use fingerpost::edit::Change;
            ///
            /// let names: Vec<_> = Change::kinds().iter().map(|kind| kind.name).collect();
            /// assert!(names.contains(&"wrap"));
            /// ```
            pub fn kinds() -> &'static [&'static KindInfo] {
                &[$(&$module::INFO),*]
            }
        }

        $(impl From<$kind> for Change {
            fn from(kind: $kind) -> Change {
                Change::$kind(kind)
            }
        })*
    };
}

changes! {
    /// A property gets a value.
    Set in set,
    /// The number that a property is grows or shrinks, in its own unit.
    Step in step,
    /// One more declaration in a rule.
    Add in add,
    /// A declaration is removed.
    RemoveDeclaration in remove_declaration,
    /// A declaration is made a comment.
    Disable in disable,
    /// A comment stands before a declaration.
    Comment in comment,
    /// A comment that is a declaration is made one again.
    Enable in enable,
    /// A declaration is one of another property.
    ChangeProperty in change_property,
    /// A declaration is marked `!important`, or no longer.
    Important in important,
    /// The colors of a declaration are written in another notation.
    ConvertColor in convert_color,
    /// A new rule.
    Rule in rule,
    /// The selectors of a rule change.
    Selector in selector,
    /// Splits a selector of a list off into its own rule.
    Split in split,
    /// A rule stands elsewhere.
    MoveRule in move_rule,
    /// A rule is removed.
    RemoveRule in remove_rule,
    /// The condition or the name of an at-rule changes.
    Condition in condition,
    /// A rule is put into a new at-rule.
    Enclose in enclose,
    /// A new at-rule.
    AtRule in at_rule,
    /// A custom property gets a value where it is defined.
    CustomProperty in custom_property,
    /// An attribute is set, or removed.
    Attribute in attribute,
    /// Classes are added and removed.
    Class in class,
    /// An element's text becomes another.
    Text in text,
    /// An element gets another name.
    Tag in tag,
    /// An element's source becomes another.
    Markup in markup,
    /// Markup is put beside an element or into it.
    Insert in insert,
    /// An element is there twice.
    Duplicate in duplicate,
    /// An element stands elsewhere.
    MoveElement in move_element,
    /// An element is removed.
    RemoveElement in remove_element,
    /// An element is put into a new one.
    Wrap in wrap,
    /// An element's tags are removed.
    Unwrap in unwrap,
    /// A new sheet, linked on pages.
    NewSheet in new_sheet,
    /// A class, an id or a custom property has another name everywhere.
    Rename in rename,
}

pub use convert_color::NOTATIONS;
pub use info::{About, Example, Field, Given, Holds, KindInfo};
pub use move_rule::Beside;
pub use rename::Named;
pub use selector::SelectorChange;

impl Change {
    /// A property gets a value in its winning declaration.
    ///
    /// ```
    /// use fingerpost::edit::{Change, Intent};
    ///
    /// let intent = Intent::new("a.html", "p.late", Change::set("color", "navy"));
    /// assert_eq!(intent.change.info().name, "set");
    /// ```
    pub fn set(property: &str, value: &str) -> Change {
        Set {
            property: property.to_owned(),
            value: value.to_owned(),
        }
        .into()
    }

    /// One more declaration in the strongest rule that matches.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>p { color: teal }</style><p>Boats"));
    /// let edit = make(&page, &Intent::new("a.html", "p", Change::add("margin", "0")))?;
    /// assert_eq!(edit.changes.len(), 1);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn add(property: &str, value: &str) -> Change {
        Add {
            property: property.to_owned(),
            value: value.to_owned(),
        }
        .into()
    }

    /// What became of the change, apart from the texts: nothing where it takes something out.
    pub fn takes_out(&self) -> bool {
        matches!(
            self,
            Change::RemoveElement(_) | Change::RemoveRule(_) | Change::RemoveDeclaration(_)
        )
    }

    /// The properties that the change is about.
    pub fn properties(&self) -> Vec<String> {
        self.kind().properties()
    }

    /// Whether it changes markup.
    pub fn is_markup(&self) -> bool {
        self.kind().is_markup()
    }

    /// What a person gives for its kind.
    pub fn info(&self) -> &'static KindInfo {
        self.kind().info()
    }

    /// The value that it sets, where it sets one.
    pub fn value(&self) -> Option<&str> {
        match self {
            Change::Set(Set { value, .. })
            | Change::Add(Add { value, .. })
            | Change::CustomProperty(CustomProperty { value, .. }) => Some(value),
            _ => None,
        }
    }
}
