//! `schema`: the shape of each answer's JSON, as a JSON Schema (2020-12) made from the types of the answers.

use fingerpost::edit::extract::ExtractAnswer;
use fingerpost::impact::draft::DraftAnswer;
use fingerpost::question::classes::ClassesAnswer;
use fingerpost::question::complete::CompleteAnswer;
use fingerpost::question::facts::FactsAnswer;
use fingerpost::question::find::FindAnswer;
use fingerpost::question::selectors::SelectorsAnswer;
use fingerpost::question::sheets::SheetsAnswer;
use fingerpost::question::trace::TraceAnswer;
use fingerpost::question::tree::TreeAnswer;
use fingerpost::question::values::{OpenedAnswer, ValuesAnswer};
use fingerpost::question::why::WhyAnswer;
use fingerpost::question::whynot::WhyNotAnswer;
use fingerpost::question::{ANSWER_VERSION, Answer};
use fingerpost::session::Outcome;
use schemars::generate::SchemaSettings;
use schemars::{JsonSchema, Schema};
use serde::Serialize;

use crate::advised::Advised;
use crate::desk::DeskAnswer;
use crate::drafts::{DiscardAnswer, PatchAnswer, RecoverAnswer, StepAnswer};
use crate::init::InitAnswer;
use crate::opened::Asking;
use crate::problem::{Body, Problem, Result};
use crate::reply::{Reply, TextAnswer};

/// `values` says what all properties result in, or how one does.
#[derive(Serialize, JsonSchema)]
#[serde(untagged)]
#[expect(dead_code, reason = "only its schema is asked for")]
enum AnyValues {
    All(ValuesAnswer),
    One(OpenedAnswer),
}

/// `draft` shows the draft, or says what a step did and shows it then.
#[derive(Serialize, JsonSchema)]
#[serde(untagged)]
#[expect(dead_code, reason = "only its schema is asked for")]
enum AnyDraft {
    Shown(Box<DraftAnswer>),
    Stepped(Box<Advised<StepAnswer>>),
}

/// What an answer calls its command, and the schema of the answer.
type Named = (&'static str, fn() -> Schema);

const ANSWERS: [Named; 28] = [
    ("completions", of::<TextAnswer>),
    ("demo", of::<TextAnswer>),
    ("describe", of::<FactsAnswer>),
    ("desk", of::<DeskAnswer>),
    ("draft", of::<AnyDraft>),
    ("draft discard", of::<DiscardAnswer>),
    ("edit", of::<Advised<Outcome>>),
    ("edit --script", of::<Outcome>),
    ("error", of::<Body>),
    ("extract", of::<ExtractAnswer>),
    ("find", of::<FindAnswer>),
    ("init", of::<InitAnswer>),
    ("man", of::<TextAnswer>),
    ("recover", of::<RecoverAnswer>),
    ("overview", of::<TextAnswer>),
    ("save", of::<Advised<Outcome>>),
    ("save --patch", of::<PatchAnswer>),
    ("sheets", of::<SheetsAnswer>),
    ("suggest class", of::<ClassesAnswer>),
    ("suggest property", of::<CompleteAnswer>),
    ("suggest selector", of::<SelectorsAnswer>),
    ("suggest value", of::<CompleteAnswer>),
    ("trace", of::<TraceAnswer>),
    ("tree", of::<TreeAnswer>),
    ("unsave", of::<Outcome>),
    ("values", of::<AnyValues>),
    ("why", of::<WhyAnswer>),
    ("whynot", of::<Advised<WhyNotAnswer>>),
];

/// The schema of an answer: the envelope, and the answer's own fields.
fn of<T: JsonSchema>() -> Schema {
    let settings = SchemaSettings::draft2020_12().for_serialize();
    settings
        .into_generator()
        .into_root_schema_for::<Answer<'static, T>>()
}

/// The schema of one command's answers; without a command the names that there are.
pub fn schema(command: &[String], asking: &Asking<'_>) -> Result<Reply> {
    let name = command.join(" ");
    if name.is_empty() {
        let names: Vec<&str> = ANSWERS.iter().map(|(name, _)| *name).collect();
        let answer = TextAnswer {
            text: names.join("\n"),
        };
        return Ok(asking.reply("schema", true, &answer, |answer| {
            format!("{}\n", answer.text)
        }));
    }
    let Some((_, schema)) = ANSWERS.iter().find(|(known, _)| *known == name) else {
        return Err(Problem::bad_use(format!(
            "no answer is called '{name}'; `fingerpost schema` lists those that are"
        )));
    };
    let mut schema = schema();
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
