//! `unwrap`: an element's tags are removed; its content stays.

use serde::{Deserialize, Serialize};

use crate::edit::error::EditError;
use crate::edit::expected::{MarkupOp, Meant};
use crate::edit::file_change::FileChange;
use crate::edit::kinds::info::{About, Example, KindInfo, MARKUP};
use crate::edit::kinds::{Kind, SummaryContext};
use crate::edit::proposal::{At, Proposal};
use crate::edit::rewrite::lines::replacement;
use crate::edit::rewrite::lines::{indent_at, with_own_lines};
use crate::edit::rewrite::source_layout::{SourceLayout, not_there};
use crate::page::Target;
use crate::text::{Cut, Patch, TextRange, TextSize};

/// An element's tags are removed.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Unwrap {}

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "unwrap",
    does: "Remove an element's own tags and keep its contents",
    more: "",
    about: About::Element,
    destinations: MARKUP,
    fields: &[],
    example: Example {
        before: "<div><h2>Boats</h2></div>",
        element: "div",
        change: "{}",
        after: "<h2>Boats</h2>",
    },
    demo: r#"{"page":"pages/home.html","element":".hero","change":{"unwrap":{}}}"#,
};

impl Kind for Unwrap {
    fn info(&self) -> &'static KindInfo {
        &INFO
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let page = at.page();
        let id = target.ok_or(EditError::NoElement)?.element;
        let stand = SourceLayout::whole(page, id)?;
        let held = stand.source.cut(stand.inner);
        let name = &page.document().element(id).name;
        if stand.is_void {
            return Err(not_there(
                page,
                id,
                "the element is empty; remove it instead",
            ));
        }
        let gone = |range: TextRange| replacement(range, "");
        let on_lines = stand.own_lines && held.starts_with(['\n', '\r']);
        let changes = if on_lines && held.trim().is_empty() {
            vec![gone(with_own_lines(stand.source, stand.outer))]
        } else if on_lines {
            // The tags go with their lines, and what they held comes out by one step.
            let blank = held.len() - held.trim_start().len();
            let first = stand.inner.start() + TextSize::new(blank as u32);
            let last = stand.inner.start() + TextSize::of(held.trim_end());
            let from = indent_at(stand.source, first.into());
            let mut all = stand.reindented(TextRange::new(first, last), from, stand.indent);
            all.push(gone(TextRange::new(stand.outer.start(), first)));
            all.push(gone(TextRange::new(last, stand.outer.end())));
            all
        } else {
            vec![
                gone(TextRange::new(stand.outer.start(), stand.inner.start())),
                gone(TextRange::new(stand.inner.end(), stand.outer.end())),
            ]
        };
        let changes = changes
            .into_iter()
            .filter(|r| !r.range.is_empty() || !r.with.is_empty());
        let patch = Patch::new(changes.collect()).expect("lines don't overlap");
        Ok(Proposal {
            was: Some(name.to_string()),
            changes: vec![FileChange::new(page.document().text().name(), patch)],
            meant: Meant::markup(MarkupOp {
                gone: vec![id],
                reshapes: true,
                ..MarkupOp::default()
            }),
            ..Proposal::default()
        })
    }

    fn summary(&self, told: &SummaryContext<'_>) -> String {
        format!("unwrap {} on {}", told.who, told.on)
    }

    fn is_markup(&self) -> bool {
        true
    }
}
