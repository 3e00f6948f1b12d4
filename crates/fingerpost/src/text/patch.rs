//! Patches: what a save writes, what undo inverts, what a position is carried through.

use serde::{Deserialize, Serialize};
use text_size::{TextRange, TextSize};
use thiserror::Error;

use super::Cut;

/// One range of a text and its new text.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
pub struct Replacement {
    /// The range of the text before the patch.
    #[cfg_attr(feature = "schemas", schemars(with = "[u32; 2]"))]
    pub range: TextRange,
    /// What takes its place.
    pub with: String,
}

/// Replacements of one text: sorted, and none touching the bytes of another.
///
/// ```
/// use fingerpost::text::{Patch, Replacement, TextRange};
/// let patch = Patch::single(TextRange::new(7.into(), 11.into()), "navy");
/// assert_eq!(patch.apply("color: teal;")?, "color: navy;");
/// assert_eq!(patch.invert("color: teal;").apply("color: navy;")?, "color: teal;");
/// // It is the change of one text, and no other.
/// assert!(patch.apply("top: 0").is_err());
/// # Ok::<(), fingerpost::text::PatchMisfit>(())
/// ```
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(try_from = "Unchecked")]
pub struct Patch {
    replacements: Vec<Replacement>,
}

/// A patch as a file has it, which may say anything.
#[derive(Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
struct Unchecked {
    replacements: Vec<Replacement>,
}

impl TryFrom<Unchecked> for Patch {
    type Error = PatchError;

    fn try_from(unchecked: Unchecked) -> Result<Patch, PatchError> {
        Patch::new(unchecked.replacements)
    }
}

/// Why replacements don't make a patch.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[non_exhaustive]
pub enum PatchError {
    /// Two replacements claim the same bytes.
    #[error("two changes overlap, at bytes {first:?} and {second:?}; make them one change")]
    Overlap {
        /// The earlier range.
        first: TextRange,
        /// The range that starts before the earlier one ends.
        second: TextRange,
    },
}

/// A patch of another text.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[error("bytes {range:?} are not a piece of this text; the patch is of another one")]
#[non_exhaustive]
pub struct PatchMisfit {
    /// The first range that is outside the text, or begins or ends inside a character.
    pub range: TextRange,
}

impl Patch {
    /// A patch of several replacements, in any order.
    ///
    /// # Errors
    /// [`PatchError::Overlap`] where two of them claim the same bytes. Two insertions at one place
    /// are kept in the order given.
    pub fn new(mut replacements: Vec<Replacement>) -> Result<Self, PatchError> {
        replacements.sort_by_key(|r| (r.range.start(), r.range.end()));
        for (one, next) in replacements.iter().zip(replacements.iter().skip(1)) {
            if next.range.start() < one.range.end() {
                return Err(PatchError::Overlap {
                    first: one.range,
                    second: next.range,
                });
            }
        }
        Ok(Patch { replacements })
    }

    /// A patch of one replacement.
    ///
    /// ```
    /// use fingerpost::text::{Patch, TextRange};
    ///
    /// let patch = Patch::single(TextRange::new(11.into(), 15.into()), "navy");
    /// assert_eq!(patch.apply("p { color: teal }")?, "p { color: navy }");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn single(range: TextRange, with: impl Into<String>) -> Self {
        Patch {
            replacements: vec![Replacement {
                range,
                with: with.into(),
            }],
        }
    }

    /// The replacements, sorted by offset.
    pub fn replacements(&self) -> &[Replacement] {
        &self.replacements
    }

    /// Whether the patch changes nothing.
    pub fn is_empty(&self) -> bool {
        self.replacements.is_empty()
    }

    /// The text after the patch.
    ///
    /// ```
    /// use fingerpost::text::{Patch, TextRange};
    ///
    /// let patch = Patch::single(TextRange::new(11.into(), 15.into()), "navy");
    /// assert_eq!(patch.apply("p { color: teal }")?, "p { color: navy }");
    /// // A text that is too short is not changed.
    /// assert!(patch.apply("p {}").is_err());
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where a range is outside the text or inside a character: the patch is of another text.
    pub fn apply(&self, source: &str) -> Result<String, PatchMisfit> {
        match self.first_misfit(source) {
            Some(range) => Err(PatchMisfit { range }),
            None => Ok(self.put_into(source)),
        }
    }

    /// The text after a patch that was made for it.
    pub(crate) fn put_into(&self, source: &str) -> String {
        let mut out = String::with_capacity(source.len());
        let mut done = 0;
        for replacement in &self.replacements {
            out.push_str(source.cut(done..replacement.range.start().into()));
            out.push_str(&replacement.with);
            done = replacement.range.end().into();
        }
        out.push_str(source.cut(done..));
        out
    }

    /// Whether every range is inside the text, on character boundaries.
    pub fn fits(&self, source: &str) -> bool {
        self.first_misfit(source).is_none()
    }

    fn first_misfit(&self, source: &str) -> Option<TextRange> {
        let mut ranges = self.replacements.iter().map(|r| r.range);
        ranges.find(|range| {
            let (start, end) = (range.start().into(), range.end().into());
            !source.is_char_boundary(start) || !source.is_char_boundary(end)
        })
    }

    /// The patch that takes this one back: applied to the patched text it gives `source` again.
    ///
    /// ```
    /// use fingerpost::text::{Patch, TextRange};
    ///
    /// let patch = Patch::single(TextRange::new(11.into(), 15.into()), "navy");
    /// let before = "p { color: teal }";
    /// let after = patch.apply(before)?;
    /// assert_eq!(patch.invert(before).apply(&after)?, before);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn invert(&self, source: &str) -> Patch {
        let mut moved = 0i64;
        let replacements = self
            .replacements
            .iter()
            .map(|r| {
                let start = (i64::from(u32::from(r.range.start())) + moved) as u32;
                moved += r.with.len() as i64 - i64::from(u32::from(r.range.len()));
                Replacement {
                    range: TextRange::at(start.into(), TextSize::of(r.with.as_str())),
                    with: source.cut(r.range).to_owned(),
                }
            })
            .collect();
        Patch { replacements }
    }

    /// Where an offset of the old text is in the new one; `None` when the bytes around it are gone.
    /// An offset at the edge of a replaced range stays at that edge.
    ///
    /// ```
    /// use fingerpost::text::{Patch, TextRange};
    ///
    /// let patch = Patch::single(TextRange::new(0.into(), 0.into()), "/* new */ ");
    /// assert_eq!(patch.map(4.into()), Some(14.into()));
    /// ```
    pub fn map(&self, offset: TextSize) -> Option<TextSize> {
        let mut moved = 0i64;
        for r in &self.replacements {
            if offset <= r.range.start() {
                break;
            }
            if offset < r.range.end() {
                return None;
            }
            moved += r.with.len() as i64 - i64::from(u32::from(r.range.len()));
        }
        Some(TextSize::new((i64::from(u32::from(offset)) + moved) as u32))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn replacement(start: u32, end: u32, with: &str) -> Replacement {
        Replacement {
            range: TextRange::new(start.into(), end.into()),
            with: with.to_owned(),
        }
    }

    #[test]
    fn overlapping_replacements_are_refused() {
        let error = Patch::new(vec![replacement(2, 6, "x"), replacement(0, 3, "y")]);
        assert!(matches!(error, Err(PatchError::Overlap { .. })));
    }

    #[test]
    fn a_position_inside_a_replaced_range_is_gone() {
        let patch = Patch::new(vec![replacement(2, 4, "long"), replacement(6, 6, "!")]).unwrap();
        assert_eq!(patch.apply("abcdefgh").unwrap(), "ablongef!gh");
        assert_eq!(patch.map(2.into()), Some(2.into()));
        assert_eq!(patch.map(3.into()), None);
        assert_eq!(patch.map(4.into()), Some(6.into()));
        assert_eq!(patch.map(7.into()), Some(10.into()));
    }
}
