//! Colours: from the text of a `<color>` to its computed value as CSSOM serialises it.
//!
//! Reading and converting is the `color` package's; which form the result takes follows CSS Color
//! 4 § 15 (serialising `<color>` values).

use ::color::{ColorSpaceTag, DynamicColor, parse_color};

/// What a colour's text comes to.
#[derive(Clone, Debug, PartialEq)]
pub enum Colour {
    /// A colour with all its components known.
    Known(String),
    /// `currentcolor`
    Current,
    /// One that depends on something that the sources don't say, or that is not read yet.
    AsWritten,
}

/// Reads the text of a `<color>`.
pub fn read(text: &str) -> Colour {
    let text = text.trim();
    if text.eq_ignore_ascii_case("currentcolor") {
        return Colour::Current;
    }
    match parse_color(&text.to_ascii_lowercase()) {
        Ok(color) => Colour::Known(serialize(color, text)),
        Err(_) => match system(text) {
            Some(known) => Colour::Known(known.to_owned()),
            None => Colour::AsWritten,
        },
    }
}

/// CSS Color 4 § 6.2 and § 10: the system colours as engines commonly give them in a light scheme.
fn system(name: &str) -> Option<&'static str> {
    Some(match name.to_ascii_lowercase().as_str() {
        "canvas" | "field" | "window" => "rgb(255, 255, 255)",
        "canvastext" | "fieldtext" | "buttontext" | "windowtext" | "buttonborder" | "infotext"
        | "menutext" | "captiontext" | "highlighttext" | "marktext" | "selecteditemtext"
        | "accentcolortext" => "rgb(0, 0, 0)",
        "linktext" => "rgb(0, 0, 238)",
        "visitedtext" => "rgb(85, 26, 139)",
        "activetext" => "rgb(255, 0, 0)",
        "buttonface" | "threedface" | "buttonhighlight" | "buttonshadow" => "rgb(239, 239, 239)",
        "mark" => "rgb(255, 255, 0)",
        "graytext" => "rgb(128, 128, 128)",
        _ => return None,
    })
}

fn serialize(color: DynamicColor, text: &str) -> String {
    let legacy = matches!(
        color.cs,
        ColorSpaceTag::Srgb | ColorSpaceTag::Hsl | ColorSpaceTag::Hwb
    ) && !text.to_ascii_lowercase().starts_with("color(");
    if !legacy {
        return color.to_string();
    }
    let [red, green, blue, alpha] = color.convert(ColorSpaceTag::Srgb).components;
    // What conversion blurs in the last digits must not turn a half.
    let byte = |part: f32| {
        let scaled = f64::from(part.clamp(0.0, 1.0)) * 255.0;
        ((scaled * 1000.0).round() / 1000.0).round() as u8
    };
    let (red, green, blue) = (byte(red), byte(green), byte(blue));
    let alpha = alpha.clamp(0.0, 1.0);
    if alpha >= 1.0 {
        format!("rgb({red}, {green}, {blue})")
    } else {
        format!("rgba({red}, {green}, {blue}, {})", alpha_text(alpha))
    }
}

/// CSS Color 4 § 15.1: of a colour kept in bytes, two decimals where they give the same byte, else
/// three.
fn alpha_text(alpha: f32) -> String {
    let byte = (f64::from(alpha) * 255.0).round();
    let part = byte / 255.0;
    let two = (part * 100.0).round() / 100.0;
    if (two * 255.0).round() == byte {
        super::computed::number(two)
    } else {
        super::computed::number((part * 1000.0).round() / 1000.0)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn legacy_colours_serialise_as_rgb() {
        let known = |text: &str| match read(text) {
            Colour::Known(text) => text,
            other => format!("{other:?}"),
        };
        assert_eq!(known("#0b3d5c"), "rgb(11, 61, 92)");
        assert_eq!(known("#0B3D5C80"), "rgba(11, 61, 92, 0.5)");
        assert_eq!(known("Navy"), "rgb(0, 0, 128)");
        assert_eq!(known("transparent"), "rgba(0, 0, 0, 0)");
        assert_eq!(known("hsl(120deg 100% 25%)"), "rgb(0, 128, 0)");
        assert_eq!(known("rgb(1 2 3 / 20%)"), "rgba(1, 2, 3, 0.2)");
        assert_eq!(known("rgba(0, 0, 0, .175)"), "rgba(0, 0, 0, 0.176)");
        assert_eq!(read("currentColor"), Colour::Current);
    }
}
