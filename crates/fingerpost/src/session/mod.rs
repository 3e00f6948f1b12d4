//! The one writer: everything that changes a draft or a file of a site.
//!
//! [`Site`] reads. [`Site::session`] takes the lock on the site's draft and gives a [`Session`]; each of its steps is all or
//! nothing, and gives one [`Outcome`]. The lock is given back when the session is dropped.
//!
//! ```
//! use fingerpost::prelude::*;
//!
//! # let folder = tempfile::tempdir()?;
//! # std::fs::write(folder.path().join("fingerpost.toml"), "fingerpost = 2\n")?;
//! # std::fs::write(folder.path().join("a.css"), "p { color: teal } .today p { color: navy }")?;
//! # for page in ["a.html", "b.html"] {
//! #     let html = "<link rel=stylesheet href=a.css><p>Boats<div class=today><p>Fares</div>";
//! #     std::fs::write(folder.path().join(page), html)?;
//! # }
//! // `a.css` has `p { color: teal }`; both `a.html` and `b.html` link it.
//! let mut site = Site::of_folder(folder.path())?;
//! let mut session = site.session()?;
//! let outcome = session.edit("a.html", "body > p", Change::set("color", "maroon"))?;
//!
//! assert_eq!(outcome.files[0].before.name(), "a.css");
//! // The paragraph of the other page has the same rule.
//! assert_eq!(outcome.effect.unwrap().side_effects().count(), 1);
//! // The same change elsewhere has fewer side effects.
//! assert_eq!(outcome.advice[0].code, "inline");
//!
//! session.undo()?;
//! assert!(session.site().changes()?.is_empty());
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```
//!
//! The room stands above [`impact`](crate::impact), whose answers are a part of each outcome, and not in
//! [`site`](crate::site), which those are asked of.

mod outcome;
mod saving;
mod steps;

pub use outcome::{Added, ChangeError, ConflictAnswer, Outcome};

use std::borrow::Cow;
use std::collections::{HashMap, HashSet};
use std::sync::Arc;

use crate::advice::Advice;
use crate::draft::{Bases, Draft, DraftError};
use crate::edit::{Change, Destination, Edit, Intent, Pages, subjects};
use crate::environment::Environment;
use crate::impact::change::{EditDetails, Made};
use crate::impact::site::Effect;
use crate::markup::ElementId;
use crate::page::{Page, Target};
use crate::question::element_states::ElementStates;
use crate::question::find::{ElementQuery, ReadAs};
use crate::site::{ChangedFile, LastChange, Site, SiteError, View};
use crate::text::SitePath;

/// How far the effect of a change is worked out.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
pub enum Scope {
    /// Over the whole site, in every environment and state that the theme speaks of.
    #[default]
    Site,
    /// Over the edit's page, in the environment asked for.
    Page,
    /// Not at all: where many edits follow each other, or the effect is asked for later.
    Nothing,
}

/// Changes of a site's draft and files, under the draft's lock.
#[derive(Debug)]
pub struct Session<'s> {
    site: &'s mut Site,
    environment: Environment,
    element_states: ElementStates,
    scope: Scope,
}

impl Site {
    /// Begins to change the site: takes the lock on its draft, and reads the draft again where another program
    /// changed it.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// # let folder = tempfile::tempdir()?;
    /// # let write = |name: &str, text: &str| std::fs::write(folder.path().join(name), text);
    /// # write("fingerpost.toml", "fingerpost = 2\n")?;
    /// # write("a.css", "p { color: teal }\n")?;
    /// # write("a.html", "<link rel=stylesheet href=a.css><p>Boats")?;
    /// // a.css: p { color: teal }
    /// // a.html: <link rel=stylesheet href=a.css><p>Boats
    /// let mut site = Site::of_folder(folder.path())?;
    /// let mut session = site.session()?;
    /// let outcome = session.edit("a.html", "p", Change::set("color", "navy"))?;
    /// assert_eq!(outcome.change, Some(1));
    /// session.save_all()?;
    /// assert_eq!(std::fs::read_to_string(folder.path().join("a.css"))?, "p { color: navy }\n");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where another program holds the lock for long, the draft can't be read, or an interrupted save can't be finished.
    pub fn session(&mut self) -> Result<Session<'_>, SiteError> {
        self.hold()?;
        Ok(Session {
            site: self,
            environment: Environment::default(),
            element_states: ElementStates::default(),
            scope: Scope::default(),
        })
    }
}

/// An attempt joins what a script did so far.
fn taken(all: &mut Outcome, attempt: Attempt, view: &mut View, bases: &mut Bases) {
    let mut details = None;
    if let Some((own, effect, advice)) = attempt.told {
        all.warnings.extend(own.beaten.iter().cloned());
        all.effect = Some(effect);
        all.advice = advice;
        details = Some(own);
    }
    all.edits.push(Added {
        change: attempt.id,
        summary: attempt.edit.summary,
        warnings: attempt.edit.warnings,
        details,
    });
    bases.extend(attempt.bases);
    view.advance(Arc::new(attempt.draft));
}

impl Drop for Session<'_> {
    fn drop(&mut self) {
        self.site.release();
    }
}

/// An edit that fits the draft, not yet written down.
struct Attempt {
    id: u32,
    draft: Draft,
    bases: Bases,
    /// The page that it was made on, without states.
    page: Arc<Page>,
    edit: Edit,
    files: Vec<ChangedFile>,
    told: Option<(EditDetails, Effect, Vec<Advice>)>,
}

/// How an edit joins the draft: the new draft, and the edit's number.
type Join<'a> = &'a dyn Fn(Edit, &Bases) -> Result<(Draft, u32), DraftError>;

impl<'s> Session<'s> {
    /// The site, to be asked.
    pub fn site(&self) -> &Site {
        self.site
    }

    /// The environment that edits are made in; the default one otherwise.
    #[must_use]
    pub fn in_environment(mut self, environment: Environment) -> Session<'s> {
        self.environment = environment;
        self
    }

    /// The states that the edited elements and others are in.
    #[must_use]
    pub fn in_states(mut self, states: ElementStates) -> Session<'s> {
        self.element_states = states;
        self
    }

    /// How far effects are worked out.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// # let folder = tempfile::tempdir()?;
    /// # let write = |name: &str, text: &str| std::fs::write(folder.path().join(name), text);
    /// # write("fingerpost.toml", "fingerpost = 2\n")?;
    /// # write("a.css", "p { color: teal }\n")?;
    /// # write("a.html", "<link rel=stylesheet href=a.css><p>Boats")?;
    /// // a.css: p { color: teal }
    /// // a.html: <link rel=stylesheet href=a.css><p>Boats
    /// let mut site = Site::of_folder(folder.path())?;
    /// let mut session = site.session()?;
    /// let mut session = session.with_effects(Scope::Nothing);
    /// let outcome = session.edit("a.html", "p", Change::set("color", "navy"))?;
    /// assert!(outcome.effect.is_none());
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn with_effects(mut self, scope: Scope) -> Session<'s> {
        self.scope = scope;
        self
    }

    /// Makes a change of one element of a page, and adds it to the draft.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// # let folder = tempfile::tempdir()?;
    /// # let write = |name: &str, text: &str| std::fs::write(folder.path().join(name), text);
    /// # write("fingerpost.toml", "fingerpost = 2\n")?;
    /// # write("a.css", "p { color: teal }\n")?;
    /// # write("a.html", "<link rel=stylesheet href=a.css><p>Boats")?;
    /// // a.css: p { color: teal }
    /// // a.html: <link rel=stylesheet href=a.css><p>Boats
    /// let mut site = Site::of_folder(folder.path())?;
    /// let mut session = site.session()?;
    /// let outcome = session.edit("a.html", "p", Change::set("color", "navy"))?;
    /// assert_eq!(outcome.files[0].after.source(), "p { color: navy }\n");
    /// // Nothing is written before a save.
    /// assert_eq!(std::fs::read_to_string(folder.path().join("a.css"))?, "p { color: teal }\n");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// As [`Session::try_edit`].
    pub fn edit(
        &mut self,
        page: &str,
        element: &str,
        change: impl Into<Change>,
    ) -> Result<Outcome, ChangeError> {
        self.try_edit(&Intent::new(page, element, change))
    }

    /// Makes an edit, and adds it to the draft.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// # let folder = tempfile::tempdir()?;
    /// # let write = |name: &str, text: &str| std::fs::write(folder.path().join(name), text);
    /// # write("fingerpost.toml", "fingerpost = 2\n")?;
    /// # write("a.css", "p { color: teal }\n")?;
    /// # write("a.html", "<link rel=stylesheet href=a.css><p>Boats")?;
    /// // a.css: p { color: teal }
    /// // a.html: <link rel=stylesheet href=a.css><p>Boats
    /// let mut site = Site::of_folder(folder.path())?;
    /// let mut session = site.session()?;
    /// let intent = Intent::new("a.html", "p", Change::set("color", "nayv"));
    /// let refused = session.try_edit(&intent).unwrap_err();
    /// assert!(refused.is_an_answer() || !refused.to_string().is_empty());
    /// assert!(session.site().draft().is_empty());
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where the edit can't be made, or the draft does not take it.
    pub fn try_edit(&mut self, intent: &Intent) -> Result<Outcome, ChangeError> {
        let intent = &self.site.with_page(intent, &mut HashMap::new());
        let page = self.site.shared_page(&intent.page, &self.environment)?;
        let draft = self.site.shared_draft();
        let join = |edit, bases: &Bases| draft.with(edit, bases);
        match self.attempt(self.site, page, intent, &join, self.scope) {
            Err(error) if error.missing_overrides().is_some() => {
                let made = self.script("", std::slice::from_ref(intent));
                let mut outcome = made.map_err(|error| match error {
                    ChangeError::Script { error, .. } => *error,
                    other => other,
                })?;
                let own = outcome
                    .edits
                    .iter()
                    .flat_map(|added| added.warnings.clone());
                let own: Vec<String> = own.collect();
                outcome.warnings.splice(0..0, own);
                let mut said = HashSet::new();
                outcome
                    .warnings
                    .retain(|warning| said.insert(warning.clone()));
                Ok(outcome)
            }
            attempt => self.accept(attempt?, draft.clone()),
        }
    }

    /// Adds an edit that was made from this site to the draft. Its effect is not worked out.
    ///
    /// # Errors
    /// Where the draft does not take it.
    pub fn add(&mut self, edit: Edit) -> Result<Outcome, ChangeError> {
        let bases = self.site.bases_with(&edit)?;
        let (summary, warnings) = (edit.summary.clone(), edit.warnings.clone());
        let before = self.site.shared_draft();
        let with = before.with(edit, &bases);
        let (draft, id) = with.map_err(|source| self.site.draft_error(source))?;
        let view = self.site.view(Arc::new(draft.clone()));
        let files = self.site.differences(&view);
        self.site.write_draft(Arc::new(draft), &bases)?;
        let mut outcome = Outcome::saying(&summary);
        outcome.change = Some(id);
        outcome.files = files;
        outcome.edits.push(Added {
            change: id,
            summary,
            warnings: warnings.clone(),
            details: None,
        });
        outcome.warnings = warnings;
        Ok(outcome)
    }

    /// Makes an edit in the place of a change of the draft. Where that is the last thing done to the draft, it is as if it
    /// had never been, so that many steps of one value are one change and one undo. Where the new edit changes nothing
    /// over what there is without the old one, the old one goes and the outcome has no change.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// # let folder = tempfile::tempdir()?;
    /// # let write = |name: &str, text: &str| std::fs::write(folder.path().join(name), text);
    /// # write("fingerpost.toml", "fingerpost = 2\n")?;
    /// # write("a.css", "p { color: teal }\n")?;
    /// # write("a.html", "<link rel=stylesheet href=a.css><p>Boats")?;
    /// // a.css: p { color: teal }
    /// // a.html: <link rel=stylesheet href=a.css><p>Boats
    /// let mut site = Site::of_folder(folder.path())?;
    /// let mut session = site.session()?;
    /// session.edit("a.html", "p", Change::set("color", "navy"))?;
    /// session.replace(1, &Intent::new("a.html", "p", Change::set("color", "olive")))?;
    /// assert_eq!(session.site().draft().edits().count(), 1);
    /// assert!(session.site().changes()?[0].after.source().contains("olive"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// As [`Session::try_edit`]; [`ChangeError::NoSuchChange`].
    pub fn replace(&mut self, change: u32, intent: &Intent) -> Result<Outcome, ChangeError> {
        let now = self.site.shared_draft();
        let last = self.site.last.take();
        let Some(last) = last.filter(|last| last.id == change && *last.after == *now) else {
            return self.made_in_place_of(change, intent);
        };
        let bare = self.site.view(last.before.clone());
        let is_it = |page: &Page| {
            page.document().text().name() == intent.page && *page.environment() == self.environment
        };
        // What is shown without the edit that is replaced is known where that was made just now.
        let page = match is_it(&last.page) {
            true => last.page.clone(),
            false => {
                let known = self.site.shared_page(&intent.page, &self.environment)?;
                Arc::new(bare.reparse_page(&known)?)
            }
        };
        let before = last.before.clone();
        let join = |edit, bases: &Bases| before.with(edit, bases);
        match self.attempt(&bare, page, intent, &join, self.scope) {
            Ok(attempt) => self.accept(attempt, before.clone()),
            Err(error) if error.is_an_answer() => {
                let view = self.site.view(before.clone());
                let files = self.site.differences(&view);
                drop(view);
                self.site.redrafted(before.clone())?;
                let mut outcome = Outcome::saying(error.to_string());
                outcome.files = files;
                Ok(outcome)
            }
            Err(error) => {
                self.site.last = Some(last);
                Err(error)
            }
        }
    }

    /// Makes a change of the draft again for another element, or for another rule where it is about one.
    ///
    /// # Errors
    /// As [`Session::replace`]; where the change is about a rule and `to` is not a place.
    pub fn retarget(&mut self, change: u32, to: &str) -> Result<Outcome, ChangeError> {
        let mut intent = self.intent_of(change)?;
        intent.retarget(to)?;
        self.made_in_place_of(change, &intent)
    }

    /// Makes a change of the draft again over the files as they are now: the way out of a conflict.
    ///
    /// # Errors
    /// As [`Session::replace`].
    pub fn reapply(&mut self, change: u32) -> Result<Outcome, ChangeError> {
        let intent = self.intent_of(change)?;
        self.made_in_place_of(change, &intent)
    }

    /// Makes every edit of a script, in order, or none of them. They are one entry of the draft, called `name`, and one undo;
    /// the effect is that of all together. Each is made over what the ones before it leave: places in one file are given from
    /// the back of the file to its front.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// # let folder = tempfile::tempdir()?;
    /// # std::fs::write(folder.path().join("fingerpost.toml"), "fingerpost = 2\n")?;
    /// # std::fs::write(folder.path().join("a.html"), "<style>p { color: teal }</style><p>Boats")?;
    /// // a.html: <style>p { color: teal }</style><p>Boats
    /// let mut site = Site::of_folder(folder.path())?;
    /// let set = |property, value| Intent::new("a.html", "p", Change::set(property, value));
    /// let script = [set("color", "navy"), set("margin-top", "1rem")];
    /// let outcome = site.session()?.script("A darker notice", &script)?;
    /// assert_eq!(outcome.summary, "A darker notice: 2 changes");
    ///
    /// let undone = site.session()?.undo()?;
    /// assert_eq!(undone.summary, "undone: A darker notice (2 changes)");
    /// assert!(site.draft().is_empty());
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// As [`Session::try_edit`], with the number of the edit.
    pub fn script(&mut self, name: &str, intents: &[Intent]) -> Result<Outcome, ChangeError> {
        let start = self.site.shared_draft();
        let mut view = self.site.view(start.clone());
        let mut all = Outcome::saying("");
        let mut bases = Bases::new();
        let mut pages = HashMap::new();
        // The effect of several is worked out once, for all of them.
        let scope = match intents {
            [_] => self.scope,
            _ => Scope::Nothing,
        };
        for (at, intent) in intents.iter().enumerate() {
            let intent = &self.site.with_page(intent, &mut pages);
            let of_script = |error| ChangeError::Script {
                number: at + 1,
                error: Box::new(error),
            };
            let mut step = self.tried(&view, intent, scope);
            if let Err(error) = &step
                && let Some(sheet) = error.missing_overrides()
            {
                let (making, intent) = self.with_new_sheet(intent, sheet).map_err(of_script)?;
                let made = self.tried(&view, &making, Scope::Nothing);
                taken(&mut all, made.map_err(of_script)?, &mut view, &mut bases);
                step = self.tried(&view, &intent, scope);
            }
            taken(&mut all, step.map_err(of_script)?, &mut view, &mut bases);
        }
        all.files = self.site.differences(&view);
        if self.scope == Scope::Site && all.effect.is_none() {
            all.effect = Some(crate::impact::draft::unasked(self.site, &view)?);
        }
        all.change = all.edits.last().map(|added| added.change);
        let (mut name, mut summary) = (name.to_owned(), String::new());
        match (&all.edits[..], intents) {
            ([one], _) => summary.clone_from(&one.summary),
            ([making, one], [_]) => {
                name.clone_from(&one.summary);
                summary = format!("{}; {}", one.summary, making.summary);
            }
            (many, _) => summary = format!("{name}: {} changes", many.len()),
        }
        all.summary = summary;
        let mut draft = view.shared_draft();
        if let [_, _, ..] = &all.edits[..] {
            let ids: Vec<u32> = all.edits.iter().map(|added| added.change).collect();
            Arc::make_mut(&mut draft).group(&name, &ids);
        }
        self.site.write_draft(draft, &bases)?;
        self.site.last = None;
        Ok(all)
    }

    /// One edit of a script, over what the ones before it leave.
    fn tried(&self, view: &View, intent: &Intent, scope: Scope) -> Result<Attempt, ChangeError> {
        let draft = view.shared_draft();
        let join = |edit, bases: &Bases| draft.with(edit, bases);
        let page = view.shared_page(&intent.page, &self.environment)?;
        let intent = self.with_number_of_start(intent, &page)?;
        self.attempt(view, page, &intent, &join, scope)
    }

    /// A change for an override sheet that is not there: the edit that makes the sheet, and the change in it. The link moves what
    /// is below it, so a place becomes the number of the element that is there.
    fn with_new_sheet(
        &self,
        intent: &Intent,
        sheet: &SitePath,
    ) -> Result<(Intent, Intent), ChangeError> {
        let mut change = intent.clone();
        change.into = Destination::File(sheet.clone());
        if matches!(
            intent.element.as_ref().map(ElementQuery::read_as),
            Some(ReadAs::Place | ReadAs::Line)
        ) {
            let page = self.site.shared_page(&intent.page, &self.environment)?;
            if let Ok([target]) = subjects(&page, intent).as_deref() {
                change.element = Some(ElementQuery::naming(page.document(), target));
            }
        }
        let making = crate::advice::making(intent, sheet, Pages::Every);
        Ok((making, change))
    }

    /// An intent of a script whose element is named by its number: the number is that of the page as the script found it, while
    /// edits of the script before this one may have moved the element.
    fn with_number_of_start<'i>(
        &self,
        intent: &'i Intent,
        now: &Page,
    ) -> Result<Cow<'i, Intent>, ChangeError> {
        let Some(number) = intent.element.as_ref().and_then(ElementQuery::number) else {
            return Ok(Cow::Borrowed(intent));
        };
        let start = self.site.shared_page(&intent.page, &self.environment)?;
        let elements = start.document().elements();
        let moved = elements
            .get(number as usize)
            .and_then(|id| now.document().carry(start.document(), *id));
        let Some(moved) = moved.map(|id| now.document().element(id).index) else {
            // Whoever looks it up says that it is gone.
            return Ok(Cow::Borrowed(intent));
        };
        let mut carried = intent.clone();
        carried.element = intent.element.clone().map(|query| query.with_number(moved));
        Ok(Cow::Owned(carried))
    }

    fn intent_of(&self, change: u32) -> Result<Intent, ChangeError> {
        let found = self.site.draft().edit(change);
        let entry = found.ok_or(ChangeError::NoSuchChange { change })?;
        Ok(entry.intent.clone())
    }

    /// Makes an edit over what there is without a change of the draft, and puts it in its place.
    fn made_in_place_of(&mut self, change: u32, intent: &Intent) -> Result<Outcome, ChangeError> {
        if self.site.draft().edit(change).is_none() {
            return Err(ChangeError::NoSuchChange { change });
        }
        let bare = self.site.with_only(|entry| entry.id != change);
        let page = bare.shared_page(&intent.page, &self.environment)?;
        let draft = self.site.shared_draft();
        let join = |edit, bases: &Bases| {
            let made = draft.with_in_place_of(change, edit, bases)?;
            // That the draft has it was looked at above.
            Ok(made.unwrap_or_else(|| (Draft::clone(&draft), change)))
        };
        let attempt = self.attempt(&bare, page, intent, &join, self.scope)?;
        let mut outcome = self.accept(attempt, draft.clone())?;
        self.site.last = None;
        if let Some(new) = outcome.change {
            outcome.summary = format!("change {change} is now change {new}: {}", outcome.summary);
        }
        Ok(outcome)
    }

    /// Makes an edit of a state of the site, and looks at what it does. Nothing is changed yet.
    fn attempt(
        &self,
        base: &Site,
        page: Arc<Page>,
        intent: &Intent,
        join: Join<'_>,
        scope: Scope,
    ) -> Result<Attempt, ChangeError> {
        let refused = |error| ChangeError::Edit {
            error,
            intent: Box::new(intent.clone()),
        };
        let targets: Vec<Target> = subjects(&page, intent).map_err(refused)?;
        let asked: Vec<ElementId> = targets.iter().map(|target| target.element).collect();
        let held = self.element_states.on(&page, &asked);
        let held = held.map_err(|error| refused(error.into()))?;
        let in_states: &Page = held.as_ref().unwrap_or(&page);
        let edit = base.make_of(in_states, intent, &targets).map_err(refused)?;
        let bases = base.bases_with(&edit)?;
        let joined = join(edit.clone(), &bases);
        let (draft, id) = joined.map_err(|source| base.draft_error(source))?;
        let draft = Arc::new(draft);
        let after = base.view(draft.clone());
        let mut files = self.site.differences(&after);
        // The edit's own page or sheet first.
        let at = |file: &ChangedFile| edit.files().position(|name| name == file.before.name());
        files.sort_by_key(|file| at(file).unwrap_or(usize::MAX));
        let told = match scope {
            Scope::Nothing => None,
            scope => {
                let made = Made {
                    before: base,
                    after: &after,
                    page: in_states,
                    targets: &targets,
                    edit: &edit,
                    element_states: &self.element_states,
                };
                Some(made.told(scope == Scope::Page)?)
            }
        };
        drop(after);
        Ok(Attempt {
            id,
            draft: Arc::unwrap_or_clone(draft),
            bases,
            page,
            edit,
            files,
            told,
        })
    }

    /// Writes an attempt down; `before` is the draft without it.
    fn accept(&mut self, attempt: Attempt, before: Arc<Draft>) -> Result<Outcome, ChangeError> {
        let Attempt {
            id,
            draft,
            bases,
            page,
            edit,
            files,
            told,
        } = attempt;
        let draft = Arc::new(draft);
        self.site.write_draft(draft.clone(), &bases)?;
        self.site.last = Some(LastChange {
            id,
            before,
            after: draft,
            page,
        });
        let mut outcome = Outcome::saying(&edit.summary);
        outcome.change = Some(id);
        outcome.files = files;
        outcome.warnings.clone_from(&edit.warnings);
        let mut details = None;
        if let Some((own, effect, advice)) = told {
            outcome.warnings.extend(own.beaten.iter().cloned());
            outcome.effect = Some(effect);
            outcome.advice = advice;
            details = Some(own);
        }
        outcome.edits.push(Added {
            change: id,
            summary: edit.summary,
            warnings: edit.warnings,
            details,
        });
        Ok(outcome)
    }
}
