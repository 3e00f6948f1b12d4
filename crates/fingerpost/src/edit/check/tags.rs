//! That a patched page differs only in what was meant: its start tags, compared in source order.

use super::{fold, refused};
use crate::edit::error::EditError;
use crate::edit::expected::{InSheet, MarkupOp, Meant, Tag};
use crate::markup::{Document, ElementId, Written};
use crate::text::{Cut, Patch, TextRange, TextSize};
use std::collections::{HashMap, HashSet};

/// How many elements are named that stand elsewhere.
const MOST_MOVED: usize = 3;

/// The tags of a page before and after a patch.
pub(super) struct Tags<'a> {
    before: &'a Document,
    after: &'a Document,
    /// Where each replacement begins and ends, and how far all after it moves.
    moves: Vec<(u32, u32, i64)>,
    /// The elements after it, by where their tags begin.
    starts: HashMap<u32, ElementId>,
}

impl<'a> Tags<'a> {
    pub(super) fn new(before: &'a Document, after: &'a Document, patch: &Patch) -> Tags<'a> {
        let mut delta = 0;
        let moves = patch.replacements().iter().map(|r| {
            let (start, end) = (u32::from(r.range.start()), u32::from(r.range.end()));
            delta += r.with.len() as i64 - i64::from(end - start);
            (start, end, delta)
        });
        let moves = moves.collect();
        let written = after.elements().iter().copied();
        let templates = after.template_elements();
        let starts = written
            .chain(templates)
            .filter(|id| after.element(*id).written == Written::Tag)
            .map(|id| (u32::from(after.element(id).start_tag.start()), id))
            .collect();
        Tags {
            before,
            after,
            moves,
            starts,
        }
    }

    /// The written elements before the patch, those in templates too.
    pub(super) fn old(&self) -> impl Iterator<Item = ElementId> {
        let all = self.before.elements().iter().copied();
        let all = all.chain(self.before.template_elements());
        all.filter(|id| self.before.element(*id).written == Written::Tag)
    }

    /// Where an offset is now; what is put in there comes before it.
    pub(super) fn moved(&self, offset: TextSize) -> u32 {
        let at = u32::from(offset);
        let passed = self.moves.partition_point(|(_, end, _)| *end <= at);
        let delta = passed
            .checked_sub(1)
            .and_then(|last| self.moves.get(last))
            .map_or(0, |(_, _, delta)| *delta);
        (i64::from(at) + delta) as u32
    }

    /// Whether the patch changes something inside of a span.
    pub(super) fn touches(&self, span: TextRange) -> bool {
        let (start, end) = (u32::from(span.start()), u32::from(span.end()));
        let next = self.moves.partition_point(|(_, last, _)| *last <= start);
        self.moves.get(next).is_some_and(|(from, _, _)| *from < end)
    }

    /// The element that a tag is now, where the tag is there.
    pub(super) fn image_of(&self, id: ElementId) -> Option<ElementId> {
        let start = self.before.element(id).start_tag.start();
        self.starts.get(&self.moved(start)).copied()
    }

    pub(super) fn place(&self, id: ElementId) -> String {
        let start = self.before.element(id).start_tag.start();
        self.before.text().place(start).to_string()
    }
}

pub(super) fn markup_changed(
    tags: &Tags<'_>,
    markup: &MarkupOp,
    meant: &Meant,
) -> Result<Vec<String>, EditError> {
    let meant_gone: HashSet<ElementId> = markup.gone.iter().copied().collect();
    let styled: HashSet<ElementId> = meant
        .styles
        .iter()
        .filter_map(|(sheet, _)| match sheet {
            InSheet::Attribute(element) => Some(*element),
            _ => None,
        })
        .collect();
    let mut kept: HashMap<ElementId, ElementId> = HashMap::new();
    for id in tags.old() {
        let element = tags.before.element(id);
        let lost = |what: &str| {
            refused(
                tags.place(id),
                format!(
                    "what is put in does not end where it should: the {what} of this <{}> would be \
                     lost",
                    element.name
                ),
            )
        };
        if meant_gone.contains(&id) {
            continue;
        }
        if tags.touches(element.start_tag) {
            return Err(refused(
                tags.place(id),
                format!(
                    "this <{}> would change too, which was not asked for",
                    element.name
                ),
            ));
        }
        let Some(image) = tags.image_of(id) else {
            return Err(lost("start tag"));
        };
        let now = tags.after.element(image);
        if Tag::of(now) != Tag::of(element) {
            return Err(lost("start tag"));
        }
        if let Some(end) = element.end_tag
            && !tags.touches(end)
        {
            let moved = TextSize::new(tags.moved(end.start()));
            // In a tree that is another one it may close something else, but it is there.
            let closes = now.end_tag.is_some_and(|e| e.start() == moved);
            let is_there = markup.reshapes && tags.after.is_end_tag(moved);
            if !(closes || is_there) {
                return Err(lost("end tag"));
            }
        }
        kept.insert(image, id);
    }
    let comments: HashSet<u32> = tags
        .after
        .comments()
        .map(|c| u32::from(c.start()))
        .collect();
    for comment in tags.before.comments().filter(|c| !tags.touches(*c)) {
        if !comments.contains(&tags.moved(comment.start())) {
            return Err(refused(
                tags.before.text().place(comment.start()).to_string(),
                "what is put in does not end where it should: this comment would be lost"
                    .to_owned(),
            ));
        }
    }
    // Tags that come, each of them asked for.
    let mut awaited = markup.new.clone();
    let mut new: Vec<ElementId> = tags.starts.values().copied().collect();
    new.retain(|id| !kept.contains_key(id));
    new.sort_by_key(|id| tags.after.element(*id).start_tag.start());
    for id in new {
        let element = tags.after.element(id);
        let tag = Tag::of(element);
        let known = awaited.iter().position(|wanted| {
            let is_styled = !styled.is_empty() && same_but_style(wanted, &tag);
            *wanted == tag || is_styled || same_name_in_svg(wanted, &tag)
        });
        match known {
            Some(at) => {
                awaited.remove(at);
            }
            None => {
                let place = tags.after.text().place(element.start_tag.start());
                return Err(refused(
                    place.to_string(),
                    format!(
                        "a <{}> would be there, which was not asked for",
                        element.name
                    ),
                ));
            }
        }
    }
    // What browsers drop is said by the warnings; what is nowhere at all was swallowed.
    let source = tags.after.text().source();
    for tag in &awaited {
        let dropped = tags.after.ignored().iter().any(|span| {
            let written = source.cut(*span).trim_start_matches('<');
            written.len() >= tag.name.len()
                && written.is_char_boundary(tag.name.len())
                && written
                    .cut(..tag.name.len())
                    .eq_ignore_ascii_case(&tag.name)
        });
        if !dropped {
            return Err(refused(
                tags.after.text().name().to_owned(),
                format!("the <{}> would not be there", tag.name),
            ));
        }
    }
    for (id, wanted) in &markup.texts {
        let found = tags.image_of(*id).map(|id| {
            let all = tags.after.children(id);
            all.filter_map(|n| tags.after.text_of(n))
                .any(|t| fold(t) == fold(wanted))
        });
        if found != Some(true) && !wanted.trim().is_empty() {
            return Err(refused(
                tags.place(*id),
                "the changed text would differ from what was asked for".to_owned(),
            ));
        }
    }
    elsewhere(tags, &kept, markup)
}

fn same_but_style(one: &Tag, two: &Tag) -> bool {
    let rest = |tag: &Tag| -> Vec<(String, String)> {
        let all = tag.attributes.iter().filter(|(name, _)| name != "style");
        all.cloned().collect()
    };
    one.name == two.name && rest(one) == rest(two)
}

/// In foreign content the parser adjusts the case of names (HTML § 13.2.6.5).
fn same_name_in_svg(one: &Tag, two: &Tag) -> bool {
    let same = |a: &str, b: &str| a.eq_ignore_ascii_case(b);
    same(&one.name, &two.name)
        && one.attributes.len() == two.attributes.len()
        && one
            .attributes
            .iter()
            .zip(&two.attributes)
            .all(|(a, b)| same(&a.0, &b.0) && a.1 == b.1)
}

/// The elements that are in another one than before: an error where the tree was to stay, else said.
fn elsewhere(
    tags: &Tags<'_>,
    kept: &HashMap<ElementId, ElementId>,
    markup: &MarkupOp,
) -> Result<Vec<String>, EditError> {
    let images: HashMap<ElementId, ElementId> =
        kept.iter().map(|(now, was)| (*was, *now)).collect();
    let mut moved: Vec<(TextSize, String)> = Vec::new();
    for (now, was) in kept {
        let above_now = tags.after.ancestors_and_self(*now).skip(1);
        let mut above_now = above_now.filter(|id| kept.contains_key(id));
        let above_was = tags.before.ancestors_and_self(*was).skip(1);
        let mut above_was = above_was.filter_map(|id| images.get(&id).copied());
        let (one, two) = (above_was.next(), above_now.next());
        if one == two {
            continue;
        }
        let element = tags.after.element(*now);
        let at = element.start_tag.start();
        let name = |id: Option<ElementId>| match id {
            Some(id) => format!("<{}>", tags.after.element(id).name),
            None => "the page".to_owned(),
        };
        moved.push((
            at,
            format!(
                "the <{}> at {} is in {} now, not in {}",
                element.name,
                tags.after.text().place(at),
                name(two),
                name(one)
            ),
        ));
    }
    moved.sort();
    if let Some((_, first)) = moved.first()
        && !markup.reshapes
    {
        let text = tags.after.text().name().to_owned();
        return Err(refused(
            text,
            format!("the tree would be another one: {first}"),
        ));
    }
    let more = moved.len().saturating_sub(MOST_MOVED);
    let mut said: Vec<String> = moved
        .into_iter()
        .take(MOST_MOVED)
        .map(|(_, sentence)| sentence)
        .collect();
    if more > 0 {
        said.push(format!(
            "{more} more elements are in another one than before"
        ));
    }
    Ok(said)
}
