//! The text of a text node: a span of the source where the source has it letter by letter.

use crate::text::{Cut, TextRange, TextSize};

/// What a text node holds.
#[derive(Debug)]
#[non_exhaustive]
pub enum Content {
    /// Exactly the characters of this span.
    Source(TextRange),
    /// Other characters than the source has (character references, line endings, moved text),
    /// with the span they came from where that is one piece.
    Decoded(Box<str>, Option<TextRange>),
}

impl Content {
    /// The characters.
    pub fn as_str<'a>(&'a self, source: &'a str) -> &'a str {
        match self {
            Content::Source(span) => source.cut(*span),
            Content::Decoded(text, _) => text,
        }
    }

    /// Where they are in the source.
    pub fn span(&self) -> Option<TextRange> {
        match self {
            Content::Source(span) => Some(*span),
            Content::Decoded(_, span) => *span,
        }
    }

    /// Adds what the parser puts into the same text node.
    pub(super) fn append(&mut self, more: Content, source: &str) {
        if let (Content::Source(mine), Content::Source(theirs)) = (&mut *self, &more)
            && mine.end() == theirs.start()
        {
            *mine = mine.cover(*theirs);
            return;
        }
        let span = match (self.span(), more.span()) {
            (Some(a), Some(b)) if a.end() <= b.start() => Some(a.cover(b)),
            _ => None,
        };
        let text = [self.as_str(source), more.as_str(source)].concat();
        *self = Content::Decoded(text.into_boxed_str(), span);
    }

    /// The content for `text`, which came out of the source run `run`. Takes what it used off the
    /// front of the run.
    pub(super) fn placed(text: &str, run: &mut TextRange, source: &str) -> Content {
        let length = TextSize::of(text);
        let mut rest = source.cut(*run);
        // The one character that the parser drops in the middle of a run: a line break right
        // after `<pre>`, `<textarea>` and `<listing>`.
        if !rest.starts_with(text) && rest.starts_with('\n') && rest.cut(1..).starts_with(text) {
            *run = TextRange::new(run.start() + TextSize::new(1), run.end());
            rest = source.cut(*run);
        }
        if rest.starts_with(text) {
            let span = TextRange::at(run.start(), length);
            *run = TextRange::new(span.end(), run.end());
            Content::Source(span)
        } else {
            let span = (!run.is_empty()).then_some(*run);
            Content::Decoded(text.into(), span)
        }
    }
}
