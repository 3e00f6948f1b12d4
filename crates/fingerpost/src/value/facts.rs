//! Property facts: what the standards say about each property, from the committed table.
//!
//! The table is sorted by name; a [`PropertyId`] is an index into it. Nothing here is special-cased
//! by name: what differs from the table is written in the generator, with its reason.
//!
//! ```
//! use fingerpost::value::PropertyId;
//!
//! let margin = PropertyId::named("margin").unwrap();
//! assert!(margin.is_shorthand());
//! assert_eq!(margin.longhands().len(), 4);
//!
//! let color = PropertyId::named("color").unwrap().facts();
//! assert!(color.inherited);
//! assert_eq!(color.initial, "CanvasText");
//! assert_eq!(PropertyId::nearest("color"), Some("color"));
//! ```

use std::borrow::Cow;
use std::fmt;
use std::sync::OnceLock;

use super::facts_table::{PROPERTIES, TYPES};
pub use super::property::{Property, PropertyId};

impl PropertyId {
    /// The property of that name, letter case aside. Another name of a property
    /// (`word-wrap`) gives the property itself (`overflow-wrap`).
    ///
    /// ```
    /// use fingerpost::value::PropertyId;
    ///
    /// let color = PropertyId::named("color").unwrap();
    /// assert!(color.facts().inherited);
    /// assert_eq!(PropertyId::nearest("colr"), Some("color"));
    /// ```
    pub fn named(name: &str) -> Option<PropertyId> {
        let lower: Cow<'_, str> = if name.bytes().any(|b| b.is_ascii_uppercase()) {
            Cow::Owned(name.to_ascii_lowercase())
        } else {
            Cow::Borrowed(name)
        };
        let at = PROPERTIES.binary_search_by(|p| p.name.cmp(&lower)).ok()?;
        match PROPERTIES.get(at)?.alias_of {
            "" => Some(PropertyId(at as u16)),
            other => PropertyId::named(other),
        }
    }

    /// All properties, aliases left out, sorted by name.
    pub fn all() -> impl Iterator<Item = PropertyId> {
        (0..PROPERTIES.len() as u16)
            .map(PropertyId)
            .filter(|id| id.facts().alias_of.is_empty())
    }

    /// All names, sorted, each with its property; other names of a property among them.
    pub fn names() -> impl Iterator<Item = (&'static str, PropertyId)> {
        PROPERTIES
            .iter()
            .filter_map(|facts| Some((facts.name, PropertyId::named(facts.name)?)))
    }

    /// What the standards say about it.
    #[expect(clippy::indexing_slicing, reason = "an id is a place in the table")]
    pub fn facts(self) -> &'static Property {
        &PROPERTIES[usize::from(self.0)]
    }

    /// Its name.
    pub fn name(self) -> &'static str {
        self.facts().name
    }

    /// Its index in the table, as a key.
    pub fn index(self) -> usize {
        usize::from(self.0)
    }

    /// Whether it is a shorthand of other properties.
    pub fn is_shorthand(self) -> bool {
        !self.facts().longhands.is_empty() || self == PropertyId::ALL
    }

    /// The longhands that a declaration of it sets: itself for a longhand; for a shorthand those
    /// of its own shorthands, and those it only resets, too. Sorted by name.
    ///
    /// ```
    /// use fingerpost::value::PropertyId;
    ///
    /// assert_eq!(PropertyId::MARGIN.longhands().len(), 4);
    /// assert_eq!(PropertyId::MARGIN_TOP.longhands(), [PropertyId::MARGIN_TOP]);
    /// ```
    #[expect(clippy::indexing_slicing, reason = "an id is a place in the table")]
    pub fn longhands(self) -> &'static [PropertyId] {
        static CACHE: OnceLock<Vec<OnceLock<Vec<PropertyId>>>> = OnceLock::new();
        let cache = CACHE.get_or_init(|| PROPERTIES.iter().map(|_| OnceLock::new()).collect());
        cache[self.index()].get_or_init(|| {
            let facts = self.facts();
            // Cascade 4 § 3.3: all but direction and unicode-bidi (and custom properties).
            if self == PropertyId::ALL {
                return PropertyId::all()
                    .filter(|p| {
                        !p.is_shorthand()
                            && !matches!(*p, PropertyId::DIRECTION | PropertyId::UNICODE_BIDI)
                    })
                    .collect();
            }
            if facts.longhands.is_empty() {
                return vec![self];
            }
            let parts = facts.longhands.iter().chain(facts.reset_only);
            let mut longhands: Vec<PropertyId> = parts
                .filter_map(|name| PropertyId::named(name))
                .flat_map(|p| p.longhands().iter().copied())
                .collect();
            longhands.sort();
            longhands.dedup();
            longhands
        })
    }

    /// The properties that a shorthand names, in the standard's order; some are shorthands themselves.
    pub fn parts(self) -> impl Iterator<Item = PropertyId> {
        let names = self.facts().longhands.iter();
        names.filter_map(|name| PropertyId::named(name))
    }

    /// Whether a declaration of this property sets `longhand`.
    pub fn sets(self, longhand: PropertyId) -> bool {
        self == longhand
            || (self.is_shorthand() && self.longhands().binary_search(&longhand).is_ok())
    }

    /// The known name nearest to an unknown one, when it is near enough to be meant.
    pub fn nearest(name: &str) -> Option<&'static str> {
        let names = PROPERTIES.iter().map(|p| p.name);
        crate::text::nearest(&name.to_ascii_lowercase(), names)
    }
}

impl fmt::Debug for PropertyId {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.name())
    }
}

/// The grammar of a value type or function (`color`, `rgb()`) by its index in the table.
pub(super) fn type_index(name: &str) -> Option<usize> {
    TYPES.binary_search_by(|t| t.0.cmp(name)).ok()
}

#[expect(
    clippy::indexing_slicing,
    reason = "a type is known by its place in the table"
)]
pub(super) fn type_entry(index: usize) -> (&'static str, &'static str) {
    TYPES[index]
}

pub(super) fn type_count() -> usize {
    TYPES.len()
}

pub(super) fn property_count() -> usize {
    PROPERTIES.len()
}

pub(super) fn property_at(index: usize) -> PropertyId {
    PropertyId(index as u16)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_find_properties_in_any_case_and_by_alias() {
        assert_eq!(PropertyId::named("COLOR").unwrap().name(), "color");
        assert_eq!(
            PropertyId::named("word-wrap").unwrap().name(),
            "overflow-wrap"
        );
        assert_eq!(PropertyId::named("colour"), None);
        assert_eq!(PropertyId::nearest("colour"), Some("color"));
        assert_eq!(PropertyId::nearest("qqqqqqqq"), None);
    }

    #[test]
    fn shorthands_set_the_longhands_of_their_shorthands() {
        let border = PropertyId::named("border").unwrap();
        assert!(border.sets(PropertyId::named("border-left-color").unwrap()));
        assert!(border.sets(PropertyId::named("border-image-source").unwrap()));
        assert!(!border.sets(PropertyId::named("padding-left").unwrap()));
    }

    #[test]
    fn the_table_is_sorted() {
        assert!(PROPERTIES.is_sorted_by(|a, b| a.name < b.name));
        assert!(TYPES.is_sorted_by(|a, b| a.0 < b.0));
    }
}
