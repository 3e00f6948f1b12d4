//! The size of monospace text.
//!
//! No standard says so, but all engines do it: where `monospace` is the only family, sizes that
//! come from a keyword (and the initial one is `medium`) are taken from 13px and not from 16px,
//! and sizes relative to those are scaled when the family changes between the two.

use crate::page::style::font_state::{FontState, KEYWORDS, MEDIUM};
use crate::page::style::styles::Styles;
use crate::page::style::value::{Value, ValueSource};
use crate::page::target::{Target, known};
use crate::sheet::TokenKind;
use crate::value::substitution::value_tokens;
use crate::value::units::Unit;
use crate::value::value_context::MEDIUM_FONT_SIZE;
use crate::value::{PropertyId, is_css_wide};

impl Styles<'_> {
    /// The computed font size, in px, given the value as the cascade and inheritance have it.
    pub(in crate::page) fn font_size(&self, target: &Target, value: &Value) -> f64 {
        let parent = self.parent(target);
        let above = match &parent {
            Some(parent) => {
                // Works the parent out, where it is not known yet.
                self.value(parent, &known(PropertyId::FONT_SIZE));
                self.known.font_states.borrow().get(parent).copied()
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
        let state = match stated(value) {
            Stated::Inherits => state.adapted(above.monospace),
            Stated::Keyword(keyword) => FontState {
                keyword: Some(keyword),
                absolute: false,
                ..state
            }
            .adapted(!state.monospace),
            Stated::Size { relative } => FontState {
                size: value.computed.pixels().unwrap_or(above.size),
                keyword: None,
                absolute: !relative || above.absolute,
                ..state
            }
            .adapted(above.monospace),
        };
        let mut states = self.known.font_states.borrow_mut();
        states.insert(target.clone(), state);
        state.size
    }
}

enum Stated {
    Inherits,
    Keyword(usize),
    Size { relative: bool },
}

fn stated(value: &Value) -> Stated {
    let text = value.specified.trim().to_ascii_lowercase();
    if !matches!(value.source, ValueSource::Declared(_)) {
        return Stated::Inherits;
    }
    if text == "initial" {
        return Stated::Keyword(MEDIUM);
    }
    if is_css_wide(&text) {
        return Stated::Inherits;
    }
    if let Some(at) = KEYWORDS.iter().position(|(name, ..)| *name == text) {
        return Stated::Keyword(at);
    }
    let tokens = value_tokens(&text);
    let relative = tokens.iter().any(|token| match token.kind {
        TokenKind::Percentage => true,
        TokenKind::Ident => matches!(&*token.name(&text), "larger" | "smaller"),
        TokenKind::Dimension => {
            let unit = token.name(&text);
            Unit::named(&unit).is_some_and(Unit::is_of_font) && !unit.starts_with('r')
        }
        _ => false,
    });
    Stated::Size { relative }
}
