//! The shorthands whose value is a list of layers: `background`, `mask`, `transition`, `animation`.

use super::facts::PropertyId as P;
use super::grammar::{Captured, Label};
use super::longhand::{Piece, split_values};
use crate::sheet::{Token, TokenKind};
use crate::text::{Cut, TextRange};

/// A longhand of a layered shorthand, and what a layer that leaves it out gives it.
type Longhand = (P, &'static str);

const BACKGROUND: &[Longhand] = &[
    (P::BACKGROUND_IMAGE, "none"),
    (P::BACKGROUND_POSITION_X, "0%"),
    (P::BACKGROUND_POSITION_Y, "0%"),
    (P::BACKGROUND_SIZE, "auto"),
    (P::BACKGROUND_REPEAT, "repeat"),
    (P::BACKGROUND_ATTACHMENT, "scroll"),
    (P::BACKGROUND_ORIGIN, "padding-box"),
    (P::BACKGROUND_CLIP, "border-box"),
];

const MASK: &[Longhand] = &[
    (P::MASK_IMAGE, "none"),
    (P::MASK_POSITION, "0% 0%"),
    (P::MASK_SIZE, "auto"),
    (P::MASK_REPEAT, "repeat"),
    (P::MASK_ORIGIN, "border-box"),
    (P::MASK_CLIP, "border-box"),
    (P::MASK_COMPOSITE, "add"),
    (P::MASK_MODE, "match-source"),
];

const TRANSITION: &[Longhand] = &[
    (P::TRANSITION_PROPERTY, "all"),
    (P::TRANSITION_DURATION, "0s"),
    (P::TRANSITION_TIMING_FUNCTION, "ease"),
    (P::TRANSITION_DELAY, "0s"),
    (P::TRANSITION_BEHAVIOR, "normal"),
];

const ANIMATION: &[Longhand] = &[
    (P::ANIMATION_DURATION, "0s"),
    (P::ANIMATION_TIMING_FUNCTION, "ease"),
    (P::ANIMATION_DELAY, "0s"),
    (P::ANIMATION_ITERATION_COUNT, "1"),
    (P::ANIMATION_DIRECTION, "normal"),
    (P::ANIMATION_FILL_MODE, "none"),
    (P::ANIMATION_PLAY_STATE, "running"),
    (P::ANIMATION_NAME, "none"),
];

pub(super) fn expand(
    shorthand: P,
    source: &str,
    captured: &[Captured],
    tokens: &[Token],
) -> Vec<(P, Piece)> {
    let longhands = match shorthand {
        P::BACKGROUND => BACKGROUND,
        P::BACKGROUND_POSITION => BACKGROUND.cut(1..3),
        P::MASK => MASK,
        P::TRANSITION => TRANSITION,
        _ => ANIMATION,
    };
    let layers = split_layers(tokens);
    // For each longhand, what each layer says.
    let mut columns: Vec<Vec<Option<Piece>>> = vec![Vec::new(); longhands.len()];
    let mut color = None;
    for layer in &layers {
        let parts = layer_parts(captured, *layer);
        let mut found = Layer {
            shorthand,
            source,
            found: Vec::new(),
        };
        for part in parts {
            found.take(part);
        }
        for (column, (longhand, _)) in columns.iter_mut().zip(longhands) {
            let given = found.found.iter().find(|(p, _)| p == longhand);
            column.push(given.map(|(_, piece)| piece.clone()));
        }
        if let Some((_, piece)) = found
            .found
            .into_iter()
            .find(|(p, _)| *p == P::BACKGROUND_COLOR)
        {
            color = Some(piece);
        }
    }
    let mut out = Vec::new();
    for ((longhand, default), column) in longhands.iter().zip(columns) {
        if let [only] = &column[..] {
            if let Some(piece) = only {
                out.push((*longhand, piece.clone()));
            }
            continue;
        }
        let values: Vec<String> = column
            .iter()
            .map(|piece| match piece {
                Some(Piece::Part(span)) => source.cut(*span).to_owned(),
                Some(Piece::Composed(text)) => text.clone(),
                _ => (*default).to_owned(),
            })
            .collect();
        out.push((*longhand, Piece::Composed(values.join(", "))));
    }
    out.extend(color.map(|piece| (P::BACKGROUND_COLOR, piece)));
    out
}

/// The captures directly in a layer, in source order: the outermost named components below the
/// layer's own.
fn layer_parts(captured: &[Captured], layer: TextRange) -> Vec<Captured> {
    let is_wrapper = |c: &Captured| {
        matches!(
            c.label,
            Label::Type(
                "bg-layer"
                    | "final-bg-layer"
                    | "mask-layer"
                    | "single-animation"
                    | "single-transition"
            )
        )
    };
    // The captures are sorted by their ends, so those of one layer stand together.
    let first = captured.partition_point(|c| c.span.end() <= layer.start());
    let inside: Vec<&Captured> = captured
        .cut(first..)
        .iter()
        .take_while(|c| c.span.end() <= layer.end())
        .filter(|c| layer.contains_range(c.span) && !is_wrapper(c))
        .collect();
    let shallowest = inside.iter().map(|c| c.depth).min().unwrap_or(0);
    inside
        .into_iter()
        .filter(|c| c.depth == shallowest)
        .copied()
        .collect()
}

fn split_layers(tokens: &[Token]) -> Vec<TextRange> {
    let mut layers = Vec::new();
    let mut depth = 0usize;
    let mut current: Option<TextRange> = None;
    for token in tokens {
        match token.kind {
            TokenKind::Comma if depth == 0 => {
                layers.extend(current.take());
                continue;
            }
            kind if kind.closer().is_some() => depth += 1,
            TokenKind::CloseParenthesis | TokenKind::CloseSquare | TokenKind::CloseCurly => {
                depth = depth.saturating_sub(1);
            }
            _ => {}
        }
        current = Some(current.map_or(token.span(), |c| c.cover(token.span())));
    }
    layers.extend(current);
    layers
}

struct Layer<'a> {
    shorthand: P,
    source: &'a str,
    found: Vec<(P, Piece)>,
}

impl Layer<'_> {
    fn has(&self, longhand: P) -> bool {
        self.found.iter().any(|(p, _)| *p == longhand)
    }

    fn put(&mut self, longhand: P, span: TextRange) {
        self.found.push((longhand, Piece::Part(span)));
    }

    fn take(&mut self, part: Captured) {
        let span = part.span;
        match (self.shorthand, part.label) {
            (P::BACKGROUND, Label::Type("bg-image")) => self.put(P::BACKGROUND_IMAGE, span),
            (P::BACKGROUND | P::BACKGROUND_POSITION, Label::Type("bg-position")) => {
                let (x, y) = split_position(self.source, span);
                self.found.push((P::BACKGROUND_POSITION_X, x));
                self.found.push((P::BACKGROUND_POSITION_Y, y));
            }
            (P::BACKGROUND, Label::Type("bg-size")) => self.put(P::BACKGROUND_SIZE, span),
            (P::BACKGROUND, Label::Type("repeat-style")) => self.put(P::BACKGROUND_REPEAT, span),
            (P::BACKGROUND, Label::Type("attachment")) => self.put(P::BACKGROUND_ATTACHMENT, span),
            (P::BACKGROUND, Label::Type("visual-box" | "bg-clip")) => {
                // One box is for both, a second one for the clip.
                if self.has(P::BACKGROUND_ORIGIN) {
                    self.found.retain(|(p, _)| *p != P::BACKGROUND_CLIP);
                } else if part.label == Label::Type("visual-box") {
                    self.put(P::BACKGROUND_ORIGIN, span);
                }
                self.put(P::BACKGROUND_CLIP, span);
            }
            (P::BACKGROUND, Label::Property(_)) => self.put(P::BACKGROUND_COLOR, span),
            (P::MASK, Label::Type("mask-reference")) => self.put(P::MASK_IMAGE, span),
            (P::MASK, Label::Type("bg-position" | "position")) => self.put(P::MASK_POSITION, span),
            (P::MASK, Label::Type("bg-size")) => self.put(P::MASK_SIZE, span),
            (P::MASK, Label::Type("repeat-style")) => self.put(P::MASK_REPEAT, span),
            (P::MASK, Label::Type("geometry-box" | "coord-box")) => {
                if self.has(P::MASK_ORIGIN) {
                    self.found.retain(|(p, _)| *p != P::MASK_CLIP);
                } else {
                    self.put(P::MASK_ORIGIN, span);
                }
                self.put(P::MASK_CLIP, span);
            }
            (P::MASK, Label::Keyword) => self.put(P::MASK_CLIP, span),
            (P::MASK, Label::Type("compositing-operator")) => self.put(P::MASK_COMPOSITE, span),
            (P::MASK, Label::Type("masking-mode")) => self.put(P::MASK_MODE, span),
            (P::TRANSITION, Label::Type("time")) => {
                let negative = self.source.cut(span).starts_with('-');
                let longhand = if negative || self.has(P::TRANSITION_DURATION) {
                    P::TRANSITION_DELAY
                } else {
                    P::TRANSITION_DURATION
                };
                self.put(longhand, span);
            }
            (P::TRANSITION, Label::Type("easing-function")) => {
                self.put(P::TRANSITION_TIMING_FUNCTION, span);
            }
            (P::TRANSITION, Label::Type("transition-behavior-value")) => {
                self.put(P::TRANSITION_BEHAVIOR, span);
            }
            (P::TRANSITION, _) => self.put(P::TRANSITION_PROPERTY, span),
            (P::ANIMATION, Label::Property(property)) => {
                let longhand =
                    if property == P::ANIMATION_DURATION && !self.has(P::ANIMATION_DURATION) {
                        P::ANIMATION_DURATION
                    } else {
                        P::ANIMATION_DELAY
                    };
                self.put(longhand, span);
            }
            (P::ANIMATION, Label::Type(kind)) => {
                let longhand = match kind {
                    "easing-function" => P::ANIMATION_TIMING_FUNCTION,
                    "single-animation-iteration-count" => P::ANIMATION_ITERATION_COUNT,
                    "single-animation-direction" => P::ANIMATION_DIRECTION,
                    "single-animation-fill-mode" => P::ANIMATION_FILL_MODE,
                    "single-animation-play-state" => P::ANIMATION_PLAY_STATE,
                    _ => P::ANIMATION_NAME,
                };
                self.put(longhand, span);
            }
            (P::ANIMATION, Label::Keyword) => self.put(P::ANIMATION_NAME, span),
            _ => {}
        }
    }
}

/// Backgrounds 4 § 2.6: the two directions of a position.
fn split_position(source: &str, span: TextRange) -> (Piece, Piece) {
    let text = source.cut(span);
    let tokens = super::substitution::value_tokens(text);
    let tokens: Vec<Token> = tokens.into_iter().filter(|t| !t.kind.is_blank()).collect();
    let parts: Vec<&str> = split_values(&tokens)
        .into_iter()
        .map(|s| text.cut(s))
        .collect();
    let composed = |words: &[&str]| Piece::Composed(words.join(" "));
    let vertical =
        |word: &str| word.eq_ignore_ascii_case("top") || word.eq_ignore_ascii_case("bottom");
    let horizontal =
        |word: &str| word.eq_ignore_ascii_case("left") || word.eq_ignore_ascii_case("right");
    match parts[..] {
        [one] if vertical(one) => (composed(&["center"]), composed(&[one])),
        [one] => (composed(&[one]), composed(&["center"])),
        [a, b] if vertical(a) || horizontal(b) => (composed(&[b]), composed(&[a])),
        [a, b] => (composed(&[a]), composed(&[b])),
        _ => {
            // Three or four: each keyword takes the offset after it.
            let mut x: Vec<&str> = Vec::new();
            let mut y: Vec<&str> = Vec::new();
            let mut center = 0;
            let mut in_y = false;
            for word in &parts {
                if vertical(word) {
                    in_y = true;
                    y.push(word);
                } else if horizontal(word) {
                    in_y = false;
                    x.push(word);
                } else if word.eq_ignore_ascii_case("center") {
                    center += 1;
                } else if in_y {
                    y.push(word);
                } else {
                    x.push(word);
                }
            }
            if center > 0 && x.is_empty() {
                x.push("center");
            }
            if center > 0 && y.is_empty() {
                y.push("center");
            }
            (composed(&x), composed(&y))
        }
    }
}
