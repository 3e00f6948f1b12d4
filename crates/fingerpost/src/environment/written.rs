//! Environments as text: what [`Environment`] and [`Viewport`] are parsed from and printed as.

use std::fmt;
use std::str::FromStr;

use thiserror::Error;

use super::{Environment, FeatureError, Viewport, feature};
use crate::selector::{SelectorError, SelectorList};

/// Why a text is not an environment.
#[derive(Clone, Debug, PartialEq, Error)]
#[non_exhaustive]
pub enum EnvironmentError {
    /// Not a size.
    #[error("'{0}' is not a size; expected a width and a height in px, such as 480x800")]
    Size(String),
    /// A part that is neither a size, a medium, a resolution nor a feature.
    #[error(
        "'{0}' is not part of an environment; expected a size such as 480x800, a medium, a resolution such as 2x, or a \
         feature such as prefers-color-scheme=dark"
    )]
    Part(String),
    /// An unknown media feature, or a value that it does not take.
    #[error(transparent)]
    Feature(#[from] FeatureError),
    /// A container's selector is not valid.
    #[error("'{selector}': {error}")]
    Container {
        /// The selector.
        selector: String,
        /// What is wrong with it.
        error: SelectorError,
    },
}

impl FromStr for Viewport {
    type Err = EnvironmentError;

    /// Reads `480x800`.
    fn from_str(text: &str) -> Result<Viewport, EnvironmentError> {
        let read = || {
            let (width, height) = text.split_once(['x', '×'])?;
            let (width, height) = (width.trim().parse().ok()?, height.trim().parse().ok()?);
            Some(Viewport { width, height })
        };
        let is_size = |length: f64| length.is_finite() && length > 0.0;
        read()
            .filter(|size| is_size(size.width) && is_size(size.height))
            .ok_or_else(|| EnvironmentError::Size(text.to_owned()))
    }
}

impl fmt::Display for Viewport {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}x{}", self.width, self.height)
    }
}

impl FromStr for Environment {
    type Err = EnvironmentError;

    /// Reads what [`Display`](fmt::Display) writes, each part of which may be left out.
    fn from_str(text: &str) -> Result<Environment, EnvironmentError> {
        let mut environment = Environment::default();
        for part in text
            .split(';')
            .map(str::trim)
            .filter(|part| !part.is_empty())
        {
            if let Ok(viewport) = part.parse() {
                environment.viewport = viewport;
            } else if let Some(resolution) = part.strip_suffix('x').and_then(|n| n.parse().ok()) {
                environment.resolution = resolution;
            } else if matches!(part, "screen" | "print") {
                environment.media = part.to_owned();
            } else if let Some((selector, size)) = part.rsplit_once('=')
                && let Ok(size) = size.parse()
            {
                if let Err(error) = SelectorList::parse(selector) {
                    let selector = selector.to_owned();
                    return Err(EnvironmentError::Container { selector, error });
                }
                environment
                    .container_sizes
                    .push((selector.to_owned(), size));
            } else if part.contains('=') {
                let (name, value) = feature(part)?;
                environment
                    .features
                    .insert(name.to_owned(), value.to_owned());
            } else {
                return Err(EnvironmentError::Part(part.to_owned()));
            }
        }
        Ok(environment)
    }
}

impl fmt::Display for Environment {
    /// `480x800; print; 2x; prefers-color-scheme=dark; .fares=420x300`: the size, the medium, the resolution, then
    /// what differs from the usual.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}; {}; {}x", self.viewport, self.media, self.resolution)?;
        for (name, value) in &self.features {
            write!(f, "; {name}={value}")?;
        }
        for (selector, size) in &self.container_sizes {
            write!(f, "; {selector}={size}")?;
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn what_is_written_is_read(
            width in 1u32..5000, height in 1u32..5000, resolution in 1u8..4,
            print in any::<bool>(), dark in any::<bool>(), boxes in 0usize..3,
        ) {
            let mut environment = Environment {
                viewport: Viewport { width: width.into(), height: height.into() },
                resolution: resolution.into(),
                media: if print { "print" } else { "screen" }.to_owned(),
                ..Environment::default()
            };
            if dark {
                environment.features.insert("prefers-color-scheme".to_owned(), "dark".to_owned());
            }
            for at in 0..boxes {
                let size = Viewport { width: 10.5, height: 20.0 };
                environment.container_sizes.push((format!(".a > .b:is(.c, .d{at})"), size));
            }
            prop_assert_eq!(environment.to_string().parse(), Ok(environment));
        }
    }

    #[test]
    fn what_is_not_understood_is_named() {
        let error = |text: &str| text.parse::<Environment>().unwrap_err().to_string();
        assert!(error("wide").starts_with("'wide' is not part of an environment"));
        assert!(error("color-scheme=drak").contains("drak"));
        assert!(error(":: =4x4").starts_with("':: '"));
        assert!("0x4".parse::<Viewport>().is_err());
    }
}
