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

use std::process::ExitCode;

use anstream::{eprintln, print};
use clap::Parser;

use arguments::Arguments;
use commands::{Outcome, Problem};

fn main() -> ExitCode {
    let words = arguments::class_changes_last(std::env::args_os().collect());
    let arguments = Arguments::parse_from(words);
    match commands::run(&arguments) {
        Ok(Outcome { text, found }) => {
            print!("{text}");
            ExitCode::from(u8::from(!found))
        }
        Err(Problem { message, status }) => {
            eprintln!("{}fingerpost:{:#} {message}", render::BAD, render::BAD);
            ExitCode::from(status)
        }
    }
}
