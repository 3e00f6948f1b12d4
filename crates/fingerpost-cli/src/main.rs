//! The `fingerpost` command: arguments in, rendered answers out.
//!
//! Exit status 0: answered. 1: answered, and the answer is "no". 2: bad use or unreadable input.

mod arguments;
mod commands;
mod demo;
mod drafts;
mod edits;
mod fetch;
mod render;

use std::io::{self, ErrorKind, Write};
use std::panic;
use std::process::ExitCode;

use anstream::eprintln;
use clap::Parser;

use arguments::Arguments;
use commands::{Outcome, Problem};

/// What is said when the program itself is wrong: which command, and where to tell.
const DEFECT: &str = "this is a defect in fingerpost, not in your site. Please report it with the command \
                      and, if you can, the page (SECURITY.md says where, if the page should stay private)";

fn main() -> ExitCode {
    let words = arguments::class_changes_last(std::env::args_os().collect());
    let arguments = Arguments::parse_from(words);
    panic::set_hook(Box::new(|defect| {
        problem(&format!("{DEFECT}.\n{defect}"));
    }));
    match panic::catch_unwind(|| commands::run(&arguments)) {
        Ok(Ok(Outcome { text, found })) => match write(&text) {
            Ok(()) => ExitCode::from(u8::from(!found)),
            Err(error) => {
                problem(&format!(
                    "the command did what it was asked to, but its answer can't be written: {error}"
                ));
                ExitCode::from(2)
            }
        },
        Ok(Err(Problem { message, status })) => {
            problem(&message);
            ExitCode::from(status)
        }
        // The hook has said so.
        Err(_) => ExitCode::from(2),
    }
}

/// Writes the answer. A reader that stops early is not an error.
fn write(text: &str) -> io::Result<()> {
    let mut out = anstream::stdout().lock();
    let written = out.write_all(text.as_bytes()).and_then(|()| out.flush());
    match written {
        Err(error) if error.kind() == ErrorKind::BrokenPipe => Ok(()),
        written => written,
    }
}

fn problem(message: &str) {
    eprintln!("{}fingerpost:{:#} {message}", render::BAD, render::BAD);
}
