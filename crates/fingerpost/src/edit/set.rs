//! `set`: a new value for the declaration that wins a property, or for the one of a rule.

use super::declaration::{add_here, add_to};
use super::place::{RuleAt, place, winner};
use super::{EditError, Made};
use crate::markup::NodeId;
use crate::page::{DeclarationRef, PropertyName, SheetRef, Styles, Target};
use crate::question::ElementSummary;
use crate::sheet::{Declaration, DeclarationId, Kind, Sheet};
use crate::text::TextRange;
use crate::value::PropertyId;
use crate::value::declared::{Meaning, meaning};
use crate::value::shorthand::Piece;
use crate::value::substitution::value_tokens;

/// A new value for the winning declaration.
///
/// A longhand that a shorthand sets is changed in the shorthand where it has a part of its own
/// there; otherwise a declaration of the longhand is put right behind the shorthand.
pub(super) fn set(
    styles: &Styles<'_>,
    target: &Target,
    property: &PropertyName,
    value: &str,
) -> Result<Made, EditError> {
    let value = value.trim();
    check(property, value)?;
    let element = ElementSummary::of_target(styles.page(), target).label();
    let reference = winner(styles, target, property, &element)?;
    let mut made = set_declaration(styles, reference, property, value)?;
    if made.was.as_deref() == Some("") {
        made.was = Some(styles.value(target, property).specified.trim().to_owned());
    }
    Ok(made)
}

/// A new value for a property in a rule: in its last declaration there, or in one more.
pub(super) fn set_in(
    styles: &Styles<'_>,
    rule: RuleAt,
    property: &PropertyName,
    value: &str,
) -> Result<Made, EditError> {
    let value = value.trim();
    check(property, value)?;
    let sheet = rule.sheet(styles);
    let same =
        |d: &Declaration| PropertyName::parse(sheet.name_source(d)).as_ref() == Some(property);
    match sheet
        .declarations_of(rule.rule)
        .filter(|(_, d)| same(d))
        .last()
    {
        Some((id, _)) => {
            let reference = DeclarationRef {
                sheet: SheetRef::Listed(rule.sheet),
                id,
            };
            set_declaration(styles, reference, property, value)
        }
        None => add_to(styles, rule, property, value),
    }
}

/// A new value for a property in an element's style attribute.
pub(super) fn set_here(
    styles: &Styles<'_>,
    element: NodeId,
    property: &PropertyName,
    value: &str,
) -> Result<Made, EditError> {
    add_here(styles, element, property, value)
}

fn set_declaration(
    styles: &Styles<'_>,
    reference: DeclarationRef,
    property: &PropertyName,
    value: &str,
) -> Result<Made, EditError> {
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
                None => behind(sheet, reference.id, wanted.name(), value, true),
            }
        }
        (PropertyName::Known(wanted), _)
            if PropertyId::named(sheet.name_source(declaration)) != Some(*wanted) =>
        {
            behind(sheet, reference.id, wanted.name(), value, true)
        }
        // An empty value stands right behind its colon.
        _ if declaration.value.is_empty() => (declaration.value, format!(" {value}")),
        _ => (declaration.value, value.to_owned()),
    };
    let from = source[range].to_owned();
    if from == with {
        return Err(EditError::Same {
            property: property.to_string(),
            value: with,
            place: sheet.text().place(range.start()),
        });
    }
    Ok(Made {
        was: Some(from),
        ..place(styles, reference, range, &with)
    })
}

/// Whether the value is one, and fits.
pub(super) fn check(property: &PropertyName, value: &str) -> Result<(), EditError> {
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
            return Err(EditError::NotAValue {
                value: value.to_owned(),
                found: format!("'{}'", token.source(value)),
            });
        }
    }
    if !open.is_empty() {
        return Err(EditError::NotAValue {
            value: value.to_owned(),
            found: "a bracket that is never closed".to_owned(),
        });
    }
    let PropertyName::Known(id) = property else {
        return Ok(());
    };
    if let Meaning::Misfit(mismatch) = meaning(*id, value, &tokens) {
        let found = &value[mismatch.span];
        return Err(EditError::Invalid {
            property: id.name().to_owned(),
            value: value.to_owned(),
            problem: crate::question::misfit_text(id.name(), found, &mismatch.expected),
        });
    }
    Ok(())
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

/// A declaration right behind another one, as the file writes that one; with its `!important` where
/// `as_important`.
pub(super) fn behind(
    sheet: &Sheet,
    other: DeclarationId,
    name: &str,
    value: &str,
    as_important: bool,
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
    let mark = declaration.important.filter(|_| as_important);
    let important = mark.map_or("", |mark| {
        &source[TextRange::new(declaration.value.end(), mark.end())]
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
