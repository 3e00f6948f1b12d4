//! `schema`: the shape of each answer's JSON, as a JSON Schema (2020-12) made from the types of the answers.

use fingerpost::asking::QuestionKind;
use fingerpost::edit::extract::ExtractAnswer;
use fingerpost::impact::draft::DraftAnswer;
use fingerpost::question::{ANSWER_VERSION, Answer};
use fingerpost::session::Outcome;
use schemars::generate::SchemaSettings;
use schemars::{JsonSchema, Schema};
use serde::Serialize;

use crate::advised::Advised;
use crate::desk::DeskAnswer;
use crate::drafts::{DiscardAnswer, PatchAnswer, RecoverAnswer, StepAnswer};
use crate::init::InitAnswer;
use crate::manual::ManualAnswer;
use crate::opened::Asking;
use crate::problem::{Body, Problem, Result};
use crate::reply::{Reply, TextAnswer};

/// `draft` shows the draft, or says what a step did and shows it then.
#[derive(Serialize, JsonSchema)]
#[serde(untagged)]
#[expect(dead_code, reason = "only its schema is asked for")]
enum AnyDraft {
    Shown(Box<DraftAnswer>),
    Stepped(Box<Advised<StepAnswer>>),
}

/// The answers of commands that are not questions: what each calls its command, and its schema.
type Named = (&'static str, fn() -> Schema);

const ANSWERS: [Named; 17] = [
    ("completions", of::<TextAnswer>),
    ("demo", of::<TextAnswer>),
    ("desk", of::<DeskAnswer>),
    ("draft", of::<AnyDraft>),
    ("draft discard", of::<DiscardAnswer>),
    ("edit", of::<Advised<Outcome>>),
    ("edit --script", of::<Outcome>),
    ("error", of::<Body>),
    ("extract", of::<ExtractAnswer>),
    ("init", of::<InitAnswer>),
    ("man", of::<TextAnswer>),
    ("man --folder", of::<ManualAnswer>),
    ("recover", of::<RecoverAnswer>),
    ("overview", of::<TextAnswer>),
    ("save", of::<Advised<Outcome>>),
    ("save --patch", of::<PatchAnswer>),
    ("unsave", of::<Outcome>),
];

/// The schema of an answer: the envelope, and the answer's own fields.
fn of<T: JsonSchema>() -> Schema {
    let settings = SchemaSettings::draft2020_12().for_serialize();
    settings
        .into_generator()
        .into_root_schema_for::<Answer<'static, T>>()
}

/// The command adds to each piece of advice the line to type.
fn with_lines(schema: &mut Schema) {
    if let Some(advice) = schema.pointer_mut("/$defs/Advice/properties") {
        advice["line"] =
            serde_json::json!({ "description": "The line to type.", "type": "string" });
    }
}

/// The schema of one command's answers; without a command the names that there are.
pub fn schema(command: &[String], asking: &Asking<'_>) -> Result<Reply> {
    let name = command.join(" ");
    if name.is_empty() {
        let questions = QuestionKind::all().iter().map(|kind| kind.name);
        let mut names: Vec<&str> = ANSWERS
            .iter()
            .map(|(name, _)| *name)
            .chain(questions)
            .collect();
        names.sort_unstable();
        let answer = TextAnswer {
            text: names.join("\n"),
        };
        return Ok(asking.reply("schema", true, &answer, |answer| {
            format!("{}\n", answer.text)
        }));
    }
    let others = ANSWERS.iter().find(|(known, _)| *known == name);
    let question = QuestionKind::named(&name);
    let known = question
        .map(|kind| kind.answer.schema())
        .or_else(|| others.map(|(_, schema)| schema()));
    let Some(mut schema) = known else {
        return Err(Problem::bad_use(format!(
            "no answer is called '{name}'; `fingerpost schema` lists those that are"
        )));
    };
    with_lines(&mut schema);
    schema.insert(
        "title".to_owned(),
        format!("fingerpost {name} --json").into(),
    );
    if let Some(properties) = schema.get_mut("properties") {
        properties["fingerpost"] = serde_json::json!({ "const": ANSWER_VERSION });
        properties["command"] = serde_json::json!({ "const": name });
    }
    let text = serde_json::to_string_pretty(&schema).expect("a schema is plain data");
    Ok(Reply::of(format!("{text}\n")).verbatim())
}
