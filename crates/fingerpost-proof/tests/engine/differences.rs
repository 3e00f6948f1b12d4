//! The differences that are known, each with its reason.

use serde::Deserialize;

/// A known difference.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Difference {
    /// The properties; a `*` at the end stands for anything.
    pub properties: Vec<String>,
    /// The element names it is limited to; default: all.
    #[serde(default)]
    pub tags: Vec<String>,
    /// A part of the engine's value that it is limited to; default: any.
    #[serde(default)]
    pub engine: Option<String>,
    /// Why: a standard's section, or how the engine lags.
    #[expect(dead_code, reason = "for those who read the file")]
    pub reason: String,
}

/// The list of them.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Differences {
    /// The entries.
    pub difference: Vec<Difference>,
}

impl Differences {
    /// Reads the committed list.
    ///
    /// # Panics
    /// Where the file is not written as it should be.
    pub fn committed() -> Differences {
        toml::from_str(include_str!("../../differences.toml")).expect("differences.toml")
    }

    /// Whether a difference is known.
    pub fn know(&self, tag: &str, property: &str, engine: &str) -> bool {
        self.difference.iter().any(|known| {
            let named = known.properties.iter().any(|p| match p.strip_suffix('*') {
                Some(start) => property.starts_with(start),
                None => property == p,
            });
            let tagged = known.tags.is_empty() || known.tags.iter().any(|t| t == tag);
            let valued = known
                .engine
                .as_ref()
                .is_none_or(|part| engine.contains(part));
            named && tagged && valued
        })
    }
}
