//! Namespaces of selectors: Namespaces 3.

use crate::markup::Namespace;
use crate::sheet::{AtRule, Item, RuleKind, Sheet, TokenKind};

/// What a selector asks of a namespace.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum NamespaceTest {
    /// `*|`: any, or none.
    Any,
    /// `|`: none.
    None,
    /// One that elements of a page can be in.
    Only(Namespace),
    /// One that nothing in a page is in.
    Never,
}

impl NamespaceTest {
    /// The test for the namespace of a URL.
    pub(super) fn of(url: &str) -> NamespaceTest {
        match url {
            "" => NamespaceTest::None,
            "http://www.w3.org/1999/xhtml" => NamespaceTest::Only(Namespace::Html),
            "http://www.w3.org/2000/svg" => NamespaceTest::Only(Namespace::Svg),
            "http://www.w3.org/1998/Math/MathML" => NamespaceTest::Only(Namespace::MathMl),
            "http://www.w3.org/1999/xlink"
            | "http://www.w3.org/XML/1998/namespace"
            | "http://www.w3.org/2000/xmlns/" => NamespaceTest::Only(Namespace::Foreign),
            _ => NamespaceTest::Never,
        }
    }

    /// Whether it takes a namespace.
    pub fn takes(self, namespace: Namespace) -> bool {
        match self {
            NamespaceTest::Any => true,
            NamespaceTest::None => namespace == Namespace::None,
            NamespaceTest::Only(wanted) => namespace == wanted,
            NamespaceTest::Never => false,
        }
    }
}

/// The `@namespace` rules of a sheet.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Namespaces {
    default: Option<Box<str>>,
    prefixes: Vec<(Box<str>, Box<str>)>,
}

impl Namespaces {
    /// Reads a sheet's rules. § 2: they count only before all rules but `@charset` and `@import`.
    pub fn of(sheet: &Sheet) -> Self {
        let mut found = Namespaces::default();
        for item in sheet.top() {
            let Item::Rule(id) = item else { continue };
            let rule = sheet.rule(*id);
            match &rule.kind {
                RuleKind::At(AtRule::Namespace) => found.read(sheet, *id),
                RuleKind::At(AtRule::Charset | AtRule::Import | AtRule::Layer) => {}
                _ => break,
            }
        }
        found
    }

    fn read(&mut self, sheet: &Sheet, id: crate::sheet::RuleId) {
        let source = sheet.text().source();
        let tokens = sheet.prelude_tokens(sheet.rule(id));
        let words: Vec<_> = tokens.iter().filter(|t| !t.kind.is_blank()).collect();
        let (prefix, rest) = match words[..] {
            [name, ref rest @ ..] if name.kind == TokenKind::Ident => {
                (Some(name.name(source)), rest)
            }
            ref rest => (None, rest),
        };
        let url: Box<str> = match rest {
            [url] if matches!(url.kind, TokenKind::Text | TokenKind::Url) => {
                url.string(source).into()
            }
            [function, url, ..]
                if function.kind == TokenKind::Function && url.kind == TokenKind::Text =>
            {
                url.string(source).into()
            }
            _ => return,
        };
        match prefix {
            None => self.default = Some(url),
            Some(prefix) => self.prefixes.push((prefix.into(), url)),
        }
    }

    pub(super) fn default_url(&self) -> Option<&str> {
        self.default.as_deref()
    }

    pub(super) fn of_prefix(&self, prefix: &str) -> Option<&str> {
        let mut all = self.prefixes.iter().rev();
        all.find(|(name, _)| **name == *prefix)
            .map(|(_, url)| &**url)
    }
}
