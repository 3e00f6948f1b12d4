//! Attribute selectors (Selectors 4 § 6).

use super::parse::{Reader, SelectorError, error, inside};
use super::{AttributeOperator, AttributeSelector, CaseRule, NamespaceTest};
use crate::sheet::{Token, TokenKind, cover};
use crate::text::Cut;

impl Reader<'_> {
    /// How an attribute is compared.
    fn operator(&self, token: Token) -> Option<AttributeOperator> {
        Some(match token.kind {
            TokenKind::Includes => AttributeOperator::Includes,
            TokenKind::DashMatch => AttributeOperator::DashMatch,
            TokenKind::PrefixMatch => AttributeOperator::Prefix,
            TokenKind::SuffixMatch => AttributeOperator::Suffix,
            TokenKind::SubstringMatch => AttributeOperator::Substring,
            TokenKind::Delim if token.is_delim(self.source, '=') => AttributeOperator::Equals,
            _ => return None,
        })
    }

    pub(super) fn attribute(&self, tokens: &[Token]) -> Result<AttributeSelector, SelectorError> {
        let whole = cover(tokens);
        let bad = || {
            error(
                whole,
                format!(
                    "'{}' is not an attribute selector; expected [name], [name=value] or \
                     [name=\"value\" i]",
                    self.source.cut(whole)
                ),
            )
        };
        // Syntax 3 § 5.4.8: what is open at the end of the input ends there.
        let held = match tokens.last().map(|t| t.kind) {
            Some(TokenKind::CloseSquare) => inside(tokens),
            _ => tokens.get(1..).unwrap_or_default(),
        };
        let mut rest: Vec<Token> = held
            .iter()
            .copied()
            .filter(|t| !t.kind.is_blank())
            .collect();
        // `[*|a]`, `[|a]` and `[prefix|a]`.
        let mut namespace = NamespaceTest::None;
        let bar =
            |at: usize, rest: &[Token]| rest.get(at).is_some_and(|t| t.is_delim(self.source, '|'));
        if bar(0, &rest) {
            rest.remove(0);
        } else if bar(1, &rest) {
            namespace = match rest.first() {
                Some(prefix) if prefix.kind == TokenKind::Ident => self.prefixed(*prefix)?,
                Some(star) if star.is_delim(self.source, '*') => NamespaceTest::Any,
                _ => return Err(bad()),
            };
            rest.drain(..2);
        }
        let [name, rest @ ..] = &rest[..] else {
            return Err(bad());
        };
        if name.kind != TokenKind::Ident {
            return Err(bad());
        }
        let written = name.name(self.source);
        let mut selector = AttributeSelector {
            lower: written.to_ascii_lowercase().into(),
            name: written.into(),
            namespace,
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
        selector.operator = self.operator(*operator).ok_or_else(bad)?;
        selector.value = match value.kind {
            TokenKind::Ident => value.name(self.source).into(),
            TokenKind::Text => value.string(self.source).into(),
            _ => return Err(bad()),
        };
        selector.case = match flags {
            [] => CaseRule::ByLanguage,
            [flag] if flag.kind == TokenKind::Ident && flag.is_name(self.source, "i") => {
                CaseRule::Insensitive
            }
            [flag] if flag.kind == TokenKind::Ident && flag.is_name(self.source, "s") => {
                CaseRule::Sensitive
            }
            _ => return Err(bad()),
        };
        Ok(selector)
    }
}
