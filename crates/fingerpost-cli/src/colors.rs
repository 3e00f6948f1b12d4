//! Which colors standard output has.

use std::io;

/// Whether it has colors of 24 bits: it takes colors at all, and the terminal says so.
pub fn has_all() -> bool {
    let takes_colors = match anstream::AutoStream::choice(&io::stdout()) {
        anstream::ColorChoice::Never => false,
        anstream::ColorChoice::Auto => false,
        anstream::ColorChoice::Always | anstream::ColorChoice::AlwaysAnsi => true,
    };
    let said = std::env::var("COLORTERM").unwrap_or_default();
    takes_colors && matches!(said.as_str(), "truecolor" | "24bit")
}
