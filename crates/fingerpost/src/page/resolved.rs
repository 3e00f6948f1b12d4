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

    fn resolved_by_name(&self, target: &Target, name: &str) -> String {
        self.resolved(target, &known(name))
    }

    fn with_color(&self, target: &Target, property: PropertyId, computed: &str) -> String {
        if property.name() == "color" || !computed.contains("currentcolor") {
            return computed.to_owned();
        }
        let color = self.resolved_by_name(target, "color");
        let replaced = computed.replace("currentcolor", &color);
        // What was mixed from it, or made relative to it, can be worked out now.
        if replaced.contains("color-mix(") || replaced.contains("(from ") {
            return self.as_if(target, property, &replaced);
        }
        replaced
    }

    fn adjusted(&self, target: &Target, property: PropertyId, computed: &str) -> Option<String> {
        let name = property.name();
        match name {
            // CSSOM § 9: the used value.
            // UI 4 § 6.1: auto follows a parent that can't be selected, or only whole.
            "user-select" if computed == "auto" => {
                let above = self.resolved(&self.parent(target)?, &PropertyName::Known(property));
                matches!(above.as_str(), "none" | "all").then_some(above)
            }
            // Text 4 § 6.1: the parent's value, with its start and end made left and right.
            "text-align" if matches!(computed, "match-parent" | "-webkit-match-parent") => {
                let Some(parent) = self.parent(target) else {
                    return Some("start".to_owned());
                };
                let above = self.resolved_by_name(&parent, "text-align");
                let rtl = self.resolved_by_name(&parent, "direction") == "rtl";
                Some(match (above.as_str(), rtl) {
                    ("start", false) | ("end", true) => "left".to_owned(),
                    ("start", true) | ("end", false) => "right".to_owned(),
                    _ => above,
                })
            }
            "line-height" => {
                let times: f64 = computed.parse().ok()?;
                let size = self.value(target, &known("font-size"));
                let size = pixels(&size.computed).unwrap_or(MEDIUM_FONT_SIZE);
                Some(format!("{}px", number(times * size)))
            }
            "font-size" => Some(format!("{}px", number(pixels(computed)?))),
            "caret-color" | "outline-color" if computed == "auto" => {
                Some(self.resolved_by_name(target, "color"))
            }
            // Backgrounds 3 § 3.3: no line, no width.
            _ if name.starts_with("border-")
                && name.ends_with("-width")
                && !name.contains("image") =>
            {
                let side = name.strip_suffix("width")?;
                let style = self.resolved_by_name(target, &format!("{side}style"));
                matches!(style.as_str(), "none" | "hidden").then(|| "0px".to_owned())
            }
            // Sizing 4 § 4.2: what may be skipped remembers its size.
            "contain-intrinsic-width" | "contain-intrinsic-height"
                if !computed.starts_with("auto")
                    && computed != "none"
                    && self.resolved_by_name(target, "content-visibility") == "auto" =>
            {
                Some(format!("auto {computed}"))
            }
            "display" => self.display(target, computed),
            // CSS 2 § 9.7: what is positioned does not float.
            "float" if self.is_out_of_flow(target) => Some("none".to_owned()),
            // HTML § 15.5.20: a text area scrolls.
            "overflow-x" | "overflow-y" if computed == "visible" && self.is_text_area(target) => {
                Some("auto".to_owned())
            }
            // Engines draw these controls without the edges that a page gives them.
            _ if name.starts_with("border-")
                && name.ends_with("-radius")
                && self.is_drawn_whole(target) =>
            {
                let element = self.page.document().expect_element(target.element);
                let round = element
                    .attribute("type")
                    .is_some_and(|t| t.eq_ignore_ascii_case("radio"));
                Some(if round { "50%" } else { "0px" }.to_owned())
            }
            _ if self.is_drawn_whole(target) && (name.starts_with("padding-") || is_edge(name)) => {
                Some(match name.rsplit('-').next() {
                    Some("style") => "none".to_owned(),
                    Some("color") => self.resolved_by_name(target, "color"),
                    _ => "0px".to_owned(),
                })
            }
            // Overflow 3 § 3.1.
            "overflow-x" | "overflow-y" => {
                let other = if name == "overflow-x" {
                    "overflow-y"
                } else {
                    "overflow-x"
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
            "min-width" | "min-height" if computed == "auto" => {
                (!self.is_item(target)).then(|| "0px".to_owned())
            }
            // Align 3 § 6.2: a lone `legacy` that inherits none is `normal`.
            "justify-items" if computed == "legacy" => Some("normal".to_owned()),
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
            && self.value(target, &known("appearance")).computed != "none"
    }

    fn is_out_of_flow(&self, target: &Target) -> bool {
        let position = self.value(target, &known("position"));
        matches!(position.computed.as_str(), "absolute" | "fixed")
    }

    /// Whether the parent lays its children out as flex or grid items.
    fn is_item(&self, target: &Target) -> bool {
        let mut above = self.parent(target);
        while let Some(parent) = above {
            let display = self.value(&parent, &known("display"));
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
            && self.resolved_by_name(target, "writing-mode")
                != self.resolved_by_name(&parent, "writing-mode")
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
        self.resolved_by_name(target, "-webkit-line-clamp") != "none"
            && self.resolved_by_name(target, "-webkit-box-orient") == "vertical"
    }

    fn is_blockified(&self, target: &Target) -> bool {
        let floats = self.value(target, &known("float")).computed != "none";
        let root = target.pseudo.is_none() && self.parent(target).is_none();
        root || floats || self.is_out_of_flow(target) || self.is_item(target)
    }
}

/// A line of a border: its width, style or color.
fn is_edge(name: &str) -> bool {
    let ends = ["-width", "-style", "-color"];
    name.starts_with("border-")
        && !name.contains("image")
        && ends.iter().any(|end| name.ends_with(end))
}
