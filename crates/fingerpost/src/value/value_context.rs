//! What relative units refer to: the sizes of fonts, lines, the viewport and containers.

use super::units::{Dimension, FontMeasure, Scale, Side, Unit};

/// What relative units refer to, in px.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Measures {
    /// The element's own font size (its parent's, while the font size itself is computed).
    pub font_size: f64,
    /// The root element's font size.
    pub root_font_size: f64,
    /// The element's line height.
    pub line_height: f64,
    /// The root element's line height.
    pub root_line_height: f64,
    /// The viewport's width.
    pub viewport_width: f64,
    /// The viewport's height.
    pub viewport_height: f64,
    /// Device pixels for each px.
    pub resolution: f64,
    /// What container units refer to.
    pub container: Container,
}

impl Measures {
    /// What units refer to without an element: the initial values.
    pub fn initial(viewport_width: f64, viewport_height: f64) -> Measures {
        Measures {
            font_size: MEDIUM_FONT_SIZE,
            root_font_size: MEDIUM_FONT_SIZE,
            line_height: MEDIUM_FONT_SIZE * NORMAL_LINE_HEIGHT,
            root_line_height: MEDIUM_FONT_SIZE * NORMAL_LINE_HEIGHT,
            viewport_width,
            viewport_height,
            resolution: 1.0,
            container: Container::Viewport,
        }
    }
}

/// What container units refer to.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Container {
    /// No container is around: the viewport (Conditional Rules 5 § 6).
    Viewport,
    /// One of a known size: its width and height.
    Known(f64, f64),
    /// One whose size only layout knows.
    OfLayout,
}

/// The initial font size: `medium`, which every engine takes for 16px.
pub const MEDIUM_FONT_SIZE: f64 = 16.0;

/// What `line-height: normal` is taken for where a unit needs it, since only a font can say:
/// the middle of the range that CSS 2 § 10.8 recommends.
pub const NORMAL_LINE_HEIGHT: f64 = 1.2;

/// Fonts 4 § 2.2: `normal`, the initial weight.
pub const NORMAL_FONT_WEIGHT: f64 = 400.0;

/// CSS Values 4 § 6.1.1: without a font, `ex` and `ch` are half an em, `ic` and `cap` one.
const HALF_AN_EM: f64 = 0.5;

impl Measures {
    /// How many px a length in a unit is; `None` where only layout knows (container units).
    pub fn pixels(&self, number: f64, unit: &Unit) -> Option<f64> {
        if unit.dimension != Dimension::Length {
            return None;
        }
        let size = match unit.scale {
            Scale::Fixed(size) => size,
            Scale::Font(measure) => match measure {
                FontMeasure::Em | FontMeasure::Ic | FontMeasure::Cap => self.font_size,
                FontMeasure::Rem | FontMeasure::Ric | FontMeasure::Rcap => self.root_font_size,
                FontMeasure::Ex | FontMeasure::Ch => self.font_size * HALF_AN_EM,
                FontMeasure::Rex | FontMeasure::Rch => self.root_font_size * HALF_AN_EM,
                FontMeasure::Lh => self.line_height,
                FontMeasure::Rlh => self.root_line_height,
            },
            Scale::Viewport(side) => of_side(side, self.viewport_width, self.viewport_height),
            Scale::Container(side) => match self.container {
                Container::Viewport => of_side(side, self.viewport_width, self.viewport_height),
                Container::Known(width, height) => of_side(side, width, height),
                Container::OfLayout => return None,
            },
        };
        Some(number * size)
    }
}

/// A hundredth of a side.
fn of_side(side: Side, width: f64, height: f64) -> f64 {
    let side = match side {
        Side::Width | Side::Inline => width,
        Side::Height | Side::Block => height,
        Side::Smallest => width.min(height),
        Side::Largest => width.max(height),
    };
    side / 100.0
}
