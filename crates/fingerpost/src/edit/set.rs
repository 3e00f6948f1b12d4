//! `set`: a new value for the declaration that wins a property.

use std::sync::Arc;

use thiserror::Error;

use super::{Edit, Intent};
use crate::cascade::Origin;
use crate::page::{Arrival, DeclarationRef, PropertyName, SheetRef, Styles, Target, ValueSource};
use crate::question::ElementSummary;
use crate::sheet::{DeclarationId, Kind, Sheet};
use crate::text::{Patch, Place, Text, TextRange};
use crate::value::PropertyId;
use crate::value::declared::{Meaning, meaning};
use crate::value::shorthand::Piece;
use crate::value::substitution::value_tokens;

/// Why a value can't be set.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum SetError {
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
    /// The value is no single value.
    #[error("'{value}' is more than a value ({found} ends it); give the value alone")]
    NotAValue {
        /// The value given.
        value: String,
        /// What ends it.
        found: String,
    },
    /// The value is no number that could be stepped.
    #[error("{property} is '{value}', which is no single number with a unit; set it instead")]
    NoNumber {
        /// The property.
        property: String,
        /// Its value.
        value: String,
    },
    /// There is no rule to put a declaration into.
    #[error("{place}: there is no rule of this page to put it into")]
    NoRule {
        /// The place asked for, or the element that none matches.
        place: String,
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
    #[error("{property} is {value} already, at {place}")]
    Same {
        /// The property.
        property: String,
        /// The value.
        value: String,
        /// Where.
        place: Place,
    },
}

/// Turns the wish for a new value into a patch of the winning declaration.
///
/// A longhand that a shorthand sets is changed in the shorthand where it has a part of its own
/// there; otherwise a declaration of the longhand is put right behind the shorthand.
///
/// # Errors
/// Where the value does not fit, nothing of the site sets the property, or several declarations do.
pub fn set(
    styles: &Styles<'_>,
    target: &Target,
    property: &PropertyName,
    value: &str,
) -> Result<Edit, SetError> {
    let value = value.trim();
    check(property, value)?;
    let element = ElementSummary::of_target(styles.page(), target).label();
    let reference = winner(styles, target, property, &element)?;
    let style_sheet = styles.sheet(reference.sheet);
    let sheet = style_sheet.sheet();
    let declaration = sheet.declaration(reference.id);
    let source = sheet.text().source();

    let (range, with) = match (property, style_sheet.meaning(reference.id)) {
        (PropertyName::Known(wanted), (_, Meaning::Fits(pieces)))
            if PropertyId::named(sheet.name_source(declaration)) != Some(*wanted) =>
        {
            match own_part(pieces, *wanted) {
                Some(part) => (part, value.to_owned()),
                None => behind(sheet, reference.id, wanted.name(), value),
            }
        }
        (PropertyName::Known(wanted), _)
            if PropertyId::named(sheet.name_source(declaration)) != Some(*wanted) =>
        {
            behind(sheet, reference.id, wanted.name(), value)
        }
        // An empty value stands right behind its colon.
        _ if declaration.value.is_empty() => (declaration.value, format!(" {value}")),
        _ => (declaration.value, value.to_owned()),
    };
    let from = source[range].to_owned();
    if from == with {
        return Err(SetError::Same {
            property: property.to_string(),
            value: with,
            place: sheet.text().place(range.start()),
        });
    }
    let intent = Intent::Set {
        page: styles.page().document().text().name().to_owned(),
        element,
        property: property.to_string(),
        from: if from.is_empty() {
            styles.value(target, property).specified.trim().to_owned()
        } else {
            from
        },
        to: value.to_owned(),
    };
    let patch = place(styles, reference, sheet.text(), range, &with);
    Ok(Edit {
        intent,
        file: sheet.text().name().to_owned(),
        patch,
    })
}

/// Whether the value is one, and fits.
pub(super) fn check(property: &PropertyName, value: &str) -> Result<(), SetError> {
    let tokens = value_tokens(value);
    let mut open: Vec<Kind> = Vec::new();
    for token in &tokens {
        let ends = match token.kind {
            Kind::Semicolon => open.is_empty(),
            Kind::Delim if token.is_delim(value, '!') => open.is_empty(),
            Kind::BadText | Kind::BadUrl => true,
            kind if kind.closer().is_some() => {
                open.extend(kind.closer());
                false
            }
            kind if open.last() == Some(&kind) => {
                open.pop();
                false
            }
            Kind::CloseCurly | Kind::CloseParenthesis | Kind::CloseSquare => true,
            _ => false,
        };
        if ends {
            return Err(SetError::NotAValue {
                value: value.to_owned(),
                found: format!("'{}'", token.source(value)),
            });
        }
    }
    if !open.is_empty() {
        return Err(SetError::NotAValue {
            value: value.to_owned(),
            found: "a bracket that is never closed".to_owned(),
        });
    }
    let PropertyName::Known(id) = property else {
        return Ok(());
    };
    if let Meaning::Misfit(mismatch) = meaning(*id, value, &tokens) {
        let found = &value[mismatch.span];
        return Err(SetError::Invalid {
            property: id.name().to_owned(),
            value: value.to_owned(),
            problem: crate::question::misfit_text(id.name(), found, &mismatch.expected),
        });
    }
    Ok(())
}

/// The one declaration of the site's sources that gives the property its value.
pub(super) fn winner(
    styles: &Styles<'_>,
    target: &Target,
    property: &PropertyName,
    element: &str,
) -> Result<DeclarationRef, SetError> {
    let longhands: Vec<PropertyName> = match property {
        PropertyName::Known(id) => id
            .longhands()
            .iter()
            .copied()
            .map(PropertyName::Known)
            .collect(),
        PropertyName::Custom(_) => vec![property.clone()],
    };
    let mut winners: Vec<(PropertyName, Option<DeclarationRef>)> = Vec::new();
    for longhand in longhands {
        let contest = styles.contest(target, &longhand).contest;
        let found = contest.winning().map(|w| w.declaration);
        winners.push((longhand, found));
    }
    let first = winners[0].1;
    if winners.iter().any(|(_, reference)| *reference != first) {
        let mut parts = String::new();
        for (longhand, reference) in &winners {
            if let Some(reference) = reference {
                let style_sheet = styles.sheet(reference.sheet);
                let sheet = style_sheet.sheet();
                let span = sheet.declaration(reference.id).span;
                let place = sheet.text().place(span.start());
                parts.push_str(&format!("\n  {longhand}  ({place})"));
            }
        }
        return Err(SetError::Several {
            property: property.to_string(),
            element: element.to_owned(),
            parts,
        });
    }
    let nothing = |whence: String| SetError::NothingToChange {
        property: property.to_string(),
        element: element.to_owned(),
        whence,
    };
    let Some(reference) = first else {
        let longhand = &winners[0].0;
        return Err(nothing(match &styles.value(target, longhand).source {
            ValueSource::Inherited { from } => {
                let above = ElementSummary::new(styles.page(), *from);
                format!(
                    "it inherits from {} at {}, where it can be set",
                    above.label(),
                    above.place
                )
            }
            _ => "it has its initial value".to_owned(),
        }));
    };
    if let SheetRef::Hints(_) = reference.sheet {
        return Err(nothing(
            "its value comes from an attribute of the markup, not from a declaration".to_owned(),
        ));
    }
    if !is_placed(styles, reference.sheet) {
        return Err(nothing(
            "its embedded sheet has characters that the parser changed, so it can't be patched in \
             the page"
                .to_owned(),
        ));
    }
    if let SheetRef::Listed(at) = reference.sheet
        && styles.page().sheets()[at as usize].origin == Origin::UserAgent
    {
        return Err(nothing(
            "its value comes from the browser's own sheet, which is no file of the site".to_owned(),
        ));
    }
    Ok(reference)
}

/// Whether a sheet's spans are spans of the file that it is named after.
pub(super) fn is_placed(styles: &Styles<'_>, sheet: SheetRef) -> bool {
    let SheetRef::Listed(at) = sheet else {
        return true;
    };
    let page_sheet = &styles.page().sheets()[at as usize];
    let text = page_sheet.styles.sheet().text();
    !matches!(page_sheet.arrival, Arrival::Style(_))
        || Arc::ptr_eq(text, styles.page().document().text())
}

/// The part of a shorthand's value that one longhand has for itself.
fn own_part(pieces: &[(PropertyId, Piece)], wanted: PropertyId) -> Option<TextRange> {
    let piece = &pieces.iter().find(|(p, _)| *p == wanted)?.1;
    let Piece::Part(part) = piece else {
        return None;
    };
    let users = pieces.iter().filter(|(_, other)| other == piece).count();
    (users == 1).then_some(*part)
}

/// A declaration right behind another one, as the file writes that one.
pub(super) fn behind(
    sheet: &Sheet,
    other: DeclarationId,
    name: &str,
    value: &str,
) -> (TextRange, String) {
    let declaration = sheet.declaration(other);
    let source = sheet.text().source();
    let start = usize::from(declaration.span.start());
    let line_start = source[..start].rfind('\n').map_or(0, |at| at + 1);
    let indent = &source[line_start..start];
    let own_line = indent.chars().all(char::is_whitespace) && line_start > 0;
    let separator = if own_line {
        let ending = if source[..line_start].ends_with("\r\n") {
            "\r\n"
        } else {
            "\n"
        };
        format!("{ending}{indent}")
    } else {
        " ".to_owned()
    };
    let between =
        &source[usize::from(declaration.name.end())..usize::from(declaration.value.start())];
    let important = declaration.important.map_or_else(String::new, |mark| {
        let gap = &source[usize::from(declaration.value.end())..usize::from(mark.end())];
        gap.to_owned()
    });
    let new = format!("{separator}{name}{between}{value}{important}");
    if declaration.semicolon {
        // Behind the semicolon, with one of its own.
        let rest = &source[usize::from(declaration.span.end())..];
        let offset = rest.find(';').map_or(0, |at| at + 1) as u32;
        let at = declaration.span.end() + crate::text::TextSize::new(offset);
        (TextRange::empty(at), format!("{new};"))
    } else {
        (TextRange::empty(declaration.span.end()), format!(";{new}"))
    }
}

/// The patch of the file: in a style attribute the value is written as its quotes ask for.
pub(super) fn place(
    styles: &Styles<'_>,
    reference: DeclarationRef,
    text: &Arc<Text>,
    range: TextRange,
    with: &str,
) -> Patch {
    let SheetRef::Attribute(element) = reference.sheet else {
        return Patch::single(range, with);
    };
    let document = styles.page().document();
    let source = document.text().source();
    let attribute = document
        .expect_element(element)
        .attribute_node("style")
        .expect("the declaration stands in it");
    let before = usize::from(attribute.value_span.start()).checked_sub(1);
    let quote = before
        .and_then(|at| source[at..].chars().next())
        .filter(|c| matches!(c, '"' | '\''));
    let escape = |value: &str| {
        let value = value.replace('&', "&amp;");
        match quote {
            Some('\'') => value.replace('\'', "&#39;"),
            Some(_) => value.replace('"', "&quot;"),
            None => value.replace('"', "&quot;").replace(' ', "&#32;"),
        }
    };
    if Arc::ptr_eq(text, document.text()) {
        return Patch::single(range, escape(with));
    }
    // The value has character references: the whole of it is written anew.
    let changed = Patch::single(range, with).apply(text.source());
    Patch::single(attribute.value_span, escape(&changed))
}
