//! One longhand of a shorthand changed: in its own part where it has one, in a part made for it where
//! several share one (`margin: 1.5rem auto` has one for two sides), else by its own declaration
//! right after.

use crate::edit::error::EditError;
use crate::edit::expected::Declared;
use crate::edit::proposal::Proposal;
use crate::edit::rewrite::write;
use crate::page::{DeclarationRef, StyleSheet, Styles};
use crate::sheet::{DeclarationId, Sheet};
use crate::text::{Cut, TextRange};
use crate::value::PropertyId;
use crate::value::declared::{Meaning, meaning};
use crate::value::longhand::Piece;
use crate::value::sides::sides;
use crate::value::substitution::value_tokens;

/// Another value for a longhand that the declaration of a shorthand sets.
pub(in crate::edit) fn set_longhand(
    styles: &Styles<'_>,
    reference: DeclarationRef,
    wanted: PropertyId,
    value: &str,
) -> Result<Proposal, EditError> {
    let style_sheet = styles.sheet(reference.sheet);
    let sheet = style_sheet.sheet();
    let declaration = sheet.declaration(reference.id);
    if let Meaning::Fits(pieces) = &style_sheet.reading(reference.id).meaning {
        let pieces = &*in_sheet(&style_sheet, reference.id, pieces);
        if let Some(part) = own_part(pieces, wanted) {
            return write::part(styles, reference, part, value);
        }
        let shorthand = PropertyId::named(sheet.name_source(declaration));
        let split = shorthand.and_then(|s| split(sheet, s, pieces, wanted, value));
        if let Some(whole) = split {
            let was = piece_text(sheet, pieces, wanted);
            let made = write::value(styles, reference, &whole)?;
            return Ok(Proposal { was, ..made });
        }
    }
    let new = Declared {
        name: wanted.name().to_owned(),
        value: value.to_owned(),
        important: declaration.important.is_some(),
    };
    Ok(Proposal {
        was: Some(String::new()),
        ..write::added_behind(styles, reference, &[new])
    })
}

/// The pieces of a declaration, with their places in the text of its sheet.
fn in_sheet(
    style_sheet: &StyleSheet,
    id: DeclarationId,
    pieces: &[(PropertyId, Piece)],
) -> Vec<(PropertyId, Piece)> {
    let placed = pieces.iter().map(|(property, piece)| {
        let part = style_sheet.part(id, piece).map(Piece::Part);
        (*property, part.unwrap_or_else(|| piece.clone()))
    });
    placed.collect()
}

/// The part of a shorthand's value that belongs to one longhand.
fn own_part(pieces: &[(PropertyId, Piece)], wanted: PropertyId) -> Option<TextRange> {
    let piece = &pieces.iter().find(|(p, _)| *p == wanted)?.1;
    let Piece::Part(part) = piece else {
        return None;
    };
    let users = pieces.iter().filter(|(_, other)| other == piece).count();
    (users == 1).then_some(*part)
}

/// The value that a shorthand gives a longhand.
fn piece_text(sheet: &Sheet, pieces: &[(PropertyId, Piece)], wanted: PropertyId) -> Option<String> {
    let piece = &pieces.iter().find(|(p, _)| *p == wanted)?.1;
    match piece {
        Piece::Part(part) => Some(sheet.text().slice(*part).to_owned()),
        _ => None,
    }
}

/// The shortest value of a shorthand of two or four sides that gives one of them another value; none
/// for a shorthand of another kind. What it results in is looked at, not taken for granted.
fn split(
    sheet: &Sheet,
    shorthand: PropertyId,
    pieces: &[(PropertyId, Piece)],
    wanted: PropertyId,
    value: &str,
) -> Option<String> {
    let longhands = sides(shorthand)?;
    let mut sides: Vec<String> = Vec::new();
    for longhand in &longhands {
        let text = piece_text(sheet, pieces, *longhand)?;
        let own = *longhand == wanted;
        sides.push(if own { value.trim().to_owned() } else { text });
    }
    let shown = match &sides[..] {
        [one, two] if one == two => vec![one],
        [one, two] => vec![one, two],
        [top, right, bottom, left] => {
            let mut shown = vec![top, right, bottom, left];
            if right == left {
                shown.pop();
                if top == bottom {
                    shown.pop();
                    if top == right {
                        shown.pop();
                    }
                }
            }
            shown
        }
        _ => return None,
    };
    let shown: Vec<&str> = shown.into_iter().map(String::as_str).collect();
    let whole = shown.join(" ");
    let tokens = value_tokens(&whole);
    let Meaning::Fits(after) = meaning(shorthand, &whole, &tokens) else {
        return None;
    };
    let gives = |longhand: PropertyId, text: &str| {
        let piece = after.iter().find(|(p, _)| *p == longhand);
        matches!(piece, Some((_, Piece::Part(part))) if *whole.cut(*part) == *text)
    };
    let all = longhands
        .iter()
        .zip(&sides)
        .all(|(l, text)| gives(*l, text));
    (all && after.len() == pieces.len()).then_some(whole)
}
