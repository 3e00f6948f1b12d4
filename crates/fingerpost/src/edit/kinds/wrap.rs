//! `wrap`: an element is put into a new one.

use serde::{Deserialize, Serialize};

use crate::edit::error::EditError;
use crate::edit::expected::{MarkupOp, Meant, Tag};
use crate::edit::file_change::FileChange;
use crate::edit::kinds::info::{About, Example, Holds, KindInfo, MARKUP, required};
use crate::edit::kinds::{Kind, SummaryContext};
use crate::edit::proposal::{At, Proposal};
use crate::edit::rewrite::lines::insertion;
use crate::edit::rewrite::source_layout::{SourceLayout, is_void, not_there};
use crate::page::Target;
use crate::text::{Cut, Patch};

/// An element is put into a new one.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Wrap {
    /// The new one's start tag, or only its name.
    pub tag: String,
}

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "wrap",
    does: "Wrap an element in a new one",
    more: "",
    about: About::Element,
    destinations: MARKUP,
    fields: &[required(
        "tag",
        "The new element's start tag, or only its name",
        Holds::Markup,
    )],
    example: Example {
        before: "<h2>Boats</h2>",
        element: "h2",
        change: r#"{"tag":"<div class=\"wide\">"}"#,
        after: "<div class=\"wide\">\n  <h2>Boats</h2>\n</div>",
    },
    demo: r#"{"page":"pages/home.html","element":"h2.today","change":{"wrap":{"tag":"<div class=\"wide\">"}}}"#,
};

impl Kind for Wrap {
    fn info(&self) -> &'static KindInfo {
        &INFO
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let page = at.page();
        let id = target.ok_or(EditError::NoElement)?.element;
        let stand = SourceLayout::whole(page, id)?;
        let given = self.tag.trim();
        let whole = match given.starts_with('<') {
            true => given.to_owned(),
            false => format!("<{given}>"),
        };
        let tags = Tag::all_in(&whole);
        let [tag] = &tags[..] else {
            return Err(self.bad());
        };
        let name = tag.name.clone();
        // Nothing but the one tag, which ends where the text does.
        let alone = whole.ends_with('>') && Tag::all_in(&format!("{whole}<i>")).len() == 2;
        let begins = whole.cut(1..).to_ascii_lowercase().starts_with(&name);
        if !alone || !begins || whole.ends_with("/>") || whole.cut(..whole.len() - 1).contains('>')
        {
            return Err(self.bad());
        }
        if is_void(&name) {
            return Err(not_there(
                page,
                id,
                format!("<{name}> can't contain anything"),
            ));
        }
        let (start, end) = (stand.outer.start(), stand.outer.end());
        let changes = if stand.own_lines {
            let deeper = format!("{}{}", stand.indent, stand.step);
            let (ending, indent) = (stand.ending, stand.indent);
            let mut all = stand.reindented(stand.outer, indent, &deeper);
            all.push(insertion(start, format!("{whole}{ending}{deeper}")));
            all.push(insertion(end, format!("{ending}{indent}</{name}>")));
            all
        } else {
            vec![
                insertion(start, whole.clone()),
                insertion(end, format!("</{name}>")),
            ]
        };
        let patch = Patch::new(changes).expect("lines don't overlap");
        Ok(Proposal {
            changes: vec![FileChange {
                around: vec![stand.outer],
                ..FileChange::new(page.document().text().name(), patch)
            }],
            meant: Meant::markup(MarkupOp {
                new: tags,
                reshapes: true,
                ..MarkupOp::default()
            }),
            ..Proposal::default()
        })
    }

    fn summary(&self, told: &SummaryContext<'_>) -> String {
        format!("wrap {} on {} in {}", told.who, told.on, self.tag)
    }

    fn is_markup(&self) -> bool {
        true
    }
}

impl Wrap {
    fn bad(&self) -> EditError {
        EditError::InvalidName {
            what: "the name of an element; expected one, or a start tag such as <div class=\"wide\">",
            name: self.tag.clone(),
        }
    }
}
