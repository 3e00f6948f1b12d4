//! `grid` and `grid-template`: Grid 2 § 7.4 and § 7.8. The value is known to fit the grammar.

use super::facts::PropertyId as P;
use super::longhand::Piece;
use crate::sheet::{Token, TokenKind, cover};
use crate::text::Cut;

pub(super) fn expand(source: &str, tokens: &[Token]) -> Vec<(P, Piece)> {
    let text = |tokens: &[Token]| -> Option<Piece> {
        let (first, last) = (tokens.first()?, tokens.last()?);
        Some(Piece::Part(first.span().cover(last.span())))
    };
    let mut out = Vec::new();
    let mut put = |longhand: P, piece: Option<Piece>| {
        out.extend(piece.map(|p| (longhand, p)));
    };
    let slash = top_level_slash(source, tokens);
    let (before, after) = match slash {
        Some(at) => (tokens.cut(..at), tokens.cut(at + 1..)),
        None => (tokens, tokens.cut(tokens.len()..)),
    };
    let auto_flow = |side: &[Token]| {
        side.iter()
            .any(|t| t.kind == TokenKind::Ident && t.is_name(source, "auto-flow"))
    };
    if auto_flow(before) || auto_flow(after) {
        let in_rows = auto_flow(before);
        let (flow, template) = if in_rows {
            (before, after)
        } else {
            (after, before)
        };
        let is_word = |t: &Token| {
            t.kind == TokenKind::Ident
                && (t.is_name(source, "auto-flow") || t.is_name(source, "dense"))
        };
        let dense = flow
            .iter()
            .any(|t| t.kind == TokenKind::Ident && t.is_name(source, "dense"));
        let tracks: Vec<Token> = flow.iter().copied().filter(|t| !is_word(t)).collect();
        let direction = if in_rows { "row" } else { "column" };
        let value = if dense {
            format!("{direction} dense")
        } else {
            direction.to_owned()
        };
        put(P::GRID_AUTO_FLOW, Some(Piece::Composed(value)));
        if in_rows {
            put(P::GRID_AUTO_ROWS, text(&tracks));
            put(P::GRID_TEMPLATE_COLUMNS, text(template));
        } else {
            put(P::GRID_AUTO_COLUMNS, text(&tracks));
            put(P::GRID_TEMPLATE_ROWS, text(template));
        }
        return out;
    }
    if before.iter().any(|t| t.kind == TokenKind::Text) {
        let (areas, rows) = areas_and_rows(source, before);
        put(P::GRID_TEMPLATE_AREAS, Some(Piece::Composed(areas)));
        put(P::GRID_TEMPLATE_ROWS, Some(Piece::Composed(rows)));
        put(P::GRID_TEMPLATE_COLUMNS, text(after));
        return out;
    }
    if slash.is_some() {
        put(P::GRID_TEMPLATE_ROWS, text(before));
        put(P::GRID_TEMPLATE_COLUMNS, text(after));
    }
    out
}

fn top_level_slash(source: &str, tokens: &[Token]) -> Option<usize> {
    let mut depth = 0usize;
    for (at, token) in tokens.iter().enumerate() {
        match token.kind {
            kind if kind.closer().is_some() => depth += 1,
            TokenKind::CloseParenthesis | TokenKind::CloseSquare => depth = depth.saturating_sub(1),
            _ if depth == 0 && token.is_delim(source, '/') => return Some(at),
            _ => {}
        }
    }
    None
}

/// `[names] "areas" size [names] …`: the strings, and the sizes between the names; a row without
/// a size is `auto`.
fn areas_and_rows(source: &str, tokens: &[Token]) -> (String, String) {
    let mut areas: Vec<String> = Vec::new();
    let mut rows: Vec<String> = Vec::new();
    let mut needs_size = false;
    let mut at = 0;
    while let Some(token) = tokens.get(at) {
        if token.kind == TokenKind::Text {
            if needs_size {
                rows.push("auto".to_owned());
            }
            needs_size = true;
            areas.push(token.source(source).to_owned());
            at += 1;
            continue;
        }
        let end = if token.kind.closer().is_some() {
            super::substitution::arguments(tokens, at).1
        } else {
            at + 1
        };
        let piece = source.cut(cover(tokens.cut(at..end)));
        if token.kind == TokenKind::OpenSquare && needs_size {
            rows.push("auto".to_owned());
        }
        needs_size = false;
        rows.push(piece.to_owned());
        at = end;
    }
    if needs_size {
        rows.push("auto".to_owned());
    }
    (areas.join(" "), rows.join(" "))
}
