//! What else a change moves.

use fingerpost::impact::site::{Effect, Group};
use maud::{Markup, html};

use super::count;
use crate::view::label::label;

const MOST_GROUPS: usize = 6;
const MOST_CHANGES: usize = 4;

pub(crate) fn effect(effect: &Effect, page: &str) -> Markup {
    let others: Vec<&Group> = effect
        .groups
        .iter()
        .filter(|g| !g.aimed && !g.is_custom())
        .collect();
    let here = others
        .iter()
        .flat_map(|g| &g.elements)
        .filter(|e| e.place.file == page);
    let handles: Vec<String> = here.map(|e| e.index.to_string()).collect();
    html! {
        @match effect.side_effects_in_words() {
            Some(words) => {
                details.else data-handles=(handles.join(" ")) {
                    summary { "Also changes " strong { (words) } }
                    ul.plain { @for group in others.iter().take(MOST_GROUPS) { (row(group)) } }
                    @if others.len() > MOST_GROUPS {
                        p.quiet { "and " (count(others.len() - MOST_GROUPS, "more group")) }
                    }
                }
            }
            None => p.quiet { "Changes nothing else on " (count(effect.pages, "page")) "." }
        }
        @for situation in &effect.untouched { p.quiet { "Unchanged " (situation) "." } }
        @for note in &effect.notes { p.note { (super::sentence(note)) } }
        @for unread in &effect.unread { p.note { "Not looked at: " (unread) } }
    }
}

/// The pages that a group's elements are on.
fn pages(group: &Group) -> String {
    let mut files: Vec<&str> = group
        .elements
        .iter()
        .map(|e| e.place.file.as_str())
        .collect();
    files.sort_unstable();
    files.dedup();
    match files.len() {
        0..=3 => files.join(", "),
        many => format!("{}, {} and {} more", files[0], files[1], many - 2),
    }
}

fn row(group: &Group) -> Markup {
    let Some(first) = group.elements.first() else {
        return Markup::default();
    };
    html! {
        li {
            code { (label(first)) }
            @if group.elements.len() > 1 { " and " (group.elements.len() - 1) " more" }
            span.quiet { " on " (pages(group)) }
            @for change in group.changes.iter().take(MOST_CHANGES) {
                p.change { code { (change.property) } " " (change.before) " → " (change.after) }
            }
            @if group.inside > 0 { p.quiet { (count(group.inside, "element")) " inside inherit it" } }
            @if !group.also.is_empty() { p.quiet { (group.also.join(", ")) } }
        }
    }
}
