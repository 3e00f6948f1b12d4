//! The engine that follows all alternatives of a grammar side by side.
//!
//! From a position, a component gives every position at which it can end, in order of preference, none twice. So no
//! grammar and no value takes exponential time. For each end the way to it is kept as a chain of captures.

use std::collections::HashMap;
use std::rc::Rc;

use rustc_hash::FxHashSet;

use super::definition::Definition;
use super::first::First;
use super::fit::{Captured, Label};
use super::terminal::Terminal;
use crate::sheet::{Token, TokenKind, cover};
use crate::text::Cut;
use crate::value::facts::{PropertyId, type_entry};
use crate::value::substitution::{DEEPEST_VALUE, deepest};

/// How deep grammars may refer to each other while one value is matched: some ten for each level of nesting.
const DEEPEST_REFERENCE: usize = 12 * DEEPEST_VALUE;

/// From how many levels of nesting on what was matched is remembered. Grammars try a nested
/// value in several ways, and each of them would try all that is nested in it again.
const REMEMBERED_FROM: usize = 4;

/// How much of the stack a reference to another grammar may need, and how much more is taken where less
/// is left.
const STACK_NEEDED: usize = 128 << 10;
const STACK_TAKEN: usize = 2 << 20;

/// How many components are tried before a value is given up as too complex. A long gradient takes
/// some ten thousand.
const MOST_STEPS: usize = 4_000_000;

fn closers(tokens: &[Token]) -> Vec<usize> {
    let mut closers = vec![tokens.len(); tokens.len()];
    let mut open: Vec<(usize, TokenKind)> = Vec::new();
    for (at, token) in tokens.iter().enumerate() {
        if let Some(closer) = token.kind.closer() {
            open.push((at, closer));
        } else if open.last().is_some_and(|(_, closer)| *closer == token.kind) {
            let opener = open.pop().and_then(|(opener, _)| closers.get_mut(opener));
            if let Some(closer) = opener {
                *closer = at;
            }
        }
    }
    closers
}

/// A position, and the captures on the way to it.
#[derive(Clone, Copy, Debug)]
pub(super) struct State {
    pub at: usize,
    pub chain: Option<u32>,
}

struct Link {
    captured: Captured,
    before: Option<u32>,
}

pub(super) struct Engine<'a> {
    source: &'a str,
    tokens: &'a [Token],
    closers: Vec<usize>,
    chain: Vec<Link>,
    pub farthest: usize,
    pub expected: Vec<String>,
    steps: usize,
    /// What was tried at the end of the value, in order, where that is wanted.
    pub tried: Option<Vec<Definition>>,
    /// The ends that were found before; none where the value is so shallow that it does not pay.
    known: Option<HashMap<Attempt, Rc<Vec<Reached>>>>,
}

/// A named component that was tried, from where, and up to where.
#[derive(Clone, Copy, PartialEq, Eq, Hash)]
struct Attempt {
    label: Named,
    at: usize,
    limit: usize,
}

#[derive(Clone, Copy, PartialEq, Eq, Hash)]
enum Named {
    Type(usize),
    Property(PropertyId),
}

/// A component that another grammar describes.
struct Reference {
    named: Named,
    /// What it can begin with.
    first: &'static First,
    inner: &'static Definition,
    label: Label,
}

/// Where a component ended, and what it captured on the way, by depths from its own.
struct Reached {
    at: usize,
    captured: Vec<Captured>,
}

/// What was met already. Nearly always that is a few; a long list can have very many.
#[derive(Default)]
pub(super) struct Seen {
    few: Vec<(usize, usize)>,
    many: FxHashSet<(usize, usize)>,
}

/// How many are looked through one by one.
const FEW: usize = 16;

impl Seen {
    /// Takes one up; says whether it is new.
    pub fn insert(&mut self, one: (usize, usize)) -> bool {
        if self.few.len() < FEW {
            let new = !self.few.contains(&one);
            if new {
                self.few.push(one);
            }
            return new;
        }
        !self.few.contains(&one) && self.many.insert(one)
    }
}

impl<'a> Engine<'a> {
    pub fn new(source: &'a str, tokens: &'a [Token]) -> Self {
        Engine {
            source,
            tokens,
            closers: closers(tokens),
            chain: Vec::new(),
            farthest: 0,
            expected: Vec::new(),
            steps: 0,
            tried: None,
            known: (deepest(tokens) >= REMEMBERED_FROM).then(HashMap::new),
        }
    }

    /// The ends of a named component: those that were found before, or found now.
    fn remembered(
        &mut self,
        label: Named,
        from: State,
        limit: usize,
        depth: usize,
        find: impl FnOnce(&mut Self, State) -> Vec<State>,
    ) -> Vec<State> {
        if self.known.is_none() {
            return find(self, from);
        }
        let at = from.at;
        let tried = Attempt { label, at, limit };
        let found = self
            .known
            .as_ref()
            .and_then(|known| known.get(&tried).cloned());
        let found = found.unwrap_or_else(|| {
            let ends = find(self, State { at, chain: None });
            let reached = ends.into_iter().map(|end| {
                let mut captured = self.captured(end.chain);
                for captured in &mut captured {
                    captured.depth -= depth as u32;
                }
                Reached {
                    at: end.at,
                    captured,
                }
            });
            let reached = Rc::new(reached.collect::<Vec<_>>());
            if let Some(known) = &mut self.known {
                known.insert(tried, reached.clone());
            }
            reached
        });
        let again = found.iter().map(|reached| {
            let mut chain = from.chain;
            for captured in &reached.captured {
                self.chain.push(Link {
                    captured: Captured {
                        depth: captured.depth + depth as u32,
                        ..*captured
                    },
                    before: chain,
                });
                chain = Some(self.chain.len() as u32 - 1);
            }
            State {
                at: reached.at,
                chain,
            }
        });
        again.collect()
    }

    #[expect(
        clippy::indexing_slicing,
        reason = "a link knows the place of the one before"
    )]
    pub fn captured(&self, chain: Option<u32>) -> Vec<Captured> {
        let mut found: Vec<Captured> =
            std::iter::successors(chain, |at| self.chain[*at as usize].before)
                .map(|at| self.chain[at as usize].captured)
                .collect();
        found.reverse();
        found
    }

    fn capture(&mut self, label: Label, from: usize, end: State, depth: usize) -> State {
        if end.at == from {
            return end;
        }
        let span = cover(self.tokens.cut(from..end.at));
        self.chain.push(Link {
            captured: Captured {
                label,
                span,
                depth: depth as u32,
            },
            before: end.chain,
        });
        State {
            at: end.at,
            chain: Some(self.chain.len() as u32 - 1),
        }
    }

    fn expect(&mut self, at: usize, definition: &Definition) {
        if at == self.tokens.len()
            && let Some(tried) = &mut self.tried
            && !tried.contains(definition)
        {
            tried.push(definition.clone());
        }
        if at > self.farthest {
            self.farthest = at;
            self.expected.clear();
        }
        if at == self.farthest && self.expected.len() < 64 {
            self.expected.push(definition.label());
        }
    }

    /// Whether a token begins the function or the block of a definition.
    fn opens(&self, definition: &Definition, token: Token) -> bool {
        match definition {
            Definition::Function(name, _) => {
                token.kind == TokenKind::Function && token.is_name(self.source, name)
            }
            Definition::Block('[', _) => token.kind == TokenKind::OpenSquare,
            Definition::Block('{', _) => token.kind == TokenKind::OpenCurly,
            Definition::Block(..) => token.kind == TokenKind::OpenParenthesis,
            _ => false,
        }
    }

    /// Every position at which `definition`, begun at `from`, can end.
    pub fn ends(
        &mut self,
        definition: &Definition,
        from: State,
        limit: usize,
        depth: usize,
    ) -> Vec<State> {
        self.steps += 1;
        if self.steps > MOST_STEPS {
            return Vec::new();
        }
        match definition {
            Definition::Keywords(words) => {
                let ends = self.keyword(words, from, limit, depth);
                self.or_expect(ends, from, definition)
            }
            Definition::Mark(mark) => {
                let ends = self.mark(*mark, from, limit, depth);
                self.or_expect(ends, from, definition)
            }
            Definition::Terminal(terminal, range) => {
                let ends = self.terminal(*terminal, *range, from, limit, depth);
                self.or_expect(ends, from, definition)
            }
            Definition::Name(but) => {
                let ends = self.name(but, from, limit, depth);
                self.or_expect(ends, from, definition)
            }
            Definition::Type(index) => {
                let reference = Reference {
                    named: Named::Type(*index),
                    first: First::of_type(*index),
                    inner: Definition::of_type(*index),
                    label: Label::Type(type_entry(*index).0),
                };
                self.reference(definition, &reference, from, limit, depth)
            }
            Definition::Property(property) => {
                let reference = Reference {
                    named: Named::Property(*property),
                    first: First::of_property(*property),
                    inner: Definition::of_property(*property),
                    label: Label::Property(*property),
                };
                self.reference(definition, &reference, from, limit, depth)
            }
            Definition::Function(_, inside) | Definition::Block(_, inside) => {
                let opens = |token: &Token| self.opens(definition, *token);
                if self.token(from.at, limit).is_some_and(opens) {
                    return self.block(inside, from, limit, depth);
                }
                self.expect(from.at, definition);
                Vec::new()
            }
            Definition::Sequence(parts) => self.sequence(parts, from, limit, depth),
            Definition::OneOf(parts) => self.one_of(parts, from, limit, depth),
            Definition::AllOf(parts) => self.any_order(parts, true, from, limit, depth),
            Definition::SomeOf(parts) => self.any_order(parts, false, from, limit, depth),
            Definition::Repeated(part, multiplier) => {
                self.repeated(part, *multiplier, from, limit, depth)
            }
            Definition::NotEmpty(part) => {
                let mut ends = self.ends(part, from, limit, depth);
                ends.retain(|end| end.at > from.at);
                ends
            }
            Definition::Unknown(_) => vec![State { at: limit, ..from }],
        }
    }

    fn token(&self, at: usize, limit: usize) -> Option<&'a Token> {
        self.tokens.get(at).filter(|_| at < limit)
    }

    /// The end, if there is one; else the component is what was expected.
    fn or_expect(
        &mut self,
        end: Option<State>,
        from: State,
        definition: &Definition,
    ) -> Vec<State> {
        if end.is_none() {
            self.expect(from.at, definition);
        }
        end.into_iter().collect()
    }

    /// One token, as a part with that label.
    fn one(&mut self, label: Label, from: State, depth: usize) -> State {
        let end = State {
            at: from.at + 1,
            ..from
        };
        self.capture(label, from.at, end, depth)
    }

    fn keyword(
        &mut self,
        words: &[Box<str>],
        from: State,
        limit: usize,
        depth: usize,
    ) -> Option<State> {
        let token = self.token(from.at, limit)?;
        // A few grammars write numbers out: `0 | 90 | 90deg`.
        let name = match token.kind {
            TokenKind::Ident => token.name(self.source).to_ascii_lowercase(),
            TokenKind::Number | TokenKind::Dimension => {
                token.source(self.source).to_ascii_lowercase()
            }
            _ => return None,
        };
        words.binary_search_by(|word| (**word).cmp(&name)).ok()?;
        Some(self.one(Label::Keyword, from, depth))
    }

    fn mark(&mut self, mark: char, from: State, limit: usize, depth: usize) -> Option<State> {
        let token = self.token(from.at, limit)?;
        let is_it = token.source(self.source).starts_with(mark)
            && (token.end - token.start) as usize == mark.len_utf8();
        is_it.then(|| self.one(Label::Mark(mark), from, depth))
    }

    fn terminal(
        &mut self,
        terminal: Terminal,
        range: Option<(f64, f64)>,
        from: State,
        limit: usize,
        depth: usize,
    ) -> Option<State> {
        let at = from.at;
        let closer = self.closers.get(at).copied().unwrap_or(at).min(limit);
        let closer = closer.min(self.tokens.len().saturating_sub(1));
        let count = terminal.take(self.source, self.tokens, at, limit, closer, range)?;
        let end = State {
            at: (at + count).min(limit),
            ..from
        };
        Some(self.capture(Label::Type(terminal.name()), at, end, depth))
    }

    /// A name that is none of some words.
    fn name(&mut self, but: &[Box<str>], from: State, limit: usize, depth: usize) -> Option<State> {
        let name = Terminal::CustomIdent;
        name.take(self.source, self.tokens, from.at, limit, from.at, None)?;
        let written = self.tokens.get(from.at)?.name(self.source);
        let is_other = but.iter().all(|word| !written.eq_ignore_ascii_case(word));
        is_other.then(|| self.one(Label::Type(name.name()), from, depth))
    }

    /// What another grammar describes.
    fn reference(
        &mut self,
        definition: &Definition,
        reference: &Reference,
        from: State,
        limit: usize,
        depth: usize,
    ) -> Vec<State> {
        if depth > DEEPEST_REFERENCE {
            return Vec::new();
        }
        let next = self.tokens.cut(..limit).get(from.at).copied();
        if !reference.first.admits(self.source, next) {
            self.expect(from.at, definition);
            return Vec::new();
        }
        self.remembered(reference.named, from, limit, depth, |engine, from| {
            let ends = engine.named(definition, reference.inner, from, limit, depth);
            let ends = ends.into_iter();
            ends.map(|end| engine.capture(reference.label, from.at, end, depth))
                .collect()
        })
    }

    /// A component with a name: when nothing in it gets anywhere, its name is what was expected.
    fn named(
        &mut self,
        reference: &Definition,
        inner: &Definition,
        from: State,
        limit: usize,
        depth: usize,
    ) -> Vec<State> {
        let known = (self.farthest, self.expected.len());
        let ends = stacker::maybe_grow(STACK_NEEDED, STACK_TAKEN, || {
            self.ends(inner, from, limit, depth + 1)
        });
        if self.farthest == from.at {
            if known.0 == self.farthest {
                self.expected.truncate(known.1);
            } else {
                self.expected.clear();
            }
            if ends.is_empty() {
                self.expect(from.at, reference);
            }
        }
        ends
    }

    /// The inside of the function or block at `from`, which must be matched to its end.
    fn block(
        &mut self,
        contents: &Definition,
        from: State,
        limit: usize,
        depth: usize,
    ) -> Vec<State> {
        let Some(closer) = self.closers.get(from.at).map(|at| (*at).min(limit)) else {
            return Vec::new();
        };
        let inside = State {
            at: from.at + 1,
            ..from
        };
        let found = self
            .ends(contents, inside, closer, depth + 1)
            .into_iter()
            .find(|end| end.at == closer);
        match found {
            Some(end) => vec![State {
                at: (closer + 1).min(self.tokens.len()).min(limit.max(closer)),
                chain: end.chain,
            }],
            None => Vec::new(),
        }
    }
}
