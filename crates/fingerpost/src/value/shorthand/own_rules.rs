//! Shorthands that the standards describe in prose.

use super::{Pieces, whole};
use crate::sheet::{Token, TokenKind};
use crate::text::{Cut, TextRange};
use crate::value::facts::PropertyId;
use crate::value::grammar::{Captured, Label, match_property};
use crate::value::longhand::{Piece, split_values};

impl Pieces<'_> {
    pub(super) fn font(&mut self, outer: &[&Captured], tokens: &[Token]) {
        let mut family: Option<TextRange> = None;
        for part in outer {
            match part.label {
                Label::Property(p) if p == PropertyId::FONT_FAMILY => {
                    family = Some(family.map_or(part.span, |f| f.cover(part.span)));
                }
                Label::Property(p) => self.put(p, Piece::Part(part.span)),
                Label::Type("font-variant-css2") => {
                    self.put(PropertyId::FONT_VARIANT_CAPS, Piece::Part(part.span));
                }
                Label::Type("font-width-css3") => {
                    self.put(PropertyId::FONT_WIDTH, Piece::Part(part.span));
                }
                Label::Type("system-font-family-name") => {
                    // A system font: the whole font is what the system says.
                    self.put(PropertyId::FONT_FAMILY, whole(tokens));
                }
                _ => {}
            }
        }
        if let Some(family) = family {
            self.put(PropertyId::FONT_FAMILY, Piece::Part(family));
        }
    }

    /// Flexbox 1 § 7.1: what is left out is 1, 1 and 0; `none` is `0 0 auto`.
    pub(super) fn flex(&mut self, outer: &[&Captured], tokens: &[Token]) {
        let composed = |value: &str| Piece::Composed(value.to_owned());
        if let [only] = tokens
            && only.is_name(self.source, "none")
        {
            self.put(PropertyId::FLEX_GROW, composed("0"));
            self.put(PropertyId::FLEX_SHRINK, composed("0"));
            self.put(PropertyId::FLEX_BASIS, composed("auto"));
            return;
        }
        self.put(PropertyId::FLEX_GROW, composed("1"));
        self.put(PropertyId::FLEX_SHRINK, composed("1"));
        self.put(PropertyId::FLEX_BASIS, composed("0%"));
        for part in outer {
            if let Label::Property(property) = part.label {
                self.put(property, Piece::Part(part.span));
            }
        }
    }

    /// Lists 3 § 3.4: a lone `none` is for both the image and the type.
    pub(super) fn list_style(&mut self, outer: &[&Captured]) {
        let mut nones = Vec::new();
        for part in outer {
            let Label::Property(property) = part.label else {
                continue;
            };
            if self.is(part.span, "none") {
                nones.push(part.span);
            } else {
                self.put(property, Piece::Part(part.span));
            }
        }
        for none in nones {
            for longhand in [PropertyId::LIST_STYLE_TYPE, PropertyId::LIST_STYLE_IMAGE] {
                if !self.set.iter().any(|(p, _)| *p == longhand) {
                    self.put(longhand, Piece::Part(none));
                }
            }
        }
    }

    /// The first slash that is in no function: those in math functions divide.
    pub(super) fn slash(&self, tokens: &[Token]) -> Option<usize> {
        let mut depth = 0usize;
        tokens.iter().position(|token| {
            if token.kind.closer().is_some() {
                depth += 1;
            } else if token.kind == TokenKind::CloseParenthesis {
                depth = depth.saturating_sub(1);
            }
            depth == 0 && token.is_delim(self.source, '/')
        })
    }

    /// Backgrounds 3 § 4.1: one to four radii, and as many vertical ones after a slash.
    pub(super) fn corners(&mut self, property: PropertyId, tokens: &[Token]) {
        let slash = self.slash(tokens);
        let (across, down) = match slash {
            Some(at) => (
                split_values(tokens.cut(..at)),
                split_values(tokens.cut(at + 1..)),
            ),
            None => (split_values(tokens), Vec::new()),
        };
        let pick = |values: &[TextRange], at: usize| match (values.len(), at) {
            (1, _) => values.first().copied(),
            (2, at) => values.get(at % 2).copied(),
            (3, 3) => values.get(1).copied(),
            (_, at) => values.get(at).copied(),
        };
        for (at, longhand) in property.parts().enumerate() {
            let piece = match (pick(&across, at), pick(&down, at)) {
                (Some(across), None) => Piece::Part(across),
                (Some(across), Some(down)) => {
                    Piece::Composed(format!("{} {}", self.slice(across), self.slice(down)))
                }
                _ => Piece::Initial,
            };
            self.put(longhand, piece);
        }
    }

    /// Sizing 4 § 4.1: one or two sizes, each with `auto` before it or without.
    pub(super) fn intrinsic_sizes(&mut self, tokens: &[Token]) {
        let mut sizes: Vec<TextRange> = Vec::new();
        let mut auto: Option<TextRange> = None;
        for span in split_values(tokens) {
            if self.is(span, "auto") {
                auto = Some(span);
            } else {
                sizes.push(auto.take().map_or(span, |a| a.cover(span)));
            }
        }
        let (Some(first), last) = (sizes.first().copied(), sizes.last().copied()) else {
            return;
        };
        self.put(PropertyId::CONTAIN_INTRINSIC_WIDTH, Piece::Part(first));
        let last = Piece::Part(last.unwrap_or(first));
        self.put(PropertyId::CONTAIN_INTRINSIC_HEIGHT, last);
    }

    /// Grid 2 § 8.4: a line left out is the same name as its opposite, or `auto`.
    pub(super) fn grid_lines(&mut self, property: PropertyId, outer: &[&Captured]) {
        let lines: Vec<TextRange> = outer
            .iter()
            .filter(|c| c.label == Label::Type("grid-line"))
            .map(|c| c.span)
            .collect();
        let is_name = |span: TextRange| {
            let text = self.source.cut(span).to_ascii_lowercase();
            text != "auto"
                && !text.starts_with("span")
                && text.chars().all(|c| !c.is_whitespace())
                && !text.starts_with(|c: char| c.is_ascii_digit() || c == '-' || c == '+')
        };
        let count = property.facts().longhands.len();
        let mut set: Vec<Option<TextRange>> = Vec::new();
        for at in 0..count {
            let opposite = match (count, at) {
                (_, 0) => None,
                (2, _) | (4, 1 | 2) => set.first().copied().flatten(),
                _ => set.get(1).copied().flatten(),
            };
            let line = lines.get(at).copied();
            set.push(line.or_else(|| opposite.filter(|span| is_name(*span))));
        }
        for (longhand, span) in property.parts().zip(set) {
            let auto = || Piece::Composed("auto".to_owned());
            self.put(longhand, span.map_or_else(auto, Piece::Part));
        }
    }

    /// Fonts 4 § 6.11: each keyword goes to the longhand that takes it.
    pub(super) fn font_variant(&mut self, outer: &[&Captured]) {
        if let [only] = outer
            && self.is(only.span, "none")
        {
            self.put(PropertyId::FONT_VARIANT_LIGATURES, Piece::Part(only.span));
            return;
        }
        let mut parts: Vec<(PropertyId, Vec<TextRange>)> = Vec::new();
        for part in outer {
            let tokens = crate::value::substitution::value_tokens(self.slice(part.span));
            let longhand = PropertyId::FONT_VARIANT
                .longhands()
                .iter()
                .copied()
                .find(|p| match_property(*p, self.slice(part.span), &tokens).is_ok());
            let Some(longhand) = longhand else { continue };
            match parts.iter_mut().find(|(p, _)| *p == longhand) {
                Some((_, spans)) => spans.push(part.span),
                None => parts.push((longhand, vec![part.span])),
            }
        }
        for (longhand, spans) in parts {
            let piece = match spans[..] {
                [one] => Piece::Part(one),
                _ => {
                    let words: Vec<&str> = spans.iter().map(|s| self.slice(*s)).collect();
                    Piece::Composed(words.join(" "))
                }
            };
            self.put(longhand, piece);
        }
    }

    /// Text 4 § 3.1.
    pub(super) fn white_space(&mut self, outer: &[&Captured]) {
        let composed = |value: &str| Piece::Composed(value.to_owned());
        let word = match outer {
            [only] => self.slice(only.span).to_ascii_lowercase(),
            _ => String::new(),
        };
        let both = match word.as_str() {
            "normal" => Some(("collapse", "wrap")),
            "pre" => Some(("preserve", "nowrap")),
            "pre-wrap" => Some(("preserve", "wrap")),
            "pre-line" => Some(("preserve-breaks", "wrap")),
            _ => None,
        };
        if let Some((collapse, wrap)) = both {
            self.put(PropertyId::WHITE_SPACE_COLLAPSE, composed(collapse));
            self.put(PropertyId::TEXT_WRAP_MODE, composed(wrap));
            return;
        }
        for part in outer {
            if let Label::Property(property) = part.label {
                self.put(property, Piece::Part(part.span));
            }
        }
    }
}
