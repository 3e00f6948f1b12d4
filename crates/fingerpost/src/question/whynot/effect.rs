//! Whether a value that wins has any effect on its element: the standards' "applies to" lines,
//! asked of the computed values around it.

use crate::markup::{Element, Namespace, NodeId};
use crate::page::{PropertyName, Styles, Target};
use crate::selector::PseudoElement;
use crate::sheet::{AtRule, RuleKind};

/// Why a property has no effect on a target, in a sentence; `None` where it has, or where only
/// layout knows.
pub(super) fn no_effect(
    styles: &Styles<'_>,
    target: &Target,
    property: &PropertyName,
    value: &str,
) -> Option<String> {
    let PropertyName::Known(id) = property else {
        return None;
    };
    let around = Around { styles, target };
    let name = id.name();
    around
        .not_generated(name)
        .or_else(|| around.not_shown(name))
        .or_else(|| around.of_box(name))
        .or_else(|| around.of_layout(name))
        .or_else(|| around.of_others(name, value))
}

struct Around<'a, 'p> {
    styles: &'a Styles<'p>,
    target: &'a Target,
}

impl Around<'_, '_> {
    fn resolved(&self, target: &Target, name: &str) -> String {
        let property = PropertyName::parse(name).expect("the table has it");
        self.styles.resolved(target, &property)
    }

    fn own(&self, name: &str) -> String {
        self.resolved(self.target, name)
    }

    fn element(&self) -> &Element {
        self.styles
            .page()
            .document()
            .expect_element(self.target.element)
    }

    fn tag(&self) -> String {
        format!("<{}>", self.element().name)
    }

    fn parent_display(&self) -> String {
        let parent = self.styles.parent(self.target);
        parent.map_or_else(String::new, |p| self.resolved(&p, "display"))
    }

    fn is_inline(&self) -> bool {
        self.own("display") == "inline" && !self.is_replaced()
    }

    /// Elements whose content is another document's, or a control's.
    fn is_replaced(&self) -> bool {
        let element = self.element();
        let html = element.namespace == Namespace::Html;
        let replaced = matches!(
            &*element.name,
            "img"
                | "video"
                | "canvas"
                | "iframe"
                | "embed"
                | "object"
                | "audio"
                | "input"
                | "textarea"
                | "select"
                | "button"
                | "meter"
                | "progress"
        );
        (html && replaced && self.target.pseudo.is_none())
            || (element.namespace == Namespace::Svg && &*element.name == "svg")
    }

    /// Content 3 § 1.2: without content `::before` and `::after` have no box.
    fn not_generated(&self, name: &str) -> Option<String> {
        let pseudo = self.target.pseudo.as_ref();
        let pseudo =
            pseudo.filter(|p| matches!(p, PseudoElement::Before | PseudoElement::After))?;
        let content = self.own("content");
        (name != "content" && matches!(content.as_str(), "none" | "normal")).then(|| {
            format!(
                "{pseudo} has no box: its content is {content}. content: \"\" would give it one"
            )
        })
    }

    /// An element that is not shown, or whose ancestor is not.
    fn not_shown(&self, name: &str) -> Option<String> {
        if matches!(name, "display" | "content-visibility") {
            return None;
        }
        let page = self.styles.page();
        let document = page.document();
        let hidden = |id: &NodeId| self.resolved(&Target::from(*id), "display") == "none";
        let trail = document.flat_trail(self.target.element);
        let hidden = trail.into_iter().find(hidden)?;
        if hidden == self.target.element {
            return Some(format!("{} is not shown: its display is none", self.tag()));
        }
        let element = document.expect_element(hidden);
        let place = document.text().place(element.start_tag.start());
        Some(format!(
            "{} is not shown: display is none on <{}> around it, {place}",
            self.tag(),
            element.name
        ))
    }

    /// What inline boxes don't take.
    fn of_box(&self, name: &str) -> Option<String> {
        let sized = matches!(
            name,
            "width"
                | "height"
                | "min-width"
                | "max-width"
                | "min-height"
                | "max-height"
                | "inline-size"
                | "block-size"
                | "min-inline-size"
                | "max-inline-size"
                | "min-block-size"
                | "max-block-size"
                | "aspect-ratio"
        );
        let vertical = matches!(
            name,
            "margin-top" | "margin-bottom" | "margin-block-start" | "margin-block-end"
        );
        let of_blocks = matches!(
            name,
            "text-align"
                | "text-indent"
                | "overflow-x"
                | "overflow-y"
                | "text-overflow"
                | "column-count"
                | "column-width"
                | "text-align-last"
        );
        let moved = matches!(
            name,
            "transform" | "rotate" | "scale" | "translate" | "resize" | "contain"
        );
        if !(sized || vertical || of_blocks || moved) {
            return None;
        }
        if self.is_inline() {
            return Some(format!(
                "{name} has no effect on an inline box; the display of {} is inline. inline-block \
                 or block would take it",
                self.tag()
            ));
        }
        if name == "text-overflow" && self.own("overflow-x") == "visible" {
            return Some(
                "text-overflow has no effect while overflow is visible: nothing is cut off"
                    .to_owned(),
            );
        }
        None
    }

    /// What only some kinds of containers and their items take.
    fn of_layout(&self, name: &str) -> Option<String> {
        let display = self.own("display");
        let is = |display: &str, kind: &str| display.split(['-', ' ']).any(|part| part == kind);
        let (flex, grid) = (is(&display, "flex"), is(&display, "grid"));
        let columns = self.own("column-count") != "auto" || self.own("column-width") != "auto";
        let says = |wanted: &str| {
            Some(format!(
                "{name} has an effect only on {wanted}; the display of {} is {display}",
                self.tag()
            ))
        };
        match name {
            "row-gap" | "column-gap" if !(flex || grid || (columns && name == "column-gap")) => {
                return says("a flex, grid or multi-column container");
            }
            "justify-content" | "align-content"
                if !(flex || grid || columns || is(&display, "block")) =>
            {
                return says("a flex or grid container");
            }
            "justify-content" if !(flex || grid || columns) => {
                return says("a flex or grid container");
            }
            "align-items" | "justify-items" if !(flex || grid) => {
                return says("a flex or grid container");
            }
            "flex-direction" | "flex-wrap" if !flex => return says("a flex container"),
            _ if (name.starts_with("grid-template") || name.starts_with("grid-auto")) && !grid => {
                return says("a grid container");
            }
            "border-collapse" | "border-spacing" | "table-layout" if !is(&display, "table") => {
                return says("a table");
            }
            _ => {}
        }
        let parent = self.parent_display();
        let (in_flex, in_grid) = (is(&parent, "flex"), is(&parent, "grid"));
        let item = |wanted: &str, holds: bool| {
            (!holds).then(|| {
                format!(
                    "{name} has an effect only on {wanted}; the display of the parent is {parent}"
                )
            })
        };
        match name {
            "flex-grow" | "flex-shrink" | "flex-basis" => {
                item("an item of a flex container", in_flex)
            }
            "order" => item("an item of a flex or grid container", in_flex || in_grid),
            "align-self" => item("an item of a flex or grid container", in_flex || in_grid),
            _ if name.starts_with("grid-row") || name.starts_with("grid-column") => {
                item("an item of a grid container", in_grid)
            }
            "float" if in_flex || in_grid => Some(format!(
                "float has no effect on an item of a flex or grid container; the display of the \
                 parent is {parent}"
            )),
            "vertical-align"
                if !self.is_inline()
                    && !display.starts_with("inline")
                    && display != "table-cell" =>
            {
                Some(format!(
                    "vertical-align has an effect only on inline boxes and table cells; the display \
                     of {} is {display}",
                    self.tag()
                ))
            }
            "z-index" if self.own("position") == "static" && !in_flex && !in_grid => Some(
                "z-index has an effect only on a positioned element, or an item of a flex or grid \
                 container; its position is static"
                    .to_owned(),
            ),
            "top" | "right" | "bottom" | "left" | "inset-block-start" | "inset-block-end"
            | "inset-inline-start" | "inset-inline-end"
                if self.own("position") == "static" =>
            {
                Some(format!(
                    "{name} has an effect only on a positioned element; its position is static"
                ))
            }
            "float" if matches!(self.own("position").as_str(), "absolute" | "fixed") => {
                Some("float has no effect on an element that is positioned absolutely".to_owned())
            }
            _ => None,
        }
    }

    /// What needs another property, or something else of the page.
    fn of_others(&self, name: &str, value: &str) -> Option<String> {
        let side = name
            .strip_suffix("-width")
            .or(name.strip_suffix("-color"))
            .filter(|side| {
                (side.starts_with("border-") && !side.contains("image"))
                    || matches!(*side, "outline" | "column-rule")
            });
        if let Some(side) = side {
            let style = self.own(&format!("{side}-style"));
            if matches!(style.as_str(), "none" | "hidden") {
                return Some(format!(
                    "{name} has no effect while {side}-style is {style}: no line is drawn"
                ));
            }
        }
        match name {
            "object-fit" | "object-position" if !self.is_replaced() => Some(format!(
                "{name} has an effect only on an element such as <img> or <video>"
            )),
            "background-size"
            | "background-repeat"
            | "background-position-x"
            | "background-position-y"
            | "background-attachment"
            | "background-origin"
                if self.own("background-image") == "none" =>
            {
                Some(format!("{name} has no effect without a background-image"))
            }
            "content" if self.target.pseudo.is_none() && !value.contains("url(") => Some(
                "content has an effect only on pseudo-elements such as ::before, and as an image"
                    .to_owned(),
            ),
            "animation-name" => {
                let missing = value
                    .split(',')
                    .map(str::trim)
                    .find(|name| *name != "none" && !self.has_keyframes(name))?;
                Some(format!(
                    "no @keyframes rule of this page is called {missing}"
                ))
            }
            _ => None,
        }
    }

    fn has_keyframes(&self, wanted: &str) -> bool {
        let wanted = wanted.trim_matches(['"', '\'']);
        self.styles.page().sheets().iter().any(|page_sheet| {
            let sheet = page_sheet.styles.sheet();
            sheet.rules().any(|(_, rule)| {
                rule.kind == RuleKind::At(AtRule::Keyframes)
                    && sheet.prelude_source(rule).trim_matches(['"', '\'']) == wanted
            })
        })
    }
}
