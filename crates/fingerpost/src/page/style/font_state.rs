//! How an element came by its font size, which decides whether another family changes it.

use crate::value::value_context::MEDIUM_FONT_SIZE;

/// What `medium` is in monospace text.
const MONOSPACE_FONT_SIZE: f64 = 13.0;

/// The keywords, smallest first, with their sizes in proportional and in monospace text.
pub(in crate::page) const KEYWORDS: [(&str, f64, f64); 8] = [
    ("xx-small", 9.0, 9.0),
    ("x-small", 10.0, 10.0),
    ("small", 13.0, 12.0),
    ("medium", 16.0, 13.0),
    ("large", 18.0, 16.0),
    ("x-large", 24.0, 20.0),
    ("xx-large", 32.0, 26.0),
    ("xxx-large", 48.0, 39.0),
];

pub(in crate::page) const MEDIUM: usize = 3;

/// How an element came by its font size.
#[derive(Clone, Copy, Debug)]
pub(in crate::page) struct FontState {
    pub size: f64,
    /// The keyword that it comes from, here or above.
    pub keyword: Option<usize>,
    /// Whether it comes from a length, here or above, which no family scales.
    pub absolute: bool,
    pub monospace: bool,
}

impl FontState {
    /// Scales the size where the family is another kind than `before`.
    pub fn adapted(self, before: bool) -> FontState {
        if self.absolute || self.monospace == before {
            return self;
        }
        let size = match self.keyword {
            Some(at) if self.monospace => KEYWORDS[at].2,
            Some(at) => KEYWORDS[at].1,
            None if self.monospace => self.size * MONOSPACE_FONT_SIZE / MEDIUM_FONT_SIZE,
            None => self.size * MEDIUM_FONT_SIZE / MONOSPACE_FONT_SIZE,
        };
        FontState { size, ..self }
    }
}
