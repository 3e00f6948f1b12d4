//! The command's answers over the demo theme, word for word.
//!
//! `TRYCMD=overwrite cargo test --workspace --test command` writes them again; read the
//! difference before you commit it.

#[test]
fn answers_over_the_demo() {
    let cases = trycmd::TestCases::new();
    cases.env("FINGERPOST_REMEMBER", "no");
    cases.case("tests/cmd/*.trycmd");
}
