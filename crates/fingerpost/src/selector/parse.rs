//! Tokens to selectors: the grammar of Selectors 4 § 19 and of nesting.

use std::sync::Arc;

use cssparser::{Parser, parse_nth};
use thiserror::Error;

use super::{
    AttributeOperator, AttributeSelector, CaseRule, Combinator, Compound, Nth, PseudoClass,
    PseudoElement, Selector, SelectorList, Simple, Specificity, names,
};
use crate::sheet::{Kind, Token, component_length, split_commas};
use crate::text::TextRange;

/// How deep selectors may stand in `:is()`, `:not()` and `:has()`.
const DEEPEST_SELECTOR: usize = 32;

/// How many compounds a selector may have: matching goes back one step for each.
const LONGEST_SELECTOR: usize = 1000;

/// Why a text is no selector.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[error("{message}")]
pub struct SelectorError {
    /// Where, in the text that the selector stands in.
    pub span: TextRange,
    /// What stands there and what was expected.
    pub message: String,
}

pub(super) fn list(
    source: &str,
    tokens: &[Token],
    parent: Option<&Arc<SelectorList>>,
) -> Result<SelectorList, SelectorError> {
    let reader = Reader { source, parent };
    let selectors = reader.list(tokens, Relative::Nested, 0)?;
    Ok(SelectorList { selectors })
}

/// Whether selectors may begin with a combinator.
#[derive(Clone, Copy, PartialEq)]
enum Relative {
    /// In a nested rule: what begins with a combinator, or has no `&`, is relative to `&`.
    Nested,
    /// In `:has()`: every selector is relative.
    Has,
    /// Elsewhere: no.
    No,
}

struct Reader<'a> {
    source: &'a str,
    parent: Option<&'a Arc<SelectorList>>,
}

fn error(span: TextRange, message: impl Into<String>) -> SelectorError {
    SelectorError {
        span,
        message: message.into(),
    }
}

fn cover(tokens: &[Token]) -> TextRange {
    match (tokens.first(), tokens.last()) {
        (Some(first), Some(last)) => first.span().cover(last.span()),
        _ => TextRange::default(),
    }
}

/// The tokens without the blank ones at either side.
fn trim(mut tokens: &[Token]) -> &[Token] {
    while let [first, rest @ ..] = tokens
        && first.kind.is_blank()
    {
        tokens = rest;
    }
    while let [rest @ .., last] = tokens
        && last.kind.is_blank()
    {
        tokens = rest;
    }
    tokens
}

/// The arguments of the function or block at the front, without its marks.
fn inside(tokens: &[Token]) -> &[Token] {
    let length = component_length(tokens);
    let closed = tokens[length - 1].kind == tokens[0].kind.closer().unwrap_or(Kind::Comma);
    &tokens[1..length - usize::from(closed && length > 1)]
}

impl Reader<'_> {
    fn list(
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

    fn without_pseudo_elements(
        &self,
        tokens: &[Token],
        depth: usize,
        whole: TextRange,
    ) -> Result<Vec<Selector>, SelectorError> {
        let selectors = self.list(tokens, Relative::No, depth + 1)?;
        if selectors.iter().any(|s| s.pseudo_element.is_some()) {
            return Err(error(whole, "a pseudo-element can't stand inside :not()"));
        }
        Ok(selectors)
    }

    /// A forgiving list (`:is`, `:where`): what is no selector is left out.
    fn forgiving(&self, tokens: &[Token], depth: usize) -> Vec<Selector> {
        split_commas(tokens)
            .into_iter()
            .map(trim)
            .filter(|part| !part.is_empty())
            .filter_map(|part| self.complex(part, Relative::No, depth).ok())
            .filter(|selector| selector.pseudo_element.is_none())
            .collect()
    }

    fn complex(
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
            specificity: Specificity::default(),
            span: cover(tokens),
        };
        let mut at = 0;
        let mut nests = false;
        loop {
            let (combinator, next) = self.combinator(tokens, at);
            let leading = selector.compounds.is_empty();
            if leading && combinator.is_some() {
                let allowed = match relative {
                    Relative::Has => true,
                    Relative::Nested => self.parent.is_some(),
                    Relative::No => false,
                };
                if !allowed {
                    return Err(error(
                        tokens[at].span(),
                        "a selector can't begin with a combinator here",
                    ));
                }
            }
            at = next;
            if at >= tokens.len() {
                if combinator.is_some_and(|c| c != Combinator::Descendant) {
                    return Err(error(
                        tokens[tokens.len() - 1].span(),
                        "expected a selector after the combinator",
                    ));
                }
                break;
            }
            if selector.pseudo_element.is_some() {
                return Err(error(
                    tokens[at].span(),
                    "nothing can follow a pseudo-element but a state such as :hover",
                ));
            }
            let combinator = if leading && relative == Relative::Has {
                Some(combinator.unwrap_or(Combinator::Descendant))
            } else {
                combinator
            };
            if leading && combinator.is_some() && relative == Relative::Nested {
                selector.compounds.push((None, self.nesting(tokens[at])));
                nests = true;
            }
            at = self.compound(tokens, at, combinator, &mut selector, &mut nests, depth)?;
            if selector.compounds.len() > LONGEST_SELECTOR {
                return Err(error(
                    cover(tokens),
                    format!("a selector of more than {LONGEST_SELECTOR} compounds is not read"),
                ));
            }
        }
        if relative == Relative::Nested && self.parent.is_some() && !nests {
            selector.compounds[0].0 = Some(Combinator::Descendant);
            let prefix = self.nesting(tokens[0]);
            selector.compounds.insert(0, (None, prefix));
        }
        if let Some(parent) = self.parent
            && relative == Relative::Nested
        {
            let implied = selector.compounds[0].1.simples.len() == 1
                && selector.compounds[0].1.span.is_empty();
            if implied {
                selector.specificity += parent.specificity();
            }
        }
        Ok(selector)
    }

    /// The `&` that a nested selector implies: an empty span tells it from a written one.
    fn nesting(&self, before: Token) -> Compound {
        let span = TextRange::empty(before.span().start());
        let parent = self.parent.cloned();
        let parent = parent.unwrap_or_else(|| {
            Arc::new(SelectorList {
                selectors: Vec::new(),
            })
        });
        Compound {
            simples: vec![(Simple::PseudoClass(PseudoClass::Nesting(parent)), span)],
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
                (None, _) if token.kind == Kind::Space => {
                    found = found.or(Some(Combinator::Descendant));
                }
                (None, _) if token.kind == Kind::Comment => {}
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
        nests: &mut bool,
        depth: usize,
    ) -> Result<usize, SelectorError> {
        let start = at;
        let mut simples = Vec::new();
        while let Some(token) = tokens.get(at) {
            let from = at;
            if token.kind == Kind::Comment {
                at += 1;
                continue;
            }
            if selector.pseudo_element.is_some() && token.kind != Kind::Colon {
                break;
            }
            let simple = match token.kind {
                Kind::Ident => {
                    if let Some(after) = self.namespace_bar(tokens, at + 1) {
                        at = after + 1;
                        selector.specificity += Specificity::new(0, 0, 1);
                        let prefixed = &self.source[cover(&tokens[from..at])];
                        let kept = PseudoClass::NotYet(prefixed.into());
                        let span = cover(&tokens[from..at]);
                        simples.push((Simple::PseudoClass(kept), span));
                        continue;
                    }
                    at += 1;
                    self.type_selector(*token, !simples.is_empty(), &mut selector.specificity)?
                }
                Kind::IdHash => {
                    at += 1;
                    selector.specificity += Specificity::new(1, 0, 0);
                    Simple::Id(token.name(self.source).into())
                }
                Kind::Hash => {
                    return Err(error(
                        token.span(),
                        format!(
                            "'{}' is no valid ID selector: a name can't begin with a digit; \
                             write it escaped",
                            token.source(self.source)
                        ),
                    ));
                }
                Kind::OpenSquare => {
                    let length = component_length(&tokens[at..]);
                    selector.specificity += Specificity::new(0, 1, 0);
                    at += length;
                    Simple::Attribute(Box::new(self.attribute(&tokens[from..at])?))
                }
                Kind::Colon => {
                    let (simple, next) = self.pseudo(tokens, at, selector, depth)?;
                    at = next;
                    match simple {
                        Some(simple) => simple,
                        None => continue,
                    }
                }
                Kind::Delim => match token.delim(self.source) {
                    Some('.') => {
                        let Some(name) = tokens.get(at + 1).filter(|t| t.kind == Kind::Ident)
                        else {
                            return Err(error(token.span(), "expected a class name after ."));
                        };
                        at += 2;
                        selector.specificity += Specificity::new(0, 1, 0);
                        Simple::Class(name.name(self.source).into())
                    }
                    Some('&') => {
                        at += 1;
                        *nests = true;
                        match self.parent {
                            Some(parent) => {
                                selector.specificity += parent.specificity();
                                Simple::PseudoClass(PseudoClass::Nesting(parent.clone()))
                            }
                            // Nesting § 3.1: outside a nested rule it is `:scope`, of no weight.
                            None => Simple::PseudoClass(PseudoClass::Scope),
                        }
                    }
                    Some(character @ ('*' | '|')) if simples.is_empty() => {
                        let bar = if character == '|' { at } else { at + 1 };
                        match self.namespace_bar(tokens, bar) {
                            Some(after) => {
                                at = after;
                                let none = character == '|';
                                simples.push((Simple::Namespace { none }, token.span()));
                                let name = tokens[at];
                                at += 1;
                                if name.kind == Kind::Ident {
                                    self.type_selector(name, false, &mut selector.specificity)?
                                } else {
                                    Simple::Universal
                                }
                            }
                            None if character == '*' => {
                                at += 1;
                                Simple::Universal
                            }
                            None => return Err(self.unexpected(*token)),
                        }
                    }
                    Some('>' | '+' | '~') => break,
                    _ => return Err(self.unexpected(*token)),
                },
                kind if kind.is_blank() => break,
                _ => return Err(self.unexpected(*token)),
            };
            simples.push((simple, cover(&tokens[from..at])));
        }
        if simples.is_empty() && selector.pseudo_element.is_none() {
            return Err(match tokens.get(at) {
                Some(token) => self.unexpected(*token),
                None => error(cover(tokens), "expected a selector"),
            });
        }
        let mut last = at;
        while last > start + 1 && tokens[last - 1].kind.is_blank() {
            last -= 1;
        }
        let span = cover(&tokens[start..last]);
        selector
            .compounds
            .push((combinator, Compound { simples, span }));
        Ok(at)
    }

    /// The token after the `|` at `at`, when a name or `*` follows it (and it is not `|=`).
    fn namespace_bar(&self, tokens: &[Token], at: usize) -> Option<usize> {
        let bar = tokens.get(at)?.is_delim(self.source, '|');
        let next = tokens.get(at + 1)?;
        (bar && (next.kind == Kind::Ident || next.is_delim(self.source, '*'))).then_some(at + 1)
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
                    "the type selector '{}' must stand first in its compound",
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

    fn attribute(&self, tokens: &[Token]) -> Result<AttributeSelector, SelectorError> {
        let whole = cover(tokens);
        let bad = || {
            error(
                whole,
                format!(
                    "'{}' is no attribute selector; expected [name], [name=value] or \
                     [name=\"value\" i]",
                    &self.source[whole]
                ),
            )
        };
        if tokens.last().map(|t| t.kind) != Some(Kind::CloseSquare) {
            return Err(bad());
        }
        let mut rest: Vec<Token> = inside(tokens)
            .iter()
            .copied()
            .filter(|t| !t.kind.is_blank())
            .collect();
        // `[*|a]` and `[|a]`.
        if rest.first().is_some_and(|t| t.is_delim(self.source, '*')) {
            rest.remove(0);
        }
        if rest.first().is_some_and(|t| t.is_delim(self.source, '|')) {
            rest.remove(0);
        }
        let [name, rest @ ..] = &rest[..] else {
            return Err(bad());
        };
        if name.kind != Kind::Ident {
            return Err(bad());
        }
        let written = name.name(self.source);
        let mut selector = AttributeSelector {
            lower: written.to_ascii_lowercase().into(),
            name: written.into(),
            operator: AttributeOperator::Present,
            value: "".into(),
            case: CaseRule::ByLanguage,
        };
        let [operator, value, flags @ ..] = rest else {
            return if rest.is_empty() {
                Ok(selector)
            } else {
                Err(bad())
            };
        };
        selector.operator = match operator.kind {
            Kind::Includes => AttributeOperator::Includes,
            Kind::DashMatch => AttributeOperator::DashMatch,
            Kind::PrefixMatch => AttributeOperator::Prefix,
            Kind::SuffixMatch => AttributeOperator::Suffix,
            Kind::SubstringMatch => AttributeOperator::Substring,
            Kind::Delim if operator.is_delim(self.source, '=') => AttributeOperator::Equals,
            _ => return Err(bad()),
        };
        selector.value = match value.kind {
            Kind::Ident => value.name(self.source).into(),
            Kind::Text => value.string(self.source).into(),
            _ => return Err(bad()),
        };
        selector.case = match flags {
            [] => CaseRule::ByLanguage,
            [flag] if flag.kind == Kind::Ident && flag.is_name(self.source, "i") => {
                CaseRule::Insensitive
            }
            [flag] if flag.kind == Kind::Ident && flag.is_name(self.source, "s") => {
                CaseRule::Sensitive
            }
            _ => return Err(bad()),
        };
        Ok(selector)
    }

    /// A pseudo-class, or a pseudo-element that goes into the selector.
    fn pseudo(
        &self,
        tokens: &[Token],
        at: usize,
        selector: &mut Selector,
        depth: usize,
    ) -> Result<(Option<Simple>, usize), SelectorError> {
        let double = tokens.get(at + 1).is_some_and(|t| t.kind == Kind::Colon);
        let name_at = at + 1 + usize::from(double);
        let Some(name) = tokens
            .get(name_at)
            .filter(|t| matches!(t.kind, Kind::Ident | Kind::Function))
        else {
            return Err(error(tokens[at].span(), "expected a name after :"));
        };
        let length = component_length(&tokens[name_at..]);
        let next = name_at + length;
        let whole = cover(&tokens[at..next]);
        let lower = name.name(self.source).to_ascii_lowercase();
        if name.kind == Kind::Function && tokens[next - 1].kind != Kind::CloseParenthesis {
            return Err(error(whole, format!("expected ) to close :{lower}(")));
        }
        let legacy = matches!(
            lower.as_str(),
            "before" | "after" | "first-line" | "first-letter"
        );
        if double || (legacy && name.kind == Kind::Ident) {
            if selector.pseudo_element.is_some()
                && !matches!(lower.as_str(), "marker" | "before" | "after")
            {
                return Err(error(
                    whole,
                    "a selector can end in one pseudo-element only",
                ));
            }
            let element = self.pseudo_element(&lower, &tokens[name_at..next], whole)?;
            selector.specificity += Specificity::new(0, 0, 1);
            selector.pseudo_element = Some(match &selector.pseudo_element {
                None => element,
                Some(outer) => {
                    PseudoElement::Other(format!("{outer}{element}").trim_start_matches(':').into())
                }
            });
            return Ok((None, next));
        }
        let arguments = (name.kind == Kind::Function).then(|| inside(&tokens[name_at..next]));
        let (class, weight) = self.pseudo_class(&lower, arguments, whole, depth)?;
        selector.specificity += weight;
        if let Some(element) = selector.pseudo_element.take() {
            // A state of a pseudo-element: kept whole, not matched.
            let state = &self.source[whole];
            let name = element.to_string();
            selector.pseudo_element = Some(PseudoElement::Other(
                format!("{}{state}", name.trim_start_matches(':')).into(),
            ));
            return Ok((None, next));
        }
        Ok((Some(Simple::PseudoClass(class)), next))
    }

    fn pseudo_element(
        &self,
        lower: &str,
        tokens: &[Token],
        whole: TextRange,
    ) -> Result<PseudoElement, SelectorError> {
        Ok(match lower {
            "before" if tokens.len() == 1 => PseudoElement::Before,
            "after" if tokens.len() == 1 => PseudoElement::After,
            "first-line"
            | "first-letter"
            | "marker"
            | "placeholder"
            | "selection"
            | "backdrop"
            | "file-selector-button"
            | "grammar-error"
            | "spelling-error"
            | "target-text"
            | "cue"
            | "cue-region"
            | "highlight"
            | "part"
            | "slotted"
            | "details-content"
            | "search-text"
            | "view-transition"
            | "view-transition-group"
            | "view-transition-group-children"
            | "view-transition-image-pair"
            | "view-transition-old"
            | "view-transition-new"
            | "column"
            | "scroll-marker"
            | "scroll-marker-group"
            | "scroll-button"
            | "picker"
            | "picker-icon"
            | "checkmark" => {
                PseudoElement::Other(self.source[cover(tokens)].to_ascii_lowercase().into())
            }
            // Selectors 4 § 4.3 (compatibility): unknown -webkit- pseudo-elements are valid.
            _ if lower.starts_with("-webkit-") && tokens.len() == 1 => {
                PseudoElement::Other(lower.into())
            }
            _ => {
                return Err(error(
                    whole,
                    format!("no pseudo-element ::{lower} exists; the whole rule is dropped"),
                ));
            }
        })
    }

    fn pseudo_class(
        &self,
        lower: &str,
        arguments: Option<&[Token]>,
        whole: TextRange,
        depth: usize,
    ) -> Result<(PseudoClass, Specificity), SelectorError> {
        let one = Specificity::new(0, 1, 0);
        let source = &self.source[whole];
        let Some(arguments) = arguments else {
            return match names::pseudo_class(lower) {
                Some(class) => Ok((class, one)),
                None if names::is_standard(lower) => Ok((PseudoClass::NotYet(source.into()), one)),
                None => Err(error(
                    whole,
                    format!("no pseudo-class :{lower} exists; the whole rule is dropped"),
                )),
            };
        };
        let list = |selectors| Arc::new(SelectorList { selectors });
        Ok(match lower {
            "is" | "-webkit-any" => {
                let inner = list(self.forgiving(arguments, depth + 1));
                let weight = inner.specificity();
                (PseudoClass::Is(inner), weight)
            }
            "where" => {
                let inner = list(self.forgiving(arguments, depth + 1));
                (PseudoClass::Where(inner), Specificity::default())
            }
            "not" => {
                let inner = list(self.without_pseudo_elements(arguments, depth, whole)?);
                let weight = inner.specificity();
                (PseudoClass::Not(inner), weight)
            }
            "has" => {
                let inner = list(self.list(arguments, Relative::Has, depth + 1)?);
                let weight = inner.specificity();
                (PseudoClass::Has(inner), weight)
            }
            "nth-child" | "nth-last-child" | "nth-of-type" | "nth-last-of-type" => {
                let of_type = lower.ends_with("of-type");
                let nth = self.nth(arguments, lower.contains("last"), of_type, whole, depth)?;
                let mut weight = one;
                if let Some(of) = &nth.of {
                    weight += of.specificity();
                }
                (PseudoClass::Nth(nth), weight)
            }
            "lang" => {
                let mut ranges = Vec::new();
                for part in split_commas(arguments) {
                    match trim(part) {
                        [range] if matches!(range.kind, Kind::Ident | Kind::Text) => {
                            ranges.push(range.string(self.source).to_ascii_lowercase().into());
                        }
                        [star, rest @ ..] if star.is_delim(self.source, '*') => {
                            let rest = &self.source[cover(rest)];
                            ranges.push(format!("*{rest}").to_ascii_lowercase().into());
                        }
                        _ => return Err(error(whole, "expected a language such as :lang(en)")),
                    }
                }
                (PseudoClass::Lang(ranges), one)
            }
            "dir" => match trim(arguments) {
                [side] if side.kind == Kind::Ident => {
                    let rtl = side.is_name(self.source, "rtl");
                    if !rtl && !side.is_name(self.source, "ltr") {
                        return Ok((PseudoClass::NotYet(source.into()), one));
                    }
                    (PseudoClass::Dir { rtl }, one)
                }
                _ => return Err(error(whole, "expected :dir(ltr) or :dir(rtl)")),
            },
            "host"
            | "host-context"
            | "state"
            | "active-view-transition-type"
            | "current"
            | "heading" => (PseudoClass::NotYet(source.into()), one),
            _ => {
                return Err(error(
                    whole,
                    format!("no pseudo-class :{lower}() exists; the whole rule is dropped"),
                ));
            }
        })
    }

    fn nth(
        &self,
        arguments: &[Token],
        from_end: bool,
        of_type: bool,
        whole: TextRange,
        depth: usize,
    ) -> Result<Nth, SelectorError> {
        let of = arguments
            .iter()
            .position(|t| t.kind == Kind::Ident && t.is_name(self.source, "of"));
        let formula = &arguments[..of.unwrap_or(arguments.len())];
        let text = &self.source[cover(trim(formula))];
        let mut parser = Parser::new(text);
        let parsed = parse_nth(&mut parser).ok();
        let Some((step, offset)) = parsed.filter(|_| parser.is_exhausted()) else {
            return Err(error(
                whole,
                format!("'{text}' is no An+B; expected something like 2n+1, odd or 3"),
            ));
        };
        let of = match of {
            Some(_) if of_type => {
                return Err(error(
                    whole,
                    "'of' stands only in :nth-child() and :nth-last-child()",
                ));
            }
            Some(at) => {
                let selectors = self.list(&arguments[at + 1..], Relative::No, depth + 1)?;
                Some(Arc::new(SelectorList { selectors }))
            }
            None => None,
        };
        Ok(Nth {
            step,
            offset,
            from_end,
            of_type,
            of,
        })
    }
}
