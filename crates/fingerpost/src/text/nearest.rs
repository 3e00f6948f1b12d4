//! The name that was probably meant.

/// The candidate with the fewest single-letter edits, swapped neighbors counting one, when they
/// are few for the length of the name.
pub fn nearest<'a>(name: &str, candidates: impl Iterator<Item = &'a str>) -> Option<&'a str> {
    let most = match name.chars().count() {
        0..=2 => return None,
        3..=5 => 1,
        6..=8 => 2,
        _ => 3,
    };
    candidates
        .filter(|c| c.len().abs_diff(name.len()) <= most)
        .map(|c| (strsim::osa_distance(name, c), c))
        .filter(|(edits, _)| *edits <= most)
        .min()
        .map(|(_, candidate)| candidate)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_swap_a_drop_and_a_slip_are_near() {
        let names = ["margin", "padding", "background-color"];
        let near = |name| nearest(name, names.into_iter());
        assert_eq!(near("magrin"), Some("margin"));
        assert_eq!(near("paddin"), Some("padding"));
        assert_eq!(near("backgorund-colour"), Some("background-color"));
        assert_eq!(near("flow"), None);
    }
}
