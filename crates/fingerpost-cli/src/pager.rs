//! Where an answer goes: to standard output, or page by page where a terminal shows less than all of it.

use std::io::{self, ErrorKind, IsTerminal, Write};
use std::process::{Command, Stdio};

/// Writes an answer. A reader that stops early is not an error.
pub fn write(text: &str, paged: bool) -> io::Result<()> {
    if paged && io::stdout().is_terminal() && is_long(text) && show(text) {
        return Ok(());
    }
    let mut out = anstream::stdout().lock();
    let written = out.write_all(text.as_bytes()).and_then(|()| out.flush());
    match written {
        Err(error) if error.kind() == ErrorKind::BrokenPipe => Ok(()),
        written => written,
    }
}

/// Whether a text has more lines than the terminal, those that wrap counted as several.
fn is_long(text: &str) -> bool {
    let Some((terminal_size::Width(width), terminal_size::Height(height))) =
        terminal_size::terminal_size()
    else {
        return false;
    };
    let plain = anstream::adapter::strip_str(text).to_string();
    let rows = plain.lines().map(|line| {
        line.chars()
            .count()
            .max(1)
            .div_ceil(usize::from(width.max(1)))
    });
    rows.sum::<usize>() >= usize::from(height)
}

/// Shows a text in the reader's pager; says whether that worked.
fn show(text: &str) -> bool {
    let pager = std::env::var("PAGER").unwrap_or_else(|_| "less".to_owned());
    let mut words = pager.split_whitespace();
    let Some(program) = words.next().filter(|program| *program != "cat") else {
        return false;
    };
    let shown = match anstream::AutoStream::choice(&io::stdout()) {
        anstream::ColorChoice::Never => anstream::adapter::strip_str(text).to_string(),
        _ => text.to_owned(),
    };
    let started = Command::new(program)
        .args(words)
        // Colors come through, and what fits on the screen is left there.
        .env(
            "LESS",
            std::env::var("LESS").unwrap_or_else(|_| "FRX".to_owned()),
        )
        .stdin(Stdio::piped())
        .spawn();
    let Ok(mut child) = started else {
        return false;
    };
    if let Some(mut input) = child.stdin.take() {
        // A reader may leave before the end.
        let _ = input.write_all(shown.as_bytes());
    }
    child.wait().is_ok()
}
