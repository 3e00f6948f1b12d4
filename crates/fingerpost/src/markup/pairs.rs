//! Which element of a page after a change is which one before it.
//!
//! Elements that have a tag are followed through the patch of the text. One whose tag was removed
//! here and put in there has moved; one that the parser implied is where its children are.

use std::collections::HashMap;
use std::ops::Range;

use super::{Document, ElementId, Written};
use crate::text::{Cut, Patch, Replacement, TextRange, TextSize, changes, offsets, span, within};

/// The elements of two states of a page, in pairs.
///
/// ```
/// use fingerpost::markup::{Document, Pairs};
/// use fingerpost::text::Text;
///
/// let before = Document::parse(Text::new("a.html", "<p>Boats</p><h2>Today</h2>"));
/// let after = Document::parse(Text::new("a.html", "<nav></nav><p>Boats</p><h2 class=a>Today</h2>"));
/// let pairs = Pairs::between(&before, &after);
/// let heading = *before.elements().last().expect("it is there");
/// let followed = pairs.after(heading).expect("it is there still");
/// assert_eq!(after.element(followed).attribute("class"), Some("a"));
/// // Its old id is of no use there.
/// assert!(!after.holds(heading));
/// ```
#[derive(Debug)]
pub struct Pairs {
    after: HashMap<ElementId, ElementId>,
    before: HashMap<ElementId, ElementId>,
}

/// What became of an offset.
enum Became {
    /// The character there is now at this offset.
    Kept(TextSize),
    /// It is gone; where it stood at the beginning of what something took the place of, that begins here.
    Replaced(Option<TextSize>),
}

impl Pairs {
    /// The pairs of two states of a page, by what differs between their texts.
    pub fn between(before: &Document, after: &Document) -> Pairs {
        let (from, to) = (before.text().source(), after.text().source());
        let patch = (from != to).then(|| changed(from, to));
        Pairs::new(before, after, patch.as_ref())
    }

    /// The pairs of a page whose text a patch made another one; none where the text is the same.
    pub(crate) fn new(before: &Document, after: &Document, patch: Option<&Patch>) -> Pairs {
        let mut pairs = Pairs {
            after: HashMap::new(),
            before: HashMap::new(),
        };
        let Some(patch) = patch else {
            for (one, two) in before.elements().iter().zip(after.elements()) {
                pairs.add(*one, *two);
            }
            return pairs;
        };
        pairs.follow(before, after, patch);
        pairs.moved(before, after);
        pairs.implied(before, after);
        pairs
    }

    fn add(&mut self, before: ElementId, after: ElementId) {
        if !self.after.contains_key(&before) && !self.before.contains_key(&after) {
            self.after.insert(before, after);
            self.before.insert(after, before);
        }
    }

    /// The element after the change that is this one before it.
    pub fn after(&self, before: ElementId) -> Option<ElementId> {
        self.after.get(&before).copied()
    }

    /// The element before the change that is this one after it.
    pub fn before(&self, after: ElementId) -> Option<ElementId> {
        self.before.get(&after).copied()
    }

    /// Elements with a tag whose tag is still there, those that the parser repeats among them.
    fn follow(&mut self, before: &Document, after: &Document, patch: &Patch) {
        let mut starts: HashMap<TextSize, Vec<ElementId>> = HashMap::new();
        for id in after.elements() {
            let element = after.element(*id);
            if element.written != Written::Implied {
                let at = element.start_tag.start();
                starts.entry(at).or_default().push(*id);
            }
        }
        // Of several with one tag the first is that tag's own; its repetitions follow in order.
        for id in before.elements().iter().copied() {
            let element = before.element(id);
            if element.written == Written::Implied {
                continue;
            }
            let (at, rewritten) = match became(patch, element.start_tag.start()) {
                Became::Kept(at) => (at, is_renamed(patch, element.start_tag)),
                // What is put in the place of all of it is the element rewritten.
                Became::Replaced(Some(at)) => (at, true),
                Became::Replaced(None) => continue,
            };
            let same = |other: &ElementId| {
                let other = after.element(*other);
                other.written == element.written && (other.name == element.name || rewritten)
            };
            let found = starts.get(&at).into_iter().flatten();
            let mut free = found.filter(|other| !self.before.contains_key(other));
            if let Some(other) = free.find(|other| same(other)) {
                self.add(id, *other);
            }
        }
    }

    /// Elements whose tag went from one place and came to another.
    fn moved(&mut self, before: &Document, after: &Document) {
        let mut came: HashMap<&str, Vec<ElementId>> = HashMap::new();
        for id in after.elements().iter().rev() {
            if !self.before.contains_key(id) {
                came.entry(tag_source(after, *id)).or_default().push(*id);
            }
        }
        for id in before.elements() {
            let element = before.element(*id);
            if element.written == Written::Tag
                && !self.after.contains_key(id)
                && let Some(other) = came.get_mut(tag_source(before, *id)).and_then(Vec::pop)
            {
                self.add(*id, other);
            }
        }
    }

    /// What the parser put around elements, or does now, is where their parent is.
    fn implied(&mut self, before: &Document, after: &Document) {
        self.add(before.root_element(), after.root_element());
        for id in before.elements().iter().rev() {
            if self.after.contains_key(id) {
                continue;
            }
            let name = &before.element(*id).name;
            let of_child = before.child_elements(*id).find_map(|child| {
                let parent = after.parent_element(self.after(child)?)?;
                (after.element(parent).name == *name).then_some(parent)
            });
            if let Some(parent) = of_child {
                self.add(*id, parent);
            }
        }
        // An empty head or body has no child to be found by.
        for id in before.elements() {
            let element = before.element(*id);
            if element.written == Written::Implied && !self.after.contains_key(id) {
                let parent = before.parent_element(*id).and_then(|p| self.after(p));
                let same = parent.and_then(|parent| {
                    let mut children = after.child_elements(parent);
                    children.find(|c| {
                        after.element(*c).name == element.name && self.before(*c).is_none()
                    })
                });
                if let Some(same) = same {
                    self.add(*id, same);
                }
            }
        }
    }
}

/// What leads from one text of a page to another, by the pieces of its tags and texts, so that changes in several places are
/// several changes.
fn changed(from: &str, to: &str) -> Patch {
    let (old, new) = (pieces(from), pieces(to));
    let mut all = changes(&old, &new);
    let mut end = 0;
    for change in &mut all {
        // One of two that are alike went or came: from tag to tag, not from the middle of one.
        let back = match (change.before.is_empty(), change.after.is_empty()) {
            (true, false) => back_to_a_tag(&new, &change.after, change.before.start - end),
            (false, true) => back_to_a_tag(&old, &change.before, change.before.start - end),
            _ => 0,
        };
        end = change.before.end;
        change.before = change.before.start - back..change.before.end - back;
        change.after = change.after.start - back..change.after.end - back;
    }
    let (old, new) = (offsets(&old), offsets(&new));
    let replacements = all.into_iter().map(|change| {
        let (before, after) = (within(&old, change.before), within(&new, change.after));
        Replacement {
            range: span(before.start, before.end),
            with: to.cut(after).to_owned(),
        }
    });
    Patch::new(replacements.collect()).expect("changes don't overlap")
}

/// How many pieces further up a range of pieces is the same and begins with a tag; at most `most`.
fn back_to_a_tag(pieces: &[&str], range: &Range<usize>, most: usize) -> usize {
    let begins = |back: usize| {
        pieces
            .get(range.start - back)
            .is_some_and(|p| p.starts_with('<'))
    };
    let mut back = 0;
    while !begins(back) {
        let same = pieces.get(range.end - 1 - back)
            == range
                .start
                .checked_sub(back + 1)
                .and_then(|at| pieces.get(at));
        if back == most || !same {
            return 0;
        }
        back += 1;
    }
    back
}

/// A text cut before each `<` and `>`, after each `>`, and around white space.
fn pieces(text: &str) -> Vec<&str> {
    let mut pieces = Vec::new();
    let mut start = 0;
    let mut last = ' ';
    for (at, c) in text.char_indices() {
        let begins = matches!(c, '<' | '>') || last == '>';
        if (begins || c.is_whitespace() != last.is_whitespace()) && at > start {
            pieces.push(text.cut(start..at));
            start = at;
        }
        last = c;
    }
    if start < text.len() {
        pieces.push(text.cut(start..));
    }
    pieces
}

impl Document {
    /// The element that an element of another state of the page is now; none where it is gone. Whoever follows many
    /// asks [`Pairs`].
    ///
    /// # Panics
    /// Where `element` is not of `before`.
    pub fn carry(&self, before: &Document, element: ElementId) -> Option<ElementId> {
        self.carry_all(before, &[element]).pop()
    }

    /// The same of many elements: those that are there still.
    ///
    /// # Panics
    /// Where one is not of `before`.
    pub fn carry_all(&self, before: &Document, elements: &[ElementId]) -> Vec<ElementId> {
        let are_held = elements.iter().all(|id| before.holds(*id));
        assert!(are_held, "an element is not of the state before");
        if before.number == self.number {
            return elements.to_vec();
        }
        let pairs = Pairs::between(before, self);
        elements.iter().filter_map(|id| pairs.after(*id)).collect()
    }
}

/// Whether a patch gives a tag another name, rather than putting another tag there.
fn is_renamed(patch: &Patch, tag: TextRange) -> bool {
    let all = patch.replacements().iter();
    // Text inserted right after the tag does not belong to it, such as the end tag that the new name needs.
    let mut touching =
        all.filter(|r| tag.contains(r.range.start()) || r.range.contains(tag.start()));
    touching.all(|r| {
        let is_name = !r.with.contains(['<', '>']);
        tag.contains_range(r.range) && (is_name || r.range == tag)
    })
}

fn tag_source(document: &Document, id: ElementId) -> &str {
    document.text().slice(document.element(id).start_tag)
}

fn became(patch: &Patch, at: TextSize) -> Became {
    let mut moved = 0i64;
    let shifted = |moved: i64| TextSize::new((i64::from(u32::from(at)) + moved) as u32);
    for replacement in patch.replacements() {
        let range = replacement.range;
        if range.end() <= at {
            moved += replacement.with.len() as i64 - i64::from(u32::from(range.len()));
        } else if range.start() <= at {
            let whole = range.start() == at && replacement.with.starts_with('<');
            return Became::Replaced(whole.then(|| shifted(moved)));
        } else {
            break;
        }
    }
    Became::Kept(shifted(moved))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::text::{Replacement, Text, difference, span};

    /// The indices of the elements after the change, by those before it.
    fn paired(before: &str, after: &str) -> Vec<Option<u32>> {
        let patch = difference(before, after);
        let before = Document::parse(Text::new("a.html", before));
        let after = Document::parse(Text::new("a.html", after));
        let pairs = Pairs::new(&before, &after, Some(&patch));
        let all = before.elements().iter();
        all.map(|id| Some(after.element(pairs.after(*id)?).index))
            .collect()
    }

    #[test]
    fn changes_in_several_places_are_followed() {
        let before = "<p>Boats</p><h2>Today</h2><ul><li>One<li>Two</ul><p>Fares</p>";
        let after = "<nav><a>Home</a></nav><p class=a>Boats</p><h2 id=b>Today, late</h2><ul><li>Two</ul><p>Fares</p>";
        let before = Document::parse(Text::new("a.html", before));
        let after = Document::parse(Text::new("a.html", after));
        let pairs = Pairs::between(&before, &after);
        let of = |document: &Document, id: ElementId| {
            let text = document
                .children(id)
                .find_map(|node| document.text_of(node));
            let start = text
                .unwrap_or_default()
                .split(',')
                .next()
                .unwrap_or_default();
            format!("{} {start}", document.element(id).name)
        };
        let mut followed = 0;
        for id in before.elements() {
            if let Some(now) = pairs.after(*id) {
                assert_eq!(of(&before, *id), of(&after, now));
                followed += 1;
            }
        }
        // All but the first item of the list, which is gone.
        assert_eq!(followed, before.elements().len() - 1);
    }

    /// The new name needs an end tag, or can't have the old one.
    #[test]
    fn an_element_with_another_name_is_the_same_one() {
        let (with, without) = ("<p>a <input id=x> b", "<p>a <b id=x></b> b");
        let all = [Some(0), Some(1), Some(2), Some(3), Some(4)];
        let renamed = |before: &str, after: &str, patch: &[(usize, usize, &str)]| {
            let text = Text::new("a.html", before);
            let replacements = patch.iter().map(|(start, end, with)| Replacement {
                range: span(*start, *end),
                with: (*with).to_owned(),
            });
            let patch = Patch::new(replacements.collect()).unwrap();
            let (before, after) = (
                Document::parse(text),
                Document::parse(Text::new("a.html", after)),
            );
            let pairs = Pairs::new(&before, &after, Some(&patch));
            let index = |id| after.element(id).index;
            let elements = before.elements().iter();
            let found: Vec<Option<u32>> = elements.map(|id| pairs.after(*id).map(index)).collect();
            assert_eq!(found, all);
        };
        renamed(with, without, &[(6, 11, "b"), (17, 17, "</b>")]);
        renamed(without, with, &[(6, 7, "input"), (13, 17, "")]);
    }

    #[test]
    fn what_stands_behind_a_change_is_followed() {
        assert_eq!(
            paired("<p class=a>1<p>2", "<p class='a b'>1<i>x</i><p>2"),
            [Some(0), Some(1), Some(2), Some(3), Some(5)]
        );
    }

    #[test]
    fn a_moved_element_is_the_same_one() {
        assert_eq!(
            paired("<b id=x>1</b><p>2</p>", "<p>2</p><b id=x>1</b>"),
            [Some(0), Some(1), Some(2), Some(4), Some(3)]
        );
    }

    #[test]
    fn an_implied_parent_is_found_by_its_children() {
        assert_eq!(
            paired("<table><tr><td>1", "<table><caption>c</caption><tr><td>1"),
            [
                Some(0),
                Some(1),
                Some(2),
                Some(3),
                Some(5),
                Some(6),
                Some(7)
            ]
        );
    }
}
