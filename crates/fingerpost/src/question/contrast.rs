//! Contrast of an element's text against what its ancestors paint after it (WCAG 2.2, success criteria
//! 1.4.3 and 1.4.6).
//!
//! What is after a text in truth only a browser knows: elements may be moved over each other. Taken here are
//! the background colors of the element and its ancestors, down to the first opaque one; what else would count is
//! said in `not_counted`.
//!
//! ```
//! use fingerpost::prelude::*;
//!
//! let html = "<style>p { color: #777; background: white }</style><p>Boats";
//! let page = Page::new(Text::new("a.html", html));
//! let ask = page.ask();
//! let contrast = ask.contrast(&ask.find_one("p")?).expect("it has text");
//! assert_eq!((contrast.ratio, contrast.passes_aa()), (4.47, false));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use color::{AlphaColor, ColorSpaceTag, Srgb};
use serde::{Deserialize, Serialize};

use crate::markup::{Document, ElementId, NodeKind};
use crate::page::{PropertyName, Styles, Target};
use crate::value::PropertyId;
use crate::value::color::{self as colors, AbsoluteColor};

/// From this size in CSS px on, text counts as large: 18 pt.
const LARGE: f64 = 24.0;

/// The same for bold text: 14 pt.
const LARGE_BOLD: f64 = 56.0 / 3.0;

/// From this weight on, text is bold.
const BOLD: f64 = 700.0;

/// How a text stands out from its background.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct ContrastAnswer {
    /// The color of the text, over its background.
    pub color: String,
    /// The color after it.
    pub background: String,
    /// The contrast ratio, from 1 to 21.
    pub ratio: f64,
    /// Whether the text counts as large, which needs less.
    pub large: bool,
    /// The ratio that level AA asks for.
    pub needed_aa: f64,
    /// The ratio that level AAA asks for.
    pub needed_aaa: f64,
    /// Where the colors after the text differ: the ratio at its strongest.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub strongest: Option<f64>,
    /// What lies behind or over the text and is not counted, in sentences.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub not_counted: Vec<String>,
}

impl ContrastAnswer {
    /// Whether it is enough for level AA.
    pub fn passes_aa(&self) -> bool {
        self.ratio >= self.needed_aa
    }

    /// Whether it is enough for level AAA.
    pub fn passes_aaa(&self) -> bool {
        self.ratio >= self.needed_aaa
    }

    /// The same text in the colors in which a browser painted it: where they differ, the weakest contrast counts.
    /// None where one of them is not a color.
    pub fn as_painted(&self, painted: &[Painted]) -> Option<ContrastAnswer> {
        let mut all = Vec::new();
        for pair in painted {
            let [text, behind] =
                [&pair.text, &pair.behind].map(|color| colors::read(color).absolute());
            let (behind, text) = (srgb(behind?), srgb(text?));
            all.push((
                ratio(over(text, behind), behind),
                over(text, behind),
                behind,
            ));
        }
        all.sort_by(|(one, ..), (other, ..)| one.total_cmp(other));
        let (weakest, front, behind) = *all.first()?;
        let (strongest, ..) = *all.last()?;
        Some(ContrastAnswer {
            color: in_words(front),
            background: in_words(behind),
            ratio: weakest,
            strongest: (strongest > weakest).then_some(strongest),
            not_counted: Vec::new(),
            ..self.clone()
        })
    }
}

/// The color of a text and one that is after a part of it, as a browser painted them.
#[derive(Clone, Debug, PartialEq, Deserialize)]
#[non_exhaustive]
pub struct Painted {
    /// The text's, as CSS writes it.
    pub text: String,
    /// The one after it.
    pub behind: String,
}

/// The contrast of a target's own text; none where it has no text, or a color that no source says.
pub(crate) fn contrast(styles: &Styles<'_>, target: &Target) -> Option<ContrastAnswer> {
    let document = styles.page().document();
    let has_text = match target.pseudo {
        None => has_text(document, target.element),
        // The text of a pseudo-element is its `content`.
        Some(_) => {
            let content = styles.resolved(target, &PropertyName::Known(PropertyId::CONTENT));
            let text = content.text();
            text.contains(['"', '(']) && !matches!(text.trim(), "\"\"" | "''")
        }
    };
    if !has_text {
        return None;
    }
    let text = color_of(styles, target, PropertyId::COLOR)?;
    let mut not_counted = Vec::new();
    // From the text downwards, up to the first opaque color.
    let mut layers = vec![];
    let mut seen = None;
    let above = std::iter::successors(Some(target.element), |id| document.parent_or_host(*id));
    let own = target.pseudo.is_some().then(|| target.clone());
    for layer in own.into_iter().chain(above.map(Target::from)) {
        let label = super::ElementSummary::of_target(styles.page(), &layer).label();
        let is = |property: PropertyId, initial: &str| {
            let value = styles.resolved(&layer, &PropertyName::Known(property));
            value.text().trim() == initial
        };
        if !is(PropertyId::OPACITY, "1") {
            not_counted.push(format!("the opacity of {label}"));
        }
        if seen.is_some() {
            continue;
        }
        if !is(PropertyId::BACKGROUND_IMAGE, "none") {
            not_counted.push(format!("the background image of {label}"));
        }
        let background = color_of(styles, &layer, PropertyId::BACKGROUND_COLOR)?;
        let opaque = background.components[3] >= 1.0;
        layers.push(background);
        if opaque {
            seen = Some(label);
        }
    }
    // Under all of it is the canvas, which the browser paints in its own color; white but in dark schemes.
    let canvas = AlphaColor::new([1.0, 1.0, 1.0, 1.0]);
    if seen.is_none() {
        not_counted.push("the browser's own color under the page, taken as white".to_owned());
    }
    let behind = layers
        .iter()
        .rev()
        .fold(canvas, |below, above| over(*above, below));
    let front = over(text, behind);
    let number = |property| {
        let value = styles.resolved(target, &PropertyName::Known(property));
        let text = value.text();
        text.trim().trim_end_matches("px").parse::<f64>().ok()
    };
    let size = number(PropertyId::FONT_SIZE).unwrap_or(16.0);
    let bold = number(PropertyId::FONT_WEIGHT).is_some_and(|weight| weight >= BOLD);
    let large = size >= LARGE || bold && size >= LARGE_BOLD;
    let (needed_aa, needed_aaa) = if large { (3.0, 4.5) } else { (4.5, 7.0) };
    Some(ContrastAnswer {
        color: in_words(front),
        background: in_words(behind),
        ratio: ratio(front, behind),
        strongest: None,
        large,
        needed_aa,
        needed_aaa,
        not_counted,
    })
}

/// Whether text stands directly in an element.
fn has_text(document: &Document, id: ElementId) -> bool {
    document
        .children(id)
        .any(|child| match &document.node(child).kind {
            NodeKind::Text(content) => !content.as_str(document.text().source()).trim().is_empty(),
            _ => false,
        })
}

fn color_of(
    styles: &Styles<'_>,
    target: &Target,
    property: PropertyId,
) -> Option<AlphaColor<Srgb>> {
    let value = styles.resolved(target, &PropertyName::Known(property));
    Some(srgb(colors::read(value.text()).absolute()?))
}

fn srgb(color: AbsoluteColor) -> AlphaColor<Srgb> {
    let [r, g, b, alpha] = color.color().convert(ColorSpaceTag::Srgb).components;
    AlphaColor::new([r, g, b, alpha])
}

/// The contrast ratio of two opaque colors; cut, not rounded: 4.499 is not enough for 4.5.
fn ratio(front: AlphaColor<Srgb>, behind: AlphaColor<Srgb>) -> f64 {
    let (one, other) = (luminance(front), luminance(behind));
    let ratio = (one.max(other) + 0.05) / (one.min(other) + 0.05);
    (ratio * 100.0).floor() / 100.0
}

/// A color over an opaque one (Compositing 1 § 5.1).
fn over(above: AlphaColor<Srgb>, below: AlphaColor<Srgb>) -> AlphaColor<Srgb> {
    let [r, g, b, alpha] = above.components;
    let [r2, g2, b2, _] = below.components;
    let mix = |a: f32, b: f32| a * alpha + b * (1.0 - alpha);
    AlphaColor::new([mix(r, r2), mix(g, g2), mix(b, b2), 1.0])
}

/// The relative luminance of an opaque color.
fn luminance(color: AlphaColor<Srgb>) -> f64 {
    f64::from(color.discard_alpha().relative_luminance())
}

fn in_words(color: AlphaColor<Srgb>) -> String {
    let [r, g, b, _] = color
        .components
        .map(|part| (part.clamp(0.0, 1.0) * 255.0).round());
    format!("rgb({r}, {g}, {b})")
}
