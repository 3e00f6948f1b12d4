//! `draft`: what is tried and not yet saved, its result, and what a save would write.
//!
//! ```
//! use fingerpost::prelude::*;
//!
//! use fingerpost::impact::draft::draft;
//!
//! let folder = tempfile::tempdir()?;
//! std::fs::write(folder.path().join("fingerpost.toml"), "fingerpost = 2\n")?;
//! std::fs::write(folder.path().join("a.html"), "<style>p { color: teal }</style><p>Boats")?;
//! let mut site = Site::of_folder(folder.path())?;
//! let intent = Intent::new("a.html", "p", Change::set("color", "navy"));
//! site.session()?.try_edit(&intent)?;
//! let answer = draft(&site)?;
//! assert_eq!(answer.edits[0].state.as_str(), "on");
//! assert_eq!(answer.files.len(), 1);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use std::collections::BTreeSet;

use serde::{Deserialize, Serialize};

use crate::draft::{EditState, Group, NotApplied, numbered};
use crate::edit::Intent;
use crate::environment::Environment;
use crate::impact::site::{Effect, ImpactOptions, effect};
use crate::page::Page;
use crate::question::codes::codes;
use crate::question::element_states::ElementStates;
use crate::question::find::elements;
use crate::site::{ChangedFile, Selection, Site, SiteError};

/// A file and what is changed in it.
#[derive(Clone, Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct FileAnswer {
    /// The file.
    pub file: String,
    /// The change as a unified diff.
    pub diff: String,
}

impl From<&ChangedFile> for FileAnswer {
    fn from(change: &ChangedFile) -> FileAnswer {
        FileAnswer {
            file: change.before.name().to_owned(),
            diff: change.diff(),
        }
    }
}

/// What the draft holds, and its result.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct DraftAnswer {
    /// Its edits, in order.
    pub edits: Vec<DraftChange>,
    /// The files that it changes.
    pub files: Vec<FileAnswer>,
    /// What it changes, over the site, in the default environment.
    pub effect: Effect,
}

codes! {
    /// Whether an edit of the draft counts.
    ChangeState {
        /// It does.
        On = "on",
        /// It is switched off.
        Off = "off",
        /// It is on, but what it changes is not there.
        NotApplied = "conflict",
    }
}

/// An edit of the draft.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct DraftChange {
    /// Its number.
    pub id: u32,
    /// Whether it counts.
    pub state: ChangeState,
    /// What was asked for.
    pub intent: Intent,
    /// What was done, in a sentence.
    pub summary: String,
    /// The files that it changes.
    pub files: Vec<String>,
    /// What its author should know about it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub warnings: Vec<String>,
    /// Why it does not count, where it is not applied.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub why: Option<String>,
    /// What it changed where something else was changed on disk.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub draft_side: Option<String>,
    /// What was changed there on disk.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub disk_side: Option<String>,
    /// The changes that it came with, where it came with others.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub group: Option<Group>,
}

/// What is tried and not yet saved.
///
/// # Errors
/// Where a file can't be read, or is not what the draft was based on.
pub fn draft(site: &Site) -> Result<DraftAnswer, SiteError> {
    let sources = site.with_only(|_| false);
    Ok(DraftAnswer {
        edits: tried(site),
        files: site.changes()?.iter().map(FileAnswer::from).collect(),
        effect: unasked(&sources, site)?,
    })
}

/// The edits of a draft and the files that they change, without what they result in: that takes much longer.
#[derive(Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct DraftList {
    /// Its edits, in order.
    pub edits: Vec<DraftChange>,
    /// The files that it changes.
    pub files: Vec<FileAnswer>,
}

/// What is tried and not yet saved, as a list.
///
/// # Errors
/// Where a file can't be read, or is not what the draft was based on.
pub fn listed(site: &Site) -> Result<DraftList, SiteError> {
    Ok(DraftList {
        edits: tried(site),
        files: site.changes()?.iter().map(FileAnswer::from).collect(),
    })
}

/// What one edit of the draft changes over what the others leave, as seen from a page, in the environment
/// that the edit was made in. The elements that it was asked for count as what it is aimed at. None where
/// the draft has no such edit.
///
/// # Errors
/// Where a file can't be read, or is not what the draft was based on.
pub fn effect_of_edit(
    site: &Site,
    id: u32,
    page: &str,
    environment: &Environment,
) -> Result<Option<Effect>, SiteError> {
    let Some(tried) = site.draft().edit(id) else {
        return Ok(None);
    };
    let intent = &tried.intent;
    let before = site.with_only(|other| other.id != id);
    let aimed = |other: &Page| {
        let what = match &intent.element {
            Some(element) if other.document().text().name() == intent.page => element,
            _ => return Vec::new(),
        };
        elements(other, &what.clone().on(other)).unwrap_or_default()
    };
    let options = ImpactOptions {
        page: Some(page),
        environment,
        element_states: &ElementStates::default(),
        only_here: false,
        aimed: &aimed,
    };
    effect(&before, site, &options).map(Some)
}

/// What a save of some edits changes, over the site, in the default environment.
///
/// # Errors
/// As [`Site::changes_of`].
pub fn effect_of(site: &Site, which: &Selection) -> Result<Effect, SiteError> {
    let chosen = site.chosen(which)?;
    let sources = site.with_only(|_| false);
    let saved = site.with_only(|tried| chosen.contains(&tried.id));
    unasked(&sources, &saved)
}

/// What some edits of the draft change, over what the others leave, over the site, in the default environment.
///
/// # Errors
/// Where a file can't be read, or is not what the draft was based on.
pub fn effect_over_others(site: &Site, edits: &BTreeSet<u32>) -> Result<Effect, SiteError> {
    let others = site.with_only(|tried| !edits.contains(&tried.id));
    unasked(&others, site)
}

/// The effect of a change that no page was asked about for.
pub(crate) fn unasked(before: &Site, after: &Site) -> Result<Effect, SiteError> {
    let environment = Environment::default();
    let element_states = ElementStates::default();
    let nobody = |_: &Page| Vec::new();
    let options = ImpactOptions {
        page: None,
        environment: &environment,
        element_states: &element_states,
        only_here: false,
        aimed: &nobody,
    };
    effect(before, after, &options)
}

fn tried(site: &Site) -> Vec<DraftChange> {
    let draft = site.draft();
    let answers = draft.edits().map(|tried| {
        let not_applied = draft.not_applied(tried.id);
        let mut answer = DraftChange {
            id: tried.id,
            state: match (&not_applied, tried.state) {
                (Some(_), _) => ChangeState::NotApplied,
                (None, EditState::On) => ChangeState::On,
                _ => ChangeState::Off,
            },
            intent: tried.intent.clone(),
            summary: tried.summary.clone(),
            files: tried.files.clone(),
            warnings: tried.warnings.clone(),
            why: None,
            draft_side: None,
            disk_side: None,
            group: tried.group.clone(),
        };
        match not_applied {
            Some(NotApplied::Needs(ids)) => {
                answer.why = Some(format!(
                    "it was made over {}, which does not count now",
                    numbered(&ids)
                ));
            }
            Some(NotApplied::Clashes(ids)) => {
                answer.why = Some(format!("it changes the same text as {}", numbered(&ids)));
            }
            Some(NotApplied::Conflict(aside)) => {
                answer.why = Some(aside.why);
                answer.draft_side = Some(aside.draft).filter(|d| !d.is_empty());
                answer.disk_side = Some(aside.disk).filter(|d| !d.is_empty());
            }
            None => {}
        }
        answer
    });
    answers.collect()
}
