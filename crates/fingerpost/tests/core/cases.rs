//! How many cases a random test runs.

/// So many, and with `FINGERPOST_CASES=4` four times as many.
pub fn cases(usual: usize) -> usize {
    usual * times()
}

#[allow(dead_code)] // The core's own tests only count.
/// What `FINGERPOST_CASES` says; once without it.
pub fn times() -> usize {
    let given = std::env::var("FINGERPOST_CASES").ok();
    given
        .and_then(|times| times.parse().ok())
        .unwrap_or(1)
        .max(1)
}
