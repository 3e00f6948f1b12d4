//! Where in the templates a change of a page belongs.

use super::super::Site;
use super::align::{Template, Written};
use super::data;
use super::language::Language;
use crate::edit::EditError;
use crate::markup::ElementId;
use crate::page::Page;
use crate::text::{Replacement, TextRange, TextSize, span};

/// How many places are named where markup may be written.
const MOST_PLACES: usize = 5;

/// A page, what changes of it, and what it may be made from.
pub(super) struct Search<'a> {
    pub site: &'a Site,
    pub page: &'a Page,
    pub targets: &'a [ElementId],
    pub templates: &'a [Template],
}

/// Where a change belongs.
pub(super) struct Found<'a> {
    pub template: &'a Template,
    /// The change, of the template.
    pub own: Replacement,
    /// The ranges of the page that this part of the template writes.
    pub repeated: Vec<TextRange>,
}

/// A range of the page that changes.
#[derive(Clone, Copy)]
struct Changed {
    range: TextRange,
    /// Whether it goes, with what the server prints in it.
    removes: bool,
}

/// One place in the templates.
type Spot<'a> = (&'a Template, TextRange);

/// Why no one place was found.
enum NoSpot {
    /// The templates have it in several places.
    Several(Vec<String>),
    /// A server prints it: what is said of that.
    Printed(String),
    Nowhere,
}

impl<'a> Search<'a> {
    /// Where a change of the page belongs: the one template that writes what is around it.
    pub fn place(&self, replacement: &Replacement) -> Result<Found<'a>, EditError> {
        let text = self.page.document().text();
        let place = text.place(replacement.range.start());
        let refused = |why: String| EditError::NotThere {
            place: place.to_string(),
            why,
        };
        if self.templates.is_empty() {
            return Err(refused(
                "the page comes from a server, and no template of it was found; name them in fingerpost.toml, such as \
                 templates = [\"templates/**/*.html\"]"
                    .to_owned(),
            ));
        }
        let changed = Changed {
            range: replacement.range,
            removes: replacement.with.is_empty(),
        };
        let spot = match self.spot(self.targets, changed) {
            Err(NoSpot::Printed(why)) => return Err(refused(why)),
            Err(no) => match self.in_indented(changed.range) {
                Some(spot) => Ok((spot, vec![changed.range])),
                None => Err(no),
            },
            Ok(spot) => match self.repeated(spot, changed) {
                Some(repeated) => Ok((spot, repeated)),
                None => {
                    let place = spot.0.text.place(spot.1.start());
                    return Err(refused(format!(
                        "it can't be told which elements of the page {place} writes. Change it there by hand"
                    )));
                }
            },
        };
        let ((template, range), repeated) =
            spot.map_err(|no| refused(self.not_found(changed.range, no)))?;
        if let Some(tag) = template.language.tag_in(&replacement.with) {
            return Err(refused(format!(
                "{} would run what is written in {tag}; write it without",
                template.text.name()
            )));
        }
        Ok(Found {
            template,
            own: Replacement {
                range,
                with: replacement.with.clone(),
            },
            repeated,
        })
    }

    /// The one place of a template that writes a range of the page, in some of its elements.
    fn spot(&self, targets: &[ElementId], changed: Changed) -> Result<Spot<'a>, NoSpot> {
        let contexts = self.contexts(targets, changed.range);
        match self.written_so(&contexts, changed.range) {
            Ok(spot) => Ok(spot),
            Err(several) => match self.written_with_tags(&contexts, changed) {
                Err(NoSpot::Nowhere) if !several.is_empty() => Err(NoSpot::Several(several)),
                found => found,
            },
        }
    }

    /// The one place where the templates have the markup around a change exactly as the page has it; else the places.
    fn written_so(
        &self,
        contexts: &[TextRange],
        range: TextRange,
    ) -> Result<Spot<'a>, Vec<String>> {
        let mut several = Vec::new();
        for context in contexts {
            let wanted = self.page.document().text().slice(*context);
            let mut places = Vec::new();
            for template in self.templates {
                let all = occurrences(template.text.source(), wanted);
                places.extend(all.map(|at| (template, at)));
            }
            match &places[..] {
                [] => {}
                [(template, at)] => {
                    let start = usize::from(range.start() - context.start());
                    let written = Written::so(wanted, *at);
                    let own = template.range(&written, start, start + usize::from(range.len()));
                    if let Some((from, to)) = own {
                        return Ok((template, span(from, to)));
                    }
                }
                many => several = shown(many.iter().copied()),
            }
        }
        Err(several)
    }

    /// The one place where a template writes what is around a change, with tags of its own in it.
    fn written_with_tags(
        &self,
        contexts: &[TextRange],
        changed: Changed,
    ) -> Result<Spot<'a>, NoSpot> {
        let range = changed.range;
        let mut printed = None;
        let mut several = Vec::new();
        for context in contexts {
            let wanted = self.page.document().text().slice(*context);
            if !wanted.starts_with('<') {
                continue;
            }
            let mut all: Vec<(&Template, Written)> = Vec::new();
            for template in self.templates {
                let written = template.find(wanted);
                all.extend(written.into_iter().map(|written| (template, written)));
            }
            let [(template, written)] = &all[..] else {
                let begins = all.iter().filter_map(|(template, written)| {
                    Some((*template, written.bytes.first().copied().flatten()?))
                });
                if all.len() > 1 {
                    several = shown(begins);
                }
                continue;
            };
            let start = usize::from(range.start() - context.start());
            let end = start + usize::from(range.len());
            let own = template.range(written, start, end);
            let whole = || template.around(written, start, end);
            let own = own.or_else(|| changed.removes.then(whole).flatten());
            match own {
                Some((from, to)) => return Ok((template, span(from, to))),
                None => {
                    let why = || self.printed(template, written, (start, end), wanted);
                    printed = printed.or_else(why);
                }
            }
        }
        Err(match (printed, several.is_empty()) {
            (Some(why), _) => NoSpot::Printed(why),
            (None, false) => NoSpot::Several(several),
            (None, true) => NoSpot::Nowhere,
        })
    }

    /// Each range of the page that a place of a template writes; none where that can't be told.
    fn repeated(&self, (template, own): Spot<'a>, changed: Changed) -> Option<Vec<TextRange>> {
        let document = self.page.document();
        let text = document.text();
        let names: Vec<&str> = (self.targets.iter())
            .map(|id| &*document.element(*id).name)
            .collect();
        let mut all = vec![changed.range];
        for id in document.elements() {
            let element = document.element(*id);
            if self.targets.contains(id) || !names.contains(&&*element.name) {
                continue;
            }
            let mut own_ranges = vec![element.start_tag, document.element_span(*id)];
            own_ranges.dedup();
            let mut found: Vec<TextRange> = Vec::new();
            for range in own_ranges {
                for written in template.find(text.slice(range)) {
                    let places = template.places_of(&written, own);
                    found.extend(places.into_iter().map(|at| at + range.start()));
                }
            }
            // A change that is not only in the element's tags is as far from it as from the one that is meant.
            found.extend(self.as_far_from(*id, changed.range));
            found.retain(|at| changed.removes || text.slice(*at) == text.slice(changed.range));
            found.sort_by_key(|at| (at.start(), at.end()));
            found.dedup();
            for range in found {
                match self.spot(&[*id], Changed { range, ..changed }) {
                    Ok((other, range_there)) => {
                        if other.text.name() == template.text.name() && range_there == own {
                            all.push(range);
                        }
                    }
                    Err(_) if self.may_be_one(template, *id) => return None,
                    Err(_) => {}
                }
            }
        }
        all.sort_by_key(|range| range.start());
        all.dedup();
        Some(all)
    }

    /// Whether a template may write an element where it writes one that is changed.
    fn may_be_one(&self, template: &Template, id: ElementId) -> bool {
        let document = self.page.document();
        let places = |id: ElementId| {
            let tag = document.text().slice(document.element(id).start_tag);
            let first = |written: Written| written.bytes.first().copied().flatten();
            template
                .find(tag)
                .into_iter()
                .filter_map(first)
                .collect::<Vec<_>>()
        };
        let own = places(id);
        self.targets
            .iter()
            .any(|target| places(*target).iter().any(|at| own.contains(at)))
    }

    /// The range that is where a change is, seen from another element.
    fn as_far_from(&self, id: ElementId, changed: TextRange) -> Option<TextRange> {
        let document = self.page.document();
        let span_of = |id: ElementId| document.element_span(id);
        let near = |id: &&ElementId| {
            let own = span_of(**id);
            own.start() <= changed.end() && changed.start() <= own.end()
        };
        let own = span_of(*self.targets.iter().find(near)?);
        let other = span_of(id);
        let moved = |from: TextSize, to: TextSize, at: TextSize| {
            let moved =
                i64::from(u32::from(at)) - i64::from(u32::from(from)) + i64::from(u32::from(to));
            usize::try_from(moved).ok()
        };
        let start = moved(own.start(), other.start(), changed.start())?;
        let end = moved(own.end(), other.end(), changed.end())?;
        let source = document.text().source();
        source.get(start..end).map(|_| span(start, end))
    }

    /// What is said of a part that a server prints: the tag, and the data that has it.
    fn printed(
        &self,
        template: &Template,
        written: &Written,
        (start, end): (usize, usize),
        wanted: &str,
    ) -> Option<String> {
        let tag = written.tag(start, end)?;
        let place = template.text.place(TextSize::new(tag as u32));
        // All that the tag prints, of which a part changes.
        let own: Vec<usize> = (0..wanted.len())
            .filter(|at| written.tags.get(*at).copied().flatten() == Some(tag))
            .collect();
        let value = match (own.first(), own.last()) {
            (Some(first), Some(last)) => wanted.get(*first..=*last).unwrap_or_default(),
            _ => "",
        };
        let data = match &data::places(self.site, value)[..] {
            [] => String::new(),
            places => format!("; {} has it", places.join(" or ")),
        };
        Some(format!(
            "{} at {place} prints this, so it comes from data{data}. Change it there by hand",
            template.tag(tag).trim()
        ))
    }

    /// The one place of a template that writes elements by indentation where a text or the value of an attribute is written.
    fn in_indented(&self, changed: TextRange) -> Option<Spot<'a>> {
        let text = self.page.document().text();
        let old = text.slice(changed);
        if old.trim().is_empty() || old.contains(['<', '>', '\n']) {
            return None;
        }
        let mut places = Vec::new();
        for template in self
            .templates
            .iter()
            .filter(|t| t.language == Language::Pug)
        {
            let source = template.text.source();
            let whole = |at: usize| {
                let end = at + old.len();
                let before = source
                    .get(..at)
                    .and_then(|before| before.chars().next_back());
                let after = source.get(end..).and_then(|after| after.chars().next());
                let ends = |c: char| matches!(c, ' ' | '\n' | '"' | '\'' | '\r');
                before.is_none_or(ends) && after.is_none_or(ends)
            };
            places.extend(
                occurrences(source, old)
                    .filter(|at| whole(*at))
                    .map(|at| (template, at)),
            );
        }
        let [(template, at)] = places[..] else {
            return None;
        };
        Some((template, span(at, at + old.len())))
    }

    fn not_found(&self, changed: TextRange, no: NoSpot) -> String {
        let text = self.page.document().text();
        let contexts = self.contexts(self.targets, changed);
        let first = contexts.first().map_or("", |context| text.slice(*context));
        let tag = first.lines().next().unwrap_or_default();
        if let NoSpot::Several(places) = no {
            return format!(
                "the templates have {tag} in several places: {}. Change it there by hand",
                places.join(", ")
            );
        }
        let near = match &self.nearest()[..] {
            [] => "none of the templates has its class, its id or its text".to_owned(),
            near => format!("it may be made at {}", near.join(" or ")),
        };
        format!("no template has {tag} written so; {near}. Change it there by hand")
    }

    /// The parts of a page around a change by which it is looked for, the smallest first.
    fn contexts(&self, targets: &[ElementId], range: TextRange) -> Vec<TextRange> {
        let document = self.page.document();
        let source = document.text().source();
        let mut found: Vec<TextRange> = Vec::new();
        for id in targets {
            let element = document.element(*id);
            let outer = document.element_span(*id);
            if element.start_tag.contains_range(range) {
                found.push(element.start_tag);
            }
            if outer.contains_range(range) {
                found.push(outer);
            }
        }
        let line = |offset: TextSize| {
            let at = usize::from(offset);
            let (before, after) = source.split_at_checked(at).unwrap_or((source, ""));
            let start = before.rfind('\n').map_or(0, |n| n + 1);
            let end = after.find('\n').map_or(source.len(), |n| at + n);
            (start, end)
        };
        let (start, _) = line(range.start());
        let (_, end) = line(range.end());
        found.push(span(start, end));
        // With the lines around, which may be what tells two places apart.
        let before = source
            .get(..start.saturating_sub(1))
            .and_then(|before| before.rfind('\n'));
        let before = before.map_or(0, |n| n + 1);
        let after = source.get(end + 1..).and_then(|after| after.find('\n'));
        let after = after.map_or(source.len(), |n| end + 1 + n);
        found.push(span(before.min(start), after.max(end)));
        found.retain(|context| !document.text().slice(*context).trim().is_empty());
        found
    }

    /// Where the templates have the class, the id or the text of the elements.
    fn nearest(&self) -> Vec<String> {
        let document = self.page.document();
        let mut needles: Vec<String> = Vec::new();
        for id in self.targets {
            let element = document.element(*id);
            needles.extend(element.attribute("class").map(str::to_owned));
            needles.extend(element.id().map(str::to_owned));
            needles.extend(element.classes().map(str::to_owned));
            let text = document.folded_text(*id, 60);
            needles.push(text.trim_end_matches('…').to_owned());
            needles.push(format!("<{}", element.name));
        }
        // What is found in the fewest places says most.
        let found = needles.iter().filter(|n| n.len() > 1).map(|needle| {
            let all = self.templates.iter().flat_map(|template| {
                let places = template.text.source().match_indices(needle.as_str());
                places.map(move |(at, _)| (template, at))
            });
            all.collect::<Vec<_>>()
        });
        let best = found
            .filter(|places| !places.is_empty())
            .min_by_key(Vec::len);
        let mut best = shown(best.unwrap_or_default().into_iter());
        best.dedup();
        best
    }
}

fn shown<'a>(places: impl Iterator<Item = (&'a Template, usize)>) -> Vec<String> {
    let all =
        places.map(|(template, at)| template.text.place(TextSize::new(at as u32)).to_string());
    all.take(MOST_PLACES).collect()
}

/// Where a text is in another one, also where two of them overlap.
fn occurrences<'a>(source: &'a str, wanted: &'a str) -> impl Iterator<Item = usize> + 'a {
    let step = wanted.chars().next().map_or(1, char::len_utf8);
    let find = move |from: usize| Some(from + source.get(from..)?.find(wanted)?);
    std::iter::successors(find(0), move |at| find(at + step))
}
