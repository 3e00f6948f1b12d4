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
    let kept = kept_tags(tags, markup, &meant_gone)?;
    comments_kept(tags)?;
    tags_that_come(tags, markup, &kept, &styled)?;
    texts_changed(tags, markup)?;
    elsewhere(tags, &kept, markup)
}

/// The elements that stay, each with what it was before.
fn kept_tags(
    tags: &Tags<'_>,
    markup: &MarkupOp,
    meant_gone: &HashSet<ElementId>,
) -> Result<HashMap<ElementId, ElementId>, EditError> {
    let mut kept: HashMap<ElementId, ElementId> = HashMap::new();
    for id in tags.old().filter(|id| !meant_gone.contains(id)) {
        let element = tags.before.element(id);
        let name = &element.name;
        let lost = |what: &str| {
            refused(
                tags.place(id),
                format!(
                    "what is put in does not end where it should: the {what} of this <{name}> would be lost"
                ),
            )
        };
        if tags.touches(element.start_tag) {
            return Err(refused(
                tags.place(id),
                format!("this <{name}> would change too, which was not asked for"),
            ));
        }
        let image = tags.image_of(id).ok_or_else(|| lost("start tag"))?;
        let now = tags.after.element(image);
        if Tag::of(now) != Tag::of(element) {
            return Err(lost("start tag"));
        }
        if let Some(end) = element.end_tag.filter(|end| !tags.touches(*end)) {
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
    Ok(kept)
}

fn comments_kept(tags: &Tags<'_>) -> Result<(), EditError> {
    let now = tags.after.comments();
    let now: HashSet<u32> = now.map(|comment| u32::from(comment.start())).collect();
    let mut all = tags.before.comments().filter(|c| !tags.touches(*c));
    match all.find(|comment| !now.contains(&tags.moved(comment.start()))) {
        Some(comment) => Err(refused(
            tags.before.text().place(comment.start()).to_string(),
            "what is put in does not end where it should: this comment would be lost".to_owned(),
        )),
        None => Ok(()),
    }
}

/// Tags that come, each of them asked for.
fn tags_that_come(
    tags: &Tags<'_>,
    markup: &MarkupOp,
    kept: &HashMap<ElementId, ElementId>,
    styled: &HashSet<ElementId>,
) -> Result<(), EditError> {
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
        let Some(at) = known else {
            let place = tags.after.text().place(element.start_tag.start());
            let name = &element.name;
            return Err(refused(
                place.to_string(),
                format!("a <{name}> would be there, which was not asked for"),
            ));
        };
        awaited.remove(at);
    }
    // What browsers drop is said by the warnings; what is nowhere at all was swallowed.
    match awaited.iter().find(|tag| !is_dropped(tags, tag)) {
        Some(tag) => Err(refused(
            tags.after.text().name().to_owned(),
            format!("the <{}> would not be there", tag.name),
        )),
        None => Ok(()),
    }
}

/// Whether the source has a tag that the parser ignores.
fn is_dropped(tags: &Tags<'_>, tag: &Tag) -> bool {
    let source = tags.after.text().source();
    tags.after.ignored().iter().any(|span| {
        let written = source.cut(*span).trim_start_matches('<');
        let name = written.get(..tag.name.len());
        name.is_some_and(|name| name.eq_ignore_ascii_case(&tag.name))
    })
}

fn texts_changed(tags: &Tags<'_>, markup: &MarkupOp) -> Result<(), EditError> {
    for (id, wanted) in &markup.texts {
        let found = tags.image_of(*id).map(|id| {
            let all = tags.after.children(id);
            all.filter_map(|n| tags.after.text_of(n))
                .any(|t| fold(t) == fold(wanted))
        });
        if found != Some(true) && !wanted.trim().is_empty() {
            return Err(refused(
                tags.place(*id),
                "the element would not have the text that you gave".to_owned(),
            ));
        }
    }
    Ok(())
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
