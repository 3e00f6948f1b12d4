//! Every question can be asked by its name, and is described so that a face can ask for it.

use std::collections::BTreeSet;
use std::path::Path;

use fingerpost::asking::{About, AskError, Asked, Parts, QuestionKind, Sample};
use fingerpost::environment::Environment;
use fingerpost::field::Given;
use fingerpost::question::Answer;
use fingerpost::question::element_states::ElementStates;
use fingerpost::question::find::ElementQuery;
use fingerpost::site::Site;

fn demo() -> Site {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/skerry-line");
    Site::of_folder(&folder).unwrap()
}

fn asked<'a>(site: &'a Site, sample: &Sample) -> Asked<'a> {
    let element = match (sample.element, sample.is_text) {
        ("", _) => None,
        (text, true) => Some(ElementQuery::Text(text.to_owned())),
        (element, false) => Some(ElementQuery::parse(element)),
    };
    Asked {
        site,
        page: site
            .shared_page(sample.page, &Environment::default())
            .unwrap(),
        elements: element.into_iter().collect(),
        states: ElementStates::default(),
        parts: sample.parts.iter().copied().collect(),
    }
}

#[test]
fn every_sample_is_answered() {
    let site = demo();
    for kind in QuestionKind::all() {
        assert!(!kind.examples.is_empty(), "{} has no example", kind.name);
        for sample in kind.examples {
            let answered = match kind.about.has_page() {
                true => kind.ask(&asked(&site, sample)),
                false => kind.ask_standards(&sample.parts.iter().copied().collect()),
            };
            let answered = answered.unwrap_or_else(|error| panic!("{}: {error}", kind.name));
            assert!(answered.found, "{} {sample:?}", kind.name);
            serde_json::to_string(&answered.answer).unwrap();
        }
    }
}

#[test]
fn every_question_has_its_own_name_and_describes_its_parts() {
    let mut names = BTreeSet::new();
    for kind in QuestionKind::all() {
        assert!(names.insert(kind.name), "{} is there twice", kind.name);
        assert!(
            !kind.does.is_empty() && !kind.does.ends_with('.'),
            "{}",
            kind.name
        );
        if let Some(group) = kind.group() {
            let mut groups = QuestionKind::groups().iter();
            assert!(groups.any(|known| known.name == group), "{}", kind.name);
        }
        for sample in kind.examples {
            assert_eq!(
                kind.about.has_page(),
                !sample.page.is_empty(),
                "{}",
                kind.name
            );
            for (part, _) in sample.parts {
                let mut fields = kind.fields.iter();
                assert!(
                    fields.any(|field| field.name == *part),
                    "{}: {part}",
                    kind.name
                );
            }
        }
    }
}

#[test]
fn what_is_missing_or_unknown_is_named() {
    let site = demo();
    for kind in QuestionKind::all() {
        let sample = &kind.examples[0];
        let ask = |parts: Parts, without_element: bool| {
            if !kind.about.has_page() {
                return kind.ask_standards(&parts).err();
            }
            let mut asked = asked(&site, sample);
            asked.parts = parts;
            if without_element {
                asked.elements.clear();
            }
            kind.ask(&asked).err()
        };
        let parts = || sample.parts.iter().copied().collect::<Parts>();
        for field in kind
            .fields
            .iter()
            .filter(|field| field.given == Given::Required)
        {
            let rest = sample.parts.iter().filter(|(name, _)| *name != field.name);
            let error = ask(rest.copied().collect(), false).unwrap();
            assert!(
                matches!(error, AskError::MissingPart { .. }),
                "{}: {error}",
                kind.name
            );
            assert!(error.to_string().contains(field.name), "{error}");
        }
        let mut more = parts();
        more.give("colour", "red");
        let error = ask(more, false).unwrap();
        assert!(
            matches!(error, AskError::UnknownPart { .. }),
            "{}: {error}",
            kind.name
        );
        if !matches!(
            kind.about,
            About::Nothing | About::Page | About::ElementOrRoot
        ) {
            assert_eq!(
                ask(parts(), true),
                Some(AskError::NeedsElement),
                "{}",
                kind.name
            );
        }
    }
}

/// The table of all questions in `docs/answers/README.md`.
fn table() -> String {
    let mut text = "| question | about | parts | |\n|---|---|---|---|\n".to_owned();
    for kind in QuestionKind::all() {
        let about = match kind.about {
            About::Nothing => "the standards",
            About::Page => "a page",
            About::ElementOrRoot | About::Element => "an element",
            About::Elements => "elements",
            About::Several => "elements, each named",
        };
        let parts = kind.fields.iter().map(|field| match field.given {
            Given::Required => format!("`{}`", field.name),
            Given::Flag => format!("`{}` (a flag)", field.name),
            _ => format!("`{}` (optional)", field.name),
        });
        let parts: Vec<String> = parts.collect();
        text.push_str(&format!(
            "| `{}` | {about} | {} | {} |\n",
            kind.name,
            parts.join(", "),
            kind.does
        ));
    }
    text
}

#[test]
fn the_documents_have_every_question() {
    let docs = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs");
    let path = docs.join("answers/README.md");
    let document = std::fs::read_to_string(&path).unwrap();
    let (head, rest) = document.split_once("<!-- questions").unwrap();
    let (mark, rest) = rest.split_once("-->\n").unwrap();
    let (_, tail) = rest.split_once("<!-- end of questions -->").unwrap();
    let wanted = format!(
        "{head}<!-- questions{mark}-->\n\n{}\n<!-- end of questions -->{tail}",
        table()
    );
    if std::env::var("DOCUMENTS").is_ok_and(|word| word == "overwrite") {
        std::fs::write(&path, &wanted).unwrap();
    }
    let stands = std::fs::read_to_string(&path).unwrap();
    assert!(
        stands == wanted,
        "docs/answers/README.md is not what the questions say"
    );

    // Each has a worked answer, and its JSON is described.
    let pages = std::fs::read_dir(docs.join("answers")).unwrap();
    let worked: String = pages
        .map(|page| std::fs::read_to_string(page.unwrap().path()).unwrap())
        .collect();
    let json = std::fs::read_to_string(docs.join("json.md")).unwrap();
    for kind in QuestionKind::all() {
        assert!(
            worked.contains(&format!("$ fingerpost {} ", kind.name)),
            "docs/answers has no answer of {}",
            kind.name
        );
        let headings = json.lines().filter(|line| line.starts_with("## "));
        let mut headings = headings.map(str::to_owned);
        assert!(
            headings.any(|line| line.contains(&format!("`{}`", kind.name))),
            "docs/json.md has no {}",
            kind.name
        );
    }
}

/// An answer in its envelope has the fields of its type, whatever the question.
#[test]
fn every_answer_is_an_object_in_its_envelope() {
    let site = demo();
    for kind in QuestionKind::all()
        .iter()
        .filter(|kind| kind.about.has_page())
    {
        for sample in kind.examples {
            let answered = kind.ask(&asked(&site, sample)).unwrap();
            let json = serde_json::to_value(Answer::new(kind.name, &answered)).unwrap();
            assert_eq!(json["command"], kind.name);
            assert!(json.as_object().unwrap().len() > 2, "{json}");
        }
    }
}
