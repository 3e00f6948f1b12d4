//! The site that is being worked on, and how far it has changed.

use std::collections::{BTreeSet, HashMap};
use std::hash::{DefaultHasher, Hash, Hasher};
use std::sync::Arc;

use fingerpost::edit::Intent;
use fingerpost::environment::Environment;
use fingerpost::page::{Page, Target};
use fingerpost::question::find::ElementQuery;
use fingerpost::session::{ChangeError, Outcome, Scope, Session};
use fingerpost::site::{Fetched, Site, SiteError};
use fingerpost::text::{SitePath, is_url};

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
    /// The bytes on disk, as a hash, of files after the desk's own changes: a watcher tells of those too.
    own: HashMap<String, u64>,
}

impl Workspace {
    pub fn new(site: Site) -> Workspace {
        Workspace {
            site,
            version: 1,
            own: HashMap::new(),
        }
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
        let mut pages = self.pages_of_server();
        let session = self.site.session()?.with_effects(Scope::Nothing);
        let outcome = work(session)?;
        let files = outcome.files.iter().map(|file| file.before.name());
        let mut files: Vec<ChangedFile> = files.map(|name| self.described(name)).collect();
        // A page that a server makes from a template is not among the files.
        if files.iter().any(|file| file.kind != FileKind::Sheet) {
            pages.extend(self.pages_of_server());
            files.extend(pages.iter().map(|page| self.described(page)));
        }
        if !files.is_empty() {
            self.version += 1;
        }
        for file in &files {
            if let Some(bytes) = self.on_disk(&file.file) {
                self.own.insert(file.file.clone(), bytes);
            }
        }
        Ok((outcome, files))
    }

    /// The pages that a server makes and whose markup the draft changes.
    fn pages_of_server(&self) -> BTreeSet<String> {
        let files = self.site.draft().files();
        files
            .filter(|name| is_url(name))
            .map(str::to_owned)
            .collect()
    }

    /// Takes what the site's server answered a browser with, so that questions are about what the browser shows.
    pub fn answered(&mut self, url: &str, answer: Fetched) -> Result<(), SiteError> {
        if self.site.take_answer(url, answer)? {
            self.version += 1;
        }
        Ok(())
    }

    /// The bytes of a file on disk, as a hash; none where it can't be read.
    fn on_disk(&self, name: &str) -> Option<u64> {
        let bytes = self.site.bytes(&SitePath::new(name).ok()?).ok()?;
        let mut hasher = DefaultHasher::new();
        bytes.hash(&mut hasher);
        Some(hasher.finish())
    }

    /// Whether a file is on disk as the desk's own last change left it. From the first other change on, it is not.
    fn is_own(&mut self, name: &str) -> bool {
        let is_own =
            self.own.contains_key(name) && self.own.get(name).copied() == self.on_disk(name);
        if !is_own {
            self.own.remove(name);
        }
        is_own
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
        let others = named.iter().filter(|name| !self.is_own(name)).cloned();
        changed.extend(others.collect::<Vec<_>>());
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

#[cfg(test)]
mod tests {
    use std::fs;

    use fingerpost::edit::Change;
    use tempfile::TempDir;

    use super::*;

    fn workspace() -> (TempDir, Workspace) {
        let folder = TempDir::new().unwrap();
        let write = |name: &str, text: &str| fs::write(folder.path().join(name), text).unwrap();
        write("fingerpost.toml", "fingerpost = 2\n");
        write("a.html", "<link rel=stylesheet href=a.css><p>Boats");
        write("a.css", "p { color: teal; top: 0 }\n");
        let site = Site::of_folder(folder.path()).unwrap();
        (folder, Workspace::new(site))
    }

    fn set(property: &str, value: &str) -> Intent {
        Intent::new("a.html", "p", Change::set(property, value))
    }

    fn css(workspace: &Workspace) -> String {
        workspace
            .site
            .file_text("a.css")
            .unwrap()
            .source()
            .to_owned()
    }

    #[test]
    fn a_change_is_made_and_says_how_a_browser_gets_it_at_once() {
        let (_folder, mut workspace) = workspace();
        let (outcome, files) = workspace
            .edit(&set("color", "navy"), &Subject::default(), None)
            .unwrap();
        assert_eq!(outcome.change, Some(1));
        assert_eq!(workspace.version(), 2);
        assert_eq!(css(&workspace), "p { color: navy; top: 0 }\n");
        let [file] = &files[..] else {
            panic!("{files:?}")
        };
        assert_eq!((&*file.file, &*file.path), ("a.css", "/a.css"));
        let way = serde_json::to_value(&file.quick).unwrap();
        assert_eq!(
            (&way["was"], &way["value"]),
            (&"teal".into(), &"navy".into())
        );
    }

    /// A watcher tells of every write; only those of others are news.
    #[test]
    fn the_own_save_is_not_a_change_by_another_program() {
        let (folder, mut workspace) = workspace();
        let told = ["a.css".to_owned()];
        let news = |workspace: &mut Workspace| workspace.refresh(&told).unwrap().len();
        workspace
            .edit(&set("color", "navy"), &Subject::default(), None)
            .unwrap();
        workspace.change(|mut session| session.save_all()).unwrap();
        assert_eq!(news(&mut workspace), 0);
        workspace.change(|mut session| session.unsave()).unwrap();
        assert_eq!(news(&mut workspace), 0);
        // Another program's is, and so is its way back.
        let css = folder.path().join("a.css");
        let own = fs::read(&css).unwrap();
        fs::write(&css, "p { color: red; top: 0 }\n").unwrap();
        assert_eq!(news(&mut workspace), 1);
        fs::write(&css, own).unwrap();
        assert_eq!(news(&mut workspace), 1);
    }

    #[test]
    fn the_steps_of_one_value_are_one_change() {
        let (_folder, mut workspace) = workspace();
        let subject = Subject::default();
        let mut last = None;
        for value in ["navy", "red", "#123456"] {
            let (outcome, _) = workspace
                .edit(&set("color", value), &subject, last)
                .unwrap();
            last = outcome.change;
        }
        assert_eq!(workspace.site.draft().edits().count(), 1);
        assert_eq!(css(&workspace), "p { color: #123456; top: 0 }\n");
        // The change that is replaced may be gone by then.
        workspace
            .change(|mut session| session.discard(last))
            .unwrap();
        let (outcome, _) = workspace.edit(&set("top", "4px"), &subject, last).unwrap();
        assert!(outcome.change.is_some());
        assert_eq!(css(&workspace), "p { color: teal; top: 4px }\n");
    }

    #[test]
    fn a_change_that_is_refused_changes_nothing() {
        let (_folder, mut workspace) = workspace();
        let subject = Subject::default();
        let (outcome, _) = workspace
            .edit(&set("color", "navy"), &subject, None)
            .unwrap();
        let version = workspace.version();
        let refusal = workspace
            .edit(&set("color", "12px"), &subject, outcome.change)
            .unwrap_err();
        assert_eq!(refusal.code, "invalid");
        assert_eq!(workspace.version(), version);
        assert_eq!(css(&workspace), "p { color: navy; top: 0 }\n");
        assert_eq!(workspace.site.draft().edits().count(), 1);
    }

    #[test]
    fn what_another_program_wrote_is_read() {
        let (folder, mut workspace) = workspace();
        fs::write(folder.path().join("a.css"), "p { color: gold }\n").unwrap();
        let files = workspace.refresh(&["a.css".to_owned()]).unwrap();
        assert_eq!(files.len(), 1);
        assert_eq!(workspace.version(), 2);
        let page = workspace.page("a.html", &Environment::default()).unwrap();
        let p = page.ask().find_one("p").unwrap();
        let color = page.styles().value(&p, &"color".parse().unwrap());
        assert_eq!(color.computed.text(), "rgb(255, 215, 0)");
    }
}
