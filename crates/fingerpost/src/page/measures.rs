//! What relative units refer to on an element, and which colour scheme it is in.

use std::cell::Cell;

use super::styles::{PropertyName, Styles, Target, known};
use super::values::pixels;
use crate::condition::{Axes, ContainerQuery};
use crate::markup::NodeId;
use crate::sheet::Kind;
use crate::value::PropertyId;
use crate::value::computed::{Container, MEDIUM_FONT_SIZE, Measures, NORMAL_LINE_HEIGHT};
use crate::value::substitution::value_tokens;
use crate::value::units::{self, Scale};

thread_local! {
    /// Whether it is being decided whether a scheme is dark.
    static DECIDING: Cell<bool> = const { Cell::new(false) };
}

/// Ends the decision, also where it ends in a panic.
struct Decided;

impl Drop for Decided {
    fn drop(&mut self) {
        DECIDING.set(false);
    }
}

impl Styles<'_> {
    /// Color Adjust 1 § 2.1: whether the used colour scheme is dark.
    pub(super) fn is_dark(&self, target: &Target) -> bool {
        // Which scheme is used may hang on a colour, which then is that of a light one.
        if DECIDING.replace(true) {
            return false;
        }
        let _decided = Decided;
        let scheme = self.value(target, &known(PropertyId::COLOR_SCHEME));
        let has = |word: &str| scheme.computed.split_ascii_whitespace().any(|w| w == word);
        let features = &self.page.conditions().features;
        let prefers = features.get("prefers-color-scheme");
        has("dark") && (!has("light") || prefers.is_some_and(|p| p == "dark"))
    }

    /// What container units refer to on a target.
    fn container_of(&self, target: &Target) -> Container {
        let nearest = |axes: Axes| {
            let query = ContainerQuery {
                name: None,
                condition: Vec::new(),
            };
            self.container(target, &query, axes)
        };
        let wide = nearest(Axes {
            inline: true,
            ..Axes::default()
        });
        let high = nearest(Axes {
            block: true,
            ..Axes::default()
        });
        let viewport = self.page.conditions().viewport;
        let size = |at: Option<NodeId>| match at {
            None => Some(viewport),
            Some(at) => self.given_size(at),
        };
        match (wide, high) {
            (None, None) => Container::Viewport,
            _ => match (size(wide), size(high)) {
                (Some(wide), Some(high)) => Container::Known(wide.width, high.height),
                _ => Container::OfLayout,
            },
        }
    }

    /// What relative units refer to on a target.
    pub(super) fn measures_of(&self, target: &Target) -> Measures {
        let PropertyName::Known(width) = known(PropertyId::WIDTH) else {
            unreachable!("the table has it");
        };
        self.measures(target, width, "1em")
    }

    /// What relative units of a property refer to.
    pub(super) fn measures(&self, target: &Target, property: PropertyId, text: &str) -> Measures {
        let viewport = self.page.conditions().viewport;
        let mut measures = Measures::initial(viewport.width, viewport.height);
        measures.resolution = self.page.conditions().resolution;
        if text.to_ascii_lowercase().contains("cq") {
            measures.container = self.container_of(target);
        }
        // Most values are words, colours and px.
        if !has_font_units(text)
            && !matches!(
                property,
                PropertyId::FONT_SIZE | PropertyId::LINE_HEIGHT | PropertyId::FONT_WEIGHT
            )
        {
            return measures;
        }
        let size_of =
            |target: &Target| pixels(&self.value(target, &known(PropertyId::FONT_SIZE)).computed);
        let height_of = |target: &Target, size: f64| {
            let height = self.value(target, &known(PropertyId::LINE_HEIGHT));
            match height.computed.parse::<f64>() {
                Ok(times) => times * size,
                Err(_) => pixels(&height.computed).unwrap_or(size * NORMAL_LINE_HEIGHT),
            }
        };
        let of_font = property == PropertyId::FONT_SIZE;
        let of_line = property == PropertyId::LINE_HEIGHT;
        let basis = if of_font {
            self.parent(target)
        } else {
            Some(target.clone())
        };
        let root = Target::from(self.page.document().root_element());
        if let Some(basis) = basis {
            measures.font_size = size_of(&basis).unwrap_or(MEDIUM_FONT_SIZE);
            if !of_line && !of_font {
                measures.line_height = height_of(&basis, measures.font_size);
            }
        }
        if !(of_font && *target == root) {
            measures.root_font_size = size_of(&root).unwrap_or(MEDIUM_FONT_SIZE);
            if !of_font && (!of_line || *target != root) {
                measures.root_line_height = height_of(&root, measures.root_font_size);
            }
        }
        measures
    }
}

/// Whether a value has lengths in units of a font or line.
pub(super) fn has_font_units(text: &str) -> bool {
    text.bytes().any(|b| b.is_ascii_digit())
        && value_tokens(text).iter().any(|token| {
            token.kind == Kind::Dimension
                && matches!(units::unit(&token.name(text)), Some((_, Scale::Font(_))))
        })
}
