//! The row of the property table, and its number.

/// What the standards say about a property.
#[derive(Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Property {
    /// Its name.
    pub name: &'static str,
    /// Its initial value as the standard writes it.
    pub initial: &'static str,
    /// Whether it is inherited.
    pub inherited: bool,
    /// The longhands that it sets, in the standard's order; none for a longhand.
    pub longhands: &'static [&'static str],
    /// The longhands that it only resets to their initial values.
    pub reset_only: &'static [&'static str],
    /// The logical property group (CSS Logical § 4), or nothing.
    pub logical_group: &'static str,
    /// Its grammar, in the value definition syntax of CSS Values.
    pub syntax: &'static str,
    /// What percentages refer to.
    pub percentages: &'static str,
    /// Which elements it has an effect on.
    pub applies_to: &'static str,
    /// What its computed value is.
    pub computed: &'static str,
    /// Where the standard defines it.
    pub link: &'static str,
    /// The property it is another name of (`word-wrap` of `overflow-wrap`), or nothing.
    pub alias_of: &'static str,
}

/// A known property.
#[derive(Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct PropertyId(pub(super) u16);
