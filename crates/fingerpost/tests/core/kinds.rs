//! Every kind of change does what its own example says, and is described so that a face can ask for it.

use fingerpost::edit::kinds::{About, Given, Holds, KindInfo};
use fingerpost::edit::{Change, Destination, Intent, make};
use fingerpost::page::Page;
use fingerpost::text::Text;

#[test]
fn every_example_is_true() {
    let mut wrong = Vec::new();
    for kind in Change::kinds() {
        let text = Text::new("a.html", kind.example.before);
        let page = Page::new(text.clone());
        let intent = kind.sample();
        let after = make(&page, &intent).map(|edit| match edit.patch_of("a.html") {
            Some(patch) => patch.apply(text.source()).unwrap(),
            None => text.source().to_owned(),
        });
        if !after
            .as_ref()
            .is_ok_and(|after| after == kind.example.after)
        {
            wrong.push(format!("{}: {after:?}", kind.name));
        }
        assert_eq!(intent.change.info().name, kind.name);
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn every_part_is_one_that_the_change_takes() {
    for kind in Change::kinds() {
        let json = serde_json::to_value(kind.sample().change).unwrap();
        let parts = json[kind.name].as_object().unwrap();
        for part in parts.keys() {
            let known = kind.fields.iter().any(|field| field.name == part);
            assert!(known, "{} does not describe {part}", kind.name);
        }
        // A part that is not described is refused.
        let mut wrong = parts.clone();
        wrong.insert("colour".to_owned(), "red".into());
        let is_flat = kind.fields.iter().any(|field| field.given == Given::OneOf);
        assert!(
            is_flat || kind.change(wrong.into()).is_err(),
            "{}",
            kind.name
        );
        // What has to be given is missed.
        for field in kind.fields {
            let must = matches!(
                field.given,
                Given::Required | Given::RequiredNamed | Given::Several
            );
            let mut less = parts.clone();
            less.remove(field.name);
            assert!(
                !must || kind.change(less.into()).is_err(),
                "{} without {}",
                kind.name,
                field.name
            );
        }
    }
}

#[test]
fn every_intent_on_the_demo_can_be_read_back() {
    for kind in Change::kinds() {
        let intent = kind.on_demo();
        assert_eq!(intent.change.info().name, kind.name);
        let json = serde_json::to_string(&intent).unwrap();
        assert_eq!(serde_json::from_str::<Intent>(&json).unwrap(), intent);
        if kind.about == About::Element {
            assert!(intent.element.is_some(), "{}", kind.name);
        }
    }
}

#[test]
fn a_destination_that_a_kind_does_not_take_is_refused_with_those_that_it_takes() {
    let all = [
        "winning",
        "overrides",
        "page",
        "inline",
        "b.css",
        "a.html:1",
    ];
    for kind in Change::kinds() {
        let page = Page::new(Text::new("a.html", kind.example.before));
        for text in all {
            let into: Destination = text.parse().unwrap();
            let takes = kind.takes(&into);
            let intent = Intent {
                into,
                ..kind.sample()
            };
            let refused = make(&page, &intent)
                .err()
                .filter(|error| error.code() == "destination-not-taken");
            assert_eq!(refused.is_none(), takes, "{} {text}", kind.name);
            if let Some(error) = refused {
                // What is advised instead is not refused for the same reason.
                let advice = error.advice(&intent);
                let fingerpost::advice::Action::Edit { edits } = &advice[0].action else {
                    panic!("{}", kind.name)
                };
                make(&page, &edits[0]).unwrap_or_else(|error| panic!("{}: {error}", kind.name));
            }
        }
    }
}

/// The section of a kind in `docs/edits.md`.
fn section(kind: &KindInfo) -> String {
    let mut text = format!("### `{}`\n\n{}.", kind.name, kind.does);
    if !kind.more.is_empty() {
        text.push_str(&format!(" {}", kind.more));
    }
    text.push_str("\n\n");
    if !kind.fields.is_empty() {
        text.push_str("| part | |\n|---|---|\n");
    }
    for field in kind.fields {
        let given = match field.given {
            Given::Required | Given::RequiredNamed => "",
            Given::Several => " (a list)",
            Given::OneOf => " (exactly one of these)",
            Given::Flag => " (`true`)",
            _ => " (optional)",
        };
        let choices = match field.holds {
            Holds::Choice(words) => format!(": `{}`", words.join("`, `")),
            Holds::Side => ": `before`, `after`, `first`, `last`".to_owned(),
            _ => String::new(),
        };
        let what = field.what.replace('|', "\\|");
        text.push_str(&format!("| `{}`{given} | {what}{choices} |\n", field.name));
    }
    let element = match kind.example.element {
        "" => String::new(),
        element => format!("`{element}`: "),
    };
    let change = format!("{{\"{}\": {}}}", kind.name, kind.example.change);
    let shown = |source: &str| {
        let lines = source.lines().map(|line| format!("    {line}\n"));
        lines.collect::<String>()
    };
    text.push_str(&format!(
        "\n{element}`{change}`\n\n{}",
        shown(kind.example.before)
    ));
    text.push_str(&format!("\nbecomes\n\n{}\n", shown(kind.example.after)));
    text
}

#[test]
fn the_document_has_every_kind() {
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/edits.md");
    let document = std::fs::read_to_string(path).unwrap();
    let (head, rest) = document.split_once("<!-- kinds").unwrap();
    let (mark, rest) = rest.split_once("-->\n").unwrap();
    let (_, tail) = rest.split_once("<!-- end of kinds -->").unwrap();
    let all: String = Change::kinds().iter().map(|kind| section(kind)).collect();
    let wanted = format!("{head}<!-- kinds{mark}-->\n\n{all}<!-- end of kinds -->{tail}");
    if std::env::var("DOCUMENTS").is_ok_and(|word| word == "overwrite") {
        std::fs::write(path, &wanted).unwrap();
    }
    let stands = std::fs::read_to_string(path).unwrap();
    assert!(stands == wanted, "docs/edits.md is not what the kinds say");
}
