//! The styles of all elements: elements with the same rules, below a parent of the same style, have the same.

use std::sync::Arc;

use super::groups::{Groups, StyleId};
use crate::markup::ElementId;
use crate::page::target::known;
use crate::page::{
    DeclarationRef, Page, PropertyContest, PropertyName, SheetRef, Styles, Target, Value,
    ValueSource,
};
use crate::value::{Dependencies, PropertyId};

/// Every element of a page with its style.
///
/// ```
/// use fingerpost::prelude::*;
///
/// let html = "<style>p { color: teal } p.big { margin: 1px }</style><p>a<p class=big>b<p>c";
/// let page = Page::new(Text::new("a.html", html));
/// let whole = page.whole();
///
/// let last = whole.elements().last().expect("there are elements");
/// let values: Vec<_> = last.values().collect();
/// let (property, value) = values.iter().find(|(p, _)| p.to_string() == "color").unwrap();
/// assert_eq!(value.computed, "rgb(0, 128, 128)");
/// assert_eq!(last.winner(property).map(|w| whole.place(w).to_string()).as_deref(), Some("a.html:1:12"));
/// // The first paragraph and the last are alike: their style was worked out once.
/// assert!(whole.style_count() < whole.elements().count());
/// ```
#[derive(Debug)]
pub struct WholePage<'p> {
    page: &'p Page,
    styles: &'p [Arc<Style>],
    groups: &'p Groups,
}

/// What all elements of one style have in common.
#[derive(Debug)]
pub(crate) struct Style {
    /// What its own declarations are about, sorted by name, each with its result.
    pub own: Vec<(PropertyName, Arc<Value>)>,
    /// What those were computed from besides their texts and what they inherit.
    pub asks: Dependencies,
}

impl<'p> WholePage<'p> {
    pub(in crate::page) fn of(page: &'p Page) -> WholePage<'p> {
        WholePage {
            page,
            styles: page.shared_styles(),
            groups: page.groups(),
        }
    }

    /// The page.
    pub fn page(&self) -> &'p Page {
        self.page
    }

    /// Every element in document order, with its style.
    pub fn elements(&self) -> impl Iterator<Item = ElementStyle<'_>> {
        let elements = self.page.document().elements().iter();
        elements
            .zip(&self.groups.of_element)
            .map(|(element, style)| ElementStyle {
                whole: self,
                element: *element,
                style: *style,
            })
    }

    /// An element with its style.
    pub fn element(&self, element: ElementId) -> ElementStyle<'_> {
        let place = self.page.document().element(element).index;
        ElementStyle {
            whole: self,
            element,
            style: self.groups.style_of(place),
        }
    }

    /// How many styles were worked out: as many as there are elements that differ.
    pub fn style_count(&self) -> usize {
        self.styles.len()
    }

    fn inherits(&self, property: &PropertyName) -> bool {
        match property {
            PropertyName::Known(id) => id.facts().inherited,
            PropertyName::Custom(name) => {
                let found = self.page.registration(name);
                found.is_none_or(|found| found.inherits)
            }
        }
    }

    /// Where a declaration stands.
    pub fn place(&self, declaration: DeclarationRef) -> crate::text::Place {
        let styles = self.page.styles();
        let sheet = styles.sheet(declaration.sheet);
        let span = sheet.sheet().declaration(declaration.id).span;
        sheet.sheet().place(span.start())
    }
}

/// An element with its style.
#[derive(Clone, Copy, Debug)]
pub struct ElementStyle<'w> {
    whole: &'w WholePage<'w>,
    element: ElementId,
    style: StyleId,
}

impl<'w> ElementStyle<'w> {
    /// The element.
    pub fn id(&self) -> ElementId {
        self.element
    }

    /// A number that elements of the same style have in common.
    pub fn style(&self) -> u32 {
        self.style
    }

    /// What the declarations of the element itself are about, sorted by name, each with its result: the
    /// physical longhands and the custom properties. Where a value names an element, that is one of the same
    /// style; [`ElementStyle::winner`] names the declaration on this one.
    pub fn own(&self) -> &'w [(PropertyName, Arc<Value>)] {
        &self.whole.styles[self.style as usize].own
    }

    /// Every value that some declaration sets, here or on an element above that this one inherits from; the
    /// element's own first. Properties that keep their initial value are left out.
    pub fn values(&self) -> impl Iterator<Item = (&'w PropertyName, &'w Value)> {
        let own = self.own();
        let mut seen: Vec<&'w PropertyName> = own.iter().map(|(name, _)| name).collect();
        let mut all: Vec<(&'w PropertyName, &'w Value)> = Vec::with_capacity(own.len());
        all.extend(own.iter().map(|(name, value)| (name, &**value)));
        let mut at = self.parent();
        while let Some(above) = at {
            for (name, value) in above.own() {
                if self.whole.inherits(name) && !seen.contains(&name) {
                    seen.push(name);
                    all.push((name, value));
                }
            }
            at = above.parent();
        }
        all.retain(|(_, value)| value.source != ValueSource::Initial);
        all.into_iter()
    }

    /// The value of a physical longhand or a custom property; none where no declaration sets it, so that it has its
    /// initial value.
    pub fn value(&self, property: &PropertyName) -> Option<&'w Value> {
        let mut at = Some(*self);
        while let Some(here) = at {
            if let Some(found) = self.whole.styles[here.style as usize].value(property) {
                return Some(found);
            }
            at = here.parent().filter(|_| self.whole.inherits(property));
        }
        None
    }

    fn parent(&self) -> Option<ElementStyle<'w>> {
        let document = self.whole.page.document();
        Some(self.whole.element(document.flat_parent(self.element)?))
    }

    /// The declaration that wins a property on the element itself.
    pub fn winner(&self, property: &PropertyName) -> Option<DeclarationRef> {
        match &self.whole.styles[self.style as usize]
            .value(property)?
            .source
        {
            ValueSource::Declared(reference) => Some(self.here(*reference)),
            _ => None,
        }
    }

    /// A declaration of an element of the same style, on this one.
    fn here(&self, reference: DeclarationRef) -> DeclarationRef {
        let sheet = match reference.sheet {
            SheetRef::Listed(at) => SheetRef::Listed(at),
            SheetRef::Attribute(_) => SheetRef::Attribute(self.element),
            SheetRef::Hints(_) => SheetRef::Hints(self.element),
        };
        DeclarationRef { sheet, ..reference }
    }

    /// The contest of a property, with every contender and why it lost.
    pub fn contest(&self, property: &PropertyName) -> PropertyContest {
        let styles = self.whole.page.styles();
        let target = Target::from(self.element);
        let physical = styles.physical(&target, property);
        styles.contest(&target, &physical)
    }
}

/// What other properties of the same element may depends on: with another value of one of these, all are worked out
/// again.
pub(super) const ASKED_BY_OTHERS: [PropertyId; 7] = [
    PropertyId::APPEARANCE,
    PropertyId::COLOR_SCHEME,
    PropertyId::DIRECTION,
    PropertyId::FONT_FAMILY,
    PropertyId::FONT_SIZE,
    PropertyId::LINE_HEIGHT,
    PropertyId::WRITING_MODE,
];

impl Style {
    /// What the declarations of the element itself give a property; none where none of them is about it.
    pub fn value(&self, property: &PropertyName) -> Option<&Value> {
        let found = self
            .own
            .binary_search_by(|(name, _)| by_name(name, property));
        Some(&self.own[found.ok()?].1)
    }

    /// The style of the same element with other declarations of some properties; none where all may be others.
    pub fn patched(
        &self,
        styles: &Styles<'_>,
        id: ElementId,
        properties: &[PropertyName],
    ) -> Option<Style> {
        let target = Target::from(id);
        let asked = |name: &PropertyName| matches!(name, PropertyName::Known(id) if ASKED_BY_OTHERS.contains(id));
        let mut changed: Vec<PropertyName> = properties
            .iter()
            .map(|property| styles.physical(&target, property))
            .collect();
        let goes_through = |value: &Value, name: &PropertyName| match name {
            PropertyName::Custom(name) => value.variables.iter().any(|step| *step.name == **name),
            PropertyName::Known(_) => false,
        };
        // What a custom property is made of may have changed with it.
        for (name, value) in &self.own {
            let hangs = properties
                .iter()
                .any(|property| goes_through(value, property));
            // A value that was not taken does not tell all that it went through.
            if hangs || value.fell_through.is_some() {
                changed.push(name.clone());
            }
        }
        changed.sort_by(by_name);
        changed.dedup();
        let mut own = self.own.clone();
        for property in changed {
            let found = own.binary_search_by(|(name, _)| by_name(name, &property));
            let spoken = styles.is_spoken_of(&target, &property);
            let value = spoken.then(|| styles.value(&target, &property));
            if asked(&property) {
                let before = found.ok().map(|at| &own[at].1.computed);
                if before != value.as_ref().map(|value| &value.computed) {
                    return None;
                }
            }
            match (found, value) {
                (Ok(at), Some(value)) => own[at].1 = value,
                (Ok(at), None) => {
                    own.remove(at);
                }
                (Err(at), Some(value)) => own.insert(at, (property, value)),
                (Err(_), None) => {}
            }
        }
        let asks = own.iter().map(|(_, value)| value.asks).collect();
        Some(Style { own, asks })
    }

    pub fn of(styles: &Styles<'_>, id: ElementId) -> Style {
        let target = Target::from(id);
        let mut own: Vec<(PropertyName, Arc<Value>)> = styles
            .declared_properties(&target)
            .into_iter()
            .map(|property| {
                let value = styles.value(&target, &property);
                (property, value)
            })
            .collect();
        // What nothing here is about may be another than above all the same: text in a monospace family has another
        // size, and engines draw drop-down lists in a line height of their own.
        let above = styles.parent(&target);
        for property in [PropertyId::FONT_SIZE, PropertyId::LINE_HEIGHT].map(known) {
            if own.iter().any(|(other, _)| *other == property) {
                continue;
            }
            let value = styles.value(&target, &property);
            let inherited = above.as_ref().map(|above| styles.value(above, &property));
            if inherited.is_none_or(|inherited| inherited.computed != value.computed) {
                own.push((property, value));
            }
        }
        own.sort_by(|(a, _), (b, _)| by_name(a, b));
        let asks = own.iter().map(|(_, value)| value.asks).collect();
        Style { own, asks }
    }
}

pub(super) fn by_name(a: &PropertyName, b: &PropertyName) -> std::cmp::Ordering {
    match (a, b) {
        (PropertyName::Known(a), PropertyName::Known(b)) => a.cmp(b),
        (PropertyName::Custom(a), PropertyName::Custom(b)) => a.cmp(b),
        (PropertyName::Known(_), PropertyName::Custom(_)) => std::cmp::Ordering::Less,
        (PropertyName::Custom(_), PropertyName::Known(_)) => std::cmp::Ordering::Greater,
    }
}
