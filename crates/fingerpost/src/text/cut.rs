//! Pieces of texts and lists that can't panic.
//!
//! The readers take apart what strangers wrote. A range that they have worked out wrongly must not end the
//! program: it gives nothing. In a test or under the fuzzer it does panic, so that it is found.

use std::ops::{Range, RangeFrom, RangeTo};

use super::TextRange;

/// A text or list that gives a piece of itself.
pub(crate) trait Cut<R> {
    /// The piece; nothing where the range does not lie in it.
    #[track_caller]
    fn cut(&self, range: R) -> &Self;
}

macro_rules! pieces {
    ($($range:ty),*) => {$(
        impl Cut<$range> for str {
            #[track_caller]
            fn cut(&self, range: $range) -> &str {
                let found = self.get(range.clone());
                debug_assert!(found.is_some(), "{range:?} of {} bytes", self.len());
                found.unwrap_or_default()
            }
        }

        impl<T> Cut<$range> for [T] {
            #[track_caller]
            fn cut(&self, range: $range) -> &[T] {
                let found = self.get(range.clone());
                debug_assert!(found.is_some(), "{range:?} of {} items", self.len());
                found.unwrap_or_default()
            }
        }
    )*};
}

pieces!(Range<usize>, RangeFrom<usize>, RangeTo<usize>);

impl Cut<TextRange> for str {
    #[track_caller]
    fn cut(&self, range: TextRange) -> &str {
        self.cut(usize::from(range.start())..usize::from(range.end()))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_lies_in_it_is_given() {
        assert_eq!("größe".cut(2..), "öße");
        assert_eq!([1, 2, 3].cut(1..2), [2]);
        assert_eq!("a".cut(1..), "");
    }

    #[test]
    #[cfg_attr(not(debug_assertions), ignore = "checked with debug assertions")]
    #[should_panic(expected = "3..4 of 2 bytes")]
    fn what_does_not_is_found_by_tests() {
        "ab".cut(3..4);
    }
}
