//! Published themes, worked on as their users would: tasks in plain words, judged by a browser; edits through source maps, judged by a
//! compiler of the sources.

#[path = "../../../fingerpost/tests/core/cases.rs"]
mod cases;
#[path = "../engine/themes.rs"]
mod fetching;
#[path = "../engine/generated.rs"]
mod generated;
#[path = "../exact/numbers.rs"]
mod numbers;
mod sources;
mod tasks;
mod worked;
