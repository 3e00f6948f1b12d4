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

/// A unit of the standards (CSS Values 4 § 6 and § 7).
#[derive(Debug)]
pub struct Unit {
    /// Its name in lower case.
    pub name: &'static str,
    /// What it measures.
    pub dimension: Dimension,
    /// How large it is.
    pub scale: Scale,
}

/// The canonical unit of length.
pub static PX: Unit = fixed("px", Dimension::Length, 1.0);
/// The canonical unit of angles.
pub static DEG: Unit = fixed("deg", Dimension::Angle, 1.0);
static S: Unit = fixed("s", Dimension::Time, 1.0);
static HZ: Unit = fixed("hz", Dimension::Frequency, 1.0);
static DPPX: Unit = fixed("dppx", Dimension::Resolution, 1.0);
static FR: Unit = fixed("fr", Dimension::Flex, 1.0);

static CANONICAL: [&Unit; 6] = [&PX, &DEG, &S, &HZ, &DPPX, &FR];

static OTHERS: [Unit; 56] = [
    fixed("in", Dimension::Length, 96.0),
    fixed("cm", Dimension::Length, 96.0 / 2.54),
    fixed("mm", Dimension::Length, 96.0 / 25.4),
    fixed("q", Dimension::Length, 96.0 / 101.6),
    fixed("pt", Dimension::Length, 96.0 / 72.0),
    fixed("pc", Dimension::Length, 16.0),
    font("em", FontMeasure::Em),
    font("rem", FontMeasure::Rem),
    font("ex", FontMeasure::Ex),
    font("rex", FontMeasure::Rex),
    font("cap", FontMeasure::Cap),
    font("rcap", FontMeasure::Rcap),
    font("ch", FontMeasure::Ch),
    font("rch", FontMeasure::Rch),
    font("ic", FontMeasure::Ic),
    font("ric", FontMeasure::Ric),
    font("lh", FontMeasure::Lh),
    font("rlh", FontMeasure::Rlh),
    fixed("grad", Dimension::Angle, 0.9),
    fixed("rad", Dimension::Angle, 180.0 / std::f64::consts::PI),
    fixed("turn", Dimension::Angle, 360.0),
    fixed("ms", Dimension::Time, 0.001),
    fixed("khz", Dimension::Frequency, 1000.0),
    fixed("x", Dimension::Resolution, 1.0),
    fixed("dpi", Dimension::Resolution, 1.0 / 96.0),
    fixed("dpcm", Dimension::Resolution, 2.54 / 96.0),
    container("cqw", Side::Width),
    container("cqh", Side::Height),
    container("cqi", Side::Inline),
    container("cqb", Side::Block),
    container("cqmin", Side::Smallest),
    container("cqmax", Side::Largest),
    viewport("vw", Side::Width),
    viewport("vh", Side::Height),
    viewport("vi", Side::Inline),
    viewport("vb", Side::Block),
    viewport("vmin", Side::Smallest),
    viewport("vmax", Side::Largest),
    viewport("svw", Side::Width),
    viewport("svh", Side::Height),
    viewport("svi", Side::Inline),
    viewport("svb", Side::Block),
    viewport("svmin", Side::Smallest),
    viewport("svmax", Side::Largest),
    viewport("lvw", Side::Width),
    viewport("lvh", Side::Height),
    viewport("lvi", Side::Inline),
    viewport("lvb", Side::Block),
    viewport("lvmin", Side::Smallest),
    viewport("lvmax", Side::Largest),
    viewport("dvw", Side::Width),
    viewport("dvh", Side::Height),
    viewport("dvi", Side::Inline),
    viewport("dvb", Side::Block),
    viewport("dvmin", Side::Smallest),
    viewport("dvmax", Side::Largest),
];

const fn fixed(name: &'static str, dimension: Dimension, size: f64) -> Unit {
    Unit {
        name,
        dimension,
        scale: Scale::Fixed(size),
    }
}

const fn font(name: &'static str, measure: FontMeasure) -> Unit {
    length(name, Scale::Font(measure))
}

const fn viewport(name: &'static str, side: Side) -> Unit {
    length(name, Scale::Viewport(side))
}

const fn container(name: &'static str, side: Side) -> Unit {
    length(name, Scale::Container(side))
}

const fn length(name: &'static str, scale: Scale) -> Unit {
    Unit {
        name,
        dimension: Dimension::Length,
        scale,
    }
}

impl Unit {
    /// The unit of that name, letter case aside.
    pub fn named(name: &str) -> Option<&'static Unit> {
        let mut all = CANONICAL.into_iter().chain(&OTHERS);
        all.find(|unit| unit.name.eq_ignore_ascii_case(name))
    }

    /// The unit that computed values of its dimension are written in.
    pub fn canonical(&self) -> &'static Unit {
        match self.dimension {
            Dimension::Length => &PX,
            Dimension::Angle => &DEG,
            Dimension::Time => &S,
            Dimension::Frequency => &HZ,
            Dimension::Resolution => &DPPX,
            Dimension::Flex => &FR,
        }
    }

    /// Whether its size depends on a font or a line, of the element or of the root.
    pub fn is_of_font(&self) -> bool {
        matches!(self.scale, Scale::Font(_))
    }
}

impl PartialEq for Unit {
    fn eq(&self, other: &Unit) -> bool {
        self.name == other.name
    }
}

impl FontMeasure {
    /// Whether it is the root's.
    pub fn is_of_root(self) -> bool {
        use FontMeasure::{Rcap, Rch, Rem, Rex, Ric, Rlh};
        matches!(self, Rem | Rex | Rcap | Rch | Ric | Rlh)
    }
}
