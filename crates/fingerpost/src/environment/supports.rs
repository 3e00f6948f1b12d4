//! `@supports`: Conditional Rules 4 § 2. The answer is what the standards' own tables say, which
//! an engine may lag behind.

use super::{Truth, Verdict, logic};
use crate::selector::{ParseContext, SelectorList};
use crate::sheet::{Token, TokenKind, cover};
use crate::text::Cut;
use crate::value::PropertyId;
use crate::value::declared::{Meaning, custom_meaning, meaning};
use crate::value::substitution::value_tokens;

/// Evaluates the condition of `@supports`.
pub fn supports(source: &str, tokens: &[Token]) -> Verdict {
    let mut because = Vec::new();
    let truth = logic::evaluate(source, tokens, &mut |function, inside| {
        let text = source.cut(cover(inside)).trim();
        let holds = match function {
            Some("selector") => selector(text),
            Some("font-tech" | "font-format") => {
                because.push(format!("{text} is assumed to be supported"));
                return Truth::True;
            }
            // Conditional 3 § 6: what may be defined one day is false today.
            Some(_) => return Truth::False,
            None => declaration(source, inside),
        };
        because.push(if holds {
            format!("{text} is supported")
        } else {
            format!("{text} is not supported")
        });
        Truth::of(holds)
    });
    match truth {
        Some(truth) => Verdict { truth, because },
        None => Verdict {
            truth: Truth::False,
            because: vec!["this is not a valid condition, so it is always false".to_owned()],
        },
    }
}

fn declaration(source: &str, tokens: &[Token]) -> bool {
    let Some(colon) = tokens.iter().position(|t| t.kind == TokenKind::Colon) else {
        return false;
    };
    let name = tokens.cut(..colon).iter().find(|t| !t.kind.is_blank());
    let Some(name) = name.filter(|t| t.kind == TokenKind::Ident) else {
        return false;
    };
    let name = name.name(source);
    let value = without_importance(source, tokens.cut(colon + 1..));
    if name.starts_with("--") {
        return name.len() > 2 && !matches!(custom_meaning(source, value), Meaning::Misfit(_));
    }
    PropertyId::named(&name)
        .is_some_and(|property| !matches!(meaning(property, source, value), Meaning::Misfit(_)))
}

/// One complex selector, all of whose parts are known: lists that forgive don't here.
fn selector(text: &str) -> bool {
    let setting = ParseContext {
        unforgiving: true,
        ..ParseContext::default()
    };
    match SelectorList::parse_tokens(text, &value_tokens(text), setting) {
        Ok(list) => {
            list.selectors.len() == 1 && list.selectors.iter().all(|s| s.not_yet().next().is_none())
        }
        Err(_) => false,
    }
}

/// A value without `!important` after it.
fn without_importance<'a>(source: &str, value: &'a [Token]) -> &'a [Token] {
    let mut words = value
        .iter()
        .enumerate()
        .rev()
        .filter(|(_, t)| !t.kind.is_blank());
    match (words.next(), words.next()) {
        (Some((_, word)), Some((at, mark)))
            if mark.is_delim(source, '!')
                && word.kind == TokenKind::Ident
                && word.is_name(source, "important") =>
        {
            value.cut(..at)
        }
        _ => value,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn declarations_and_selectors() {
        let holds = |text: &str| supports(text, &value_tokens(text)).holds();
        assert!(holds("(display: grid)"));
        assert!(holds("(display: grid) and (not (display: blok))"));
        assert!(holds("selector(a > b)"));
        assert!(holds("(--x: anything)"));
        assert!(!holds("(colour: red)"));
        assert!(!holds("selector(a >)"));
        assert!(!holds("display: grid"));
    }
}
