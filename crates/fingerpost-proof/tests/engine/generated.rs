//! Pages made for a sheet: for each of its selectors elements that it matches, so that nearly every rule
//! has something to say.

use std::fmt::Write;

use fingerpost::selector::{
    AttributeOperator, Combinator, Compound, FormState, PseudoClass, Selector, SelectorList, Simple,
};
use fingerpost::sheet::{RuleKind, Sheet};
use fingerpost::text::Text;

/// Elements that a page of elements can't just hold, or that load something.
const LEFT_OUT: [&str; 18] = [
    "html", "head", "body", "title", "meta", "link", "style", "script", "base", "iframe", "object",
    "embed", "frame", "frameset", "noscript", "template", "dialog", "noframes",
];

const VOID: [&str; 8] = ["area", "br", "col", "hr", "img", "input", "source", "wbr"];

/// One element of a chain.
#[derive(Default)]
struct Made {
    tag: String,
    attributes: Vec<(String, String)>,
    classes: Vec<String>,
}

/// A page that links a sheet and holds elements for up to so many of its selectors, spread over the sheet.
pub fn page(sheet_name: &str, css: &str, most: usize) -> String {
    let text = Text::new(sheet_name, css);
    let span = text.span();
    let sheet = Sheet::parse(text, span);
    let mut selectors: Vec<Selector> = Vec::new();
    for (_, rule) in sheet
        .rules()
        .filter(|(_, rule)| rule.kind == RuleKind::Style && rule.parent.is_none())
    {
        if let Ok(list) = SelectorList::parse(sheet.prelude_source(rule)) {
            selectors.extend(list.selectors);
        }
    }
    let step = selectors.len().div_ceil(most).max(1);
    let mut body = String::new();
    for selector in selectors.iter().step_by(step) {
        if let Some(chain) = chain(selector) {
            write_chain(&chain, &mut body);
        }
    }
    format!(
        "<!doctype html>\n<html lang=en>\n<head><meta charset=utf-8><title>Made for {sheet_name}</title>\n\
         <link rel=stylesheet href={sheet_name}>\n\
         <!-- An animation that runs is told by the engine and not by us. -->\n\
         <style>*, ::before, ::after {{ animation-delay: 10000s !important; animation-fill-mode: none !important }}</style></head>\n<body>\n{body}</body>\n</html>\n"
    )
}

/// The elements that a selector needs, outermost first, each with how it depends on the one before.
fn chain(selector: &Selector) -> Option<Vec<(Combinator, Made)>> {
    let mut made = Vec::new();
    for (combinator, compound) in &selector.compounds {
        let mut element = Made::default();
        read(compound, &mut element);
        let is_root = matches!(element.tag.as_str(), "html" | "body")
            || compound.simples.iter().any(|(s, _)| {
                matches!(
                    s,
                    Simple::PseudoClass(
                        PseudoClass::Root | PseudoClass::Host(_) | PseudoClass::Has(_)
                    )
                )
            });
        if is_root {
            // The page has it anyway, without its classes.
            if !element.classes.is_empty() {
                return None;
            }
            continue;
        }
        if LEFT_OUT.contains(&element.tag.as_str()) {
            return None;
        }
        if element.tag.is_empty() {
            "div".clone_into(&mut element.tag);
        }
        made.push((combinator.unwrap_or(Combinator::Descendant), element));
    }
    (!made.is_empty()).then_some(made)
}

fn read(compound: &Compound, made: &mut Made) {
    for (simple, _) in &compound.simples {
        match simple {
            Simple::Type { lower, .. } => made.tag = lower.to_string(),
            Simple::Id(id) => made.attributes.push(("id".to_owned(), id.to_string())),
            Simple::Class(class) => made.classes.push(class.to_string()),
            Simple::Attribute(attribute) => {
                let value = match attribute.operator {
                    AttributeOperator::Present => String::new(),
                    _ => attribute.value.to_string(),
                };
                match &*attribute.lower {
                    "class" => made.classes.push(value),
                    name => made.attributes.push((name.to_owned(), value)),
                }
            }
            Simple::PseudoClass(PseudoClass::Is(list) | PseudoClass::Where(list)) => {
                if let Some(first) = list.selectors.first() {
                    read(first.subject(), made);
                }
            }
            Simple::PseudoClass(PseudoClass::Link { .. }) => {
                made.attributes
                    .push(("href".to_owned(), "x.html".to_owned()));
            }
            Simple::PseudoClass(PseudoClass::Form(FormState::Checked)) => {
                made.attributes.push(("checked".to_owned(), String::new()));
            }
            Simple::PseudoClass(PseudoClass::Form(FormState::Disabled)) => {
                made.attributes.push(("disabled".to_owned(), String::new()));
            }
            _ => {}
        }
    }
}

/// What must be around an element for the parser to keep it.
fn around(tag: &str, parent: Option<&str>) -> &'static [&'static str] {
    let parent = parent.unwrap_or("");
    match tag {
        "td" | "th" if parent == "tr" => &[],
        "td" | "th" if matches!(parent, "thead" | "tbody" | "tfoot") => &["tr"],
        "td" | "th" if parent == "table" => &["tbody", "tr"],
        "td" | "th" => &["table", "tbody", "tr"],
        "tr" if matches!(parent, "thead" | "tbody" | "tfoot") => &[],
        "tr" if parent == "table" => &["tbody"],
        "tr" => &["table", "tbody"],
        "thead" | "tbody" | "tfoot" | "caption" | "colgroup" if parent != "table" => &["table"],
        "col" if parent != "colgroup" => &["table", "colgroup"],
        "option" | "optgroup" if !matches!(parent, "select" | "optgroup" | "datalist") => {
            &["select"]
        }
        _ => &[],
    }
}

fn write_chain(chain: &[(Combinator, Made)], out: &mut String) {
    let mut open: Vec<String> = Vec::new();
    for (at, (_, element)) in chain.iter().enumerate() {
        let parent = open.last().map(String::as_str);
        for tag in around(&element.tag, parent) {
            let _ = write!(out, "<{tag}>");
            open.push((*tag).to_owned());
        }
        let _ = write!(out, "<{}", element.tag);
        if !element.classes.is_empty() {
            let _ = write!(out, " class=\"{}\"", escaped(&element.classes.join(" ")));
        }
        let mut seen: Vec<&str> = Vec::new();
        for (name, value) in &element.attributes {
            let plain = name
                .chars()
                .all(|c| c.is_ascii_alphanumeric() || c == '-' || c == '_');
            if plain
                && !seen.contains(&name.as_str())
                && !matches!(name.as_str(), "style" | "src" | "onclick")
            {
                seen.push(name);
                let _ = write!(out, " {name}=\"{}\"", escaped(value));
            }
        }
        out.push('>');
        let next = chain.get(at + 1).map(|(combinator, _)| *combinator);
        let beside = matches!(
            next,
            Some(Combinator::NextSibling | Combinator::SubsequentSibling)
        );
        if VOID.contains(&element.tag.as_str()) {
            if next.is_some() && !beside {
                break;
            }
        } else if beside {
            let _ = write!(out, "x</{}>", element.tag);
        } else {
            open.push(element.tag.clone());
        }
    }
    out.push('x');
    for tag in open.iter().rev() {
        let _ = write!(out, "</{tag}>");
    }
    out.push('\n');
}

fn escaped(value: &str) -> String {
    value
        .replace('&', "&amp;")
        .replace('"', "&quot;")
        .replace('<', "&lt;")
}
