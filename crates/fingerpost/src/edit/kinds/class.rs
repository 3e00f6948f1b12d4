//! `class`: classes are added to an element, and removed.

use serde::{Deserialize, Serialize};

use crate::edit::error::EditError;
use crate::edit::kinds::attribute::set_attribute;
use crate::edit::kinds::info::{About, Example, Holds, KindInfo, MARKUP, several};
use crate::edit::kinds::{Kind, SummaryContext};
use crate::edit::proposal::{At, Proposal};
use crate::page::Target;
use crate::text::Cut;

/// Classes are added and removed.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Class {
    /// `+name` and `-name`.
    pub changes: Vec<String>,
}

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "class",
    does: "Add classes to an element, or remove some",
    more: "",
    about: About::Element,
    destinations: MARKUP,
    fields: &[several(
        "changes",
        "+NAME to add a class, -NAME to remove one",
        Holds::ClassChange,
    )],
    example: Example {
        before: r#"<h2 class="today">Boats</h2>"#,
        element: "h2",
        change: r#"{"changes":["+wide","-today"]}"#,
        after: r#"<h2 class="wide">Boats</h2>"#,
    },
    demo: r#"{"page":"pages/home.html","element":"h2.today","change":{"class":{"changes":["+wide","-today"]}}}"#,
};

impl Kind for Class {
    fn info(&self) -> &'static KindInfo {
        &INFO
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let id = target.ok_or(EditError::NoElement)?.element;
        let mut parsed: Vec<(bool, &str)> = Vec::new();
        for change in &self.changes {
            let (adds, name) = match change.split_at_checked(1) {
                Some(("+", name)) => (true, name),
                Some(("-", name)) => (false, name),
                _ => (true, change.as_str()),
            };
            let name = name.trim_start_matches('.');
            if name.is_empty() || name.contains(char::is_whitespace) {
                return Err(EditError::InvalidClass {
                    class: change.clone(),
                });
            }
            parsed.push((adds, name));
        }
        let element = at.page().document().element(id);
        let written = element.attribute("class").unwrap_or("");
        let mut value = written.to_owned();
        for (adds, name) in parsed {
            value = match adds {
                true => with(value, name),
                false => without(&value, name),
            };
        }
        let present = element.attribute("class");
        let wanted = match value.trim().is_empty() && value != written {
            true => None,
            false if present.is_none() && value.is_empty() => None,
            false => Some(value.as_str()),
        };
        set_attribute(at.page(), id, "class", wanted)
    }

    fn summary(&self, told: &SummaryContext<'_>) -> String {
        format!(
            "class {} of {} on {}",
            self.changes.join(" "),
            told.who,
            told.on
        )
    }
}

/// A list of classes with one more, the others as they are written.
fn with(value: String, name: &str) -> String {
    if value.split_ascii_whitespace().any(|class| class == name) {
        return value;
    }
    let held = value.trim_end().len();
    match held {
        0 => name.to_owned(),
        held => format!("{} {name}{}", value.cut(..held), value.cut(held..)),
    }
}

/// A list of classes with one less, the others as they are written.
fn without(value: &str, name: &str) -> String {
    let mut out = String::new();
    let mut rest = value;
    let mut dropped_first = false;
    while !rest.is_empty() {
        let blank = rest.len() - rest.trim_start_matches(is_blank).len();
        let (gap, after) = rest.split_at(blank);
        let end = after.find(is_blank).unwrap_or(after.len());
        let (class, next) = after.split_at(end);
        rest = next;
        if class == name {
            // A class goes with the gap before it; the first with the one after it.
            dropped_first |= out.trim().is_empty();
            continue;
        }
        if !std::mem::take(&mut dropped_first) {
            out.push_str(gap);
        }
        out.push_str(class);
    }
    out
}

fn is_blank(c: char) -> bool {
    c.is_ascii_whitespace()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_other_classes_stay_as_they_are_written() {
        assert_eq!(without("a  b c", "b"), "a c");
        assert_eq!(without("a b", "a"), "b");
        assert_eq!(without("a", "a"), "");
        assert_eq!(without("a b a", "a"), "b");
        assert_eq!(without(" a\n b ", "c"), " a\n b ");
        assert_eq!(with("a\n b ".to_owned(), "c"), "a\n b c ");
        assert_eq!(with(String::new(), "c"), "c");
    }
}
