//! `@supports`: Conditional Rules 4 § 2. The answer is what the standards' own tables say, which
//! an engine may lag behind.

use super::{Truth, Verdict, logic};
use crate::selector::SelectorList;
use crate::sheet::{Kind, Token};
use crate::value::PropertyId;
use crate::value::grammar::match_property;
use crate::value::substitution::substitutions;

/// Evaluates the condition of `@supports`.
pub fn supports(source: &str, tokens: &[Token]) -> Verdict {
    let mut because = Vec::new();
    let truth = logic::evaluate(source, tokens, &mut |function, inside| {
        let text = match (inside.first(), inside.last()) {
            (Some(first), Some(last)) => &source[first.span().cover(last.span())],
            _ => "",
        };
        let text = text.trim();
        let holds = match function {
            Some("selector") => SelectorList::parse(text)
                .is_ok_and(|l| l.selectors.iter().all(|s| s.not_yet().next().is_none())),
            Some("font-tech" | "font-format") => {
                because.push(format!("{text} is assumed to be supported"));
                return Truth::True;
            }
            Some(_) => return Truth::Unknown,
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
            because: vec!["the condition is not written as one, so it never holds".to_owned()],
        },
    }
}

fn declaration(source: &str, tokens: &[Token]) -> bool {
    let Some(colon) = tokens.iter().position(|t| t.kind == Kind::Colon) else {
        return false;
    };
    let name = tokens[..colon].iter().find(|t| !t.kind.is_blank());
    let Some(name) = name.filter(|t| t.kind == Kind::Ident) else {
        return false;
    };
    let name = name.name(source);
    let value = &tokens[colon + 1..];
    if name.starts_with("--") {
        return true;
    }
    let Some(property) = PropertyId::named(&name) else {
        return false;
    };
    let found = substitutions(source, value);
    let words: Vec<&Token> = value.iter().filter(|t| !t.kind.is_blank()).collect();
    let wide = matches!(words[..], [only] if only.kind == Kind::Ident
        && crate::value::is_css_wide(&only.name(source)));
    wide || found.variables || found.others || match_property(property, source, value).is_ok()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::value::substitution::value_tokens;

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
