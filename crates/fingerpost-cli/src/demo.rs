//! The whole story once, on a copy of the demo theme.
//!
//! Each step is the command itself: its arguments are parsed and run as if they had been typed.

use fingerpost::text::plain_io;
use std::path::{Path, PathBuf};

use include_dir::{Dir, include_dir};

use crate::problem::Problem;
use crate::render::{FAINT, HEAD, painted};
use crate::reply::Reply;

static THEME: Dir<'_> = include_dir!("$CARGO_MANIFEST_DIR/../../demo/skerry-line");

/// A step: what is wanted, and the words of the command.
struct Step {
    wanted: &'static str,
    words: &'static [&'static str],
}

const STORY: &[Step] = &[
    Step {
        wanted: "Find. A heading on the home page is brown. Which element is it?",
        words: &["find", "pages/home.html", "\"Sailings today\""],
    },
    Step {
        wanted: "Why. What gives it its color, and what lost?",
        words: &["why", "pages/home.html", "h2.today", "color"],
    },
    Step {
        wanted: "Why. Every declaration of it, strongest first.",
        words: &["trace", "pages/home.html", "h2.today"],
    },
    Step {
        wanted: "Try. Another color of the theme. Nothing is written into the sources yet.",
        words: &[
            "edit",
            "set",
            "pages/home.html",
            "h2.today",
            "color",
            "var(--rust)",
        ],
    },
    Step {
        wanted: "Try. The answer is about what was tried.",
        words: &["why", "pages/home.html", "h2.today", "color"],
    },
    Step {
        wanted: "Save. What would be written?",
        words: &["draft"],
    },
    Step {
        wanted: "Save. Write it: only these bytes change.",
        words: &["save"],
    },
];

/// The file that the story changes, and the line that changed in it.
const SAVED_FILE: &str = "css/skerry.css";
const SAVED_RULE: &str = ".today {";

/// Puts a copy of the theme into a folder; into a temporary one by default.
pub fn copy(into: Option<&Path>) -> Result<PathBuf, Problem> {
    let folder = match into {
        Some(folder) => {
            let taken = folder
                .read_dir()
                .is_ok_and(|mut entries| entries.next().is_some());
            if taken {
                return Err(Problem::bad_use(format!(
                    "{}: the folder is not empty; expected a new or an empty one",
                    folder.display()
                )));
            }
            folder.to_owned()
        }
        None => tempfile::Builder::new()
            .prefix("skerry-line-")
            .tempdir()
            .map_err(|e| Problem::bad_use(format!("no temporary folder: {}", plain_io(&e))))?
            .keep(),
    };
    let failed =
        |e: std::io::Error| Problem::bad_use(format!("{}: {}", folder.display(), plain_io(&e)));
    std::fs::create_dir_all(&folder).map_err(failed)?;
    THEME.extract(&folder).map_err(failed)?;
    Ok(folder)
}

pub fn demo(into: Option<&Path>) -> Result<Reply, Problem> {
    let folder = copy(into)?;
    let failed =
        |e: std::io::Error| Problem::bad_use(format!("{}: {}", folder.display(), plain_io(&e)));
    std::env::set_current_dir(&folder).map_err(failed)?;

    let mut text = format!(
        "The theme of the Skerry Line, a ferry company that does not exist, is now in\n{}\n\n",
        folder.display()
    );
    for step in STORY {
        let line = format!("$ fingerpost {}", shown(step.words));
        let words = std::iter::once("fingerpost").chain(step.words.iter().copied());
        let outcome = crate::answer(words.map(Into::into).collect())?;
        text.push_str(&format!(
            "{}\n{}\n{}\n",
            painted(HEAD, step.wanted),
            painted(FAINT, line),
            outcome.text
        ));
    }
    text.push_str(&format!(
        "{}\n{}\nThe copy stays in {}. Its other troubles are listed in demo/README.md.\n\
         The same in a browser, on a fresh copy: fingerpost desk --demo\n",
        painted(HEAD, "The saved file, where it changed:"),
        saved_lines().map_err(failed)?,
        folder.display()
    ));
    Ok(Reply::of(text))
}

/// The words of a command as one would type them.
fn shown(words: &[&str]) -> String {
    let quoted = words.iter().map(|word| {
        if word.contains('"') {
            format!("'{word}'")
        } else if word.contains([' ', '(', '>', '*']) {
            format!("\"{word}\"")
        } else {
            (*word).to_owned()
        }
    });
    quoted.collect::<Vec<_>>().join(" ")
}

fn saved_lines() -> std::io::Result<String> {
    let source = std::fs::read_to_string(SAVED_FILE)?;
    let lines = source.lines().enumerate();
    let rule = lines.skip_while(|(_, line)| *line != SAVED_RULE).take(3);
    let numbered = rule.map(|(at, line)| format!("{:>5}  {line}\n", at + 1));
    Ok(numbered.collect())
}
