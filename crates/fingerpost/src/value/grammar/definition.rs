//! Grammars as data: CSS Values 4 § 2.1 to § 2.3.

use std::sync::OnceLock;

use super::Terminal;
use crate::text::Cut;
use crate::value::facts::{
    PropertyId, property_at, property_count, type_count, type_entry, type_index,
};

/// How often a component may stand.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Multiplier {
    /// At least.
    pub least: u32,
    /// At most; none for any number.
    pub most: Option<u32>,
    /// Whether commas stand between.
    pub commas: bool,
}

/// A grammar.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum Definition {
    /// Keywords to choose from, sorted, in lower case.
    Keywords(Vec<Box<str>>),
    /// A punctuation mark: `/`, `,`, `+` and the like.
    Mark(char),
    /// A type that the engine knows by itself, with the range it is limited to.
    Terminal(Terminal, Option<(f64, f64)>),
    /// `<custom-ident except …>`: a name that is none of these words, which are in lower case.
    Name(Vec<Box<str>>),
    /// A type of the table.
    Type(usize),
    /// `<'property'>`: the grammar of a property.
    Property(PropertyId),
    /// A function: its name in lower case and its arguments.
    Function(Box<str>, Box<Definition>),
    /// A block: round, square or curly, and what is in it.
    Block(char, Box<Definition>),
    /// One after another.
    Sequence(Vec<Definition>),
    /// `&&`: all, in any order.
    AllOf(Vec<Definition>),
    /// `||`: one or more, in any order.
    SomeOf(Vec<Definition>),
    /// `|`: exactly one.
    OneOf(Vec<Definition>),
    /// A component with a multiplier.
    Repeated(Box<Definition>, Multiplier),
    /// `[ … ]!`: not nothing.
    NotEmpty(Box<Definition>),
    /// A grammar that the standard does not write in a form that can be read: it takes anything, and answers
    /// that rest on it say so.
    Unknown(Box<str>),
}

impl Definition {
    /// Reads a grammar. What can't be read becomes [`Definition::Unknown`].
    pub fn parse(syntax: &str) -> Definition {
        let tokens = lex(syntax);
        let mut reader = Reader {
            tokens: &tokens,
            at: 0,
        };
        match reader.one_of() {
            Some(definition) if reader.at == tokens.len() => definition,
            _ => Definition::Unknown(syntax.into()),
        }
    }

    /// The grammar of a property.
    #[expect(clippy::indexing_slicing, reason = "an id is a place in the table")]
    pub fn of_property(property: PropertyId) -> &'static Definition {
        static CACHE: OnceLock<Vec<OnceLock<Definition>>> = OnceLock::new();
        let cache = CACHE.get_or_init(|| (0..property_count()).map(|_| OnceLock::new()).collect());
        cache[property.index()].get_or_init(|| match property.facts().syntax {
            "" => Definition::Unknown(property.name().into()),
            syntax => Definition::parse(syntax),
        })
    }

    /// The grammar of a type of the table.
    #[expect(
        clippy::indexing_slicing,
        reason = "a type is known by its place in the table"
    )]
    pub(super) fn of_type(index: usize) -> &'static Definition {
        static CACHE: OnceLock<Vec<OnceLock<Definition>>> = OnceLock::new();
        let cache = CACHE.get_or_init(|| (0..type_count()).map(|_| OnceLock::new()).collect());
        cache[index].get_or_init(|| Definition::parse(type_entry(index).1))
    }

    /// The properties whose grammar could not be read: for tests and for a new table.
    pub fn unreadable() -> Vec<&'static str> {
        (0..property_count())
            .map(property_at)
            .filter(|p| !p.facts().syntax.is_empty())
            .filter(|p| Definition::of_property(*p).has_unknown())
            .map(PropertyId::name)
            .collect()
    }

    fn has_unknown(&self) -> bool {
        match self {
            Definition::Unknown(_) => true,
            Definition::Function(_, inner)
            | Definition::Block(_, inner)
            | Definition::Repeated(inner, _)
            | Definition::NotEmpty(inner) => inner.has_unknown(),
            Definition::Sequence(parts)
            | Definition::AllOf(parts)
            | Definition::SomeOf(parts)
            | Definition::OneOf(parts) => parts.iter().any(Definition::has_unknown),
            _ => false,
        }
    }

    /// The types of the table that it names itself, in order, each with its grammar.
    pub fn named_types(&self) -> Vec<(&'static str, &'static str)> {
        let mut found = Vec::new();
        self.gather_types(&mut found);
        found
    }

    fn gather_types(&self, found: &mut Vec<(&'static str, &'static str)>) {
        match self {
            Definition::Type(index) if !found.contains(&type_entry(*index)) => {
                found.push(type_entry(*index));
            }
            Definition::Function(_, inner)
            | Definition::Block(_, inner)
            | Definition::Repeated(inner, _)
            | Definition::NotEmpty(inner) => inner.gather_types(found),
            Definition::Sequence(parts)
            | Definition::AllOf(parts)
            | Definition::SomeOf(parts)
            | Definition::OneOf(parts) => parts.iter().for_each(|p| p.gather_types(found)),
            _ => {}
        }
    }

    /// How a person reads it: `<length>`, `solid`, `rgb(…)`.
    pub fn label(&self) -> String {
        match self {
            Definition::Keywords(words) => match &words[..] {
                [first, others @ ..] if words.len() > 6 => {
                    format!("{first} or {} other keywords", others.len())
                }
                words => words.join(", "),
            },
            Definition::Mark(mark) => mark.to_string(),
            Definition::Terminal(terminal, range) => {
                let name = terminal.name();
                match range {
                    Some((low, high)) if *high == f64::INFINITY && *low == 0.0 => {
                        format!("<{name}> of at least 0")
                    }
                    Some((low, high)) if *high == f64::INFINITY => {
                        format!("<{name}> of at least {low}")
                    }
                    Some((low, high)) => format!("<{name}> from {low} to {high}"),
                    None => format!("<{name}>"),
                }
            }
            Definition::Name(_) => "<custom-ident>".to_owned(),
            Definition::Type(index) => format!("<{}>", type_entry(*index).0),
            Definition::Property(property) => format!("<'{}'>", property.name()),
            Definition::Function(name, _) => format!("{name}(…)"),
            Definition::Block(open, _) => format!("{open}…"),
            _ => "…".to_owned(),
        }
    }
}

#[derive(Clone, Debug, PartialEq)]
enum Lexeme {
    Open,
    Close,
    /// `&&`, `||` or `|`.
    Combinator(&'static str),
    Mark(char),
    Multiplier(Multiplier),
    NotEmpty,
    Word(String),
    /// A word with its `(`.
    Function(String),
    CloseParenthesis,
    /// What is between `<` and `>`.
    Reference(String),
}

/// What one or two signs say by themselves, and how many they are.
fn sign(character: char, next: Option<char>, after_space: bool) -> Option<(Lexeme, usize)> {
    let lexeme = match character {
        '&' if next == Some('&') => return Some((Lexeme::Combinator("&&"), 2)),
        '|' if next == Some('|') => return Some((Lexeme::Combinator("||"), 2)),
        '|' => Lexeme::Combinator("|"),
        '[' => Lexeme::Open,
        ']' => Lexeme::Close,
        ')' => Lexeme::CloseParenthesis,
        '!' => Lexeme::NotEmpty,
        '?' => Lexeme::Multiplier(multiplier(0, Some(1), false)),
        '*' if !after_space => Lexeme::Multiplier(multiplier(0, None, false)),
        // A multiplier applies to what is right before it; another can follow.
        '+' | '#' if !after_space => return None,
        ',' | '/' | ':' | ';' | '(' | '+' | '*' | '=' | '#' => Lexeme::Mark(character),
        _ => return None,
    };
    Some((lexeme, 1))
}

/// Splits a grammar into its pieces. Gives nothing where it meets what it can't read.
fn lex(syntax: &str) -> Vec<Lexeme> {
    let characters: Vec<char> = syntax.chars().collect();
    let mut out = Vec::new();
    let mut at = 0;
    while let Some(&character) = characters.get(at) {
        let next = characters.get(at + 1).copied();
        let after_space = at == 0 || characters.get(at - 1).is_some_and(|c| c.is_whitespace());
        if let Some((lexeme, length)) = sign(character, next, after_space) {
            out.push(lexeme);
            at += length;
            continue;
        }
        match character {
            _ if character.is_whitespace() => at += 1,
            '+' if !after_space => {
                at += 1;
                let commas = characters.get(at) == Some(&'#');
                out.push(Lexeme::Multiplier(multiplier(1, None, false)));
                if commas {
                    out.push(Lexeme::Multiplier(multiplier(1, None, true)));
                    at += 1;
                }
            }
            '#' if !after_space => {
                at += 1;
                let (least, most) = braces(&characters, &mut at).unwrap_or((1, None));
                out.push(Lexeme::Multiplier(multiplier(least, most, true)));
            }
            '{' => {
                let Some((least, most)) = braces(&characters, &mut at) else {
                    return vec![Lexeme::Close];
                };
                out.push(Lexeme::Multiplier(multiplier(least, most, false)));
            }
            '\'' => {
                let Some(length) = characters.cut(at + 1..).iter().position(|c| *c == '\'') else {
                    return vec![Lexeme::Close];
                };
                let quoted: String = characters.cut(at + 1..at + 1 + length).iter().collect();
                let mut inside = quoted.trim().chars();
                match (inside.next(), inside.next()) {
                    (Some(mark), None) => out.push(Lexeme::Mark(mark)),
                    _ => out.push(Lexeme::Word(quoted.trim().to_owned())),
                }
                at += length + 2;
            }
            '<' => {
                let quoted = next == Some('\'');
                let Some(length) = characters.cut(at..).iter().position(|c| *c == '>') else {
                    return vec![Lexeme::Close];
                };
                let name: String = characters.cut(at + 1..at + length).iter().collect();
                let name = if quoted { name.replace(' ', "") } else { name };
                out.push(Lexeme::Reference(name));
                at += length + 1;
            }
            _ if character.is_alphanumeric() || matches!(character, '-' | '_' | '@' | '.') => {
                let start = at;
                while characters
                    .get(at)
                    .is_some_and(|c| c.is_alphanumeric() || matches!(c, '-' | '_' | '@' | '.'))
                {
                    at += 1;
                }
                let word: String = characters.cut(start..at).iter().collect();
                if characters.get(at) == Some(&'(') {
                    at += 1;
                    out.push(Lexeme::Function(word.to_ascii_lowercase()));
                } else {
                    out.push(Lexeme::Word(word.to_ascii_lowercase()));
                }
            }
            _ => return vec![Lexeme::Close],
        }
    }
    out
}

fn multiplier(least: u32, most: Option<u32>, commas: bool) -> Multiplier {
    Multiplier {
        least,
        most,
        commas,
    }
}

/// `{2}`, `{1,4}` or `{2,}` at `at`.
fn braces(characters: &[char], at: &mut usize) -> Option<(u32, Option<u32>)> {
    if characters.get(*at) != Some(&'{') {
        return None;
    }
    let length = characters.cut(*at..).iter().position(|c| *c == '}')?;
    let inside: String = characters.cut(*at + 1..*at + length).iter().collect();
    *at += length + 1;
    match inside.split_once(',') {
        None => {
            let count = inside.trim().parse().ok()?;
            Some((count, Some(count)))
        }
        Some((least, "")) => Some((least.trim().parse().ok()?, None)),
        Some((least, most)) => Some((least.trim().parse().ok()?, Some(most.trim().parse().ok()?))),
    }
}

struct Reader<'a> {
    tokens: &'a [Lexeme],
    at: usize,
}

impl Reader<'_> {
    fn one_of(&mut self) -> Option<Definition> {
        let parts = self.separated("|", Self::some_of)?;
        let mut words = Vec::new();
        let mut others = Vec::new();
        for part in parts {
            match part {
                Definition::Keywords(more) => words.extend(more),
                Definition::OneOf(inner) => others.extend(inner),
                other => others.push(other),
            }
        }
        // CSS Values 4 § 2.2: where both would do, a zero is a number and no length.
        let is_number = |d: &Definition| {
            matches!(
                d,
                Definition::Terminal(Terminal::Number | Terminal::Integer, _)
            )
        };
        others.sort_by_key(|d| !is_number(d));
        if !words.is_empty() {
            words.sort();
            words.dedup();
            others.insert(0, Definition::Keywords(words));
        }
        Some(single(others, Definition::OneOf))
    }

    fn some_of(&mut self) -> Option<Definition> {
        Some(single(
            self.separated("||", Self::all_of)?,
            Definition::SomeOf,
        ))
    }

    fn all_of(&mut self) -> Option<Definition> {
        Some(single(
            self.separated("&&", Self::sequence)?,
            Definition::AllOf,
        ))
    }

    fn separated(
        &mut self,
        combinator: &'static str,
        part: fn(&mut Self) -> Option<Definition>,
    ) -> Option<Vec<Definition>> {
        let mut parts = vec![part(self)?];
        while self.tokens.get(self.at) == Some(&Lexeme::Combinator(combinator)) {
            self.at += 1;
            parts.push(part(self)?);
        }
        Some(parts)
    }

    fn sequence(&mut self) -> Option<Definition> {
        let mut parts = Vec::new();
        loop {
            match self.tokens.get(self.at) {
                None | Some(Lexeme::Close | Lexeme::CloseParenthesis | Lexeme::Combinator(_)) => {
                    break;
                }
                Some(_) => parts.push(self.component()?),
            }
        }
        (!parts.is_empty()).then(|| single(parts, Definition::Sequence))
    }

    fn component(&mut self) -> Option<Definition> {
        let token = self.tokens.get(self.at)?.clone();
        self.at += 1;
        let mut definition = match token {
            Lexeme::Open => {
                let inner = self.one_of()?;
                self.expect(&Lexeme::Close)?;
                inner
            }
            Lexeme::Word(word) => Definition::Keywords(vec![word.into()]),
            Lexeme::Function(name) => {
                if self.tokens.get(self.at) == Some(&Lexeme::CloseParenthesis) {
                    self.at += 1;
                    Definition::Function(name.into(), Box::new(Definition::Sequence(Vec::new())))
                } else {
                    let inner = self.one_of()?;
                    self.expect(&Lexeme::CloseParenthesis)?;
                    Definition::Function(name.into(), Box::new(inner))
                }
            }
            Lexeme::Mark('(') => {
                let inner = self.one_of()?;
                if self.tokens.get(self.at) == Some(&Lexeme::Mark(')')) {
                    self.at += 1;
                } else {
                    self.expect(&Lexeme::CloseParenthesis)?;
                }
                Definition::Block('(', Box::new(inner))
            }
            Lexeme::Mark('[') => {
                let inner = self.block_contents()?;
                Definition::Block('[', Box::new(inner))
            }
            Lexeme::Mark(mark) => Definition::Mark(mark),
            Lexeme::Reference(name) => reference(&name)?,
            _ => return None,
        };
        loop {
            match self.tokens.get(self.at) {
                Some(Lexeme::Multiplier(multiplier)) => {
                    definition = Definition::Repeated(Box::new(definition), *multiplier);
                }
                Some(Lexeme::NotEmpty) => definition = Definition::NotEmpty(Box::new(definition)),
                _ => return Some(definition),
            }
            self.at += 1;
        }
    }

    /// What is between `'['` and `']'`.
    fn block_contents(&mut self) -> Option<Definition> {
        let mut parts = Vec::new();
        loop {
            match self.tokens.get(self.at)? {
                Lexeme::Mark(']') => {
                    self.at += 1;
                    return Some(Definition::Sequence(parts));
                }
                _ => parts.push(self.component()?),
            }
        }
    }

    fn expect(&mut self, lexeme: &Lexeme) -> Option<()> {
        (self.tokens.get(self.at) == Some(lexeme)).then(|| self.at += 1)
    }
}

fn single(mut parts: Vec<Definition>, several: fn(Vec<Definition>) -> Definition) -> Definition {
    if parts.len() == 1 {
        parts.remove(0)
    } else {
        several(parts)
    }
}

fn reference(name: &str) -> Option<Definition> {
    if let Some(quoted) = name.strip_prefix('\'') {
        // A range of its own is not kept: the property's grammar has one.
        let property = split_range(quoted).0.trim_matches(['\'', ' ']);
        return PropertyId::named(property).map(Definition::Property);
    }
    if let Some(words) = name.strip_prefix("custom-ident except ") {
        let words = words.split_ascii_whitespace().map(Into::into);
        return Some(Definition::Name(words.collect()));
    }
    let (name, range) = split_range(name);
    if let Some(terminal) = Terminal::named(name) {
        return Some(Definition::Terminal(terminal, range));
    }
    let index = type_index(name).or_else(|| type_index(name.strip_suffix("()")?))?;
    Some(Definition::Type(index))
}

/// Takes a range such as ` [0,∞]` off the end of a type's name.
fn split_range(name: &str) -> (&str, Option<(f64, f64)>) {
    let Some((bare, range)) = name.split_once('[') else {
        return (name.trim(), None);
    };
    let bound = |text: &str| match text.trim() {
        "∞" => Some(f64::INFINITY),
        "-∞" | "−∞" => Some(f64::NEG_INFINITY),
        number => {
            let digits = number.trim_end_matches(|c: char| c.is_alphabetic() || c == '%');
            digits.replace('−', "-").parse().ok()
        }
    };
    let range = range.trim_end_matches(']').split_once(',');
    let range = range.and_then(|(low, high)| Some((bound(low)?, bound(high)?)));
    (bare.trim(), range)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_propertys_grammar_is_read() {
        let unreadable = Definition::unreadable();
        assert!(unreadable.is_empty(), "{unreadable:#?}");
    }

    #[test]
    fn precedence_is_juxtaposition_then_and_then_or_then_bar() {
        let parsed = Definition::parse("a b | c && d || e");
        let Definition::OneOf(parts) = parsed else {
            panic!("{parsed:?}");
        };
        assert!(matches!(parts[0], Definition::Sequence(_)));
        assert!(matches!(parts[1], Definition::SomeOf(_)));
    }
}
