//! Many values of a sheet changed by one rule of thumb.

use crate::edit::{Change, Intent};
use crate::sheet::Sheet;
use crate::value::PropertyId;
use crate::value::parts::{ValuePart, parts};

/// Rewrites parts of values: one intent for each declaration that changes. `with` gets the property and a part of its value, and
/// returns the text to put in its place, if any. The intents run from the end of the sheet to its start, so that each place
/// holds while they are made one after the other: `Session::script` takes them as they are.
///
/// ```
/// use fingerpost::edit::rewritten;
/// use fingerpost::sheet::Sheet;
/// use fingerpost::text::Text;
/// use fingerpost::value::parts::PartKind;
///
/// let text = Text::new("a.css", "p { color: #fff; border: 1px solid #FFF }");
/// let sheet = Sheet::parse(text.clone(), text.span());
/// let intents = rewritten(&sheet, |_, part| match part.kind {
///     PartKind::Color(_) => Some("var(--paper)".to_owned()),
///     _ => None,
/// });
/// let values = intents.iter().filter_map(|intent| intent.change.value());
/// assert_eq!(values.collect::<Vec<_>>(), ["1px solid var(--paper)", "var(--paper)"]);
/// ```
pub fn rewritten(
    sheet: &Sheet,
    mut with: impl FnMut(&str, &ValuePart) -> Option<String>,
) -> Vec<Intent> {
    let mut intents = Vec::new();
    for (_, declaration) in sheet.declarations() {
        let name = sheet.name_source(declaration);
        let old = sheet.value_source(declaration);
        let mut new = old.to_owned();
        for part in parts(PropertyId::named(name), old).iter().rev() {
            if let Some(text) = with(name, part) {
                new.replace_range(part.bytes(), &text);
            }
        }
        if new != old {
            intents.push(Intent::at(
                &sheet.place_of(declaration),
                Change::set(name, &new),
            ));
        }
    }
    intents.reverse();
    intents
}
