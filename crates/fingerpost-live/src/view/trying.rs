//! Try: what can be changed of an element, and where the change goes.

use fingerpost::markup::{Element, ElementId, Written};
use fingerpost::page::Page;
use maud::{Markup, html};

use super::problem;

/// What the fields for one element hold.
pub(crate) fn trying(page: &Page, id: ElementId, overrides: Option<&str>) -> Markup {
    let document = page.document();
    let element = document.element(id);
    let is_written = element.written == Written::Tag;
    let only_text = document.child_elements(id).next().is_none();
    let text = document.folded_text(id, usize::MAX);
    let source = page.document().text().source();
    let span = document.element_span(id);
    let markup = source.get(std::ops::Range::from(span)).unwrap_or_default();
    html! {
        (destination(page, overrides))
        label.destination { "Apply to"
            input #each autocomplete="off" spellcheck="false" placeholder="this element, or every match of a selector";
        }
        form #new-declaration.field {
            label { "Declaration"
                input name="declaration" autocomplete="off" spellcheck="false" list="offers"
                    placeholder="color: navy" aria-describedby="offers-say";
            }
            datalist #offers {}
            button { "Add" }
        }
        p #offers-say.quiet aria-live="polite" {}
        form #new-rule.field {
            label { "Rule" input name="selector" autocomplete="off" spellcheck="false"
                placeholder="selector (optional)"; }
            label { "with" input name="declarations" autocomplete="off" spellcheck="false"
                placeholder="color: navy; margin: 0"; }
            button { "Add the rule" }
        }
        @if !is_written {
            (problem("The source has no tag for this element, so its markup can't be edited."))
        } @else {
            (classes(element))
            (editing_markup(element, only_text, &text, markup))
        }
        (super::rule::of_theme())
    }
}

/// The classes of an element, each to be removed, and a new one.
fn classes(element: &Element) -> Markup {
    html! {
        section.group aria-label="Classes" {
            h3 { "Classes" }
            ul.chips { @for class in element.classes() {
                li { code { (class) }
                    button type="button" data-do="class" data-class=(format!("-{class}"))
                        aria-label=(format!("Remove class {class}")) { "×" } }
            } }
            form #new-class.field {
                label { "Class" input name="class" autocomplete="off" list="classes" spellcheck="false"; }
                datalist #classes {}
                button { "Add class" }
            }
        }
    }
}

/// The fields that change an element's markup.
fn editing_markup(element: &Element, only_text: bool, text: &str, markup: &str) -> Markup {
    html! {
        section.group aria-label="Markup" {
            h3 { "Markup" }
            @if only_text {
                form #new-text.field {
                    label { "Text" input name="text" value=(text) autocomplete="off"; }
                    button { "Change" }
                }
            }
            button #on-page type="button" aria-pressed="false" { "Edit text on the page" }
            form #new-attribute.field {
                label { "Attribute" input name="name" autocomplete="off" spellcheck="false"; }
                label { "is" input name="value" autocomplete="off" spellcheck="false"; }
                button { "Set" }
                button type="submit" value="off" { "Remove" }
            }
            form.field data-change=(serde_json::json!({ "tag": { "name": "$name" } })) {
                label { "Tag" input name="name" value=(element.name) autocomplete="off" spellcheck="false"; }
                button { "Change the tag" }
            }
            div.buttons {
                button type="button" data-do="move" data-side="before" { "Move up" }
                button type="button" data-do="move" data-side="after" { "Move down" }
                button type="button" data-do="move" data-side="out" { "Move out" }
                button type="button" data-do="duplicate" { "Duplicate" }
                button type="button" data-do="remove-element" { "Remove" }
            }
            form #wrap.field {
                label { "Wrap in" input name="tag" value="div" autocomplete="off" spellcheck="false"; }
                button { "Wrap" }
                button type="button" data-do="unwrap" { "Unwrap" }
            }
            details {
                summary { "As source" }
                form #source.field {
                    textarea name="source" rows="8" spellcheck="false" aria-label="The element's source" { (markup) }
                    button { "Change" }
                }
                form #paste.field {
                    textarea name="source" rows="3" spellcheck="false" aria-label="Markup to put in" {}
                    select name="side" aria-label="Where" {
                        option value="after" { "after it" } option value="before" { "before it" }
                        option value="first" { "first in it" } option value="last" { "last in it" }
                    }
                    button { "Insert" }
                }
            }
        }
    }
}

/// Where a change of a style goes.
fn destination(page: &Page, overrides: Option<&str>) -> Markup {
    let mut sheets = page.sheets().iter();
    let has_sources = sheets.any(|sheet| sheet.styles.sheet().text().authored().is_some());
    html! {
        label.destination { "Write styles to"
            select #into {
                option value="sources" {
                    "where it is set now" @if has_sources { ", in the source that it was built from" }
                }
                @if has_sources { option value="winning" { "where it is set now, in the built sheet" } }
                option value="overrides" data-new[overrides.is_none()] {
                    @match overrides { Some(name) => { "into the override sheet, " (name) } None => { "into a new override sheet" } }
                }
                option value="page" { "into the page's own sheet" }
                option value="inline" { "on the element itself" }
            }
        }
    }
}
