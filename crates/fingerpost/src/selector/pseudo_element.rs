//! Which elements have which pseudo-elements.

use super::PseudoElement;
use crate::markup::Element;

/// Parts of form controls that browsers have under names of their own, each with the elements that have it. A name stands for all
/// that begin with it.
const PARTS: [(&str, &[&str]); 17] = [
    ("-webkit-calendar-picker-indicator", &["input"]),
    ("-webkit-clear-button", &["input"]),
    ("-webkit-color-swatch", &["input"]),
    ("-webkit-date-and-time-value", &["input"]),
    ("-webkit-datetime-edit", &["input"]),
    ("-webkit-details-marker", &["summary"]),
    ("-webkit-file-upload-button", &["input"]),
    ("-webkit-inner-spin-button", &["input"]),
    ("-webkit-input-placeholder", &["input", "textarea"]),
    ("-webkit-media-", &["audio", "video"]),
    ("-webkit-meter-", &["meter"]),
    ("-webkit-outer-spin-button", &["input"]),
    ("-webkit-progress-", &["progress"]),
    ("-webkit-search-", &["input"]),
    ("-webkit-slider-", &["input"]),
    ("-webkit-textfield-decoration-container", &["input"]),
    ("cue", &["audio", "video"]),
];

impl PseudoElement {
    /// Whether an element can have it. The elements that have some of them are given (Pseudo-Elements 4 § 4.3, Forms 1 § 4); of all
    /// others nothing is ruled out.
    ///
    /// ```
    /// use fingerpost::markup::Document;
    /// use fingerpost::selector::{PseudoElement, SelectorList};
    /// use fingerpost::text::Text;
    ///
    /// let document = Document::parse(Text::new("a.html", "<h1>Boats</h1><input placeholder=Island>"));
    /// let list = SelectorList::parse("::placeholder")?;
    /// let placeholder = list.selectors[0].pseudo_element.as_ref().unwrap();
    /// let elements = document.elements().iter().map(|id| document.element(*id));
    /// let having: Vec<_> = elements.filter(|e| placeholder.can_be_of(e)).collect();
    /// assert!(having.len() == 1 && having[0].is_html("input"));
    /// # Ok::<(), fingerpost::selector::SelectorError>(())
    /// ```
    pub fn can_be_of(&self, element: &Element) -> bool {
        let PseudoElement::Other(name) = self else {
            return true;
        };
        let is_one_of = |names: &[&str]| names.iter().any(|name| element.is_html(name));
        let is_file = || {
            let kind = element.attribute("type").unwrap_or_default();
            element.is_html("input") && kind.eq_ignore_ascii_case("file")
        };
        let name = name.split([':', '(']).next().unwrap_or(name);
        match name {
            "placeholder" => is_one_of(&["input", "textarea"]),
            "file-selector-button" => is_file(),
            "details-content" => is_one_of(&["details"]),
            "picker" | "picker-icon" => is_one_of(&["select"]),
            _ => {
                let part = PARTS.iter().find(|(part, _)| name.starts_with(part));
                part.is_none_or(|(_, elements)| is_one_of(elements))
            }
        }
    }
}
