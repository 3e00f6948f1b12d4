//! Shorthands to longhands.
//!
//! The grammar's captures say which part of a shorthand's value each component took, and the table
//! which longhand a component is; only the few shorthands that the table can't describe have code
//! of their own. Longhands that a value leaves out, and those that a
//! shorthand only resets, get their initial values. A longhand's piece points at the exact part of
//! the text that gave it, wherever it is one part.

mod own_rules;

use super::facts::PropertyId;
use super::grammar::{Captured, Label, Match, Mismatch, match_property};
use super::layers;
use super::longhand::{Piece, split_values};
use super::sides::{LinePart, is_border, is_pair, is_repeated};
use crate::sheet::Token;
use crate::text::{Cut, TextRange};

/// The longhands that a valid value of a shorthand sets, each with its piece. A longhand gives
/// itself. CSS-wide keywords and values with `var()` are not for this function.
///
/// # Errors
/// Where the value does not fit the shorthand's grammar.
pub fn expand(
    property: PropertyId,
    source: &str,
    tokens: &[Token],
) -> Result<Vec<(PropertyId, Piece)>, Mismatch> {
    Ok(expand_matched(property, source, tokens)?.0)
}

/// The same, with how the value fits the grammar.
pub(crate) fn expand_matched(
    property: PropertyId,
    source: &str,
    tokens: &[Token],
) -> Result<(Vec<(PropertyId, Piece)>, Match), Mismatch> {
    let found = match_property(property, source, tokens)?;
    if let Some(pieces) = of_rule(property, source, tokens) {
        return Ok((pieces, found));
    }
    let mut out = Pieces {
        source,
        set: Vec::new(),
    };
    let tokens: Vec<Token> = tokens
        .iter()
        .copied()
        .filter(|t| !t.kind.is_blank())
        .collect();
    if property.is_shorthand() {
        out.shorthand(property, &found.captured, &tokens);
    } else {
        out.put(property, whole(&tokens));
    }
    let mut pieces = out.set;
    for longhand in property.longhands() {
        if !pieces.iter().any(|(p, _)| p == longhand) {
            pieces.push((*longhand, Piece::Initial));
        }
    }
    Ok((pieces, found))
}

/// Gaps 1 § 3.4: lines between rows are written as those between columns are, as far as they are all alike.
fn of_rule(
    property: PropertyId,
    source: &str,
    tokens: &[Token],
) -> Option<Vec<(PropertyId, Piece)>> {
    let (rows, columns) = match property {
        PropertyId::ROW_RULE => (true, false),
        PropertyId::RULE => (true, true),
        _ => return None,
    };
    let pieces = expand(PropertyId::COLUMN_RULE, source, tokens).ok()?;
    let mut all = Vec::new();
    for (longhand, piece) in pieces {
        let row = match longhand {
            PropertyId::COLUMN_RULE_WIDTH => PropertyId::ROW_RULE_WIDTH,
            PropertyId::COLUMN_RULE_STYLE => PropertyId::ROW_RULE_STYLE,
            PropertyId::COLUMN_RULE_COLOR => PropertyId::ROW_RULE_COLOR,
            _ => continue,
        };
        if rows {
            all.push((row, piece.clone()));
        }
        if columns {
            all.push((longhand, piece));
        }
    }
    Some(all)
}

fn whole(tokens: &[Token]) -> Piece {
    match (tokens.first(), tokens.last()) {
        (Some(first), Some(last)) => Piece::Part(first.span().cover(last.span())),
        _ => Piece::Initial,
    }
}

struct Pieces<'a> {
    source: &'a str,
    set: Vec<(PropertyId, Piece)>,
}

impl Pieces<'_> {
    fn put(&mut self, property: PropertyId, piece: Piece) {
        match self.set.iter_mut().find(|(p, _)| *p == property) {
            Some((_, old)) => *old = piece,
            None => self.set.push((property, piece)),
        }
    }

    fn slice(&self, span: TextRange) -> &str {
        self.source.cut(span)
    }

    fn is(&self, span: TextRange, word: &str) -> bool {
        self.slice(span).eq_ignore_ascii_case(word)
    }

    fn shorthand(&mut self, property: PropertyId, captured: &[Captured], tokens: &[Token]) {
        let outer: Vec<&Captured> = captured.iter().filter(|c| c.depth == 0).collect();
        match property {
            PropertyId::BACKGROUND
            | PropertyId::MASK
            | PropertyId::TRANSITION
            | PropertyId::ANIMATION
            | PropertyId::BACKGROUND_POSITION => {
                for (longhand, piece) in layers::expand(property, self.source, captured, tokens) {
                    self.put(longhand, piece);
                }
            }
            PropertyId::FONT => self.font(&outer, tokens),
            PropertyId::FLEX => self.flex(&outer, tokens),
            PropertyId::LIST_STYLE => self.list_style(&outer),
            PropertyId::BORDER_RADIUS
            | PropertyId::BORDER_TOP_RADIUS
            | PropertyId::BORDER_RIGHT_RADIUS
            | PropertyId::BORDER_BOTTOM_RADIUS
            | PropertyId::BORDER_LEFT_RADIUS
            | PropertyId::BORDER_BLOCK_START_RADIUS
            | PropertyId::BORDER_BLOCK_END_RADIUS
            | PropertyId::BORDER_INLINE_START_RADIUS
            | PropertyId::BORDER_INLINE_END_RADIUS => self.corners(property, tokens),
            PropertyId::CONTAIN_INTRINSIC_SIZE => self.intrinsic_sizes(tokens),
            PropertyId::GRID_AREA | PropertyId::GRID_ROW | PropertyId::GRID_COLUMN => {
                self.grid_lines(property, &outer);
            }
            PropertyId::GRID | PropertyId::GRID_TEMPLATE => {
                for (longhand, piece) in super::grid::expand(self.source, tokens) {
                    self.put(longhand, piece);
                }
            }
            PropertyId::FONT_VARIANT => self.font_variant(&outer),
            PropertyId::FONT_SYNTHESIS => {
                for (longhand, word) in [
                    (PropertyId::FONT_SYNTHESIS_WEIGHT, "weight"),
                    (PropertyId::FONT_SYNTHESIS_STYLE, "style"),
                    (PropertyId::FONT_SYNTHESIS_SMALL_CAPS, "small-caps"),
                ] {
                    let on = outer.iter().any(|c| self.is(c.span, word));
                    let value = if on { "auto" } else { "none" };
                    self.put(longhand, Piece::Composed(value.to_owned()));
                }
            }
            PropertyId::WHITE_SPACE => self.white_space(&outer),
            PropertyId::TEXT_DECORATION_SKIP
            | PropertyId::TEXT_SPACING
            | PropertyId::LINE_CLAMP
            | PropertyId::MARKER => {
                for part in property.parts() {
                    self.put(part, whole(tokens));
                }
            }
            _ => self.by_shape(property, &outer, captured, tokens),
        }
    }

    /// The shorthands that the table describes well enough.
    fn by_shape(
        &mut self,
        property: PropertyId,
        outer: &[&Captured],
        captured: &[Captured],
        tokens: &[Token],
    ) {
        let longhands: Vec<PropertyId> = property.parts().collect();
        let sides = is_repeated(property);
        let only_copies = longhands.len() == 2 && outer.len() == 1;
        if is_border(property) {
            self.lines(property, captured);
            return;
        }
        if property == PropertyId::WEBKIT_TEXT_STROKE {
            for part in outer {
                match part.label {
                    Label::Type("color") => {
                        self.put(PropertyId::WEBKIT_TEXT_STROKE_COLOR, Piece::Part(part.span));
                    }
                    _ => self.put(PropertyId::WEBKIT_TEXT_STROKE_WIDTH, Piece::Part(part.span)),
                }
            }
            return;
        }
        // By the name of the longhand.
        let by_name = outer
            .iter()
            .any(|c| matches!(c.label, Label::Property(p) if longhands.contains(&p)))
            && !sides;
        if by_name {
            for part in outer {
                let Label::Property(component) = part.label else {
                    continue;
                };
                if longhands.contains(&component) {
                    self.put_all(component, part.span, tokens);
                }
            }
            if let ([_, second, ..], [only, ..]) = (&longhands[..], outer)
                && is_pair(property)
                && only_copies
            {
                self.put_all(*second, only.span, tokens);
            }
            return;
        }
        let values: Vec<TextRange> = if sides {
            split_values(tokens)
        } else {
            outer.iter().map(|c| c.span).collect()
        };
        if !values.is_empty() {
            self.each_side(&longhands, &values, tokens);
        }
    }

    /// `border`, a side of it, a pair of sides: told by what the component is.
    fn lines(&mut self, property: PropertyId, captured: &[Captured]) {
        for (label, part) in [
            ("line-width", LinePart::Width),
            ("line-style", LinePart::Style),
            ("color", LinePart::Color),
        ] {
            // A color may hold others: the outermost is meant.
            let all = captured.iter().filter(|c| c.label == Label::Type(label));
            let Some(found) = all.min_by_key(|c| c.depth) else {
                continue;
            };
            let longhands = property.longhands().iter();
            for longhand in longhands.filter(|p| LinePart::of(**p) == Some(part)) {
                self.put(*longhand, Piece::Part(found.span));
            }
        }
    }

    /// One to four values for sides, one or two for a pair.
    fn each_side(&mut self, longhands: &[PropertyId], values: &[TextRange], tokens: &[Token]) {
        for (at, longhand) in longhands.iter().enumerate() {
            let from = match (longhands.len(), values.len(), at) {
                (4, 1, _) | (2, 1, _) => 0,
                (4, 2, at) => at % 2,
                (4, 3, 3) => 1,
                (_, count, at) if at < count => at,
                _ => 0,
            };
            if let Some(value) = values.get(from) {
                self.put_all(*longhand, *value, tokens);
            }
        }
    }

    /// Gives a part to a longhand, or to the longhands of a shorthand inside a shorthand.
    fn put_all(&mut self, property: PropertyId, span: TextRange, tokens: &[Token]) {
        if !property.is_shorthand() {
            self.put(property, Piece::Part(span));
            return;
        }
        let inside: Vec<Token> = tokens
            .iter()
            .copied()
            .filter(|t| span.contains_range(t.span()))
            .collect();
        if let Ok(pieces) = expand(property, self.source, &inside) {
            for (longhand, piece) in pieces {
                self.put(longhand, piece);
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::value::substitution::value_tokens;

    fn expanded(property: &str, value: &str) -> String {
        let tokens = value_tokens(value);
        let property = PropertyId::named(property).unwrap();
        let pieces = expand(property, value, &tokens).unwrap();
        let mut out: Vec<String> = pieces
            .iter()
            .filter(|(_, piece)| *piece != Piece::Initial)
            .map(|(property, piece)| match piece {
                Piece::Part(span) => format!("{}={}", property.name(), &value[*span]),
                Piece::Composed(text) => format!("{}={text}", property.name()),
                Piece::Initial => String::new(),
            })
            .collect();
        out.sort();
        out.join("; ")
    }

    #[test]
    fn sides_and_pairs() {
        assert_eq!(
            expanded("margin", "1px auto 2px"),
            "margin-bottom=2px; margin-left=auto; margin-right=auto; margin-top=1px"
        );
        assert_eq!(expanded("gap", "1em"), "column-gap=1em; row-gap=1em");
        assert_eq!(
            expanded("overflow", "hidden auto"),
            "overflow-x=hidden; overflow-y=auto"
        );
        assert_eq!(
            expanded("padding-inline", "calc(1px + 1em) 0"),
            "padding-inline-end=0; padding-inline-start=calc(1px + 1em)"
        );
        assert_eq!(
            expanded("row-rule", "1px solid red"),
            "row-rule-color=red; row-rule-style=solid; row-rule-width=1px"
        );
        assert_eq!(expanded("inset", "0"), "bottom=0; left=0; right=0; top=0");
        assert_eq!(
            expanded("place-content", "center"),
            "align-content=center; justify-content=center"
        );
    }

    #[test]
    fn borders() {
        assert_eq!(
            expanded("border-top", "thin solid"),
            "border-top-style=solid; border-top-width=thin"
        );
        let all = expanded("border", "0");
        assert_eq!(all.matches("=0").count(), 4, "{all}");
        assert_eq!(
            expanded("border-color", "red rgb(0 0 0)"),
            "border-bottom-color=red; border-left-color=rgb(0 0 0); border-right-color=rgb(0 0 0); border-top-color=red"
        );
        assert_eq!(
            expanded("border-inline", "1px dashed red")
                .matches("dashed")
                .count(),
            2
        );
        assert_eq!(
            expanded("border-radius", "1px 2px / 3px"),
            "border-bottom-left-radius=2px 3px; border-bottom-right-radius=1px 3px; border-top-left-radius=1px 3px; border-top-right-radius=2px 3px"
        );
        assert_eq!(expanded("outline", "none"), "outline-style=none");
        assert_eq!(
            expanded("border-top-radius", "1px / 2px 3px"),
            "border-top-left-radius=1px 2px; border-top-right-radius=1px 3px"
        );
    }

    #[test]
    fn words_in_any_order() {
        assert_eq!(
            expanded("list-style", "none inside"),
            "list-style-image=none; list-style-position=inside; list-style-type=none"
        );
        assert_eq!(
            expanded("flex-flow", "wrap column"),
            "flex-direction=column; flex-wrap=wrap"
        );
        assert_eq!(
            expanded("flex", "2"),
            "flex-basis=0%; flex-grow=2; flex-shrink=1"
        );
        assert_eq!(
            expanded("flex", "auto"),
            "flex-basis=auto; flex-grow=1; flex-shrink=1"
        );
        assert_eq!(
            expanded("font", "italic small-caps bold 1em/2 A, serif"),
            "font-family=A, serif; font-size=1em; font-style=italic; font-variant-caps=small-caps; font-weight=bold; line-height=2"
        );
        assert_eq!(
            expanded("text-decoration", "underline dotted"),
            "text-decoration-line=underline; text-decoration-style=dotted"
        );
        assert_eq!(
            expanded("grid-area", "head"),
            "grid-column-end=head; grid-column-start=head; grid-row-end=head; grid-row-start=head"
        );
        assert_eq!(
            expanded("grid-column", "1 / -1"),
            "grid-column-end=-1; grid-column-start=1"
        );
        assert_eq!(
            expanded("columns", "2 auto"),
            "column-count=2; column-width=auto"
        );
        assert_eq!(expanded("white-space", "nowrap"), "text-wrap-mode=nowrap");
    }

    #[test]
    fn layers_and_lists() {
        assert_eq!(expanded("background", "#fff"), "background-color=#fff");
        assert_eq!(
            expanded("background", "url(a.svg) no-repeat right 10px top / cover"),
            "background-image=url(a.svg); background-position-x=right 10px; background-position-y=top; background-repeat=no-repeat; background-size=cover"
        );
        assert_eq!(
            expanded(
                "background",
                "url(a.svg) repeat-x, linear-gradient(red, blue) center red"
            ),
            "background-attachment=scroll, scroll; background-clip=border-box, border-box; background-color=red; background-image=url(a.svg), linear-gradient(red, blue); background-origin=padding-box, padding-box; background-position-x=0%, center; background-position-y=0%, center; background-repeat=repeat-x, repeat; background-size=auto, auto"
        );
        assert_eq!(
            expanded("transition", "color .2s 1s ease-in"),
            "transition-delay=1s; transition-duration=.2s; transition-property=color; transition-timing-function=ease-in"
        );
        assert_eq!(
            expanded("transition", ".2s ease-in"),
            "transition-duration=.2s; transition-timing-function=ease-in"
        );
        assert_eq!(
            expanded("animation", "boat 4s infinite"),
            "animation-duration=4s; animation-iteration-count=infinite; animation-name=boat"
        );
    }

    #[test]
    fn grids() {
        assert_eq!(
            expanded("grid-template", "\"a b\" 1fr \"c d\" / auto 2fr"),
            "grid-template-areas=\"a b\" \"c d\"; grid-template-columns=auto 2fr; grid-template-rows=1fr auto"
        );
        assert_eq!(
            expanded("grid", "auto-flow dense 10px / 1fr"),
            "grid-auto-flow=row dense; grid-auto-rows=10px; grid-template-columns=1fr"
        );
        assert_eq!(
            expanded("grid-template", "1fr / 2fr"),
            "grid-template-columns=2fr; grid-template-rows=1fr"
        );
    }
}
