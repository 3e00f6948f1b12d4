//! Random sequences of edits over the demo theme and over real themes: whatever is tried, switched and
//! undone, only the patched bytes change, and everything can be undone.
//!
//! Each sequence is made of intents, as a person would ask for them, on elements of a page; those that
//! an element refuses are counted.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use crate::cases::cases;
use crate::numbers::Numbers;
use fingerpost::draft::{Bases, Draft, EditState};
use fingerpost::edit::{Change, Destination, Edit, Intent, Side, kinds, make};
use fingerpost::environment::Environment;
use fingerpost::page::{LoadError, Page, Request, Target};
use fingerpost::text::{DecodeHint, Text};

/// The texts of a page and its sheets, by the URL that asks for them.
struct Theme {
    page: String,
    texts: BTreeMap<String, Arc<Text>>,
}

impl Theme {
    fn new(page: &str, files: &[(&str, PathBuf)]) -> Theme {
        let texts = files.iter().map(|(name, path)| {
            let bytes = std::fs::read(path).unwrap_or_else(|e| panic!("{}: {e}", path.display()));
            let hint = match name.ends_with(".css") {
                true => DecodeHint::Css(encoding_rs::UTF_8),
                false => DecodeHint::Html,
            };
            (
                (*name).to_owned(),
                Text::decode(*name, bytes, hint).unwrap(),
            )
        });
        Theme {
            page: page.to_owned(),
            texts: texts.collect(),
        }
    }

    fn page(&self, texts: &Bases) -> Page {
        let page = texts.get(&self.page).or(self.texts.get(&self.page));
        let page = page.cloned().expect("the page is one of the files");
        Page::builder(page)
            .loader(|request: &Request<'_>| self.sheet(texts, request.url, request.from))
            .build()
    }

    /// The page from one that was read before.
    fn reparsed(&self, before: &Page, texts: &Bases) -> Page {
        let page = texts[&self.page].clone();
        Page::builder(page)
            .after(before)
            .environment(Environment::default())
            .loader(|request: &Request<'_>| self.sheet(texts, request.url, request.from))
            .build()
    }

    fn sheet(&self, texts: &Bases, url: &str, from: &str) -> Result<Arc<Text>, LoadError> {
        let text = |name: &str| texts.get(name).or(self.texts.get(name)).cloned();
        let name = url.trim_start_matches(['/', '.']).trim_start_matches('/');
        let beside = from.rsplit_once('/').map_or("", |(folder, _)| folder);
        let found = text(name).or_else(|| text(&format!("{beside}/{name}")));
        found.ok_or_else(|| LoadError::Missing {
            file: name.to_owned(),
        })
    }

    fn bases(&self) -> Bases {
        self.texts.clone()
    }
}

/// A change as a person would ask for it.
fn change(numbers: &mut Numbers) -> Change {
    const VALUES: [(&str, &str); 10] = [
        ("color", "navy"),
        ("color", "var(--brand)"),
        ("padding", "4px 1em"),
        ("padding-left", "9px"),
        ("margin-top", "-1px"),
        ("background-color", "rgb(1 2 3 / .5)"),
        ("font-size", "1.1em"),
        ("display", "grid"),
        ("border-color", "teal"),
        ("letter-spacing", ".02em"),
    ];
    let (property, value) = VALUES[numbers.below(VALUES.len())];
    let name = || property.to_owned();
    let markup = numbers.one(&[
        "<b>x</b>",
        "<p>\n  new\n</p>",
        "text",
        "<!-- note -->",
        "<hr>",
    ]);
    let side = [Side::Before, Side::After, Side::First, Side::Last][numbers.below(4)];
    match numbers.below(22) {
        0..=2 => Change::set(property, value),
        3 => Change::add(property, value),
        4 => Change::add("top", "3px"),
        5 => Change::RemoveDeclaration(kinds::RemoveDeclaration { property: name() }),
        6 => Change::Disable(kinds::Disable { property: name() }),
        7 => Change::Enable(kinds::Enable { property: name() }),
        8 => Change::Important(kinds::Important {
            property: name(),
            remove: numbers.below(2) != 0,
        }),
        9 => Change::Step(kinds::Step {
            property: name(),
            by: numbers.one(&["+", "-", "++", "+.5"]).to_owned(),
        }),
        10 => Change::ChangeProperty(kinds::ChangeProperty {
            property: name(),
            to: "background-color".to_owned(),
        }),
        11 => Change::Rule(kinds::Rule {
            selector: (numbers.below(2) == 0).then(|| ".new-rule".to_owned()),
            declarations: format!("{property}: {value}; top: 0"),
        }),
        12 => Change::Class(kinds::Class {
            changes: vec!["+tried".to_owned()],
        }),
        13 => Change::Attribute(kinds::Attribute {
            name: "title".to_owned(),
            value: "a \"b\" & c".to_owned(),
            remove: false,
        }),
        14 => Change::Text(kinds::Text {
            text: "Ünîcode & <more>".to_owned(),
            from: None,
        }),
        15 => Change::Tag(kinds::Tag {
            name: numbers.one(&["p", "div", "h3"]).to_owned(),
        }),
        16 => Change::Insert(kinds::Insert {
            source: markup.to_owned(),
            side,
        }),
        17 => Change::Duplicate(kinds::Duplicate {}),
        18 => Change::RemoveElement(kinds::RemoveElement {}),
        19 => Change::Wrap(kinds::Wrap {
            tag: "<div class=\"wrapped\">".to_owned(),
        }),
        20 => Change::Unwrap(kinds::Unwrap {}),
        _ => Change::Markup(kinds::Markup {
            source: markup.to_owned(),
            inner: numbers.below(2) == 0,
        }),
    }
}

/// All that is said of the rules and values of one element.
fn told(page: &Page, index: usize) -> String {
    let ask = page.ask();
    let target = Target::from(page.document().elements()[index]);
    let rules = ask.trace(&target);
    let values = ask.values(&target, None, true);
    let failed = page.failures().len();
    let rules = serde_json::to_string(&rules).unwrap();
    format!(
        "{rules}\n{}\n{failed}",
        serde_json::to_string(&values).unwrap()
    )
}

#[derive(Default)]
struct Tally {
    sequences: usize,
    edits: usize,
    refused: usize,
    not_applied: usize,
}

/// One file's bytes that a patch does not name are the same before and after.
fn outside_is_untouched(edit: &Edit, before: &Bases, after: &Bases) {
    for change in &edit.changes {
        let (old, new) = (&before[&change.file], &after[&change.file]);
        assert_eq!(
            change.patch.apply(old.source()).unwrap(),
            new.source(),
            "{}",
            edit.summary
        );
        let back = change.patch.invert(old.source());
        assert_eq!(
            back.apply(new.source()).unwrap(),
            old.source(),
            "{}",
            edit.summary
        );
        let (mut from, mut to) = (0, 0);
        let (old_bytes, new_bytes) = (old.to_bytes(), new.to_bytes());
        // The same bytes before, between and after the replacements; all files are UTF-8.
        let mark = old_bytes.len() - old.source().len();
        for (replacement, reverse) in change.patch.replacements().iter().zip(back.replacements()) {
            let (start, end) = (
                usize::from(replacement.range.start()),
                usize::from(reverse.range.start()),
            );
            assert_eq!(
                old_bytes[mark + from..mark + start],
                new_bytes[mark + to..mark + end]
            );
            from = replacement.range.end().into();
            to = reverse.range.end().into();
        }
        assert_eq!(
            old_bytes[mark + from..],
            new_bytes[mark + to..],
            "{}",
            edit.summary
        );
    }
}

fn run(theme: &Theme, sequences: usize, longest: usize, seed: u64) -> Tally {
    let mut numbers = Numbers(seed);
    let mut tally = Tally::default();
    let bases = theme.bases();
    let all = |draft: &Draft| {
        let mut texts = bases.clone();
        texts.extend(draft.replay(&bases).unwrap().texts);
        texts
    };
    let sources =
        |texts: &Bases| -> Vec<String> { texts.values().map(|t| t.source().to_owned()).collect() };
    for _ in 0..sequences {
        tally.sequences += 1;
        let mut draft = Draft::default();
        let mut history = vec![sources(&bases)];
        for _ in 0..1 + numbers.below(longest) {
            let before = all(&draft);
            let page = theme.page(&before);
            let index = numbers.below(page.document().elements().len());
            let mut intent = Intent::new(&theme.page, &format!("@{index}"), change(&mut numbers));
            let styles = matches!(intent.change, Change::Set(_) | Change::Rule(_));
            if styles && numbers.below(4) == 0 {
                intent.into = Destination::Page;
            }
            let Ok(edit) = make(&page, &intent) else {
                tally.refused += 1;
                continue;
            };
            draft.push(edit.clone(), &bases).unwrap();
            tally.edits += 1;
            let after = all(&draft);
            outside_is_untouched(&edit, &before, &after);
            // Read again from its bytes, a text is the same.
            for text in after.values() {
                let hint = match text.name().ends_with(".css") {
                    true => DecodeHint::Css(encoding_rs::UTF_8),
                    false => DecodeHint::Html,
                };
                let again = Text::decode(text.name(), text.to_bytes(), hint).unwrap();
                assert_eq!(again.source(), text.source());
            }
            history.push(sources(&after));
            // What is taken from the page before is what a fresh page works out.
            let reparsed = theme.reparsed(&page, &after);
            let fresh = theme.page(&after);
            let index = numbers.below(fresh.document().elements().len());
            assert_eq!(
                told(&reparsed, index),
                told(&fresh, index),
                "{}",
                edit.summary
            );
        }
        let last = history.last().unwrap().clone();
        // Off and on again is nothing; off, and what needs it is not applied, never elsewhere.
        let ids: Vec<u32> = draft.edits().map(|t| t.id).collect();
        for id in &ids {
            draft.switch(*id, false);
            tally.not_applied += draft.replay(&bases).unwrap().not_applied.len();
            draft.switch(*id, true);
            assert_eq!(sources(&all(&draft)), last);
        }
        // The last one off is as if it had never been made.
        if let Some(id) = ids.last() {
            draft.switch(*id, false);
            assert_eq!(sources(&all(&draft)), history[history.len() - 2]);
            draft.switch(*id, true);
        }
        // The file of the draft keeps everything.
        let mut read = Draft::from_json(&draft.to_json()).unwrap();
        assert_eq!(sources(&all(&read)), last);
        // Taken back step by step, each text is there again.
        let switches = 2 * ids.len() + 2 * usize::from(!ids.is_empty());
        for _ in 0..switches {
            read.undo().unwrap();
        }
        for texts in history.iter().rev().skip(1) {
            read.undo().unwrap();
            assert_eq!(sources(&all(&read)), *texts);
        }
        assert!(read.edits().next().is_none());
        assert!(draft.edits().all(|t| t.state == EditState::On));
        // A line more at the top of every file, by another hand: the edits are carried over.
        let moved: Bases = bases
            .iter()
            .filter(|(name, _)| name.ends_with(".css"))
            .map(|(name, text)| {
                (
                    name.clone(),
                    Text::new(name, format!("/* top */\n{}", text.source())),
                )
            })
            .collect();
        let mut now = bases.clone();
        now.extend(moved);
        let (draft, _) = draft.carried(&bases, &now, &BTreeMap::new()).unwrap();
        if draft.edits().all(|t| t.conflict.is_none()) {
            for (text, was) in draft
                .replay(&now)
                .unwrap()
                .texts
                .values()
                .zip(draft_files(&draft, &last, &bases))
            {
                let wanted = match text.name().ends_with(".css") {
                    true => format!("/* top */\n{was}"),
                    false => was,
                };
                assert_eq!(text.source(), wanted, "{}", text.name());
            }
        }
    }
    tally
}

/// The last texts of the files that a draft is about, in their order.
fn draft_files(draft: &Draft, last: &[String], bases: &Bases) -> Vec<String> {
    let names: Vec<&str> = draft.files().collect();
    let all = bases.keys().zip(last);
    all.filter(|(name, _)| names.contains(&name.as_str()))
        .map(|(_, text)| text.clone())
        .collect()
}

fn judge(name: &str, tally: &Tally) {
    println!(
        "{name}: {} sequences, {} edits, {} refused, {} found adrift",
        tally.sequences, tally.edits, tally.refused, tally.not_applied
    );
    assert!(tally.edits > tally.sequences, "{name}: too little is tried");
}

/// A theme from the registry, or a line that says why there is none.
fn theme(package: &str) -> Option<PathBuf> {
    match crate::themes::fetched(package) {
        Ok(folder) => Some(folder),
        Err(reason) => {
            println!("skipped {package}: {reason}");
            None
        }
    }
}

#[test]
fn sequences_over_a_page_of_the_demo() {
    over_the_demo("pages/home.html");
}

#[test]
fn sequences_over_another_page_of_the_demo() {
    over_the_demo("pages/fares.html");
}

fn over_the_demo(page: &str) {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/skerry-line");
    let sheets = [
        "css/base.css",
        "css/overrides.css",
        "css/skerry.css",
        "css/parts/panel.css",
        "css/parts/tags.css",
        "css/parts/print.css",
        "css/fares.css",
    ];
    let mut files: Vec<(&str, PathBuf)> = sheets.iter().map(|s| (*s, root.join(s))).collect();
    files.push((page, root.join(page)));
    judge(
        page,
        &run(&Theme::new(page, &files), cases(20), 8, 0x1234_5678_9abc),
    );
}

#[test]
fn sequences_over_bootstrap() {
    let Some(package) = theme("bootstrap@5") else {
        return;
    };
    let page = Path::new(env!("CARGO_MANIFEST_DIR")).join("themes/bootstrap.html");
    let files = [
        ("bootstrap.css", package.join("dist/css/bootstrap.css")),
        ("bootstrap.html", page),
    ];
    judge(
        "bootstrap",
        &run(
            &Theme::new("bootstrap.html", &files),
            cases(8),
            6,
            0xfeed_beef,
        ),
    );
}

#[test]
fn sequences_over_an_admin_theme() {
    let Some(package) = theme("startbootstrap-sb-admin@7") else {
        return;
    };
    let files = [
        ("css/styles.css", package.join("dist/css/styles.css")),
        ("index.html", package.join("dist/index.html")),
    ];
    judge(
        "sb-admin",
        &run(&Theme::new("index.html", &files), cases(8), 6, 0xabad_cafe),
    );
}
