//! The site and the pages that are being worked on.

use std::collections::BTreeMap;
use std::sync::Arc;

use fingerpost::draft::Draft;
use fingerpost::edit::{EditError, Intent};
use fingerpost::environment::Environment;
use fingerpost::impact::change::TryError;
use fingerpost::page::{Page, Target};
use fingerpost::question::find::ElementQuery;
use fingerpost::site::{Site, SiteError};
use fingerpost::text::Text;

use crate::events::{ChangedFile, FileKind};
use crate::quick;
use crate::refusal::Refusal;
use crate::subject::Subject;

/// How many pages are kept as they were read last: one for each page and surroundings in use.
const MOST_PAGES: usize = 12;

/// The site, and its pages as they were read last.
#[derive(Debug)]
pub(crate) struct Workspace {
    pub site: Site,
    pages: Vec<Kept>,
    /// Rises with every change.
    version: u64,
    /// The last edit, while nothing else has happened to the draft.
    last: Option<Last>,
}

/// An edit that the next one may replace.
#[derive(Debug)]
struct Last {
    id: u32,
    before: Draft,
    after: Draft,
    /// The page that it was made on.
    page: Arc<Page>,
}

#[derive(Debug)]
struct Kept {
    page: Arc<Page>,
    version: u64,
}

/// An edit that was made.
#[derive(Debug)]
pub(crate) struct Made {
    /// Its number; none where it only took back the one that it replaces.
    pub id: Option<u32>,
    pub summary: String,
    pub warnings: Vec<String>,
    pub files: Vec<ChangedFile>,
}

impl Workspace {
    pub fn new(site: Site) -> Workspace {
        Workspace {
            site,
            pages: Vec::new(),
            version: 1,
            last: None,
        }
    }

    pub fn version(&self) -> u64 {
        self.version
    }

    /// A page as the draft leaves it. What has not changed since it was read last is taken from there.
    pub fn page(&mut self, name: &str, environment: &Environment) -> Result<Arc<Page>, SiteError> {
        let is = |kept: &Kept| kept.page.document().text().name() == name;
        let same = |kept: &Kept| is(kept) && kept.page.environment() == environment;
        if let Some(at) = self.pages.iter().position(same) {
            let kept = self.pages.remove(at);
            let page = match kept.version == self.version {
                true => kept.page,
                false => Arc::new(self.site.reparse_page(&kept.page)?),
            };
            self.keep(page.clone());
            return Ok(page);
        }
        let page = match self.pages.iter().rev().find(|kept| is(kept)) {
            Some(other) => self.site.page_under(&other.page, environment.clone())?,
            None => self.site.page(name, environment.clone())?,
        };
        let page = Arc::new(page);
        self.keep(page.clone());
        Ok(page)
    }

    fn keep(&mut self, page: Arc<Page>) {
        self.pages.push(Kept {
            page,
            version: self.version,
        });
        if self.pages.len() > MOST_PAGES {
            self.pages.remove(0);
        }
    }

    /// The page that a request is about, with the asked element in the states that it is held in.
    pub fn asked(
        &mut self,
        subject: &Subject,
        first: &str,
    ) -> Result<(Arc<Page>, Target), Refusal> {
        let name = subject.page.as_deref().unwrap_or(first);
        let page = self.page(name, &subject.environment()?)?;
        let what = ElementQuery::parse(subject.element.as_deref().unwrap_or("html")).on(&page);
        let target = page.ask().find_one(&what).map_err(Refusal::not_found)?;
        let states = subject.states()?;
        if states.is_empty() {
            return Ok((page, target));
        }
        let mut held = self.site.reparse_page(&page)?;
        for state in states {
            held.pretend(target.element, state);
        }
        Ok((Arc::new(held), target))
    }

    /// Makes an edit. Where the draft's last change is the edit `replaced`, it takes that one's place, so that
    /// many steps of one value are one edit.
    pub fn edit(
        &mut self,
        intent: &Intent,
        subject: &Subject,
        replaced: Option<u32>,
    ) -> Result<Made, Refusal> {
        let element_states = subject.element_states()?;
        let environment = subject.environment()?;
        let before = self.texts();
        let made = self.locked(|workspace| {
            let last = workspace
                .last
                .take()
                .filter(|last| Some(last.id) == replaced && last.after == *workspace.site.draft());
            let replacing = last.is_some();
            let (draft, known) = match last {
                Some(last) => (last.before, Some(last.page)),
                None => (workspace.site.draft().clone(), None),
            };
            // What is shown without the edit that is replaced is known where it was made just now.
            let is_it = |page: &Arc<Page>| {
                page.document().text().name() == intent.page && *page.environment() == environment
            };
            let page = match known.filter(is_it) {
                Some(page) => {
                    workspace.site.pretend_draft(draft.clone());
                    page
                }
                None => {
                    let kept = workspace.page(&intent.page, &environment)?;
                    workspace.site.pretend_draft(draft.clone());
                    match replacing {
                        true => Arc::new(workspace.site.reparse_page(&kept)?),
                        false => kept,
                    }
                }
            };
            let edit = match element_states.asked.is_empty() {
                true => workspace.site.make(&page, intent),
                false => {
                    let mut held = workspace.site.reparse_page(&page)?;
                    if let Some(element) = &intent.element {
                        let what = element.clone().on(&held);
                        let asked = held.ask().elements(&what).map_err(Refusal::not_found)?;
                        element_states.of_asked(&mut held, &asked);
                    }
                    workspace.site.make(&held, intent)
                }
            };
            let edit = match edit {
                // Back to what it was before the edit that this one replaces.
                Err(error) if replacing && error.is_an_answer() => {
                    workspace.site.restore_draft(draft)?;
                    return Ok((None, error.to_string(), Vec::new()));
                }
                edit => edit?,
            };
            let (summary, warnings) = (edit.summary.clone(), edit.warnings.clone());
            let id = workspace.site.try_edit(edit)?;
            workspace.last = Some(Last {
                id,
                before: draft,
                after: workspace.site.draft().clone(),
                page,
            });
            Ok((Some(id), summary, warnings))
        });
        let mut files = self.changed_since(&before);
        let (id, summary, warnings) = made?;
        if let Ok(page) = self.page(&intent.page, &environment) {
            for file in files.iter_mut().filter(|file| file.kind == FileKind::Sheet) {
                let was = match before.get(&file.file) {
                    Some(text) => text.clone(),
                    None => self.site.base(&file.file).ok(),
                };
                file.quick = was.and_then(|was| quick::way(&page, &file.file, was.source()));
            }
        }
        Ok(Made {
            id,
            summary,
            warnings,
            files,
        })
    }

    /// Makes an edit of the draft again over the files as they are now, for something else where that is named; gives
    /// its new number.
    pub fn retarget(
        &mut self,
        id: u32,
        what: Option<&str>,
    ) -> Result<(u32, Vec<ChangedFile>), Refusal> {
        let before = self.texts();
        let done = self.locked(|workspace| {
            let tried = workspace.site.draft().edit(id);
            let tried =
                tried.ok_or_else(|| Refusal::not_found(format!("the draft has no change {id}")))?;
            let mut intent = tried.intent.clone();
            if let Some(what) = what {
                intent.retarget(what).map_err(Refusal::bad)?;
            }
            let bare = workspace.site.with_only(|tried| tried.id != id);
            let page = bare.page(&intent.page, Environment::default())?;
            let edit = bare.make(&page, &intent)?;
            Ok(workspace.site.aim(id, edit)?.unwrap_or(id))
        });
        let files = self.changed_since(&before);
        self.last = None;
        Ok((done?, files))
    }

    /// Does something to the draft under its lock; gives what it changed.
    pub fn change<T>(
        &mut self,
        work: impl FnOnce(&mut Site) -> Result<T, SiteError>,
    ) -> Result<(T, Vec<ChangedFile>), Refusal> {
        let before = self.texts();
        let done = self.locked(|workspace| Ok(work(&mut workspace.site)?));
        let files = self.changed_since(&before);
        Ok((done?, files))
    }

    /// Reads up what other programs changed; `named` are the files that did.
    pub fn refresh(&mut self, named: &[String]) -> Result<Vec<ChangedFile>, SiteError> {
        let before = self.texts();
        self.site.refresh()?;
        let mut files = self.changed_since(&before);
        for name in named {
            if !files.iter().any(|file| file.file == *name) {
                files.push(self.described(name));
            }
        }
        if !named.is_empty() {
            self.version += 1;
            self.last = None;
        }
        Ok(files)
    }

    fn locked<T>(
        &mut self,
        work: impl FnOnce(&mut Workspace) -> Result<T, Refusal>,
    ) -> Result<T, Refusal> {
        self.site.take_draft()?;
        let done = work(self);
        self.site.release_draft();
        if done.is_err() {
            // What was left out for a moment comes back.
            self.site.refresh()?;
        }
        done
    }

    /// The files of the draft as it leaves them.
    fn texts(&self) -> BTreeMap<String, Option<Arc<Text>>> {
        let files: Vec<String> = self.site.draft().files().map(str::to_owned).collect();
        let read = |file: &String| self.site.file_text(file).ok();
        files
            .into_iter()
            .map(|file| (file.clone(), read(&file)))
            .collect()
    }

    /// The files that differ from what they were.
    fn changed_since(&mut self, before: &BTreeMap<String, Option<Arc<Text>>>) -> Vec<ChangedFile> {
        let now = self.texts();
        let mut names: Vec<&String> = before.keys().chain(now.keys()).collect();
        names.sort();
        names.dedup();
        let changed = names.into_iter().filter(|name| {
            let is = |texts: &BTreeMap<String, Option<Arc<Text>>>| match texts.get(*name) {
                Some(text) => text.clone(),
                None => self.site.file_text(name).ok(),
            };
            let source = |text: Option<Arc<Text>>| text.map(|text| text.source().to_owned());
            source(is(before)) != source(is(&now)) || !before.contains_key(*name)
        });
        let files: Vec<ChangedFile> = changed.map(|name| self.described(name)).collect();
        if !files.is_empty() {
            self.version += 1;
        }
        files
    }

    fn described(&self, name: &str) -> ChangedFile {
        ChangedFile {
            file: name.to_owned(),
            path: self.site.url_path(name),
            kind: FileKind::of(name),
            quick: None,
        }
    }
}

impl From<EditError> for Refusal {
    fn from(error: EditError) -> Refusal {
        Refusal::bad(error)
    }
}

impl From<SiteError> for Refusal {
    fn from(error: SiteError) -> Refusal {
        Refusal::bad(error)
    }
}

impl From<TryError> for Refusal {
    fn from(error: TryError) -> Refusal {
        Refusal::bad(error)
    }
}
