//! Answers as text for people. Nothing here computes: it lays out what the core said.

pub mod asked;
mod contrast;
pub mod destinations;
pub mod draft;
pub mod edit;
pub mod effect;
pub mod facts;
pub mod find;
pub mod fonts;
pub mod places;
pub mod selectors;
pub mod sheets;
pub mod trace;
pub mod tree;
pub mod values;
pub mod why;
pub mod whynot;

use std::sync::atomic::{AtomicBool, Ordering};

use anstyle::{AnsiColor, Effects, RgbColor, Style};
use fingerpost::page::Failure;
use fingerpost::question::codes::ArrivalKind;
use fingerpost::question::{ElementSummary, RuleSummary};
use fingerpost::text::Place;
use fingerpost::value::color as colors;

/// What gives the value.
pub const GOOD: Style = AnsiColor::Green.on_default().effects(Effects::BOLD);
/// What was beaten.
pub const LOST: Style = AnsiColor::Yellow.on_default();
/// What is wrong.
pub const BAD: Style = AnsiColor::Red.on_default().effects(Effects::BOLD);
/// What the answer is about.
pub const HEAD: Style = Style::new().effects(Effects::BOLD);
/// Where something stands.
pub const PLACE: Style = AnsiColor::Cyan.on_default();
/// What is said beside it.
pub const FAINT: Style = Style::new().effects(Effects::DIMMED);

/// Puts a style around a text.
pub fn painted(style: Style, text: impl std::fmt::Display) -> String {
    format!("{style}{text}{style:#}")
}

/// `1 change`, `3 changes`.
pub fn counted(count: usize, noun: &str) -> String {
    let s = if count == 1 { "" } else { "s" };
    format!("{count} {noun}{s}")
}

/// A place; where its author wrote it, with the served place beside, when a source map says so.
pub fn place(place: &Place) -> String {
    match &place.authored {
        Some(authored) => format!(
            "{} {}",
            painted(PLACE, authored.brief()),
            painted(FAINT, format!("({})", place.brief()))
        ),
        None => painted(PLACE, place.brief()),
    }
}

/// Whether swatches are shown: on a terminal that has all colors.
static SWATCHES: AtomicBool = AtomicBool::new(false);

/// From now on, colors come with swatches.
pub fn show_swatches() {
    SWATCHES.store(true, Ordering::Relaxed);
}

/// A patch of a color to stand before its value; nothing where the value is not one color, or the terminal has
/// fewer than 24 bits for it.
pub fn swatch(value: &str) -> String {
    if !SWATCHES.load(Ordering::Relaxed) {
        return String::new();
    }
    let Some(color) = colors::read(value).absolute() else {
        return String::new();
    };
    let [r, g, b, alpha] = color.srgb();
    if alpha == 0 {
        return String::new();
    }
    let style = Style::new().bg_color(Some(RgbColor(r, g, b).into()));
    // Spaces at which no line is broken, so that it stays with its value.
    format!("{style}\u{a0}\u{a0}{style:#}\u{a0}")
}

/// The trail from the root element, itself left out.
pub fn trail(trail: &[ElementSummary]) -> String {
    let parts: Vec<String> = trail.iter().map(ElementSummary::label).collect();
    parts.join(" › ")
}

/// A rule's selector with its specificity, and its layer.
pub fn selector(rule: &RuleSummary) -> String {
    let mut text = painted(HEAD, &rule.selector);
    if let Some(specificity) = rule.specificity {
        text.push_str(&format!("  {specificity}"));
    }
    if let Some(layer) = &rule.layer {
        text.push_str(&format!("  in layer {layer}"));
    }
    text
}

/// Whose a rule is and how its sheet came, where that is worth a word.
pub fn provenance(rule: &RuleSummary) -> &'static str {
    match rule.arrival {
        ArrivalKind::UserAgent => "user-agent, the browser's own sheet",
        ArrivalKind::Style => "author, embedded",
        ArrivalKind::Import => "author, imported",
        ArrivalKind::Attribute => "author, on the element",
        ArrivalKind::Hint => "weaker than any author's sheet",
        _ => "author",
    }
}

/// How many sheets that did not load are named before an answer.
const MOST_FAILURES: usize = 3;

/// What is before an answer that could be another one if all sheets had loaded.
pub fn not_loaded(failures: &[Failure]) -> String {
    let mut text = String::new();
    for failure in failures.iter().take(MOST_FAILURES) {
        let start = failure.text.place(failure.span.start());
        text.push_str(&format!(
            "{} {}  {}\n    {}. {}.\n",
            painted(BAD, "Not loaded:"),
            failure.url,
            place(&start),
            failure.error,
            failure.error.remedy()
        ));
    }
    if failures.len() > MOST_FAILURES {
        let more = failures.len() - MOST_FAILURES;
        text.push_str(&format!(
            "    and {more} more; `fingerpost sheets` lists them\n"
        ));
    }
    if !text.is_empty() {
        text.push('\n');
    }
    text
}

/// A summary as a sentence: with a capital letter and a full stop.
pub fn sentence(summary: &str) -> String {
    let mut characters = summary.chars();
    let first = characters.next().map(|c| c.to_uppercase().to_string());
    format!("{}{}.", first.unwrap_or_default(), characters.as_str())
}

/// The line that says an answer counts unsaved changes.
pub fn unsaved(count: usize) -> String {
    let changes = if count == 1 { "change" } else { "changes" };
    let line = format!(
        "This answer counts {count} unsaved {changes}: {}",
        crate::advised::typed("draft")
    );
    format!("\n{}\n", painted(FAINT, line))
}
