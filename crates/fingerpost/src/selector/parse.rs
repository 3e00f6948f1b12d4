//! Tokens to selectors: the grammar of Selectors 4 § 19 and of nesting.

use thiserror::Error;

use super::{
    Combinator, Compound, NamespaceTest, ParseContext, PseudoClass, Selector, SelectorList, Simple,
    Specificity,
};
use crate::sheet::{Token, TokenKind, component_length, cover, split_commas, trim, trim_end};
use crate::text::{Cut, TextRange};

/// How deep selectors may be nested in `:is()`, `:not()` and `:has()`.
const DEEPEST_SELECTOR: usize = 32;

/// How many compounds a selector may have: matching goes back one step for each.
const LONGEST_SELECTOR: usize = 1000;

/// Why a text is not a selector.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[error("{message}")]
#[non_exhaustive]
pub struct SelectorError {
    /// Where, in the text that the selector is in.
    pub span: TextRange,
    /// What is there and what was expected.
    pub message: String,
}

pub(super) fn list(
    source: &str,
    tokens: &[Token],
    setting: ParseContext<'_>,
) -> Result<SelectorList, SelectorError> {
    let reader = Reader { source, setting };
    // Syntax 3 § 4.3.2: comments are not there, not even between `.` and its name.
    let bare: Vec<Token>;
    let tokens = if tokens.iter().any(|t| t.kind == TokenKind::Comment) {
        let kept = tokens.iter().filter(|t| t.kind != TokenKind::Comment);
        bare = kept.copied().collect();
        &bare
    } else {
        tokens
    };
    let selectors = reader.list(tokens, Relative::Nested, 0)?;
    Ok(SelectorList { selectors })
}

/// Whether selectors may begin with a combinator.
#[derive(Clone, Copy, PartialEq)]
pub(super) enum Relative {
    /// In a nested or scoped rule: what begins with a combinator, or has no `&`, is relative to
    /// `&` or `:scope`.
    Nested,
    /// In `:has()`: every selector is relative.
    Has,
    /// Elsewhere: no.
    No,
}

/// Whether a selector says itself which namespace its element is in, or is about one that has none.
fn is_in_any_namespace(simple: &Simple) -> bool {
    use PseudoClass::{Host, HostContext, Nesting, Scope};
    matches!(
        simple,
        Simple::Namespace(_) | Simple::PseudoClass(Host(_) | HostContext(_) | Nesting(_) | Scope)
    )
}

pub(super) struct Reader<'a> {
    pub source: &'a str,
    pub setting: ParseContext<'a>,
}

pub(super) fn error(span: TextRange, message: impl Into<String>) -> SelectorError {
    SelectorError {
        span,
        message: message.into(),
    }
}

/// The arguments of the function or block at the front, without its marks.
pub(super) fn inside(tokens: &[Token]) -> &[Token] {
    let Some((opener, rest)) = tokens.split_first() else {
        return tokens;
    };
    let rest = rest.cut(..component_length(tokens) - 1);
    match rest.split_last() {
        Some((last, inside)) if Some(last.kind) == opener.kind.closer() => inside,
        _ => rest,
    }
}

impl Reader<'_> {
    pub(super) fn list(
        &self,
        tokens: &[Token],
        relative: Relative,
        depth: usize,
    ) -> Result<Vec<Selector>, SelectorError> {
        let mut next_comma = 0;
        split_commas(tokens)
            .into_iter()
            .map(|part| {
                next_comma += part.len();
                let trimmed = trim(part);
                if trimmed.is_empty() {
                    let at = tokens.get(next_comma).or(tokens.last());
                    let span = at.map_or_else(TextRange::default, |t| t.span());
                    return Err(error(span, "expected a selector here, found none"));
                }
                next_comma += 1;
                self.complex(trimmed, relative, depth)
            })
            .collect()
    }

    pub(super) fn without_pseudo_elements(
        &self,
        tokens: &[Token],
        depth: usize,
        whole: TextRange,
    ) -> Result<Vec<Selector>, SelectorError> {
        let selectors = self.list(tokens, Relative::No, depth + 1)?;
        if selectors.iter().any(|s| s.pseudo_element.is_some()) {
            return Err(error(whole, "a pseudo-element is not allowed in :not()"));
        }
        Ok(selectors)
    }

    /// A forgiving list (`:is`, `:where`): what is not a valid selector is left out.
    pub(super) fn forgiving(
        &self,
        tokens: &[Token],
        depth: usize,
    ) -> Result<Vec<Selector>, SelectorError> {
        if self.setting.unforgiving {
            return self.list(tokens, Relative::No, depth);
        }
        let taken = split_commas(tokens)
            .into_iter()
            .map(trim)
            .filter(|part| !part.is_empty())
            .filter_map(|part| self.complex(part, Relative::No, depth).ok())
            .filter(|selector| selector.pseudo_element.is_none())
            .collect();
        Ok(taken)
    }

    pub(super) fn complex(
        &self,
        tokens: &[Token],
        relative: Relative,
        depth: usize,
    ) -> Result<Selector, SelectorError> {
        if depth > DEEPEST_SELECTOR {
            return Err(error(
                cover(tokens),
                format!("selectors are nested deeper than {DEEPEST_SELECTOR}"),
            ));
        }
        let mut selector = Selector {
            compounds: Vec::new(),
            pseudo_element: None,
            through: None,
            specificity: Specificity::default(),
            names_host: false,
            span: cover(tokens),
        };
        let mut at = 0;
        loop {
            let (combinator, next) = self.combinator(tokens, at);
            let leading = selector.compounds.is_empty();
            if leading && combinator.is_some() && !self.may_begin_with_combinator(relative) {
                return Err(error(
                    cover(tokens.cut(at..at + 1)),
                    "a selector can't begin with a combinator here",
                ));
            }
            at = next;
            let Some(&here) = tokens.get(at) else {
                if combinator.is_some_and(|c| c != Combinator::Descendant) {
                    return Err(error(
                        tokens.last().map_or(selector.span, |t| t.span()),
                        "expected a selector after the combinator",
                    ));
                }
                break;
            };
            if selector.pseudo_element.is_some() {
                return Err(error(
                    here.span(),
                    "nothing can follow a pseudo-element but a state such as :hover",
                ));
            }
            let combinator = if leading && relative == Relative::Has {
                Some(combinator.unwrap_or(Combinator::Descendant))
            } else {
                combinator
            };
            if leading && combinator.is_some() && relative == Relative::Nested {
                selector.compounds.push((None, self.nesting(here.span())));
            }
            at = self.compound(tokens, at, combinator, &mut selector, depth)?;
            if selector.compounds.len() > LONGEST_SELECTOR {
                return Err(error(
                    cover(tokens),
                    format!("a selector of more than {LONGEST_SELECTOR} compounds is not read"),
                ));
            }
        }
        if selector.compounds.is_empty() {
            return Err(error(selector.span, "expected a selector"));
        }
        if relative == Relative::Nested && self.setting.is_relative() {
            self.put_in_its_parent(&mut selector);
        }
        selector.names_host = selector.finds_host();
        Ok(selector)
    }

    fn may_begin_with_combinator(&self, relative: Relative) -> bool {
        match relative {
            Relative::Has => true,
            Relative::Nested => self.setting.is_relative(),
            Relative::No => false,
        }
    }

    /// A nested selector without its parent's name is about what is inside it (Nesting 1 § 3.1).
    fn put_in_its_parent(&self, selector: &mut Selector) {
        if !selector.names_its_base() {
            if let Some((combinator, _)) = selector.compounds.first_mut() {
                *combinator = Some(Combinator::Descendant);
            }
            let prefix = self.nesting(selector.span);
            selector.compounds.insert(0, (None, prefix));
        }
        let first = selector.compounds.first();
        let implied = first.is_some_and(|(_, compound)| compound.span.is_empty());
        if let Some(parent) = self.setting.parent.filter(|_| implied) {
            selector.specificity += parent.specificity();
        }
    }

    /// The `&` or `:scope` that a relative selector implies: an empty span tells it from a written
    /// one.
    fn nesting(&self, before: TextRange) -> Compound {
        let span = TextRange::empty(before.start());
        let base = match self.setting.parent {
            Some(parent) => PseudoClass::Nesting(Some(parent.clone())),
            None => PseudoClass::Scope,
        };
        Compound {
            simples: vec![(Simple::PseudoClass(base), span)],
            span,
        }
    }

    /// The combinator at `at` and the token after it.
    fn combinator(&self, tokens: &[Token], mut at: usize) -> (Option<Combinator>, usize) {
        let mut found = None;
        while let Some(token) = tokens.get(at) {
            let explicit = match token.delim(self.source) {
                Some('>') => Some(Combinator::Child),
                Some('+') => Some(Combinator::NextSibling),
                Some('~') => Some(Combinator::SubsequentSibling),
                _ => None,
            };
            match (explicit, found) {
                (Some(_), Some(Combinator::Descendant) | None) => found = explicit,
                (None, _) if token.kind == TokenKind::Space => {
                    found = found.or(Some(Combinator::Descendant));
                }
                _ => break,
            }
            at += 1;
        }
        (found, at)
    }

    fn compound(
        &self,
        tokens: &[Token],
        mut at: usize,
        combinator: Option<Combinator>,
        selector: &mut Selector,
        depth: usize,
    ) -> Result<usize, SelectorError> {
        let start = at;
        let mut simples = Vec::new();
        while let Some(token) = tokens.get(at) {
            let from = at;
            let at_end = selector.pseudo_element.is_some() || selector.through.is_some();
            if at_end && token.kind != TokenKind::Colon {
                break;
            }
            if token.kind.is_blank() || matches!(token.delim(self.source), Some('>' | '+' | '~')) {
                break;
            }
            let simple = match token.kind {
                TokenKind::Ident => self.type_or_universal(
                    tokens,
                    &mut at,
                    &mut simples,
                    &mut selector.specificity,
                )?,
                TokenKind::Delim
                    if simples.is_empty()
                        && matches!(token.delim(self.source), Some('*' | '|')) =>
                {
                    self.any_namespace(tokens, &mut at, &mut simples, &mut selector.specificity)?
                }
                TokenKind::Colon => {
                    let (simple, next) = self.pseudo(tokens, at, selector, depth)?;
                    at = next;
                    match simple {
                        Some(simple) => simple,
                        None => continue,
                    }
                }
                _ => {
                    let (simple, specificity) = self.named(tokens, &mut at, *token)?;
                    selector.specificity += specificity;
                    simple
                }
            };
            simples.push((simple, cover(tokens.cut(from..at))));
        }
        if depth == 0
            && !simples
                .iter()
                .any(|(simple, _)| is_in_any_namespace(simple))
            && let Some(test) = self.setting.default_namespace()
        {
            let here = TextRange::empty(cover(tokens.cut(start..)).start());
            simples.insert(0, (Simple::Namespace(test), here));
        }
        if simples.is_empty() && selector.pseudo_element.is_none() && selector.through.is_none() {
            return Err(match tokens.get(at) {
                Some(token) => self.unexpected(*token),
                None => error(cover(tokens), "expected a selector"),
            });
        }
        let span = cover(trim_end(tokens.cut(start..at)));
        selector
            .compounds
            .push((combinator, Compound { simples, span }));
        Ok(at)
    }

    /// An id, a class, an attribute or `&`, and how specific it is.
    fn named(
        &self,
        tokens: &[Token],
        at: &mut usize,
        token: Token,
    ) -> Result<(Simple, Specificity), SelectorError> {
        let from = *at;
        match (token.kind, token.delim(self.source)) {
            (TokenKind::IdHash, _) => {
                *at += 1;
                let id = Simple::Id(token.name(self.source).into());
                Ok((id, Specificity::new(1, 0, 0)))
            }
            (TokenKind::Hash, _) => Err(error(
                token.span(),
                format!(
                    "'{}' is not a valid ID selector: a name can't begin with a digit; write it \
                     escaped",
                    token.source(self.source)
                ),
            )),
            (TokenKind::OpenSquare, _) => {
                *at += component_length(tokens.cut(from..));
                let attribute = self.attribute(tokens.cut(from..*at))?;
                let simple = Simple::Attribute(Box::new(attribute));
                Ok((simple, Specificity::new(0, 1, 0)))
            }
            (TokenKind::Delim, Some('.')) => {
                let name = tokens.get(from + 1).filter(|t| t.kind == TokenKind::Ident);
                let missing = || error(token.span(), "expected a class name after .");
                let name = name.ok_or_else(missing)?;
                *at += 2;
                let class = Simple::Class(name.name(self.source).into());
                Ok((class, Specificity::new(0, 1, 0)))
            }
            (TokenKind::Delim, Some('&')) => {
                *at += 1;
                let parent = self.setting.parent;
                let nesting = Simple::PseudoClass(PseudoClass::Nesting(parent.cloned()));
                Ok((
                    nesting,
                    parent.map_or_else(Specificity::default, |p| p.specificity()),
                ))
            }
            _ => Err(self.unexpected(token)),
        }
    }

    /// `p`, `svg|path` or `svg|*`.
    fn type_or_universal(
        &self,
        tokens: &[Token],
        at: &mut usize,
        simples: &mut Vec<(Simple, TextRange)>,
        specificity: &mut Specificity,
    ) -> Result<Simple, SelectorError> {
        let Some(token) = tokens.get(*at) else {
            return Err(error(cover(tokens), "expected a selector"));
        };
        let late = !simples.is_empty();
        let test = match self.namespace_bar(tokens, *at + 1) {
            Some(after) => {
                *at = after;
                Some(self.prefixed(*token)?)
            }
            None => self.setting.default_namespace(),
        };
        if let Some(test) = test {
            simples.push((Simple::Namespace(test), token.span()));
        }
        self.type_at(tokens, at, *token, late, specificity)
    }

    /// A type, or `*`, after a namespace; `from` is where that begins.
    fn type_at(
        &self,
        tokens: &[Token],
        at: &mut usize,
        from: Token,
        late: bool,
        specificity: &mut Specificity,
    ) -> Result<Simple, SelectorError> {
        let name = tokens.get(*at).copied().unwrap_or(from);
        *at += 1;
        match name.kind {
            TokenKind::Ident => self.type_selector(name, late, specificity),
            _ => Ok(Simple::Universal),
        }
    }

    /// `*`, `*|p` or `|p`.
    fn any_namespace(
        &self,
        tokens: &[Token],
        at: &mut usize,
        simples: &mut Vec<(Simple, TextRange)>,
        specificity: &mut Specificity,
    ) -> Result<Simple, SelectorError> {
        let Some(token) = tokens.get(*at) else {
            return Err(error(cover(tokens), "expected a selector"));
        };
        let (bar, test) = match token.delim(self.source) {
            Some('|') => (*at, NamespaceTest::None),
            _ => (*at + 1, NamespaceTest::Any),
        };
        if let Some(after) = self.namespace_bar(tokens, bar) {
            *at = after;
            simples.push((Simple::Namespace(test), token.span()));
            return self.type_at(tokens, at, *token, false, specificity);
        }
        if test == NamespaceTest::None {
            return Err(self.unexpected(*token));
        }
        *at += 1;
        if let Some(test) = self.setting.default_namespace() {
            simples.push((Simple::Namespace(test), token.span()));
        }
        Ok(Simple::Universal)
    }

    /// The namespace that a prefix stands for.
    pub(super) fn prefixed(&self, prefix: Token) -> Result<NamespaceTest, SelectorError> {
        let name = prefix.name(self.source);
        let known = self.setting.namespaces.and_then(|n| n.of_prefix(&name));
        known.map(NamespaceTest::of).ok_or_else(|| {
            error(
                prefix.span(),
                format!(
                    "no @namespace rule declares the prefix '{name}'; the whole rule is dropped"
                ),
            )
        })
    }

    /// The token after the `|` at `at`, when a name or `*` follows it (and it is not `|=`).
    fn namespace_bar(&self, tokens: &[Token], at: usize) -> Option<usize> {
        let bar = tokens.get(at)?.is_delim(self.source, '|');
        let next = tokens.get(at + 1)?;
        (bar && (next.kind == TokenKind::Ident || next.is_delim(self.source, '*')))
            .then_some(at + 1)
    }

    fn type_selector(
        &self,
        token: Token,
        late: bool,
        specificity: &mut Specificity,
    ) -> Result<Simple, SelectorError> {
        if late {
            return Err(error(
                token.span(),
                format!(
                    "the type selector '{}' must come first in its compound selector",
                    token.name(self.source)
                ),
            ));
        }
        *specificity += Specificity::new(0, 0, 1);
        let name = token.name(self.source);
        Ok(Simple::Type {
            lower: name.to_ascii_lowercase().into(),
            name: name.into(),
        })
    }

    fn unexpected(&self, token: Token) -> SelectorError {
        error(
            token.span(),
            format!(
                "'{}' is not expected in a selector",
                token.source(self.source)
            ),
        )
    }
}
