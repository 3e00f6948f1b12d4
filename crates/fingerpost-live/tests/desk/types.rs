//! The types that the desk's modules are checked against have every change and every question of the core.

use std::fmt::Write as _;

use fingerpost::asking::QuestionKind;
use fingerpost::edit::kinds::KindInfo;
use fingerpost::edit::{Change, Side};
use fingerpost::field::{Given, Holds};

fn words(words: &[&str]) -> String {
    let quoted: Vec<String> = words.iter().map(|word| format!("\"{word}\"")).collect();
    quoted.join(" | ")
}

/// A kind of change as TypeScript writes its type.
fn of_kind(kind: &KindInfo) -> String {
    let mut parts = String::new();
    for field in kind.fields {
        let optional = match field.given {
            Given::Required | Given::RequiredNamed | Given::Several => "",
            _ => "?",
        };
        let holds = match (field.given, field.holds) {
            (Given::Flag, _) => "boolean".to_owned(),
            (Given::Several, _) => "string[]".to_owned(),
            (_, Holds::Choice(all)) => words(all),
            (_, Holds::Side) => words(&Side::NAMES),
            _ => "string".to_owned(),
        };
        write!(parts, " \"{}\"{optional}: {holds};", field.name).unwrap();
    }
    format!("  | {{ \"{}\": {{{parts} }} }}\n", kind.name)
}

#[test]
fn the_modules_are_checked_against_every_change_and_question() {
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/assets/core.d.ts");
    let changes: String = Change::kinds().iter().map(|kind| of_kind(kind)).collect();
    let names: Vec<&str> = QuestionKind::all().iter().map(|kind| kind.name).collect();
    let wanted = format!(
        "// Made from the core: `DOCUMENTS=overwrite cargo test --workspace --test desk types`.\n\n/** What changes. */\n\
         type Change =\n{};\n\n/** The questions of the API. */\ntype QuestionName = {};\n",
        changes.trim_end(),
        words(&names)
    );
    if std::env::var("DOCUMENTS").is_ok_and(|word| word == "overwrite") {
        std::fs::write(path, &wanted).unwrap();
    }
    let stands = std::fs::read_to_string(path).unwrap_or_default();
    assert!(
        stands == wanted,
        "assets/core.d.ts is not what the core says"
    );
}
