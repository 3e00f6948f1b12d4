//! Matching a value against a grammar.
//!
//! The engine follows all alternatives side by side: from a position, a component gives every
//! position at which it can end, in order of preference, none twice. So no grammar and no value
//! takes exponential time, and a list of ten thousand items takes no stack. For each end the way to
//! it is kept as a chain of captures.

use std::collections::HashMap;
use std::rc::Rc;

use rustc_hash::FxHashSet;

use super::definition::{Definition, Multiplier};
use super::first::First;
use crate::sheet::{Token, TokenKind, cover};
use crate::text::{Cut, TextRange, TextSize};
use crate::value::facts::{PropertyId, type_entry};
use crate::value::substitution::{DEEPEST_VALUE, deepest, too_deep};

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

/// Which component a part of a value was taken by.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Label {
    /// `<'property'>`
    Property(PropertyId),
    /// `<type>`, by name.
    Type(&'static str),
    /// A keyword written out in the grammar.
    Keyword,
    /// A punctuation mark.
    Mark(char),
}

/// A part of a value and the component that took it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Captured {
    /// The component.
    pub label: Label,
    /// Where the part is in the source.
    pub span: TextRange,
    /// How many named components it is in.
    pub depth: u32,
}

/// A value that fits its grammar.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Match {
    /// The parts, in source order; a part inside another comes before it.
    pub captured: Vec<Captured>,
}

impl Match {
    /// Whether a part with exactly this span has such a label. The parts are in the order of their ends, so that those
    /// that can be meant stand together.
    pub(crate) fn has(&self, span: TextRange, wanted: impl Fn(Label) -> bool) -> bool {
        let first = self
            .captured
            .partition_point(|part| part.span.end() < span.end());
        let ending = self.captured.cut(first..).iter();
        let mut ending = ending.take_while(|part| part.span.end() == span.end());
        ending.any(|part| part.span == span && wanted(part.label))
    }
}

/// A value that does not fit.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Mismatch {
    /// What no alternative could take; empty at the end of the value, where more was expected.
    pub span: TextRange,
    /// What was expected there, each as a person reads it.
    pub expected: Vec<String>,
}

impl Mismatch {
    /// The same, where the span counts from the start of a value instead of from that of the text that holds it.
    pub(crate) fn within(&self, value: TextRange) -> Mismatch {
        let inside = |at: TextSize| at.clamp(value.start(), value.end()) - value.start();
        Mismatch {
            span: TextRange::new(inside(self.span.start()), inside(self.span.end())),
            expected: self.expected.clone(),
        }
    }
}

/// Matches a value against the grammar of a property. CSS-wide keywords and values with
/// substitution functions are none of the grammar's business.
///
/// # Errors
/// Where the value stops to fit, and what was expected.
pub fn match_property(
    property: PropertyId,
    source: &str,
    tokens: &[Token],
) -> Result<Match, Mismatch> {
    let found = match_definition(Definition::of_property(property), source, tokens)?;
    match crate::value::prose::mismatch(property, source, &without_blanks(tokens), &found.captured)
    {
        Some(mismatch) => Err(mismatch),
        None => Ok(found),
    }
}

/// Matches a value against a grammar.
///
/// # Errors
/// Where the value stops to fit, and what was expected.
pub fn match_definition(
    definition: &Definition,
    source: &str,
    tokens: &[Token],
) -> Result<Match, Mismatch> {
    let tokens = without_blanks(tokens);
    if let Some(token) = too_deep(&tokens) {
        return Err(Mismatch {
            span: token.span(),
            expected: vec![format!("at most {DEEPEST_VALUE} levels of nesting")],
        });
    }
    let mut engine = Engine::new(source, &tokens);
    let start = State { at: 0, chain: None };
    let ends = engine.ends(definition, start, tokens.len(), 0);
    if let Some(farthest) = ends.iter().map(|end| end.at).max()
        && farthest >= engine.farthest
    {
        if farthest > engine.farthest {
            engine.expected.clear();
        }
        engine.farthest = farthest;
        engine.expected.push("nothing more".to_owned());
    }
    match ends.into_iter().find(|end| end.at == tokens.len()) {
        Some(end) => Ok(Match {
            captured: engine.captured(end.chain),
        }),
        None => {
            engine.expected.sort();
            engine.expected.dedup();
            let span = match tokens.get(engine.farthest) {
                Some(token) => token.span(),
                None => TextRange::empty(
                    tokens
                        .last()
                        .map_or(TextSize::default(), |t| t.span().end()),
                ),
            };
            Err(Mismatch {
                span,
                expected: engine.expected,
            })
        }
    }
}

/// What could stand next, after the tokens of a value that is being written: the components that
/// the grammar tries there, and whether the value could also end there.
pub(super) fn tried_at_end(
    definition: &Definition,
    source: &str,
    tokens: &[Token],
) -> (Vec<Definition>, bool) {
    let tokens = without_blanks(tokens);
    if too_deep(&tokens).is_some() {
        return (Vec::new(), false);
    }
    let mut engine = Engine::new(source, &tokens);
    engine.tried = Some(Vec::new());
    let start = State { at: 0, chain: None };
    let ends = engine.ends(definition, start, tokens.len(), 0);
    let complete = !tokens.is_empty() && ends.iter().any(|end| end.at == tokens.len());
    (engine.tried.unwrap_or_default(), complete)
}

fn without_blanks(tokens: &[Token]) -> Vec<Token> {
    let words = tokens.iter().copied();
    words.filter(|t| !t.kind.is_blank()).collect()
}

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
struct State {
    at: usize,
    chain: Option<u32>,
}

struct Link {
    captured: Captured,
    before: Option<u32>,
}

struct Engine<'a> {
    source: &'a str,
    tokens: &'a [Token],
    closers: Vec<usize>,
    chain: Vec<Link>,
    farthest: usize,
    expected: Vec<String>,
    steps: usize,
    /// What was tried at the end of the value, in order, where that is wanted.
    tried: Option<Vec<Definition>>,
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

/// Where a component ended, and what it captured on the way, by depths from its own.
struct Reached {
    at: usize,
    captured: Vec<Captured>,
}

/// What was met already. Nearly always that is a few; a long list can have very many.
#[derive(Default)]
struct Seen {
    few: Vec<(usize, usize)>,
    many: FxHashSet<(usize, usize)>,
}

/// How many are looked through one by one.
const FEW: usize = 16;

impl Seen {
    /// Takes one up; says whether it is new.
    fn insert(&mut self, one: (usize, usize)) -> bool {
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
    fn new(source: &'a str, tokens: &'a [Token]) -> Self {
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
        // What is tried at the end has to be tried each time.
        if self.known.is_none() || self.tried.is_some() {
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
    fn captured(&self, chain: Option<u32>) -> Vec<Captured> {
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

    /// Every position at which `definition`, begun at `from`, can end.
    fn ends(
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
        let at = from.at;
        match definition {
            Definition::Keywords(words) => {
                let token = self.tokens.get(at).filter(|_| at < limit);
                // A few grammars write numbers out: `0 | 90 | 90deg`.
                if let Some(token) = token
                    && matches!(
                        token.kind,
                        TokenKind::Ident | TokenKind::Number | TokenKind::Dimension
                    )
                {
                    let name = match token.kind {
                        TokenKind::Ident => token.name(self.source).to_ascii_lowercase(),
                        _ => token.source(self.source).to_ascii_lowercase(),
                    };
                    if words.binary_search_by(|w| (**w).cmp(&name)).is_ok() {
                        let end = State { at: at + 1, ..from };
                        return vec![self.capture(Label::Keyword, at, end, depth)];
                    }
                }
                self.expect(at, definition);
                Vec::new()
            }
            Definition::Mark(mark) => {
                let token = self.tokens.get(at).filter(|_| at < limit);
                let found = token.is_some_and(|token| {
                    token.source(self.source).starts_with(*mark)
                        && (token.end - token.start) as usize == mark.len_utf8()
                });
                if found {
                    let end = State { at: at + 1, ..from };
                    return vec![self.capture(Label::Mark(*mark), at, end, depth)];
                }
                self.expect(at, definition);
                Vec::new()
            }
            Definition::Terminal(terminal, range) => {
                let closer = self.closers.get(at).copied().unwrap_or(at).min(limit);
                let closer = closer.min(self.tokens.len().saturating_sub(1));
                match terminal.take(self.source, self.tokens, at, limit, closer, *range) {
                    Some(count) => {
                        let end = State {
                            at: (at + count).min(limit),
                            ..from
                        };
                        vec![self.capture(Label::Type(terminal.name()), at, end, depth)]
                    }
                    None => {
                        self.expect(at, definition);
                        Vec::new()
                    }
                }
            }
            Definition::Name(but) => {
                let name = super::Terminal::CustomIdent;
                let taken = name.take(self.source, self.tokens, at, limit, at, None);
                let is_one = |token: &Token| {
                    let name = token.name(self.source);
                    !but.iter().any(|word| name.eq_ignore_ascii_case(word))
                };
                if taken.is_some() && self.tokens.get(at).is_some_and(is_one) {
                    let end = State { at: at + 1, ..from };
                    return vec![self.capture(Label::Type(name.name()), at, end, depth)];
                }
                self.expect(at, definition);
                Vec::new()
            }
            Definition::Type(index) => {
                if depth > DEEPEST_REFERENCE {
                    return Vec::new();
                }
                let next = self.tokens.cut(..limit).get(at).copied();
                if !First::of_type(*index).admits(self.source, next) {
                    self.expect(at, definition);
                    return Vec::new();
                }
                let inner = Definition::of_type(*index);
                let label = Label::Type(type_entry(*index).0);
                self.remembered(Named::Type(*index), from, limit, depth, |engine, from| {
                    let ends = engine.named(definition, inner, from, limit, depth);
                    let ends = ends.into_iter();
                    ends.map(|end| engine.capture(label, at, end, depth))
                        .collect()
                })
            }
            Definition::Property(property) => {
                if depth > DEEPEST_REFERENCE {
                    return Vec::new();
                }
                let next = self.tokens.cut(..limit).get(at).copied();
                if !First::of_property(*property).admits(self.source, next) {
                    self.expect(at, definition);
                    return Vec::new();
                }
                let inner = Definition::of_property(*property);
                let label = Label::Property(*property);
                self.remembered(
                    Named::Property(*property),
                    from,
                    limit,
                    depth,
                    |engine, from| {
                        let ends = engine.named(definition, inner, from, limit, depth);
                        let ends = ends.into_iter();
                        ends.map(|end| engine.capture(label, at, end, depth))
                            .collect()
                    },
                )
            }
            Definition::Function(name, arguments) => {
                let token = self.tokens.get(at).filter(|_| at < limit);
                let found = token.is_some_and(|token| {
                    token.kind == TokenKind::Function && token.is_name(self.source, name)
                });
                if !found {
                    self.expect(at, definition);
                    return Vec::new();
                }
                self.block(arguments, from, limit, depth)
            }
            Definition::Block(open, contents) => {
                let kind = match open {
                    '[' => TokenKind::OpenSquare,
                    '{' => TokenKind::OpenCurly,
                    _ => TokenKind::OpenParenthesis,
                };
                let token = self.tokens.get(at).filter(|_| at < limit);
                if token.is_none_or(|token| token.kind != kind) {
                    self.expect(at, definition);
                    return Vec::new();
                }
                self.block(contents, from, limit, depth)
            }
            Definition::Sequence(parts) => self.sequence(parts, from, limit, depth),
            Definition::OneOf(parts) => {
                let mut ends = Vec::new();
                let mut seen = Seen::default();
                for part in parts {
                    let found = self.ends(part, from, limit, depth);
                    ends.extend(found.into_iter().filter(|end| seen.insert((end.at, 0))));
                }
                // The longest first, so that what follows sees the whole of it.
                ends.sort_by_key(|end| std::cmp::Reverse(end.at));
                ends
            }
            Definition::AllOf(parts) => self.any_order(parts, true, from, limit, depth),
            Definition::SomeOf(parts) => self.any_order(parts, false, from, limit, depth),
            Definition::Repeated(part, multiplier) => {
                self.repeated(part, *multiplier, from, limit, depth)
            }
            Definition::NotEmpty(part) => {
                let mut ends = self.ends(part, from, limit, depth);
                ends.retain(|end| end.at > at);
                ends
            }
            Definition::Unknown(_) => vec![State { at: limit, ..from }],
        }
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

    /// One after another. A comma may be left out when what is before it in the sequence, or
    /// what follows it up to the next comma, is nothing (CSS Values 4 § 2.1).
    fn sequence(
        &mut self,
        parts: &[Definition],
        from: State,
        limit: usize,
        depth: usize,
    ) -> Vec<State> {
        let mut states = vec![(from, false)];
        for part in parts {
            let mut next: Vec<(State, bool)> = Vec::new();
            let mut seen = Seen::default();
            let mut push = |state: State, empty: bool| {
                if seen.insert((state.at, usize::from(empty))) {
                    next.push((state, empty));
                }
            };
            for (state, must_be_empty) in states {
                if *part == Definition::Mark(',') {
                    for end in self.ends(part, state, limit, depth) {
                        push(end, false);
                    }
                    if state.at == from.at {
                        push(state, false);
                    } else {
                        push(state, true);
                    }
                    continue;
                }
                for end in self.ends(part, state, limit, depth) {
                    if !must_be_empty || end.at == state.at {
                        push(end, must_be_empty);
                    }
                }
            }
            states = next;
            if states.is_empty() {
                return Vec::new();
            }
        }
        let mut seen = Seen::default();
        let ends = states.into_iter().map(|(state, _)| state);
        ends.filter(|end| seen.insert((end.at, 0))).collect()
    }

    /// `&&` and `||`: which parts have been taken is a set of bits.
    fn any_order(
        &mut self,
        parts: &[Definition],
        all: bool,
        from: State,
        limit: usize,
        depth: usize,
    ) -> Vec<State> {
        let everything = (1u32 << parts.len()) - 1;
        let mut seen = Seen::default();
        let mut open = vec![(from, 0u32)];
        let mut ends: Vec<State> = Vec::new();
        let mut ended = Seen::default();
        while let Some((state, taken)) = open.pop() {
            let done = if all { taken == everything } else { taken != 0 };
            // Of those at the same position the first is preferred.
            if done && ended.insert((state.at, 0)) {
                ends.push(state);
            }
            // Pushed in reverse, so that the first part is tried first.
            for (at, part) in parts.iter().enumerate().rev() {
                let bit = 1 << at;
                if taken & bit != 0 {
                    continue;
                }
                for end in self.ends(part, state, limit, depth) {
                    // In `||` a part that takes nothing is left out instead.
                    if !all && end.at == state.at {
                        continue;
                    }
                    if seen.insert((end.at, (taken | bit) as usize)) {
                        open.push((end, taken | bit));
                    }
                }
            }
        }
        ends.sort_by_key(|end| std::cmp::Reverse(end.at));
        ends
    }

    fn repeated(
        &mut self,
        part: &Definition,
        multiplier: Multiplier,
        from: State,
        limit: usize,
        depth: usize,
    ) -> Vec<State> {
        let mut ends = Vec::new();
        let mut reached = Seen::default();
        let mut frontier = vec![from];
        let mut count = 0;
        if multiplier.least == 0 {
            ends.push(from);
            reached.insert((from.at, 0));
        }
        while !frontier.is_empty() && multiplier.most.is_none_or(|most| count < most) {
            let mut next: Vec<State> = Vec::new();
            let mut met = Seen::default();
            for state in &frontier {
                let mut start = *state;
                if multiplier.commas && count > 0 {
                    match self.ends(&Definition::Mark(','), start, limit, depth).pop() {
                        Some(after) => start = after,
                        None => continue,
                    }
                }
                for end in self.ends(part, start, limit, depth) {
                    // Taking nothing again and again leads nowhere.
                    let further = end.at > state.at || count < multiplier.least;
                    if further && met.insert((end.at, 0)) {
                        next.push(end);
                    }
                }
            }
            count += 1;
            if count >= multiplier.least {
                ends.extend(next.iter().filter(|end| reached.insert((end.at, 0))));
            }
            frontier = next;
        }
        // As many as there are, first.
        ends.sort_by_key(|end| std::cmp::Reverse(end.at));
        ends
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::sheet::tokenize;
    use crate::text::span;

    fn check(property: &str, value: &str) -> Result<Match, (String, Vec<String>)> {
        let tokens = tokenize(value, span(0, value.len()));
        match_property(PropertyId::named(property).unwrap(), value, &tokens)
            .map_err(|m| (value[m.span].to_owned(), m.expected))
    }

    #[test]
    fn values_that_fit() {
        for (property, value) in [
            ("color", "#0b3d5c"),
            ("color", "rgb(1 2 3 / 50%)"),
            ("color", "rgba(1, 2, 3, .5)"),
            ("color", "hsl(200deg 50% 40%)"),
            ("color", "color-mix(in oklab, red 20%, blue)"),
            ("margin", "0 auto"),
            ("padding-left", "calc(100% - 2rem)"),
            ("border", "1px solid var(--x)".trim_end_matches(" var(--x)")),
            ("background", "url(a.svg) no-repeat center / cover, #fff"),
            ("background", "linear-gradient(to right, red, blue 20%)"),
            ("font", "italic 700 1.2em/1.5 \"Skerry Sans\", serif"),
            (
                "grid-template-columns",
                "[a] 1fr [b] repeat(2, minmax(0, 1fr)) auto",
            ),
            (
                "grid-template-columns",
                "repeat(auto-fill, minmax(10rem, 1fr))",
            ),
            (
                "transition",
                "color .2s ease-in-out, transform 1s cubic-bezier(0,0,1,1) 10ms",
            ),
            ("animation", "boat 4s ease-in-out infinite alternate"),
            ("transform", "translate(10px, 50%) rotate(3deg)"),
            ("box-shadow", "0 1px 2px rgb(0 0 0 / .2), inset 0 0 4px red"),
            ("display", "inline-block"),
            ("display", "grid"),
            ("flex", "1 1 0%"),
            ("content", "\"→ \" attr(data-x)"),
            ("cursor", "pointer"),
            ("font-family", "Skerry Sans, sans-serif"),
            ("clip-path", "polygon(0 0, 100% 0, 50% 100%)"),
            ("filter", "drop-shadow(0 0 2px #000) blur(2px)"),
            ("aspect-ratio", "16 / 9"),
            ("grid-area", "1 / span 2 / auto / foo"),
            ("will-change", "transform, opacity"),
            ("mask", "url(a.svg) center / contain no-repeat"),
        ] {
            let result = check(property, value);
            assert!(result.is_ok(), "{property}: {value}: {result:?}");
        }
    }

    #[test]
    fn values_that_do_not_fit_say_where_and_what() {
        let (at, expected) = check("color", "#12345").unwrap_err();
        assert_eq!(at, "#12345");
        assert_eq!(expected, ["<color>"]);
        let (at, _) = check("margin", "1px 2px 3px 4px 5px").unwrap_err();
        assert_eq!(at, "5px");
        let (at, expected) = check("padding-left", "-2px").unwrap_err();
        assert_eq!(at, "-2px");
        assert!(
            expected.iter().any(|e| e.contains("at least 0")),
            "{expected:?}"
        );
        let (at, expected) = check("border", "1px slid red").unwrap_err();
        assert_eq!(at, "slid");
        assert!(
            expected.contains(&"<line-style>".to_owned()),
            "{expected:?}"
        );
        assert!(check("width", "10").is_err());
        assert!(check("width", "calc(1px + 2)").is_err());
        assert!(check("color", "").is_err());
    }

    #[test]
    fn captures_name_the_parts() {
        let found = check("border", "1px solid red").unwrap();
        let labels: Vec<_> = found
            .captured
            .iter()
            .filter(|c| c.depth == 0)
            .map(|c| (c.label, u32::from(c.span.start())))
            .collect();
        assert_eq!(
            labels,
            [
                (Label::Type("line-width"), 0),
                (Label::Type("line-style"), 4),
                (Label::Type("color"), 10)
            ]
        );
    }

    #[test]
    fn long_lists_take_no_stack() {
        let value = vec!["0 0 red"; 10_000].join(",");
        assert!(check("box-shadow", &value).is_ok());
    }
}
