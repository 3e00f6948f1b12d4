//! Exact edits: what an edit did is read by a parser that is not ours.
//!
//! Random sources of every bad habit, a random edit of each kind, and then the question whether only
//! what was asked for differs: of style sheets by `cssparser` alone, of pages by `html5ever` alone. The
//! inverse patch gives the old bytes. `FINGERPOST_CASES=4` runs four times as many cases.

mod announced_edits;
#[path = "../../../fingerpost/tests/core/cases.rs"]
mod cases;
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
