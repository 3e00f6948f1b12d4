//! How many cases a random test runs.

/// Half as many, which a developer waits for; so many with `FINGERPOST_CASES=1`, four times as many with `FINGERPOST_CASES=4`.
pub fn cases(usual: usize) -> usize {
    match given() {
        Some(times) => usual * times,
        None => (usual / 2).max(1),
    }
}

/// Whether a number of cases is given, or one theme.
#[allow(dead_code)] // The core's own tests only count.
pub fn is_asked_for() -> bool {
    given().is_some() || std::env::var_os("FINGERPOST_THEME").is_some()
}

#[allow(dead_code)] // The core's own tests only count.
/// What `FINGERPOST_CASES` says; once without it.
pub fn times() -> usize {
    given().unwrap_or(1)
}

fn given() -> Option<usize> {
    let given = std::env::var("FINGERPOST_CASES").ok()?;
    given.parse().ok().map(|times: usize| times.max(1))
}
