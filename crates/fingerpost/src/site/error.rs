//! Why a site, a page or a draft can't be read, written or saved, with what to do.

use std::path::{Path, PathBuf};

use thiserror::Error;

use super::store_error::StoreError;
use crate::advice::{Action, Advice, of_conflict};
use crate::draft::{Conflict, DraftError, numbered};
use crate::text::{EncodingError, SitePathError, brief_diff, plain_io};

/// Why a site or a page of it can't be read, or a draft can't be saved.
#[derive(Debug, Error)]
#[non_exhaustive]
pub enum SiteError {
    /// There is no such file.
    #[error("{}: no such file; expected a page of the site", .path.display())]
    NoSuchPage {
        /// The path given.
        path: PathBuf,
    },
    /// The path is one of a folder.
    #[error("{}: this is a folder; expected a page{}", .path.display(), such_as(.first_page.as_deref()))]
    Folder {
        /// The path given.
        path: PathBuf,
        /// The first page in it, if it has any.
        first_page: Option<PathBuf>,
    },
    /// The file is of a kind that no page is of.
    #[error("{file}: this is {kind}; expected a page{}", .page.as_ref().map(|page| format!(", such as {page}")).unwrap_or_default())]
    NotAPage {
        /// The file.
        file: String,
        /// What it is, with its article.
        kind: &'static str,
        /// A page of the site, one that links it where any does.
        page: Option<String>,
    },
    /// A file can't be read.
    #[error("{}: can't be read: {}", .path.display(), plain_io(.source))]
    Unreadable {
        /// The file.
        path: PathBuf,
        /// Why.
        source: std::io::Error,
    },
    /// A name is not that of a file of the site.
    #[error(transparent)]
    BadName(#[from] SitePathError),
    /// A link leads out of the site.
    #[error("{}: a link leads to {}, outside of the site; nothing there is read or written", .path.display(), .to.display())]
    Outside {
        /// The file in the site.
        path: PathBuf,
        /// Where it leads.
        to: PathBuf,
    },
    /// A link leads to what stays hidden: version control, the program's own state, a file whose name begins with a dot.
    #[error("{}: a link leads to {}, which is not a part of the theme; it is neither read nor written", .path.display(), .to.display())]
    Hidden {
        /// The file in the site.
        path: PathBuf,
        /// Where it leads, from the site's root.
        to: PathBuf,
    },
    /// Something that is not a file is in a file's place.
    #[error("{}: this is {kind}; expected a file", .path.display())]
    NotAFile {
        /// The path given.
        path: PathBuf,
        /// What it is, with its article.
        kind: &'static str,
    },
    /// A file is too large for a source text.
    #[error("{}: it has {bytes} bytes; more than {} are not read as a source text", .path.display(), crate::text::LARGEST_FILE)]
    TooLarge {
        /// The file.
        path: PathBuf,
        /// How large it is, or how much of it was read.
        bytes: u64,
    },
    /// There is no site.
    #[error("{}: no site here: this folder and those above have no fingerpost.toml, and no draft{}", .folder.display(), sites_below(.below))]
    NoSite {
        /// The folder.
        folder: PathBuf,
        /// The sites that are below it.
        below: Vec<String>,
    },
    /// A file has two names, by a link.
    #[error(
        "{file} and {other} are the same file, and the draft changes it as {other}; change it under that name"
    )]
    SameFile {
        /// The name given.
        file: String,
        /// The name in the draft.
        other: String,
    },
    /// A page can't be fetched.
    #[error("{url}: can't be fetched: {reason}")]
    Unfetchable {
        /// Its URL.
        url: String,
        /// Why.
        reason: String,
    },
    /// A file is not text.
    #[error("{}: {source}", .path.display())]
    NotText {
        /// The file.
        path: PathBuf,
        /// Why.
        source: EncodingError,
    },
    /// The configuration is not one.
    #[error("{}:{line}: {message}", .path.display())]
    Config {
        /// The file.
        path: PathBuf,
        /// The line, from 1.
        line: usize,
        /// What is wrong and what was expected.
        message: String,
    },
    /// The draft can't be read or applied.
    #[error("{}: {source}", .path.display())]
    Draft {
        /// The draft file.
        path: PathBuf,
        /// Why.
        source: DraftError,
    },
    /// Edits of the draft have lost their place.
    #[error("nothing was saved: {} of the draft does not apply: what it changes is not there. Discard it, retarget it, or switch on the change that it was made over", numbered(.ids))]
    NotApplied {
        /// Their numbers.
        ids: Vec<u32>,
    },
    /// The draft has no edit of that number that is on.
    #[error("the draft has no change {id} that is on")]
    NoSuchEdit {
        /// The number given.
        id: u32,
    },
    /// The draft changes nothing in a file.
    #[error("the draft has no change in {file}{}", only_in(.files))]
    NoChangeIn {
        /// The file given.
        file: String,
        /// The files that it changes.
        files: Vec<String>,
    },
    /// Another program is at work on the draft.
    #[error("{}: another program is changing this site's draft; try again in a moment", .path.display())]
    Locked {
        /// The lock's file.
        path: PathBuf,
    },
    /// The draft is not what was read.
    #[error("{}: another program changed the draft meanwhile; nothing was done. Try again", .path.display())]
    Overtaken {
        /// The draft file.
        path: PathBuf,
    },
    /// A save was interrupted, and can't be finished.
    #[error("a save was interrupted and can't be finished: {}: {why}", .path.display())]
    Interrupted {
        /// The file.
        path: PathBuf,
        /// Why.
        why: &'static str,
    },
    /// A save failed when some files were written, and they could not be put back.
    #[error("{first} But {} was written already and can't be restored: {second}. The next command tries again", .written.join(" and "))]
    HalfSaved {
        /// The files that were written.
        written: Vec<String>,
        /// What stopped the save.
        first: Box<SiteError>,
        /// What stopped it from being put back.
        second: Box<SiteError>,
    },
    /// The sources were written, but not what is kept about them.
    #[error(
        "the sources were written, but recording the save failed: {source}. The next command finishes it"
    )]
    Unlisted {
        /// What stopped it.
        source: Box<SiteError>,
    },
    /// There is no save to undo.
    #[error("no save to undo")]
    NothingSaved,
    /// An edit can't be saved, for the same text was changed on disk.
    #[error("nothing was saved: change {id} conflicts: {}\n{}", .conflict.why, both_sides(&.conflict.draft, &.conflict.disk))]
    Conflict {
        /// Its number.
        id: u32,
        /// Why, with both sides.
        conflict: Box<Conflict>,
    },
    /// A file has changed since it was saved, in the same text.
    #[error("nothing was written: {file} was changed since it was saved, in the same text. Change it by hand, or restore the saved text and try again\n{}", both_sides(.save, .since))]
    ChangedSince {
        /// The file.
        file: String,
        /// What the save changed, as a unified diff.
        save: String,
        /// What was changed since, as a unified diff.
        since: String,
    },
    /// A file of the program's own is not one.
    #[error("{}: {message}", .path.display())]
    State {
        /// The file.
        path: PathBuf,
        /// What is wrong.
        message: String,
    },
    /// A file can't be written.
    #[error(transparent)]
    Store(#[from] StoreError),
}

fn such_as(page: Option<&Path>) -> String {
    match page {
        Some(page) => format!(" in it, such as {}", page.display()),
        None => ", and none lies in it".to_owned(),
    }
}

/// The files that a draft changes, in half a sentence.
fn only_in(files: &[String]) -> String {
    match files {
        [] => "; it is empty".to_owned(),
        files => format!("; it changes {}", files.join(" and ")),
    }
}

/// The sites that could be meant.
fn sites_below(below: &[String]) -> String {
    match below {
        [] => String::new(),
        [one] => format!(". There is a site in {one}"),
        several => format!(". There are sites in {}", several.join(", ")),
    }
}

/// Two changes of the same text, one after the other.
fn both_sides(one: &str, other: &str) -> String {
    let part = |head: &str, diff: &str| match diff {
        "" => String::new(),
        diff => format!("{head}:\n{}", brief_diff(diff)),
    };
    format!("{}{}", part("It changes", one), part("On disk", other))
}

impl SiteError {
    /// The kind of error, in a word that stays the same.
    pub fn code(&self) -> &'static str {
        match self {
            SiteError::NoSuchPage { .. } => "no-such-page",
            SiteError::Folder { .. } => "folder",
            SiteError::NotAPage { .. } => "not-a-page",
            SiteError::Unreadable { .. } => "unreadable",
            SiteError::BadName(..) => "bad-name",
            SiteError::Outside { .. } => "outside",
            SiteError::Hidden { .. } => "hidden",
            SiteError::NotAFile { .. } => "not-a-file",
            SiteError::TooLarge { .. } => "too-large",
            SiteError::NoSite { .. } => "no-site",
            SiteError::SameFile { .. } => "same-file",
            SiteError::Unfetchable { .. } => "unfetchable",
            SiteError::NotText { .. } => "not-text",
            SiteError::Config { .. } => "config",
            SiteError::Draft { .. } => "draft",
            SiteError::NotApplied { .. } => "not-applied",
            SiteError::NoSuchEdit { .. } => "no-such-edit",
            SiteError::NoChangeIn { .. } => "no-change-in",
            SiteError::Locked { .. } => "locked",
            SiteError::Overtaken { .. } => "overtaken",
            SiteError::Interrupted { .. } => "interrupted",
            SiteError::HalfSaved { .. } => "half-saved",
            SiteError::Unlisted { .. } => "unlisted",
            SiteError::NothingSaved => "nothing-saved",
            SiteError::Conflict { .. } => "conflict",
            SiteError::ChangedSince { .. } => "changed-since",
            SiteError::State { .. } => "state",
            SiteError::Store(..) => "store",
        }
    }

    /// What a person could do.
    pub fn advice(&self) -> Vec<Advice> {
        let leave = || {
            Advice::new(
                "leave",
                "leave every file as it is now and forget that save",
                Action::Recover { leave: true },
            )
        };
        match self {
            SiteError::Draft { source, .. } => source.advice(),
            SiteError::Conflict { id, .. } => of_conflict(*id),
            SiteError::NotApplied { ids } => {
                let each = ids.iter().map(|id| {
                    Advice::new(
                        "discard",
                        format!("discard change {id}"),
                        Action::Discard { change: Some(*id) },
                    )
                });
                each.collect()
            }
            SiteError::NoSuchEdit { .. } => vec![Advice::new(
                "show-draft",
                "list the changes of the draft",
                Action::ShowDraft,
            )],
            SiteError::Interrupted { .. }
            | SiteError::HalfSaved { .. }
            | SiteError::State { .. } => {
                vec![leave()]
            }
            SiteError::NoSite { below, .. } => {
                let each = below.iter().map(|folder| {
                    Advice::new(
                        "use-site",
                        format!("work in {folder}"),
                        Action::UseSite {
                            folder: folder.clone(),
                        },
                    )
                });
                let configure =
                    Advice::new("configure", "write a configuration here", Action::Configure);
                match below.is_empty() {
                    true => vec![configure],
                    false => each.collect(),
                }
            }
            _ => Vec::new(),
        }
    }
}
