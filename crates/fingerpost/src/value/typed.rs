//! Typed values: what a computed value is made of, and how CSSOM § 6.7.2 writes it.
//!
//! A value is a list of [`Component`]s (CSS Syntax 3 § 5.3 calls them component values). Nothing is
//! written out before a person asks for the text.
//!
//! ```
//! use fingerpost::prelude::*;
//!
//! let page = Page::new(Text::new("a.html", "<style>p { margin: calc(1em + 2px) }</style><p>Boats"));
//! let p = page.ask().find_one("p")?;
//! let margin = page.styles().resolved(&p, &"margin-top".parse()?);
//! assert_eq!(margin.pixels(), Some(18.0));
//! assert_eq!(margin.text(), "18px");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use std::fmt;
use std::sync::{Arc, OnceLock};

use smol_str::SmolStr;

use super::calc::{Calc, LeafUnit};
use super::color::Color;
use super::serialise::{number, string};
use super::units::{PX, Unit};

/// One part of a computed value.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum Component {
    /// A keyword in lower case, or a name as it was written.
    Word(SmolStr),
    /// A number.
    Number(f64),
    /// A percentage: 50 for `50%`.
    Percentage(f64),
    /// A number of canonical units, or of units of a container whose size only layout knows.
    Dimension(f64, &'static Unit),
    /// A color.
    Color(Color),
    /// A string, escapes resolved.
    Text(Arc<str>),
    /// A URL, absolute from the site's root where the file that it is in is known.
    Url(Arc<str>),
    /// A calculation that only layout can finish.
    Math(Arc<Calc>),
    /// A function and its arguments; plain parentheses have no name.
    Function(SmolStr, Vec<Component>),
    /// A block in square marks: names of grid lines (CSS Syntax 3 § 5.4.8: a []-block).
    SquareBlock(Vec<Component>),
    /// A comma.
    Comma,
    /// A slash or another token as it stands.
    Mark(SmolStr),
    /// A text that no grammar read, as it was written.
    Written(Arc<str>),
}

impl Component {
    /// A keyword.
    pub fn keyword(word: &'static str) -> Component {
        Component::Word(SmolStr::new_static(word))
    }

    /// A length.
    pub fn pixels(length: f64) -> Component {
        Component::Dimension(length, &PX)
    }

    /// A calculation, which is a plain number where it results in one.
    pub fn calculated(calc: Calc) -> Component {
        match calc.leaf() {
            Some((value, unit)) if value.is_finite() => Component::leaf(value, unit),
            _ => Component::Math(Arc::new(calc)),
        }
    }

    /// 100 % minus this value; none where it is neither a length nor a percentage.
    pub fn rest_of_whole(&self) -> Option<Component> {
        let part = match self {
            Component::Percentage(value) => Calc::Leaf(*value, LeafUnit::Percentage),
            Component::Dimension(value, unit) => Calc::Leaf(*value, LeafUnit::Of(unit)),
            Component::Math(calc) => (**calc).clone(),
            _ => return None,
        };
        let whole = Calc::Leaf(100.0, LeafUnit::Percentage);
        Some(Component::calculated(whole.without(part)))
    }

    /// A number with a unit or without one.
    pub fn leaf(value: f64, unit: LeafUnit) -> Component {
        match unit {
            LeafUnit::Number => Component::Number(value),
            LeafUnit::Percentage => Component::Percentage(value),
            LeafUnit::Of(unit) => Component::Dimension(value, unit),
        }
    }

    /// The keyword or name that it is.
    pub fn word(&self) -> Option<&str> {
        match self {
            Component::Word(word) => Some(word),
            _ => None,
        }
    }

    /// Whether it is a keyword.
    pub fn is(&self, keyword: &str) -> bool {
        self.word() == Some(keyword)
    }

    fn write(&self, out: &mut String) {
        match self {
            Component::Word(text) | Component::Mark(text) => out.push_str(text),
            Component::Number(value) => out.push_str(&number(*value)),
            Component::Percentage(value) => {
                out.push_str(&number(*value));
                out.push('%');
            }
            Component::Dimension(value, unit) => {
                out.push_str(&number(*value));
                out.push_str(unit.name);
            }
            Component::Color(color) => out.push_str(&color.to_string()),
            Component::Text(text) => out.push_str(&string(text)),
            Component::Url(url) => {
                out.push_str("url(");
                out.push_str(&string(url));
                out.push(')');
            }
            Component::Math(calc) => out.push_str(&calc.text()),
            Component::Function(name, arguments) => {
                out.push_str(name);
                out.push('(');
                write_all(arguments, out);
                out.push(')');
            }
            Component::SquareBlock(inside) => {
                out.push('[');
                write_all(inside, out);
                out.push(']');
            }
            Component::Comma => out.push(','),
            Component::Written(text) => out.push_str(text),
        }
    }
}

impl fmt::Display for Component {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let mut text = String::new();
        self.write(&mut text);
        f.write_str(&text)
    }
}

/// Components with a space before each but a comma.
fn write_all(components: &[Component], out: &mut String) {
    for (at, component) in components.iter().enumerate() {
        if at > 0 && *component != Component::Comma {
            out.push(' ');
        }
        component.write(out);
    }
}

/// A computed value. Copies share it; the text is written when a person first asks for it.
///
/// ```
/// use fingerpost::prelude::*;
///
/// let page = Page::new(Text::new("a.html", "<p style='margin: 1.5px auto'>Boats"));
/// let p = page.ask().find_one("p")?;
/// let margin = page.styles().value(&p, &"margin-left".parse()?);
/// assert_eq!(margin.computed, "auto");
/// assert_eq!(margin.computed.text(), "auto");
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone)]
pub struct Computed(Arc<Typed>);

struct Typed {
    components: Vec<Component>,
    text: OnceLock<Box<str>>,
}

impl Computed {
    /// A value of some components.
    pub(crate) fn new(components: Vec<Component>) -> Computed {
        Computed(Arc::new(Typed {
            components,
            text: OnceLock::new(),
        }))
    }

    /// A text that no grammar reads: a custom property, or a value that rests on something that the sources don't
    /// say.
    pub(crate) fn written(text: impl Into<Arc<str>>) -> Computed {
        Computed::new(vec![Component::Written(text.into())])
    }

    /// A keyword by itself.
    pub(crate) fn keyword(word: &'static str) -> Computed {
        Computed::new(vec![Component::keyword(word)])
    }

    /// What it is made of.
    pub(crate) fn components(&self) -> &[Component] {
        &self.0.components
    }

    /// As CSSOM writes it.
    pub fn text(&self) -> &str {
        if let [Component::Word(text)] = self.components() {
            return text;
        }
        if let [Component::Written(text)] = self.components() {
            return text;
        }
        self.0.text.get_or_init(|| {
            let mut text = String::new();
            write_all(self.components(), &mut text);
            text.into()
        })
    }

    /// The word that it is, where it is a single one.
    pub(crate) fn word(&self) -> Option<&str> {
        match self.components() {
            [only] => only.word(),
            _ => None,
        }
    }

    /// Whether it is a keyword.
    pub(crate) fn is(&self, keyword: &str) -> bool {
        self.word() == Some(keyword)
    }

    /// Whether a word is among its components.
    pub(crate) fn has(&self, word: &str) -> bool {
        self.components().iter().any(|component| component.is(word))
    }

    /// The length in px, where it is a single one.
    pub fn pixels(&self) -> Option<f64> {
        match self.components() {
            [Component::Dimension(length, unit)] if **unit == PX => Some(*length),
            _ => None,
        }
    }

    /// The number, where it is a single one.
    pub fn number(&self) -> Option<f64> {
        match self.components() {
            [Component::Number(number)] => Some(*number),
            _ => None,
        }
    }
}

impl fmt::Display for Computed {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.text())
    }
}

impl fmt::Debug for Computed {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{:?}", self.text())
    }
}

/// Two values are the same when CSSOM writes them alike: six digits are what anybody sees of a number.
impl PartialEq for Computed {
    fn eq(&self, other: &Computed) -> bool {
        Arc::ptr_eq(&self.0, &other.0)
            || self.components() == other.components()
            || self.text() == other.text()
    }
}

impl Eq for Computed {}

impl PartialEq<str> for Computed {
    fn eq(&self, other: &str) -> bool {
        self.text() == other
    }
}

impl PartialEq<&str> for Computed {
    fn eq(&self, other: &&str) -> bool {
        self.text() == *other
    }
}
