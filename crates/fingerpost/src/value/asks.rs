//! What a value depends on besides its own text, so that only that is looked up.

use bitflags::bitflags;

use super::units::{FontMeasure, Scale, Unit};

bitflags! {
    /// What a value depends on besides its own text.
    #[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
    pub struct Dependencies: u16 {
        /// The element's font size; for `font-size` its parent's.
        const FONT = 1;
        /// The element's line height.
        const LINE = 1 << 1;
        /// The root element's font size.
        const ROOT_FONT = 1 << 2;
        /// The root element's line height.
        const ROOT_LINE = 1 << 9;
        /// The viewport.
        const VIEWPORT = 1 << 3;
        /// The size of a query container.
        const CONTAINER = 1 << 4;
        /// Device pixels for each px.
        const RESOLUTION = 1 << 5;
        /// Whether the used color scheme is dark.
        const SCHEME = 1 << 6;
        /// The parent's color.
        const PARENT_COLOR = 1 << 7;
        /// The parent's font weight.
        const PARENT_WEIGHT = 1 << 8;
    }
}

impl Dependencies {
    /// What a length in a unit depends on.
    pub fn of(unit: &Unit) -> Dependencies {
        match unit.scale {
            Scale::Fixed(_) => Dependencies::empty(),
            Scale::Font(FontMeasure::Rlh) => Dependencies::ROOT_LINE,
            Scale::Font(measure) if measure.is_of_root() => Dependencies::ROOT_FONT,
            Scale::Font(FontMeasure::Lh) => Dependencies::FONT | Dependencies::LINE,
            Scale::Font(_) => Dependencies::FONT,
            Scale::Viewport(_) => Dependencies::VIEWPORT,
            Scale::Container(_) => Dependencies::CONTAINER | Dependencies::VIEWPORT,
        }
    }

    /// Whether the answers are the same on every element of a page, its root aside.
    pub fn is_of_page(self) -> bool {
        (Dependencies::VIEWPORT
            | Dependencies::RESOLUTION
            | Dependencies::ROOT_FONT
            | Dependencies::ROOT_LINE)
            .contains(self)
    }
}
