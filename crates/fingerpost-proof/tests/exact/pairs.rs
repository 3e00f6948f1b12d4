//! A draft of two edits is the same as one edit saved and then the other: for every pair of kinds on
//! every pair of elements, and for every order of saving, leaving out and carrying over. So are longer
//! random sequences.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

use fingerpost::draft::{Bases, Draft};
use fingerpost::edit::{Change, Destination, Edit, Intent, Side, kinds, make};
use fingerpost::prelude::*;

use crate::cases::{cases, times};
use crate::numbers::Numbers;

const HTML: &str = "<!doctype html>\n<link rel=stylesheet href=a.css>\n<header class=masthead>\n  \
    <div class=row>\n    <b class=logo>One</b>\n  </div>\n  <a class=btn>Go</a>\n</header>\n<ul>\n  \
    <li class=first>1</li>\n  <li class=second>2</li>\n</ul>\n<p class=last>x <i class=in>y</i></p>\n";

const CSS: &str = ".masthead { color: red; top: 0 }\n\n.row {\n  color: teal;\n  margin: 1px 2px;\n}\n\n\
    .btn, .logo { color: gray; }\n.first{color:red;top:1px}.second{color:blue}\n\
    @media screen {\n  .btn {\n    left: 0;\n  }\n}\n";

fn page(bases: &Bases) -> Page {
    let sheet = bases["a.css"].clone();
    Page::builder(bases["page.html"].clone())
        .loader(|_: &Request<'_>| Ok(sheet.clone()))
        .build()
}

fn bases() -> Bases {
    Bases::from([
        ("page.html".to_owned(), Text::new("page.html", HTML)),
        ("a.css".to_owned(), Text::new("a.css", CSS)),
    ])
}

/// The files as a draft leaves them.
fn drafted(draft: &Draft, bases: &Bases) -> Bases {
    let mut all = bases.clone();
    all.extend(draft.replay(bases).unwrap().texts);
    all
}

/// The files after an edit of them.
fn saved(edit: &Edit, bases: &Bases) -> Bases {
    let mut all = bases.clone();
    for change in &edit.changes {
        let text = all[&change.file].patched(&change.patch).unwrap();
        all.insert(change.file.clone(), text);
    }
    all
}

fn sources(bases: &Bases) -> Vec<String> {
    bases
        .values()
        .map(|text| text.source().to_owned())
        .collect()
}

const ELEMENTS: [&str; 8] = [
    ".masthead",
    ".row",
    ".logo",
    ".btn",
    ".first",
    ".second",
    ".last",
    ".in",
];

fn markup_changes() -> Vec<Change> {
    let mut all: Vec<Change> = vec![
        kinds::Class {
            changes: vec!["+new".to_owned()],
        }
        .into(),
        kinds::Attribute {
            name: "title".to_owned(),
            value: "t".to_owned(),
            remove: false,
        }
        .into(),
        kinds::Text {
            text: "other".to_owned(),
            from: None,
        }
        .into(),
        kinds::Tag {
            name: "section".to_owned(),
        }
        .into(),
        kinds::Markup {
            source: "<u>new</u>".to_owned(),
            inner: true,
        }
        .into(),
        kinds::Markup {
            source: "<u class=row>new</u>".to_owned(),
            inner: false,
        }
        .into(),
        kinds::Duplicate {}.into(),
        kinds::RemoveElement {}.into(),
        kinds::Wrap {
            tag: "<div class=w>".to_owned(),
        }
        .into(),
        kinds::Unwrap {}.into(),
    ];
    for side in [Side::Before, Side::After, Side::First, Side::Last] {
        all.push(
            kinds::Insert {
                source: "<s>n</s>".to_owned(),
                side,
            }
            .into(),
        );
        for to in [".row", ".first"] {
            all.push(
                kinds::MoveElement {
                    to: to.to_owned(),
                    side,
                }
                .into(),
            );
        }
    }
    all
}

fn markup_intents() -> Vec<Intent> {
    let changes = markup_changes();
    let of = |element: &&str| -> Vec<Intent> {
        let all = changes.iter().cloned();
        all.map(|change| Intent::new("page.html", element, change))
            .collect()
    };
    ELEMENTS.iter().flat_map(of).collect()
}

fn style_intents() -> Vec<Intent> {
    let mut all = Vec::new();
    for element in [".masthead", ".row", ".btn", ".first", ".second"] {
        let property = || "color".to_owned();
        let changes: [Change; 11] = [
            Change::set("color", "navy"),
            Change::set("margin-top", "9px"),
            Change::add("left", "1px"),
            kinds::RemoveDeclaration {
                property: property(),
            }
            .into(),
            kinds::Disable {
                property: property(),
            }
            .into(),
            kinds::Enable {
                property: property(),
            }
            .into(),
            kinds::Important {
                property: property(),
                remove: false,
            }
            .into(),
            kinds::ChangeProperty {
                property: property(),
                to: "fill".to_owned(),
            }
            .into(),
            kinds::Step {
                property: "top".to_owned(),
                by: "+1".to_owned(),
            }
            .into(),
            kinds::Rule {
                selector: None,
                declarations: "right: 0".to_owned(),
            }
            .into(),
            Change::add("bottom", "2px"),
        ];
        all.extend(changes.map(|change| Intent::new("page.html", element, change)));
        all.push(Intent {
            into: Destination::Inline,
            ..Intent::new("page.html", element, Change::set("left", "2px"))
        });
    }
    for line in [
        "a.css:1",
        "a.css:3",
        "a.css:8",
        "a.css:9:1",
        "a.css:9:29",
        "a.css:11",
    ] {
        let rule = || line.parse().unwrap();
        let changes: [Change; 5] = [
            kinds::Selector {
                rule: rule(),
                how: kinds::SelectorChange::Add(".more".to_owned()),
            }
            .into(),
            kinds::RemoveRule { rule: rule() }.into(),
            kinds::Enclose {
                rule: rule(),
                within: "@media print".to_owned(),
            }
            .into(),
            kinds::MoveRule {
                rule: rule(),
                beside: kinds::Beside::Before("a.css:1".parse().unwrap()),
            }
            .into(),
            kinds::MoveRule {
                rule: rule(),
                beside: kinds::Beside::After("a.css:8".parse().unwrap()),
            }
            .into(),
        ];
        let intents = changes.into_iter().map(|change| Intent {
            element: None,
            ..Intent::new("page.html", "", change)
        });
        all.extend(intents);
    }
    all
}

#[derive(Default)]
struct Tally {
    pairs: usize,
    refused: usize,
    wrong: usize,
    /// Without the first the second has no place, and says so.
    needs: usize,
    /// Without the first the second gives what it gives alone, but for how far in its lines are.
    alone: usize,
    /// It gives something else than it would have given if it had been made alone.
    other: usize,
}

fn pairs(intents: &[Intent], step: usize) -> Tally {
    let bases = bases();
    let first_page = page(&bases);
    let mut tally = Tally::default();
    let firsts: Vec<(usize, Edit)> = intents
        .iter()
        .enumerate()
        .filter_map(|(at, intent)| Some((at, make(&first_page, intent).ok()?)))
        .collect();
    let alone: Vec<Option<Edit>> = intents.iter().map(|i| make(&first_page, i).ok()).collect();
    for (number, first) in &firsts {
        let mut draft = Draft::default();
        draft.push(first.clone(), &bases).unwrap();
        let over = drafted(&draft, &bases);
        let between = saved(first, &bases);
        assert_eq!(sources(&over), sources(&between), "{}", first.summary);
        let second_page = page(&over);
        for at in (number % step..intents.len()).step_by(step) {
            tally.pairs += 1;
            let Ok(second) = make(&second_page, &intents[at]) else {
                tally.refused += 1;
                continue;
            };
            let wanted = sources(&saved(&second, &between));
            if let Err(why) = every_order(&draft, &second, &bases, &wanted) {
                tally.wrong += 1;
                println!("{} then {}: {why}", first.summary, second.summary);
                continue;
            }
            let mut both = draft.clone();
            both.push(second.clone(), &bases).unwrap();
            both.switch(1, false);
            let counts = both.replay(&bases).unwrap().not_applied.is_empty();
            let own = alone[at].as_ref().map(|edit| sources(&saved(edit, &bases)));
            match (counts, own) {
                (false, _) => tally.needs += 1,
                (true, Some(own)) if bare(&sources(&drafted(&both, &bases))) == bare(&own) => {
                    tally.alone += 1;
                }
                (true, _) => tally.other += 1,
            }
        }
    }
    tally
}

/// Texts without their white space.
fn bare(texts: &[String]) -> Vec<String> {
    let bare = |text: &String| text.split_whitespace().collect::<String>();
    texts.iter().map(bare).collect()
}

/// The draft of two edits, however it is kept, saved in parts, and carried over.
fn every_order(one: &Draft, second: &Edit, bases: &Bases, wanted: &[String]) -> Result<(), String> {
    let mut draft = one.clone();
    draft
        .push(second.clone(), bases)
        .map_err(|e| e.to_string())?;
    let same = |draft: &Draft, bases: &Bases, what: &str| {
        let texts = sources(&drafted(draft, bases));
        match texts == *wanted {
            true => Ok(()),
            false => Err(format!("{what}: {texts:#?} and not {wanted:#?}")),
        }
    };
    same(&draft, bases, "both")?;
    let read = Draft::from_json(&draft.to_json()).map_err(|e| e.to_string())?;
    same(&read, bases, "read again")?;
    let before = sources(bases);
    let only_first = sources(&drafted(one, bases));
    // Off and on again is nothing, whichever it is.
    for id in [1, 2] {
        let mut switched = draft.clone();
        switched.switch(id, false);
        if id == 2 && sources(&drafted(&switched, bases)) != only_first {
            return Err("the last one off".to_owned());
        }
        switched.switch(id, true);
        same(&switched, bases, "off and on")?;
        switched.undo();
        switched.undo();
        same(&switched, bases, "taken back")?;
        switched.discard(id);
        switched.undo();
        same(&switched, bases, "dropped and taken back")?;
    }
    let mut empty = draft.clone();
    empty.empty();
    if sources(&drafted(&empty, bases)) != before {
        return Err("all dropped".to_owned());
    }
    // Saved one by one, in either order where that can be.
    for id in [1u32, 2] {
        let ids = BTreeSet::from([id]);
        let mut rest = draft.clone();
        let Ok(after) = rest.partly(bases, &ids) else {
            if id == 1 {
                return Err("the first can't be saved alone".to_owned());
            }
            continue;
        };
        let mut now = bases.clone();
        now.extend(after);
        let aside = rest.saved(bases, &now, &ids).map_err(|e| e.to_string())?;
        if aside.is_empty() {
            same(&rest, &now, "saved in parts")?;
        } else {
            // What is gone with what was saved changes nothing any more.
            same(&rest, &now, "saved in parts, one gone")?;
        }
    }
    // A line more at the top of each file, by another hand.
    let moved: Bases = bases
        .iter()
        .map(|(name, text)| {
            let top = if name.ends_with(".css") {
                "/* top */\n"
            } else {
                "<!-- top -->\n"
            };
            let text: Arc<Text> = Text::new(name.as_str(), format!("{top}{}", text.source()));
            (name.clone(), text)
        })
        .collect();
    let (carried, _) = draft
        .carried(bases, &moved, &BTreeMap::new())
        .map_err(|e| e.to_string())?;
    let texts = drafted(&carried, &moved);
    for (text, wanted) in texts.values().zip(wanted) {
        let bare = text.source().split_once('\n').unwrap().1;
        let fits = carried.edits().all(|t| t.conflict.is_none());
        if fits && bare != wanted {
            return Err(format!("carried over: {bare:?} and not {wanted:?}"));
        }
    }
    Ok(())
}

fn judge(name: &str, tally: &Tally) {
    println!(
        "{name}: {} pairs, {} refused at once, {} wrong; without the first, {} need it, {} are as if \
         made alone, {} are otherwise",
        tally.pairs, tally.refused, tally.wrong, tally.needs, tally.alone, tally.other
    );
    assert_eq!(tally.wrong, 0, "{name}");
    assert!(
        tally.pairs > 2 * tally.refused,
        "{name}: too little is tried"
    );
}

/// Every tenth pair is tried, and all with `FINGERPOST_CASES=10`.
fn step() -> usize {
    (10 / times()).max(1)
}

#[test]
fn two_changes_of_markup_are_one_saved_after_the_other() {
    judge("markup", &pairs(&markup_intents(), step()));
}

#[test]
fn two_changes_of_styles_are_one_saved_after_the_other() {
    judge("styles", &pairs(&style_intents(), step()));
}

#[test]
fn a_draft_of_many_edits_is_those_edits_saved_one_by_one() {
    let mut numbers = Numbers(0x1357_9bdf_2468_ace1);
    let mut intents = markup_intents();
    intents.extend(style_intents());
    let (mut edits, mut refused) = (0, 0);
    let sequences = cases(400);
    for _ in 0..sequences {
        let base = bases();
        let mut draft = Draft::default();
        let mut between = base.clone();
        // What is saved on the way, and the draft over it.
        let (mut disk, mut parted) = (base.clone(), Draft::default());
        for _ in 0..2 + numbers.below(7) {
            let now = drafted(&draft, &base);
            let intent = &intents[numbers.below(intents.len())];
            let Ok(edit) = make(&page(&now), intent) else {
                refused += 1;
                continue;
            };
            edits += 1;
            draft.push(edit.clone(), &base).unwrap();
            between = saved(&edit, &between);
            assert_eq!(
                sources(&drafted(&draft, &base)),
                sources(&between),
                "{}",
                edit.summary
            );
            parted.push(edit, &disk).unwrap();
            assert_eq!(sources(&drafted(&parted, &disk)), sources(&between));
            if numbers.once_in(3) {
                // Some of it is saved.
                let on: Vec<u32> = parted
                    .edits()
                    .filter(|t| t.conflict.is_none())
                    .map(|t| t.id)
                    .collect();
                let some = on.iter().copied().filter(|_| numbers.once_in(2));
                let ids: BTreeSet<u32> = some.collect();
                if let Ok(after) = parted.partly(&disk, &ids) {
                    let mut now = disk.clone();
                    now.extend(after);
                    parted.saved(&disk, &now, &ids).unwrap();
                    disk = now;
                    assert_eq!(sources(&drafted(&parted, &disk)), sources(&between));
                }
            }
        }
        // All undone, step by step, is what there was.
        while draft.undo().is_some() {}
        assert_eq!(sources(&drafted(&draft, &base)), sources(&base));
        while draft.redo().is_some() {}
        assert_eq!(sources(&drafted(&draft, &base)), sources(&between));
    }
    println!("{sequences} sequences, {edits} edits, {refused} refused");
}
