//! Why an edit can't be made.

use thiserror::Error;

use super::destination::{Destination, DestinationKind};
use crate::question::find::FindError;
use crate::text::{EncodingError, Place, SitePath};

/// Why an edit can't be made.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[non_exhaustive]
pub enum EditError {
    /// The element is not found.
    #[error(transparent)]
    Find(#[from] FindError),
    /// The edit needs an element.
    #[error("this change needs an element; name one")]
    NoElement,
    /// The change can't be written where it was asked for.
    #[error("{kind} can't be written to '{given}'; {}", can_go(.takes))]
    DestinationNotTaken {
        /// The kind of change.
        kind: &'static str,
        /// The destination asked for.
        given: Destination,
        /// Where it can be written.
        takes: &'static [DestinationKind],
    },
    /// The patched text would not be what was meant.
    #[error("{place}: refused, for {why}")]
    Unintended {
        /// Where.
        place: String,
        /// What would be there instead, or be lost.
        why: String,
    },
    /// The changed text can't be written in the file's encoding.
    #[error(transparent)]
    Encoding(#[from] EncodingError),
    /// Markup that can't be put in.
    #[error("this markup can't be put in: {problem}: {}", shortened(.given))]
    InvalidMarkup {
        /// As given.
        given: String,
        /// What is wrong.
        problem: String,
    },
    /// A rule or a part of one that can't be read.
    #[error("'{given}': {problem}")]
    InvalidRule {
        /// As given.
        given: String,
        /// What is wrong and what was expected.
        problem: String,
    },
    /// No property has the name.
    #[error("no property is called '{name}'{}", meant(.nearest.as_deref()))]
    UnknownProperty {
        /// As given.
        name: String,
        /// One that may be meant.
        nearest: Option<String>,
    },
    /// The value does not fit the property.
    #[error("{property}: {value} is not valid: {problem}")]
    Invalid {
        /// The property.
        property: String,
        /// The value given.
        value: String,
        /// Where it stops to fit and what was expected.
        problem: String,
    },
    /// The value is not a single value.
    #[error("'{value}' is not one value: {found}; give the value alone")]
    NotAValue {
        /// The value given.
        value: String,
        /// What is wrong with it.
        found: String,
    },
    /// The value is not a number that could be stepped.
    #[error("{property} is '{value}', which is not a single number; {}", instead(.part.as_deref()))]
    NotANumber {
        /// The property.
        property: String,
        /// Its value.
        value: String,
        /// A longhand that can be stepped, where it is a shorthand.
        part: Option<String>,
    },
    /// The step is not a number.
    #[error("'{by}' is not a step; expected a number such as +1 or -0.1")]
    InvalidStep {
        /// As given.
        by: String,
    },
    /// There is no rule to put a declaration into.
    #[error("{place}: no rule of this page is there; name a rule that the page uses")]
    NoRule {
        /// The place asked for, or the element that none matches.
        place: String,
    },
    /// Several rules that match have such a declaration.
    #[error("several rules that match {element} declare {property}; name one of them:{}", listed_places(.heads))]
    SeveralRules {
        /// The property.
        property: String,
        /// The element.
        element: String,
        /// The declarations' places.
        places: Vec<Place>,
        /// Each place with its rule's selectors.
        heads: Vec<String>,
    },
    /// The site has no such sheet.
    #[error("{file}: the site has no such sheet")]
    NoSuchSheet {
        /// The file.
        file: SitePath,
    },
    /// The site has no override sheet.
    #[error(
        "this site has no override sheet: {config} names none, and the last sheet that the page links is a built or vendor sheet"
    )]
    NoOverrideSheet {
        /// The configuration's file.
        config: String,
        /// One that could be made.
        sheet: SitePath,
    },
    /// The change would be written into a sheet that something else writes.
    #[error("{sentence}, and {writer} overwrites what is changed there")]
    Overwritten {
        /// The sheet, what it is, and how that is known, in a clause.
        sentence: String,
        /// What overwrites it: its next build, or its next update.
        writer: &'static str,
        /// The override sheet that could be made.
        sheet: SitePath,
    },
    /// A sheet is on a server, and no mount says which file it is.
    #[error(
        "{url} is on a server, and no [[mount]] says which file it comes from, so that the change could not be saved"
    )]
    NoFile {
        /// The sheet's URL.
        url: String,
    },
    /// The source that a sheet was built from can't be changed along.
    #[error("{place}: {file} is built from other files, and {why}")]
    NotFollowed {
        /// The built sheet's place.
        place: String,
        /// The built sheet.
        file: String,
        /// Why not.
        why: String,
        /// The variable of the source that gives the value, where one does.
        variable: Option<String>,
    },
    /// No declaration of the site sets the property on the element.
    #[error("nothing sets {property} on {element}: {whence}. There is no declaration to change")]
    NothingToChange {
        /// The property.
        property: String,
        /// The element.
        element: String,
        /// Where the value comes from instead.
        whence: String,
    },
    /// Several declarations set the longhands of a shorthand.
    #[error(
        "{property} of {element} is set by several declarations; set one of these instead:{parts}"
    )]
    Several {
        /// The property.
        property: String,
        /// The element.
        element: String,
        /// The longhands and where each is set, a line each.
        parts: String,
    },
    /// The declaration has that value already.
    #[error("{property} is already {value}, at {place}")]
    Same {
        /// The property.
        property: String,
        /// The value.
        value: String,
        /// Where.
        place: Place,
    },
    /// Nothing would change.
    #[error("nothing would change: {why}")]
    Nothing {
        /// Why.
        why: String,
    },
    /// The element has no tag in the source.
    #[error("{element} has no tag in the source ({place}); the parser adds it")]
    NoTag {
        /// The element.
        element: String,
        /// Where the parser put it.
        place: String,
    },
    /// The name is none.
    #[error("'{name}' is not {what}")]
    InvalidName {
        /// What was expected, with its article.
        what: &'static str,
        /// As given.
        name: String,
    },
    /// A class is none.
    #[error("'{class}' is not a class; write +name to add one and -name to take one off")]
    InvalidClass {
        /// As given.
        class: String,
    },
    /// A selector can't be read.
    #[error("'{selector}' is not a valid selector: {problem}")]
    InvalidSelector {
        /// As given.
        selector: String,
        /// What is wrong and what was expected.
        problem: String,
    },
    /// Declarations can't be read.
    #[error("'{given}': {problem}")]
    InvalidDeclarations {
        /// As given.
        given: String,
        /// What is wrong and what was expected.
        problem: String,
    },
    /// The change can't be made there, with the reason.
    #[error("{place}: {why}")]
    NotThere {
        /// Where.
        place: String,
        /// Why not, and what to do.
        why: String,
    },
    /// An element has several texts, and the change names none.
    #[error(
        "{place}: the element has several texts; name the one to change: {}",
        listed(texts)
    )]
    SeveralTexts {
        /// The element.
        place: Place,
        /// Its texts, the first ones.
        texts: Vec<String>,
    },
    /// Changes of several elements claim the same characters.
    #[error(
        "one of {first} and {second} is inside the other, so both can't be changed at once; name fewer elements"
    )]
    Overlap {
        /// The place of one.
        first: Place,
        /// The place of the other.
        second: Place,
    },
}

/// The destinations that a kind takes, in half a sentence.
fn can_go(takes: &[DestinationKind]) -> String {
    match takes {
        [DestinationKind::Sources] => "it has only one destination, so name none".to_owned(),
        takes => {
            let names: Vec<String> = takes.iter().map(ToString::to_string).collect();
            format!("expected one of: {}", names.join(", "))
        }
    }
}

fn listed_places(heads: &[String]) -> String {
    let lines = heads.iter().map(|head| format!("\n  {head}"));
    lines.collect()
}

fn meant(nearest: Option<&str>) -> String {
    match nearest {
        Some(near) => format!(". Do you mean '{near}'?"),
        None => "; expected one of the standards, or a custom one such as --brand".to_owned(),
    }
}

/// The beginning of a text that may be long.
fn shortened(text: &str) -> String {
    const MOST: usize = 60;
    let mut short: String = text.chars().take(MOST).collect();
    if text.chars().count() > MOST {
        short.push('…');
    }
    short
}

fn instead(part: Option<&str>) -> String {
    match part {
        Some(part) => format!("step one part of it, such as {part}, or set it instead"),
        None => "set it instead".to_owned(),
    }
}

impl EditError {
    /// The kind of error, in a word that stays the same.
    pub fn code(&self) -> &'static str {
        match self {
            EditError::Find(error) => error.code(),
            EditError::NoElement => "no-element",
            EditError::DestinationNotTaken { .. } => "destination-not-taken",
            EditError::Unintended { .. } => "unintended",
            EditError::Encoding(..) => "encoding",
            EditError::InvalidMarkup { .. } => "invalid-markup",
            EditError::InvalidRule { .. } => "invalid-rule",
            EditError::UnknownProperty { .. } => "unknown-property",
            EditError::Invalid { .. } => "invalid",
            EditError::NotAValue { .. } => "not-a-value",
            EditError::NotANumber { .. } => "not-a-number",
            EditError::InvalidStep { .. } => "invalid-step",
            EditError::NoRule { .. } => "no-rule",
            EditError::SeveralRules { .. } => "several-rules",
            EditError::NoSuchSheet { .. } => "no-such-sheet",
            EditError::NoOverrideSheet { .. } => "no-override-sheet",
            EditError::Overwritten { .. } => "overwritten",
            EditError::NoFile { .. } => "no-file",
            EditError::NotFollowed { .. } => "not-followed",
            EditError::NothingToChange { .. } => "nothing-to-change",
            EditError::Several { .. } => "several",
            EditError::Same { .. } => "same",
            EditError::Nothing { .. } => "nothing",
            EditError::NoTag { .. } => "no-tag",
            EditError::InvalidName { .. } => "invalid-name",
            EditError::InvalidClass { .. } => "invalid-class",
            EditError::InvalidSelector { .. } => "invalid-selector",
            EditError::InvalidDeclarations { .. } => "invalid-declarations",
            EditError::NotThere { .. } => "not-there",
            EditError::SeveralTexts { .. } => "several-texts",
            EditError::Overlap { .. } => "overlap",
        }
    }

    /// Whether the question was answered, and the answer is that there is nothing to do.
    pub fn is_an_answer(&self) -> bool {
        matches!(
            self,
            EditError::NothingToChange { .. }
                | EditError::Same { .. }
                | EditError::Nothing { .. }
                | EditError::Find(FindError::NotFound { .. })
        )
    }
}

/// Texts in quotation marks, one after the other.
fn listed(texts: &[String]) -> String {
    let all: Vec<String> = texts.iter().map(|text| format!("'{text}'")).collect();
    all.join(", ")
}
