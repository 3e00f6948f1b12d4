//! Computed values.

use fingerpost::question::codes::ValueFrom;
use fingerpost::question::values::{OpenedAnswer, ValuesAnswer};

use super::why::{inherited, variables};
use super::{BAD, FAINT, GOOD, HEAD, painted, place};

/// A value with the way it came.
pub fn opened(answer: &OpenedAnswer) -> String {
    let mut text = format!(
        "{} of {}  {}\n",
        painted(HEAD, &answer.property),
        painted(HEAD, answer.element.label()),
        place(&answer.element.place)
    );
    for link in &answer.links {
        let value = &link.value;
        let computed = if value.computed.is_empty() {
            "(nothing)"
        } else {
            &value.computed
        };
        text.push_str(&format!(
            "\n  {}: {}",
            link.property,
            painted(GOOD, computed)
        ));
        match value.source {
            ValueFrom::Inherited => inherited(value, &mut text),
            ValueFrom::Initial => text.push_str("  its initial value"),
            _ => {}
        }
        text.push('\n');
        if let Some(declaration) = &link.declaration {
            text.push_str(&format!(
                "    set by {}  {}  {}: {}\n",
                declaration.rule.selector,
                place(&declaration.place),
                declaration.property,
                declaration.value
            ));
        }
        variables(value, &mut text);
        if let Some(fallen) = &value.fell_through {
            text.push_str(&format!("    {}\n", painted(BAD, fallen)));
        }
    }
    text
}

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
        let swatch = super::swatch(value);
        text.push_str(&format!("  {}: {swatch}{value}", row.property));
        match (&row.place, row.source) {
            (Some(at), _) => text.push_str(&format!("  {}", place(at))),
            (None, source) => text.push_str(&painted(FAINT, format!("  {source}"))),
        }
        if let Some(shorthand) = &row.shorthand {
            text.push_str(&painted(FAINT, format!("  by {shorthand}")));
        }
        if !row.through.is_empty() {
            text.push_str(&painted(
                FAINT,
                format!("  through {}", row.through.join(", ")),
            ));
        }
        if let Some(from) = &row.inherited_from {
            text.push_str(&painted(
                FAINT,
                format!("  inherited from {}", from.label()),
            ));
        }
        text.push('\n');
    }
    if let Some(contrast) = &answer.contrast {
        text.push_str(&format!("\n{}", super::contrast::contrast(contrast)));
    }
    text
}
