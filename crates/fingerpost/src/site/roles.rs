//! What each file of a site is: the theme's own, built from other files, of a package, the override sheet, a page, a template. A
//! change lasts only in a file that nothing else writes.
//!
//! ```
//! use fingerpost::prelude::*;
//! use fingerpost::question::codes::RoleKind;
//! use fingerpost::site::View;
//!
//! let site = View::in_memory([
//!     Text::new("css/theme.css", "p { color: teal }"),
//!     Text::new("css/theme.min.css", "p{color:teal}"),
//!     Text::new("vendor/icons/icons.css", ".icon { top: 0 }"),
//! ])?;
//! assert_eq!(site.role("css/theme.css").kind, RoleKind::Authored);
//! let built = site.role("css/theme.min.css");
//! assert_eq!(built.kind, RoleKind::Built);
//! assert_eq!(built.from, ["css/theme.css"]);
//! assert_eq!(site.role("vendor/icons/icons.css").kind, RoleKind::Vendor);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use std::sync::{Arc, PoisonError};

use crate::page::Page;
use crate::parallel;
use crate::question::bundle::{minified, parts_of};
use crate::question::codes::RoleKind;
use crate::question::inventory::{Inventory, SiteSheet};
use crate::question::sheets::RoleAnswer;
use crate::sheet::Sheet;
use crate::text::{DecodeHint, SitePath, Text};

use super::config::Role;
use super::maps::MapReading;
use super::{PAGE_ENDINGS, Site, is_url};

/// The folders into which packages are put.
const PACKAGE_FOLDERS: [&str; 7] = [
    "node_modules",
    "bower_components",
    "vendor",
    "vendors",
    "third-party",
    "third_party",
    "external",
];

/// The folders into which builds write.
const BUILD_FOLDERS: [&str; 5] = ["dist", "build", "_site", "out", "public"];

/// The endings of files that sheets are built from.
const SOURCES: [&str; 4] = ["scss", "sass", "less", "styl"];

impl RoleAnswer {
    fn new(kind: RoleKind) -> RoleAnswer {
        RoleAnswer {
            kind,
            evidence: Vec::new(),
            from: Vec::new(),
        }
    }

    fn because(kind: RoleKind, evidence: impl Into<String>) -> RoleAnswer {
        RoleAnswer {
            evidence: vec![evidence.into()],
            ..RoleAnswer::new(kind)
        }
    }

    /// Whether something else writes the file, so that a change of it is overwritten.
    pub fn is_overwritten(&self) -> bool {
        matches!(self.kind, RoleKind::Built | RoleKind::Vendor)
    }

    /// Who overwrites it.
    pub(crate) fn writer(&self) -> &'static str {
        match self.kind {
            RoleKind::Vendor => "the next update of its package",
            _ => "its next build",
        }
    }

    /// `css/a.min.css is built (it is minified)`.
    pub(crate) fn sentence(&self, file: &str) -> String {
        let what = match self.kind {
            RoleKind::Vendor => "a vendor sheet",
            _ => "built",
        };
        format!("{file} is {what} ({})", self.evidence.join("; "))
    }
}

/// What is known of files, by name, each with the text that it was said of.
pub(super) type KnownRoles = Arc<std::sync::Mutex<Vec<(Arc<Text>, Arc<RoleAnswer>)>>>;

/// Words in the names of sheets that are there to change others.
const NAMES_OF_OVERRIDES: [&str; 5] = ["override", "custom", "tweak", "local", "own"];

impl Site {
    /// What a file of the site is, and how that is known. What `fingerpost.toml` says counts before what the file looks like.
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
    /// let site = Site::of_folder(folder.path())?;
    /// let role = site.role("a.css");
    /// assert_eq!(role.kind.as_str(), "authored");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn role(&self, file: &str) -> Arc<RoleAnswer> {
        if is_url(file) {
            return Arc::new(RoleAnswer::new(RoleKind::Remote));
        }
        let Ok(text) = self.base_text(file, self.hint(file)) else {
            return Arc::new(RoleAnswer::new(match SitePath::new(file) {
                Ok(_) => RoleKind::Authored,
                Err(_) => RoleKind::Outside,
            }));
        };
        let known = || self.roles.lock().unwrap_or_else(PoisonError::into_inner);
        let found = known()
            .iter()
            .find(|(of, _)| Arc::ptr_eq(of, &text))
            .cloned();
        if let Some((_, role)) = found {
            return role;
        }
        let role = Arc::new(self.role_of(file, &text));
        let mut known = known();
        known.retain(|(of, _)| of.name() != text.name());
        known.push((text, role.clone()));
        role
    }

    fn role_of(&self, file: &str, text: &Arc<Text>) -> RoleAnswer {
        if self
            .config
            .overrides
            .as_ref()
            .is_some_and(|name| name.as_str() == file)
        {
            return RoleAnswer::because(RoleKind::Overrides, "the configuration names it");
        }
        if let Some(role) = self.configured(file) {
            return RoleAnswer::because(role, "the configuration says so");
        }
        let (folders, name) = file.rsplit_once('/').unwrap_or(("", file));
        let (stem, ending) = name.rsplit_once('.').unwrap_or((name, ""));
        if PAGE_ENDINGS.contains(&ending) {
            let is_template = self
                .templates()
                .iter()
                .any(|template| template.name() == file);
            return RoleAnswer::new(match is_template {
                true => RoleKind::Template,
                false => RoleKind::Page,
            });
        }
        if let Some(folder) = folders.split('/').find(|f| PACKAGE_FOLDERS.contains(f)) {
            let evidence = format!("it is in the folder {folder}");
            return RoleAnswer::because(RoleKind::Vendor, evidence);
        }
        if let Some(package) = self.package_of(folders) {
            let evidence = format!("it is in the package of {package}");
            return RoleAnswer::because(RoleKind::Vendor, evidence);
        }
        if ending != "css" {
            return RoleAnswer::new(RoleKind::Authored);
        }
        self.built(file, stem, text)
    }

    /// Whether a sheet is built, by every sign of it.
    fn built(&self, file: &str, stem: &str, text: &Arc<Text>) -> RoleAnswer {
        let mut role = RoleAnswer::new(RoleKind::Built);
        match self.read_map(text) {
            MapReading::Read => role.evidence.push("it has a source map".to_owned()),
            MapReading::Failed(why) => role.evidence.push(why),
            MapReading::NoMap | MapReading::Itself => {}
        }
        if let Some(map) = text.authored() {
            role.from = map.sources().map(|(name, _)| name.to_owned()).collect();
        }
        role.evidence.extend(minified(text.source()));
        let plain = stem.strip_suffix(".min").unwrap_or(stem);
        for twin in self.twins(file, stem, plain) {
            if !role.from.contains(&twin) {
                role.evidence.push(format!("{twin} has its name"));
                role.from.push(twin);
            }
        }
        if role.evidence.is_empty() && stem != plain {
            role.evidence
                .push("its name says that it is minified".to_owned());
        }
        if role.evidence.is_empty() {
            let parts = parts_of(&Sheet::parse(text.clone(), text.span()), &self.all_sheets());
            if parts.len() > 1 {
                let shown = parts.join(" and ");
                role.evidence
                    .push(format!("it contains the rules of {shown}"));
                role.from = parts;
            }
        }
        match role.evidence.is_empty() {
            true => RoleAnswer::new(RoleKind::Authored),
            false => role,
        }
    }

    /// The files that a sheet of that name is built from: a source of its name anywhere, or the same sheet without `.min`.
    fn twins(&self, file: &str, stem: &str, plain: &str) -> Vec<String> {
        let mut twins: Vec<String> = self.files(&SOURCES);
        twins.retain(|other| {
            let name = other.rsplit('/').next().unwrap_or(other);
            name.rsplit_once('.')
                .is_some_and(|(other, _)| other == plain)
        });
        if stem != plain {
            let beside = file.replace(".min.", ".");
            let is_there =
                |name: &String| SitePath::new(name).is_ok_and(|path| self.has_file(&path));
            twins.extend(Some(beside).filter(is_there));
        }
        twins
    }

    /// The package file above a folder, below the site's root.
    fn package_of(&self, folders: &str) -> Option<String> {
        let mut folder = folders;
        while !folder.is_empty() {
            let name = format!("{folder}/package.json");
            if SitePath::new(&name).is_ok_and(|path| self.has_file(&path)) {
                return Some(name);
            }
            folder = folder.rsplit_once('/').map_or("", |(above, _)| above);
        }
        None
    }

    /// The role that the configuration gives a file.
    fn configured(&self, file: &str) -> Option<RoleKind> {
        let says = |role: &&Role| {
            let mut builder = ignore::gitignore::GitignoreBuilder::new("");
            // A pattern that is none names no file.
            let _ = builder.add_line(None, &role.files);
            let patterns = builder.build();
            patterns.is_ok_and(|patterns| patterns.matched(file, false).is_ignore())
        };
        let said = self.config.role.iter().find(says)?;
        said.is.parse().ok()
    }

    /// The sheets of the site, without the pages that have them.
    fn all_sheets(&self) -> Inventory {
        let sheets = parallel::map(self.files(&["css", "scss", "less"]), |name| {
            let text = self.text(&name, DecodeHint::Css(encoding_rs::UTF_8)).ok()?;
            Some(SiteSheet {
                sheet: Sheet::parse(text.clone(), text.span()),
                text,
                pages: Vec::new(),
            })
        });
        Inventory {
            sheets: sheets.into_iter().flatten().collect(),
            documents: Vec::new(),
        }
    }

    /// That the whole site looks like what a build wrote: its folder is called as those are, and the sources are beside it.
    pub(super) fn built_as_a_whole(&self) -> Option<String> {
        let folder = self.root.path();
        let name = folder.file_name()?.to_str()?;
        let sources = folder.parent()?.join("src");
        (BUILD_FOLDERS.contains(&name) && sources.is_dir()).then(|| {
            format!("the folder {name} looks like the output of a build, with its sources in src beside it: the next build may overwrite this change")
        })
    }

    /// Where a site's own changes to a page go: the override sheet that the configuration names, else the last sheet that the page
    /// links, where that is the theme's own and there to change others: its name says so, or a larger sheet comes before it.
    pub fn override_sheet(&self, page: &Page) -> Option<String> {
        if let Some(named) = &self.config.overrides {
            return Some(named.to_string());
        }
        let linked = page.sheets().iter().filter(|sheet| sheet.is_linked());
        let linked: Vec<&Sheet> = linked.map(|listed| listed.styles.sheet()).collect();
        let (last, before) = linked.split_last()?;
        let name = last.text().name();
        let stem = name.rsplit('/').next().unwrap_or(name).to_ascii_lowercase();
        let is_named = NAMES_OF_OVERRIDES.iter().any(|word| stem.contains(word));
        let overrides_others = before
            .iter()
            .any(|other| other.rule_count() > last.rule_count());
        let is_own = self.role(name).kind == RoleKind::Authored;
        (is_own && (is_named || overrides_others)).then(|| name.to_owned())
    }
}
