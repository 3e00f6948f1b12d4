//! The size of monospace text.
//!
//! No standard says so, but all engines do it: where `monospace` is the only family, sizes that
//! come from a keyword (and the initial one is `medium`) are taken from 13px and not from 16px,
//! and sizes relative to those are scaled when the family changes between the two.

use super::styles::{Styles, Target, known};
use super::values::{Value, ValueSource};
use crate::sheet::Kind;
use crate::value::measures::MEDIUM_FONT_SIZE;
use crate::value::substitution::value_tokens;
use crate::value::units::Unit;
use crate::value::{PropertyId, is_css_wide};

/// What `medium` is in monospace text.
const MONOSPACE_FONT_SIZE: f64 = 13.0;

/// The keywords, smallest first, with their sizes in proportional and in monospace text.
const KEYWORDS: [(&str, f64, f64); 8] = [
    ("xx-small", 9.0, 9.0),
    ("x-small", 10.0, 10.0),
    ("small", 13.0, 12.0),
    ("medium", 16.0, 13.0),
    ("large", 18.0, 16.0),
    ("x-large", 24.0, 20.0),
    ("xx-large", 32.0, 26.0),
    ("xxx-large", 48.0, 39.0),
];

const MEDIUM: usize = 3;

/// How an element came by its font size.
#[derive(Clone, Copy, Debug)]
pub(super) struct FontState {
    size: f64,
    /// The keyword that it comes from, here or above.
    keyword: Option<usize>,
    /// Whether it comes from a length, here or above, which no family scales.
    absolute: bool,
    monospace: bool,
}

impl Styles<'_> {
    /// The computed font size, in px, given the value as the cascade and inheritance have it.
    pub(super) fn font_size(&self, target: &Target, value: &Value) -> f64 {
        let parent = self.parent(target);
        let above = match &parent {
            Some(parent) => {
                // Works the parent out, if nobody did.
                self.value(parent, &known(PropertyId::FONT_SIZE));
                self.font_states.borrow().get(parent).copied()
            }
            None => None,
        };
        let above = above.unwrap_or(FontState {
            size: MEDIUM_FONT_SIZE,
            keyword: Some(MEDIUM),
            absolute: false,
            monospace: false,
        });
        let family = self.value(target, &known(PropertyId::FONT_FAMILY));
        let state = FontState {
            monospace: family.computed.is("monospace"),
            ..above
        };
        let state = match said(value) {
            Said::Inherits => state.adapted(above.monospace),
            Said::Keyword(keyword) => FontState {
                keyword: Some(keyword),
                absolute: false,
                ..state
            }
            .adapted(!state.monospace),
            Said::Size { relative } => FontState {
                size: value.computed.pixels().unwrap_or(above.size),
                keyword: None,
                absolute: !relative || above.absolute,
                ..state
            }
            .adapted(above.monospace),
        };
        let mut states = self.font_states.borrow_mut();
        states.insert(target.clone(), state);
        state.size
    }
}

impl FontState {
    /// Scales the size where the family is another kind than `before`.
    fn adapted(self, before: bool) -> FontState {
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

enum Said {
    Inherits,
    Keyword(usize),
    Size { relative: bool },
}

fn said(value: &Value) -> Said {
    let text = value.specified.trim().to_ascii_lowercase();
    if !matches!(value.source, ValueSource::Declared(_)) {
        return Said::Inherits;
    }
    if text == "initial" {
        return Said::Keyword(MEDIUM);
    }
    if is_css_wide(&text) {
        return Said::Inherits;
    }
    if let Some(at) = KEYWORDS.iter().position(|(name, ..)| *name == text) {
        return Said::Keyword(at);
    }
    let tokens = value_tokens(&text);
    let relative = tokens.iter().any(|token| match token.kind {
        Kind::Percentage => true,
        Kind::Ident => matches!(&*token.name(&text), "larger" | "smaller"),
        Kind::Dimension => {
            let unit = token.name(&text);
            Unit::named(&unit).is_some_and(Unit::is_of_font) && !unit.starts_with('r')
        }
        _ => false,
    });
    Said::Size { relative }
}
