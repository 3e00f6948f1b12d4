//! Computed values.

use fingerpost::question::values::ValuesAnswer;

use super::{FAINT, HEAD, painted, place};

pub fn values(answer: &ValuesAnswer) -> String {
    let mut text = format!(
        "{}  {}\n\n",
        painted(HEAD, answer.element.label()),
        place(&answer.element.place)
    );
    if answer.values.is_empty() {
        text.push_str("  No such property is set.\n");
    }
    for row in &answer.values {
        let value = if row.value.is_empty() {
            "(nothing)"
        } else {
            &row.value
        };
        text.push_str(&format!("  {}: {value}", row.property));
        match (&row.place, row.source) {
            (Some(at), _) => text.push_str(&format!("  {}", place(at))),
            (None, source) => text.push_str(&painted(FAINT, format!("  {source}"))),
        }
        if let Some(from) = &row.inherited_from {
            text.push_str(&painted(
                FAINT,
                format!("  inherited from {}", from.label()),
            ));
        }
        text.push('\n');
    }
    text
}
