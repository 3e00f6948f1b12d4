//! Selectors 4: parsing, specificity, and whether an element matches.
//!
//! A selector of the standard that is not matched yet is kept as [`PseudoClass::NotYet`]: it never
//! matches and says so, while one that the standard does not know makes its rule invalid, as it
//! does in every browser. Spans count from the beginning of the text that was parsed; those of a
//! sheet's rule count from the rule ([`Sheet::slice_in`](crate::sheet::Sheet::slice_in)).
//!
//! ```
//! use fingerpost::selector::SelectorList;
//!
//! let list: SelectorList = ".panel > h2:not(#a .b), h2".parse()?;
//! assert_eq!(list.selectors[0].specificity.to_string(), "(1,2,1)");
//! assert_eq!(list.to_string(), ".panel > h2:not(#a .b), h2");
//! assert!("h2 >".parse::<SelectorList>().is_err());
//! # Ok::<(), fingerpost::selector::SelectorError>(())
//! ```

mod anchors;
mod any_state;
mod attribute;
mod can_be;
mod explain;
mod form;
mod has;
mod matching;
mod mentions;
mod names;
mod namespace;
mod parse;
mod print;
mod pseudo;
mod pseudo_element;
mod scope;
mod states;

pub(crate) use any_state::AnyState;
pub(crate) use can_be::can_be_in;
pub use explain::{Miss, NearSelector, Relation};
pub(crate) use form::Controls;
pub(crate) use matching::Counted;
pub use matching::Matcher;
pub use mentions::Mention;
pub use namespace::{NamespaceTest, Namespaces};
pub use parse::SelectorError;
pub(crate) use print::escaped;
pub use scope::{Scope, ScopeRoots};
pub use states::States;

use std::fmt;
use std::str::FromStr;
use std::sync::Arc;

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::sheet::{Token, tokenize};
use crate::text::{TextRange, TextSize};

/// Selectors 4 § 17: how much a selector weighs.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Specificity {
    /// A: ID selectors.
    pub ids: u32,
    /// B: class selectors, attribute selectors and pseudo-classes.
    pub classes: u32,
    /// C: type selectors and pseudo-elements.
    pub types: u32,
}

impl Specificity {
    /// A specificity from its three parts.
    pub const fn new(ids: u32, classes: u32, types: u32) -> Self {
        Specificity {
            ids,
            classes,
            types,
        }
    }
}

impl std::ops::AddAssign for Specificity {
    fn add_assign(&mut self, other: Self) {
        self.ids = self.ids.saturating_add(other.ids);
        self.classes = self.classes.saturating_add(other.classes);
        self.types = self.types.saturating_add(other.types);
    }
}

impl FromStr for SelectorList {
    type Err = SelectorError;

    fn from_str(text: &str) -> Result<SelectorList, SelectorError> {
        SelectorList::parse(text)
    }
}

impl fmt::Display for Specificity {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "({},{},{})", self.ids, self.classes, self.types)
    }
}

#[cfg(feature = "schemas")]
impl schemars::JsonSchema for Specificity {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        "Specificity".into()
    }

    fn json_schema(_: &mut schemars::SchemaGenerator) -> schemars::Schema {
        schemars::json_schema!({
            "type": "array",
            "description": "Ids; classes, attributes and pseudo-classes; elements and pseudo-elements",
            "items": { "type": "integer", "minimum": 0 },
            "minItems": 3,
            "maxItems": 3,
        })
    }
}

impl Serialize for Specificity {
    /// An array of three numbers: `[A, B, C]`.
    fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        [self.ids, self.classes, self.types].serialize(serializer)
    }
}

impl<'de> Deserialize<'de> for Specificity {
    fn deserialize<D: serde::Deserializer<'de>>(from: D) -> Result<Specificity, D::Error> {
        let [ids, classes, types] = Deserialize::deserialize(from)?;
        Ok(Specificity {
            ids,
            classes,
            types,
        })
    }
}

/// How two compounds hang together.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Combinator {
    /// White space: somewhere below.
    Descendant,
    /// `>`: right below.
    Child,
    /// `+`: right after.
    NextSibling,
    /// `~`: somewhere after, under the same parent.
    SubsequentSibling,
}

/// How an attribute selector compares.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum AttributeOperator {
    /// `[a]`
    Present,
    /// `[a=b]`
    Equals,
    /// `[a~=b]`: one of the words.
    Includes,
    /// `[a|=b]`: that or that and a hyphen.
    DashMatch,
    /// `[a^=b]`
    Prefix,
    /// `[a$=b]`
    Suffix,
    /// `[a*=b]`
    Substring,
}

/// Whether letter case counts in an attribute selector's value.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum CaseRule {
    /// The document language decides: HTML lists attributes whose values match in any case.
    ByLanguage,
    /// `i`: it does not.
    Insensitive,
    /// `s`: it does.
    Sensitive,
}

/// An attribute selector.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct AttributeSelector {
    /// The name as written.
    pub name: Box<str>,
    /// The name in lower case: what HTML elements are compared with.
    pub lower: Box<str>,
    /// The namespaces that the attribute may be in; without a prefix none.
    pub namespace: NamespaceTest,
    /// The comparison.
    pub operator: AttributeOperator,
    /// What is compared with; empty for [`AttributeOperator::Present`].
    pub value: Box<str>,
    /// Whether letter case counts in the value.
    pub case: CaseRule,
}

/// What a user does with an element: states that only assumed conditions give.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[allow(missing_docs)]
#[non_exhaustive]
pub enum Action {
    Active,
    Focus,
    FocusVisible,
    FocusWithin,
    Fullscreen,
    Hover,
    Modal,
    PopoverOpen,
    Target,
    TargetWithin,
    UserInvalid,
    UserValid,
    Visited,
}

/// What a form control's markup says.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[allow(missing_docs)]
#[non_exhaustive]
pub enum FormState {
    Autofill,
    Checked,
    Default,
    Disabled,
    Enabled,
    InRange,
    Indeterminate,
    Invalid,
    Open,
    Optional,
    OutOfRange,
    PlaceholderShown,
    ReadOnly,
    ReadWrite,
    Required,
    Valid,
}

/// A state that an element can be assumed to be in.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum State {
    /// What a user does with it.
    Action(Action),
    /// What its markup could say.
    Form(FormState),
}

impl State {
    /// The state that a pseudo-class asks for, with or without its colon.
    ///
    /// ```
    /// use fingerpost::selector::{Action, State};
    /// assert_eq!(State::named(":hover"), Some(State::Action(Action::Hover)));
    /// assert_eq!(State::named(":first-child"), None);
    /// ```
    pub fn named(name: &str) -> Option<State> {
        let bare = name.trim().trim_start_matches(':').to_ascii_lowercase();
        match names::pseudo_class(&bare)? {
            PseudoClass::Action(action) => Some(State::Action(action)),
            PseudoClass::Form(state) => Some(State::Form(state)),
            _ => None,
        }
    }
}

/// A text that is not a state.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[error("'{name}' is not a state; expected one such as :hover, :focus, :checked or :open")]
#[non_exhaustive]
pub struct UnknownState {
    /// The text.
    pub name: String,
}

impl FromStr for State {
    type Err = UnknownState;

    /// Reads `:hover`, with its colon or without.
    fn from_str(name: &str) -> Result<State, UnknownState> {
        State::named(name).ok_or_else(|| UnknownState {
            name: name.to_owned(),
        })
    }
}

/// With its colon, as it is read back.
impl fmt::Display for State {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            State::Action(action) => write!(f, ":{}", names::of_action(*action)),
            State::Form(state) => write!(f, ":{}", names::of_form(*state)),
        }
    }
}

/// An+B of `:nth-…()`, with what is counted.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct Nth {
    /// The step A.
    pub step: i32,
    /// The offset B.
    pub offset: i32,
    /// Whether it counts from the last sibling.
    pub from_end: bool,
    /// Whether it counts only siblings of the same type.
    pub of_type: bool,
    /// Only siblings that match are counted: `:nth-child(2 of .a)`.
    pub of: Option<Arc<SelectorList>>,
}

/// A pseudo-class.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum PseudoClass {
    /// `:root`
    Root,
    /// `:empty`
    Empty,
    /// `:link` and `:any-link`: the markup can't tell visited links, so both are every link;
    /// an assumed `:visited` takes an element out of `:link`.
    Link {
        /// Whether it was written `:any-link`.
        any: bool,
    },
    /// `:scope`; outside `@scope` the root element.
    Scope,
    /// `:defined`
    Defined,
    /// `:first-child`, `:nth-last-of-type()` and all their kin; the `only-…` ones are two.
    Nth(Nth),
    /// `:is()`, and its older name `:matches()`'s successor.
    Is(Arc<SelectorList>),
    /// `:where()`
    Where(Arc<SelectorList>),
    /// `:not()`
    Not(Arc<SelectorList>),
    /// `:has()`; each selector begins with its combinator.
    Has(Arc<SelectorList>),
    /// `:host` and `:host()`: the element that the shadow tree of the sheet belongs to.
    Host(Option<Arc<SelectorList>>),
    /// `:host-context()`: that element, where it or an element above it matches.
    HostContext(Arc<SelectorList>),
    /// `&`: what the parent rule selects; outside of one, `:scope` without its weight (Nesting § 3.1).
    Nesting(Option<Arc<SelectorList>>),
    /// `:lang()`
    Lang(Vec<Box<str>>),
    /// `:dir(ltr)` or `:dir(rtl)`
    Dir {
        /// Whether it asks for `rtl`.
        rtl: bool,
    },
    /// `:hover` and its kin.
    Action(Action),
    /// `:checked` and its kin.
    Form(FormState),
    /// One of the standard that is not matched yet, with its source.
    NotYet(Box<str>),
}

/// A simple selector.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum Simple {
    /// `*`
    Universal,
    /// A type selector, as written and in lower case.
    Type {
        /// As written.
        name: Box<str>,
        /// In lower case: what HTML elements are compared with.
        lower: Box<str>,
    },
    /// `#id`
    Id(Box<str>),
    /// `.class`
    Class(Box<str>),
    /// `[attribute]`
    Attribute(Box<AttributeSelector>),
    /// `:pseudo-class`
    PseudoClass(PseudoClass),
    /// `prefix|`, or the default namespace of the sheet.
    Namespace(NamespaceTest),
}

/// Simple selectors that one element must match, with the span of them all.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct Compound {
    /// The simple selectors, in order, each with its span.
    pub simples: Vec<(Simple, TextRange)>,
    /// The span of the compound.
    pub span: TextRange,
}

/// A pseudo-element.
#[derive(Clone, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
#[non_exhaustive]
pub enum PseudoElement {
    /// `::before`
    Before,
    /// `::after`
    After,
    /// Any other, by its name in lower case with its argument.
    Other(Box<str>),
}

impl fmt::Display for PseudoElement {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            PseudoElement::Before => f.write_str("::before"),
            PseudoElement::After => f.write_str("::after"),
            PseudoElement::Other(name) => write!(f, "::{name}"),
        }
    }
}

/// What leads from the element that a selector's compounds find to one of another tree.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum TreeCrossing {
    /// `::slotted()`: from a slot to what is put into it.
    Slotted(Arc<SelectorList>),
    /// `::part()`: from a host to the elements of its shadow tree with these part names.
    Part {
        /// The names; an element must have them all.
        names: Vec<Box<str>>,
        /// The states after it: `::part(label):hover`.
        states: Vec<Simple>,
    },
}

/// A complex selector.
#[derive(Clone, Debug, PartialEq)]
pub struct Selector {
    /// Its compounds from left to right, each with the combinator before it. The first has one
    /// only in a relative selector.
    pub compounds: Vec<(Option<Combinator>, Compound)>,
    /// Where it leads to an element of another tree.
    pub through: Option<TreeCrossing>,
    /// The pseudo-element at its end.
    pub pseudo_element: Option<PseudoElement>,
    /// Its specificity.
    pub specificity: Specificity,
    /// Whether it speaks of the host of the sheet's shadow tree.
    pub names_host: bool,
    /// Its span.
    pub span: TextRange,
}

impl Selector {
    /// The compound that the element itself must match.
    pub fn subject(&self) -> &Compound {
        &self.compounds.last().expect("a selector has a compound").1
    }

    /// The class that it consists of, where it is one class and nothing else but a pseudo-element.
    pub(crate) fn only_class(&self) -> Option<&str> {
        let [(_, subject)] = &self.compounds[..] else {
            return None;
        };
        match &subject.simples[..] {
            [(Simple::Class(class), _)] => Some(class),
            _ => None,
        }
    }

    /// Whether it names the element that it is relative to, so that it is not put below it again.
    fn names_its_base(&self) -> bool {
        let simples = self.compounds.iter().flat_map(|(_, c)| &c.simples);
        simples.into_iter().any(|(simple, _)| match simple {
            Simple::PseudoClass(PseudoClass::Nesting(_) | PseudoClass::Scope) => true,
            Simple::PseudoClass(
                PseudoClass::Is(list)
                | PseudoClass::Where(list)
                | PseudoClass::Not(list)
                | PseudoClass::Has(list),
            ) => list.selectors.iter().any(Selector::names_its_base),
            _ => false,
        })
    }

    /// Whether `:has()` is in it, outside of lists that forgive.
    fn has_inside(&self) -> bool {
        let mut simples = self.compounds.iter().flat_map(|(_, c)| &c.simples);
        simples.any(|(simple, _)| match simple {
            Simple::PseudoClass(PseudoClass::Has(_)) => true,
            Simple::PseudoClass(PseudoClass::Not(list)) => {
                list.selectors.iter().any(Selector::has_inside)
            }
            _ => false,
        })
    }

    /// Whether its parts speak of the host of the sheet's shadow tree.
    fn finds_host(&self) -> bool {
        let simples = self.compounds.iter().flat_map(|(_, c)| &c.simples);
        simples.into_iter().any(|(simple, _)| match simple {
            Simple::PseudoClass(PseudoClass::Host(_) | PseudoClass::HostContext(_)) => true,
            Simple::PseudoClass(
                PseudoClass::Is(list)
                | PseudoClass::Where(list)
                | PseudoClass::Not(list)
                | PseudoClass::Nesting(Some(list)),
            ) => list.selectors.iter().any(|s| s.names_host),
            _ => false,
        })
    }

    /// The parts that are not matched yet, as written.
    pub fn not_yet(&self) -> impl Iterator<Item = &str> {
        let inside = self.compounds.iter().flat_map(|(_, c)| &c.simples);
        inside.filter_map(|(simple, _)| match simple {
            Simple::PseudoClass(PseudoClass::NotYet(source)) => Some(&**source),
            _ => None,
        })
    }
}

/// What the place of a selector says of it.
#[derive(Clone, Copy, Debug, Default)]
#[non_exhaustive]
pub struct ParseContext<'a> {
    /// The selectors of the rule that it is nested in, which `&` stands for.
    pub parent: Option<&'a Arc<SelectorList>>,
    /// The namespaces that the sheet declares.
    pub namespaces: Option<&'a Namespaces>,
    /// Whether it is in `@scope`, relative to `:scope`.
    pub scoped: bool,
    /// Whether lists that forgive don't, and pseudo-elements that are only taken for compatibility are not: in
    /// `@supports selector()` (Conditional 4 § 2).
    pub unforgiving: bool,
}

impl ParseContext<'_> {
    fn is_relative(&self) -> bool {
        self.scoped || self.parent.is_some()
    }

    fn default_namespace(&self) -> Option<NamespaceTest> {
        let url = self.namespaces?.default_url()?;
        Some(NamespaceTest::of(url))
    }
}

/// A selector list.
#[derive(Clone, Debug, PartialEq)]
pub struct SelectorList {
    /// The selectors.
    pub selectors: Vec<Selector>,
}

impl SelectorList {
    /// Parses a selector list from a string.
    ///
    /// # Errors
    /// The first thing in it that is not a selector, with its span in `source`.
    ///
    /// ```
    /// use fingerpost::selector::{SelectorList, Specificity};
    /// let list = SelectorList::parse("#fares a:not(.quiet, nav *):hover")?;
    /// assert_eq!(list.selectors[0].specificity, Specificity::new(1, 2, 1));
    /// # Ok::<(), fingerpost::selector::SelectorError>(())
    /// ```
    pub fn parse(source: &str) -> Result<Self, SelectorError> {
        let tokens = tokenize(source, TextRange::up_to(TextSize::of(source)));
        Self::parse_tokens(source, &tokens, ParseContext::default())
    }

    /// Parses the prelude of a style rule.
    ///
    /// # Errors
    /// The first thing in it that is not a selector, with its span in `source`.
    pub fn parse_tokens(
        source: &str,
        tokens: &[Token],
        setting: ParseContext<'_>,
    ) -> Result<Self, SelectorError> {
        parse::list(source, tokens, setting)
    }

    /// `:where(:scope)`: what declarations directly in `@scope` are about.
    pub(crate) fn scope() -> Self {
        let here = TextRange::default();
        SelectorList {
            selectors: vec![Selector {
                compounds: vec![(
                    None,
                    Compound {
                        simples: vec![(Simple::PseudoClass(PseudoClass::Scope), here)],
                        span: here,
                    },
                )],
                pseudo_element: None,
                through: None,
                specificity: Specificity::default(),
                names_host: false,
                span: here,
            }],
        }
    }

    /// The largest specificity in the list: what `:is()` weighs.
    ///
    /// ```
    /// use fingerpost::selector::{SelectorList, Specificity};
    ///
    /// let list = SelectorList::parse("#main .late p")?;
    /// assert_eq!(list.selectors[0].specificity, Specificity::new(1, 1, 1));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn specificity(&self) -> Specificity {
        self.selectors
            .iter()
            .map(|s| s.specificity)
            .max()
            .unwrap_or_default()
    }
}
