//! A state that an answer would be different in.

use serde::{Deserialize, Serialize};

/// A state that a selector asks for, and that the page is not in.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schemas", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct StateNeeded {
    /// The elements that need it, as a selector; none for the element that is asked about.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub of: Option<String>,
    /// The state, with its colon: `:hover`.
    pub state: String,
}
