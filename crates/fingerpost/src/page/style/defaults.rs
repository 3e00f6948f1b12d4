//! The value where no declaration gives one: inherited, or initial (Cascading 5 § 7).

use crate::page::style::styles::Styles;
use crate::page::style::value::{Value, ValueSource};
use crate::page::target::{DeclarationRef, PropertyName, Target};
use crate::value::Dependencies;
use crate::value::computed::ValueContext;
use crate::value::grammar::{Definition, match_definition};
use crate::value::specified::Specified;
use crate::value::substitution::value_tokens;
use crate::value::typed::Computed;
use crate::value::value_context::Measures;
use std::sync::Arc;

impl Styles<'_> {
    /// Cascade 5 § 7.3.
    pub(in crate::page) fn wide(
        &self,
        word: &str,
        target: &Target,
        property: &PropertyName,
        reference: DeclarationRef,
    ) -> Value {
        let inherits = match word {
            "inherit" => true,
            "initial" => false,
            _ => self.inherits(property),
        };
        let mut value = if inherits {
            self.inherited(target, property)
        } else {
            self.initial(target, property)
        };
        // A custom property that is `initial` has no value at all: `var()` takes its fallback
        // (Custom Properties 1 § 2). So it is not shown as declared.
        if let PropertyName::Custom(_) = property {
            return value;
        }
        value.specified = word.into();
        value.source = ValueSource::Declared(reference);
        value
    }

    pub(in crate::page) fn default(
        &self,
        target: &Target,
        property: &PropertyName,
        fell_through: Option<String>,
    ) -> Value {
        let mut value = if self.inherits(property) {
            self.inherited(target, property)
        } else {
            self.initial(target, property)
        };
        value.fell_through = fell_through;
        value
    }

    pub(super) fn inherited(&self, target: &Target, property: &PropertyName) -> Value {
        let Some(parent) = self.inherited_from(target, property) else {
            return self.initial(target, property);
        };
        if !self.inherits(property) && self.is_slotted_by_engines(target) {
            return self.initial(target, property);
        }
        let above = self.value(&parent, property);
        let source = match &above.source {
            ValueSource::Inherited { from } => ValueSource::Inherited { from: *from },
            ValueSource::Declared(_) => ValueSource::Inherited {
                from: parent.element,
            },
            ValueSource::Initial => ValueSource::Initial,
        };
        Value {
            // An initial color above, say, is another one in another color scheme.
            asks: above.asks,
            ..Value::new(above.specified.clone(), above.computed.clone(), source)
        }
    }

    /// HTML § 15.5.17: engines put the content of a drop-down into their own slot, which has the initial
    /// value of what is not inherited by itself.
    pub(super) fn is_slotted_by_engines(&self, target: &Target) -> bool {
        let document = self.page.document();
        let element = document.element(target.element);
        let held = element.is_html("option") || element.is_html("optgroup");
        let parent = document.parent_element(target.element);
        held && target.pseudo.is_none()
            && parent.is_some_and(|parent| document.element(parent).is_html("select"))
    }

    pub(super) fn initial(&self, target: &Target, property: &PropertyName) -> Value {
        if let Some(shared) = self.shared_initial(target, property) {
            return (*shared).clone();
        }
        let PropertyName::Custom(name) = property else {
            unreachable!("every other property has an initial value");
        };
        let registration = self.page.registration(name);
        let specified = registration.and_then(|r| r.initial.as_deref());
        let specified = specified.unwrap_or_default();
        let syntax = registration.and_then(|r| r.syntax.as_ref());
        let computed = syntax.and_then(|syntax| self.typed_initial(syntax, specified));
        match computed {
            Some(computed) => Value {
                asks: Dependencies::VIEWPORT,
                ..Value::new(specified.into(), computed, ValueSource::Initial)
            },
            None => Value::written(specified, ValueSource::Initial),
        }
    }

    /// The initial value of a property of the standards, shared by all elements where it depends on none.
    pub(super) fn shared_initial(
        &self,
        target: &Target,
        property: &PropertyName,
    ) -> Option<Arc<Value>> {
        let PropertyName::Known(id) = property else {
            return None;
        };
        if let Some(known) = self.known.initial_values.borrow().get(id) {
            return Some(known.clone());
        }
        let text = id.facts().initial;
        let specified = self.page.readings.specified(*id, text, || None);
        let asks = specified
            .as_ref()
            .map_or(Dependencies::empty(), |s| s.asks());
        let computed = match specified {
            Some(specified) => self.compute(target, *id, &specified),
            None => Computed::written(text),
        };
        let value = Arc::new(Value {
            asks,
            ..Value::new(text.into(), computed, ValueSource::Initial)
        });
        // A system color is another one in each color scheme.
        if asks.is_of_page() {
            self.known
                .initial_values
                .borrow_mut()
                .insert(*id, value.clone());
        }
        Some(value)
    }

    /// An initial value depends on nothing of the element.
    pub(super) fn typed_initial(&self, syntax: &Definition, text: &str) -> Option<Computed> {
        let tokens = value_tokens(text);
        let matched = match_definition(syntax, text, &tokens).ok()?;
        let viewport = self.page.environment().viewport;
        let measures = Measures::initial(viewport.width, viewport.height);
        let specified = Specified::read_registered(text, &tokens, &matched);
        Some(specified.computed(&ValueContext::of_nothing(&measures)))
    }
}
