//! What a value that does not fit was probably meant to be: a number with its unit left out, or a word with a slip.

use crate::text::nearest;
use crate::text::{Cut as _, TextRange};
use crate::value::declared::{Meaning, meaning};
use crate::value::grammar::{Offer, offers};
use crate::value::substitution::value_tokens;
use crate::value::{PropertyId, color};

/// The units that are left out most often, the likeliest first.
const UNITS: [&str; 3] = ["px", "deg", "s"];

/// The whole value with another word in place of the one that does not fit; none where no other one makes it valid.
pub(crate) fn meant(property: PropertyId, value: &str, misfit: TextRange) -> Option<String> {
    let found = value.cut(misfit);
    let (before, after) = (
        value.cut(..usize::from(misfit.start())),
        value.cut(usize::from(misfit.end())..),
    );
    let with = |word: &str| format!("{before}{word}{after}");
    let fits = |whole: &String| {
        let tokens = value_tokens(whole);
        !matches!(meaning(property, whole, &tokens), Meaning::Misfit(_))
    };
    if found.parse::<f64>().is_ok() {
        let mut tried = UNITS.iter().map(|unit| with(&format!("{found}{unit}")));
        return tried.find(fits);
    }
    let word = found.to_ascii_lowercase();
    let all = offers(property, before).offers;
    let keywords: Vec<&str> = all
        .iter()
        .filter_map(|offer| match offer {
            Offer::Keyword(word, _) => Some(word.as_ref()),
            _ => None,
        })
        .collect();
    let near = [
        nearest(&word, keywords.into_iter()),
        nearest(&word, color::names()),
    ];
    near.into_iter().flatten().map(with).find(fits)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::text::TextSize;

    fn of(property: PropertyId, value: &str, misfit: &str) -> Option<String> {
        let at = value.find(misfit).unwrap();
        let start = TextSize::of(value.cut(..at));
        meant(property, value, TextRange::at(start, TextSize::of(misfit)))
    }

    #[test]
    fn a_unit_that_was_left_out_and_a_slip() {
        let cases = [
            (PropertyId::WIDTH, "300", "300", Some("300px")),
            (PropertyId::ROTATE, "45", "45", Some("45deg")),
            (PropertyId::TRANSITION_DURATION, "2", "2", Some("2s")),
            (PropertyId::COLOR, "nvy", "nvy", Some("navy")),
            (PropertyId::DISPLAY, "felx", "felx", Some("flex")),
            (PropertyId::BORDER_TOP_STYLE, "sold", "sold", Some("solid")),
            (PropertyId::COLOR, "300", "300", None),
            (PropertyId::DISPLAY, "something", "something", None),
        ];
        for (property, value, misfit, wanted) in cases {
            assert_eq!(of(property, value, misfit).as_deref(), wanted, "{value}");
        }
    }
}
