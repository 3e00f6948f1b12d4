//! Published themes, worked on as their users would: through source maps with a compiler of the sources as the judge.

#[path = "../../../fingerpost/tests/core/cases.rs"]
mod cases;
#[path = "../engine/themes.rs"]
mod fetching;
#[path = "../engine/generated.rs"]
mod generated;
#[path = "../exact/numbers.rs"]
mod numbers;
mod sources;
