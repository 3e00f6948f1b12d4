//! The other way round: an intent, or an example of a question, as the line that a person would type.

use fingerpost::asking::{QuestionKind, Sample};
use fingerpost::edit::kinds::About;
use fingerpost::edit::{Change, Destination, Intent, Pages};
use fingerpost::field::Given;
use fingerpost::question::find::ElementQuery;
use serde_json::Value;

/// The command line of an edit.
pub fn edit_line(intent: &Intent) -> String {
    let change = serde_json::to_value(&intent.change).expect("a change is plain data");
    let (name, parts) = match &change {
        Value::Object(all) => all.iter().next().expect("a change has its kind's name"),
        _ => unreachable!("a change is an object"),
    };
    let kind = Change::kind_named(name).expect("every change has a kind");
    let mut line = vec!["fingerpost".to_owned(), "edit".to_owned(), name.clone()];
    line.push(quoted(&intent.page));
    let mut options: Vec<String> = Vec::new();
    match (&intent.element, kind.about) {
        (Some(element), About::ElementOrRoot) => {
            options.extend(["--of".to_owned(), quoted(&element.to_string())]);
        }
        (Some(ElementQuery::Text(text)), About::Element | About::MaybeElement) => {
            line.push(quoted(text));
            options.push("--text".to_owned());
        }
        (Some(element), About::Element | About::MaybeElement) => {
            line.push(quoted(&element.to_string()));
        }
        (None, About::MaybeElement) => line.push("-".to_owned()),
        _ => {}
    }
    for field in kind.fields {
        let Some(value) = parts.get(field.name) else {
            continue;
        };
        let words: Vec<String> = match value {
            Value::Array(all) => all.iter().filter_map(Value::as_str).map(quoted).collect(),
            Value::String(text) => vec![quoted(text)],
            _ => Vec::new(),
        };
        match field.given {
            Given::Flag => options.push(format!("--{}", field.name)),
            Given::Named | Given::RequiredNamed | Given::OneOf => {
                options.push(format!("--{}", field.name));
                options.extend(words);
            }
            _ => line.extend(words),
        }
    }
    options.extend(intent.each.then(|| "--each".to_owned()));
    match &intent.pages {
        Pages::Every => options.push("--every-page".to_owned()),
        Pages::Also(pages) => {
            for page in pages {
                options.extend(["--also-on".to_owned(), quoted(page)]);
            }
        }
        Pages::This => {}
    }
    match &intent.into {
        into if *into == Destination::default() => {}
        Destination::Inline => options.push("--inline".to_owned()),
        Destination::Rule(place) => {
            options.extend(["--rule".to_owned(), quoted(&place.to_string())]);
        }
        into => options.extend(["--into".to_owned(), quoted(&into.to_string())]),
    }
    line.extend(options);
    line.join(" ")
}

/// The command line of an example of a question.
pub fn question_line(kind: &QuestionKind, sample: &Sample) -> String {
    let mut line = vec!["fingerpost".to_owned(), kind.name.to_owned()];
    line.extend(kind.about.has_page().then(|| sample.page.to_owned()));
    if sample.is_text {
        // A text needs no quotation marks where it can be nothing else.
        line.push(sample.element.to_owned());
    } else if !sample.element.is_empty() {
        line.push(quoted(sample.element));
    }
    for (name, text) in sample.parts {
        let field = kind.fields.iter().find(|field| field.name == *name);
        match field.map(|field| field.given) {
            Some(Given::Flag) => line.push(format!("--{name}")),
            Some(Given::Named) => line.extend([format!("--{name}"), quoted(text)]),
            _ => line.push(quoted(text)),
        }
    }
    line.join(" ")
}

/// A word as a shell takes it.
pub fn quoted(word: &str) -> String {
    let plain = |c: char| c.is_ascii_alphanumeric() || "-_./:@+,=%".contains(c);
    let is_plain = !word.is_empty() && word.chars().all(plain);
    // Inside double quotes a shell still reads these.
    match (is_plain, word.contains(['"', '$', '`', '\\', '!'])) {
        (true, _) => word.to_owned(),
        (false, false) => format!("\"{word}\""),
        (false, true) => format!("'{}'", word.replace('\'', r"'\''")),
    }
}
