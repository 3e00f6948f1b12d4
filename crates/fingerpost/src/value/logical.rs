//! Logical properties: CSS Logical 1 § 4 and CSS Writing Modes 4 § 6.4.
//!
//! A logical property and the physical one that it stands for under the element's writing mode are
//! one and the same in the cascade. Which side is which is read off the names; the table says which
//! properties belong together (their logical property group).

use std::sync::OnceLock;

use super::facts::PropertyId;

/// An element's writing mode and direction.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub struct WritingMode {
    /// Whether lines are vertical.
    pub vertical: bool,
    /// Whether the block axis runs towards the left or the top (`vertical-rl`, `sideways-rl`).
    pub block_reversed: bool,
    /// Whether the inline axis runs towards the left or the top.
    pub inline_reversed: bool,
}

impl WritingMode {
    /// From the computed values of `writing-mode` and `direction`.
    pub fn new(writing_mode: &str, direction: &str) -> Self {
        let rtl = direction == "rtl";
        match writing_mode {
            "vertical-rl" | "sideways-rl" => WritingMode {
                vertical: true,
                block_reversed: true,
                inline_reversed: rtl,
            },
            "vertical-lr" => WritingMode {
                vertical: true,
                block_reversed: false,
                inline_reversed: rtl,
            },
            "sideways-lr" => WritingMode {
                vertical: true,
                block_reversed: false,
                inline_reversed: !rtl,
            },
            _ => WritingMode {
                vertical: false,
                block_reversed: false,
                inline_reversed: rtl,
            },
        }
    }

    fn index(self) -> usize {
        usize::from(self.vertical)
            | usize::from(self.block_reversed) << 1
            | usize::from(self.inline_reversed) << 2
    }

    /// The physical side of a flow-relative one.
    fn side(self, block: bool, start: bool) -> &'static str {
        let (horizontal, reversed) = if block {
            (self.vertical, self.block_reversed)
        } else {
            (!self.vertical, self.inline_reversed)
        };
        match (horizontal, start != reversed) {
            (true, true) => "left",
            (true, false) => "right",
            (false, true) => "top",
            (false, false) => "bottom",
        }
    }
}

const SIDES: [(&str, bool, bool); 4] = [
    ("block-start", true, true),
    ("block-end", true, false),
    ("inline-start", false, true),
    ("inline-end", false, false),
];

/// One answer for each property that has one, by its number.
type Table<T> = OnceLock<Box<[Option<T>]>>;

fn table<T: Clone>(answers: impl Iterator<Item = (PropertyId, T)>) -> Box<[Option<T>]> {
    let count = PropertyId::all().last().map_or(0, |last| last.index() + 1);
    let mut table = vec![None; count];
    for (property, answer) in answers {
        if let Some(slot) = table.get_mut(property.index()) {
            *slot = Some(answer);
        }
    }
    table.into()
}

fn answer<T: Copy>(table: &[Option<T>], property: PropertyId) -> Option<T> {
    table.get(property.index()).copied().flatten()
}

/// Whether a property is a logical one, which stands for another.
pub fn is_logical(property: PropertyId) -> bool {
    physical(property, WritingMode::default()) != property
}

/// The physical property that a logical one stands for; any other gives itself.
#[expect(clippy::indexing_slicing, reason = "there are eight modes")]
pub fn physical(property: PropertyId, mode: WritingMode) -> PropertyId {
    static TABLES: [Table<PropertyId>; 8] = [const { OnceLock::new() }; 8];
    let known = TABLES[mode.index()].get_or_init(|| {
        let grouped = PropertyId::all().filter(|p| !p.facts().logical_group.is_empty());
        table(grouped.filter_map(|p| {
            let name = physical_name(p.name(), mode)?;
            Some((p, PropertyId::named(&name)?))
        }))
    });
    answer(known, property).unwrap_or(property)
}

fn physical_name(name: &str, mode: WritingMode) -> Option<String> {
    // `inset-block-start` stands for `top`, not for `inset-top`.
    if let Some(rest) = name.strip_prefix("inset-") {
        let (_, block, start) = SIDES.iter().find(|(side, ..)| *side == rest)?;
        return Some(mode.side(*block, *start).to_owned());
    }
    // Corners: `border-start-end-radius` is block-start and inline-end.
    for block_start in [true, false] {
        for inline_start in [true, false] {
            let word = |start| if start { "start" } else { "end" };
            let corner = format!("-{}-{}-", word(block_start), word(inline_start));
            if name.contains(&corner) {
                let block = mode.side(true, block_start);
                let inline = mode.side(false, inline_start);
                let vertical_first = matches!(block, "top" | "bottom");
                let (first, second) = if vertical_first {
                    (block, inline)
                } else {
                    (inline, block)
                };
                return Some(name.replace(&corner, &format!("-{first}-{second}-")));
            }
        }
    }
    for (side, block, start) in SIDES {
        if name.contains(side) {
            return Some(name.replace(side, mode.side(block, start)));
        }
    }
    // Sizes and axes.
    let inline_is_width = !mode.vertical;
    if let Some(prefix) = name.strip_suffix("inline-size") {
        return Some(format!(
            "{prefix}{}",
            if inline_is_width { "width" } else { "height" }
        ));
    }
    if let Some(prefix) = name.strip_suffix("block-size") {
        return Some(format!(
            "{prefix}{}",
            if inline_is_width { "height" } else { "width" }
        ));
    }
    if let Some(prefix) = name.strip_suffix("-inline") {
        return Some(format!(
            "{prefix}-{}",
            if inline_is_width { "x" } else { "y" }
        ));
    }
    if let Some(prefix) = name.strip_suffix("-block") {
        return Some(format!(
            "{prefix}-{}",
            if inline_is_width { "y" } else { "x" }
        ));
    }
    // `contain-intrinsic-width` and the physical sides themselves.
    None
}

/// The logical property that stands for a physical one under a writing mode, if there is one.
#[expect(clippy::indexing_slicing, reason = "there are eight modes")]
pub fn logical(property: PropertyId, mode: WritingMode) -> Option<PropertyId> {
    static TABLES: [Table<PropertyId>; 8] = [const { OnceLock::new() }; 8];
    let known = TABLES[mode.index()].get_or_init(|| {
        let logical = PropertyId::all().filter(|p| is_logical(*p));
        table(logical.map(|p| (physical(p, mode), p)))
    });
    answer(known, property)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[track_caller]
    fn stands_for(logical: &str, writing_mode: &str, direction: &str, wanted: &str) {
        let property = PropertyId::named(logical).unwrap();
        let mode = WritingMode::new(writing_mode, direction);
        assert_eq!(physical(property, mode).name(), wanted);
        let back = super::logical(PropertyId::named(wanted).unwrap(), mode).unwrap();
        assert_eq!(back.name(), logical);
    }

    #[test]
    fn sides_corners_and_sizes() {
        stands_for("margin-block-start", "horizontal-tb", "ltr", "margin-top");
        stands_for(
            "margin-inline-start",
            "horizontal-tb",
            "rtl",
            "margin-right",
        );
        stands_for("padding-block-start", "vertical-rl", "ltr", "padding-right");
        stands_for("inset-inline-end", "vertical-lr", "ltr", "bottom");
        stands_for(
            "border-inline-start-color",
            "sideways-lr",
            "ltr",
            "border-bottom-color",
        );
        stands_for("inline-size", "vertical-rl", "ltr", "height");
        stands_for("min-block-size", "horizontal-tb", "ltr", "min-height");
        stands_for(
            "border-start-end-radius",
            "horizontal-tb",
            "ltr",
            "border-top-right-radius",
        );
        stands_for(
            "border-start-end-radius",
            "vertical-rl",
            "ltr",
            "border-bottom-right-radius",
        );
        stands_for("overflow-inline", "horizontal-tb", "ltr", "overflow-x");
    }
}
