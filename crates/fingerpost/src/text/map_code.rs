//! How a source map is written (ECMA-426): its JSON, and its mappings in base64 VLQ.

use serde::{Deserialize, Serialize};
use serde_json::Value;
use thiserror::Error;

/// Why a source map can't be read.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[error("the source map can't be read: {message}")]
#[non_exhaustive]
pub struct MapError {
    /// What is wrong.
    pub message: String,
}

fn error(message: impl Into<String>) -> MapError {
    MapError {
        message: message.into(),
    }
}

/// A place of the made text in the `mappings` of a map, both from 0.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Segment {
    pub line: u32,
    pub column: u32,
    pub source: Option<Origin>,
}

/// Where it was written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Origin {
    pub index: u32,
    pub line: u32,
    pub column: u32,
    pub name: Option<u32>,
}

/// The JSON of a map (ECMA-426 § 9).
#[derive(Debug, Default, Deserialize, Serialize)]
#[serde(rename_all = "camelCase", default)]
struct Json {
    version: u32,
    #[serde(skip_serializing_if = "Option::is_none")]
    file: Option<Value>,
    #[serde(skip_serializing_if = "Option::is_none")]
    source_root: Option<String>,
    sources: Vec<Option<String>>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    sources_content: Vec<Option<String>>,
    names: Vec<Value>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    ignore_list: Vec<u32>,
    #[serde(skip_serializing_if = "Option::is_none")]
    mappings: Option<String>,
    #[serde(skip_serializing)]
    sections: Option<Vec<Section>>,
}

/// A map of a part of the made text, in an index map.
#[derive(Debug, Deserialize)]
struct Section {
    offset: Offset,
    map: Box<Json>,
}

#[derive(Clone, Copy, Debug, Deserialize)]
struct Offset {
    line: u32,
    column: u32,
}

/// Index maps inside of index maps are read this deep; the standard has none of them (§ 9.3).
const DEEPEST_INDEX: usize = 8;

/// The mappings in order of the made text, and the sources as the map names them, each with the
/// map's `sourceRoot` before it.
pub(super) fn decode(json: &[u8]) -> Result<(Vec<Segment>, Vec<String>), MapError> {
    let map = plain(read(json)?)?;
    let mappings = map.mappings.as_deref().unwrap_or_default();
    let mut segments = decoded(mappings).ok_or_else(|| error("its mappings are damaged"))?;
    segments.sort_by_key(|s| (s.line, s.column));
    let sources = map.sources.into_iter().map(Option::unwrap_or_default);
    Ok((segments, sources.collect()))
}

/// The JSON of an index map as that of a plain map; none where it is one already.
pub(super) fn flattened(json: &[u8]) -> Option<String> {
    let map = read(json).ok()?;
    map.sections.as_ref()?;
    serde_json::to_string(&plain(map).ok()?).ok()
}

/// Servers may put a line before the JSON that keeps it from being run as a script (§ 9.1).
fn read(json: &[u8]) -> Result<Json, MapError> {
    let json = match json.strip_prefix(b")]}'") {
        Some(rest) => rest.splitn(2, |b| *b == b'\n').nth(1).unwrap_or_default(),
        None => json,
    };
    let map: Json = serde_json::from_slice(json).map_err(|e| error(e.to_string()))?;
    if map.version != 3 {
        return Err(error("it has no \"version\": 3"));
    }
    if map.mappings.is_none() && map.sections.is_none() {
        return Err(error("it has neither \"mappings\" nor \"sections\""));
    }
    Ok(map)
}

/// A map without sections and without a `sourceRoot`.
fn plain(map: Json) -> Result<Json, MapError> {
    let file = map.file.clone();
    let mut whole = Flat::default();
    whole.add(map, Offset { line: 0, column: 0 }, 0)?;
    let lines = whole.segments.last().map_or(0, |s| s.line as usize);
    whole.map.version = 3;
    whole.map.file = file;
    whole.map.mappings = Some(encoded(&whole.segments, lines));
    Ok(whole.map)
}

/// The sections of an index map, joined.
#[derive(Default)]
struct Flat {
    map: Json,
    segments: Vec<Segment>,
}

impl Flat {
    fn add(&mut self, map: Json, offset: Offset, depth: usize) -> Result<(), MapError> {
        let Some(sections) = map.sections else {
            return self.add_plain(map, offset);
        };
        if depth == DEEPEST_INDEX {
            return Err(error("its sections are nested too deeply"));
        }
        for section in sections {
            let inner = Offset {
                line: offset.line.saturating_add(section.offset.line),
                column: if section.offset.line == 0 {
                    offset.column.saturating_add(section.offset.column)
                } else {
                    section.offset.column
                },
            };
            self.add(*section.map, inner, depth + 1)?;
        }
        Ok(())
    }

    fn add_plain(&mut self, map: Json, offset: Offset) -> Result<(), MapError> {
        let mappings = map.mappings.as_deref().unwrap_or_default();
        let segments = decoded(mappings).ok_or_else(|| error("its mappings are damaged"))?;
        let root = map.source_root.unwrap_or_default();
        let mut contents = map.sources_content.into_iter();
        let mut indexes = Vec::new();
        for source in map.sources {
            let source = source.map(|name| rooted(&root, &name));
            let content = contents.next().flatten();
            let known = self.map.sources.iter().position(|s| *s == source);
            let at = known.filter(|_| source.is_some()).unwrap_or_else(|| {
                self.map.sources.push(source);
                self.map.sources_content.push(content);
                self.map.sources.len() - 1
            });
            indexes.push(at as u32);
        }
        let ignored = map.ignore_list.iter();
        let ignored = ignored.filter_map(|at| indexes.get(*at as usize));
        self.map.ignore_list.extend(ignored);
        let names = self.map.names.len() as u32;
        self.map.names.extend(map.names);
        for mut segment in segments {
            if segment.line == 0 {
                segment.column = segment.column.saturating_add(offset.column);
            }
            segment.line = segment.line.saturating_add(offset.line);
            if let Some(source) = &mut segment.source {
                let index = indexes.get(source.index as usize);
                source.index = *index.ok_or_else(|| error("a mapping names no source"))?;
                source.name = source.name.map(|name| names.saturating_add(name));
            }
            self.segments.push(segment);
        }
        if self.map.sources_content.iter().all(Option::is_none) {
            self.map.sources_content.clear();
            // Their places are kept for the sections to come.
            let sources = self.map.sources.len();
            self.map.sources_content.resize(sources, None);
        }
        Ok(())
    }
}

/// A source's name with the map's `sourceRoot` before it (§ 9.1), unless it is absolute.
fn rooted(root: &str, name: &str) -> String {
    let is_absolute = name.starts_with('/') || name.contains("://");
    if root.is_empty() || is_absolute {
        return name.to_owned();
    }
    format!("{}/{name}", root.trim_end_matches('/'))
}

/// Reads mappings: numbers in base64 VLQ (ECMA-426 § 6.2), each the difference to the one before.
pub(super) fn decoded(mappings: &str) -> Option<Vec<Segment>> {
    let (mut index, mut line, mut column, mut name) = (0i64, 0i64, 0i64, 0i64);
    let mut segments = Vec::new();
    for (made_line, row) in mappings.split(';').enumerate() {
        let mut made = 0i64;
        for text in row.split(',').filter(|text| !text.is_empty()) {
            let fields = numbers(text)?;
            made = made.checked_add(*fields.first()?)?;
            let mut source = None;
            if let [_, index_step, line_step, column_step, ..] = fields[..] {
                index = index.checked_add(index_step)?;
                line = line.checked_add(line_step)?;
                column = column.checked_add(column_step)?;
                name = name.checked_add(fields.get(4).copied().unwrap_or(0))?;
                source = Some(Origin {
                    index: u32::try_from(index).ok()?,
                    line: u32::try_from(line).ok()?,
                    column: u32::try_from(column).ok()?,
                    name: fields.get(4).and_then(|_| u32::try_from(name).ok()),
                });
            }
            segments.push(Segment {
                line: u32::try_from(made_line).ok()?,
                column: u32::try_from(made).ok()?,
                source,
            });
        }
    }
    Some(segments)
}

/// Writes mappings, with no fewer lines than there were.
pub(super) fn encoded(segments: &[Segment], breaks: usize) -> String {
    let (mut index, mut line, mut column, mut name) = (0i64, 0i64, 0i64, 0i64);
    let (mut made_line, mut made) = (0u32, 0i64);
    let mut text = String::new();
    let mut begun = false;
    for segment in segments {
        while made_line < segment.line {
            text.push(';');
            made_line += 1;
            made = 0;
            begun = false;
        }
        if std::mem::replace(&mut begun, true) {
            text.push(',');
        }
        let mut fields = vec![i64::from(segment.column) - made];
        made = i64::from(segment.column);
        if let Some(source) = &segment.source {
            let (new_index, new_line) = (i64::from(source.index), i64::from(source.line));
            let new_column = i64::from(source.column);
            fields.extend([new_index - index, new_line - line, new_column - column]);
            (index, line, column) = (new_index, new_line, new_column);
            if let Some(new_name) = source.name {
                fields.push(i64::from(new_name) - name);
                name = i64::from(new_name);
            }
        }
        text.push_str(&written(&fields));
    }
    let missing = breaks.saturating_sub(made_line as usize);
    // Lines without a place at the end are kept where nothing was removed.
    text.push_str(&";".repeat(missing));
    text
}

/// The numbers of a segment.
fn numbers(segment: &str) -> Option<Vec<i64>> {
    let mut bytes = segment.bytes().peekable();
    let mut numbers = Vec::new();
    while bytes.peek().is_some() {
        numbers.push(vlq::decode(&mut bytes).ok()?);
    }
    Some(numbers)
}

/// A segment of these numbers.
fn written(numbers: &[i64]) -> String {
    let mut bytes = Vec::new();
    for number in numbers {
        vlq::encode(*number, &mut bytes).expect("a vector takes all that is written");
    }
    String::from_utf8(bytes).expect("base64 is ASCII")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn sections_become_one_map() {
        let index = r#"{"version":3,"sections":[
            {"offset":{"line":0,"column":4},"map":{"version":3,"sourceRoot":"scss","sources":["a.scss"],"names":[],"mappings":"AAAA,CAAC"}},
            {"offset":{"line":2,"column":1},"map":{"version":3,"sources":["scss/a.scss","b.scss"],"names":["n"],"mappings":"ACAAA;AAAA"}}]}"#;
        let (segments, sources) = decode(index.as_bytes()).unwrap();
        assert_eq!(sources, ["scss/a.scss", "b.scss"]);
        let places: Vec<_> = segments.iter().map(|s| (s.line, s.column)).collect();
        assert_eq!(places, [(0, 4), (0, 5), (2, 1), (3, 0)]);
        let origins = segments.iter().map(|s| s.source.unwrap().index);
        assert_eq!(origins.collect::<Vec<_>>(), [0, 0, 1, 1]);
        let plain = flattened(index.as_bytes()).unwrap();
        assert_eq!(decode(plain.as_bytes()).unwrap(), (segments, sources));
        assert_eq!(flattened(plain.as_bytes()), None);
    }

    #[test]
    fn what_is_no_map_says_why() {
        for (json, why) in [
            ("[]", "it has no \"version\": 3"),
            ("{}", "it has no \"version\": 3"),
            (r#"{"version":3,"sources":[]}"#, "it has neither"),
            (
                r#"{"version":3,"sources":[],"mappings":"?"}"#,
                "its mappings are damaged",
            ),
            (
                r#"{"version":3,"sources":[],"mappings":"AAAA"}"#,
                "a mapping names no source",
            ),
        ] {
            let error = decode(json.as_bytes()).unwrap_err();
            assert!(error.message.contains(why), "{json}: {error}");
        }
        let guarded = ")]}'\n{\"version\":3,\"sources\":[],\"mappings\":\"\"}";
        assert!(decode(guarded.as_bytes()).is_ok());
    }
}
