//! What is given on standard input.

use fingerpost::text::plain_io;
use std::io::Read;

use fingerpost::text::LARGEST_FILE;

use crate::problem::{Problem, Result};

/// What is given on standard input, up to the size of a source text.
pub fn standard_input() -> Result<String> {
    let mut text = String::new();
    let limited = std::io::stdin().lock().take(LARGEST_FILE as u64 + 1);
    let read = std::io::BufReader::new(limited).read_to_string(&mut text);
    read.map_err(|error| {
        Problem::bad_use(format!(
            "standard input can't be read: {}",
            plain_io(&error)
        ))
    })?;
    match text.len() > LARGEST_FILE {
        true => Err(Problem::bad_use(format!(
            "standard input has more than {LARGEST_FILE} bytes, which is too large for a source text"
        ))),
        false => Ok(text),
    }
}
