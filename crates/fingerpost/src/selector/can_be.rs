//! Which states an element can come into while its page is looked at, as far as its markup says.

use super::form::{self, Controls};
use super::{Action, FormState, State};
use crate::markup::{Document, Element, ElementId, Namespace};

/// Whether an element can come into a state: only a control is ever checked, only what takes the focus has it. What scripts
/// may do to its markup is left out.
pub(crate) fn can_be_in(
    document: &Document,
    id: ElementId,
    state: State,
    controls: &Controls,
) -> bool {
    let element = document.element(id);
    match state {
        State::Action(action) => match action {
            Action::Active | Action::Fullscreen | Action::Hover => true,
            Action::FocusWithin | Action::TargetWithin => true,
            Action::Focus | Action::FocusVisible => takes_focus(document, id),
            Action::Modal => element.is_html("dialog"),
            Action::PopoverOpen => element.attribute("popover").is_some(),
            Action::Target => {
                element.id().is_some()
                    || (element.is_html("a") && element.attribute("name").is_some())
            }
            Action::UserInvalid | Action::UserValid => {
                form::is_valid(document, id, controls).is_some()
            }
            Action::Visited => form::is_link(element),
        },
        State::Form(state) => match state {
            FormState::Autofill => form::can_be_optional(element),
            FormState::Checked => can_be_checked(element),
            FormState::Default => can_be_checked(element) || form::is_submit(element),
            FormState::Disabled | FormState::Enabled => form::can_be_disabled(element),
            FormState::InRange | FormState::OutOfRange => form::in_range(element).is_some(),
            FormState::Indeterminate => {
                element.is_html("progress") || form::is_input_of(element, &["checkbox", "radio"])
            }
            FormState::Invalid | FormState::Valid => {
                form::is_valid(document, id, controls).is_some()
            }
            FormState::Open => element.is_html("details") || element.is_html("dialog"),
            FormState::Optional | FormState::Required => form::can_be_optional(element),
            FormState::PlaceholderShown => element.attribute("placeholder").is_some(),
            FormState::ReadOnly | FormState::ReadWrite => {
                form::takes_text(element) || element.is_html("textarea")
            }
        },
    }
}

fn can_be_checked(element: &Element) -> bool {
    form::is_input_of(element, &["checkbox", "radio"]) || element.is_html("option")
}

/// HTML § 6.6.2: whether the focus can go to an element.
fn takes_focus(document: &Document, id: ElementId) -> bool {
    let element = document.element(id);
    let has = |name: &str| element.attribute(name).is_some();
    if form::is_link(element) || has("tabindex") {
        return true;
    }
    if element.namespace != Namespace::Html {
        return false;
    }
    match &*element.name {
        "button" | "input" | "select" | "textarea" => {
            !form::is_disabled(document, id) && !form::is_input_of(element, &["hidden"])
        }
        "summary" => document
            .parent_element(id)
            .is_some_and(|parent| document.element(parent).is_html("details")),
        "audio" | "video" => has("controls"),
        "iframe" => true,
        _ => element
            .attribute("contenteditable")
            .is_some_and(|value| !value.eq_ignore_ascii_case("false")),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::text::Text;

    fn those(html: &str, state: &str) -> Vec<String> {
        let document = Document::parse(Text::new("a.html", html));
        let controls = Controls::default();
        let state: State = state.parse().unwrap();
        let can = |id: &&ElementId| can_be_in(&document, **id, state, &controls);
        let body = document.elements().iter().skip(3);
        body.filter(can)
            .map(|id| document.element(*id).name.to_string())
            .collect()
    }

    #[test]
    fn a_state_is_of_the_elements_that_can_have_it() {
        let html = "<!doctype html><body><p>a<a href=/>b</a><a>c</a><input type=radio><input disabled>\
                    <details id=d><summary>e</summary></details><b tabindex=-1></b><input type=hidden>";
        assert_eq!(those(html, ":focus"), ["a", "input", "summary", "b"]);
        assert_eq!(those(html, ":visited"), ["a"]);
        assert_eq!(those(html, ":checked"), ["input"]);
        assert_eq!(those(html, ":open"), ["details"]);
        assert_eq!(those(html, ":target"), ["details"]);
        assert_eq!(those(html, ":hover").len(), 9);
    }
}
