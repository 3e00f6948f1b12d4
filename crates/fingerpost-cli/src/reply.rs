//! What a command has to say.

use fingerpost::question::Answer;
use schemars::JsonSchema;
use serde::Serialize;

use crate::foreign;

/// An answer as text, and whether the command found what it was asked for.
pub struct Reply {
    pub text: String,
    pub found: bool,
    /// Whether the text is a source, a program or data: no line of it is broken.
    pub verbatim: bool,
}

impl Reply {
    /// A text that answers.
    pub fn of(text: String) -> Reply {
        Reply {
            text,
            found: true,
            verbatim: false,
        }
    }

    pub fn verbatim(self) -> Reply {
        Reply {
            verbatim: true,
            ..self
        }
    }
}

/// An answer that is a text: a help, a manual page.
#[derive(JsonSchema, Serialize)]
pub struct TextAnswer {
    /// The text.
    pub text: String,
}

pub fn to_json(command: &str, body: impl Serialize) -> String {
    let answer = Answer::new(command, body);
    let json = serde_json::to_string_pretty(&answer).expect("answers are plain data");
    let mut text = foreign::visible_json(&json);
    text.push('\n');
    text
}
