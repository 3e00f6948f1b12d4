//! What the markup says of links, languages, directions and form controls: HTML § 4.16.3.

use std::cell::{OnceCell, RefCell};
use std::collections::{HashMap, HashSet};

use regex::Regex;

use super::FormState;
use crate::markup::{Document, Element, ElementId, Namespace, NodeKind};

/// How long a `pattern` may be to be read.
const LONGEST_PATTERN: usize = 1000;

pub(super) fn is_link(element: &Element) -> bool {
    match element.namespace {
        Namespace::Html => {
            matches!(&*element.name, "a" | "area") && element.attribute("href").is_some()
        }
        Namespace::Svg => {
            &*element.name == "a" && element.attributes.iter().any(|a| &*a.name == "href")
        }
        _ => false,
    }
}

/// HTML § 3.2.6.2: the language of an element.
pub(super) fn language(document: &Document, id: ElementId) -> Option<String> {
    let declared = document.ancestors_and_self(id).find_map(|at| {
        let element = document.element(at);
        let attribute = element.attributes.iter().find(|a| &*a.name == "lang")?;
        Some(attribute.value.to_ascii_lowercase())
    });
    declared
        .or_else(|| {
            document.elements().iter().find_map(|at| {
                let meta = document.element(*at);
                let pragma = meta.is_html("meta")
                    && meta
                        .attribute("http-equiv")
                        .is_some_and(|v| v.eq_ignore_ascii_case("content-language"));
                pragma.then(|| {
                    meta.attribute("content")
                        .unwrap_or("")
                        .trim()
                        .to_ascii_lowercase()
                })
            })
        })
        .filter(|language| !language.is_empty())
}

/// Selectors 4 § 7.2: extended filtering of RFC 4647 § 3.3.2. Both sides are in lower case.
pub(super) fn language_matches(range: &str, language: &str) -> bool {
    let mut wanted = range.split('-');
    let mut found = language.split('-');
    match (wanted.next(), found.next()) {
        (Some(""), _) | (None, _) | (_, None) => return false,
        (Some("*"), Some(_)) => {}
        (Some(first), Some(tag)) if first == tag => {}
        _ => return false,
    }
    let mut tag = found.next();
    for part in wanted {
        if part == "*" {
            continue;
        }
        loop {
            match tag {
                None => return false,
                Some(subtag) if subtag == part => break,
                // A singleton begins another part of the tag.
                Some(subtag) if subtag.len() == 1 => return false,
                Some(_) => tag = found.next(),
            }
        }
        tag = found.next();
    }
    true
}

/// HTML § 3.2.6.4: the directionality of an element; `dir=auto` looks at the first strong
/// character of the text.
pub(super) fn is_rtl(document: &Document, id: ElementId) -> bool {
    for at in document.ancestors_and_self(id) {
        let element = document.element(at);
        let dir = element.attribute("dir").map(str::to_ascii_lowercase);
        match dir.as_deref() {
            Some("rtl") => return true,
            Some("ltr") => return false,
            Some("auto") => return first_strong_is_rtl(document, at),
            _ if element.is_html("bdi") => return first_strong_is_rtl(document, at),
            _ => {}
        }
    }
    false
}

fn first_strong_is_rtl(document: &Document, id: ElementId) -> bool {
    document
        .descendants(id)
        .filter_map(|n| document.text_of(n))
        .flat_map(str::chars)
        .find_map(|character| match u32::from(character) {
            0x0590..=0x08FF
            | 0xFB1D..=0xFDFF
            | 0xFE70..=0xFEFF
            | 0x1_0800..=0x1_0FFF
            | 0x1_E800..=0x1_EFFF => Some(true),
            _ if character.is_alphabetic() => Some(false),
            _ => None,
        })
        .unwrap_or(false)
}

fn input_type(element: &Element) -> String {
    element
        .attribute("type")
        .unwrap_or("text")
        .to_ascii_lowercase()
}

pub(super) fn is_input_of(element: &Element, types: &[&str]) -> bool {
    element.is_html("input") && types.contains(&input_type(element).as_str())
}

pub(super) fn can_be_disabled(element: &Element) -> bool {
    element.namespace == Namespace::Html
        && matches!(
            &*element.name,
            "button" | "input" | "select" | "textarea" | "optgroup" | "option" | "fieldset"
        )
}

/// HTML § 4.10.19.5: disabled by itself, by its fieldset, or (an option) by its group.
pub(super) fn is_disabled(document: &Document, id: ElementId) -> bool {
    let element = document.element(id);
    if !can_be_disabled(element) {
        return false;
    }
    if element.attribute("disabled").is_some() {
        return true;
    }
    if element.is_html("option") {
        return document.parent_element(id).is_some_and(|p| {
            let parent = document.element(p);
            parent.is_html("optgroup") && parent.attribute("disabled").is_some()
        });
    }
    if element.is_html("optgroup") {
        return false;
    }
    let mut below = id;
    for at in document.ancestors_and_self(id).skip(1) {
        let ancestor = document.element(at);
        if ancestor.is_html("fieldset") && ancestor.attribute("disabled").is_some() {
            let legend = document
                .child_elements(at)
                .find(|c| document.element(*c).is_html("legend"));
            if legend != Some(below) {
                return true;
            }
        }
        below = at;
    }
    false
}

const TEXT_LIKE: [&str; 11] = [
    "text", "search", "url", "tel", "email", "password", "number", "date", "month", "week", "time",
];

pub(super) fn takes_text(element: &Element) -> bool {
    if !element.is_html("input") {
        return false;
    }
    let kind = input_type(element);
    let known_other = [
        "hidden", "checkbox", "radio", "file", "submit", "image", "reset", "button", "color",
        "range",
    ];
    !known_other.contains(&kind.as_str()) || TEXT_LIKE.contains(&kind.as_str())
}

fn is_read_write(document: &Document, id: ElementId) -> bool {
    let element = document.element(id);
    let control = takes_text(element) || element.is_html("textarea");
    if control {
        return element.attribute("readonly").is_none() && !is_disabled(document, id);
    }
    document
        .ancestors_and_self(id)
        .find_map(|at| {
            let value = document.element(at).attribute("contenteditable")?;
            Some(!value.eq_ignore_ascii_case("false"))
        })
        .unwrap_or(false)
}

fn can_be_required(element: &Element) -> bool {
    element.is_html("select")
        || element.is_html("textarea")
        || (element.is_html("input")
            && !is_input_of(
                element,
                &[
                    "hidden", "range", "color", "submit", "image", "reset", "button",
                ],
            ))
}

fn form_of(document: &Document, id: ElementId) -> Option<ElementId> {
    if let Some(form) = document.element(id).attribute("form") {
        return document.elements().iter().copied().find(|e| {
            let element = document.element(*e);
            element.is_html("form") && element.id() == Some(form)
        });
    }
    document
        .ancestors_and_self(id)
        .find(|a| document.element(*a).is_html("form"))
}

/// Whether a control is `:optional` or `:required`.
pub(super) fn can_be_optional(element: &Element) -> bool {
    element.is_html("input") || element.is_html("select") || element.is_html("textarea")
}

pub(super) fn is_submit(element: &Element) -> bool {
    is_input_of(element, &["submit", "image"])
        || (element.is_html("button")
            && !matches!(
                element
                    .attribute("type")
                    .map(str::to_ascii_lowercase)
                    .as_deref(),
                Some("button" | "reset")
            ))
}

/// The option that a drop-down select shows: the last one selected, or the first not disabled.
fn is_selected(document: &Document, id: ElementId) -> bool {
    let option = document.element(id);
    let select = document
        .ancestors_and_self(id)
        .skip(1)
        .find(|a| document.element(*a).is_html("select"));
    let Some(select) = select else {
        return option.attribute("selected").is_some();
    };
    let list = document.element(select);
    let rows = list
        .attribute("size")
        .and_then(|s| s.trim().parse::<u32>().ok());
    if list.attribute("multiple").is_some() || rows.is_some_and(|r| r > 1) {
        return option.attribute("selected").is_some();
    }
    let options = || {
        document
            .descendant_elements(select)
            .filter(|o| document.element(*o).is_html("option"))
    };
    let chosen = options()
        .filter(|o| document.element(*o).attribute("selected").is_some())
        .last()
        .or_else(|| options().find(|o| !is_disabled(document, *o)));
    chosen == Some(id)
}

fn value_of(document: &Document, id: ElementId) -> String {
    let element = document.element(id);
    if element.is_html("textarea") {
        return document
            .children(id)
            .filter_map(|c| document.text_of(c))
            .collect();
    }
    if element.is_html("select") {
        let chosen = document
            .descendant_elements(id)
            .find(|o| document.element(*o).is_html("option") && is_selected(document, *o));
        return chosen.map_or_else(String::new, |o| {
            let option = document.element(o);
            match option.attribute("value") {
                Some(value) => value.to_owned(),
                None => document.folded_text(o, usize::MAX),
            }
        });
    }
    element.attribute("value").unwrap_or("").to_owned()
}

fn number(element: &Element, name: &str) -> Option<f64> {
    element.attribute(name)?.trim().parse().ok()
}

/// Whether the value lies between `min` and `max`; `None` for a control without a range.
pub(super) fn in_range(element: &Element) -> Option<bool> {
    if is_input_of(element, &["number", "range"]) {
        let (min, max) = (number(element, "min"), number(element, "max"));
        if input_type(element) == "number" && min.is_none() && max.is_none() {
            return None;
        }
        if input_type(element) == "range" {
            return Some(true);
        }
        let Some(value) = number(element, "value") else {
            return Some(true);
        };
        return Some(min.is_none_or(|m| value >= m) && max.is_none_or(|m| value <= m));
    }
    if is_input_of(
        element,
        &["date", "month", "week", "time", "datetime-local"],
    ) {
        let (min, max) = (element.attribute("min"), element.attribute("max"));
        if min.is_none() && max.is_none() {
            return None;
        }
        // These formats order as their strings do.
        let value = element.attribute("value").unwrap_or("");
        let fits =
            value.is_empty() || (min.is_none_or(|m| value >= m) && max.is_none_or(|m| value <= m));
        return Some(fits);
    }
    None
}

/// Whether a control takes part in validation and, if so, whether its value is good. Lengths are not
/// looked at: they count only what a user typed.
pub(super) fn is_valid(document: &Document, id: ElementId, controls: &Controls) -> Option<bool> {
    if let Some(known) = controls.valid.borrow().get(&id) {
        return *known;
    }
    let valid = find_valid(document, id, controls);
    controls.valid.borrow_mut().insert(id, valid);
    valid
}

fn find_valid(document: &Document, id: ElementId, controls: &Controls) -> Option<bool> {
    let element = document.element(id);
    if element.is_html("form") || element.is_html("fieldset") {
        let all = document.descendant_elements(id).all(|d| {
            let inner = document.element(d);
            inner.is_html("fieldset") || is_valid(document, d, controls) != Some(false)
        });
        return Some(all);
    }
    let control = element.is_html("select")
        || element.is_html("textarea")
        || (element.is_html("button") && is_submit(element))
        || (element.is_html("input") && !is_input_of(element, &["hidden", "reset", "button"]));
    let barred = element.attribute("readonly").is_some() && !element.is_html("select");
    if !control || barred || is_disabled(document, id) {
        return None;
    }
    let missing = can_be_required(element) && element.attribute("required").is_some() && {
        if is_input_of(element, &["checkbox"]) {
            element.attribute("checked").is_none()
        } else if is_input_of(element, &["radio"]) {
            !controls.is_group_checked(document, id)
        } else {
            value_of(document, id).is_empty()
        }
    };
    if missing || in_range(element) == Some(false) {
        return Some(false);
    }
    let value = element.attribute("value").unwrap_or("");
    if !value.is_empty() && takes_text(element) && !matches_pattern(element, value) {
        return Some(false);
    }
    if !value.is_empty() && is_input_of(element, &["email"]) {
        let good = value.split_once('@').is_some_and(|(user, host)| {
            !user.is_empty() && !host.is_empty() && !value.contains(char::is_whitespace)
        });
        return Some(good);
    }
    if !value.is_empty() && is_input_of(element, &["url"]) {
        return Some(
            value
                .split_once(':')
                .is_some_and(|(scheme, _)| !scheme.is_empty()),
        );
    }
    Some(true)
}

/// HTML § 4.10.5.3.6. A pattern that only scripts can read (it looks around, or back) holds.
fn matches_pattern(element: &Element, value: &str) -> bool {
    let pattern = element
        .attribute("pattern")
        .filter(|p| p.len() <= LONGEST_PATTERN);
    let expression = pattern.and_then(|p| Regex::new(&format!("^(?:{p})$")).ok());
    expression.is_none_or(|expression| expression.is_match(value))
}

/// What was found out about the form controls of a document, which depends on each other.
#[derive(Debug, Default)]
pub(crate) struct Controls {
    /// The groups of radio buttons, by form and name, that have a checked one.
    checked_groups: OnceCell<HashSet<(Option<ElementId>, Box<str>)>>,
    /// The first submit button of each form.
    default_buttons: OnceCell<HashMap<ElementId, ElementId>>,
    /// The controls and forms that were asked whether they are valid.
    valid: RefCell<HashMap<ElementId, Option<bool>>>,
}

impl Controls {
    /// HTML § 4.10.5.1.16: whether a radio button or another of its group is checked.
    fn is_group_checked(&self, document: &Document, id: ElementId) -> bool {
        let element = document.element(id);
        if element.attribute("checked").is_some() {
            return true;
        }
        let Some(name) = element.attribute("name").filter(|name| !name.is_empty()) else {
            return false;
        };
        let groups = self.checked_groups.get_or_init(|| {
            let elements = document.elements().iter().copied();
            let checked = elements.filter_map(|id| {
                let element = document.element(id);
                let name = element.attribute("name").filter(|name| !name.is_empty())?;
                let counts =
                    is_input_of(element, &["radio"]) && element.attribute("checked").is_some();
                counts.then(|| (form_of(document, id), name.into()))
            });
            checked.collect()
        });
        groups.contains(&(form_of(document, id), name.into()))
    }

    /// HTML § 4.10.22.2: whether a submit button is the first of its form.
    fn is_default_button(&self, document: &Document, id: ElementId) -> bool {
        let buttons = self.default_buttons.get_or_init(|| {
            let mut first = HashMap::new();
            for id in document.elements().iter().copied() {
                if is_submit(document.element(id))
                    && let Some(form) = form_of(document, id)
                {
                    first.entry(form).or_insert(id);
                }
            }
            first
        });
        form_of(document, id).is_some_and(|form| buttons.get(&form) == Some(&id))
    }
}

/// Whether an element is in a state that its markup gives at the page's start.
pub(super) fn has_state(
    document: &Document,
    id: ElementId,
    state: FormState,
    controls: &Controls,
) -> bool {
    let element = document.element(id);
    match state {
        FormState::Autofill => false,
        FormState::Checked => {
            (is_input_of(element, &["checkbox", "radio"]) && element.attribute("checked").is_some())
                || (element.is_html("option") && is_selected(document, id))
        }
        FormState::Default => {
            (is_input_of(element, &["checkbox", "radio"]) && element.attribute("checked").is_some())
                || (element.is_html("option") && element.attribute("selected").is_some())
                || (is_submit(element) && controls.is_default_button(document, id))
        }
        FormState::Disabled => is_disabled(document, id),
        FormState::Enabled => can_be_disabled(element) && !is_disabled(document, id),
        FormState::InRange => in_range(element) == Some(true),
        FormState::OutOfRange => in_range(element) == Some(false),
        FormState::Indeterminate => {
            (element.is_html("progress") && element.attribute("value").is_none())
                || (is_input_of(element, &["radio"]) && !controls.is_group_checked(document, id))
        }
        FormState::Invalid => is_valid(document, id, controls) == Some(false),
        FormState::Valid => is_valid(document, id, controls) == Some(true),
        FormState::Open => {
            (element.is_html("details") || element.is_html("dialog"))
                && element.attribute("open").is_some()
        }
        FormState::Required => can_be_required(element) && element.attribute("required").is_some(),
        FormState::Optional => {
            can_be_optional(element)
                && !(can_be_required(element) && element.attribute("required").is_some())
        }
        FormState::PlaceholderShown => {
            let shows = element.is_html("textarea")
                || (is_input_of(
                    element,
                    &[
                        "text", "search", "url", "tel", "email", "password", "number",
                    ],
                ));
            let placeholder = element
                .attribute("placeholder")
                .is_some_and(|p| !p.is_empty());
            shows
                && placeholder
                && value_of(document, id).is_empty()
                && document
                    .children(id)
                    .all(|c| !matches!(document.node(c).kind, NodeKind::Element(_)))
        }
        FormState::ReadWrite => is_read_write(document, id),
        FormState::ReadOnly => !is_read_write(document, id),
    }
}
