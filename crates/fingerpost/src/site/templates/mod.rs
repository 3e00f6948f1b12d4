//! The templates that a server makes pages from, and where in them a piece of a page's markup is written.
//!
//! No file holds a page that a server sends. A change of its markup goes into the one template that writes the changed part: found
//! as the same text, else by following the page's text through the template, with anything in the place of what the server
//! prints. What the server prints comes from data, and is refused with the tag that prints it.

mod align;
mod data;
mod language;
mod search;

use std::sync::Arc;

use super::Site;
use crate::edit::{Edit, EditError, FileChange};
use crate::markup::ElementId;
use crate::page::Page;
use crate::text::{DecodeHint, Patch, Replacement, Text};
use align::Template;
pub(crate) use language::template_endings;
use search::{Found, Search};

/// Folders of these names hold what pages are made from.
pub(crate) const TEMPLATE_FOLDERS: [&str; 8] = [
    "templates",
    "layouts",
    "_layouts",
    "_includes",
    "includes",
    "partials",
    "views",
    "fragments",
];

impl Site {
    /// The templates that `fingerpost.toml` names, with their texts as the draft leaves them.
    pub(crate) fn templates(&self) -> Vec<Arc<Text>> {
        if self.config.templates.is_empty() || self.root.is_nowhere() {
            return Vec::new();
        }
        let mut builder = ignore::overrides::OverrideBuilder::new(self.root.path());
        for pattern in &self.config.templates {
            // A pattern that is none names no file.
            let _ = builder.add(pattern);
        }
        let Ok(patterns) = builder.build() else {
            return Vec::new();
        };
        let walk = ignore::WalkBuilder::new(self.root.path())
            .require_git(false)
            .overrides(patterns)
            .build();
        let mut names: Vec<String> = walk
            .flatten()
            .filter(|entry| entry.file_type().is_some_and(|t| t.is_file()))
            .map(|entry| super::site_name(entry.path(), self.root.path()))
            .collect();
        names.sort();
        self.template_texts(&names)
    }

    /// The templates of pages that a server makes: those that the configuration names, else the files whose endings or folders
    /// say so.
    pub(super) fn templates_of_server(&self) -> Vec<Arc<Text>> {
        if !self.config.templates.is_empty() {
            return self.templates();
        }
        let mut endings: Vec<&str> = template_endings().collect();
        endings.extend(super::PAGE_ENDINGS);
        let mut names = self.files(&endings);
        names.retain(|name| {
            let folders = name.rsplit_once('/').map_or("", |(folders, _)| folders);
            let ending = name.rsplit_once('.').map_or("", |(_, ending)| ending);
            !super::PAGE_ENDINGS.contains(&ending)
                || folders
                    .split('/')
                    .any(|folder| TEMPLATE_FOLDERS.contains(&folder))
        });
        self.template_texts(&names)
    }

    fn template_texts(&self, names: &[String]) -> Vec<Arc<Text>> {
        let texts = names.iter().map(|name| self.text(name, DecodeHint::Html));
        texts.filter_map(Result::ok).collect()
    }

    /// Adds to the changes of a page that a server makes those of the templates that it is made from, and makes them on the page
    /// wherever else the same part of a template writes it.
    pub(super) fn follow_templates(
        &self,
        page: &Page,
        targets: &[ElementId],
        edit: &mut Edit,
    ) -> Result<(), EditError> {
        let url = page.document().text().name();
        let Some(change) = edit.changes.iter_mut().find(|change| change.file == url) else {
            return Ok(());
        };
        let templates = self.templates_of_server();
        let templates: Vec<Template> = templates.into_iter().map(Template::new).collect();
        let search = Search {
            site: self,
            page,
            targets,
            templates: &templates,
        };
        let mut found: Vec<(String, Vec<Replacement>)> = Vec::new();
        let mut on_page: Vec<Replacement> = Vec::new();
        for replacement in change.patch.replacements() {
            let Found {
                template,
                own,
                repeated,
            } = search.place(replacement)?;
            if repeated.len() > 1 {
                let place = template.text.place(own.range.start());
                edit.warnings.push(format!(
                    "{place} writes this {} times on this page; all of them change",
                    repeated.len()
                ));
            }
            on_page.extend(repeated.into_iter().map(|range| Replacement {
                range,
                with: replacement.with.clone(),
            }));
            let file = template.text.name();
            match found.iter_mut().find(|(name, _)| name == file) {
                Some((_, known)) if known.contains(&own) => {}
                Some((_, known)) => known.push(own),
                None => found.push((file.to_owned(), vec![own])),
            }
        }
        on_page.sort_by_key(|replacement| replacement.range.start());
        on_page.dedup();
        let one_by_one = |place: &str| EditError::NotThere {
            place: place.to_owned(),
            why: "two of the changes are one in the template; make them one after the other"
                .to_owned(),
        };
        change.patch = Patch::new(on_page).map_err(|_| one_by_one(url))?;
        let mut all = Vec::new();
        for (file, replacements) in found {
            let patch = Patch::new(replacements).map_err(|_| one_by_one(&file))?;
            all.push(FileChange::new(&file, patch));
        }
        all.append(&mut edit.changes);
        edit.changes = all;
        edit.warnings.dedup();
        Ok(())
    }
}
