//! Save: the changes that are not saved, what they result in in each file, and the way back.

use std::collections::HashMap;

use fingerpost::impact::draft::{ChangeState, DraftList};
use maud::{Markup, html};

use super::count;

pub(crate) fn save(draft: &DraftList, carried: &[String], read_only: bool) -> Markup {
    let on = draft
        .edits
        .iter()
        .filter(|edit| edit.state == ChangeState::On)
        .count();
    let shared = shared(draft);
    let unfit = draft.edits.iter().filter(|edit| edit.why.is_some()).count();
    html! {
        div #count data-unsaved=(on) {
            @if draft.edits.is_empty() {
                p.quiet { "Nothing is unsaved. Changes that you try are kept, even when you leave." }
            } @else {
                p {
                    strong { (count(on, "change")) }
                    @if on == 1 { " not saved yet. It is kept when you leave." }
                    @else { " not saved yet. They are kept when you leave." }
                }
                @if unfit > 0 { p.problem { (count(unfit, "change")) (if unfit == 1 { " no longer fits what is on disk." } else { " no longer fit what is on disk." }) } }
            }
        }
        @if !carried.is_empty() {
            p.note { "Changed on disk since the draft was made: " (carried.join(", ")) }
        }
        @for (warning, numbers) in &shared {
            p.note { "Changes " (numbers.join(", ")) ": " (warning) }
        }
        ol.changes { @for edit in &draft.edits {
            li data-state=(edit.state.as_str()) {
                label {
                    input type="checkbox" data-do="switch" data-id=(edit.id) checked[edit.state != ChangeState::Off]
                        disabled[read_only];
                    span.number { (edit.id) }
                    span { (edit.summary) }
                }
                span.quiet { (edit.files.join(", ")) @if let Some(group) = &edit.group { ", part of " (group.name) } }
                @for warning in edit.warnings.iter().filter(|own| shared.iter().all(|(known, _)| known != own)) {
                    p.note { (super::sentence(warning)) }
                }
                @if let Some(why) = &edit.why {
                    p.problem { "This change does not fit: " (why) }
                    @if let (Some(mine), Some(theirs)) = (&edit.draft_side, &edit.disk_side) {
                        (side("In the draft", mine)) (side("On disk", theirs))
                    }
                    @if !read_only { div.buttons {
                        button type="button" data-do="reapply" data-id=(edit.id) { "Apply my change again" }
                        button type="button" data-do="discard-edit" data-id=(edit.id) { "Keep the file on disk" }
                    } }
                }
                @if !read_only && edit.state == ChangeState::On {
                    button type="button" data-do="save-edit" data-id=(edit.id) { "Save this one" }
                }
            }
        } }
        @if !draft.files.is_empty() {
            h3 { "Files" }
            @for file in &draft.files {
                details.file open[draft.files.len() == 1] {
                    summary { code { (file.file) } span.badge { "not saved" } }
                    pre.diff { @for line in file.diff.lines().skip(2) { (diff_line(line)) } }
                    @if !read_only {
                        button type="button" data-do="save-file" data-file=(file.file) { "Save this file" }
                    }
                }
            }
        }
        @if !read_only {
            div.buttons {
                button.first #save-all type="button" disabled[on == 0] aria-keyshortcuts="Control+S" { "Save all" }
                a href="/api/patch" download="draft.patch" { "As a patch" }
                button type="button" data-do="unsave" { "Undo the last save" }
                button type="button" data-do="discard" disabled[draft.edits.is_empty()] { "Discard the draft" }
            }
        }
    }
}

/// The warnings that several changes have in common, each once, with the numbers of the changes.
fn shared(draft: &DraftList) -> Vec<(&str, Vec<String>)> {
    let mut about: HashMap<&str, Vec<String>> = HashMap::new();
    let mut in_order = Vec::new();
    for edit in &draft.edits {
        for warning in &edit.warnings {
            let numbers = about.entry(warning).or_insert_with(|| {
                in_order.push(warning.as_str());
                Vec::new()
            });
            numbers.push(edit.id.to_string());
        }
    }
    let each = in_order.into_iter();
    each.filter_map(|warning| Some((warning, about.remove(warning)?)))
        .filter(|(_, numbers)| numbers.len() > 1)
        .collect()
}

/// One of the two changes of the same lines, without the heads of its diff.
fn side(head: &str, diff: &str) -> Markup {
    let is_head = |line: &&str| {
        ["---", "+++", "@@"]
            .iter()
            .any(|mark| line.starts_with(mark))
    };
    html! {
        p.quiet { (head) }
        pre.diff { @for line in diff.lines().filter(|line| !is_head(line)) { (diff_line(line)) } }
    }
}

/// A line of a diff, with what it does to the file.
fn diff_line(line: &str) -> Markup {
    // `@@ -8,5 +8,5 @@`: only the line in the file as it will be is of use here.
    if let Some(range) = line
        .strip_prefix("@@ -")
        .and_then(|rest| rest.split_once(" +"))
    {
        let from = range.1.split([',', ' ']).next().unwrap_or_default();
        return html! { span data-line="at" { "from line " (from) "\n" } };
    }
    let kind = match line.as_bytes().first() {
        Some(b'+') => "new",
        Some(b'-') => "old",
        _ => "same",
    };
    html! { span data-line=(kind) { (line) "\n" } }
}
