//! `tag`: another name for an element, in both its tags.

use serde::{Deserialize, Serialize};

use crate::edit::error::EditError;
use crate::edit::expected::{MarkupOp, Meant, Tag as MeantTag};
use crate::edit::file_change::FileChange;
use crate::edit::kinds::info::{About, Example, Holds, KindInfo, MARKUP, required};
use crate::edit::kinds::{Kind, SummaryContext};
use crate::edit::proposal::{At, Proposal};
use crate::edit::rewrite::lines::{insertion, replacement};
use crate::edit::rewrite::source_layout::{SourceLayout, is_void, needs_tag, not_there};
use crate::markup::{Element, Namespace};
use crate::page::Target;
use crate::text::{Cut, Patch, Replacement, TextRange, TextSize};

/// An element gets another name.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Tag {
    /// The name.
    pub name: String,
}

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "tag",
    does: "Change the tag name of an element",
    more: "",
    about: About::Element,
    destinations: MARKUP,
    fields: &[required("name", "The new name", Holds::Name)],
    example: Example {
        before: "<h2>Boats</h2>",
        element: "h2",
        change: r#"{"name":"h3"}"#,
        after: "<h3>Boats</h3>",
    },
    demo: r#"{"page":"pages/home.html","element":"h2.today","change":{"tag":{"name":"p"}}}"#,
};

impl Kind for Tag {
    fn info(&self) -> &'static KindInfo {
        &INFO
    }

    fn make(&self, at: &At<'_, '_>, target: Option<&Target>) -> Result<Proposal, EditError> {
        let page = at.page();
        let id = target.ok_or(EditError::NoElement)?.element;
        let name = self.name.as_str();
        let element = needs_tag(page, id)?;
        let letter = |c: char| c.is_ascii_alphabetic();
        let other = |c: char| c.is_whitespace() || matches!(c, '/' | '>' | '<' | '"' | '\'' | '=');
        if !name.starts_with(letter) || name.contains(other) {
            return Err(EditError::InvalidName {
                what: "the name of an element",
                name: name.to_owned(),
            });
        }
        let was = element.name.to_string();
        if was.eq_ignore_ascii_case(name) {
            return Err(EditError::Nothing {
                why: format!("the element is <{was}> already"),
            });
        }
        let stand = SourceLayout::of(page, id)?;
        let foreign = element.namespace != Namespace::Html;
        let holds_nothing = |name: &str| !foreign && is_void(&name.to_ascii_lowercase());
        let (old, new) = (holds_nothing(&was), holds_nothing(name));
        // In foreign content a slash closes the element (HTML § 13.1.2.1).
        let self_closed = foreign && element.slash.is_some();
        if new && !old && !stand.source.cut(stand.inner).trim().is_empty() {
            return Err(not_there(
                page,
                id,
                format!("<{name}> can't contain anything, and this <{was}> does"),
            ));
        }
        let tag_name = TextRange::at(
            element.start_tag.start() + TextSize::of('<'),
            TextSize::of(was.as_str()),
        );
        let mut changes = vec![replacement(tag_name, name)];
        match element.end_tag {
            Some(_) if new => changes.push(replacement(
                TextRange::new(element.start_tag.end(), stand.outer.end()),
                "",
            )),
            Some(end) => changes.push(replacement(
                TextRange::at(end.start() + TextSize::of("</"), TextSize::of(was.as_str())),
                name,
            )),
            None if self_closed || new => {}
            None => changes.extend(with_an_end_tag(element, &stand, name)),
        }
        let mut tag = MeantTag::of(element);
        tag.name = match foreign {
            true => name.to_owned(),
            false => name.to_ascii_lowercase(),
        };
        let patch = Patch::new(changes).expect("tags don't overlap");
        Ok(Proposal {
            was: Some(was),
            changes: vec![FileChange::new(page.document().text().name(), patch)],
            meant: Meant::markup(MarkupOp {
                gone: vec![id],
                new: vec![tag],
                reshapes: true,
                ..MarkupOp::default()
            }),
            ..Proposal::default()
        })
    }

    fn summary(&self, told: &SummaryContext<'_>) -> String {
        format!("change {} on {} to <{}>", told.who, told.on, self.name)
    }

    fn is_markup(&self) -> bool {
        true
    }
}

/// The end tag that the old name could do without, and the new one may need.
fn with_an_end_tag(element: &Element, stand: &SourceLayout<'_>, name: &str) -> Vec<Replacement> {
    let mut changes = Vec::new();
    let held = stand.source.cut(stand.outer).trim_end();
    let end = stand.outer.start() + TextSize::of(held);
    // A slash means nothing in HTML, and would only mislead.
    if let Some(slash) = element.slash {
        let before = stand.source.cut(..usize::from(slash.start()));
        let blank = before.len() - before.trim_end().len();
        let start = slash.start() - TextSize::new(blank as u32);
        changes.push(replacement(TextRange::new(start, slash.end()), ""));
    }
    let place = end.max(element.start_tag.end());
    changes.push(insertion(place, format!("</{name}>")));
    changes
}
