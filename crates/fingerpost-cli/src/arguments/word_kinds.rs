//! What one word of a line is: a property, an element, a place, a page.

use clap::Command;
use fingerpost::page::PropertyName;
use fingerpost::question::find::ElementQuery;
use fingerpost::selector::SelectorList;
use fingerpost::site::is_url;
use fingerpost::value::PropertyId;
use std::path::Path;

/// Names of elements such as `h2` and `ul` are so short that every one is near a property's name.
const SHORT_NAME: usize = 3;

/// `@` is 0, `@-1` is 1; a pseudo-element may follow.
pub(super) fn at_number(word: &str) -> Option<usize> {
    let (element, _) = word.split_once("::").unwrap_or((word, ""));
    match element.strip_prefix('@')? {
        "" => Some(0),
        back => back.strip_prefix('-')?.parse().ok(),
    }
}

pub(super) fn is_property(word: &str) -> bool {
    PropertyName::named(word.trim()).is_some()
}

/// Whether a word can only be an element: none of the words that are a property's name as well.
pub(super) fn is_element(word: &str) -> bool {
    match ElementQuery::parse(word) {
        ElementQuery::Selector(text) => {
            let plain = text.chars().all(|c| c.is_ascii_alphanumeric() || c == '-');
            match plain {
                // A slip in a property's name is not an element.
                true => text.len() <= SHORT_NAME || PropertyId::nearest(&text).is_none(),
                false => SelectorList::parse(&text).is_ok(),
            }
        }
        _ => true,
    }
}

/// Whether a word can be nothing but an element: `h2.today`, `@12`, a place.
pub(super) fn is_only_element(word: &str) -> bool {
    let is_marked = word.contains(['.', '#', '[', ':', '>']) || word.starts_with('@');
    is_marked && is_element(word)
}

/// Whether a word is nearly the name of one of a command's own commands.
pub(super) fn is_slip_of_command(command: &Command, word: &str) -> bool {
    let mut names = command.get_subcommands().map(Command::get_name);
    names.any(|name| strsim::damerau_levenshtein(name, word) <= 1)
}

/// Whether a word is a place in a sheet: `css/skerry.css:12`.
pub(super) fn is_sheet_place(word: &str) -> bool {
    match ElementQuery::parse(word) {
        ElementQuery::Place(place) => {
            let extension = Path::new(&place.file).extension().and_then(|e| e.to_str());
            matches!(extension, Some("css" | "scss" | "less"))
        }
        _ => false,
    }
}

/// Whether a word is meant as a page, whether it is there or not.
pub(super) fn is_page(word: &str) -> bool {
    const PAGES: [&str; 4] = ["html", "htm", "xhtml", "php"];
    if is_url(word) || word.starts_with('/') && !word.contains(char::is_whitespace) {
        return true;
    }
    let extension = Path::new(word).extension().and_then(|e| e.to_str());
    let named = extension.is_some_and(|e| PAGES.iter().any(|p| e.eq_ignore_ascii_case(p)));
    named && !word.contains(['<', '"', '\'', ' '])
        || Path::new(word).is_file() && word.contains('/')
}
