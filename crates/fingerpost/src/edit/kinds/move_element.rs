//! `move`: an element stands elsewhere, beside or in another one.

use serde::{Deserialize, Serialize};

use crate::edit::error::EditError;
use crate::edit::expected::{MarkupOp, Meant, Tag};
use crate::edit::file_change::FileChange;
use crate::edit::intent::Side;
use crate::edit::kinds::info::{About, Example, Holds, KindInfo, MARKUP, must_name, required};
use crate::edit::kinds::{Kind, SummaryContext};
use crate::edit::proposal::{At, Proposal};
use crate::edit::rewrite::lines::with_own_lines;
use crate::edit::rewrite::lines::{insertion, replacement};
use crate::edit::rewrite::source_layout::{SourceLayout, not_there, reindented, written_in};
use crate::page::Target;
use crate::question::find::{ElementQuery, find_one};
use crate::text::{Cut, Patch, TextRange, TextSize};

/// An element stands elsewhere.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct MoveElement {
    /// Beside or in this element.
    pub to: String,
    /// Where.
    pub side: Side,
}

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "move-element",
    does: "Move an element beside another one or into it",
    more: "",
    about: About::Element,
    destinations: MARKUP,
    fields: &[
        required("to", "The other element", Holds::Element),
        must_name(
            "side",
            "before or after the other element; first or last in it",
            Holds::Side,
        ),
    ],
    example: Example {
        before: "<h2>Boats</h2><p>Three a day</p>",
        element: "h2",
        change: r#"{"to":"p","side":"after"}"#,
        after: "<p>Three a day</p><h2>Boats</h2>",
    },
    demo: r#"{"page":"pages/home.html","element":"h2.today","change":{"move-element":{"to":".hero","side":"last"}}}"#,
};

impl Kind for MoveElement {
    fn info(&self) -> &'static KindInfo {
        &INFO
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let page = at.page();
        let id = target.ok_or(EditError::NoElement)?.element;
        let to = find_one(page, &ElementQuery::parse(&self.to))?.element;
        let document = page.document();
        if document.ancestors_and_self(to).any(|above| above == id) {
            return Err(not_there(
                page,
                to,
                "an element can't be moved beside or into itself",
            ));
        }
        let stand = SourceLayout::whole(page, id)?;
        let beside = SourceLayout::of(page, to)?;
        // Its other lines are as far in as its own line is.
        let moved = stand.source.cut(stand.outer);
        let moved = reindented(moved, stand.indent, "", stand.ending);
        let (place, with) = beside.beside(self.side, &moved)?;
        let gone = with_own_lines(stand.source, stand.outer);
        let nothing = || EditError::Nothing {
            why: "the element is already there".to_owned(),
        };
        let blank_between = |a: TextSize, b: TextSize| {
            let between = TextRange::new(a.min(b), a.max(b));
            stand.source.cut(between).trim().is_empty()
        };
        if blank_between(place, stand.outer.start()) || blank_between(place, stand.outer.end()) {
            return Err(nothing());
        }
        let patch = Patch::new(vec![replacement(gone, ""), insertion(place, with)]);
        let patch = patch.map_err(|_| nothing())?;
        let all = written_in(page, id);
        let tags = all.iter().map(|id| Tag::of(document.element(*id)));
        let new = tags.collect();
        Ok(Proposal {
            changes: vec![FileChange {
                copies: vec![stand.outer],
                ..FileChange::new(document.text().name(), patch)
            }],
            meant: Meant::markup(MarkupOp {
                gone: all,
                new,
                reshapes: true,
                ..MarkupOp::default()
            }),
            ..Proposal::default()
        })
    }

    fn summary(&self, told: &SummaryContext<'_>) -> String {
        let side = match self.side {
            Side::First => "to the beginning of",
            Side::Last => "to the end of",
            other => other.words(),
        };
        format!("move {} on {} {side} {}", told.who, told.on, self.to)
    }

    fn is_markup(&self) -> bool {
        true
    }
}
