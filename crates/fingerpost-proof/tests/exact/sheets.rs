//! A style sheet as `cssparser` alone reads it: a flat list of its rules and declarations.

use cssparser::{
    AtRuleParser, BasicParseErrorKind, CowRcStr, DeclarationParser, ParseError, Parser,
    ParserState, QualifiedRuleParser, RuleBodyItemParser, RuleBodyParser, StyleSheetParser, ToCss,
    Token,
};

/// A rule or a declaration, with the heads of the rules around it.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Entry {
    pub path: Vec<String>,
    /// None for the rule itself.
    pub declaration: Option<(String, String, bool)>,
}

/// Everything in a sheet, in order.
pub fn entries(css: &str) -> Vec<Entry> {
    let mut input = Parser::new(css);
    let mut reader = Reader::default();
    let all = StyleSheetParser::new(&mut input, &mut reader);
    for item in all {
        // What can't be read is not there.
        let _ = item;
    }
    reader.found
}

#[derive(Default)]
struct Reader {
    path: Vec<String>,
    found: Vec<Entry>,
}

impl Reader {
    fn block(&mut self, head: String, input: &mut Parser<'_>) {
        self.path.push(head);
        self.found.push(Entry {
            path: self.path.clone(),
            declaration: None,
        });
        for item in RuleBodyParser::new(input, self) {
            let _ = item;
        }
        self.path.pop();
    }
}

/// The tokens of a text, comments left out and white space folded.
fn plain(input: &mut Parser<'_>) -> String {
    let mut text = String::new();
    append(input, &mut text);
    text.trim().to_owned()
}

fn append(input: &mut Parser<'_>, text: &mut String) {
    loop {
        let Ok(token) = input.next_including_whitespace() else {
            return;
        };
        if let Token::WhiteSpace(_) = token {
            if !text.ends_with(' ') {
                text.push(' ');
            }
            continue;
        }
        let closer = match token {
            Token::Function(_) | Token::ParenthesisBlock => Some(')'),
            Token::SquareBracketBlock => Some(']'),
            Token::CurlyBracketBlock => Some('}'),
            _ => None,
        };
        text.push_str(&token.to_css_string());
        if let Some(closer) = closer {
            let _ = input.parse_nested_block(|inner| {
                append(inner, text);
                Ok::<(), ParseError<()>>(())
            });
            text.push(closer);
        }
    }
}

impl<'i> AtRuleParser<'i> for Reader {
    type Prelude = String;
    type AtRule = ();
    type Error = ();

    fn parse_prelude(
        &mut self,
        name: CowRcStr<'i>,
        input: &mut Parser<'i>,
    ) -> Result<String, ParseError<()>> {
        Ok(format!("@{} {}", name.to_ascii_lowercase(), plain(input)))
    }

    fn rule_without_block(&mut self, prelude: String, _start: &ParserState) -> Result<(), ()> {
        let mut path = self.path.clone();
        path.push(prelude);
        self.found.push(Entry {
            path,
            declaration: None,
        });
        Ok(())
    }

    fn parse_block(
        &mut self,
        prelude: String,
        _start: &ParserState,
        input: &mut Parser<'i>,
    ) -> Result<(), ParseError<()>> {
        self.block(prelude, input);
        Ok(())
    }
}

impl<'i> QualifiedRuleParser<'i> for Reader {
    type Prelude = String;
    type QualifiedRule = ();
    type Error = ();

    fn parse_prelude(&mut self, input: &mut Parser<'i>) -> Result<String, ParseError<()>> {
        Ok(plain(input))
    }

    fn parse_block(
        &mut self,
        prelude: String,
        _start: &ParserState,
        input: &mut Parser<'i>,
    ) -> Result<(), ParseError<()>> {
        self.block(prelude, input);
        Ok(())
    }
}

impl<'i> DeclarationParser<'i> for Reader {
    type Declaration = ();
    type Error = ();

    fn parse_value(
        &mut self,
        name: CowRcStr<'i>,
        input: &mut Parser<'i>,
        _start: &ParserState,
    ) -> Result<(), ParseError<()>> {
        let start = input.state();
        let (mut blocks, mut others) = (0, 0);
        while let Ok(token) = input.next() {
            match token {
                Token::CurlyBracketBlock => blocks += 1,
                _ => others += 1,
            }
        }
        input.reset(&start);
        let text = plain(input);
        // CSS Syntax 3 § 5.5.6: with a block beside something else it is a rule.
        if !name.starts_with("--") && blocks > 0 && others > 0 {
            return Err(ParseError::from_basic_kind(
                BasicParseErrorKind::QualifiedRuleInvalid,
            ));
        }
        let lower = text.to_ascii_lowercase();
        let bare = lower.strip_suffix("important").map(str::trim_end);
        let important = bare.is_some_and(|rest| rest.ends_with('!'));
        let value = match (important, bare) {
            (true, Some(rest)) => text[..rest.len() - 1].trim_end().to_owned(),
            _ => text,
        };
        self.found.push(Entry {
            path: self.path.clone(),
            declaration: Some((name.to_ascii_lowercase(), value, important)),
        });
        Ok(())
    }
}

impl RuleBodyItemParser<'_, (), ()> for Reader {
    fn parse_qualified(&self) -> bool {
        true
    }

    fn parse_declarations(&self) -> bool {
        true
    }
}

/// What is only in the first list and what is only in the second, in order.
pub fn differences<T: Clone + PartialEq>(before: &[T], after: &[T]) -> (Vec<T>, Vec<T>) {
    let mut start = 0;
    while start < before.len().min(after.len()) && before[start] == after[start] {
        start += 1;
    }
    let (rest, other) = (&before[start..], &after[start..]);
    let mut end = 0;
    while end < rest.len().min(other.len())
        && rest[rest.len() - 1 - end] == other[other.len() - 1 - end]
    {
        end += 1;
    }
    let (gone, new) = (&rest[..rest.len() - end], &other[..other.len() - end]);
    // Between two changes there may be what is the same: the longest common sequence.
    let common = longest(gone, new);
    let without = |all: &[T], which: &dyn Fn(&(usize, usize)) -> usize| -> Vec<T> {
        let kept: Vec<usize> = common.iter().map(which).collect();
        let items = all.iter().enumerate();
        items
            .filter(|(at, _)| !kept.contains(at))
            .map(|(_, item)| item.clone())
            .collect()
    };
    (without(gone, &|pair| pair.0), without(new, &|pair| pair.1))
}

fn longest<T: PartialEq>(a: &[T], b: &[T]) -> Vec<(usize, usize)> {
    let mut table = vec![vec![0u32; b.len() + 1]; a.len() + 1];
    for i in (0..a.len()).rev() {
        for j in (0..b.len()).rev() {
            table[i][j] = match a[i] == b[j] {
                true => table[i + 1][j + 1] + 1,
                false => table[i + 1][j].max(table[i][j + 1]),
            };
        }
    }
    let (mut i, mut j) = (0, 0);
    let mut pairs = Vec::new();
    while i < a.len() && j < b.len() {
        if a[i] == b[j] {
            pairs.push((i, j));
            i += 1;
            j += 1;
        } else if table[i + 1][j] >= table[i][j + 1] {
            i += 1;
        } else {
            j += 1;
        }
    }
    pairs
}
