//! How a source map is written (ECMA-426): its JSON, and its numbers in base64 VLQ.
//!
//! It is the one place that needs the package for it; without the feature `source-maps` every map
//! is one that can't be read, and places stay those of the text that the page loads.

use thiserror::Error;

/// Why a source map can't be read.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[error("the source map can't be read: {message}")]
#[non_exhaustive]
pub struct MapError {
    /// What is wrong.
    pub message: String,
}

/// A place of the made text, and where it was written.
#[derive(Clone, Copy, Debug)]
pub(super) struct Token {
    pub line: u32,
    pub column: u32,
    pub source: u32,
    pub source_line: u32,
    pub source_column: u32,
}

#[cfg(feature = "source-maps")]
mod code {
    use super::{MapError, Token};
    use sourcemap::{DecodedMap, decode_data_url, decode_slice, vlq};

    /// The tokens that have a source, and the sources as the map names them.
    pub(crate) fn decode(json: &[u8]) -> Result<(Vec<Token>, Vec<String>), MapError> {
        let bad = |error: sourcemap::Error| MapError {
            message: error.to_string(),
        };
        let map = match decode_slice(json).map_err(bad)? {
            DecodedMap::Regular(map) => map,
            DecodedMap::Index(index) => index.flatten().map_err(bad)?,
            _ => {
                return Err(MapError {
                    message: "it is of a kind that is not one of the standard's".to_owned(),
                });
            }
        };
        let tokens = map
            .tokens()
            .filter(sourcemap::Token::has_source)
            .map(|token| Token {
                line: token.get_dst_line(),
                column: token.get_dst_col(),
                source: token.get_src_id(),
                source_line: token.get_src_line(),
                source_column: token.get_src_col(),
            });
        Ok((tokens.collect(), map.sources().map(str::to_owned).collect()))
    }

    /// The JSON of an index map as that of a plain map; none where it is one already.
    pub(crate) fn flattened(json: &[u8]) -> Option<String> {
        let DecodedMap::Index(index) = decode_slice(json).ok()? else {
            return None;
        };
        let mut plain = Vec::new();
        index.flatten().ok()?.to_writer(&mut plain).ok()?;
        String::from_utf8(plain).ok()
    }

    /// The JSON of a map in a `data:` URL.
    pub(crate) fn of_data_url(url: &str) -> Option<Vec<u8>> {
        let mut json = Vec::new();
        match decode_data_url(url).ok()? {
            DecodedMap::Regular(map) => map.to_writer(&mut json).ok()?,
            DecodedMap::Index(map) => map.to_writer(&mut json).ok()?,
            _ => return None,
        }
        Some(json)
    }

    /// The numbers of a segment.
    pub(crate) fn numbers(segment: &str) -> Option<Vec<i64>> {
        vlq::parse_vlq_segment(segment).ok()
    }

    /// A segment of these numbers.
    pub(crate) fn written(numbers: &[i64]) -> String {
        vlq::generate_vlq_segment(numbers).unwrap_or_default()
    }
}

#[cfg(not(feature = "source-maps"))]
mod code {
    use super::{MapError, Token};

    pub(crate) fn decode(_: &[u8]) -> Result<(Vec<Token>, Vec<String>), MapError> {
        Err(MapError {
            message: "this program is built without the feature source-maps".to_owned(),
        })
    }

    pub(crate) fn flattened(_: &[u8]) -> Option<String> {
        None
    }

    pub(crate) fn of_data_url(_: &str) -> Option<Vec<u8>> {
        None
    }

    pub(crate) fn numbers(_: &str) -> Option<Vec<i64>> {
        None
    }

    pub(crate) fn written(_: &[i64]) -> String {
        String::new()
    }
}

pub(super) use code::{decode, flattened, numbers, of_data_url, written};
