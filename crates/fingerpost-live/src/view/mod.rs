//! How answers look on the desk: one file a part.

pub(crate) mod contest;
pub(crate) mod effect;
pub(crate) mod find;
mod label;
pub(crate) mod offers;
pub(crate) mod rule;
pub(crate) mod save;
pub(crate) mod sheets;
pub(crate) mod shell;
pub(crate) mod space;
pub(crate) mod trying;
pub(crate) mod why;
pub(crate) mod whynot;

use fingerpost::cascade::Origin;
use fingerpost::page::Page;
use fingerpost::sheet::{Declaration, Sheet};
use fingerpost::text::Place;
use fingerpost::value::color;
use maud::{Markup, html};

/// Why a part could not be made.
pub(crate) fn problem(message: &str) -> Markup {
    html! { p.problem role="alert" { (message) } }
}

/// `css/skerry.css:120`, as its author knows it.
pub(crate) fn place(place: &Place) -> Markup {
    let shown = place.authored.as_deref().unwrap_or(place);
    let served = match place.authored {
        Some(_) => format!(", served as {}:{}", place.file, place.line),
        None => String::new(),
    };
    let whole = format!("{shown}{served}");
    html! { span.place title=(whole) { (shown.file) ":" (shown.line) } }
}

/// `skerry.css:120`, where there is little room; all of it is in the title.
pub(crate) fn short_place(place: &Place) -> Markup {
    let shown = place.authored.as_deref().unwrap_or(place);
    let name = shown.file.rsplit('/').next().unwrap_or(&shown.file);
    html! { span.place title=(shown) { (name) ":" (shown.line) } }
}

/// A spot of a color, where a value is one.
pub(crate) fn swatch(value: &str) -> Markup {
    match as_hex(value) {
        // A style sheet from the server is the only style that the desk's policy allows; an SVG needs none.
        Some(fill) => html! {
            svg.swatch viewBox="0 0 10 10" aria-hidden="true" { rect width="10" height="10" fill=(fill) {} }
        },
        None => Markup::default(),
    }
}

/// A color as a native control and SVG take it: `#1a2b3c`, with its alpha left out.
pub(crate) fn as_hex(value: &str) -> Option<String> {
    let [r, g, b, _] = color::read(value).absolute()?.srgb();
    Some(format!("#{r:02x}{g:02x}{b:02x}"))
}

/// The declarations of a page's own sheets, each with its sheet.
pub(crate) fn declarations(page: &Page) -> impl Iterator<Item = (&Sheet, &Declaration)> {
    let own = page
        .sheets()
        .iter()
        .filter(|sheet| sheet.origin == Origin::Author);
    own.flat_map(|sheet| {
        let sheet = sheet.styles.sheet();
        sheet
            .declarations()
            .map(move |(_, declaration)| (sheet, declaration))
    })
}

/// `1 rule`, `2 rules`, `2 properties`
pub(crate) fn count(number: usize, thing: &str) -> String {
    match (number, thing.strip_suffix('y')) {
        (1, _) => format!("1 {thing}"),
        (_, Some(stem)) => format!("{number} {stem}ies"),
        (_, None) => format!("{number} {thing}s"),
    }
}

/// A note as a sentence, as `sentence` in `assets/link.js` writes it. A selector or a file at the beginning stays as it is.
fn sentence(note: &str) -> String {
    let first = note.split(' ').next().unwrap_or_default();
    let is_word = !first.is_empty() && first.bytes().all(|byte| byte.is_ascii_lowercase());
    match note.split_at_checked(1) {
        Some((first, rest)) if is_word => format!("{}{rest}.", first.to_uppercase()),
        _ => format!("{note}."),
    }
}

#[cfg(test)]
mod tests {
    #[test]
    fn a_note_is_shown_as_a_sentence() {
        let shown = |note| super::sentence(note);
        assert_eq!(shown("no declaration sets it"), "No declaration sets it.");
        assert_eq!(shown("css/a.css is built"), "css/a.css is built.");
        assert_eq!(shown(".a also matches p"), ".a also matches p.");
    }
}
