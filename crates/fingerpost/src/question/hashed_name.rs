//! Names that look made up by a program, which another build changes.

/// Whether a selector has a name in it that looks made up by a program.
pub(super) fn is_hashed_selector(selector: &str) -> bool {
    selector
        .split(['.', '#', ' ', '>', ':', '[', ']', '='])
        .any(is_hashed)
}

/// Whether a name looks made up by a program: its last part mixes digits and letters, or cases, as
/// no word does.
pub(super) fn is_hashed(name: &str) -> bool {
    let last = name
        .rsplit(['-', '_'])
        .find(|part| !part.is_empty())
        .unwrap_or("");
    if last.len() < 5 || !last.chars().all(|c| c.is_ascii_alphanumeric()) {
        return false;
    }
    let digits = last.chars().filter(char::is_ascii_digit).count();
    let letters = last.len() - digits;
    // Changes between digits and letters: `col12` has one, `x7f2k` has many.
    let kinds: Vec<bool> = last.chars().map(|c| c.is_ascii_digit()).collect();
    let changes = kinds.windows(2).filter(|w| w[0] != w[1]).count();
    let upper = last
        .chars()
        .skip(1)
        .filter(char::is_ascii_uppercase)
        .count();
    (digits > 0 && letters > 0 && changes >= 2)
        || (digits > 0 && upper > 0)
        || (letters == 0 && digits >= 6)
        // Parts of two letters or so: `bdVaJa`, not `siteHeader`.
        || (upper >= 2 && last.len() <= 2 * (upper + 1) + 1)
}

#[cfg(test)]
mod tests {
    use super::is_hashed;

    #[test]
    fn names_made_by_programs_are_told_from_words() {
        for hashed in [
            "css-1q2w3e",
            "sc-bdVaJa",
            "_3xK9b7",
            "Button_root__x7F2k",
            "jsx-1946252",
        ] {
            assert!(is_hashed(hashed), "{hashed}");
        }
        for word in [
            "panel",
            "col-md-6",
            "h2",
            "navbar",
            "btn-primary",
            "isActive",
            "mainContent",
            "mb-3",
            "grid12",
            "w-1000",
            "is-2024",
            "step1",
            "siteHeaderInner",
        ] {
            assert!(!is_hashed(word), "{word}");
        }
    }
}
