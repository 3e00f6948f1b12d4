//! Values whose parts may be written in any order, in the order in which CSSOM § 6.7.2 writes them.

use super::computed::number;
use super::facts::PropertyId;
use crate::text::Cut;

/// The order in which CSSOM writes the parts of a value that may be written in any order.
pub(super) fn arranged(property: PropertyId, text: String) -> String {
    match property {
        PropertyId::BOX_SHADOW | PropertyId::TEXT_SHADOW if text != "none" => {
            let most = if property == PropertyId::BOX_SHADOW {
                4
            } else {
                3
            };
            let shadows = split_top(&text, ',');
            let arranged = shadows.iter().map(|shadow| arranged_shadow(shadow, most));
            arranged.collect::<Vec<_>>().join(", ")
        }
        PropertyId::FILTER | PropertyId::BACKDROP_FILTER => {
            let functions = split_top(&text, ' ');
            let arranged = functions.iter().map(|function| filter_function(function));
            arranged.collect::<Vec<_>>().join(" ")
        }
        PropertyId::DISPLAY => display(&text),
        // Adjust 1 § 2.1: `only` stands last.
        PropertyId::COLOR_SCHEME => match text.strip_prefix("only ") {
            Some(schemes) => format!("{schemes} only"),
            None => text,
        },
        // Lists 3 § 4: the number is always there.
        PropertyId::COUNTER_RESET | PropertyId::COUNTER_SET if text != "none" => {
            with_integers(&text, "0")
        }
        PropertyId::COUNTER_INCREMENT if text != "none" => with_integers(&text, "1"),
        // CSSOM leaves the usual style of a counter out.
        PropertyId::CONTENT => text.replace(", decimal)", ")"),
        // Fonts 4 § 6.12: sorted by tag, each once, and a lone 1 left out.
        PropertyId::FONT_FEATURE_SETTINGS | PropertyId::FONT_VARIATION_SETTINGS
            if text != "normal" =>
        {
            let mut settings: Vec<String> = Vec::new();
            for setting in split_top(&text, ',') {
                let features = property == PropertyId::FONT_FEATURE_SETTINGS;
                let short = match setting.strip_suffix(" 1").or(setting.strip_suffix(" on")) {
                    Some(tag) if features => tag.to_owned(),
                    _ => setting.replace(" off", " 0"),
                };
                settings.retain(|s| s.get(..6) != short.get(..6));
                settings.push(short);
            }
            settings.sort();
            settings.join(", ")
        }
        PropertyId::GRID_ROW_START
        | PropertyId::GRID_ROW_END
        | PropertyId::GRID_COLUMN_START
        | PropertyId::GRID_COLUMN_END => {
            let rank = |part: &&str| match *part {
                "span" => 0,
                part if part.parse::<i64>().is_ok() => 1,
                _ => 2,
            };
            let mut parts = split_top(&text, ' ');
            parts.sort_by_key(rank);
            parts.join(" ")
        }
        // Overflow 3 § 3.1 and Writing Modes 4 § 3.2.1: old names of values.
        PropertyId::OVERFLOW_X
        | PropertyId::OVERFLOW_Y
        | PropertyId::OVERFLOW_BLOCK
        | PropertyId::OVERFLOW_INLINE
            if text == "overlay" =>
        {
            "auto".to_owned()
        }
        PropertyId::WRITING_MODE => match text.as_str() {
            "lr" | "lr-tb" | "rl" | "rl-tb" => "horizontal-tb".to_owned(),
            "tb" | "tb-rl" => "vertical-rl".to_owned(),
            _ => text,
        },
        // Grid 2 § 7.3: cells are told apart by one space.
        PropertyId::GRID_TEMPLATE_AREAS if text != "none" => {
            let rows = split_quoted(&text);
            let folded = rows.iter().map(|row| {
                let cells: Vec<&str> = row.split_ascii_whitespace().collect();
                format!("\"{}\"", cells.join(" "))
            });
            folded.collect::<Vec<_>>().join(" ")
        }
        // Sizing 4 § 5.1: a ratio has two sides.
        PropertyId::ASPECT_RATIO => match text.rsplit(' ').next() {
            Some(last) if !text.contains('/') && last.parse::<f64>().is_ok() => {
                format!("{text} / 1")
            }
            _ => text,
        },
        PropertyId::STROKE_DASHARRAY if text != "none" => {
            let lengths = text.replace(',', " ");
            let lengths = lengths.split_ascii_whitespace();
            let lengths = lengths.map(|length| match length.parse::<f64>() {
                Ok(_) => format!("{length}px"),
                Err(_) => length.to_owned(),
            });
            lengths.collect::<Vec<_>>().join(", ")
        }
        PropertyId::TEXT_DECORATION_LINE => {
            let order = ["underline", "overline", "line-through", "blink"];
            let place = |word: &&str| order.iter().position(|o| o == word);
            let mut parts = split_top(&text, ' ');
            parts.sort_by_key(place);
            parts.join(" ")
        }
        // Transforms 2 § 5: an axis has a name, a percentage is a number.
        PropertyId::ROTATE => match split_top(&text, ' ')[..] {
            ["1", "0", "0", angle] => format!("x {angle}"),
            ["0", "1", "0", angle] => format!("y {angle}"),
            ["0", "0", "1", angle] | ["z", angle] => angle.to_owned(),
            _ => text,
        },
        PropertyId::SCALE => {
            let parts = split_top(&text, ' ');
            let numbers: Vec<String> = parts.iter().map(|p| plain_number(p)).collect();
            match &numbers[..] {
                [a, b] if a == b => a.clone(),
                _ => numbers.join(" "),
            }
        }
        PropertyId::TRANSITION_TIMING_FUNCTION | PropertyId::ANIMATION_TIMING_FUNCTION
            if text.contains("linear(") =>
        {
            let functions = split_top(&text, ',');
            let written = functions.iter().map(|function| linear_easing(function));
            written.collect::<Vec<_>>().join(", ")
        }
        // CSS 2 § 11.1.2: user agents take the parts without commas too, and CSSOM writes them with.
        PropertyId::CLIP if text.starts_with("rect(") && !text.contains(',') => {
            let inside = text.trim_start_matches("rect(").trim_end_matches(')');
            format!("rect({})", split_top(inside, ' ').join(", "))
        }
        // Size Adjust 1 § 2: no adjustment is one to the same size.
        PropertyId::TEXT_SIZE_ADJUST if text == "none" => "100%".to_owned(),
        // Text 4 § 9.2: no space is the normal one.
        PropertyId::LETTER_SPACING if text == "0px" => "normal".to_owned(),
        PropertyId::BACKGROUND_IMAGE
        | PropertyId::MASK_IMAGE
        | PropertyId::BORDER_IMAGE_SOURCE
        | PropertyId::LIST_STYLE_IMAGE
            if text.contains("gradient(") =>
        {
            let images = split_top(&text, ',');
            let written = images.iter().map(|image| gradient(image));
            written.collect::<Vec<_>>().join(", ")
        }
        PropertyId::MASK_POSITION | PropertyId::OBJECT_POSITION => {
            let layers = split_top(&text, ',');
            let written = layers.iter().map(|layer| position(layer));
            written.collect::<Vec<_>>().join(", ")
        }
        // Transforms 1 § 4: keywords are percentages.
        PropertyId::TRANSFORM_ORIGIN | PropertyId::PERSPECTIVE_ORIGIN => {
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
        PropertyId::BACKGROUND_SIZE | PropertyId::MASK_SIZE => {
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
        PropertyId::TEXT_EMPHASIS_POSITION => text.trim_end_matches(" right").to_owned(),
        // SVG 2 § 13.5: a number is so many px.
        PropertyId::STROKE_WIDTH | PropertyId::STROKE_DASHOFFSET if text.parse::<f64>().is_ok() => {
            format!("{text}px")
        }
        _ => text,
    }
}

/// One or two keywords of a position as percentages.
fn position(text: &str) -> String {
    let parts = split_top(text, ' ');
    let percent = |part: &str| match part {
        "left" | "top" => "0%".to_owned(),
        "center" => "50%".to_owned(),
        "right" | "bottom" => "100%".to_owned(),
        other => other.to_owned(),
    };
    let vertical = |part: &str| matches!(part, "top" | "bottom");
    match parts[..] {
        [one] if vertical(one) => format!("50% {}", percent(one)),
        [one] => format!("{} 50%", percent(one)),
        [a, b] if vertical(a) || matches!(b, "left" | "right") => {
            format!("{} {}", percent(b), percent(a))
        }
        [a, b] => format!("{} {}", percent(a), percent(b)),
        _ => text.to_owned(),
    }
}

/// Display 3 § 2.8: the shortest way to write it.
fn display(text: &str) -> String {
    let words = split_top(text, ' ');
    let has = |word: &str| words.contains(&word);
    if words.len() < 2 && text != "flow" {
        return text.to_owned();
    }
    let inside = ["flow-root", "flex", "grid", "table", "ruby", "math"];
    let inside = inside
        .iter()
        .copied()
        .find(|word| has(word))
        .unwrap_or("flow");
    let outside = match (has("inline"), has("run-in"), has("block")) {
        (true, ..) => "inline",
        (_, true, _) => "run-in",
        (.., true) => "block",
        // Ruby and math are inline unless they say otherwise.
        _ if matches!(inside, "ruby" | "math") => "inline",
        _ => "block",
    };
    if has("list-item") {
        let mut parts = Vec::new();
        if outside != "block" {
            parts.push(outside);
        }
        if inside != "flow" {
            parts.push(inside);
        }
        parts.push("list-item");
        return parts.join(" ");
    }
    match (outside, inside) {
        (outside, "flow") => outside.to_owned(),
        ("inline", "flow-root") => "inline-block".to_owned(),
        ("inline", inside @ ("ruby" | "math")) => inside.to_owned(),
        ("inline", inside) => format!("inline-{inside}"),
        ("block", inside @ ("ruby" | "math")) => format!("block {inside}"),
        ("block", inside) => inside.to_owned(),
        (outside, inside) => format!("{outside} {inside}"),
    }
}

/// Names, each with the number behind it.
fn with_integers(text: &str, usual: &str) -> String {
    let mut out: Vec<String> = Vec::new();
    for part in split_top(text, ' ') {
        let numeric = part.parse::<f64>().is_ok() || part.starts_with("calc(");
        match out.last_mut() {
            Some(last) if numeric => *last = format!("{last} {part}"),
            _ => out.push(part.to_owned()),
        }
    }
    let whole = out.into_iter().map(|part| {
        if part.contains(' ') {
            part
        } else {
            format!("{part} {usual}")
        }
    });
    whole.collect::<Vec<_>>().join(" ")
}

/// `50%` as `0.5`.
fn plain_number(text: &str) -> String {
    match text.strip_suffix('%').map(str::parse::<f64>) {
        Some(Ok(percent)) => number(percent / 100.0),
        _ => text.to_owned(),
    }
}

/// A filter function as engines write it: percentages as numbers, a shadow's colour first.
fn filter_function(function: &str) -> String {
    let Some((name, inside)) = function
        .strip_suffix(')')
        .and_then(|rest| rest.split_once('('))
    else {
        return function.to_owned();
    };
    match name {
        "drop-shadow" => format!("drop-shadow({})", arranged_shadow(inside, 3)),
        "brightness" | "contrast" | "grayscale" | "invert" | "opacity" | "saturate" | "sepia" => {
            format!("{name}({})", plain_number(inside))
        }
        _ => function.to_owned(),
    }
}

/// Easing 2 § 2.2: `linear()` with the place of every point.
fn linear_easing(function: &str) -> String {
    let Some(inside) = function
        .strip_prefix("linear(")
        .and_then(|rest| rest.strip_suffix(')'))
    else {
        return function.to_owned();
    };
    let mut points: Vec<(String, Option<f64>)> = Vec::new();
    for stop in split_top(inside, ',') {
        let parts = split_top(stop, ' ');
        let output = parts.iter().find(|p| !p.ends_with('%'));
        let output = output.map_or(String::new(), |p| (*p).to_owned());
        let places: Vec<f64> = parts
            .iter()
            .filter_map(|p| p.strip_suffix('%')?.parse().ok())
            .collect();
        match places[..] {
            [] => points.push((output, None)),
            _ => points.extend(places.iter().map(|p| (output.clone(), Some(*p)))),
        }
    }
    let count = points.len();
    if let Some(first) = points.first_mut() {
        first.1.get_or_insert(0.0);
    }
    if let Some(last) = points.last_mut() {
        last.1.get_or_insert(100.0);
    }
    let mut before = 0.0;
    let mut at = 0;
    while at < count {
        let rest = points.get_mut(at..).unwrap_or_default();
        let open = rest.iter().take_while(|(_, place)| place.is_none()).count();
        let after = rest
            .get(open)
            .and_then(|(_, place)| *place)
            .unwrap_or(100.0);
        let steps = (open + 1) as f64;
        for (step, (_, place)) in rest.iter_mut().take(open).enumerate() {
            *place = Some(before + (after - before) * (step + 1) as f64 / steps);
        }
        before = after;
        at += open + 1;
    }
    let written = points
        .iter()
        .map(|(output, place)| format!("{output} {}%", number(place.unwrap_or(0.0))));
    format!("linear({})", written.collect::<Vec<_>>().join(", "))
}

/// Images 3 § 3.6: a corner is named sideways first, and a stop with two places is two stops.
fn gradient(image: &str) -> String {
    let Some((name, inside)) = image
        .strip_suffix(')')
        .and_then(|rest| rest.split_once('('))
        .filter(|(name, _)| name.ends_with("gradient"))
    else {
        return image.to_owned();
    };
    if let Some(old) = name.strip_prefix("-webkit-") {
        return old_gradient(name, old, inside);
    }
    let mut parts: Vec<String> = Vec::new();
    for (at, part) in split_top(inside, ',').into_iter().enumerate() {
        let words = split_top(part, ' ');
        if at == 0
            && let Some(told) = without_defaults(name, &words)
        {
            parts.extend(Some(told).filter(|told| !told.is_empty()));
            continue;
        }
        match words[..] {
            ["to", a @ ("top" | "bottom"), b] => parts.push(format!("to {b} {a}")),
            [color, a, b] if is_place(a) && is_place(b) && !is_place(color) => {
                parts.push(format!("{color} {a}"));
                parts.push(format!("{color} {b}"));
            }
            _ => parts.push(part.to_owned()),
        }
    }
    format!("{name}({})", parts.join(", "))
}

/// A gradient under its old name (Compat § 3.3): places are written as percentages.
fn old_gradient(whole: &str, name: &str, inside: &str) -> String {
    let place = |word: &str| {
        Some(match word {
            "left" | "top" => "0%".to_owned(),
            "center" => "50%".to_owned(),
            "right" | "bottom" => "100%".to_owned(),
            _ if is_place(word) => word.to_owned(),
            _ => return None,
        })
    };
    let mut parts: Vec<String> = Vec::new();
    for (at, part) in split_top(inside, ',').into_iter().enumerate() {
        let words = split_top(part, ' ');
        let places: Option<Vec<String>> = words.iter().map(|word| place(word)).collect();
        let stop = part.strip_prefix("color-stop(").and_then(|rest| {
            let (share, color) = rest.split_once("%,")?;
            Some((share.parse::<f64>().ok()?, color.trim_start()))
        });
        parts.push(match (name, places, stop) {
            ("gradient", Some(places), _) => places.join(" "),
            ("gradient", None, Some((share, color))) => {
                format!("color-stop({}, {color}", number(share / 100.0))
            }
            (name, Some(mut places), _) if name.ends_with("radial-gradient") && at == 0 => {
                places.resize(2, "50%".to_owned());
                places.join(" ")
            }
            (name, None, _) if name.ends_with("radial-gradient") && at == 0 => {
                format!("center, {part}")
            }
            _ => part.to_owned(),
        });
    }
    format!("{whole}({})", parts.join(", "))
}

/// The first part of a gradient, where it is a direction, a shape or a place, without what goes without
/// saying (CSSOM § 6.7.2: the shortest form); none where there is nothing to leave out.
fn without_defaults(name: &str, words: &[&str]) -> Option<String> {
    let kept: Vec<&str> = if name.ends_with("linear-gradient") {
        match words {
            ["to", "bottom"] | ["180deg"] => Vec::new(),
            _ => return None,
        }
    } else {
        let at = words.iter().position(|word| *word == "at");
        let (shape, place) = words.split_at(at.unwrap_or(words.len()));
        let centred = matches!(
            place,
            ["at", "center"]
                | ["at", "center", "center"]
                | ["at", "50%"]
                | ["at", "50%", "50%"]
                | ["at", "50%", "center"]
                | ["at", "center", "50%"]
        );
        let sized =
            |word: &str| word.ends_with("px") || word.ends_with('%') || word.ends_with("-side");
        let mut kept: Vec<&str> = Vec::new();
        let mut rest = shape;
        while let [word, after @ ..] = rest {
            rest = after;
            match *word {
                "farthest-corner" => {}
                // A shape with one size is a circle, with two an ellipse.
                "ellipse" if !shape.iter().any(|w| sized(w)) => {}
                "from" if name.ends_with("conic-gradient") && matches!(after, ["0deg", ..]) => {
                    rest = after.cut(1..);
                }
                word => kept.push(word),
            }
        }
        if !centred {
            kept.extend(place);
        }
        kept
    };
    (kept.len() < words.len()).then(|| kept.join(" "))
}

fn is_place(text: &str) -> bool {
    text.starts_with(|c: char| c.is_ascii_digit() || c == '-' || c == '.')
        || text.starts_with("calc(")
}

/// The texts in quotes.
fn split_quoted(text: &str) -> Vec<&str> {
    text.split('"').skip(1).step_by(2).collect()
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
                parts.push(text.cut(start..at).trim());
                start = at + mark.len_utf8();
            }
            _ => {}
        }
    }
    parts.push(text.cut(start..).trim());
    parts.retain(|p| !p.is_empty());
    parts
}
