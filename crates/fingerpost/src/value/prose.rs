//! What the standards say of valid values in prose, besides the grammar: strings with their own syntax,
//! areas that must be rectangles, and words that stand only alone.

use super::facts::PropertyId;
use super::grammar::{Captured, Label, Mismatch};
use super::path_data::is_path_data;
use crate::sheet::{Token, TokenKind, split_commas};
use crate::text::TextRange;

/// Why a value that fits its property's grammar is invalid nevertheless. `tokens` are without white space.
pub(super) fn mismatch(
    property: PropertyId,
    source: &str,
    tokens: &[Token],
    captured: &[Captured],
) -> Option<Mismatch> {
    let texts = || tokens.iter().filter(|t| t.kind == TokenKind::Text);
    if texts().next().is_some() {
        if matches!(
            property,
            PropertyId::GRID_TEMPLATE_AREAS | PropertyId::GRID_TEMPLATE | PropertyId::GRID
        ) {
            return areas(source, &texts().copied().collect::<Vec<_>>());
        }
        for part in captured {
            let found = match part.label {
                Label::Type("opentype-tag") => tag(source, part.span, tokens),
                Label::Type("path()") => path(source, part.span, tokens),
                _ => None,
            };
            if found.is_some() {
                return found;
            }
        }
    }
    if property == PropertyId::TRANSITION {
        return none_among_others(source, tokens);
    }
    None
}

fn expected(span: TextRange, what: &str) -> Mismatch {
    Mismatch {
        span,
        expected: vec![what.to_owned()],
    }
}

/// The string in a part of a value.
fn text_in(span: TextRange, tokens: &[Token]) -> Option<Token> {
    let mut inside = tokens.iter().filter(|t| span.contains_range(t.span()));
    inside.find(|t| t.kind == TokenKind::Text).copied()
}

/// Fonts 4 § 6.12: four characters of ASCII.
fn tag(source: &str, span: TextRange, tokens: &[Token]) -> Option<Mismatch> {
    let text = text_in(span, tokens)?;
    let name = text.string(source);
    let is_tag = name.len() == 4 && name.bytes().all(|b| (0x20..=0x7e).contains(&b));
    (!is_tag).then(|| expected(text.span(), "a tag of four characters, such as \"kern\""))
}

/// Shapes 1 § 3.1: path data of SVG 2 § 9.3.
fn path(source: &str, span: TextRange, tokens: &[Token]) -> Option<Mismatch> {
    let text = text_in(span, tokens)?;
    let data = text.string(source);
    (!is_path_data(&data)).then(|| expected(text.span(), "path data, such as \"M 0 0 L 10 10\""))
}

/// Transitions 1 § 2.5: `none` can't be one of several items.
fn none_among_others(source: &str, tokens: &[Token]) -> Option<Mismatch> {
    let layers = split_commas(tokens);
    if layers.len() < 2 {
        return None;
    }
    let none = layers
        .into_iter()
        .flatten()
        .find(|t| t.kind == TokenKind::Ident && t.is_name(source, "none"))?;
    Some(expected(
        none.span(),
        "none by itself, or the name of a property",
    ))
}

/// Grid 2 § 7.3: as many cells in each row, and each name a rectangle.
fn areas(source: &str, rows: &[Token]) -> Option<Mismatch> {
    /// The columns and rows that a name covers, from the first up to after the last.
    struct Area {
        columns: (usize, usize),
        rows: (usize, usize),
        cells: usize,
    }
    let mut width = None;
    let mut areas: std::collections::HashMap<String, Area> = std::collections::HashMap::new();
    for (at, row) in rows.iter().enumerate() {
        let text = row.string(source);
        let Some(cells) = cells(&text) else {
            return Some(expected(row.span(), "names and dots in a row of areas"));
        };
        if cells.is_empty() || *width.get_or_insert(cells.len()) != cells.len() {
            return Some(expected(row.span(), "as many areas as in the first row"));
        }
        for (column, name) in cells.into_iter().enumerate() {
            let Some(name) = name else { continue };
            let area = areas.entry(name).or_insert(Area {
                columns: (column, column + 1),
                rows: (at, at + 1),
                cells: 0,
            });
            area.columns = (area.columns.0.min(column), area.columns.1.max(column + 1));
            area.rows.1 = at + 1;
            area.cells += 1;
        }
    }
    let torn = areas.iter().find(|(_, area)| {
        let (columns, rows) = (area.columns, area.rows);
        (columns.1 - columns.0) * (rows.1 - rows.0) != area.cells
    });
    let (name, area) = torn?;
    let row = rows.get(area.rows.0)?;
    Some(expected(
        row.span(),
        &format!("the area '{name}' as one rectangle"),
    ))
}

/// The cells of a row: a name, or none for dots; nothing where something else stands there.
fn cells(row: &str) -> Option<Vec<Option<String>>> {
    let mut cells = Vec::new();
    let mut rest = row.trim_start();
    while let Some(first) = rest.chars().next() {
        let is_dot = first == '.';
        let of_name = |c: char| c.is_alphanumeric() || matches!(c, '-' | '_') || !c.is_ascii();
        let end = rest.find(|c: char| if is_dot { c != '.' } else { !of_name(c) });
        let (cell, after) = rest.split_at_checked(end.unwrap_or(rest.len()))?;
        if cell.is_empty() {
            return None;
        }
        cells.push((!is_dot).then(|| cell.to_owned()));
        rest = after.trim_start();
    }
    Some(cells)
}
