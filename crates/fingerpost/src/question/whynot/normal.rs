//! One spelling for selectors and values that differ only in how they are written.

use crate::selector::{SelectorList, Simple};
use crate::sheet::TokenKind;
use crate::value::substitution::value_tokens;

/// A selector as it is printed: white space aside, and letter case where it does not count.
pub(super) fn normal_selector(text: &str) -> String {
    let Ok(mut list) = SelectorList::parse(text) else {
        return normal(text, false);
    };
    let compounds = list.selectors.iter_mut().flat_map(|s| &mut s.compounds);
    for (simple, _) in compounds.flat_map(|(_, compound)| &mut compound.simples) {
        if let Simple::Type { name, lower } = simple {
            name.clone_from(lower);
        }
    }
    list.to_string()
}

/// White space aside, and with `fold_case` the letter case of names and units.
pub(super) fn normal(text: &str, fold_case: bool) -> String {
    let mut out = String::new();
    for token in &value_tokens(text) {
        let source = token.source(text);
        let folds = fold_case && !matches!(token.kind, TokenKind::Text | TokenKind::Url);
        if token.kind.is_blank() {
            if !out.is_empty() && !out.ends_with([' ', ',']) {
                out.push(' ');
            }
            continue;
        }
        if source == "," {
            out.truncate(out.trim_end().len());
        }
        match folds {
            true => out.push_str(&source.to_ascii_lowercase()),
            false => out.push_str(source),
        }
    }
    out.truncate(out.trim_end().len());
    out
}
