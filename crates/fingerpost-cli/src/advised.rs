//! Advice as a line that can be typed here: the core says what to do, this says how the command is called for it.

use std::path::{Path, PathBuf};
use std::sync::OnceLock;

use fingerpost::advice::{Action, Advice};
use fingerpost::edit::{Intent, SCRIPT_VERSION};
use fingerpost::question::find::ReadAs;
use fingerpost::text::is_url;

use schemars::JsonSchema;
use serde::Serialize;
use serde_json::json;

use crate::arguments::{edit_line, quoted};
use crate::render::{FAINT, HEAD, painted};

/// An answer with advice, each with the line to type.
#[derive(JsonSchema, Serialize)]
pub struct Advised<T> {
    #[serde(flatten)]
    pub body: T,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub advice: Vec<AdviceWithLine>,
}

impl<T> Advised<T> {
    pub fn of(body: T, advice: &[Advice]) -> Advised<T> {
        Advised {
            body,
            advice: with_lines(advice),
        }
    }
}

/// A piece of advice, with the line to type.
#[derive(JsonSchema, Serialize)]
pub struct AdviceWithLine {
    #[serde(flatten)]
    advice: Advice,
    /// The line to type.
    #[serde(skip_serializing_if = "Option::is_none")]
    line: Option<String>,
}

/// Advice with the lines to type.
pub fn with_lines(advice: &[Advice]) -> Vec<AdviceWithLine> {
    let all = advice.iter().map(|advice| AdviceWithLine {
        advice: advice.clone(),
        line: line(advice),
    });
    all.collect()
}

/// How many pieces of advice are printed.
const MOST: usize = 4;

/// What the lines depend on: the words that were typed, and where the site is.
static TYPED: OnceLock<Vec<String>> = OnceLock::new();
static ROOT: OnceLock<PathBuf> = OnceLock::new();

/// Remembers the words of this call.
pub fn remember_words(words: &[String]) {
    let _ = TYPED.set(words.to_vec());
}

/// Whether notes are left out.
pub fn is_quiet() -> bool {
    let words = TYPED.get().map(Vec::as_slice).unwrap_or_default();
    words.iter().any(|word| word == "-q" || word == "--quiet")
}

/// Remembers the root of the site that this call is about.
pub fn remember_root(root: &Path) {
    let _ = ROOT.set(root.to_owned());
}

/// What to add to a command so that it finds the site from the present folder.
pub fn site_hint(root: &Path) -> String {
    let here = std::env::current_dir().and_then(|d| d.canonicalize());
    match here {
        Ok(here) if here.starts_with(root) => String::new(),
        Ok(here) => match root.strip_prefix(&here) {
            Ok(below) => format!(" --site {}", quoted(&below.display().to_string())),
            Err(_) => format!(" --site {}", quoted(&root.display().to_string())),
        },
        Err(_) => format!(" --site {}", quoted(&root.display().to_string())),
    }
}

/// A command to type from the present folder, on the site that was asked.
pub fn typed(command: &str) -> String {
    let site = ROOT.get().map(|root| site_hint(root)).unwrap_or_default();
    format!("fingerpost {command}{site}")
}

/// A page's name as it can be given from the present folder.
fn page_from_here(page: &str) -> String {
    let Some(root) = ROOT.get() else {
        return page.to_owned();
    };
    if is_url(page) || Path::new(page).is_file() {
        return page.to_owned();
    }
    let here = std::env::current_dir().and_then(|d| d.canonicalize());
    let whole = root.join(page);
    match here
        .ok()
        .and_then(|here| whole.strip_prefix(here).ok().map(Path::to_owned))
    {
        Some(below) => below.display().to_string(),
        None => whole.display().to_string(),
    }
}

/// The line for a piece of advice; none where no command does it.
pub fn line(advice: &Advice) -> Option<String> {
    let site = ROOT.get().map(|root| site_hint(root)).unwrap_or_default();
    let line = match &advice.action {
        // Typed one after the other, the second would count on the page that the first has changed.
        Action::Edit { edits } if moves_what_it_counts(edits) => {
            let script = json!({ "fingerpost": SCRIPT_VERSION, "edits": edits });
            let script = script.to_string().replace('\'', r"'\''");
            format!("echo '{script}' | fingerpost edit --script -")
        }
        Action::Edit { edits } => {
            let lines = edits.iter().map(|intent| {
                let mut intent = intent.clone();
                intent.page = page_from_here(&intent.page);
                match is_url(&intent.page) {
                    true => format!("{}{site}", edit_line(&intent)),
                    false => edit_line(&intent),
                }
            });
            return Some(lines.collect::<Vec<_>>().join(" && "));
        }
        Action::AskInState {
            asked,
            element,
            states,
        } => {
            let mut words = replaced(asked, element)?;
            for needed in states {
                match &needed.of {
                    None => words.extend(["--state".to_owned(), needed.state.clone()]),
                    Some(of) => {
                        words.extend(["--state-of".to_owned(), format!("{of}={}", needed.state)]);
                    }
                }
            }
            return Some(shown(&words));
        }
        Action::AskAbout { asked, element } => return Some(shown(&replaced(asked, element)?)),
        Action::ShowDraft => "fingerpost draft".to_owned(),
        Action::SwitchOn { change } => format!("fingerpost draft on {change}"),
        Action::Discard { change: None } => "fingerpost draft discard --all".to_owned(),
        Action::Discard { change: Some(one) } => format!("fingerpost draft discard {one}"),
        Action::Reapply { change: None } => "fingerpost draft reapply".to_owned(),
        Action::Reapply { change: Some(one) } => format!("fingerpost draft reapply {one}"),
        Action::Save { changes } => {
            let numbers: Vec<String> = changes.iter().map(u32::to_string).collect();
            format!("fingerpost save {}", numbers.join(" "))
                .trim_end()
                .to_owned()
        }
        Action::Undo => "fingerpost draft undo".to_owned(),
        Action::Recover { leave: true } => "fingerpost recover --leave".to_owned(),
        Action::Recover { leave: false } => "fingerpost recover".to_owned(),
        Action::Configure => "fingerpost init".to_owned(),
        Action::UseSite { folder } => {
            let mut words = TYPED.get()?.clone();
            words.extend(["--site".to_owned(), folder.clone()]);
            return Some(shown(&words));
        }
        _ => return None,
    };
    Some(format!("{line}{site}"))
}

/// Whether the first edit changes a page on which another one counts.
fn moves_what_it_counts(edits: &[Intent]) -> bool {
    let [first, rest @ ..] = edits else {
        return false;
    };
    first.change.is_markup() && rest.iter().any(counts)
}

/// Whether an edit's element is named by its number, which a script takes as it finds the page.
fn counts(edit: &Intent) -> bool {
    let element = edit.element.as_ref();
    element.is_some_and(|element| element.read_as() == ReadAs::Number)
}

/// The typed words, with another element in the place of the one that was asked about.
fn replaced(asked: &str, element: &str) -> Option<Vec<String>> {
    let mut words = TYPED.get()?.clone();
    if let Some(at) = words.iter().position(|word| word == asked) {
        element.clone_into(&mut words[at]);
    }
    Some(words)
}

fn shown(words: &[String]) -> String {
    let words = words.iter().enumerate().map(|(at, word)| match at {
        0 => "fingerpost".to_owned(),
        _ => quoted(word),
    });
    words.collect::<Vec<_>>().join(" ")
}

/// Advice as lines: what it does, and what to type.
pub fn listed(advice: &[Advice]) -> String {
    let mut text = String::new();
    for advice in advice.iter().take(MOST) {
        let Some(line) = line(advice) else { continue };
        let test = if advice.test_only { ", for a test" } else { "" };
        text.push_str(&format!(
            "{}{}\n",
            painted(
                FAINT,
                format!("To {}{}{test}: ", advice.label, besides(advice))
            ),
            painted(HEAD, line)
        ));
    }
    text
}

/// What trying it showed, in half a sentence.
fn besides(advice: &Advice) -> String {
    match (&advice.side_effects, advice.tried) {
        (Some(others), _) => format!(" (also changes {others})"),
        (None, true) => " (nothing else changes)".to_owned(),
        (None, false) => String::new(),
    }
}
