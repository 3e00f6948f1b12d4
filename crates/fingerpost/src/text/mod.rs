//! Source texts, places in them, and patches of them.
//!
//! A [`Text`] is one file as it was read: its characters, its encoding, its line starts. Every span
//! in this crate is a [`TextRange`] of bytes of [`Text::source`], which is always UTF-8 and never
//! holds the byte-order mark. What the file's own bytes were is kept beside it, so that a
//! [`Patch`] changes only the bytes it names, whatever the encoding.
//!
//! ```
//! use fingerpost::text::{Patch, PlaceQuery, Text};
//!
//! let css = Text::new("a.css", "p {\n  color: teal;\n}\n");
//! let start = css.source().find("teal").unwrap() as u32;
//! let value = fingerpost::text::TextRange::at(start.into(), 4.into());
//! assert_eq!(css.place(value.start()).to_string(), "a.css:2:10");
//!
//! let patch = Patch::single(value, "navy");
//! let after = patch.apply(css.source())?;
//! assert_eq!(after, "p {\n  color: navy;\n}\n");
//! assert_eq!(patch.invert(css.source()).apply(&after)?, css.source());
//! assert_eq!("a.css:2".parse::<PlaceQuery>()?.line, 2);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod authored;
mod changes;
mod cut;
mod diff;
mod encoding;
mod map_code;
mod nearest;
mod patch;
mod place;
mod site_path;
mod wording;

pub use authored::{Authored, MapFile, SourceMap};
pub(crate) use changes::{Hunk, changed_bytes, changes, hunks, offsets, unchanged, within};
pub(crate) use cut::Cut;
pub use diff::brief_diff;
pub(crate) use diff::{difference, lines_before, unified_diff};
pub use encoding::{DecodeHint, Encoding, EncodingError};
pub use map_code::MapError;
pub(crate) use nearest::nearest;
pub use patch::{Patch, PatchError, PatchMisfit, Replacement};
pub(crate) use place::Crowded;
pub use place::{Place, PlaceError, PlaceQuery};
pub use site_path::{STATE_FOLDER, SitePath, SitePathError, is_url};
pub use text_size::{TextRange, TextSize};
pub use wording::{plain_data, plain_io};

use std::sync::{Arc, OnceLock};

use line_index::{LineIndex, WideEncoding};
use sha2::{Digest, Sha256};

/// The largest file that is read, in bytes. Spans are 32 bits wide, and a theme's sources are
/// far smaller; a larger file is almost surely not what was meant.
pub const LARGEST_FILE: usize = 256 << 20;

/// One source text: what was read of a file, and how to write it back.
#[derive(Debug)]
pub struct Text {
    name: String,
    source: String,
    encoding: Encoding,
    lines: OnceLock<LineIndex>,
    authored: OnceLock<Authored>,
    digest: OnceLock<(u64, String)>,
}

impl Text {
    /// A text of the given characters, as if read from a UTF-8 file without a byte-order mark.
    ///
    /// ```
    /// use fingerpost::text::Text;
    ///
    /// let text = Text::new("css/a.css", "p { color: teal }");
    /// assert_eq!((text.name(), text.source().len()), ("css/a.css", 17));
    /// ```
    pub fn new(name: impl Into<String>, source: impl Into<String>) -> Arc<Self> {
        Arc::new(Text {
            name: name.into(),
            source: source.into(),
            encoding: Encoding::utf8(),
            lines: OnceLock::new(),
            authored: OnceLock::new(),
            digest: OnceLock::new(),
        })
    }

    /// Decodes a file's bytes.
    ///
    /// The encoding is found as the standards say: a byte-order mark first, then what the text
    /// itself declares (`<meta charset>`, `@charset`), then the hint's fallback.
    ///
    /// ```
    /// use fingerpost::text::{DecodeHint, Text};
    ///
    /// let bytes = b"@charset \"iso-8859-1\"; /* \xe9 */".to_vec();
    /// let text = Text::decode("a.css", bytes.clone(), DecodeHint::utf8_sheet())?;
    /// assert!(text.source().contains('é'));
    /// assert_eq!(text.to_bytes(), bytes);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// [`EncodingError::TooLarge`] over [`LARGEST_FILE`], [`EncodingError::Binary`] for bytes that
    /// are no text.
    pub fn decode(
        name: impl Into<String>,
        bytes: Vec<u8>,
        hint: DecodeHint,
    ) -> Result<Arc<Self>, EncodingError> {
        let (source, encoding) = encoding::decode(bytes, hint)?;
        Ok(Arc::new(Text {
            name: name.into(),
            source,
            encoding,
            lines: OnceLock::new(),
            authored: OnceLock::new(),
            digest: OnceLock::new(),
        }))
    }

    /// The file's name relative to the site's root.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// The characters, without the byte-order mark.
    pub fn source(&self) -> &str {
        &self.source
    }

    /// How the file is encoded.
    pub fn encoding(&self) -> &Encoding {
        &self.encoding
    }

    /// The characters of a span.
    pub fn slice(&self, span: TextRange) -> &str {
        self.source.cut(span)
    }

    /// The span of the whole text.
    pub fn span(&self) -> TextRange {
        TextRange::up_to(TextSize::of(self.source.as_str()))
    }

    /// The place of an offset, with where it was written.
    ///
    /// ```
    /// use fingerpost::text::Text;
    ///
    /// let text = Text::new("a.css", "p {\n  color: teal }");
    /// let offset = text.offset(2, 3).unwrap();
    /// assert_eq!(text.place(offset).to_string(), "a.css:2:3");
    /// ```
    pub fn place(&self, offset: TextSize) -> Place {
        let authored = self.authored.get().and_then(|a| a.place(self, offset));
        Place {
            authored: authored.map(Box::new),
            ..self.place_here(offset)
        }
    }

    /// The place of an offset in this text, whatever it was made from.
    pub(crate) fn place_here(&self, offset: TextSize) -> Place {
        let lines = self.line_index();
        let at = lines.line_col(offset);
        let column = lines
            .to_wide(WideEncoding::Utf32, at)
            .map_or(at.col, |wide| wide.col);
        Place::new(self.name.clone(), at.line + 1, column + 1)
    }

    /// The line of an offset, from 1.
    pub(crate) fn line_of(&self, offset: TextSize) -> u32 {
        self.line_index().line_col(offset).line + 1
    }

    /// What a source map knows about the text, if there is one.
    pub fn authored(&self) -> Option<&Authored> {
        self.authored.get()
    }

    /// Says where the text was made from; only the first word counts.
    pub fn set_authored(&self, authored: Authored) {
        let _ = self.authored.set(authored);
    }

    /// The line and the column in UTF-16 code units of an offset, both from 0: as source maps and the protocols of editors
    /// count.
    ///
    /// ```
    /// use fingerpost::text::Text;
    ///
    /// let text = Text::new("a.css", "/* 🚢 */ p {}");
    /// let p = text.source().find('p').unwrap() as u32;
    /// assert_eq!(text.utf16(p.into()), (0, 9));
    /// assert_eq!(text.place(p.into()).column, 9);
    /// assert_eq!(text.offset_of_utf16(0, 9), Some(p.into()));
    /// ```
    pub fn utf16(&self, offset: TextSize) -> (u32, u32) {
        let at = self.line_index().line_col(offset);
        let wide = self.line_index().to_wide(WideEncoding::Utf16, at);
        (at.line, wide.map_or(at.col, |w| w.col))
    }

    /// The offset of a line and of a column in UTF-16 code units, both from 0; none where the text has no such place, and
    /// inside of a character.
    pub fn offset_of_utf16(&self, line: u32, column: u32) -> Option<TextSize> {
        // What a map says may be any number, and no line is longer than the text.
        if column as usize > self.source.len() {
            return None;
        }
        let wide = line_index::WideLineCol { line, col: column };
        let at = self.line_index().to_utf8(WideEncoding::Utf16, wide)?;
        let offset = self.line_index().offset(at)?;
        let inside = usize::from(offset) <= self.source.len();
        (inside && self.source.is_char_boundary(offset.into())).then_some(offset)
    }

    /// The offset of a line and column, both from 1; `None` where the text has no such place.
    /// A column past the end of its line gives the end of that line.
    pub fn offset(&self, line: u32, column: u32) -> Option<TextSize> {
        let span = self.line_span(line)?;
        let wanted = column.checked_sub(1)? as usize;
        let within = self
            .source
            .cut(span)
            .char_indices()
            .nth(wanted)
            .map_or(span.len(), |(at, _)| TextSize::new(at as u32));
        Some(span.start() + within)
    }

    /// The span of a line (from 1) without its line ending.
    ///
    /// ```
    /// use fingerpost::text::Text;
    ///
    /// let text = Text::new("a.css", "p {\n  color: teal }");
    /// assert_eq!(text.slice(text.line_span(2).unwrap()), "  color: teal }");
    /// ```
    pub fn line_span(&self, line: u32) -> Option<TextRange> {
        let span = self.line_index().line(line.checked_sub(1)?)?;
        let trimmed = self.source.cut(span).trim_end_matches(['\n', '\r']);
        Some(TextRange::at(span.start(), TextSize::of(trimmed)))
    }

    /// The bytes of the file that this text stands for.
    pub fn to_bytes(&self) -> Vec<u8> {
        self.encoding.whole(&self.source)
    }

    /// How many bytes the file has, and their SHA-256 in hexadecimal.
    pub fn digest(&self) -> (u64, &str) {
        let (length, digest) = self.digest.get_or_init(|| {
            let bytes = self.to_bytes();
            (bytes.len() as u64, sha256(&bytes))
        });
        (*length, digest)
    }

    /// The text after a patch. Bytes of the file outside the patch stay as they were.
    ///
    /// ```
    /// use fingerpost::text::{Patch, Text};
    ///
    /// let text = Text::new("a.css", "p { color: teal }");
    /// let range = fingerpost::text::TextRange::new(11.into(), 15.into());
    /// let after = text.patched(&Patch::single(range, "navy"))?;
    /// assert_eq!(after.source(), "p { color: navy }");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// [`EncodingError::NotEncodable`] where the file's encoding has no way to write a character.
    pub fn patched(&self, patch: &Patch) -> Result<Arc<Self>, EncodingError> {
        let source = patch.put_into(&self.source);
        let encoding = self.encoding.patched(&self.name, &self.source, patch)?;
        Ok(Arc::new(Text {
            name: self.name.clone(),
            source,
            encoding,
            lines: OnceLock::new(),
            authored: OnceLock::new(),
            digest: OnceLock::new(),
        }))
    }

    fn line_index(&self) -> &LineIndex {
        self.lines.get_or_init(|| LineIndex::new(&self.source))
    }
}

/// The SHA-256 of bytes, in hexadecimal.
pub(crate) fn sha256(bytes: &[u8]) -> String {
    let digest = Sha256::digest(bytes);
    digest.iter().map(|b| format!("{b:02x}")).collect()
}

/// A span from two byte offsets.
pub(crate) fn span(start: usize, end: usize) -> TextRange {
    TextRange::new(TextSize::new(start as u32), TextSize::new(end as u32))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn places_count_code_points_over_crlf_and_wide_characters() {
        let text = Text::new("a.css", "äö{}\r\n🚢 b\r\nc");
        let place = text.place(TextSize::new(text.source().find('b').unwrap() as u32));
        assert_eq!((place.line, place.column), (2, 3));
        assert_eq!(text.offset(2, 3), Some(TextSize::new(13)));
        assert_eq!(text.slice(text.line_span(2).unwrap()), "🚢 b");
        assert_eq!(text.offset(9, 1), None);
    }

    #[test]
    fn a_column_past_the_line_is_its_end() {
        let text = Text::new("a.css", "ab\ncd");
        assert_eq!(text.offset(1, 99), Some(TextSize::new(2)));
    }
}
