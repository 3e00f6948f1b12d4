//! Whether a value that wins has any effect on its element: the standards' "applies to" lines,
//! asked of the computed values around it.

use crate::markup::{Element, ElementId, Namespace};
use crate::page::{PropertyName, Styles, Target};
use crate::selector::PseudoElement;

use crate::value::PropertyId as P;
use crate::value::typed::Computed;

/// Why a property has no effect on a target, in a sentence; `None` where it has, or where only
/// layout knows.
pub(super) fn no_effect(
    styles: &Styles<'_>,
    target: &Target,
    property: &PropertyName,
    value: &str,
) -> Option<String> {
    let PropertyName::Known(property) = *property else {
        return None;
    };
    let around = ElementContext { styles, target };
    around
        .not_generated(property)
        .or_else(|| around.not_shown(property))
        .or_else(|| around.of_box(property))
        .or_else(|| around.of_layout(property))
        .or_else(|| around.of_others(property, value))
}

struct ElementContext<'a, 'p> {
    styles: &'a Styles<'p>,
    target: &'a Target,
}

/// A box's kind, as far as it is asked: the words of its `display`, `inline-flex` being two.
struct Display(Computed);

impl Display {
    fn is(&self, kind: &str) -> bool {
        self.0.text().split(['-', ' ']).any(|part| part == kind)
    }
}

impl ElementContext<'_, '_> {
    fn resolved(&self, target: &Target, property: P) -> Computed {
        self.styles.resolved(target, &PropertyName::Known(property))
    }

    fn own(&self, property: P) -> Computed {
        self.resolved(self.target, property)
    }

    fn is_static(&self) -> bool {
        self.own(P::POSITION).is("static")
    }

    fn element(&self) -> &Element {
        self.styles.page().document().element(self.target.element)
    }

    fn tag(&self) -> String {
        format!("<{}>", self.element().name)
    }

    fn is_inline(&self) -> bool {
        self.own(P::DISPLAY).is("inline") && !self.is_replaced()
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
    fn not_generated(&self, property: P) -> Option<String> {
        let pseudo = self.target.pseudo.as_ref();
        let pseudo =
            pseudo.filter(|p| matches!(p, PseudoElement::Before | PseudoElement::After))?;
        let content = self.own(P::CONTENT);
        let has_no_box = content.is("none") || content.is("normal");
        (property != P::CONTENT && has_no_box).then(|| {
            format!(
                "{pseudo} has no box: its content is {content}. content: \"\" would give it one"
            )
        })
    }

    /// An element that is not shown, or whose ancestor is not.
    fn not_shown(&self, property: P) -> Option<String> {
        if matches!(property, P::DISPLAY | P::CONTENT_VISIBILITY) {
            return None;
        }
        let page = self.styles.page();
        let document = page.document();
        let hidden = |id: &ElementId| self.resolved(&Target::from(*id), P::DISPLAY).is("none");
        let trail = document.flat_trail(self.target.element);
        let hidden = trail.into_iter().find(hidden)?;
        if hidden == self.target.element {
            return Some(format!("{} is not shown: its display is none", self.tag()));
        }
        let element = document.element(hidden);
        let place = document.text().place(element.start_tag.start());
        Some(format!(
            "{} is not shown: display is none on <{}> around it, {place}",
            self.tag(),
            element.name
        ))
    }

    /// What inline boxes don't take.
    fn of_box(&self, property: P) -> Option<String> {
        let takes_no_inline_box = matches!(
            property,
            // Sizes.
            P::WIDTH
                | P::HEIGHT
                | P::MIN_WIDTH
                | P::MAX_WIDTH
                | P::MIN_HEIGHT
                | P::MAX_HEIGHT
                | P::INLINE_SIZE
                | P::BLOCK_SIZE
                | P::MIN_INLINE_SIZE
                | P::MAX_INLINE_SIZE
                | P::MIN_BLOCK_SIZE
                | P::MAX_BLOCK_SIZE
                | P::ASPECT_RATIO
                // Space above and below.
                | P::MARGIN_TOP
                | P::MARGIN_BOTTOM
                | P::MARGIN_BLOCK_START
                | P::MARGIN_BLOCK_END
                // What is about lines and columns inside.
                | P::TEXT_ALIGN
                | P::TEXT_ALIGN_LAST
                | P::TEXT_INDENT
                | P::TEXT_OVERFLOW
                | P::OVERFLOW_X
                | P::OVERFLOW_Y
                | P::COLUMN_COUNT
                | P::COLUMN_WIDTH
                // What moves or seals the box.
                | P::TRANSFORM
                | P::ROTATE
                | P::SCALE
                | P::TRANSLATE
                | P::RESIZE
                | P::CONTAIN
        );
        if takes_no_inline_box && self.is_inline() {
            return Some(format!(
                "{} has no effect on an inline box; the display of {} is inline. inline-block \
                 or block would take it",
                property.name(),
                self.tag()
            ));
        }
        if property == P::TEXT_OVERFLOW && self.own(P::OVERFLOW_X).is("visible") {
            return Some(
                "text-overflow has no effect while overflow is visible: nothing is clipped"
                    .to_owned(),
            );
        }
        None
    }

    /// What only some kinds of containers and their items take.
    fn of_layout(&self, property: P) -> Option<String> {
        self.of_container(property)
            .or_else(|| self.of_item(property))
    }

    fn of_container(&self, property: P) -> Option<String> {
        let display = Display(self.own(P::DISPLAY));
        let (flex, grid) = (display.is("flex"), display.is("grid"));
        let columns =
            !self.own(P::COLUMN_COUNT).is("auto") || !self.own(P::COLUMN_WIDTH).is("auto");
        let wanted = match property {
            P::ROW_GAP if !(flex || grid) => "a flex, grid or multi-column container",
            P::COLUMN_GAP if !(flex || grid || columns) => "a flex, grid or multi-column container",
            P::ALIGN_CONTENT if !(flex || grid || columns || display.is("block")) => {
                "a flex or grid container"
            }
            P::JUSTIFY_CONTENT if !(flex || grid || columns) => "a flex or grid container",
            P::ALIGN_ITEMS | P::JUSTIFY_ITEMS if !(flex || grid) => "a flex or grid container",
            P::FLEX_DIRECTION | P::FLEX_WRAP if !flex => "a flex container",
            P::GRID_TEMPLATE_AREAS
            | P::GRID_TEMPLATE_COLUMNS
            | P::GRID_TEMPLATE_ROWS
            | P::GRID_AUTO_COLUMNS
            | P::GRID_AUTO_FLOW
            | P::GRID_AUTO_ROWS
                if !grid =>
            {
                "a grid container"
            }
            P::BORDER_COLLAPSE | P::TABLE_LAYOUT | P::BORDER_SPACING if !display.is("table") => {
                "a table"
            }
            _ => return None,
        };
        Some(format!(
            "{} has an effect only on {wanted}; the display of {} is {}",
            property.name(),
            self.tag(),
            display.0
        ))
    }

    fn of_item(&self, property: P) -> Option<String> {
        let parent = self.styles.parent(self.target);
        let parent = parent.map(|parent| Display(self.resolved(&parent, P::DISPLAY)));
        let is_in = |kind: &str| parent.as_ref().is_some_and(|parent| parent.is(kind));
        let (in_flex, in_grid) = (is_in("flex"), is_in("grid"));
        let of_parent = || parent.as_ref().map_or("", |parent| parent.0.text());
        let name = property.name();
        let item = |wanted: &str, holds: bool| {
            (!holds).then(|| {
                format!(
                    "{name} has an effect only on {wanted}; the display of the parent is {}",
                    of_parent()
                )
            })
        };
        match property {
            P::FLEX_GROW | P::FLEX_SHRINK | P::FLEX_BASIS => {
                item("an item of a flex container", in_flex)
            }
            P::ORDER | P::ALIGN_SELF => {
                item("an item of a flex or grid container", in_flex || in_grid)
            }
            P::GRID_ROW_START | P::GRID_ROW_END | P::GRID_COLUMN_START | P::GRID_COLUMN_END => {
                item("an item of a grid container", in_grid)
            }
            P::FLOAT if in_flex || in_grid => Some(format!(
                "float has no effect on an item of a flex or grid container; the display of the \
                 parent is {}",
                of_parent()
            )),
            P::FLOAT => {
                let position = self.own(P::POSITION);
                let absolute = position.is("absolute") || position.is("fixed");
                absolute.then(|| {
                    "float has no effect on an element that is positioned absolutely".to_owned()
                })
            }
            P::VERTICAL_ALIGN => {
                let display = self.own(P::DISPLAY);
                let taken = self.is_inline()
                    || display.text().starts_with("inline")
                    || display.is("table-cell");
                (!taken).then(|| {
                    format!(
                        "vertical-align has an effect only on inline boxes and table cells; the \
                         display of {} is {display}",
                        self.tag()
                    )
                })
            }
            P::Z_INDEX if !in_flex && !in_grid && self.is_static() => Some(
                "z-index has an effect only on a positioned element, or an item of a flex or grid \
                 container; its position is static"
                    .to_owned(),
            ),
            P::TOP
            | P::RIGHT
            | P::BOTTOM
            | P::LEFT
            | P::INSET_BLOCK_START
            | P::INSET_BLOCK_END
            | P::INSET_INLINE_START
            | P::INSET_INLINE_END
                if self.is_static() =>
            {
                Some(format!(
                    "{name} has an effect only on a positioned element; its position is static"
                ))
            }
            _ => None,
        }
    }

    /// What needs another property, or something else of the page.
    fn of_others(&self, property: P, value: &str) -> Option<String> {
        let name = property.name();
        if let Some(style) = style_of_line(property) {
            let value = self.own(style);
            if value.is("none") || value.is("hidden") {
                return Some(format!(
                    "{name} has no effect while {} is {value}: no line is drawn",
                    style.name()
                ));
            }
        }
        match property {
            P::OBJECT_FIT | P::OBJECT_POSITION if !self.is_replaced() => Some(format!(
                "{name} has an effect only on an element such as <img> or <video>"
            )),
            P::BACKGROUND_SIZE
            | P::BACKGROUND_REPEAT
            | P::BACKGROUND_POSITION_X
            | P::BACKGROUND_POSITION_Y
            | P::BACKGROUND_ATTACHMENT
            | P::BACKGROUND_ORIGIN
                if self.own(P::BACKGROUND_IMAGE).is("none") =>
            {
                Some(format!("{name} has no effect without a background-image"))
            }
            P::CONTENT if self.target.pseudo.is_none() && !value.contains("url(") => Some(
                "content has an effect only on pseudo-elements such as ::before, and as an image"
                    .to_owned(),
            ),
            P::ANIMATION_NAME => {
                let mut names = value.split(',').map(str::trim);
                let missing = names
                    .find(|name| *name != "none" && self.styles.page().keyframes(name).is_none())?;
                Some(format!(
                    "no @keyframes rule of this page is called {missing}"
                ))
            }
            _ => None,
        }
    }
}

/// The style of the line whose width or color a property is.
fn style_of_line(property: P) -> Option<P> {
    Some(match property {
        P::BORDER_TOP_WIDTH | P::BORDER_TOP_COLOR => P::BORDER_TOP_STYLE,
        P::BORDER_RIGHT_WIDTH | P::BORDER_RIGHT_COLOR => P::BORDER_RIGHT_STYLE,
        P::BORDER_BOTTOM_WIDTH | P::BORDER_BOTTOM_COLOR => P::BORDER_BOTTOM_STYLE,
        P::BORDER_LEFT_WIDTH | P::BORDER_LEFT_COLOR => P::BORDER_LEFT_STYLE,
        P::BORDER_BLOCK_START_WIDTH | P::BORDER_BLOCK_START_COLOR => P::BORDER_BLOCK_START_STYLE,
        P::BORDER_BLOCK_END_WIDTH | P::BORDER_BLOCK_END_COLOR => P::BORDER_BLOCK_END_STYLE,
        P::BORDER_INLINE_START_WIDTH | P::BORDER_INLINE_START_COLOR => P::BORDER_INLINE_START_STYLE,
        P::BORDER_INLINE_END_WIDTH | P::BORDER_INLINE_END_COLOR => P::BORDER_INLINE_END_STYLE,
        P::OUTLINE_WIDTH | P::OUTLINE_COLOR => P::OUTLINE_STYLE,
        P::COLUMN_RULE_WIDTH | P::COLUMN_RULE_COLOR => P::COLUMN_RULE_STYLE,
        _ => return None,
    })
}
