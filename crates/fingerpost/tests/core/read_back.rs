//! Every answer is read back from its JSON as what it was, for a program that asks the command or the HTTP API.

use std::path::Path;

use fingerpost::advice::Action;
use fingerpost::asking::{AnyAnswer, Asked, QuestionKind};
use fingerpost::edit::{Change, Intent};
use fingerpost::environment::Environment;
use fingerpost::impact::draft::{FileAnswer, draft, listed};
use fingerpost::question::Answer;
use fingerpost::question::find::ElementQuery;
use fingerpost::session::Outcome;
use fingerpost::site::{Selection, Site};
use fingerpost::survey::guess::guess;
use serde::Serialize;
use serde::de::DeserializeOwned;
use serde_json::Value;

use crate::support::demo_copy;

/// Reads an answer's JSON as `T`, which must say the same again.
#[track_caller]
fn read_as<T: DeserializeOwned + Serialize>(name: &str, answer: &impl Serialize) {
    let json = serde_json::to_string(&Answer::new(name, answer)).unwrap();
    let read: Answer<'_, T> =
        Answer::from_json(&json).unwrap_or_else(|error| panic!("{name}: {error}\n{json}"));
    let again = serde_json::to_value(&read).unwrap();
    let first: Value = serde_json::from_str(&json).unwrap();
    assert_eq!(again, first, "{name}");
}

/// The same, as the type that it has.
#[track_caller]
fn read_back<T: DeserializeOwned + Serialize>(name: &str, answer: &T) {
    read_as::<T>(name, answer);
}

#[test]
fn answers_of_questions() {
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/skerry-line");
    let site = Site::of_folder(&demo).unwrap();
    for kind in QuestionKind::all() {
        for sample in kind.examples {
            let answered = match kind.about.has_page() {
                false => kind.ask_standards(&sample.parts.iter().copied().collect()),
                true => {
                    let page = site.shared_page(sample.page, &Environment::default());
                    let mut asked = Asked::new(&site, page.unwrap(), "body");
                    asked.elements = match (sample.element, sample.is_text) {
                        ("", _) => Vec::new(),
                        (text, true) => vec![ElementQuery::Text(text.to_owned())],
                        (element, false) => vec![ElementQuery::parse(element)],
                    };
                    asked.parts = sample.parts.iter().copied().collect();
                    kind.ask(&asked)
                }
            };
            let name = kind.name;
            match &answered.unwrap().answer {
                AnyAnswer::Find(answer) => read_back(name, answer),
                AnyAnswer::Tree(answer) => read_back(name, answer),
                AnyAnswer::Why(answer) => read_back(name, answer),
                AnyAnswer::WhyNot(answer) => read_back(name, answer),
                AnyAnswer::Trace(answer) => read_back(name, answer),
                AnyAnswer::Values(answer) => read_back(name, answer),
                AnyAnswer::Opened(answer) => read_back(name, answer),
                AnyAnswer::ValuesOfEach(answer) => read_back(name, answer),
                AnyAnswer::Sheets(answer) => read_back(name, answer),
                AnyAnswer::Fonts(answer) => read_back(name, answer),
                AnyAnswer::Facts(answer) => read_back(name, answer),
                AnyAnswer::Complete(answer) => read_back(name, answer),
                AnyAnswer::Classes(answer) => read_back(name, answer),
                AnyAnswer::Selectors(answer) => read_back(name, answer),
                AnyAnswer::Destinations(answer) => read_back(name, answer),
            }
        }
    }
}

#[test]
fn answers_of_a_session() {
    let folder = demo_copy();
    let mut site = Site::of_folder(folder.path()).unwrap();
    let mut session = site.session().unwrap();
    let read = |name: &str, outcome: &Outcome| {
        read_as::<Outcome<FileAnswer>>(name, outcome);
        for advice in &outcome.advice {
            if let Action::Edit { edits } = &advice.action {
                edits.iter().for_each(|edit| read_back("edit", edit));
            }
        }
    };
    let page = "pages/home.html";
    let outcome = session
        .edit(page, "h2.today", Change::set("color", "navy"))
        .unwrap();
    read("edit", &outcome);
    let intents = [
        Intent::new(page, "h2.today", Change::set("margin-top", "3px")),
        Intent::new(page, "h2.today", Change::add("padding-top", "3px")),
    ];
    read("script", &session.script("Two", &intents).unwrap());
    read("undo", &session.undo().unwrap());
    read("redo", &session.redo().unwrap());
    read_back("draft", &draft(session.site()).unwrap());
    read_back("draft", &listed(session.site()).unwrap());
    read("save", &session.save(&Selection::All).unwrap());
    read("unsave", &session.unsave().unwrap());
}

#[test]
fn answers_of_a_site() {
    let folder = demo_copy();
    let site = Site::of_folder(folder.path()).unwrap();
    read_back("idle", &site.idle());
    for class in &site.classes_without_rules() {
        read_back("class", class);
    }
    read_back("init", &guess(folder.path()).unwrap());
}
