//! Selectors for some elements, each with what it reaches.

use fingerpost::advice::Advice;
use fingerpost::question::classes::ClassesAnswer;
use fingerpost::question::selectors::SelectorsAnswer;

use super::{BAD, FAINT, HEAD, painted, place};
use crate::advised;

pub fn selectors(answer: &SelectorsAnswer) -> String {
    let mut text = match &answer.elements[..] {
        [one] => format!("{}  {}\n\n", painted(HEAD, one.label()), place(&one.place)),
        many => format!("{} elements of {}\n\n", many.len(), answer.page),
    };
    let width = answer
        .candidates
        .iter()
        .map(|c| c.selector.chars().count())
        .max();
    for candidate in &answer.candidates {
        let padding = width.unwrap_or(0) - candidate.selector.chars().count();
        let reach = match candidate.unwanted {
            0 => format!("{} here", candidate.reach),
            _ => format!(
                "{} here, {}",
                candidate.reach,
                painted(BAD, format!("{} unwanted", candidate.unwanted))
            ),
        };
        let site = if candidate.site_reach > candidate.reach {
            format!(
                ", {} on {} pages",
                candidate.site_reach, candidate.site_pages
            )
        } else {
            String::new()
        };
        let hashed = if candidate.hashed {
            "  (a made-up name: it may change)"
        } else {
            ""
        };
        text.push_str(&format!(
            "  {}{}  {}  {reach}{site}{hashed}\n",
            painted(HEAD, &candidate.selector),
            " ".repeat(padding),
            painted(FAINT, candidate.specificity),
        ));
        if !candidate.unwanted_elements.is_empty() {
            let shown: Vec<String> = candidate
                .unwanted_elements
                .iter()
                .map(|e| format!("{} :{}", e.label(), e.place.line))
                .collect();
            let more = candidate.unwanted - shown.len();
            let more = if more > 0 {
                format!(", and {more} more")
            } else {
                String::new()
            };
            text.push_str(&format!(
                "  {}\n",
                painted(FAINT, format!("  also {}{more}", shown.join(", ")))
            ));
        }
    }
    text
}

/// The classes of a theme.
pub fn classes(answer: &ClassesAnswer, advice: &[Advice], is_for_element: bool) -> String {
    if answer.classes.is_empty() {
        return match is_for_element {
            true => format!("No class of the theme does it for '{}'.\n", answer.prefix),
            false => format!("No class begins with '{}'.\n", answer.prefix),
        };
    }
    let width = answer.classes.iter().map(|c| c.name.chars().count()).max();
    let mut text = String::new();
    for class in &answer.classes {
        let padding = " ".repeat(width.unwrap_or(0) - class.name.chars().count());
        let rules = match (class.rules, &class.place) {
            (0, _) | (_, None) => "no rule uses it".to_owned(),
            (1, Some(at)) => format!("1 rule, {}", place(at)),
            (many, Some(at)) => format!("{many} rules, the first {}", place(at)),
        };
        let elements = match class.elements {
            0 => String::new(),
            count => format!("  on {count} here"),
        };
        let sets = class.sets.as_ref().map(|sets| format!("{sets}  "));
        text.push_str(&format!(
            "  {}{padding}  {}{rules}{}\n",
            painted(HEAD, &class.name),
            sets.unwrap_or_default(),
            painted(FAINT, elements)
        ));
    }
    text.push_str(&advised::listed(advice));
    text
}
