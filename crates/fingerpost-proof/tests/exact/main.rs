//! Exact edits: what an edit did is read by a parser that is not ours.
//!
//! Random sources of every bad habit, a random edit of each kind, and then the question whether only
//! what was asked for differs: of style sheets by `cssparser` alone, of pages by `html5ever` alone. The
//! inverse patch gives the old bytes. How many cases are run is in `FINGERPOST_CASES`.

mod css;
mod effects;
mod elements;
mod folders;
mod html;
mod mutated;
mod numbers;
mod pairs;
mod seeds;
mod sequences;
mod sheets;
#[path = "../engine/themes.rs"]
mod themes;
mod whynots;

/// How many cases each test runs.
pub fn cases(usual: usize) -> usize {
    let asked = std::env::var("FINGERPOST_CASES").ok();
    asked.and_then(|n| n.parse().ok()).unwrap_or(usual)
}
