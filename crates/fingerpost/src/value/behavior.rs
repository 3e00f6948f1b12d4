//! How each property behaves beyond its grammar, in one table: which single values have a rule of their
//! own, in which order CSSOM writes the parts, and which other properties its resolved value depends on.
//!
//! What the standards' extracts say in data (grammar, initial value, inheritance, what it applies to)
//! is in [`facts`](super::facts).

use super::facts::PropertyId as P;

/// How a property behaves.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Behavior {
    /// The rule for a value of one word or number.
    pub alone: Option<Alone>,
    /// The order in which the parts of the computed value are written.
    pub order: Order,
    /// Whether its lengths are snapped as border widths (Values 4 § 5.3).
    pub snapped: bool,
    /// How CSSOM resolves it.
    pub resolved: Resolved,
}

/// A rule for values of one word or number.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Alone {
    FontSize,
    FontWeight,
    FontWidth,
    LineHeight,
    LineWidth,
    Break,
    WordSpacing,
    OffsetRotate,
    CornerShape,
    Opacity,
}

/// The order in which the parts of a value are written, and the form of each.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Order {
    /// As they stand.
    AsWritten,
    /// Shadows of at most so many lengths.
    Shadows(usize),
    Filters,
    Display,
    ColorScheme,
    /// Names of counters, each with a number; where none stands, with this one.
    Counters(i32),
    Content,
    FontFeatures,
    FontVariations,
    GridLine,
    GridAreas,
    Overflow,
    WritingMode,
    AspectRatio,
    Dashes,
    /// A number is so many px.
    StrokeLength,
    DecorationLine,
    EmphasisPosition,
    Rotate,
    Scale,
    Easing,
    Clip,
    TextSizeAdjust,
    LetterSpacing,
    Images,
    Positions,
    /// Each of a list of offsets counts from the start.
    Offsets,
    Origin,
    BackgroundSize,
    /// A size of a box.
    Size,
    Translate,
    PositionArea,
}

/// How CSSOM § 9 resolves a computed value with the help of other properties.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Resolved {
    /// It doesn't.
    AsComputed,
    /// A border's width: none where its style draws no line.
    BorderWidth(P),
    BorderStyle,
    BorderColor,
    Padding,
    Radius,
    /// `auto` is the color.
    AutoColor,
    ContainIntrinsicSize,
    Display,
    Float,
    FontSize,
    JustifyItems,
    LineHeight,
    MinimumSize,
    /// It follows the overflow of the other axis.
    Overflow(P),
    TextAlign,
    UserSelect,
}

/// The behavior of most properties.
const PLAIN: Behavior = Behavior {
    alone: None,
    order: Order::AsWritten,
    snapped: false,
    resolved: Resolved::AsComputed,
};

const fn alone(rule: Alone) -> Behavior {
    Behavior {
        alone: Some(rule),
        ..PLAIN
    }
}

const fn order(order: Order) -> Behavior {
    Behavior { order, ..PLAIN }
}

const fn resolved(resolved: Resolved) -> Behavior {
    Behavior { resolved, ..PLAIN }
}

const LINE_WIDTH: Behavior = Behavior {
    snapped: true,
    ..alone(Alone::LineWidth)
};

const fn border_width(style: P) -> Behavior {
    Behavior {
        resolved: Resolved::BorderWidth(style),
        ..LINE_WIDTH
    }
}

const fn overflow(other: P) -> Behavior {
    Behavior {
        resolved: Resolved::Overflow(other),
        ..order(Order::Overflow)
    }
}

impl Behavior {
    /// The behavior of a property.
    pub(crate) const fn of(property: P) -> Behavior {
        match property {
            P::ANIMATION_TIMING_FUNCTION | P::TRANSITION_TIMING_FUNCTION => order(Order::Easing),
            P::ASPECT_RATIO => order(Order::AspectRatio),
            P::BACKDROP_FILTER | P::FILTER => order(Order::Filters),
            P::BACKGROUND_IMAGE | P::BORDER_IMAGE_SOURCE | P::LIST_STYLE_IMAGE | P::MASK_IMAGE => {
                order(Order::Images)
            }
            P::BACKGROUND_SIZE | P::MASK_SIZE => order(Order::BackgroundSize),
            P::BORDER_TOP_COLOR
            | P::BORDER_RIGHT_COLOR
            | P::BORDER_BOTTOM_COLOR
            | P::BORDER_LEFT_COLOR => resolved(Resolved::BorderColor),
            P::BORDER_TOP_STYLE
            | P::BORDER_RIGHT_STYLE
            | P::BORDER_BOTTOM_STYLE
            | P::BORDER_LEFT_STYLE => resolved(Resolved::BorderStyle),
            P::BORDER_TOP_WIDTH => border_width(P::BORDER_TOP_STYLE),
            P::BORDER_RIGHT_WIDTH => border_width(P::BORDER_RIGHT_STYLE),
            P::BORDER_BOTTOM_WIDTH => border_width(P::BORDER_BOTTOM_STYLE),
            P::BORDER_LEFT_WIDTH => border_width(P::BORDER_LEFT_STYLE),
            P::BORDER_BLOCK_START_WIDTH
            | P::BORDER_BLOCK_END_WIDTH
            | P::BORDER_INLINE_START_WIDTH
            | P::BORDER_INLINE_END_WIDTH
            | P::COLUMN_RULE_WIDTH
            | P::OUTLINE_WIDTH
            | P::ROW_RULE_WIDTH => LINE_WIDTH,
            P::WEBKIT_TEXT_STROKE_WIDTH => alone(Alone::LineWidth),
            P::BORDER_TOP_LEFT_RADIUS
            | P::BORDER_TOP_RIGHT_RADIUS
            | P::BORDER_BOTTOM_LEFT_RADIUS
            | P::BORDER_BOTTOM_RIGHT_RADIUS => resolved(Resolved::Radius),
            P::BOX_SHADOW => order(Order::Shadows(4)),
            P::BREAK_AFTER | P::BREAK_BEFORE => alone(Alone::Break),
            P::CARET_COLOR | P::OUTLINE_COLOR => resolved(Resolved::AutoColor),
            P::CLIP => order(Order::Clip),
            P::COLOR_SCHEME => order(Order::ColorScheme),
            P::CONTAIN_INTRINSIC_HEIGHT | P::CONTAIN_INTRINSIC_WIDTH => {
                resolved(Resolved::ContainIntrinsicSize)
            }
            P::CONTENT => order(Order::Content),
            P::CORNER_TOP_LEFT_SHAPE
            | P::CORNER_TOP_RIGHT_SHAPE
            | P::CORNER_BOTTOM_LEFT_SHAPE
            | P::CORNER_BOTTOM_RIGHT_SHAPE
            | P::CORNER_START_START_SHAPE
            | P::CORNER_START_END_SHAPE
            | P::CORNER_END_START_SHAPE
            | P::CORNER_END_END_SHAPE => alone(Alone::CornerShape),
            P::COUNTER_INCREMENT => order(Order::Counters(1)),
            P::COUNTER_RESET | P::COUNTER_SET => order(Order::Counters(0)),
            P::DISPLAY => Behavior {
                resolved: Resolved::Display,
                ..order(Order::Display)
            },
            P::FILL_OPACITY
            | P::FLOOD_OPACITY
            | P::OPACITY
            | P::STOP_OPACITY
            | P::STROKE_OPACITY => alone(Alone::Opacity),
            P::FLOAT => resolved(Resolved::Float),
            P::FONT_FEATURE_SETTINGS => order(Order::FontFeatures),
            P::FONT_VARIATION_SETTINGS => order(Order::FontVariations),
            P::FONT_SIZE => Behavior {
                resolved: Resolved::FontSize,
                ..alone(Alone::FontSize)
            },
            P::FONT_WEIGHT => alone(Alone::FontWeight),
            P::FONT_WIDTH => alone(Alone::FontWidth),
            P::GRID_COLUMN_END | P::GRID_COLUMN_START | P::GRID_ROW_END | P::GRID_ROW_START => {
                order(Order::GridLine)
            }
            P::GRID_TEMPLATE_AREAS => order(Order::GridAreas),
            P::JUSTIFY_ITEMS => resolved(Resolved::JustifyItems),
            P::LETTER_SPACING => order(Order::LetterSpacing),
            P::LINE_HEIGHT => Behavior {
                resolved: Resolved::LineHeight,
                ..alone(Alone::LineHeight)
            },
            P::BACKGROUND_POSITION_X | P::BACKGROUND_POSITION_Y => order(Order::Offsets),
            P::MASK_POSITION | P::OBJECT_POSITION => order(Order::Positions),
            P::BLOCK_SIZE
            | P::HEIGHT
            | P::INLINE_SIZE
            | P::MAX_BLOCK_SIZE
            | P::MAX_HEIGHT
            | P::MAX_INLINE_SIZE
            | P::MAX_WIDTH
            | P::MIN_BLOCK_SIZE
            | P::MIN_INLINE_SIZE
            | P::WIDTH => order(Order::Size),
            P::MIN_HEIGHT | P::MIN_WIDTH => Behavior {
                resolved: Resolved::MinimumSize,
                ..order(Order::Size)
            },
            P::OFFSET_ROTATE => alone(Alone::OffsetRotate),
            P::OVERFLOW_BLOCK | P::OVERFLOW_INLINE => order(Order::Overflow),
            P::OVERFLOW_X => overflow(P::OVERFLOW_Y),
            P::OVERFLOW_Y => overflow(P::OVERFLOW_X),
            P::PADDING_TOP | P::PADDING_RIGHT | P::PADDING_BOTTOM | P::PADDING_LEFT => {
                resolved(Resolved::Padding)
            }
            P::POSITION_AREA => order(Order::PositionArea),
            P::PERSPECTIVE_ORIGIN | P::TRANSFORM_ORIGIN => order(Order::Origin),
            P::ROTATE => order(Order::Rotate),
            P::SCALE => order(Order::Scale),
            P::STROKE_DASHARRAY => order(Order::Dashes),
            P::STROKE_DASHOFFSET | P::STROKE_WIDTH => order(Order::StrokeLength),
            P::TEXT_ALIGN => resolved(Resolved::TextAlign),
            P::TEXT_DECORATION_LINE => order(Order::DecorationLine),
            P::TEXT_EMPHASIS_POSITION => order(Order::EmphasisPosition),
            P::TEXT_SHADOW => order(Order::Shadows(3)),
            P::TEXT_SIZE_ADJUST => order(Order::TextSizeAdjust),
            P::TRANSLATE => order(Order::Translate),
            P::USER_SELECT => resolved(Resolved::UserSelect),
            P::WORD_SPACING => alone(Alone::WordSpacing),
            P::WRITING_MODE => order(Order::WritingMode),
            _ => PLAIN,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_the_standards_snap_is_snapped() {
        for property in P::all().filter(|p| p.longhands().len() == 1) {
            let told = property.facts().computed;
            let snapped = told.ends_with("snapped as a border width");
            assert_eq!(Behavior::of(property).snapped, snapped, "{property:?}");
        }
    }
}
