//! Encodings: how a file's bytes became characters, and how changed characters become bytes again.
//!
//! Follows the Encoding standard's labels (through `encoding_rs`), HTML's encoding sniffing
//! ("prescan a byte stream") and CSS Syntax 3 § 3.2. Two things differ from a browser: a page
//! without any declaration is taken for UTF-8 when its bytes are valid UTF-8, as authored files
//! nearly always are; and the bytes themselves are kept, so that a save never re-encodes what it
//! does not change.

#![cfg_attr(not(test), deny(clippy::indexing_slicing, clippy::string_slice))]

use encoding_rs::{
    CoderResult, DecoderResult, EncoderResult, ISO_2022_JP, UTF_8, UTF_16BE, UTF_16LE, WINDOWS_1252,
};
use thiserror::Error;

use super::{LARGEST_FILE, Patch, TextSize};

/// What kind of file is decoded: it says where a declaration of the encoding stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum DecodeHint {
    /// An HTML page: `<meta charset>` in the first 1024 bytes.
    Html,
    /// A style sheet: `@charset "…";` as its very first bytes, else the encoding of the page that
    /// asked for it.
    Css(&'static encoding_rs::Encoding),
}

impl DecodeHint {
    /// That of a sheet whose file says nothing of its encoding.
    pub fn utf8_sheet() -> DecodeHint {
        DecodeHint::Css(UTF_8)
    }
}

/// Why a file could not be read or written as text.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[non_exhaustive]
pub enum EncodingError {
    /// The file is larger than [`LARGEST_FILE`].
    #[error("the file has {bytes} bytes; more than {LARGEST_FILE} are not read as a source text")]
    TooLarge {
        /// How large it is.
        bytes: usize,
    },
    /// The bytes are no text.
    #[error("the file looks binary (a zero byte at offset {offset}); expected HTML or CSS text")]
    Binary {
        /// Where the first zero byte stands.
        offset: usize,
    },
    /// A change would make other characters of the bytes beside it.
    #[error(
        "{file} is in {encoding}, and the bytes beside this change would become other characters with \
         it; change a larger piece"
    )]
    Inseparable {
        /// The file.
        file: String,
        /// The encoding's name.
        encoding: &'static str,
    },
    /// A changed text holds a character that the file's encoding can't write.
    #[error("{file} is in {encoding}, which has no character '{character}'; write it as an escape")]
    NotEncodable {
        /// The file.
        file: String,
        /// The encoding's name.
        encoding: &'static str,
        /// The character.
        character: char,
    },
}

/// The encoding of a file, with the bytes that a plain UTF-8 string could not give back.
#[derive(Clone, Debug)]
pub struct Encoding {
    encoding: &'static encoding_rs::Encoding,
    mark: &'static [u8],
    /// The file's bytes after the mark, kept where re-encoding might not give them back: any
    /// encoding but UTF-8, and UTF-8 with malformed sequences.
    raw: Option<Vec<u8>>,
}

impl Encoding {
    pub(super) fn utf8() -> Self {
        Encoding {
            encoding: UTF_8,
            mark: b"",
            raw: None,
        }
    }

    /// The Encoding standard's name, such as `UTF-8`.
    pub fn name(&self) -> &'static str {
        self.encoding.name()
    }

    /// Whether the file starts with a byte-order mark.
    pub fn has_mark(&self) -> bool {
        !self.mark.is_empty()
    }

    /// Whether the characters alone do not give the file's bytes back.
    pub(crate) fn keeps_bytes(&self) -> bool {
        self.raw.is_some()
    }

    /// The encoding itself, as the fallback for style sheets that a page asks for.
    pub fn as_fallback(&self) -> &'static encoding_rs::Encoding {
        self.encoding
    }

    pub(super) fn whole(&self, source: &str) -> Vec<u8> {
        let body = self.raw.as_deref().unwrap_or(source.as_bytes());
        [self.mark, body].concat()
    }

    /// The encoding of the text after `patch`: bytes outside it are the old ones.
    pub(super) fn patched(
        &self,
        file: &str,
        source: &str,
        patch: &Patch,
    ) -> Result<Encoding, EncodingError> {
        let Some(raw) = &self.raw else {
            return Ok(self.clone());
        };
        let offsets = RawOffsets::new(self.encoding, raw);
        let inseparable = || EncodingError::Inseparable {
            file: file.to_owned(),
            encoding: self.encoding.name(),
        };
        let mut out = Vec::with_capacity(raw.len());
        let mut done = 0;
        for replacement in patch.replacements() {
            let start = offsets.of(replacement.range.start());
            let end = offsets.of(replacement.range.end());
            let (Some(start), Some(end)) = (start, end) else {
                return Err(inseparable());
            };
            out.extend_from_slice(raw.get(done..start).ok_or_else(inseparable)?);
            out.extend(self.encode(file, &replacement.with)?);
            done = end;
        }
        out.extend_from_slice(raw.get(done..).ok_or_else(inseparable)?);
        // Bytes that did not decode could make another character with what is after them now.
        let (decoded, encoding) = decode_kept(self.encoding, self.mark, out);
        match decoded == patch.put_into(source) {
            true => Ok(encoding),
            false => Err(inseparable()),
        }
    }

    fn encode(&self, file: &str, text: &str) -> Result<Vec<u8>, EncodingError> {
        // The Encoding standard has no UTF-16 encoder; the two byte orders are plain enough.
        if self.encoding == UTF_16LE {
            return Ok(text.encode_utf16().flat_map(u16::to_le_bytes).collect());
        }
        if self.encoding == UTF_16BE {
            return Ok(text.encode_utf16().flat_map(u16::to_be_bytes).collect());
        }
        let mut encoder = self.encoding.new_encoder();
        let room = encoder
            .max_buffer_length_from_utf8_without_replacement(text.len())
            .unwrap_or(text.len() * 4);
        let mut out = Vec::with_capacity(room);
        match encoder.encode_from_utf8_to_vec_without_replacement(text, &mut out, true) {
            (EncoderResult::Unmappable(character), _) => Err(EncodingError::NotEncodable {
                file: file.to_owned(),
                encoding: self.encoding.name(),
                character,
            }),
            _ => Ok(out),
        }
    }
}

/// Where each character of the decoded text is in the raw bytes.
struct RawOffsets {
    /// Pairs of (decoded, raw) offsets at the end of every character, ascending. A sequence that does
    /// not decode is one character, U+FFFD, and keeps its own bytes.
    ends: Vec<(usize, usize)>,
}

impl RawOffsets {
    fn new(encoding: &'static encoding_rs::Encoding, raw: &[u8]) -> Self {
        let mut decoder = encoding.new_decoder_without_bom_handling();
        let mut ends = vec![(0, 0)];
        let mut decoded = 0;
        let mut at = 0;
        let mut buffer = [0u8; 32];
        loop {
            // Byte by byte: what a byte brings ends with that byte.
            let last = at >= raw.len();
            let next = raw.get(at..at + 1).unwrap_or_default();
            let (result, read, written) =
                decoder.decode_to_utf8_without_replacement(next, &mut buffer, last);
            at += read;
            if written > 0 {
                decoded += written;
                ends.push((decoded, at));
            }
            match result {
                DecoderResult::InputEmpty if last => break,
                DecoderResult::InputEmpty | DecoderResult::OutputFull => {}
                DecoderResult::Malformed(_, beyond) => {
                    decoded += char::REPLACEMENT_CHARACTER.len_utf8();
                    // The decoder has read some bytes beyond those that don't decode, and goes on
                    // from there. Only one encoding has a state then that a new decoder has not.
                    if encoding != ISO_2022_JP && beyond > 0 {
                        at = at.saturating_sub(beyond.into());
                        decoder = encoding.new_decoder_without_bom_handling();
                    }
                    ends.push((decoded, at));
                }
            }
        }
        RawOffsets { ends }
    }

    /// The raw offset of a decoded one; none in the middle of a sequence that stands for several
    /// characters.
    fn of(&self, offset: TextSize) -> Option<usize> {
        let offset = usize::from(offset);
        let at = self
            .ends
            .binary_search_by_key(&offset, |(decoded, _)| *decoded);
        let (_, raw) = self.ends.get(at.ok()?)?;
        Some(*raw)
    }
}

pub(super) fn decode(
    bytes: Vec<u8>,
    hint: DecodeHint,
) -> Result<(String, Encoding), EncodingError> {
    if bytes.len() > LARGEST_FILE {
        return Err(EncodingError::TooLarge { bytes: bytes.len() });
    }
    if let Some((encoding, length)) = encoding_rs::Encoding::for_bom(&bytes) {
        let mark: &'static [u8] = match length {
            3 => b"\xEF\xBB\xBF",
            _ if encoding == UTF_16LE => b"\xFF\xFE",
            _ => b"\xFE\xFF",
        };
        return Ok(decode_as(
            encoding,
            mark,
            bytes.get(length..).unwrap_or_default().to_vec(),
        ));
    }
    // A zero byte in the head of an unmarked file: an image, an archive, a UTF-16 file without its
    // mark. None of them is a source that we could change safely.
    if let Some(offset) = bytes.iter().take(8192).position(|b| *b == 0) {
        return Err(EncodingError::Binary { offset });
    }
    let declared = match hint {
        DecodeHint::Html => declared_by_meta(&bytes),
        DecodeHint::Css(_) => declared_by_charset_rule(&bytes),
    };
    let encoding = match (declared, hint) {
        (Some(encoding), _) => encoding,
        (None, DecodeHint::Css(fallback)) if fallback != UTF_8 => {
            if std::str::from_utf8(&bytes).is_ok() {
                UTF_8
            } else {
                fallback
            }
        }
        (None, DecodeHint::Html) if std::str::from_utf8(&bytes).is_err() => WINDOWS_1252,
        (None, _) => UTF_8,
    };
    Ok(decode_as(encoding, b"", bytes))
}

fn decode_as(
    encoding: &'static encoding_rs::Encoding,
    mark: &'static [u8],
    bytes: Vec<u8>,
) -> (String, Encoding) {
    if encoding == UTF_8 {
        match String::from_utf8(bytes) {
            Ok(source) => {
                let encoding = Encoding {
                    encoding,
                    mark,
                    raw: None,
                };
                return (source, encoding);
            }
            Err(error) => return decode_kept(encoding, mark, error.into_bytes()),
        }
    }
    decode_kept(encoding, mark, bytes)
}

fn decode_kept(
    encoding: &'static encoding_rs::Encoding,
    mark: &'static [u8],
    bytes: Vec<u8>,
) -> (String, Encoding) {
    let mut decoder = encoding.new_decoder_without_bom_handling();
    let room = decoder
        .max_utf8_buffer_length(bytes.len())
        .unwrap_or(bytes.len() * 4);
    let mut source = String::with_capacity(room);
    let (result, _, _) = decoder.decode_to_string(&bytes, &mut source, true);
    debug_assert!(matches!(result, CoderResult::InputEmpty));
    let encoding = Encoding {
        encoding,
        mark,
        raw: Some(bytes),
    };
    (source, encoding)
}

/// HTML § 13.2.3.2: the prescan looks at the first 1024 bytes.
const PRESCAN_BYTES: usize = 1024;

fn declared_by_meta(bytes: &[u8]) -> Option<&'static encoding_rs::Encoding> {
    let head = bytes.get(..PRESCAN_BYTES).unwrap_or(bytes);
    for token in html5gum::Tokenizer::new(head) {
        let Ok(token) = token;
        let html5gum::Token::StartTag(tag) = token else {
            continue;
        };
        if tag.name.as_slice() != b"meta" {
            continue;
        }
        let attribute = |name: &[u8]| tag.attributes.get(name).map(|value| value.to_vec());
        let label = attribute(b"charset").or_else(|| {
            let content = attribute(b"content")?.to_ascii_lowercase();
            let at = content.windows(8).position(|w| w == b"charset=")?;
            let rest = content.iter().skip(at + 8).copied();
            Some(
                rest.skip_while(|b| matches!(b, b'"' | b'\''))
                    .take_while(|b| !matches!(b, b';' | b'"' | b'\'' | b' '))
                    .collect(),
            )
        });
        if let Some(encoding) = label.and_then(|l| encoding_rs::Encoding::for_label(&l)) {
            return Some(never_utf16(encoding));
        }
    }
    None
}

fn declared_by_charset_rule(bytes: &[u8]) -> Option<&'static encoding_rs::Encoding> {
    let rest = bytes.strip_prefix(b"@charset \"")?;
    let end = rest.iter().position(|b| *b == b'"')?;
    (rest.get(end + 1) == Some(&b';'))
        .then(|| encoding_rs::Encoding::for_label(rest.get(..end)?))
        .flatten()
        .map(never_utf16)
}

/// A declaration that could be read as ASCII can't are in a UTF-16 file: both standards then
/// take UTF-8.
fn never_utf16(encoding: &'static encoding_rs::Encoding) -> &'static encoding_rs::Encoding {
    if encoding == UTF_16BE || encoding == UTF_16LE {
        UTF_8
    } else {
        encoding
    }
}

#[cfg(test)]
mod tests {
    use super::super::{Text, TextRange};
    use super::*;

    fn patched(bytes: &[u8], find: &str, with: &str) -> Vec<u8> {
        let text = Text::decode("f", bytes.to_vec(), DecodeHint::Html).unwrap();
        let at = text.source().find(find).unwrap() as u32;
        let range = TextRange::at(at.into(), TextSize::of(find));
        let patch = Patch::single(range, with);
        text.patched(&patch).unwrap().to_bytes()
    }

    #[test]
    fn bytes_outside_a_patch_stay_in_every_encoding() {
        let latin = b"<meta charset=iso-8859-1><p>caf\xE9 one\r\n";
        assert_eq!(
            patched(latin, "one", "d\u{e9}ux"),
            b"<meta charset=iso-8859-1><p>caf\xE9 d\xE9ux\r\n"
        );
        let marked = b"\xEF\xBB\xBF<p>one";
        assert_eq!(patched(marked, "one", "two"), b"\xEF\xBB\xBF<p>two");
        let malformed = b"<meta charset=utf-8><p>\xFF\xC3 one \xE2\x82";
        assert_eq!(
            patched(malformed, "one", "two"),
            b"<meta charset=utf-8><p>\xFF\xC3 two \xE2\x82"
        );
        let wide: Vec<u8> = [0xFF, 0xFE]
            .into_iter()
            .chain("<p>one 🚢".encode_utf16().flat_map(u16::to_le_bytes))
            .collect();
        let want: Vec<u8> = [0xFF, 0xFE]
            .into_iter()
            .chain("<p>two 🚢".encode_utf16().flat_map(u16::to_le_bytes))
            .collect();
        assert_eq!(patched(&wide, "one", "two"), want);
    }

    #[test]
    fn a_character_the_encoding_lacks_is_an_error_that_names_it() {
        let bytes = b"<meta charset=windows-1252><p>one".to_vec();
        let text = Text::decode("a.html", bytes, DecodeHint::Html).unwrap();
        let patch = Patch::single(TextRange::new(30.into(), 33.into()), "→");
        let error = text.patched(&patch).unwrap_err();
        assert!(error.to_string().contains("no character '→'"), "{error}");
    }

    #[test]
    fn style_sheets_declare_by_charset_or_take_the_pages_encoding() {
        let text = |bytes: &[u8]| {
            Text::decode("a.css", bytes.to_vec(), DecodeHint::Css(WINDOWS_1252)).unwrap()
        };
        let declared = text(b"@charset \"koi8-r\"; a::before { content: '\xC1' }");
        assert!(declared.source().contains('а'));
        let inherited = text(b"a::before { content: '\xE9' }");
        assert!(inherited.source().contains('é'));
    }

    #[test]
    fn binary_is_refused() {
        let error = Text::decode("a.png", b"\x89PNG\0".to_vec(), DecodeHint::Html).unwrap_err();
        assert_eq!(error, EncodingError::Binary { offset: 4 });
    }
}
