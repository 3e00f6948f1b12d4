//! Pseudo-classes and pseudo-elements: their names, arguments and weights.

use std::sync::Arc;

use cssparser::{Parser, parse_nth, serialize_identifier};

use super::parse::{Reader, Relative, SelectorError, error, inside};
use super::{
    Nth, PseudoClass, PseudoElement, Selector, SelectorList, Simple, Specificity, TreeCrossing,
    names,
};
use crate::sheet::{Token, TokenKind, component_length, cover, split_commas, trim};
use crate::text::{Cut, TextRange};

impl Reader<'_> {
    /// A pseudo-class, or a pseudo-element that goes into the selector.
    pub(super) fn pseudo(
        &self,
        tokens: &[Token],
        at: usize,
        selector: &mut Selector,
        depth: usize,
    ) -> Result<(Option<Simple>, usize), SelectorError> {
        let double = tokens
            .get(at + 1)
            .is_some_and(|t| t.kind == TokenKind::Colon);
        let name_at = at + 1 + usize::from(double);
        let Some(name) = tokens
            .get(name_at)
            .filter(|t| matches!(t.kind, TokenKind::Ident | TokenKind::Function))
        else {
            return Err(error(
                cover(tokens.cut(at..at + 1)),
                "expected a name after :",
            ));
        };
        let length = component_length(tokens.cut(name_at..));
        let next = name_at + length;
        let whole = cover(tokens.cut(at..next));
        let lower = name.name(self.source).to_ascii_lowercase();
        if double
            && name.kind == TokenKind::Function
            && matches!(lower.as_str(), "slotted" | "part")
        {
            let arguments = inside(tokens.cut(name_at..next));
            self.through(&lower, arguments, whole, selector, depth)?;
            return Ok((None, next));
        }
        let legacy = matches!(
            lower.as_str(),
            "before" | "after" | "first-line" | "first-letter"
        );
        if double || (legacy && name.kind == TokenKind::Ident) {
            if !can_have(selector.pseudo_element.as_ref(), &lower) {
                return Err(error(
                    whole,
                    format!("::{lower} can't follow another pseudo-element here"),
                ));
            }
            let element = self.pseudo_element(&lower, tokens.cut(name_at..next), whole, depth)?;
            selector.specificity += Specificity::new(0, 0, 1);
            selector.pseudo_element = Some(match &selector.pseudo_element {
                None => element,
                Some(outer) => {
                    PseudoElement::Other(format!("{outer}{element}").trim_start_matches(':').into())
                }
            });
            return Ok((None, next));
        }
        let arguments =
            (name.kind == TokenKind::Function).then(|| inside(tokens.cut(name_at..next)));
        let (class, weight) = self.pseudo_class(&lower, arguments, whole, depth)?;
        if selector.pseudo_element.is_some() || selector.through.is_some() {
            let of_part = matches!(selector.through, Some(TreeCrossing::Part { .. }));
            let element = selector.pseudo_element.as_ref();
            if !is_state(&lower, &class, element, of_part) {
                return Err(error(
                    whole,
                    format!(
                        "{} is not allowed after a pseudo-element",
                        self.source.cut(whole)
                    ),
                ));
            }
        }
        selector.specificity += weight;
        match &mut selector.through {
            Some(TreeCrossing::Part { states, .. }) if selector.pseudo_element.is_none() => {
                states.push(Simple::PseudoClass(class));
                return Ok((None, next));
            }
            Some(TreeCrossing::Slotted(_)) => {
                return Err(error(
                    whole,
                    "only ::before and ::after can follow ::slotted()",
                ));
            }
            _ => {}
        }
        if let Some(element) = selector.pseudo_element.take() {
            // A state of a pseudo-element: kept as text, not matched.
            let name = element.to_string();
            let name = name.trim_start_matches(':');
            selector.pseudo_element = Some(PseudoElement::Other(format!("{name}{class}").into()));
            return Ok((None, next));
        }
        Ok((Some(Simple::PseudoClass(class)), next))
    }

    /// `::slotted()` and `::part()`: Scoping 1 § 3.2.4 and Shadow Parts 1 § 3.
    fn through(
        &self,
        lower: &str,
        arguments: &[Token],
        whole: TextRange,
        selector: &mut Selector,
        depth: usize,
    ) -> Result<(), SelectorError> {
        if selector.pseudo_element.is_some() || selector.through.is_some() {
            return Err(error(whole, format!("::{lower}() is not allowed here")));
        }
        selector.specificity += Specificity::new(0, 0, 1);
        selector.through = Some(if lower == "slotted" {
            let list = self.compounds(arguments, whole, depth)?;
            selector.specificity += list.specificity();
            TreeCrossing::Slotted(Arc::new(list))
        } else {
            let words = trim(arguments).iter().filter(|t| !t.kind.is_blank());
            let names = words
                .map(|t| (t.kind == TokenKind::Ident).then(|| t.name(self.source).into()))
                .collect::<Option<Vec<Box<str>>>>()
                .filter(|names| !names.is_empty())
                .ok_or_else(|| error(whole, "expected names of parts, such as ::part(label)"))?;
            let states = Vec::new();
            TreeCrossing::Part { names, states }
        });
        Ok(())
    }

    /// One compound selector, as `:host()` and `::slotted()` take.
    fn compounds(
        &self,
        arguments: &[Token],
        whole: TextRange,
        depth: usize,
    ) -> Result<SelectorList, SelectorError> {
        let selector = self.complex(trim(arguments), Relative::No, depth + 1)?;
        if selector.compounds.len() > 1 || selector.pseudo_element.is_some() {
            return Err(error(whole, "expected a compound selector in it"));
        }
        let selectors = vec![selector];
        Ok(SelectorList { selectors })
    }

    /// Whether a pseudo-element that takes arguments has them, and one that takes none has not.
    fn has_its_arguments(&self, lower: &str, tokens: &[Token]) -> bool {
        let arguments = match tokens.first() {
            Some(first) if first.kind == TokenKind::Function => Some(trim(inside(tokens))),
            _ => None,
        };
        let name = |token: &Token| token.kind == TokenKind::Ident;
        let any = |token: &Token| token.is_delim(self.source, '*');
        match lower {
            "highlight" | "picker" => matches!(arguments, Some([only]) if name(only)),
            "scroll-button" => matches!(arguments, Some([only]) if name(only) || any(only)),
            // View Transitions 2 § 4.1: a name or `*`, then classes.
            _ if lower.starts_with("view-transition-") => match arguments {
                Some([first, classes @ ..]) => {
                    let dot = |token: &Token| token.is_delim(self.source, '.');
                    let pairs = classes.chunks(2);
                    let classes = |rest: std::slice::Chunks<'_, Token>| {
                        rest.into_iter()
                            .all(|pair| matches!(pair, [mark, class] if dot(mark) && name(class)))
                    };
                    if name(first) || any(first) {
                        classes(pairs)
                    } else {
                        classes(arguments.unwrap_or_default().chunks(2))
                    }
                }
                _ => false,
            },
            "cue" | "cue-region" => true,
            _ => arguments.is_none(),
        }
    }

    /// A pseudo-class whose arguments are read but that is not matched.
    fn not_yet(&self, lower: &str, arguments: &[Token]) -> PseudoClass {
        PseudoClass::NotYet(format!(":{lower}({})", self.words(arguments)).into())
    }

    /// A pseudo-element as text that reads as the same: its name, and its arguments in parentheses.
    fn printed(&self, lower: &str, tokens: &[Token]) -> String {
        let mut printed = String::new();
        // Writing to a string can't fail.
        let _ = serialize_identifier(lower, &mut printed);
        if let [first, _, ..] = tokens
            && first.kind == TokenKind::Function
        {
            printed.push_str(&format!("({})", self.words(inside(tokens))));
        }
        printed
    }

    /// Arguments that are names, numbers and signs, as text that reads as the same.
    fn words(&self, tokens: &[Token]) -> String {
        let mut words = String::new();
        for token in trim(tokens) {
            match token.kind {
                TokenKind::Ident => {
                    let _ = serialize_identifier(&token.name(self.source), &mut words);
                }
                kind if kind.is_blank() => words.push(' '),
                _ => words.push_str(self.source.cut(token.span())),
            }
        }
        words
    }

    fn pseudo_element(
        &self,
        lower: &str,
        tokens: &[Token],
        whole: TextRange,
        depth: usize,
    ) -> Result<PseudoElement, SelectorError> {
        Ok(match lower {
            "before" if tokens.len() == 1 => PseudoElement::Before,
            "after" if tokens.len() == 1 => PseudoElement::After,
            _ if !self.has_its_arguments(lower, tokens) => {
                return Err(error(
                    whole,
                    format!(
                        "'{}' is not written as ::{lower} is",
                        self.source.cut(whole)
                    ),
                ));
            }
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
            | "highlight"
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
            | "checkmark" => PseudoElement::Other(self.printed(lower, tokens).into()),
            // WebVTT § 8.2.1: with a selector for the parts of the text, or without one.
            "cue" | "cue-region" if tokens.len() > 1 => {
                let selectors = self.list(inside(tokens), Relative::No, depth + 1)?;
                let list = SelectorList { selectors };
                PseudoElement::Other(format!("{lower}({list})").into())
            }
            "cue" | "cue-region" => PseudoElement::Other(lower.into()),
            // Selectors 4 § 4.3 (compatibility): unknown -webkit- pseudo-elements are valid.
            _ if lower.starts_with("-webkit-")
                && tokens.len() == 1
                && !self.setting.unforgiving =>
            {
                PseudoElement::Other(self.printed(lower, tokens).into())
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
        let source = self.source.cut(whole);
        let Some(arguments) = arguments else {
            return match names::pseudo_class(lower) {
                Some(class) => Ok((class, one)),
                None if names::is_standard(lower) => {
                    Ok((PseudoClass::NotYet(format!(":{lower}").into()), one))
                }
                None => Err(error(
                    whole,
                    format!("no pseudo-class :{lower} exists; the whole rule is dropped"),
                )),
            };
        };
        let list = |selectors| Arc::new(SelectorList { selectors });
        Ok(match lower {
            "is" | "-webkit-any" => {
                let inner = list(self.forgiving(arguments, depth + 1)?);
                let weight = inner.specificity();
                (PseudoClass::Is(inner), weight)
            }
            "where" => {
                let inner = list(self.forgiving(arguments, depth + 1)?);
                (PseudoClass::Where(inner), Specificity::default())
            }
            "not" => {
                let inner = list(self.without_pseudo_elements(arguments, depth, whole)?);
                let weight = inner.specificity();
                (PseudoClass::Not(inner), weight)
            }
            "has" => {
                let inner = list(self.list(arguments, Relative::Has, depth + 1)?);
                // Selectors 4 § 4.5: it can't be nested.
                if inner.selectors.iter().any(Selector::has_inside) {
                    return Err(error(whole, ":has() is not allowed in :has()"));
                }
                if inner.selectors.iter().any(|s| s.pseudo_element.is_some()) {
                    return Err(error(whole, "a pseudo-element is not allowed in :has()"));
                }
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
                        [range] if matches!(range.kind, TokenKind::Ident | TokenKind::Text) => {
                            ranges.push(range.string(self.source).to_ascii_lowercase().into());
                        }
                        _ => {
                            return Err(error(
                                whole,
                                "expected a language such as :lang(en) or :lang(\"*-CH\")",
                            ));
                        }
                    }
                }
                (PseudoClass::Lang(ranges), one)
            }
            "dir" => match trim(arguments) {
                [side] if side.kind == TokenKind::Ident => {
                    let rtl = side.is_name(self.source, "rtl");
                    if !rtl && !side.is_name(self.source, "ltr") {
                        return Ok((self.not_yet(lower, arguments), one));
                    }
                    (PseudoClass::Dir { rtl }, one)
                }
                _ => return Err(error(whole, "expected :dir(ltr) or :dir(rtl)")),
            },
            "host" | "host-context" => {
                let inner = self.compounds(arguments, whole, depth)?;
                let mut weight = one;
                weight += inner.specificity();
                let inner = Arc::new(inner);
                let class = if lower == "host" {
                    PseudoClass::Host(Some(inner))
                } else {
                    PseudoClass::HostContext(inner)
                };
                (class, weight)
            }
            "state" | "active-view-transition-type" | "current" | "heading" => {
                let items = split_commas(arguments);
                let is = |item: &&[Token], kind| matches!(trim(item), [only] if only.kind == kind);
                let written = match lower {
                    "state" => items.len() == 1 && items.iter().all(|i| is(i, TokenKind::Ident)),
                    "heading" => items.iter().all(|i| is(i, TokenKind::Number)),
                    "current" => {
                        let selectors = self.list(arguments, Relative::No, depth + 1)?;
                        let list = SelectorList { selectors };
                        return Ok((PseudoClass::NotYet(format!(":current({list})").into()), one));
                    }
                    _ => items.iter().all(|i| is(i, TokenKind::Ident)),
                };
                if !written {
                    return Err(error(
                        whole,
                        format!("'{source}' is not written as :{lower}() is"),
                    ));
                }
                (self.not_yet(lower, arguments), one)
            }
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
            .position(|t| t.kind == TokenKind::Ident && t.is_name(self.source, "of"));
        let formula = arguments.cut(..of.unwrap_or(arguments.len()));
        let text = self.source.cut(cover(trim(formula)));
        let mut parser = Parser::new(text);
        let parsed = parse_nth(&mut parser).ok();
        let Some((step, offset)) = parsed.filter(|_| parser.is_exhausted()) else {
            return Err(error(
                whole,
                format!("'{text}' is not An+B; expected something like 2n+1, odd or 3"),
            ));
        };
        let of = match of {
            Some(_) if of_type => {
                return Err(error(
                    whole,
                    "'of' is allowed only in :nth-child() and :nth-last-child()",
                ));
            }
            Some(at) => {
                let selectors = self.list(arguments.cut(at + 1..), Relative::No, depth + 1)?;
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

/// Selectors 4 § 3.6.3: the states that can stand after a pseudo-element are what a user does with it, and
/// combinations of these. A part takes all that do not ask where it is (Shadow Parts 1 § 3.1).
fn is_state(
    lower: &str,
    class: &PseudoClass,
    element: Option<&PseudoElement>,
    of_part: bool,
) -> bool {
    if matches!(
        lower,
        "hover" | "active" | "focus" | "focus-visible" | "focus-within"
    ) {
        return true;
    }
    let place = matches!(
        lower,
        "root"
            | "empty"
            | "first-child"
            | "last-child"
            | "only-child"
            | "first-of-type"
            | "last-of-type"
            | "only-of-type"
            | "has"
    ) || lower.starts_with("nth-");
    if let Some(PseudoElement::Other(name)) = element {
        let own = name.starts_with("view-transition") && lower == "only-child"
            || name.starts_with("details-content")
            || name.starts_with("-webkit-");
        if own {
            return true;
        }
    }
    if of_part && element.is_none() && !place {
        return true;
    }
    let list = match class {
        PseudoClass::Is(list) | PseudoClass::Where(list) | PseudoClass::Not(list) if !place => list,
        _ => return false,
    };
    let inside = list.selectors.iter().flat_map(|s| &s.compounds);
    let mut simples = inside.flat_map(|(_, compound)| &compound.simples);
    simples.all(|(simple, _)| match simple {
        Simple::PseudoClass(class) => {
            let lower = match class {
                PseudoClass::Action(action) => names::of_action(*action),
                _ => "",
            };
            is_state(lower, class, element, of_part)
        }
        _ => false,
    })
}

/// Whether an element, or a pseudo-element, can have a pseudo-element of this name (Pseudo 4 § 4: generated
/// content can have a marker; § 3.7: what `<details>` holds is like an element).
fn can_have(outer: Option<&PseudoElement>, name: &str) -> bool {
    match outer {
        None => true,
        Some(PseudoElement::Before | PseudoElement::After) => name == "marker",
        Some(PseudoElement::Other(outer)) => {
            &**outer == "details-content" && matches!(name, "before" | "after")
        }
    }
}
