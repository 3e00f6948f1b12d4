//! Container queries of an element: which container answers, and what it says.

use std::sync::Arc;

use crate::environment::{Axes, ContainerQuery, Containers, Size, Truth, Verdict, Viewport};
use crate::markup::ElementId;
use crate::page::matching::rules::{Blocked, ContainerGate};
use crate::page::style::styles::Styles;
use crate::page::target::{PropertyName, Target, known};
use crate::selector::{Matcher, SelectorList};
use crate::value::logical::WritingMode;
use crate::value::substitution::value_tokens;
use crate::value::value_context::Measures;
use crate::value::{PropertyId, is_css_wide};

impl Styles<'_> {
    /// The first `@container` rule around a rule of a sheet that does not hold for a target.
    pub(in crate::page) fn closed_container(
        &self,
        target: &Target,
        gate: &ContainerGate,
    ) -> Option<Arc<Blocked>> {
        // From the root down: containers may ask their own containers, and a tree may be deep.
        for above in self.page.document().flat_trail(target.element) {
            let above = Target::from(above);
            if above != *target {
                self.declarations_of(&above);
            }
        }
        let mut undecided = None;
        let mut next = Some(gate);
        while let Some(gate) = next {
            match self.ask(target, gate) {
                (Truth::True, ..) => {}
                (Truth::Undecided, Some(container), _) => {
                    undecided.get_or_insert(Blocked::Undecided {
                        rule: gate.rule,
                        condition: gate.head.clone(),
                        container,
                    });
                }
                (truth, _, because) => {
                    return Some(Arc::new(Blocked::Condition {
                        rule: gate.rule,
                        condition: gate.head.clone(),
                        verdict: Verdict { truth, because },
                    }));
                }
            }
            next = gate.outer.as_deref();
        }
        undecided.map(Arc::new)
    }

    /// One rule's queries: the best of their answers, with the container of an undecided one.
    fn ask(
        &self,
        target: &Target,
        gate: &ContainerGate,
    ) -> (Truth, Option<ElementId>, Vec<String>) {
        let source = &*gate.prelude;
        let mut best = (Truth::False, None, Vec::new());
        for query in &gate.queries {
            let axes = query.axes(source);
            let Some(container) = self.container(target, query, axes) else {
                best.2.push(missing(query, axes));
                continue;
            };
            let view = View {
                styles: self,
                container,
            };
            let verdict = query.evaluate(source, &view);
            match verdict.truth {
                Truth::True => return (Truth::True, Some(container), verdict.because),
                Truth::Undecided => best = (Truth::Undecided, Some(container), verdict.because),
                _ => best.2.extend(verdict.because),
            }
        }
        best
    }

    /// Conditional Rules 5 § 5: the nearest ancestor in the flat tree that can answer the query.
    pub(in crate::page) fn container(
        &self,
        target: &Target,
        query: &ContainerQuery,
        axes: Axes,
    ) -> Option<ElementId> {
        let document = self.page.document();
        let mut at = match target.pseudo {
            Some(_) => Some(target.element),
            None => document.flat_parent(target.element),
        };
        while let Some(candidate) = at {
            if self.can_answer(candidate, query, axes) {
                return Some(candidate);
            }
            at = document.flat_parent(candidate);
        }
        None
    }

    /// The size that was given for an element.
    pub(in crate::page) fn given_size(&self, element: ElementId) -> Option<Viewport> {
        let matcher = Matcher::new(self.page.document(), self.page.states());
        let mut given = self.page.container_sizes.iter();
        given
            .find(|(list, _)| matcher.matches_list(list, element))
            .map(|(_, size)| *size)
    }

    fn can_answer(&self, candidate: ElementId, query: &ContainerQuery, axes: Axes) -> bool {
        let target = Target::from(candidate);
        let words = |property: PropertyId| self.value(&target, &known(property)).computed.clone();
        if let Some(name) = &query.name {
            let names = words(PropertyId::CONTAINER_NAME);
            if !names.has(name) {
                return false;
            }
        }
        if !axes.any() {
            return true;
        }
        let kind = words(PropertyId::CONTAINER_TYPE);
        let mode: WritingMode = self.writing_mode(&target);
        let only_inline = !axes.block
            && if mode.vertical {
                !axes.width
            } else {
                !axes.height
            };
        kind.has("size") || (kind.has("inline-size") && only_inline)
    }
}

fn missing(query: &ContainerQuery, axes: Axes) -> String {
    let named = match &query.name {
        Some(name) => format!(" named {name}"),
        None => String::new(),
    };
    let sized = if axes.any() {
        " with a container-type that tells this size"
    } else {
        ""
    };
    format!("no element around it is a container{named}{sized}")
}

/// A container as its queries see it.
struct View<'a, 'p> {
    styles: &'a Styles<'p>,
    container: ElementId,
}

impl Containers for View<'_, '_> {
    fn size(&self) -> Size {
        match self.styles.given_size(self.container) {
            Some(size) => Size::Given(size),
            None => Size::OfLayout,
        }
    }

    fn is_vertical(&self) -> bool {
        let target = Target::from(self.container);
        self.styles.writing_mode(&target).vertical
    }

    fn measures(&self) -> Measures {
        let target = Target::from(self.container);
        self.styles.measures_of(&target)
    }

    fn style(&self, property: &str, value: Option<&str>) -> Option<(bool, String)> {
        let name = PropertyName::named(property)?;
        let target = Target::from(self.container);
        let present = self.styles.value(&target, &name);
        let present = present.computed.text().trim().to_owned();
        let wanted = match (value, &name) {
            (None, PropertyName::Custom(_)) => return Some((!present.is_empty(), present)),
            (None, PropertyName::Known(property)) => {
                let initial = self
                    .styles
                    .as_if(&target, *property, property.facts().initial);
                return Some((initial != *present, present));
            }
            (Some(value), PropertyName::Known(property)) => {
                self.styles.as_if(&target, *property, value).to_string()
            }
            (Some(value), PropertyName::Custom(_)) if is_css_wide(value) => {
                return Some(((present.is_empty()) == (value != "inherit"), present));
            }
            (Some(value), PropertyName::Custom(_)) => self.styles.with_variables(&target, value)?,
        };
        Some((words(&present) == words(&wanted), present))
    }
}

/// A value's tokens, so that white space and comments don't count.
fn words(value: &str) -> Vec<&str> {
    let tokens = value_tokens(value);
    let words = tokens.iter().filter(|t| !t.kind.is_blank());
    words.map(|t| t.source(value)).collect()
}

/// Reads the sizes that were given for containers.
pub(in crate::page) fn given_sizes(sizes: &[(String, Viewport)]) -> Vec<(SelectorList, Viewport)> {
    sizes
        .iter()
        .filter_map(|(selector, size)| Some((SelectorList::parse(selector).ok()?, *size)))
        .collect()
}
