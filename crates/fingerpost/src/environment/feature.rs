//! The media features that can be assumed, with their values: Media Queries 5 § 5 to § 12.

use thiserror::Error;

use crate::text::nearest;

/// The discrete features and their values, the usual one first.
const FEATURES: [(&str, &[&str]); 18] = [
    ("any-hover", &["hover", "none"]),
    ("any-pointer", &["fine", "coarse", "none"]),
    ("color-gamut", &["srgb", "p3", "rec2020"]),
    (
        "display-mode",
        &[
            "browser",
            "fullscreen",
            "standalone",
            "minimal-ui",
            "picture-in-picture",
        ],
    ),
    ("dynamic-range", &["standard", "high"]),
    ("forced-colors", &["none", "active"]),
    ("hover", &["hover", "none"]),
    ("inverted-colors", &["none", "inverted"]),
    ("overflow-block", &["scroll", "paged", "none"]),
    ("pointer", &["fine", "coarse", "none"]),
    ("prefers-color-scheme", &["light", "dark"]),
    (
        "prefers-contrast",
        &["no-preference", "more", "less", "custom"],
    ),
    ("prefers-reduced-data", &["no-preference", "reduce"]),
    ("prefers-reduced-motion", &["no-preference", "reduce"]),
    ("prefers-reduced-transparency", &["no-preference", "reduce"]),
    ("scripting", &["enabled", "initial-only", "none"]),
    ("update", &["fast", "slow", "none"]),
    ("video-dynamic-range", &["standard", "high"]),
];

/// Why a feature can't be assumed.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[non_exhaustive]
pub enum FeatureError {
    /// It is not a feature and a value.
    #[error("expected a feature and a value{}", meant(.with_that_value))]
    Form {
        /// What it would be with the features that have that value.
        with_that_value: Vec<String>,
    },
    /// There is no such feature.
    #[error("'{name}' is not a media feature; {}", hint(.nearest.as_ref()))]
    Unknown {
        /// The name as given.
        name: String,
        /// The nearest that there is.
        nearest: Option<String>,
    },
    /// The feature has no such value.
    #[error("{feature} is never '{value}'; expected {}", .expected.join(" or "))]
    Value {
        /// The feature.
        feature: &'static str,
        /// The value as given.
        value: String,
        /// The values that it has.
        expected: Vec<&'static str>,
    },
}

fn hint(nearest: Option<&String>) -> String {
    match nearest {
        Some(name) => format!("do you mean '{name}'?"),
        None => {
            "expected one such as prefers-color-scheme, prefers-reduced-motion or hover".to_owned()
        }
    }
}

fn meant(choices: &[String]) -> String {
    match choices {
        [] => ", such as color-scheme=dark".to_owned(),
        choices => format!("; do you mean {}?", choices.join(" or ")),
    }
}

/// `color-scheme=dark` for `dark`: what users may prefer with that value.
fn with_value(value: &str) -> Vec<String> {
    let preferences = FEATURES.iter().filter_map(|(feature, values)| {
        let bare = feature.strip_prefix("prefers-")?;
        values.contains(&value).then_some(bare)
    });
    preferences.map(|bare| format!("{bare}={value}")).collect()
}

/// A feature and its value from `prefers-color-scheme=dark`, or without the `prefers-`.
///
/// # Errors
/// Where there is no such feature, or it has no such value.
pub fn feature(text: &str) -> Result<(&'static str, &'static str), FeatureError> {
    let pair = text
        .split_once('=')
        .map(|(name, value)| (name.trim(), value.trim()));
    let Some((name, value)) = pair.filter(|(name, value)| !name.is_empty() && !value.is_empty())
    else {
        return Err(FeatureError::Form {
            with_that_value: with_value(text.trim()),
        });
    };
    let is_name = |feature: &str| {
        feature.eq_ignore_ascii_case(name)
            || feature
                .strip_prefix("prefers-")
                .is_some_and(|bare| bare.eq_ignore_ascii_case(name))
    };
    let found = FEATURES.iter().find(|(feature, _)| is_name(feature));
    let Some((feature, values)) = found else {
        let all = FEATURES.iter().flat_map(|(feature, _)| {
            let bare = feature.strip_prefix("prefers-");
            [Some(*feature), bare].into_iter().flatten()
        });
        return Err(FeatureError::Unknown {
            name: name.to_owned(),
            nearest: nearest(name, all).map(str::to_owned),
        });
    };
    let known = values
        .iter()
        .find(|known| known.eq_ignore_ascii_case(value));
    match known {
        Some(value) => Ok((feature, value)),
        None => Err(FeatureError::Value {
            feature,
            value: value.to_owned(),
            expected: values.to_vec(),
        }),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_with_and_without_their_prefix() {
        assert_eq!(
            feature("color-scheme=dark"),
            Ok(("prefers-color-scheme", "dark"))
        );
        assert_eq!(
            feature("prefers-contrast=More"),
            Ok(("prefers-contrast", "more"))
        );
        assert_eq!(feature("hover=none"), Ok(("hover", "none")));
    }

    #[test]
    fn what_there_is_not_is_said_with_the_nearest() {
        let said = |text: &str| feature(text).unwrap_err().to_string();
        assert_eq!(
            said("colour-scheme=dark"),
            "'colour-scheme' is not a media feature; do you mean 'color-scheme'?"
        );
        assert_eq!(
            said("color-scheme=night"),
            "prefers-color-scheme is never 'night'; expected light or dark"
        );
        assert_eq!(
            said("dark"),
            "expected a feature and a value; do you mean color-scheme=dark?"
        );
        assert_eq!(
            said("reduce"),
            "expected a feature and a value; do you mean reduced-data=reduce or reduced-motion=reduce or \
             reduced-transparency=reduce?"
        );
        assert_eq!(
            said("night"),
            "expected a feature and a value, such as color-scheme=dark"
        );
    }
}
