//! Resolved values: what CSSOM § 9 shows of a computed value, and the fix-ups that depend on other
//! properties of the element.

use crate::markup::Namespace;
use crate::page::style::styles::Styles;
use crate::page::target::{PropertyName, Target, known};
use crate::value::PropertyId;
use crate::value::behavior::{Behavior, Resolved};
use crate::value::color::{self, Color};
use crate::value::typed::{Component, Computed};

impl Styles<'_> {
    /// A property's value as CSSOM gives it: the computed value with `currentcolor` and the like
    /// replaced, and adjusted to the other properties of the element. What only layout can know
    /// stays as computed.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>p { line-height: 2 }</style><p>Boats"));
    /// let p = page.ask().find_one("p")?;
    /// let (styles, property) = (page.styles(), "line-height".parse()?);
    /// assert_eq!(styles.value(&p, &property).computed.text(), "2");
    /// assert_eq!(styles.resolved(&p, &property).text(), "32px");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn resolved(&self, target: &Target, property: &PropertyName) -> Computed {
        let property = self.physical(target, property);
        let value = self.value(target, &property);
        let PropertyName::Known(id) = property else {
            return value.computed.clone();
        };
        self.adjusted(target, id, &value.computed)
            .unwrap_or_else(|| self.with_color(target, id, &value.computed))
    }

    fn resolved_of(&self, target: &Target, property: PropertyId) -> Computed {
        self.resolved(target, &known(property))
    }

    fn computed_of(&self, target: &Target, property: PropertyId) -> Computed {
        self.value(target, &known(property)).computed.clone()
    }

    /// A value with `currentcolor` replaced by the element's color.
    fn with_color(&self, target: &Target, property: PropertyId, computed: &Computed) -> Computed {
        if property == PropertyId::COLOR || !computed.components().iter().any(names_color) {
            return computed.clone();
        }
        let color = self.resolved_of(target, PropertyId::COLOR);
        let components = computed.components().iter();
        Computed::new(components.map(|c| colored(c, &color)).collect())
    }

    fn adjusted(
        &self,
        target: &Target,
        property: PropertyId,
        computed: &Computed,
    ) -> Option<Computed> {
        let keyword = |word| Some(Computed::keyword(word));
        let nothing = || Some(Computed::new(vec![Component::pixels(0.0)]));
        match Behavior::of(property).resolved {
            Resolved::AsComputed => None,
            // Backgrounds 3 § 3.3: no line, no width.
            Resolved::BorderWidth(style) => {
                let style = self.resolved_of(target, style);
                let none = style.is("none") || style.is("hidden");
                (none || self.is_drawn_whole(target)).then(nothing)?
            }
            // Engines draw these controls without the edges that a page gives them.
            Resolved::BorderStyle if self.is_drawn_whole(target) => keyword("none"),
            Resolved::BorderColor if self.is_drawn_whole(target) => {
                Some(self.resolved_of(target, PropertyId::COLOR))
            }
            Resolved::Padding if self.is_drawn_whole(target) => nothing(),
            Resolved::Radius if self.is_drawn_whole(target) => {
                let element = self.page.document().element(target.element);
                let kind = element.attribute("type");
                let round = kind.is_some_and(|kind| kind.eq_ignore_ascii_case("radio"));
                let radius = match round {
                    true => Component::Percentage(50.0),
                    false => Component::pixels(0.0),
                };
                Some(Computed::new(vec![radius]))
            }
            Resolved::BorderStyle
            | Resolved::BorderColor
            | Resolved::Padding
            | Resolved::Radius => None,
            // UI 4 § 6.1: auto follows a parent that can't be selected, or only whole.
            Resolved::UserSelect => {
                let parent = self.parent(target).filter(|_| computed.is("auto"))?;
                let above = self.resolved_of(&parent, property);
                (above.is("none") || above.is("all")).then_some(above)
            }
            Resolved::TextAlign => self.text_align(target, computed),
            // CSSOM § 9: the used value.
            Resolved::LineHeight => {
                let pixels = computed.number()? * self.font_size_in_px(target);
                Some(Computed::new(vec![Component::pixels(pixels)]))
            }
            Resolved::FontSize => None,
            Resolved::AutoColor if computed.is("auto") => {
                Some(self.resolved_of(target, PropertyId::COLOR))
            }
            Resolved::AutoColor => None,
            // Sizing 4 § 4.2: what may be skipped remembers its size.
            Resolved::ContainIntrinsicSize => {
                let visibility = self.resolved_of(target, PropertyId::CONTENT_VISIBILITY);
                let remembers =
                    visibility.is("auto") && !computed.has("auto") && !computed.is("none");
                let size = computed.components().iter().cloned();
                let auto = std::iter::once(Component::keyword("auto"));
                remembers.then(|| Computed::new(auto.chain(size).collect()))
            }
            Resolved::Display => self.display(target, computed.text()),
            // CSS 2 § 9.7: what is positioned does not float.
            Resolved::Float if self.is_out_of_flow(target) => keyword("none"),
            Resolved::Float => None,
            // HTML § 15.5.20: a text area scrolls.
            Resolved::Overflow(_) if computed.is("visible") && self.is_text_area(target) => {
                keyword("auto")
            }
            // Overflow 3 § 3.1.
            Resolved::Overflow(other) => {
                let other = self.computed_of(target, other);
                let scrolls = !other.is("visible") && !other.is("clip");
                match computed.word() {
                    Some("visible") if scrolls => keyword("auto"),
                    Some("clip") if scrolls => keyword("hidden"),
                    _ => None,
                }
            }
            // Sizing 3 § 3.2.2: `auto` is zero except for flex and grid items.
            Resolved::MinimumSize => {
                (computed.is("auto") && !self.is_item(target)).then(nothing)?
            }
            // Align 3 § 6.2: a lone `legacy` that inherits none is `normal`.
            Resolved::JustifyItems => computed.is("legacy").then(|| Computed::keyword("normal")),
        }
    }

    /// Text 4 § 6.1: the parent's value, with its start and end made left and right.
    fn text_align(&self, target: &Target, computed: &Computed) -> Option<Computed> {
        if !computed.is("match-parent") && !computed.is("-webkit-match-parent") {
            return None;
        }
        let Some(parent) = self.parent(target) else {
            return Some(Computed::keyword("start"));
        };
        let above = self.resolved_of(&parent, PropertyId::TEXT_ALIGN);
        let rtl = self.resolved_of(&parent, PropertyId::DIRECTION).is("rtl");
        Some(match (above.word(), rtl) {
            (Some("start"), false) | (Some("end"), true) => Computed::keyword("left"),
            (Some("start"), true) | (Some("end"), false) => Computed::keyword("right"),
            _ => above,
        })
    }

    fn is_text_area(&self, target: &Target) -> bool {
        let element = self.page.document().element(target.element);
        element.is_html("textarea") && target.pseudo.is_none()
    }

    /// Whether a target is a check box or a radio button that the engine draws.
    fn is_drawn_whole(&self, target: &Target) -> bool {
        let element = self.page.document().element(target.element);
        let kind = element.attribute("type").unwrap_or("");
        element.is_html("input")
            && target.pseudo.is_none()
            && ["checkbox", "radio"]
                .iter()
                .any(|k| kind.eq_ignore_ascii_case(k))
            && !self.computed_of(target, PropertyId::APPEARANCE).is("none")
    }

    fn is_out_of_flow(&self, target: &Target) -> bool {
        let position = self.computed_of(target, PropertyId::POSITION);
        position.is("absolute") || position.is("fixed")
    }

    /// Whether the parent lays its children out as flex or grid items.
    fn is_item(&self, target: &Target) -> bool {
        let mut above = self.parent(target);
        while let Some(parent) = above {
            match self.computed_of(&parent, PropertyId::DISPLAY).word() {
                Some("contents") => above = self.parent(&parent),
                Some("flex" | "inline-flex" | "grid" | "inline-grid") => return true,
                _ => return false,
            }
        }
        false
    }

    /// Display 3 § 2.7: automatic box type transformations.
    fn display(&self, target: &Target, computed: &str) -> Option<Computed> {
        let element = self.page.document().element(target.element);
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
        let plain = || {
            let words = computed.split(' ').map(|word| Component::Word(word.into()));
            Some(Computed::new(words.collect()))
        };
        // Writing Modes 4 § 3.1: text of another direction than its parent's is a block inside.
        if computed == "inline"
            && let Some(parent) = self.parent(target)
            && self.resolved_of(target, PropertyId::WRITING_MODE)
                != self.resolved_of(&parent, PropertyId::WRITING_MODE)
            && !self.is_blockified(target)
        {
            return Some(Computed::keyword("inline-block"));
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
        Some(Computed::keyword(block))
    }

    fn is_cut_off(&self, target: &Target) -> bool {
        !self
            .resolved_of(target, PropertyId::WEBKIT_LINE_CLAMP)
            .is("none")
            && self
                .resolved_of(target, PropertyId::WEBKIT_BOX_ORIENT)
                .is("vertical")
    }

    fn is_blockified(&self, target: &Target) -> bool {
        let floats = !self.computed_of(target, PropertyId::FLOAT).is("none");
        let root = target.pseudo.is_none() && self.parent(target).is_none();
        root || floats || self.is_out_of_flow(target) || self.is_item(target)
    }
}

/// Whether a part of a value is the element's color, or made of it.
fn names_color(component: &Component) -> bool {
    match component {
        Component::Color(Color::Current) => true,
        Component::Color(Color::AsWritten(text)) | Component::Written(text) => {
            text.contains("currentcolor")
        }
        Component::Function(_, inside) | Component::SquareBlock(inside) => {
            inside.iter().any(names_color)
        }
        _ => false,
    }
}

/// A part of a value with `currentcolor` replaced by a color.
fn colored(component: &Component, color: &Computed) -> Component {
    let all = |inside: &[Component]| inside.iter().map(|c| colored(c, color)).collect();
    match component {
        Component::Color(Color::Current) => match color.components() {
            [only] => only.clone(),
            _ => component.clone(),
        },
        // What is mixed from it, or relative to it, can be worked out now.
        Component::Color(Color::AsWritten(text)) => {
            let text = text.replace("currentcolor", color.text());
            Component::Color(color::read(&text))
        }
        Component::Written(text) => {
            Component::Written(text.replace("currentcolor", color.text()).into())
        }
        Component::Function(name, inside) => Component::Function(name.clone(), all(inside)),
        Component::SquareBlock(inside) => Component::SquareBlock(all(inside)),
        other => other.clone(),
    }
}
