//! Source maps (ECMA-426): where the parts of a text that a program made were written.
//!
//! A map counts lines and columns in UTF-16 code units from 0. It is a hint, not a promise: a map may
//! be older than its text, so whoever changes something looks at what is at the mapped place.

use std::sync::Arc;

use base64::Engine;
use base64::prelude::BASE64_STANDARD as BASE64;
use line_index::{LineIndex, WideEncoding};

use super::map_code::{MapError, Origin, Segment, decoded, encoded};
use super::{Cut, Patch, Place, Replacement, Text, TextRange, TextSize, map_code};

/// A source map, its sources as they are named in it.
#[derive(Debug)]
pub struct SourceMap {
    /// In order of the made text.
    segments: Vec<Segment>,
    sources: Vec<String>,
}

impl SourceMap {
    /// Reads a map's JSON: a plain map or an index map.
    ///
    /// # Errors
    /// Where it is not a source map, or one of a kind that is not read.
    pub fn decode(json: &[u8]) -> Result<SourceMap, MapError> {
        let (segments, sources) = map_code::decode(json)?;
        Ok(SourceMap { segments, sources })
    }

    /// An index map's JSON as that of a plain map; none where it is one already.
    pub fn flattened(json: &[u8]) -> Option<String> {
        map_code::flattened(json)
    }

    /// The sources, as the map names them.
    pub fn sources(&self) -> &[String] {
        &self.sources
    }

    /// Where a place of the made text was written, by the last segment at or before it on its line,
    /// and that segment's column.
    fn at(&self, line: u32, column: u32) -> Option<(Origin, u32)> {
        let after = self
            .segments
            .partition_point(|s| (s.line, s.column) <= (line, column));
        let segment = self.segments.get(after.checked_sub(1)?)?;
        (segment.line == line).then_some((segment.source?, segment.column))
    }
}

/// Where a map stands, so that it can be kept true when its text changes.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub enum MapFile {
    /// In its own file.
    File(Arc<Text>),
    /// In its own file, as an index map: what it says as a plain map. It becomes one with the
    /// first change.
    Index(Arc<Text>, String),
    /// In the text itself, in base64 at a span of it: the map's JSON.
    Inline(TextRange, String),
    /// In the text itself in another form: it is left as it is.
    Fixed,
}

/// What a source map knows about one text.
#[derive(Debug)]
pub struct Authored {
    map: SourceMap,
    file: MapFile,
    /// The texts of the map's sources, by their place there, with the name of each in the site.
    sources: Vec<(String, Option<Arc<Text>>)>,
}

impl Authored {
    /// A map with the texts of its sources: the name of each in the site, and its text where the site
    /// has it.
    pub fn new(
        map: SourceMap,
        file: MapFile,
        sources: Vec<(String, Option<Arc<Text>>)>,
    ) -> Authored {
        Authored { map, file, sources }
    }

    /// The sources, by their names in the site, with their texts.
    pub fn sources(&self) -> impl Iterator<Item = (&str, Option<&Arc<Text>>)> {
        self.sources
            .iter()
            .map(|(name, text)| (name.as_str(), text.as_ref()))
    }

    /// Where an offset of the made text was written.
    pub fn place(&self, text: &Text, offset: TextSize) -> Option<Place> {
        let (line, column) = text.utf16(offset);
        let (origin, _) = self.map.at(line, column)?;
        let (name, source) = self.sources.get(origin.index as usize)?;
        if let Some((source, at)) = self.find(text, offset) {
            return Some(source.place_here(at));
        }
        let file = source
            .as_ref()
            .map_or(name.clone(), |s| s.name().to_owned());
        let (line, column) = (origin.line, origin.column);
        Some(Place::new(
            file,
            line.saturating_add(1),
            column.saturating_add(1),
        ))
    }

    /// The name of the source that an offset of the made text comes from, where the site does not
    /// have it.
    pub fn missing(&self, text: &Text, offset: TextSize) -> Option<&str> {
        let (line, column) = text.utf16(offset);
        let (origin, _) = self.map.at(line, column)?;
        match self.sources.get(origin.index as usize)? {
            (name, None) => Some(name),
            _ => None,
        }
    }

    /// The source and the offset in it that an offset of the made text comes from. Between two places
    /// of the map the texts are taken to run alike; that is looked at by whoever uses it.
    pub fn find(&self, text: &Text, offset: TextSize) -> Option<(&Arc<Text>, TextSize)> {
        let (line, column) = text.utf16(offset);
        let (origin, start) = self.map.at(line, column)?;
        let source = self.sources.get(origin.index as usize)?.1.as_ref()?;
        let further = column.saturating_sub(start);
        let at = source.offset_of_utf16(origin.line, origin.column.saturating_add(further));
        let at = at.or_else(|| source.offset_of_utf16(origin.line, origin.column))?;
        Some((source, at))
    }

    /// The change of the map's file that keeps it true after a change of the made text and of its
    /// sources; none where nothing changes, or the map can't be changed. `added` are places that are
    /// new in both: the offset in the made text as it will be, the source, and the offset there.
    ///
    /// The numbers of a map are differences to the ones before (ECMA-426 § 9.2), so that what grows
    /// in one place moves only the next number.
    pub fn follow(
        &self,
        text: &Text,
        patch: &Patch,
        source_patch: &dyn Fn(&str) -> Option<Patch>,
        added: &[(TextSize, String, TextSize)],
    ) -> Option<(String, Patch)> {
        let json = match &self.file {
            MapFile::File(file) => file.source(),
            MapFile::Index(_, json) | MapFile::Inline(_, json) => json,
            MapFile::Fixed => return None,
        };
        let changed = self.followed(json, text, patch, source_patch, added)?;
        match &self.file {
            MapFile::File(file) => Some((file.name().to_owned(), changed)),
            MapFile::Index(file, _) => {
                let whole = Patch::single(file.span(), changed.put_into(json));
                Some((file.name().to_owned(), whole))
            }
            MapFile::Inline(span, _) => {
                let encoded = BASE64.encode(changed.put_into(json));
                let patch = Patch::single(*span, encoded);
                Some((text.name().to_owned(), patch))
            }
            MapFile::Fixed => None,
        }
    }

    /// The change of a map's JSON.
    fn followed(
        &self,
        json: &str,
        text: &Text,
        patch: &Patch,
        source_patch: &dyn Fn(&str) -> Option<Patch>,
        added: &[(TextSize, String, TextSize)],
    ) -> Option<Patch> {
        let (start, end) = mappings(json)?;
        let old = json.cut(start..end);
        let mut segments = decoded(old)?;
        let made = patch.put_into(text.source());
        let places = Places::new(&made);
        let written: Vec<Option<(Patch, String)>> = self
            .sources
            .iter()
            .map(|(_, source)| {
                let source = source.as_ref()?;
                let patch = source_patch(source.name())?;
                let after = patch.put_into(source.source());
                Some((patch, after))
            })
            .collect();
        let written_places: Vec<Option<Places>> = written
            .iter()
            .map(|w| w.as_ref().map(|(_, after)| Places::new(after)))
            .collect();
        // What is gone from the made text, or from its source, leads nowhere.
        segments.retain_mut(|segment| {
            let offset = text.offset_of_utf16(segment.line, segment.column);
            let Some(after) = offset.and_then(|o| patch.map(o)) else {
                return false;
            };
            (segment.line, segment.column) = places.of(after.into());
            let Some(source) = &mut segment.source else {
                return true;
            };
            let index = source.index as usize;
            let known = self.sources.get(index).and_then(|(_, text)| text.as_ref());
            let moved = written.get(index).and_then(Option::as_ref);
            let (Some(text), Some((patch, _)), Some(Some(places))) =
                (known, moved, written_places.get(index))
            else {
                return true;
            };
            let offset = text.offset_of_utf16(source.line, source.column);
            let Some(after) = offset.and_then(|o| patch.map(o)) else {
                return false;
            };
            (source.line, source.column) = places.of(after.into());
            true
        });
        for (at, name, source_at) in added {
            let known = |(_, text): &(String, Option<Arc<Text>>)| {
                text.as_ref().is_some_and(|t| t.name() == name)
            };
            let index = self.sources.iter().position(known)?;
            let (line, column) = places.of((*at).into());
            let (source_line, source_column) =
                written_places.get(index)?.as_ref()?.of((*source_at).into());
            segments.push(Segment {
                line,
                column,
                source: Some(Origin {
                    index: index as u32,
                    line: source_line,
                    column: source_column,
                    name: None,
                }),
            });
        }
        segments.sort_by_key(|s| (s.line, s.column));
        let patch = difference(start, old, &encoded(&segments, old.matches(';').count()));
        (!patch.is_empty()).then_some(patch)
    }
}

/// The lines of a text and its wide characters, to find many places in it.
struct Places(LineIndex);

impl Places {
    fn new(text: &str) -> Places {
        Places(LineIndex::new(text))
    }

    /// The line and UTF-16 column of an offset, both from 0.
    fn of(&self, offset: usize) -> (u32, u32) {
        let at = self.0.line_col(TextSize::new(offset as u32));
        let wide = self.0.to_wide(WideEncoding::Utf16, at);
        (at.line, wide.map_or(at.col, |wide| wide.col))
    }
}

/// Where the `mappings` of a map's JSON stand, between their quotes; none for an index map.
fn mappings(json: &str) -> Option<(usize, usize)> {
    let key = "\"mappings\"";
    let mut found = json.match_indices(key);
    let at = found.next()?.0 + key.len();
    if found.next().is_some() {
        return None;
    }
    let rest = json.cut(at..);
    let colon = rest.trim_start().strip_prefix(':')?.trim_start();
    let text = colon.strip_prefix('"')?;
    let start = json.len() - text.len();
    let end = start + text.find('"')?;
    Some((start, end))
}

/// The segments that differ, so that changes in different places are different changes.
fn difference(start: usize, old: &str, new: &str) -> Patch {
    let before: Vec<&str> = old.split_inclusive([',', ';']).collect();
    let after: Vec<&str> = new.split_inclusive([',', ';']).collect();
    let replacements = super::changed_bytes(&before, &after)
        .into_iter()
        .map(|change| Replacement {
            range: super::span(start + change.before.start, start + change.before.end),
            with: new.cut(change.after).to_owned(),
        });
    Patch::new(replacements.collect()).expect("segments don't overlap")
}
