//! Values whose parts may be written in any order, in the order and the form in which CSSOM § 6.7.2
//! writes them.

use smol_str::SmolStr;

use super::behavior::Order;
use super::color::Color;
use super::typed::Component;
use super::units::{DEG, PX};
use crate::text::Cut;

/// A value in the order and form in which CSSOM writes it.
pub(super) fn in_canonical_order(order: Order, value: Vec<Component>) -> Vec<Component> {
    match order {
        Order::AsWritten => value,
        _ if matches!(&value[..], [only] if only.is("none")) && order != Order::TextSizeAdjust => {
            value
        }
        Order::Shadows(most) => each(&value, |shadow| shadow_in_order(shadow, most)),
        Order::Filters => value.into_iter().map(filter_function).collect(),
        Order::Display => display(value),
        Order::ColorScheme => color_scheme(value),
        Order::Counters(usual) => with_integers(value, usual),
        Order::Content => value.into_iter().map(without_decimal).collect(),
        Order::FontFeatures | Order::FontVariations => {
            font_settings(value, order == Order::FontFeatures)
        }
        Order::GridLine => sorted_by(value, |part| match part {
            part if part.is("span") => 0,
            Component::Number(_) => 1,
            _ => 2,
        }),
        Order::GridAreas => value.into_iter().map(folded_cells).collect(),
        Order::Overflow => renamed(value, &[("overlay", "auto")]),
        Order::WritingMode => renamed(
            value,
            &[
                ("lr", "horizontal-tb"),
                ("lr-tb", "horizontal-tb"),
                ("rl", "horizontal-tb"),
                ("rl-tb", "horizontal-tb"),
                ("tb", "vertical-rl"),
                ("tb-rl", "vertical-rl"),
            ],
        ),
        Order::AspectRatio => aspect_ratio(value),
        Order::Dashes => dashes(value),
        Order::StrokeLength => value.into_iter().map(in_pixels).collect(),
        Order::DecorationLine => sorted_by(value, |part| {
            let order = ["underline", "overline", "line-through", "blink"];
            order
                .iter()
                .position(|word| part.is(word))
                .map_or(0, |at| at + 1)
        }),
        // Text Decoration 4 § 3.4: the usual side is left out.
        Order::EmphasisPosition => match &value[..] {
            [first @ .., last] if !first.is_empty() && last.is("right") => first.to_vec(),
            _ => value,
        },
        Order::Rotate => rotate(value),
        Order::Scale => scale(value),
        Order::Easing => value.into_iter().map(linear_easing).collect(),
        Order::Clip => value.into_iter().map(with_commas).collect(),
        // Size Adjust 1 § 2: no adjustment is one to the same size.
        Order::TextSizeAdjust => match &value[..] {
            [only] if only.is("none") => vec![Component::Percentage(100.0)],
            _ => value,
        },
        // Text 4 § 9.2: no space is the normal one.
        Order::LetterSpacing => match &value[..] {
            [Component::Dimension(length, unit)] if *length == 0.0 && **unit == PX => {
                vec![Component::keyword("normal")]
            }
            _ => value,
        },
        Order::Images => value.into_iter().map(gradient).collect(),
        Order::Positions => each(&value, position),
        Order::Offsets => each(&value, offset),
        Order::Origin => origin(&value),
        Order::BackgroundSize => each(&value, background_size),
        // Compatibility § 3.2.1: an older name.
        Order::Size => renamed(value, &[("-webkit-fill-available", "stretch")]),
        Order::Translate => translate(value),
        Order::PositionArea => position_area(value),
    }
}

/// The items of a list, told apart by commas.
fn items(list: &[Component]) -> impl Iterator<Item = &[Component]> {
    let all = list.split(|part| *part == Component::Comma);
    all.filter(|item| !item.is_empty())
}

/// A list with something done to each item.
fn each(list: &[Component], change: impl Fn(&[Component]) -> Vec<Component>) -> Vec<Component> {
    joined(items(list).map(change))
}

/// Items with commas between them.
fn joined(items: impl Iterator<Item = Vec<Component>>) -> Vec<Component> {
    let mut all = Vec::new();
    for item in items {
        if !all.is_empty() {
            all.push(Component::Comma);
        }
        all.extend(item);
    }
    all
}

fn sorted_by(mut value: Vec<Component>, rank: impl Fn(&Component) -> usize) -> Vec<Component> {
    value.sort_by_key(rank);
    value
}

/// Overflow 3 § 3.1 and Writing Modes 4 § 3.2.1: old names of keywords.
fn renamed(value: Vec<Component>, names: &[(&str, &'static str)]) -> Vec<Component> {
    let rename = |part: Component| match names.iter().find(|(old, _)| part.is(old)) {
        Some((_, name)) => Component::keyword(name),
        None => part,
    };
    value.into_iter().map(rename).collect()
}

fn is_length(part: &Component) -> bool {
    matches!(part, Component::Dimension(..) | Component::Math(_))
}

/// Whether a part is a place along a line, and no color.
fn is_place(part: &Component) -> bool {
    is_length(part) || matches!(part, Component::Number(_) | Component::Percentage(_))
}

/// SVG 2 § 13.5: a number is so many px.
fn in_pixels(part: Component) -> Component {
    match part {
        Component::Number(number) => Component::pixels(number),
        other => other,
    }
}

/// CSSOM writes a shadow's color first and `inset` last, and all of its lengths.
fn shadow_in_order(shadow: &[Component], most: usize) -> Vec<Component> {
    let color = shadow.iter().find(|p| !p.is("inset") && !is_length(p));
    let color = color.cloned().unwrap_or(Component::Color(Color::Current));
    let mut lengths: Vec<Component> = shadow.iter().filter(|p| is_length(p)).cloned().collect();
    lengths.resize(most.max(lengths.len()), Component::pixels(0.0));
    let inset = shadow.iter().filter(|p| p.is("inset")).cloned();
    std::iter::once(color).chain(lengths).chain(inset).collect()
}

/// A filter function as engines write it: percentages as numbers, a shadow's color first.
fn filter_function(function: Component) -> Component {
    let Component::Function(name, arguments) = function else {
        return function;
    };
    let arguments = match (name.as_str(), &arguments[..]) {
        ("drop-shadow", shadow) => shadow_in_order(shadow, 3),
        (
            "brightness" | "contrast" | "grayscale" | "invert" | "opacity" | "saturate" | "sepia",
            [Component::Percentage(share)],
        ) => vec![Component::Number(share / 100.0)],
        _ => arguments,
    };
    Component::Function(name, arguments)
}

/// Adjust 1 § 2.1: `only` stands last.
fn color_scheme(mut value: Vec<Component>) -> Vec<Component> {
    if value.first().is_some_and(|first| first.is("only")) {
        value.rotate_left(1);
    }
    value
}

/// Lists 3 § 4: names, each with the number after it.
fn with_integers(value: Vec<Component>, usual: i32) -> Vec<Component> {
    let mut all = Vec::new();
    let mut parts = value.into_iter().peekable();
    while let Some(part) = parts.next() {
        let is_number =
            |part: &Component| matches!(part, Component::Number(_) | Component::Math(_));
        let name = !is_number(&part);
        all.push(part);
        if name && !parts.peek().is_some_and(is_number) {
            all.push(Component::Number(f64::from(usual)));
        }
    }
    all
}

/// CSSOM leaves the usual style of a counter out.
fn without_decimal(part: Component) -> Component {
    match part {
        Component::Function(name, mut arguments) => {
            if let [.., Component::Comma, last] = &arguments[..]
                && last.is("decimal")
            {
                arguments.truncate(arguments.len() - 2);
            }
            Component::Function(name, arguments)
        }
        other => other,
    }
}

/// Fonts 4 § 6.12: sorted by tag, each once, and a lone 1 left out.
fn font_settings(value: Vec<Component>, features: bool) -> Vec<Component> {
    let is_setting = |item: &[Component]| matches!(item, [Component::Text(_), ..]);
    if !items(&value).all(is_setting) {
        return value;
    }
    let mut settings: Vec<(String, Vec<Component>)> = Vec::new();
    for setting in items(&value) {
        let [Component::Text(tag), ..] = setting else {
            continue;
        };
        let written = match setting {
            [tag, Component::Number(1.0)] if features => vec![tag.clone()],
            [tag, on] if features && on.is("on") => vec![tag.clone()],
            [tag, off] if off.is("off") => vec![tag.clone(), Component::Number(0.0)],
            _ => setting.to_vec(),
        };
        settings.retain(|(other, _)| **other != **tag);
        settings.push((tag.to_string(), written));
    }
    settings.sort_by(|(a, _), (b, _)| a.cmp(b));
    joined(settings.into_iter().map(|(_, setting)| setting))
}

/// Grid 2 § 7.3: cells are told apart by one space.
fn folded_cells(part: Component) -> Component {
    match part {
        Component::Text(row) => {
            let cells: Vec<&str> = row.split_ascii_whitespace().collect();
            Component::Text(cells.join(" ").into())
        }
        other => other,
    }
}

/// Sizing 4 § 5.1: a ratio has two sides.
fn aspect_ratio(mut value: Vec<Component>) -> Vec<Component> {
    let slash = Component::Mark(SmolStr::new_static("/"));
    if matches!(value.last(), Some(Component::Number(_))) && !value.contains(&slash) {
        value.extend([slash, Component::Number(1.0)]);
    }
    value
}

/// SVG 2 § 13.5.6: lengths with commas between them.
fn dashes(value: Vec<Component>) -> Vec<Component> {
    let lengths = value.into_iter().filter(|part| *part != Component::Comma);
    joined(lengths.map(|length| vec![in_pixels(length)]))
}

/// Transforms 2 § 5: an axis of the coordinate system has a name.
fn rotate(value: Vec<Component>) -> Vec<Component> {
    use Component::Number;
    let axis = match &value[..] {
        [Number(1.0), Number(0.0), Number(0.0), _] => "x",
        [Number(0.0), Number(1.0), Number(0.0), _] => "y",
        [Number(0.0), Number(0.0), Number(1.0), angle] => return vec![angle.clone()],
        [z, angle] if z.is("z") => return vec![angle.clone()],
        _ => return value,
    };
    let angle = value.into_iter().skip(3);
    std::iter::once(Component::keyword(axis))
        .chain(angle)
        .collect()
}

/// Transforms 2 § 5: what is not moved along the last axes is left out.
fn translate(mut value: Vec<Component>) -> Vec<Component> {
    let is_zero = |part: &Component| matches!(part, Component::Dimension(length, unit) if *length == 0.0 && **unit == PX);
    while value.len() > 1 && value.last().is_some_and(is_zero) {
        value.pop();
    }
    value
}

/// Anchor Positioning 1 § 3.1.3: the horizontal or block axis first, logical words without their axis, and a second word
/// only where it says more.
fn position_area(value: Vec<Component>) -> Vec<Component> {
    let [a, b] = &value[..] else {
        return match &value[..] {
            [only] => vec![bare_area(only)],
            _ => value,
        };
    };
    let is_second = |part: &Component| {
        let word = part.word().unwrap_or_default();
        ["top", "bottom", "y-", "inline-"]
            .iter()
            .any(|axis| word.contains(axis))
    };
    let names_axis = |part: &Component| {
        let word = part.word().unwrap_or_default();
        let axes = [
            "left", "right", "top", "bottom", "x-", "y-", "inline-", "block-",
        ];
        axes.iter().any(|axis| word.contains(axis))
    };
    let is_first = |part: &Component| names_axis(part) && !is_second(part);
    let (first, second) = match is_second(a) || is_first(b) {
        true => (b, a),
        false => (a, b),
    };
    // A word that names its axis spans the other one by itself.
    if first.is("span-all") && names_axis(second) {
        return vec![second.clone()];
    }
    if second.is("span-all") && names_axis(first) {
        return vec![first.clone()];
    }
    let (first, second) = (bare_area(first), bare_area(second));
    match first == second {
        true => vec![first],
        false => vec![first, second],
    }
}

/// A word for a part of an area without its logical axis.
fn bare_area(part: &Component) -> Component {
    let bare = part
        .word()
        .map(|word| word.replace("inline-", "").replace("block-", ""));
    match bare {
        Some(bare) if part.word() != Some(&*bare) => Component::Word(bare.into()),
        _ => part.clone(),
    }
}

/// Transforms 2 § 5: a percentage is a number, and two alike are one.
fn scale(value: Vec<Component>) -> Vec<Component> {
    let numbers = value.into_iter().map(|part| match part {
        Component::Percentage(share) => Component::Number(share / 100.0),
        other => other,
    });
    let mut numbers: Vec<Component> = numbers.collect();
    if let [a, b] = &numbers[..]
        && a.to_string() == b.to_string()
    {
        numbers.truncate(1);
    }
    numbers
}

/// CSS 2 § 11.1.2: user agents take the parts without commas too, and CSSOM writes them with.
fn with_commas(part: Component) -> Component {
    match part {
        Component::Function(name, parts)
            if name == "rect" && !parts.contains(&Component::Comma) =>
        {
            Component::Function(name, joined(parts.into_iter().map(|part| vec![part])))
        }
        other => other,
    }
}

/// Easing 2 § 2.2: `linear()` with the place of every point.
fn linear_easing(function: Component) -> Component {
    let stops = match function {
        Component::Function(name, stops) if name == "linear" => stops,
        other => return other,
    };
    let mut points: Vec<(Component, Option<f64>)> = Vec::new();
    for stop in items(&stops) {
        let output = stop.iter().find(|p| !matches!(p, Component::Percentage(_)));
        let output = output.cloned().unwrap_or(Component::Number(0.0));
        let places: Vec<f64> = stop
            .iter()
            .filter_map(|part| match part {
                Component::Percentage(place) => Some(*place),
                _ => None,
            })
            .collect();
        match places[..] {
            [] => points.push((output, None)),
            _ => points.extend(places.iter().map(|place| (output.clone(), Some(*place)))),
        }
    }
    place_between(&mut points);
    let written = points
        .into_iter()
        .map(|(output, place)| vec![output, Component::Percentage(place.unwrap_or(0.0))]);
    Component::Function(SmolStr::new_static("linear"), joined(written))
}

/// Gives the points without a place one, evenly between those that have one.
fn place_between(points: &mut [(Component, Option<f64>)]) {
    if let Some(first) = points.first_mut() {
        first.1.get_or_insert(0.0);
    }
    if let Some(last) = points.last_mut() {
        last.1.get_or_insert(100.0);
    }
    let mut before = 0.0;
    let mut rest = points;
    while !rest.is_empty() {
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
        let done = (open + 1).min(rest.len());
        rest = rest.split_at_mut(done).1;
    }
}

/// Images 3 § 3.6: a corner is named sideways first, and a stop with two places is two stops.
fn gradient(image: Component) -> Component {
    let (name, inside) = match image {
        Component::Function(name, inside) if name.ends_with("gradient") => (name, inside),
        other => return other,
    };
    let written = match name.strip_prefix("-webkit-") {
        Some(old) => old_gradient(old, &inside),
        None => new_gradient(&name, &inside),
    };
    Component::Function(name, written)
}

fn new_gradient(name: &str, inside: &[Component]) -> Vec<Component> {
    let mut parts: Vec<Vec<Component>> = Vec::new();
    for (at, part) in items(inside).enumerate() {
        if at == 0
            && let Some(told) = without_defaults(name, part)
        {
            parts.extend(Some(told).filter(|told| !told.is_empty()));
            continue;
        }
        match part {
            [to, a, b] if to.is("to") && is_vertical(a) => {
                parts.push(vec![to.clone(), b.clone(), a.clone()]);
            }
            [color, a, b] if is_place(a) && is_place(b) && !is_place(color) => {
                parts.push(vec![color.clone(), a.clone()]);
                parts.push(vec![color.clone(), b.clone()]);
            }
            _ => parts.push(part.to_vec()),
        }
    }
    joined(parts.into_iter())
}

/// The first part of a gradient, where it is a direction, a shape or a place, without what goes without
/// saying (CSSOM § 6.7.2: the shortest form); none where there is nothing to leave out.
fn without_defaults(name: &str, words: &[Component]) -> Option<Vec<Component>> {
    if name.ends_with("linear-gradient") {
        let downwards = match words {
            [to, bottom] => to.is("to") && bottom.is("bottom"),
            [Component::Dimension(angle, unit)] => *angle == 180.0 && **unit == DEG,
            _ => false,
        };
        return downwards.then(Vec::new);
    }
    let at = words.iter().position(|word| word.is("at"));
    let (shape, place) = words.split_at(at.unwrap_or(words.len()));
    let is_centre = |part: &Component| part.is("center") || *part == Component::Percentage(50.0);
    let centred = matches!(place.len(), 2 | 3) && place.iter().skip(1).all(is_centre);
    let sized = shape.iter().any(|word| {
        matches!(word, Component::Dimension(_, unit) if **unit == PX)
            || matches!(word, Component::Percentage(_))
            || word.word().is_some_and(|word| word.ends_with("-side"))
    });
    let mut kept: Vec<Component> = Vec::new();
    let mut rest = shape;
    while let [word, after @ ..] = rest {
        rest = after;
        match word.word() {
            Some("farthest-corner") => {}
            // A shape with one size is a circle, with two an ellipse.
            Some("ellipse") if !sized => {}
            Some("from")
                if name.ends_with("conic-gradient")
                    && matches!(after, [Component::Dimension(0.0, unit), ..] if **unit == DEG) =>
            {
                rest = after.cut(1..);
            }
            _ => kept.push(word.clone()),
        }
    }
    if !centred {
        kept.extend(place.iter().cloned());
    }
    (kept.len() < words.len()).then_some(kept)
}

/// A gradient under its old name (Compat § 3.3): places are written as percentages.
fn old_gradient(name: &str, inside: &[Component]) -> Vec<Component> {
    let radial = name.ends_with("radial-gradient");
    let mut parts: Vec<Vec<Component>> = Vec::new();
    for (at, part) in items(inside).enumerate() {
        let places: Option<Vec<Component>> = part
            .iter()
            .map(|word| side(word).or_else(|| is_place(word).then(|| word.clone())))
            .collect();
        parts.push(match (places, part) {
            (Some(places), _) if name == "gradient" => places,
            (Some(mut places), _) if radial && at == 0 => {
                places.resize(2, Component::Percentage(50.0));
                places
            }
            (None, [Component::Function(stop, arguments)]) if name == "gradient" => {
                vec![Component::Function(
                    stop.clone(),
                    share_as_number(arguments),
                )]
            }
            (None, part) if radial && at == 0 => {
                let mut shape = vec![Component::keyword("center"), Component::Comma];
                shape.extend(part.iter().cloned());
                shape
            }
            _ => part.to_vec(),
        });
    }
    joined(parts.into_iter())
}

/// The place of a `color-stop()` as a number.
fn share_as_number(arguments: &[Component]) -> Vec<Component> {
    let mut written = arguments.to_vec();
    if let Some(first) = written.first_mut()
        && let Component::Percentage(share) = *first
    {
        *first = Component::Number(share / 100.0);
    }
    written
}

fn is_vertical(part: &Component) -> bool {
    part.is("top") || part.is("bottom")
}

fn is_horizontal(part: &Component) -> bool {
    part.is("left") || part.is("right")
}

/// Transforms 1 § 4: the keywords of sides are percentages.
fn side(part: &Component) -> Option<Component> {
    Some(Component::Percentage(match part.word()? {
        "left" | "top" => 0.0,
        "center" => 50.0,
        "right" | "bottom" => 100.0,
        _ => return None,
    }))
}

fn percentage(part: &Component) -> Component {
    side(part).unwrap_or_else(|| part.clone())
}

/// Backgrounds 3 § 3.6: a position as offsets from the left and the top edge.
fn position(parts: &[Component]) -> Vec<Component> {
    if parts.len() < 3 {
        return origin(parts);
    }
    // With three or four parts, an offset counts from the side before it.
    let mut sides: Vec<&[Component]> = parts
        .chunk_by(|side, offset| is_side(side) && !is_side(offset) && !side.is("center"))
        .collect();
    let begins = |at: usize, is: fn(&Component) -> bool| {
        sides.get(at).and_then(|side| side.first()).is_some_and(is)
    };
    if begins(0, is_vertical) || begins(1, is_horizontal) {
        sides.reverse();
    }
    sides.into_iter().flat_map(offset).collect()
}

/// The offset from the start of one axis.
fn offset(side: &[Component]) -> Vec<Component> {
    match side {
        [side, offset] if side.is("left") || side.is("top") => vec![offset.clone()],
        [side, offset] if side.is("right") || side.is("bottom") => {
            vec![offset.rest_of_whole().unwrap_or_else(|| offset.clone())]
        }
        _ => side.iter().map(percentage).collect(),
    }
}

fn is_side(part: &Component) -> bool {
    side(part).is_some()
}

/// Transforms 1 § 4: the horizontal part first, then the vertical one, then what lies in depth.
fn origin(parts: &[Component]) -> Vec<Component> {
    let centre = Component::Percentage(50.0);
    match parts {
        [one] if is_vertical(one) => vec![centre, percentage(one)],
        [one] => vec![percentage(one), centre],
        [a, b, depth @ ..] if is_vertical(a) || is_horizontal(b) => {
            let sideways = [b, a].into_iter().chain(depth);
            sideways.map(percentage).collect()
        }
        _ => parts.iter().map(percentage).collect(),
    }
}

/// Backgrounds 3 § 3.9: one size is the width, and the height is auto.
fn background_size(layer: &[Component]) -> Vec<Component> {
    match layer {
        [one] if !["auto", "cover", "contain"].iter().any(|word| one.is(word)) => {
            vec![one.clone(), Component::keyword("auto")]
        }
        _ => layer.to_vec(),
    }
}

/// Display 3 § 2.8: the shortest way to write it.
fn display(value: Vec<Component>) -> Vec<Component> {
    let has = |word: &str| value.iter().any(|part| part.is(word));
    if value.len() < 2 && !has("flow") {
        return value;
    }
    let inside = ["flow-root", "flex", "grid", "table", "ruby", "math"];
    let inside = inside.into_iter().find(|word| has(word)).unwrap_or("flow");
    let outside = match (has("inline"), has("run-in"), has("block")) {
        (true, ..) => "inline",
        (_, true, _) => "run-in",
        (.., true) => "block",
        // Ruby and math are inline unless they say otherwise.
        _ if matches!(inside, "ruby" | "math") => "inline",
        _ => "block",
    };
    if has("list-item") {
        let outside = (outside != "block").then_some(outside);
        let inside = (inside != "flow").then_some(inside);
        let words = outside.into_iter().chain(inside).chain(["list-item"]);
        return words.map(Component::keyword).collect();
    }
    let words = match (outside, inside) {
        (outside, "flow") => vec![outside],
        ("inline", "flow-root") => vec!["inline-block"],
        ("inline", "flex") => vec!["inline-flex"],
        ("inline", "grid") => vec!["inline-grid"],
        ("inline", "table") => vec!["inline-table"],
        ("inline", inside) => vec![inside],
        ("block", inside) if !matches!(inside, "ruby" | "math") => vec![inside],
        (outside, inside) => vec![outside, inside],
    };
    words.into_iter().map(Component::keyword).collect()
}
