//! What relative units refer to on an element, and which color scheme it is in.

use std::cell::Cell;

use crate::environment::{Axes, ContainerQuery};
use crate::markup::ElementId;
use crate::page::style::styles::Styles;
use crate::page::target::{Target, known};
use crate::value::value_context::{Container, MEDIUM_FONT_SIZE, Measures, NORMAL_LINE_HEIGHT};
use crate::value::{Dependencies, PropertyId};

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
    /// Color Adjust 1 § 2.1: whether the used color scheme is dark.
    pub(in crate::page) fn is_dark(&self, target: &Target) -> bool {
        // Which scheme is used may depends on a color, which then is that of a light one.
        if DECIDING.replace(true) {
            return false;
        }
        let _decided = Decided;
        let scheme = self.value(target, &known(PropertyId::COLOR_SCHEME));
        let has = |word: &str| scheme.computed.has(word);
        let features = &self.page.environment().features;
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
        let viewport = self.page.environment().viewport;
        let size = |at: Option<ElementId>| match at {
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
    pub(in crate::page) fn measures_of(&self, target: &Target) -> Measures {
        let lengths = Dependencies::FONT
            | Dependencies::LINE
            | Dependencies::ROOT_FONT
            | Dependencies::ROOT_LINE;
        self.measures(target, PropertyId::WIDTH, lengths)
    }

    /// What a value of a property refers to, as far as it asks.
    pub(in crate::page) fn measures(
        &self,
        target: &Target,
        property: PropertyId,
        asks: Dependencies,
    ) -> Measures {
        let viewport = self.page.environment().viewport;
        let mut measures = Measures::initial(viewport.width, viewport.height);
        measures.resolution = self.page.environment().resolution;
        if asks.contains(Dependencies::CONTAINER) {
            measures.container = self.container_of(target);
        }
        let of_font = property == PropertyId::FONT_SIZE;
        let of_line = property == PropertyId::LINE_HEIGHT;
        let basis = match of_font {
            true => self.parent(target),
            false => Some(target.clone()),
        };
        if let Some(basis) =
            basis.filter(|_| asks.intersects(Dependencies::FONT | Dependencies::LINE))
        {
            measures.font_size = self.font_size_in_px(&basis);
            if asks.contains(Dependencies::LINE) && !of_line && !of_font {
                measures.line_height = self.line_height_in_px(&basis, measures.font_size);
            }
        }
        let root = Target::from(self.page.document().root_element());
        let asks_root = asks.intersects(Dependencies::ROOT_FONT | Dependencies::ROOT_LINE);
        if asks_root && !(of_font && *target == root) {
            measures.root_font_size = self.font_size_in_px(&root);
            let goes_round = of_font || (of_line && *target == root);
            if asks.contains(Dependencies::ROOT_LINE) && !goes_round {
                let size = measures.root_font_size;
                measures.root_line_height = self.line_height_in_px(&root, size);
            }
        }
        measures
    }

    pub(in crate::page) fn font_size_in_px(&self, target: &Target) -> f64 {
        let size = self.value(target, &known(PropertyId::FONT_SIZE));
        size.computed.pixels().unwrap_or(MEDIUM_FONT_SIZE)
    }

    fn line_height_in_px(&self, target: &Target, font_size: f64) -> f64 {
        let height = self
            .value(target, &known(PropertyId::LINE_HEIGHT))
            .computed
            .clone();
        let times = height.number().map(|times| times * font_size);
        times
            .or(height.pixels())
            .unwrap_or(font_size * NORMAL_LINE_HEIGHT)
    }
}
