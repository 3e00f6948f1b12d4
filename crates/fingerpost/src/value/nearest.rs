//! The name that was probably meant.

/// The candidate with the fewest single-letter edits, swapped neighbours counting one, when they
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
        .map(|c| (distance(name, c), c))
        .filter(|(edits, _)| *edits <= most)
        .min()
        .map(|(_, candidate)| candidate)
}

/// The optimal string alignment distance.
fn distance(a: &str, b: &str) -> usize {
    let (a, b): (Vec<char>, Vec<char>) = (a.chars().collect(), b.chars().collect());
    let mut before: Vec<usize> = Vec::new();
    let mut last: Vec<usize> = (0..=b.len()).collect();
    for i in 1..=a.len() {
        let mut row = vec![i];
        for j in 1..=b.len() {
            let same = usize::from(a[i - 1] != b[j - 1]);
            let mut best = (last[j] + 1).min(row[j - 1] + 1).min(last[j - 1] + same);
            if i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1] {
                best = best.min(before[j - 2] + 1);
            }
            row.push(best);
        }
        before = std::mem::replace(&mut last, row);
    }
    last[b.len()]
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
