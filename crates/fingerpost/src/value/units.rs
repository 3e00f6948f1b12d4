//! Units: what each measures and how many canonical units it is, where that is fixed.

/// What a dimension measures.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[allow(missing_docs)]
pub enum Dimension {
    Angle,
    Flex,
    Frequency,
    Length,
    Resolution,
    Time,
}

/// What a unit's size depends on.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Scale {
    /// So many canonical units (px, deg, s, Hz, dppx, fr).
    Fixed(f64),
    /// So many times a font's or line's measure.
    Font(FontMeasure),
    /// So many hundredths of the viewport's side.
    Viewport(Side),
    /// So many hundredths of the query container's side: only layout knows.
    Container(Side),
}

/// A measure of the element's or the root's font.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum FontMeasure {
    Em,
    Rem,
    Ex,
    Rex,
    Cap,
    Rcap,
    Ch,
    Rch,
    Ic,
    Ric,
    Lh,
    Rlh,
}

/// A side of the viewport or of a container.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Side {
    Width,
    Height,
    Inline,
    Block,
    Smallest,
    Largest,
}

/// What a unit measures and how large it is (CSS Values 4 § 6 and § 7); letter case is ignored.
pub fn unit(name: &str) -> Option<(Dimension, Scale)> {
    use Dimension::{Angle, Flex, Frequency, Length, Resolution, Time};
    let font = |measure| (Length, Scale::Font(measure));
    let lower = name.to_ascii_lowercase();
    Some(match lower.as_str() {
        "px" => (Length, Scale::Fixed(1.0)),
        "in" => (Length, Scale::Fixed(96.0)),
        "cm" => (Length, Scale::Fixed(96.0 / 2.54)),
        "mm" => (Length, Scale::Fixed(96.0 / 25.4)),
        "q" => (Length, Scale::Fixed(96.0 / 101.6)),
        "pt" => (Length, Scale::Fixed(96.0 / 72.0)),
        "pc" => (Length, Scale::Fixed(16.0)),
        "em" => font(FontMeasure::Em),
        "rem" => font(FontMeasure::Rem),
        "ex" => font(FontMeasure::Ex),
        "rex" => font(FontMeasure::Rex),
        "cap" => font(FontMeasure::Cap),
        "rcap" => font(FontMeasure::Rcap),
        "ch" => font(FontMeasure::Ch),
        "rch" => font(FontMeasure::Rch),
        "ic" => font(FontMeasure::Ic),
        "ric" => font(FontMeasure::Ric),
        "lh" => font(FontMeasure::Lh),
        "rlh" => font(FontMeasure::Rlh),
        "deg" => (Angle, Scale::Fixed(1.0)),
        "grad" => (Angle, Scale::Fixed(0.9)),
        "rad" => (Angle, Scale::Fixed(180.0 / std::f64::consts::PI)),
        "turn" => (Angle, Scale::Fixed(360.0)),
        "s" => (Time, Scale::Fixed(1.0)),
        "ms" => (Time, Scale::Fixed(0.001)),
        "hz" => (Frequency, Scale::Fixed(1.0)),
        "khz" => (Frequency, Scale::Fixed(1000.0)),
        "dppx" | "x" => (Resolution, Scale::Fixed(1.0)),
        "dpi" => (Resolution, Scale::Fixed(1.0 / 96.0)),
        "dpcm" => (Resolution, Scale::Fixed(2.54 / 96.0)),
        "fr" => (Flex, Scale::Fixed(1.0)),
        "cqw" => (Length, Scale::Container(Side::Width)),
        "cqh" => (Length, Scale::Container(Side::Height)),
        "cqi" => (Length, Scale::Container(Side::Inline)),
        "cqb" => (Length, Scale::Container(Side::Block)),
        "cqmin" => (Length, Scale::Container(Side::Smallest)),
        "cqmax" => (Length, Scale::Container(Side::Largest)),
        _ => {
            let side = lower
                .strip_prefix(['s', 'l', 'd'])
                .filter(|rest| rest.starts_with('v'));
            let side = match side.unwrap_or(&lower) {
                "vw" => Side::Width,
                "vh" => Side::Height,
                "vi" => Side::Inline,
                "vb" => Side::Block,
                "vmin" => Side::Smallest,
                "vmax" => Side::Largest,
                _ => return None,
            };
            (Length, Scale::Viewport(side))
        }
    })
}
