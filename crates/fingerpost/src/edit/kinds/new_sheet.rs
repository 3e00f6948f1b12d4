//! `new-sheet`: a new sheet, linked on pages as the last or after another one.

use serde::{Deserialize, Serialize};

use crate::edit::error::EditError;
use crate::edit::expected::{MarkupOp, Meant, Tag};
use crate::edit::file_change::FileChange;
use crate::edit::given::one_sheet;
use crate::edit::intent::Side;
use crate::edit::kinds::info::{About, Example, Holds, KindInfo, MARKUP, flag, named, required};
use crate::edit::kinds::{Kind, SummaryContext};
use crate::edit::proposal::{At, Proposal};
use crate::edit::rewrite::lines::insertion;
use crate::edit::rewrite::source_layout::SourceLayout;
use crate::markup::ElementId;
use crate::page::Target;
use crate::text::{Cut, Patch, SitePath, TextRange};

/// A new sheet, linked on the page and on others.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct NewSheet {
    /// Its file, relative to the site's root.
    pub file: SitePath,
    /// What is in it.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub source: String,
    /// The sheet behind whose link it is linked, as the page names it; after the last without it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub after: Option<String>,
    /// Whether it becomes the site's override sheet: a configuration that names none names it.
    #[serde(default, skip_serializing_if = "crate::edit::is_false")]
    pub overrides: bool,
}

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "new-sheet",
    does: "Make a sheet and link it last, or after another one",
    more: "",
    about: About::Pages,
    destinations: MARKUP,
    fields: &[
        required(
            "file",
            "The new sheet's file, relative to the site's root; a file that is there is only linked",
            Holds::Sheet,
        ),
        named("source", "Its contents", Holds::Css),
        named(
            "after",
            "The sheet after whose link it is linked",
            Holds::Sheet,
        ),
        flag(
            "overrides",
            "Make it the override sheet: the configuration names it",
        ),
    ],
    example: Example {
        before: "<head>\n<title>Boats</title>\n</head>",
        element: "",
        change: r#"{"file":"b.css"}"#,
        after: "<head>\n<title>Boats</title>\n<link rel=\"stylesheet\" href=\"b.css\">\n</head>",
    },
    demo: r#"{"page":"pages/home.html","pages":"every","change":{"new-sheet":{"file":"css/winter.css"}}}"#,
};

impl Kind for NewSheet {
    fn info(&self) -> &'static KindInfo {
        &INFO
    }

    fn make(&self, at: &At<'_, '_>, _target: Option<&Target>) -> Result<Proposal, EditError> {
        if !self.file.ends_with(".css") {
            return Err(EditError::InvalidName {
                what: "the name of a sheet, such as css/winter.css",
                name: self.file.to_string(),
            });
        }
        one_sheet(&self.source)?;
        let is_new = !at.around.files.iter().any(|file| *file == *self.file);
        let mut changes = Vec::new();
        let mut meant = Meant::default();
        let mut warnings = Vec::new();
        if is_new {
            let mut text = self.source.clone();
            if text.is_empty() {
                text = format!("/* {} */\n", self.file);
            }
            if !text.ends_with('\n') {
                text.push('\n');
            }
            let patch = Patch::single(TextRange::default(), text);
            changes.push(FileChange::new(&self.file, patch));
        } else if !self.source.is_empty() {
            return Err(EditError::NotThere {
                place: self.file.to_string(),
                why: "the file is there already; change it with other edits".to_owned(),
            });
        }
        match self.linked(at)? {
            Some((change, tag)) => {
                changes.push(change);
                meant = Meant::markup(MarkupOp {
                    new: vec![tag],
                    reshapes: true,
                    ..MarkupOp::default()
                });
            }
            None if is_new => {
                warnings.push(format!("{} is linked there already", self.file));
            }
            None => {
                return Err(EditError::Nothing {
                    why: format!("{} is there and linked already", self.file),
                });
            }
        }
        Ok(Proposal {
            changes,
            meant,
            warnings,
            ..Proposal::default()
        })
    }

    fn summary(&self, told: &SummaryContext<'_>) -> String {
        match &self.after {
            Some(after) => format!("link {} on {} after {after}", self.file, told.on),
            None => format!("link {} on {} as the last sheet", self.file, told.on),
        }
    }

    fn is_markup(&self) -> bool {
        true
    }
}

impl NewSheet {
    /// The change that links the sheet on a page; none where it is linked already.
    fn linked(&self, at: &At<'_, '_>) -> Result<Option<(FileChange, Tag)>, EditError> {
        let page = at.page();
        let document = page.document();
        let name = document.text().name();
        let own = |id: &ElementId| document.element(*id);
        let links: Vec<ElementId> = document
            .elements()
            .iter()
            .copied()
            .filter(|id| {
                let element = own(id);
                let sheet = element.attribute("rel").is_some_and(|rel| {
                    rel.split_ascii_whitespace()
                        .any(|word| word.eq_ignore_ascii_case("stylesheet"))
                });
                element.is_html("link") && sheet || element.is_html("style")
            })
            .collect();
        // As the sheet beside it is linked: from the server's root, or from the page.
        let from_page = relative(name, &self.file);
        let served = at.around.sheet_url.clone();
        let is_served = served.is_some();
        let from_root = served.unwrap_or_else(|| format!("/{}", self.file));
        let hrefs: Vec<&str> = links
            .iter()
            .filter_map(|id| own(id).attribute("href"))
            .collect();
        if hrefs.contains(&&*from_page) || hrefs.contains(&&*from_root) {
            return Ok(None);
        }
        let rooted = |href: &&str| {
            let file = href.strip_prefix('/').unwrap_or_default();
            page.sheets()
                .iter()
                .any(|s| s.styles.sheet().text().name() == file)
        };
        let href = match is_served || hrefs.last().is_some_and(rooted) {
            true => from_root,
            false => from_page,
        };
        let beside = match &self.after {
            Some(after) => {
                let wanted = relative(name, after);
                let named = |id: &&ElementId| {
                    let found = own(id).attribute("href");
                    found.is_some_and(|h| h == wanted || h.trim_start_matches('/') == after)
                };
                let found = links.iter().find(named);
                Some(*found.ok_or_else(|| EditError::NotThere {
                    place: name.to_owned(),
                    why: format!("the page does not link {after}"),
                })?)
            }
            None => links.last().copied(),
        };
        let markup = format!("<link rel=\"stylesheet\" href=\"{}\">", escaped(&href));
        let (place, with) = match beside {
            Some(id) => SourceLayout::of(page, id)?.beside(Side::After, &markup)?,
            None => {
                let elements = document.elements().iter().copied();
                let head = elements.into_iter().find(|id| own(id).is_html("head"));
                let head = head.ok_or(EditError::NoElement)?;
                if own(&head).written == crate::markup::Written::Tag {
                    SourceLayout::of(page, head)?.beside(Side::Last, &markup)?
                } else {
                    return Err(EditError::NotThere {
                        place: name.to_owned(),
                        why: "the page has no <head> and no sheet beside which the link could go"
                            .to_owned(),
                    });
                }
            }
        };
        let change = insertion(place, with);
        let patch = Patch::single(change.range, change.with);
        let tag = Tag::all_in(&markup).remove(0);
        Ok(Some((FileChange::new(name, patch), tag)))
    }
}

fn escaped(url: &str) -> String {
    url.replace('&', "&amp;").replace('"', "&quot;")
}

/// The URL of a file as seen from another one, both relative to the site's root.
fn relative(from: &str, file: &str) -> String {
    let folder: Vec<&str> = from.split('/').collect();
    let folder = folder.cut(..folder.len() - 1);
    let parts: Vec<&str> = file.split('/').collect();
    let same = folder
        .iter()
        .zip(&parts)
        .take_while(|(a, b)| a == b)
        .count();
    let same = same.min(parts.len() - 1);
    let up = std::iter::repeat_n("..", folder.len() - same);
    let url: Vec<&str> = up.chain(parts.cut(same..).iter().copied()).collect();
    url.join("/")
}
