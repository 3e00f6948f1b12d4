//! Styles of single elements, worked out on demand and remembered: one cache for each step.
//!
//! The road of one value: the rules that match ([`Styles::matched`]), the contest of the property
//! ([`Styles::contest`]), the winner's value with its variables put in, inheritance or the initial
//! value where there is none, and the computed value ([`Styles::value`], in `values.rs`).

use std::cell::{Cell, RefCell};
use std::fmt;
use std::sync::Arc;

use rustc_hash::FxHashMap;

use crate::markup::ElementId;
use crate::page::matching::matched::MatchedByPseudo;
use crate::page::style::declarations::Declarations;
use crate::page::style::font_state::FontState;
use crate::page::style::hints::{self, Hints};
use crate::page::style::substituted::Substituted;
use crate::page::style::value::Value;
use crate::page::target::{DeclarationRef, PropertyName, SheetRef, Target, known};
use crate::page::{Page, StyleSheet};
use crate::selector::Counted;
use crate::sheet::Sheet;
use crate::text::Text;
use crate::value::PropertyId;
use crate::value::logical::{self, WritingMode};

/// Styles of a page's elements.
pub struct Styles<'p> {
    pub(in crate::page) page: &'p Page,
    pub(in crate::page) known: Known,
}

/// What has been worked out of a page's styles.
#[derive(Default)]
pub(crate) struct Known {
    pub(in crate::page) matched: RefCell<FxHashMap<ElementId, MatchedByPseudo>>,
    attributes: RefCell<FxHashMap<ElementId, Option<Arc<StyleSheet>>>>,
    hints: RefCell<FxHashMap<ElementId, Option<Arc<Hints>>>>,
    pub(in crate::page) declared: RefCell<FxHashMap<Target, Arc<Declarations>>>,
    writing_modes: RefCell<FxHashMap<Target, WritingMode>>,
    pub(in crate::page) values: RefCell<FxHashMap<Target, FxHashMap<PropertyName, Arc<Value>>>>,
    /// What the element that a property is declared on hands down to those below it.
    pub(in crate::page) handed_down: RefCell<FxHashMap<(ElementId, PropertyName), Arc<Value>>>,
    /// Shorthands with their variables put in.
    pub(in crate::page) substituted: RefCell<FxHashMap<(Target, DeclarationRef), Arc<Substituted>>>,
    /// How many values are being worked out for the sake of others.
    pub(in crate::page) depth: Cell<usize>,
    pub(in crate::page) font_states: RefCell<FxHashMap<Target, FontState>>,
    pub(in crate::page) initial_values: RefCell<FxHashMap<PropertyId, Arc<Value>>>,
    pub(in crate::page) counted: Counted,
    /// The values being worked out that others may depend on, to find cycles.
    pub(in crate::page) open: RefCell<Vec<(Target, PropertyName)>>,
    /// Those of them that turned out to depend on themselves.
    pub(in crate::page) cyclic: RefCell<Vec<(Target, PropertyName)>>,
}

impl fmt::Debug for Known {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.debug_struct("Known").finish_non_exhaustive()
    }
}

impl fmt::Debug for Styles<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.debug_struct("Styles").finish_non_exhaustive()
    }
}

impl<'p> Styles<'p> {
    pub(in crate::page) fn new(page: &'p Page) -> Self {
        Styles::with(page, Known::default())
    }

    /// The styles of a page of which some is known.
    pub(in crate::page) fn with(page: &'p Page, known: Known) -> Self {
        Styles { page, known }
    }

    /// What has been worked out.
    pub(crate) fn into_known(self) -> Known {
        self.known
    }

    /// The page.
    pub fn page(&self) -> &'p Page {
        self.page
    }

    /// The sheet that an element's style attribute is, when it has one.
    pub fn attribute_sheet(&self, element: ElementId) -> Option<Arc<StyleSheet>> {
        if let Some(known) = self.known.attributes.borrow().get(&element) {
            return known.clone();
        }
        let document = self.page.document();
        let attribute = document.element(element).attribute_node("style");
        let sheet = attribute.map(|attribute| {
            let text = document.text();
            let sheet = if attribute.is_verbatim(text.source()) {
                Sheet::parse_attribute(text.clone(), attribute.value_span)
            } else {
                // The value has character references: its own text, placed by the attribute.
                let copy = Text::new(text.name(), &*attribute.value);
                let span = copy.span();
                Sheet::parse_attribute(copy, span)
            };
            StyleSheet::new(sheet, document.is_quirks())
        });
        self.known
            .attributes
            .borrow_mut()
            .insert(element, sheet.clone());
        sheet
    }

    /// The presentational hints of an element, when it has some.
    pub fn hints(&self, element: ElementId) -> Option<Arc<Hints>> {
        if let Some(known) = self.known.hints.borrow().get(&element) {
            return known.clone();
        }
        let hints = hints::hints(self.page.document(), element).map(Arc::new);
        self.known.hints.borrow_mut().insert(element, hints.clone());
        hints
    }

    /// The sheet that a reference names.
    pub fn sheet(&self, sheet: SheetRef) -> Arc<StyleSheet> {
        match sheet {
            SheetRef::Listed(at) => self.page.sheets[at as usize].styles.clone(),
            SheetRef::Attribute(element) => self
                .attribute_sheet(element)
                .expect("only an element with a style attribute is referred to"),
            SheetRef::Hints(element) => self
                .hints(element)
                .expect("only an element with hints is referred to")
                .styles
                .clone(),
        }
    }

    /// Whether a property is inherited; for a custom one as it is registered.
    pub fn inherits(&self, property: &PropertyName) -> bool {
        match property {
            PropertyName::Known(property) => property.facts().inherited,
            PropertyName::Custom(name) => self
                .page
                .registration(name)
                .is_none_or(|found| found.inherits),
        }
    }

    /// The property as the cascade knows it: a logical one is the physical one that it stands for.
    pub fn physical(&self, target: &Target, property: &PropertyName) -> PropertyName {
        match property {
            PropertyName::Known(id) if logical::is_logical(*id) => {
                PropertyName::Known(logical::physical(*id, self.writing_mode(target)))
            }
            other => other.clone(),
        }
    }

    pub(in crate::page) fn writing_mode(&self, target: &Target) -> WritingMode {
        if let Some(known) = self.known.writing_modes.borrow().get(target) {
            return *known;
        }
        let mode = self.value(target, &known(PropertyId::WRITING_MODE));
        let direction = self.value(target, &known(PropertyId::DIRECTION));
        let mode = WritingMode::new(mode.computed.text(), direction.computed.text());
        let mut known = self.known.writing_modes.borrow_mut();
        known.insert(target.clone(), mode);
        mode
    }
}
