//! The draft: edits on and off, discarded, undone and done again; what has lost its place; and
//! what a save leaves.

use std::sync::Arc;

use fingerpost::draft::{Bases, Draft};
use fingerpost::edit::{Destination, Edit, FileChange, Side, kinds};
use fingerpost::prelude::*;
use fingerpost::text::{Patch, Replacement, TextRange};
use proptest::prelude::*;

const CSS: &str = "h2 {\n  color: teal;\n  margin: 0 1em;\n}\n\n.note { color: gray }\n";

fn edit(patch: Patch) -> Edit {
    Edit {
        intent: Intent::new("a.html", "h2", Change::set("color", "")),
        summary: String::new(),
        changes: vec![FileChange::new("a.css", patch)],
        warnings: Vec::new(),
    }
}

fn replace(text: &str, what: &str, with: &str) -> Edit {
    let start = text.find(what).expect("it is there") as u32;
    let end = start + what.len() as u32;
    edit(Patch::single(
        TextRange::new(start.into(), end.into()),
        with,
    ))
}

struct Desk {
    base: Arc<Text>,
    draft: Draft,
}

impl Desk {
    fn new() -> Desk {
        Desk {
            base: Text::new("a.css", CSS),
            draft: Draft::default(),
        }
    }

    fn text(&self) -> String {
        self.draft.apply(&self.base).unwrap().source().to_owned()
    }

    fn change(&mut self, what: &str, with: &str) -> u32 {
        let edit = replace(&self.text(), what, with);
        self.push(edit)
    }

    fn bases(&self) -> Bases {
        Bases::from([("a.css".to_owned(), self.base.clone())])
    }

    fn push(&mut self, edit: Edit) -> u32 {
        let bases = self.bases();
        self.draft.push(edit, &bases).unwrap()
    }

    fn not_applied(&self) -> Vec<u32> {
        self.draft.replay(&self.bases()).unwrap().not_applied
    }
}

#[test]
fn an_edit_that_is_off_is_as_if_it_had_never_been_made() {
    let mut desk = Desk::new();
    let first = desk.change("teal", "navy");
    desk.change("0 1em", "0 2em");
    assert_eq!(desk.draft.switch(first, false), Some(true));
    assert_eq!(desk.text(), CSS.replace("0 1em", "0 2em"));
    assert_eq!(desk.draft.switch(first, false), Some(false));
    desk.draft.switch(first, true);
    assert_eq!(
        desk.text(),
        CSS.replace("0 1em", "0 2em").replace("teal", "navy")
    );
    assert_eq!(desk.draft.switch(99, true), None);
}

#[test]
fn steps_are_taken_back_and_done_again() {
    let mut desk = Desk::new();
    let first = desk.change("teal", "navy");
    desk.change("gray", "black");
    desk.draft.switch(first, false);
    desk.draft.discard(first);
    let last = desk.text();
    let mut seen = Vec::new();
    while desk.draft.undo().is_some() {
        seen.push(desk.text());
    }
    assert_eq!(seen.len(), 4);
    assert_eq!(seen.last().unwrap(), CSS);
    assert!(desk.draft.is_empty());
    while desk.draft.redo().is_some() {}
    assert_eq!(desk.text(), last);
    // Something new makes what was undone a thing of the past.
    desk.draft.undo();
    desk.change("black", "white");
    assert!(desk.draft.redo().is_none());
}

#[test]
fn an_edit_inside_what_another_put_in_is_adrift_without_it() {
    let mut desk = Desk::new();
    let rule = desk.change("\n\n.note", "\n\n.new { top: 0 }\n\n.note");
    let inside = desk.change("top: 0", "top: 1px");
    desk.draft.switch(rule, false);
    assert_eq!(desk.not_applied(), [inside]);
    // It is never put into a wrong place.
    assert_eq!(desk.text(), CSS);
    desk.draft.switch(rule, true);
    assert!(desk.not_applied().is_empty());
    assert!(desk.text().contains(".new { top: 1px }"));
}

#[test]
fn the_file_of_a_draft_keeps_everything() {
    let mut desk = Desk::new();
    let first = desk.change("teal", "navy");
    desk.change("navy", "olive");
    desk.draft.switch(first, false);
    desk.draft.undo();
    let mut read = Draft::from_json(&desk.draft.to_json()).unwrap();
    assert_eq!(read, desk.draft);
    read.redo();
    assert_eq!(
        read.apply(&desk.base).unwrap().source(),
        CSS.replace("teal", "olive")
    );
}

#[test]
fn a_save_keeps_what_is_off_and_refuses_what_is_adrift() {
    let folder = tempfile::tempdir().unwrap();
    let write = |name: &str, text: &str| std::fs::write(folder.path().join(name), text).unwrap();
    write("fingerpost.toml", "fingerpost = 2\n");
    write("a.css", CSS);
    write(
        "a.html",
        "<!doctype html><link rel=stylesheet href=a.css><h2>x</h2><p class=note>y",
    );
    let try_set = |site: &mut Site, element: &str, property: &str, value: &str| {
        let page = site.page("a.html", Environment::default()).unwrap();
        let intent = Intent::new("a.html", element, Change::set(property, value));
        let edit = site.make(&page, &intent).unwrap();
        site.session().unwrap().add(edit).unwrap();
    };
    let mut site = Site::of_folder(folder.path()).unwrap();
    try_set(&mut site, "h2", "color", "navy");
    try_set(&mut site, "h2", "margin", "0");
    try_set(&mut site, ".note", "color", "black");
    let switched = site.session().unwrap().switch(2, false).unwrap();
    assert_eq!(switched.summary, "change 2 is off");
    site.session().unwrap().save_all().unwrap();
    let saved = std::fs::read_to_string(folder.path().join("a.css")).unwrap();
    assert_eq!(saved, CSS.replace("teal", "navy").replace("gray", "black"));

    // The one that was off is still there, over the saved text, and can be saved later.
    let mut site = Site::of_folder(folder.path()).unwrap();
    let left: Vec<u32> = site.draft().edits().map(|t| t.id).collect();
    assert_eq!(left, [2]);
    site.session().unwrap().switch(2, true).unwrap();
    site.session().unwrap().save_all().unwrap();
    let again = std::fs::read_to_string(folder.path().join("a.css")).unwrap();
    assert_eq!(again, saved.replace("0 1em", "0"));

    let mut site = Site::of_folder(folder.path()).unwrap();
    let base = Text::new("a.css", again.as_str());
    let edit = replace(base.source(), ".note", ".x { top: 0 }\n.note");
    site.session().unwrap().add(edit).unwrap();
    let now = again.replace(".note", ".x { top: 0 }\n.note");
    site.session()
        .unwrap()
        .add(replace(&now, "top: 0", "top: 9px"))
        .unwrap();
    let first = site.draft().edits().next().unwrap().id;
    site.session().unwrap().switch(first, false).unwrap();
    assert_eq!(site.not_applied().unwrap(), [first + 1]);
    let refused = site.session().unwrap().save_all().unwrap_err().to_string();
    assert!(refused.contains("nothing was saved: change"), "{refused}");
    assert_eq!(
        std::fs::read_to_string(folder.path().join("a.css")).unwrap(),
        again
    );
}

#[test]
fn a_place_stays_the_same_whatever_is_tried_and_switched_later() {
    let mut desk = Desk::new();
    let at = |desk: &Desk, anchor| {
        let offset = desk.draft.offset(anchor)?;
        Some(desk.text()[usize::from(offset)..].to_owned())
    };
    let note = CSS.find(".note").unwrap() as u32;
    let anchor = desk.draft.anchor("a.css", note.into()).unwrap();
    let first = desk.change("teal", "mediumaquamarine");
    let rule = desk.change("1em;\n}\n", "1em;\n}\n\n.new { top: 0 }\n");
    assert!(
        at(&desk, &anchor)
            .unwrap()
            .starts_with(".note { color: gray }")
    );
    // A place in what an edit put in goes with the edit, and comes back with it.
    let new = desk.text().find(".new").unwrap() as u32;
    let inside = desk.draft.anchor("a.css", new.into()).unwrap();
    desk.draft.switch(first, false);
    assert!(at(&desk, &inside).unwrap().starts_with(".new { top: 0 }"));
    desk.draft.switch(rule, false);
    assert_eq!(at(&desk, &inside), None);
    assert!(at(&desk, &anchor).unwrap().starts_with(".note"));
    desk.draft.switch(rule, true);
    assert!(at(&desk, &inside).unwrap().starts_with(".new"));
    // A file that the draft is not about has its own places.
    let other = desk.draft.anchor("b.css", 7.into()).unwrap();
    assert_eq!(desk.draft.offset(&other), Some(7.into()));
}

#[test]
fn edits_of_several_files_are_tried_and_adrift_together() {
    let texts = [("a.css", "a { top: 0 }\n"), ("b.css", "b { top: 0 }\n")];
    let bases: Bases = texts
        .iter()
        .map(|(name, css)| ((*name).to_owned(), Text::new(*name, *css)))
        .collect();
    let both = |patches: [(u32, u32, &str); 2]| Edit {
        changes: patches
            .iter()
            .zip(["a.css", "b.css"])
            .map(|((start, end, with), file)| {
                let range = TextRange::new((*start).into(), (*end).into());
                FileChange::new(file, Patch::single(range, *with))
            })
            .collect(),
        ..edit(Patch::default())
    };
    let mut draft = Draft::default();
    let first = draft
        .push(both([(0, 0, "x { left: 0 }\n"), (9, 10, "1px")]), &bases)
        .unwrap();
    // Inside what the first put into one file, and beside it in the other.
    let second = draft
        .push(both([(10, 11, "5px"), (0, 1, "i")]), &bases)
        .unwrap();
    let source = |draft: &Draft, file: &str| {
        draft.replay(&bases).unwrap().texts[file]
            .source()
            .to_owned()
    };
    assert_eq!(source(&draft, "a.css"), "x { left: 5px }\na { top: 0 }\n");
    assert_eq!(source(&draft, "b.css"), "i { top: 1px }\n");
    draft.switch(first, false);
    // In conflict in one file, it is left out of the other too.
    assert_eq!(draft.replay(&bases).unwrap().not_applied, [second]);
    assert_eq!(source(&draft, "a.css"), texts[0].1);
    assert_eq!(source(&draft, "b.css"), texts[1].1);
}

#[test]
fn what_stands_in_what_is_adrift_is_adrift_too() {
    let mut desk = Desk::new();
    let rule = desk.change("\n\n.note", "\n\n.new { top: 0 }\n\n.note");
    let inside = desk.change("top: 0", "top: 1px; left: 2px");
    let deeper = desk.change("left: 2px", "left: 3px");
    desk.draft.switch(rule, false);
    assert_eq!(desk.not_applied(), [inside, deeper]);
    assert_eq!(desk.text(), CSS);
}

/// A step of a random desk: an edit at two places of the text, or a switch.
#[derive(Clone, Debug)]
enum Move {
    Edit(Vec<(usize, usize, String)>),
    Switch(usize),
    Undo,
    Redo,
}

fn moves() -> impl Strategy<Value = Vec<Move>> {
    let place = (0usize..400, 0usize..12, "[a-z:; {}é]{0,8}");
    let step = prop_oneof![
        5 => proptest::collection::vec(place, 1..3).prop_map(Move::Edit),
        3 => (0usize..12).prop_map(Move::Switch),
        1 => Just(Move::Undo),
        1 => Just(Move::Redo),
    ];
    proptest::collection::vec(step, 1..16)
}

/// A patch of a text at places that are taken round to its length.
fn patch_of(text: &str, places: &[(usize, usize, String)]) -> Option<Patch> {
    let snap = |at: usize| {
        let mut at = at % (text.len() + 1);
        while !text.is_char_boundary(at) {
            at -= 1;
        }
        at
    };
    let replacements = places.iter().map(|(start, length, with)| {
        let start = snap(*start);
        let end = snap((start + length).min(text.len())).max(start);
        Replacement {
            range: TextRange::new((start as u32).into(), (end as u32).into()),
            with: with.clone(),
        }
    });
    Patch::new(replacements.collect())
        .ok()
        .filter(|p| !p.is_empty())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    /// Whatever is tried, switched, undone and done again: every state is read again from its
    /// file, all undone gives the file's own bytes, and all done again gives the last text.
    #[test]
    fn any_sequence_can_be_taken_back(moves in moves()) {
        let mut desk = Desk::new();
        for step in &moves {
            match step {
                Move::Edit(places) => {
                    if let Some(patch) = patch_of(&desk.text(), places) {
                        desk.push(edit(patch));
                    }
                }
                Move::Switch(at) => {
                    let ids: Vec<u32> = desk.draft.edits().map(|t| t.id).collect();
                    if !ids.is_empty() {
                        let id = ids[at % ids.len()];
                        let on = desk.draft.edit(id).unwrap().state == fingerpost::draft::EditState::On;
                        desk.draft.switch(id, !on);
                    }
                }
                Move::Undo => { desk.draft.undo(); }
                Move::Redo => { desk.draft.redo(); }
            }
            let read = Draft::from_json(&desk.draft.to_json()).unwrap();
            let drafted = read.apply(&desk.base).unwrap();
            prop_assert_eq!(drafted.source(), desk.text());
        }
        let last = desk.text();
        let mut count = 0;
        while desk.draft.undo().is_some() { count += 1; }
        prop_assert_eq!(desk.text(), CSS);
        for _ in 0..count { desk.draft.redo(); }
        prop_assert_eq!(desk.text(), last);
    }

    /// An edit switched off and on again leaves the same text, and one switched off that no later
    /// edit touches gives what the others alone give.
    #[test]
    fn off_and_on_is_nothing(places in proptest::collection::vec((0usize..400, 0usize..6, "[a-z]{1,5}"), 2..8), which in 0usize..8) {
        let mut desk = Desk::new();
        for place in &places {
            if let Some(patch) = patch_of(&desk.text(), std::slice::from_ref(place)) {
                desk.push(edit(patch));
            }
        }
        let ids: Vec<u32> = desk.draft.edits().map(|t| t.id).collect();
        let id = ids[which % ids.len()];
        let before = desk.text();
        desk.draft.switch(id, false);
        desk.draft.switch(id, true);
        prop_assert_eq!(desk.text(), before);
        // The last edit of all off is as if it had never been made.
        let mut without = Desk::new();
        for place in &places[..places.len() - 1] {
            if let Some(patch) = patch_of(&without.text(), std::slice::from_ref(place)) {
                without.push(edit(patch));
            }
        }
        desk.draft.switch(*ids.last().unwrap(), false);
        prop_assert_eq!(desk.text(), without.text());
    }
}

/// Try, ask, save, open again, ask: the same answer, and only the meant line of the meant file.
#[test]
fn every_kind_of_edit_is_the_same_after_a_save() {
    let property = || "color".to_owned();
    let all = [
        Change::set("color", "navy"),
        Change::Step(kinds::Step {
            property: "font-size".to_owned(),
            by: "+1".to_owned(),
        }),
        Change::add("top", "1px"),
        Change::RemoveDeclaration(kinds::RemoveDeclaration {
            property: property(),
        }),
        Change::Disable(kinds::Disable {
            property: property(),
        }),
        Change::ChangeProperty(kinds::ChangeProperty {
            property: property(),
            to: "background-color".to_owned(),
        }),
        Change::Important(kinds::Important {
            property: property(),
            remove: false,
        }),
        Change::ConvertColor(kinds::ConvertColor {
            property: property(),
            to: "hsl".to_owned(),
            alpha: Some("0.5".to_owned()),
        }),
        Change::Rule(kinds::Rule {
            selector: Some("h2.today".to_owned()),
            declarations: "color: navy".to_owned(),
        }),
        Change::Selector(kinds::Selector {
            rule: "a.css:2".parse().unwrap(),
            how: kinds::SelectorChange::Add("p".to_owned()),
        }),
        Change::Selector(kinds::Selector {
            rule: "a.css:2".parse().unwrap(),
            how: kinds::SelectorChange::To("h3".to_owned()),
        }),
        Change::MoveRule(kinds::MoveRule {
            rule: "a.css:1".parse().unwrap(),
            beside: kinds::Beside::After("a.css:2".parse().unwrap()),
        }),
        Change::Class(kinds::Class {
            changes: vec!["-today".to_owned()],
        }),
        Change::Attribute(kinds::Attribute {
            name: "hidden".to_owned(),
            value: String::new(),
            remove: false,
        }),
        Change::Attribute(kinds::Attribute {
            name: "class".to_owned(),
            value: String::new(),
            remove: true,
        }),
        Change::Text(kinds::Text {
            text: "z & y".to_owned(),
            from: None,
        }),
        Change::Tag(kinds::Tag {
            name: "h3".to_owned(),
        }),
        Change::Markup(kinds::Markup {
            source: "<em>x</em>".to_owned(),
            inner: true,
        }),
        Change::Insert(kinds::Insert {
            source: "<p>new</p>".to_owned(),
            side: Side::Before,
        }),
        Change::Duplicate(kinds::Duplicate {}),
        Change::Wrap(kinds::Wrap {
            tag: "<div class=today>".to_owned(),
        }),
        Change::MoveElement(kinds::MoveElement {
            to: "p".to_owned(),
            side: Side::After,
        }),
        Change::RemoveElement(kinds::RemoveElement {}),
        Change::Unwrap(kinds::Unwrap {}),
        Change::Enable(kinds::Enable {
            property: "left".to_owned(),
        }),
        Change::CustomProperty(kinds::CustomProperty {
            name: "--x".to_owned(),
            value: "2px".to_owned(),
        }),
    ];
    let mut all: Vec<(Change, Destination)> =
        all.map(|change| (change, Destination::Sources)).into();
    all.push((Change::add("left", "2px"), Destination::Inline));
    all.push((Change::set("color", "navy"), Destination::Inline));
    all.push((
        Change::set("color", "navy"),
        Destination::Rule("a.css:1".parse().unwrap()),
    ));
    for (change, into) in all {
        let kind = format!("{change:?} {into:?}");
        let folder = tempfile::tempdir().unwrap();
        let write =
            |name: &str, text: &str| std::fs::write(folder.path().join(name), text).unwrap();
        write("fingerpost.toml", "fingerpost = 2\n");
        let css = "h2 { color: gray; /* left: 0; */ }\n.today {\r\n  color: teal;\n  font-size: 20px;\n}\n:root { --x: 1px }\n/* the end */\n";
        let html = "<!doctype html>\n<link rel=stylesheet href=a.css>\n<h2 class='today'>x</h2>\n<p>y</p>\n";
        write("a.css", css);
        write("a.html", html);
        // All that can be asked of every element.
        let answer = |site: &Site| {
            let page = site.page("a.html", Environment::default()).unwrap();
            let ask = page.ask();
            let mut told =
                serde_json::to_string(&page.ask().tree(page.document().root_element(), None))
                    .unwrap();
            for id in page.document().elements() {
                told += &serde_json::to_string(&ask.trace(Target::from(*id))).unwrap();
            }
            told
        };
        let mut site = Site::of_folder(folder.path()).unwrap();
        let untried = answer(&site);
        let page = site.page("a.html", Environment::default()).unwrap();
        let intent = Intent {
            into,
            ..Intent::new("a.html", "h2", change)
        };
        let edit = site.make(&page, &intent).unwrap();
        let file = edit.changes[0].file.clone();
        site.session().unwrap().add(edit).unwrap();
        let tried = answer(&site);
        assert!(tried != untried, "{kind}");
        let changes = site.session().unwrap().save_all().unwrap().files;
        assert_eq!(changes.len(), 1, "{kind}");
        drop(site);
        let saved = Site::of_folder(folder.path()).unwrap();
        assert!(saved.draft().is_empty(), "{kind}");
        assert!(answer(&saved) == tried, "{kind}");

        let (before, other) = if file == "a.css" {
            (css, "a.html")
        } else {
            (html, "a.css")
        };
        let after = std::fs::read_to_string(folder.path().join(&file)).unwrap();
        let changed = before
            .lines()
            .filter(|line| !after.lines().any(|l| l == *line))
            .count();
        assert!(changed <= 1, "{kind}: {after}");
        // Taking the save back gives the old bytes.
        let mut saved = saved;
        saved.session().unwrap().unsave().unwrap();
        let back = std::fs::read_to_string(folder.path().join(&file)).unwrap();
        assert_eq!(back, before, "{kind}");
        // The change is in the draft again.
        let mut again = Site::of_folder(folder.path()).unwrap();
        assert!(answer(&again) == tried, "{kind}");
        again.session().unwrap().discard(None).unwrap();
        assert!(
            answer(&Site::of_folder(folder.path()).unwrap()) == untried,
            "{kind}"
        );
        assert!(
            after.contains(" {\r\n") || file == "a.html",
            "{kind}: {after}"
        );
        let untouched = if other == "a.css" { css } else { html };
        assert_eq!(
            std::fs::read_to_string(folder.path().join(other)).unwrap(),
            untouched
        );
    }
}
