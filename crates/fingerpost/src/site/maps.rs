//! The source maps of a site's sheets: found as ECMA-426 § 11 says, read with the texts of their
//! sources.

use std::sync::Arc;

use base64::Engine;
use base64::prelude::BASE64_STANDARD as BASE64;

use super::{Site, is_url};
use crate::page::Request;
use crate::text::{Authored, DecodeHint, MapFile, SitePath, SourceMap, Text};

/// What came of a sheet's source map.
#[derive(Debug, PartialEq, Eq)]
pub(super) enum MapReading {
    /// The sheet names none, and none is beside it.
    NoMap,
    /// It leads to the sheet itself, which says nothing.
    Itself,
    /// The sheet knows its sources.
    Read,
    /// It can't be read: why, in a clause.
    Failed(String),
}

impl Site {
    /// Reads the source map that a sheet names, if it names one that can be read. A map that can't
    /// be should not answer: the sheet then is its own source.
    pub(super) fn read_map(&self, text: &Arc<Text>) -> MapReading {
        if text.authored().is_some() {
            return MapReading::Read;
        }
        let beside = format!("{}.map", text.name().rsplit('/').next().unwrap_or_default());
        let url = match named(text.source()) {
            Some(url) => url,
            None if self.near(text.name(), &beside).is_some() => &beside,
            None => return MapReading::NoMap,
        };
        let css = DecodeHint::Css(encoding_rs::UTF_8);
        let (json, base, file) = if url.starts_with("data:") {
            let Some((json, file)) = inline(text, url) else {
                return MapReading::Failed(
                    "its source map, in the sheet itself, can't be read".to_owned(),
                );
            };
            (json, text.name().to_owned(), file)
        } else {
            let Some(name) = self.near(text.name(), url) else {
                return MapReading::Failed(format!("its source map {url} is not in the site"));
            };
            let map = match self.text(&name, css) {
                Ok(map) => map,
                Err(error) => {
                    return MapReading::Failed(format!("its source map can't be read: {error}"));
                }
            };
            let json = map.source().as_bytes().to_vec();
            let file = match SourceMap::flattened(&json) {
                Some(plain) => MapFile::Index(map, plain),
                None => MapFile::File(map),
            };
            (json, name, file)
        };
        let map = match SourceMap::decode(&json) {
            Ok(map) => map,
            Err(error) => {
                return MapReading::Failed(format!("its source map {base} can't be read: {error}"));
            }
        };
        let sources = map.sources().iter().map(|source| {
            let name = self.near(&base, source).or_else(|| self.by_tail(source));
            // Where a build has several steps, the sheet itself is among its sources. Nothing is to be read from it.
            let other = name.as_deref().filter(|name| *name != text.name());
            let read = other.and_then(|name| self.text(name, css).ok());
            (name.unwrap_or_else(|| source.clone()), read)
        });
        let sources: Vec<(String, Option<Arc<Text>>)> = sources.collect();
        // A map that says a sheet was made from itself alone says nothing.
        if sources.iter().all(|(name, _)| name == text.name()) {
            return MapReading::Itself;
        }
        text.set_authored(Authored::new(map, file, sources));
        MapReading::Read
    }

    /// The one source of the site that a map's name for it ends like: the build ran in another folder than the one that is served.
    fn by_tail(&self, source: &str) -> Option<String> {
        let path = source.split_once("://").map_or(source, |(_, path)| path);
        let parts: Vec<&str> = path
            .split('/')
            .filter(|part| !matches!(*part, "" | "." | ".."))
            .collect();
        // The last part alone is a name that many files have.
        (0..parts.len().saturating_sub(1)).find_map(|from| {
            let tail = parts.get(from..)?.join("/");
            let name = SitePath::new(&tail).ok()?;
            self.has_file(&name).then(|| name.to_string())
        })
    }

    /// The name of the file that a URL means, as seen from another file; none outside of the site.
    fn near(&self, from: &str, url: &str) -> Option<String> {
        let request = Request {
            url,
            from,
            base: None,
            encoding: encoding_rs::UTF_8,
        };
        let name = self.resolve(&request).ok()?;
        if is_url(&name) {
            return None;
        }
        // A map's sources are often no part of what is served, but lie beside it on disk.
        let name = SitePath::new(&name).ok()?;
        self.has_file(&name).then(|| name.to_string())
    }
}

/// The JSON of a map that is in its sheet, and where it is.
fn inline(text: &Text, url: &str) -> Option<(Vec<u8>, MapFile)> {
    let (head, payload) = url.split_once(',')?;
    if !head.ends_with(";base64") {
        let json = percent_encoding::percent_decode_str(payload).collect();
        return Some((json, MapFile::Fixed));
    }
    let json = BASE64.decode(payload).ok()?;
    // The last comment of its kind is the one that counts.
    let start = text.source().rfind(payload)?;
    let span = crate::text::span(start, start + payload.len());
    let plain = SourceMap::flattened(&json);
    let plain = plain.or_else(|| String::from_utf8(json.clone()).ok());
    let file = plain.map_or(MapFile::Fixed, |plain| MapFile::Inline(span, plain));
    Some((json, file))
}

/// The URL of the last `sourceMappingURL` comment of a sheet.
fn named(source: &str) -> Option<&str> {
    let key = "sourceMappingURL=";
    let (before, rest) = source.rsplit_once(key)?;
    let before = before.trim_end();
    if !before.ends_with("/*#") && !before.ends_with("/*@") {
        return None;
    }
    let url = rest.split("*/").next()?.trim();
    (!url.is_empty()).then_some(url)
}
