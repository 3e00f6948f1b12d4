//! How a color is written (CSS Color 4 § 15).

use super::serialise::number;
use ::color::{ColorSpaceTag, DynamicColor};
use std::fmt;

use crate::value::color::AbsoluteColor;

impl fmt::Display for AbsoluteColor {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&if self.legacy {
            rgb(self.color)
        } else {
            modern(self.color)
        })
    }
}

/// Color 4 § 15.2 and § 15.3: in the color's own space, with `none` where it is missing.
fn modern(color: DynamicColor) -> String {
    let missing = color.flags.missing();
    let hue = matches!(color.cs, ColorSpaceTag::Lch | ColorSpaceTag::Oklch);
    let part = |at: usize| {
        if hue && at == 2 && !missing.contains(at) {
            return number(f64::from(color.components[2]).rem_euclid(360.0));
        }
        if missing.contains(at) {
            "none".to_owned()
        } else {
            let component = color.components.get(at).copied().unwrap_or_default();
            number(f64::from(component))
        }
    };
    let open = match color.cs {
        ColorSpaceTag::Lab => "lab(",
        ColorSpaceTag::Lch => "lch(",
        ColorSpaceTag::Oklab => "oklab(",
        ColorSpaceTag::Oklch => "oklch(",
        ColorSpaceTag::LinearSrgb => "color(srgb-linear ",
        ColorSpaceTag::DisplayP3 => "color(display-p3 ",
        ColorSpaceTag::A98Rgb => "color(a98-rgb ",
        ColorSpaceTag::ProphotoRgb => "color(prophoto-rgb ",
        ColorSpaceTag::Rec2020 => "color(rec2020 ",
        ColorSpaceTag::XyzD50 => "color(xyz-d50 ",
        ColorSpaceTag::XyzD65 => "color(xyz-d65 ",
        _ => "color(srgb ",
    };
    let alpha = if missing.contains(3) || color.components[3] < 1.0 {
        format!(" / {}", part(3))
    } else {
        String::new()
    };
    format!("{open}{} {} {}{alpha})", part(0), part(1), part(2))
}

fn rgb(color: DynamicColor) -> String {
    let [red, green, blue, alpha] = color.convert(ColorSpaceTag::Srgb).components;
    let (red, green, blue) = (byte(red), byte(green), byte(blue));
    let alpha = alpha.clamp(0.0, 1.0);
    if alpha >= 1.0 {
        format!("rgb({red}, {green}, {blue})")
    } else {
        format!("rgba({red}, {green}, {blue}, {})", alpha_text(alpha))
    }
}

/// A part from 0 to 1 as a byte. What single precision blurs in the last digits does not turn a half.
fn byte(part: f32) -> u8 {
    let scaled = f64::from(part.clamp(0.0, 1.0)) * 255.0;
    ((scaled * 1000.0).round() / 1000.0).round() as u8
}

/// CSS Color 4 § 15.1: of a color kept in bytes, two decimals where they give the same byte, else
/// three.
fn alpha_text(alpha: f32) -> String {
    let byte = f64::from(byte(alpha));
    let part = byte / 255.0;
    let two = (part * 100.0).round() / 100.0;
    if (two * 255.0).round() == byte {
        number(two)
    } else {
        number((part * 1000.0).round() / 1000.0)
    }
}
