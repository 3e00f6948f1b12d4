//! `init`: a commented `fingerpost.toml` from what a theme's folder holds.

use fingerpost::text::plain_io;
use std::io::{ErrorKind, Write};
use std::path::Path;

use fingerpost::site::{CONFIG_FILE, CONFIG_VERSION};
use fingerpost::survey::guess::{Guess, guess};
use schemars::JsonSchema;
use serde::Serialize;

use crate::opened::Asking;
use crate::problem::{Problem, Result};
use crate::reply::Reply;

#[derive(JsonSchema, Serialize)]
pub struct InitAnswer {
    /// The file that was written, as the folder was given.
    file: String,
    #[serde(flatten)]
    guess: Guess,
}

/// Writes the file, and says what was guessed. What is there is never overwritten.
pub fn init(folder: &Path, asking: &Asking<'_>) -> Result<Reply> {
    let path = folder.join(CONFIG_FILE);
    let shown = path.display().to_string();
    if path.symlink_metadata().is_ok() {
        return Err(taken(&shown));
    }
    let guess = guess(folder)?;
    let text = written(&guess);
    let file = std::fs::OpenOptions::new()
        .write(true)
        .create_new(true)
        .open(&path);
    let done = file.and_then(|mut file| file.write_all(text.as_bytes()));
    done.map_err(|error| match error.kind() {
        ErrorKind::AlreadyExists => taken(&shown),
        _ => Problem::bad_use(format!("{shown}: can't be written: {}", plain_io(&error))),
    })?;
    let answer = InitAnswer { file: shown, guess };
    Ok(asking.reply("init", true, &answer, |answer| {
        format!(
            "Wrote {}. Read it, and correct any wrong guess:\n\n{text}",
            answer.file
        )
    }))
}

fn taken(shown: &str) -> Problem {
    Problem::bad_use(format!(
        "{shown}: the file exists already; it was not changed"
    ))
}

/// The file: every guess with its reason, and what could not be guessed as a comment.
fn written(guess: &Guess) -> String {
    let mut text = format!(
        "# What Fingerpost should know about this theme. docs/config.md describes every key.\nfingerpost = \
         {CONFIG_VERSION}\n\n"
    );
    match &guess.overrides {
        Some(overrides) => text.push_str(&format!(
            "# The override sheet. Guessed: {} of {} pages link it last.\noverride-sheet = {}\n",
            overrides.pages,
            guess.pages,
            quoted(&overrides.file)
        )),
        None => text.push_str(
            "# The override sheet. No sheet is the last one of most pages.\n# override-sheet = \"css/overrides.css\"\n",
        ),
    }
    text.push('\n');
    match &guess.templates[..] {
        [] => text.push_str(
            "# The templates that a server makes pages from.\n# templates = [\"templates/**/*.html\"]\n",
        ),
        patterns => {
            let list: Vec<String> = patterns.iter().map(|pattern| quoted(pattern)).collect();
            text.push_str(&format!(
                "# The templates that a server makes pages from. Guessed from the names of folders.\ntemplates = [{}]\n",
                list.join(", ")
            ));
        }
    }
    for mount in &guess.mounts {
        text.push_str(&format!(
            "\n# Guessed: {} links start with {}, and {} of them lead to files in {}.\n[[mount]]\nurl = {}\ndir = {}\n",
            mount.links,
            mount.url,
            mount.found,
            mount.dir,
            quoted(&mount.url),
            quoted(&mount.dir)
        ));
    }
    if !guess.maps.is_empty() {
        text.push_str(&format!(
            "\n# Built sheets, according to their source maps: {}. Edits go to their sources.\n",
            guess.maps.join(", ")
        ));
    }
    text
}

/// A string as TOML writes it.
fn quoted(text: &str) -> String {
    toml::Value::from(text).to_string()
}
