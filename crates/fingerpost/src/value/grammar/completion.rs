//! What can be written next: completion of values from the same grammars that validate them.

use super::Definition;
use super::fitting::tried_at_end;
use crate::sheet::TokenKind;
use crate::value::facts::{PropertyId, type_entry};
use crate::value::substitution::value_tokens;

/// How deep references are followed for offers.
const DEEPEST_OFFER: usize = 24;

/// Something that can stand next.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Offer {
    /// A keyword, and the type of the table that it is one of, if any.
    Keyword(Box<str>, Option<&'static str>),
    /// A function, by name, and the grammar of its arguments.
    Function(Box<str>, &'static str),
    /// A type that a person writes a value of, such as `<length>`, with its range.
    Type(String),
    /// A punctuation mark.
    Mark(char),
}

/// What can stand at the end of a value that is being written.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Offers {
    /// The part of the text that is taken as written: up to the last word, or all of it.
    pub written: String,
    /// The word that is being written; the offers begin with it.
    pub word: String,
    /// What fits, in the grammar's order.
    pub offers: Vec<Offer>,
    /// Whether the value is whole.
    pub complete: bool,
}

/// What can stand at the end of a property's value.
pub fn offers(property: PropertyId, text: &str) -> Offers {
    let tokens = value_tokens(text);
    let last = tokens.last().filter(|t| t.kind == TokenKind::Ident);
    let cut = last.map_or(text.len(), |t| t.start as usize);
    let (written, word) = text.split_at(cut);
    let definition = Definition::of_property(property);
    let (tried, _) = tried_at_end(definition, written, &value_tokens(written));
    let mut gathered = Gathered {
        word: word.to_ascii_lowercase(),
        offers: Vec::new(),
    };
    for definition in &tried {
        gathered.add(definition, None, 0);
    }
    let complete = tried_at_end(definition, text, &tokens).1;
    Offers {
        written: written.to_owned(),
        word: word.to_owned(),
        offers: gathered.offers,
        complete,
    }
}

struct Gathered {
    word: String,
    offers: Vec<Offer>,
}

impl Gathered {
    fn push(&mut self, name: &str, offer: Offer) {
        if name.starts_with(&self.word) && !self.offers.contains(&offer) {
            self.offers.push(offer);
        }
    }

    /// Offers what has no name, where nothing is typed yet.
    fn push_at_start(&mut self, offer: Offer) {
        if self.word.is_empty() {
            self.push("", offer);
        }
    }

    /// Adds what `definition` can begin with; says whether it can take nothing.
    fn add(&mut self, definition: &Definition, of: Option<&'static str>, depth: usize) -> bool {
        if depth > DEEPEST_OFFER {
            return false;
        }
        let depth = depth + 1;
        match definition {
            Definition::Keywords(words) => {
                // An ellipsis in an extract is not a word.
                for word in words.iter().filter(|w| w.contains(char::is_alphanumeric)) {
                    let is_it = |o: &Offer| matches!(o, Offer::Keyword(w, _) if w == word);
                    if !self.offers.iter().any(is_it) {
                        self.push(word, Offer::Keyword(word.clone(), of));
                    }
                }
                false
            }
            Definition::Mark(mark) => {
                self.push_at_start(Offer::Mark(*mark));
                *mark == ','
            }
            Definition::Terminal(..) | Definition::Name(_) => {
                self.push_at_start(Offer::Type(definition.label()));
                false
            }
            Definition::Type(index) => {
                let (name, syntax) = type_entry(*index);
                // What is only read for the sake of old themes is not offered.
                if name.starts_with("-webkit-") && !self.word.starts_with('-') {
                    return false;
                }
                if name.ends_with("()")
                    && matches!(Definition::of_type(*index), Definition::Function(..))
                {
                    let bare = name.trim_end_matches("()").to_ascii_lowercase();
                    self.push(&bare, Offer::Function(bare.clone().into(), syntax));
                    return false;
                }
                self.add(Definition::of_type(*index), Some(name), depth)
            }
            Definition::Property(property) => {
                self.add(Definition::of_property(*property), of, depth)
            }
            Definition::Function(name, _) => {
                let syntax = of.filter(|of| of.ends_with(')')).unwrap_or("");
                let is_it = |o: &Offer| matches!(o, Offer::Function(n, _) if n == name);
                if !self.offers.iter().any(is_it) {
                    self.push(name, Offer::Function(name.clone(), syntax));
                }
                false
            }
            Definition::Block(open, _) => {
                self.push_at_start(Offer::Mark(*open));
                false
            }
            Definition::Sequence(parts) => parts.iter().all(|part| self.add(part, of, depth)),
            Definition::AllOf(parts) => {
                let empty: Vec<bool> = parts.iter().map(|p| self.add(p, of, depth)).collect();
                empty.into_iter().all(|e| e)
            }
            Definition::SomeOf(parts) | Definition::OneOf(parts) => {
                let empty: Vec<bool> = parts.iter().map(|p| self.add(p, of, depth)).collect();
                empty.into_iter().any(|e| e)
            }
            Definition::Repeated(part, multiplier) => {
                self.add(part, of, depth) || multiplier.least == 0
            }
            Definition::NotEmpty(part) => {
                self.add(part, of, depth);
                false
            }
            Definition::Unknown(_) => false,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn words(property: &str, text: &str) -> Vec<String> {
        let property = PropertyId::named(property).unwrap();
        offers(property, text)
            .offers
            .into_iter()
            .map(|offer| match offer {
                Offer::Keyword(word, _) => word.into(),
                Offer::Function(name, _) => format!("{name}()"),
                Offer::Type(label) => label,
                Offer::Mark(mark) => mark.to_string(),
            })
            .collect()
    }

    #[test]
    fn the_next_component_is_offered() {
        assert_eq!(words("border-top-style", "do"), ["dotted", "double"]);
        assert_eq!(words("border", "1px so"), ["solid"]);
        let next = words("border", "1px solid ");
        assert!(next.contains(&"teal".to_owned()) && next.contains(&"rgb()".to_owned()));
        assert!(!next.contains(&"dashed".to_owned()), "{next:?}");
        assert_eq!(words("overflow", "hidden sc"), ["scroll"]);
        assert!(words("color", "1px ").is_empty());
    }

    #[test]
    fn arguments_are_offered_too() {
        assert!(words("color", "rgb(").contains(&"<number>".to_owned()));
        assert!(words("background", "linear-gradient(to le").contains(&"left".to_owned()));
    }

    #[test]
    fn a_whole_value_is_told_from_a_begun_one() {
        let display = PropertyId::named("display").unwrap();
        assert!(offers(display, "block").complete);
        assert!(!offers(display, "blo").complete);
        assert!(!offers(display, "").complete);
    }
}
