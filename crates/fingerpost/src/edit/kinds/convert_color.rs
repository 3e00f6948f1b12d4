//! `notation`: the colors of a declaration written in another way, with another alpha if wanted.

use ::color::{AlphaColor, ColorSpaceTag, DynamicColor, Hsl, Hwb, Srgb, parse_color};

use serde::{Deserialize, Serialize};

use crate::edit::error::EditError;
use crate::edit::kinds::info::{
    About, DECLARATION, Example, Holds, KindInfo, PROPERTY, named, required,
};
use crate::edit::kinds::set::set_found;
use crate::edit::kinds::{Kind, SummaryContext};
use crate::edit::plan::winner::declaration;
use crate::edit::proposal::{At, Proposal};
use crate::page::Target;
use crate::sheet::{Token, TokenKind, component_length};
use crate::text::Cut;
use crate::value::color;
use crate::value::substitution::value_tokens;

/// The notations that there are (Color 4 § 4).
pub const NOTATIONS: [&str; 9] = [
    "hex", "rgb", "hsl", "hwb", "lab", "lch", "oklab", "oklch", "name",
];

/// The colors of a declaration are written in another notation.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct ConvertColor {
    /// The property.
    pub property: String,
    /// `hex`, `rgb`, `hsl`, `hwb`, `lab`, `lch`, `oklab`, `oklch` or `name`.
    pub to: String,
    /// Another alpha, from 0 to 1.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub alpha: Option<String>,
}

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "convert-color",
    does: "Write the colors of a value in another notation",
    more: "",
    about: About::MaybeElement,
    destinations: DECLARATION,
    fields: &[
        PROPERTY,
        required("to", "The notation", Holds::Choice(&NOTATIONS)),
        named("alpha", "Another alpha, such as .5 or 50%", Holds::Text),
    ],
    example: Example {
        before: "<style>h2 { color: teal }</style><h2>Boats</h2>",
        element: "h2",
        change: r#"{"property":"color","to":"hex"}"#,
        after: "<style>h2 { color: #008080 }</style><h2>Boats</h2>",
    },
    demo: r#"{"page":"pages/home.html","element":":root","change":{"convert-color":{"property":"--brass","to":"hsl"}}}"#,
};

impl Kind for ConvertColor {
    fn info(&self) -> &'static KindInfo {
        &INFO
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let ConvertColor {
            property,
            to,
            alpha,
        } = self;
        if !NOTATIONS.contains(&to.as_str()) {
            return Err(EditError::InvalidName {
                what: "a notation of colors; expected hex, rgb, hsl, hwb, lab, lch, oklab, oklch or name",
                name: to.to_owned(),
            });
        }
        let alpha = alpha.as_deref().map(alpha_of).transpose()?;
        let found = declaration(at, target, property)?;
        let style_sheet = at.styles.sheet(found.reference.sheet);
        let sheet = style_sheet.sheet();
        let own = sheet.declaration(found.reference.id);
        let value = sheet.value_source(own);
        let (written, count) = rewritten(value, to, alpha).ok_or_else(|| EditError::NotThere {
            place: sheet.place_of(own).to_string(),
            why: format!(
                "{value} can't be written as {to}: no color has that name, or it needs an alpha"
            ),
        })?;
        if count == 0 {
            return Err(EditError::Nothing {
                why: format!("'{value}' contains no color"),
            });
        }
        // All colors of the declaration change: it is set as a whole.
        let own = crate::edit::plan::winner::Found {
            is_own: true,
            ..found
        };
        Ok(set_found(at, own, property, &written)?.derived())
    }

    fn summary(&self, told: &SummaryContext<'_>) -> String {
        let ConvertColor { property, to, .. } = self;
        let of = match told.who {
            "" => String::new(),
            who => format!(" of {who}"),
        };
        format!(
            "write {property}{of} on {} as {to}, from {}",
            told.on, told.was
        )
    }

    fn properties(&self) -> Vec<String> {
        vec![self.property.clone()]
    }
}

/// `0.5` or `50%`
fn alpha_of(text: &str) -> Result<f32, EditError> {
    let number = match text.strip_suffix('%') {
        Some(percent) => percent.parse::<f32>().map(|n| n / 100.0),
        None => text.parse(),
    };
    let number = number.ok().filter(|n| (0.0..=1.0).contains(n));
    number.ok_or_else(|| EditError::InvalidName {
        what: "an alpha, such as .5 or 50%",
        name: text.to_owned(),
    })
}

/// The value with each of its plain colors rewritten, and how many there were.
fn rewritten(value: &str, to: &str, alpha: Option<f32>) -> Option<(String, usize)> {
    let tokens = value_tokens(value);
    let mut text = String::new();
    let mut count = 0;
    let mut at = 0;
    while let Some(first) = tokens.get(at) {
        let length = component_length(tokens.cut(at..));
        let part = tokens.cut(at..at + length);
        at += length;
        let source = source_of(value, part);
        match (may_be_color(first), color::read(source).absolute()) {
            (true, Some(known)) => {
                let mut color = parse_color(&known.to_string()).ok()?;
                if let Some(alpha) = alpha {
                    color = color.with_alpha(alpha);
                }
                text.push_str(&written(color, to)?);
                count += 1;
            }
            // Shadows and gradients hold colors further in.
            _ if first.kind == TokenKind::Function && length > 2 => {
                let (inner, last) = (part.cut(1..length - 1), part.cut(length - 1..));
                let inner = source_of(value, inner);
                let (inside, inner_count) = rewritten(inner, to, alpha)?;
                text.push_str(first.source(value));
                text.push_str(&inside);
                text.push_str(source_of(value, last));
                count += inner_count;
            }
            _ => text.push_str(source),
        }
    }
    Some((text, count))
}

fn source_of<'a>(value: &'a str, tokens: &[Token]) -> &'a str {
    match (tokens.first(), tokens.last()) {
        (Some(first), Some(last)) => {
            value.cut(usize::from(first.span().start())..usize::from(last.span().end()))
        }
        _ => "",
    }
}

fn may_be_color(token: &Token) -> bool {
    matches!(
        token.kind,
        TokenKind::Hash | TokenKind::IdHash | TokenKind::Ident | TokenKind::Function
    )
}

fn number(value: f32, places: usize) -> String {
    let text = format!("{value:.places$}");
    let text = match text.contains('.') {
        true => text.trim_end_matches('0').trim_end_matches('.').to_owned(),
        false => text,
    };
    if text == "-0" { "0".to_owned() } else { text }
}

/// A color in a notation, in the form with spaces of Color 4; none where it has no name.
fn written(color: DynamicColor, to: &str) -> Option<String> {
    let srgb: AlphaColor<Srgb> = color.to_alpha_color();
    let alpha = srgb.components[3];
    let slash = if alpha < 1.0 {
        format!(" / {}", number(alpha, 3))
    } else {
        String::new()
    };
    let bytes = srgb
        .components
        .map(|c| (c.clamp(0.0, 1.0) * 255.0).round() as u8);
    let [red, green, blue, _] = bytes;
    let hue = |hue: f32| number(hue.rem_euclid(360.0), 1);
    Some(match to {
        "hex" => {
            let mut text = format!("#{red:02x}{green:02x}{blue:02x}");
            if alpha < 1.0 {
                text.push_str(&format!("{:02x}", (alpha * 255.0).round() as u8));
            }
            text
        }
        "rgb" => format!("rgb({red} {green} {blue}{slash})"),
        "hsl" => {
            let [h, s, l, _] = srgb.convert::<Hsl>().components;
            format!("hsl({} {}% {}%{slash})", hue(h), number(s, 1), number(l, 1))
        }
        "hwb" => {
            let [h, w, b, _] = srgb.convert::<Hwb>().components;
            format!("hwb({} {}% {}%{slash})", hue(h), number(w, 1), number(b, 1))
        }
        "name" => {
            (alpha >= 1.0).then_some(())?;
            name_of(&format!("#{red:02x}{green:02x}{blue:02x}"))?
        }
        _ => {
            let (tag, places) = match to {
                "lab" => (ColorSpaceTag::Lab, 2),
                "lch" => (ColorSpaceTag::Lch, 2),
                "oklab" => (ColorSpaceTag::Oklab, 4),
                _ => (ColorSpaceTag::Oklch, 4),
            };
            let [a, b, c, _] = color.convert(tag).components;
            let last = if to.ends_with("ch") {
                hue(c)
            } else {
                number(c, places)
            };
            format!(
                "{to}({} {} {last}{slash})",
                number(a, places),
                number(b, places)
            )
        }
    })
}

/// The keyword of an opaque color (Color 4 § 6.1).
fn name_of(hex: &str) -> Option<String> {
    let same = |name: &&str| {
        let color = parse_color(name).ok();
        color.and_then(|c| written(c, "hex")).as_deref() == Some(hex)
    };
    color::names().find(same).map(str::to_owned)
}
