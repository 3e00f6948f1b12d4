//! From an intent to an edit of the site's files: what the site knows besides the page, other pages, templates.

use crate::draft::Bases;
use crate::edit::{
    self, Destination, DestinationKind, Edit, EditError, FileChange, Intent, Pages, SiteContext,
    SitePages, make_in, make_of,
};
use crate::markup::ElementId;
use crate::page::{Page, Target};
use std::borrow::Cow;
use std::sync::Arc;

use crate::question::codes::RoleKind;
use crate::question::sheets::RoleAnswer;
use crate::text::{Authored, DecodeHint, Patch, SitePath, Text};

use super::{CONFIG_FILE, Site, SiteError, is_url};

/// Whether a change can go into a sheet that is named.
fn takes_sheet(intent: &Intent) -> bool {
    let takes = &intent.change.info().destinations;
    takes.contains(&DestinationKind::Overrides) && takes.contains(&DestinationKind::File)
}

impl Site {
    /// The files of the draft and of an edit as they are on disk.
    pub(crate) fn bases_with(&self, edit: &Edit) -> Result<Bases, SiteError> {
        let mut bases = self.bases()?;
        for file in edit.files() {
            if bases.contains_key(file) {
                continue;
            }
            self.one_name(file, bases.keys())?;
            let text = match self.base_text(file, self.hint(file)) {
                // A file that the edit makes is empty so far.
                Err(SiteError::Unreadable { source, .. })
                    if source.kind() == std::io::ErrorKind::NotFound =>
                {
                    Text::new(file, "")
                }
                found => found?,
            };
            bases.insert(file.to_owned(), text);
        }
        Ok(bases)
    }

    /// A file that the draft changes already under another name, by a link, is not changed under this one
    /// as well: the two would not know of each other.
    fn one_name<'a>(
        &self,
        file: &str,
        others: impl Iterator<Item = &'a String>,
    ) -> Result<(), SiteError> {
        if is_url(file) || self.root.is_nowhere() {
            return Ok(());
        }
        let real = self.root.real(&SitePath::new(file)?)?;
        for other in others.filter(|other| !is_url(other)) {
            if self.root.real(&SitePath::new(other)?)? == real {
                return Err(SiteError::SameFile {
                    file: file.to_owned(),
                    other: other.clone(),
                });
            }
        }
        Ok(())
    }

    /// The intent, with the override sheet where it is named by its file name alone.
    fn with_file_name(&self, intent: &Intent) -> Intent {
        let mut with_file_name = intent.clone();
        if let (Destination::File(name), Some(overrides)) = (&intent.into, &self.config.overrides)
            && overrides.as_str().rsplit('/').next() == Some(name.as_str())
            && !self.root.has(name)
        {
            with_file_name.into = Destination::Overrides;
        }
        with_file_name
    }

    /// Turns an intent into an edit of the site's files, over a page as the draft leaves it.
    ///
    /// # Errors
    /// Where the edit can't be made; see [`EditError`].
    pub fn make(&self, page: &Page, intent: &Intent) -> Result<Edit, EditError> {
        let targets = edit::subjects(page, intent)?;
        self.make_of(page, intent, &targets)
    }

    /// The same for elements that were looked up already.
    pub(crate) fn make_of(
        &self,
        page: &Page,
        intent: &Intent,
        targets: &[Target],
    ) -> Result<Edit, EditError> {
        let mut named = self.with_file_name(intent);
        if named.into == Destination::Overrides && self.config.overrides.is_none() {
            let sheet = self.override_sheet(page).map(|name| SitePath::new(&name));
            let Some(Ok(sheet)) = sheet else {
                let sheet = self.new_override_sheet(page);
                let config = CONFIG_FILE.to_owned();
                return Err(EditError::NoOverrideSheet { config, sheet });
            };
            named.into = Destination::File(sheet);
        }
        let intent = &named;
        let around = self.around(intent);
        let mut edit = make_of(page, intent, &around, targets)?;
        if is_url(page.document().text().name()) {
            let elements: Vec<ElementId> = targets.iter().map(|t| t.element).collect();
            self.follow_templates(page, &elements, &mut edit)?;
        }
        let (intent, around, mut edit) =
            self.where_it_lasts(page, intent, around, targets, edit)?;
        self.on_other_pages(page, &intent, &around, &mut edit)?;
        if let edit::Change::NewSheet(sheet) = &intent.change
            && sheet.overrides
        {
            edit.changes.extend(self.naming_overrides(&sheet.file));
        }
        Ok(edit)
    }

    /// The change that adds the override sheet's name to the configuration, if there is one that has no such name yet.
    /// Without a configuration the last of a page's own sheets is taken for it.
    fn naming_overrides(&self, sheet: &SitePath) -> Option<FileChange> {
        if self.config.overrides.is_some() {
            return None;
        }
        let name = SitePath::new(CONFIG_FILE).ok()?;
        let text = self
            .has_file(&name)
            .then(|| self.base_text(CONFIG_FILE, self.hint(CONFIG_FILE)).ok())??;
        let source = text.source();
        // Keys of the whole file come before its first table.
        let key = format!("override-sheet = {}\n", toml::Value::from(sheet.as_str()));
        let mut at = 0;
        for line in source.split_inclusive('\n') {
            if line.trim_start().starts_with('[') {
                break;
            }
            at += line.len();
            if line.trim_start().starts_with("fingerpost") {
                break;
            }
        }
        let after_break = source
            .get(..at)
            .is_none_or(|s| s.is_empty() || s.ends_with('\n'));
        let key = if after_break { key } else { format!("\n{key}") };
        let span = crate::text::span(at, at);
        Some(FileChange::new(CONFIG_FILE, Patch::single(span, key)))
    }

    /// The edit, where nothing else overwrites it: in the override sheet, if it would change a sheet that is built or of a package.
    /// Where the destination was chosen by name, the edit stays and says what will happen to it.
    fn where_it_lasts<'i>(
        &'i self,
        page: &Page,
        intent: &'i Intent,
        around: SiteContext<'i>,
        targets: &[Target],
        mut edit: Edit,
    ) -> Result<(Cow<'i, Intent>, SiteContext<'i>, Edit), EditError> {
        let stays = |edit| Ok((Cow::Borrowed(intent), around, edit));
        let own = page.document().text().name();
        if let Some(url) = edit.files().find(|file| is_url(file) && *file != own) {
            let url = url.to_owned();
            return Err(EditError::NoFile { url });
        }
        let Some((file, role)) = self.overwritten(page, &edit) else {
            edit.warnings.extend(self.built_as_a_whole());
            return stays(edit);
        };
        let sentence = role.sentence(&file);
        let writer = role.writer();
        if !intent.into.is_default()
            || !intent.change.info().takes(&Destination::Winning) && !takes_sheet(intent)
        {
            edit.warnings
                .push(format!("{sentence}: {writer} overwrites this change"));
            return stays(edit);
        }
        let chosen = self.override_sheet(page).filter(|_| takes_sheet(intent));
        let Some(sheet) = chosen.and_then(|name| SitePath::new(&name).ok()) else {
            let sheet = self.new_override_sheet(page);
            return Err(EditError::Overwritten {
                sentence,
                writer,
                sheet,
            });
        };
        let mut lasting = intent.clone();
        lasting.into = match self.config.overrides.as_ref() == Some(&sheet) {
            true => Destination::Overrides,
            false => Destination::File(sheet.clone()),
        };
        let around = self.around(&lasting);
        let mut edit = make_of(page, &lasting, &around, targets)?;
        let why = format!("it goes into {sheet}, because {sentence}: {writer} would overwrite it");
        edit.warnings.insert(0, why);
        Ok((Cow::Owned(lasting), around, edit))
    }

    /// A sheet that an edit changes, that something else writes, and whose sources are not changed along.
    fn overwritten(&self, page: &Page, edit: &Edit) -> Option<(String, Arc<RoleAnswer>)> {
        edit.files().find_map(|file| {
            let sheets = page
                .sheets()
                .iter()
                .map(|sheet| sheet.styles.sheet().text());
            let text = sheets.into_iter().find(|text| text.name() == file)?;
            let mut sources = text.authored().into_iter().flat_map(Authored::sources);
            if sources.any(|(source, _)| edit.files().any(|changed| changed == source)) {
                return None;
            }
            let role = self.role(file);
            role.is_overwritten().then(|| (file.to_owned(), role))
        })
    }

    /// The name of an override sheet that could be made: beside the theme's own sheets, where it has some.
    fn new_override_sheet(&self, page: &Page) -> SitePath {
        let linked = page.sheets().iter().filter(|sheet| sheet.is_linked());
        let names = linked.map(|sheet| sheet.styles.sheet().text().name().to_owned());
        let own = names
            .rev()
            .find(|name| self.role(name).kind != RoleKind::Vendor);
        let folder = own.and_then(|name| Some(name.rsplit_once('/')?.0.to_owned()));
        let folder = folder.filter(|folder| !is_url(folder));
        let free = |name: &String| SitePath::new(name).ok().filter(|path| !self.has_file(path));
        let names = ["overrides.css", "own-overrides.css", "site-overrides.css"].iter();
        let names = names.map(|name| match &folder {
            Some(folder) => format!("{folder}/{name}"),
            None => (*name).to_owned(),
        });
        let free = names.clone().find_map(|name| free(&name));
        free.unwrap_or_else(|| SitePath::new("overrides.css").expect("a plain name"))
    }

    /// What an edit may need to know besides its page.
    fn around(&self, intent: &Intent) -> SiteContext<'_> {
        let mut around = SiteContext {
            overrides: self.config.overrides.as_ref().map(ToString::to_string),
            ..SiteContext::default()
        };
        let everywhere = matches!(intent.change, edit::Change::Rename(_));
        // What is wanted on other pages as well does not reach too far there.
        if intent.pages == Pages::This || everywhere {
            let of_server = is_url(&intent.page) && !everywhere;
            around.pages = SitePages::new(move || {
                let mut documents = self.documents();
                let templates = self.templates_of(of_server);
                documents.retain(|d| !templates.iter().any(|t| t.name() == d.text().name()));
                documents
            });
        }
        if let edit::Change::NewSheet(sheet) = &intent.change {
            around.files = self.files(&["css"]);
            around.sheet_url = is_url(&intent.page).then(|| self.url_path(&sheet.file));
        }
        let css = DecodeHint::Css(encoding_rs::UTF_8);
        if everywhere {
            let names = self.files(&["css", "scss", "less"]);
            let texts = names.iter().filter_map(|name| self.text(name, css).ok());
            around.sheets = texts.collect();
            around.templates = self.templates();
            let pages = around.pages.all().iter();
            let pages: Vec<&str> = pages.map(|d| d.text().name()).collect();
            around.templates.retain(|t| !pages.contains(&t.name()));
            return around;
        }
        let named = match &intent.into {
            Destination::Overrides => self.config.overrides.as_ref().map(SitePath::as_str),
            Destination::File(name) => Some(name.as_str()),
            _ => None,
        };
        // One that can't be read is one that is not there.
        around
            .sheets
            .extend(named.and_then(|name| self.text(name, css).ok()));
        around
    }

    /// The templates, where the page is one that a server makes of them. Beside any other page they are looked at as pages.
    fn templates_of(&self, of_server: bool) -> Vec<Arc<Text>> {
        match of_server {
            true => self.templates_of_server(),
            false => Vec::new(),
        }
    }

    /// Makes the same change on other pages, where the intent asks for that, as a part of the edit.
    fn on_other_pages(
        &self,
        page: &Page,
        intent: &Intent,
        around: &SiteContext<'_>,
        edit: &mut Edit,
    ) -> Result<(), EditError> {
        let own = page.document().text().name();
        let (names, must) = match &intent.pages {
            Pages::This => return Ok(()),
            Pages::Every => {
                let mut names = self.pages();
                let templates = self.templates_of(is_url(own));
                names.retain(|name| !templates.iter().any(|t| t.name() == name));
                (names, false)
            }
            Pages::Also(names) => (names.clone(), true),
        };
        let mut count = 0;
        for name in names.iter().filter(|name| *name != own) {
            let other = match self.page(name, page.environment().clone()) {
                Ok(other) => other,
                Err(error) => {
                    return Err(EditError::NotThere {
                        place: name.clone(),
                        why: error.to_string(),
                    });
                }
            };
            let there = Intent {
                page: name.clone(),
                ..intent.clone()
            };
            match make_in(&other, &there, around) {
                Ok(made) => {
                    if let Some((file, role)) = self.overwritten(&other, &made) {
                        let why = role.sentence(&file);
                        let place = name.clone();
                        match (intent.into.is_default(), must) {
                            (true, true) => return Err(EditError::NotThere { place, why }),
                            (true, false) => {
                                edit.warnings.push(format!("left alone: {place}: {why}"));
                                continue;
                            }
                            (false, _) => {}
                        }
                    }
                    count += 1;
                    for change in made.changes {
                        let known = edit.changes.iter().find(|c| c.file == change.file);
                        match known {
                            Some(known) if known.patch == change.patch => {}
                            Some(_) => {
                                return Err(EditError::NotThere {
                                    place: name.clone(),
                                    why: format!(
                                        "{} would be changed once for each page; ask for that change \
                                         by itself",
                                        change.file
                                    ),
                                });
                            }
                            None => edit.changes.push(change),
                        }
                    }
                    for warning in made.warnings {
                        if !edit.warnings.contains(&warning) {
                            edit.warnings.push(warning);
                        }
                    }
                }
                Err(error) if error.is_an_answer() && !must => {}
                Err(EditError::NotThere { place, why }) if !must => {
                    edit.warnings.push(format!("left alone: {place}: {why}"));
                }
                Err(error) => return Err(error),
            }
        }
        match count {
            // What a server makes is one page here, and its template changes with it.
            0 if is_url(own) => {}
            // A site of one page has no others.
            0 if self.pages().len() < 2 => {}
            0 => edit
                .warnings
                .push("no other page of the site needs the change".to_owned()),
            1 => edit.summary.push_str(", and on 1 other page"),
            count => edit
                .summary
                .push_str(&format!(", and on {count} other pages")),
        }
        Ok(())
    }
}
