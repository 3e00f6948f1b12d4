//! Texts of a site on the way to a terminal: what would move its cursor, change its colors or turn the order of its characters is
//! made visible. They come from pages, sheets and names of files, which someone else has written.

use std::fmt::Write;

/// The text with control characters as symbols (`␛`), and marks that turn the direction of writing as their numbers. The
/// sequences that our own styles are made of stay.
pub fn visible(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    let mut rest = text;
    while let Some(character) = rest.chars().next() {
        if let Some(style) = own_style(rest) {
            out.push_str(style);
            rest = rest.get(style.len()..).unwrap_or_default();
            continue;
        }
        rest = rest.get(character.len_utf8()..).unwrap_or_default();
        match character {
            '\n' | '\t' => out.push(character),
            '\r' if rest.starts_with('\n') => out.push(character),
            // The block of control pictures has them in the order of ASCII.
            '\0'..='\u{1f}' => {
                out.push(char::from_u32(0x2400 + u32::from(character)).unwrap_or('?'));
            }
            '\u{7f}' => out.push('\u{2421}'),
            _ if is_hidden(character) => {
                // Writing to a string can't fail.
                let _ = write!(out, "\\u{{{:x}}}", u32::from(character));
            }
            _ => out.push(character),
        }
    }
    out
}

/// The same for JSON, in which characters may be written as their numbers anywhere in a text.
pub fn visible_json(json: &str) -> String {
    let mut out = String::with_capacity(json.len());
    for character in json.chars() {
        match character {
            '\u{7f}' => out.push_str("\\u007f"),
            _ if is_hidden(character) => {
                let _ = write!(out, "\\u{:04x}", u32::from(character));
            }
            _ => out.push(character),
        }
    }
    out
}

/// Control characters above ASCII (ISO 6429), and marks of direction (Unicode, UAX 9 § 2).
fn is_hidden(character: char) -> bool {
    matches!(
        character,
        '\u{80}'..='\u{9f}'
            | '\u{61c}'
            | '\u{200e}'
            | '\u{200f}'
            | '\u{202a}'..='\u{202e}'
            | '\u{2066}'..='\u{2069}'
    )
}

/// The sequence of one of our styles at the start of a text: bold, faint, four colors, the background of a swatch, and their end.
fn own_style(text: &str) -> Option<&str> {
    let parameters = text.strip_prefix("\u{1b}[")?;
    let (parameters, _) = parameters.split_once('m')?;
    let is_ours = match parameters.strip_prefix("48;2;") {
        Some(color) => color.split(';').all(|part| part.parse::<u8>().is_ok()),
        None => matches!(parameters, "0" | "1" | "2" | "31" | "32" | "33" | "36"),
    };
    is_ours.then(|| text.get(..parameters.len() + 3)).flatten()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::render::{BAD, FAINT, GOOD, HEAD, LOST, PLACE, painted};

    #[test]
    fn what_acts_on_a_terminal_is_seen_instead() {
        assert_eq!(visible("a\u{1b}]8;;x\u{7}b\u{8}\u{7f}"), "a␛]8;;x␇b␈␡");
        assert_eq!(visible("\u{1b}[2J\u{1b}[5m"), "␛[2J␛[5m");
        assert_eq!(visible("\u{9b}31m \u{202e}abc"), "\\u{9b}31m \\u{202e}abc");
        assert_eq!(visible("one\r\ntwo\rthree\tfour"), "one\r\ntwo␍three\tfour");
        assert_eq!(visible_json("\"\u{202e}\u{9b}é\""), "\"\\u202e\\u009bé\"");
    }

    #[test]
    fn our_own_styles_stay() {
        for style in [BAD, FAINT, GOOD, HEAD, LOST, PLACE] {
            let text = painted(style, "é › x");
            assert_eq!(visible(&text), text);
        }
        let swatch = "\u{1b}[48;2;1;2;255m\u{a0}\u{1b}[0m";
        assert_eq!(visible(swatch), swatch);
    }
}
