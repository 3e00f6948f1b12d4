//! Selectors as text: CSSOM § 4.1, "serialize a group of selectors".
//!
//! What is printed and parsed again is the same selector. The prefix of a namespace is not kept by a
//! parsed selector, so that one in a namespace prints only what needs no `@namespace` rule.

use std::fmt::{self, Display, Formatter};

use cssparser::{serialize_identifier, serialize_string};

use super::{
    AttributeOperator, AttributeSelector, CaseRule, Combinator, Compound, NamespaceTest, Nth,
    PseudoClass, Selector, SelectorList, Simple, TreeCrossing, names,
};

/// A name as it is written in a selector, with the escapes that it needs (CSSOM § 2.1, "serialize an identifier").
pub(crate) fn escaped(name: &str) -> String {
    let mut written = String::new();
    // A string takes all that is written to it.
    let _ = serialize_identifier(name, &mut written);
    written
}

impl Display for SelectorList {
    fn fmt(&self, f: &mut Formatter<'_>) -> fmt::Result {
        for (at, selector) in self.selectors.iter().enumerate() {
            if at > 0 {
                f.write_str(", ")?;
            }
            selector.fmt(f)?;
        }
        Ok(())
    }
}

impl Display for Selector {
    fn fmt(&self, f: &mut Formatter<'_>) -> fmt::Result {
        let mut begun = false;
        for (combinator, compound) in &self.compounds {
            let implied = compound.span.is_empty() && is_base(compound);
            match combinator {
                Some(Combinator::Descendant) if begun => f.write_str(" ")?,
                Some(Combinator::Descendant) | None => {}
                Some(other) => {
                    let sign = match other {
                        Combinator::NextSibling => "+",
                        Combinator::SubsequentSibling => "~",
                        _ => ">",
                    };
                    let gap = if begun { " " } else { "" };
                    write!(f, "{gap}{sign} ")?;
                }
            }
            // The `&` that a nested selector implies is not written.
            if !implied {
                compound.fmt(f)?;
                begun = true;
            }
        }
        match &self.through {
            Some(TreeCrossing::Slotted(list)) => write!(f, "::slotted({list})")?,
            Some(TreeCrossing::Part { names, states }) => {
                f.write_str("::part(")?;
                for (at, name) in names.iter().enumerate() {
                    f.write_str(if at > 0 { " " } else { "" })?;
                    serialize_identifier(name, f)?;
                }
                f.write_str(")")?;
                for state in states {
                    state.fmt(f)?;
                }
            }
            None => {}
        }
        match &self.pseudo_element {
            Some(element) => element.fmt(f),
            None => Ok(()),
        }
    }
}

/// Whether a compound is only `&` or `:scope`.
fn is_base(compound: &Compound) -> bool {
    matches!(
        compound.simples[..],
        [(
            Simple::PseudoClass(PseudoClass::Nesting(_) | PseudoClass::Scope),
            _
        )]
    )
}

impl Display for Compound {
    fn fmt(&self, f: &mut Formatter<'_>) -> fmt::Result {
        for (at, (simple, _)) in self.simples.iter().enumerate() {
            // `*` is its own source only where nothing else does.
            let is_needless = *simple == Simple::Universal && at == 0 && self.simples.len() > 1;
            if !is_needless {
                simple.fmt(f)?;
            }
        }
        Ok(())
    }
}

impl Display for Simple {
    fn fmt(&self, f: &mut Formatter<'_>) -> fmt::Result {
        match self {
            Simple::Universal => f.write_str("*"),
            Simple::Type { name, .. } => serialize_identifier(name, f),
            Simple::Id(name) => {
                f.write_str("#")?;
                serialize_identifier(name, f)
            }
            Simple::Class(name) => {
                f.write_str(".")?;
                serialize_identifier(name, f)
            }
            Simple::Attribute(attribute) => attribute.fmt(f),
            Simple::PseudoClass(class) => class.fmt(f),
            Simple::Namespace(NamespaceTest::Any) => f.write_str("*|"),
            Simple::Namespace(NamespaceTest::None) => f.write_str("|"),
            Simple::Namespace(_) => Ok(()),
        }
    }
}

impl Display for AttributeSelector {
    fn fmt(&self, f: &mut Formatter<'_>) -> fmt::Result {
        f.write_str("[")?;
        if self.namespace == NamespaceTest::Any {
            f.write_str("*|")?;
        }
        serialize_identifier(&self.name, f)?;
        let operator = match self.operator {
            AttributeOperator::Present => return f.write_str("]"),
            AttributeOperator::Equals => "=",
            AttributeOperator::Includes => "~=",
            AttributeOperator::DashMatch => "|=",
            AttributeOperator::Prefix => "^=",
            AttributeOperator::Suffix => "$=",
            AttributeOperator::Substring => "*=",
        };
        f.write_str(operator)?;
        if is_plain(&self.value) {
            f.write_str(&self.value)?;
        } else {
            serialize_string(&self.value, f)?;
        }
        f.write_str(match self.case {
            CaseRule::ByLanguage => "]",
            CaseRule::Insensitive => " i]",
            CaseRule::Sensitive => " s]",
        })
    }
}

/// Whether a value is an identifier that needs no escapes: people write those without quotes.
fn is_plain(value: &str) -> bool {
    let rest = |c: char| c.is_ascii_alphanumeric() || c == '-' || c == '_';
    value.starts_with(|c: char| c.is_ascii_alphabetic() || c == '_') && value.chars().all(rest)
}

impl Display for PseudoClass {
    fn fmt(&self, f: &mut Formatter<'_>) -> fmt::Result {
        match self {
            PseudoClass::Root => f.write_str(":root"),
            PseudoClass::Empty => f.write_str(":empty"),
            PseudoClass::Link { any: false } => f.write_str(":link"),
            PseudoClass::Link { any: true } => f.write_str(":any-link"),
            PseudoClass::Scope => f.write_str(":scope"),
            PseudoClass::Defined => f.write_str(":defined"),
            PseudoClass::Nth(nth) => nth.fmt(f),
            PseudoClass::Is(list) => match names::only(list) {
                Some(name) => write!(f, ":{name}"),
                None => write!(f, ":is({list})"),
            },
            PseudoClass::Where(list) => write!(f, ":where({list})"),
            PseudoClass::Not(list) => write!(f, ":not({list})"),
            PseudoClass::Has(list) => write!(f, ":has({list})"),
            PseudoClass::Host(None) => f.write_str(":host"),
            PseudoClass::Host(Some(list)) => write!(f, ":host({list})"),
            PseudoClass::HostContext(list) => write!(f, ":host-context({list})"),
            PseudoClass::Nesting(_) => f.write_str("&"),
            PseudoClass::Lang(ranges) => {
                f.write_str(":lang(")?;
                for (at, range) in ranges.iter().enumerate() {
                    f.write_str(if at > 0 { ", " } else { "" })?;
                    serialize_string(range, f)?;
                }
                f.write_str(")")
            }
            PseudoClass::Dir { rtl } => {
                write!(f, ":dir({})", if *rtl { "rtl" } else { "ltr" })
            }
            PseudoClass::Action(action) => write!(f, ":{}", names::of_action(*action)),
            PseudoClass::Form(state) => write!(f, ":{}", names::of_form(*state)),
            PseudoClass::NotYet(source) => f.write_str(source),
        }
    }
}

impl Display for Nth {
    fn fmt(&self, f: &mut Formatter<'_>) -> fmt::Result {
        let end = if self.from_end { "last-" } else { "" };
        let kind = if self.of_type { "of-type" } else { "child" };
        if (self.step, self.offset) == (0, 1) && self.of.is_none() {
            let end = if self.from_end { "last-" } else { "first-" };
            return write!(f, ":{end}{kind}");
        }
        write!(f, ":nth-{end}{kind}(")?;
        match (self.step, self.offset) {
            (0, offset) => write!(f, "{offset}")?,
            (step, offset) => {
                match step {
                    1 => f.write_str("n")?,
                    -1 => f.write_str("-n")?,
                    step => write!(f, "{step}n")?,
                }
                if offset != 0 {
                    write!(f, "{offset:+}")?;
                }
            }
        }
        if let Some(of) = &self.of {
            write!(f, " of {of}")?;
        }
        f.write_str(")")
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn printed(source: &str) -> String {
        SelectorList::parse(source).unwrap().to_string()
    }

    #[test]
    fn selectors_print_as_the_standard_serialises_them() {
        for (source, wanted) in [
            ("a , B>c  ~ d+e", "a, B > c ~ d + e"),
            ("*.x", ".x"),
            ("* > *", "* > *"),
            (r"#\31 0.w-1\/2", r"#\31 0.w-1\/2"),
            (
                "button[aria-label='Save, then close']::before",
                "button[aria-label=\"Save, then close\"]::before",
            ),
            ("[a='b' i][c][d^=\"x y\"]", "[a=b i][c][d^=\"x y\"]"),
            (":nth-child(2n + 1 of .a, b)", ":nth-child(2n+1 of .a, b)"),
            (":nth-last-of-type(-n+3)", ":nth-last-of-type(-n+3)"),
            (":only-child:first-of-type", ":only-child:first-of-type"),
            (
                "a:not(.b,:is(c d)):hover:checked",
                "a:not(.b, :is(c d)):hover:checked",
            ),
            ("x:has(> y, + z)", "x:has(> y, + z)"),
            ("a:before", "a::before"),
            ("::slotted(.a)::after", "::slotted(.a)::after"),
            (
                ":host(.a) b::part(c d):hover",
                ":host(.a) b::part(c d):hover",
            ),
            // What is kept as text prints as what was read: names escaped, case kept where it counts,
            // and what the end of the text left open closed.
            (r"::-webkit-a\ b", r"::-webkit-a\ b"),
            (r"::mar\6b er", "::marker"),
            ("::highlight(Fares", "::highlight(Fares)"),
            (r"::HIGHLIGHT( a\ b )", r"::highlight(a\ b)"),
            ("::cue(b, i[lang='", "::cue(b, i[lang=\"\"])"),
            (
                "::view-transition-old(*.A/**/)",
                "::view-transition-old(*.A)",
            ),
            (r"::before:h\6fver", "::before:hover"),
            ("::after:not( :hover", "::after:not(:hover)"),
            (r":fut\75re:state( a\.b", r":future:state(a\.b)"),
            (":current(a,b", ":current(a, b)"),
            (r":dir(up\ down", r":dir(up\ down)"),
        ] {
            assert_eq!(printed(source), wanted, "{source}");
            assert_eq!(printed(&printed(source)), wanted, "{source}");
        }
    }

    fn name() -> impl Strategy<Value = String> {
        "[a-z0-9é:.,/ \"'\\\\_-]{1,6}"
    }

    fn compound() -> impl Strategy<Value = String> {
        let quoted = |name: String| {
            cssparser::ToCss::to_css_string(&cssparser::Token::QuotedString(name.into()))
        };
        prop_oneof![
            name().prop_map(move |n| format!(".{}", escaped(&n))),
            name().prop_map(move |n| format!("#{}", escaped(&n))),
            (name(), name()).prop_map(move |(a, b)| format!("[{}~={}]", escaped(&a), quoted(b))),
            Just("em".to_owned()),
            Just("*".to_owned()),
            Just(":nth-last-child(3n-2)".to_owned()),
            Just(":where(.a > b):focus-within".to_owned()),
        ]
    }

    proptest! {
        /// What is printed and parsed again prints the same and weighs the same.
        #[test]
        fn printed_and_parsed_is_the_same(
            parts in proptest::collection::vec((compound(), 0usize..4), 1..5)
        ) {
            let mut source = String::new();
            for (at, (compound, combinator)) in parts.iter().enumerate() {
                if at > 0 {
                    source.push_str([" ", " > ", " + ", " ~ "][*combinator]);
                }
                source.push_str(compound);
            }
            let list = SelectorList::parse(&source).unwrap();
            let again = SelectorList::parse(&list.to_string()).unwrap();
            prop_assert_eq!(again.specificity(), list.specificity());
            prop_assert_eq!(again.to_string(), list.to_string());
            // All but the spans.
            let spans = regex::Regex::new(r"\d+\.\.\d+").unwrap();
            let plain = |list: &SelectorList| {
                let all = format!("{list:?}");
                spans.replace_all(&all, "").into_owned()
            };
            prop_assert_eq!(plain(&again), plain(&list));
        }
    }
}
