//! Fixtures: a page and its sheets in one short text.
//!
//! ```text
//! <link rel=stylesheet href=a.css><p>One ¤<b>two</b>
//! --- a.css
//! b { color: red }
//! ```
//!
//! The text before the first `---` line is the page `page.html`; `¤` stands before the element that
//! the test is about, and is removed.

#![allow(dead_code)]

use std::fs;
use std::path::Path;

use fingerpost::edit::{Change, Destination, Edit, EditError, Intent, make};
use fingerpost::environment::{Environment, Viewport};
use fingerpost::page::{LoadError, Page, PropertyName, Request, Target};
use fingerpost::question::trace::TraceAnswer;
use fingerpost::question::why::{ContestAnswer, WhyAnswer};
use fingerpost::text::{Text, TextSize};
use tempfile::TempDir;

pub struct Fixture {
    pub page: Page,
    pub target: Target,
}

impl Fixture {
    #[track_caller]
    pub fn new(text: &str) -> Fixture {
        Fixture::under(text, Environment::default())
    }

    #[track_caller]
    pub fn under(text: &str, environment: Environment) -> Fixture {
        let mut files: Vec<(String, String)> = vec![("page.html".to_owned(), String::new())];
        for line in text.trim_start_matches('\n').split_inclusive('\n') {
            match line.strip_prefix("--- ") {
                Some(name) => files.push((name.trim().to_owned(), String::new())),
                None => files.last_mut().unwrap().1.push_str(line),
            }
        }
        let html = files.remove(0).1;
        let mark = html.find('¤');
        let html = html.replace('¤', "");
        let page = Page::builder(Text::new("page.html", html))
            .environment(environment)
            .loader(|request: &Request<'_>| {
                let found = files.iter().find(|(name, _)| name == request.url);
                found
                    .map(|(name, source)| Text::new(name.as_str(), source.as_str()))
                    .ok_or_else(|| LoadError::Missing {
                        file: request.url.to_owned(),
                    })
            })
            .build();
        let element = match mark {
            Some(at) => {
                let document = page.document();
                let offset = TextSize::new(at as u32);
                let starts = |id| {
                    let element = document.element(id);
                    element.start_tag.start() == offset && !element.start_tag.is_empty()
                };
                let found = document.elements().iter().copied().find(|id| starts(*id));
                found.expect("an element starts at the mark")
            }
            None => page.document().root_element(),
        };
        Fixture {
            target: Target::from(element),
            page,
        }
    }

    /// An edit of the marked element.
    pub fn make(&self, change: Change) -> Result<Edit, EditError> {
        make(&self.page, &self.intent(change))
    }

    /// The same, in a place.
    pub fn make_at(&self, change: Change, into: Destination) -> Result<Edit, EditError> {
        let intent = Intent {
            into,
            ..self.intent(change)
        };
        make(&self.page, &intent)
    }

    /// An intent for the marked element.
    pub fn intent(&self, change: Change) -> Intent {
        let index = self.page.document().element(self.target.element).index;
        Intent::new("page.html", &format!("@{index}"), change)
    }

    /// A file of the page after an edit, which changes no other.
    #[track_caller]
    pub fn after(&self, edit: &Edit) -> String {
        let [change] = &edit.changes[..] else {
            panic!("one file changes: {edit:?}");
        };
        let sheets = self.page.sheets().iter().map(|s| s.styles.sheet().text());
        let mut texts = sheets.chain([self.page.document().text()]);
        let base = texts.find(|t| t.name() == change.file).unwrap();
        let after = change.patch.apply(base.source()).unwrap();
        let back = change.patch.invert(base.source()).apply(&after).unwrap();
        assert_eq!(back, base.source(), "the inverse takes it back");
        after
    }

    pub fn why(&self, property: &str) -> WhyAnswer {
        let property = PropertyName::named(property).expect("a known property");
        self.page.ask().why(&self.target, &property)
    }

    pub fn contest(&self, property: &str) -> ContestAnswer {
        self.why(property).contests.remove(0)
    }

    pub fn computed(&self, property: &str) -> String {
        self.contest(property).value.computed
    }

    pub fn trace(&self) -> TraceAnswer {
        self.page.ask().trace(&self.target)
    }

    /// Each contender in a line: its rule, its value, and how it fared.
    pub fn story(&self, property: &str) -> Vec<String> {
        let contest = self.contest(property);
        let compete = contest.contenders.iter().map(|c| {
            let d = &c.declaration;
            format!(
                "{} {{{}: {}}} {}",
                d.rule.selector, d.property, d.value, c.sentence
            )
        });
        let out = contest.excluded.iter().map(|e| {
            let d = &e.declaration;
            format!(
                "{} {{{}: {}}} out: {}",
                d.rule.selector, d.property, d.value, e.sentence
            )
        });
        compete.chain(out).collect()
    }
}

pub fn wide(width: f64) -> Environment {
    Environment {
        viewport: Viewport {
            width,
            height: 800.0,
        },
        ..Environment::default()
    }
}

/// A copy of the demo theme.
pub fn demo_copy() -> TempDir {
    let folder = TempDir::new().unwrap();
    copy(
        &Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/skerry-line"),
        folder.path(),
    );
    folder
}

fn copy(from: &Path, to: &Path) {
    for entry in fs::read_dir(from).unwrap() {
        let entry = entry.unwrap();
        let target = to.join(entry.file_name());
        if entry.file_type().unwrap().is_dir() {
            fs::create_dir_all(&target).unwrap();
            copy(&entry.path(), &target);
        } else {
            fs::copy(entry.path(), target).unwrap();
        }
    }
}
