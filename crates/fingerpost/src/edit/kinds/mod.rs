//! The kinds of edit, one file each: what it is asked with, which elements or rules it is about, the
//! change of the texts that it makes together with what that means, and its summary.
//!
//! To add a kind, write its file and name it in the list below.
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
//! assert_eq!(edit.changes[0].patch.apply(html.source()), "<p class=\"panel wide\">Boats");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use serde::{Deserialize, Serialize};

use super::{At, EditError, Proposal, Where};
use crate::edit::meant::Declared;
use crate::page::Target;

/// What a kind of edit is about.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(in crate::edit) enum About {
    /// An element; it must be named.
    Element,
    /// An element, and the root element where none is named.
    ElementOrRoot,
    /// An element where one is named.
    MaybeElement,
    /// A rule that the change itself names.
    Rule,
    /// The whole site.
    Site,
}

/// Names and words for a summary.
pub(in crate::edit) struct Told<'a> {
    /// The element or elements.
    pub who: &'a str,
    /// The page.
    pub on: &'a str,
    /// What stood there before.
    pub was: &'a str,
}

impl Told<'_> {
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
    /// What it is about.
    fn about(&self) -> About {
        About::Element
    }

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

    /// The declarations that it comes to where it goes into another sheet, for whom, and the selector
    /// that is asked for.
    fn elsewhere(&self, _at: &At<'_, '_>, _targets: &[Target]) -> Result<RuleRequest, EditError> {
        Err(EditError::NotElsewhere)
    }

    /// Whether it can be made in that place.
    fn takes(&self, into: &Where) -> bool {
        *into == Where::Place
    }

    /// Whether it writes into another sheet itself, and not as a rule of declarations.
    fn writes_there(&self) -> bool {
        false
    }

    /// The declarations that it comes to, for a summary.
    fn shown(&self) -> String {
        String::new()
    }

    /// What it did, in a sentence.
    fn summary(&self, told: &Told<'_>) -> String;

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
    /// One declaration, under whatever selector reaches the targets.
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

macro_rules! kinds {
    ($($(#[$doc:meta])* $kind:ident in $module:ident,)*) => {
        $(mod $module;)*
        $(pub use $module::$kind;)*

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
        }

        $(impl From<$kind> for Change {
            fn from(kind: $kind) -> Change {
                Change::$kind(kind)
            }
        })*
    };
}

kinds! {
    /// A property gets a value.
    Set in set,
    /// The number that a property is grows or shrinks, in its own unit.
    Step in step,
    /// One more declaration in a rule.
    Add in add,
    /// A declaration is taken out.
    RemoveDeclaration in remove_declaration,
    /// A declaration is made a comment.
    Disable in disable,
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
    /// A selector of a list gets a rule of its own.
    Split in split,
    /// A rule stands elsewhere.
    MoveRule in move_rule,
    /// A rule is taken out.
    RemoveRule in remove_rule,
    /// The condition or the name of an at-rule changes.
    Condition in condition,
    /// A rule is put into a new at-rule.
    Enclose in enclose,
    /// A new at-rule.
    AtRule in at_rule,
    /// A custom property gets a value where it is defined.
    Variable in variable,
    /// An attribute is set, or taken off.
    Attribute in attribute,
    /// Classes are added and taken off.
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
    /// An element is taken out.
    RemoveElement in remove_element,
    /// An element is put into a new one.
    Wrap in wrap,
    /// An element's tags are taken out.
    Unwrap in unwrap,
    /// A new sheet, linked on pages.
    NewSheet in new_sheet,
    /// A class, an id or a custom property has another name everywhere.
    Rename in rename,
}

pub use convert_color::NOTATIONS;
pub use rename::Named;
pub use selector::SelectorChange;

impl Change {
    /// A property gets a value in its winning declaration.
    pub fn set(property: &str, value: &str) -> Change {
        Set {
            property: property.to_owned(),
            value: value.to_owned(),
        }
        .into()
    }

    /// One more declaration in the strongest rule that matches.
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
}
