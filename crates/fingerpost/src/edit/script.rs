//! Scripts of edits: a list of intents in a file, so that a change can be repeated on another theme.
//!
//! The format is documented in `docs/edits.md`.

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::edit::intent::Intent;
use crate::text::plain_data;

/// The version of the script format.
pub const SCRIPT_VERSION: u32 = 4;

/// Why a script can't be read.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[non_exhaustive]
pub enum ScriptError {
    /// It is not one.
    #[error("line {line}, column {column}: {message}")]
    Malformed {
        /// Where, from 1.
        line: usize,
        /// Where, from 1.
        column: usize,
        /// What is wrong.
        message: String,
    },
    /// It is of another version.
    #[error("it has version {found}, and this program reads version {SCRIPT_VERSION}")]
    Version {
        /// The version that it says.
        found: u32,
    },
}

/// A list of intents.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[non_exhaustive]
pub struct Script {
    /// [`SCRIPT_VERSION`].
    fingerpost: u32,
    /// What is wanted, in order.
    pub edits: Vec<Intent>,
}

impl Script {
    /// A script of some intents.
    pub fn new(edits: Vec<Intent>) -> Script {
        Script {
            fingerpost: SCRIPT_VERSION,
            edits,
        }
    }

    /// Reads a script.
    ///
    /// # Errors
    /// Where it is not a script, is of another version, or says what this program does not understand.
    pub fn from_json(json: &str) -> Result<Script, ScriptError> {
        #[derive(Deserialize)]
        struct Version {
            fingerpost: u32,
        }
        let malformed = |error: serde_json::Error| ScriptError::Malformed {
            line: error.line(),
            column: error.column(),
            message: plain_data(&error.to_string()),
        };
        let version: Version = serde_json::from_str(json).map_err(malformed)?;
        if version.fingerpost != SCRIPT_VERSION {
            return Err(ScriptError::Version {
                found: version.fingerpost,
            });
        }
        serde_json::from_str(json).map_err(malformed)
    }

    /// The script's file.
    pub fn to_json(&self) -> String {
        let mut json = serde_json::to_string_pretty(self).expect("plain data serialises");
        json.push('\n');
        json
    }
}
