//! What is valid: selectors, values and conditions, one by one, ours against the engine's.

use fingerpost::environment::{Environment, Viewport, media, supports};
use fingerpost::selector::SelectorList;
use fingerpost::value::PropertyId;
use fingerpost::value::value_tokens;
use fingerpost::value::{Meaning, meaning};
use fingerpost::value::{Offer, offers};
use serde::Deserialize;

use super::WIDE;
use super::browser::Browser;

/// What the standards' own texts call valid or invalid, and its neighbors.
const CASES: &str = include_str!("../../validity/cases.txt");

/// Where the engine takes other cases than the standards, with the reason.
const KNOWN: &str = include_str!("../../validity/known.toml");

#[derive(Deserialize)]
struct Known {
    known: Vec<Reason>,
}

/// Some differences and the reason for them.
#[derive(Deserialize)]
struct Reason {
    engine: String,
    #[serde(default)]
    cases: Vec<String>,
    #[serde(default)]
    properties: Vec<String>,
    #[serde(default)]
    words: Vec<String>,
    #[allow(dead_code)] // For those who read the file.
    reason: String,
}

impl Reason {
    fn covers(&self, case: &Case, engine: bool) -> bool {
        if (self.engine == "valid") != engine {
            return false;
        }
        if self
            .cases
            .contains(&case.question().join(" ").trim_end().to_owned())
        {
            return true;
        }
        let Case::Value(property, value) = case else {
            return false;
        };
        let has_word = || {
            value
                .split(' ')
                .any(|word| self.words.iter().any(|known| known == word))
        };
        self.properties.contains(property) && (self.words.is_empty() || has_word())
    }
}

/// Something that is valid or not.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
enum Case {
    Selector(String),
    Value(String, String),
    Media(String),
    Supports(String),
}

impl Case {
    fn read(line: &str) -> Case {
        let (kind, text) = line.split_once(' ').expect("a kind and a text");
        match kind {
            "selector" => Case::Selector(text.to_owned()),
            "media" => Case::Media(text.to_owned()),
            "supports" => Case::Supports(text.to_owned()),
            "value" => {
                let (property, value) = text.split_once(' ').expect("a property and a value");
                Case::Value(property.to_owned(), value.to_owned())
            }
            _ => panic!("an unknown kind of case: {line}"),
        }
    }

    /// What the engine is asked.
    fn question(&self) -> [&str; 3] {
        match self {
            Case::Selector(text) => ["selector", text, ""],
            Case::Media(text) => ["media", text, ""],
            Case::Supports(text) => ["supports", text, ""],
            Case::Value(property, value) => ["value", property, value],
        }
    }

    /// Our own answer: whether it is valid, and for a condition whether it holds.
    fn ours(&self) -> bool {
        match self {
            Case::Selector(text) => SelectorList::parse(text).is_ok(),
            Case::Media(text) => {
                let (width, height) = WIDE.window;
                let environment = Environment {
                    viewport: Viewport {
                        width: f64::from(width),
                        height: f64::from(height),
                    },
                    ..Environment::default()
                };
                media(text, &value_tokens(text), &environment).holds()
            }
            Case::Supports(text) => supports(text, &value_tokens(text)).holds(),
            Case::Value(property, value) if property.starts_with("--") => {
                supports_declaration(property, value)
            }
            Case::Value(property, value) => PropertyId::named(property).is_some_and(|property| {
                let meaning = meaning(property, value, &value_tokens(value));
                !matches!(meaning, Meaning::Misfit(_))
            }),
        }
    }
}

fn supports_declaration(property: &str, value: &str) -> bool {
    let condition = format!("({property}:{value})");
    supports(&condition, &value_tokens(&condition)).holds()
}

/// Compares cases; a line for each difference that is not known.
async fn differing(cases: &[Case]) -> Vec<String> {
    let browser = Browser::start(WIDE).await;
    let questions: Vec<[&str; 3]> = cases.iter().map(Case::question).collect();
    let answers = browser.valid(&questions).await.unwrap();
    browser.close().await;
    assert_eq!(answers.len(), cases.len());
    let known: Known = toml::from_str(KNOWN).unwrap();
    let valid = answers.iter().filter(|valid| **valid).count();
    println!("{} cases, {valid} valid", cases.len());
    cases
        .iter()
        .zip(answers)
        .filter(|(case, engine)| case.ours() != *engine)
        .filter(|(case, engine)| !known.known.iter().any(|k| k.covers(case, *engine)))
        .map(|(case, engine)| {
            let text = case.question().join(" ");
            format!(
                "{} by the engine: {}",
                if engine { "valid" } else { "invalid" },
                text.trim_end()
            )
        })
        .collect()
}

#[track_caller]
fn judge(unknown: &[String]) {
    for line in unknown {
        println!("{line}");
    }
    assert!(unknown.is_empty(), "{} cases differ", unknown.len());
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test]
async fn the_standards_own_invalid_cases() {
    let cases: Vec<Case> = CASES
        .split('\n')
        .filter(|line| !line.is_empty() && !line.starts_with('#'))
        .map(Case::read)
        .collect();
    judge(&differing(&cases).await);
}

/// Values of every kind, tried with every property.
const POOL: [&str; 40] = [
    "0",
    "1",
    "-1",
    "1.5",
    "1000",
    "1px",
    "-1px",
    "1.5em",
    "10%",
    "-10%",
    "0%",
    "1deg",
    "1s",
    "-1s",
    "1fr",
    "1x",
    "calc(1px + 1%)",
    "calc(1)",
    "calc(1px)",
    "calc(1deg)",
    "red",
    "#123",
    "rgb(1 2 3)",
    "url(a)",
    "\"a\"",
    "\"abcd\"",
    "some-name",
    "--dashed",
    "linear-gradient(red, blue)",
    "auto",
    "none",
    "normal",
    "inherit",
    "1px 2px",
    "1px 2px 3px",
    "1 / 2",
    "1px, 2px",
    "a b",
    "a, b",
    "1px solid red",
];

/// How many keywords of a property are tried in pairs.
const MOST_PAIRED: usize = 14;

fn cases_of(property: PropertyId, cases: &mut Vec<Case>) {
    let mut values: Vec<String> = POOL.iter().map(|value| (*value).to_owned()).collect();
    let words: Vec<String> = offers(property, "")
        .offers
        .into_iter()
        .filter_map(|offer| match offer {
            // Names of colors are many, and all alike.
            Offer::Keyword(word, kind) if kind.is_none() => Some(word.to_string()),
            _ => None,
        })
        .collect();
    for word in &words {
        values.push(word.clone());
        values.push(format!("{word} 1px"));
        values.push(format!("{word} 1"));
        values.push(format!("{word}, {word}"));
    }
    for first in words.iter().take(MOST_PAIRED) {
        for second in words.iter().take(MOST_PAIRED) {
            values.push(format!("{first} {second}"));
        }
    }
    let name = property.name();
    cases.extend(
        values
            .into_iter()
            .map(|value| Case::Value(name.to_owned(), value)),
    );
}

#[cfg_attr(not(browser), ignore = "needs chromium and chromedriver")]
#[tokio::test]
async fn values_of_every_property() {
    let browser = Browser::start(WIDE).await;
    let mut properties: Vec<PropertyId> = PropertyId::all().collect();
    // What the engine does not know yet, it can't judge.
    let asked: Vec<[&str; 3]> = properties
        .iter()
        .map(|p| ["value", p.name(), "inherit"])
        .collect();
    let mut known = browser.valid(&asked).await.unwrap().into_iter();
    properties.retain(|_| known.next().unwrap());
    browser.close().await;
    let mut cases = Vec::new();
    for property in &properties {
        cases_of(*property, &mut cases);
    }
    cases.sort();
    cases.dedup();
    println!("{} properties", properties.len());
    judge(&differing(&cases).await);
}
