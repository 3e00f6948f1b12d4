//! `respell`: a class, an id or a custom property has another name everywhere: in the markup of all
//! pages and templates, in sheets, and in the sources that sheets are made from.

use std::collections::BTreeSet;
use std::sync::Arc;

use serde::{Deserialize, Serialize};

use crate::edit::check::warnings::REFERENCES;
use crate::edit::check::{document_changed, sheets_changed};
use crate::edit::error::EditError;
use crate::edit::expected::{MarkupOp, StyleOp, Tag};
use crate::edit::file_change::FileChange;
use crate::edit::kinds::info::{About, Example, Holds, KindInfo, MARKUP, required};
use crate::edit::kinds::{Kind, SummaryContext};
use crate::edit::proposal::{At, Proposal};
use crate::edit::rewrite::lines::replacement;
use crate::markup::{Attribute, Document, ElementId, NodeKind, Written};
use crate::page::Target;
use crate::selector::escaped;
use crate::sheet::{RuleKind, Sheet, Token, TokenKind};
use crate::text::{Cut, Patch, Replacement, TextRange, TextSize};

/// A class, an id or a custom property has another name everywhere.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Rename {
    /// What it is a name of.
    pub what: Named,
    /// The name: `fare`, `fares-head`, `--brand`.
    pub from: String,
    /// The other name.
    pub to: String,
}

/// What has a name.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
#[non_exhaustive]
pub enum Named {
    /// A class.
    Class,
    /// An id, and what refers to it.
    Id,
    /// A custom property.
    CustomProperty,
}

/// What a person gives for it.
pub(super) const INFO: KindInfo = KindInfo {
    name: "rename",
    does: "Rename a class, an id or a custom property everywhere in the site",
    more: "Pages, templates, sheets and the sources of built sheets change. Scripts do not, and those that contain the name are listed.",
    about: About::Site,
    destinations: MARKUP,
    fields: &[
        required(
            "what",
            "What it is the name of",
            Holds::Choice(&["class", "id", "custom-property"]),
        ),
        required("from", "Its name", Holds::Name),
        required("to", "The new name", Holds::Name),
    ],
    example: Example {
        before: r#"<style>.today { top: 0 }</style><h2 class="today">Boats</h2>"#,
        element: "",
        change: r#"{"what":"class","from":"today","to":"now"}"#,
        after: r#"<style>.now { top: 0 }</style><h2 class="now">Boats</h2>"#,
    },
    demo: r#"{"page":"pages/home.html","change":{"rename":{"what":"class","from":"fare-best","to":"fare-cheapest"}}}"#,
};

impl Kind for Rename {
    fn info(&self) -> &'static KindInfo {
        &INFO
    }

    fn make(&self, at: &At<'_, '_>, _target: Option<&Target>) -> Result<Proposal, EditError> {
        self.check_names()?;
        let page = at.page();
        let mut made = Proposal::default();
        let mut markup = Counted::default();
        let mut styles = Counted::default();
        let mut taken = false;
        let own = page.document().text().name();
        let others = at.around.pages.others(own);
        for document in std::iter::once(page.document()).chain(others) {
            let found = self.in_document(document);
            taken |= found.taken;
            markup.count(found.markup, document.text().name());
            styles.count(found.styles, document.text().name());
            if found.changes.is_empty() {
                continue;
            }
            let patch = Patch::new(found.changes).expect("names don't overlap");
            document_changed(document, &patch, &found.op, &found.sheets)?;
            made.changes
                .push(FileChange::new(document.text().name(), patch));
        }
        let mut seen: BTreeSet<&str> = BTreeSet::new();
        let listed = page.sheets().iter().map(|s| s.styles.sheet().text());
        let linked = listed.filter(|text| text.name() != own);
        for text in linked.chain(&at.around.sheets).chain(&at.around.templates) {
            let known = made.changes.iter().any(|c| c.file == text.name());
            if !seen.insert(text.name()) || known {
                continue;
            }
            if is_sheet(text.name()) {
                let sheet = Sheet::parse(text.clone(), text.span());
                let found = self.in_sheet(&sheet);
                taken |= found.taken;
                styles.count(found.count, text.name());
                if found.changes.is_empty() {
                    continue;
                }
                let patch = Patch::new(found.changes).expect("names don't overlap");
                if text.name().ends_with(".css") {
                    sheets_changed(&sheet, &patch, &found.ops)?;
                }
                made.changes.push(FileChange::new(text.name(), patch));
            } else if at.around.templates.iter().any(|t| Arc::ptr_eq(t, text)) {
                let document = Document::parse(text.clone());
                let found = self.in_document(&document);
                taken |= found.taken;
                markup.count(found.markup, text.name());
                styles.count(found.styles, text.name());
                if !found.changes.is_empty() {
                    let patch = Patch::new(found.changes).expect("names don't overlap");
                    made.changes.push(FileChange::new(text.name(), patch));
                }
            }
        }
        if made.changes.is_empty() {
            return Err(EditError::Nothing {
                why: format!("nothing in the site is called {}", self.shown(&self.from)),
            });
        }
        made.warnings.extend(self.warnings(taken));
        let counts = [markup.summary("markup"), styles.summary("styles")];
        let counts: Vec<String> = counts.into_iter().flatten().collect();
        made.was = Some(counts.join(", "));
        // Each file was looked at by itself.
        made.checked = true;
        made.followed = true;
        Ok(made)
    }

    fn summary(&self, told: &SummaryContext<'_>) -> String {
        format!(
            "rename {} to {} everywhere: {}",
            self.shown(&self.from),
            self.shown(&self.to),
            told.was
        )
    }
}

/// How many places there are, and in which files.
#[derive(Default)]
struct Counted {
    places: usize,
    files: BTreeSet<String>,
}

impl Counted {
    fn count(&mut self, places: usize, file: &str) {
        if places > 0 {
            self.places += places;
            self.files.insert(file.to_owned());
        }
    }

    fn summary(&self, what: &str) -> Option<String> {
        if self.places == 0 {
            return None;
        }
        let many = |count: usize, one: &str| match count {
            1 => format!("1 {one}"),
            count => format!("{count} {one}s"),
        };
        Some(format!(
            "{} in the {what} of {}",
            many(self.places, "place"),
            many(self.files.len(), "file")
        ))
    }
}

#[derive(Default)]
struct InDocument {
    changes: Vec<Replacement>,
    op: MarkupOp,
    /// The embedded sheets, by their elements, with what changes in each.
    sheets: Vec<(ElementId, Vec<StyleOp>)>,
    markup: usize,
    styles: usize,
    taken: bool,
}

#[derive(Default)]
struct InStyles {
    changes: Vec<Replacement>,
    ops: Vec<StyleOp>,
    count: usize,
    taken: bool,
}

impl InStyles {
    /// Takes up the replacements in a piece of the source, and gives the piece's new text; none where
    /// nothing of it changes.
    fn respelt(&mut self, source: &str, piece: TextRange, own: Vec<Replacement>) -> Option<String> {
        if own.is_empty() {
            return None;
        }
        self.count += own.len();
        let patch = Patch::new(own.clone()).expect("names don't overlap");
        self.changes.extend(own);
        Some(moved_back(&patch, piece).put_into(source.cut(piece)))
    }
}

fn is_sheet(name: &str) -> bool {
    ["css", "scss", "less"].iter().any(|e| {
        name.rsplit('.')
            .next()
            .is_some_and(|x| x.eq_ignore_ascii_case(e))
    })
}

impl Rename {
    fn check_names(&self) -> Result<(), EditError> {
        let what = match self.what {
            Named::Class => "a class",
            Named::Id => "an id",
            Named::CustomProperty => "a custom property, such as --brand",
        };
        for name in [&self.from, &self.to] {
            let is_custom = name.starts_with("--") && name.len() > 2;
            let fits = match self.what {
                Named::CustomProperty => is_custom && !name.contains(char::is_whitespace),
                _ => !name.is_empty() && !name.contains(char::is_whitespace),
            };
            if !fits {
                return Err(EditError::InvalidName {
                    what,
                    name: name.clone(),
                });
            }
        }
        match self.from == self.to {
            true => Err(EditError::Nothing {
                why: "both names are the same".to_owned(),
            }),
            false => Ok(()),
        }
    }

    /// `taken` says whether something has the new name already.
    fn warnings(&self, taken: bool) -> Vec<String> {
        let mut warnings = Vec::new();
        if taken {
            warnings.push(format!(
                "{} is in use already: what had either name has the same one now",
                self.shown(&self.to)
            ));
        }
        if self.what != Named::CustomProperty {
            warnings.push("scripts that use the old name are not changed".to_owned());
        }
        warnings
    }

    fn shown(&self, name: &str) -> String {
        match self.what {
            Named::Class => format!(".{name}"),
            Named::Id => format!("#{name}"),
            Named::CustomProperty => name.to_owned(),
        }
    }

    fn in_document(&self, document: &Document) -> InDocument {
        let mut found = InDocument::default();
        let source = document.text().source();
        let inside = document.template_elements();
        for id in document.elements().iter().copied().chain(inside) {
            let element = document.element(id);
            if element.written != Written::Tag {
                continue;
            }
            let mut tag = Tag::of(element);
            let mut changed = false;
            for attribute in &element.attributes {
                if self.what == Named::CustomProperty {
                    if &*attribute.name == "style" && attribute.is_verbatim(source) {
                        let sheet =
                            Sheet::parse_attribute(document.text().clone(), attribute.value_span);
                        let own = self.in_sheet(&sheet);
                        if own.count > 0 {
                            found.styles += own.count;
                            let patch = Patch::new(own.changes.clone()).expect("names");
                            let moved = moved_back(&patch, attribute.value_span);
                            tag = tag.with("style", Some(&moved.put_into(&attribute.value)));
                            found.changes.extend(own.changes);
                            changed = true;
                        }
                        found.taken |= own.taken;
                    }
                    continue;
                }
                let (value, count, taken) = self.in_attribute(attribute);
                found.taken |= taken;
                if count == 0 || !attribute.is_verbatim(source) {
                    continue;
                }
                found.markup += count;
                let patch = crate::text::difference(source.cut(attribute.value_span), &value);
                let start = attribute.value_span.start();
                let all = patch.replacements().iter();
                found
                    .changes
                    .extend(all.map(|r| replacement(r.range + start, r.with.clone())));
                tag = tag.with(&attribute.name, Some(&value));
                changed = true;
            }
            if changed {
                found.op.gone.push(id);
                found.op.new.push(tag);
            }
            if element.is_html("style")
                && let Some(child) = document.children(id).next()
                && let NodeKind::Text(content) = &document.node(child).kind
                && let Some(span) = content.span()
            {
                let sheet = Sheet::parse(document.text().clone(), span);
                let own = self.in_sheet(&sheet);
                found.taken |= own.taken;
                if own.count > 0 {
                    found.styles += own.count;
                    found.changes.extend(own.changes);
                    found.sheets.push((id, own.ops));
                }
            }
        }
        found
    }

    /// An attribute's value with the other name, how often that is, and whether the other name is
    /// there already.
    fn in_attribute(&self, attribute: &Attribute) -> (String, usize, bool) {
        let name = &*attribute.name;
        let value = &*attribute.value;
        let words = match self.what {
            Named::Class => name == "class",
            Named::Id => REFERENCES.contains(&name) || name == "id",
            Named::CustomProperty => false,
        };
        if words {
            let mut count = 0;
            let mut taken = false;
            let mut out = String::new();
            for part in value.split_inclusive(|c: char| c.is_ascii_whitespace()) {
                let word = part.trim_end_matches(|c: char| c.is_ascii_whitespace());
                taken |= word == self.to;
                if word == self.from {
                    count += 1;
                    out.push_str(&self.to);
                    out.push_str(part.cut(word.len()..));
                } else {
                    out.push_str(part);
                }
            }
            return (out, count, taken);
        }
        if self.what == Named::Id
            && name == "href"
            && value.strip_prefix('#') == Some(self.from.as_str())
        {
            return (format!("#{}", self.to), 1, false);
        }
        (value.to_owned(), 0, false)
    }

    fn in_sheet(&self, sheet: &Sheet) -> InStyles {
        let mut found = InStyles::default();
        match self.what {
            Named::CustomProperty => self.in_declarations(sheet, &mut found),
            Named::Class | Named::Id => self.in_selectors(sheet, &mut found),
        }
        found
    }

    fn in_selectors(&self, sheet: &Sheet, found: &mut InStyles) {
        let source = sheet.text().source();
        let to = escaped(&self.to);
        for (id, rule) in sheet.rules() {
            if !matches!(
                rule.kind,
                RuleKind::Style | RuleKind::At(crate::sheet::AtRule::Scope)
            ) {
                continue;
            }
            let tokens = sheet.prelude_tokens(rule);
            let mut own = Vec::new();
            for (at, token) in tokens.iter().enumerate() {
                let (is_name, span) = match self.what {
                    Named::Class => {
                        let dot = at.checked_sub(1).and_then(|before| tokens.get(before));
                        let is_class = dot.is_some_and(|t| t.is_delim(source, '.'));
                        (token.kind == TokenKind::Ident && is_class, token.span())
                    }
                    _ => {
                        let hash = TextSize::of('#');
                        let name = TextRange::new(token.span().start() + hash, token.span().end());
                        (token.kind == TokenKind::IdHash, name)
                    }
                };
                if !is_name {
                    continue;
                }
                let name = token.name(source);
                found.taken |= name == self.to;
                if name == self.from {
                    own.push(replacement(span, to.clone()));
                }
            }
            if let Some(after) = found.respelt(source, rule.prelude, own) {
                found.ops.push(StyleOp::Prelude(id, after));
            }
        }
    }

    fn in_declarations(&self, sheet: &Sheet, found: &mut InStyles) {
        let source = sheet.text().source();
        let to = escaped(&self.to);
        let hits = |tokens: &[Token], found: &mut InStyles| {
            let mut own = Vec::new();
            for token in tokens {
                let name = token.name(source);
                found.taken |= name == self.to;
                if token.kind == TokenKind::Ident && name == self.from {
                    own.push(replacement(token.span(), to.clone()));
                }
            }
            own
        };
        for (id, declaration) in sheet.declarations() {
            let name = sheet.name_source(declaration);
            let written = crate::value::declared::unescaped(name);
            found.taken |= written == self.to;
            if written == self.from {
                found.count += 1;
                found
                    .changes
                    .push(replacement(declaration.name, to.clone()));
                found.ops.push(StyleOp::Name(id, to.clone()));
            }
            let own = hits(&sheet.value_tokens(declaration), found);
            if let Some(value) = found.respelt(source, declaration.value, own) {
                found.ops.push(StyleOp::Value(id, value));
            }
        }
        // `@property --x`, and `style(--x: …)` in a container query.
        for (id, rule) in sheet.rules() {
            if !matches!(rule.kind, RuleKind::At(_)) {
                continue;
            }
            let own = hits(&sheet.prelude_tokens(rule), found);
            if let Some(after) = found.respelt(source, rule.prelude, own) {
                found.ops.push(StyleOp::Prelude(id, after));
            }
        }
    }
}

/// A patch of a span, of the span's own text.
fn moved_back(patch: &Patch, span: TextRange) -> Patch {
    let all = patch.replacements().iter();
    let moved = all.map(|r| replacement(r.range - span.start(), r.with.clone()));
    Patch::new(moved.collect()).expect("they did not overlap before")
}
