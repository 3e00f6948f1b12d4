//! Declarations that match a target, found by the property that they are about.

use std::cmp::Ordering;
use std::sync::{Arc, OnceLock};

use crate::cascade::Rank;
use crate::page::Blocked;
use crate::page::target::DeclarationRef;
use crate::value::PropertyId;

/// A declaration that matches a target, with its rank and what blocks it.
pub type Row = (DeclarationRef, Rank, Option<Arc<Blocked>>);

/// The declarations that match a target, and which of them are about a property.
#[derive(Debug, Default)]
pub(in crate::page) struct Declarations {
    /// In order of appearance; the style attribute's come last.
    pub rows: Vec<Row>,
    /// The longhands that each row sets, sorted, and the row's index.
    pub known: Vec<(PropertyId, u32)>,
    /// Whether some of those are logical, so that the writing mode says what they are about.
    pub any_logical: bool,
    /// The same of custom properties.
    pub custom: Vec<(Arc<str>, u32)>,
}

/// The declarations of each list of matches, collected when a person first asks.
pub(in crate::page) type OfLists = Box<[OnceLock<Arc<Declarations>>]>;

impl Declarations {
    pub fn of_known(&self, property: PropertyId) -> impl Iterator<Item = u32> + use<'_> {
        let first = self.known.partition_point(|(other, _)| *other < property);
        let all = self.known[first..].iter();
        let own = all.take_while(move |(other, _)| *other == property);
        own.map(|(_, at)| *at)
    }

    pub fn of_custom<'d>(&'d self, name: &str) -> impl Iterator<Item = u32> + use<'d> {
        let range = self.custom_range(name);
        self.custom[range].iter().map(|(_, at)| *at)
    }

    fn custom_range(&self, name: &str) -> std::ops::Range<usize> {
        let before = |order: Ordering| move |other: &(Arc<str>, u32)| (*other.0).cmp(name) <= order;
        let first = self.custom.partition_point(before(Ordering::Less));
        first..self.custom.partition_point(before(Ordering::Equal))
    }
}
