//! What a kind of edit is given, and what it gives back: a change of the texts, not yet checked.

use crate::edit::expected::Meant;
use crate::edit::file_change::FileChange;
use crate::edit::placement::Placements;
use crate::edit::request::Asked;
use crate::edit::site_context::SiteContext;
use crate::page::{Page, Styles};
use crate::question::find::ElementQuery;
use crate::text::Patch;

/// What an edit is made from: the page, what was asked for, and what the site knows besides.
pub(super) struct At<'a, 'p> {
    pub styles: &'a Styles<'p>,
    pub intent: &'a Asked,
    pub around: &'a SiteContext<'a>,
}

impl<'p> At<'_, 'p> {
    pub fn page(&self) -> &'p Page {
        self.styles.page()
    }

    /// The selector that the elements were asked for with.
    pub fn selector_asked_for(&self) -> Option<&str> {
        match &self.intent.element {
            Some(ElementQuery::Selector(selector)) => Some(selector),
            _ => None,
        }
    }
}

/// What one kind of edit results in for one element.
#[derive(Clone, Debug, Default)]
pub(super) struct Proposal {
    pub changes: Vec<FileChange>,
    /// What the change means, for the last look at it.
    pub meant: Meant,
    /// What the replacements in sheets are.
    pub placements: Placements,
    /// What stood there before, for the summary.
    pub was: Option<String>,
    pub warnings: Vec<String>,
    /// Whether the sources of served sheets are among the changes already.
    pub followed: bool,
    /// Whether each file was looked at already.
    pub checked: bool,
    /// A summary where the kind's own would not be true.
    pub summary: Option<String>,
}

impl Proposal {
    pub fn of(file: &str, patch: Patch) -> Proposal {
        Proposal {
            changes: vec![FileChange::new(file, patch)],
            ..Proposal::default()
        }
    }

    /// Takes the changes of another one, with what they mean.
    pub fn join(&mut self, other: Proposal) {
        self.changes.extend(other.changes);
        self.meant.join(other.meant);
        self.placements.join(other.placements);
        self.warnings.extend(other.warnings);
        self.followed |= other.followed;
    }

    /// Says that what is put in was worked out from what it takes the place of.
    pub fn derived(mut self) -> Proposal {
        for change in &mut self.changes {
            let all = change.patch.replacements().iter();
            change.copies = all.map(|r| r.range).filter(|r| !r.is_empty()).collect();
        }
        self
    }
}
