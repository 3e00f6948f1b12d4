//! Generators for what is committed and made from something else.
//!
//! `cargo run -p xtask -- facts path/to/css.json` reads the standards' machine-readable extract
//! (npm package `@webref/css`, file `css.json`) and writes
//! `crates/fingerpost/src/value/facts_table.rs`.

mod corrections;
mod facts;

use std::process::ExitCode;

fn main() -> ExitCode {
    let arguments: Vec<String> = std::env::args().skip(1).collect();
    let words: Vec<&str> = arguments.iter().map(String::as_str).collect();
    let result = match words[..] {
        ["facts", source] => facts::generate(source.as_ref()),
        _ => Err("usage: cargo run -p xtask -- facts path/to/css.json".to_owned()),
    };
    match result {
        Ok(summary) => {
            println!("{summary}");
            ExitCode::SUCCESS
        }
        Err(message) => {
            eprintln!("xtask: {message}");
            ExitCode::from(2)
        }
    }
}
