//! Where an answer goes: to standard output, or page by page where a terminal shows less than all of it.

use std::io::{self, ErrorKind, IsTerminal, Write};
use std::process::{Command, Stdio};

use crate::foreign;
use crate::reply::Reply;

/// Writes an answer. A reader that stops early is not an error.
pub fn write(outcome: &Reply, paged: bool) -> io::Result<()> {
    let text = &match outcome.verbatim {
        true => outcome.text.clone(),
        false => fitted(&outcome.text, &io::stdout()),
    };
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

/// Writes what people should know beside an answer to standard error.
pub fn note(text: &str) {
    let text = foreign::visible(text);
    anstream::eprintln!("{}", fitted(&text, &io::stderr()).trim_end_matches('\n'));
}

/// The text as a terminal can show it: in lines of its width, and in characters of its locale. What does not go
/// to a terminal stays as it is.
pub fn fitted(text: &str, to: &impl IsTerminal) -> String {
    if !to.is_terminal() {
        return text.to_owned();
    }
    let wrapped = match terminal_size::terminal_size() {
        Some((terminal_size::Width(width), _)) => wrap(text, width.into()),
        None => text.to_owned(),
    };
    match is_utf8() {
        true => wrapped,
        false => plain(&wrapped),
    }
}

/// Whether the terminal's locale has the characters that answers are drawn with.
fn is_utf8() -> bool {
    // The first of them that is set decides (POSIX, Environment Variables § 8.2).
    let locale = ["LC_ALL", "LC_CTYPE", "LANG"]
        .iter()
        .filter_map(|name| std::env::var(name).ok())
        .find(|value| !value.is_empty());
    // Where nothing is set, a terminal of today has them.
    locale.is_none_or(|locale| {
        let locale = locale.to_ascii_lowercase();
        locale.contains("utf-8") || locale.contains("utf8")
    })
}

/// The symbols of answers, and plain ones for them.
const PLAIN: [(char, &str); 14] = [
    ('\u{a0}', " "),
    ('◐', "%"),
    ('◌', "."),
    ('●', "*"),
    ('○', "o"),
    ('✗', "x"),
    ('→', "->"),
    ('›', ">"),
    ('“', "\""),
    ('”', "\""),
    ('…', "..."),
    ('×', "x"),
    ('–', "-"),
    ('·', "-"),
];

fn plain(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for character in text.chars() {
        match PLAIN.iter().find(|(symbol, _)| *symbol == character) {
            Some((_, plain)) => out.push_str(plain),
            None => out.push(character),
        }
    }
    out
}

/// How narrow a terminal may be to be written for.
const NARROWEST: usize = 40;

/// How much further in the rest of a long line begins.
const HANGING: usize = 4;

/// The text in lines that a terminal of this width shows whole, broken between words.
fn wrap(text: &str, width: usize) -> String {
    if width < NARROWEST {
        return text.to_owned();
    }
    let mut wrapped = String::with_capacity(text.len());
    for line in text.lines() {
        let indent = line.len() - line.trim_start_matches(' ').len();
        let further = " ".repeat((indent + HANGING).min(width / 2));
        let options = textwrap::Options::new(width)
            .break_words(false)
            .word_splitter(textwrap::WordSplitter::NoHyphenation)
            .word_separator(textwrap::WordSeparator::AsciiSpace)
            .subsequent_indent(&further);
        for part in textwrap::wrap(line, options) {
            wrapped.push_str(&part);
            wrapped.push('\n');
        }
    }
    wrapped
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

#[cfg(test)]
mod tests {
    use super::{plain, wrap};

    #[test]
    fn symbols_have_plain_forms() {
        assert_eq!(plain("● a → “b” › é"), "* a -> \"b\" > é");
    }

    #[test]
    fn long_lines_are_broken_between_words_and_short_ones_are_kept() {
        let text = "one two three four five six seven eight nine ten eleven\n\n  \u{1b}[1mcss/skerry.css:256\u{1b}[0m\n";
        let wrapped = wrap(text, 40);
        assert_eq!(
            wrapped,
            "one two three four five six seven eight\n    nine ten eleven\n\n  \u{1b}[1mcss/skerry.css:256\u{1b}[0m\n"
        );
        // Escapes take no room.
        let painted = format!("\u{1b}[1m{}\u{1b}[0m b", "a".repeat(37));
        assert_eq!(wrap(&painted, 40).lines().count(), 1);
    }

    #[test]
    fn a_very_narrow_terminal_gets_the_text_as_it_is() {
        assert_eq!(wrap("one two three", 5), "one two three");
    }
}
