//! With `--json` every command answers in one envelope, errors too, and as its schema says.

use std::collections::BTreeSet;

use crate::site::Site;
use boon::{Compiler, Draft, SchemaIndex, Schemas};
use serde_json::Value;

const HOME: &str = "pages/home.html";

/// A JSON Schema that the command printed, ready to judge answers.
pub struct Schema {
    schemas: Schemas,
    index: SchemaIndex,
}

impl Schema {
    pub fn read(printed: &str) -> Schema {
        let (mut compiler, mut schemas) = (Compiler::new(), Schemas::new());
        compiler.set_default_draft(Draft::V2020_12);
        let json = serde_json::from_str(printed).unwrap();
        compiler.add_resource("answer.json", json).unwrap();
        let index = compiler.compile("answer.json", &mut schemas).unwrap();
        Schema { schemas, index }
    }

    /// What is wrong with an answer; nothing where it is as the schema says.
    pub fn faults(&self, answer: &Value) -> Option<String> {
        let judged = self.schemas.validate(answer, self.index);
        judged.err().map(|fault| format!("{fault:#}"))
    }
}

/// The schema of an answer, as the command prints it.
fn schema(site: &Site, name: &str) -> Schema {
    Schema::read(&site.good(&["schema", name]))
}

#[test]
fn every_answer_is_as_its_schema_says() {
    let site = Site::new();
    let script = r#"{"fingerpost": 4, "edits": [{"page": "pages/home.html", "element": ".note", "change": {"set": {"property": "color", "value": "navy"}}}]}"#;
    std::fs::write(site.path("script.json"), script).unwrap();
    std::fs::write(site.path("bad.html"), "<p>").unwrap();
    // In the order of a session: the draft grows, is saved, and comes back.
    let asked: Vec<(&str, Vec<&str>)> = vec![
        ("find", vec!["find", HOME, "h2"]),
        ("find", vec!["find", HOME, "h6"]),
        ("tree", vec!["tree", HOME]),
        ("trace", vec!["trace", HOME, "h2.today"]),
        ("trace", vec!["trace", HOME, ".note"]),
        (
            "trace",
            vec![
                "trace",
                "pages/timetable.html",
                "caption",
                "--media",
                "print",
            ],
        ),
        ("why", vec!["why", HOME, "h2.today", "color"]),
        ("why", vec!["why", HOME, ".hero", "background"]),
        ("why", vec!["why", HOME, ".hero", "--sound"]),
        (
            "whynot",
            vec![
                "whynot",
                "pages/fares.html",
                ".fare-best .fare-price",
                "css/overrides.css:8",
            ],
        ),
        (
            "whynot",
            vec![
                "whynot",
                "pages/notices.html",
                "#gale",
                ".notice-lits .notice",
            ],
        ),
        ("values", vec!["values", HOME, ".note"]),
        ("values", vec!["values", HOME, ".note", "color"]),
        ("values", vec!["values", HOME, ".note", "--initial"]),
        ("sheets", vec!["sheets", "pages/timetable.html"]),
        ("describe", vec!["describe", "gap"]),
        ("suggest class", vec!["suggest", "class", HOME, "but"]),
        ("suggest property", vec!["suggest", "property", "text-dec"]),
        (
            "suggest selector",
            vec!["suggest", "selector", HOME, "h2.today"],
        ),
        (
            "suggest value",
            vec!["suggest", "value", "border", "1px so"],
        ),
        (
            "suggest destination",
            vec!["suggest", "destination", HOME, "h2.today", "color", "navy"],
        ),
        ("extract", vec!["extract", "element", HOME, ".hero"]),
        (
            "edit",
            vec!["edit", "set", HOME, ".sailings", "padding", "9px"],
        ),
        ("edit", vec!["edit", "class", HOME, ".note", "+wide"]),
        ("edit --script", vec!["edit", "--script", "script.json"]),
        ("draft", vec!["draft"]),
        ("draft", vec!["draft", "off", "1"]),
        ("save --patch", vec!["save", "--patch", "draft.patch"]),
        ("save", vec!["save"]),
        ("unsave", vec!["unsave"]),
        ("draft discard", vec!["draft", "discard", "--all"]),
        ("recover", vec!["recover"]),
        ("init", vec!["init", "pages"]),
        ("completions", vec!["completions", "bash"]),
        ("man", vec!["man"]),
        ("man --folder", vec!["man", "--folder", "man"]),
        ("fonts", vec!["fonts", HOME]),
        ("overview", vec!["--help"]),
        ("demo", vec!["demo"]),
        ("error", vec!["why", HOME, "h2.today", "colour"]),
        ("error", vec!["why", "gone.html", "h2", "color"]),
        ("error", vec!["set", HOME]),
        ("error", vec!["find", HOME, "a["]),
    ];
    let mut seen = BTreeSet::new();
    for (name, words) in &asked {
        let words = [&words[..], &["--json"]].concat();
        let (status, text, errors) = site.run(&words);
        let answer: Value = serde_json::from_str(&text)
            .unwrap_or_else(|error| panic!("{words:?}: {error}\n{text}\n{errors}"));
        assert_eq!(answer["fingerpost"], 2, "{words:?}");
        assert_eq!(answer["command"], *name, "{words:?}\n{text}");
        if *name == "error" {
            assert_eq!(answer["error"]["status"], status, "{words:?}");
        } else {
            assert!(status < 2, "{words:?}: {errors}");
        }
        let faults = schema(&site, name).faults(&answer);
        assert_eq!(faults, None, "{words:?}");
        seen.insert((*name).to_owned());
    }
    // And all of them were asked for.
    let names = site.good(&["schema"]);
    let mut names: BTreeSet<String> = names.lines().map(str::to_owned).collect();
    // The desk answers and goes on: `--test desk` holds it against its schema.
    assert!(names.remove("desk"));
    assert_eq!(names, seen);
}

#[test]
fn a_schema_refuses_what_is_not_the_answer() {
    let site = Site::new();
    let why = ["why", HOME, "h2.today", "color", "--json"];
    let answer: Value = serde_json::from_str(&site.good(&why)).unwrap();
    let schema = schema(&site, "why");
    assert_eq!(schema.faults(&answer), None);
    let mut wrong = answer.clone();
    wrong["contests"][0]["contenders"][0]["standing"] = "won".into();
    assert_ne!(schema.faults(&wrong), None);
    let mut wrong = answer;
    wrong["fingerpost"] = 3.into();
    assert_ne!(schema.faults(&wrong), None);
}

#[test]
fn a_name_that_no_answer_has_is_refused() {
    let site = Site::new();
    let (status, _, errors) = site.run("schema whence");
    assert_eq!(status, 2);
    assert!(errors.contains("no answer is called 'whence'"), "{errors}");
}
