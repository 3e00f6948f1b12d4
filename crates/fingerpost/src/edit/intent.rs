//! Intents: what a person asked for, in its own terms, so that it can be kept, repeated elsewhere
//! and aimed at something else. [`super::make`] turns one into an [`Edit`](super::Edit).
//!
//! The JSON of an intent is documented in `docs/edits.md`: it is in the draft file, and scripts
//! of edits are lists of them.

use serde::{Deserialize, Serialize};

use crate::edit::destination::Destination;
use crate::edit::kinds::{self, Change};
use crate::edit::request::Asked;
use crate::page::{Page, Target};
use crate::question::find::ElementQuery;
use crate::text::{Place, PlaceError};

/// What was asked for.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Intent {
    /// The page that it was asked on; empty for a place in a sheet, which any page that has the sheet will do for.
    pub page: String,
    /// The element, as a question names one: a selector, a text in quotation marks, a place, a line or `@12`. Changes of
    /// rules need none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub element: Option<ElementQuery>,
    /// Every element that is found, not just one.
    #[serde(default, skip_serializing_if = "is_false")]
    pub each: bool,
    /// On which pages, besides that one.
    #[serde(default, skip_serializing_if = "Pages::is_this")]
    pub pages: Pages,
    /// Where a change of a style is written.
    #[serde(default, skip_serializing_if = "Destination::is_default")]
    pub into: Destination,
    /// What changes.
    pub change: Change,
}

pub(crate) fn is_false(value: &bool) -> bool {
    !value
}

/// On which pages a change of markup is made.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Pages {
    /// On the one that was asked about.
    #[default]
    This,
    /// On every page of the site that has such an element.
    Every,
    /// On these as well.
    Also(Vec<String>),
}

impl Pages {
    fn is_this(&self) -> bool {
        *self == Pages::This
    }
}

/// Where among a rule's or an element's neighbors something goes.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Side {
    /// Right before it.
    Before,
    /// Right after it.
    After,
    /// Inside, before its content.
    First,
    /// Inside, after its content.
    Last,
}

impl Side {
    /// The words for all of them, as JSON has them.
    pub const NAMES: [&'static str; 4] = ["before", "after", "first", "last"];

    /// `before`, `at the end of`.
    pub(super) fn words(self) -> &'static str {
        match self {
            Side::Before => "before",
            Side::After => "after",
            Side::First => "at the beginning of",
            Side::Last => "at the end of",
        }
    }
}

impl Intent {
    /// What it asks for besides the change.
    pub(in crate::edit) fn asked(&self) -> Asked {
        Asked {
            element: self.element.clone(),
            each: self.each,
            into: self.into.clone(),
        }
    }

    /// An intent for one element, in place.
    pub fn new(page: &str, element: &str, change: impl Into<Change>) -> Intent {
        Intent {
            page: page.to_owned(),
            element: Some(ElementQuery::parse(element)),
            each: false,
            pages: Pages::This,
            into: Destination::Sources,
            change: change.into(),
        }
    }

    /// An intent for a target that was found on a page.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let html = "<style>p { color: teal }</style><p>Boats<p>Fares";
    /// let page = Page::new(Text::new("a.html", html));
    /// let second = page.document().elements()[5];
    /// let edit = make(&page, &Intent::on(&page, second, Change::set("color", "navy")))?;
    /// assert_eq!(edit.summary, "set color of p on a.html: teal → navy");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Panics
    /// Where the target is one of another page.
    pub fn on(page: &Page, target: impl Into<Target>, change: impl Into<Change>) -> Intent {
        let document = page.document();
        let element = ElementQuery::naming(document, &target.into());
        Intent {
            element: Some(element),
            ..Intent::new(document.text().name(), "", change)
        }
    }

    /// An intent for the rule or the declaration at a place, whatever elements it is about. It is made on the page that the
    /// place is in; for one in a sheet, a `Session` takes a page that has the sheet.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// # let folder = tempfile::tempdir()?;
    /// # let write = |name: &str, text: &str| std::fs::write(folder.path().join(name), text);
    /// # write("fingerpost.toml", "fingerpost = 2\n")?;
    /// # write("a.css", "p { color: teal }")?;
    /// # write("a.html", "<link rel=stylesheet href=a.css><p>Boats")?;
    /// // a.css: p { color: teal }
    /// // a.html: <link rel=stylesheet href=a.css><p>Boats
    /// let mut site = Site::of_folder(folder.path())?;
    /// let intent = Intent::at(&"a.css:1:5".parse()?, Change::set("color", "navy"));
    /// let outcome = site.session()?.try_edit(&intent)?;
    /// assert_eq!(outcome.files[0].after.source(), "p { color: navy }");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn at(place: &Place, change: impl Into<Change>) -> Intent {
        let is_sheet = ["css", "scss", "less"].iter().any(|extension| {
            let file = place.file.rsplit_once('.');
            file.is_some_and(|(_, own)| own.eq_ignore_ascii_case(extension))
        });
        let page = if is_sheet { "" } else { &place.file };
        Intent {
            element: None,
            into: place.into(),
            ..Intent::new(page, "", change)
        }
    }

    /// Turns the intent to something else: the place of another rule where it is about one, another element
    /// otherwise.
    ///
    /// # Errors
    /// Where it is about a rule and the text is not a place.
    pub fn retarget(&mut self, to: &str) -> Result<(), PlaceError> {
        let place = match &mut self.change {
            Change::Selector(kinds::Selector { rule, .. })
            | Change::MoveRule(kinds::MoveRule { rule, .. })
            | Change::Split(kinds::Split { rule, .. })
            | Change::RemoveRule(kinds::RemoveRule { rule })
            | Change::Condition(kinds::Condition { rule, .. })
            | Change::Enclose(kinds::Enclose { rule, .. }) => rule,
            _ => match &mut self.into {
                Destination::Rule(place) => place,
                _ => {
                    self.element = Some(ElementQuery::parse(to));
                    return Ok(());
                }
            },
        };
        *place = to.parse()?;
        Ok(())
    }
}
