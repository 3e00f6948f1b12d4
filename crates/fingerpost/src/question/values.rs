//! `values`: what the properties of an element result in.
//!
//! ```
//! use fingerpost::prelude::*;
//!
//! let html = "<style>body { color: teal } p { margin-top: 2em }</style><body><p>Boats";
//! let page = Page::new(Text::new("a.html", html));
//! let ask = page.ask();
//! let p = ask.find_one("p")?;
//! let answer = ask.values(&p, Some("color"), false);
//! let color = &answer.values[0];
//! assert_eq!((color.property.as_str(), color.value.as_str()), ("color", "rgb(0, 128, 128)"));
//! assert_eq!(color.source.as_str(), "inherited");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use std::collections::{BTreeMap, HashMap};
use std::sync::Arc;

use serde::{Deserialize, Serialize};

use super::ElementSummary;
use super::codes::ValueFrom;
use super::contrast::{ContrastAnswer, contrast};
use super::describe;
use super::why::{DeclarationAnswer, ValueAnswer};
use crate::markup::ElementId;
use crate::page::{Page, PropertyName, Styles, Target, ValueSource};
use crate::parallel;
use crate::text::Place;
use crate::value::PropertyId;

/// The computed values of an element.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct ValuesAnswer {
    /// The page.
    pub page: String,
    /// The element.
    pub element: ElementSummary,
    /// The values, sorted by property, custom properties last.
    pub values: Vec<ValueRow>,
    /// How its text stands out from its background, where it has text and its color is among the values.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub contrast: Option<ContrastAnswer>,
}

/// A computed value and where it comes from.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct ValueRow {
    /// The longhand or custom property.
    pub property: String,
    /// Its computed value.
    pub value: String,
    /// `declared`, `inherited` or `initial`.
    pub source: ValueFrom,
    /// Where the declaration stands that gives it, here or on the ancestor it is inherited from.
    pub place: Option<Place>,
    /// The shorthand that gives it, where one does.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub shorthand: Option<String>,
    /// The custom properties that it went through.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub through: Vec<String>,
    /// The ancestor that it is inherited from.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub inherited_from: Option<ElementSummary>,
}

/// A value opened: the way that each longhand came by it.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct OpenedAnswer {
    /// The page.
    pub page: String,
    /// The element.
    pub element: ElementSummary,
    /// The property asked for.
    pub property: String,
    /// The longhands of a shorthand, or the property itself.
    pub links: Vec<OpenedValue>,
}

/// One longhand or custom property, and how it came by its value.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct OpenedValue {
    /// Its name.
    pub property: String,
    /// The value, the variables that it went through, and the element it is inherited from.
    pub value: ValueAnswer,
    /// The declaration that wins on the element itself.
    pub declaration: Option<DeclarationAnswer>,
}

/// How a property of a target came by its value: the winner, the variables it went through, the
/// element it is inherited from, or that it is initial.
pub(crate) fn opened(
    styles: &Styles<'_>,
    target: &Target,
    property: &PropertyName,
) -> OpenedAnswer {
    let page = styles.page();
    let longhands: Vec<PropertyName> = match property {
        PropertyName::Known(id) => {
            let all = id.longhands().iter().copied();
            all.map(PropertyName::Known).collect()
        }
        PropertyName::Custom(_) => vec![property.clone()],
    };
    let links = longhands.iter().map(|longhand| {
        let contest = styles
            .contest(target, &styles.physical(target, longhand))
            .contest;
        let winner = contest.winning().map(|winner| winner.declaration);
        OpenedValue {
            property: longhand.to_string(),
            value: super::why::value(styles, target, longhand),
            declaration: winner.map(|w| super::why::declaration(styles, target, w)),
        }
    });
    OpenedAnswer {
        page: page.document().text().name().to_owned(),
        element: ElementSummary::of_target(page, target),
        property: property.to_string(),
        links: links.collect(),
    }
}

/// The computed values of one of many elements: a line of JSON Lines.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct ElementValues {
    /// The element's number in document order, from 0.
    pub index: u32,
    /// Its name.
    pub tag: String,
    /// Property to computed value, serialised as CSSOM says; elements that are alike share it.
    pub values: SharedValues,
}

/// Property to computed value, for all elements that are alike.
pub type SharedValues = Arc<BTreeMap<String, String>>;

/// The computed values of a target: those that something sets, or `all`; those whose name or value
/// has `filter` in it.
pub(crate) fn values(
    styles: &Styles<'_>,
    target: &Target,
    filter: Option<&str>,
    all: bool,
) -> ValuesAnswer {
    let page = styles.page();
    let wanted = filter.map(str::to_ascii_lowercase);
    let mut rows = Vec::new();
    for property in properties(styles, target, all) {
        let value = styles.value(target, &property);
        if !all && value.source == ValueSource::Initial {
            continue;
        }
        let name = property.to_string();
        let shown = styles.resolved(target, &property);
        let keeps = wanted.as_ref().is_none_or(|word| {
            name.contains(word) || shown.text().to_ascii_lowercase().contains(word)
        });
        if !keeps {
            continue;
        }
        let (mut given, mut through) = (None, value.variables.clone());
        let (source, place, from) = match &value.source {
            ValueSource::Declared(reference) => {
                let place = describe::declaration_place(styles, *reference);
                given = Some(*reference);
                (ValueFrom::Declared, Some(place), None)
            }
            ValueSource::Inherited { from } => {
                let above = styles.value(&Target::from(*from), &property);
                let place = match &above.source {
                    ValueSource::Declared(reference) => {
                        given = Some(*reference);
                        through.clone_from(&above.variables);
                        Some(describe::declaration_place(styles, *reference))
                    }
                    _ => None,
                };
                (
                    ValueFrom::Inherited,
                    place,
                    Some(ElementSummary::new(page, *from)),
                )
            }
            ValueSource::Initial => (ValueFrom::Initial, None, None),
        };
        rows.push(ValueRow {
            property: name,
            value: shown.text().trim().to_owned(),
            source,
            place,
            shorthand: given
                .map(|reference| describe::name_of(styles, reference).to_ascii_lowercase())
                .filter(|written| PropertyId::named(written).is_some_and(PropertyId::is_shorthand)),
            through: through.iter().map(|step| step.name.to_string()).collect(),
            inherited_from: from,
        });
    }
    let has_color = rows.iter().any(|row| row.property == "color");
    ValuesAnswer {
        page: page.document().text().name().to_owned(),
        element: ElementSummary::of_target(page, target),
        contrast: has_color.then(|| contrast(styles, target)).flatten(),
        values: rows,
    }
}

/// How many styles one thread works out at a time: neighbors share most of their ancestors.
const STYLES_AT_ONCE: usize = 16;

/// How many elements are given before the next are worked out.
const ELEMENTS_AT_ONCE: usize = 2048;

/// With fewer elements than this, each is worked out by itself: putting all elements of the page into groups costs
/// more.
const FEW_ELEMENTS: usize = 32;

/// The computed values of several elements, in the order given, worked out in parallel, once for all that are
/// alike. `take` gets each as soon as those before it are done.
pub(crate) fn each(
    page: &Page,
    elements: &[ElementId],
    all: bool,
    mut take: impl FnMut(ElementValues),
) {
    let of_element = |id: ElementId, values| {
        let element = page.document().element(id);
        ElementValues {
            index: element.index,
            tag: element.name.to_string(),
            values,
        }
    };
    if elements.len() < FEW_ELEMENTS {
        let styles = page.styles();
        for id in elements {
            take(of_element(*id, Arc::new(all_values(&styles, *id, all))));
        }
        return;
    }
    let groups = page.groups();
    let style_of = |id: ElementId| groups.style_of(page.document().element(id).index);
    let mut known: HashMap<u32, SharedValues> = HashMap::new();
    for window in elements.chunks(ELEMENTS_AT_ONCE) {
        let mut fresh: Vec<u32> = window.iter().map(|id| style_of(*id)).collect();
        fresh.sort_unstable();
        fresh.dedup();
        fresh.retain(|style| !known.contains_key(style));
        let chunks = fresh.chunks(STYLES_AT_ONCE).collect();
        let done: Vec<Vec<(u32, SharedValues)>> = parallel::map(chunks, |chunk: &[u32]| {
            let styles = page.styles();
            let values = |style: &u32| {
                let id = groups.representatives[*style as usize];
                (*style, Arc::new(all_values(&styles, id, all)))
            };
            chunk.iter().map(values).collect()
        });
        known.extend(done.into_iter().flatten());
        for id in window {
            if let Some(values) = known.get(&style_of(*id)) {
                take(of_element(*id, values.clone()));
            }
        }
    }
}

fn all_values(styles: &Styles<'_>, id: ElementId, all: bool) -> BTreeMap<String, String> {
    let target = Target::from(id);
    let names = properties(styles, &target, all).into_iter();
    let values = names.filter_map(|property| {
        let value = styles.value(&target, &property);
        let kept = all || value.source != ValueSource::Initial;
        kept.then(|| {
            let shown = styles.resolved(&target, &property);
            (property.to_string(), shown.text().trim().to_owned())
        })
    });
    values.collect()
}

/// The physical longhands, sorted by name; unless `all`, only those that some declaration of the
/// target or an ancestor could set, custom properties among them.
fn properties(styles: &Styles<'_>, target: &Target, all: bool) -> Vec<PropertyName> {
    let mut names: Vec<PropertyName> = Vec::new();
    if all {
        names.extend(
            PropertyId::all()
                .filter(|p| !p.is_shorthand())
                .map(PropertyName::Known),
        );
    }
    let mut at = Some(target.clone());
    while let Some(above) = at {
        for (reference, _, blocked) in styles.declarations(&above) {
            let name = PropertyName::named(&describe::name_of(styles, reference));
            let Some(name) = name.filter(|_| blocked.is_none()) else {
                continue;
            };
            let own = above == *target;
            match &name {
                PropertyName::Custom(_) => names.push(name),
                PropertyName::Known(id) if !all => names.extend(
                    id.longhands()
                        .iter()
                        .filter(|p| own || p.facts().inherited)
                        .map(|p| styles.physical(target, &PropertyName::Known(*p))),
                ),
                PropertyName::Known(_) => {}
            }
        }
        at = styles.parent(&above);
    }
    // Custom properties after the others: themes have many.
    names.sort_by_cached_key(|name| (matches!(name, PropertyName::Custom(_)), name.to_string()));
    names.dedup();
    names
}
