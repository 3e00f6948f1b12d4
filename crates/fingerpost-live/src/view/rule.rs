//! What can be done with a declaration and with the rule around it, besides giving it another value.
//!
//! A form or a button has the edit that it makes in `data-change`, as scripts of edits have it, with `$name` where the
//! value of a field goes: the modules in the browser only fill that in.

use fingerpost::page::Page;
use fingerpost::question::why::DeclarationAnswer;
use fingerpost::selector::SelectorList;
use fingerpost::sheet::{Rule, RuleKind, Sheet};
use fingerpost::text::Place;
use maud::{Markup, html};
use serde_json::{Value, json};

use super::as_hex;

/// The notations of colors that are offered, the usual ones first.
const NOTATIONS: &[&str] = &[
    "hex", "rgb", "hsl", "oklch", "hwb", "oklab", "lch", "lab", "name",
];

pub(crate) fn more(page: &Page, declaration: &DeclarationAnswer) -> Markup {
    let property = &declaration.property;
    let place = Value::from(declaration.place.to_string());
    let mark = json!({ "important": { "property": property, "remove": declaration.important } });
    let other = json!({ "change-property": { "property": property, "to": "$to" } });
    let notation = json!({ "convert-color": { "property": property, "to": "$to" } });
    html! {
        details.further {
            summary aria-label=(format!("More for {property} at {} and its rule", declaration.place)) { "More" }
            div.buttons {
                (button(&mark, &place, if declaration.important { "Take !important off" } else { "Mark !important" }))
            }
            form.field data-change=(other) data-into=(place) {
                label { "Property" input name="to" value=(property) autocomplete="off" spellcheck="false"; }
                button { "Change the property" }
            }
            @if as_hex(&declaration.value).is_some() {
                form.field data-change=(notation) data-into=(place) {
                    label { "Notation" select name="to" { @for name in NOTATIONS { option { (name) } } } }
                    button { "Convert" }
                }
            }
            (of_rule(page, &declaration.rule.place))
        }
    }
}

fn of_rule(page: &Page, place: &Place) -> Markup {
    let Some((sheet, rule)) = rule_at(page, place) else {
        return Markup::default();
    };
    let at_rule = rule.parent.map(|id| sheet.rule(id));
    let at_rule = at_rule.filter(|rule| rule.kind != RuleKind::Style);
    let prelude = sheet.prelude_source(rule);
    let rule_at = place.to_string();
    let selectors = json!({ "selector": { "rule": rule_at, "to": "$to" } });
    let enclosed = json!({ "enclose": { "rule": rule_at, "within": "$within" } });
    let removed = json!({ "remove-rule": { "rule": rule_at } });
    let moved = json!({ "move-rule": { "rule": rule_at, "$side": "$other" } });
    let anywhere = Value::from("sources");
    html! {
        form.field data-change=(selectors) {
            label { "Selectors" input name="to" value=(prelude) autocomplete="off" spellcheck="false"; }
            button { "Change" }
        }
        @for one in single_selectors(prelude) {
            div.buttons {
                (button(&json!({ "split": { "rule": rule_at, "selector": one } }), &anywhere,
                    &format!("Split {one} off into its own rule")))
            }
        }
        @if let Some(outer) = at_rule {
            @let outer_at = sheet.place(outer.span.start()).to_string();
            form.field data-change=(json!({ "condition": { "rule": outer_at, "to": "$to" } })) {
                label { (sheet.text().slice(outer.name))
                    input name="to" value=(sheet.prelude_source(outer)) autocomplete="off" spellcheck="false"; }
                button { "Change" }
            }
        }
        form.field data-change=(enclosed) {
            label { "Inside" input name="within" autocomplete="off" spellcheck="false"
                placeholder="@media (width >= 40em)"; }
            button { "Wrap the rule" }
        }
        form.field data-change=(moved) {
            label { "Move it" select name="side" { option value="before" { "before" } option value="after" { "after" } } }
            label { "the rule at" input name="other" autocomplete="off" spellcheck="false" placeholder="css/a.css:12"; }
            button { "Move" }
        }
        div.buttons { (button(&removed, &anywhere, "Remove the rule")) }
    }
}

/// The style rule that begins at a place.
fn rule_at<'p>(page: &'p Page, place: &Place) -> Option<(&'p Sheet, &'p Rule)> {
    let sheets = page.sheets().iter().map(|sheet| sheet.styles.sheet());
    let mut of_file = sheets.filter(|sheet| sheet.text().name() == place.file);
    of_file.find_map(|sheet| {
        let offset = sheet.text().offset(place.line, place.column)?;
        let mut rules = sheet.rules().map(|(_, rule)| rule);
        let rule =
            rules.find(|rule| rule.kind == RuleKind::Style && rule.span.start() == offset)?;
        Some((sheet, rule))
    })
}

/// The selectors of a list with several.
fn single_selectors(list: &str) -> Vec<String> {
    let Ok(parsed) = SelectorList::parse(list) else {
        return Vec::new();
    };
    match &parsed.selectors[..] {
        [_] => Vec::new(),
        several => several.iter().map(ToString::to_string).collect(),
    }
}

/// A button that makes an edit.
pub(crate) fn button(change: &Value, into: &Value, words: &str) -> Markup {
    html! {
        button type="button" data-change=(change) data-into=(into) { (words) }
    }
}

/// Edits that are not about what is chosen: names, at-rules, sheets, and comments that are declarations.
pub(crate) fn of_theme() -> Markup {
    let rename = json!({ "rename": { "what": "$what", "from": "$from", "to": "$to" } });
    let at_rule = json!({ "at-rule": { "source": "$source" } });
    let sheet = json!({ "new-sheet": { "file": "$file" } });
    let enable = json!({ "enable": { "property": "$property" } });
    html! {
        section.group aria-label="In the theme" {
            h3 { "In the theme" }
            form.field data-change=(enable) {
                label { "Commented-out property" input name="property" autocomplete="off" spellcheck="false" placeholder="a property"; }
                button { "Restore" }
            }
            form.field.names data-change=(rename) data-alone {
                label { "Rename" select name="what" {
                    option value="class" { "class" } option value="id" { "id" } option value="custom-property" { "custom property" }
                } }
                label { "from" input name="from" autocomplete="off" spellcheck="false" placeholder="today"; }
                label { "to" input name="to" autocomplete="off" spellcheck="false" placeholder="now"; }
                button { "Rename everywhere" }
            }
            form.field data-change=(at_rule) data-alone data-goes {
                label { "At-rule" textarea name="source" rows="2" spellcheck="false"
                    placeholder="@keyframes fade { to { opacity: 0 } }" {} }
                button { "Add" }
            }
            form.field data-change=(sheet) data-alone {
                label { "New sheet" input name="file" autocomplete="off" spellcheck="false" placeholder="css/season.css"; }
                button { "Create and link" }
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_list_of_several_selectors_is_taken_apart() {
        assert_eq!(single_selectors("h1, .a > b"), ["h1", ".a > b"]);
        assert!(single_selectors("h1").is_empty());
    }
}
