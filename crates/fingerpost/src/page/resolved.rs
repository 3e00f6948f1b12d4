//! Resolved values: what CSSOM § 9 shows of a computed value, and the fix-ups that depend on other
//! properties of the element.

use super::styles::{PropertyName, Styles, Target, known};
use super::values::pixels;
use crate::markup::Namespace;
use crate::value::PropertyId;
use crate::value::computed::{MEDIUM_FONT_SIZE, number};

impl Styles<'_> {
    /// A property's value as CSSOM gives it: the computed value with `currentcolor` and the like
    /// replaced, and adjusted to the other properties of the element. What only layout can know
    /// stays as computed.
    pub fn resolved(&self, target: &Target, property: &PropertyName) -> String {
        let property = self.physical(target, property);
        let value = self.value(target, &property);
        let PropertyName::Known(id) = property else {
            return value.computed.clone();
        };
        let computed = value.computed.as_str();
        self.adjusted(target, id, computed)
            .unwrap_or_else(|| self.with_color(target, id, computed))
    }

    fn resolved_of(&self, target: &Target, property: PropertyId) -> String {
        self.resolved(target, &known(property))
    }

    fn with_color(&self, target: &Target, property: PropertyId, computed: &str) -> String {
        if property == PropertyId::COLOR || !computed.contains("currentcolor") {
            return computed.to_owned();
        }
        let color = self.resolved_of(target, PropertyId::COLOR);
        let replaced = computed.replace("currentcolor", &color);
        // What was mixed from it, or made relative to it, can be worked out now.
        if replaced.contains("color-mix(") || replaced.contains("(from ") {
            return self.as_if(target, property, &replaced);
        }
        replaced
    }

    fn adjusted(&self, target: &Target, property: PropertyId, computed: &str) -> Option<String> {
        // Backgrounds 3 § 3.3: no line, no width.
        if let Some(style) = style_of_line(property)
            && matches!(self.resolved_of(target, style).as_str(), "none" | "hidden")
        {
            return Some("0px".to_owned());
        }
        // Engines draw these controls without the edges that a page gives them.
        if let Some(edge) = edge(property)
            && self.is_drawn_whole(target)
        {
            return Some(match edge {
                Edge::Style => "none".to_owned(),
                Edge::Color => self.resolved_of(target, PropertyId::COLOR),
                Edge::Length => "0px".to_owned(),
            });
        }
        match property {
            // CSSOM § 9: the used value.
            // UI 4 § 6.1: auto follows a parent that can't be selected, or only whole.
            PropertyId::USER_SELECT if computed == "auto" => {
                let above = self.resolved(&self.parent(target)?, &PropertyName::Known(property));
                matches!(above.as_str(), "none" | "all").then_some(above)
            }
            // Text 4 § 6.1: the parent's value, with its start and end made left and right.
            PropertyId::TEXT_ALIGN
                if matches!(computed, "match-parent" | "-webkit-match-parent") =>
            {
                let Some(parent) = self.parent(target) else {
                    return Some("start".to_owned());
                };
                let above = self.resolved_of(&parent, PropertyId::TEXT_ALIGN);
                let rtl = self.resolved_of(&parent, PropertyId::DIRECTION) == "rtl";
                Some(match (above.as_str(), rtl) {
                    ("start", false) | ("end", true) => "left".to_owned(),
                    ("start", true) | ("end", false) => "right".to_owned(),
                    _ => above,
                })
            }
            PropertyId::LINE_HEIGHT => {
                let times: f64 = computed.parse().ok()?;
                let size = self.value(target, &known(PropertyId::FONT_SIZE));
                let size = pixels(&size.computed).unwrap_or(MEDIUM_FONT_SIZE);
                Some(format!("{}px", number(times * size)))
            }
            PropertyId::FONT_SIZE => Some(format!("{}px", number(pixels(computed)?))),
            PropertyId::CARET_COLOR | PropertyId::OUTLINE_COLOR if computed == "auto" => {
                Some(self.resolved_of(target, PropertyId::COLOR))
            }
            // Sizing 4 § 4.2: what may be skipped remembers its size.
            PropertyId::CONTAIN_INTRINSIC_WIDTH | PropertyId::CONTAIN_INTRINSIC_HEIGHT
                if !computed.starts_with("auto")
                    && computed != "none"
                    && self.resolved_of(target, PropertyId::CONTENT_VISIBILITY) == "auto" =>
            {
                Some(format!("auto {computed}"))
            }
            PropertyId::DISPLAY => self.display(target, computed),
            // CSS 2 § 9.7: what is positioned does not float.
            PropertyId::FLOAT if self.is_out_of_flow(target) => Some("none".to_owned()),
            // HTML § 15.5.20: a text area scrolls.
            PropertyId::OVERFLOW_X | PropertyId::OVERFLOW_Y
                if computed == "visible" && self.is_text_area(target) =>
            {
                Some("auto".to_owned())
            }
            // Engines draw these controls without the edges that a page gives them.
            PropertyId::BORDER_TOP_LEFT_RADIUS
            | PropertyId::BORDER_TOP_RIGHT_RADIUS
            | PropertyId::BORDER_BOTTOM_LEFT_RADIUS
            | PropertyId::BORDER_BOTTOM_RIGHT_RADIUS
                if self.is_drawn_whole(target) =>
            {
                let element = self.page.document().expect_element(target.element);
                let round = element
                    .attribute("type")
                    .is_some_and(|t| t.eq_ignore_ascii_case("radio"));
                Some(if round { "50%" } else { "0px" }.to_owned())
            }
            // Overflow 3 § 3.1.
            PropertyId::OVERFLOW_X | PropertyId::OVERFLOW_Y => {
                let other = if property == PropertyId::OVERFLOW_X {
                    PropertyId::OVERFLOW_Y
                } else {
                    PropertyId::OVERFLOW_X
                };
                let other = self.value(target, &known(other));
                let scrolls = !matches!(other.computed.as_str(), "visible" | "clip");
                match computed {
                    "visible" if scrolls => Some("auto".to_owned()),
                    "clip" if scrolls => Some("hidden".to_owned()),
                    _ => None,
                }
            }
            // Sizing 3 § 3.2.2: `auto` is zero except for flex and grid items.
            PropertyId::MIN_WIDTH | PropertyId::MIN_HEIGHT if computed == "auto" => {
                (!self.is_item(target)).then(|| "0px".to_owned())
            }
            // Align 3 § 6.2: a lone `legacy` that inherits none is `normal`.
            PropertyId::JUSTIFY_ITEMS if computed == "legacy" => Some("normal".to_owned()),
            _ => None,
        }
    }

    fn is_text_area(&self, target: &Target) -> bool {
        let element = self.page.document().expect_element(target.element);
        element.is_html("textarea") && target.pseudo.is_none()
    }

    /// Whether a target is a check box or a radio button that the engine draws.
    fn is_drawn_whole(&self, target: &Target) -> bool {
        let element = self.page.document().expect_element(target.element);
        let kind = element.attribute("type").unwrap_or("");
        element.is_html("input")
            && target.pseudo.is_none()
            && ["checkbox", "radio"]
                .iter()
                .any(|k| kind.eq_ignore_ascii_case(k))
            && self.value(target, &known(PropertyId::APPEARANCE)).computed != "none"
    }

    fn is_out_of_flow(&self, target: &Target) -> bool {
        let position = self.value(target, &known(PropertyId::POSITION));
        matches!(position.computed.as_str(), "absolute" | "fixed")
    }

    /// Whether the parent lays its children out as flex or grid items.
    fn is_item(&self, target: &Target) -> bool {
        let mut above = self.parent(target);
        while let Some(parent) = above {
            let display = self.value(&parent, &known(PropertyId::DISPLAY));
            match display.computed.as_str() {
                "contents" => above = self.parent(&parent),
                "flex" | "inline-flex" | "grid" | "inline-grid" => return true,
                _ => return false,
            }
        }
        false
    }

    /// Display 3 § 2.7: automatic box type transformations.
    fn display(&self, target: &Target, computed: &str) -> Option<String> {
        let element = self.page.document().expect_element(target.element);
        // MathML Core § 4.1: math is for MathML elements.
        let computed = match computed {
            "math" if element.namespace != Namespace::MathMl => "inline",
            "block math" if element.namespace != Namespace::MathMl => "block",
            other => other,
        };
        // Overflow 4 § 5.1: an old flexible box that is cut off after some lines is a block of text.
        let computed = match computed {
            "-webkit-box" | "-webkit-inline-box" if self.is_cut_off(target) => match computed {
                "-webkit-box" => "flow-root",
                _ => "inline-block",
            },
            other => other,
        };
        let plain = || Some(computed.to_owned());
        // Writing Modes 4 § 3.1: text of another direction than its parent's is a block inside.
        if computed == "inline"
            && let Some(parent) = self.parent(target)
            && self.resolved_of(target, PropertyId::WRITING_MODE)
                != self.resolved_of(&parent, PropertyId::WRITING_MODE)
            && !self.is_blockified(target)
        {
            return Some("inline-block".to_owned());
        }
        if !self.is_blockified(target) {
            return plain();
        }
        let root = target.pseudo.is_none() && self.parent(target).is_none();
        let block = match computed {
            "inline" | "inline-block" => "block",
            "inline-flex" => "flex",
            "inline-grid" => "grid",
            "inline-table" => "table",
            "table-row-group" | "table-column" | "table-column-group" | "table-header-group"
            | "table-footer-group" | "table-row" | "table-cell" | "table-caption" => "block",
            "ruby-text" | "ruby-base" => "block",
            "-webkit-inline-box" => "-webkit-box",
            "contents" if root => "block",
            _ => return plain(),
        };
        Some(block.to_owned())
    }

    fn is_cut_off(&self, target: &Target) -> bool {
        self.resolved_of(target, PropertyId::WEBKIT_LINE_CLAMP) != "none"
            && self.resolved_of(target, PropertyId::WEBKIT_BOX_ORIENT) == "vertical"
    }

    fn is_blockified(&self, target: &Target) -> bool {
        let floats = self.value(target, &known(PropertyId::FLOAT)).computed != "none";
        let root = target.pseudo.is_none() && self.parent(target).is_none();
        root || floats || self.is_out_of_flow(target) || self.is_item(target)
    }
}

/// The style of the border whose width a property is.
fn style_of_line(property: PropertyId) -> Option<PropertyId> {
    Some(match property {
        PropertyId::BORDER_TOP_WIDTH => PropertyId::BORDER_TOP_STYLE,
        PropertyId::BORDER_RIGHT_WIDTH => PropertyId::BORDER_RIGHT_STYLE,
        PropertyId::BORDER_BOTTOM_WIDTH => PropertyId::BORDER_BOTTOM_STYLE,
        PropertyId::BORDER_LEFT_WIDTH => PropertyId::BORDER_LEFT_STYLE,
        _ => return None,
    })
}

/// Which part of the edge of a box a property sets.
enum Edge {
    Style,
    Color,
    Length,
}

fn edge(property: PropertyId) -> Option<Edge> {
    Some(match property {
        PropertyId::BORDER_TOP_STYLE
        | PropertyId::BORDER_RIGHT_STYLE
        | PropertyId::BORDER_BOTTOM_STYLE
        | PropertyId::BORDER_LEFT_STYLE => Edge::Style,
        PropertyId::BORDER_TOP_COLOR
        | PropertyId::BORDER_RIGHT_COLOR
        | PropertyId::BORDER_BOTTOM_COLOR
        | PropertyId::BORDER_LEFT_COLOR => Edge::Color,
        PropertyId::BORDER_TOP_WIDTH
        | PropertyId::BORDER_RIGHT_WIDTH
        | PropertyId::BORDER_BOTTOM_WIDTH
        | PropertyId::BORDER_LEFT_WIDTH
        | PropertyId::PADDING_TOP
        | PropertyId::PADDING_RIGHT
        | PropertyId::PADDING_BOTTOM
        | PropertyId::PADDING_LEFT => Edge::Length,
        _ => return None,
    })
}
