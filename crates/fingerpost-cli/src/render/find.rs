//! Elements that were found.

use fingerpost::question::find::FindAnswer;

use super::{FAINT, HEAD, PLACE, painted, trail};

pub fn find(answer: &FindAnswer, what: &str) -> String {
    if answer.elements.is_empty() {
        let mut text = format!("No element of {} matches {what}.\n", answer.page);
        if let Some(nearest) = &answer.nearest {
            text.push_str(nearest);
            text.push('\n');
        }
        return text;
    }
    let mut text = String::new();
    for found in &answer.elements {
        let element = &found.element;
        text.push_str(&format!(
            "{PLACE}{}{PLACE:#}  {}  {}\n",
            element.place,
            painted(HEAD, element.label()),
            painted(FAINT, format!("@{}", element.index)),
        ));
        if !found.text.is_empty() {
            text.push_str(&format!("    “{}”\n", found.text));
        }
        if !found.trail.is_empty() {
            text.push_str(&format!("    in {}\n", trail(&found.trail)));
        }
    }
    let count = answer.elements.len();
    if count > 1 {
        text.push_str(&format!("{count} elements\n"));
    }
    text
}
