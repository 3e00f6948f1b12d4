//! Values whose parts may be written in any order, in the order in which CSSOM § 6.7.2 writes them.

use super::facts::PropertyId;

/// The order in which CSSOM writes the parts of a value that may be written in any order.
pub(super) fn arranged(property: PropertyId, text: String) -> String {
    match property.name() {
        "box-shadow" | "text-shadow" if text != "none" => {
            let most = if property.name() == "box-shadow" {
                4
            } else {
                3
            };
            let shadows = split_top(&text, ',');
            let arranged = shadows.iter().map(|shadow| arranged_shadow(shadow, most));
            arranged.collect::<Vec<_>>().join(", ")
        }
        "filter" | "backdrop-filter" if text.contains("drop-shadow(") => {
            let functions = split_top(&text, ' ');
            let arranged = functions.iter().map(|function| {
                let inside = function
                    .strip_prefix("drop-shadow(")
                    .and_then(|rest| rest.strip_suffix(')'));
                match inside {
                    Some(shadow) => format!("drop-shadow({})", arranged_shadow(shadow, 3)),
                    None => (*function).to_owned(),
                }
            });
            arranged.collect::<Vec<_>>().join(" ")
        }
        // Transforms 1 § 4: keywords are percentages.
        "transform-origin" | "perspective-origin" => {
            let parts = split_top(&text, ' ');
            let percent = |part: &&str| match *part {
                "left" | "top" => "0%".to_owned(),
                "center" => "50%".to_owned(),
                "right" | "bottom" => "100%".to_owned(),
                other => other.to_owned(),
            };
            let vertical = |part: &str| matches!(part, "top" | "bottom");
            match parts[..] {
                [one] if vertical(one) => format!("50% {}", percent(&one)),
                [one] => format!("{} 50%", percent(&one)),
                [a, b, ..] if vertical(a) || matches!(b, "left" | "right") => {
                    format!("{} {}", percent(&b), percent(&a))
                }
                _ => parts.iter().map(percent).collect::<Vec<_>>().join(" "),
            }
        }
        // Backgrounds 3 § 3.9: one size is the width, and the height is auto.
        "background-size" | "mask-size" => {
            let layers = split_top(&text, ',');
            let pairs = layers.iter().map(|layer| {
                let one = split_top(layer, ' ').len() == 1;
                let word = matches!(*layer, "auto" | "cover" | "contain");
                if one && !word {
                    format!("{layer} auto")
                } else {
                    (*layer).to_owned()
                }
            });
            pairs.collect::<Vec<_>>().join(", ")
        }
        // Text Decoration 4 § 3.4: the usual side is left out.
        "text-emphasis-position" => text.trim_end_matches(" right").to_owned(),
        // SVG 2 § 13.5: a number is so many px.
        "stroke-width" | "stroke-dashoffset" if text.parse::<f64>().is_ok() => format!("{text}px"),
        _ => text,
    }
}

/// CSSOM writes a shadow's colour first and `inset` last, and all of its lengths.
fn arranged_shadow(shadow: &str, most: usize) -> String {
    let parts = split_top(shadow, ' ');
    let is_length = |part: &str| part.ends_with("px") || part.starts_with("calc(");
    let pick = |wanted: &dyn Fn(&str) -> bool| -> Vec<&str> {
        parts.iter().copied().filter(|p| wanted(p)).collect()
    };
    let mut lengths = pick(&|p| is_length(p));
    lengths.resize(most.max(lengths.len()), "0px");
    let inset = pick(&|p| p == "inset");
    let color = pick(&|p| p != "inset" && !is_length(p));
    let color = color.first().copied().unwrap_or("currentcolor");
    [&[color][..], &lengths, &inset].concat().join(" ")
}

/// The parts of a value at a mark outside parentheses and quotes, white space around them left out.
fn split_top(text: &str, mark: char) -> Vec<&str> {
    let mut parts = Vec::new();
    let (mut depth, mut start, mut quoted) = (0usize, 0, false);
    for (at, character) in text.char_indices() {
        match character {
            '"' => quoted = !quoted,
            '(' if !quoted => depth += 1,
            ')' if !quoted => depth = depth.saturating_sub(1),
            _ if character == mark && depth == 0 && !quoted => {
                parts.push(text[start..at].trim());
                start = at + mark.len_utf8();
            }
            _ => {}
        }
    }
    parts.push(text[start..].trim());
    parts.retain(|p| !p.is_empty());
    parts
}
