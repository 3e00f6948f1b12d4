//! The shorthands whose value is a list of layers: `background`, `mask`, `transition`, `animation`.

use super::PropertyId;
use super::grammar::{Captured, Label};
use super::shorthand::Piece;
use crate::sheet::{Kind, Token};
use crate::text::{Cut, TextRange};

/// A longhand of a layered shorthand: its name and what a layer that leaves it out gives it.
type Longhand = (&'static str, &'static str);

const BACKGROUND: &[Longhand] = &[
    ("background-image", "none"),
    ("background-position-x", "0%"),
    ("background-position-y", "0%"),
    ("background-size", "auto"),
    ("background-repeat", "repeat"),
    ("background-attachment", "scroll"),
    ("background-origin", "padding-box"),
    ("background-clip", "border-box"),
];

const MASK: &[Longhand] = &[
    ("mask-image", "none"),
    ("mask-position", "0% 0%"),
    ("mask-size", "auto"),
    ("mask-repeat", "repeat"),
    ("mask-origin", "border-box"),
    ("mask-clip", "border-box"),
    ("mask-composite", "add"),
    ("mask-mode", "match-source"),
];

const TRANSITION: &[Longhand] = &[
    ("transition-property", "all"),
    ("transition-duration", "0s"),
    ("transition-timing-function", "ease"),
    ("transition-delay", "0s"),
    ("transition-behavior", "normal"),
];

const ANIMATION: &[Longhand] = &[
    ("animation-duration", "0s"),
    ("animation-timing-function", "ease"),
    ("animation-delay", "0s"),
    ("animation-iteration-count", "1"),
    ("animation-direction", "normal"),
    ("animation-fill-mode", "none"),
    ("animation-play-state", "running"),
    ("animation-name", "none"),
];

pub(super) fn expand(
    shorthand: &str,
    source: &str,
    captured: &[Captured],
    tokens: &[Token],
) -> Vec<(&'static str, Piece)> {
    let longhands = match shorthand {
        "background" => BACKGROUND,
        "background-position" => BACKGROUND.cut(1..3),
        "mask" => MASK,
        "transition" => TRANSITION,
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
            said: Vec::new(),
        };
        for part in parts {
            found.take(part);
        }
        for (column, (name, _)) in columns.iter_mut().zip(longhands) {
            let said = found.said.iter().find(|(n, _)| n == name);
            column.push(said.map(|(_, piece)| piece.clone()));
        }
        if let Some((_, piece)) = found
            .said
            .into_iter()
            .find(|(n, _)| *n == "background-color")
        {
            color = Some(piece);
        }
    }
    let mut out = Vec::new();
    for ((name, default), column) in longhands.iter().zip(columns) {
        if let [only] = &column[..] {
            if let Some(piece) = only {
                out.push((*name, piece.clone()));
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
        out.push((*name, Piece::Composed(values.join(", "))));
    }
    out.extend(color.map(|piece| ("background-color", piece)));
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
            Kind::Comma if depth == 0 => {
                layers.extend(current.take());
                continue;
            }
            kind if kind.closer().is_some() => depth += 1,
            Kind::CloseParenthesis | Kind::CloseSquare | Kind::CloseCurly => {
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
    shorthand: &'a str,
    source: &'a str,
    said: Vec<(&'static str, Piece)>,
}

impl Layer<'_> {
    fn has(&self, name: &str) -> bool {
        self.said.iter().any(|(n, _)| *n == name)
    }

    fn say(&mut self, name: &'static str, span: TextRange) {
        self.said.push((name, Piece::Part(span)));
    }

    fn take(&mut self, part: Captured) {
        let span = part.span;
        match (self.shorthand, part.label) {
            ("background", Label::Type("bg-image")) => self.say("background-image", span),
            ("background" | "background-position", Label::Type("bg-position")) => {
                let (x, y) = split_position(self.source, span);
                self.said.push(("background-position-x", x));
                self.said.push(("background-position-y", y));
            }
            ("background", Label::Type("bg-size")) => self.say("background-size", span),
            ("background", Label::Type("repeat-style")) => self.say("background-repeat", span),
            ("background", Label::Type("attachment")) => self.say("background-attachment", span),
            ("background", Label::Type("visual-box" | "bg-clip")) => {
                // One box is for both, a second one for the clip.
                if self.has("background-origin") {
                    self.said.retain(|(n, _)| *n != "background-clip");
                } else if part.label == Label::Type("visual-box") {
                    self.say("background-origin", span);
                }
                self.say("background-clip", span);
            }
            ("background", Label::Property(_)) => self.say("background-color", span),
            ("mask", Label::Type("mask-reference")) => self.say("mask-image", span),
            ("mask", Label::Type("bg-position" | "position")) => self.say("mask-position", span),
            ("mask", Label::Type("bg-size")) => self.say("mask-size", span),
            ("mask", Label::Type("repeat-style")) => self.say("mask-repeat", span),
            ("mask", Label::Type("geometry-box" | "coord-box")) => {
                if self.has("mask-origin") {
                    self.said.retain(|(n, _)| *n != "mask-clip");
                } else {
                    self.say("mask-origin", span);
                }
                self.say("mask-clip", span);
            }
            ("mask", Label::Keyword) => self.say("mask-clip", span),
            ("mask", Label::Type("compositing-operator")) => self.say("mask-composite", span),
            ("mask", Label::Type("masking-mode")) => self.say("mask-mode", span),
            ("transition", Label::Type("time")) => {
                let negative = self.source.cut(span).starts_with('-');
                let name = if negative || self.has("transition-duration") {
                    "transition-delay"
                } else {
                    "transition-duration"
                };
                self.say(name, span);
            }
            ("transition", Label::Type("easing-function")) => {
                self.say("transition-timing-function", span);
            }
            ("transition", Label::Type("transition-behavior-value")) => {
                self.say("transition-behavior", span);
            }
            ("transition", _) => self.say("transition-property", span),
            ("animation", Label::Property(property)) => {
                let name = if property == PropertyId::ANIMATION_DURATION
                    && !self.has("animation-duration")
                {
                    "animation-duration"
                } else {
                    "animation-delay"
                };
                self.say(name, span);
            }
            ("animation", Label::Type(kind)) => {
                let name = match kind {
                    "easing-function" => "animation-timing-function",
                    "single-animation-iteration-count" => "animation-iteration-count",
                    "single-animation-direction" => "animation-direction",
                    "single-animation-fill-mode" => "animation-fill-mode",
                    "single-animation-play-state" => "animation-play-state",
                    _ => "animation-name",
                };
                self.say(name, span);
            }
            ("animation", Label::Keyword) => self.say("animation-name", span),
            _ => {}
        }
    }
}

/// Backgrounds 4 § 2.6: the two directions of a position.
fn split_position(source: &str, span: TextRange) -> (Piece, Piece) {
    let text = source.cut(span);
    let tokens = super::substitution::value_tokens(text);
    let tokens: Vec<Token> = tokens.into_iter().filter(|t| !t.kind.is_blank()).collect();
    let parts: Vec<&str> = super::shorthand::split_values(&tokens)
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
            // Three or four: each keyword takes the offset behind it.
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
