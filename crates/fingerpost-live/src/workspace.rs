//! The site that is being worked on, and how far it has changed.

use std::sync::Arc;

use fingerpost::edit::Intent;
use fingerpost::environment::Environment;
use fingerpost::page::{Page, Target};
use fingerpost::question::find::ElementQuery;
use fingerpost::session::{ChangeError, Outcome, Scope, Session};
use fingerpost::site::{Site, SiteError};

use crate::events::{ChangedFile, FileKind};
use crate::quick;
use crate::refusal::Refusal;
use crate::subject::Subject;

/// The site, and the number of its present state.
#[derive(Debug)]
pub(crate) struct Workspace {
    pub site: Site,
    /// Rises with every change.
    version: u64,
}

impl Workspace {
    pub fn new(site: Site) -> Workspace {
        Workspace { site, version: 1 }
    }

    pub fn version(&self) -> u64 {
        self.version
    }

    /// A page as the draft leaves it. What has not changed since it was read last is taken from there.
    pub fn page(&self, name: &str, environment: &Environment) -> Result<Arc<Page>, SiteError> {
        self.site.shared_page(name, environment)
    }

    /// The page that a request is about, with the asked element in its assumed states.
    pub fn asked(&self, subject: &Subject, first: &str) -> Result<(Arc<Page>, Target), Refusal> {
        let name = subject.page.as_deref().unwrap_or(first);
        let page = self.page(name, &subject.environment()?)?;
        let what = ElementQuery::parse(subject.element.as_deref().unwrap_or("html")).on(&page);
        let target = page.ask().find_one(&what)?;
        let held = subject.element_states()?.on(&page, &[target.element])?;
        Ok((held.map_or(page, Arc::new), target))
    }

    /// Makes an edit; in the place of the change `replaces` where one is named.
    pub fn edit(
        &mut self,
        intent: &Intent,
        subject: &Subject,
        replaces: Option<u32>,
    ) -> Result<(Outcome, Vec<ChangedFile>), Refusal> {
        let environment = subject.environment()?;
        let states = subject.element_states()?;
        let (outcome, mut files) = self.change(|session| {
            let mut session = session
                .in_environment(environment.clone())
                .in_states(states);
            match replaces {
                // The desk asks for the replacement of a change that may be gone by now.
                Some(id) if session.site().draft().edit(id).is_some() => {
                    session.replace(id, intent)
                }
                _ => session.try_edit(intent),
            }
        })?;
        if let Ok(page) = self.page(&intent.page, &environment) {
            for file in files.iter_mut().filter(|file| file.kind == FileKind::Sheet) {
                let was = outcome.files.iter().find(|c| c.before.name() == file.file);
                file.quick = was.and_then(|was| quick::way(&page, &file.file, was.before.source()));
            }
        }
        Ok((outcome, files))
    }

    /// Does something in a session, whose effect is asked for later; gives what it did and the files that are served
    /// otherwise now.
    pub fn change(
        &mut self,
        work: impl FnOnce(Session<'_>) -> Result<Outcome, ChangeError>,
    ) -> Result<(Outcome, Vec<ChangedFile>), Refusal> {
        let session = self.site.session()?.with_effects(Scope::Nothing);
        let outcome = work(session)?;
        let files = outcome.files.iter().map(|file| file.before.name());
        let files: Vec<ChangedFile> = files.map(|name| self.described(name)).collect();
        if !files.is_empty() {
            self.version += 1;
        }
        Ok((outcome, files))
    }

    /// Reads what other programs changed; `named` are the files that did.
    pub fn refresh(&mut self, named: &[String]) -> Result<Vec<ChangedFile>, SiteError> {
        let before = self.site.with_only(|_| true);
        self.site.refresh()?;
        let files: Vec<&str> = before
            .draft()
            .files()
            .chain(self.site.draft().files())
            .collect();
        let text = |site: &Site, name: &str| site.file_text(name).ok();
        let differs = |name: &&str| {
            let source = |site| text(site, name).map(|text| text.source().to_owned());
            source(&before) != source(&self.site)
        };
        let mut changed: Vec<String> = files
            .into_iter()
            .filter(differs)
            .map(str::to_owned)
            .collect();
        changed.extend(named.iter().cloned());
        changed.sort_unstable();
        changed.dedup();
        if !changed.is_empty() {
            self.version += 1;
        }
        Ok(changed.iter().map(|name| self.described(name)).collect())
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
