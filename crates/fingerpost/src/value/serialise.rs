//! How numbers, strings and names of fonts are written: CSSOM § 2.1 and § 6.7.2.

/// The largest computed value: engines' lengths go so far.
pub const LARGEST: f64 = 33_554_400.0;

/// How many significant digits engines write of a number.
const SIGNIFICANT_DIGITS: i32 = 6;

/// A number as CSSOM writes it and engines cut it: six significant digits, no zeros at the end.
pub fn number(value: f64) -> String {
    if value == 0.0 || !value.is_finite() {
        return match value {
            // Values 4 § 10.12: what is infinite is as large as a computed value can be.
            f64::INFINITY => number(LARGEST),
            f64::NEG_INFINITY => number(-LARGEST),
            _ => "0".to_owned(),
        };
    }
    let magnitude = value.abs().log10().floor() as i32 + 1;
    let decimals = (SIGNIFICANT_DIGITS - magnitude).clamp(0, 12) as usize;
    let text = format!("{value:.decimals$}");
    let text = match text.contains('.') {
        true => text.trim_end_matches('0').trim_end_matches('.'),
        false => &text,
    };
    match text {
        "-0" | "" => "0".to_owned(),
        text => text.to_owned(),
    }
}

/// Whether a word is one of the generic font families (Fonts 4 § 2.1.3).
pub fn is_generic_family(name: &str) -> bool {
    let generic = [
        "serif",
        "sans-serif",
        "cursive",
        "fantasy",
        "monospace",
        "system-ui",
        "math",
        "ui-serif",
        "ui-sans-serif",
        "ui-monospace",
        "ui-rounded",
    ];
    generic.iter().any(|g| name.eq_ignore_ascii_case(g))
}

/// Whether a font family's name is one identifier.
pub fn is_plain_name(text: &str) -> bool {
    let start = text.strip_prefix('-').unwrap_or(text);
    !start.is_empty()
        && !start.starts_with(|c: char| c.is_ascii_digit())
        && text
            .chars()
            .all(|c| c.is_alphanumeric() || matches!(c, '-' | '_'))
}

/// CSSOM § 2.1: serialise a string.
pub fn string(text: &str) -> String {
    let mut out = String::from("\"");
    for character in text.chars() {
        match character {
            '"' | '\\' => {
                out.push('\\');
                out.push(character);
            }
            '\0'..='\x1f' | '\x7f' => out.push_str(&format!("\\{:x} ", u32::from(character))),
            _ => out.push(character),
        }
    }
    out.push('"');
    out
}
