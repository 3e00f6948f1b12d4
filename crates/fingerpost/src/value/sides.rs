//! Shorthands of boxes: of two or four sides, of pairs, and of the lines around a box.

use super::facts::PropertyId;

/// Whether a shorthand takes one value for each of its longhands, or fewer that count for several.
pub(super) fn is_repeated(property: PropertyId) -> bool {
    let syntax = property.facts().syntax;
    matches!(syntax.rsplit_once('{'), Some((_, "1,4}" | "1,2}")))
}

/// Whether a shorthand names its two longhands one after the other, and one value is for both.
pub(super) fn is_pair(property: PropertyId) -> bool {
    matches!(
        property,
        PropertyId::GAP
            | PropertyId::PLACE_CONTENT
            | PropertyId::PLACE_ITEMS
            | PropertyId::PLACE_SELF
            | PropertyId::MIN_SIZE
            | PropertyId::MAX_SIZE
            | PropertyId::SIZE
            | PropertyId::CUE
            | PropertyId::PAUSE
            | PropertyId::REST
    )
}

/// The longhands of a shorthand of two or four sides, in the order in which it names them: top, right,
/// bottom, left; start, end; and so on (CSSOM, Logical Properties 1 § 4.1).
pub(crate) fn sides(shorthand: PropertyId) -> Option<Vec<PropertyId>> {
    let parts: Vec<PropertyId> = shorthand.parts().collect();
    let of_sides = is_repeated(shorthand) || is_pair(shorthand);
    let is_whole = parts.len() == shorthand.longhands().len();
    (of_sides && is_whole && parts.iter().all(|part| !part.is_shorthand())).then_some(parts)
}

/// Whether a shorthand is of whole lines around a box: the border, a side of it, a pair of sides.
pub(super) fn is_border(property: PropertyId) -> bool {
    matches!(
        property,
        PropertyId::BORDER
            | PropertyId::BORDER_TOP
            | PropertyId::BORDER_RIGHT
            | PropertyId::BORDER_BOTTOM
            | PropertyId::BORDER_LEFT
            | PropertyId::BORDER_BLOCK
            | PropertyId::BORDER_BLOCK_START
            | PropertyId::BORDER_BLOCK_END
            | PropertyId::BORDER_INLINE
            | PropertyId::BORDER_INLINE_START
            | PropertyId::BORDER_INLINE_END
    )
}

/// Which part of the line of a border a longhand is.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(super) enum LinePart {
    Width,
    Style,
    Color,
}

impl LinePart {
    pub fn of(longhand: PropertyId) -> Option<LinePart> {
        Some(match longhand {
            PropertyId::BORDER_TOP_WIDTH
            | PropertyId::BORDER_RIGHT_WIDTH
            | PropertyId::BORDER_BOTTOM_WIDTH
            | PropertyId::BORDER_LEFT_WIDTH
            | PropertyId::BORDER_BLOCK_START_WIDTH
            | PropertyId::BORDER_BLOCK_END_WIDTH
            | PropertyId::BORDER_INLINE_START_WIDTH
            | PropertyId::BORDER_INLINE_END_WIDTH => LinePart::Width,
            PropertyId::BORDER_TOP_STYLE
            | PropertyId::BORDER_RIGHT_STYLE
            | PropertyId::BORDER_BOTTOM_STYLE
            | PropertyId::BORDER_LEFT_STYLE
            | PropertyId::BORDER_BLOCK_START_STYLE
            | PropertyId::BORDER_BLOCK_END_STYLE
            | PropertyId::BORDER_INLINE_START_STYLE
            | PropertyId::BORDER_INLINE_END_STYLE => LinePart::Style,
            PropertyId::BORDER_TOP_COLOR
            | PropertyId::BORDER_RIGHT_COLOR
            | PropertyId::BORDER_BOTTOM_COLOR
            | PropertyId::BORDER_LEFT_COLOR
            | PropertyId::BORDER_BLOCK_START_COLOR
            | PropertyId::BORDER_BLOCK_END_COLOR
            | PropertyId::BORDER_INLINE_START_COLOR
            | PropertyId::BORDER_INLINE_END_COLOR => LinePart::Color,
            _ => return None,
        })
    }
}
