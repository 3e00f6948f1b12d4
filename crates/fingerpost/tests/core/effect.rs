//! What an edit moves besides what it is aimed at: small sites on disk, the answer in a few lines.

use std::fs;

use fingerpost::advice::Advice;
use fingerpost::edit::{Change, Destination, Intent, Side, kinds};
use fingerpost::impact::change::EditDetails;
use fingerpost::impact::site::Effect;
use fingerpost::question::element_states::ElementStates;
use fingerpost::selector::{Action, State};
use fingerpost::site::Site;

/// What a change did, and what else it changes.
struct Answer {
    effect: Effect,
    advice: Vec<Advice>,
    details: EditDetails,
}

/// Tries a change on a site of some files, and shows what else it changes.
fn tried(files: &[(&str, &str)], intent: &Intent) -> Answer {
    let folder = tempfile::tempdir().unwrap();
    fs::write(folder.path().join(SITE), "").unwrap();
    for (name, text) in files {
        fs::write(folder.path().join(name), text).unwrap();
    }
    let mut site = Site::of_folder(folder.path()).unwrap();
    let mut outcome = site.session().unwrap().try_edit(intent).unwrap();
    Answer {
        effect: outcome.effect.unwrap(),
        advice: outcome.advice,
        details: outcome.edits.remove(0).details.unwrap(),
    }
}

/// The groups of an answer: `aimed b 1 always: color teal → navy`.
fn lines(answer: &Answer) -> Vec<String> {
    let groups = answer.effect.groups.iter();
    groups
        .map(|group| {
            let elements: Vec<String> = group
                .elements
                .iter()
                .map(|e| format!("{}:{}", e.place.file, e.label()))
                .collect();
            let changes: Vec<String> = group
                .changes
                .iter()
                .map(|c| format!("{} {} → {}", c.property, c.before, c.after))
                .collect();
            let when = match (group.always, group.now) {
                (true, _) => String::new(),
                (false, true) => format!(" now {}", group.also.join(", ")),
                (false, false) => format!(" {}", group.also.join(", ")),
            };
            let inside = match group.inside {
                0 => String::new(),
                inside => format!(" +{inside}"),
            };
            let aimed = if group.aimed { "aimed " } else { "" };
            format!(
                "{aimed}{}{inside}{when}: {}",
                elements.join(" "),
                changes.join(", ")
            )
        })
        .collect()
}

const SITE: &str = "fingerpost.toml";
const CONFIG: &str = "fingerpost = 2\noverride-sheet = \"own.css\"\n";

#[test]
fn a_shared_rule_moves_other_elements_here_and_on_other_pages() {
    let page = "<!doctype html><link rel=stylesheet href=a.css><link rel=stylesheet href=own.css>\
                <p class=panel id=one><b>x</b></p><p class=panel><b>y</b><i>z</i></p>";
    let files = [
        (SITE, CONFIG),
        ("a.css", ".panel { color: teal; padding: 1px }"),
        ("own.css", ""),
        ("a.html", page),
        ("b.html", page),
    ];
    let answer = tried(
        &files,
        &Intent::new("a.html", "#one", Change::set("color", "navy")),
    );
    let change = "color rgb(0, 128, 128) → rgb(0, 0, 128)";
    assert_eq!(
        lines(&answer),
        [
            format!("aimed a.html:p#one.panel +1: {change}"),
            format!("a.html:p.panel b.html:p#one.panel b.html:p.panel +5: {change}"),
        ]
    );
    assert_eq!(
        answer.effect.side_effects_in_words().unwrap(),
        "1 other element here and 2 on 1 other page"
    );
    // In the override sheet it gets its own selector, which finds the same id on the other page.
    let narrower = &answer.advice[0];
    assert_eq!((&*narrower.code, &narrower.side_effects), ("inline", &None));
    assert!(narrower.tried);
}

#[test]
fn rules_and_values_of_a_neighbor_follow_markup() {
    let files = [(
        "a.html",
        "<!doctype html><style>li:last-child { color: red } .row > * { top: 1px }</style>\
         <ul><li>1</li><li>2</li></ul><div class=row></div><p>x</p>",
    )];
    let insert = kinds::Insert {
        source: "<li>3</li>".to_owned(),
        side: Side::Last,
    };
    let answer = tried(&files, &Intent::new("a.html", "ul", insert));
    assert_eq!(
        lines(&answer),
        ["a.html:li: color rgb(255, 0, 0) → rgb(0, 0, 0)"]
    );
    let lost: Vec<(&str, usize)> = answer
        .effect
        .rules
        .iter()
        .map(|r| (r.rule.selector.as_str(), r.lost.len()))
        .collect();
    assert_eq!(lost, [("li:last-child", 1)]);

    let moved = kinds::MoveElement {
        to: ".row".to_owned(),
        side: Side::Last,
    };
    let answer = tried(&files, &Intent::new("a.html", "p", moved));
    assert_eq!(lines(&answer), ["aimed a.html:p: top auto → 1px"]);
    let gained: Vec<&str> = answer
        .details
        .gained
        .iter()
        .map(|r| r.selector.as_str())
        .collect();
    assert_eq!(gained, [".row > *"]);
}

#[test]
fn other_widths_media_and_states_are_looked_at() {
    let files = [(
        "a.html",
        "<!doctype html><style>p { color: red }\
         @media (max-width: 500px) { p { color: blue } }\
         @media print { p { color: black } }\
         a:hover { color: lime }</style><p>x</p><a href=x>y</a>",
    )];
    let answer = tried(
        &files,
        &Intent::new("a.html", "p", Change::set("color", "teal")),
    );
    assert_eq!(answer.effect.situations, ["at 360px", "in print"]);
    assert_eq!(
        lines(&answer),
        ["aimed a.html:p now : color rgb(255, 0, 0) → rgb(0, 128, 128)"]
    );
    let intent = Intent {
        element: None,
        into: Destination::Rule("a.html:1".parse().unwrap()),
        ..Intent::new("a.html", "a", Change::set("color", "teal"))
    };
    // A rule that waits for a hand: its elements change on :hover.
    let rule = kinds::RemoveRule {
        rule: "a.html:1:139".parse().unwrap(),
    };
    let answer = tried(
        &files,
        &Intent {
            change: rule.into(),
            into: Destination::Sources,
            ..intent
        },
    );
    assert_eq!(
        lines(&answer),
        ["a.html:a on :hover: color rgb(0, 255, 0) → rgb(0, 0, 238)"]
    );
}

#[test]
fn an_emptied_rule_still_matches() {
    let files = [(
        "a.html",
        "<!doctype html><style>p { top: 1px }</style><p>x</p>",
    )];
    let off = kinds::Disable {
        property: "top".to_owned(),
    };
    let answer = tried(&files, &Intent::new("a.html", "p", off));
    assert!(answer.details.lost.is_empty(), "{:?}", answer.details.lost);
    assert_eq!(
        answer.effect.notes,
        ["the rule p at a.html:1:23 is empty now; it still matches"]
    );
}

#[test]
fn another_selector_says_how_many_elements_are_the_same() {
    let files = [(
        "a.html",
        "<!doctype html><style>.a { top: 1px; & b { left: 2px } }</style>\
         <p class=a><b>x</b></p><p class='a c'>y</p>",
    )];
    let to = |place: &str, to: &str| -> Answer {
        let change = kinds::Selector {
            rule: place.parse().unwrap(),
            how: kinds::SelectorChange::To(to.to_owned()),
        };
        let intent = Intent {
            element: None,
            ..Intent::new("a.html", "p", change)
        };
        tried(&files, &intent)
    };
    let reach = to("a.html:1:23", ".c").details.reach.unwrap();
    assert_eq!((reach.before, reach.after, reach.same), (2, 1, 1));
    let reach = to("a.html:1:38", "& i").details.reach.unwrap();
    assert_eq!((reach.before, reach.after, reach.same), (1, 0, 0));
}

#[test]
fn a_tree_that_is_not_the_one_asked_for_is_said() {
    let page = "<!doctype html><table><tbody><tr><td>1</td><td>2</td></tr></tbody></table><h2>Old</h2><p>x</p>";
    let files = [("a.html", page)];
    let notes = |element: &str, change: Change| -> String {
        tried(&files, &Intent::new("a.html", element, change))
            .details
            .edit
            .warnings
            .join("\n")
    };
    let wrap = |tag: &str| {
        kinds::Wrap {
            tag: tag.to_owned(),
        }
        .into()
    };
    let markup = kinds::Markup {
        source: "<h2>New <em>text</h2>".to_owned(),
        inner: false,
    };
    for (element, change, note) in [
        ("h2", markup.into(), "the <em> at a.html:1:83 is not closed"),
        (
            "tr",
            wrap("<tbody>"),
            "the <tbody> at a.html:1:30 is inside the <tbody>",
        ),
        (
            "td",
            wrap("<div>"),
            "the <td> at a.html:1:39 is inside the <div>",
        ),
        (
            "tr",
            kinds::Unwrap {}.into(),
            "browsers put a <tr> of their own around the <td>",
        ),
    ] {
        let element = if element == "td" {
            "td:first-child"
        } else {
            element
        };
        let notes = notes(element, change);
        assert!(notes.contains(note), "{element}: {notes}");
    }
}

/// A rule that nothing matches until a pointer comes changes what it changes then.
#[test]
fn a_rule_of_a_state_changes_elements_in_that_state() {
    let files = [
        (
            "a.html",
            "<link rel=stylesheet href=a.css><p class=a>One<p class=a>Two<b tabindex=0>b</b>",
        ),
        ("a.css", ".a { color: teal }"),
    ];
    for (selector, state) in [
        (".a:hover", "on :hover"),
        (".a:focus-within", "on :focus-within"),
        (".a:not(:not(:active))", "on :active"),
        ("p:is(:hover, .gone)::before", "on :hover"),
    ] {
        let rule = kinds::Rule {
            selector: Some(selector.to_owned()),
            declarations: "top: 1px".to_owned(),
        };
        let answer = tried(&files, &Intent::new("a.html", "p:first-of-type", rule));
        let lines = lines(&answer);
        assert!(!lines.is_empty(), "{selector} changes nothing");
        assert!(
            lines.iter().all(|line| line.contains(state)),
            "{selector}: {lines:?}"
        );
        // What matches the part of an element does not match the element.
        let warned = !answer.details.edit.warnings.is_empty();
        assert_eq!(warned, selector.contains("::"), "{selector}");
    }
    // A state that no element can come into by a rule for another one.
    let rule = kinds::Rule {
        selector: Some(".gone:hover".to_owned()),
        declarations: "top: 1px".to_owned(),
    };
    let answer = tried(&files, &Intent::new("a.html", "p:first-of-type", rule));
    assert_eq!(lines(&answer), [""; 0]);
    assert!(answer.details.edit.warnings[0].contains("does not match"));
}

/// States that a selector names together are tried together, each on the elements that can have it, and what markup says at rest
/// is tried the other way round.
#[test]
fn states_are_tried_as_selectors_name_them_on_what_can_have_them() {
    let files = [
        (
            "a.html",
            "<link rel=stylesheet href=a.css><p>One</p><a href=/>Two</a><input id=i type=checkbox checked><b>Three</b>\
             <details><summary>Four</summary><i>Five</i></details><button>Six</button>",
        ),
        ("a.css", "button { top: 0 }"),
    ];
    let cases: [(&str, &[&str]); 8] = [
        ("a:focus:hover", &["a on :focus:hover"]),
        (
            ":focus",
            &[
                "a on :focus",
                "button on :focus",
                "input#i on :focus",
                "summary on :focus",
            ],
        ),
        ("input:not(:checked) + b", &["b on :not(:checked)"]),
        (":checked ~ b", &["b "]),
        ("details:open i", &["i on :open"]),
        (
            ":disabled",
            &["button on :disabled", "input#i on :disabled"],
        ),
        ("p:focus", &[]),
        ("a:visited", &["a on :visited"]),
    ];
    for (selector, wanted) in cases {
        let rule = kinds::Rule {
            selector: Some(selector.to_owned()),
            declarations: "left: 1px".to_owned(),
        };
        let answer = tried(&files, &Intent::new("a.html", "p", rule));
        let mut found: Vec<String> = Vec::new();
        for group in &answer.effect.groups {
            let when = match group.always {
                true => "",
                false => &group.also.join(", "),
            };
            let labels = group
                .elements
                .iter()
                .map(fingerpost::question::ElementSummary::label);
            found.extend(labels.map(|label| format!("{label} {when}")));
        }
        found.sort();
        assert_eq!(found, wanted, "{selector}");
    }
}

/// A class that an element comes by brings the rules of its states along.
#[test]
fn a_change_of_the_markup_is_tried_in_the_states_of_the_rules_that_it_meets() {
    let files = [
        (
            "a.html",
            "<link rel=stylesheet href=a.css><a href=/>One</a><a href=/>Two</a>",
        ),
        (
            "a.css",
            ".button { left: 1px } .button:hover { left: 2px } .other:focus { left: 3px }",
        ),
    ];
    let class = kinds::Class {
        changes: vec!["+button".to_owned()],
    };
    let answer = tried(&files, &Intent::new("a.html", "a:first-of-type", class));
    let effect = &answer.effect;
    assert_eq!(effect.situations, ["on :hover"]);
    let shown = lines(&answer);
    assert!(
        shown
            .iter()
            .any(|line| line.contains("on :hover: left auto → 2px")),
        "{shown:?}"
    );
}

/// What is asked for in a state and changes the element at rest too says so, and how not to.
#[test]
fn a_change_in_a_state_says_that_it_reaches_beyond_it() {
    let folder = tempfile::tempdir().unwrap();
    let write = |name: &str, text: &str| fs::write(folder.path().join(name), text).unwrap();
    write(SITE, "");
    write(
        "a.html",
        "<link rel=stylesheet href=a.css><a class=x href=/>One</a><a class=y href=/>Two</a>",
    );
    write(
        "a.css",
        ".x { color: teal }\n.y { color: teal }\n.y:hover { color: navy }",
    );
    let states = ElementStates {
        asked: vec![State::Action(Action::Hover)],
        ..ElementStates::default()
    };
    for (element, beyond) in [(".x", true), (".y", false)] {
        let mut site = Site::of_folder(folder.path()).unwrap();
        let mut session = site.session().unwrap().in_states(states.clone());
        let intent = Intent::new("a.html", element, Change::set("color", "red"));
        let outcome = session.try_edit(&intent).unwrap();
        let notes = &outcome.effect.unwrap().notes;
        let says = notes
            .iter()
            .any(|note| note.contains("also changes where it is not in :hover"));
        assert_eq!(says, beyond, "{element}: {notes:?}");
        let code = outcome.advice.first().map(|advice| advice.code.as_str());
        assert_eq!(code == Some("state-rule"), beyond, "{element}");
        session.undo().unwrap();
        if beyond {
            // The advice changes the state alone.
            let fingerpost::advice::Action::Edit { edits } = &outcome.advice[0].action else {
                panic!("{:?}", outcome.advice);
            };
            let outcome = session.script("", edits).unwrap();
            let groups = outcome.effect.unwrap().groups;
            assert!(
                groups.iter().all(|group| group.also == ["on :hover"]),
                "{groups:?}"
            );
            session.undo().unwrap();
        }
    }
}
