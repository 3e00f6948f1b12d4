//! What a property of an element results in, with every step that led there.

use std::sync::Arc;

use crate::markup::ElementId;
use crate::page::target::DeclarationRef;
use crate::value::Dependencies;
use crate::value::typed::Computed;

/// Where a value comes from.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum ValueSource {
    /// The contest's winner.
    Declared(DeclarationRef),
    /// The parent; the element whose own declaration it is, or the root for an initial value.
    Inherited {
        /// The element next up whose value is not inherited itself.
        from: ElementId,
    },
    /// Nobody: it is the property's initial value.
    Initial,
}

/// A custom property that a value went through.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct VariableStep {
    /// Its name, with the dashes.
    pub name: Arc<str>,
    /// Its value, with its own variables put in; none where it has no value and a fallback was
    /// taken.
    pub value: Option<Arc<str>>,
    /// The declaration that gives it.
    pub declaration: Option<DeclarationRef>,
    /// The element that the declaration is on.
    pub element: ElementId,
}

/// What a property of an element results in.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Value {
    /// The value that was declared, with variables put in; for a longhand set by a shorthand its
    /// part. The initial value where there is none.
    pub specified: Arc<str>,
    /// The computed value: what is inherited. [`Styles::resolved`](crate::page::Styles::resolved) is what CSSOM shows.
    pub computed: Computed,
    /// Where it comes from.
    pub source: ValueSource,
    /// The custom properties it went through, in order.
    pub variables: Arc<[VariableStep]>,
    /// Why the declared value was not taken after all (invalid at computed-value time).
    pub fell_through: Option<String>,
    /// Whether it is the guaranteed-invalid value that `var()` finds on its way round a cycle, which
    /// not even a registered initial value is in for.
    pub guaranteed_invalid: bool,
    /// What it was computed from besides its text; of an inherited value, what the value above was.
    pub asks: Dependencies,
}

impl Value {
    pub(in crate::page) fn new(
        specified: Arc<str>,
        computed: Computed,
        source: ValueSource,
    ) -> Value {
        Value {
            specified,
            computed,
            source,
            variables: Arc::default(),
            fell_through: None,
            guaranteed_invalid: false,
            asks: Dependencies::empty(),
        }
    }

    /// A value that is the text that was written.
    pub(in crate::page) fn written(text: &str, source: ValueSource) -> Value {
        let text: Arc<str> = text.into();
        Value::new(text.clone(), Computed::written(text), source)
    }
}
